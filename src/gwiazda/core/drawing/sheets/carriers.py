"""The sheet of what holds lamps: every piece at true size, to cut round; brackets of the kit as places to drill."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.page import Drawing, Paper, SheetMark, cross, outline, text
from gwiazda.core.errors import PlanError
from gwiazda.core.exchange.carriers import pieces_in
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted

APART_MM, WORD_MM, EDGE_MM = 6.0, 4.0, 2.0


def cutting_patterns(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """A drawing for each carrier: its pieces one beside the other; what can't be made is said in its place."""
    out = []
    room_w, _ = paper.room
    for carrier in plan.carriers:
        title = f"{'Cutting pattern' if carrier.own else 'Drill template'}: {carrier.name or carrier.id}"
        try:
            pieces = pieces_in(assessment.catalogue, plan, carrier)
        except PlanError as error:
            out.append(Drawing(title, (text(0.0, 4.0, str(error), 3.0),), 120.0, 8.0))
            continue
        sheet = assessment.catalogue.sheets.get(carrier.sheet)
        marks: list[SheetMark] = []
        x, y, high, widest = EDGE_MM, WORD_MM + 4.0, 0.0, 0.0
        for piece in pieces:
            wide, tall = piece.size
            if x > EDGE_MM and x + wide > room_w:
                x, y, high = EDGE_MM, y + high + APART_MM + WORD_MM, 0.0
            marks.append(text(x, y - 1.0, piece.name, 2.6))
            # Paper has y downwards: the piece is turned over so that it isn't mirrored.
            for ring in (piece.outside, *piece.cut):
                marks.append(outline([(x + a, y + tall - b) for a, b in ring], wide=0.15))
            for hole in piece.holes:
                marks += cross(x + hole.u, y + tall - hole.v, 1.0)
            x, high, widest = x + wide + APART_MM, max(high, tall), max(widest, x + wide)
        what = f"{sheet.name if sheet else carrier.sheet}, {counted(len(pieces), 'piece')}, {counted(len(pieces[0].holes), 'hole')}"
        marks.insert(0, text(0.0, 3.0, what if carrier.own else "a bracket of the kit: prick through the crosses", 2.8))
        out.append(Drawing(title, tuple(marks), widest + EDGE_MM, y + high + EDGE_MM))
    return out
