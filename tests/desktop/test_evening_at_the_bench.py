"""An evening at the bench, by hand on real widgets: tonight's list, a test that fails, the fault found, mended, tested, closed; and
every demo at every station."""

from __future__ import annotations

import datetime

import pytest
from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QCheckBox, QPushButton

from gwiazda.core.assess.assembly.progress import Report, mark, open_tests
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import load
from gwiazda.core.workbench.practice import Hidden
from gwiazda.demos import path_of
from gwiazda.desktop.stations.bench.session import session_of
from gwiazda.desktop.stations.registry import STATIONS

SECTION = "box"


@pytest.fixture
def evening(empty):
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 19, 10)
    empty.document.open(path_of("swistak"), as_demo=True)
    return empty


def at(bench, station: str) -> None:
    bench.key(getattr(Qt.Key, f"Key_{next(s.key for s in STATIONS if s.id == station)}"))
    bench.settle()
    bench.window.drawer.grab()


def tick(bench, words: str) -> None:
    box = next(
        b
        for b in bench.window.inspector.findChildren(QCheckBox)
        if words in b.accessibleName() and b.isVisibleTo(bench.window)
    )
    bench.bot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    bench.settle()


def fail(bench, words: str) -> None:
    button = next(
        b
        for b in bench.window.inspector.findChildren(QPushButton)
        if b.accessibleName().startswith("Failed:") and words in b.accessibleName() and b.isVisibleTo(bench.window)
    )
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    bench.settle()


def states(bench) -> dict[str, str]:
    from gwiazda.desktop.stations.build.days import days_of

    return {k: x.state for k, x in days_of(bench.document).states.items()}


def test_from_tonights_list_to_a_found_fault_to_a_seal(evening, tmp_path):
    document, window = evening.document, evening.window
    at(evening, "build")
    evening.type_into("Minutes at hand", "90")
    tonight = [s for s, state in states(evening).items() if state == "ready"]
    assert tonight
    # What comes before the section's test was done on other evenings.
    steps = steps_of(document.catalogue, document.plan)
    plan = document.plan
    for s in steps:
        if s.section == SECTION and s.kind not in (
            "test",
            "leak",
            "glue-faces",
            "tuck",
            "roll-call",
            "close",
            "seam",
            "paint",
            "cover",
        ):
            plan = mark(plan, steps, s.key, Report(at="2026-11-20 20:00"))
    document.edit("Earlier evenings", lambda _: plan)
    document.select([SECTION])
    evening.settle()
    assert states(evening)[f"{SECTION}:test"] == "ready"
    # Every lamp is lit: one stays dark, so the test fails, and mending comes before it.
    fail(evening, "Light every lamp")
    assert states(evening)[f"{SECTION}:test"] == "failed" and f"{SECTION}:test.mend.1" in states(evening)
    document.select([])
    evening.settle()
    assert "failed test" in window.drawer.subtitle()

    # At the bench: what it really is only the test knows.
    at(evening, "bench")
    session = session_of(document)
    bench = session.benches[0]
    lamps = [i for i in bench.lamps if document.assessment.lamps[i].section == SECTION]
    hidden = next(
        h
        for h in (Hidden(bench, seed) for seed in range(400))
        if h.fault.at[0] in lamps and h.fault.kind in ("reversed", "open", "cold joint", "short")
    )
    for lamp in bench.lamps:
        looks = hidden.read("lit", lamp).value
        document.select([lamp])
        evening.settle()
        evening.press({0.0: "Dark", 0.5: "Dim", 1.0: "Good", 2.0: "Bright"}[looks])
    for _ in range(3):
        document.select([])
        evening.settle()
        card = evening.part("SuspectsCard")
        if not card.next.isVisibleTo(window) or card._next_is is None:
            break
        what, place = card._next_is.what, card._next_is.at
        next_one = card.next
        assert next_one.height() >= next_one.heightForWidth(next_one.width()), "all of its words are shown"
        evening.bot.mouseClick(card.next, Qt.MouseButton.LeftButton)
        evening.settle()
        if what == "lit" or place not in bench.lamps:
            break
        reading = hidden.read(what, place)
        evening.type_into(
            "Volts read" if what == "volts" else "Current read",
            f"{reading.value:.2f} V" if what == "volts" else f"{reading.value * 1e3:.2f} mA",
        )
        evening.settle()
    document.select([])
    evening.settle()
    said = [s.faults for s in session.diagnosis.suspects[:3]]
    alike = {"reversed": "open", "open": "reversed"}
    assert any(
        f and f[0].at[0] == hidden.fault.at[0] and f[0].kind in (hidden.fault.kind, alike.get(hidden.fault.kind))
        for f in said
    )
    evening.press("Repaired")
    assert all(e.settled for e in document.plan.log if e.kind == "reading") and document.plan.log

    # Mended, tested again, dark, called, and closed: the gate opens test by test.
    at(evening, "build")
    document.select([SECTION])
    evening.settle()
    tick(evening, "Mend what the test found")
    tick(evening, "Light every lamp")
    assert states(evening)[f"{SECTION}:test"] == "done" and not any("mend" in k for k in states(evening))
    before = document.plan
    steps = steps_of(document.catalogue, document.plan)
    assert open_tests(document.plan, steps, SECTION), "leak test and roll-call are still to come"
    tick(evening, "Close it")
    assert document.plan is before and "isn’t tested" in window.message.text
    order = ("glue-faces", "leak", "tuck", "roll-call", "close")
    names = {s.kind: s.name for s in steps if s.section == SECTION}
    for kind in order:
        if kind in names:
            tick(evening, names[kind])
            assert states(evening)[f"{SECTION}:{kind}"] == "done", kind
    assert [s.section for s in document.plan.seals] == [SECTION] and document.plan.seals[0].despite == ()
    path = tmp_path / "evening.gwiazda"
    assert document.save(path) and load(path).plan == document.plan
    document.undo()
    assert document.plan.seals == ()


@pytest.mark.parametrize("name", ["szron", "perkoz", "bryla", "swistak"])
def test_every_demo_is_complete_at_every_station(empty, name):
    """Something to see in each drawer, figures in the meters, offers or a word that nothing is left."""
    document, window = empty.document, empty.window
    assert document.open(path_of(name), as_demo=True)
    for station in STATIONS:
        at(empty, station.id)
        drawer = window.drawer
        assert document.station == station.id and drawer.idle
        image = drawer.grab().toImage()
        shades = {
            image.pixel(x, y) for x in range(20, image.width() - 20, 9) for y in range(40, image.height() - 12, 7)
        }
        assert len(shades) > 3, f"{station.id} shows nothing"
        assert window.inspector.panel is not None and not window.message.text, (station.id, window.message.text)
    assert all(m.text for m in document.assessment.meters)


def test_a_plan_drawn_from_nothing_is_built_read_photographed_and_decided_on(empty, tmp_path):
    """From an empty plate by mouse and keys: section, windows, lamps; a step ticked; a lamp read; a photo logged; a variant chosen."""
    document, window = empty.document, empty.window
    document.clock = lambda: datetime.datetime(2026, 11, 27, 19, 10, 0, 77)
    document.edit("Scale", lambda plan: edits.set_kit(plan, scale=300.0))
    empty.plate.set_wipe(1.0)
    empty.key(Qt.Key.Key_B, widget=window)
    empty.drag(QPoint(180, 150), QPoint(700, 300))
    section = document.plan.sections[0].id
    for y in (205, 255):
        empty.key(Qt.Key.Key_R, widget=window)
        empty.drag(QPoint(240, y), QPoint(640, y))
    empty.key(Qt.Key.Key_L, widget=window)
    for x in (320, 560):
        empty.click(QPoint(x, 170))
    empty.key(Qt.Key.Key_Escape)
    empty.key(Qt.Key.Key_Escape)
    lamps = [p.id for p in document.plan.lamps]
    assert len(document.plan.openings) > 8 and len(lamps) == 2
    empty.settle()
    assert document.assessment.sections[section].mean_cd_m2 > 0

    at(empty, "build")
    empty.type_into("Minutes at hand", "300")
    ready = {k for k, state in states(empty).items() if state == "ready"}
    empty.settle()
    tick(empty, "Done: ")
    assert document.plan.done[-1].step in ready and document.plan.done[-1].at == "2026-11-27 19:10"

    at(empty, "bench")
    document.select([lamps[0]])
    empty.settle()
    empty.press("Good")
    empty.type_into("Volts read", f"{document.assessment.lamps[lamps[0]].forward_v:.2f} V")
    document.select([])
    empty.settle()
    assert empty.part("SuspectsCard").rows.itemAt(0).widget().text().startswith("Nothing is broken")
    empty.press("Simulated")
    empty.settle()
    empty.settle()
    shot = session_of(document).shot
    assert shot is not None and shot.side == "port" and len(shot.told) >= 6
    empty.press("Log it")
    assert any("within 10 %" in e.text for e in document.plan.log)
    empty.press("Put away")

    empty.choose("Variants of", document.plan.sections[0].name)
    empty.settle()
    empty.type_into("Keep what is there as", "a lamp each")
    empty.settle()
    document.select(lamps)
    empty.settle()
    empty.key(Qt.Key.Key_Delete)
    assert len(document.plan.lamps) == 0
    document.select([])
    empty.settle()
    empty.choose("Variants of", document.plan.sections[0].name)
    empty.settle()
    empty.press("B  a lamp each")
    assert len(document.plan.lamps) == 2 and document.on_trial
    empty.type_into("Decide for it, because", "it was dark without")
    empty.settle()
    assert [p.id for p in document.plan.lamps] == lamps and document.plan.log[-1].kind == "decision"

    path = tmp_path / "own.gwiazda"
    assert document.save(path)
    again = load(path)
    assert again.plan == document.plan and len(again.pictures) == 1
    kept = document.plan
    while document.undo_label:
        document.undo()
    assert document.plan.sections == () and document.plan.log == ()
    while document.redo_label:
        document.redo()
    assert document.plan == kept
