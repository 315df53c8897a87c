"""Sections as a side's sheet shows them."""

from __future__ import annotations

from gwiazda.core.plan.frame import SHEET, Side, to_sheet
from gwiazda.core.plan.model import Section


def contours(section: Section, side: Side) -> list[list[tuple[float, float]]]:
    """A section's outlines on a side's sheet (mm), its inner box's where no outline shows that side."""
    a, b, _ = SHEET[side]
    found = [[(a * h, b * v) for h, v in o.points] for o in section.drawn(side)]
    if found:
        return found
    low, size = section.box.at, section.box.size
    corners = [(low[0] + i * size[0], low[1] + i * size[1], low[2] + i * size[2]) for i in (0, 1)]
    (x0, y0, _), (x1, y1, _) = (to_sheet(side, c) for c in corners)
    return [[(x0, y0), (x1, y0), (x1, y1), (x0, y1)]]
