"""A step of a build, and how much there is to do of it."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.plan.model import EveningSettings

TESTS = ("test", "leak", "roll-call", "final")  # a section isn't closed while one of its own is open
GATES = ("test", "leak", "roll-call")
WHOLE = ""  # the section of steps that belong to the whole kit


class Step(NamedTuple):
    """A step: ``key`` is ``section:kind`` or ``section:kind.n`` for coats; ``many`` is what its minutes count; ``of`` marks
    what it is done to; ``detail`` says what to do it with.

    ``session``: the kind of work it is done in one go with, ``set_up_min`` to set up for that and put away; ``again_h``: hours before the next of that kind, where that is another time
    than ``wait_h``, as for the next coat. ``field``: which of the user's own minutes its pieces are counted in.
    """

    key: str
    kind: str
    name: str
    section: str
    minutes: float
    wait_h: float
    needs: tuple[str, ...]
    many: int = 0
    of: str = ""
    detail: str = ""
    own: bool = False
    arrives: str = ""
    care: str = ""  # which caution of the catalogue belongs to it
    session: str = ""
    again_h: float | None = None
    field: str = ""
    set_up_min: float = 0.0
    set_up_again_min: float = 0.0

    @property
    def is_test(self) -> bool:
        return self.kind in TESTS


class Work(NamedTuple):
    """How much there is to do: pieces, minutes for each and hours to wait where they aren't the usual ones; the number of a coat; its caution;
    hours before the next coat; the user's own minutes it is counted in."""

    pieces: int = 0
    each_min: float | None = None
    wait_h: float | None = None
    number: int = 0
    care: str = ""  # where it isn't the usual one
    again_h: float | None = None
    field: str = ""


def slower(bench: EveningSettings, water: bool = True) -> float:
    """How much longer things dry than at 20 °C: twice for each 10 K colder, half as long again where it is damp and they are water-based."""
    return float(2.0 ** ((20.0 - bench.air_c) / 10.0) * (1.5 if bench.damp and water else 1.0))
