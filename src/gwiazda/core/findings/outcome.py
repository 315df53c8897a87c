"""What an offer comes to: the edited plan assessed and judged, and whether it is any help."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal, NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import figure

LEAST_BETTER = 0.01  # of a finding's number: less isn't worth an offer


class Outcome(NamedTuple):
    """What the plan would be after a fix: whether the finding is gone, its number (None where there is none any more) and what it was,
    the draw in mA, and how many things that stop the build it would bring."""

    settled: bool
    number: float | None
    before: float
    draw_ma: float
    unit: str = ""
    brings: int = 0
    better: Literal["less", "more"] = "less"

    @property
    def helps(self) -> bool:
        """Whether it makes better what its finding names."""
        if self.settled or self.number is None:
            return True
        gain = (self.number - self.before) * (1.0 if self.better == "more" else -1.0)
        return gain > LEAST_BETTER * max(abs(self.before), 1e-3)

    def words(self, before_ma: float) -> tuple[str, str]:
        """What it comes to, and how good that is."""
        change = self.draw_ma - before_ma
        draw = f", {change:+.0f} mA".replace("-", "−") if abs(change) >= 0.5 else ""
        if self.settled:
            now = f"{figure(self.number, 2)}{self.unit}, " if self.number is not None and self.unit else ""
            if self.brings:
                return f"{now}fixed{draw}; something else to fix", "look"
            return f"{now}fixed{draw}", "fine"
        return (
            f"then {figure(self.number, 2)}{self.unit}{draw}" if self.number is not None else f"not fixed{draw}"
        ), "look"


def outcome_of(
    plan: Plan, catalogue: Catalogue, finding: Finding, fix: Fix, known: Collection[tuple[str, str]] = ()
) -> Outcome | None:
    """Assess the edited plan; never a guess. None where the edit is refused, or changes nothing.

    Parameters
    ----------
    plan, catalogue, finding, fix
        The plan, its parts, and one of its findings with one of its offers.
    known : collection of (rule, subject)
        The findings there are already: others that stop the build are brought by the offer.
    """
    try:
        after = fix.applied(plan)
    except GwiazdaError:
        return None
    if after == plan:
        return None
    assessment = assess(after, catalogue)
    findings = evaluate_rules(after, assessment)
    brings = sum(f.severity == "stop" and (f.rule, f.subject) not in known and f.rule != finding.rule for f in findings)
    brings = brings if known else 0
    alike = [f for f in findings if f.rule == finding.rule]
    draw = assessment.supply.draw_a * 1e3
    if finding.measure is not None:
        # What is wrong may have moved, to another pane or wall of the same section: it is the same trouble still.
        number = finding.measure(assessment)
        left = any(abs(f.number - number) < 1e-9 for f in alike)
        return Outcome(not left, number, finding.number, draw, finding.unit, brings, finding.better)
    same = [f for f in alike if finding.subject in f.subjects]
    return Outcome(not same, same[0].number if same else None, finding.number, draw, "", brings, finding.better)
