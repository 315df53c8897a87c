"""Make the manual page, the shell's completion and the icon as a picture: ``python tools/make_manual.py``."""

from __future__ import annotations

import argparse
import os
import sys
from pathlib import Path

from gwiazda.cli_options import COMMANDS, parser_of_commands

HERE = Path(__file__).parent.parent / "src/gwiazda/freedesktop"


def _subparsers(parser: argparse.ArgumentParser) -> dict[str, argparse.ArgumentParser]:
    (found,) = [a for a in parser._actions if isinstance(a, argparse._SubParsersAction)]
    return dict(found.choices)


def _helps(parser: argparse.ArgumentParser) -> dict[str, str]:
    (found,) = [a for a in parser._actions if isinstance(a, argparse._SubParsersAction)]
    return {a.dest: a.help or "" for a in found._choices_actions}


def _roff(text: str) -> str:
    return text.replace("\\", "\\e").replace("-", "\\-")


def _shown(action: argparse.Action) -> str:
    """An argument as it is typed."""
    value = action.metavar or action.dest.upper()
    if not action.option_strings:
        return value if isinstance(value, str) else " ".join(value)
    return action.option_strings[-1] if action.nargs == 0 else f"{action.option_strings[-1]} {value}"


def manual() -> str:
    """The manual page, in roff."""
    parser = parser_of_commands()
    out = [
        '.TH GWIAZDA 1 "" "Gwiazda" "User commands"',
        ".SH NAME",
        "gwiazda \\- " + _roff((parser.description or "").rstrip(".").lower()),
    ]
    out += [".SH SYNOPSIS", ".B gwiazda", ".RI [ command ]", ".RI [ arguments ]", ".SH COMMANDS"]
    helps = _helps(parser)
    for name, each in _subparsers(parser).items():
        out += [f".SS {_roff(name)}", _roff(helps[name].capitalize()) + "."]
        for action in each._actions:
            if "--help" not in action.option_strings:
                out += [".TP", f".B {_roff(_shown(action))}", _roff(action.help or "")]
    out += [".SH EXIT STATUS", _roff((parser.epilog or "").removeprefix("Exit status: ").capitalize())]
    out += [".SH FILES", "A plan is a file that ends in .gwiazda: a ZIP archive with plan.json and pictures."]
    return "\n".join(out) + "\n"


def completion() -> str:
    """Completion for bash (and zsh with bashcompinit): commands, their options and choices, then files."""
    cases = []
    for name, each in _subparsers(parser_of_commands()).items():
        options = " ".join(o for a in each._actions for o in a.option_strings)
        choices = " ".join(str(c) for a in each._actions if not a.option_strings for c in a.choices or ())
        cases.append(f'    {name}) words="{choices} {options}" ;;')
    return "\n".join([
        "# Completion of gwiazda's commands, options and files; made by tools/make_manual.py.",
        "_gwiazda() {",
        '  local word="${COMP_WORDS[COMP_CWORD]}" words=""',
        "  if [ \"$COMP_CWORD\" -eq 1 ]; then",
        f'    COMPREPLY=($(compgen -W "{" ".join(COMMANDS)} --help --version" -- "$word")); return',
        "  fi",
        '  case "${COMP_WORDS[1]}" in',
        *cases,
        "  esac",
        '  COMPREPLY=($(compgen -W "$words" -- "$word") $(compgen -f -- "$word"))',
        "}",
        "complete -o filenames -F _gwiazda gwiazda",
    ]) + "\n"  # fmt: skip


def icon(path: Path) -> None:
    """The icon as a picture of 256 px."""
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PySide6.QtCore import QRectF
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    application = QGuiApplication(sys.argv[:1])
    image = QImage(256, 256, QImage.Format.Format_ARGB32)
    image.fill(0)
    painter = QPainter(image)
    QSvgRenderer(str(HERE / "io.github.gwiazda.Gwiazda.svg")).render(painter, QRectF(0, 0, 256, 256))
    painter.end()
    image.save(str(path))
    del application


if __name__ == "__main__":
    (HERE / "gwiazda.1").write_text(manual())
    (HERE / "gwiazda.bash").write_text(completion())
    icon(HERE / "io.github.gwiazda.Gwiazda.png")
