"""A model walked round: its silhouettes, what hides what, the light of floods and panes, the same with the compiled loops and without."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night import around as ar
from gwiazda.core.assess.night.shine import lights_of
from gwiazda.core.assess.night.solids import model_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Lamp, Layer, Outline, Plan, Seam, Section, Wanted, copy_unchecked
from gwiazda.core.plan.outline.shapes import SHAPES, section_from_shape
from gwiazda.core.plan.storage import load
from gwiazda.core.render import round as core_round
from gwiazda.core.render.raster import polygon_mask
from gwiazda.core.render.solid import Eye, normals_of, parted, ring_of, solid, spans_at
from gwiazda.core.render.tone import screen_table
from gwiazda.core.starter.forms import FORMS
from gwiazda.core.starter.start import shaped
from gwiazda.demos import path_of

CAT = built_in()
FAR = 400_000.0  # so far that lines of sight are as good as parallel


@pytest.fixture(params=["compiled", "numpy"])
def loops(request):
    """Both ways of doing it."""
    if request.param == "compiled":
        core_round.load_kernel()
    else:
        core_round.without_kernel()
    yield request.param
    core_round.without_kernel()


def volume(triangles: np.ndarray) -> float:
    a, b, c = (triangles[:, k] for k in range(3))
    return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0)


# -- solids -------------------------------------------------------------------------------------------------


def test_spans_of_an_outline_with_a_well():
    well = np.array([(0, 0), (10, 0), (10, 6), (7, 6), (7, 2), (3, 2), (3, 6), (0, 6)], dtype=float)
    assert (
        spans_at([well], 5.0) == [(0.0, 2.0)] and spans_at([well], 1.0) == [(0.0, 6.0)] and spans_at([well], 11.0) == []
    )


@pytest.mark.parametrize("shape", SHAPES)
def test_simple_shapes_have_about_their_volume_and_closed_skins(shape):
    section = section_from_shape(Plan(), shape, 60.0, 30.0, 20.0)
    drawn = {o.side: np.array(o.points) for o in section.outlines}
    skin = solid([drawn["port"]], [drawn["top"]], drawn.get("bow"), (0, 0, 0), (1, 1, 1))
    whole = 60 * 30 * 20
    wanted = {"box": 1.0, "tube": math.pi / 4, "disc": math.pi / 4, "wedge": 0.5, "dome": math.pi / 6}[shape]
    assert volume(skin) == pytest.approx(wanted * whole, rel=0.08)
    assert np.linalg.norm((normals_of(skin) * np.linalg.norm(np.cross(skin[:, 1] - skin[:, 0], skin[:, 2] - skin[:, 0]), axis=1)[:, None]).sum(axis=0)) < 0.02 * 2 * (60 * 30 + 30 * 20 + 20 * 60), "areas of a closed skin add up to nothing"  # fmt: skip


def test_rings_without_size_are_rectangles():
    assert len(ring_of(None)) == 4 and len(ring_of(np.array([(0, 0), (1, 0), (2, 0)], dtype=float))) == 4
    around_it = ring_of(np.array([(0, 0), (0, 2), (2, 2), (2, 0)], dtype=float))
    assert (
        0.5 * np.sum(around_it[:, 0] * np.roll(around_it[:, 1], -1) - np.roll(around_it[:, 0], -1) * around_it[:, 1])
        > 0
    )


def silhouette(model: ar.Model, azimuth: float, height: float, px_mm: float = 2.0) -> tuple[np.ndarray, Eye]:
    eye = Eye(azimuth, height, FAR, tuple(model.middle.tolist()), px_mm * FAR, 900, 500)
    return core_round.drawn(eye, model.skins).ids >= 0, eye


@pytest.mark.parametrize(
    ("azimuth", "height", "side", "axes"), [(0.0, 0.0, "port", (0, 2)), (0.0, 90.0, "top", (0, 1))]
)
def test_silhouettes_are_the_outlines(azimuth, height, side, axes):
    """Szron from port and from above, far away, against its outlines drawn flat: within a pixel."""
    core_round.load_kernel()
    plan = load(path_of("szron")).plan
    model = model_of(plan.sections, plan.openings)
    seen, eye = silhouette(model, azimuth, height)
    flat = np.zeros_like(seen)
    for s in plan.sections:
        outline = next((np.array(o.points) for o in s.outlines if o.side == side), None)
        if outline is None:
            low = np.array(s.box.at) - s.wall_mm
            high = np.array(s.box.at) + np.array(s.box.size) + s.wall_mm
            outline = np.array(
                [
                    (low[axes[0]], low[axes[1]]),
                    (high[axes[0]], low[axes[1]]),
                    (high[axes[0]], high[axes[1]]),
                    (low[axes[0]], high[axes[1]]),
                ]
            )
        three = np.tile(model.middle, (len(outline), 1))
        three[:, axes[0]], three[:, axes[1]] = outline[:, 0], outline[:, 1]
        flat |= polygon_mask(eye.project(three)[:, :2], eye.width, eye.height)
    core_round.without_kernel()
    wrong = seen != flat
    # A pixel that has a like neighbour in the other picture is on the edge.
    near = np.zeros_like(wrong)
    for dy in (-1, 0, 1):
        for dx in (-1, 0, 1):
            near |= np.roll(np.roll(flat, dy, 0), dx, 1) & seen & ~flat
            near |= np.roll(np.roll(seen, dy, 0), dx, 1) & flat & ~seen
    assert (wrong & ~near).sum() < 0.004 * flat.sum(), "but for what one section's missing outline leaves to its box"
    assert flat.sum() > 10_000


# -- seen and picked ----------------------------------------------------------------------------------------


def brute(eye: Eye, triangles: np.ndarray, x: int, y: int) -> int:
    """The first triangle a pixel's own ray meets from its front, −1 for none."""
    ray = eye.rays(np.array(x), np.array(y))
    corners = [triangles[:, k] for k in range(3)]
    n = np.cross(corners[1] - corners[0], corners[2] - corners[0])
    with np.errstate(divide="ignore", invalid="ignore"):
        at = ((corners[0] - eye.place) * n).sum(axis=1) / (n @ ray)
    p = eye.place + np.nan_to_num(at)[:, None] * ray
    met = (n @ ray < 0) & (at > 0)
    for o, q in ((0, 1), (1, 2), (2, 0)):
        met &= (np.cross(corners[q] - corners[o], p - corners[o]) * n).sum(axis=1) >= -1e-9
    return int(np.where(met, at, np.inf).argmin()) if met.any() else -1


def test_what_is_seen_is_what_rays_meet(loops):
    plan = deck_plan(windows=6, lamps=1)
    tower = edits.outline_from_box(Section(id="tower", name="Tower", box=Box(at=(60, -10, 21), size=(30, 20, 25))))
    plan = edits.add_section(plan, tower)
    model = model_of(plan.sections, plan.openings)
    eye = ar.eye_for(model, 35.0, 25.0, 500.0, 160, 100)
    looked = ar.looked_at(model, eye)
    rng = np.random.default_rng(4)
    wrong = 0
    for x, y in rng.integers(0, (160, 100), (250, 2)).tolist():
        wrong += int(looked.seen.ids[y, x]) != brute(eye, model.triangles, x, y)
    assert wrong <= 2, "but for rays that meet an edge"
    seen = {ar.item_at(looked, x, y) for x in range(0, 160, 3) for y in range(0, 100, 3)}
    assert {"deck1", "tower", None} <= seen and any(i and i.startswith("deck1.window") for i in seen)
    assert ar.item_at(looked, -1, 0) is None and ar.item_at(looked, 0, 5000) is None


# -- light --------------------------------------------------------------------------------------------------


def flood(at=(80.0, 0.0, 60.0), aim=(0.0, 0.0, -1.0), tower: bool = False) -> Plan:
    plan = deck_plan(windows=0, lamps=0)
    if tower:
        wall = edits.outline_from_box(Section(id="tower", name="Tower", box=Box(at=(100, -22, 21.5), size=(4, 44, 40))))
        plan = edits.add_section(plan, wall)
    return edits.add_lamp(
        plan, Lamp(id="flood", part="chip-0603-cool-white", at=at, aim=aim, mount="outside", wanted=Wanted(mcd=200.0))
    )


def deck_lux(plan: Plan, points: list[tuple[float, float]]) -> list[float]:
    """Lux on the deck's roof at places, as the picture from above has them."""
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    eye = Eye(0.0, 90.0, 5000.0, (80.0, 0.0, 20.0), 4.0 * 5000.0, 700, 300)
    looked = ar.looked_at(model, eye)
    falls = np.zeros((len(lights.keys), eye.height * eye.width))
    falls[:, looked.shown.flat] = core_round.fallen(
        eye, looked.shown, core_round.Shining(lights.lamps, lights.lamp_key, len(lights.keys)), model.bodies, 1e-6
    )
    out = []
    for x, y in points:
        px = eye.project(np.array([x, y, 20.2]))
        out.append(float(falls[:, int(px[1]) * eye.width + int(px[0])].sum()))
    return out


def test_a_flood_on_a_deck_gives_what_the_law_says(loops):
    plan = flood()
    state = assess(plan, CAT).lamps["flood"]
    from gwiazda.core.assess.lamp.modified_lamp import worked

    order = worked(CAT, plan.lamps[0]).order
    points = [(80.0, 0.0), (100.0, 10.0), (50.0, -15.0)]
    for (x, y), lux in zip(points, deck_lux(plan, points), strict=True):
        h = 60.0 - 20.2
        r = math.sqrt((x - 80) ** 2 + y * y + h * h)
        assert lux == pytest.approx(state.axial_cd * 1e6 * (h / r) ** order * (h / r) / r**2, rel=0.03)


def test_a_wall_casts_its_shadow(loops):
    before, behind = (75.0, 0.0), (110.0, 0.0)
    free, blocked = deck_lux(flood(), [before, behind]), deck_lux(flood(tower=True), [before, behind])
    assert blocked[0] == pytest.approx(free[0], rel=0.01) and blocked[1] == 0.0 < free[1]


def test_compiled_and_numpy_give_the_same_picture():
    plan = flood(tower=True)
    plan, _ = edits.add_row(plan, plan.sections[0], "port", (20, 10), (140, 10), 6, None)
    plan = edits.add_lamp(plan, Lamp(id="in", part="chip-1206-warm-white", at=(80, 0, 18)))
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    eye = ar.eye_for(model, 30.0, 35.0, 500.0, 240, 150)
    bases = []
    for compiled in (False, True):
        (core_round.load_kernel if compiled else core_round.without_kernel)()
        looked = ar.looked_at(model, eye)
        picture = ar.night_around(plan, assessment, looked, lights)
        bases.append((looked.seen.ids, picture.base))
    core_round.without_kernel()
    assert (bases[0][0] != bases[1][0]).mean() < 1e-3
    a, b = bases[0][1], bases[1][1]
    assert np.mean(np.abs(a - b) > 0.1 * np.maximum(a, b) + 1e-4) < 0.03, "smooth light is worked out on fewer pixels"


def test_what_may_stand_between_is_found_beforehand_and_nothing_is_missed():
    """Light with the shafts of each lamp against light with the whole tree walked for every place."""
    core_round.load_kernel()
    model = model_of(*(load(path_of("szron")).plan.sections, ()))
    eye = ar.eye_for(model, 40.0, 25.0, 600.0, 300, 180)
    looked = ar.looked_at(model, eye)
    rng = np.random.default_rng(8)
    low, high = model.box
    lamps = np.column_stack([rng.uniform(low - 30, high + 60, (24, 3)), np.tile([0.0, 0.0, -1.0], (24, 1)), rng.choice([-1.0, 1.0], 24), np.ones(24)])  # fmt: skip
    each, one = np.arange(24), (eye, looked.shown)
    found = core_round.fallen(*one, core_round.Shining(lamps, each, 24), model.bodies, 0.0)
    beams = [tuple(x) for x in lamps[:, :7].tolist()]
    walked = np.array([core_round._lux_of.function(*one, model.bodies, b, 0.0, False, True) for b in beams])
    brute = np.array([core_round._lux_numpy(looked.shown, model.bodies, lamp[:7], 0.0, True) for lamp in lamps[:6]])
    core_round.without_kernel()
    assert (found > 0).any(axis=1).sum() > 10 and np.allclose(found, walked, rtol=1e-6, atol=0.0)
    assert ((found[:6] > 0) != (brute > 0)).mean() < 1e-3, "but for rays that graze an edge"


def test_long_faces_are_parted_without_a_gap():
    rng = np.random.default_rng(2)
    skin = rng.uniform(-40, 40, (30, 3, 3))
    parts, of = parted(skin, 12.0)
    area = np.linalg.norm(np.cross(parts[:, 1] - parts[:, 0], parts[:, 2] - parts[:, 0]), axis=1) / 2
    whole = np.linalg.norm(np.cross(skin[:, 1] - skin[:, 0], skin[:, 2] - skin[:, 0]), axis=1) / 2
    assert np.bincount(of, area) == pytest.approx(whole) and (np.diff(of) >= 0).all()
    assert np.linalg.norm(np.roll(parts, -1, axis=1) - parts, axis=2).max() <= 12.0
    assert np.einsum("ij,ij->i", normals_of(parts), normals_of(skin)[of]) == pytest.approx(1.0), "turned as they were"


def pane_luminance(plan: Plan, distance_mm: float) -> float:
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    eye = Eye(0.0, 0.0, distance_mm, tuple(model.at[2].tolist()), 12.0 * distance_mm, 200, 120)
    looked = ar.looked_at(model, eye)
    picture = ar.night_around(plan, assessment, looked, lights_of(plan, assessment, model))
    return picture.luminance_at(100, 60)


def test_a_pane_is_as_bright_as_on_the_plate_and_however_far_one_stands():
    from gwiazda.core.assess.night.picture import night_luminance
    from gwiazda.core.render.layers import Camera
    from gwiazda.core.render.night import LUMINANCE

    plan = deck_plan(windows=5, lamps=3)
    o = plan.openings[2]
    flat, _ = night_luminance(
        plan, assess(plan, CAT), "port", Camera(200, 120, (-o.at[0] - 100 / 12, -o.at[2] - 5.0), 12.0, 0.4), leaks=False
    )
    plate = float(flat[:, 60, 100] @ LUMINANCE)
    near, far = pane_luminance(plan, 400.0), pane_luminance(plan, 800.0)
    assert near == pytest.approx(plate, rel=0.03)
    assert far == pytest.approx(near, rel=0.12), "but for what the eye's spread takes from a pane that is small to it"


@pytest.mark.parametrize("quick", [False, True])
def test_with_all_channels_out_there_is_the_rooms_light_alone(loops, quick):
    plan = flood()
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    looked = ar.looked_at(model, ar.eye_for(model, 30.0, 25.0, 500.0, 120, 80))
    out = ar.night_around(
        plan, assessment, looked, lights, weights={key[0]: 0.0 for key in lights.keys}, haste=core_round.Haste(quick)
    ).base
    lit = ar.night_around(plan, assessment, looked, lights, weights={}, haste=core_round.Haste(quick)).base
    assert len(lights.lamps) and lit.max() > 2 * out.max() > 0.0
    dark = copy_unchecked(plan, room=copy_unchecked(plan.room, lux=0.0))
    assert not ar.night_around(
        dark, assessment, looked, lights, weights={key[0]: 0.0 for key in lights.keys}, haste=core_round.Haste(quick)
    ).base.any()


def test_dimming_a_channel_dims_its_light_alone():
    plan = deck_plan(windows=5, lamps=3)
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    looked = ar.looked_at(model, ar.eye_for(model, 10.0, 10.0, 600.0, 200, 120))
    picture = ar.night_around(plan, assessment, looked, lights_of(plan, assessment, model))
    table = screen_table(10.0)
    full = picture.frame(table, {"deck1": 1.0}).copy()
    half = picture.frame(table, {"deck1": 0.25})
    assert picture.channels == ("deck1",) and half[..., :3].sum() < full[..., :3].sum()


def test_while_it_moves_all_channels_come_at_once_and_alike():
    plan = load(path_of("bryla")).plan
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    looked = ar.looked_at(model, ar.eye_for(model, 40.0, 20.0, 500.0, 200, 120))
    core_round.load_kernel()
    whole = ar.night_around(plan, assessment, looked, lights)
    quick = ar.night_around(plan, assessment, looked, lights, None, {})
    core_round.without_kernel()
    a = whole.base.sum(axis=0)
    b = quick.base.sum(axis=0)
    bright = a > np.percentile(a, 98)
    assert quick.channels == () and b[bright].sum() == pytest.approx(a[bright].sum(), rel=0.15)


# -- odd plans ----------------------------------------------------------------------------------------------


def test_outlines_without_area_none_at_all_and_nothing_to_see():
    flat = Section(
        id="f",
        name="Flat",
        box=Box(at=(0, 0, 0), size=(10, 4, 3)),
        outlines=(Outline(side="port", points=((0, 0), (10, 0), (20, 0))),),
    )
    bare = Section(id="g", name="Bare", box=Box(at=(20, 0, 0), size=(10, 4, 3)))
    inside = Section(id="h", name="Inside", box=Box(at=(22, 1, 1), size=(2, 1, 1)))
    model = model_of((flat, bare, inside), ())
    assert volume(model.skins[model.section == 0]) == pytest.approx(12.4 * 6.4 * 5.4)
    looked = ar.looked_at(model, ar.eye_for(model, 20.0, 20.0, 1.0, 80, 50))
    assert looked.eye.distance_mm > model.radius, "an eye never stands inside"
    assert {ar.item_at(looked, x, y) for x in range(80) for y in range(50)} == {"f", "g", None}
    empty = model_of((), ())
    nothing = ar.looked_at(empty, ar.eye_for(empty, 0.0, 0.0, 600.0, 40, 30))
    assert (nothing.seen.ids == -1).all()
    plan = copy_unchecked(Plan(), sections=())
    assert ar.night_around(plan, assess(plan, CAT), nothing, lights_of(plan, assess(plan, CAT), empty)).height == 30


def test_two_thousand_sections_make_a_model():
    sections = tuple(
        edits.outline_from_box(
            Section(id=f"s{i}", name="S", box=Box(at=(10.0 * (i % 50), 10.0 * (i // 50), 0), size=(8, 8, 8)))
        )
        for i in range(2000)
    )
    model = model_of(sections, ())
    assert 2000 * 12 <= len(model.skins) <= 2000 * 24
    assert (core_round.drawn(ar.eye_for(model, 30.0, 40.0, 900.0, 120, 80), model.triangles[:600]).ids >= 0).any()


# -- leaks --------------------------------------------------------------------------------------------------


def leaking(seam: bool) -> Plan:
    """A deck of bare plastic with its lamps on; with ``seam`` a tight skin and an open joint round its roof."""
    plan = deck_plan(windows=0, lamps=3)
    s = plan.sections[0]
    skin = (
        {"inside": (Layer(coat="flat-black", coats=6),), "seams": (Seam(id="seam", face="top", gap_mm=0.4),)}
        if seam
        else {}
    )
    return copy_unchecked(plan, sections=(copy_unchecked(s, **skin),), room=copy_unchecked(plan.room, lux=0.0))


def seen_leaking(plan: Plan):
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    lights = lights_of(plan, assessment, model)
    eye = Eye(0.0, 0.0, FAR, (82.5, 0.0, 9.5), 2.0 * FAR, 400, 120)
    picture = ar.night_around(plan, assessment, ar.looked_at(model, eye), lights)
    return lights, picture


def test_a_wall_that_leaks_glows_as_bright_as_on_the_plate(loops):
    plan = leaking(seam=False)
    lights, picture = seen_leaking(plan)
    assert lights.glows
    side = [g for g in lights.glows if g.side == "port"]
    # The cell behind the middle of the wall, against what the picture has there (2 px a mm, the bow to the left).
    for x, z in ((82.5, 9.5), (40.0, 5.0), (130.0, 14.0)):
        cells = sum(
            float(v)
            for g in side
            for (a, b, c, d), v in zip(g.rects.tolist(), g.cd_m2.tolist(), strict=True)
            if a <= x < c and b <= z < d
        )
        px = round(200 - (x - 82.5) * 2.0), round(60 - (z - 9.5) * 2.0)
        assert picture.luminance_at(*px) == pytest.approx(cells, rel=0.12), (
            "photometric weights of the screen's colours"
        )


def test_a_seam_narrower_than_a_pixel_keeps_its_light(loops):
    lights, picture = seen_leaking(leaking(seam=True))
    port = [g for g in lights.glows if g.side == "port"]
    assert port and not any(g.side == "top" for g in lights.glows), "a joint round the roof shows on the walls"
    sent = sum(float((g.cd_m2 * (g.rects[:, 2] - g.rects[:, 0]) * (g.rects[:, 3] - g.rects[:, 1])).sum()) for g in port)
    rows = [[picture.luminance_at(x, y) for x in range(20, 380)] for y in range(30, 50)]
    assert np.sum(rows) * 0.25 == pytest.approx(sent, rel=0.15), "cd/m² over 0.5 × 0.5 mm a pixel"


def test_a_tight_section_does_not_glow():
    plan = leaking(seam=True)
    tight = copy_unchecked(plan, sections=(copy_unchecked(plan.sections[0], seams=()),))
    assert not seen_leaking(tight)[0].glows


def test_faces_in_one_plane_are_seen_as_one_wherever_from(loops):
    """Wheels that stand in a body, flush with its side: no picture is sprinkled with bits of the one in the other."""
    plan = shaped(FORMS["vehicle"].sizes)[0]
    model = model_of(plan.sections, ())
    for k in range(8 if loops == "compiled" else 2):
        eye = Eye(45.0 * k + 18.1, 14.0 + 7.0 * (k % 3), 3.2 * model.radius, tuple(model.middle), 900.0, 900, 600)
        ids = core_round.drawn(eye, model.triangles, model.normals).ids
        of = np.where(ids >= 0, model.section[ids], -1)
        middle, around = of[1:-1, 1:-1], (of[:-2, 1:-1], of[2:, 1:-1], of[1:-1, :-2], of[1:-1, 2:])
        alone = sum((middle != a).astype(int) for a in around) >= 3
        assert (alone & (middle >= 0)).sum() < 30, f"specks from {eye.azimuth_deg}°"


def test_the_glare_of_a_slanted_pane_lies_around_it():
    """A screen seen from the side leans: what stands for it in the eye's glare covers it, and next to nothing else."""
    plan = shaped(FORMS["vehicle"].sizes)[0]
    model = model_of(plan.sections, plan.openings)
    looked = ar.looked_at(model, Eye(35.0, 12.0, 3.2 * model.radius, tuple(model.middle), 900.0, 900, 600))
    panes = ar._panes_seen(looked)
    several = [i for i, n in enumerate(np.bincount(panes.whose)) if n > 1]
    assert several, "the screens lean"
    for i in several:
        assert model.openings[i].section == "cab"
        mine = panes.flat[panes.which == i]
        y, x = np.divmod(mine, looked.eye.width)
        rects = panes.rects[panes.whose == i]
        assert rects[:, 2] @ rects[:, 3] == pytest.approx(len(mine)), "as much light as the pane has"
        inside = np.zeros(len(mine), dtype=bool)
        for cx, cy, w, h in rects:
            inside |= (np.abs(x + 0.5 - cx) <= w / 2 + 0.5) & (np.abs(y + 0.5 - cy) <= h / 2 + 0.5)
        assert inside.mean() > 0.9


def test_for_a_darker_room_fainter_light_is_kept():
    dim = edits.set_wanted(flood(), [p.id for p in flood().lamps], Wanted(mcd=0.5))
    plan = copy_unchecked(dim, room=copy_unchecked(dim.room, lux=3000.0))
    assessment = assess(plan, CAT)
    model = model_of(plan.sections, plan.openings)
    looked = ar.looked_at(model, ar.eye_for(model, 30.0, 25.0, 500.0, 120, 80))
    lights = lights_of(plan, assessment, model)

    def lit(darkest_lux: float | None) -> int:
        picture = ar.night_around(plan, assessment, looked, lights, haste=core_round.Haste(darkest_lux=darkest_lux))
        picture.set_lux(0.0)
        return int((picture.frame(screen_table(0.01), dict.fromkeys(picture.channels, 1.0))[..., :3] > 0).any(-1).sum())

    assert lit(0.1) > lit(None)
