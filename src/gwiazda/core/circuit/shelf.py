"""What resistors are within reach, a standard series or one's own stock, and which of them serves.

One value where it serves; where none comes near, two of them, one after the other or side by side.
"""

from __future__ import annotations

from bisect import bisect_left
from typing import Literal, NamedTuple

import numpy as np

from gwiazda.core.circuit.series import values
from gwiazda.core.memo import memoize_by_value


class Shelf(NamedTuple):
    """Values (Ω), rising, and half of their tolerance, as a share: a value short by less counts as reached."""

    name: str
    ohms: tuple[float, ...]
    half_tolerance: float

    def at_or_above(self, ohm: float) -> float:
        """The next value at or above ``ohm`` (Ω); the highest when none is.

        Parameters
        ----------
        ohm : float
            Least resistance, Ω.

        Returns
        -------
        float
            A value of the shelf, Ω.
        """
        return self.ohms[min(bisect_left(self.ohms, ohm * (1 - 1e-9)), len(self.ohms) - 1)]


class Pair(NamedTuple):
    """Two resistors that stand for one: ``ohm`` together."""

    how: Literal["series", "parallel"]
    a_ohm: float
    b_ohm: float
    ohm: float


@memoize_by_value(64)
def shelf_of(series: str, stock: tuple[float, ...] = ()) -> Shelf:
    """The shelf of a series (E6, E12, E24, E96), or of one's own ``stock`` (Ω); an empty stock counts as E12.

    Parameters
    ----------
    series : str
        E6, E12, E24 or E96; not looked at where there is a stock.
    stock : tuple[float, ...]
        One's own values, Ω.

    Returns
    -------
    Shelf
        The shelf.
    """
    if series == "stock" and stock:
        return Shelf("stock", tuple(sorted(set(stock))), 0.025)
    series = "E12" if series == "stock" else series
    return Shelf(series, values(series), 0.005 if series == "E96" else 0.025)


@memoize_by_value(1024)
def pair_for(ohm: float, shelf: Shelf, least_ohm: float = 0.0) -> Pair | None:
    """The two values of a shelf that together come nearest to ``ohm`` (Ω) and not below ``least_ohm``.

    Nearest by ratio, of all pairs there are. None where the shelf holds no pair that keeps the least.

    Parameters
    ----------
    ohm : float
        Resistance wanted, Ω.
    shelf : Shelf
        What values there are.
    least_ohm : float
        Not below this, Ω.

    Returns
    -------
    Pair or None
        The pair with what it comes to, or None.
    """
    held = np.array(shelf.ohms)
    if len(held) == 0 or ohm <= 0:
        return None
    a, b = np.meshgrid(held, held, indexing="ij")
    best: Pair | None = None
    best_off = float("inf")
    ways: tuple[tuple[Literal["series", "parallel"], np.ndarray], ...] = (
        ("series", a + b),
        ("parallel", a * b / (a + b)),
    )
    for how, together in ways:
        off = np.where(together >= least_ohm * (1.0 - 1e-9), np.abs(np.log(together / ohm)), np.inf)
        i = int(off.argmin())
        if off.flat[i] < best_off - 1e-9:
            best_off = float(off.flat[i])
            one, two = sorted((float(a.flat[i]), float(b.flat[i])), reverse=True)
            best = Pair(how, one, two, float(together.flat[i]))
    return best
