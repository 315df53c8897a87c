"""Dots of light picked: hole, fibre and tip, the lamp they are on, the way of the fibre."""

from __future__ import annotations

import math
from functools import partial
from typing import Any

from gwiazda.core.assess.assembly.holes import own_drills
from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.fibres.lists import tags_of
from gwiazda.core.assess.lights.looks import look_of_tips, tried_tips
from gwiazda.core.fibre.drills import drill_for
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Dot
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.common import LIGHT, name_field, parts, place_fields, sections
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Number, Text, millimetres, whole
from gwiazda.desktop.panels.panel import Panel, PanelCard, common
from gwiazda.desktop.stations.light.look_tile import LookChoices

COLOURS = ("", "white", "warm white", "red", "orange", "amber", "green", "blue")
TINTS = ("", "red", "orange", "yellow", "green", "blue")


def heading(panel: Panel) -> tuple[str, str]:
    dots: list[Dot] = panel.items()
    first = dots[0]
    if len(dots) == 1:
        return name_of(panel.plan, first.id), f"tag {tags_of(panel.plan)[first.id]}, {first.side}"
    return counted(len(dots), "dot"), ", ".join(sorted({d.side for d in dots}))


def _take_hole(card: DotCard, kind: str) -> None:
    fibres, first = card.document.catalogue.fibres, card.first
    if kind == "given":
        size = first.hole_mm or (fibres[first.fibre].diameter_mm if first.fibre in fibres else 0.5)
        card.set("A hole that comes with the part", hole="given", hole_mm=size)
    else:
        card.set("A drilled hole", hole="drilled")


class DotCard(PanelCard):
    """Its hole, fibre and tip, and what is wanted of it."""

    title = "Dot"
    model = Dot
    fields = (
        name_field("dot", "masthead light, gauge 3"),
        Field("fibre", "Fibre", Choice(parts("fibres")), "Which fibre it is: its thickness is the size of the dot", "Change fibre"),
        Field("hole", "Hole", Choice((("drilled", "drilled"), ("given", "comes with the part"))), "Whether you drill it", get=lambda d: d.hole, takes=_take_hole),
        Field("hole_mm", "Hole size", millimetres(), "Of a hole that comes with the part: the fibre follows", "Change the hole", name="Size of the hole", shown=lambda card: any(d.hole == "given" for d in card.items()),
              put=lambda plan, items, v: edits.set_fields(plan, [d.id for d in items], hole="given", hole_mm=v)),
        Field("tip", "Tip", Choice((("flush", "flush"), ("domed", "a dome"))), "Cut flush, or melted to a dome that shows from aside", "Change tip"),
        Field("glow_mm", "Side glow", millimetres(), "Behind the tip, where its skin is scratched so that it glows sideways", "Scratch it to glow",
              name="Length scratched to glow"),
        Field("tint", "Tint", Choice([(c, c or "no tint") for c in TINTS]), "Clear colour on the tip", "Tint the tip", name="Clear colour on the tip"),
        Field("smoke", "Smoke", whole(unit="coats"), "Coats of clear smoke on the tip: each takes some of its light", "Smoke the tip", name="Coats of smoke"),
        Field("wanted_mcd", "Wanted", Number("mcd"), "Straight on: 2.4 for a masthead light at 1/200", "Change what is wanted", name="Wanted intensity"),
        Field("colour", "Colour wanted", Choice([(c, c or "any") for c in COLOURS]), "Which colour its lamp must have", "Ask for a colour", name="Colour asked for"),
    )  # fmt: skip

    def build(self) -> None:
        self.facts = self.card.consequence()
        self.choices = LookChoices(self, self._take_look)

    def _take_look(self, look: Any) -> None:
        self.set("Change what is wanted", wanted_mcd=self.panel.assessment.looks.point(look))

    def say(self) -> None:
        dots: list[Dot] = self.items()
        assessment, first = self.panel.assessment, dots[0]
        mine = tuple(d.id for d in dots)
        now = look_of_tips(self.document.catalogue, self.plan, dots)
        lit = all(i in assessment.tips for i in mine)
        self.choices.show(mine, now, partial(tried_tips, dot_ids=mine) if lit else None)
        tips = [assessment.tips[d.id] for d in dots if d.id in assessment.tips]
        fibre = self.document.catalogue.fibres.get(first.fibre)
        words = ""
        if fibre is not None:
            full = fibre.diameter_mm * self.plan.kit.scale / 1000.0
            words = f"At full size {figure(full, 2)} m across. "
            if first.hole == "drilled":
                drill = drill_for(fibre.diameter_mm, own_drills(self.document.catalogue))
                number = f" (no. {drill.number})" if drill.number else ""
                words += f"Drill {drill.own or f'{drill.metric_mm:g} mm{number}'}. "
        if tips:
            low, high = min(t.cd for t in tips) * 1e3, max(t.cd for t in tips) * 1e3
            span = figure(low, 2) if len(tips) == 1 else f"{figure(low, 2)} to {figure(high, 2)}"
            words += f"<b>{span} mcd</b> straight on"
            if len(tips) == 1:
                words += f", seen within {tips[0].half_angle_deg:.0f}° of it, {figure(tips[0].cd_m2, 2)} cd/m²"
            words += "."
        self.facts.setText(words)


def _lamps(card: DotLampCard) -> list[tuple[str, str]]:
    dots = card.items()
    return [
        ("", "none"),
        *(
            (p.id, name_of(card.plan, p.id))
            for p in card.plan.lamps
            if p.mount == "fibre" or any(d.lamp == p.id for d in dots)
        ),
    ]


def _take_lamp(card: DotLampCard, lamp_id: str) -> None:
    ids = [d.id for d in card.items()]
    words = f"Onto {name_of(card.plan, lamp_id)}" if lamp_id else "Off the lamp"
    card.document.edit(words, lambda plan: edits.pin(plan, ids, lamp_id))


class DotLampCard(PanelCard):
    """Which lamp feeds it."""

    title = "On which lamp"
    model = Dot
    fields = (
        Field("lamp", "Lamp", Choice(_lamps), "The lamp its fibre leads to", get=lambda d: d.lamp, takes=_take_lamp),
        Field("group", "Group", Text(80), "Dots of a group act together: they stay on one lamp", "Group dots"),
        Field("channel", "Channel", Text(80), "The channel its lamp must play on", "Change channel",
              put=lambda plan, items, v: edits.play_on(plan, [d.id for d in items], v)),
        Field("pinned", "", Flag("Pinned"), "It stays on this lamp when the dots are grouped again", "Pin or let go"),
    )  # fmt: skip

    def build(self) -> None:
        self.button(
            "A lamp of their own", "A flat lamp behind them, across the section, with these dots on it", self._own_lamp
        )
        self.why = self.card.consequence()

    def _own_lamp(self) -> None:
        ids = [d.id for d in self.items()]
        part = sharing.lamp_for(self.first)
        self.document.edit("A lamp for these dots", lambda plan: edits.fibre_lamp(plan, ids, part)[0])

    def say(self) -> None:
        dots: list[Dot] = self.items()
        channel = common([d.channel for d in dots])
        self.form.typed("channel").show_value(channel_name(self.plan, str(channel)) if channel else "")
        fed = sum(1 for d in dots if d.id in self.panel.assessment.tips)
        one = sharing.why(self.document.catalogue, self.plan, dots[0]) if len(dots) == 1 else ""
        self.why.setText(one or f"{fed} of {len(dots)} on a lamp.")


class WayCard(PanelCard):
    """The way of its fibre."""

    title = "The way of the fibre"
    model = Dot
    fields = (
        Field("bend_mm", "Bend radius", millimetres(none="as wide as there is room"), "Empty: as wide as there is room, up to 25 times the fibre", "Change bends",
              name="Radius of bends"),
        Field("bent", "Bent", Choice((("warm", "warm"), ("cold", "cold"), ("lit edge", "lit edge, meant"))), "Warm it keeps its light better than cold", "Bend it",
              name="How it is bent"),
        Field("slack_mm", "Slack", millimetres(), "More than the way, to work with", "Change slack"),
        Field("trim", "Trimmed", Choice((("now", "trimmed now"), ("after painting", "after painting"))), "When its tip is cut", "Change trimming"),
        Field("held", "", Flag("Fixed along way"), "Paint, glue or a sleeve around a bend costs light", "Hold or loosen the fibre"),
    )  # fmt: skip

    def build(self) -> None:
        self.straight = self.button(
            "Lead it straight", "Forget the places it is led through (Z leads it by hand)", lambda: self.set("Lead it straight", way=(), bend_mm=None)
        )  # fmt: skip
        self.way = self.card.consequence()

    def say(self) -> None:
        dots: list[Dot] = self.items()
        tips = [self.panel.assessment.tips[d.id] for d in dots if d.id in self.panel.assessment.tips]
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


class DotPlaceCard(PanelCard):
    """Where it is, in which skin."""

    title = "Place"
    model = Dot
    fields = (
        *place_fields(),
        Field("section", "Skin of", Choice(sections(("", "no section"))), "In whose skin its hole is", "Change section", name="Section"),
        LIGHT,
    )  # fmt: skip
