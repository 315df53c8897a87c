"""The command line: ``gwiazda`` and one of its commands (``cli_options``). Imports nothing heavy before it must."""

from __future__ import annotations

import argparse
import os
import sys
from typing import TYPE_CHECKING, Any

from gwiazda.cli_options import parser_of_commands

if TYPE_CHECKING:
    from pathlib import Path

    from gwiazda.core.parts.catalogue import Catalogue
    from gwiazda.core.plan.storage import PlanFile
    from gwiazda.core.workshop.workshop import Workshop
    from gwiazda.desktop.shell.export.exports import Options

OK, FOUND, UNREADABLE = 0, 1, 2


def main(argv: list[str] | None = None) -> int:
    """Run a command; returns the exit status (0 well, 1 something to settle, 2 unreadable)."""
    for stream in (sys.stdout, sys.stderr):
        # A terminal that knows ASCII only, or a file's name that is no text: shown as well as can be, and no traceback.
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="replace")
    arguments = parser_of_commands().parse_args(argv)
    if arguments.command is None:
        arguments.command, arguments.plan = "open", None
    from gwiazda.core.errors import GwiazdaError

    run = {
        "open": _open,
        "demo": _demo,
        "new": _new,
        "check": _check,
        "quick": _quick,
        "export": _export,
        "sheets": _sheets,
        "steps": _steps,
        "diagnose": _diagnose,
        "schema": _schema,
        "verify": _verify,
        "desktop-entry": _desktop_entry,
    }
    try:
        return run[arguments.command](arguments)
    except GwiazdaError as error:
        print(error, file=sys.stderr)
        return UNREADABLE
    except BrokenPipeError:
        # The reader of a pipe went away; that is no error of ours.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return OK


def has_display() -> bool:
    """Whether a window could be shown to somebody."""
    return bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))


def _open(arguments: argparse.Namespace) -> int:
    if not has_display() and os.environ.get("QT_QPA_PLATFORM") is None:
        print(
            "There is no display to open a window on; `gwiazda check PLAN` prints the assessment.",
            file=sys.stderr,
        )
        return UNREADABLE
    return _window(arguments.plan)


def _window(path: str | None, as_demo: bool = False) -> int:
    import gc

    # Starting makes many objects and no rubbish: the collector would only look through them again and again. It
    # is switched on again with the first picture.
    gc.disable()
    from gwiazda.desktop.shell.application import run

    return run(path, as_demo=as_demo)


def _demo(arguments: argparse.Namespace) -> int:
    from gwiazda.demos import path_of

    if has_display() or os.environ.get("QT_QPA_PLATFORM") not in (None, "offscreen", "minimal"):
        return _window(str(path_of(arguments.name)), as_demo=True)
    print("There is no display: running offscreen and writing the demo's views as pictures.")
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from gwiazda.desktop.shell.export.pictures import write_views

    for path in write_views(path_of(arguments.name), arguments.out):
        print(f"  wrote {path}")
    return _print_check(path_of(arguments.name), False)


def _new(arguments: argparse.Namespace) -> int:
    from pathlib import Path

    from gwiazda.core.errors import PlanError, PlanFileError
    from gwiazda.core.files import refuse_ending
    from gwiazda.core.plan.storage import PlanFile, save
    from gwiazda.core.quantities import counted, parse_length_mm, parse_number, parse_scale
    from gwiazda.core.starter.forms import FORMS, LIMITS, NAMES
    from gwiazda.core.starter.start import start

    path = Path(arguments.plan)
    if path.suffix.lower() != ".gwiazda":
        raise refuse_ending(path, "A plan", ".gwiazda")
    if path.exists():
        raise PlanFileError(path.name, "it is there already, and is left as it is", "a name that is free")
    entry = FORMS.get(arguments.shape)
    if entry is None:
        raise PlanError("New, shape", f"“{arguments.shape}”", ", ".join(FORMS))
    sizes = entry.sizes._replace(name=arguments.name)
    if arguments.length is not None:
        sizes = sizes._replace(length_mm=parse_length_mm(arguments.length))
    if arguments.scale is not None:
        sizes = sizes._replace(scale=parse_scale(arguments.scale))

    def whole(field: str, usual: int) -> int:
        text = getattr(arguments, field)
        return usual if text is None else int(parse_number(text, f"New, {NAMES[field]}", *LIMITS[field], whole=True))

    sizes = sizes._replace(decks=whole("decks", sizes.decks), windows=whole("windows", sizes.windows))
    made = start(_catalogue(), sizes)
    save(PlanFile(made.plan, made.pictures), path)
    plan = made.plan
    print(f"  wrote {path}: {counted(len(plan.openings), 'window')}, {counted(len(plan.lamps), 'lamp')}")
    for finding in made.left:
        print(f"  left to settle: {finding.called(plan).sentence}")
    return OK


def _load(path: str | Path) -> tuple[PlanFile, Catalogue]:
    """A plan file, and the catalogue with the user's own things, which count here as they do in the window."""
    from gwiazda.core.plan.storage import load

    return load(path), _catalogue()


def _catalogue() -> Catalogue:
    return _workshop().catalogue


def _workshop() -> Workshop:
    from platformdirs import user_data_path

    from gwiazda.core.workshop.workshop import load_workshop

    workshop, said = load_workshop(user_data_path("gwiazda"))
    for sentence in said:
        print(sentence, file=sys.stderr)
    return workshop


def _check(arguments: argparse.Namespace) -> int:
    return _print_check(arguments.plan, arguments.json)


def _print_check(path: str | Path, as_json: bool) -> int:
    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.exchange.report import as_dict, as_text
    from gwiazda.core.findings.rules import evaluate_rules

    file, catalogue = _load(path)
    plan = file.plan
    assessment = assess(plan, catalogue)
    findings = evaluate_rules(plan, assessment)
    if as_json:
        _print_json(as_dict(plan, assessment, findings))
    else:
        print(as_text(plan, assessment, findings), end="")
    return FOUND if any(f.severity == "stop" for f in findings) else OK


def _quick(arguments: argparse.Namespace) -> int:
    from gwiazda.core.quick.answer import answer

    found = answer(" ".join(arguments.words), _catalogue(), arguments.series)
    print("\n".join(found.lines()))
    return OK


def _print_json(data: Any) -> None:
    import json

    print(json.dumps(data, indent=1, ensure_ascii=False))


def _export(arguments: argparse.Namespace) -> int:
    """Check all that was asked for, then write it and say on standard error what was written."""
    from pathlib import Path

    from gwiazda.core.errors import PlanError
    from gwiazda.desktop.shell.export.exports import EXPORTS, Job

    asked = [(e, str(where)) for e in EXPORTS if (where := getattr(arguments, e.id))]
    if not asked:
        raise PlanError("Export", "nothing asked for", ", ".join(f"--{e.id}" for e in EXPORTS) + ", each with a file")
    file, catalogue = _load(arguments.plan)
    views = [v.id for v in file.plan.views]
    if arguments.view and arguments.view not in views:
        raise PlanError("Export, --view", f"there is no view “{arguments.view}”", ", ".join(views))
    options = _how(arguments)
    for e, where in asked:
        if where != "-" or e.text is None:
            e.check(Path(where))
        if lack := e.lacks(file.plan):
            raise PlanError(
                f"Export, --{e.id}", lack.rstrip(".")[:1].lower() + lack.rstrip(".")[1:], "a plan that has it"
            )
    given, workshop = None, _workshop()
    for e, where in asked:
        job = Job(file, catalogue, workshop, Path("" if where == "-" else where), options, given=given)
        if where == "-" and e.text is not None:
            print(e.text(job), end="")
        else:
            e.write(job)
            print(f"  wrote {where}", file=sys.stderr)
        given = job.known  # the figures are worked out once
    return OK


def _how(arguments: argparse.Namespace) -> Options:
    """How what is asked for is to be written; raises PlanError for what can't be."""
    from gwiazda.core.errors import PlanError
    from gwiazda.desktop.shell.export.exports import Options

    if not 4 <= arguments.frames <= 180:
        raise PlanError("Export, --frames", f"{arguments.frames} frames", "4 to 180; 36 or 72 are usual")
    if not 0.0 < arguments.seconds <= 120.0:
        raise PlanError("Export, --seconds", f"{arguments.seconds:g} s", "above 0, up to 120")
    azimuth, height = _eye(arguments.eye)
    size = _size(arguments.size) if arguments.size else None
    return Options(
        arguments.view, size, azimuth, height, frames=arguments.frames, seconds=arguments.seconds, paper=arguments.paper.lower()
    )  # fmt: skip


def _size(text: str) -> tuple[int, int]:
    """A size in px; raises PlanError for what is none."""
    from gwiazda.core.errors import PlanError

    width, _, height = text.lower().partition("x")
    if not (width.isdigit() and height.isdigit() and 64 <= int(width) <= 8192 and 64 <= int(height) <= 8192):
        raise PlanError("Export, size", f"“{text}”", "WIDTHxHEIGHT with 64 to 8192 px each")
    return int(width), int(height)


def _eye(text: str) -> tuple[float, float]:
    """Where the eye is, in degrees round it (0 from port, 90 from ahead) and above the deck; raises PlanError for what is none."""
    from gwiazda.core.errors import PlanError

    try:
        azimuth, height = (float(x) for x in text.split(","))
    except ValueError:
        azimuth = height = float("nan")
    if not (-360.0 <= azimuth <= 360.0 and -89.0 <= height <= 89.0):
        raise PlanError("Export, eye", f"“{text}”", "AZIMUTH,HEIGHT with -360 to 360 and -89 to 89 degrees, as 48,20")
    return azimuth, height


def _sheets(arguments: argparse.Namespace) -> int:
    file, catalogue = _load(arguments.plan)
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from gwiazda.core.assess.assessment import assess
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.export.paper import write_sheets

    application = make_application()
    if arguments.book:
        from pathlib import Path

        from gwiazda.desktop.shell.export.book import write_book

        assessment = assess(file.plan, catalogue)
        print(f"  wrote {write_book(file, assessment, Path(arguments.book), arguments.paper.lower())}")
        del application
        return OK
    only = [x.strip() for x in arguments.only.split(",") if x.strip()]
    paper = arguments.paper.lower()
    if arguments.half:
        only, paper = ["half"], "a5"
    for path in write_sheets(file.plan, assess(file.plan, catalogue), arguments.out, paper, only):
        print(f"  wrote {path}")
    del application
    return OK


def _steps(arguments: argparse.Namespace) -> int:
    import datetime
    from pathlib import Path

    from gwiazda.core.assess.assembly.progress import Other, calendar_of, slip_of, tonight_of
    from gwiazda.core.assess.assembly.steps import steps_of
    from gwiazda.core.errors import PlanError
    from gwiazda.core.exchange.evenings import calendar_ics, steps_csv, steps_text
    from gwiazda.core.files import write_atomically

    try:
        day = datetime.date.fromisoformat(arguments.day) if arguments.day else datetime.date.today()
    except ValueError:
        raise PlanError("Steps, from", f"“{arguments.day}” is no date", "a date such as 2026-11-26") from None
    file, catalogue = _load(arguments.plan[0])
    steps = steps_of(catalogue, file.plan)
    others = tuple(
        Other(plan.kit.name or Path(path).stem, plan, steps_of(catalogue, plan))
        for path in arguments.plan[1:]
        for plan in (_load(path)[0].plan,)
    )
    if arguments.tonight is not None:
        now = f"{day.isoformat()} {int(file.plan.bench.from_h):02d}:00"
        for step in tonight_of(file.plan, steps, now, arguments.tonight):
            print(f"{step.minutes:5.0f} min  {step.key:28}  {step.name}")
        return OK
    calendar = calendar_of(file.plan, steps, day.isoformat(), others)
    if arguments.ics:
        write_atomically(Path(arguments.ics), calendar_ics(file.plan, catalogue, steps, calendar, others))
    if arguments.csv:
        text = steps_csv(file.plan, catalogue, steps, calendar, day.isoformat())
        if arguments.csv == "-":
            print(text, end="")
        else:
            write_atomically(Path(arguments.csv), text.encode())
    if not (arguments.ics or arguments.csv):
        print(steps_text(file.plan, catalogue, steps, calendar, others), end="")
        slip = slip_of(catalogue, file.plan, day.isoformat(), others)
        if slip.tests:
            print(f"Failed tests put it back by {slip.days} days: {', '.join(slip.tests)}.")
    return OK


def _diagnose(arguments: argparse.Namespace) -> int:
    from pathlib import Path

    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.plan.naming import said
    from gwiazda.core.workbench.diagnosis import diagnose, next_words, tells
    from gwiazda.core.workbench.readings_csv import read_readings
    from gwiazda.core.workshop.workshop import read_text

    file, catalogue = _load(arguments.plan)
    readings = read_readings(read_text(Path(arguments.readings)))
    found = diagnose(file.plan, assess(file.plan, catalogue), readings)
    print("Likeliest:")
    for s in found.suspects[:8]:
        words = said(file.plan, s.words, (i for f in s.faults for i in f.at))
        print(f"  {s.share * 100:5.1f} %  {words}")
    if found.used is not None:
        print(f"By these readings the cells are about {found.used * 100:.0f} % used.")
    if found.next:
        print("To measure next:")
        for n in found.next[:3]:
            print(f"  {next_words(file.plan, n)}" + ("" if n.source else f": {tells(n)}"))
    else:
        print(said(file.plan, found.instead, (i for s in found.suspects[:1] for f in s.faults for i in f.at)))
    if found.misfit > 3.0:
        print(f"Neither one fault nor two tell these readings well ({found.misfit:.1f} sigma): measure again.")
    return FOUND if found.suspects and found.suspects[0].faults else OK


def _schema(arguments: argparse.Namespace) -> int:
    from gwiazda.core.plan.storage import schema

    _print_json(schema())
    return OK


def _desktop_entry(arguments: argparse.Namespace) -> int:
    from gwiazda.freedesktop.entry import install, remove

    for path in remove() if arguments.remove else install():
        print(f"  {'removed' if arguments.remove else 'wrote'} {path}")
    return OK


def _verify_builds(arguments: argparse.Namespace) -> int:
    """A plan built many times: the share of its figures that fall within what is said."""
    from pathlib import Path

    from gwiazda.core.errors import PlanError
    from gwiazda.core.workbench.builds.coverage import MOST_BUILDS, table_of, verify_builds

    if not 1 <= arguments.builds <= MOST_BUILDS:
        raise PlanError("Builds", f"{arguments.builds}", f"1 to {MOST_BUILDS:,}")
    file, catalogue = _load(arguments.file)

    def told(share: float) -> bool:
        if sys.stderr.isatty():
            print(f"\r  {share * 100:.0f} %", end="" if share < 1.0 else "\r      \r", file=sys.stderr, flush=True)
        return True

    verdict = verify_builds(
        file.plan.kit.name or Path(arguments.file).stem, file.plan, catalogue, arguments.builds, arguments.seed, told
    )
    print(table_of(verdict))
    if not verdict.kinds:
        print("  Nothing of this plan is said with a band yet: it has no lamps, or no windows they light.")
    for c in verdict.off:
        print(f"  {c.kind}: {c.inside * 100:.0f} of 100 fall within what is said; 87 to 93 were meant to.")
    if not arguments.read:
        return FOUND if verdict.off else OK
    from gwiazda.core.workbench.builds.taught import verify_taught

    print("After one photo of each build, and three panes of each section read by a meter:")
    print(table_of(verify_taught(verdict.name, file.plan, catalogue, arguments.builds, arguments.seed, progress=told)))
    return FOUND if verdict.off else OK


def _verify(arguments: argparse.Namespace) -> int:
    from gwiazda.core.exchange.cases.reference import verify_file

    if arguments.builds:
        return _verify_builds(arguments)
    verdict = verify_file(arguments.file)
    if arguments.json:
        _print_json(verdict.cases)
    else:
        print("\n".join(verdict.lines))
    return OK if verdict.good else FOUND
