"""A pane looked at closely: its luminance point by point, and its colour in the dark and in the room."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.optics.emitters import emitters
from gwiazda.core.assess.optics.lenses import face_shown_mm, spot_at
from gwiazda.core.assess.optics.lighting import lit_sections_of
from gwiazda.core.assess.optics.lit_sections import Colours, LitSection, tinted
from gwiazda.core.assess.states import Assessment
from gwiazda.core.colour.colour import linear_srgb, white, xyz
from gwiazda.core.colour.tint import Seen, seen, through
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import SHEET
from gwiazda.core.plan.lookup import opening_of
from gwiazda.core.plan.model import Opening, Plan
from gwiazda.core.radiosity import direct as dr
from gwiazda.core.radiosity import enclosure as en
from gwiazda.core.radiosity.formfactors import in_plane

Array = npt.NDArray[np.float64]
POINTS = 28  # a side
WARM_K, COOL_K, DAYLIGHT_K = 2900.0, 6500.0, 6500.0
Rgb = tuple[float, float, float]


class Picture(NamedTuple):
    """Luminance (POINTS, POINTS) as on its view's sheet (down, right), cd/m²; linear sRGB of unit luminance.

    ``mean_cd_m2`` is the pane's own light, without the lamp's face where one stands behind it.
    """

    cd_m2: Array
    rgb: Rgb
    hot_spot: float
    mean_cd_m2: float
    opening: Opening


def room_behind(plan: Plan, assessment: Assessment, opening_id: str) -> tuple[LitSection, int] | None:
    """The lit room behind an opening, and the opening's number in it."""
    plan = furnished(assessment.catalogue, plan)
    lamps = tuple(p for p in plan.lamps if p.id in assessment.lamps)
    o = opening_of(plan, opening_id)
    room = lit_sections_of(
        assessment.catalogue, plan.sections, plan.openings, lamps, plan.kit.material, assessment.cells
    ).get(o.section)
    if room is None:
        return None
    index = next((i for i, x in enumerate(room.openings) if x.id == opening_id), None)
    return (room, index) if index is not None else None


def picture_of(plan: Plan, assessment: Assessment, opening_id: str) -> Picture | None:
    """The luminance over an opening; None where no light falls on it, or it is no opening of the assessed plan."""
    if opening_id not in assessment.openings:
        return None
    at = room_behind(plan, assessment, opening_id)
    if at is None or not at[0].lamps or not at[0].lit[at[1]]:
        return None
    room, i = at
    o = room.openings[i]
    flux = np.array([assessment.lamps[p.id].flux_lm for p in room.lamps])
    if not flux.any():
        return None
    direct, even = _profile(assessment.catalogue, room, i, flux)
    mean = assessment.openings[opening_id].luminance_cd_m2
    walls = float(room.cells_per_lm[room.behind[i]] @ flux)
    light = room.show[i, 0] * (direct + even) + room.show[i, 1] * walls
    # What comes from next door falls evenly.
    light = light + max(mean - float(light.mean()) * _kept(assessment.catalogue, room, i, flux), 0.0)
    light = light * _kept(assessment.catalogue, room, i, flux)
    light = light + _faces(assessment.catalogue, room, i, flux)
    rgb = _colour(room, o, assessment)
    a, b, _ = SHEET[o.side]
    grid = light.reshape(POINTS, POINTS).T  # rows along v, columns along u
    grid = grid[:: (-1 if b < 0 else 1), :: (-1 if a < 0 else 1)]
    hot = float(grid.max() / mean) if mean > 0 else 1.0
    return Picture(np.ascontiguousarray(grid), rgb, max(hot, assessment.openings[opening_id].hot_spot), mean, o)


def _profile(catalogue: Catalogue, room: LitSection, i: int, flux: Array) -> tuple[Array, float]:
    """Direct light at points of a pane (u first), and the even rest, lx."""
    box, lights = room.cavity.box, room.lights
    sheets = next((x.sheets for x in room.shades if x.window == i), ())
    alone = en.only(box, i, sheets)
    points = np.zeros(POINTS * POINTS)
    for lamp, lm in zip(room.lamps, flux, strict=True):
        each = emitters(catalogue, lamp, room.cavity.corner)
        points += lm * dr.direct_windows(alone, each.beams, POINTS)[0] @ each.share
    coarse = float(np.array([x.points[i].mean() for x in lights]) @ flux)
    return points, max(float(room.lux[i] @ flux) - (float(points.mean()) if sheets else coarse), 0.0)


def _kept(catalogue: Catalogue, room: LitSection, i: int, flux: Array) -> float:
    """Share of light that what colours it keeps, all lamps together."""
    if not room.colours[i]:
        return 1.0
    kept = np.array([tinted(catalogue, p, room.colours[i]).kept for p in room.lamps])
    return float(kept @ flux / flux.sum())


def _faces(catalogue: Catalogue, room: LitSection, i: int, flux: Array) -> Array:
    """The lamps' own faces, where they stand behind the pane: (POINTS²,)."""
    box = room.cavity.box
    axis = int(box.windows.face[i]) // 2
    u, v = in_plane(axis)
    step = (np.arange(POINTS) + 0.5) / POINTS
    pu = box.windows.low[i, 0] + step * (box.windows.high[i, 0] - box.windows.low[i, 0])
    pv = box.windows.low[i, 1] + step * (box.windows.high[i, 1] - box.windows.low[i, 1])
    out = np.zeros((POINTS, POINTS))
    for j in np.flatnonzero(room.sights[i]):
        lamp = room.lamps[j]
        o = room.openings[i]
        at = np.array(spot_at(o, lamp)) - room.cavity.corner
        radius = face_shown_mm(catalogue, o, lamp, catalogue.lamps[lamp.part]) / 2
        away = np.hypot(pu[:, None] - at[u], pv[None, :] - at[v])
        # At least the nearest point: a chip is often smaller than their distance.
        shown = away <= max(radius, float(away.min()) + 1e-9)
        out += shown * room.sights[i, j] * flux[j]
    return out.ravel()


def _colour(room: LitSection, o: Opening, assessment: Assessment) -> Rgb:
    """Mean colour of the light through an opening, by its lamps' share in it."""
    i = next(k for k, x in enumerate(room.openings) if x.id == o.id)
    share = np.array([room.luminance_per_lm[i, j] * assessment.lamps[p.id].flux_lm for j, p in enumerate(room.lamps)])
    colours = np.array([tinted(assessment.catalogue, p, room.colours[i]).rgb for p in room.lamps])
    mixed = share @ colours / share.sum() if share.sum() > 0 else np.ones(3)
    return float(mixed[0]), float(mixed[1]), float(mixed[2])


class Swatches(NamedTuple):
    """Colours (linear sRGB of unit luminance) with luminance, cd/m²; what the tints keep; saturation."""

    dark: tuple[Rgb, float]
    room: tuple[Rgb, float]
    warm: tuple[Rgb, float]
    cool: tuple[Rgb, float]
    kept: float
    richness: float
    warm_richness: float
    cool_richness: float


def swatches_of(plan: Plan, assessment: Assessment, o: Opening) -> Swatches:
    """An opening's lens as it is seen in the dark, in the room's light, and behind a warm and a cool white lamp.

    ``plan`` is the assessed one; an opening it hasn't got yet is seen in the room's light alone.
    """
    coats = [(t.colour, t.coats) for t in o.tints]
    warm, cool = seen(white(WARM_K), coats), seen(white(COOL_K), coats)
    state = assessment.openings.get(o.id)
    own = state.luminance_cd_m2 if state else 0.0
    at = room_behind(plan, assessment, o.id) if state else None
    lamps = at[0].lamps if at is not None else ()
    now: Seen = tinted(assessment.catalogue, lamps[0], Colours(o.tints)) if lamps else cool
    rgb = _colour(at[0], o, assessment) if at is not None and lamps else now.rgb
    # Room light goes through the coats, comes back off the pane, and through them once more.
    daylight = white(DAYLIGHT_K)
    back = through(daylight, coats * 2)
    pane = at[0].cavity.panes[at[1]].reflectance if at is not None else 0.1
    thrown = plan.room.lux / np.pi * max(pane, 0.04) * float(xyz(back)[1] / xyz(daylight)[1])
    tint_rgb = np.array(linear_srgb(back)) if thrown > 1e-9 else np.ones(3)
    both = (np.array(rgb) * own + tint_rgb * thrown) / max(own + thrown, 1e-12)
    shown = (float(both[0]), float(both[1]), float(both[2]))
    level = own if own > 0 else 10.0
    return Swatches(
        (rgb, own), (shown, own + thrown), (warm.rgb, level * warm.kept / max(now.kept, 1e-9)),
        (cool.rgb, level * cool.kept / max(now.kept, 1e-9)), now.kept, now.richness, warm.richness, cool.richness,
    )  # fmt: skip
