"""The inspector: the panel of what is picked, and below it what stands in its way."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QScrollArea, QVBoxLayout, QWidget

from gwiazda.core.plan.lookup import timed
from gwiazda.core.plan.model import Carrier, Dot, Fitting, Hub, Lamp, Opening, Passage, Section
from gwiazda.core.plan.model import Panel as FacePanel
from gwiazda.desktop.document import Document
from gwiazda.desktop.stations.registry import BY_ID, load

if TYPE_CHECKING:
    from gwiazda.desktop.inspector.cards import Panel
    from gwiazda.desktop.inspector.offers import OffersCard, OutcomeFinder

WIDTH = 306
PANELS = {
    "lamp": "inspector.lamp:LampPanel",
    "opening": "inspector.opening:OpeningPanel",
    "section": "inspector.section:SectionPanel",
    "dot": "stations.fibre.panel:DotPanel",
    "panel": "stations.fibre.face:FacePanel",
    "passage": "stations.wire.passage:PassagePanel",
    "hub": "stations.wire.hub:HubPanel",
    "carrier": "inspector.carrier:CarrierPanel",
    "fitting": "inspector.fitting:FittingPanel",
    "circuit": "stations.wire.panel:CircuitPanel",
    "cue": "stations.animate.panel:CuePanel",
    "channel": "stations.animate.channel:ChannelPanel",
    "board": "stations.animate.board:BoardPanel",
    "trigger": "stations.animate.trigger:TriggerPanel",
    "plan": "inspector.plan_panel:PlanPanel",
}


class Inspector(QFrame):
    """Follows selection, plan and assessment."""

    weights_changed = Signal(dict)

    def __init__(self, document: Document, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.setObjectName("inspector")
        self.setFixedWidth(WIDTH)
        self.setAccessibleName("Inspector")
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
            from gwiazda.desktop.inspector.offers import OffersCard, OutcomeFinder

            self.finder = OutcomeFinder(self.document, self)
            self.offers = OffersCard(self.document, self.finder)
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
            if self.panel is not None:
                self.panel.arrange()

    def set_weights(self, weights: dict[str, float]) -> None:
        self._weights = dict(weights)

    def _kind_of(self) -> str:
        """What is picked: dots, panels, lamps, openings, sections, the first kind that is among it; nothing stands for the plan."""
        items = self.document.selected_items()
        kinds: tuple[tuple[str, type], ...] = (
            ("dot", Dot), ("panel", FacePanel), ("passage", Passage), ("hub", Hub), ("lamp", Lamp), ("opening", Opening), ("carrier", Carrier), ("fitting", Fitting), ("section", Section),
        )  # fmt: skip
        for kind, model in kinds:
            if any(isinstance(i, model) for i in items):
                return kind
        if self.document.selected_parts():
            return "circuit"
        for item_id in self.document.selection:
            item = timed(self.document.plan, item_id)
            if item is not None:
                return type(item).__name__.lower()
        return "plan"

    def rebuild(self) -> None:
        """Change the panel when another kind of thing is picked."""
        if self.document.loading or self.offers is None:
            return
        kind = self._kind_of()
        name = BY_ID[self.document.station].panels.get(kind, PANELS[kind])
        if name != self._kind or self.panel is None:
            self._kind = name
            if self.panel is not None:
                self.offers.setParent(None)
                self.panel.hide()
                self.panel.close_workers()
                self.panel.deleteLater()
            self.panel = load(name)(self.document)
            panel: Any = self.panel
            if hasattr(panel, "weights_changed"):
                panel.set_weights(self._weights)
                panel.weights_changed.connect(self.weights_changed)
            # What stands in the way comes first, with what would settle it.
            self.panel.body.insertWidget(1, self.offers)
            self.panel.arrange()
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
        if self.panel is not None:
            self.panel.close_workers()
        if self.finder is not None:
            self.finder.close()
