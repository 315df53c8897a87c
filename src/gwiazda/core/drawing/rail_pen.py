"""Blocks put in their places between the rails: marks, pieces of wire, words."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.drawing.rail_blocks import Block
from gwiazda.core.drawing.rail_marks import BOX, BUS, STAGE, Label, Lead, RailMark, StringPlace


class _Buses(NamedTuple):
    """Where blocks side by side hang: the ends of what they are on, and their own two buses, downwards."""

    top: float
    bottom: float
    upper_y: float
    lower_y: float


class RailPen:
    """Collects marks, leads and labels while blocks are put in their places."""

    def __init__(self, column: float, scale: float) -> None:
        self.column, self.scale, self.box, self.stage = column, scale, BOX * scale, STAGE * scale
        self.marks: list[RailMark] = []
        self.leads: list[Lead] = []
        self.labels: list[Label] = []
        self.strings: list[StringPlace] = []
        self.rows: list[float] = []

    def lead(self, x0: float, y0: float, x1: float, y1: float, current_a: float, role: str = "wire") -> None:
        if abs(x1 - x0) + abs(y1 - y0) > 0.01:
            self.leads.append(Lead(x0, y0, x1, y1, abs(current_a), role))

    def put(self, b: Block, x: float, top: float, bottom: float, on_rail: bool, count: int = 1, lamps: tuple[str, ...] = ()) -> None:  # fmt: skip
        """A block with its left edge at ``x``, from its upper connection at ``top`` to its lower one at ``bottom``."""
        centre = x + self.column / 2
        count *= b.number
        current = b.current_a * count
        if b.kind in ("series", "single"):
            y = top
            for i, item in enumerate(b.items):
                last = i == len(b.items) - 1
                inner = self._share(b, item, i) if b.number > 1 else item.lamps
                self.put(item, x, y, bottom if last else y + item.h, on_rail and last, count, inner)
                y += item.h
            return
        if b.kind == "parallel":
            self._side(b.items, x, _Buses(top, bottom, top + BUS, bottom - BUS), count)
            return
        if b.kind in ("regulator", "pin"):
            wide = max(b.w * self.column, 1.6 * self.column) - 6
            self.lead(centre, top, centre, top + 3, current)
            self.marks.append(RailMark(b.kind, b.id, x + 3, top + 3, wide, self.box - 5, b.lamps))
            bus = top + self.box + 2
            self.lead(centre, top + self.box - 2, centre, bus, current)
            low = bottom if on_rail else bottom - BUS
            self._side(b.items, x, _Buses(bus, bottom, bus, low), count, upper=False, on_rail=on_rail)
            return
        if b.kind in ("npn", "mosfet", "relay"):
            low = bottom - self.stage
            self._side(b.items, x, _Buses(top, low, top + BUS, low - BUS / 2), count)
            self.marks.append(RailMark(b.kind, b.id, centre - 15, low + 2, 30, self.stage - 6, b.lamps))
            middle = low + 2 + (self.stage - 6) / 2
            self.lead(centre, low, centre, middle - 12, current)
            self.lead(centre, middle + 12, centre, bottom, current)
            return
        end = top + b.h
        k = max(self.scale, 1.0)
        side = min(16.0 * k, self.column - 6, b.h - 3)
        middle = (top + end) / 2
        sizes = {"lamp": (side, side), "resistor": (12.0 * k, b.h - 8), "fuse": (10.0 * k, b.h - 8), "switch": (18.0, b.h - 8),
                 "wire": (10.0, b.h - 4), "load": (18.0, 18.0)}  # fmt: skip
        w, h = sizes[b.kind]
        h = min(h, b.h - 3)
        self.lead(centre, top, centre, middle - h / 2, current)
        self.lead(centre, middle + h / 2, centre, bottom, current)
        self.marks.append(
            RailMark(b.kind, b.id, centre - w / 2, middle - h / 2, w, h, lamps or b.lamps, count, b.turned)
        )

    @staticmethod
    def _share(b: Block, item: Block, index: int) -> tuple[str, ...]:
        """Of a string that stands for several: the lamps in this place of each."""
        each = len(b.lamps) // b.number
        if item.kind != "lamp":
            return b.lamps
        place = sum(1 for x in b.items[:index] if x.kind == "lamp")
        return tuple(b.lamps[k * each + place] for k in range(b.number)) if each else b.lamps

    def _side(
        self, items: Sequence[Block], x: float, buses: _Buses, count: int, upper: bool = True, on_rail: bool = False
    ) -> None:
        """Blocks side by side between two buses; the first is straight below where they are joined."""
        top, bottom, upper_y, lower_y = buses
        half, total = self.column / 2, sum(b.current_a * b.number for b in items) * count
        if upper:
            self.lead(x + half, top, x + half, upper_y, total)
        if not on_rail:
            self.lead(x + half, lower_y, x + half, bottom, total)
        at, left = x, total
        for i, b in enumerate(items):
            own = b.current_a * b.number * count
            self.put(b, at, upper_y, bottom if on_rail else lower_y, on_rail, count)
            left -= own
            if i < len(items) - 1:
                after = at + b.w * self.column
                self.lead(at + half, upper_y, after + half, upper_y, left)
                if not on_rail:
                    self.lead(at + half, lower_y, after + half, lower_y, left)
                at = after
