"""A carrier's sheets as they are cut: contours with holes, slots and tongues, and as one solid to print.

Contours are shapely's, solids Manifold's: both are closed whatever is cut out of what.
"""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.carrier.design import HOLE_EDGE_MM, Design, Hole, Points, Sheet, others, sheets_of

if TYPE_CHECKING:
    from manifold3d import Manifold
    from shapely import Polygon

Array = npt.NDArray[np.float64]
PLAY_MM = 0.05  # between a tongue and its slot, at each side
TONGUE_MM = 6.0  # long, where there is room
ROUND_CORNERS = 48
GRID = 1e4  # points of a solid to a mm: on whole numbers faces that touch are the very same plane


class Piece(NamedTuple):
    """A flat piece as it is cut, from its own lower left corner: outside contour and those cut out of it, mm."""

    name: str
    outside: Points
    cut: tuple[Points, ...]
    holes: tuple[Hole, ...]

    @property
    def size(self) -> tuple[float, float]:
        """How wide and how high it is, mm."""
        x, y = zip(*self.outside, strict=True)
        return max(x), max(y)


class Solid(NamedTuple):
    """A closed surface: corners (N, 3) in mm, triangles (M, 3), outward by the right hand."""

    points: Array
    triangles: npt.NDArray[np.intp]

    @property
    def volume_mm3(self) -> float:
        """What it encloses, by the divergence theorem: Σ p₀·(p₁ × p₂)/6."""
        a, b, c = (self.points[self.triangles[:, k]] for k in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0)


def _rect(low_u: float, low_v: float, high_u: float, high_v: float) -> Polygon:
    from shapely import box

    return box(low_u, low_v, high_u, high_v)


def _hole(hole: Hole) -> Polygon:
    from shapely import Point, affinity

    if not hole.round:
        return _rect(hole.u - hole.wide / 2, hole.v - hole.high / 2, hole.u + hole.wide / 2, hole.v + hole.high / 2)
    disc = Point(0.0, 0.0).buffer(0.5, quad_segs=ROUND_CORNERS // 4)
    return affinity.translate(affinity.scale(disc, hole.wide, hole.high), hole.u, hole.v)


def _plain(design: Design, sheet: Sheet) -> Polygon:
    """A sheet's contour without tongues and slots: cut to the profile, holes and notch taken out."""
    from shapely import Polygon

    shape = _rect(*sheet.low, *sheet.high)
    if sheet.main:
        if design.profile:
            shape = _largest(shape.intersection(Polygon(design.profile).buffer(0)))
        for hole in holes_in(design, sheet):
            shape = shape.difference(_hole(hole))
    if sheet.notch is not None:
        shape = shape.difference(_rect(*sheet.notch))
    return _largest(shape)


def _largest(shape: object) -> Polygon:
    """The largest polygon of whatever a cut has left.

    Raises
    ------
    ValueError
        Where nothing is left.
    """
    from shapely import Polygon

    parts = [g for g in getattr(shape, "geoms", [shape]) if isinstance(g, Polygon) and g.area > 1e-6]
    if not parts:
        raise ValueError("the profile leaves nothing of the sheet the lamps sit on")
    return max(parts, key=lambda g: g.area)


def holes_in(design: Design, sheet: Sheet) -> tuple[Hole, ...]:
    """The holes that lie in a sheet with some of it left beside them.

    Parameters
    ----------
    design : Design
        The carrier.
    sheet : Sheet
        One of its sheets.

    Returns
    -------
    tuple[Hole, ...]
        The holes.
    """
    return tuple(
        h for h in design.holes
        if sheet.low[0] + HOLE_EDGE_MM <= h.u - h.wide / 2 and h.u + h.wide / 2 <= sheet.high[0] - HOLE_EDGE_MM
        and sheet.low[1] + HOLE_EDGE_MM <= h.v - h.high / 2 and h.v + h.high / 2 <= sheet.high[1] - HOLE_EDGE_MM
    )  # fmt: skip


def _tongues(design: Design, wall: Sheet) -> list[tuple[float, float]]:
    """Where along its foot a wall's tongues are (low, high), mm on the model."""
    assert wall.foot is not None
    k = 1 - wall.foot[0]
    low, high = wall.low[k], wall.high[k]
    count = design.tabs
    if count <= 0 or high - low < 2.0:
        return []
    long = min(TONGUE_MM, (high - low) / (2 * count + 1))
    middles = [low + (high - low) * (i + 0.5) / count for i in range(count)]
    out = []
    for m in middles:
        part = (m - long / 2, m + long / 2)
        # None where the notch runs along the foot.
        n = wall.notch
        at_foot = n is not None and (abs((n[wall.foot[0]] if wall.foot[1] == 0 else n[2 + wall.foot[0]]) - _foot_at(wall)) < 1e-6)  # fmt: skip
        if n is None or not at_foot or part[1] <= n[k] or part[0] >= n[2 + k]:
            out.append(part)
    return out


def _foot_at(wall: Sheet) -> float:
    assert wall.foot is not None
    k, end = wall.foot
    return wall.high[k] if end else wall.low[k]


def pieces_of(design: Design) -> tuple[Piece, ...]:
    """The flat pieces of a carrier, walls with tongues that go through slots of the sheet the lamps sit on.

    Parameters
    ----------
    design : Design
        The carrier.

    Returns
    -------
    tuple[Piece, ...]
        Its pieces, outlines in mm.

    Raises
    ------
    ValueError
        For a design that no sheet goes into, or whose profile leaves nothing.
    """
    sheets = sheets_of(design)
    out = []
    for sheet in sheets:
        shape = _plain(design, sheet)
        if sheet.main:
            for wall in sheets[1:]:
                for low, high in _tongues(design, wall):
                    shape = _largest(shape.difference(_slot(design, wall, low, high)))
        elif sheet.foot is not None:
            k, end = sheet.foot
            for low, high in _tongues(design, sheet):
                at = _foot_at(sheet)
                part = (at, at + design.thick) if end else (at - design.thick, at)
                ranges = [(low, high), part] if k == 1 else [part, (low, high)]
                shape = shape.union(_rect(ranges[0][0], ranges[1][0], ranges[0][1], ranges[1][1]))
        out.append(_piece(design, sheet, _largest(shape)))
    return tuple(out)


def _slot(design: Design, wall: Sheet, low: float, high: float) -> Polygon:
    """What a tongue of a wall takes out of the main sheet."""
    u, _ = others(design.axis)
    half = wall.thick / 2 + PLAY_MM
    across, along = (wall.at - half, wall.at + half), (low - PLAY_MM, high + PLAY_MM)
    first, second = (across, along) if wall.axis == u else (along, across)
    return _rect(first[0], second[0], first[1], second[1])


def _piece(design: Design, sheet: Sheet, shape: Polygon) -> Piece:
    x0, y0, _, _ = shape.bounds

    def moved(ring: object) -> Points:
        return tuple((round(x - x0, 4), round(y - y0, 4)) for x, y in list(ring.coords)[:-1])  # type: ignore[attr-defined]

    holes = tuple(h._replace(u=h.u - x0, v=h.v - y0) for h in holes_in(design, sheet)) if sheet.main else ()
    return Piece(sheet.name, moved(shape.exterior), tuple(moved(r) for r in shape.interiors), holes)


def solid_of(design: Design) -> Solid:
    """The carrier in one piece, as it is printed: all its sheets joined, no tongues. Watertight.

    Parameters
    ----------
    design : Design
        The carrier.

    Returns
    -------
    Solid
        Corners and triangles, mm.

    Raises
    ------
    ValueError
        As ``pieces_of``.
    """
    sheets = sheets_of(design)
    parts = [_extruded(design, s, _plain(design, s)) for s in sheets]
    whole: Manifold = parts[0]
    for part in parts[1:]:
        whole = whole + part
    mesh = whole.to_mesh64()
    points = np.asarray(mesh.vert_properties, dtype=float)[:, :3] / GRID
    return Solid(points, np.asarray(mesh.tri_verts, dtype=np.intp))


def _extruded(design: Design, sheet: Sheet, shape: Polygon) -> Manifold:
    """A sheet as a body; a wall reaches through the sheet it stands on, so that the two are one."""
    from manifold3d import CrossSection
    from shapely import union_all
    from shapely.geometry.polygon import orient

    if sheet.foot is not None:
        k, end = sheet.foot
        at = _foot_at(sheet)
        begin, stop = list(sheet.low), list(sheet.high)
        begin[k], stop[k] = (at, at + design.thick) if end else (at - design.thick, at)
        if sheet.notch is None or not _open_at_foot(sheet):
            shape = _largest(union_all([shape, _rect(begin[0], begin[1], stop[0], stop[1])]))
    shape = orient(shape)
    rings = [np.round(np.array(r.coords)[:-1] * GRID) for r in (shape.exterior, *shape.interiors)]
    low, thick = round((sheet.at - sheet.thick / 2) * GRID), round(sheet.thick * GRID)
    body = CrossSection(rings).extrude(thick)
    u, v = others(sheet.axis)
    # (u, v, height) onto the model's axes; across y that turns the hand, so the height runs the other way there.
    turn = np.zeros((3, 4))
    turn[u, 0] = turn[v, 1] = 1.0
    turn[sheet.axis, 2] = -1.0 if sheet.axis == 1 else 1.0
    turn[sheet.axis, 3] = low + thick if sheet.axis == 1 else low
    return body.transform(turn)


def _open_at_foot(sheet: Sheet) -> bool:
    assert sheet.foot is not None and sheet.notch is not None
    k, end = sheet.foot
    return abs((sheet.notch[2 + k] if end else sheet.notch[k]) - _foot_at(sheet)) < 1e-6


def stl_of(solid: Solid) -> bytes:
    """A binary STL, mm: 80 bytes of heading, the count, and for each triangle its normal and corners as 32-bit floats.

    Parameters
    ----------
    solid : Solid
        Corners and triangles, mm.

    Returns
    -------
    bytes
        The file's content.
    """
    a, b, c = (solid.points[solid.triangles[:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    normal = np.divide(normal, length, out=np.zeros_like(normal), where=length > 0)
    rows = np.zeros(len(a), dtype=[("v", "<f4", (4, 3)), ("attribute", "<u2")])
    rows["v"] = np.stack([normal, a, b, c], axis=1)
    return b"Carrier, millimetres".ljust(80) + struct.pack("<I", len(a)) + rows.tobytes()
