"""Panel for sections."""

from __future__ import annotations

import re
from typing import Any, cast

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy

from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.errors import QuantityError
from gwiazda.core.plan import edits, shapes
from gwiazda.core.plan.edits import patterns, twins, views
from gwiazda.core.plan.frame import PLANES, Side, from_sheet
from gwiazda.core.plan.model import Plan, Section, Wanted
from gwiazda.core.plan.svg_shapes import ClosedShape
from gwiazda.core.quantities import figure
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.carrier import HoldsCard
from gwiazda.desktop.inspector.features import FeatureChoice
from gwiazda.desktop.inspector.reading import LOOKS, read_mm, read_size
from gwiazda.desktop.inspector.section_cards import AwakeCard, ClosureCard, FewestCard, ObstacleCard
from gwiazda.desktop.stations.bench.variants import VariantsCard
from gwiazda.desktop.stations.build.cards import SectionBuildCard
from gwiazda.desktop.svg_trial import few_shapes, shapes_within_limits

SCHOOLS_OF_WORK = (("drill", "drilling and glazing"), ("mask", "masking and spraying"), ("scratch", "scratching free"))


def read_grid(text: str) -> tuple[int, int]:
    """``12 x 3`` as columns and rows."""
    match = re.fullmatch(r"\s*(\d{1,4})\s*[x×*]\s*(\d{1,3})\s*", text)
    if not match:
        raise QuantityError("Grid", f"“{text.strip()}” is not a grid", "columns x rows, such as 12 x 3")
    return int(match.group(1)), int(match.group(2))


def read_ring(text: str) -> tuple[int, float]:
    """``16 on 12 mm`` as count and radius."""
    match = re.fullmatch(r"\s*(\d{1,4})\s+on\s+(.+)", text)
    if not match:
        raise QuantityError("Ring", f"“{text.strip()}” is not a ring", "a count and a radius, such as 16 on 12 mm")
    return int(match.group(1)), read_size(match.group(2))


def read_colour(text: str) -> str:
    """``#8a6f4d``, or nothing for unpainted plastic."""
    bare = text.strip()
    if bare and not re.fullmatch(r"#[0-9a-fA-F]{6}", bare):
        raise QuantityError("Paint", f"“{bare}” is not a colour", "six hex digits such as #8a6f4d, or nothing")
    return bare.lower()


class SectionPanel(Panel):
    """A section: inner box, lining, glazing and the look of all its lamps."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._box_card()
        self._look_card()
        self._opening_card()
        self.cards = (
            AwakeCard(self),
            FewestCard(self),
            ClosureCard(self),
            ObstacleCard(self),
            SectionBuildCard(self),
            HoldsCard(self),
        )
        self.variants = VariantsCard(self)

    def _box_card(self) -> None:
        """Its inner box, wall and paint, and what is done to all of it."""
        card = self.card("Inner box", "measure")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Rename", name=v))
        card.row("Name", self.name)
        self.sizes = [
            self.value(
                f"{w} in mm",
                read_size,
                lambda v, i=i: self._take_size(i, v),
                f"inner {w}, from the callipers",
            )
            for i, w in enumerate(("length", "breadth", "height"))
        ]
        card.row("Length", self.sizes[0])
        card.row("Width", self.sizes[1])
        card.row("Height", self.sizes[2])
        self.corner = [
            self.value(f"{a} of the lowest corner", read_mm, lambda v, i=i: self._take_corner(i, v))
            for i, a in enumerate("xyz")
        ]
        card.row("Corner", *self.corner)
        self.wall = self.value(
            "Wall thickness", read_size, lambda v: self._set("Change wall", wall_mm=v), "1.2 mm or 1/16 in"
        )
        self.plastic = self.choice(
            "Plastic of this part",
            [("", "as the kit"), *((p.id, p.name) for p in self.document.catalogue.plastics.values())],
            lambda v: self._set("Change plastic", plastic=v),
        )
        card.row("Wall, mm", self.wall, self.plastic)
        self.colour = self.value(
            "Paint outside", read_colour, lambda v: self._set("Change colour", colour=v), "a colour such as #8a6f4d"
        )
        self.colour.setPlaceholderText("#8a6f4d")
        self.pick_colour = QPushButton()
        self.pick_colour.setAccessibleName("Pick the paint’s colour")
        self.pick_colour.setToolTip("Pick the paint’s colour")
        self.pick_colour.setFixedWidth(34)
        self.pick_colour.clicked.connect(self._pick_colour)
        card.row("Paint", self.colour, self.pick_colour)
        propose = QPushButton("Propose it from the outlines")
        propose.setToolTip("The largest box inside the outlines, set in by the wall")
        propose.clicked.connect(self._box_from_outlines)
        turn = QPushButton("Turn round")
        turn.setToolTip("Mirror it end for end in the view that is shown, with all that is in it")
        turn.clicked.connect(self._turn_round)
        across = QPushButton("Copy to other side")
        across.setToolTip("A copy on the other side of the model’s middle, with all that is in it")
        across.clicked.connect(self._copy_across)
        card.outer.addWidget(propose)
        buttons = QHBoxLayout()
        for button in (turn, across):
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            buttons.addWidget(button)
        card.outer.addLayout(buttons)
        self.feature = FeatureChoice(self)
        card.row("Feature", self.feature)

    def _look_card(self) -> None:
        """What its windows are to look like."""
        inside = self.card("Look, lining, glazing", "light", "measure")
        self.lining = self.choice(
            "Lining",
            [(g.id, g.name) for g in self.document.catalogue.linings.values()],
            lambda v: self._set("Change lining", lining=v),
        )
        inside.row("Lining", self.lining)
        self.glazing = self.choice(
            "Glazing",
            [(g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in self.document.catalogue.glazings.values()],
            lambda v: self._set("Change glazing", glazing=v),
        )
        inside.row("Glazing", self.glazing)
        self.look = self.choice("Look of all its lamps", (*LOOKS, ("figure", "a figure")), self._take_look)
        inside.row("Look", self.look)
        self.facts = inside.consequence()

    def _opening_card(self) -> None:
        card = self.card("Openings", "measure")
        self.grid = self.value(
            "Grid", read_grid, self._take_grid, "12 x 3: columns and rows over the wall that is shown"
        )
        card.row("Grid", self.grid)
        self.ring = self.value("Ring", read_ring, self._take_ring, "16 on 12 mm: windows round a circle")
        card.row("Ring", self.ring)
        self.grid.setPlaceholderText("12 x 3")
        self.ring.setPlaceholderText("16 on 12 mm")
        self.from_svg = QPushButton("Take them from the drawing’s shapes")
        self.from_svg.setToolTip("Closed shapes of the SVG behind this view that lie within the section’s outline")
        self.from_svg.clicked.connect(self._take_shapes)
        card.outer.addWidget(self.from_svg)
        self.school = self.choice(
            "School of window work", SCHOOLS_OF_WORK, lambda v: self._set("Change school", school=v)
        )
        card.row("Window method", self.school)
        self.work = card.consequence()

    def _take_shapes(self) -> None:
        section, side = self.section(), self._side()
        view = next((v for v in self.plan.views if v.side == side), None)
        if section is None or view is None or view.drawing is None:
            return
        drawing, data = view.drawing, self.document.pictures.get(view.drawing.picture, b"")

        def done(shapes: tuple[ClosedShape, ...]) -> None:
            made: list[str] = []

            def change(plan: Plan) -> Plan:
                drawn = [
                    (s.kind, [from_sheet(side, *views.sheet_place(drawing, *p)) for p in s.points]) for s in shapes
                ]
                plan, new = patterns.openings_from_shapes(plan, section, side, drawn)
                made.extend(new)
                return plan

            if self.document.edit("Openings from the drawing", change):
                self.document.message.emit(f"{len(made)} openings taken from the drawing.", "info")

        self.task("shapes").ask(self.plan, lambda: shapes_within_limits(data), done, at_once=few_shapes(data))

    def _side(self) -> Side:
        return self.document.shown_side

    def _take_grid(self, value: object) -> None:
        section, side = self.section(), self._side()
        if section is None:
            return
        columns, rows = cast("tuple[int, int]", value)
        h, v, _ = PLANES[side]
        low, size = section.box.at, section.box.size
        inset_h, inset_v = size[h] * 0.06, size[v] * 0.2
        start = (low[h] + inset_h, low[v] + (inset_v if rows > 1 else size[v] / 2))
        end = (low[h] + size[h] - inset_h, low[v] + size[v] - inset_v)
        self.document.edit(
            f"Add a grid of {columns} × {rows}",
            lambda plan: patterns.add_grid(plan, section, side, start, end, columns, rows)[0],
        )
        self.grid.setText("")

    def _take_ring(self, value: object) -> None:
        section, side = self.section(), self._side()
        if section is None:
            return
        count, radius = cast("tuple[int, float]", value)
        h, v, _ = PLANES[side]
        centre = (section.box.centre[h], section.box.centre[v])
        self.document.edit(
            f"Add a ring of {count}", lambda plan: patterns.add_ring(plan, section, side, centre, radius, count)[0]
        )
        self.ring.setText("")

    def _box_from_outlines(self) -> None:
        section = self.section()
        if section is not None:
            self.document.edit(
                "Inner box from the outlines",
                lambda plan: edits.set_fields(plan, [section.id], box=shapes.box_from_outlines(section)),
            )

    def _turn_round(self) -> None:
        ids, axis = list(self.document.selection), PLANES[self._side()][0]
        self.document.edit("Turn round", lambda plan: twins.turn_round(plan, ids, axis))

    def _copy_across(self) -> None:
        ids, made = list(self.document.selection), []

        def change(plan: Plan) -> Plan:
            plan, new = twins.copy_across(plan, ids)
            made.extend(new)
            return plan

        if self.document.edit("Copy to the other side", change):
            self.document.select(made)

    def _pick_colour(self) -> None:
        from PySide6.QtGui import QColor
        from PySide6.QtWidgets import QColorDialog

        section = self.section()
        start = QColor(section.colour) if section and section.colour else QColor("#b8b8b0")
        chosen = QColorDialog.getColor(start, self, "Paint outside")
        if chosen.isValid():
            self._set("Change colour", colour=chosen.name())

    def section(self) -> Section | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Section)), None)

    def _set(self, what: str, **fields: object) -> None:
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _take_size(self, axis: int, value: object) -> None:
        self._take_box(axis, size=float(value))  # type: ignore[arg-type]

    def _take_corner(self, axis: int, value: object) -> None:
        self._take_box(axis, corner=float(value))  # type: ignore[arg-type]

    def _take_box(self, axis: int, size: float | None = None, corner: float | None = None) -> None:
        section = self.section()
        if section is None:
            return
        plain = section.outlines == edits.outline_from_box(section).outlines
        sizes, at = list(section.box.size), list(section.box.at)
        if size is not None:
            # The middle stays where it is.
            at[axis] += (sizes[axis] - size) / 2
            sizes[axis] = size
        if corner is not None:
            at[axis] = corner

        def change(plan: Plan) -> Plan:
            fresh = edits.copy_checked(section, box=edits.copy_checked(section.box, at=tuple(at), size=tuple(sizes)))
            # Outlines that are no more than the box follow it; traced ones stay.
            return edits.replace(plan, {section.id: edits.outline_from_box(fresh) if plain else fresh})

        self.document.edit("Change inner box", change)

    def _take_look(self, value: Any) -> None:
        if value == "figure":
            self.refresh()
            return
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, Wanted(look=value)))

    def refresh(self) -> None:
        section = self.section()
        if section is None:
            return
        self.variants.refresh()
        for card in self.cards:
            card.refresh(section)
        state = self.assessment.sections.get(section.id)
        self.school.show_value(section.school)
        self.plastic.show_value(section.plastic)
        self.colour.show_value(section.colour)
        self.pick_colour.setStyleSheet(f"background: {section.colour};" if section.colour else "")
        self.feature.refresh()
        view = next((v for v in self.plan.views if v.side == self._side()), None)
        self.from_svg.setVisible(bool(view and view.drawing and view.drawing.picture.lower().endswith(".svg")))
        work = next((e for e in effort_of(self.plan, self.document.catalogue) if e.of == section.id), None)
        self.work.setText(
            f"{work.panes} panes, {work.holes} holes, {work.joints} joints: about <b>{work.hours:.1f} h</b> of work."
            if work
            else ""
        )
        self.heading.setText(section.name)
        x, y, z = section.box.size
        count = sum(o.section == section.id for o in self.plan.openings)
        self.about.setText(
            f"box {figure(x, 4)} × {figure(y, 4)} × {figure(z, 4)} mm, {count} openings"
            + (f", {state.lit} lit" if state else "")
        )
        self.name.show_value(section.name)
        for field, value in zip(self.sizes, section.box.size, strict=True):
            field.show_value(f"{value:g}")
        for field, value in zip(self.corner, section.box.at, strict=True):
            field.show_value(f"{value:g}")
        self.wall.show_value(f"{section.wall_mm:g}")
        self.lining.show_value(section.lining)
        self.glazing.show_value(section.glazing)
        inside = [
            p for p in self.plan.lamps if (s := self.assessment.lamps.get(p.id)) is not None and s.section == section.id
        ]
        self.look.setEnabled(bool(inside))
        # Of an empty section, what its first lamp will be given.
        looks = [p.wanted.look or "figure" for p in inside] or ["normal"]
        self.look.show_value(str(common(looks) or ""))
        if state is None or not inside:
            self.facts.setText("No lamp inside yet: press L and click in it.")
        else:
            even = f" Darkest window {state.evenness:.2f} of the mean." if state.evenness is not None else ""
            self.facts.setText(
                f"<b>{figure(state.mean_cd_m2)} cd/m²</b> of {figure(state.wanted_cd_m2)} wanted, from {state.lamps} {'lamp' if state.lamps == 1 else 'lamps'} giving "
                f"{figure(state.flux_lm)} lm; walls throw {state.reflectance * 100:.1f} % back.{even}"
            )
