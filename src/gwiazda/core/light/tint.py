"""Clear colours on a lamp's tip: transmission by wavelength."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from gwiazda.core.light.colour import observer

Array = npt.NDArray[np.float64]

# House values of one coat of clear colour: edges in nm (pass above the first, below the second), 12 nm soft.
EDGES: dict[str, tuple[float, float]] = {
    "red": (600.0, 900.0), "orange": (570.0, 900.0), "yellow": (515.0, 900.0), "green": (490.0, 570.0), "blue": (300.0, 490.0),
}  # fmt: skip
SOFT_NM, PEAK, FLOOR = 12.0, 0.90, 0.01


def transmission(tint: str) -> Array:
    """Transmission (81,) of one coat of a tint; ones for no tint. Raises KeyError for one that isn't known."""
    wavelength, _ = observer()
    if not tint:
        return np.ones_like(wavelength)
    low, high = EDGES[tint]
    passed = 1.0 / (1.0 + np.exp(-(wavelength - low) / SOFT_NM)) / (1.0 + np.exp((wavelength - high) / SOFT_NM))
    return np.asarray(FLOOR + (PEAK - FLOOR) * passed)
