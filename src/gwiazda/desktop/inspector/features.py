"""Which feature what is picked belongs to."""

from __future__ import annotations

from gwiazda.core.plan import edits
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.widgets.fields import ChoiceField


class FeatureChoice(ChoiceField):
    """Which feature what is picked belongs to; hidden while the plan has none."""

    def __init__(self, panel: Panel) -> None:
        super().__init__("Feature it belongs to", [("", "none of its own")], self._give)
        self.setObjectName("Feature it belongs to")
        self._panel = panel
        self._known: tuple[tuple[str, str], ...] = ()

    def _give(self, feature_id: str) -> None:
        document = self._panel.document
        ids = document.selection
        document.edit("Change the feature", lambda plan: edits.assign_feature(plan, ids, feature_id))

    def refresh(self) -> None:
        known = tuple((f.id, f.name) for f in self._panel.plan.features)
        if known != self._known:
            self._known = known
            self.clear()
            for value, words in (("", "none of its own"), *known):
                self.addItem(words, value)
        self.setEnabled(bool(known))
        self.setToolTip("Feature it belongs to" if known else "The plan has no feature yet: Measure, nothing picked")
        mine = common([getattr(i, "feature", "") for i in self._panel.document.selected_items()])
        self.show_value(str(mine) if mine is not None else "several")
