"""What a finding is: a subject, a number, a sentence, and edits that would settle it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal, NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import said


class Fix(NamedTuple):
    """An offer: its words, and the edit it makes. Its outcome is found by assessing the edited plan."""

    label: str
    edit: Callable[[Plan], Plan]

    def applied(self, plan: Plan) -> Plan:
        """The plan after it, through the gate; raises PlanError where what it is about is gone."""
        return validate_edit(plan, self.edit(plan))


class Finding(NamedTuple):
    """``stop`` must be settled before the build; ``look`` deserves a look. ``topic`` is what it
    is about, and says which station settles it.

    ``better`` says which way its number gets better. ``measure`` finds the number anew for another plan, settled or not; ``unit`` is written behind it.
    """

    rule: str
    severity: Literal["look", "stop"]
    topic: str
    subject: str
    number: float
    sentence: str
    fixes: tuple[Fix, ...] = ()
    measure: Callable[[Assessment], float] | None = None
    unit: str = ""
    better: Literal["less", "more"] = "less"
    also: tuple[str, ...] = ()  # other subjects that the same holds for

    def called(self, plan: Plan) -> Finding:
        """The same with its subjects called by their names, of a sentence kept with ids: names change without the rest."""
        return self._replace(sentence=said(plan, self.sentence, self.subjects))

    @property
    def subjects(self) -> tuple[str, ...]:
        """All it is about."""
        return (self.subject, *self.also)
