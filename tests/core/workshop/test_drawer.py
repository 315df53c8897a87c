"""The drawer: CSV in and out, what is kept for other plans, what is left to buy, what serves instead."""

from __future__ import annotations

import csv
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.choices.substitute import substitutes, swaps, with_part
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.report import shopping_csv, shopping_rows
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.storage import load
from gwiazda.core.workshop.buying import buying, cost_words, to_keep
from gwiazda.core.workshop.drawer_csv import BY_METRE, KINDS, Held, drawer_from_csv, drawer_to_csv, key_of
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop
from gwiazda.demos import path_of

CAT = built_in()
HEAD = "kind,part,count,where\n"
WORDS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc", "Cs", "Z")), min_size=1, max_size=20)


def held(kind: str, part: str, count: float, where: str = "") -> dict:
    h = Held(kind, part, count, where)
    return {h.key: h}


@given(st.lists(st.tuples(st.sampled_from(KINDS), WORDS, st.integers(0, 9999), WORDS), max_size=12))
def test_a_drawer_written_is_read_again(rows):
    drawer = {}
    for kind, part, count, where in rows:
        drawer |= held(
            kind,
            f"{10 + len(part)}" if kind == "resistor" else part,
            count / 4 if kind in BY_METRE else float(count),
            where,
        )
    assert drawer_from_csv(drawer_to_csv(drawer.values())) == drawer


def test_a_resistor_is_the_same_however_it_is_written():
    drawer = drawer_from_csv(
        HEAD + "resistor,4k7,20,tin\nResistor,4.7 kΩ,5,\nlamp,Round-3-White,3,\nfibre,pmma-050,250 cm,roll\n"
    )
    assert drawer[key_of("resistor", "4700")] == Held("resistor", "4700", 25.0, "tin")
    assert drawer[key_of("lamp", "round-3-white")].amount == 3 and drawer[key_of("fibre", "pmma-050")].amount == 2.5
    assert drawer_from_csv("ohm,count\n470,20\n1k,\n")[key_of("resistor", "470 Ω")].amount == 20, "an older list"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "row 1"),
        ("part,number\nx,1", "heading"),
        (HEAD + "sofa,red,1,", "row 2: “sofa” is no kind"),
        (HEAD + "lamp,x,a few,", "row 2.*pieces"),
        (HEAD + "lamp,x,2 m,", "row 2.*pieces"),
        (HEAD + "lamp,x,-2,", "row 2.*pieces"),
        (HEAD + "\nlamp,x,1,\nwire,y,3 kg,", "row 4.*metres"),
        (HEAD + "resistor,brown,3,", "row 2"),
        (HEAD + "lamp,,3,", "row 2"),
    ],
)
def test_what_can_t_be_read_is_said_with_its_row(text, said):
    with pytest.raises(PlanError, match=said):
        drawer_from_csv(text)


def test_what_is_free_is_not_bought_and_what_others_keep_is():
    rows = [("lamp", "a", "A", 10, 11), ("resistor", "1 kΩ", "", 4, 5), ("fibre", "f", "F, metres", 3, 4)]
    shop = Workshop().with_drawer(
        held("lamp", "A", 8.0) | held("resistor", "1000", 50.0, "tin") | held("fibre", "f", 2.5)
    )
    assert [b.buy for b in buying(rows, shop, "Mine")] == [3, 0, 2]
    shop = shop.with_kept("Other", {key_of("lamp", "a"): 6.0}).with_kept("Mine", {key_of("lamp", "a"): 2.0})
    mine = buying(rows, shop, "Mine")
    assert [b.buy for b in mine] == [9, 0, 2] and mine[0].free == 2.0
    kept = shop.with_kept("Mine", to_keep(mine))
    assert kept.kept["Mine"] == {key_of("lamp", "a"): 2.0, key_of("resistor", "1k"): 5.0, key_of("fibre", "f"): 2.5}
    assert buying(rows, kept, "Mine") == mine, "what one keeps oneself is free for oneself"
    assert [b.buy for b in buying(rows, kept, "Third")] == [11, 0, 4]
    assert "Mine" not in kept.with_kept("Mine", {}).kept
    assert kept.catalogue is shop.catalogue, "what is kept changes no light"
    more = kept.with_drawer({**kept.drawer, **held("resistor", "123", 4.0)})
    assert more.stock != kept.stock and more.catalogue is not kept.catalogue


@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 30), st.integers(0, 30)), min_size=1, max_size=6))
def test_plans_that_lay_aside_never_share_a_part(counts):
    shop = Workshop()
    for i, (here, _, _) in enumerate(counts):
        shop = shop.with_drawer({**shop.drawer, **held("lamp", f"p{i}", float(here))})
    for name, column in (("One", 1), ("Two", 2)):
        rows = [("lamp", f"p{i}", "", c[column], c[column]) for i, c in enumerate(counts)]
        shop = shop.with_kept(name, to_keep(buying(rows, shop, name)))
    for i, (here, one, two) in enumerate(counts):
        key = key_of("lamp", f"p{i}")
        given_out = [shop.kept.get(n, {}).get(key, 0.0) for n in ("One", "Two")]
        assert given_out[0] == min(here, one) and given_out[1] == min(here - given_out[0], two)


def test_the_workshop_keeps_the_drawer_and_reads_the_older_list(tmp_path):
    (tmp_path / "resistors.csv").write_text("ohm,count\n470,20\n")
    old, said = load_workshop(tmp_path)
    assert old.stock == {470.0: 20} and not said
    shop = old.with_drawer({**old.drawer, **held("lamp", "round-3-red", 4.0, "box 2")}).with_kept(
        "Deck", {key_of("lamp", "round-3-red"): 2.0}
    )
    save_workshop(shop, tmp_path)
    again, said = load_workshop(tmp_path)
    assert again == shop and not said and not (tmp_path / "resistors.csv").exists()
    assert again.with_stock({470.0: 3}).drawer[key_of("lamp", "round-3-red")].where == "box 2"
    (tmp_path / "kept.csv").write_text("plan,kind,part,count\nDeck,lamp,x,many\n")
    broken, said = load_workshop(tmp_path)
    assert broken.drawer == shop.drawer and not broken.kept and "row 2" in said[0]


def test_shopping_list_goes_against_the_drawer():
    plan = deck_plan(lamps=3)
    assessment = assess(plan, CAT)
    part = plan.lamps[0].part
    shop = Workshop().with_drawer(held("lamp", part, 3.0, "box 2"))
    row = next(r for r in csv.DictReader(io.StringIO(shopping_csv(plan, assessment, shop))) if r["kind"] == "lamp")
    assert (row["needed"], row["with_spares"], row["in_drawer"], row["to_buy"], row["where"]) == (
        "3",
        "4",
        "3",
        "1",
        "box 2",
    )


def test_what_serves_instead_says_what_it_changes():
    plan = deck_plan(lamps=3)
    assessment = assess(plan, CAT)
    part = plan.lamps[0].part
    colour = CAT.lamps[part].colour
    others = [
        p.id for p in CAT.lamps.values() if p.colour == colour and p.id != part and not p.body and p.form != "strip"
    ]
    red = next(p.id for p in CAT.lamps.values() if p.colour == "red")
    offers = substitutes(plan, assessment, part, [red, *others[:3], part, "unknown"])
    assert offers and {s.part for s in offers} <= set(others)
    first = offers[0]
    swapped = validate_edit(plan, with_part(part, first.part)(plan))
    after = assess(swapped, CAT)
    light = sum(p.flux_lm for p in after.lamps.values()) / sum(p.flux_lm for p in assessment.lamps.values())
    assert first.light == pytest.approx(light)
    assert first.more_a == pytest.approx(after.supply.draw_a - assessment.supply.draw_a)
    assert substitutes(plan, assessment, "unknown", others) == () and substitutes(plan, assessment, part, [red]) == ()


def test_demos_buy_nothing_with_a_full_drawer():
    plan = deck_plan(lamps=3)
    rows = shopping_rows(plan, assess(plan, CAT))
    shop = Workshop()
    for kind, part, _, _, wanted in rows:
        shop = shop.with_drawer(
            {**shop.drawer, **held(kind, key_of(kind, part)[1] if kind == "resistor" else part, float(wanted))}
        )
    assert rows and all(b.buy == 0 for b in buying(rows, shop, "Deck"))


def test_resistors_from_the_drawer_say_what_they_change_and_what_is_too_much():
    """By hand: 9 V less some 2.7 V over 1 kΩ and over 680 Ω: half as much current again, and light about as much."""
    lamps = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2, 3))
    plan = edits.set_resistor(deck_plan(lamps=3), lamps, 1000.0)
    assessment = assess(plan, CAT)
    offers = {s.part: s for s in swaps(plan, assessment, "resistor", "1000", ["680", "1200", "100", "1e6", "270"])}
    assert set(offers) == {"680", "1200", "270"}, "a tenth and a thousand times are no substitutes"
    after = assess(validate_edit(plan, offers["680"].edit(plan)), CAT)
    light = sum(p.flux_lm for p in after.lamps.values()) / sum(p.flux_lm for p in assessment.lamps.values())
    assert 1.3 < light < 1.6 and offers["680"].outcome == f"{light:.2g} × light"
    every = ["220", "330", "470", "680", "820", "1200", "1500"]
    assert [s.part for s in swaps(plan, assessment, "resistor", "1000", every)] == ["1200", "820", "680", "1500"], (
        "the nearest four"
    )
    assert offers["1200"].state == "fine" and offers["270"].state == "stop" and "rating" in offers["270"].outcome
    assert (
        swaps(plan, assessment, "resistor", "470", ["680"]) == ()
        and swaps(plan, assessment, "supply", "x", ["y"]) == ()
    )


def test_fibre_and_wire_from_the_drawer():
    plan = load(path_of("szron")).plan
    assessment = assess(plan, CAT)
    fibre = plan.dots[0].fibre
    others = [f for f in CAT.fibres if f != fibre]
    offers = swaps(plan, assessment, "fibre", fibre, [*others, "unknown"])
    assert offers and all(s.state in ("fine", "look", "stop") and "light" in s.outcome for s in offers)
    tried = validate_edit(plan, offers[0].edit(plan))
    assert all(d.fibre != fibre for d in tried.dots) and {d.id for d in tried.dots} == {d.id for d in plan.dots}
    wire = plan.loom.wire
    thick = max((w for w in CAT.wires if w != wire), key=lambda w: CAT.wires[w].outside_mm)
    thin = min((w for w in CAT.wires if w != wire), key=lambda w: CAT.wires[w].outside_mm)
    said = {s.part: s for s in swaps(plan, assessment, "wire", wire, [thick, thin])}
    assert said[thick].state in ("look", "stop") and said[thin].outcome
    assert validate_edit(plan, said[thin].edit(plan)).loom.wire == thin


def test_packs_and_prices_are_kept_and_summed():
    text = "kind,part,count,where,pack,price\nlamp,round-3-white,4,tin,25,3.50\nresistor,4k7,0,,,0.05\npaint,flat-white,5 ml,shelf,17 ml,4.20\nfibre,pmma-050,0,,10 m,6\n"
    drawer = drawer_from_csv(text)
    assert drawer_from_csv(drawer_to_csv(drawer.values())) == drawer
    assert drawer["lamp", "round-3-white"].pack == 25.0 and drawer["fibre", "pmma-050"].pack == 10.0
    rows = [("lamp", "round-3-white", "", 28, 30), ("resistor", "4.7 kΩ", "", 10, 11), ("paint", "flat-white", "", 20, 23), ("glue", "hot glue", "", 1, 1), ("fibre", "pmma-050", "", 3, 4)]  # fmt: skip
    lamp, resistor, paint, glue, fibre = buying(rows, Workshop().with_drawer(drawer), "x")
    # 26 lamps are two packs of 25; a price with no pack is that of one; 18 ml are two pots of 17; 4 m are one roll.
    assert (lamp.buy, lamp.packs, lamp.cost) == (26, 2, 7.0) and (resistor.buy, resistor.packs) == (11, 0)
    assert (
        resistor.cost == pytest.approx(0.55)
        and (paint.buy, paint.packs, paint.cost) == (18, 2, 8.4)
        and (fibre.packs, fibre.cost) == (1, 6.0)
    )
    assert (
        glue.cost == 0.0 and cost_words([lamp, resistor, paint, glue, fibre]) == "21.95 in all, 1 of 5 without a price"
    )
    assert cost_words([glue]) == "" and "pack" not in drawer_to_csv([Held("lamp", "a", 1.0)])
    for bad in ("lamp,a,1,,x,1", "lamp,a,1,,1,-2", "lamp,a,1,,1,much"):
        with pytest.raises(PlanError):
            drawer_from_csv(f"kind,part,count,where,pack,price\n{bad}\n")
    counted = Workshop().with_drawer(drawer).with_stock({4700.0: 7})
    assert counted.drawer["resistor", "4700"].price == 0.05, "counting leaves the price"
