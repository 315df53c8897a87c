"""Where cells, boards and motors stand: whether they go in, their place, and which other sources would go in."""

from __future__ import annotations

from functools import partial
from math import isfinite
from typing import Any

from PySide6.QtWidgets import QVBoxLayout, QWidget

from gwiazda.core.assess.bodies.hatches import access_of
from gwiazda.core.assess.bodies.mounts import mounts_of
from gwiazda.core.assess.bodies.places import put_there, turned
from gwiazda.core.assess.bodies.powering import Power, powered, two_switches, what_is_added
from gwiazda.core.assess.bodies.rooms import Room, goes_in, rooms_of
from gwiazda.core.assess.electrics.evening import Option, options_for, same_source, short_list
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Feed, Plan
from gwiazda.core.quantities import counted, figure, format_hours
from gwiazda.desktop.forms.common import sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.panels.panel import PanelCard, button_of, clear, label, side_by_side
from gwiazda.desktop.stations.power.drawer import COST
from gwiazda.desktop.widgets.choice_button import ChoiceButton

MOST_ROWS, MOST_SOURCES = 6, 3


class BodiesCard(PanelCard):
    """What stands in which section, as a body with three sizes."""

    title = "How it is powered"
    fields = (
        Field("home", "Stands in", Choice(sections(("", "on the table"))), "Where the source is to stand: what goes in there is listed below", name="Source stands in",
              get=lambda card: card.home(), takes=lambda card, home: card.move(home)),
    )  # fmt: skip

    def items(self) -> list[Any]:
        return [self]

    def home(self) -> str:
        """The section the first source stands in; empty on the table."""
        return next((f.home for f in self.document.plan.feeds if f.home), "")

    def move(self, home: str) -> None:
        """Another place for the source."""
        feed = self.feed() or self.document.plan.feeds[0]
        self.document.edit("Where the source stands", lambda plan: edits.set_feed(plan, feed.id, home=home))

    def build(self) -> None:
        self.rows = QVBoxLayout()
        self.rows.setSpacing(5)
        self.card.outer.addLayout(self.rows)
        self.found: tuple[Option, ...] = ()
        self._asked: object = None
        self._for: object = None
        self._shown: object = None

    def feed(self) -> Feed | None:
        """The first source that stands in a section."""
        return next((f for f in self.document.assessed_plan.feeds if f.home), None)

    def refresh(self) -> None:
        plan, catalogue = self.document.assessed_plan, self.panel.assessment.catalogue
        rooms, feed = rooms_of(catalogue, plan), self.feed()
        self.card.setVisible(bool(plan.sections))
        self.form.show()
        key = (plan, catalogue)
        if feed is not None and key != self._asked and not self.document.dragging:
            self._asked = key
            assessment, feed_id = self.panel.assessment, feed.id
            self.panel.task("fits").ask_soon(
                plan, lambda: options_for(plan, assessment, feed_id), partial(self._take, plan)
            )
        self._show(plan, rooms, feed)

    def _take(self, plan: Plan, options: tuple[Option, ...]) -> None:
        feed = self.feed()
        if feed is not None:
            self.found, self._for = options, plan
            self._show(plan, rooms_of(self.panel.assessment.catalogue, plan), feed)

    def _show(self, plan: Plan, rooms: tuple[Room, ...], feed: Feed | None) -> None:
        catalogue = self.panel.assessment.catalogue
        options = (
            short_list(tuple(o for o in self.found if o.fits), feed.supply)
            if feed is not None and self._for is plan
            else ()
        )
        others = [
            o for o in options
            if feed is not None and o.part.kind in ("battery", "regulated") and not same_source(o.supply, feed.supply) and goes_in(catalogue, plan, feed, o.supply)
        ][:MOST_SOURCES]  # fmt: skip
        shown = (
            rooms,
            tuple(section_of(plan, r.body.section).name for r in rooms),
            others,
            feed,
            frozenset(p.mount for p in plan.lamps),
        )
        if shown == self._shown:
            return
        self._shown = shown
        clear(self.rows)
        if feed is not None and not any(r.body.of == feed.id for r in rooms):
            home = section_of(plan, feed.home).name
            self.rows.addWidget(
                label(f"Nothing is known of the size of its source, to stand in {home}.", "muted", wrap=True)
            )
        if feed is None:
            words = "The source stands outside, on the table. Say where it is to stand, and what goes in there is listed here."
            self.rows.addWidget(label(words, "muted", wrap=True))
        for room in rooms[:MOST_ROWS]:
            self._row(plan, room)
        if len(rooms) > MOST_ROWS:
            self.rows.addWidget(label(f"and {len(rooms) - MOST_ROWS} more", "muted"))
        apart = two_switches(catalogue, plan, (feed or plan.feeds[0]).id)
        if apart is not plan:
            self.rows.addWidget(
                button_of(
                    "Switch windows and outside apart",
                    "In place of one for all; each gets its place beside the source",
                    partial(self._apart, (feed or plan.feeds[0]).id),
                )
            )
        if feed is not None and others:
            home = section_of(plan, feed.home).name
            self.rows.addWidget(label(f"What else would go into {home}", "muted", wrap=True))
            for option in others:
                self.rows.addWidget(self._option(feed, option))

    def _row(self, plan: Plan, room: Room) -> None:
        home, of = section_of(plan, room.body.section).name, room.body.of
        if room.box is None:
            words, ink = f"{room.body.name} does not go into {home}: {room.why}.", "stop"
        else:
            size = " × ".join(figure(x, 3) for x in room.box.size)
            words, ink = f"{room.body.name} {'stands' if room.put else 'would stand'} in {home}, {size} mm.", ""
        self.rows.addWidget(label(words, ink, wrap=True))
        if feed_access := next((a for a in access_of(plan, self.panel.assessment) if a.feed == of), None):
            self.rows.addWidget(label(feed_access.words, "muted", wrap=True))
        if mount := next((m for m in mounts_of(self.panel.assessment.catalogue, plan) if m.of == of), None):
            self.rows.addWidget(label(mount.words, "muted", wrap=True))
        if room.put:
            turn = button_of("Turn it", "The next way round that stands free there", lambda: self._turn(of))
            anew = button_of("Find it a place", "Anew, beside what stands there", lambda: self._put(of))
            holder = QWidget()
            row = side_by_side(turn, anew)
            row.setContentsMargins(0, 0, 0, 0)
            holder.setLayout(row)
            self.rows.addWidget(holder)
        elif room.box is not None:
            self.rows.addWidget(
                button_of(
                    f"Put it in {home}",
                    "It gets its place: light, lamps and wires keep clear of it",
                    lambda: self._put(of),
                )
            )

    def _option(self, feed: Feed, option: Option) -> ChoiceButton:
        power = Power(feed.id, option.supply, feed.home, option.draw_a)
        evenings = counted(int(option.evenings), "evening") if isfinite(option.evenings) else "no end"
        weight = f"{figure(option.weight_g, 2)} g, " if option.weight_g else ""
        hours = f"{format_hours(option.hours)}, " if isfinite(option.hours) else ""
        more = what_is_added(self.document.assessed_plan, power)
        outcome = f"{hours}{weight}costs {COST[option.cost]}; change: {option.changed}" + (
            f"; with {', '.join(more)}" if more else ""
        )
        tip = f"{option.name}: one step takes it as the source and gives it its place; resistors are chosen anew"
        button = ChoiceButton(option.name, evenings, outcome, tip)
        button.clicked.connect(lambda _=False: self._power(option.name, power))
        return button

    def _power(self, name: str, power: Power) -> None:
        catalogue = self.panel.assessment.catalogue
        self.document.edit(f"Source: {name}", lambda plan: powered(catalogue, plan, power))

    def _apart(self, feed_id: str) -> None:
        catalogue = self.panel.assessment.catalogue
        self.document.edit("Switch windows and outside apart", lambda plan: two_switches(catalogue, plan, feed_id))

    def _put(self, of: str) -> None:
        catalogue = self.panel.assessment.catalogue
        self.document.edit("Give it a place", lambda plan: put_there(catalogue, plan, of))

    def _turn(self, of: str) -> None:
        catalogue = self.panel.assessment.catalogue
        self.document.edit("Turn it", lambda plan: turned(catalogue, plan, of))
