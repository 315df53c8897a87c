"""What a plan uses up besides its electric parts: paint and putty, sheet, glue, tubes, holders, drills; by area, volume or piece.

House values: a millilitre of thinned paint covers some 100 cm² with one coat, brushed or sprayed (a small pot of 17 ml a sheet of
A4 two to three times); half of what leaves a spray can goes past a small part. A pane is cut 2 mm larger all round.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from typing import NamedTuple

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.assembly.glues import advise, joined_in
from gwiazda.core.assess.assembly.holes import bores_of
from gwiazda.core.assess.bodies.rooms import rooms_of
from gwiazda.core.assess.bodies.sizes import socket_of
from gwiazda.core.assess.carriers.standing import cut_to_profile, design_of
from gwiazda.core.assess.fibres.lists import WASTE
from gwiazda.core.assess.heat import outer_area_m2
from gwiazda.core.assess.show.protoboards import soldered_whole
from gwiazda.core.carrier.design import sheets_of
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import Coat
from gwiazda.core.plan.frame import FACE_NAMES
from gwiazda.core.plan.model import Plan, Section
from gwiazda.core.quantities import counted, figure

COVERS_CM2_ML = 100.0  # of one coat
RIM_MM = 2.0
LIQUID_MM = 0.5  # how thick liquid glazing stands in a pane

Row = tuple[str, str, str, int, int]  # kind, part, detail, needed, with waste


class Use(NamedTuple):
    """So much of a material: ``amount`` in its unit (ml, cm², pieces)."""

    kind: str
    part: str
    detail: str
    amount: float


def face_areas_cm2(section: Section) -> dict[str, float]:
    """The inner faces of a section's box, cm² each."""
    x, y, z = section.box.size
    across = (y * z, x * z, x * y)
    return {name: across[k // 2] / 100.0 for k, name in enumerate(FACE_NAMES)}


def _of_coat(coat: Coat, area_cm2: float, coats: float, thick_mm: float = 1.0) -> Use:
    if coat.kind == "mass":
        return Use("putty", coat.id, coat.name, area_cm2 * thick_mm / 10.0)
    if coat.kind == "sheet":
        return Use("sheet", coat.id, coat.name, area_cm2)
    return Use("paint", coat.id, coat.name, area_cm2 * coats / COVERS_CM2_ML)


def _skins(catalogue: Catalogue, section: Section) -> Iterator[Use]:
    """Linings, coats inside and outside, patches."""
    areas = face_areas_cm2(section)
    own = {f.face: f.lining for f in section.face_linings}
    for face, area in areas.items():
        lining = catalogue.linings.get(own.get(face, section.lining))  # type: ignore[call-overload]
        if lining is not None and lining.coat in catalogue.coats:
            yield _of_coat(catalogue.coats[lining.coat], area, section.lining_coats)
    inner, outer = sum(areas.values()), outer_area_m2(section) * 1e4
    for layers, area in ((section.inside, inner), (section.outside, outer)):
        for layer in layers:
            if layer.coat in catalogue.coats:
                yield _of_coat(catalogue.coats[layer.coat], area, layer.coats)
    for patch in section.patches:
        if patch.coat in catalogue.coats:
            size = (patch.high[0] - patch.low[0]) * (patch.high[1] - patch.low[1]) / 100.0
            yield _of_coat(catalogue.coats[patch.coat], size, patch.coats, patch.thickness_mm)


def _panes(catalogue: Catalogue, plan: Plan) -> Iterator[Use]:
    """What fills windows that are opened, and the diffusers behind them."""
    sections = {s.id: s for s in plan.sections}
    for o in plan.openings:
        s = sections.get(o.section)
        if s is None or s.school != "drill":
            continue
        area = (o.width_mm + 2 * RIM_MM) * (o.height_mm + 2 * RIM_MM) / 100.0
        glazing = catalogue.glazings.get(o.glazing or s.glazing)
        if glazing is not None and o.hole and glazing.bought == "liquid":
            yield Use("paint", glazing.id, glazing.name, o.width_mm * o.height_mm * LIQUID_MM / 1000.0)
        elif glazing is not None and glazing.bought:
            yield Use("sheet", glazing.bought, glazing.bought, area)
        for layer in s.soften:
            soft = catalogue.glazings.get(layer)
            if soft is not None and soft.bought not in ("", "liquid"):
                yield Use("sheet", soft.bought, soft.bought, area)


def _carriers(catalogue: Catalogue, plan: Plan) -> Iterator[Use]:
    homes = {s.id: s for s in plan.sections}
    for c in plan.carriers:
        sheet = catalogue.sheets.get(c.sheet)
        if sheet is None or c.section not in homes:
            continue
        try:
            pieces = sheets_of(cut_to_profile(design_of(catalogue, c, plan.lamps), homes[c.section]))
        except ValueError:
            continue
        for p in pieces:
            yield Use("sheet", c.sheet, sheet.name, (p.high[0] - p.low[0]) * (p.high[1] - p.low[1]) / 100.0)


def _pieces(catalogue: Catalogue, plan: Plan) -> Iterator[Use]:
    """Boards, holders, tubes, glues and drills: counted."""
    for board in (b for b in plan.boards if not soldered_whole(catalogue, b)):
        made = catalogue.boards.get(board.part)
        yield Use("board", board.part, made.name if made is not None else "not in the catalogue", 1)
    for feed in plan.feeds:
        part = catalogue.sources.get(feed.supply.part)
        if part is not None and part.kind == "battery" and any(part.holder_mm):
            cells = feed.supply.in_series * feed.supply.in_parallel
            place = next((r.box for r in rooms_of(catalogue, plan) if r.body.of == feed.id), None)
            what = (
                f"holder with leads for {counted(cells, 'cell')}"
                if part.holder_mm[1]
                else f"clip with leads for {part.name}"
            )
            size = (
                f", {' × '.join(figure(x, 3) for x in sorted(place.size, reverse=True))} mm"
                if place is not None and part.holder_mm[1]
                else ""
            )
            yield Use("holder", f"{part.id} × {cells}", f"{what}{size}", 1 if part.holder_mm[1] else cells)
        socket = socket_of(catalogue, feed.supply)
        if socket is not None and feed.home:
            yield Use("socket", socket.id, socket.name, 1)
    for p in plan.passages:
        if p.tube is not None:
            name = f"{p.tube.material} {figure(p.tube.outer_mm, 3)} × {figure(p.width_mm, 3)} mm"
            yield Use("tube", name, f"tube, {name}, {figure(p.length_mm, 3)} mm long", 1)
    glues: dict[str, str] = {}
    for c in contents_of(plan).values():
        if c.section.closure.glue and c.section.closure.glue in catalogue.adhesives:
            glues.setdefault(c.section.closure.glue, c.section.closure.part or "the closing")
        for pair in joined_in(catalogue, c, plan.kit.material):
            if pair.a == pair.b and c.section.closure.glue:
                continue
            best = next((x for x in advise(catalogue, pair.a, pair.b) if x.verdict == "holds"), None)
            if best is not None:
                glues.setdefault(best.glue.id, pair.what.lower())
    for glue, use in glues.items():
        yield Use("glue", glue, f"{catalogue.adhesives[glue].name}, for {use}", 1)
    bits = Counter(
        round(b.drill.metric_mm, 3) for b in bores_of(catalogue, plan) if b.drill.metric_mm and not b.drill.own
    )
    for size_mm, holes in sorted(bits.items()):
        yield Use("drill", f"{size_mm:g} mm", f"drill {size_mm:g} mm, for {counted(holes, 'hole')}", 1)


PIECES = ("board", "socket", "holder", "tube", "glue", "drill")


@memoize(slots=2)
def material_rows(catalogue: Catalogue, plan: Plan) -> tuple[Row, ...]:
    """Rows for the shopping list: each material once, what is needed and what with a tenth for waste, in ml, cm² or pieces."""
    amounts: dict[tuple[str, str], float] = defaultdict(float)
    words: dict[tuple[str, str], str] = {}
    uses = [u for s in plan.sections for u in _skins(catalogue, s)]
    for u in (*uses, *_panes(catalogue, plan), *_carriers(catalogue, plan), *_pieces(catalogue, plan)):
        amounts[u.kind, u.part] += u.amount
        words.setdefault((u.kind, u.part), u.detail)
    out = []
    for (kind, part), amount in sorted(amounts.items()):
        waste = 0.0 if kind in PIECES else WASTE
        out.append((kind, part, words[kind, part], math.ceil(amount - 1e-9), math.ceil(amount * (1.0 + waste) - 1e-9)))
    return tuple(out)
