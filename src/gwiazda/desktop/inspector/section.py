"""Panel for sections."""

from __future__ import annotations

import re

from PySide6.QtWidgets import QPushButton, QSizePolicy, QVBoxLayout

from gwiazda.core.assess import fewest
from gwiazda.core.assess.assessment import LOOK_CD_M2
from gwiazda.core.assess.effort import effort_of
from gwiazda.core.errors import GwiazdaError, QuantityError
from gwiazda.core.parts.catalogue import glazings, linings
from gwiazda.core.plan import edits, occupancy, patterns
from gwiazda.core.plan.models import PLANES, Box, Obstacle, Plan, Section, Side, Wanted
from gwiazda.core.quantities import parse_number
from gwiazda.desktop.inspector.cards import Card, Panel, common, label
from gwiazda.desktop.inspector.reading import LOOKS, read_mm, read_size

SCHOOLS_OF_WORK = (("drill", "drilling and glazing"), ("mask", "masking and spraying"), ("scratch", "scratching free"))


def read_grid(text: str) -> tuple[int, int]:
    """``12 x 3`` as columns and rows."""
    match = re.fullmatch(r"\s*(\d{1,4})\s*[x×*]\s*(\d{1,3})\s*", text)
    if not match:
        raise QuantityError("Grid", f"“{text.strip()}” is not a grid", "columns x rows, such as 12 x 3")
    return int(match.group(1)), int(match.group(2))


def read_ring(text: str) -> tuple[int, float]:
    """``16 on 12 mm`` as count and radius."""
    match = re.fullmatch(r"\s*(\d{1,4})\s+on\s+(.+)", text)
    if not match:
        raise QuantityError("Ring", f"“{text.strip()}” is not a ring", "a count and a radius, such as 16 on 12 mm")
    return int(match.group(1)), read_size(match.group(2))


class SectionPanel(Panel):
    """A section: inner box, lining, glazing and the look of all its lamps."""

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._rule = {"share": 0.6, "clump": 2.0, "seed": 1.0}
        card = self.card("Inner box")
        self.name = self.value("Name", lambda t: t.strip()[:100], lambda v: self._set("Rename", name=v))
        card.row("Name", self.name)
        self.sizes = [
            self.value(
                f"{w} in mm",
                read_size,
                lambda v, i=i: self._take_size(i, v),
                f"inner {w}, from the callipers",
            )
            for i, w in enumerate(("length", "breadth", "height"))
        ]
        card.row("l b h, mm", *self.sizes)
        self.corner = [
            self.value(f"{a} of the lowest corner", read_mm, lambda v, i=i: self._take_corner(i, v))
            for i, a in enumerate("xyz")
        ]
        card.row("Corner", *self.corner)
        self.wall = self.value(
            "Wall thickness", read_size, lambda v: self._set("Change wall", wall_mm=v), "1.2 mm or 1/16 in"
        )
        card.row("Wall, mm", self.wall)
        inside = self.card("Inside")
        self.lining = self.choice(
            "Lining",
            [(g.id, f"{g.name}, {g.reflectance * 100:.0f} % back") for g in linings().values()],
            lambda v: self._set("Change lining", lining=v),
        )
        inside.row("Lining", self.lining)
        self.glazing = self.choice(
            "Glazing",
            [(g.id, f"{g.name}, {g.transmittance * 100:.0f} %") for g in glazings().values()],
            lambda v: self._set("Change glazing", glazing=v),
        )
        inside.row("Glazing", self.glazing)
        self.look = self.choice("Look of all its lamps", (*LOOKS, ("figure", "a figure")), self._take_look)
        inside.row("Look", self.look)
        self.facts = inside.consequence()
        self._opening_card()
        self._fewest_card()
        self._obstacle_card()

    def _opening_card(self) -> None:
        card = self.card("Openings and who is awake")
        self.grid = self.value(
            "Grid", read_grid, self._take_grid, "12 x 3: columns and rows over the wall that is shown"
        )
        card.row("Grid", self.grid)
        self.ring = self.value("Ring", read_ring, self._take_ring, "16 on 12 mm: windows round a circle")
        card.row("Ring", self.ring)
        self.grid.setPlaceholderText("12 x 3")
        self.ring.setPlaceholderText("16 on 12 mm")
        self.awake = [
            self.value(
                "Share lit", lambda t: parse_number(t, "Share lit", 0, 100, "%") / 100, lambda v: self._keep("share", v)
            ),
            self.value("Clump", lambda t: parse_number(t, "Clump", 1, 50), lambda v: self._keep("clump", v)),
            self.value("Seed", lambda t: int(parse_number(t, "Seed", 0, 1e9)), lambda v: self._keep("seed", v)),
        ]
        card.row("% clump seed", *self.awake)
        fill = QPushButton("Light its windows by this rule")
        fill.setToolTip("The same seed gives the same pattern; port and starboard never the same")
        fill.clicked.connect(self._fill)
        card.outer.addWidget(fill)
        self.school = self.choice(
            "School of window work", SCHOOLS_OF_WORK, lambda v: self._set("Change school", school=v)
        )
        card.row("Made by", self.school)
        self.work = card.consequence()

    def _obstacle_card(self) -> None:
        card = self.card("What stands inside")
        kinds = [("", "add…"), *((k, k) for k in ("bulkhead", "pin", "tab", "rib"))]
        self.obstacle = self.choice("Add an obstacle", kinds, self._add_obstacle)
        card.row("Obstacle", self.obstacle)
        self._obstacle_rows = QVBoxLayout()
        card.outer.addLayout(self._obstacle_rows)
        self._obstacles_shown: object = None

    def _add_obstacle(self, kind: str) -> None:
        section = self.section()
        if section is None or not kind:
            return
        (x, y, z), (a, b, c) = section.box.at, section.box.size
        size = {"bulkhead": (1.0, b, c * 0.5), "rib": (1.5, b, c * 0.15)}.get(kind, (3.0, 3.0, c * 0.4))
        number = 1 + max((int(o.id.rsplit(".", 1)[-1]) for o in section.obstacles), default=0)
        box = Box(at=(x + a / 2 - size[0] / 2, y + b / 2 - size[1] / 2, z), size=size)
        made = Obstacle(id=f"{section.id}.{kind}.{number:02d}", kind=kind, box=box)  # type: ignore[arg-type]
        self._set(f"Add a {kind}", obstacles=(*section.obstacles, made))
        self.obstacle.setCurrentIndex(0)

    def _change_obstacle(self, number: int, **fields: object) -> None:
        section = self.section()
        if section is None:
            return
        if "action" in fields and fields["action"] == "remove":
            left = tuple(o for i, o in enumerate(section.obstacles) if i != number)
            self._set("Take the obstacle away", obstacles=left)
            return
        try:
            changed = edits.revise(section.obstacles[number], **fields)
        except GwiazdaError as error:
            self.document.message_stop(str(error))
            return
        rest = tuple(changed if i == number else o for i, o in enumerate(section.obstacles))
        self._set("Change the obstacle", obstacles=rest)

    def _show_obstacles(self, section: Section) -> None:
        if self._obstacles_shown == section.obstacles:
            return
        self._obstacles_shown = section.obstacles
        while self._obstacle_rows.count():
            widget = self._obstacle_rows.takeAt(0).widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for i, o in enumerate(section.obstacles):
            row = Card("")
            words = [
                ("keep", "stays"),
                ("notch", "is notched"),
                ("file", "is filed"),
                ("cut", "is cut out"),
                ("remove", "was never there"),
            ]
            action = self.choice(f"What is done to {o.id}", words, lambda v, n=i: self._change_obstacle(n, action=v))
            action.show_value(o.action)
            row.row(f"{o.kind} {o.id.rsplit('.', 1)[-1]}", action)
            for name, values, part in (("x y z", o.box.at, "at"), ("l b h", o.box.size, "size")):
                fields = []
                for axis, value in enumerate(values):
                    read = read_mm if part == "at" else read_size
                    take = lambda v, n=i, p=part, k=axis: self._obstacle_box(n, p, k, float(v))  # type: ignore[misc,arg-type]  # noqa: E731
                    field = self.value(f"{name.split()[axis]} of {o.id}", read, take)
                    field.show_value(f"{value:g}")
                    fields.append(field)
                row.row(name, *fields)
            self._obstacle_rows.addWidget(row)

    def _obstacle_box(self, number: int, part: str, axis: int, value: float) -> None:
        section = self.section()
        if section is None:
            return
        box = section.obstacles[number].box
        values = list(getattr(box, part))
        values[axis] = value
        self._change_obstacle(number, box={**box.model_dump(), part: tuple(values)})

    def _fewest_card(self) -> None:
        card = self.card("Fewest lamps")
        ask = QPushButton("Propose lamps for each school")
        ask.setToolTip("The fewest of the part of its first lamp that reach its wanted look, evenly")
        ask.clicked.connect(self._propose)
        card.outer.addWidget(ask)
        self._proposals = QVBoxLayout()
        card.outer.addLayout(self._proposals)
        self._proposed_for = ""

    def _keep(self, name: str, value: object) -> None:
        self._rule[name] = float(value)  # type: ignore[arg-type]
        self.refresh()

    def _fill(self) -> None:
        section = self.section()
        if section is not None:
            rule = dict(self._rule)
            ids = [o.id for o in self.plan.openings if o.section == section.id]
            self.document.edit(
                "Light by rule",
                lambda plan: occupancy.fill(plan, ids, rule["share"], rule["clump"], int(rule["seed"])),
            )

    def _side(self) -> Side:
        return self.document.shown_side

    def _take_grid(self, value: object) -> None:
        section, side = self.section(), self._side()
        if section is None:
            return
        columns, rows = value  # type: ignore[misc]
        h, v, _ = PLANES[side]
        low, size = section.box.at, section.box.size
        inset_h, inset_v = size[h] * 0.06, size[v] * 0.2
        start = (low[h] + inset_h, low[v] + (inset_v if rows > 1 else size[v] / 2))
        end = (low[h] + size[h] - inset_h, low[v] + size[v] - inset_v)
        self.document.edit(
            f"Add a grid of {columns} × {rows}",
            lambda plan: patterns.add_grid(plan, section, side, start, end, columns, rows)[0],
        )
        self.grid.setText("")

    def _take_ring(self, value: object) -> None:
        section, side = self.section(), self._side()
        if section is None:
            return
        count, radius = value  # type: ignore[misc]
        h, v, _ = PLANES[side]
        centre = (section.box.centre[h], section.box.centre[v])
        self.document.edit(
            f"Add a ring of {count}", lambda plan: patterns.add_ring(plan, section, side, centre, radius, count)[0]
        )
        self.ring.setText("")

    def _propose(self) -> None:
        section = self.section()
        if section is None:
            return
        self._clear_proposals()
        mine = [p for p in self.plan.lamps if (s := self.found.lamps.get(p.id)) is not None and s.section == section.id]
        part = mine[0].part if mine else "chip-1206-warm-white"
        # The assessment may still be on its way for a section that is new.
        state = self.found.sections.get(section.id)
        wanted = (state.wanted_cd_m2 if state else 0.0) or LOOK_CD_M2["normal"]
        found = fewest.propose(self.plan, section.id, part, wanted)
        if not found:
            self._proposals.addWidget(label("It has no lit window yet.", "muted"))
        for proposal in found:
            lamps = "1 lamp" if proposal.lamp_count == 1 else f"{proposal.lamp_count} lamps"
            reach = "" if proposal.reached >= 1 else f", only {proposal.reached * 100:.0f} % bright"
            words = f"{lamps} {fewest.SCHOOLS[proposal.school]}: {proposal.evenness:.2f} even{reach}"
            button = QPushButton(words)
            button.setObjectName("proposal")
            button.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
            button.setToolTip(f"{words}. Takes the place of the lamps it has; undo takes it back")
            button.clicked.connect(lambda _=False, p=proposal: self._take_proposal(p))
            self._proposals.addWidget(button)
        self._proposed_for = section.id

    def _take_proposal(self, proposal: fewest.Proposal) -> None:
        section = self.section()
        if section is not None:
            self.document.edit("Take the proposed lamps", lambda plan: fewest.take(plan, section.id, proposal))

    def _clear_proposals(self) -> None:
        while self._proposals.count():
            item = self._proposals.takeAt(0).widget()
            if item is not None:
                item.hide()
                item.deleteLater()

    def section(self) -> Section | None:
        return next((i for i in self.document.selected_items() if isinstance(i, Section)), None)

    def _set(self, what: str, **fields: object) -> None:
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(what, lambda plan: edits.set_fields(plan, ids, **fields))

    def _take_size(self, axis: int, value: object) -> None:
        self._take_box(axis, size=float(value))  # type: ignore[arg-type]

    def _take_corner(self, axis: int, value: object) -> None:
        self._take_box(axis, corner=float(value))  # type: ignore[arg-type]

    def _take_box(self, axis: int, size: float | None = None, corner: float | None = None) -> None:
        section = self.section()
        if section is None:
            return
        plain = section.outlines == edits.outline_from_box(section).outlines
        sizes, at = list(section.box.size), list(section.box.at)
        if size is not None:
            # The middle stays where it is.
            at[axis] += (sizes[axis] - size) / 2
            sizes[axis] = size
        if corner is not None:
            at[axis] = corner

        def change(plan: Plan) -> Plan:
            fresh = edits.revise(section, box=edits.revise(section.box, at=tuple(at), size=tuple(sizes)))
            # Outlines that are no more than the box follow it; traced ones stay.
            return edits.replace(plan, {section.id: edits.outline_from_box(fresh) if plain else fresh})

        self.document.edit("Change inner box", change)

    def _take_look(self, value: str) -> None:
        if value == "figure":
            self.refresh()
            return
        ids = [i.id for i in self.document.selected_items() if isinstance(i, Section)]
        self.document.edit(
            "Change look", lambda plan: edits.set_wanted(plan, ids, Wanted.model_validate({"look": value}))
        )

    def refresh(self) -> None:
        section = self.section()
        if section is None:
            return
        self._show_obstacles(section)
        state = self.found.sections.get(section.id)
        if self._proposed_for != section.id:
            self._clear_proposals()
            self._proposed_for = ""
        self.awake[0].show_value(f"{self._rule['share'] * 100:g}")
        self.awake[1].show_value(f"{self._rule['clump']:g}")
        self.awake[2].show_value(f"{self._rule['seed']:g}")
        self.school.show_value(section.school)
        work = next((e for e in effort_of(self.plan) if e.section == section.id), None)
        self.work.setText(
            f"{work.panes} panes, {work.holes} holes, {work.joints} joints: about <b>{work.hours:.1f} h</b> of work."
            if work
            else ""
        )
        self.heading.setText(section.name)
        x, y, z = section.box.size
        count = sum(o.section == section.id for o in self.plan.openings)
        self.about.setText(
            f"box {x:.4g} × {y:.4g} × {z:.4g} mm, {count} openings" + (f", {state.lit} lit" if state else "")
        )
        self.name.show_value(section.name)
        for field, value in zip(self.sizes, section.box.size, strict=True):
            field.show_value(f"{value:g}")
        for field, value in zip(self.corner, section.box.at, strict=True):
            field.show_value(f"{value:g}")
        self.wall.show_value(f"{section.wall_mm:g}")
        self.lining.show_value(section.lining)
        self.glazing.show_value(section.glazing)
        inside = [
            p for p in self.plan.lamps if (s := self.found.lamps.get(p.id)) is not None and s.section == section.id
        ]
        self.look.setEnabled(bool(inside))
        self.look.show_value(str(common([p.wanted.look or "figure" for p in inside]) or ""))
        if state is None or not inside:
            self.facts.setText("No lamp inside yet: press L and click in it.")
        else:
            even = (
                f" Darkest window by estimate {state.evenness:.2f} of the mean." if state.evenness is not None else ""
            )
            self.facts.setText(
                f"<b>{state.mean_cd_m2:.3g} cd/m²</b> of {state.wanted_cd_m2:.3g} wanted, from {state.lamps} {'lamp' if state.lamps == 1 else 'lamps'} giving "
                f"{state.flux_lm:.3g} lm; walls throw {state.reflectance * 100:.1f} % back.{even}"
            )
