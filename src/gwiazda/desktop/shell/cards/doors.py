"""The three ways to begin, side by side on an empty plate, each with a small picture: a question, a kit of one's own, a lit ship."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.core.quantities import format_resistance
from gwiazda.core.quick.answer import Answer, answer
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import shaped
from gwiazda.demos import path_of
from gwiazda.desktop.shell.cards.silhouette import Silhouette
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.resistor import ResistorPicture

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

QUESTIONS = ("3 white on 9 V", "drill for 0.5 fibre", "60 mA on 9 V block")
DEMO, TALL = "szron", 84


def _button(words: str, tip: str, press: Callable[[], object], flat: bool = False) -> QPushButton:
    made = QPushButton(words)
    made.setToolTip(tip)
    made.setFlat(flat)
    made.clicked.connect(lambda _=False: press())
    return made


class Door(QFrame):
    """A way to begin: its name, a picture, and what to click."""

    def __init__(self, name: str, picture: QWidget, buttons: tuple[QPushButton, ...]) -> None:
        super().__init__()
        self.setAccessibleName(name)
        self.buttons, self.picture = buttons, picture
        box = QVBoxLayout(self)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(6)
        title = QLabel(name)
        title.setObjectName("cardtitle")
        box.addWidget(title)
        box.addWidget(picture)
        for button in buttons:
            box.addWidget(button)
        box.addStretch(1)


def _asked(window: MainWindow) -> QWidget:
    """The first question with its answer: the resistor that the scratch line names for it."""
    holder = QFrame()
    holder.setObjectName("doorpicture")
    holder.setFixedHeight(scaled(TALL))
    box = QVBoxLayout(holder)
    box.setSpacing(2)
    words, picture, value = QLabel(f"{QUESTIONS[0]}?"), ResistorPicture(), QLabel()
    found = answer(QUESTIONS[0], window.document.catalogue, window.document.plan.drawer.series)
    if isinstance(found, Answer) and found.resistors:
        first = found.resistors[0]
        picture.show_ohm(first.ohm, window.document.plan.drawer.series)
        value.setText(f"{first.number} × {format_resistance(first.ohm)}")
    picture.setFixedWidth(picture.sizeHint().width())
    for label in (words, value):
        label.setAlignment(Qt.AlignmentFlag.AlignHCenter)
        label.setObjectName("muted")
    box.addWidget(words)
    box.addWidget(picture, 0, Qt.AlignmentFlag.AlignHCenter)
    box.addWidget(value)
    return holder


def _dark(plan: Plan) -> Plan:
    return copy_unchecked(plan, openings=tuple(copy_unchecked(o, lit=0.0) for o in plan.openings))


class Doors(QWidget):
    """The three of them."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__()
        own, lit = (
            Silhouette("A kit from the side, dark", scaled(TALL)),
            Silhouette("A lit ship from the side", scaled(TALL)),
        )
        own.plan, lit.plan = _dark(shaped(FORMS["ship"].sizes)[0]), load(path_of(DEMO)).plan
        asks = tuple(_button(q, "Have it answered (/ asks anything)", partial(window.ask, q), True) for q in QUESTIONS)
        self.drawing = _button(
            "Choose a drawing…",
            "A drawing or a photo of it (PNG, JPEG, SVG, PDF); or drop one here",
            window.files.ask_picture_file,
        )
        self.shape = _button(
            "Start from a shape…",
            "A ship, fuselage, vehicle, beam or tower from a few sizes: lit and wired in one step",
            window.start_from_shape,
        )
        self.plan = _button("Open a plan…", "A plan that was saved before", window.files.ask_open)
        self.demo = _button(
            "Look at it",
            "A demo plan to look at and to change; nothing of it is kept unless saved",
            partial(window.files.open_demo, DEMO),
        )
        self.doors = (
            Door("A question", _asked(window), asks),
            Door("A kit of mine", own, (self.drawing, self.shape, self.plan)),
            Door("A lit ship to look at", lit, (self.demo,)),
        )  # fmt: skip
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(14)
        for door in self.doors:
            row.addWidget(door, 1)

    def show_pictures(self, on: bool) -> None:
        """With their pictures, or without where there is no room for them."""
        for door in self.doors:
            door.picture.setVisible(on)
        # A layout hears of what was hidden only when the loop comes round.
        for widget in (*self.doors, self, self.parentWidget()):
            layout = widget.layout() if widget is not None else None
            if layout is not None:
                layout.invalidate()
                layout.activate()
