"""Sides and faces of the model, and how a view lays them on its sheet.

Coordinates: x along the model from stern to bow, y across to port, z up; millimetres on the model.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

Side = Literal["port", "starboard", "top", "bow", "stern", "bottom"]
Face = Literal["stern", "bow", "starboard", "port", "bottom", "top"]  # x0, x1, y0, y1, z0, z1 of a box
FACE_NAMES: tuple[Face, ...] = ("stern", "bow", "starboard", "port", "bottom", "top")

# What a face is called inside a section.
FACE_WORDS: dict[Face, str] = {
    "stern": "end wall", "bow": "front wall", "starboard": "starboard wall", "port": "port wall", "bottom": "floor", "top": "roof",
}  # fmt: skip

# The outward normal of each side, and the two model axes (0 = x, 1 = y, 2 = z) seen in its view.
NORMALS: dict[Side, tuple[int, int, int]] = {
    "port": (0, 1, 0), "starboard": (0, -1, 0), "top": (0, 0, 1), "bow": (1, 0, 0), "stern": (-1, 0, 0),
    "bottom": (0, 0, -1),
}  # fmt: skip
PLANES: dict[Side, tuple[int, int, int]] = {
    # (horizontal axis, vertical axis, depth axis)
    "port": (0, 2, 1), "starboard": (0, 2, 1), "top": (0, 1, 2), "bow": (1, 2, 0), "stern": (1, 2, 0),
    "bottom": (0, 1, 2),
}  # fmt: skip
OPPOSITE: dict[Side, Side] = {
    "port": "starboard", "starboard": "port", "bow": "stern", "stern": "bow", "top": "bottom", "bottom": "top",
}  # fmt: skip
SIDES: tuple[Side, ...] = tuple(NORMALS)
# Two sides across show the same outline the other way round; it is kept under one of them.
DRAWN_AS: dict[Side, Side] = {
    "port": "port", "starboard": "port", "bow": "bow", "stern": "bow", "top": "top", "bottom": "top",
}  # fmt: skip

# How a view lays those axes on the sheet: right, down and towards the viewer, each +1 or −1. The bow of views from port,
# from above and from below lies on the left.
SHEET: dict[Side, tuple[int, int, int]] = {
    "port": (-1, -1, 1), "starboard": (1, -1, -1), "top": (-1, 1, 1), "bow": (1, -1, 1), "stern": (-1, -1, -1),
    "bottom": (-1, -1, -1),
}  # fmt: skip


def to_sheet(side: Side, point: tuple[float, float, float]) -> tuple[float, float, float]:
    """A point of the model on a view's sheet: (right, down, towards the viewer), mm."""
    h, v, d = PLANES[side]
    a, b, c = SHEET[side]
    return a * point[h], b * point[v], c * point[d]


def from_sheet(side: Side, right: float, down: float) -> tuple[float, float]:
    """The view's two model coordinates (horizontal, vertical) of a place on its sheet."""
    a, b, _ = SHEET[side]
    return a * right, b * down


def rect_on_sheet(
    face: Face, corner: tuple[float, float, float], at: tuple[float, float], size: tuple[float, float]
) -> tuple[float, float, float, float]:
    """A rectangle on a face of a box, by its middle from the box's lowest corner, as that side's sheet has it: left, top, width, height, mm."""
    h, v, _ = PLANES[face]
    a, b, _ = SHEET[face]
    x, y = a * (corner[h] + at[0]), b * (corner[v] + at[1])
    return x - size[0] / 2, y - size[1] / 2, size[0], size[1]


def face_number(side: Face | Side) -> int:
    """The face (0 to 5: x0, x1, y0, y1, z0, z1) that a side of the model lies on."""
    return FACE_NAMES.index(side)


def polygon_area(points: Sequence[tuple[float, float]]) -> float:
    """Area of a closed polygon, the unit that of its points squared."""
    return 0.5 * abs(sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(points, [*points[1:], *points[:1]], strict=True)))
