"""Fuses by their standard values.

Sources
-------
[1] IEC 60127, rated currents of miniature fuses.
"""

from __future__ import annotations

FUSES = (
    0.05, 0.063, 0.08, 0.1, 0.125, 0.16, 0.2, 0.25, 0.315, 0.4, 0.5, 0.63, 0.8, 1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0,
)  # fmt: skip
FUSE_OVER = 1.5  # times the running current


def fuse_for(running_a: float) -> float:
    """The next standard value above half as much again as runs all the time.

    Parameters
    ----------
    running_a : float
        Current, A.

    Returns
    -------
    float
        Rated current of the fuse, A; the largest there is where none is large enough [1].
    """
    return next((f for f in FUSES if f >= FUSE_OVER * running_a), FUSES[-1])
