"""A photo on the bench: its marks dragged onto what they name, each opening beside what was predicted, leaks found."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPolygonF

from gwiazda.core.assess.night.scene import pane_strips
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.model import Laid, LogEntry, Opening
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.core.render.photomap import mapped
from gwiazda.core.workbench.photo.photomarks import glows_of
from gwiazda.core.workbench.photo.photoread import PhotoReading
from gwiazda.desktop.plate.lines.marks import paint_tag
from gwiazda.desktop.stations.bench.photocard import relaid
from gwiazda.desktop.stations.bench.session import Session, session_of
from gwiazda.desktop.theme.fonts import figure_font

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate
    from gwiazda.desktop.stations.bench.drawer import BenchDrawer

NEEDS = 330
REACH = 14.0  # px within which a mark is taken
LOUPE, LARGER = 120.0, 4.0
WIDE = 0.62  # of the drawer: the photo's part at the most
FAR = 2.0  # times, at the top and bottom of the plot
BAND = 0.1


class PhotoPage:
    """The drawer's picture while a photo is read."""

    def __init__(self, drawer: BenchDrawer, session: Session) -> None:
        self.drawer, self.session = drawer, session
        self._image: tuple[str, QImage] = ("", QImage())
        self.place = QRectF()  # of the photo in the drawer
        self.held: int | None = None  # the mark that is dragged
        self.focus = 0
        self._dragged: Laid | None = None

    @property
    def entry(self) -> LogEntry | None:
        entry = self.session.photo_entry
        return entry if entry is not None and entry.laid is not None else None

    def image(self, entry: LogEntry) -> QImage:
        """The photo of an entry."""
        if self._image[0] != entry.photo:
            self._image = (entry.photo, QImage.fromData(self.session.document.pictures.get(entry.photo, b"")))
        return self._image[1]

    @property
    def laid(self) -> Laid:
        """How it lies now, while a mark is dragged too."""
        entry = self.entry
        assert entry is not None and entry.laid is not None
        return self._dragged or entry.laid

    def names(self) -> list[str]:
        """What the marks stand for, in their order; the grey patch behind them where there is one."""
        if self.laid.steps is not None:
            return ["white patch", "black patch"]
        return [m.on for m in self.laid.marks] + (["grey"] if self.laid.grey_lux is not None else [])

    def spots(self) -> list[tuple[float, float]]:
        if self.laid.steps is not None:
            return list(self.laid.steps)
        return [m.at for m in self.laid.marks] + ([self.laid.grey] if self.laid.grey_lux is not None else [])

    def _px(self, at: tuple[float, float]) -> QPointF:
        return QPointF(self.place.left() + at[0] * self.place.width(), self.place.top() + at[1] * self.place.height())

    # -- hands ---------------------------------------------------------------------------------------------

    def press(self, at: QPointF) -> bool:
        """Take the mark that lies there; False where none does."""
        if self.entry is None or not self.place.adjusted(-REACH, -REACH, REACH, REACH).contains(at):
            return False
        far = [QLineF(at, self._px(s)).length() for s in self.spots()]
        best = min(range(len(far)), key=far.__getitem__, default=None)
        if best is None or far[best] > REACH:
            return True
        self.held = self.focus = best
        return True

    def move(self, at: QPointF) -> bool:
        if self.held is None or self.entry is None:
            return False
        share = ((at.x() - self.place.left()) / self.place.width(), (at.y() - self.place.top()) / self.place.height())
        self._dragged = relaid(self.laid, self.held, share)
        return True

    def release(self) -> bool:
        held, self.held = self.held, None
        if held is None:
            return False
        self._take()
        return True

    def _take(self) -> None:
        laid, self._dragged, entry = self._dragged, None, self.entry
        if laid is not None and entry is not None:
            self.session.document.edit("Move a mark", lambda plan: edits.lay_photo(plan, entry.id, laid))

    def step(self, right: int, down: int) -> None:
        """Move the mark in hand by px of the photo."""
        entry = self.entry
        if entry is None:
            return
        image, spots = self.image(entry), self.spots()
        number = min(self.focus, len(spots) - 1)
        x, y = spots[number]
        self._dragged = relaid(
            self.laid, number, (x + right / max(image.width(), 1), y + down / max(image.height(), 1))
        )
        self._take()

    def next_mark(self) -> None:
        """Take the next mark in hand."""
        self.focus = (self.focus + 1) % max(len(self.spots()), 1)

    # -- picture -------------------------------------------------------------------------------------------

    def subtitle(self) -> str:
        shot = self.session.shot
        if self.session.shot_fault:
            return self.session.shot_fault
        names = self.names()
        if shot is None:
            return f"drag each mark onto what it names: {', '.join(names)}"
        by = "by the grey patch" if shot.absolute else "exposure fitted"
        told = f"{counted(len(shot.told), 'opening')} told of {len(shot.panes)}"
        return f"{told} · {counted(len(shot.leaks), 'leak')} · corners at {shot.corner * 100:.0f} % · {by} · N: next mark, Shift+arrows move it"

    def paint(self, painter: QPainter, body: QRectF) -> None:
        entry = self.entry
        assert entry is not None
        image, p = self.image(entry), self.drawer.palette_
        if image.isNull():
            self.drawer.words(
                painter, QRectF(body.left(), body.top(), body.width(), 20), "The photo is no longer with the plan."
            )
            return
        high = body.height()
        wide = min(body.width() * WIDE, high * image.width() / image.height())
        high = wide * image.height() / image.width()
        self.place = QRectF(body.left(), body.top() + (body.height() - high) / 2, wide, high)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(self.place, image)
        painter.setClipRect(self.place)
        self._over(painter, image)
        painter.restore()
        for k, (name, spot) in enumerate(zip(self.names(), self.spots(), strict=True)):
            at = self._px(spot)
            on = k == self.focus and (self.held is not None or self.drawer.hasFocus())
            painter.setPen(QPen(p.colour("live"), 2.2 if on else 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(at, 8, 8)
            for x, y in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                painter.drawLine(at + QPointF(8 * x, 8 * y), at + QPointF(13 * x, 13 * y))
            painter.setFont(figure_font(13, plain=True))
            mark = "G" if name == "grey" else str(k + 1)
            box = QRectF(at.x() + 9, at.y() - 25, 17, 17)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(p.colour("night", 190))
            painter.drawRoundedRect(box, 3, 3)
            painter.setPen(p.colour("live"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, mark)
            words = "patch of known grey" if name == "grey" else f"mark {mark}: {name}"
            self.drawer.places.append((QRectF(at.x() - 9, at.y() - 9, 18, 18), "" if name == "grey" else name, words))
        right = QRectF(self.place.right() + 18, body.top(), body.right() - self.place.right() - 18, body.height())
        if self.held is not None:
            self._loupe(painter, image, right)
        elif self.session.shot is not None:
            self._plot(painter, right, self.session.shot)
        else:
            self.drawer.words(
                painter,
                QRectF(right.left(), right.top(), right.width(), 20),
                "" if self.session.shot_fault or self.session.card else "…",
            )

    def _over(self, painter: QPainter, image: QImage) -> None:
        """Openings and leaks as they lie on the photo."""
        shot, p = self.session.shot, self.drawer.palette_
        if shot is None or self._dragged is not None:
            return
        k = self.place.width() / image.width()
        openings = {o.id: o for o in self.session.document.plan.openings}
        for pane in shot.panes:
            o = openings.get(pane.id)
            if o is not None:
                colour = "look" if not pane.counts else ("fine" if abs(pane.ratio - 1.0) <= BAND else "stop")
                self._outline(painter, o, shot, k, p.colour(colour))
        for x in shot.leaks:
            at = mapped(shot.to_photo, _array(x.right, x.down))
            centre = QPointF(self.place.left() + float(at[0]) * k, self.place.top() + float(at[1]) * k)
            painter.setPen(
                QPen(p.colour("stop"), 1.6, Qt.PenStyle.DashLine if not x.predicted else Qt.PenStyle.SolidLine)
            )
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(centre, 11, 11)

    def _outline(self, painter: QPainter, o: Opening, shot: PhotoReading, k: float, colour) -> None:  # type: ignore[no-untyped-def]
        x, y, _ = to_sheet(o.side, o.at)
        cut = pane_strips(o)
        a, b = min(c[0] for c in cut), max(c[1] for c in cut)
        c, d = min(c[2] for c in cut), max(c[3] for c in cut)
        corners = mapped(shot.to_photo, _array((x + a, y + c), (x + b, y + c), (x + b, y + d), (x + a, y + d)))
        painter.setPen(QPen(colour, 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(
            QPolygonF([QPointF(self.place.left() + float(u) * k, self.place.top() + float(v) * k) for u, v in corners])
        )

    def _loupe(self, painter: QPainter, image: QImage, room: QRectF) -> None:
        """What lies under the mark in hand, larger."""
        assert self.held is not None
        side = min(LOUPE, room.width(), room.height())
        x, y = self.spots()[self.held]
        half = side / LARGER / 2
        source = QRectF(x * image.width() - half, y * image.height() - half, 2 * half, 2 * half)
        target = QRectF(room.left(), room.top(), side, side)
        painter.drawImage(target, image, source)
        painter.setPen(QPen(self.drawer.palette_.colour("live"), 1))
        painter.drawLine(QLineF(target.center().x(), target.top(), target.center().x(), target.bottom()))
        painter.drawLine(QLineF(target.left(), target.center().y(), target.right(), target.center().y()))
        name = self.names()[self.held]
        self.drawer.words(painter, QRectF(target.right() + 8, target.top(), room.width() - side - 8, 18), name, "ink")

    def _plot(self, painter: QPainter, room: QRectF, shot: PhotoReading) -> None:
        """Each opening's light over what was predicted, section by section."""
        p, drawer = self.drawer.palette_, self.drawer
        plot = room.adjusted(34, 8, -4, -26)
        for ratio, words in ((FAR, "2 ×"), (1.0, "1 ×"), (1.0 / FAR, "½ ×")):
            y = self._y(plot, ratio)
            painter.setPen(QPen(p.colour("line"), 1, Qt.PenStyle.SolidLine if ratio == 1.0 else Qt.PenStyle.DotLine))
            painter.drawLine(QLineF(plot.left(), y, plot.right(), y))
            drawer.words(painter, QRectF(room.left(), y - 9, 30, 18), words)
        top, bottom = self._y(plot, 1.0 + BAND), self._y(plot, 1.0 - BAND)
        painter.fillRect(QRectF(plot.left(), top, plot.width(), bottom - top), p.colour("fine", 50))
        sections = {o.id: o.section for o in self.session.document.plan.openings}
        names = {s.id: s.name for s in self.session.document.plan.sections}
        groups: dict[str, list] = {}  # type: ignore[type-arg]
        for pane in shot.panes:
            groups.setdefault(sections.get(pane.id, ""), []).append(pane)
        count = sum(map(len, groups.values())) + len(groups)
        wide = plot.width() / max(count, 1)
        x = plot.left() + wide / 2
        for section, panes in groups.items():
            left = x
            for pane in panes:
                ratio = pane.ratio if math.isfinite(pane.ratio) else FAR
                at = QPointF(x, self._y(plot, ratio))
                inside = abs(ratio - 1.0) <= BAND
                painter.setPen(QPen(p.colour("ink"), 0.8))
                painter.setBrush(p.colour("fine" if inside else "stop") if pane.counts else p.colour("card"))
                size = min(max(wide * 0.4, 2.0), 5.0)
                painter.drawEllipse(at, size, size)
                why = "" if pane.counts else f" ({pane.why_not})"
                words = f"{name_of(self.session.document.plan, pane.id)}: {figure(pane.read_cd_m2)} cd/m² read, {figure(pane.said_cd_m2)} predicted{why}"
                drawer.places.append((QRectF(x - wide / 2, plot.top(), wide, plot.height()), pane.id, words))
                x += wide
            name = names.get(section, section)
            drawer.words(painter, QRectF(left - wide / 2, plot.bottom() + 4, x - left, 18), name)
            x += wide

    def _y(self, plot: QRectF, ratio: float) -> float:
        share = math.log(min(max(ratio, 1.0 / FAR), FAR) * FAR) / math.log(FAR * FAR)
        return plot.bottom() - plot.height() * share


def _array(*points: float | tuple[float, float]) -> npt.NDArray[np.float64]:
    """A point, or several, for ``mapped``."""
    return np.array(points, dtype=float)


def paint_photo(painter: QPainter, plate: Plate, cut: int) -> None:
    """On the plate: what the marks name, by number, and the leaks that a photo shows."""
    document, p = plate.document, plate.palette_
    session = session_of(document)
    entry = session.photo_entry
    if entry is None or entry.laid is None or entry.laid.side != plate.view.side:
        return
    places = {g.id: g.at for g in glows_of(document.assessed_plan, document.assessment, entry.laid.side)}
    painter.save()
    painter.setClipRect(QRect(0, 0, cut, plate.height()))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for k, m in enumerate(entry.laid.marks):
        if m.on in places:
            at = plate.extent.to_px(*places[m.on])
            painter.setPen(QPen(p.colour("live"), 2))
            painter.drawEllipse(at, 9, 9)
            paint_tag(painter, at + QPointF(8, -28), str(k + 1), p)
    for x in session.shot.leaks if session.shot is not None else ():
        at = plate.extent.to_px(x.right, x.down)
        painter.setPen(QPen(p.colour("stop"), 1.8, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawEllipse(at, 12, 12)
        paint_tag(painter, at + QPointF(12, 6), f"{figure(x.times)} × what shows", p)
    painter.restore()
