"""What a station is: everything of it that the window, the inspector and the plate need to know.

Names of classes and functions are given as ``module:name``, within ``gwiazda.desktop``, and loaded at their first use.
"""

from __future__ import annotations

import importlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache
from typing import Any


@dataclass(frozen=True)
class Station:
    """A place to work at.

    ``tools``: the plate's tools, those of a group sharing one button. ``topics``: what findings that are settled here
    are about. ``meters``: those whose culprit is looked for here. ``drawer``: its picture. ``panels``: by kind of what
    is picked, panels in place of the general ones. ``plan_cards``: cards it has with nothing picked. ``overlays``:
    painters (painter, plate, wipe in px) of what it lays over the works. ``shows_opened``: walked round, sections that
    aren't closed yet are without their roofs. ``wants``: the group of the plan that must
    hold something before nothing is left to settle here.
    """

    id: str
    key: str
    name: str
    about: str
    tools: tuple[tuple[str, ...], ...]
    topics: tuple[str, ...]
    drawer: str
    meters: tuple[str, ...] = ()
    panels: Mapping[str, str] = field(default_factory=dict)
    plan_cards: tuple[str, ...] = ()
    overlays: tuple[str, ...] = ()
    shows_opened: bool = False
    wants: str = ""

    @property
    def all_tools(self) -> tuple[str, ...]:
        return tuple(t for group in self.tools for t in group)


@cache
def load(name: str) -> Any:
    """A class or function by ``module:name``."""
    module, _, attribute = name.partition(":")
    return getattr(importlib.import_module(f"gwiazda.desktop.{module}"), attribute)
