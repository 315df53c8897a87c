"""Boxes in a box: a place is found if and only if there is one, by trying all of them on a grid."""

from __future__ import annotations

from itertools import product

import numpy as np
import pytest

from gwiazda.core.space.boxes import free_places, short_of, stand, ways_round


def test_six_ways_round_and_fewer_where_edges_are_alike():
    assert len(ways_round((3.0, 2.0, 1.0))) == 6 and len(ways_round((3.0, 1.0, 1.0))) == 3
    assert ways_round((2.0, 2.0, 2.0)) == ((2.0, 2.0, 2.0),)
    assert ways_round((1.0, 3.0, 2.0))[0] == (3.0, 2.0, 1.0), "flat, and long along x"


def by_hand(room, taken, body):
    """Whether there is a place among all of whole mm, tried one by one."""
    grid = np.zeros(room, dtype=bool)
    for (x0, y0, z0), (x1, y1, z1) in taken.astype(int):
        grid[x0:x1, y0:y1, z0:z1] = True
    a, b, c = body
    return any(
        not grid[x : x + a, y : y + b, z : z + c].any()
        for x, y, z in product(range(room[0] - a + 1), range(room[1] - b + 1), range(room[2] - c + 1))
    )


def test_a_place_is_found_where_there_is_one_and_only_there():
    rng, found, none = np.random.default_rng(27), 0, 0
    for _ in range(500):
        room = tuple(int(v) for v in rng.integers(3, 10, 3))
        taken = []
        for _ in range(int(rng.integers(0, 5))):
            size = rng.integers(1, 5, 3)
            low = [int(rng.integers(0, r)) for r in room]
            taken.append((low, [min(a + int(s), r) for a, s, r in zip(low, size, room, strict=True)]))
        boxes = np.array(taken, dtype=float).reshape(-1, 2, 3)
        body = tuple(int(v) for v in rng.integers(1, 8, 3))
        ways = ways_round(tuple(map(float, body)))
        expected = any(by_hand(room, boxes, tuple(int(x) for x in w)) for w in ways)
        placed = stand((0.0, 0.0, 0.0), tuple(map(float, room)), boxes, [[tuple(map(float, body))]])
        assert (placed is not None) == expected, (room, taken, body)
        found, none = found + expected, none + (not expected)
        if placed is None:
            continue
        low, high = np.array(placed[0].low), np.array(placed[0].low) + np.array(placed[0].size)
        assert (low >= 0).all() and (high <= np.array(room) + 1e-9).all() and sorted(placed[0].size) == sorted(body)
        assert not any((low < b[1]).all() and (high > b[0]).all() for b in boxes)
    assert found > 100 and none > 100, "both happen often enough to tell"


def test_several_go_in_side_by_side_and_the_lowest_place_comes_first():
    none = np.zeros((0, 2, 3))
    two = stand((0.0, 0.0, 0.0), (10.0, 4.0, 3.0), none, [[(5.0, 4.0, 3.0)], [(4.0, 5.0, 3.0)]])
    assert two is not None and {p.low for p in two} == {(0.0, 0.0, 0.0), (5.0, 0.0, 0.0)}
    assert stand((0.0, 0.0, 0.0), (10.0, 4.0, 3.0), none, [[(5.0, 4.0, 3.0)], [(5.1, 4.0, 3.0)]]) is None
    # The second size is taken where the first one does not go in.
    other = stand((0.0, 0.0, 0.0), (10.0, 4.0, 3.0), none, [[(11.0, 1.0, 1.0), (10.0, 2.0, 1.0)]])
    assert other is not None and other[0].which == 1 and other[0].size == (10.0, 2.0, 1.0)
    shelf = np.array([[[0.0, 0.0, 0.0], [10.0, 4.0, 1.0]]])
    assert free_places((0.0, 0.0, 0.0), (10.0, 4.0, 3.0), shelf, (2.0, 2.0, 1.0))[0].tolist() == [0.0, 0.0, 1.0]


def test_by_how_much_it_is_too_large():
    # 48.5 in 29 mm: laid down it goes along the 60, and its 26.5 and 17.5 into 29 and 20.
    assert short_of((60.0, 29.0, 20.0), [(48.5, 26.5, 17.5)])[0] == 0.0
    over, axis, needs, there = short_of((60.0, 29.0, 16.0), [(48.5, 26.5, 17.5)])
    assert over == pytest.approx(1.5) and (axis, needs, there) == (2, 17.5, 16.0)
