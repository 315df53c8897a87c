"""The slider through the build, on a real window: what is open and reached at each step, on the plate and in the round."""

from __future__ import annotations

from PySide6.QtCore import Qt

from gwiazda.desktop.stations.build.days import days_of, order_of, stage_of


def test_the_slider_goes_through_the_steps_and_the_plate_and_the_round_follow(bench):
    window, document = bench.window, bench.document
    window.set_station("build")
    bench.settle(night=False)
    card = bench.part("ThroughBuildCard")
    order = order_of(days_of(document))
    assert card.slider.maximum() == len(order) == len(days_of(document).steps)
    assert "As it stands" in card.words.text() and "open at its roof: fingers to" in card.words.text()
    assert not stage_of(document).signs  # nothing is drawn until a step is looked at
    card.slider.setFocus()
    bench.bot.keyClick(card.slider, Qt.Key.Key_End)
    bench.settle(night=False)
    assert document.step == order[-1]
    stage = stage_of(document)
    assert "deck1" not in stage.opened and {s.state for s in stage.signs} == {"fine", "stop"}
    words = bench.part("ThroughBuildCard").words.text()
    assert "<b>Deck 1</b>, closed: nothing to" in words
    before = window.plate.grab().toImage()
    bench.bot.keyClick(bench.part("ThroughBuildCard").slider, Qt.Key.Key_Home)
    bench.settle(night=False)
    assert document.step == "" and "deck1" in stage_of(document).opened
    assert window.plate.grab().toImage() != before
    window.walk_round()
    bench.settle()
    assert "deck1" in window.plate.round.frame.wish.opened
    document.pick_step(order[-1])
    bench.settle()
    assert "deck1" not in window.plate.round.frame.wish.opened
    window.set_station("light")
    bench.settle()
    assert window.plate.stage is None and window.plate.round.frame.wish.opened == frozenset()


def test_another_wall_is_open_where_it_is_said_so(bench):
    bench.window.set_station("measure")
    bench.document.select(["deck2"])
    bench.settle(night=False)
    bench.choose("Open until closed", "floor")
    section = next(s for s in bench.document.plan.sections if s.id == "deck2")
    assert section.lid == "bottom"
    bench.document.undo()
    assert next(s for s in bench.document.plan.sections if s.id == "deck2").lid == "top"
