"""The shipped type family, and fonts of it."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QFont, QFontDatabase

from gwiazda.desktop.theme.palette import FAMILY, FIGURES, TEXT_PX
from gwiazda.desktop.theme.sizes import text_factor

_FILES = (
    "Barlow_400Regular.ttf", "Barlow_500Medium.ttf", "Barlow_600SemiBold.ttf",
    "BarlowSemiCondensed_400Regular.ttf", "BarlowSemiCondensed_500Medium.ttf", "BarlowSemiCondensed_600SemiBold.ttf",
)  # fmt: skip


def load_fonts() -> None:
    """Make the shipped fonts known to Qt."""
    folder = Path(__file__).parent.parent / "assets" / "fonts"
    for name in _FILES:
        QFontDatabase.addApplicationFont(str(folder / name))


def text_font(px: int = TEXT_PX, weight: QFont.Weight = QFont.Weight.Normal, plain: bool = False) -> QFont:
    """``plain``: as it is, for what is painted through a scale that goes with the text already."""
    return _font(FAMILY, px, weight, plain)


def figure_font(px: int = TEXT_PX, weight: QFont.Weight = QFont.Weight.DemiBold, plain: bool = False) -> QFont:
    """The condensed cut, for figures and tables."""
    return _font(FIGURES, px, weight, plain)


def _font(family: str, px: int, weight: QFont.Weight, plain: bool) -> QFont:
    font = QFont(family)
    font.setPixelSize(max(round(px * (1.0 if plain else text_factor())), 1))
    font.setWeight(weight)
    return font
