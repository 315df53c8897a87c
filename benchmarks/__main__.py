"""``python -m benchmarks [circuits night start …] [--record]`` prints every measure, each group in a process of its own.

So none is warmed by another. Beside them stands the machine's own speed (a fixed loop), so that runs of other days and machines compare;
``--record`` writes all of it to ``benchmarks/results.md``.
"""

from __future__ import annotations

import importlib
import os
import subprocess
import sys
import tempfile
import time
from datetime import date
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
GROUPS = ("circuits", "wiring", "looms", "light", "start", "night", "effects", "workshop", "shells", "round", "large")
RESULTS = Path(__file__).with_name("results.md")


def machine_ms() -> float:
    """Milliseconds of a fixed loop, the median of nine: half plain Python, half a product of matrices."""
    import numpy as np

    a = np.random.default_rng(1).random((400, 400))
    took = []
    for _ in range(9):
        start = time.perf_counter()
        total = 0
        for i in range(300_000):
            total += i * i % 7
        for _ in range(4):
            a @ a
        took.append((time.perf_counter() - start) * 1e3)
    return sorted(took)[4]


def run_here(name: str) -> None:
    """One group, in this process."""
    os.environ["XDG_STATE_HOME"] = os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()
    from gwiazda.desktop.shell.application import make_application

    application = make_application()
    application.setProperty("keep", True)
    importlib.import_module(f"benchmarks.{name}").run(lambda text: print(text, flush=True))


def main(arguments: list[str]) -> int:
    """Run the groups asked for, or all of them."""
    if arguments[:1] == ["--here"]:
        run_here(arguments[1])
        return 0
    record = "--record" in arguments
    names = [a for a in arguments if a != "--record"] or list(GROUPS)
    unknown = [name for name in names if name not in GROUPS]
    if unknown:
        print(f"There is no group “{unknown[0]}”. There are {', '.join(GROUPS)}.", file=sys.stderr)
        return 2
    speed = machine_ms()
    print(f"the machine's own speed: {speed:.0f} ms for a fixed loop, {os.cpu_count()} processors", flush=True)
    said: list[str] = []
    failed = 0
    for name in names:
        process = subprocess.Popen(
            [sys.executable, "-m", "benchmarks", "--here", name], stdout=subprocess.PIPE, text=True
        )
        assert process.stdout is not None
        said += ["", f"## {name}", ""]
        for line in process.stdout:
            print(line, end="", flush=True)
            said.append(f"- {line.strip()}")
        failed |= process.wait()
    if record:
        head = f"# Measured on {date.today():%Y-%m-%d}\n\nThe machine: {speed:.0f} ms for the fixed loop, {os.cpu_count()} processors."
        RESULTS.write_text(head + "\n" + "\n".join(said) + "\n")
    return failed


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
