"""Clear shells and carriers: a lamp moved in a plan with two clear shells, a carrier proposed, shown and taken out."""

from __future__ import annotations

import time

from PySide6.QtCore import QEventLoop
from PySide6.QtWidgets import QApplication

from benchmarks.circuits import median_ms
from benchmarks.night import lamp_moved_ms
from gwiazda.core.assess.carriers.propose import propose
from gwiazda.core.exchange.carriers import pieces_in, solid_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Layer
from gwiazda.core.render import night as night_core
from gwiazda.demos import path_of
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow


def run(say) -> None:
    night_core.load_kernel()
    window = MainWindow()
    window.resize(1280, 800)
    window.show()
    document = window.document
    document.open(path_of("bryla"), as_demo=True)
    settle(window)
    # The command module made a clear shell as the greenhouse is one.
    document.edit(
        "Clear",
        lambda plan: edits.set_fields(
            plan, ["bow"], material="clear", school="mask", lining="bare", wall_mm=1.5, inside=(), outside=(Layer(coat="flat-black", coats=5),)
        ),
    )  # fmt: skip
    settle(window)
    for lamp in ("green.lamp.01", "bow.lamp.01"):
        say(f"two clear shells, {lamp} moved, to everything shown: {lamp_moved_ms(window, lamp):.1f} ms (asked 50)")
    document.open(path_of("szron"), as_demo=True)
    settle(window)
    plan, catalogue = document.plan, document.catalogue
    say(f"a carrier proposed: {median_ms(lambda: propose(catalogue, plan, 'deck1', 'tray'), 20):.2f} ms (asked 200)")
    window.set_station("light")
    document.select(["deck1"])
    settle(window)
    carrier = propose(catalogue, plan, "deck1", "tray")
    start = time.perf_counter()
    document.edit("Add", lambda p: edits.add_carrier(p, carrier))
    document.select([carrier.id])
    while window.plate.night.shot is None or window.plate.night.shot.plan is not document.plan:
        QApplication.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    say(f"  taken, its first light shown: {(time.perf_counter() - start) * 1e3:.0f} ms (asked 150)")
    settle(window)
    say(f"  all of it settled: {(time.perf_counter() - start) * 1e3:.0f} ms")
    plan = document.plan
    say(
        f"  its pieces {median_ms(lambda: pieces_in(catalogue, plan, carrier), 10):.1f} ms, its solid {median_ms(lambda: solid_in(catalogue, plan, carrier), 10):.1f} ms"
    )
    window.close()
