"""The shipped type family, and fonts of it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QFont, QFontDatabase

from gwiazda.desktop.theme.palette import FAMILY, FIGURES, TEXT_PX

_FILES = (
    "Barlow_400Regular.ttf", "Barlow_500Medium.ttf", "Barlow_600SemiBold.ttf",
    "BarlowSemiCondensed_400Regular.ttf", "BarlowSemiCondensed_500Medium.ttf", "BarlowSemiCondensed_600SemiBold.ttf",
)  # fmt: skip


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    folder = Path(__file__).parent.parent / "assets" / "fonts"
    for name in _FILES:
        QFontDatabase.addApplicationFont(str(folder / name))


def text_font(px: int = TEXT_PX, weight: QFont.Weight = QFont.Weight.Normal) -> QFont:
    return _font(FAMILY, px, weight)


def figure_font(px: int = TEXT_PX, weight: QFont.Weight = QFont.Weight.DemiBold) -> QFont:
    """The condensed cut, for figures and tables."""
    return _font(FIGURES, px, weight)


def _font(family: str, px: int, weight: QFont.Weight) -> QFont:
    font = QFont(family)
    font.setPixelSize(px)
    font.setWeight(weight)
    return font
