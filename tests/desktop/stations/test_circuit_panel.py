"""The inspector for parts of a circuit: every kind's fields, what they do, what they refuse; actions and words."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import circuit_part, string_of
from gwiazda.core.plan.model import LampRef, Switched, lamps_in
from gwiazda.core.plan.naming import name_of
from gwiazda.core.plan.storage import PlanFile
from gwiazda.desktop.stations.wire.actions import actions_for, put_before
from gwiazda.desktop.stations.wire.parts import read_gears
from gwiazda.desktop.stations.wire.words import PUT, kind_words, mark_words
from gwiazda.desktop.widgets.fields import ChoiceField

ONE, TWO, THREE = (f"deck1.lamp.0{i}" for i in range(1, 4))


@pytest.fixture
def wire(empty):
    empty.document.take_file(PlanFile(deck_plan(windows=4, lamps=5)), None)
    empty.window.set_station("wire")
    empty.settle(night=False)
    return empty


def put(bench, lamp, kind):
    """A part of that kind before a lamp, picked."""
    bench.document.select([lamp])
    put_before(bench.document, kind)
    bench.settle(night=False)
    (part,) = bench.document.selection
    return part


def choose(bench, name, value):
    field = next(f for f in bench.window.inspector.findChildren(ChoiceField, name) if f.isVisible())
    field.setCurrentIndex(field.findData(value))
    field.activated.emit(field.currentIndex())
    bench.settle(night=False)


def part_of(bench, part):
    return circuit_part(bench.document.plan, part)


def test_a_fuse_a_switch_and_a_wire(wire):
    fuse = put(wire, ONE, "fuse")
    choose(wire, "Rated current", "0.1")
    assert part_of(wire, fuse).rated_a == 0.1 and "through it" in wire.part("FlowCard").words.text()
    switch = put(wire, ONE, "switch")
    choose(wire, "Kind of switch", "reed")
    wire.type_into("Worked with", "decks")
    wire.settle(night=False)
    assert part_of(wire, switch).kind == "reed" and part_of(wire, switch).group == "decks"
    thin = put(wire, ONE, "wire")
    wire.type_into("Gauge", "AWG 36")
    wire.type_into("Length of the wire", "800")
    wire.settle(night=False)
    assert (part_of(wire, thin).awg, part_of(wire, thin).length_mm) == (36, 800.0)
    wire.type_into("Gauge", "99")
    assert part_of(wire, thin).awg == 36, "what can't be is refused and changes nothing"


def test_a_resistor_takes_a_value_or_is_chosen_again(wire):
    put(wire, ONE, "switch")
    resistor = next(x.id for f in wire.document.plan.feeds for x in edits.parts_of(f) if type(x).__name__ == "Resistor")
    wire.document.select([resistor])
    wire.settle(night=False)
    wire.type_into("Value", "4k7")
    wire.settle(night=False)
    assert part_of(wire, resistor).ohm == 4700 and wire.document.assessment.lamps[ONE].resistor_ohm == 4700
    field = wire.field("Value")
    field.setFocus()
    field.selectAll()
    wire.bot.keyClick(field, Qt.Key.Key_Delete)
    wire.bot.keyClick(field, Qt.Key.Key_Return)
    wire.settle(night=False)
    assert part_of(wire, resistor).ohm is None
    wire.type_into("Value", "-3")
    assert part_of(wire, resistor).ohm is None


def test_a_stage_its_drive_and_its_base(wire):
    stage = put(wire, ONE, "stage")
    choose(wire, "Driven by", "pin-3v3")
    wire.type_into("Base resistor", "10k")
    wire.type_into("Board", "main")
    wire.settle(night=False)
    node = part_of(wire, stage)
    assert isinstance(node, Switched) and (node.drive, node.ohm, node.chip) == ("pin-3v3", 10_000.0, "main")
    assert "drives it" in wire.part("FlowCard").words.text()
    lit = wire.document.assessment.lamps[ONE].current_a
    press(wire, "Work the switch")
    assert not part_of(wire, stage).on and abs(wire.document.assessment.lamps[ONE].current_a) < 1e-3 * lit


def press(bench, words):
    button = next(b for b in bench.window.inspector.findChildren(QPushButton) if b.text() == words and b.isVisible())
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    bench.settle(night=False)


def test_a_regulator_moves_and_says_where_not(wire):
    regulator = put(wire, ONE, "regulator")
    choose(wire, "Where it sits", "deck1")
    assert part_of(wire, regulator).home == "deck1" and "°C inside" in wire.part("FlowCard").words.text()
    choose(wire, "Kind", "regulator-low-drop")
    assert part_of(wire, regulator).part == "regulator-low-drop"


def test_a_motor_slowed_to_a_wanted_speed(wire):
    motor = put(wire, ONE, "motor")
    wire.type_into("Gears", "10:40")
    wire.type_into("Wanted turns a minute", "1000")
    wire.settle(night=False)
    wire.document.select([motor])
    wire.settle(night=False)
    assert "the last wheel at <b>993</b>" in wire.part("FlowCard").words.text()
    wire.type_into("Wanted turns a minute", "99999")
    assert "can’t turn so fast" in wire.window.message.text
    choose(wire, "Where it is", "deck1")
    assert part_of(wire, motor).home == "deck1"
    wire.document.undo()
    wire.settle(night=False)
    assert wire.field("Where it is").currentText() == "with its source"


def test_switches_of_a_group_are_worked_together(wire):
    first, second = put(wire, ONE, "switch"), put(wire, TWO, "switch")
    for part in (first, second):
        wire.document.edit("Group", lambda p, i=part: edits.set_part(p, i, group="all"))
    wire.document.select([first])
    wire.settle(night=False)
    press(wire, "Work the switch")
    assert not part_of(wire, first).closed and not part_of(wire, second).closed


def test_turning_and_splitting_by_the_actions(wire):
    wire.document.edit("String", lambda p: edits.wire_in_series(p, [ONE, TWO, THREE]))
    wire.document.select([ONE])
    wire.settle(night=False)
    words = dict(actions_for(wire.document))
    assert "Split the string behind it" in words and "A resistor each" in words
    words["Split the string behind it"]()
    assert [x.lamp for x in lamps_in(string_of(wire.document.plan, ONE))] == [ONE]
    dict(actions_for(wire.document))["Turn round"]()
    leaf = next(x for x in lamps_in(string_of(wire.document.plan, ONE)))
    assert isinstance(leaf, LampRef) and leaf.reversed


@pytest.mark.parametrize("kind", [k for k, _ in PUT])
def test_every_kind_is_put_in_drawn_named_and_taken_out(wire, kind):
    part = put(wire, ONE, kind)
    drawer = wire.window.drawer
    drawer.grab()
    mark = next(m for m in drawer.sheet.marks if m.id == part)
    said = mark_words(wire.document.plan, wire.document.assessment, mark)
    assert said and kind_words(wire.document.assessment, part_of(wire, part))
    assert wire.window.inspector.panel.heading.text() == name_of(wire.document.plan, part)
    wire.window.delete_selected()
    wire.settle(night=False)
    assert part_of(wire, part) is None and any(p.id == ONE for p in wire.document.plan.lamps)
    wire.document.undo()
    assert part_of(wire, part) is not None


@pytest.mark.parametrize("part", ["relay-5v", "npn-medium", "mosfet-plain", "counter-cmos", "timer-bipolar"])
def test_every_drive_is_drawn(wire, part):
    stage = put(wire, ONE, "stage")
    wire.document.edit("Kind", lambda p: edits.set_part(p, stage, part=part))
    wire.settle(night=False)
    image = wire.window.drawer.grab().toImage()
    assert stage in {m.id for m in wire.window.drawer.sheet.marks} and not image.isNull()
    assert wire.document.assessment.parts[stage].part == part


def test_gears_are_read():
    assert read_gears("10:40, 12/36") == ((10, 40), (12, 36)) and read_gears(" ") == ()
    for text in ("10", "10:0", "a:b", "10:40:3"):
        with pytest.raises(Exception, match="no pair of wheels"):
            read_gears(text)


def test_the_lamps_of_a_picked_part_are_marked_on_the_plate(wire):
    regulator = put(wire, ONE, "regulator")
    wire.document.edit("On it too", lambda p: edits.hang_into(p, [TWO], regulator))
    wire.document.select([regulator])
    wire.settle(night=False)
    assert wire.document.marked == (regulator, ONE, TWO)
    plain = wire.plate.grab().toImage()
    wire.document.select(())
    wire.settle(night=False)
    assert wire.document.marked == () and wire.plate.grab().toImage() != plain
    wire.document.edit("All", lambda p: edits.put_before(p, p.feeds[0].id, "switch")[0])
    head = wire.document.plan.feeds[0].head[0].id
    wire.document.select([head])
    assert set(wire.document.marked) == {head, *(p.id for p in wire.document.plan.lamps)}
    wire.document.select([THREE])
    assert wire.document.marked == (THREE,)


def test_a_strip_is_put_straight_on_the_rails_and_back(bench):
    from gwiazda.core.assess.electrics.on_rails import on_rails
    from gwiazda.core.plan import edits

    bench.document.edit(
        "A strip", lambda plan: edits.set_fields(plan, ["deck1.lamp.01"], part="strip-12v-60-warm-white")
    )
    bench.window.set_station("wire")
    bench.document.select(["deck1.lamp.01"])
    bench.settle(night=False)
    card = bench.part("RailsCard")
    assert "% of its light" in card.words.text() or "fresh" in card.words.text()
    bench.press("No resistor of ours")
    assert on_rails(bench.document.plan, "deck1.lamp.01") and bench.document.undo_label == "Straight on the rails"
    bench.press("A resistor for its look")
    assert not on_rails(bench.document.plan, "deck1.lamp.01")
    bench.document.undo()
    assert on_rails(bench.document.plan, "deck1.lamp.01")
    bench.document.select(["deck1.lamp.02"])
    bench.settle(night=False)
    assert not bench.part("RailsCard").card.isVisibleTo(bench.window), "a chip has none"


def test_the_circuits_lie_on_paper_with_tags_and_names_at_every_string_and_nothing_folded(bench, tmp_path):
    import pypdfium2

    from gwiazda.core.drawing.sheets.page import PAPERS
    from gwiazda.core.errors import PlanFileError
    from gwiazda.core.plan.naming import name_of
    from gwiazda.desktop.stations.wire.sheets import on_paper, write_circuit

    plan, assessment = bench.document.plan, bench.document.assessment
    for name, size in (("a4", (842, 595)), ("letter", (792, 612))):
        circuit = on_paper(plan, assessment, PAPERS[name])
        assert not circuit.sheet.folded
        assert sorted(i for s in circuit.sheet.strings for i in s.lamps) == sorted(assessment.lamps)
        write_circuit(plan, assessment, tmp_path / f"{name}.pdf", name)
        pdf = pypdfium2.PdfDocument(str(tmp_path / f"{name}.pdf"))
        assert len(pdf) == len(circuit.pages)
        assert all(abs(a - b) <= 1 for k in range(len(pdf)) for a, b in zip(pdf[k].get_size(), size, strict=True))
        text = " ".join(" ".join(pdf[k].get_textpage().get_text_range().split()) for k in range(len(pdf)))
        for lamp in ("deck1.lamp.02", "deck2.lamp.01"):
            assert name_of(plan, lamp) in text
        tags = {r.tag for r in assessment.loom.runs.values() if r.kind == "lead" and r.tag}
        assert all(tag in text for tag in tags)
        # Nothing of it lies in the margins.
        page = pdf[0].render(scale=1.0).to_numpy()[..., :3].mean(axis=2)
        assert page[:, :24].min() > 250 and page[:, -24:].min() > 250
    with pytest.raises(PlanFileError, match="no paper"):
        write_circuit(plan, assessment, tmp_path / "x.pdf", "a6")
