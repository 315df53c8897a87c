"""Parts of one's own of every kind: like one of the catalogue, out as CSV and in again, and at work in a plan."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.holes import bores_of
from gwiazda.core.assess.assembly.materials import material_rows
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets.kinds import pages_of
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.fibre.drills import drill_for, drill_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Layer, Load, Regulated, Supply, Switch, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.core.workshop.own_parts import KINDS, likes, made_like, own_from_csv, own_to_csv
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop
from gwiazda.demos import path_of

CAT = built_in()


def workshop_with(*parts) -> Workshop:
    workshop = Workshop()
    for part in parts:
        workshop = workshop.with_own_part(part)
    return workshop


@st.composite
def own(draw):
    kind = draw(st.sampled_from(sorted(KINDS)))
    like = draw(st.sampled_from(sorted(likes(CAT, kind))))
    wanted = draw(st.sets(st.sampled_from([f.id for f in KINDS[kind].figures])))
    figures = {}
    for figure in KINDS[kind].figures:
        if figure.id in wanted:
            value = draw(st.floats(figure.low, figure.high).map(lambda x: float(f"{x:.6g}")))
            figures[figure.id] = min(max(value, figure.low), figure.high)
    name = draw(st.text("abcdefgh XYZ,\"'é", min_size=1, max_size=20).filter(lambda t: t.strip()))
    return made_like(CAT, kind, like, f"{name} {kind}", figures)


@given(st.lists(own(), max_size=6, unique_by=lambda p: p.id))
def test_what_goes_out_comes_in_the_same(parts):
    again = own_from_csv(own_to_csv(parts))
    assert {i: (p.kind, p.name, p.like, dict(p.figures)) for i, p in again.items()} == {
        p.id: (p.kind, p.name, p.like, dict(p.figures)) for p in parts
    }


@given(own())
def test_each_is_in_the_catalogue_like_what_it_is_like_but_for_its_figures(part):
    catalogue = workshop_with(part).catalogue
    entry = getattr(catalogue, KINDS[part.kind].table)[part.id]
    base = likes(CAT, part.kind)[part.like]
    assert entry.name == part.name and part.id in catalogue.own
    for figure in KINDS[part.kind].figures:
        wanted = part.figures.get(figure.id, figure.of(base))
        whole = figure.id in ("outputs", "awg")
        assert figure.of(entry) == pytest.approx(round(wanted) if whole else wanted, rel=1e-9, abs=1e-12)


def test_a_battery_of_another_voltage_has_its_curve_in_proportion_and_runs_the_model():
    part = made_like(CAT, "source", "aa-nimh", "NiZn AA", {"nominal_v": 1.6, "capacity_mah": 1500.0})
    workshop = workshop_with(part)
    entry, base = workshop.catalogue.sources["my-nizn-aa"], CAT.sources["aa-nimh"]
    assert entry.open_v[0] / base.open_v[0] == pytest.approx(1.6 / 1.2) == entry.cutoff_v / base.cutoff_v
    plan = edits.set_supply(deck_plan(lamps=1), "supply", part="my-nizn-aa", in_series=4, in_parallel=1)
    assessment = assess(plan, workshop.catalogue)
    supply = assessment.feeds["supply"]
    assert supply.terminal_v == pytest.approx(4 * 1.6, rel=0.1) and supply.draw_a > 0.0
    hours = supply.hours
    assert 0.6 * 1.5 / supply.draw_a < hours < 1.4 * 1.5 / supply.draw_a, "about its mAh by its mA"


def test_a_workshop_keeps_them(tmp_path):
    part = made_like(CAT, "adhesive", "white glue", "My slow white", {"next_h": 30.0})
    save_workshop(workshop_with(part), tmp_path)
    kept, said = load_workshop(tmp_path)
    assert (
        not said and dict(kept.own) == {part.id: part} and kept.catalogue.adhesives["my-my-slow-white"].next_h == 30.0
    )
    save_workshop(kept.without_own_part(part.id), tmp_path)
    assert not (tmp_path / "own.csv").exists()


def test_a_file_that_cannot_be_read_is_set_aside_and_said(tmp_path):
    (tmp_path / "own.csv").write_text("kind,id,name,like\nrocket,,A,b\n")
    kept, (said,) = load_workshop(tmp_path)
    assert not kept.own and "rocket" in said and "Nothing is lost" in said and list(tmp_path.glob("own*"))


HEAD = "kind,id,name,like"


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "row 1"),
        ("id,name\n", "heading"),
        (f"{HEAD},sparkle\n", "sparkle"),
        (f"{HEAD}\nrocket,,A,b\n", "rocket"),
        (f"{HEAD}\nwire,,Thin,enamel-99\n", "enamel-99"),
        (f"{HEAD}\nwire,,,enamel-30\n", "no name"),
        (f"{HEAD},capacity_mah\nwire,,Thin,enamel-30,5\n", "no such figure"),
        (f"{HEAD},outside_mm\nwire,,Thin,enamel-30,99\n", "0.03"),
        (f"{HEAD},outside_mm\nwire,,Thin,enamel-30,wide\n", "outside_mm"),
        (f"{HEAD}\nwire,enamel-30,Thin,enamel-30\n", "my-"),
        (f"{HEAD}\nwire,,Thin,enamel-30\nwire,,Thin,enamel-32\n", "there already"),
        (f"{HEAD}\nwire,,Thin\n", "values"),
    ],
)
def test_a_bad_file_says_what_where_and_what_is_accepted(text, words):
    with pytest.raises(PlanError) as refused:
        own_from_csv(text)
    assert words in str(refused.value) and "Own parts" in str(refused.value)


def test_a_drill_of_ones_own_serves_a_hole_that_it_is_near():
    mine = (("my 0.55", 0.55), ("my 0.6", 0.6), ("coarse", 2.0))
    assert drill_for(0.5, mine).own == "my 0.55" and drill_for(0.5).own == ""
    # 0.61 mm: the 0.6 is too narrow, the next of one's own far too wide.
    assert drill_of(0.61, mine).own == "" and drill_of(1.9, mine).own_mm == 2.0
    part = made_like(CAT, "drill", "", "0.55 pin drill", {"diameter_mm": 0.55})
    plan, catalogue = load(path_of("bryla")).plan, workshop_with(part).catalogue
    bores = [b for b in bores_of(catalogue, plan) if b.drill.own]
    assert bores and all(b.drill.own == "0.55 pin drill" and b.drill.hole_mm <= 0.55 for b in bores)
    bought = {p for k, p, *_ in material_rows(CAT, plan) if k == "drill"} - {
        p for k, p, *_ in material_rows(catalogue, plan) if k == "drill"
    }
    assert bought == {"0.55 mm"}, "what is in the drawer as one's own isn't bought"


def test_figures_out_of_bounds_and_names_that_are_taken_are_refused():
    with pytest.raises(PlanError, match=r"0\.1 to 13"):
        made_like(CAT, "drill", "", "Whale", {"diameter_mm": 40.0})
    with pytest.raises(PlanError, match="no name"):
        made_like(CAT, "wire", "enamel-30", "  ", {})
    assert made_like(CAT, "wire", "enamel-30", "Same", {"outside_mm": 0.28}).figures == {}


def test_a_plan_with_ones_own_parts_opens_where_they_are_not_known_and_says_which():
    """Another machine's plan: nothing raises, each part that lacks is named, and with the parts the findings are gone."""
    mine = [
        made_like(CAT, "source", "block-9v", "My block", {"capacity_mah": 600.0}),
        made_like(CAT, "regulator", "regulator-classic", "My regulator", {"dropout_v": 1.9}),
        made_like(CAT, "load", "motor-3v", "My motor", {"running_ma": 70.0}),
        made_like(CAT, "switch", "reed", "My reed", {"limit_ma": 400.0}),
        made_like(CAT, "board", "flasher-2", "My flasher", {"outputs": 3}),
        made_like(CAT, "wire", "enamel-32", "My wire", {"outside_mm": 0.2}),
        made_like(CAT, "fibre", "fibre-0.5", "My fibre", {"diameter_mm": 0.55}),
        made_like(CAT, "adhesive", "white glue", "My glue", {"next_h": 9.0}),
        made_like(CAT, "paint", "flat-black", "My black", {"dry_h": 3.0}),
    ]
    source, regulator, motor, switch, board, wire, fibre, glue, black = (p.id for p in mine)
    plan = load(path_of("bryla")).plan
    dots, first = [d.id for d in plan.dots], plan.sections[0]
    plan = edits.set_fields(plan, dots[:3], fibre=fibre)
    plan = edits.set_fields(
        plan,
        [first.id],
        closure=copy_unchecked(first.closure, by="glue", glue=glue),
        inside=(Layer(coat=black, coats=2),),
    )
    feed = plan.feeds[0]
    items = (*feed.items, Regulated(id="own.reg", part=regulator, items=(Load(id="own.motor", part=motor),)))
    plan = copy_unchecked(
        plan,
        feeds=(
            copy_unchecked(
                feed, supply=Supply(part=source), head=(Switch(id="own.switch", kind=switch, home="base"),), items=items
            ),
        ),
        boards=(*plan.boards, Board(id="own.board", part=board, home="base")),
        loom=copy_unchecked(plan.loom, wire=wire),
    )
    known = workshop_with(*mine).catalogue
    with_parts, without = (evaluate_rules(plan, assess(plan, c)) for c in (known, CAT))
    said = " ".join(f.sentence for f in without)
    assert not [f for f in with_parts if "has no part" in f.sentence or "hasn’t got" in f.sentence]
    assert all(i in said for i in (source, regulator, motor, switch, glue, wire, fibre)), said
    for catalogue in (known, CAT):
        assessment = assess(plan, catalogue)
        assert (
            shopping_rows(plan, assessment) and steps_of(catalogue, plan) and pages_of(plan, assessment, PAPERS["a4"])
        )
