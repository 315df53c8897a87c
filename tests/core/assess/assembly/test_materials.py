"""What a plan uses up: paint by area, sheet by pane, glue, tubes, holders and drills, against sums by hand."""

from __future__ import annotations

import csv
import io

import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly.materials import material_rows
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import QuantityError
from gwiazda.core.exchange.report import shopping_csv
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Box, Closure, Patch, Section, copy_unchecked
from gwiazda.core.plan.model.section import FaceLining, Layer
from gwiazda.core.workshop.buying import buying
from gwiazda.core.workshop.drawer_csv import Held, read_count
from gwiazda.core.workshop.workshop import Workshop

CATALOGUE = built_in()


def rows(plan):
    return {
        (kind, part): (detail, needed, wanted) for kind, part, detail, needed, wanted in material_rows(CATALOGUE, plan)
    }


def test_paint_by_area_and_coats_by_hand():
    """165 × 44 × 19 mm inside is 145.2 + 16.7 + 62.7 = 224.6 cm²: two coats of flat white take 4.5 ml at 100 cm² a ml."""
    found = rows(deck_plan(windows=0, lamps=0))
    assert found["paint", "flat-white"][1:] == (5, 5)
    black = edits.set_fields(deck_plan(windows=0, lamps=0), ["deck1"], inside=(Layer(coat="flat-black", coats=3),))
    assert rows(black)["paint", "flat-black"][1] == 7, "three coats of 224.6 cm²"
    foil = edits.set_fields(black, ["deck1"], face_linings=(FaceLining(face="top", lining="foil"),))
    # The top alone is 72.6 cm²; what is left for the white is 152.
    assert rows(foil)["sheet", "foil-tape"][1] == 73 and rows(foil)["paint", "flat-white"][1] == 4
    patched = edits.set_fields(
        black,
        ["deck1"],
        patches=(Patch(id="p", face="top", low=(0.0, 0.0), high=(20.0, 10.0), coat="putty", thickness_mm=2.0),),
    )
    assert rows(patched)["putty", "putty"][1] == 1, "2 cm² of 2 mm are 0.4 ml"


def test_panes_are_cut_larger_and_a_mask_needs_none():
    plan = edits.set_fields(deck_plan(), ["deck1"], glazing="vellum")
    # 24 windows of 3 × 4 mm, cut 7 × 8: 13.44 cm².
    assert rows(plan)["sheet", "vellum"][1:] == (14, 15)
    assert ("sheet", "vellum") not in rows(edits.set_fields(plan, ["deck1"], school="mask"))
    liquid = edits.set_fields(plan, ["deck1"], glazing="liquid")
    assert rows(liquid)["paint", "liquid"][1] == 1 and ("sheet", "vellum") not in rows(liquid)


def test_boards_holders_tubes_glues_and_drills():
    base = edits.outline_from_box(
        Section(id="base", name="Base", box=Box(at=(0.0, -40.0, -60.0), size=(170.0, 80.0, 20.0)))
    )
    plan = edits.set_fields(deck_plan(), ["deck1"], closure=Closure(part="roof", by="glue", glue="two-part epoxy"))
    plan = copy_unchecked(plan, sections=(*plan.sections, base), boards=(Board(id="b", part="flasher-2", home="base"),))
    plan = edits.set_feed(edits.set_supply(plan, part="aa-alkaline", in_series=6), "supply", home="base")
    plan, _ = edits.add_stand(plan, "deck1", "base", (80.0, 0.0, 0.0), outer_mm=4.0)
    found = rows(plan)
    assert (
        found["board", "flasher-2"][1] == 1 and found["tube", "metal 4 × 2 mm"][0] == "tube, metal 4 × 2 mm, 40 mm long"
    )
    assert found["holder", "aa-alkaline × 6"][0] == "holder with leads for 6 cells, 93.3 × 58 × 15.3 mm"
    assert found["glue", "two-part epoxy"][0].endswith("for roof")
    assert found["drill", "4 mm"][0] == "drill 4 mm, for 2 holes", "both ends of the stand"


def test_it_is_on_the_list_against_the_drawer():
    plan = deck_plan(windows=0)
    lines = {
        (r["kind"], r["part"]): r for r in csv.DictReader(io.StringIO(shopping_csv(plan, assess(plan, CATALOGUE))))
    }
    assert lines["paint", "flat-white"]["to_buy"] == "5" and ("glue", "hot glue") in lines
    held = Held("paint", "flat-white", read_count("17 ml", "paint"))
    (buy,) = buying([("paint", "flat-white", "flat white", 5, 5)], Workshop().with_drawer({held.key: held}), "x")
    assert buy.held == 17.0 and buy.buy == 0 and buy.unit == "ml"
    assert read_count("120 cm2", "sheet") == 120.0 and read_count("2.5", "putty") == 2.5
    with pytest.raises(QuantityError):
        read_count("a pot", "paint")
