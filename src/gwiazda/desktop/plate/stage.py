"""The kit as it is at a step of its build, for the plate and the round: which sections are open, and signs in them."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.states import State
from gwiazda.core.plan.frame import Face
from gwiazda.core.plan.model import Point


class Sign(NamedTuple):
    """A place (mm) with its state, as the meters show it."""

    at: Point
    state: State


class Stage(NamedTuple):
    """Sections that are open, each with the wall that is; signs inside of them."""

    opened: dict[str, Face]
    signs: tuple[Sign, ...] = ()
