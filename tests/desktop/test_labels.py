"""Labels: plain words, one value each."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import gwiazda.desktop

FOLDER = Path(gwiazda.desktop.__file__).parent
LABELS = sorted(
    {
        (str(path.relative_to(FOLDER)), call.args[0].value)
        for path in FOLDER.rglob("*.py")
        for call in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(call, ast.Call) and isinstance(call.func, ast.Attribute) and call.func.attr == "row" and call.args
        if isinstance(call.args[0], ast.Constant) and isinstance(call.args[0].value, str)
    }
)
UNITS = ("mm", "°", "s", "µF", "°C")  # that still stand behind a comma


@pytest.mark.parametrize(("where", "words"), LABELS)
def test_a_label_is_a_few_plain_words_for_one_thing(where, words):
    name, _, unit = words.partition(", ")
    assert len(name.split()) <= 4 and (not unit or unit in UNITS), words
    assert not any(sign in name for sign in "%▢×:/.") and "chan" not in name.split(), words


def test_there_are_labels_to_look_at():
    assert len(LABELS) > 100
