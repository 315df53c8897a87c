"""What of a plan is soldered on boards of holes: the circuits of timers, counters, stages and strings, and their lists."""

from __future__ import annotations

import pytest

from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.show.protoboards import OUTPUT_PINS, board_made, made_boards, parts_list
from gwiazda.core.drawing.sheets.kinds import pages_of
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.drawing.sheets.protoboards import EDGE_MM, board_drawing, hole_name, layout_of
from gwiazda.core.exchange.report import shopping_rows
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Board, Channel, Counter, Cue, Lamp, Plan, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.core.protoboard.layout import PITCH_MM, joined, wanted
from gwiazda.demos import path_of

CATALOGUE = built_in()


def blinking(part: str = "timer-bipolar", **fields) -> Plan:
    """Two lamps that blink on a soldered timer."""
    board = Board(
        **({"id": "board", "part": part, "made": "strip board", "r1_ohm": 1e3, "r2_ohm": 47e3, "c_uf": 10.0} | fields)
    )
    lamps = tuple(
        Lamp(id=f"lamp.{k}", part="round-3-red", at=(10.0 * k, 0.0, 0.0), mount="outside", channel="blink")
        for k in range(2)
    )
    return Plan(boards=(board,), channels=(Channel(id="blink", board="board", output=1),), lamps=lamps)


def netlist(plan: Plan):
    assessment = assess(plan, CATALOGUE)
    return board_made(plan, assessment, plan.boards[0])[0], assessment


def test_a_timer_is_the_usual_circuit_with_its_values_and_its_lamps():
    board, _ = netlist(blinking(diode=True))
    by = {c.ref: c for c in board.components}
    chip = by["U1"].nets
    assert (chip[0], chip[7], chip[3]) == ("minus", "plus", "plus")  # minus 1, plus 8, reset 4 held up
    assert chip[1] == chip[5]  # trigger and threshold together
    assert by["R1"].nets == (chip[7], chip[6]) and by["R1"].value == "1k"
    assert by["R2"].nets == (chip[6], chip[1]) and by["R2"].value == "47k"
    assert by["D1"].nets == (chip[6], chip[1])  # past R2 while it charges
    can = next(c for c in board.components if c.shape == "can")
    assert can.nets == (chip[1], "minus") and can.value == "10 µF"  # plus at the timing pins
    strings = [c for c in board.components if c.shape == "axial" and c.nets[0] == chip[2]]
    assert len(strings) == 2
    layout = layout_of(board.components, board.kind)
    assert joined(layout) == wanted(board.components)


def test_a_counter_numbers_its_outputs_as_its_pins_are_and_sets_back_after_the_last():
    channels = tuple(Channel(id=f"c{k}", board="board", output=k + 1) for k in range(4))
    lamps = tuple(
        Lamp(id=f"lamp.{k}", part="round-3-red", at=(10.0 * k, 0.0, 0.0), mount="outside", channel=f"c{k}")
        for k in range(4)
    )
    plan = copy_unchecked(blinking("counter-10"), channels=channels, lamps=lamps)
    board, _ = netlist(plan)
    chip = next(c for c in board.components if c.shape == "dip").nets
    assert [chip[OUTPUT_PINS[k] - 1] for k in range(4)] == [f"output {k}" for k in range(1, 5)]
    assert chip[15 - 1] == chip[10 - 1] == "back"  # the fifth output, at pin 10, to reset
    assert chip[8 - 1] == chip[13 - 1] == "minus" and chip[16 - 1] == "plus"
    assert sorted(OUTPUT_PINS) == [1, 2, 3, 4, 5, 6, 7, 9, 10, 11]


def test_a_counter_that_steps_through_resistors_has_a_diode_at_each():
    plan = copy_unchecked(
        blinking("counter-10"),
        cues=(Cue(id="cue", channels=("blink",), does=Counter(ohms=(330.0, 1000.0, 0.0, 470.0))),),
    )
    board, _ = netlist(plan)
    diodes = [c for c in board.components if c.shape == "diode"]
    assert [c.value for c in board.components if c.shape == "axial"] == ["330R", "1k", "470R"] or len(diodes) == 3
    assert {c.nets[0] for c in diodes} == {"output 1", "output 2", "output 4"}


def test_what_lacks_is_said_and_what_is_bought_is_not_laid_out():
    board, _ = netlist(blinking(r1_ohm=None))
    assert not board.components and "R1" in board.fault
    plan = blinking("flasher-2", r1_ohm=None, r2_ohm=None, c_uf=None)
    board, _ = netlist(plan)
    assert not board.components and "bought" in board.fault
    assert (
        made_boards(
            copy_unchecked(plan, boards=(copy_unchecked(plan.boards[0], made="bought"),)), assess(plan, CATALOGUE)
        )
        == ()
    )


def test_it_is_bought_and_soldered_once():
    plan = blinking()
    board, assessment = netlist(plan)
    rows = {(kind, part): count for kind, part, _, count, _ in shopping_rows(plan, assessment)}
    assert rows["chip", next(c for c in board.components if c.shape == "dip").value] == 1
    assert rows["capacitor", "10 µF"] == 1 and rows["capacitor", "100 nF"] == 1
    assert ("board", "timer-bipolar") not in rows and rows["board", "strip board"] == 1
    assert rows["resistor", "47 kΩ"] == 1
    assert any(s.kind == "protoboard" and s.session == "solder" for s in steps_of(CATALOGUE, plan))
    ready = copy_unchecked(plan, boards=(copy_unchecked(plan.boards[0], made="bought"),))
    assert ("board", "timer-bipolar") in {r[:2] for r in shopping_rows(ready, assess(ready, CATALOGUE))}
    assert not any(s.kind == "protoboard" for s in steps_of(CATALOGUE, ready))


def test_from_below_it_is_the_same_board_mirrored_at_true_size():
    board, _ = netlist(blinking())
    layout = layout_of(board.components, board.kind)
    above, below = board_drawing(layout, False), board_drawing(layout, True)
    assert above.width_mm == pytest.approx(layout.columns * PITCH_MM + 2 * EDGE_MM) and above.true_size
    x, y = min((m.points[0] for m in above.marks if m.kind == "text" and m.text == "1"), key=lambda p: p[1])
    a, b = min((m.points[0] for m in below.marks if m.kind == "text" and m.text == "1"), key=lambda p: p[1])
    assert a == pytest.approx(above.width_mm - x) and b == pytest.approx(y)
    assert hole_name((6, 2)) == "C7" and hole_name((0, 27)) == "AB1"
    rows = parts_list(board, "E12")
    assert ("R2", "resistor 47k", "yellow violet orange gold") in rows


@pytest.mark.parametrize("name", ["szron", "perkoz", "swistak", "bryla"])
def test_the_resistors_of_every_demo_come_out_on_boards_equal_to_their_circuits(name):
    plan = load(path_of(name)).plan
    plan = edits.set_loom(plan, resistors="strip board")
    assessment = assess(plan, CATALOGUE)
    boards = made_boards(plan, assessment)
    assert boards
    for board in boards:
        layout = layout_of(board.components, board.kind)
        assert joined(layout) == wanted(board.components)
    pages = pages_of(plan, assessment, PAPERS["a4"], ["boards"])
    words = " ".join(m.text for p in pages for m in (*p.frame, *p.body) if m.kind == "text")
    assert "from below, mirrored" in words and "Resistors of" in words
