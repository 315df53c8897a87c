"""Circuits as blocks to be drawn between rails: strings, groups, stages, with what is alike folded into one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.rail_marks import BOX, BUS, SLOT, STAGE
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Fuse,
    LampRef,
    Load,
    Parallel,
    Plan,
    Resistor,
    Series,
    Switch,
    Switched,
    Wire,
)


class Block(NamedTuple):
    """A part of the tree as it is drawn: in columns wide, so high, its current, what it stands for."""

    kind: str
    id: str
    w: float
    h: float
    current_a: float
    lamps: tuple[str, ...] = ()
    items: tuple[Block, ...] = ()
    number: int = 1
    turned: bool = False
    sign: object = None
    home: str = ""


class BlockMaker:
    """Makes blocks of the tree's parts; ``fold``: 0 none, 1 alike ones of a section, 2 alike ones, 3 of one kind."""

    def __init__(self, plan: Plan, assessment: Assessment, fold: int, scale: float) -> None:
        self.plan, self.assessment, self.fold, self.scale = plan, assessment, fold, scale
        self.ohms = {r.resistor: r.resistor_ohm for r in assessment.branches.values() if r.resistor}

    def home(self, lamp_id: str) -> str:
        state = self.assessment.lamps.get(lamp_id)
        return (state.section or "") if state is not None else ""

    def lamp(self, lamp_id: str, turned: bool) -> Block:
        state = self.assessment.lamps.get(lamp_id)
        current = state.current_a if state is not None else 0.0
        part = state.part if state is not None else lamp_of(self.plan, lamp_id).part
        sign = ("lamp", part, turned, f"{current:.3g}" if self.fold < 3 else "")
        return Block(
            "lamp",
            lamp_id,
            1.0,
            SLOT["lamp"] * self.scale,
            current,
            (lamp_id,),
            (),
            1,
            turned,
            sign,
            self.home(lamp_id),
        )

    def leaf(self, kind: str, part_id: str, sign: object = None) -> Block:
        state = self.assessment.parts.get(part_id)
        return Block(
            kind, part_id, 1.0, SLOT[kind] * self.scale, state.current_a if state is not None else 0.0,
            sign=sign if sign is not None else (kind, part_id),
        )  # fmt: skip

    def single(self, lamp_id: str) -> Block:
        """A lamp with a resistor of its own."""
        lamp, state = self.lamp(lamp_id, False), self.assessment.lamps.get(lamp_id)
        ohm = state.resistor_ohm if state is not None else 0.0
        if ohm <= 0:
            return lamp
        resistor = Block(
            "resistor", lamp_id, 1.0, SLOT["resistor"] * self.scale, lamp.current_a, (lamp_id,),
            sign=("resistor", f"{ohm:.4g}" if self.fold < 3 else ""),
        )  # fmt: skip
        return self.stack("single", lamp_id, (resistor, lamp))

    def block(self, node: CircuitNode) -> Block:
        if isinstance(node, LampRef):
            return self.lamp(node.lamp, node.reversed)
        if isinstance(node, Resistor):
            ohm = node.ohm or self.ohms.get(node.id, 0.0)
            return self.leaf("resistor", node.id, ("resistor", f"{ohm:.4g}"))
        for leaf, name in ((Fuse, "fuse"), (Switch, "switch"), (Wire, "wire"), (Load, "load")):
            if isinstance(node, leaf):
                return self.leaf(name, node.id)
        assert isinstance(node, BRANCHING)
        blocks = self.folded([self.block(x) for x in node.items])
        if isinstance(node, Series):
            return self.stack("series", node.id, tuple(self.block(x) for x in node.items))
        current = sum(b.current_a * b.number for b in blocks)
        wide, high = sum(b.w for b in blocks), max((b.h for b in blocks), default=0.0)
        lamps = tuple(i for b in blocks for i in b.lamps)
        home = blocks[0].home if blocks else ""
        if isinstance(node, Parallel):
            return Block("parallel", node.id, max(wide, 1.0), high + 2 * BUS, current, lamps, blocks, home=home)
        state = self.assessment.parts.get(node.id)
        flows = state.current_a if state is not None else current
        kind: str = "regulator"
        box, stage = BOX * self.scale, STAGE * self.scale
        extra = box + BUS
        if isinstance(node, Switched):
            drive = self.assessment.catalogue.drives.get(node.part)
            kind = drive.kind if drive is not None else "pin"
            extra = box + BUS if kind == "pin" else stage + 2 * BUS
        return Block(kind, node.id, max(wide, 1.6), high + extra, flows, lamps, blocks, home=home)

    def stack(self, kind: str, block_id: str, items: tuple[Block, ...]) -> Block:
        first = next((b.current_a * b.number for b in items if b.lamps), items[0].current_a if items else 0.0)
        lamps = tuple(i for b in items if b.kind != "resistor" for i in b.lamps)
        plain = all(b.kind in ("resistor", "lamp") for b in items)
        sign = (kind, *(b.sign for b in items)) if plain else (kind, block_id)
        home = next((b.home for b in items if b.home), "")
        return Block(
            kind, block_id, max((b.w for b in items), default=1.0), sum(b.h for b in items), first, lamps, items, 1, False,
            ("string", *sign[1:]) if plain else sign, home,
        )  # fmt: skip

    def folded(self, blocks: Sequence[Block]) -> tuple[Block, ...]:
        """Alike ones side by side as one."""
        if not self.fold:
            return tuple(blocks)
        groups: dict[object, list[Block]] = {}
        for b in blocks:
            groups.setdefault((b.sign or b.id, b.home if self.fold == 1 else ""), []).append(b)
        out = []
        for same in groups.values():
            first = same[0]
            if len(same) > 1 and first.sign is not None:
                out.append(first._replace(number=len(same), lamps=tuple(i for b in same for i in b.lamps)))
            else:
                out += same
        return tuple(out)
