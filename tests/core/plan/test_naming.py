"""What things are called: by a given name, or by where they are; ids stay in files."""

from __future__ import annotations

import re

import msgspec
import pytest
from tests.bent import DEMOS, gone_wrong

from gwiazda.core.assess.assessment import assess
from gwiazda.core.exchange.circuits import circuit_table
from gwiazda.core.exchange.looms import loom_table
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import GROUPS, Plan
from gwiazda.core.plan.naming import channel_name, name_of, names_of, said
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of


@pytest.fixture(scope="module")
def szron() -> Plan:
    return load(path_of()).plan


def ids_of(plan: Plan) -> set[str]:
    """Ids that are no plain word."""
    out: set[str] = set()

    def walk(x: object) -> None:
        if isinstance(x, tuple):
            for y in x:
                walk(y)
        elif isinstance(x, msgspec.Struct):
            out.add(getattr(x, "id", ""))
            for f in x.__struct_fields__:
                walk(getattr(x, f))

    for group in GROUPS:
        walk(getattr(plan, group))
    return {i for i in out if "." in i or re.search(r"\d", i)}


def ids_in(words: str, known: set[str]) -> set[str]:
    return set(re.findall(r"[A-Za-z0-9_\-]+(?:\.[A-Za-z0-9_\-]+)*", words)) & known


def test_a_lamp_is_called_after_its_section_and_follows_its_name(szron):
    assert name_of(szron, "deck1.lamp.03") == "Deck 1, lamp 3"
    renamed = edits.set_fields(szron, ["deck1"], name="Saloon deck")
    assert name_of(renamed, "deck1.lamp.03") == "Saloon deck, lamp 3"
    assert name_of(renamed, "deck1.window.01").startswith("Saloon deck, port, ")


def test_a_given_name_comes_before_a_made_one(szron):
    named = edits.set_fields(szron, ["deck1.lamp.03"], name="Purser’s lamp")
    assert name_of(named, "deck1.lamp.03") == "Purser’s lamp"
    assert name_of(named, "deck1.lamp.04") == "Deck 1, lamp 3", "the others are counted without it"


def test_a_lamp_that_is_seen_itself_is_called_by_its_light_or_its_channel(szron):
    assert name_of(szron, "bridge.sidelight.01") == "Port sidelight"
    assert name_of(szron, "hull.foreflood.02") == "Fore deck flood 2"
    bare = edits.take_apart(szron, next(x.id for x in szron.lights if x.name == "Port sidelight"))
    assert name_of(bare, "bridge.sidelight.01") == "Sidelight port"


def test_parts_of_circuits_are_called_by_what_they_are():
    plan = load(path_of("swistak")).plan
    assert name_of(plan, "main.fuse") == "Fuse" and name_of(plan, "winch.regulator") == "Regulator"


def test_channels_read_as_words(szron):
    assert channel_name(szron, "deck1.aft") == "Deck 1 aft" and channel_name(szron, "masthead.main") == "Masthead main"


def test_several_are_counted_behind_the_first(szron):
    words = names_of(szron, [p.id for p in szron.lamps[:5]], 2)
    assert words == "Hull, lamp 1, Hull, lamp 2 and 3 more"


def test_only_whole_ids_are_put_into_words(szron):
    words = said(szron, "deck1.lamp.01 and deck1.lamp.012 stay dark", ["deck1.lamp.01"])
    assert words == "Deck 1, lamp 1 and deck1.lamp.012 stay dark"


@pytest.mark.parametrize("which", [*DEMOS, 3, 8, 17, 26])
def test_no_finding_and_no_offer_shows_an_id(which):
    plan = load(path_of(which)).plan if isinstance(which, str) else gone_wrong(which)
    known = ids_of(plan)
    for finding in evaluate_rules(plan, assess(plan, built_in())):
        for words in (finding.sentence, *(fix.label for fix in finding.fixes)):
            assert not ids_in(words, known), words


@pytest.mark.parametrize("table", [circuit_table, loom_table])
def test_no_table_to_read_shows_an_id(szron, table):
    text = table(szron, assess(szron, built_in()))
    assert not ids_in(re.sub(r"fibre-|AWG \d+", "", text), ids_of(szron))
