"""What is judged of outputs, switches, fuses, wires, motors that are switched; and of circuits that can't be right."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import Any

from gwiazda.core.assess.electrics.netlist import shorted
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.fuses import FUSE_OVER, fuse_for
from gwiazda.core.circuit.parts.wire import limit_a
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import most_a, with_part
from gwiazda.core.parts.catalogue import unknown
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import circuit_part
from gwiazda.core.plan.model import (
    CircuitNode,
    Feed,
    Fuse,
    Load,
    Plan,
    Regulated,
    Resistor,
    Switch,
    Switched,
    Wire,
    lamps_in,
    parts_in,
)
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current

DROP = 0.03  # of the supply, over both leads
LIGHT_LOAD = 1.1  # times the nominal voltage


def unknown_device(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A part of a circuit that the catalogue hasn't got: what hangs on it is left out, and said."""
    tables: dict[type, Any] = {
        Load: assessment.catalogue.loads, Regulated: assessment.catalogue.regulators, Switched: assessment.catalogue.drives
    }  # fmt: skip
    for feed in plan.feeds:
        for item in feed.items:
            for x in parts_in(item):
                table = tables.get(type(x))
                if table is not None and x.part not in table:  # type: ignore[union-attr]
                    words = unknown(f"Circuit, {x.id}", x.part, table)  # type: ignore[union-attr]
                    yield Finding("unknown-part", "stop", "wiring", x.id, 0.0, str(words))  # type: ignore[union-attr]
                elif isinstance(x, Switched):
                    pins = {k for k, d in assessment.catalogue.drives.items() if d.kind == "pin"}
                    if x.part not in pins and x.drive not in pins:
                        words = unknown(f"Circuit, what drives {x.id}", x.drive, pins)
                        yield Finding("unknown-part", "stop", "wiring", x.id, 0.0, str(words))


def short_circuit(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A way from plus to minus with nothing in it: it is left out of the figures, the rest is worked out."""
    for feed in plan.feeds:
        for rail in _rails(feed):
            for x in rail:
                if shorted(x):
                    yield Finding(
                        "short", "stop", "wiring", getattr(x, "id", feed.id), 0.0,
                        f"{getattr(x, 'id', 'A part')} lies straight across the rails: a short. It is left out here; built so, it "
                        "blows the fuse or burns the wire.",
                        (Fix("Take it out", lambda p, i=x.id: edits.take_out(p, [i])),),  # type: ignore[misc, union-attr]
                    )  # fmt: skip


def _rails(feed: Feed) -> Iterator[tuple[CircuitNode, ...]]:
    """Everything that lies side by side between two rails."""
    yield feed.items
    for item in feed.items:
        for x in parts_in(item):
            if isinstance(x, (Regulated, Switched)):
                yield x.items


def unsettled(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A feed whose currents settle nowhere that could be found: it is left dark."""
    for feed in plan.feeds:
        if not assessment.feeds[feed.id].settled:
            yield Finding(
                "unsettled", "stop", "wiring", feed.id, 0.0,
                f"What hangs on {feed.name or 'the source'} can’t be worked out: regulators or outputs in it work against one "
                "another. It is left dark here. Hang one less behind another.",
            )  # fmt: skip


def hung_twice(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp that two places name, as a file from elsewhere may have it: the first counts."""
    seen: set[str] = set()
    for feed in plan.feeds:
        for item in feed.items:
            for leaf in lamps_in(item):
                if leaf.lamp in seen:
                    yield Finding(
                        "hung-twice", "stop", "wiring", leaf.lamp, 2.0,
                        f"{leaf.lamp} hangs in two places of the circuit. The first counts; it can be in one.",
                        (Fix("Keep the first place", lambda p, i=leaf.lamp: edits.keep_first(p, i)),),  # type: ignore[misc]
                    )  # fmt: skip
                seen.add(leaf.lamp)


def overloaded_output(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A pin, stage or relay that gives more than it should, or a chip whose outputs add up to too much."""
    seen: set[tuple[str, float]] = set()
    for part in assessment.parts.values():
        if part.kind != "drive":
            continue
        drive, most = assessment.catalogue.drives[part.part], most_a(part)
        node = circuit_part(plan, part.id)
        if most > part.limit_a and isinstance(node, Switched):
            stop = most > drive.most_a
            fixes = []
            if drive.kind == "pin":
                for stage in ("npn-small", "mosfet-logic"):
                    if most <= assessment.catalogue.drives[stage].limit_a:
                        words = f"Through a stage: {assessment.catalogue.drives[stage].name}"
                        fixes.append(Fix(words, with_part(part.id, part=stage, drive=node.part)))
            elif (larger := _larger_stage(assessment, most)) is not None:
                fixes.append(Fix(assessment.catalogue.drives[larger].name, with_part(part.id, part=larger)))
            yield Finding(
                "overloaded-output", "stop" if stop else "look", "wiring", part.id, most / part.limit_a,
                f"{name_of(plan, part.id)}: {drive.name} gives {format_current(most)}; "
                f"{format_current(drive.most_a) + ' destroys it' if stop else format_current(part.limit_a) + ' is what it should at most'}.",
                tuple(fixes[:2]),
            )  # fmt: skip
        source = (
            assessment.catalogue.drives.get(node.drive) if isinstance(node, Switched) and drive.kind != "pin" else drive
        )
        total = source.total_a if source is not None else 0.0
        key = (f"{node.chip if isinstance(node, Switched) else ''}{part.part}", round(part.chip_a, 9))
        if total and part.chip_a > total and key not in seen:
            seen.add(key)
            yield Finding(
                "overloaded-chip", "stop", "wiring", part.id, part.chip_a / total,
                f"The outputs of {name_of(plan, part.id)}’s board give {format_current(part.chip_a)} together; the chip bears {format_current(total)}.",
                (Fix("This one through a stage: Logic-level MOSFET", with_part(part.id, part="mosfet-logic", drive=part.part)),)
                if drive.kind == "pin" else (),
            )  # fmt: skip


def _larger_stage(assessment: Assessment, current_a: float) -> str | None:
    fit = [
        d
        for d in assessment.catalogue.drives.values()
        if d.kind in ("npn", "mosfet") and d.limit_a >= current_a and d.needs_v <= 5
    ]
    return min(fit, key=lambda d: d.limit_a).id if fit else None


def half_driven_stage(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A stage that its pin can't turn on fully: a MOSFET that wants more volts, an NPN short of base current."""
    for part in assessment.parts.values():
        node = circuit_part(plan, part.id)
        if part.kind != "drive" or not isinstance(node, Switched) or not node.on:
            continue
        drive, pin = assessment.catalogue.drives[part.part], assessment.catalogue.drives.get(node.drive)
        if drive.kind == "mosfet" and pin is not None and (pin.volts or part.in_v) < drive.needs_v:
            yield Finding(
                "half-driven", "look", "wiring", part.id, (pin.volts or part.in_v) / drive.needs_v,
                f"{name_of(plan, part.id)}: {drive.name} is driven with {figure(pin.volts or part.in_v)} V and wants {figure(drive.needs_v)}: how far "
                "it turns on is luck.",
                (Fix("A logic-level MOSFET", with_part(part.id, part="mosfet-logic")),),
                better="more",
            )  # fmt: skip
        if drive.kind == "npn" and part.current_a > 0 and part.drive_a < part.current_a / 25.0:
            yield Finding(
                "half-driven", "look", "wiring", part.id, part.current_a / max(part.drive_a, 1e-9) / 10.0,
                f"{name_of(plan, part.id)}: its base gets {format_current(part.drive_a)} for {format_current(part.current_a)} of load, under a "
                "twenty-fifth: it may not turn on fully. A tenth is sure.",
                (Fix("Choose its base resistor", with_part(part.id, ohm=None)), Fix("A logic-level MOSFET", with_part(part.id, part="mosfet-logic"))),
            )  # fmt: skip


COIL = (0.75, 1.1, 1.5)  # of its volts: from where a relay pulls for sure, what it bears for good, from where it burns


def relay_coil(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A relay on too few volts to pull, or on more than its coil bears for long."""
    for part in assessment.parts.values():
        drive = assessment.catalogue.drives.get(part.part) if part.kind == "drive" else None
        if drive is None or drive.kind != "relay" or not part.on or part.in_v <= 1e-3:
            continue
        share = part.in_v / drive.volts
        if COIL[0] <= share <= COIL[1]:
            continue
        heat = f"{part.in_v**2 / drive.coil_ohm * 1e3:.0f} mW in it, {figure(drive.volts**2 / drive.coil_ohm * 1e3, 2)} are meant"
        words = (
            f"{name_of(plan, part.id)}: a coil of {figure(drive.volts)} V gets {figure(part.in_v)}: {heat}; it gets hot, and burns in time."
            if share > 1.0
            else f"{name_of(plan, part.id)}: a coil of {figure(drive.volts)} V gets {figure(part.in_v)}, and may not pull."
        )
        fixes = (
            (Fix(f"A regulator of {figure(drive.volts)} V before it", _regulated(part.id, drive.volts)),)
            if share > 1.0
            else ()
        )
        yield Finding(
            "relay-coil",
            "stop" if share > COIL[2] or share < COIL[0] else "look",
            "wiring",
            part.id,
            share,
            words,
            fixes,
        )


def _regulated(part_id: str, volts: float) -> Callable[[Plan], Plan]:
    return lambda plan: edits.regulate(plan, part_id, volts)


def overloaded_contact(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A switch or reed contact that carries more than it bears."""
    for part in assessment.parts.values():
        node = circuit_part(plan, part.id)
        if part.kind != "switch" or not isinstance(node, Switch):
            continue
        most, volts = most_a(part), assessment.feeds[part.feed].nominal_v
        watt = most * volts
        most_w = assessment.catalogue.switch(node.kind).most_w
        if most <= part.limit_a and not (most_w and watt > most_w):
            continue
        bears = f"{format_current(part.limit_a)}" + (f" and {figure(most_w)} W" if most_w else "")
        fixes = (
            ()
            if assessment.catalogue.switch(node.kind).reach_mm or most > 0.5
            else (Fix("A reed switch", with_part(part.id, kind="reed")),)
        )
        yield Finding(
            "overloaded-contact", "stop", "wiring", part.id, most / part.limit_a,
            f"{name_of(plan, part.id)}: a small {node.kind} switch bears {bears} and carries {format_current(most)}. Let it work a transistor "
            "stage, or split the groups.",
            fixes,
        )  # fmt: skip


def fuse_size(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A fuse that blows in use, or that guards nothing because the thinnest wire goes first."""
    for feed in plan.feeds:
        nodes = [x for item in (*feed.head, *feed.items) for x in parts_in(item)]
        wires = [limit_a(x.awg) for x in nodes if isinstance(x, Wire)]
        thinnest = min(wires, default=math.inf)
        for x in nodes:
            part = assessment.parts.get(x.id) if isinstance(x, Fuse) else None
            if part is None or not isinstance(x, Fuse):
                continue
            most = most_a(part)
            wanted = fuse_for(most)
            fix = (Fix(f"A fuse of {format_current(wanted)}", with_part(x.id, rated_a=wanted)),)
            if most > x.rated_a:
                yield Finding(
                    "fuse", "stop", "wiring", x.id, most / x.rated_a,
                    f"{name_of(plan, x.id)}: {format_current(most)} runs through a fuse of {format_current(x.rated_a)}: it blows.", fix,
                )  # fmt: skip
            elif x.rated_a > thinnest:
                yield Finding(
                    "fuse", "look", "wiring", x.id, x.rated_a / thinnest,
                    f"{name_of(plan, x.id)}: the thinnest wire behind it bears {format_current(thinnest)} and burns before a fuse of "
                    f"{format_current(x.rated_a)} blows.", fix if wanted <= thinnest else (),
                )  # fmt: skip
            elif x.rated_a < FUSE_OVER * most:
                yield Finding(
                    "fuse", "look", "wiring", x.id, x.rated_a / most,
                    f"{name_of(plan, x.id)}: {format_current(most)} runs all the time; a fuse of {format_current(x.rated_a)} ages at that. "
                    "Half as much again is usual.", fix,
                )  # fmt: skip


def thin_wire(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A wire that gets warm, or that takes more than 3 % of the supply."""
    for part in assessment.parts.values():
        node = circuit_part(plan, part.id)
        if part.kind != "wire" or not isinstance(node, Wire):
            continue
        most, volts = most_a(part), assessment.feeds[part.feed].nominal_v
        over = most > part.limit_a
        if not over and (volts <= 0 or abs(part.volts) <= DROP * volts):
            continue
        enough = next(
            (g for g in range(node.awg - 1, 17, -1)
             if limit_a(g) >= most and abs(part.volts) * limit_a(node.awg) / limit_a(g) <= DROP * volts), None,
        )  # fmt: skip
        words = (
            f"{name_of(plan, part.id)}: {format_current(most)} through AWG {node.awg}, which bears {format_current(part.limit_a)} in a bundle."
            if over
            else f"{name_of(plan, part.id)}: AWG {node.awg} over {figure(node.length_mm)} mm takes {figure(abs(part.volts))} V, "
            f"{abs(part.volts) / volts * 100:.0f} % of the supply; 3 % is usual."
        )
        fixes = (Fix(f"AWG {enough}", with_part(part.id, awg=enough)),) if enough is not None else ()
        yield Finding("thin-wire", "stop" if over else "look", "wiring", part.id, most / part.limit_a, words, fixes)


def missing_flyback(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A motor behind a transistor or a pin with no diode across it: its kick kills what switches it."""
    for feed in plan.feeds:
        for item in feed.items:
            for x in parts_in(item):
                if (
                    not isinstance(x, Switched)
                    or (d := assessment.catalogue.drives.get(x.part)) is None
                    or d.kind == "relay"
                ):
                    continue
                for load in (y for y in parts_in(x) if isinstance(y, Load)):
                    part = assessment.catalogue.loads.get(load.part)
                    if part is not None and part.kind == "motor" and not load.flyback:
                        yield Finding(
                            "flyback", "stop", "wiring", load.id, 0.0,
                            f"{name_of(plan, load.id)} is switched by {name_of(plan, x.id)} with no diode across it: each time it stops, its voltage spike can destroy {d.name}. "
                            "The diode’s stripe points to plus.",
                            (Fix("A diode across it", with_part(load.id, flyback=True)),),
                        )  # fmt: skip


def empty_resistor(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A resistor that is to be chosen where there is no lamp to choose it by."""
    for feed in plan.feeds:
        for item in feed.items:
            if lamps_in(item) or any(isinstance(x, Load) for x in parts_in(item)):
                continue
            for x in parts_in(item):
                if isinstance(x, Resistor) and x.ohm is None:
                    yield Finding(
                        "lone-resistor", "look", "wiring", x.id, 0.0, f"{name_of(plan, x.id)} has no lamp to be chosen for. Set its value.",
                        (Fix("Take it out", lambda p, i=x.id: edits.take_out(p, [i])),),  # type: ignore[misc]
                    )  # fmt: skip


DEVICE_RULES = (
    unknown_device,
    short_circuit,
    unsettled,
    hung_twice,
    overloaded_output,
    half_driven_stage,
    relay_coil,
    overloaded_contact,
    fuse_size,
    thin_wire,
    missing_flyback,
    empty_resistor,
)
