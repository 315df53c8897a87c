"""Switches and sockets in their walls: through which face they come, what is free before it, their holes; by hand and by brute force."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.holes import chosen_holes, numbered_holes
from gwiazda.core.assess.assembly.materials import material_rows
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bodies.mounts import FINGER_MM, free_before, mounted, mounts_of
from gwiazda.core.assess.bodies.places import put_there
from gwiazda.core.assess.bodies.powering import Power, powered, two_switches
from gwiazda.core.assess.bodies.rooms import rooms_of
from gwiazda.core.assess.bodies.sizes import switches_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Box, Lamp, Obstacle, Plan, Section, Supply, Switch, Wanted, copy_unchecked
from gwiazda.core.plan.storage import PlanFile

CAT = built_in()


def base_with(*head, part: str = "adapter-9v-0.5a", size=(60.0, 40.0, 20.0), stands=(), more=()) -> Plan:
    """A deck over a base, what is in the feed's head at home there."""
    base = Section(id="base", name="Base", box=Box(at=(0.0, -20.0, -60.0), size=size), obstacles=stands)
    deck = deck_plan(lamps=1)
    plan = copy_unchecked(deck, sections=(*deck.sections, edits.outline_from_box(base), *more))
    return edits.set_feed(edits.set_supply(plan, part=part), "supply", home="base", head=head)


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def test_an_adapter_in_a_base_is_its_socket_in_a_wall_with_its_hole_bought_and_drilled():
    plan = base_with()
    (room,) = rooms_of(CAT, plan)
    assert room.body.kind == "socket" and room.body.sizes == ((15.0, 11.0, 11.0),)
    plan = put_there(CAT, plan, "supply")
    (m,) = mounts_of(CAT, plan)
    assert m.reached and m.face not in (None, "top", "bottom") and m.free_mm == float("inf")
    assert not of(plan, "not-got-at")
    (hole,) = [h for h in numbered_holes(CAT, plan) if h.bore.of == "supply"]
    assert hole.bore.drill.hole_mm == 8.0 and hole.bore.side == m.face and hole.bore.section == "base"
    assert ("socket", "barrel") in {(k, p) for k, p, *_ in material_rows(CAT, plan)}


def test_a_switch_has_its_hole_on_the_template_once_it_stands_at_a_wall():
    plan = base_with(Switch(id="sw", kind="slide", home="base"))
    assert [c.use for c in chosen_holes(CAT, plan)] and not [h for h in numbered_holes(CAT, plan) if h.bore.of == "sw"]
    plan = put_there(CAT, plan, "sw")
    place = next(o for o in section_of(plan, "base").obstacles if o.of == "sw")
    assert not chosen_holes(CAT, plan)
    (hole,) = [h for h in numbered_holes(CAT, plan) if h.bore.of == "sw"]
    # Its 10 mm go into a side wall: it is 12 or 6 wide and high there.
    axis = {"bow": 0, "stern": 0, "port": 1, "starboard": 1}[hole.bore.side]
    assert place.box.size[axis] == 10.0 and hole.bore.drill.hole_mm == 4.0


def test_turned_away_or_in_the_middle_it_is_found_and_put_right():
    middle = Obstacle(id="o", kind="switch", of="sw", box=Box(at=(20.0, -5.0, -55.0), size=(10.0, 12.0, 6.0)))
    plan = base_with(Switch(id="sw", kind="slide", home="base"), part="aa-alkaline", stands=(middle,))
    (found,) = of(plan, "not-got-at")
    assert "at no wall" in found.sentence and not of(found.fixes[0].applied(plan), "not-got-at")
    lying = edits.set_fields(
        plan, ["base"], obstacles=(copy_unchecked(middle, box=Box(at=(0.0, -5.0, -60.0), size=(12.0, 6.0, 10.0))),)
    )
    (m,) = mounts_of(CAT, lying)
    assert m.face == "bottom" and m.free_mm == 0.0, "its 10 mm stand upright: through the floor, on the table"
    assert "what it stands on leaves 0 mm" in of(lying, "not-got-at")[0].sentence


def test_what_stands_before_it_leaves_no_room_for_a_finger():
    box = Box(at=(0.0, -5.0, -58.0), size=(10.0, 12.0, 6.0))
    switch = Obstacle(id="o", kind="switch", of="sw", box=box)
    other = Section(id="pier", name="Pier", box=Box(at=(-40.0, -20.0, -60.0), size=(30.0, 40.0, 20.0)), wall_mm=1.2)
    plan = base_with(Switch(id="sw", kind="slide", home="base"), part="aa-alkaline", stands=(switch,), more=(other,))
    (m,) = mounts_of(CAT, plan)
    # The pier ends at −10 and its wall at −8.8; the base's own wall reaches to −1.2: 7.6 mm.
    assert m.face == "stern" and m.free_mm == pytest.approx(7.6) and m.before == "Pier" and not m.reached
    (found,) = of(plan, "not-got-at")
    assert "Pier leaves 7.6 mm before it where a finger wants 15" in found.sentence
    mended = found.fixes[0].applied(plan)
    assert mounts_of(CAT, mended)[0].reached and mounts_of(CAT, mended)[0].face != "stern"


def test_a_reed_needs_no_hole():
    plan = put_there(CAT, base_with(Switch(id="sw", kind="reed", home="base"), part="aa-alkaline"), "sw")
    assert not [h for h in numbered_holes(CAT, plan) if h.bore.of == "sw"] and not mounts_of(CAT, plan)


@settings(max_examples=40, deadline=None)
@given(
    st.tuples(st.integers(8, 40), st.integers(8, 40), st.integers(8, 40)),
    st.lists(
        st.tuples(
            st.integers(0, 30),
            st.integers(0, 30),
            st.integers(0, 30),
            st.integers(2, 20),
            st.integers(2, 20),
            st.integers(2, 20),
        ),
        max_size=3,
    ),
)
def test_a_place_at_a_wall_is_found_where_a_grid_finds_one(room, blocks):
    """Integer sizes: every place on a grid of 1 mm, every way round, against the search."""
    low = (0, -20, -60)
    stands = tuple(
        Obstacle(
            id=f"b{k}",
            kind="bulkhead",
            box=Box(at=tuple(float(a + b) for a, b in zip(low, x[:3], strict=True)), size=tuple(map(float, x[3:]))),
        )
        for k, x in enumerate(blocks)
    )
    plan = base_with(
        Switch(id="sw", kind="slide", home="base"), part="aa-alkaline", size=tuple(map(float, room)), stands=stands
    )

    def grid() -> bool:
        for size in set(itertools.permutations((12, 6, 10))):
            axes = [k for k in range(3) if size[k] == 10]
            if any(s > r for s, r in zip(size, room, strict=True)):
                continue
            for at in itertools.product(*(range(r - s + 1) for s, r in zip(size, room, strict=True))):
                if not any(at[k] in (0, room[k] - 10) for k in axes):
                    continue
                if all(any(at[k] + size[k] <= b[k] or at[k] >= b[k] + b[k + 3] for k in range(3)) for b in blocks):
                    return True
        return False

    found = mounted(CAT, plan, "sw")
    assert (found is not plan) == grid()
    if found is not plan:
        (m,) = mounts_of(CAT, found)
        assert m.face is not None
        free, _ = free_before(found, section_of(found, "base"), m.face, m.at)
        assert m.reached == (free >= FINGER_MM)


def test_windows_and_lights_outside_on_two_switches_in_place_of_one(tmp_path):
    """A switch for all becomes one for what lights the inside and one for what is seen itself; each has its place, and works only its own."""
    plan = base_with(Switch(id="main", kind="slide", home="base"))
    deck = section_of(plan, "deck1").box
    seen = Lamp(
        id="mast",
        part="chip-0603-red",
        at=(deck.centre[0], 0.0, deck.at[2] + deck.size[2] + 20.0),
        mount="outside",
        wanted=Wanted(look="normal"),
    )
    plan = put_there(CAT, put_there(CAT, edits.add_lamp(plan, seen), "supply"), "main")
    apart = two_switches(CAT, plan, "supply")
    switches = {x.group: x for x in switches_of(apart)}
    assert set(switches) == {"windows", "outside"} and not [x for x in apart.feeds[0].head if isinstance(x, Switch)]
    assert {m.of for m in mounts_of(CAT, apart)} == {"supply", *(x.id for x in switches.values())} and not of(
        apart, "not-got-at"
    )
    before, after = assess(plan, CAT), assess(apart, CAT)
    assert all(after.lamps[i].current_a == pytest.approx(before.lamps[i].current_a, rel=1e-3) for i in before.lamps)
    dark = assess(edits.set_part(apart, switches["windows"].id, closed=False), CAT)
    assert dark.lamps["deck1.lamp.01"].current_a == pytest.approx(0.0, abs=1e-9) and dark.lamps[
        "mast"
    ].current_a == pytest.approx(after.lamps["mast"].current_a, rel=0.02)
    assert two_switches(CAT, apart, "supply") is apart, "once is enough"
    assert two_switches(CAT, base_with(), "supply") is not None
    alone = base_with(Switch(id="main", home="base"))
    assert two_switches(CAT, alone, "supply") is alone, "nothing is seen outside: one switch will do"
    storage.save(PlanFile(apart, {}), tmp_path / "t.gwiazda")
    assert storage.load(tmp_path / "t.gwiazda").plan == apart


def test_an_adapter_is_taken_with_its_socket_in_one_step():
    plan = base_with(part="aa-alkaline")
    plan = put_there(CAT, edits.set_supply(plan, "supply", in_series=2), "supply")
    done = powered(CAT, plan, Power("supply", Supply(part="adapter-9v-0.5a"), "base", 0.02))
    kinds = sorted(o.kind for o in section_of(done, "base").obstacles)
    assert kinds == ["socket", "switch"] and not of(done, "not-got-at") and all(m.reached for m in mounts_of(CAT, done))


def test_what_is_charged_says_how_at_its_source_and_its_step():
    plan = base_with(part="aa-nimh")
    step = next(s for s in steps_of(CAT, plan) if s.kind == "base")
    assert (
        "charger made for NiMH" in step.detail
        and CAT.sources["li-ion-18650"].charging
        and not CAT.sources["aa-alkaline"].charging
    )
