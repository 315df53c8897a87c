"""Figures written down: the same bit for bit, of this plan alone, and nothing in a file runs."""

from __future__ import annotations

import io
import pickle
import zlib
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gwiazda.core.assess import kept
from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.kept import MARK, mark_of, pack, same_figures, unpack
from gwiazda.core.findings.rules import evaluate_rules
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.model import new_plan
from gwiazda.core.plan.storage import load
from gwiazda.demos import FIGURES, NAMES, path_of


@pytest.fixture(scope="module", params=NAMES)
def judged(request):
    plan = load(path_of(request.param)).plan
    return plan, assess(plan, built_in())


def test_what_is_read_again_is_the_same_bit_for_bit(judged):
    plan, fresh = judged
    again = unpack(pack(plan, fresh), plan, built_in())
    assert again is not None and same_figures(fresh, again)
    assert [f.sentence for f in evaluate_rules(plan, fresh)] == [f.sentence for f in evaluate_rules(plan, again)]
    moments = np.linspace(0.0, 20.0, 41)
    for mine, other in zip(fresh.effects.score.parts, again.effects.score.parts, strict=True):
        t = np.broadcast_to(moments, (len(mine.rows), len(moments)))
        assert np.array_equal(mine.light(t), other.light(t))
    assert again.catalogue is built_in() and again.room is plan.room


def test_nothing_that_is_read_can_be_changed(judged):
    plan, fresh = judged
    again = unpack(pack(plan, fresh), plan, built_in())
    assert again is not None
    curve = again.supply.curve_hours
    if len(curve):
        with pytest.raises(ValueError, match="read-only"):
            curve[0] = 1.0


@pytest.mark.parametrize("path", FIGURES, ids=lambda p: p.stem)
def test_the_figures_that_come_with_the_demos_are_those_of_today(path):
    """To the last digits that another processor may round differently; ``make figures`` works them out anew."""
    plan = new_plan() if path.stem == "empty" else load(path_of(path.stem)).plan
    shipped, fresh = unpack(path.read_bytes(), plan, built_in()), assess(plan, built_in())
    assert shipped is not None
    _close(shipped, fresh)


def _close(a, b):
    if isinstance(a, tuple) and not isinstance(a, str):
        assert type(a) is type(b) and len(a) == len(b)
        for x, y in zip(a, b, strict=True):
            if x is not y:
                _close(x, y)
    elif hasattr(a, "items"):
        assert list(a) == list(b)
        for key in a:
            _close(a[key], b[key])
    elif isinstance(a, float | np.ndarray):
        assert a == pytest.approx(b, rel=1e-9, abs=1e-12, nan_ok=True)
    elif hasattr(a, "keywords"):
        assert a.func is b.func
        _close(tuple(a.keywords.values()), tuple(b.keywords.values()))
    else:
        assert a == b


def test_figures_of_another_plan_or_other_parts_are_passed_over(deck):
    data = pack(deck, assess(deck, built_in()))
    moved = edits.move(deck, (deck.lamps[0].id,), (0.5, 0.0, 0.0))
    assert unpack(data, moved, built_in()) is None
    lamp = replace_first(built_in())
    assert unpack(data, deck, lamp) is None
    assert unpack(data, deck, built_in()) is not None


def replace_first(catalogue):
    part = next(iter(catalogue.lamps.values()))
    return replace(catalogue, lamps={**catalogue.lamps, part.id: part._replace(flux_lm=part.flux_lm * 1.5)})


def test_figures_of_another_version_are_passed_over(deck, monkeypatch):
    data = pack(deck, assess(deck, built_in()))
    monkeypatch.setattr(kept, "__version__", "0.0.9")
    assert unpack(data, deck, built_in()) is None


@settings(max_examples=60)
@given(st.data())
def test_a_damaged_file_is_no_figures(deck_data, data):
    deck, whole = deck_data
    at = data.draw(st.integers(0, len(whole) - 1))
    harm = data.draw(st.sampled_from(["cut", "bit", "more"]))
    if harm == "cut":
        broken = whole[:at]
    elif harm == "bit":
        broken = whole[:at] + bytes([whole[at] ^ 1]) + whole[at + 1 :]
    else:
        broken = whole + b"x"
    assert unpack(broken, deck, built_in()) is None


@pytest.fixture(scope="module")
def deck_data():
    from decks import deck_plan

    plan = deck_plan()
    return plan, pack(plan, assess(plan, built_in()))


class _Evil:
    def __init__(self, call, *args):
        self.call, self.args = call, args

    def __reduce__(self):
        return self.call, self.args


def _forged(plan, thing):
    body = io.BytesIO()
    pickle.Pickler(body, protocol=5).dump(thing)
    of = kept._made_of(plan, built_in())
    packed = zlib.compress(len(of).to_bytes(8, "big") + of + body.getvalue())
    return mark_of(plan, built_in()) + zlib.crc32(packed).to_bytes(4, "big") + packed


@pytest.mark.parametrize("call", ["system", "open", "eval", "write", "getattr"])
def test_nothing_in_a_file_is_run(deck, tmp_path, call):
    import builtins
    import os

    from gwiazda.core.files import write_atomically

    there = tmp_path / "done"
    evil = {
        "system": _Evil(os.system, f"touch {there}"),
        "open": _Evil(builtins.open, str(there), "w"),
        "eval": _Evil(builtins.eval, f"open({str(there)!r}, 'w')"),
        "write": _Evil(write_atomically, there, b""),
        "getattr": _Evil(builtins.getattr, deck, "sections"),
    }[call]
    assert unpack(_forged(deck, evil), deck, built_in()) is None
    assert not there.exists()


def test_what_is_no_assessment_is_passed_over(deck):
    for thing in ((1.0, 2.0), {"lamps": {}}, None, "figures"):
        assert unpack(_forged(deck, thing), deck, built_in()) is None
    assert len(mark_of(deck, built_in())) == MARK
    assert unpack(b"", deck, built_in()) is None


def test_a_file_that_unpacks_to_a_heap_is_passed_over(deck, monkeypatch):
    data = pack(deck, assess(deck, built_in()))
    monkeypatch.setattr(kept, "MOST_BYTES", 2000)
    assert unpack(data, deck, built_in()) is None


def test_figures_that_differ_in_the_last_bit_are_not_the_same(deck):
    fresh = assess(deck, built_in())
    assert same_figures(fresh, fresh._replace(hull_cd_m2=fresh.hull_cd_m2))
    assert not same_figures(fresh, fresh._replace(hull_cd_m2=np.nextafter(fresh.hull_cd_m2, 1.0).item()))
    assert not same_figures(fresh, fresh._replace(meters=fresh.meters[:-1]))
    assert same_figures(np.array([np.nan, 1.0]), np.array([np.nan, 1.0])) and same_figures(float("nan"), float("nan"))
    assert not same_figures(np.array([1.0]), np.array([1.0], dtype=np.float32))
