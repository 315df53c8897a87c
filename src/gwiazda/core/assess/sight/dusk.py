"""When each light of a plan shows, along the light of the room: from which illuminance down it shows, is clearly lit, strikes, glares."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.assess.night.unlit import unlit_shares
from gwiazda.core.assess.optics.skin import bare_reflectance, outside_reflectance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import Z95, glazing_stray, point_sigma
from gwiazda.core.light.dusk import LEAST_LX, LEVELS, MOST_LX, Seen, level_of, until_lx
from gwiazda.core.parts.spreads import COUPLED
from gwiazda.core.plan.lookup import find, on_walls, openings_by_section, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Opening, Plan, Section
from gwiazda.core.quantities import figure

Rgb = tuple[float, float, float]
WASH_REACH_MM = 400.0  # how far off a surface counts as what a flood is for


class Shows(NamedTuple):
    """When a light, or a section's windows that belong to none, shows: ``until`` so much light of the room (lx) it shows, is clearly lit, strikes,
    glares; 0 where it never does. ``seen``: what it was reckoned from."""

    of: str
    name: str
    seen: Seen
    until: tuple[float, float, float, float]
    rgb: Rgb
    shows_from: tuple[float, float] = (0.0, 0.0)  # 5 and 95 % values of the first: lx until which it shows

    def level(self, lux: float) -> int:
        """How it looks in a room of so much light: 0 unseen to 4 glaring."""
        return level_of(self.seen, lux)

    def words(self, lux: float) -> str:
        """How it looks in a room, as one says it."""
        return ("unseen", *LEVELS)[self.level(lux)]


class Stray(NamedTuple):
    """How far a light strays, one sigma of logarithms: its own light with how far that leans, and its glazing's transmittance with its lean, which counts
    twice in what an unlit pane throws back from inside; ``inside``: how much of that comes from there."""

    light: float = 0.0
    glazing: float = 0.0
    glazing_lean: float = 0.0
    lean: float = 0.0
    inside: float = 0.0


SURE = Stray()
HULL, BACK = (
    0.08,
    0.30,
)  # one sigma of what a painted hull throws back, and of what comes back out of a dark section by its lining


def shows(of: str, name: str, seen: Seen, rgb: Rgb, stray: Stray = SURE) -> Shows:
    """A light with the rooms in which it shows."""
    a, b, c, d = (until_lx(seen, level) for level in range(1, len(LEVELS) + 1))
    return Shows(of, name, seen, (a, b, c, d), rgb, _shows_from(seen, stray) if stray.light > 0.0 else (a, a))


def _shows_from(seen: Seen, stray: Stray) -> tuple[float, float]:
    """The 5 and 95 % values of the light of a room (lx) until which it shows: each thing that strays by itself, up and down, their squares summed."""

    def at(light: float = 0.0, glazing: float = 0.0, hull: float = 0.0, back: float = 0.0) -> float:
        moved = seen._replace(
            value=seen.value * math.exp(stray.lean + light + glazing),
            unlit=min(
                seen.unlit * (1.0 + stray.inside * (math.exp(2.0 * (stray.glazing_lean + glazing) + back) - 1.0)), 1.0
            ),
            hull=min(seen.hull * math.exp(hull), 1.0),
        )
        return math.log(max(until_lx(moved, 1), LEAST_LX))

    middle = at()
    each = [
        tuple(
            found - middle
            for found in (at(k * stray.light), at(0.0, k * stray.glazing), at(hull=k * HULL), at(back=k * BACK))
        )
        for k in (-Z95, Z95)
    ]
    down = math.hypot(*(min(a, b, 0.0) for a, b in zip(*each, strict=True)))
    up = math.hypot(*(max(a, b, 0.0) for a, b in zip(*each, strict=True)))
    return math.exp(middle - down), math.exp(middle + up)


def _panes(plan: Plan, assessment: Assessment, panes: Sequence[Opening]) -> Seen | None:
    """Lit panes as one: their mean luminance before the hull round them."""
    lit = [o for o in panes if o.lit > 0 and not o.into and o.id in assessment.openings]
    sections = {s.id: s for s in plan.sections}
    lit = [o for o in lit if o.section in sections]
    if not lit:
        return None
    area = math.fsum(o.area_mm2 for o in lit)
    by_section: dict[str, float] = {}
    for o in lit:
        by_section[o.section] = by_section.get(o.section, 0.0) + o.area_mm2
    section = sections[max(by_section, key=by_section.__getitem__)]
    mean = math.fsum(o.area_mm2 * assessment.openings[o.id].luminance_cd_m2 for o in lit) / area
    shares = unlit_shares(assessment.catalogue, plan.sections, plan.openings, plan.kit.material)
    unlit = shares[next(o.id for o in lit if o.section == section.id)]
    hull = outside_reflectance(assessment.catalogue, section, plan.kit.material)
    return Seen("pane", mean, hull, unlit, plan.room.distance_m)


def washed_cd_m2(plan: Plan, assessment: Assessment, lamp: Lamp) -> tuple[float, float]:
    """The luminance (cd/m²) a lamp gives the first surface along its axis, and what that throws back; zeros where nothing is near.

    Surfaces are the outer boxes of sections: I·cos β/d²·ρ/π.
    """
    state = assessment.lamps.get(lamp.id)
    length = math.sqrt(sum(a * a for a in lamp.aim))
    aim = [a / length for a in lamp.aim]
    best: tuple[float, int, Section] | None = None
    for s in plan.sections:
        low = [a - s.wall_mm for a in s.box.at]
        high = [a + d + s.wall_mm for a, d in zip(s.box.at, s.box.size, strict=True)]
        near, far, axis = 0.0, math.inf, 0
        for k in range(3):
            if abs(aim[k]) < 1e-9:
                if not low[k] <= lamp.at[k] <= high[k]:
                    far = -1.0
                continue
            a, b = sorted(((low[k] - lamp.at[k]) / aim[k], (high[k] - lamp.at[k]) / aim[k]))
            if a > near:
                near, axis = a, k
            far = min(far, b)
        if 0.5 < near <= min(far, WASH_REACH_MM) and (best is None or near < best[0]):
            best = (near, axis, s)
    if best is None or state is None:
        return 0.0, 0.0
    away, axis, section = best
    back = outside_reflectance(assessment.catalogue, section, plan.kit.material)
    return state.axial_cd * abs(aim[axis]) / (away * 1e-3) ** 2 * back / math.pi, back


def _point(plan: Plan, assessment: Assessment, mcd: float, parts: Sequence[Lamp]) -> Seen:
    walls = on_walls(plan.sections, plan.lamps)
    homes = [walls[p.id] for p in parts if p.id in walls]
    section = next((s for s in plan.sections if homes and s.id == homes[0]), None)
    catalogue, material = assessment.catalogue, plan.kit.material
    hull = (
        outside_reflectance(catalogue, section, material)
        if section is not None
        else bare_reflectance(catalogue, material)
    )
    return Seen("point", mcd * 1e-3, hull, distance_m=plan.room.distance_m)


class Looked(NamedTuple):
    """A light, or a section's windows that belong to none, as an eye sees it."""

    of: str
    name: str
    seen: Seen
    rgb: Rgb
    stray: Stray = SURE


def _pane_stray(plan: Plan, assessment: Assessment, panes: Sequence[Opening], seen: Seen) -> Stray:
    """How far panes together stray: as the section does that most of them are of."""
    lit = [o for o in panes if o.lit > 0 and not o.into and o.section in assessment.sections]
    most = max(lit, key=lambda o: o.area_mm2, default=None)
    if most is None:
        return SURE
    state = assessment.sections[most.section]
    section = next(s for s in plan.sections if s.id == most.section)
    part = assessment.catalogue.glazings.get(most.glazing or section.glazing)
    lean, sigma = glazing_stray(assessment.catalogue, most.glazing or section.glazing)
    sigma = min(sigma, state.sigma)  # where it was read, less of it is left
    own = part.reflectance if part is not None else 0.0
    inside = min(max(1.0 - own / seen.unlit, 0.0), 1.0) if seen.unlit > 0 else 0.0
    return Stray(math.sqrt(max(state.sigma**2 - sigma**2, 0.0)), sigma, lean if state.lean else 0.0, state.lean, inside)


def _point_stray(assessment: Assessment, parts: Sequence[Lamp], dots: Sequence[Dot]) -> Stray:
    """How far a point strays: as its lamp does, and as its fibre sits."""
    ends = [t for d in dots if (t := assessment.tips.get(d.id)) is not None and t.lamp in assessment.lamps]
    if ends:
        return Stray(math.hypot(COUPLED, point_sigma(assessment.catalogue, assessment.lamps[ends[0].lamp])))
    own = [assessment.lamps[p.id] for p in parts if p.id in assessment.lamps]
    return Stray(point_sigma(assessment.catalogue, own[0])) if own else SURE


def looked_at(plan: Plan, assessment: Assessment) -> Iterator[Looked]:
    """Each light, and the windows of each section that has no light of its own, as an eye in front of it sees it; in the plan's order."""
    owned: set[str] = set()
    for light in plan.lights:
        state = state_of(plan, assessment, light.id)
        parts = [p for i in parts_of(plan, light.id) if (p := find(plan, i)) is not None]
        mine = [s.id for s in plan.sections if s.light == light.id]
        owned |= {p.section for p in parts if isinstance(p, Opening)} | set(mine)
        panes = [p for p in parts if isinstance(p, Opening)]
        panes += [o for i in mine for o in openings_by_section(plan.openings).get(i, ()) if o.light in ("", light.id)]
        lamps = [p for p in parts if isinstance(p, Lamp)]
        washed = (
            [washed_cd_m2(plan, assessment, p) for p in lamps]
            if kind_of(assessment.catalogue, light.kind).washes
            else []
        )
        if washed and max(washed)[0] > 0:
            luminance, back = max(washed)
            rgb = state.rgb if state is not None else (1.0, 1.0, 1.0)
            yield Looked(light.id, light.name, Seen("wash", luminance, back, distance_m=plan.room.distance_m), rgb)
        elif state is not None and state.unit == "mcd":
            yield Looked(
                light.id,
                light.name,
                _point(plan, assessment, state.value, lamps),
                state.rgb,
                _point_stray(assessment, lamps, [p for p in parts if isinstance(p, Dot)]),
            )
        elif (seen := _panes(plan, assessment, panes)) is not None:
            yield Looked(
                light.id,
                light.name,
                seen,
                state.rgb if state is not None else (1.0, 1.0, 1.0),
                _pane_stray(plan, assessment, panes, seen),
            )
    for s in plan.sections:
        if s.id not in owned:
            seen = _panes(plan, assessment, openings_by_section(plan.openings).get(s.id, ()))
            if seen is not None and seen.value > 0:
                rgb = next((p.rgb for p in assessment.lamps.values() if p.section == s.id), (1.0, 1.0, 1.0))
                mine_of_it = openings_by_section(plan.openings).get(s.id, ())
                yield Looked(s.id, s.name, seen, rgb, _pane_stray(plan, assessment, mine_of_it, seen))


def dusk_of(plan: Plan, assessment: Assessment) -> tuple[Shows, ...]:
    """When each light, and the windows of each section that has no light of its own, show; in the plan's order."""
    return tuple(shows(*x) for x in looked_at(plan, assessment))


def until_words(row: Shows) -> str:
    """From which light down it shows and is clearly lit, in a sentence's part."""
    first, clear = row.until[0], row.until[1]
    if first <= 0.0:
        return "does not show even in the dark"
    at = "shows at noon already" if first >= MOST_LX else f"shows from {figure(first, 2)} lx down"
    low, high = row.shows_from
    if LEAST_LX < low < high and first < MOST_LX:
        at += f" (likely {figure(low, 2)} to {figure(high, 2)})"
    if clear <= 0.0:
        return f"{at}, and is clearly lit in no room"
    return at if clear >= MOST_LX else f"{at}, clearly lit from {figure(clear, 2)} lx down"
