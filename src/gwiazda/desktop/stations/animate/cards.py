"""Cards of the Animate station with nothing picked: the show in figures, boards and what is proposed."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from gwiazda.core.assess.show.outputs import board_name, moving, outputs_of, proposals_for
from gwiazda.core.quantities import counted, figure, format_current
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.widgets.offer import OfferButton


class ShowCard(PanelCard):
    """What the show draws and how long it lasts; triggers."""

    title = "The show"

    def build(self) -> None:
        self.words = self.card.consequence()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.card.outer.addLayout(self.rows)

    def refresh(self) -> None:
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        effects = assessment.effects
        if not plan.cues:
            self.words.setText("Nothing moves yet. Pick lamps, then a ready pattern on their card “In time”.")
        else:
            shows = effects.feeds.values()
            mean, peak, full = (sum(getattr(s, n) for s in shows) for n in ("mean_a", "peak_a", "full_a"))
            at = max(shows, key=lambda s: s.peak_a).peak_s
            lines = [
                f"{counted(len(moving(plan)), 'channel')} {'moves' if len(moving(plan)) == 1 else 'move'}, {counted(len(plan.cues), 'cue')}.",
                f"On average <b>{format_current(mean)}</b>, at most <b>{format_current(peak)}</b> at {figure(at)} s; all on {format_current(full)}.",
            ]
            self.words.setText("<br>".join(lines))
        clear(self.rows)
        for t in plan.triggers:
            button = OfferButton(t.name or t.id)
            button.show_outcome(
                ", ".join(f"{figure(x)} s" for x in t.at_s[:3]) or "never pressed", "fine" if t.at_s else "look"
            )
            button.setToolTip("When it comes in the rehearsal, and what it starts")
            button.clicked.connect(lambda _=False, i=t.id: self.document.select([i]))
            self.rows.addWidget(button)


class BoardsCard(PanelCard):
    """Boards of the plan, and boards proposed for what moves."""

    title = "Controllers"
    extra = True

    def build(self) -> None:
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        self.card.outer.addLayout(self.rows)
        self.words = label("", "", wrap=True)
        self.card.outer.addWidget(self.words)
        self.offers = QVBoxLayout()
        self.offers.setSpacing(3)
        self.card.outer.addLayout(self.offers)
        self._shown: tuple[object, ...] = ()

    def refresh(self) -> None:
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        key = (plan.boards, plan.channels, plan.cues, assessment)
        # By identity: an assessment holds arrays, and another one is another object anyway.
        if self._shown and all(a is b for a, b in zip(key, self._shown, strict=True)):
            return
        self._shown = key
        clear(self.rows)
        clear(self.offers)
        states = outputs_of(plan, assessment)
        for b in plan.boards:
            part = self.document.catalogue.boards.get(b.part)
            mine = [o for o in states if o.board == b.id]
            of = f" of {part.outputs}" if part is not None else ""
            button = OfferButton(board_name(plan, b.id, self.document.catalogue))
            button.show_outcome(
                f"{len(mine)}{of} used", "fine" if part is None or len(mine) <= part.outputs else "stop"
            )
            button.setToolTip("Its outputs and its timer")
            button.clicked.connect(lambda _=False, i=b.id: self.document.select([i]))
            self.rows.addWidget(button)
        now = sorted((b.part, sorted(c.id for c in plan.channels if c.board == b.id)) for b in plan.boards)
        offers = [
            p
            for p in proposals_for(plan, assessment)
            if sorted((u.part.id, sorted(u.channels)) for u in p.boards) != now
        ]
        self.words.setText(
            ("What else would drive it:" if plan.boards else "What would drive it:")
            if offers
            else ("" if plan.boards else "What moves needs outputs: boards are proposed here then.")
        )
        for p in offers:
            words = f"{counted(sum(len(u.channels) for u in p.boards), 'output')}, {p.spare} spare"
            words += f", {counted(p.stages, 'transistor stage')}" if p.stages else ", no stage"
            words += f", fullest {p.worst * 100:.0f} %" + (", not in step" if p.apart else "")
            offer = OfferButton(p.name)
            offer.show_outcome(
                counted(p.stages, "stage") if p.stages else "no stage", "fine" if p.worst <= 1 else "look"
            )
            offer.setToolTip(f"{p.name}: {words}; the boards take {format_current(p.own_a)} themselves")
            offer.clicked.connect(lambda _=False, p=p: self.document.edit(f"Take {p.name}", p.edit))
            self.offers.addWidget(offer)
