"""Faults laid over a network: what each does to the numbers of its elements, many solved at once.

A fault changes numbers, not the shape of the network, so thousands are operating points of one network: a lamp that is open
or the wrong way round passes nothing (nobody can tell these two apart by a meter), one that is shorted drops next to nothing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.network import Diode, Network, Resistor

Array = npt.NDArray[np.float64]
FaultName = Literal[
    "reversed",
    "open",
    "short",
    "cold joint",
    "resistor open",
    "resistor high",
    "resistor low",
    "band high",
    "band low",
    "swapped",
    "dead unit",
    "bridge",
    "source low",
]

# How often each happens at a hobby bench, of all faults of one lamp or resistor (house values).
PRIOR: dict[FaultName, float] = {
    "reversed": 0.28, "cold joint": 0.20, "open": 0.13, "resistor high": 0.08, "resistor low": 0.06, "short": 0.06, "resistor open": 0.05,
    "swapped": 0.04, "bridge": 0.04, "band high": 0.02, "band low": 0.02, "dead unit": 0.02,
    "source low": 1.0,  # apart from the parts: see ``hypotheses``
}  # fmt: skip
COLD_OHM, OPEN_OHM, SHORT_OHM = 200.0, 1e9, 0.05
SHORT_A = 1e6  # saturation current of a lamp that is shorted: no voltage to speak of
TIMES: dict[str, float] = {
    "resistor high": 10.0,
    "resistor low": 0.1,
    "band high": 2.0,
    "band low": 0.5,
}  # a band off: 1k for 2k
BRIDGE_OHM = 0.05


class Fault(NamedTuple):
    """What is wrong with which lamps or resistors (their ids)."""

    kind: FaultName
    at: tuple[str, ...]

    @property
    def words(self) -> str:
        one = self.at[0]
        return {
            "reversed": f"{one} is reversed", "open": f"{one} is open", "short": f"{one} is shorted", "cold joint": f"cold joint at {one}",
            "resistor open": f"resistor of {one} is off", "resistor high": f"resistor of {one} is ten times too large",
            "resistor low": f"resistor of {one} is a tenth of it", "swapped": f"{one} and {self.at[-1]} are swapped",
            "dead unit": f"a unit of {one} is dead", "bridge": f"solder bridges {one} and {self.at[-1]}",
            "source low": "the battery is low, or the adapter gives too little",
            "band high": f"resistor of {one} is about twice its value", "band low": f"resistor of {one} is about half its value",
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
        out += [Fault(k, (r.id,)) for k in ("resistor open", *TIMES)]  # type: ignore[arg-type]
    for a, b in pairwise(lamps):
        if a.colour != b.colour:
            out.append(Fault("swapped", (a.id, b.id)))
    return out


def bridges(lamps: Sequence[Column], ends: Mapping[str, tuple[str, ...]]) -> dict[tuple[str, str], tuple[str, str]]:
    """Solder across the nearest joints of neighbours: pairs of lamps, and the two nodes that are one then.

    What would short one lamp alone is left out: that is a fault of its own, with fewer to blame.
    """
    alone = {frozenset(ends[p.id][:2]) for p in lamps if p.id in ends}
    out: dict[tuple[str, str], tuple[str, str]] = {}
    for p, q in pairwise(lamps):
        if p.id not in ends or q.id not in ends:
            continue
        (a, b), (c, d) = ends[p.id][:2], ends[q.id][:2]
        pair = next((x for x in ((a, c), (b, d), (a, d)) if x[0] != x[1] and frozenset(x) not in alone), None)
        if pair is not None:
            out[p.id, q.id] = pair
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
    if kind == "resistor open" or kind in TIMES:
        for c in resistors[first].columns:
            ohms[row, c] = ohms[row, c] * TIMES[kind] if kind in TIMES else OPEN_OHM
        return
    if kind in ("bridge", "source low"):
        return  # another way for the current, and the source's own state: see ``bridges`` and ``hypotheses``
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
