"""Trying a lamp with one resistor after another, on the real window: answers, what they change, and how they are forgotten."""

from __future__ import annotations

import pytest

from gwiazda.core.plan import edits
from gwiazda.core.workshop.workshop import load_workshop


@pytest.fixture
def card(bench):
    """The card for a lamp behind windows, in a plan whose words follow an evening room."""
    document = bench.document
    document.edit("Evening", lambda plan: edits.set_room(plan, looks="room", lux=50.0))
    bench.window.set_station("light")
    document.select([next(p.id for p in document.plan.lamps if p.mount == "inside")])
    bench.settle(night=False)
    found = bench.part("TryoutCard")
    assert not found.card.is_open, "folded until it is wanted"
    found.card.fold.click()
    bench.settle(night=False)
    return bench


def shown(bench):
    return bench.part("TryoutCard")


def test_three_resistors_are_named_and_an_answer_moves_all_words(card, tmp_path):
    tryout = shown(card)
    assert "one 1206" in tryout.words.text() and "evening lamp" in tryout.words.text()
    ohms = tryout.three.ohms
    assert ohms[0] > ohms[1] > ohms[2] and all(v.text().endswith("Ω") for v in tryout.values)
    before = {i: b.resistor_ohm for i, b in card.document.assessment.branches.items()}
    for _ in range(4):
        card.press("Right")
    card.settle(night=False)
    tryout = shown(card)
    scale = card.document.workshop.scale
    assert scale.answers == 4 and scale.value > 1.0 and f"{scale.value:.2g} ×" in tryout.sure.text()
    assert "usually" in tryout.changed.text() and "resistor" in tryout.changed.text()
    after = {i: b.resistor_ohm for i, b in card.document.assessment.branches.items()}
    assert sum(before[i] != after[i] for i in before) > 3
    kept, said = load_workshop(card.document.workshop_folder or tmp_path)
    assert said == () and (card.document.workshop_folder is None or kept.compared == card.document.workshop.compared)


def test_the_last_answer_is_taken_back_and_all_are_forgotten_and_brought_back(card):
    for words in ("Left", "Middle", "None of them"):
        card.press(words)
    assert [c.answer for c in card.document.workshop.compared] == ["left", "middle", "none"]
    card.press("Take the last back")
    assert [c.answer for c in card.document.workshop.compared] == ["left", "middle"]
    card.press("Forget all")
    assert card.document.workshop.compared == () and card.document.catalogue.brightness_scale == 1.0
    assert "Nothing compared yet" in shown(card).sure.text()
    card.window.message.action.click()
    assert len(card.document.workshop.compared) == 2


def test_where_words_are_fixed_it_is_said_and_one_press_has_them_follow(card):
    card.document.edit("Fixed", lambda plan: edits.set_room(plan, looks="fixed"))
    card.settle(night=False)
    card.press("Right")
    card.settle(night=False)
    assert "changes nothing here" in shown(card).changed.text()
    card.press("Let words follow this room")
    assert card.document.plan.room.looks == "room"
    card.document.undo()
    assert card.document.plan.room.looks == "fixed"


def test_of_a_light_its_lamp_is_held_and_of_what_feeds_fibres_it_is_said(card):
    plan = card.document.plan
    light = next(x.id for x in plan.lights if any(p.light == x.id and p.mount == "outside" for p in plan.lamps))
    card.document.select([light])
    card.settle(night=False)
    tryout = shown(card)
    if not tryout.card.is_open:
        tryout.card.fold.click()
    assert tryout.three is not None and "straight on" in tryout.words.text()
    card.document.select([next(p.id for p in plan.lamps if p.mount == "fibre")])
    card.settle(night=False)
    tryout = shown(card)
    assert tryout.three is None and "tips" in tryout.words.text() and tryout.buttons["left"].isHidden()


def test_a_workshop_that_can_t_be_written_is_said_and_nothing_changes(card, tmp_path):
    folder = tmp_path / "data"
    folder.write_bytes(b"")
    card.document.workshop_folder = folder / "gwiazda"
    said = []
    card.document.message.connect(lambda text, kind: said.append((text, kind)))
    card.press("Right")
    assert said and said[-1][1] == "stop" and not card.document.workshop.compared
