"""Cards of the Bench station: suspects and the next measurement, readings, the log, practice."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import LogEntry
from gwiazda.core.plan.naming import said
from gwiazda.core.quantities import counted, figure, parse_number
from gwiazda.core.workbench.diagnosis import Next, next_words, suspect_words, tells
from gwiazda.core.workbench.log import beside, search, sums, words_of
from gwiazda.core.workbench.photo.photos import MAX_BYTES, photo_for_log, taken
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.build.days import now_of
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.offer import OfferButton

SHOWN, PHOTOS = 6, 3
NAMED, LEAST_SHARE = 2, 0.005  # so many suspects in any case; others from half a percent on
KINDS = [("note", "note"), ("coat", "coats"), ("mix", "mix"), ("move", "moved"), ("leak", "leak found"), ("decision", "decision"),
         ("hours", "hours"), ("cost", "cost"), ("asked", "asked for"), ("agreed", "agreed"), ("changed", "changed")]  # fmt: skip


class SuspectsCard(PanelCard):
    """What is likely to be broken, and what to measure next."""

    title = "What is likely broken"

    def build(self) -> None:
        panel = self.panel
        self.session = session_of(self.document)
        card = self.card
        self.words = card.consequence()
        self.rows = QVBoxLayout()
        self.rows.setSpacing(3)
        card.outer.addLayout(self.rows)
        self.next = OfferButton("")
        self.next.setToolTip("Pick it on the plate; in practice, measure it")
        self.next.clicked.connect(self._next)
        card.outer.addWidget(self.next)
        self.mended = QPushButton("Repaired, measure again")
        self.mended.setToolTip("Readings up to now no longer count; they stay in the log")
        self.mended.clicked.connect(lambda: self.document.edit("Mended", edits.settle_readings))
        card.outer.addWidget(self.mended)
        self._next_is: Next | None = None
        self._shown: object = None
        panel.follow(self.session.changed, self.refresh)

    def _next(self) -> None:
        n = self._next_is
        if n is None:
            return
        if self.session.hidden is not None:
            self.session.measure(n.what, n.at)
        self.document.select([n.at])

    def refresh(self) -> None:
        self.session.look(asked=True)
        diagnosis = self.session.diagnosis
        key = (diagnosis, self.session.fault, self.session.hidden, self.session.readings())
        if key == self._shown:
            return
        self._shown = key
        clear(self.rows)
        self._next_is = diagnosis.next[0] if diagnosis is not None and diagnosis.next else None
        self.next.setVisible(self._next_is is not None)
        self.mended.setVisible(self.session.hidden is None and bool(self.session.readings()))
        if diagnosis is None:
            self.words.setText(self.session.fault or "…")
            self.words.setVisible(True)
            return
        if not self.session.readings():
            self.words.setText("Nothing is read yet. A look at all lamps tells most: pick those that are wrong.")
        elif diagnosis.misfit > 3.0:
            self.words.setText(
                f"Neither one fault nor two tell these readings well ({diagnosis.misfit:.1f} σ): measure again."
            )
        else:
            used = (
                ""
                if diagnosis.used is None
                else f"By these readings the cells are about {diagnosis.used * 100:.0f} % used. "
            )
            blamed = (i for s in diagnosis.suspects[:1] for f in s.faults for i in f.at)
            self.words.setText(f"{used}{said(self.plan, diagnosis.instead, blamed)}".strip())
        self.words.setVisible(bool(self.words.text()))
        named = [s for k, s in enumerate(diagnosis.suspects[:SHOWN]) if k < NAMED or s.share >= LEAST_SHARE]
        for s in named if self.session.readings() else ():
            words = suspect_words(self.plan, s)
            row = OfferButton(words)
            row.show_outcome(
                f"{s.share * 100:.0f} %", "stop" if s.share > 0.5 and s.faults else ("fine" if not s.faults else "look")
            )
            row.setToolTip(f"{words}: {s.share * 100:.1f} %")
            places = [i for f in s.faults for i in f.at]
            row.clicked.connect(lambda _=False, places=places: self.document.select(places))
            self.rows.addWidget(row)
        if self._next_is is not None:
            verb = "Measure" if self.session.hidden is not None else "Next"
            how_much = "" if self._next_is.source else f": {tells(self._next_is)}"
            self.next.show_words(f"{verb}: {next_words(self.plan, self._next_is)}{how_much}")


class LogCard(PanelCard):
    """The log: a line written, the last ones, a search."""

    title = "Log"

    def build(self) -> None:
        panel = self.panel
        card = self.card
        self.kind = panel.choice("Kind of entry", KINDS, lambda _: None)
        self.text = panel.value(
            "Write in the log",
            lambda t: t.strip()[:2000],
            self._write,
            "what was done, mixed, moved, decided; for hours, cost and coats a number first",
        )
        card.row("Write", self.kind)
        card.row("", self.text)
        self.find = panel.value("Search the log", lambda t: t.strip(), self._search, "all words must be in it")
        card.row("Search", self.find)
        self.list = card.consequence()
        self.photos = QHBoxLayout()
        self.photos.setSpacing(4)
        card.outer.addLayout(self.photos)
        add = QPushButton("Photo…")
        add.setAccessibleName("Add a photo to the log")
        add.setToolTip(
            "A photo beside the words: made smaller, and without the place and time that the camera wrote into it"
        )
        add.clicked.connect(self._ask_photo)
        card.outer.addWidget(add)
        self._words = ""
        self._pictured: object = None

    def _search(self, words: str) -> None:
        self._words = words
        self.refresh()

    def _ask_photo(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self.panel.window(), "Photo for the log", "", "Photos (*.jpg *.jpeg *.png *.webp *.tif *.tiff *.heic)"
        )
        if path:
            self.take_photo(Path(path))

    def take_photo(self, path: Path) -> None:
        """Keep a photo with the plan, as a line of the log."""
        document = self.document
        try:
            data = path.read_bytes() if path.stat().st_size <= MAX_BYTES else b"\0" * (MAX_BYTES + 1)
            how = taken(data)
            name, data = photo_for_log(path.name, data)
        except GwiazdaError as error:
            document.message_stop(str(error))
            return
        except OSError as error:
            document.message_stop(f"{path.name} can’t be read: {error.strerror}.")
            return
        kept = document.add_picture(name, data)
        fields = {**self._where(), "exposure": how.exposure, "merged": how.merged}
        document.edit(
            "Photo into the log", lambda plan: edits.add_entry(plan, "note", path.stem[:80], photo=kept, **fields)[0]
        )

    def _where(self) -> dict[str, Any]:
        """When, and the section and lamp that are picked."""
        plan, picked = self.document.plan, self.document.selection
        return {
            "at": now_of(self.document),
            "section": next((i for i in picked if any(s.id == i for s in plan.sections)), ""),
            "lamp": next((i for i in picked if any(p.id == i for p in plan.lamps)), ""),
        }

    def _show_photos(self) -> None:
        found = [e for e in search(self.document.plan, self._words) if e.photo in self.document.pictures][:PHOTOS]
        key = tuple((e.id, e.photo) for e in found)
        if key == self._pictured:
            return
        self._pictured = key
        clear(self.photos)
        for e in found:
            picture = QPixmap()
            picture.loadFromData(self.document.pictures[e.photo])
            button = QPushButton()
            button.setIcon(QIcon(picture))
            button.setIconSize(QSize(scaled(58), scaled(44)))
            button.setAccessibleName(f"Photo: {words_of(self.plan, e)}")
            button.setToolTip(f"{e.at} {words_of(self.plan, e)}: look at it, or read its light")
            button.clicked.connect(lambda _=False, e=e: self.look(e))
            self.photos.addWidget(button)
        self.photos.addStretch(1)

    def look(self, e: LogEntry) -> None:
        """Show a photo as large as the window allows; Escape or a click closes it."""
        picture = QPixmap()
        picture.loadFromData(self.document.pictures[e.photo])
        window = self.panel.window()
        room = window.size() * 0.9
        dialog = QDialog(window)
        dialog.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        dialog.setWindowTitle(words_of(self.plan, e))
        box = QVBoxLayout(dialog)
        sheet = QLabel()
        sheet.setPixmap(
            picture.scaled(room, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        )
        box.addWidget(sheet)
        box.addWidget(label(f"{e.at} {words_of(self.plan, e)}", "muted", wrap=True))
        if e.kind != "reading":
            read = QPushButton("Read its light")
            read.setToolTip(
                "Lay it on the view shown and measure it: each opening beside what was predicted, and leaks"
            )
            read.clicked.connect(dialog.close)
            read.clicked.connect(lambda: session_of(self.document).read(e.id))
            box.addWidget(read)
        self.shown = dialog
        dialog.show()

    def _write(self, text: str) -> None:
        kind = str(self.kind.currentData())
        fields = self._where()
        number, _, rest = text.partition(" ")
        if text and (kind in ("hours", "cost") or (kind == "coat" and number.isdigit())):
            try:
                fields["value"] = parse_number(number, kind.capitalize(), 0, 1e6)
            except GwiazdaError as error:
                self.document.message_stop(str(error))
                return
            text = rest or kind
        self.document.edit("Write in the log", lambda plan: edits.add_entry(plan, kind, text, **fields)[0])

    def refresh(self) -> None:
        plan = self.document.plan
        self.text.show_value("")
        off = {
            b.entry.id
            for b in beside(self.document.assessed_plan, session_of(self.document).benches, self.panel.assessment)
            if not b.agrees
        }
        lines = []
        for e in search(plan, self._words)[:10]:
            where = next((s.name for s in plan.sections if s.id == e.section), "")
            mark = " <b>off</b>" if e.id in off else ""
            lines.append(f"{e.at[5:]} {'· ' + where + ' ' if where else ''}· {words_of(self.plan, e)}{mark}")
        hours, cost = sums(plan)
        foot = ", ".join(
            x for x in (f"{figure(hours)} h" if hours else "", f"cost {figure(cost)}" if cost else "") if x
        )
        none = "Nothing with these words." if self._words else "Nothing is written yet."
        self._show_photos()
        self.list.setText("<br>".join([*(lines or [none]), *([f"In all {foot}."] if foot else [])]))


class PracticeCard(PanelCard):
    """A hidden fault in one's own plan, to be found with few readings. No penalty, no clock."""

    title = "Practice"
    extra = True

    def build(self) -> None:
        panel = self.panel
        self.session = session_of(self.document)
        card = self.card
        self.words = card.consequence()
        row = QHBoxLayout()
        self.hide = QPushButton("Hide a fault")
        self.hide.setToolTip("One fault somewhere in this plan’s circuit; the plan stays as it is")
        self.hide.clicked.connect(self._hide)
        self.look = QPushButton("Look at all lamps")
        self.look.clicked.connect(self.session.look_at_all)
        self.tell = QPushButton("What was it")
        self.tell.clicked.connect(self._tell)
        for button in (self.hide, self.look, self.tell):
            row.addWidget(button)
        card.outer.addLayout(row)
        self.said = ""
        self._seed = 0
        panel.follow(self.session.changed, self.refresh)

    def _hide(self) -> None:
        self._seed = self.document.clock().microsecond + 1000 * self.document.clock().second
        if self.session.hide(self._seed):
            self.said = ""
            self.refresh()

    def _tell(self) -> None:
        self.said = self.session.reveal()
        self.refresh()

    def refresh(self) -> None:
        on = self.session.hidden is not None
        self.look.setVisible(on)
        self.tell.setVisible(on)
        if on:
            self.words.setText(
                f"A fault is hidden. {counted(self.session.steps, 'reading')} so far; pick a lamp and measure what the card above proposes."
            )
        else:
            self.words.setText(self.said or "A fault is hidden in your own plan, and you find it with few readings.")
