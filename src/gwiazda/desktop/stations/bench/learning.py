"""What the log teaches of the parts themselves, taken into one's own catalogue when one says so."""

from __future__ import annotations

import math
from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QVBoxLayout

from gwiazda.core.assess.choices.substitute import with_part
from gwiazda.core.assess.uncertainty import Z95
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted, figure
from gwiazda.core.workbench.learn import Learned, learned_volts
from gwiazda.core.workbench.learn_light import LearnedCoat, LearnedLight, learned_coat, learned_light, with_coat
from gwiazda.core.workshop.own import with_density, with_light, with_volts
from gwiazda.core.workshop.workshop import Workshop
from gwiazda.desktop.panels.panel import PanelCard, clear
from gwiazda.desktop.widgets.offer import OfferButton

UNREAD = "The cells may have been full or low when these lamps were read: read the volts at the source too, and their forward voltage can be learned."
NONE = (
    "Volts or lux read of two sound lamps of a kind or more, or how many coats a section took until nothing shone through, and the part "
    "can be learned here."
)


class LearnCard(PanelCard):
    """Forward voltages, light and coats as they really are."""

    title = "Learn from the readings"

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        return bool(plan.log)

    def build(self) -> None:
        self.words = self.card.consequence()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.card.outer.addLayout(self.rows)
        self._shown: object = None

    def refresh(self) -> None:
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        every = learned_volts(plan, assessment)
        volts = tuple(x for x in every if x.tells)
        light = tuple(x for x in learned_light(plan, assessment) if x.tells)
        coat = learned_coat(plan, assessment)
        unread = any(x.unsure_v > 0 and not x.tells for x in every)
        shown = (volts, light, coat, unread)
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.rows)
        for x in volts:
            self._volts(x)
        for y in light:
            self._light(y)
        if coat is not None and coat.tells:
            self._coat(coat)
        self.words.setText(UNREAD if unread else "" if self.rows.count() else NONE)

    def _row(self, name: str, outcome: str, tip: str, keep: Callable[[], None]) -> None:
        row = OfferButton(name)
        row.show_outcome(outcome, "look")
        row.setToolTip(tip)
        row.clicked.connect(lambda _=False: keep())
        self.rows.addWidget(row)

    def _volts(self, x: Learned) -> None:
        off = f"; {counted(x.left_out, 'lamp')} too far off to count" if x.left_out else ""
        sign = "+" if x.shift_v > 0 else "−"
        self._row(
            x.name,
            f"{sign}{abs(x.shift_v):.2f} ±{Z95 * x.spread_v:.2f} V, {counted(len(x.lamps), 'lamp')}",
            f"Keep it as a part of your own, measured, and use it for all lamps of this kind{off}",
            lambda: self._keep_part(
                x.part, lambda w: with_volts(w, self.document.catalogue.lamps[x.part], x.shift_v, x.spread_v)
            ),
        )

    def _light(self, x: LearnedLight) -> None:
        self._row(
            x.name,
            f"{figure(x.ratio)} × the light, ±{(math.exp(x.spread) - 1.0) * 100:.0f} %",
            f"By {', '.join(x.places[:6])}. Keep it as a part of your own, measured, and use it for all lamps of this kind",
            lambda: self._keep_part(x.part, lambda w: with_light(w, self.document.catalogue.lamps[x.part], x.ratio)),
        )

    def _coat(self, x: LearnedCoat) -> None:
        def keep() -> None:
            coat = self.document.catalogue.coats[x.coat]
            made = self._change(lambda w: with_density(w, coat, x.density, x.spread))
            if made:
                self.document.edit("Use the coat as learned", partial(with_coat, x.coat, made))

        self._row(
            x.name,
            f"{x.density:.2f} a coat, not {x.said:.2f}",
            f"By the coats of {counted(len(x.sections), 'section')}. Keep it as a coat of your own, and use it for all skins",
            keep,
        )

    def _change(self, change: Callable[[Workshop], tuple[Workshop, str]]) -> str:
        """Change the workshop; the id of what was made, "" with a message where it can't be kept."""
        try:
            workshop, made = change(self.document.workshop)
            self.document.change_workshop(workshop)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return ""
        return made

    def _keep_part(self, part: str, change: Callable[[Workshop], tuple[Workshop, str]]) -> None:
        document = self.document
        made = self._change(change)
        if not made:
            return
        if made != part:
            use: Callable[[Plan], Plan] = with_part(part, made)
            document.edit("Use the part as read", use)
        document.message.emit(f"{document.catalogue.lamps[made].name} is in your catalogue now.", "info")
