"""The eye anywhere: from where an opening is seen lit, and from where a lamp shows in plain sight behind it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.solids import Model, model_of
from gwiazda.core.assess.optics.panes import room_behind
from gwiazda.core.assess.sight.eye import lamps_seen
from gwiazda.core.assess.states import Assessment
from gwiazda.core.memo import memoize
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Opening, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.render.round import blocked
from gwiazda.core.render.solid import Eye

Array = npt.NDArray[np.float64]
COUNT = 24  # directions in a ring
HEIGHTS = (0.0, 30.0)  # of the eye above the level of the opening, degrees
EDGE = 0.05  # cosine: flatter than this nobody sees into a pane


class Look(NamedTuple):
    """From one direction: whether the pane is seen, whether it is lit, and the lamp in plain sight behind it."""

    azimuth_deg: float
    height_deg: float
    seen: bool
    lit: bool
    lamp: str


class Rose(NamedTuple):
    """Rings of directions round an opening, ``COUNT`` each, azimuths as those of an ``Eye`` (0 from port, 90 from ahead)."""

    looks: tuple[Look, ...]

    @property
    def seen(self) -> float:
        """Share of the directions it is seen from."""
        return sum(x.seen for x in self.looks) / len(self.looks)

    @property
    def lamp_shows(self) -> float:
        """Share of the directions it is seen from where a lamp shows."""
        seen = sum(x.seen for x in self.looks)
        return sum(bool(x.lamp) for x in self.looks) / seen if seen else 0.0

    @property
    def lamps(self) -> tuple[str, ...]:
        """The lamps that show from somewhere, in order."""
        return tuple(dict.fromkeys(x.lamp for x in self.looks if x.lamp))


def _out(azimuth_deg: float, height_deg: float) -> Array:
    return -Eye(azimuth_deg, height_deg, 1.0, (0.0, 0.0, 0.0), 1.0, 1, 1).axes[2]


def rose_of(plan: Plan, assessment: Assessment, opening_id: str, heights: Sequence[float] = HEIGHTS) -> Rose | None:
    """From where an opening is seen; None where it is none that is seen from outside.

    An eye at the plan's distance is taken round the opening. The pane is seen where it faces the eye and no part of the model lies
    between; a lamp shows where its glazing lets one look through and the straight line to it passes the opening, with no obstacle
    of the section in between.
    """
    model = model_of(plan.sections, plan.openings, standing(plan))
    index = next((i for i, o in enumerate(model.openings) if o.id == opening_id), None)
    if index is None or opening_id not in assessment.openings:
        return None
    return _rose(plan, assessment, model, index, tuple(heights))


@memoize(slots=2)
def _rose(plan: Plan, assessment: Assessment, model: Model, index: int, heights: tuple[float, ...]) -> Rose:
    o = model.openings[index]
    place, normal = model.at[index] + model.normal[index] * 0.2, model.normal[index]
    ways = [(k * 360.0 / COUNT, h) for h in heights for k in range(COUNT)]
    outs = np.array([_out(a, h) for a, h in ways])
    eyes = place + outs * plan.room.distance_m * 1000.0
    seen = outs @ normal > EDGE
    facing = np.flatnonzero(seen)
    if len(facing):
        seen[facing] = ~blocked(eyes[facing], place, model.bodies)
    lit = assessment.openings[o.id].luminance_cd_m2 > 0
    clear = _clear(plan, assessment, o) > 0 and lit
    lamps = [lamps_seen(plan, o, eye)[:1] if clear and s else () for eye, s in zip(eyes, seen, strict=True)]
    return Rose(
        tuple(
            Look(a, h, bool(s), bool(s) and lit, lamp[0] if lamp else "")
            for (a, h), s, lamp in zip(ways, seen.tolist(), lamps, strict=True)
        )
    )


def _clear(plan: Plan, assessment: Assessment, o: Opening) -> float:
    """Share of the light behind an opening that comes through without being turned aside."""
    at = room_behind(plan, assessment, o.id)
    return at[0].cavity.panes[at[1]].clear * o.lit if at is not None else 0.0


def words_of(plan: Plan, rose: Rose) -> str:
    """What the rose says, in a sentence."""
    if not rose.seen:
        return "Nobody sees it: it faces into the model."
    share = f"Seen from {rose.seen * 100:.0f} % of the directions round it"
    if not any(x.lit for x in rose.looks):
        return f"{share}; no light falls on it."
    if not rose.lamps:
        return f"{share}; no lamp shows from any of them."
    names = ", ".join(name_of(plan, i) for i in rose.lamps[:2]) + ("…" if len(rose.lamps) > 2 else "")
    often = max(1, math.ceil(rose.lamp_shows * 100))
    return f"{share}; from {often} % of those {names} shows in plain sight."
