"""The export sheet, and that it has the same as the command line."""

from __future__ import annotations

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFileDialog

from gwiazda.cli import main
from gwiazda.core.plan import edits
from gwiazda.demos import path_of
from gwiazda.desktop.shell.export.exports import BY_ID, EXPORTS


@pytest.fixture
def sheet(shipped):
    shipped.bot.keyClick(shipped.window, Qt.Key.Key_E, Qt.KeyboardModifier.ControlModifier)
    return shipped.window.files.export_sheet


def pick(sheet, export_id):
    sheet.list.setCurrentRow(next(k for k, e in enumerate(EXPORTS) if e.id == export_id))


def test_the_sheet_lists_what_the_command_line_has(sheet, capsys):
    with pytest.raises(SystemExit):
        main(["export", "--help"])
    help_ = " ".join(capsys.readouterr().out.split())
    shown = [sheet.list.item(k).text() for k in range(sheet.list.count())]
    assert shown == [e.label for e in EXPORTS]
    assert all(f"--{e.id} FILE" in help_ and e.label in help_ for e in EXPORTS)


@pytest.mark.parametrize("export", EXPORTS, ids=[e.id for e in EXPORTS])
def test_each_says_what_it_is_for_and_shows_what_it_is_like(sheet, export):
    pick(sheet, export.id)
    assert sheet.about.text().lower().startswith(export.about[:20].lower())
    assert [sheet.form.itemData(k) for k in range(sheet.form.count())] == list(export.suffixes)
    if export.lacks(sheet.main.document.plan):
        assert not sheet.write.isEnabled() and sheet.lack.text()
    elif export.text is not None:
        assert sheet.preview.text(), "the first lines"
    else:
        assert not sheet.preview.pixmap().isNull(), "a picture of it"


def test_it_writes_in_the_form_that_is_chosen_and_remembers_it(sheet, shipped, tmp_path, monkeypatch):
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "wiring"), a[3]))
    pick(sheet, "circuit")
    sheet.form.setCurrentIndex(sheet.form.findData(".csv"))
    sheet.form.activated.emit(sheet.form.currentIndex())
    sheet.write.click()
    assert (tmp_path / "wiring.csv").read_text().startswith("what,name,part")
    shipped.window.files.open_exports()
    again = shipped.window.files.export_sheet
    assert again.export.id == "circuit" and again.form.currentData() == ".csv"
    again.close()


def test_the_command_line_writes_what_the_sheet_does(tmp_path, capsys):
    plan = str(path_of("bryla"))
    wanted = {
        "parts": "a.csv",
        "stock": "b.csv",
        "steps": "c.ics",
        "show": "d.md",
        "carriers": "e.dxf",
        "pins": "f.csv",
        "sheets": "g.svg",
    }
    options = [x for e, name in wanted.items() for x in (f"--{e}", str(tmp_path / name))]
    assert main(["export", plan, *options]) == 0
    for e, name in wanted.items():
        stem = name.split(".")[0]
        assert any(p.stat().st_size > 20 for p in tmp_path.glob(f"{stem}*")), BY_ID[e].label
    capsys.readouterr()
    assert main(["export", plan, "--loom", "-"]) == 0
    assert capsys.readouterr().out.startswith("what,name,")


@pytest.mark.parametrize(
    ("export_id", "name", "words"),
    [("shopping", "a.txt", "can't be written as"), ("night", "no/such/a.png", "no folder")],
)
def test_a_file_that_cannot_be_is_said(shipped, tmp_path, export_id, name, words):
    shipped.window.files.write_export(export_id, tmp_path / name)
    assert words in shipped.window.message.text and not list(tmp_path.iterdir())


def test_dusk_goes_out_as_a_picture_that_gets_darker(tmp_path):
    """From noon to the dark: the wall behind is darker in each of the frames looked at, the lit panes stay."""
    import numpy as np
    from PIL import Image

    from gwiazda.cli import main
    from gwiazda.demos import path_of

    out = tmp_path / "dusk.gif"
    main(["export", str(path_of("swistak")), "--dusk", str(out), "--seconds", "1", "--size", "320x200"])
    picture = Image.open(out)
    levels = []
    for k in (0, picture.n_frames // 2, picture.n_frames - 1):
        picture.seek(k)
        levels.append(float(np.asarray(picture.convert("L"))[5:15, 5:315].mean()))
    assert picture.n_frames == 25 and levels[0] > levels[1] + 10 > levels[2] + 10


@pytest.mark.parametrize(
    ("kit", "offered"),
    [
        ("Świstak", "świstak-holes.csv"),
        ("A/B: 1/72 ..", "a-b-1-72-holes.csv"),
        ("", "holes.csv"),
        ("x" * 90, f"{'x' * 60}-holes.csv"),
    ],
)
def test_a_file_is_offered_under_the_kits_name(empty, kit, offered):
    empty.document.edit("Name", lambda plan: edits.set_kit(plan, name=kit))
    assert empty.window.files.offered_name("holes", ".csv") == offered
