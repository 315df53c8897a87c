"""Light in the wall: the reference walls, closed forms, two ways that agree, and energy that is never gained."""

from __future__ import annotations

import json
import math
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.cli import main
from gwiazda.core.errors import PlanFileError
from gwiazda.core.exchange.cases.wall_cases import LEAST, SHARE_LIMIT, solved_wall, verify_walls
from gwiazda.core.light import wall as w

REFERENCE = Path(__file__).parents[2] / "reference" / "data" / "walls.json"
CASES = json.loads(REFERENCE.read_text())["cases"]


@pytest.mark.parametrize("case", CASES, ids=lambda c: c["name"][:7])
def test_reference_walls(case):
    told = case["solution"]["share"]
    assert solved_wall(case, case["name"]) == pytest.approx(told, abs=max(SHARE_LIMIT * told, LEAST))


def test_fresnel_and_the_critical_angle():
    assert float(w.fresnel(1.0)) == pytest.approx((0.5 / 2.5) ** 2)
    assert math.degrees(w.CRITICAL) == pytest.approx(41.81, abs=0.01) and pytest.approx(0.894, abs=1e-3) == w.REACH
    c = math.cos(w.CRITICAL)
    assert float(w.fresnel(c + 1e-6)) > 0.95 and float(w.fresnel(c - 1e-6)) == 1.0 == float(w.fresnel(0.0))
    # Brewster's angle inside, tan θ = 1/n: the one half is not thrown back at all.
    b = math.atan(1.0 / w.INDEX)
    s = (w.INDEX * math.cos(b) - math.sin(math.pi / 2 - math.asin(w.INDEX * math.sin(b)))) / (
        w.INDEX * math.cos(b) + math.sin(math.pi / 2 - math.asin(w.INDEX * math.sin(b)))
    )
    assert float(w.fresnel(math.cos(b))) == pytest.approx(s * s / 2.0, rel=1e-6)


def test_a_bare_slab_lets_through_what_the_textbook_says():
    """Diffuse light through a lossless plate of n 1.5, all passes back and forth: about 0.845."""
    angle = (np.arange(4000) + 0.5) / 4000 * math.pi / 2
    inside = np.sqrt(1.0 - (np.sin(angle) / w.INDEX) ** 2)
    r = w.fresnel(inside)
    plate = float(((1.0 - r) / (1.0 + r) * 2.0 * np.sin(angle) * np.cos(angle)).mean() * math.pi / 2)
    assert plate == pytest.approx(0.845, abs=0.01)
    assert w.total(w.kernel(w.Wall(1.5))) == pytest.approx(plate, abs=0.012)


@settings(deadline=None, max_examples=12)
@given(
    st.floats(0.3, 4.0), st.sampled_from(["bare", "painted"]), st.floats(0.02, 0.9), st.floats(0.02, 0.9), st.sampled_from(["clear", "frosted"]),
)  # fmt: skip
def test_no_light_is_gained_and_size_does_not_matter(t, inner, rho_in, rho_out, pane):
    wall = w.Wall(t, inner, rho_in, rho_out, pane)
    k = w.kernel(wall)
    assert np.all(k.bare >= 0) and np.all(k.sent >= 0)
    # A pane all over would take light that paint throws back otherwise: what one lets out is no more than all hops together bring.
    hops = 1.0 / (1.0 - rho_out * (rho_in if inner == "painted" else 0.6))
    assert w.total(k) <= hops and w.total(k, sent=True) <= hops
    twice = w.kernel(w.Wall(2.0 * t, inner, rho_in, rho_out, pane))
    assert w.total(twice) == pytest.approx(w.total(k), rel=0.02), "what matters is sizes over the thickness"


@settings(deadline=None, max_examples=6)
@given(st.floats(0.6, 3.0), st.floats(0.8, 4.0))
def test_a_dab_hides_more_the_farther_it_reaches_and_all_at_nine_tenths(t, radius):
    pane, box = w.disc(0, 0, radius), (-radius, radius, -radius, radius)
    shares = [w.dab_share(w.Wall(t), pane, box, w.disc(0, 0, radius + m * t)) for m in (-0.3, 0.0, 0.3, 0.6, 0.95)]
    assert all(a >= b for a, b in pairwise(shares)) and shares[-1] == 0.0
    assert shares[1] > 0.02


def test_tracing_backwards_agrees_with_the_closed_forms():
    for wall, dab in ((w.Wall(1.5), 2.0), (w.Wall(1.5), 1.5), (w.Wall(1.0, "bare", 0.04, 0.5), 1.6)):
        pane, box = w.disc(0, 0, 2.0), (-2.0, 2.0, -2.0, 2.0)
        points, _ = w.points_in(pane, box, 600)
        behind = w.disc(0, 0, dab)
        traced = w.traced_share(wall, points, lambda u, v, behind=behind: ~behind(u, v))
        assert w.dab_share(wall, pane, box, behind) == pytest.approx(traced, rel=0.12)
    frosted = w.Wall(1.5, "bare", 0.04, 0.04, "frosted")
    pane, box = w.disc(0, 0, 1.0), (-1.0, 1.0, -1.0, 1.0)
    points, _ = w.points_in(pane, box, 600)
    wide = w.disc(0, 0, 40.0)
    source, cell = w.points_in(w.disc(0, 0, 9.0), (-9.0, 9.0, -9.0, 9.0), 12_000)
    assert w.shared(w.kernel(frosted), points, source, cell) == pytest.approx(
        w.traced_share(frosted, points, wide), rel=0.1
    )


def test_a_wall_that_scatters_is_traced_only():
    with pytest.raises(ValueError, match="traced"):
        w.kernel(w.Wall(1.5, mfp_mm=0.5))
    pane, box = w.disc(0, 0, 2.0), (-2.0, 2.0, -2.0, 2.0)
    shares = [w.dab_share(w.Wall(1.5, mfp_mm=m, g=0.8), pane, box, w.disc(0, 0, 3.5)) for m in (5.0, 0.5)]
    assert 0.0 < shares[0] < shares[1] < 0.05, "the more it scatters, the more goes round"


def test_the_command_reads_walls_and_names_what_is_wrong(tmp_path, capsys):
    assert main(["verify", str(REFERENCE)]) == 0
    assert "worst of 8" in capsys.readouterr().out
    for spoilt in ({"wall_mm": 0}, {"pane": [1, 2]}, {"inner_reflectance": "grey"}, {"pane": ["a", 0, 1]}):
        with pytest.raises(PlanFileError, match="Wall case"):
            solved_wall({**CASES[0], **spoilt}, "x")
    answers, lines, worst, good = verify_walls([{k: v for k, v in CASES[2].items() if k != "solution"}])
    assert worst is None and good and answers[0]["solution"]["share"] == 0.0 and lines
    path = tmp_path / "walls.json"
    path.write_text(json.dumps({"kind": "walls", "cases": [{**CASES[2], "solution": {"share": 0.5}}]}))
    assert main(["verify", str(path)]) == 1


def forward(t, radius, dab, outer, frosted=False, n=1_000_000, wide=12.0):
    """Light followed the way it goes: onto the bare inner face outside of a dab, in, to and fro, out of the pane; its share there."""
    rng = np.random.default_rng(5)
    place = rng.uniform(-wide * t, wide * t, (n, 2))
    place = place[np.hypot(*place.T) > dab]
    weight = np.ones(len(place)) * (2 * wide * t) ** 2 / n

    def diffuse(m):
        sine, turn = np.sqrt(rng.random(m)), 2 * np.pi * rng.random(m)
        return np.stack([sine * np.cos(turn), sine * np.sin(turn), np.sqrt(1 - sine**2)], 1)

    way = diffuse(len(place))
    way[:, :2] /= w.INDEX
    way[:, 2] = np.sqrt(1 - (way[:, :2] ** 2).sum(1))
    weight = weight * (1 - w.fresnel(way[:, 2]))
    out, up = 0.0, True
    for _ in range(14):
        place = place + way[:, :2] * (t / np.abs(way[:, 2]))[:, None]
        back = w.fresnel(np.abs(way[:, 2]))
        new = diffuse(len(place))
        here = np.hypot(*place.T)
        if up:
            pane = here < radius
            out += (weight * np.where(pane, w.FROSTED if frosted else 1 - back, 0.0)).sum()
            weight = weight * np.where(pane, 1 - w.FROSTED if frosted else back, outer)
            mirror = pane & (not frosted)
        else:
            mirror = here > dab
            weight = weight * np.where(mirror, back, 0.04)
        new[:, 2] *= -1 if up else 1
        way = np.where(mirror[:, None], way * [1, 1, -1], new)
        up = not up
        alive = weight > 1e-7 * (2 * wide * t) ** 2 / n * 1e4
        place, way, weight = place[alive], way[alive], weight[alive]
    return out / (math.pi * radius**2)


@pytest.mark.parametrize(("t", "radius", "more", "outer"), [(1.2, 1.0, 1.2, 0.75), (2.0, 1.5, 1.5, 0.5)])
def test_light_paint_outside_sends_light_under_a_dab(t, radius, more, outer):
    """Against light followed forwards (the code's goes backwards): half a percent and more, where black outside lets none."""
    pane, box, dab = w.disc(0, 0, radius), (-radius, radius, -radius, radius), w.disc(0, 0, radius + more)
    share = w.dab_share(w.Wall(t, "bare", 0.04, outer), pane, box, dab)
    expected = forward(t, radius, radius + more, outer)  # what comes from farther than 12 walls is left out
    assert share > 0.003 and abs(share - expected) < max(0.15 * expected, 0.002)
    assert w.dab_share(w.Wall(t), pane, box, w.disc(0, 0, radius + 1.0 * t)) < 1e-3
