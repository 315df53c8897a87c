"""Sections as enclosures: from the plan's boxes, linings, openings and obstacles to their light for each lamp."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.fit import lies_along
from gwiazda.core.assess.joints import Port, face_of
from gwiazda.core.assess.lampwork import worked
from gwiazda.core.light import enclosure as en
from gwiazda.core.light.formfactors import Grid, exchange, in_plane
from gwiazda.core.light.glazing import Pane, stack
from gwiazda.core.light.shadow import Baffle, blocked
from gwiazda.core.parts.catalogue import glazings, lamp_parts, linings
from gwiazda.core.plan.lookup import same_pieces
from gwiazda.core.plan.models import FACE_NAMES, Lamp, Obstacle, Opening, Section

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

MOST_EMITTERS = 24
MOST_LAMPS = 512
VERSIONS = 6  # of a section kept at once: the plan itself, and what offers would make of it
MOST_SECTIONS = 512


class LampLight(NamedTuple):
    """For 1 lm of a lamp: illuminance of the windows (W,), of points of them direct (W, P), of the cells (N,)."""

    windows: Array
    points: npt.NDArray[np.float32]
    cells: npt.NDArray[np.float32]
    sight: Array  # cd for 1 lm, as it shows through the own openings it stands straight behind (W,)


class Cavity:
    """A section's enclosure: its own openings first among the windows, then the ports of its joints."""

    def __init__(
        self, section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], panes: tuple[Pane, ...],
        cells: int = en.CELLS,
    ) -> None:  # fmt: skip
        self.size = np.array(section.box.size)
        self.corner = np.array(section.box.at)
        self.openings, self.ports, self.panes = openings, ports, panes
        lining = linings_of(section)
        rows = [_window(o, p, section, lining[face_of(o)]) for o, p in zip(openings, panes, strict=True)]
        rows += [(p.face, p.low, p.high, lining[p.face] if p.back < 0 else p.back) for p in ports]
        windows = en.Windows(
            np.array([r[0] for r in rows], dtype=np.intp),
            np.array([r[1] for r in rows], dtype=float).reshape(-1, 2),
            np.array([r[2] for r in rows], dtype=float).reshape(-1, 2),
            np.array([r[3] for r in rows], dtype=float),
        )
        self.box = en.enclosure(section.box.size, lining, windows, baffles_of(section, reflectance_of(section)), cells)
        self._lamps: dict[tuple[Any, ...], LampLight] = {}
        self._ports: tuple[Array, Array32] | None = None

    @cached_property
    def behind(self) -> npt.NDArray[np.intp]:
        """For every own opening, the cell straight behind its middle on the far side of the box: (W,)."""
        return straight_behind(self)

    @property
    def port_light(self) -> tuple[Array, Array32]:
        """For 1 lm/m² out of each port: illuminance of all windows (W + P, P), direct illuminance of the cells (N, P)."""
        if self._ports is None:
            self._ports = self._port_light()
        return self._ports

    def _port_light(self) -> tuple[Array, Array32]:
        box, count = self.box, len(self.openings)
        reach = box.reach[count:]
        cells = (reach / box.area[None]).T
        w = box.windows
        direct = np.zeros((len(w.face), len(self.ports)))
        for k, port in enumerate(self.ports):
            axis, end = en.FACES[port.face]
            grid = Grid(
                axis, float(box.size[axis]) * end, -1 if end else 1,
                np.array([port.low[0], port.high[0]]), np.array([port.low[1], port.high[1]]),
            )  # fmt: skip
            for face in range(6):
                mine = np.flatnonzero(w.face == face)
                if len(mine) and face != port.face:
                    a, e = en.FACES[face]
                    pane = Grid(
                        a, float(box.size[a]) * e, -1 if e else 1,
                        np.column_stack([w.low[mine, 0], w.high[mine, 0]]), np.column_stack([w.low[mine, 1], w.high[mine, 1]]),
                    )  # fmt: skip
                    direct[mine, k] = exchange(pane, grid)[:, 0] / np.maximum(box.window_area[mine], 1e-12)
        return direct + box.gather @ cells, en.bounced(box, cells)

    def lights_of(self, lamps: Sequence[Lamp]) -> list[LampLight]:
        """The light of each lamp, kept for as long as its place, aim and beam are the same; new ones all at once."""
        beams = [emitters(lamp, self.corner) for lamp in lamps]
        keys = [(b.at.tobytes(), b.aim.tobytes(), b.order.tobytes()) for b in beams]
        new = {key: (b, p) for key, b, p in zip(keys, beams, lamps, strict=True) if key not in self._lamps}
        if new:
            if len(self._lamps) > MOST_LAMPS:
                self._lamps = {k: v for k, v in self._lamps.items() if k in set(keys)}
            lit = self._lit([b for b, _ in new.values()], [p for _, p in new.values()])
            self._lamps.update(zip(new, lit, strict=True))
        return [self._lamps[key] for key in keys]

    def _lit(self, beams: list[en.Beams], lamps: list[Lamp]) -> list[LampLight]:
        counts = [len(b.order) for b in beams]
        together = en.Beams(*(np.concatenate([getattr(b, f) for b in beams]) for f in en.Beams._fields))
        cells, points = en.direct_cells(self.box, together), en.direct_windows(self.box, together)
        first = np.concatenate([[0], np.cumsum(counts)[:-1]])
        # A row of emitters shares its lamp's light.
        cells = np.add.reduceat(cells, first, axis=1) / counts
        points = (
            np.add.reduceat(points, first, axis=2) / counts
            if points.size
            else np.zeros((*points.shape[:2], len(beams)))
        )
        windows = points.mean(axis=1) + self.box.gather @ cells
        walls = en.bounced(self.box, cells)
        return [
            LampLight(windows[:, i], points[:, :, i].astype(np.float32), walls[:, i], in_sight(self, lamps[i]))
            for i in range(len(beams))
        ]


def reflectance_of(section: Section) -> float:
    lining = linings().get(section.lining)
    return lining.reflectance if lining else 0.0


def linings_of(section: Section) -> list[float]:
    """Reflectance of the six faces, x0 to z1."""
    out = [reflectance_of(section)] * 6
    for other in section.face_linings:
        lining = linings().get(other.lining)
        out[FACE_NAMES.index(other.face)] = lining.reflectance if lining else 0.0
    return out


def pane_of(opening: Opening, section: Section) -> Pane:
    """An opening's glazing with the diffusers behind it; nothing comes through one the catalogue hasn't got."""
    names: tuple[str, ...] = (opening.glazing or ("open" if opening.into else section.glazing),)
    if not opening.into:
        names += section.soften if opening.soften is None else opening.soften
    table = glazings()
    if any(n not in table for n in names):
        return Pane(0.0, 1.0, reflectance_of(section))
    # The diffusers are behind the glazing, so light from inside meets them first.
    return stack(tuple(Pane(g.transmittance, g.scattered, g.reflectance) for g in (table[n] for n in reversed(names))))


def _window(
    o: Opening, pane: Pane, section: Section, lining: float
) -> tuple[int, tuple[float, float], tuple[float, float], float]:
    """An opening as a rectangle of its area on its face; what isn't left clear throws light back as the lining does."""
    face = face_of(o)
    axes = in_plane(face // 2)
    plane = {"port": (0, 2), "starboard": (0, 2), "top": (0, 1), "bow": (1, 2), "stern": (1, 2)}[o.side]
    size = dict(zip(plane, (o.width_mm, o.height_mm), strict=True))
    k = math.sqrt(o.area_mm2 / (o.width_mm * o.height_mm)) / 2.0
    low, high = [], []
    for a in axes:
        centre, half, end = o.at[a] - section.box.at[a], k * size[a], section.box.size[a]
        # On the face, whole or cut off at its edge; one that misses it altogether sits at the edge with no size to speak of.
        x, y = min(max(centre - half, 0.0), end - 1e-3), max(min(centre + half, end), 1e-3)
        low.append(x)
        high.append(max(y, x + 1e-3))
    back = o.lit * pane.reflectance + (1.0 - o.lit) * lining
    return face, (low[0], low[1]), (high[0], high[1]), back


def baffles_of(section: Section, lining: float) -> tuple[Baffle, ...]:
    """What is kept of the obstacles, as sheets lined like the rest: thin ones as one, thick ones as their six sides."""
    out = []
    for obstacle in section.obstacles:
        if obstacle.action == "keep":
            out += _sheets(obstacle, section, lining)
    # The largest shade the most; each one more costs rays between all cells.
    out.sort(key=lambda b: -(b.high[0] - b.low[0]) * (b.high[1] - b.low[1]))
    return tuple(out[:MOST_SHEETS])


THIN_MM, MOST_SHEETS = 2.0, 12


def _sheets(obstacle: Obstacle, section: Section, lining: float) -> list[Baffle]:
    corner, room = section.box.at, section.box.size
    low = [min(max(a - c, 0.0), r) for a, c, r in zip(obstacle.box.at, corner, room, strict=True)]
    high = [
        min(max(a + s - c, 0.0), r) for a, s, c, r in zip(obstacle.box.at, obstacle.box.size, corner, room, strict=True)
    ]
    size = [b - a for a, b in zip(low, high, strict=True)]
    if sum(s > 0.2 for s in size) < 2:
        return []
    thin = min(range(3), key=lambda i: size[i])
    places = [(thin, (low[thin] + high[thin]) / 2)]
    if size[thin] > THIN_MM:
        places = [(axis, at) for axis in range(3) for at in (low[axis], high[axis])]
    out = []
    for axis, at in places:
        u, v = in_plane(axis)
        # A sheet in a wall's own plane is that wall.
        if 1e-3 < at < room[axis] - 1e-3 and size[u] > 0.2 and size[v] > 0.2:
            out.append(Baffle(axis, at, (low[u], low[v]), (high[u], high[v]), lining))
    return out


def emitters(lamp: Lamp, corner: Array) -> en.Beams:
    """A lamp as beams from the box's lowest corner: one, or a row of them along a strip or a filament."""
    part = lamp_parts()[lamp.part]
    count, length = 1, 0.0
    if part.form in ("strip", "filament"):
        count = min(part.leds * lamp.units if part.form == "strip" else 8, MOST_EMITTERS)
        length = part.size_mm[0] * lamp.units
    at = np.tile(np.array(lamp.at) - corner, (count, 1))
    if count > 1:
        along = lies_along(lamp)
        at[:, along] += ((np.arange(count) + 0.5) / count - 0.5) * length
    aim = np.tile(np.array(lamp.aim, dtype=float), (count, 1))
    return en.Beams(at, aim, np.full(count, worked(lamp).order))


_kept: dict[str, list[tuple[tuple[Any, ...], tuple[Opening, ...], Cavity]]] = {}


def _key(section: Section, ports: tuple[Port, ...], cells: int) -> tuple[Any, ...]:
    kept_obstacles = tuple(o for o in section.obstacles if o.action == "keep")
    return (
        section.box,
        section.lining,
        section.face_linings,
        kept_obstacles,
        section.glazing,
        section.soften,
        ports,
        cells,
    )


def found(section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], cells: int) -> Cavity | None:
    """The section's enclosure if it is kept already."""
    key, versions = _key(section, ports, cells), _kept.setdefault(section.id, [])
    for i, (old_key, old_openings, cavity) in enumerate(list(versions)):
        if old_key == key and (same_pieces(old_openings, openings) or _alike(old_openings, openings)):
            if i:
                versions.insert(0, (old_key, old_openings, cavity))
                del versions[VERSIONS:]
            return cavity
    return None


def cavity_of(
    section: Section, openings: tuple[Opening, ...], ports: tuple[Port, ...], cells: int = en.CELLS
) -> Cavity:
    """A section's enclosure, kept for as long as nothing that light depends on changes in it.

    One of more cells is taken where it is kept already: a first look is for what has to be reckoned anew.
    """
    cavity = found(section, openings, ports, en.CELLS) if cells < en.CELLS else None
    if cavity is None:
        cavity = found(section, openings, ports, cells)
    if cavity is None:
        cavity = Cavity(section, openings, ports, tuple(pane_of(o, section) for o in openings), cells)
        versions = _kept.setdefault(section.id, [])
        versions.insert(0, (_key(section, ports, cells), openings, cavity))
        del versions[VERSIONS:]
        if len(_kept) > MOST_SECTIONS:
            _kept.pop(next(iter(_kept)))
    return cavity


def _alike(a: tuple[Opening, ...], b: tuple[Opening, ...]) -> bool:
    """Whether two sets of openings are the same to the light: tints and features are not its matter."""
    return len(a) == len(b) and all(
        x is y
        or (x.at, x.side, x.shape, x.width_mm, x.height_mm, x.lit, x.glazing, x.soften, x.points, x.into)
        == (y.at, y.side, y.shape, y.width_mm, y.height_mm, y.lit, y.glazing, y.soften, y.points, y.into)
        for x, y in zip(a, b, strict=True)
    )


def straight_behind(cavity: Cavity) -> npt.NDArray[np.intp]:
    """For every own opening, the cell straight behind its middle on the far side of the box: (W,)."""
    box, count = cavity.box, len(cavity.openings)
    middle, face = box.middle[:count], box.windows.face[:count]
    # The grid each looks at: the wall across, or the nearest sheet on the way.
    grid = face ^ 1
    for i in np.flatnonzero(np.isin(face // 2, [b.axis for b in box.baffles])) if box.baffles else ():
        axis, end = en.FACES[face[i]]
        u, v = in_plane(axis)
        away = [
            (abs(b.at - middle[i, axis]), 6 + 2 * j + (0 if end else 1))
            for j, b in enumerate(box.baffles)
            if b.axis == axis and b.low[0] <= middle[i, u] <= b.high[0] and b.low[1] <= middle[i, v] <= b.high[1]
        ]
        grid[i] = min(away)[1] if away else grid[i]
    out = np.zeros(count, dtype=np.intp)
    for k in np.unique(grid):
        g, mine = box.grids[k], grid == k
        u, v = in_plane(g.axis)
        a = np.clip(np.searchsorted(g.u, middle[mine, u]) - 1, 0, len(g.u) - 2)
        b = np.clip(np.searchsorted(g.v, middle[mine, v]) - 1, 0, len(g.v) - 2)
        out[mine] = box.start[k] + a * (len(g.v) - 1) + b
    return out


def in_sight(cavity: Cavity, lamp: Lamp) -> Array:
    """Intensity (cd) for 1 lm that a lamp shows through each own opening it stands straight behind; 0 elsewhere: (W,)."""
    box, count = cavity.box, len(cavity.openings)
    at = np.array(lamp.at) - cavity.corner
    face = box.windows.face[:count]
    axis = face // 2
    u = np.array([in_plane(a)[0] for a in axis], dtype=np.intp)
    v = np.array([in_plane(a)[1] for a in axis], dtype=np.intp)
    low, high = box.windows.low[:count], box.windows.high[:count]
    behind = (at[u] >= low[:, 0]) & (at[u] <= high[:, 0]) & (at[v] >= low[:, 1]) & (at[v] <= high[:, 1])
    if box.baffles and behind.any():
        middle = box.middle
        target = middle[:count].copy()
        target[np.arange(count), u], target[np.arange(count), v] = at[u], at[v]
        behind &= ~blocked(at[None], target, box.baffles)
    order = worked(lamp).order
    if order < 0:
        return np.where(behind, 1.0 / (4.0 * math.pi), 0.0)
    aim = np.array(lamp.aim) / np.linalg.norm(lamp.aim)
    toward = np.maximum(aim[axis] * np.where(face % 2 == 1, 1.0, -1.0), 0.0)
    shown = behind & (toward > 1e-3)
    return np.where(shown, toward**order * (order + 1.0) / (2.0 * math.pi), 0.0)
