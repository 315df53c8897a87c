"""Recipes for a wanted colour: which lamp behind which coats of clear colour comes nearest to it.

Sources
-------
[1] CIE 015:2018: the uniform chromaticity scale u′v′ (1976); 0.005 apart is about what the eye can tell.
"""

from __future__ import annotations

import itertools
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.colour.colour import XYZ_TO_SRGB, linear_srgb, spectrum_of, xyz
from gwiazda.core.colour.tint import EDGES, transmission

Array = npt.NDArray[np.float64]

MOST_COATS = 3
DIM_COST = 0.01  # of chromaticity for every halving of the light: of two recipes alike, the brighter


class Recipe(NamedTuple):
    """A lamp's colour and coats of clear colour; ``apart`` in u′v′ from what is wanted, light kept, linear sRGB."""

    lamp: str
    tints: tuple[tuple[str, int], ...]
    apart: float
    kept: float
    rgb: tuple[float, float, float]


def uv_of(found: Array) -> Array:
    """u′v′ (…, 2) of XYZ (…, 3) [1]_.

    Parameters
    ----------
    found : array
        X, Y, Z (…, 3), any unit.

    Returns
    -------
    array
        u′, v′ (…, 2).
    """
    x, y, z = found[..., 0], found[..., 1], found[..., 2]
    total = np.maximum(x + 15.0 * y + 3.0 * z, 1e-12)
    return np.stack([4.0 * x / total, 9.0 * y / total], axis=-1)


def uv_of_rgb(rgb: tuple[float, float, float]) -> Array:
    """u′v′ (2,) of linear sRGB.

    Parameters
    ----------
    rgb : tuple[float, float, float]
        Linear sRGB.

    Returns
    -------
    array
        u′, v′ (2,).
    """
    return uv_of(np.linalg.solve(XYZ_TO_SRGB, np.array(rgb, dtype=float)))


def _coatings() -> tuple[tuple[tuple[str, int], ...], ...]:
    """Bare, one colour, or two, each with one to three coats."""
    single = [((name, n),) for name in EDGES for n in range(1, MOST_COATS + 1)]
    pairs = [
        ((a, i), (b, j))
        for a, b in itertools.combinations(EDGES, 2)
        for i in range(1, MOST_COATS + 1)
        for j in range(1, MOST_COATS + 1)
    ]
    return ((), *single, *pairs)


def nearest(
    wanted_rgb: tuple[float, float, float], lamps: Mapping[str, Mapping[str, float]], count: int = 3
) -> tuple[Recipe, ...]:
    """The recipes nearest to a colour (linear sRGB), the best of each lamp, brighter ones first where they are alike.

    ``lamps``: spectra by lamp colour, as the catalogue has them.

    Parameters
    ----------
    wanted_rgb : tuple[float, float, float]
        Linear sRGB of the colour wanted.
    lamps : Mapping[str, Mapping[str, float]]
        ``peak_nm`` and ``width_nm``, or ``cct_k``, by lamp colour.
    count : int
        How many at the most.

    Returns
    -------
    tuple[Recipe, ...]
        The recipes.
    """
    target = uv_of_rgb(wanted_rgb)
    coatings = _coatings()
    passed = np.array([np.prod([transmission(n) ** k for n, k in c], axis=0) if c else np.ones(81) for c in coatings])
    best: list[tuple[float, Recipe]] = []
    for lamp, parameters in lamps.items():
        spectrum = spectrum_of(parameters)
        behind = passed * spectrum
        found = np.array([xyz(s) for s in behind])
        kept = found[:, 1] / float(xyz(spectrum)[1])
        apart = np.linalg.norm(uv_of(found) - target, axis=1)
        cost = apart + DIM_COST * np.log2(1.0 / np.maximum(kept, 1e-6)) + 0.001 * np.array([len(c) for c in coatings])
        i = int(cost.argmin())
        recipe = Recipe(lamp, coatings[i], float(apart[i]), float(kept[i]), linear_srgb(behind[i]))
        best.append((float(cost[i]), recipe))
    return tuple(recipe for _, recipe in sorted(best, key=lambda b: b[0])[:count])
