"""Carriers taken out at true size: cutting patterns as SVG and DXF, a printable solid as STL. The PDF is a sheet (``sheets.carriers``)."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.carriers.standing import cut_to_profile, design_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.carrier.design import Design
from gwiazda.core.carrier.pieces import Piece, Solid, pieces_of, solid_of, stl_of
from gwiazda.core.errors import PlanError
from gwiazda.core.escaping import in_xml
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Carrier, Plan, Section
from gwiazda.core.plan.naming import name_of

APART_MM = 6.0  # between pieces, and between carriers
EDGE_MM = 5.0
WORD_MM = 3.0
ROW_MM = 180.0  # pieces go on in the next row from here on


class Placed(NamedTuple):
    """A piece on the pattern, x to the right and y up, mm."""

    carrier: Carrier
    piece: Piece
    x: float
    y: float


def named(plan: Plan, ids: Sequence[str] = ()) -> tuple[Carrier, ...]:
    """The carriers of these ids, all that are cut where none is named.

    Raises
    ------
    PlanError
        Where there is none.
    """
    chosen = tuple(c for c in plan.carriers if (c.id in ids if ids else c.own))
    if not chosen:
        raise PlanError(
            "Cutting pattern",
            "there is no carrier to cut",
            "a carrier in a section, proposed for its lamps or drawn on the plate",
        )
    return chosen


def designed(catalogue: Catalogue, plan: Plan, carrier: Carrier) -> Design:
    """A carrier as it is cut: with its lamps' holes, within its section's outline."""
    return cut_to_profile(design_of(catalogue, carrier, plan.lamps), section_of(plan, carrier.section))


@memoize(slots=8)
def _pieces(design: Design, section: Section) -> tuple[Piece, ...]:
    """A design cut to its section's profile, as pieces; two cards and a sheet ask for the same."""
    return pieces_of(cut_to_profile(design, section))


def pieces_in(catalogue: Catalogue, plan: Plan, carrier: Carrier) -> tuple[Piece, ...]:
    """The pieces of one carrier.

    Raises
    ------
    PlanError
        Where its sheet is thicker than it has room for, or its section's profile leaves nothing of it.
    """
    try:
        return _pieces(design_of(catalogue, carrier, plan.lamps), section_of(plan, carrier.section))
    except ValueError as error:
        raise PlanError(name_of(plan, carrier.id), str(error), "another sheet, or a larger carrier") from None


def solid_in(catalogue: Catalogue, plan: Plan, carrier: Carrier) -> Solid:
    """One carrier in one piece; raises as ``pieces_in``."""
    try:
        return solid_of(designed(catalogue, plan, carrier))
    except ValueError as error:
        raise PlanError(name_of(plan, carrier.id), str(error), "another sheet, or a larger carrier") from None


def pattern_of(catalogue: Catalogue, plan: Plan, carriers: Sequence[Carrier]) -> tuple[Placed, ...]:
    """All pieces side by side, a carrier after the other, in rows from the bottom up."""
    out, y = [], EDGE_MM
    for carrier in carriers:
        x, high = EDGE_MM, 0.0
        for piece in pieces_in(catalogue, plan, carrier):
            wide, tall = piece.size
            if x > EDGE_MM and x + wide > ROW_MM:
                x, y, high = EDGE_MM, y + high + APART_MM + WORD_MM, 0.0
            out.append(Placed(carrier, piece, x, y))
            x, high = x + wide + APART_MM, max(high, tall)
        y += high + 2 * APART_MM + WORD_MM
    return tuple(out)


def _extent(placed: Sequence[Placed]) -> tuple[float, float]:
    return (
        max(p.x + p.piece.size[0] for p in placed) + EDGE_MM,
        max(p.y + p.piece.size[1] for p in placed) + EDGE_MM + WORD_MM,
    )


def svg_of(catalogue: Catalogue, plan: Plan, carriers: Sequence[Carrier]) -> bytes:
    """The pattern as an SVG at true size: 1 unit is 1 mm; what is cut is drawn, what is said is in a group of its own."""
    placed = pattern_of(catalogue, plan, carriers)
    wide, high = _extent(placed)

    def path(points: Sequence[tuple[float, float]], at: Placed) -> str:
        return "M" + "L".join(f"{at.x + x:.3f} {high - at.y - y:.3f}" for x, y in points) + "Z"

    cuts = "".join(
        f'<path d="{" ".join([path(p.piece.outside, p), *(path(c, p) for c in p.piece.cut)])}"/>' for p in placed
    )
    words = "".join(
        f'<text x="{p.x:.2f}" y="{high - p.y - p.piece.size[1] - 1:.2f}">{in_xml(_words(p))}</text>' for p in placed
    )
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.2f}mm" height="{high:.2f}mm" viewBox="0 0 {wide:.2f} {high:.2f}">'
        f"<title>{in_xml(plan.kit.name)}: carriers at true size</title>"
        f'<g id="cut" fill="none" stroke="#000" stroke-width="0.1">{cuts}</g>'
        f'<g id="words" font-family="sans-serif" font-size="2.6">{words}</g></svg>'
    ).encode()


def _words(placed: Placed) -> str:
    return f"{placed.carrier.name or placed.carrier.form}: {placed.piece.name}"


def dxf_of(catalogue: Catalogue, plan: Plan, carriers: Sequence[Carrier]) -> bytes:
    """The pattern as a DXF in mm: outlines and what is cut out of them on the layer CUT, names on the layer WORDS."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    drawing = new("R2010", units=units.MM)
    drawing.layers.add("CUT", color=1)
    drawing.layers.add("WORDS", color=8)
    space = drawing.modelspace()
    for p in pattern_of(catalogue, plan, carriers):
        for ring in (p.piece.outside, *p.piece.cut):
            space.add_lwpolyline([(p.x + x, p.y + y) for x, y in ring], close=True, dxfattribs={"layer": "CUT"})
        space.add_text(_words(p), height=2.6, dxfattribs={"layer": "WORDS"}).set_placement(
            (p.x, p.y + p.piece.size[1] + 1)
        )
    text = io.StringIO()
    drawing.write(text)
    return text.getvalue().encode()


def stl_file(catalogue: Catalogue, plan: Plan, carriers: Sequence[Carrier]) -> bytes:
    """The carriers as one STL, each in one piece, side by side with their lowest corners on the plane z = 0, mm."""
    points, triangles, x, count = [], [], 0.0, 0
    for carrier in carriers:
        solid = solid_in(catalogue, plan, carrier)
        low = solid.points.min(axis=0)
        moved = solid.points - low + np.array([x, 0.0, 0.0])
        points.append(moved)
        triangles.append(solid.triangles + count)
        x, count = float(moved[:, 0].max()) + APART_MM, count + len(moved)
    return stl_of(Solid(np.concatenate(points), np.concatenate(triangles)))


FORMS: dict[str, Callable[[Catalogue, Plan, Sequence[Carrier]], bytes]] = {
    "svg": svg_of, "dxf": dxf_of, "stl": stl_file,
}  # fmt: skip


def carriers_file(plan: Plan, assessment: Assessment, name: str, ids: Sequence[str] = ()) -> bytes:
    """Carriers as the file name's suffix asks for it.

    Raises
    ------
    PlanError
        For another suffix, where there is no carrier, or where one can't be made.
    """
    suffix = name.rpartition(".")[2].lower()
    form = FORMS.get(suffix)
    if form is None:
        raise PlanError(
            "Cutting pattern",
            f"“{name}” is of no form it goes out in",
            "a name that ends in ." + ", .".join((*FORMS, "pdf")),
        )
    return form(assessment.catalogue, plan, named(plan, ids))
