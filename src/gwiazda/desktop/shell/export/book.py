"""The bench book: one PDF of the model as works and at night, its circuits, and all sheets."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets import PAPERS, pages_of
from gwiazda.core.drawing.sheets.page import MARGIN_MM
from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import LogEntry, View
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.quantities import format_scale
from gwiazda.core.render.tone import middle_luminance, screen_table
from gwiazda.core.workbench.log import words_of
from gwiazda.desktop.plate.lines.works import Works, paint_ground, paint_lamps
from gwiazda.desktop.plate.night import NightRenderer, Shot
from gwiazda.desktop.plate.sheet import area_of, fit, render_drawing
from gwiazda.desktop.shell.export.paper import DOTS_PER_MM, paint_page
from gwiazda.desktop.shell.export.preview import Progress, StoppedError, image_of
from gwiazda.desktop.stations.wire.sheets import WIDE, circuit_height, paint_circuit
from gwiazda.desktop.svg_trial import shown
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import BENCH

PICTURE_PX = 1200  # across the page
HEAD_MM = 12.0
ACROSS, TURNS = 3, 6  # small pictures once round the model
CAPTION_MM, MOST_PHOTOS = 24.0, 24


class Book:
    """A PDF being written, page by page."""

    def __init__(self, file: PlanFile, assessment: Assessment, paper: str, progress: Progress) -> None:
        self.file, self.assessment, self.progress = file, assessment, progress
        self.paper = PAPERS[paper]
        self.buffer = QBuffer()
        self.buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        self.writer = QPdfWriter(self.buffer)
        self.writer.setTitle(f"{file.plan.kit.name}: bench book")
        self.writer.setResolution(600)
        self.painter = QPainter()
        self.pages = 0

    def page(self, paint: Callable[[QPainter], None], wide_mm: float = 0.0, high_mm: float = 0.0) -> None:
        """A page with the painter's unit at 1 mm; of the book's paper unless a size is given."""
        size = QSizeF(wide_mm or self.paper.width_mm, high_mm or self.paper.height_mm)
        self.writer.setPageLayout(
            QPageLayout(
                QPageSize(size, QPageSize.Unit.Millimeter), QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)
            )
        )
        if self.pages == 0:
            self.painter.begin(self.writer)
        else:
            self.writer.newPage()
        self.pages += 1
        self.painter.save()
        self.painter.scale(DOTS_PER_MM, DOTS_PER_MM)
        paint(self.painter)
        self.painter.restore()

    def told(self, share: float) -> None:
        if not self.progress(share):
            self.painter.end()
            raise StoppedError

    def title(self, painter: QPainter, words: str) -> None:
        painter.save()
        painter.setPen(BENCH.colour("ink"))
        painter.setFont(text_font(100, text_font().Weight.DemiBold, plain=True))
        painter.translate(MARGIN_MM, MARGIN_MM + 5.0)
        painter.scale(0.05, 0.05)
        painter.drawText(QPointF(0.0, 0.0), words)
        painter.restore()

    def view(self, view: View) -> None:
        """The works of a view above, the same in the dark below."""
        plan, pictures = self.file.plan, dict(self.file.pictures)
        if view.drawing is not None and view.drawing.picture in pictures:
            shown(pictures[view.drawing.picture], wait=True)
        room_w = self.paper.width_mm - 2 * MARGIN_MM
        room_h = (self.paper.height_mm - 2 * MARGIN_MM - HEAD_MM - 6.0) / 2.0
        high = round(PICTURE_PX * room_h / room_w)
        window = fit(area_of(plan, view, pictures), PICTURE_PX, high, margin_px=40.0)
        works = Works(plan, self.assessment, view, window, BENCH, (), pictures=pictures)
        update = NightRenderer()(Shot(plan, self.assessment, view, window, pictures))
        assert update.picture is not None
        table = screen_table(middle_luminance(self.assessment.hull_cd_m2, plan.room.exposure_ev))
        night = image_of(update.picture.frame(table, {}))
        drawing = render_drawing(view, pictures, window)
        k = room_w / PICTURE_PX

        def paint(painter: QPainter) -> None:
            self.title(painter, f"{plan.kit.name} {format_scale(plan.kit.scale)} · {view.name}")
            painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
            painter.save()
            painter.scale(k, k)
            painter.setClipRect(QRectF(0, 0, PICTURE_PX, high))
            paint_ground(painter, works, drawing)
            paint_lamps(painter, works)
            painter.restore()
            painter.drawImage(QRectF(0.0, room_h + 6.0, room_w, room_h), night)

        self.page(paint)

    def round(self) -> None:
        """The model from the quarter above, once round it below."""
        from gwiazda.desktop.shell.export.turntable import Shot, round_image, turning_images

        plan = self.file.plan
        room_w = self.paper.width_mm - 2 * MARGIN_MM
        wide = (room_w - (ACROSS - 1) * 2.0) / ACROSS
        large = round_image(self.file, self.assessment, Shot((PICTURE_PX, PICTURE_PX * 9 // 16)))
        small = list(
            turning_images(self.file, self.assessment, (PICTURE_PX // ACROSS, PICTURE_PX * 9 // 16 // ACROSS), TURNS)
        )

        def paint(painter: QPainter) -> None:
            self.title(painter, f"{plan.kit.name} {format_scale(plan.kit.scale)} · once round")
            painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
            painter.drawImage(QRectF(0.0, 0.0, room_w, room_w * 9 / 16), large)
            painter.translate(0.0, room_w * 9 / 16 + 6.0)
            for k, image in enumerate(small):
                x, y = (k % ACROSS) * (wide + 2.0), (k // ACROSS) * (wide * 9 / 16 + 2.0)
                painter.drawImage(QRectF(x, y, wide, wide * 9 / 16), image)

        self.page(paint)

    def circuits(self) -> None:
        """The circuits, on a page lying on its side, as high as they are."""
        plan, assessment = self.file.plan, self.assessment
        wide_mm = self.paper.height_mm
        high = circuit_height(plan, assessment)
        k = wide_mm / WIDE

        def paint(painter: QPainter) -> None:
            painter.scale(k, k)
            paint_circuit(painter, plan, assessment)

        self.page(paint, wide_mm, high * k)

    def photos(self) -> None:
        """The photos of the log, two a page, the words beside them."""
        entries = [e for e in self.file.plan.log if e.photo in self.file.pictures][-MOST_PHOTOS:]
        room_w = self.paper.width_mm - 2 * MARGIN_MM
        room_h = (self.paper.height_mm - 2 * MARGIN_MM - HEAD_MM) / 2.0
        for k in range(0, len(entries), 2):
            self.page(lambda painter, two=entries[k : k + 2]: self._photos(painter, two, room_w, room_h))  # type: ignore[misc]

    def _photos(self, painter: QPainter, entries: list[LogEntry], room_w: float, room_h: float) -> None:
        self.title(painter, "Photos of the log")
        painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
        for e in entries:
            image = QImage.fromData(self.file.pictures[e.photo])
            k = min(room_w / max(image.width(), 1), (room_h - CAPTION_MM) / max(image.height(), 1))
            painter.drawImage(QRectF(0.0, 0.0, image.width() * k, image.height() * k), image)
            painter.save()
            painter.setFont(text_font(64, plain=True))
            painter.setPen(BENCH.colour("ink"))
            painter.translate(0.0, image.height() * k + 1.5)
            painter.scale(0.05, 0.05)
            place = QRectF(0.0, 0.0, room_w * 20.0, CAPTION_MM * 20.0 - 40.0)
            painter.drawText(place, int(Qt.TextFlag.TextWordWrap), f"{e.at}  {words_of(self.file.plan, e)}")
            painter.restore()
            painter.translate(0.0, room_h)


def write_book(
    file: PlanFile, assessment: Assessment, path: Path, paper: str = "a4", progress: Progress = lambda share: True
) -> Path:
    """Write the bench book.

    Raises
    ------
    PlanFileError
        For another suffix or paper, or a place that can't be written.
    StoppedError
        When it was stopped.
    """
    if paper not in PAPERS:
        raise PlanFileError("Bench book", f"“{paper}” is no paper", " or ".join(PAPERS))
    if path.suffix.lower() != ".pdf":
        raise refuse_ending(path, "The bench book", ".pdf")
    book = Book(file, assessment, paper, progress)
    views = file.plan.views
    for n, view in enumerate(views):
        book.told(0.5 * n / len(views))
        book.view(view)
    book.told(0.5)
    if file.plan.sections:
        book.round()
    book.told(0.6)
    if assessment.lamps:
        book.circuits()
    book.photos()
    try:
        pages = pages_of(file.plan, assessment, PAPERS[paper])
    except PlanError:
        pages = []  # a plan with nothing to put on sheets is a book of pictures
    for n, page in enumerate(pages):
        book.told(0.65 + 0.35 * n / max(len(pages), 1))
        here = page
        book.page(lambda painter, here=here: paint_page(painter, here), here.paper.width_mm, here.paper.height_mm)  # type: ignore[misc]
    book.painter.end()
    write_atomically(path, bytes(book.buffer.data().data()))
    progress(1.0)
    return path
