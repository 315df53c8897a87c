"""The lights of the demos: what their lamps, openings and sections are parts of."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan


class Row(NamedTuple):
    """A light: its name, its kind, its parts; whether they make one thing; the name of its twin."""

    name: str
    kind: str
    parts: Sequence[str]
    whole: bool = True
    twin: str = ""
    animated: bool = False


def with_lights(plan: Plan, rows: Iterable[Row]) -> Plan:
    """A plan with these lights, in this order; twins know each other."""
    made: dict[str, str] = {}
    rows = list(rows)
    for row in rows:
        plan, light_id = edits.gather_light(plan, row.kind, row.name, row.parts, whole=row.whole, animated=row.animated)
        made[row.name] = light_id
    for row in rows:
        if row.twin:
            plan = edits.set_light(plan, made[row.name], twin=made[row.twin])
    return plan
