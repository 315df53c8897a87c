"""Fibres taken out as tables: the cut list, the drill list, fibre to buy, and the map from dot to output."""

from __future__ import annotations

from gwiazda.core.assess.assembly.holes import holes_of
from gwiazda.core.assess.fibres.lists import bought_of, cuts_of, map_of, tags_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.plan.naming import channel_name, name_of
from gwiazda.core.tables import Table

KINDS = ("cut", "drill", "buy", "map")


def fibre_table(plan: Plan, assessment: Assessment) -> str:
    """All four lists as one CSV: the first column says which list a row belongs to."""
    tags = tags_of(plan)
    table = Table(("list", "what", "count", "size_mm", "detail", "tags"))
    for cut in cuts_of(plan, assessment):
        ends = "square, polished" if cut.polished else "square"
        table.row(("cut", cut.fibre, cut.pieces, f"{cut.length_mm:g}", ends, " ".join(tags[i] for i in cut.dots)))
    for hole in holes_of(plan, assessment.catalogue):
        drill = hole.drill
        others = [f"no. {drill.number} ({drill.number_mm:.3f} mm)"] if drill.number else []
        others += [f"{drill.own} ({drill.own_mm:g} mm)"] if drill.own else []
        others += [f"{drill.inch} ({drill.inch_mm:.3f} mm)"] if drill.inch else []
        detail = "comes with the part" if hole.given else ", ".join(others)
        size = "" if hole.given else f"{hole.drill.metric_mm:g}"
        table.row(("drill", hole.part, hole.pieces, size, detail, " ".join(tags.get(i, i) for i in hole.of)))
    for b in bought_of(plan, assessment):
        table.row(("buy", b.fibre, b.metres, f"{b.length_mm:g}", "metres, a tenth of it for waste", ""))
    for m in map_of(plan, assessment):
        where = " > ".join(
            x
            for x in (
                name_of(plan, m.lamp) if m.lamp else "",
                channel_name(plan, m.channel) if m.channel else "",
                m.output,
            )
            if x
        )
        table.row(("map", m.dot.fibre, 1, "", where or "on no lamp", m.tag))
    return table.text()
