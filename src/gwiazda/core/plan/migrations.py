"""From older versions of the plan file to the next: one step each, over what the JSON holds, before it is believed."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

Migration = Callable[[dict[str, Any]], dict[str, Any]]


def _from_draft(data: dict[str, Any]) -> dict[str, Any]:
    """Version 0, the draft before the first release, kept the room's light as ``room_lux``."""
    data = dict(data)
    if "room_lux" in data:
        data["room"] = {**data.get("room", {}), "lux": data.pop("room_lux")}
    return data


def _from_first(data: dict[str, Any]) -> dict[str, Any]:
    """Version 1 knew no features of items, no closures, slots or crops: all that is new may be left out."""
    return dict(data)


def _from_second(data: dict[str, Any]) -> dict[str, Any]:
    """Version 2 had one supply, and strings of lamps in series; and copies of sections doubled the ids in them."""
    data = dict(data)
    feed: dict[str, Any] = {"id": "supply", "supply": data.pop("supply", {})}
    taken = {i["id"] for name in ("views", "sections", "openings", "lamps", "strings", "features")
             for i in data.get(name, ()) if isinstance(i, dict) and isinstance(i.get("id"), str)}  # fmt: skip
    if feed["id"] in taken:
        feed["id"] = _unlike(taken, "supply")
    strings = data.pop("strings", ())
    if strings:
        items = []
        for old in strings:
            resistor: dict[str, Any] = {"is": "resistor", "id": _unlike(taken, f"{str(old.get('id'))[:74]}.r")}
            if old.get("resistor_ohm") is not None:
                resistor["ohm"] = old["resistor_ohm"]
            lamps = [{"is": "lamp", "lamp": i} for i in old.get("lamps", ())]
            items.append({"is": "series", "id": old.get("id"), "items": [resistor, *lamps]})
        feed["items"] = items
    data["feeds"] = [feed]
    sections = []
    for old_section in data.get("sections", ()):
        section = dict(old_section)
        for name in ("obstacles", "patches", "seams"):
            if section.get(name):
                section[name] = [{**inner, "id": _unlike(taken, inner.get("id"))} for inner in section[name]]
        sections.append(section)
    if sections:
        data["sections"] = sections
    return data


def _unlike(taken: set[str], wanted: Any) -> Any:
    """An id like ``wanted`` that nothing else has; it is taken from then on."""
    if not isinstance(wanted, str):
        return wanted
    found, number = wanted, 2
    while found in taken:
        found, number = f"{wanted[:74]}.{number}", number + 1
    taken.add(found)
    return found


def _from_third(data: dict[str, Any]) -> dict[str, Any]:
    """Version 3 knew no regulators, outputs, loads and wires in feeds, nothing all of a feed goes through, no counts."""
    return dict(data)


def _from_fourth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 4 knew no fibres and no looms: all that is new may be left out."""
    return dict(data)


def _from_fifth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 5 named channels in lamps, dots and outputs as free words; they are things of the plan now."""
    data = dict(data)
    taken = {i["id"] for group in data.values() if isinstance(group, list) for i in _inner(group)
             if isinstance(i.get("id"), str)}  # fmt: skip
    made: dict[str, str] = {}

    def renamed(value: Any) -> Any:
        if isinstance(value, list):
            return [renamed(x) for x in value]
        if not isinstance(value, dict):
            return value
        out = {k: renamed(v) for k, v in value.items()}
        name = out.get("channel")
        if isinstance(name, str) and name:
            if name not in made:
                word = re.sub(r"[^\w.\-]+", "-", name)[:66]
                made[name] = _unlike(taken, f"{word}.channel" if word in taken else word)
            out["channel"] = made[name]
        return out

    for group in ("lamps", "dots", "feeds"):
        if group in data:
            data[group] = renamed(data[group])
    if made:
        data["channels"] = [{"id": i, "name": name} if i != name else {"id": i} for name, i in made.items()]
    return data


def _from_sixth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 6 knew no photos laid on a view, no light among the readings, no variants, and one kit at a time."""
    return dict(data)


def _from_seventh(data: dict[str, Any]) -> dict[str, Any]:
    """Version 7 knew no carriers and lenses, no features that match, no bent heads: all that is new may be left out."""
    return dict(data)


def _from_eighth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 8 knew no fittings: they may be left out."""
    return dict(data)


def _from_ninth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 9 fitted every lamp before its section is closed: what is fitted late says so, and may be left out."""
    return dict(data)


KINDS_OF_PURPOSE = {
    "cabin": "cabin-row", "bridge": "bridge", "navigation": "running-light", "strobe": "anti-collision", "engine": "engine-core",
    "headlamp": "headlamp", "tail lamp": "tail-lamp", "instrument": "panel-dots", "flood": "deck-flood", "sign": "sign", "fire": "fire",
}  # fmt: skip
# What the words in a lamp's name or channel say it is; the first that is found.
KINDS_OF_WORDS = (
    ("sidelight", "sidelight"), ("masthead", "masthead"), ("stern", "stern-light"), ("anchor", "anchor-light"), ("head", "headlamp"),
    ("tail", "tail-lamp"), ("search", "work-lamp"), ("beacon", "beacon"), ("strobe", "anti-collision"), ("flood", "deck-flood"),
    ("boat", "deck-flood"), ("winch", "work-lamp"), ("dock", "docking-light"), ("engine", "engine-core"), ("wing", "position-light"),
)  # fmt: skip


def _from_tenth(data: dict[str, Any]) -> dict[str, Any]:
    """Version 10 had features; they are lights now, and a lamp that is seen itself and belonged to none is a light of its own."""
    data = dict(data)
    taken = {i["id"] for group in data.values() if isinstance(group, list) for i in _inner(group)
             if isinstance(i.get("id"), str)}  # fmt: skip
    lights = []
    for old in data.pop("features", ()):
        light = dict(old)
        light["kind"] = KINDS_OF_PURPOSE.get(light.pop("purpose", "cabin"), "other")
        lights.append(light)
    for group in ("sections", "openings", "lamps", "dots"):
        if group in data:
            data[group] = [{("light" if k == "feature" else k): v for k, v in i.items()} for i in data[group]]
    named = {c["id"]: c["name"] for c in data.get("channels", ()) if c.get("name")}
    lone = [p for p in data.get("lamps", ()) if p.get("mount") == "outside" and not p.get("light")]
    called = [str(p.get("name") or named.get(p.get("channel"), p.get("channel")) or p["id"]) for p in lone]
    seen: dict[str, int] = {}
    for lamp, words in zip(lone, called, strict=True):
        seen[words] = seen.get(words, 0) + 1
        plain = re.sub(r"[._\s]+", " ", re.sub(r"\.0?(\d+)$", r" \1", words)).strip()[:90]
        name = f"{plain[:1].upper()}{plain[1:]}" + (f" {seen[words]}" if called.count(words) > 1 else "")
        lamp["light"] = _unlike(taken, f"light.{lamp['id']}"[:80])
        about = (words.lower(), str(lamp["id"]).lower())
        kind = next((kind for text in about for word, kind in KINDS_OF_WORDS if word in text), "other")
        lights.append({"id": lamp["light"], "name": name or "Light", "kind": kind, "whole": True})
    if lights:
        data["lights"] = lights
    return data


def _from_eleventh(data: dict[str, Any]) -> dict[str, Any]:
    """Version 11 knew plastics alone, and called what a kit and its parts are made of so; now it is their material."""

    def renamed(value: Any) -> Any:
        if isinstance(value, list):
            return [renamed(x) for x in value]
        if not isinstance(value, dict):
            return value
        return {("material" if k == "plastic" and isinstance(v, str) else k): renamed(v) for k, v in value.items()}

    return {k: renamed(v) for k, v in data.items()}


def _from_twelfth(data: dict[str, Any]) -> dict[str, Any]:
    """Evenings were of two hours where nothing was said. The model joined was painted part by part; now it is in one go, a coat a step."""
    data = dict(data)
    bench = data.get("bench")
    data["bench"] = {"hours": 2.0, **bench} if isinstance(bench, dict) else {"hours": 2.0}
    orders = [o for o in data.get("section_orders", ()) if isinstance(o, dict)]
    kit = (data.get("orders") or {}).get("paint", "after joining")
    own = {o.get("section") for o in orders if (o.get("paint") or kit) == "before joining" or o.get("late")}
    own |= {s.get("id") for s in data.get("sections", ())} if kit == "before joining" else set()
    own -= {o.get("section") for o in orders if o.get("paint") == "after joining" and not o.get("late")}

    def key(text: Any) -> Any:
        section, _, kind = text.rpartition(":") if isinstance(text, str) else ("", "", "")
        return f":{kind}" if re.fullmatch(r"paint\.\d+", kind) and section not in own else text

    for group, fields in (("done", ("step",)), ("own_steps", ("after", "before"))):
        for item in data.get(group, ()):
            for field in fields:
                value = item.get(field)
                if isinstance(value, list):
                    item[field] = list(dict.fromkeys(key(v) for v in value))
                elif value is not None and key(value) != value:
                    item[field], item["of"] = key(value), ""
    return data


def _inner(value: Any) -> Iterator[dict[str, Any]]:
    """All objects in built-in values, however deep."""
    for x in value:
        if isinstance(x, dict):
            yield x
            yield from _inner(v for v in x.values() if isinstance(v, (dict, list)))
        elif isinstance(x, list):
            yield from _inner(x)


# One step each: the key is the version it starts from, and it ends at the next.
MIGRATIONS: dict[int, Migration] = {0: _from_draft, 1: _from_first, 2: _from_second, 3: _from_third, 4: _from_fourth,
                                    5: _from_fifth, 6: _from_sixth, 7: _from_seventh, 8: _from_eighth, 9: _from_ninth,
                                    10: _from_tenth, 11: _from_eleventh, 12: _from_twelfth}  # fmt: skip
