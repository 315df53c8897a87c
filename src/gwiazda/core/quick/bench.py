"""Questions of the bench that are no circuit: drills, bundles, run time, fits, wires, timers, strips, resistors together; and what is never answered
without its no."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import NamedTuple

from gwiazda.core.assess.aims import NIGHT
from gwiazda.core.assess.electrics.junctions import forward_v, junctions
from gwiazda.core.assess.electrics.on_rails import part_on_v
from gwiazda.core.assess.electrics.sources import source_of
from gwiazda.core.assess.lamp.fit import needed_mm
from gwiazda.core.circuit.parts.wire import diameter_mm, limit_a, ohm_per_m
from gwiazda.core.circuit.series import bands
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.effect.timers import CAPACITORS_UF, one_shot_s, parts_for, rate_band, timer_555
from gwiazda.core.fibre.bundle import bundle_mm, fibres_by_hand, most_fibres
from gwiazda.core.fibre.drills import Drill, drill_for, drill_of
from gwiazda.core.light.photometry import current_for_light
from gwiazda.core.light.visibility import CLEARLY, STRIKING, point_threshold_lx
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import SourcePart
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.parts.lights import LightKind
from gwiazda.core.plan.model import Supply
from gwiazda.core.power.discharge import capacity_ah
from gwiazda.core.quantities import (
    counted,
    figure,
    format_current,
    format_hours,
    format_resistance,
    parse_current_a,
    parse_resistance_ohm,
)
from gwiazda.core.quick.ask import CELLS, LAMP_COLOURS, QuickError, body_part
from gwiazda.core.render.tone import hull_luminance

N = r"(\d+(?:[.,]\d+)?)"
MOST_SAFE_V = 24.0
LINING, WINDOWS, THROUGH = 0.88, 0.02, 0.554  # two coats of white, windows of a fiftieth of the inside, two mist coats
WIDTHS = {"": 0.0, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}


class Told(NamedTuple):
    """An answer in words: what it comes to first, how, what was taken, what to mind; ``ohm`` of a resistor to be drawn."""

    title: str
    said: tuple[str, ...] = ()
    taken: tuple[str, ...] = ()
    mind: tuple[str, ...] = ()
    ohm: float = 0.0

    def lines(self) -> tuple[str, ...]:
        """The card as text."""
        return (self.title, *self.said, *((f"taken: {'; '.join(self.taken)}",) if self.taken else ()), *self.mind)


def _n(text: str) -> float:
    return float(text.replace(",", "."))


def _drills(d: Drill) -> tuple[str, ...]:
    """The drills of a hole, in words."""
    found = [f"{d.metric_mm:g} mm"]
    if d.own:
        found.insert(0, f"your {d.own}, {d.own_mm:g} mm")
    if d.number:
        found.append(f"no. {d.number} ({d.number_mm:.3f} mm)")
    if d.inch:
        found.append(f"{d.inch} ({d.inch_mm:.2f} mm)")
    return tuple(found)


def _drill(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``drill for 0.5 fibre``, ``drill for 3 mm led``, ``hole for 1.5``."""
    found = re.fullmatch(rf"(?:(?:drill|hole|bit)(?: size)?)(?: for)?(?: an?)? {N} ?(?:mm)? ?(fib(?:re|er)s?|leds?|lamps?|rod|tube|wires?|hole)?|{N} ?(?:mm)? ?(fib(?:re|er)|led|lamp) (?:drill|hole)", line)  # fmt: skip
    if not found:
        return None
    wide, what = _n(found[1] or found[3]), (found[2] or found[4] or "")
    if not 0.1 <= wide <= 13.0:
        raise QuickError("Drill", f"{figure(wide)} mm", "0.1 to 13 mm")
    own = tuple((d.name, d.diameter_mm) for d in catalogue.drills.values())
    if what.startswith("fib"):
        d, why = (
            drill_for(wide, own),
            "a hair over the fibre, so that it feeds and the glue gets in; the same size holds it by itself",
        )
    elif what.startswith(("led", "lamp")):
        d, why = drill_of(wide + 0.1, own), "a tenth over the body; try it in scrap, bodies differ"
    else:
        d, why = drill_of(wide, own), "the next at or above"
    named = {"fib": "a fibre of ", "led": "a lamp of ", "lam": "a lamp of "}.get(what[:3], "")
    said = (" or ".join(_drills(d)), why)
    mind = ("Prick it first; a drill under 1 mm wanders on a curve: bore it small before.",) if d.hole_mm <= 1.0 else ()
    return Told(f"For {named}{wide:g} mm: drill {_drills(d)[0]}", said[:1] + said[1:], (), mind)


def _bundle(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``how many 0.25 on a 5 mm lamp``, ``12 fibres 0.5``."""
    if found := re.fullmatch(rf"(?=how many|.*fib)(?:how many )?{N} ?(?:mm )?(?:fib(?:re|er)s? )?(?:fits? |go(?:es)? )?(?:on|in|into|onto)(?: an?)? {N} ?(?:mm)?(?: ?(?:leds?|lamps?|face|tube|sleeve|hole))?", line):  # fmt: skip
        thin, face = _n(found[1]), _n(found[2])
        if not 0.1 <= thin <= face <= 30.0:
            raise QuickError(
                "Fibres", f"{thin:g} mm on {face:g} mm", "a fibre from 0.1 mm on a face up to 30 mm, the larger second"
            )
        most, hand = most_fibres(face, thin), fibres_by_hand(face, thin)
        return Told(f"{hand} of {thin:g} mm on a face of {face:g} mm", (f"{most} by geometry; a hand bundles nine tenths of it, for no bundle is quite round",))  # fmt: skip
    if found := re.fullmatch(
        rf"(?:bundle of )?(\d{{1,4}}) (?:fib(?:re|er)s?(?: of)? {N}|x ?{N} ?(?:mm)? fib(?:re|er)s?) ?(?:mm)?", line
    ):
        count, thin = int(found[1]), _n(found[2] or found[3])
        wide = bundle_mm(count, thin)
        return Told(f"{count} fibres of {thin:g} mm make a bundle of {figure(wide, 3)} mm", (f"a sleeve with a bore of {figure(wide * 1.05, 3)} mm goes over it",))  # fmt: skip
    return None


def _cells(text: str, catalogue: Catalogue) -> tuple[SourcePart, int] | None:
    """A source that is a battery, and how many of its cells."""
    found = re.fullmatch(r"(?:an? )?(?:(\d+) ?x? ?)?(9 ?v(?: (?:block|battery))?|block|6 ?v stack|usb|cr ?2032|coin(?: cell)?|aaa|aa|c|d|18650|li-?ion)(?: (nimh|alkaline))?(?: cells?| batter(?:y|ies))?", text)  # fmt: skip
    if not found:
        return None
    kind = re.sub(r"\s", "", found[2])
    part = (
        "aa-nimh" if found[3] == "nimh" else "block-9v" if kind.startswith(("9v", "block")) else "stack-6v" if kind.startswith("6v")
        else "usb-5v" if kind == "usb" else "coin-cr2032" if kind.startswith(("cr", "coin")) else "li-ion-18650" if kind in ("18650", "li-ion", "liion")
        else CELLS[kind]
    )  # fmt: skip
    return catalogue.sources[part], int(found[1] or 1)


def _run_time(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``60 mA on 9 V block``, ``how long does a 9 v block last with 60 mA``."""
    found = re.fullmatch(rf"{N} ?(m?a) (?:on|from) (.+)", line) or re.fullmatch(r"(?:how long (?:does|do|will|is) )?(?P<s>.+?) (?:last )?(?:with|at) (?P<i>\d+(?:[.,]\d+)?) ?(?P<u>m?a)", line)  # fmt: skip
    if not found:
        return None
    if "s" in found.re.groupindex:
        current, unit, source = found["i"], found["u"], found["s"]
    else:
        current, unit, source = found[1], found[2], found[3]
    cells = _cells(source.strip(), catalogue)
    if cells is None:
        return None
    part, count = cells
    amps = parse_current_a(f"{current}{unit}")
    if part.kind != "battery":
        return Told(f"{part.name} gives it as long as it is plugged in" if amps <= part.rated_a * part.use_share else f"{format_current(amps)} is too much for {part.name}")  # fmt: skip
    hours = float(capacity_ah(amps, part.capacity_mah / 1000.0, part.i50_a)) / amps
    mind = (
        ()
        if amps <= 0.4 * part.i50_a
        else (f"That is much for it: over {format_current(0.4 * part.i50_a)} it loses half of what it holds.",)
    )
    name = f"{count} × {part.name} in a row" if count > 1 else part.name
    return Told(
        f"{name}: about {format_hours(hours)} at {format_current(amps)}",
        (f"{figure(part.capacity_mah)} mAh / (1 + {format_current(amps)} / {format_current(part.i50_a)}) by {format_current(amps)}; cells in a row hold no more, they only have more volts",),
        ("that the current stays; lamps draw less as it empties, and last longer",), mind,
    )  # fmt: skip


def _fits(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``1206 in 1.2 mm``, ``3 mm led in 4 mm``."""
    found = re.fullmatch(rf"(?:does |will )?(?:an? )?(0402|0603|0805|1206|3528|5050|{N} ?mm)(?: (?:leds?|lamps?|chips?|round))*(?: (?:fits?|go(?:es)?))? in(?:to)?(?: an?)? {N} ?mm(?: (?:gap|height|wall))?", line)  # fmt: skip
    if not found:
        return None
    size = found[1] if found[2] is None else f"{_n(found[2]):g} mm"
    part, gap = body_part(catalogue, "warm white", size), _n(found[3])
    needs = needed_mm(part, part.size_mm[2])
    said = (
        f"its body is {' × '.join(f'{x:g}' for x in part.size_mm)} mm; with leads and glue it takes {figure(needs, 3)} mm along its axis",
    )
    smaller = [p for p in catalogue.lamps.values() if p.colour == "warm white" and not (p.body or p.leads_mm or p.shape.long) and p.size_mm[0] <= part.size_mm[0] and needed_mm(p, p.size_mm[2]) <= gap]  # fmt: skip
    if needs <= gap:
        return Told(f"Yes: {size} goes into {gap:g} mm, {figure(gap - needs, 2)} mm to spare", said)
    best = max(smaller, key=lambda p: p.size_mm[0], default=None)
    other = (
        (f"the largest that does: {best.name.removesuffix(', warm white')}",)
        if best is not None
        else ("none does: notch the wall, or a fibre",)
    )
    return Told(f"No: {size} needs {figure(needs - gap, 2)} mm more than {gap:g} mm", said + other)


def _wire(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``30 AWG 1 m 200 mA``, ``awg 32``."""
    found = re.fullmatch(
        rf"(?:awg ?(\d\d)|(\d\d) ?awg)(?: wire)?(?:,? {N} ?(mm|cm|m|in))?(?:,?(?: at| with)? {N} ?(m?a))?", line
    )
    if not found:
        return None
    gauge = int(found[1] or found[2])
    if not 16 <= gauge <= 46:
        raise QuickError("Wire", f"AWG {gauge}", "AWG 16 to 46")
    most, per = limit_a(gauge), ohm_per_m(gauge)
    said = [
        f"copper {figure(diameter_mm(gauge), 3)} mm across, {figure(per, 3)} Ω a metre; up to {format_current(most)} in a bundle, twice that free"
    ]
    title, mind = f"AWG {gauge}: {format_current(most)} at most in a bundle", []
    if found[3]:
        length = _n(found[3]) * WIDTHS[found[4]]
        ohm = per * length / 1000.0
        title = f"{figure(length / 1000.0, 3)} m of AWG {gauge}: {figure(ohm, 3)} Ω one way, {figure(2 * ohm, 3)} Ω there and back"
        if found[5]:
            amps = parse_current_a(f"{found[5]}{found[6]}")
            said.insert(0, f"{format_current(amps)} lose {figure(2 * ohm * amps, 3)} V there and back")
    if found[5]:
        amps = parse_current_a(f"{found[5]}{found[6]}")
        if amps > most:
            thick = next(g for g in range(gauge, 15, -1) if limit_a(g) >= amps) if limit_a(16) >= amps else 0
            mind.append(
                f"No: {format_current(amps)} is too much for it in a bundle"
                + (f"; AWG {thick} bears it." if thick else ".")
            )
    return Told(title, tuple(said), (), tuple(mind))


def _timer(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``555 1 Hz``, ``555 10k 100k 10uF``, ``one shot 100k 10uF``."""
    part = r"(\d+(?:[.,]\d+)? ?[km]?\d*)(?: ?(?:ohms?|Ω))?"
    if found := re.fullmatch(rf"(?:(?:ne|timer) ?)?555(?: at| for)? {N} ?hz", line):
        rate = _n(found[1])
        made = parts_for(rate, shelf_of(series, catalogue.resistors).ohms, CAPACITORS_UF)
        if made is None:
            raise QuickError("Timer", f"{figure(rate)} Hz", "0.01 Hz to 100 kHz")
        low, high = (made.timing.rate_hz * k for k in rate_band(made.c_uf))
        return Told(
            f"555 at {figure(rate)} Hz: R1 {format_resistance(made.r1_ohm)}, R2 {format_resistance(made.r2_ohm)}, C {made.c_uf:g} µF",
            (f"that is {figure(made.timing.rate_hz, 3)} Hz, on for {figure(100 * made.timing.duty, 2)} % of the time; with its parts' spread {figure(low, 2)} to {figure(high, 2)} Hz",),
            (), ("A bipolar 555 draws 3 to 6 mA itself; the CMOS kind a tenth of a mA.",),
        )  # fmt: skip
    if found := re.fullmatch(rf"(?:(?:ne|timer) ?)?555 {part},? {part},? {N} ?(u|n)f", line):
        r1, r2 = (parse_resistance_ohm(found[k].replace(" ", "").replace("m", "M")) for k in (1, 2))
        timing = timer_555(r1, r2, _n(found[3]) * {"u": 1e-6, "n": 1e-9}[found[4]])
        return Told(
            f"{figure(timing.rate_hz, 3)} Hz, on for {figure(100 * timing.duty, 2)} % of the time",
            ("f = 1.443 / ((R1 + 2·R2)·C), on for (R1 + R2) / (R1 + 2·R2)",),
        )
    if found := re.fullmatch(rf"(?:555 )?one ?shot {part},? {N} ?(u|n)f", line):
        ohm = parse_resistance_ohm(found[1].replace(" ", "").replace("m", "M"))
        return Told(
            f"{figure(one_shot_s(ohm, _n(found[2]) * {'u': 1e-6, 'n': 1e-9}[found[3]]), 3)} s", ("t = 1.1·R·C",)
        )
    return None


def _strip(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``strip 12 V on 9 V``, ``3 units of 12 V strip on 9 V block``."""
    found = re.fullmatch(rf"(?:(\d{{1,3}}) (?:units?|pieces?)(?: of)? ?)?(?:(warm|cool|neutral|red|green|blue|amber)(?: white)? )?(?:strip {N} ?v|{N} ?v strip|strip)(?: on| from| at) (.+)", line)  # fmt: skip
    if not found:
        return None
    units, volts = int(found[1] or 1), _n(found[3] or found[4] or "12")
    colour = LAMP_COLOURS[found[2] or "warm"]
    part = next(
        (p for p in catalogue.lamps.values() if p.shape.in_units and p.volts == volts and p.colour == colour), None
    )
    if part is None:
        raise QuickError(
            "Strip",
            f"there is none of {figure(volts)} V in {colour}",
            "strips of 5 V or 12 V, warm or cool white, red, green, blue, amber",
        )
    at = _source_volts(found[5], catalogue)
    if at > MOST_SAFE_V:
        raise _no_mains(at)
    share = part_on_v(catalogue, part, at)
    amps = (
        current_for_light(share, part.rated_ma * 1e-3, catalogue.families[part.family].droop) * units
        if share > 0
        else 0.0
    )
    mind = [f"No: {figure(at)} V is over what it is made for; it gets hot and dies early."] if at > 1.05 * volts else []
    title = f"On {figure(at)} V a strip for {figure(volts)} V gives {figure(100 * share, 2)} % of its light, {format_current(amps)}" if share > 0.005 else f"On {figure(at)} V a strip for {figure(volts)} V is dark"  # fmt: skip
    return Told(title, (f"{counted(units, 'unit')} of {part.size_mm[0]:g} mm, {counted(part.leds, 'lamp')} in a row behind {part.inner_ohm:g} Ω each; cut only between the copper pads", "no resistor of yours is needed: it is built in"), (f"{part.name}",), tuple(mind))  # fmt: skip


def _together(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``470 and 1k in parallel``, ``two 470 ohm in series``."""
    piece = r"\d+(?:[.,]\d+)? ?[kmr]?\d*(?: ?(?:ohms?|Ω))?"
    found = re.fullmatch(rf"(?:(2|two|3|three) ?x? ?)?({piece})(?:(?: and |, | ?\+ ?| ?\|\| ?)({piece}))?(?: resistors?)?(?: in)? (parallel|series)(?: resistors?)?", line)  # fmt: skip
    if not found or (found[1] and found[3]) or not (found[1] or found[3]):
        return None
    ohms = [parse_resistance_ohm(re.sub(r"\s|ohms?|Ω", "", x).replace("m", "M")) for x in (found[2], found[3]) if x]
    if found[1]:
        ohms *= {"2": 2, "two": 2, "3": 3, "three": 3}[found[1]]
    whole = 1.0 / sum(1.0 / x for x in ohms) if found[4] == "parallel" else sum(ohms)
    words = (
        "side by side they let more through: two make it brighter, and that is true"
        if found[4] == "parallel"
        else "one behind the other they add up"
    )
    return Told(
        f"{' and '.join(format_resistance(x) for x in ohms)} in {found[4]} are {format_resistance(whole)}",
        (words,),
        ohm=whole,
    )


def _fill(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``to fill 200 × 40 × 20``: the light windows of such a section want, and how much of a lamp that is."""
    found = re.fullmatch(rf"(?:(?:light|lamps?|leds?) )?(?:to )?fill(?: a)? {N} ?(?:mm)? ?(?:x|by) ?{N} ?(?:mm)? ?(?:x|by) ?{N} ?(?:mm)?(?: with (0402|0603|0805|1206|3528|5050|3 mm|5 mm))?", line)  # fmt: skip
    if not found:
        return None
    x, y, z = (_n(found[k]) for k in (1, 2, 3))
    if not all(3.0 <= v <= 2000.0 for v in (x, y, z)):
        raise QuickError("To fill", f"{x:g} × {y:g} × {z:g} mm", "3 to 2,000 mm each way")
    part = body_part(catalogue, "warm white", found[4] or "1206")
    area = 2.0 * (x * y + y * z + z * x) * 1e-6
    mean = LINING * (1.0 - WINDOWS) + 0.391 * WINDOWS
    beam = math.pi * part.axial_mcd * 1e-3 if part.beam_deg >= 110 else max(part.flux_lm, 0.5)
    said = []
    for look, luminance in NIGHT.cd_m2.items():
        lumens = luminance * math.pi / THROUGH * area * (1.0 - mean)
        lamps = max(math.ceil(lumens / beam - 1e-9), 1)
        amps = current_for_light(
            min(lumens / lamps / beam, 1.0), part.rated_ma * 1e-3, catalogue.families[part.family].droop
        )
        said.append(
            f"{look} ({luminance:g} cd/m²): {figure(lumens, 2)} lm, {counted(lamps, 'lamp')} at {format_current(amps)} each"
        )
    return Told(
        f"To fill {x:g} × {y:g} × {z:g} mm: {said[2].split(': ', 1)[1]} for windows as bright as a cabin's",
        tuple(said), (f"{part.name}", "two coats of flat white inside", "windows of a fiftieth of the inside, with two mist coats"),
        ("Spread two or more along it: one alone makes a bright middle.",),
    )  # fmt: skip


ROOM_LX, HULL, EYE_M = 50.0, 0.5, 0.6  # an evening room, a grey hull, an eye at arm's length


def _shape_of(line: str, catalogue: Catalogue) -> tuple[LightKind, str] | None:
    """A kind of light that a line begins with, and the rest of it."""
    for kind in sorted(catalogue.light_kinds.values(), key=lambda k: -len(k.name)):
        for name in (
            kind.name.lower(),
            kind.one.lower(),
            kind.one.lower().removesuffix(" light").removesuffix(" lamp"),
        ):
            if line == name or line.startswith(f"{name} "):
                return kind, line[len(name) :].strip()
    return None


def _purpose(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """``headlamp 1/35``, ``masthead light 1/200 on 9 V``, ``point``: what the real one gives, scaled, and the resistor for that."""
    point = re.match(r"(?:a )?(?:point|pinpoint|star)\b ?", line)
    found = None if point else _shape_of(line, catalogue)
    if point is None and found is None:
        return None
    rest = line[point.end() :] if point else found[1]  # type: ignore[index]
    more = re.fullmatch(r"(?:lights? )?(?:(?:at |in |scale )?1 ?[/:] ?(\d+(?:\.\d+)?))?(?: ?(?:with |as )?(?:an? )?(0402|0603|0805|1206|3 mm|5 mm)(?: (?:chip|led|lamp))?)?(?: ?on (.+))?", rest.strip())  # fmt: skip
    if more is None:
        return None
    taken = []
    kind = None if point else found[0]  # type: ignore[index]
    colour = "cool white" if kind is None else kind.colours[0]
    part = body_part(catalogue, colour, more[2] or "3 mm")
    if not more[2]:
        taken.append("a 3 mm lamp")
    at = _source_volts(more[3] or "9 v", catalogue)
    if not more[3]:
        taken.append("on 9 V")
    if kind is None:
        threshold = point_threshold_lx(hull_luminance(ROOM_LX, HULL)) * EYE_M**2 * 1e3
        wanted: tuple[tuple[str, float], ...] = (
            ("barely", CLEARLY * threshold),
            ("clear", STRIKING * threshold),
            ("full", part.axial_mcd),
        )
        title = f"A point seen clearly in an evening room: {figure(STRIKING * threshold, 2)} mcd"
        taken.append("a room of 50 lx, a grey hull, seen from 60 cm")
    elif kind.real_cd <= 0:
        return None
    else:
        scale = float(more[1] or 72.0)
        if not more[1]:
            taken.append("scale 1/72")
        mcd = kind.real_cd / scale**2 * 1e3
        wanted = (("true to scale", mcd), ("full", part.axial_mcd))
        title = f"{kind.one} at 1/{scale:g}: {figure(mcd, 2)} mcd, of {figure(kind.real_cd, 3)} cd on the real one"
    said = [_at_mcd(catalogue, series, part, at, name, mcd) for name, mcd in wanted]
    return Told(title, tuple(said), (part.name, *taken), ("Straight on; a lamp that washes a wall or fills a room is judged by that.",))  # fmt: skip


def _at_mcd(catalogue: Catalogue, series: str, part: LampPart, at_v: float, name: str, mcd: float) -> str:
    """The resistor with which a lamp gives so many mcd, in words."""
    family = catalogue.families[part.family]
    share, rated = mcd / part.axial_mcd, part.rated_ma * 1e-3
    amps = current_for_light(min(share, 1.0), rated, family.droop)
    ohm = shelf_of(series, catalogue.resistors).at_or_above(
        max((at_v - forward_v(junctions(catalogue, part, 1), amps)) / amps, 0.0)
    )
    given = min((at_v - forward_v(junctions(catalogue, part, 1), amps)) / ohm, rated)
    over = (
        "; more than it has: take a brighter one"
        if share > 1.0
        else "; under 0.4 mA lamps differ: try it, or a fibre, a tint or sanding"
        if amps < 4e-4
        else ""
    )
    safe = ", the usual safe value" if name == "full" else ""
    return f"{name}: {resistor_words(ohm, series)}; {format_current(given)}{safe}{over}"


def _source_volts(text: str, catalogue: Catalogue) -> float:
    """Nominal volts of a source."""
    if plain := re.fullmatch(rf"{N} ?v(?: adapter)?", text):
        return _n(plain[1])
    cells = _cells(text, catalogue)
    source = source_of(catalogue, Supply(part=cells[0].id, in_series=cells[1])) if cells is not None else None
    if source is None:
        raise QuickError("Source", f"“{text}” is no source", "“on 9 V”, “on 9 V block”, “on 2 AA”, “on USB”")
    return source.volts


def _no_mains(volts: float) -> QuickError:
    return QuickError(
        "Supply", f"no: {figure(volts)} V is not for this bench; mains and anything like it can kill, and is for the qualified under local code",
        "a certified low-voltage supply up to 24 V: “on 12 V”, “on 9 V block”, “on USB”",
    )  # fmt: skip


def refuse(line: str) -> None:
    """What is never answered without its no.

    Raises
    ------
    QuickError
        For mains, for lamps with no resistor, for cells shorted, mixed or charged that can't be.
    """
    if re.search(r"\b(?:mains|wall (?:socket|outlet)|230 ?v|240 ?v|220 ?v|110 ?v|120 ?v)\b", line):
        volts = re.search(rf"{N} ?v", line)
        raise _no_mains(_n(volts[1]) if volts else 230.0)
    told_volts = line.startswith(("read", "slip", "unknown"))  # what a meter or a slip says is no source
    if (
        not told_volts
        and (volts := re.search(r"\b(\d{2,4}) ?v(?:olts?|dc|ac)?\b", line))
        and float(volts[1]) > MOST_SAFE_V
    ):
        raise _no_mains(float(volts[1]))
    if re.search(r"\b(?:no|without(?: an?)?|skip(?: the)?) resistors?\b", line):
        raise QuickError("Resistor", "no: with no resistor only the battery's own resistance is between the lamp and too much current, and a fresh one burns it out", "the same line without that, and the value is found; a strip has its own built in")  # fmt: skip
    if re.search(r"\b(?:short(?:ing|ed)?(?: (?:a|the|out))?) (?:cells?|batter(?:y|ies)|block)\b", line):
        raise QuickError(
            "Cells",
            "no: a shorted cell gets hot, leaks or bursts",
            "a fuse by the source, and a question about the circuit",
        )
    if re.search(r"\b(?:re)?charg(?:e|ing)\b.*\b(?:alkaline|9 ?v block|block|coin|cr ?2032)\b", line):
        raise QuickError(
            "Cells",
            "no: cells that aren't made for it leak or burst when they are charged",
            "NiMH or protected Li-ion, in their own charger",
        )
    if re.search(r"\bmix(?:ing|ed)?\b.*\b(?:cells?|batter(?:y|ies))\b", line):
        raise QuickError(
            "Cells", "no: of mixed cells the weakest is driven backwards and leaks", "fresh cells of one kind together"
        )


READERS: tuple[Callable[[str, Catalogue, str], Told | None], ...] = (
    _drill,
    _bundle,
    _run_time,
    _fits,
    _wire,
    _timer,
    _strip,
    _together,
    _fill,
    _purpose,
)
LEADS = r"^(?:what(?:'s| is)?|which|please|tell me|i (?:need|want)|need|give me|calculate|find)(?: the| an?)? "


def told(line: str, catalogue: Catalogue, series: str) -> Told | None:
    """The answer to a question of the bench that is no circuit; None where it is none of those.

    Raises
    ------
    QuickError
        Where it is one, and isn't clear; and for what is dangerous.
    """
    refuse(line)
    short = re.sub(LEADS, "", line.rstrip(" ?.!"))
    for reader in READERS:
        for text in dict.fromkeys((line.rstrip(" ?.!"), short)):
            found = reader(text, catalogue, series)
            if found is not None:
                return found
    return None


def resistor_words(ohm: float, series: str) -> str:
    """A resistor's value with its bands."""
    colours = bands(ohm, series)
    return f"{format_resistance(ohm)}" + (f", {' '.join(colours)}" if colours else "")
