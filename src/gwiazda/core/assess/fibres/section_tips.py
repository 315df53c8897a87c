"""Tips of fibres whose other end looks into the light of a section: no lamp of their own."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.optics.lit_sections import Colours, LitSection, tinted
from gwiazda.core.assess.states import LampState, TipState
from gwiazda.core.colour.tint import SMOKE
from gwiazda.core.fibre import light as optics
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Dot, TintCoat

SHORT_MM = 25.0  # from the skin into its section: such a fibre needs no more
FULL_DEG, DOMED_DEG = 30.0, 45.0


class Inside(NamedTuple):
    """The light in a section: mean illuminance of its walls (lx), and the lamp that gives most of it."""

    lux: float
    lamp: int


def inside_of(room: LitSection, lamps: Mapping[str, LampState]) -> Inside:
    """The light in a section at the currents that flow; 0 lx where none burns."""
    if not room.lamps:
        return Inside(0.0, -1)
    flux = np.array([lamps[p.id].flux_lm for p in room.lamps])
    area = room.cavity.box.area
    each = area @ room.cells_per_lm / area.sum() * flux
    return Inside(float(each.sum()), int(each.argmax()))


def section_tips(
    catalogue: Catalogue, dots: tuple[Dot, ...], rooms: Mapping[str, LitSection], lamps: Mapping[str, LampState]
) -> dict[str, TipState]:
    """The tips of dots that are fed by their section, as far as there is light in it. They take the colour of its strongest lamp."""
    out = {}
    for dot in dots:
        room, part = rooms.get(dot.section), catalogue.fibres.get(dot.fibre)
        if dot.fed != "section" or room is None or part is None:
            continue
        inside = inside_of(room, lamps)
        if inside.lamp < 0:
            continue
        lamp = room.lamps[inside.lamp]
        tints = tuple(TintCoat(colour=c) for c in (part.tint, dot.tint) if c)  # type: ignore[arg-type]
        seen = tinted(catalogue, lamp, Colours(tints))
        length = SHORT_MM + dot.slack_mm
        course = optics.Course(length, 0.0, (optics.CUT, optics.CUT), False, dot.glow_mm, seen.kept * SMOKE**dot.smoke)
        loss = optics.losses(optics.taken_in_lm(inside.lux, part.diameter_mm), 1.0, course)
        cd = optics.tip_cd(loss.flux_lm, 1.0, 1.0, dot.tip == "domed")
        area = math.pi * (part.diameter_mm * 1e-3) ** 2 / 4.0
        out[dot.id] = TipState(
            dot.id, "", lamps[lamp.id].channel, length, math.ceil(length), math.inf, None, 0.0, False, loss, 1.0, loss.flux_lm, cd,
            cd / area, dot.wanted_mcd * 1e-3, seen.rgb, DOMED_DEG if dot.tip == "domed" else FULL_DEG,
        )  # fmt: skip
    return out
