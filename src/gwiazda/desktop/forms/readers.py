"""What the fields of lamps, openings and sections read and show."""

from __future__ import annotations

import math

from gwiazda.core.assess.aims import Looks
from gwiazda.core.errors import QuantityError
from gwiazda.core.plan.model import LIMIT_MM, Lamp, Wanted
from gwiazda.core.quantities import (
    figure,
    parse_current_a,
    parse_length_mm,
    parse_number,
)

LOOKS = (
    ("barely", "barely lit"),
    ("soft", "soft"),
    ("normal", "normal"),
    ("bright", "bright"),
    ("full", "all it gives"),
)
AIMS = {
    "down": (0.0, 0.0, -1.0), "up": (0.0, 0.0, 1.0), "to port": (0.0, 1.0, 0.0), "to starboard": (0.0, -1.0, 0.0),
    "ahead": (1.0, 0.0, 0.0), "astern": (-1.0, 0.0, 0.0),
}  # fmt: skip


def read_mm(text: str) -> float:
    value = parse_length_mm(text)
    if abs(value) > LIMIT_MM:
        raise QuantityError("Length", f"{value:g} mm is out of range", f"up to {LIMIT_MM:g} mm")
    return value


def read_size(text: str) -> float:
    value = read_mm(text)
    if value <= 0:
        raise QuantityError("Size", f"{value:g} mm is not above zero", "a size such as 3 mm")
    return value


def read_wanted(text: str) -> Wanted:
    """A figure with its unit: ``30 cd/m2``, ``2.4 mcd`` or ``5 mA``."""
    bare = text.strip().replace("²", "2").replace(",", ".")
    for unit, field, high in (("cd/m2", "cd_m2", 1e6), ("mcd", "mcd", 1e7)):
        if bare.lower().endswith(unit):
            value = parse_number(bare[: -len(unit)], "Wanted", 1e-6, high, unit)
            return Wanted(cd_m2=value) if field == "cd_m2" else Wanted(mcd=value)
    if bare.endswith("A"):
        return Wanted(current_ma=min(parse_current_a(bare, "Wanted") * 1e3, 1e4))
    raise QuantityError(
        "Wanted", f"“{text.strip()}” has no unit that fits", "a figure such as 30 cd/m², 2.4 mcd or 5 mA"
    )


def wanted_text(looks: Looks, lamp: Lamp) -> str:
    """What is wanted of a lamp as a figure: of a word what it means in this plan."""
    w = lamp.wanted
    if w.cd_m2 is not None:
        return f"{figure(w.cd_m2, 4)} cd/m²"
    if w.mcd is not None:
        return f"{figure(w.mcd, 4)} mcd"
    if w.current_ma is not None:
        return f"{figure(w.current_ma, 4)} mA"
    table, unit = (looks.cd_m2, "cd/m²") if lamp.mount == "inside" else (looks.mcd, "mcd")
    return f"{table[w.look]:g} {unit}" if w.look is not None and w.look in table else "rated current"


def same_way(a: tuple[float, float, float], b: tuple[float, float, float]) -> bool:
    norm = math.sqrt(sum(x * x for x in a) * sum(x * x for x in b))
    return norm > 0 and sum(x * y for x, y in zip(a, b, strict=True)) / norm > 0.9999
