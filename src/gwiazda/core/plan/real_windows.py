"""How large windows of the real thing are, and so those of a model of it.

Sources
-------
[1] House values: a ship's cabin window about 0.9 × 1.0 m, an airliner's cabin window 0.25 × 0.35 m, the side window of a
    cab 0.7 × 0.6 m, a scuttle of 0.35 m; what is built of a spacecraft is taken as a ship's.
"""

from __future__ import annotations

from gwiazda.core.plan.frame import PLANES, Side
from gwiazda.core.plan.model import Kit, KitKind, Opening, Section

# Width and height at full size, m.
WINDOW_M: dict[KitKind, tuple[float, float]] = {
    "ship": (0.9, 1.0), "spacecraft": (0.9, 1.0), "aircraft": (0.25, 0.35), "vehicle": (0.7, 0.6), "other": (0.9, 1.0),
}  # fmt: skip
BUILT_MM = (1.2, 14.0)  # what can be cut, and what is no window of a row any more
MOST_OF_WALL = 0.55  # of the height of the wall it is in


def window_mm(size_m: tuple[float, float], scale: float) -> tuple[float, float]:
    """Width and height (mm) on the model, as far as that can be built.

    Parameters
    ----------
    size_m : tuple[float, float]
        At full size, m.
    scale : float
        Of the model, 200 for 1/200.

    Returns
    -------
    tuple[float, float]
        Width and height, mm.
    """
    low, high = BUILT_MM
    width, height = (min(max(m * 1000.0 / scale, low), high) for m in size_m)
    return width, height


def usual_window(kit: Kit, section: Section, side: Side) -> Opening:
    """A window as the real thing has them, for a section's wall: no larger than that has room for.

    Parameters
    ----------
    kit : Kit
        Its kind and scale say how large.
    section : Section
    side : Side
        The wall.

    Returns
    -------
    Opening
        To be put in its place under an id of its own.
    """
    h, v, _ = PLANES[side]
    width, height = window_mm(WINDOW_M[kit.kind], kit.scale)
    width, height = min(width, 0.9 * section.box.size[h]), min(height, MOST_OF_WALL * section.box.size[v])
    wide, high = (max(round(x, 1), 0.1) for x in (width, height))
    return Opening(id="usual", section=section.id, width_mm=wide, height_mm=high, at=(0.0, 0.0, 0.0))


def real_words(width_mm: float, height_mm: float, scale: float) -> str:
    """What that is on the real one: “0.9 × 1 m on the real one”."""
    return f"{width_mm * scale / 1000:.2g} × {height_mm * scale / 1000:.2g} m on the real one"
