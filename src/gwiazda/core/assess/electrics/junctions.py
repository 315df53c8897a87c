"""Lamps as the circuit sees them: diodes in series, dies side by side, resistors built in."""

from __future__ import annotations

from gwiazda.core.circuit.parts.diode import Junction, parameters_from_points
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import Family, LampPart

BUILT_IN_OHM, BUILT_IN_SHARE = 40.0, 0.02  # from here on a lamp counts as having a resistor of its own


# The bridge in the lead of a rectified lamp: silicon diodes as physics gives them, two of them in the current's way.
BRIDGE = (1.75, 2.5e-9, 0.6)


@memoize_by_value(512)
def _junctions(
    data: Family, dies: int, leds: int, inner_ohm: float, rectified: bool, units: int
) -> tuple[Junction, ...]:
    n, is_a = parameters_from_points(data.v20_v, data.v1_v, data.rs_ohm)
    side_by_side = dies * units
    led = Junction(n, is_a * side_by_side, data.rs_ohm / side_by_side)
    first = led._replace(rs_ohm=led.rs_ohm + inner_ohm / units)
    bridge = (Junction(*BRIDGE),) * 2 if rectified else ()
    return (first, *(led,) * (leds - 1), *bridge)


def junctions(catalogue: Catalogue, part: LampPart, units: int = 1) -> tuple[Junction, ...]:
    """The diodes of a lamp in series, built-in resistors counted with the first of them.

    More than one die side by side from 40 mA rated on, 20 mA each; units of a strip lie side by side.
    """
    dies = max(1, round(part.rated_ma / 20.0))
    return _junctions(catalogue.families[part.family], dies, part.leds, part.inner_ohm, part.rectified, units)


@memoize_by_value(16_384)
def forward_v(diodes: tuple[Junction, ...], current_a: float) -> float:
    """Voltage (V) over a lamp at a current."""
    return sum(j.volts(current_a) for j in diodes)
