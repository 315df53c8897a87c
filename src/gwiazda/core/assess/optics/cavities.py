"""Sections as enclosures: from the plan's boxes, linings, openings, obstacles and lamp bodies to the light of each lamp.

An enclosure is kept by what it is made of and not by whose it is: sections that are alike are solved once.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lamp.fit import half_sizes
from gwiazda.core.assess.optics.baffles import BOARD_MM, Rect, Row, baffles_of, body_sheet, over_window
from gwiazda.core.assess.optics.emitters import LIGHTS, Emitters, emitters
from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.joints import Port, face_of
from gwiazda.core.assess.optics.skin import lining_reflectance
from gwiazda.core.light.glazing import Pane
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import PLANES
from gwiazda.core.plan.model import Lamp, Opening, Section
from gwiazda.core.radiosity import direct as dr
from gwiazda.core.radiosity import enclosure as en
from gwiazda.core.radiosity.beams import Beams
from gwiazda.core.radiosity.fineness import CELLS, QUICK_CELLS
from gwiazda.core.radiosity.formfactors import Grid, exchange, in_plane
from gwiazda.core.radiosity.shadow import Baffle, blocked
from gwiazda.core.radiosity.shape import FACES, BoxShape, Windows, shape_of

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

BOXES, SHAPES, LIT_BOXES = 160, 24, 48  # kept at once: enclosures, their geometry, those with ports lit


class LampLight(NamedTuple):
    """For 1 lm of a lamp: illuminance of the windows (W,), of points of them direct (W, P), of the cells (N,) with all
    bounces and direct."""

    windows: Array
    points: Array32
    cells: Array32
    direct: Array32
    sight: Array  # cd for 1 lm, as it shows through the own openings it stands straight behind (W,)


class Frame(NamedTuple):
    """What an enclosure is made of: all values, so that alike sections have equal ones."""

    size: tuple[float, float, float]
    lining: tuple[float, ...]
    rows: tuple[Row, ...]
    baffles: tuple[Baffle, ...]
    cells: int


class Cavity(NamedTuple):
    """A section's enclosure: its own openings (``own`` of them) first among the windows, then the ports of its joints."""

    box: en.Enclosure
    corner: Array
    own: int
    panes: tuple[Pane, ...]
    ports: tuple[Port, ...]
    behind: npt.NDArray[np.intp]  # for every own opening, the cell straight behind its middle across the box
    frame: Frame


@memoize(slots=1, by=lambda frame: frame, places=BOXES, same=lambda a, b: a is b or a == b)
def box_of(frame: Frame) -> en.Enclosure:
    """The enclosure made of a frame, solved."""
    rows = frame.rows
    windows = _windows_of([r[:3] for r in rows], [r[3] for r in rows])
    flat = tuple(b._replace(reflectance=0.0) for b in frame.baffles)
    shape = _shape_of(frame.size, tuple(r[:3] for r in rows), flat, frame.cells)
    return en.enclosure(frame.size, frame.lining, windows, frame.baffles, frame.cells, shape)


@memoize(slots=1, by=lambda *key: key, places=SHAPES, same=lambda a, b: a is b or a == b)
def _shape_of(
    size: tuple[float, float, float], rects: tuple[Rect, ...], baffles: tuple[Baffle, ...], cells: int
) -> BoxShape:
    """The geometry of a frame: it stays when the box is lined, glazed or painted otherwise."""
    return shape_of(size, _windows_of(rects, [0.0] * len(rects)), baffles, cells)


def _windows_of(rects: Sequence[Rect], back: Sequence[float]) -> Windows:
    """Rectangles in the faces as arrays."""
    return Windows(
        np.array([r[0] for r in rects], dtype=np.intp),
        np.array([r[1] for r in rects], dtype=float).reshape(-1, 2),
        np.array([r[2] for r in rects], dtype=float).reshape(-1, 2),
        np.array(back, dtype=float),
    )


@memoize(slots=3, by=lambda catalogue, section, *_: section.id, places=4096)
def frame_of(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], kit_material: str,
    boards: tuple[Baffle, ...], cells: int,
) -> tuple[Frame, tuple[Pane, ...]]:  # fmt: skip
    """What a section's enclosure is made of, and its panes."""
    lining, rows, panes = _lined(catalogue, section, openings, ports, kit_material)
    baffles = baffles_of(section, lining_reflectance(catalogue, section, kit_material))
    return Frame(section.box.size, lining, rows, (*baffles, *boards), cells), panes


@memoize(slots=3, by=lambda catalogue, section, *_: section.id, places=4096)
def _lined(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], kit_material: str
) -> tuple[tuple[float, ...], tuple[Row, ...], tuple[Pane, ...]]:
    """Linings and windows of a frame, whatever it is cut into: a first look and the fine one share them."""
    lining = tuple(lining_reflectance(catalogue, section, kit_material, face) for face in range(6))
    alike: dict[tuple[object, ...], Pane] = {}
    panes, rows = [], []
    for o in openings:
        face = face_of(o)
        key = (o.glazing, o.soften, o.into, o.hole, face, o.lens and (o.lens, o.width_mm, o.height_mm))
        pane = alike.get(key)
        if pane is None:
            pane = alike[key] = pane_of(catalogue, o, section, lining[face], kit_material)
        panes.append(pane)
        rows.append(_window(o, pane, section, face, lining[face]))
    rows += [(p.face, p.low, p.high, lining[p.face] if p.back < 0 else p.back) for p in ports]
    return lining, tuple(rows), tuple(panes)


def found(frame: Frame) -> en.Enclosure | None:
    """The enclosure if it is kept already; for a first look the fine one serves as well."""
    if frame.cells == QUICK_CELLS:
        fine = box_of.peek(frame._replace(cells=CELLS))
        if fine is not None:
            return fine
    return box_of.peek(frame)


def cavity_of(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], kit_material: str,
    boards: tuple[Baffle, ...] = (), cells: int = CELLS,
) -> Cavity:  # fmt: skip
    """A section's enclosure; a first look takes the fine one where that is kept already."""
    frame, panes = frame_of(catalogue, section, openings, ports, kit_material, boards, cells)
    box = found(frame)
    if box is None:
        box = box_of(frame)
    return _cavity(section, box, frame, panes, ports)


@memoize(slots=3, by=lambda section, *_: section.id, places=4096)
def _cavity(
    section: Section, box: en.Enclosure, frame: Frame, panes: tuple[Pane, ...], ports: tuple[Port, ...]
) -> Cavity:
    return Cavity(
        box, np.array(section.box.at, dtype=float), len(panes), panes, ports, straight_behind(box, len(panes)), frame
    )


@memoize(slots=1, by=lambda box, count: id(box), places=LIT_BOXES)
def port_light(box: en.Enclosure, count: int) -> tuple[Array, Array32]:
    """For 1 lm/m² out of each port: illuminance of all windows (W + P, P), illuminance of the cells (N, P).

    The ports are the windows of the box behind its own ``count`` openings.
    """
    cells = (box.reach[count:] / box.area[None]).T
    w = box.windows
    direct = np.zeros((len(w.face), len(w.face) - count))
    for k in range(count, len(w.face)):
        own = int(w.face[k])
        axis, end = FACES[own]
        grid = Grid(
            axis, float(box.size[axis]) * end, -1 if end else 1,
            np.array([w.low[k, 0], w.high[k, 0]]), np.array([w.low[k, 1], w.high[k, 1]]),
        )  # fmt: skip
        for face in range(6):
            mine = np.flatnonzero(w.face == face)
            if len(mine) and face != own:
                a, e = FACES[face]
                pane = Grid(
                    a, float(box.size[a]) * e, -1 if e else 1,
                    np.column_stack([w.low[mine, 0], w.high[mine, 0]]), np.column_stack([w.low[mine, 1], w.high[mine, 1]]),
                )  # fmt: skip
                direct[mine, k - count] = exchange(pane, grid)[:, 0] / np.maximum(box.window_area[mine], 1e-12)
    return direct + box.gather @ cells, en.bounced(box, cells)


def lights_of(catalogue: Catalogue, cavity: Cavity, lamps: Sequence[Lamp]) -> list[LampLight]:
    """The light of each lamp, kept for as long as its place, aim and beam are the same; new ones all at once."""
    each = [emitters(catalogue, lamp, cavity.corner) for lamp in lamps]
    keys = [b"".join((e.beams.at.tobytes(), e.beams.aim.tobytes(), e.beams.order.tobytes(), e.share.tobytes())) for e in each]  # fmt: skip
    # A first look is given the fine enclosure where that is there: its lights are the same.
    made_of = (cavity.frame._replace(cells=len(cavity.box.area)), cavity.own)
    there = {k: _light.peek(*made_of, k, None) for k in keys}
    new = {k: e for k, e in zip(keys, each, strict=True) if there[k] is None}
    for key, light in zip(new, _lit(cavity.box, cavity.own, list(new.values())) if new else (), strict=True):
        there[key] = _light(*made_of, key, light)
    return [there[k] for k in keys]  # type: ignore[misc]


@memoize(slots=1, by=lambda frame, count, key, _: (frame, count, key), places=LIGHTS, same=lambda a, b: True)
def _light(frame: Frame, count: int, key: bytes, light: LampLight | None) -> LampLight | None:
    """The store of ``lights_of``: what was worked out with others is put here, and found again without.

    It is by what the enclosure is made of, and how many cells that is, so that no enclosure is kept for its lights' sake.
    """
    return light


def _lit(box: en.Enclosure, count: int, each: list[Emitters]) -> list[LampLight]:
    counts = [len(e.share) for e in each]
    together = Beams(*(np.concatenate([getattr(e.beams, f) for e in each]) for f in Beams._fields))
    share = np.concatenate([e.share for e in each])
    first = np.concatenate([[0], np.cumsum(counts)[:-1]])
    each_cells = dr.direct_cells(box, together)
    cells = np.add.reduceat(each_cells * share, first, axis=1)
    points = dr.direct_windows(box, together) * share
    points = np.add.reduceat(points, first, axis=2) if points.size else np.zeros((*points.shape[:2], len(each)))
    windows = points.mean(axis=1) + box.gather @ cells
    if box.fine.size:
        windows += np.add.reduceat(dr.first_bounce(box, together, each_cells) * share, first, axis=1)
    walls = en.bounced(box, cells)
    return [
        LampLight(
            windows[:, i], points[:, :, i].astype(np.float32), walls[:, i], cells[:, i].astype(np.float32),
            _in_sight(box, count, e),
        )
        for i, e in enumerate(each)
    ]  # fmt: skip


def _window(o: Opening, pane: Pane, section: Section, face: int, lining: float) -> Row:
    """An opening as a rectangle of its area on its face; what isn't left clear throws light back as the lining does."""
    plane = PLANES[o.side]
    k = math.sqrt(o.area_mm2 / (o.width_mm * o.height_mm)) / 2.0
    low, high = [], []
    for a in in_plane(face // 2):
        size = o.width_mm if plane[0] == a else o.height_mm
        centre, half, end = o.at[a] - section.box.at[a], k * size, section.box.size[a]
        # On the face, whole or cut off at its edge; one that misses it altogether sits at the edge with no size to speak of.
        x, y = min(max(centre - half, 0.0), end - 1e-3), max(min(centre + half, end), 1e-3)
        # To a nanometre: the copy of a section elsewhere differs in last digits, and is alike all the same.
        low.append(round(x, 6))
        high.append(round(max(y, x + 1e-3), 6))
    back = o.lit * pane.reflectance + (1.0 - o.lit) * lining
    return face, (low[0], low[1]), (high[0], high[1]), back


class Shade(NamedTuple):
    """A window with small bodies before it: illuminance for 1 lm of each lamp (L,), direct at points of it (P, L), and
    the share of it that bodies stand straight behind."""

    window: int
    lux: Array
    points: Array
    covered: float
    sheets: tuple[Baffle, ...]


def shades_of(
    catalogue: Catalogue, section: Section, cavity: Cavity, lamps: Sequence[Lamp], lights: Sequence[LampLight]
) -> list[Shade]:
    """The windows that lie under lamps' bodies, or close beside them; boards are baffles already."""
    near: dict[int, list[Baffle]] = {}
    for lamp in (p for p in lamps if p.mount == "inside"):
        half = half_sizes(catalogue, lamp)
        if 2.0 * max(half) >= BOARD_MM:
            continue
        sheet = body_sheet(catalogue, lamp, section)
        if sheet is None:
            continue
        # Further off than its own size it takes less than a tenth of what a window sees.
        for i in over_window(sheet, cavity.frame.rows, section.box.size, max(half)):
            near.setdefault(i, []).append(sheet)
    if not near:
        return []
    each = [emitters(catalogue, p, cavity.corner) for p in lamps]
    direct = np.array([x.direct for x in lights]).T
    return [_shade(cavity.box, i, sheets, each, direct) for i, sheets in near.items()]


def _shade(box: en.Enclosure, i: int, sheets: list[Baffle], each: Sequence[Emitters], direct: Array) -> Shade:
    gather, share = en.gathered(box, i, sheets)
    beams = Beams(*(np.concatenate([getattr(e.beams, f) for e in each]) for f in Beams._fields))
    weight = np.concatenate([e.share for e in each])
    counts = [len(e.share) for e in each]
    first = np.concatenate([[0], np.cumsum(counts)[:-1]])
    points = dr.direct_windows(en.only(box, i, sheets), beams, box.sampling.window)[0] * weight
    points = np.add.reduceat(points, first, axis=1)
    return Shade(i, points.mean(axis=0) + gather @ direct, points, share, tuple(sheets))


def straight_behind(box: en.Enclosure, count: int) -> npt.NDArray[np.intp]:
    """For each of the first ``count`` windows, the cell straight behind its middle on the far side of the box: (W,)."""
    middle, face = box.middle[:count], box.windows.face[:count]
    # The grid each looks at: the wall across, or the nearest sheet on the way.
    grid = face ^ 1
    for i in np.flatnonzero(np.isin(face // 2, [b.axis for b in box.baffles])) if box.baffles else ():
        axis, end = FACES[face[i]]
        u, v = in_plane(axis)
        away = [
            (abs(b.at - middle[i, axis]), 6 + 2 * j + (0 if end else 1))
            for j, b in enumerate(box.baffles)
            if b.axis == axis and b.low[0] <= middle[i, u] <= b.high[0] and b.low[1] <= middle[i, v] <= b.high[1]
        ]
        grid[i] = min(away)[1] if away else grid[i]
    out = np.zeros(count, dtype=np.intp)
    for k in sorted(set(grid.tolist())):  # np.unique would import masked arrays: 50 ms of every start
        g, mine = box.grids[k], grid == k
        u, v = in_plane(g.axis)
        a = np.clip(np.searchsorted(g.u, middle[mine, u]) - 1, 0, len(g.u) - 2)
        b = np.clip(np.searchsorted(g.v, middle[mine, v]) - 1, 0, len(g.v) - 2)
        out[mine] = box.start[k] + a * (len(g.v) - 1) + b
    return out


def reflectance_behind(cavity: Cavity) -> Array:
    """What lies straight behind each own opening throws back, over the opening's own outline: (W,).

    Panes across the box count by how much of the view they fill. A cell's own figure mixes the panes in it with the wall beside them, so that it
    would hang on how finely the box is cut.
    """
    box, windows = cavity.box, cavity.box.windows
    out = box.reflectance[cavity.behind].copy()
    grid = np.searchsorted(box.start, cavity.behind, side="right") - 1
    for k in sorted({k for k in grid.tolist() if k < len(FACES)}):
        mine, there = np.flatnonzero(grid == k), np.flatnonzero(windows.face == k)
        low = np.maximum(windows.low[mine][:, None], windows.low[there][None])
        high = np.minimum(windows.high[mine][:, None], windows.high[there][None])
        share = np.maximum(high - low, 0.0).prod(axis=2) / box.window_area[mine, None]
        filled = share.sum(axis=1)
        # Panes that lie over each other share what they fill.
        out[mine] = cavity.frame.lining[k] * np.maximum(1.0 - filled, 0.0)
        out[mine] += share @ windows.back[there] / np.maximum(filled, 1.0)
    return out


IN_PLANE = np.array([in_plane(axis) for axis in range(3)], dtype=np.intp)


def _in_sight(box: en.Enclosure, count: int, emitter: Emitters) -> Array:
    """Intensity (cd) for 1 lm that a lamp shows through each own opening it stands straight behind; 0 elsewhere: (W,)."""
    at = emitter.beams.at.mean(axis=0)
    face = box.windows.face[:count]
    axis = face // 2
    u, v = IN_PLANE[axis].T
    low, high = box.windows.low[:count], box.windows.high[:count]
    behind = (at[u] >= low[:, 0]) & (at[u] <= high[:, 0]) & (at[v] >= low[:, 1]) & (at[v] <= high[:, 1])
    if box.baffles and behind.any():
        target = box.middle[:count].copy()
        target[np.arange(count), u], target[np.arange(count), v] = at[u], at[v]
        behind &= ~blocked(at[None], target, box.baffles)
    out = np.zeros(count)
    for order, share in {o: float(emitter.share[emitter.beams.order == o].sum()) for o in set(emitter.beams.order.tolist())}.items():  # fmt: skip
        if order < 0:
            out += share / (4.0 * math.pi)
            continue
        aim = emitter.beams.aim[0] / np.linalg.norm(emitter.beams.aim[0])
        toward = np.maximum(aim[axis] * np.where(face % 2 == 1, 1.0, -1.0), 0.0)
        out += np.where(toward > 1e-3, share * toward**order * (order + 1.0) / (2.0 * math.pi), 0.0)
    return np.where(behind, out, 0.0)
