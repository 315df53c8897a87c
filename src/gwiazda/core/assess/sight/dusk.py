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
from gwiazda.core.light.dusk import LEVELS, MOST_LX, Seen, level_of, until_lx
from gwiazda.core.plan.lookup import find, on_walls, openings_by_section, parts_of
from gwiazda.core.plan.model import Lamp, Opening, Plan, Section
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

    def level(self, lux: float) -> int:
        """How it looks in a room of so much light: 0 unseen to 4 glaring."""
        return level_of(self.seen, lux)

    def words(self, lux: float) -> str:
        """How it looks in a room, as one says it."""
        return ("unseen", *LEVELS)[self.level(lux)]


def shows(of: str, name: str, seen: Seen, rgb: Rgb) -> Shows:
    """A light with the rooms in which it shows."""
    a, b, c, d = (until_lx(seen, level) for level in range(1, len(LEVELS) + 1))
    return Shows(of, name, seen, (a, b, c, d), rgb)


def _panes(plan: Plan, assessment: Assessment, panes: Sequence[Opening]) -> Seen | None:
    """Lit panes as one: their mean luminance before the hull round them."""
    lit = [o for o in panes if o.lit > 0 and not o.into and o.id in assessment.openings]
    sections = {s.id: s for s in plan.sections}
    lit = [o for o in lit if o.section in sections]
    if not lit:
        return None
    area = math.fsum(o.area_mm2 for o in lit)
    section = sections[max((o.section for o in lit), key=lambda i: sum(o.area_mm2 for o in lit if o.section == i))]
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
            yield Looked(light.id, light.name, _point(plan, assessment, state.value, lamps), state.rgb)
        elif (seen := _panes(plan, assessment, panes)) is not None:
            yield Looked(light.id, light.name, seen, state.rgb if state is not None else (1.0, 1.0, 1.0))
    for s in plan.sections:
        if s.id not in owned:
            seen = _panes(plan, assessment, openings_by_section(plan.openings).get(s.id, ()))
            if seen is not None and seen.value > 0:
                rgb = next((p.rgb for p in assessment.lamps.values() if p.section == s.id), (1.0, 1.0, 1.0))
                yield Looked(s.id, s.name, seen, rgb)


def dusk_of(plan: Plan, assessment: Assessment) -> tuple[Shows, ...]:
    """When each light, and the windows of each section that has no light of its own, show; in the plan's order."""
    return tuple(shows(*x) for x in looked_at(plan, assessment))


def until_words(row: Shows) -> str:
    """From which light down it shows and is clearly lit, in a sentence's part."""
    first, clear = row.until[0], row.until[1]
    if first <= 0.0:
        return "does not show even in the dark"
    at = "shows at noon already" if first >= MOST_LX else f"shows from {figure(first, 2)} lx down"
    if clear <= 0.0:
        return f"{at}, and is clearly lit in no room"
    return at if clear >= MOST_LX else f"{at}, clearly lit from {figure(clear, 2)} lx down"
