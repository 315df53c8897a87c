"""A page of a PDF as a picture: made in a process of its own, or refused in a sentence."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest
from PySide6.QtCore import QMarginsF, QRectF, QSizeF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter


def sheet(path: Path, pages: int = 2, size_mm: tuple[float, float] = (100.0, 50.0)) -> Path:
    """A drawing of so many pages with a square of 20 mm on each."""
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(QSizeF(*size_mm), QPageSize.Unit.Millimeter))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0), QPageLayout.Unit.Millimeter)
    writer.setResolution(254)  # ten to a mm
    painter = QPainter(writer)
    for page in range(pages):
        if page:
            writer.newPage()
        painter.fillRect(QRectF(100, 100, 200, 200), "black")
    painter.end()
    return path


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "gwiazda.desktop.shell.pdf_page", *map(str, arguments)]
    return subprocess.run(command, capture_output=True, text=True, check=False)


def test_a_page_comes_out_to_scale(tmp_path, application):
    done = run(sheet(tmp_path / "plan.pdf"), tmp_path / "out.png", 2)
    assert done.returncode == 0, done.stderr
    mm_per_px = float(done.stdout)
    image = QImage(str(tmp_path / "out.png"))
    assert image.width() * mm_per_px == pytest.approx(100, abs=0.5)
    row = [image.pixelColor(x, round(20 / mm_per_px)).lightness() for x in range(image.width())]
    dark = [x for x, light in enumerate(row) if light < 100]
    assert (dark[-1] - dark[0] + 1) * mm_per_px == pytest.approx(20, abs=0.4)
    assert dark[0] * mm_per_px == pytest.approx(10, abs=0.4)


@pytest.mark.parametrize("page", [0, 3, 99])
def test_a_page_that_is_not_there(tmp_path, application, page):
    done = run(sheet(tmp_path / "plan.pdf"), tmp_path / "out.png", page)
    assert done.returncode == 2 and f"page {page} of 2" in done.stderr and not (tmp_path / "out.png").exists()


@pytest.mark.parametrize(
    "data",
    [b"", b"%PDF-1.4\n", b"not one", b"%PDF-1.7\n1 0 obj<</Type/Catalog/Pages 2 0 R>>endobj\ntrailer<</Root 1 0 R>>"],
)
def test_what_is_no_pdf_is_refused(tmp_path, data):
    path = tmp_path / "bad.pdf"
    path.write_bytes(data)
    done = run(path, tmp_path / "out.png")
    assert done.returncode == 2 and done.stderr.strip() and "Traceback" not in done.stderr


def test_a_huge_page_is_drawn_small(tmp_path, application):
    done = run(sheet(tmp_path / "large.pdf", 1, (3000.0, 500.0)), tmp_path / "out.png")
    assert done.returncode == 0 and QImage(str(tmp_path / "out.png")).width() <= 4097


def test_a_page_dropped_on_the_plate_is_the_views_drawing(empty, tmp_path):
    path = sheet(tmp_path / "plan.pdf", 1)
    empty.plate.files_dropped.emit(str(path))
    empty.bot.waitUntil(lambda: bool(empty.document.pictures), timeout=20_000)
    empty.settle()
    drawing = empty.plate.view.drawing
    assert drawing is not None and drawing.picture in empty.document.pictures
    empty.document.undo()
    empty.settle()
    assert empty.plate.view.drawing is None
