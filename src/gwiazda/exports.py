"""What ``gwiazda export`` writes. Nothing heavy is imported before something that needs it is asked for."""

from __future__ import annotations

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import PlanError

if TYPE_CHECKING:
    import argparse
    from collections.abc import Callable

    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.parts.catalogue import Catalogue
    from gwiazda.core.plan.model import Plan
    from gwiazda.core.plan.storage import PlanFile
    from gwiazda.core.workshop.workshop import Workshop


# What each goes out as, by the suffix of its file; ``-`` is standard output, for tables alone.
TABLES = ("shopping", "fibres", "loom", "show", "pins", "currents")
SUFFIXES: dict[str, tuple[str, ...]] = {
    "shopping": (".csv",), "night": (".png",), "circuit": (".svg", ".pdf", ".csv", ".json"), "fibres": (".csv",), "loom": (".csv",),
    "show": (".csv", ".json", ".h", ".md"), "pins": (".csv",), "currents": (".csv",), "moving": (".gif", ".png", ".apng"),
    "carriers": (".svg", ".dxf", ".stl", ".pdf"), "round": (".png", ".gif", ".apng"),
}  # fmt: skip


def export(
    arguments: argparse.Namespace,
    load: Callable[[str], tuple[PlanFile, Catalogue]],
    workshop: Callable[[], Workshop],
) -> None:
    """Check all that was asked for, then write it and say what was written; raises PlanError with a sentence where that cannot be done."""
    asked = {kind: str(where) for kind in SUFFIXES if (where := getattr(arguments, kind))}
    if not asked:
        raise PlanError("Export", "nothing asked for", ", ".join(f"--{k}" for k in SUFFIXES) + ", each with a file")
    file, catalogue = load(arguments.plan)
    _check(arguments, asked, file)
    _tables(arguments, file, catalogue, workshop)
    if arguments.circuit:
        from gwiazda.core.assess.assessment import assess

        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from gwiazda.desktop.shell.application import make_application
        from gwiazda.desktop.stations.wire.sheets import write_circuit

        application = make_application()
        write_circuit(file.plan, assess(file.plan, catalogue), arguments.circuit)
        _wrote(arguments.circuit)
        del application
    if arguments.night:
        size = _size(arguments.size or "1600x900")
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from gwiazda.desktop.shell.pictures import write_night

        write_night(file, arguments.night, arguments.view, size, None, catalogue)
        _wrote(arguments.night)
    if arguments.moving:
        _moving(arguments, file, catalogue)
        _wrote(arguments.moving)
    if arguments.carriers:
        _carriers(arguments, file, catalogue)
        _wrote(arguments.carriers)
    if arguments.round:
        _round(arguments, file, catalogue)
        _wrote(arguments.round)


def _wrote(where: str) -> None:
    """Say it on standard error: what a table writes to standard output stays clean."""
    print(f"  wrote {where}", file=sys.stderr)


def _check(arguments: argparse.Namespace, asked: dict[str, str], file: PlanFile) -> None:
    """See that everything asked for can be written before the first file is; raises PlanError."""
    for kind, where in asked.items():
        path, forms = Path(where), SUFFIXES[kind]
        if where == "-" and kind in TABLES:
            continue
        if path.suffix.lower() not in forms:
            raise PlanError(f"Export, --{kind}", f"“{path.name}” is no form it goes out in", ", ".join(forms))
        if not path.parent.is_dir():
            raise PlanError(f"Export, --{kind}", f"there is no folder “{path.parent}”", "a folder that is there")
    if arguments.size:
        _size(arguments.size)
    if arguments.eye:
        _eye(arguments.eye)
    views = [v.id for v in file.plan.views]
    if arguments.view and arguments.view not in views:
        raise PlanError(
            "Export, --view", f"there is no view “{arguments.view}”", ", ".join(views) or "a plan with a view"
        )
    if ("night" in asked or "moving" in asked) and not views:
        raise PlanError("Export", "the plan has no view to draw", "a plan with a view")
    if "round" in asked and not file.plan.sections:
        raise PlanError("Export, --round", "there is nothing to walk round yet", "a plan with a section")
    if "carriers" in asked and not file.plan.carriers:
        raise PlanError("Export, --carriers", "nothing holds lamps in this plan", "a plan with a carrier")
    if arguments.frames is not None and not 4 <= arguments.frames <= 180:
        raise PlanError("Export, --frames", f"{arguments.frames} frames", "4 to 180; 36 or 72 are usual")
    if not 0.0 < arguments.seconds <= 120.0:
        raise PlanError("Export, --seconds", f"{arguments.seconds:g} s", "above 0, up to 120")


def _size(text: str) -> tuple[int, int]:
    """A size in px; raises PlanError for what is none."""
    width, _, height = text.lower().partition("x")
    if not (width.isdigit() and height.isdigit() and 64 <= int(width) <= 8192 and 64 <= int(height) <= 8192):
        raise PlanError("Export, size", f"“{text}”", "WIDTHxHEIGHT with 64 to 8192 px each")
    return int(width), int(height)


def _moving(arguments: argparse.Namespace, file: PlanFile, catalogue: Catalogue) -> None:
    """The show as a moving picture."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gwiazda.core.assess.assessment import assess
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.preview import write_preview

    application = make_application()
    assessment = assess(file.plan, catalogue)
    size = _size(arguments.size or "960x480")
    write_preview(file, assessment, Path(arguments.moving), arguments.view, size, arguments.seconds)
    del application


def _carriers(arguments: argparse.Namespace, file: PlanFile, catalogue: Catalogue) -> None:
    """What holds the lamps, as the suffix asks for it."""
    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.exchange.carriers import carriers_file
    from gwiazda.core.files import write_atomically

    path, assessment = Path(arguments.carriers), assess(file.plan, catalogue)
    if path.suffix.lower() != ".pdf":
        write_atomically(path, carriers_file(file.plan, assessment, path.name))
        return
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.paper import write_sheets

    application = make_application()
    write_sheets(file.plan, assessment, arguments.carriers, "a4", ["carriers"])
    del application


def _round(arguments: argparse.Namespace, file: PlanFile, catalogue: Catalogue) -> None:
    """The model from anywhere, or turning once."""
    azimuth, height = _eye(arguments.eye or "48,20")
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gwiazda.core.assess.assessment import assess
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.turntable import FRAMES, write_round

    application = make_application()
    size = _size(arguments.size or "1280x720")
    write_round(
        file,
        assess(file.plan, catalogue),
        Path(arguments.round),
        size,
        azimuth,
        height,
        frames=arguments.frames or FRAMES,
    )
    del application


def _eye(text: str) -> tuple[float, float]:
    """Where the eye is, in degrees round it (0 from port, 90 from ahead) and above the deck; raises PlanError for what is none."""
    try:
        azimuth, height = (float(x) for x in text.split(","))
    except ValueError:
        azimuth = height = float("nan")
    if not (-360.0 <= azimuth <= 360.0 and -35.0 <= height <= 89.0):
        raise PlanError("Export, eye", f"“{text}”", "AZIMUTH,HEIGHT with -360 to 360 and -35 to 89 degrees, as 48,20")
    return azimuth, height


def _tables(
    arguments: argparse.Namespace, file: PlanFile, catalogue: Catalogue, workshop: Callable[[], Workshop]
) -> None:
    """What goes out as CSV; - stands for standard output."""
    wanted = [(name, where) for name in TABLES if (where := getattr(arguments, name))]
    if not wanted:
        return
    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.exchange.brief import current_report, pin_table
    from gwiazda.core.exchange.fibres import fibre_table
    from gwiazda.core.exchange.looms import loom_table
    from gwiazda.core.exchange.report import shopping_csv
    from gwiazda.core.exchange.shows import show_text
    from gwiazda.core.files import write_atomically

    assessment = assess(file.plan, catalogue)
    made: dict[str, Callable[[Plan, Assessment], str]] = {
        "shopping": lambda plan, assessment: shopping_csv(plan, assessment, workshop()), "fibres": fibre_table, "loom": loom_table, "pins": pin_table, "currents": current_report,
        "show": lambda plan, assessment: show_text(plan, assessment, "cues.csv" if arguments.show == "-" else arguments.show),
    }  # fmt: skip
    for name, where in wanted:
        text = made[name](file.plan, assessment)
        if where == "-":
            print(text, end="")
        else:
            write_atomically(Path(where), text.encode())
            _wrote(where)
