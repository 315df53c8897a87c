"""Panel for what holds lamps: its form, size and sheet, how it goes in, its pieces as they are cut."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QWidget

from gwiazda.core.assess.carrier.propose import FORMS, WORDS, propose
from gwiazda.core.assess.carrier.way_in import way_in
from gwiazda.core.assess.carrier.work import pieces_minutes
from gwiazda.core.carrier.design import others
from gwiazda.core.carrier.pieces import Piece
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.exchange.carriers import pieces_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES
from gwiazda.core.plan.lookup import find, lamps_on, section_of
from gwiazda.core.plan.model import Carrier, Opening, Plan, Section, copy_unchecked
from gwiazda.core.quantities import counted, parse_number
from gwiazda.desktop.inspector.cards import Panel, clear, common
from gwiazda.desktop.inspector.items_panel import ItemsPanel
from gwiazda.desktop.inspector.reading import read_size
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


class CarrierPanel(ItemsPanel[Carrier]):
    """One or several carriers."""

    kind = Carrier

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("What holds the lamps", "light", "measure")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Name the carrier", name=v))
        card.row("Name", self.name)
        self.form = self.choice("Form", [(f, WORDS[f]) for f in FORMS], self._take_form)
        card.row("Form", self.form)
        sheets = [(s.id, s.name) for s in self.document.catalogue.sheets.values()]
        self.sheet = self.choice("Sheet", sheets, lambda v: self._set("Change the sheet", sheet=v))
        card.row("Cut from", self.sheet)
        self.sizes = [
            self.value(f"{a} size in mm", read_size, lambda v, i=i: self._take_size(i, v), "mm of the box it fills")
            for i, a in enumerate("xyz")
        ]
        card.row("Size, mm", *self.sizes)
        self.facing = self.choice(
            "Lamps look", [(f, WAYS[f]) for f in FACE_NAMES], lambda v: self._set("Turn it", facing=v)
        )
        card.row("Lamps look", self.facing)
        self.kit = QCheckBox("a part of the kit: only drilled")
        self.kit.setToolTip("A bracket, bulkhead or floor that the kit has: the pattern shows where to drill it")
        self.kit.clicked.connect(lambda on: self._set("A part of the kit" if on else "Cut it", own=not on))
        card.row("", self.kit)
        self.facts = card.consequence()
        cut = self.card("As it is cut", "light", "measure", "build")
        self.picture = PatternPicture()
        cut.outer.insertWidget(0, self.picture)
        self.notch = [
            self.value(f"Notch {w} in mm", lambda t: parse_number(t, "Notch", 0, 100, "mm"), lambda v, i=i: self._take_notch(i, v), "for the wires; 0 for none")
            for i, w in enumerate(("width", "height"))
        ]  # fmt: skip
        cut.row("Wire notch, mm", *self.notch)
        self.divider = self.value(
            "Dividing wall", self._read_divider, lambda v: self._set("Move the dividing wall", divider=v),
            "% from the middle, −49 to 49; empty for none",
        )  # fmt: skip
        cut.row("Wall position", self.divider)
        self.tabs = self.value(
            "Tabs per wall", lambda t: int(parse_number(t, "Tongues", 0, 12)), lambda v: self._set("Change the tongues", tabs=v), "0 to 12 for each wall"
        )  # fmt: skip
        cut.row("Tabs per wall", self.tabs)
        out = QPushButton("Cutting pattern, solid…")
        out.setToolTip("True size as SVG, PDF or DXF; as STL to print")
        out.clicked.connect(self._take_out)
        cut.outer.addWidget(out)
        way = self.card("How it goes in", "light", "measure")
        self.enters = self.choice(
            "Inserted through",
            [(f, f"the {f}") for f in FACE_NAMES],
            lambda v: self._set("Another way in", enters=v, through=""),
        )
        way.row("Inserted through", self.enters)
        self.through = self.choice("Through", [("", "the open face")], lambda v: self._set("Another way in", through=v))
        way.row("Through", self.through)
        self.way = way.consequence()
        self.place_card("measure")

    def _read_divider(self, text: str) -> float | None:
        bare = text.strip().rstrip("%").strip()
        return parse_number(bare, "Dividing wall", -49, 49, "%") / 100 if bare else None

    def _take_form(self, form: str) -> None:
        """Another form for the same lamps, proposed anew in size; a carrier without lamps only changes its form."""

        def change(plan: Plan) -> Plan:
            for c in self.items():
                try:
                    new = propose(self.document.catalogue, plan, c.section, form)  # type: ignore[arg-type]
                except GwiazdaError:
                    new = copy_unchecked(c, form=form)
                keep = {"id": c.id, "enters": c.enters, "through": c.through, "sheet": c.sheet}
                plan = edits.replace(plan, {c.id: copy_unchecked(new, **keep)})
            return plan

        self.document.edit("Change its form", change)

    def _take_size(self, axis: int, value: float) -> None:
        def change(plan: Plan) -> Plan:
            for c in self.items():
                size = list(c.size)
                size[axis] = value
                plan = edits.set_fields(plan, [c.id], size=tuple(size))
            return plan

        self.document.edit("Change its size", change)

    def _take_notch(self, index: int, value: float) -> None:
        def change(plan: Plan) -> Plan:
            for c in self.items():
                notch = list(c.notch_mm)
                notch[index] = value
                plan = edits.set_fields(plan, [c.id], notch_mm=tuple(notch))
            return plan

        self.document.edit("Change the notch", change)

    def _take_out(self) -> None:
        window = self.window()
        files = getattr(window, "files", None)
        if files is not None:
            files.ask_carriers([c.id for c in self.items()])

    def refresh(self) -> None:
        here = self.items()
        if not here:
            return
        first, plan = here[0], self.plan
        self.heading.setText((first.name or first.form) if len(here) == 1 else counted(len(here), "carrier"))
        self.about.setText(f"in {section_of(plan, first.section).name}")
        self.name.show_value(str(common([c.name for c in here]) or ""))
        for field, values in (
            (self.form, [c.form for c in here]),
            (self.sheet, [c.sheet for c in here]),
            (self.facing, [c.facing for c in here]),
            (self.enters, [c.enters for c in here]),
        ):
            value = common(values)
            field.show_value(str(value) if value is not None else "several")
        for axis in range(3):
            size, at = common([c.size[axis] for c in here]), common([c.at[axis] for c in here])
            self.sizes[axis].show_value(f"{size:g}" if size is not None else "")
            self.place[axis].show_value(f"{at:g}" if at is not None else "")
        for index, notch_field in enumerate(self.notch):
            notch = common([c.notch_mm[index] for c in here])
            notch_field.show_value(f"{notch:g}" if notch is not None else "")
        divider = common([c.divider for c in here])
        self.divider.show_value(f"{divider * 100:.4g} %" if isinstance(divider, float) else "")
        self.divider.setEnabled(all(c.form == "tray" for c in here))
        tabs = common([c.tabs for c in here])
        self.tabs.show_value(f"{tabs:g}" if tabs is not None else "")
        self.kit.setChecked(all(not c.own for c in here))
        self._show_through(first)
        self._show_facts(first)
        self._show_way(first)

    def _show_through(self, first: Carrier) -> None:
        mine = [o for o in self.plan.openings if first.section in (o.section, o.into) and o.hole]
        entries = [("", "the open face"), *((o.id, f"{o.id}, {o.width_mm:g} × {o.height_mm:g} mm") for o in mine)]
        if [self.through.itemData(i) for i in range(self.through.count())] != [i for i, _ in entries]:
            self.through.clear()
            for value, words in entries:
                self.through.addItem(words, value)
        self.through.show_value(first.through)

    def _show_facts(self, first: Carrier) -> None:
        plan, catalogue = self.plan, self.document.catalogue
        held = lamps_on(first, plan.lamps)
        names = ", ".join(p.id for p in held[:3]) + (" …" if len(held) > 3 else "")
        try:
            pieces = pieces_in(catalogue, plan, first)
        except GwiazdaError as error:
            self.picture.show_pieces(())
            self.facts.setText(str(error))
            return
        self.picture.show_pieces(pieces)
        count, minutes = pieces_minutes(catalogue, first)
        area = sum(p.size[0] * p.size[1] for p in pieces)
        self.facts.setText(
            f"It holds <b>{counted(len(held), 'lamp')}</b>{': ' + names if names else ''}. {counted(count, 'piece')} of sheet, "
            f"{math.ceil(area / 100)} cm² in all, about {minutes:.0f} min to cut and glue."
        )

    def _show_way(self, first: Carrier) -> None:
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


class HoldsCard:
    """In a section's panel: its carriers, and one proposed for its lamps."""

    def __init__(self, panel: Panel) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card("Lamp carrier", "light", "measure")
        self.form = panel.choice(
            "Form of the carrier", [("", "as suits them"), *((f, WORDS[f]) for f in FORMS)], lambda v: None
        )
        self.card.row("Form", self.form)
        self.form.show_value("")
        ask = QPushButton("Propose a carrier for its lamps")
        ask.setToolTip("Height, lamp holes, wire notch and walls from the section’s profile and its lamps")
        ask.clicked.connect(self._propose)
        self.card.outer.addWidget(ask)
        self.rows = QHBoxLayout()
        self.card.outer.addLayout(self.rows)
        self.words = self.card.consequence()

    def _propose(self) -> None:
        section = next((i for i in self.document.selected_items() if isinstance(i, Section)), None)
        if section is None:
            return
        form = self.form.currentData() or None
        made: list[str] = []

        def change(plan: Plan) -> Plan:
            carrier = propose(self.document.catalogue, plan, section.id, form)
            made.append(carrier.id)
            return edits.add_carrier(plan, carrier)

        if self.document.edit("Add a carrier", change):
            self.document.select(made)

    def refresh(self, section: Section) -> None:
        clear(self.rows)
        mine = [c for c in self.panel.plan.carriers if c.section == section.id]
        for c in mine[:3]:
            button = QPushButton(WORDS[c.form])
            button.setAccessibleName(f"Pick {c.name or c.id}")
            button.setToolTip(f"{c.name}: {len(lamps_on(c, self.panel.plan.lamps))} lamps on it")
            button.clicked.connect(lambda _=False, i=c.id: self.document.select([i]))
            self.rows.addWidget(button)
        self.words.setText("" if mine else "Nothing yet: its lamps are glued to the walls.")
        self.words.setVisible(not mine)
