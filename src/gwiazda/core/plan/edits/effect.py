"""Edits of channels, cues, boards and triggers."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Sequence
from typing import Any

import msgspec

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, delete, fresh_ids, replace, set_fields, taken_ids
from gwiazda.core.plan.edits.tree import group_switch, set_part
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import (
    Board,
    Channel,
    Cue,
    Does,
    Dot,
    Lamp,
    Pattern,
    Plan,
    Steady,
    Switched,
    Trigger,
    copy_unchecked,
    parts_in,
)
from gwiazda.core.plan.naming import channel_name

PATTERNS: dict[str, type[Pattern]] = {str(k.__struct_config__.tag): k for k in Does.__args__}


def _of(group: tuple[Any, ...], item_id: str, what: str) -> Any:
    for item in group:
        if item.id == item_id:
            return item
    raise PlanError(f"{what} {item_id}", "isn't there", f"a {what.lower()} of the plan")


def cue_of(plan: Plan, cue_id: str) -> Cue:
    """A cue by its id; raises PlanError where there is none."""
    found: Cue = _of(plan.cues, cue_id, "Cue")
    return found


def channel_named(plan: Plan, channel_id: str) -> Channel:
    """A channel by its id; raises PlanError where there is none."""
    found: Channel = _of(plan.channels, channel_id, "Channel")
    return found


def free_id(plan: Plan, words: str, kind: str) -> str:
    """An id made of words, unlike all others."""
    stem = re.sub(r"[^\w.\-]+", "-", words.strip()).strip("-.")[:66] or kind
    taken = taken_ids(plan)
    if stem in taken:
        stem = f"{stem}.{kind}"
    found, number = stem, 2
    while found in taken:
        found, number = f"{stem}.{number}", number + 1
    return found


def add_channel(plan: Plan, name: str, ids: Iterable[str] = (), **fields: Any) -> tuple[Plan, str]:
    """A channel, with lamps on it; returns the plan and its id."""
    new_id = free_id(plan, name, "channel")
    channel = copy_checked(Channel(id=new_id, name="" if new_id == name else name), **fields)
    return put_on_channel(copy_unchecked(plan, channels=(*plan.channels, channel)), ids, new_id), new_id


def channel_called(plan: Plan, words: str) -> tuple[Plan, str]:
    """The channel of that id or name, made where there is none; none for no words."""
    words = words.strip()
    if not words:
        return plan, ""
    for c in plan.channels:
        if words in (c.id, c.name, channel_name(plan, c.id)):
            return plan, c.id
    return add_channel(plan, words)


def play_on(plan: Plan, ids: Iterable[str], words: str) -> Plan:
    """Put lamps on the channel called so; dots then ask for a lamp on it."""
    plan, channel_id = channel_called(plan, words)
    return set_fields(plan, ids, channel=channel_id)


def lamps_of(plan: Plan, ids: Iterable[str]) -> list[str]:
    """The lamps among what is picked, and those that feed the dots among it, in order."""
    out: dict[str, None] = {}
    for i in ids:
        item = find(plan, i)
        if isinstance(item, Lamp):
            out[i] = None
        elif isinstance(item, Dot) and item.lamp:
            out[item.lamp] = None
    return list(out)


def put_on_channel(plan: Plan, ids: Iterable[str], channel_id: str) -> Plan:
    """Put lamps on a channel (those that feed dots, for dots); an empty one takes them off."""
    if channel_id:
        channel_named(plan, channel_id)
    return set_fields(plan, lamps_of(plan, ids), channel=channel_id)


def channel_each(plan: Plan, ids: Sequence[str], stem: str) -> tuple[Plan, list[str]]:
    """A channel for each lamp, in order, as a chase wants them; a lamp alone on its channel keeps it."""
    made = []
    for k, lamp_id in enumerate(lamps_of(plan, ids), 1):
        lamp = find(plan, lamp_id)
        assert isinstance(lamp, Lamp)
        if lamp.channel and sum(p.channel == lamp.channel for p in plan.lamps) == 1:
            made.append(lamp.channel)
            continue
        plan, new_id = add_channel(plan, f"{stem}.{k}", [lamp_id])
        made.append(new_id)
    return plan, made


def set_channel(plan: Plan, channel_id: str, **fields: Any) -> Plan:
    """Set fields of a channel."""
    return replace(plan, {channel_id: copy_checked(channel_named(plan, channel_id), **fields)})


def add_cue(plan: Plan, channels: Sequence[str], does: Pattern | None = None, **fields: Any) -> tuple[Plan, str]:
    """A cue on channels; returns the plan and its id."""
    if not channels:
        raise PlanError("Cue", "it is on no channel", "one channel or more")
    new_id = fresh_ids(plan, "cue")[0]
    cue = copy_checked(Cue(id=new_id, channels=tuple(channels)), does=does or Steady(), **fields)
    return copy_unchecked(plan, cues=(*plan.cues, cue)), new_id


EACH = ("chase", "stages", "awake")  # patterns that go over channels: each lamp wants its own


def ready(does: Mapping[str, Any]) -> Pattern:
    """A pattern as a plan file has it, read."""
    pattern: Pattern = msgspec.convert(dict(does), Does)
    return pattern


def play(plan: Plan, ids: Sequence[str], does: Mapping[str, Any], name: str, start_s: float = 0.0) -> tuple[Plan, str]:
    """Put a ready pattern on lamps, dots or channels: a channel for all of them, or each its own where light goes from one to
    the next; returns the plan and the cue's id.

    Raises
    ------
    PlanError
        When there is no lamp and no channel among them.
    """
    pattern = ready(does)
    known = {c.id for c in plan.channels}
    channels = [i for i in ids if i in known]
    lamps = lamps_of(plan, ids)
    if not channels and not lamps:
        raise PlanError("Pattern", "no lamp is picked to play it", "lamps, dots with lamps, or channels")
    if lamps:
        there = list(dict.fromkeys(p.channel for p in plan.lamps if p.id in set(lamps) and p.channel))
        alone = bool(there) and {p.id for p in plan.lamps if p.channel in there} == set(lamps)
        stem = name.split(",", maxsplit=1)[0].lower()
        if does.get("is") in EACH or float(does.get("lag", 0.0)) > 0.0:
            if not (alone and len(there) > 1):
                plan, there = channel_each(plan, lamps, stem)
        elif not alone:
            plan, new = add_channel(plan, _unlike_name(plan, stem), lamps)
            there = [new]
        channels += there
    return add_cue(plan, channels, pattern, start_s=start_s)


def _unlike_name(plan: Plan, stem: str) -> str:
    taken = taken_ids(plan)
    k = 1
    while f"{stem}.{k}".replace(" ", "-") in taken:
        k += 1
    return f"{stem}.{k}"


def set_cue(plan: Plan, cue_id: str, **fields: Any) -> Plan:
    """Set fields of a cue."""
    return replace(plan, {cue_id: copy_checked(cue_of(plan, cue_id), **fields)})


def set_pattern(plan: Plan, cue_id: str, **fields: Any) -> Plan:
    """Set fields of what a cue does."""
    cue = cue_of(plan, cue_id)
    try:
        does = copy_checked(cue.does, **fields)
    except PlanError as error:
        raise PlanError(f"Cue {cue.name or cue.id}", f"{error.where}: {error.found}", error.accepted) from None
    return replace(plan, {cue_id: copy_unchecked(cue, does=does)})


def turn_into(plan: Plan, cue_id: str, kind: str) -> Plan:
    """Another pattern in place of a cue's own; what both know (rate, levels, seed) is kept."""
    cue = cue_of(plan, cue_id)
    new = PATTERNS[kind]
    if type(cue.does) is new:
        return plan
    both = {f for f in new.__struct_fields__ if f in cue.does.__struct_fields__}
    kept = {f: getattr(cue.does, f) for f in both}
    try:
        does = copy_checked(new(), **kept)
    except PlanError:
        does = new()
    return replace(plan, {cue_id: copy_unchecked(cue, does=does)})


def shift_cues(plan: Plan, cue_ids: Iterable[str], seconds: float) -> Plan:
    """Move cues in time, all by the same; none begins before the start."""
    cues = [cue_of(plan, i) for i in cue_ids]
    back = max(seconds, -min((c.start_s for c in cues), default=0.0))
    return replace(plan, {c.id: copy_unchecked(c, start_s=round(c.start_s + back, 3)) for c in cues})


def copy_cues(plan: Plan, cue_ids: Iterable[str], seconds: float | None = None) -> tuple[Plan, list[str]]:
    """Copies of cues, later by so much, or each behind itself; returns the plan and their ids."""
    cues = [cue_of(plan, i) for i in cue_ids]
    if seconds is None:
        seconds = max((c.length_s or 1.0 for c in cues), default=0.0)
    ids = fresh_ids(plan, "cue", len(cues))
    made = [copy_unchecked(c, id=i, start_s=round(c.start_s + seconds, 3)) for c, i in zip(cues, ids, strict=True)]
    return copy_unchecked(plan, cues=(*plan.cues, *made)), ids


def add_board(plan: Plan, part: str, name: str = "") -> tuple[Plan, str]:
    """A board; returns the plan and its id."""
    new_id = fresh_ids(plan, "board")[0]
    return copy_unchecked(plan, boards=(*plan.boards, Board(id=new_id, part=part, name=name))), new_id


def set_board(plan: Plan, board_id: str, **fields: Any) -> Plan:
    """Set fields of a board."""
    return replace(plan, {board_id: copy_checked(_of(plan.boards, board_id, "Board"), **fields)})


def drive_by(plan: Plan, channel_ids: Sequence[str], board_id: str, first: int = 1) -> Plan:
    """Put channels on a board's outputs, from ``first`` on."""
    _of(plan.boards, board_id, "Board")
    return replace(
        plan,
        {c: copy_checked(channel_named(plan, c), board=board_id, output=first + k) for k, c in enumerate(channel_ids)},
    )


def drop_board(plan: Plan, board_id: str) -> Plan:
    """Take a board out; its channels have none then."""
    board = _of(plan.boards, board_id, "Board")
    plan = replace(plan, {c.id: copy_unchecked(c, output=0) for c in plan.channels if c.board == board.id})
    return delete(plan, [board_id])


def add_trigger(plan: Plan, name: str, by: str = "button") -> tuple[Plan, str]:
    """An event that starts cues; returns the plan and its id."""
    new_id = fresh_ids(plan, "trigger")[0]
    return copy_unchecked(plan, triggers=(*plan.triggers, copy_checked(Trigger(id=new_id, name=name), by=by))), new_id


def set_trigger(plan: Plan, trigger_id: str, **fields: Any) -> Plan:
    """Set fields of a trigger."""
    return replace(plan, {trigger_id: copy_checked(_of(plan.triggers, trigger_id, "Trigger"), **fields)})


def outputs_of_channels(plan: Plan) -> dict[str, Switched]:
    """The output in the circuit that switches each channel, where there is one."""
    return {
        x.channel: x
        for feed in plan.feeds
        for item in feed.items
        for x in parts_in(item)
        if isinstance(x, Switched) and x.channel
    }


def hang_on_output(plan: Plan, channel_id: str, part: str, drive: str, chip: str = "") -> Plan:
    """Hang all lamps of a channel on an output of its own, or on a stage that an output drives.

    Raises
    ------
    PlanError
        When the channel has no lamp.
    """
    channel_named(plan, channel_id)
    there = outputs_of_channels(plan).get(channel_id)
    if there is not None:
        return set_part(plan, there.id, part=part, drive=drive, chip=chip)
    lamps = [p.id for p in plan.lamps if p.channel == channel_id]
    if not lamps:
        raise PlanError(f"Channel {channel_id}", "has no lamp", "a channel with lamps")
    plan, new_id = group_switch(plan, lamps, "output")
    return set_part(plan, new_id, part=part, drive=drive, channel=channel_id, chip=chip)


def with_channels(plan: Plan) -> Plan:
    """A plan with a channel for each that its lamps, dots and outputs name, for plans put together by hand."""
    named = dict.fromkeys(x.channel for x in plan.lamps if x.channel)
    named.update(dict.fromkeys(x.channel for x in plan.dots if x.channel))
    named.update(dict.fromkeys(outputs_of_channels(plan)))
    known = {c.id for c in plan.channels}
    return copy_unchecked(plan, channels=(*plan.channels, *(Channel(id=n) for n in named if n not in known)))
