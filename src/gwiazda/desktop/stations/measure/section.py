"""Sections picked: the inner box and its skin, openings in patterns, the look of all that is inside."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection
from functools import partial
from typing import Any

from PySide6.QtWidgets import QPushButton

from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.assess.lights.looks import tried_lamps
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import QuantityError
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import patterns, twins, views
from gwiazda.core.plan.frame import PLANES, from_sheet
from gwiazda.core.plan.model import LIMIT_MM, Box, Lamp, Plan, Section, Wanted
from gwiazda.core.plan.outline import shapes
from gwiazda.core.plan.outline.svg_shapes import ClosedShape
from gwiazda.core.quantities import figure
from gwiazda.desktop.forms.common import AXES, LIGHT, name_field, parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Quantity, millimetres, size
from gwiazda.desktop.forms.readers import LOOKS, read_size
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, common, side_by_side
from gwiazda.desktop.stations.light.look_tile import LookChoices
from gwiazda.desktop.svg_trial import few_shapes, shapes_within_limits

METHODS = (("drill", "drill and glaze"), ("mask", "mask and spray"), ("scratch", "scratch free"))


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
    """``#8a6f4d``, or nothing where it is unpainted."""
    bare = text.strip()
    if bare and not re.fullmatch(r"#[0-9a-fA-F]{6}", bare):
        raise QuantityError("Paint", f"“{bare}” is not a colour", "six hex digits such as #8a6f4d, or nothing")
    return bare.lower()


def heading(panel: Panel) -> tuple[str, str]:
    """Its name; its size, openings and how many are lit."""
    section: Section = panel.items()[0]
    state = panel.assessment.sections.get(section.id)
    x, y, z = section.box.size
    count = sum(o.section == section.id for o in panel.plan.openings)
    lit = f", {state.lit} lit" if state else ""
    return section.name, f"box {figure(x, 4)} × {figure(y, 4)} × {figure(z, 4)} mm, {count} openings{lit}"


def _with_box(plan: Plan, items: list[Section], axis: int, size: float | None = None, low: float | None = None) -> Plan:
    """Another inner size along an axis, its middle where it was, or another lowest corner."""
    section = items[0]
    plain = section.outlines == edits.outline_from_box(section).outlines
    sizes, at = list(section.box.size), list(section.box.at)
    if size is not None:
        at[axis] += (sizes[axis] - size) / 2
        sizes[axis] = size
    if low is not None:
        at[axis] = low
    fresh = edits.copy_checked(section, box=edits.copy_checked(section.box, at=tuple(at), size=tuple(sizes)))
    # Outlines that are no more than the box follow it; traced ones stay.
    return edits.replace(plan, {section.id: edits.outline_from_box(fresh) if plain else fresh})


def _of_box(path: str, axis: int) -> Callable[[Section], float]:
    return lambda section: float(getattr(section.box, path)[axis])


def _put_size(axis: int) -> Callable[[Plan, list[Section], float], Plan]:
    return lambda plan, items, value: _with_box(plan, items, axis, size=value)


def _put_corner(axis: int) -> Callable[[Plan, list[Section], float], Plan]:
    return lambda plan, items, value: _with_box(plan, items, axis, low=value)


def _box_fields() -> tuple[tuple[Field, ...], tuple[Field, ...]]:
    sizes = (
        Field(
            f"size[{i}]", label, size(), f"inner {words}, from the callipers", "Change inner box",
            get=_of_box("size", i), put=_put_size(i), name=f"{words} in mm",
        )
        for i, (label, words) in enumerate((("Length", "length"), ("Width", "breadth"), ("Height", "height")))
    )  # fmt: skip
    corners = (
        Field(
            f"at[{i}]", f"Corner, {axis.lower()}", millimetres(-LIMIT_MM, LIMIT_MM), f"Where its lowest corner is; {words}", "Change inner box",
            get=_of_box("at", i), put=_put_corner(i),
        )
        for i, (axis, words) in enumerate(AXES)
    )  # fmt: skip
    return tuple(sizes), tuple(corners)


SIZES, CORNERS = _box_fields()


class BoxCard(PanelCard):
    """Its inner box, wall and paint, and what is done to all of it."""

    title = "Inner box"
    model = Section
    fields = (
        name_field("section"),
        *SIZES,
        Field("wall_mm", "Wall thickness", millimetres(), "How thick its walls are: 1.2 mm or 1/16 in", "Change wall"),
        Field(
            "material", "Made of", Choice(parts("materials", ("", "as the kit"))), "What this part is made of, where not as the kit: plastic, resin, metal, wood, paper",
            "Change the material", name="Material of this part",
        ),
        Field(
            "colour", "Paint colour", Quantity(read_colour, placeholder="#8a6f4d"), "Its colour outside, such as #8a6f4d; empty where it is bare",
            "Change colour",
        ),
        LIGHT,
    )  # fmt: skip

    def build(self) -> None:
        self.pick_colour = QPushButton("")
        self.pick_colour.setAccessibleName("Pick the paint’s colour")
        self.pick_colour.setToolTip("Pick the paint’s colour")
        self.pick_colour.clicked.connect(self._pick_colour)
        self.card.row("", self.pick_colour)
        self.button(
            "Propose it from the outlines",
            "The largest box inside the outlines, set in by the wall",
            self._from_outlines,
        )
        turn = button_of(
            "Turn round", "Mirror it end for end in the view that is shown, with all that is in it", self._turn_round
        )
        across = button_of(
            "Copy to other side", "A copy on the other side of the model’s middle, with all that is in it", self._copy_across
        )  # fmt: skip
        self.card.outer.addLayout(side_by_side(turn, across))

    def say(self) -> None:
        colour = self.first.colour
        self.pick_colour.setText("" if colour else "pick a colour…")
        self.pick_colour.setStyleSheet(f"background: {colour};" if colour else "")

    def _from_outlines(self) -> None:
        section: Section = self.first
        self.document.edit(
            "Inner box from the outlines",
            lambda plan: edits.set_fields(plan, [section.id], box=shapes.box_from_outlines(section)),
        )

    def _turn_round(self) -> None:
        ids, axis = list(self.document.selection), PLANES[self.document.shown_side][0]
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

        start = QColor(self.first.colour or "#b8b8b0")
        chosen = QColorDialog.getColor(start, self.panel, "Paint outside")
        if chosen.isValid():
            self.set("Change colour", colour=chosen.name())


class SectionPlaceCard(PanelCard):
    """Where its lowest corner is."""

    title = "Place"
    model = Section
    fields = CORNERS


def lamps_in(card: PanelCard, sections: Collection[str]) -> list[Lamp]:
    """The lamps inside of sections."""
    states = card.panel.assessment.lamps
    return [p for p in card.plan.lamps if (s := states.get(p.id)) is not None and s.section in sections]


def _lamps_inside(card: PanelCard) -> list[Lamp]:
    return lamps_in(card, [card.first.id])


def _shares(inside: list[Lamp], assessment: Assessment) -> str:
    """Of their full light, what lamps give: one share, or from the least to the most."""
    shares = [assessment.lamps[p.id].share for p in inside]
    low, high = (f"{figure(x * 100, 2)} %" for x in (min(shares), max(shares)))
    return low if low == high else f"{low.removesuffix(' %')} to {high}"


def _take_look(card: PanelCard, look: Any) -> None:
    if look == "figure":
        card.refresh()
        return
    ids = [s.id for s in card.items()]
    card.document.edit("Change look", lambda plan: edits.set_wanted(plan, ids, Wanted(look=look)))


def show_looks(card: PanelCard, choices: LookChoices, inside: list[Lamp]) -> None:
    """Three looks for all lamps of a section, where a word says how bright they are to be and no resistor is fixed."""
    words = {p.wanted.look for p in inside}
    now = words.pop() if len(words) == 1 else None
    lamps = tuple(p.id for p in inside)
    free = bool(lamps) and now is not None and all(p.resistor_ohm is None for p in inside)
    choices.show(lamps, now or "", partial(tried_lamps, lamp_ids=lamps) if free else None)


class SectionLookCard(PanelCard):
    """What its windows are to look like."""

    title = "Look, lining, glazing"
    model = Section
    fields = (
        Field("lining", "Lining", Choice(parts("linings")), "What its inside is lined with: it throws the light about", "Change lining"),
        Field(
            "glazing", "Glazing", Choice(lambda card: [
                (g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in card.document.catalogue.glazings.values()
            ]), "What stands in its windows, and how much light that lets through", "Change glazing",
        ),
        Field(
            "look", "Brightness", Choice((*LOOKS, ("figure", "a figure"))), "How bright all its lamps make its windows", name="Look of all its lamps",
            get=lambda s: "", takes=_take_look, enabled=lambda card: bool(_lamps_inside(card)),
        ),
    )  # fmt: skip

    def build(self) -> None:
        self.facts = self.card.consequence()
        self.choices = LookChoices(self, partial(_take_look, self))

    def say(self) -> None:
        inside = _lamps_inside(self)
        show_looks(self, self.choices, inside)
        # Of an empty section, what its first lamp will be given.
        looks = [p.wanted.look or "figure" for p in inside] or ["normal"]
        self.form.chosen("look").show_value(str(common(looks) or ""))
        state = self.panel.assessment.sections.get(self.first.id)
        if state is None or not inside:
            self.facts.setText("No lamp inside yet: press L and click in it.")
            return
        even = f" Darkest window {state.evenness:.2f} of the mean." if state.evenness is not None else ""
        lamps = f"{state.lamps} {'lamp' if state.lamps == 1 else 'lamps'}"
        self.facts.setText(
            f"<b>{figure(state.mean_cd_m2)} cd/m²</b> of {figure(state.wanted_cd_m2)} wanted, from {lamps} at "
            f"{_shares(inside, self.panel.assessment)} of {'its' if state.lamps == 1 else 'their'} full light; walls throw {state.reflectance * 100:.1f} % back.{even}"
        )


def _take_grid(card: PatternsCard, grid: tuple[int, int]) -> None:
    section, side = card.first, card.document.shown_side
    columns, rows = grid
    h, v, _ = PLANES[side]
    box: Box = section.box
    inset_h, inset_v = box.size[h] * 0.06, box.size[v] * 0.2
    start = (box.at[h] + inset_h, box.at[v] + (inset_v if rows > 1 else box.size[v] / 2))
    end = (box.at[h] + box.size[h] - inset_h, box.at[v] + box.size[v] - inset_v)
    words = f"Add a grid of {columns} × {rows}"
    card.document.edit(words, lambda plan: patterns.add_grid(plan, section, side, start, end, grid)[0])


def _take_ring(card: PatternsCard, ring: tuple[int, float]) -> None:
    section, side = card.first, card.document.shown_side
    count, radius = ring
    h, v, _ = PLANES[side]
    centre = (section.box.centre[h], section.box.centre[v])
    words = f"Add a ring of {count}"
    card.document.edit(words, lambda plan: patterns.add_ring(plan, section, side, centre, radius, count)[0])


class PatternsCard(PanelCard):
    """Its openings: in grids and rings, from the drawing, and how they are made."""

    title = "Openings"
    model = Section
    fields = (
        Field("grid", "Grid", Quantity(read_grid, placeholder="12 x 3"), "Columns and rows of windows over the wall that is shown: 12 x 3",
              takes=_take_grid),
        Field("ring", "Ring", Quantity(read_ring, placeholder="16 on 12 mm"), "Windows round a circle: 16 on 12 mm",
              takes=_take_ring),
        Field("school", "Window method", Choice(METHODS), "How its windows are made: the steps and the hours follow", "Change the window method"),
    )  # fmt: skip

    def build(self) -> None:
        self.from_svg = self.button(
            "Take them from the drawing’s shapes", "Closed shapes of the SVG behind this view that lie within the section’s outline",
            self._take_shapes,
        )  # fmt: skip
        self.work = self.card.consequence()

    def say(self) -> None:
        view = next((v for v in self.plan.views if v.side == self.document.shown_side), None)
        self.from_svg.setVisible(bool(view and view.drawing and view.drawing.picture.lower().endswith(".svg")))
        work = next((e for e in effort_of(self.plan, self.document.catalogue) if e.of == self.first.id), None)
        done = f"{work.panes} panes, {work.holes} holes, {work.joints} joints" if work else ""
        self.work.setText(f"{done}: about <b>{work.hours:.1f} h</b> of work." if work else "")

    def _take_shapes(self) -> None:
        section, side = self.first, self.document.shown_side
        view = next((v for v in self.plan.views if v.side == side), None)
        if view is None or view.drawing is None:
            return
        drawing, data = view.drawing, self.document.pictures.get(view.drawing.picture, b"")

        def done(found: tuple[ClosedShape, ...]) -> None:
            made: list[str] = []

            def change(plan: Plan) -> Plan:
                drawn = [(s.kind, [from_sheet(side, *views.sheet_place(drawing, *p)) for p in s.points]) for s in found]
                plan, new = patterns.openings_from_shapes(plan, section, side, drawn)
                made.extend(new)
                return plan

            if self.document.edit("Openings from the drawing", change):
                self.document.message.emit(f"{len(made)} openings taken from the drawing.", "info")

        self.panel.task("shapes").ask(self.plan, lambda: shapes_within_limits(data), done, at_once=few_shapes(data))
