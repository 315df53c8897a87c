"""Half a minute of random hands on the whole window; ``make soak`` for longer."""

from __future__ import annotations

from soak import Soak

SECONDS = 30


def test_random_hands_break_nothing(empty, monkeypatch):
    from PySide6.QtGui import QDesktopServices
    from PySide6.QtWidgets import QColorDialog, QFileDialog, QMenu

    for kind, name in ((QFileDialog, "getOpenFileName"), (QFileDialog, "getSaveFileName"), (QColorDialog, "getColor"), (QMenu, "exec"), (QDesktopServices, "openUrl")):  # fmt: skip
        monkeypatch.setattr(kind, name, getattr(kind, name))  # what the soak puts in their place goes again
    soak = Soak(empty.window, seed=8)
    count = soak.run(SECONDS)
    assert not soak.faults, soak.faults[0]
    assert count > 20
