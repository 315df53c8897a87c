"""The ways into a closed section, least harm first: from outside, by its own hole, by its lead's hole, by what opens, by a hatch, by the seam."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.reach.hatching import hatch_for
from gwiazda.core.assess.reach.ways_in import TOOLS, blocks_in, ways_in
from gwiazda.core.assess.states import Assessment, Leak
from gwiazda.core.plan.frame import FACE_WORDS, PLANES, Face
from gwiazda.core.plan.lookup import find, lamps_on, lamps_table, openings_by_section, section_of, string_of
from gwiazda.core.plan.model import Dot, Lamp, Passage, Plan, Point, Section, lamps_in
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.core.space.reach import reaches
from gwiazda.core.workbench.diagnosis import Suspect
from gwiazda.core.workbench.fault_kinds import BY_NAME
from gwiazda.core.workbench.rescue.remedy import MendingStep, Remedy, Trouble, repainted

# Faults that leave a lamp dark or dim, and those of them that are mended where its leads come out.
LEAVES = {"dark": ("reversed", "open", "short", "cold joint", "resistor open"), "dim": ("cold joint", "resistor high", "band high", "dead unit")}  # fmt: skip
OUTSIDE = ("reversed", "resistor open", "resistor high", "band high", "resistor low", "band low")
COLLAR_MM = 0.8  # by which the collar of a round lamp is wider than its body; standard round forms
SEAM_PIECE_MM = 100.0  # what a step of opening a seam counts
HARD = 3.0  # times the minutes for a glue that doesn't come apart
IRON_MM = dict(TOOLS)["an iron"]
TWEEZERS_MM = dict(TOOLS)["tweezers"]
BAND_MM = 10.0  # what is touched up on each side of a cut
TEST = MendingStep("test", "Light it once more")
LEAK_TEST = MendingStep("leak", "Leak test round what was mended")


class Place(NamedTuple):
    """What is to be got at: the lamps to change, where."""

    lamps: tuple[Lamp, ...]
    at: tuple[Point, ...]


def place_of(plan: Plan, assessment: Assessment, trouble: Trouble) -> Place:
    """What of a trouble is to be got at: the lamps themselves, a fibre's lamp, the place of a leak."""
    lamps, at = [], []
    for subject in trouble.subjects:
        thing = find(plan, subject)
        if isinstance(thing, Dot) and thing.lamp:
            thing = lamps_table(plan.lamps).get(thing.lamp, thing)
        if isinstance(thing, Lamp):
            lamps.append(thing)
        leak = leak_of(assessment, subject)
        where = leak.at if leak is not None else getattr(thing, "at", None)
        if where is not None:
            at.append(where)
    return Place(tuple(lamps), tuple(at))


def leak_of(assessment: Assessment, leak_id: str) -> Leak | None:
    """The leak of that id, or None."""
    return next((x for x in assessment.leaks if x.id == leak_id), None)


def ways(plan: Plan, assessment: Assessment, trouble: Trouble, suspects: Sequence[Suspect] = ()) -> tuple[Remedy, ...]:
    """The ways in, least harm first. ``suspects``: of a diagnosis, where something was read."""
    section = section_of(plan, trouble.section)
    place = place_of(plan, assessment, trouble)
    found = [
        *_outside(plan, trouble, place, suspects),
        *_own_hole(assessment, trouble, place),
        *_lead_hole(plan, assessment, section, trouble, place),
        *_opens(plan, section, trouble, place),
        *_hatch(plan, assessment, section, trouble, place),
        *_seam(plan, assessment, section, trouble, place),
    ]
    return tuple(sorted(found, key=lambda r: r.harm))


def _changed(trouble: Trouble, how: str, pieces: float = 1.0) -> tuple[MendingStep, ...]:
    """What is done once one is there: the lamp changed and set, or the leak stopped; then looked at again."""
    if trouble.kind == "leak":
        return MendingStep("patch", "Stop the leak from inside", pieces), LEAK_TEST
    return (
        MendingStep(how, "", pieces),
        MendingStep("mend-leads", "Join its leads outside", 2.0 * pieces),
        MendingStep("mend-set", "", pieces),
        TEST,
    )


def _outside(plan: Plan, trouble: Trouble, place: Place, suspects: Sequence[Suspect]) -> Iterator[Remedy]:
    """What is mended where the leads come out, with nothing opened; of a dot alone the fibre is broken."""
    if (
        not place.lamps
        or {p.id for p in place.lamps} != set(trouble.subjects)
        or trouble.kind == "leak"
        or any(h.board and h.section == trouble.section for h in plan.hubs)
    ):
        return
    alone = all((string := string_of(plan, p.id)) is None or len(lamps_in(string)) == 1 for p in place.lamps)
    if not alone:
        return
    if trouble.kind == "mirrored":
        if len({(p.part, p.tint) for p in place.lamps}) == 1:
            yield Remedy(
                "outside", "Change their leads over, where they come out", 0.0, (MendingStep("mend-leads", "Change their leads over, outside", 4.0), TEST),
                risk="None: nothing is opened", outcome="They are alike: the right one then answers",
            )  # fmt: skip
        return
    share = chance_outside(trouble, place, suspects)
    if share <= 0.0:
        return
    verb = "Turn its leads round" if trouble.kind == "dark" else "Change its resistor"
    yield Remedy(
        "outside", f"{verb} where they come out" if trouble.kind == "dark" else f"{verb}, outside the section", 0.0,
        (MendingStep("mend-leads", f"{verb}, outside", 2.0), TEST),
        risk="None: nothing is opened",
        outcome=f"Mends it in {share * 100:.0f} of 100 such cases" + (", by what was read" if suspects else ", by what usually breaks"),
    )  # fmt: skip


def chance_outside(trouble: Trouble, place: Place, suspects: Sequence[Suspect]) -> float:
    """How likely it is mended where the leads come out: by the suspects of a diagnosis, else by how often each fault happens."""
    ids = {p.id for p in place.lamps}
    if suspects:
        mine = [(s.share, s.faults) for s in suspects if any(ids & set(f.at) for f in s.faults)]
        total = math.fsum(share for share, _ in mine)
        good = math.fsum(share for share, faults in mine if all(f.kind in OUTSIDE for f in faults))
        return good / total if total > 0 else 0.0
    priors = {k: BY_NAME[k].prior for k in LEAVES[trouble.kind]}
    return math.fsum(v for k, v in priors.items() if k in OUTSIDE) / math.fsum(priors.values())


def _own_hole(assessment: Assessment, trouble: Trouble, place: Place) -> Iterator[Remedy]:
    """Lamps that are seen themselves come out by the hole they sit in."""
    if not place.lamps or any(p.mount != "outside" for p in place.lamps):
        return
    parts = [assessment.catalogue.lamps.get(p.part) for p in place.lamps]
    if any(x is None for x in parts):
        return
    n = len(place.lamps)
    first = place.lamps[0]
    collar = [max(x.size_mm[:2]) + COLLAR_MM for x in parts if x is not None and x.shape.moulded]
    risk = "Its lens comes out first" if first.lens is not None else "The paint at its edge"
    if collar and first.lens is None:
        risk = f"A collar behind it needs the hole eased to {figure(max(collar), 2)} mm: then the edge is touched up"
    both = "Pull both out by their holes, and change them over" if n > 1 else "Pull it out by its own hole"
    yield Remedy(
        "own hole", both, 1.0,
        (MendingStep("mend-pull", both, n), MendingStep("mend-leads", "Join the leads in the hole’s mouth", 2.0 * n), MendingStep("mend-set", "", n), TEST),
        risk=risk, repaint="a dab at its edge",
    )  # fmt: skip


def _lead_hole(
    plan: Plan, assessment: Assessment, section: Section, trouble: Trouble, place: Place
) -> Iterator[Remedy]:
    """A small lamp comes out by the hole of its lead, the new one drawn in behind it."""
    if len(place.lamps) != 1 or place.lamps[0].mount != "inside":
        return
    lamp = place.lamps[0]
    part = assessment.catalogue.lamps.get(lamp.part)
    if part is None or any(lamps_on(k, (lamp,)) for k in plan.carriers if k.section == section.id):
        return  # what is glued to a carrier stays there
    way = _way_out(plan, assessment, section, lamp)
    if way is None:
        return
    a, b, _ = sorted(part.size_mm)
    thick = math.hypot(a, b)
    state = assessment.loom.passages.get(way.id)
    clear = min(way.width_mm, way.width_mm if way.shape == "round" else way.height_mm)
    free = clear * math.sqrt(max(1.0 - (state.fill if state is not None else 0.0), 0.0))
    if thick > free:
        return
    straight = _straight(section, way, lamp.at, thick)
    yield Remedy(
        "lead hole", f"Draw it out by its lead, through {name_of(plan, way.id)}", 2.0,
        (MendingStep("mend-leads", "Take its leads off, tie a thread to them", 2.0), MendingStep("mend-thread"), MendingStep("mend-leads", "Join the new leads", 2.0), TEST),
        risk=("" if straight else "The way is not straight: the thread must follow. ") + "The new one hangs where it ends up: light it before you glue",
        outcome=f"It is {figure(thick, 2)} mm across, {figure(free, 2)} mm are free",
    )  # fmt: skip


def _way_out(plan: Plan, assessment: Assessment, section: Section, lamp: Lamp) -> Passage | None:
    """The passage by which a lamp's lead leaves its section."""
    passages = {p.id: p for p in plan.passages if section.id in (p.section, p.into)}
    for run in assessment.loom.runs.values():
        if lamp.id in run.lamps and run.through:
            found = next((passages[i] for i in run.through if i in passages), None)
            if found is not None:
                return found
    return None


def _straight(section: Section, way: Passage, at: Point, thick: float) -> bool:
    """Whether the way from a passage to a place is a straight one."""
    half = max(way.width_mm, thick) / 2.0
    for axis in range(3):
        low, high = list(way.at), list(way.at)
        for k in range(3):
            if k != axis:
                low[k], high[k] = low[k] - half, high[k] + half
        if reaches(np.array(at), np.array(low), np.array(high), blocks_in(section), thick):
            return True
    return False


def _opens(plan: Plan, section: Section, trouble: Trouble, place: Place) -> Iterator[Remedy]:
    """By what comes off, or stays open."""
    closure = section.closure
    n = max(len(place.lamps), 1)
    if closure.opens or closure.removable:
        part = closure.removable or closure.part or "what closes it"
        yield Remedy(
            "access", f"Take off {part}", 3.0, _changed(trouble, "mend-reach", n), risk="Little: it is made to come off"
        )
        return
    for way in ways_in(section, openings_by_section(plan.openings).get(section.id, ())):
        wide = next((mm for _, mm in TOOLS if all(_gets(section, way.low, way.high, at, mm) for at in place.at)), None)
        if wide is not None and place.at:
            tool = next(name for name, mm in TOOLS if mm == wide)
            risk = "Blind work with tweezers: the leads are joined outside" if wide <= TWEEZERS_MM else ""
            yield Remedy(
                "access", f"Through {way.called(plan)}, with {tool}", 3.0, _changed(trouble, "mend-reach", n), risk=risk
            )
            return


def _gets(section: Section, low: Point, high: Point, at: Point, wide: float) -> bool:
    return reaches(np.array(at), np.array(low), np.array(high), blocks_in(section), wide)


def _shut(plan: Plan, assessment: Assessment, section: Section, panes: int) -> tuple[MendingStep, ...]:
    """What follows once a shell was opened: glued shut, filled, masked, painted again."""
    glue = assessment.catalogue.adhesives.get(section.closure.glue)
    paint = repainted(assessment.catalogue, section, plan.bench)
    cover = (MendingStep("mend-cover"),) + ((MendingStep("cover", "", panes),) if panes else ()) if paint else ()
    return (
        MendingStep("mend-back", "", 1.0, glue.next_h if glue is not None else None),
        MendingStep("seam", "Fill and sand where it was cut"),
        *cover,
        *paint,
    )


def _coats(section: Section) -> str:
    n = sum(x.coats for x in section.outside)
    return f", {n} coat{'s' if n > 1 else ''}" if n else ""


def _hatch(plan: Plan, assessment: Assessment, section: Section, trouble: Trouble, place: Place) -> Iterator[Remedy]:
    """A hatch cut for it, underneath or behind a detail where that can be."""
    if not place.at or section.closure.opens:
        return
    cut = hatch_for(plan, section.id, place.at[0], IRON_MM)
    if cut is None:
        return
    size = f"{cut.hatch.size[0]:g} × {cut.hatch.size[1]:g} mm"
    where = f"in the {FACE_WORDS[cut.hatch.face]}" + (f", behind {cut.behind}" if cut.behind else "")
    n = max(len(place.lamps), 1)
    change = _changed(trouble, "mend-reach", n)
    yield Remedy(
        "hatch", f"Cut a hatch of {size} {where}", 4.0,
        (MendingStep("hatch", f"Cut a hatch of {size} {where}; keep the piece"), *change[:-1], *_shut(plan, assessment, section, 0), change[-1]),
        risk="Saw no deeper than the wall: wires lie behind" + ("" if cut.seen < 1.0 else "; the cut may show"),
        repaint=f"{figure(cut.edge_mm * 2.0 * BAND_MM / 100.0, 2)} cm² round it{_coats(section)}",
    )  # fmt: skip


def seam_of(section: Section) -> tuple[Face, float]:
    """The face whose seam is opened, and how long that is, mm: that of a seam of the plan, else of its largest wall."""
    faces: list[Face] = [s.face for s in section.seams] or list(PLANES)

    def area(face: Face) -> float:
        h, v, _ = PLANES[face]
        return section.box.size[h] * section.box.size[v]

    face = max(faces, key=area)
    h, v, _ = PLANES[face]
    return face, 2.0 * (section.box.size[h] + section.box.size[v])


def _seam(plan: Plan, assessment: Assessment, section: Section, trouble: Trouble, place: Place) -> Iterator[Remedy]:
    """The seam opened again, by what the glue allows."""
    if section.closure.by not in ("glue", "solder"):
        return
    _, length = seam_of(section)
    glue = assessment.catalogue.adhesives.get(section.closure.glue)
    apart = glue.takes_apart if glue is not None else "no"
    hard = apart == "no"
    named = glue.name.lower() if glue is not None else section.closure.by
    panes = sum(o.section == section.id for o in plan.openings)
    change = _changed(trouble, "mend-reach", max(len(place.lamps), 1))
    open_ = MendingStep(
        "mend-open", f"Open the seam, {figure(length, 3)} mm", length / SEAM_PIECE_MM * (HARD if hard else 1.0)
    )
    yield Remedy(
        "seam", "Open the seam" + (f" {apart}" if not hard else ", by saw"), 6.0 if hard else 5.0,
        (open_, *change[:-1], *_shut(plan, assessment, section, panes), change[-1]),
        risk=f"{named[:1].upper()}{named[1:]} does not come apart: the kerf takes 0.3 mm, thin walls crack" if hard else f"{named[:1].upper()}{named[1:]} gives way {apart}; paint at the seam goes with it",
        repaint=f"{figure(length * 2.0 * BAND_MM / 100.0, 2)} cm² along it{_coats(section)}",
    )  # fmt: skip
