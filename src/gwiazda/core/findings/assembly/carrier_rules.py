"""What is judged of what holds lamps: whether it goes in, stands clear, can be cut, and holds anything."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.carriers.standing import PLAY_MM, axis_of, design_of, thickness_mm
from gwiazda.core.assess.carriers.way_in import MEETS_MM, outside_mm, way_in
from gwiazda.core.assess.states import Assessment
from gwiazda.core.carrier.design import others, sheets_of
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES
from gwiazda.core.plan.lookup import find, lamps_on, section_of
from gwiazda.core.plan.model import Carrier, Opening, Plan, Section, copy_unchecked
from gwiazda.core.plan.naming import name_of

SLACK_MM = 0.05


def _each(plan: Plan) -> Iterator[tuple[Carrier, Section, str]]:
    for c in plan.carriers:
        yield c, section_of(plan, c.section), c.name or c.form


def _through(plan: Plan, carrier: Carrier) -> Opening | None:
    found = find(plan, carrier.through) if carrier.through else None
    return found if isinstance(found, Opening) else None


def goes_in(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Carriers larger than the opening they are slid in by, and what stands on their way."""
    for c, s, name in _each(plan):
        through = _through(plan, c)
        way = way_in(s, c, through)
        u, v = others(way.axis)
        mouth = (
            f"{name_of(plan, through.id)}, {way.mouth[0]:g} × {way.mouth[1]:g} mm"
            if through
            else f"the {c.enters}, {way.mouth[0]:g} × {way.mouth[1]:g} mm"
        )
        if not way.fits:
            most = way.most
            yield Finding(
                "carrier-too-large", "stop", "fit", c.id, -min(way.clear),
                f"{name} is {c.size[u]:g} × {c.size[v]:g} mm and goes in by {mouth}: {-min(way.clear):.1f} mm too large. "
                f"{most[0]:g} × {most[1]:g} mm would go in.",
                tuple(_smaller(c, (u, v), most)) + _other_mouths(s, c),
            )  # fmt: skip
        elif way.blocked:
            what, deep = max(way.blocked, key=lambda b: b[1])
            yield Finding(
                "carrier-blocked", "look", "fit", c.id, deep,
                f"On its way in by {mouth.split(',', maxsplit=1)[0]}, {name} meets {what}, {deep:g} mm of it.",
                (Fix(f"Notch {what}", _notch(s.id, what)), *_other_mouths(s, c)),
            )  # fmt: skip


def _smaller(c: Carrier, axes: tuple[int, int], most: tuple[float, float]) -> Iterator[Fix]:
    size = list(c.size)
    for a, m in zip(axes, most, strict=True):
        size[a] = round(min(size[a], m), 2)
    if min(size) > 0.2:
        yield Fix(f"Make it {size[axes[0]]:g} × {size[axes[1]]:g} mm", with_fields([c.id], size=tuple(size)))


def _other_mouths(s: Section, c: Carrier) -> tuple[Fix, ...]:
    """Faces it would go in by, with nothing on its way."""
    for face in FACE_NAMES:
        if face != c.enters or c.through:
            other = copy_unchecked(c, enters=face, through="")
            way = way_in(s, other)
            if way.fits and not way.blocked:
                return (Fix(f"Let it in by the {face}", with_fields([c.id], enters=face, through="")),)
    return ()


def _notch(section_id: str, name: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        s = section_of(plan, section_id)
        changed = tuple(
            copy_unchecked(o, action="notch") if (o.name or o.kind) == name and o.action == "keep" else o
            for o in s.obstacles
        )
        return edits.set_fields(plan, [section_id], obstacles=changed)

    return edit


def stands_clear(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Carriers that stand into a wall, into what stands inside, or into each other."""
    for c, s, name in _each(plan):
        over = outside_mm(s, c)
        if max(over) > SLACK_MM:
            yield Finding(
                "carrier-in-wall", "stop", "fit", c.id, max(over), f"{name} stands {max(over):.1f} mm into a wall of {s.name}.",
                (Fix("Move it in, cut to fit", _inside(c.id, s.id)),),
            )  # fmt: skip
        bodies = [(o.name or o.kind, o.box.at, o.box.size) for o in s.obstacles if o.action == "keep"]
        try:
            sheets = sheets_of(design_of(assessment.catalogue, c, plan.lamps))
        except ValueError as error:
            thin = min(assessment.catalogue.sheets.values(), key=lambda x: x.thick_mm)
            fixes = (
                (Fix(f"Cut it from {thin.name}", with_fields([c.id], sheet=thin.id)),)
                if thin.thick_mm <= min(c.size)
                else ()
            )
            yield Finding(
                "carrier-too-thin",
                "stop",
                "fit",
                c.id,
                thickness_mm(assessment.catalogue, c),
                f"{name}: {error}.",
                fixes,
                better="more",
            )
            continue
        for what, at, size in bodies:
            deep = max((_meet(sheet.box, (at, size)) for sheet in sheets), default=0.0)
            if deep > MEETS_MM:
                yield Finding(
                    "carrier-meets", "look", "fit", c.id, deep, f"{name} and {what} stand {deep:.1f} mm into each other.",
                    (Fix(f"Notch {what}", _notch(s.id, what)),),
                )  # fmt: skip


def _meet(a: tuple[tuple[float, ...], tuple[float, ...]], b: tuple[tuple[float, ...], tuple[float, ...]]) -> float:
    """How deep two boxes (corner, size) stand into each other, mm; 0 where they don't."""
    return max(min(min(p + s, q + t) - max(p, q) for p, s, q, t in zip(*a, *b, strict=True)), 0.0)


def _inside(carrier_id: str, section_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        c, s = find(plan, carrier_id), section_of(plan, section_id)
        assert isinstance(c, Carrier)
        room = [max(x - 2 * PLAY_MM, 0.1) for x in s.box.size]
        size = tuple(round(min(a, r), 3) for a, r in zip(c.size, room, strict=True))
        at = tuple(
            round(min(max(p, low + k / 2), low + whole - k / 2), 3)
            for p, low, whole, k in zip(c.at, s.box.at, s.box.size, size, strict=True)
        )
        return edits.set_fields(plan, [carrier_id], size=size, at=at)

    return edit


def holds_something(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Carriers with no lamp on them."""
    for c, s, name in _each(plan):
        if not lamps_on(c, plan.lamps):
            axis, _ = axis_of(c)
            yield Finding(
                "carrier-empty", "look", "fit", c.id, 0.0,
                f"{name} in {s.name} holds no lamp: none stands on it, within {c.size[others(axis)[0]]:g} × {c.size[others(axis)[1]]:g} mm.",
                (Fix("Take it out", lambda plan, i=c.id: edits.delete(plan, [i])),),  # type: ignore[misc]
            )  # fmt: skip


CARRIER_RULES = (goes_in, stands_clear, holds_something)
