"""Two hundred questions as people type them, with answers worked by hand: tables of the standards, closed forms, and what is never answered
without its no."""

from __future__ import annotations

import math

import pytest

from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.quick.answer import answer
from gwiazda.core.quick.ask import QuickError, alternatives

CAT = built_in()


def said(text: str) -> str:
    return "\n".join(answer(text, CAT).lines())


# -- drills: the fibre with a hair over it (0.05, a tenth from 1.5 mm on), a body with a tenth, the next metric drill at or above by 0.05 ----

DRILLS = [
    ("drill for 0.25 fibre", "0.3 mm"), ("drill for 0.5 fibre", "0.55 mm"), ("drill for 0.75 fibre", "0.8 mm"), ("drill for 1 mm fibre", "1.05 mm"),
    ("drill for 1.5 mm fiber", "1.6 mm"), ("drill for 2 mm fibre", "2.1 mm"), ("drill for 3 mm fibre", "3.1 mm"), ("what drill for 0.5 fibre?", "0.55 mm"),
    ("which drill for a 0.75 mm fibre", "0.8 mm"), ("0.5 fibre drill", "0.55 mm"), ("hole for 1 mm fibre", "1.05 mm"), ("drill size for 0.5 mm fibre", "0.55 mm"),
    ("drill for 3 mm led", "3.1 mm"), ("drill for 5 mm led", "5.1 mm"), ("drill for a 1.8 mm lamp", "1.9 mm"), ("hole for 3 mm led", "3.1 mm"),
    ("what drill for a 5 mm led?", "5.1 mm"), ("3 mm led hole", "3.1 mm"), ("drill for 1.5", "1.5 mm"), ("hole for 2.2", "2.2 mm"),
    ("drill for 4 mm tube", "4 mm"), ("drill for 0.33", "0.35 mm"), ("drill for 0.6", "0.6 mm"), ("hole for 8 mm", "8 mm"), ("drill for 10 mm led", "10.1 mm"),
]  # fmt: skip
NUMBERED = [
    ("drill for 0.5 fibre", "no. 74 (0.572 mm)"),
    ("drill for 1 mm fibre", "no. 58 (1.067 mm)"),
    ("drill for 3 mm led", "1/8 in (3.17 mm)"),
]

# -- bundles: most circles in a circle, 1 to 19 and 37 by the published ratios; by hand nine tenths from three on ---------------------------

BUNDLES = [
    ("how many 1 mm fibres on a 3 mm lamp", "7 by geometry"), ("how many 0.5 on a 3 mm lamp", "27 by geometry"), ("how many 1 on a 5 mm led", "19 by geometry"),
    ("how many 0.75 fibres fit in a 3 mm tube", "11 by geometry"), ("how many 1.5 mm fibres on a 3 mm lamp", "2 by geometry"), ("how many 2 on a 5 mm lamp", "4 by geometry"),
    ("how many 1 mm fibres in a 2 mm tube", "2 by geometry"), ("how many 3 mm fibres on a 3 mm lamp", "1 by geometry"), ("how many 0.25 on a 5 mm lamp", "325 by geometry"),
    ("how many 0.25 on a 5 mm lamp", "292 of 0.25"), ("7 fibres of 1", "bundle of 3 mm"), ("bundle of 19 fibres 0.5", "bundle of 2.43 mm"), ("2 fibres of 0.75", "bundle of 1.5 mm"),
]  # fmt: skip

# -- hours: mAh / (1 + I/I50) / I -----------------------------------------------------------------------------------------------------------


def _hours(mah: float, i50_ma: float, ma: float) -> float:
    return mah / (1.0 + ma / i50_ma) / ma


RUN_TIMES = [
    ("60 mA on 9 V block", 560, 250, 60), ("20 mA on 9 v block", 560, 250, 20), ("5 mA on 9V block", 560, 250, 5), ("100 mA on 2 AA", 2600, 900, 100),
    ("50 mA from 3 AAA", 1150, 400, 50), ("how long does a 9 v block last with 60 mA", 560, 250, 60), ("how long does a 9v block last at 30 mA?", 560, 250, 30),
    ("200 mA on 2 d", 15000, 1500, 200), ("100 mA on c", 7800, 1000, 100), ("2 mA on a coin cell", 225, 8, 2), ("how long will 4 AA last with 100 mA", 2600, 900, 100),
    ("250 mA on 18650", 3000, 60000, 250), ("10 mA on 6 v stack", 150, 20, 10), ("60 mA on 2 AA nimh", 2000, 25000, 60), ("0.1 A on 2 AA", 2600, 900, 100),
]  # fmt: skip

# -- wires: rho·l/A of AWG, 5 A/mm² in a bundle ---------------------------------------------------------------------------------------------


def _ohm_per_m(awg: int) -> float:
    return 1.724e-8 / (math.pi / 4.0 * (0.127e-3 * 92.0 ** ((36 - awg) / 39.0)) ** 2)


WIRES = [("30 AWG 1 m 200 mA", 30, 1.0, 200), ("awg 32 500 mm 50 mA", 32, 0.5, 50), ("36 awg 20 cm", 36, 0.2, 0), ("28 AWG 2 m 300 mA", 28, 2.0, 300), ("awg 40 10 cm 20 mA", 40, 0.1, 20),
         ("awg 26 wire 1 m", 26, 1.0, 0), ("34 awg 30 cm 60 mA", 34, 0.3, 60), ("38 awg 1 m", 38, 1.0, 0), ("what is 30 AWG 1 m", 30, 1.0, 0), ("32 awg 12 in", 32, 0.3048, 0)]  # fmt: skip
TOO_MUCH = ["awg 36 1 m 200 mA", "40 awg 100 mA", "awg 30 300 mA", "34 AWG 10 cm 0.15 A"]

# -- timers ---------------------------------------------------------------------------------------------------------------------------------

TIMERS = [
    ("555 10k 100k 10uF", "0.687 Hz"), ("555 1k 1k 1uF", "481 Hz"), ("555 10k 47k 4.7uF", "2.95 Hz"), ("555 10k 100k 10uf", "52 %"), ("one shot 100k 10uF", "1.1 s"),
    ("one shot 470k 1uF", "0.516 s"), ("555 one shot 1M 10uF", "11 s"), ("ne555 10k 10k 100nF", "481 Hz"),
]  # fmt: skip
RATES = ["555 1 Hz", "555 at 2 Hz", "555 0.5 Hz", "timer 555 10 hz", "555 for 1.5 Hz"]

# -- fits: body, leads and 0.5 mm of glue against the gap ------------------------------------------------------------------------------------

FITS = [
    ("1206 in 1.2 mm", "No"), ("1206 in 2.5 mm", "Yes"), ("0603 in 2 mm", "Yes"), ("0402 in 1.5 mm", "Yes"), ("3 mm led in 4 mm", "No"), ("3 mm led in 9 mm", "Yes"),
    ("5 mm led in 8 mm", "No"), ("does a 0805 fit in 3 mm", "Yes"), ("does a 3 mm led fit into 6 mm?", "No"), ("will a 1206 go in a 3 mm gap", "Yes"), ("3528 in 1 mm", "No"),
]  # fmt: skip

# -- resistors together and by their bands ---------------------------------------------------------------------------------------------------

TOGETHER = [
    ("470 and 470 in parallel", "235 Ω"), ("470 and 1k in parallel", "320 Ω"), ("two 1k in parallel", "500 Ω"), ("2 x 220 in series", "440 Ω"), ("100 and 220 in series", "320 Ω"),
    ("4k7 and 4k7 in parallel", "2.35 kΩ"), ("three 330 in parallel", "110 Ω"), ("two 100 ohm resistors in series", "200 Ω"), ("1k + 2k2 series", "3.2 kΩ"), ("10k || 10k parallel", "5 kΩ"),
]  # fmt: skip
BANDS = [
    ("brown black red gold", "1 kΩ"), ("red red red gold", "2.2 kΩ"), ("orange orange brown gold", "330 Ω"), ("yellow violet brown gold", "470 Ω"), ("brown black brown gold", "100 Ω"),
    ("green blue red gold", "5.6 kΩ"), ("brown green orange gold", "15 kΩ"), ("red violet yellow gold", "270 kΩ"), ("brown black green gold", "1 MΩ"), ("grey red red gold", "8.2 kΩ"),
    ("brown red black brown brown", "1.2 kΩ"), ("blue grey black gold", "68 Ω"), ("brown black orange silver", "10 kΩ"), ("orange white brown gold", "390 Ω"), ("yellow violet red gold", "4.7 kΩ"), ("brown grey brown gold", "180 Ω"), ("red red brown gold", "220 Ω"), ("brown red brown gold", "120 Ω"), ("orange orange red gold", "3.3 kΩ"),
    ("blue grey brown gold", "680 Ω"), ("brown green brown gold", "150 Ω"), ("grey red brown gold", "820 Ω"), ("brown black yellow gold", "100 kΩ"), ("green blue brown gold", "560 Ω"), ("red violet red gold", "2.7 kΩ"),
]  # fmt: skip

# -- the usual safe value: (V − Vf at 20 mA)/20 mA, the next of E12 at or above (a value short by less than half its tolerance counts) --------

SAFE = [
    ("3 white on 9 V", "330 Ω"), ("white on 9V", "330 Ω"), ("white led on 12 V", "470 Ω"), ("red on 9 V", "390 Ω"), ("red on 5 V", "150 Ω"), ("red on 12 V", "560 Ω"), ("green on 9 V", "330 Ω"),
    ("blue on 9 V", "330 Ω"), ("blue on 12 V", "470 Ω"), ("amber on 9 V", "390 Ω"), ("amber on 5 V", "150 Ω"), ("orange on 12 V", "560 Ω"), ("warm white on 12 V", "470 Ω"), ("white on 5v", "100 Ω"),
    ("yellow on 9 V", "390 Ω"), ("resistor for a red led on 9 V", "390 Ω"), ("which resistor for blue on 12 V?", "470 Ω"), ("what resistor for white on 9 v", "330 Ω"), ("i need a resistor for red on 5 volts", "150 Ω"),
    ("5 leds on 9 v", "330 Ω"), ("2 white in series on 9 V", "150 Ω"), ("2 red in series on 9 V", "270 Ω"), ("3 red in series on 9 V", "150 Ω"), ("3 white in series on 12 V", "150 Ω"), ("red 5 mm on 9 V", "390 Ω"),
    ("two red on 9 V", "390 Ω"), ("how do i wire 3 white on 9 V", "330 Ω"), ("10 red on 12 V", "560 Ω"), ("white 5 mm on 12 V", "470 Ω"), ("a red led on usb", "150 Ω"),
]  # fmt: skip
NAMED = [
    ("red on 9 V at 10 mA", "820 Ω"), ("white on 12 V at 20 mA", "470 Ω"), ("red on 9 V full", "390 Ω"), ("white on 9 V at 5 mA", "1.5 kΩ"), ("blue on 12 V at 10 mA", "1 kΩ"), ("green on 5 V at 5 mA", "470 Ω"),
    ("red on 9 V 1k", "7.11 mA"), ("white on 9 V 470 ohm", "12.8 mA"), ("2 red in series on 9 V 470", "10.9 mA"), ("white on 12 V 4k7", "1.9"),
]  # fmt: skip

# -- purposes: the real one's cd over the scale squared -------------------------------------------------------------------------------------

PURPOSES = [
    ("masthead light 1/200", "2.4 mcd"), ("masthead light 1/350 on 12 V", "0.77 mcd"), ("masthead 1/100", "9.4 mcd"), ("tail lamp 1/24", "17 mcd"), ("tail lamp at 1/35 on 9 V", "8.2 mcd"),
    ("headlamp 1/35", "8\u202f245 mcd"), ("sidelight 1/200", "mcd"), ("stern light 1/200 on 9 V block", "mcd"), ("point", "0.68 mcd"), ("a point on 12 V", "0.68 mcd"), ("stop lamp 1/24", "mcd"),
]  # fmt: skip
STRIPS = [
    ("strip 12 V on 12 V", "93 % of its light"), ("strip 12 v on usb", "is dark"), ("12 V strip on 5 V", "is dark"), ("3 units of 12 V strip on 12 V", "3 units of 50 mm"), ("strip 5 V on usb", "of its light"),
    ("red strip 12 V on 12 V", "strip 12 V, 60 a metre, red"), ("strip 12 V on 9 V", "no resistor of yours"), ("strip 5 v on 12 v", "No: 12 V is over"),
]  # fmt: skip
FILLS = [
    ("to fill 200 x 40 x 20", "normal (30 cd/m²)"),
    ("fill 165 x 44 x 19", "normal (30 cd/m²)"),
    ("light to fill a 100 by 50 by 30 mm", "lm"),
    ("to fill 100 × 30 × 20 with 0603", "0603 chip"),
]

NO = [
    ("white on 230 V", "mains"), ("can i run leds on mains", "mains"), ("3 red on 110 v", "mains"), ("white led on 48 V", "24 V"), ("red on 9 V no resistor", "no resistor"), ("white on 9 v without a resistor", "no resistor"),
    ("short a battery", "shorted"), ("shorting the block", "shorted"), ("can i charge an alkaline", "charged"), ("recharging a 9 v block", "charged"), ("mixing old and new cells", "mixed"), ("led on a wall socket", "mains"),
    ("red on 9 V 1 ohm", "burn"), ("white on 9 V 10 ohm", "burn"), ("red on 9 v at 200 mA", "rated"),
]  # fmt: skip

CONTAINS = [*DRILLS, *NUMBERED, *BUNDLES, *TIMERS, *FITS, *TOGETHER, *BANDS, *SAFE, *NAMED, *PURPOSES, *STRIPS, *FILLS]


def test_there_are_two_hundred():
    every = {q for q, *_ in (*CONTAINS, *RUN_TIMES, *WIRES, *NO)} | set(TOO_MUCH) | set(RATES)
    assert len(every) >= 200


@pytest.mark.parametrize(("question", "words"), CONTAINS)
def test_the_answer_says(question, words):
    assert words in said(question)


@pytest.mark.parametrize(("question", "mah", "i50", "ma"), RUN_TIMES)
def test_hours_by_hand(question, mah, i50, ma):
    hours = _hours(mah, i50, ma)
    title = answer(question, CAT).title
    number, unit = title.split("about ")[1].split(" at ")[0].split()
    assert float(number.replace("\u202f", "")) * {"h": 1.0, "days": 24.0, "min": 1 / 60}[unit] == pytest.approx(
        hours, rel=0.006
    )


@pytest.mark.parametrize(("question", "awg", "metres", "ma"), WIRES)
def test_wires_by_hand(question, awg, metres, ma):
    words = said(question)
    ohm = _ohm_per_m(awg) * metres
    assert f"{float(f'{2 * ohm:.3g}'):g} Ω there and back" in words.replace("\u202f", "")
    if ma:
        assert f"lose {float(f'{2 * ohm * ma / 1e3:.3g}'):g} V" in words
        assert ("No:" in words) == (ma / 1e3 > 5.0 * math.pi / 4.0 * (0.127 * 92.0 ** ((36 - awg) / 39.0)) ** 2)


@pytest.mark.parametrize("question", TOO_MUCH)
def test_a_wire_that_does_not_bear_it_gets_its_no(question):
    assert "No: " in said(question) and "bears it" in said(question)


@pytest.mark.parametrize("question", RATES)
def test_a_timer_for_a_rate_comes_within_a_tenth(question):
    words = said(question)
    wanted = float(question.lower().replace("hz", "").split()[-1])
    got = float(words.split("that is ")[1].split(" Hz")[0])
    assert got == pytest.approx(wanted, rel=0.1)


@pytest.mark.parametrize(("question", "word"), NO)
def test_nothing_dangerous_is_answered_without_its_no(question, word):
    with pytest.raises(QuickError) as refused:
        answer(question, CAT)
    assert word in str(refused.value).lower() or word in str(refused.value)


def test_three_looks_and_a_word_for_each():
    """Of 20 mA at 9 V: full 330 Ω; half as bright to the eye is .184 of the light, 2.93 mA, 2.2 kΩ; a quarter .0442, 0.78 mA, 8.2 kΩ."""
    found = answer("3 white on 9 V", CAT)
    assert [(c.word, c.ohm) for c in found.choices] == [("quarter", 8200.0), ("half", 2200.0), ("full", 330.0)]
    for c in found.choices:
        again = answer(f"3 white on 9 V {c.word}", CAT)
        assert again.resistors[0].ohm == c.ohm and again.choices == ()
        assert again.lights[0].current_a == pytest.approx(c.current_a)
    assert answer("3 white on 9 V at 5 mA", CAT).choices == () and answer("3 white on 9 V 470", CAT).choices == ()


@pytest.mark.parametrize("question", ["3 white on 9 V", "5 leds on 9 v", "red on 9 V"])
def test_what_was_taken_can_be_said_otherwise_and_is_read(question):
    for taken in answer(question, CAT).taken:
        for words, line in alternatives(question, taken):
            assert line != question and words
            other = answer(line, CAT)
            assert taken not in other.taken, (line, taken)
