"""The user's own lamps: CSV in and out, used by the assessment, nothing half taken in."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.workshop.parts_csv import COLUMNS, parts_from_csv, parts_to_csv
from gwiazda.core.workshop.workshop import Workshop

ROW = "drawer-1,From the drawer,round,3,3,5.3,clear,warm white,30,20,5000,3.05,2.6,9,measured"
TEXT = ",".join(COLUMNS) + "\n" + ROW + "\n"


def own(text):
    return Workshop().with_lamps(*parts_from_csv(text)).catalogue


def test_round_trip():
    lamps, families = parts_from_csv(TEXT)
    assert lamps["drawer-1"].basis == "measured" and families["own-drawer-1"].v20_v == 3.05
    catalogue = own(TEXT)
    assert parts_from_csv(parts_to_csv([catalogue.lamps["drawer-1"]], catalogue)) == (lamps, families)
    everything = parts_to_csv(built_in().lamps.values(), built_in())
    assert len(everything.splitlines()) == len(built_in().lamps) + 1


def test_points_may_be_left_out():
    text = "id,form,length_mm,width_mm,height_mm,lens,colour,beam_deg,rated_ma,axial_mcd\nx,chip,1,1,0.5,clear,red,120,20,90\n"
    lamps, families = parts_from_csv(text)
    assert lamps["x"].family == "red" and families == {} and lamps["x"].name == "x"


def test_an_own_part_lights_a_plan_and_may_change():
    plan = edits.set_fields(deck_plan(), ["deck1.lamp.01"], part="drawer-1")
    assert "unknown-part" in {f.rule for f in evaluate_rules(plan, assess(plan, built_in()))}
    before = own(TEXT)
    first = assess(plan, before).lamps["deck1.lamp.01"]
    assert first.current_a > 0 and "unknown-part" not in {f.rule for f in evaluate_rules(plan, assess(plan, before))}
    second = assess(plan, own(TEXT.replace("5000", "2500"))).lamps["deck1.lamp.01"]
    assert assess(plan, before).lamps["deck1.lamp.01"] == first, (
        "the catalogue before is a value, and stays what it was"
    )
    assert second.wanted_share > 1.4 * first.wanted_share, "half as bright a lamp needs twice the share"


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
    with pytest.raises(PlanError) as caught:
        parts_from_csv(change(TEXT))
    assert words in str(caught.value)
