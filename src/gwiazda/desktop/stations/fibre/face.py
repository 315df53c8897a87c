"""The inspector's panel for a face with many dots: its picture, the dots found in it, and what they have in common."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QLabel, QPushButton, QSizePolicy

from gwiazda.core.assess.fibre.faces import circles_in
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.fibre.panel import Spot, spots_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Dot, Plan
from gwiazda.core.plan.model import Panel as Face
from gwiazda.core.quantities import counted, parse_number
from gwiazda.desktop.inspector.cards import Panel, common
from gwiazda.desktop.inspector.reading import read_size
from gwiazda.desktop.stations.fibre.panel import COLOURS

LOOK_FOR = (("", "round spots that stand out"), *((c, f"{c} spots") for c in ("white", "red", "orange", "amber", "green", "blue")))  # fmt: skip


def spots_of(data: bytes, colour: str) -> tuple[Spot, ...]:
    """The spots of a face picture: circles of an SVG, blobs of a PNG or JPEG.

    Raises
    ------
    GwiazdaError
        When there is none, or the picture can't be read.
    """
    if not data.startswith((b"\x89PNG", b"\xff\xd8")):
        return circles_in(data)
    image = QImage.fromData(data).convertToFormat(QImage.Format.Format_RGB888)
    if image.isNull():
        raise GwiazdaError("Panel picture", "it can’t be read", "PNG, JPEG or SVG")
    raw = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return spots_in(raw[:, : 3 * image.width()].reshape(image.height(), image.width(), 3), colour)


class FacePanel(Panel):
    """A panel: name, size and print, the picture of its face, and its dots."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        card = self.card("Panel", "fibre")
        self.name = self.value(
            "Name", lambda t: t.strip()[:100] or "Panel", lambda v: self._set("Rename the panel", name=v)
        )
        card.row("Name", self.name)
        self.wide = self.value("Width", read_size, lambda v: self._resize(width_mm=v), "mm on the model")
        self.high = self.value("Height", read_size, lambda v: self._resize(height_mm=v), "mm on the model")
        card.row("Size, mm", self.wide, self.high)
        self.tolerance = self.value(
            "How exact the print is", lambda t: parse_number(t, "Tolerance", 0.01, 10, "mm"), lambda v: self._set("Change tolerance", tolerance_mm=v),
            "mm that a hole may be off before it shows beside its printed lamp",
        )  # fmt: skip
        card.row("Print within", self.tolerance)
        self.facts = card.consequence()
        dots = self.card("Dots from its picture", "fibre")
        self.picture = QLabel()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setAccessibleName("Picture of the face")
        dots.outer.addWidget(self.picture)
        self.look = self.choice("Look for", LOOK_FOR, lambda v: None)
        dots.row("Look for", self.look)
        fibres = [(f.id, f.name) for f in document.catalogue.fibres.values()]
        self.fibre = self.choice("Fibre of its dots", fibres, self._take_fibre)
        dots.row("Fibre", self.fibre)
        self.colour = self.choice(
            "Colour of its dots", [(c, c or "as in the picture") for c in COLOURS], self._take_colour
        )
        dots.row("Colour", self.colour)
        row = QHBoxLayout()
        load = QPushButton("Picture of the face…")
        load.setToolTip("PNG, JPEG or SVG; filled round spots or circles become dots")
        load.clicked.connect(self._ask)
        self.seek = QPushButton("Find its dots")
        self.seek.setToolTip("In place of those that it has")
        self.seek.clicked.connect(self._find)
        for button in (load, self.seek):
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            row.addWidget(button)
        dots.outer.addLayout(row)
        pick = QPushButton("Pick its dots")
        pick.clicked.connect(lambda: self.document.select([d.id for d in self._dots()]))
        dots.outer.addWidget(pick)
        self._shown: object = None

    def face(self) -> Face | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Face)), None)

    def _dots(self) -> list[Dot]:
        face = self.face()
        return [d for d in self.plan.dots if face is not None and d.panel == face.id]

    def _set(self, what: str, **fields: object) -> None:
        face = self.face()
        if face is not None:
            self.document.edit(what, lambda plan: edits.set_fields(plan, [face.id], **fields))

    def _resize(self, **fields: float) -> None:
        """Its dots keep their places in the picture."""
        face = self.face()
        if face is not None:
            self.document.edit("Change the panel’s size", lambda plan: edits.resize_panel(plan, face.id, **fields))

    def _take_fibre(self, fibre: str) -> None:
        ids = [d.id for d in self._dots()]
        if ids:
            self.document.edit("Change fibre", lambda plan: edits.set_fields(plan, ids, fibre=fibre))

    def _take_colour(self, colour: str) -> None:
        ids = [d.id for d in self._dots()]
        if ids and colour:
            self.document.edit("Ask for a colour", lambda plan: edits.set_fields(plan, ids, colour=colour))

    def _ask(self) -> None:
        path, _ = QFileDialog.getOpenFileName(self, "Picture of the face", "", "Pictures (*.png *.jpg *.jpeg *.svg)")
        if path:
            self.load_picture(Path(path))

    def load_picture(self, path: Path) -> None:
        """Take a picture of the face in, and find its dots."""
        from gwiazda.desktop.drawings import take_in

        face = self.face()
        if face is None:
            return

        def done(name: str, data: bytes, *_: object) -> None:
            try:
                spots_of(data, str(self.look.currentData()))
            except GwiazdaError as error:
                self.document.message_stop(str(error))
                return
            kept = self.document.add_picture(name, data)
            self._fill(face, data, picture=kept)

        try:
            take_in(self.task("face"), path, done)
        except GwiazdaError as error:
            self.document.message_stop(str(error))

    def _find(self) -> None:
        face = self.face()
        if face is None or face.picture not in self.document.pictures:
            self.document.message.emit("Take in a picture of the face first.", "info")
            return
        self._fill(face, self.document.pictures[str(face.picture)])

    def _fill(self, face: Face, data: bytes, **fields: object) -> None:
        try:
            spots = spots_of(data, str(self.look.currentData()))
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        asked = str(self.colour.currentData() or "")
        model = Dot(id="dot", at=(0.0, 0.0, 0.0), fibre=str(self.fibre.currentData()), wanted_mcd=1.0)

        def change(plan: Plan) -> Plan:
            if fields:
                plan = edits.set_fields(plan, [face.id], **fields)
            return edits.fill_panel(plan, face.id, [(s.across, s.down, asked or s.colour) for s in spots], model)[0]

        if self.document.edit(f"{len(spots)} dots of a panel", change):
            self.document.message.emit(f"{counted(len(spots), 'dot')} found. Pick them to group them, or group all dots with nothing picked.", "info")  # fmt: skip

    def refresh(self) -> None:
        face = self.face()
        if face is None:
            return
        dots = self._dots()
        self.heading.setText(face.name)
        self.about.setText(f"{face.side}, {counted(len(dots), 'dot')}")
        self.name.show_value(face.name)
        self.wide.show_value(f"{face.width_mm:g}")
        self.high.show_value(f"{face.height_mm:g}")
        self.tolerance.show_value(f"{face.tolerance_mm:g} mm")
        fibre = common([d.fibre for d in dots])
        self.fibre.show_value(str(fibre) if fibre is not None else "fibre-0.5" if not dots else "several")
        colour = common([d.colour for d in dots])
        self.colour.show_value(str(colour) if colour is not None and dots else "")
        self.seek.setEnabled(face.picture is not None)
        self._show_picture(face)
        lamps = {d.lamp for d in dots if d.lamp}
        free = sum(1 for d in dots if not d.lamp)
        self.facts.setText(
            f"{counted(len(dots), 'dot')} on {counted(len(lamps), 'lamp')}{f', {free} on none' if free else ''}. Prick each hole through "
            "the template, then drill." if dots else "No dots yet: take in a picture of its face."
        )  # fmt: skip

    def _show_picture(self, face: Face) -> None:
        key = (face.picture, id(self.document.pictures))
        if key == self._shown:
            return
        self._shown = key
        data = self.document.pictures.get(face.picture or "")
        pixmap = QPixmap()
        if data is not None and data.startswith((b"\x89PNG", b"\xff\xd8")) and pixmap.loadFromData(data):
            self.picture.setPixmap(
                pixmap.scaled(250, 130, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
            )
            self.picture.show()
        else:
            self.picture.hide()
