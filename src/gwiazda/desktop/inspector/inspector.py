"""The inspector: the panel of what is picked, and below it what stands in its way."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from gwiazda.core.plan.model import Lamp, Opening, Section
from gwiazda.desktop.document import Document
from gwiazda.desktop.worker import NewestWins

if TYPE_CHECKING:
    from gwiazda.desktop.inspector.cards import Panel
    from gwiazda.desktop.inspector.offers import OffersCard, OutcomeFinder

WIDTH = 306


class Inspector(QFrame):
    """Follows selection, plan and assessment."""

    weights_changed = Signal(dict)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.setObjectName("inspector")
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Inspector")
        self._station = "light"
        self._weights: dict[str, float] = {}
        self.panel: Panel | None = None
        self._kind: object = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(10, 10, 4, 10)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        content = QWidget()
        self._box = QVBoxLayout(content)
        self._box.setContentsMargins(0, 0, 6, 0)
        self._box.setSpacing(8)
        self.finder: OutcomeFinder | None = None
        self.offers: OffersCard | None = None
        self.reckoner: NewestWins | None = None
        self._box.addStretch(1)
        self._scroll.setWidget(content)
        outer.addWidget(self._scroll)
        document.selection_changed.connect(self.rebuild)
        document.plan_changed.connect(self._plan_changed)
        document.assessed.connect(self.refresh)
        document.file_changed.connect(self.rebuild)

    def begin(self) -> None:
        """Build the first panel."""
        if self.offers is None:
            from gwiazda.desktop.inspector.offers import OffersCard, OutcomeFinder

            self.finder = OutcomeFinder(self)
            self.reckoner = NewestWins("reckoner", self)
            self.offers = OffersCard(self.document, self.finder)
            self._box.insertWidget(0, self.offers)
            self.rebuild()

    @property
    def idle(self) -> bool:
        return self.finder is not None and self.finder.idle and (self.reckoner is None or self.reckoner.idle)

    def set_station(self, station: str) -> None:
        if station != self._station:
            self._station = station
            self.rebuild()

    def set_weights(self, weights: dict[str, float]) -> None:
        self._weights = dict(weights)

    def rebuild(self) -> None:
        """Change the panel when another kind of thing is picked."""
        if self.document.loading or self.offers is None:
            return
        from gwiazda.desktop.inspector.lamp import LampPanel
        from gwiazda.desktop.inspector.opening import OpeningPanel
        from gwiazda.desktop.inspector.plan_panel import PlanPanel
        from gwiazda.desktop.inspector.section import SectionPanel

        items = self.document.selected_items()
        kind: object
        if any(isinstance(i, Lamp) for i in items):
            kind = LampPanel
        elif any(isinstance(i, Opening) for i in items):
            kind = OpeningPanel
        elif any(isinstance(i, Section) for i in items):
            kind = "skin" if self._station == "block" else SectionPanel
        else:
            kind = ("plan", self._station)
        if kind != self._kind or self.panel is None:
            self._kind = kind
            if self.panel is not None:
                self.panel.hide()
                self.panel.deleteLater()
            if isinstance(kind, tuple):
                panel = PlanPanel(self.document, self._station)
                panel.set_weights(self._weights)
                panel.weights_changed.connect(self.weights_changed)
                self.panel = panel
            elif kind == "skin":
                from gwiazda.desktop.inspector.skin import SkinPanel

                assert self.reckoner is not None
                self.panel = SkinPanel(self.document, self.reckoner)
            else:
                self.panel = kind(self.document)  # type: ignore[operator]
            self._box.insertWidget(0, self.panel)
        self.refresh()

    def renew(self) -> None:
        """Build the panel anew, as when the catalogue has changed."""
        self._kind = None
        self.rebuild()

    def _plan_changed(self) -> None:
        # Texts that come from the assessment follow with it; while nothing is dragged the fields follow at once.
        if self.panel is not None and not self.document.loading and self.document.drag_start is self.document.plan:
            self.panel.refresh()

    def refresh(self) -> None:
        if self.document.loading or self.offers is None:
            return
        if self.panel is not None:
            self.panel.refresh()
        self.offers.refresh()

    def close_workers(self) -> None:
        for worker in (self.finder, self.reckoner):
            if worker is not None:
                worker.close()
