"""What the command line takes: its commands and their options, of which the manual page and the completion are made too."""

from __future__ import annotations

import argparse

from gwiazda import __version__

COMMANDS = (
    "open",
    "demo",
    "new",
    "check",
    "quick",
    "export",
    "sheets",
    "steps",
    "diagnose",
    "schema",
    "verify",
    "desktop-entry",
)


def parser_of_commands() -> argparse.ArgumentParser:
    """All commands with their options."""
    parser = argparse.ArgumentParser(
        prog="gwiazda",
        description="See a scale model lit before anything is glued.",
        epilog="Exit status: 0 all is well; 1 something is to be settled (a finding that stops, a fault, a case that is off); "
        "2 something asked for can't be read, done or written, as the sentence on standard error says.",
    )
    parser.add_argument("--version", action="version", version=f"gwiazda {__version__}")
    commands = parser.add_subparsers(dest="command", metavar="|".join(COMMANDS))
    opens = commands.add_parser("open", help="open the application, on a plan or empty")
    opens.add_argument("plan", nargs="?")
    demo = commands.add_parser("demo", help="open the application on the demo plan")
    demo.add_argument(
        "name", nargs="?", default="szron", choices=("szron", "perkoz", "swistak", "bryla"), help="which demo plan"
    )
    demo.add_argument("--out", default="out/demo", help="where the pictures go when there is no display")
    new = commands.add_parser("new", help="make a plan from a shape, lit and wired, as the window does")
    new.add_argument("shape", help="ship, fuselage, vehicle, truss or tower")
    new.add_argument("plan", metavar="FILE.gwiazda", help="where to; a file that is there already is left alone")
    new.add_argument("--length", metavar="MM", help="of the model, a tower's height: 300, 12 in")
    new.add_argument("--scale", metavar="1/N", help="such as 1/200")
    new.add_argument("--decks", metavar="N", help="decks, or stages of a tower")
    new.add_argument("--windows", metavar="N", help="windows a deck on one side")
    new.add_argument("--name", default="", help="what the kit is called")
    check = commands.add_parser("check", help="print the assessment of a plan")
    check.add_argument("plan")
    check.add_argument("--json", action="store_true", help="as JSON, keys as in docs/check.md")
    quick = commands.add_parser("quick", help="answer a scratch line: a circuit, or a resistor's bands")
    quick.add_argument("words", nargs="+", help="such as: 3 white in series on 9 V block at 5 mA")
    quick.add_argument("--series", default="E12", choices=("E6", "E12", "E24", "E96"), help="resistors in the drawer")
    _export_options(
        commands.add_parser("export", help="write lists, sheets, circuits, pictures: what the export sheet has")
    )
    sheets = commands.add_parser("sheets", help="write templates, masks, maps, tags and lists at true size")
    sheets.add_argument("plan")
    sheets.add_argument("--out", default="sheets.pdf", metavar="FILE", help="a .pdf of all pages, or an .svg for each")
    sheets.add_argument("--paper", default="a4", help="a4, letter or a5")
    sheets.add_argument("--half", action="store_true", help="half a page for the bench alone, on A5")
    sheets.add_argument(
        "--book", metavar="FILE.pdf", help="the bench book instead: pictures, circuits and all sheets in one"
    )
    sheets.add_argument(
        "--only",
        default="",
        help="drill, masks, blocking, carriers, boards, map, tags, lists, half, polarity, steps, tests, closings, log, greys, care: those asked for, with commas",
    )
    steps = commands.add_parser("steps", help="the build: steps in evenings, and what to do tonight")
    steps.add_argument("plan", nargs="+", help="a plan; those of more kits on the same bench behind it")
    steps.add_argument("--from", dest="day", metavar="YYYY-MM-DD", help="the first evening; today when left out")
    steps.add_argument("--tonight", type=float, metavar="MINUTES", help="only what can be done in so many minutes")
    steps.add_argument("--csv", metavar="FILE.csv", help="all steps as CSV; - for standard output")
    steps.add_argument("--ics", metavar="FILE.ics", help="the evenings as a calendar")
    diagnose = commands.add_parser("diagnose", help="from readings to what is broken, and what to measure next")
    diagnose.add_argument("plan")
    diagnose.add_argument("readings", help="a CSV with what,at,value: volts, amps, or lit (lit, bright, dim, dark)")
    commands.add_parser("schema", help="print the JSON schema of a plan")
    _verify_options(
        commands.add_parser(
            "verify", help="solve reference cases and compare with their answers; or build a plan many times and count what falls within its bands"
        )
    )  # fmt: skip
    entry = commands.add_parser(
        "desktop-entry", help="put Gwiazda into the desktop's menu, with its icon and file type"
    )
    entry.add_argument("--remove", action="store_true", help="take it out again")
    return parser


def _export_options(export: argparse.ArgumentParser) -> None:
    """An option for each kind of export, from the table that the window has its own from."""
    from gwiazda.desktop.shell.export.exports import EXPORTS, FRAMES

    export.add_argument("plan")
    for e in EXPORTS:
        also = "; - for standard output" if e.text is not None else ""
        export.add_argument(f"--{e.id}", metavar="FILE", help=f"{e.label}: {e.about} ({', '.join(e.suffixes)}{also})")
    export.add_argument(
        "--view", default="", help="id of the view for --night and --moving; the first one when left out"
    )
    export.add_argument("--size", help="size of a picture in px, WIDTHxHEIGHT")
    export.add_argument(
        "--eye", default="48,20", help="where from for --round: AZIMUTH,HEIGHT in degrees; 0 from port, 90 from ahead"
    )
    export.add_argument(
        "--frames",
        type=int,
        default=FRAMES,
        metavar="N",
        help=f"frames of a turntable for --round: {FRAMES} unless said, 4 to 180",
    )
    export.add_argument("--seconds", type=float, default=10.0, help="how much of the show for --moving, in seconds")
    export.add_argument("--paper", default="a4", help="a4 or letter, for --sheets and --book")


def _verify_options(verify: argparse.ArgumentParser) -> None:
    verify.add_argument("file", help="reference cases (.json), or with --builds a plan")
    verify.add_argument("--json", action="store_true", help="print the solved cases in the shape of the file")
    verify.add_argument(
        "--builds",
        type=int,
        default=0,
        metavar="N",
        help="virtual builds of a plan, their parts and places drawn from how far they stray",
    )
    verify.add_argument("--seed", type=int, default=1, help="of the draws, for --builds")
    verify.add_argument(
        "--read", action="store_true", help="with --builds: read each build for an evening, learn, and count again"
    )
