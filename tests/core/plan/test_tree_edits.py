"""Edits of what hangs on a feed: put before, move, split, group, take out; each through the gate, each drawn."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.rails import rails_of
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.tree import KINDS, id_of
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import circuit_part, feed_with, known, string_of
from gwiazda.core.plan.model import (
    Fuse,
    Lamp,
    LampRef,
    Load,
    Parallel,
    Regulated,
    Resistor,
    Series,
    Switch,
    copy_unchecked,
    lamps_in,
)

ONE, TWO, THREE, FOUR = (f"deck1.lamp.0{i}" for i in range(1, 5))


def kinds(node):
    """A tree as words: its parts' names, inner ones in brackets."""
    if isinstance(node, LampRef):
        return node.lamp[-2:] + ("r" if node.reversed else "")
    name = type(node).__name__.lower()
    inner = getattr(node, "items", None)
    return name if inner is None else f"{name}({' '.join(map(kinds, inner))})"


def shape(plan):
    return [kinds(x) for x in plan.feeds[0].items]


def test_a_part_goes_right_before_what_is_picked():
    plan = deck_plan(lamps=4)
    plan, switch = edits.put_before(plan, ONE, "switch")
    assert shape(plan) == ["series(resistor switch 01)"] and isinstance(circuit_part(plan, switch), Switch)
    plan = edits.wire_in_series(plan, [TWO, THREE])
    string = string_of(plan, TWO)
    plan, _ = edits.put_before(plan, string.id, "fuse")
    assert shape(plan)[1] == "series(fuse resistor 02 03)"
    plan, _ = edits.put_before(plan, string.id, "regulator")
    assert shape(plan)[1] == "regulated(series(fuse resistor 02 03))"
    plan, motor = edits.put_before(plan, TWO, "motor")
    assert shape(plan)[1] == "regulated(series(fuse resistor 02 03) load)" and feed_with(plan, motor) is plan.feeds[0]
    plan, _ = edits.put_before(plan, plan.feeds[0].id, "switch")
    plan, _ = edits.put_before(plan, plan.feeds[0].id, "fuse")
    assert [type(x) for x in plan.feeds[0].head] == [Fuse, Switch], "the fuse comes first, by the source"
    with pytest.raises(PlanError, match="across the source"):
        edits.put_before(plan, plan.feeds[0].id, "resistor")
    with pytest.raises(PlanError, match="isn't in the circuit"):
        edits.put_before(plan, "nobody", "switch")
    validate_edit(deck_plan(lamps=4), plan)


def test_lamps_move_into_the_string_they_are_dropped_on():
    plan = edits.wire_in_series(deck_plan(lamps=4), [ONE, TWO])
    joined = edits.hang_into(plan, [THREE], ONE)
    assert shape(joined) == ["series(resistor 01 03 02)"]
    assert shape(edits.hang_into(joined, [ONE], TWO)) == ["series(resistor 03 02 01)"]
    # Onto a lamp with a resistor of its own: they make a string.
    assert shape(edits.hang_into(deck_plan(lamps=2), [TWO], ONE)) == ["series(resistor 01 02)"]
    # Onto one that shares a resistor: beside it.
    shared = edits.wire_side_by_side(deck_plan(lamps=3), [ONE, TWO])
    assert shape(edits.hang_into(shared, [THREE], ONE)) == ["series(resistor parallel(01 03 02))"]
    # Onto the source: on its own again.
    assert shape(edits.hang_into(joined, [THREE, TWO], "supply")) == ["series(resistor 01)"]
    assert edits.hang_into(plan, [ONE], ONE) is plan
    with pytest.raises(PlanError, match="isn't in the circuit"):
        edits.hang_into(plan, [ONE], "nobody")


def test_lamps_dropped_on_a_regulator_have_a_resistor_each_there():
    plan, regulator = edits.put_before(deck_plan(lamps=3), ONE, "regulator")
    plan = edits.hang_into(plan, [TWO], regulator)
    (item,) = plan.feeds[0].items
    assert kinds(item) == "regulated(series(resistor 01) series(resistor 02))"
    assessment = assess(plan, built_in())
    assert (
        assessment.lamps[TWO].current_a > 1e-4
        and assessment.branches[assessment.lamps[TWO].branch].supply_v <= 5.0 + 1e-9
    )


def test_splitting_and_joining_again():
    plan = edits.wire_in_series(deck_plan(lamps=4), [ONE, TWO, THREE])
    string = string_of(plan, ONE)
    parted = edits.split(plan, string.id, ONE)
    assert shape(parted) == ["series(resistor 01)", "series(resistor 02 03)"]
    again = edits.hang_into(parted, [TWO, THREE], ONE)
    assert shape(again) == ["series(resistor 01 02 03)"]
    with pytest.raises(PlanError, match="nothing follows"):
        edits.split(plan, string.id, THREE)


def test_one_switch_for_several_and_out_again():
    plan = edits.wire_in_series(deck_plan(lamps=4), [ONE, TWO])
    plan, switch = edits.group_switch(plan, [ONE, THREE], "switch")
    assert shape(plan) == ["series(switch parallel(series(resistor 01 02) series(resistor 03)))"]
    assessment = assess(validate_edit(deck_plan(lamps=4), plan), built_in())
    assert assessment.parts[switch].current_a == pytest.approx(
        assessment.lamps[ONE].current_a + assessment.lamps[THREE].current_a, rel=1e-6
    )
    out = edits.delete(plan, [switch])
    assert shape(out) == ["series(parallel(series(resistor 01 02) series(resistor 03)))"]
    assert assess(out, built_in()).lamps[THREE].current_a == pytest.approx(assessment.lamps[THREE].current_a, rel=1e-3)
    with pytest.raises(PlanError, match="no lamp or string"):
        edits.group_switch(plan, [], "switch")
    plan, output = edits.group_switch(deck_plan(lamps=4), [ONE, TWO], "output")
    assert shape(plan) == ["switched(series(resistor 01) series(resistor 02))"]
    assert shape(edits.take_out(plan, [output])) == ["series(resistor 01)", "series(resistor 02)"]


def test_what_is_deleted_leaves_what_hung_on_it():
    plan, regulator = edits.put_before(edits.wire_in_series(deck_plan(lamps=3), [ONE, TWO]), ONE, "regulator")
    assert shape(edits.delete(plan, [regulator])) == ["series(resistor 01 02)"]
    gone = edits.delete(plan, [ONE, TWO])
    assert known(gone, regulator) and not any(lamps_in(x) for x in gone.feeds[0].items), (
        "a regulator is a thing of its own"
    )
    assert edits.delete(plan, [plan.feeds[0].id]).feeds == plan.feeds, "a source isn't deleted with its lamps"
    homed = edits.set_part(plan, regulator, home="deck1")
    assert circuit_part(edits.delete(homed, ["deck1"]), regulator).home == ""


def test_fields_of_a_part():
    plan, part = edits.put_before(deck_plan(lamps=1), ONE, "wire")
    assert circuit_part(edits.set_part(plan, part, awg=36), part).awg == 36
    with pytest.raises(PlanError, match="has no volts"):
        edits.set_part(plan, part, volts=3.0)
    with pytest.raises(PlanError):
        validate_edit(plan, edits.set_part(plan, part, awg=99))


class Hands:
    """Random edits of circuits, as hands in a hurry make them."""

    def __init__(self, plan, draw):
        self.plan, self.draw = plan, draw

    def some(self):
        parts = [x.id for f in self.plan.feeds for x in edits.parts_of(f) if not isinstance(x, LampRef)]
        return [*(p.id for p in self.plan.lamps), *parts, *(f.id for f in self.plan.feeds)]

    def act(self):
        one, two = self.draw(st.sampled_from(self.some())), self.draw(st.sampled_from(self.some()))
        kind = self.draw(st.sampled_from(sorted(KINDS)))
        what = self.draw(st.integers(0, 8))
        try:
            after = [
                lambda: edits.put_before(self.plan, one, kind)[0],
                lambda: edits.hang_into(self.plan, [one], two),
                lambda: edits.group_switch(self.plan, [one, two], kind)[0],
                lambda: edits.take_out(self.plan, [one]),
                lambda: edits.wire_in_series(self.plan, [one, two]),
                lambda: edits.wire_side_by_side(self.plan, [one, two]),
                lambda: edits.wire_singly(self.plan, [one]),
                lambda: (
                    edits.delete(self.plan, [one]) if isinstance(one, str) and len(self.plan.lamps) > 2 else self.plan
                ),
                lambda: edits.reverse(self.plan, one) if any(p.id == one for p in self.plan.lamps) else self.plan,
            ][what]()
            self.plan = validate_edit(self.plan, after)
        except PlanError:
            pass  # refused with a sentence


@given(st.data())
def test_random_hands_leave_a_circuit_that_is_solved_and_drawn(data):
    """Whatever is done, every lamp hangs once, the gate is passed, figures come out and all of it is on the sheet."""
    hands = Hands(deck_plan(windows=0, lamps=5), data.draw)
    for _ in range(data.draw(st.integers(1, 8))):
        hands.act()
    plan = hands.plan
    assessment = assess(plan, built_in())
    assert set(assessment.lamps) == {p.id for p in plan.lamps if isinstance(p, Lamp)}
    sheet = rails_of(plan, assessment, 850.0, 400.0)
    drawn = [i for m in sheet.marks if m.kind == "lamp" for i in m.lamps]
    assert sorted(drawn) == sorted(p.id for p in plan.lamps)
    parts = {x.id for f in plan.feeds for x in edits.parts_of(f) if not isinstance(x, (LampRef, Series, Parallel))}
    folded = {m.id for m in sheet.marks if m.number > 1}
    resistors = {x.id for f in plan.feeds for x in edits.parts_of(f) if isinstance(x, Resistor)}
    assert parts - {m.id for m in sheet.marks} <= (resistors if folded else set())


# -- the sheet ------------------------------------------------------------------------------------------------


def test_a_sheet_folds_only_as_far_as_it_must():
    plan = deck_plan(windows=8, lamps=5)
    for i in range(55):
        plan = edits.add_lamp(plan, Lamp(id=f"more.{i:02d}", part="chip-0603-red", at=(3.0 + 2.8 * i, 4.0, 18.0)))
    assessment = assess(plan, built_in())
    wide = rails_of(plan, assessment, 850.0, 380.0)
    assert wide.folded == 0 and sum(m.kind == "lamp" for m in wide.marks) == 60 and wide.height <= 380.0
    small = rails_of(plan, assessment, 850.0, 90.0)
    assert small.folded > 0 and small.height <= 90.0
    assert sorted(i for m in small.marks if m.kind == "lamp" for i in m.lamps) == sorted(p.id for p in plan.lamps)


def test_marks_lie_inside_the_sheet_and_apart():
    plan, _ = edits.group_switch(deck_plan(lamps=5), [ONE, TWO], "stage")
    plan, _ = edits.put_before(plan, THREE, "regulator")
    sheet = rails_of(plan, assess(plan, built_in()), 700.0, 300.0)
    for m in sheet.marks:
        assert m.x >= 0 and m.x + m.w <= 700.0 and m.y >= 0 and m.y + m.h <= sheet.height
    boxes = [(m.x, m.y, m.x + m.w, m.y + m.h) for m in sheet.marks]
    for i, a in enumerate(boxes):
        for b in boxes[i + 1 :]:
            assert a[2] <= b[0] or b[2] <= a[0] or a[3] <= b[1] or b[3] <= a[1], "two symbols overlap"


def test_currents_along_a_rail_add_up():
    plan = deck_plan(lamps=4)
    assessment = assess(plan, built_in())
    sheet = rails_of(plan, assessment, 850.0, 150.0)
    plus = [x for x in sheet.leads if x.role == "plus"]
    assert max(x.current_a for x in plus) == pytest.approx(assessment.supply.draw_a, rel=1e-6)


def test_names_of_parts():
    assert id_of(LampRef(lamp="a")) == "a" and id_of(Regulated(id="u")) == "u"
    assert copy_unchecked(Regulated(id="u"), items=(LampRef(lamp="a"),)).items[0].lamp == "a"


def test_three_hundred_lamps_fit_by_folding():
    plan = deck_plan(windows=0, lamps=0)
    lamps = tuple(
        Lamp(
            id=f"l{i:03d}",
            part=("chip-0603-red", "chip-0805-warm-white")[i % 2],
            at=(0.5 * i, 0.0, 10.0),
            mount="outside",
        )
        for i in range(300)
    )
    plan = copy_unchecked(plan, lamps=lamps)
    sheet = rails_of(plan, assess(plan, built_in()), 850.0, 380.0)
    assert sheet.folded >= 1 and sheet.height <= 380.0 and sheet.column >= 30.0
    assert sorted(i for m in sheet.marks if m.kind == "lamp" for i in m.lamps) == [p.id for p in lamps]


def test_what_takes_current_is_told_from_what_is_only_on_the_way():
    from gwiazda.core.plan.model.circuit import holds

    lamp, ohms, fuse = LampRef(lamp="a"), Resistor(id="r", ohm=330.0), Fuse(id="f", rated_a=0.5)
    assert holds(lamp) and holds(Load(id="m", part="motor")) and holds(Regulated(id="u", part="x", volts=5.0))
    assert not holds(ohms) and not holds(fuse) and not holds(Switch(id="s"))
    assert holds(Series(id="x", items=(ohms, lamp))) and not holds(Series(id="y", items=(ohms, fuse)))
