"""What glows of a section from outside: walls that let light through, and seams."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.cross_illumination import CrossIllumination
from gwiazda.core.assess.optics.leaks import face_maps, seam_strips
from gwiazda.core.assess.optics.lit_sections import Colours, LitSection, coloured, light_of_lamp, wall_hue
from gwiazda.core.assess.optics.skin import outside_reflectance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.memo import memoize, same_figures, same_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import FACE_NAMES, Side, face_number
from gwiazda.core.plan.model import Lamp, Section
from gwiazda.core.render.tone import hull_luminance

Rgb = tuple[float, float, float]
Key = tuple[str, Rgb]
Source = tuple[tuple[tuple[str, float], ...], str]  # a spectrum as values, and the tint on the tip

Array = npt.NDArray[np.float64]


class Glow(NamedTuple):
    """Places of one side of a section that glow: corners (n, 4), low and high along the side's two axes, mm on the model, and luminance (n,)."""

    key: Key
    section: str
    side: Side
    rects: Array
    cd_m2: Array


class Surroundings(NamedTuple):
    """What a section glows among: the others, the room's light (lx), the kit's plastic."""

    catalogue: Catalogue
    sections: tuple[Section, ...]
    lux: float
    kit_material: str


LEAST_SHOWN = 0.05  # of what is seen on a hull: fainter leaks are left out of the picture


@memoize(slots=2, same=same_figures)
def _by_key(catalogue: Catalogue, lamps: tuple[Lamp, ...], keys: tuple[Key, ...]) -> tuple[tuple[Key, Source], ...]:
    return tuple({key: (light_of_lamp(catalogue, p), p.tint) for p, key in zip(lamps, keys, strict=True)}.items())


def sources_of(catalogue: Catalogue, lamps: tuple[Lamp, ...], assessment: Assessment) -> tuple[tuple[Key, Source], ...]:
    """The spectrum and tip behind each colour of each channel."""
    return _by_key(catalogue, lamps, tuple((assessment.lamps[p.id].channel, assessment.lamps[p.id].rgb) for p in lamps))


def by_key(
    room: LitSection, own: Sequence[Key], flux_lm: Sequence[float], spill: CrossIllumination | None, every: Sequence[Key]
) -> tuple[list[Key], Array, CrossIllumination | None]:  # fmt: skip
    """What lights a room, by colour and channel: the keys, the lamps' light (lamps, C), lm, and what comes from next door in that order.

    ``own`` are the keys of its lamps, ``every`` those of all that may shine in.
    """
    keys = list(dict.fromkeys([*own, *every] if spill is not None else own))
    column = {key: i for i, key in enumerate(keys)}
    light = np.zeros((len(room.lamps), len(keys)))
    for i, (key, flux) in enumerate(zip(own, flux_lm, strict=True)):
        light[i, column[key]] = flux
    if spill is not None:
        order = [every.index(key) if key in every else -1 for key in keys]
        spill = CrossIllumination(*(np.where(np.array(order) >= 0, x[:, order], 0.0) for x in spill))
    return keys, light, spill


def glows_of(
    among: Surroundings, room: LitSection, walls: Array, keys: Sequence[Key], sides: tuple[Side, ...], lights: Mapping[Key, Source]
) -> tuple[Glow, ...]:  # fmt: skip
    """Walls and seams of a section that glow on these sides: what comes through a wall in the colour that its plastic leaves.

    ``walls`` (N, C) is the light on the room's walls, lx, a column for each of ``keys``.
    """
    mine = tuple((key, lights[key]) for key in keys if key in lights)
    return _glows(among, room, walls, tuple(keys), sides, mine)


@memoize(slots=1, by=lambda among, room, walls, keys, sides, *_: (room.section.id, sides), places=4096, same=same_value)
def _glows(
    among: Surroundings, room: LitSection, walls: Array, keys: tuple[Key, ...], sides: tuple[Side, ...], sources: tuple[tuple[Key, Source], ...]
) -> tuple[Glow, ...]:  # fmt: skip
    return tuple(_glowing(among, room, walls, keys, sides, dict(sources)))


def _glowing(
    among: Surroundings, room: LitSection, walls: Array, keys: Sequence[Key], sides: Sequence[Side], lights: Mapping[Key, Source]
) -> Iterator[Glow]:  # fmt: skip
    section = room.section
    catalogue, sections, lux, kit_material = among
    if not walls.any():
        return
    hull = hull_luminance(lux, outside_reflectance(catalogue, section, kit_material))
    least = LEAST_SHOWN * visible_luminance(hull)
    hue = wall_hue(catalogue, section, kit_material)
    through, behind = walls, list(keys)
    if hue is not None:
        seen_as = [coloured(*lights[key], Colours((), hue)) if key in lights else None for key in keys]
        through = walls * np.array([1.0 if s is None else s.kept for s in seen_as])
        behind = [key if s is None else (key[0], s.rgb) for key, s in zip(keys, seen_as, strict=True)]
    for m in face_maps(catalogue, room, through, kit_material, sections, least, sorted(map(face_number, sides))):
        side = FACE_NAMES[m.face]
        if side in sides:
            shown = m.luminance.sum(axis=1) > least
            for k in np.flatnonzero(m.luminance.any(axis=0)):
                yield Glow(behind[k], section.id, side, m.rects[shown], m.luminance[shown, k])
    for seam in section.seams:
        for key, column in zip(keys, walls.T, strict=True):
            for side in sides if column.any() else ():
                rects, values = seam_strips(catalogue, room, column, seam, side)
                if len(values) and float(values.max()) > least:
                    yield Glow(key, section.id, side, rects, values)
