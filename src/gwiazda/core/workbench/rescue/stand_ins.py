"""What can be done with a closed section left closed: neighbours brighter, a fibre from outside, paint over a leak, or nothing; each with how it shows."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from typing import cast, get_args

from gwiazda.core.assess.aims import leak_words
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.fibres.sharing import lamp_for
from gwiazda.core.assess.night.unlit import unlit_shares
from gwiazda.core.assess.optics.leaks import BLOCK_COAT
from gwiazda.core.assess.optics.skin import outside_reflectance
from gwiazda.core.assess.states import Assessment, Leak, TipState
from gwiazda.core.light.dusk import MOST_LX, Seen, level_of, until_lx
from gwiazda.core.light.rooms import lux_words
from gwiazda.core.light.scatter import through
from gwiazda.core.light.visibility import DARK_CD_M2, contrast
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, SIDES, Side
from gwiazda.core.plan.lookup import section_of, string_of
from gwiazda.core.plan.model import Dot, DotColour, Lamp, Model, Opening, Plan, Point, Section, Wanted, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure
from gwiazda.core.workbench.rescue.remedy import MendingStep, Remedy, Trouble, repainted
from gwiazda.core.workbench.rescue.ways import LEAK_TEST, TEST, Place, leak_of, place_of

THICK, POINT = "fibre-3", "fibre-0.5"  # what carries most, and what makes a point
DIMMER, HALF = 0.95, 0.5  # a pane that has lost anything to speak of, and one that has lost half
GAIN = 1.05  # an offer that brings less is none
WORTH = 0.1  # of what is wanted: a fibre that brings less is no offer
MOST_COATS = 4
BEHIND_MM, BEND_TIMES = 20.0, 15.0  # room behind a tip for its turn; its radius over the fibre's thickness
FAINT_TIMES = 3.0  # a leak up to so far over what shows may be mended by dimming


def stand_ins(plan: Plan, assessment: Assessment, trouble: Trouble) -> tuple[Remedy, ...]:
    """What leaves the section closed, least trouble first; last that it is left as it is."""
    section = section_of(plan, trouble.section)
    place = place_of(plan, assessment, trouble)
    if trouble.kind == "leak":
        leak = leak_of(assessment, trouble.subjects[0])
        return tuple(_leaks(plan, assessment, section, leak)) if leak is not None else ()
    if trouble.kind == "mirrored":
        alike = len({(p.part, p.tint) for p in place.lamps}) == 1
        shows = "They look alike: nobody will see it" if alike else _each_shows(plan, assessment, place)
        return (Remedy("live", "Leave it as it is", 20.0, (), outcome=shows, instead=True),)
    fed = [p for p in place.lamps if p.mount == "fibre" and p.id in trouble.subjects]
    if fed:
        dark = sum(d.lamp in {p.id for p in fed} for d in plan.dots)
        return (
            Remedy(
                "live",
                "Leave it dark",
                20.0,
                (),
                outcome=f"{counted(dark, 'dot')} of it stay{'s' if dark == 1 else ''} dark",
                instead=True,
            ),
        )
    inside = [p for p in place.lamps if p.mount == "inside"]
    if inside:
        return tuple(_for_inside(plan, assessment, section, inside))
    return tuple(_for_points(plan, assessment, trouble, place))


# -- a lamp that lights windows ---------------------------------------------------------------------------


def _for_inside(plan: Plan, assessment: Assessment, section: Section, lamps: list[Lamp]) -> Iterator[Remedy]:
    catalogue = assessment.catalogue
    gone = frozenset(p.id for p in lamps)
    as_built = _brighter(assessment, section.id, gone, 1.0)
    left = assess(as_built(plan), catalogue)
    before = assessment.sections[section.id].mean_cd_m2 if section.id in assessment.sections else 0.0
    after = left.sections[section.id].mean_cd_m2 if section.id in left.sections else 0.0
    panes = [o for o in plan.openings if o.section == section.id and o.lit > 0 and not o.into]
    if 0.0 < after < before:
        brighter = _brighter(assessment, section.id, gone, before / after)
        seen = assess(brighter(plan), catalogue)
        now = seen.sections[section.id].mean_cd_m2
        if now > GAIN * after:
            n = sum(x.section == section.id and i not in gone for i, x in assessment.lamps.items())
            yield Remedy(
                "neighbours", "Turn the other lamps up", 10.0, (MendingStep("mend-leads", "Change the resistors of the other lamps", 2.0 * n), TEST),
                risk="None where the resistors are outside", instead=True, change=brighter,
                outcome=_panes(plan, assessment, seen, panes, f"{figure(now)} of {figure(before)} cd/m²"),
            )  # fmt: skip
    flux = _by_fibre(plan, assessment, lamps[0], THICK).flux_lm
    lost = math.fsum(assessment.lamps[p.id].flux_lm for p in lamps if p.id in assessment.lamps)
    if flux > 0.0 and lost > 0.0:
        now = after + (before - after) * flux / lost
        if now > GAIN * after and flux > WORTH * lost:
            yield Remedy(
                "fibre", "A thick fibre from outside", 11.0, _fibre_steps(catalogue, plan, section, THICK), instead=True,
                risk="A hole of 3 mm, where it isn’t seen", repaint="a dab round it",
                outcome=f"About {figure(now)} of {figure(before)} cd/m²: 3 mm of fibre bring {figure(flux * 1e3)} of {figure(lost * 1e3)} mlm",
            )  # fmt: skip
    yield Remedy(
        "live", "Leave it dark", 20.0, (), instead=True, change=as_built,
        outcome=_panes(plan, assessment, left, panes, f"{figure(after)} of {figure(before)} cd/m²"),
    )  # fmt: skip


def _without(plan: Plan, gone: frozenset[str]) -> Plan:
    """A plan without lamps or dots, and with all that they made one thing with."""
    loose: dict[str, Model] = {}
    loose |= {p.id: copy_unchecked(p, light="") for p in plan.lamps if p.id in gone and p.light}
    loose |= {d.id: copy_unchecked(d, light="") for d in plan.dots if d.id in gone and d.light}
    return edits.delete(edits.replace(plan, loose) if loose else plan, gone)


def _brighter(assessment: Assessment, section: str, gone: frozenset[str], times: float) -> Callable[[Plan], Plan]:
    """The other lamps of a section so much brighter, as far as they bear it; those gone taken out. At 1 they stay as they are built."""
    mine = {i: x for i, x in assessment.lamps.items() if x.section == section and i not in gone and x.current_a > 0}

    def change(plan: Plan) -> Plan:
        plan = _without(plan, gone)
        new = {}
        for lamp in plan.lamps:
            state = mine.get(lamp.id)
            if state is not None:
                asked = Wanted(current_ma=round(min(state.current_a * times, state.rated_a) * 1e3, 4))
                own = state.resistor_ohm if times == 1.0 and string_of(plan, lamp.id) is None else None
                new[lamp.id] = copy_unchecked(lamp, wanted=asked, resistor_ohm=own or None)
        return edits.replace(plan, new)

    return change


def _panes(plan: Plan, whole: Assessment, now: Assessment, panes: list[Opening], mean: str) -> str:
    """How the windows look with something missing: their mean, how many lost half of it, whether they still show in the room."""
    if not panes:
        return mean
    was = {o.id: whole.openings[o.id].luminance_cd_m2 for o in panes if o.id in whole.openings}
    is_ = {i: now.openings[i].luminance_cd_m2 if i in now.openings else 0.0 for i in was}
    half = sum(is_[i] < HALF * was[i] for i in was)
    section = section_of(plan, panes[0].section)
    shares = unlit_shares(whole.catalogue, plan.sections, plan.openings, plan.kit.material)
    hull = outside_reflectance(whole.catalogue, section, plan.kit.material)
    unseen = sum(
        level_of(Seen("pane", v, hull, shares.get(i, 0.0), plan.room.distance_m), plan.room.lux) == 0
        for i, v in is_.items()
    )
    words = [mean, f"{half} of {counted(len(was), 'pane')} lose more than half" if half else "no pane loses half"]
    words.append(
        f"{unseen} don’t show in {lux_words(plan.room.lux)}" if unseen else f"all show in {lux_words(plan.room.lux)}"
    )
    return "; ".join(words)


# -- a point ------------------------------------------------------------------------------------------------


def _for_points(plan: Plan, assessment: Assessment, trouble: Trouble, place: Place) -> Iterator[Remedy]:
    catalogue, section = assessment.catalogue, section_of(plan, trouble.section)
    dots = [d for d in plan.dots if d.id in trouble.subjects]
    if place.at:
        lamp = place.lamps[0] if place.lamps and not dots else None
        wanted = (
            dots[0].wanted_mcd
            if dots
            else (assessment.lamps[lamp.id].axial_cd * 1e3 if lamp is not None and lamp.id in assessment.lamps else 0.0)
        )
        change = _as_fibre(catalogue, plan, trouble, lamp, dots)
        tip = assess(change(plan), catalogue).tips.get(TIP)
        if tip is not None and wanted > 0 and tip.cd * 1e3 > WORTH * wanted:
            yield Remedy(
                "fibre", "A fibre from outside in its place", 10.0, _fibre_steps(catalogue, plan, section, POINT), instead=True, change=change,
                risk="Drill by hand: what is behind is not seen", repaint="a dab round it",
                outcome=f"{figure(tip.cd * 1e3)} of {figure(wanted)} mcd, by a lamp beside the section",
            )  # fmt: skip
    yield Remedy("live", "Leave it dark", 20.0, (), instead=True, outcome=_each_shows(plan, assessment, place))


TIP, FEED = "rescue-tip", "rescue-lamp"


def _as_fibre(
    catalogue: Catalogue, plan: Plan, trouble: Trouble, lamp: Lamp | None, dots: list[Dot]
) -> Callable[[Plan], Plan]:
    """A new fibre in place of a point, from a lamp outside of its section; the old one goes."""
    section = section_of(plan, trouble.section)
    if dots:
        dot = copy_unchecked(dots[0], id=TIP, lamp=FEED, pinned=True, fed="lamp", hole="drilled")
    else:
        assert lamp is not None
        colour = catalogue.lamps[lamp.part].colour if lamp.part in catalogue.lamps else "warm white"
        known = {"warm-white": "warm white", "cool-white": "white", "neutral-white": "white"}.get(colour, colour)
        dot = Dot(
            id=TIP, at=lamp.at, side=_side_of(lamp.aim), section=section.id, fibre=POINT, lamp=FEED, pinned=True,
            colour=cast(DotColour, known if known in get_args(DotColour) else ""), channel=lamp.channel, light=lamp.light,
        )  # fmt: skip
    turn = _behind(dot.side, dot.at)
    led = () if dot.side == "top" else (turn,)  # what looks up is fed straight from below
    dot = copy_unchecked(dot, way=led, bend_mm=BEND_TIMES * catalogue.fibres[dot.fibre].diameter_mm)
    fed = Lamp(
        id=FEED,
        part=lamp_for(dot),
        at=_beside(section, turn),
        mount="fibre",
        aim=(0.0, 0.0, 1.0),
        wanted=Wanted(look="full"),
        channel=dot.channel,
    )
    gone = frozenset(trouble.subjects)
    return lambda p: edits.add_lamp(edits.add_dots(_without(p, gone), [dot]), fed)


def _side_of(aim: Point) -> Side:
    """The side a lamp looks to."""
    return max(SIDES, key=lambda s: sum(a * b for a, b in zip(aim, NORMALS[s], strict=True)))


def _behind(side: Side, at: Point) -> Point:
    """A place behind a point of the skin, where a fibre may turn without a crease."""
    a, b, c = (x - BEHIND_MM * n for x, n in zip(at, NORMALS[side], strict=True))
    return a, b, c


def _beside(section: Section, at: Point) -> Point:
    """A place under a section, below a point."""
    return (
        at[0],
        min(max(at[1], section.box.at[1]), section.box.at[1] + section.box.size[1]),
        section.box.at[2] - section.wall_mm - 5.0,
    )


def _by_fibre(plan: Plan, assessment: Assessment, lamp: Lamp, fibre: str) -> TipState:
    """What a fibre from a lamp under the section brings to where another lamp was."""
    section = section_of(plan, assessment.lamps[lamp.id].section or plan.sections[0].id)
    colour = assessment.catalogue.lamps[lamp.part].colour
    dot = Dot(
        id=TIP,
        at=lamp.at,
        section=section.id,
        fibre=fibre,
        lamp=FEED,
        side="top",  # straight up from its lamp
        colour="warm white" if "warm" in colour else "white",
    )
    fed = Lamp(
        id=FEED,
        part=lamp_for(dot),
        at=_beside(section, lamp.at),
        mount="fibre",
        aim=(0.0, 0.0, 1.0),
        wanted=Wanted(look="full"),
    )
    alone = Plan(
        kit=plan.kit,
        room=plan.room,
        sections=(section,),
        lamps=(fed,),
        dots=(dot,),
        feeds=(copy_unchecked(plan.feeds[0], items=(), head=()),),
    )
    return assess(alone, assessment.catalogue).tips[TIP]


def _fibre_steps(catalogue: Catalogue, plan: Plan, section: Section, fibre: str) -> tuple[MendingStep, ...]:
    return (
        MendingStep("mend-fibre", f"Drill for a fibre of {catalogue.fibres[fibre].diameter_mm:g} mm and feed it from outside"),
        MendingStep("mend-leads", "Wire its lamp", 3.0), TEST, MendingStep("mend-dab", "A dab of the hull’s colour round it"),
    )  # fmt: skip


def _each_shows(plan: Plan, assessment: Assessment, place: Place) -> str:
    """Until which room the points showed that are missing, or are the wrong way round."""
    out = []
    for lamp in place.lamps:
        state = assessment.lamps.get(lamp.id)
        if state is None:
            continue
        hull = assessment.hull_cd_m2 * math.pi / max(plan.room.lux, 1e-9)
        seen = Seen("point", state.axial_cd, hull, distance_m=plan.room.distance_m)
        level = level_of(seen, plan.room.lux)
        out.append(
            f"{name_of(plan, lamp.id)} {SAID[level]} in {lux_words(plan.room.lux)}, and shows until {_lx(until_lx(seen, 1))}"
        )
    return "; ".join(out)


SAID = ("would not be seen anyway", "just shows", "is clearly lit", "is striking", "glares")


def _lx(value: float) -> str:
    return "noon at a window" if value >= MOST_LX else f"{figure(value, 2)} lx"


# -- a leak -------------------------------------------------------------------------------------------------


def _leaks(plan: Plan, assessment: Assessment, section: Section, leak: Leak) -> Iterator[Remedy]:
    catalogue = assessment.catalogue
    black = catalogue.coats[BLOCK_COAT]
    coats = next((n for n in range(1, MOST_COATS + 1) if _over(leak, through([black.film(n)])) < 1.0), 0)
    paint = repainted(catalogue, section, plan.bench)
    if coats:
        times = leak.times * through([black.film(coats)])
        first: tuple[MendingStep, ...] = tuple(
            MendingStep("mend-dab", f"Black over it from outside, coat {k + 1}", 1.0, black.next_h or black.dry_h)
            for k in range(coats)
        )
        if leak.kind in ("seam", "ring", "channel"):
            first = (MendingStep("patch", "Run paste into the gap from outside", 2.0, 2.0), *first)
        yield Remedy(
            "paint", f"Paint over it from outside, {counted(coats, 'coat')} of black", 10.0, (MendingStep("mend-cover"), *first, *paint, LEAK_TEST),
            risk="Detail fills up under thick paint: thin coats", repaint="over the black, as the hull", instead=True,
            outcome=f"From {figure(leak.times, 2)} × what shows to {figure(times, 2)} ×",
        )  # fmt: skip
    if 1.0 < leak.times <= FAINT_TIMES:
        dim = _dimmer(assessment, section.id, 0.9 / leak.times)
        seen = assess(dim(plan), catalogue)
        now = leak_of(seen, leak.id)
        left = now.times if now is not None else 0.0
        was, is_ = assessment.sections[section.id].mean_cd_m2, seen.sections[section.id].mean_cd_m2
        if left < 1.0:
            n = sum(x.section == section.id for x in assessment.lamps.values())
            yield Remedy(
                "dim", "Turn its lamps down", 11.0, (MendingStep("mend-leads", "Change the resistors of its lamps", 2.0 * n), LEAK_TEST), instead=True,
                change=dim, risk="None where the resistors are outside",
                outcome=f"The leak is unseen; its windows {figure(is_)} instead of {figure(was)} cd/m²",
            )  # fmt: skip
    hull = outside_reflectance(catalogue, section, plan.kit.material)
    ground = hull * plan.room.lux / math.pi
    # As an added light that is just so often over what shows here.
    until = until_lx(Seen("wash", leak.times * contrast(ground) * (ground + DARK_CD_M2), hull), 1)
    said = f"It is {leak_words(leak)} in {lux_words(plan.room.lux)}"
    yield Remedy(
        "live", "Leave it as it is", 20.0, (), instead=True,
        outcome=f"{said}, {figure(leak.times, 2)} × what shows" + (f"; it shows until {_lx(until)}" if until else ""),
    )  # fmt: skip


def _over(leak: Leak, share: float) -> float:
    return max(leak.times, leak.safe_times) * share


def _dimmer(assessment: Assessment, section: str, share: float) -> Callable[[Plan], Plan]:
    return _brighter(assessment, section, frozenset(), share)
