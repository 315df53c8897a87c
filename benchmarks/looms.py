"""Fibres and looms: grouping against the optimum, routes, packing, and a run dragged on the demo."""

from __future__ import annotations

import statistics
import time

import numpy as np

from benchmarks.circuits import median_ms
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.looms.savings import savings
from gwiazda.core.fibre.grouping import BLOCKED, Wishes, _exact, _quick, group
from gwiazda.core.loom.routes import Run, Way, route
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import load
from gwiazda.core.space.pack import _packed
from gwiazda.demos import path_of


def wishes(n: int, m: int, seed: int, face: float, unlike: int = 1) -> Wishes:
    """So many dots and lamps strewn in a hull, a tenth of the dots in groups of three."""
    rng = np.random.default_rng(seed)
    dots, lamps = rng.random((n, 3)) * [300, 60, 40], rng.random((m, 3)) * [300, 60, 40]
    together = np.full(n, -1)
    for g in range(n // 30):
        together[3 * g : 3 * g + 3] = g
    gaps = np.linalg.norm(dots[:, None] - lamps[None], axis=2)
    need = 2.0 ** rng.integers(0, unlike, n)
    return Wishes(gaps, np.ones((n, m), bool), need, np.full(n, 0.5), np.full(m, face), together, np.full(n, -1))


def network(seed: int) -> tuple[list[Way], list[Run]]:
    """300 wires of 0.5 mm over 40 passages between 16 rooms, some of them tight."""
    rng = np.random.default_rng(seed)
    rooms = [f"r{k}" for k in range(16)]
    at = {r: rng.random(3) * 200 for r in rooms}
    pairs = [(k, int(rng.integers(0, k))) for k in range(1, 16)]
    while len(pairs) < 40:
        i, j = (int(x) for x in rng.choice(16, 2, replace=False))
        pairs.append((i, j))
    ways = [
        Way(f"w{k}", rooms[i], rooms[j], tuple(((at[rooms[i]] + at[rooms[j]]) / 2).tolist()), 3.0, float(rng.choice([8.0, 20.0, 60.0])))
        for k, (i, j) in enumerate(pairs)
    ]  # fmt: skip
    runs = [
        Run(
            f"x{k}",
            rooms[int(rng.integers(1, 16))],
            "r0",
            tuple((rng.random(3) * 200).tolist()),
            (0.0, 0.0, 0.0),
            0.196,
        )
        for k in range(300)
    ]
    return ways, runs


def run(say) -> None:
    import scipy.optimize

    del scipy
    for unlike, what in ((1, "one wish"), (3, "three wishes")):
        w = wishes(1000, 40, 1, 3.2, unlike)
        found = group(w)
        took = median_ms(lambda w=w: group(w), 3)
        on = int((found.lamp >= 0).sum())
        say(
            f"looms: 1,000 dots onto 40 lamps, {what}: {took:.0f} ms (asked 1,500), {on} on, {found.fibre_mm / 1000:.1f} m"
        )
    worst = []
    for seed in range(10):
        w = wishes(44, 8, seed, 2.0)
        cost = np.where(w.allowed, w.length_mm, BLOCKED)
        best, quick = (float(w.length_mm[np.arange(44), way(cost, w)].sum()) for way in (_exact, _quick))
        worst.append(quick / best - 1.0)
    say(f"  over the milp optimum, 10 cases of 44 dots and 8 lamps: {100 * max(worst):.2f} % at worst (asked 5), {100 * statistics.mean(worst):.2f} in the mean")  # fmt: skip
    times, over = [], 0
    for seed in range(5):
        ways, runs = network(seed)
        start = time.perf_counter()
        routed = route(ways, runs)
        times.append((time.perf_counter() - start) * 1e3)
        over += sum(routed.filled_mm2[x.id] > 0.6 * x.area_mm2 + 1e-9 for x in ways)
    say(f"looms: 300 wires over 40 passages: {statistics.median(times):.0f} ms, {max(times):.0f} at most (asked 500)")
    rng = np.random.default_rng(3)
    for share in (0.6, 0.7):
        took = []
        for _ in range(9):
            thick = rng.choice([0.18, 0.28, 0.5, 0.7, 1.1], 60)
            hole = float(np.sqrt((thick**2).sum() / share))
            start = time.perf_counter()
            packing = _packed(thick / 2, hole / 2, 0.0, 1)
            took.append((time.perf_counter() - start) * 1e3)
            assert packing.fits
        say(
            f"looms: 60 mixed wires packed at {share * 100:.0f} %: {statistics.median(took):.0f} ms, {max(took):.0f} at most (asked 100)"
        )
    plan, catalogue = load(path_of()).plan, built_in()
    found = assess(plan, catalogue)
    moved = iter(edits.set_fields(plan, ["deck1.lamp.03"], at=(200.0 + 0.1 * k, 0.0, 66.0)) for k in range(1000))
    say(
        f"looms: a lamp moved on Szron, all assessed anew: {median_ms(lambda: assess(next(moved), catalogue), 15):.0f} ms"
    )
    say(f"  what joining would save, every section tried: {median_ms(lambda: savings(plan, found), 5):.0f} ms")
    _dragged(say)


def _dragged(say) -> None:
    """The way of six fibres led by hand on the plate, sixty steps a second."""
    from PySide6.QtCore import QEvent, QPointF, Qt
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtWidgets import QApplication

    from gwiazda.core.render import night
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.export.pictures import settle
    from gwiazda.desktop.shell.window import MainWindow

    make_application()
    night.load_kernel()  # the application does so as soon as its first picture is there
    window = MainWindow()
    window.document.open(path_of(), as_demo=True)
    window.show()
    window.set_station("fibre")
    window.plate.set_wipe(0.6)
    settle(window)
    window.document.select(["bridge.panel.01.dot.03"])
    window.plate.set_tool("way")
    plate, button = window.plate, Qt.MouseButton.LeftButton
    start = plate.extent.to_px(-240.0, -110.0)

    def hand(kind, at):
        QApplication.sendEvent(plate, QMouseEvent(kind, at, at, button, button, Qt.KeyboardModifier.NoModifier))

    hand(QEvent.Type.MouseButtonPress, start)
    took = []
    for k in range(120):
        begin = time.perf_counter()
        hand(QEvent.Type.MouseMove, start + QPointF(0.25 * k, 0.15 * k))
        QApplication.processEvents()
        took.append((time.perf_counter() - begin) * 1e3)
        time.sleep(max(1 / 60 - took[-1] * 1e-3, 0.0))  # as a hand and a screen would
    hand(QEvent.Type.MouseButtonRelease, start + QPointF(30.0, 18.0))
    in_time = sum(t <= 1e3 / 60 for t in took) / len(took)
    say(
        f"looms: a fibre's way dragged on Szron, all that the window does at each step: {statistics.median(took):.1f} ms"
        f" (asked 16.7), {in_time * 100:.0f} % of steps in time, {sorted(took)[-7]:.1f} for 19 of 20"
    )
    window.close()
