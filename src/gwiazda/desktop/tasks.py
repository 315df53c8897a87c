"""Work for the plan that is open, off the interface thread: what comes back too late is dropped."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Generic, NamedTuple, TypeVar

from PySide6.QtCore import QObject, QTimer

from gwiazda.core.errors import GwiazdaError
from gwiazda.desktop.worker import NewestWins, failure_words

if TYPE_CHECKING:
    from gwiazda.core.plan.model import Plan
    from gwiazda.desktop.document import Document

T = TypeVar("T")
PAUSE_MS, DRAG_PAUSE_MS = 150, 700


def _nothing() -> None:
    pass


class _Asked(NamedTuple):
    plan: Plan | None
    catalogue: object
    opened: int
    done: Callable[[Any], object]
    dropped: Callable[[], object]


class PlanTask(QObject, Generic[T]):
    """One kind of work, of which the newest question counts; it knows the plan it was asked of.

    Its result is taken while that plan is the current one. While something is dragged or tried out it waits: the plan
    may come back. Once the plan has gone on it is dropped. A result is figures, or an edit; never a plan to put in
    place of the one that is open.
    """

    def __init__(self, document: Document, name: str, what: str = "That", parent: QObject | None = None) -> None:
        super().__init__(parent or document)
        self._document = document
        self._asked: _Asked | None = None
        self._late: tuple[T, ...] = ()  # the result that waits for its plan to come back
        self._worker = NewestWins(name, self, hasty=True)
        self._worker.done.connect(self._arrived)
        self._worker.failed.connect(lambda text: self._failed(failure_words(what, text)))
        self._soon: Callable[[], object] | None = None  # what is asked once the pause is over
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.timeout.connect(self._ask_now)
        document.plan_changed.connect(self._plan_changed)
        document.stepped.connect(self._plan_changed)

    def ask(
        self,
        plan: Plan | None,
        job: Callable[[], T],
        done: Callable[[T], object],
        dropped: Callable[[], object] = _nothing,
        at_once: bool = False,
    ) -> None:
        """Have a job done for a plan; ``done`` gets what came of it, ``dropped`` is called where nobody wants it any more.

        Without a plan it is for whichever is open, until another is opened. What takes no time is done ``at_once``. A
        job that raises a GwiazdaError is refused with its sentence.
        """
        asked = _Asked(plan, self._document.catalogue, self._document.opened, done, dropped)
        self._soon = None
        self._asked, self._late = asked, ()

        def work() -> tuple[_Asked, T | GwiazdaError]:
            try:
                return asked, job()
            except GwiazdaError as error:
                return asked, error

        if at_once:
            self._arrived(work())
        else:
            self._worker.submit(work)

    def ask_soon(self, plan: Plan, job: Callable[[], T], done: Callable[[T], object]) -> None:
        """Ask once nothing has been asked for a moment, a longer one in a drag: the picture is shown first."""
        self._soon = lambda: self.ask(plan, job, done)
        self._pause.start(DRAG_PAUSE_MS if self._document.dragging else PAUSE_MS)

    def _ask_now(self) -> None:
        if self._soon is not None:
            self._soon()

    @property
    def idle(self) -> bool:
        return self._worker.idle and not self._late and self._soon is None

    @property
    def overtaken(self) -> bool:
        """Whether the job that runs is not wanted any more."""
        return self._worker.overtaken or self._soon is not None

    def forget(self) -> None:
        """Want nothing of what was asked."""
        self._asked, self._late, self._soon = None, (), None

    def close(self) -> None:
        """Stop, without waiting for the job that runs."""
        self.forget()
        self._worker.close()

    def _failed(self, words: str) -> None:
        asked, self._asked = self._asked, None
        self._document.message_stop(words)
        if asked is not None:
            asked.dropped()

    def _arrived(self, result: tuple[_Asked, T | GwiazdaError]) -> None:
        asked, value = result
        if asked is not self._asked:
            return
        if isinstance(value, GwiazdaError):
            self._failed(str(value))
            return
        self._late = (value,)
        self._take()

    def _plan_changed(self) -> None:
        if self._late:
            self._take()

    def _take(self) -> None:
        """Hand on what is there, if its plan is the current one."""
        asked, document = self._asked, self._document
        assert asked is not None
        here = asked.opened == document.opened and asked.catalogue is document.catalogue
        beneath = asked.plan is None or asked.plan is document.drag_start
        shown = asked.plan is document.plan or (asked.plan is None and not document.dragging)
        if here and (shown or (beneath and document.on_trial)):
            (value,) = self._late
            self.forget()
            asked.done(value)
        elif not (here and beneath):
            self.forget()
            asked.dropped()
