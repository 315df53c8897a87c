"""The build laid into evenings, and faults found from readings."""

from __future__ import annotations

import time

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.build.progress import calendar_of
from gwiazda.core.assess.build.steps import steps_of
from gwiazda.core.build.evenings import evenings, laid
from gwiazda.core.build.graph import Task
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import load
from gwiazda.core.workbench.diagnosis import benches_of
from gwiazda.core.workbench.practice import trials
from gwiazda.demos import path_of

TRIALS = 500


def run(say) -> None:
    catalogue = built_in()
    plan = load(path_of("szron")).plan
    found = assess(plan, catalogue)
    again = edits.set_kit(plan, name="once more")
    begun = time.perf_counter()
    steps = steps_of(catalogue, again)
    calendar_of(again, steps, "2026-11-26")
    took = (time.perf_counter() - begun) * 1e3
    say(f"build: {len(steps)} steps of Szron and their evenings   {took:.0f} ms   (asked: 100)")
    tasks = [Task(f"s{k}", 11, (k % 4) * 240, tuple(f"s{j}" for j in (k - 3, k - 40) if j >= 0)) for k in range(5000)]
    begun = time.perf_counter()
    laid(tasks, evenings((True,) * 7, 19.0, 2.0))
    say(f"build: 5,000 steps into evenings   {time.perf_counter() - begun:.2f} s   (asked: 2)")
    bench = benches_of(plan, found)[0]
    singles = [k for k, h in enumerate(bench.hypotheses) if h]
    bench = bench.with_doubles(singles[:40])
    begun = time.perf_counter()
    bench._solve()
    took = time.perf_counter() - begun
    say(
        f"bench: {len(bench.hypotheses)} hypotheses over {len(bench.lamps)} lamps solved   {took:.2f} s   (asked: 1,000 in 1)"
    )
    benches_of.clear()
    begun = time.perf_counter()
    done = trials(plan, found, TRIALS)
    share = sum(t.found for t in done) / len(done)
    say(
        f"bench: {TRIALS} hidden faults, among the first three after three readings   {share * 100:.1f} %   (asked: 90; {time.perf_counter() - begun:.0f} s)"
    )
