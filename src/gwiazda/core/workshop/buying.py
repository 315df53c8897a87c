"""What is to be bought: what a plan needs with its spares, less what is in the drawer and free."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import NamedTuple

from gwiazda.core.workshop.drawer_csv import UNITS, Key, key_of
from gwiazda.core.workshop.workshop import Workshop


class Buy(NamedTuple):
    """A part of the shopping list. ``wanted`` is what is needed with spares; ``held`` is in the drawer, of which other plans keep ``elsewhere``."""

    kind: str
    part: str
    detail: str
    needed: int
    wanted: int
    held: float
    elsewhere: float
    where: str
    pack: float = 0.0
    price: float = 0.0

    @property
    def key(self) -> Key:
        return key_of(self.kind, self.part)

    @property
    def free(self) -> float:
        """What of it this plan may take."""
        return max(0.0, self.held - self.elsewhere)

    @property
    def buy(self) -> int:
        """How many to buy: pieces, or whole metres, ml, cm²."""
        return max(0, math.ceil(self.wanted - self.free - 1e-9))

    @property
    def packs(self) -> int:
        """How many packs as they are sold that takes; 0 where it isn't known how many are in one."""
        return math.ceil(self.buy / self.pack - 1e-9) if self.pack else 0

    @property
    def cost(self) -> float:
        """What that costs, in one's own money; a price with no pack is that of one. 0 where none is known."""
        return (self.packs if self.pack else self.buy) * self.price

    @property
    def unit(self) -> str:
        return UNITS.get(self.kind, "")


def buying(rows: Iterable[tuple[str, str, str, int, int]], workshop: Workshop, plan: str) -> tuple[Buy, ...]:
    """The shopping list against the drawer; ``rows`` are kind, part, detail, needed, with spares; ``plan`` the kit's name."""
    out = []
    for kind, part, detail, needed, wanted in rows:
        key = key_of(kind, part)
        held = workshop.drawer.get(key)
        others = workshop.kept_by_others(plan, key)
        out.append(
            Buy(
                kind,
                part,
                detail,
                needed,
                wanted,
                held.amount if held else 0.0,
                others,
                held.where if held else "",
                held.pack if held else 0.0,
                held.price if held else 0.0,
            )
        )
    return tuple(out)


def cost_words(buys: Iterable[Buy]) -> str:
    """What is to be bought costs, as far as prices are known, in words; empty where none is."""
    lacking = [b for b in buys if b.buy]
    priced = [b for b in lacking if b.price]
    if not priced:
        return ""
    rest = len(lacking) - len(priced)
    return f"{sum(b.cost for b in priced):,.2f} in all" + (
        f", {rest} of {len(lacking)} without a price" if rest else ""
    )


def to_keep(buys: Iterable[Buy]) -> dict[Key, float]:
    """What a plan would lay aside for itself: what it wants, as far as it is free. Rows of one part are kept together."""
    out: dict[Key, float] = {}
    for b in buys:
        if take := min(float(b.wanted), b.free - out.get(b.key, 0.0)):
            out[b.key] = out.get(b.key, 0.0) + take
    return out
