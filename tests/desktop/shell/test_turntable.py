"""The model from anywhere as files: a picture, once round as an animation, by the window and the command line."""

from __future__ import annotations

import io
import itertools

import numpy as np
import pytest
from PIL import Image, ImageSequence

from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.storage import PlanFile, save
from gwiazda.desktop.shell.export.turntable import Shot, round_image, write_round

SIZE = (160, 90)


@pytest.fixture
def lit(deck, application):
    return PlanFile(deck), assess(deck, built_in())


def test_a_turntable_goes_once_round_and_can_be_stopped(lit, tmp_path):
    seen: list[float] = []
    for name in ("turn.gif", "turn.apng"):
        path = write_round(
            *lit, tmp_path / name, Shot(SIZE), frames=6, progress=lambda share: seen.append(share) is None or True
        )
        with Image.open(path) as picture:
            frames = [np.asarray(f.convert("RGB"), dtype=float) for f in ImageSequence.Iterator(picture)]
        assert len(frames) == 6 and frames[0].shape == (90, 160, 3)
        assert all(np.abs(a - b).mean() > 0.05 for a, b in itertools.pairwise(frames)), "it turns"
    assert seen and max(seen) <= 1.0
    with pytest.raises(PlanError, match="stopped"):
        write_round(*lit, tmp_path / "cut.gif", Shot(SIZE), frames=6, progress=lambda share: False)
    assert not (tmp_path / "cut.gif").exists()


def test_a_still_is_the_picture_of_that_eye(lit, tmp_path):
    path = write_round(*lit, tmp_path / "still.png", Shot(SIZE, 60.0, 10.0))
    image = round_image(*lit, Shot(SIZE, 60.0, 10.0))
    with Image.open(io.BytesIO(path.read_bytes())) as picture:
        written = np.asarray(picture.convert("RGB"))
    assert written.shape == (90, 160, 3)
    assert tuple(written[45, 80]) == image.pixelColor(80, 45).getRgb()[:3]


@pytest.mark.parametrize(
    ("name", "frames", "words"),
    [("x.tif", 36, "can't be written as “.tif”"), ("x.gif", 2, "4 to 180"), ("x", 36, "“x” has no ending")],
)
def test_what_cannot_be_written_is_said(lit, tmp_path, name, frames, words):
    with pytest.raises(GwiazdaError, match=words):
        write_round(*lit, tmp_path / name, Shot(SIZE), frames=frames)


def test_nothing_to_walk_round(application, tmp_path):
    with pytest.raises(PlanError, match="nothing to walk round"):
        write_round(PlanFile(Plan()), assess(Plan(), built_in()), tmp_path / "x.png", Shot(SIZE))


def test_by_the_command_line(lit, tmp_path, capsys):
    save(lit[0], tmp_path / "deck.gwiazda")
    plan, out = str(tmp_path / "deck.gwiazda"), tmp_path / "eye.png"
    assert main(["export", plan, "--round", str(out), "--eye=-40,12", "--size", "160x90"]) == 0
    with Image.open(out) as picture:
        assert picture.size == SIZE
    turning = str(tmp_path / "turn.gif")
    assert main(["export", plan, "--round", turning, "--frames", "5", "--size", "80x64"]) == 0
    with Image.open(turning) as picture:
        assert picture.n_frames == 5
    assert main(["export", plan, "--round", turning, "--frames", "500"]) == 2 and "4 to 180" in capsys.readouterr().err
    for eye in ("bow", "1", "10,95", "nan,0", "400,0"):
        assert main(["export", plan, "--round", str(out), f"--eye={eye}"]) == 2
        assert "AZIMUTH,HEIGHT" in capsys.readouterr().err


def test_36_or_72_frames_as_is_chosen_on_the_sheet(lit, application, tmp_path, monkeypatch):
    from PySide6.QtWidgets import QFileDialog

    from gwiazda.desktop.shell.window import MainWindow

    window, asked = MainWindow(), []
    window.document.take_file(lit[0], None)
    monkeypatch.setattr(window.files, "write_export", lambda what, path, **how: asked.append((what, path.name, how)))
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "a.gif"), a[3]))
    for frames in ("36", "72"):
        window.files.open_exports()
        sheet = window.files.export_sheet
        sheet.list.setCurrentRow(
            next(k for k in range(sheet.list.count()) if sheet.list.item(k).text() == "From anywhere")
        )
        sheet.form.show_value(".gif")
        sheet.frames.show_value(frames)
        sheet.write.click()
    assert asked == [("round", "a.gif", {"frames": 36}), ("round", "a.gif", {"frames": 72})]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: ("", ""))
    window.files.open_exports()
    assert window.files.export_sheet.export.id == "round", "what was chosen last stands there again"
    window.files.export_sheet.write.click()
    assert len(asked) == 2
    window.close()
