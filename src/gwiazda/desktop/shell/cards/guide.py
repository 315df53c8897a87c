"""The guide in the window: its chapters, and a page of it opened at one."""

from __future__ import annotations

import re
import sys
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import Qt, QUrl
from PySide6.QtWidgets import QDialog, QTextBrowser, QVBoxLayout

import gwiazda
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import read_plain
from gwiazda.core.memo import memoize_by_value

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

MOST_BYTES = 500_000
SIZE = (720, 560)


class Chapter(NamedTuple):
    """One chapter: the page it is on, its heading and its words."""

    page: str
    title: str
    words: str
    path: Path


def folder() -> Path:
    """Where the guide lies: installed beside the program, or in its source."""
    installed = Path(sys.prefix) / "share/doc/gwiazda"
    return installed if installed.is_dir() else Path(gwiazda.__file__).parents[2] / "docs"


@memoize_by_value()
def chapters() -> tuple[Chapter, ...]:
    """All chapters there are; none where the guide isn't installed."""
    out = []
    for path in sorted(folder().glob("guide*.md")):
        try:
            text = read_plain(path, MOST_BYTES).decode(errors="replace")
        except (GwiazdaError, OSError):
            continue
        page = ""
        for mark, title, body in re.findall(r"^(#{1,2}) (.+)\n((?:(?!^#{1,2} ).*\n?)*)", text, re.MULTILINE):
            page = title if mark == "#" else page
            out.append(Chapter(page, title, re.sub(r"[*`\[\]()#|]", " ", body)[:1500], path))
    return tuple(out)


def show(window: MainWindow, chapter: Chapter) -> None:
    """Open a page of the guide at a chapter."""
    dialog = QDialog(window)
    dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    dialog.setWindowTitle(f"Guide: {chapter.page}")
    dialog.setObjectName("guide")
    page = QTextBrowser()
    page.setAccessibleName("Guide")
    page.setOpenExternalLinks(False)
    page.setSearchPaths([str(folder())])
    page.setSource(QUrl.fromLocalFile(str(chapter.path)))
    box = QVBoxLayout(dialog)
    box.addWidget(page)
    dialog.resize(*SIZE)
    dialog.show()
    page.find(chapter.title)
    page.setFocus()
