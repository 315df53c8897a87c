"""What fibres ask of the bench: lengths to cut, fibre to buy, and the map of dots."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import bundle_table
from gwiazda.core.plan.model import Dot, Plan

REEL_MM = 1000.0  # fibre is sold by the metre
WASTE = 0.10  # ends cut crooked and cut again


class Cut(NamedTuple):
    """Pieces of one fibre and length: square at both ends, polished or not."""

    fibre: str
    length_mm: float
    pieces: int
    polished: bool
    dots: tuple[str, ...]


class Bought(NamedTuple):
    """Fibre of one kind: all pieces, waste, and whole metres to buy."""

    fibre: str
    length_mm: float
    metres: int


class Mapped(NamedTuple):
    """A dot's tag, its fibre, lamp, and what drives it."""

    tag: str
    dot: Dot
    lamp: str
    channel: str
    output: str


def tags_of(plan: Plan) -> Mapping[str, str]:
    """A short tag for each dot: those of a panel by the panel's first letter and their place in it, the others by numbers."""
    tags, counts, letters = {}, dict.fromkeys([p.id for p in plan.panels], 0), {}
    for k, panel in enumerate(plan.panels):
        letters[panel.id] = chr(ord("A") + k % 26) + (str(k // 26) if k >= 26 else "")
    free = 0
    for d in plan.dots:
        if d.panel in counts:
            counts[d.panel] += 1
            tags[d.id] = f"{letters[d.panel]}{counts[d.panel]}"
        else:
            free += 1
            tags[d.id] = str(free)
    return tags


def cuts_of(plan: Plan, assessment: Assessment) -> tuple[Cut, ...]:
    """The cut list, longest first; dots on no lamp have no length yet and are left out."""
    decided = bundle_table(plan.bundles)
    groups: dict[tuple[str, float, bool], list[str]] = {}
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if tip is not None:
            bundle = decided.get(tip.lamp)
            key = (d.fibre, tip.cut_mm, bundle is not None and bundle.ends == "polished")
            groups.setdefault(key, []).append(d.id)
    rows = [Cut(fibre, length, len(ids), polished, tuple(ids)) for (fibre, length, polished), ids in groups.items()]
    return tuple(sorted(rows, key=lambda c: (c.fibre, -c.length_mm)))


def bought_of(plan: Plan, assessment: Assessment) -> tuple[Bought, ...]:
    """Fibre to buy, by kind, with a tenth for waste."""
    whole: dict[str, float] = {}
    for cut in cuts_of(plan, assessment):
        whole[cut.fibre] = whole.get(cut.fibre, 0.0) + cut.length_mm * cut.pieces
    return tuple(Bought(f, mm, math.ceil(mm * (1.0 + WASTE) / REEL_MM)) for f, mm in sorted(whole.items()))


def map_of(plan: Plan, assessment: Assessment, panel: str | None = None) -> tuple[Mapped, ...]:
    """Dot → fibre → lamp → output, of one panel or of all dots. The output is that of the board of the lamp's channel, or the part
    of the circuit that switches the lamp, where one does."""
    from gwiazda.core.plan.model import Switched, lamps_in, parts_in

    outputs: dict[str, str] = {}
    for feed in plan.feeds:
        for item in feed.items:
            for x in parts_in(item):
                if isinstance(x, Switched):
                    outputs.update(dict.fromkeys((leaf.lamp for leaf in lamps_in(x)), x.id))
    on = {c.id: f"{c.board}, output {c.output}" for c in plan.channels if c.board and c.output}
    outputs.update({p.id: on[p.channel] for p in plan.lamps if p.channel in on})
    tags = tags_of(plan)
    return tuple(
        Mapped(
            tags[d.id], d, d.lamp, assessment.tips[d.id].channel if d.id in assessment.tips else "", outputs.get(d.lamp, "")
        )
        for d in plan.dots if panel is None or d.panel == panel
    )  # fmt: skip
