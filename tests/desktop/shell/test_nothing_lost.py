"""Leaving, closing, killing, saving over what another wrote: whatever was done is found again."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt

from gwiazda.core.light.staircase import Comparison
from gwiazda.core.parts.materials import Coat
from gwiazda.core.plan import edits
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.core.workshop.drawer_csv import Held
from gwiazda.core.workshop.merge import merged
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop
from gwiazda.desktop.document import Document
from gwiazda.desktop.shell import autosave, recent
from gwiazda.desktop.shell.window import MainWindow

COAT = Coat("my-hull-grey", "Hull grey", "paint", 0.8, 0.3, 12.0, "measured", 0.05)


def rename(document, name):
    assert document.edit("Rename kit", lambda p: edits.set_kit(p, name=name))


@pytest.fixture
def windows(qtbot, application):
    """As many windows as a test asks for; closed at its end."""
    made = []

    def another(path=None):
        window = MainWindow()
        qtbot.addWidget(window)
        window.files.ask = lambda *a: a[2][0]
        if path is not None:
            window.files.open(path)
        made.append(window)
        return window

    yield another
    for window in made:
        window.close()


@pytest.fixture
def plans(tmp_path, deck):
    paths = [tmp_path / "a.gwiazda", tmp_path / "b.gwiazda"]
    for path in paths:
        save(PlanFile(edits.set_kit(deck, name=path.stem.upper())), path)
    return paths


def take_up(bot, window):
    bot.mouseClick(window.message.action, Qt.MouseButton.LeftButton)


def test_a_plan_left_with_changes_is_offered_again_in_another_session(windows, plans, qtbot):
    first = windows(plans[0])
    rename(first.document, "A, not saved")
    first.files.open(plans[1])
    assert first.document.plan.kit.name == "B" and "had unsaved changes" in first.message.text
    first.close()
    second = windows(plans[0])
    assert second.document.plan.kit.name == "A" and "without saving A, not saved" in second.message.text
    take_up(qtbot, second)
    assert second.document.plan.kit.name == "A, not saved" and second.document.path == plans[0]
    assert second.files.save() and load(plans[0]).plan.kit.name == "A, not saved"
    assert autosave.waiting(plans[0]) is None


def test_with_nothing_open_what_was_left_is_offered_too(windows, plans, qtbot):
    first = windows(plans[0])
    rename(first.document, "A, not saved")
    first.close()
    second = windows()
    second.files.offer_recovery()
    assert "a.gwiazda was left with unsaved changes" in second.message.text
    take_up(qtbot, second)
    take_up(qtbot, second)
    assert second.document.plan.kit.name == "A, not saved"


def test_two_new_plans_have_a_place_each(windows, tmp_path, qtbot):
    one, two = windows(), windows()
    rename(one.document, "One")
    rename(two.document, "Two")
    for window in (one, two):
        assert window.files.autosave_now()
    assert len(list(autosave.folder().glob("*.gwiazda"))) == 2
    assert one.files._save(tmp_path / "one.gwiazda")
    assert load(two.files.slot.place).plan.kit.name == "Two", "saving in one deletes nothing of the other"
    two.close()
    third = windows()
    third.files.offer_recovery()
    assert "without saving Two" in third.message.text
    take_up(qtbot, third)
    assert third.document.plan.kit.name == "Two" and third.document.path is None
    fourth = windows()
    fourth.files.offer_recovery()
    assert not fourth.message.text, "it is in use in the third"


def test_what_is_in_use_is_offered_to_no_other_window(windows, plans):
    first = windows(plans[0])
    rename(first.document, "Being worked on")
    assert first.files.autosave_now()
    assert autosave.waiting(plans[0]) is None
    assert not windows(plans[0]).message.text


def test_what_was_offered_and_not_taken_is_not_offered_for_ever_and_not_deleted(windows, plans):
    first = windows(plans[0])
    rename(first.document, "Left")
    first.close()
    second = windows(plans[0])
    rename(second.document, "Gone on with")
    assert second.files.save()
    assert autosave.waiting(plans[0]) is None
    assert [load(p).plan.kit.name for p in autosave.folder().glob("*.gwiazda")] == ["Left"]


def test_clocks_decide_nothing(windows, plans):
    import os

    first = windows(plans[0])
    rename(first.document, "Before the clock was set back")
    first.close()
    (place,) = autosave.folder().glob("*.gwiazda")
    os.utime(place, (1e9, 1e9))
    autosave.tidy()
    assert autosave.waiting(plans[0])[1].plan.kit.name == "Before the clock was set back"


@pytest.mark.parametrize("answer", ["stay", "lose"])
@pytest.mark.parametrize("way", ["close", "leave"])
def test_where_nothing_can_be_kept_leaving_asks(windows, plans, answer, way):
    window = windows(plans[0])
    rename(window.document, "Precious")
    autosave.folder().parent.mkdir(parents=True, exist_ok=True)
    autosave.folder().write_bytes(b"a file where the folder should be")
    asked = []

    def ask(title, words, answers):
        asked.append(words)
        return answers[-1 if answer == "stay" else 0]

    window.files.ask = ask
    left = window.close() if way == "close" else (window.files.open(plans[1]) or window.document.path == plans[1])
    assert left == (answer == "lose")
    assert len(asked) == 1 and "autosave failed" in asked[0] and "would be lost" in asked[0]
    if answer == "stay":
        assert window.document.plan.kit.name == "Precious"
        window.files.ask = lambda title, words, answers: answers[0]


@pytest.mark.parametrize("which", ["Save, and", "Save under", "Don’t"])
def test_a_file_that_somebody_else_has_written_meanwhile(windows, plans, tmp_path, which):
    window = windows(plans[0])
    rename(window.document, "Mine")
    save(PlanFile(edits.set_kit(window.document.plan, name="Theirs")), plans[0])
    theirs = plans[0].read_bytes()
    asked = []

    def ask(title, words, answers):
        asked.append(words)
        return next(a for a in answers if a.startswith(which))

    window.files.ask = ask
    window.files._where_to = lambda *a: tmp_path / "elsewhere.gwiazda"
    saved = window.files.save()
    assert asked == ["a.gwiazda was changed by another window or program since it was opened here."]
    beside = tmp_path / "a.other-1.gwiazda"
    if which == "Save, and":
        assert saved and load(plans[0]).plan.kit.name == "Mine" and beside.read_bytes() == theirs
        rename(window.document, "Mine again")
        assert window.files.save() and len(asked) == 1, "nobody has written it since"
    else:
        assert plans[0].read_bytes() == theirs and not beside.exists()
        assert (tmp_path / "elsewhere.gwiazda").exists() == (which == "Save under")


def test_a_file_that_is_gone_meanwhile_is_written_again(windows, plans):
    window = windows(plans[0])
    rename(window.document, "Mine")
    plans[0].unlink()
    assert window.files.save() and load(plans[0]).plan.kit.name == "Mine"


def test_recent_plans_with_names_that_are_no_text(windows, plans, tmp_path):
    import os

    odd = tmp_path / os.fsdecode(b"deck-\xff.gwiazda")
    odd.write_bytes(plans[0].read_bytes())
    window = windows(odd)
    assert window.document.path == odd
    rename(window.document, "Odd")
    assert window.files.save() and "deck-" in window.message.text and "deck-" in window.about_label.text()
    window.close()
    assert odd.name in [p.name for p in recent.paths()] or not recent.paths()


# -- the workshop ------------------------------------------------------------------------------------------------


def held(amount, where="", part="led-3mm-white"):
    return Held("lamp", part, amount, where)


def drawer(*parts):
    return Workshop().with_drawer({h.key: h for h in parts})


def amounts(workshop):
    return {k[1]: h.amount for k, h in workshop.drawer.items()}


def test_counts_that_changed_in_two_windows_add_up(tmp_path, qtbot):
    save_workshop(drawer(held(20), held(5, part="fuse-holder"), held(7, part="gone")), tmp_path)
    one, two = Document(), Document()
    for d in (one, two):
        assert d.load_workshop(tmp_path) == ()
    one.change_workshop(one.workshop.with_drawer({h.key: h for h in (held(17), held(5, part="fuse-holder"), held(7, part="gone"))}))  # fmt: skip
    two.change_workshop(two.workshop.with_drawer({h.key: h for h in (held(18, "box 2"), held(5, part="fuse-holder"), held(3, part="new"))}))  # fmt: skip
    kept, said = load_workshop(tmp_path)
    assert said == () and amounts(kept) == {"led-3mm-white": 15, "fuse-holder": 5, "new": 3}
    assert kept.drawer["lamp", "led-3mm-white"].where == "box 2" and two.workshop == kept
    one.change_workshop(one.workshop.with_coat(COAT))
    assert (
        amounts(load_workshop(tmp_path)[0]) == amounts(kept)
        and one.workshop.coats
        and amounts(one.workshop) == amounts(kept)
    )
    for d in (one, two):
        d.close()


def test_merging_takes_each_change_once():
    base = drawer(held(10))
    assert amounts(merged(base, base, drawer(held(4)))) == {"led-3mm-white": 4}, "nothing changed here"
    assert amounts(merged(base, drawer(held(4)), base)) == {"led-3mm-white": 4}, "nothing changed there"
    assert amounts(merged(base, Workshop(), base)) == {}, "taken out here"
    assert amounts(merged(base, base, Workshop())) == {}, "taken out there"
    assert amounts(merged(base, drawer(held(2)), drawer(held(1)))) == {"led-3mm-white": 0}, "never less than nothing"
    mine, theirs = Workshop().with_coat(COAT), Workshop().with_coat(COAT._replace(density=2.0))
    assert merged(Workshop(), mine, theirs).coats[COAT.id].density == 0.8, "what was changed here counts"
    assert merged(Workshop(), Workshop(), theirs).coats[COAT.id].density == 2.0
    assert merged(base.with_kept("A", {("lamp", "x"): 2.0}), base, base.with_kept("A", {("lamp", "x"): 2.0})).kept == {}


def test_looks_compared_in_two_windows_are_all_kept_and_forgotten_ones_gone():
    a, b, c = (Comparison((0.5, 1.0, k), "left") for k in (2.0, 3.0, 4.0))
    base = Workshop().with_compared([a])
    both = merged(base, base.with_compared([a, b]), base.with_compared([a, c]))
    assert both.compared == (a, c, b) and both.scale.answers == 3
    assert merged(base, base.with_compared([]), base.with_compared([a, c])).compared == (c,), "forgotten here"
    assert merged(base, base.with_compared([a, a]), base).compared == (a, a), "the same answer once more"


@pytest.mark.parametrize("place", ["file", "missing"])
def test_a_folder_that_can_t_be_had_is_said(tmp_path, place, qtbot):
    folder = tmp_path / "data" / "gwiazda"
    if place == "file":
        folder.parent.write_bytes(b"")
    document = Document()
    document.load_workshop(folder)
    if place == "file":
        with pytest.raises(Exception, match="can't be made"):
            document.change_workshop(document.workshop.with_coat(COAT))
        assert not document.workshop.coats
    else:
        document.change_workshop(document.workshop.with_coat(COAT))
        assert load_workshop(folder)[0].coats
    document.close()
