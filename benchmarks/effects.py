"""The show: a frame with all that the window does, an hour averaged, a moving picture against real time."""

from __future__ import annotations

import time
from statistics import median

from PySide6.QtWidgets import QApplication

from gwiazda.core.assess.assessment import assess
from gwiazda.core.effect.score import means
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Chase, Flashes, Flicker, Lamp, Plan, Pulse, Wanted
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.demos import path_of

CHANNELS = 64


def show_plan(plan: Plan, count: int = CHANNELS) -> Plan:
    """A plan with so many channels, each lamp its own, all of them moving at once."""
    ids = [p.id for p in plan.lamps if p.mount != "fibre"]
    for k in range(max(count - len(ids), 0)):
        lamp = Lamp(
            id=f"extra.{k:02d}", part="chip-0603-cool-white", at=(60.0 + 9.0 * k, 30.0, 60.0), aim=(0.0, 1.0, 0.0), mount="outside",
            wanted=Wanted(mcd=5.0), frosted_cap=True,
        )  # fmt: skip
        plan = edits.add_lamp(plan, lamp)
        ids.append(lamp.id)
    plan, channels = edits.channel_each(edits.set_fields(plan, ids, channel=""), ids[:count], "ch")
    quarter = count // 4
    for k, does in enumerate((Pulse(lag=0.1), Flicker(rate_hz=9.0), Chase(step_s=0.1, tail=0.5), Flashes(lag=0.06))):
        plan, _ = edits.add_cue(plan, channels[k * quarter : (k + 1) * quarter], does)
    return plan


def run(say) -> None:
    from gwiazda.desktop.plate.night import NightSide
    from gwiazda.desktop.shell.export.pictures import settle
    from gwiazda.desktop.shell.export.preview import FRAME_HZ, frames_of
    from gwiazda.desktop.shell.window import MainWindow

    catalogue = built_in()
    file = load(path_of("szron"))
    plan = show_plan(file.plan)
    assessment = assess(plan, catalogue)
    begun = time.perf_counter()
    means(assessment.effects.score, 3600.0)
    hour = (time.perf_counter() - begun) * 1e3
    say(f"effects: an hour of {len(assessment.effects.score.names)} channels averaged   {hour:.0f} ms   (asked: 200)")

    window = MainWindow()
    window.resize(1280, 800)
    window.document.take_file(PlanFile(plan, file.pictures), None, as_demo=True)
    window.show()
    window.set_station("animate")
    assert isinstance(window.plate.night, NightSide)
    from gwiazda.core.render.night import load_kernel

    load_kernel()
    for side, wipe in (("half of the plate", 0.5), ("all of it", 0.0)):
        window.plate.set_wipe(wipe)
        settle(window)
        player = window.drawer.player
        frames = []
        for _ in range(150):
            begun = time.perf_counter()
            player.step(1 / 60)
            QApplication.processEvents()
            frames.append((time.perf_counter() - begun) * 1e3)
        frames = sorted(frames[30:])
        in_time = sum(f <= 16.7 for f in frames) / len(frames)
        say(
            f"effects: a frame of {CHANNELS} channels, night on {side}, median   {median(frames):.1f} ms   (asked: 10; "
            f"95 % within {frames[int(0.95 * len(frames))]:.1f}, {in_time * 100:.0f} % in 16.7)"
        )
    window.close()

    bryla = load(path_of("bryla"))
    for name, f, p in (("bryla", bryla, bryla.plan), (f"{CHANNELS} channels", file, plan)):
        shown = PlanFile(p, f.pictures)
        assessment = assess(p, catalogue)
        begun = time.perf_counter()
        count = sum(1 for _ in frames_of(shown, assessment, p.views[0], (960, 480), 10.0, FRAME_HZ))
        took = time.perf_counter() - begun
        say(
            f"effects: 10 s of moving picture at 960x480, {name}, {count} frames   {10.0 / took:.1f} x real time   (asked: 3)"
        )
