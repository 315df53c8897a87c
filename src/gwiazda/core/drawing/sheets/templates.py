"""Drill templates: what to prick through, at true size; what is the mirror image of another part or side shares its template, turned over."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assembly.contents import handed_pairs
from gwiazda.core.assess.assembly.holes import NumberedHole, numbered_holes
from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.contours import contours
from gwiazda.core.drawing.sheets.gathered import Gathered
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, cross, disc, outline, rect, text
from gwiazda.core.plan.frame import OPPOSITE, SIDES, Side, rect_on_sheet, to_sheet
from gwiazda.core.plan.model import Panel, Plan, Section
from gwiazda.core.quantities import counted


def bore_marks(
    holes: list[NumberedHole], side: Side, tags: Mapping[str, str] = MappingProxyType({})
) -> list[SheetMark]:
    """A cross and a circle for each hole with its tag, as small as their spacing asks for; ``tags`` are others to write, by the hole's own."""
    at = np.array([to_sheet(side, x.bore.at)[:2] for x in holes])
    gaps = np.hypot(*np.moveaxis(at[:, None] - at[None, :], -1, 0)) if len(at) < 2000 else np.full((1, 1), 4.0)
    near = float(gaps[gaps > 1e-6].min(initial=8.0))
    arm, letters = min(near / 4.0, 1.2), min(max(near / 2.0, 0.7), 1.6)
    out: list[SheetMark] = []
    for hole in holes:
        x, y, _ = to_sheet(side, hole.bore.at)
        wide = hole.bore.drill.metric_mm / 2
        out += [
            disc(x, y, wide, wide=0.08),
            *cross(x, y, arm),
            text(x + wide + 0.15, y - 0.1, tags.get(hole.tag, hole.tag), letters),
        ]
    return out


def drill_templates(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """For each panel and each side of a section with holes to drill (fibres, lamps seen themselves, ways, round panes): what to prick
    through, as seen from outside."""
    out: list[Drawing] = []
    holes = [x for x in numbered_holes(assessment.catalogue, plan) if not x.bore.given]
    for panel in plan.panels:
        mine = [x for x in holes if x.bore.panel == panel.id]
        if mine:
            sheet = Gathered()
            sheet.add(panel_frame(panel), *bore_marks(mine, panel.side))
            out.append(
                sheet.drawing(f"Drill template: {panel.name}", f"{counted(len(mine), 'hole')}, seen from outside")
            )
    faces = _faces(plan, holes)
    for face in faces.values():
        if face.mirrors is None:
            out.append(_template(face, next((f for f in faces.values() if f.mirrors == face.key), None)))
    return out


class _Face(NamedTuple):
    """A side of a section with what is made in it; ``mirrors``: the one before it that it is the mirror image of; ``unlike``: that it is not, by so many holes."""

    section: Section
    side: Side
    holes: tuple[NumberedHole, ...]
    mirrors: tuple[str, Side] | None = None
    unlike: tuple[str, int] = ("", 0)

    @property
    def key(self) -> tuple[str, Side]:
        return self.section.id, self.side

    @property
    def name(self) -> str:
        return f"{self.section.name}, {self.side}"

    @property
    def hatched(self) -> bool:
        """Whether a hatch is cut into it."""
        return self.section.closure.hatch is not None and self.section.closure.hatch.face == self.side


SAME_MM = 0.3  # as near as a hole is pricked through


def _faces(plan: Plan, holes: list[NumberedHole]) -> dict[tuple[str, Side], _Face]:
    """All sides with holes or a hatch; those that are the mirror image of one before them say so."""
    pairs = {a: b for pair in handed_pairs(plan) for a, b in (pair, pair[::-1])}
    out: dict[tuple[str, Side], _Face] = {}
    for section in plan.sections:
        for side in SIDES:
            mine = tuple(x for x in holes if x.bore.section == section.id and x.bore.side == side and not x.bore.panel)
            face = _Face(section, side, mine)
            if not mine and not face.hatched:
                continue
            across = OPPOSITE[side] if side in ("port", "starboard") else side
            other = out.get((pairs.get(section.id, section.id), across))
            if other is not None and mine:
                differ = _differ(other.holes, mine) + face.hatched + other.hatched
                face = face._replace(unlike=(other.name, differ)) if differ else face._replace(mirrors=other.key)
            out[face.key] = face
    return out


def _differ(one: tuple[NumberedHole, ...], other: tuple[NumberedHole, ...]) -> int:
    """How many holes of either have none of the same drill at their mirrored place."""
    a = [(x.bore.at[0], -x.bore.at[1], x.bore.at[2], x.bore.drill.metric_mm) for x in one]
    b = [(*x.bore.at, x.bore.drill.metric_mm) for x in other]
    if not a or not b:
        return len(a) + len(b)
    near = (np.abs(np.array(a)[:, None, :] - np.array(b)[None, :, :]) <= (SAME_MM, SAME_MM, SAME_MM, 1e-6)).all(axis=2)
    return int((~near.any(axis=1)).sum() + (~near.any(axis=0)).sum())


def _both_tags(face: _Face, twin: _Face) -> dict[str, str]:
    """The tags of a hole and of its mirror image, by the first."""
    out = {}
    for hole in face.holes:
        x, y, z = hole.bore.at
        other = min(twin.holes, key=lambda h: abs(h.bore.at[0] - x) + abs(h.bore.at[1] + y) + abs(h.bore.at[2] - z))
        out[hole.tag] = f"{hole.tag}/{other.tag}"
    return out


def _template(face: _Face, twin: _Face | None) -> Drawing:
    """A side's template; where another is its mirror image, for both."""
    section, side, hatch = face.section, face.side, face.section.closure.hatch
    sheet = Gathered()
    sheet.add(outline(contours(section, side)[0]))
    if face.holes:
        sheet.add(*bore_marks(list(face.holes), side, _both_tags(face, twin) if twin is not None else {}))
    what = [counted(len(face.holes), "hole")] if face.holes else []
    if hatch is not None and face.hatched:
        sheet.add(rect(*rect_on_sheet(hatch.face, section.box.at, hatch.at, hatch.size)))
        what.append("the hatch to cut")
    note = f"{' and '.join(what)}, seen from outside"
    if twin is not None:
        note = f"This side up for {face.name}; turn it over for {twin.name}: {counted(len(face.holes), 'hole')} each"
        return sheet.drawing(f"Drill template: {face.name}, and {twin.name} turned over", note)
    if face.unlike[1]:
        note += f"; not the mirror image of {face.unlike[0]}: {counted(face.unlike[1], 'place')} differ"
    return sheet.drawing(f"Drill template: {face.name}", note)


def panel_frame(panel: Panel) -> SheetMark:
    x, y, _ = to_sheet(panel.side, panel.at)
    return rect(x - panel.width_mm / 2, y - panel.height_mm / 2, panel.width_mm, panel.height_mm)
