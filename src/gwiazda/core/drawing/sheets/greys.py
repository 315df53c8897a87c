"""The grey card: patches of known grey, made of black lines alone so that a printer's own greys don't count."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, line, rect, text
from gwiazda.core.plan.model import Plan
from gwiazda.core.workbench.photo.photocurve import STEPS

PATCH, PITCH = 20.0, 0.34  # mm of a patch; of its lines: finer than a camera tells from where the model is photographed
HOW = (
    "Print it without scaling on white matt paper. Lay it where the model stands, evenly lit, and photograph it from as far as the model, with the",
    "same locked exposure settings or in automatic: its own photo, with one mark on the first and one on the last patch, tells the camera’s curve.",
)


def grey_card(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """A row of patches from white to black, for the curve of one's camera; where the plan has something lit to photograph."""
    if not any(o.lit > 0 for o in plan.openings):
        return []
    across = int(min(paper.room[0] // PATCH, len(STEPS)))
    marks: list[SheetMark] = []
    for n, black in enumerate(STEPS):
        x, y = (n % across) * PATCH, (n // across) * (PATCH + 6.0)
        marks.append(rect(x, y, PATCH, PATCH, wide=0.1))
        if black >= 1.0:
            marks.append(rect(x, y, PATCH, PATCH, fill=0.0, wide=0.0))
        elif black > 0.0:
            # As strokes: a filled outline would be drawn wider by its own edge.
            for k in range(int(PATCH / PITCH)):
                at = y + (k + 0.5) * PITCH
                marks.append(line((x, at), (x + PATCH, at), wide=black * PITCH))
        marks.append(text(x + 1.0, y + PATCH + 3.6, f"{n + 1}: {black * 100:.0f} % black", 2.2))
    high = ((len(STEPS) - 1) // across + 1) * (PATCH + 6.0)
    marks += [text(0.0, high + 4.0 + 4.0 * n, words, 2.6) for n, words in enumerate(HOW)]
    return [Drawing("Grey card", tuple(marks), max(across * PATCH, 160.0), high + 10.0)]
