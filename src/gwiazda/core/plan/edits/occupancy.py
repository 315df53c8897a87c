"""Who is awake: which windows are lit, dim or dark, by rule, repeatable by a seed."""

from __future__ import annotations

import random
from collections.abc import Iterable, Mapping

from gwiazda.core.errors import PlanError
from gwiazda.core.memo import memoize
from gwiazda.core.plan.edits import copy_checked, replace
from gwiazda.core.plan.frame import PLANES
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Model, Opening, Plan

DIM = 0.35
ROW_MM = 1.5  # openings within this height of one another are one row


def rows_of(openings: Iterable[Opening]) -> list[list[Opening]]:
    """Openings grouped by section, side and height, each row in order along its wall."""
    groups: dict[tuple[str, str], list[Opening]] = {}
    for o in openings:
        groups.setdefault((o.section, o.side), []).append(o)
    rows: list[list[Opening]] = []
    for (_, side), members in sorted(groups.items()):
        h, v, _ = PLANES[side]  # type: ignore[index]
        members.sort(key=lambda o: (o.at[v], o.at[h]))
        for o in members:
            if (
                rows
                and rows[-1][0].section == o.section
                and rows[-1][0].side == side
                and o.at[v] - rows[-1][0].at[v] <= ROW_MM
            ):
                rows[-1].append(o)
            else:
                rows.append([o])
    for row in rows:
        row.sort(key=lambda o: o.at[PLANES[o.side][0]])
    return rows


def pattern(count: int, share: float, clump: float, dim_share: float, rng: random.Random) -> list[float]:
    """Lit shares of a row: exactly ``round(share · count)`` not dark, in clumps of about ``clump``."""
    lit = [False] * count
    wanted = round(count * share)
    while sum(lit) < wanted:
        start = rng.randrange(count)
        run = max(1, round(rng.expovariate(1.0 / clump))) if clump > 1 else 1
        for i in range(start, min(start + run, count)):
            if sum(lit) < wanted:
                lit[i] = True
    return [(DIM if rng.random() < dim_share else 1.0) if on else 0.0 for on in lit]


def fill(
    plan: Plan,
    ids: Iterable[str],
    share: float = 0.6,
    clump: float = 2.0,
    seed: int = 1,
    dim_share: float = 0.12,
    always: Mapping[str, float] | None = None,
) -> Plan:
    """Light a share of the named openings, row by row; the same seed gives the same pattern.

    Port and starboard are filled from seeds of their own, so they never carry the same pattern by rule. ``always``
    fixes the lit share of rooms by name ("corridor": 1), and of openings whose id begins with it ("bridge"). The windows
    of one room are lit alike.

    Raises PlanError for shares outside 0 to 1 or a clump below 1.
    """
    if not (0.0 <= share <= 1.0 and 0.0 <= dim_share <= 1.0):
        raise PlanError("Which windows are lit", f"a share of {share:g}", "0 to 1")
    if not 1.0 <= clump <= 50.0:
        raise PlanError("Which windows are lit", f"clumps of {clump:g}", "1 to 50")
    chosen = [o for i in ids if isinstance(o := find(plan, i), Opening)]
    changed: dict[str, Model] = {}
    rooms: dict[tuple[str, str], float] = {}
    for row in rows_of(chosen):
        rng = random.Random(f"{seed}/{row[0].section}/{row[0].side}/{row[0].at[PLANES[row[0].side][1]]:.1f}")
        for o, lit in zip(row, pattern(len(row), share, clump, dim_share, rng), strict=True):
            fixed = next((v for name, v in (always or {}).items() if _named(o, name)), None)
            share_here = lit if fixed is None else fixed
            if o.room and fixed is None:
                share_here = rooms.setdefault((o.section, o.room.casefold()), share_here)
            changed[o.id] = copy_checked(o, lit=share_here)
    return replace(plan, changed)


def _named(o: Opening, name: str) -> bool:
    """Whether a name means an opening: its room's, or how its id begins."""
    return bool(name) and (o.room.casefold().startswith(name.casefold()) or o.id.startswith(name))


def names(text: str, share: float) -> dict[str, float]:
    """``corridor, mess`` as names with the share they get."""
    return {name.strip(): share for name in text.split(",") if name.strip()}


def twin_sections(plan: Plan) -> tuple[str, ...]:
    """Sections whose port and starboard windows carry the very same pattern of lit and dark."""
    return _twins(plan.openings)


@memoize()
def _twins(openings: tuple[Opening, ...]) -> tuple[str, ...]:
    found = []
    by_section: dict[str, dict[str, list[Opening]]] = {}
    for o in openings:
        by_section.setdefault(o.section, {}).setdefault(o.side, []).append(o)
    for section, sides in by_section.items():
        port, starboard = sides.get("port", []), sides.get("starboard", [])
        if len(port) < 4 or len(port) != len(starboard):
            continue
        left = sorted((round(o.at[0], 1), round(o.at[2], 1), o.lit > 0) for o in port)
        right = sorted((round(o.at[0], 1), round(o.at[2], 1), o.lit > 0) for o in starboard)
        if left == right and len({lit for *_, lit in left}) > 1:
            found.append(section)
    return tuple(found)
