"""What plans have learned of parts, kept in the workshop: round trip, other plans, two windows at once, odd files."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Known, built_in
from gwiazda.core.parts.spreads import BAG
from gwiazda.core.workshop.learned_csv import COLUMNS, known_elsewhere, learned_from_csv, learned_to_csv
from gwiazda.core.workshop.merge import merged
from gwiazda.core.workshop.workshop import Workshop, load_workshop, save_workshop

PART = next(iter(built_in().lamps))
HEAD = ",".join(COLUMNS) + "\n"
FOUND = {("light", PART): Known(0.2, 0.05, 7), ("coat", "flat-black"): Known(-0.1, 0.2, 2)}


@given(
    st.dictionaries(
        st.tuples(
            st.text("abc ,\"'", min_size=1, max_size=8),
            st.sampled_from(("light", "volts", "coat")),
            st.sampled_from(("a", "b-2")),
        ),
        st.tuples(st.floats(-1, 1), st.floats(0.001, 1), st.integers(0, 999)),
        max_size=6,
    )
)
def test_it_goes_round_as_csv(rows):
    learned = {key: Known(*value) for key, value in rows.items()}
    again = learned_from_csv(learned_to_csv(learned))
    assert set(again) == set(learned)
    for key, known in learned.items():
        assert again[key] == pytest.approx(known, rel=1e-4, abs=1e-6)


def test_a_workshop_keeps_it_and_a_plan_s_own_readings_don_t_count_twice(tmp_path):
    workshop = Workshop().with_learned("Szron", FOUND)
    save_workshop(workshop, tmp_path)
    found, said = load_workshop(tmp_path)
    assert said == () and found == workshop and found.catalogue.known
    known = found.catalogue_for("Perkoz").known["light", PART]
    assert 0.05 < known.shift < 0.2 and 0.05 < known.sigma < BAG and known.readings == 7
    assert found.catalogue_for("Szron").known == {} and found.catalogue_for("Szron") is found.catalogue_for("Szron")
    gone = found.with_learned("Szron", {})
    save_workshop(gone, tmp_path)
    assert not (tmp_path / "learned.csv").exists() and not load_workshop(tmp_path)[0].catalogue.known
    assert gone.catalogue is built_in() and found.catalogue.unread.known == {}


def test_more_plans_make_it_surer_and_what_the_catalogue_has_not_is_passed_over():
    one = Workshop().with_learned("A", FOUND)
    two = one.with_learned("B", FOUND).with_learned("C", {("light", "no such lamp"): Known(1.0, 0.1, 1)})
    a, b = (known_elsewhere(w.learned, built_in()) for w in (one, two))
    assert b["light", PART].sigma < a["light", PART].sigma and b["light", PART].shift > a["light", PART].shift
    assert ("light", "no such lamp") not in b


def test_two_windows_learn_beside_each_other():
    base = Workshop().with_learned("A", FOUND)
    mine, theirs = base.with_learned("A", {}), base.with_learned("B", FOUND)
    both = merged(base, mine, theirs)
    assert {key[0] for key in both.learned} == {"B"}


@pytest.mark.parametrize(
    "row",
    [
        "Szron,light,x",
        "Szron,colour,x,0,0.1,1",
        "Szron,light,,0,0.1,1",
        "Szron,light,x,much,0.1,1",
        "Szron,light,x,0,0,1",
        "Szron,light,x,9,0.1,1",
        "Szron,light,x,0,0.1,-1",
    ],
)
def test_nonsense_is_said_by_its_row(row):
    with pytest.raises(PlanError, match=r"row \d"):
        learned_from_csv(HEAD + row + "\n")


def test_an_unreadable_file_is_set_aside(tmp_path):
    (tmp_path / "learned.csv").write_text(HEAD + "Szron,light,x,much,0.1,1\n")
    found, said = load_workshop(tmp_path)
    assert found == Workshop() and "learned.csv" in said[0] and (tmp_path / "learned.unreadable-1.csv").exists()
