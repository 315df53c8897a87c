"""How lights look as a whole: mean brightness and colour of their panes, or of their lamps and points that are seen themselves."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.optics.lighting import lit_sections_of
from gwiazda.core.assess.optics.lit_sections import tinted
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Plan

Rgb = tuple[float, float, float]


class LightAppearance(NamedTuple):
    """What a light shows: ``kind`` “pane” (cd/m²) or “point” (cd); mean, least and most; linear sRGB of unit luminance; the ids behind it:
    panes or points, and the lamps that light them."""

    kind: str
    mean: float
    least: float
    most: float
    rgb: Rgb
    shown: tuple[str, ...]
    lamps: tuple[str, ...]


def look_of(plan: Plan, assessment: Assessment, light_id: str) -> LightAppearance | None:
    """How a light looks; None where nothing of it shines. Panes count before points."""
    of_section = {s.id: s.light for s in plan.sections}
    panes = [o for o in plan.openings if (o.light or of_section.get(o.section, "")) == light_id and o.lit > 0 and not o.into and o.id in assessment.openings]  # fmt: skip
    if panes:
        return _panes(plan, assessment, [o.id for o in panes], {o.section for o in panes})
    values: list[float] = []
    colours: list[Rgb] = []
    shown, lamps = [], []
    for p in plan.lamps:
        state = assessment.lamps.get(p.id)
        if state is not None and p.mount == "outside" and p.light == light_id and state.axial_cd > 0:
            values.append(state.axial_cd)
            colours.append(state.rgb)
            shown.append(p.id)
            lamps.append(p.id)
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if tip is not None and (d.light or of_section.get(d.section, "")) == light_id and tip.cd > 0:
            values.append(tip.cd)
            colours.append(tip.rgb)
            shown.append(d.id)
            lamps += [tip.lamp] if tip.lamp else []
    if not values:
        return None
    return LightAppearance("point", float(np.mean(values)), min(values), max(values), _mixed(values, colours), tuple(shown), tuple(dict.fromkeys(lamps)))  # fmt: skip


def _mixed(values: list[float], colours: list[Rgb]) -> Rgb:
    r, g, b = (np.array(values) @ np.array(colours) / sum(values)).tolist()
    return r, g, b


def _panes(plan: Plan, assessment: Assessment, ids: list[str], sections: set[str]) -> LightAppearance | None:
    plan = furnished(assessment.catalogue, plan)
    known = known_lamps(assessment.catalogue, plan.lamps)
    rooms = lit_sections_of(
        assessment.catalogue, plan.sections, plan.openings, known, plan.kit.material, assessment.cells
    )
    homes = lamps_by_section(plan.sections, plan.lamps)
    wanted, shares, colours = set(ids), [], []
    values = [assessment.openings[i].luminance_cd_m2 for i in ids]
    for key in sections:
        room = rooms[key]
        mine = [k for k, o in enumerate(room.openings) if o.id in wanted]
        for j, lamp in enumerate(room.lamps):
            light = room.luminance_per_lm[mine, j] * assessment.lamps[lamp.id].flux_lm
            for k, value in zip(mine, light.tolist(), strict=True):
                if value > 0:
                    shares.append(value)
                    colours.append(tinted(assessment.catalogue, lamp, room.colours[k]).rgb)
    if not any(v > 0 for v in values):
        return None
    rgb = _mixed(shares, colours) if shares else (1.0, 1.0, 1.0)
    lamps = tuple(p.id for p in plan.lamps if homes.get(p.id) in sections)
    return LightAppearance("pane", float(np.mean(values)), min(values), max(values), rgb, tuple(ids), lamps)
