"""A main window on the demo or on an empty plan, and ways to use it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PySide6.QtWidgets import QApplication

from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.core.workshop.workshop import Workshop
from gwiazda.demos import path_of
from gwiazda.desktop.shell.application import make_application
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow


class Bench:
    """A window under the hands of a test: places in mm of the model, mouse and keys on real widgets."""

    def __init__(self, qtbot, window: MainWindow) -> None:
        self.bot, self.window = qtbot, window
        self.plate, self.document = window.plate, window.document

    def settle(self, night: bool = True) -> None:
        """Wait for what is worked out; without the night where a test doesn't look at it: that takes longest."""
        settle(self.window, night)

    def px(self, x: float, y: float, z: float) -> QPoint:
        right, down, _ = to_sheet(self.plate.view.side, (x, y, z))
        return self.plate.extent.to_px(right, down).toPoint()

    def click(self, at: QPoint, modifier=Qt.KeyboardModifier.NoModifier) -> None:
        self.bot.mouseClick(self.plate, Qt.MouseButton.LeftButton, modifier, at)

    def drag(
        self, start: QPoint, end: QPoint, modifier=Qt.KeyboardModifier.NoModifier, steps: int = 5, drop: bool = True
    ) -> None:
        self.bot.mousePress(self.plate, Qt.MouseButton.LeftButton, modifier, start)
        for i in range(1, steps + 1):
            t = i / steps
            at = QPointF(start) + (QPointF(end) - QPointF(start)) * t
            self._move(at, modifier)
        if drop:
            self.bot.mouseRelease(self.plate, Qt.MouseButton.LeftButton, modifier, end)

    def _move(self, at: QPointF, modifier) -> None:
        from PySide6.QtGui import QMouseEvent

        event = QMouseEvent(
            QEvent.Type.MouseMove, at, QPointF(self.plate.mapToGlobal(at.toPoint())), Qt.MouseButton.NoButton,
            Qt.MouseButton.LeftButton, modifier,
        )  # fmt: skip
        QApplication.sendEvent(self.plate, event)

    def key(self, key, modifier=Qt.KeyboardModifier.NoModifier, widget=None) -> None:
        if widget is None:
            self.plate.setFocus()  # as a click on it would
        self.bot.keyClick(widget or self.plate, key, modifier)

    def field(self, name: str):
        """A field of the inspector by its accessible name."""
        from PySide6.QtWidgets import QWidget

        from gwiazda.desktop.panels.panel import Card

        panel = self.window.inspector.panel
        found = [w for w in panel.findChildren(QWidget) if w.accessibleName() == name]
        if not found and not panel.more:
            panel.toggle_more()  # a field of another station stands behind the line of all the others
            found = [w for w in panel.findChildren(QWidget) if w.accessibleName() == name]
        assert found, f"no field {name!r}"
        card = found[0].parentWidget()
        while card is not None and not isinstance(card, Card):
            card = card.parentWidget()
        if card is not None and not card.is_open:
            self.bot.mouseClick(card.fold, Qt.MouseButton.LeftButton)
        return found[0]

    def part(self, kind: str):
        """A card of the panel, by the name of its class."""
        panel = self.window.inspector.panel
        if not panel.more and all(type(c).__name__ != kind for c in panel.here):
            panel.toggle_more()
        return next(c for c in panel.all_cards if type(c).__name__ == kind)

    def type_into(self, name: str, text: str) -> None:
        field = self.field(name)
        field.setFocus()
        field.selectAll()
        self.bot.keyClicks(field, text)
        self.bot.keyClick(field, Qt.Key.Key_Return)

    def press(self, words: str) -> None:
        """Press a button of the inspector by how its text begins."""
        from PySide6.QtWidgets import QPushButton

        self.settle(night=False)  # a panel that has just been made is shown by the event loop
        buttons = self.window.inspector.findChildren(QPushButton)
        found = [b for b in buttons if b.text().startswith(words) and b.isVisibleTo(self.window)]
        panel = self.window.inspector.panel
        if not found and panel is not None and not panel.more:
            panel.toggle_more()  # what a small plan keeps behind the line of all the rest
            self.settle(night=False)
            buttons = self.window.inspector.findChildren(QPushButton)
            found = [b for b in buttons if b.text().startswith(words) and b.isVisibleTo(self.window)]
        assert found, (words, [b.text() for b in buttons if b.isVisibleTo(self.window)])
        self.bot.mouseClick(found[0], Qt.MouseButton.LeftButton)
        self.settle(night=False)

    def spot(self, across: float, up: float, section: int = 0) -> QPoint:
        """A place on the plate by shares of a section's box, from its stern end and its floor."""
        box = self.document.plan.sections[section].box
        return self.px(box.at[0] + across * box.size[0], box.centre[1], box.at[2] + up * box.size[2])

    def choose(self, name: str, words: str) -> None:
        """Pick an entry of a choice with the keyboard."""
        field = self.field(name)
        index = next(i for i in range(field.count()) if words in field.itemText(i))
        field.setCurrentIndex(index)
        field.activated.emit(index)


@pytest.fixture(scope="session")
def qapp_cls():
    from PySide6.QtWidgets import QApplication

    return QApplication


@pytest.fixture(scope="session")
def application(qapp):
    made = make_application()
    made.setProperty("keep", True)
    return made


@pytest.fixture(autouse=True)
def own_settings(application) -> Iterator[None]:
    """Which cards stand open, theme and text size as on the first day: no test depends on those before."""
    QSettings().clear()
    yield
    # What is to be deleted later waits for an event loop that never runs here: some 50 MB of pictures a window.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


class Shared:
    """One window a worker: making one and lighting the demo in it is two thirds of most tests. It is emptied between tests."""

    window: MainWindow | None = None
    lent = False  # to a test that nobody shares it with

    def take(self) -> MainWindow:
        if self.window is None or not self.window.isVisible():
            self.window = MainWindow()
            self.window.show()
        return self.window

    def drop(self) -> None:
        """Close it: the next test gets a new one."""
        if self.window is not None:
            self.window.close()
            self.window.deleteLater()
            self.window = None

    def empty(self) -> None:
        """As it was when it was made, as far as a test may have changed it; where that can't be done, it goes."""
        window = self.window
        if window is None or self.lent or not window.isVisible():
            self.drop()
            return
        document, plate = window.document, window.plate
        marks = (
            document.workshop_folder,
            document.workshop,
            document.bench,
            window.palette_.name,
            window.drawer.grown,
            plate.rounding,
        )
        if (
            window.starter is not None
            or plate._round is not None
            or marks != (None, Workshop(), None, "bench", False, False)
            or QApplication.activeModalWidget() is not None
        ):
            self.drop()
            return
        for card in (window._scratch, window.finder, window.starter, window.empty_card):
            if card is not None:
                card.hide()
        document.clock = datetime.now
        document.end_trial()
        window.next_line.tried.clear()
        plate.set_tool("pick")
        plate.set_wipe(0.5)
        plate.hold = ""
        plate._fitted = True
        window.set_station("light")
        document.new()
        window.message.clear()
        window.resize(1280, 800)


SHARED = Shared()


@pytest.fixture
def own_window() -> Iterator[None]:
    """For a test that listens to the window's signals or leaves work under way: nobody else gets its window."""
    SHARED.drop()
    SHARED.lent = True
    yield
    SHARED.lent = False


@pytest.fixture
def opened(qtbot, application) -> Iterator[Bench]:
    """A window with an empty plan, as if it had just been opened."""
    window = SHARED.take()
    window.activateWindow()
    window.plate.setFocus()
    yield Bench(qtbot, window)
    SHARED.empty()


@pytest.fixture
def empty(opened) -> Bench:
    opened.settle(night=False)
    return opened


@pytest.fixture(scope="session")
def tidy() -> PlanFile:
    """The demo with its leak, its hot spot and its dark row settled: nothing is left for offers to reckon."""
    file = load(path_of())
    plan = file.plan
    while findings := evaluate_rules(plan, assess(plan, built_in())):
        rules = len(findings)
        plan = next(
            after
            for fix in findings[0].fixes
            if len(evaluate_rules(after := fix.edit(plan), assess(after, built_in()))) < rules
        )
    return PlanFile(plan, file.pictures)


@pytest.fixture
def bench(opened, tidy) -> Bench:
    """The demo, tidied up, all of it on the works side."""
    opened.document.take_file(tidy, None, as_demo=True)
    opened.plate.set_wipe(1.0)
    opened.settle(night=False)
    return opened


@pytest.fixture
def shipped(opened) -> Bench:
    """The demo as it is shipped, with three things to be found."""
    assert opened.document.open(path_of(), as_demo=True)
    opened.plate.set_wipe(1.0)
    opened.settle(night=False)
    return opened
