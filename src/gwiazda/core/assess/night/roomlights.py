"""What shines of one room, straight on and through its clear panes: kept while neither its light nor its panes change."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.glows import Key, Rgb, by_key
from gwiazda.core.assess.optics.cross_illumination import CrossIllumination
from gwiazda.core.assess.optics.leaks import walls_lx
from gwiazda.core.assess.optics.lenses import face_shown_mm, order_aside
from gwiazda.core.assess.optics.lit_sections import LitSection
from gwiazda.core.assess.optics.rows import parted
from gwiazda.core.assess.sight.through import Inside, clear_panes, colour_kept, inside_of, lobes_of
from gwiazda.core.memo import memoize, same_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp

Array = npt.NDArray[np.float64]


class Points(NamedTuple):
    """Lights that are seen themselves: places (N, 3), aims (N, 3), orders (N,), intensities on the axis (N,), widths (N,), ids, colours, and the
    numbers (N,) of their keys.

    ``pane`` (N,): the number of the opening through which a light is seen, and through that alone; −1 for what is outside.
    """

    at: Array
    aim: Array
    order: Array
    cd: Array
    wide: Array
    ids: tuple[str, ...]
    rgb: tuple[Rgb, ...]
    key: npt.NDArray[np.intp]
    pane: npt.NDArray[np.intp]


class Seen(NamedTuple):
    """A light that is seen itself, as ``Points`` has them."""

    at: Array
    aim: Array
    order: float
    cd: float
    wide: float
    name: str
    key: Key
    pane: int = -1


def points_of(points: Sequence[Seen], number: dict[Key, int]) -> Points:
    """Lights as arrays; ``number`` of their keys."""
    at, aim = (np.array([getattr(x, n) for x in points], dtype=float).reshape(-1, 3) for n in ("at", "aim"))
    order, cd, wide = (np.array([getattr(x, n) for x in points], dtype=float) for n in ("order", "cd", "wide"))
    key, pane = (
        np.array([number[x.key] for x in points], dtype=np.intp),
        np.array([x.pane for x in points], dtype=np.intp),
    )
    return Points(at, aim, order, cd, wide, tuple(x.name for x in points), tuple(x.key[1] for x in points), key, pane)


def joined(parts: Sequence[Points]) -> Points:
    """Points one after the other."""

    def all_of(name: str) -> npt.NDArray[Any]:
        return np.concatenate([getattr(p, name) for p in parts])

    return Points(
        all_of("at"), all_of("aim"), all_of("order"), all_of("cd"), all_of("wide"), tuple(i for p in parts for i in p.ids),
        tuple(c for p in parts for c in p.rgb), all_of("key"), all_of("pane"),
    )  # fmt: skip


class State(NamedTuple):
    """A lamp as it burns."""

    flux_lm: float
    channel: str
    rgb: Rgb

    @property
    def key(self) -> Key:
        return self.channel, self.rgb


class RoomLights(NamedTuple):
    """What shines of a room: the keys; luminance (openings, keys); points and rooms seen into, by the numbers of its own openings and keys; rows
    of lit panes as diffuse sources (B, 8) with the numbers of their keys; light on its walls (N, C), lx, of the keys ``keyed``."""

    keys: tuple[Key, ...]
    panes: Array
    points: Points
    insides: tuple[Inside, ...]
    beams: Array
    beam_key: npt.NDArray[np.intp]
    walls: Array
    keyed: tuple[Key, ...]


@memoize(slots=1, by=lambda catalogue, room, *_: room.section.id, places=4096, same=same_value)
def lights_in(
    catalogue: Catalogue, room: LitSection, states: tuple[State, ...], spill: CrossIllumination | None, every: tuple[Key, ...], left: tuple[float, ...],
    skin: tuple[Array, Array],
) -> RoomLights:  # fmt: skip
    """What shines of a room.

    Parameters
    ----------
    states : of its lamps
    every : keys of all that may shine in, as ``spill`` has them
    left : what wires leave of each of its openings
    skin : two (openings, 3) arrays
        Where each lies on the skin, and which way it faces there.
    """
    at, normal = skin
    keyed, light, led = by_key(room, [s.key for s in states], [s.flux_lm for s in states], spill, every)
    walls = walls_lx(room, light, led) if keyed else np.zeros((len(room.cavity.box.area), 0))
    all_of = _Gathering(catalogue, room, states, left)
    all_of.straight_on(spill, every, at, normal)
    if keyed:
        all_of.through_clear(walls, keyed)
    keys = tuple(all_of.number)
    panes = np.zeros((len(room.openings), len(keys)))
    for k, c, value in all_of.cells:
        panes[k, c] += value
    beams, beam_key = _rows(room, panes, at, normal)
    points = points_of(all_of.points, all_of.number)
    return RoomLights(keys, panes, points, tuple(all_of.insides), beams, beam_key, walls, tuple(keyed))


class _Gathering:
    """What shines of a room, as it is found."""

    def __init__(
        self, catalogue: Catalogue, room: LitSection, states: tuple[State, ...], left: tuple[float, ...]
    ) -> None:
        self.catalogue, self.room, self.states, self.left = catalogue, room, states, left
        self.number: dict[Key, int] = {}
        self.cells: list[tuple[int, int, float]] = []
        self.points: list[Seen] = []
        self.insides: list[Inside] = []

    def key(self, key: Key) -> int:
        return self.number.setdefault(key, len(self.number))

    def point(self, seen: Seen) -> None:
        self.key(seen.key)
        self.points.append(seen)

    def straight_on(self, spill: CrossIllumination | None, every: tuple[Key, ...], at: Array, normal: Array) -> None:
        """What the panes show straight on, and lenses with a lamp behind them."""
        room = self.room
        for k, o in enumerate(room.openings):
            if o.into or not (room.lit[k] or (len(room.glows) and room.glows[k])):
                continue
            for j, (p, state) in enumerate(zip(room.lamps, self.states, strict=True)):
                value = float(room.luminance_per_lm[k, j]) * state.flux_lm * self.left[k]
                key = (state.channel, colour_kept(self.catalogue, room, k, p)[1] or state.rgb)
                if value > 0:
                    self.cells.append((k, self.key(key), value))
                if o.lens is not None and room.sights[k, j] > 0:
                    part = self.catalogue.lamps[p.part]
                    wide, order = face_shown_mm(self.catalogue, o, p, part), order_aside(self.catalogue, o, p, part)
                    cd = float(room.sights[k, j]) * state.flux_lm * math.pi * (wide * 0.5e-3) ** 2
                    self.point(Seen(at[k], normal[k], order, cd, wide, o.id, key))
            if spill is not None:
                for key, value in zip(every, (spill.luminance[k] * self.left[k]).tolist(), strict=True):
                    if value > 0:
                        self.cells.append((k, self.key(key), value))

    def through_clear(self, walls: Array, keyed: Sequence[Key]) -> None:
        """What is seen through clear panes: the walls, and lamps where they stand."""
        room, mine = self.room, clear_panes(self.room).tolist()
        for colours in dict.fromkeys(room.colours[k] for k in mine):
            alike = np.array([k for k in mine if room.colours[k] == colours], dtype=np.intp)
            left = np.array(self.left)[alike]
            shares, keys = [], []
            for key in keyed:
                own = next((p for p, s in zip(room.lamps, self.states, strict=True) if s.key == key), None)
                share, rgb = colour_kept(self.catalogue, room, int(alike[0]), own) if own is not None else (1.0, None)
                shares.append(share)
                keys.append(self.key((key[0], rgb or key[1])))
            self.insides.append(inside_of(room, alike, walls, left[:, None] * np.array(shares), keys, alike.tolist()))
            for p, state in zip(room.lamps, self.states, strict=True):
                if state.flux_lm > 0:
                    self._lamp(p, state, alike, left)

    def _lamp(self, p: Lamp, state: State, alike: npt.NDArray[np.intp], left: Array) -> None:
        room, wide = self.room, self.catalogue.lamps[p.part].face_mm
        share, rgb = colour_kept(self.catalogue, room, int(alike[0]), p)
        for lobe in lobes_of(self.catalogue, p, room.cavity.corner):
            for k, part in zip(alike.tolist(), (left * share).tolist(), strict=True):
                o = room.openings[k]
                cd = lobe.cd * state.flux_lm * part * o.lit * room.cavity.panes[k].clear
                self.point(Seen(lobe.at, lobe.aim, lobe.order, cd, wide, o.id, (state.channel, rgb or state.rgb), k))


def _rows(room: LitSection, panes: Array, at: Array, normal: Array) -> tuple[Array, npt.NDArray[np.intp]]:
    """Rows of lit panes as diffuse sources of I = L·A."""
    rows: list[tuple[float, ...]] = []
    keys: list[int] = []
    groups: dict[str, list[int]] = {}
    for k, o in enumerate(room.openings):
        if panes[k].any():
            groups.setdefault(o.side, []).append(k)
    for mine in groups.values():
        for part in parted(at[mine]):
            here = [mine[k] for k in part]
            cd = panes[here] * np.array([room.openings[k].area_mm2 * 1e-6 for k in here])[:, None]
            whole = cd.sum(axis=1)
            middle = whole @ at[here] / whole.sum()
            aim = normal[here].mean(axis=0)
            aim = aim / max(float(np.linalg.norm(aim)), 1e-9)
            for c in np.flatnonzero(cd.sum(axis=0)).tolist():
                rows.append((*(middle + 0.3 * aim).tolist(), *aim.tolist(), 1.0, float(cd[:, c].sum())))
                keys.append(c)
    return np.array(rows, dtype=float).reshape(-1, 8), np.array(keys, dtype=np.intp)
