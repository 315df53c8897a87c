"""All holes that are drilled: for fibres, lamps seen themselves, ways of wires, and round panes; which drill each wants, and where."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import contents_of, outside_lamps
from gwiazda.core.assess.lamp.modified_lamp import front_mm
from gwiazda.core.fibre.drills import Drill, drill_for, drill_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import FACE_NAMES, Face
from gwiazda.core.plan.lookup import on_walls
from gwiazda.core.plan.model import Lamp, Plan, Section

WIRES_MM = 1.0  # two enamelled wires of a chip side by side, with room to pull
OVER_BODY_MM = 0.1
LARGEST_MM = 13.0  # what a hand drill takes; larger holes are cut
Point = tuple[float, float, float]


class Bore(NamedTuple):
    """A hole: the part that goes through it (or "way", "pane") and its name, the id of what it is for, its section and wall, its
    centre (mm), its drill."""

    part: str
    use: str
    of: str
    section: str
    side: Face
    at: Point
    drill: Drill
    given: bool = False  # the part comes with it
    panel: str = ""


class Hole(NamedTuple):
    """Holes of one use and size."""

    part: str
    use: str
    drill: Drill
    pieces: int
    given: bool
    of: tuple[str, ...]


def _wall(s: Section, at: Point) -> Face:
    """The wall of a section's box that a point lies nearest to."""
    off = [abs(x - edge) for x, a, d in zip(at, s.box.at, s.box.size, strict=True) for edge in (a, a + d)]
    return FACE_NAMES[off.index(min(off))]


def _faced(p: Lamp) -> Face:
    """The wall that a lamp looks out of."""
    k = max(range(3), key=lambda i: abs(p.aim[i]))
    return FACE_NAMES[2 * k + (p.aim[k] > 0)]


def _lamp_drill(catalogue: Catalogue, p: Lamp) -> Drill:
    """A body goes through (an angular one is filed out to its edges); of a chip, which sits on the wall, its wires alone, or the lens before it."""
    part = catalogue.lamps.get(p.part)
    if p.lens is not None and part is not None:
        return drill_of(front_mm(catalogue, p))
    if part is None or part.shape.on_wall:
        return drill_of(WIRES_MM)
    return drill_of(min(part.size_mm[:2]) + OVER_BODY_MM)


def _bores(catalogue: Catalogue, plan: Plan) -> Iterator[Bore]:
    sections = {s.id: s for s in plan.sections}
    for d in plan.dots:
        fibre = catalogue.fibres.get(d.fibre)
        if fibre is not None:
            yield Bore(
                d.fibre,
                fibre.name,
                d.id,
                d.section,
                d.side,
                d.at,
                drill_for(fibre.diameter_mm),
                d.hole == "given",
                d.panel,
            )
    walls = on_walls(plan.sections, plan.lamps)
    late = [(walls.get(p.id, ""), p) for p in outside_lamps(plan) if p.mount == "outside"]
    for home, p in (*((k, p) for k, c in contents_of(plan).items() for p in c.seen), *late):
        name = catalogue.lamps[p.part].name if p.part in catalogue.lamps else p.part
        yield Bore(p.part, name, p.id, home, _faced(p), p.at, _lamp_drill(catalogue, p))
    for w in plan.passages:
        s = sections.get(w.section)
        if w.make == "drill" and w.shape == "round" and s is not None:
            yield Bore("way", "Ways of wires", w.id, w.section, _wall(s, w.at), w.at, drill_of(w.width_mm))
    for o in plan.openings:
        s = sections.get(o.section)
        if s is not None and s.school == "drill" and o.hole and o.shape == "round" and o.width_mm == o.height_mm:
            yield Bore("pane", "Round panes", o.id, o.section, o.side, o.at, drill_of(o.width_mm))


@memoize(slots=2)
def bores_of(catalogue: Catalogue, plan: Plan) -> tuple[Bore, ...]:
    """All holes that are drilled, or come with their part; larger ones than a hand drill makes are cut, and not among them."""
    return tuple(b for b in _bores(catalogue, plan) if b.drill.hole_mm <= LARGEST_MM)


def holes_of(plan: Plan, catalogue: Catalogue) -> tuple[Hole, ...]:
    """The drill list, by use and size; holes that parts come with are named apart."""
    groups: dict[tuple[str, str, Drill, bool], list[str]] = {}
    for b in bores_of(catalogue, plan):
        groups.setdefault((b.part, b.use, b.drill, b.given), []).append(b.of)
    return tuple(Hole(*key[:3], len(ids), key[3], tuple(ids)) for key, ids in sorted(groups.items()))
