"""Try it with one resistor: three values of the drawer held before one lamp, and one's own brightness learned from which was right."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout

from gwiazda.core.assess.lamp.tryout import Bench, Changed, Three, bench_for, changed_by, three_of
from gwiazda.core.assess.lights.looks import words_kept
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.light.staircase import ANSWERS, Answer, BrightnessScale, Comparison
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Plan
from gwiazda.core.quantities import counted, figure, format_resistance
from gwiazda.desktop.panels.panel import PanelCard, button_of, label, side_by_side
from gwiazda.desktop.stations.light.look_tile import LOOK_WORDS
from gwiazda.desktop.widgets.resistor import ResistorPicture

SIDES = ANSWERS[:3]


def scale_words(scale: BrightnessScale) -> str:
    """How bright its user wants it, and how sure that is."""
    if not scale.answers:
        return "Nothing compared yet: a word means what it usually does. Some six answers settle what it means to you."
    here, there = scale.band(), scale.band(elsewhere=True)
    sure = "sure enough" if scale.sure else "not sure yet"
    return (
        f"You want <b>{figure(scale.value, 2)} ×</b> the usual, by {counted(scale.answers, 'answer')}: likely {figure(here[0], 2)} to "
        f"{figure(here[1], 2)}, {sure}. With other lamps and panes {figure(there[0], 2)} to {figure(there[1], 2)}, as their own light isn’t known better."
    )


def changed_words(bench: Bench, found: Changed) -> str:
    """What that makes of the plan."""
    word = LOOK_WORDS[bench.word].capitalize()
    said = f"{word} is {figure(found.now)} {bench.unit} here, usually {figure(found.usual)}."
    if not found.resistors:
        return f"{said} No resistor of this plan is another for it."
    first = (
        f": {found.name} takes {format_resistance(found.after_ohm)}, not {format_resistance(found.before_ohm)}"
        if found.name and found.before_ohm > 0 and found.after_ohm > 0
        else ""
    )
    return f"{said} {found.resistors} of {counted(found.of, 'resistor')} of this plan {'is another' if found.resistors == 1 else 'are others'}{first}."


class TryoutCard(PanelCard):
    """Three resistors to hold before one lamp, and which of them was right."""

    title = "Try it with one resistor"
    folds = True

    def build(self) -> None:
        self.words = self.card.consequence()
        grid = QGridLayout()
        grid.setSpacing(4)
        self.pictures = [ResistorPicture() for _ in SIDES]
        self.values = [label("", "muted") for _ in SIDES]
        self.buttons = {
            side: button_of(side.capitalize(), f"The {side} one is right", partial(self.answer, side)) for side in SIDES
        }
        for k, side in enumerate(SIDES):
            grid.addWidget(self.pictures[k], 0, k)
            grid.addWidget(self.values[k], 1, k, Qt.AlignmentFlag.AlignHCenter)
            grid.addWidget(self.buttons[side], 2, k)
            grid.setColumnStretch(k, 1)
        self.card.outer.addLayout(grid)
        self.buttons["none"] = self.button(
            "None of them", "All too bright, or all too dim", partial(self.answer, "none")
        )
        self.sure, self.changed = label("", "", wrap=True), label("", "", wrap=True)
        self.card.outer.addWidget(self.sure)
        self.card.outer.addWidget(self.changed)
        self.follow_room = self.button(
            "Let words follow this room", "Soft, normal and bright by the room, and by what you like", self._follow_room
        )
        self.back = button_of("Take the last back", "Forget the last answer", lambda: self._keep(self._answers[:-1]))
        self.forget = button_of("Forget all", "A word means what it usually does again", lambda: self._keep(()))
        self.card.outer.addLayout(side_by_side(self.back, self.forget))
        self.three: Three | None = None
        self.bench: Bench | None = None
        self._shown: object = None
        self._found_for: object = None
        if self.card.fold is not None:  # what is folded reckons nothing; opened, it does at once
            self.card.fold.clicked.connect(self.say)

    @property
    def _answers(self) -> tuple[Comparison, ...]:
        return self.document.workshop.compared

    def _lamp(self) -> str | None:
        """The lamp to hold: what is picked, or the first of a light."""
        item = self.first
        if isinstance(item, Lamp):
            return item.id
        state = state_of(self.document.assessed_plan, self.panel.assessment, item.id)
        lamps: tuple[str, ...] = state.lamps if state is not None else ()
        return lamps[0] if lamps else None

    def say(self) -> None:
        if not self.card.is_open or self.document.dragging:
            return
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        lamp = self._lamp()
        found: Bench | str = (
            "It has no lamp yet that could be held." if lamp is None else bench_for(plan, assessment, lamp)
        )
        self.bench = found if isinstance(found, Bench) else None
        shown = (found, self._answers)
        if shown != self._shown:
            self._shown = shown
            self._show(found)
        self.follow_room.setVisible(self.bench is not None and self.plan.room.looks == "fixed")
        self.back.setEnabled(bool(self._answers))
        self.forget.setEnabled(bool(self._answers))
        if self.bench is not None and self._answers and self._found_for != (plan, self._answers, self.bench):
            self._found_for = (plan, self._answers, self.bench)
            bench = self.bench
            self.panel.task("what one’s own brightness changes").ask_soon(
                plan, lambda: (bench, changed_by(plan, assessment, bench)), self._have_changed
            )

    def _show(self, found: Bench | str) -> None:
        bench = self.bench
        self.three = three_of(bench, self._answers) if bench is not None else None
        for widget in (*self.pictures, *self.values, *self.buttons.values()):
            widget.setVisible(self.three is not None)
        self.sure.setText(scale_words(self.document.workshop.scale))
        self.changed.setText("")
        if bench is None or self.three is None:
            self.words.setText(str(found))
            return
        word = LOOK_WORDS[bench.word]
        self.words.setText(
            f"Hold <b>one {bench.part}</b> {bench.held}, on {figure(bench.volts)} V, in the room it is for ({bench.room}). Put the left resistor "
            f"before it, then the middle one, then the right: which is <b>{word}</b> to you? Each is safe for it; don’t stare into it from close by."
        )
        for k, ohm in enumerate(self.three.ohms):
            self.pictures[k].show_ohm(ohm, self.plan.drawer.series)
            self.values[k].setText(format_resistance(ohm))
        scale, most = self.document.workshop.scale.value, bench.levels[-1]
        if self._answers and scale > most:
            self.sure.setText(
                f"{scale_words(self.document.workshop.scale)} One such lamp gives {figure(most, 2)} × the usual at the most: a brighter one tells more."
            )

    def _have_changed(self, found: tuple[Bench, Changed]) -> None:
        bench, changed = found
        if bench == self.bench:
            fixed = self.document.plan.room.looks == "fixed"
            self.changed.setText(
                "In this plan words mean the same in every room, as at night, and what you like changes nothing here."
                if fixed
                else changed_words(bench, changed)
            )

    def answer(self, which: Answer) -> None:
        """Which of the three is right; the next three follow."""
        if self.three is not None and self.bench is not None:
            self._keep((*self._answers, self.three.answered(which, self.bench)))

    def _keep(self, compared: tuple[Comparison, ...]) -> None:
        """Keep what was compared, and take it for all words from now on; what is told of it can be taken back."""
        document = self.document
        before, was = document.workshop.compared, document.catalogue
        try:
            document.change_workshop(document.workshop.with_compared(compared))
        except GwiazdaError as error:
            document.message_stop(str(error))
            return

        def kept(plan: Plan) -> Plan:
            return words_kept(document.catalogue, plan, plan, was)

        if kept(document.plan) is not document.plan:
            document.edit("Brightness as I like it", kept)
        if not compared and before:
            document.message_with_way_back.emit(
                "All answers are forgotten: words mean what they usually do.", lambda: self._keep(before)
            )
        self.say()

    def _follow_room(self) -> None:
        def follow(plan: Plan) -> Plan:
            return words_kept(self.document.catalogue, plan, edits.set_room(plan, looks="room"))

        self.document.edit("Change what the words mean", follow)

    def take_over(self, old: Any) -> None:
        super().take_over(old)
        self.say()
