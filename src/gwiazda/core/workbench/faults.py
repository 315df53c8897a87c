"""Faults laid over a network: what each does to the numbers of its elements, many solved at once.

A fault changes numbers, not the shape of the network, so thousands are operating points of one network: a lamp that is open
or the wrong way round passes nothing (nobody can tell these two apart by a meter), one that is shorted drops next to nothing.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.circuit.network import Diode, Network, Resistor
from gwiazda.core.workbench.fault_kinds import BY_NAME, FAULT_KINDS, Column, Row

Array = npt.NDArray[np.float64]
BRIDGE_OHM = 0.05


class Fault(NamedTuple):
    """What is wrong with which lamps or resistors (their ids)."""

    kind: str
    at: tuple[str, ...]

    @property
    def words(self) -> str:
        """What is wrong, with the ids of what it is about."""
        return BY_NAME[self.kind].words.format(one=self.at[0], other=self.at[-1])

    @property
    def remedy(self) -> str:
        """What to do about it."""
        return BY_NAME[self.kind].remedy.format(one=self.at[0], other=self.at[-1])


def single_faults(lamps: Sequence[Column], resistors: Sequence[Column]) -> list[Fault]:
    """Every single fault of these."""
    out = [Fault(k.name, (p.id,)) for p in lamps for k in FAULT_KINDS if k.of == "lamp" and k.applies(p, p)]
    out += [Fault(k.name, (r.id,)) for r in resistors for k in FAULT_KINDS if k.of == "resistor" and k.applies(r, r)]
    pairs = [k for k in FAULT_KINDS if k.of == "pair"]
    return out + [Fault(k.name, (a.id, b.id)) for a, b in pairwise(lamps) for k in pairs if k.applies(a, b)]


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
    known = {**lamps, **{f"resistor of {i}": r for i, r in resistors.items()}}
    for row, several in enumerate(faults):
        numbers = Row(ohms[row], n[row], is_a[row])
        for fault in several:
            kind = BY_NAME[fault.kind]
            of = "resistor of " if kind.of == "resistor" else ""
            if kind.of in ("lamp", "resistor", "pair"):
                kind.lay(numbers, known[of + fault.at[0]], known[of + fault.at[-1]])
    return Overlay(volts, ohms, n, is_a)


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
