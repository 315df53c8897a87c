"""A plan as a solid to walk round: sections from their outlines, openings on their skins."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import DRAWN_AS, NORMALS, PLANES, Face
from gwiazda.core.plan.model import Fitting, Opening, Section
from gwiazda.core.render import round as around
from gwiazda.core.render.solid import normals_of, parted, slab, solid, thin_pane

Array = npt.NDArray[np.float64]
Array32 = npt.NDArray[np.float32]

PROUD_MM = 0.15  # of the skin: so that a pane is seen before what it lies on
MANY = 100  # sections: with more of them they are shown in fewer parts
FEW_SLICES = 12  # for each section of such a plan
ROOF = 0.8  # cosine: a face that looks up as much as this is of the roof
FINE = 0.25  # of the model's half size: faces longer than this are seen in parts, each with its own view of the lamps
TURN = 16  # corners of a round pane


class Model(NamedTuple):
    """``skins`` (T, 3, 3) in the order of sections and fittings, ``section`` (T,) their numbers; panes behind them: ``pane`` (P', 3, 3) and ``pane_of`` (P',)
    numbers into ``openings``; ``at`` and ``normal`` (O, 3) of each opening on its skin."""

    sections: tuple[Section, ...]
    fittings: tuple[Fitting, ...]
    skins: Array
    section: npt.NDArray[np.int32]
    openings: tuple[Opening, ...]
    pane: Array
    pane_of: npt.NDArray[np.int32]
    at: Array
    normal: Array
    normals: Array  # (T + P', 3)
    bodies: around.Bodies
    inside: npt.NDArray[np.bool_]  # (T + P',): a wall as it is seen from inside, where a roof is off

    @property
    def parts(self) -> tuple[Section | Fitting, ...]:
        """What the skins belong to, by their numbers."""
        return (*self.sections, *self.fittings)

    @property
    def triangles(self) -> Array:
        """Skins and panes, by the numbers of the picture."""
        return np.concatenate([self.skins, self.pane])

    @property
    def middle(self) -> Array:
        """The middle of its box, mm."""
        low, high = self.box
        return np.asarray((low + high) / 2)

    @property
    def box(self) -> tuple[Array, Array]:
        """Its lowest and highest corner, mm."""
        points = self.skins.reshape(-1, 3)
        if not len(points):
            return np.array([-50.0, -20.0, -20.0]), np.array([50.0, 20.0, 20.0])
        return points.min(axis=0), points.max(axis=0)

    @property
    def corners(self) -> Array:
        """Corners of the boxes around its parts, of the box around all where they are many: (N, 3) mm."""
        boxes = [self.box]
        if 0 < len(self.parts) <= MANY and len(self.skins):
            owned = [self.skins[self.section == i].reshape(-1, 3) for i in range(len(self.parts))]
            boxes = [(p.min(axis=0), p.max(axis=0)) for p in owned if len(p)]
        return np.array([[b[k][i] for i, k in enumerate(which)] for b in boxes for which in np.ndindex(2, 2, 2)])

    @property
    def radius(self) -> float:
        """Of the ball around it, mm."""
        low, high = self.box
        return float(np.linalg.norm(high - low) / 2)


def _drawn(section: Section) -> dict[str, list[Array]]:
    """The outlines of a section that have an area, by the side they are seen from."""
    drawn: dict[str, list[Array]] = {"port": [], "top": [], "bow": []}
    for o in section.outlines:
        side = DRAWN_AS[o.side]
        points = np.array(o.points, dtype=float)
        if min(np.ptp(points, axis=0)) > 1e-6:
            drawn[side].append(points)
    return drawn


@memoize(slots=2)
def boxed(sections: tuple[Section, ...]) -> tuple[str, ...]:
    """Sections with no outline that has an area: they are shown as their inner box with walls."""
    return tuple(s.id for s in sections if not any(_drawn(s).values()))


@memoize(slots=2, by=lambda section, most: section.id, places=4096)
def _skin(section: Section, most: int) -> Array:
    """A section's triangles. An outline without area, or none at all, leaves its inner box with walls around it."""
    drawn = _drawn(section)
    low = [a - section.wall_mm for a in section.box.at]
    high = [a + s + section.wall_mm for a, s in zip(section.box.at, section.box.size, strict=True)]
    found = solid(drawn["port"], drawn["top"], drawn["bow"][0] if drawn["bow"] else None, low, high, most)
    return found if len(found) else solid([], [], None, low, high)


@memoize(slots=2, by=lambda fitting: fitting.id, places=2048)
def _stands(fitting: Fitting) -> Array:
    """A fitting's triangles."""
    h, v, d = PLANES[fitting.side]
    made = slab(np.array(fitting.points, dtype=float), fitting.thick_mm)
    out = np.empty_like(made)
    for axis, k in ((h, 0), (d, 1), (v, 2)):
        out[..., axis] = made[..., k] + fitting.at[axis]
    # Along, across and up run the other way round where they stand for y and z, or y and x.
    return out if (h, d, v) == (0, 1, 2) else out[:, ::-1]


def _ring(o: Opening) -> Array:
    """A pane's outline about its middle, mm, along its side's two axes."""
    w, h = o.width_mm / 2, o.height_mm / 2
    if o.shape == "traced":
        return np.array(o.points) * [o.width_mm, o.height_mm]
    if o.shape == "rect":
        return np.array([(-w, -h), (w, -h), (w, h), (-w, h)])
    turn = 2.0 * np.pi * (np.arange(TURN) + 0.5) / TURN
    if o.shape == "round":
        return np.column_stack([w * np.cos(turn), h * np.sin(turn)])
    short = min(w, h)
    c, s = np.cos(turn), np.sin(turn)
    return np.column_stack([np.copysign(w - short, c) + short * c, np.copysign(h - short, s) + short * s])


def _on_skin(section: Section, skin: Array, openings: Sequence[Opening]) -> tuple[Array, Array]:
    """Where openings lie on a skin and which way it faces there: (O, 3) each; by a ray from far outside, straight at their side. What meets
    no skin stays on its side's wall."""
    at, normal = np.array([o.at for o in openings], dtype=float).reshape(-1, 3), np.zeros((len(openings), 3))
    faces = normals_of(skin)
    for side in {o.side for o in openings}:
        mine = [i for i, o in enumerate(openings) if o.side == side]
        n, (h, v, d) = np.array(NORMALS[side], dtype=float), PLANES[side]
        normal[mine] = n
        wall = section.box.at[d] + (section.box.size[d] if n[d] > 0 else 0.0) + n[d] * section.wall_mm
        towards = np.flatnonzero(faces @ n > 0.05)
        tri = skin[towards]
        p = at[mine]
        a, b, c = (tri[:, k][:, [h, v]] for k in range(3))
        area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (b[:, 1] - a[:, 1])
        area = np.where(np.abs(area) < 1e-12, np.inf, area)
        x, y = p[:, h, None], p[:, v, None]
        u = ((x - a[:, 0]) * (c[:, 1] - a[:, 1]) - (c[:, 0] - a[:, 0]) * (y - a[:, 1])) / area
        w = ((b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (x - a[:, 0]) * (b[:, 1] - a[:, 1])) / area
        inside = (u >= -1e-6) & (w >= -1e-6) & (u + w <= 1 + 1e-6)
        deep = tri[:, 0, d] + u * (tri[:, 1, d] - tri[:, 0, d]) + w * (tri[:, 2, d] - tri[:, 0, d])
        deep = np.where(inside, deep * n[d], -np.inf)
        if deep.shape[1]:
            best = deep.argmax(axis=1)
            for k, i in enumerate(mine):
                if np.isfinite(deep[k, best[k]]):
                    at[i, d] = deep[k, best[k]] * n[d]
                    normal[i] = faces[towards[best[k]]]
                else:
                    at[i, d] = wall
        else:
            at[mine, d] = wall
    return at, normal


def _directions(o: Opening, normal: Array) -> tuple[Array, Array]:
    """A pane's two directions along its skin, each for a mm of its side's own view."""
    h, v, d = PLANES[o.side]
    across, up = np.zeros(3), np.zeros(3)
    across[h] = up[v] = 1.0
    if abs(normal[d]) > 0.2:
        across[d], up[d] = -normal[h] / normal[d], -normal[v] / normal[d]
    return across, up


def _lidless(skin: Array, lid: Face) -> Array:
    """A skin without its lid, the rest seen from inside as well: the outer half first."""
    left = skin[normals_of(skin) @ np.array(NORMALS[lid], dtype=float) < ROOF]
    return np.concatenate([left, left[:, ::-1]])


@memoize(slots=4)
def model_of(
    sections: tuple[Section, ...], openings: tuple[Opening, ...], fittings: tuple[Fitting, ...] = (), opened: frozenset[str] = frozenset()
) -> Model:  # fmt: skip
    """The solid of a plan with its openings on it; kept while none changes. Sections named in ``opened`` are without their lids."""
    most = FEW_SLICES if len(sections) > MANY else 96
    skins = [_skin(s, most) for s in sections]
    shown = tuple(o for o in openings if not o.into)
    at, normal = np.zeros((len(shown), 3)), np.zeros((len(shown), 3))
    by_section: dict[str, list[int]] = {}
    for i, o in enumerate(shown):
        by_section.setdefault(o.section, []).append(i)
    for s, skin in zip(sections, skins, strict=True):
        mine = by_section.get(s.id, [])
        if mine:
            at[mine], normal[mine] = _on_skin(s, skin, [shown[i] for i in mine])
    standing = [_stands(f) for f in fittings]
    solid_parts = np.concatenate([*skins, *standing]) if skins or standing else np.zeros((0, 3, 3))
    if opened:
        skins = [_lidless(x, s.lid) if s.id in opened else x for s, x in zip(sections, skins, strict=True)]
    every = [*skins, *standing]
    owner = np.repeat(np.arange(len(every)), [len(x) for x in every]).astype(np.int32)
    lidless = [s.id in opened for s in sections] + [False] * len(fittings)
    halves = [np.arange(len(x)) >= (len(x) / 2 if off else len(x)) for off, x in zip(lidless, every, strict=True)]
    whole, behind = solid_parts, np.zeros(0, dtype=bool)
    if every:
        whole, behind = np.concatenate(every), np.concatenate(halves)
        if len(every) <= MANY:
            longest = FINE * float(np.linalg.norm(np.ptp(solid_parts.reshape(-1, 3), axis=0))) / 2
            whole, of = parted(whole, max(longest, 1.0))
            owner, behind = owner[of], behind[of]
    panes, pane_of = [], []
    for i, o in enumerate(shown):
        across, up = _directions(o, normal[i])
        part = thin_pane(at[i], across, up, normal[i], _ring(o), PROUD_MM)
        panes.append(part)
        pane_of += [i] * len(part)
    pane = np.concatenate(panes) if panes else np.zeros((0, 3, 3))
    normals = np.concatenate([normals_of(whole), normals_of(pane)])
    inside = np.concatenate([behind, np.zeros(len(pane), dtype=bool)])
    return Model(
        sections, fittings, whole, owner, shown, pane, np.array(pane_of, dtype=np.int32), at, normal, normals, around.bodies_of(solid_parts, whole), inside
    )  # fmt: skip
