"""The plan's show as its boards play it."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.show.outputs import cues_on, dims
from gwiazda.core.assess.states import Assessment
from gwiazda.core.effect.controller import AS_WRITTEN, Controller, Output
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Counter, Plan
from gwiazda.core.plan.naming import name_of


def outputs_for(plan: Plan, assessment: Assessment) -> tuple[Output, ...]:
    """What drives each row of the score: its board's output, as it is written where it has none.

    Outputs that dim are given to the channels that ask for it, first come; the others are on or off.
    """
    boards = {b.id: b for b in plan.boards}
    channels = {c.id: c for c in plan.channels}
    used: dict[str, int] = {}
    out = []
    for name in assessment.effects.score.names:
        channel = channels.get(name)
        board = boards.get(channel.board) if channel is not None else None
        part = assessment.catalogue.boards.get(board.part) if board is not None else None
        if board is None or part is None:
            out.append(AS_WRITTEN)
            continue
        if any(isinstance(c.does, Counter) for c in cues_on(plan, name)) and part.kind == "counter":
            out.append(AS_WRITTEN)  # its steps are resistors, not dimming
            continue
        asks = any(dims(c.does) for c in cues_on(plan, name))
        rank = used.get(board.id, 0)
        if asks and rank < part.dims:
            used[board.id] = rank + 1
            out.append(Output(part.bits, part.most_hz))
        else:
            out.append(Output(0, part.most_hz))
    return tuple(out)


class Strip(NamedTuple):
    """What is shown as one strip of light: a channel, or a lamp that flashes by itself and is on none; ``rows`` of the score."""

    id: str
    name: str
    rows: tuple[int, ...]


@memoize(slots=2)
def strips_of(plan: Plan, assessment: Assessment) -> tuple[Strip, ...]:
    """All strips, those that move first."""
    rows = assessment.effects.score.rows
    flashing = {i: s for i, s in assessment.lamps.items() if s.channel == i}
    on: dict[str, list[str]] = {}
    alone = []
    for p in plan.lamps:
        if p.id in flashing and p.id in rows:
            if p.channel:
                on.setdefault(p.channel, []).append(p.id)
            else:
                alone.append(p.id)
    steady = {s.channel for s in assessment.lamps.values()}
    out = []
    for c in plan.channels:
        mine = [rows[i] for i in on.get(c.id, ())]
        if c.id in rows and (c.id in steady or not mine):
            mine.insert(0, rows[c.id])
        out.append(Strip(c.id, name_of(plan, c.id), tuple(mine)))
    out += [Strip(i, name_of(plan, i), (rows[i],)) for i in alone]
    cued = {c for cue in plan.cues for c in cue.channels}
    return tuple(sorted(out, key=lambda s: s.id not in cued and s.id not in on and s.id not in alone))


def controller_of(plan: Plan, assessment: Assessment) -> Controller:
    """A simulated controller with the plan's cue sheet loaded."""
    return Controller(assessment.effects.score, outputs_for(plan, assessment))
