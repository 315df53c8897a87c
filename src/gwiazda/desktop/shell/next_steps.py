"""The line that says what is worth doing next at this station, and does it on a click. Never in the way: it can be switched off."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, QTimer

from gwiazda.core.plan.lookup import known
from gwiazda.desktop.stations.registry import BY_ID, station_of_topic

if TYPE_CHECKING:
    from gwiazda.core.findings.next_steps import NextStep
    from gwiazda.desktop.shell.window import MainWindow

KEY = "say_next"
LATER_MS = 120  # after what was done is shown


class NextLine:
    """Keeps the offer in the window's line in step with plan and station."""

    def __init__(self, window: MainWindow) -> None:
        self.window = window
        self.on = str(QSettings().value(KEY, "yes")) == "yes"
        self.tried: set[tuple[str, str]] = set()
        self._soon = QTimer(window)
        self._soon.setSingleShot(True)
        self._soon.setInterval(LATER_MS)
        self._soon.timeout.connect(self.show)
        window.document.assessed.connect(self.soon)
        window.document.file_changed.connect(self._another)

    def _another(self) -> None:
        self.tried.clear()
        self.soon()

    def soon(self) -> None:
        if self.on:
            self._soon.start()

    def switch(self, on: bool) -> None:
        """Say what is next, or don't; kept for the next start."""
        self.on = on
        QSettings().setValue(KEY, "yes" if on else "no")
        self.show()

    def show(self) -> None:
        from gwiazda.core.findings.next_steps import ahead

        window, document = self.window, self.window.document
        if not self.on:
            window.message.offer("", "", None)
            return
        here = window.station
        thing = ahead(
            document.plan, document.assessment, document.findings, lambda topic: station_of_topic(topic) == here, self.tried
        )  # fmt: skip
        if thing is None:
            window.message.offer("", "", None)
            return
        words = thing.words
        if thing.topic:
            words = f"{BY_ID[station_of_topic(thing.topic)].name}: {words}"
        tip = f"{words}\n{'Does it, as one step that can be undone' if thing.fix else 'Goes there'}"
        window.message.offer(f"Next  ›  {words}", tip, lambda: self.do(thing))

    def do(self, thing: NextStep) -> None:
        """Do it."""
        window, document = self.window, self.window.document
        if thing.fix is not None:
            fix = thing.fix
            self.tried.add((thing.subject, fix.label))
            document.edit(fix.label, fix.applied)
        elif thing.does == "shape":
            window.start_from_shape()
        elif thing.does == "half":
            window.files.ask_export("half")
        elif thing.tool:
            window.tool_key(thing.tool)
        elif thing.topic:
            window.set_station(station_of_topic(thing.topic))
        if thing.subject and known(document.plan, thing.subject):
            window.pick(thing.subject)
        self.soon()
