"""Half a page for the small job: the side to drill, the circuit as rungs with bands drawn, which end is plus, how to test, what to have in hand."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assembly.holes import NumberedHole, numbered_holes
from gwiazda.core.assess.states import Assessment, BranchState
from gwiazda.core.circuit.series import bands
from gwiazda.core.drawing.sheets.contours import contours
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, cross, disc, line, outline, rect, text
from gwiazda.core.drawing.sheets.polarity import HIGH, WIDE, polarity_picture
from gwiazda.core.parts.lamps import LampPart
from gwiazda.core.plan.frame import Side, to_sheet
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import names_of
from gwiazda.core.quantities import counted, figure, format_current, format_resistance

WIDE_MM, HIGH_MM = 124.0, 156.0  # of the room on an A5 page
VIEW_MM, RUNG_MM, LINE_MM = 56.0, 44.0, 4.4
MOST_RUNGS, MOST_FORMS, MOST_LINES, MOST_LETTERS = 6, 3, 16, 48
TAG_GAP_MM = 3.2  # tags nearer to one another can't be read
TRUE, SMALLER = 1.0, (1.0, 0.5, 1.0 / 3.0, 0.25, 0.2, 0.1, 0.05)
LETTERS, SMALL = 3.0, 2.4
LATE = ("way", "pane")  # holes that come after those of lamps and fibres
# A band's shade on a printer without colour, and the letters beside it.
SHADES = {
    "black": 0.0, "brown": 0.25, "red": 0.4, "orange": 0.55, "yellow": 0.8, "green": 0.45, "blue": 0.3, "violet": 0.35, "grey": 0.6,
    "white": 1.0, "gold": 0.7, "silver": 0.85,
}  # fmt: skip


class _Kind(NamedTuple):
    """Strings that are alike: how many, one of them, and what their lamps are called."""

    number: int
    branch: BranchState
    lamps: tuple[str, ...]


def _kinds(plan: Plan, assessment: Assessment) -> list[_Kind]:
    """Strings by what is soldered: those of the same parts and the same resistor once, with how many."""
    parts = {p.id: p.part for p in plan.lamps}
    groups: dict[tuple[float, tuple[str, ...], bool], list[BranchState]] = {}
    for branch in assessment.branches.values():
        key = (round(branch.resistor_ohm, 3), tuple(parts.get(i, "") for i in branch.lamps), branch.side_by_side)
        groups.setdefault(key, []).append(branch)
    return [_Kind(len(g), g[0], tuple(i for b in g for i in b.lamps)) for g in groups.values()]


def _resistor(x: float, y: float, ohm: float, series: str) -> Iterable[SheetMark]:
    """A resistor standing on its end, 5 × 12 mm, with its bands as shades and their first letters beside."""
    yield rect(x - 2.2, y, 4.4, 12.0, fill=0.92, wide=0.25)
    for k, colour in enumerate(bands(ohm, series)):
        at = y + 1.0 + 2.2 * k
        yield rect(x - 2.2, at, 4.4, 1.3, fill=SHADES.get(colour, 0.5), wide=0.12)
        yield text(x + 2.7, at + 1.3, colour, 1.7)


def _lamp(x: float, y: float) -> Iterable[SheetMark]:
    """A lamp as a diode in a ring, plus above."""
    yield disc(x, y, 2.6)
    yield outline(((x - 1.5, y - 1.2), (x + 1.5, y - 1.2), (x, y + 1.2)), fill=0.4)
    yield line((x - 1.5, y + 1.2), (x + 1.5, y + 1.2), wide=0.35)


def _rung(plan: Plan, x: float, kind: _Kind, wide: float) -> Iterable[SheetMark]:
    """A string between its rails: resistor, lamps, what it is for, how often it is built."""
    ohm, many = kind.branch.resistor_ohm, len(kind.branch.lamps)
    yield line((x, 2.0), (x, RUNG_MM - 12.0), wide=0.3)
    y = 4.0
    if ohm > 0.0:
        yield from _resistor(x, y, ohm, plan.drawer.series)
        y += 13.5
    shown = min(many, 2)
    for k in range(shown):
        yield from _lamp(x, y + 3.0 + 5.6 * k)
    if many > shown:
        yield text(x + 3.2, y + 8.6, f"{many} {'side by side' if kind.branch.side_by_side else 'in a row'}", 1.7)
    most = max(int(wide / 1.25), 6)
    rows = (
        f"{kind.number} × {format_resistance(ohm)}" if ohm > 0.0 else f"{kind.number} × no resistor",
        format_current(kind.branch.current_a), names_of(plan, kind.lamps, 1),
    )  # fmt: skip
    for k, words in enumerate(rows):
        short = words if len(words) <= most else f"{words[: most - 1]}…"
        yield text(x - wide / 2 + 1.0, RUNG_MM - 7.0 + 3.0 * k, short, 2.3 if k else 2.8, bold=k == 0)


def _circuit(plan: Plan, assessment: Assessment) -> list[SheetMark]:
    kinds = _kinds(plan, assessment)
    shown = kinds[:MOST_RUNGS]
    if not shown:
        return []
    part = assessment.catalogue.sources.get(plan.supply.part)
    source = part.name if part is not None else plan.supply.part
    many = plan.supply.in_series * plan.supply.in_parallel
    marks = [
        line((0.0, 2.0), (WIDE_MM, 2.0), wide=0.6), line((0.0, RUNG_MM - 12.0), (WIDE_MM, RUNG_MM - 12.0), wide=0.6),
        text(0.0, 1.2, f"+  {f'{many} × ' if many > 1 else ''}{source}", SMALL, bold=True),
        text(0.0, RUNG_MM - 12.6, "−", LETTERS, bold=True),
    ]  # fmt: skip
    wide = (WIDE_MM - 6.0) / max(len(shown), 3)
    for k, kind in enumerate(shown):
        marks += _rung(plan, 6.0 + wide * (k + 0.5), kind, wide)
    if len(kinds) > len(shown):
        marks.append(text(WIDE_MM - 34.0, 1.2, f"and {len(kinds) - len(shown)} kinds more: see the lists", 2.0))
    return marks


def _view(plan: Plan, side: Side, holes: Sequence[NumberedHole]) -> tuple[list[SheetMark], str]:
    """A side's sections that are bored there, at true size where it fits, else at the largest even share that does; and that share in words."""
    bored = {h.bore.section for h in holes if h.bore.side == side}
    shown = [s for s in plan.sections if s.id in bored] or list(plan.sections)
    shapes = [shape for s in shown for shape in contours(s, side)]
    if not shapes:
        return [], ""
    places = [to_sheet(side, h.bore.at)[:2] for h in holes if h.bore.side == side and h.bore.section in bored]
    xs, ys = ([p[k] for s in (*shapes, places) for p in s] for k in (0, 1))
    wide, high = max(xs) - min(xs), max(ys) - min(ys)
    share = next((k for k in SMALLER if k * wide <= WIDE_MM and k * high <= VIEW_MM), SMALLER[-1])

    def at(x: float, y: float) -> tuple[float, float]:
        return share * (x - min(xs)), share * (y - min(ys))

    marks = [outline([at(*p) for p in s]) for s in shapes]
    for o in plan.openings:
        if o.side == side and any(o.section == s.id for s in shown):
            x, y, _ = to_sheet(side, o.at)
            left, top = at(x - o.width_mm / 2, y - o.height_mm / 2)
            marks.append(rect(left, top, share * o.width_mm, share * o.height_mm, wide=0.1))
    tagged: list[tuple[float, float]] = []
    for hole in holes:
        if hole.bore.side == side and hole.bore.section in bored:
            x, y = at(*to_sheet(side, hole.bore.at)[:2])
            marks += [disc(x, y, max(share * hole.bore.drill.hole_mm / 2, 0.35)), *cross(x, y, 1.2)]
            if hole.bore.part != "pane" and all(math.dist((x, y), other) >= TAG_GAP_MM for other in tagged):
                tagged.append((x, y))
                marks.append(text(x + 0.9, y - 0.7, hole.tag, 2.0))
    words = "true size" if share == TRUE else f"1/{round(1.0 / share)} of true size: measure, don’t prick through"
    return marks, words


def _best_side(plan: Plan, holes: Sequence[NumberedHole]) -> Side:
    """The side that most holes are on; port where that is all the same."""
    sides: tuple[Side, ...] = ("port", "bow", "top", "stern", "starboard", "bottom")
    return max(sides, key=lambda s: (sum(h.bore.side == s and h.bore.part not in LATE for h in holes), -sides.index(s)))


def _forms(plan: Plan, assessment: Assessment) -> list[LampPart]:
    """One lamp of each form there is, of the most used first."""
    parts = assessment.catalogue.lamps
    used: dict[str, list[LampPart]] = {}
    for p in plan.lamps:
        if p.part in parts and not parts[p.part].rectified:
            used.setdefault(parts[p.part].form, []).append(parts[p.part])
    return [g[0] for g in sorted(used.values(), key=lambda g: -len(g))]


def _lines(holes: Sequence[NumberedHole]) -> list[str]:
    """What is bored for what, one a line: lamps and fibres first, then ways of wires and panes; what has one name and one drill together."""
    rows: dict[tuple[bool, str, float, bool], list[str]] = {}
    for h in holes:
        late = h.bore.part in LATE
        rows.setdefault((late, h.bore.use if late else h.name, h.bore.drill.metric_mm, h.pilot), []).append(h.tag)
    out = []
    for (_, name, mm, pilot), tags in sorted(rows.items(), key=lambda row: row[0][0]):
        named = f"{tags[0]} to {tags[-1]}, {len(tags)} ×" if len(tags) > 3 else " ".join(tags)
        out.append(f"{named}  {name}: {mm:g} mm{', pilot first' if pilot else ''}")
    return out


COIN = "Test: a 3 V coin cell on the two leads for a moment, + to plus; red, amber and yellow-green glow well, white, blue and green dimly. Dark? Turn it round."
CARE = (
    "Care: eye protection where you drill, blades away from you; iron on its stand, fumes away.",
    "Only a certified low-voltage supply, a fuse by the source; coin cells away from children.",
)


def _wrapped(words: str, most: int) -> list[str]:
    import textwrap

    return textwrap.wrap(words, most)


def half_page(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """One drawing for an A5 page: side and holes, rungs, plus, test, what is bored, cautions. Nothing for a plan without lamps."""
    if not plan.lamps:
        return []
    holes = [h for h in numbered_holes(assessment.catalogue, plan) if not h.bore.given]
    side = _best_side(plan, holes)
    view, share = _view(plan, side, holes)
    marks, y = [], 0.0
    if view:
        depth = max(v for m in view for _, v in m.points)
        marks += [text(0.0, 3.0, f"{side.capitalize()}, {share}", SMALL, bold=True), *_moved(view, 0.0, 5.0)]
        y = depth + 9.0
    marks += _moved(_circuit(plan, assessment), 0.0, y + 2.0)
    y += RUNG_MM + 6.0
    x = 0.0
    for part in _forms(plan, assessment)[:MOST_FORMS]:
        marks += _moved(_scaled(polarity_picture(part.shape), 0.62), x, y)
        marks += [
            text(x + WIDE * 0.62 + 1.0, y + 4.0 + 2.6 * k, row, 2.0)
            for k, row in enumerate(_wrapped(part.shape.plus, 23)[:3])
        ]
        x += WIDE_MM / MOST_FORMS
    y += HIGH * 0.62 + 3.0
    draw = sum(f.draw_a for f in assessment.feeds.values())
    hours = min((f.hours for f in assessment.feeds.values()), default=math.inf)
    lasts = f", {figure(hours, 2)} h" if math.isfinite(hours) else ""
    marks.append(
        text(0.0, y + 3.0, f"In hand: {counted(len(plan.lamps), 'lamp')}, {format_current(draw)}{lasts}.", SMALL)
    )
    y += LINE_MM
    foot = [*_wrapped(COIN, 84), *CARE]
    rows = min(max(int((HIGH_MM - y) / LINE_MM) - len(foot), 1), MOST_LINES)
    every = _lines(holes)
    shown = every if len(every) <= 2 * rows else every[: 2 * rows - 1]
    if len(shown) < len(every):
        shown = [*shown, f"and {counted(len(every) - len(shown), 'hole')} more: see the drill list"]
    rows = min(rows, math.ceil(len(shown) / 2))
    for k, row in enumerate(shown):
        column, line_number = divmod(k, max(rows, 1))
        short = row if len(row) <= MOST_LETTERS else f"{row[: MOST_LETTERS - 1]}…"
        marks.append(text(column * WIDE_MM / 2, y + 3.0 + LINE_MM * line_number, short, SMALL))
    y += LINE_MM * rows
    marks += [text(0.0, y + 3.0 + LINE_MM * k, row, SMALL) for k, row in enumerate(foot)]
    deep = max(v for m in marks for _, v in m.points) + 1.0
    return [Drawing("Half a page", tuple(marks), WIDE_MM, deep, share == "true size")]


def _moved(marks: Iterable[SheetMark], x: float, y: float) -> list[SheetMark]:
    return [m._replace(points=tuple((a + x, b + y) for a, b in m.points)) for m in marks]


def _scaled(marks: Iterable[SheetMark], by: float) -> list[SheetMark]:
    return [m._replace(points=tuple((a * by, b * by) for a, b in m.points), size=m.size * by) for m in marks]
