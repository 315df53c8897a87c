"""The inspector's panel for dots of light."""

from __future__ import annotations

import math

from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QSizePolicy

from gwiazda.core.assess.fibre import sharing
from gwiazda.core.assess.fibre.lists import tags_of
from gwiazda.core.fibre.drills import drill_for
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Dot
from gwiazda.core.quantities import counted, figure, parse_number
from gwiazda.desktop.inspector.cards import common
from gwiazda.desktop.inspector.features import FeatureChoice
from gwiazda.desktop.inspector.items_panel import ItemsPanel
from gwiazda.desktop.inspector.reading import read_size
from gwiazda.desktop.stations.fibre.cards import BundleCard

COLOURS = ("", "white", "warm white", "red", "orange", "amber", "green", "blue")
TINTS = ("", "red", "orange", "yellow", "green", "blue")


class DotPanel(ItemsPanel[Dot]):
    """One or several dots: hole, fibre and tip, the lamp they are on, the way of the fibre."""

    kind = Dot

    def __init__(self, document) -> None:  # type: ignore[no-untyped-def]
        super().__init__(document)
        self._dot_card()
        self._lamp_card()
        self._way_card()
        self.bundle = BundleCard(self)
        place = self.place_card("measure")
        self.section = self.choice("Section", [("", "none")], lambda v: self._set("Change section", section=v))
        place.row("Skin of", self.section)
        self.feature = FeatureChoice(self)
        place.row("Feature", self.feature)

    def _dot_card(self) -> None:
        card = self.card("Dot", "fibre")
        self.name = self.value("Name", lambda t: t.strip()[:80], lambda v: self._set("Name the dot", name=v), "masthead light, gauge 3")  # fmt: skip
        card.row("Name", self.name)
        fibres = [(f.id, f.name) for f in self.document.catalogue.fibres.values()]
        self.fibre = self.choice("Fibre", fibres, lambda v: self._set("Change fibre", fibre=v))
        card.row("Fibre", self.fibre)
        self.hole = self.choice("Hole", [("drilled", "drilled"), ("given", "comes with the part")], self._take_hole)
        self.hole_mm = self.value(
            "Size of the hole", read_size, lambda v: self._set("Change the hole", hole="given", hole_mm=v), "0.5 mm: the fibre follows"
        )  # fmt: skip
        card.row("Hole", self.hole, self.hole_mm)
        self.hole_mm.setMaximumWidth(64)
        self.tip = self.choice("Tip", [("flush", "flush"), ("domed", "a dome")], lambda v: self._set("Change tip", tip=v))  # fmt: skip
        self.tint = self.choice("Clear colour on the tip", [(c, c or "no tint") for c in TINTS], lambda v: self._set("Tint the tip", tint=v))  # fmt: skip
        self.smoke = self.value(
            "Coats of smoke", lambda t: int(parse_number(t, "Smoke", 0, 8)), lambda v: self._set("Smoke the tip", smoke=v), "0 to 8 coats"
        )  # fmt: skip
        self.glow = self.value(
            "Length scratched to glow", lambda t: parse_number(t, "Glow", 0, 1000, "mm"), lambda v: self._set("Scratch it to glow", glow_mm=v),
            "mm behind the tip whose skin is scratched, so that it glows sideways",
        )  # fmt: skip
        for field in (self.smoke, self.glow):
            field.setMaximumWidth(64)
        card.row("Tip", self.tip)
        card.row("Side glow", self.glow)
        card.row("Tint", self.tint)
        card.row("Smoke", self.smoke)
        self.wanted = self.value(
            "Wanted intensity", lambda t: parse_number(t, "Wanted", 1e-4, 1e5, "mcd"), lambda v: self._set("Change what is wanted", wanted_mcd=v),
            "mcd straight on: 2.4 for a masthead light at 1/200",
        )  # fmt: skip
        self.colour = self.choice("Colour asked for", [(c, c or "any") for c in COLOURS], lambda v: self._set("Ask for a colour", colour=v))  # fmt: skip
        card.row("Wanted", self.wanted, self.colour)
        self.facts = card.consequence()

    def _lamp_card(self) -> None:
        card = self.card("On which lamp", "fibre")
        self.lamp = self.choice("Lamp", [("", "none")], self._take_lamp)
        card.row("Lamp", self.lamp)
        self.group = self.value("Group", lambda t: t.strip()[:80], lambda v: self._set("Group dots", group=v), "dots of a group act together")  # fmt: skip
        self.channel = self.value("Channel", lambda t: t.strip()[:80], self._play_on, "the channel its lamp must play on")  # fmt: skip
        card.row("Group", self.group)
        card.row("Channel", self.channel)
        row = QHBoxLayout()
        self.pinned = QCheckBox("Pinned")
        self.pinned.setToolTip("It stays on this lamp when the dots are grouped again")
        self.pinned.clicked.connect(lambda on: self._set("Pin" if on else "Let go", pinned=bool(on)))
        row.addWidget(self.pinned)
        self.own = QPushButton("A lamp of their own")
        self.own.setToolTip("A flat lamp behind them, across the section, with these dots on it")
        self.own.clicked.connect(self._own_lamp)
        self.own.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row.addWidget(self.own, 1)
        card.outer.addLayout(row)
        self.why = card.consequence()

    def _way_card(self) -> None:
        card = self.card("The way of the fibre", "fibre")
        self.bend = self.value(
            "Radius of bends", lambda t: read_size(t) if t.strip() else None, lambda v: self._set("Change bends", bend_mm=v),
            "mm; empty: as wide as there is room, up to 25 times the fibre",
        )  # fmt: skip
        self.bent = self.choice(
            "How it is bent", [("warm", "warm"), ("cold", "cold"), ("lit edge", "lit edge, meant")], lambda v: self._set("Bend it", bent=v)
        )  # fmt: skip
        card.row("Bends", self.bend, self.bent)
        self.bend.setMaximumWidth(64)
        self.slack = self.value("Slack", lambda t: parse_number(t, "Slack", 0, 2000, "mm"), lambda v: self._set("Change slack", slack_mm=v), "mm more than the way")  # fmt: skip
        self.trim = self.choice("Trimmed", [("now", "trimmed now"), ("after painting", "after painting")], lambda v: self._set("Change trimming", trim=v))  # fmt: skip
        card.row("Slack, mm", self.slack, self.trim)
        self.slack.setMaximumWidth(64)
        row = QHBoxLayout()
        self.held = QCheckBox("Fixed along way")
        self.held.setToolTip("Paint, glue or a sleeve around a bend costs light")
        self.held.clicked.connect(lambda on: self._set("Hold the fibre" if on else "Leave it loose", held=bool(on)))
        row.addWidget(self.held)
        self.straight = QPushButton("Lead it straight")
        self.straight.setToolTip("Forget the places it is led through (Z leads it by hand)")
        self.straight.clicked.connect(lambda: self._set("Lead it straight", way=(), bend_mm=None))
        self.straight.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        row.addWidget(self.straight, 1)
        card.outer.addLayout(row)
        self.way = card.consequence()

    # -- edits ---------------------------------------------------------------------------------------------

    def _play_on(self, words: str) -> None:
        ids = [d.id for d in self.items()]
        self.document.edit("Change channel", lambda plan: edits.play_on(plan, ids, words))

    def _take_hole(self, kind: str) -> None:
        fibres = self.document.catalogue.fibres
        if kind == "given":
            first = self.items()[0]
            size = first.hole_mm or (fibres[first.fibre].diameter_mm if first.fibre in fibres else 0.5)
            self._set("A hole that comes with the part", hole="given", hole_mm=size)
        else:
            self._set("A drilled hole", hole="drilled")

    def _take_lamp(self, lamp_id: str) -> None:
        ids = [d.id for d in self.items()]
        self.document.edit(f"Onto {lamp_id}" if lamp_id else "Off the lamp", lambda plan: edits.pin(plan, ids, lamp_id))

    def _own_lamp(self) -> None:
        from gwiazda.core.findings.fibre_rules import lamp_for

        ids = [d.id for d in self.items()]
        part = lamp_for(self.items()[0])
        self.document.edit("A lamp for these dots", lambda plan: edits.fibre_lamp(plan, ids, part)[0])

    # -- what is shown ----------------------------------------------------------------------------------------

    def refresh(self) -> None:
        dots = self.items()
        if not dots:
            return
        first, plan = dots[0], self.plan
        tags = tags_of(plan)
        self.heading.setText((first.name or first.id) if len(dots) == 1 else counted(len(dots), "dot"))
        self.about.setText(
            f"tag {tags[first.id]}, {first.side}" if len(dots) == 1 else ", ".join(sorted({d.side for d in dots}))
        )
        for field, values in (
            (self.name, [d.name for d in dots]), (self.group, [d.group for d in dots]), (self.channel, [d.channel for d in dots]),
        ):  # fmt: skip
            field.show_value(str(common(values) or ""))
        for choice, kinds in (
            (self.fibre, [d.fibre for d in dots]), (self.hole, [d.hole for d in dots]), (self.tip, [d.tip for d in dots]),
            (self.tint, [d.tint for d in dots]), (self.colour, [d.colour for d in dots]), (self.bent, [d.bent for d in dots]),
            (self.trim, [d.trim for d in dots]),
        ):  # fmt: skip
            value = common(kinds)
            choice.show_value(str(value) if value is not None else "several")
        for number, found, unit in (
            (self.hole_mm, common([d.hole_mm for d in dots]), ""), (self.smoke, common([d.smoke for d in dots]), ""),
            (self.glow, common([d.glow_mm for d in dots]), " mm"), (self.wanted, common([d.wanted_mcd for d in dots]), " mcd"),
            (self.bend, common([d.bend_mm for d in dots]), ""), (self.slack, common([d.slack_mm for d in dots]), ""),
        ):  # fmt: skip
            number.show_value(f"{found:g}{unit}" if isinstance(found, (int, float)) else "")
        self.pinned.setChecked(all(d.pinned for d in dots))
        self.held.setChecked(all(d.held for d in dots))
        self._show_choices(dots)
        self.feature.refresh()
        self.show_place(dots)
        self._say(dots)
        self.bundle.refresh()

    def _show_choices(self, dots: list[Dot]) -> None:
        for choice, entries, none, mine in (
            (self.lamp, [(p.id, p.id) for p in self.plan.lamps if p.mount == "fibre" or any(d.lamp == p.id for d in dots)], "none", common([d.lamp for d in dots])),
            (self.section, [(s.id, s.name) for s in self.plan.sections], "no section", common([d.section for d in dots])),
        ):  # fmt: skip
            if [choice.itemData(i) for i in range(1, choice.count())] != [i for i, _ in entries]:
                choice.clear()
                for value, words in (("", none), *entries):
                    choice.addItem(words, value)
            choice.show_value(str(mine) if mine is not None else "several")

    def _say(self, dots: list[Dot]) -> None:
        assessment, first = self.assessment, dots[0]
        tips = [assessment.tips[d.id] for d in dots if d.id in assessment.tips]
        fibre = self.document.catalogue.fibres.get(first.fibre)
        words = ""
        if fibre is not None:
            full = fibre.diameter_mm * self.plan.kit.scale / 1000.0
            words = f"At full size {figure(full, 2)} m across. "
            if first.hole == "drilled":
                drill = drill_for(fibre.diameter_mm)
                number = f" (no. {drill.number})" if drill.number else ""
                words += f"Drill {drill.metric_mm:g} mm{number}. "
        if tips:
            low, high = min(t.cd for t in tips) * 1e3, max(t.cd for t in tips) * 1e3
            span = figure(low, 2) if len(tips) == 1 else f"{figure(low, 2)} to {figure(high, 2)}"
            words += f"<b>{span} mcd</b> straight on"
            if len(tips) == 1:
                words += f", seen within {tips[0].half_angle_deg:.0f}° of it, {figure(tips[0].cd_m2, 2)} cd/m²"
            words += "."
        self.facts.setText(words)
        self.why.setText(sharing.why(self.document.catalogue, self.plan, first) if len(dots) == 1 else f"{len(tips)} of {len(dots)} on a lamp.")  # fmt: skip
        self._say_way(dots)

    def _say_way(self, dots: list[Dot]) -> None:
        tips = [self.assessment.tips[d.id] for d in dots if d.id in self.assessment.tips]
        self.straight.setEnabled(any(d.way or d.bend_mm for d in dots))
        if not tips:
            self.way.setText("No way yet: it is on no lamp.")
            return
        t = max(tips, key=lambda t: t.bends_db)
        cuts = f"{min(x.cut_mm for x in tips):g}" if len({x.cut_mm for x in tips}) == 1 else f"{min(x.cut_mm for x in tips):g} to {max(x.cut_mm for x in tips):g}"  # fmt: skip
        bends = "no bend" if math.isinf(t.tightest) else f"tightest bend {t.tightest:.0f} times its thickness, {(1 - t.loss.bends) * 100:.0f} % lost in bends"  # fmt: skip
        if t.creased:
            bends = "<b>creased: dark for good</b>"
        self.way.setText(f"{t.length_mm:.0f} mm; {bends}. Cut {cuts} mm, square, with one clean stroke.")
