"""A quarter of a minute of random hands on the whole window; ``make soak`` for longer."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QSettings

from soak import Soak

SECONDS = 15


@pytest.mark.usefixtures("own_window")
def test_random_hands_break_nothing(empty, monkeypatch):
    from PySide6.QtGui import QDesktopServices
    from PySide6.QtWidgets import QColorDialog, QFileDialog, QMenu

    for kind, name in ((QFileDialog, "getOpenFileName"), (QFileDialog, "getSaveFileName"), (QColorDialog, "getColor"), (QMenu, "exec"), (QDesktopServices, "openUrl")):  # fmt: skip
        monkeypatch.setattr(kind, name, getattr(kind, name))  # what the soak puts in their place goes again
    settings = QSettings()
    before = {key: settings.value(key) for key in settings.allKeys()}
    soak = Soak(empty.window, seed=8)
    try:
        count = soak.run(SECONDS)
    finally:
        # The hands have changed the theme, the size of text and which cards are open.
        empty.window.set_theme("bench")
        empty.window.set_text_size(100)
        settings.clear()
        for key, value in before.items():
            settings.setValue(key, value)
    assert not soak.faults, soak.faults[0]
    assert count > 10
