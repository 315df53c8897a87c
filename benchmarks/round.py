"""Walking round the model: turning, at rest, without the kernel, a lamp moved, the large plan; and against NumPy."""

from __future__ import annotations

import resource
import time

import numpy as np
from PySide6.QtCore import QEventLoop
from PySide6.QtWidgets import QApplication

from benchmarks.circuits import median_ms
from benchmarks.plans import big_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.around import eye_for, looked_at
from gwiazda.core.assess.night.shine import lights_of
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render import night as night_core
from gwiazda.core.render import round as core_round
from gwiazda.demos import path_of
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow

FRAMES = 20


def _until(done) -> None:
    while not done():
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)


def turning_ms(window) -> float:
    """A step of the mouse to its picture on the screen; median ms."""
    view, times = window.plate.round, []
    for k in range(FRAMES):
        before, start = view.frame, time.perf_counter()
        view.turn(3.0 if k % 2 else -3.0, 0.0, moving=True)
        _until(lambda before=before: view.frame is not before)
        view.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    _until(lambda: view.idle)
    settle(window)
    return float(np.median(times[3:]))


def sharp_ms(window) -> float:
    """A key to the sharp picture; median ms."""
    view, times = window.plate.round, []
    for k in range(8):
        start = time.perf_counter()
        view.look_from(48.0 + k % 2, 20.0)
        _until(lambda k=k: view.frame.wish.azimuth_deg == 48.0 + k % 2 and view.frame.wish.coarse == 1)
        view.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    return float(np.median(times[2:]))


def playing_ms(window) -> float:
    """A frame of what the channels do, the eye at rest; median ms."""
    night, view, times = window.plate.night, window.plate.round, []
    channels = sorted({s.channel for s in window.document.assessment.lamps.values()})
    for k in range(FRAMES):
        start = time.perf_counter()
        night.set_weights(dict.fromkeys(channels[:4], 0.5 + 0.5 * (k % 2)))
        view.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    night.set_weights({})
    return float(np.median(times[3:]))


def moved_ms(window, lamp_id: str) -> float:
    """A lamp moved to the sharp picture; median ms."""
    document, view, times = window.document, window.plate.round, []
    document.select([lamp_id])
    settle(window)
    for k in range(8):
        plan = edits.move(document.plan, [lamp_id], (0.4 if k % 2 else -0.4, 0.0, 0.0))
        start = time.perf_counter()
        document.preview(plan)
        _until(lambda plan=plan: view.frame.wish.plan is plan and view.frame.wish.coarse == 1)
        view.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    document.revert()
    settle(window)
    return float(np.median(times[2:]))


def against_numpy(say) -> None:
    """Rasterising and shading, by the kernel and by NumPy, in one run."""
    file = _demo()
    plan, catalogue = file.plan, built_in()
    assessment = assess(plan, catalogue)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    eye = eye_for(model, 48.0, 20.0, 600.0, 866, 465)
    shown = looked_at(model, eye).shown

    def shade():
        core_round._lux_of.clear()  # kept from one picture to the next
        core_round.fallen(
            eye, shown, core_round.Shining(lights.lamps, lights.lamp_key, len(lights.keys)), model.bodies, 1e-4
        )

    core_round.load_kernel()
    looked_at(model, eye), shade()
    fast = median_ms(lambda: looked_at(model, eye), 9), median_ms(shade, 5)
    core_round.without_kernel()
    slow = median_ms(lambda: looked_at(model, eye), 1), median_ms(shade, 1)
    core_round.load_kernel()
    say(
        f"round, {len(model.triangles)} triangles, {len(lights.lamps)} lights, 866 x 465: raster {fast[0]:.1f} ms (NumPy {slow[0]:.0f}, "
        f"{slow[0] / fast[0]:.0f} x), shading {fast[1]:.0f} ms (NumPy {slow[1]:.0f}, {slow[1] / fast[1]:.0f} x), both {sum(slow) / sum(fast):.0f} x (asked 50)"
    )


def _demo() -> PlanFile:
    from gwiazda.core.plan.storage import load

    return load(path_of("szron"))


def run(say) -> None:
    night_core.load_kernel()
    core_round.load_kernel()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    window.document.open(path_of("szron"), as_demo=True)
    settle(window)
    start = time.perf_counter()
    window.walk_round()
    settle(window)
    say(f"walk round begun, to the sharp picture: {(time.perf_counter() - start) * 1e3:.0f} ms (asked 800)")
    window.plate.set_wipe(0.5)
    ms = turning_ms(window)
    say(f"  turning: {ms:.0f} ms a frame, {1e3 / ms:.0f} a second (asked 45)")
    say(f"  sharp after a key: {sharp_ms(window):.0f} ms (asked 150)")
    ms = playing_ms(window)
    say(f"  playing at rest: {ms:.1f} ms a frame, {1e3 / ms:.0f} a second (asked 60)")
    say(f"  a lamp moved, to the sharp picture: {moved_ms(window, 'deck1.lamp.01'):.0f} ms (asked 60)")
    core_round.without_kernel()
    ms = turning_ms(window)
    core_round.load_kernel()
    say(f"  turning without the kernel: {ms:.0f} ms a frame, {1e3 / ms:.1f} a second (asked 5)")
    say(f"  most memory of this process so far: {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB (asked 450 for the demo window)")  # fmt: skip
    window.document.take_file(PlanFile(big_plan()), None)
    settle(window)
    if not window.plate.rounding:
        window.walk_round()
    settle(window)
    ms = turning_ms(window)
    say(f"  the large plan, turning: {ms:.0f} ms a frame, {1e3 / ms:.1f} a second (asked 10)")
    window.close()
    against_numpy(say)
