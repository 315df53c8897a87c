"""Panel for what holds lamps: its form, size and sheet, how it goes in, its pieces as they are cut."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from gwiazda.core.assess.carriers.propose import FORMS, WORDS, propose
from gwiazda.core.assess.carriers.way_in import way_in
from gwiazda.core.assess.carriers.work import pieces_minutes
from gwiazda.core.carrier.design import others
from gwiazda.core.carrier.pieces import Piece
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES
from gwiazda.core.plan.lookup import find, lamps_on, section_of
from gwiazda.core.plan.model import LIMIT_MM, Carrier, Opening, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import name_of, names_of
from gwiazda.core.quantities import counted
from gwiazda.desktop.forms.common import name_field, nth, parts, place_fields
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, millimetres, whole
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, clear
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import SMALL_PX
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

HIGH_PX, GAP_PX = 150, 7.0
WAYS = {
    "stern": "astern",
    "bow": "ahead",
    "starboard": "to starboard",
    "port": "to port",
    "bottom": "down",
    "top": "up",
}


class PatternPicture(Guarded, QWidget):
    """The pieces as they are cut, all to one scale."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pieces: tuple[Piece, ...] = ()
        self.setFixedHeight(HIGH_PX)

    def sizeHint(self) -> QSize:
        return QSize(258, HIGH_PX)

    def show_pieces(self, pieces: Sequence[Piece]) -> None:
        self.pieces = tuple(pieces)
        self.setVisible(bool(self.pieces))
        self.setAccessibleName(
            "Pieces: " + ", ".join(f"{p.name} {p.size[0]:.1f} × {p.size[1]:.1f} mm" for p in self.pieces)
        )
        # As high as its rows at the full width, up to a limit: a lone strip takes one line.
        self._fit_height()
        self.setToolTip("\n".join(f"{p.name}: {p.size[0]:.1f} × {p.size[1]:.1f} mm" for p in self.pieces))
        self.update()

    def placed(self, scale: float) -> list[tuple[Piece, float, float, bool]]:
        """Pieces in rows at a scale (px a mm): place of their upper left corner, and whether they stand on end."""
        out, x, y, high = [], 0.0, 0.0, 0.0
        for piece in self.pieces:
            turned = piece.size[1] > piece.size[0]
            wide, tall = piece.size[::-1] if turned else piece.size
            if x > 0 and x + wide * scale > self.width() - 2:
                x, y, high = 0.0, y + high + GAP_PX, 0.0
            out.append((piece, x, y, turned))
            x, high = x + wide * scale + GAP_PX, max(high, tall * scale)
        return out

    def _scale(self) -> float:
        """The largest at which all pieces are within the picture."""
        longest = max(max(p.size) for p in self.pieces)
        scale = (self.width() - 4) / longest
        while scale > 0.05:
            rows = self.placed(scale)
            low = max(y + min(p.size) * scale for p, _, y, _ in rows)
            if low <= HIGH_PX - 4:
                return scale
            scale *= 0.94
        return scale

    def _fit_height(self) -> None:
        if self.pieces and self.width() > 60:
            scale = self._scale()
            low = max(y + min(p.size) * scale for p, _, y, _ in self.placed(scale))
            self.setFixedHeight(min(HIGH_PX, max(int(low) + 6, 16)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        if event.size().width() != event.oldSize().width():
            self._fit_height()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self.pieces:
            return
        painter, theme = QPainter(self), theme_of(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scale = self._scale()
        painter.setFont(text_font(SMALL_PX))
        for piece, x, y, turned in self.placed(scale):

            def place(p: tuple[float, float], x: float = x, y: float = y, turned: bool = turned) -> QPointF:
                a, b = p[::-1] if turned else p
                return QPointF(2 + x + a * scale, 2 + y + b * scale)

            painter.setPen(QPen(theme.colour("ink"), 1.1))
            painter.setBrush(theme.colour("carrier", 150))
            painter.drawPolygon(QPolygonF([place(p) for p in piece.outside]))
            painter.setBrush(theme.colour("card"))
            for ring in piece.cut:
                painter.drawPolygon(QPolygonF([place(p) for p in ring]))
            if not piece.cut and not piece.holes:
                wide, tall = piece.size[::-1] if turned else piece.size
                rect = QRectF(2 + x, 2 + y, wide * scale, tall * scale)
                if painter.fontMetrics().horizontalAdvance(piece.name) < rect.width() - 4 and rect.height() > 13:
                    painter.setPen(theme.colour("ink"))
                    painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, piece.name)
        painter.end()


def heading(panel: Panel) -> tuple[str, str]:
    here: list[Carrier] = panel.items()
    name = (name_of(panel.plan, here[0].id)) if len(here) == 1 else counted(len(here), "carrier")
    return name, f"in {section_of(panel.plan, here[0].section).name}"


def _take_form(card: CarrierCard, form: str) -> None:
    """Another form for the same lamps, proposed anew in size; a carrier without lamps only changes its form."""
    catalogue, items = card.document.catalogue, card.items()

    def change(plan: Plan) -> Plan:
        for c in items:
            try:
                new = propose(catalogue, plan, c.section, form)  # type: ignore[arg-type]
            except GwiazdaError:
                new = copy_unchecked(c, form=form)
            keep = {"id": c.id, "enters": c.enters, "through": c.through, "sheet": c.sheet}
            plan = edits.replace(plan, {c.id: copy_unchecked(new, **keep)})
        return plan

    card.document.edit("Change its form", change)


def _put_in(path: str, index: int) -> Callable[[Plan, list[Any], float], Plan]:
    """A ``put`` that sets one of the numbers of an attribute."""

    def put(plan: Plan, items: list[Any], value: float) -> Plan:
        for c in items:
            values = list(getattr(c, path))
            values[index] = value
            plan = edits.set_fields(plan, [c.id], **{path: tuple(values)})
        return plan

    return put


def _numbers(path: str, labels: Sequence[str], low: float, high: float, words: str, edit: str) -> tuple[Field, ...]:
    """A field for each of the numbers of an attribute."""
    return tuple(
        Field(f"{path}[{i}]", label, millimetres(low, high), words, edit, get=nth(path, i), put=_put_in(path, i))
        for i, label in enumerate(labels)
    )  # fmt: skip


class CarrierCard(PanelCard):
    """Its form, sheet and size."""

    title = "What holds the lamps"
    model = Carrier
    fields = (
        name_field("carrier"),
        Field("form", "Form", Choice([(f, WORDS[f]) for f in FORMS]), "What it is: a board, a tray, a bracket", get=lambda c: c.form, takes=_take_form),
        Field("sheet", "Cut from", Choice(parts("sheets")), "The sheet it is cut from: its thickness goes into every piece", "Change the sheet", name="Sheet"),
        *_numbers("size", ("Length", "Width", "Height"), 0.001, LIMIT_MM, "Of the box it fills", "Change its size"),
        Field("facing", "Lamps look", Choice([(f, WAYS[f]) for f in FACE_NAMES]), "Which way the lamps on it look", "Turn it"),
        Field("own", "", Flag("a part of the kit: only drilled"), "A bracket, bulkhead or floor that the kit has: the pattern shows where to drill it",
              "A part of the kit", get=lambda c: not c.own, put=lambda plan, items, v: edits.set_fields(plan, [c.id for c in items], own=not v)),
    )  # fmt: skip

    def build(self) -> None:
        self.facts = self.card.consequence()

    def say(self) -> None:
        from gwiazda.core.exchange.carriers import pieces_in

        first: Carrier = self.first
        held = lamps_on(first, self.plan.lamps)
        names = names_of(self.plan, (p.id for p in held), 3)
        try:
            pieces = pieces_in(self.document.catalogue, self.plan, first)
        except GwiazdaError as error:
            self.facts.setText(str(error))
            return
        count, minutes = pieces_minutes(self.document.catalogue, first)
        area = sum(p.size[0] * p.size[1] for p in pieces)
        self.facts.setText(
            f"It holds <b>{counted(len(held), 'lamp')}</b>{': ' + names if names else ''}. {counted(count, 'piece')} of sheet, "
            f"{math.ceil(area / 100)} cm² in all, about {minutes:.0f} min to cut and glue."
        )


class PatternCard(PanelCard):
    """Its pieces as they are cut."""

    title = "As it is cut"
    model = Carrier
    fields = (
        *_numbers("notch_mm", ("Notch width", "Notch height"), 0, 100, "The notch its wires go through; 0 for none", "Change the notch"),
        Field("divider", "Wall position", Number("%", -49, 49, factor=100.0, none="none"), "Where a tray’s dividing wall stands, from the middle; empty for none",
              "Move the dividing wall", name="Dividing wall", enabled=lambda card: all(c.form == "tray" for c in card.items())),
        Field("tabs", "Tabs per wall", whole(), "How many tongues each wall is set into the floor with", "Change the tabs"),
    )  # fmt: skip

    def build(self) -> None:
        self.picture = PatternPicture()
        self.card.outer.insertWidget(0, self.picture)
        self.button("Cutting pattern, solid…", "True size as SVG, PDF or DXF; as STL to print", self._take_out)

    def _take_out(self) -> None:
        files = getattr(self.panel.window(), "files", None)
        if files is not None:
            files.ask_carriers([c.id for c in self.items()])

    def say(self) -> None:
        from gwiazda.core.exchange.carriers import pieces_in

        try:
            self.picture.show_pieces(pieces_in(self.document.catalogue, self.plan, self.first))
        except GwiazdaError:
            self.picture.show_pieces(())


def _ways_in(card: PanelCard) -> list[tuple[str, str]]:
    home = card.first.section
    mine = [o for o in card.plan.openings if home in (o.section, o.into) and o.hole]
    return [
        ("", "the open face"),
        *((o.id, f"{name_of(card.plan, o.id)}, {o.width_mm:g} × {o.height_mm:g} mm") for o in mine),
    ]


class WayInCard(PanelCard):
    """How it goes in."""

    title = "How it goes in"
    model = Carrier
    fields = (
        Field("enters", "Inserted through", Choice([(f, f"the {f}") for f in FACE_NAMES]), "From which side it is pushed in", "Another way in",
              put=lambda plan, items, v: edits.set_fields(plan, [c.id for c in items], enters=v, through="")),
        Field("through", "Opening", Choice(_ways_in), "Through which opening, or the open face before the section is closed", "Another way in", name="Through"),
    )  # fmt: skip

    def build(self) -> None:
        self.way = self.card.consequence()

    def say(self) -> None:
        first: Carrier = self.first
        opening = find(self.plan, first.through) if first.through else None
        way = way_in(section_of(self.plan, first.section), first, opening if isinstance(opening, Opening) else None)
        u, v = others(way.axis)
        words = f"{first.size[u]:g} × {first.size[v]:g} mm through {way.mouth[0]:g} × {way.mouth[1]:g} mm: "
        if way.fits:
            words += f"<b>{min(way.clear):.1f} mm</b> to spare."
        else:
            words += f"<b>{-min(way.clear):.1f} mm too large</b>; {way.most[0]:g} × {way.most[1]:g} mm would go in."
        if way.blocked:
            words += " On its way: " + ", ".join(f"{name} ({deep:g} mm)" for name, deep in way.blocked[:3]) + "."
        self.way.setText(words)


class CarrierPlaceCard(PanelCard):
    """Where it is."""

    title = "Place"
    model = Carrier
    fields = place_fields()


class HoldsCard(PanelCard):
    """In a section's panel: its carriers, and one proposed for its lamps."""

    title = "Lamp carrier"
    fields = (
        Field("form", "Form", Choice((("", "as suits them"), *((f, WORDS[f]) for f in FORMS))), "What is proposed", name="Form of the carrier",
              get=lambda s: "", takes=lambda card, v: None),
    )  # fmt: skip

    def build(self) -> None:
        self.button(
            "Propose a carrier for its lamps", "Height, lamp holes, wire notch and walls from the section’s profile and its lamps", self._propose
        )  # fmt: skip
        self.rows = QHBoxLayout()
        self.card.outer.addLayout(self.rows)
        self.words = self.card.consequence()
        self.form.show()

    def _propose(self) -> None:
        section: Section = self.first
        form = self.form.chosen("form").currentData() or None
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            carrier = propose(self.document.catalogue, plan, section.id, form)
            made.append(carrier.id)
            return edits.add_carrier(plan, carrier)

        if self.document.edit("Add a carrier", change):
            self.document.select(made)

    def refresh(self) -> None:
        # The form that was chosen stays: it is no field of the section.
        clear(self.rows)
        mine = [c for c in self.plan.carriers if c.section == self.first.id]
        for c in mine[:3]:
            button = button_of(
                WORDS[c.form], f"{c.name}: {len(lamps_on(c, self.plan.lamps))} lamps on it", partial(self.document.select, [c.id])
            )  # fmt: skip
            button.setAccessibleName(f"Pick {c.name or c.id}")
            self.rows.addWidget(button)
        self.words.setText("" if mine else "Nothing yet: its lamps are glued to the walls.")
        self.words.setVisible(not mine)
