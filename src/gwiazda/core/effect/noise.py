"""Numbers that look random and are the same for the same seed, place and moment: no state, any order, any length."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
_STEP = np.uint64(0x9E3779B97F4A7C15)
_M1, _M2 = np.uint64(0xBF58476D1CE4E5B9), np.uint64(0x94D049BB133111EB)


def _mix(x: npt.NDArray[np.uint64]) -> npt.NDArray[np.uint64]:
    """One round of SplitMix64 [1]_: each bit of what comes out depends on each that goes in.

    References
    ----------
    .. [1] G. Steele, D. Lea, C. Flood, "Fast splittable pseudorandom number generators", OOPSLA 2014.
    """
    with np.errstate(over="ignore"):
        x = x + _STEP
        x = (x ^ (x >> np.uint64(30))) * _M1
        x = (x ^ (x >> np.uint64(27))) * _M2
    mixed: npt.NDArray[np.uint64] = x ^ (x >> np.uint64(31))
    return mixed


def uniform(seed: int, where: npt.ArrayLike, when: npt.ArrayLike) -> Array:
    """Uniform numbers in [0, 1) for whole numbers ``where`` and ``when`` (broadcast against each other).

    Parameters
    ----------
    seed : int
        Of the sequence.
    where : array or float
        Whole numbers, any shape.
    when : array or float
        Whole numbers, broadcast against them.

    Returns
    -------
    array
        Numbers in [0, 1), of the shape they broadcast to.
    """
    place = np.asarray(where, np.int64).view(np.uint64) if np.ndim(where) else np.array(where, np.int64).view(np.uint64)
    moment = np.asarray(when).astype(np.int64).view(np.uint64)
    mixed = _mix(_mix(_mix(np.array(seed, np.int64).view(np.uint64)) ^ place) ^ moment)
    return np.asarray((mixed >> np.uint64(11)).astype(np.float64) * 2.0**-53)
