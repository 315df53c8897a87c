"""Openings with no hole: white panels lit through the plastic, a film on them, work they save."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.effort import effort_of
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.optics.glazed import pane_of
from gwiazda.core.assess.optics.lighting import lit_sections_of
from gwiazda.core.errors import PlanError
from gwiazda.core.light.scatter import kubelka_munk
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan, copy_unchecked
from gwiazda.core.plan.storage import plan_from_json, plan_to_json

CAT = built_in()
PANEL = "deck1.window.02"


def panel(material: str = "white", wall: float = 1.2, **opening) -> Plan:
    plan = deck_plan(windows=4, lamps=2)
    plan = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], material=material, wall_mm=wall),))
    return edits.set_fields(plan, [PANEL], hole=False, **opening)


@settings(deadline=None, max_examples=12)
@given(st.floats(0.25, 3.0))
def test_a_white_panel_gives_what_kubelka_and_munk_let_through(t):
    """L = E·T/π, by the room's own light on it and the plastic's S and K."""
    plan = panel(wall=t)
    assessment = assess(plan, CAT)
    room = lit_sections_of(CAT, plan.sections, plan.openings, plan.lamps)["deck1"]
    i = next(k for k, o in enumerate(room.openings) if o.id == PANEL)
    lux = float(room.lux[i] @ np.array([assessment.lamps[p.id].flux_lm for p in room.lamps]))
    white = CAT.materials["white"]
    through, _ = kubelka_munk(white.scatter_per_mm, white.absorb_per_mm, t)
    assert assessment.openings[PANEL].luminance_cd_m2 == pytest.approx(lux * through / math.pi, rel=0.01)


def test_the_reference_figures_of_white_plastic():
    """0.447 at 0.25 mm, 0.136 at 1.2 mm, 0.079 at 2 mm."""
    for t, told in ((0.25, 0.447), (1.2, 0.136), (2.0, 0.079)):
        plan = panel(wall=t)
        pane = pane_of(CAT, plan.openings[1], plan.sections[0], 0.88, "light-grey")
        assert pane.transmittance == pytest.approx(told, abs=0.002) and pane.scattered == 1.0
        assert pane.transmittance + pane.reflectance <= 1.0


def test_a_panel_is_even_a_film_takes_its_share_and_grey_lets_little_through():
    plain, cut = panel(), edits.set_fields(panel(), [PANEL], hole=True)
    a, b = (assess(p, CAT).openings[PANEL] for p in (plain, cut))
    assert a.hot_spot <= b.hot_spot * 1.01 and a.luminance_cd_m2 < b.luminance_cd_m2
    film = assess(panel(glazing="film"), CAT).openings[PANEL].luminance_cd_m2
    assert 0.5 * a.luminance_cd_m2 < film < a.luminance_cd_m2
    grey = assess(panel("dark-grey"), CAT).openings[PANEL].luminance_cd_m2
    assert grey == pytest.approx(a.luminance_cd_m2 * 10.0 ** (-1.3 * 1.2) / 0.136, rel=0.15)
    assert assess(panel("unknown"), CAT).openings[PANEL].luminance_cd_m2 == 0.0
    clear = pane_of(CAT, panel("clear").openings[1], panel("clear").sections[0], 0.1, "light-grey")
    assert clear.scattered == 0.0 and clear.transmittance > 0.85, "one looks through it"


def test_no_hole_is_no_drilling_and_no_hole_leads_nowhere():
    cut = edits.set_fields(panel(), [PANEL], hole=True)
    a, b = effort_of(panel(), CAT)[0], effort_of(cut, CAT)[0]
    assert (a.holes, a.panes) == (3, 4) and (b.holes, b.panes) == (4, 4) and a.hours < b.hours
    minutes = [next(s.minutes for s in steps_of(CAT, p) if s.kind == "open") for p in (panel(), cut)]
    assert minutes[0] < minutes[1]
    assert plan_from_json(plan_to_json(panel()).encode(), "x") == panel()
    with pytest.raises(PlanError, match="is a hole"):
        edits.set_fields(
            copy_unchecked(panel(), sections=(*panel().sections, copy_unchecked(panel().sections[0], id="b"))),
            [PANEL],
            into="b",
        )
