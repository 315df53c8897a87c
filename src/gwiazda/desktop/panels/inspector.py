"""The inspector: the panel of what is picked, and what stands in its way."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Protocol

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from gwiazda.core.plan.model import KINDS
from gwiazda.desktop.document import Document

if TYPE_CHECKING:
    from gwiazda.desktop.panels.offers import OffersCard, OutcomeFinder
    from gwiazda.desktop.panels.panel import Heading, Panel, PanelCard

WIDTH = 306
NOUNS = {k.id: k.noun for k in KINDS} | {"circuit": "part"}


class CardSource(Protocol):
    """Who knows the stations: what cards they have for a kind of thing, and where a finding is settled."""

    def here(self, kind: str, station: str) -> Sequence[type[PanelCard]]: ...
    def others(self, kind: str, station: str) -> Sequence[type[PanelCard]]: ...
    def heading(self, kind: str, station: str) -> Heading: ...
    def station_of_topic(self, topic: str) -> str: ...
    def name_of_station(self, station: str) -> str: ...


class Inspector(QFrame):
    """Follows selection, plan and assessment."""

    weights_changed = Signal(dict)

    def __init__(self, document: Document, cards: CardSource, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document, self.cards = document, cards
        self.setObjectName("inspector")
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Inspector")
        self._weights: dict[str, float] = {}
        self.panel: Panel | None = None
        self._shown: tuple[str, str, tuple[type[PanelCard], ...]] | None = None  # kind of thing, station, cards
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
        self._box.addStretch(1)
        self._scroll.setWidget(content)
        outer.addWidget(self._scroll)
        document.selection_changed.connect(self.rebuild)
        document.plan_changed.connect(self._plan_changed)
        document.assessed.connect(self.refresh)
        document.file_changed.connect(self.rebuild)
        document.catalogue_changed.connect(self.renew)
        document.workshop_changed.connect(self.refresh)

    def begin(self) -> None:
        """Build the first panel."""
        if self.offers is None:
            from gwiazda.desktop.panels.offers import OffersCard, OutcomeFinder

            self.finder = OutcomeFinder(self.document, self)
            self.offers = OffersCard(self.document, self.finder, self.cards)
            self.rebuild()

    @property
    def idle(self) -> bool:
        own = self.panel.tasks.values() if self.panel is not None else ()
        return self.finder is not None and self.finder.idle and all(t.idle for t in own)

    def set_station(self, station: str) -> None:
        if station != self.document.station:
            self.document.end_trial()
            self.document.station = station
            self.rebuild()

    def set_weights(self, weights: dict[str, float]) -> None:
        self._weights = dict(weights)

    def rebuild(self) -> None:
        """Change the panel when another kind of thing is picked, or another station is shown."""
        if self.document.loading or self.offers is None:
            return
        kind, station = self.document.picked_kind, self.document.station
        here = self._here(kind, station)
        if (kind, station, here) != self._shown or self.panel is None:
            self._change(kind, station, here)
        self.refresh()

    def _here(self, kind: str, station: str) -> tuple[type[PanelCard], ...]:
        """The station's cards that have something to say of the plan as it is."""
        return tuple(card for card in self.cards.here(kind, station) if card.speaks(self.document.plan))

    def _change(self, kind: str, station: str, here: tuple[type[PanelCard], ...]) -> None:
        from gwiazda.desktop.panels.panel import Panel

        assert self.offers is not None
        self._shown = (kind, station, here)
        if self.panel is not None:
            self.offers.setParent(None)
            self.panel.hide()
            self.panel.close_workers()
            self.panel.setParent(None)  # its keys are those of the next panel from now on, not only once it is deleted
            self.panel.deleteLater()
        panel = self.panel = Panel(self.document, kind, self.cards.heading(kind, station))
        panel.weights = dict(self._weights)
        panel.weights_changed.connect(self.weights_changed)
        # What stands in the way comes first, with what would settle it.
        panel.body.addWidget(self.offers)
        rest = "All of the plan" if kind == "plan" else f"All about this {NOUNS[kind]}"
        panel.fill(self.cards.here(kind, station), lambda: self.cards.others(kind, station), rest)
        self._box.insertWidget(0, panel)
        self._scroll.verticalScrollBar().setValue(0)  # another panel is read from its top

    def show_widget(self, widget: QWidget) -> None:
        """Scroll to a widget of the panel."""
        if self.panel is not None:
            self._box.activate()
            self.panel.adjustSize()
        self._scroll.ensureWidgetVisible(widget, 20, 60)

    def renew(self) -> None:
        """Build the panel anew, as when the catalogue has changed; what was typed into its cards, unfolded and scrolled to stays."""
        before, shown, down = self.panel, self._shown, self._scroll.verticalScrollBar().value()
        self._shown = None
        self.rebuild()
        if before is None or self.panel is None or shown is None or self._shown is None or shown[:2] != self._shown[:2]:
            return
        if bool(before.more) != bool(self.panel.more):
            self.panel.toggle_more()
        kept = {type(card): card for card in before.all_cards}
        for card in self.panel.all_cards:
            if (old := kept.get(type(card))) is not None:
                card.take_over(old)
        self._box.activate()
        self.panel.adjustSize()
        QTimer.singleShot(0, self, lambda: self._scroll.verticalScrollBar().setValue(down))

    def _plan_changed(self) -> None:
        # Texts that come from the assessment follow with it; while nothing is dragged the fields follow at once.
        if self.panel is None or self.document.loading or self.document.drag_start is not self.document.plan:
            return
        kind, station = self.document.picked_kind, self.document.station
        if self._shown is not None and (kind, station, self._here(kind, station)) != self._shown:
            self.renew()  # the plan has grown, or shrunk: other cards have something to say
        else:
            self.panel.refresh()

    def refresh(self) -> None:
        if self.document.loading or self.offers is None:
            return
        if self.panel is not None:
            self.panel.refresh()
        self.offers.refresh()

    def close_workers(self) -> None:
        if self.panel is not None:
            self.panel.close_workers()
        if self.finder is not None:
            self.finder.close()
