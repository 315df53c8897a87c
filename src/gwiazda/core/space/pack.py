"""Round things packed into a round or rectangular hole: fibres on a lamp's face, wires in a passage.

Equal fibres up to 37 lie as in the best packings known, from a table that ``tools/make_packings.py`` computed; more of them and
mixed ones are pushed apart until nothing overlaps, from a few starts; equal ones lie on a triangular lattice where that has room. Whether it is a real packing is always checked.

Sources
-------
[1] The force-biased relaxation of overlapping discs, as in W. S. Jodrey, E. M. Tory, "Computer simulation of close random
    packing of equal spheres", Phys. Rev. A 32 (1985);
    here the overlaps' squares are brought down by L-BFGS.
[2] S. P. Fekete, P. Keldenich, C. Scheffer, "Packing disks into disks with optimal worst-case density", SoCG 2019.
"""

from __future__ import annotations

import json
import math
from pathlib import Path
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize, memoize_by_value

Array = npt.NDArray[np.float64]
STEPS, STARTS = 400, 6
TOUCH = 1e-3  # of the smallest diameter: overlap that no hand could measure


class Packing(NamedTuple):
    """Centres (N, 2) about the hole's middle, radii (N,), and the deepest overlap of two of them or with the edge."""

    centres: Array
    radii: Array
    overlap_mm: float

    @property
    def fits(self) -> bool:
        """Whether it is a real packing."""
        return not len(self.radii) or self.overlap_mm <= TOUCH * 2.0 * float(self.radii.min())


@memoize(slots=64)
def pack_round(diameters: tuple[float, ...], hole_mm: float, seed: int = 1) -> Packing:
    """Circles of these diameters (mm) in a round hole of ``hole_mm``; with overlaps where they don't go in, or no way is found.

    Parameters
    ----------
    diameters : tuple[float, ...]
        Diameter of each circle, mm.
    hole_mm : float
        Diameter of the hole, mm.
    seed : int
        Of the tries.

    Returns
    -------
    Packing
        Where each lies, mm, and how far they overlap.
    """
    return _packed(np.array(diameters) / 2.0, hole_mm / 2.0, 0.0, seed)


@memoize(slots=64)
def pack_rect(diameters: tuple[float, ...], width_mm: float, height_mm: float, seed: int = 1) -> Packing:
    """Circles of these diameters (mm) in a rectangle.

    Parameters
    ----------
    diameters : tuple[float, ...]
        Diameter of each circle, mm.
    width_mm : float
        Width of the rectangle, mm.
    height_mm : float
        Its height, mm.
    seed : int
        Of the tries.

    Returns
    -------
    Packing
        Where each lies, mm, and how far they overlap.
    """
    return _packed(np.array(diameters) / 2.0, width_mm / 2.0, height_mm / 2.0, seed)


def least_round(diameters: tuple[float, ...], slack: float = 0.01) -> float:
    """The smallest round hole (mm) that a packing was found for, within ``slack`` of itself.

    Parameters
    ----------
    diameters : tuple[float, ...]
        Diameter of each circle, mm.
    slack : float
        How near to the smallest, as a share of it.

    Returns
    -------
    float
        Diameter of the hole, mm.
    """
    if not diameters:
        return 0.0
    area = math.sqrt(sum(d * d for d in diameters))
    two = sum(sorted(diameters)[-2:])
    low, high = max(area, two), max(sum(diameters), two)
    trial = max(low, area / math.sqrt(0.72))
    while trial < high and not pack_round(diameters, trial).fits:
        low, trial = trial, trial * 1.06
    high = min(trial, high)
    while high - low > slack * high:
        middle = (low + high) / 2.0
        if pack_round(diameters, middle).fits:
            high = middle
        else:
            low = middle
    return high


def _start(number: int, radii: Array, half_w: float, half_h: float, rng: np.random.Generator) -> Array:
    """Centres (N, 2) to begin from: a lattice about the middle first, then at random."""
    n = len(radii)
    order = np.argsort(-radii)
    out = np.zeros((n, 2))
    if number < 2:
        out[order] = _rings(n, float(np.sqrt((radii**2).mean())), centred=number == 0)
        return out
    if half_h > 0.0:
        found: Array = (rng.random((n, 2)) - 0.5) * 1.8 * np.array([half_w, half_h])
        return found
    r, turn = np.sqrt(rng.random(n)), rng.random(n) * 2.0 * math.pi
    found = np.column_stack([r * np.cos(turn), r * np.sin(turn)]) * half_w * 0.9
    return found


def _rings(n: int, radius: float, centred: bool) -> Array:
    """The first ``n`` places of a triangular lattice about a place of it, or about the middle of three of them."""
    reach = int(math.sqrt(n)) + 3
    a, b = np.meshgrid(np.arange(-reach, reach + 1), np.arange(-reach, reach + 1))
    places = np.column_stack([(a + b / 2.0).ravel(), (b * math.sqrt(3.0) / 2.0).ravel()]) * 2.0 * radius
    if not centred:
        places = places - np.array([radius, radius / math.sqrt(3.0)])
    found: Array = places[np.argsort((places**2).sum(axis=1), kind="stable")[:n]]
    return found


def _lattice(n: int, radius: float, half_w: float, half_h: float) -> Array | None:
    """Equal circles on a triangular lattice about one of its places or between three, where as many as that have room."""
    for centred in (True, False):
        places = _rings(6 * n + 60, radius * (1.0 + 1e-9), centred)
        if half_h > 0.0:
            inside = (np.abs(places) <= np.maximum(np.array([half_w, half_h]) - radius, 0.0) + 1e-12).all(axis=1)
        else:
            inside = np.hypot(places[:, 0], places[:, 1]) <= half_w - radius + 1e-12
        if int(inside.sum()) >= n:
            found: Array = places[inside][:n]
            return found
    return None


def surely_goes_in(diameters: tuple[float, ...], hole_mm: float) -> bool:
    """Whether circles are sure to go into a round hole: those that fill no more than half of it always do [2].

    Parameters
    ----------
    diameters : tuple[float, ...]
        Diameter of each circle, mm.
    hole_mm : float
        Diameter of the hole, mm.

    Returns
    -------
    bool
        True where they surely do.
    """
    if len(diameters) < 2:
        return not diameters or diameters[0] <= hole_mm * (1.0 + 1e-9)
    return sum(d * d for d in diameters) <= 0.5 * hole_mm**2


@memoize_by_value()
def _tables() -> dict[int, Array]:
    text = (Path(__file__).parent / "data" / "packings.json").read_text(encoding="utf-8")
    return {int(n): np.array(places) for n, places in json.loads(text)["places"].items()}


def known_places(count: int) -> Array | None:
    """Centres (N, 2) of the best packing of ``count`` equal circles of radius 1, or None beyond the table.

    Parameters
    ----------
    count : int
        Number of circles.

    Returns
    -------
    array or None
        Centres (N, 2) in radii of a circle; or None.
    """
    return _tables().get(count)


def _overlap(centres: Array, radii: Array, half_w: float, half_h: float) -> float:
    """The deepest overlap of two of them, or of one with the edge (mm)."""
    if half_h > 0.0:
        edge = float((np.abs(centres) + radii[:, None] - np.array([half_w, half_h])).max())
    else:
        edge = float((np.hypot(centres[:, 0], centres[:, 1]) + radii).max() - half_w)
    if len(radii) > 1:
        i, j = np.triu_indices(len(radii), 1)
        d = centres[i] - centres[j]
        edge = max(edge, float((radii[i] + radii[j] - np.hypot(d[:, 0], d[:, 1])).max()))
    return max(edge, 0.0)


def _packed(radii: Array, half_w: float, half_h: float, seed: int) -> Packing:
    n = len(radii)
    if n == 0:
        return Packing(np.zeros((0, 2)), radii, 0.0)
    alike = half_h <= 0.0 and float(np.ptp(radii)) < 1e-12
    known = known_places(n) if alike else None
    if known is not None:
        centres = known * float(radii[0])
        return Packing(centres, radii, _overlap(centres, radii, half_w, half_h))
    if float(np.ptp(radii)) < 1e-12:
        lattice = _lattice(n, float(radii[0]), half_w, half_h)
        if lattice is not None:
            return Packing(lattice, radii, _overlap(lattice, radii, half_w, half_h))
    rng = np.random.default_rng(seed)
    tolerance = TOUCH * 2.0 * float(radii.min())
    best, best_c = math.inf, np.zeros((n, 2))
    hopeless = float((radii**2).sum()) * math.pi > (4.0 * half_w * half_h if half_h > 0 else math.pi * half_w**2)
    for start in range(1 if hopeless else STARTS):
        c = _relaxed(_start(start, radii, half_w, half_h, rng), radii, half_w, half_h)
        depth = _overlap(c, radii, half_w, half_h)
        if depth < best:
            best, best_c = depth, c
        if best <= tolerance:
            break
    return Packing(best_c, radii, best)


def _relaxed(c: Array, radii: Array, half_w: float, half_h: float) -> Array:
    """Centres after the sum of all squared overlaps has been brought down as far as it goes from there [1]."""
    from scipy.optimize import minimize  # heavy: at its first use

    n = len(radii)
    i, j = np.triu_indices(n, 1)
    touch = (radii[i] + radii[j]) * (1.0 + TOUCH / 4.0)
    room = np.maximum(half_w - radii, 0.0) if half_h <= 0.0 else None
    reach = None if room is not None else np.maximum(np.array([half_w, half_h]) - radii[:, None], 0.0)

    def energy(flat: Array) -> tuple[float, Array]:
        p = flat.reshape(n, 2)
        d = p[i] - p[j]
        far = np.maximum(np.sqrt(d[:, 0] ** 2 + d[:, 1] ** 2), 1e-12)
        deep = np.maximum(touch - far, 0.0)
        pull = d * (-2.0 * deep / far)[:, None]
        slope = np.empty_like(p)
        for a in (0, 1):
            slope[:, a] = np.bincount(i, pull[:, a], n) - np.bincount(j, pull[:, a], n)
        if room is not None:
            out = np.maximum(np.sqrt(p[:, 0] ** 2 + p[:, 1] ** 2), 1e-12)
            over = np.maximum(out - room, 0.0)
            slope += p * (2.0 * over / out)[:, None]
        else:
            over = np.maximum(np.abs(p) - reach, 0.0)
            slope += 2.0 * over * np.sign(p)
        return float((deep**2).sum() + (over**2).sum()), slope.ravel()

    found = minimize(
        energy, c.ravel(), jac=True, method="L-BFGS-B", options={"maxiter": STEPS, "ftol": 1e-14, "gtol": 1e-9}
    )
    end: Array = found.x.reshape(n, 2)
    return end
