"""The export sheet: all that can go out of a plan, what each is for, in which form, with a small preview."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QSettings, Qt
from PySide6.QtGui import QFont, QPainter, QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from gwiazda.core.errors import GwiazdaError
from gwiazda.desktop.panels.panel import label
from gwiazda.desktop.shell.export.exports import BY_ID, EXPORTS, Export, Job
from gwiazda.desktop.theme.sizes import scaled
from gwiazda.desktop.widgets.fields import ChoiceField

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

LAST, FORM = "export/last", "export/form"
LINES, WIDE = 12, 96  # of a text that is shown
PREVIEW = (380, 220)  # px
PAPERS = (("a4", "A4"), ("letter", "Letter"))


class ExportSheet(QDialog):
    """Pick what, see what it is for, write it. What was chosen last stands there again."""

    def __init__(self, window: MainWindow) -> None:
        super().__init__(window)
        self.main = window
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Export")
        self.setObjectName("exports")
        box = QHBoxLayout(self)
        self.list = QListWidget()
        self.list.setAccessibleName("What to export")
        self.list.setFixedWidth(scaled(230))
        for export in EXPORTS:
            item = QListWidgetItem(export.label)
            item.setData(Qt.ItemDataRole.UserRole, export.id)
            item.setToolTip(
                f"{export.about[:1].upper()}{export.about[1:]}" + (f" ({export.key})" if export.key else "")
            )
            self.list.addItem(item)
        box.addWidget(self.list)
        side = QVBoxLayout()
        box.addLayout(side, 1)
        self.name = label("", "heading")
        self.about = label("", "", wrap=True)
        side.addWidget(self.name)
        side.addWidget(self.about)
        self.preview = QLabel()
        self.preview.setObjectName("preview")
        self.preview.setAccessibleName("Preview")
        self.preview.setFixedSize(scaled(PREVIEW[0]), scaled(PREVIEW[1]))
        self.preview.setAlignment(Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        side.addWidget(self.preview)
        self.form = ChoiceField("Form", [], self._keep_form)
        self.frames = ChoiceField("Frames", [], lambda v: None)
        self.paper = ChoiceField("Paper", PAPERS, lambda v: QSettings().setValue("paper", v))
        self._rows: dict[str, tuple[QLabel, QWidget]] = {}
        for name, field in (("Form", self.form), ("Frames", self.frames), ("Paper", self.paper)):
            row = QHBoxLayout()
            caption = label(name, "muted")
            caption.setFixedWidth(scaled(70))
            caption.setBuddy(field)
            row.addWidget(caption)
            row.addWidget(field, 1)
            side.addLayout(row)
            self._rows[name] = caption, field
        side.addStretch(1)
        self.lack = label("", "muted", wrap=True)
        side.addWidget(self.lack)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        self.write = QPushButton("Write it…")
        self.write.setToolTip("Choose the file, and write it (Enter)")
        self.write.setDefault(True)
        self.write.clicked.connect(self._write)
        away = QPushButton("Close")
        away.setToolTip("Put the sheet away (Escape)")
        away.clicked.connect(self.reject)
        buttons.addWidget(away)
        buttons.addWidget(self.write)
        side.addLayout(buttons)
        self.list.currentItemChanged.connect(lambda *_: self._show())
        self.list.itemActivated.connect(lambda _: self._write())
        self.paper.show_value(str(QSettings().value("paper", "a4")))
        last = str(QSettings().value(LAST, EXPORTS[0].id))
        self.list.setCurrentRow(next((k for k, e in enumerate(EXPORTS) if e.id == last), 0))
        self.list.setFocus()

    @property
    def export(self) -> Export:
        """The one that is picked."""
        return BY_ID[str(self.list.currentItem().data(Qt.ItemDataRole.UserRole))]

    def _keep_form(self, suffix: str) -> None:
        QSettings().setValue(f"{FORM}/{self.export.id}", suffix)
        self._preview()

    def _show(self) -> None:
        export, plan = self.export, self.main.document.plan
        QSettings().setValue(LAST, export.id)
        self.name.setText(export.label)
        self.about.setText(f"{export.about[:1].upper()}{export.about[1:]}.")
        self.form.set_choices([(s, s[1:].upper()) for s in export.suffixes])
        kept = str(QSettings().value(f"{FORM}/{export.id}", export.suffixes[0]))
        self.form.show_value(kept if kept in export.suffixes else export.suffixes[0])
        self.frames.set_choices([(str(n), f"{n} of a turntable") for n in export.frames])
        for name, on in (
            ("Frames", bool(export.frames)),
            ("Paper", ".pdf" in export.suffixes),
        ):
            for part in self._rows[name]:
                part.setVisible(on)
        lack = export.lacks(plan)
        self.lack.setText(lack)
        self.write.setEnabled(not lack)
        self._preview()

    def _job(self) -> Job:
        suffix = str(self.form.currentData() or self.export.suffixes[0])
        return self.main.files.job(self.export.id, Path(f"{self.export.id}{suffix}"))

    def _preview(self) -> None:
        """The first lines of what is text, the picture of what is one; else what it holds."""
        export = self.export
        self.preview.setWordWrap(export.text is None)
        if export.lacks(self.main.document.plan):
            self.preview.setText("")
            return
        if export.text is not None:
            self.preview.setFont(QFont("monospace", 8))
            self.preview.setText(self._first_lines(export))
            return
        self.preview.setPixmap(self._picture(export))

    def _first_lines(self, export: Export) -> str:
        assert export.text is not None
        try:
            lines = export.text(self._job()).splitlines()
        except GwiazdaError as error:
            return str(error)
        more = [f"… {len(lines) - LINES} lines more"] if len(lines) > LINES else []
        return "\n".join([*(line[:WIDE] for line in lines[:LINES]), *more])

    def _picture(self, export: Export) -> QPixmap:
        """What a drawing looks like: the plate for pictures, the drawer for circuits, the first page for sheets."""
        if export.id == "circuit":
            shot = self._circuit()
        elif export.id in ("night", "moving", "round"):
            shot = self.main.plate.grab()
        else:
            shot = self._page(export)
        return shot.scaled(
            self.preview.size(), Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
        )

    def _circuit(self) -> QPixmap:
        from gwiazda.desktop.stations.wire.sheets import WIDE as WIDTH
        from gwiazda.desktop.stations.wire.sheets import circuit_height, paint_circuit

        job = self._job()
        sheet = QPixmap(round(WIDTH), round(circuit_height(job.plan, job.assessment)))
        sheet.fill(Qt.GlobalColor.white)
        painter = QPainter(sheet)
        paint_circuit(painter, job.plan, job.assessment)
        painter.end()
        return sheet

    def _page(self, export: Export) -> QPixmap:
        """The first page of sheets, on paper."""
        from gwiazda.core.drawing.sheets import PAPERS as SIZES
        from gwiazda.core.drawing.sheets import pages_of
        from gwiazda.desktop.shell.export.paper import paint_page

        job = self._job()
        paper = SIZES[job.options.paper]
        page = QPixmap(round(paper.width_mm * 4), round(paper.height_mm * 4))
        page.fill(Qt.GlobalColor.white)
        try:
            first = pages_of(job.plan, job.assessment, paper, ["carriers"] if export.id == "carriers" else [])[0]
        except (GwiazdaError, IndexError):
            return page
        painter = QPainter(page)
        painter.scale(4.0, 4.0)
        paint_page(painter, first)
        painter.end()
        return page

    def _write(self) -> None:
        if not self.write.isEnabled():
            return
        export = self.export
        options = {"frames": int(self.frames.currentData())} if export.frames else {}
        suffix = str(self.form.currentData())
        files = self.main.files
        path = files._where_to(export.label, files.offered_name(export.id, suffix), f"{suffix[1:].upper()} (*{suffix})")
        if path is None:
            return
        self.accept()
        files.write_export(export.id, path if path.suffix else path.with_suffix(suffix), **options)
