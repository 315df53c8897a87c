"""Light in a clear or translucent wall: how far it goes sideways between its painted faces.

A wall of thickness t lies between the cavity and the paint outside, in which a pane is open. Light that enters through bare plastic is
refracted to within the critical angle and reaches only some 0.9 t sideways; what paint throws back, and what a lamp in contact sends in,
fills all angles, is held in by total reflection and goes on from face to face.

Sources
-------
[1] Fresnel's equations, unpolarised; Snell's law. Light entering fills sin θ ≤ 1/n: 41.8° for n 1.5.
[2] Between two parallel diffuse faces the hop is cos⁴θ/(πt²); its two-dimensional transform is kt·K₁(kt) (Gradshteyn & Ryzhik 6.565.4), so
    that all hops are one geometric series.
[3] L. Henyey, J. Greenstein, Astrophys. J. 93 (1941): the phase function of what scatters.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize_by_value

Array = npt.NDArray[np.float64]
Surface = Literal["clear", "frosted"]
Inner = Literal["bare", "painted"]

INDEX = 1.5
CRITICAL = math.asin(1.0 / INDEX)
REACH = math.tan(CRITICAL)  # of what enters through bare plastic, in wall thicknesses
FROSTED = 0.82  # share that a frosted pane lets out, whatever the angle
FARTHEST = 14.0  # wall thicknesses: beyond, nothing is left
PHOTONS, HOPS, SEED = 40_000, 120, 7
LIGHT_OUTSIDE = 0.15  # reflectance of the paint outside: from here on it sends light under the edge of a dab
RADII = 600  # of a kernel's table


class Wall(NamedTuple):
    """A wall between the cavity and the paint outside.

    Thickness (mm), reflectance of its painted inner and outer face, whether the inner one is painted or bare plastic around, what its
    panes are like, and what scatters in it: mean free path (mm, 0 for none), asymmetry g, absorption (per mm).
    """

    thickness_mm: float
    inner: Inner = "bare"
    inner_reflectance: float = 0.04
    outer_reflectance: float = 0.04
    pane: Surface = "clear"
    mfp_mm: float = 0.0
    g: float = 0.0
    absorb_per_mm: float = 0.0


def fresnel(cos_inside: Array | float) -> Array:
    """Share thrown back at the surface, from inside the plastic [1]_; 1 beyond the critical angle.

    Parameters
    ----------
    cos_inside : array or float
        Cosine of the angle to the normal inside the plastic, any shape.

    Returns
    -------
    array
        Share (0 to 1), of that shape.
    """
    c = np.clip(np.asarray(cos_inside, dtype=float), 0.0, 1.0)
    sin2 = INDEX**2 * (1.0 - c**2)
    out = np.sqrt(np.maximum(1.0 - sin2, 0.0))
    s = (INDEX * c - out) / np.maximum(INDEX * c + out, 1e-12)
    p = (c - INDEX * out) / np.maximum(c + INDEX * out, 1e-12)
    return np.asarray(np.where(sin2 >= 1.0, 1.0, (s * s + p * p) / 2.0))


class Kernel(NamedTuple):
    """What leaves a clear or frosted pane per area, at a distance from a point of the inner face.

    (RADII,) per mm² at ``radius`` (mm), for light that falls on bare plastic there (``bare``), or is sent into the wall by paint or a lamp
    in contact (``sent``).
    """

    radius: Array
    bare: Array
    sent: Array

    def at(self, distance_mm: Array, sent: bool = False) -> Array:
        """The kernel at distances (…), 0 beyond its end.

        Parameters
        ----------
        distance_mm : array
            Distances along the wall, mm, any shape.
        sent : bool
            Whether the inner face is painted and sends light in by its paint; else it is bare.

        Returns
        -------
        array
            Light out per area for light in at one place, 1/mm², of that shape.
        """
        return np.asarray(np.interp(distance_mm, self.radius, self.sent if sent else self.bare, right=0.0))


@memoize_by_value(64)
def kernel(wall: Wall) -> Kernel:
    """The spread of light in a wall that doesn't scatter, by closed forms and one series.

    Parameters
    ----------
    wall : Wall
        Thickness, index, absorption and faces of the wall.

    Returns
    -------
    Kernel
        How light that enters at one place leaves around it.

    Raises
    ------
    ValueError
        For one that scatters: see ``traced_share``.
    """
    if wall.mfp_mm > 0.0:
        raise ValueError("a wall that scatters is traced")
    return _clear(wall)


def _radii(wall: Wall) -> Array:
    # Fine where it is steep, coarse far away.
    return np.asarray(wall.thickness_mm * FARTHEST * np.linspace(0.0, 1.0, RADII) ** 2)


def _clear(wall: Wall) -> Kernel:
    t, radius = wall.thickness_mm, _radii(wall)
    cos = t / np.hypot(radius, t)
    hop = cos**4 / (math.pi * t * t)
    kept = np.exp(-wall.absorb_per_mm * np.hypot(radius, t))
    back = fresnel(cos)
    through = 1.0 - back
    entering = INDEX**2 * through * hop * kept  # within the critical angle: beyond it nothing passes
    series = _series(wall)
    if wall.pane == "frosted":
        bare = FROSTED * (entering + _turned(wall, _sampled(wall, entering, radius), series, radius))
        sent = FROSTED * (hop * kept + _turned(wall, _sampled(wall, hop * kept, radius), series, radius))
        return Kernel(radius, bare, sent)
    # A clear pane lets out what comes within the critical angle: straight, or from the painted face across.
    again = 1.0 / (1.0 - np.where(through > 0, back, 0.0) ** 2) if wall.inner == "bare" else 1.0
    out_hop = through * hop * kept
    last = wall.inner_reflectance if wall.inner == "painted" else 0.0
    bare = entering * through * again
    sent = out_hop
    if last > 0.0 and wall.outer_reflectance > 0.0:
        k = _waves(wall)
        across = last * wall.outer_reflectance * _sampled(wall, out_hop, radius) * _hop_wave(k, t)
        bare = bare + _back(k, across * _sampled(wall, entering, radius) * series, radius)
        sent = sent + _back(k, across * _sampled(wall, hop * kept, radius) * series, radius)
    return Kernel(radius, bare, sent)


def _waves(wall: Wall) -> Array:
    return np.asarray(np.linspace(0.0, 30.0 / wall.thickness_mm, 700))


def _hop_wave(k: Array, t: float) -> Array:
    from scipy.special import k1

    x = np.maximum(k * t, 1e-9)
    return np.asarray(x * k1(x))


def _sampled(wall: Wall, f: Array, radius: Array) -> Array:
    """Two-dimensional transform of a radial function, at the waves of a wall."""
    from scipy.special import j0

    weight = np.gradient(radius) * 2.0 * math.pi * radius
    return np.asarray(j0(np.outer(_waves(wall), radius)) @ (weight * f))


def _back(k: Array, wave: Array, radius: Array) -> Array:
    """The radial function of a transform."""
    from scipy.special import j0

    weight = np.gradient(k) * k / (2.0 * math.pi)
    return np.asarray(np.maximum(j0(np.outer(radius, k)) @ (weight * wave), 0.0))


def _series(wall: Wall) -> Array:
    """All hops after the first, as one factor of the outer face's light: 1/(1 − ρo·R), R the way to the inner face and back [2]_."""
    return np.asarray(1.0 / (1.0 - wall.outer_reflectance * _return(wall)))


def _return(wall: Wall) -> Array:
    """What comes back to the outer face of what it throws: off paint across, or totally reflected by bare plastic."""
    k, t = _waves(wall), wall.thickness_mm
    if wall.inner == "painted":
        return np.asarray(wall.inner_reflectance * _hop_wave(k, t) ** 2 * math.exp(-2.0 * wall.absorb_per_mm * t))
    radius = _radii(wall._replace(thickness_mm=2.0 * t))
    cos = 2.0 * t / np.hypot(radius, 2.0 * t)
    held = fresnel(cos) * cos**4 / (math.pi * (2.0 * t) ** 2) * np.exp(-wall.absorb_per_mm * np.hypot(radius, 2.0 * t))
    return _sampled(wall, held, radius)


def _turned(wall: Wall, first: Array, series: Array, radius: Array) -> Array:
    """Light on the outer face after the first arrival there, as a radial function."""
    return _back(_waves(wall), first * (series - 1.0), radius)


def traced_share(wall: Wall, pane: Array, bare: Shape, opening: Shape | None = None) -> float:
    """Share of the diffuse light on the inner face that a pane's points (P, 2) let out, traced backwards from a seed.

    For walls that scatter, and to check the closed forms with. Light goes both ways alike, so what falls on the pane from outside and leaves through ``bare`` plastic is what comes the other way; a
    frosted pane sends into all angles of the denser plastic, which counts n² times. ``opening``: where the pane is, on which no
    paint throws back what comes to it.

    Parameters
    ----------
    wall : Wall
        Thickness, index, absorption, scatter and faces of the wall.
    pane : array
        Points of the pane (P, 2), mm.
    bare : Shape
        Which places of the inner face are bare plastic.
    opening : Shape or None
        Where the pane is.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    rng = np.random.default_rng(SEED)
    n, t = PHOTONS * (4 if wall.mfp_mm > 0.0 else 1), wall.thickness_mm
    start = pane[rng.integers(0, len(pane), n)]
    place = np.column_stack([start, np.full(n, t)])
    weight = np.full(n, 1.0 / n)
    u, angle = rng.random(n), 2.0 * math.pi * rng.random(n)
    if wall.pane == "frosted":
        cos = np.sqrt(1.0 - u)
        weight *= FROSTED * INDEX**2
    else:
        cos = np.sqrt(1.0 - u / INDEX**2)
        weight *= 1.0 - fresnel(cos)
    sin = np.sqrt(np.maximum(1.0 - cos**2, 0.0))
    way = np.column_stack([sin * np.cos(angle), sin * np.sin(angle), -cos])
    least, out = 1e-4 * float(weight.max()), 0.0
    for _ in range(HOPS):
        free = rng.exponential(wall.mfp_mm, len(weight)) if wall.mfp_mm > 0.0 else np.full(len(weight), np.inf)
        down = way[:, 2]
        to_face = np.where(
            down > 0, (t - place[:, 2]) / np.maximum(down, 1e-12), place[:, 2] / np.maximum(-down, 1e-12)
        )
        hits = to_face <= free
        step = np.where(hits, to_face, free)
        place = place + way * step[:, None]
        place[:, 2] = np.clip(place[:, 2], 0.0, t)
        weight = weight * np.exp(-wall.absorb_per_mm * step)
        new = _scattered(way, wall.g, rng)
        outer, inner = hits & (down > 0), hits & (down <= 0)
        diffuse = _diffuse(len(weight), rng)
        new[outer] = diffuse[outer] * np.array([1.0, 1.0, -1.0])
        there = outer & opening(place[:, 0], place[:, 1]) if opening is not None else np.zeros(len(outer), dtype=bool)
        weight[outer & ~there] *= wall.outer_reflectance
        if wall.pane == "frosted":
            weight[there] *= 1.0 - FROSTED
        else:
            weight[there] *= fresnel(down)[there]
            new[there] = way[there] * np.array([1.0, 1.0, -1.0])
        free_here = inner & bare(place[:, 0], place[:, 1])
        back = fresnel(np.abs(down))
        out += float((weight * (1.0 - back))[free_here].sum())
        new[free_here] = way[free_here] * np.array([1.0, 1.0, -1.0])
        weight[free_here] *= back[free_here]
        painted = inner & ~free_here
        new[painted] = diffuse[painted]
        weight[painted] *= wall.inner_reflectance
        alive = weight > least
        place, way, weight = place[alive], new[alive], weight[alive]
        if not len(weight):
            break
    return out


def _diffuse(n: int, rng: np.random.Generator) -> Array:
    u, angle = rng.random(n), 2.0 * math.pi * rng.random(n)
    return np.column_stack([np.sqrt(u) * np.cos(angle), np.sqrt(u) * np.sin(angle), np.sqrt(1.0 - u)])


def _scattered(way: Array, g: float, rng: np.random.Generator) -> Array:
    """Directions (n, 3) after one scattering each [3]_."""
    n = len(way)
    u = rng.random(n)
    cos = 1.0 - 2.0 * u if abs(g) < 1e-3 else (1.0 + g * g - ((1.0 - g * g) / (1.0 - g + 2.0 * g * u)) ** 2) / (2.0 * g)
    sin = np.sqrt(np.maximum(1.0 - cos**2, 0.0))
    angle = 2.0 * math.pi * rng.random(n)
    x, y, z = way.T
    flat = np.abs(z) > 0.999
    across = np.sqrt(np.maximum(1.0 - z**2, 1e-12))
    a = np.column_stack([np.where(flat, 1.0, -y / across), np.where(flat, 0.0, x / across), np.zeros(n)])
    b = np.cross(way, a)
    return np.asarray(sin[:, None] * (np.cos(angle)[:, None] * a + np.sin(angle)[:, None] * b) + cos[:, None] * way)


# -- shapes -----------------------------------------------------------------------------------------------


def total(k: Kernel, sent: bool = False) -> float:
    """Share that leaves an endless pane: all of a kernel.

    Parameters
    ----------
    k : Kernel
        The kernel of the wall.
    sent : bool
        Whether the inner face sends light in by its paint.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    f = k.sent if sent else k.bare
    return float(np.trapezoid(f * 2.0 * math.pi * k.radius, k.radius))


PANE_POINTS, AROUND_POINTS = 300, 5000
FAR = 6.0  # wall thicknesses about a pane that are looked at where light goes farther than REACH

Around = tuple[float, float, float, float]  # left, right, low, high
Shape = Callable[[Array, Array], npt.NDArray[np.bool_]]


def disc(x: float, y: float, radius: float) -> Shape:
    """Which points (…) lie in a disc, mm.

    Parameters
    ----------
    x : float
        Middle of the disc, mm.
    y : float
        Middle of the disc, mm.
    radius : float
        Its radius, mm.

    Returns
    -------
    Shape
        A test for points (…), mm.
    """
    return lambda u, v: np.asarray(np.hypot(u - x, v - y) <= radius)


def rectangle(x: float, y: float, width: float, height: float) -> Shape:
    """Which points (…) lie in a rectangle about a place, mm.

    Parameters
    ----------
    x : float
        Middle of the rectangle, mm.
    y : float
        Middle of the rectangle, mm.
    width : float
        Its width, mm.
    height : float
        Its height, mm.

    Returns
    -------
    Shape
        A test for points (…), mm.
    """
    return lambda u, v: np.asarray((np.abs(u - x) <= width / 2) & (np.abs(v - y) <= height / 2))


def points_in(shape: Shape, box: Around, most: int = 4000) -> tuple[Array, float]:
    """Points (N, 2) of an even grid within a shape, and the area (mm²) that each stands for; ``box``: left, right, low, high.

    Parameters
    ----------
    shape : Shape
        The shape to fill.
    box : Around
        Left, right, low and high end of where it lies, mm.
    most : int
        About how many points.

    Returns
    -------
    tuple[array, float]
        Points (N, 2), mm, and the area of each, mm².
    """
    left, right, low, high = box
    step = max(math.sqrt((right - left) * (high - low) / most), 1e-9)
    across, along = max(round((right - left) / step), 1), max(round((high - low) / step), 1)
    u = left + (np.arange(across) + 0.5) * (right - left) / across
    v = low + (np.arange(along) + 0.5) * (high - low) / along
    gu, gv = (g.ravel() for g in np.meshgrid(u, v))
    inside = shape(gu, gv)
    return np.column_stack([gu[inside], gv[inside]]), (right - left) * (high - low) / (across * along)


def shared(k: Kernel, pane: Array, source: Array, cell_mm2: float, sent: bool = False) -> float:
    """Light that leaves a pane's points (P, 2) per area, for 1 per area on the points (Q, 2) of the inner face, each of ``cell_mm2``.

    Parameters
    ----------
    k : Kernel
        The kernel of the wall.
    pane : array
        Points of the pane (P, 2), mm.
    source : array
        Points of the inner face that light enters at (Q, 2), mm.
    cell_mm2 : float
        Area of each of them, mm².
    sent : bool
        Whether the inner face sends light in by its paint.

    Returns
    -------
    float
        Light out per area (P,), for 1 per area in.
    """
    if not len(pane) or not len(source):
        return 0.0
    away = np.hypot(pane[:, None, 0] - source[None, :, 0], pane[:, None, 1] - source[None, :, 1])
    return float(k.at(away, sent).sum() * cell_mm2 / len(pane))


def dab_share(wall: Wall, pane: Shape, pane_box: Around, dab: Shape, sent: bool = False) -> float:
    """Share of the light on the inner face that a pane lets out though a dab of black lies behind it: what comes round its edge.

    ``sent``: where that face is painted and lets the light in by its paint, else it is bare. Between dab and pane the wall is black on its
    inner side.

    Parameters
    ----------
    wall : Wall
        Thickness, index, absorption and faces of the wall.
    pane : Shape
        Which places are pane.
    pane_box : Around
        Left, right, low and high end of the pane, mm.
    dab : Shape
        Which places of the inner face are black.
    sent : bool
        Whether the rest of that face sends light in by its paint.

    Returns
    -------
    float
        Share, 0 to 1.
    """
    inside, _ = points_in(pane, pane_box, PANE_POINTS)
    if wall.mfp_mm > 0.0 or (not sent and (wall.outer_reflectance > LIGHT_OUTSIDE or wall.pane == "frosted")):
        # What paint outside throws back goes on under the dab's edge, and the dab stops what is held in the wall: no kernel
        # knows of its shape.
        return traced_share(wall, inside, lambda u, v: np.asarray(~dab(u, v)), pane)
    k = kernel(wall)
    straight = not sent and wall.pane == "clear"
    reach = (REACH if straight else FAR) * wall.thickness_mm
    around = (pane_box[0] - reach, pane_box[1] + reach, pane_box[2] - reach, pane_box[3] + reach)

    def open_(u: Array, v: Array) -> npt.NDArray[np.bool_]:
        return np.asarray(~dab(u, v))

    points, cell = points_in(open_, around, AROUND_POINTS)
    return shared(k, inside, points, cell, sent)
