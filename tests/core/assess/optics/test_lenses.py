"""Lenses in their holes: what a dome makes of a lamp's face, what lip and silver leave, and how they are judged, made and drawn."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from decks import deck_plan
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.assess.optics.lenses import dome_mm, face_shown_mm, hole_share, lens_pane
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.lens import aside, falls_off, focal_mm, shown_mm, surface_radius_mm
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.model import Lens, Opening, Plan, copy_unchecked

CAT = built_in()


def headlamp(**lens) -> Plan:
    """A round hole of 5 mm in the port wall with a lens in it, and a lamp 4 mm behind."""
    plan = deck_plan(windows=0, lamps=1)
    o = Opening(
        id="head",
        section="deck1",
        shape="round",
        width_mm=5.0,
        height_mm=5.0,
        at=(80, 22, 9),
        side="port",
        lens=Lens(**lens),
        soften=(),
    )
    plan = edits.add_openings(plan, (o,))
    return edits.set_fields(plan, ["deck1.lamp.01"], at=(80.0, 18.0, 9.0), aim=(0.0, 1.0, 0.0))


def said(plan: Plan) -> dict[str, object]:
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule.startswith("lens")}


# -- optics -------------------------------------------------------------------------------------------------


def test_a_half_ball_and_a_flat_disc():
    assert surface_radius_mm(6.0, 3.0) == 3.0 and surface_radius_mm(6.0, 9.0) == 3.0
    assert math.isinf(surface_radius_mm(6.0, 0.0)) and math.isinf(focal_mm(6.0, 0.0, 1.5))
    assert focal_mm(6.0, 3.0, 1.5) == pytest.approx(6.0), "R/(n − 1)"
    assert focal_mm(6.0, 1.0, 1.5) == pytest.approx(10.0), "R = (9 + 1)/2 = 5"
    with pytest.raises(ValueError, match="1 or more"):
        focal_mm(6.0, 1.0, 0.9)


def test_shown_is_what_rays_traced_back_from_the_eye_meet():
    """By tracing: parallel rays from the eye, bent at the lens by −h/f, met with the face's plane."""
    face, wide, behind, focal = 1.6, 6.0, 4.0, 9.0
    h = np.linspace(0.0, wide / 2, 20_001)
    at = np.abs(h - behind * h / focal)
    traced = 2.0 * h[at <= face / 2].max()
    assert shown_mm(face, wide, behind, focal) == pytest.approx(traced, abs=1e-3)


@given(face=st.floats(0.2, 5), wide=st.floats(0.5, 10), behind=st.floats(0.1, 30), focal=st.floats(0.5, 100))
def test_a_lens_never_shows_more_than_all_of_itself_and_all_of_it_in_its_focus(face, wide, behind, focal):
    shown = shown_mm(face, wide, behind, focal)
    assert 0 < shown <= wide
    assert shown_mm(face, wide, focal, focal) == wide
    assert shown_mm(face, wide, behind, math.inf) == min(face, wide)
    if behind < focal:
        assert shown >= min(face, wide) - 1e-9, "nearer than its focus it makes the face larger"


# -- in a hole ----------------------------------------------------------------------------------------------


def test_lip_and_silver_take_light():
    plan = headlamp(made="disc", lip_mm=0.0)
    o = plan.openings[0]
    assert hole_share(o) == 1.0 and hole_share(copy_unchecked(o, lens=Lens(lip_mm=1.25))) == pytest.approx(0.25)
    whole, half = (lens_pane(CAT, copy_unchecked(o, lens=Lens(made="disc", lip_mm=k)), 0.88) for k in (0.0, 1.25))
    assert half.transmittance == pytest.approx(whole.transmittance * 0.25)
    assert half.transmittance + half.reflectance <= 1.0
    assert lens_pane(CAT, copy_unchecked(o, lens=Lens(backed=True)), 0.88).transmittance == 0.0
    assert lens_pane(CAT, copy_unchecked(o, lens=Lens(made="amber")), 0.88).transmittance == 0.0, (
        "unknown: nothing comes through"
    )


def test_a_dome_makes_the_lamps_face_larger_in_the_night_picture_and_no_brighter():
    flat, domed = headlamp(made="disc", lip_mm=0.5), headlamp(made="bought", lip_mm=0.5, dome_mm=1.5)
    lamp, part = flat.lamps[0], CAT.lamps["chip-1206-warm-white"]
    assert face_shown_mm(CAT, flat.openings[0], lamp, part) == part.face_mm
    shown = face_shown_mm(CAT, domed.openings[0], lamp, part)
    r = (2.5**2 + 1.5**2) / 3.0
    assert shown == pytest.approx(min(part.face_mm / abs(1 - 4 / (r / 0.49)), 4.0))
    discs = []
    for plan in (flat, domed):
        assessment = assess(plan, CAT)
        lights = [c for c in scene_of(plan, assessment, "port") if len(c.discs)]
        i = int(np.argmax(lights[0].disc_cd_m2))
        discs.append((lights[0].discs[i][2] * 2, lights[0].disc_cd_m2[i] / assessment.lamps[lamp.id].flux_lm))
    assert discs[1][0] == pytest.approx(shown) and discs[0][0] == pytest.approx(part.face_mm)
    assert discs[1][1] == pytest.approx(discs[0][1], rel=0.05), "luminance is kept: the spot grows"


def test_a_dome_of_white_glue_is_seen_edge_on():
    plan = headlamp(made="glue", lip_mm=0.5)
    assessment = assess(plan, CAT)
    from_above = scene_of(plan, assessment, "top", leaks=False)
    panes = np.concatenate([c.panes for c in from_above])
    edge = panes[np.abs((panes[:, 1] - panes[:, 0]) - 5.0) < 1e-6]
    assert len(edge) == 1
    high = dome_mm(plan.openings[0].lens, 5.0, CAT.lenses["glue"])
    assert edge[0, 3] - edge[0, 2] == pytest.approx(high * math.pi / 4), "half an ellipse's area"
    disc = headlamp(made="disc", lip_mm=0.5)
    assert not sum(len(c.panes) for c in scene_of(disc, assess(disc, CAT), "top", leaks=False))


# -- judged and made ----------------------------------------------------------------------------------------


def test_silver_left_on_a_loose_lens_and_a_missing_lamp_are_found_and_mended():
    for lens, rule in (
        ({"backed": True}, "lens-backed"),
        ({"lip_mm": 0.2}, "lens-loose"),
        ({"made": "lamp", "lip_mm": 0.0}, "lens-lamp-missing"),
    ):
        plan = headlamp(**lens)
        finding = said(plan)[rule]
        mended = finding.fixes[0].applied(plan)
        assert rule not in said(mended), finding.sentence
    assert "lens-backed" not in said(headlamp())
    wide = headlamp(made="lamp", lip_mm=0.0)
    wide = edits.set_fields(wide, ["deck1.lamp.01"], part="round-8-warm-white", at=(80.0, 21.0, 9.0))
    too_wide = said(wide)["lens-lamp-too-wide"]
    assert too_wide.number == pytest.approx(3.0) and "lens-lamp-too-wide" not in said(too_wide.fixes[0].applied(wide))


def test_lenses_take_minutes_and_cure():
    steps = {s.kind: s for s in steps_of(CAT, headlamp(made="glue", dome_mm=2.0))}
    part = CAT.lenses["glue"]
    assert steps["lenses"].wait_h == part.wait_h + 2 * part.wait_h_mm and steps["lenses"].many == 1
    assert "glaze" not in steps, "a lens isn't glazed as well"
    assert steps["lenses"].key in steps["leak"].needs


@pytest.mark.parametrize(
    ("lens", "words"),
    [
        ({"width_mm": 6.0}, "5 mm would fit"), ({"lip_mm": 2.5}, "leaves no hole"), ({"lip_mm": -1.0}, "not below 0"),
        ({"dome_mm": 99.0}, "up to 20"),
    ],
)  # fmt: skip
def test_bad_lenses_are_said_with_what_fits(lens, words):
    plan = headlamp()
    with pytest.raises(PlanError, match=words):
        edits.set_fields(plan, ["head"], lens=lens)


def test_a_lens_round_trips_and_needs_a_hole_outside():
    plan = headlamp(made="bead", width_mm=4.5, lip_mm=0.8, dome_mm=1.0, backed=True)
    assert storage.plan_from_json(storage.plan_to_json(plan).encode(), "x") == plan
    with pytest.raises(PlanError, match="hole that leads outside"):
        edits.set_fields(plan, ["head"], hole=False)
    assert [
        f
        for f in evaluate_rules(headlamp(made="amber"), assess(headlamp(made="amber"), CAT))
        if f.rule == "unknown-part"
    ]


@pytest.mark.parametrize(
    ("face", "width", "behind", "dome"), [(1.8, 2.0, 2.0, 1.0), (3.0, 3.0, 1.5, 1.0), (3.0, 4.0, 8.0, 2.0)]
)
def test_a_lens_seen_from_aside_by_rays(face, width, behind, dome):
    """By another way: rays of one direction over the lens, bent by Snell's law for thin lenses, those that end on the lamp's face."""
    focal = focal_mm(width, dome, 1.5)
    u = np.linspace(-width / 2, width / 2, 801)
    x, y = (g.ravel() for g in np.meshgrid(u, u))
    inside = np.hypot(x, y) <= width / 2

    def seen(degrees):
        slope = math.tan(math.radians(degrees))
        at = x + behind * (-slope - x / focal), y + behind * (-y / focal)
        return (inside & (np.hypot(*at) <= face / 2)).sum() * math.cos(math.radians(degrees))

    for degrees in (5, 15, 25, 35, 50):
        assert aside(face, width, behind, focal, degrees) == pytest.approx(seen(degrees) / seen(0), abs=0.01)
    order = falls_off(face, width, behind, focal)
    half = math.degrees(math.acos(0.5 ** (1 / order)))
    in_focus = abs(behind - focal) < 1e-6  # all of it flashes, and then nothing
    assert in_focus or aside(face, width, behind, focal, half) == pytest.approx(0.5, abs=0.02)
    assert aside(face, width, behind, focal, half - 1) > 0.5 > aside(face, width, behind, focal, half + 1)


def test_a_bead_flashes_ahead_and_not_to_the_sides():
    """A bead of 2 mm, 1.25 mm before a face of 1 mm: half of it at 20°, a tenth at 30°, nothing at 45°; cos⁴ would give .78, .56, .25."""
    values = [aside(1.0, 2.0, 1.25, focal_mm(2.0, 1.0, 1.5), d) for d in (0, 20, 30, 45)]
    assert values == pytest.approx([1.0, 0.46, 0.10, 0.0], abs=0.02)
    assert aside(3.0, 3.0, 0.0, math.inf, 60) == pytest.approx(0.5), "a flat pane on the lamp itself"
