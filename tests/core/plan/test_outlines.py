"""Outlines, mirrors, the wand, shapes of an SVG, decks: from lines of a drawing to sections and openings."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.errors import GwiazdaError, PlanError
from gwiazda.core.plan import decks, edits
from gwiazda.core.plan.edits import patterns, twins, views
from gwiazda.core.plan.frame import polygon_area
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import find, opening_of, section_of
from gwiazda.core.plan.model import (
    Box,
    Feed,
    Lamp,
    LampRef,
    Lead,
    Obstacle,
    Opening,
    Outline,
    OwnStep,
    Passage,
    Plan,
    Resistor,
    Section,
    SectionOrder,
    Series,
    copy_unchecked,
    lamps_in,
    parts_in,
)  # fmt: skip
from gwiazda.core.plan.outline import outlines, shapes, svg_shapes, wand

CORNER = st.floats(-50, 50)
SQUARE = ((0.0, 0.0), (30.0, 0.0), (30.0, 20.0), (0.0, 20.0))


def boxed(**fields) -> Section:
    return Section(id="hull", name="Hull", box=Box(at=(0, 2, 0), size=(60, 10, 20)), **fields)


@given(CORNER, CORNER, st.floats(0.5, 40), st.floats(0, 6), st.floats(0.2, 5))
def test_an_arc_keeps_to_its_circle(cx, cy, radius, start, sweep):
    a, via, b = (
        (cx + radius * math.cos(t), cy + radius * math.sin(t)) for t in (start, start + sweep / 2, start + sweep)
    )
    points = outlines.arc(a, via, b)
    assert points[-1] == b
    for p in points:
        assert math.dist(p, (cx, cy)) == pytest.approx(radius, rel=1e-4, abs=1e-4)
    # Each chord lies within the sagitta of the arc, up to the most chords there are.
    chain = [a, *points]
    middle = max(
        radius - math.dist(((p[0] + q[0]) / 2, (p[1] + q[1]) / 2), (cx, cy)) for p, q in itertools.pairwise(chain)
    )
    assert middle <= max(outlines.SAGITTA_MM * 1.01, radius * 0.04)


def test_an_arc_through_a_line_is_the_line():
    assert outlines.arc((0, 0), (5, 0), (10, 0)) == ((10, 0),)
    assert outlines.arc((0, 0), (0, 0), (0, 0)) == ((0, 0),)


def test_straight_runs_snap_to_fifteen_degrees_and_no_further():
    end = outlines.straight_run((0, 0), (10, 10.3))
    assert math.degrees(math.atan2(end[1], end[0])) == pytest.approx(45.0)
    assert outlines.straight_run((0, 0), (10, 1.3)) == (10, 1.3)
    # From anywhere: 2° off 75° is brought onto it, at the length it had along it.
    a = math.radians(77.0)
    end = outlines.straight_run((12.0, -7.0), (12.0 + 20.0 * math.cos(a), -7.0 + 20.0 * math.sin(a)))
    assert math.degrees(math.atan2(end[1] + 7.0, end[0] - 12.0)) == pytest.approx(75.0, abs=1e-4)
    assert math.dist((12.0, -7.0), end) == pytest.approx(20.0 * math.cos(math.radians(2.0)), abs=1e-5)
    assert outlines.run_of((1, 1), 90.0, 4.0) == (1.0, 5.0)


def test_half_an_outline_is_closed_by_its_mirror_image():
    whole = outlines.mirrored_half(((0, 0), (2, 3), (8, 3), (10, 0)))
    assert whole == ((0, 0), (2, 3), (8, 3), (10, 0), (8, -3), (2, -3))
    with pytest.raises(PlanError, match="half an outline"):
        outlines.mirrored_half(((0, 0), (1, 1)))


@given(st.floats(0.2, 4.0))
def test_an_inset_rectangle_loses_its_wall_on_every_side(wall):
    inner = outlines.inset(SQUARE, wall)
    assert polygon_area(inner) == pytest.approx((30 - 2 * wall) * (20 - 2 * wall))


def test_an_inset_that_leaves_nothing_and_a_crossing_one_are_refused():
    with pytest.raises(PlanError, match="leaves no room"):
        outlines.inset(SQUARE, 10.0)
    with pytest.raises(PlanError, match="crosses itself"):
        outlines.inset(((0, 0), (10, 10), (10, 0), (0, 10)), 1.0)


def test_the_inner_box_keeps_off_slanted_walls():
    wedge = ((0.0, 0.0), (60.0, 0.0), (40.0, 20.0), (0.0, 20.0))
    h0, v0, h1, v1 = shapes.inner_rectangle(wedge, 1.0)
    inner = outlines.inset(wedge, 1.0)
    from shapely import Polygon, box

    assert Polygon(inner).buffer(0.01).contains(box(h0, v0, h1, v1))
    assert (h1 - h0) * (v1 - v0) > 0.6 * polygon_area(inner)


def test_the_box_of_two_outlines_is_the_narrower():
    section = boxed(
        wall_mm=1.0,
        outlines=(
            Outline(side="port", points=((0, 0), (60, 0), (60, 20), (0, 20))),
            Outline(side="top", points=((10, 0), (50, 0), (50, 12), (10, 12))),
        ),
    )
    box = shapes.box_from_outlines(section)
    assert box.at == pytest.approx((11, 1, 1)) and box.size == pytest.approx((38, 10, 18))


@given(st.lists(st.tuples(CORNER, CORNER), min_size=2, max_size=8), st.integers(1, 40))
def test_places_along_a_curve_are_evenly_spaced(points, count):
    length = sum(math.dist(a, b) for a, b in itertools.pairwise(points))
    if length < 1e-3:
        return
    places = outlines.along(points, count)
    assert len(places) == count
    if count > 1:
        assert math.dist(places[0][0], points[0]) < 1e-6 and math.dist(places[-1][0], points[-1]) < 1e-6
        for (a, _), (b, _) in itertools.pairwise(places):
            assert math.dist(a, b) <= length / (count - 1) + 1e-6


@given(st.integers(3, 40))
def test_strips_keep_a_polygons_area(count):
    disc = tuple((math.cos(t), 2 * math.sin(t)) for t in np.linspace(0, 2 * math.pi, 40, endpoint=False))
    cut = outlines.strips(disc, count)
    assert sum((b - a) * (d - c) for a, b, c, d in cut) == pytest.approx(polygon_area(disc))


@pytest.mark.parametrize(
    ("shape", "points", "area"),
    [("rect", (), 12.0), ("round", (), 3 * math.pi), ("slot", (), 4 * 3 - 9 + 9 * math.pi / 4),
     ("traced", ((-0.5, -0.5), (0.5, -0.5), (0, 0.5)), 6.0)],
)  # fmt: skip
def test_area_of_every_shape_of_pane(shape, points, area):
    o = Opening(id="o", section="s", shape=shape, width_mm=4, height_mm=3, at=(0, 0, 0), points=points)
    assert o.area_mm2 == pytest.approx(area)


# -- sections on the other side ---------------------------------------------------------------------------


def whole() -> Plan:
    section = boxed(
        outlines=(Outline(side="port", points=((-1, -1), (61, -1), (61, 21))),),
        obstacles=(Obstacle(id="hull.rib.01", box=Box(at=(5, 2, 0), size=(1, 10, 4))),),
    )
    return Plan(
        sections=(section,),
        openings=(
            Opening(id="hull.window.01", section="hull", at=(10, 12, 8), side="port", shape="traced", points=((-0.5, -0.5), (0.5, 0), (-0.5, 0.5))),
            Opening(id="hull.window.02", section="hull", at=(60, 6, 8), side="bow"),
        ),
        lamps=(Lamp(id="hull.lamp.01", part="chip-1206-warm-white", at=(20, 7, 15), aim=(0, 1, -1)),),
    )  # fmt: skip


def test_a_section_copied_across_takes_all_along_and_twice_is_where_it_was():
    plan, made = twins.copy_across(whole(), ["hull"])
    copy = section_of(plan, made[0])
    assert copy.box.at == (0, -12, 0) and copy.obstacles[0].box.at == (5, -12, 0)
    sides = {o.side for o in plan.openings if o.section == copy.id}
    assert sides == {"starboard", "bow"}
    lamp = next(p for p in plan.lamps if p.id != "hull.lamp.01")
    assert lamp.at == (20, -7, 15) and lamp.aim == (0, -1, -1)
    back = twins.mirrored(twins.mirrored(whole().sections[0], 1, 3.0), 1, 3.0)
    assert back == whole().sections[0]


def test_names_change_sides_and_a_section_across_the_middle_is_refused():
    plan = edits.set_fields(whole(), ["hull"], name="Port nacelle")
    plan, made = twins.copy_across(plan, ["hull"])
    assert section_of(plan, made[0]).name == "Starboard nacelle"
    middle = edits.set_fields(whole(), ["hull"], box=Box(at=(0, -5, 0), size=(60, 10, 20)))
    with pytest.raises(PlanError, match="across the middle"):
        twins.copy_across(middle, ["hull"])


def test_turning_a_section_round_twice_changes_nothing():
    plan = whole()
    once = twins.turn_round(plan, ["hull"], 0)
    assert opening_of(once, "hull.window.02").side == "stern"
    assert opening_of(once, "hull.window.01").points[0] == (0.5, -0.5)
    assert find(once, "hull.lamp.01").at[0] == pytest.approx(40)
    assert twins.turn_round(once, ["hull"], 0) == plan


def test_moving_a_section_takes_its_obstacles_along():
    moved = edits.move(whole(), ["hull"], (5.0, 0.0, 1.0))
    assert section_of(moved, "hull").obstacles[0].box.at == (10, 2, 1)


# -- the wand and the shapes of a drawing -----------------------------------------------------------------


def page(gap: int = 0, width: int = 3) -> np.ndarray:
    """A house of dark lines on light paper, with a window in it, and a gap in its roof line."""
    grey = np.full((120, 200), 245, dtype=np.uint8)
    grey[20 : 20 + width, 30:150] = 20
    grey[97 : 97 + width, 30:150] = 20
    grey[20:100, 30 : 30 + width] = 20
    grey[20:100, 147 : 147 + width] = 20
    grey[50:53, 60:80] = 20
    if gap:
        grey[20 : 20 + width, 90 : 90 + gap] = 245
    return grey


@pytest.mark.parametrize("gap", [0, 1, 3])
def test_the_wand_finds_the_middle_of_the_lines_and_closes_small_gaps(gap):
    points = wand.outline_at(wand.ink_of(page(gap)), 50, 80)
    assert polygon_area(points) == pytest.approx(117 * 77, rel=0.03)
    assert len(points) <= 8 + 4 * (gap > 0)
    assert min(p[0] for p in points) == pytest.approx(31.5, abs=1.6)


@pytest.mark.parametrize(
    ("place", "words"), [((10, 10), "isn't closed"), ((30.5, 50), "on a line"), ((500, 10), "off the drawing")]
)
def test_the_wand_says_why_it_finds_nothing(place, words):
    with pytest.raises(PlanError, match=words):
        wand.outline_at(wand.ink_of(page()), *place)


def test_a_blank_page_has_no_ink():
    assert not wand.ink_of(np.full((20, 20), 250, dtype=np.uint8)).any()


SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="100 50 200 100" width="400mm" height="200mm">
<g transform="translate(100 50)">
<rect x="10" y="10" width="180" height="80"/>
<rect x="20" y="30" width="8" height="6"/>
<circle cx="50" cy="33" r="4"/>
<rect x="70" y="28" width="20" height="8" rx="4" ry="4"/>
<path d="M110 30 l8 0 l-4 8 z"/>
<path d="M130 30 l8 0"/>
</g></svg>"""


def test_shapes_of_an_svg_in_its_own_units():
    found = svg_shapes.closed_shapes(SVG)
    assert [s.kind for s in found] == ["rect", "rect", "round", "slot", "traced"]
    assert (found[1].left, found[1].top, found[1].width, found[1].height) == pytest.approx((20, 30, 8, 6))
    assert svg_shapes.smallest_around(found, 50, 33) is found[2]
    assert svg_shapes.smallest_around(found, 12, 80) is found[0]
    assert svg_shapes.smallest_around(found, 2, 2) is None


@pytest.mark.parametrize("data", [b"<svg", b"<svg viewBox='a b c d'/>", b""])
def test_an_svg_that_is_none_is_refused_in_a_sentence(data):
    with pytest.raises(GwiazdaError, match="SVG"):
        svg_shapes.closed_shapes(data)


def test_openings_from_the_shapes_of_a_drawing():
    plan = copy_unchecked(whole(), openings=())
    square = lambda h, v, w: ((h, v), (h + w, v), (h + w, v + w), (h, v + w))  # noqa: E731
    drawn = [
        ("rect", square(45, 2, 6)),
        ("rect", square(46, 3, 4)),
        ("round", square(30, 1, 4)),
        ("rect", square(-9, 2, 4)),
        ("rect", square(20, 1, 0.05)),
    ]
    section = section_of(plan, "hull")
    after, made = patterns.openings_from_shapes(plan, section, "port", drawn)
    assert [(o.shape, o.width_mm) for o in after.openings] in (
        [("rect", 4.0), ("round", 4.0)],
        [("round", 4.0), ("rect", 4.0)],
    )
    assert len(made) == 2 and all(o.at[1] == 12 for o in after.openings)
    with pytest.raises(PlanError, match="no further closed shape"):
        patterns.openings_from_shapes(after, section, "port", drawn)


def test_a_traced_opening_that_crosses_itself_is_refused():
    with pytest.raises(PlanError, match="crosses itself"):
        patterns.traced_opening(whole(), section_of(whole(), "hull"), "port", ((0, 0), (4, 4), (4, 0), (0, 4)))


def test_openings_are_counted_and_named_by_deck():
    plan = copy_unchecked(whole(), openings=())
    section = section_of(plan, "hull")
    for level in (5.0, 14.0):
        plan, _ = edits.add_row(plan, section, "port", (10.0, level), (50.0, level), 4)
    plan, along = patterns.add_along(plan, section, "starboard", ((5.0, 5.0), (25.0, 5.5), (55.0, 5.0)), 3)
    rows = decks.decks_of(plan.sections, plan.openings)
    assert [(d.name, len(d.ids)) for d in rows] == [("Hull, port a", 4), ("Hull, port b", 4), ("Hull, starboard", 3)]
    assert decks.names_of(plan.sections, plan.openings)[along[1]] == "Hull, starboard, 2 of 3"


# -- drawings ---------------------------------------------------------------------------------------------


@given(st.floats(-170, 170), st.floats(-30, 30), st.floats(-30, 30))
def test_a_place_on_the_drawing_and_back(turn, right, down):
    plan = views.put_drawing(Plan(), "port", "a.png", 400, 200)
    drawing = edits.copy_checked(plan.views[0].drawing, rotation_deg=turn)
    assert views.sheet_place(drawing, *views.drawing_place(drawing, right, down)) == pytest.approx(
        (right, down), abs=1e-6
    )


@given(st.floats(-170, 170))
def test_aligned_views_agree_along_the_axes_they_share(turn):
    plan = views.put_drawing(Plan(), "port", "a.png", 400, 200)
    plan, top = views.add_view(plan, "top")
    plan = views.put_drawing(plan, top, "b.png", 400, 200)
    view = next(v for v in plan.views if v.id == top)
    plan = views.set_view(plan, top, drawing=edits.copy_checked(view.drawing, rotation_deg=turn))
    before = next(v for v in plan.views if v.id == top).drawing
    mark = views.drawing_place(before, -12.0, 7.0)  # x = 12, y = 7 as it lies now
    plan = views.align(plan, top, (12.0, 7.0), "port", (30.0, 4.0))
    after = next(v for v in plan.views if v.id == top).drawing
    assert views.sheet_place(after, *mark) == pytest.approx((-30.0, 7.0), abs=1e-6)


def test_a_crop_keeps_its_part_and_can_be_taken_back():
    plan = views.put_drawing(Plan(), "port", "a.png", 400, 200)
    plan = views.crop(plan, "port", (-50.0, -20.0), (50.0, 20.0))
    assert plan.views[0].drawing.crop == pytest.approx((100, 60, 300, 140))
    assert views.crop(plan, "port", None, (0, 0)).views[0].drawing.crop is None
    with pytest.raises(PlanError, match="no size"):
        views.crop(plan, "port", (1.0, 1.0), (1.0, 9.0))
    with pytest.raises(PlanError, match="no drawing"):
        views.crop(Plan(), "port", (1.0, 1.0), (5.0, 9.0))


def test_taking_a_light_apart_leaves_what_belonged_to_it():
    plan, light = edits.add_light(whole(), "cabin-row", "Cabins")
    plan = edits.assign_light(plan, ["hull", "hull.lamp.01", "hull.window.01"], light)
    assert find(plan, "hull.lamp.01").light == light
    p = edits.take_apart(plan, light)
    assert not p.lights and all(i.light == "" for i in (*p.sections, *p.lamps, *p.openings))
    with pytest.raises(PlanError, match="no light"):
        edits.assign_light(plan, ["hull"], "light.none")


def test_a_lights_look_goes_to_its_lamps_alone():
    plan, light = edits.add_light(whole(), "cabin-row", "Cabins")
    plan = edits.add_lamp(plan, Lamp(id="mast.01", part="chip-0603-red", at=(0, 0, 90), mount="outside"))
    plan = edits.assign_light(plan, ["hull"], light)
    plan = edits.set_light_look(plan, light, "soft")
    assert plan.lights[0].look == "soft"
    assert [p.wanted.look for p in plan.lamps] == ["soft", "normal"]


def test_all_that_belongs_to_a_section_goes_across_with_it():
    """A pylon's lamp on its wall, its circuit, its bundle of fibres and lead, its way into the fuselage and the order it is built in."""
    plan = edits.set_fields(whole(), ["hull"], name="Port pod")
    body = edits.outline_from_box(Section(id="body", name="Fuselage", box=Box(at=(0, -1.5, -20), size=(60, 3, 15))))
    plan = copy_unchecked(
        plan,
        sections=(*plan.sections, body),
        passages=(Passage(id="way", section="hull", into="body", at=(30.0, 4.0, -1.0)),),
        lamps=(*plan.lamps, Lamp(id="hull.light", part="chip-0603-red", at=(60.0, 12.3, 5.0), aim=(0, 1, 0), mount="outside")),
        feeds=(Feed(id="supply", items=(Series(id="r", items=(Resistor(id="res", ohm=330.0), LampRef(lamp="hull.lamp.01"), LampRef(lamp="hull.light"))),)),),
        leads=(Lead(id="red", lamp="hull.lamp.01", tag="4", through=("way",), way=((20.0, 7.0, 0.0), (30.0, 4.0, -5.0))),),
        section_orders=(SectionOrder(id="order", section="hull", late=True, hand="port"),),
        own_steps=(OwnStep(id="mine", name="Drill the pylon", section="hull", after=("hull:lamps",)),),
    )  # fmt: skip
    after, made = twins.copy_across(plan, ["hull"])
    validate_edit(plan, after)
    (pod,) = made
    light = next(p for p in after.lamps if p.part == "chip-0603-red" and p.id != "hull.light")
    assert light.at == (60.0, -12.3, 5.0) and light.aim == (0, -1, 0)
    way = next(w for w in after.passages if w.id != "way")
    assert way.section == pod and way.into == "body" and way.at == (30.0, -4.0, -1.0)
    (_, branch) = after.feeds[0].items
    hung = [x.lamp for x in lamps_in(branch)]
    assert light.id in hung and len(hung) == 2 and not set(hung) & {p.id for p in plan.lamps}
    ids = [{x.id for x in parts_in(b) if not isinstance(x, LampRef)} for b in (branch, plan.feeds[0].items[0])]
    assert len(ids[0]) == 2 and ids[0].isdisjoint(ids[1])
    lead = after.leads[1]
    assert lead.through == (way.id,) and lead.way[1] == (30.0, -4.0, -5.0) and lead.tag == ""
    assert [(o.section, o.late, o.hand) for o in after.section_orders[1:]] == [(pod, True, "starboard")]
    assert [(o.section, o.after) for o in after.own_steps[1:]] == [(pod, (f"{pod}:lamps",))]
