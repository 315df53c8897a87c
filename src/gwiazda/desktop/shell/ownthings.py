"""What is the user's own and no plan's, to and from files: parts of one's own, and what is in the drawer."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import write_atomically
from gwiazda.core.quantities import counted

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

CSV = "CSV (*.csv)"


class OwnThings:
    """The part of the window's dealings with files that is about the workshop."""

    window: MainWindow

    if TYPE_CHECKING:  # asked of the window's files, of which this is a part

        def _which(self, title: str, kinds: str) -> Path | None: ...

        def _where_to(self, title: str, name: str, kinds: str) -> Path | None: ...

        def _written(self, path: Path, write: Callable[[], object]) -> None: ...

    def take_in_parts(self, path: Path) -> None:
        from gwiazda.core.workshop.parts_csv import parts_from_csv
        from gwiazda.core.workshop.workshop import read_text

        document = self.window.document
        try:
            lamps, families = parts_from_csv(read_text(path))
            document.change_workshop(document.workshop.with_lamps(lamps, families))
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
            return
        self.window.show_message(f"{len(lamps)} parts of {path.name} are in your catalogue now.")

    def write_parts(self, path: Path) -> None:
        """Your own parts as CSV; only the heading, to fill in, when there are none yet."""
        from gwiazda.core.workshop.parts_csv import parts_to_csv

        workshop = self.window.document.workshop
        text = parts_to_csv(workshop.lamps.values(), workshop.catalogue)
        self._written(path, lambda: write_atomically(path, text.encode()))

    def take_in_drawer(self, path: Path) -> None:
        """What is in the drawer from CSV, in place of what was written there."""
        from gwiazda.core.workshop.drawer_csv import drawer_from_csv
        from gwiazda.core.workshop.workshop import read_text

        document = self.window.document
        before = document.workshop
        try:
            document.change_workshop(before.with_drawer(drawer_from_csv(read_text(path))))
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
            return
        back = ("Take back", lambda: document.change_workshop(document.workshop.with_drawer(before.drawer)))
        many = counted(len(document.workshop.drawer), "part")
        self.window.show_message(
            f"Your drawer is that of {path.name} now: {many}.", "info", back if before.drawer else None
        )

    def write_drawer(self, path: Path) -> None:
        """What is in the drawer as CSV; only the heading, to fill in, when nothing is yet."""
        from gwiazda.core.workshop.drawer_csv import drawer_to_csv

        text = drawer_to_csv(self.window.document.workshop.drawer.values())
        self._written(path, lambda: write_atomically(path, text.encode()))

    def ask_drawer_in(self) -> None:
        if path := self._which("Your drawer", CSV):
            self.take_in_drawer(path)

    def ask_drawer_out(self) -> None:
        if path := self._where_to("Your drawer", "drawer.csv", CSV):
            self.write_drawer(path)

    def ask_parts_in(self) -> None:
        if path := self._which("Your own parts", CSV):
            self.take_in_parts(path)

    def ask_parts_out(self) -> None:
        if path := self._where_to("Your own parts", "parts.csv", CSV):
            self.write_parts(path)
