"""Something is wrong behind a closed shell, on a real window: what is offered, and what is taken into the build."""

from __future__ import annotations

from PySide6.QtCore import Qt

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Seal, copy_unchecked
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.desktop.widgets.offer import OfferButton


def closed(bench, section: str = "deck1") -> None:
    seal = Seal(id="seal.test", section=section)
    bench.document.edit("Closed", lambda plan: copy_unchecked(plan, seals=(*plan.seals, seal)))


def test_a_dark_lamp_of_a_closed_deck_is_mended_by_what_is_pressed_undone_and_kept_in_the_file(bench, tmp_path):
    bench.window.set_station("bench")
    closed(bench)
    bench.document.select(["deck1.lamp.02"])
    bench.settle(night=False)
    bench.choose("What is wrong", "it is dark")
    bench.settle(night=False)
    card = bench.part("RescueCard")
    rows = card.card.findChildren(OfferButton)
    assert [o.remedy.id for o in card.offers][:2] == ["outside", "lead hole"] and card.offers[-1].remedy.id == "live"
    assert all(r.outcome for r in rows)
    before = bench.document.plan
    bench.press("Draw it out by its lead")
    own = bench.document.plan.own_steps[len(before.own_steps) :]
    assert [o.kind for o in own] == ["mend-leads", "mend-thread", "mend-leads", "test"]
    assert all(o.section == "deck1" for o in own)
    bench.window.set_station("build")
    path = tmp_path / "mended.gwiazda"
    save(PlanFile(bench.document.plan, dict(bench.document.pictures)), path)
    assert load(path).plan == bench.document.plan
    bench.document.undo()
    assert bench.document.plan == before


def test_what_was_seen_dark_stands_there_to_be_picked(bench):
    bench.window.set_station("bench")
    closed(bench)
    bench.document.edit(
        "Read", lambda plan: edits.add_entry(plan, "reading", what="lit", place="deck1.lamp.02", value=0.0)[0]
    )
    bench.document.select([])
    bench.settle(night=False)
    card = bench.part("RescueCard")
    rows = [r for r in card.card.findChildren(OfferButton) if "dark" in r.words]
    assert rows
    bench.bot.mouseClick(rows[0], Qt.MouseButton.LeftButton)
    bench.settle(night=False)
    assert bench.document.selection == ("deck1.lamp.02",)
    assert bench.part("RescueCard").trouble.kind == "dark"


def test_what_makes_no_sense_is_said_and_nothing_is_offered(bench):
    bench.window.set_station("bench")
    mast = next(p for p in bench.document.plan.lamps if abs(p.at[1]) < 1.0 and p.mount == "outside")
    bench.document.select([mast.id])
    bench.settle(night=False)
    bench.choose("What is wrong", "left for right")
    bench.settle(night=False)
    card = bench.part("RescueCard")
    assert card.offers == () and "mirror image" in card.words.text()
