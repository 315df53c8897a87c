"""The rhythm of a light: the pattern of the channel it plays on."""

from __future__ import annotations

from gwiazda.core.assess.lights.build import free_channel
from gwiazda.core.assess.lights.exchange import channel_of
from gwiazda.core.assess.lights.looks import both
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import fed_alone, find, light_of, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Plan

STEADY = "steady"


def rhythm_now(catalogue: Catalogue, plan: Plan, light_id: str) -> str:
    """The prototype whose pattern a light plays, steady for none; empty for a pattern of one's own."""
    channel = channel_of(plan, light_id)
    cue = next((c for c in plan.cues if channel and channel in c.channels), None)
    if cue is None:
        return STEADY
    return next((p.id for p in catalogue.prototypes.values() if edits.ready(p.does) == cue.does), "")


def _alone(plan: Plan, light_id: str, channel: str) -> bool:
    """Whether only a light and its twin are on a channel."""
    mine = {i for k in both(plan, light_id) for i in parts_of(plan, k)}
    fed = {d.lamp for d in plan.dots if d.id in mine}
    on_it = [x.id for x in plan.lamps if x.channel == channel] + [d.id for d in plan.dots if d.channel == channel]
    return all(i in mine or i in fed for i in on_it)


def with_rhythm(catalogue: Catalogue, plan: Plan, light_id: str, prototype_id: str) -> Plan:
    """A light and its twin in another rhythm, on a channel of their own; steady takes their cue away."""
    channel = channel_of(plan, light_id)
    if channel:
        old = [c for c in plan.cues if channel in c.channels]
        if _alone(plan, light_id, channel):
            plan = edits.delete(plan, [c.id for c in old if c.channels == (channel,)])
        else:
            channel = ""
    pattern = catalogue.prototypes.get(prototype_id)
    lights = both(plan, light_id)
    for i in lights:
        plan = edits.set_light(plan, i, animated=pattern is not None and prototype_id != STEADY)
    if pattern is None or prototype_id == STEADY:
        return plan if channel else _onto(plan, lights, "")
    if not channel:
        plan, channel = edits.add_channel(plan, free_channel(plan, light_of(plan, light_id).name))
    plan = _onto(plan, lights, channel)
    return edits.add_cue(plan, [channel], edits.ready(pattern.does))[0]


def _onto(plan: Plan, lights: tuple[str, ...], channel: str) -> Plan:
    """Lights on a channel: their lamps, their tips, and the lamps that feed these alone."""
    mine = {i for k in lights for i in parts_of(plan, k)}
    parts = [i for i in mine if isinstance(find(plan, i), (Lamp, Dot))]
    return edits.set_fields(plan, [*sorted(parts), *sorted(fed_alone(plan, mine))], channel=channel)
