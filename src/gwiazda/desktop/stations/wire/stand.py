"""The tube of a stand: how thick, of what, how it holds, whether the model comes off it."""

from __future__ import annotations

import math
from typing import Any

from gwiazda.core.loom.fill import goes_through
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Passage, Plan
from gwiazda.core.quantities import counted, figure
from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Choice, Flag, Kind, fixed, millimetres, size
from gwiazda.desktop.panels.panel import PanelCard, button_of, side_by_side

THROUGH = {
    "pushed": "they are pushed through", "pulled": "pull them through together by a thread, ends staggered, before anything is soldered to that end",
    "not": "they don’t go through",
}  # fmt: skip
UPRIGHT_DEG = 0.5
FIXED = (("", "not said"), ("glue", "glued in"), ("screws", "screwed"), ("push fit", "pushed in"))


def _of_tube(path: str, label: str, kind: Kind, help_: str, edit: str, name: str = "") -> Field:
    """A field of the tube: read from it, and written so that its length follows."""
    return Field(
        path, label, kind, help_, edit, name=name,
        get=lambda p: getattr(p.tube, path) if p.tube is not None else None,
        put=lambda plan, items, v: _set(plan, items, **{path: v}),
    )  # fmt: skip


def _set(plan: Plan, items: list[Any], **fields: Any) -> Plan:
    for p in items:
        if p.tube is not None:
            plan = edits.set_tube(plan, p.id, **fields)
    return plan


def _foot(axis: int, label: str) -> Field:
    def put(plan: Plan, items: list[Any], value: float) -> Plan:
        for p in items:
            to = list(p.tube.to)
            to[axis] = value
            plan = edits.set_tube(plan, p.id, to=tuple(to))
        return plan

    return Field(
        f"to[{axis}]", label, millimetres(-10_000, 10_000), "Where its other end stands: it leans where that is not straight below", "Move the foot",
        get=lambda p: p.tube.to[axis] if p.tube is not None else None, put=put,
    )  # fmt: skip


class StandCard(PanelCard):
    """Shown for passages that are led through a tube."""

    title = "Stand"
    model = Passage
    fields = (
        _of_tube("outer_mm", "Outside", size(), "How thick the tube is: both holes are drilled as wide", "Change the tube", "Tube, outside"),
        Field("bore_mm", "Bore", size(), "How wide it is inside: what leads may fill 60 % of", "Change the bore", name="Tube, bore",
              get=lambda p: p.width_mm, put=lambda plan, items, v: _set(plan, items, bore_mm=v)),
        _of_tube("material", "Made of", Choice(fixed("metal", "plastic", "wood")), "What the tube is of", "Change the tube", "Tube, made of"),
        _of_tube("carries", "Carries", Choice((("", "nothing, leads go through"), ("minus", "minus"), ("plus", "plus"))), "Which side of the circuit the metal itself leads: its leads end at it",
                 "Let the tube carry it", "Tube carries"),
        _of_tube("fixed", "Held by", Choice(FIXED), "How it holds in both parts", "Change how it holds", "Stand, held by"),
        _foot(0, "Foot, fore and aft"),
        _foot(1, "Foot, across"),
        _of_tube("comes_off", "", Flag("the model comes off it"), "Its leads part there, by a plug", "Lift it off"),
    )  # fmt: skip

    def build(self) -> None:
        self.words = self.card.consequence()
        fit = button_of("Fit it between", "Both ends to the parts it joins, where they are now", self._fit)
        away = button_of("No tube", "A plain hole for wires again", self._away)
        self.card.outer.addLayout(side_by_side(fit, away))

    def refresh(self) -> None:
        here = self.items()
        self.card.setVisible(bool(here) and all(p.tube is not None for p in here))
        if here and all(p.tube is not None for p in here):
            super().refresh()

    def _fit(self) -> None:
        ids = [p.id for p in self.items()]

        def change(plan: Plan) -> Plan:
            for i in ids:
                plan = edits.fit_stand(plan, i)
            return plan

        self.document.edit("Fit the stand", change)

    def _away(self) -> None:
        ids = [p.id for p in self.items()]
        self.document.edit("Take the tube away", lambda plan: edits.set_fields(plan, ids, tube=None))

    def say(self) -> None:
        p: Passage = self.first
        if p.tube is None:
            return
        across = math.hypot(p.at[0] - p.tube.to[0], p.at[1] - p.tube.to[1])
        lean = math.degrees(math.atan2(across, max(abs(p.at[2] - p.tube.to[2]), 1e-9)))
        stands = "upright" if lean <= UPRIGHT_DEG else f"{lean:.0f}° off upright"
        wall = (p.tube.outer_mm - p.width_mm) / 2.0
        metal = " Metal: nothing bare may touch it, or it shorts." if p.tube.material == "metal" else ""
        if p.tube.conductor:
            metal = (
                f" It carries {p.tube.conductor}: sleeve or lacquer on it wherever the other side comes near, a fuse by the source, and low voltage only. "
                "A lug or a screw at each end; solder it before it goes into plastic."
            )
        state = self.panel.assessment.loom.passages.get(p.id)
        leads = ""
        if state is not None and state.runs:
            how = THROUGH[goes_through(len(state.runs), state.fill, p.length_mm, p.width_mm)]
            leads = f" {counted(len(state.runs), 'wire')} fill {figure(state.fill * 100, 2)} % of its bore: {how}."
        self.words.setText(
            f"<b>{figure(p.length_mm, 3)} mm</b> long between the two, {stands}; wall {figure(wall, 2)} mm.{metal}{leads} Deburr both ends before wires go in."
        )
