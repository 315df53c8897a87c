"""The circuit drawing taken out as SVG or PDF, on paper colours whatever the theme."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSize, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.rail_marks import Sheet
from gwiazda.core.drawing.rails import rails_of
from gwiazda.core.drawing.sheets.page import HEAD_MM, MARGIN_MM, PAPERS, Paper, text
from gwiazda.core.errors import PlanFileError
from gwiazda.core.escaping import well_formed
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import format_scale
from gwiazda.desktop.stations.wire.painter import RailsPainter
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import BENCH
from gwiazda.desktop.widgets.marks import paint_mark

WIDE, HIGH, MARGIN, HEAD = 1120.0, 760.0, 24.0, 34.0  # an A4 sheet lying on its side, in px
PDF_DOTS = 600


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


class PaperCircuit(NamedTuple):
    """The circuits laid for paper: their drawing, mm to a px of it, and from where to where of it each page goes (px)."""

    sheet: Sheet
    mm_px: float
    pages: tuple[tuple[float, float], ...]


MOST_PAGES = 8


def on_paper(plan: Plan, assessment: Assessment, paper: Paper) -> PaperCircuit:
    """The circuits on paper lying on its side, nothing folded, a tag and the lamps' names under each string; rows that don't go on a page go on the next."""
    room_w, room_h = paper.turned.room
    mm_px = room_w / (WIDE - 2 * MARGIN)
    high = room_h / mm_px
    for pages in range(1, MOST_PAGES + 1):
        sheet = rails_of(plan, assessment, WIDE - 2 * MARGIN, pages * high, True)
        parts = _parted(sheet.rows, high)
        if not sheet.folded and len(parts) <= pages:
            break
    return PaperCircuit(sheet, mm_px, parts)


def _parted(rows: Sequence[float], high: float) -> tuple[tuple[float, float], ...]:
    """Rows by the pages they go on, each from its first row to its last; a row higher than a page is a page."""
    out: list[tuple[float, float]] = []
    start, last = 0.0, 0.0
    for end in rows:
        if end - start > high and last > start:
            out.append((start, last))
            start = last
        last = end
    return (*out, (start, last)) if last > start or not out else tuple(out)


def paint_circuit_page(
    painter: QPainter, plan: Plan, assessment: Assessment, circuit: PaperCircuit, number: int
) -> None:
    """A page of the circuits, from the upper left of the paper's room, the painter's unit at 1 mm; smaller where a row is higher than the page."""
    start, end = circuit.pages[number]
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.scale(circuit.mm_px, circuit.mm_px)
    painter.setClipRect(QRectF(-2.0, -2.0, WIDE, end - start + 4.0))
    painter.translate(0.0, -start)
    RailsPainter(painter, BENCH, plan, assessment).sheet(circuit.sheet)
    painter.restore()


def page_title(plan: Plan, circuit: PaperCircuit, number: int) -> str:
    """What stands over a page of the circuits."""
    many = len(circuit.pages)
    return f"{plan.kit.name} {format_scale(plan.kit.scale)} · circuits" + (
        f" ({number + 1} of {many})" if many > 1 else ""
    )


def circuit_pdf(plan: Plan, assessment: Assessment, paper: Paper) -> bytes:
    """The drawing as PDF, on paper lying on its side."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(f"{plan.kit.name}: circuits")
    writer.setResolution(PDF_DOTS)
    size = QPageSize(QSizeF(paper.turned.width_mm, paper.turned.height_mm), QPageSize.Unit.Millimeter)
    writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
    circuit = on_paper(plan, assessment, paper)
    painter = QPainter(writer)
    for number in range(len(circuit.pages)):
        if number:
            writer.newPage()
        painter.save()
        painter.scale(PDF_DOTS / 25.4, PDF_DOTS / 25.4)
        paint_mark(painter, text(MARGIN_MM, MARGIN_MM + 5.0, page_title(plan, circuit, number), 4.2, bold=True))
        painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
        paint_circuit_page(painter, plan, assessment, circuit, number)
        painter.restore()
    painter.end()
    return bytes(buffer.data().data())


def write_circuit(plan: Plan, assessment: Assessment, path: str | Path, paper: str = "a4") -> None:
    """The circuits as a drawing (SVG, PDF), table (CSV) or network (JSON), by the suffix of the path.

    Raises
    ------
    PlanFileError
        For another suffix or paper, or a place that can't be written.
    """
    if paper not in PAPERS:
        raise PlanFileError("Circuits", f"“{paper}” is no paper", " or ".join(PAPERS))
    from gwiazda.core.exchange.circuits import circuit_json, circuit_table

    suffix = Path(path).suffix.lower()
    if suffix == ".svg":
        data = circuit_svg(plan, assessment)
    elif suffix == ".pdf":
        data = circuit_pdf(plan, assessment, PAPERS[paper])
    elif suffix == ".csv":
        data = circuit_table(plan, assessment).encode()
    elif suffix == ".json":
        data = circuit_json(plan, assessment).encode()
    else:
        raise refuse_ending(Path(path), "Circuits", ".svg, .pdf, .csv or .json")
    write_atomically(Path(path), data)
