"""What a look means in figures; where a figure is fine, deserves a look, or stops the build; and how that is said of a leak."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

from gwiazda.core.light.visibility import CLEARLY, PANE_CLEAR, STRIKING, point_threshold_lx
from gwiazda.core.plan.model import Look, ViewingConditions

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Leak, State


class Looks(NamedTuple):
    """What the words for a look mean: mean luminance of windows (cd/m²) for a lamp inside, axial intensity (mcd) for a light that is seen
    itself. A word without a figure, as all that a lamp gives, is met from bright on."""

    cd_m2: Mapping[Look, float]
    mcd: Mapping[Look, float]

    def pane(self, look: Look) -> float:
        """Luminance of windows, cd/m²."""
        return self.cd_m2.get(look, self.cd_m2["bright"])

    def point(self, look: Look) -> float:
        """Intensity of a point, mcd."""
        return self.mcd.get(look, self.mcd["bright"])


# As at night, true to scale; no room asks for less.
NIGHT = Looks(
    {"barely": 3.0, "soft": 12.0, "normal": 30.0, "bright": 80.0},
    {"barely": 1.0, "soft": 5.0, "normal": 20.0, "bright": 80.0},
)
# In a room: times the hull's luminance, and times what is just seen of a point.
PANE_TIMES: dict[Look, float] = {"barely": 1.25, "soft": 2.0, "normal": PANE_CLEAR, "bright": 15.0}
POINT_TIMES: dict[Look, float] = {"barely": CLEARLY, "soft": 300.0, "normal": STRIKING, "bright": 3000.0}


def _up(value: float) -> float:
    step = 10.0 ** (math.floor(math.log10(value)) - 2) if value > 0.0 else 1.0
    return float(f"{math.ceil(value / step - 1e-9) * step:.3g}")


def _scaled(value: float, scale: float) -> float:
    return value if scale == 1.0 else _up(value * scale)


def looks_in(room: ViewingConditions, hull_cd_m2: float, scale: float = 1.0) -> Looks:
    """What the words mean in the room a model is for: by the hull beside them there, and never under what they are at night; then by what its
    builder likes.

    Parameters
    ----------
    room : ViewingConditions
        Where the model is looked at; with ``looks`` "fixed" the words mean the same everywhere.
    hull_cd_m2 : float
        Luminance of the hull in that room, cd/m².
    scale : float
        How much brighter than usual the builder wants it; not asked where the words mean the same everywhere.

    Returns
    -------
    Looks
        To three digits, the last one up: a figure that is typed or kept is the same again.
    """
    if room.looks == "fixed":
        return NIGHT
    seen = point_threshold_lx(hull_cd_m2) * room.distance_m**2 * 1e3
    return Looks(
        {k: _scaled(max(least, _up(PANE_TIMES[k] * hull_cd_m2)), scale) for k, least in NIGHT.cd_m2.items()},
        {k: _scaled(max(least, _up(POINT_TIMES[k] * seen)), scale) for k, least in NIGHT.mcd.items()},
    )


EVENNESS_AIM, EVENNESS_STOP = 0.50, 0.25
REACHED_LOW, REACHED_HIGH, REACHED_STOP = 0.8, 1.25, 0.3
LEAK_STOP = 10.0  # times what is seen: nobody could miss it


def reached_state(ratio: float) -> State:
    """How far reached brightness may be from the wanted one: a fifth, which the eye hardly notices."""
    if REACHED_LOW <= ratio <= REACHED_HIGH:
        return "fine"
    return "stop" if ratio < REACHED_STOP else "look"


def leak_state(times: float, safe_times: float | None = None) -> State:
    """From a median of 1 on a leak shows; it may where only its 95 % value is over 1."""
    if times >= LEAK_STOP:
        return "stop"
    return "look" if max(times, safe_times or 0.0) >= 1.0 else "fine"


def leak_words(leak: Leak) -> str:
    """Whether it is seen, in a word."""
    if leak.times >= LEAK_STOP:
        return "glaring"
    return "seen" if leak.times >= 1.0 else ("may show" if leak.safe_times >= 1.0 else "unseen")


def coats_words(leak: Leak) -> str:
    """“+2 coats, safe 3”."""
    if not leak.safe_coats:
        return ""
    if not leak.coats:
        return f"to be safe +{leak.safe_coats} coat{'s' if leak.safe_coats > 1 else ''}"
    words = f"+{leak.coats} coat{'s' if leak.coats > 1 else ''}"
    return words + (f", safe {leak.safe_coats}" if leak.safe_coats > leak.coats else "")
