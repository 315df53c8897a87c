"""How many fibres go onto a lamp's round face.

Sources
-------
[1] R. L. Graham, B. D. Lubachevsky, K. J. Nurmela, P. R. J. Östergård, "Dense packings of congruent circles in a circle",
    Discrete Math. 181 (1998): least ratio of diameters for so many circles.
"""

from __future__ import annotations

from bisect import bisect_right

import numpy as np

# Least D/d for 1, 2, 3 … fibres of d inside a face of D [1].
RATIOS = (
    1.0, 2.0, 2.155, 2.414, 2.701, 3.0, 3.0, 3.305, 3.613, 3.813, 3.924, 4.030, 4.236, 4.328, 4.521, 4.615, 4.792, 4.864, 4.864,
    5.123, 5.253, 5.440, 5.546, 5.652, 5.753, 5.829, 5.907, 6.015, 6.139, 6.198, 6.292, 6.430, 6.487, 6.611, 6.698, 6.747, 6.759,
)  # fmt: skip
# Of the face filled at best beyond the table: as 50, 61, 91 and 100 circles do, .81 from 61 on.
FILLED = ((38, 0.78), (50, 0.79), (61, 0.813), (91, 0.8145), (100, 0.8145))
BY_HAND = 0.9  # of the most that geometry allows


def most_fibres(face_mm: float, fibre_mm: float) -> int:
    """The most fibres of ``fibre_mm`` that fit a round face of ``face_mm`` (mm), by geometry.

    Parameters
    ----------
    face_mm : float
        Diameter of the face, mm.
    fibre_mm : float
        Outer diameter of a fibre, mm.

    Returns
    -------
    int
        Number of fibres.

    Raises
    ------
    ValueError
        For sizes that are not above zero.
    """
    if face_mm <= 0 or fibre_mm <= 0:
        raise ValueError("a face and a fibre have sizes above zero")
    ratio = face_mm / fibre_mm
    within = bisect_right(RATIOS, ratio * (1.0 + 1e-9))
    if within < len(RATIOS):
        return within
    count = within
    while bundle_mm(count + 1, fibre_mm) <= face_mm * (1.0 + 1e-9):
        count += 1
    return count


def filled(count: int) -> float:
    """Share of a round that so many circles fill at best, beyond the table.

    Parameters
    ----------
    count : int
        Number of circles.

    Returns
    -------
    float
        Share of the area, 0 to 1.
    """
    counts, shares = zip(*FILLED, strict=True)
    return float(np.interp(float(count), counts, shares))


def fibres_by_hand(face_mm: float, fibre_mm: float) -> int:
    """How many a hand bundles onto it: nine tenths of the most from three on, for a bundle is never quite round.

    Parameters
    ----------
    face_mm : float
        Diameter of the face, mm.
    fibre_mm : float
        Outer diameter of a fibre, mm.

    Returns
    -------
    int
        Number of fibres.
    """
    most = most_fibres(face_mm, fibre_mm)
    return most if most < 3 else max(2, int(BY_HAND * most))


def bundle_mm(count: int, fibre_mm: float) -> float:
    """Diameter (mm) of the smallest round bundle of so many fibres; 0 for none.

    Parameters
    ----------
    count : int
        Number of fibres.
    fibre_mm : float
        Outer diameter of a fibre, mm.

    Returns
    -------
    float
        Diameter, mm.
    """
    if count <= 0:
        return 0.0
    if count <= len(RATIOS):
        return RATIOS[count - 1] * fibre_mm
    return float(max((count / filled(count)) ** 0.5, RATIOS[-1])) * fibre_mm
