"""What a finding is: a subject, a number, a sentence, and edits that would settle it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.models import Plan


class Fix(NamedTuple):
    """An offer: its words, and the edit it makes. Its outcome is found by assessing the edited plan."""

    label: str
    edit: Callable[[Plan], Plan]


class Finding(NamedTuple):
    """``stop`` must be settled before the build; ``look`` deserves a look. ``station`` is where it is settled.

    ``measure`` finds the number anew for another plan, settled or not; ``unit`` is written behind it.
    """

    rule: str
    severity: Literal["look", "stop"]
    station: str
    subject: str
    number: float
    sentence: str
    fixes: tuple[Fix, ...] = ()
    measure: Callable[[Assessment], float] | None = None
    unit: str = ""
