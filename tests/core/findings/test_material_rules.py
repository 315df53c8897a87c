"""What a section is made of: metal conducts and takes longer to drill, glues hold or don't, wood lets a little light through."""

from __future__ import annotations

import math

import pytest

from decks import deck_plan
from gwiazda.core.assess.assembly.glues import advise
from gwiazda.core.assess.assembly.steps import steps_of
from gwiazda.core.assess.assessment import assess
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.materials import material_kinds
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.model import Closure

CAT = built_in()
LAMP = "deck1.lamp.01"


def of(plan, rule):
    return [f for f in evaluate_rules(plan, assess(plan, CAT)) if f.rule == rule]


def chip_on_the_roof(**section):
    """The worked deck with one chip whose pads lie against the roof."""
    plan = deck_plan(lamps=1)
    box = plan.sections[0].box
    at = (box.centre[0], box.centre[1], box.at[2] + box.size[2] - 0.5)
    return edits.set_fields(edits.set_fields(plan, [LAMP], at=at), ["deck1"], **section)


@pytest.mark.parametrize("made", [{"material": "brass"}, {"lining": "foil"}, {"material": "steel", "lining": "silver"}])
def test_a_chip_on_metal_or_foil_is_shorted_and_tape_under_it_settles_it(made):
    plan = chip_on_the_roof(**made)
    (found,) = of(plan, "bare-on-metal")
    assert found.severity == "stop" and found.subject == LAMP and "it conducts" in found.sentence
    taped = found.fixes[0].applied(plan)
    assert not of(taped, "bare-on-metal") and taped.sections[0].patches[0].face == "top"
    assert of(edits.move(taped, [LAMP], (20.0, 0.0, 0.0)), "bare-on-metal"), "moved off its tape it is bare again"


@pytest.mark.parametrize(
    "made", [{}, {"material": "light-wood"}, {"material": "brass", "lining": "foil", "face": True}]
)
def test_where_nothing_conducts_under_it_nothing_is_said(made):
    plan = chip_on_the_roof(**{k: v for k, v in made.items() if k != "face"})
    if "face" in made:
        plan = skins.add_patch(plan, "deck1", "top", (0.0, 0.0), plan.sections[0].box.size[:2], "insulating-tape")
    assert not of(plan, "bare-on-metal")
    hanging = edits.move(chip_on_the_roof(material="brass"), [LAMP], (0.0, 0.0, -5.0))
    assert not of(hanging, "bare-on-metal"), "a chip in mid-air touches no wall"


def test_foil_tape_is_no_insulation():
    plan = skins.add_patch(chip_on_the_roof(material="brass"), "deck1", "top", (0.0, 0.0), (165.0, 44.0), "foil-tape")
    assert "foil tape" in of(plan, "bare-on-metal")[0].sentence


@pytest.mark.parametrize(
    ("material", "closure", "severity"),
    [
        ("brass", Closure(by="glue", glue="thin solvent cement"), "stop"),
        ("light-wood", Closure(by="glue", glue="solvent cement"), "stop"),
        ("cream-resin", Closure(by="glue", glue="white glue"), "look"),
        ("white-card", Closure(by="solder"), "stop"),
    ],
)
def test_a_closing_that_does_not_hold_is_found_with_what_does(material, closure, severity):
    plan = edits.set_fields(deck_plan(), ["deck1"], material=material, closure=closure)
    (found,) = of(plan, "closing-wont-hold")
    assert found.severity == severity and found.fixes
    for fix in found.fixes:
        assert not of(fix.applied(plan), "closing-wont-hold")


@pytest.mark.parametrize(
    ("material", "closure"),
    [
        ("brass", Closure(by="solder")),
        ("brass", Closure(by="glue", glue="two-part epoxy")),
        ("white-card", Closure(by="glue", glue="white glue")),
        ("", Closure(by="glue", glue="thin solvent cement")),
        ("brass", Closure(by="screws")),
    ],
)
def test_what_holds_is_not_found(material, closure):
    plan = edits.set_fields(deck_plan(), ["deck1"], material=material, closure=closure)
    assert not of(plan, "closing-wont-hold") and not of(plan, "unknown-glue")


def test_a_glue_of_elsewhere_is_kept_and_named():
    plan = edits.set_fields(deck_plan(), ["deck1"], closure=Closure(by="glue", glue="my uncle's paste"))
    (found,) = of(plan, "unknown-glue")
    assert "my uncle's paste" in found.sentence and not of(found.fixes[0].applied(plan), "unknown-glue")


@pytest.mark.parametrize("kind", sorted(material_kinds()))
def test_something_holds_each_kind_of_material(kind):
    shell = "body" if kind == "plastic" else kind
    found = advise(CAT, shell, shell)
    assert found[0].verdict == "holds" and len({x.glue.id for x in found}) == len(CAT.adhesives)


def test_metal_takes_three_times_as_long_to_drill_with_its_own_caution():
    plastic, brass = (edits.set_fields(deck_plan(), ["deck1"], material=m) for m in ("", "brass"))
    a, b = ({s.key: s for s in steps_of(CAT, plan)}["deck1:open"] for plan in (plastic, brass))
    setup = CAT.work["open"].set_min
    assert b.minutes - setup == pytest.approx(3.0 * (a.minutes - setup))
    assert b.care == "swarf" and "Goggles" in CAT.cares[b.care] and "burr" in b.detail and a.care == "blade"


def test_metal_is_opaque_and_veneer_lets_a_tenth_through():
    assert CAT.materials["brass"].film(0.1).transmittance < 1e-9
    assert CAT.materials["light-wood"].film(0.5).transmittance == pytest.approx(0.1, abs=0.02)
    assert CAT.materials["white-card"].film(0.1).transmittance == pytest.approx(0.35, abs=0.01)
    for m in CAT.materials.values():
        film = m.film(0.8)
        assert film.transmittance >= 0.0 and film.transmittance + film.reflectance <= 1.0 + 1e-9, m.id
        # A wall of twice the thickness never lets more through, nor more than what is left of what two such walls would.
        assert m.film(1.6).transmittance <= film.transmittance and math.isfinite(film.sigma)


def test_an_iron_near_brass_softens_nothing_and_near_resin_sooner():
    kinds = material_kinds()
    assert kinds["metal"].softens_c == 0.0 and 0.0 < kinds["resin"].softens_c < kinds["plastic"].softens_c
