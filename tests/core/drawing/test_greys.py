"""The grey card: as much black in each patch as it says, on each paper, and none where nothing is lit."""

from __future__ import annotations

import pytest

from decks import deck_plan
from gwiazda.core.assess.assessment import assess
from gwiazda.core.drawing.sheets.greys import PATCH, PITCH, grey_card
from gwiazda.core.drawing.sheets.page import PAPERS
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.model import Plan
from gwiazda.core.workbench.photo.photocurve import INK, PAPER, STEPS, reflectance_of


@pytest.mark.parametrize("paper", ["a4", "a5"])
def test_each_patch_is_as_black_as_it_says(paper):
    plan = deck_plan(windows=2, lamps=1)
    (card,) = grey_card(plan, assess(plan, built_in()), PAPERS[paper])
    assert card.true_size and card.width_mm <= max(PAPERS[paper].room[0], 160.0)
    across = int(min(PAPERS[paper].room[0] // PATCH, len(STEPS)))
    for n, black in enumerate(STEPS):
        x, y = (n % across) * PATCH, (n // across) * (PATCH + 6.0)
        lines = [m for m in card.marks if m.kind == "line" and m.points[0][0] == x and y < m.points[0][1] < y + PATCH]
        if 0.0 < black < 1.0:
            assert sum(m.wide for m in lines) / (len(lines) * PITCH) == pytest.approx(black)
            assert len(lines) * PITCH > 0.98 * PATCH and all(m.wide < PITCH for m in lines)
        else:
            assert lines == []


def test_reflectances_go_from_paper_to_ink_and_empty_plans_need_no_card():
    values = [reflectance_of(s) for s in STEPS]
    assert values[0] == PAPER and values[-1] == pytest.approx(INK) and values == sorted(values, reverse=True)
    assert grey_card(Plan(), assess(Plan(), built_in()), PAPERS["a4"]) == []
