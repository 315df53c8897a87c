"""The circuit drawing taken out as SVG or PDF, on paper colours whatever the theme."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSize, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.rails import rails_of
from gwiazda.core.escaping import well_formed
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import format_scale
from gwiazda.desktop.stations.wire.painter import RailsPainter
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import BENCH

WIDE, HIGH, MARGIN, HEAD = 1120.0, 760.0, 24.0, 34.0  # an A4 sheet lying on its side, in px


def paint_circuit(painter: QPainter, plan: Plan, assessment: Assessment, height: float = HIGH - HEAD - MARGIN) -> None:
    """The drawing with its title, ``WIDE`` px across."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(text_font(16, text_font().Weight.DemiBold, plain=True))
    painter.setPen(BENCH.colour("ink"))
    title = f"{plan.kit.name}, {format_scale(plan.kit.scale)}: circuits"
    painter.drawText(QRectF(MARGIN, 6, WIDE - 2 * MARGIN, HEAD - 8), title)
    painter.translate(MARGIN, HEAD)
    RailsPainter(painter, BENCH, plan, assessment).sheet(rails_of(plan, assessment, WIDE - 2 * MARGIN, height))


def circuit_height(plan: Plan, assessment: Assessment) -> float:
    """How high the drawing is (px)."""
    sheet = rails_of(plan, assessment, WIDE - 2 * MARGIN, HIGH - HEAD - MARGIN)
    return max(HIGH, sheet.height + HEAD + MARGIN)


def circuit_svg(plan: Plan, assessment: Assessment) -> bytes:
    """The drawing as SVG."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    high = circuit_height(plan, assessment)
    generator.setSize(QSize(int(WIDE), int(high)))
    generator.setViewBox(QRectF(0, 0, WIDE, high))
    generator.setTitle(f"{plan.kit.name}: circuits")
    painter = QPainter(generator)
    paint_circuit(painter, plan, assessment)
    painter.end()
    return well_formed(bytes(buffer.data().data()))


def circuit_pdf(plan: Plan, assessment: Assessment) -> bytes:
    """The drawing as PDF: one page, A4 lying on its side where it fits, higher where it must."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(f"{plan.kit.name}: circuits")
    high = circuit_height(plan, assessment)
    writer.setResolution(144)
    page = QPageSize(QSizeF(297.0, 297.0 * high / WIDE), QPageSize.Unit.Millimeter)
    writer.setPageLayout(QPageLayout(page, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    painter = QPainter(writer)
    scale = writer.width() / WIDE
    painter.scale(scale, scale)
    paint_circuit(painter, plan, assessment)
    painter.end()
    return bytes(buffer.data().data())


def write_circuit(plan: Plan, assessment: Assessment, path: str | Path) -> None:
    """The circuits as a drawing (SVG, PDF), table (CSV) or network (JSON), by the suffix of the path.

    Raises
    ------
    PlanFileError
        For another suffix, or a place that can't be written.
    """
    from gwiazda.core.exchange.circuits import circuit_json, circuit_table

    suffix = Path(path).suffix.lower()
    if suffix == ".svg":
        data = circuit_svg(plan, assessment)
    elif suffix == ".pdf":
        data = circuit_pdf(plan, assessment)
    elif suffix == ".csv":
        data = circuit_table(plan, assessment).encode()
    elif suffix == ".json":
        data = circuit_json(plan, assessment).encode()
    else:
        raise refuse_ending(Path(path), "Circuits", ".svg, .pdf, .csv or .json")
    write_atomically(Path(path), data)
