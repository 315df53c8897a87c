"""The Block station's panel of a section: its skin layer by layer, the linings side by side, seams, patches, coats."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from gwiazda.core.assess.light.compare import LiningRow, compare_linings, fewest_coats, with_coats
from gwiazda.core.assess.light.skin import SkinLayer, skin_of
from gwiazda.core.assess.meters import leak_state, leak_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.model import Section
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.document import Document
from gwiazda.desktop.inspector.cards import Card, Panel, clear, label
from gwiazda.desktop.inspector.reading import read_size
from gwiazda.desktop.stations.block.drawer import layer_colour
from gwiazda.desktop.widgets.guard import Guarded
from gwiazda.desktop.widgets.offer import OfferButton, theme_of

FACES = (
    ("top", "roof"),
    ("port", "port wall"),
    ("starboard", "starboard wall"),
    ("bow", "front wall"),
    ("stern", "end wall"),
)
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


def small(text: str, name: str, take) -> QToolButton:  # type: ignore[no-untyped-def]
    button = QToolButton()
    button.setObjectName("tool")
    button.setText(text)
    button.setFixedSize(24, 24)
    button.setAccessibleName(name)
    button.setToolTip(name)
    button.clicked.connect(lambda _=False: take())
    return button


class SkinPanel(Panel):
    """A section's skin."""

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        card = self.card("Skin, from the inside out")
        self._layers = QVBoxLayout()
        self._layers.setSpacing(3)
        card.outer.insertLayout(0, self._layers)
        self.lining = self.choice(
            "Lining",
            [(x.id, x.name) for x in self.document.catalogue.linings.values()],
            lambda v: self._set("Change lining", lining=v),
        )
        card.row("Lining", self.lining)
        faces = [("", "one face…"), *FACES, ("bottom", "floor")]
        self.face = self.choice("Face lined otherwise", faces, lambda v: self.refresh())
        kinds = [("", "as the rest"), *((x.id, x.name) for x in self.document.catalogue.linings.values())]
        self.face_lining = self.choice("Lining of that face", kinds, self._line_face)
        for box in (self.face, self.face_lining):
            box.setMinimumWidth(80)  # both in one row, at any text size
        card.row("", self.face, self.face_lining)
        paints = [("", "add…"), *((c.id, c.name) for c in self.document.catalogue.coats.values() if c.kind == "paint")]
        self.inside = self.choice("Add a coat inside", paints, lambda v: self._add("inside", v))
        self.outside = self.choice("Add a coat outside", paints, lambda v: self._add("outside", v))
        card.row("Inside", self.inside)
        card.row("Outside", self.outside)
        self.words = card.consequence()
        self._school_card()
        self._fewest_card()
        self._seam_card()
        self._patch_card()
        self._soft_card()
        self._shown: object = None
        self._compared: object = None

    # -- cards -------------------------------------------------------------------------------------------

    def _school_card(self) -> None:
        card = self.card("Three linings, for this section")
        self._schools = QVBoxLayout()
        self._schools.setSpacing(4)
        card.outer.insertLayout(0, self._schools)
        self.school_words = card.consequence()
        self.school_words.setText("The lamps as they burn now: mean of the windows, darkest over mean, worst wall.")

    def _fewest_card(self) -> None:
        card = self.card("Fewest coats")
        ask = QPushButton("Find the fewest coats that keep it tight")
        ask.setToolTip("For each block paint, in place of the coats inside there are now")
        ask.clicked.connect(self._find_fewest)
        card.outer.addWidget(ask)
        self._fewest = QVBoxLayout()
        card.outer.addLayout(self._fewest)
        self._fewest_for = ""

    def _seam_card(self) -> None:
        card = self.card("Seams and hinges")
        self.seam = self.choice("Add a seam", [("", "add round the…"), *FACES], self._add_seam)
        card.row("Seam", self.seam)
        self._seams = QVBoxLayout()
        card.outer.addLayout(self._seams)

    def _patch_card(self) -> None:
        card = self.card("Patches inside")
        local = [("", "over a whole…"), *FACES]
        self.patch = self.choice("Add a patch", local, self._add_patch)
        card.row("Patch", self.patch)
        self._patches = QVBoxLayout()
        card.outer.addLayout(self._patches)

    def _soft_card(self) -> None:
        card = self.card("Glazing, and what softens behind it")
        self.glazing = self.choice(
            "Glazing",
            [(g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in self.document.catalogue.glazings.values()],
            lambda v: self._set("Change glazing", glazing=v),
        )
        card.row("Glazing", self.glazing)
        choices = [
            ("", "nothing"),
            *((g.id, g.name) for g in self.document.catalogue.glazings.values() if g.scattered >= 0.4),
        ]
        self.soften = self.choice("Softened by", choices, lambda v: self._set("Soften", soften=(v,) if v else ()))
        card.row("Diffuser behind", self.soften)
        self.soft_words = card.consequence()

    # -- edits -------------------------------------------------------------------------------------------

    def section(self) -> Section | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Section)), None)

    def _set(self, what: str, **fields: object) -> None:
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _do(self, what: str, change, *args: object) -> None:  # type: ignore[no-untyped-def]
        section = self.section()
        if section is not None:
            self.document.edit(what, lambda plan: change(plan, section.id, *args))

    def _add(self, where: str, coat: str) -> None:
        if coat:
            self._do(f"Add a coat {where}", skins.add_coats, where, coat, 1)
            (self.inside if where == "inside" else self.outside).setCurrentIndex(0)

    def _line_face(self, lining: str) -> None:
        face = str(self.face.currentData())
        if not face:
            self.document.message_stop("Choose the face first, then what it is lined with.")
            self.refresh()
            return
        self._do("Line one face otherwise", skins.line_face, face, lining)

    def _add_seam(self, face: str) -> None:
        if face:
            self._do("Add a seam", skins.add_seam, face)
            self.seam.setCurrentIndex(0)

    def _add_patch(self, face: str) -> None:
        section = self.section()
        if section is not None and face:
            size = section.box.size
            u, v = {"top": (0, 1), "port": (0, 2), "starboard": (0, 2)}.get(face, (1, 2))
            self._do("Add a patch", skins.add_patch, face, (0.0, 0.0), (size[u], size[v]), "foil-tape")
            self.patch.setCurrentIndex(0)

    def _find_fewest(self) -> None:
        section = self.section()
        if section is None:
            return
        clear(self._fewest)
        rows = fewest_coats(self.document.assessed_plan, self.assessment, section.id)
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

    # -- showing -----------------------------------------------------------------------------------------

    def refresh(self) -> None:
        section = self.section()
        if section is None:
            return
        self.heading.setText(section.name)
        state = self.assessment.sections.get(section.id)
        x, y, z = section.box.size
        self.about.setText(
            f"closed box {figure(x, 4)} × {figure(y, 4)} × {figure(z, 4)} mm"
            + (f" · {state.openings} windows, {state.lit} lit" if state else "")
        )
        self.lining.show_value(section.lining)
        own = {x.face: x.lining for x in section.face_linings}
        self.face_lining.show_value(own.get(str(self.face.currentData()), ""))  # type: ignore[call-overload]
        self.glazing.show_value(section.glazing)
        self.soften.show_value(section.soften[0] if section.soften else "")
        self._show_layers(section)
        worst = max((x for x in self.assessment.leaks if x.section == section.id), key=lambda x: x.times, default=None)
        total = sum(layer.density for layer in skin_of(self.document.catalogue, section, self.plan.kit.plastic))
        if worst is None:
            verdict = "Nothing of it comes near to showing."
        else:
            shows = {"glaring": "glares", "seen": "shows", "may show": "may show", "unseen": "doesn’t show"}[
                leak_words(worst)
            ]
            verdict = f"Its worst leak is <b>{figure(worst.times, 2)} ×</b> what the eye can pick out: it {shows}."
        names = dict(FACES) | {"bottom": "floor"}
        other = "".join(
            f" The {names[f]} is lined {self.document.catalogue.linings[x].name}."
            for f, x in own.items()
            if x in self.document.catalogue.linings
        )
        self.words.setText(f"Density <b>{total:.2f}</b> in all. {verdict}{other} {PAINT_CARE}")
        hot = ""
        if state and state.lit:
            even = state.hot_spot < 1.05
            hot = (
                "Its panes are evenly lit."
                if even
                else f"Worst pane: brightest {figure(state.hot_spot, 2)} × its mean."
            )
        self.soft_words.setText(hot)
        if self._fewest_for != section.id:
            clear(self._fewest)
        self._compare(section)

    def _show_layers(self, section: Section) -> None:
        shown = (section.id, section.lining, section.lining_coats, section.inside, section.outside, section.plastic,
                 section.wall_mm, section.seams, section.patches, self.plan.kit.plastic)  # fmt: skip
        if shown == self._shown:
            return
        self._shown = shown
        clear(self._layers)
        counts = {"inside": len(section.inside), "outside": 0}
        for layer in skin_of(self.document.catalogue, section, self.plan.kit.plastic):
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
                    small(
                        "–", "One lining coat less", lambda k=n: self._set("One coat less", lining_coats=max(k - 1, 1))
                    )
                )
                row.addWidget(
                    small(
                        "+", "One lining coat more", lambda k=n: self._set("One coat more", lining_coats=min(k + 1, 12))
                    )
                )
            self._layers.addWidget(line)
        self._show_seams(section)
        self._show_patches(section)

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

    def _show_seams(self, section: Section) -> None:
        clear(self._seams)
        covers = [("", "open"), *((c.id, c.name) for c in self.document.catalogue.coats.values())]
        for seam in section.seams:
            row = Card("")
            gap = self.value(
                f"Gap of {seam.id}", read_size,
                lambda v, i=seam.id: self._do("Change the gap", lambda p, s: skins.set_seam(p, s, i, gap_mm=v)), "0.05 mm",
            )  # fmt: skip
            gap.show_value(f"{seam.gap_mm:g}")
            cover = self.choice(
                f"Cover of {seam.id}", covers, lambda v, i=seam.id: self._do("Cover the seam", skins.bridge, i, v)
            )
            cover.show_value(seam.bridged)
            row.row(f"{dict(FACES).get(seam.face, seam.face)}, mm", gap, cover)
            drop = QPushButton("It isn’t there")
            drop.clicked.connect(lambda _=False, i=seam.id: self._do("Take the seam away", skins.drop_seam, i))
            row.row("", drop)
            self._seams.addWidget(row)

    def _show_patches(self, section: Section) -> None:
        clear(self._patches)
        kinds = [(c.id, c.name) for c in self.document.catalogue.coats.values()]
        for patch in section.patches:
            row = Card("")
            what = self.choice(f"Stuff of {patch.id}", kinds, lambda v, i=patch.id: self._change_patch(i, coat=v))
            what.show_value(patch.coat)
            row.row(dict(FACES).get(patch.face, patch.face), what)
            drop = QPushButton("Take it off")
            drop.clicked.connect(lambda _=False, i=patch.id: self._do("Take the patch off", skins.drop_patch, i))
            wide, high = (b - a for a, b in zip(patch.low, patch.high, strict=True))
            row.row(f"{wide:.0f} × {high:.0f} mm", drop)
            self._patches.addWidget(row)

    def _change_patch(self, patch_id: str, **fields: object) -> None:
        section = self.section()
        if section is not None:
            changed = tuple(edits.copy_checked(p, **fields) if p.id == patch_id else p for p in section.patches)
            self._set("Change the patch", patches=changed)

    # -- the schools, reckoned off the interface thread --------------------------------------------------

    def _compare(self, section: Section) -> None:
        plan, assessment = self.document.assessed_plan, self.assessment
        if plan is self._compared or section.id not in assessment.sections:
            return
        self._compared = plan
        self.task("linings").ask(
            plan,
            lambda: (section.id, compare_linings(plan, assessment, section.id)),
            self._show_schools,
            self._forget_schools,
        )

    def _forget_schools(self) -> None:
        self._compared = None

    def _show_schools(self, result: tuple[str, Sequence[LiningRow]]) -> None:
        section_id, rows = result
        section = self.section()
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
            button.clicked.connect(lambda _=False, v=row.lining: self._set("Change lining", lining=v))
            self._schools.addWidget(button)
