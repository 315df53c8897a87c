"""Half a page for the bench: one A5 page, whatever the plan, with what is true of it."""

from __future__ import annotations

import pytest

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lights.build import place
from gwiazda.core.assess.lights.place import Spot
from gwiazda.core.circuit.series import bands
from gwiazda.core.drawing.sheets import PAPERS, pages_of
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Box, Kit, Plan, Section
from gwiazda.core.plan.storage import load
from gwiazda.core.quantities import format_resistance
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import start
from gwiazda.demos import NAMES, path_of

CATALOGUE = built_in()


def page_of(plan):
    (page,) = pages_of(plan, assess(plan, CATALOGUE), PAPERS["a5"], ["half"])
    return page


def truck(size_mm: float = 90.0) -> Plan:
    box = Box(at=(0.0, -25.0, 0.0), size=(size_mm, 50.0, 30.0))
    plan = Plan(kit=Kit(name="Truck", kind="vehicle", scale=35.0), sections=(Section(id="hull", name="Hull", box=box),))
    for kind, side, x in (("headlamp", "bow", size_mm + 1.2), ("tail-lamp", "stern", -1.2)):
        plan, _ = place(CATALOGUE, plan, kind, Spot(side, (x, 18.0, 12.0), "hull"))
    return plan


@pytest.mark.parametrize("name", NAMES)
def test_every_demo_fits_one_page(name):
    page = page_of(load(path_of(name)).plan)
    room_w, room_h = page.paper.room
    assert page.paper.id == "a5" and page.paper.width_mm < page.paper.height_mm
    for m in page.body:
        for x, y in m.points:
            assert -4.0 <= x <= room_w + 1.0 and -1.0 <= y <= room_h + 1.0, m


@pytest.mark.parametrize("form", FORMS)
def test_every_starter_fits_one_page(form):
    assert page_of(start(CATALOGUE, FORMS[form].sizes).plan).body


def test_it_says_holes_resistors_with_their_bands_plus_and_the_test():
    plan = truck()
    words = [m.text for m in page_of(plan).body if m.kind == "text"]
    assessment = assess(plan, CATALOGUE)
    for branch in assessment.branches.values():
        assert any(format_resistance(branch.resistor_ohm) in w for w in words)
        assert set(bands(branch.resistor_ohm, "E12")) <= set(words)
    assert any("Left headlamp: 4.3 mm" in w for w in words) and any("coin cell" in w for w in words)
    assert any("true size" in w for w in words) and "+" in words and any(w.startswith("Care") for w in words)
    assert any(w.startswith("In hand: 4 lamps") for w in words)


def test_true_size_is_true_and_a_large_side_says_its_share():
    small = page_of(truck())
    discs = [m for m in small.body if m.kind == "disc" and m.size == pytest.approx(2.15, abs=0.1)]
    left, right = sorted(x for m in discs for x, _ in m.points)[:2]
    assert right - left == pytest.approx(36.0, abs=0.01), "18 mm to either side of the middle"
    large = truck(90.0)
    wide = Section(id="hull", name="Hull", box=Box(at=(0.0, -125.0, 0.0), size=(90.0, 250.0, 30.0)))
    words = [
        m.text
        for m in page_of(Plan(**{**{f: getattr(large, f) for f in large.__struct_fields__}, "sections": (wide,)})).body
        if m.kind == "text"
    ]
    assert any("1/3 of true size" in w for w in words)


def test_a_plan_without_lamps_has_none():
    with pytest.raises(PlanError, match="nothing to put on them"):
        pages_of(Plan(), assess(Plan(), CATALOGUE), PAPERS["a5"], ["half"])
