"""What is wrong in sections that are closed, by all that is known: suspects of a diagnosis, looks and leaks of the log, failed tests, a photo."""

from __future__ import annotations

from collections.abc import Iterator

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import find, find_near, lamps_table
from gwiazda.core.plan.model import Dot, Lamp, Opening, Plan, Section
from gwiazda.core.plan.naming import name_of, names_of
from gwiazda.core.quantities import counted
from gwiazda.core.workbench.diagnosis import Diagnosis
from gwiazda.core.workbench.photo.photoread import PhotoReading
from gwiazda.core.workbench.rescue.remedy import Kind, Trouble

LIKELY = 0.25  # a suspect from this share on is worth opening something for
DIM = 0.5  # of what a pane should be: a photo of one lamp's panes below that says it is out or dim
WORDS: dict[Kind, str] = {"dark": "is dark", "dim": "is too dim", "leak": "leaks", "mirrored": "are left for right"}
IN_LOOKS = {0.0: "dark", 0.5: "dim"}


def closed_sections(plan: Plan) -> frozenset[str]:
    """Sections that are closed for good, or marked so."""
    done = {d.step.removesuffix(":close") for d in plan.done if d.step.endswith(":close")}
    return frozenset({s.section for s in plan.seals} | (done & {s.id for s in plan.sections}))


def section_for(plan: Plan, subject: str) -> str:
    """The section that a lamp, a dot, an opening or a section is in or on; "" for none near."""
    thing = find(plan, subject)
    if isinstance(thing, Dot) and thing.lamp:
        thing = lamps_table(plan.lamps).get(thing.lamp, thing)
    if isinstance(thing, Lamp):
        home = next((k for k, c in contents_of(plan).items() if any(p.id == thing.id for p in c.lamps)), "")
        return home or find_near(plan.sections, thing.at)
    return thing.id if isinstance(thing, Section) else str(getattr(thing, "section", ""))


def trouble_for(plan: Plan, assessment: Assessment, kind: Kind, subject: str, told: str = "") -> Trouble | None:
    """A trouble with what is picked: a lamp, dot or light dark, dim or left for right, the worst leak of a section; None where it makes no sense."""
    if kind == "leak":
        section = section_for(plan, subject)
        mine = [x for x in assessment.leaks if x.section == section]
        if not mine:
            return None
        worst = max(mine, key=lambda x: x.times)
        more = sum(x.times >= 1.0 for x in mine) - 1
        words = f"{place_name(plan, worst)} leaks" + (f", and {counted(more, 'place')} more." if more > 0 else ".")
        return Trouble(kind, (worst.id,), section, words, told)
    thing = find(plan, subject)
    if isinstance(thing, Opening):
        thing = _lights_most(plan, assessment, thing)
    if not isinstance(thing, (Lamp, Dot)):
        return None
    section = section_for(plan, thing.id)
    if not section:
        return None
    if kind == "mirrored":
        twin = twin_of(plan, thing)
        if twin is None:
            return None
        return Trouble(kind, (thing.id, twin), section, f"{names_of(plan, (thing.id, twin))} {WORDS[kind]}.", told)
    return Trouble(kind, (thing.id,), section, f"{name_of(plan, thing.id)} {WORDS[kind]}.", told)


def _lights_most(plan: Plan, assessment: Assessment, pane: Opening) -> Lamp | None:
    """The lamp nearest to a pane, of those that light its section."""
    mine = [p for p in plan.lamps if (s := assessment.lamps.get(p.id)) is not None and s.section == pane.section]
    return min(mine, key=lambda p: sum((a - b) ** 2 for a, b in zip(p.at, pane.at, strict=True)), default=None)


NEAR_MM = 3.0  # of the mirrored place


def twin_of(plan: Plan, thing: Lamp | Dot) -> str | None:
    """What sits on the other side where this does."""
    x, y, z = thing.at
    if abs(y) < NEAR_MM:
        return None
    group: tuple[Lamp | Dot, ...] = plan.lamps if isinstance(thing, Lamp) else plan.dots
    for other in group:
        if other.id != thing.id and max(abs(other.at[0] - x), abs(other.at[1] + y), abs(other.at[2] - z)) <= NEAR_MM:
            return other.id
    return None


def troubles_of(
    plan: Plan, assessment: Assessment, diagnosis: Diagnosis | None = None, photo: PhotoReading | None = None
) -> tuple[Trouble, ...]:
    """What is known to be wrong in closed sections, each once; surest first."""
    closed = closed_sections(plan)
    out: dict[tuple[str, tuple[str, ...]], Trouble] = {}
    for t in (
        *_read(plan, assessment),
        *_suspected(plan, assessment, diagnosis),
        *_logged(plan, assessment),
        *_photographed(plan, assessment, photo),
    ):
        if t.section in closed:
            out.setdefault((t.kind, t.subjects), t)
    return tuple(out.values())


def _read(plan: Plan, assessment: Assessment) -> Iterator[Trouble]:
    for e in plan.log:
        if e.kind == "reading" and not e.settled and e.what == "lit" and e.value in IN_LOOKS:
            kind: Kind = "dark" if IN_LOOKS[e.value] == "dark" else "dim"
            found = trouble_for(plan, assessment, kind, e.place, "seen")
            if found is not None:
                yield found


def _suspected(plan: Plan, assessment: Assessment, diagnosis: Diagnosis | None) -> Iterator[Trouble]:
    if diagnosis is None or not any(e.kind == "reading" and not e.settled for e in plan.log):
        return
    for s in diagnosis.suspects:
        if s.share < LIKELY:
            break
        for fault in s.faults:
            if fault.kind != "source low":
                found = trouble_for(plan, assessment, "dark", fault.at[0], f"{s.share * 100:.0f} % by the readings")
                if found is not None:
                    yield found


def _logged(plan: Plan, assessment: Assessment) -> Iterator[Trouble]:
    for e in plan.log:
        if e.kind == "leak" and not e.settled and e.section:
            found = trouble_for(plan, assessment, "leak", e.section, "by the log")
            if found is not None:
                yield found
    last = {d.step: d for d in plan.done}
    for key, d in last.items():
        section, _, kind = key.partition(":")
        if d.result == "failed" and kind == "leak" and section:
            found = trouble_for(plan, assessment, "leak", section, "its test failed")
            if found is not None:
                yield found


def _photographed(plan: Plan, assessment: Assessment, photo: PhotoReading | None) -> Iterator[Trouble]:
    if photo is None:
        return
    panes = {o.id: o for o in plan.openings}
    for pane in photo.told:
        if pane.ratio < DIM and pane.id in panes:
            found = trouble_for(plan, assessment, "dim", pane.id, "by the photo")
            if found is not None:
                yield found
    for leak in photo.leaks:
        if leak.section:
            found = trouble_for(plan, assessment, "leak", leak.predicted or leak.section, "by the photo")
            if found is not None:
                yield found
