"""What is judged of lenses: silver left on the back, a lip that holds nothing, a lamp that is to be its own lens and isn't there."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.optics.lenses import behind_mm, width_mm
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import NORMALS, PLANES
from gwiazda.core.plan.lookup import item_of, lamps_by_section, opening_of
from gwiazda.core.plan.model import Lamp, Lens, Opening, Plan
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted

LEAST_LIP_MM, USUAL_LIP_MM = 0.5, 1.0
IN_HOLE_MM = 3.0


def _with_lens(ids: list[str], **fields: object) -> Callable[[Plan], Plan]:
    def edit(plan: Plan) -> Plan:
        for i in ids:
            lens = opening_of(plan, i).lens
            plan = edits.set_fields(plan, [i], lens=edits.copy_checked(lens if lens is not None else Lens(), **fields))
        return plan

    return edit


def silvered(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lenses whose silver backing is still on."""
    backed = [o for o in plan.openings if o.lens is not None and o.lens.backed and o.lit > 0]
    if backed:
        ids = [o.id for o in backed]
        yield Finding(
            "lens-backed", "stop", "pane", ids[0], float(len(ids)),
            f"{counted(len(ids), 'lens')}, {name_of(plan, ids[0])} among them, still {'has' if len(ids) == 1 else 'have'} silver on the back: no light comes "
            "through. It is scraped off with a blade's edge, the rest polished.",
            (Fix("Scrape the silver off", _with_lens(ids, backed=False)),),
        )  # fmt: skip


def loose(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lenses with next to no lip to sit on."""
    ids = [o.id for o in plan.openings if o.lens is not None and o.lens.made != "lamp" and o.lens.lip_mm < LEAST_LIP_MM
           and min(o.width_mm, o.height_mm) > 4 * LEAST_LIP_MM]  # fmt: skip
    if ids:
        room = min(min(opening_of(plan, i).width_mm, opening_of(plan, i).height_mm) for i in ids)
        lip = min(USUAL_LIP_MM, round(room / 4, 2))
        yield Finding(
            "lens-loose", "look", "pane", ids[0], float(len(ids)),
            f"{ids[0]}: its lens has less than {LEAST_LIP_MM:g} mm to sit on, and falls through or is pushed in. A lip of 1 to 2 mm is usual; "
            f"here {lip:g} mm leaves half the hole.",
            (Fix(f"A lip of {lip:g} mm", _with_lens(ids, lip_mm=lip)),),
        )  # fmt: skip


def lamp_as_lens(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Openings whose lens is to be the lamp itself, and no lamp is pushed into them."""
    homes = lamps_by_section(plan.sections, plan.lamps)
    for o in plan.openings:
        if o.lens is None or o.lens.made != "lamp" or o.lit == 0:
            continue
        mine = [p for p in plan.lamps if homes.get(p.id) == o.section and p.part in assessment.catalogue.lamps]
        if any(_in_hole(o, p) for p in mine):
            body = next(p for p in mine if _in_hole(o, p))
            face = assessment.catalogue.lamps[body.part].face_mm
            if face > width_mm(o) + 1e-9:
                yield Finding(
                    "lens-lamp-too-wide", "stop", "pane", o.id, face - width_mm(o),
                    f"{name_of(plan, body.id)} is to be the lens of {name_of(plan, o.id)}, and its {face:g} mm don't go into {width_mm(o):g} mm.",
                    (Fix(f"A hole of {face:g} mm", _hole(o.id, face)),),
                )  # fmt: skip
            continue
        fixes: tuple[Fix, ...] = ()
        if mine:
            near = min(mine, key=lambda p: sum((a - b) ** 2 for a, b in zip(p.at, o.at, strict=True)))
            fixes = (Fix(f"Push {name_of(plan, near.id)} into it", _push(near.id, o.id)),)
        yield Finding(
            "lens-lamp-missing", "look", "pane", o.id, 0.0, f"{name_of(plan, o.id)} is to have the lamp itself for its lens, and none is in its hole.", fixes
        )  # fmt: skip


def _in_hole(o: Opening, p: Lamp) -> bool:
    h, v, _ = PLANES[o.side]
    aside = max(abs(p.at[h] - o.at[h]) - o.width_mm / 2, abs(p.at[v] - o.at[v]) - o.height_mm / 2)
    return aside <= 0 and behind_mm(o, p) <= IN_HOLE_MM


def _hole(opening_id: str, wide: float) -> Callable[[Plan], Plan]:
    return lambda plan: edits.set_fields(plan, [opening_id], width_mm=wide, height_mm=wide)


def _push(lamp_id: str, opening_id: str) -> Callable[[Plan], Plan]:
    """Into the hole: its middle a mm behind the skin, looking out."""

    def edit(plan: Plan) -> Plan:
        o = opening_of(plan, opening_id)
        normal = NORMALS[o.side]
        box = item_of(plan.sections, o.section, "section").box
        _, _, d = PLANES[o.side]
        at = list(o.at)
        at[d] = min(max(o.at[d] - normal[d] * 1.0, box.at[d]), box.at[d] + box.size[d])
        return edits.set_fields(plan, [lamp_id], at=tuple(at), aim=tuple(float(n) for n in normal))

    return edit


LENS_RULES = (silvered, loose, lamp_as_lens)
