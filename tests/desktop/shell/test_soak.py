"""A quarter of a minute of random hands on the whole window; ``make soak`` for longer."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QSettings

from soak import Soak, growth, resident_mb

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


def test_growth_is_told_from_a_cache_that_fills():
    steady = [(150 * k, 400.0 + 5.0 * (k % 2)) for k in range(24)]
    filling = [(150 * k, min(250.0 + 30.0 * k, 400.0)) for k in range(24)]
    leaking = [(150 * k, 400.0 + 150 * k * 0.05) for k in range(24)]
    assert abs(growth(steady)) < 0.005 and abs(growth(filling)) < 0.005
    assert growth(leaking) == pytest.approx(50.0 / 516.25)  # 50 MB in 1,000 actions
    assert growth(leaking[:9]) is None
    assert 20.0 < resident_mb() < 20_000.0
