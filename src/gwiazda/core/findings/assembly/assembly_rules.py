"""What is judged of the build: closings without tests, orders that ruin a finish, hands, what a change has made void."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.assembly.contents import contents_of, handed_pairs
from gwiazda.core.assess.assembly.progress import open_tests, progress_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import closed_by
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.quantities import counted
from gwiazda.core.schedule.graph import in_order


def closed_untested(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A section closed while a test of it isn't passed: found where no reason is kept with it, and where one is, said."""
    if not plan.seals and not plan.done:
        return  # most edits are made before anything is built: they don't wait for its steps
    steps = steps_of(assessment.catalogue, plan)
    names = {s.key: s.name.lower() for s in steps}
    for seal in plan.seals:
        lacking = [k for k in open_tests(plan, steps, seal.section) if k not in seal.despite]
        name = section_of(plan, seal.section).name
        if lacking:
            yield Finding(
                "closed-untested", "stop", "build", seal.section, float(len(lacking)),
                f"{name} is closed, and isn’t tested: {', '.join(names[k] for k in lacking)}.",
            )  # fmt: skip
    sealed = {s.section for s in plan.seals}
    for d in plan.done:
        section, _, kind = d.step.partition(":")
        if kind == "close" and section in contents_of(plan) and section not in sealed:
            yield Finding(
                "closed-untested", "stop", "build", section, 1.0, f"{section_of(plan, section).name} is marked as closed, and no closing of it is kept.",
            )  # fmt: skip


def circular(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Steps of one's own that make a circle."""
    from gwiazda.core.assess.assembly.steps import tasks_of

    if not plan.own_steps:
        return  # steps of the plan's own come one after another
    try:
        in_order(tasks_of(steps_of(assessment.catalogue, plan)))
    except PlanError as error:
        subject = plan.own_steps[0].id if plan.own_steps else "kit"
        fixes = tuple(Fix(f"Without {o.name}", _without(o.id)) for o in plan.own_steps[:3])
        yield Finding("circular-steps", "stop", "build", subject, 0.0, str(error), fixes)


def _without(own_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: copy_unchecked(plan, own_steps=tuple(o for o in plan.own_steps if o.id != own_id))


def void_steps(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Steps done to something that has changed since."""
    if not plan.done:
        return
    states = progress_of(plan, steps_of(assessment.catalogue, plan), "")
    void = [x for x in states if x.state == "void"]
    if void:
        first = void[0].step
        where = section_of(plan, first.section).name if first.section else "the kit"
        yield Finding(
            "void-steps", "look", "build", first.section or "kit", float(len(void)),
            f"The plan has changed since {counted(len(void), 'step')} of it {'was' if len(void) == 1 else 'were'} done: {first.name.lower()}, {where}"
            f"{' and more' if len(void) > 1 else ''}. Do {'it' if len(void) == 1 else 'them'} again, or say that it still holds.",
            (Fix("They still hold", _hold),),
        )  # fmt: skip


def _hold(plan: Plan) -> Plan:
    """Records of steps as if they had been done to what is there now."""
    return copy_unchecked(plan, done=tuple(copy_unchecked(d, of="") for d in plan.done))


def failed_tests(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A test that failed and isn't passed since."""
    for x in progress_of(plan, steps_of(assessment.catalogue, plan), "") if plan.done else ():
        if x.state == "failed":
            where = section_of(plan, x.step.section).name if x.step.section else "The kit"
            note = f": {x.done.note}" if x.done is not None and x.done.note else ""
            yield Finding(
                "test-failed",
                "stop",
                "build",
                x.step.section or "kit",
                0.0,
                f"{where}: {x.step.name.lower()} failed{note}.",
            )


def handled_after_paint(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Sub-assemblies painted before they are joined, and handled roughly afterwards."""
    contents = contents_of(plan)
    for key, c in contents.items():
        first = (c.order.paint if c.order is not None and c.order.paint else plan.orders.paint) == "before joining"
        if not first or not c.section.outside or (not c.openings and not c.lit):
            continue
        glued = c.section.closure.by == "glue"
        if glued or c.section.school == "scratch":
            what = "its seam is filled and sanded" if glued else "its panes are scratched free"
            yield Finding(
                "finish-handled", "look", "build", key, 0.0,
                f"{c.section.name} is painted before it is joined, and {what} afterwards: the finish will be touched up.",
                (Fix("Paint it after joining", _painted_after(key)),),
            )  # fmt: skip


def _painted_after(section: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_order(plan, section, paint="after joining")


def unhanded(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Sections that look alike left and right and have no hand: the worst mistake there is, found when the glue has set."""
    handed = {o.section for o in plan.section_orders if o.hand}
    left = [i for pair in handed_pairs(plan) for i in pair if i not in handed]
    if left:
        name = section_of(plan, left[0]).name
        yield Finding(
            "no-hand", "look", "build", left[0], float(len(left)),
            f"{name} and its twin look alike and have no hand yet: left and right get mixed up, and it shows once the glue has set.",
            (Fix("Port and starboard by their places", _handed(tuple(left))),),
        )  # fmt: skip


def _handed(sections: tuple[str, ...]) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        for i in sections:
            plan = edits.set_order(plan, i, hand="port" if section_of(plan, i).box.centre[1] > 0 else "starboard")
        return plan

    return edit


SAFE_GLUE = "two-part epoxy"


def glue_attacks(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A section closed with a glue that eats fibres, frosts clear parts or creeps into a hinge."""
    for c in contents_of(plan).values():
        glue = assessment.catalogue.adhesives.get(c.section.closure.glue)
        if c.section.closure.by != "glue" or glue is None:
            continue
        hurt = []
        if c.dots and "fibre" in glue.attacks:
            hurt.append("eats or crazes the fibres that go through it, and they snap at the joint")
        panes = [c.section.glazing, *(o.glazing or "" for o in c.openings)] if c.openings else []
        if (
            any(g.startswith("clear") or g == "resin" for g in panes)
            and "clear" in glue.attacks
            and glue.id == "cyanoacrylate"
        ):
            hurt.append("frosts clear panes unless it is aired for a day")
        if any(w.joint == "hinge" for w in c.passages) and "moving" in glue.attacks:
            hurt.append("creeps into the hinge")
        if hurt:
            yield Finding(
                "glue-attacks", "look", "build", c.section.id, float(len(hurt)),
                f"{c.section.name} is closed with {glue.name.lower()}: it {', '.join(hurt)}.",
                (Fix(f"{assessment.catalogue.adhesives[SAFE_GLUE].name} instead", closed_by(c.section.id, "glue", SAFE_GLUE)),),
            )  # fmt: skip


BUILD_RULES = (glue_attacks, closed_untested, circular, void_steps, failed_tests, handled_after_paint, unhanded)
