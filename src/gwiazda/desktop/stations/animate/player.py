"""Plays the show: a clock, the simulated controller, and what the night side is to show of it."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, Qt, QTimer, Signal

from gwiazda.core.assess.show.playing import controller_of
from gwiazda.core.effect.controller import Controller
from gwiazda.desktop.document import Document

FRAME_MS = 16  # sixty pictures a second
LONGEST_S = 0.25  # of one frame: after a hitch the show goes on where it was


class Player(QObject):
    """Goes through the show. It never starts by itself."""

    moved = Signal()  # to another moment, or what is shown there has changed
    turned = Signal(bool)  # on or off

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.document = document
        self.at_s = 0.0
        self.end_s = 20.0
        self.loop = True
        self.speed = 1.0
        self.frames = 0
        self._controller: Controller | None = None
        self._of: object = None
        self._before = 0.0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(FRAME_MS)
        self._timer.timeout.connect(self._tick)

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    @property
    def controller(self) -> Controller:
        """The simulated controller with the show of the plan as it is assessed."""
        assessment, plan = self.document.assessment, self.document.assessed_plan
        of = (assessment.effects.score, plan.boards, plan.channels)
        if self._controller is None or self._of is None or any(a is not b for a, b in zip(of, self._of, strict=True)):  # type: ignore[call-overload]
            self._of = of
            self._controller = controller_of(plan, assessment)
        return self._controller

    def weights(self) -> dict[str, float]:
        """Light of each channel at the moment, over that as wired."""
        controller = self.controller
        return dict(zip(controller.score.names, controller.to(self.at_s).tolist(), strict=True))

    def play(self) -> None:
        if self.at_s >= self.end_s:
            self.at_s = 0.0
        self._before = time.perf_counter()
        self._timer.start()
        self.turned.emit(True)

    def pause(self) -> None:
        if self.playing:
            self._timer.stop()
            self.turned.emit(False)

    def go_to(self, seconds: float) -> None:
        self.at_s = min(max(seconds, 0.0), self.end_s)
        self.moved.emit()

    def _tick(self) -> None:
        now = time.perf_counter()
        self.step(min(now - self._before, LONGEST_S))
        self._before = now

    def step(self, seconds: float) -> None:
        """Go on by so much of the clock on the wall."""
        self.frames += 1
        at = self.at_s + seconds * self.speed
        if at >= self.end_s:
            at = at % self.end_s if self.loop else self.end_s
            if not self.loop:
                self.pause()
        self.at_s = at
        self.moved.emit()
