"""From the start of the process to the first painted frame, against the floor, and memory."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time

FLOOR = """
import sys, os
import numpy
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication(sys.argv)
class Window(QMainWindow):
    def paintEvent(self, event):
        super().paintEvent(event)
        os.write(1, b"painted\\n")
window = Window()
window.resize(1280, 800)
window.show()
app.exec()
"""
DEMO = """
import os, sys
os.environ["GWIAZDA_MARK_FIRST_FRAME"] = "1"
from gwiazda.cli import main
main(["demo"])
"""
MEMORY = """
import os, threading
def report():
    # Resident memory with the compiled kernel loaded and the night picture shown.
    rss = next(line for line in open("/proc/self/status") if line.startswith("VmRSS"))
    os.write(1, f"rss {rss.split()[1]}\\n".encode())
    os._exit(0)
threading.Timer(6.0, report).start()
from gwiazda.cli import main
main(["demo"])
"""


def _environment() -> dict[str, str]:
    folder = tempfile.mkdtemp()
    return {
        **os.environ,
        "QT_QPA_PLATFORM": "offscreen",
        "DISPLAY": ":none",
        "XDG_STATE_HOME": folder,
        "XDG_CONFIG_HOME": folder,
    }


def _until_line(arguments: list[str]) -> tuple[float, str]:
    start = time.perf_counter()
    process = subprocess.Popen(arguments, stdout=subprocess.PIPE, env=_environment())
    assert process.stdout is not None
    line = b""
    while not line.startswith((b"painted", b"rss", b"gwiazda")):
        line = process.stdout.readline()
        if not line:
            raise RuntimeError(f"{arguments[:2]} ended without a word")
    took = time.perf_counter() - start
    process.kill()
    process.wait()
    return took, line.decode()


def median_start(code: str, repeat: int = 7) -> float:
    return sorted(_until_line([sys.executable, "-c", code])[0] for _ in range(repeat))[repeat // 2]


def run(say) -> None:
    median_start(DEMO, 1)
    # In turns, so that a machine that slows down meanwhile slows both.
    pairs = [(median_start(FLOOR, 1), median_start(DEMO, 1)) for _ in range(9)]
    floor, demo = (sorted(column)[4] for column in zip(*pairs, strict=True))
    say(
        f"start to the first painted frame of the demo with its numbers: {demo * 1e3:.0f} ms, floor {floor * 1e3:.0f} ms"
    )
    ratios = sorted(b / a for a, b in pairs)
    say(f"  ratio {demo / floor:.2f} x (asked at most 2); of the nine pairs {ratios[0]:.2f} to {ratios[-1]:.2f}")
    version = sorted(_until_line([sys.executable, "-m", "gwiazda", "--version"])[0] for _ in range(7))[3]
    say(f"gwiazda --version: {version * 1e3:.0f} ms, {version / floor:.2f} x the floor (asked at most 0.3)")
    _, line = _until_line([sys.executable, "-c", MEMORY])
    say(f"memory of the demo window, kernel loaded: {int(line.split()[1]) / 1024:.0f} MB (asked under 280)")
