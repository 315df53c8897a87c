"""What wires and fibres cross: panes they lie over, clear panes they are seen through."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.fibres.ways import led_through, way_of
from gwiazda.core.assess.states import Crossing, LoomState
from gwiazda.core.memo import memoize, same_figures, same_gathered
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import PLANES
from gwiazda.core.plan.lookup import lamps_table, openings_by_section
from gwiazda.core.plan.model import Obstacle, Opening, Plan
from gwiazda.core.space.run import Array, Place

NEAR_MM = 4.0  # so near to a pane a wire is a line on it; further in it is a thing behind the glass
CLEAR = 0.30  # a pane that scatters less shows what lies behind


def crossings(catalogue: Catalogue, plan: Plan, loom: LoomState) -> tuple[Crossing, ...]:
    """All crossings of a plan."""
    return _crossings(catalogue, plan, loom) if (loom.runs or plan.dots) and plan.openings else ()


class _Behind(NamedTuple):
    """What decides what is seen of a line in a section: its size, what stands in it, its panes. Paint doesn't."""

    size: tuple[float, float, float]
    obstacles: tuple[Obstacle, ...]
    glazing: str
    soften: tuple[str, ...]
    openings: tuple[Opening, ...]


class _Line(NamedTuple):
    """A wire or a fibre: its diameter (mm), its way, and the sections it comes by."""

    name: str
    thick: float
    points: tuple[Place, ...] | Array
    sections: set[str]


def _comes_near(catalogue: Catalogue, lines: Sequence[_Line], behind: Mapping[str, _Behind]) -> list[set[str]]:
    """Of each line the sections in which it may lie over a pane, by the box it lies in: most lie over none."""
    if not lines:
        return []
    counts = [len(line.points) for line in lines]
    places, first = np.concatenate([np.asarray(line.points) for line in lines]), np.cumsum([0, *counts[:-1]])
    low, high = np.minimum.reduceat(places, first), np.maximum.reduceat(places, first)
    out: list[set[str]] = [set() for _ in lines]
    for name, section in behind.items():
        mine = [i for i, line in enumerate(lines) if name in line.sections]
        for i in np.flatnonzero(_lie_over(_frames(catalogue, section), low[mine], high[mine]).any(axis=1)).tolist():
            out[mine[i]].add(name)
    return out


@memoize(slots=2)
def _crossings(catalogue: Catalogue, plan: Plan, loom: LoomState) -> tuple[Crossing, ...]:
    rooms = {p.id: (p.section, p.into) for p in plan.passages}
    grouped = openings_by_section(plan.openings)
    behind = {
        s.id: _Behind(s.box.size, s.obstacles, s.glazing, s.soften, grouped[s.id])
        for s in plan.sections
        if s.id in grouped
    }
    lines: list[_Line] = []
    for r in loom.runs.values():
        if r.kind != "fibre" and len(r.points) > 1:
            here = {r.start, *(room for i in r.through or () for room in rooms[i])}
            lines.append(_Line(r.id, r.outside_mm, r.points, {name for name in here if name in behind}))
    lamps, led = lamps_table(plan.lamps), led_through(plan)
    for d in plan.dots:
        lamp, fibre = lamps.get(d.lamp), catalogue.fibres.get(d.fibre)
        if lamp is not None and fibre is not None and d.section in behind:
            run = way_of(d, lamp, fibre.diameter_mm, led.get(d.id, ()))
            lines.append(_Line(d.id, fibre.diameter_mm, run.points, {d.section}))
    out: list[Crossing] = []
    for line, near in zip(lines, _comes_near(catalogue, lines, behind), strict=True):
        seen = tuple(b for name, b in behind.items() if name in near)
        if seen:
            out += _of_line(catalogue, line.name, line.thick, line.points, seen)
    return tuple(sorted(out, key=lambda c: -c.share))


@memoize(slots=2, by=lambda catalogue, name, *_: name, places=25_000, same=same_figures)
def _of_line(
    catalogue: Catalogue, name: str, thick: float, points: tuple[Place, ...] | Array, sections: tuple[_Behind, ...]
) -> tuple[Crossing, ...]:
    """What one wire or fibre crosses in the sections it comes by; kept, for of many only a few move at a time."""
    way = np.array(points)
    out = []
    for section in sections:
        for o in _met(_frames(catalogue, section), way):
            found = _over(catalogue, section, o, way, thick, name)
            if found is not None:
                out.append(found)
    return tuple(out)


class _Frames(NamedTuple):
    """The lit panes of a section: their view's axes (N,), and their edges along them (N,)."""

    openings: tuple[Opening, ...]
    h: np.ndarray
    v: np.ndarray
    low_h: np.ndarray
    high_h: np.ndarray
    low_v: np.ndarray
    high_v: np.ndarray
    d: np.ndarray
    at_d: np.ndarray
    reach: np.ndarray  # how far in something is a line on the pane, or seen through it


def _is_clear(catalogue: Catalogue, section: _Behind, o: Opening) -> bool:
    """Whether one sees through a pane."""
    pane = catalogue.glazings.get(o.glazing or section.glazing)
    return pane is not None and pane.scattered < CLEAR and not (o.soften if o.soften is not None else section.soften)


@memoize(slots=64, same=same_gathered)
def _frames(catalogue: Catalogue, section: _Behind) -> _Frames:
    lit = tuple(o for o in section.openings if o.lit > 0 and not o.into)
    h = np.array([PLANES[o.side][0] for o in lit], dtype=int)
    v = np.array([PLANES[o.side][1] for o in lit], dtype=int)
    at = np.array([o.at for o in lit]).reshape(-1, 3)
    wide, tall = np.array([o.width_mm / 2 for o in lit]), np.array([o.height_mm / 2 for o in lit])
    rows = np.arange(len(lit))
    d = np.array([PLANES[o.side][2] for o in lit], dtype=int)
    reach = np.array([section.size[PLANES[o.side][2]] if _is_clear(catalogue, section, o) else NEAR_MM for o in lit])
    return _Frames(
        lit, h, v, at[rows, h] - wide, at[rows, h] + wide, at[rows, v] - tall, at[rows, v] + tall, d, at[rows, d], reach
    )


def _met(f: _Frames, points: np.ndarray) -> list[Opening]:
    """The panes whose frame a stretch of a way may lie over."""
    if not f.openings:
        return []
    a, b = points[:-1], points[1:]
    met = _lie_over(f, np.minimum(a, b), np.maximum(a, b)).any(axis=0)
    return [f.openings[k] for k in np.flatnonzero(met)]


def _lie_over(f: _Frames, low: Array, high: Array) -> npt.NDArray[np.bool_]:
    """Which boxes (n, 3) may lie over which panes' frames: (n, N)."""
    return np.asarray(
        (low[:, f.h] < f.high_h) & (high[:, f.h] > f.low_h) & (low[:, f.v] < f.high_v) & (high[:, f.v] > f.low_v)
        & (low[:, f.d] - f.at_d <= f.reach) & (f.at_d - high[:, f.d] <= f.reach)
    )  # fmt: skip


def _over(
    catalogue: Catalogue, section: _Behind, o: Opening, points: np.ndarray, thick: float, name: str
) -> Crossing | None:
    """How a way lies over an opening: the length of it within the pane's frame, by halves of a mm."""
    h, v, d = PLANES[o.side]
    low_h, high_h = o.at[h] - o.width_mm / 2, o.at[h] + o.width_mm / 2
    low_v, high_v = o.at[v] - o.height_mm / 2, o.at[v] + o.height_mm / 2
    a, b = points[:-1], points[1:]
    near = (
        (np.minimum(a[:, h], b[:, h]) < high_h) & (np.maximum(a[:, h], b[:, h]) > low_h)
        & (np.minimum(a[:, v], b[:, v]) < high_v) & (np.maximum(a[:, v], b[:, v]) > low_v)
    )  # fmt: skip
    length, behind = 0.0, math.inf
    for k in np.flatnonzero(near):
        steps = max(2, int(np.linalg.norm(b[k] - a[k]) / 0.5))
        t = (np.arange(steps) + 0.5) / steps
        p = a[k] + (b[k] - a[k]) * t[:, None]
        inside = (p[:, h] > low_h) & (p[:, h] < high_h) & (p[:, v] > low_v) & (p[:, v] < high_v)
        inside &= np.abs(p[:, d] - o.at[d]) < section.size[d]  # on its own side of the hull, not beyond it
        inside &= ~_screened(section, o, p)
        if inside.any():
            flat = math.hypot(float(b[k][h] - a[k][h]), float(b[k][v] - a[k][v])) / steps
            length += flat * int(inside.sum())
            behind = min(behind, float(np.abs(p[inside, d] - o.at[d]).min()))
    if length <= 0.0:
        return None
    share = min(length * thick / max(o.area_mm2, 1e-9), 1.0)
    clear = _is_clear(catalogue, section, o)
    dark = behind <= NEAR_MM and share > 0.005
    seen = clear and not dark
    return Crossing(name, o.id, share, behind, dark, seen) if dark or seen else None


def _screened(section: _Behind, o: Opening, points: np.ndarray) -> np.ndarray:
    """Which places lie behind something that stands in the section, as seen straight through an opening: (N,)."""
    h, v, d = PLANES[o.side]
    out = np.zeros(len(points), dtype=bool)
    for b in section.obstacles:
        if b.action != "keep":
            continue
        low, high = np.array(b.box.at), np.array(b.box.at) + np.array(b.box.size)
        before = (np.minimum(points[:, d], o.at[d]) < low[d]) & (np.maximum(points[:, d], o.at[d]) > high[d])
        out |= (
            before
            & (points[:, h] >= low[h])
            & (points[:, h] <= high[h])
            & (points[:, v] >= low[v])
            & (points[:, v] <= high[v])
        )
    return out


def shaded(found: tuple[Crossing, ...]) -> dict[str, float]:
    """The share of each opening that wires lying on it take."""
    out: dict[str, float] = {}
    for c in found:
        if c.dark:
            out[c.opening] = min(out.get(c.opening, 0.0) + c.share, 0.95)
    return out
