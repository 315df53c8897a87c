"""Rules about looking through: clear panes that face each other across a section."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.fit import half_sizes
from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.skin import lining_reflectance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, PLANES
from gwiazda.core.plan.lookup import item_of, lamps_by_section, openings_by_section
from gwiazda.core.plan.model import Box, Lamp, Obstacle, Opening, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted

CLEAR = 0.5  # of what stands behind both panes that shows: from here on one looks through
OVERLAP = 0.3  # of the smaller pane that must lie before the other
STANDS = ("bulkhead", "board", "pack", "speaker", "interior")
MIST = "mist-1"


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=2048)
def looks_through(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], kit_material: str
) -> tuple[tuple[str, str], ...]:
    """Pairs of clear panes that face each other with nothing between them that stands there for good."""
    lining = lining_reflectance(catalogue, section, kit_material)
    clear = {
        o: shown
        for o in openings
        if not o.into and o.lit > 0
        and (shown := pane_of(catalogue, o, section, lining, kit_material).clear) >= CLEAR
    }  # fmt: skip
    walls = [b.box for b in section.obstacles if b.action == "keep" and b.kind in STANDS]
    out = []
    for side, across in (("port", "starboard"), ("bow", "stern"), ("top", "bottom")):
        here, there = ([o for o in clear if o.side == s] for s in (side, across))
        if not here or not there:
            continue
        h, v, _ = PLANES[here[0].side]
        place = np.array([(o.at[h], o.at[v], o.width_mm, o.height_mm) for o in there])
        for a in here:
            near = (np.abs(place[:, 0] - a.at[h]) < (place[:, 2] + a.width_mm) / 2) & (
                np.abs(place[:, 1] - a.at[v]) < (place[:, 3] + a.height_mm) / 2
            )
            for k in np.flatnonzero(near):
                b = there[int(k)]
                if clear[a] * clear[b] < CLEAR or _overlap(a, b) < OVERLAP:
                    continue
                if not any(_between(a, b, w) for w in walls):
                    out.append((a.id, b.id))
    return tuple(out)


def _overlap(a: Opening, b: Opening) -> float:
    """Share of the smaller pane that lies straight before the other."""
    h, v, _ = PLANES[a.side]
    part = 1.0
    for axis, wide_a, wide_b in ((h, a.width_mm, b.width_mm), (v, a.height_mm, b.height_mm)):
        low = max(a.at[axis] - wide_a / 2, b.at[axis] - wide_b / 2)
        high = min(a.at[axis] + wide_a / 2, b.at[axis] + wide_b / 2)
        part *= max(high - low, 0.0) / min(wide_a, wide_b)
    return part


def _between(a: Opening, b: Opening, box: Box) -> bool:
    """Whether a body stands in the way from one pane's middle to the other's."""
    h, v, d = PLANES[a.side]
    middle = [(p + q) / 2 for p, q in zip(a.at, b.at, strict=True)]
    low, high = sorted((a.at[d], b.at[d]))
    inside = all(box.at[k] <= middle[k] <= box.at[k] + box.size[k] for k in (h, v))
    return inside and box.at[d] < high and box.at[d] + box.size[d] > low


def seen_through(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Panes through which one looks out on the other side, lit or not: the daylight behind shows, and every wire between."""
    groups = openings_by_section(plan.openings)
    for section in furnished(assessment.catalogue, plan).sections:
        mine = groups.get(section.id, ())
        pairs = looks_through(assessment.catalogue, section, mine, plan.kit.material) if len(mine) > 1 else ()
        if not pairs:
            continue
        panes = tuple(dict.fromkeys(i for pair in pairs for i in pair))
        first, across = pairs[0]
        yield Finding(
            "see-through", "look", "pane", first, float(len(pairs)),
            f"{section.name}: one looks straight through {counted(len(pairs), 'pair')} of clear panes, {name_of(plan, first)} and {name_of(plan, across)} across among them: "
            "daylight, wires and bare walls show, lit and unlit.",
            (
                Fix("White mist on them", _soften(panes, (MIST,))), Fix("Vellum behind them", _soften(panes, ("vellum",))),
                Fix("A screen between, down the middle", _screen(section.id)),
            ),
        )  # fmt: skip


def _soften(ids: tuple[str, ...], soften: tuple[str, ...]) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, list(ids), soften=soften)


SCREEN_MM = 0.5


def _screen(section_id: str) -> Callable[[Plan], Plan]:
    """A card down the middle of a section, along its longer side, that stands there for good."""

    def edit(plan: Plan) -> Plan:
        section = item_of(plan.sections, section_id, "section")
        axis = 1 if section.box.size[0] >= section.box.size[1] else 0
        at, size = list(section.box.at), list(section.box.size)
        at[axis] = section.box.centre[axis] - SCREEN_MM / 2
        size[axis] = SCREEN_MM
        new_id = edits.fresh_ids(plan, f"{section_id}.screen")[0]
        screen = Obstacle(
            id=new_id,
            kind="bulkhead",
            name="Screen of card",
            box=Box(at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2])),
        )
        return edits.replace(plan, {section_id: copy_unchecked(section, obstacles=(*section.obstacles, screen))})

    return edit


STRUCTURE = ("bulkhead", "pin", "tab", "rib", "board", "pack", "speaker", "switch")


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=2048)
def structure_behind(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], kit_material: str
) -> tuple[tuple[str, str], ...]:
    """What stands straight behind clear panes and isn't meant to be looked at, as (pane, its name): kept structure, and lamps' bodies. The
    nearest of it hides what is behind."""
    lining = lining_reflectance(catalogue, section, kit_material)
    bodies = [
        (b.name or b.kind, b.box.at, b.box.size, b.kind in STRUCTURE) for b in section.obstacles if b.action == "keep"
    ]
    for p in lamps:
        half = half_sizes(catalogue, p)
        low = tuple(a - k for a, k in zip(p.at, half, strict=True))
        bodies.append((p.id, (low[0], low[1], low[2]), (2 * half[0], 2 * half[1], 2 * half[2]), True))
    out = []
    for o in openings:
        if o.into or o.lit == 0 or pane_of(catalogue, o, section, lining, kit_material).clear < CLEAR:
            continue
        h, v, d = PLANES[o.side]
        sign = NORMALS[o.side][d]
        seen = [
            (sign * (o.at[d] - (at[d] + (size[d] if sign > 0 else 0.0))), name, bare)
            for name, at, size, bare in bodies
            if all(
                at[k] < o.at[k] + w / 2 and at[k] + size[k] > o.at[k] - w / 2
                for k, w in ((h, o.width_mm), (v, o.height_mm))
            )
        ]
        if seen and min(seen)[2]:
            out.append((o.id, min(seen)[1]))
    return tuple(out)


def structure_seen(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Bare structure and lamps' bodies in view through clear panes, lit and unlit; a lamp that dazzles is found by itself."""
    groups, homes = openings_by_section(plan.openings), lamps_by_section(plan.sections, plan.lamps)
    inside: dict[str, list[Lamp]] = {}
    for p in plan.lamps:
        home = homes.get(p.id)
        if home and p.part in assessment.catalogue.lamps:
            inside.setdefault(home, []).append(p)
    for section in furnished(assessment.catalogue, plan).sections:
        mine = groups.get(section.id, ())
        if not mine:
            continue
        seen = structure_behind(
            assessment.catalogue, section, mine, tuple(inside.get(section.id, ())), plan.kit.material
        )
        pairs = [(pane, what) for pane, what in seen if assessment.openings[pane].sight != what] if seen else []
        if not pairs:
            continue
        first, what = pairs[0]
        panes = tuple(dict.fromkeys(pane for pane, _ in pairs))
        yield Finding(
            "structure-seen", "look", "pane", first, float(len(panes)),
            f"{section.name}: through {counted(len(panes), 'clear pane')} one looks at what isn't meant to be seen, lit and unlit: {name_of(plan, what)} behind "
            f"{name_of(plan, first)}{' and more' if len(pairs) > 1 else ''}.",
            (
                Fix("White mist on them", _soften(panes, (MIST,))), Fix("Vellum behind them", _soften(panes, ("vellum",))),
                Fix("Clear resin run in, matt inside", _soften(panes, ("matt-1", "frosted-1"))),
            ),
        )  # fmt: skip


SIGHT_RULES = (seen_through, structure_seen)
