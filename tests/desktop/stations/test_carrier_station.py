"""What holds the lamps, by hand: proposed, dragged, cut to size, judged, undone, saved, and taken out in every form."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton

from gwiazda.core.plan.model import Carrier
from gwiazda.core.plan.storage import load


def press(bench, words: str) -> None:
    button = next(b for b in bench.window.inspector.panel.findChildren(QPushButton) if b.text().startswith(words))
    card = button.parentWidget()
    while not hasattr(card, "fold"):
        card = card.parentWidget()
    if not card.is_open:
        bench.bot.mouseClick(card.fold, Qt.MouseButton.LeftButton)
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)
    bench.settle(night=False)


@pytest.fixture
def deck(bench):
    """Szron at Light with deck 2 picked, all of its works side shown."""
    bench.window.set_station("light")
    bench.plate.set_wipe(1.0)
    bench.document.select(["deck2"])
    bench.settle(night=False)
    return bench


def carrier(bench) -> Carrier:
    return bench.document.plan.carriers[-1]


def test_proposed_dragged_cut_and_undone(deck, tmp_path):
    document = deck.document
    press(deck, "Propose a carrier")
    first = carrier(deck)
    assert first.form == "strip" and document.selection == (first.id,)
    assert "4 lamps" in deck.part("CarrierCard").facts.text() and "to spare" in deck.part("WayInCard").way.text()
    assert len(deck.part("PatternCard").picture.pieces) == 1
    # Dragged on the plate it takes its lamps along.
    before = {p.id: p.at for p in document.plan.lamps}
    here = deck.px(*first.at)
    deck.key(Qt.Key.Key_S)
    deck.drag(here, here + deck.px(10, 0, 0) - deck.px(0, 0, 0))
    deck.settle(night=False)
    moved = carrier(deck)
    shift = moved.at[0] - first.at[0]
    assert shift == pytest.approx(10, abs=0.8)
    lamps = [p for p in document.plan.lamps if p.id.startswith("deck2.lamp")]
    assert all(p.at[0] - before[p.id][0] == pytest.approx(shift) for p in lamps)
    # An edge dragged with the carrier tool cuts it longer at that end alone.
    deck.key(Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    assert deck.plate.tool.id == "carrier"
    end = moved.at[0] + moved.size[0] / 2
    edge = deck.px(end, moved.at[1], moved.at[2])
    deck.drag(edge, edge + deck.px(6, 0, 0) - deck.px(0, 0, 0))
    deck.settle(night=False)
    longer = carrier(deck)
    assert longer.size[0] == pytest.approx(moved.size[0] + 6, abs=0.8)
    assert longer.at[0] - longer.size[0] / 2 == pytest.approx(moved.at[0] - moved.size[0] / 2, abs=1e-6)
    path = tmp_path / "k.gwiazda"
    assert document.save(path) and load(path).plan == document.plan
    for _ in range(3):
        document.undo()
    assert document.plan.carriers == () and {p.id: p.at for p in document.plan.lamps} == before


def test_another_form_a_sheet_and_what_does_not_go_in(deck):
    press(deck, "Propose a carrier")
    deck.choose("Form", "Tray")
    deck.settle(night=False)
    panel = deck.part("PatternCard")
    assert carrier(deck).form == "tray" and len(panel.picture.pieces) == 5
    deck.type_into("Dividing wall", "10 %")
    deck.settle(night=False)
    assert carrier(deck).divider == pytest.approx(0.1) and len(panel.picture.pieces) == 6
    deck.type_into("Height", "0.2 mm")
    deck.settle(night=False)
    assert "thicker than the carrier" in deck.part("CarrierCard").facts.text()
    assert any(f.rule == "carrier-too-thin" for f in deck.document.findings)
    deck.document.undo()
    deck.choose("Inserted through", "the bow")
    deck.type_into("Width", "90 mm")
    deck.settle(night=False)
    assert "too large" in (way := deck.part("WayInCard").way.text()) and "would go in" in way
    finding = next(f for f in deck.document.findings if f.rule == "carrier-too-large")
    assert finding.severity == "stop" and "90" in finding.sentence
    deck.type_into("Width", "wide")
    assert deck.window.message.text


def test_drawn_on_the_plate_and_nothing_to_hold_said(deck):
    document = deck.document
    deck.key(Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    section = next(s for s in document.plan.sections if s.id == "deck3")
    x, y, z = section.box.centre
    a, b = deck.px(x - 20, y, z - 2), deck.px(x + 20, y, z + 4)
    deck.drag(a, b)
    deck.settle(night=False)
    drawn = carrier(deck)
    assert drawn.section == "deck3" and drawn.size[0] == pytest.approx(40, abs=1)
    mast = next(s for s in document.plan.sections if s.id == "mast")
    deck.click(deck.px(*mast.box.centre))
    assert "no lamp in it to hold" in deck.window.message.text and len(document.plan.carriers) == 1
    deck.click(deck.px(-500, 0, 300))
    assert "no section here" in deck.window.message.text


@pytest.mark.parametrize("suffix", ["svg", "dxf", "stl", "pdf"])
def test_taken_out_in_every_form(deck, tmp_path, suffix, monkeypatch):
    press(deck, "Propose a carrier")
    path = tmp_path / f"carriers.{suffix}"
    monkeypatch.setattr(deck.window.files, "_where_to", lambda *_: path)
    press(deck, "Cutting pattern")
    assert path.stat().st_size > 200 and "Written" in deck.window.message.text


def test_none_to_take_out_is_said(deck, tmp_path):
    deck.window.files.write_export("carriers", tmp_path / "a.svg")
    assert "Nothing holds lamps" in deck.window.message.text and not (tmp_path / "a.svg").exists()


def test_a_lens_is_chosen_scraped_and_taken_out_again(empty):
    from gwiazda.demos import path_of

    empty.document.open(path_of("bryla"), as_demo=True)
    empty.window.set_station("light")
    document = empty.document
    document.select(["bow.docking.starboard"])
    empty.settle(night=False)
    assert any(f.rule == "lens-backed" for f in document.findings)
    box = empty.field("silver still on its back")
    box.setFocus()
    empty.key(Qt.Key.Key_Space, widget=box)
    empty.settle(night=False)
    assert not any(f.rule == "lens-backed" for f in document.findings)
    empty.choose("Lens made from", "dome of white glue")
    empty.settle(night=False)
    lens = document.plan.openings[-1].lens
    assert lens.made == "glue" and "to cure" in empty.part("LensCard").words.text()
    empty.type_into("Bearing lip", "2 mm")
    assert "leaves no hole" in empty.window.message.text, "a lip that leaves nothing is refused, with what would fit"
    empty.choose("Lens made from", "none")
    assert document.plan.openings[-1].lens is None
