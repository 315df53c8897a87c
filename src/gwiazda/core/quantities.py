"""Reading and writing values the way modellers write them: ``4k7``, ``20mA``, ``1/200``, ``3 mm``, ``1/8 in``.

The letter code of IEC 60062 (``4k7``, ``R47``), fractions of an inch, scales, decimal commas, spaces between thousands,
units in any case: what the bench writes is read, and what may mean two things is asked back. (No package for quantities
asks back, or reads a letter code.)
"""

from __future__ import annotations

import math
import re
import unicodedata
from fractions import Fraction
from typing import NamedTuple

from gwiazda.core.errors import QuantityError

_LETTER_CODE = re.compile(r"^(\d*)([RrKkMG])(\d+)\s*(?:Ω|[oO][hH][mM][sS]?)?$")
_FRACTION = re.compile(r"^(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)\s*(.*)$")
_SCALE = re.compile(r"^(?:1\s*[/:]\s*)?(\S.*)$")
_NUMBER = re.compile(r"^([+-]?(?:\d[\d.,]*|[.,]\d+)(?:[eE][+-]?\d+)?)\s*(.*)$")
_SPACES = str.maketrans({"\u2009": " ", "\u202f": " ", "\u00a0": " ", "\u2212": "-", "\u2126": "Ω"})

_LENGTH_MM = {
    "": 1.0, "mm": 1.0, "cm": 10.0, "m": 1000.0, "um": 1e-3, "µm": 1e-3, "μm": 1e-3,
    "in": 25.4, '"': 25.4, "″": 25.4, "inch": 25.4, "inches": 25.4, "ft": 304.8, "foot": 304.8, "feet": 304.8, "'": 304.8, "′": 304.8,
}  # fmt: skip
_FULL_SIZE_UNITS = ("m", "ft", "foot", "feet", "'", "′")  # nobody measures a kit in these
MOST_MM = 100_000.0
THIN = "\u202f"  # one that no line is broken at


_VULGAR = re.compile("[¼½¾⅐-⅞]")


def _bare(text: str) -> str:
    plain = text.translate(_SPACES).strip()
    # “1½” is one and a half: a fraction that is one character is written out, apart from what stands before it.
    return _VULGAR.sub(lambda m: " " + unicodedata.normalize("NFKC", m.group()).replace("\u2044", "/"), plain).strip()


def read_number(text: str, what: str, accepted: str, ask: bool = True) -> tuple[float, str]:
    """A number at the head of a text, and what follows it: ``1 000``, ``0,5``, ``1.234,5``.

    Raises
    ------
    QuantityError
        When there is none; and, where ``ask`` says so, for a comma or a dot before exactly three digits, which may be
        either mark: it is asked back.
    """
    bare = re.sub(r"(?<=\d) (?=\d{3}(?!\d))", "", _bare(text))
    match = _NUMBER.match(bare)
    if not match:
        raise QuantityError(what, f"“{text.strip()}” can't be read", accepted)
    digits, rest = match.groups()
    body, exponent = re.match(r"^([^eE]*)(.*)$", digits).groups()  # type: ignore[union-attr]
    marks = [c for c in body if c in ".,"]
    if len(set(marks)) == 2 and marks.count(marks[-1]) == 1:
        # Both are there: the last is the decimal mark, the other parts the thousands.
        other = "," if marks[-1] == "." else "."
        body = body.replace(other, "").replace(marks[-1], ".")
    elif len(marks) > 1:
        if not re.fullmatch(r"[+-]?\d{1,3}(?:[.,]\d{3})+", body):
            raise QuantityError(what, f"“{text.strip()}” can't be read", accepted)
        body = body.replace(",", "").replace(".", "")
    elif ask and re.fullmatch(r"[+-]?[1-9]\d{0,2}[.,]\d{3}", body) and not exponent:
        whole = re.sub(r"[.,]", "", body)
        part = body.replace(",", ".")
        raise QuantityError(
            what, f"“{text.strip()}” may be {float(part):g} or {thousands(float(whole))}", f"{part}0 or {whole}"
        )
    else:
        body = body.replace(",", ".")
    try:
        value = float(body + exponent)
    except (ValueError, OverflowError):
        raise QuantityError(what, f"“{text.strip()}” can't be read", accepted) from None
    if not math.isfinite(value):
        raise QuantityError(what, f"“{text.strip()}” is out of range", accepted)
    return value, rest.strip()


def parse_scale(text: str | float) -> float:
    """Denominator of a scale written ``1/200``, ``1:200`` or ``200``.

    Raises
    ------
    QuantityError
        When it isn't one, or the denominator is outside 1 to 100,000.
    """
    accepted = "1/N with N from 1 to 100000, for example 1/200"
    if isinstance(text, (int, float)) and not isinstance(text, bool):
        value = float(text)
    else:
        bare = _bare(str(text))
        match = _SCALE.match(bare)
        value, rest = read_number(match.group(1) if match else bare, "Scale", accepted)
        if rest:
            raise QuantityError("Scale", f"“{bare}” is not a scale", accepted)
    if not (math.isfinite(value) and 1.0 <= value <= 100_000.0):
        raise QuantityError("Scale", f"“{text}” is not a scale", accepted)
    return value


def format_scale(denominator: float) -> str:
    """``1/200`` for 200."""
    short = f"{denominator:g}"
    return f"1/{short if float(short) == denominator else repr(denominator)}"


def _length(text: str, what: str) -> tuple[float, str]:
    """Length in mm and its unit, as written."""
    accepted = "a length such as 3 mm, 1.2 cm or 1/8 in"
    bare = _bare(text)
    fraction = _FRACTION.match(bare)
    if fraction and int(fraction.group(3)):
        number = float(int(fraction.group(1) or 0) + Fraction(int(fraction.group(2)), int(fraction.group(3))))
        unit = fraction.group(4).strip()
    else:
        number, unit = read_number(text, what, accepted)
    unit = unit.lower()
    if unit not in _LENGTH_MM:
        raise QuantityError(what, f"“{text.strip()}” is not a length", accepted)
    return number * _LENGTH_MM[unit], unit


def parse_length_mm(text: str, what: str = "Length") -> float:
    """Length in mm from ``3``, ``3 mm``, ``0,5mm``, ``1.2 cm``, ``1/8 in``, ``1 1/2 in`` or ``18.8 m``; up to 100 m."""
    value, _ = _length(text, what)
    if abs(value) > MOST_MM:
        raise QuantityError(what, f"{thousands(value)} mm is out of range", f"up to {thousands(MOST_MM)} mm")
    return value


_FULL_SIZE = re.compile(r"\s*\b(full[\s-]*size|real|1\s*[:/]\s*1)\s*$", re.IGNORECASE)


def is_full_size(text: str) -> bool:
    """Whether a length is that of the real thing: in metres or feet, or said to be (``60 cm full size``)."""
    if _FULL_SIZE.search(text.strip()) is not None:
        return True
    return _length(text, "Length")[1] in _FULL_SIZE_UNITS


def plain_length(text: str) -> str:
    """A length without the words that say it is at full size."""
    return _FULL_SIZE.sub("", text.strip())


def parse_kit_length_mm(text: str, scale: float, what: str = "Length") -> float:
    """Length in mm on the model: ``94 mm`` and ``1000 mm`` as they are; ``18.8 m`` or ``60 cm full size`` over the scale."""
    full = is_full_size(text)
    length, _ = _length(plain_length(text), what)
    length = length / scale if full else length
    if abs(length) > MOST_MM:
        raise QuantityError(what, f"{thousands(length)} mm is out of range", f"up to {thousands(MOST_MM)} mm")
    return length


def echo_kit_length(text: str, scale: float) -> str:
    """How a length was read: “94 mm on the model”, “18.8 m at full size, 94 mm on the model”."""
    on_model = f"{figure(parse_kit_length_mm(text, scale), 4)} mm on the model"
    return f"{plain_length(text)} at full size, {on_model}" if is_full_size(text) else on_model


class _Scale(NamedTuple):
    """How a quantity is written: its units, prefixes, what a bare number is worth, and what it may be."""

    units: tuple[str, ...]
    prefixes: dict[str, float]
    bare_factor: float
    low: float
    high: float


def _parse_si(text: str, scale: _Scale, what: str, accepted: str) -> float:
    """A number with prefix and unit; units in any case, prefixes in any case unless the table tells them apart."""
    units, prefixes, bare_factor, low, high = scale
    # Nobody writes thousands of kilo-ohms: before such a prefix a mark is a decimal one.
    number, rest = read_number(text, what, accepted, ask=re.search(r"\d\s*[kKMG]", text) is None)
    tail = rest.replace(" ", "")
    factor = None
    for unit in sorted(("", *units), key=len, reverse=True):
        if unit and not tail.lower().endswith(unit.lower()):
            continue
        prefix = tail[: len(tail) - len(unit)]
        if prefix == "" and unit == "":
            factor = bare_factor
        elif prefix in prefixes:
            factor = prefixes[prefix]
        elif prefix.lower() in prefixes and prefix.upper() not in prefixes:
            factor = prefixes[prefix.lower()]
        if factor is not None:
            break
    if factor is None:
        raise QuantityError(what, f"“{text.strip()}” can't be read", accepted)
    value = number * factor
    if value <= 0:
        raise QuantityError(what, f"“{text.strip()}” is not above zero", accepted)
    if not low <= value <= high:
        raise QuantityError(what, f"“{text.strip()}” is out of range", accepted)
    return value


def parse_resistance_ohm(text: str, what: str = "Resistor") -> float:
    """Resistance in Ω from ``4k7``, ``2k2Ω``, ``R47``, ``220E``, ``470 OHM``, ``1.2k`` or ``1M``; 0.01 Ω to 1 GΩ."""
    accepted = "a resistance such as 470, 4k7 or 1M"
    bare = _bare(text)
    match = _LETTER_CODE.match(bare)
    if match:
        factor = {"R": 1.0, "K": 1e3, "M": 1e6, "G": 1e9}[match.group(2).upper()]
        # Divided, not multiplied by 0.1: "4k7" has to come out as 4700 exactly.
        bare = f"{round(float(f'{match.group(1) or 0}.{match.group(3)}') * factor, 9):.9f}"
    folded = re.sub(r"(?<=\d)\s*[RrEe]$", "", bare)
    prefixes = {"": 1.0, "k": 1e3, "m": 1e-3, "M": 1e6, "G": 1e9}
    return _parse_si(folded, _Scale(("Ω", "ohm", "ohms"), prefixes, 1.0, 0.01, 1e9), what, accepted)


def parse_current_a(text: str, what: str = "Current") -> float:
    """Current in A from ``20mA``, ``20 MA``, ``0.5 A``, ``800 uA``; a bare number is taken as mA. 0.1 µA to 20 A."""
    accepted = "a current such as 20mA or 0.5 A"
    prefixes = {"": 1.0, "m": 1e-3, "u": 1e-6, "µ": 1e-6, "μ": 1e-6}
    return _parse_si(text, _Scale(("A",), prefixes, 1e-3, 1e-7, 20.0), what, accepted)


def parse_voltage_v(text: str, what: str = "Voltage") -> float:
    """Voltage in V from ``9``, ``9v``, ``9 V`` or ``4500mV``; 1 mV to 60 V, as far as this goes without a licence."""
    accepted = "a voltage such as 9 V, up to 60 V"
    # As boards and adapters have it: 3V3, 12VDC, 9 V⎓.
    text = re.sub(r"^\s*(\d+)\s*[vV](\d+)\s*$", r"\1.\2 V", text)
    text = re.sub(r"(?<=[vV])\s*(?:[dD][cC]|⎓|⎯)\s*$", "", text)
    return _parse_si(text, _Scale(("V", "volt", "volts"), {"": 1.0, "m": 1e-3}, 1.0, 1e-3, 60.0), what, accepted)


def parse_number(text: str, what: str, low: float, high: float, unit: str = "", whole: bool = False) -> float:
    """A plain number between ``low`` and ``high``, with or without its unit written behind it; ``whole``: no fraction."""
    kind = "a whole number" if whole else "a number"
    accepted = f"{kind} from {low:g} to {high:g} {unit}".rstrip()
    value, rest = read_number(text, what, accepted)
    if rest and rest.lower() != unit.lower():
        raise QuantityError(what, f"“{text.strip()}” is not a number", accepted)
    if whole and value != int(value):
        raise QuantityError(what, f"{value:g} is not a whole number", accepted)
    if not low <= value <= high:
        raise QuantityError(what, f"{figure(value)} is out of range", accepted)
    return value


def parse_seconds(text: str, what: str, low: float, high: float, rate: bool = False) -> float:
    """A time: ``1.2``, ``1.2 s``, ``50 ms``, ``2 min``; where it is a period, a rate too: ``2 Hz``, ``50 /min``."""
    also = ", or a rate such as 2 Hz, 50 /min" if rate else ""
    accepted = f"seconds from {figure(low)} to {figure(high)}{also}"
    value, rest = read_number(text, what, accepted)
    unit = rest.lower().replace(" ", "")
    if unit in ("hz", "/min", "/s", "permin", "aminute") and rate:
        if value <= 0:
            raise QuantityError(what, f"{figure(value)} is out of range", accepted)
        value = 1.0 / value if unit in ("hz", "/s") else 60.0 / value
    elif unit in ("", "s", "sec"):
        pass
    elif unit == "ms":
        value *= 1e-3
    elif unit == "min":
        value *= 60.0
    else:
        raise QuantityError(what, f"“{text.strip()}” is not a time", accepted)
    if not low <= value <= high:
        raise QuantityError(what, f"{figure(value)} s is out of range", accepted)
    return round(value, 6)


def format_seconds(seconds: float) -> str:
    """``50 ms``, ``1.2 s``, ``2 min``."""
    if 0 < seconds < 0.1:
        return f"{figure(seconds * 1e3)} ms"
    return f"{figure(seconds)} s" if seconds < 120 else f"{figure(seconds / 60.0)} min"


def counted(number: int, noun: str) -> str:
    """``1 lamp``, ``3 lamps``."""
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"


def thousands(value: float, digits: int = 0) -> str:
    """A number with thin spaces between its thousands: ``12 500``."""
    return f"{value:,.{digits}f}".replace(",", THIN)


def figure(value: float, digits: int = 3) -> str:
    """A number to so many digits, never with an exponent: ``0.012``, ``3.4``, ``82.6``, ``2 830``."""
    if value == 0 or not math.isfinite(value):
        return f"{value:g}"
    rounded = float(f"{value:.{digits}g}") if abs(value) < 10**digits else round(value)
    if abs(rounded) >= 1000:
        return thousands(rounded)
    text = f"{rounded:.{digits}g}"
    return f"{rounded:.9f}".rstrip("0").rstrip(".") if "e" in text else text


def format_resistance(ohm: float) -> str:
    """Short bench form: ``470 Ω``, ``3.9 kΩ``, ``1 MΩ``; three figures, as many as bands have."""
    return _in_units(ohm, ((1e6, "MΩ"), (1e3, "kΩ"), (1.0, "Ω")))


def _in_units(value: float, units: tuple[tuple[float, str], ...]) -> str:
    """A value in the largest unit that it has one or more of, rounding counted; the last where it has less."""
    for factor, unit in units:
        if abs(value) >= factor * 0.9995 or (factor, unit) == units[-1]:
            return f"{figure(value / factor)} {unit}"
    return ""


def format_current(amp: float) -> str:
    """``148 mA``, ``1.62 mA``, ``12 µA``."""
    return _in_units(amp, ((1.0, "A"), (1e-3, "mA"), (1e-6, "µA")))


def format_intensity(candela: float) -> str:
    """``2.35 mcd``, ``300 mcd``, ``13 cd``."""
    return _in_units(candela, ((1.0, "cd"), (1e-3, "mcd")))


YEAR_H = 8766.0


def format_hours(hours: float) -> str:
    """``45 min``, ``31 h``, ``6 days``, ``more than a year`` (cells run down by themselves by then), or ``no limit`` for infinity."""
    if math.isinf(hours):
        return "no limit"
    if hours < 1.5:
        return f"{hours * 60:.0f} min"
    if hours > YEAR_H:
        return "more than a year"
    return f"{figure(hours)} h" if hours < 99.95 else f"{figure(hours / 24)} days"


def letter_code(ohm: float) -> str:
    """A resistance as it is printed on parts (IEC 60062), the letter in the point's place: 4k7, 330, 2R2, 1M."""
    for size, letter in ((1e6, "M"), (1e3, "k"), (1.0, "R")):
        if ohm >= size * 0.9995:
            text = f"{ohm / size:.3g}"
            whole, _, rest = text.partition(".")
            return whole + (letter if rest or letter != "R" else "") + rest
    return f"0R{round(ohm * 100):02d}"
