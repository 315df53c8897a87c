"""The scratch line: what is read, what it comes to, and what is asked back."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.junctions import forward_v, junctions
from gwiazda.core.circuit.series import COLOURS, bands, value_of_bands, values
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import storage
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.quick.answer import Answer, added, answer, plan_of
from gwiazda.core.quick.ask import WORDS, Asked, Bands, QuickError, completions, read


def circuit(text: str) -> Answer:
    found = answer(text, built_in())
    assert isinstance(found, Answer)
    return found


def asked(text: str) -> Asked:
    found = read(text, built_in())
    assert isinstance(found, Asked)
    return found


# -- bands ------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("colours", "ohm", "tolerance"),
    [
        ("brown black red gold", 1000.0, 0.05),
        ("yellow violet brown silver", 470.0, 0.10),
        ("red red black", 22.0, 0.20),
        ("orange orange gold gold", 3.3, 0.05),
        ("brown black black brown brown", 1000.0, 0.01),
        ("yellow violet black red brown red", 47_000.0, 0.01),
    ],
)
def test_bands_by_the_standard(colours, ohm, tolerance):
    found = read(colours, built_in())
    assert isinstance(found, Bands) and not found.turned
    assert found.ohm == pytest.approx(ohm) and found.tolerance == tolerance


def test_bands_from_the_other_end_and_words_of_other_lands():
    found = read("Gold, red-violet yellow", built_in())
    assert isinstance(found, Bands) and found.turned and found.ohm == 4700.0
    assert "other end" in " ".join(found.lines())
    grey = read("gray purple brown gold", built_in())
    assert isinstance(grey, Bands) and grey.ohm == 870.0


@given(st.sampled_from(["E12", "E24", "E96"]), st.data())
def test_what_is_painted_is_read_back(series, data):
    ohm = data.draw(st.sampled_from(values(series)))
    painted = bands(ohm, series)
    if painted:
        found = value_of_bands(painted)
        assert found is not None and found[0] == pytest.approx(ohm) and not found[3]


@given(st.lists(st.sampled_from(COLOURS), min_size=3, max_size=6))
def test_any_colours_are_a_resistor_or_a_sentence(colours):
    try:
        found = read(" ".join(colours), built_in())
    except QuickError as error:
        assert str(error).endswith(".")
    else:
        assert isinstance(found, Bands) and found.ohm >= 0


# -- circuits ---------------------------------------------------------------------------------------------


def test_three_white_in_series_by_hand():
    """Three whites at 5 mA have 3·V(5 mA); what 9 V leave over that current is the resistor."""
    found = circuit("3 white in series on 9 V at 5 mA")
    lamp = built_in().lamps["round-3-cool-white"]
    volts = 3 * forward_v(junctions(built_in(), lamp), 5e-3)
    assert 8.2 < volts < 8.8
    needed = (9.0 - volts) / 5e-3
    # 102 Ω are needed; 100 Ω is short of it by less than half its own tolerance, which counts as reached.
    assert 100.0 < needed < 100.0 / 0.975 and [r.ohm for r in found.resistors] == [100.0]
    # By another way: the current where the drops add up to the supply.
    current = brentq(lambda i: 100.0 * i + 3 * forward_v(junctions(built_in(), lamp), i) - 9.0, 1e-6, 0.02)
    assert found.lights[0].current_a == pytest.approx(current, rel=1e-6) and found.lights[0].number == 3
    assert found.draw_a == pytest.approx(current, rel=1e-6)
    assert found.resistors[0].bands == ("brown", "black", "brown", "gold")
    assert any("these 3 lamps" in x.lower() for x in found.mind), "little is left for the resistor"


def test_red_beside_blue_takes_it_all():
    found = circuit("2 red + 1 blue on 6 V stack 330")
    assert found.asked.hang == "shared" and "all behind that one resistor" in found.taken
    red, blue = found.lights
    assert red.number == 2 and red.current_a > 1000 * blue.current_a
    assert any("red needs less voltage" in x and "no harm" in x for x in found.mind)
    assert not any("scratch." in x for x in found.mind)
    each = circuit("2 red + 1 blue each on 6 V stack 330")
    assert [x.number for x in each.lights] == [2, 1] and each.lights[1].current_a > 1e-3
    assert [r.number for r in each.resistors] == [2, 1]
    assert not any("needs less voltage" in x for x in each.mind)


@pytest.mark.parametrize(
    ("text", "source", "cells", "count", "hang"),
    [
        ("8 warm 0603 each own resistor 5 V barely", "adapter-5v-1a", 1, 8, "each"),
        ("two red 5 mm lamps sharing on a coin cell", "coin-cr2032", 1, 2, "shared"),
        ("5 mm red from 2 AA cells at 2mA", "aa-alkaline", 2, 1, "each"),
        ("3x green 3 mm in a string on 12 V adapter", "adapter-12v-1a", 1, 3, "series"),
        ("warm white 1206 on 4 aa nimh soft", "aa-nimh", 4, 1, "each"),
        ("4 blue chips 0805 on usb 1k each", "usb-5v", 1, 4, "each"),
        ("one amber on li-ion bright", "li-ion-18650", 1, 1, "each"),
        ("2 white, 2 red on 9V battery 10 mA", "block-9v", 1, 4, "each"),
        ("6 red in parallel on 9 V unregulated", "adapter-9v-0.3a-unregulated", 1, 6, "shared"),
        ("3 flat 5 mm red on 7,5 V at 2 mA", "adapter-adjustable-0.5a", 1, 3, "each"),
    ],
)
def test_lines_as_modellers_write_them(text, source, cells, count, hang):
    found = asked(text)
    assert (found.source, found.in_series, sum(g.number for g in found.groups), found.hang) == (
        source,
        cells,
        count,
        hang,
    )
    done = circuit(text)
    assert sum(x.number for x in done.lights) == count and done.draw_a > 0
    plan = plan_of(found)
    assert storage.plan_from_json(storage.plan_to_json(plan).encode(), "scratch") == plan


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "It is empty"),
        ("3 white", "on what they hang"),
        ("on usb", "No lamps are named"),
        ("3 white in serie on usb", "“in series”"),
        ("3 mauve on usb", "“mauve”"),
        ("0402 orange on usb", "amber, blue"),
        ("3 white on 14 V", "9 V block"),
        ("3 white on usb on 9 V", "two sources"),
        ("3 white each in series on usb", "both ways"),
        ("2 red on usb 330 470", "two resistors"),
        ("0 red on usb", "one or more"),
        ("400 red on usb", "up to 200"),
        ("2 red 7 mm on usb", "3 mm"),
        ("2 red on 99 aa", "1 to 40"),
        ("red at 9 A on usb", "2 A"),
        ("x" * 400, "up to 300"),
        ("black black gold", "no resistor"),
    ],
)
def test_what_is_not_clear_is_asked_back(text, words):
    with pytest.raises(QuickError) as caught:
        answer(text, built_in())
    said = str(caught.value)
    assert words in said and said.endswith(".") and "Try " in said


@given(st.lists(st.sampled_from([*WORDS, "3", "12", "330", "4k7", "5 mA", "+", ",", "on 9 V", "xyz", "²"]), max_size=9))
def test_any_words_end_in_an_answer_or_a_sentence(words):
    try:
        found = answer(" ".join(words), built_in())
    except GwiazdaError as error:
        assert str(error).endswith(".")
    else:
        assert found.lines()


def test_completion_goes_on_from_what_stands_there():
    assert completions("3 wa")[0] == "3 warm white "
    assert completions("3 white in s")[0] == "3 white in series "
    assert completions("2 red + 1 bl")[0].startswith("2 red + 1 bl")
    assert completions("") == () and completions("3 zz") == ()


def test_a_circuit_dropped_into_a_plan_hangs_on_its_source(demo):
    found = asked("2 red in series on usb at 3 mA")
    after, ids = added(demo, found, (10.0, 0.0, 50.0))
    assert validate_edit(demo, after) is after and len(ids) == 2
    state = assess(after, built_in())
    assert state.lamps[ids[0]].current_a == pytest.approx(state.lamps[ids[1]].current_a, rel=1e-9)
    assert state.lamps[ids[0]].wanted_a == pytest.approx(3e-3) and state.lamps[ids[0]].feed == demo.feeds[0].id


def test_the_command_line_answers(capsys):
    assert main(["quick", "3", "white", "in", "series", "on", "9 V", "at", "5 mA"]) == 0
    assert "100 Ω, brown black brown gold" in capsys.readouterr().out
    assert main(["quick", "3 white"]) == 2
    assert "on what they hang" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("text", "hang", "shares", "current_a", "ohm"),
    [
        ("3 white on 9 V one resistor 15 mA", "shared", 1, 15e-3, None),
        ("3 white on 9 V 1 resistor 15 mA", "shared", 1, 15e-3, None),
        ("9 warm on 5 V sharing 2 resistors", "shared", 2, None, None),
        ("9 warm on 5 V sharing two resistors", "shared", 2, None, None),
        ("2 red on usb 2 resistors", "each", 1, None, None),
        ("6 red in 2 strings on 12 V", "series", 2, None, None),
        ("3 red one string on 9 V", "series", 1, None, None),
        ("2 warm 1.8 on 2 AA", "each", 1, None, None),
        ("2 red 5 on usb", "each", 1, None, None),
        ("2 CR2032 1 red", "each", 1, None, None),
        ("red on 9 V 1M", "each", 1, None, 1e6),
        ("red on 9 V 2M2", "each", 1, None, 2.2e6),
        ("red on 9 V 4k7 resistor", "each", 1, None, 4700.0),
        ("red on 9 V with a 470 resistor", "each", 1, None, 470.0),
        ("2 red on 9V sharing 470r", "shared", 1, None, 470.0),
    ],
)
def test_numbers_are_read_as_what_they_stand_for(text, hang, shares, current_a, ohm):
    """A body, a count, a share; ohms only where it says so, or looks like what is printed on a resistor."""
    found = asked(text)
    assert (found.hang, found.shares, found.ohm) == (hang, shares, pytest.approx(ohm) if ohm else None)
    assert found.current_a == (pytest.approx(current_a) if current_a else None)


@pytest.mark.parametrize(
    ("text", "volts", "cells", "body"),
    [
        ("2 warm 1.8 on 2 AA", None, 2, "round-1.8-warm-white"), ("2 red 5 on usb", None, 1, "round-5-red"),
        ("2 red 3 AA", None, 3, "round-3-red"), ("2 CR2032 1 red", None, 2, "round-3-red"), ("red on 3V3", 3.3, 1, "round-3-red"),
        ("red on 12VDC", None, 1, "round-3-red"), ("2 red 3 blue on usb", None, 1, "round-3-red"),
    ],
)  # fmt: skip
def test_bodies_cells_and_volts_as_people_write_them(text, volts, cells, body):
    found = asked(text)
    assert (found.volts, found.in_series, found.groups[0].part.id) == (volts, cells, body)
    assert found.source == {"red on 12VDC": "adapter-12v-1a"}.get(text, found.source)


def test_lamps_that_share_two_resistors_by_hand():
    """Nine lamps on two resistors are five and four: each behind its own, sized for its share."""
    found = circuit("9 warm on 5 V sharing 2 resistors at 5 mA")
    assert "5 or 4 lamps on each resistor" in found.taken
    assert sorted(x.number for x in found.lights) == [4, 5] and sum(r.number for r in found.resistors) == 2
    volts = forward_v(junctions(built_in(), built_in().lamps["round-3-warm-white"]), 5e-3)
    wanted = sorted((5.0 - volts) / (n * 5e-3) for n in (4, 5))
    for r, ohm in zip(sorted(r.ohm for r in found.resistors), wanted, strict=True):
        assert 0.97 * ohm < r < 1.22 * ohm, "the next of E12"


def test_two_coin_cells_are_six_volts():
    found = circuit("2 cr2032 1 red at 2 mA")
    volts = forward_v(junctions(built_in(), built_in().lamps["round-3-red"]), 2e-3)
    assert found.resistors[0].ohm == pytest.approx((6.0 - volts) / 2e-3, rel=0.2)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("red on usb 5 ohm", "next to no resistor"),
        ("red on usb 1 ohm", "next to no resistor"),
        ("3 white on 9 V 10", "would burn out"),
        ("red on 9 V 100", "390 Ω"),
        ("red on usb at 40 mA", "rated for"),
        ("red on usb 17", "may be many things"),
        ("2 red on usb 7 resistors", "up to 2"),
    ],
)
def test_what_would_burn_lamps_out_is_no_answer(text, words):
    with pytest.raises(QuickError, match="Try") as caught:
        circuit(text)
    assert words in str(caught.value)


@given(
    st.sampled_from(["red", "white", "blue 0603", "2 amber", "5 warm"]), st.sampled_from(["9 V", "usb", "3 AA", "12 V", "block"]),
    st.sampled_from(["47", "100", "330 ohm", "1k", "22r", "680"]), st.sampled_from(["", "sharing", "each", "in series"]),
)  # fmt: skip
def test_no_answer_burns_a_lamp(lamps, source, ohm, hang):
    try:
        found = circuit(f"{lamps} on {source} {ohm} {hang}")
    except QuickError as error:
        assert "burn" in str(error) or "Try" in str(error)
    else:
        assert all(x.current_a <= 0.0205 for x in found.lights)


def test_the_same_is_said_once_of_all_lamps():
    found = circuit("8 warm on 2 AA each at 10 mA")
    said = [x for x in found.mind if "left for the resistor" in x]
    assert len(said) == 1 and said[0].startswith("Each of these 8 lamps: no voltage is left")
    assert len(set(found.mind)) == len(found.mind)


def test_findings_of_lamps_alike_are_one_with_one_offer():
    """By hand: three lamps of one section, each 5 × over its rating, are one finding, and its offer settles all three."""
    from decks import deck_plan
    from gwiazda.core.findings.rules import evaluate_rules
    from gwiazda.core.plan import edits

    plan = edits.set_resistor(deck_plan(windows=4, lamps=3), [f"deck1.lamp.0{k}" for k in (1, 2, 3)], 60.0)
    found = [f for f in evaluate_rules(plan, assess(plan, built_in())) if f.rule == "over-rated"]
    assert len(found) == 1 and found[0].sentence.startswith("Each of these 3 lamps gets ")
    assert found[0].subjects == ("deck1.lamp.01", "deck1.lamp.02", "deck1.lamp.03")
    after = found[0].fixes[0].applied(plan)
    assert not [f for f in evaluate_rules(after, assess(after, built_in())) if f.rule == "over-rated"]


# -- lamps of unknown make ----------------------------------------------------------------------------------


def test_two_readings_name_a_lamp():
    red = answer("reads 1.80 V at 2 mA, 1.97 V at 15 mA", built_in())
    assert "red" in red.colours[0] and red.guesses[0][1] > 0.4
    assert any("look at its light" in line for line in red.lines())
    white = answer("reads 2.75 V at 2mA; 3.05 V at 15mA", built_in())
    assert "warm white" in white.colours[0]
    one = answer("reads 2.0 V at 20 mA", built_in())
    assert any("one reading more" in line for line in one.lines())


def test_a_slip_is_answered_with_what_is_taken():
    found = answer("slip 3.0 to 3.4 V 20 mA", built_in())
    assert found.readings == ((0.02, 3.2),) and "typical" in found.taken[0] and "blue" in found.colours[0]
    assert answer("slip 2.0 V at 20 mA", built_in()).taken == ()


def test_a_slip_on_a_source_goes_on_to_the_resistor():
    """(9 − 3.2) V / 20 mA = 290 Ω: 330, which gives 17.6 mA; by the belief of subtracting the minimum it would be 300."""
    found = answer("slip 3.0 to 3.4 V 20 mA on 9 V", built_in())
    assert found.slip.ohm == 330.0 and found.slip.source_v == 9.0
    text = " ".join(found.lines())
    assert "330 Ω" in text and "17.6 mA" in text and "17 mA to 18.2 mA" in text
    assert answer("slip 2 V 20 mA on 3 AA", built_in()).slip.source_v == 4.5
    for odd in ("slip 3.0 V 20 mA on 2 V", "slip 3.0 V 20 mA on the moon"):
        with pytest.raises(QuickError, match="Try"):
            answer(odd, built_in())


@pytest.mark.parametrize("line", ["reads nothing much", "reads 0.1 V at 5 mA", "slip 3.4 to 3.0 V 20 mA"])
def test_readings_that_are_none_are_asked_back(line):
    with pytest.raises(QuickError, match="Try"):
        answer(line, built_in())
