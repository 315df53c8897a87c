"""What a lamp of unknown make is: from readings of voltage and current, or from what a seller's slip says.

Each family's curve is laid through the readings, its spread and that of the meter taken as one sigma: the likeliest comes
first. What two readings can't tell apart (blue, white and deep green are one chip under another coat) is said.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.circuit.parts.diode import VT_300K, parameters_from_points
from gwiazda.core.errors import CircuitError

METER_V, METER_SHARE = 0.01, 0.008  # of a small meter: two digits, and 0.8 %


class Points(NamedTuple):
    """A family's two data-sheet points (V at 20 and 1 mA), its resistance (Ω) and spread (± V)."""

    v20_v: float
    v1_v: float
    rs_ohm: float
    spread_v: float

    def volts(self, current_a: float) -> float:
        """Forward voltage (V) at a current (A).

        Parameters
        ----------
        current_a : float
            Current, A.

        Returns
        -------
        float
            Forward voltage, V.
        """
        n, is_a = parameters_from_points(self.v20_v, self.v1_v, self.rs_ohm)
        return float(n * VT_300K * math.log1p(current_a / is_a) + self.rs_ohm * current_a)


class Guess(NamedTuple):
    """A family, how likely it is among all (0 to 1), how far off its curve the readings lie on average (V)."""

    family: str
    likely: float
    off_v: float


def identified(readings: Sequence[tuple[float, float]], families: Mapping[str, Points]) -> tuple[Guess, ...]:
    """Families for readings of (current A, voltage V), likeliest first.

    A lamp may be one, two or three in series: that is not guessed here.

    Parameters
    ----------
    readings : Sequence[tuple[float, float]]
        Pairs of current (A) and voltage (V), both forward.
    families : Mapping[str, Points]
        Two-point data of each family by its name.

    Returns
    -------
    tuple[Guess, ...]
        Families, likeliest first, with the deviation of each.

    Raises
    ------
    CircuitError
        For readings that are no forward ones.
    """
    if not readings or any(not (0 < i <= 3.0 and 0.5 <= v <= 15.0) for i, v in readings):
        raise CircuitError("Readings", "not all are forward ones", "currents above 0 with 0.5 to 15 V")
    scores: dict[str, tuple[float, float]] = {}
    for name, points in families.items():
        off = [v - points.volts(i) for i, v in readings]
        mean = sum(off) / len(off)
        meter = [math.hypot(METER_V, METER_SHARE * v) for _, v in readings]
        # The lamp's own voltage shifts all of its curve alike; what is left over is the meter's.
        sigma = points.spread_v / 2.0
        chi = (mean / math.hypot(sigma, sum(meter) / len(meter))) ** 2
        chi += sum(((o - mean) / m) ** 2 for o, m in zip(off, meter, strict=True)) if len(off) > 1 else 0.0
        scores[name] = (-0.5 * chi - math.log(sigma), mean)
    best = max(s for s, _ in scores.values())
    weights = {k: math.exp(s - best) for k, (s, _) in scores.items()}
    total = sum(weights.values())
    return tuple(
        sorted((Guess(k, w / total, scores[k][1]) for k, w in weights.items()), key=lambda g: (-g.likely, abs(g.off_v)))
    )
