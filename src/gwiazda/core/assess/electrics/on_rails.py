"""What has its resistors built in, straight on the rails: how bright it is at so many volts, with no resistor of ours."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.assess.electrics.junctions import forward_v, junctions
from gwiazda.core.assess.electrics.sources import source_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.circuit.parts.diode import Junction
from gwiazda.core.light.photometry import Droop, current_for_light, light_share
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import LampRef, Plan

DARK_LIGHT = 0.01  # of its full light: below this a lamp is as good as dark
STRAY = 0.05  # of an adapter's volts


def _diodes(assessment: Assessment, plan: Plan, lamp_id: str) -> tuple[Junction, ...]:
    return junctions(
        assessment.catalogue, assessment.catalogue.lamps[assessment.lamps[lamp_id].part], lamp_of(plan, lamp_id).units
    )


def light_on_v(assessment: Assessment, plan: Plan, lamps: Sequence[str], volts: float, sign: float = 0.0) -> float:
    """Light of a string's first strip over its rated light, with no resistor but those built in, and with source and forward voltages
    at one end of their spread (``sign``; 0: as they are)."""
    first = assessment.lamps[lamps[0]]
    parts = [assessment.catalogue.lamps[assessment.lamps[i].part] for i in lamps]
    families = assessment.catalogue.families
    diodes = [_diodes(assessment, plan, i) for i in lamps]
    at = volts * (1.0 + sign * STRAY) + sign * 0.5 * sum(p.leds * families[p.family].spread_v for p in parts)
    return _light_at(diodes, at, first.rated_a, families[parts[0].family].droop)


def _light_at(diodes: Sequence[tuple[Junction, ...]], volts: float, rated_a: float, droop: Droop) -> float:
    """Light over the rated one of lamps in series with so many volts over them."""
    low, high = 0.0, rated_a * 3.0
    for _ in range(50):  # the volts over them are a rising function of their current
        middle = 0.5 * (low + high)
        low, high = (low, middle) if sum(forward_v(d, middle) for d in diodes) > volts else (middle, high)
    return light_share(low, rated_a, droop)


def part_on_v(catalogue: Catalogue, part: LampPart, volts: float) -> float:
    """Light over the rated one of a lamp with its resistors built in, straight on so many volts."""
    return _light_at(
        (junctions(catalogue, part, 1),), volts, part.rated_ma * 1e-3, catalogue.families[part.family].droop
    )


def dark_below_v(assessment: Assessment, plan: Plan, lamps: Sequence[str]) -> float:
    """The volts below which a string of them is as good as dark."""
    first = assessment.lamps[lamps[0]]
    family = assessment.catalogue.families[assessment.catalogue.lamps[first.part].family]
    current = current_for_light(DARK_LIGHT, first.rated_a, family.droop)
    return sum(forward_v(_diodes(assessment, plan, i), current) for i in lamps)


class RailsLight(NamedTuple):
    """Light over the rated one on its source: fresh, at its nominal volts, at the end of its life; those volts; dark below (V)."""

    fresh: float
    nominal: float
    empty: float
    volts: tuple[float, float, float]
    dark_v: float


def built_in_resistor(assessment: Assessment, lamp_id: str) -> bool:
    """Whether a lamp may be put on the rails with no resistor of ours."""
    lamp = assessment.lamps.get(lamp_id)
    return lamp is not None and assessment.catalogue.lamps[lamp.part].volts > 0.0


def on_rails(plan: Plan, lamp_id: str) -> bool:
    """Whether it hangs on its source alone, with nothing in between."""
    return any(isinstance(x, LampRef) and x.lamp == lamp_id for feed in plan.feeds for x in feed.items)


def rails_light(plan: Plan, assessment: Assessment, lamp_id: str) -> RailsLight | None:
    """How bright it would be straight on its feed's rails, along the life of the source; None where it has no resistors of its own."""
    source = source_of(assessment.catalogue, edits.feed_of(plan, lamp_id).supply)
    if source is None or not built_in_resistor(assessment, lamp_id):
        return None
    volts = (source.highest_v, source.volts, source.last_v)
    fresh, nominal, empty = (light_on_v(assessment, plan, (lamp_id,), v) for v in volts)
    return RailsLight(fresh, nominal, empty, volts, dark_below_v(assessment, plan, (lamp_id,)))
