"""How warm it gets: the air in each closed section, regulators, and what would happen were one put there."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import BRANCHING, CircuitNode, Feed, Load, Plan, Regulated, Section, Switched, parts_in
from gwiazda.core.power.heat import AIR_LIMIT_C, ROOM_C, box_air_c, junction_c

Device = Regulated | Load | Switched


class SectionHeat(NamedTuple):
    """What a section's lamps, their resistors and the devices in it lose (W), while the source is fresh; its air (°C).

    Devices: regulators, motors and sound modules, transistor stages, relays with their coils, outputs of a board.
    """

    id: str
    lamps_w: float
    resistors_w: float
    devices_w: float
    area_m2: float
    air_c: float

    @property
    def watt(self) -> float:
        return self.lamps_w + self.resistors_w + self.devices_w


class RegulatorHeat(NamedTuple):
    """A regulator's loss (W) and junction (°C), where it is; and the sections whose air it would bring over the limit."""

    id: str
    home: str
    watt: float
    junction_c: float
    elsewhere: tuple[tuple[str, float], ...]

    @property
    def not_in(self) -> tuple[str, ...]:
        """Sections where it had better not go."""
        return tuple(s for s, air in self.elsewhere if air >= AIR_LIMIT_C)


class Heat(NamedTuple):
    sections: tuple[SectionHeat, ...]
    regulators: tuple[RegulatorHeat, ...]

    def of(self, section_id: str) -> SectionHeat | None:
        return next((s for s in self.sections if s.id == section_id), None)


def outer_area_m2(section: Section) -> float:
    """Outer faces of a section's box with its walls, that it stands on left out (m²)."""
    x, y, z = (a + 2.0 * section.wall_mm for a in section.box.size)
    return (x * y + 2.0 * x * z + 2.0 * y * z) * 1e-6


def homes_of(feeds: Sequence[Feed]) -> Iterator[tuple[Device, str]]:
    """Regulators, motors and modules, outputs and stages, with the section each sits in: where it is put, else a motor or a stage where what
    feeds it is; the base or the table is none."""

    def walk(node: CircuitNode, home: str) -> Iterator[tuple[Device, str]]:
        here = node.home if isinstance(node, Regulated) else home
        if isinstance(node, (Regulated, Switched)):
            yield node, here
        elif isinstance(node, Load):
            yield node, node.home or home
        if isinstance(node, BRANCHING):
            for item in node.items:
                yield from walk(item, here)

    for feed in feeds:
        for item in feed.items:
            yield from walk(item, feed.home)


@memoize(slots=4)
def heat_of(plan: Plan, assessment: Assessment) -> Heat:
    """Heat of all sections with something in them, and of all regulators.

    A string's resistor is counted where its first lamp is; light that leaves is a small share and counted as warmth.
    """
    lamps: dict[str, float] = defaultdict(float)
    resistors: dict[str, float] = defaultdict(float)
    for lamp in assessment.lamps.values():
        if lamp.section:
            lamps[lamp.section] += max(lamp.fresh_a, lamp.current_a, 0.0) * lamp.forward_v
    for branch in assessment.branches.values():
        home = assessment.lamps[branch.lamps[0]].section
        if home:
            resistors[home] += branch.resistor_w
    inside: dict[str, float] = defaultdict(float)
    for part, home in homes_of(plan.feeds):
        if home and part.id in assessment.parts:
            inside[home] += assessment.parts[part.id].heat_w
    nodes = [x for f in plan.feeds for item in f.items for x in parts_in(item) if isinstance(x, Regulated)]
    lost = {x.id: assessment.parts[x.id].heat_w for x in nodes if x.id in assessment.parts}
    sections = []
    for s in plan.sections:
        if s.id in lamps or s.id in inside:
            area = outer_area_m2(s)
            total = lamps[s.id] + resistors[s.id] + inside[s.id]
            sections.append(SectionHeat(s.id, lamps[s.id], resistors[s.id], inside[s.id], area, box_air_c(total, area)))
    air = {s.id: s for s in sections}
    regulators = []
    for x in nodes:
        if x.id not in lost:
            continue
        watt = lost[x.id]
        here = air[x.home].air_c if x.home in air else ROOM_C
        theta = assessment.catalogue.regulators[x.part].theta_k_w
        elsewhere = tuple(
            (
                s.id,
                box_air_c(
                    (air[s.id].watt if s.id in air else 0.0) + (0.0 if s.id == x.home else watt), outer_area_m2(s)
                ),
            )
            for s in plan.sections
        )
        regulators.append(RegulatorHeat(x.id, x.home, watt, junction_c(watt, theta, here), elsewhere))
    return Heat(tuple(sections), tuple(regulators))
