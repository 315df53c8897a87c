"""A lamp in a section as beams: one, or a row of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lamp.fit import axis_of, lies_along
from gwiazda.core.assess.lamp.modified_lamp import back_share, worked
from gwiazda.core.colour.modified_lamp import ALL_ROUND
from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp, Section, copy_unchecked
from gwiazda.core.radiosity.beams import OFF_WALL_MM, Beams

MOST_EMITTERS, LIGHTS = 24, 4096  # along a lamp; lamps kept at once
Array = npt.NDArray[np.float64]


class Emitters(NamedTuple):
    """A lamp as beams from the box's lowest corner, and the share of its light in each."""

    beams: Beams
    share: Array


@memoize(slots=1, by=lambda catalogue, lamp, corner: lamp.id, places=LIGHTS)
def emitters(catalogue: Catalogue, lamp: Lamp, corner: Array) -> Emitters:
    """A lamp as beams: one, or a row of them along a strip or a filament; and what a dome sends sideways, all round.

    Of a lamp that is seen itself what it throws back through its wall (``thrown_back``): alike to all sides of it.
    """
    if lamp.mount == "outside":
        at = np.round(np.array(lamp.at, dtype=float) - corner, 6)
        thrown = np.array([back_share(catalogue, lamp)])
        return Emitters(Beams(at[None], np.array(lamp.aim, dtype=float)[None], np.ones(1)), thrown)
    part, light = catalogue.lamps[lamp.part], worked(catalogue, lamp)
    count, length = 1, 0.0
    if part.shape.long:
        count = min(part.shape.emitters or part.leds * lamp.units, MOST_EMITTERS)
        length = part.size_mm[0] * lamp.units
    at = np.tile(np.round(np.array(lamp.at, dtype=float) - corner, 6), (count, 1))
    if count > 1:
        along = lies_along(lamp)
        at[:, along] += ((np.arange(count) + 0.5) / count - 0.5) * length
    aim = np.tile(np.array(lamp.aim, dtype=float), (count, 1))
    order, share = np.full(count, light.order), np.full(count, light.beam_share / count)
    if light.beam_share < 1.0 - 1e-9:
        at, aim = np.concatenate([at, at]), np.concatenate([aim, aim])
        order = np.concatenate([order, np.full(count, ALL_ROUND)])
        share = np.concatenate([share, np.full(count, (1.0 - light.beam_share) / count)])
    return Emitters(Beams(at, aim, order), share)


def thrown_back(lamp: Lamp, section: Section) -> Lamp:
    """A lamp that is seen itself as a section has it behind its wall: just inside that, looking in."""
    axis = axis_of(lamp.aim)
    at = []
    for a, (x, low, size) in enumerate(zip(lamp.at, section.box.at, section.box.size, strict=True)):
        off = min(OFF_WALL_MM, size / 8.0)
        at.append(
            low + (size - off if lamp.aim[axis] > 0 else off) if a == axis else min(max(x, low + off), low + size - off)
        )
    x, y, z = lamp.aim
    return copy_unchecked(lamp, at=(at[0], at[1], at[2]), aim=(-x, -y, -z))
