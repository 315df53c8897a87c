"""First plans from shapes: lit, wired, nothing to settle; sizes that can't be are said; the same sizes, the same plan."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.around import eye_for
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.edits.occupancy import twin_sections
from gwiazda.core.plan.frame import PLANES
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.real_windows import BUILT_MM
from gwiazda.core.plan.storage import PlanFile, load, save
from gwiazda.core.starter.forms import FORMS, STOREY_MM, Sizes, body_of, storey_mm
from gwiazda.core.starter.start import settled, shaped, start, weight


@pytest.mark.parametrize("form", FORMS)
def test_a_starter_of_each_kind_is_lit_and_has_nothing_to_settle(form, tmp_path):
    made = start(built_in(), FORMS[form].sizes)
    plan = made.plan
    assessment = assess(plan, built_in())
    assert not made.left and not evaluate_rules(plan, assessment)
    lit = {o.section for o in plan.openings if o.lit > 0}
    for key in lit:
        assert assessment.sections[key].mean_cd_m2 > 10.0, key
    assert any(o.lit == 0 for o in plan.openings), "somebody sleeps"
    assert not twin_sections(plan)
    save(PlanFile(plan), tmp_path / "x.gwiazda")
    assert load(tmp_path / "x.gwiazda").plan == plan
    assert start(built_in(), FORMS[form].sizes).plan == plan, "the same again"


@pytest.mark.parametrize("form", FORMS)
def test_windows_lie_on_the_walls_of_their_sections(form):
    plan, body = shaped(FORMS[form].sizes)
    rooms = {s.id: s.box for s in plan.sections}
    for o in plan.openings:
        h, v, _ = PLANES[o.side]
        box = rooms[o.section]
        for axis, size in ((h, o.width_mm), (v, o.height_mm)):
            assert box.at[axis] - 1e-6 <= o.at[axis] - size / 2
            assert o.at[axis] + size / 2 <= box.at[axis] + box.size[axis] + 1e-6
    assert {a for way in body.ways for a in way} <= set(rooms) and body.home in rooms


def test_sizes_are_those_at_scale_where_they_can_be_built():
    assert storey_mm(200.0) == pytest.approx(14.0)
    assert storey_mm(2000.0) == STOREY_MM[0]
    plan, _ = shaped(Sizes("ship", 400.0, 2, 10, 150.0))
    widths = {o.width_mm for o in plan.openings if o.section == "deck1"}
    assert widths == {6.0}, "0.9 m at 1/150"
    small, _ = shaped(Sizes("ship", 400.0, 2, 10, 2000.0))
    assert min(o.width_mm for o in small.openings) == BUILT_MM[0]
    xs = [h for s in plan.sections for o in s.outlines if o.side == "port" for h, _ in o.points]
    assert max(xs) - min(xs) == pytest.approx(400.0)


@pytest.mark.parametrize(
    ("sizes", "words"),
    [
        (Sizes("ship", 20.0), "length"),
        (Sizes("ship", float("nan")), "length"),
        (Sizes("tower", 300.0, 9), "decks"),
        (Sizes("fuselage", 300.0, 1, 0), "windows"),
        (Sizes("truss", 300.0, 1, 5, 0.5), "scale"),
        (Sizes("ship", 300.0, 3, 60, 200.0), "windows of 4.5 mm"),
        (Sizes("boat"), "ship, fuselage"),  # type: ignore[arg-type]
    ],
)
def test_what_cannot_be_is_said(sizes, words):
    with pytest.raises(PlanError, match=words):
        body_of(sizes)


def test_it_can_be_stopped():
    with pytest.raises(PlanError, match="stopped"):
        start(built_in(), FORMS["ship"].sizes, lambda words: "Deck 2" not in words)


@settings(max_examples=25, deadline=None)
@given(
    form=st.sampled_from(sorted(FORMS)), length=st.floats(60.0, 2000.0), decks=st.integers(1, 8), windows=st.integers(1, 40),
    scale=st.sampled_from([24.0, 48.0, 72.0, 144.0, 350.0, 1400.0]),
)  # fmt: skip
def test_any_size_is_a_plan_or_a_sentence(form, length, decks, windows, scale):
    try:
        plan, body = shaped(Sizes(form, length, decks, windows, scale))
    except PlanError as error:
        assert "It takes" in str(error)
        return
    assert validate_edit(Plan(), plan) is plan
    assert {r.section for r in body.rows} <= {s.id for s in plan.sections}


def test_settling_never_makes_it_worse(demo):
    catalogue = built_in()
    before = evaluate_rules(demo, assess(demo, catalogue))
    made = settled(catalogue, demo)
    assert weight(made.left) <= weight(before)
    assert weight(made.left) == weight(evaluate_rules(made.plan, assess(made.plan, catalogue)))


@pytest.mark.parametrize("form", FORMS)
def test_a_starter_can_be_walked_round_with_its_windows_on_the_skin(form):
    plan, _ = shaped(FORMS[form].sizes)
    model = model_of(plan.sections, plan.openings)
    assert len(set(model.section.tolist())) == len(plan.sections), "every section has a body"
    boxes = {s.id: s.box for s in plan.sections}
    for o, at, normal in zip(model.openings, model.at, model.normal, strict=True):
        d = PLANES[o.side][2]
        middle = boxes[o.section].centre
        assert np.linalg.norm(normal) == pytest.approx(1.0)
        assert abs(at[d] - middle[d]) >= abs(o.at[d] - middle[d]) - 1e-6, "outside of its room"


def test_the_drums_on_their_arms_mirror_each_other():
    plan, body = shaped(FORMS["truss"].sizes)
    port, starboard = (next(s for s in plan.sections if s.id == f"drum.{side}") for side in ("port", "starboard"))
    assert twins.mirrored(port, 1, 0.0).box.at == pytest.approx(starboard.box.at)
    sizes = FORMS["truss"].sizes
    for drum in (port, starboard):
        assert sum(o.section == drum.id for o in plan.openings) == 2 * sizes.decks * sizes.windows
    ways = {frozenset((w.section, w.into)) for w in plan.passages}
    assert {frozenset(w) for w in body.ways} <= ways, "wires reach both"


@pytest.mark.parametrize("form", ["tower", "ship", "truss"])
@pytest.mark.parametrize("height_deg", [-30.0, 0.0, 20.0, 60.0, 89.0])
def test_it_is_all_in_the_picture_from_anywhere(form, height_deg):
    plan, _ = shaped(FORMS[form].sizes)
    model = model_of(plan.sections, plan.openings)
    for azimuth in (0.0, 48.0, 90.0):
        px = eye_for(model, azimuth, height_deg, 600.0, 866, 465).project(model.skins.reshape(-1, 3))
        assert px[:, 1].min() >= 0.0 and px[:, 1].max() <= 465.0
        assert px[:, 0].min() >= 0.0 and px[:, 0].max() <= 866.0
