"""A carrier for the lamps of a section, proposed from its profile: which form, how high, where its walls and notch are."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

from gwiazda.core.assess.carriers.standing import ON_TOP, PLAY_MM
from gwiazda.core.assess.lamp.fit import axis_of, half_sizes, lies_along
from gwiazda.core.carrier.design import others
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.edits import fresh_ids
from gwiazda.core.plan.frame import FACE_NAMES, Face
from gwiazda.core.plan.lookup import lamps_by_section, section_of
from gwiazda.core.plan.model import Carrier, CarrierForm, Lamp, Plan, Section

MARGIN_MM = 2.0  # of sheet beside the outermost lamp
TRAY_WALL_MM = 4.0
LONG_FROM_MM = 40.0  # a raised carrier longer than this runs on two runners
RAISED_FROM_MM = 2.0  # from the wall behind: nearer, a flat strip does
SHEET = "card-05"
FORMS: tuple[CarrierForm, ...] = ("strip", "sled", "riser", "firewall", "light box", "tray", "bracket")
WORDS: dict[CarrierForm, str] = {
    "strip": "Strip", "sled": "Sled", "riser": "Riser", "firewall": "Firewall", "light box": "Light box",
    "tray": "Tray", "bracket": "Bracket",
}  # fmt: skip


def _facing(lamps: Sequence[Lamp]) -> tuple[int, int]:
    """The axis and way that most of the lamps look."""
    ways = [(axis_of(p.aim), 1 if p.aim[axis_of(p.aim)] > 0 else -1) for p in lamps]
    return max(set(ways), key=ways.count)


def _divider(catalogue: Catalogue, lamps: Sequence[Lamp], along: int, low: float, size: float) -> float | None:
    """Where a wall parts lamps of two colours: between the last of the one and the first of the other. None where they are of one colour,
    or lie among each other."""
    row = sorted((p.at[along], catalogue.lamps[p.part].colour) for p in lamps)
    changes = [(b[0] - a[0], (a[0] + b[0]) / 2) for a, b in itertools.pairwise(row) if a[1] != b[1]]
    if len(changes) != 1 or changes[0][0] < 1.0:
        return None
    return round(min(max((changes[0][1] - low) / size - 0.5, -0.49), 0.49), 4)


def best_form(catalogue: Catalogue, section: Section, lamps: Sequence[Lamp]) -> CarrierForm:
    """The form that suits lamps as they are placed: what parts two colours is a tray, what looks along the section a firewall, what stands
    off the wall a riser or sled, the rest a strip."""
    axis, sign = _facing(lamps)
    u, v = others(axis)
    longest = max(range(3), key=lambda a: section.box.size[a])
    along = u if section.box.size[u] >= section.box.size[v] else v
    if _divider(catalogue, lamps, along, 0.0, 1.0) is not None:
        return "tray"
    if axis == longest and section.box.size[axis] > 1.5 * max(section.box.size[u], section.box.size[v]):
        return "firewall"
    if all(catalogue.lamps[p.part].form not in ON_TOP for p in lamps):
        return "firewall" if len(lamps) > 1 else "bracket"
    wall = section.box.at[axis] + (0.0 if sign > 0 else section.box.size[axis])
    behind = min(sign * (p.at[axis] - wall) - half_sizes(catalogue, p)[axis] for p in lamps)
    if behind <= RAISED_FROM_MM:
        return "strip"
    span = max(max(p.at[a] for p in lamps) - min(p.at[a] for p in lamps) for a in (u, v))
    return "sled" if span > LONG_FROM_MM else "riser"


def lamps_for(catalogue: Catalogue, plan: Plan, section_id: str) -> list[Lamp]:
    """The lamps of a section that a carrier can hold."""
    homes = lamps_by_section(plan.sections, plan.lamps, ("inside", "fibre"))
    return [p for p in plan.lamps if homes.get(p.id) == section_id and p.part in catalogue.lamps]


def propose(catalogue: Catalogue, plan: Plan, section_id: str, form: CarrierForm | None = None) -> Carrier:
    """A carrier for the lamps that look the way most of a section's do; ``form`` as suits them where none is named.

    Raises
    ------
    PlanError
        Where the section holds no lamp, or is too narrow for any sheet.
    """
    section = section_of(plan, section_id)
    lamps = lamps_for(catalogue, plan, section_id)
    if not lamps:
        raise PlanError(f"A carrier for {section.name}", "there is no lamp in it to hold", "a lamp inside it first")
    axis, sign = _facing(lamps)
    mine = [p for p in lamps if (axis_of(p.aim), 1 if p.aim[axis_of(p.aim)] > 0 else -1) == (axis, sign)]
    chosen = form or best_form(catalogue, section, mine)
    thick = catalogue.sheets[SHEET].thick_mm
    low, high = list(section.box.at), [a + s for a, s in zip(section.box.at, section.box.size, strict=True)]
    if min(section.box.size) < 2 * PLAY_MM + thick:
        raise PlanError(
            f"A carrier for {section.name}", f"its inner box is only {min(section.box.size):g} mm across",
            f"{2 * PLAY_MM + thick:g} mm for the thinnest sheet with room to slide",
        )  # fmt: skip
    first, last = [0.0] * 3, [0.0] * 3
    for a in others(axis):
        reach = [_reach(catalogue, p, a) for p in mine]
        first[a] = max(min(p.at[a] - r for p, r in zip(mine, reach, strict=True)) - MARGIN_MM, low[a] + PLAY_MM)
        last[a] = min(max(p.at[a] + r for p, r in zip(mine, reach, strict=True)) + MARGIN_MM, high[a] - PLAY_MM)
        if chosen == "firewall":
            first[a], last[a] = low[a] + PLAY_MM, high[a] - PLAY_MM
    back, front = _depth(catalogue, section, mine, axis, sign, chosen, thick)
    first[axis], last[axis] = min(back, front), max(back, front)
    first[axis], last[axis] = max(first[axis], low[axis]), min(last[axis], high[axis])
    if last[axis] - first[axis] < thick:  # lamps on the wall itself: the sheet goes between
        first[axis], last[axis] = (low[axis], low[axis] + thick) if sign > 0 else (high[axis] - thick, high[axis])
    u, v = others(axis)
    along = u if last[u] - first[u] >= last[v] - first[v] else v
    divider = _divider(catalogue, mine, along, first[along], last[along] - first[along]) if chosen == "tray" else None
    size = tuple(round(max(b - a, thick), 3) for a, b in zip(first, last, strict=True))
    at = tuple(round((a + b) / 2, 3) for a, b in zip(first, last, strict=True))
    notch = (min(2.0 + 0.5 * math.sqrt(len(mine)), 6.0), 1.2)
    return Carrier(
        id=fresh_ids(plan, f"{section_id[:60]}.carrier")[0], name=f"{WORDS[chosen]}, {section.name}"[:100], section=section_id,
        form=chosen, at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2]), facing=FACE_NAMES[2 * axis + (1 if sign > 0 else 0)],
        sheet=SHEET, enters=_mouth(section), divider=divider, notch_mm=(round(notch[0], 2), notch[1]), own=chosen != "bracket",
    )  # fmt: skip


def _reach(catalogue: Catalogue, lamp: Lamp, axis: int) -> float:
    """Half a lamp's body along an axis of the sheet it lies on."""
    part = catalogue.lamps[lamp.part]
    if part.shape.long:
        return half_sizes(catalogue, lamp)[axis] if axis == lies_along(lamp) else part.size_mm[1] / 2
    return half_sizes(catalogue, lamp)[axis]


def _depth(
    catalogue: Catalogue, section: Section, lamps: Sequence[Lamp], axis: int, sign: int, form: CarrierForm, thick: float
) -> tuple[float, float]:
    """Where a carrier begins behind its lamps and where it ends, along the way they look, mm on the model."""
    backs = [sign * p.at[axis] - half_sizes(catalogue, p)[axis] for p in lamps]
    seat = sign * min(backs)  # the sheet's front
    wall_behind = section.box.at[axis] + (0.0 if sign > 0 else section.box.size[axis])
    wall_before = section.box.at[axis] + (section.box.size[axis] if sign > 0 else 0.0)
    if form in ("strip", "firewall"):
        return seat - sign * thick, seat
    if form in ("sled", "riser", "bracket"):
        return wall_behind, seat
    tops = max(sign * p.at[axis] + half_sizes(catalogue, p)[axis] for p in lamps)
    if form == "tray":
        wall = max(TRAY_WALL_MM, tops - sign * seat + 2.0)
        return seat - sign * thick, seat + sign * min(wall, sign * (wall_before - seat) - PLAY_MM)
    return seat - sign * thick, wall_before - sign * PLAY_MM


def _mouth(section: Section) -> Face:
    """The face a section is open by while it is built: the largest; of two alike the top."""
    faces: tuple[Face, ...] = ("top", "bottom", "port", "starboard", "bow", "stern")
    areas = {}
    for face in faces:
        u, v = others(FACE_NAMES.index(face) // 2)
        areas[face] = section.box.size[u] * section.box.size[v]
    return max(areas, key=lambda f: areas[f])
