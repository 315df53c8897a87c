"""One wanted look, three ways: by a larger resistor, by fewer volts, by switching fast (duty).

Less current is more light for it: blues, greens and whites give more for each milliampere when they are driven gently, so
a resistor dims with less draw than a duty does.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

from gwiazda.core.assess.electrics.junctions import forward_v
from gwiazda.core.assess.electrics.stage import given_by
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.plan.model import Plan


class Dimmed(NamedTuple):
    """One way to a lamp's wanted look. ``ohm`` and ``volts`` is what it takes, ``duty`` the share of the time it is on.

    ``current_a`` is the mean drawn from the source; ``lamp_w`` what the lamp takes, ``lost_w`` what is lost beside it.
    """

    way: Literal["resistor", "supply", "duty"]
    ohm: float
    volts: float
    duty: float
    current_a: float
    lamp_w: float
    lost_w: float

    @property
    def draw_w(self) -> float:
        return self.lamp_w + self.lost_w


def dimmings(plan: Plan, assessment: Assessment, lamp_id: str) -> tuple[Dimmed, ...]:
    """The three ways for a lamp on its rail, alone; empty where it is wanted at full or its rail is too low for it.

    By resistor: as it is wired, sized exactly. By supply: behind the resistor for the rated current, on fewer volts. By
    duty: behind that resistor on the whole rail, on for the share of the time that gives the light (Talbot and Plateau).
    """
    given = given_by(plan, assessment)
    state, kind = assessment.lamps[lamp_id], given.kinds[lamp_id]
    rail = assessment.branches[state.branch].supply_v
    share = min(state.wanted_share, 1.0)
    gentle = current_for_light(share, kind.rated_a, kind.droop)
    low, full = forward_v(kind.junctions, gentle), forward_v(kind.junctions, kind.rated_a)
    if share >= 0.999 or rail <= full:
        return ()
    rated_ohm = (rail - full) / kind.rated_a
    volts = low + gentle * rated_ohm
    return (
        Dimmed("resistor", (rail - low) / gentle, rail, 1.0, gentle, low * gentle, (rail - low) * gentle),
        Dimmed("supply", rated_ohm, volts, 1.0, gentle, low * gentle, (volts - low) * gentle),
        Dimmed(
            "duty", rated_ohm, rail, share, share * kind.rated_a, share * kind.rated_a * full,
            share * kind.rated_a * (rail - full),
        ),
    )  # fmt: skip
