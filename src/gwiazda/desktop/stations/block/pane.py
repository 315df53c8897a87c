"""Cards of an opening: the picture of its pane, and the colour desk of its lens."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from gwiazda.core.assess.optics.panes import Picture, picture_of, swatches_of
from gwiazda.core.colour.recipes import Recipe, nearest
from gwiazda.core.colour.tint import COLOURS
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Opening, TintCoat
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.core.render.tone import from_srgb, middle_luminance, to_srgb
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.panels.panel import PanelCard, clear, label
from gwiazda.desktop.theme.fonts import figure_font
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import theme_of

SWATCH = QSize(58, 40)
DIMMED = 0.45  # in the dark room, where nothing may spoil the eye


def screen_colour(rgb: tuple[float, float, float], cd_m2: float, middle: float) -> QColor:
    """A light of a luminance as the night side shows it: ``middle`` comes out middle grey, brighter ones roll off."""
    value = np.array(rgb) * max(cd_m2, 0.0) / max(middle, 1e-9) * 0.18
    shown = to_srgb(np.asarray(value / (1.0 + value)))
    return QColor.fromRgbF(*(float(min(max(c, 0.0), 1.0)) for c in shown))


class PanePicture(Guarded, QWidget):
    """Luminance over a pane, as seen from straight outside."""

    def __init__(self) -> None:
        super().__init__()
        self._picture: Picture | None = None
        self._image: QImage | None = None
        self.setFixedHeight(92)

    def show_picture(self, picture: Picture | None) -> None:
        self._picture = picture
        self.setVisible(picture is not None)
        if picture is not None:
            top = max(float(picture.cd_m2.max()), 1e-9)
            mean = max(picture.mean_cd_m2, 1e-9)
            value = picture.cd_m2[..., None] * np.array(picture.rgb) / mean * 0.35
            shown = to_srgb(np.asarray(value / (1.0 + value)))
            pixels = np.ascontiguousarray(np.clip(shown * 255.0, 0, 255).astype(np.uint8))
            rows, columns = pixels.shape[:2]
            self._image = QImage(pixels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
            self.setAccessibleName(f"Pane: brightest {figure(top)} cd/m², {figure(picture.hot_spot, 2)} times its mean")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if self._picture is None or self._image is None:
            return
        painter, p = QPainter(self), theme_of(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(p.colour("night"))
        painter.drawRoundedRect(QRectF(0, 0, self.width(), self.height()), 5, 5)
        o = self._picture.opening
        k = min((self.width() - 110) / o.width_mm, (self.height() - 18) / o.height_mm)
        box = QRectF(9, 9, o.width_mm * k, o.height_mm * k)
        box.moveCenter(QRectF(0, 0, self.width() - 96, self.height()).center())
        rim = QPainterPath()
        if o.shape == "round":
            rim.addEllipse(box)
        elif o.shape == "slot":
            rim.addRoundedRect(box, min(box.width(), box.height()) / 2, min(box.width(), box.height()) / 2)
        else:
            rim.addRect(box)
        painter.save()
        painter.setClipPath(rim)
        painter.setOpacity(DIMMED if p.name == "darkroom" else 1.0)
        painter.drawImage(box, self._image)
        painter.restore()
        painter.setPen(QPen(p.colour("night_ink"), 1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(rim)
        painter.setFont(figure_font(13))
        x = self.width() - 94
        for i, words in enumerate(
            (
                f"{figure(float(self._picture.cd_m2.max()))} cd/m²",
                f"mean {figure(self._picture.mean_cd_m2)}",
                f"spot {figure(self._picture.hot_spot, 2)} ×",
            )
        ):
            painter.drawText(x, 30 + 20 * i, words)
        painter.end()


class Swatch(Guarded, QWidget):
    """A colour as it is seen, with its words below."""

    def __init__(self) -> None:
        super().__init__()
        self._colour, self._words = QColor("black"), ""
        self.setFixedHeight(62)
        self.setMinimumWidth(SWATCH.width())

    def show_colour(self, colour: QColor, words: str) -> None:
        self._colour, self._words = colour, words
        self.setAccessibleName(f"{words}: {colour.name()}")
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p = theme_of(self)
        painter.setPen(QPen(p.colour("line"), 1))
        painter.setBrush(self._colour if p.name == "bench" else self._colour.darker(220))
        painter.drawRoundedRect(QRectF(0.5, 0.5, self.width() - 1, 40), 5, 5)
        painter.setFont(figure_font(12))
        painter.setPen(p.colour("muted"))
        painter.drawText(QRectF(0, 43, self.width(), 18), Qt.AlignmentFlag.AlignCenter, self._words)
        painter.end()


class PaneCard(PanelCard):
    """The pane as it is lit, and what is seen behind it."""

    title = "The pane, from straight outside"

    def build(self) -> None:
        self.picture = PanePicture()
        self.card.outer.addWidget(self.picture)
        self.words = self.card.consequence()

    def say(self) -> None:
        first: Opening = self.first
        found = picture_of(self.panel.document.assessed_plan, self.panel.assessment, first.id)
        self.picture.show_picture(found)
        state = self.panel.assessment.openings.get(first.id)
        if found is None or state is None:
            round_it = state is not None and first.lit == 0 and state.luminance_cd_m2 > 0
            self.words.setText(
                "Light comes round its edge alone, in the clear wall; from straight outside one looks at the black behind it."
                if round_it
                else "No light falls on it."
            )
            return
        sight = (
            f" <b>{name_of(self.document.assessed_plan, state.sight)}</b> stands in plain sight behind it."
            if state.sight
            else ""
        )
        spread = "evenly lit" if found.hot_spot < 1.5 else ("a soft spot" if found.hot_spot < 2.5 else "a hot spot")
        more = "" if found.hot_spot < 1.05 else f": its brightest place has {figure(found.hot_spot, 2)} × the mean"
        self.words.setText(f"{spread[:1].upper()}{spread[1:]}{more}.{sight}")


class ColourCard(PanelCard):
    """Tint coats on the lens; how it looks in the dark and in the room; recipes for a wanted colour."""

    title = "Colour desk"
    extra = True
    fields = (
        Field(
            "tint", "Tint coat", Choice((("", "add…"), *((c, c) for c in COLOURS))), "A coat of clear colour on the pane",
            name="Add a tint coat", get=lambda o: "", takes=lambda card, colour: card.add(colour),
        ),
    )  # fmt: skip

    def build(self) -> None:
        card = self.card
        self._coats = QVBoxLayout()
        self._coats.setSpacing(2)
        card.outer.addLayout(self._coats)
        row = QHBoxLayout()
        self.dark, self.room, self.warm, self.cool = Swatch(), Swatch(), Swatch(), Swatch()
        for swatch in (self.dark, self.room, self.warm, self.cool):
            row.addWidget(swatch)
        card.outer.addLayout(row)
        self.words = label("", wrap=True)
        card.outer.addWidget(self.words)
        pick = QPushButton("A colour I want…")
        pick.setToolTip("Pick it by eye; the three nearest recipes of lamp and coats follow")
        pick.clicked.connect(self._pick)
        card.outer.addWidget(pick)
        self._recipes = QVBoxLayout()
        self._recipes.setSpacing(4)
        card.outer.addLayout(self._recipes)
        self._shown: object = None

    def add(self, colour: str) -> None:
        """One coat more of a colour."""
        if colour:
            tints = list(self.first.tints)
            if tints and tints[-1].colour == colour:
                tints[-1] = edits.copy_checked(tints[-1], coats=min(tints[-1].coats + 1, 8))
            else:
                tints.append(TintCoat(colour=colour))  # type: ignore[arg-type]
            self.set("Add a tint coat", tints=tuple(tints))

    def _less(self, index: int) -> None:
        tints = list(self.first.tints)
        if tints[index].coats > 1:
            tints[index] = edits.copy_checked(tints[index], coats=tints[index].coats - 1)
        else:
            del tints[index]
        self.set("One tint coat less", tints=tuple(tints))

    def say(self) -> None:
        first: Opening = self.first
        if self._shown != (first.id, first.tints):
            if self._shown is None or self._shown[0] != first.id:  # type: ignore[index]
                clear(self._recipes)
            self._shown = (first.id, first.tints)
            clear(self._coats)
            for i, t in enumerate(first.tints):
                button = QPushButton(f"{t.colour}, {t.coats} coat{'s' if t.coats > 1 else ''}: one less")
                button.setObjectName("proposal")
                button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
                button.clicked.connect(lambda _=False, k=i: self._less(k))
                self._coats.addWidget(button)
        seen = swatches_of(self.document.assessed_plan, self.panel.assessment, first)
        middle = middle_luminance(self.panel.assessment.hull_cd_m2, self.panel.plan.room.exposure_ev)
        pairs = (
            (self.dark, "in the dark", seen.dark),
            (self.room, "in the room", seen.room),
            (self.warm, "warm lamp", seen.warm),
            (self.cool, "cool lamp", seen.cool),
        )
        for swatch, words, (rgb, cd_m2) in pairs:
            swatch.show_colour(screen_colour(rgb, cd_m2, max(middle, cd_m2 * 0.2)), words)
        self.words.setText(
            f"The coats keep <b>{seen.kept * 100:.0f} %</b> of the light; the colour is {seen.richness * 100:.0f} % rich. "
            f"Behind a warm white lamp {seen.warm_richness * 100:.0f} %, behind a cool one {seen.cool_richness * 100:.0f} %."
        )

    def _pick(self) -> None:
        from PySide6.QtWidgets import QColorDialog

        chosen = QColorDialog.getColor(QColor("#e0602a"), self.panel, "The colour it should have when lit")
        if chosen.isValid():
            self.propose(chosen)

    def propose(self, colour: QColor) -> None:
        """The three nearest recipes for a colour."""
        clear(self._recipes)
        linear = np.array([colour.redF(), colour.greenF(), colour.blueF()])
        linear = from_srgb(linear)
        lamps = {p.colour: p.spectrum for p in self.document.catalogue.lamps.values()}
        for recipe in nearest((float(linear[0]), float(linear[1]), float(linear[2])), lamps):
            coats = " over ".join(f"{n} {name}" for name, n in recipe.tints) or "no coat"
            off = "the same to the eye" if recipe.apart < 0.01 else f"{recipe.apart:.3f} off"
            button = QPushButton(f"{recipe.lamp} lamp, {coats}: {off}, {recipe.kept * 100:.0f} % kept")
            button.setObjectName("proposal")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{button.text()}. Takes the coats; the lamp you change yourself")
            button.clicked.connect(lambda _=False, r=recipe: self._take(r))
            self._recipes.addWidget(button)

    def _take(self, recipe: Recipe) -> None:
        self.set("Take the recipe’s coats", tints=tuple(TintCoat(colour=n, coats=k) for n, k in recipe.tints))  # type: ignore[arg-type]
        self.document.message.emit(f"It is meant for a {recipe.lamp} lamp behind it.", "info")
