"""The build laid into evenings, and faults found from readings."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from gwiazda.core.assess.assembly.progress import calendar_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.reach.during import moment
from gwiazda.core.assess.reach.reached import spots_of
from gwiazda.core.assess.show.protoboards import resistor_boards
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import load
from gwiazda.core.protoboard.place import laid_out
from gwiazda.core.schedule.evenings import evenings, laid
from gwiazda.core.schedule.graph import Task
from gwiazda.core.starter.forms import Sizes
from gwiazda.core.starter.start import start
from gwiazda.core.workbench.diagnosis import benches_of, diagnose
from gwiazda.core.workbench.hypotheses import Measurement
from gwiazda.core.workbench.photo.camera import trial
from gwiazda.core.workbench.practice import trials
from gwiazda.demos import path_of

TRIALS, FEW = 500, 60
PICTURES, LEAKS = 10, 4


def run(say) -> None:
    catalogue = built_in()
    plan = load(path_of("szron")).plan
    assessment = assess(plan, catalogue)
    again = edits.set_kit(plan, name="once more")
    begun = time.perf_counter()
    steps = steps_of(catalogue, again)
    calendar_of(again, steps, "2026-11-26")
    took = (time.perf_counter() - begun) * 1e3
    say(f"build: {len(steps)} steps of Szron into sessions and evenings   {took:.0f} ms   (asked: 100)")
    begun = time.perf_counter()
    for k in range(len(steps)):
        moment(again, assessment, steps, {s.key for s in steps[:k]})
    took = (time.perf_counter() - begun) * 1e3
    say(
        f"build: reach of all {len(spots_of(again, assessment))} lamps and joints of Szron over all steps   {took:.0f} ms   (asked: 300)"
    )
    board = tuple(resistor_boards(edits.set_loom(plan, resistors="strip board"), assessment))
    begun = time.perf_counter()
    found = [laid_out(b.components, b.kind) for b in board]
    say(
        f"boards: {sum(len(x.placed) for x in found)} parts and wires of Szron's resistors on {len(found)} boards   {time.perf_counter() - begun:.1f} s"
    )
    tasks = [Task(f"s{k}", 11, (k % 4) * 240, tuple(f"s{j}" for j in (k - 3, k - 40) if j >= 0)) for k in range(5000)]
    begun = time.perf_counter()
    laid(tasks, evenings((True,) * 7, 19.0, 2.0))
    say(f"build: 5,000 steps into evenings   {time.perf_counter() - begun:.2f} s   (asked: 2)")
    bench = benches_of(plan, assessment)[0]
    singles = [k for k, h in enumerate(bench.hypotheses) if h]
    bench = bench.with_doubles(singles[:40])
    begun = time.perf_counter()
    bench.solved(bench.hypotheses)
    took = time.perf_counter() - begun
    say(
        f"bench: {len(bench.hypotheses)} hypotheses over {len(bench.lamps)} lamps solved   {took:.2f} s   (asked: 1,000 in 1)"
    )
    benches_of.clear()
    for name in ("szron", "bryla"):
        _whole(say, name)
    begun = time.perf_counter()
    started = start(catalogue, Sizes("ship", 1200.0, 5, 40, 200.0, "")).plan
    say(
        f"starter: a ship of 1.2 m, {len(started.openings)} windows, {len(started.lamps)} lamps   {time.perf_counter() - begun:.1f} s   (asked: 3)"
    )
    begun = time.perf_counter()
    done = trials(plan, assessment, TRIALS)
    share = sum(t.found for t in done) / len(done)
    say(
        f"bench: {TRIALS} hidden faults, among the first three after three readings   {share * 100:.1f} %   (asked: 90; {time.perf_counter() - begun:.0f} s)"
    )
    bryla = load(path_of("bryla")).plan
    few = trials(bryla, assess(bryla, catalogue), FEW)
    say(f"bench: {FEW} hidden faults of Bryla   {sum(t.found for t in few) / FEW * 100:.0f} %")
    begun = time.perf_counter()
    read = trial(plan, assessment, "port", PICTURES, LEAKS)
    took = (time.perf_counter() - begun) / PICTURES
    say(
        f"photo: {PICTURES} simulated photos of Szron, {read.openings} openings within {read.worst * 100:.0f} %   (asked: 10); "
        f"{read.found} of {read.planted} leaks, {read.false} false   (asked: 9 of 10, 1); {took:.1f} s each with taking it"
    )
    with tempfile.TemporaryDirectory() as folder:
        begun = time.perf_counter()
        subprocess.run(
            [sys.executable, "-m", "gwiazda", "sheets", str(path_of("szron")), "--book", str(Path(folder) / "b.pdf")], check=True,
            env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}, stdout=subprocess.DEVNULL,
        )  # fmt: skip
        say(
            f"sheets: bench book of Szron, start of the program included   {time.perf_counter() - begun:.1f} s   (asked: 4)"
        )


def _whole(say, name: str) -> None:
    """A whole diagnosis, as the window asks for it: the first of a plan, and one more with a meter's reading."""
    plan = load(path_of(name)).plan
    assessment = assess(plan, built_in())
    benches_of.clear()
    begun = time.perf_counter()
    first = diagnose(plan, assessment, ())
    bench = benches_of(plan, assessment)[0]
    after = time.perf_counter()
    lamp = next(iter(bench.lamps))
    diagnose(plan, assessment, (Measurement("lit", lamp, 0.0), Measurement("volts", lamp, 0.0)))
    say(
        f"bench: {name}, {len(bench.hypotheses)} hypotheses, the first diagnosis   {after - begun:.2f} s, with a lamp dark and a voltage   "
        f"{time.perf_counter() - after:.2f} s   ({len(first.next)} measurements proposed; asked: 0.5)"
    )
