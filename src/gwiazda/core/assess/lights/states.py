"""How bright a light gets, whatever carries it."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

from gwiazda.core.assess.lamp.modified_lamp import front_mm
from gwiazda.core.assess.lamp.realism import full_size_m
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import find, light_of, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Opening, Plan

Rgb = tuple[float, float, float]


class LightState(NamedTuple):
    """A light as it will be seen: a ``point`` of so many mcd or a ``pane`` of so many cd/m², what is wanted of it, its colour (linear sRGB of
    unit luminance), how large the real one would be (m). ``lamps`` light it."""

    unit: Literal["mcd", "cd/m²"]
    value: float
    wanted: float
    rgb: Rgb
    full_size_m: float
    lamps: tuple[str, ...]

    @property
    def reached(self) -> float:
        """What it gives over what is wanted."""
        return self.value / self.wanted if self.wanted > 0 else 0.0


def _point(
    plan: Plan, assessment: Assessment, part: Lamp | Dot | Opening
) -> tuple[float, float, Rgb, float, tuple[str, ...]] | None:
    """Intensity and the one wanted (mcd), colour, size (mm) and lamps of one part; None for one that isn't reckoned."""
    catalogue = assessment.catalogue
    if isinstance(part, Lamp):
        lamp = assessment.lamps.get(part.id)
        if lamp is None:
            return None
        mcd = lamp.axial_cd * 1e3
        wanted = mcd * lamp.wanted_share / lamp.share if lamp.share > 0 else 0.0
        return mcd, wanted, lamp.rgb, front_mm(catalogue, part) * max(part.units, 1), (part.id,)
    if isinstance(part, Dot):
        tip = assessment.tips.get(part.id)
        if tip is None:
            return None
        wide = catalogue.fibres[part.fibre].diameter_mm
        return tip.cd * 1e3, part.wanted_mcd, tip.rgb, wide, (tip.lamp,) if tip.lamp else ()
    pane = assessment.openings.get(part.id)
    if pane is None or part.into:
        return None
    lamps = tuple(p.id for p in assessment.lamps.values() if p.section == part.section)
    rgb = assessment.lamps[lamps[0]].rgb if lamps else (1.0, 1.0, 1.0)
    mcd = pane.luminance_cd_m2 * part.area_mm2 * 1e-6 * 1e3
    return mcd, 0.0, rgb, max(part.width_mm, part.height_mm), lamps


def state_of(plan: Plan, assessment: Assessment, light_id: str) -> LightState | None:
    """How a light looks; None where nothing of it is reckoned. The mean of several parts; windows of a row by their luminance."""
    light = light_of(plan, light_id)
    kind = kind_of(assessment.catalogue, light.kind)
    parts = [p for i in parts_of(plan, light_id) if isinstance(p := find(plan, i), (Lamp, Dot, Opening))]
    seen = [(p, s) for p in parts if (s := _point(plan, assessment, p)) is not None]
    if not seen:
        return None
    panes = [p for p, _ in seen if isinstance(p, Opening)]
    size = max(s[3] for _, s in seen)
    lamps = tuple(dict.fromkeys(i for _, s in seen for i in s[4]))
    real = full_size_m(size, plan.kit.scale)
    if panes and (kind.placing != "point" or len(panes) > 1):
        lit = [p for p in panes if p.lit > 0] or panes
        area = math.fsum(p.area_mm2 for p in lit)
        mean = math.fsum(p.area_mm2 * assessment.openings[p.id].luminance_cd_m2 for p in lit) / area
        rgb = next(s[2] for p, s in seen if isinstance(p, Opening))
        return LightState("cd/m²", mean, assessment.looks.pane(light.look), rgb, real, lamps)
    points = [s for p, s in seen if not isinstance(p, Lamp) or p.mount == "outside"] or [s for _, s in seen]
    mean = math.fsum(s[0] for s in points) / len(points)
    asked = [s[1] for s in points if s[1] > 0]
    wanted = math.fsum(asked) / len(asked) if asked else assessment.looks.point(light.look)
    return LightState("mcd", mean, wanted, points[0][2], real, lamps)
