"""Text of one's own size: one factor for fonts and for what is as high as its text."""

from __future__ import annotations

TEXT_SIZES = (90, 100, 110, 125, 150)  # per cent
_percent = 100


def set_text_percent(value: object) -> None:
    """Set the size of all text; what is no size on offer counts as 100 %."""
    global _percent
    try:
        found = int(float(str(value)))
    except ValueError:
        found = 100
    _percent = found if found in TEXT_SIZES else 100


def text_percent() -> int:
    return _percent


def text_factor() -> float:
    return _percent / 100.0


def scaled(px: float) -> int:
    """A length that goes with the text, px."""
    return round(px * text_factor())
