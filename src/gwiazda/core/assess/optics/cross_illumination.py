"""What comes into sections from next door: straight from a lamp through a hole, and evenly from what bounces."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.cavities import Cavity, port_light
from gwiazda.core.assess.optics.emitters import emitters
from gwiazda.core.assess.optics.joints import Joint, Port
from gwiazda.core.assess.optics.lit_sections import LitSection
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp
from gwiazda.core.radiosity.beams import within
from gwiazda.core.radiosity.beyond import Gate, Straight, straight
from gwiazda.core.radiosity.enclosure import bounced
from gwiazda.core.radiosity.formfactors import in_plane
from gwiazda.core.radiosity.shape import FACES

Array = npt.NDArray[np.float64]
PASSES, SETTLED = 60, 1e-4
LEAST_LM = 1e-5  # of a lamp's light, straight through a hole: less is taken as coming through evenly


class CrossIllumination(NamedTuple):
    """What comes into a section from next door, by source: luminance of its windows (W, C), lx on its walls (N, C)."""

    luminance: Array
    cells: Array


class _Side(NamedTuple):
    """One side of a joint: its room, and which of the room's ports it is."""

    room: LitSection
    number: int
    port: Port

    @property
    def key(self) -> str:
        return self.port.section


def _sides(rooms: Mapping[str, LitSection], joints: Sequence[Joint]) -> list[tuple[_Side, _Side]]:
    counts: dict[str, int] = {}
    out = []
    for joint in joints:
        pair = []
        for port in joint.sides:
            number = counts.get(port.section, 0)
            counts[port.section] = number + 1
            pair.append(_Side(rooms[port.section], number, port))
        out.append((pair[0], pair[1]))
    return out


def _gate(port: Port, size: Array, shift: Array) -> Gate:
    """A port as a rectangle, moved by ``shift`` mm; its face is of a box of ``size``."""
    axis, end = FACES[port.face]
    u, v = in_plane(axis)
    low, high = ((float(p[0] + shift[u]), float(p[1] + shift[v])) for p in (port.low, port.high))
    return Gate(axis, float(size[axis] * end + shift[axis]), low, high)


@memoize(slots=1, by=lambda catalogue, lamp, near, far, into, out: (lamp.id, into, out), places=1024)
def _straight(catalogue: Catalogue, lamp: Lamp, near: Cavity, far: Cavity, into: Port, out: Port) -> Straight:
    """What a lamp of one section sends straight through a hole into another."""
    light = emitters(catalogue, lamp, near.corner)
    shift = near.corner - far.corner
    beams = within(light.beams, near.box.size)
    before = []
    for b in near.box.baffles:
        u, v = in_plane(b.axis)
        low, high = ((p[0] + shift[u], p[1] + shift[v]) for p in (b.low, b.high))
        before.append(b._replace(at=b.at + shift[b.axis], low=low, high=high))
    hole = _gate(into, near.box.size, shift), _gate(out, far.box.size, np.zeros(3))
    return straight(far.box, out.face, beams._replace(at=beams.at + shift), light.share, hole, before)


def _sent_straight(
    catalogue: Catalogue, pairs: Sequence[tuple[_Side, _Side]], joints: Sequence[Joint], flux: Mapping[str, Array],
    own: dict[str, Array],
) -> dict[str, tuple[Array, Array]]:  # fmt: skip
    """Windows and ports (W + P, C) and cells (N, C) that lamps next door light straight, by section; taken out of ``own``, what goes on evenly."""
    out: dict[str, tuple[Array, Array]] = {}
    for joint, (one, other) in zip(joints, pairs, strict=True):
        if joint.kind != "hole":
            continue
        for near, far in ((one, other), (other, one)):
            box = far.room.cavity.box
            row = len(near.room.openings) + near.number
            area_m2 = float(near.room.cavity.box.window_area[row]) * 1e-6
            for lamp, light in zip(near.room.lamps, near.room.lights, strict=True):
                if not flux[lamp.id].any() or float(light.points[row].mean()) * area_m2 < LEAST_LM:
                    continue
                found = _straight(catalogue, lamp, near.room.cavity, far.room.cavity, near.port, far.port)
                if found.passed_lm <= 0.0:
                    continue
                windows, cells = out.setdefault(
                    far.key, (np.zeros((len(box.windows.face), own[far.key].shape[1])), np.zeros((len(box.area), own[far.key].shape[1])))
                )  # fmt: skip
                windows += found.windows[:, None] * flux[lamp.id]
                cells += found.cells[:, None] * flux[lamp.id]
                rest = np.maximum(own[near.key][near.number] - found.passed_lm / area_m2 * flux[lamp.id], 0.0)
                own[near.key][near.number] = rest
    return out


def cross_illumination_of(
    catalogue: Catalogue,
    rooms: Mapping[str, LitSection],
    joints: Sequence[Joint],
    flux: Mapping[str, Array],
    sources: int,
) -> dict[str, CrossIllumination]:
    """Light through holes and walls into the neighbours, and on into theirs, back and forth until it settles.

    Parameters
    ----------
    flux : mapping of lamp id to (sources,) array
        Flux (lm) of each lamp, split by source (a channel, a colour); a lamp has its light in one of them.

    What a lamp sends straight through a hole goes on straight, into the next section and no further; all else goes on diffusely, as from a lit
    pane.
    """
    if not joints:
        return {}
    pairs = _sides(rooms, joints)
    arriving: dict[str, Array] = {}
    for side in (s for pair in pairs for s in pair):
        if side.key not in arriving:
            light = np.array([flux.get(p.id, np.zeros(sources)) for p in side.room.lamps]).reshape(-1, sources)
            arriving[side.key] = side.room.ports_per_lm @ light
    if not any(a.any() for a in arriving.values()):
        return {}
    own = {key: light.copy() for key, light in arriving.items()}
    direct = _sent_straight(catalogue, pairs, joints, flux, own)
    walls: dict[str, Array] = {}
    for key, (windows, cells) in list(direct.items()):
        room = rooms[key]
        walls[key] = np.asarray(bounced(room.cavity.box, cells), dtype=float)
        reached = windows + room.cavity.box.gather @ cells
        direct[key] = reached, cells
        own[key] = own[key] + reached[len(room.openings) :]
    arriving = own
    sent: dict[str, Array] = {}
    for _ in range(PASSES):
        sent = {key: np.zeros_like(light) for key, light in own.items()}
        for joint, (a, b) in zip(joints, pairs, strict=True):
            sent[a.key][a.number] = joint.through * arriving[b.key][b.number]
            sent[b.key][b.number] = joint.through * arriving[a.key][a.number]
        now = {}
        for key, light in sent.items():
            room = rooms[key]
            back = port_light(room.cavity.box, room.cavity.own)[0][len(room.openings) :]
            now[key] = own[key] + back @ light
        change = max(float(np.abs(now[k] - arriving[k]).max(initial=0.0)) for k in now)
        level = max(float(now[k].max(initial=0.0)) for k in now)
        arriving = now
        if change <= SETTLED * level:
            break
    found = {}
    for key, light in sent.items():
        if not light.any() and key not in direct:
            continue
        room = rooms[key]
        on_windows, on_cells = port_light(room.cavity.box, room.cavity.own)
        lux, on_walls = on_windows[: len(room.openings)] @ light, np.asarray(on_cells @ light, dtype=float)
        if key in direct:
            lux, on_walls = lux + direct[key][0][: len(room.openings)], on_walls + walls[key]
        found[key] = CrossIllumination(room.show[:, :1] * lux + room.show[:, 1:] * on_walls[room.behind], on_walls)
    return found
