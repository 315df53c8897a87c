"""The fewest lamps that light a section evenly and brightly enough, in each school of placing them.

Uses the room's light as ``assess.light.rooms`` computes it, whatever solver stands behind that; deterministic.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.lamp.fit import fit_of, needed_mm
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.optics.joints import ports_by_section
from gwiazda.core.assess.optics.lighting import joints_in
from gwiazda.core.assess.optics.lit_sections import in_row, lit_section_of
from gwiazda.core.light.photometry import evenness
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, Side
from gwiazda.core.plan.lookup import lamps_by_section, openings_by_section, section_of
from gwiazda.core.plan.model import Lamp, Plan, Section, Wanted, copy_unchecked

MOST_LAMPS = 12
AIM_EVENNESS = 0.6

SCHOOLS = {
    "roof": "under the roof",
    "away": "facing away from the windows",
    "middle": "along the floor, facing up",
    "wall": "on the far wall",
}


class Proposal(NamedTuple):
    """``reached`` is the brightness the lamps can give over the wanted one; ``lamps`` are ready to be added."""

    school: str
    part: str
    lamp_count: int
    evenness: float
    reached: float
    light_share: float
    lamps: tuple[Lamp, ...]
    good: bool


def _place(
    section: Section, side: Side, school: str, count: int, height_mm: float
) -> list[tuple[tuple[float, float, float], tuple[float, float, float]]]:
    """Places and aims: spread evenly along the longer level axis, a body's height off their wall."""
    (_, _, z), (a, b, c) = section.box.at, section.box.size
    along = 0 if a >= b else 1
    normal = np.array([float(n) for n in NORMALS[side]])
    centre = np.array(section.box.centre)
    off = min(height_mm + 1.0, 0.45 * min(b if along == 0 else a, c))
    out = []
    for i in range(count):
        at = centre.copy()
        at[along] = section.box.at[along] + section.box.size[along] * (i + 0.5) / count
        if school == "roof":
            at[2], aim = z + c - off, (0.0, 0.0, -1.0)
        elif school == "middle":
            at[2], aim = z + off, (0.0, 0.0, 1.0)
        else:
            d = int(np.argmax(np.abs(normal)))
            if d in (along, 2):
                # Windows in an end wall or the roof: there is no row to line up with.
                at[2], aim = z + c - off, (0.0, 0.0, -1.0)
            else:
                near = section.box.at[d] + (section.box.size[d] if normal[d] > 0 else 0.0)
                far = section.box.at[d] + (0.0 if normal[d] > 0 else section.box.size[d])
                sign = 1.0 if school == "wall" else -1.0
                at[d] = (far + normal[d] * off) if school == "wall" else (near - normal[d] * off)
                way = sign * normal
                aim = (float(way[0]), float(way[1]), float(way[2]))
        out.append(((float(at[0]), float(at[1]), float(at[2])), aim))
    return out


def propose(
    catalogue: Catalogue,
    plan: Plan,
    section_id: str,
    part_id: str = "chip-1206-warm-white",
    wanted_cd_m2: float = 30.0,
    aim_evenness: float = AIM_EVENNESS,
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[Proposal, ...]:
    """The fewest lamps of each school; best first (good ones, then fewer lamps, then more even).

    Parameters
    ----------
    wanted_cd_m2 : float
        Mean luminance wanted of the lit windows.
    aim_evenness : float
        Darkest over mean to reach.
    cancelled : callable
        Asked between steps; what was found so far is returned when it says so.
    """
    section = section_of(plan, section_id)
    part = catalogue.lamps[part_id]
    openings = openings_by_section(plan.openings).get(section_id, ())
    sides = [o.side for o in openings if o.lit > 0 and not o.into]
    if not sides:
        return ()
    side: Side = max(set(sides), key=sides.count)
    homes = lamps_by_section(plan.sections, plan.lamps)
    start = copy_unchecked(plan, lamps=tuple(p for p in plan.lamps if homes.get(p.id) != section_id))
    ports = ports_by_section(joints_in(catalogue, plan.sections, plan.openings, plan.kit.plastic)).get(section_id, ())
    found: list[Proposal] = []
    for school in SCHOOLS:
        best: Proposal | None = None
        for count in range(1, MOST_LAMPS + 1):
            if cancelled():
                break
            ids = edits.fresh_ids(start, f"{section_id}.lamp", count)
            places = _place(section, side, school, count, needed_mm(part, part.size_mm[2]))
            lamps = tuple(
                Lamp(id=i, part=part_id, at=at, aim=aim, wanted=Wanted(cd_m2=wanted_cd_m2))
                for i, (at, aim) in zip(ids, places, strict=True)
            )
            if fit_of(catalogue, section, lamps[0]).clearance_mm < 0:
                break
            room = lit_section_of(catalogue, section, openings, lamps, plan.kit.plastic, ports)
            each = np.array([worked(catalogue, p).flux_lm for p in lamps])
            light = room.luminance_per_lm @ each
            full = light[in_row(openings)]
            row = evenness(full)
            even = row[0] if row else 1.0
            mean = float(room.mean_per_lm @ each)
            reached = mean / wanted_cd_m2
            good = even >= aim_evenness and reached >= 1.0
            now = Proposal(school, part_id, count, even, reached, min(1.0 / max(reached, 1e-9), 1.0), lamps, good)
            better = (
                best is None
                or (now.good and not best.good)
                or (not best.good and (min(now.reached, 1.0), now.evenness) > (min(best.reached, 1.0), best.evenness))
            )
            if better:
                best = now
            if good:
                break
        if best is not None:
            found.append(best)
    return tuple(sorted(found, key=lambda p: (not p.good, p.lamp_count, -p.evenness)))


def take(plan: Plan, section_id: str, proposal: Proposal) -> Plan:
    """The section's lamps replaced by those of a proposal."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    plan = edits.delete(plan, [i for i, home in homes.items() if home == section_id])
    ids = edits.fresh_ids(plan, f"{section_id}.lamp", proposal.lamp_count)
    for new_id, lamp in zip(ids, proposal.lamps, strict=True):
        plan = edits.add_lamp(plan, copy_unchecked(lamp, id=new_id))
    return plan
