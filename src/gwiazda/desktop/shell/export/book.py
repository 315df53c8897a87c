"""The bench book: one PDF of the model as works and at night, its circuits, and all sheets."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path
from typing import NamedTuple

from PySide6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter, QPdfWriter

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets import PAPERS
from gwiazda.core.drawing.sheets.kinds import drawings_of, paged
from gwiazda.core.drawing.sheets.page import HEAD_MM, MARGIN_MM, Drawing, Paper, text
from gwiazda.core.drawing.sheets.summary import contents_table, findings_table, meters_table, shopping_table
from gwiazda.core.errors import PlanFileError, StoppedError
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import LogEntry, View
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.quantities import format_scale
from gwiazda.core.render.tone import middle_luminance, screen_table
from gwiazda.core.workbench.log import words_of
from gwiazda.desktop.longjob import Progress
from gwiazda.desktop.plate.lines.works import Works, paint_ground, paint_lamps
from gwiazda.desktop.plate.night import NightRenderer, Shot
from gwiazda.desktop.plate.sheet import Window, area_of, fit, render_drawing
from gwiazda.desktop.shell.export.paper import DOTS_PER_MM, paint_page
from gwiazda.desktop.shell.export.preview import image_of
from gwiazda.desktop.stations.wire.sheets import on_paper, page_title, paint_circuit_page
from gwiazda.desktop.svg_trial import shown
from gwiazda.desktop.theme.fonts import text_font
from gwiazda.desktop.theme.palette import BENCH
from gwiazda.desktop.widgets.marks import paint_mark

PICTURE_PX = 1200  # across the page
ACROSS, TURNS = 3, 6  # small pictures once round the model
CAPTION_MM, MOST_PHOTOS = 24.0, 24
NUMBER_MM = 18.0  # for the number of a page
AT_ONCE = min(3, os.cpu_count() or 1)


class BookPage(NamedTuple):
    """A page: what the contents call it, what paints it, its paper."""

    title: str
    paint: Callable[[QPainter], None]
    paper: Paper


class Book:
    """A PDF being put together, page by page."""

    def __init__(self, file: PlanFile, assessment: Assessment, paper: str, progress: Progress) -> None:
        self.file, self.assessment, self.progress = file, assessment, progress
        self.paper = PAPERS[paper]
        self.pictures = dict(file.pictures)
        self.buffer = QBuffer()
        self.buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        self.writer = QPdfWriter(self.buffer)
        self.writer.setTitle(f"{file.plan.kit.name}: bench book")
        self.writer.setResolution(600)
        self.painter = QPainter()
        self.pages: list[BookPage] = []

    def page(self, title: str, paint: Callable[[QPainter], None], paper: Paper | None = None) -> None:
        """A page to come, with the painter's unit at 1 mm; ``title`` is what the contents say of it, "" for what goes with the one before."""
        self.pages.append(BookPage(title, paint, paper or self.paper))

    def write(self) -> bytes:
        """All pages, the contents before them, each with its number."""
        entries = [(p.title, k) for k, p in enumerate(self.pages, 1) if p.title]
        count = len(contents_table(entries, self.paper))
        drawn = contents_table([(title, k + count) for title, k in entries], self.paper)
        contents = [
            BookPage("", partial(paint_page, page=page), page.paper)
            for page in paged(self.file.plan, drawn, self.paper)
        ]
        every = [*contents, *self.pages]
        for n, page in enumerate(every):
            self.told(0.65 + 0.35 * n / len(every))
            self._written(page, n + 1, len(every))
        self.painter.end()
        return bytes(self.buffer.data().data())

    def _written(self, page: BookPage, number: int, of: int) -> None:
        size = QSizeF(page.paper.width_mm, page.paper.height_mm)
        portrait, bare = QPageLayout.Orientation.Portrait, QMarginsF(0, 0, 0, 0)
        self.writer.setPageLayout(QPageLayout(QPageSize(size, QPageSize.Unit.Millimeter), portrait, bare))
        if number == 1:
            self.painter.begin(self.writer)
        else:
            self.writer.newPage()
        self.painter.save()
        self.painter.scale(DOTS_PER_MM, DOTS_PER_MM)
        self.painter.save()
        page.paint(self.painter)
        self.painter.restore()
        words = f"{number} of {of}"
        paint_mark(
            self.painter,
            text(
                page.paper.width_mm - MARGIN_MM - NUMBER_MM / 2.0, page.paper.height_mm - 5.0, words, 3.0, middle=True
            ),
        )
        self.painter.restore()

    def told(self, share: float) -> None:
        if not self.progress(share):
            if self.painter.isActive():
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

    def window(self, view: View) -> Window:
        """What of a view goes on its page, px."""
        room_w, room_h = self._halves()
        return fit(
            area_of(self.file.plan, view, self.pictures),
            PICTURE_PX,
            round(PICTURE_PX * room_h / room_w),
            margin_px=40.0,
        )

    def _halves(self) -> tuple[float, float]:
        """Width and height of half a page, mm."""
        room_h = (self.paper.height_mm - 2 * MARGIN_MM - HEAD_MM - 6.0) / 2.0
        return self.paper.width_mm - 2 * MARGIN_MM, room_h

    def night(self, view: View) -> QImage:
        """A view in the dark; fit for any thread."""
        plan = self.file.plan
        update = NightRenderer()(Shot(plan, self.assessment, view, self.window(view), self.pictures))
        assert update.picture is not None
        table = screen_table(middle_luminance(self.assessment.hull_cd_m2, plan.room.exposure_ev))
        return image_of(update.picture.frame(table, {}))

    def view(self, view: View, night: QImage) -> None:
        """The works of a view above, the same in the dark below."""
        plan, window = self.file.plan, self.window(view)
        works = Works(plan, self.assessment, view, window, BENCH, (), pictures=self.pictures)
        drawing = render_drawing(view, self.pictures, window)
        room_w, room_h = self._halves()
        k = room_w / PICTURE_PX

        def paint(painter: QPainter) -> None:
            self.title(painter, f"{plan.kit.name} {format_scale(plan.kit.scale)} · {view.name}")
            painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
            painter.save()
            painter.scale(k, k)
            painter.setClipRect(QRectF(0, 0, PICTURE_PX, window.height))
            paint_ground(painter, works, drawing)
            paint_lamps(painter, works)
            painter.restore()
            painter.drawImage(QRectF(0.0, room_h + 6.0, room_w, room_h), night)

        self.page(f"{view.name}: works and night", paint)

    def turned(self) -> tuple[QImage, list[QImage]]:
        """The model from the quarter above, and once round it; fit for any thread."""
        from gwiazda.desktop.shell.export.turntable import Shot, round_image, turning_images

        wide, high = PICTURE_PX, PICTURE_PX * 9 // 16
        large = round_image(self.file, self.assessment, Shot((wide, high)))
        return large, list(turning_images(self.file, self.assessment, (wide // ACROSS, high // ACROSS), TURNS))

    def round(self, large: QImage, small: list[QImage]) -> None:
        """The model from the quarter above, once round it below."""
        plan = self.file.plan
        room_w = self.paper.width_mm - 2 * MARGIN_MM
        wide = (room_w - (ACROSS - 1) * 2.0) / ACROSS

        def paint(painter: QPainter) -> None:
            self.title(painter, f"{plan.kit.name} {format_scale(plan.kit.scale)} · once round")
            painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
            painter.drawImage(QRectF(0.0, 0.0, room_w, room_w * 9 / 16), large)
            painter.translate(0.0, room_w * 9 / 16 + 6.0)
            for k, image in enumerate(small):
                x, y = (k % ACROSS) * (wide + 2.0), (k // ACROSS) * (wide * 9 / 16 + 2.0)
                painter.drawImage(QRectF(x, y, wide, wide * 9 / 16), image)

        self.page("Once round", paint)

    def circuits(self) -> None:
        """The circuits, on paper lying on its side."""
        plan, assessment = self.file.plan, self.assessment
        circuit = on_paper(plan, assessment, self.paper)
        for number in range(len(circuit.pages)):

            def paint(painter: QPainter, number: int = number) -> None:
                self.title(painter, page_title(plan, circuit, number))
                painter.translate(MARGIN_MM, MARGIN_MM + HEAD_MM)
                paint_circuit_page(painter, plan, assessment, circuit, number)

            self.page("" if number else "Circuits", paint, self.paper.turned)

    def drawings(self, drawings: Sequence[Drawing]) -> None:
        """Drawings on pages of the sheets' kind, small ones together."""
        seen: set[str] = set()
        for page in paged(self.file.plan, drawings, self.paper):
            fresh = [k for k in page.kinds if k not in seen]
            seen.update(fresh)
            self.page(", ".join(fresh), partial(paint_page, page=page), page.paper)

    def photos(self) -> None:
        """The photos of the log, two a page, the words beside them."""
        entries = [e for e in self.file.plan.log if e.photo in self.file.pictures][-MOST_PHOTOS:]
        room_w = self.paper.width_mm - 2 * MARGIN_MM
        room_h = (self.paper.height_mm - 2 * MARGIN_MM - HEAD_MM) / 2.0
        for k in range(0, len(entries), 2):
            paint = partial(self._photos, entries=entries[k : k + 2], room_w=room_w, room_h=room_h)
            self.page("" if k else "Photos of the log", paint)

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
    for view in views:
        if view.drawing is not None and view.drawing.picture in book.pictures:
            shown(book.pictures[view.drawing.picture], wait=True)
    # The pictures are worked out side by side, while the pages of those that are there are written.
    pool = ThreadPoolExecutor(AT_ONCE, "book")
    try:
        turned = pool.submit(book.turned) if file.plan.sections else None
        nights = [pool.submit(book.night, view) for view in views]
        for n, (view, night) in enumerate(zip(views, nights, strict=True)):
            book.told(0.5 * n / len(views))
            book.view(view, night.result())
        book.told(0.5)
        if turned is not None:
            book.round(*turned.result())
    finally:
        pool.shutdown(wait=False, cancel_futures=True)
    book.told(0.6)
    if assessment.lamps:
        book.circuits()
    book.photos()
    plan, sheet = file.plan, book.paper
    summary = [d for build in (meters_table, findings_table, shopping_table) for d in build(plan, assessment, sheet)]
    book.drawings([*summary, *drawings_of(plan, assessment, sheet)])
    data = book.write()
    write_atomically(path, data)
    progress(1.0)
    return path
