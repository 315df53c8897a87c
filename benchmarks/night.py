"""The night picture: frames a second with painting, against summing every channel with NumPy, and one lamp moved."""

from __future__ import annotations

import gc
import sys
import time

import numpy as np
from PySide6.QtCore import QEvent, QEventLoop
from PySide6.QtWidgets import QApplication

from benchmarks.circuits import median_ms
from benchmarks.plans import big_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render import night as night_core
from gwiazda.core.render.tone import middle_luminance
from gwiazda.demos import path_of
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow


def frames(window, moving: int, count: int = 60) -> float:
    """Median ms of a frame with ``moving`` channels changing, painting of the plate included."""
    plate = window.plate
    channels = plate.night.picture.channels[:moving]
    rng = np.random.default_rng(1)
    times = []
    for _ in range(count):
        weights = dict(zip(channels, rng.uniform(0.2, 1.0, len(channels)).tolist(), strict=True))
        start = time.perf_counter()
        plate.night.set_weights(weights)
        plate.repaint()
        times.append((time.perf_counter() - start) * 1e3)
    plate.night.set_weights({})
    return float(np.median(times[5:]))


def naive(window) -> float:
    """Median ms of summing every channel's full picture with NumPy and mapping it, without painting."""
    plate = window.plate
    picture = plate.night.picture
    h, w = picture.height, picture.width
    full = []
    for group in picture._layers.values():
        plane = np.zeros((h, w, 3), np.float32)
        for layer in group:
            a, b = layer.pixels.shape
            plane[layer.y0 : layer.y0 + a, layer.x0 : layer.x0 + b] += layer.pixels[..., None] * np.array(
                layer.rgb, np.float32
            )
        full.append(plane)
    hull = np.zeros((h, w, 3), np.float32)
    middle = middle_luminance(window.document.assessment.hull_cd_m2, 0.0)

    def frame():
        total = hull.copy()
        for plane in full:
            total += np.float32(0.7) * plane
        x = total / middle
        x = x / (1 + x)
        return (np.where(x <= 0.0031308, 12.92 * x, 1.055 * x ** (1 / 2.4) - 0.055) * 255 + 0.5).astype(np.uint8)

    return median_ms(frame, 5)


def window_on(file=None, size=(1280, 800)):
    window = MainWindow()
    if file is None:
        window.document.open(path_of(), as_demo=True)
    else:
        window.document.take_file(file, None)
    window.resize(*size)
    window.show()
    settle(window)
    window.plate.set_wipe(0.0)
    QApplication.processEvents()
    # As the application does once it is up: what is there now is not looked through again and again.
    gc.collect()
    gc.freeze()
    return window


def away(window) -> None:
    """Close a window for good: the next measure is of one window, as at a user's."""
    window.close()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()


def run(say) -> None:
    sys.setswitchinterval(0.001)  # as the application does
    for size, asked in (((1280, 800), 100), ((1920, 1080), 60)):
        window = window_on(size=size)
        count = len(window.plate.night.picture.channels)
        plain = frames(window, 8, 20)
        night_core.load_kernel()
        ms = frames(window, 8)
        slow = naive(window)
        say(
            f"night picture, demo, plate {window.plate.width()}x{window.plate.height()}, 8 of {count} channels changing: "
            f"{ms:.1f} ms = {1000 / ms:.0f} frames/s (asked {asked}); {1000 / plain:.0f} frames/s before the kernel is there (asked 30)"
        )
        say(f"  against summing every channel with NumPy: {slow:.0f} ms, ratio {slow / ms:.0f} x (asked 8)")
        if size == (1280, 800):
            moved = lamp_moved_ms(window, "deck1.lamp.03")
            say(f"one lamp moved, to everything shown: {moved:.1f} ms (asked 40)")
            opened, placed, lamp = light_placed_ms(window)
            say(f"kinds of lights, chooser opened: {opened:.1f} ms (asked 100)")
            say(
                f"a light placed, to everything shown: {placed:.1f} ms, a lamp {lamp:.1f}, ratio {placed / lamp:.2f} x (asked 1.0)"
            )
        away(window)
        night_core._kernel = None
    night_core.load_kernel()
    window = window_on(PlanFile(big_plan()))
    ms = frames(window, 32, 40)
    say(f"night picture, 5,000 openings, 64 channels, 32 changing: {ms:.1f} ms = {1000 / ms:.0f} frames/s (asked 40)")
    away(window)


def shown_ms(window, change) -> float:
    """An edit as one step, to figures, night picture and panel shown; ms. It is undone."""
    document, plate = window.document, window.plate
    start = time.perf_counter()
    new: list[str] = []
    document.edit("Bench", lambda plan: change(plan, new))
    document.select(new[:1])
    plan = document.plan
    while plate.night.shot is None or plate.night.shot.plan is not plan:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    window.repaint()
    QApplication.processEvents()
    took = (time.perf_counter() - start) * 1e3
    document.undo()
    settle(window)
    return took


def light_placed_ms(window) -> tuple[float, float, float]:
    """The chooser opened; a sidelight placed, and a lamp put outside for comparison, each to everything shown; median ms."""
    from gwiazda.core.assess.lights.build import place
    from gwiazda.core.assess.lights.place import Spot
    from gwiazda.core.plan.model import Lamp

    window.set_station("light")
    settle(window)
    opened = []
    for _ in range(8):
        start = time.perf_counter()
        window.plate.set_tool("light")
        window.plate.tool.chooser.repaint()
        opened.append((time.perf_counter() - start) * 1e3)
        window.plate.set_tool("pick")
    catalogue = window.document.catalogue

    def light(plan, new):
        plan, ids = place(catalogue, plan, "sidelight", Spot("port", (150.0, 42.0, 60.0), "deck1"), "chip", True)
        new += ids
        return plan

    def lamp(plan, new):
        new.append("bench.lamp")
        made = Lamp(id="bench.lamp", part="chip-0603-red", at=(150.0, 43.0, 60.0), aim=(0.0, 1.0, 0.0), mount="outside")
        return edits.add_lamp(plan, made)

    times = [(shown_ms(window, light), shown_ms(window, lamp)) for _ in range(9)][2:]
    window.document.select(())
    return (
        float(np.median(opened[1:])),
        float(np.median([a for a, _ in times])),
        float(np.median([b for _, b in times])),
    )


def lamp_moved_ms(window, lamp_id: str) -> float:
    """A lamp moved: edit, assessment, new basis picture, meters and repaint, as while dragging; median ms."""
    document, plate = window.document, window.plate
    plate.set_wipe(0.5)
    document.select([lamp_id])
    settle(window)
    times = []
    for i in range(24):
        plan = edits.move(document.plan, [lamp_id], (0.4 if i % 2 else -0.4, 0.0, 0.0))
        start = time.perf_counter()
        document.preview(plan)
        while plate.night.shot is None or plate.night.shot.plan is not plan:
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
        plate.repaint()
        window.meters.repaint()
        QApplication.processEvents()
        times.append((time.perf_counter() - start) * 1e3)
    document.revert()
    return float(np.median(times[4:]))
