"""What can be done with what is picked in a circuit: for the menu of the drawer and the buttons of the inspector."""

from __future__ import annotations

from collections.abc import Callable

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import string_of
from gwiazda.core.plan.model import (
    BRANCHING,
    Feed,
    Fuse,
    Lamp,
    Load,
    Plan,
    Resistor,
    Series,
    Switch,
    Switched,
    Wire,
    lamps_in,
)
from gwiazda.desktop.document import Document
from gwiazda.desktop.stations.wire.words import PUT

PARTS = (*BRANCHING, Fuse, Load, Resistor, Switch, Wire)
Take = Callable[[], object]


def put_before(document: Document, kind: str) -> None:
    """Put a part before what is picked: for several lamps or strings, one for all of them."""
    ids = document.selection
    made: list[str] = []

    def change(plan: Plan) -> Plan:
        after, new = edits.put_before(plan, ids[0], kind) if len(ids) == 1 else edits.group_switch(plan, ids, kind)
        made.append(new)
        return after

    words = dict(PUT)[kind]
    if ids and document.edit(f"Put in {words.removesuffix(' beside it')}", change) and made:
        document.select(made)


def turn(document: Document) -> None:
    """Turn the lamps picked the other way round."""
    ids = [i.id for i in document.selected_items() if isinstance(i, Lamp)]

    def change(plan: Plan) -> Plan:
        for lamp_id in ids:
            plan = edits.reverse(plan, lamp_id)
        return plan

    document.edit("Turn round", change)


def split_behind(document: Document) -> None:
    """Part the string behind the lamp picked."""
    lamp = next((i for i in document.selected_items() if isinstance(i, Lamp)), None)
    string = string_of(document.plan, lamp.id) if lamp is not None else None
    if lamp is not None and isinstance(string, Series):
        document.edit("Split the string", lambda plan: edits.split(plan, string.id, lamp.id))


def take_out(document: Document) -> None:
    """Take the parts picked out of the circuit."""
    ids = [p.id for p in document.selected_parts() if isinstance(p, PARTS)]
    document.edit("Take it out", lambda plan: edits.take_out(plan, ids))


def flip(document: Document) -> None:
    """Open or close the switches picked, turn outputs on or off."""
    parts = document.selected_parts()

    def change(plan: Plan) -> Plan:
        for p in parts:
            if isinstance(p, Switch):
                # Those of a group are worked together.
                group = [
                    x.id for f in plan.feeds for x in edits.parts_of(f)
                    if isinstance(x, Switch) and (x.id == p.id or (p.group and x.group == p.group))
                ]  # fmt: skip
                for part_id in group:
                    plan = edits.set_part(plan, part_id, closed=not p.closed)
            elif isinstance(p, Switched):
                plan = edits.set_part(plan, p.id, on=not p.on)
        return plan

    document.edit("Work the switch", change)


def actions_for(document: Document) -> list[tuple[str, Take]]:
    """Words and what they do, for what is picked."""
    lamps = [i for i in document.selected_items() if isinstance(i, Lamp)]
    parts = document.selected_parts()
    ids = [p.id for p in lamps]
    out: list[tuple[str, Take]] = []
    if len(lamps) > 1:
        out.append(
            ("In series, one resistor", lambda: document.edit("Wire in series", lambda p: edits.wire_in_series(p, ids)))
        )
        out.append(
            (
                "Side by side on one resistor",
                lambda: document.edit("Side by side", lambda p: edits.wire_side_by_side(p, ids)),
            )
        )
    if any(string_of(document.plan, i) for i in ids):
        out.append(("A resistor each", lambda: document.edit("A resistor each", lambda p: edits.wire_singly(p, ids))))
    if lamps:
        out.append(("Turn round", lambda: turn(document)))
    if len(lamps) == 1:
        string = string_of(document.plan, ids[0])
        if isinstance(string, Series):
            after = [x.lamp for x in lamps_in(string)]
            if ids[0] in after and after.index(ids[0]) < len(after) - 1:
                out.append(("Split the string behind it", lambda: split_behind(document)))
    if any(isinstance(p, (Switch, Switched)) for p in parts):
        out.append(("Work the switch", lambda: flip(document)))
    if lamps or parts:
        for kind, words in PUT:
            if not (parts and isinstance(parts[0], Feed) and kind == "resistor"):
                out.append((f"Put in {words}", lambda k=kind: put_before(document, k)))  # type: ignore[misc]
    if parts and not any(isinstance(p, Feed) for p in parts):
        hung = any(isinstance(p, BRANCHING) for p in parts)
        out.append(("Take it out" + (", leave what hangs on it" if hung else ""), lambda: take_out(document)))
    return out
