"""What of an inside can be seen through an opening, and where the light of a lamp lands: straight lines in a box.

Everything in mm; boxes are axis-parallel. A sight line from the eye passes through the opening's rectangle in its wall
and ends on the first inner face, unless a lip (a box) stands in its way.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
Mask = npt.NDArray[np.bool_]
Solid = tuple[Array, Array]  # a box that light can't pass: its lowest and highest corner (3,), mm


class Gate(NamedTuple):
    """An opening in a wall: the axis the wall stands across, where along it, the opening's lowest and highest corner (3,), mm."""

    axis: int
    wall: float
    low: Array
    high: Array


def through_opening(eye: Array, points: Array, gate: Gate) -> Mask:
    """Whether the line from the eye to each point passes the opening. Points on the eye's side of the wall are not seen through it.

    Parameters
    ----------
    eye : array
        Where the eye is (3,), mm.
    points : array
        What is looked at (N, 3), mm.
    gate : Gate
        The opening.

    Returns
    -------
    array of bool
        True for the points (N,) that are seen.
    """
    axis, wall, low, high = gate
    span = points[:, axis] - eye[axis]
    with np.errstate(divide="ignore", invalid="ignore"):
        t = (wall - eye[axis]) / span
    crossing = eye + np.nan_to_num(t)[:, None] * (points - eye)
    others = [i for i in range(3) if i != axis]
    inside = np.all((crossing[:, others] >= low[others]) & (crossing[:, others] <= high[others]), axis=1)
    return np.asarray(inside & (t > 0) & (t < 1 - 1e-9))


def blocked(start: Array, ends: Array, box_low: Array, box_high: Array) -> Mask:
    """Whether a box stands between ``start`` (3,) and each of ``ends`` (N, 3): the slab test.

    Parameters
    ----------
    start : array
        One end of all lines (3,), mm.
    ends : array
        Their other ends (N, 3), mm.
    box_low : array
        Low corner of the box (3,), mm.
    box_high : array
        High corner of the box (3,), mm.

    Returns
    -------
    array of bool
        True for the lines (N,) that the box cuts.
    """
    d = ends - start
    with np.errstate(divide="ignore", invalid="ignore"):
        a = (box_low - start) / d
        b = (box_high - start) / d
    enter = np.fmax.reduce(np.fmin(a, b), axis=1)
    leave = np.fmin.reduce(np.fmax(a, b), axis=1)
    # A line that runs level with a slab outside of it never enters.
    miss = np.any((np.abs(d) < 1e-12) & ((start < box_low) | (start > box_high)), axis=1)
    return np.asarray(~miss & (enter < leave) & (leave > 1e-9) & (enter < 1 - 1e-9))


def seen_share(eye: Array, box_low: Array, box_high: Array, gate: Gate, steps: int = 32) -> float:
    """Share (0 to 1) of a box's inner faces, by area, that the eye sees through an opening in one of its walls.

    A bundle of ``steps``² rays is sent through the opening; each stands for the area dA = dω·r²/cos θ it lands on.
    The opening's own wall is not counted. Converges as 1/steps² (error below 2 % of the result at 32).

    Parameters
    ----------
    eye : array
        Where the eye is (3,), mm.
    box_low : array
        Low corner of the inside (3,), mm.
    box_high : array
        High corner of the inside (3,), mm.
    gate : Gate
        The opening.
    steps : int
        Rays along each side of the opening.

    Returns
    -------
    float
        Share of the inner area, 0 to 1.
    """
    axis, wall, low, high = gate
    others = [i for i in range(3) if i != axis]
    u, v = others
    t = (np.arange(steps) + 0.5) / steps
    a, b = np.meshgrid(low[u] + t * (high[u] - low[u]), low[v] + t * (high[v] - low[v]), indexing="ij")
    crossed = np.empty((steps * steps, 3))
    crossed[:, axis], crossed[:, u], crossed[:, v] = wall, a.ravel(), b.ravel()
    ray = crossed - eye
    inward = 1.0 if wall < (box_low[axis] + box_high[axis]) / 2 else -1.0
    if ray[0, axis] * inward <= 0:
        return 0.0
    near = np.linalg.norm(ray, axis=1)
    unit = ray / near[:, None]
    cell = (high[u] - low[u]) * (high[v] - low[v]) / steps**2
    solid = cell * np.abs(unit[:, axis]) / near**2
    with np.errstate(divide="ignore", invalid="ignore"):
        reach = np.where(unit > 0, (box_high - eye) / unit, np.where(unit < 0, (box_low - eye) / unit, np.inf))
    face = np.argmin(reach, axis=1)
    far = reach[np.arange(len(face)), face]
    good = np.isfinite(far) & (far >= near - 1e-9)
    cosine = np.abs(unit[np.arange(len(face)), face])
    area = np.where(good, solid * far**2 / np.maximum(cosine, 1e-9), 0.0)
    size = box_high - box_low
    total = 2.0 * (size[0] * size[1] + size[1] * size[2] + size[2] * size[0]) - size[u] * size[v]
    return float(min(area.sum() / total, 1.0)) if total > 0 else 0.0


def hit_inside(start: Array, away: Array, box_low: Array, box_high: Array) -> tuple[Array, npt.NDArray[np.intp]]:
    """Where lines that start in a box or on its faces (N, 3) end on its inside.

    Parameters
    ----------
    start : array
        Where the lines start (N, 3), mm.
    away : array
        Their directions (N, 3), any length.
    box_low : array
        Low corner of the box (3,), mm.
    box_high : array
        High corner of the box (3,), mm.

    Returns
    -------
    The places (N, 3), and the faces (N,): 0 to 5 for the low and the high end of x, y and z; −1 for a line that leads out where it starts.
    """
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        reach = np.where(away > 0, (box_high - start) / away, np.where(away < 0, (box_low - start) / away, np.inf))
    axis = reach.argmin(axis=1)
    n = np.arange(len(start))
    far = reach[n, axis]
    face = np.where(far > 1e-9, 2 * axis + (away[n, axis] > 0), -1)
    return np.clip(start + np.where(np.isfinite(far), far, 0.0)[:, None] * away, box_low, box_high), face.astype(
        np.intp
    )


def throw(
    lamp: Array,
    aim: Array,
    order: float,
    axial_cd: float,
    target: Array,
    normal: Array,
    lips: tuple[tuple[Array, Array], ...] = (),
) -> Array:
    """Illuminance (lx) on target points (N, 3) of a lamp past its lips (boxes); zero in their shadow. Bounce not counted.

    Parameters
    ----------
    lamp : array
        Where the lamp is (3,), mm.
    aim : array
        Its axis (3,), of length 1.
    order : float
        Exponent m of its beam cosᵐ; below zero for all round.
    axial_cd : float
        Intensity on the axis, cd.
    target : array
        Points that are lit (N, 3), mm.
    normal : array
        Which way their surface looks (3,), of length 1.
    lips : tuple[tuple[array, array], ...]
        Low and high corners (3,) of each box in the way, mm.

    Returns
    -------
    array
        Illuminance (N,), lx.
    """
    from gwiazda.core.light.photometry import illuminance_lx

    lux = illuminance_lx(axial_cd, order, lamp, aim, target, normal)
    for lip_low, lip_high in lips:
        lux = np.where(blocked(lamp, target, lip_low, lip_high), 0.0, lux)
    return lux
