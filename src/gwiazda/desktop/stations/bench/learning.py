"""What the log teaches: figures before and after, used from then on when one says so, and taken back at once."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.parts.catalogue import Catalogue, Known
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Learned, Plan
from gwiazda.core.plan.naming import name_of, names_of
from gwiazda.core.quantities import counted, figure
from gwiazda.core.workbench.learning.lesson import Lesson, Moved, lesson_of, with_lesson
from gwiazda.core.workbench.learning.next_reading import NextReading, narrows_words, next_reading_words, next_readings
from gwiazda.core.workbench.photo.photowords import LOCK
from gwiazda.core.workshop.learned_csv import COMMON
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.widgets.offer import OfferButton
from gwiazda.desktop.widgets.whisker import BeforeAfter, Change

UNREAD = "The cells may have been full or low when these lamps were read: read the volts at the source too, and their forward voltage can be learned."
NONE = (
    "Read the light of a lamp or of a window, take a photo, read the volts of two lamps of a kind, or note how many coats it took until "
    "nothing shone through: what that says of the rest is shown here."
)
MOST_ROWS = 8
UNITS = {"section": " cd/m²", "light": " × the light", "volts": " V", "coat": " density", "source": " V"}


def name_of_moved(plan: Plan, catalogue: Catalogue, m: Moved) -> str:
    """What a figure is of, as a person would say it."""
    if m.subject == "section":
        return name_of(plan, m.of)
    tables: dict[str, Mapping[str, Any]] = {"coat": catalogue.coats, "source": catalogue.sources}
    part = tables.get(m.subject, catalogue.lamps).get(m.of)
    return str(part.name) if part is not None else m.of


def changes_of(plan: Plan, catalogue: Catalogue, lesson: Lesson) -> tuple[Change, ...]:
    """Figures that readings moved, those of sections first."""
    out = []
    for m in sorted(lesson.moved, key=lambda m: (m.subject != "section", -m.readings)):
        low, high = (figure(x, 2) for x in m.after[1:])
        was = " to ".join(figure(x, 2) for x in m.before[1:])
        words = f"{figure(m.after[0])}, {low} to {high}{UNITS[m.subject]}"
        name = name_of_moved(plan, catalogue, m)
        tip = f"{name}: {figure(m.before[0])}, {was}{UNITS[m.subject]} before; {words} after {counted(m.readings, 'reading')}"
        out.append(Change(name, m.before, m.after, words, tip))
    return tuple(out[:MOST_ROWS])


class LearnCard(PanelCard):
    """Figures before and after the readings."""

    title = "Learn from the readings"

    @classmethod
    def speaks(cls, plan: Plan) -> bool:
        return bool(plan.log) or bool(plan.learned) or bool(plan.lamps and plan.openings)

    def build(self) -> None:
        card = self.card
        self.words = card.consequence()
        self.picture = BeforeAfter()
        card.outer.addWidget(self.picture)
        row = QHBoxLayout()
        row.setSpacing(4)
        self.use = QPushButton("Use it")
        self.use.setAccessibleName("Use what the readings say")
        self.use.setToolTip(
            "All figures of this plan follow, with the bands that remain; other plans begin with what it says of parts, less sure"
        )
        self.use.clicked.connect(self._use)
        self.back = QPushButton("Take it back")
        self.back.setToolTip("The house’s values again, here and in other plans; the readings stay in the log")
        self.back.clicked.connect(self._take_back)
        row.addWidget(self.use, 1)
        row.addWidget(self.back, 1)
        card.outer.addLayout(row)
        self.next_words = label("Worth reading next", "cardtitle")
        card.outer.addWidget(self.next_words)
        self.next_rows = QVBoxLayout()
        self.next_rows.setSpacing(3)
        card.outer.addLayout(self.next_rows)
        self.lesson: Lesson | None = None
        self.next: tuple[NextReading, ...] = ()
        self._of: object = None

    def refresh(self) -> None:
        plan, document = self.document.assessed_plan, self.document
        of = (document.assessment, plan.log)
        if self._of is None or of[0] is not self._of[0] or of[1] is not self._of[1]:  # type: ignore[index]
            self._of = of
            catalogue, others = document.catalogue, document.workshop.known(plan.kit.name)
            self.panel.task("lesson").ask(
                plan,
                lambda: (lesson_of(plan, catalogue, others), next_readings(plan, catalogue)),
                self._take,
                self._forget,
            )
        self._show()

    def _forget(self) -> None:
        self._of = None

    def _take(self, found: tuple[Lesson, tuple[NextReading, ...]]) -> None:
        self.lesson, self.next = found
        self._show()
        self._show_next()

    def _show_next(self) -> None:
        """What is worth reading next; a click picks what it is read of."""
        plan, assessment = self.document.assessed_plan, self.document.assessment
        clear(self.next_rows)
        self.next_words.setVisible(bool(self.next))
        for n in self.next:
            row = OfferButton(next_reading_words(plan, n))
            row.show_outcome(f"{n.minutes:.0f} min", "look")
            row.setToolTip(f"It narrows most: {narrows_words(plan, assessment, n)}")
            row.clicked.connect(lambda _=False, n=n: self._go(n))
            self.next_rows.addWidget(row)

    def _go(self, n: NextReading) -> None:
        if n.what == "photo":
            self.document.message.emit(LOCK, "info")
        else:
            self.document.select([n.of])

    def _show(self) -> None:
        plan, lesson = self.document.assessed_plan, self.lesson
        self.back.setEnabled(bool(plan.learned) or self._shared)
        self.use.setEnabled(lesson is not None and bool(lesson.learned) and lesson.learned != plan.learned)
        self.use.setText("Use the new readings too" if plan.learned and self.use.isEnabled() else "Use it")
        if lesson is None:
            return
        self.picture.show_changes(changes_of(plan, self.document.catalogue, lesson))
        words = []
        if plan.learned:
            words.append("In use." if lesson.learned == plan.learned else "In use, but the log says more by now.")
        elif self._shared:
            words.append(
                "Not in use here, but other plans still begin with what it said of parts: take it back there too."
            )
        if lesson.left_out:
            which = names_of(plan, list(dict.fromkeys(lesson.left_out)), 4)
            words.append(f"Left out, as nothing else agrees with it: {which}. Read it again, or see what is broken.")
        if lesson.unread_source:
            words.append(UNREAD)
        if not lesson.moved and not lesson.left_out:
            words.append(NONE)
        self.words.setText(" ".join(words))
        self.words.setVisible(bool(words))

    @property
    def _shared(self) -> bool:
        """Whether other plans begin with what this one said of parts."""
        return any(key[0] == self.document.plan.kit.name for key in self.document.workshop.learned)

    def _use(self) -> None:
        lesson, assessment = self.lesson, self.document.assessment
        if self.document.assessed_plan is not self.document.plan:
            # Resistors of a moment ago would be soldered in place of those of now.
            self.document.message.emit("The plan has just changed: once more in a moment.", "info")
            return
        if lesson is not None and self._kept(lesson.learned):
            self.document.edit("Use what the readings say", lambda plan: with_lesson(plan, assessment, lesson))

    def _take_back(self) -> None:
        if self._kept(()):
            self.document.edit("Take back what the readings say", partial(edits.learn, learned=()))

    def _kept(self, learned: tuple[Learned, ...]) -> bool:
        """What other plans begin with; False, with a message, where it can't be kept."""
        document = self.document
        name = document.plan.kit.name
        common = {(str(x.kind), x.of): Known(x.shift, x.sigma, x.readings) for x in learned if x.kind in COMMON}
        if not name or (not common and not self._shared):
            return True
        try:
            document.change_workshop(document.workshop.with_learned(name, common))
        except GwiazdaError as error:
            document.message_stop(str(error))
            return False
        return True
