"""What is judged of what a section is made of: bare pads and joints on metal, closings that don't hold on it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.glues import Advice, advise, shell_of
from gwiazda.core.assess.optics.skin import made_of, material_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import closed_by
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import material_kinds
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.frame import FACE_NAMES, PLANES, Face
from gwiazda.core.plan.lookup import built_into, lamps_on
from gwiazda.core.plan.model import Plan, Section
from gwiazda.core.plan.naming import and_others

TOUCHES_MM = 0.6  # pads nearer to a wall than that touch it sooner or later
TAPE, TAPE_ROUND_MM = "insulating-tape", 4.0


class Bare(NamedTuple):
    """A bare place of a lamp or hub (``of``) against a wall: where on the face, mm from the inner box's lowest corner."""

    of: str
    face: Face
    at: tuple[float, float]


def _nearest_wall(section: Section, at: tuple[float, float, float]) -> tuple[float, Face]:
    """How far (mm) a place lies from the nearest wall of a section's inner box, and which wall that is."""
    off = [
        (abs(x - edge), FACE_NAMES[2 * k + far])
        for k, (x, low, size) in enumerate(zip(at, section.box.at, section.box.size, strict=True))
        for far, edge in enumerate((low, low + size))
    ]
    return min(off)


def _on_face(section: Section, face: Face, at: tuple[float, float, float]) -> tuple[float, float]:
    h, v, _ = PLANES[face]
    return at[h] - section.box.at[h], at[v] - section.box.at[v]


def _conducting(catalogue: Catalogue, section: Section, kit_material: str, face: Face, at: tuple[float, float]) -> str:
    """What conducts under a place on a wall, in words; empty where nothing does or it is covered by what doesn't.

    Paint isn't counted as cover: a solder point scratches through it.
    """
    for patch in reversed(section.patches):
        inside = all(low <= x <= high for low, x, high in zip(patch.low, at, patch.high, strict=True))
        if (
            patch.face == face
            and inside
            and (coat := catalogue.coats.get(patch.coat)) is not None
            and coat.kind != "paint"
        ):
            return coat.name if coat.conducts else ""
    own = {x.face: x.lining for x in section.face_linings}
    lining = catalogue.linings.get(own.get(face, section.lining))
    coat = catalogue.coats.get(lining.coat) if lining is not None else None
    if coat is not None and coat.kind != "paint":
        return coat.name if coat.conducts else ""
    made = made_of(catalogue, section, kit_material)
    return catalogue.materials[material_of(section, kit_material)].name if made.conducts else ""


def _bare_places(plan: Plan, assessment: Assessment, section: Section) -> Iterator[Bare]:
    """Pads of chips and strips, and hubs without a board, that lie against a wall."""
    homes = built_into(plan.sections, plan.lamps)
    on_card = {p.id for c in plan.carriers for p in lamps_on(c, plan.lamps)}
    for p in plan.lamps:
        part = assessment.catalogue.lamps.get(p.part)
        if homes.get(p.id) != section.id or p.mount != "inside" or part is None or p.id in on_card:
            continue
        away, face = _nearest_wall(section, p.at)
        if (part.shape.pads or part.shape.in_units) and away <= part.size_mm[2] / 2 + TOUCHES_MM:
            yield Bare(p.id, face, _on_face(section, face, p.at))
    for hub in plan.hubs:
        if not hub.board and section.box.contains(hub.at):
            away, face = _nearest_wall(section, hub.at)
            if away <= TOUCHES_MM:
                yield Bare(hub.id, face, _on_face(section, face, hub.at))


def bare_on_metal(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Solder pads and hubs that lie on metal or foil: plus and minus meet through it."""
    catalogue = assessment.catalogue
    for s in plan.sections:
        found = [
            (bare, what) for bare in _bare_places(plan, assessment, s)
            if (what := _conducting(catalogue, s, plan.kit.material, bare.face, bare.at))
        ]  # fmt: skip
        if found:
            ids = [bare.of for bare, _ in found]
            one = len(ids) == 1
            yield Finding(
                "bare-on-metal", "stop", "wiring", ids[0], float(len(ids)),
                f"{and_others(plan, ids, '')} {'lies' if one else 'lie'} with bare solder on {found[0][1]} in {s.name}: it conducts, and plus "
                "and minus meet through it. Paint is no insulation there.",
                (Fix("Insulating tape under it" if one else "Insulating tape under them", _taped(s.id, tuple(bare for bare, _ in found))),),
                also=tuple(ids[1:]),
            )  # fmt: skip


def _taped(section_id: str, bare: tuple[Bare, ...]) -> Callable[[Plan], Plan]:
    """A strip of tape on each wall concerned, under all that lies on it."""

    def edit(plan: Plan) -> Plan:
        for face in dict.fromkeys(b.face for b in bare):
            places = [b.at for b in bare if b.face == face]
            low = (min(x for x, _ in places) - TAPE_ROUND_MM, min(y for _, y in places) - TAPE_ROUND_MM)
            high = (max(x for x, _ in places) + TAPE_ROUND_MM, max(y for _, y in places) + TAPE_ROUND_MM)
            plan = skins.add_patch(plan, section_id, face, low, high, TAPE)
        return plan

    return edit


def closing_wont_hold(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A section closed by a glue that doesn't hold what it is made of, or soldered where it isn't metal."""
    catalogue = assessment.catalogue
    for s in plan.sections:
        by, shell = s.closure.by, shell_of(catalogue, s, plan.kit.material)
        made = made_of(catalogue, s, plan.kit.material)
        only = [k.name for k in material_kinds().values() if by in k.closings]
        glue = catalogue.adhesives.get(s.closure.glue) if by == "glue" else None
        if only and made.name not in only:
            why = f"{s.name} is to be soldered, and it is {made.name}: only {' and '.join(only)} is."
        elif glue is not None:
            judged = next(x for x in advise(catalogue, shell, shell) if x.glue.id == glue.id)
            if judged.verdict not in ("no", "weak"):
                continue
            why = f"{s.name} is {made.name}, and {glue.name.lower()} is {judged.why} there." if judged.verdict == "weak" else (
                f"{s.name} is {made.name}, and {glue.name.lower()} does not hold it: {judged.why}."
            )  # fmt: skip
        else:
            continue
        yield Finding(
            "closing-wont-hold", "stop" if only or glue is None or judged.verdict == "no" else "look", "build", s.id, 1.0, why,
            tuple(Fix(_words(x), closed_by(s.id, "glue", x.glue.id)) for x in _that_hold(catalogue, shell)),
        )  # fmt: skip


def _that_hold(catalogue: Catalogue, shell: str, most: int = 2) -> tuple[Advice, ...]:
    return tuple(x for x in advise(catalogue, shell, shell) if x.verdict == "holds")[:most]


def _words(advice: Advice) -> str:
    return f"{advice.glue.name}" + (f", {advice.why}" if advice.why else "")


def unknown_glue(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A glue the catalogue hasn't got: its time to set isn't known."""
    glues = assessment.catalogue.adhesives
    for s in plan.sections:
        if s.closure.glue and s.closure.glue not in glues:
            yield Finding(
                "unknown-glue", "look", "build", s.id, 0.0,
                f"{s.name} is closed with “{s.closure.glue}”, which the catalogue hasn’t got: four hours are reckoned for it to set.",
                tuple(Fix(_words(x), closed_by(s.id, "glue", x.glue.id)) for x in _that_hold(assessment.catalogue, shell_of(assessment.catalogue, s, plan.kit.material))),
            )  # fmt: skip


MATERIAL_RULES = (bare_on_metal, closing_wont_hold, unknown_glue)
