"""What goes out of a plan: one entry a kind, which the command line, the export sheet and its keys all read.

Nothing heavy is imported before something that needs it is written.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import PlanError
from gwiazda.core.files import refuse_ending, write_atomically

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.parts.catalogue import Catalogue
    from gwiazda.core.plan.model import Plan
    from gwiazda.core.plan.storage import PlanFile
    from gwiazda.core.workshop.workshop import Workshop

FRAMES = 36  # of a turntable
Told = Callable[[float], bool]  # how far it is, 0 to 1; False: stop


def _on(share: float) -> bool:
    return True


@dataclass(frozen=True)
class Options:
    """How it is to be written; each export reads what concerns it.

    ``size`` in px; ``azimuth`` and ``height`` (degrees) say where the eye is, ``near`` how close; ``weights`` which
    channels are how bright; ``ids`` which things only; ``only`` which sheets; ``day`` the first evening.
    """

    view: str = ""
    size: tuple[int, int] | None = None
    azimuth: float = 48.0
    height: float = 20.0
    near: float = 1.0
    frames: int = FRAMES
    seconds: float = 10.0
    paper: str = "a4"
    weights: Mapping[str, float] = field(default_factory=dict)
    ids: Sequence[str] = ()
    day: str = ""


@dataclass(frozen=True)
class Job:
    """One export of one plan to one file; ``told`` is asked how far it is and whether to go on."""

    file: PlanFile
    catalogue: Catalogue
    workshop: Workshop
    path: Path
    options: Options = Options()
    told: Told = _on
    given: Assessment | None = None

    @property
    def plan(self) -> Plan:
        return self.file.plan

    @cached_property
    def assessment(self) -> Assessment:
        """The plan's figures."""
        from gwiazda.core.assess.assessment import assess

        return self.given if self.given is not None else assess(self.file.plan, self.catalogue)

    @property
    def known(self) -> Assessment | None:
        """The plan's figures as far as they were needed."""
        return self.__dict__.get("assessment", self.given)

    @property
    def suffix(self) -> str:
        return self.path.suffix.lower()


def _nothing(plan: Plan) -> str:
    return ""


@dataclass(frozen=True)
class Export:
    """One kind of export.

    ``id`` is its option on the command line; ``label`` its name; ``about`` what it is for; ``suffixes`` what it goes
    out as, the first proposed. ``write`` writes a file, ``text`` gives what is text, which a preview shows and the
    command line may print. ``long``: it is written beside the work and can be stopped. ``lacks`` says in a sentence
    what a plan lacks for it. ``frames``: numbers of frames to choose from.
    """

    id: str
    label: str
    about: str
    suffixes: tuple[str, ...]
    write: Callable[[Job], object]
    text: Callable[[Job], str] | None = None
    key: str = ""
    long: bool = False
    lacks: Callable[[Plan], str] = _nothing
    frames: tuple[int, ...] = ()

    @property
    def forms(self) -> str:
        return ", ".join(s[1:].upper() for s in self.suffixes)

    def check(self, path: Path) -> None:
        """See that a file can go there in this form.

        Raises
        ------
        PlanFileError
            For another suffix.
        PlanError
            For a folder that isn't there.
        """
        if path.suffix.lower() not in self.suffixes:
            raise refuse_ending(path, self.label, " or ".join(self.suffixes))
        if not path.parent.is_dir():
            raise PlanError(self.label, f"there is no folder “{path.parent}”", "a folder that is there")


def _table(id_: str, label: str, about: str, text: Callable[[Job], str], suffixes: tuple[str, ...] = (".csv",), key: str = "") -> Export:  # fmt: skip
    """An export that is text."""
    return Export(id_, label, about, suffixes, lambda job: write_atomically(job.path, text(job).encode()), text, key)


# -- what each writes ----------------------------------------------------------------------------------------


def _shopping(job: Job) -> str:
    from gwiazda.core.exchange.report import shopping_csv

    return shopping_csv(job.plan, job.assessment, job.workshop)


def _fibres(job: Job) -> str:
    from gwiazda.core.exchange.fibres import fibre_table

    return fibre_table(job.plan, job.assessment)


def _holes(job: Job) -> str:
    from gwiazda.core.exchange.holes import hole_table

    return hole_table(job.plan, job.assessment)


def _loom(job: Job) -> str:
    from gwiazda.core.exchange.looms import loom_table

    return loom_table(job.plan, job.assessment)


def _show(job: Job) -> str:
    from gwiazda.core.exchange.shows import show_text

    return show_text(job.plan, job.assessment, job.path.name if job.suffix else "cues.csv")


def _pins(job: Job) -> str:
    from gwiazda.core.exchange.brief import pin_table

    return pin_table(job.plan, job.assessment)


def _currents(job: Job) -> str:
    from gwiazda.core.exchange.brief import current_report

    return current_report(job.plan, job.assessment)


def _parts(job: Job) -> str:
    from gwiazda.core.workshop.parts_csv import parts_to_csv

    return parts_to_csv(job.workshop.lamps.values(), job.workshop.catalogue)


def _own_parts(job: Job) -> str:
    from gwiazda.core.workshop.own_parts import own_to_csv

    return own_to_csv(job.workshop.own.values())


def _stock(job: Job) -> str:
    from gwiazda.core.workshop.drawer_csv import drawer_to_csv

    return drawer_to_csv(job.workshop.drawer.values())


def _steps(job: Job) -> str:
    import datetime

    from gwiazda.core.assess.assembly.progress import calendar_of
    from gwiazda.core.assess.assembly.steps import steps_of
    from gwiazda.core.exchange.evenings import calendar_ics, steps_csv

    day = job.options.day or datetime.date.today().isoformat()
    steps = steps_of(job.catalogue, job.plan)
    calendar = calendar_of(job.plan, steps, day, ())
    if job.suffix == ".ics":
        return calendar_ics(job.plan, job.catalogue, steps, calendar).decode()
    return steps_csv(job.plan, job.catalogue, steps, calendar, day)


def _application() -> object:
    """Fonts and colours for what is drawn; also with no window."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gwiazda.desktop.shell.application import make_application

    return make_application()


def _circuit(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.stations.wire.sheets import write_circuit

    write_circuit(job.plan, job.assessment, job.path, job.options.paper)
    del application


def _night(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.pictures import write_night

    o = job.options
    write_night(job.file, job.path, o.view or None, o.size or (1920, 1080), o.weights, job.catalogue)
    del application


def _moving(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.preview import Moving, write_preview

    o = job.options
    write_preview(job.file, job.assessment, job.path, o.view or None, Moving(o.size or (960, 480), o.seconds), job.told)
    del application


def _dusk(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.preview import Moving, write_preview

    o = job.options
    write_preview(
        job.file, job.assessment, job.path, o.view or None, Moving(o.size or (960, 480), o.seconds, True), job.told
    )
    del application


def _round(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.turntable import Shot, write_round

    o = job.options
    shot = Shot(o.size or Shot().size, o.azimuth, o.height, o.near)
    write_round(job.file, job.assessment, job.path, shot, o.frames, job.told, o.weights)
    del application


def _carriers(job: Job) -> None:
    from gwiazda.core.exchange.carriers import carriers_file, named
    from gwiazda.core.plan.model import copy_unchecked

    if job.suffix != ".pdf":
        write_atomically(job.path, carriers_file(job.plan, job.assessment, job.path.name, job.options.ids))
        return
    application = _application()
    from gwiazda.desktop.shell.export.paper import write_sheets

    only = copy_unchecked(job.plan, carriers=named(job.plan, job.options.ids))
    write_sheets(only, job.assessment, job.path, job.options.paper, ["carriers"])
    del application


def _sheets(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.paper import write_sheets

    write_sheets(job.plan, job.assessment, job.path, job.options.paper)
    del application


def _half(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.paper import write_sheets

    write_sheets(job.plan, job.assessment, job.path, "a5", ["half"])
    del application


def _no_lamp(plan: Plan) -> str:
    return "" if plan.lamps else "There is no lamp in this plan yet."


def _book(job: Job) -> None:
    application = _application()
    from gwiazda.desktop.shell.export.book import write_book

    write_book(job.file, job.assessment, job.path, job.options.paper, job.told)
    del application


def _no_carrier(plan: Plan) -> str:
    return "" if plan.carriers else "Nothing holds lamps in this plan yet."


def _no_section(plan: Plan) -> str:
    return "" if plan.sections else "There is nothing to walk round yet."


def _no_cue(plan: Plan) -> str:
    return "" if plan.cues else "Nothing moves yet: add a cue to a channel first."


EXPORTS: tuple[Export, ...] = (
    _table("shopping", "Shopping list", "what is to be bought, with what is in stock taken off", _shopping, key="Ctrl+L"),
    Export("book", "Bench book", "all of it on paper: pictures, circuits, steps, tests", (".pdf",), _book, long=True),
    Export("sheets", "Sheets at true size", "templates, masks, maps and lists to print and lay on the kit", (".pdf", ".svg"), _sheets, key="Ctrl+T"),
    Export("half", "Half a page", "what to drill, solder and test, on one A5 page for the bench", (".pdf", ".svg"), _half, lacks=_no_lamp),
    _table("steps", "Steps and evenings", "the build as a table, or its evenings as a calendar", _steps, (".csv", ".ics")),
    Export("circuit", "Circuits", "the drawing to solder by, as a table, or for a circuit simulator", (".svg", ".pdf", ".csv", ".json"), _circuit, key="Ctrl+K"),
    _table("loom", "Wires and joints", "every wire with its way and length, every joint with its sleeve", _loom),
    _table("holes", "Holes", "every hole with its drill, its side, and how far it is from which edge", _holes),
    _table("fibres", "Fibres", "what to cut, drill and buy, and which fibre goes where", _fibres),
    Export("carriers", "Lamp carriers", "what holds the lamps, to cut at true size or to print solid", (".svg", ".pdf", ".dxf", ".stl"), _carriers, lacks=_no_carrier),
    _table("show", "Cue sheet", "what the lights do: to edit, for a controller’s program, or as a brief", _show, (".csv", ".json", ".h", ".md")),
    _table("pins", "Pin table", "boards, their outputs, and the lamps on each", _pins),
    _table("currents", "Currents of the show", "average and peak, by channel and source", _currents),
    Export("night", "Night picture", "the view on the plate as it looks in the dark", (".png",), _night, key="Ctrl+P"),
    Export("moving", "Moving picture", "the view on the plate as the show plays", (".gif", ".png", ".apng"), _moving, key="Ctrl+Shift+P", long=True, lacks=_no_cue),
    Export("dusk", "Dusk, moving", "the view on the plate as the room goes from noon to the dark", (".gif", ".png", ".apng"), _dusk, long=True, lacks=_no_section),
    Export("round", "From anywhere", "the model as you stand before it, or turning once round", (".png", ".gif", ".apng"), _round, long=True, lacks=_no_section, frames=(36, 72)),
    _table("parts", "Your own lamps", "lamps of your own catalogue, to keep or to give away", _parts),
    _table("ownparts", "Your own parts", "sources, boards, wires, fibres, drills, adhesives and paints of your own", _own_parts),
    _table("stock", "Your stock", "what is in your drawer, to count or to edit", _stock),
)  # fmt: skip
BY_ID = {e.id: e for e in EXPORTS}
