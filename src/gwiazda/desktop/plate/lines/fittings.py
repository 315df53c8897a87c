"""Fittings on the works side: masts, cranes and the like, as their views show them."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from gwiazda.core.assess.view_index import fitting_polygons
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Fitting, Plan
from gwiazda.desktop.plate.lines.works import Works


def paint_fittings(painter: QPainter, works: Works, has_drawing: bool) -> None:
    """Every fitting: its outline over the sections, filled where no drawing shows it."""
    p, chosen = works.palette, set(works.selection)
    for name, polygon, _ in fitting_polygons(standing(works.plan), works.view.side):
        strong = name in chosen
        painter.setPen(QPen(p.colour("choice") if strong else p.colour("ink", 150), 2.0 if strong else 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush if has_drawing else p.colour("section"))
        if strong:
            painter.setBrush(p.colour("choice", 40))
        painter.drawPolygon(QPolygonF([works.window.to_px(x, y) for x, y in polygon.tolist()]))


def describe_fitting(plan: Plan, item: Fitting) -> str:
    """One line about a fitting for the hover."""
    from gwiazda.core.assess.fitted import words_of

    return f"{item.name or item.id} · {words_of(plan, item)}"
