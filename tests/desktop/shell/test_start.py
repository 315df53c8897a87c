"""What the first picture waits for: ``first_picture.txt`` names each module of ours that it may load."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

from gwiazda.demos import path_of

# What takes long to load, and what of our own nobody needs before something is asked of it.
LATER = (
    "scipy", "numba", "shapely", "networkx", "pyqtgraph", "PIL", "manifold3d", "icalendar", "pypdfium2", "svgelements",
    "urllib.request", "http.client", "ssl", "email", "calendar",
    "gwiazda.core.exchange", "gwiazda.core.workbench", "gwiazda.core.drawing", "gwiazda.core.quick", "gwiazda.core.starter",
)  # fmt: skip
NAMED = Path(__file__).parent / "first_picture.txt"
CODE = """
import linecache, sys
from gwiazda.desktop.shell.application import make_application
from gwiazda.desktop.shell.window import MainWindow
application = make_application()
window = MainWindow()
window.document.open(sys.argv[1], as_demo=True)
window.show()
application.processEvents()
assert window.document.assessment.lamps
print(" ".join(m for m in sys.modules))
print(len([name for name in linecache.cache if "gwiazda" in name]))
"""


def test_the_first_picture_waits_for_nothing_it_does_not_need(tmp_path):
    where = {**os.environ, "QT_QPA_PLATFORM": "offscreen"} | dict.fromkeys(
        ("XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME"), str(tmp_path)
    )
    done = subprocess.run([sys.executable, "-c", CODE, str(path_of())], capture_output=True, text=True, env=where, timeout=120, check=True)  # fmt: skip
    modules, sources = done.stdout.strip().split("\n")
    loaded = set(modules.split())
    assert [m for m in LATER if m in loaded] == []
    ours = {m for m in loaded if m.split(".")[0] == "gwiazda"}
    named = set(NAMED.read_text(encoding="utf-8").split())
    new = sorted(ours - named)
    assert new == [], "loaded before the first picture: import it where it is used, or name it in first_picture.txt"
    assert named - ours == set(), "no longer loaded: take it out of first_picture.txt"
    assert int(sources) < 5  # Qt for Python reads no source of what is imported after it
