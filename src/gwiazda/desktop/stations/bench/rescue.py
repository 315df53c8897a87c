"""Something is wrong, and its section is closed: the ways in, and what stands in for it, each with its price; taken into the build."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout

from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Dot, Lamp, Opening, Section
from gwiazda.core.workbench.rescue.remedies import Offer, remedies
from gwiazda.core.workbench.rescue.remedy import Trouble, taken
from gwiazda.core.workbench.rescue.troubles import closed_sections, trouble_for, troubles_of
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.build.days import now_of
from gwiazda.desktop.widgets.offer import OfferButton

KINDS = (
    ("", "nothing"),
    ("dark", "it is dark"),
    ("dim", "it is too dim"),
    ("leak", "light leaks"),
    ("mirrored", "left for right"),
)
MOST = 4  # known troubles that are listed


class RescueCard(PanelCard):
    """What can be done about what is picked, once its section is closed."""

    title = "Closed, and something is wrong"
    extra = True

    def build(self) -> None:
        panel, card = self.panel, self.card
        self.session = session_of(self.document)
        self.kind = panel.choice("What is wrong", KINDS, self._chosen)
        self.kind.setToolTip("What is wrong with what is picked: the ways in and what each takes are worked out")
        card.row("What is wrong", self.kind)
        self.words = card.consequence()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        card.outer.addLayout(self.rows)
        self.trouble: Trouble | None = None
        self.offers: tuple[Offer, ...] = ()
        self._shown: object = None
        self._asked: object = None
        panel.follow(self.session.changed, self.refresh)

    def _chosen(self, kind: str) -> None:
        self.session.wrong = kind
        self.refresh()

    def _subject(self) -> str:
        """What is picked that can be dark, leak or be the wrong way round; "" for nothing."""
        for item in self.document.selected_items():
            if isinstance(item, (Lamp, Dot, Opening, Section)):
                return item.id
        return ""

    def refresh(self) -> None:
        kind, subject = self.session.wrong, self._subject()
        self.kind.show_value(kind)
        plan, assessment = self.document.assessed_plan, self.document.assessment
        if not kind or not subject:
            self._list_known()
            return
        self.trouble = trouble_for(plan, assessment, kind, subject)  # type: ignore[arg-type]
        if self.trouble is None:
            self._say(NOTHING[kind], ())
            return
        diagnosis = self.session.diagnosis if self.session.readings() and self.session.hidden is None else None
        suspects = diagnosis.suspects if diagnosis is not None else ()
        key = (assessment, self.trouble, suspects)
        if self._asked is not None and key[0] is self._asked[0] and key[1:] == self._asked[1:]:  # type: ignore[index]
            return
        self._asked = key
        trouble = self.trouble
        self._say("…", ())
        self.panel.task("rescue").ask(
            plan, lambda: remedies(plan, assessment, trouble, suspects), self._show, self._forget
        )

    def _forget(self) -> None:
        self._asked = None

    def _list_known(self) -> None:
        """What is known to be wrong in closed sections, to be picked."""
        self._asked, self.trouble = None, None
        plan = self.document.plan
        closed = closed_sections(plan)
        diagnosis = self.session.diagnosis if self.session.hidden is None else None
        known = troubles_of(plan, self.document.assessment, diagnosis, self.session.shot)[:MOST]
        if known:
            words = "Known to be wrong; pick one to see what can be done."
        elif not closed:
            words = "No section is closed yet. Pick a lamp, a dot or a section, and say what would be wrong: so much it would take."
        else:
            words = "Pick a lamp, a dot or a section, and say what is wrong with it."
        self._say(words, known)

    def _say(self, words: str, known: tuple[Trouble, ...]) -> None:
        self.offers = ()
        key = (words, known)
        self.words.setText(words)
        self.words.setVisible(bool(words))
        if key == self._shown:
            return
        self._shown = key
        clear(self.rows)
        for t in known:
            row = OfferButton(t.words)
            row.show_outcome(t.told, "look")
            row.setToolTip("See what can be done")
            row.clicked.connect(lambda _=False, t=t: self._pick(t))
            self.rows.addWidget(row)

    def _pick(self, trouble: Trouble) -> None:
        self.session.wrong = trouble.kind
        subject = trouble.section if trouble.kind == "leak" else trouble.subjects[0]
        self.document.select([subject])
        self.refresh()

    def _show(self, offers: tuple[Offer, ...]) -> None:
        trouble = self.trouble
        if trouble is None:
            return
        self.offers, self._shown = offers, offers
        section = section_of(self.document.plan, trouble.section)
        closed = trouble.section in closed_sections(self.document.plan)
        still = (
            ""
            if closed
            else f" {section.name} isn’t closed yet: mended now it takes no more than the work itself. Later:"
        )
        self.words.setText(f"<b>{trouble.words}</b>{still}")
        self.words.setVisible(True)
        clear(self.rows)
        heading = ""
        for offer in offers:
            wanted = "Leave it closed" if offer.remedy.instead else "Get at it, least harm first"
            if wanted != heading:
                heading = wanted
                self.rows.addWidget(label(wanted, "unit"))
            row = OfferButton(offer.remedy.name)
            row.show_outcome(offer.price.short, "fine" if offer.price.evenings <= 1 else "look")
            row.setToolTip(f"{offer.remedy.name}: take its steps into the build, as mending")
            row.clicked.connect(lambda _=False, o=offer: self._take(o))
            self.rows.addWidget(row)
            said = label(". ".join(x for x in (offer.price.words, offer.words) if x), "muted", wrap=True)
            self.rows.addWidget(said)

    def _take(self, offer: Offer) -> None:
        document, trouble = self.document, self.trouble
        if trouble is None:
            return
        at, catalogue = now_of(document), document.catalogue
        self.session.wrong = ""
        if document.edit(
            f"Mend: {offer.remedy.name.lower()}", lambda plan: taken(catalogue, plan, trouble, offer.remedy, at)
        ):
            n = len(offer.remedy.steps)
            document.message.emit(
                f"{n} steps are in the build, as mending." if n else "It is written into the log.", "info"
            )
        self.refresh()


NOTHING = {
    "dark": "Pick the lamp, the dot or the window that is dark.", "dim": "Pick the lamp, the dot or the window that is too dim.",
    "leak": "No light comes through the walls of this section by the plan: a leak here is a seam or a pinhole. Black it from outside.",
    "mirrored": "Nothing sits where its mirror image would be: pick a lamp or a dot that has one on the other side.",
}  # fmt: skip
