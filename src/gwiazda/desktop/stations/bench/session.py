"""A session at the bench: the readings that count, what they make likely, a hidden fault to practise on."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.model import Plan
from gwiazda.core.workbench.diagnosis import Bench, Diagnosis, Reading, What, benches_of, diagnose
from gwiazda.core.workbench.log import readings_of
from gwiazda.core.workbench.practice import Hidden, searched
from gwiazda.desktop.document import Document
from gwiazda.desktop.worker import NewestWins, failure_words


class Session(QObject):
    """Kept by the document for as long as it is open."""

    changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self.found: Diagnosis | None = None
        self.benches: tuple[Bench, ...] = ()  # the sources with all their hypotheses, once they are worked out
        self.fault = ""  # why there is no diagnosis
        self.hidden: Hidden | None = None
        self.practised: tuple[Reading, ...] = ()
        self.steps = 0  # looks and measurements made in practice
        self._of: object = None
        self._worker = NewestWins("diagnosis", self)
        self._worker.done.connect(self._take)
        self._worker.failed.connect(lambda text: document.message_stop(failure_words("The diagnosis", text)))
        document.assessed.connect(self.look)
        document.file_changed.connect(self._new_plan)

    @property
    def idle(self) -> bool:
        return self._worker.idle

    def close(self) -> None:
        self._worker.close()

    def _new_plan(self) -> None:
        self.hidden, self.practised, self.steps, self._of = None, (), 0, None
        self.look()

    def readings(self) -> tuple[Reading, ...]:
        """Those of the log, or of the practice while a fault is hidden."""
        return self.practised if self.hidden is not None else readings_of(self.document.assessed_plan)

    def look(self) -> None:
        """Work out what the readings make likely, where anything has changed and somebody looks."""
        document = self.document
        if document.station != "bench":
            return
        plan, found, readings = document.assessed_plan, document.assessment, self.readings()
        of = (found, readings, self.hidden)
        if self._of is not None and of[0] is self._of[0] and of[1] == self._of[1] and of[2] is self._of[2]:  # type: ignore[index]
            return
        self._of = of
        self._worker.submit(lambda: _diagnosed(plan, found, readings))

    def _take(self, result: tuple[Diagnosis | None, str, tuple[Bench, ...]]) -> None:
        self.found, self.fault, self.benches = result
        self.changed.emit()

    # -- practice -----------------------------------------------------------------------------------------

    def hide(self, seed: int) -> bool:
        """Hide a fault in the plan's first source; False, with a sentence, where there is nothing to break."""
        if not self.benches:
            self.document.message_stop("No lamp hangs on a source yet: there is nothing to break.")
            return False
        self.hidden, self.practised, self.steps = Hidden(self.benches[0], seed), (), 0
        self.look()
        return True

    def look_at_all(self) -> None:
        """A look at all lamps counts as one reading."""
        if self.hidden is not None:
            self._add(tuple(self.hidden.look()))

    def measure(self, what: What, at: str) -> None:
        """One measurement of the hidden circuit."""
        if self.hidden is not None:
            self._add((self.hidden.read(what, at),))

    def _add(self, new: tuple[Reading, ...]) -> None:
        places = {(r.what, r.at) for r in new}
        self.practised = (*(r for r in self.practised if (r.what, r.at) not in places), *new)
        self.steps += 1
        self.look()

    def reveal(self) -> str:
        """The hidden fault in words, and how the best strategy would have done; the practice ends."""
        if self.hidden is None:
            return ""
        words, bench, steps = self.hidden.fault.words, self.hidden.bench, self.steps
        best = next((n for n in range(1, 7) if searched(bench, self.hidden.seed, n).found), 6)
        self.hidden, self.practised = None, ()
        self.look()
        return f"It was: {words}. You took {steps} readings; the best way had it among its first three after {best}."


def _diagnosed(
    plan: Plan, found: Assessment, readings: tuple[Reading, ...]
) -> tuple[Diagnosis | None, str, tuple[Bench, ...]]:
    benches = benches_of(plan, found)
    try:
        return diagnose(plan, found, readings), "", benches
    except GwiazdaError as error:
        return None, str(error), benches


def session_of(document: Document) -> Session:
    """The document's session, made at first use."""
    if document.bench is None:
        document.bench = Session(document)
    session: Session = document.bench
    return session
