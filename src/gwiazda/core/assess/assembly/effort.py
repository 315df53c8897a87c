"""What it takes: holes, panes, joints and hours of each section and feature, summed from the steps of the build."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import Contents, contents_of, outside_lamps
from gwiazda.core.assess.assembly.steps import WHOLE, steps_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import joints_by_lamp
from gwiazda.core.plan.model import Plan

PANES = ("open", "mask", "unmask", "scratch", "glaze", "cover", "lenses")
LAMPS = ("lamps", "wires", "label", "tuck")
DOTS = ("fibres", "trim")


class Effort(NamedTuple):
    """Work on a section or a feature (its id in ``of``; empty for what is done to the whole, or belongs to no feature).

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
    """What a section has of a feature: its panes, holes, lamps, joints and dots."""

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
    own = c.section.feature
    cut = [o for o in c.openings if o.hole and c.section.school == "drill"]
    ways = [w for w in c.passages if w.make != "as it is"]
    drilled = [d for d in c.dots if d.hole == "drilled"]
    named = [
        *(o.feature for o in cut),
        *(d.feature for d in drilled),
        *(p.feature for p in c.seen),
        *("" for _ in ways),
    ]
    holes = Counter(feature or own for feature in named)
    return _Share(
        Counter(o.feature or own for o in c.openings),
        holes,
        Counter(p.feature or own for p in c.lamps),
        sum((Counter({p.feature or own: joints.get(p.id, 3)}) for p in c.lamps), Counter()),
        Counter(d.feature or own for d in c.dots),
    )


@memoize(slots=2)
def _efforts(catalogue: Catalogue, plan: Plan) -> dict[tuple[str, str], Effort]:
    """Efforts by section (empty for the whole) and feature."""
    joints = joints_by_lamp(plan.feeds)
    shares = {key: _share(c, joints) for key, c in contents_of(plan).items()}
    late = outside_lamps(plan)
    seen = Counter(p.feature for p in late)
    soldered: Counter[str] = sum((Counter({p.feature: joints.get(p.id, 3)}) for p in late), Counter())
    shares[WHOLE] = _Share(Counter(), seen, seen, soldered, Counter())
    features = {s.id: s.feature for s in plan.sections}
    hours: dict[tuple[str, str], float] = {}
    for step in steps_of(catalogue, plan):
        home = step.section if step.section in shares else WHOLE
        shared = shares[home].of_kind(step.kind) or Counter({features.get(home, ""): 1})
        whole = shared.total()
        for feature, count in shared.items():
            hours[home, feature] = hours.get((home, feature), 0.0) + step.minutes / 60.0 * count / whole
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


def feature_effort_of(plan: Plan, catalogue: Catalogue) -> tuple[Effort, ...]:
    """Effort of each feature, and of what belongs to none under an empty name; the hours add up to those of the steps.

    Openings and lamps belong to their section's feature unless they name one of their own. Minutes that count panes, lamps or
    joints are shared by them, all others belong to the section's feature.
    """
    found = _summed(_efforts(catalogue, plan), 1)
    return tuple(found[key] for key in [*(f.id for f in plan.features), ""] if key in found)
