"""A board soldered on strip board, on a real window: chosen, turned over, printed, undone."""

from __future__ import annotations

from PySide6.QtCore import Qt

from gwiazda.core.plan import edits
from gwiazda.core.protoboard.layout import joined, wanted


def test_a_timer_is_laid_out_where_it_is_chosen_and_turned_over(bench):
    document = bench.document
    bench.window.set_station("animate")
    before = len(document.plan.boards)
    document.edit("A board", lambda plan: edits.add_board(plan, "timer-cmos")[0])
    board = document.plan.boards[-1]
    assert len(document.plan.boards) == before + 1
    document.select([board.id])
    bench.settle(night=False)
    bench.choose("How it is made", "strip board")
    bench.settle(night=False)
    card = bench.part("SolderedBoardCard")
    assert "R1, R2" in card.words.text() and card.layout is None
    for name, value in (("R1", "1k"), ("R2", "47k"), ("Capacitor", "10 µF")):
        bench.type_into(name, value)
    bench.settle(night=False)
    card = bench.part("SolderedBoardCard")
    assert card.layout is not None and joined(card.layout) == wanted(card.boards[0].components)
    assert card.picture.isVisibleTo(bench.window) and "from above" in card.picture.accessibleName()
    bench.bot.mouseClick(card.turn, Qt.MouseButton.LeftButton)
    assert "from below" in card.picture.accessibleName() and not card.picture.grab().isNull()
    # Something else of the plan changes while a layout is under way: it comes all the same.
    card._asked = None
    card.say()
    document.edit("Renamed", lambda plan: edits.set_fields(plan, [plan.lamps[0].id], name="Bow"))
    bench.settle(night=False)
    assert bench.part("SolderedBoardCard").layout is not None
    document.undo()
    document.undo()
    bench.settle(night=False)
    assert "R1, R2" in bench.part("SolderedBoardCard").words.text()


def test_the_resistors_go_onto_as_many_boards_as_they_take(bench):
    bench.window.set_station("wire")
    bench.settle(night=False)
    bench.choose("Where resistors sit", "pad board")
    bench.settle(night=False)
    card = bench.part("ResistorBoardCard")
    assert bench.document.plan.loom.resistors == "pad board"
    assert len(card.boards) > 1 and card.layout is not None and card.layout.kind == "pad"
    first = card.boards[card.at].name
    bench.bot.mouseClick(card.other, Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    assert card.boards[card.at].name != first and "Board 2 of" in card.words.text()
