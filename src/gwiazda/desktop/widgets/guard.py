"""Overrides of Qt's virtual methods that let no exception out.

Under PySide 6.11 on Python 3.11 an exception raised in C (IndexError, ZeroDivisionError, a failed unpack) inside an
override that is nested in another kills the process before anything can be said. So each override catches what is
raised inside it, says it and goes on.
"""

from __future__ import annotations

import functools
import re
import sys
import traceback
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSize

_NAMES = re.compile(
    r"event|eventFilter|sizeHint|minimumSizeHint|heightForWidth|focusNextPrevChild|[a-z]+[A-Za-z]*Event"
)
_INSTEAD: dict[str, Any] = {
    "event": True, "eventFilter": False, "focusNextPrevChild": False, "heightForWidth": 0, "sizeHint": QSize(), "minimumSizeHint": QSize(),
}  # fmt: skip


def is_override(name: str) -> bool:
    """Whether Qt calls a method of this name by itself."""
    return _NAMES.fullmatch(name) is not None


def guarded(method: Callable[..., Any]) -> Callable[..., Any]:
    """An override that says what is raised inside it, and lets none of it out."""
    instead = _INSTEAD.get(method.__name__)

    @functools.wraps(method)
    def inside(*args: Any) -> Any:
        try:
            return method(*args)
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
            # A painter that a frame of the trace still holds would be open when Qt ends the painting.
            traceback.clear_frames(error.__traceback__)
            return instead

    inside.guards = True  # type: ignore[attr-defined]
    return inside


class Guarded:
    """Base of every widget with overrides, before Qt's own: what it overrides is guarded."""

    def __init_subclass__(cls, **kwargs: Any) -> None:
        super().__init_subclass__(**kwargs)
        for name, method in list(vars(cls).items()):
            if is_override(name):
                setattr(cls, name, guarded(method))
