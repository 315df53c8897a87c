"""Features: what is to glow and why, what belongs to each, and what it takes."""

from __future__ import annotations

from pathlib import Path
from typing import Any, get_args

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QCheckBox, QLabel, QPushButton, QVBoxLayout

from gwiazda.core.assess.assembly.effort import effort_of, feature_effort_of
from gwiazda.core.assess.choices.count import read_dots, versions_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Count, Effort, Feature, Plan, Purpose, copy_unchecked
from gwiazda.core.quantities import counted, format_current, parse_current_a, parse_number
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Number
from gwiazda.desktop.forms.readers import LOOKS
from gwiazda.desktop.panels.panel import Card, PanelCard, clear
from gwiazda.desktop.widgets.offer import OfferButton

PICTURE_WIDTH = 216
MINUTES = (
    ("drill_min", "drill a pane"),
    ("mask_min", "mask a pane"),
    ("scratch_min", "scratch a pane"),
    ("joint_min", "a joint"),
    ("lamp_min", "set a lamp"),
    ("dot_min", "feed a fibre"),
)


class FeatureCard(PanelCard):
    """The plan's features, each with its look, its note and its reference picture."""

    title = "Lights, and why"
    fields = (
        Field("purpose", "Add a light", Choice((("", "add…"), *((p, p) for p in get_args(Purpose)))), "What is meant to glow, and why; its parts say they belong to it",
              name="Add a feature", takes=lambda card, purpose: card.add(purpose)),
    )  # fmt: skip

    def build(self) -> None:
        self._rows = QVBoxLayout()
        self.card.outer.addLayout(self._rows)
        self._shown: object = None

    def add(self, purpose: str) -> None:
        """One more, of a purpose."""
        if purpose:
            self.document.edit("Add a feature", lambda plan: edits.add_feature(plan, purpose))
            self.form.chosen("purpose").setCurrentIndex(0)

    def _set(self, feature_id: str, **fields: object) -> None:
        self.document.edit("Change the feature", lambda plan: edits.set_feature(plan, feature_id, **fields))

    def _look(self, feature_id: str, look: str) -> None:
        self.document.edit("Change the feature’s look", lambda plan: edits.set_feature_look(plan, feature_id, look))

    def say(self) -> None:
        shown = (
            self.panel.plan.features,
            self.panel.plan.effort,
            tuple(e[1:] for e in feature_effort_of(self.panel.plan, self.panel.document.catalogue)),
        )
        if self._shown == shown:
            return
        self._shown = shown
        clear(self._rows)
        work = {e.of: e for e in feature_effort_of(self.panel.plan, self.panel.document.catalogue)}
        for f in self.panel.plan.features:
            row = self._row(f)
            e = work.get(f.id)
            words = row.consequence()
            words.setText(
                f"{counted(e.panes, 'pane')}, {counted(e.lamps, 'lamp')}, {counted(e.joints, 'joint')}: about <b>{e.hours:.1f} h</b>."
                if e
                else "Nothing belongs to it yet: pick a section or a lamp and choose it there."
            )
            self._rows.addWidget(row)

    def _row(self, f: Feature) -> Card:
        panel = self.panel
        row = Card("")
        name = panel.value(
            f"Name of {f.name}", lambda t: t.strip()[:100] or "Feature", lambda v, i=f.id: self._set(i, name=v)
        )
        name.show_value(f.name)
        look = panel.choice(f"Look of {f.name}", LOOKS, lambda v, i=f.id: self._look(i, v))
        look.setToolTip("Its lamps want it too")
        look.show_value(f.look)
        row.row(f.purpose, name)
        row.row("look", look)
        moving = QCheckBox("animated")
        moving.setChecked(f.animated)
        moving.clicked.connect(lambda on, i=f.id: self._set(i, animated=bool(on)))
        drop = QPushButton("Drop it")
        drop.clicked.connect(
            lambda _=False, i=f.id: self.document.edit("Drop the feature", lambda plan: edits.drop_feature(plan, i))
        )
        row.row("", moving, drop)
        shows = QCheckBox("its single lamps may show")
        shows.setToolTip(
            "As in a cluster of burners or a panel: a spot in a pane of it is meant, and no finding says so"
        )
        shows.setChecked(f.sources_show)
        shows.clicked.connect(lambda on, i=f.id: self._set(i, sources_show=bool(on)))
        row.row("", shows)
        others = [("", "nothing"), *((x.id, x.name) for x in panel.plan.features if x.id != f.id)]
        if len(others) > 1:
            like = panel.choice(f"What {f.name} matches", others, lambda v, i=f.id: self._set(i, matches=v))
            like.setToolTip("As bright and of the same colour: a finding says where an eye would notice a difference")
            like.show_value(f.matches)
            row.row("matches", like)
        note = panel.value(
            f"Note of {f.name}",
            lambda t: t.strip()[:2000],
            lambda v, i=f.id: self._set(i, note=v),
            "what the reference shows, and why you decided so",
        )
        note.show_value(f.note)
        note.setPlaceholderText("what the reference shows")
        row.row("note", note)
        self._count_rows(row, f)
        take = QPushButton("Another picture…" if f.picture else "Reference picture…")
        take.setAccessibleName(f"Reference picture of {f.name}")
        take.clicked.connect(lambda _=False, i=f.id: self._ask_picture(i))
        if f.picture:
            without = QPushButton("Without")
            without.setAccessibleName(f"No picture for {f.name}")
            without.clicked.connect(lambda _=False, i=f.id: self._set(i, picture=None))
            row.row("seen in", take, without)
            pixmap = QPixmap()
            if pixmap.loadFromData(self.document.pictures.get(f.picture, b"")):
                shown = QLabel()
                shown.setPixmap(pixmap.scaledToWidth(PICTURE_WIDTH, Qt.TransformationMode.SmoothTransformation))
                shown.setAccessibleName(f"Reference picture of {f.name}")
                row.outer.addWidget(shown)
        else:
            row.row("seen in", take)
        return row

    def _count_rows(self, row: Card, f: Feature) -> None:
        """The feature by numbers: dots, colours, the dead ones, and what three ways to build it take."""
        panel, catalogue = self.panel, self.document.catalogue
        count = f.count or Count()

        def put(**fields: object) -> None:
            self._set(f.id, count=copy_unchecked(count, **fields))

        dots = panel.value(
            f"Dots of {f.name}", read_dots, lambda v: put(columns=v[0], rows=v[1]), "columns x rows: 12 x 8"
        )
        dots.setPlaceholderText("12 x 8 dots")
        colours = panel.value(
            f"Colours of {f.name}", lambda t: int(parse_number(t, "Colours", 1, 12, "colours", whole=True)),
            lambda v: put(colours=v), "how many colours of dots",
        )  # fmt: skip
        dead = panel.value(
            f"Dead share of {f.name}", lambda t: parse_number(t, "Dead", 0, 99, "%") / 100.0, lambda v: put(dead_share=v),
            "per cent that stay dark",
        )  # fmt: skip
        row.row("dots", dots)
        if f.count is None:
            return
        dots.show_value(f"{count.columns} x {count.rows}")
        colours.show_value(f"{count.colours} colours" if count.colours > 1 else "1 colour")
        dead.show_value(f"{count.dead_share * 100:.0f} %")
        row.row("of", colours, dead)
        current = panel.value(
            f"Current of {f.name}", lambda t: parse_current_a(t) * 1e3, lambda v: put(current_ma=v), "of one lamp: 5 mA"
        )
        current.show_value(f"{count.current_ma:g} mA")
        part = panel.choice(
            f"Lamp of {f.name}", [(p.id, p.name) for p in catalogue.lamps.values()], lambda v: put(part=v)
        )
        part.show_value(count.part)
        row.row("each", current, part)
        empty = not any(p.feature == f.id for p in panel.plan.lamps)
        for v in versions_of(count, catalogue, panel.plan.effort):
            button = OfferButton({"full": "In full", "shared": "Shared by fibre", "faked": "Faked"}[v.way])
            button.show_outcome(f"{counted(v.lamps, 'lamp')}, {format_current(v.draw_a)}, {v.hours:.0f} h", "look")
            button.setToolTip(
                f"{counted(v.lamps, 'lamp')}, {counted(v.fibres, 'fibre')}, {counted(v.outputs, 'output')}, {counted(v.holes, 'hole')}, "
                f"{counted(v.joints, 'joint')}: {v.words}. Click to make its lamps."
            )
            button.setEnabled(empty)
            button.clicked.connect(
                lambda _=False, i=f.id, n=v.lamps, k=v.outputs: self.document.edit(
                    "Take the count", lambda plan: edits.take_count(plan, i, n, k)
                )
            )
            row.outer.addWidget(button)
            line = QLabel(
                f"{counted(v.fibres, 'fibre')}, {counted(v.outputs, 'output')}, {counted(v.joints, 'joint')}; {v.words}"
            )
            line.setObjectName("muted")
            line.setWordWrap(True)
            row.outer.addWidget(line)

    def _ask_picture(self, feature_id: str) -> None:
        from PySide6.QtWidgets import QFileDialog

        path, _ = QFileDialog.getOpenFileName(
            self.panel, "Reference picture", str(Path.home()), "Pictures (*.png *.jpg *.jpeg *.svg)"
        )
        if path:
            self.take_picture(feature_id, Path(path))

    def take_picture(self, feature_id: str, path: Path) -> None:
        """Keep a picture with the plan as a feature's reference."""
        from gwiazda.desktop.plate.drawings import take_in

        def done(name: str, data: bytes, *_: object) -> None:
            self._set(feature_id, picture=self.document.add_picture(name, data))

        try:
            take_in(self.panel.task("picture"), path, done)
        except GwiazdaError as error:
            self.document.message_stop(str(error))


class EffortCard(PanelCard):
    """Holes, panes, joints and hours, with the user's own minutes."""

    title = "Effort"
    model = Effort
    fields = tuple(
        Field(name, words.capitalize(), Number("min"), f"Your own minutes to {words}: the hours follow", "Change minutes", name=f"Minutes to {words}")
        for name, words in MINUTES
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def items(self) -> list[Any]:
        return [self.plan.effort]

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return copy_unchecked(plan, effort=edits.copy_checked(plan.effort, **fields))

    def say(self) -> None:
        plan, catalogue = self.plan, self.document.catalogue
        work = effort_of(plan, catalogue)
        text = (
            f"{sum(e.holes for e in work)} holes, {sum(e.panes for e in work)} panes, {sum(e.joints for e in work)} joints: "
            f"about <b>{sum(e.hours for e in work):.0f} h</b> at the bench."
        )
        named = {f.id: f.name for f in plan.features}
        rest = [e for e in feature_effort_of(plan, catalogue) if e.of in named or named]
        text += "".join(f"<br>{named.get(e.of, 'the rest')}: {e.hours:.1f} h" for e in rest)
        self.words.setText(text)
