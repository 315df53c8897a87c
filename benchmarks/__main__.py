"""``python -m benchmarks [circuits|night|start …]`` prints every measure."""

from __future__ import annotations

import importlib
import os
import sys
import tempfile

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()


def main(names: list[str]) -> None:
    from gwiazda.desktop.shell.application import make_application

    application = make_application()
    application.setProperty("keep", True)
    for name in names or [
        "circuits",
        "wiring",
        "looms",
        "light",
        "start",
        "night",
        "effects",
        "workshop",
        "shells",
        "round",
        "large",
    ]:
        importlib.import_module(f"benchmarks.{name}").run(lambda text: print(text, flush=True))


if __name__ == "__main__":
    main(sys.argv[1:])
