"""Odd plans of fibres and looms, as files from elsewhere may hold them: nothing raises, every offer can be taken."""

import json
import random

import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.looms.savings import savings
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.drawing.sheets import PAPERS, pages_of
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.exchange.fibres import fibre_table
from gwiazda.core.exchange.looms import loom_table
from gwiazda.core.exchange.report import as_dict, shopping_rows
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import (
    Box,
    Bundle,
    Closure,
    Dot,
    Feed,
    Hub,
    Lamp,
    LampRef,
    Lead,
    Loom,
    Obstacle,
    Opening,
    Panel,
    Passage,
    Plan,
    Regulated,
    Resistor,
    Seam,
    Section,
    Series,
    Switched,
    Wanted,
)
from gwiazda.core.plan.storage import plan_from_json, plan_to_json

CAT = built_in()
SIDES = ["port", "starboard", "top", "bow", "stern"]


class Maker:
    """Plans at random: sections anywhere, parts nobody knows, ways through nothing."""

    def __init__(self, seed: int) -> None:
        self.r = random.Random(seed)

    def place(self, reach: float = 120.0) -> tuple[float, float, float]:
        r = self.r
        return (
            round(r.uniform(-reach, reach), 1),
            round(r.uniform(-reach, reach), 1),
            round(r.uniform(-reach, reach), 1),
        )

    def some(self, most: int) -> range:
        return range(self.r.randrange(0, most))

    def section(self, k: int) -> Section:
        c = self.r.choice
        bodies = tuple(
            Obstacle(id=f"s{k}.o{n}", kind=c(["board", "pack", "interior", "rib"]), box=Box(at=self.place(), size=(5, 5, 5)), reached=True)
            for n in self.some(3)
        )  # fmt: skip
        return Section(
            id=f"s{k}", name=f"S{k}", box=Box(at=self.place(), size=(c([0.5, 5, 20, 60]), c([0.5, 20, 60]), c([5, 20, 60]))), obstacles=bodies,
            glazing=c(["clear", "mist-2"]), seams=c([(), (Seam(id=f"s{k}.m", face="top"),)]),
            closure=c([Closure(), Closure(by="glue", glue="solvent cement"), Closure(by="magnets")]),
        )  # fmt: skip

    def lamp(self, k: int) -> Lamp:
        c = self.r.choice
        return Lamp(
            id=f"l{k}", part=c(["flat-3-red", "chip-0603-blue", "round-5-green", "nope", "strip-12v-60-red"]), at=self.place(),
            aim=c([(0, 0, 1), (1, -1, 0.3)]), mount=c(["inside", "outside", "fibre"]), channel=c(["", "a", "b"]), frosted_cap=self.r.random() < 0.2,
            wanted=c([Wanted(look="normal"), Wanted(current_ma=5), Wanted(mcd=3), Wanted(cd_m2=20)]),
        )  # fmt: skip

    def dot(self, k: int, sections: list[str], lamps: list[str], panels: list[str]) -> Dot:
        c = self.r.choice
        way = tuple(self.place() for _ in range(c([0, 0, 1, 3])))
        return Dot(
            id=f"d{k}", at=c([self.place(), (0.0, 0.0, 0.0)]), side=c(SIDES), section=c([*sections, ""]), panel=c([*panels, ""]),
            fibre=c(["fibre-0.25", "fibre-3", "fibre-0.5-red", "glass"]), hole=c(["drilled", "given"]), hole_mm=c([0.3, 1.0, 4.0]),
            tip=c(["flush", "domed"]), tint=c(["", "red"]), smoke=c([0, 3]), glow_mm=c([0, 30]), colour=c(["", "red", "white"]), group=c(["", "g"]),
            channel=c(["", "a"]), wanted_mcd=c([0.001, 2, 900]), lamp=c([*lamps, ""]), pinned=self.r.random() < 0.2, way=way + way if self.r.random() < 0.3 else way,
            bend_mm=c([None, 0.01, 5, 500]), bent=c(["warm", "cold", "lit edge"]), held=self.r.random() < 0.3,
        )  # fmt: skip

    def tree(self, lamps: list[str], homes: list[str]) -> tuple:
        free, items = list(lamps), []
        self.r.shuffle(free)
        for k in self.some(3):
            if free:
                s = Series(id=f"q{k}", items=(Resistor(id=f"q{k}.r"), LampRef(lamp=free.pop())))
                part = self.r.choice(["npn-small", "pin-5v", "mosfet-logic"])
                items.append(
                    self.r.choice(
                        [
                            s,
                            Regulated(id=f"u{k}", home=self.r.choice(homes), items=(s,)),
                            Switched(id=f"w{k}", part=part, items=(s,)),
                        ]
                    )
                )
        return tuple(items)

    def plan(self) -> Plan:
        c = self.r.choice
        sections = tuple(self.section(k) for k in self.some(6))
        lamps = tuple(self.lamp(k) for k in self.some(9))
        ids, lids = [s.id for s in sections], [p.id for p in lamps]
        panels = tuple(
            Panel(
                id=f"f{k}", name="F", section=c([*ids, ""]), side=c(SIDES), at=self.place(), width_mm=c([0.1, 20, 400])
            )
            for k in self.some(2)
        )
        passages: list[Passage] = []
        for k in self.some(8) if ids else ():
            a = c(ids)
            passages.append(Passage(
                id=f"p{k}", section=a, into=c([x for x in [*ids, ""] if x != a]), at=self.place(), shape=c(["round", "rect"]), width_mm=c([0.1, 1, 3, 50]),
                height_mm=c([0.1, 2]), length_mm=c([0, 5, 900]), joint=c(["fixed", "hinge"]), make=c(["as it is", "drill", "channel"]), take_mm=c([0, 1]), wall_mm=c([0, 1]),
            ))  # fmt: skip
        hubs = (
            tuple(
                Hub(id=f"h{k}", section=c(ids), at=self.place(), joins=c(["plus", "minus", "both"]))
                for k in self.some(4)
            )
            if ids
            else ()
        )
        pids = [p.id for p in passages]
        leads = tuple(
            Lead(id=f"e{k}", lamp=c(lids), end=c(["plus", "minus"]), wire=c([None, "wrap-30", "nowire"]), way=tuple(self.place() for _ in self.some(3)),
                 through=tuple(c(pids) for _ in self.some(4)) if pids else ())
            for k in self.some(5)
        ) if lids else ()  # fmt: skip
        bundles = (
            tuple(
                Bundle(id=f"b{k}", lamp=c(lids), joined=c(["butted", "sleeve"]), overheated=True) for k in self.some(3)
            )
            if lids
            else ()
        )
        openings = (
            tuple(
                Opening(id=f"o{k}", section=c(ids), at=self.place(), side=c(SIDES), width_mm=c([3, 30]))
                for k in self.some(5)
            )
            if ids
            else ()
        )
        plan = Plan(
            sections=sections, lamps=lamps, passages=tuple(passages), hubs=hubs, leads=leads, panels=panels, bundles=bundles, openings=openings,
            dots=tuple(self.dot(k, ids, lids, [p.id for p in panels]) for k in self.some(30)),
            loom=Loom(wire=c(["wrap-30", "enamel-40", "nowire"]), spare=c([0, 2]), bench_first=self.r.random() < 0.5),
            feeds=(Feed(id="supply", home=c([*ids, ""]), items=self.tree(lids, [*ids, ""])), Feed(id="second", home=c([*ids, ""]))),
        )  # fmt: skip
        return validate_edit(Plan(), edits.with_channels(plan))


@pytest.mark.parametrize("seed", [3, 7, 68, 129, 140, 205])
def test_odd_plans_are_worked_out_and_every_offer_can_be_taken(seed):
    plan = Maker(seed).plan()
    assert plan_from_json(plan_to_json(plan).encode(), "x") == plan
    assessment = assess(plan, CAT)
    findings = evaluate_rules(plan, assessment)
    text = json.dumps(as_dict(plan, assessment, findings), allow_nan=False)
    assert (
        "NaN" not in text
        and shopping_rows(plan, assessment)
        and fibre_table(plan, assessment)
        and loom_table(plan, assessment)
    )
    for side in ("port", "top", "stern"):
        scene_of(plan, assessment, side)
    for make in (lambda: pages_of(plan, assessment, PAPERS["a4"]), lambda: sharing.grouped(CAT, plan)):
        try:
            make()
        except GwiazdaError as error:
            assert str(error).endswith(".")
    savings(plan, assessment)
    assert all(sharing.why(CAT, plan, d).endswith(".") for d in plan.dots)
    for finding in findings:
        assert "nan" not in finding.sentence and finding.sentence.endswith(".")
        for fix in finding.fixes:
            after = fix.applied(plan)
            evaluate_rules(after, assess(after, CAT))
