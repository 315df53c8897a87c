"""One sum of what it takes, and all holes that are drilled."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly import effort
from gwiazda.core.assess.assembly.holes import bores_of, holes_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets import PAPERS
from gwiazda.core.drawing.sheets.kinds import drill_templates
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Lamp, Opening, Passage, copy_unchecked
from gwiazda.core.plan.storage import load
from gwiazda.demos import path_of


@pytest.mark.parametrize("name", ["szron", "perkoz", "swistak", "bryla"])
def test_effort_and_build_say_the_same_hours(name):
    plan = load(path_of(name)).plan
    steps = sum(s.minutes for s in steps_of(built_in(), plan)) / 60.0
    assert sum(e.hours for e in effort.effort_of(plan, built_in())) == pytest.approx(steps)
    by_light = effort.effort_by_light(plan, built_in())
    assert sum(e.hours for e in by_light) == pytest.approx(steps)
    for field in ("holes", "panes", "lamps", "joints"):
        assert sum(getattr(e, field) for e in by_light) == sum(
            getattr(e, field) for e in effort.effort_of(plan, built_in())
        )
    assert sum(e.lamps for e in by_light) == len(plan.lamps)


def test_holes_for_lamps_ways_and_round_panes_are_drilled_as_fibres_are():
    """A 3 mm lamp through the wall wants 3.1 mm, a chip on it its wires alone; a porthole and a way their own size."""
    deck = edits.set_fields(deck_plan(windows=0), ["deck1"], school="drill")
    deck = copy_unchecked(
        deck,
        lamps=(
            *deck.lamps,
            Lamp(id="deck1.nav", part="round-3-warm-white", at=(50.0, 22.0, 9.0), aim=(0, 1, 0), mount="outside"),
            Lamp(id="deck1.tip", part="chip-0603-red", at=(50.0, -22.0, 9.0), aim=(0, -1, 0), mount="outside"),
        ),
        openings=(
            Opening(id="deck1.port", section="deck1", side="port", shape="round", width_mm=2.0, height_mm=2.0, at=(20.0, 22.0, 9.0)),
            Opening(id="deck1.square", section="deck1", side="port", width_mm=2.0, height_mm=2.0, at=(30.0, 22.0, 9.0)),
        ),
        passages=(Passage(id="way", section="deck1", at=(80.0, 0.0, 0.0), width_mm=2.5), Passage(id="slit", section="deck1", at=(90.0, 0.0, 0.0), make="file")),
    )  # fmt: skip
    sizes = {b.of: (b.side, b.drill.metric_mm) for b in bores_of(built_in(), deck)}
    assert sizes == {"deck1.nav": ("port", 3.1), "deck1.tip": ("starboard", 1.0), "way": ("bottom", 2.5), "deck1.port": ("port", 2.0)}  # fmt: skip
    assert sum(h.pieces for h in holes_of(deck, built_in())) == 4
    assessment = assess(deck, built_in())
    titles = [d.title for d in drill_templates(deck, assessment, PAPERS["a4"])]
    assert titles == [f"Drill template: Deck 1, {where}" for where in ("port", "starboard", "bottom")]
    assert effort.effort_of(deck, built_in())[0].holes == 6, "all four, the square pane, and the slit that is filed"
