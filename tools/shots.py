"""Make the screenshots of the main views from demo data: ``python tools/shots.py FOLDER``."""

from __future__ import annotations

import datetime
import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_STATE_HOME"] = os.environ["XDG_CACHE_HOME"] = tempfile.mkdtemp()

from PySide6.QtWidgets import QScrollArea

from gwiazda.core.assess.assembly.progress import Report, mark
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Wanted
from gwiazda.core.workbench.photo.camera import simulated
from gwiazda.core.workbench.photo.photos import jpeg_of
from gwiazda.demos import path_of
from gwiazda.desktop.shell.application import make_application
from gwiazda.desktop.shell.export.pictures import settle
from gwiazda.desktop.shell.window import MainWindow


def build_and_bench(window, shot) -> None:
    """A build some evenings on, and a fault found: made up for the picture, on a day of its own."""
    document = window.document
    document.clock = lambda: datetime.datetime(2026, 11, 27, 19, 10)
    document.open(path_of("bryla"), as_demo=True)
    window.set_station("build")
    window.plate.set_wipe(0.86)
    steps = steps_of(document.catalogue, document.plan)
    for part in ("engine.port", "engine.starboard", "bow"):
        for kind in ("open", "deburr", "block.1", "block.2") if part != "bow" else ("open",):
            if any(s.key == f"{part}:{kind}" for s in steps):
                document.edit("Done", lambda p, k=f"{part}:{kind}": mark(p, steps, k, Report(at="2026-11-22 20:00")))
    document.pick_step("pod.port:lamps")
    shot("build")
    document.open(path_of(), as_demo=True)
    window.set_station("bench")
    window.plate.set_wipe(0.9)
    for what, place, value in (
        ("lit", "deck2.lamp.03", 0.0),
        ("volts", "deck2.lamp.03", 11.9),
        ("amps", "deck1.lamp.02", 0.0017),
    ):
        document.edit(
            "Read",
            lambda p, w=what, i=place, v=value: edits.add_entry(
                p, "reading", what=w, place=i, value=v, at="2026-11-27 19:05"
            )[0],
        )
    document.edit(
        "Write",
        lambda p: edits.add_entry(p, "note", "Lamp 3 was soldered last", at="2026-11-27 19:08", section="deck2")[0],
    )
    shot("bench")
    document.select(())
    photo_of_perkoz(window, shot)


def photo_of_perkoz(window, shot) -> None:
    """A photo as a plain camera would take it, with a lamp that is dimmer than planned."""
    document = window.document
    document.open(path_of("perkoz"), as_demo=True)
    window.set_station("bench")
    window.plate.set_wipe(0.6)
    settle(window)
    cabin = [i for i, state in document.assessment.lamps.items() if state.section == "cabin"]
    built = document.plan
    for i in cabin:
        built = edits.set_wanted(built, [i], Wanted(current_ma=document.assessment.lamps[i].current_a * 650.0))
    taken = simulated(built, assess(built, document.catalogue), "port", 4, leaks=2)
    kept = document.add_picture("in-the-dark.jpg", jpeg_of(taken.code))
    document.edit(
        "Photo",
        lambda p: edits.add_entry(
            p, "note", "In the dark, before the seam", photo=kept, at="2026-11-27 19:05", laid=taken.laid
        )[0],
    )
    card = next(c for c in window.inspector.panel.here if type(c).__name__ == "PhotoCard")
    card.session.read(document.plan.log[-1].id)
    settle(window)
    for area in window.inspector.findChildren(QScrollArea):
        area.ensureWidgetVisible(card.keep)
    shot("photo")
    card.session.read("")


def main(folder: Path, only: set[str]) -> None:
    application = make_application()
    application.setProperty("keep", True)
    window = MainWindow()
    window.document.open(path_of(), as_demo=True)
    window.show()

    def shot(name: str) -> None:
        if only and name not in only:
            return
        settle(window)
        window.next_line.show()  # it waits a moment after the last figures: what it said of a first look is not for a picture
        window.grab().save(str(folder / f"{name}.png"))
        print(folder / f"{name}.png")

    folder.mkdir(parents=True, exist_ok=True)
    window.plate.set_wipe(0.5)
    window.walk_round()
    window.plate.set_wipe(0.36)
    window.look_from(40.0, 19.0)
    window.plate.round.come(1.28)
    window.document.select(())
    shot("round")
    window.plate.round.come(1 / 1.28)
    window.walk_round()
    window.set_station("light")
    window.plate.set_wipe(0.42)
    window.document.select(["deck1.lamp.03"])
    shot("light-lamp")
    window.document.select(["light.sidelight.01"])
    settle(window)
    window.tool_key("light")
    window.plate.tool.chooser.line.setText("sid")
    shot("lights")
    window.plate.set_tool("pick")
    window.set_station("block")
    window.plate.set_wipe(0.62)
    window.document.select(["deck1"])
    shot("block")
    window.document.select(["hangar.window.02"])
    settle(window)
    window.inspector._scroll.verticalScrollBar().setValue(470)
    shot("block-pane")
    window.set_station("fibre")
    window.plate.set_wipe(0.235)
    window.plate._set_window(window.plate.extent.zoomed(3.0, 470, 150))
    window.document.select(["bridge.panel.01.dot.03"])
    settle(window)
    window.inspector._scroll.verticalScrollBar().setValue(0)
    shot("fibre")
    window.plate.fit_view()
    window.set_station("wire")
    window.drawer.turn()
    window.plate.set_wipe(0.75)
    window.document.select(["keel"])
    shot("loom")
    window.drawer.turn()
    window.plate.set_wipe(0.62)
    window.document.select(())
    window.set_station("light")
    window.plate.set_wipe(0.5)
    window.ask()
    window._scratch.field.setText("2 red + 1 blue on 6 V stack 330")
    shot("scratch")
    window._scratch.leave()
    window.plate.set_wipe(0.3)
    window.toggle_dusk()
    window.dusk.set_lux(60.0)
    shot("dusk")
    window.toggle_dusk()
    window.set_theme("darkroom")
    window.document.select(["bridge"])
    shot("darkroom")
    window.set_theme("bench")
    window.document.select(())
    window.document.open(path_of("perkoz"), as_demo=True)
    window.set_station("measure")
    window.plate.set_wipe(0.55)
    window.document.select(["hull"])
    shot("measure-trace")
    window.document.open(path_of("swistak"), as_demo=True)
    window.set_station("wire")
    window.plate.set_wipe(0.5)
    window.toggle_drawer()
    window.document.select(["winch.regulator"])
    shot("wire")
    window.document.select(())
    window.set_station("power")
    window.toggle_drawer()
    settle(window)
    window.drawer.set_hour(6.0)
    window.grab()  # the drawer asks for other sources while it is painted
    shot("power")
    window.document.open(path_of("bryla"), as_demo=True)
    window.set_station("animate")
    window.plate.set_wipe(0.42)
    window.drawer.player.go_to(6.3)
    window.document.select(())
    window.toggle_drawer()
    shot("animate")
    window.toggle_drawer()
    window.set_station("light")
    window.plate.set_wipe(0.6)
    settle(window)
    window.plate._set_window(window.plate.extent.zoomed(2.4, 150, 260))
    window.document.select(["bow.carrier.01"])
    shot("carrier")
    window.plate.fit_view()
    build_and_bench(window, shot)
    window.document.new()
    window.set_station("measure")
    window.plate.set_wipe(1.0)
    window.show_empty()
    shot("empty")
    window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots"), set(sys.argv[2:]))
