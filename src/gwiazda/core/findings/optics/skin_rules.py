"""Rules about skins and panes: what glows that shouldn't, hot spots, light from next door, impossible windows."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.aims import leak_state
from gwiazda.core.assess.lamp.fit import needed_mm
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.states import Assessment, Leak
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.frame import FACE_NAMES, NORMALS, PLANES, Face
from gwiazda.core.plan.lookup import find, item_of, lamp_of, lamps_by_section, section_of
from gwiazda.core.plan.model import Opening, Plan, Section, Wanted
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.core.radiosity.formfactors import in_plane

HOT_FROM = 2.5  # brightest over mean of a pane: from here on the eye sees a spot and not a lit window
LEAST_TIMES = 1.0


def leaking(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Light through walls, seams and rings that shows in this room: the worst wall of a section, every seam and ring."""
    walls: set[str] = set()
    for leak in assessment.leaks:
        if max(leak.times, leak.safe_times) < LEAST_TIMES:
            continue
        if leak.kind == "wall":
            if leak.section in walls:
                continue
            walls.add(leak.section)
        severity = "stop" if leak_state(leak.times) == "stop" else "look"
        if leak.times < LEAST_TIMES and leak.kind != "wall":
            continue
        times = f"{leak.times:.0f}" if leak.times >= 10 else f"{leak.times:.1f}"
        name = place_name(plan, leak)
        verb = "" if leak.kind == "next door" else " leaks"
        sentence = f"{name}{verb}: {times} × what the eye can pick out in {plan.room.lux:g} lx."
        if leak.times < LEAST_TIMES:
            sentence = (
                f"{name} may leak: likely {times} × what the eye can pick out, and up to {figure(leak.safe_times, 2)} × if "
                "the coats came out thin."
            )
        if leak.kind == "next door":
            sentence = f"{name}: {figure(leak.luminance_cd_m2, 2)} cd/m² come through, {times} × what goes unnoticed."
        yield Finding(
            f"leak-{leak.kind.replace(' ', '-')}", severity, "leak", leak.subject, leak.times, sentence,  # type: ignore[arg-type]
            _leak_fixes(plan, assessment, leak), _times_of(leak), " ×",
        )  # fmt: skip


def _times_of(leak: Leak) -> Callable[[Assessment], float]:
    """The same leak in another assessment; a section's walls count as one."""

    def measure(after: Assessment) -> float:
        same = [
            x.times
            for x in after.leaks
            if x.id == leak.id or (leak.kind == "wall" and x.kind == "wall" and x.section == leak.section)
        ]
        return max(same, default=0.0)

    return measure


def _leak_fixes(plan: Plan, assessment: Assessment, leak: Leak) -> tuple[Fix, ...]:
    section_id = leak.section
    if leak.kind == "wall":
        many = leak.safe_coats
        fixes = []
        if many > 1:
            fixes.append(Fix(f"{many} black coats, to be safe", _coat(section_id, "inside", many)))
        fixes.append(Fix("One black coat inside", _coat(section_id, "inside", 1)))
        if leak.part is not None:
            fixes.append(Fix("Foil tape on the part that glows", _foil(leak)))
        fixes.append(Fix("Dim its lamps that far", _dim(assessment, leak)))
        return tuple(fixes)
    if leak.kind == "seam":
        return (
            Fix("Foil tape over the seam", _bridge(section_id, leak.id, "foil-tape")),
            Fix("Thick paste in the seam", _bridge(section_id, leak.id, "thick-paste")),
            Fix("Dim its lamps that far", _dim(assessment, leak)),
        )
    if leak.kind == "ring":
        return (Fix("Set the lens in paste", lambda p: edits.set_fields(p, [leak.subject], gap_mm=0.0)),)
    if leak.kind == "channel":
        return (
            Fix("A strip of foil over it", with_fields([leak.subject], cover="foil-tape")),
            Fix("Fill over it with putty", with_fields([leak.subject], cover="putty")),
            Fix("File half as deep", _shallower(leak.subject)),
        )
    return (Fix("One black coat inside, under the lining", _coat(section_id, "inside", 1)),)


def _shallower(passage_id: str) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        way = item_of(plan.passages, passage_id, "passage")
        return edits.set_fields(plan, [passage_id], take_mm=round(way.take_mm / 2, 3))

    return edit


def _coat(section_id: str, where: str, count: int) -> Callable[[Plan], Plan]:
    return lambda plan: skins.add_coats(plan, section_id, where, "flat-black", count)


def _foil(leak: Leak) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        assert leak.part is not None
        box = section_of(plan, leak.section).box
        face: Face = leak.face
        u, v = in_plane(FACE_NAMES.index(face) // 2)
        low = (leak.part[0] - box.at[u], leak.part[1] - box.at[v])
        high = (leak.part[2] - box.at[u], leak.part[3] - box.at[v])
        return skins.add_patch(plan, leak.section, face, low, high, "foil-tape")

    return edit


def _bridge(section_id: str, seam_id: str, coat: str) -> Callable[[Plan], Plan]:
    return lambda plan: skins.bridge(plan, section_id, seam_id, coat)


def _dim(assessment: Assessment, leak: Leak) -> Callable[[Plan], Plan]:
    mean = assessment.sections[leak.section].mean_cd_m2

    def edit(plan: Plan) -> Plan:
        # Where it only may show, by its 95 % value: by its likely one, which is under 1, it would be brightened.
        over = leak.times if leak.times >= 1.0 else max(leak.safe_times, 1.0)
        wanted = max(mean / over * 0.9, 0.01)
        plan = edits.set_wanted(plan, [leak.section], Wanted(cd_m2=float(f"{wanted:.2g}")))
        homes = lamps_by_section(plan.sections, plan.lamps)
        return edits.set_resistor(plan, [i for i, home in homes.items() if home == leak.section], None)

    return edit


def hot_spot(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A pane that shows a bright spot, or the lamp itself, instead of an even light."""
    for state in assessment.sections.values():
        if state.hot_spot < HOT_FROM or state.hottest is None:
            continue
        opening = assessment.openings[state.hottest]
        section = section_of(plan, state.id)
        what = (
            f"{name_of(plan, opening.sight)} stands in plain sight"
            if opening.sight
            else "the light falls on it unevenly"
        )
        if sources_may_show(plan, opening.id):
            continue
        yield Finding(
            "hot-spot", "look", "pane", state.hottest, state.hot_spot,
            f"{section.name}: a pane shows a spot {figure(state.hot_spot, 2)} × as bright as its mean; {what}.",
            tuple(_softer(assessment.catalogue, plan, section, state.hottest, opening.sight)),
            _hot_of(state.id), " ×",
        )  # fmt: skip


def sources_may_show(plan: Plan, opening_id: str) -> bool:
    """Whether an opening belongs to a light whose single lamps are meant to be seen."""
    opening = find(plan, opening_id)
    if not isinstance(opening, Opening):
        return False
    wanted = opening.light or section_of(plan, opening.section).light
    return any(f.id == wanted and f.sources_show for f in plan.lights)


def _hot_of(section_id: str) -> Callable[[Assessment], float]:
    return lambda after: after.sections[section_id].hot_spot if section_id in after.sections else 1.0


def _softer(catalogue: Catalogue, plan: Plan, section: Section, opening_id: str, lamp_id: str) -> Iterator[Fix]:
    opening = find(plan, opening_id)
    assert isinstance(opening, Opening)
    glass = opening.glazing or section.glazing
    if lamp_id:
        yield Fix("Move that lamp clear of it", _lift(catalogue, lamp_id, section.id))
    if glass.startswith("mist-") and f"mist-{int(glass[5:]) + 1}" in catalogue.glazings:
        yield Fix("One more white mist coat", _glaze(section.id, glass, f"mist-{int(glass[5:]) + 1}"))
    elif glass != "frosted-2":
        yield Fix("Frost those panes on both faces", _glaze(section.id, glass, "frosted-2"))
    yield Fix("Vellum behind the panes", lambda p: edits.set_fields(p, [section.id], soften=("vellum",)))
    if not _turned_here(plan, section.id, opening):
        yield Fix("Turn its lamps to the far wall", _turn_away(section.id, opening))


def _turned_here(plan: Plan, section_id: str, opening: Opening) -> bool:
    """Whether lamps look at this pane's wall from one with lit panes of its own: turned round, they would only show there."""
    far = tuple(-n for n in NORMALS[opening.side])
    lit = any(o.section == section_id and o.lit > 0 and NORMALS[o.side] == far for o in plan.openings)
    homes = lamps_by_section(plan.sections, plan.lamps)
    here = [p for p in plan.lamps if homes.get(p.id) == section_id]
    return lit and any(tuple(map(float, NORMALS[opening.side])) == tuple(p.aim) for p in here)


def _lift(catalogue: Catalogue, lamp_id: str, section_id: str) -> Callable[[Plan], Plan]:
    """Under the roof, looking down, where no pane has it straight before it."""

    def edit(plan: Plan) -> Plan:
        box, lamp = section_of(plan, section_id).box, lamp_of(plan, lamp_id)
        room = box.size[2] - needed_mm(catalogue.lamps[lamp.part], worked(catalogue, lamp).height_mm)
        at = (lamp.at[0], lamp.at[1], round(box.at[2] + max(room, box.size[2] / 2), 1))
        return edits.set_fields(plan, [lamp_id], at=at, aim=(0.0, 0.0, -1.0))

    return edit


def _glaze(section_id: str, old: str, new: str) -> Callable[[Plan], Plan]:
    """The section's panes of one glazing, given another: its own, and those that have theirs."""

    def edit(plan: Plan) -> Plan:
        own = [o.id for o in plan.openings if o.section == section_id and o.glazing == old]
        plan = edits.set_fields(plan, own, glazing=new)
        return (
            edits.set_fields(plan, [section_id], glazing=new) if section_of(plan, section_id).glazing == old else plan
        )

    return edit


def _turn_away(section_id: str, opening: Opening) -> Callable[[Plan], Plan]:
    aim = tuple(-float(n) for n in NORMALS[opening.side])

    def edit(plan: Plan) -> Plan:
        homes = lamps_by_section(plan.sections, plan.lamps)
        return edits.set_fields(plan, [i for i, home in homes.items() if home == section_id], aim=aim)

    return edit


def off_its_face(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A window larger than the wall it is in, or beside it: it counts as far as it lies on the wall."""
    yield from (f.called(plan) for f in _off_faces(plan.sections, plan.openings))


@memoize(slots=4)
def _off_faces(sections: tuple[Section, ...], openings: tuple[Opening, ...]) -> tuple[Finding, ...]:
    boxes = {s.id: s.box for s in sections}
    out = []
    for o in openings:
        box = boxes[o.section]
        h, v, _ = PLANES[o.side]
        over = 0.0
        for axis, size in ((h, o.width_mm), (v, o.height_mm)):
            low, room = box.at[axis], box.size[axis]
            over = max(over, low - (o.at[axis] - size / 2), o.at[axis] + size / 2 - low - room)
        if over > 0.25 * min(o.width_mm, o.height_mm) and over > 0.5:
            out.append(
                Finding(
                    "off-its-face", "look", "shape", o.id, over,
                    f"{o.id} reaches {over:.1f} mm beyond the inner wall it is in: only what lies on the wall is lit.",
                )
            )  # fmt: skip
    return tuple(out)


def unknown_coats(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Coats the catalogue hasn't got: they block nothing, and are named."""
    for s in plan.sections:
        named = (
            [x.coat for x in (*s.inside, *s.outside)]
            + [x.coat for x in s.patches]
            + [x.bridged for x in s.seams if x.bridged]
        )
        for name in sorted(set(named) - set(assessment.catalogue.coats)):
            yield Finding(
                "unknown-part", "stop", "skin", s.id, 0.0,
                f"Section {s.id}: there is no coat “{name}”. It takes one of {', '.join(assessment.catalogue.coats)}.",
            )  # fmt: skip
        for name in sorted(set(s.soften) - set(assessment.catalogue.glazings)):
            yield Finding(
                "unknown-part", "stop", "skin", s.id, 0.0,
                f"Section {s.id}: there is no diffuser “{name}”. It takes one of {', '.join(assessment.catalogue.glazings)}.",
            )  # fmt: skip


USUAL_WALL_MM = 1.2


def wall_too_thick(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A wall thicker than the room it encloses: a slip in typing, and no wall light is reckoned through rightly."""
    for s in plan.sections:
        room = min(s.box.size)
        if s.wall_mm > room:
            fits = min(USUAL_WALL_MM, round(room / 2, 2))
            yield Finding(
                "wall-too-thick", "stop", "skin", s.id, s.wall_mm,
                f"The wall of {s.name} is {s.wall_mm:g} mm thick, and its inner box only {room:g} mm across. {fits:g} mm would be usual.",
                (Fix(f"A wall of {fits:g} mm", with_fields([s.id], wall_mm=fits)),),
            )  # fmt: skip


SKIN_RULES = (wall_too_thick, leaking, hot_spot, off_its_face, unknown_coats)
