"""What is the user's own and no plan's, to and from files: parts of one's own, and what is in the drawer."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.quantities import counted

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

CSV = "CSV (*.csv)"


class OwnThings:
    """The part of the window's dealings with files that is about the workshop."""

    window: MainWindow

    if TYPE_CHECKING:  # asked of the window's files, of which this is a part

        def _which(self, title: str, kinds: str) -> Path | None: ...

    def take_in_parts(self, path: Path) -> None:
        """Lamps, or parts of other kinds, from CSV, told apart by their first column."""
        from gwiazda.core.workshop.own_parts import FIRST, own_from_csv
        from gwiazda.core.workshop.parts_csv import parts_from_csv
        from gwiazda.core.workshop.workshop import read_text

        document = self.window.document
        try:
            text = read_text(path)
            if text.lstrip().startswith(FIRST[0]):
                others = own_from_csv(text)
                workshop = document.workshop
                for part in others.values():
                    workshop = workshop.with_own_part(part)
                count = len(others)
            else:
                lamps, families = parts_from_csv(text)
                workshop, count = document.workshop.with_lamps(lamps, families), len(lamps)
            document.change_workshop(workshop)
        except GwiazdaError as error:
            self.window.show_message(str(error), "stop")
            return
        self.window.show_message(
            f"{counted(count, 'part')} of {path.name} {'is' if count == 1 else 'are'} in your catalogue now."
        )

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

    def ask_drawer_in(self) -> None:
        if path := self._which("Your drawer", CSV):
            self.take_in_drawer(path)

    def ask_parts_in(self) -> None:
        if path := self._which("Your own parts", CSV):
            self.take_in_parts(path)
