"""Where a lamp's own light lands: on the inner faces of its section, or, outside, on the outlines of all sections.

Kept obstacles and the solid bodies of sections stand in its way: a hidden flood behind a lip washes nothing.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.light.sightline import Solid, throw
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import PLANES, SHEET, Side
from gwiazda.core.plan.lookup import lamps_by_section, section_of
from gwiazda.core.plan.model import Fitting, Lamp, Plan, Section
from gwiazda.core.render.layers import Bodies

Array = npt.NDArray[np.float64]
SAMPLES, STEP_MM, MOST_STRIPS = 40, 2.0, 4000
RAISE_MM, MOST_RAISED_MM = 0.5, 60.0
LIT_SHARE = 0.05  # of the brightest place: less counts as unlit
TOUCHING_MM = 0.05


class Strip(NamedTuple):
    """A piece of a face as seen in a view: its two ends on the model (mm), and the light on it (lx)."""

    a: tuple[float, float, float]
    b: tuple[float, float, float]
    lux: float


class Landing(NamedTuple):
    """``lit_share``: of the faces seen in the view, by length."""

    strips: tuple[Strip, ...]
    peak_lx: float
    lit_share: float


def box_solid(low: Array, high: Array) -> Solid:
    return np.asarray(low, dtype=float), np.asarray(high, dtype=float)


@memoize(slots=8)
def solids_of(sections: tuple[Section, ...]) -> tuple[Solid, ...]:
    """The bodies that light can't pass: each section's box with its wall, and the obstacles that are kept."""
    out = []
    for s in sections:
        low, size = np.array(s.box.at, dtype=float), np.array(s.box.size, dtype=float)
        out.append(box_solid(low - s.wall_mm, low + size + s.wall_mm))
        out += lips_of(s)
    return tuple(out)


def lips_of(section: Section) -> tuple[Solid, ...]:
    """The obstacles of a section that are kept."""
    return tuple(
        box_solid(np.array(o.box.at), np.array(o.box.at) + np.array(o.box.size))
        for o in section.obstacles
        if o.action == "keep"
    )


def in_its_way(solids: tuple[Solid, ...], at: Array) -> tuple[Solid, ...]:
    """The solids a lamp at a place is not itself in: one set into a wall looks out of it."""
    return tuple(s for s in solids if not np.all((at > s[0] + TOUCHING_MM) & (at < s[1] - TOUCHING_MM)))


@memoize(slots=8)
def sheet_bodies(sections: tuple[Section, ...], side: Side, fittings: tuple[Fitting, ...] = ()) -> Bodies:
    """The bodies of the sections and fittings on a view's sheet: their outlines as far as the view shows them, as deep as box and walls reach; boxes
    where none is drawn, and for what stands inside."""
    h, v, d = PLANES[side]
    turn = np.array(SHEET[side], dtype=float)
    boxes: list[tuple[Array, Array]] = []
    outlines: list[Array | None] = []
    for s in sections:
        low, size = np.array(s.box.at, dtype=float), np.array(s.box.size, dtype=float)
        first, last = low - s.wall_mm, low + size + s.wall_mm
        drawn: list[Array | None] = [np.array(o.points) for o in s.drawn(side)]
        for points in drawn or [None]:
            a, b = first.copy(), last.copy()
            if points is not None:
                a[[h, v]], b[[h, v]] = points.min(axis=0), points.max(axis=0)
            boxes.append((a, b))
            outlines.append(points * turn[:2] if points is not None else None)
        for a, b in lips_of(s):
            boxes.append((a, b))
            outlines.append(None)
    for f in fittings:
        low = np.array(f.low)
        boxes.append((low, low + np.array(f.size)))
        outlines.append(np.array(f.seen(side)) * turn[:2])
    corners = np.array([[a[[h, v, d]] * turn, b[[h, v, d]] * turn] for a, b in boxes]).reshape(-1, 2, 3)
    return Bodies(np.sort(corners, axis=1), tuple(outlines))


def home_of(plan: Plan, lamp: Lamp) -> Section | None:
    """The section a lamp is inside of; None for one that is outside."""
    home = lamps_by_section(plan.sections, plan.lamps).get(lamp.id)
    return section_of(plan, home) if home else None


def _inner_edges(section: Section, lamp: Lamp, side: Side) -> list[tuple[Array, Array, Array]]:
    """The four edges of a section's box in a view, at the lamp's depth: starts, ends (n, 3), normal inwards."""
    h, v, _ = PLANES[side]
    low = np.array(section.box.at, dtype=float)
    high = low + np.array(section.box.size, dtype=float)
    t = np.linspace(0.0, 1.0, SAMPLES + 1)
    out = []
    for fixed, along in ((h, v), (v, h)):
        for value, inward in ((low[fixed], 1.0), (high[fixed], -1.0)):
            points = np.tile(np.array(lamp.at, dtype=float), (SAMPLES + 1, 1))
            points[:, fixed], points[:, along] = value, low[along] + t * (high[along] - low[along])
            normal = np.zeros(3)
            normal[fixed] = inward
            out.append((points[:-1], points[1:], normal))
    return out


def _outer_edges(plan: Plan, lamp: Lamp, side: Side) -> list[tuple[Array, Array, Array]]:
    """The outlines of all sections in a view, at the lamp's depth, with their normals outwards."""
    h, v, d = PLANES[side]
    out = []
    for section in plan.sections:
        low, size = section.box.at[d] - section.wall_mm, section.box.size[d] + 2 * section.wall_mm
        # Where the lamp is beside the section, its light lands on the near side of it.
        depth = min(max(lamp.at[d], low), low + size)
        for outline in section.drawn(side):
            points = np.array(outline.points, dtype=float)
            ends = np.roll(points, -1, axis=0)
            area = float(np.sum(points[:, 0] * ends[:, 1] - ends[:, 0] * points[:, 1]))
            for p, q in zip(points, ends, strict=True):
                length = float(np.linalg.norm(q - p))
                if length < 1e-6:
                    continue
                steps = max(1, min(int(length / STEP_MM), SAMPLES))
                t = np.linspace(0.0, 1.0, steps + 1)[:, None]
                run = np.full((steps + 1, 3), depth)
                run[:, [h, v]] = p + t * (q - p)
                normal = np.zeros(3)
                normal[h], normal[v] = (q[1] - p[1]) / length, -(q[0] - p[0]) / length
                out.append((run[:-1], run[1:], normal if area > 0 else -normal))
    return out


def landing(catalogue: Catalogue, plan: Plan, lamp: Lamp, side: Side, share: float = 1.0) -> Landing:
    """The light of a lamp on the faces seen edge-on in a view, past what stands in between; bounces are not counted.

    ``share``: of its light at rated current.
    """
    home = home_of(plan, lamp)
    at, light = np.array(lamp.at, dtype=float), worked(catalogue, lamp)
    if home is not None:
        edges, lips = _inner_edges(home, lamp, side), lips_of(home)
    else:
        edges, lips = _outer_edges(plan, lamp, side), in_its_way(solids_of(plan.sections), at)
    strips: list[Strip] = []
    lit = total = best = 0.0
    rows = []
    for starts, ends, normal in edges:
        middle = (starts + ends) / 2.0
        # A hair off the face, so that the body it belongs to doesn't stand in the way.
        lux = throw(
            at, np.array(lamp.aim), max(light.order, 0.0), light.axial_cd * share, middle + normal * 0.1, normal, lips
        )
        best = max(best, float(lux.max(initial=0.0)))
        rows.append((starts, ends, lux))
    for starts, ends, lux in rows:
        length = np.linalg.norm(ends - starts, axis=1)
        total += float(length.sum())
        lit += float(length[lux > LIT_SHARE * best].sum()) if best > 0 else 0.0
        strips += [
            Strip(_triple(a), _triple(b), float(x)) for a, b, x in zip(starts, ends, lux, strict=True) if x > 0.0
        ]
    return Landing(tuple(strips[:MOST_STRIPS]), best, lit / total if total else 0.0)


def _triple(point: Array) -> tuple[float, float, float]:
    return float(point[0]), float(point[1]), float(point[2])


def higher(plan: Plan, lamp: Lamp, side: Side, target: tuple[float, float]) -> float | None:
    """How much higher (mm, in the view) a lamp would have to sit for its light to reach a place of the view past what
    stands in between: 0 where it does; None where no height does."""
    home = home_of(plan, lamp)
    h, v, _ = PLANES[side]
    goal = np.array(lamp.at, dtype=float)
    goal[h], goal[v] = target
    top = home.box.at[v] + home.box.size[v] if home is not None else lamp.at[v] + MOST_RAISED_MM
    for step in range(int(MOST_RAISED_MM / RAISE_MM)):
        at = np.array(lamp.at, dtype=float)
        at[v] += step * RAISE_MM
        if at[v] > top:
            return None
        way = goal - at
        far = float(np.linalg.norm(way))
        if far < 1e-6:
            return 0.0
        lips = lips_of(home) if home is not None else in_its_way(solids_of(plan.sections), at)
        short = at + way * max(1.0 - 0.2 / far, 0.5)
        if throw(at, way, 1.0, 1.0, short[None], -way / far, lips)[0] > 0:
            return step * RAISE_MM
    return None
