"""Panes of clear shells that are meant dark: how far over what just shows each of them is."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from gwiazda.core.assess.optics.shell import is_shell
from gwiazda.core.assess.optics.skin import outside_reflectance
from gwiazda.core.light.visibility import visible_spot
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import openings_by_section
from gwiazda.core.plan.model import Plan
from gwiazda.core.render.tone import hull_luminance

if TYPE_CHECKING:
    from gwiazda.core.assess.states import OpeningState


def dark_panes(catalogue: Catalogue, plan: Plan, states: Mapping[str, OpeningState]) -> dict[str, float]:
    """How often over what just shows each pane is that is meant dark, as the mean over all directions, by its id.

    Parameters
    ----------
    catalogue, plan, states
        The parts, the plan, and the assessed state of each opening (luminance in cd/m²).

    Returns
    -------
    dict
        Only panes of clear shells, where light goes round the black behind them; from 1 on they show.
    """
    out = {}
    panes = openings_by_section(plan.openings)
    for s in plan.sections:
        dark = [o for o in panes.get(s.id, ()) if o.lit == 0 and not o.into and o.id in states]
        if dark and is_shell(catalogue, s, plan.kit.material):
            hull = hull_luminance(plan.room.lux, outside_reflectance(catalogue, s, plan.kit.material))
            for o in dark:
                least = visible_spot(hull, o.area_mm2 * 1e-6 / plan.room.distance_m**2)
                out[o.id] = states[o.id].luminance_cd_m2 / least
    return out
