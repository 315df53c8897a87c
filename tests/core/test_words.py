"""The glossary: what it names is there."""

from __future__ import annotations

import importlib
import re
from pathlib import Path

import pytest

WORDS = (Path(__file__).parents[2] / "docs" / "words.md").read_text(encoding="utf-8")
NAMES = sorted(set(re.findall(r"`(gwiazda\.[\w.]+)`", WORDS)))


def found(name: str) -> object:
    """The module, class or function of a dotted name."""
    parts = name.split(".")
    for cut in range(len(parts), 0, -1):
        try:
            thing: object = importlib.import_module(".".join(parts[:cut]))
        except ModuleNotFoundError:
            continue
        for part in parts[cut:]:
            thing = getattr(thing, part)
        return thing
    raise ModuleNotFoundError(name)


@pytest.mark.parametrize("name", NAMES)
def test_a_word_names_what_is_there(name):
    assert found(name) is not None


def test_no_word_stands_for_two_things():
    rows = [line.split("|")[1].strip() for line in WORDS.splitlines() if line.startswith("| ") and "---" not in line]
    words = [w.strip() for row in rows for w in re.split(r"[,/]", row) if row != "word"]
    assert len(NAMES) > 35 and len(words) == len(set(words)), sorted(w for w in words if words.count(w) > 1)
