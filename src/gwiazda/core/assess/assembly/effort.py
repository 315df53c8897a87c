"""What it takes: holes, panes, joints and hours of each section and light, summed from the steps of the build."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import Contents, contents_of, outside_lamps
from gwiazda.core.assess.assembly.step import WHOLE
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import joints_by_lamp
from gwiazda.core.plan.model import Plan

PANES = ("open", "mask", "unmask", "scratch", "glaze", "cover", "lenses")
LAMPS = ("lamps", "wires", "label", "tuck")
DOTS = ("fibres", "trim")


class Effort(NamedTuple):
    """Work on a section or a light (its id in ``of``; empty for what is done to the whole, or belongs to no light).

    ``holes`` are drilled, filed or cut: for panes, fibres, lamps seen themselves and ways of wires; panes masked or scraped free
    need none. ``hours`` are the hands' of all its steps.
    """

    of: str
    holes: int
    panes: int
    lamps: int
    joints: int
    hours: float


class _Share(NamedTuple):
    """What a section has of a light: its panes, holes, lamps, joints and dots."""

    panes: Counter[str]
    holes: Counter[str]
    lamps: Counter[str]
    joints: Counter[str]
    dots: Counter[str]

    def of_kind(self, kind: str) -> Counter[str]:
        """What the minutes of a kind of step go by; empty where they belong to the section itself."""
        if kind in PANES:
            return self.panes
        if kind in LAMPS:
            return self.lamps
        if kind in DOTS:
            return self.dots
        if kind == "test":
            return self.lamps + self.dots
        return {"holes": self.holes, "deburr": self.holes, "solder": self.joints}.get(kind, Counter())


def _share(c: Contents, joints: dict[str, int]) -> _Share:
    own = c.section.light
    cut = [o for o in c.openings if o.hole and c.section.school == "drill"]
    ways = [w for w in c.passages if w.make != "as it is"]
    drilled = [d for d in c.dots if d.hole == "drilled"]
    named = [
        *(o.light for o in cut),
        *(d.light for d in drilled),
        *(p.light for p in c.seen),
        *("" for _ in ways),
    ]
    holes = Counter(light or own for light in named)
    return _Share(
        Counter(o.light or own for o in c.openings),
        holes,
        Counter(p.light or own for p in c.lamps),
        sum((Counter({p.light or own: joints.get(p.id, 3)}) for p in c.lamps), Counter()),
        Counter(d.light or own for d in c.dots),
    )


@memoize(slots=2)
def _efforts(catalogue: Catalogue, plan: Plan) -> dict[tuple[str, str], Effort]:
    """Efforts by section (empty for the whole) and light."""
    joints = joints_by_lamp(plan.feeds)
    shares = {key: _share(c, joints) for key, c in contents_of(plan).items()}
    late = outside_lamps(plan)
    seen = Counter(p.light for p in late)
    soldered: Counter[str] = sum((Counter({p.light: joints.get(p.id, 3)}) for p in late), Counter())
    shares[WHOLE] = _Share(Counter(), seen, seen, soldered, Counter())
    lights = {s.id: s.light for s in plan.sections}
    hours: dict[tuple[str, str], float] = {}
    for step in steps_of(catalogue, plan):
        home = step.section if step.section in shares else WHOLE
        shared = shares[home].of_kind(step.kind) or Counter({lights.get(home, ""): 1})
        whole = shared.total()
        for light, count in shared.items():
            hours[home, light] = hours.get((home, light), 0.0) + step.minutes / 60.0 * count / whole
    keys = {*hours, *((home, f) for home, s in shares.items() for counts in s for f in counts)}
    return {
        (home, f): Effort(
            "", shares[home].holes[f], shares[home].panes[f], shares[home].lamps[f], shares[home].joints[f], hours.get((home, f), 0.0)
        )
        for home, f in keys
    }  # fmt: skip


def _summed(found: dict[tuple[str, str], Effort], which: int) -> dict[str, Effort]:
    out: dict[str, Effort] = {}
    for key in sorted(found):
        a, b = out.get(key[which], Effort("", 0, 0, 0, 0, 0.0)), found[key]
        out[key[which]] = Effort(
            key[which], a.holes + b.holes, a.panes + b.panes, a.lamps + b.lamps, a.joints + b.joints, a.hours + b.hours
        )
    return out


def effort_of(plan: Plan, catalogue: Catalogue) -> tuple[Effort, ...]:
    """Effort of each section, and of what is done to the whole (lamps fitted late, base, final test) under an empty name.

    Their hours add up to those of the steps.
    """
    found = _summed(_efforts(catalogue, plan), 0)
    return tuple(found[key] for key in [*(s.id for s in plan.sections), WHOLE] if key in found)


def effort_by_light(plan: Plan, catalogue: Catalogue) -> tuple[Effort, ...]:
    """Effort of each light, and of what belongs to none under an empty name; the hours add up to those of the steps.

    Openings and lamps belong to their section's light unless they name one of their own. Minutes that count panes, lamps or
    joints are shared by them, all others belong to the section's light.
    """
    found = _summed(_efforts(catalogue, plan), 1)
    return tuple(found[key] for key in [*(f.id for f in plan.lights), ""] if key in found)
