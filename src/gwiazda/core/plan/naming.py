"""What everything in a plan is called: by its given name, or made of section or channel, side and number."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from typing import Any, NamedTuple

from gwiazda.core.memo import memoize, same_gathered
from gwiazda.core.plan import decks
from gwiazda.core.plan.lookup import built_into
from gwiazda.core.plan.model import (
    Carrier,
    Channel,
    Dot,
    Feed,
    Fitting,
    Fuse,
    Hub,
    Lamp,
    LampRef,
    Light,
    Load,
    Opening,
    Panel,
    Parallel,
    Passage,
    Plan,
    Regulated,
    Resistor,
    Section,
    Series,
    Switch,
    Switched,
    Trigger,
    Wire,
    parts_in,
)
from gwiazda.core.quantities import counted

PARTS: dict[type, str] = {
    Resistor: "Resistor", Fuse: "Fuse", Switch: "Switch", Wire: "Wire", Series: "String", Parallel: "Group side by side",
    Regulated: "Regulator", Switched: "Output",
}  # fmt: skip
INSIDE = {"inside": "lamp", "outside": "outer lamp", "fibre": "fibre lamp"}


def _plain(words: str, homes: Mapping[str, str]) -> str:
    """An identifier as words: what names a section first says its name, the rest follows."""
    first, _, rest = words.partition(".")
    if words in homes:
        return homes[words]
    if first in homes and rest:
        return f"{homes[first]} {rest.replace('.', ' ').replace('_', ' ')}"
    plain = words.replace(".", " ").replace("_", " ")
    return plain[:1].upper() + plain[1:]


def _numbered(pairs: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Ids and stems as names: a stem that several share is numbered."""
    pairs = list(pairs)
    often, seen, out = Counter(stem for _, stem in pairs), Counter[str](), {}
    for item_id, stem in pairs:
        seen[stem] += 1
        out[item_id] = stem if often[stem] == 1 else f"{stem} {seen[stem]}"
    return out


@memoize(slots=4)
def channel_names(channels: tuple[Channel, ...], sections: tuple[Section, ...]) -> dict[str, str]:
    """What channels are called, by their ids."""
    homes = {s.id: s.name for s in sections}
    return {c.id: c.name or _plain(c.id, homes) for c in channels}


def channel_name(plan: Plan, channel_id: str) -> str:
    """What a channel is called; one that is only named on a lamp too."""
    known = channel_names(plan.channels, plan.sections).get(channel_id)
    return known if known is not None else _plain(channel_id, {s.id: s.name for s in plan.sections})


def _of_home(home: str, homes: Mapping[str, str], stem: str) -> str:
    return f"{homes[home]}, {stem}" if home in homes else stem[:1].upper() + stem[1:]


@memoize(slots=4)
def _lamp_names(
    sections: tuple[Section, ...], lamps: tuple[Lamp, ...], channels: tuple[Channel, ...], lights: tuple[Light, ...]
) -> dict[str, str]:
    homes = {s.id: s.name for s in sections}
    whole = {x.id: x.name for x in lights if x.whole}
    within = built_into(sections, lamps)
    named = channel_names(channels, sections)
    given = {p.id: p.name for p in lamps if p.name}

    def stem(p: Lamp) -> str:
        if p.light in whole:
            return whole[p.light]
        if p.mount != "inside" and p.channel:
            known = named.get(p.channel)
            return known if known is not None else _plain(p.channel, homes)
        return _of_home(within.get(p.id) or "", homes, INSIDE[p.mount])

    made = [(p.id, stem(p)) for p in lamps if p.id not in given]
    numbered = _numbered(made)
    # A lamp of a section is always numbered: a second one may come.
    alone = {i: f"{s} 1" for i, s in made if s.endswith((", lamp", " lamp")) and "," in s and numbered[i] == s}
    return {**numbered, **alone, **given}


class _Placed(NamedTuple):
    """What else has a place, or gives current."""

    dots: tuple[Dot, ...]
    panels: tuple[Panel, ...]
    passages: tuple[Passage, ...]
    hubs: tuple[Hub, ...]
    carriers: tuple[Carrier, ...]
    fittings: tuple[Fitting, ...]
    triggers: tuple[Trigger, ...]
    feeds: tuple[Feed, ...]
    lights: tuple[Light, ...]


def _items(homes: Mapping[str, str], plan: _Placed) -> Iterable[tuple[str, str]]:
    """These, with what each is called as far as it need not be numbered."""
    panels, whole = {p.id: p.name for p in plan.panels}, {x.id: x.name for x in plan.lights if x.whole}
    for d in plan.dots:
        stem = f"{panels[d.panel]}, dot" if d.panel in panels else _of_home(d.section, homes, "dot")
        stem = whole.get(d.light, stem)
        yield d.id, d.name or stem
    for x in plan.passages:
        yield x.id, x.name or f"{homes.get(x.section, x.section)} to {homes.get(x.into, 'the outside')}"
    for hub in plan.hubs:
        yield hub.id, hub.name or _of_home(hub.section, homes, "hub")
    for c in plan.carriers:
        yield c.id, c.name or _of_home(c.section, homes, c.form)
    for f in plan.fittings:
        yield f.id, f.name or "Fitting"
    for t in plan.triggers:
        yield t.id, t.name or t.by.capitalize()
    for feed in plan.feeds:
        yield feed.id, feed.name or "Source"


def _part_names(feeds: tuple[Feed, ...]) -> Iterable[tuple[str, str]]:
    """Parts of circuits: what kind they are, and which of several."""
    for feed in feeds:
        for item in (*feed.head, *feed.items):
            for part in parts_in(item):
                if isinstance(part, Load):
                    yield part.id, "Sound" if part.part.startswith("sound") else "Motor"
                elif not isinstance(part, LampRef):
                    yield part.id, PARTS[type(part)]


def _inner_names(sections: tuple[Section, ...]) -> Iterable[tuple[str, str]]:
    for s in sections:
        for o in s.obstacles:
            yield o.id, o.name or f"{s.name}, {o.kind}"
        for seam in s.seams:
            yield seam.id, f"{s.name}, seam round the {seam.face}"
        for patch in s.patches:
            yield patch.id, f"{s.name}, patch on the {patch.face}"


@memoize(slots=4)
def _opening_names(
    sections: tuple[Section, ...], openings: tuple[Opening, ...], lights: tuple[Light, ...]
) -> dict[str, str]:
    rows = decks.names_of(sections, openings)
    whole = {x.id: x.name for x in lights if x.whole}
    return {o.id: o.name or whole.get(o.light) or rows.get(o.id, o.id) for o in openings}


@memoize(slots=4, same=same_gathered)
def _other_names(sections: tuple[Section, ...], placed: _Placed, channels: tuple[Channel, ...]) -> dict[str, str]:
    """All but lamps and openings, which change most and are most."""
    homes = {s.id: s.name for s in sections}
    out = dict(channel_names(channels, sections)) | homes
    out |= _numbered(_items(homes, placed)) | _numbered(_part_names(placed.feeds)) | _numbered(_inner_names(sections))
    return out | {p.id: p.name for p in placed.panels} | {x.id: x.name for x in placed.lights}


@memoize(slots=4)
def _tables(plan: Plan) -> tuple[Mapping[str, str], ...]:
    placed = _Placed(*(getattr(plan, group) for group in _Placed._fields))
    return (
        _lamp_names(plan.sections, plan.lamps, plan.channels, plan.lights),
        _opening_names(plan.sections, plan.openings, plan.lights),
        _other_names(plan.sections, placed, plan.channels),
    )


def name_of(plan: Plan, item_id: str) -> str:
    """What anything of a plan is called; an id that nothing has is given back in plain words."""
    for table in _tables(plan):
        if name := table.get(item_id):
            return name
    return _plain(item_id, {s.id: s.name for s in plan.sections})


def feeder_name(plan: Plan, dot: Dot) -> str:
    """What feeds a dot's fibre: its lamp, or the light in its section; "" for nothing yet."""
    if dot.fed == "section":
        return f"the light in {name_of(plan, dot.section)}"
    return name_of(plan, dot.lamp) if dot.lamp else ""


def meeting_of(plan: Plan, wire: str) -> str:
    """The hub, or the tube that carries current, that a trunk or a joint is named by; empty for none."""
    ids = (*(h.id for h in plan.hubs), *(p.id for p in plan.passages))
    return next((i for i in ids if wire.startswith(f"{i}.")), "")


def joint_name(plan: Plan, joint: str) -> str:
    """What a joint is at: a lamp or a hub, with its end."""
    of, _, end = joint.rpartition(".")
    of = meeting_of(plan, joint) or of
    return f"{name_of(plan, of)}, {end}" if of else name_of(plan, joint)


def said(plan: Plan, words: str, ids: Iterable[str]) -> str:
    """Words with ids among them, said with the names of those that have these ids."""
    for item_id in sorted(set(ids), key=len, reverse=True):
        words = re.sub(rf"(?<![\w.-]){re.escape(item_id)}(?![\w-]|\.\w)", lambda _, i=item_id: name_of(plan, i), words)  # type: ignore[misc]
    return words


def names_of(plan: Plan, ids: Iterable[str], most: int = 0) -> str:
    """Names in a row; after ``most`` of them it is said how many more there are."""
    every: list[Any] = list(ids)
    shown = every[:most] if most else every
    words = ", ".join(name_of(plan, i) for i in shown)
    return f"{words} and {len(every) - most} more" if most and len(every) > most else words


def and_others(plan: Plan, ids: Sequence[str], what: str = "lamp") -> str:
    """The first of several by its name, and how many more of what."""
    first, more = name_of(plan, ids[0]), len(ids) - 1
    if not more:
        return first
    return f"{first} and {counted(more, f'other {what}') if what else counted(more, 'other')}"
