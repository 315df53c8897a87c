"""Cells with their holder, boards and motors as bodies that go into a section or not, and what would."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bodies.places import put_there, turned
from gwiazda.core.assess.bodies.powering import Power, powered, what_is_added
from gwiazda.core.assess.bodies.reed import reed_of
from gwiazda.core.assess.bodies.rooms import goes_in, instead, rooms_of
from gwiazda.core.assess.bodies.sizes import holder_sizes
from gwiazda.core.findings.outcome import outcome_of
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Board, Box, Load, Obstacle, Plan, Regulated, Section, Supply, Switch, copy_unchecked
from gwiazda.core.plan.storage import PlanFile

CATALOGUE = built_in()


def on_base(size, part: str = "block-9v", cells: int = 1, stands: tuple[Obstacle, ...] = ()) -> Plan:
    """A deck over a base of an inner size, mm, with its source in it."""
    base = Section(id="base", name="Base", box=Box(at=(0.0, -22.0, -60.0), size=size), obstacles=stands)
    deck = deck_plan(lamps=2)
    plan = copy_unchecked(deck, sections=(*deck.sections, edits.outline_from_box(base)))
    return edits.set_feed(edits.set_supply(plan, part=part, in_series=cells), "supply", home="base")


def said(plan: Plan):
    return [f for f in evaluate_rules(plan, assess(plan, CATALOGUE)) if f.rule == "no-room"]


def test_holders_by_hand():
    aa = CATALOGUE.sources["aa-alkaline"]
    # One cell: 50.5 + 7.5 long, 14.5 + .8 + 1.5 wide, 14.5 + .8 high.
    assert [pytest.approx(s) for s in holder_sizes(aa, 1)] == [(58.0, 16.8, 15.3)]
    four = holder_sizes(aa, 4)
    assert four[0] == pytest.approx((58.0, 62.7, 15.3)) and any(s == pytest.approx((58.0, 32.1, 30.6)) for s in four)
    assert any(s == pytest.approx((116.0, 32.1, 15.3)) for s in four), "two pairs end to end"
    x, y, z = aa.size_mm
    assert all(a * b * c >= 4 * x * y * z for a, b, c in four), "no holder is smaller than its cells"
    assert holder_sizes(CATALOGUE.sources["adapter-9v-0.5a"], 1) == (), "an adapter stays outside"


def test_a_block_of_48_mm_does_not_go_into_a_base_of_29():
    """The block is 56 × 27 × 18 mm with its clip: a base 29 mm high and 29 wide has no room for it, one 60 long has."""
    (finding,) = said(on_base((50.0, 29.0, 29.0)))
    assert finding.subject == "supply" and finding.severity == "stop"
    assert finding.sentence == "9 V block (6LR61) does not go into Base: it needs 56 mm and Base is 50 mm long inside."
    assert (
        said(on_base((56.5, 29.0, 29.0)))
        == []
        == said(on_base((29.0, 56.5, 29.0)))
        == said(on_base((29.0, 29.0, 56.5)))
    )
    # 17.9 mm high: it can't be laid on any side of it.
    (flat,) = said(on_base((80.0, 60.0, 17.0)))
    assert "it needs 18 mm and Base is 17 mm high inside" in flat.sentence


def test_each_offer_ends_it_and_names_a_source_that_goes_in():
    plan = on_base((53.0, 50.0, 16.0), "aa-alkaline", 4)
    (finding,) = said(plan)
    # Flat they are 58 × 62.7 × 15.3: 5 mm longer and 13 wider; two by two 58 × 32.1 × 30.6 would make it another base.
    assert [f.label for f in finding.fixes] == [
        "Base 5 mm longer and 13 mm wider",
        "4 × AAA alkaline cell",
        "It stays outside, on the table",
    ]
    assessment = assess(plan, CATALOGUE)
    known = frozenset((f.rule, i) for f in evaluate_rules(plan, assessment) for i in f.subjects)
    for fix in finding.fixes:
        assert said(fix.applied(plan)) == [], fix.label
        outcome = outcome_of(plan, CATALOGUE, finding, fix, known)
        assert outcome is not None and outcome.helps, fix.label


def test_what_stands_there_already_takes_its_room():
    rib = Obstacle(id="rib", kind="rib", box=Box(at=(30.0, -22.0, -60.0), size=(2.0, 40.0, 20.0)))
    (finding,) = said(on_base((60.0, 40.0, 20.0), stands=(rib,)))
    assert finding.sentence.endswith("what stands in Base already leaves no place for it.")
    assert said(on_base((60.0, 40.0, 20.0), stands=(copy_unchecked(rib, action="cut"),))) == []


def test_boards_regulators_and_motors_want_their_room_too():
    plan = on_base((60.0, 40.0, 20.0))
    plan = copy_unchecked(plan, boards=(Board(id="flash", part="relay-4", home="base"),))
    assert [f.subject for f in said(plan)] == ["flash"]
    small = copy_unchecked(plan, boards=(Board(id="flash", part="timer-cmos", home="base"),))
    # The block lies there, 27 of 40 mm wide: a board of 25 × 18 × 10 has no room beside or upon it, but on its edge.
    where = {r.body.of: r.box for r in rooms_of(CATALOGUE, small)}
    assert where["flash"] is not None and sorted(where["flash"].size) == [10.0, 18.0, 25.0]
    node = Regulated(id="reg", part="regulator-classic", home="base")
    feeds = tuple(
        copy_unchecked(f, items=(node, Load(id="m", part="gear-motor-6v", home="deck1"))) for f in small.feeds
    )
    both = {r.body.of: r for r in rooms_of(CATALOGUE, copy_unchecked(small, feeds=feeds))}
    assert both["reg"].box is not None and both["m"].body.section == "deck1" and both["m"].body.kind == "motor"


def test_it_is_put_there_turned_and_kept(tmp_path):
    plan = on_base((70.0, 60.0, 30.0))
    put = put_there(CATALOGUE, plan, "supply")
    (body,) = section_of(put, "base").obstacles
    assert body.of == "supply" and body.kind == "pack" and body.reached and said(put) == []
    again = put_there(CATALOGUE, put, "supply")
    assert section_of(again, "base").obstacles[0].box == body.box and len(section_of(again, "base").obstacles) == 1
    other = turned(CATALOGUE, put, "supply")
    (now,) = section_of(other, "base").obstacles
    assert (
        now.id == body.id
        and now.box.size != body.box.size
        and sorted(now.box.size) == sorted(body.box.size)
        and said(other) == []
    )
    storage.save(PlanFile(other, {}), tmp_path / "b.gwiazda")
    assert storage.load(tmp_path / "b.gwiazda").plan == other
    # Light, lamps and wires keep clear of it: it stands among the obstacles, and is counted once.
    assert [r.put for r in rooms_of(CATALOGUE, other)] == [True]


def test_a_place_made_for_another_source_is_found_and_made_anew():
    plan = put_there(CATALOGUE, on_base((190.0, 60.0, 20.0)), "supply")
    cells = edits.set_supply(plan, part="aa-alkaline", in_series=6)
    (finding,) = said(cells)
    assert "its place there has 56 × 27 × 18" in finding.sentence and finding.fixes[0].label == "Find it another place"
    after = finding.fixes[0].applied(cells)
    assert said(after) == [] and len(section_of(after, "base").obstacles) == 1
    taken = powered(CATALOGUE, plan, Power("supply", Supply(part="aa-alkaline", in_series=6), "base", 0.02))
    assert said(taken) == [] and section_of(taken, "base").obstacles[0].name == "6 × AA alkaline cell"


def test_a_pack_drawn_by_hand_is_the_source_s():
    hand = Obstacle(id="p", kind="pack", box=Box(at=(1.0, -20.0, -60.0), size=(58.0, 33.0, 15.5)))
    plan = on_base((60.0, 40.0, 20.0), "aa-alkaline", 2, (hand,))
    assert said(plan) == [] and rooms_of(CATALOGUE, plan)[0].put


def test_what_would_fit_instead_fits():
    plan = on_base((110.0, 30.0, 24.0))
    feed = plan.feeds[0]
    found = instead(CATALOGUE, plan, feed, 0.01)
    assert found
    for supply in found:
        assert goes_in(CATALOGUE, plan, feed, supply)
        assert said(edits.set_feed(plan, "supply", supply=supply)) == []
    assert not goes_in(CATALOGUE, plan, feed, Supply(part="d-alkaline", in_series=6))
    assert goes_in(CATALOGUE, edits.set_feed(plan, "supply", home=""), plan.feeds[0], Supply(part="adapter-9v-0.5a"))


def with_reed(y: float, stands: tuple[Obstacle, ...] = ()) -> Plan:
    """A base 60 × 40 × 20 mm, walls of 1.2 mm, with a reed of 20 × 3 × 3 lying so far (mm) from its starboard wall, and its battery outside."""
    place = Obstacle(id="r", kind="switch", of="sw", box=Box(at=(20.0, -22.0 + y, -52.0), size=(20.0, 3.0, 3.0)))
    plan = on_base((60.0, 40.0, 20.0), stands=(place, *stands))
    plan = edits.set_feed(plan, "supply", home="")
    head = (Switch(id="sw", kind="reed", home="base"),)
    return copy_unchecked(plan, feeds=(copy_unchecked(plan.feeds[0], head=head),))


def reed(plan: Plan):
    return reed_of(CATALOGUE, plan, plan.feeds[0].head[0])


def deep(plan: Plan):
    return [f for f in evaluate_rules(plan, assess(plan, CATALOGUE)) if f.rule == "reed-too-deep"]


def test_does_a_magnet_work_it_through_the_wall_by_hand():
    # Against the wall: 1.2 of wall and half of its 3 mm are 2.7. A disc reaches 12, a cube 18.
    assert reed(with_reed(0.0)).depth_mm == pytest.approx(2.7) and deep(with_reed(0.0)) == []
    # In the corner it points at one wall and lies along two: 2.7 counts, not 1.2 and half of its 20.
    corner = copy_unchecked(
        with_reed(0.0),
        sections=tuple(
            copy_unchecked(
                s, obstacles=tuple(copy_unchecked(o, box=Box(at=s.box.at, size=o.box.size)) for o in s.obstacles)
            )
            for s in with_reed(0.0).sections
        ),
    )
    assert reed(corner).depth_mm == pytest.approx(2.7)
    # Under it are 8 mm to the floor, so 12 mm from the side it is worked through the floor: 8 + 1.2 + 1.5.
    assert reed(with_reed(12.0)).depth_mm == pytest.approx(10.7) and reed(with_reed(12.0)).axis == 2
    # Steel cells within 10 mm take half of a magnet's reach: the disc closes it to 6 mm, the cube to 9.
    cells = Obstacle(id="p", kind="pack", of="other", box=Box(at=(20.0, -22.0 + 17.0, -52.0), size=(20.0, 10.0, 10.0)))
    near = reed(with_reed(6.0, (cells,)))
    assert near.steel and near.depth_mm == pytest.approx(8.7) and near.works == ("cube magnet of 10 mm",)
    (finding,) = deep(with_reed(6.0, (cells,)))
    assert finding.severity == "look" and "steel beside it" in finding.sentence
    (worse,) = deep(with_reed(10.0, (cells,)))
    assert worse.severity == "stop", "10.7 mm deep no magnet of the list closes it"
    after = worse.fixes[0].applied(with_reed(10.0, (cells,)))
    assert reed(after).depth_mm == pytest.approx(2.7) and deep(after) == []


def test_a_switch_with_a_home_wants_its_place():
    plan = with_reed(0.0)
    assert [(r.body.name, r.put) for r in rooms_of(CATALOGUE, plan)] == [("Switch", True)]
    bare = edits.set_fields(plan, ["base"], obstacles=())
    (room,) = rooms_of(CATALOGUE, bare)
    assert room.body.kind == "switch" and room.box is not None and not room.put and reed(bare) is None
    assert reed(put_there(CATALOGUE, bare, "sw")) is not None


def test_powered_in_one_step_from_a_bare_plan():
    """A hull 30 mm over a base: cells with their place, a fuse above 1.5 times the current, a switch with its place, a stand for the leads."""
    deck = deck_plan(lamps=3)
    base = edits.outline_from_box(
        Section(id="base", name="Base", box=Box(at=(0.0, -40.0, -60.0), size=(160.0, 80.0, 28.0)))
    )
    plan = copy_unchecked(deck, sections=(*deck.sections, base))
    power = Power("supply", Supply(part="aa-alkaline", in_series=6), "base", 0.11)
    assert what_is_added(plan, power) == ("a fuse of 200 mA", "a switch", "a stand from Deck 1"), "1.5 × 110 mA is 165"
    after = powered(CATALOGUE, plan, power)
    feed = after.feeds[0]
    assert (feed.home, feed.supply.in_series, feed.head[0].rated_a, feed.head[1].home) == ("base", 6, 0.2, "base")
    assert {r.body.of: r.put for r in rooms_of(CATALOGUE, after)} == {"supply": True, feed.head[1].id: True} and said(
        after
    ) == []
    (stand,) = after.passages
    assert stand.tube is not None and (stand.section, stand.into) == ("deck1", "base")
    assert what_is_added(after, power) == () and powered(CATALOGUE, after, power).passages == after.passages
    # Another source: the fuse that bears it stays, the first place goes.
    block = powered(CATALOGUE, after, Power("supply", Supply(part="block-9v"), "base", 0.05))
    assert block.feeds[0].head == feed.head and [
        o.name for o in section_of(block, "base").obstacles if o.of == "supply"
    ] == ["9 V block (6LR61)"]
    table = powered(CATALOGUE, block, Power("supply", Supply(part="adapter-9v-0.5a"), "", 0.05))
    assert not any(o.of == "supply" for o in section_of(table, "base").obstacles) and table.feeds[0].home == ""
    strong = powered(CATALOGUE, block, Power("supply", Supply(part="adapter-9v-0.5a"), "base", 0.4))
    assert strong.feeds[0].head[0].rated_a == 0.63


def test_a_base_made_larger_keeps_its_top_and_its_middle():
    plan = on_base((56.5, 40.0, 17.0))
    (finding,) = said(plan)
    assert finding.fixes[0].label == "Base 1 mm higher"
    after = finding.fixes[0].applied(plan)
    before, base = section_of(plan, "base"), section_of(after, "base")
    assert (
        base.box.size == (56.5, 40.0, 18.0) and base.box.at[2] + 18.0 == before.box.at[2] + 17.0 and said(after) == []
    )
    for a, b in zip(before.outlines, base.outlines, strict=True):
        if a.side == "port":
            assert max(q for _, q in b.points) == pytest.approx(max(q for _, q in a.points))
            assert min(q for _, q in b.points) == pytest.approx(min(q for _, q in a.points) - 1.0)
    wider = section_of(edits.grow_section(plan, "base", 1, 4.0), "base")
    assert wider.box.at[1] == before.box.at[1] - 2.0 and wider.box.size[1] == 44.0
    deck = edits.set_feed(plan, "supply", home="deck1")
    deck = edits.set_supply(deck, part="d-alkaline", in_series=4)
    (windows,) = said(deck)
    assert not any(f.label.startswith("Deck 1") for f in windows.fixes), "a part with windows is as the kit has it"
