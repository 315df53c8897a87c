"""The finder's ranking: what people type, and what they mean by it."""

from __future__ import annotations

import pytest

from gwiazda.core.quick.lookup import Entry, ranked, stems, worth

ENTRIES = [
    Entry("Fuse", "Wire", "it blows when too much goes through it", "fuse"),
    Entry("Run time", "Figure", "how long the cells last", "run"),
    Entry("Resistor", "Light", "4k7 fixes it", "resistor"),
    Entry("Wall thickness", "Measure", "how thick its walls are", "wall"),
    Entry("Dividing wall", "Measure", "where it stands", "divider"),
    Entry("Keel tube", "Passage", "", "keel"),
    Entry("Text size", "Settings", "", "text"),
]


@pytest.mark.parametrize(
    ("query", "target"),
    [
        ("fuse", "fuse"), ("how long does the pack last?", "run"), ("which resistors", "resistor"), ("thick walls", "wall"), ("keel", "keel"),
        ("KEEL TUBE", "keel"), ("font size", "text"), ("resis", "resistor"),
    ],
)  # fmt: skip
def test_what_is_meant_comes_first(query, target):
    assert ranked(query, ENTRIES)[0].target == target


def test_nothing_is_found_where_no_word_matches():
    assert ranked("xylophone", ENTRIES) == [] and ranked("", ENTRIES) == []


def test_a_title_that_says_just_this_comes_before_one_that_says_more():
    assert worth("wall", Entry("Wall", "", "", 0)) > worth("wall", Entry("Dividing wall of it", "", "", 0))


def test_words_are_compared_without_their_plural():
    assert stems("Lamps, glass and 2 panes") == ["lamp", "glass", "and", "2", "pane"]


def test_weight_decides_between_equals():
    light, heavy = Entry("Name", "a", "", 1), Entry("Name", "b", "", 2, 0.5)
    assert ranked("name", [light, heavy])[0].target == 2
