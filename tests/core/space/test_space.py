"""Ways in space and round things packed: known answers, invariants."""

import itertools
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.fibre.bundle import RATIOS
from gwiazda.core.space.pack import known_places, least_round, pack_rect, pack_round
from gwiazda.core.space.run import run_through, tightest


def apart(packing, hole=None, rect=None) -> float:
    """The deepest overlap, worked out one by one."""
    worst = 0.0
    c, r = packing.centres, packing.radii
    for i in range(len(r)):
        if hole is not None:
            worst = max(worst, math.hypot(*c[i]) + r[i] - hole / 2)
        else:
            worst = max(worst, abs(c[i][0]) + r[i] - rect[0] / 2, abs(c[i][1]) + r[i] - rect[1] / 2)
        for j in range(i):
            worst = max(worst, r[i] + r[j] - math.dist(c[i], c[j]))
    return worst


@pytest.mark.parametrize("count", range(1, 38))
def test_the_best_packings_known(count):
    """Each of the table lies as in the literature, within half a part in a thousand, and nothing overlaps."""
    ratio = RATIOS[count - 1]
    places = known_places(count)
    assert len(places) == count
    assert math.hypot(*places[np.hypot(places[:, 0], places[:, 1]).argmax()]) + 1.0 == pytest.approx(ratio, rel=5e-4)
    packing = pack_round((0.5,) * count, 0.5 * ratio * 1.0005)
    assert packing.fits and apart(packing, 0.5 * ratio * 1.0005) < 5e-4
    assert not pack_round((0.5,) * count, 0.5 * ratio * 0.98).fits


def test_two_sizes_by_hand():
    """Three of 1 leave a round of 0.1547 in their middle: 2/√3 − 1."""
    ring = 1.0 + 2.0 / math.sqrt(3.0)
    assert pack_round((1.0, 1.0, 1.0, 0.15), ring * 1.002).fits
    assert least_round((2.0, 1.0)) == pytest.approx(3.0, rel=0.02)
    assert least_round(()) == 0.0 and least_round((0.7,)) == pytest.approx(0.7, rel=0.01)


def test_what_can_never_go_in_is_said_at_once():
    packing = pack_round((1.0,) * 50, 5.0)
    assert not packing.fits and packing.overlap_mm > 0.05


@settings(max_examples=25, deadline=None)
@given(st.lists(st.sampled_from([0.18, 0.28, 0.5, 0.7, 1.1]), min_size=2, max_size=60), st.booleans())
def test_sixty_mixed_ones_lie_apart_at_the_limit(thick, round_):
    """At 60 % of the area by pulling, a packing is found, and it is one."""
    area = sum(d * d for d in thick)
    if round_:
        hole = max(math.sqrt(area / 0.55), 1.01 * sum(sorted(thick)[-2:]))
        packing = pack_round(tuple(thick), hole)
        assert packing.fits and apart(packing, hole) <= packing.overlap_mm + 1e-9
    else:
        side = max(math.sqrt(math.pi / 4 * area / 0.5), 1.01 * sum(sorted(thick)[-2:]))
        packing = pack_rect(tuple(thick), side, side)
        assert packing.fits and apart(packing, rect=(side, side)) <= packing.overlap_mm + 1e-9


def test_a_way_round_one_corner_by_hand():
    """Two legs of 30 mm at a right angle, rounded with 5 mm: 60 − 2·5 + π/2·5."""
    run = run_through([(0.0, 0.0, 0.0), (30.0, 0.0, 0.0), (30.0, 30.0, 0.0)], 5.0)
    assert run.length_mm == pytest.approx(60.0 - 10.0 + math.pi / 2 * 5.0)
    (bend,) = run.bends
    assert bend.radius_mm == pytest.approx(5.0) and bend.degrees == pytest.approx(90.0) and bend.corner == 1
    drawn = np.linalg.norm(np.diff(run.points, axis=0), axis=1).sum()
    assert drawn == pytest.approx(run.length_mm, rel=2e-3)


def test_bends_no_wider_than_there_is_room():
    run = run_through([(0, 0, 0), (4, 0, 0), (4, 20, 0), (30, 20, 0)], 100.0)
    assert run.bends[0].radius_mm == pytest.approx(4.0) and run.bends[1].radius_mm == pytest.approx(10.0)
    assert tightest(run) is run.bends[0] and tightest(run_through([(0, 0, 0), (1, 1, 1)], 1.0)) is None


def test_places_that_coincide_and_ways_that_are_none():
    assert run_through([(1, 1, 1), (1, 1, 1)], 1.0).length_mm == 0.0
    assert run_through([(0, 0, 0), (0, 0, 0), (5, 0, 0)], 1.0).length_mm == pytest.approx(5.0)
    back = run_through([(0, 0, 0), (10, 0, 0), (0, 0, 0)], 1.0)
    assert math.isfinite(back.length_mm) and back.bends[0].degrees == pytest.approx(180.0)
    with pytest.raises(ValueError, match="two places"):
        run_through([(0, 0, 0)], 1.0)
    with pytest.raises(ValueError, match="radius"):
        run_through([(0, 0, 0), (1, 0, 0)], 0.0)


places = st.tuples(*[st.floats(-200, 200)] * 3)


@given(st.lists(places, min_size=2, max_size=8), st.floats(0.1, 60.0))
def test_rounding_never_makes_a_way_longer(points, radius):
    run = run_through(points, radius)
    straight = sum(math.dist(a, b) for a, b in itertools.pairwise(points))
    assert run.length_mm <= straight + 1e-6 and run.length_mm >= math.dist(points[0], points[-1]) - 1e-6
    assert all(b.radius_mm <= radius + 1e-9 for b in run.bends)
    assert np.allclose(run.points[0], points[0]) and np.allclose(run.points[-1], points[-1])
