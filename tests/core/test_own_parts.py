"""The user's own lamps: CSV in and out, used by the assessment, nothing half taken in."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.parts_csv import COLUMNS, parts_from_csv, parts_to_csv
from gwiazda.core.findings.rules import judge
from gwiazda.core.parts import catalogue
from gwiazda.core.plan import edits

ROW = "drawer-1,From the drawer,round,3,3,5.3,clear,warm white,30,20,5000,3.05,2.6,9,measured"
TEXT = ",".join(COLUMNS) + "\n" + ROW + "\n"


@pytest.fixture(autouse=True)
def clean():
    yield
    catalogue.set_own({}, {})


def test_round_trip():
    lamps, families = parts_from_csv(TEXT)
    assert lamps["drawer-1"].basis == "measured" and families["own-drawer-1"].v20_v == 3.05
    catalogue.set_own(lamps, families)
    assert parts_from_csv(parts_to_csv(catalogue.own_lamps().values())) == (lamps, families)
    everything = parts_to_csv(catalogue.built_in_lamps().values())
    assert len(everything.splitlines()) == len(catalogue.built_in_lamps()) + 1


def test_points_may_be_left_out():
    text = "id,form,length_mm,width_mm,height_mm,lens,colour,beam_deg,rated_ma,axial_mcd\nx,chip,1,1,0.5,clear,red,120,20,90\n"
    lamps, families = parts_from_csv(text)
    assert lamps["x"].family == "red" and families == {} and lamps["x"].name == "x"


def test_an_own_part_lights_a_plan_and_may_change():
    plan = edits.set_fields(deck_plan(), ["deck1.lamp.01"], part="drawer-1")
    assert "unknown-part" in {f.rule for f in judge(plan, assess(plan))}
    catalogue.set_own(*parts_from_csv(TEXT))
    first = assess(plan).lamps["deck1.lamp.01"]
    assert first.current_a > 0 and "unknown-part" not in {f.rule for f in judge(plan, assess(plan))}
    catalogue.set_own(*parts_from_csv(TEXT.replace("5000", "2500")))
    second = assess(plan).lamps["deck1.lamp.01"]
    assert second.wanted_share == pytest.approx(2 * first.wanted_share), "half as bright a lamp needs twice the share"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda t: "", "the file is empty"),
        (lambda t: t.replace("beam_deg", "beam"), "row 1: column “beam”"),
        (lambda t: t.replace("axial_mcd,", "").replace("5000,", ""), "row 1: no column “axial_mcd”"),
        (lambda t: t.replace("5000", "5 cd"), "row 2, axial_mcd: “5 cd” is not a number"),
        (lambda t: t.replace(",30,20,", ",300,20,"), "row 2, beam_deg: 300 is out of range"),
        (lambda t: t.replace("warm white", "infrared"), "row 2, colour"),
        (lambda t: t.replace("round", "cube"), "row 2, form"),
        (lambda t: t.replace("drawer-1,From", "chip-0402-red,From"), "is there already"),
        (lambda t: t + ROW + "\n", "row 3, id: “drawer-1” is there already"),
        (lambda t: t + "a,b\n", "row 3: 2 values"),
        (lambda t: t.replace("drawer-1,From", "no good!,From"), "row 2, id"),
        (lambda t: t.replace("3.05,2.6,9", "2.62,2.6,9"), "leave no junction"),
        (lambda t: t.replace("measured", "guessed"), "typical or measured"),
        (lambda t: t.replace("5000", "inf"), "out of range"),
    ],
)
def test_what_is_wrong_is_named_and_nothing_taken(change, words):
    before = catalogue.own_lamps()
    with pytest.raises(PlanError) as caught:
        catalogue.set_own(*parts_from_csv(change(TEXT)))
    assert words in str(caught.value) and catalogue.own_lamps() == before
