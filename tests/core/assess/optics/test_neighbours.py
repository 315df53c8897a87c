"""Lit parts that shine on the outsides around them, with shadows from outlines; panes in a slanted skin as they look from aside."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.scene import scene_of, surfaces_of
from gwiazda.core.assess.sight.throw import sheet_bodies
from gwiazda.core.assess.view_index import opening_shapes
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Opening, Outline, Plan, Section, copy_unchecked
from gwiazda.core.plan.outline.oblique import facing_of, seen_from
from gwiazda.core.render.layers import Bodies, Camera, ChannelLight, Relief, Surface, Wash, render

CAT = built_in()
CAMERA = Camera(300, 300, (-150.0, -150.0), 1.0, 0.6)
NOTHING = (np.zeros((0, 4)), np.zeros(0))


def wedge(turn: float) -> Section:
    """A house whose front runs back by ``turn`` mm for each mm to port, and by half as much for each mm up."""
    top = ((40.0, -10.0), (40.0 - 20.0 * turn, 10.0), (0.0, 10.0), (0.0, -10.0))
    side = ((40.0, 0.0), (40.0 - 10.0 * turn, 20.0), (0.0, 20.0), (0.0, 0.0))
    return Section(
        id="h",
        name="House",
        box=Box(at=(0, -10, 0), size=(40, 20, 20)),
        outlines=(Outline(side="top", points=top), Outline(side="port", points=side)),
    )


def pane(side: str = "bow") -> Opening:
    return Opening(id="h.w", section="h", width_mm=4.0, height_mm=3.0, at=(30.0, 0.0, 10.0), side=side)


# -- as seen ------------------------------------------------------------------------------------------------


def test_a_pane_faces_the_way_its_skin_is_turned():
    straight = facing_of(wedge(0.0), pane())
    assert straight.normal == (1.0, 0.0, 0.0) and seen_from(wedge(0.0), pane(), "port") is None
    turned = facing_of(wedge(1.0), pane())
    assert turned.normal == pytest.approx(np.array([1.0, 1.0, 0.5]) / math.sqrt(2.25)), "x runs back along y and z"
    assert np.dot(turned.normal, turned.across) == pytest.approx(0) and np.dot(
        turned.normal, turned.up
    ) == pytest.approx(0)


def test_seen_from_aside_it_shows_as_much_as_the_skin_turns():
    seen = seen_from(wedge(1.0), pane(), "port")
    # The view shows x and z: a mm across goes back a mm in x, a mm up goes up one and back half a mm.
    assert seen.area_mm2 == pytest.approx(4.0 * 3.0 * 1.0)
    assert seen.half_h == pytest.approx((4.0 * 1.0 + 3.0 * 0.5) / 2) and seen.half_v == pytest.approx(1.5)
    assert seen_from(wedge(1.0), pane(), "top").area_mm2 == pytest.approx(4.0 * 3.0 * 0.5)
    assert seen_from(wedge(1.0), pane(), "starboard") is None and seen_from(wedge(1.0), pane(), "stern") is None
    shapes = opening_shapes((pane(),), (wedge(1.0),), "port")
    assert shapes.rects[0, 2] - shapes.rects[0, 0] == pytest.approx(5.5) and not shapes.facing[0]
    edge_on = opening_shapes((pane(),), (wedge(0.0),), "port")
    assert edge_on.rects[0, 2] == edge_on.rects[0, 0], "a bar where it isn't turned"


def test_a_slanted_front_glows_in_the_side_view_by_what_shows_of_it():
    plan = deck_plan(windows=0, lamps=3)
    section = copy_unchecked(plan.sections[0], outlines=(
        Outline(side="top", points=((166.2, -23.2), (150.0, 23.2), (-1.2, 23.2), (-1.2, -23.2))),
        Outline(side="port", points=((-1.2, -1.2), (166.2, -1.2), (166.2, 20.2), (-1.2, 20.2))),
    ))  # fmt: skip
    o = Opening(id="front", section="deck1", width_mm=4.0, height_mm=3.0, at=(165.0, 0.0, 10.0), side="bow")
    plan = edits.add_openings(copy_unchecked(plan, sections=(section,)), (o,))
    assessment = assess(plan, CAT)
    (light,) = scene_of(plan, assessment, "port", leaks=False)
    assert len(light.panes) == 1
    left, right, top, bottom = light.panes[0]
    assert (right - left) * (bottom - top) == pytest.approx(12.0 * 16.2 / 46.4)
    assert light.pane_cd_m2[0] == pytest.approx(assessment.openings["front"].luminance_cd_m2), (
        "as bright as straight on"
    )


# -- on neighbours ------------------------------------------------------------------------------------------


NONE = Bodies(np.zeros((0, 2, 3)), ())


def on_deck(wash: Wash, bodies: Bodies = NONE, toward: float = 0.0) -> np.ndarray:
    """Luminance (300, 300) of a large white face under a wash."""
    face = Surface(np.array([(-140.0, -140.0), (140.0, -140.0), (140.0, 140.0), (-140.0, 140.0)]), toward, 1.0)
    relief = Relief((face,), CAMERA, bodies)
    layer = render(ChannelLight("c", (1, 1, 1), *NOTHING, *NOTHING, (wash,)), CAMERA, relief, 1e-9)
    out = np.zeros((300, 300))
    if layer is not None:
        h, w = layer.pixels.shape
        out[layer.y0 : layer.y0 + h, layer.x0 : layer.x0 + w] = layer.pixels
    return out


@pytest.mark.parametrize("soft", [False, True])
def test_a_lit_pane_throws_what_the_closed_form_says(soft):
    """A small diffuse pane 12 mm over a deck, looking along it: E = I·cos α·cos β/r², I = L·A."""
    intensity = 30.0 * 12e-6
    picture = on_deck(Wash((0.0, 0.0, 12.0), (1.0, 0.0, 0.0), 1.0, intensity, soft))
    for x, y in ((20, 0), (40, 15), (70, -30)):
        r = math.sqrt(x * x + y * y + 144.0)
        lux = intensity * 1e6 * (x / r) * (12.0 / r) / r**2
        i, j = y + 150, x + 150
        assert picture[i, j] == pytest.approx(lux / math.pi, rel=0.12 if soft else 0.06)
    assert picture[150, 100] == 0.0, "behind it nothing falls"
    falls = picture.sum() * math.pi * 1e-6
    assert falls <= math.pi * intensity / 2 * 1.02, "no more than what leaves downwards: half its flux"
    assert falls > 0.6 * math.pi * intensity / 2


def test_light_passes_beside_an_outline_that_its_box_would_stop():
    triangle = np.array([(30.0, 30.0), (60.0, 30.0), (60.0, -30.0)])
    box = np.array([[(30.0, -30.0, 0.0), (60.0, 30.0, 40.0)]])
    wash = Wash((0.0, 0.0, 12.0), (1.0, 0.0, 0.0), 1.0, 1e-3)
    free, outlined, boxed = (on_deck(wash, b) for b in (NONE, Bodies(box, (triangle,)), Bodies(box, (None,))))
    beside = (150 - 55, 150 + 62)  # past the triangle's slanted side, within its box's shadow
    behind = (150 - 10, 150 + 80)
    assert outlined[beside] == pytest.approx(free[beside]) and free[beside] > 0 and boxed[beside] == 0
    assert outlined[behind] == 0.0 and boxed[behind] == 0.0 and free[behind] > 0
    assert np.count_nonzero(outlined) > np.count_nonzero(boxed)
    assert np.all(outlined <= free + 1e-9)


def test_shadow_edges_are_where_rays_say():
    """Against every pixel's own ray, crossing the outline's edges one by one."""
    triangle = np.array([(20.0, -20.0), (50.0, 5.0), (25.0, 30.0)])
    box = np.array([[(20.0, -20.0, -5.0), (50.0, 30.0, 40.0)]])
    wash = Wash((0.0, 0.0, 12.0), (1.0, 0.0, 0.0), 0.0, 1e-3)
    picture = on_deck(wash, Bodies(box, (triangle,)))
    from shapely import LineString, Polygon

    body, wrong = Polygon(triangle), 0
    rng = np.random.default_rng(3)
    for x, y in rng.uniform(-130, 130, (300, 2)).round() + 0.5:
        lit = picture[int(y + 150), int(x + 150)] > 0
        crosses = LineString([(0, 0), (x, y)]).intersects(body)
        if x > 1:
            wrong += lit == crosses
    assert wrong <= 3, "but for pixels on the edge itself"


def house_on_deck() -> Plan:
    """A house with lit port windows on a broad hull under it."""
    plan = deck_plan(windows=8, lamps=3)
    plan = edits.move(plan, ["deck1"], (0.0, 0.0, 20.0))
    hull = edits.outline_from_box(Section(id="hull", name="Hull", box=Box(at=(-20, -50, -10), size=(205, 100, 28))))
    return copy_unchecked(edits.add_section(plan, hull), views=plan.views)


def test_cabin_windows_light_the_side_deck_seen_from_above():
    plan = house_on_deck()
    assessment = assess(plan, CAT)
    washes = [w for c in scene_of(plan, assessment, "top", leaks=False) for w in c.washes]
    assert washes and all(w.soft and w.order == 1.0 for w in washes)
    whole = sum(assessment.openings[o.id].luminance_cd_m2 * o.area_mm2 * 1e-6 for o in plan.openings)
    assert sum(w.axial_cd for w in washes) == pytest.approx(whole), "all panes are in it, once"
    assert all(w.aim[1] == pytest.approx(1.0) and w.aim[2] == pytest.approx(0.0) for w in washes), (
        "to port: down on that sheet"
    )
    assert not [w for c in scene_of(plan, assessment, "port", leaks=False) for w in c.washes], (
        "no face looks at panes that face the eye"
    )
    bodies = sheet_bodies(plan.sections, "top")
    assert len(bodies.boxes) == 2 and all(o is not None for o in bodies.outlines)
    assert len(surfaces_of(CAT, plan, "top")) == 2


def test_dark_panes_throw_nothing():
    plan = house_on_deck()
    dark = edits.set_fields(plan, [o.id for o in plan.openings], lit=0.0)
    assert not [w for c in scene_of(dark, assess(dark, CAT), "top", leaks=False) for w in c.washes]


@pytest.mark.parametrize(("above_mm", "share"), [(1.0, 1.0), (0.0, 0.5), (-1.0, 0.0)])
def test_a_light_at_the_edge_of_a_face_shows_alike_at_any_magnification(above_mm, share):
    """Half of it behind the edge: half of its light, and never all or nothing by how the pixels fall."""
    face = Surface(np.array([[-50.0, 0.0], [50.0, 0.0], [50.0, 40.0], [-50.0, 40.0]]), 10.0, 0.3)
    light = ChannelLight("a", (1, 1, 1), *NOTHING, np.array([[0.0, -above_mm, 0.4, 0.0]]), np.array([1e4]))
    totals = []
    for scale in (1.31, 2.0, 3.17, 3.63, 3.66):
        camera = Camera(int(120 * scale), int(120 * scale), (-60.0, -60.0), scale, 0.6)
        layer = render(light, camera, Relief((face,), camera), 1e-6)
        totals.append(0.0 if layer is None else float(layer.pixels.sum()) / scale**2)
    whole = 1e4 * math.pi * 0.4**2
    assert totals == pytest.approx([totals[0]] * 5, rel=0.05)
    assert totals[0] == pytest.approx(share * whole, rel=0.1), "the rest is spread beyond the picture"
