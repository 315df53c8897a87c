"""What a look means in figures; where a figure is fine, deserves a look, or stops the build; and how that is said of a leak."""

from __future__ import annotations

from gwiazda.core.assess.states import Leak, State
from gwiazda.core.plan.model import Look

# What the words mean: mean luminance of windows for a lamp inside, axial intensity for a lamp that is seen itself.
LOOK_CD_M2: dict[Look, float] = {"barely": 3.0, "soft": 12.0, "normal": 30.0, "bright": 80.0}
LOOK_MCD: dict[Look, float] = {"barely": 1.0, "soft": 5.0, "normal": 20.0, "bright": 80.0}
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
