"""What the first picture waits for."""

from __future__ import annotations

import os
import subprocess
import sys

from gwiazda.demos import path_of

# What takes long to load, and what of our own nobody needs before something is asked of it.
LATER = (
    "scipy", "numba", "shapely", "networkx", "pyqtgraph", "PIL", "manifold3d", "icalendar", "pypdfium2", "svgelements",
    "urllib.request", "http.client", "ssl", "email", "calendar",
    "gwiazda.core.exchange", "gwiazda.core.workbench", "gwiazda.core.drawing", "gwiazda.core.quick", "gwiazda.core.starter",
)  # fmt: skip
CODE = """
import sys
from gwiazda.desktop.shell.application import make_application
from gwiazda.desktop.shell.window import MainWindow
application = make_application()
window = MainWindow()
window.document.open(sys.argv[1], as_demo=True)
window.show()
application.processEvents()
assert window.document.assessment.lamps
print(" ".join(m for m in sys.modules))
"""


def test_the_first_picture_waits_for_nothing_it_does_not_need(tmp_path):
    where = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "XDG_STATE_HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path)}  # fmt: skip
    done = subprocess.run([sys.executable, "-c", CODE, str(path_of())], capture_output=True, text=True, env=where, timeout=120, check=True)  # fmt: skip
    loaded = set(done.stdout.split())
    assert [m for m in LATER if m in loaded] == []
