"""Boards of holes: a timer, a counter, stages or resistors laid out on tracks or pads, from above and from below."""

from __future__ import annotations

from typing import Any, ClassVar

from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from gwiazda.core.assess.show.protoboards import MadeBoard, board_made, parts_list, resistor_boards
from gwiazda.core.drawing.sheets.page import Drawing
from gwiazda.core.drawing.sheets.protoboards import board_drawing, hole_name, layout_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Loom, Plan
from gwiazda.core.protoboard.layout import Layout
from gwiazda.core.quantities import counted
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.panels.panel import PanelCard, label
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.marks import BLACK, paint_mark

MADE = (("bought", "bought ready"), ("strip board", "strip board"), ("pad board", "pad board"))
MOST_PX_MM = 7.0  # a small board isn't blown up beyond that
PAPER = QColor("#ffffff")  # it is a sheet to be printed, on any theme


class BoardPicture(Guarded, QWidget):
    """A board of holes, as its sheet has it, as wide as there is room."""

    def __init__(self) -> None:
        super().__init__()
        self._drawing: Drawing | None = None

    def show_drawing(self, drawing: Drawing | None, words: str) -> None:
        """A drawing, and in words what it shows."""
        self._drawing = drawing
        self.setVisible(drawing is not None)
        self.setAccessibleName(words)
        self._fit()
        self.update()

    def _scale(self) -> float:
        return min(self.width() / self._drawing.width_mm, MOST_PX_MM) if self._drawing is not None else 1.0

    def _fit(self) -> None:
        if self._drawing is not None:
            self.setFixedHeight(round(self._drawing.height_mm * self._scale()))

    def sizeHint(self) -> QSize:
        return QSize(240, self.height())

    def resizeEvent(self, event: Any) -> None:
        self._fit()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._drawing is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), PAPER)
        scale = self._scale()
        painter.translate((self.width() - self._drawing.width_mm * scale) / 2.0, 0.0)
        painter.scale(scale, scale)
        for mark in self._drawing.marks:
            paint_mark(painter, mark, BLACK)
        painter.end()


class ProtoboardCard(PanelCard):
    """A board of holes: which, from which side, its parts."""

    task: ClassVar[str] = "protoboard"

    def build(self) -> None:
        card = self.card
        self.words = card.consequence()
        self.picture = BoardPicture()
        self.picture.setVisible(False)
        card.outer.addWidget(self.picture)
        holder = QWidget()
        row = QHBoxLayout(holder)
        row.setContentsMargins(0, 0, 0, 0)
        self.turn = QPushButton("From below")
        self.turn.setToolTip("Turn it over: the tracks as they lie in the hand, with their cuts")
        self.turn.clicked.connect(self._turn)
        self.other = QPushButton("Next board")
        self.other.setToolTip("The parts take more than one board")
        self.other.clicked.connect(self._next)
        row.addWidget(self.turn)
        row.addWidget(self.other)
        row.addStretch(1)
        card.outer.addWidget(holder)
        self.parts = label("", "muted", wrap=True)
        card.outer.addWidget(self.parts)
        self.below, self.at = False, 0
        self.boards: tuple[MadeBoard, ...] = ()
        self.layout: Layout | None = None
        self._asked: object = None

    def made(self) -> tuple[MadeBoard, ...]:
        """The boards that it is about."""
        return ()

    def take_over(self, old: Any) -> None:
        self.below, self.at = old.below, old.at
        self.say()

    def _turn(self) -> None:
        self.below = not self.below
        self._draw()

    def _next(self) -> None:
        self.at += 1
        self.say()

    def say(self) -> None:
        self.boards = self.made()
        if not self.boards:
            self._asked, self.layout = None, None
            self._show("", None)
            return
        self.at %= len(self.boards)
        board = self.boards[self.at]
        if not board.components:
            self._asked, self.layout = None, None
            self._show(board.fault, None)
            return
        if board == self._asked:
            return
        self._asked, self.layout = board, None
        self._show("Laid out…", None)
        # By the board alone: whatever else of the plan changes meanwhile, its layout is wanted.
        self.panel.task(self.task).ask(None, lambda: _laid(board), self._take, self._forget)

    def _forget(self) -> None:
        self._asked = None

    def _take(self, result: tuple[Layout | None, str]) -> None:
        self.layout, fault = result
        if self.layout is None:
            self._show(fault, None)
            return
        self._draw()

    def _draw(self) -> None:
        if self.layout is None or not self.boards:
            return
        board, layout = self.boards[self.at % len(self.boards)], self.layout
        wide, high = layout.size_mm
        words = (
            f"<b>{board.name}</b>: {layout.columns} by {layout.rows} holes, {wide:.0f} × {high:.0f} mm; {counted(len(layout.links), 'link')}"
            + (
                f", {counted(len(layout.cuts), 'cut')}"
                if layout.kind == "strip"
                else f", {counted(len(layout.runs), 'wire')} below"
            )
            + (f". Board {self.at + 1} of {len(self.boards)}." if len(self.boards) > 1 else ".")
        )
        self._show(words, board_drawing(layout, self.below))
        lines = [
            f"<b>{marks}</b> {what}" + (f", {tell}" if tell else "")
            for marks, what, tell in parts_list(board, self.plan.drawer.series)
        ]
        lines += [
            f"<b>{p.part.ref}</b> {p.part.value}, {hole_name(p.holes[0])}"
            for p in layout.placed
            if p.part.shape == "lead"
        ]
        self.parts.setText("<br>".join([*lines, *board.notes]))

    def _show(self, words: str, drawing: Drawing | None) -> None:
        self.words.setText(words)
        self.words.setVisible(bool(words))
        side = "from below" if self.below else "from above"
        self.picture.show_drawing(drawing, f"The board {side}")
        self.turn.setVisible(drawing is not None)
        self.turn.setText("From above" if self.below else "From below")
        self.other.setVisible(len(self.boards) > 1)
        self.parts.setVisible(drawing is not None)


def _laid(board: MadeBoard) -> tuple[Layout | None, str]:
    try:
        return layout_of(board.components, board.kind), ""
    except GwiazdaError as error:
        return None, str(error)


class SolderedBoardCard(ProtoboardCard):
    """What of a board is soldered: its timer or counter, or its stages."""

    title = "On strip or pad board"
    model = Board
    fields = (
        Field("made", "How it is made", Choice(MADE), "Bought ready, or soldered on a board of holes: laid out here, printed at true size", "Make the board", name="How it is made"),
    )  # fmt: skip

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_board(plan, items[0].id, **fields)

    def made(self) -> tuple[MadeBoard, ...]:
        return board_made(self.document.assessed_plan, self.document.assessment, self.first)


class ResistorBoardCard(ProtoboardCard):
    """The resistors of all strings on a board."""

    title = "Resistors on a board"
    extra = True
    folds = True
    model = Loom
    fields = (
        Field(
            "resistors", "Resistors sit", Choice((("at the lamps", "at the lamps"), *MADE[1:])), "Each at its lamps, or all of a source on one board",
            "Place the resistors", name="Where resistors sit",
        ),
    )  # fmt: skip

    def items(self) -> list[Any]:
        return [self.plan.loom]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return edits.set_loom(plan, **fields)

    def made(self) -> tuple[MadeBoard, ...]:
        return tuple(resistor_boards(self.document.assessed_plan, self.document.assessment))
