"""Steps from the plan: what is to be done to each section and to the whole, how long, after what."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gwiazda.core.assess.assembly.maker import Maker
from gwiazda.core.assess.assembly.section_steps import section_steps
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.assess.assembly.threading import threaded_through
from gwiazda.core.assess.assembly.whole_steps import whole_steps
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Plan
from gwiazda.core.schedule.graph import Task


@memoize(slots=2)
def _steps(catalogue: Catalogue, plan: Plan) -> tuple[Step, ...]:
    maker = Maker(catalogue, plan)
    maker.begin()
    for c in maker.contents.values():
        section_steps(maker, c)
    for closed, wired in threaded_through(catalogue, plan).items():
        maker.await_(f"{closed}:close", [f"{of}:wires" for of in wired])
    if plan.sections or plan.lamps:
        whole_steps(maker)
    return tuple(maker.own())


def steps_of(catalogue: Catalogue, plan: Plan) -> tuple[Step, ...]:
    """All steps of a plan, each after what it needs where none of one's own says otherwise."""
    return _steps(catalogue, plan)


def tasks_of(
    steps: Sequence[Step], not_before: Mapping[str, float] | None = None, pairs: Sequence[tuple[str, str]] = ()
) -> list[Task]:
    """Steps as the schedule wants them; ``not_before``: the minute of the clock before which one isn't begun, by key; ``pairs``: sections that are
    mirror images, on which the same is done one after the other."""
    earliest = not_before or {}
    other = {a: b for pair in pairs for a, b in (pair, pair[::-1])}
    have = {s.key for s in steps}

    def twin(s: Step) -> str:
        key = f"{other[s.section]}:{s.key.partition(':')[2]}" if s.section in other else ""
        return key if key in have else ""

    return [
        Task(
            s.key, s.minutes, s.wait_h * 60.0, s.needs, earliest.get(s.key, 0.0), s.session,
            None if s.again_h is None else s.again_h * 60.0, s.set_up_min, s.set_up_again_min, twin(s),
        )
        for s in steps
    ]  # fmt: skip
