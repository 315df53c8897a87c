"""Cards of a section: what closes it, what stands inside, its openings by deck, the fewest lamps."""

from __future__ import annotations

from functools import partial
from typing import get_args

from PySide6.QtWidgets import QCheckBox, QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess.assessment import LOOK_CD_M2
from gwiazda.core.assess.light import fewest
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import decks, edits
from gwiazda.core.plan.edits import occupancy
from gwiazda.core.plan.model import Box, Closing, Glue, Obstacle, Section
from gwiazda.core.quantities import parse_number
from gwiazda.desktop.inspector.cards import Card, Panel, clear, label
from gwiazda.desktop.inspector.reading import read_mm, read_size


class SectionCard:
    """One card of a section's panel."""

    def __init__(self, panel: Panel, title: str, *stations: str) -> None:
        self.panel, self.document = panel, panel.document
        self.card = panel.card(title, *stations)

    @property
    def section(self) -> Section | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Section)), None)

    def set(self, what: str, **fields: object) -> None:
        """Set fields of all sections picked."""
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))


class ClosureCard(SectionCard):
    """What closes a section, with what, and what can still be taken off."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "How it is closed", "measure")
        card = self.card
        self.part = panel.value(
            "Closed by which part", lambda t: t.strip()[:100], lambda v: self._take(part=v), "roof, deck, other half…"
        )
        self.part.setPlaceholderText("roof, deck, other half…")
        card.row("Part", self.part)
        ways = [("", "not decided"), *((w, w) for w in get_args(Closing) if w)]
        self.by = panel.choice("Held by", ways, lambda v: self._take(by=v))
        card.row("Held by", self.by)
        glues = [("", "not decided"), *((g, g) for g in get_args(Glue) if g)]
        self.glue = panel.choice("Glue", glues, lambda v: self._take(glue=v))
        card.row("Glue", self.glue)
        self.removable = panel.value(
            "What stays removable", lambda t: t.strip()[:200], lambda v: self._take(removable=v),
            "battery hatch, nozzle, boot lid…",
        )  # fmt: skip
        self.removable.setPlaceholderText("hatch, nozzle, boot lid…")
        card.row("Comes off", self.removable)
        self.words = card.consequence()

    def _take(self, **fields: object) -> None:
        section = self.section
        if section is None:
            return
        if "by" in fields and fields["by"] != "glue":
            fields["glue"] = ""
        if fields.get("glue"):
            fields["by"] = "glue"
        closure = edits.copy_checked(section.closure, **fields)
        self.set("Change how it is closed", closure=closure)

    def refresh(self, section: Section) -> None:
        closure = section.closure
        self.part.show_value(closure.part)
        self.by.show_value(closure.by)
        self.glue.show_value(closure.glue)
        self.glue.setEnabled(closure.by in ("", "glue"))
        self.removable.show_value(closure.removable)
        if closure.by == "glue":
            after = f" Only {closure.removable} comes off after that." if closure.removable else ""
            glue = self.document.catalogue.adhesives.get(closure.glue)
            words = f"Once glued, what is inside can't be reached.{after} {glue.mind if glue is not None else ''}"
        elif closure.by:
            words = "It can be opened again."
        else:
            words = ""
        self.words.setText(words.strip())
        self.words.setVisible(bool(words))


# Bodies put in: length, breadth, height in mm, as common ones have them.
SIZES = {
    "board": (40.0, 25.0, 8.0), "pack": (58.0, 48.0, 16.0), "speaker": (28.0, 28.0, 8.0), "switch": (10.0, 6.0, 8.0),
    "interior": (30.0, 20.0, 10.0), "figure": (8.0, 8.0, 25.0), "seat": (12.0, 12.0, 16.0), "engine": (30.0, 20.0, 20.0),
}  # fmt: skip


class ObstacleCard(SectionCard):
    """Bulkheads, pins, tabs and ribs, and what is done to each; boards, packs and interiors that are put in."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "What stands inside", "measure", "wire")
        kinds = [("", "add…"), *((k, k) for k in ("bulkhead", "pin", "tab", "rib", *SIZES))]
        self.obstacle = panel.choice("Add an obstacle", kinds, self._add)
        self.card.row("Obstacle", self.obstacle)
        self._rows = QVBoxLayout()
        self.card.outer.addLayout(self._rows)
        self._shown: object = None

    def _add(self, kind: str) -> None:
        section = self.section
        if section is None or not kind:
            return
        (x, y, z), (a, b, c) = section.box.at, section.box.size
        own = {"bulkhead": (1.0, b, c * 0.5), "rib": (1.5, b, c * 0.15), **SIZES}
        size = own.get(kind, (3.0, 3.0, c * 0.4))
        box = Box(at=(x + a / 2 - size[0] / 2, y + b / 2 - size[1] / 2, z), size=size)
        new_id = edits.fresh_ids(self.panel.plan, f"{section.id}.{kind}")[0]
        made = Obstacle(id=new_id, kind=kind, box=box, reached=kind == "pack")  # type: ignore[arg-type]
        self.set(f"Add a {kind}", obstacles=(*section.obstacles, made))
        self.obstacle.setCurrentIndex(0)

    def _change(self, number: int, **fields: object) -> None:
        section = self.section
        if section is None:
            return
        if "action" in fields and fields["action"] == "remove":
            left = tuple(o for i, o in enumerate(section.obstacles) if i != number)
            self.set("Take the obstacle away", obstacles=left)
            return
        try:
            changed = edits.copy_checked(section.obstacles[number], **fields)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        self.set(
            "Change the obstacle",
            obstacles=tuple(changed if i == number else o for i, o in enumerate(section.obstacles)),
        )

    def _box(self, number: int, part: str, axis: int, value: float) -> None:
        section = self.section
        if section is None:
            return
        box = section.obstacles[number].box
        values = list(getattr(box, part))
        values[axis] = value
        self._change(number, box=edits.copy_checked(box, **{part: tuple(values)}))

    def refresh(self, section: Section) -> None:
        if self._shown == section.obstacles:
            return
        self._shown = section.obstacles
        clear(self._rows)
        panel = self.panel
        for i, o in enumerate(section.obstacles):
            row = Card("")
            words = [
                ("keep", "stays"),
                ("notch", "is notched"),
                ("file", "is filed"),
                ("cut", "is cut out"),
                ("remove", "was never there"),
            ]
            action = panel.choice(f"What is done to {o.id}", words, lambda v, n=i: self._change(n, action=v))
            action.show_value(o.action)
            row.row(o.name or f"{o.kind} {o.id.rsplit('.', 1)[-1]}", action)
            for name, values, part in (("x y z", o.box.at, "at"), ("l b h", o.box.size, "size")):
                fields = []
                for axis, value in enumerate(values):
                    read = read_mm if part == "at" else read_size
                    take = partial(self._box, i, part, axis)
                    field = panel.value(f"{name.split()[axis]} of {o.id}", read, take)
                    field.show_value(f"{value:g}")
                    fields.append(field)
                row.row(name, *fields)
            if o.kind in SIZES:
                self._body_row(row, i, o)
            self._rows.addWidget(row)

    def _body_row(self, row: Card, i: int, o: Obstacle) -> None:
        """What is asked of what is put in: a name, a wall that may be thinned, cells that are changed."""
        panel = self.panel
        name = panel.value(f"Name of {o.id}", lambda t: t.strip()[:80], lambda v: self._change(i, name=v))
        name.show_value(o.name)
        thin = panel.value(
            f"Wall of {o.id} that may be thinned", lambda t: parse_number(t, "Wall", 0, 20, "mm"), lambda v: self._change(i, thin_mm=v),
            "mm of its own wall that may be taken off where it stands too high",
        )  # fmt: skip
        thin.show_value(f"{o.thin_mm:g}")
        row.row("Name", name)
        row.row("Own wall", thin)
        if o.kind == "pack":
            reached = QCheckBox("its cells are changed")
            reached.setChecked(o.reached)
            reached.clicked.connect(lambda on: self._change(i, reached=bool(on)))
            row.row("", reached)


class AwakeCard(SectionCard):
    """Openings by deck, and the rule of who is awake."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "Which windows are lit", "measure", "light")
        self._rule = {"share": 0.6, "clump": 2.0, "seed": 1.0}
        card = self.card
        self.counts = card.consequence()
        self.awake = [
            panel.value(
                "Lit share",
                lambda t: parse_number(t, "Lit share", 0, 100, "%") / 100,
                lambda v: self._keep("share", v),
                "how many of its windows have light behind them, %",
            ),
            panel.value(
                "Grouping",
                lambda t: parse_number(t, "Grouping", 1, 50),
                lambda v: self._keep("clump", v),
                "how many neighbours go together: 1 for each by itself, up to 50",
            ),
            panel.value(
                "Pattern",
                lambda t: int(parse_number(t, "Pattern", 0, 1e9)),
                lambda v: self._keep("seed", v),
                "a number: the same one lights the same windows",
            ),
        ]
        for name, field in zip(("Lit share", "Grouping", "Pattern"), self.awake, strict=True):
            card.row(name, field)
        self.always = panel.value(
            "Rooms always lit", lambda t: t.strip()[:200], lambda v: None, "names of rooms: corridor, bridge"
        )
        self.never = panel.value(
            "Rooms always dark", lambda t: t.strip()[:200], lambda v: None, "names of rooms: store, cabin 4"
        )
        self.always.setPlaceholderText("corridor, bridge")
        self.never.setPlaceholderText("store")
        card.row("Always lit", self.always)
        card.row("Always dark", self.never)
        fill = QPushButton("Light its windows by this rule")
        fill.setToolTip("The same number gives the same pattern; port and starboard never the same")
        fill.clicked.connect(self._fill)
        card.outer.addWidget(fill)

    def _keep(self, name: str, value: object) -> None:
        self._rule[name] = float(value)  # type: ignore[arg-type]
        self.panel.refresh()

    def _fill(self) -> None:
        section = self.section
        if section is not None:
            rule = dict(self._rule)
            ids = [o.id for o in self.panel.plan.openings if o.section == section.id and not o.into]
            always = {**occupancy.names(self.always.text(), 1.0), **occupancy.names(self.never.text(), 0.0)}
            self.document.edit(
                "Light by rule",
                lambda plan: occupancy.fill(plan, ids, rule["share"], rule["clump"], int(rule["seed"]), always=always),
            )

    def refresh(self, section: Section) -> None:
        self.awake[0].show_value(f"{self._rule['share'] * 100:g} %")
        self.awake[1].show_value(f"{self._rule['clump']:g}")
        self.awake[2].show_value(f"{self._rule['seed']:g}")
        plan = self.panel.plan
        rows = [d for d in decks.decks_of(plan.sections, plan.openings) if d.section == section.id]
        stem = f"{section.name}, "
        self.counts.setText("<br>".join(f"{d.name.removeprefix(stem)}: {d.lit} of {len(d.ids)} lit" for d in rows[:12]))
        self.counts.setVisible(bool(rows))


class FewestCard(SectionCard):
    """The fewest lamps in each school of placing them."""

    def __init__(self, panel: Panel) -> None:
        super().__init__(panel, "Fewest lamps", "light")
        ask = QPushButton("Propose lamps for each school")
        ask.setToolTip("The fewest of the part of its first lamp that reach its wanted look, evenly")
        ask.clicked.connect(self._propose)
        self.card.outer.addWidget(ask)
        self._proposals = QVBoxLayout()
        self.card.outer.addLayout(self._proposals)
        self._proposed_for = ""

    def _propose(self) -> None:
        section = self.section
        if section is None:
            return
        clear(self._proposals)
        plan, assessment = self.panel.plan, self.panel.assessment
        mine = [p for p in plan.lamps if (s := assessment.lamps.get(p.id)) is not None and s.section == section.id]
        part = mine[0].part if mine else "chip-1206-warm-white"
        # The assessment may still be on its way for a section that is new.
        state = assessment.sections.get(section.id)
        wanted = (state.wanted_cd_m2 if state else 0.0) or LOOK_CD_M2["normal"]
        proposals = fewest.propose(self.document.catalogue, plan, section.id, part, wanted)
        if not proposals:
            self._proposals.addWidget(label("It has no lit window yet.", "muted"))
        for proposal in proposals:
            lamps = "1 lamp" if proposal.lamp_count == 1 else f"{proposal.lamp_count} lamps"
            reach = "" if proposal.reached >= 1 else f", only {proposal.reached * 100:.0f} % bright"
            words = f"{lamps} {fewest.SCHOOLS[proposal.school]}: {proposal.evenness:.2f} even{reach}"
            button = QPushButton(words)
            button.setObjectName("proposal")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{words}. Takes the place of the lamps it has; undo takes it back")
            button.clicked.connect(lambda _=False, p=proposal: self._take(p))
            self._proposals.addWidget(button)
        self._proposed_for = section.id

    def _take(self, proposal: fewest.Proposal) -> None:
        section = self.section
        if section is not None:
            self.document.edit("Take the proposed lamps", lambda plan: fewest.take(plan, section.id, proposal))

    def refresh(self, section: Section) -> None:
        if self._proposed_for != section.id:
            clear(self._proposals)
            self._proposed_for = ""
