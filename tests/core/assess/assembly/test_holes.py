"""One list of every hole: which drill, on which side, how far from which edge; pilot where a drill would wander."""

from __future__ import annotations

import csv
import io

import pytest

from gwiazda.core.assess.assembly.holes import bores_of, chosen_holes, numbered_holes
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.fibres.lists import tags_of
from gwiazda.core.drawing.sheets.kinds import drill_templates
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.exchange.holes import COLUMNS, hole_table
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Closure, Dot, Feed, Lamp, Lens, Outline, Plan, Section, Switch
from gwiazda.core.plan.outline.shapes import ellipse, rectangle

CATALOGUE = built_in()


def tube(round_: bool) -> Plan:
    """A fuselage 200 long and 40 across, round or square as seen from the bow."""
    shape = ellipse(0.0, 20.0, 20.0, 20.0) if round_ else rectangle(-20.0, 20.0, 0.0, 40.0)
    section = Section(
        id="tube", name="Tube", box=Box(at=(0.0, -15.0, 5.0), size=(200.0, 30.0, 30.0)), closure=Closure(part="floor", by="screws"),
        outlines=(Outline(side="port", points=rectangle(0.0, 200.0, 0.0, 40.0)), Outline(side="bow", points=shape)),
    )  # fmt: skip
    lamps = (
        Lamp(id="a", part="round-3-warm-white", at=(30.0, 16.2, 32.0), aim=(0.0, 1.0, 0.0), mount="outside"),
        Lamp(id="b", part="chip-0603-red", at=(180.0, 16.2, 20.0), aim=(0.0, 1.0, 0.0), mount="outside", lens=Lens(width_mm=2.0, lip_mm=0.2)),
    )  # fmt: skip
    dots = (Dot(id="d", at=(100.0, 16.2, 20.0), section="tube", fibre="fibre-0.5"),)
    feed = Feed(id="supply", home="tube", head=(Switch(id="sw", kind="push"),))
    return Plan(sections=(section,), lamps=lamps, dots=dots, feeds=(feed,))


def test_every_hole_has_a_tag_a_side_and_its_distance_from_two_edges():
    plan = tube(False)
    holes = {x.bore.of: x for x in numbered_holes(CATALOGUE, plan)}
    assert {k: (x.end, x.along_mm, x.up_mm) for k, x in holes.items()} == {
        "a": ("stern", 30.0, 32.0), "b": ("bow", 20.0, 20.0), "d": ("stern", 100.0, 20.0),
    }  # fmt: skip
    assert holes["d"].tag == tags_of(plan)["d"] and {holes["a"].tag, holes["b"].tag} == {"h1", "h2"}
    assert holes["b"].bore.drill.hole_mm == 2.0, "the lens's, not that of its wires"
    assert [x.bore.of for x in numbered_holes(CATALOGUE, plan)] == ["a", "d", "b"], "along the side"
    assert len(holes) == len(bores_of(CATALOGUE, plan))


def test_a_curved_skin_and_a_fine_drill_want_a_pilot():
    flat, curved = ({x.bore.of: x.pilot for x in numbered_holes(CATALOGUE, tube(r))} for r in (False, True))
    assert flat == {"a": False, "b": False, "d": True}, "0.55 mm wanders on any skin"
    assert curved == {"a": True, "b": False, "d": True}, "12 mm above the middle of a round of 20 the skin leans 37°"


def test_switches_and_screws_belong_to_the_list():
    assert [(c.use, c.pieces, c.drill.metric_mm, c.where) for c in chosen_holes(CATALOGUE, tube(False))] == [
        ("Switch, push", 1, 7.0, "Tube"), ("Screws of floor", 4, 2.2, "Tube"),
    ]  # fmt: skip
    reed = edits.set_part(tube(False), "sw", kind="reed")
    assert [c.use for c in chosen_holes(CATALOGUE, reed)] == ["Screws of floor"], "a reed hides behind the wall"


def test_the_templates_wear_the_lists_tags():
    plan = tube(True)
    assessment = assess(plan, CATALOGUE)
    pages = drill_templates(plan, assessment, next(iter(PAPERS.values())))
    shown = {m.text for page in pages for m in page.marks if m.kind == "text"}
    assert {x.tag for x in numbered_holes(CATALOGUE, plan)} <= shown


def test_the_table_says_each_drill_in_three_ways():
    plan = tube(True)
    rows = list(csv.DictReader(io.StringIO(hole_table(plan, assess(plan, CATALOGUE)))))
    assert tuple(rows[0]) == COLUMNS and len(rows) == 5
    dot = next(r for r in rows if r["pilot"] and r["side"] == "port" and r["hole_mm"] == "0.55")
    assert dot["metric_mm"] == "0.55" and dot["number"] == "74"
    lens = next(r for r in rows if r["hole_mm"] == "2")
    assert float(lens["metric_mm"]) == pytest.approx(2.0) and lens["inch"] == "", (
        "5/64 in is 1.98 mm, and the next is far too wide"
    )
    assert next(r for r in rows if r["hole_mm"] == "3.1")["inch"] == "1/8 in"
    assert rows[-1]["side"] == "" and rows[-1]["from"] == "where you choose"
