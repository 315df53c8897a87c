"""Faults laid over a network: what each does to the numbers of its elements, many solved at once.

A fault changes numbers, not the shape of the network, so thousands are operating points of one network: a lamp that is open
or the wrong way round passes nothing (nobody can tell these two apart by a meter), one that is shorted drops next to nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.network import Diode, Network, Resistor

Array = npt.NDArray[np.float64]
Kind = Literal[
    "reversed", "open", "short", "cold joint", "resistor open", "resistor high", "resistor low", "swapped", "dead unit"
]

# How often each happens at a hobby bench, of all faults of one lamp or resistor (house values).
PRIOR: dict[Kind, float] = {
    "reversed": 0.30, "cold joint": 0.22, "open": 0.14, "resistor high": 0.09, "resistor low": 0.07, "short": 0.07, "resistor open": 0.05,
    "swapped": 0.04, "dead unit": 0.02,
}  # fmt: skip
COLD_OHM, OPEN_OHM, SHORT_OHM = 200.0, 1e9, 0.05
SHORT_A = 1e6  # saturation current of a lamp that is shorted: no voltage to speak of
DECADE = 10.0


class Fault(NamedTuple):
    """What is wrong with which lamps or resistors (their ids)."""

    kind: Kind
    at: tuple[str, ...]

    @property
    def words(self) -> str:
        one = self.at[0]
        return {
            "reversed": f"{one} is reversed", "open": f"{one} is open", "short": f"{one} is shorted", "cold joint": f"cold joint at {one}",
            "resistor open": f"resistor of {one} is off", "resistor high": f"resistor of {one} is ten times too large",
            "resistor low": f"resistor of {one} is a tenth of it", "swapped": f"{one} and {self.at[-1]} are swapped",
            "dead unit": f"a unit of {one} is dead",
        }[self.kind]  # fmt: skip


class Column(NamedTuple):
    """A lamp or resistor by its columns in the network; ``colour`` tells which lamps can be swapped to notice."""

    id: str
    columns: tuple[int, ...]
    colour: str = ""
    units: int = 1


def single_faults(lamps: Sequence[Column], resistors: Sequence[Column]) -> list[Fault]:
    """Every single fault of these."""
    out: list[Fault] = []
    for p in lamps:
        out += [Fault(k, (p.id,)) for k in ("reversed", "open", "short", "cold joint")]
        if p.units > 1:
            out.append(Fault("dead unit", (p.id,)))
    for r in resistors:
        out += [Fault(k, (r.id,)) for k in ("resistor open", "resistor high", "resistor low")]
    for a, b in pairwise(lamps):
        if a.colour != b.colour:
            out.append(Fault("swapped", (a.id, b.id)))
    return out


class Overlay(NamedTuple):
    """Numbers of a network for each of H hypotheses: EMFs, resistances, ideality, saturation currents, (H, elements) each."""

    volts: Array
    ohms: Array
    n: Array
    is_a: Array


def overlaid(
    network: Network, lamps: dict[str, Column], resistors: dict[str, Column], faults: Sequence[tuple[Fault, ...]]
) -> Overlay:
    """The network's numbers with each hypothesis' faults laid over; an empty tuple is a sound one."""
    count = len(faults)
    volts, ohms, n, is_a = (np.tile(x, (count, 1)) for x in (network.volts, network.ohms, network.n, network.is_a))
    for row, several in enumerate(faults):
        for fault in several:
            _lay(fault, row, lamps, resistors, network, ohms, n, is_a)
    return Overlay(volts, ohms, n, is_a)


def _lay(
    fault: Fault, row: int, lamps: dict[str, Column], resistors: dict[str, Column], network: Network, ohms: Array, n: Array, is_a: Array
) -> None:  # fmt: skip
    kind, first = fault.kind, fault.at[0]
    if kind in ("resistor open", "resistor high", "resistor low"):
        for c in resistors[first].columns:
            ohms[row, c] = OPEN_OHM if kind == "resistor open" else ohms[row, c] * (DECADE if kind == "resistor high" else 1.0 / DECADE)  # fmt: skip
        return
    columns = lamps[first].columns
    if kind in ("reversed", "open"):
        ohms[row, columns[0]] = OPEN_OHM
    elif kind == "short":
        for c in columns:
            is_a[row, c], ohms[row, c] = SHORT_A, SHORT_OHM / len(columns)
    elif kind == "cold joint":
        ohms[row, columns[0]] += COLD_OHM
    elif kind == "dead unit":
        units = lamps[first].units
        for c in columns:
            is_a[row, c] *= (units - 1) / units
            ohms[row, c] *= units / (units - 1)
    elif kind == "swapped":
        other = lamps[fault.at[-1]].columns
        for values in (ohms, n, is_a):
            a, b = values[row, list(columns)].copy(), values[row, list(other)].copy()
            if len(a) == len(b):
                values[row, list(columns)], values[row, list(other)] = b, a


def columns_of(network: Network) -> tuple[dict[str, Column], dict[str, Column]]:
    """Lamps and resistors of a network by id, as their elements are named."""
    lamps: dict[str, list[int]] = {}
    resistors: dict[str, list[int]] = {}
    for k, e in enumerate(network.elements):
        if isinstance(e, Diode) and e.id.startswith("d") and "." in e.id:
            lamps.setdefault(e.id.partition(".")[2], []).append(k)
        elif isinstance(e, Resistor) and e.id.startswith("r."):
            resistors.setdefault(e.id[2:], []).append(k)
    return {i: Column(i, tuple(c)) for i, c in lamps.items()}, {i: Column(i, tuple(c)) for i, c in resistors.items()}
