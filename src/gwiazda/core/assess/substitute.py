"""Lamps from the drawer in place of one that lacks, each with what it changes: the whole plan assessed with it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan, altered

MOST = 4  # tried at the most: each is a whole assessment


class Substitute(NamedTuple):
    """A lamp that may take another's place: its light as a share of the other's, all of it over the lamps concerned, and what the whole draws more (A)."""

    part: str
    name: str
    light: float
    more_a: float
    same_form: bool


def with_part(part: str, other: str) -> Callable[[Plan], Plan]:
    """An edit: every lamp of one part becomes one of another."""
    return lambda plan: altered(plan, lamps=tuple(altered(p, part=other) if p.part == part else p for p in plan.lamps))


def substitutes(plan: Plan, found: Assessment, part: str, candidates: Sequence[str]) -> tuple[Substitute, ...]:
    """Lamps of the same colour among ``candidates`` (parts that are at hand in number), those of the same form and the nearest light first.

    Bodies of several colours and strips are left out: another one isn't put in their place one for one.
    """
    lamps = found.catalogue.lamps
    old = lamps.get(part)
    mine = [p.id for p in plan.lamps if p.part == part]
    if old is None or old.body or old.form == "strip" or not mine:
        return ()
    fit = [lamps[c] for c in candidates if c != part and c in lamps and lamps[c].colour == old.colour and not lamps[c].body
           and lamps[c].form != "strip"]  # fmt: skip
    fit.sort(key=lambda p: (p.form != old.form, abs(p.size_mm[0] - old.size_mm[0]), p.id))
    before = sum(found.lamps[i].flux_lm for i in mine if i in found.lamps)
    draw = sum(s.draw_a for s in found.feeds.values())
    out = []
    for new in fit[:MOST]:
        tried = assess(with_part(part, new.id)(plan), found.catalogue)
        after = sum(tried.lamps[i].flux_lm for i in mine if i in tried.lamps)
        more = sum(s.draw_a for s in tried.feeds.values()) - draw
        out.append(Substitute(new.id, new.name, after / before if before > 0 else 0.0, more, new.form == old.form))
    return tuple(sorted(out, key=lambda s: (not s.same_form, abs(s.light - 1.0))))
