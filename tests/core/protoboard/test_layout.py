"""Netlists on boards of holes: electrically what was asked for, buildable, and the same each time."""

from __future__ import annotations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.errors import PlanError
from gwiazda.core.protoboard.layout import PITCH_MM, Component, Layout, Placed, between, body, faults, joined, wanted
from gwiazda.core.protoboard.place import MOST_PARTS, laid_out

TIMER = (
    Component("U1", "timer", "dip", ("minus", "timing", "output", "plus", "control", "timing", "discharge", "plus")),
    Component("R1", "10k", "axial", ("plus", "discharge")),
    Component("R2", "47k", "axial", ("discharge", "timing")),
    Component("C1", "10 µF", "can", ("timing", "minus")),
    Component("C2", "10 nF", "disc", ("control", "minus")),
    Component("R3", "330", "axial", ("output", "lamp")),
    Component("W1", "plus", "lead", ("plus",)),
    Component("W2", "minus", "lead", ("minus",)),
    Component("W3", "to the lamp", "lead", ("lamp",)),
)


@pytest.mark.parametrize("kind", ["strip", "pad"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_timer_is_what_its_netlist_says_on_either_board(kind, seed):
    layout = laid_out(TIMER, kind, seed)
    assert joined(layout) == wanted(TIMER)
    assert not list(faults(layout))
    assert (layout.cuts != ()) == (kind == "strip") and (layout.runs != ()) == (kind == "pad")
    assert layout.columns * layout.rows <= 26 * 10
    chip = next(p for p in layout.placed if p.part.shape == "dip")
    # Down the left, up the right: pins one and eight face each other over three pitches.
    (x1, y1), (x8, y8) = chip.holes[0], chip.holes[7]
    assert y1 == y8 and x8 - x1 == 3 and chip.holes[4] == (x8, y1 + 3)
    assert laid_out(TIMER, kind, seed) == layout


@st.composite
def netlists(draw) -> tuple[Component, ...]:
    """A chip or none, a transistor or none, and parts and leads between its nets."""
    pins = draw(st.sampled_from((0, 8, 14)))
    names = [f"n{k}" for k in range(draw(st.integers(3, 7)))]
    parts: list[Component] = []
    if pins:
        parts.append(Component("U1", "chip", "dip", tuple(draw(st.sampled_from(["", *names])) for _ in range(pins))))
    for k in range(draw(st.integers(0, 2))):
        parts.append(Component(f"Q{k}", "npn", "to92", tuple(draw(st.permutations(names))[:3])))
    for k in range(draw(st.integers(1, 8))):
        a, b = draw(st.permutations(names))[:2]
        parts.append(Component(f"P{k}", "part", draw(st.sampled_from(("axial", "diode", "disc", "can"))), (a, b)))
    for k, n in enumerate(draw(st.lists(st.sampled_from(names), max_size=4, unique=True))):
        parts.append(Component(f"W{k}", "wire", "lead", (n,)))
    return tuple(parts)


@settings(max_examples=60, deadline=None)
@given(netlists(), st.sampled_from(("strip", "pad")))
def test_what_is_found_for_any_netlist_is_electrically_it_and_can_be_built(parts, kind):
    try:
        layout = laid_out(parts, kind, tries=60)
    except PlanError:
        return
    assert joined(layout) == wanted(parts) and not list(faults(layout))
    assert {p.part.ref for p in layout.placed} == {c.ref for c in parts}


def test_most_netlists_find_a_board():
    import random

    dice, found = random.Random(5), 0
    for _ in range(20):
        names = [f"n{k}" for k in range(5)]
        parts = [Component("U1", "chip", "dip", tuple(dice.choice(names) for _ in range(8)))]
        parts += [
            Component(f"P{k}", "part", dice.choice(("axial", "disc", "diode")), tuple(dice.sample(names, 2)))
            for k in range(6)
        ]
        try:
            laid_out(parts, "strip", tries=200)
            found += 1
        except PlanError:
            pass
    assert found >= 18


def test_a_counter_with_ten_resistors_and_twenty_resistors_alone_come_out():
    outputs = [f"q{k}" for k in range(10)]
    nets = ("q5", "q1", "q0", "q2", "q6", "q7", "q3", "minus", "q8", "q4", "q9", "", "minus", "clock", "minus", "plus")
    parts = [Component("U1", "counter", "dip", nets)]
    parts += [Component(f"R{k}", "330", "axial", (q, f"lamp {k}")) for k, q in enumerate(outputs)]
    parts += [Component(f"W{k}", "lamp", "lead", (f"lamp {k}",)) for k in range(10)]
    parts += [
        Component("W10", "plus", "lead", ("plus",)),
        Component("W11", "minus", "lead", ("minus",)),
        Component("W12", "clock", "lead", ("clock",)),
    ]
    layout = laid_out(parts)
    assert joined(layout) == wanted(parts) and layout.rows <= 12
    many = [Component("W0", "plus", "lead", ("plus",))]
    for k in range(MOST_PARTS):
        many += [
            Component(f"R{k}", "1k", "axial", ("plus", f"far {k}")),
            Component(f"W{k + 1}", "lamps", "lead", (f"far {k}",)),
        ]
    layout = laid_out(many, tries=120)
    assert joined(layout) == wanted(many)
    assert layout.rows == MOST_PARTS / 2  # two to a row, each over a cut


def test_too_much_is_refused_with_what_is_accepted():
    chip = Component("U1", "chip", "dip", ("a",) * 8)
    with pytest.raises(PlanError, match="one chip"):
        laid_out([chip, chip._replace(ref="U2")])
    parts = [Component(f"R{k}", "1k", "axial", ("a", f"b{k}")) for k in range(MOST_PARTS + 1)]
    with pytest.raises(PlanError, match="up to 20"):
        laid_out(parts)


def test_joints_are_told_by_holes_alone_and_faults_are_seen():
    a, b = Component("A", "", "lead", ("x",)), Component("B", "", "lead", ("x",))
    row = Layout("strip", 5, 2, (Placed(a, ((0, 0),)), Placed(b, ((4, 0),))))
    assert joined(row) == wanted((a, b))
    cut = row._replace(cuts=((2, 0),))
    assert joined(cut) == frozenset({frozenset({("A", 1)}), frozenset({("B", 1)})})
    linked = cut._replace(links=(((1, 0), (1, 1)), ((3, 1), (3, 0))))
    assert joined(linked) == wanted((a, b))
    assert joined(row._replace(kind="pad")) != wanted((a, b))
    assert joined(row._replace(kind="pad", runs=((0, 0, 4),))) == wanted((a, b))
    assert list(faults(row._replace(cuts=((4, 0),)))) and list(faults(row._replace(links=(((0, 0), (0, 1)),))))
    assert list(faults(row._replace(columns=4)))
    over = Layout(
        "strip", 5, 3, (Placed(Component("C", "", "can", ("x", "y")), ((1, 0), (1, 1))), Placed(a, ((2, 1),)))
    )
    assert list(faults(over)) and (2, 1) in body(over.placed[0])
    assert between((1, 2), (1, 0)) == [(1, 0), (1, 1), (1, 2)]
    assert row.size_mm == pytest.approx((5 * PITCH_MM, 2 * PITCH_MM))
