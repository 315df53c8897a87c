"""What is judged of dots, fibres and bundles."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

from gwiazda.core.assess.fibres import sharing
from gwiazda.core.assess.states import Assessment
from gwiazda.core.fibre.bundle import fibres_by_hand
from gwiazda.core.fibre.grouping import room_left
from gwiazda.core.fibre.light import BEND_RATIOS, CREASE
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.findings.fixes import with_fields
from gwiazda.core.parts.catalogue import Catalogue, unknown
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import bundle_table, dot_of, lamp_of
from gwiazda.core.plan.model import Dot, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted

LOOSE_MM = 0.3  # more than that, and glue has to fill the hole


def unknown_fibre(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A fibre the catalogue hasn't got."""
    for part in sorted({d.fibre for d in plan.dots} - set(assessment.catalogue.fibres)):
        first = next(d for d in plan.dots if d.fibre == part)
        words = unknown(f"Dot {first.id}, fibre", part, assessment.catalogue.fibres)
        yield Finding("unknown-part", "stop", "fibre", first.id, 0.0, str(words))


def dot_on_no_skin(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Dots that belong to no section: there is no skin to drill."""
    bare = [d for d in plan.dots if not d.section]
    if bare:
        first = bare[0]
        yield Finding(
            "dot-on-no-skin", "look", "fibre", first.id, float(len(bare)),
            f"{named(bare)} {'lies' if len(bare) == 1 else 'lie'} on no section’s skin: there is nothing to drill. Drag "
            f"{'it' if len(bare) == 1 else 'them'} onto a section, or say which one {'it belongs' if len(bare) == 1 else 'they belong'} to.",
            _nearest_section(plan, tuple(d.id for d in bare)),
        )  # fmt: skip


def _nearest_section(plan: Plan, ids: tuple[str, ...]) -> tuple[Fix, ...]:
    if not plan.sections:
        return ()

    def edit(after: Plan) -> Plan:
        for i in ids:
            at = dot_of(after, i).at
            near = min(after.sections, key=lambda s: _outside_mm(s.box.at, s.box.size, at))
            after = edits.set_fields(after, [i], section=near.id)
        return after

    return (Fix("Give them to the nearest section", edit),)


def _outside_mm(low: tuple[float, ...], size: tuple[float, ...], at: tuple[float, ...]) -> float:
    """How far a place lies outside of a box (mm)."""
    return math.hypot(*(max(a - p, 0.0, p - a - b) for a, b, p in zip(low, size, at, strict=True)))


def dot_without_lamp(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Dots on no lamp: they stay dark."""
    dark = [d for d in plan.dots if d.fibre in assessment.catalogue.fibres and d.id not in assessment.tips]
    unlit = [d for d in dark if d.fed == "section"]
    if unlit:
        yield Finding(
            "dot-in-the-dark", "stop", "fibre", unlit[0].id, float(len(unlit)),
            f"{named(unlit)}: the fibre looks into {name_of(plan, unlit[0].section) or 'no section'}, where nothing is lit.",
            (Fix("Feed them from a lamp", with_fields(tuple(d.id for d in unlit), fed="lamp")),),
        )  # fmt: skip
    dark = [d for d in dark if d.fed == "lamp"]
    if not dark:
        return
    fixes = []
    if sharing.fed_lamps(assessment.catalogue, plan):
        fixes.append(Fix("Group the dots onto the lamps there are", _group(assessment.catalogue)))
    part = sharing.lamp_for(dark[0])
    fixes.append(Fix("A lamp of their own behind them", _own_lamp(tuple(d.id for d in dark), part)))
    yield Finding(
        "dot-without-lamp", "stop", "fibre", dark[0].id, float(len(dark)),
        f"{named(dark)} {'is' if len(dark) == 1 else 'are'} on no lamp and will stay dark.", tuple(fixes),
    )  # fmt: skip


def _group(catalogue: Catalogue) -> Callable[[Plan], Plan]:
    return lambda plan: sharing.grouped(catalogue, plan)[0]


def _own_lamp(ids: tuple[str, ...], part: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.fibre_lamp(plan, ids, part)[0]


def lamp_lights_elsewhere(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A lamp with fibres on its face that is counted as lighting a room, or as seen itself."""
    for lamp_id in assessment.bundles:
        lamp = lamp_of(plan, lamp_id)
        if lamp.mount != "fibre":
            yield Finding(
                "lamp-and-fibres", "look", "fibre", lamp_id, 0.0,
                f"{name_of(plan, lamp_id)} has fibres on its face and is counted as {'lighting its section' if lamp.mount == 'inside' else 'seen itself'} "
                "too. Its light can’t do both.",
                (Fix("It feeds fibres alone", _feed(lamp_id)),),
            )  # fmt: skip


def _feed(lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: edits.feed_fibres(plan, [lamp_id])


def fibre_and_hole(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Fibres thicker than the hole their part comes with, or loose in it."""
    for same in _by_hole(plan):
        dot = same[0]
        fibre = assessment.catalogue.fibres.get(dot.fibre)
        if fibre is None or dot.hole_mm is None or dot.hole != "given":
            continue
        over = fibre.diameter_mm - dot.hole_mm
        ids = tuple(d.id for d in same)
        fitting = [f for f in assessment.catalogue.fibres.values() if f.tint == fibre.tint and f.diameter_mm <= dot.hole_mm + 1e-9]  # fmt: skip
        best = max(fitting, key=lambda f: f.diameter_mm, default=None)
        fixes = (
            [Fix(f"{best.name}", with_fields(ids, fibre=best.id))] if best is not None and best.id != fibre.id else []
        )
        if over > 1e-9:
            fixes.append(Fix("Drill the hole for the fibre", with_fields(ids, hole="drilled")))
            yield Finding(
                "fibre-too-thick", "stop", "fibre", dot.id, over,
                f"{named(same)}: a {fibre.diameter_mm:g} mm fibre doesn’t go into a {dot.hole_mm:g} mm hole.", tuple(fixes),
            )  # fmt: skip
        elif -over > LOOSE_MM and fixes:
            yield Finding(
                "fibre-loose", "look", "fibre", dot.id, -over,
                f"{named(same)}: a {fibre.diameter_mm:g} mm fibre is loose in a {dot.hole_mm:g} mm hole.", tuple(fixes),
            )  # fmt: skip


def _by_hole(plan: Plan) -> list[list[Dot]]:
    groups: dict[tuple[str, float | None], list[Dot]] = {}
    for d in plan.dots:
        if d.hole == "given":
            groups.setdefault((d.fibre, d.hole_mm), []).append(d)
    return list(groups.values())


def bundle_too_thick(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """More fibres on a lamp than go onto its face."""
    for b in assessment.bundles.values():
        if b.left >= -1e-9:
            continue
        parts = {dot_of(plan, i).group or i for i in b.dots}
        fixes = [Fix("Split it onto a second lamp", _split(assessment.catalogue, b.lamp))] if len(parts) > 1 else []
        if len(sharing.fed_lamps(assessment.catalogue, plan)) > 1:
            fixes.append(Fix("Group all dots again", _group(assessment.catalogue)))
        thinner = _thinner(assessment.catalogue, plan, b.dots)
        if thinner is not None:
            fixes.append(Fix(f"{thinner[1]} for all of them", with_fields(b.dots, fibre=thinner[0])))
        yield Finding(
            "bundle-too-thick", "stop", "fibre", b.lamp, -b.left,
            f"{b.lamp}: {len(b.dots)} fibres make a bundle of {b.bundle_mm:.1f} mm; its face is {b.face_mm:g} mm and takes "
            f"{_takes(b.diameters_mm, b.face_mm)} by hand.",
            tuple(fixes),
        )  # fmt: skip


def _takes(thick: tuple[float, ...], face_mm: float) -> str:
    if len(set(thick)) > 1:
        return f"{max(1, int(len(thick) / (1.0 - room_left(face_mm, thick))))} of the like"
    return str(max(fibres_by_hand(face_mm, thick[0]), 1))


def _split(catalogue: Catalogue, lamp_id: str) -> Callable[[Plan], Plan]:
    return lambda plan: sharing.split(catalogue, plan, lamp_id)


def _thinner(catalogue: Catalogue, plan: Plan, ids: tuple[str, ...]) -> tuple[str, str] | None:
    """The next thinner fibre than the thickest of these, of its colour."""
    fibres = [catalogue.fibres[dot_of(plan, i).fibre] for i in ids]
    thick = max(fibres, key=lambda f: f.diameter_mm)
    below = [f for f in catalogue.fibres.values() if f.tint == thick.tint and f.diameter_mm < thick.diameter_mm - 1e-9]
    best = max(below, key=lambda f: f.diameter_mm, default=None)
    return (best.id, best.name) if best is not None else None


def crease(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Fibres bent cold and too tight: they whiten and stay dark."""
    bad = [t for t in assessment.tips.values() if t.creased]
    for t in bad[:1]:
        dot = dot_of(plan, t.id)
        thick = assessment.catalogue.fibres[dot.fibre].diameter_mm
        wide = CREASE * thick
        yield Finding(
            "crease", "stop", "fibre", t.id, t.tightest,
            f"{name_of(plan, dot.id)}: bent cold to {t.tightest * thick:.1f} mm, under {wide:g} mm for this fibre. It creases white and "
            f"stays dark.{more(len(bad))}",
            (
                Fix("Bend it warm (hair dryer)", with_fields(tuple(x.id for x in bad), bent="warm")),
                Fix(f"Bend it no tighter than {10 * thick:g} mm", _wider(assessment.catalogue, tuple(x.id for x in bad), 10.0)),
            ),
            better="more",
        )  # fmt: skip


def _wider(catalogue: Catalogue, ids: tuple[str, ...], diameters: float) -> Callable[[Plan], Plan]:
    """Give bends that radius, and lead the fibres straight where their own places leave no room for it."""

    def edit(plan: Plan) -> Plan:
        for i in ids:
            thick = catalogue.fibres[dot_of(plan, i).fibre].diameter_mm
            plan = edits.set_fields(plan, [i], bend_mm=round(diameters * thick, 2), way=())
        return plan

    return edit


def tight_bend(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Fibres that lose much of their light in a bend nobody meant."""
    limit = BEND_RATIOS[1]
    bad = [
        t for t in assessment.tips.values()
        if not t.creased and t.tightest < limit - 1e-9 and dot_of(plan, t.id).bent != "lit edge" and t.loss.bends < 0.8
    ]  # fmt: skip
    if not bad:
        return
    worst = min(bad, key=lambda t: t.loss.bends)
    dot = dot_of(plan, worst.id)
    ids = tuple(t.id for t in bad)
    yield Finding(
        "tight-bend", "look", "fibre", worst.id, worst.tightest,
        f"{name_of(plan, dot.id)} loses {(1 - worst.loss.bends) * 100:.0f} % in its bends; the tightest is {worst.tightest:.1f} times as wide "
        f"as the fibre is thick. Under {limit:g} times it loses much light.{more(len(bad))}",
        (
            Fix("Lead it straight, its bends as wide as there is room", with_fields(ids, way=(), bend_mm=None)),
            *((Fix("Leave it loose: neither glued nor sleeved", with_fields(ids, held=False)),) if dot.held else ()),
            Fix("It is meant as a lit edge", with_fields(ids, bent="lit edge")),
        ),
        better="more",
    )  # fmt: skip


def looping(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A fibre led far round: by its own places it comes back to where it has been."""
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if tip is None or len(d.way) < 2 or not d.lamp:
            continue
        again = len({tuple(round(x, 1) for x in p) for p in d.way}) < len(d.way)
        straight = math.dist(lamp_of(plan, d.lamp).at, d.at)
        if again or tip.length_mm > 6.0 * straight + 100.0:
            yield Finding(
                "loop", "look", "fibre", d.id, tip.length_mm / max(straight, 1e-9),
                f"{name_of(plan, d.id)}: its fibre {'comes by one place twice' if again else 'goes a long way round'}: {tip.length_mm:.0f} mm for "
                f"{straight:.0f} mm.",
                (Fix("Lead it straight", with_fields((d.id,), way=())),),
            )  # fmt: skip


def group_apart(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Dots that must act together and are on lamps of several channels."""
    groups: dict[str, list[Dot]] = {}
    for d in plan.dots:
        if d.group and d.lamp and d.id in assessment.tips:
            groups.setdefault(d.group, []).append(d)
    for name, dots in groups.items():
        channels = {assessment.tips[d.id].channel for d in dots}
        if len(channels) > 1:
            yield Finding(
                "group-apart", "stop", "fibre", dots[0].id, float(len(channels)),
                f"Group {name} must act together, and its {counted(len(dots), 'dot')} are on {len(channels)} channels.",
                (
                    Fix("Group the dots again", _group(assessment.catalogue)),
                    Fix(f"All onto {dots[0].lamp}", _all_onto(tuple(d.id for d in dots), dots[0].lamp)),
                ),
            )  # fmt: skip


def _all_onto(ids: tuple[str, ...], lamp_id: str) -> Callable[[Plan], Plan]:
    return with_fields(ids, lamp=lamp_id)


def wrong_colour(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A dot whose lamp gives another colour, or plays on another channel, than was asked."""
    bad = [
        d for d in plan.dots
        if d.lamp and d.id in assessment.tips and not sharing.suits(assessment.catalogue, d, lamp_of(plan, d.lamp))
    ]  # fmt: skip
    for d in bad[:1]:
        lamp = lamp_of(plan, d.lamp)
        own = assessment.catalogue.lamps[lamp.part].colour
        fixes = [Fix("Group the dots again", _group(assessment.catalogue))]
        if d.colour in ("red", "orange", "green", "blue") and own in sharing.WHITES:
            ids = tuple(x.id for x in bad if x.colour == d.colour and x.lamp == d.lamp)
            fixes.append(Fix(f"Clear {d.colour} on the tip", with_fields(ids, tint=d.colour)))
        asked = f"{d.colour} light" if d.colour and d.colour != own else f"channel {d.channel}"
        yield Finding(
            "wrong-colour", "look", "fibre", d.id, float(len(bad)),
            f"{name_of(plan, d.id)} asks for {asked}; {name_of(plan, d.lamp)} is {own}{f' on {name_of(plan, lamp.channel)}' if lamp.channel else ''}.{more(len(bad))}",
            tuple(fixes),
        )  # fmt: skip


def overheated(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """A sleeve shrunk too hot: half of the light is gone."""
    for lamp_id, bundle in bundle_table(plan.bundles).items():
        if bundle.overheated and lamp_id in assessment.bundles:
            yield Finding(
                "overheated-sleeve", "look", "fibre", lamp_id, 0.5,
                f"The sleeve on {name_of(plan, lamp_id)} was shrunk too hot: its fibres pass half of their light. PMMA bears 70 to 85 °C, and "
                "heat-shrink wants 70 to 125.",
                (Fix("Cut back and sleeve it anew, cooler", with_bundle(lamp_id, overheated=False)),),
            )  # fmt: skip


def with_bundle(lamp_id: str, **fields: object) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_bundle(plan, lamp_id, **fields)


def beside_the_print(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Holes of a panel drilled by hand to a printed face finer than a hand drills."""
    for panel in plan.panels:
        dots = [d for d in plan.dots if d.panel == panel.id and d.hole == "drilled"]
        if dots and panel.tolerance_mm < HAND_MM:
            yield Finding(
                "beside-the-print", "look", "fibre", panel.id, panel.tolerance_mm,
                f"{panel.name}: its print allows {panel.tolerance_mm:g} mm, a hand drills within {HAND_MM:g} mm. Prick each hole "
                "through the template first.",
                (Fix("Allow 0.2 mm: mask the rims afterwards", _tolerance(panel.id)),),
            )  # fmt: skip


HAND_MM = 0.15  # from a pricked dimple with a pin vice


def _tolerance(panel_id: str) -> Callable[[Plan], Plan]:
    return with_fields((panel_id,), tolerance_mm=0.2)


def named(dots: list[Dot]) -> str:
    first = dots[0].name or dots[0].id
    return first if len(dots) == 1 else f"{first} and {counted(len(dots) - 1, 'other dot')}"


def more(count: int) -> str:
    return "" if count < 2 else f" So {'does' if count == 2 else 'do'} {count - 1} more."


FIBRE_RULES = (
    unknown_fibre, dot_on_no_skin, dot_without_lamp, lamp_lights_elsewhere, fibre_and_hole, bundle_too_thick, crease, tight_bend,
    looping, group_apart, wrong_colour, overheated, beside_the_print,
)  # fmt: skip
