"""Direct light of lamps in an enclosure: on its cells, on points of its windows, and what the first bounce adds to these.

Sources
-------
[1] M. Cohen, J. Wallace, Radiosity and Realistic Image Synthesis (1993): the source is sampled where its light has edges.
"""

from __future__ import annotations

import itertools

import numpy as np
import numpy.typing as npt

from gwiazda.core.radiosity.beams import OFF_WALL_MM, Beams, illuminance, lux_of, within
from gwiazda.core.radiosity.enclosure import Enclosure, bounced
from gwiazda.core.radiosity.formfactors import in_plane
from gwiazda.core.radiosity.shadow import blocked, spread_points
from gwiazda.core.radiosity.shape import points_of

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]
NEAR = 1.4  # a cell nearer to a lamp than this many of its sizes is summed over many points of it
MOST_POINTS, POINTS, MOST_AT_ONCE = 16, (1, 2, 4, 8, 16), 100_000
SAMPLES = 6  # points a side of a window, for direct light, with nothing between


def direct_cells(box: Enclosure, beams: Beams) -> Array:
    """Mean direct illuminance (lx) of every cell for 1 lm of each lamp: (N, L).

    Cells near a lamp are summed over many points. Together they get all of its light, exactly.

    Parameters
    ----------
    box : Enclosure
        The box cut into N cells.
    beams : Beams
        L lamps in it.

    Returns
    -------
    array
        Illuminance (N, L), lx for 1 lm.
    """
    beams = within(beams, box.size)
    if not len(beams.order):
        return np.zeros((len(box.area), 0))
    lux = illuminance(box.centre, box.normal, beams, box.baffles)
    # Points a side: as many as leave each point's share of the cell well smaller than its distance from the lamp.
    apart = np.abs(box.centre[:, None] - beams.at[None]) - box.half[:, None]
    gap = np.linalg.norm(np.maximum(apart, 0.0), axis=2)
    fine = np.ceil(2.0 * NEAR * box.half.max(axis=1)[:, None] / np.maximum(gap, OFF_WALL_MM))
    fine = np.clip(
        fine * np.where(beams.order > 8.0, 2.0, 1.0), box.sampling.near if box.baffles else 1, MOST_POINTS
    ).astype(int)
    for low, steps in itertools.pairwise(POINTS):
        cells, lamps = np.nonzero((fine > low) & (fine <= steps))
        chunk = max(MOST_AT_ONCE // (steps * steps), 1)
        for i in range(0, len(cells), chunk):
            some, few = cells[i : i + chunk], lamps[i : i + chunk]
            lux[some, few] = _mean_over(box, some, few, beams, steps)
    total = box.area @ lux * 1e-6
    return lux / np.where(total > 0.0, total, 1.0)


def _mean_over(
    box: Enclosure, cells: npt.NDArray[np.intp], lamps: npt.NDArray[np.intp], beams: Beams, steps: int
) -> Array:
    """Mean over steps × steps points of some cells, each for its own lamp: (pairs,)."""
    if box.baffles:
        # The edge of a shadow runs along the rows of a grid: points in no rows tell a narrow strip from none.
        u, v = spread_points(np.arange(steps * steps), 0.5)
    else:
        share = (np.arange(steps) + 0.5) / steps * 2.0 - 1.0
        u, v = (s.ravel() for s in np.meshgrid(share, share, indexing="ij"))
    normal, half = box.normal[cells], box.half[cells]
    axis = np.argmax(np.abs(normal), axis=1)
    offset = np.empty((3, steps * steps, 3))
    for a in range(3):
        ua, va = in_plane(a)
        offset[a, :, a], offset[a, :, ua], offset[a, :, va] = 0.0, u, v
    points = box.centre[cells, None] + half[:, None] * offset[axis]
    at = beams.at[lamps]
    aim = beams.aim[lamps] / np.linalg.norm(beams.aim[lamps], axis=1, keepdims=True)
    x, y, z = (points[:, :, i] - at[:, i, None] for i in range(3))
    toward = -(x * normal[:, 0, None] + y * normal[:, 1, None] + z * normal[:, 2, None])
    lux = lux_of((x, y, z), toward, aim[:, None], beams.order[lamps][:, None])
    if box.baffles:
        lux *= ~blocked(at[:, None], points, box.baffles)
    return np.asarray(lux.mean(axis=1))


def window_points(box: Enclosure, steps: int, which: npt.NDArray[np.intp]) -> tuple[Array, Array]:
    """Midpoints of ``steps`` × ``steps`` parts of some windows, window after window, and which way they look: (n·steps², 3) each.

    Parameters
    ----------
    box : Enclosure
        The box with its windows.
    steps : int
        Parts along each side of a window.
    which : array of int
        Numbers of the windows (n,).

    Returns
    -------
    tuple[array, array]
        Points and normals, (n·steps², 3) each, mm.
    """
    share = (np.arange(steps) + 0.5) / steps * 2.0 - 1.0
    u, v = (s.ravel() for s in np.meshgrid(share, share, indexing="ij"))
    face, middle, half = box.windows.face[which], box.middle[which], box.pane_half[which]
    axis = face // 2
    offset = np.zeros((len(which), steps * steps, 3))
    normal = np.zeros((len(which), 3))
    for a in range(3):
        mine = axis == a
        ua, va = in_plane(a)
        offset[mine, :, ua], offset[mine, :, va] = u, v
    normal[np.arange(len(which)), axis] = np.where(face % 2 == 1, -1.0, 1.0)
    points = (middle[:, None] + half[:, None] * offset).reshape(-1, 3)
    return points, np.repeat(normal, steps * steps, axis=0)


def direct_windows(box: Enclosure, beams: Beams, samples: int = 0) -> Array:
    """Direct illuminance (lx) at points of every window for 1 lm of each lamp: (W, samples², L).

    Parameters
    ----------
    box : Enclosure
        The box with its W windows.
    beams : Beams
        L lamps in it.
    samples : int
        Points along each side of a window.

    Returns
    -------
    array
        Illuminance (W, samples², L), lx for 1 lm.
    """
    beams = within(beams, box.size)
    steps = samples or (box.sampling.window if box.baffles else SAMPLES)
    count = len(box.windows.face)
    if not count or not len(beams.order):
        return np.zeros((count, steps * steps, len(beams.order)))
    points, normal = window_points(box, steps, np.arange(count))
    lux = illuminance(points, normal, beams, box.baffles)
    return lux.reshape(count, steps * steps, -1)


def first_bounce(box: Enclosure, beams: Beams, direct: Array) -> Array:
    """What the first bounce of lamps brings to each window, beyond what its cells tell: (W, L), lx for 1 lm.

    The edge of a shadow runs across cells, and a window sees this or that side of it. ``direct`` (N, L) is the mean over
    each cell.

    Parameters
    ----------
    box : Enclosure
        The box cut into N cells, with W windows.
    beams : Beams
        L lamps in it.
    direct : array
        Mean direct illuminance of each cell (N, L), lx for 1 lm.

    Returns
    -------
    array
        Illuminance to be added (W, L), lx for 1 lm.
    """
    beams = within(beams, box.size)
    count = box.sampling.cell
    points = points_of(box.centre, box.half, count).reshape(-1, 3)
    there = illuminance(points, np.repeat(box.normal, count, axis=0), beams, box.baffles)
    there = there.reshape(len(direct), count, -1)
    # As much as the cell has in all.
    there *= (direct / np.maximum(there.mean(axis=1), 1e-12))[:, None]
    more = (there - direct[:, None]) * box.reflectance[:, None, None]
    seen = box.fine.sum(axis=2)
    reach = np.where(seen > 0.0, box.reach / np.maximum(seen, 1e-9), 0.0) / np.maximum(box.window_area, 1e-12)[:, None]
    fine = (box.fine * reach[:, :, None].astype(np.float32)).reshape(len(reach), -1)
    return np.asarray(fine @ more.reshape(-1, more.shape[2]))


def lit(box: Enclosure, beams: Beams) -> tuple[Array, Array32]:
    """Illuminance (lx) for 1 lm of each lamp, all bounces counted: of the windows (W, L), of the cells (N, L).

    Parameters
    ----------
    box : Enclosure
        The box cut into N cells, with W windows.
    beams : Beams
        L lamps in it.

    Returns
    -------
    tuple[array, array]
        Illuminance of the windows (W, L) and the cells (N, L), lx for 1 lm.
    """
    cells = direct_cells(box, beams)
    windows = direct_windows(box, beams).mean(axis=1) + box.gather @ cells
    if box.fine.size:
        windows += first_bounce(box, beams, cells)
    return windows, bounced(box, cells)
