"""All that can be done about a trouble, with what each takes: the ways in, least harm first, then what leaves the section closed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.workbench.diagnosis import Suspect
from gwiazda.core.workbench.rescue.remedy import Price, Remedy, Trouble, price_of
from gwiazda.core.workbench.rescue.stand_ins import stand_ins
from gwiazda.core.workbench.rescue.ways import ways


class Offer(NamedTuple):
    """A remedy and what it takes."""

    remedy: Remedy
    price: Price

    @property
    def words(self) -> str:
        """What it comes to, what it risks, what is painted again; a sentence each."""
        r = self.remedy
        said = [
            r.outcome,
            f"Risk: {r.risk[:1].lower()}{r.risk[1:]}" if r.risk else "",
            f"Paint again: {r.repaint}" if r.repaint else "",
        ]
        return ". ".join(x for x in said if x)


def remedies(
    plan: Plan, assessment: Assessment, trouble: Trouble, suspects: Sequence[Suspect] = ()
) -> tuple[Offer, ...]:
    """What can be done, least harm first.

    Parameters
    ----------
    plan, assessment
        The plan and its figures, everything sound.
    trouble : Trouble
        What is wrong, in which section.
    suspects : Sequence[Suspect]
        Of a diagnosis, where something was read.

    Returns
    -------
    tuple[Offer, ...]
        The ways in, then what leaves it closed; the last of these leaves it as it is.
    """
    found = (*ways(plan, assessment, trouble, suspects), *stand_ins(plan, assessment, trouble))
    return tuple(Offer(r, price_of(assessment.catalogue, plan.bench, r.steps)) for r in found)
