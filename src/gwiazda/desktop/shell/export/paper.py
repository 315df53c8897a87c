"""Pages in mm drawn onto paper: a PDF of all of them, or an SVG of each."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QRectF, QSize, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter
from PySide6.QtSvg import QSvgGenerator

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets import PAPERS, Page, pages_of
from gwiazda.core.drawing.sheets.page import MARGIN_MM
from gwiazda.core.errors import PlanFileError
from gwiazda.core.escaping import well_formed
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import Plan
from gwiazda.desktop.widgets.marks import paint_mark

DOTS_PER_MM = 600.0 / 25.4


def paint_page(painter: QPainter, page: Page) -> None:
    """A page with the painter's unit at 1 mm."""
    paper = page.paper
    for m in page.frame:
        paint_mark(painter, m)
    painter.save()
    painter.setClipRect(
        QRectF(MARGIN_MM - 1, MARGIN_MM + 7, paper.width_mm - 2 * MARGIN_MM + 2, paper.height_mm - 2 * MARGIN_MM - 18)
    )
    painter.translate(*page.shift)
    for m in page.body:
        paint_mark(painter, m)
    painter.restore()


def pdf_of(pages: Sequence[Page], title: str) -> bytes:
    """All pages as one PDF, each of its own paper."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(title)
    writer.setResolution(600)
    painter = QPainter()
    for k, page in enumerate(pages):
        size = QPageSize(QSizeF(page.paper.width_mm, page.paper.height_mm), QPageSize.Unit.Millimeter, page.paper.name)
        writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)))
        if k == 0:
            painter.begin(writer)
        else:
            writer.newPage()
        painter.save()
        painter.scale(DOTS_PER_MM, DOTS_PER_MM)
        paint_page(painter, page)
        painter.restore()
    painter.end()
    return bytes(buffer.data().data())


def svg_of(page: Page) -> bytes:
    """A page as SVG in mm."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    generator = QSvgGenerator()
    generator.setOutputDevice(buffer)
    generator.setResolution(254)  # ten units to a mm: the size in the file is then that of the paper
    wide, high = round(page.paper.width_mm * 10), round(page.paper.height_mm * 10)
    generator.setSize(QSize(wide, high))
    generator.setViewBox(QRectF(0, 0, wide, high))
    generator.setTitle(page.title)
    painter = QPainter(generator)
    painter.scale(10.0, 10.0)
    paint_page(painter, page)
    painter.end()
    return well_formed(bytes(buffer.data().data()))


def write_sheets(
    plan: Plan, assessment: Assessment, path: str | Path, paper: str = "a4", only: Sequence[str] = ()
) -> list[Path]:
    """The sheets of a plan: a PDF, or an SVG for each page beside the path given; returns what was written.

    Raises
    ------
    PlanFileError
        For another suffix or paper, or a place that can't be written.
    PlanError
        Where there is nothing to put on them.
    """
    where = Path(path)
    if paper not in PAPERS:
        raise PlanFileError("Sheets", f"“{paper}” is no paper", " or ".join(PAPERS))
    suffix = where.suffix.lower()
    if suffix not in (".pdf", ".svg"):
        raise refuse_ending(where, "Sheets", ".pdf or .svg")
    pages = pages_of(plan, assessment, PAPERS[paper], only)
    if suffix == ".pdf":
        write_atomically(where, pdf_of(pages, f"{plan.kit.name}: sheets"))
        return [where]
    out = []
    for k, page in enumerate(pages, 1):
        target = where if len(pages) == 1 else where.with_name(f"{where.stem}-{k:02d}.svg")
        write_atomically(target, svg_of(page))
        out.append(target)
    return out
