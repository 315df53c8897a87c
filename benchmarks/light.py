"""Light inside of sections: the solver's times, and how long a photon tracer takes to be as sure."""

from __future__ import annotations

import resource
import sys
import time
from typing import Any

import numpy as np

from benchmarks.circuits import median_ms
from benchmarks.plans import big_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.memo import Memo
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import load
from gwiazda.core.radiosity import direct as dr
from gwiazda.core.radiosity import enclosure as en
from gwiazda.core.radiosity.beams import Beams
from gwiazda.demos import path_of

BATCH = 40_000


def case() -> tuple[tuple[float, float, float], list[float], en.Windows, Beams]:
    """A deck: 30 windows in one wall, 6 lamps under its roof."""
    size = (165.0, 44.0, 19.0)
    left = np.arange(30) * 5.2 + 5.0
    windows = en.Windows(
        np.full(30, 3), np.column_stack([left, np.full(30, 8.0)]), np.column_stack([left + 3.0, np.full(30, 12.0)]), np.full(30, 0.43),
    )  # fmt: skip
    at = np.column_stack([15.0 + 27.0 * np.arange(6), np.full(6, 22.0), np.full(6, 18.0)])
    return size, [0.88] * 6, windows, Beams(at, np.tile([0.0, 0.0, -1.0], (6, 1)), np.ones(6))


def trace(size: Any, rho: float, windows: en.Windows, beams: Beams, photons: int, rng: np.random.Generator) -> Any:
    """Photons from the lamps until they are swallowed or leave by a window; lumens on each window, lamps of 1/6 lm.

    In NumPy, a batch of photons bounce by bounce: every wall diffuse, windows throw ``back`` back and swallow the rest.
    """
    box = np.array(size)
    arrived = np.zeros(len(windows.face))
    for _ in range(photons // BATCH):
        lamp = rng.integers(0, len(beams.order), BATCH)
        place = beams.at[lamp].copy()
        u, turn = rng.random(BATCH), rng.random(BATCH) * 2 * np.pi
        cos = u ** (1.0 / (beams.order[0] + 1.0))
        sin = np.sqrt(1.0 - cos**2)
        # All look down here.
        way = np.column_stack([sin * np.cos(turn), sin * np.sin(turn), -cos])
        weight = np.ones(BATCH)
        for _ in range(60):
            with np.errstate(divide="ignore", invalid="ignore"):
                t = np.where(way > 0, (box - place) / way, -place / way)
            t = np.where(np.isfinite(t) & (t > 1e-9), t, np.inf)
            axis = t.argmin(axis=1)
            rows = np.arange(len(place))
            place = np.clip(place + way * t[rows, axis][:, None], 0.0, box)
            face = 2 * axis + (way[rows, axis] > 0)
            back = np.full(len(place), rho)
            on = face == 3
            if on.any():
                x, z = place[on, 0][:, None], place[on, 2][:, None]
                hit = (
                    (x >= windows.low[:, 0])
                    & (x <= windows.high[:, 0])
                    & (z >= windows.low[:, 1])
                    & (z <= windows.high[:, 1])
                )
                which = np.where(hit.any(axis=1), hit.argmax(axis=1), -1)
                seen = which >= 0
                np.add.at(arrived, which[seen], weight[on][seen])
                there = back[on]
                there[seen] = windows.back[0]
                back[on] = there
            weight = weight * back
            alive = weight > 1e-3
            if not alive.any():
                break
            place, face, weight, axis = place[alive], face[alive], weight[alive], axis[alive]
            n = len(place)
            cos, turn = np.sqrt(rng.random(n)), rng.random(n) * 2 * np.pi
            sin = np.sqrt(1.0 - cos**2)
            way = np.empty((n, 3))
            rows = np.arange(n)
            way[rows, axis] = np.where(face % 2 == 1, -cos, cos)
            way[rows, (axis + 1) % 3], way[rows, (axis + 2) % 3] = sin * np.cos(turn), sin * np.sin(turn)
    return arrived / (photons // BATCH * BATCH)


def forget() -> None:
    """Clear all that the core remembers."""
    for name, module in list(sys.modules.items()):
        if name.startswith("gwiazda.core"):
            for value in vars(module).values():
                if isinstance(value, Memo):
                    value.clear()


def run(say: Any) -> None:
    size, lining, windows, beams = case()
    area = (windows.high - windows.low).prod(axis=1) * 1e-6
    scratch = median_ms(lambda: dr.lit(en.enclosure(size, lining, windows), beams), 15)
    box = en.enclosure(size, lining, windows)
    moved = median_ms(lambda: dr.lit(box, beams), 30)
    say(
        f"a section of {len(box.area)} cells, 30 windows, 6 lamps: from scratch {scratch:.1f} ms (asked 30), lamps moved {moved:.1f} ms (asked 5)"
    )
    ours = dr.lit(box, beams)[0].mean(axis=1) * area
    rng = np.random.default_rng(1)
    photons, runs = 400_000, 5
    start = time.perf_counter()
    answers = np.array([trace(size, 0.88, windows, beams, photons, rng) for _ in range(runs)])
    each = (time.perf_counter() - start) / runs
    mean = answers.mean(axis=0)
    # Our error against a long run, but no smaller than that run's own; the tracer's scatter falls with the root of photons.
    scatter = float((answers.std(axis=0, ddof=1) / mean).mean())
    sure = scatter / np.sqrt(runs)
    error = max(float(np.abs(ours / mean - 1.0).mean()), sure)
    as_sure = each * (scatter / error) ** 2
    say(
        f"  mean error {error * 100:.2f} %; a photon tracer in NumPy takes {as_sure:.1f} s to scatter no more: "
        f"{as_sure * 1e3 / scratch:.0f} x as long (asked 100)"
    )  # fmt: skip
    plan = load(path_of()).plan
    assess(load(path_of("perkoz")).plan, built_in())

    def cold() -> None:
        forget()
        fresh = edits.set_fields(plan, [s.id for s in plan.sections], wall_mm=1.2)
        assess(fresh, built_in())

    say(f"the whole demo, cold: {median_ms(cold, 7):.0f} ms (asked 150)")
    large = big_plan(lamps=1984)
    start = time.perf_counter()
    assess(large, built_in())
    took = time.perf_counter() - start
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    say(
        f"the large plan (64 sections, 4,992 windows, 1,984 lamps), cold: {took:.1f} s, memory {peak:.0f} MB (asked 900)"
    )
