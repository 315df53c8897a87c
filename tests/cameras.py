"""A camera that isn't the application's own: its scene drawn by SciPy from rectangles and discs alone, its curve, lens and file of its own kind."""

from __future__ import annotations

import io
from typing import NamedTuple

import numpy as np
from PIL import Image
from scipy import ndimage

from gwiazda.core.assess.night.scene import surfaces_among
from gwiazda.core.plan.frame import to_sheet
from gwiazda.core.plan.model import Laid, PhotoMark
from gwiazda.core.render.raster import within
from gwiazda.core.workbench.photo.photomarks import glows_of, landmarks


class Maker(NamedTuple):
    """How a camera makes a picture: contrast in its middle tones, how dark its toe, its gamma; a lens' barrel, bloom, corners; its file."""

    contrast: float = 0.45
    toe: float = 0.03
    gamma: float = 2.2
    barrel: float = 0.02
    bloom: float = 0.04
    focal: float = 1.2
    quality: int = 85
    balance: tuple[float, float, float] = (1.0, 1.0, 1.0)
    local: float = 0.0  # how much it evens out light and dark places, as HDR does


MARGIN = np.array([18.0, 25.0])


def curve(maker: Maker, light: np.ndarray) -> np.ndarray:
    """Code values (0 to 1) of linear light (0 to 1): gamma, then an S about the middle, then a toe."""
    v = np.clip(light, 0.0, 1.0) ** (1.0 / maker.gamma)
    v = v - maker.contrast * np.sin(2.0 * np.pi * v) / (2.0 * np.pi)
    return v * (v + 0.2 * maker.toe) / (v + maker.toe) * (1.0 + maker.toe) / (1.0 + 0.2 * maker.toe)


class Shot(NamedTuple):
    code: np.ndarray
    laid: Laid
    planted: tuple[tuple[float, float, float], ...]


def shoot(plan, assessment, side, seed, maker=None, width=1600, brightest=0.55, leaks=0, times=None, stray_px=3.0):
    """A photo of the lit model; ``brightest`` of full scale is where the brightest tenth of its panes comes, ``times`` what panes differ by."""
    rng, maker = np.random.default_rng([seed, 77]), maker or Maker()
    lit = [o for o in plan.openings if o.side == side and o.lit > 0 and assessment.openings[o.id].luminance_cd_m2 > 0]
    places = {g.id: np.array(g.at) for g in glows_of(plan, assessment, side)}
    every = np.array(list(places.values()))
    low, high = every.min(axis=0) - MARGIN, every.max(axis=0) + MARGIN
    scale = 1.6 * width / (high - low)[0]
    shape = tuple(int(x) for x in ((high - low) * scale)[::-1])
    rgb = {}
    for s in assessment.lamps.values():
        if s.section:
            rgb.setdefault(s.section, []).append(np.array(s.rgb) * s.flux_lm)
    scene = np.full((*shape, 3), 0.02, dtype=np.float32)

    def stamp(at, w, h, value, round_=False):
        cx, cy = (np.asarray(at) - low) * scale
        a, b = max(w * scale / 2, 0.5), max(h * scale / 2, 0.5)
        y0, y1, x0, x1 = int(cy - b), int(cy + b) + 1, int(cx - a), int(cx + a) + 1
        if y0 < 0 or x0 < 0 or y1 > shape[0] or x1 > shape[1]:
            return
        yy, xx = np.mgrid[y0:y1, x0:x1]
        inside = ((xx + 0.5 - cx) / a) ** 2 + ((yy + 0.5 - cy) / b) ** 2 <= 1 if round_ else np.ones(yy.shape, bool)
        scene[y0:y1, x0:x1][inside] += np.asarray(value, dtype=np.float32)

    means = []
    for o in lit:
        light = assessment.openings[o.id].luminance_cd_m2 * (times or {}).get(o.id, 1.0)
        colour = np.sum(rgb.get(o.section, [np.ones(3)]), axis=0)
        colour = colour / (colour @ [0.2126, 0.7152, 0.0722])
        means.append(light)
        stamp(to_sheet(side, o.at)[:2], o.width_mm, o.height_mm, light * colour, o.shape == "round")
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if d.id in places and tip is not None:
            stamp(places[d.id], 0.5, 0.5, tip.cd / (0.2e-6) * np.array(tip.rgb), True)
    planted = []
    hull = [x.polygon for x in surfaces_among(assessment.catalogue, plan.sections, plan.kit.material, side)]
    taken = [(places[i], 9.0) for i in places]
    for _ in range(500):
        if len(planted) == leaks:
            break
        at = rng.uniform(low + 20, high - 27)
        w, h = rng.uniform(1.0, 5.0, 2)
        box = at + np.array([[-w, -h], [w, -h], [w, h], [-w, h]])
        if all(np.hypot(*(at - p)) > r for p, r in taken) and any(within(x, box).all() for x in hull):
            value = float(np.median(means)) * rng.uniform(0.08, 0.3)
            stamp(at, w, h, value * np.ones(3))
            planted.append((float(at[0]), float(at[1]), value))
            taken.append((at, 12.0))
    height = int(width * shape[0] / shape[1])
    corners = np.array([[0, 0], [shape[1], 0], [shape[1], shape[0]], [0, shape[0]]], float)
    target = (np.array([[0.05, 0.06], [0.95, 0.05], [0.96, 0.95], [0.04, 0.94]]) + rng.uniform(-0.02, 0.02, (4, 2))) * [
        width,
        height,
    ]
    rows = []
    for (x, y), (u, v) in zip(corners, target, strict=True):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y, u], [0, 0, 0, x, y, 1, -v * x, -v * y, v]]
    rows = np.array(rows)
    to = np.append(np.linalg.solve(rows[:, :8], rows[:, 8]), 1.0).reshape(3, 3)
    # Where each pixel of the photo looks: its lens undone, then its perspective.
    yy, xx = np.mgrid[0:height, 0:width].astype(float)
    half = max(width, height) / 2.0
    u, v = (xx - width / 2) / half, (yy - height / 2) / half
    straight = 1.0 + maker.barrel * (u * u + v * v)  # barrel: what is seen at r came from further out
    p = np.stack([u * straight * half + width / 2, v * straight * half + height / 2, np.ones_like(u)])
    q = np.tensordot(np.linalg.inv(to), p, 1)
    sharp = ndimage.gaussian_filter(scene, (0.8, 0.8, 0))
    seen = np.stack(
        [ndimage.map_coordinates(sharp[..., k], [q[1] / q[2], q[0] / q[2]], order=1, mode="nearest") for k in range(3)],
        -1,
    )
    exposure = brightest / float(np.quantile(means, 0.9))
    seen = seen * exposure
    wide = (
        ndimage.gaussian_filter(np.minimum(seen, 30.0), (9.0, 9.0, 0)) * 0.8
        + ndimage.gaussian_filter(np.minimum(seen, 30.0), (45.0, 45.0, 0)) * 0.2
    )
    seen = (1.0 - maker.bloom) * seen + maker.bloom * wide
    r2 = ((xx - width / 2) ** 2 + (yy - height / 2) ** 2) / (maker.focal * width) ** 2
    seen = seen * ((1.0 + r2) ** -2)[..., None] * np.array(maker.balance)
    seen = seen + rng.normal(0.0, 1.0, seen.shape) * np.sqrt(0.0008**2 + np.maximum(seen, 0.0) / 30_000.0)
    if maker.local:
        around = ndimage.gaussian_filter(np.minimum(seen, 1.0).mean(axis=-1), 30.0)[..., None]
        seen = seen * ((around + 0.01) / 0.05) ** -maker.local
    code = (curve(maker, seen) * 255.0 + 0.5).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(code).save(out, "JPEG", quality=maker.quality)
    code = np.asarray(Image.open(out).convert("RGB"))
    marks = []
    for i in landmarks(plan, assessment, side):
        x, y, w = to @ np.append((places[i] - low) * scale, 1.0)
        at = np.array([x / w - width / 2, y / w - height / 2]) / half
        bent = at.copy()
        for _ in range(20):
            bent = at / (1.0 + maker.barrel * float(bent @ bent))
        px = bent * half + [width / 2, height / 2] + rng.normal(0.0, stray_px, 2)
        marks.append(
            PhotoMark(on=i, at=(float(np.clip(px[0] / (width - 1), 0, 1)), float(np.clip(px[1] / (height - 1), 0, 1))))
        )
    return Shot(code, Laid(side=side, marks=tuple(marks)), tuple(planted))
