"""Plans as somebody else might have left them: parts gone, moved, exchanged; by a seed."""

from __future__ import annotations

import random

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import shaped
from gwiazda.demos import path_of

CAT = built_in()
DEMOS = ("szron", "perkoz", "swistak", "bryla")


def bent(plan: Plan, r: random.Random) -> Plan:
    """A plan as somebody else might have left it: parts gone, moved, exchanged."""
    for _ in range(r.randint(1, 4)):
        section, lamp = r.choice(plan.sections), r.choice(plan.lamps) if plan.lamps else None
        things = [x.id for group in (plan.lamps, plan.passages, plan.openings, plan.dots) for x in group]
        try:
            what = r.randrange(8)
            if what == 0 and things:
                after = edits.delete(plan, [r.choice(things)])
            elif what == 1:
                after = edits.set_supply(
                    plan, part=r.choice(sorted(CAT.sources)), in_series=1, in_parallel=1, volts=None
                )
            elif what == 2 and lamp is not None:
                after = edits.set_fields(plan, [lamp.id], at=tuple(x + r.uniform(-9, 9) for x in lamp.at))
            elif what == 3 and lamp is not None:
                after = edits.set_fields(plan, [lamp.id], part=r.choice(sorted(CAT.lamps)))
            elif what == 4 and plan.passages:
                after = edits.set_fields(plan, [r.choice(plan.passages).id], width_mm=r.uniform(0.5, 4))
            elif what == 5:
                after = edits.set_fields(plan, [section.id], inside=(), wall_mm=r.uniform(0.4, 2))
            elif what == 6:
                at = tuple(x + r.uniform(-40, 40) for x in section.box.at)
                after = edits.set_fields(plan, [section.id], box=copy_unchecked(section.box, at=at))
            elif lamp is not None:
                after = edits.set_resistor(plan, [lamp.id], r.choice([1.0, 47.0, 1e3, 1e5]))
            else:
                continue
            plan = validate_edit(plan, after)
        except (GwiazdaError, IndexError):
            continue
    return plan


def gone_wrong(seed: int) -> Plan:
    """A demo or a starter gone wrong."""
    r = random.Random(seed)
    base = load(path_of(DEMOS[seed % 3])).plan if seed % 2 else shaped(FORMS[sorted(FORMS)[seed % 5]].sizes)[0]
    return bent(base, r)
