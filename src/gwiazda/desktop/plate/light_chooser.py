"""Choosing a kind of light on the plate: a line to type in, and the kinds, those usual for this kit first."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, QPointF, QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QLabel, QListWidgetItem, QVBoxLayout

from gwiazda.core.assess.lights.kinds import arc_words, hue_of, matching, usual
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lights import LightKind
from gwiazda.desktop.plate.lines.works import lamp_colour
from gwiazda.desktop.theme.palette import Palette
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.searchline import FoundList, SearchLine

if TYPE_CHECKING:
    from gwiazda.desktop.plate.plate import Plate

WIDE, ROW_PX, MOST_ROWS = 268, 26, 11
ICON = QSize(34, 18)


def kind_icon(catalogue: Catalogue, kind: LightKind, palette: Palette, ratio: float = 2.0) -> QIcon:
    """A disc in the light's colour; two of a pair, ringed where they differ by hand; a square for windows and rooms."""
    pixmap = QPixmap(ICON * ratio)
    pixmap.setDevicePixelRatio(ratio)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(palette.colour("ink"), 1.0))
    colours = [lamp_colour(hue_of(catalogue, c), palette) for c in kind.colours]
    spots = (11.0, 23.0) if kind.pair else (17.0,)
    for k, x in enumerate(spots):
        painter.setBrush(colours[min(k, len(colours) - 1)] if kind.pair else colours[0])
        if kind.placing == "point":
            painter.drawEllipse(QPointF(x, 9.0), 5.2, 5.2)
        elif kind.placing == "row":
            for dx in (-9, -2, 5):
                painter.drawRect(round(x + dx), 6, 5, 6)
        else:
            painter.drawRect(round(x - 8), 4, 16, 10)
    painter.end()
    return QIcon(pixmap)


class LightChooser(Guarded, QFrame):
    """The kinds of lights, by name; ``chosen`` is called with one."""

    def __init__(self, plate: Plate, chosen: Callable[[LightKind], object], left: Callable[[], object]) -> None:
        super().__init__(plate)
        self.plate, self._chosen, self._left = plate, chosen, left
        self.setObjectName("card")
        self.setAccessibleName("Kinds of lights")
        self.kinds: tuple[LightKind, ...] = ()
        box = QVBoxLayout(self)
        box.setContentsMargins(8, 8, 8, 8)
        self.list = FoundList("Kinds", self)
        self.line = SearchLine("Which light", "headl… · sidelight · engine · cabins", self.list, self, self)
        self.line.textChanged.connect(self._look)
        box.addWidget(self.line)
        self.list.setIconSize(ICON)
        box.addWidget(self.list)
        self.none = QLabel("No light is called so. “Other light” can be anything.")
        self.none.setObjectName("muted")
        self.none.setWordWrap(True)
        box.addWidget(self.none)
        self._icons: dict[str, QIcon] = {}
        self._for: object = None
        plate.installEventFilter(self)
        self.hide()

    def open(self) -> None:
        """Show it with all kinds, the keys in its line."""
        document = self.plate.document
        made_for = (document.catalogue, self.plate.palette_.name)
        if made_for != self._for:
            self._for = made_for
            self._icons = {k.id: kind_icon(document.catalogue, k, self.plate.palette_) for k in document.catalogue.light_kinds.values()}  # fmt: skip
        self.line.clear()
        self._look("")
        self.show()
        self.raise_()
        self.line.setFocus()

    def place(self) -> None:
        """Under the tools of the plate."""
        self.setFixedWidth(min(scaled(WIDE), self.plate.width() - 20))
        room = (self.plate.height() - 60 - scaled(64)) // scaled(ROW_PX)
        rows = max(min(len(self.kinds), MOST_ROWS, room), 1)
        self.list.setVisible(bool(self.kinds))
        self.list.setFixedHeight(scaled(ROW_PX) * rows + 6)
        self.adjustSize()
        self.move(10, 48)

    def _look(self, text: str) -> None:
        document = self.plate.document
        kit = document.plan.kit.kind
        self.kinds = matching(document.catalogue, kit, text)
        self.list.clear()
        for kind in self.kinds:
            about = arc_words(kind)
            item = QListWidgetItem(self._icons.get(kind.id, QIcon()), f"{kind.name}   {about}" if about else kind.name)
            item.setSizeHint(QSize(100, scaled(ROW_PX)))
            where = "" if usual(kind, kit) else f" Not usual on a {kit}."
            item.setToolTip(f"{kind.name}: {kind.rule}.{where}")
            self.list.addItem(item)
        self.list.setCurrentRow(0 if self.kinds else -1)
        self.none.setVisible(not self.kinds)
        self.place()

    def take(self, row: int) -> None:
        """Choose a kind; the keys go back to the plate."""
        if 0 <= row < len(self.kinds):
            self.hide()
            self.plate.setFocus()
            self._chosen(self.kinds[row])

    def leave(self) -> None:
        """Put it away with nothing chosen."""
        self.hide()
        self.plate.setFocus()
        self._left()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if watched is self.plate and event.type() == QEvent.Type.Resize and self.isVisible():
            self.place()
        return False
