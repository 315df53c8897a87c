"""The lane of sessions in the Build drawer: what is done in one go as blocks that can be put on another evening."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from gwiazda.core.assess.assembly.progress import calendar_of
from gwiazda.core.plan import edits
from gwiazda.core.schedule.evenings import DAY_MIN, Session
from gwiazda.desktop.stations.build.days import Days, days_of, where_of
from gwiazda.desktop.stations.drawer import StationDrawer
from gwiazda.desktop.theme.fonts import text_font

BEFORE, AFTER = 0.12, 0.88  # of a day's width: from where to where its evening is drawn
LEAST_LETTER_PX = 8
LEAST_PX = 3.0  # of a block, so that short steps can be hit


class SessionBlock(NamedTuple):
    """What is done in one go, where it is drawn."""

    rect: QRectF
    session: Session


class SessionLane(StationDrawer):
    """The part of the Build drawer that is about sessions."""

    days_shown: float
    first_day: float
    session_blocks: list[SessionBlock]
    _plot: QRectF
    _days: Days | None
    _held: tuple[SessionBlock, float] | None
    _held_px: float

    def _x(self, minutes: float, wide: float) -> float:
        """Where a minute lies: evenings are drawn wide, the rest of a day narrow, as work is what one looks for."""
        bench = self.document.plan.bench
        day, rest = divmod(minutes, DAY_MIN)
        begins = min(bench.from_h / 24.0, 0.99)
        ends = min(max((bench.from_h + bench.hours) / 24.0, begins + 1e-3), 1.0)
        within = float(np.interp(rest / DAY_MIN, (0.0, begins, ends, 1.0), (0.0, BEFORE, AFTER, 1.0)))
        return self._plot.left() + (day + within - self.first_day) / wide * self._plot.width()

    def _end(self) -> float:
        calendar = self._days.calendar if self._days is not None else None
        if calendar is None:
            return 1.0
        every = (*calendar.laid, *(x for _, others in calendar.beside for x in others))
        return max((x.done_min for x in every), default=DAY_MIN) / DAY_MIN

    def _sessions(self, painter: QPainter, lane: QRectF, days: Days, wide: float) -> None:
        """What is done in one go, by its kind; a block can be dragged to another evening."""
        p, calendar = self.palette_, days.calendar
        assert calendar is not None
        put = {x.step for x in self.document.plan.step_days}
        self.session_blocks = []
        inner = lane.adjusted(0, 1, 0, -2)
        painter.save()
        # Lanes are low where there are many sections: letters as high as they hold, g and y with their tails.
        painter.setFont(text_font(max(min(12, int(inner.height() - 3)), LEAST_LETTER_PX), plain=True))
        for s in calendar.sessions:
            a, b = self._x(s.begins_min, wide), self._x(s.ends_min, wide)
            rect = QRectF(a, inner.top(), max(b - a, LEAST_PX), inner.height())
            held = self._held is not None and self._held[0].session == s
            if held:
                rect.translate(self._held_px, 0.0)
            picked = self.document.step in s.keys
            painter.setPen(QPen(p.colour("live" if picked or held else "ink"), 2.0 if picked or held else 0.7))
            painter.setBrush(p.colour("card"))
            painter.drawRoundedRect(rect, 3, 3)
            if any(k in put for k in s.keys):  # put on its day by hand
                painter.setBrush(p.colour("live"))
                painter.drawRect(QRectF(rect.left(), rect.top(), 3.0, rect.height()))
            # By its name where there is room for that, else by the short word for its kind.
            fits = (
                x
                for x in (self._kind(s), s.kind.capitalize())
                if x and painter.fontMetrics().horizontalAdvance(x) + 6 < rect.width()
            )
            if name := next(fits, ""):
                painter.setPen(p.colour("ink"))
                within = rect.adjusted(4, 0, 0, 0)
                painter.drawText(within, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextDontClip, name)
            self.session_blocks.append(SessionBlock(rect, s))
            self.places.append((rect, f"session:{s.keys[0]}", self.told(s, days)))
        painter.restore()

    def _kind(self, s: Session) -> str:
        kind = self.document.catalogue.sessions.get(s.kind)
        days = self._days
        if kind is not None:
            return str(kind.name)
        return days.states[s.keys[0]].step.name if days is not None and s.keys[0] in days.states else ""

    def told(self, s: Session, days: Days) -> str:
        """A session in words: when, how long, what of it is setting up, and its steps."""
        calendar = days.calendar
        assert calendar is not None
        steps = [days.states[k].step for k in s.keys if k in days.states]
        hands = sum(b - a for x in calendar.laid if x.key in set(s.keys) for a, b in x.pieces)
        set_up = f", {s.set_up_min:.0f} of them to set up and put away" if s.set_up_min else ""
        named = [f"{where_of(self.document.plan, x)}: {x.name.lower()}" for x in steps]
        more = f" and {len(named) - 5} more" if len(named) > 5 else ""
        return (
            f"{self._kind(s)}, {calendar.moment(s.begins_min):%a %d %b, %H:%M}: {hands:.0f} min{set_up}. {'; '.join(named[:5])}{more}. "
            f"Drag it to another evening"
        )

    def put_on(self, s: Session, day: int) -> None:
        """A session on an evening, so many days from the first; on its own day or before, it goes where it fits. What stands against it is said."""
        days = days_of(self.document)
        calendar = days.calendar
        if calendar is None or day == int(s.begins_min // DAY_MIN):
            return
        text = "" if day < 0 else calendar.moment(day * DAY_MIN).date().isoformat()
        kind = self._kind(s)
        keys = list(s.keys)
        plan = self.document.plan
        tried = calendar_of(edits.put_on_day(plan, keys, text), days.steps, days.now[:10], self.document.beside)
        begins = {x.key: x.begins_min for x in tried.laid}
        first = min((begins[k] for k in keys if k in begins), default=None)
        if first is None:
            return
        wanted, got = tried.moment(max(day, 0) * DAY_MIN), tried.moment(first)
        if got.date() > wanted.date() and not any(x.step in keys for x in plan.step_days):
            why = self._why_not(keys, first)  # it would change nothing: it is only said
            self.document.message.emit(f"{kind} can’t be on {wanted:%a %d %b}: it is on {got:%a %d %b}{why}.", "info")
        elif self.document.edit(f"{kind} on another evening", lambda plan: edits.put_on_day(plan, keys, text)):
            ends = f"; all is done by {tried.ends:%d %b}" if tried.ends is not None else ""
            self.document.message.emit(f"{kind} is on {got:%a %d %b} now{ends}.", "info")

    def _why_not(self, keys: list[str], first: float) -> str:
        """What a session waits for: the step before it that is done with last."""
        days = days_of(self.document)
        if days.calendar is None:
            return ""
        done = {x.key: x for x in days.calendar.laid}
        needed = {n for k in keys if k in days.states for n in days.states[k].step.needs if n in done} - set(keys)
        last = max(needed, key=lambda n: done[n].done_min, default="")
        if not last or done[last].done_min < first - DAY_MIN:
            return ", when there is time"
        s = days.states[last].step
        dries = " has to dry first" if s.wait_h else " comes first"
        return f", as “{where_of(self.document.plan, s)}: {s.name.lower()}”{dries}"

    def _day_at(self, x: float) -> int:
        """The day that lies at a place of the ruler, from the first on."""
        wide = self.days_shown or max(self._end(), 1.0)
        return int((x - self._plot.left()) / max(self._plot.width(), 1.0) * wide + self.first_day)
