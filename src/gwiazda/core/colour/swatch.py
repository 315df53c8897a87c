"""A paint's own density from readings of a light meter: with so many coats before it, and without.

Sources
-------
[1] Densities of layers add, so log₁₀(without/with) is a straight line over the number of coats; ordinary least
    squares, the slope's standard error from the scatter about the line.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.errors import PlanError

Array = npt.NDArray[np.float64]

WILD = 4.0  # times the usual scatter of the others: such a reading is pointed out
LEAST_SCATTER = 0.03  # of a density: no meter held by hand does better
MOST_READINGS = 50
METER_SLACK = 1.15  # a meter held by hand may read a little more with a clear swatch than without


class SwatchReading(NamedTuple):
    """``coats`` of paint on the plastic; lux without it before the meter, and with it."""

    coats: int
    without_lx: float
    with_lx: float

    @property
    def density(self) -> float:
        """Optical density: log10 of the light without over the light with it."""
        return math.log10(self.without_lx / self.with_lx)


class Swatch(NamedTuple):
    """Density of one coat with its standard error, of the bare plastic, and which readings stand out."""

    density: float
    spread: float
    plastic: float
    wild: tuple[int, ...]


def check_reading(reading: SwatchReading, number: int) -> None:
    """Look at one reading.

    Parameters
    ----------
    reading : SwatchReading
        Coats, lux without and with the swatch.
    number : int
        Which one it is, for the message.

    Raises
    ------
    PlanError
        For a reading that can't be.
    """
    where = f"Reading {number}"
    if not 0 <= reading.coats <= 20:
        raise PlanError(where, f"{reading.coats} coats", "0 to 20")
    if not (math.isfinite(reading.without_lx) and 0 < reading.without_lx <= 2e5):
        raise PlanError(where, f"{reading.without_lx:g} lx without", "a reading above zero")
    if not (math.isfinite(reading.with_lx) and reading.with_lx > 0):
        raise PlanError(where, f"{reading.with_lx:g} lx with it", "a reading above zero: take a brighter lamp")
    if reading.with_lx > METER_SLACK * reading.without_lx:
        raise PlanError(where, "more light with the swatch than without", "first without, then with")


def fit_density(readings: Sequence[SwatchReading]) -> Swatch:
    """Density a coat from three readings or more, with at least two different numbers of coats [1]_.

    A wild reading is one that lies far from the line through the others; it is named, and kept in the fit.

    Parameters
    ----------
    readings : Sequence[SwatchReading]
        Three or more.

    Returns
    -------
    Swatch
        Density a coat, its uncertainty, and which reading is wild.

    Raises
    ------
    PlanError
        For readings that can't be, or too few of them.
    """
    for i, reading in enumerate(readings, 1):
        check_reading(reading, i)
    if not 3 <= len(readings) <= MOST_READINGS:
        raise PlanError("Swatch", f"{len(readings)} readings", f"3 to {MOST_READINGS}")
    coats = np.array([r.coats for r in readings], dtype=float)
    density = np.array([r.density for r in readings])
    if len(set(coats.tolist())) < 2:
        raise PlanError(
            "Swatch", "all readings have the same number of coats", "two different numbers, such as 0, 1, 2"
        )
    columns = np.column_stack([np.ones_like(coats), coats])
    (base, slope), *_ = np.linalg.lstsq(columns, density, rcond=None)
    rest = density - columns @ np.array([base, slope])
    free = max(len(readings) - 2, 1)
    scatter = max(math.sqrt(float(rest @ rest) / free), LEAST_SCATTER)
    spread = scatter / math.sqrt(float(((coats - coats.mean()) ** 2).sum()))
    if not slope > 0:
        raise PlanError("Swatch", "the readings say that paint makes it brighter", "coats and lux in the right rows")
    return Swatch(float(slope), float(spread), float(max(base, 0.0)), _wild(columns, density))


def _wild(columns: Array, density: Array) -> tuple[int, ...]:
    """Readings far from the line through all the others, farthest first; with three only a gross one can be told."""
    n = len(density)
    if n < 4:
        return ()
    found = []
    for i in range(n):
        others = np.arange(n) != i
        if len(set(columns[others, 1].tolist())) < 2:
            continue
        line, *_ = np.linalg.lstsq(columns[others], density[others], rcond=None)
        rest = density[others] - columns[others] @ line
        scatter = max(math.sqrt(float(rest @ rest) / max(n - 3, 1)), LEAST_SCATTER)
        off = abs(float(density[i] - columns[i] @ line))
        if off > WILD * scatter:
            found.append((off / scatter, i))
    # One bad reading spoils the lines of the others: only the worst is named.
    return (max(found)[1],) if found else ()


def simulated_readings(
    density: float, plastic: float, coats: Sequence[int], lamp_lx: float = 3000.0, seed: int = 1
) -> tuple[SwatchReading, ...]:
    """What a phone's meter would read of such a swatch: 3 % of scatter, to whole tenths of a lux.

    Parameters
    ----------
    density : float
        Optical density of a coat.
    plastic : float
        Optical density of the bare swatch.
    coats : Sequence[int]
        Coats of each reading.
    lamp_lx : float
        Illuminance without a swatch, lx.
    seed : int
        Of the scatter.

    Returns
    -------
    tuple[SwatchReading, ...]
        One reading for each number of coats.
    """
    rng = np.random.default_rng(seed)
    out = []
    for n in coats:
        without, behind = (
            max(round(float(v * rng.normal(1.0, 0.03)), 1), 0.1)
            for v in (lamp_lx, lamp_lx * 10.0 ** -(plastic + density * n))
        )
        out.append(SwatchReading(n, without, behind))
    return tuple(out)
