"""The log read: its readings for a diagnosis, what was predicted beside what was found, sums, a search."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple, cast

from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import LogEntry, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current
from gwiazda.core.workbench.hypotheses import Bench, Measurement, What, sigma_of

LOOKS = {0.0: "dark", 0.5: "dim", 1.0: "as it should", 2.0: "too bright"}
NEAR_MM = 100.0  # before a bare lamp, where its light is read
LIGHT_SIGMA = math.hypot(0.2, 0.1)  # of a logarithm: the lamp's own flux, and the reading
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


def beside(plan: Plan, benches: Sequence[Bench], assessment: Assessment) -> tuple[Beside, ...]:
    """The readings that count, each with what a sound circuit and its light would show."""
    out = []
    for e in plan.log:
        if e.kind != "reading" or e.settled or not e.what or e.value is None:
            continue
        if e.what in ("lux", "cd_m2"):
            light = light_said(assessment, e.what, e.place)
            off = abs(math.log(max(e.value, 1e-9) / light)) / LIGHT_SIGMA if light else 0.0
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
