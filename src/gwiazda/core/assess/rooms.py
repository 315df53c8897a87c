"""Sections as rooms: from the plan's boxes, openings and lamps to the light of each window for each lamp."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lampwork import worked
from gwiazda.core.light.cavity import mean_reflectance, window_illuminance_per_lumen
from gwiazda.core.parts.catalogue import Glazing, LampPart, glazings, lamp_parts, linings
from gwiazda.core.plan.lookup import kept
from gwiazda.core.plan.models import NORMALS, Lamp, Opening, Section

Array = npt.NDArray[np.float64]


class Room(NamedTuple):
    """A section ready to be lit.

    ``luminance_per_lm`` (openings, lamps): cd/m² of each opening, its lit share counted in, for 1 lm of each
    lamp; ``mean_per_lm`` (lamps,): the same averaged over the area of the lit openings.
    """

    section: Section
    openings: tuple[Opening, ...]
    lamps: tuple[Lamp, ...]
    area_m2: float
    reflectance: float
    transmittance: float
    luminance_per_lm: Array
    mean_per_lm: Array
    lit: npt.NDArray[np.bool_]
    mean_of: Mapping[str, float]  # ``mean_per_lm`` by lamp id


def box_area_m2(section: Section) -> float:
    a, b, c = section.box.size
    return 2.0 * (a * b + b * c + c * a) * 1e-6


def glazing_of(opening: Opening, section: Section) -> Glazing | None:
    """The glazing of an opening: its own, or its section's; None when the catalogue hasn't got it."""
    return glazings().get(opening.glazing or section.glazing)


def room_of(section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...]) -> Room:
    """Geometry and reflectances of one section; lamps whose part is unknown must be left out."""
    return _room_of(section, openings, lamps, lamp_parts())


@kept(slots=256)
def _room_of(
    section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], parts: dict[str, LampPart]
) -> Room:
    # The parts stand for what ``worked`` reads of them.
    table = glazings()
    lining = linings()[section.lining].reflectance if section.lining in linings() else 0.0
    area = box_area_m2(section)
    lit = np.array([o.lit for o in openings])
    pane_area = np.array([o.area_mm2 for o in openings]) * 1e-6
    own = [table.get(o.glazing or section.glazing) for o in openings]
    through = np.array([g.transmittance if g else 0.0 for g in own])
    back = np.array([g.reflectance if g else lining for g in own])
    # What is not left clear is blanked off from inside and throws light back as the lining does.
    rho = mean_reflectance(area, lining, pane_area, lit * back + (1.0 - lit) * lining)
    order = np.array([worked(p).order for p in lamps])
    lux = window_illuminance_per_lumen(
        area,
        rho,
        np.array([o.at for o in openings], dtype=float).reshape(-1, 3),
        -np.array([NORMALS[o.side] for o in openings], dtype=float).reshape(-1, 3),
        pane_area * (lit > 0),
        np.array([p.at for p in lamps], dtype=float).reshape(-1, 3),
        np.array([p.aim for p in lamps], dtype=float).reshape(-1, 3),
        order,
    )
    luminance = lux * (lit * through)[:, None] / np.pi
    weight = pane_area * (lit > 0)
    total = float(weight.sum())
    mean = weight @ luminance / total if total > 0 else np.zeros(len(lamps))
    transmittance = float(weight @ (lit * through)) / total if total > 0 else 0.0
    return Room(
        section,
        openings,
        lamps,
        area,
        rho,
        transmittance,
        luminance,
        mean,
        lit > 0,
        dict(zip((p.id for p in lamps), mean.tolist(), strict=True)),
    )
