"""Random hands on the whole window: ``python -m soak [minutes] [seed]`` (``make soak MINUTES=10``).

Mouse, keys, fields, lists, buttons, mutated plans and texts, from a seed. Nothing may raise, and at every stop the plan
must save and load equal. What the process holds may not go on growing: by no more than 5 % in 1,000 actions, once all that is
kept on purpose is full.
"""

from __future__ import annotations

import json
import os
import random
import sys
import tempfile
import time
import traceback
from pathlib import Path

TEXTS = ["", " ", "0", "-1", "1e19", "1e-19", "nan", "inf", "1,5", "1.500", "10,000", "12 mm", "1/8 in", "3 inches", "2 m", "1:72", "9v", "470 OHM",
         "2k2Ω", "220E", "20 MA", "0.0001", "99999", "5 x 5", "4 x 0", "ring", "7; DROP", "“”", "𝔘", "a" * 300, "50 %", "150 %", "30 cd/m2", "2.4 mcd",
         "3, 4, 5", "../../x", "<b>x</b>", "%s%n", "\t", "½ mm"]  # fmt: skip
KEYS = ["Delete", "Slash", "Escape", "Return", "Left", "Right", "Up", "Down", "Tab", "Space", "Home", "End", "Backspace", "PageUp", "PageDown", "F1", "F2",
        *"ABCDEFGHIJKLMNOPRSTUVWXYZ0123456789"]  # fmt: skip
CTRL = "ACDGHILRVXYZ0123456789"


MOST_GROWTH = 0.05  # of the memory held, in 1,000 actions
LEAST_SAMPLES = 8  # below, a slope says nothing
EACH = 150  # actions from one demo opened to the next, where memory is looked at


def resident_mb() -> float:
    """Memory of this process, MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGESIZE") / 2**20


def growth(samples: list[tuple[int, float]]) -> float | None:
    """Share by which memory grows in 1,000 actions, by the line through the later two thirds of (actions, MB); None where these are too few."""
    later = samples[len(samples) // 3 :]
    if len(later) < LEAST_SAMPLES:
        return None
    count = len(later)
    x, y = (sum(column) / count for column in zip(*later, strict=True))
    slope = sum((a - x) * (b - y) for a, b in later) / sum((a - x) ** 2 for a, _ in later)
    return slope * 1000.0 / y


class Soak:
    """One pair of hands, from a seed."""

    def __init__(self, window, seed: int) -> None:
        self.window, self.rng = window, random.Random(seed)
        self.document, self.plate = window.document, window.plate
        self.folder = Path(tempfile.mkdtemp(prefix="gwiazda-soak-"))
        self.faults: list[str] = []
        self.done: list[str] = []
        self.slowest = (0.0, "")
        self.held: list[tuple[int, float]] = []  # after how many actions, how many MB
        self._without_dialogs()

    def _without_dialogs(self) -> None:
        """Dialogs would wait for another pair of hands: each is answered by a path or by closing it."""
        from PySide6.QtGui import QColor, QDesktopServices
        from PySide6.QtWidgets import QColorDialog, QFileDialog, QMenu

        path = lambda *_, **__: (self.rng.choice(["", str(self.folder / "soak.gwiazda")]), "")  # noqa: E731
        QFileDialog.getOpenFileName = path
        QFileDialog.getSaveFileName = path
        QColorDialog.getColor = lambda *_, **__: QColor(self.rng.choice(["", "#8a6f4d"]))
        QMenu.exec = lambda *_, **__: None
        QDesktopServices.openUrl = lambda *_: True

    # -- hands -------------------------------------------------------------------------------------------

    def _place(self):
        from PySide6.QtCore import QPoint

        return QPoint(self.rng.randrange(self.plate.width()), self.rng.randrange(self.plate.height()))

    def mouse(self) -> str:
        from PySide6.QtCore import QEvent, QPointF, Qt
        from PySide6.QtGui import QMouseEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        button = self.rng.choice([Qt.MouseButton.LeftButton] * 6 + [Qt.MouseButton.RightButton, Qt.MouseButton.MiddleButton])  # fmt: skip
        held = self.rng.choice([Qt.KeyboardModifier.NoModifier] * 4 + [Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier])  # fmt: skip
        start, end = self._place(), self._place()
        if button == Qt.MouseButton.RightButton:
            return "no menu"  # a menu waits for another pair of hands
        kind = self.rng.choice(["click", "click", "double", "drag", "drag"])
        if kind == "double":
            QTest.mouseDClick(self.plate, button, held, start)
            return f"double click {start}"
        QTest.mousePress(self.plate, button, held, start)
        if kind == "drag":
            for t in (0.3, 0.7, 1.0):
                at = QPointF(start) + (QPointF(end) - QPointF(start)) * t
                move = QMouseEvent(QEvent.Type.MouseMove, at, QPointF(self.plate.mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton, button, held)  # fmt: skip
                QApplication.sendEvent(self.plate, move)
            if self.rng.random() < 0.1:
                QTest.keyClick(self.plate, Qt.Key.Key_Escape)
        QTest.mouseRelease(self.plate, button, held, end if kind == "drag" else start)
        return f"{kind} {button.name} {held.name} {start} {end}"

    def strips(self) -> str:
        """A drag over the drawer, whatever lies there."""
        from PySide6.QtCore import QEvent, QPointF, Qt
        from PySide6.QtGui import QMouseEvent
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        drawer, rng = self.window.drawer, self.rng
        held = rng.choice([Qt.KeyboardModifier.NoModifier] * 3 + [Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier])  # fmt: skip
        start, end = (QPointF(rng.randrange(drawer.width()), rng.randrange(drawer.height())) for _ in range(2))
        QTest.mousePress(drawer, Qt.MouseButton.LeftButton, held, start.toPoint())
        for t in (0.4, 1.0):
            at = start + (end - start) * t
            QApplication.sendEvent(drawer, QMouseEvent(QEvent.Type.MouseMove, at, QPointF(drawer.mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, held))  # fmt: skip
        QTest.mouseRelease(drawer, Qt.MouseButton.LeftButton, held, end.toPoint())
        if rng.random() < 0.3:
            QTest.keyClick(
                drawer,
                rng.choice([Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Up, Qt.Key.Key_Left, Qt.Key.Key_Escape]),
            )
        return f"drawer {held.name} {start} {end}"

    def key(self) -> str:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest

        if self.rng.random() < 0.3:
            name = self.rng.choice(CTRL)
            QTest.keyClick(self.plate, getattr(Qt.Key, f"Key_{name}"), Qt.KeyboardModifier.ControlModifier)
            return f"Ctrl+{name}"
        name = self.rng.choice(KEYS)
        target = self.window.focusWidget() if self.rng.random() < 0.2 else self.plate
        QTest.keyClick(target or self.plate, getattr(Qt.Key, f"Key_{name}"))
        return f"key {name}"

    def _one_of(self, kind):
        found = [w for w in self.window.findChildren(kind) if w.isVisible() and w.isEnabled()]
        return self.rng.choice(found) if found else None

    def field(self) -> str:
        from PySide6.QtCore import Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QLineEdit

        field = self._one_of(QLineEdit)
        if field is None:
            return "no field"
        text = self.rng.choice([*TEXTS, str(self.rng.uniform(-5, 200)), f"{self.rng.uniform(0, 50):.2f}"])
        name = field.accessibleName()
        field.setFocus()
        field.setText(text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        return f"field {name}: {text[:40]!r}"

    def choice(self) -> str:
        from PySide6.QtWidgets import QComboBox

        box = self._one_of(QComboBox)
        if box is None or not box.count():
            return "no list"
        name, index = box.accessibleName(), self.rng.randrange(box.count())
        words = box.itemText(index)
        box.setCurrentIndex(index)
        box.activated.emit(index)
        return f"list {name}: {words}"

    def button(self) -> str:
        from PySide6.QtWidgets import QAbstractButton, QPushButton, QToolButton

        button = self._one_of(QAbstractButton)
        if button is None:
            return "no button"
        words = button.accessibleName() or button.text()
        menu = button.menu() if isinstance(button, (QToolButton, QPushButton)) else None
        if menu is not None:
            actions = [a for a in menu.actions() if a.isEnabled() and not a.isSeparator() and a.menu() is None]
            if not actions:
                return "empty menu"
            action = self.rng.choice(actions)
            words = f"{words}, {action.text()}"
            if "uit" not in action.text():
                action.trigger()
        else:
            button.click()
        return f"button {words}"

    def walk(self) -> str:
        """Round the model, or back; a rose, a shape, what is next."""
        from PySide6.QtCore import QPoint, Qt
        from PySide6.QtTest import QTest

        rng = self.rng
        if not self.plate.rounding:
            self.window.look_from(rng.uniform(-720.0, 720.0), rng.uniform(-90.0, 120.0))
            return "walk round"
        view = self.plate.round
        what = rng.choice(["key", "drag", "pick", "home"])
        if what == "key":
            name = rng.choice(["Left", "Right", "Up", "Down", "Plus", "Minus", "BracketLeft", "N"])
            QTest.keyClick(view, getattr(Qt.Key, f"Key_{name}"))
            return f"round {name}"
        if what == "drag":
            view.turn(rng.uniform(-90.0, 90.0), rng.uniform(-60.0, 60.0), moving=True)
        elif what == "pick":
            QTest.mouseClick(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(rng.randrange(max(view.width(), 1)), rng.randrange(max(view.height(), 1))))  # fmt: skip
        else:
            QTest.keyClick(view, Qt.Key.Key_Home)
        return f"round {what}"

    def pick(self) -> str:
        plan = self.document.plan
        timed = (plan.cues, plan.channels, plan.boards, plan.triggers)
        groups = timed if self.rng.random() < 0.3 else (plan.sections, plan.openings, plan.lamps, plan.dots)
        ids = [i.id for g in groups for i in g]
        some = self.rng.sample(ids, min(len(ids), self.rng.choice([0, 1, 1, 2, 5, 40])))
        self.document.select(some)
        return f"pick {some[:4]}"

    def plan(self) -> str:
        """A plan file with something in it changed: read, or refused in a sentence."""
        from gwiazda.core.errors import GwiazdaError
        from gwiazda.core.plan import storage
        from gwiazda.core.plan.storage import PlanFile

        data = json.loads(storage.plan_to_json(self.document.plan))
        for _ in range(self.rng.randrange(1, 4)):
            where = data
            while isinstance(where, (dict, list)) and where:
                name = self.rng.choice(list(where) if isinstance(where, dict) else range(len(where)))
                if isinstance(where[name], (dict, list)) and where[name] and self.rng.random() < 0.85:
                    where = where[name]
                    continue
                value = where[name]
                where[name] = self.rng.choice([None, "", "x", -1, 0, 1e9, [], {}, value, 1, 0.01, 40.0, "deck1", True, 1e-6])  # fmt: skip
                break
        try:
            plan = storage.plan_from_json(json.dumps(data).encode(), "soak")
        except GwiazdaError as error:
            return f"plan refused: {error}"
        self.document.take_file(PlanFile(plan, dict(self.document.pictures)), None)
        return "plan taken"

    def file(self) -> str:
        """A file that is dropped on the plate, whole or with bytes changed."""
        kind = self.rng.choice(["svg", "csv", "json", "png", "pdf", "gwiazda", "txt"])
        head = {
            "svg": b"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 90 30'><path d='M1 1L30 2 20 9z'/><rect x='3' y='3' width='9' height='5'/></svg>",
            "csv": b"id,kind,vf\nmine,chip,3.1\n",
            "json": b'{"coats": []}',
            "png": b"\x89PNG\r\n\x1a\n" + bytes(40),
            "pdf": b"%PDF-1.4\n1 0 obj<<>>endobj\ntrailer<<>>",
            "gwiazda": b"PK\x03\x04" + bytes(30),
            "txt": "żółw".encode(),
        }[kind]  # fmt: skip
        data = bytearray(head)
        for _ in range(self.rng.choice([0, 0, 1, 3, 9])):
            data[self.rng.randrange(len(data))] = self.rng.randrange(256)
        path = self.folder / f"dropped.{kind}"
        path.write_bytes(bytes(data))
        self.plate.files_dropped.emit(str(path))
        return f"drop {kind}"

    def again(self) -> str:
        from gwiazda.demos import path_of

        self.document.open(path_of(self.rng.choice(["szron", "perkoz", "swistak", "bryla"])), as_demo=True)
        return "demo"

    def empty(self) -> str:
        """A demo at a station, looked at, then nothing: clicks where its picture was."""
        from PySide6.QtCore import QPoint, Qt
        from PySide6.QtTest import QTest
        from PySide6.QtWidgets import QApplication

        from gwiazda.desktop.stations.registry import STATIONS

        words, station, rng = self.again(), self.rng.choice(STATIONS).id, self.rng
        if station != self.window.station:
            self.window.set_station(station)
        QApplication.processEvents()
        drawer = self.window.drawer
        drawer.grab()
        self.document.new()
        for _ in range(6):
            at = QPoint(rng.randrange(drawer.width()), rng.randrange(drawer.height()))
            QTest.mouseClick(drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
            QTest.keyClick(drawer, rng.choice([Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Left]))
        return f"{words} emptied at {station}"

    # -- one after the other -----------------------------------------------------------------------------

    def run(self, seconds: float) -> int:
        """Work for so long; how many actions that were. ``faults`` is empty when nothing raised."""
        from PySide6.QtCore import QEvent
        from PySide6.QtWidgets import QApplication

        from gwiazda.desktop.memory import give_back

        hands = (
            [self.mouse] * 8
            + [self.key] * 5
            + [self.field] * 6
            + [self.choice] * 5
            + [self.button] * 4
            + [self.pick] * 4
            + [self.strips] * 3
            + [self.walk] * 3
        )
        hands += [self.plan, self.plan, self.file, self.empty]
        kept, sys.excepthook = sys.excepthook, self._fault
        until, count = time.monotonic() + seconds, 0
        try:
            while time.monotonic() < until and not self.faults:
                action = self.again if count % EACH == 0 else self.rng.choice(hands)
                began = time.monotonic()
                try:
                    self.done.append(action())
                    QApplication.processEvents()
                    # What is to be deleted later is so in an event loop's next round, and none is running here.
                    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
                    if count % 10 == 9:
                        self._stop(wait=count % 50 == 49)
                except Exception:
                    self.done.append(action.__name__)
                    self._fault(*sys.exc_info())
                took = time.monotonic() - began
                if took > self.slowest[0]:
                    self.slowest = (took, self.done[-1])
                if count % EACH == 0:
                    give_back()
                    self.held.append((count, resident_mb()))
                    del self.done[:-50]  # what was done is kept for a fault's words, not for ever
                count += 1
            try:
                self._stop(wait=False)
            except Exception:
                self._fault(*sys.exc_info())
        finally:
            sys.excepthook = kept
        return count

    def _fault(self, kind, value, trace) -> None:
        words = "".join(traceback.format_exception(kind, value, trace))
        self.faults.append(words + "\nafter: " + "\n  ".join(self.done[-6:]))

    def _stop(self, wait: bool = True) -> None:
        """See whether the plan is one that can be kept; ``wait``: after the computation of it has come to its end."""
        from gwiazda.core.plan import storage
        from gwiazda.desktop.shell.export.pictures import settle

        if wait:
            settle(self.window)
        plan = self.document.plan
        assert storage.plan_from_json(storage.plan_to_json(plan).encode(), "soak") == plan
        text = self.window.message.text
        if "could not be worked out" in text or "went wrong" in text:
            raise AssertionError(text)


def main() -> int:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    home = tempfile.mkdtemp(prefix="gwiazda-soak-home-")
    for name in ("XDG_CONFIG_HOME", "XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CACHE_HOME"):
        os.environ[name] = home
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.window import MainWindow

    minutes = float(sys.argv[1]) if len(sys.argv) > 1 else 5.0
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else int(time.time())
    application = make_application()
    application.setProperty("keep", True)
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    soak = Soak(window, seed)
    count = soak.run(minutes * 60)
    print(f"seed {seed}: {count} actions, slowest {soak.slowest[0]:.1f} s ({soak.slowest[1]})")
    for fault in soak.faults:
        print(fault)
    window.close()
    grown = growth(soak.held)
    print("memory: " + ", ".join(f"{mb:.0f}" for _, mb in soak.held) + f" MB, each {EACH} actions")
    if grown is None:
        print("too few actions to say how it grows")
        return 1 if soak.faults else 0
    print(f"{grown * 100:+.1f} % in 1,000 actions (at most {MOST_GROWTH * 100:.0f})")
    return 1 if soak.faults or grown > MOST_GROWTH else 0


if __name__ == "__main__":
    raise SystemExit(main())
