"""Reading and writing values the way modellers write them: ``4k7``, ``20mA``, ``1/200``, ``3 mm``, ``1/8 in``.

Unit prefixes are read by quantiphy; this module adds what the bench writes beyond it: the letter code of
IEC 60062 (``4k7``, ``R47``), fractions of an inch and scales.
"""

from __future__ import annotations

import math
import re
from fractions import Fraction

from gwiazda.core.errors import QuantityError

_LETTER_CODE = re.compile(r"^(\d*)([RrKkMG])(\d+)$")
_FRACTION = re.compile(r"^(?:(\d+)\s+)?(\d+)\s*/\s*(\d+)\s*(.*)$")
_SCALE = re.compile(r"^1\s*[/:]\s*(\d+(?:[.,]\d+)?)$")

_LENGTH_MM = {
    "": 1.0, "mm": 1.0, "cm": 10.0, "m": 1000.0, "um": 1e-3, "µm": 1e-3,
    "in": 25.4, '"': 25.4, "inch": 25.4, "ft": 304.8,
}  # fmt: skip


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
        bare = str(text).strip()
        match = _SCALE.match(bare)
        try:
            value = float((match.group(1) if match else bare).replace(",", "."))
        except ValueError:
            raise QuantityError("Scale", f"“{bare}” is not a scale", accepted) from None
    if not (math.isfinite(value) and 1.0 <= value <= 100_000.0):
        raise QuantityError("Scale", f"“{text}” is not a scale", accepted)
    return value


def format_scale(denominator: float) -> str:
    """``1/200`` for 200."""
    short = f"{denominator:g}"
    return f"1/{short if float(short) == denominator else repr(denominator)}"


def parse_length_mm(text: str, what: str = "Length") -> float:
    """Length in mm from ``3``, ``3 mm``, ``0,5mm``, ``1.2 cm``, ``1/8 in``, ``1 1/2 in`` or ``18.8 m``."""
    bare = text.strip().replace(",", ".")
    accepted = "a length such as 3 mm, 1.2 cm or 1/8 in"
    fraction = _FRACTION.match(bare)
    if fraction and int(fraction.group(3)):
        number = float(int(fraction.group(1) or 0) + Fraction(int(fraction.group(2)), int(fraction.group(3))))
        unit = fraction.group(4).strip()
    else:
        plain = re.match(r"^([+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?)\s*([^\d\s]*)$", bare)
        if not plain:
            raise QuantityError(what, f"“{text.strip()}” is not a length", accepted)
        number, unit = float(plain.group(1)), plain.group(2)
    if unit not in _LENGTH_MM or not math.isfinite(number):
        raise QuantityError(what, f"“{text.strip()}” is not a length", accepted)
    return number * _LENGTH_MM[unit]


FULL_SIZE_FROM_MM = 1000.0  # a length of a metre and more can only be meant at full size
_FULL_SIZE = re.compile(r"\s*\b(full[\s-]*size|real|1\s*[:/]\s*1)\s*$", re.IGNORECASE)


def is_full_size(text: str) -> bool:
    """Whether a length says that it is that of the real thing: ``60 cm full size``, ``2 ft real``."""
    return _FULL_SIZE.search(text.strip()) is not None


def plain_length(text: str) -> str:
    """A length without the words that say it is at full size."""
    return _FULL_SIZE.sub("", text.strip())


def parse_kit_length_mm(text: str, scale: float, what: str = "Length") -> float:
    """Length in mm on the model: ``94 mm`` as it is; ``18.8 m`` or ``60 cm full size`` divided by the scale."""
    length = parse_length_mm(plain_length(text), what)
    return length / scale if is_full_size(text) or length >= FULL_SIZE_FROM_MM else length


def _parse_si(text: str, units: tuple[str, ...], what: str, accepted: str, bare_factor: float) -> float:
    from quantiphy import InvalidNumber, Quantity

    bare = text.strip().replace(",", ".").replace("Ω", "Ω")
    try:
        quantity = Quantity(bare, ignore_sf=False)
    except (InvalidNumber, ValueError):
        raise QuantityError(what, f"“{text.strip()}” can't be read", accepted) from None
    if quantity.units and quantity.units not in units:
        raise QuantityError(what, f"“{text.strip()}” is in {quantity.units}", accepted)
    if not math.isfinite(float(quantity)):
        raise QuantityError(what, f"“{text.strip()}” can't be read", accepted)
    has_prefix_or_unit = bool(re.search(r"[^\d.eE+\-\s]", bare))
    return float(quantity) if has_prefix_or_unit else float(quantity) * bare_factor


def parse_resistance_ohm(text: str, what: str = "Resistor") -> float:
    """Resistance in Ω from ``4k7``, ``R47``, ``470``, ``1.2k``, ``4.7 kΩ`` or ``1M``; must be above zero."""
    accepted = "a resistance such as 470, 4k7 or 1M"
    bare = text.strip()
    match = _LETTER_CODE.match(bare)
    if match:
        factor = {"R": 1.0, "K": 1e3, "M": 1e6, "G": 1e9}[match.group(2).upper()]
        # Divided, not multiplied by 0.1: "4k7" has to come out as 4700 exactly.
        value = float(f"{match.group(1) or '0'}.{match.group(3)}") * factor
        value = round(value, 9)
    else:
        folded = re.sub(r"(?<=\d)\s*K", "k", bare)
        folded = re.sub(r"\s*[Rr]$", "", folded)
        value = _parse_si(folded, ("Ω", "ohm", "ohms", "Ohm"), what, accepted, 1.0)
    if value <= 0:
        raise QuantityError(what, f"“{bare}” is not above zero", accepted)
    return value


def parse_current_a(text: str, what: str = "Current") -> float:
    """Current in A from ``20mA``, ``0.5 A``, ``800 uA``; a bare number is taken as mA. Must be above zero."""
    accepted = "a current such as 20mA or 0.5 A"
    value = _parse_si(text, ("A",), what, accepted, 1e-3)
    if value <= 0:
        raise QuantityError(what, f"“{text.strip()}” is not above zero", accepted)
    return value


def parse_voltage_v(text: str, what: str = "Voltage") -> float:
    """Voltage in V from ``9``, ``9 V`` or ``4500mV``; must be above zero."""
    accepted = "a voltage such as 9 V"
    value = _parse_si(text, ("V",), what, accepted, 1.0)
    if value <= 0:
        raise QuantityError(what, f"“{text.strip()}” is not above zero", accepted)
    return value


def parse_number(text: str, what: str, low: float, high: float, unit: str = "") -> float:
    """A plain number between ``low`` and ``high``, with or without its unit written behind it."""
    bare = text.strip().replace(",", ".")
    if unit and bare.endswith(unit):
        bare = bare[: -len(unit)].strip()
    accepted = f"a number from {low:g} to {high:g} {unit}".rstrip()
    try:
        value = float(bare)
    except ValueError:
        raise QuantityError(what, f"“{text.strip()}” is not a number", accepted) from None
    if not low <= value <= high:
        raise QuantityError(what, f"{value:g} is out of range", accepted)
    return value


def counted(number: int, noun: str) -> str:
    """``1 lamp``, ``3 lamps``."""
    return f"{number} {noun}" if number == 1 else f"{number} {noun}s"


def format_resistance(ohm: float) -> str:
    """Short bench form: ``470 Ω``, ``3.9 kΩ``, ``1 MΩ``."""
    for factor, unit in ((1e6, "MΩ"), (1e3, "kΩ")):
        if ohm >= factor:
            return f"{ohm / factor:.4g} {unit}"
    return f"{ohm:.4g} Ω"


def format_current(amp: float) -> str:
    """``148 mA``, ``1.62 mA``, ``12 µA``."""
    if abs(amp) >= 1.0:
        return f"{amp:.3g} A"
    if abs(amp) >= 1e-3:
        return f"{amp * 1e3:.3g} mA"
    return f"{amp * 1e6:.3g} µA"


def figure(value: float, digits: int = 3) -> str:
    """A number to so many digits, never with an exponent: ``0.012``, ``3.4``, ``82.6``, ``2830``."""
    if value == 0 or not math.isfinite(value):
        return f"{value:g}"
    if abs(value) >= 10**digits:
        return f"{value:.0f}"
    text = f"{value:.{digits}g}"
    return f"{value:.6f}".rstrip("0").rstrip(".") if "e" in text else text


def format_flux(lumen: float) -> str:
    """``0.8 mlm``, ``942 mlm``, ``41 lm``."""
    return f"{lumen:.3g} lm" if lumen >= 1.0 else f"{lumen * 1e3:.3g} mlm"


def format_intensity(candela: float) -> str:
    """``2.35 mcd``, ``300 mcd``, ``13 cd``."""
    return f"{candela:.3g} cd" if candela >= 1.0 else f"{candela * 1e3:.3g} mcd"


def format_hours(hours: float) -> str:
    """``45 min``, ``31 h``, ``6 days``, or ``no limit`` for infinity."""
    if math.isinf(hours):
        return "no limit"
    if hours < 1.5:
        return f"{hours * 60:.0f} min"
    return f"{hours:.3g} h" if hours < 100 else f"{hours / 24:.3g} days"
