"""Which end of a lamp is plus: a small picture of each form as it lies on the bench, and a page of those that a plan has."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, disc, line, outline, rect, text
from gwiazda.core.parts.lamps import LampForm, LampPart
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import names_of

WIDE, HIGH = 22.0, 17.0  # mm of a picture
PLUS, MINUS = "+", "−"
MOST_NAMED = 3
WORDS_MM = 150.0  # beside the picture


# What shows plus on a form, and so the end that is minus, in the few words that go on a tag.
END_WORDS = {
    ("leg", "plus"): "longer leg", ("leg", "minus"): "shorter leg", ("mark", "plus"): "across from mark", ("mark", "minus"): "at its mark",
    ("sign", "plus"): "printed +", ("sign", "minus"): "printed −", ("tab", "plus"): "tab with hole", ("tab", "minus"): "plain tab",
}  # fmt: skip


def end_words(part: LampPart, end: str) -> str:
    """Which end of a lamp a lead belongs to, in a few words; empty where nothing on it tells."""
    if part.rectified:
        return "either end"
    return "" if part.body else END_WORDS.get((part.shape.plus_at, end), "")


def _legs(form: LampForm) -> tuple[SheetMark, ...]:
    """A body from the side, its longer leg left; the flat of a round one over the shorter."""
    flat = 1.2 if form.round_face else 0.0
    if form.domed:
        dome = (
            (7.0, 6.0),
            (7.0, 4.5),
            (7.5, 2.8),
            (8.8, 1.5),
            (11.0, 1.0),
            (13.2, 1.5),
            (14.5, 2.8),
            (15.0, 4.5),
            (15.0, 6.0),
        )
        body = outline((*dome, (15.0, 8.0), (16.2 - flat, 8.0), (16.2 - flat, 9.2), (5.8, 9.2), (5.8, 8.0), (7.0, 8.0)))
    else:
        body = outline(((6.5, 2.0), (15.5, 2.0), (15.5, 8.0), (16.2 - flat, 8.0), (16.2 - flat, 9.2), (5.8, 9.2), (5.8, 8.0), (6.5, 8.0)))  # fmt: skip
    return (
        body, line((9.0, 9.2), (9.0, 16.0), wide=0.5), line((13.0, 9.2), (13.0, 13.5), wide=0.5),
        text(4.5, 15.5, PLUS, 5.0, bold=True, middle=True), text(16.0, 13.5, MINUS, 5.0, bold=True, middle=True),
    )  # fmt: skip


def _marked(form: LampForm) -> tuple[SheetMark, ...]:
    """A body from above, its ends to be soldered left and right; what marks it lies over minus."""
    return (
        rect(5.0, 4.0, 12.0, 8.0), rect(5.0, 4.0, 2.5, 8.0, fill=0.6), rect(14.5, 4.0, 2.5, 8.0, fill=0.6),
        disc(11.0, 8.0, 2.2), line((13.4, 4.6), (13.4, 11.4), wide=0.9),
        text(2.2, 9.8, PLUS, 5.0, bold=True, middle=True), text(19.8, 9.8, MINUS, 5.0, bold=True, middle=True),
    )  # fmt: skip


def _printed(form: LampForm) -> tuple[SheetMark, ...]:
    """A strip with its cuts; the signs stand beside the pads."""
    cuts = [line((x, 3.5), (x, 12.5), dashed=True) for x in (4.0, 18.0)]
    lamps = [rect(x, 6.5, 2.6, 3.0) for x in (6.6, 9.8, 13.0)]
    return (
        rect(0.5, 4.0, 21.0, 8.0), *cuts, *lamps,
        text(2.2, 7.4, PLUS, 3.6, bold=True, middle=True), text(2.2, 11.4, MINUS, 3.6, bold=True, middle=True),
        text(19.8, 7.4, PLUS, 3.6, bold=True, middle=True), text(19.8, 11.4, MINUS, 3.6, bold=True, middle=True),
    )  # fmt: skip


def _tabbed(form: LampForm) -> tuple[SheetMark, ...]:
    """A long thin lamp between two tabs, one with a hole."""
    return (
        rect(5.5, 7.0, 11.0, 2.4), rect(2.5, 7.4, 3.0, 1.6, fill=0.8), rect(16.5, 7.4, 3.0, 1.6, fill=0.8), disc(4.0, 8.2, 0.45, fill=1.0),
        text(3.6, 5.6, PLUS, 5.0, bold=True, middle=True), text(18.2, 5.6, MINUS, 5.0, bold=True, middle=True),
    )  # fmt: skip


def _untold(form: LampForm) -> tuple[SheetMark, ...]:
    """A body with two ends that are alike."""
    return (
        outline(((8.0, 2.0), (14.0, 2.0), (14.0, 8.0), (13.0, 14.0), (9.0, 14.0), (8.0, 8.0))),
        line((9.0, 9.0), (7.6, 14.0), wide=0.4), line((13.0, 9.0), (14.4, 14.0), wide=0.4),
        text(4.5, 13.5, "?", 4.6, bold=True, middle=True), text(17.5, 13.5, "?", 4.6, bold=True, middle=True),
    )  # fmt: skip


_PICTURES = {"leg": _legs, "mark": _marked, "sign": _printed, "tab": _tabbed, "": _untold}


def polarity_picture(form: LampForm) -> tuple[SheetMark, ...]:
    """The picture of a form, ``WIDE`` by ``HIGH`` mm, as marks from its upper left corner."""
    return _PICTURES[form.plus_at](form)


def _shifted(mark: SheetMark, x: float, y: float) -> SheetMark:
    return mark._replace(points=tuple((a + x, b + y) for a, b in mark.points))


def polarity_page(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """Each kind of lamp of a plan: its picture, which end is plus, and which lamps are of it."""
    parts = assessment.catalogue.lamps
    groups: dict[tuple[LampForm, str], list[str]] = {}
    for lamp in plan.lamps:
        if lamp.part in parts:
            part = parts[lamp.part]
            groups.setdefault((part.shape, part.plus), []).append(lamp.id)
    marks: list[SheetMark] = []
    for k, ((shape, plus), ids) in enumerate(groups.items()):
        y = k * (HIGH + 3.0)
        if not plus.startswith("either"):
            marks += [_shifted(m, 0.0, y) for m in polarity_picture(shape)]
        marks += [
            text(WIDE + 4.0, y + 4.5, f"{shape.name[:1].upper()}{shape.name[1:]}", 3.4, bold=True),
            text(WIDE + 4.0, y + 9.0, f"Plus: {plus}", 3.0),
            text(WIDE + 4.0, y + 13.5, names_of(plan, ids, MOST_NAMED), 2.6),
        ]
    if not marks:
        return []
    return [Drawing("Which end is plus", tuple(marks), WIDE + WORDS_MM, len(groups) * (HIGH + 3.0), False)]
