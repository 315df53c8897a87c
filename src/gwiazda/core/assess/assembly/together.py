"""How a section goes together: which half holds what, which way the wires leave, what bows the seam, what goes first."""

from __future__ import annotations

from gwiazda.core.assess.assembly.contents import contents_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.model import Plan
from gwiazda.core.quantities import counted


def together(plan: Plan, assessment: Assessment, section: str) -> tuple[str, ...]:
    """What to mind when a section is closed, a line each."""
    c = contents_of(plan)[section]
    s, closure = c.section, c.section.closure
    out = []
    part = closure.part or "the lid"
    x, y, _ = s.box.centre
    high = s.box.at[2] + s.box.size[2]
    near = {"roof": 0, "floor": 0, "walls": 0}
    for p in c.lamps:
        if high - p.at[2] < 0.25 * s.box.size[2]:
            near["roof"] += 1
        elif p.at[2] - s.box.at[2] < 0.25 * s.box.size[2]:
            near["floor"] += 1
        else:
            near["walls"] += 1
    held = [f"{counted(n, 'lamp')} at the {where}" for where, n in near.items() if n]
    if held:
        out.append(f"Held: {', '.join(held)}; {part} goes on last, wires already out.")
    ways = [w for w in plan.passages if section in (w.section, w.into)]
    leads = [r for r in assessment.loom.runs.values() if r.through and any(w.id in r.through for w in ways)]
    if leads and ways:
        out.append(
            f"{counted(len(leads), 'wire')} leave by {', '.join(w.name or w.id for w in ways[:3])}: pull them through before the glue, slack inside."
        )
    if closure.by == "glue":
        glue = assessment.catalogue.adhesives.get(closure.glue)
        hold = (
            f"{glue.handle_h * 60:.0f} min"
            if glue is not None and glue.handle_h < 1
            else (f"{glue.handle_h:g} h" if glue is not None else "until it holds")
        )
        out.append("Nothing under the seam: wires and clips there bow it open.")
        out.append(
            f"From one end to the other, a finger’s width at a time; clamp over the ribs, {hold}. If it springs open, let it: find what bows it first."
        )
        if glue is not None:
            out.append(f"{glue.name}: full strength after {glue.full_h:g} h; comes apart: {glue.takes_apart}.")
    if abs(y) > 1.0 and c.order is not None and c.order.hand:
        out.append(f"It is the {c.order.hand} one: held against its partner, {'bow to bow' if x else 'end to end'}.")
    return tuple(out)
