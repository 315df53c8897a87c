"""The application as a process: in a real window under Xvfb, killed and started again; and a soak of the bindings."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

SMOKE = """
import sys
from PySide6.QtCore import QTimer, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication
import gwiazda.desktop.shell.application as application
from gwiazda.desktop.shell import window as module

def act():
    window = next(w for w in QApplication.topLevelWidgets() if isinstance(w, module.MainWindow))
    plate = window.plate
    if window.document.plan.kit.name != "Szron" or plate.night.image is None or not window.inspector.idle:
        QTimer.singleShot(100, act)
        return
    lamp = next(l for l in window.document.plan.lamps if l.id == "deck1.lamp.03")
    at = plate.extent.to_px(-lamp.at[0], -lamp.at[2]).toPoint()
    plate.set_wipe(1.0)
    QTest.mouseClick(plate, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
    QTest.keyClick(plate, Qt.Key.Key_Right)
    print("platform", QApplication.platformName())
    print("picked", window.document.selection, window.document.undo_label)
    window.screen().grabWindow(window.winId()).save(sys.argv[1])
    window.close()

QTimer.singleShot(0, lambda: None)
original = application.make_application
def made(*a):
    app = original(*a)
    QTimer.singleShot(500, act)
    return app
application.make_application = made
from gwiazda.cli import main
sys.argv = sys.argv[:2]
raise SystemExit(main(["demo"]))
"""


@pytest.mark.window
@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed; make test installs or names it")
def test_smoke_in_a_real_window(tmp_path):
    shot = tmp_path / "shot.png"
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=(write,), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(write)
    try:
        number = os.read(read, 16).decode().strip()
        environment = {**os.environ, "DISPLAY": f":{number}", "QT_QPA_PLATFORM": "xcb"}
        done = subprocess.run(
            [sys.executable, "-c", SMOKE, str(shot)],
            env=environment,
            capture_output=True,
            text=True,
            timeout=120,
            check=False,
        )
    finally:
        os.close(read)
        server.terminate()
        server.wait()
    assert done.returncode == 0, done.stderr
    assert "platform xcb" in done.stdout
    assert "picked ('deck1.lamp.03',) Nudge" in done.stdout
    from PySide6.QtGui import QImage

    image = QImage(str(shot))
    colours = {image.pixel(x, y) for x in range(0, image.width(), 40) for y in range(0, image.height(), 40)}
    assert image.width() >= 960 and len(colours) > 10, "the window shows something"


KILLED = """
import os, sys
from gwiazda.desktop.shell.application import make_application
from gwiazda.desktop.shell.window import MainWindow
from gwiazda.core.plan import edits
make_application()
window = MainWindow()
window.document.open(sys.argv[1])
window.document.edit("Rename kit", lambda p: edits.set_kit(p, name="Before the kill"))
window.files.autosave_now()
os.kill(os.getpid(), 9)
"""


def test_a_killed_session_is_offered_again(tmp_path, monkeypatch):
    path = tmp_path / "a.gwiazda"
    path.write_bytes(path_of().read_bytes())
    before = path.read_bytes()
    done = subprocess.run([sys.executable, "-c", KILLED, str(path)], capture_output=True, timeout=120, check=False)
    assert done.returncode == -9, done.stderr
    from gwiazda.desktop.shell import autosave

    assert autosave.waiting(path)[1].plan.kit.name == "Before the kill"
    assert path.read_bytes() == before and load(path).plan.kit.name == "Szron"


SOAK = """
import sys
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QColor
from PySide6.QtWidgets import QApplication, QGraphicsScene, QLabel, QLineEdit, QWidget
app = QApplication([])
scene, label, edit, widget = QGraphicsScene(), QLabel(), QLineEdit(), QWidget()
image = QImage(64, 64, QImage.Format.Format_RGB32)
painter = QPainter(image)
item = scene.addRect(0, 0, 10, 10)
before = sys.getrefcount(None)
for i in range(5000):
    label.setText("x")
    edit.setText("y")
    widget.setToolTip("z")
    widget.update()
    item.setPos(i % 50, 3)
    item.setRect(QRectF(0, 0, 5, 5))
    painter.setPen(QPen(QColor(1, 2, 3)))
    painter.drawLine(QPointF(0, 0), QPointF(9, 9))
    scene.itemAt(QPointF(1000, 1000), item.transform())
    widget.setEnabled(True)
painter.end()
after = sys.getrefcount(None)
print(before, after, flush=True)
sys.exit(0 if after > before - 500 else 3)
"""


def test_fifty_thousand_calls_leave_none_alone():
    """Guards against a release of the bindings that takes a reference from None on every call and then aborts."""
    done = subprocess.run([sys.executable, "-c", SOAK], capture_output=True, text=True, timeout=300, check=False)
    assert done.returncode == 0, f"{done.stdout} {done.stderr[-500:]}"


def test_pinned_bindings():
    import PySide6

    assert PySide6.__version__.startswith("6.11."), "6.12.0 corrupts None's reference count on Python 3.11"
    lock = (Path(__file__).parents[3] / "requirements.lock").read_text()
    assert "pyside6-essentials==6.11." in lock and "--hash=sha256:" in lock


def test_many_starts_while_the_kernel_loads(tmp_path):
    """The compiled kernel is imported on a thread beside the window; that has to go well every time."""
    code = (
        "import sys\n"
        "from PySide6.QtCore import QTimer\n"
        "from gwiazda.desktop.shell.application import make_application\n"
        "from gwiazda.desktop.shell.window import MainWindow\n"
        "from gwiazda.core.render import night\n"
        "app = make_application()\n"
        "window = MainWindow()\n"
        "window.document.open(sys.argv[1], as_demo=True)\n"
        "window.show()\n"
        "window.plate.night.load_kernel_later()\n"
        "def tick():\n"
        "    window.plate.zoom(1.01)\n"
        "    if night.kernel_loaded() and window.plate.night.image is not None: window.close()\n"
        "t = QTimer(); t.timeout.connect(tick); t.start(100)\n"
        "sys.exit(app.exec())\n"
    )
    for _ in range(2):
        done = subprocess.run(
            [sys.executable, "-c", code, str(path_of())], capture_output=True, text=True, timeout=180, check=False
        )
        assert done.returncode == 0, done.stderr[-800:]
