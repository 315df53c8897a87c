"""The elements a network is made of."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.circuit.stamps import Stamped
from gwiazda.core.errors import CircuitError


class Source(NamedTuple):
    """EMF (V) with internal resistance (Ω); its current counts out of ``plus``."""

    id: str
    plus: str
    minus: str
    volts: float
    ohms: float = 0.0

    @property
    def ends(self) -> tuple[str, str]:
        """Its two nodes, along the direction in which its current counts."""
        # In at minus, out at plus.
        return self.minus, self.plus


class Resistor(NamedTuple):
    """Resistance (Ω) between ``a`` and ``b``; its current counts from a to b."""

    id: str
    a: str
    b: str
    ohms: float

    @property
    def ends(self) -> tuple[str, str]:
        """Its two nodes, along the direction in which its current counts."""
        return self.a, self.b


class Diode(NamedTuple):
    """Lamp or diode: ideality ``n``, saturation current ``is_a`` (A), series resistance ``rs`` (Ω)."""

    id: str
    anode: str
    cathode: str
    n: float
    is_a: float
    rs: float
    kind: str = "led"

    @property
    def ends(self) -> tuple[str, str]:
        """Its two nodes, along the direction in which its current counts."""
        return self.anode, self.cathode


Element = Source | Resistor | Diode | Stamped


def check(elements: Sequence[Element]) -> None:
    """Look at ids, nodes and values of the elements of a network.

    Parameters
    ----------
    elements : Sequence[Element]
        The elements of one network.

    Raises
    ------
    CircuitError
        Naming the element and what it takes.
    """
    seen: set[str] = set()
    for e in elements:
        if e.id in seen:
            raise CircuitError(f"Element {e.id}", "the id is used twice", "an id for each element")
        seen.add(e.id)
        if isinstance(e, Stamped):
            if len(set(e.terminals)) < len(e.terminals):
                raise CircuitError(f"Element {e.id}", "two of its terminals are at one node", "a node for each")
            accepted = e.values_ok()
            if accepted or not np.isfinite([v for v in e if isinstance(v, float)]).all():
                raise CircuitError(f"Element {e.id}", "a value is out of range", accepted or "finite values")
            continue
        a, b = e.ends
        if a == b:
            raise CircuitError(f"Element {e.id}", f"both ends are at node {a}", "two different nodes")
        if isinstance(e, Diode):
            ok = e.n > 0 and e.is_a > 0 and e.rs >= 0
            accepted = "n and is above zero, rs not below"
        else:
            ok, accepted = e.ohms >= 0, "ohms not below zero"
        if not ok or not np.isfinite([v for v in e if isinstance(v, float)]).all():
            raise CircuitError(f"Element {e.id}", "a value is out of range", accepted)
