"""Views and the drawings behind them: add, calibrate, straighten."""

from __future__ import annotations

import math
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import copy_checked, fresh_ids, taken_ids
from gwiazda.core.plan.frame import PLANES, SHEET, Side
from gwiazda.core.plan.lookup import item_of
from gwiazda.core.plan.model import Drawing, Plan, View, copy_unchecked


def set_view(plan: Plan, view_id: str, **fields: Any) -> Plan:
    """Set fields of a view."""
    views = tuple(copy_checked(v, **fields) if v.id == view_id else v for v in plan.views)
    return copy_unchecked(plan, views=views)


def add_view(plan: Plan, side: Side) -> tuple[Plan, str]:
    """Another view of the kit; its name says which side it shows."""
    names = {
        "port": "Port side",
        "starboard": "Starboard side",
        "top": "From above",
        "bow": "From ahead",
        "stern": "From astern",
        "bottom": "From below",
    }
    item_id = side if side not in taken_ids(plan) else fresh_ids(plan, side)[0]
    view = View(id=item_id, name=names[side], side=side)
    return copy_unchecked(plan, views=(*plan.views, view)), item_id


def calibrate(plan: Plan, view_id: str, a: tuple[float, float], b: tuple[float, float], length_mm: float) -> Plan:
    """Make the distance of two places on a view's sheet ``length_mm``; ``a`` stays where it is.

    ``a`` and ``b`` are on the sheet (mm) as it is calibrated now. Raises PlanError for equal points or no drawing.
    """
    view = item_of(plan.views, view_id, "view")
    if view.drawing is None:
        raise PlanError(f"View {view.name}", "has no drawing to calibrate", "a picture dropped on the plate")
    apart = math.hypot(b[0] - a[0], b[1] - a[1])
    if apart < 1e-6:
        raise PlanError("Calibration", "the two points are the same", "two points apart")
    if not 0 < length_mm <= 1e5:
        raise PlanError("Calibration", f"a length of {length_mm:g} mm", "a length above zero, such as 94 mm")
    k = length_mm / apart
    drawing = view.drawing
    # Sheet = (drawing − origin)·mm_per_unit: with a kept in place, the origin moves in drawing units.
    t = math.radians(drawing.rotation_deg)
    ca, sa = math.cos(t), math.sin(t)
    ua, va = a[0] * ca + a[1] * sa, -a[0] * sa + a[1] * ca
    shift = (1.0 / drawing.mm_per_unit) * (1.0 - 1.0 / k)
    origin = (drawing.origin[0] + ua * shift, drawing.origin[1] + va * shift)
    return set_view(
        plan,
        view_id,
        drawing=copy_checked(drawing, mm_per_unit=drawing.mm_per_unit * k, origin=origin, calibrated=True),
    )


def straighten(plan: Plan, view_id: str, a: tuple[float, float], b: tuple[float, float]) -> Plan:
    """Turn a view's drawing about the model's origin so that the line from ``a`` to ``b`` (sheet, mm) is level."""
    view = item_of(plan.views, view_id, "view")
    if view.drawing is None:
        raise PlanError(f"View {view.name}", "has no drawing to straighten", "a picture dropped on the plate")
    if math.hypot(b[0] - a[0], b[1] - a[1]) < 1e-6:
        raise PlanError("Level line", "the two points are the same", "two points apart")
    if b[0] < a[0]:
        a, b = b, a
    turn = -math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    angle = (view.drawing.rotation_deg + turn + 180.0) % 360.0 - 180.0
    return set_view(plan, view_id, drawing=copy_checked(view.drawing, rotation_deg=angle))


def put_drawing(plan: Plan, view_id: str, picture: str, width: float, height: float, length_mm: float = 200.0) -> Plan:
    """Put a picture of ``width`` × ``height`` units behind a view, ``length_mm`` wide until it is calibrated.

    The model's origin lies in its middle.
    """
    scale = length_mm / max(width, 1e-9)
    drawing = Drawing(picture=picture, mm_per_unit=scale, origin=(width / 2, height / 2), calibrated=False)
    return set_view(plan, view_id, drawing=drawing)


def crop(plan: Plan, view_id: str, a: tuple[float, float] | None, b: tuple[float, float]) -> Plan:
    """Show only the part of a view's drawing between two corners on the sheet (mm); all of it when ``a`` is None."""
    view = item_of(plan.views, view_id, "view")
    if view.drawing is None:
        raise PlanError(f"View {view.name}", "has no drawing to crop", "a picture dropped on the plate")
    drawing = view.drawing
    if a is None:
        return set_view(plan, view_id, drawing=copy_checked(drawing, crop=None))
    corners = [drawing_place(drawing, *p) for p in (a, (b[0], a[1]), b, (a[0], b[1]))]
    box = tuple(f(c[i] for c in corners) for f in (min, max) for i in (0, 1))
    if min(abs(b[0] - a[0]), abs(b[1] - a[1])) < 1e-3:
        raise PlanError("Crop", "the rectangle has no size", "a rectangle over the part to keep")
    return set_view(plan, view_id, drawing=copy_checked(drawing, crop=box))


def drawing_place(drawing: Drawing, right_mm: float, down_mm: float) -> tuple[float, float]:
    """A place of the sheet (mm) in the drawing's own units."""
    t = math.radians(drawing.rotation_deg)
    u = right_mm * math.cos(t) + down_mm * math.sin(t)
    v = -right_mm * math.sin(t) + down_mm * math.cos(t)
    return drawing.origin[0] + u / drawing.mm_per_unit, drawing.origin[1] + v / drawing.mm_per_unit


def sheet_place(drawing: Drawing, x: float, y: float) -> tuple[float, float]:
    """A place of the drawing, in its own units, on the sheet (mm); the inverse of ``drawing_place``."""
    t = math.radians(drawing.rotation_deg)
    u, v = (x - drawing.origin[0]) * drawing.mm_per_unit, (y - drawing.origin[1]) * drawing.mm_per_unit
    return u * math.cos(t) - v * math.sin(t), u * math.sin(t) + v * math.cos(t)


def shared_axes(a: Side, b: Side) -> tuple[int, ...]:
    """The model axes (0 = x, 1 = y, 2 = z) that two views both show."""
    return tuple(sorted(set(PLANES[a][:2]) & set(PLANES[b][:2])))


def align(plan: Plan, view_id: str, here: tuple[float, float], there_side: Side, there: tuple[float, float]) -> Plan:
    """Shift a view's drawing so that one point has the place it has in another view, along the axes both show.

    ``here`` and ``there`` are the same point in the two views' model coordinates (mm). Any two views share one axis
    or both. Raises PlanError without a drawing.
    """
    view = item_of(plan.views, view_id, "view")
    if view.drawing is None:
        raise PlanError(f"View {view.name}", "has no drawing to align", "a picture dropped on the plate")
    shared = shared_axes(view.side, there_side)
    delta = [0.0, 0.0]
    for i, axis in enumerate(PLANES[view.side][:2]):
        if axis in shared:
            delta[i] = there[PLANES[there_side].index(axis)] - here[i]
    a, b, _ = SHEET[view.side]
    right, down = a * delta[0], b * delta[1]
    x, y = drawing_place(view.drawing, -right, -down)
    return set_view(plan, view_id, drawing=copy_checked(view.drawing, origin=(x, y)))
