"""The inspector's panel for a face with many dots: its picture, the dots found in it, and what they have in common."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QFileDialog, QLabel

from gwiazda.core.assess.fibres.faces import circles_in
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.fibre.panel import Spot, spots_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Dot, Plan
from gwiazda.core.plan.model import Panel as Face
from gwiazda.core.quantities import counted
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Text, millimetres
from gwiazda.desktop.panels.panel import Panel, PanelCard, button_of, common, side_by_side
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


def heading(panel: Panel) -> tuple[str, str]:
    face: Face = panel.items()[0]
    return face.name, f"{face.side}, {counted(len(dots_of(panel.plan, face)), 'dot')}"


def dots_of(plan: Plan, face: Face) -> list[Dot]:
    """The dots of a panel's face."""
    return [d for d in plan.dots if d.panel == face.id]


def _resized(path: str) -> Callable[[Plan, list[Face], float], Plan]:
    """A ``put`` that gives a panel another size: its dots keep their places in the picture."""
    return lambda plan, items, value: edits.resize_panel(plan, items[0].id, **{path: value})


class FaceCard(PanelCard):
    """Name, size and print of a panel."""

    title = "Panel"
    model = Face
    fields = (
        Field("name", "Name", Text(100, empty="Panel"), "What the panel is called everywhere", "Rename the panel"),
        Field("width_mm", "Width", millimetres(), "Of the face, on the model", "Change the panel’s size", put=_resized("width_mm")),
        Field("height_mm", "Height", millimetres(), "Of the face, on the model", "Change the panel’s size", put=_resized("height_mm")),
        Field("tolerance_mm", "Print within", millimetres(), "How far a hole may be off before it shows beside its printed lamp", "Change tolerance",
              name="How exact the print is"),
    )  # fmt: skip

    def build(self) -> None:
        self.facts = self.card.consequence()

    def say(self) -> None:
        dots = dots_of(self.plan, self.first)
        lamps = {d.lamp for d in dots if d.lamp}
        free = sum(1 for d in dots if not d.lamp)
        self.facts.setText(
            f"{counted(len(dots), 'dot')} on {counted(len(lamps), 'lamp')}{f', {free} on none' if free else ''}. Prick each hole through "
            "the template, then drill." if dots else "No dots yet: take in a picture of its face."
        )  # fmt: skip


class FaceDotsCard(PanelCard):
    """Dots found in its picture, and what they have in common."""

    title = "Dots from its picture"
    fields = (
        Field("look", "Look for", Choice(LOOK_FOR), "Which spots of the picture become dots", takes=lambda card, v: None),
        Field("fibre", "Fibre", Choice(parts("fibres")), "The fibre of all its dots", name="Fibre of its dots", takes=lambda card, v: card.take(fibre=v)),
        Field("colour", "Colour", Choice([(c, c or "as in the picture") for c in COLOURS]), "The colour asked of all its dots", name="Colour of its dots",
              takes=lambda card, v: card.take(colour=v) if v else None),
    )  # fmt: skip

    def build(self) -> None:
        self.picture = QLabel()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setAccessibleName("Picture of the face")
        self.card.outer.insertWidget(0, self.picture)
        load = button_of(
            "Picture of the face…", "PNG, JPEG or SVG; filled round spots or circles become dots", self._ask
        )
        self.seek = button_of("Find its dots", "In place of those that it has", self._find)
        self.card.outer.addLayout(side_by_side(load, self.seek))
        self.button("Pick its dots", "Pick all of them", lambda: self.document.select([d.id for d in self.dots()]))
        self._shown: object = None

    def dots(self) -> list[Dot]:
        """Its dots."""
        return dots_of(self.plan, self.first)

    def take(self, **fields: str) -> None:
        """Set what its dots have in common."""
        ids = [d.id for d in self.dots()]
        if ids:
            self.document.edit(f"Change the {next(iter(fields))}", lambda plan: edits.set_fields(plan, ids, **fields))

    def _ask(self) -> None:
        path, _ = QFileDialog.getOpenFileName(
            self.panel, "Picture of the face", "", "Pictures (*.png *.jpg *.jpeg *.svg)"
        )
        if path:
            self.load_picture(Path(path))

    def load_picture(self, path: Path) -> None:
        """Take a picture of the face in, and find its dots."""
        from gwiazda.desktop.plate.drawings import take_in

        face: Face = self.first

        def done(name: str, data: bytes, *_: object) -> None:
            try:
                spots_of(data, str(self.form.chosen("look").currentData()))
            except GwiazdaError as error:
                self.document.message_stop(str(error))
                return
            kept = self.document.add_picture(name, data)
            self._fill(face, data, picture=kept)

        try:
            take_in(self.panel.task("face"), path, done)
        except GwiazdaError as error:
            self.document.message_stop(str(error))

    def _find(self) -> None:
        face: Face = self.first
        if face.picture not in self.document.pictures:
            self.document.message.emit("Take in a picture of the face first.", "info")
            return
        self._fill(face, self.document.pictures[str(face.picture)])

    def _fill(self, face: Face, data: bytes, **fields: object) -> None:
        try:
            spots = spots_of(data, str(self.form.chosen("look").currentData()))
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        asked = str(self.form.chosen("colour").currentData() or "")
        model = Dot(id="dot", at=(0.0, 0.0, 0.0), fibre=str(self.form.chosen("fibre").currentData()), wanted_mcd=1.0)

        def change(plan: Plan) -> Plan:
            if fields:
                plan = edits.set_fields(plan, [face.id], **fields)
            return edits.fill_panel(plan, face.id, [(s.across, s.down, asked or s.colour) for s in spots], model)[0]

        if self.document.edit(f"{len(spots)} dots of a panel", change):
            self.document.message.emit(f"{counted(len(spots), 'dot')} found. Pick them to group them, or group all dots with nothing picked.", "info")  # fmt: skip

    def say(self) -> None:
        face: Face = self.first
        dots = self.dots()
        fibre = common([d.fibre for d in dots])
        self.form.chosen("fibre").show_value(
            str(fibre) if fibre is not None else "fibre-0.5" if not dots else "several"
        )
        colour = common([d.colour for d in dots])
        self.form.chosen("colour").show_value(str(colour) if colour is not None and dots else "")
        self.seek.setEnabled(face.picture is not None)
        self._show_picture(face)

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
