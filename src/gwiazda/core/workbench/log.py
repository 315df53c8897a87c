"""The log read: its readings for a diagnosis, what was predicted beside what was found, sums, a search."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, NamedTuple, cast

from gwiazda.core.assess.known import makes_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import point_sigma
from gwiazda.core.plan.model import LogEntry, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current
from gwiazda.core.workbench.hypotheses import Bench, Measurement, What, sigma_of

LOOKS = {0.0: "dark", 0.5: "dim", 1.0: "as it should", 2.0: "too bright"}
NEAR_MM = 100.0  # before a bare lamp, where its light is read
LUX, LUMINANCE = 0.10, 0.08  # one sigma of a reading's logarithm: by a meter held there by hand
CIRCUIT = ("volts", "amps", "lit")  # what is read of a circuit; the rest is of its light
FAR = 2.0  # sigma: from here on a reading is off


class Beside(NamedTuple):
    """A reading with what was predicted, and how far it is off (σ; 0 for a look that agrees)."""

    entry: LogEntry
    predicted: float | None
    off: float

    @property
    def agrees(self) -> bool:
        return self.predicted is None or self.off < FAR


def readings_of(plan: Plan) -> tuple[Measurement, ...]:
    """The readings of the circuit that count now, the last of each place."""
    last = {
        (e.what, e.place): Measurement(cast(What, e.what), e.place, float(e.value or 0.0))
        for e in plan.log
        if e.kind == "reading" and not e.settled and e.what in CIRCUIT
    }
    return tuple(last.values())


def light_said(assessment: Assessment, what: str, place: str) -> float | None:
    """What is predicted where light is read: lx before a lamp on its axis, cd/m² of an opening; None for what shows none."""
    if what == "lux":
        lamp = assessment.lamps.get(place)
        return lamp.axial_cd / (NEAR_MM * 1e-3) ** 2 if lamp is not None else None
    opening = assessment.openings.get(place)
    return opening.luminance_cd_m2 if opening is not None else None


def times_house(assessment: Assessment, what: str, place: str) -> float:
    """How many times the house's figure what is predicted is, by what was learned of it: of a lamp's light, or an opening's luminance."""
    known = assessment.catalogue.known

    def shift(kind: str, of: str) -> float:
        found = known.get((kind, of))
        return found.shift if found is not None else 0.0

    if not known:
        return 1.0
    lamp = assessment.lamps.get(place)
    if what == "lux":
        return math.exp(shift("light", lamp.part) + shift("lamp", place)) if lamp is not None else 1.0
    opening = assessment.openings.get(place)
    if opening is None:
        return 1.0
    mine = [x for x in assessment.lamps.values() if x.section == opening.section and x.flux_lm > 0]
    own = [math.exp(shift("light", x.part) + shift("lamp", x.id)) for x in mine]
    # Light adds: each lamp counts by what it would give without what was learned of it.
    plain = math.fsum(x.flux_lm / f for x, f in zip(mine, own, strict=True))
    lamps = math.fsum(x.flux_lm for x in mine) / plain if plain > 0 else 1.0
    return lamps * math.exp(shift("lining", opening.section) + shift("glazing", opening.section) + shift("pane", place))


def read_on(plan: Plan, assessment: Assessment, what: str, place: str) -> dict[str, Any]:
    """What a reading of light is kept with: what the house predicted, and what it was read on; nothing for other readings."""
    said = light_said(assessment, what, place) if what in ("lux", "cd_m2") else None
    if said is None:
        return {}
    opening = assessment.openings.get(place)
    makes = makes_of(plan.sections, plan.lamps)
    make = makes.get(opening.section if opening is not None else place, "")
    return {"said": said / times_house(assessment, what, place), "make": make}


def _sigma_of_light(assessment: Assessment, what: str, place: str) -> float:
    """One sigma of a reading of light against what is predicted there: as sure as that is, and the meter."""
    if what == "lux":
        return math.hypot(point_sigma(assessment.catalogue, assessment.lamps[place]), LUX)
    return math.hypot(assessment.openings[place].sigma, LUMINANCE)


def beside(plan: Plan, benches: Sequence[Bench], assessment: Assessment) -> tuple[Beside, ...]:
    """The readings that count, each with what a sound circuit and its light would show."""
    out = []
    for e in plan.log:
        if e.kind != "reading" or e.settled or not e.what or e.value is None:
            continue
        if e.what in ("lux", "cd_m2"):
            light = light_said(assessment, e.what, e.place)
            if light and e.said:  # what the house said then, as it is known now: the resistor may be another meanwhile
                light = e.said * times_house(assessment, e.what, e.place)
            off = (
                abs(math.log(max(e.value, 1e-9) / light)) / _sigma_of_light(assessment, e.what, e.place)
                if light
                else 0.0
            )
            out.append(Beside(e, light, off))
            continue
        bench = next((b for b in benches if e.place in b.ends or e.place in b.lamps), None)
        if (
            bench is None
            or (e.what == "lit" and e.place not in bench.lamps)
            or (e.what == "amps" and e.place not in (*bench.lamps, *bench.resistors, bench.feed))
        ):
            out.append(Beside(e, None, 0.0))
            continue
        what = cast(What, e.what)
        said = float(bench.predicted(what, e.place)[0])
        off = (
            (0.0 if abs(said - e.value) < 0.25 else 9.0)
            if e.what == "lit"
            else abs(e.value - said) / float(sigma_of(what, said))
        )
        out.append(Beside(e, said, off))
    return tuple(out)


def words_of(plan: Plan, entry: LogEntry) -> str:
    """An entry in one line."""
    if entry.kind == "reading":
        value, place = entry.value or 0.0, name_of(plan, entry.place)
        said = {"volts": f"{figure(value)} V over {place}", "amps": f"{format_current(value)} through {place}",
                "lit": f"{place} looks {LOOKS.get(value, figure(value))}", "lux": f"{figure(value)} lx {NEAR_MM:.0f} mm before {place}",
                "cd_m2": f"{figure(value)} cd/m² of {place}"}[entry.what or "lit"]  # fmt: skip
        return said + (f": {entry.text}" if entry.text else "")
    amount = ""
    if entry.value is not None:
        amount = figure(entry.value) + {"hours": " h: ", "coat": " coats: "}.get(entry.kind, ": ")
    return f"{amount}{entry.text or ('a photo' if entry.photo else '')}"


def search(plan: Plan, words: str) -> tuple[LogEntry, ...]:
    """Entries with all of these words in them, newest first."""
    wanted = words.lower().split()
    names = {s.id: s.name for s in plan.sections}
    out = []
    for e in reversed(plan.log):
        text = " ".join((e.at, e.kind, words_of(plan, e), names.get(e.section, ""), e.section, e.lamp, e.step)).lower()
        if all(w in text for w in wanted):
            out.append(e)
    return tuple(out)


def sums(plan: Plan) -> tuple[float, float]:
    """Hours and cost that were noted."""
    return tuple(sum(e.value or 0.0 for e in plan.log if e.kind == k) for k in ("hours", "cost"))  # type: ignore[return-value]
