"""A clear shell by hand: a pane masked dark, the finding at Block, mended by an offer and on its card, undone, saved."""

from __future__ import annotations

import pytest

from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of

PANE = "green.window.04"


@pytest.fixture
def hauler(empty):
    empty.document.open(path_of("bryla"), as_demo=True)
    empty.window.set_station("block")
    empty.settle(night=False)
    return empty


def times(bench) -> float:
    found = [f for f in bench.document.findings if f.rule == "dark-pane-shows"]
    return found[0].number if found else 0.0


def test_the_black_behind_a_pane_is_made_to_reach_past_it(hauler, tmp_path):
    document = hauler.document
    document.select([PANE])
    hauler.settle(night=False)
    card = hauler.part("ShellCard")
    assert (
        not card.card.isHidden()
        and "1.3 mm sideways" in card.words.text()
        and "what the eye can pick out" in card.words.text()
    )
    assert "round its edge" in hauler.part("PaneCard").words.text()
    before = times(hauler)
    assert before > 30
    hauler.type_into("How far it reaches past the pane", "0.6 mm")
    hauler.settle(night=False)
    assert 0 < times(hauler) < before
    hauler.type_into("How far it reaches past the pane", "far")
    assert hauler.window.message.text
    hauler.choose("Made dark", "painted over outside")
    hauler.settle(night=False)
    assert times(hauler) == 0.0 and "nothing that shows" in card.words.text()
    path = tmp_path / "h.gwiazda"
    assert document.save(path) and load(path).plan == document.plan
    document.undo()
    document.undo()
    hauler.settle(night=False)
    assert times(hauler) == pytest.approx(before)


def test_an_offer_mends_it_and_a_lit_pane_says_how_far_light_goes(hauler):
    document = hauler.document
    document.select([PANE])
    hauler.settle(night=False)
    hauler.press("Paint them over outside")
    hauler.settle(night=False)
    assert times(hauler) == 0.0
    document.undo()
    document.select(["green.window.03"])
    hauler.settle(night=False)
    card = hauler.part("ShellCard")
    assert not card.card.isHidden() and "sideways" in card.words.text() and "Round" not in card.words.text()
    document.select(["bow.window.01"])
    hauler.settle(night=False)
    assert hauler.part("ShellCard").card.isHidden(), "a drilled window of grey plastic has no such wall"


def test_a_pane_of_ones_own_is_masked_dark_scraped_and_mended(hauler):
    """From a lit pane: dark by its button, black larger by hand, lit again."""
    document = hauler.document
    document.select(["green.window.01"])
    hauler.settle(night=False)
    hauler.field("Lit share")  # unfolds its card
    hauler.part("LitCard").card.set_open(True)  # of Measure and Light: at Block behind the line of all the others
    hauler.press("Dark")
    hauler.settle(night=False)
    state = next(o for o in document.plan.openings if o.id == "green.window.01")
    assert state.lit == 0.0 and document.assessment.openings[state.id].luminance_cd_m2 > 0
    hauler.type_into("How far it reaches past the pane", "4 mm")
    hauler.settle(night=False)
    assert document.assessment.openings[state.id].luminance_cd_m2 < 0.5
    hauler.press("Lit")
    hauler.settle(night=False)
    assert next(o for o in document.plan.openings if o.id == "green.window.01").lit == 1.0


def test_a_pane_with_no_hole_is_lit_through_the_plastic(hauler):
    from PySide6.QtCore import QPoint, Qt

    document = hauler.document
    document.select(["bow.window.01"])
    hauler.settle(night=False)
    hauler.field("Glazing")  # unfolds its card
    before = document.assessment.openings["bow.window.01"].luminance_cd_m2
    box = hauler.field("no hole: lit through the plastic")
    hauler.bot.mouseClick(box, Qt.MouseButton.LeftButton, pos=QPoint(8, box.height() // 2))
    hauler.settle(night=False)
    pane = next(o for o in document.plan.openings if o.id == "bow.window.01")
    assert not pane.hole and document.undo_label == "Lit through the wall"
    assert 0 < document.assessment.openings[pane.id].luminance_cd_m2 < 0.3 * before, "mid-grey plastic of 1.2 mm"
    document.undo()
    hauler.settle(night=False)
    assert not box.isChecked()


def test_a_clear_shell_of_ones_own_from_an_empty_plan(empty, tmp_path):
    """Drawn, made clear, its panes scraped, one blackened by the brush, found, mended, carried on a strip, saved."""
    from PySide6.QtCore import QPoint, Qt

    document, window, plate = empty.document, empty.window, empty.plate
    plate.set_wipe(1.0)
    empty.key(Qt.Key.Key_B, widget=window)
    empty.drag(QPoint(200, 180), QPoint(560, 280))
    empty.settle(night=False)
    material = empty.field("Material of this part")
    material.setCurrentIndex(material.findData("clear"))
    material.activated.emit(material.currentIndex())
    empty.choose("Window method", "scratch free")
    empty.type_into("Wall thickness", "1.5 mm")
    empty.key(Qt.Key.Key_R, widget=window)
    empty.drag(empty.spot(0.1, 0.5), empty.spot(0.9, 0.5))
    empty.key(Qt.Key.Key_L, widget=window)
    empty.click(empty.spot(0.5, 0.8))
    empty.settle(night=False)
    section = document.plan.sections[0]
    assert section.material == "clear" and section.school == "scratch" and len(document.plan.lamps) == 1
    document.select([section.id])
    empty.choose("Glazing", "frosted one face")
    empty.choose("Lining", "bare")
    pane = document.plan.openings[3]
    empty.key(Qt.Key.Key_O, widget=window)
    at = empty.px(*pane.at)
    empty.drag(at, at + QPoint(2, 0), Qt.KeyboardModifier.ShiftModifier)
    empty.settle(night=False)
    assert next(o for o in document.plan.openings if o.id == pane.id).lit == 0.0
    window.set_station("block")
    empty.key(Qt.Key.Key_S, widget=window)
    document.select([pane.id])
    empty.settle(night=False)
    assert times(empty) > 1
    empty.press("Paint them over outside")
    assert times(empty) == 0.0
    window.set_station("light")
    empty.key(Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier, widget=window)
    empty.click(empty.spot(0.3, 0.5))
    empty.settle(night=False)
    assert len(document.plan.carriers) == 1
    path = tmp_path / "shell.gwiazda"
    assert document.save(path) and load(path).plan == document.plan
    kept = document.plan
    for _ in range(30):
        document.undo()
    assert not document.plan.sections
    for _ in range(30):
        document.redo()
    assert document.plan == kept
