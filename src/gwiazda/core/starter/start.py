"""A first plan from a shape: lit, wired and with nothing to settle, in one step.

It takes the same ways a modeller takes: rows, who is awake, the fewest lamps, the proposals for the circuit, and the offers of
the findings, each kept only where the plan is the better for it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from functools import partial
from types import MappingProxyType
from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices import fewest
from gwiazda.core.assess.electrics.propose import proposals
from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.lights.build import place
from gwiazda.core.assess.lights.choices import DIM, choices_of
from gwiazda.core.assess.lights.exchange import exchanged_both
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.place import Spot
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import occupancy
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import whole_light
from gwiazda.core.plan.model import (
    Feed,
    Fuse,
    Kit,
    Plan,
    Section,
    Supply,
    Switch,
    View,
    ViewingConditions,
    copy_unchecked,
)
from gwiazda.core.starter.drawings import drawn
from gwiazda.core.starter.forms import FORMS, Body, Sizes, body_of

CHIPS = ("chip-1206", "chip-0805", "chip-0603", "chip-0402")  # the largest is the easiest to solder
LEVEL = ("roof", "middle")  # schools that stand midway between port and starboard
# Cells that go into the base first, long strings before short ones; then a supply in the wall.
SOURCES = (
    Supply(part="aa-alkaline", in_series=8), Supply(part="aa-alkaline", in_series=6), Supply(part="aa-alkaline", in_series=4),
    Supply(part="adapter-12v-1a"), Supply(part="adapter-9v-0.5a"), Supply(part="usb-5v"),
)  # fmt: skip
SEEDS = 40
STAND_MM = 6.0  # outer diameter of a stand's tube, with a wall of 1 mm
ROUNDS = 12
Progress = Callable[[str], bool]


class Started(NamedTuple):
    """The plan, what is still to be settled in it, and the pictures behind its views."""

    plan: Plan
    left: tuple[Finding, ...]
    pictures: Mapping[str, bytes] = MappingProxyType({})


def _going(words: str) -> bool:
    return True


def _told(progress: Progress, words: str) -> None:
    if not progress(words):
        raise PlanError("New from a shape", "it was stopped", "another try")


def shaped(sizes: Sizes) -> tuple[Plan, Body]:
    """The plan with its sections and windows, nothing lit in it yet; raises PlanError for sizes it can't have."""
    body, entry = body_of(sizes), FORMS[sizes.form]
    plan = Plan(
        room=ViewingConditions(lux=sizes.lux, looks="room"),
        kit=Kit(name=sizes.name.strip() or entry.name, scale=sizes.scale, kind=entry.kind),
        views=(
            View(id="view.port", name="Port side", side="port"), View(id="view.starboard", name="Starboard", side="starboard"),
            View(id="view.top", name="From above", side="top"), View(id="view.bow", name="Bow", side="bow"),
        ),
        sections=body.sections,
        feeds=(Feed(id="supply", supply=SOURCES[0], home="base", head=(Fuse(id="fuse", rated_a=0.5), Switch(id="switch", home="base"))),),
    )  # fmt: skip
    by_id = {s.id: s for s in body.sections}
    rows: list[tuple[list[str], float]] = []
    for row in body.rows:
        plan, ids = edits.add_row(plan, by_id[row.section], row.side, row.start, row.end, row.number, row.model)
        rows.append((ids, row.share))
    plan = next((p for s in range(1, SEEDS) if not occupancy.twin_sections(p := _awake(plan, rows, s))), plan)
    for a, b in body.ways:
        plan, _ = edits.add_passage(plan, a, b)
    plan = _on_its_stand(plan, by_id[body.home], by_id["base"])
    return validate_edit(Plan(), plan), body


def _on_its_stand(plan: Plan, home: Section, base: Section) -> Plan:
    """The stand: a tube from the section its leads come from down to the base."""
    x = (
        home.box.centre[0]
        if base.box.at[0] < home.box.centre[0] < base.box.at[0] + base.box.size[0]
        else base.box.centre[0]
    )
    return edits.add_stand(plan, home.id, base.id, (x, 0.0, home.box.at[2]), outer_mm=STAND_MM)[0]


def with_lights(catalogue: Catalogue, plan: Plan, body: Body) -> Plan:
    """The lights on its outside, each carried as is usual at that scale, of pairs both."""
    for x in body.lights:
        x0, y, z = (round(v, 2) for v in x.at)
        plan, _ = place(catalogue, plan, x.kind, Spot(x.side, (x0, y, z), x.section))
    return plan


def _awake(plan: Plan, rows: list[tuple[list[str], float]], seed: int) -> Plan:
    """Who is awake in the rows; where all are there is nobody at a dimmed lamp either."""
    for ids, share in rows:
        plan = occupancy.fill(plan, ids, share=share, dim_share=0.0 if share == 1.0 else 0.12, seed=seed)
    homes = [i for ids, share in rows if share < 1.0 for i in ids]
    if all(o.lit > 0 for o in plan.openings):
        # Rows of a window or two round to all: every third one sleeps.
        plan = edits.set_fields(plan, homes[seed % 3 :: 3], lit=0.0)
    return plan


def bright_enough(catalogue: Catalogue, plan: Plan) -> Plan:
    """The lights that fall short of what is wanted carried by the first means that doesn't."""
    for x in plan.lights:
        found = assess(plan, catalogue)
        state = state_of(plan, found, x.id)
        if state is None or state.reached >= DIM or (x.twin and x.twin < x.id):
            continue
        better = next((c for c in choices_of(plan, found, x.id) if c.fine), None)
        plan = exchanged_both(catalogue, plan, x.id, better.means.id) if better is not None else plan
    return plan


def wired(catalogue: Catalogue, plan: Plan) -> Plan:
    """The circuit that leaves least to settle: of the proposals on each of the usual sources, the first where that is all the same."""
    best: tuple[tuple[int, int], Plan] | None = None
    for part in SOURCES:
        feed = copy_unchecked(plan.feeds[0], supply=part)
        on_it = copy_unchecked(plan, feeds=(feed, *plan.feeds[1:]))
        for way in proposals(on_it, assess(on_it, catalogue), own_source=True):
            heavy = weight(evaluate_rules(way.plan, assess(way.plan, catalogue)))
            if best is None or heavy < best[0]:
                best = heavy, way.plan
    return best[1] if best is not None else plan


def _worth(way: fewest.Proposal) -> tuple[bool, bool, float]:
    """Lower is better."""
    return not way.good, way.school not in LEVEL, way.lamp_count if way.good else -min(way.reached, way.evenness)


def lamped(catalogue: Catalogue, plan: Plan, body: Body, progress: Progress = _going) -> Plan:
    """Its sections lit by the fewest lamps, of the largest chip that has room and does."""
    wanted = looks_of(catalogue, plan).pane("normal")
    for section in plan.sections:
        if not any(o.section == section.id and o.lit > 0 for o in plan.openings):
            continue
        _told(progress, f"Lamps for {section.name}")
        colour = body.lamps.get(section.id, "warm-white")
        best: fewest.Proposal | None = None
        for chip in CHIPS:
            part = f"{chip}-{colour}"
            if part not in catalogue.lamps:
                continue
            aim = fewest.Aim(wanted, look="normal")
            if best is not None and best.good and best.school in LEVEL:
                # Of smaller chips only fewer of them, alike for both sides, would be better.
                aim = fewest.Aim(wanted, most=best.lamp_count - 1, schools=LEVEL, look="normal")
            # Of good ones those that treat both sides alike, then that with the fewest lamps; the largest chip where that is all the same.
            ways = fewest.propose(catalogue, plan, section.id, part, aim)
            best = min([w for w in (best, *ways) if w is not None], key=_worth, default=None)
        if best is None:
            raise PlanError(
                f"New from a shape, {section.name}", "no lamp has room in it", "a longer model, or fewer decks"
            )
        plan = fewest.take(plan, section.id, best)
    return plan


def weight(findings: Sequence[Finding]) -> tuple[int, int]:
    """How much is to be settled: what stops first, then all."""
    return sum(f.severity == "stop" for f in findings), len(findings)


def _otherwise(catalogue: Catalogue, plan: Plan, finding: Finding) -> Iterator[Fix]:
    """Another means for the lights whose parts a finding is about, with their twins."""
    owners = {owner.id: owner for i in finding.subjects if (owner := whole_light(plan, i)) is not None}
    for light_id, owner in owners.items():
        for means in kind_of(catalogue, owner.kind).means:
            if means != owner.means:
                yield Fix(f"{owner.name}: {means}", partial(_carried, catalogue, light_id, means))


def _carried(catalogue: Catalogue, light_id: str, means: str, plan: Plan) -> Plan:
    return exchanged_both(catalogue, plan, light_id, means)


def settled(catalogue: Catalogue, plan: Plan, progress: Progress = _going) -> Started:
    """The plan after those offers of its findings that leave fewer of them; each is tried and assessed, none is guessed."""
    findings = evaluate_rules(plan, assess(plan, catalogue))
    dull: set[tuple[str, str, str]] = set()  # tried, and no better
    for _ in range(ROUNDS):
        for finding, fix in [(f, x) for f in findings for x in (*f.fixes, *_otherwise(catalogue, plan, f))]:
            key = (finding.rule, finding.subject, fix.label)
            if key in dull:
                continue
            _told(progress, fix.label)
            try:
                tried = fix.applied(plan)
            except GwiazdaError:
                dull.add(key)
                continue
            after = evaluate_rules(tried, assess(tried, catalogue))
            if weight(after) < weight(findings):
                plan, findings = tried, after
                break
            dull.add(key)
        else:
            break
    return Started(plan, tuple(findings))


def start(catalogue: Catalogue, sizes: Sizes, progress: Progress = _going) -> Started:
    """A plan of a shape: lit, wired, with as little to settle as its own offers can leave.

    Raises
    ------
    PlanError
        For sizes it can't have, or when ``progress`` says to stop; it names the field and what is accepted.
    """
    plan, body = shaped(sizes)
    plan = lamped(catalogue, plan, body, progress)
    _told(progress, "The circuit")
    plan = with_lights(catalogue, edits.with_channels(plan), body)
    made = settled(catalogue, wired(catalogue, bright_enough(catalogue, plan)), progress)
    plan, pictures = drawn(made.plan)
    return Started(plan, made.left, pictures)
