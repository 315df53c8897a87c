"""What will not be got at when it is to be done: lamps and joints behind something, joints in a section that is closed before their last wire comes."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.assembly.contents import Contents, contents_of
from gwiazda.core.assess.reach.during import homes_of_joint
from gwiazda.core.assess.reach.hatching import hatch_for
from gwiazda.core.assess.reach.reached import IRON, Spot, spots_of, widest_tool
from gwiazda.core.assess.reach.ways_in import TOOLS
from gwiazda.core.assess.states import Assessment, JointState
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import Edit, with_fields, with_loom, without
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES, FACE_WORDS, PLANES, Face
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import joint_name, name_of, names_of
from gwiazda.core.quantities import counted

MOST_FACES = 2  # walls that are offered to be open instead


def _opened_at(section_id: str, face: Face) -> Edit:
    """A section that is closed at another wall."""
    return lambda plan: edits.set_fields(
        plan, [section_id], closure=edits.copy_checked(section_of(plan, section_id).closure, face=face)
    )


def _cut(section_id: str, obstacle: str) -> Edit:
    """What stands in the way, cut out."""

    def edit(plan: Plan) -> Plan:
        section = section_of(plan, section_id)
        changed = tuple(copy_unchecked(o, action="cut") if o.id == obstacle else o for o in section.obstacles)
        return edits.set_fields(plan, [section_id], obstacles=changed)

    return edit


def _open_enough(c: Contents, spots: list[Spot], good: Callable[[str], bool]) -> Iterator[Fix]:
    """Other walls left open, and things cut, with which all of these are got at."""
    section = c.section

    def got(changed: Section) -> bool:
        return all(good(widest_tool(changed, c.openings, s.at, False)) for s in spots)

    def area(face: Face) -> float:
        h, v, _ = PLANES[face]
        return -section.box.size[h] * section.box.size[v]

    faces = [
        f
        for f in sorted(FACE_NAMES, key=area)
        if f != section.lid and got(copy_unchecked(section, closure=copy_unchecked(section.closure, face=f)))
    ]
    for face in faces[:MOST_FACES]:
        yield Fix(f"Leave it open at its {FACE_WORDS[face]}", _opened_at(section.id, face))
    for o in section.obstacles:
        without_it = tuple(x for x in section.obstacles if x.id != o.id)
        if o.action == "keep" and o.kind in CUTTABLE and got(copy_unchecked(section, obstacles=without_it)):
            yield Fix(f"Cut {o.name or o.kind} out", _cut(section.id, o.id))
            return


CUTTABLE = ("bulkhead", "pin", "tab", "rib")  # of the kit itself: what was put there is moved, not cut


def lamps_unreached(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lamps that nothing gets to in a straight line, even while their section is open."""
    for key, c in contents_of(plan).items():
        mine = [s for s in spots_of(plan, assessment) if s.section == key and not s.joint and not s.open]
        if mine:
            ids = [s.id for s in mine]
            yield Finding(
                "lamp-unreached", "look", "build", ids[0], float(len(ids)),
                f"With {c.section.name} open at its {FACE_WORDS[c.section.lid]}, not even tweezers get to {names_of(plan, ids, 4)} in a straight line: {_stands(c, mine)}.",
                tuple(_open_enough(c, mine, bool)), also=tuple(ids[1:]),
            )  # fmt: skip


def _stands(c: Contents, spots: list[Spot]) -> str:
    kept: list[Obstacle] = [o for o in c.section.obstacles if o.action == "keep"]
    if not kept:
        return "the opening is too narrow"
    return (
        f"{kept[0].name or kept[0].kind} stands in the way"
        if len(kept) == 1
        else f"{counted(len(kept), 'thing')} stand in the way"
    )


def joints_unreached(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Joints at lamps that are soldered in place, where the iron doesn't get."""
    if plan.loom.bench_first:
        return
    for key, c in contents_of(plan).items():
        mine = [s for s in spots_of(plan, assessment) if s.section == key and s.joint and s.open not in IRON and s.open]
        if mine:
            fixes = (
                Fix("Solder lamps on the bench first", with_loom(bench_first=True)),
                *_open_enough(c, mine, lambda tool: tool in IRON),
            )
            names = "; ".join(joint_name(plan, s.id) for s in mine[:3]) + (
                f" and {len(mine) - 3} more" if len(mine) > 3 else ""
            )
            yield Finding(
                "joint-unreached", "look", "build", key, float(len(mine)),
                f"In {c.section.name} the iron does not get to {names}: {mine[0].open} do.", fixes,
            )  # fmt: skip


def joints_shut_in(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Joints in a section that is closed for good before the last of their wires comes: those of a unit that is pushed in late."""
    late = {o.section for o in plan.section_orders if o.late}
    if not late:
        return
    closed = {s.id: s.closed for s in spots_of(plan, assessment) if s.joint}
    sections = {s.id: s for s in plan.sections}
    parted = frozenset(p.id for p in plan.passages if p.connector)
    for j in assessment.loom.joints:
        home = sections.get(j.section)
        if home is None or not (home.closure.by and home.closure.sealed) or home.id in late or closed.get(j.id) in IRON:
            continue
        coming = [h for h in homes_of_joint(plan, assessment, j, parted) if h in late]
        if coming:
            yield Finding(
                "joint-shut-in", "stop", "build", home.id, float(len(j.wires)),
                f"Once {home.name} is closed, {joint_name(plan, j.id)} can’t be soldered: {names_of(plan, coming)} comes in later, and the iron does not get there.",
                tuple(_let_in(plan, assessment, j, home, coming)),
            )  # fmt: skip


def _let_in(plan: Plan, assessment: Assessment, j: JointState, home: Section, coming: list[str]) -> Iterator[Fix]:
    for h in coming[:1]:
        yield Fix(f"{name_of(plan, h)} goes in before it is closed", lambda p, h=h: edits.set_order(p, h, late=False))  # type: ignore[misc]
    between = next((p for p in plan.passages if {p.section, p.into} == {home.id, coming[0]} and not p.connector), None)
    state = assessment.loom.passages.get(between.id) if between is not None else None
    if between is not None and state is not None and state.runs:
        pins = len(state.runs)
        yield Fix(
            f"A plug of {pins} pins where it is pushed in", with_fields((between.id,), connector=f"{pins}-pin header")
        )
    cut = hatch_for(plan, home.id, j.at, dict(TOOLS)["an iron"]) if home.closure.hatch is None else None
    if cut is not None:
        hatch = cut.hatch
        size = " × ".join(f"{x:g}" for x in hatch.size)
        yield Fix(f"A hatch of {size} mm in its {FACE_WORDS[hatch.face]}", lambda p: edits.set_hatch(p, home.id, hatch))
    hub = next((h for h in plan.hubs if j.id.startswith(f"{h.id}.")), None)
    if hub is not None:
        yield Fix("Longer leads, and no joint in it", without(hub.id))


REACH_RULES = (lamps_unreached, joints_unreached, joints_shut_in)
