"""The build at one of its steps: what is open, what is got at with what, which joints hang free, what must be threaded first."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.assembly.step import Step
from gwiazda.core.assess.reach.reached import SOFTENED_MM, Spot, spots_of
from gwiazda.core.assess.states import Assessment, JointState
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import joint_name, name_of
from gwiazda.core.quantities import counted

MADE = ("wires", "solder")  # the step by which a section's wires are where they are joined


class Threaded(NamedTuple):
    """Wires of another section that go through one, and must be in it before it is closed: that section, their ids."""

    section: str
    of: str
    runs: tuple[str, ...]


class Moment(NamedTuple):
    """A step of the build: sections that are open, that are closed; every spot with its widest tool; joints that hang free; what must be
    threaded before a section is closed."""

    open: tuple[str, ...]
    closed: tuple[str, ...]
    reached: Mapping[str, str]
    hanging: tuple[str, ...]
    thread: tuple[Threaded, ...]


def moment(plan: Plan, assessment: Assessment, steps: Sequence[Step], done: Collection[str]) -> Moment:
    """The build with these steps done.

    Parameters
    ----------
    plan, assessment
        The plan and its figures.
    steps : Sequence[Step]
        Its steps.
    done : Collection[str]
        Keys of those that are done.

    Returns
    -------
    Moment
        What is open, reached, hanging and to be threaded then.
    """
    have = {s.key for s in steps}
    sealed = {x.section for x in plan.seals}
    closed = {s.id for s in plan.sections if s.id in sealed or f"{s.id}:close" in done}
    reached = {x.id: x.by(x.section in closed) for x in spots_of(plan, assessment)}
    later = tuple(
        t._replace(runs=t.runs)
        for t in threaded(plan, assessment)
        if t.section not in closed and f"{t.section}:close" in have and not _made(t.of, done)
    )
    return Moment(
        tuple(s.id for s in plan.sections if s.id not in closed), tuple(s.id for s in plan.sections if s.id in closed), reached,
        tuple(_hanging(plan, assessment, done)), later,
    )  # fmt: skip


def _made(section: str, done: Collection[str]) -> bool:
    """Whether a section's wires are out."""
    return any(f"{section}:{kind}" in done for kind in MADE[:1]) or f"{section}:close" in done


def homes_of_joint(
    plan: Plan, assessment: Assessment, joint: JointState, parted: Collection[str] = ()
) -> tuple[str, ...]:
    """The sections whose wires meet at a joint, that of the joint left out; without those whose wires all come by a passage where a plug parts them."""
    home = {p.id: key for key, c in contents_of(plan).items() for p in c.lamps}
    runs = [
        run
        for r in joint.wires
        if (run := assessment.loom.runs.get(r)) is not None and not set(run.through or ()) & set(parted)
    ]
    found = [
        x for run in runs for x in ([run.start] if run.kind == "trunk" else [home.get(lamp, "") for lamp in run.lamps])
    ]
    return tuple(dict.fromkeys(x for x in found if x and x != joint.section))


def _hanging(plan: Plan, assessment: Assessment, done: Collection[str]) -> Iterator[str]:
    """Joints that are soldered while what they belong to isn't fixed yet."""
    lamps_home = {p.id: key for key, c in contents_of(plan).items() for p in c.lamps}
    for j in assessment.loom.joints:
        if j.kind == "lamp":
            home = lamps_home.get(j.id.rpartition(".")[0], "")
            if f"{home}:solder" in done and f"{home}:lamps" not in done:
                yield j.id
        elif j.kind == "hub":
            homes = homes_of_joint(plan, assessment, j)
            some = [h for h in homes if _made(h, done)]
            if some and len(some) < len(homes):
                yield j.id


@memoize(slots=2)
def threaded(plan: Plan, assessment: Assessment) -> tuple[Threaded, ...]:
    """Wires that go through a section they don't belong to, and have to be in it before it is closed for good."""
    homes = {p.id: key for key, c in contents_of(plan).items() for p in c.lamps}
    passages = {p.id: p for p in plan.passages}
    sealed = {s.id for s in plan.sections if s.closure.by and s.closure.sealed}
    found: dict[tuple[str, str], list[str]] = {}
    for run in assessment.loom.runs.values():
        home = homes.get(run.lamps[0], "") if run.lamps else ""
        if not home or not run.through:
            continue
        way = [passages[i] for i in run.through if i in passages]
        crossed = dict.fromkeys(s for p in way for s in (p.section, p.into) if s and s != home and s in sealed)
        for section in crossed:
            found.setdefault((section, home), []).append(run.id)
    return tuple(Threaded(section, of, tuple(runs)) for (section, of), runs in found.items())


def moment_words(plan: Plan, assessment: Assessment, m: Moment) -> tuple[str, ...]:
    """A moment in sentences: by section what gets where, then what hangs, what is to be threaded."""
    out = []
    spots: dict[str, list[Spot]] = {}
    for s in spots_of(plan, assessment):
        spots.setdefault(s.section, []).append(s)
    sections = {s.id: s for s in plan.sections}
    for section, here in spots.items():
        closed = section in m.closed
        state = "closed" if closed else f"open at its {FACE_WORDS[sections[section].lid]}"
        by: dict[str, list[Spot]] = {}
        for s in here:
            by.setdefault(m.reached[s.id], []).append(s)
        parts = [f"{tool or 'nothing'} to {_counted(mine)}" for tool, mine in by.items()]
        line = f"<b>{sections[section].name}</b>, {state}: {', '.join(parts)}."
        near = [s for s in here if s.joint and s.soldered(closed) and s.near_mm < SOFTENED_MM]
        if near and not closed and not plan.loom.bench_first:
            line += f" {counted(len(near), 'joint')} within {SOFTENED_MM:.0f} mm of plastic: solder on the bench, or clip a heat sink between."
        out.append(line)
    for t in m.thread:
        out.append(
            f"Before {name_of(plan, t.section)} is closed: thread {counted(len(t.runs), 'wire')} of {name_of(plan, t.of)} through it."
        )
    if m.hanging:
        names = ", ".join(joint_name(plan, j) for j in m.hanging[:3])
        more = f" and {len(m.hanging) - 3} more" if len(m.hanging) > 3 else ""
        out.append(f"Hanging free, to be taped down: {names}{more}.")
    return tuple(out)


def _counted(spots: Sequence[Spot]) -> str:
    lamps, joints = sum(not s.joint for s in spots), sum(s.joint for s in spots)
    return " and ".join(
        x for x in (counted(lamps, "lamp") if lamps else "", counted(joints, "joint") if joints else "") if x
    )
