"""The open plan: history, selection, latest assessment and findings. Everything the views show comes from here."""

from __future__ import annotations

import logging
import math
import os
from collections.abc import Callable, Iterable
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QObject, QTimer, Signal

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import fingerprint, shown_name
from gwiazda.core.memo import new_generation
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import (
    circuit_part,
    feed_with,
    find,
    known,
    lamps_behind,
    light,
    same_plan,
    timed,
    with_parts,
)
from gwiazda.core.plan.model import PICKED, PLACED, TIMED, Feed, Item, Node, Plan, new_plan
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.core.radiosity.fineness import CELLS
from gwiazda.core.turns import showing
from gwiazda.core.workshop.workshop import Workshop, load_workshop, state_of
from gwiazda.desktop.appraisal import appraise, first_look, keep, proven, recall
from gwiazda.desktop.worker import NewestWins, failure_words

if TYPE_CHECKING:
    from gwiazda.core.assess.assembly.progress import Other
    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.findings.finding import Finding
    from gwiazda.desktop.appraisal import Judged

Edit = Callable[[Plan], Plan]
HISTORY = 500
FINER_MS = 120  # after a first look, before the fine one: the picture of the first comes first
REST_MS = 90  # of a calm drag, between one set of figures and the next: the plate follows every step
MOST_BESIDE = 4  # other kits on the same bench
AT_ONCE = 12  # sections whose light is reckoned before a plan is shown
MODELS = {k.id: k.model for k in PICKED}
# Of several kinds picked together, the panel is that of the first; the smallest things come first.
FIRST = tuple(
    dict.fromkeys(("light", "dot", "panel", "passage", "hub", *(k.id for k in PLACED)))
)  # whose panel is shown where several kinds are picked


class Document(QObject):
    """A plan being worked on.

    An edit goes into the history under its label. A drag previews plans that are not in the history until it is
    committed, or goes back to where it began.
    """

    plan_changed = Signal()
    stepped = Signal()  # something was put into the history; of a drag, its plan was shown before
    assessed = Signal()
    selection_changed = Signal()
    step_changed = Signal()  # of the build, that is picked
    file_changed = Signal()
    catalogue_changed = Signal()
    workshop_changed = Signal()  # how much is in the drawer, not what parts there are
    message = Signal(str, str)  # sentence, "info" or "stop"
    message_with_way_back = Signal(str, object)  # sentence, and what takes it back

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.pictures: dict[str, bytes] = {}
        self.path: Path | None = None
        self.is_demo = False
        self.station = "light"  # where the user is at work
        self.shown_side: Side = "port"  # of the view on the plate; where patterns of openings go
        self._plan = new_plan()
        self._saved = self._plan
        self._undo: list[tuple[str, Plan]] = []
        self._redo: list[tuple[str, Plan]] = []
        self._before: Plan | None = None  # where a drag began
        self.opened = 0  # rises with each plan opened
        self.disk: str | None = None  # what its file held when it was last read or written here
        self._fresh = 0  # rises with each plan opened or assessed at once: what was under way then comes too late
        self._calm = False  # whether the drag asks for figures now and then only
        self.on_trial = False  # whether what is shown is tried out, and goes with the next edit
        self.selection: tuple[str, ...] = ()
        self.step = ""  # of the build, that is looked at
        self.bench: Any = None  # the session at the bench, made at its first use
        self.beside: tuple[Other, ...] = ()  # other kits that the same hands build meanwhile
        self.clock: Callable[[], datetime] = datetime.now
        self.loading = False  # views that follow several signals wait for the last of them
        self.workshop = self._workshop_read = Workshop()
        self._workshop_disk: tuple[str | None, ...] = ()  # what its files held when they were last read or written here
        self.workshop_folder: Path | None = None  # where it is kept; nowhere until the application says so
        self.assessment: Assessment
        self.findings: tuple[Finding, ...]
        self.assessed_plan = self._asked = self._plan  # whose figures are here, and whose were asked for last
        self._recalled = False  # whether the figures are some that were kept, their findings still to come
        self._worker = NewestWins("assess", self)
        self._worker.done.connect(self._arrived)
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST_MS)
        self._rest.timeout.connect(self._look)
        self._finer = QTimer(self)
        self._finer.setSingleShot(True)
        self._finer.setInterval(FINER_MS)
        self._finer.timeout.connect(self._look_closer)
        self._worker.failed.connect(self._failed)
        self._put()

    def message_stop(self, sentence: str) -> None:
        self.message.emit(sentence, "stop")

    # -- the plan ----------------------------------------------------------------------------------------

    @property
    def plan(self) -> Plan:
        return self._plan

    @property
    def dirty(self) -> bool:
        """Whether there is anything to save."""
        return not same_plan(self._plan, self._saved)

    @property
    def undo_label(self) -> str:
        return self._undo[-1][0] if self._undo else ""

    @property
    def redo_label(self) -> str:
        return self._redo[-1][0] if self._redo else ""

    def edit(self, label: str, change: Edit) -> bool:
        """Apply an edit as one step of the history; False, with a message, when it is refused."""
        self.end_trial()
        return self._step(label, change)

    def _step(self, label: str, change: Edit, ends_drag: bool = False) -> bool:
        before = self._before or self._plan
        try:
            after = validate_edit(before, change(self._plan))
        except GwiazdaError as error:
            self.message.emit(str(error), "stop")
            if self._before is not None and ends_drag:
                # A drag that ends where it may not goes back to where it began.
                self._before = None
                self._set(before)
            return False
        except Exception as error:
            # A fault of ours, not of the modeller's: said in a sentence, and the plan stays what it was.
            self.message.emit(f"{label} could not be done ({type(error).__name__}). The plan is as it was.", "stop")
            logging.getLogger(__name__).exception("edit %r", label)
            return False
        self._before, self.on_trial = None, False
        if same_plan(after, before):
            self._set(before)
            return True
        self._undo.append((label, before))
        del self._undo[:-HISTORY]
        self._redo.clear()
        self._set(after)
        self.stepped.emit()
        return True

    def preview(self, plan: Plan, calm: bool = False) -> None:
        """Show a plan while something is dragged, without a step in the history; one that may not be is not shown.

        Its figures follow as soon as they can; of a calm drag now and then, where the line that is led matters more.
        """
        self.end_trial()
        self._calm = calm
        try:
            validate_edit(self._plan, plan)
        except GwiazdaError:
            return
        if self._before is None:
            self._before = self._plan
        self._set(plan)

    def try_out(self, change: Edit) -> bool:
        """Show the plan as an edit would make it, until it is committed or anything else is done; False where it may not be."""
        self.end_trial()
        try:
            plan = change(self._plan)
        except GwiazdaError as error:
            self.message.emit(str(error), "stop")
            return False
        self.preview(plan)
        self.on_trial = self._plan is plan
        return self.on_trial

    def end_trial(self) -> None:
        """Go back from what is tried out."""
        if self.on_trial:
            self.revert()

    def commit(self, label: str) -> None:
        """End a drag: what is shown becomes one step."""
        if self._before is not None:
            self._step(label, lambda plan: plan, ends_drag=True)

    def revert(self) -> None:
        """End a drag as if it had not been."""
        self.on_trial = False
        if self._before is not None:
            before, self._before = self._before, None
            self._set(before)

    @property
    def dragging(self) -> bool:
        """Whether what is shown is no step of the history yet, as while something is dragged."""
        return self._before is not None

    @property
    def drag_start(self) -> Plan:
        return self._before or self._plan

    def undo(self) -> None:
        self.revert()
        if self._undo:
            label, plan = self._undo.pop()
            self._redo.append((label, self._plan))
            self._set(plan)
            self.message.emit(f"Undone: {label}.", "info")

    def redo(self) -> None:
        self.revert()
        if self._redo:
            label, plan = self._redo.pop()
            self._undo.append((label, self._plan))
            self._set(plan)
            self.message.emit(f"Done again: {label}.", "info")

    def _set(self, plan: Plan) -> None:
        if plan is self._plan:
            return
        self._plan = plan
        left = tuple(i for i in self.selection if known(plan, i))
        self.plan_changed.emit()
        if left != self.selection:
            self.select(left)
        if self._before is None or not self._calm or (self._worker.idle and not self._rest.isActive()):
            self._look()

    # -- assessment --------------------------------------------------------------------------------------

    def _look(self) -> None:
        """Have the plan shown assessed."""
        plan, catalogue = self._plan, self.catalogue
        if self._asked is not plan:
            self._asked = plan
            self._submit(lambda: first_look(plan, catalogue))

    def _submit(self, job: Callable[[], Judged]) -> None:
        opened = self._fresh
        self._worker.submit(lambda: (opened, job()))

    def _arrived(self, result: tuple[int, Judged]) -> None:
        opened, judged = result
        if opened == self._fresh:  # else it is of a plan that was closed meanwhile
            with showing():
                self._take(judged)
            self._look_again()

    def _failed(self, text: str) -> None:
        self.message.emit(failure_words("The light of this plan", text), "stop")
        if self._calm and self._before is not None:  # the next step of the drag may do better
            self._rest.start()

    def _look_again(self) -> None:
        """After one set of figures of a calm drag, in a moment, where the plan has moved on."""
        if self._calm and (self._before is not None or self.assessed_plan is not self._plan):
            self._rest.start()

    def _take(self, result: Judged) -> None:
        self.assessed_plan, self.assessment, self.findings = result
        self._recalled = False
        if self.assessment.cells < CELLS:
            self._finer.start()
        self.assessed.emit()

    def _put(self, most_sections: float = math.inf) -> None:
        """Have figures for the plan at once: those that were kept, their findings to follow, or a first look.

        The light of more sections than that takes seconds: those of an empty plan are shown, the figures follow.
        """
        plan, catalogue = self._plan, self.catalogue
        found = recall(plan, catalogue)
        if found is not None:
            self._take((plan, found, ()))
            self._recalled = True
            self._finer.start()
        elif len(plan.sections) <= most_sections:
            self._take(first_look(plan, catalogue))
        else:
            self._take(appraise(Plan(), catalogue))
            self._submit(lambda: first_look(plan, catalogue))

    def _look_closer(self) -> None:
        """After a first look, or figures that were kept, once nothing has changed for a moment."""
        plan, found, recalled = self._plan, self.assessment, self._recalled
        if self.assessed_plan is not plan or not (recalled or found.cells < CELLS):
            return
        lasting = not self.dirty and (self.path is not None or not plan.sections)

        def job() -> Judged:
            judged = proven(plan, found) if recalled else appraise(plan, found.catalogue)
            if lasting and judged[1] is not found:
                keep(plan, judged[1])
            return judged

        self._submit(job)

    def assess_now(self) -> None:
        """Assess on this thread; for the first picture of a plan, and for tests."""
        self._fresh += 1  # what is under way is older than this
        self._asked = self._plan
        self._take(appraise(self._plan, self.catalogue))

    @property
    def settled(self) -> bool:
        """Whether the assessment is that of the plan shown."""
        return (
            self.assessed_plan is self._plan
            and self.assessment.catalogue.base is self.catalogue
            and self.assessment.cells == CELLS
            and not self._recalled
            and self._worker.idle
        )

    # -- the user's own ----------------------------------------------------------------------------------

    @property
    def catalogue(self) -> Catalogue:
        """The generic parts with the user's own behind them."""
        return self.workshop.catalogue_for(self._plan.kit.name)

    def load_workshop(self, folder: Path) -> tuple[str, ...]:
        """Take the user's own things from where they are kept; sentences for what couldn't be read."""
        self.workshop_folder = folder
        self.workshop, said = load_workshop(folder)
        self._workshop_read, self._workshop_disk = self.workshop, state_of(folder)
        if self.catalogue is not self.assessment.catalogue.base:
            self._fresh += 1  # what is under way is older than this
            self._put()
            self.catalogue_changed.emit()
        return said

    def change_workshop(self, workshop: Workshop) -> None:
        """Keep a changed workshop, on disk first; raises PlanFileError, and keeps the old one, when that can't be."""
        from gwiazda.core.workshop.merge import keep_workshop

        if self.workshop_folder is not None:
            workshop, self._workshop_disk = keep_workshop(
                self._workshop_read, workshop, self.workshop_folder, self._workshop_disk
            )
            self._workshop_read = workshop
        before, self.workshop = self.catalogue, workshop
        if self.catalogue is before:
            self.workshop_changed.emit()
            return
        self.assess_now()
        self.catalogue_changed.emit()

    def add_picture(self, name: str, data: bytes) -> str:
        """Keep a picture with the plan under a name that no other has; returns the name. Undo leaves it there unused."""
        stem, _, suffix = name.rpartition(".")
        taken, number = name, 2
        while taken in self.pictures and self.pictures[taken] != data:
            taken, number = f"{stem}-{number}.{suffix}", number + 1
        self.pictures = {**self.pictures, taken: data}
        return taken

    def put_beside(self, path: Path) -> None:
        """Another kit on the same bench, until this plan is put away; one that can't be read is said."""
        from gwiazda.core.assess.assembly.progress import Other
        from gwiazda.core.assess.assembly.steps import steps_of

        try:
            plan = load(path).plan
        except GwiazdaError as error:
            self.message_stop(str(error))
            return
        name = plan.kit.name or path.stem
        others = [o for o in self.beside if o.name != name]
        self.beside = (*others, Other(name, plan, steps_of(self.catalogue, plan)))[-MOST_BESIDE:]
        self.plan_changed.emit()

    def take_from_beside(self, name: str) -> None:
        """A kit that is no longer on the bench."""
        self.beside = tuple(o for o in self.beside if o.name != name)
        self.plan_changed.emit()

    # -- selection ---------------------------------------------------------------------------------------

    def select(self, ids: Iterable[str]) -> None:
        chosen = tuple(dict.fromkeys(ids))
        if chosen != self.selection:
            self.end_trial()
            self.selection = chosen
            self.selection_changed.emit()

    def pick_step(self, key: str) -> None:
        """Look at a step of the build."""
        if key != self.step:
            self.step = key
            self.step_changed.emit()

    def selected_items(self) -> list[Item]:
        return [item for i in with_parts(self._plan, self.selection) if (item := find(self._plan, i)) is not None]

    def picked(self, kind: str) -> list[Any]:
        """What is picked of one kind, by its id; ``circuit``: parts of circuits and sources."""
        if kind == "circuit":
            return list(self.selected_parts())
        model = MODELS.get(kind)
        items = (find(self._plan, i) or timed(self._plan, i) or light(self._plan, i) for i in self.selection)
        return [item for item in items if model is not None and isinstance(item, model)]

    @property
    def picked_kind(self) -> str:
        """What kind of thing is picked: the first of many kinds that is among it; ``plan`` for nothing."""
        if not self.selection:
            return "plan"
        for kind in (*FIRST, "circuit", *(k.id for k in TIMED)):
            if self.picked(kind):
                return kind
        return "plan"

    def selected_parts(self) -> list[Node | Feed]:
        """The parts of circuits and the sources that are picked."""
        out: list[Node | Feed] = []
        for i in self.selection:
            part: Node | Feed | None = circuit_part(self._plan, i) or feed_with(self._plan, i)
            if part is not None:
                out.append(part)
        return out

    @property
    def marked(self) -> tuple[str, ...]:
        """What is picked, and the lamps that picked parts of circuits have to do with: marked on the plate."""
        if not self.selection or all(find(self._plan, i) is not None for i in self.selection):
            return self.selection
        lamps = (lamp for i in self.selection for lamp in lamps_behind(self._plan, i))
        return tuple(dict.fromkeys((*self.selection, *with_parts(self._plan, self.selection), *lamps)))

    # -- file --------------------------------------------------------------------------------------------

    def new(self) -> None:
        self.take_file(PlanFile(new_plan()), None)

    def open(self, path: str | Path, as_demo: bool = False) -> bool:
        """Open a plan file; False, with a message, when it can't be read. What was open then stays open."""
        try:
            file = load(path)
        except GwiazdaError as error:
            self.message.emit(str(error), "stop")
            return False
        self.take_file(file, None if as_demo else Path(path), as_demo)
        return True

    def take_file(self, file: PlanFile, path: Path | None, as_demo: bool = False) -> None:
        """Make a plan the open one, with an empty history."""
        self._fresh += 1
        self.opened += 1
        new_generation()
        self.disk = fingerprint(path)
        self.on_trial = False
        self._undo.clear()
        self._redo.clear()
        self._before = None
        self.selection, self.step, self.beside = (), "", ()
        self.pictures = dict(file.pictures)
        self._plan = self._saved = self._asked = file.plan
        self.path, self.is_demo = path, as_demo
        self.loading = True
        self._put(AT_ONCE)
        self.file_changed.emit()
        self.plan_changed.emit()
        self.loading = False
        self.selection_changed.emit()

    def save(self, path: str | Path) -> bool:
        """Save; False, with a message, when it can't be written."""
        self.commit("Move")
        try:
            save(PlanFile(self._plan, self.pictures), path)
        except GwiazdaError as error:
            self.message.emit(str(error), "stop")
            return False
        self._saved, self.path, self.is_demo = self._plan, Path(path), False
        self.disk = fingerprint(self.path)
        self.file_changed.emit()
        self.message.emit(f"Saved as {shown_name(Path(path))}.", "info")
        return True

    def changed_on_disk(self, path: Path) -> bool:
        """Whether saving there would go over what somebody else has written since the plan was read or saved."""
        if self.path is None or os.path.realpath(path) != os.path.realpath(self.path):
            return False  # another file: the dialog that named it has asked
        now = fingerprint(path)
        return now is not None and now != self.disk

    def mark_unsaved(self) -> None:
        """Count the plan as changed, as after taking it out of an autosave."""
        self._saved = Plan()
        self.file_changed.emit()

    def close(self) -> None:
        if self.bench is not None:
            self.bench.close()
        self._worker.close()
