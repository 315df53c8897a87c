"""Cards of a section: what closes it, what stands inside, its openings by deck."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any, get_args

from PySide6.QtWidgets import QCheckBox, QVBoxLayout

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan import decks, edits
from gwiazda.core.plan.edits import occupancy
from gwiazda.core.plan.frame import FACE_WORDS, PLANES
from gwiazda.core.plan.model import Box, Closing, Closure, Hatch, Obstacle, Plan, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import parse_number
from gwiazda.desktop.forms.common import AXES
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Kind, Number, Text, fixed, per_cent, size, whole
from gwiazda.desktop.forms.readers import read_mm, read_size
from gwiazda.desktop.panels.panel import Card, PanelCard, clear


def _close(plan: Plan, items: list[Section], fields: dict[str, Any]) -> Plan:
    """Change how a section is closed; what isn't glued has no glue, and what has a glue is glued."""
    if "by" in fields and fields["by"] != "glue":
        fields["glue"] = ""
    if fields.get("glue"):
        fields["by"] = "glue"
    section = items[0]
    return edits.set_fields(plan, [i.id for i in items], closure=edits.copy_checked(section.closure, **fields))


def _of_closure(path: str) -> Callable[[Section], Any]:
    return lambda section: getattr(section.closure, path)


def _has_hatch(card: PanelCard) -> bool:
    return card.first.closure.hatch is not None


def _hatch_face(section: Section) -> str:
    return section.closure.hatch.face if section.closure.hatch is not None else ""


def _hatch_size(k: int) -> Callable[[Section], float | None]:
    return lambda section: section.closure.hatch.size[k] if section.closure.hatch is not None else None


def _hatched(plan: Plan, items: list[Section], **fields: Any) -> Plan:
    """Sections with another hatch: over their cells where those have a place, in the middle of a face otherwise, none without a face."""
    from gwiazda.core.assess.bodies.hatches import hatch_over  # the first picture doesn't wait for it

    for section in items:
        now = section.closure.hatch
        if fields.get("face") == "":
            plan = edits.set_hatch(plan, section.id, None)
            continue
        if now is None or "face" in fields:
            face = fields.get("face", "bottom")
            pack = next((o for o in section.obstacles if o.kind == "pack"), None)
            h, v, _ = PLANES[face]
            room = section.box.size
            middle = Hatch(
                face=face, at=(room[h] / 2, room[v] / 2), size=(min(room[h] * 0.6, 60.0), min(room[v] * 0.6, 35.0))
            )
            made = hatch_over(section, pack, face) if pack is not None else middle
            now = edits.copy_checked(made, by=now.by) if now is not None else made
        rest = {k: v for k, v in fields.items() if k != "face"}
        plan = edits.set_hatch(plan, section.id, edits.copy_checked(now, **rest))
    return plan


def _put_hatch_size(k: int) -> Callable[[Plan, list[Section], float], Plan]:
    def put(plan: Plan, items: list[Section], wide: float) -> Plan:
        for section in items:
            hatch = section.closure.hatch
            if hatch is not None:
                new = (wide, hatch.size[1]) if k == 0 else (hatch.size[0], wide)
                plan = _hatched(plan, [section], size=new)
        return plan

    return put


def _glues(card: PanelCard) -> list[tuple[str, str]]:
    """All adhesives, what holds on what the section is made of first; of the others it is said why not."""
    from gwiazda.core.assess.assembly.glues import advise, shell_of  # the first picture doesn't wait for them

    catalogue = card.document.catalogue
    shell = shell_of(catalogue, card.first, card.plan.kit.material)
    judged = advise(catalogue, shell, shell)
    return [
        ("", "not decided"),
        *((x.glue.id, x.glue.name if x.verdict == "holds" else f"{x.glue.name}: {x.why}") for x in judged),
    ]


class ClosureCard(PanelCard):
    """What closes a section, with what, and what can still be taken off."""

    title = "How it is closed"
    model = Closure
    fields = (
        Field("part", "Part", Text(100, placeholder="roof, deck, other half…"), "Which part closes it", "Change how it is closed",
              name="Closed by which part", get=_of_closure("part")),
        Field("by", "Held by", Choice((("", "not decided"), *((w, w) for w in get_args(Closing) if w))), "Glued for good, or what holds it so that it opens",
              "Change how it is closed", get=_of_closure("by")),
        Field("glue", "Glue", Choice(_glues), "Which glue: its time to set and what it harms follow",
              "Change how it is closed", get=_of_closure("glue"), enabled=lambda card: card.first.closure.by in ("", "glue")),
        Field("face", "Open until then", Choice((("", "at its seam, else the roof"), *FACE_WORDS.items())), "Which wall stays open until it is closed: what is got at is reckoned through it",
              "Change how it is closed", name="Open until closed", get=_of_closure("face")),
        Field("removable", "Comes off", Text(200, placeholder="hatch, nozzle, boot lid…"), "What can still be taken off afterwards: battery hatch, nozzle, boot lid",
              "Change how it is closed", name="What stays removable", get=_of_closure("removable")),
        Field("hatch", "Hatch in", Choice((("", "none"), *FACE_WORDS.items())), "A lid of its own, through which cells are changed", "Change the hatch",
              get=_hatch_face, put=lambda plan, items, face: _hatched(plan, items, face=face)),
        *(Field(f"hatch[{k}]", label, size(), f"Its clear opening, {words}", "Change the hatch", get=_hatch_size(k), put=_put_hatch_size(k),
                name=f"Hatch, {words}", shown=_has_hatch) for k, (label, words) in enumerate((("Hatch length", "length"), ("Hatch width", "width")))),
        Field("hatch_by", "Hatch held by", Choice(fixed("magnets", "screws", "push fit", "hinge")), "How it opens: by hand, or with a driver", "Change the hatch",
              get=lambda s: s.closure.hatch.by if s.closure.hatch is not None else "", put=lambda plan, items, by: _hatched(plan, items, by=by), shown=_has_hatch),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()

    def write(self, plan: Plan, items: list[Any], fields: dict[str, Any]) -> Plan:
        return _close(plan, items, dict(fields))

    def say(self) -> None:
        closure = self.first.closure
        if closure.by == "glue":
            after = f" Only {closure.removable} comes off after that." if closure.removable else ""
            glue = self.document.catalogue.adhesives.get(closure.glue)
            hatch = " Only the cells come out, by the hatch." if closure.hatch is not None else ""
            words = (
                f"Once glued, what is inside can't be reached.{after}{hatch} {glue.mind if glue is not None else ''}"
            )
        elif closure.by:
            words = "It can be opened again."
        else:
            words = ""
        self.words.setText(words.strip())
        self.words.setVisible(bool(words))


CORNER = tuple(f"Corner, {axis.lower()}" for axis, _ in AXES)
SIZE = ("Length", "Width", "Height")
# Bodies put in: length, breadth, height in mm, as common ones have them.
SIZES = {
    "board": (40.0, 25.0, 8.0), "pack": (58.0, 48.0, 16.0), "speaker": (28.0, 28.0, 8.0), "switch": (10.0, 6.0, 8.0),
    "motor": (36.0, 20.5, 15.5), "regulator": (19.0, 10.5, 5.0), "socket": (15.0, 11.0, 11.0), "interior": (30.0, 20.0, 10.0), "figure": (8.0, 8.0, 25.0), "seat": (12.0, 12.0, 16.0), "engine": (30.0, 20.0, 20.0),
}  # fmt: skip


class ObstacleCard(PanelCard):
    """Bulkheads, pins, tabs and ribs, and what is done to each; boards, packs and interiors that are put in."""

    title = "What stands inside"
    fields = (
        Field(
            "obstacle", "Add", Choice((("", "add…"), *((k, k) for k in ("bulkhead", "pin", "tab", "rib", *SIZES)))), "What stands in its room: lamps and wires keep clear of it",
            name="Add an obstacle", get=lambda s: "", takes=lambda card, kind: card.add(kind),
        ),
    )  # fmt: skip

    def build(self) -> None:
        self._rows = QVBoxLayout()
        self.card.outer.addLayout(self._rows)
        self._shown: object = None

    @property
    def section(self) -> Section:
        section: Section = self.first
        return section

    def add(self, kind: str) -> None:
        """Put one in the middle of it."""
        section = self.section
        if not kind:
            return
        (x, y, z), (a, b, c) = section.box.at, section.box.size
        own = {"bulkhead": (1.0, b, c * 0.5), "rib": (1.5, b, c * 0.15), **SIZES}
        size = own.get(kind, (3.0, 3.0, c * 0.4))
        box = Box(at=(x + a / 2 - size[0] / 2, y + b / 2 - size[1] / 2, z), size=size)
        new_id = edits.fresh_ids(self.plan, f"{section.id}.{kind}")[0]
        made = Obstacle(id=new_id, kind=kind, box=box, reached=kind == "pack")  # type: ignore[arg-type]
        self.set(f"Add a {kind}", obstacles=(*section.obstacles, made))

    def _change(self, number: int, **fields: object) -> None:
        section = self.section
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
        box = section.obstacles[number].box
        values = list(getattr(box, part))
        values[axis] = value
        self._change(number, box=edits.copy_checked(box, **{part: tuple(values)}))

    def say(self) -> None:
        section = self.section
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
            called = name_of(self.plan, o.id)
            action = panel.choice(f"What is done to {called}", words, lambda v, n=i: self._change(n, action=v))
            action.show_value(o.action)
            row.row(o.name or f"{o.kind} {o.id.rsplit('.', 1)[-1]}", action)
            for names, values, part in ((CORNER, o.box.at, "at"), (SIZE, o.box.size, "size")):
                for axis, value in enumerate(values):
                    read = read_mm if part == "at" else read_size
                    take = partial(self._box, i, part, axis)
                    field = panel.value(
                        f"{names[axis]} of {called}", read, take, f"{names[axis]} of what stands inside, mm"
                    )
                    field.show_value(f"{value:g} mm")
                    row.row(names[axis], field)
            if o.kind in SIZES:
                self._body_row(row, i, o, called)
            self._rows.addWidget(row)

    def _body_row(self, row: Card, i: int, o: Obstacle, called: str) -> None:
        """What is asked of what is put in: a name, a wall that may be thinned, cells that are changed."""
        panel = self.panel
        name = panel.value(f"Name of {called}", lambda t: t.strip()[:80], lambda v: self._change(i, name=v))
        name.show_value(o.name)
        thin = panel.value(
            f"Wall of {called} that may be thinned", lambda t: parse_number(t, "Wall", 0, 20, "mm"), lambda v: self._change(i, thin_mm=v),
            "mm of its own wall that may be taken off where it stands too high",
        )  # fmt: skip
        thin.show_value(f"{o.thin_mm:g} mm")
        row.row("Name", name)
        row.row("Own wall", thin)
        if o.kind == "pack":
            reached = QCheckBox("its cells are changed")
            reached.setChecked(o.reached)
            reached.clicked.connect(lambda on: self._change(i, reached=bool(on)))
            row.row("", reached)


def _rule_field(path: str, label: str, kind: Kind, help_: str) -> Field:
    """A figure of the rule, kept with the card until it is used."""
    return Field(path, label, kind, help_, takes=lambda card, v: card.keep(path, v))


class AwakeCard(PanelCard):
    """Openings by deck, and the rule by which they are lit."""

    title = "Which windows are lit"
    fields = (
        _rule_field("share", "Lit share", per_cent(0, 100), "how many of its windows have light behind them"),
        _rule_field("clump", "Grouping", Number(low=1, high=50), "how many neighbours go together: 1 for each by itself, up to 50"),
        _rule_field("seed", "Pattern", whole(0, 1e9), "a number: the same one lights the same windows"),
        _rule_field("always", "Always lit", Text(200, placeholder="corridor, bridge"), "names of rooms that have light at any time: corridor, bridge"),
        _rule_field("never", "Always dark", Text(200, placeholder="store"), "names of rooms that are never lit: store, cabin 4"),
    )  # fmt: skip

    def build(self) -> None:
        self._rule: dict[str, Any] = {"share": 0.6, "clump": 2.0, "seed": 1, "always": "", "never": ""}
        self.counts = self.card.consequence()
        self.button(
            "Light its windows by this rule", "The same number gives the same pattern; port and starboard never the same", self._fill
        )  # fmt: skip

    def keep(self, path: str, value: Any) -> None:
        """Keep a figure of the rule."""
        self._rule[path] = value
        self.refresh()

    def _fill(self) -> None:
        section, rule = self.first, dict(self._rule)
        for path in ("always", "never"):  # also where it was typed and not left yet
            rule[path] = self.form.typed(path).text()
        ids = [o.id for o in self.plan.openings if o.section == section.id and not o.into]
        always = {**occupancy.names(rule["always"], 1.0), **occupancy.names(rule["never"], 0.0)}
        self.document.edit(
            "Light by rule",
            lambda plan: occupancy.fill(plan, ids, rule["share"], rule["clump"], int(rule["seed"]), always=always),
        )

    def refresh(self) -> None:
        for entry in self.fields:
            entry.kind.show(self, self.form.widgets[entry.path], self._rule[entry.path])
        plan, section = self.plan, self.first
        rows = [d for d in decks.decks_of(plan.sections, plan.openings) if d.section == section.id]
        stem = f"{section.name}, "
        self.counts.setText("<br>".join(f"{d.name.removeprefix(stem)}: {d.lit} of {len(d.ids)} lit" for d in rows[:12]))
        self.counts.setVisible(bool(rows))
