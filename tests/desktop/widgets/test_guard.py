"""No override of Qt's lets an exception out: it is said, and the window goes on."""

from __future__ import annotations

import importlib
import inspect
import pkgutil

import pytest
from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QApplication, QWidget

import gwiazda.desktop
from gwiazda.demos import path_of
from gwiazda.desktop.stations.registry import STATIONS
from gwiazda.desktop.widgets.guard import Guarded, is_override


def classes():
    for module in pkgutil.walk_packages(gwiazda.desktop.__path__, "gwiazda.desktop."):
        for value in vars(importlib.import_module(module.name)).values():
            if inspect.isclass(value) and issubclass(value, QObject) and value.__module__.startswith("gwiazda"):
                yield value


def test_every_override_is_guarded():
    found = {(c, name) for c in classes() for name in vars(c) if is_override(name)}
    assert len(found) > 70
    assert not [f"{c.__module__}.{c.__name__}.{n}" for c, n in found if not getattr(vars(c)[n], "guards", False)]
    assert not [c.__name__ for c, n in found if n == "event"], "an event filter on oneself is no call nested in another"


class Faulty(Guarded, QWidget):
    """Nested as deep as can be: ``event`` calls Qt's, which calls what raises in C."""

    def event(self, event):
        return super().event(event)

    def mousePressEvent(self, event):
        [].pop(3)

    def paintEvent(self, event):
        painter = QPainter(self)
        painter.drawLine(0, 0, 1 // 0, 9)

    def keyPressEvent(self, event):
        _, _ = (1,)


def test_what_is_raised_in_a_nested_override_is_said_and_kept_inside(qtbot, application):
    widget = Faulty()
    qtbot.addWidget(widget)
    with qtbot.captureExceptions() as said:
        widget.show()
        widget.repaint()
        qtbot.mouseClick(widget, Qt.MouseButton.LeftButton)
        qtbot.keyClick(widget, Qt.Key.Key_A)
        widget.grab()
        widget.hide()
    assert {kind for kind, _, _ in said} == {ZeroDivisionError, IndexError, ValueError}
    assert not widget.paintingActive(), "the painter of the frame that raised is closed"


@pytest.mark.parametrize("station", [s.id for s in STATIONS])
def test_clicks_where_the_picture_was_of_a_plan_that_was_put_away(empty, station):
    """A full plan's drawer is painted, the plan is put away, and one clicks before it is painted again."""
    assert empty.document.open(path_of("bryla"), as_demo=True)
    if station != empty.window.station:
        empty.window.set_station(station)
    empty.settle()
    drawer = empty.window.drawer
    drawer.grab()
    empty.document.new()
    for y in range(4, drawer.height(), 12):
        for x in (20, 90, drawer.width() // 2, drawer.width() - 40):
            empty.bot.mouseClick(drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(x, y))
    for key in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Return, Qt.Key.Key_Space):
        empty.bot.keyClick(drawer, key)
    drawer.grab()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    empty.settle()
    assert not empty.document.plan.sections and empty.window.drawer is drawer
