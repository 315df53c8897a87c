"""The plate on a large plan: 5,000 openings and 2,000 lamps; and a row of 200 windows on the demo."""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

import numpy as np
from PySide6.QtCore import QEventLoop, QPointF, Qt
from PySide6.QtWidgets import QApplication

from benchmarks.circuits import median_ms
from benchmarks.night import away, window_on
from benchmarks.plans import big_plan
from gwiazda.core.assess.view_index import hit
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render import night as night_core
from gwiazda.desktop.shell.export.pictures import settle


def wait_for(window, plan) -> None:
    while window.plate.night.shot is None or window.plate.night.shot.plan is not plan:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    window.plate.repaint()


def run(say) -> None:
    sys.setswitchinterval(0.001)
    night_core.load_kernel()
    plan = big_plan(lamps=1984)
    path = Path(tempfile.mkdtemp()) / "large.gwiazda"
    storage.save(PlanFile(plan), path)
    say(
        f"large plan, {len(plan.openings)} openings, {len(plan.lamps)} lamps: loading {median_ms(lambda: storage.load(path), 5):.0f} ms (asked 600)"
    )
    window = window_on(PlanFile(plan))
    plate, document = window.plate, window.document
    plate.set_wipe(0.6)
    settle(window)
    rng = np.random.default_rng(2)
    places = [(float(x), float(-z)) for x, z in zip(rng.uniform(-1000, 0, 200), rng.uniform(0, 350, 200), strict=True)]
    start = time.perf_counter()
    for x, y in places:
        hit(built_in(), plan, "port", x, y, 2.0)
    say(f"  hit test {(time.perf_counter() - start) / len(places) * 1e3:.2f} ms (asked 1)")

    def pan() -> None:
        plate._set_window(plate.extent.panned(3, 1))
        plate.repaint()

    say(f"  a step of panning {median_ms(pan, 30):.1f} ms (asked 16.7)")
    say(f"  a step of zoom {median_ms(lambda: (plate.zoom(1.02), plate.repaint()), 20):.1f} ms (asked 35)")
    plate.fit_view()
    settle(window)
    document.select([plan.lamps[40].id])
    settle(window)
    tool = plate.tools["pick"]
    at = plate.extent.to_px(-plan.lamps[40].at[0], -plan.lamps[40].at[2])
    tool.press(QPointF(at), Qt.KeyboardModifier.NoModifier)
    times = []
    for i in range(30):
        start = time.perf_counter()
        tool.move(QPointF(at) + QPointF(6 + i, 4), Qt.KeyboardModifier.NoModifier)
        plate.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    tool.cancel()
    settle(window)
    say(f"  a step of dragging a lamp, on the plate {np.median(times):.1f} ms (asked 16.7)")
    times = []
    for i in range(8):
        after = edits.move(document.plan, [plan.lamps[40].id], (0.5 if i % 2 else -0.5, 0, 0))
        start = time.perf_counter()
        document.preview(after)
        wait_for(window, after)
        times.append((time.perf_counter() - start) * 1e3)
    document.revert()
    say(f"  one edit assessed and shown {np.median(times):.0f} ms (asked 100)")
    away(window)
    window = window_on()
    document = window.document
    section = next(s for s in document.plan.sections if s.id == "hull")
    times = []
    for i in range(6):
        start = time.perf_counter()
        document.edit("row", lambda p, z=12 + i: edits.add_row(p, section, "port", (50, z), (320, z), 200)[0])
        wait_for(window, document.plan)
        window.drawer.repaint()
        times.append((time.perf_counter() - start) * 1e3)
        document.undo()
        settle(window)
    say(f"a row of 200 windows on the demo, to everything updated: {np.median(times):.0f} ms (asked 80)")
    away(window)
