"""The Build station in a window: tonight's list, tests and gates, orders, evenings, the kit as it is at a step."""

from __future__ import annotations

import datetime

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QPushButton

from decks import deck_plan
from gwiazda.core.assess.assembly.progress import Report, mark
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Closure, Layer, copy_unchecked
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.desktop.stations.build.days import days_of, stages_at
from gwiazda.desktop.theme.sizes import text_factor


@pytest.fixture
def deck(empty):
    plan = deck_plan(windows=4, lamps=2)
    section = copy_unchecked(plan.sections[0], inside=(Layer(coat="flat-black"),), outside=(Layer(coat="grey-primer"),), closure=Closure(by="glue", glue="solvent cement", part="roof"))  # fmt: skip
    empty.document.clock = lambda: datetime.datetime(2026, 11, 27, 19, 10)
    empty.document.take_file(PlanFile(copy_unchecked(plan, sections=(section,))), None)
    empty.window.set_station("build")
    empty.settle()
    empty.window.drawer.grab()
    return empty


def tick(bench, words: str) -> None:
    box = next(
        b
        for b in bench.window.inspector.findChildren(QCheckBox)
        if b.accessibleName().endswith(words) and b.isVisibleTo(bench.window)
    )
    bench.bot.mouseClick(box, Qt.MouseButton.LeftButton, pos=box.rect().center().__class__(8, box.height() // 2))
    bench.settle()


def done(bench) -> list[str]:
    return [d.step for d in bench.document.plan.done]


def all_but(bench, *left: str) -> None:
    plan = bench.document.plan
    steps = steps_of(bench.document.catalogue, plan)
    for s in steps:
        if s.section == "deck1" and s.kind not in ("close", "seam", "cover", "paint") and s.key not in left:
            plan = mark(plan, steps, s.key, Report(at="2026-11-20 19:00"))
    bench.document.edit("x", lambda _: plan)
    bench.settle()


def test_tonight_is_listed_with_its_caution_and_ticked(deck):
    panel = deck.window.inspector.panel
    card = deck.part("TonightCard")
    assert "fresh blade" in card.note.text() and panel is not None
    tick(deck, "Open the windows")
    assert done(deck) == ["deck1:open"] and deck.document.plan.done[0].at == "2026-11-27 19:10"
    assert deck.document.undo_label == "Done: open the windows"
    deck.document.undo()
    deck.settle()
    assert done(deck) == []
    deck.type_into("Minutes at hand", "6")
    assert "Nothing is ready that fits" in card.note.text()
    deck.type_into("Minutes at hand", "lots")
    assert deck.window.message.text and card.minutes == 6.0


def test_the_gate_stays_shut_until_the_tests_are_passed(deck, tmp_path):
    all_but(deck, "deck1:leak")
    document = deck.document
    document.select(["deck1"])
    deck.settle()
    card = deck.part("SectionBuildCard")
    assert (
        "The gate is shut" in card.words.text() and "leak test" in card.words.text() and "2 lamps" in card.words.text()
    )
    tick(deck, "Close it")
    assert document.plan.seals == () and "isn’t tested" in deck.window.message.text
    failed = next(
        b
        for b in deck.window.inspector.findChildren(QPushButton)
        if b.accessibleName().startswith("Failed: Leak") and b.isVisibleTo(deck.window)
    )
    deck.bot.mouseClick(failed, Qt.MouseButton.LeftButton)
    deck.settle()
    assert document.plan.done[-1].result == "failed" and "test-failed" in {f.rule for f in document.findings}
    tick(deck, "Leak test in the dark")
    assert document.plan.done[-1].result == "passed" and "The gate is open" in card.words.text()
    tick(deck, "Close it")
    assert document.plan.seals[0].section == "deck1" and document.plan.seals[0].despite == ()
    assert "Closed 2026-11-27 19:10" in card.words.text()
    path = tmp_path / "b.gwiazda"
    assert document.save(path) and load(path).plan == document.plan


def test_closed_all_the_same_with_a_reason_that_is_kept(deck):
    all_but(deck, "deck1:leak", "deck1:tuck")
    deck.document.select(["deck1"])
    deck.settle()
    deck.type_into("Reason to close it untested", "Show on Saturday")
    tick(deck, "Close it")
    seal = deck.document.plan.seals[0]
    assert seal.despite == ("deck1:leak",) and seal.reason == "Show on Saturday"
    assert "Despite leak test" in deck.part("SectionBuildCard").words.text()
    deck.document.undo()
    assert deck.document.plan.seals == ()


def test_orders_are_chosen_with_what_follows(deck):
    deck.choose("Paint", "sub-assemblies")
    deck.settle()
    assert deck.document.plan.orders.paint == "before joining" and "finish-handled" in {
        f.rule for f in deck.document.findings
    }
    assert "touch the finish up" in deck.part("OrdersCard").words.text()
    deck.press("Paint it after joining")
    assert deck.document.plan.section_orders[0].paint == "after joining"
    deck.choose("Circuit", "on the bench")
    assert any(s.kind == "breadboard" for s in days_of(deck.document).steps)


def test_evenings_are_set_and_steps_of_ones_own_come_in(deck):
    ends = days_of(deck.document).calendar.ends
    for day in ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday"):
        deck.bot.mouseClick(deck.field(f"Free on {day}"), Qt.MouseButton.LeftButton)
    assert deck.document.plan.bench.days == (False,) * 5 + (True, True)
    assert days_of(deck.document).calendar.ends > ends
    deck.type_into("Hours an evening", "40")
    assert deck.document.plan.bench.hours == 3.0 and deck.window.message.text
    deck.type_into("Begins on", "tomorrow")
    assert deck.document.plan.bench.begins == "" and deck.window.message.text
    deck.type_into("A step of your own", "Etch the railings")
    assert deck.document.plan.own_steps[0].name == "Etch the railings"
    deck.type_into("A step of your own", "Set the mast, arrives 2026-12-10")
    assert deck.document.plan.own_steps[1].name == "Set the mast"
    assert deck.document.plan.own_steps[1].arrives == "2026-12-10"
    deck.document.undo()
    deck.type_into("A step of your own", "Set the mast, arrives 2026-02-31")
    assert len(deck.document.plan.own_steps) == 1 and "in no calendar" in deck.window.message.text
    deck.settle()
    deck.press("Etch the railings")
    assert deck.document.plan.own_steps == ()


def test_steps_are_picked_in_the_lanes_and_the_plate_follows(deck):
    drawer, document = deck.window.drawer, deck.document
    drawer.grab()
    block = next(b for b in drawer.blocks if b.key == "deck1:lamps")
    at = block.rect.center() * text_factor()
    deck.bot.mouseClick(drawer, Qt.MouseButton.LeftButton, pos=at.toPoint())
    assert document.step == "deck1:lamps" and "Set the lamps" in deck.part("TonightCard").words.text()
    assert stages_at(days_of(document), "deck1:lamps")["deck1"] in ("glazed", "soldered")
    assert stages_at(days_of(document), "") == {}
    before = deck.window.plate.grab().toImage()
    drawer.setFocus()
    for _ in range(60):
        deck.bot.keyClick(drawer, Qt.Key.Key_Right)
    assert document.step == ":final" and stages_at(days_of(document), ":final")["deck1"] in ("painted", "closed")
    assert deck.window.plate.grab().toImage() != before
    deck.bot.keyClick(drawer, Qt.Key.Key_Plus, Qt.KeyboardModifier.ControlModifier)
    assert drawer.days_shown > 0
    deck.bot.keyClick(drawer, Qt.Key.Key_Escape)
    assert document.step == ""
    gate = next(text for _, key, text in drawer.places if key == "deck1:close")
    assert "the gate is shut: 3 tests to pass" in gate


def test_the_evenings_go_out_as_table_and_calendar(deck, tmp_path):
    deck.window.files.write_export("steps", tmp_path / "s.csv")
    deck.window.files.write_export("steps", tmp_path / "s.ics")
    assert "deck1:open" in (tmp_path / "s.csv").read_text() and (tmp_path / "s.ics").read_bytes().startswith(
        b"BEGIN:VCALENDAR"
    )
    assert "Written" in deck.window.message.text


def test_an_empty_plan_and_a_circle_are_said(empty):
    empty.window.set_station("build")
    empty.settle()
    assert "draw a section first" in empty.window.drawer.subtitle()
    empty.window.drawer.grab()
    plan = deck_plan(windows=2, lamps=1)
    plan, a = edits.add_own_step(plan, "A")
    plan, b = edits.add_own_step(plan, "B", after=(f"own:{a}",))
    plan = edits.set_own_step(plan, a, after=(f"own:{b}",))
    empty.document.take_file(PlanFile(plan), None)
    empty.settle()
    empty.window.drawer.grab()
    assert "circle" in empty.window.drawer.subtitle() and "circular-steps" in {f.rule for f in empty.document.findings}


def test_what_it_took_is_noted_and_learned(deck):
    tick(deck, "Open the windows")
    deck.document.pick_step("deck1:open")
    deck.settle()
    deck.type_into("Minutes taken", "45")
    assert deck.document.plan.done[0].minutes == 45.0
    deck.settle()
    card = deck.part("EveningsCard")
    assert "a window: 3 min before, 8.64 by 1 note" in card.learn.toolTip()
    deck.press("Learn from what it took")
    # By hand: 45 min for four are 11.25 each, .8 of the way from 3 by the logarithm: 3·(11.25/3)^.8.
    minutes = deck.document.plan.effort.drill_min
    assert minutes == pytest.approx(3.0 * (11.25 / 3.0) ** 0.8, abs=0.01)
    deck.window.files.once_more()
    deck.settle()
    assert deck.document.plan.done == () and deck.document.plan.effort.drill_min == minutes and deck.document.dirty
    assert deck.document.plan.kit.name.endswith("once more")


def test_the_drawer_is_counted_laid_aside_and_gives_a_substitute(deck, tmp_path):
    deck.document.load_workshop(tmp_path)
    deck.settle()
    card = deck.part("BuyCard")
    part = deck.document.plan.lamps[0].part
    name = deck.document.catalogue.lamps[part].name
    assert "to buy" in card.words.text()
    deck.type_into(f"In the drawer: {name}", "2")
    assert deck.document.workshop.drawer["lamp", part].amount == 2.0 and not deck.document.dirty
    assert next(b for b in card.buys() if b.part == part).buy == 1, "a spare is still lacking"
    deck.type_into(f"In the drawer: {name}", "2 m")
    assert "pieces" in deck.window.message.text and deck.document.workshop.drawer["lamp", part].amount == 2.0
    deck.press("Reserve")
    assert deck.document.workshop.kept[deck.document.plan.kit.name]["lamp", part] == 2.0
    deck.press("Give back")
    assert not deck.document.workshop.kept
    deck.press("Alternatives")
    assert "No other lamp" in deck.window.message.text
    other = next(
        p.id for p in deck.document.catalogue.lamps.values()
        if p.colour == deck.document.catalogue.lamps[part].colour and p.id != part and not p.body and p.form != "strip"
    )  # fmt: skip
    (tmp_path / "mine.csv").write_text(f"kind,part,count,where\nlamp,{other},9,tin\n")
    deck.window.files.take_in_drawer(tmp_path / "mine.csv")
    deck.settle()
    deck.press("Alternatives")
    deck.settle()
    offer = next(b for b in deck.window.inspector.findChildren(QPushButton) if "× light" in b.text())
    deck.bot.mouseClick(offer, Qt.MouseButton.LeftButton)
    deck.settle()
    assert {p.part for p in deck.document.plan.lamps} == {other}
    deck.document.undo()
    assert {p.part for p in deck.document.plan.lamps} == {part}
    deck.window.files.write_export("stock", tmp_path / "out.csv")
    assert f"lamp,{other},9,tin" in (tmp_path / "out.csv").read_text()
    (tmp_path / "bad.csv").write_text("kind,part,count,where\nlamp,x,2 kg,tin\n")
    deck.window.files.take_in_drawer(tmp_path / "bad.csv")
    assert "row 2" in deck.window.message.text and len(deck.document.workshop.drawer) == 1


def test_cautions_are_shown_once_an_evening_and_again_when_asked(deck):
    card = deck.part("TonightCard")
    assert "fresh blade" in card.note.text()
    deck.press("Cautions seen")
    assert "fresh blade" not in card.note.text() and card.seen.text().endswith("show again")
    deck.document.clock = lambda: datetime.datetime(2026, 11, 28, 1, 30)
    card.refresh()
    assert "fresh blade" not in card.note.text(), "it is the same evening still"
    deck.press(card.seen.text())
    assert "fresh blade" in card.note.text()
    deck.press("Cautions seen")
    deck.document.clock = lambda: datetime.datetime(2026, 11, 28, 18, 0)
    card.refresh()
    assert "fresh blade" in card.note.text()
    deck.document.pick_step("deck1:open")
    deck.press("Cautions seen")
    assert "fresh blade" in card.words.text(), "at its step it stays"


def test_a_resistor_that_lacks_is_taken_from_the_drawer_at_another_value(deck, tmp_path):
    document = deck.document
    document.load_workshop(tmp_path)
    deck.settle()
    ohm = next(r.resistor_ohm for r in document.assessment.branches.values())
    near, over = ohm * 1.2, ohm / 3.9
    (tmp_path / "mine.csv").write_text(
        f"kind,part,count,where\nresistor,{near:.4g},20,tin\nresistor,{over:.4g},20,tin\nresistor,{ohm * 90:.4g},20,tin\n"
    )
    deck.window.files.take_in_drawer(tmp_path / "mine.csv")
    deck.settle()
    card = deck.part("BuyCard")
    card.all = True
    card.refresh()
    row = next(b for b in card.buys() if b.kind == "resistor" and b.buy)
    card._instead(row.kind, row.part)
    deck.settle()
    offers = [b for b in deck.window.inspector.findChildren(QPushButton) if "× light" in b.text()]
    assert 1 <= len(offers) <= 2, "ninety times as much is no substitute"
    before = document.assessment.sections["deck1"].mean_cd_m2
    deck.bot.mouseClick(offers[0], Qt.MouseButton.LeftButton)
    deck.settle()
    assert {round(r.resistor_ohm, 1) for r in document.assessment.branches.values()} & {round(float(f"{near:.4g}"), 1)}
    assert document.assessment.sections["deck1"].mean_cd_m2 < before
    document.undo()
    deck.settle()
    assert document.assessment.sections["deck1"].mean_cd_m2 == pytest.approx(before)


def test_a_failed_test_is_mended_before_it_is_done_again(deck):
    document = deck.document
    steps = days_of(document).steps
    plan = document.plan
    for s in steps:
        if s.section == "deck1" and s.kind not in (
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
    document.edit("Earlier", lambda _: plan)
    document.edit(
        "Failed",
        lambda plan: mark(
            plan,
            days_of(document).steps,
            "deck1:test",
            Report(at="2026-11-27 19:00", result="failed", note="lamp 2 dark"),
        ),
    )
    deck.settle()
    days = days_of(document)
    assert days.states["deck1:test.mend.1"].state == "ready" and days.slip.tests == ("deck1:test",)
    assert days.states["deck1:test.mend.1"].step.detail == "lamp 2 dark"
    deck.window.drawer.grab()
    assert "failed test" in deck.window.drawer.subtitle()
    assert stages_at(days, "")["deck1"]
    document.undo()
    assert "deck1:test.mend.1" not in days_of(document).states


def test_prices_and_packs_are_typed_and_summed(deck):
    """What a pack costs is typed beside the count; the sum and the packs follow, and both stay with the drawer."""
    deck.window.set_station("build")
    deck.settle(night=False)
    card = deck.part("BuyCard")
    buy = next(b for b in card.buys() if b.kind == "lamp")
    deck.press("Prices")
    deck.type_into(f"Sold by: {buy.detail}", "10")
    deck.type_into(f"Price: {buy.detail}", "2.50")
    again = next(b for b in card.buys() if b.key == buy.key)
    assert (again.pack, again.price, again.held) == (10.0, 2.5, buy.held)
    packs = -(-again.buy // 10)
    assert again.packs == packs and again.cost == 2.5 * packs
    assert f"{2.5 * packs:,.2f} in all" in card.words.text()
    said = []
    deck.document.message.connect(lambda text, kind: said.append(text))
    deck.type_into(f"Price: {buy.detail}", "cheap")
    assert "Price" in said[-1] and deck.document.workshop.drawer[buy.key].price == 2.5
    deck.type_into(f"Price: {buy.detail}", " ")
    assert deck.document.workshop.drawer[buy.key].price == 0.0


def test_a_session_is_dragged_to_another_evening_and_back_and_what_stands_against_it_is_said(deck):
    drawer, document = deck.window.drawer, deck.document
    drawer.resize(900, 200)
    drawer.grab()
    spray = next(b for b in drawer.session_blocks if b.session.kind == "spray")
    was = days_of(document).calendar
    begins = {x.key: x.begins_min for x in was.laid}
    key = spray.session.keys[0]
    at = spray.rect.center() * text_factor()
    there = (
        drawer._x((int(begins[key] // 1440) + 4) * 1440 + 19.5 * 60, drawer.days_shown or max(drawer._end(), 1.0))
        * text_factor()
    )
    from PySide6.QtCore import QPoint

    deck.bot.mousePress(drawer, Qt.MouseButton.LeftButton, pos=at.toPoint())
    deck.bot.mouseMove(drawer, QPoint(round((at.x() + there) / 2), round(at.y())))
    deck.bot.mouseRelease(drawer, Qt.MouseButton.LeftButton, pos=QPoint(round(there), round(at.y())))
    deck.settle()
    assert {x.step for x in document.plan.step_days} == set(spray.session.keys)
    now = {x.key: x.begins_min for x in days_of(document).calendar.laid}
    assert now[key] // 1440 == begins[key] // 1440 + 4 and "is on" in deck.window.message.text
    document.undo()
    deck.settle()
    assert document.plan.step_days == () and {x.key: x.begins_min for x in days_of(document).calendar.laid} == begins
    document.pick_step("deck1:leak")
    deck.settle()
    deck.bot.keyClick(drawer, Qt.Key.Key_Left, Qt.KeyboardModifier.ControlModifier)
    deck.settle()
    assert "can’t be on" in deck.window.message.text and document.plan.step_days == (), "said, and nothing is changed"
    deck.bot.keyClick(drawer, Qt.Key.Key_Right, Qt.KeyboardModifier.ControlModifier)
    deck.settle()
    assert "deck1:leak" in {x.step for x in document.plan.step_days}


def test_tonight_leaves_out_what_wants_the_iron(deck):
    deck.type_into("Minutes at hand", "90")
    card = deck.part("TonightCard")
    assert "soldering" in card.note.text()
    deck.choose("Tonight without", "no iron, no spraying")
    assert "soldering" not in card.note.text() and "spraying" not in card.note.text() and "drilling" in card.note.text()
