"""What is judged of the boards that drive channels: outputs, what a board can play, timers, regulators behind them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from itertools import pairwise

from gwiazda.core.assess.show.outputs import (
    board_name,
    cues_on,
    dims,
    fastest_hz,
    lamps_on,
    moving,
    outputs_of,
    proposals_for,
    stage_for,
)
from gwiazda.core.assess.show.scoring import timing_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.effect.timers import CAPACITORS_UF, MOST_OHM, parts_for, rate_band
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.parts.catalogue import unknown
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import (
    Blink,
    Chase,
    Counter,
    Cue,
    Flashes,
    Plan,
    Pulse,
    Regulated,
    Switched,
    copy_unchecked,
    parts_in,
)
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import counted, figure, format_current

OFF_RATE = 0.1  # of a wanted rate: parts whose tolerance is wider anyway
OUT_UF = 100.0  # behind a regulator, as they are usually built


def _name(cue: Cue) -> str:
    return cue.name or cue.id


def unknown_board(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A board the catalogue hasn't got."""
    for b in plan.boards:
        if b.part not in assessment.catalogue.boards:
            yield Finding("unknown-part", "stop", "output", b.id, 0.0, str(unknown(f"Board {b.id}", b.part, assessment.catalogue.boards)))  # fmt: skip


def without_output(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Channels that move and that nothing drives."""
    driven = {o.channel for o in outputs_of(plan, assessment) if o.output}
    left = [c for c in moving(plan) if c not in driven and lamps_on(plan, c)]
    if left:
        fixes = tuple(Fix(p.name, p.edit) for p in proposals_for(plan, assessment)[:3])
        yield Finding(
            "no-output", "look", "output", left[0], float(len(left)),
            f"{counted(len(left), 'channel')} {'moves' if len(left) == 1 else 'move'} and {'is' if len(left) == 1 else 'are'} on no output of a board "
            f"yet: {', '.join(channel_name(plan, c) for c in left[:3])}{' …' if len(left) > 3 else ''}.",
            fixes,
        )  # fmt: skip


def outputs(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Outputs that give too much, are used twice, or that the board hasn't got."""
    states = outputs_of(plan, assessment)
    for b in plan.boards:
        part = assessment.catalogue.boards.get(b.part)
        if part is None:
            continue
        mine = [o for o in states if o.board == b.id and o.output]
        name = board_name(plan, b.id, assessment.catalogue)
        renumber = Fix("Number its outputs anew", _renumbered(b.id))
        beyond = [o for o in mine if o.output > part.outputs]
        if beyond:
            bigger = next(
                (x for x in sorted(assessment.catalogue.boards.values(), key=lambda x: x.outputs)
                 if x.outputs >= len(mine) and x.kind == part.kind), None,
            ) or next((x for x in assessment.catalogue.boards.values() if x.kind == "controller" and x.outputs >= len(mine)), None)  # fmt: skip
            fixes = [renumber] if len(mine) <= part.outputs else []
            if bigger is not None and bigger.id != part.id:
                fixes.append(Fix(f"A {bigger.name[0].lower()}{bigger.name[1:]}", _rebuilt(b.id, bigger.id)))
            yield Finding(
                "board-full", "stop", "output", b.id, float(len(mine)),
                f"{name} has {counted(part.outputs, 'output')}; {channel_name(plan, beyond[0].channel)} is on number {beyond[0].output}.",
                tuple(fixes),
            )  # fmt: skip
        for one, two in pairwise(sorted(mine, key=lambda o: o.output)):
            if one.output == two.output:
                yield Finding(
                    "output-twice", "stop", "output", two.channel, float(one.output),
                    f"{channel_name(plan, one.channel)} and {channel_name(plan, two.channel)} are both on output {one.output} of {name}.",
                    (renumber,),
                )  # fmt: skip
                break
        drive = assessment.catalogue.drives[part.drive]
        total = sum(o.full_a for o in mine if not o.stage)
        if drive.total_a and total > drive.total_a:
            most = max((o for o in mine if not o.stage), key=lambda o: o.full_a)
            yield Finding(
                "board-total", "stop", "output", b.id, total / drive.total_a,
                f"{name} gives {format_current(total)} on all its outputs together; {format_current(drive.total_a)} is the most.",
                (_stage(assessment, most.channel, most.full_a),),
            )  # fmt: skip
    for o in states:
        if o.over and not o.wired:
            yield Finding(
                "output-over", "stop" if o.full_a > o.most_a else "look", "output", o.channel, o.full_a / o.limit_a,
                f"{channel_name(plan, o.channel)} takes {format_current(o.full_a)}; an output of {board_name(plan, o.board, assessment.catalogue)} "
                f"gives {format_current(o.limit_a)}.",
                (_stage(assessment, o.channel, o.full_a),),
            )  # fmt: skip


def _stage(assessment: Assessment, channel: str, full_a: float) -> Fix:
    stage = stage_for(assessment.catalogue, full_a)
    return Fix(f"A stage: {stage.name}", lambda plan: edits.hang_on_output(plan, channel, stage.id, "pin-5v"))


def _renumbered(board_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        mine = sorted((c for c in plan.channels if c.board == board_id), key=lambda c: c.output or 999)
        return edits.drive_by(plan, [c.id for c in mine], board_id)

    return edit


def _rebuilt(board_id: str, part: str) -> Callable[[Plan], Plan]:
    return lambda plan: _renumbered(board_id)(edits.set_board(plan, board_id, part=part))


def cannot_do(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Patterns that a board can't play: dimmed on an output that is on or off, too fast, not of its program."""
    boards = {b.id: b for b in plan.boards}
    rank: dict[str, int] = {}
    asked: dict[str, int] = {}
    for c in plan.channels:
        if c.board and any(dims(cue.does) for cue in cues_on(plan, c.id)):
            asked[c.board] = asked.get(c.board, 0) + 1
            rank[c.id] = asked[c.board]
    board_of = {c.id: c.board for c in plan.channels}
    said: set[tuple[str, str, str]] = set()
    for cue in plan.cues:
        for channel_id in cue.channels:
            board = boards.get(board_of.get(channel_id, ""))
            part = assessment.catalogue.boards.get(board.part) if board is not None else None
            if board is None or part is None:
                continue
            name = board_name(plan, board.id, assessment.catalogue)
            words, rule = "", ""
            if dims(cue.does) and rank.get(channel_id, 0) > part.dims:
                rule = "cannot-dim"
                can = f"can dim {counted(part.dims, 'output')}" if part.dims else "can’t dim: its outputs are on or off"
                words = f"{_name(cue)} dims {channel_name(plan, channel_id)}; {name} {can}."
            elif fastest_hz(cue.does) > part.most_hz:
                rule = "too-fast"
                words = (
                    f"{_name(cue)} changes {figure(fastest_hz(cue.does), 2)} times a second; {name} follows "
                    f"{figure(part.most_hz, 2)}."
                )
            elif part.kind == "flasher" and not isinstance(cue.does, Blink | Flashes):
                rule = "not-its-program"
                words = f"{name} can blink and flash; {_name(cue)} asks for more than that."
            if rule and (rule, cue.id, board.id) not in said:
                said.add((rule, cue.id, board.id))
                fixes = [
                    Fix(p.name, p.edit)
                    for p in proposals_for(plan, assessment)
                    if all(u.part.kind == "controller" for u in p.boards)
                ]
                yield Finding(rule, "look", "output", cue.id, 0.0, words, tuple(fixes[:2]))


def _wanted_hz(cue: Cue) -> float | None:
    """The rate at which a cue wants its board's timer to run."""
    if isinstance(cue.does, Counter):
        return cue.does.rate_hz
    if isinstance(cue.does, Chase):
        return 1.0 / cue.does.step_s
    return 1.0 / cue.does.period_s if isinstance(cue.does, Blink | Flashes | Pulse) else None


def timer_rate(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A timer whose resistors and capacitor give another rate than its cue wants."""
    for b in plan.boards:
        part, timing = assessment.catalogue.boards.get(b.part), timing_of(b)
        if part is None or part.kind not in ("timer", "counter"):
            continue
        mine = {c.id for c in plan.channels if c.board == b.id}
        cue = next((c for c in plan.cues if mine & set(c.channels)), None)
        wanted = _wanted_hz(cue) if cue is not None else None
        if cue is None or wanted is None:
            continue
        made = parts_for(wanted, shelf_of(plan.drawer.series, assessment.catalogue.resistors).ohms, CAPACITORS_UF)
        fix: tuple[Fix, ...] = ()
        if made is not None:
            fields = {"r1_ohm": made.r1_ohm, "r2_ohm": made.r2_ohm, "c_uf": made.c_uf}
            fix = (Fix(f"R1 {_ohm(made.r1_ohm)}, R2 {_ohm(made.r2_ohm)}, {made.c_uf:g} µF", _board(b.id, **fields)),)
        if timing is None:
            yield Finding(
                "timer-parts", "look", "output", b.id, wanted,
                f"{board_name(plan, b.id, assessment.catalogue)} has no resistors and capacitor yet; {_name(cue)} wants {figure(wanted)} Hz.",
                fix,
            )  # fmt: skip
        elif abs(timing.rate_hz / wanted - 1.0) > OFF_RATE and not isinstance(cue.does, Chase | Counter):
            low, high = (timing.rate_hz * x for x in rate_band(b.c_uf or 1.0))
            yield Finding(
                "timer-rate", "look", "output", b.id, timing.rate_hz / wanted,
                f"{board_name(plan, b.id, assessment.catalogue)} runs at {figure(timing.rate_hz)} Hz ({figure(low, 2)} to {figure(high, 2)}); "
                f"{_name(cue)} wants {figure(wanted)}.",
                fix,
            )  # fmt: skip
        if b.r1_ohm and (b.r1_ohm < 1e3 or b.r1_ohm + (b.r2_ohm or 0.0) > MOST_OHM * 1.001):
            yield Finding(
                "timer-parts", "stop" if b.r1_ohm < 1e3 else "look", "output", b.id, b.r1_ohm,
                f"{board_name(plan, b.id, assessment.catalogue)}: R1 from 1 kΩ, both together up to 1 MΩ, or the timer burns or stalls.",
                fix,
            )  # fmt: skip


def _ohm(ohm: float) -> str:
    return f"{ohm / 1e3:g} k" if ohm >= 1e3 else f"{ohm:g}"


def _board(board_id: str, **fields: object) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_board(plan, board_id, **fields)


def slow_regulator(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A regulator behind an output that switches faster than its own capacitor lets it follow."""
    for feed in plan.feeds:
        for item in feed.items:
            for x in parts_in(item):
                if not isinstance(x, Switched) or not x.channel:
                    continue
                for reg in (y for y in parts_in(x) if isinstance(y, Regulated)):
                    state = assessment.parts.get(reg.id)
                    if state is None or state.current_a <= 0:
                        continue
                    # The capacitor feeds on for as long as its charge lasts: C·V/I.
                    holds_s = OUT_UF * 1e-6 * reg.volts / state.current_a
                    fast = max((fastest_hz(c.does) for c in cues_on(plan, x.channel)), default=0.0)
                    if fast > 0 and holds_s > 0.5 / fast:
                        yield Finding(
                            "slow-regulator", "look", "cue", x.id, holds_s * fast,
                            f"{name_of(plan, reg.id)} is switched {figure(fast, 2)} times a second, and its {OUT_UF:.0f} µF feed on for {figure(holds_s * 1e3, 2)} ms: "
                            "the flicker is smoothed away. Switch behind the regulator.",
                            (Fix("Switch behind it", _behind(x.id, reg.id)),),
                        )  # fmt: skip


def _behind(output: str, regulator: str) -> Callable[[Plan], Plan]:
    """Swap an output and the regulator that hangs alone on it."""

    def edit(plan: Plan) -> Plan:
        def swap(node: object) -> object:
            if isinstance(node, Switched) and node.id == output:
                inner = next((y for y in node.items if isinstance(y, Regulated) and y.id == regulator), None)
                if inner is not None and len(node.items) == 1:
                    return copy_unchecked(inner, items=(copy_unchecked(node, items=inner.items),))
            items = getattr(node, "items", None)
            if items:
                new = tuple(swap(y) for y in items)
                alike = all(a is b for a, b in zip(new, items, strict=True))
                return node if alike else copy_unchecked(node, items=new)  # type: ignore[type-var]
            return node

        feeds = tuple(copy_unchecked(f, items=tuple(swap(i) for i in f.items)) for f in plan.feeds)
        return copy_unchecked(plan, feeds=feeds)

    return edit


OUTPUT_RULES = (unknown_board, without_output, outputs, cannot_do, timer_rate, slow_regulator)
