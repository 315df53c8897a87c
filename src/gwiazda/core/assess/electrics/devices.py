"""What is in a feed besides lamps, as it works: fuses, switches, wires, loads, regulators, outputs and stages."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator

from gwiazda.core.assess.electrics.gears import motor_of
from gwiazda.core.assess.electrics.netlist import MINUS, PLUS, Netlist, Solved
from gwiazda.core.assess.states import PartState
from gwiazda.core.circuit.parts.wire import limit_a
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import (
    CircuitNode,
    Feed,
    Fuse,
    LampRef,
    Load,
    Regulated,
    Resistor,
    Switch,
    Switched,
    Wire,
    parts_in,
)


def part_states(catalogue: Catalogue, feed: Feed, net: Netlist, solved: Solved) -> Iterator[tuple[str, PartState]]:
    """The state of every part of a feed that is no lamp and is in its netlist, by id."""
    nodes = [x for item in (*feed.head, *feed.items) for x in parts_in(item)]
    states = {
        x.id: state
        for x in nodes
        if not isinstance(x, LampRef) and (state := _state(catalogue, feed, net, solved, x)) is not None
    }
    chips: dict[str, float] = defaultdict(float)
    homes: dict[str, str] = {}
    for x in nodes:
        if isinstance(x, Switched) and x.id in states:
            pin = catalogue.drives[x.part]
            home = f"{x.chip or 'board'} {x.part if pin.kind == 'pin' else x.drive}"
            homes[x.id] = home
            chips[home] += abs(states[x.id].current_a) if pin.kind == "pin" else abs(states[x.id].drive_a)
    for key, home in homes.items():
        states[key] = states[key]._replace(chip_a=chips[home])
    yield from states.items()


def _state(catalogue: Catalogue, feed: Feed, net: Netlist, solved: Solved, x: CircuitNode) -> PartState | None:
    if not isinstance(x, (Resistor, Fuse, Switch, Wire, Load, Regulated, Switched)):
        return None
    column = net.parts.get(x.id)
    if column is None:
        return None
    now = float(solved.now[column])
    fresh = float(solved.along[0][column]) if len(solved.along) else now
    volts, fresh_v = solved.volts, solved.fresh_volts
    ends = net.ends[x.id]
    over, over_fresh = volts[ends[0]] - volts[ends[1]], fresh_v[ends[0]] - fresh_v[ends[1]]
    if isinstance(x, Regulated):
        part = catalogue.regulators[x.part]
        fed, fed_fresh = volts[ends[2]] - volts[ends[1]], fresh_v[ends[2]] - fresh_v[ends[1]]
        # What goes in and doesn't come out stays as warmth.
        heat = max(fed_fresh - over_fresh, 0.0) * fresh + fed_fresh * part.quiescent_a
        return PartState(x.id, "regulator", x.part, feed.id, now, fresh, over, fed, heat, part.limit_a, fed_fresh)
    if isinstance(x, Switched):
        drive = catalogue.drives[x.part]
        base = net.bases.get(x.id)
        driven = abs(float(solved.now[base])) if base is not None else 0.0
        if drive.kind == "pin":
            fed, fed_fresh = volts[ends[2]] - volts[ends[1]], fresh_v[ends[2]] - fresh_v[ends[1]]
            heat = max(fed_fresh - over_fresh, 0.0) * fresh
        else:
            fed, fed_fresh = volts[ends[0]] - volts[ends[2]], fresh_v[ends[0]] - fresh_v[ends[2]]
            heat = max(fresh_v[ends[1]] - fresh_v[ends[2]], 0.0) * fresh
            heat += fed_fresh**2 / drive.coil_ohm if drive.coil_ohm > 0 and x.on else 0.0
        return PartState(
            x.id, "drive", x.part, feed.id, now, fresh, over, fed, heat, drive.limit_a, fed_fresh, driven, 0.0, x.on
        )
    name = {Resistor: "resistor", Fuse: "fuse", Switch: "switch", Wire: "wire", Load: "load"}[type(x)]
    limit = 0.0
    if isinstance(x, Fuse):
        limit = x.rated_a
    elif isinstance(x, Switch):
        limit = catalogue.switch(x.kind).limit_a
    elif isinstance(x, Wire):
        limit = limit_a(x.awg)
    on = x.closed if isinstance(x, Switch) else True
    load = x.part if isinstance(x, Load) else ""
    fed = volts[PLUS] - volts[MINUS]
    heat = over_fresh * fresh
    if isinstance(x, Load) and (motor := motor_of(catalogue.loads[x.part], bool(x.gears))) is not None:
        heat = min(fresh**2 * motor.winding_ohm + motor.idle_a * over_fresh, heat)  # the rest turns something
    return PartState(x.id, name, load, feed.id, now, fresh, over, fed, heat, limit, on=on)  # type: ignore[arg-type]
