"""The Block station by mouse and keys: skins, linings, seams, patches, leaks, swatches, panes and colours, the row's curve."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QApplication, QPushButton, QToolButton

from decks import deck_plan
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, lamps_by_section, section_of
from gwiazda.core.plan.storage import load
from gwiazda.desktop.plate.rowcurve import row_of


def buttons(bench) -> list[QPushButton]:
    QApplication.processEvents()
    return [b for b in bench.window.inspector.findChildren(QPushButton) if b.isVisibleTo(bench.window)]


def press(bench, words: str) -> None:
    button = next(b for b in buttons(bench) if b.text().startswith(words))
    bench.bot.mouseClick(button, Qt.MouseButton.LeftButton)


def press_small(bench, name: str) -> None:
    QApplication.processEvents()
    tools = bench.window.inspector.panel.findChildren(QToolButton)
    found = [b for b in tools if b.accessibleName() == name and b.isVisibleTo(bench.window)]
    assert found, name
    bench.bot.mouseClick(found[0], Qt.MouseButton.LeftButton)


@pytest.fixture
def block(bench):
    bench.key(Qt.Key.Key_3, widget=bench.window)
    assert bench.window.station == "block"
    return bench


@pytest.fixture
def deck(block):
    block.document.select(["deck1"])
    block.settle(night=False)
    return block


def test_a_leak_is_found_and_settled_by_what_is_offered(shipped):
    bench = shipped
    bench.bot.mouseClick(bench.window.meters.faces["leak"], Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    assert bench.window.station == "block" and bench.document.selection == ("deck1",)
    offer = next(b for b in buttons(bench) if b.text().startswith("2 black coats, to be safe"))
    assert "fixed" in offer.text() and "×" in offer.text()
    bench.bot.mouseClick(offer, Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    assert find(bench.document.plan, "deck1").inside[0].coats == 3
    assert bench.window.meters.faces["leak"].meter.state == "fine"
    bench.document.undo()
    bench.settle(night=False)
    assert bench.window.meters.faces["leak"].meter.value > 1


def test_hot_spot_and_dark_row_are_settled_by_offers_too(shipped):
    bench = shipped
    for subject, words in (("hangar.window.02", "Move that lamp clear of it"), ("hull", "Spread its lamps evenly")):
        bench.document.select([subject])
        bench.settle(night=False)
        press(bench, words)
        bench.settle(night=False)
    assert {f.rule for f in bench.document.findings} == {"leak-wall", "tight-bend", "passage-full", "wire-over-pane"}


def test_coats_are_added_counted_and_taken_off(deck, tmp_path):
    deck.choose("Add a coat inside", "silver")
    deck.choose("Add a coat outside", "grey primer")
    assert [x.coat for x in find(deck.document.plan, "deck1").inside] == ["flat-black", "silver"]
    assert find(deck.document.plan, "deck1").outside[-1].coat == "grey-primer"
    press_small(deck, "One coat of silver paint more")
    assert find(deck.document.plan, "deck1").inside[-1].coats == 2
    press_small(deck, "silver paint further in")
    press_small(deck, "flat black further in")
    press_small(deck, "One lining coat more")
    assert find(deck.document.plan, "deck1").lining_coats == 3
    for _ in range(2):
        press_small(deck, "One coat of silver paint less")
    assert [x.coat for x in find(deck.document.plan, "deck1").inside] == ["flat-black"]
    path = tmp_path / "skin.gwiazda"
    assert deck.window.files._save(path) and load(path).plan == deck.document.plan
    assert "Density" in deck.part("SkinCard").words.text()


def test_one_face_is_lined_otherwise(deck):
    assert deck.field("Lining of that face").isHidden(), "the face first, then what it is lined with"
    deck.choose("Face lined otherwise", "roof")
    deck.choose("Lining of that face", "silver")
    assert find(deck.document.plan, "deck1").face_linings[0].lining == "silver"
    deck.settle(night=False)
    assert "roof is lined silver" in deck.part("SkinCard").words.text()
    deck.choose("Lining of that face", "as the rest")
    assert find(deck.document.plan, "deck1").face_linings == ()


def test_the_linings_are_reckoned_side_by_side_and_one_is_taken(deck):
    rows = [b.text() for b in buttons(deck) if "cd/m²" in b.text()]
    assert [r.split(":")[0].split(",")[0] for r in rows] == [
        "flat white",
        "silver paint",
        "flat black",
        "bare wall",
    ]
    press(deck, "silver paint:")
    assert find(deck.document.plan, "deck1").lining == "silver"
    deck.settle(night=False)
    assert any(b.text().startswith("silver paint, as now") for b in buttons(deck))


def test_the_fewest_coats_are_found_and_taken(deck):
    press(deck, "Find the fewest coats")
    found = [b for b in buttons(deck) if b.text().endswith("tight") and "coat" in b.text() and "of" in b.text()]
    assert found
    deck.bot.mouseClick(found[0], Qt.MouseButton.LeftButton)
    deck.settle(night=False)
    layer = find(deck.document.plan, "deck1").inside[0]
    assert found[0].text().startswith(f"{layer.coats} coat")
    assert not [f for f in deck.document.findings if f.rule == "leak-wall"]


def test_seams_and_patches(deck):
    deck.choose("Add a seam", "front wall")
    seam = find(deck.document.plan, "deck1").seams[-1]
    deck.settle(night=False)
    assert [f for f in deck.document.findings if f.rule == "leak-seam" and f.subject == "deck1"]
    deck.type_into(f"Gap of {seam.id}", "0.02 mm")
    deck.choose(f"Cover of {seam.id}", "foil tape")
    assert find(deck.document.plan, "deck1").seams[-1].bridged == "foil-tape"
    assert find(deck.document.plan, "deck1").seams[-1].gap_mm == 0.02
    deck.choose("Add a patch", "roof")
    patch = find(deck.document.plan, "deck1").patches[0]
    deck.choose(f"Stuff of {patch.id}", "putty")
    assert find(deck.document.plan, "deck1").patches[0].coat == "putty"
    press(deck, "Take it off")
    press(deck, "It isn’t there")
    assert find(deck.document.plan, "deck1").patches == ()
    deck.choose("Softened by", "vellum")
    assert find(deck.document.plan, "deck1").soften == ("vellum",)
    deck.type_into("Gap of " + find(deck.document.plan, "deck1").seams[0].id, "wide")
    assert "It takes" in deck.window.message.text


def test_the_drawer_says_what_is_tight_and_leads_there(block):
    texts = [text for _, _, text in block.window.drawer.places]
    block.window.drawer.repaint()
    texts = [text for _, _, text in block.window.drawer.places]
    assert len(texts) == 6 and all("no leak" in t for t in texts)
    rect, item, _ = block.window.drawer.places[1]
    block.bot.mouseClick(block.window.drawer, Qt.MouseButton.LeftButton, pos=rect.center().toPoint())
    assert block.document.selection == (item,)


def test_leaks_are_listed_by_how_visible_and_shown_on_hover(shipped):
    bench = shipped
    bench.window.set_station("block")
    bench.document.select(())
    bench.settle(night=False)
    rows = [b.text() for b in buttons(bench) if "wall" in b.text() and "×" in b.text() and "Deck 1" in b.text()]
    times = [float(r.split(": ")[1].split(" ")[0]) for r in rows]
    assert len(times) >= 4 and times == sorted(times, reverse=True)
    press(bench, "Deck 1, front wall")
    assert bench.document.selection == ("deck1",)
    box = section_of(bench.document.plan, "deck1").box
    bench.plate.set_wipe(0.0)
    bench.settle(night=False)
    text = bench.plate.hover_text(QPointF(bench.px(box.at[0] + 8, 0, box.at[2] + 1)))
    assert "leaks" in text and "here" in text


def test_swatches_of_ones_own_paint(block, tmp_path, monkeypatch):
    block.document.load_workshop(tmp_path / "data")
    block.document.select(())
    block.settle(night=False)
    card = block.part("SwatchCard")
    try:
        block.type_into("Reading of the meter", "0 1850")
        assert "such as 2 1850 12.4" in block.window.message.text
        for text in ("0 1850 400", "1 1850 52", "2 1850 6.8"):
            block.type_into("Reading of the meter", text)
        assert card.fitted is not None and card.fitted.density == pytest.approx(0.885, abs=0.01)
        assert "±" in card.words.text()
        press(block, "Keep it in my catalogue")
        assert "no name" in block.window.message.text
        block.type_into("Name of your paint", "Blue lid")
        press(block, "Keep it in my catalogue")
        assert block.document.catalogue.coats["my-blue-lid"].basis == "measured"
        block.document.select(["deck1"])
        block.settle(night=False)
        block.choose("Add a coat inside", "Blue lid")
        assert find(block.document.plan, "deck1").inside[-1].coat == "my-blue-lid"
        assert block.document.load_workshop(tmp_path / "data") == ()
        assert "my-blue-lid" in block.document.catalogue.coats
        (tmp_path / "data" / "coats.json").write_text("{")
        (said,) = block.document.load_workshop(tmp_path / "data")
        assert "Own coats" in said and "coats.unreadable-1.json" in said
        block.document.select(())
        block.settle(night=False)
        press(block, "Simulated meter")
        again = block.part("SwatchCard")
        assert again.fitted.density == pytest.approx(1.6, abs=0.1)
        press(block, "0 coats")
        assert len(again.readings) == 2 and "2 readings" in again.words.text()
        press(block, "Start again")
        assert again.readings == []
    finally:
        block.document.load_workshop(tmp_path / "none")


def test_the_pane_and_the_colour_desk(block):
    block.document.select(["deck1.window.01"])
    block.settle(night=False)
    pane, colour = block.part("PaneCard"), block.part("ColourCard")
    assert "evenly lit" in pane.words.text().lower() and "Pane:" in pane.picture.accessibleName()
    before = block.document.assessment.openings["deck1.window.01"].luminance_cd_m2
    block.choose("Add a tint coat", "red")
    block.choose("Add a tint coat", "red")
    assert find(block.document.plan, "deck1.window.01").tints[0].coats == 2
    block.settle(night=False)
    assert block.document.assessment.openings["deck1.window.01"].luminance_cd_m2 < before
    assert colour.dark._colour.red() > 2 * colour.dark._colour.blue()
    press(block, "red, 2 coats")
    assert find(block.document.plan, "deck1.window.01").tints[0].coats == 1
    colour.propose(QColor("#e0402a"))
    found = [b for b in buttons(block) if "kept" in b.text()]
    assert len(found) == 3
    block.bot.mouseClick(found[0], Qt.MouseButton.LeftButton)
    assert "meant for a" in block.window.message.text
    block.document.undo()
    block.type_into("Gap around the lens", "0.1 mm")
    block.choose("Opens into", "Deck 2")
    assert find(block.document.plan, "deck1.window.01").into == "deck2"
    block.settle(night=False)
    assert "leads into" in block.plate.hover_text(QPointF(block.px(*find(block.document.plan, "deck1.window.01").at)))


def test_the_rows_curve_follows_a_dragged_lamp(block):
    block.document.select(["deck1.lamp.03"])
    row = row_of(block.plate)
    assert row is not None and row.section == "deck1" and row.side == "port"
    worst = block.document.assessment.sections["deck1"].evenness
    picture = block.plate.grab().toImage()
    lamp = find(block.document.plan, "deck1.lamp.03")
    block.drag(block.px(*lamp.at), block.px(*lamp.at) + QPoint(60, 0))
    block.settle(night=False)
    assert block.document.assessment.sections["deck1"].evenness != worst
    assert block.plate.grab().toImage() != picture
    block.document.select(["mast.masthead.01"])
    assert row_of(block.plate) is None
    block.document.select(["deck1.window.03"])
    assert "deck1.window.03" in row_of(block.plate).ids


def test_block_on_an_empty_plan_and_in_the_dark_room(empty):
    empty.window.set_station("block")
    empty.window.set_theme("darkroom")
    empty.settle(night=False)
    assert "Nothing comes near" in " ".join(
        w.text() for w in empty.window.inspector.panel.findChildren(type(empty.window.kit_label))
    )
    empty.plate.set_wipe(1.0)
    empty.key(Qt.Key.Key_B, widget=empty.window)
    empty.drag(QPoint(200, 200), QPoint(500, 320))
    empty.key(Qt.Key.Key_R, widget=empty.window)
    empty.drag(QPoint(230, 260), QPoint(470, 260))
    empty.key(Qt.Key.Key_L, widget=empty.window)
    empty.click(QPoint(350, 280))
    empty.key(Qt.Key.Key_3, widget=empty.window)
    empty.settle(night=False)
    section = empty.document.plan.sections[0].id
    empty.document.select([section])
    empty.settle(night=False)
    assert [f.rule for f in empty.document.findings if f.topic == "leak"] == ["leak-wall"]
    press(empty, "Find the fewest coats")
    press(empty, "3 coats of flat black")
    empty.settle(night=False)
    assert not [f for f in empty.document.findings if f.topic in ("leak", "skin", "pane")]
    assert edits.delete(empty.document.plan, [section]).sections == ()
    empty.window.set_theme("bench")


def test_with_many_sections_each_drawer_shows_those_that_matter(empty):
    """Forty alike sections, one of them brighter than wanted by far: its column is there, and each can be read."""
    one = deck_plan(windows=4, lamps=1)
    plan, first = one, one.sections[0]
    for i in range(39):
        plan, _ = edits.duplicate(plan, [first.id], (200.0 * (i + 1), 0.0, 0.0))
    bright = plan.sections[30]
    homes = lamps_by_section(plan.sections, plan.lamps)
    plan = edits.set_resistor(plan, [key for key, home in homes.items() if home == bright.id], 1.0)
    empty.document.edit("Forty decks", lambda _: plan)
    empty.settle(night=False)
    for station in ("measure", "light", "block"):
        empty.window.set_station(station)
        empty.document.select([plan.sections[20].id])
        empty.window.drawer.repaint()
        places = empty.window.drawer.places
        assert 5 < len(places) < 20, station
        assert min(rect.width() for rect, _, _ in places) > 60
        assert plan.sections[20].id in [item for _, item, _ in places], station
    empty.window.set_station("light")
    empty.window.drawer.repaint()
    assert bright.id in [item for _, item, _ in empty.window.drawer.places]
