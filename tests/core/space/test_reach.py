"""Reach in straight lines through an opening, against many lines drawn at random, and by hand."""

from __future__ import annotations

import numpy as np

from gwiazda.core.space.reach import SEAT_MM, reaches

LOW, HIGH = np.array([30.0, 20.0, 0.0]), np.array([50.0, 40.0, 0.0])
NONE = np.zeros((0, 2, 3))


def test_by_hand():
    place = np.array([5.0, 30.0, 25.0])
    assert reaches(place, LOW, HIGH, NONE, 20.0) and not reaches(place, LOW, HIGH, NONE, 20.5), (
        "as wide as the hatch, and wider"
    )
    wall = np.array([[[15.0, 0.0, 0.0], [16.0, 60.0, 40.0]]])  # from side to side: no way past it
    assert not reaches(place, LOW, HIGH, wall, 3.0)
    # A sill of 8 mm at x 15 to 16: from the far edge of the hatch, x 48.5, the line to (5, 30, 25) is at z = 25·32.5/43.5 = 18.7 above it.
    sill = np.array([[[15.0, 0.0, 0.0], [16.0, 60.0, 8.0]]])
    assert reaches(place, LOW, HIGH, sill, 3.0)
    assert not reaches(np.array([5.0, 30.0, 1.0]), LOW, HIGH, sill, 3.0), "down behind the sill"
    own = np.array([[[0.0, 20.0, 20.0], [10.0, 40.0, 30.0]]])
    assert reaches(place, LOW, HIGH, own, 3.0), "what it sits on is no obstacle"


def test_against_many_lines_at_random_in_two_hundred_boxes():
    rng = np.random.default_rng(15)
    same = 0
    for _ in range(200):
        size = rng.uniform(20.0, 120.0, 3)
        low, high = rng.uniform(0.0, 0.5, 3) * size, rng.uniform(0.55, 1.0, 3) * size
        axis = int(rng.integers(3))
        low[axis] = high[axis] = 0.0
        place = rng.uniform(0.05, 0.95, 3) * size
        blocks = []
        for _ in range(int(rng.integers(0, 4))):
            a = rng.uniform(0.1, 0.8, 3) * size
            blocks.append((a, np.minimum(a + rng.uniform(2.0, 25.0, 3), size)))
        blocks = np.array(blocks).reshape(-1, 2, 3)
        wide = float(rng.choice([3.0, 6.0]))
        found = reaches(place, low, high, blocks, wide)
        half, sides = wide / 2.0, [k for k in range(3) if k != axis]
        if any(high[k] - low[k] < wide for k in sides):
            assert not found
            same += 1
            continue
        start = np.tile(low, (600, 1))
        for k in sides:
            start[:, k] = rng.uniform(low[k] + half, high[k] - half, 600)
        far = np.linalg.norm(place - start, axis=1)
        short = np.maximum(1.0 - (half + SEAT_MM) / far, 0.0)  # it ends in a point
        points = (
            start[:, None, :] + (place - start)[:, None, :] * (short[:, None] * np.linspace(0.0, 1.0, 200))[:, :, None]
        )
        free = np.ones(600, dtype=bool)
        for a, b in blocks:
            if ((place >= a - SEAT_MM) & (place <= b + SEAT_MM)).all():
                continue
            free &= ~((points >= a - half) & (points <= b + half)).all(axis=2).any(axis=1)
        same += bool(free.mean() > 0.02) == found or (0.0 < free.mean() < 0.02)
    assert same >= 199, same
