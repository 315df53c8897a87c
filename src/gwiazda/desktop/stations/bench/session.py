"""A session at the bench: the readings that count, what they make likely, a hidden fault to practise on."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Laid, LogEntry, Plan
from gwiazda.core.render.camera_curve import Curve
from gwiazda.core.workbench.diagnosis import Diagnosis, benches_of, diagnose
from gwiazda.core.workbench.hypotheses import Bench, Measurement, What
from gwiazda.core.workbench.log import readings_of
from gwiazda.core.workbench.photo.photocurve import LEAST_TIMES, curve_of_card
from gwiazda.core.workbench.photo.photomarks import laid_on
from gwiazda.core.workbench.photo.photoread import PhotoReading, curve_by_pair, read_photo
from gwiazda.core.workbench.photo.photos import pixels_of
from gwiazda.core.workbench.practice import Hidden, searched
from gwiazda.desktop.document import Document
from gwiazda.desktop.tasks import PlanTask

Read = tuple[PhotoReading | None, str, Curve | None]
MERGED_WORDS = (
    "This photo was put together of several exposures (HDR or night mode): what it did to bright and dark places can’t be undone. "
    "Switch that off, and take it again."
)


class Session(QObject):
    """Kept by the document for as long as it is open."""

    changed = Signal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self.document = document
        self.diagnosis: Diagnosis | None = None
        self.benches: tuple[Bench, ...] = ()  # the sources with all their hypotheses, once they are worked out
        self.fault = ""  # why there is no diagnosis
        self.hidden: Hidden | None = None
        self.practised: tuple[Measurement, ...] = ()
        self.steps = 0  # looks and measurements made in practice
        self._of: object = None
        self.photo = ""  # the entry whose photo is read
        self.shot: PhotoReading | None = None
        self.shot_fault = ""
        self.card: Curve | None = None  # told by a photo of the grey card
        self._shot_of: object = None
        self.wrong = ""  # what is said to be wrong with what is picked
        self._camera: PlanTask[Read] = PlanTask(document, "photo", "The photo", self)
        self._task: PlanTask[tuple[Diagnosis | None, str, tuple[Bench, ...]]] = PlanTask(
            document, "diagnosis", "The diagnosis", self
        )
        document.assessed.connect(self.look)
        document.file_changed.connect(self._new_plan)

    @property
    def idle(self) -> bool:
        return self._task.idle and self._camera.idle

    def close(self) -> None:
        self._task.close()
        self._camera.close()

    def _new_plan(self) -> None:
        self.hidden, self.practised, self.steps, self._of = None, (), 0, None
        self.photo, self.shot, self.shot_fault, self._shot_of, self.card = "", None, "", None, None
        self.wrong = ""
        self.look()

    def readings(self) -> tuple[Measurement, ...]:
        """Those of the log, or of the practice while a fault is hidden."""
        return self.practised if self.hidden is not None else readings_of(self.document.assessed_plan)

    def look(self, asked: bool = False) -> None:
        """Work out what the readings make likely, where anything has changed and somebody looks or has ``asked``."""
        document = self.document
        if document.station != "bench" and not asked:
            return
        self._look_at_photo()
        plan, assessment, readings = document.assessed_plan, document.assessment, self.readings()
        of = (assessment, readings, self.hidden)
        if self._of is not None and of[0] is self._of[0] and of[1] == self._of[1] and of[2] is self._of[2]:  # type: ignore[index]
            return
        self._of = of
        self._task.ask(plan, lambda: _diagnosed(plan, assessment, readings), self._take, self._forget)

    def _forget(self) -> None:
        self._of = None

    def _take(self, result: tuple[Diagnosis | None, str, tuple[Bench, ...]]) -> None:
        self.diagnosis, self.fault, self.benches = result
        self.changed.emit()

    # -- photos -------------------------------------------------------------------------------------------

    @property
    def photo_entry(self) -> LogEntry | None:
        """The entry of the log whose photo is being read."""
        return next((e for e in self.document.plan.log if e.id == self.photo and e.photo), None) if self.photo else None

    def read(self, entry_id: str) -> None:
        """Read the photo of an entry, laid on the view that is shown if it isn't laid on any yet; "" for none."""
        self.photo, self.shot, self.shot_fault, self._shot_of, self.card = entry_id, None, "", None, None
        entry, document = self.photo_entry, self.document
        if entry is not None and entry.laid is None:
            side = document.shown_side
            document.edit(
                "Lay the photo on the view",
                lambda plan: edits.lay_photo(plan, entry_id, laid_on(plan, document.assessment, side)),
            )
        self._look_at_photo()
        self.changed.emit()

    def _look_at_photo(self) -> None:
        document, entry = self.document, self.photo_entry
        if self.photo and entry is None:  # undone, or no longer in the log
            self.photo, self.shot, self._shot_of = "", None, None
            self.changed.emit()
        if entry is None or entry.laid is None or entry.photo not in document.pictures:
            return
        plan, assessment, laid = document.assessed_plan, document.assessment, entry.laid
        partner = self._partner(entry)
        of = (
            entry.photo,
            (laid, entry.merged, partner and (partner.photo, partner.laid, partner.exposure, entry.exposure)),
            assessment,
        )
        if self._shot_of is not None and of[:2] == self._shot_of[:2] and of[2] is self._shot_of[2]:  # type: ignore[index]
            return
        self._shot_of = of
        data, name = document.pictures[entry.photo], entry.photo
        other = None
        if partner is not None and partner.laid is not None and partner.exposure and entry.exposure:
            other = (partner.photo, document.pictures[partner.photo], partner.laid, partner.exposure / entry.exposure)
        if entry.merged:
            self._take_shot((None, MERGED_WORDS, None))
            return
        self._camera.ask(
            plan, lambda: _read(plan, assessment, (name, data, laid), other), self._take_shot, self._forget_shot
        )

    def _partner(self, entry: LogEntry) -> LogEntry | None:
        """Another photo of the same side that says how long it was exposed: of two, a camera's curve is told."""
        if entry.laid is None or entry.exposure is None or entry.laid.curve is not None:
            return None
        return next(
            (
                e for e in self.document.plan.log
                if e.id != entry.id and e.exposure and not e.merged and e.photo in self.document.pictures and e.laid is not None
                and e.laid.side == entry.laid.side and e.laid.marks and max(e.exposure, entry.exposure) > LEAST_TIMES * min(e.exposure, entry.exposure)
            ),
            None,
        )  # fmt: skip

    def _forget_shot(self) -> None:
        self._shot_of = None

    def _take_shot(self, result: Read) -> None:
        self.shot, self.shot_fault, self.card = result
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

    def _add(self, new: tuple[Measurement, ...]) -> None:
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
    plan: Plan, assessment: Assessment, readings: tuple[Measurement, ...]
) -> tuple[Diagnosis | None, str, tuple[Bench, ...]]:
    benches = benches_of(plan, assessment)
    try:
        return diagnose(plan, assessment, readings), "", benches
    except GwiazdaError as error:
        return None, str(error), benches


def _read(
    plan: Plan, assessment: Assessment, photo: tuple[str, bytes, Laid], other: tuple[str, bytes, Laid, float] | None
) -> Read:
    name, data, laid = photo
    try:
        code = pixels_of(name, data)
        if laid.steps is not None:
            return None, "", curve_of_card(code, laid.steps)
        curve = None
        if other is not None:
            second = (pixels_of(*other[:2]), other[2])
            curve = curve_by_pair(plan, assessment, (code, laid), second, other[3])
        return read_photo(plan, assessment, code, laid, curve), "", None
    except GwiazdaError as error:
        return None, str(error), None


def session_of(document: Document) -> Session:
    """The document's session, made at first use."""
    if document.bench is None:
        document.bench = Session(document)
    session: Session = document.bench
    return session
