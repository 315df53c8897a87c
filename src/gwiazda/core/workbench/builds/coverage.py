"""How many of a plan's virtual builds fall within what is said of it, by kind of figure, and how wide that is.

What a build comes to is worked out by the same computation as the plan, both on fewer cells and without wires and fibres, which stay as they are; what it
comes to over the plan so is laid over what the plan says. A tip gives as much more as its lamp does, and as its fibre is seated.
"""

from __future__ import annotations

import math
import os
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.bands import KINDS, Band, Kind, bands_of
from gwiazda.core.assess.sight.dusk import looked_at
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.uncertainty import Z95
from gwiazda.core.errors import StoppedError
from gwiazda.core.light.dusk import Seen, until_lx
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.parts.spreads import COUPLED
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.workbench.builds.truths import Builder
from gwiazda.core.workbench.soldered import as_built

CELLS = (80, 120, 200, 300, 420)  # of a section in a build: the fewest on which the sound one is told as the plan is
ALIKE = 0.065  # how far a section's mean may be off for that
AIM, WITHIN, CHANCE = (
    0.90,
    0.03,
    2.0,
)  # nine in ten, give or take three in a hundred, and two standard errors of the count
MOST_BUILDS = 100_000
CHUNK = 10  # builds worked out in one go by one of the processes
METER = {
    "section": 0.03,
    "window": 0.03,
    "point": 0.03,
    "tip": 0.03,
    "leak": 0.03,
    "evenness": 0.03,
    "dusk": 0.0,
    "draw": 0.0075,
    "hours": 0.0,
}  # one sigma of a reading
Progress = Callable[[float], bool]
Figures = dict[tuple[str, str], float]


class Coverage(NamedTuple):
    """Of a kind of figure: how many figures were read how often, the share that fell within, below and above; the median width of what is said."""

    kind: Kind
    figures: int
    readings: int
    inside: float
    below: float
    above: float
    width: float


class Verdict(NamedTuple):
    """What builds of a plan come to: by kind, and how many of the sigmas that are said each figure came out off (builds, figures)."""

    name: str
    builds: int
    seed: int
    kinds: tuple[Coverage, ...]
    strayed: Mapping[Kind, np.ndarray]

    def inside(self, kind: Kind, sigmas: float) -> float:
        """The share of a kind's figures that came out no further off."""
        off = np.abs(self.strayed[kind])
        return float((off[~np.isnan(off)] <= sigmas).mean())

    @property
    def off(self) -> tuple[Coverage, ...]:
        """Kinds of figures of which fewer or more than 87 to 93 in a hundred fall within, beyond what chance does to so many builds."""
        chance = CHANCE * math.sqrt(AIM * (1.0 - AIM) / max(self.builds, 1))
        return tuple(c for c in self.kinds if abs(c.inside - AIM) > WITHIN + chance)


def bare(plan: Plan) -> Plan:
    """A plan without wires' ways and fibres."""
    return copy_unchecked(plan, passages=(), hubs=(), leads=(), dots=(), bundles=(), panels=(), learned=())


def figures_of(plan: Plan, assessment: Assessment) -> Figures:
    """The figures of an assessed plan that have bands, without those of dusk."""
    return {(b.kind, b.of): b.value for b in bands_of(plan, assessment, dusk=False)}


class Given(NamedTuple):
    """What of a plan its builds are laid over: the lamp of each tip, and each light as an eye sees it."""

    tips: Mapping[str, str]
    seen: Mapping[str, Seen]

    @staticmethod
    def by(plan: Plan, assessment: Assessment) -> Given:
        """Of a plan and it assessed."""
        return Given(
            {t.id: t.lamp for t in assessment.tips.values()}, {x.of: x.seen for x in looked_at(plan, assessment)}
        )


class Site:
    """Where builds of one plan are made: as it is soldered, on so many cells."""

    def __init__(self, built: Plan, catalogue: Catalogue, seed: int, cells: int) -> None:
        self.builder, self.seed, self.cells = Builder(built, catalogue, seed), seed, cells
        sound = self.builder.sound()
        self.reference = assess(sound.plan, sound.catalogue, cells)
        self.figures = figures_of(sound.plan, self.reference)
        self.leaks = {x.id: x.times for x in self.reference.leaks}
        self.lamps = {i: x.axial_cd for i, x in self.reference.lamps.items()}
        self.seen = {x.of: x.seen for x in looked_at(sound.plan, self.reference)}

    def alike(self, fine: Assessment) -> bool:
        """Whether the sound build is told as the plan is."""
        means = [(s.mean_cd_m2, self.reference.sections[i].mean_cd_m2) for i, s in fine.sections.items()]
        return all(abs(few - many) <= ALIKE * many for many, few in means)

    def ratios(self, number: int, bands: tuple[Band, ...], given: Given, read: bool = True) -> list[float]:
        """What a build comes to over the plan, figure by figure, as a meter reads it or as it is; NaN where it has none."""
        truth = self.builder.build(number)
        found = assess(truth.plan, truth.catalogue, self.cells)
        values = figures_of(truth.plan, found)
        leaks = {x.id: x.times for x in found.leaks}
        seen = {x.of: x.seen for x in looked_at(truth.plan, found)} if any(b.kind == "dusk" for b in bands) else {}
        seats = np.random.default_rng([self.seed, number, 1])
        out = []
        for b in bands:
            seat = math.exp(COUPLED * float(seats.standard_normal())) if b.kind == "tip" else 1.0
            before: float | None = self.figures.get((b.kind, b.of))
            after: float | None = values.get((b.kind, b.of))
            if b.kind == "leak":
                before, after = self.leaks.get(b.of), leaks.get(b.of)
            elif b.kind == "tip":
                lamp = given.tips[b.of]
                before = self.lamps.get(lamp)
                after = found.lamps[lamp].axial_cd * seat if lamp in found.lamps else None
            elif b.kind == "dusk":
                before, after = b.value, self._dusk(given.seen.get(b.of), seen.get(b.of), b.of)
            reading = math.exp(read * METER[b.kind] * float(seats.standard_normal()))
            out.append(after * reading / before if before and after is not None else math.nan)
        return out

    def _dusk(self, fine: Seen | None, built: Seen | None, of: str) -> float | None:
        """Until which light a build's light shows: what it changed of it laid over what the plan says, as so little decides it."""
        sound = self.seen.get(of)
        if fine is None or built is None or sound is None or fine.shape != built.shape or not sound.value > 0.0:
            return None
        return until_lx(
            fine._replace(
                value=fine.value * built.value / sound.value,
                unlit=min(fine.unlit * (built.unlit / sound.unlit if sound.unlit > 0 else 1.0), 1.0),
                hull=min(fine.hull * (built.hull / sound.hull if sound.hull > 0 else 1.0), 1.0),
            ),
            1,
        )


Of = tuple[Plan, int, int]  # a plan as it is soldered, the seed, into how many cells
_site: Site | None = None


def _ready() -> None:
    """A process that has loaded what it needs."""


def _some(of: Of, numbers: range, bands: tuple[Band, ...], given: Given) -> list[list[float]]:
    """Builds in a process of their own, which keeps where they are made from one chunk to the next."""
    global _site
    if _site is None:  # one pool builds one plan
        built, seed, cells = of
        _site = Site(built, built_in(), seed, cells)
    return [_site.ratios(k, bands, given) for k in numbers]


def verify_builds(
    name: str, plan: Plan, catalogue: Catalogue, builds: int = 200, seed: int = 1, progress: Progress = lambda share: True, workers: int | None = None,
) -> Verdict:  # fmt: skip
    """Build a plan many times over, and count what falls within what is said.

    Parameters
    ----------
    name : str
        What the plan is called.
    plan, catalogue
        The plan and its parts.
    builds : int
        How many.
    seed : int
        Of the draws; the same seed gives the same builds.
    progress : callable
        Told the share that is done; False stops it.
    workers : int, optional
        Processes; as many as the machine has cores. 0: none but this one.

    Returns
    -------
    Verdict
        The shares by kind of figure.

    Raises
    ------
    StoppedError
        Where ``progress`` says so.
    """
    plan, catalogue = copy_unchecked(plan, learned=()), catalogue.unread
    chunks = [range(k, min(k + CHUNK, builds)) for k in range(0, builds, CHUNK)]
    count = min(os.cpu_count() or 1, len(chunks)) if workers is None else workers
    if catalogue is not built_in():
        count = 1  # one's own parts don't go to another process
    # A process of its own begins anew: one that is forked from a window would have its threads' locks, and not its threads. They load meanwhile.
    pool = ProcessPoolExecutor(count, get_context("spawn")) if count > 1 else None
    try:
        for _ in range(count if pool is not None else 0):
            pool.submit(_ready)  # type: ignore[union-attr]
        assessment = assess(plan, catalogue)
        bands, given = tuple(bands_of(plan, assessment)), Given.by(plan, assessment)
        built = as_built(bare(plan), assessment)
        cells = cells_of(built, catalogue, seed, assessment)
        rows: list[list[float]] = []
        for part in _in_turn(pool, chunks, catalogue, (built, seed, cells), bands, given):
            rows += part
            if not progress(len(rows) / builds):
                raise StoppedError
    finally:
        if pool is not None:
            pool.shutdown(wait=False, cancel_futures=True)
    return _counted(name, builds, seed, bands, np.array(rows, dtype=float).reshape(len(rows), len(bands)))


def cells_of(built: Plan, catalogue: Catalogue, seed: int, assessment: Assessment) -> int:
    """Into how few cells a plan's builds may be cut."""
    return next((c for c in CELLS[:-1] if Site(built, catalogue, seed, c).alike(assessment)), CELLS[-1])


def _in_turn(
    pool: ProcessPoolExecutor | None, chunks: list[range], catalogue: Catalogue, of: Of, bands: tuple[Band, ...], given: Given
) -> Iterator[list[list[float]]]:  # fmt: skip
    """The chunks in their order, by several processes where there are some."""
    if pool is None:
        site = Site(of[0], catalogue, *of[1:])
        for numbers in chunks:
            yield [site.ratios(k, bands, given) for k in numbers]
        return
    for done in [pool.submit(_some, of, numbers, bands, given) for numbers in chunks]:
        yield done.result()


def _counted(name: str, builds: int, seed: int, bands: tuple[Band, ...], ratios: np.ndarray) -> Verdict:
    # A meter strays as well: what it will read falls within a band that is wider by that. Bands lie about their own middle, not about the plan's figure.
    ends = np.log([[b.low, b.high] for b in bands]).reshape(-1, 2)
    meter = np.array([METER[b.kind] for b in bands])
    half = Z95 * np.hypot((ends[:, 1] - ends[:, 0]) / 2.0 / Z95, meter)
    with np.errstate(divide="ignore"):
        read = np.log(ratios) + np.log([b.value for b in bands])
    return counted_of(name, builds, seed, bands, (read - ends.mean(axis=1)) / half, np.array([b.width for b in bands]))


def counted_of(
    name: str, builds: int, seed: int, bands: tuple[Band, ...], off: np.ndarray, widths: np.ndarray
) -> Verdict:
    """How many figures fell within: ``off`` (builds, figures) in half bands, ``widths`` (figures,) of what is said."""
    kinds, kept = [], {}
    for kind in KINDS:
        mine = [k for k, b in enumerate(bands) if b.kind == kind]
        if not mine:
            continue
        here = off[:, mine]
        readings = int((~np.isnan(here)).sum())
        if not readings:
            continue
        below, above = float((here < -1.0).sum()) / readings, float((here > 1.0).sum()) / readings
        kept[kind] = here * Z95
        kinds.append(
            Coverage(
                kind, len(mine), readings, 1.0 - below - above, below, above, float(np.median(widths[mine]))
            )
        )  # fmt: skip
    return Verdict(name, builds, seed, tuple(kinds), kept)


def table_of(verdict: Verdict) -> str:
    """A verdict as a table in words."""
    lines = [
        f"{verdict.name}: {verdict.builds} builds, seed {verdict.seed}",
        "  figure     figures   inside   below   above   width",
    ]
    lines += [
        f"  {c.kind:<9} {c.figures:>8} {c.inside * 100:>7.1f}% {c.below * 100:>6.1f}% {c.above * 100:>6.1f}% {c.width * 100:>6.0f}%"
        for c in verdict.kinds
    ]
    return "\n".join(lines)
