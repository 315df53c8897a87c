"""What is judged of boards, packs and interiors that stand in sections."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from gwiazda.core.assess.assembly.contents import BODIES
from gwiazda.core.assess.bodies.mounts import mounted, mounts_of
from gwiazda.core.assess.bodies.places import against_the_wall, put_there
from gwiazda.core.assess.bodies.reed import reed_of
from gwiazda.core.assess.bodies.rooms import instead, larger, rooms_of
from gwiazda.core.assess.bodies.sizes import switches_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import closed_by, with_source
from gwiazda.core.parts.electrics import SocketPart
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_WORDS
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure


def _bodies(plan: Plan) -> Iterator[tuple[Section, Obstacle]]:
    for s in plan.sections:
        for o in s.obstacles:
            if o.kind in BODIES and o.action == "keep":
                yield s, o


def body_does_not_fit(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Boards, packs and bought interiors that stand into a wall or another body: by how much, and what thinning would leave."""
    for s, o in _bodies(plan):
        over = max(
            max(low - at, at + size - low - room, 0.0)
            for at, size, low, room in zip(o.box.at, o.box.size, s.box.at, s.box.size, strict=True)
        )
        name = o.name or o.kind
        if over > 0.05:
            left, words = o.thin_mm - over, ""
            if o.thin_mm > 0 and left > 0:
                words = f" Thinning its wall of {o.thin_mm:g} mm would leave {left:.1f}, at about an hour a side."
            elif o.thin_mm > 0:
                words = f" Thinning its wall of {o.thin_mm:g} mm would break through, {-left:.1f} mm short."
            yield Finding(
                "body-too-large", "stop", "loom", s.id, over, f"{name} stands {over:.1f} mm into a wall of {s.name}.{words}",
                _body_fixes(s, o, over),
            )  # fmt: skip
            continue
        for other in s.obstacles:
            # Two bodies are looked at once, whichever comes first; what is no body only from here.
            if other.id != o.id and other.action == "keep" and (other.kind not in BODIES or other.id > o.id):
                deep = min(
                    min(a + x, b + y) - max(a, b)
                    for a, x, b, y in zip(o.box.at, o.box.size, other.box.at, other.box.size, strict=True)
                )
                if deep > 0.05:
                    what = other.name or other.kind
                    yield Finding(
                        "bodies-meet", "stop", "loom", s.id, deep,
                        f"In {s.name}, {name} and {what} stand {deep:.1f} mm into each other.",
                        (Fix(f"Notch {what}", _notched(s.id, other.id)),) if other.kind not in BODIES else (),
                    )  # fmt: skip


def _notched(section_id: str, body_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        s = section_of(plan, section_id)
        new = tuple(copy_unchecked(x, action="notch") if x.id == body_id else x for x in s.obstacles)
        return edits.set_fields(plan, [section_id], obstacles=new)

    return edit


def _thinned(section_id: str, body_id: str) -> Callable[[Plan], Plan]:
    """As much off each side that stands into a wall as it stands in there, off what may be taken."""

    def edit(plan: Plan) -> Plan:
        s = section_of(plan, section_id)
        new = []
        for old in s.obstacles:
            o = old
            if o.id == body_id:
                low = [max(a, b) for a, b in zip(o.box.at, s.box.at, strict=True)]
                high = [
                    min(a + x, b + y) for a, x, b, y in zip(o.box.at, o.box.size, s.box.at, s.box.size, strict=True)
                ]
                size = tuple(max(b - a, 0.1) for a, b in zip(low, high, strict=True))
                off = max(x - y for x, y in zip(o.box.size, size, strict=True))
                o = copy_unchecked(
                    o, box=copy_unchecked(o.box, at=tuple(low), size=size), thin_mm=round(max(o.thin_mm - off, 0.0), 3)
                )
            new.append(o)
        return edits.set_fields(plan, [section_id], obstacles=tuple(new))

    return edit


def _body_fixes(s: Section, o: Obstacle, over: float) -> tuple[Fix, ...]:
    fits = all(size <= room + 1e-9 for size, room in zip(o.box.size, s.box.size, strict=True))
    moved = (Fix("Move it in", _move_in(s.id, o.id)),) if fits else ()
    thinned = (Fix(f"Thin it by {over:.1f} mm", _thinned(s.id, o.id)),) if o.thin_mm > over else ()
    return (*moved, *thinned)


def _move_in(section_id: str, body_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        s = section_of(plan, section_id)
        new = []
        for old in s.obstacles:
            o = old
            if o.id == body_id:
                at = tuple(
                    min(max(x, low), low + room - size)
                    for x, size, low, room in zip(o.box.at, o.box.size, s.box.at, s.box.size, strict=True)
                )
                o = copy_unchecked(o, box=copy_unchecked(o.box, at=at))
            new.append(o)
        return edits.set_fields(plan, [section_id], obstacles=tuple(new))

    return edit


def no_room(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Cells with their holder, boards, motors that have no place where they are to stand."""
    catalogue = assessment.catalogue
    for room in rooms_of(catalogue, plan):
        if room.box is not None:
            continue
        body, fixes = room.body, []
        feed = next((f for f in plan.feeds if f.id == body.of), None)
        if room.put:
            fixes.append(Fix("Find it another place", lambda p, of=body.of: put_there(catalogue, p, of)))  # type: ignore[misc]
        more = larger(plan, body)
        if more:
            words = " and ".join(f"{by:g} mm {('longer', 'wider', 'higher')[axis]}" for axis, by in more)
            fixes.append(Fix(f"{section_of(plan, body.section).name} {words}", partial(_grown, body.section, more)))
        if feed is not None:
            for supply in instead(catalogue, plan, feed, assessment.feeds[feed.id].draw_a)[:2]:
                name = catalogue.sources[supply.part].name
                words = f"{supply.in_series} × {name}" if supply.in_series > 1 else name
                fixes.append(
                    Fix(
                        words,
                        with_source(feed.id, part=supply.part, in_series=supply.in_series, in_parallel=1, volts=None),
                    )
                )
            fixes.append(Fix("It stays outside, on the table", lambda p, f=feed.id: edits.set_feed(p, f, home="")))  # type: ignore[misc]
        home = section_of(plan, body.section)
        yield Finding(
            "no-room", "stop", "supply", body.of, max(body.sizes[0]), f"{body.name} does not go into {home.name}: {room.why}.", tuple(fixes),
        )  # fmt: skip


def _grown(section_id: str, more: tuple[tuple[int, float], ...], plan: Plan) -> Plan:
    for axis, by_mm in more:
        plan = edits.grow_section(plan, section_id, axis, by_mm)
    return plan


def reed_too_deep(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A reed switch that a magnet outside doesn't close, or only a large one."""
    for switch in switches_of(plan):
        found = reed_of(assessment.catalogue, plan, switch)
        if found is None or len(found.works) == len(found.reach_mm):
            continue
        reaches = " and ".join(f"a {name} reaches {figure(reach, 2)}" for name, reach in found.reach_mm)
        steel = ", with steel beside it that takes half of it" if found.steel else ""
        yield Finding(
            "reed-too-deep", "look" if found.works else "stop", "wiring", switch.id, found.depth_mm,
            f"{name_of(plan, switch.id)} lies {figure(found.depth_mm, 2)} mm behind the outside: {reaches} mm{steel}. Try it before it is glued.",
            (Fix("Put it against the wall", lambda p, i=switch.id, r=found: against_the_wall(p, i, r.axis, r.sign)),),  # type: ignore[misc]
        )  # fmt: skip


def not_got_at(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Switches and sockets that come through no wall, or where neither finger nor plug gets at them."""
    catalogue = assessment.catalogue
    for m in mounts_of(catalogue, plan):
        if m.reached:
            continue
        name, home = (
            name_of(plan, m.of) if not isinstance(m.part, SocketPart) else m.part.name,
            section_of(plan, m.section).name,
        )
        wants = "its plug" if isinstance(m.part, SocketPart) else "a finger"
        why = (
            f"stands at no wall of {home} with the end that goes through one"
            if m.face is None
            else f"comes through the {FACE_WORDS[m.face]} of {home}, and {m.before} leaves {figure(m.free_mm, 2)} mm before it where {wants} wants {figure(m.wants_mm, 2)}"
        )
        move = partial(mounted, catalogue, of=m.of)
        yield Finding(
            "not-got-at", "look", "supply", m.of, m.wants_mm - m.free_mm, f"{name} {why}.",
            (Fix("Put it where it is got at", move),) if move(plan) is not plan else (),
        )  # fmt: skip


def cells_shut_in(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A pack whose cells are to be changed, in a section that is glued shut with nothing to take off."""
    for s, o in _bodies(plan):
        # Those of a source of the plan are judged with it.
        if o.kind == "pack" and o.reached and not o.of and s.closure.sealed:
            yield Finding(
                "cells-shut-in", "stop", "loom", s.id, 0.0,
                f"The cells of {o.name or 'the pack'} are changed in {s.name}, and that is glued shut with nothing to take off.",
                (Fix("Close it by screws", closed_by(s.id, "screws")), Fix("Close it by magnets", closed_by(s.id, "magnets"))),
            )  # fmt: skip


BODY_RULES = (body_does_not_fit, no_room, not_got_at, reed_too_deep, cells_shut_in)
