"""What a section holds, counted for its steps, and a mark of it: where that changes, what was done to it is void."""

from __future__ import annotations

import hashlib
from typing import Any, NamedTuple

import msgspec

from gwiazda.core.memo import memoize
from gwiazda.core.plan.lookup import built_into, joints_by_lamp, openings_by_section
from gwiazda.core.plan.model import Carrier, Dot, Feed, Lamp, Opening, Passage, Plan, Section, SectionOrder

BODIES = ("board", "pack", "speaker", "switch", "interior", "figure", "seat", "engine", "motor", "regulator", "socket")


class Contents(NamedTuple):
    """A section with all that belongs to it."""

    section: Section
    openings: tuple[Opening, ...]
    lamps: tuple[Lamp, ...]
    dots: tuple[Dot, ...]
    passages: tuple[Passage, ...]
    joints: int
    order: SectionOrder | None
    carriers: tuple[Carrier, ...] = ()

    @property
    def lit(self) -> bool:
        """Whether anything of it is lit: what isn't has no tests."""
        return bool(self.lamps or self.dots)

    @property
    def bare(self) -> bool:
        """Whether it has no light, no opening and no lead through it, as a wheel has: nothing is to be done to it for the lights."""
        return not (self.lit or self.openings or self.passages)

    @property
    def seen(self) -> tuple[Lamp, ...]:
        """Its lamps that are seen themselves, each through a hole of its own."""
        return tuple(p for p in self.lamps if p.mount == "outside")

    @property
    def lit_inside(self) -> bool:
        """Whether light of its own falls on its inside."""
        return bool(self.dots) or len(self.seen) < len(self.lamps)


_Pieces = tuple[
    tuple[Section, ...], tuple[Opening, ...], tuple[Lamp, ...], tuple[Dot, ...], tuple[Passage, ...], tuple[Feed, ...],
    tuple[SectionOrder, ...], tuple[Carrier, ...],
]  # fmt: skip


@memoize(slots=4)
def _contents(pieces: _Pieces) -> dict[str, Contents]:
    sections, openings, lamps, dots, passages, feeds, orders, carriers = pieces
    homes = built_into(sections, lamps)
    joints, panes, order = (
        joints_by_lamp(feeds),
        openings_by_section(openings),
        {o.section: o for o in reversed(orders)},
    )
    inside: dict[str, list[Lamp]] = {}
    for p in lamps:
        inside.setdefault(homes.get(p.id) or "", []).append(p)
    points: dict[str, list[Dot]] = {}
    for d in dots:
        points.setdefault(d.section, []).append(d)
    out = {}
    for s in sections:
        mine = tuple(inside.get(s.id, ()))
        out[s.id] = Contents(
            s, panes.get(s.id, ()), mine, tuple(points.get(s.id, ())), tuple(w for w in passages if w.section == s.id),
            sum(joints.get(p.id, 3) for p in mine), order.get(s.id),
            tuple(k for k in carriers if k.section == s.id),
        )  # fmt: skip
    return out


def contents_of(plan: Plan) -> dict[str, Contents]:
    """What each section holds, by its id."""
    return _contents(
        (
            plan.sections,
            plan.openings,
            plan.lamps,
            plan.dots,
            plan.passages,
            plan.feeds,
            plan.section_orders,
            plan.carriers,
        )
    )


ALIKE_MM = 0.5


@memoize()
def _pairs(sections: tuple[Section, ...]) -> tuple[tuple[str, str], ...]:
    out = []
    for i, a in enumerate(sections):
        if a.box.at[1] <= 0.0:
            continue
        for b in sections[:i] + sections[i + 1 :]:
            mirrored = (b.box.at[0], -b.box.at[1] - b.box.size[1], b.box.at[2])
            near = all(abs(x - y) <= ALIKE_MM for x, y in zip(a.box.at, mirrored, strict=True))
            if near and all(abs(x - y) <= ALIKE_MM for x, y in zip(a.box.size, b.box.size, strict=True)):
                out.append((a.id, b.id))
                break
    return tuple(out)


def handed_pairs(plan: Plan) -> tuple[tuple[str, str], ...]:
    """Sections to port with their mirror images to starboard: parts that look alike and are not."""
    return _pairs(plan.sections)


def outside_lamps(plan: Plan) -> tuple[Lamp, ...]:
    """The lamps that belong to no section: those fitted late, from outside."""
    homes = built_into(plan.sections, plan.lamps)
    return tuple(p for p in plan.lamps if not homes.get(p.id))


def mark_of(*things: Any) -> str:
    """A short mark of what a step is done to; another plan of the same things has the same."""
    return hashlib.sha256(msgspec.json.encode(things)).hexdigest()[:12]
