"""The steps of the kit as a whole: painted, late units pushed in, lamps outside, the base, the last test."""

from __future__ import annotations

from collections.abc import Sequence

from gwiazda.core.assess.assembly.contents import Contents, mark_of, outside_lamps
from gwiazda.core.assess.assembly.maker import Maker
from gwiazda.core.assess.assembly.step import WHOLE, Work
from gwiazda.core.plan.lookup import joints_by_lamp
from gwiazda.core.plan.model import Layer

CLOSED = ("seam", "close", "leak", "glaze")
FINISHED = ("trim", "unmask", "scratch", "paint")


def whole_steps(m: Maker) -> None:
    """What is done to the kit as a whole, after its sections or before them."""
    plan = m.plan
    closed = {k: m.last(k, CLOSED) for k in m.contents}
    bare = None
    if plan.orders.bare:
        bare = m.add(WHOLE, "bare", [closed[k] for k in m.contents if k not in m.late])
    painted = _painted(m, closed, bare)
    for key, c in m.contents.items():
        s = c.section
        after = painted.get(key) or m.last(key, ("paint",)) or closed[key]
        if c.openings and s.school == "mask":
            m.add(key, "unmask", [after, closed[key]], Work(len(c.openings)))
        elif c.openings and s.school == "scratch":
            work = Work(len(c.openings), plan.effort.scratch_min, field="scratch_min")
            m.add(key, "scratch", [after, closed[key]], work)
        trimmed = [d for d in c.dots if d.trim == "after painting"]
        if trimmed:
            m.add(key, "trim", [after, f"{key}:fibres"], Work(len(trimmed)))
    ends = {k: m.last(k, FINISHED) or painted.get(k) or closed[k] for k in m.contents}
    joined = [
        m.add(key, "join", [closed[key], *(e for k, e in ends.items() if k not in m.late)], detail="pushed in from outside, ready")
        for key in m.contents
        if key in m.late
    ]  # fmt: skip
    outside = _outside(m, list(ends.values()))
    last = [*ends.values(), *joined, outside]
    boards = _boards(m)
    base: str | None = f"{WHOLE}:base"
    if plan.orders.base == "last":
        sources = (m.catalogue.sources.get(f.supply.part) for f in plan.feeds)
        charging = " ".join(dict.fromkeys(s.charging for s in sources if s is not None and s.charging))
        base = m.add(WHOLE, "base", [*last, boards], of=mark_of([f.supply for f in plan.feeds]), detail=charging)
    connected = m.add(
        WHOLE, "connect", [base, boards, *last], Work(len(plan.feeds)), of=mark_of([f.id for f in plan.feeds])
    )
    m.add(WHOLE, "final", [connected, *last], of=mark_of([p.id for p in plan.lamps]))


CHIP_PINS, PARTS_PINS, CHANNEL_PINS = (
    {"timer": 8, "counter": 16},
    10,
    5,
)  # joints: of a chip, of what is round it, of each channel on it


def _boards(m: Maker) -> str | None:
    """Boards of holes soldered, by about how many joints they have."""
    made = [b for b in m.plan.boards if b.made != "bought"]
    joints = 0
    for b in made:
        part = m.catalogue.boards.get(b.part)
        channels = sum(c.board == b.id for c in m.plan.channels)
        joints += CHANNEL_PINS * channels + (
            CHIP_PINS.get(part.kind, -PARTS_PINS) + PARTS_PINS if part is not None else 0
        )
    return m.add(WHOLE, "protoboard", [], Work(joints), of=mark_of(made)) if joints else None


def _after_joining(m: Maker) -> list[Contents]:
    return [c for c in m.contents.values() if m.choice(c, "paint") == "after joining" and c.section.outside]


def _painted(m: Maker, closed: dict[str, str | None], bare: str | None) -> dict[str, str]:
    """The model painted after it is joined: a step a coat for all of it, and for each late unit by itself; the last coat's key by section."""
    parts = _after_joining(m)
    together = [c for c in parts if c.section.id not in m.late]
    groups = [(WHOLE, together)] if together else []
    groups += [(c.section.id, [c]) for c in parts if c.section.id in m.late]
    found: dict[str, str] = {}
    for owner, group in groups:
        needs: list[str | None] = [bare]
        for c in group:
            key = c.section.id
            cleared = [closed[key], bare]
            if c.openings and c.section.school == "drill":
                cleared = [m.add(key, "cover", cleared, Work(len(c.openings)))]
            needs += cleared
        layers = [[x for x in c.section.outside for _ in range(x.coats)] for c in group]
        last = _coats(m, owner, layers, needs)
        if last:
            found |= {c.section.id: last for c in group}
    return found


def _coats(m: Maker, owner: str, layers: list[list[Layer]], needs: Sequence[str | None]) -> str | None:
    last = None
    for number in range(1, max((len(x) for x in layers), default=0) + 1):
        coat = [x[number - 1] for x in layers if len(x) >= number]
        last = m.coat(owner, "paint", coat, number, needs if last is None else [last], joined=True)
    return last


def _outside(m: Maker, ends: Sequence[str | None]) -> str | None:
    """Lamps that belong to no section, fitted when the rest is done; their test."""
    plan, outside = m.plan, outside_lamps(m.plan)
    if not outside:
        return None
    parts = mark_of([(p.id, p.part, p.at) for p in outside])
    work = Work(len(outside), plan.effort.hole_min, field="hole_min")
    holes = m.add(WHOLE, "holes", [], work, of=parts, called="Drill for the lamps outside")
    joints = sum(joints_by_lamp(plan.feeds).get(p.id, 0) for p in outside)
    soldered = None
    if joints:
        work = Work(joints, plan.effort.joint_min, field="joint_min")
        soldered = m.add(WHOLE, "solder", [f"{WHOLE}:breadboard"], work, of=parts, called="Solder the lamps outside")
    work = Work(len(outside), plan.effort.lamp_min, field="lamp_min")
    set_ = m.add(WHOLE, "lamps", [holes, soldered, *ends], work, of=parts, called="Set the lamps outside")
    return m.add(WHOLE, "test", [set_], Work(len(outside)), of=parts)
