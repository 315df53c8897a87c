"""Lights that match another, and the colours of plastics."""

from __future__ import annotations

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.scene import scene_of
from gwiazda.core.assess.optics.lit_sections import Colours, tinted, wall_hue
from gwiazda.core.assess.sight.likeness import look_of
from gwiazda.core.colour.colour import gaussian, white, xyz
from gwiazda.core.colour.hue import Wall, filter_of
from gwiazda.core.colour.likeness import brighter_by, chromaticity, colour_steps
from gwiazda.core.errors import PlanError
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.light.scatter import kubelka_munk
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import twins
from gwiazda.core.plan.model import Light, Plan, copy_unchecked

CAT = built_in()


def test_chromaticity_and_steps():
    assert chromaticity((1.0, 1.0, 1.0)) == pytest.approx((0.1978, 0.4683), abs=2e-4), "D65"
    assert chromaticity((1.0, 0.0, 0.0)) == pytest.approx((0.4507, 0.5229), abs=5e-4), "sRGB red"
    assert colour_steps((1, 1, 1), (2, 2, 2)) == pytest.approx(0.0, abs=1e-9), "brightness is no colour"
    assert colour_steps((1, 0, 0), (0, 1, 0)) > 100
    assert brighter_by(0, 0) == 0 and brighter_by(1.1, 1) == pytest.approx(0.1) and brighter_by(0, 1) == float("inf")


def engines(part: str = "chip-1206-warm-white", wanted: float = 30.0) -> Plan:
    """Two decks alike, one a light that is to match the other's."""
    plan = deck_plan(windows=6, lamps=2)
    plan = edits.move(plan, ["deck1"], (0.0, 30.0, 0.0))
    plan, new = twins.copy_across(plan, ["deck1"])
    plan = copy_unchecked(
        plan,
        lights=(Light(id="left", name="Left engine"), Light(id="right", name="Right engine", matches="left")),
    )
    plan = edits.set_fields(plan, ["deck1"], light="left")
    plan = edits.set_fields(plan, new, light="right")
    lamps = [p.id for p in plan.lamps if p.at[1] < 0]
    plan = edits.set_fields(plan, lamps, part=part)
    return edits.set_wanted(plan, new, edits.copy_checked(plan.lamps[0].wanted, look=None, cd_m2=wanted))


def unlike(plan: Plan):
    return {f.rule: f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule.startswith("unlike")}


def test_alike_is_alike_and_what_isnt_is_mended():
    assert not unlike(engines())
    dim = unlike(engines(wanted=15.0))
    assert set(dim) == {"unlike-brightness"} and "dimmer" in dim["unlike-brightness"].sentence
    mended = dim["unlike-brightness"].fixes[0].applied(engines(wanted=15.0))
    assert not unlike(mended)
    cool = unlike(engines("chip-1206-cool-white"))
    assert "unlike-colour" in cool
    same = cool["unlike-colour"].fixes[0].applied(engines("chip-1206-cool-white"))
    assert "unlike-colour" not in unlike(same)


def test_measured_anew_after_an_edit():
    plan = engines(wanted=15.0)
    finding = unlike(plan)["unlike-brightness"]
    assert finding.measure(assess(plan, CAT)) == pytest.approx(finding.number)
    assert finding.measure(assess(engines(), CAT)) < 0.1


def test_looks_of_panes_and_points_and_of_nothing():
    plan = engines()
    assessment = assess(plan, CAT)
    look = look_of(plan, assessment, "left")
    assert look.kind == "pane" and len(look.shown) == 6 and look.least <= look.mean <= look.most
    assert look_of(plan, assessment, "nobody") is None
    point = edits.set_fields(plan, [plan.lamps[0].id], mount="outside", light="point")
    assert look_of(point, assess(point, CAT), "point").kind == "point"


def test_a_light_that_matches_one_gone_or_itself_is_left_alone():
    plan = engines(wanted=10.0)
    gone = edits.delete(plan, ["left"])
    assert gone.lights[0].matches == "" and not unlike(gone)
    itself = copy_unchecked(plan, lights=(copy_unchecked(plan.lights[0], matches="left"),))
    assert not unlike(itself)
    with pytest.raises(PlanError):
        from gwiazda.core.plan.gate import validate_edit

        validate_edit(
            plan, copy_unchecked(plan, lights=(copy_unchecked(plan.lights[0], matches="nowhere"), plan.lights[1]))
        )


# -- colour of plastics -------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "wall", [Wall(0.7, 0, 0, "red", 0.8, 1.2), Wall(0, 4, 0.1, "yellow", 0.5, 1.2), Wall(1.0, 0, 0, "blue", 1.0, 0.6)]
)
def test_a_colour_keeps_the_figure_for_white_and_energy(wall):
    spectrum = white(3000.0)
    f = filter_of(wall)
    assert float(xyz(spectrum * f)[1] / xyz(spectrum)[1]) == pytest.approx(1.0, abs=1e-6)
    plain = kubelka_munk(4, 0.1, 1.2)[0] if wall.scatter_per_mm else 10 ** -(wall.density_per_mm * wall.thick_mm)
    assert float((f * plain).max()) <= 1.0, "no wavelength gains"
    assert np.all(f >= 0)
    assert np.all(filter_of(wall._replace(strength=0.0)) == 1.0) and np.all(filter_of(wall._replace(colour="")) == 1.0)


def test_red_plastic_lets_red_through_and_stops_blue():
    f = filter_of(Wall(0.7, 0, 0, "red", 0.8, 1.2))
    red, blue = (float(xyz(s * f)[1] / xyz(s)[1]) for s in (gaussian(630, 20), gaussian(468, 24)))
    assert red > 2.0 and blue < 0.05
    thick = filter_of(Wall(0.7, 0, 0, "red", 0.8, 2.4))
    assert float(xyz(white(6500) * thick)[1] / xyz(white(6500))[1]) < float(
        xyz(white(6500) * f)[1] / xyz(white(6500))[1]
    )


def leaky(material: str, lamp: str = "chip-1206-cool-white") -> Plan:
    plan = deck_plan(windows=2, lamps=2)
    plan = copy_unchecked(plan, kit=copy_unchecked(plan.kit, material=material))
    plan = edits.set_fields(plan, [p.id for p in plan.lamps], part=lamp)
    return copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], lining="bare", wall_mm=0.8),))


def test_a_leak_takes_the_colour_of_the_wall_and_a_pane_doesnt():
    plan = leaky("red")
    assessment = assess(plan, CAT)
    section, lamp = plan.sections[0], plan.lamps[0]
    hue = wall_hue(CAT, section, "red")
    through = tinted(CAT, lamp, Colours((), hue))
    lights = {c.rgb: c for c in scene_of(plan, assessment, "port")}
    assert set(lights) == {assessment.lamps[lamp.id].rgb, through.rgb}
    assert len(lights[assessment.lamps[lamp.id].rgb].panes) == 2, "the two panes are as their lamps are"
    grey = {c.rgb for c in scene_of(leaky("light-grey"), assess(leaky("light-grey"), CAT), "port")}
    assert grey == {assessment.lamps[lamp.id].rgb}, "grey plastic changes no colour"


def test_a_red_lamp_leaks_more_through_red_plastic_than_a_blue_one_does():
    leaks = {}
    for lamp in ("chip-1206-red", "chip-1206-blue"):
        plan = leaky("red", lamp)
        assessment = assess(plan, CAT)
        flux = sum(s.flux_lm for s in assessment.lamps.values())
        leaks[lamp] = max(x.luminance_cd_m2 for x in assessment.leaks if x.kind == "wall") / flux
    assert leaks["chip-1206-red"] > 10 * leaks["chip-1206-blue"]


def test_lit_through_tan_plastic_a_pane_is_warmer():
    plan = leaky("tan")
    pane = edits.set_fields(plan, [plan.openings[0].id], hole=False)
    assessment = assess(pane, CAT)
    warm = next(
        c.rgb
        for c in scene_of(pane, assessment, "port", leaks=False)
        if c.rgb != assessment.lamps[pane.lamps[0].id].rgb
    )
    assert warm[0] > assessment.lamps[pane.lamps[0].id].rgb[0]
