"""What the core makes of a plan: its figures and findings, and figures kept of plans that were open before.

The whole core is behind it, which takes a while to load: it is at the first question that can't be answered from what is kept.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from platformdirs import user_cache_path

from gwiazda.core.assess.kept import MARK, mark_of, pack, same_figures, unpack
from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import write_atomically
from gwiazda.core.radiosity.fineness import CELLS, QUICK_CELLS
from gwiazda.demos import FIGURES

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.findings.finding import Finding
    from gwiazda.core.parts.catalogue import Catalogue
    from gwiazda.core.plan.model import Plan

    Judged = tuple[Plan, Assessment, tuple[Finding, ...]]
MOST_KEPT = 40  # plans


def appraise(plan: Plan, catalogue: Catalogue, cells: int = CELLS) -> Judged:
    """Assess and judge a plan; pure, fit for any thread."""
    from gwiazda.core.assess.assessment import assess
    from gwiazda.core.findings.rules import evaluate_rules

    assessment = assess(plan, catalogue, cells)
    return plan, assessment, evaluate_rules(plan, assessment)


def first_look(plan: Plan, catalogue: Catalogue) -> Judged:
    """Appraise a plan with few cells where much light is to be reckoned anew; the fine one follows then."""
    from gwiazda.core.assess.carriers.standing import furnished
    from gwiazda.core.assess.optics.lighting import to_solve

    return appraise(plan, catalogue, QUICK_CELLS if to_solve(catalogue, furnished(catalogue, plan)) else CELLS)


def proven(plan: Plan, kept: Assessment) -> Judged:
    """Figures that were kept, with the findings, or the fresh figures where they aren't the same."""
    fresh = appraise(plan, kept.catalogue)
    return (plan, kept, fresh[2]) if same_figures(kept, fresh[1]) else fresh


def _folder() -> Path:
    return user_cache_path("gwiazda") / "figures"


def _name(mark: bytes) -> str:
    return f"{mark[-4:].hex()}.figures"


def _files(mark: bytes) -> Iterator[Path]:
    """Files that may hold the figures of a plan: those that come with the demos, and that of a plan opened lately."""
    yield from FIGURES
    yield _folder() / _name(mark)


def recall(plan: Plan, catalogue: Catalogue) -> Assessment | None:
    """The figures of a plan that were kept, or None."""
    mark = mark_of(plan, catalogue)
    for path in _files(mark):
        try:
            with path.open("rb") as file:
                begin = file.read(MARK)
                if begin == mark and (found := unpack(begin + file.read(), plan, catalogue)) is not None:
                    return found
        except OSError:
            pass  # none kept: it is worked out
    return None


def keep(plan: Plan, assessment: Assessment) -> None:
    """Keep the fine figures of a plan for the next time it is opened; where that can't be, they are worked out then."""
    data = pack(plan, assessment)
    path = _folder() / _name(data[:MARK])
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(path, data)
        for old in sorted(path.parent.iterdir(), key=lambda p: p.stat().st_mtime, reverse=True)[MOST_KEPT:]:
            old.unlink(missing_ok=True)
    except (OSError, GwiazdaError):
        pass  # a start that takes a moment longer
