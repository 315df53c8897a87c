"""Suspects on the plate: the likelier, the brighter; and where to measure next."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRect, Qt
from PySide6.QtGui import QPainter, QPen, QRadialGradient

from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.lookup import lamps_behind, lamps_table
from gwiazda.desktop.plate.lines.marks import paint_tag
from gwiazda.desktop.stations.bench.session import session_of

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

LEAST = 0.02
FIRST = 5  # suspects that a share is written beside


def paint_suspects(painter: QPainter, plate: Plate, cut: int) -> None:
    """A glow at each suspect, a ring where the next measurement is."""
    document, p = plate.document, plate.palette_
    diagnosis = session_of(document).diagnosis
    if diagnosis is None:
        return
    lamps = lamps_table(document.plan.lamps)
    shares: dict[str, float] = {}
    for s in diagnosis.suspects:
        for f in s.faults:
            for i in f.at if f.at[0] in lamps else lamps_behind(document.plan, f.at[0]):
                if i in lamps:
                    shares[i] = shares.get(i, 0.0) + s.share
    painter.save()
    painter.setClipRect(QRect(0, 0, cut, plate.height()))
    ranked = sorted(shares.items(), key=lambda x: -x[1])
    for k, (lamp_id, share) in enumerate(ranked):
        if share < LEAST:
            continue
        x, y, _ = to_sheet(plate.view.side, lamps[lamp_id].at)
        centre, radius = plate.extent.to_px(x, y), 14.0 + 26.0 * min(share, 1.0)
        glow = QRadialGradient(centre, radius)
        glow.setColorAt(0.0, p.colour("stop", int(60 + 190 * min(share, 1.0))))
        glow.setColorAt(1.0, p.colour("stop", 0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(glow)
        painter.drawEllipse(centre, radius, radius)
        if k < FIRST and share > 0.05:
            paint_tag(painter, centre + QPointF(10, -26), f"{share * 100:.0f} %", p)
    if diagnosis.next and diagnosis.next[0].at in lamps:
        x, y, _ = to_sheet(plate.view.side, lamps[diagnosis.next[0].at].at)
        painter.setPen(QPen(p.colour("live"), 2.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(plate.extent.to_px(x, y), 12, 12)
    painter.restore()
