"""One lamp tried with resistors of the drawer: what is said of each is what a plan with that lamp alone comes to."""

from __future__ import annotations

import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.lamp.tryout import Bench, bench_for, changed_by, three_of
from gwiazda.core.assess.lights.looks import with_look, words_kept
from gwiazda.core.light.staircase import Comparison
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Feed, Kit, Lamp, Opening, Plan, Section, Supply, ViewingConditions, Wanted
from gwiazda.core.workshop.workshop import Workshop

CAT = built_in()


def plan_of(lamps: int = 3, mount: str = "inside", **room: object) -> Plan:
    deck = Section(id="deck", name="Deck", box=Box(at=(0, 0, 0), size=(80, 30, 20)), glazing="mist-1")
    return Plan(
        kit=Kit(name="Box", scale=200),
        room=ViewingConditions(**{"lux": 50.0, "looks": "room", **room}),
        sections=(deck,),
        openings=tuple(
            Opening(id=f"pane.{k}", section="deck", side="port", at=(8.0 + 12 * k, 30.0, 8.0)) for k in range(5)
        ),
        lamps=tuple(
            Lamp(id=f"lamp.{k}", part="chip-0805-warm-white", at=(12.0 + 25 * k, 15, 15), mount=mount)
            for k in range(lamps)
        ),
        feeds=(Feed(id="supply", supply=Supply(part="block-9v")),),
    )


def bench_of(plan: Plan, lamp: str = "lamp.0", catalogue=CAT) -> Bench:
    found = bench_for(plan, assess(plan, catalogue), lamp)
    assert isinstance(found, Bench), found
    return found


def test_each_level_is_what_the_lamp_alone_gives_behind_that_pane() -> None:
    bench = bench_of(plan_of())
    assert len(bench.ohms) >= 10 and list(bench.ohms) == sorted(bench.ohms, reverse=True)
    assert list(bench.levels) == sorted(bench.levels)
    for k in range(0, len(bench.ohms), 4):
        alone = edits.set_resistor(plan_of(1), ["lamp.0"], bench.ohms[k])
        found = assess(alone, CAT)
        brightest = max(o.luminance_cd_m2 for o in found.openings.values())
        assert brightest / bench.usual == pytest.approx(bench.levels[k], rel=0.015)
        assert found.lamps["lamp.0"].fresh_a <= found.lamps["lamp.0"].rated_a * 1.001, "safe while the block is fresh"


def test_a_lamp_seen_itself_is_told_by_what_it_gives_straight_on() -> None:
    bench = bench_of(plan_of(1, "outside"))
    assert bench.unit == "mcd" and "straight on" in bench.held
    fixed = assess(edits.set_resistor(plan_of(1, "outside"), ["lamp.0"], bench.ohms[4]), CAT)
    assert fixed.lamps["lamp.0"].axial_cd * 1e3 / bench.usual == pytest.approx(bench.levels[4], rel=0.01)


@pytest.mark.parametrize(
    ("change", "word"),
    [
        (lambda p: edits.set_fields(p, ["lamp.0"], mount="fibre"), "tips"),
        (lambda p: edits.set_fields(p, ["lamp.0"], part="gone"), "catalogue"),
        (lambda p: edits.set_fields(p, [o.id for o in p.openings], lit=0.0), "window"),
    ],
)
def test_where_nothing_can_be_held_it_says_why(change, word: str) -> None:
    plan = change(plan_of())
    found = bench_for(plan, assess(plan, CAT), "lamp.0")
    assert isinstance(found, str) and word in found


def test_a_drawer_of_two_values_is_too_small() -> None:
    small = CAT.with_own({}, (1000.0, 4700.0))
    plan = edits.set_drawer(plan_of(), series="stock")
    found = bench_for(plan, assess(plan, small), "lamp.0")
    assert isinstance(found, str) and "2 values" in found and "three" in found
    three = three_of(bench_of(plan, catalogue=CAT.with_own({}, (1000.0, 4700.0, 22000.0))), ())
    assert three.ohms == (22000.0, 4700.0, 1000.0)


def test_what_one_likes_moves_every_word_and_the_resistors_with_it() -> None:
    plan = plan_of()
    bench = bench_of(plan)
    bright = Workshop().with_compared([Comparison((0.9, 1.4, 2.2), "right", bench.setup)] * 4)
    assert bright.catalogue.brightness_scale == bright.scale.value > 1.5
    usual, mine = looks_of(CAT, plan), looks_of(bright.catalogue, plan)
    for word in ("barely", "soft", "normal", "bright"):
        assert mine.pane(word) / usual.pane(word) == pytest.approx(bright.scale.value, rel=0.01)
        assert mine.point(word) / usual.point(word) == pytest.approx(bright.scale.value, rel=0.01)
    found = assess(plan, bright.catalogue)
    assert found.looks == mine
    changed = changed_by(plan, found, bench)
    assert (changed.usual, changed.now) == (bench.usual, mine.pane("normal"))
    assert changed.resistors == changed.of == 3 and changed.after_ohm < changed.before_ohm
    assert changed.name.startswith("Deck")


def test_where_words_are_fixed_what_one_likes_changes_nothing() -> None:
    plan = plan_of(looks="fixed")
    mine = CAT.with_scale(2.0)
    assert looks_of(mine, plan) == looks_of(CAT, plan)
    assert changed_by(plan, assess(plan, mine), bench_of(plan)).resistors == 0
    typed = edits.set_wanted(plan_of(), ["lamp.0", "lamp.1", "lamp.2"], Wanted(cd_m2=30.0))
    assert changed_by(typed, assess(typed, mine), bench_of(typed)).resistors == 0, "nor what is asked in figures"


def test_tips_that_are_as_bright_as_a_word_says_stay_so(demo: Plan) -> None:
    plan = edits.set_room(demo, looks="room", lux=50.0)
    light = next(x.id for x in plan.lights if any(d.light == x.id for d in plan.dots))
    plan = with_look(CAT, plan, light, "normal")
    mine = CAT.with_scale(2.0)
    kept = words_kept(mine, plan, plan, CAT)
    tips = [d.wanted_mcd for d in kept.dots if d.light == light]
    assert tips and set(tips) == {looks_of(mine, plan).point("normal")}
    assert words_kept(mine, plan, plan, mine) is plan
