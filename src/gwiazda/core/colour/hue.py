"""The colour of plastics: what a wall makes of the spectrum that goes through it.

Sources
-------
[1] Bouguer's law: optical density at each wavelength is in proportion to the thickness.
[2] P. Kubelka, F. Munk (1931), see ``scatter``, at each wavelength by itself.

The catalogue gives densities for white light. A colour spreads the same density over the wavelengths: the figures for white stay what they are.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.colour.colour import white, xyz
from gwiazda.core.colour.tint import transmission
from gwiazda.core.light.scatter import kubelka_munk
from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]
REFERENCE_K = 3000.0  # the white light that the catalogue's figures are for
LEAST_SHARE = 0.02  # of the mean absorption that is left where the colour passes best


class Wall(NamedTuple):
    """A wall of a coloured plastic.

    Density a mm where it absorbs, or S and K a mm where it scatters; ``colour`` is a tint's name, ``strength`` 0 (grey) to 1; how thick, mm.
    """

    density_per_mm: float
    scatter_per_mm: float
    absorb_per_mm: float
    colour: str
    strength: float
    thick_mm: float


def absorbs(colour: str, strength: float) -> Array:
    """How much of a mean absorption falls on each wavelength (81,): 1 throughout for a grey, more outside of its colour.

    Parameters
    ----------
    colour : str
        Name of a tint; empty for a grey.
    strength : float
        0 (grey) to 1 (the tint's own colour).

    Returns
    -------
    array
        Factor on the mean absorption (81,).
    """
    if not colour or strength <= 0.0:
        return np.ones(81)
    passed = transmission(colour)
    lost = -np.log10(passed / float(passed.max()))
    lost = lost / float(lost.mean())
    return np.asarray(np.maximum((1.0 - strength) + strength * lost, LEAST_SHARE))


def _through(wall: Wall, amount: float) -> Array:
    """Transmission (81,) with the absorption spread over the wavelengths, ``amount`` times the mean."""
    share = absorbs(wall.colour, wall.strength) * amount
    if wall.scatter_per_mm > 0.0:
        return np.array([kubelka_munk(wall.scatter_per_mm, wall.absorb_per_mm * k, wall.thick_mm)[0] for k in share])
    return np.asarray(10.0 ** (-wall.density_per_mm * wall.thick_mm * share))


@memoize_by_value(256)
def _filter(wall: Wall) -> tuple[float, ...]:
    spectrum = white(REFERENCE_K)
    whole = float(xyz(spectrum)[1])

    def kept(amount: float) -> float:
        return float(xyz(spectrum * _through(wall, amount))[1]) / whole

    plain = _through(wall._replace(strength=0.0), 1.0)
    wanted = float(plain[0])
    low, high = 0.0, 1.0
    while kept(high) > wanted and high < 1e3:
        high *= 2.0
    for _ in range(50):
        middle = (low + high) / 2.0
        low, high = (middle, high) if kept(middle) > wanted else (low, middle)
    found = _through(wall, (low + high) / 2.0)
    return tuple((found / max(wanted, 1e-30)).tolist())


def filter_of(wall: Wall) -> Array:
    """What a wall does to a spectrum beside dimming it: (81,).

    Its transmission over that of a grey of the same figure for white light (``REFERENCE_K``): white keeps its light, other colours gain
    or lose.

    Parameters
    ----------
    wall : Wall
        Its absorption or scatter, colour and thickness.

    Returns
    -------
    array
        Factor on a spectrum (81,).
    """
    if not wall.colour or wall.strength <= 0.0 or wall.thick_mm <= 0.0:
        return np.ones(81)
    return np.array(_filter(wall))
