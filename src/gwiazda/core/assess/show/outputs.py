"""Boards and their outputs: what hangs on which, what each gives, and boards proposed for what the channels do."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment, BranchState, ChannelState, LampState
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import BoardPart, DrivePart
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import circuit_part
from gwiazda.core.plan.model import (
    Awake,
    Blink,
    Board,
    Chase,
    Counter,
    Cue,
    Fade,
    Flashes,
    Flicker,
    Lamp,
    Pattern,
    Plan,
    Pulse,
    Stages,
    Steady,
    Steps,
    copy_unchecked,
)

STAGE_V = 0.75  # of a pin's voltage that lamps may take before a stage is needed: the rest is for their resistor


class OutputState(NamedTuple):
    """An output with its channel: what it gives fully on (A), what it may, whether a stage is behind it, and of what part.

    ``shares`` are the outputs of other channels on the same pin, which can't be.
    """

    board: str
    output: int
    channel: str
    full_a: float
    limit_a: float
    most_a: float
    stage: str  # the part of a stage in the circuit, "" where the output drives the lamps itself
    wired: bool  # whether the circuit has an output for the channel
    lamps: tuple[str, ...]

    @property
    def over(self) -> bool:
        return self.full_a > self.limit_a


def moving(plan: Plan) -> tuple[str, ...]:
    """Channels that any cue is on, or that stay dark, in the plan's order: those that need an output."""
    cued = {c for cue in plan.cues for c in cue.channels}
    return tuple(c.id for c in plan.channels if c.id in cued or c.rest == "dark")


def dims(does: Pattern) -> bool:
    """Whether a pattern asks for levels between dark and full."""
    if isinstance(does, Steady):
        return 0.0 < does.level < 1.0
    if isinstance(does, Blink | Flashes):
        return does.low > 0.0 or does.high < 1.0
    if isinstance(does, Chase):
        return does.tail > 0.0 or does.low > 0.0 or does.high < 1.0
    if isinstance(does, Stages):
        return does.fade_s > 0.0
    if isinstance(does, Steps):
        return does.glide or any(0.0 < x < 1.0 for x in does.levels)
    return isinstance(does, Pulse | Flicker | Fade)


def fastest_hz(does: Pattern) -> float:
    """How often a second a pattern changes, at most."""
    if isinstance(does, Blink):
        least = min(does.duty, 1.0 - does.duty) * does.period_s
        return 0.5 / least if least > 0 else 0.0
    if isinstance(does, Flashes):
        return 0.5 / min(does.on_s, does.gap_s if does.count > 1 else does.on_s)
    if isinstance(does, Flicker | Counter):
        return does.rate_hz
    if isinstance(does, Chase):
        return 1.0 / does.step_s
    if isinstance(does, Steps) and len(does.at_s) > 1:
        return 1.0 / min(b - a for a, b in zip(does.at_s, does.at_s[1:], strict=False))
    if isinstance(does, Awake):
        return 1.0 / does.every_s
    return 0.0


@memoize()
def _cue_table(cues: tuple[Cue, ...]) -> dict[str, tuple[Cue, ...]]:
    out: dict[str, list[Cue]] = {}
    for cue in cues:
        for channel in dict.fromkeys(cue.channels):
            out.setdefault(channel, []).append(cue)
    return {k: tuple(v) for k, v in out.items()}


def cues_on(plan: Plan, channel: str) -> tuple[Cue, ...]:
    """The cues on a channel."""
    return _cue_table(plan.cues).get(channel, ())


@memoize()
def _lamp_table(lamps: tuple[Lamp, ...]) -> dict[str, tuple[str, ...]]:
    out: dict[str, list[str]] = {}
    for p in lamps:
        if p.channel:
            out.setdefault(p.channel, []).append(p.id)
    return {k: tuple(v) for k, v in out.items()}


def lamps_on(plan: Plan, channel: str) -> tuple[str, ...]:
    """The lamps on a channel."""
    return _lamp_table(plan.lamps).get(channel, ())


def outputs_of(plan: Plan, assessment: Assessment) -> tuple[OutputState, ...]:
    """All channels that are on a board, by board and output."""
    wired = edits.outputs_of_channels(plan)
    boards = {b.id: b for b in plan.boards}
    out = []
    for c in plan.channels:
        board = boards.get(c.board)
        part = assessment.catalogue.boards.get(board.part) if board is not None else None
        if board is None or part is None:
            continue
        state = assessment.effects.channels.get(c.id)
        drive = assessment.catalogue.drives[part.drive]
        node = wired.get(c.id)
        stage = ""
        if node is not None and node.part in assessment.catalogue.drives:
            own = assessment.catalogue.drives[node.part]
            stage = node.part if own.kind != "pin" else ""
            drive = own
        lamps = lamps_on(plan, c.id)
        full = state.full_a if state is not None else 0.0
        out.append(
            OutputState(
                board.id, c.output, c.id, full, drive.limit_a, drive.most_a, stage, node is not None and circuit_part(plan, node.id) is not None, lamps,
            )
        )  # fmt: skip
    order = {b.id: k for k, b in enumerate(plan.boards)}
    return tuple(sorted(out, key=lambda o: (order[o.board], o.output)))


class BoardUse(NamedTuple):
    """A board of a proposal: its part, and the channels on its outputs."""

    part: BoardPart
    channels: tuple[str, ...]


class BoardProposal(NamedTuple):
    """Boards that carry what moves: how many outputs they have, how many stages it takes, what they draw themselves (A)."""

    name: str
    boards: tuple[BoardUse, ...]
    stages: int
    own_a: float
    spare: int
    worst: float  # the fullest output's current over what it may give, with its stage where it has one
    apart: bool  # whether boards run beside one another, each at a speed of its own
    edit: Callable[[Plan], Plan]


@memoize(slots=2)
def _strings(branches: Mapping[str, BranchState], lamps: Mapping[str, LampState]) -> dict[str, tuple[BranchState, ...]]:
    """The strings of each channel, by that of their first lamp."""
    out: dict[str, list[BranchState]] = {}
    for r in branches.values():
        out.setdefault(lamps[r.lamps[0]].channel, []).append(r)
    return {k: tuple(v) for k, v in out.items()}


def strings_on(assessment: Assessment, channel: str) -> tuple[BranchState, ...]:
    """The strings of a channel."""
    return _strings(assessment.branches, assessment.lamps).get(channel, ())


def needs_stage(catalogue: Catalogue, assessment: Assessment, channel: ChannelState, part: BoardPart) -> bool:
    """Whether a channel is too much for an output of a board: in current, or in the volts its strings take."""
    drive = catalogue.drives[part.drive]
    if drive.kind != "pin":
        return False
    if channel.full_a > drive.limit_a:
        return True
    mine = strings_on(assessment, channel.id)
    volts = drive.volts or min((r.supply_v for r in mine), default=0.0) - drive.drop_v
    return any(
        sum(assessment.lamps[i].forward_v for i in r.lamps) > STAGE_V * volts for r in mine if not r.side_by_side
    )


def proposals_for(plan: Plan, assessment: Assessment) -> tuple[BoardProposal, ...]:
    """Boards for all that moves: one controller; or a chaser for each chase and flashers for what blinks, where they can."""
    channels = [c for c in moving(plan) if c in assessment.effects.channels]
    if not channels:
        return ()
    catalogue = assessment.catalogue
    asks_dim = {c: any(dims(cue.does) for cue in cues_on(plan, c)) for c in channels}
    out = []
    for part in catalogue.boards.values():
        if part.kind != "controller":
            continue
        dimmed = [c for c in channels if asks_dim[c]]
        plain = [c for c in channels if not asks_dim[c]]
        uses: list[BoardUse] = []
        while dimmed or plain:
            mine = dimmed[: part.dims]
            mine += plain[: part.outputs - len(mine)]
            if not mine:
                break
            gone = set(mine)
            dimmed, plain = [c for c in dimmed if c not in gone], [c for c in plain if c not in gone]
            uses.append(BoardUse(part, tuple(mine)))
        out.append(_proposal(plan, assessment, f"{len(uses)} × " * (len(uses) > 1) + part.name, uses, False))
    ready = _ready_made(plan, catalogue, channels, asks_dim)
    if ready:
        out.append(_proposal(plan, assessment, "Ready boards side by side", ready, len(ready) > 1))
    return tuple(sorted(out, key=lambda p: (len(p.boards), p.stages, p.spare)))


def _ready_made(plan: Plan, catalogue: Catalogue, channels: Sequence[str], asks_dim: dict[str, bool]) -> list[BoardUse]:
    """A chaser for each chase, a counter for each that flickers by resistors, flashers for what blinks; nothing where any of
    it must be dimmed."""
    if any(asks_dim.values()):
        return []
    left, uses = list(channels), []
    by_size = sorted(catalogue.boards.values(), key=lambda b: b.outputs)
    for cue in plan.cues:
        mine = [c for c in cue.channels if c in left]
        kinds = ("chaser", "counter") if isinstance(cue.does, Chase) else ()
        fit = [b for b in by_size if b.kind in kinds and b.outputs >= len(mine)]
        if isinstance(cue.does, Counter):
            fit = [b for b in by_size if b.kind == "counter" and b.outputs >= len(cue.does.ohms)]
        if mine and fit:
            uses.append(BoardUse(fit[0], tuple(mine)))
            gone = set(mine)
            left = [c for c in left if c not in gone]
        elif isinstance(cue.does, Chase | Counter):
            return []
    for cue in plan.cues:
        mine = [c for c in cue.channels if c in left]
        if not mine:
            continue
        if not isinstance(cue.does, Blink | Flashes):
            return []
        fit = [b for b in by_size if b.kind == "flasher" and b.outputs >= len(mine)]
        if not fit:
            return []
        uses.append(BoardUse(fit[0], tuple(mine)))
        left = [c for c in left if c not in mine]
    return uses if not left else []


def _proposal(plan: Plan, assessment: Assessment, name: str, uses: list[BoardUse], apart: bool) -> BoardProposal:
    catalogue, states = assessment.catalogue, assessment.effects.channels
    stages, worst = 0, 0.0
    for use in uses:
        for c in use.channels:
            drive: DrivePart = catalogue.drives[use.part.drive]
            if needs_stage(catalogue, assessment, states[c], use.part):
                stages += 1
                drive = stage_for(catalogue, states[c].full_a)
            worst = max(worst, states[c].full_a / drive.limit_a)
    spare = sum(u.part.outputs - len(u.channels) for u in uses)
    own = sum(u.part.own_a for u in uses)
    kept = tuple(uses)
    return BoardProposal(name, kept, stages, own, spare, worst, apart, lambda p: taken(p, assessment, kept))


def stage_for(catalogue: Catalogue, full_a: float) -> DrivePart:
    """The smallest transistor stage that bears a current."""
    fit = [d for d in catalogue.drives.values() if d.kind in ("npn", "mosfet") and d.limit_a >= full_a]
    logic = [d for d in fit if d.kind == "npn" or d.needs_v <= 3.3]
    return min(logic or fit or list(catalogue.drives.values()), key=lambda d: d.limit_a)


def taken(plan: Plan, assessment: Assessment, uses: Sequence[BoardUse]) -> Plan:
    """A plan with proposed boards in place of its own for their channels, each channel hung on its output or stage."""
    catalogue = assessment.catalogue
    moved = {c for use in uses for c in use.channels}
    for use in uses:
        plan, board_id = edits.add_board(plan, use.part.id)
        plan = edits.drive_by(plan, use.channels, board_id)
        for c in use.channels:
            state = assessment.effects.channels.get(c)
            if state is None or not any(p.channel == c for p in plan.lamps):
                continue
            part = use.part.drive
            if needs_stage(catalogue, assessment, state, use.part):
                part = stage_for(catalogue, state.full_a).id
            drive = use.part.drive if catalogue.drives[use.part.drive].kind == "pin" else "pin-5v"
            plan = edits.hang_on_output(plan, c, part, drive, board_id if part == drive else "")
    used = {c.board for c in plan.channels}
    idle = [b for b in plan.boards if b.id not in used]
    if idle and moved:
        plan = copy_unchecked(plan, boards=tuple(b for b in plan.boards if b.id in used))
    return plan


def board_name(plan: Plan, board_id: str, catalogue: Catalogue) -> str:
    """What a board is called."""
    board: Board | None = next((b for b in plan.boards if b.id == board_id), None)
    if board is None:
        return "no board"
    part = catalogue.boards.get(board.part)
    return board.name or (part.name if part is not None else board.part)
