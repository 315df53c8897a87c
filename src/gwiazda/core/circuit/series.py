"""Preferred resistor values (IEC 60063) and their colour bands (IEC 60062)."""

from __future__ import annotations

import math

from gwiazda.core.memo import memoize_by_value

_E24 = (
    1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0,
    3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1,
)  # fmt: skip
_BANDS = ("black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white")
_MULTIPLIER = {-2: "silver", -1: "gold", **dict(enumerate(_BANDS))}


@memoize_by_value()
def decade(series: str) -> tuple[float, ...]:
    """The values of one decade, 1 ≤ value < 10, of E6, E12, E24 or E96.

    Parameters
    ----------
    series : str
        E6, E12, E24 or E96.

    Returns
    -------
    tuple[float, ...]
        Its values, rising.
    """
    if series == "E96":
        return tuple(round(10 ** (i / 96), 2) for i in range(96))
    step = {"E6": 4, "E12": 2, "E24": 1}[series]
    return _E24[::step]


@memoize_by_value()
def values(series: str) -> tuple[float, ...]:
    """All values of a series from 1 Ω to 10 MΩ, rising.

    Parameters
    ----------
    series : str
        E6, E12, E24 or E96.

    Returns
    -------
    tuple[float, ...]
        Resistances, rising, Ω.
    """
    return (
        *(float(f"{v * 10**k:.6g}") for k in range(7) for v in decade(series)),
        1e7,
    )


def bands(ohm: float, series: str) -> tuple[str, ...]:
    """Colour bands: two digits, multiplier and gold (5 %), or three digits, multiplier and brown (1 %) for E96.

    A value of one's own ``stock`` that two digits don't hold is one of three.

    Parameters
    ----------
    ohm : float
        Resistance, Ω.
    series : str
        E6, E12, E24, E96 or ``stock``.

    Returns
    -------
    tuple[str, ...]
        Colours, from the end that is read first.
    """
    digits = 3 if series == "E96" or (series == "stock" and float(f"{ohm:.2g}") != float(f"{ohm:.6g}")) else 2
    exponent = math.floor(math.log10(ohm) + 1e-12) - (digits - 1)
    figure = round(ohm / 10**exponent)
    if figure >= 10**digits:
        figure, exponent = figure // 10, exponent + 1
    if exponent not in _MULTIPLIER:
        return ()
    tolerance = "brown" if digits == 3 else "gold"
    return (*(_BANDS[int(d)] for d in str(figure)), _MULTIPLIER[exponent], tolerance)


COLOURS = (*_BANDS, "gold", "silver")
_TOLERANCE = {
    "brown": 0.01, "red": 0.02, "orange": 0.0005, "yellow": 0.0002, "green": 0.005, "blue": 0.0025, "violet": 0.001,
    "grey": 0.0001, "gold": 0.05, "silver": 0.10,
}  # fmt: skip


def value_of_bands(colours: tuple[str, ...]) -> tuple[float, float, tuple[str, ...], bool] | None:
    """What bands say (IEC 60062): value (Ω), tolerance (a share), the colours as they are read, whether from the other end.

    Three bands: two digits and a multiplier, ±20 %. Four: the same and a tolerance. Five and six: three digits, and the
    sixth band, for the temperature, is passed over. Gold and silver are no digits: bands that begin with them are read
    from the other end. None for what can't be a resistor.

    Parameters
    ----------
    colours : tuple[str, ...]
        Three to six colours, in the order they lie in.

    Returns
    -------
    tuple[float, float, tuple[str, ...], bool] or None
        Value (Ω), tolerance (a share of it), the colours as they are read, whether that is from the other end; or
        None.
    """
    for turned, row in ((False, colours), (True, tuple(reversed(colours)))):
        digits = 3 if len(row) >= 5 else 2
        if not 3 <= len(row) <= 6 or any(c not in COLOURS for c in row):
            return None
        tail = row[digits:]
        good = all(c in _BANDS for c in row[:digits]) and row[0] != "black" and (len(tail) < 2 or tail[1] in _TOLERANCE)
        if good:
            power = {"gold": -1, "silver": -2}.get(tail[0], _BANDS.index(tail[0]) if tail[0] in _BANDS else 0)
            figure = int("".join(str(_BANDS.index(c)) for c in row[:digits]))
            ohm = float(f"{figure * 10.0**power:.6g}")
            return ohm, _TOLERANCE[tail[1]] if len(tail) > 1 else 0.20, row, turned
    return None
