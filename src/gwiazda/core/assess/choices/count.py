"""A light by numbers, before any geometry: what so many dots take in full, shared by fibre, and faked."""

from __future__ import annotations

import re
from typing import Literal, NamedTuple

from gwiazda.core.errors import QuantityError
from gwiazda.core.fibre.bundle import fibres_by_hand
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Count, Effort

Way = Literal["full", "shared", "faked"]
FIBRE_MM = 0.5


class Version(NamedTuple):
    """One way to build a counted light: what it takes, and what it can't do."""

    way: Way
    lamps: int
    fibres: int
    outputs: int
    holes: int
    joints: int
    draw_a: float
    hours: float
    words: str


def live(count: Count) -> int:
    """Dots that light: the dead ones are only painted."""
    return round(count.rows * count.columns * (1.0 - count.dead_share))


def versions_of(count: Count, catalogue: Catalogue, effort: Effort) -> tuple[Version, ...]:
    """The three ways: a lamp each, fibres bundled onto few lamps, all of a colour behind one lamp."""
    dots, colours = live(count), min(count.colours, max(live(count), 1))
    each = -(-dots // colours) if dots else 0
    part = catalogue.lamps.get(count.part)
    many = fibres_by_hand(max(part.face_mm if part is not None else 3.0, FIBRE_MM), FIBRE_MM)
    bundles = colours * -(-each // many) if dots else 0
    ampere = count.current_ma * 1e-3

    def version(way: Way, lamps: int, fibres: int, outputs: int, words: str) -> Version:
        minutes = (
            dots * effort.hole_min + 3 * lamps * effort.joint_min + lamps * effort.lamp_min + fibres * effort.dot_min
        )
        return Version(way, lamps, fibres, outputs, dots, 3 * lamps, lamps * ampere, minutes / 60.0, words)

    return (
        version("full", dots, 0, dots, "every dot by itself"),
        version("shared", bundles, dots, bundles, f"up to {many} fibres of {FIBRE_MM:g} mm on a lamp act together"),
        version("faked", min(colours, dots), 0, min(colours, dots), "all of a colour together, steady"),
    )


def read_dots(text: str) -> tuple[int, int]:
    """``12 x 8`` as columns and rows; one number is a single row.

    Raises
    ------
    QuantityError
        For what is no grid.
    """
    match = re.fullmatch(r"\s*(\d{1,4})\s*(?:[x×*]\s*(\d{1,4}))?\s*", text)
    columns, rows = (int(match[1]), int(match[2] or 1)) if match else (0, 0)
    if not (1 <= columns <= 500 and 1 <= rows <= 500):
        raise QuantityError("Dots", f"“{text.strip()}” is no grid", "columns x rows, such as 12 x 8, up to 500 each")
    return columns, rows
