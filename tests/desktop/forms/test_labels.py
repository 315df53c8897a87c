"""Fields and labels: plain words, one value each, a help that says what it is."""

from __future__ import annotations

import pytest

from gwiazda.desktop.forms.form import Field
from gwiazda.desktop.forms.kinds import Flag
from gwiazda.desktop.stations.animate.fields import FIELDS
from gwiazda.desktop.stations.registry import STATIONS, cards_of

CARDS = sorted(
    {card for s in STATIONS for cards in cards_of(s.id).cards.values() for card in cards},
    key=lambda card: card.__name__,
)
DECLARED: list[tuple[str, Field]] = [(card.__name__, field) for card in CARDS for field in card.fields]
DECLARED += [("pattern", field) for field in FIELDS.values()]
MARKS = "%▢×:/()"


@pytest.mark.parametrize(("where", "field"), DECLARED, ids=[f"{where}.{field.path}" for where, field in DECLARED])
def test_a_field_has_a_label_of_plain_words_and_says_what_it_is(where, field):
    label = field.kind.words if isinstance(field.kind, Flag) else field.label
    assert label and not any(mark in label for mark in MARKS if not isinstance(field.kind, Flag))
    if not isinstance(field.kind, Flag):
        assert len(label.replace(",", "").split()) <= 4, label
    assert len(field.help.split()) >= 2 or field.help[:1].isdigit(), (
        "a sentence that says what it is and what it changes"
    )
    assert field.help.lower() != label.lower()


def test_all_stations_declare_their_fields():
    assert len(DECLARED) > 180


def test_no_card_is_shown_without_a_title():
    assert [card.__name__ for card in CARDS if not card.title] == ["FlowCard", "SectionBuildCard", "TonightCard"]
