"""When lights of a plan show, against the picture of the same room, and by the lining behind the panes."""

from __future__ import annotations

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.assess.night.unlit import unlit_shares
from gwiazda.core.assess.sight.dusk import dusk_of, until_words, washed_cd_m2
from gwiazda.core.light.dusk import LEAST_LX, MOST_LX
from gwiazda.core.light.rooms import ROOMS, lux_words
from gwiazda.core.light.visibility import DARK_CD_M2, contrast
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits, storage
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.model import Lamp, Wanted, copy_unchecked
from gwiazda.core.render.layers import Camera
from gwiazda.core.render.night import LUMINANCE
from gwiazda.demos import NAMES, path_of

CAT = built_in()


def in_room(plan, lux: float):
    return copy_unchecked(plan, room=copy_unchecked(plan.room, lux=lux))


@pytest.mark.parametrize("lining", ["flat-white", "flat-black"])
@pytest.mark.parametrize("lux", [0.5, 20.0, 100.0, 180.0, 250.0])
def test_where_the_picture_has_the_contrast_the_strip_says_it_shows(lining, lux):
    """The middle of a pane, lit and with its lamp out, and the hull beside it, in cd/m² of the picture: over both by C or not."""
    plan = in_room(edits.set_fields(deck_plan(), ["deck1"], lining=lining), lux)
    assessment = assess(plan, CAT)
    (row,) = [r for r in dusk_of(plan, assessment) if r.seen.shape == "pane"]
    pane = min(
        (o for o in plan.openings if o.side == "port"),
        key=lambda o: abs(assessment.openings[o.id].luminance_cd_m2 - row.seen.value),
    )
    x, y, _ = to_sheet("port", pane.at)
    camera = Camera(120, 120, (x - 6.0, y - 6.0), 10.0, plan.room.distance_m)
    lit, off = (
        np.tensordot(LUMINANCE, night_luminance(p, assess(p, CAT), "port", camera, leaks=False)[0], axes=1)
        for p in (plan, edits.delete(plan, [p.id for p in plan.lamps]))
    )
    own, unlit, hull = lit[60, 60], off[60, 60], off[5, 60]
    assert unlit == pytest.approx(row.seen.unlit * lux / np.pi, rel=0.01) and hull == pytest.approx(
        row.seen.hull * lux / np.pi, rel=0.01
    )
    shows = own - unlit >= contrast(unlit) * (unlit + DARK_CD_M2) and own - hull >= contrast(hull) * (hull + DARK_CD_M2)
    assert shows == (row.level(lux) >= 1)
    assert (own - unlit >= 5.0 * max(hull, unlit) and shows) == (row.level(lux) >= 2)


def test_a_white_inside_shines_grey_and_a_black_one_stays_dark():
    shares = {}
    for lining in ("flat-white", "flat-black"):
        plan = edits.set_fields(deck_plan(), ["deck1"], lining=lining, glazing="clear")
        shares[lining] = unlit_shares(CAT, plan.sections, plan.openings, plan.kit.material)[plan.openings[0].id]
    own = CAT.glazings["clear"].reflectance
    assert shares["flat-black"] == pytest.approx(own, abs=0.002) and shares["flat-white"] > own + 0.02


def test_a_flood_is_judged_by_what_it_washes():
    """A lamp 20 mm over the deck, looking straight down: I/d²·ρ/π."""
    plan = deck_plan(lamps=1)
    box = plan.sections[0].box
    top = box.at[2] + box.size[2] + plan.sections[0].wall_mm
    lamp = Lamp(
        id="flood",
        part="chip-0603-warm-white",
        at=(box.centre[0], 0.0, top + 20.0),
        aim=(0.0, 0.0, -1.0),
        mount="outside",
        wanted=Wanted(look="normal"),
    )
    plan = edits.add_lamp(plan, lamp)
    assessment = assess(plan, CAT)
    luminance, back = washed_cd_m2(plan, assessment, lamp)
    assert luminance == pytest.approx(assessment.lamps["flood"].axial_cd / 0.020**2 * back / np.pi, rel=1e-6)
    away = copy_unchecked(lamp, aim=(0.0, 0.0, 1.0))
    assert washed_cd_m2(plan, assessment, away) == (0.0, 0.0)


@pytest.mark.parametrize("name", NAMES)
def test_every_light_of_the_demos_has_its_row_and_words(name):
    plan = storage.load(path_of(name)).plan
    rows = dusk_of(plan, assess(plan, CAT))
    assert rows and len({r.of for r in rows}) == len(rows)
    for row in rows:
        assert list(row.until) == sorted(row.until, reverse=True) and all(0.0 <= x <= MOST_LX for x in row.until)
        assert row.level(LEAST_LX) >= row.level(MOST_LX) and until_words(row)
    assert {lux_words(r.lux).split(",")[0] for r in ROOMS} == {r.name for r in ROOMS}
