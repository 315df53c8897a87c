"""Parts of one's own through the window: kept from the card, chosen for the plan, taken out; taken in from CSV."""

from __future__ import annotations

import pytest


@pytest.fixture
def empty(opened):
    opened.document.new()
    opened.window.set_station("build")
    opened.settle(night=False)
    return opened


def test_a_battery_of_ones_own_is_kept_and_chosen_at_power(empty):
    empty.part("OwnPartsCard").card.set_open(True)
    empty.choose("Like which part", "AA NiMH")
    empty.type_into("Name of your own part", "Orange AA")
    empty.type_into("Capacity of your own part", "1900 mAh")
    empty.press("Keep it")
    (kept,) = empty.document.workshop.own.values()
    assert kept.like == "aa-nimh" and dict(kept.figures) == {"capacity_mah": 1900.0} and kept.id == "my-orange-aa"
    assert empty.field("Name of your own part").text() == "", "ready for the next"
    empty.window.set_station("power")
    empty.settle(night=False)
    empty.choose("Source", "Orange AA")
    assert empty.document.plan.feeds[0].supply.part == "my-orange-aa"
    empty.document.undo()
    assert empty.document.plan.feeds[0].supply.part != "my-orange-aa" and empty.document.workshop.own, (
        "a plan is undone, not the workshop"
    )


def test_the_figures_follow_the_kind_and_what_it_is_like(empty):
    empty.part("OwnPartsCard").card.set_open(True)
    card = empty.part("OwnPartsCard")
    assert empty.field("Capacity of your own part").text() == "2600 mAh"
    empty.choose("Like which part", "12 V")
    assert card.shown_figure(next(f for f in _figures("source") if f.id == "capacity_mah")) is None, (
        "an adapter has none"
    )
    empty.choose("Kind of your own part", "Drill")
    assert empty.field("Diameter of your own part").text() == "1 mm"
    said = []
    empty.document.message.connect(lambda text, kind: said.append(text))
    empty.type_into("Diameter of your own part", "40 mm")
    assert "13 mm" in said[-1]
    empty.type_into("Diameter of your own part", "0.55")
    empty.type_into("Name of your own part", "Pin drill")
    empty.press("Keep it")
    assert empty.document.catalogue.drills["my-pin-drill"].diameter_mm == 0.55


def _figures(kind: str):
    from gwiazda.core.workshop.own_parts import KINDS

    return KINDS[kind].figures


def test_without_a_name_nothing_is_kept_and_it_is_said(empty):
    empty.part("OwnPartsCard").card.set_open(True)
    said = []
    empty.document.message.connect(lambda text, kind: said.append((text, kind)))
    empty.press("Keep it")
    assert not empty.document.workshop.own and "no name" in said[-1][0]


def test_one_kept_is_changed_and_taken_out_and_put_back(empty):
    empty.part("OwnPartsCard").card.set_open(True)
    empty.choose("Kind of your own part", "Wire")
    empty.type_into("Name of your own part", "Bell wire")
    empty.type_into("Diameter outside of your own part", "1.5")
    empty.press("Keep it")
    empty.press("Change it")
    assert (
        empty.field("Name of your own part").text() == "Bell wire"
        and empty.field("Diameter outside of your own part").text() == "1.5 mm"
    )
    empty.type_into("Diameter outside of your own part", "1.6")
    empty.press("Keep it")
    assert [dict(p.figures) for p in empty.document.workshop.own.values()] == [{"outside_mm": 1.6}]
    empty.press("Take it out")
    assert not empty.document.workshop.own and "my-bell-wire" not in empty.document.catalogue.wires
    empty.press("Keep it")
    assert empty.document.workshop.own["my-bell-wire"].figures["outside_mm"] == 1.6


def test_parts_come_in_from_csv_and_a_bad_file_changes_nothing(empty, tmp_path):
    path = tmp_path / "mine.csv"
    path.write_text("kind,id,name,like,next_h\nadhesive,,Grandpa's glue,white glue,30\n")
    empty.window.files.take_in_parts(path)
    assert empty.document.catalogue.adhesives["my-grandpa-s-glue"].next_h == 30.0
    path.write_text("kind,id,name,like,next_h\nadhesive,,Other,white glue,soon\n")
    empty.window.files.take_in_parts(path)
    assert len(empty.document.workshop.own) == 1
