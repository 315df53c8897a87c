"""An opening on a photo: its own light, with what others bloom over it taken off as it lies around it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.scene import pane_strips
from gwiazda.core.plan.model import Opening
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm
from gwiazda.core.render.glare import WEIGHT, Blur, Rects, sigmas_mm, spread
from gwiazda.core.workbench.photo.photomarks import Glow, sheet_place
from gwiazda.core.workbench.photo.photosheet import Sheet

Array = npt.NDArray[np.float64]
GRID = 11  # samples across an opening
INNER = 0.7  # of an opening's width and height: its edge is blurred in any photo
SMALLEST_PX = 3.0  # across: of a smaller pane a photo tells too little
BURNT = 0.02  # of a pane: more of it clipped, and the rest tells nothing either
MOST_VEIL = 0.2  # of its own light: what lies around it isn't known that well
RING_PX, RING = 2.5, 0.2  # how far round an opening its veil is read: in px, and in its own width and height
CLEAR_PX = 2.0  # of anything else that shines
LEAST_RING = 6  # places round it


class PaneRead(NamedTuple):
    """An opening: its own luminance as the photo has it and as predicted (cd/m²), the share of it that is burnt out, how many px across.

    ``counts``: whether it can be told; ``rgb``: its linear colour at unit luminance.
    """

    id: str
    read_cd_m2: float
    said_cd_m2: float
    clipped: float
    across_px: float
    rgb: tuple[float, float, float]
    veil: float = 0.0  # what blooms over it from elsewhere, over its own light

    @property
    def why_not(self) -> str:
        """Why it doesn't count; empty where it does."""
        if self.clipped >= BURNT:
            return "burnt out"
        if self.across_px < SMALLEST_PX:
            return "too small in this photo"
        return "outshone by what is beside it" if self.veil > MOST_VEIL else ""

    @property
    def counts(self) -> bool:
        return not self.why_not

    @property
    def ratio(self) -> float:
        return self.read_cd_m2 / self.said_cd_m2 if self.said_cd_m2 > 0 else math.inf


def inside_of(o: Opening, scale: float) -> Array:
    """Places (N, 2) on the sheet inside an opening, of its size times ``scale``."""
    x, y = sheet_place(o)
    cut = pane_strips(o)
    t = (np.arange(GRID) + 0.5) / GRID - 0.5
    u, v = (a.ravel() for a in np.meshgrid(t * o.width_mm, t * o.height_mm))
    within = np.zeros(len(u), dtype=bool)
    for x0, x1, y0, y1 in cut:
        within |= (u >= x0) & (u <= x1) & (v >= y0) & (v <= y1)
    return np.column_stack([x + scale * u[within], y + scale * v[within]])


class Photo(NamedTuple):
    """A photo as light: its code values, its linear values and those of the dark, and how it lies on the sheet."""

    code: ph.Bytes
    linear: ph.Array32
    dark: ph.Array32
    to_photo: pm.PhotoMap

    def across_px(self, o: Opening) -> float:
        """How many px an opening is across, its shorter side."""
        half = np.array([o.width_mm, o.height_mm]) / 2
        corners = pm.mapped(
            self.to_photo, np.array(sheet_place(o)) + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
        )
        return min(float(np.linalg.norm(corners[1] - corners[0])), float(np.linalg.norm(corners[3] - corners[0])))


def ring_of(o: Opening, per_mm: float, others: Array) -> Array:
    """Places (N, 2) on the sheet round an opening, mm, where nothing else shines; ``others`` (M, 4) are middles and halves of what does."""
    x, y = sheet_place(o)
    a, b = o.width_mm * (0.5 + RING) + RING_PX / per_mm, o.height_mm * (0.5 + RING) + RING_PX / per_mm
    t = np.linspace(-1.0, 1.0, 13)
    one = np.ones_like(t)
    ring = np.concatenate([np.column_stack(p) for p in ((t, one), (t, -one), (one, t), (-one, t))]) * [a, b] + [x, y]
    if len(others):
        apart = np.abs(ring[:, None, :] - others[None, :, :2]) - others[None, :, 2:] - CLEAR_PX / per_mm
        ring = ring[(apart.max(axis=2) > 0.0).all(axis=1)]
    return ring


def pane_seen(photo: Photo, o: Opening, said: float, others: Array) -> PaneRead | None:
    """An opening in linear values of the photo, what blooms over it taken off; None where it isn't on it.

    ``said`` is its predicted luminance, ``others`` (M, 4) what else shines: middles and halves on the sheet, mm.
    """
    places = pm.mapped(photo.to_photo, inside_of(o, INNER))
    values = ph.sampled(photo.linear, places)
    if not np.isfinite(values).all():
        return None
    nearest = photo.code[np.rint(places[:, 1]).astype(int), np.rint(places[:, 0]).astype(int)]
    clipped = float((nearest.max(axis=1) >= ph.CLIPPED).mean())
    across = photo.across_px(o)
    mean = values.mean(axis=0)
    per_mm = across / max(min(o.width_mm, o.height_mm), 1e-6)
    ring = ph.sampled(photo.linear, pm.mapped(photo.to_photo, ring_of(o, per_mm, others)))
    ring = ring[np.isfinite(ring).all(axis=1)]
    around = np.median(ring, axis=0) if len(ring) >= LEAST_RING else photo.dark
    own = mean - np.minimum(around, mean)
    grey, veil = float(ph.grey_of(own)), float(ph.grey_of(np.maximum(around - photo.dark, 0.0)))
    rgb = tuple(float(v) / grey for v in own) if grey > 0 else (1.0, 1.0, 1.0)
    return PaneRead(o.id, max(grey, 0.0), said, clipped, across, rgb, veil / max(grey, 1e-9))  # type: ignore[arg-type]


def halves_of(glows: Sequence[Glow], but: str = "") -> Array:
    """Middles and halves (M, 4) of what shines on a view, mm, one left out."""
    return np.array([(*g.at, *g.half) for g in glows if g.id != but], dtype=float).reshape(-1, 4)


def kept_of(o: Opening, sheet: Sheet) -> tuple[float, float]:
    """Shares of an opening's own light by an eye's bloom: that which stays within the part that is read, and that found round it."""
    view = sheet.camera
    ring = ring_of(o, view.scale, np.zeros((0, 4)))
    reach = np.abs(ring - np.array(sheet_place(o))).max(axis=0) * view.scale + 2.0
    w, h = (math.ceil(2.0 * x) + 2 for x in reach)
    cut = np.array(pane_strips(o)) * view.scale
    sigma = np.sqrt((sigmas_mm(view.distance_m) * view.scale) ** 2 + 0.5**2)
    rects = Rects(*(cut + np.array([w, w, h, h]) / 2).T)
    picture = spread(rects, np.ones(len(cut)), Blur(sigma, np.array(WEIGHT)), (w, h))[..., None]
    middle = np.array([w, h]) / 2 - 0.5
    inner, outer = (
        float(np.nanmean(ph.sampled(picture, (p - np.array(sheet_place(o))) * view.scale + middle)))
        for p in (inside_of(o, INNER), ring)
    )
    return (inner, outer) if inner > 0.05 else (1.0, 0.0)


def unbloomed(p: PaneRead, kept: tuple[float, float], bloom: float) -> PaneRead:
    """An opening with what a bloom takes from it, and what of it lies round it and was taken off with the rest, put back; its veil that of others alone."""
    inner, outer = kept
    left = max(1.0 - bloom * (1.0 - inner + outer), 0.3)
    return p._replace(read_cd_m2=p.read_cd_m2 / left, veil=max(p.veil - bloom * outer / left, 0.0))


def bloom_of(panes: Sequence[PaneRead], kept: Sequence[tuple[float, float]]) -> float:
    """How much the camera blooms, over an eye: by what lies round the panes that little else shines upon."""
    found = []
    for p, (inner, outer) in zip(panes, kept, strict=True):
        if p.clipped < BURNT and p.across_px >= SMALLEST_PX and p.read_cd_m2 > 0.0 and outer > 0.0:
            # Read: veil = κ·outer/(1 − κ·(1 − inner + outer)), for a pane that stands alone.
            found.append(p.veil / (outer + p.veil * (1.0 - inner + outer)))
    return float(np.clip(np.quantile(found, 0.25), 0.0, 1.5)) if found else 1.0
