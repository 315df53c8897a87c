"""The fewest lamps that light a section evenly and brightly enough, in each school of placing them.

Uses the room's light as ``assess.light.rooms`` computes it, whatever solver stands behind that; deterministic.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.aims import NIGHT
from gwiazda.core.assess.electrics.on_rails import part_on_v
from gwiazda.core.assess.electrics.sources import source_of
from gwiazda.core.assess.lamp.fit import fit_of, needed_mm
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.optics.cavities import cavity_of, lights_of
from gwiazda.core.assess.optics.joints import Port, ports_by_section
from gwiazda.core.assess.optics.lighting import joints_in
from gwiazda.core.assess.optics.lit_sections import LitSection, boards_for, in_row, lit_section_of
from gwiazda.core.light.photometry import evenness
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, Side
from gwiazda.core.plan.lookup import lamps_by_section, openings_by_section, section_of
from gwiazda.core.plan.model import Lamp, Look, Opening, Plan, Section, Wanted, copy_unchecked
from gwiazda.core.quantities import counted
from gwiazda.core.radiosity.fineness import CELLS, QUICK_CELLS

MOST_LAMPS = 12
MOST_OVER, LEAST_OVER = (
    0.95,
    0.9,
)  # of the source's volts: what a strip is made for at least, and what its lamps take at the most
NEARLY, MUCH = 0.8, 3.0  # of the wanted light: what straight on the rails may give
ALONG = 0.5  # of an aim along the model: a strip lies across then
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
    strip: bool = False
    rails: bool = False  # straight on the rails, with no resistor of ours: where that is about as bright as wanted

    @property
    def words(self) -> str:
        """How many of what, and where."""
        units = self.lamps[0].units
        many = f"a strip of {counted(units, 'unit')}" if self.strip else counted(self.lamp_count, "lamp")
        return f"{many} {SCHOOLS[self.school]}"


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


class Aim(NamedTuple):
    """What the lamps are to do: mean luminance of the lit windows (cd/m²), darkest over mean; how many they may be, and in
    which schools; the word that the luminance comes from, which they then want."""

    wanted_cd_m2: float = NIGHT.cd_m2["normal"]
    evenness: float = AIM_EVENNESS
    most: int = MOST_LAMPS
    schools: tuple[str, ...] = tuple(SCHOOLS)
    look: Look | None = None

    @property
    def wanted(self) -> Wanted:
        """As the lamps want it."""
        return Wanted(look=self.look) if self.look is not None else Wanted(cd_m2=self.wanted_cd_m2)


class _Section(NamedTuple):
    """A section that lamps are looked for, as the light in it needs it."""

    catalogue: Catalogue
    section: Section
    openings: tuple[Opening, ...]
    ports: tuple[Port, ...]
    kit_material: str
    volts: float

    def lit(self, lamps: tuple[Lamp, ...], cells: int) -> LitSection:
        c, s, openings, ports, material, _ = self
        return lit_section_of(c, s, openings, lamps, material, ports, cells)

    def light_together(self, every: Sequence[tuple[Lamp, ...]], cells: int) -> None:
        """Work out the light of lamps that are tried one after the other at once: it takes a fraction of the time."""
        c, s, openings, ports, material, _ = self
        if every and not boards_for(c, s, openings, every[0], ports, material, cells):
            lights_of(c, cavity_of(c, s, openings, ports, material, (), cells), [p for lamps in every for p in lamps])

    def proposed(self, school: str, lamps: tuple[Lamp, ...], aim: Aim, cells: int) -> Proposal:
        """What these lamps would do."""
        room = self.lit(lamps, cells)
        each = np.array([worked(self.catalogue, p).flux_lm for p in lamps])
        row = evenness((room.luminance_per_lm @ each)[in_row(self.openings)])
        even = row[0] if row else 1.0
        reached = float(room.mean_per_lm @ each) / aim.wanted_cd_m2
        good = even >= aim.evenness and reached >= 1.0
        share = min(1.0 / max(reached, 1e-9), 1.0)
        part = self.catalogue.lamps[lamps[0].part]
        rails = part.shape.in_units and NEARLY <= reached * part_on_v(self.catalogue, part, self.volts) <= MUCH
        return Proposal(school, part.id, len(lamps), even, reached, share, lamps, good, part.shape.in_units, rails)


def _score(p: Proposal) -> tuple[bool, float, float]:
    return p.good, min(p.reached, 1.0), p.evenness


# A look with few cells errs by a tenth or so: what is this far from good in it is not worth a fine one.
FAR, TOGETHER = 0.75, 4


def _best_of(
    room: _Section, school: str, tries: Sequence[tuple[Lamp, ...]], aim: Aim, cancelled: Callable[[], bool]
) -> Proposal | None:
    """The first of some tries that is good; where none is, the one that comes nearest."""
    near: list[Proposal] = []
    rough: list[Proposal] = []
    for i, lamps in enumerate(tries):
        if cancelled():
            break
        if i:  # one lamp, with which most small sections have enough, is looked at closely at once
            if i % TOGETHER == 1:
                room.light_together(tries[i : i + TOGETHER], QUICK_CELLS)
            glance = room.proposed(school, lamps, aim, QUICK_CELLS)
            if glance.evenness < FAR * aim.evenness or glance.reached < FAR:
                rough.append(glance)
                continue
        near.append(room.proposed(school, lamps, aim, CELLS))
        if near[-1].good:
            return near[-1]
    if rough and not cancelled():
        nearest = max(rough, key=_score)
        if not near or _score(nearest) > _score(max(near, key=_score)):
            near.append(room.proposed(school, nearest.lamps, aim, CELLS))
    return max(near, key=_score, default=None)


def propose(
    catalogue: Catalogue,
    plan: Plan,
    section_id: str,
    part_id: str = "chip-1206-warm-white",
    aim: Aim = Aim(),  # noqa: B008 – a value that never changes
    cancelled: Callable[[], bool] = lambda: False,
) -> tuple[Proposal, ...]:
    """The fewest lamps of each school; best first (good ones, then fewer lamps, then more even).

    Parameters
    ----------
    aim : Aim
        What they are to do.
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
    ports = ports_by_section(joints_in(catalogue, plan.sections, plan.openings, plan.kit.material)).get(section_id, ())
    room = _Section(catalogue, section, openings, ports, plan.kit.material, _volts(catalogue, plan))
    ids = edits.fresh_ids(start, f"{section_id}.lamp", aim.most)
    found: list[Proposal] = []
    # A strip is one lamp of so many units in the middle of the section; others are so many, spread along it.
    most = int(section.box.size[0] / part.size_mm[0]) if part.shape.in_units else aim.most
    for school in aim.schools:
        tries = []
        for count in range(1, most + 1):
            many, units = (1, count) if part.shape.in_units else (count, 1)
            places = _place(section, side, school, many, needed_mm(part, part.size_mm[2]))
            lamps = tuple(
                Lamp(id=i, part=part_id, at=at, aim=way, units=units, wanted=aim.wanted)
                for i, (at, way) in zip(ids[:many], places, strict=True)
            )
            if fit_of(catalogue, section, lamps[0]).clearance_mm < 0 or (units > 1 and abs(lamps[0].aim[0]) > ALONG):
                break
            tries.append(lamps)
        best = _best_of(room, school, tries, aim, cancelled)
        if best is not None:
            found.append(best)
    return tuple(sorted(found, key=lambda p: (not p.good, p.lamp_count, p.lamps[0].units, -round(p.evenness, 4))))


def _volts(catalogue: Catalogue, plan: Plan) -> float:
    """Of the first source, nominal; 0 where it isn't known."""
    source = source_of(catalogue, plan.feeds[0].supply)
    return source.volts if source is not None else 0.0


def beside(catalogue: Catalogue, plan: Plan, part_id: str) -> str:
    """What else of its colour is worth a look in its place: for a lamp a strip that the first source lights with no resistor, cut as finely
    as there is one, for a strip a chip; empty where there is none."""
    part = catalogue.lamps[part_id]
    if part.shape.in_units:
        return next(
            (
                p.id
                for p in catalogue.lamps.values()
                if p.body == "" and p.id.startswith("chip-1206") and p.colour == part.colour
            ),
            "",
        )
    volts = _volts(catalogue, plan)
    able = [
        p for p in catalogue.lamps.values()
        if p.shape.in_units and p.colour == part.colour and p.volts >= MOST_OVER * volts and p.leds * catalogue.families[p.family].v1_v < LEAST_OVER * volts
    ]  # fmt: skip
    return min(able, key=lambda p: (p.volts, p.size_mm[0])).id if able else ""


def take(plan: Plan, section_id: str, proposal: Proposal) -> Plan:
    """The section's lamps replaced by those of a proposal."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    plan = edits.delete(plan, [i for i, home in homes.items() if home == section_id])
    ids = edits.fresh_ids(plan, f"{section_id}.lamp", proposal.lamp_count)
    for new_id, lamp in zip(ids, proposal.lamps, strict=True):
        plan = edits.add_lamp(plan, copy_unchecked(lamp, id=new_id))
    return edits.put_on_rails(plan, ids) if proposal.rails else plan
