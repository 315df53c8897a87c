"""What it takes: holes, panes, joints and hours, from the plan and the user's own minutes."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator
from typing import NamedTuple

from gwiazda.core.assess.carrier.work import pieces_minutes
from gwiazda.core.assess.light.lenses import lens_of
from gwiazda.core.memo import kept
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import BRANCHING, Dot, Feed, Hangs, Hung, Lamp, Opening, Plan, Resistor, Section, Series

OUTSIDE = "outside"


class Effort(NamedTuple):
    """Work on a section or a feature (its id in ``of``). ``holes`` are drilled or cut; panes scraped free need none."""

    of: str
    holes: int
    panes: int
    lamps: int
    joints: int
    hours: float


Key = tuple[str, str]  # section (or OUTSIDE, or empty), feature of its own


@kept()
def _openings(openings: tuple[Opening, ...]) -> Counter[tuple[str, str, bool]]:
    """Openings by section, feature, and whether there is a hole at all."""
    return Counter((o.section, o.feature, o.hole) for o in openings)


@kept()
def _dots(dots: tuple[Dot, ...]) -> Counter[tuple[str, str, bool]]:
    """Dots by section, feature, and whether their hole comes with the part."""
    return Counter((d.section, d.feature, d.hole == "given") for d in dots)


def joints_in(node: Hangs) -> Iterator[tuple[str, int]]:
    """Lamps of a part of the tree with the joints that each brings.

    One on its own has three with its resistor: to plus, between them, to minus. In a string each further lamp brings one;
    side by side each has two ends of its own.
    """
    first = True
    if isinstance(node, Series):
        resistors = sum(isinstance(x, Resistor) for x in node.items)
        for x in node.items:
            for lamp, count in joints_in(x):
                alone = isinstance(x, Hung)
                yield lamp, (count + resistors if first else (1 if alone else count))
                first = False
    elif isinstance(node, Hung):
        yield node.lamp, 2
    elif isinstance(node, BRANCHING):
        for x in node.items:
            yield from joints_in(x)


@kept()
def _lamps(
    sections: tuple[Section, ...], lamps: tuple[Lamp, ...], feeds: tuple[Feed, ...]
) -> Counter[tuple[str, str, int]]:
    """Lamps by home, feature and joints."""
    homes = lamps_by_section(sections, lamps)
    joints = {lamp: n for f in feeds for item in f.items for lamp, n in joints_in(item)}
    return Counter((homes.get(p.id) or OUTSIDE, p.feature, joints.get(p.id, 3)) for p in lamps)


def _tally(plan: Plan, of: Callable[[str, str], str], catalogue: Catalogue | None) -> dict[str, Effort]:
    """Efforts by what ``of`` makes of a section and a feature."""
    minutes = {"drill": plan.effort.drill_min, "mask": plan.effort.mask_min, "scratch": plan.effort.scratch_min}
    schools = {s.id: s.school for s in plan.sections}
    out: dict[str, Effort] = {}

    def add(key: str, holes: int, panes: int, lamps: int, joints: int, hours: float) -> None:
        _, h, p, n, j, t = out.get(key) or Effort(key, 0, 0, 0, 0, 0.0)
        out[key] = Effort(key, h + holes, p + panes, n + lamps, j + joints, t + hours)

    for (section, feature, hole), n in _openings(plan.openings).items():
        # Lit through the plastic, it is masked from the paint and not cut.
        school = schools[section] if hole or schools[section] != "drill" else "mask"
        add(of(section, feature), n * (school == "drill"), n, 0, 0, n * minutes[school] / 60.0)
    for (section, feature, given), n in _dots(plan.dots).items():
        hours = n * (plan.effort.dot_min + (0.0 if given else plan.effort.drill_min)) / 60.0
        add(of(section or OUTSIDE, feature), 0 if given else n, 0, 0, 0, hours)
    for (home, feature, joints), n in _lamps(plan.sections, plan.lamps, plan.feeds).items():
        hours = n * (joints * plan.effort.joint_min + plan.effort.lamp_min) / 60.0
        add(of(home, feature), 0, 0, n, n * joints, hours)
    if catalogue is not None:
        for carrier in plan.carriers:
            add(of(carrier.section, ""), 0, 0, 0, 0, pieces_minutes(catalogue, carrier)[1] / 60.0)
        for o in plan.openings:
            lens = lens_of(catalogue, o)
            if lens is not None:
                add(of(o.section, o.feature), 0, 0, 0, 0, lens.each_min / 60.0)
    return out


def effort_of(plan: Plan, catalogue: Catalogue | None = None) -> tuple[Effort, ...]:
    """Effort of each section, and of the lamps outside under the name "outside"; what is made for it (carriers, lenses) as the
    catalogue says, and left out without one."""
    found = _tally(plan, lambda section, _: section, catalogue)
    return tuple(found[key] for key in [*(s.id for s in plan.sections), OUTSIDE] if key in found)


def feature_effort_of(plan: Plan, catalogue: Catalogue | None = None) -> tuple[Effort, ...]:
    """Effort of each feature, and of what belongs to none under an empty name.

    Openings and lamps belong to their section's feature unless they name one of their own.
    """
    of_section = {s.id: s.feature for s in plan.sections}
    found = _tally(plan, lambda section, feature: feature or of_section.get(section, ""), catalogue)
    return tuple(found[key] for key in [*(f.id for f in plan.features), ""] if key in found)
