"""How a model is powered, as one step: source, its place, fuse, switch with its place, and a way for the leads to it."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

from gwiazda.core.assess.bodies.places import put_there
from gwiazda.core.assess.bodies.rooms import rooms_of
from gwiazda.core.assess.bodies.sizes import socket_of, source_sizes
from gwiazda.core.circuit.fuses import FUSE_OVER, fuse_for
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.loom import gap_mm
from gwiazda.core.plan.lookup import built_into, item_of, section_of, string_of
from gwiazda.core.plan.model import Feed, Fuse, Plan, Supply, Switch, copy_unchecked, parts_in
from gwiazda.core.quantities import format_current


class Power(NamedTuple):
    """A source in a section (``home``; empty: on the table), for a feed that draws so much (A)."""

    feed: str
    supply: Supply
    home: str
    draw_a: float


def _fuses(feed: Feed) -> tuple[Fuse, ...]:
    return tuple(x for item in feed.head for x in parts_in(item) if isinstance(x, Fuse))


def _switched(feed: Feed) -> bool:
    return any(isinstance(x, Switch) for item in (*feed.head, *feed.items) for x in parts_in(item))


def _lit_most(plan: Plan, home: str) -> str:
    """The section that most lamps are built into, the home left out; empty where there is none."""
    counts = Counter(s for s in built_into(plan.sections, plan.lamps).values() if s and s != home)
    return counts.most_common(1)[0][0] if counts else ""


def _no_way(plan: Plan, home: str) -> bool:
    return bool(home) and not any(home in (p.section, p.into) for p in plan.passages)


def what_is_added(plan: Plan, power: Power) -> tuple[str, ...]:
    """What ``powered`` puts in besides the source, in words."""
    feed, out = item_of(plan.feeds, power.feed, "feed"), []
    fuses = _fuses(feed)
    if not fuses or fuses[0].rated_a < FUSE_OVER * power.draw_a:
        out.append(f"a fuse of {format_current(fuse_for(power.draw_a))}")
    if not _switched(feed):
        out.append("a switch")
    other = _lit_most(plan, power.home)
    if other and _no_way(plan, power.home):
        a, b = section_of(plan, other), section_of(plan, power.home)
        out.append(f"a stand from {a.name}" if gap_mm(a, b) > a.wall_mm + b.wall_mm else f"a hole to {a.name}")
    return tuple(out)


def powered(catalogue: Catalogue, plan: Plan, power: Power) -> Plan:
    """A feed powered so: its source with a place where there is one, a fuse for its current, a switch with a place, and a way for its leads.

    What is there already stays: a fuse that bears it, a switch, a passage.
    """
    feed = item_of(plan.feeds, power.feed, "feed")
    moved = feed.home != power.home
    plan = edits.set_feed(plan, feed.id, supply=power.supply, home=power.home)
    head = list(feed.head)
    fuses = _fuses(feed)
    if not fuses:
        head.insert(0, Fuse(id=edits.fresh_ids(plan, "fuse")[0], rated_a=fuse_for(power.draw_a)))
    elif fuses[0].rated_a < FUSE_OVER * power.draw_a:
        stronger = copy_unchecked(fuses[0], rated_a=fuse_for(power.draw_a))
        head = [stronger if x is fuses[0] else x for x in head]
    if not _switched(feed):
        head.append(Switch(id=edits.fresh_ids(plan, "switch")[0], home=power.home))
    plan = edits.set_feed(plan, feed.id, head=tuple(head))
    other = _lit_most(plan, power.home)
    if other and _no_way(plan, power.home):
        a, b = section_of(plan, other), section_of(plan, power.home)
        apart = gap_mm(a, b) > a.wall_mm + b.wall_mm
        plan = (edits.add_stand if apart else edits.add_passage)(plan, other, power.home)[0]
    if moved and feed.home:
        plan = _cleared(plan, feed.home, feed.id)
    if power.home and (source_sizes(catalogue, power.supply) or socket_of(catalogue, power.supply)):
        plan = put_there(catalogue, plan, feed.id)
    for x in (x for x in head if isinstance(x, Switch) and x.home):
        if not any(r.put for r in rooms_of(catalogue, plan) if r.body.of == x.id):
            plan = put_there(catalogue, plan, x.id)
    return plan


GROUPS = (("windows", ("inside",)), ("outside", ("outside", "fibre")))  # what is lit inside, and what is seen itself


def two_switches(catalogue: Catalogue, plan: Plan, feed_id: str) -> Plan:
    """The lamps of a feed on two switches in place of one for all: those that light the inside, and those that are seen themselves; each with
    its place where the source has one. The plan itself where there is only one of these, or what feeds both can't be told apart."""
    feed = item_of(plan.feeds, feed_id, "feed")
    if any(isinstance(x, Switch) and x.group in dict(GROUPS) for item in feed.items for x in parts_in(item)):
        return plan
    mine = [p for p in plan.lamps if edits.feed_of(plan, p.id).id == feed_id]
    groups = [[p.id for p in mine if p.mount in mounts] for _, mounts in GROUPS]
    tops = [{id(x) for i in group if (x := string_of(plan, i)) is not None} for group in groups]
    if not all(groups) or tops[0] & tops[1] or plan.feeds[0].id != feed_id:
        return plan
    changed = plan
    for (name, _), lamps in zip(GROUPS, groups, strict=True):
        changed, switch = edits.group_switch(changed, lamps, "switch")
        changed = edits.set_part(changed, switch, group=name, home=feed.home)
        if feed.home:
            changed = put_there(catalogue, changed, switch)
    gone = [x for x in item_of(changed.feeds, feed_id, "feed").head if isinstance(x, Switch)]
    for x in gone:
        if x.home:
            changed = _cleared(changed, x.home, x.id)
    kept = tuple(x for x in item_of(changed.feeds, feed_id, "feed").head if not isinstance(x, Switch))
    return edits.set_feed(changed, feed_id, head=kept)


def _cleared(plan: Plan, section_id: str, of: str) -> Plan:
    """A section without the place of something that has gone elsewhere."""
    section = section_of(plan, section_id)
    left = tuple(o for o in section.obstacles if o.of != of)
    return plan if len(left) == len(section.obstacles) else edits.set_fields(plan, [section_id], obstacles=left)
