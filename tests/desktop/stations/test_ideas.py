"""Things tried on the circuit: their way of wiring, proposals, pairs, clips; the drawing taken out."""

from __future__ import annotations

import csv
import json

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtSvg import QSvgRenderer

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.circuit.exchange import solved, worst_deviation
from gwiazda.core.exchange.circuits import circuit_cases
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import string_of
from gwiazda.core.plan.model import Wanted
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.core.workbench.instruments import SupplyReading
from gwiazda.demos import path_of
from gwiazda.desktop.stations.wire.clips import clips_of
from gwiazda.desktop.theme.sizes import text_factor

ONE, TWO = "deck1.lamp.01", "deck1.lamp.02"


@pytest.fixture
def wire(empty):
    plan = deck_plan(windows=6, lamps=5, supply="adapter-12v-1a")
    plan = edits.set_wanted(plan, [p.id for p in plan.lamps], Wanted(current_ma=4.0))
    empty.document.take_file(PlanFile(plan), None)
    empty.window.set_station("wire")
    empty.window.toggle_drawer()
    empty.settle(night=False)
    empty.window.drawer.grab()
    return empty


def press(bench, words):
    bench.press(words)


def try_habit(bench, habit):
    card = bench.part("HabitCard")
    card.choice.setCurrentIndex(card.choice.findData(habit))
    card.choice.activated.emit(card.choice.currentIndex())
    bench.settle(night=False)
    return card


def test_their_way_is_shown_as_light_and_goes_again(wire):
    plan = wire.document.plan
    wire.document.select([ONE, TWO])
    wire.settle(night=False)
    card = try_habit(wire, "shared")
    assert "shared out among 2" in card.words.text() and wire.document.on_trial
    assert wire.document.plan != plan and wire.document.undo_label == "", "shown, and not in the history"
    press(wire, "Back to the plan")
    assert wire.document.plan is plan and not wire.document.on_trial
    card = try_habit(wire, "bare")
    assert card.words.objectName() == "stop" and "rated for" in card.words.text()
    wire.document.select([ONE])
    wire.settle(night=False)
    assert wire.document.plan is plan, "picking something else ends the trial"
    try_habit(wire, "minus-side")
    press(wire, "Keep it so")
    assert wire.document.undo_label.startswith("Wire it") and string_of(wire.document.plan, ONE) is not None
    wire.document.undo()
    assert wire.document.plan == plan


def test_an_edit_while_something_is_tried_is_made_on_the_plan_itself(wire):
    wire.document.select([ONE])
    wire.settle(night=False)
    try_habit(wire, "turned")
    wire.document.edit("Rename kit", lambda p: edits.set_kit(p, name="Other"))
    wire.settle(night=False)
    assert wire.document.plan.kit.name == "Other" and string_of(wire.document.plan, ONE) is None


def test_a_proposal_is_taken_by_a_click(wire):
    press(wire, "Propose circuits")
    card = wire.part("ProposalsCard")
    assert len(card.shown) >= 2 and card.shown[-1].name == "As it is"
    first = card.shown[0]
    table, button = card.rows.itemAt(0).widget(), card.rows.itemAt(1).widget()
    assert f">{first.figures.joints}<" in table.text() and first.name in button.text()
    wire.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    wire.settle(night=False)
    assert wire.document.plan == first.plan and wire.document.undo_label.startswith("Wire it")
    assert len({s.branch for s in wire.document.assessment.lamps.values()}) == first.figures.resistors
    wire.document.undo()


def test_a_pair_is_offered_where_no_single_value_comes_near(wire):
    wire.document.edit("E6", lambda p: edits.set_drawer(p, series="E6"))
    wire.document.select([ONE])
    wire.settle(night=False)
    card = wire.part("DimmingCard")
    wire.settle(night=False)
    assert "By duty" in card.words.text() and card.pair.isVisible() and " instead" in card.pair.text()
    before = wire.document.assessment.lamps[ONE].current_a
    wire.bot.mouseClick(card.pair, Qt.MouseButton.LeftButton)
    wire.settle(night=False)
    after = wire.document.assessment.lamps[ONE].current_a
    assert abs(after - 4e-3) < 0.5 * abs(before - 4e-3)


def test_clips_of_a_meter_and_of_a_bench_supply(wire):
    clips, drawer = clips_of(wire.document), wire.window.drawer
    press(wire, "Place the clips")

    def end_of(name, lower):
        drawer.grab()
        mark = next(m for m in drawer.sheet.marks if m.kind == "lamp" and name in m.lamps)
        at = QPointF(mark.x + mark.w / 2, mark.y + mark.h * (0.85 if lower else 0.15)) + drawer._origin()
        return (at * text_factor()).toPoint()

    for lower in (False, True):
        wire.bot.mouseClick(drawer, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, end_of(ONE, lower))
    wire.settle(night=False)
    lamp = wire.document.assessment.lamps[ONE]
    assert clips.reading.volts == pytest.approx(lamp.forward_v, abs=1e-6) and clips.reading.current_a == pytest.approx(
        lamp.current_a
    )
    assert "through it" in drawer.subtitle()
    clips.set(supply=True, volts=2.6, limit_a=0.02)
    assert isinstance(clips.reading, SupplyReading) and ONE in clips.reading.lit and "light" in clips.words
    lit = drawer.grab().toImage()
    clips.set(volts=0.5)
    assert clips.reading.lit == () and "nothing lights" in clips.words
    assert drawer.grab().toImage() != lit, "the discs are as bright as the bench supply makes them"
    press(wire, "Take them off")
    assert clips.reading is None and clips.light is None


def test_stock_is_typed_and_kept(wire, tmp_path):
    wire.document.load_workshop(tmp_path)
    wire.window.set_station("power")
    wire.document.edit("Stock", lambda p: edits.set_drawer(p, series="stock"))
    wire.settle(night=False)
    wire.type_into("Resistors in stock", "2k2 x5, 4k7")
    wire.settle(night=False)
    assert wire.document.catalogue.resistors == (2200.0, 4700.0) and (tmp_path / "drawer.csv").exists()
    assert {s.resistor_ohm for s in wire.document.assessment.lamps.values()} <= {2200.0, 4700.0}
    wire.type_into("Resistors in stock", "a handful")
    assert wire.document.catalogue.resistors == (2200.0, 4700.0)


@pytest.mark.parametrize("suffix", ["svg", "pdf", "csv", "json"])
def test_circuits_taken_out(wire, tmp_path, suffix):
    path = tmp_path / f"circuits.{suffix}"
    wire.window.files.write_export("circuit", path)
    data = path.read_bytes()
    if suffix == "svg":
        assert QSvgRenderer(data).isValid() and b"<svg" in data
    elif suffix == "pdf":
        assert data.startswith(b"%PDF") and len(data) > 4000
    elif suffix == "csv":
        rows = list(csv.DictReader(data.decode().splitlines()))
        assert [r["name"] for r in rows] == [name_of(wire.document.plan, p.id) for p in wire.document.plan.lamps]
        assert float(rows[0]["current_ma"]) == pytest.approx(
            wire.document.assessment.lamps[ONE].current_a * 1e3, rel=1e-3
        )
    else:
        (case,) = json.loads(data)
        assert worst_deviation(case["solution"], solved(case)["solution"]) < 1e-9


def test_a_network_taken_out_solves_to_the_plan_s_own_currents():
    plan = load(path_of("swistak")).plan
    plan, _ = edits.put_before(plan, "cab.lamp.01", "stage")
    assessment = assess(plan, built_in())
    (case,) = circuit_cases(plan, assessment)
    again = solved(json.loads(json.dumps(case)))
    assert worst_deviation(case["solution"], again["solution"]) < 1e-9
    assert again["solution"]["currents"]["d0.search.lamp.01"] == pytest.approx(
        assessment.lamps["search.lamp.01"].current_a, rel=1e-9
    )


def test_circuits_by_the_command_line(tmp_path, capsys):
    for suffix in ("svg", "json"):
        assert main(["export", str(path_of("swistak")), "--circuit", str(tmp_path / f"c.{suffix}")]) == 0
    assert main(["export", str(path_of("swistak")), "--circuit", str(tmp_path / "c.docx")]) == 2
    assert "can't be written as" in capsys.readouterr().err
