"""Virtual builds: drawn as they are said to stray, the same for the same seed, and within what is said nine times in ten."""

from __future__ import annotations

import math

import numpy as np
import pytest

from decks import deck_plan
from gwiazda.cli import main
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.electrics.tolerance import tolerance_of
from gwiazda.core.assess.uncertainty import Z95, clipped
from gwiazda.core.errors import StoppedError
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.parts.spreads import BAG, BETWEEN
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Plan, Wanted
from gwiazda.core.plan.storage import load
from gwiazda.core.workbench.builds.coverage import CELLS, Site, bare, table_of, verify_builds
from gwiazda.core.workbench.builds.truths import PLACED_MM, Builder
from gwiazda.core.workbench.soldered import as_built
from gwiazda.demos import path_of

CAT = built_in()


def test_a_build_is_the_same_for_a_seed_and_strays_as_is_said():
    plan = deck_plan(windows=4, lamps=3)
    assessment = assess(plan, CAT)
    built = as_built(plan, assessment)
    builder = Builder(built, CAT, 3)
    assert builder.build(5).plan == Builder(built, CAT, 3).build(5).plan
    assert builder.build(5).plan != builder.build(6).plan
    first = plan.lamps[0]
    part = CAT.lamps[first.part]
    moved, flux, ohm = [], [], []
    for k in range(300):
        truth = builder.build(k)
        lamp = next(p for p in truth.plan.lamps if p.id == first.id)
        moved.append(np.array(lamp.at) - np.array(first.at))
        flux.append(
            [
                math.log(truth.catalogue.lamps[p.part].axial_mcd / CAT.lamps[q.part].axial_mcd)
                for p, q in zip(truth.plan.lamps, plan.lamps, strict=True)
            ]
        )
        ohm.append((lamp.resistor_ohm or 0.0) / assessment.lamps[first.id].resistor_ohm)
    flux = np.array(flux)
    assert flux[:, 0].std() == pytest.approx(math.hypot(BAG, BETWEEN), rel=0.12)
    assert (flux[:, 0] - flux[:, 1]).std() == pytest.approx(math.sqrt(2.0) * BETWEEN, rel=0.12), (
        "one bag: what is common cancels"
    )
    assert min(ohm) > 0.949 and max(ohm) < 1.051 and np.std(ohm) == pytest.approx(0.05 / math.sqrt(3.0), rel=0.12)
    along = np.array(moved)[:, 0]
    assert np.mean(np.abs(along) <= 1.0) == pytest.approx(0.9, abs=0.06) and along.std() == pytest.approx(
        PLACED_MM, rel=0.12
    )
    assert part.axial_mcd == CAT.lamps[first.part].axial_mcd, "the catalogue itself is left alone"


def test_what_is_soldered_in_does_not_follow_the_lamps():
    plan = load(path_of("szron")).plan
    assessment = assess(plan, CAT)
    built = as_built(plan, assessment)
    again = assess(built, CAT)
    for i, lamp in assessment.lamps.items():
        assert again.lamps[i].current_a == pytest.approx(lamp.current_a, rel=1e-6)
    brighter = edits.set_wanted(built, [p.id for p in built.lamps if p.mount == "inside"], Wanted(look="bright"))
    after = assess(brighter, CAT)
    single = [i for i, lamp in assessment.lamps.items() if next(p for p in built.lamps if p.id == i).resistor_ohm]
    assert single and all(
        after.lamps[i].current_a == pytest.approx(assessment.lamps[i].current_a, rel=1e-3) for i in single
    )


@pytest.mark.parametrize("how", ["own", "string", "group"])
def test_how_far_currents_stray_agrees_with_a_thousand_networks(how):
    lamps = tuple(f"deck1.lamp.{k:02d}" for k in (1, 2))
    plan = edits.set_supply(
        edits.set_wanted(deck_plan(windows=4, lamps=2), lamps, Wanted(current_ma=8.0)), "supply", part="adapter-12v-1a"
    )
    plan = {"string": edits.wire_in_series, "group": edits.wire_side_by_side, "own": lambda p, _: p}[how](plan, lamps)
    assessment = assess(plan, CAT)
    spread = tolerance_of(plan, assessment).lamps[lamps[0]]
    drawn = math.log(spread.current_a[2] / spread.current_a[0]) / (2.0 * Z95)
    said = math.hypot(*assessment.lamps[lamps[0]].current_sigma)
    assert said == pytest.approx(drawn, rel=0.25 if how == "group" else 0.15)


def test_a_lining_strays_no_further_than_all_light():
    assert clipped(0.03, 10.0)[1] == pytest.approx(0.03, rel=1e-6)
    rng = np.random.default_rng(2).standard_normal(400_000) * 0.03
    for most in (0.0, 0.01, 0.019, 0.05):
        assert clipped(0.03, most)[1] == pytest.approx(np.minimum(rng, most).std(), rel=0.01)
    assert clipped(0.0, 1.0) == (0.0, 0.0)


def test_of_a_hundred_builds_nine_in_ten_fall_within_and_all_kinds_are_counted():
    plan = load(path_of("perkoz")).plan
    shares: list[float] = []
    verdict = verify_builds("Perkoz", plan, CAT, 80, 4, lambda share: shares.append(share) or True, workers=0)
    assert shares == sorted(shares) and shares[-1] == 1.0
    kinds = {c.kind: c for c in verdict.kinds}
    assert {"section", "window", "point", "draw", "hours"} <= set(kinds)
    assert not verdict.off, table_of(verdict)
    for c in verdict.kinds:
        assert c.inside + c.below + c.above == pytest.approx(1.0) and c.readings == 80 * c.figures and c.width > 0
    assert len(table_of(verdict).splitlines()) == 2 + len(verdict.kinds)
    again = verify_builds("Perkoz", plan, CAT, 80, 4, workers=2)
    assert [c.inside for c in again.kinds] == [c.inside for c in verdict.kinds], "however many processes"
    with pytest.raises(StoppedError):
        verify_builds("Perkoz", plan, CAT, 80, 4, lambda share: share < 0.2, workers=0)


def test_few_cells_are_used_only_where_they_tell_the_plan():
    plan = load(path_of("szron")).plan
    fine = assess(plan, CAT)
    built = as_built(bare(plan), fine)
    assert not Site(built, CAT, 1, 24).alike(fine), "too few to tell six decks"
    assert all(Site(built, CAT, 1, cells).alike(fine) for cells in CELLS)


def test_what_is_said_too_sure_of_is_seen():
    """Halve what the bands allow for, and far fewer fall within: the count can fail."""
    plan = load(path_of("perkoz")).plan
    verdict = verify_builds("Perkoz", plan, CAT, 60, 4, workers=0)
    whole = next(c.inside for c in verdict.kinds if c.kind == "window")
    assert verdict.inside("window", Z95) == pytest.approx(whole) and whole > 0.8
    assert verdict.inside("window", Z95 / 2.0) < 0.75


def test_an_empty_plan_has_nothing_to_count_and_nonsense_is_refused(capsys, tmp_path):
    assert verify_builds("none", Plan(), CAT, 3, 1, workers=0).kinds == ()
    assert main(["verify", str(path_of("perkoz")), "--builds", "12", "--seed", "2"]) in (0, 1)
    out = capsys.readouterr().out
    assert "12 builds, seed 2" in out and "window" in out
    assert main(["verify", str(path_of("perkoz")), "--builds", "-4"]) != 0
    assert "1 to 100,000" in capsys.readouterr().err
