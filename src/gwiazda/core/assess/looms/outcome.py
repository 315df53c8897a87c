"""What comes of wires that are laid: fill of passages, joints, resistance."""

from __future__ import annotations

import itertools
import math
from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from gwiazda.core.assess.states import JointState, PassageState, WireRun
from gwiazda.core.loom.fill import clear_mm2, comfortable, fill_share, goes_in
from gwiazda.core.loom.routes import Place
from gwiazda.core.loom.sleeves import joint_mm, sleeve_for, warmth_c
from gwiazda.core.memo import memoize
from gwiazda.core.plan.model import Lamp, Passage, Section

LONGER, TAIL_MM = 1.15, 40.0  # what a hand needs more than the way, and at each end
LEG_MM = 0.5  # of a lamp, as it is joined


def passages_of(passages: Sequence[Passage], runs: Mapping[str, WireRun]) -> dict[str, PassageState]:
    """What is in each passage."""
    by_id = {p.id: p for p in passages}
    inside: dict[str, list[WireRun]] = {p.id: [] for p in passages}
    for run in runs.values():
        for i in run.through or ():
            inside[i].append(run)
    return {i: _passage(by_id[i], tuple(here)) for i, here in inside.items()}


class Meeting(NamedTuple):
    """Where wires are joined: a hub, or the end of a tube that carries current, to which even one is joined (``least``)."""

    id: str
    section: str
    at: Place
    least: int = 2


def joints_of(
    sections: Sequence[Section],
    lamps: Mapping[str, Lamp],
    home: Mapping[str, str],
    hubs: Sequence[Meeting],
    runs: Mapping[str, WireRun],
) -> tuple[JointState, ...]:
    """Every soldered joint: two at each lamp that has no leads of its own, where such leads are made longer, and those of hubs."""
    boxes = {s.id: s for s in sections}
    at: dict[tuple[str, str], list[WireRun]] = {}
    for run in runs.values():
        if run.kind in ("lead", "jumper"):
            ends = (run.lamps[0],) if run.end == "plus" else (run.lamps[-1],) if run.end == "minus" else run.lamps
            for lamp in ends:
                side = str(run.end or ("minus" if lamp == run.lamps[0] else "plus"))
                at.setdefault((lamp, side), []).append(run)
    out = []
    for (lamp, side), here in at.items():
        own = here[0] if len(here) == 1 and here[0].own_mm else None
        if own is not None:
            if own.cut_mm:
                place, section = _along(own)
                out.append(
                    _joint(f"{lamp}.{side}", "splice", section, place, here, (own.outside_mm, own.outside_mm), boxes)
                )
            continue
        thick = (LEG_MM, *(r.outside_mm for r in here))
        out.append(_joint(f"{lamp}.{side}", "lamp", home[lamp], lamps[lamp].at, here, thick, boxes))
    for hub in hubs:
        mine = [r for r in runs.values() if r.kind in ("lead", "trunk") and hub.at in (r.points[0], r.points[-1])]
        nets: dict[tuple[str, str], list[WireRun]] = {}
        for r in mine:
            nets.setdefault((r.net, r.end), []).append(r)
        for (net, end), here in nets.items():
            if len(here) >= hub.least:
                thick = tuple(r.outside_mm for r in here)
                name = f"{hub.id}.{net}.{end}" if hub.least > 1 else f"{hub.id}.{hub.section}.{net}.{end}"
                out.append(_joint(name, "hub", hub.section, hub.at, here, thick, boxes))
    return tuple(out)


def _along(run: WireRun) -> tuple[Place, str]:
    """Where the lead a lamp came with ends on its way, and in which section: that of the lamp up to the first passage."""
    left = run.own_mm / LONGER
    for k, (a, b) in enumerate(itertools.pairwise(run.points)):
        step = math.dist(a, b)
        if left <= step and step > 0:
            x, y, z = (p + (q - p) * left / step for p, q in zip(a, b, strict=True))
            return (x, y, z), run.start if k == 0 or not run.through else run.goal
        left -= step
    return run.points[-1], run.goal


def _joint(
    joint_id: str, kind: Literal["lamp", "hub", "splice"], section: str, at: Place, here: list[WireRun], thick: tuple[float, ...], boxes: Mapping[str, Section]
) -> JointState:  # fmt: skip
    sleeve = sleeve_for(joint_mm(thick), min(thick))
    near = _to_wall(boxes[section], at) if section in boxes else math.inf
    warm = warmth_c(near)
    return JointState(
        joint_id, kind, section, at, tuple(r.id for r in here), sleeve.bore_mm if sleeve else 0.0, near, warm
    )


def ohms_of_wires(
    lamps: Mapping[str, Lamp], wanted_a: Mapping[str, float], runs: Mapping[str, WireRun]
) -> dict[str, float]:
    """What the wires add to each lamp's own resistance (Ω): its leads, and of a trunk what drops at the wanted currents."""
    extra = dict.fromkeys(lamps, 0.0)
    for run in runs.values():
        if run.kind in ("lead", "jumper"):
            target = run.lamps[-1] if run.end == "minus" else run.lamps[0]
            extra[target] += run.ohm
        elif run.kind == "trunk":
            for i in run.lamps:
                own = wanted_a.get(i, 0.0)
                if own > 0:
                    extra[i] += run.ohm * run.current_a / own
    return {i: round(v, 1) for i, v in extra.items() if v >= 0.05}


def _to_wall(section: Section, at: Place) -> float:
    """How near the nearest wall of a section is (mm); outside of it, how far off its box."""
    gaps = [
        g for p, low, size in zip(at, section.box.at, section.box.size, strict=True) for g in (p - low, low + size - p)
    ]
    return min(gaps) if min(gaps) >= 0 else -min(gaps)


@memoize(slots=1, by=lambda passage, runs: passage.id, places=2_000)
def _passage(passage: Passage, runs: tuple[WireRun, ...]) -> PassageState:
    thick = tuple(sorted((r.outside_mm for r in runs), reverse=True))
    order = tuple(r.id for r in sorted(runs, key=lambda r: -r.outside_mm))
    round_ = passage.shape == "round"
    clear = clear_mm2(round_, passage.width_mm, passage.height_mm)
    hole = (round_, passage.width_mm, passage.height_mm)
    left = passage.wall_mm - passage.take_mm if passage.make in ("file", "notch", "channel") and passage.wall_mm > 0 else None  # fmt: skip
    return PassageState(
        passage.id, order, thick, fill_share(thick, clear), comfortable(len(thick)), hole, goes_in(thick, *hole), left
    )
