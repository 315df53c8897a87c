"""What shows through clear panes along the line of sight: the wall it ends on, lamps that stand in it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.emitters import emitters
from gwiazda.core.assess.optics.lit_sections import LitSection, tinted
from gwiazda.core.assess.sight.throw import lips_of
from gwiazda.core.light.sightline import Solid, blocked, hit_inside
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp
from gwiazda.core.radiosity.formfactors import in_plane

Array = npt.NDArray[np.float64]
LEAST_CLEAR = 1e-3  # of a pane's light that goes straight through: below it is taken as frosted


class Inside(NamedTuple):
    """A room as it is seen through its clear panes.

    ``panes`` (M,): numbers of the model's openings; ``at`` (M, 3) their middles on the inner wall, mm; ``share`` (M, C): cd/m² of each key for 1 lx
    on a wall that throws all back; ``behind`` (M,): the cell straight behind each. ``light`` (N, C): what the cells throw back, lx. ``keys`` (C,):
    the numbers of the keys; ``lips``: what stands in its way. ``cells`` (N, 3): their middles on the model; ``faces`` (N,): which of the box's six each is of, −1 for a board.
    """

    panes: npt.NDArray[np.intp]
    at: Array
    share: Array
    behind: npt.NDArray[np.intp]
    light: Array
    keys: npt.NDArray[np.intp]
    low: Array
    high: Array
    lips: tuple[Solid, ...]
    cells: Array
    faces: npt.NDArray[np.intp]


def clear_panes(room: LitSection) -> npt.NDArray[np.intp]:
    """Which of a room's panes one looks through: lit, no lens, no hole into a neighbour."""
    return np.array(
        [
            k
            for k, o in enumerate(room.openings)
            if o.lit > 0 and not o.into and o.lens is None and room.cavity.panes[k].clear > LEAST_CLEAR
        ],
        dtype=np.intp,
    )


def inside_of(
    room: LitSection, mine: npt.NDArray[np.intp], walls: Array, kept: Array, keys: Sequence[int], numbers: Sequence[int]
) -> Inside:  # fmt: skip
    """A room through its clear panes ``mine``.

    Parameters
    ----------
    walls : (N, C) array
        Light on the walls, lx, of each key.
    kept : (M, C) array
        What a pane's colour and the wires before it leave of each.
    keys : C numbers of the keys
    numbers : M numbers of the panes in the model
    """
    box, corner = room.cavity.box, room.cavity.corner
    back = box.reflectance
    behind = room.behind[mine]
    clear = np.array([room.show[k, 1] / back[b] if back[b] > 0 else 0.0 for k, b in zip(mine, behind, strict=True)])
    size = np.asarray(box.size, dtype=float)
    faces = np.full(len(box.area), -1, dtype=np.intp)
    for face in range(6):
        faces[box.start[face] : box.start[face + 1]] = face
    return Inside(
        np.array(numbers, dtype=np.intp), corner + box.middle[mine], clear[:, None] * kept, behind, walls * back[:, None],
        np.array(keys, dtype=np.intp), corner, corner + size, lips_of(room.section), corner + box.centre, faces,
    )  # fmt: skip


def seen_through(insides: Sequence[Inside], eye: Array, shape: tuple[int, int]) -> Array:
    """What panes (openings, keys) show more, cd/m², from an eye (3,) than straight on; less where the wall in sight is darker."""
    out = np.zeros(shape)
    for room in insides:
        away = room.at - eye
        cell = cell_met(room, away)
        there = np.where((cell >= 0)[:, None], room.light[np.maximum(cell, 0)] - room.light[room.behind], 0.0)
        for c, key in enumerate(room.keys.tolist()):  # two colours may come out as one behind a tint
            out[room.panes, key] += room.share[:, c] * there[:, c]
    return out


def cell_met(room: Inside, away: Array) -> npt.NDArray[np.intp]:
    """The cell on which each line of sight ends, going on through a pane by ``away`` (M, 3); −1 where it doesn't go in."""
    place, face = hit_inside(room.at, away, room.low, room.high)
    out = np.full(len(place), -1, dtype=np.intp)
    for f in set(face.tolist()) - {-1}:
        cells = np.flatnonzero(room.faces == f)
        rays = np.flatnonzero(face == f)
        u, v = in_plane(f // 2)
        gaps = (place[rays][:, None, [u, v]] - room.cells[cells][None][..., [u, v]]) ** 2
        out[rays] = cells[gaps.sum(axis=2).argmin(axis=1)]
    return out


class Lobe(NamedTuple):
    """A lamp's light as one beam from where it stands: place and aim (3,), order (below 0: all round), cd on the axis for 1 lm."""

    at: Array
    aim: Array
    order: float
    cd: float


def lobes_of(catalogue: Catalogue, lamp: Lamp, corner: Array) -> Iterator[Lobe]:
    """A lamp's beams, those of one order together at their middle: what of it is seen by an eye that looks at it."""
    beams, share = emitters(catalogue, lamp, corner)
    at, aim = corner + beams.at.mean(axis=0), beams.aim[0] / np.linalg.norm(beams.aim[0])
    for order in dict.fromkeys(beams.order.tolist()):
        part = float(share[beams.order == order].sum())
        yield Lobe(at, aim, order, part / (4.0 * math.pi) if order < 0 else part * (order + 1.0) / (2.0 * math.pi))


def colour_kept(
    catalogue: Catalogue, room: LitSection, pane: int, lamp: Lamp
) -> tuple[float, tuple[float, float, float] | None]:
    """What a pane's colours leave of a lamp's light, and its colour behind them; None where it keeps its own."""
    if not room.colours[pane]:
        return 1.0, None
    found = tinted(catalogue, lamp, room.colours[pane])
    return found.kept, found.rgb


def stopped(insides: Sequence[Inside], eye: Array, at: Array, pane: npt.NDArray[np.intp]) -> npt.NDArray[np.bool_]:
    """Which of places (N, 3), seen through panes (N,; −1 for none), an eye doesn't see for what stands in their room."""
    out = np.zeros(len(at), dtype=bool)
    for room in insides:
        if room.lips:
            here = np.flatnonzero(np.isin(pane, room.panes))
            for low, high in room.lips:
                out[here] |= blocked(eye, at[here], low, high)
    return out
