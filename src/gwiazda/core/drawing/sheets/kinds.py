"""The sheets there are. A new one is a function and a line in the list."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import NamedTuple

from gwiazda.core.assess.assembly.holes import chosen_holes, holes_of, numbered_holes
from gwiazda.core.assess.fibres.lists import bought_of, cuts_of, map_of, tags_of
from gwiazda.core.assess.optics.shell import is_shell
from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.sheets.build import cautions, log_pages, roll_calls, step_list, test_sheets
from gwiazda.core.drawing.sheets.carriers import cutting_patterns
from gwiazda.core.drawing.sheets.contours import contours
from gwiazda.core.drawing.sheets.gathered import EDGE_MM, Gathered
from gwiazda.core.drawing.sheets.greys import grey_card
from gwiazda.core.drawing.sheets.half import half_page
from gwiazda.core.drawing.sheets.page import (
    Drawing,
    Page,
    Paper,
    SheetMark,
    disc,
    laid,
    line,
    outline,
    rect,
    stacked,
    table,
    text,
)
from gwiazda.core.drawing.sheets.polarity import MINUS, PLUS, end_words, polarity_page
from gwiazda.core.drawing.sheets.protoboards import protoboard_sheets
from gwiazda.core.drawing.sheets.templates import drill_templates
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import SHEET, SIDES, to_sheet
from gwiazda.core.plan.model import Opening, Plan, Section
from gwiazda.core.plan.naming import channel_name, joint_name, name_of, names_of
from gwiazda.core.quantities import counted, format_scale

Builder = Callable[[Plan, Assessment, Paper], "list[Drawing]"]


class SheetKind(NamedTuple):
    """``true`` sheets are at the model's size."""

    id: str
    label: str
    build: Builder


def _pane(o: Opening) -> SheetMark:
    """An opening's own outline on its side's sheet."""
    x, y, _ = to_sheet(o.side, o.at)
    w, h = o.width_mm / 2, o.height_mm / 2
    if o.shape == "round" and o.width_mm == o.height_mm:
        return disc(x, y, w)
    if o.shape == "traced":
        a, b, _ = SHEET[o.side]
        return outline([(x + a * p * o.width_mm, y + b * q * o.height_mm) for p, q in o.points])
    if o.shape in ("slot", "round"):
        short = min(w, h) if o.shape == "slot" else None
        rx, ry = (short, short) if short is not None else (w, h)
        points = []
        for k in range(48):
            t = 2.0 * math.pi * (k + 0.5) / 48
            points.append((x + math.copysign(w - rx, math.cos(t)) + rx * math.cos(t), y + math.copysign(h - ry, math.sin(t)) + ry * math.sin(t)))  # fmt: skip
        return outline(points)
    return rect(x - w, y - h, 2 * w, 2 * h)


def _every_hole(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """Every hole by its tag on the templates: what for, which drill, on which side, how far from which edge, pilot or not."""
    rows = []
    for x in numbered_holes(assessment.catalogue, plan):
        d = x.bore.drill
        size = (
            "comes with its part"
            if x.bore.given
            else " / ".join(
                w for w in (d.own, f"{d.metric_mm:g} mm", f"no. {d.number}" if d.number else "", d.inch) if w
            )
        )
        section = name_of(plan, x.bore.section) if x.bore.section else "by itself"
        place = f"{x.along_mm:g} from {x.end}, {x.up_mm:g} up" if x.along_mm is not None else "–"
        rows.append((x.tag, x.name, size, f"{section}, {x.bore.side}", place, "pilot first" if x.pilot else ""))
    for c in chosen_holes(assessment.catalogue, plan):
        rows.append(
            (
                "",
                f"{c.use}, {c.pieces} ×" if c.pieces > 1 else c.use,
                f"{c.drill.metric_mm:g} mm",
                c.where,
                "where you choose",
                "",
            )
        )
    if not rows:
        return []
    columns = (("tag", 12.0), ("for", 48.0), ("drill", 42.0), ("in", 36.0), ("mm", 34.0), ("", 18.0))
    return table("Every hole", columns, rows, paper)


def window_masks(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """The panes of each side of a section at their places within its contour: masks to cut."""
    out = []
    for section in plan.sections:
        for side in SIDES:
            panes = [o for o in plan.openings if o.section == section.id and o.side == side and not o.into]
            if panes:
                sheet = Gathered()
                sheet.add(outline(contours(section, side)[0], wide=0.1, dashed=True))
                sheet.add(*(_pane(o) for o in panes))
                out.append(
                    sheet.drawing(f"Masks: {section.name}, {side}", f"{counted(len(panes), 'pane')}, seen from outside")
                )
    return out


PRINT = "print"  # the glazing that is a printed film


def _from_behind(plan: Plan, assessment: Assessment, section: Section, o: Opening) -> bool:
    """Whether a pane is lit through the wall or a printed film, and blocked from behind all round."""
    return (
        not o.hole
        or (o.glazing or section.glazing) == PRINT
        or is_shell(assessment.catalogue, section, plan.kit.material)
    )


def blocking_templates(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """What a printed film or a thin wall is blocked by from behind: black but for what is lit, mirrored as seen from inside."""
    out = []
    for section in plan.sections:
        for side in SIDES:
            lit = [o for o in plan.openings if o.section == section.id and o.side == side and not o.into and o.lit > 0]
            if not any(_from_behind(plan, assessment, section, o) for o in lit):
                continue
            sheet = Gathered()
            sheet.add(outline([(-x, y) for x, y in contours(section, side)[0]], fill=0.0))
            for o in lit:
                pane = _pane(o)
                sheet.add(pane._replace(points=tuple((-x, y) for x, y in pane.points), fill=1.0, wide=0.0))
            out.append(
                sheet.drawing(f"Blocking template: {section.name}, {side}", "seen from inside: lay it on the back")
            )
    return out


def fibre_maps(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """Each panel enlarged with its tags, and the table of dot, fibre, lamp, channel, output."""
    out: list[Drawing] = []
    tags = tags_of(plan)
    room_w, room_h = paper.room
    for panel in plan.panels:
        dots = [d for d in plan.dots if d.panel == panel.id]
        if not dots:
            continue
        k = min((room_w - 2 * EDGE_MM) / panel.width_mm, (room_h - 20) / panel.height_mm, 8.0)
        x0, y0, _ = to_sheet(panel.side, panel.at)
        left, top = x0 - panel.width_mm / 2, y0 - panel.height_mm / 2
        marks: list[SheetMark] = [
            rect(0, 8.0, panel.width_mm * k, panel.height_mm * k),
            text(0, 4.0, f"{k:.3g} times as large", 3.0),
        ]
        for d in dots:
            x, y, _ = to_sheet(panel.side, d.at)
            fibre = assessment.catalogue.fibres.get(d.fibre)
            r = max((fibre.diameter_mm if fibre else 0.5) / 2 * k, 0.5)
            at = ((x - left) * k, (y - top) * k + 8.0)
            marks += [disc(*at, r), text(at[0] + r + 0.5, at[1] - 0.5, tags[d.id], 2.4)]
        out.append(
            Drawing(f"Fibre map: {panel.name}", tuple(marks), panel.width_mm * k, panel.height_mm * k + 8.0, False)
        )
    rows = [
        (
            m.tag,
            name_of(plan, m.dot.id),
            m.dot.fibre,
            name_of(plan, m.lamp) if m.lamp else "on no lamp",
            channel_name(plan, m.channel) if m.channel else "",
            m.output,
        )
        for m in map_of(plan, assessment)
    ]
    if rows:
        columns = (("tag", 14.0), ("dot", 44.0), ("fibre", 26.0), ("lamp", 44.0), ("channel", 28.0), ("output", 26.0))
        out += table("Fibre map: dot, fibre, lamp, output", columns, rows, paper)
    return out


def wire_tags(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """Flags to fold round every wire: its tag twice, its sign, which leg of the lamp that is, and where it belongs."""
    lamps = {p.id: p for p in plan.lamps}
    runs = [r for r in assessment.loom.runs.values() if r.tag and r.kind != "jumper"]
    if not runs:
        return []
    wide, high = 30.0, 7.0
    room_w, _ = paper.room
    across = int(room_w // wide)
    marks: list[SheetMark] = []
    for k, r in enumerate(runs):
        x, y = (k % across) * wide, (k // across) * high
        marks.append(rect(x, y, wide, high, wide=0.1))
        marks.append(line((x + wide / 2, y), (x + wide / 2, y + high), wide=0.08, dashed=True))
        where = name_of(plan, r.lamps[0] if r.kind == "lead" else r.id.rsplit(".", 2)[0])
        lamp = lamps.get(r.lamps[0]) if r.kind == "lead" and r.lamps else None
        part = assessment.catalogue.lamps.get(lamp.part) if lamp is not None else None
        sign = SIGNS.get(r.end, "")
        for half in (0.0, wide / 2):
            marks.append(text(x + half + 1.0, y + 3.4, r.tag, 3.0, bold=True))
            marks.append(text(x + half + wide / 2 - 3.2, y + 3.6, sign, 3.6, bold=True))
            marks.append(text(x + half + 1.0, y + 5.0, end_words(part, r.end) if part is not None else "", 1.4))
            marks.append(text(x + half + 1.0, y + 6.6, _short(where), 1.5))
    whole = (len(runs) + across - 1) // across * high
    return [Drawing("Wire tags: cut out, fold round the wire", tuple(marks), across * wide, whole)]


SIGNS = {"plus": PLUS, "minus": MINUS}


def _short(words: str, most: int = 13) -> str:
    return words if len(words) <= most else "…" + words[-(most - 1) :]


def bench_lists(plan: Plan, assessment: Assessment, paper: Paper) -> list[Drawing]:
    """What to cut, drill, buy, join and sleeve."""
    out: list[Drawing] = []
    tags = tags_of(plan)
    fibres = assessment.catalogue.fibres
    rows = [
        (fibres[c.fibre].name, f"{c.length_mm:g} mm", str(c.pieces), "square, polished" if c.polished else "square", " ".join(tags[i] for i in c.dots))
        for c in cuts_of(plan, assessment)
    ]  # fmt: skip
    if rows:
        out += table(
            "Fibres to cut",
            (("fibre", 44.0), ("length", 22.0), ("pieces", 16.0), ("ends", 32.0), ("tags", 70.0)),
            rows,
            paper,
        )
    strips = [
        (name_of(plan, p.id), part.name, str(p.units), f"{p.units * part.size_mm[0]:g} mm", f"{part.shape.bend_mm:g} mm, never sideways")
        for p in plan.lamps if (part := assessment.catalogue.lamps.get(p.part)) is not None and part.shape.in_units
    ]  # fmt: skip
    if strips:
        columns = (("for", 36.0), ("strip", 64.0), ("units", 14.0), ("cut at", 24.0), ("bent round", 46.0))
        out += table("Strips to cut, between their copper pads", columns, strips, paper)
    drill = []
    for h in holes_of(plan, assessment.catalogue):
        number = f"no. {h.drill.number}, {h.drill.number_mm:.3f} mm" if h.drill.number else "–"
        size = "comes with its part" if h.given else f"{h.drill.own or f'{h.drill.metric_mm:g} mm'}"
        inch = f"{h.drill.inch}, {h.drill.inch_mm:.3f} mm" if h.drill.inch else "–"
        drill.append((h.use, size, number, inch, str(h.pieces)))
    if drill:
        out += table(
            "Holes to drill",
            (("for", 56.0), ("metric", 34.0), ("numbered", 38.0), ("inch", 40.0), ("holes", 16.0)),
            drill,
            paper,
        )
    out += _every_hole(plan, assessment, paper)
    bought = [
        (fibres[b.fibre].name, f"{b.length_mm / 1000:.2f} m in all", f"{b.metres} m to buy")
        for b in bought_of(plan, assessment)
    ]
    if bought:
        out += table("Fibre to buy", (("fibre", 60.0), ("needed", 50.0), ("with waste", 50.0)), bought, paper)
    wires = assessment.catalogue.wires
    leads = [
        (r.tag, names_of(plan, dict.fromkeys((r.lamps[0], r.lamps[-1]))) if r.lamps else name_of(plan, r.id), wires[r.part].name, r.colour, r.cut_words, " > ".join(name_of(plan, i) for i in r.through or ()) or "no way")
        for r in assessment.loom.runs.values() if r.kind != "fibre"
    ]  # fmt: skip
    if leads:
        out += table("Wires to cut", (("tag", 14.0), ("of", 44.0), ("wire", 42.0), ("colour", 18.0), ("cut", 18.0), ("through", 50.0)), leads, paper)  # fmt: skip
    joints = [
        (
            joint_name(plan, j.id),
            counted(len(j.wires), "wire"),
            f"{j.sleeve_mm:g} mm" if j.sleeve_mm else "none goes over it",
            f"{j.near_mm:.0f} mm",
        )
        for j in assessment.loom.joints
    ]
    if joints:
        out += table("Joints and their sleeves", (("joint", 74.0), ("wires", 24.0), ("sleeve, bore", 44.0), ("plastic within", 30.0)), joints, paper)  # fmt: skip
    return out


KINDS: tuple[SheetKind, ...] = (
    SheetKind("drill", "Drill templates", drill_templates),
    SheetKind("masks", "Masks for windows", window_masks),
    SheetKind("blocking", "Blocking templates", blocking_templates),
    SheetKind("carriers", "Cutting patterns", cutting_patterns),
    SheetKind("boards", "Boards to solder", protoboard_sheets),
    SheetKind("map", "Fibre map", fibre_maps),
    SheetKind("tags", "Wire tags", wire_tags),
    SheetKind("lists", "Cut and drill lists", bench_lists),
    SheetKind("half", "Half a page", half_page),
    SheetKind("polarity", "Which end is plus", polarity_page),
    SheetKind("steps", "Steps to tick", step_list),
    SheetKind("tests", "Test sheets", test_sheets),
    SheetKind("closings", "Parts checklist before closing", roll_calls),
    SheetKind("log", "Log", log_pages),
    SheetKind("greys", "Grey card", grey_card),
    SheetKind("care", "Cautions", cautions),
)


def pages_of(plan: Plan, assessment: Assessment, paper: Paper, only: Sequence[str] = ()) -> list[Page]:
    """All pages of the sheets asked for (all kinds where none is named).

    Raises
    ------
    PlanError
        For a kind that isn't known, or where none of them has anything on it.
    """
    known = {k.id: k for k in KINDS}
    for name in only:
        if name not in known:
            raise PlanError("Sheets", f"there is no sheet “{name}”", ", ".join(known))
    drawings = drawings_of(plan, assessment, paper, only)
    if not drawings:
        raise PlanError("Sheets", "there is nothing to put on them yet", "a plan with windows, dots or passages")
    return paged(plan, drawings, paper)


def drawings_of(plan: Plan, assessment: Assessment, paper: Paper, only: Sequence[str] = ()) -> list[Drawing]:
    """The drawings of the sheets asked for, each with the sheet it is of."""
    asked = [kind for kind in KINDS if not only or kind.id in only]
    return [d._replace(kinds=(kind.label,)) for kind in asked for d in kind.build(plan, assessment, paper)]


def paged(plan: Plan, drawings: Sequence[Drawing], paper: Paper) -> list[Page]:
    """Drawings on pages with the kit's name, small ones together whatever sheets they are of."""
    pages = []
    for drawing in stacked(drawings, paper):
        titled = drawing._replace(title=f"{plan.kit.name} {format_scale(plan.kit.scale)} · {drawing.title}")
        pages += laid(titled, paper)
    return pages
