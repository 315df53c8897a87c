"""A photo of the lit model in the dark, read: each opening's light beside what was predicted, what leaks, which colour it has.

The photo lies on a view by the middles of a few openings; the rest of them pull it straight. Its exposure is fitted so that most
openings look as predicted, or taken from a patch of known grey. sRGB is assumed of the camera, which is only roughly so.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.night.picture import night_luminance
from gwiazda.core.assess.night.scene import pane_strips
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import section_at
from gwiazda.core.errors import PlanError
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.plan.frame import Side, from_sheet, to_sheet
from gwiazda.core.plan.model import Laid, Opening, Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render.glare import WEIGHT, Blur, Rects, sigmas_mm, spread
from gwiazda.core.render.layers import Camera
from gwiazda.core.workbench.photo.photomarks import MARK_PX, glows_of, lit_of, settled, sheet_place

Array = npt.NDArray[np.float64]
UNFITTED = 0.12  # one sigma of an opening by a camera whose curve isn't known: ±20 %
GRID = 11  # samples across an opening
INNER = 0.7  # of an opening's width and height: its edge is blurred in any photo
SMALLEST_PX = 3.0  # across: of a smaller pane a photo tells too little
BURNT = 0.02  # of a pane: more of it clipped, and the rest tells nothing either
MOST_VEIL = 0.5  # of its own light: a camera's bloom isn't known that well
MOST_PX = 1_600_000  # of the sheet that leaks are looked for on
EDGE_MM, EDGE_PX = 0.4, 3.0  # round an opening, where light is its own
OVER = 1.4  # times what is predicted there: less is a bloom that was told a little too faint
AS_PREDICTED_MM = 6.0
ASTRAY_PX = 3  # that a place on the sheet may lie off in the photo: where it may be more, leaks aren't looked for
LEAST_GREY = 0.01  # of full scale: a darker patch tells nothing
UNWANTED = 0.1  # of the row's light, in a pane that should be dark


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


class LeakRead(NamedTuple):
    """Light outside of any opening: on the sheet (mm: right, down) and the model, its size, brightest and mean luminance (cd/m²);
    ``times`` over what just shows; ``section`` it is on; ``predicted``: the leak of the assessment it is, or ""."""

    right: float
    down: float
    at: tuple[float, float]
    size_mm: tuple[float, float]
    peak_cd_m2: float
    mean_cd_m2: float
    times: float
    section: str
    predicted: str


class PhotoReading(NamedTuple):
    """What a photo says. ``to_photo`` takes sheet mm to px of the photo; ``absolute``: by a grey patch, else fitted to the prediction."""

    side: Side
    to_photo: Array
    panes: tuple[PaneRead, ...]
    unwanted: tuple[PaneRead, ...]  # lit, that should be dark
    leaks: tuple[LeakRead, ...]
    floor_cd_m2: float  # fainter leaks can't be told in this photo; infinite where none is looked for
    exposure: ph.Exposure
    absolute: bool
    cast: tuple[float, float, float]  # of red, green, blue over what was predicted, their light alike
    off_px: float  # how far the openings lie from where the marks put them, at the median
    corner: float  # share of light that is left in the photo's corners

    @property
    def sigma(self) -> float:
        """One sigma of an opening's logarithm against another's."""
        return UNFITTED

    @property
    def told(self) -> tuple[PaneRead, ...]:
        """The openings that count."""
        return tuple(p for p in self.panes if p.counts)


def _inside(o: Opening, scale: float) -> Array:
    """Places (N, 2) on the sheet inside an opening, of its size times ``scale``."""
    x, y = sheet_place(o)
    cut = pane_strips(o)
    t = (np.arange(GRID) + 0.5) / GRID - 0.5
    u, v = (a.ravel() for a in np.meshgrid(t * o.width_mm, t * o.height_mm))
    within = np.zeros(len(u), dtype=bool)
    for x0, x1, y0, y1 in cut:
        within |= (u >= x0) & (u <= x1) & (v >= y0) & (v <= y1)
    return np.column_stack([x + scale * u[within], y + scale * v[within]])


def read_photo(plan: Plan, assessment: Assessment, code: ph.Bytes, laid: Laid) -> PhotoReading:
    """Read a photo (h, w, 3) of sRGB code values.

    Raises
    ------
    PlanError
        Where the marks don't lay it on the view, or nothing of it can be told.
    """
    by_id = {o.id: o for o in plan.openings}
    glows = glows_of(plan, assessment, laid.side)
    places = {o.id: sheet_place(o) for o in plan.openings if o.side == laid.side} | {g.id: g.at for g in glows}
    marks = [m for m in laid.marks if m.on in places]
    size = np.array([code.shape[1], code.shape[0]], dtype=float)
    if min(code.shape[:2]) < 16:
        raise PlanError("Photo", f"{code.shape[1]} × {code.shape[0]} px", "a larger one")
    linear = ph.developed(code)
    marked = np.array([places[m.on] for m in marks]).reshape(-1, 2)
    px = np.array([m.at for m in marks]).reshape(-1, 2) * (size - 1.0)
    try:
        fitted, off_px = settled(linear, glows, marked, px, MARK_PX * float(size.max()))
    except (ValueError, np.linalg.LinAlgError) as error:
        raise PlanError("Photo", f"its marks don’t lay it on the view: {error}", "each mark on its opening") from None
    lit = lit_of(plan, assessment, laid.side)
    to_photo = fitted.map
    dark = _dark(linear)
    sheet = _Sheet(plan, assessment, laid.side, to_photo, code.shape[1], code.shape[0])
    raw = [r for o in lit if (r := _raw(o, code, linear, to_photo, dark, sheet)) is not None]
    good = [r for r in raw if r.counts and r.read_cd_m2 > 0]
    if not good:
        burnt = sum(r.clipped >= BURNT for r in raw)
        why = (
            f"all {burnt} openings on it are burnt out"
            if burnt and burnt == len(raw)
            else "no opening on it can be told"
        )
        raise PlanError("Photo", why, "a shorter exposure, from nearer")
    middle = (size - 1.0) / 2.0
    r_px = np.array([np.linalg.norm(ph.mapped(to_photo, np.array(sheet_place(by_id[p.id]))) - middle) for p in good])
    exposure = ph.exposure_fitted(
        np.array([p.read_cd_m2 for p in good]), np.array([p.said_cd_m2 for p in good]), r_px, float(size.max())
    )
    field = ph.vignetting(code.shape[0], code.shape[1], exposure.focal_px)
    level = exposure.per_cd_m2
    if laid.grey_lux is not None:
        level = _grey_level(linear, laid, size, field, dark)
    panes = tuple(
        _own(
            _levelled(p, by_id[p.id], to_photo, field, level),
            by_id[p.id],
            assessment.openings[p.id].luminance_cd_m2,
            sheet.camera,
        )
        for p in raw
    )
    cast = _cast(panes, plan, assessment, laid.side)
    wanted = UNWANTED * float(np.median([p.said_cd_m2 for p in panes]))
    shown = {o.id for o in lit}
    unlit = [o for o in plan.openings if o.side == laid.side and o.id not in shown]
    dark_ones = [
        _levelled(r, o, to_photo, field, level)
        for o in unlit if (r := _raw(o, code, linear, to_photo, dark, sheet)) is not None and r.across_px >= SMALLEST_PX
    ]  # fmt: skip
    unwanted = tuple(p for p in dark_ones if p.read_cd_m2 - OVER * p.said_cd_m2 > wanted)
    leaks, floor = _leaks(plan, assessment, sheet, fitted, _Developed(linear, dark, field, level))
    return PhotoReading(
        laid.side, to_photo, panes, unwanted, leaks, floor, exposure._replace(per_cd_m2=level), laid.grey_lux is not None, cast,
        off_px, float(field[0, 0]),
    )  # fmt: skip


class _Sheet:
    """The view as predicted at the photo's scale, tight: luminance (h, w) in cd/m², and where the hull is."""

    def __init__(
        self, plan: Plan, assessment: Assessment, side: Side, to_photo: Array, width: int, height: int
    ) -> None:
        self.side = side
        self.camera = sheet_camera(plan, assessment, side, to_photo, width, height)
        said, relief = night_luminance(plan, assessment, side, self.camera, leaks=False)
        self.grey, self.hull = ph.grey_of(np.moveaxis(said, 0, -1)), relief.reflectance > 0

    def at(self, places: Array) -> float:
        """The mean predicted at places (N, 2) of the sheet, mm; 0 outside of it."""
        px = (places - np.array(self.camera.origin_mm)) * self.camera.scale - 0.5
        return float(np.nan_to_num(ph.sampled(self.grey[..., None], px)).mean())


def _dark(linear: ph.Array32) -> ph.Array32:
    """What the photo shows where nothing is lit (3,): its darkest tenth."""
    part = linear[::4, ::4].reshape(-1, 3)
    return np.asarray(np.percentile(part, 10, axis=0).astype(np.float32))


def _raw(
    o: Opening, code: ph.Bytes, linear: ph.Array32, to_photo: Array, dark: ph.Array32, sheet: _Sheet
) -> PaneRead | None:
    """An opening in linear values of the photo; None where it isn't on it."""
    inside = _inside(o, INNER)
    places = ph.mapped(to_photo, inside)
    values = ph.sampled(linear, places)
    if not np.isfinite(values).all():
        return None
    nearest = code[np.rint(places[:, 1]).astype(int), np.rint(places[:, 0]).astype(int)]
    clipped = float((nearest.max(axis=1) >= ph.CLIPPED).mean())
    x, y = sheet_place(o)
    half = np.array([o.width_mm, o.height_mm]) / 2
    corners = ph.mapped(to_photo, np.array([x, y]) + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]))
    across = min(float(np.linalg.norm(corners[1] - corners[0])), float(np.linalg.norm(corners[3] - corners[0])))
    mean = values.mean(axis=0) - dark
    grey = float(ph.grey_of(mean))
    rgb = tuple(float(v) / grey for v in mean) if grey > 0 else (1.0, 1.0, 1.0)
    return PaneRead(o.id, max(grey, 0.0), sheet.at(inside), clipped, across, rgb)  # type: ignore[arg-type]


def _levelled(p: PaneRead, o: Opening, to_photo: Array, field: ph.Array32, level: float) -> PaneRead:
    x, y = np.rint(ph.mapped(to_photo, np.array(sheet_place(o)))).astype(int)
    return p._replace(read_cd_m2=p.read_cd_m2 / (level * float(field[y, x])))


def _own(p: PaneRead, o: Opening, said_cd_m2: float, camera: Camera) -> PaneRead:
    """An opening's own light alone: what others bloom over it is as predicted, and taken off on both sides."""
    own = said_cd_m2 * _kept(o, camera)
    veil = max(p.said_cd_m2 - own, 0.0)
    read = max(p.read_cd_m2 - veil, 0.0) * said_cd_m2 / max(own, 1e-12)
    return p._replace(read_cd_m2=read, said_cd_m2=said_cd_m2, veil=veil / max(own, 1e-12))


def _kept(o: Opening, camera: Camera) -> float:
    """Share of an opening's own light that stays within the part of it that is read; the rest is spread around it."""
    cut = np.array(pane_strips(o)) * camera.scale
    half = np.array([o.width_mm, o.height_mm]) * camera.scale / 2
    w, h = (math.ceil(2.0 * x) + 2 for x in half)
    sigma = np.sqrt((sigmas_mm(camera.distance_m) * camera.scale) ** 2 + 0.5**2)
    rects = Rects(*(cut + np.array([w, w, h, h]) / 2).T)
    picture = spread(rects, np.ones(len(cut)), Blur(sigma, np.array(WEIGHT)), (w, h))
    x, y = sheet_place(o)
    inside = (_inside(o, INNER) - np.array([x, y])) * camera.scale + np.array([w, h]) / 2 - 0.5
    found = float(np.nanmean(ph.sampled(picture[..., None], inside)))
    return found if found > 0.05 else 1.0


def _grey_level(linear: ph.Array32, laid: Laid, size: Array, field: ph.Array32, dark: ph.Array32) -> float:
    """Linear value of a cd/m² by the patch of known grey: L = ρ·E/π."""
    assert laid.grey_lux is not None
    x, y = np.rint(np.array(laid.grey) * (size - 1.0)).astype(int)
    part = linear[max(y - 2, 0) : y + 3, max(x - 2, 0) : x + 3].reshape(-1, 3)
    value = float(ph.grey_of(part.mean(axis=0) - dark)) / float(field[y, x])
    if value < LEAST_GREY or float(part.max()) > 0.95:
        raise PlanError(
            "Grey patch",
            "it is burnt out there" if value > 0.5 else "it is black there",
            "its mark in the middle of the patch",
        )
    return value / (laid.grey_reflectance * laid.grey_lux / math.pi)


def _cast(panes: tuple[PaneRead, ...], plan: Plan, assessment: Assessment, side: Side) -> tuple[float, float, float]:
    """Red, green and blue over what the lamps of the openings' sections would give, the median of those that count."""
    said: dict[str, Array] = {}
    for state in assessment.lamps.values():
        if state.section and state.flux_lm > 0:
            said[state.section] = said.get(state.section, np.zeros(3)) + state.flux_lm * np.array(state.rgb)
    by_id = {o.id: o for o in plan.openings}
    rows = []
    for p in panes:
        o = by_id[p.id]
        predicted = said.get(o.section)
        if p.counts and predicted is not None and not o.tints:
            rows.append(np.array(p.rgb) / np.maximum(predicted / float(ph.grey_of(predicted.astype(np.float32))), 0.02))
    if not rows:
        return (1.0, 1.0, 1.0)
    middle = np.median(np.array(rows), axis=0)
    return (float(middle[0]), float(middle[1]), float(middle[2]))


class _Developed(NamedTuple):
    """A photo as light: its linear values, those of the dark, the darkening of its corners, and the value of a cd/m²."""

    linear: ph.Array32
    dark: ph.Array32
    field: ph.Array32
    level: float


def _leaks(
    plan: Plan, assessment: Assessment, sheet: _Sheet, fitted: ph.Fitted, photo: _Developed
) -> tuple[tuple[LeakRead, ...], float]:
    """Light on the hull that neither an opening nor a lamp outside explains, and the luminance from which it would be seen."""
    linear, dark, field, level = photo
    side, camera, predicted = sheet.side, sheet.camera, sheet.grey
    grid = np.stack(np.meshgrid(np.arange(camera.width) + 0.5, np.arange(camera.height) + 0.5), axis=-1) / camera.scale
    grid = grid + np.array(camera.origin_mm)
    px = ph.mapped(fitted.map, grid)
    values = ph.sampled(linear, px)
    shade = ph.sampled(field[..., None], px)[..., 0]
    seen = ph.grey_of(values - dark) / (level * shade)
    looked = sheet.hull & np.isfinite(seen) & (np.nan_to_num(values).max(axis=-1) < 0.9)
    step = max(min(looked.shape) // 24, 1)
    unsure = fitted.sigma_px(grid[::step, ::step].reshape(-1, 2)).reshape(grid[::step, ::step].shape[:2])
    looked &= np.repeat(np.repeat(unsure <= ASTRAY_PX, step, axis=0), step, axis=1)[
        : looked.shape[0], : looked.shape[1]
    ]
    if not looked.any():
        return (), math.inf
    looked &= ~_explained(plan, assessment, side, camera)
    room = float(np.median(predicted[looked])) if looked.any() else 0.0
    from scipy import ndimage

    # A bloom is steep: what lies a few pixels off in the photo isn't to be taken for a leak.
    around = ndimage.maximum_filter(predicted, 2 * ASTRAY_PX + 1)
    left = np.where(looked, seen - OVER * np.maximum(around - room, 0.0), 0.0).astype(np.float32)
    least = 0.5 * visible_luminance(assessment.hull_cd_m2)
    found_spots, floor = ph.spots(left, looked, least)
    out = []
    for s in found_spots:
        right, down = (
            camera.origin_mm[0] + (s.x + 0.5) / camera.scale,
            camera.origin_mm[1] + (s.y + 0.5) / camera.scale,
        )
        out.append(_leak(plan, assessment, side, camera, s, right, down))
    return tuple(out), floor


def _leak(
    plan: Plan, assessment: Assessment, side: Side, camera: Camera, s: ph.Spot, right: float, down: float
) -> LeakRead:
    known = ""
    for leak in assessment.leaks:
        x, y, _ = to_sheet(side, leak.at)
        if leak.face == side and math.hypot(x - right, y - down) < AS_PREDICTED_MM and leak.times >= 1.0:
            known = leak.id
    size = ((s.right - s.left) / camera.scale, (s.bottom - s.top) / camera.scale)
    return LeakRead(
        right, down, from_sheet(side, right, down), size, s.peak, s.mean, s.peak / visible_luminance(assessment.hull_cd_m2),
        section_at(plan, side, right, down) or "", known,
    )  # fmt: skip


def sheet_camera(plan: Plan, assessment: Assessment, side: Side, to_photo: Array, width: int, height: int) -> Camera:
    """The part of a view's sheet that a photo shows, at about the photo's own scale."""
    from gwiazda.core.assess.night.scene import surfaces_of

    surfaces = surfaces_of(assessment.catalogue, plan, side)
    points = (
        np.concatenate([s.polygon for s in surfaces]) if surfaces else np.array([sheet_place(o) for o in plan.openings])
    )
    corners = ph.mapped(
        np.asarray(np.linalg.inv(to_photo), dtype=float),
        np.array([[0, 0], [width, 0], [width, height], [0, height]], dtype=float),
    )
    low = np.maximum(points.min(axis=0), corners.min(axis=0)) - 1.0
    high = np.minimum(points.max(axis=0), corners.max(axis=0)) + 1.0
    middle: Array = (low + high) / 2.0
    step = ph.mapped(to_photo, np.asarray(middle + np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]]), dtype=float))
    scale = float(np.sqrt(abs(np.linalg.det(np.stack([step[1] - step[0], step[2] - step[0]])))))
    wide = np.maximum(high - low, 1.0)
    scale = min(scale, math.sqrt(MOST_PX / float(wide.prod())))
    w, h = (max(math.ceil(x * scale), 4) for x in wide)
    return Camera(w, h, (float(low[0]), float(low[1])), scale, plan.room.distance_m)


def _explained(plan: Plan, assessment: Assessment, side: Side, camera: Camera) -> npt.NDArray[np.bool_]:
    """Pixels of the sheet within an opening, a fibre's tip or a lamp seen itself, their edges among them."""
    out = np.zeros((camera.height, camera.width), dtype=bool)
    edge = EDGE_MM * camera.scale + EDGE_PX

    def stamp(right: float, down: float, half_w: float, half_h: float) -> None:
        x, y = (right - camera.origin_mm[0]) * camera.scale, (down - camera.origin_mm[1]) * camera.scale
        a, b = half_w * camera.scale + edge, half_h * camera.scale + edge
        out[max(int(y - b), 0) : max(int(y + b) + 1, 0), max(int(x - a), 0) : max(int(x + a) + 1, 0)] = True

    for o in plan.openings:
        if o.side == side:
            stamp(*sheet_place(o), o.width_mm / 2, o.height_mm / 2)
    for d in plan.dots:
        right, down, _ = to_sheet(side, d.at)
        stamp(right, down, 0.5, 0.5)
    for lamp in plan.lamps:
        if lamp.mount == "outside":
            right, down, _ = to_sheet(side, lamp.at)
            part = assessment.catalogue.lamps[lamp.part]
            stamp(right, down, part.face_mm, part.face_mm)
    return out
