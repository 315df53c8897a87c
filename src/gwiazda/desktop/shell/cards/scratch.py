"""The scratch line: a question of the bench typed anywhere in the window, answered on one card while it is typed."""

from __future__ import annotations

from html import escape
from math import isfinite
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QSettings, Qt
from PySide6.QtGui import QCursor, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from gwiazda.core.assess.view_index import proud_of_skin
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.quantities import format_current, format_hours, format_resistance
from gwiazda.core.quick.answer import Answer, LampGroup, added, answer
from gwiazda.core.quick.ask import Bands, Identified, alternatives, completions
from gwiazda.core.quick.bench import Told
from gwiazda.desktop.plate.lines.works import lit_colour
from gwiazda.desktop.theme.palette import BENCH, Palette
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.choice_button import ChoiceButton
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.marks import PolarityPicture
from gwiazda.desktop.widgets.resistor import ResistorPicture

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

WIDTH, TOP = 560, 58
KEPT = 30
HINT = "3 white on 9 V   ·   drill for 0.5 fibre   ·   60 mA on 9 V block   ·   brown black red gold"
SHORT = {"quarter": "A quarter", "half": "Half as bright", "full": "Full"}
DISC_PX, MOST_DISCS = 18, 24


class _Field(Guarded, QLineEdit):
    """Tab completes a word, the arrows go through what was asked before."""

    def __init__(self, card: ScratchCard) -> None:
        super().__init__(card)
        self.card = card
        self.setPlaceholderText(HINT)
        self.setAccessibleName("Scratch line")
        self.setMaxLength(300)
        self.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        # Before Qt takes Tab as the way to the next widget.
        if watched is not self or not isinstance(event, QKeyEvent) or event.type() != QEvent.Type.KeyPress:
            return False
        return event.key() == Qt.Key.Key_Tab and self.card.complete()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.card.leave()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.card.recall(1 if event.key() == Qt.Key.Key_Up else -1)
        else:
            super().keyPressEvent(event)


class _Discs(Guarded, QWidget):
    """The lamps of an answer as discs, as bright as they will be."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.palette_: Palette = BENCH
        self._lights: tuple[LampGroup, ...] = ()

    def show_lights(self, lights: tuple[LampGroup, ...]) -> None:
        self._lights = lights
        self.setVisible(bool(lights))
        self.setFixedHeight(DISC_PX + 6)
        self.setAccessibleName("; ".join(f"{x.number} at {x.share * 100:.0f} %" for x in lights))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette_.colour("night"))
        painter.drawRoundedRect(self.rect(), 4, 4)
        left = 5
        for light in self._lights:
            shown = lit_colour(light.rgb, light.share, self.palette_)
            for _ in range(min(light.number, MOST_DISCS)):
                painter.setPen(self.palette_.colour("bar_faint"))
                painter.setBrush(shown)
                painter.drawEllipse(left, 4, DISC_PX - 3, DISC_PX - 3)
                left += DISC_PX + 2
            left += 8
        painter.end()


class ScratchCard(QFrame):
    """One field and the card that answers it, over the plate. ``/`` opens it, Escape closes it."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.window_ = window
        self.setObjectName("card")
        self.setAccessibleName("Scratch card")
        self.found: Answer | Bands | Identified | Told | None = None
        self._at = 0
        box = QVBoxLayout(self)
        self.field = _Field(self)
        self.field.textChanged.connect(self._answer)
        self.field.returnPressed.connect(self._keep)
        box.addWidget(self.field)
        self.title = QLabel()
        self.title.setObjectName("cardtitle")
        self.title.setWordWrap(True)
        box.addWidget(self.title)
        self.discs = _Discs(self)
        box.addWidget(self.discs)
        self.resistor = ResistorPicture()
        box.addWidget(self.resistor)
        self.ends = QWidget()
        ends = QHBoxLayout(self.ends)
        ends.setContentsMargins(0, 0, 0, 0)
        self.polarity, self.plus = PolarityPicture(), QLabel()
        ends.addWidget(self.polarity)
        ends.addWidget(self.plus, 1)
        box.addWidget(self.ends)
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.words.setTextFormat(Qt.TextFormat.RichText)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.words.setTextInteractionFlags(Qt.TextInteractionFlag.TextBrowserInteraction)
        self.words.linkActivated.connect(self._other)
        self.three = QWidget()
        self._three = QHBoxLayout(self.three)
        self._three.setContentsMargins(0, 0, 0, 0)
        self._three.setSpacing(6)
        box.addWidget(self.three)
        box.addWidget(self.words)
        row = QHBoxLayout()
        self.drop = QPushButton("Put it on the plate")
        self.drop.setToolTip("Its lamps in a row in the middle of the view, hung on the plan’s source")
        self.drop.clicked.connect(self._drop)
        row.addWidget(self.drop)
        row.addStretch(1)
        close = QPushButton("Close")
        close.setToolTip("Close the scratch card (Esc)")
        close.clicked.connect(self.leave)
        row.addWidget(close)
        box.addLayout(row)
        self.hide()
        self._answer("")

    # -- open, close, remember ---------------------------------------------------------------------------

    def open(self, text: str = "") -> None:
        """Show it, with a question where there is one, and put the cursor into the field, what stands there picked."""
        self.discs.palette_ = self.window_.palette_
        if text:
            self.field.setText(text)
        self._answer(self.field.text())
        self.show()
        self.raise_()
        self.field.setFocus()
        self.field.selectAll()
        self.place()

    def leave(self) -> None:
        self.hide()
        self.window_.plate.setFocus()

    def place(self) -> None:
        """Over the plate, as wide as it has room."""
        plate = self.window_.plate
        corner = plate.mapTo(self.window_, plate.rect().topLeft())
        width = min(scaled(WIDTH), plate.width() - 20)
        self.setFixedWidth(width)
        # A label that wraps asks for more height than it needs until its width is known.
        margins = self.contentsMargins().left() + self.contentsMargins().right() + 22
        for label in (self.title, self.words):
            label.setFixedHeight(label.heightForWidth(width - margins))
        each = (width - margins - 12) // 3
        self.three.setFixedHeight(max((b.heightForWidth(each) for b in self.looks), default=0))
        for b in self.looks:
            b.setFixedHeight(self.three.height())
        box = self.layout()
        if box is not None:
            box.activate()
        self.adjustSize()
        self.move(corner.x() + (plate.width() - width) // 2, corner.y() + 10)

    def history(self) -> list[str]:
        kept = QSettings().value("scratch_history", [])
        return [str(x) for x in kept] if isinstance(kept, list) else [str(kept)] if kept else []

    def _keep(self) -> None:
        text = self.field.text().strip()
        if text and self.found is not None:
            QSettings().setValue("scratch_history", [text, *(x for x in self.history() if x != text)][:KEPT])
            self._at = 0
            self.field.selectAll()

    def recall(self, step: int) -> None:
        kept = self.history()
        if kept:
            self._at = min(max(self._at + step, 0), len(kept))
            self.field.setText(kept[self._at - 1] if self._at else "")

    def complete(self) -> bool:
        """Complete the word at the end of the line; False where nothing could be meant."""
        text = self.field.text()
        options = completions(text)
        if not options:
            return False
        self.field.setText(options[0])
        return True

    # -- the answer --------------------------------------------------------------------------------------

    def _answer(self, text: str) -> None:
        document = self.window_.document
        self.found, trouble = None, ""
        if text.strip():
            try:
                self.found = answer(text, document.catalogue, document.plan.drawer.series)
            except GwiazdaError as error:
                trouble = str(error)
        lines: tuple[str, ...] = self.found.lines() if self.found is not None else ()
        self.title.setText(lines[0] if lines else "Ask the bench")
        rest = (
            lines[1:]
            if lines
            else (trouble or "Lamps, how they hang, on what, and how bright. Tab completes, the arrows bring back.",)
        )
        series = document.plan.drawer.series
        shown = [escape(x, quote=False) for x in rest]
        if isinstance(self.found, Answer):
            said = {c.said("E24") for c in self.found.choices}
            shown = [self._linked(x) for x in rest if x not in said]
        self.words.setText("<br>".join(shown))
        self._show_three(series)
        if isinstance(self.found, Answer):
            self.discs.show_lights(self.found.lights)
            self.resistor.show_ohm(self.found.resistors[0].ohm if self.found.resistors else None, series)
            self.resistor.setVisible(bool(self.found.resistors))
        else:
            self.discs.show_lights(())
            self.resistor.setVisible(isinstance(self.found, Bands))
            if isinstance(self.found, Bands):
                self.resistor.show_bands(self.found.ohm, self.found.colours)
            elif isinstance(self.found, Told) and self.found.ohm:
                self.resistor.show_ohm(self.found.ohm, series)
                self.resistor.setVisible(True)
        self._show_ends()
        self.drop.setVisible(isinstance(self.found, Answer))
        if self.isVisible():
            self.place()

    def _show_ends(self) -> None:
        """Which end of its lamps is plus; nothing where they differ in that, or have none."""
        parts = [g.part for g in self.found.asked.groups] if isinstance(self.found, Answer) else []
        told = len({p.plus for p in parts}) == 1 and not parts[0].rectified
        self.ends.setVisible(told)
        self.polarity.show_form(parts[0].shape if told else None, parts[0].plus if told else "")
        self.plus.setText(f"Plus: {parts[0].plus}." if told else "")

    def _linked(self, line: str) -> str:
        """A line of the card; what was taken for granted, and could be otherwise, as words to click."""
        assert isinstance(self.found, Answer)
        if not line.startswith("taken: "):
            return escape(line, quote=False)
        words = []
        for taken in self.found.taken:
            said = escape(taken, quote=False)
            words.append(f'<a href="{said}">{said}</a>' if alternatives(self.field.text(), taken) else said)
        return "taken: " + "; ".join(words)

    def _other(self, taken: str) -> None:
        """Offer what else could be meant."""
        menu = QMenu(self)
        for words, line in alternatives(self.field.text(), taken):
            menu.addAction(words).triggered.connect(lambda _=False, text=line: self.field.setText(text))
        self.menu = menu
        menu.popup(QCursor.pos())

    def _show_three(self, series: str) -> None:
        """The three looks to choose from, where nothing was said of how bright."""
        choices = self.found.choices if isinstance(self.found, Answer) else ()
        self.three.setVisible(bool(choices))
        while self._three.count():
            old = self._three.takeAt(0).widget()  # type: ignore[union-attr]
            if old is not None:
                old.hide()
                old.deleteLater()
        self.looks: list[ChoiceButton] = []
        for c in choices:
            hours = f", {format_hours(c.hours)}" if isfinite(c.hours) else ""
            safe = "; the usual safe value" if c.word == "full" else ""
            button = ChoiceButton(
                SHORT[c.word],
                format_resistance(c.ohm) if c.ohm else "none",
                f"{format_current(c.current_a)} each{hours}{safe}",
                f"Say “{c.word}”: {c.said(series)}",
            )
            button.clicked.connect(
                lambda _=False, word=c.word: self.field.setText(f"{self.field.text().rstrip(' ?')} {word}")
            )
            self._three.addWidget(button)
            button.show()
            self.looks.append(button)

    def _drop(self) -> None:
        assessment, window = self.found, self.window_
        if not isinstance(assessment, Answer):
            return
        self._keep()
        plate, document = window.plate, window.document
        side = plate.view.side
        at = proud_of_skin(document.plan, side, *plate.extent.to_mm(plate.width() / 2, plate.height() / 2))
        ids: list[str] = []

        def put(plan):  # type: ignore[no-untyped-def]
            after, new = added(plan, assessment.asked, at, side)
            ids.extend(new)
            return after

        if document.edit("Put a circuit on the plate", put):
            document.select(ids)
            self.leave()
            supply = document.plan.supply.part
            if supply != assessment.asked.source:
                name = document.catalogue.sources[supply].name if supply in document.catalogue.sources else supply
                window.show_message(f"Its lamps hang on the plan’s own source, {name}.", "info")
