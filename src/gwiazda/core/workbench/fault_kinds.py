"""The kinds of fault: how often each happens, what it is called, to what it may happen, what it does to a circuit's numbers.

A new kind is one entry of ``FAULT_KINDS``.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
COLD_OHM, OPEN_OHM, SHORT_OHM = 200.0, 1e9, 0.05
SHORT_A = 1e6  # saturation current of a lamp that is shorted: no voltage to speak of


class Column(NamedTuple):
    """A lamp or resistor by its columns in the network; ``colour`` tells which lamps can be swapped to notice."""

    id: str
    columns: tuple[int, ...]
    colour: str = ""
    units: int = 1


class Row(NamedTuple):
    """The numbers of a network under one hypothesis: resistances (Ω), idealities, saturation currents (A), one an element."""

    ohms: Array
    n: Array
    is_a: Array


def _any(one: Column, other: Column) -> bool:
    return True


def _nothing(row: Row, one: Column, other: Column) -> None:
    """Another way for the current, or the source's own state: laid over elsewhere."""


@dataclass(frozen=True)
class FaultKind:
    """One kind of fault.

    ``prior``: how often it happens at a hobby bench, of all faults of one lamp or resistor (house values). ``words`` and
    ``remedy`` say what is broken, and what to do where no reading tells more: with {one} and {other}. ``of``: what it
    happens to. ``applies``: to which of these (of a pair: to which two). ``lay`` changes the numbers.
    """

    name: str
    prior: float
    of: Literal["lamp", "resistor", "pair", "joint", "source"]
    words: str
    remedy: str
    lay: Callable[[Row, Column, Column], None] = _nothing
    applies: Callable[[Column, Column], bool] = _any


def _open(row: Row, one: Column, other: Column) -> None:
    row.ohms[one.columns[0]] = OPEN_OHM


def _short(row: Row, one: Column, other: Column) -> None:
    for c in one.columns:
        row.is_a[c], row.ohms[c] = SHORT_A, SHORT_OHM / len(one.columns)


def _cold(row: Row, one: Column, other: Column) -> None:
    row.ohms[one.columns[0]] += COLD_OHM


def _dead_unit(row: Row, one: Column, other: Column) -> None:
    for c in one.columns:
        row.is_a[c] *= (one.units - 1) / one.units
        row.ohms[c] *= one.units / (one.units - 1)


def _swapped(row: Row, one: Column, other: Column) -> None:
    if len(one.columns) != len(other.columns):
        return
    a, b = list(one.columns), list(other.columns)
    for values in row:
        values[a], values[b] = values[b].copy(), values[a].copy()


def _no_resistor(row: Row, one: Column, other: Column) -> None:
    row.ohms[list(one.columns)] = OPEN_OHM


def _times(factor: float) -> Callable[[Row, Column, Column], None]:
    def lay(row: Row, one: Column, other: Column) -> None:
        row.ohms[list(one.columns)] *= factor

    return lay


def _has_units(one: Column, other: Column) -> bool:
    return one.units > 1


def _other_colour(one: Column, other: Column) -> bool:
    return one.colour != other.colour


BANDS = "read the bands of the resistor of {one}"
FAULT_KINDS: tuple[FaultKind, ...] = (
    FaultKind("reversed", 0.28, "lamp", "{one} is reversed", "turn {one} round: if it stays dark, put another in its place", _open),
    FaultKind("open", 0.13, "lamp", "{one} is open", "turn {one} round first, then put another in its place: by a meter these two look alike", _open),
    FaultKind("short", 0.06, "lamp", "{one} is shorted", "take {one} out and feed it alone through a resistor: if it stays dark, it is shorted", _short),
    FaultKind("cold joint", 0.20, "lamp", "cold joint at {one}", "heat the joints of {one} once more, and pull at them", _cold),
    FaultKind("dead unit", 0.02, "lamp", "a unit of {one} is dead", "feed the units of {one} one by one", _dead_unit, _has_units),
    FaultKind("resistor open", 0.05, "resistor", "resistor of {one} is off", "heat the joints of the resistor of {one}, then change it", _no_resistor),
    FaultKind("resistor high", 0.08, "resistor", "resistor of {one} is ten times too large", BANDS, _times(10.0)),
    FaultKind("resistor low", 0.06, "resistor", "resistor of {one} is a tenth of it", BANDS, _times(0.1)),
    FaultKind("band high", 0.02, "resistor", "resistor of {one} is about twice its value", BANDS, _times(2.0)),  # 1k for 2k
    FaultKind("band low", 0.02, "resistor", "resistor of {one} is about half its value", BANDS, _times(0.5)),
    FaultKind("swapped", 0.04, "pair", "{one} and {other} are swapped", "change {one} and {other} over", _swapped, _other_colour),
    FaultKind("bridge", 0.04, "joint", "solder bridges {one} and {other}", "look between {one} and {other} with a lens, and draw a blade through"),
    # Apart from the parts: see ``hypotheses``.
    FaultKind("source low", 1.0, "source", "the battery is low, or the adapter gives too little", "put in fresh cells, or another adapter"),
)  # fmt: skip
BY_NAME = {k.name: k for k in FAULT_KINDS}
