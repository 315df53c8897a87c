"""Reading what modellers write."""

from __future__ import annotations

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from gwiazda.core import quantities as q
from gwiazda.core.errors import QuantityError


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("3", 3.0), ("3 mm", 3.0), ("0,5mm", 0.5), ("1.2 cm", 12.0), ("1/8 in", 3.175), ("1 1/2 in", 38.1), ("½ in", 12.7), ("1½ in", 38.1), ("⅛\"", 3.175),
        ("1000 mm", 1000.0), ("100 cm", 1000.0), ("1 000", 1000.0), ("1 200 mm", 1200.0), ("3 inches", 76.2), ("3 IN", 76.2),
        ("1,234.5", 1234.5), ("1.234,5", 1234.5), ("0.125", 0.125), ("2.1750", 2.175),
        ('1/4"', 6.35), ("18.8 m", 18800.0), ("-2", -2.0), ("250 um", 0.25), (".5", 0.5),
    ],
)  # fmt: skip
def test_lengths(text, mm):
    assert q.parse_length_mm(text) == pytest.approx(mm)


@pytest.mark.parametrize(
    ("text", "ohm"),
    [
        ("4k7", 4700), ("R47", 0.47), ("4R7", 4.7), ("470", 470), ("470R", 470), ("1.2k", 1200), ("4.7 kΩ", 4700),
        ("1M", 1e6), ("2M2", 2.2e6), ("3,9k", 3900), ("10K", 10000), ("390 ohm", 390), ("220E", 220), ("470 OHM", 470), ("2k2Ω", 2200), ("2k2 ohm", 2200),
        ("10 000", 10000), ("1.235 kΩ", 1235), ("4M7", 4.7e6),
    ],
)  # fmt: skip
def test_resistances(text, ohm):
    assert q.parse_resistance_ohm(text) == pytest.approx(ohm, rel=1e-12)


def test_letter_codes_are_exact():
    assert q.parse_resistance_ohm("4k7") == 4700.0
    assert q.parse_resistance_ohm("2k2") == 2200.0


@pytest.mark.parametrize(
    ("text", "amp"),
    [
        ("20mA", 0.02),
        ("20 MA", 0.02),
        ("20ma", 0.02),
        ("20", 0.02),
        ("0.5 A", 0.5),
        ("800 uA", 8e-4),
        ("1,5 mA", 1.5e-3),
    ],
)
def test_currents(text, amp):
    assert q.parse_current_a(text) == pytest.approx(amp)


@pytest.mark.parametrize(("text", "n"), [("1/200", 200), ("1:72", 72), ("350", 350), (48, 48), ("1 : 144", 144)])
def test_scales(text, n):
    assert q.parse_scale(text) == n


@pytest.mark.parametrize("text", ["1:0", "1/-5", "0", "nan", "inf", "", "two", "1/1e9"])
def test_bad_scales_say_what_is_accepted(text):
    with pytest.raises(QuantityError, match=r"It takes 1/N"):
        q.parse_scale(text)


@pytest.mark.parametrize("text", ["", "3 furlongs", "1/0 in", "three", "3 mm mm", "nan"])
def test_bad_lengths(text):
    with pytest.raises(QuantityError, match="It takes"):
        q.parse_length_mm(text)


@pytest.mark.parametrize("text", ["", "-5", "0", "4k7k", "12 V", "lots"])
def test_bad_resistances(text):
    with pytest.raises(QuantityError, match="It takes"):
        q.parse_resistance_ohm(text)


@pytest.mark.parametrize("text", ["-1mA", "0", "5 V", "x"])
def test_bad_currents(text):
    with pytest.raises(QuantityError):
        q.parse_current_a(text)


@pytest.mark.parametrize(
    ("read", "text"),
    [
        (q.parse_length_mm, "1,200 mm"), (q.parse_length_mm, "1.200"), (q.parse_resistance_ohm, "10,000"),
        (q.parse_scale, "1:1,000"), (q.parse_current_a, "1,500 mA"),
    ],
)  # fmt: skip
def test_what_may_mean_two_things_is_asked_back(read, text):
    with pytest.raises(QuantityError, match="may be") as caught:
        read(text)
    # Either answer that is offered is read.
    for answer in caught.value.accepted.split(" or "):
        assert read(answer) > 0


@pytest.mark.parametrize(
    ("read", "text"),
    [
        (q.parse_resistance_ohm, "1e19"), (q.parse_length_mm, "1e9"), (q.parse_current_a, "500 A"), (q.parse_voltage_v, "230 V"),
        (q.parse_resistance_ohm, "1m"), (lambda t: q.parse_number(t, "Cells", 1, 40, whole=True), "2.9"),
    ],
)  # fmt: skip
def test_everything_has_bounds(read, text):
    with pytest.raises(QuantityError):
        read(text)


def test_only_metres_and_feet_mean_full_size_and_the_reading_is_echoed():
    assert q.parse_kit_length_mm("1000 mm", 200) == q.parse_kit_length_mm("100 cm", 200) == 1000.0
    assert q.parse_kit_length_mm("18.8 m", 200) == pytest.approx(94.0)
    assert q.parse_kit_length_mm("60 ft", 72) == pytest.approx(254.0)
    assert q.parse_kit_length_mm("60 cm full size", 200) == pytest.approx(3.0)
    assert q.echo_kit_length("18.8 m", 200) == "18.8 m at full size, 94 mm on the model"
    assert q.echo_kit_length("94", 200) == "94 mm on the model"


def test_nothing_is_written_with_an_exponent():
    assert q.format_current(0.9999) == "1 A" and q.format_current(0.00099999) == "1 mA"
    assert (
        q.format_intensity(0.9998) == "1 cd"
        and q.figure(12345.6) == "12\u202f346"
        and q.figure(0.00001234) == "0.0000123"
    )
    for value in (1e-7, 0.9996, 999.6, 1e6):
        assert "e" not in q.format_current(value) and "e" not in q.figure(value)


def test_voltage_and_numbers():
    assert q.parse_voltage_v("9v") == 9.0
    assert q.parse_voltage_v("4500mV") == pytest.approx(4.5)
    assert q.parse_voltage_v("3V3") == pytest.approx(3.3) and q.parse_voltage_v("12VDC") == 12.0
    assert q.parse_voltage_v("12 V dc") == 12.0
    assert q.parse_number("35 %", "Share", 0, 100, "%") == 35
    with pytest.raises(QuantityError, match="from 0 to 100 %"):
        q.parse_number("135", "Share", 0, 100, "%")
    with pytest.raises(QuantityError):
        q.parse_voltage_v("9 A")


@given(st.floats(1.0, 9.99e6))
@example(1.234)  # with four figures its text may be either of two numbers
@example(9235.0)
def test_written_resistances_are_read_back(ohm):
    assert q.parse_resistance_ohm(q.format_resistance(ohm)) == pytest.approx(ohm, rel=6e-3)


@given(st.floats(1e-6, 9.0))
def test_written_currents_are_read_back(amp):
    assert q.parse_current_a(q.format_current(amp)) == pytest.approx(amp, rel=6e-3)


@given(st.text(max_size=12))
def test_no_text_ends_in_anything_but_a_value_or_a_sentence(text):
    for read in (q.parse_length_mm, q.parse_resistance_ohm, q.parse_current_a, q.parse_scale, q.parse_voltage_v):
        try:
            assert isinstance(read(text), float)
        except QuantityError as error:
            assert str(error).endswith(".")


def test_hours():
    assert q.format_hours(0.5) == "30 min"
    assert q.format_hours(31.2) == "31.2 h"
    assert q.format_hours(float("inf")) == "no limit"
    assert q.format_hours(240) == "10 days"
    assert q.format_hours(1.6e8) == "more than a year"
