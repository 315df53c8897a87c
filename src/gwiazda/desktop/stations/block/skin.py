"""The Block station's panel of a section: its skin layer by layer, the linings side by side, seams, patches, coats."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from gwiazda.core.assess.aims import leak_state, leak_words
from gwiazda.core.assess.choices.compare import LiningRow, compare_linings, fewest_coats, with_coats
from gwiazda.core.assess.optics.skin import SkinLayer, skin_of
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.model import Plan, Section
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.common import parts
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice
from gwiazda.desktop.forms.readers import read_size
from gwiazda.desktop.panels.panel import Card, PanelCard, button_of, clear, label
from gwiazda.desktop.stations.block.drawer import layer_colour
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import OfferButton, theme_of

FACES = tuple((f, FACE_WORDS[f]) for f in ("top", "port", "starboard", "bow", "stern"))
SHOWS = {"glaring": "glares", "seen": "shows", "may show": "may show", "unseen": "doesn’t show"}
PAINT_CARE = "Air the room and wear a mask while you spray; let each coat dry before the next."


class Chip(Guarded, QWidget):
    """A small square of a layer's own colour."""

    def __init__(self, layer: SkinLayer) -> None:
        super().__init__()
        self._layer = layer
        self.setFixedSize(QSize(15, 15))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(QPen(theme_of(self).colour("muted"), 1))
        painter.setBrush(layer_colour(self._layer, theme_of(self)))
        painter.drawRoundedRect(QRectF(0.5, 0.5, 13, 13), 2, 2)
        painter.end()


def small(text: str, name: str, take: Callable[[], object]) -> QToolButton:
    button = QToolButton()
    button.setObjectName("tool")
    button.setText(text)
    button.setFixedSize(24, 24)
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.clicked.connect(lambda _=False: take())
    return button


class SectionSkinCard(PanelCard):
    """One card of a section's skin."""

    def _do(self, what: str, change: Callable[..., Plan], *args: object) -> None:
        section: Section = self.first
        self.document.edit(what, lambda plan: change(plan, section.id, *args))


def _paints(card: PanelCard) -> list[tuple[str, str]]:
    return [("", "add…"), *((c.id, c.name) for c in card.document.catalogue.coats.values() if c.kind == "paint")]


class SkinCard(SectionSkinCard):
    """Layer by layer, what is added to it, and how dense it is in all."""

    title = "Skin, from the inside out"
    model = Section
    fields = (
        Field("lining", "Lining", Choice(parts("linings")), "What its inside is lined with: it throws the light about, and blocks some", "Change lining"),
        Field("face", "One face", Choice((("", "as the rest"), *FACES, ("bottom", FACE_WORDS["bottom"]))), "A wall that is lined otherwise than the rest",
              name="Face lined otherwise", takes=lambda card, face: card.refresh()),
        Field("face_lining", "Its lining", Choice(parts("linings", ("", "as the rest"))), "What that face alone is lined with", name="Lining of that face",
              takes=lambda card, lining: card.line_face(lining), shown=lambda card: bool(card.form.chosen("face").currentData())),
        Field("inside", "Coat inside", Choice(_paints), "One coat of paint more inside, under the lining", name="Add a coat inside",
              takes=lambda card, coat: card.add("inside", coat)),
        Field("outside", "Coat outside", Choice(_paints), "One coat of paint more outside", name="Add a coat outside",
              takes=lambda card, coat: card.add("outside", coat)),
    )  # fmt: skip

    def build(self) -> None:
        self._layers = QVBoxLayout()
        self._layers.setSpacing(3)
        self.card.outer.insertLayout(0, self._layers)
        self.words = self.card.consequence()
        self._shown: object = None

    def add(self, where: str, coat: str) -> None:
        """One coat more, inside or outside."""
        if coat:
            self._do(f"Add a coat {where}", skins.add_coats, where, coat, 1)
            self.form.chosen(where).setCurrentIndex(0)

    def line_face(self, lining: str) -> None:
        """Line one face otherwise."""
        self._do("Line one face otherwise", skins.line_face, str(self.form.chosen("face").currentData()), lining)

    def say(self) -> None:
        section: Section = self.first
        own: dict[str, str] = {x.face: x.lining for x in section.face_linings}
        self.form.chosen("face_lining").show_value(own.get(self.form.chosen("face").currentData(), ""))
        self._show_layers(section)
        leaks = (x for x in self.panel.assessment.leaks if x.section == section.id)
        worst = max(leaks, key=lambda x: x.times, default=None)
        total = sum(layer.density for layer in skin_of(self.document.catalogue, section, self.plan.kit.material))
        if worst is None:
            verdict = "Nothing of it comes near to showing."
        else:
            verdict = f"Its worst leak is <b>{figure(worst.times, 2)} ×</b> what the eye can pick out: it {SHOWS[leak_words(worst)]}."
        names = dict(FACES) | {"bottom": "floor"}
        linings = self.document.catalogue.linings
        other = "".join(f" The {names[f]} is lined {linings[x].name}." for f, x in own.items() if x in linings)
        self.words.setText(f"Density <b>{total:.2f}</b> in all. {verdict}{other} {PAINT_CARE}")

    def _show_layers(self, section: Section) -> None:
        shown = (section.id, section.lining, section.lining_coats, section.inside, section.outside, section.material,
                 section.wall_mm, self.plan.kit.material)  # fmt: skip
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._layers)
        counts = {"inside": len(section.inside), "outside": 0}
        for layer in skin_of(self.document.catalogue, section, self.plan.kit.material):
            line = QWidget()
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            row.setSpacing(4)
            row.addWidget(Chip(layer))
            text = label(f"{layer.name}, {layer.amount}" if layer.amount else layer.name)
            text.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
            text.setToolTip(f"{layer.where}: {layer.name} {layer.amount}, {layer.reflectance * 100:.0f} % back")
            row.addWidget(text, 1)
            back = f"{layer.reflectance * 100:.0f} % back" if layer.where == "lining" else f"OD {layer.density:.1f}"
            row.addWidget(label(back, "muted"))
            if layer.where in ("inside", "outside"):
                if layer.where == "inside":
                    counts["inside"] -= 1
                index = counts[layer.where]
                if layer.where == "outside":
                    counts["outside"] += 1
                self._layer_buttons(row, section, layer, index)
            elif layer.where == "lining":
                n = section.lining_coats
                row.addWidget(
                    small("–", "One lining coat less", partial(self.set, "One coat less", lining_coats=max(n - 1, 1)))
                )
                row.addWidget(
                    small("+", "One lining coat more", partial(self.set, "One coat more", lining_coats=min(n + 1, 12)))
                )
            self._layers.addWidget(line)

    def _layer_buttons(self, row: QHBoxLayout, section: Section, layer: SkinLayer, index: int) -> None:
        where = layer.where
        n = getattr(section, where)[index].coats
        row.addWidget(
            small(
                "–",
                f"One coat of {layer.name} less",
                lambda: self._do("One coat less", skins.set_coats, where, index, n - 1),
            )
        )
        row.addWidget(
            small(
                "+",
                f"One coat of {layer.name} more",
                lambda: self._do("One coat more", skins.set_coats, where, index, min(n + 1, 12)),
            )
        )
        if len(getattr(section, where)) > 1:
            # Inside, the list runs from the plastic in: one place further in is one further down here.
            step = 1 if where == "inside" else -1
            row.addWidget(
                small(
                    "↑",
                    f"{layer.name} further in",
                    lambda: self._do("Change the order", skins.move_layer, where, index, step),
                )
            )


class LiningsCard(PanelCard):
    """Three linings side by side, reckoned off the interface thread."""

    title = "Three linings, for this section"

    def build(self) -> None:
        self._schools = QVBoxLayout()
        self._schools.setSpacing(4)
        self.card.outer.insertLayout(0, self._schools)
        self._compared: object = None
        words = self.card.consequence()
        words.setText("The lamps as they burn now: mean of the windows, darkest over mean, worst wall.")

    def say(self) -> None:
        section: Section = self.first
        plan, assessment = self.document.assessed_plan, self.panel.assessment
        if plan is self._compared or section.id not in assessment.sections:
            return
        self._compared = plan
        self.panel.task("linings").ask(
            plan,
            lambda: (section.id, compare_linings(plan, assessment, section.id)),
            self._show_schools,
            self._forget_schools,
        )

    def _forget_schools(self) -> None:
        self._compared = None

    def _show_schools(self, result: tuple[str, Sequence[LiningRow]]) -> None:
        section_id, rows = result
        section = next(iter(self.items()), None)
        if section is None or section.id != section_id:
            return
        clear(self._schools)
        for row in rows:
            even = f"{row.evenness:.2f}" if row.evenness is not None else "–"
            leak = f"{figure(row.leak_times, 2)} ×" if row.leak_times >= 0.02 else "no leak"
            button = OfferButton(f"{row.name}{', as now' if row.lining == section.lining else ''}")
            button.show_outcome(f"{figure(row.mean_cd_m2)} cd/m² · {even} · {leak}", leak_state(row.leak_times))
            button.setAccessibleName(f"Line it with {button.text()}")
            button.setToolTip(f"{button.text()}. Line it so; undo takes it back")
            button.clicked.connect(lambda _=False, v=row.lining: self.set("Change lining", lining=v))
            self._schools.addWidget(button)


class FewestCoatsCard(SectionSkinCard):
    """The fewest coats that keep it tight."""

    title = "Fewest coats"

    def build(self) -> None:
        self.button(
            "Find the fewest coats that keep it tight", "For each block paint, in place of the coats inside there are now", self._find_fewest
        )  # fmt: skip
        self._fewest = QVBoxLayout()
        self.card.outer.addLayout(self._fewest)
        self._fewest_for = ""

    def say(self) -> None:
        if self._fewest_for != self.first.id:
            clear(self._fewest)

    def _find_fewest(self) -> None:
        section: Section = self.first
        clear(self._fewest)
        rows = fewest_coats(self.document.assessed_plan, self.panel.assessment, section.id)
        if not rows:
            self._fewest.addWidget(label("No paint of the catalogue keeps it tight in 8 coats.", "muted", wrap=True))
        for row in rows:
            # The number that hides it for sure, where there is one: coats come out thin and thick.
            count = row.safe_coats or row.coats
            button = OfferButton("none at all" if count == 0 else f"{counted(count, 'coat')} of {row.name}")
            if not row.safe_coats and row.coats:
                button.show_outcome("likely tight, not for sure", "look")
            else:
                likely = f"likely {row.coats} would do" if row.coats != count else f"{figure(row.times, 2)} ×"
                button.show_outcome(f"{likely}, tight", "fine")
            button.setToolTip("Takes the place of the coats inside; undo takes it back")
            button.clicked.connect(
                lambda _=False, r=row, n=count: self._do("Take the fewest coats", with_coats, r.coat, n)
            )
            self._fewest.addWidget(button)
        self._fewest_for = section.id


class SeamsCard(SectionSkinCard):
    """Seams and hinges: how wide they gape, and what covers them."""

    title = "Seams and hinges"
    fields = (
        Field("seam", "Seam", Choice((("", "add round the…"), *FACES)), "Where two parts meet and light may come out", name="Add a seam",
              takes=lambda card, face: card.add(face)),
    )  # fmt: skip

    def build(self) -> None:
        self._seams = QVBoxLayout()
        self.card.outer.addLayout(self._seams)
        self._shown: object = None

    def add(self, face: str) -> None:
        """A seam round a face."""
        if face:
            self._do("Add a seam", skins.add_seam, face)
            self.form.chosen("seam").setCurrentIndex(0)

    def say(self) -> None:
        section: Section = self.first
        if section.seams == self._shown:
            return
        self._shown = section.seams
        clear(self._seams)
        covers = [("", "open"), *((c.id, c.name) for c in self.document.catalogue.coats.values())]
        for seam in section.seams:
            row = Card("")
            gap = self.panel.value(
                f"Gap of {seam.id}", read_size,
                lambda v, i=seam.id: self._do("Change the gap", lambda p, s: skins.set_seam(p, s, i, gap_mm=v)), "0.05 mm",
            )  # fmt: skip
            gap.show_value(f"{seam.gap_mm:g} mm")
            cover = self.panel.choice(
                f"Cover of {seam.id}", covers, lambda v, i=seam.id: self._do("Cover the seam", skins.bridge, i, v)
            )
            cover.show_value(seam.bridged)
            row.row(f"Gap, {dict(FACES).get(seam.face, seam.face)}", gap)
            row.row("Covered by", cover)
            drop = button_of(
                "It isn’t there",
                "Take the seam away",
                partial(self._do, "Take the seam away", skins.drop_seam, seam.id),
            )
            row.row("", drop)
            self._seams.addWidget(row)


class PatchesCard(SectionSkinCard):
    """Patches of foil or tape inside."""

    title = "Patches inside"
    fields = (
        Field("patch", "Patch", Choice((("", "over a whole…"), *FACES)), "Foil or tape laid over part of a wall, inside", name="Add a patch",
              takes=lambda card, face: card.add(face)),
    )  # fmt: skip

    def build(self) -> None:
        self._patches = QVBoxLayout()
        self.card.outer.addLayout(self._patches)
        self._shown: object = None

    def add(self, face: str) -> None:
        """A patch over a whole face."""
        if face:
            size = self.first.box.size
            u, v = {"top": (0, 1), "port": (0, 2), "starboard": (0, 2)}.get(face, (1, 2))
            self._do("Add a patch", skins.add_patch, face, (0.0, 0.0), (size[u], size[v]), "foil-tape")
            self.form.chosen("patch").setCurrentIndex(0)

    def say(self) -> None:
        section: Section = self.first
        if section.patches == self._shown:
            return
        self._shown = section.patches
        clear(self._patches)
        kinds = [(c.id, c.name) for c in self.document.catalogue.coats.values()]
        for patch in section.patches:
            row = Card("")
            what = self.panel.choice(f"Stuff of {patch.id}", kinds, lambda v, i=patch.id: self._change_patch(i, coat=v))
            what.show_value(patch.coat)
            row.row(dict(FACES).get(patch.face, patch.face), what)
            drop = button_of(
                "Take it off", "Take the patch off", partial(self._do, "Take the patch off", skins.drop_patch, patch.id)
            )
            wide, high = (b - a for a, b in zip(patch.low, patch.high, strict=True))
            row.row(f"{wide:.0f} × {high:.0f} mm", drop)
            self._patches.addWidget(row)

    def _change_patch(self, patch_id: str, **fields: object) -> None:
        section: Section = self.first
        changed = tuple(edits.copy_checked(p, **fields) if p.id == patch_id else p for p in section.patches)
        self.set("Change the patch", patches=changed)


class SoftCard(PanelCard):
    """Glazing, and what softens the light behind it."""

    title = "Glazing, and what softens behind it"
    model = Section
    fields = (
        Field("glazing", "Glazing", Choice(lambda card: [
                  (g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in card.document.catalogue.glazings.values()
              ]), "What stands in its windows, and how much light that lets through", "Change glazing"),
        Field("soften", "Diffuser behind", Choice(lambda card: [
                  ("", "nothing"), *((g.id, g.name) for g in card.document.catalogue.glazings.values() if g.scattered >= 0.4)
              ]), "What stands behind the panes and spreads the light", "Soften", name="Softened by",
              get=lambda s: s.soften[0] if s.soften else "",
              put=lambda plan, items, v: edits.set_fields(plan, [s.id for s in items], soften=(v,) if v else ())),
    )  # fmt: skip

    def build(self) -> None:
        self.soft_words = self.card.consequence()

    def say(self) -> None:
        state = self.panel.assessment.sections.get(self.first.id)
        hot = ""
        if state and state.lit:
            even = state.hot_spot < 1.05
            hot = (
                "Its panes are evenly lit."
                if even
                else f"Worst pane: brightest {figure(state.hot_spot, 2)} × its mean."
            )
        self.soft_words.setText(hot)
