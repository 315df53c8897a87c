"""Openings counted and named by deck: rows of one side at one height."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import PLANES, Side
from gwiazda.core.plan.model import Opening, Section


class Deck(NamedTuple):
    """A row of openings; ``ids`` in order from stern to bow, from starboard to port in end walls."""

    name: str
    section: str
    side: Side
    level_mm: float
    ids: tuple[str, ...]
    lit: int


@memoize(slots=4)
def decks_of(sections: tuple[Section, ...], openings: tuple[Opening, ...]) -> tuple[Deck, ...]:
    """The rows of each section, side by side, lowest first.

    Openings belong to one row while each overlaps the one below it by at least half the smaller height. Rows are
    named after their section and side, and lettered from below where a side has several.
    """
    by_wall: dict[tuple[str, Side], list[Opening]] = {}
    for o in openings:
        by_wall.setdefault((o.section, o.side), []).append(o)
    out = []
    for section in sections:
        for side in PLANES:
            wall = by_wall.get((section.id, side), [])
            h, v, _ = PLANES[side]
            rows: list[list[Opening]] = []
            for o in sorted(wall, key=lambda o: o.at[v]):
                last = rows[-1][-1] if rows else None
                if last is not None and o.at[v] - last.at[v] <= min(o.height_mm, last.height_mm) / 2:
                    rows[-1].append(o)
                else:
                    rows.append([o])
            for i, row in enumerate(rows):
                row.sort(key=lambda o: o.at[h])
                letter = f" {chr(ord('a') + i) if i < 26 else i + 1}" if len(rows) > 1 else ""
                level = sum(o.at[v] for o in row) / len(row)
                out.append(
                    Deck(
                        f"{section.name}, {side}{letter}", section.id, side, level,
                        tuple(o.id for o in row), sum(o.lit > 0 for o in row),
                    )
                )  # fmt: skip
    return tuple(out)


@memoize(slots=4)
def names_of(sections: tuple[Section, ...], openings: tuple[Opening, ...]) -> dict[str, str]:
    """What each opening is called at the bench: “Deck 1, port, 3 of 12”."""
    return {
        opening: f"{deck.name}, {i} of {len(deck.ids)}"
        for deck in decks_of(sections, openings)
        for i, opening in enumerate(deck.ids, 1)
    }
