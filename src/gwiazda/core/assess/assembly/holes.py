"""All holes that are drilled: for fibres, lamps seen themselves, ways of wires, and round panes; which drill each wants, and where."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import contents_of, outside_lamps
from gwiazda.core.assess.bodies.mounts import mounts_of
from gwiazda.core.assess.fibres.lists import tags_of
from gwiazda.core.assess.lamp.modified_lamp import front_mm
from gwiazda.core.fibre.drills import Drill, drill_for, drill_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import FACE_NAMES, PLANES, Face
from gwiazda.core.plan.lookup import on_walls
from gwiazda.core.plan.model import Lamp, Plan, Section, Switch, parts_in
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.outline.oblique import tilt_deg

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


def own_drills(catalogue: Catalogue) -> tuple[tuple[str, float], ...]:
    """The user's own drills: their names and diameters, mm."""
    return tuple((d.name, d.diameter_mm) for d in catalogue.drills.values())


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
    part, mine = catalogue.lamps.get(p.part), own_drills(catalogue)
    if p.lens is not None and part is not None:
        return drill_of(front_mm(catalogue, p), mine)
    if part is None or part.shape.on_wall:
        return drill_of(WIRES_MM, mine)
    return drill_of(min(part.size_mm[:2]) + OVER_BODY_MM, mine)


def _bores(catalogue: Catalogue, plan: Plan) -> Iterator[Bore]:
    sections, mine = {s.id: s for s in plan.sections}, own_drills(catalogue)
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
                drill_for(fibre.diameter_mm, mine),
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
            wide = w.tube.outer_mm if w.tube is not None else w.width_mm
            yield Bore("way", "Ways of wires", w.id, w.section, _wall(s, w.at), w.at, drill_of(wide, mine))
            if w.tube is not None and w.into in sections:
                yield Bore(
                    "way",
                    "Ways of wires",
                    w.id,
                    w.into,
                    _wall(sections[w.into], w.tube.to),
                    w.tube.to,
                    drill_of(wide, mine),
                )
    for m in mounts_of(catalogue, plan):
        if m.face is not None and m.part.hole_mm:
            yield Bore("switch", m.part.name, m.of, m.section, m.face, m.at, drill_of(m.part.hole_mm, mine))
    for o in plan.openings:
        s = sections.get(o.section)
        if s is not None and s.school == "drill" and o.hole and o.shape == "round" and o.width_mm == o.height_mm:
            yield Bore("pane", "Round panes", o.id, o.section, o.side, o.at, drill_of(o.width_mm, mine))


@memoize(slots=2)
def bores_of(catalogue: Catalogue, plan: Plan) -> tuple[Bore, ...]:
    """All holes that are drilled, or come with their part; larger ones than a hand drill makes are cut, and not among them."""
    return tuple(b for b in _bores(catalogue, plan) if b.drill.hole_mm <= LARGEST_MM)


class NumberedHole(NamedTuple):
    """A hole as it is marked: its ``tag`` on the template, what it is for, where it lies on its side's skin, and whether it is pricked and
    bored small first.

    ``along_mm`` from the end named (“bow”), ``up_mm`` from the lower edge of that side as drawn; None off all sections.
    """

    tag: str
    name: str
    bore: Bore
    end: str
    along_mm: float | None
    up_mm: float | None
    pilot: bool


# The ends that places on each side are measured from, and the edge: the nearer of two ends along it, the lower edge (starboard seen from above).
ENDS: dict[int, tuple[str, str]] = {0: ("stern", "bow"), 1: ("starboard", "port")}
LOWER = {0: "stern", 1: "starboard", 2: "foot"}
CURVED_DEG, FINE_MM = 8.0, 1.0  # a skin turned further lets a drill wander; and so does any skin a fine one


def _seen_bounds(section: Section, side: Face) -> tuple[tuple[float, float], tuple[float, float]]:
    """From where to where a section reaches in the two axes of a side's view, as drawn, or its box with its walls."""
    h, v, _ = PLANES[side]
    points = [p for o in section.drawn(side) for p in o.points]
    if points:
        return (min(p[0] for p in points), max(p[0] for p in points)), (
            min(p[1] for p in points),
            max(p[1] for p in points),
        )
    wall = section.wall_mm
    low, high = ([section.box.at[a] - wall, section.box.at[a] + section.box.size[a] + wall] for a in (h, v))
    return (low[0], low[1]), (high[0], high[1])


@memoize(slots=2)
def numbered_holes(catalogue: Catalogue, plan: Plan) -> tuple[NumberedHole, ...]:
    """Every hole, as the templates and the list call it: dots by their own tags, the others numbered h1, h2 … section by section."""
    sections, tags = {s.id: s for s in plan.sections}, tags_of(plan)
    order = {s.id: k for k, s in enumerate(plan.sections)}
    rows = sorted(
        bores_of(catalogue, plan), key=lambda b: (order.get(b.section, len(order)), FACE_NAMES.index(b.side), b.at[PLANES[b.side][0]], b.at[PLANES[b.side][1]])
    )  # fmt: skip
    out, number = [], 0
    for b in rows:
        number += b.of not in tags
        section = sections.get(b.section)
        end, along, up, pilot = "", None, None, b.drill.hole_mm <= FINE_MM
        if section is not None:
            h, v, _ = PLANES[b.side]
            (first, last), (low, _) = _seen_bounds(section, b.side)
            near = b.at[h] - first <= last - b.at[h]
            end, along = ENDS[h][0 if near else 1], round(b.at[h] - first if near else last - b.at[h], 1)
            up = round(b.at[v] - low, 1)
            pilot = pilot or tilt_deg(section, b.side, b.at) >= CURVED_DEG
        out.append(
            NumberedHole(tags.get(b.of, f"h{number}"), name_of(plan, b.of), b, end, along, up, pilot and not b.given)
        )
    return tuple(out)


class ChosenHole(NamedTuple):
    """A hole that has no place in the plan yet: what it is for, its drill, how many, and where it goes."""

    use: str
    drill: Drill
    pieces: int
    where: str


SCREW_MM = 2.2  # an M2 screw passes


def chosen_holes(catalogue: Catalogue, plan: Plan) -> tuple[ChosenHole, ...]:
    """Holes for switches that have no place in a wall, and for screws that close a section: they belong to the list, their places are one's own to choose."""
    names, mine = {s.id: s.name for s in plan.sections}, own_drills(catalogue)
    out, placed = [], {m.of for m in mounts_of(catalogue, plan) if m.face is not None}
    for feed in plan.feeds:
        for item in (*feed.head, *feed.items):
            for x in parts_in(item):
                if isinstance(x, Switch) and x.id not in placed and (hole := catalogue.switch(x.kind).hole_mm):
                    where = names.get(x.home or feed.home, "the base")
                    out.append(ChosenHole(f"{name_of(plan, x.id)}, {x.kind}", drill_of(hole, mine), 1, where))
    screwed = [s for s in plan.sections if s.closure.by == "screws"]
    out += [
        ChosenHole(f"Screws of {s.closure.part or 'its lid'}", drill_of(SCREW_MM, mine), 4, s.name) for s in screwed
    ]
    return tuple(out)


def holes_of(plan: Plan, catalogue: Catalogue) -> tuple[Hole, ...]:
    """The drill list, by use and size; holes that parts come with are named apart."""
    groups: dict[tuple[str, str, Drill, bool], list[str]] = {}
    for b in bores_of(catalogue, plan):
        groups.setdefault((b.part, b.use, b.drill, b.given), []).append(b.of)
    return tuple(Hole(*key[:3], len(ids), key[3], tuple(ids)) for key, ids in sorted(groups.items()))
