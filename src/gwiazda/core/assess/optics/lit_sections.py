"""Sections as rooms: the light of each window for each lamp."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.lamp.fit import longest_mm
from gwiazda.core.assess.optics.baffles import BOARD_MM, boards_of
from gwiazda.core.assess.optics.cavities import (
    Cavity,
    LampLight,
    Shade,
    cavity_of,
    frame_of,
    lights_of,
    reflectance_behind,
    shades_of,
)
from gwiazda.core.assess.optics.joints import Port
from gwiazda.core.assess.optics.shell import dark_shares, is_shell, lit_factors, sent_per_lm
from gwiazda.core.assess.optics.skin import material_of
from gwiazda.core.colour.colour import linear_srgb, spectrum_of, xyz
from gwiazda.core.colour.hue import Wall, filter_of
from gwiazda.core.colour.tint import Seen, richness, seen, through
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.model import Lamp, Opening, Section, TintCoat
from gwiazda.core.radiosity.fineness import CELLS
from gwiazda.core.radiosity.shadow import Baffle

Array = npt.NDArray[np.float64]


class LitSection(NamedTuple):
    """A section ready to be lit.

    ``luminance_per_lm`` (openings, lamps): cd/m² of each opening, its lit share and tints counted in, for 1 lm of
    each lamp; ``mean_per_lm`` (lamps,): the same averaged over the area of the lit openings. ``cells_per_lm``
    (N, lamps) lx on the walls, ``ports_per_lm`` (ports, lamps) lx at the joints. ``show`` (openings, 2): luminance
    for 1 lx on the pane, and for 1 lx on the wall straight behind it. ``sights`` (openings, lamps): cd/m² of the lamp's
    own face as it shows through the pane, for 1 lm; it is not in the pane's mean.
    """

    section: Section
    openings: tuple[Opening, ...]
    lamps: tuple[Lamp, ...]
    cavity: Cavity
    area_m2: float
    reflectance: float
    transmittance: float
    luminance_per_lm: Array
    mean_per_lm: Array
    lit: npt.NDArray[np.bool_]
    mean_of: Mapping[str, float]  # ``mean_per_lm`` by id, of the lamps inside it
    cells_per_lm: npt.NDArray[np.float32]
    ports_per_lm: Array
    show: Array
    behind: npt.NDArray[np.intp]
    weight: Array
    sights: Array
    lux: Array  # (openings, lamps) illuminance of the panes for 1 lm
    shades: tuple[Shade, ...] = ()
    lights: tuple[LampLight, ...] = ()
    glows: npt.NDArray[np.bool_] = np.zeros(0, dtype=bool)  # panes meant dark that a clear wall brings light to
    colours: tuple[Colours, ...] = ()
    leaking: Array = np.zeros(0)  # (lamps,) what the wall's colour makes of the light that leaks through it


def in_row(openings: Sequence[Opening]) -> npt.NDArray[np.bool_]:
    """Which openings count as a row that is to be even: lit in full, and no lenses, which are lights of their own, unless all are."""
    lit = np.array([o.lit == 1.0 and not o.into for o in openings], dtype=bool)
    plain = lit & np.array([o.lens is None for o in openings], dtype=bool)
    return plain if plain.any() else lit


def box_area_m2(section: Section) -> float:
    a, b, c = section.box.size
    return 2.0 * (a * b + b * c + c * a) * 1e-6


class Colours(NamedTuple):
    """What colours the light on its way out: tint coats, and the plastic where it goes through that. False where nothing does."""

    tints: tuple[TintCoat, ...] = ()
    wall: Wall | None = None

    def __bool__(self) -> bool:
        return bool(self.tints) or self.wall is not None


NO_COLOURS = Colours()


def colours_of(catalogue: Catalogue, section: Section, o: Opening, kit_material: str) -> Colours:
    """What colours the light of an opening: its tints; the wall's plastic where there is no hole in it, or the pane is the wall itself."""
    material = not o.hole or is_shell(catalogue, section, kit_material)
    return Colours(o.tints, wall_hue(catalogue, section, kit_material) if material else None)


def wall_hue(catalogue: Catalogue, section: Section, kit_material: str) -> Wall | None:
    """A section's wall as what colours light; None for a grey, a white or a clear one."""
    material = catalogue.materials.get(material_of(section, kit_material))
    return material.hue(section.wall_mm) if material is not None and material.colour and material.strength > 0 else None


@memoize_by_value(4096)
def _tinted(light: tuple[tuple[str, float], ...], tip: str, colours: Colours) -> Seen:
    coats = [(tip, 1)] if tip else []
    spectrum = spectrum_of(dict(light))
    found = seen(spectrum, [*coats, *((t.colour, t.coats) for t in colours.tints)])
    if colours.wall is None:
        return found
    behind = through(spectrum, [*coats, *((t.colour, t.coats) for t in colours.tints)]) * filter_of(colours.wall)
    tristimulus = xyz(behind)
    kept_share = float(tristimulus[1] / xyz(spectrum)[1])
    return Seen(kept_share, linear_srgb(behind) if kept_share > 1e-9 else (1.0, 1.0, 1.0), richness(tristimulus))


def coloured(light: tuple[tuple[str, float], ...], tip: str, colours: Colours) -> Seen:
    """A light with its tip as seen through what colours it; ``kept`` is of the light the tip lets out."""
    found = _tinted(light, tip, colours)
    if not tip:
        return found
    return found._replace(kept=found.kept / max(_tinted(light, tip, NO_COLOURS).kept, 1e-12))


def light_of_lamp(catalogue: Catalogue, lamp: Lamp) -> tuple[tuple[str, float], ...]:
    """A lamp's spectrum as values: what it is given by in the catalogue."""
    return tuple(sorted(catalogue.lamps[lamp.part].spectrum.items()))


def tinted(catalogue: Catalogue, lamp: Lamp, colours: Colours) -> Seen:
    """A lamp as seen through what colours its light; ``kept`` is of the light its tip lets out."""
    return coloured(light_of_lamp(catalogue, lamp), lamp.tint, colours)


def lit_section_of(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...], kit_material: str,
    ports: tuple[Port, ...] = (), cells: int = CELLS,
) -> LitSection:  # fmt: skip
    """Light of one section; lamps whose part is unknown must be left out."""
    boards = boards_for(catalogue, section, openings, lamps, ports, kit_material, cells)
    cells = cells_for(lamps, ports, cells)
    cavity = cavity_of(catalogue, section, openings, ports, kit_material, boards, cells)
    return _room_of(catalogue, section, openings, lamps, cavity, kit_material)


def _gain(catalogue: Catalogue, kind: str, of: str) -> float:
    """How many times the house's figure it is, by what was read of it."""
    known = catalogue.known.get((kind, of))
    return math.exp(known.shift) if known is not None else 1.0


UNLIT_CELLS = 24


def cells_for(lamps: tuple[Lamp, ...], ports: tuple[Port, ...], cells: int) -> int:
    """Into how many cells a section is cut: few where no light can come into it."""
    return cells if lamps or ports else UNLIT_CELLS


@memoize(slots=3, by=lambda catalogue, section, *_: section.id, places=4096)
def boards_for(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], lamps: tuple[Lamp, ...],
    ports: tuple[Port, ...], kit_material: str, cells: int,
) -> tuple[Baffle, ...]:  # fmt: skip
    """The boards that shade in a section; most have none."""
    lamps = tuple(p for p in lamps if p.mount == "inside")
    if not any(longest_mm(catalogue, p) >= BOARD_MM for p in lamps):
        return ()
    plain, _ = frame_of(catalogue, section, openings, ports, kit_material, (), cells)
    return boards_of(catalogue, section, plain.rows, lamps)


@memoize(slots=3, by=lambda catalogue, section, *_: section.id, places=4096)
def _room_of(
    catalogue: Catalogue,
    section: Section,
    openings: tuple[Opening, ...],
    lamps: tuple[Lamp, ...],
    cavity: Cavity,
    kit_material: str,
) -> LitSection:
    box, count = cavity.box, len(openings)
    lights = lights_of(catalogue, cavity, lamps)
    windows = np.array([x.windows for x in lights]).reshape(len(lamps), len(box.windows.face)).T
    cells = np.array([x.cells for x in lights], dtype=np.float32).reshape(len(lamps), len(box.area)).T
    lit = np.array([o.lit if not o.into else 0.0 for o in openings])
    pane_area = np.array([o.area_mm2 for o in openings]) * 1e-6
    passed = np.array([p.transmittance for p in cavity.panes])
    scattered = np.array([p.scattered for p in cavity.panes])
    clear = lit * np.array([p.clear for p in cavity.panes])
    behind = cavity.behind
    show = np.column_stack([lit * passed * scattered, clear * reflectance_behind(cavity)]) / np.pi
    shades = shades_of(catalogue, section, cavity, lamps, lights) if lamps else []
    for shade in shades:
        windows[shade.window] = shade.lux
        if shade.window < count:
            show[shade.window, 1] *= 1.0 - shade.covered
    luminance = show[:, :1] * windows[:count] + show[:, 1:] * cells[behind]
    sights = np.zeros_like(luminance)
    colours = tuple(colours_of(catalogue, section, o, kit_material) for o in openings)
    for j, lamp in enumerate(lamps):
        face_m2 = math.pi * (catalogue.lamps[lamp.part].face_mm * 0.5e-3) ** 2
        if lamp.mount == "inside":
            sights[:, j] = clear * lights[j].sight / face_m2
        for i in np.flatnonzero([bool(c) for c in colours]):
            kept_share = tinted(catalogue, lamp, colours[i]).kept
            luminance[i, j] *= kept_share
            sights[i, j] *= kept_share
    glows = np.zeros(count, dtype=bool)
    hue = wall_hue(catalogue, section, kit_material)
    if lamps and is_shell(catalogue, section, kit_material):
        luminance *= lit_factors(catalogue, section, openings, cavity.panes, kit_material)[:, None]
        around = (
            dark_shares(catalogue, section, openings, cavity.panes, kit_material)[:, None] * windows[:count] / np.pi
        )
        along = sent_per_lm(catalogue, section, openings, cavity.panes, lamps, kit_material)
        luminance = luminance + around + along
        glows = (lit == 0) & (luminance > 0).any(axis=1)
    inside, out = (_gain(catalogue, kind, section.id) for kind in ("lining", "glazing"))
    panes = out * np.array([_gain(catalogue, "pane", o.id) for o in openings])
    luminance, show, cells, windows = (
        luminance * (inside * panes[:, None]),
        show * panes[:, None],
        cells * np.float32(inside),
        windows * inside,
    )
    weight = pane_area * (lit > 0)
    total = float(weight.sum())
    mean = weight @ luminance / total if total > 0 else np.zeros(len(lamps))
    transmittance = float(weight @ (lit * passed)) / total if total > 0 else 0.0
    area = box_area_m2(section)
    return LitSection(
        section, openings, lamps, cavity, area, float(box.area @ box.reflectance / box.area.sum()), transmittance, luminance,
        mean, lit > 0, {p.id: m for p, m in zip(lamps, mean.tolist(), strict=True) if p.mount == "inside"}, cells, windows[count:], show, behind,
        weight, sights, windows[:count], tuple(shades), tuple(lights), glows, colours,
        np.array([tinted(catalogue, p, Colours((), hue)).kept for p in lamps]) if hue is not None else np.ones(len(lamps)),
    )  # fmt: skip
