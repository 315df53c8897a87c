"""Every figure that is said with a band, in one place: what it is, of what, its value, and from where to where it falls nine times in ten."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal, NamedTuple, get_args

from gwiazda.core.assess.sight.dusk import dusk_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import band, draw_sigma, leak_sigma, point_sigma
from gwiazda.core.light.dusk import LEAST_LX, MOST_LX
from gwiazda.core.parts.spreads import CAPACITY, COUPLED
from gwiazda.core.plan.model import Plan

Kind = Literal["section", "window", "evenness", "dusk", "point", "tip", "leak", "draw", "hours"]
KINDS: tuple[Kind, ...] = get_args(Kind)


class Band(NamedTuple):
    """A figure with its 5 and 95 % values."""

    kind: Kind
    of: str
    value: float
    low: float
    high: float

    @property
    def width(self) -> float:
        """How wide it is, as a share of the value: 0.3 where it is said to ±15 %."""
        return (self.high - self.low) / self.value if self.value > 0 else 0.0


def bands_of(plan: Plan, assessment: Assessment, dusk: bool = True) -> Iterator[Band]:
    """All figures of an assessed plan that are said with a band, and are more than nothing; those of ``dusk`` take the longest."""

    def made(kind: Kind, of: str, value: float, sigma: float, lean: float = 0.0) -> Band:
        return Band(kind, of, value, *band(value, sigma, lean))

    shown = {o.id: o for o in plan.openings}
    for s in assessment.sections.values():
        if s.mean_cd_m2 > 0 and s.sigma > 0:
            yield made("section", s.id, s.mean_cd_m2, s.sigma, s.lean)
        if s.evenness and 0 < s.evenness_low < s.evenness_high:
            yield Band("evenness", s.id, s.evenness, s.evenness_low, s.evenness_high)
    for o in assessment.openings.values():
        if o.sigma > 0 and o.luminance_cd_m2 > 0 and shown[o.id].lit > 0 and not shown[o.id].into:
            yield made("window", o.id, o.luminance_cd_m2, o.sigma, o.lean)
    for row in dusk_of(plan, assessment) if dusk else ():
        low, high = row.shows_from
        if LEAST_LX < low < row.until[0] < high < 0.98 * MOST_LX:  # what shows at noon already, or never, is said so
            yield Band("dusk", row.of, row.until[0], low, high)
    ends = {t.lamp for t in assessment.tips.values()}
    for lamp in assessment.lamps.values():
        if lamp.section is None and lamp.id not in ends and lamp.axial_cd > 0:
            yield made("point", lamp.id, lamp.axial_cd, point_sigma(assessment.catalogue, lamp))
    for tip in assessment.tips.values():
        if tip.lamp and not tip.creased and tip.cd > 0:
            yield made(
                "tip",
                tip.id,
                tip.cd,
                math.hypot(COUPLED, point_sigma(assessment.catalogue, assessment.lamps[tip.lamp])),
            )
    for leak in assessment.leaks:
        if leak.safe_times >= 1.0 and leak.times > 0:  # what stays unseen for sure is said so, and needs no band
            yield made("leak", leak.id, leak.times, leak_sigma(leak.times, leak.safe_times))
    for feed_id, feed in assessment.feeds.items():
        if feed.draw_a > 0:
            yield made("draw", feed_id, feed.draw_a, draw_sigma(assessment.branches, assessment.lamps, feed_id))
        if feed.is_battery and 0 < feed.hours < math.inf:
            yield made(
                "hours",
                feed_id,
                feed.hours,
                math.hypot(CAPACITY, draw_sigma(assessment.branches, assessment.lamps, feed_id)),
            )
