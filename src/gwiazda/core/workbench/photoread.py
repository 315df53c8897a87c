"""A photo of the lit model in the dark, read: each opening's light beside what was predicted, what leaks, which colour it has.

The photo lies on a view by the middles of a few openings; the rest of them pull it straight. Its exposure is fitted so that most
openings look as predicted, or taken from a patch of known grey. sRGB is assumed of the camera, which is only roughly so.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.light.picture import night_luminance
from gwiazda.core.assess.light.scene import pane_strips
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import hidden_lamps, section_at
from gwiazda.core.errors import PlanError
from gwiazda.core.light import photograph as ph
from gwiazda.core.light.glare import WEIGHT, sigmas_mm, spread
from gwiazda.core.light.render import Camera
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.plan.frame import NORMALS, Side, from_sheet, to_sheet
from gwiazda.core.plan.model import Laid, Mark, Opening, Plan
from gwiazda.core.quantities import counted, figure

Array = npt.NDArray[np.float64]
LANDMARKS = 4
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
MARK_PX, MIDDLE_PX = (
    0.0025,
    0.4,
)  # one sigma: of a mark dragged by hand, in lengths of the photo; of an opening's middle
ROUNDS = 10
THIN, LONG = 0.08, 0.6  # of landmarks: width over length, and length over all that shines
LEAST_GREY = 0.01  # of full scale: a darker patch tells nothing
UNWANTED = 0.1  # of the row's light, in a pane that should be dark
LOCK = (
    "Lock exposure and white balance on the lit windows before the first photo, dark room, camera on something firm, "
    "no flash, no night mode; one photo so that no pane is burnt out, a second one longer for leaks."
)


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
    def told(self) -> tuple[PaneRead, ...]:
        """The openings that count."""
        return tuple(p for p in self.panes if p.counts)


class Glow(NamedTuple):
    """Something that shines in a view and is told from its surroundings: its middle and half its size on the sheet, mm."""

    id: str
    at: tuple[float, float]
    half: tuple[float, float]


def glows_of(plan: Plan, found: Assessment, side: Side) -> tuple[Glow, ...]:
    """Lit openings, tips of fibres and lamps seen themselves that face the viewer."""
    out = [Glow(o.id, _sheet(o), (o.width_mm / 2, o.height_mm / 2)) for o in _lit(plan, found, side)]
    for d in plan.dots:
        tip = found.tips.get(d.id)
        if d.side == side and tip is not None and tip.cd > 0:
            half = found.catalogue.fibres[d.fibre].diameter_mm / 2
            out.append(Glow(d.id, to_sheet(side, d.at)[:2], (half, half)))
    hidden = hidden_lamps(plan.lamps, plan.sections, side)
    for p in plan.lamps:
        aims = p.frosted_cap or sum(a * n for a, n in zip(p.aim, NORMALS[side], strict=True)) > 0.2
        if p.mount == "outside" and aims and p.id not in hidden and found.lamps[p.id].axial_cd > 0:
            half = found.catalogue.lamps[p.part].face_mm / 2
            out.append(Glow(p.id, to_sheet(side, p.at)[:2], (half, half)))
    return tuple(out)


def _lit(plan: Plan, found: Assessment, side: Side) -> list[Opening]:
    states = found.openings
    return [
        o for o in plan.openings if o.side == side and o.lit > 0 and o.id in states and states[o.id].luminance_cd_m2 > 0
    ]


def _sheet(o: Opening) -> tuple[float, float]:
    right, down, _ = to_sheet(o.side, o.at)
    return right, down


def landmarks(plan: Plan, found: Assessment, side: Side) -> tuple[str, ...]:
    """Four of what shines, far apart, in reading order; two where all lie in a line; none where fewer than two do."""
    lit = glows_of(plan, found, side)
    # Panes are the easiest to hit with a mark; a tip may be too faint to see, and a bare lamp blinds the camera.
    every = np.array([g.at for g in lit]).reshape(-1, 2)
    long = float(np.ptp(every, axis=0).max()) if len(lit) else 0.0
    for kinds in (found.openings, {**found.openings, **found.tips}):
        calm = tuple(g for g in lit if g.id in kinds)
        spots = np.array([g.at for g in calm]).reshape(-1, 2)
        if len(calm) >= LANDMARKS and _thin(spots) > THIN and float(np.ptp(spots, axis=0).max()) > LONG * long:
            lit = calm
            break
    if len(lit) < 2:
        return ()
    at = np.array([o.at for o in lit])
    corners = dict.fromkeys(int(np.argmax(at @ np.array(d))) for d in ((-1, -1), (1, -1), (1, 1), (-1, 1)))
    # The longest diagonal first, then what lies farthest off it on either side.
    apart = np.linalg.norm(at[:, None, :] - at[None, list(corners), :], axis=2)
    i, k = np.unravel_index(int(np.argmax(apart)), apart.shape)
    a, b = at[int(i)], at[list(corners)[int(k)]]
    way = (b - a) / max(float(np.linalg.norm(b - a)), 1e-9)
    off = (at - a) @ np.array([-way[1], way[0]])
    first, last = int(i), list(corners)[int(k)]
    sides = [int(np.argmin(off)), int(np.argmax(off))]
    long = float(np.linalg.norm(b - a))
    four = [n for n in dict.fromkeys([first, last, *sides]) if n in (first, last) or abs(off[n]) > 0.01 * long]
    if len(four) == 3:  # one of the ends has all on one side: the farthest from the three others
        rest = [n for n in range(len(lit)) if n not in four]
        if rest:
            least = [_spread(at, [*four, n]) for n in rest]
            best = int(np.argmax(least))
            if least[best] > 1e-3:
                four.append(rest[best])
    if len(four) < LANDMARKS or _spread(at, four) < 1e-3:
        four = [first, last]  # all in a line
    middle = at[four].mean(axis=0)
    return tuple(lit[n].id for n in sorted(four, key=lambda n: (at[n, 1] > middle[1], at[n, 0])))


def _thin(points: Array) -> float:
    """How wide points lie across the line that fits them best, over how long: 0 for such in a line."""
    size = np.linalg.svd(points - points.mean(axis=0), compute_uv=False)
    return float(size[1] / size[0]) if size[0] > 0 else 0.0


def _spread(at: Array, four: list[int]) -> float:
    """The smallest triangle of any three of the points, over the square of their extent: 0 where three lie in a line."""
    p = at[four]
    extent = float(np.ptp(p, axis=0).max()) ** 2
    n = len(four)
    areas = [
        abs(float(np.linalg.det(np.stack([p[j] - p[i], p[k] - p[i]])))) / 2.0
        for i in range(n) for j in range(i + 1, n) for k in range(j + 1, n)
    ]  # fmt: skip
    return min(areas) / max(extent, 1e-12)


def laid_on(plan: Plan, found: Assessment, side: Side) -> Laid:
    """Marks to begin with: the landmarks, as if the photo were taken straight on and filled by them."""
    ids = landmarks(plan, found, side)
    if len(ids) < 2:
        raise PlanError("Photo", "fewer than two things shine on this side", "a side with lit openings: light it first")
    by_id = {g.id: g.at for g in glows_of(plan, found, side)}
    at = np.array([by_id[i] for i in ids])
    low, high = at.min(axis=0), at.max(axis=0)
    wide = np.maximum(high - low, 1e-6)
    share = 0.15 + 0.7 * (at - low) / wide
    if high[1] - low[1] < 1e-6:
        share[:, 1] = 0.5
    return Laid(
        side=side, marks=tuple(Mark(on=i, at=(float(x), float(y))) for i, (x, y) in zip(ids, share, strict=True))
    )


def _inside(o: Opening, scale: float) -> Array:
    """Places (N, 2) on the sheet inside an opening, of its size times ``scale``."""
    x, y = _sheet(o)
    cut = pane_strips(o)
    t = (np.arange(GRID) + 0.5) / GRID - 0.5
    u, v = (a.ravel() for a in np.meshgrid(t * o.width_mm, t * o.height_mm))
    within = np.zeros(len(u), dtype=bool)
    for x0, x1, y0, y1 in cut:
        within |= (u >= x0) & (u <= x1) & (v >= y0) & (v <= y1)
    return np.column_stack([x + scale * u[within], y + scale * v[within]])


def _settled(
    linear: ph.Array32, lit: tuple[Glow, ...], marked: Array, px: Array, sigma_px: float
) -> tuple[ph.Fitted, float]:
    """The map by marks (N, 2) on the sheet and the photo, pulled straight by where the openings' light is, from the surest places
    outwards; how far the marks were off (px)."""
    grey = ph.grey_of(linear)
    sheet, half = np.array([g.at for g in lit]), np.array([g.half for g in lit])
    now = ph.laid(marked, px, sigma_px)
    for _ in range(ROUNDS):
        at, unsure = ph.mapped(now.map, sheet), now.sigma_px(sheet)
        seen = np.array([_middle(grey, now.map, n, sheet, half, at, unsure) for n in range(len(lit))]).reshape(-1, 2)
        good = np.isfinite(seen).all(axis=1)
        if not good.any():
            break
        sigma = np.concatenate([np.full(len(marked), sigma_px), np.full(int(good.sum()), MIDDLE_PX)])
        now = ph.laid(np.concatenate([marked, sheet[good]]), np.concatenate([px, seen[good]]), sigma, robust=True)
    return now, float(np.median(np.linalg.norm(ph.mapped(now.map, marked) - px, axis=1)))


def _middle(
    grey: ph.Array32, to_photo: Array, n: int, sheet: Array, half: Array, at: Array, unsure: Array
) -> tuple[float, float]:
    """Where the light of one of them has its middle on the photo; NaN where that can't be told safely."""
    corners = ph.mapped(to_photo, sheet[n] + half[n] * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]))
    size = np.ptp(corners, axis=0)
    near = np.linalg.norm(at - at[n], axis=1)
    near[n] = np.inf
    room = float(near.min()) / 2.0
    slack = 1.0 + 2.5 * float(unsure[n])
    if slack > room or min(size) < 1.0:
        return (math.nan, math.nan)  # its neighbour could be taken for it
    reach = np.minimum(size / 2 + slack, room * 1.2)
    left, top = np.floor(at[n] - reach).astype(int)
    right, bottom = np.ceil(at[n] + reach).astype(int) + 1
    if left < 0 or top < 0 or right > grey.shape[1] or bottom > grey.shape[0]:
        return (math.nan, math.nan)
    part = grey[top:bottom, left:right]
    top_value = float(part.max())
    if top_value < 0.01:
        return (math.nan, math.nan)
    # A burnt-out middle weighs no more than the rest, and what blooms around nothing.
    light = np.maximum(np.minimum(part, 0.9 * top_value) - 0.5 * top_value, 0.0)
    if float((light > 0).sum()) > 3.0 * float(np.prod(size + 3.0)):
        return (math.nan, math.nan)  # it blinds the camera
    yy, xx = np.mgrid[top:bottom, left:right]
    return (float((xx * light).sum() / light.sum()), float((yy * light).sum() / light.sum()))


def read_photo(plan: Plan, found: Assessment, code: ph.Bytes, laid: Laid) -> PhotoReading:
    """Read a photo (h, w, 3) of sRGB code values.

    Raises
    ------
    PlanError
        Where the marks don't lay it on the view, or nothing of it can be told.
    """
    by_id = {o.id: o for o in plan.openings}
    glows = glows_of(plan, found, laid.side)
    places = {o.id: _sheet(o) for o in plan.openings if o.side == laid.side} | {g.id: g.at for g in glows}
    marks = [m for m in laid.marks if m.on in places]
    size = np.array([code.shape[1], code.shape[0]], dtype=float)
    if min(code.shape[:2]) < 16:
        raise PlanError("Photo", f"{code.shape[1]} × {code.shape[0]} px", "a larger one")
    linear = ph.developed(code)
    marked = np.array([places[m.on] for m in marks]).reshape(-1, 2)
    px = np.array([m.at for m in marks]).reshape(-1, 2) * (size - 1.0)
    try:
        fitted, off_px = _settled(linear, glows, marked, px, MARK_PX * float(size.max()))
    except (ValueError, np.linalg.LinAlgError) as error:
        raise PlanError("Photo", f"its marks don’t lay it on the view: {error}", "each mark on its opening") from None
    lit = _lit(plan, found, laid.side)
    to_photo = fitted.map
    dark = _dark(linear)
    sheet = _Sheet(plan, found, laid.side, to_photo, code.shape[1], code.shape[0])
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
    r_px = np.array([np.linalg.norm(ph.mapped(to_photo, np.array(_sheet(by_id[p.id]))) - middle) for p in good])
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
            found.openings[p.id].luminance_cd_m2,
            sheet.camera,
        )
        for p in raw
    )
    cast = _cast(panes, plan, found, laid.side)
    wanted = UNWANTED * float(np.median([p.said_cd_m2 for p in panes]))
    shown = {o.id for o in lit}
    unlit = [o for o in plan.openings if o.side == laid.side and o.id not in shown]
    dark_ones = [
        _levelled(r, o, to_photo, field, level)
        for o in unlit if (r := _raw(o, code, linear, to_photo, dark, sheet)) is not None and r.across_px >= SMALLEST_PX
    ]  # fmt: skip
    unwanted = tuple(p for p in dark_ones if p.read_cd_m2 - OVER * p.said_cd_m2 > wanted)
    leaks, floor = _leaks(plan, found, sheet, linear, fitted, dark, field, level)
    return PhotoReading(
        laid.side, to_photo, panes, unwanted, leaks, floor, exposure._replace(per_cd_m2=level), laid.grey_lux is not None, cast,
        off_px, float(field[0, 0]),
    )  # fmt: skip


class _Sheet:
    """The view as predicted at the photo's scale, tight: luminance (h, w) in cd/m², and where the hull is."""

    def __init__(self, plan: Plan, found: Assessment, side: Side, to_photo: Array, width: int, height: int) -> None:
        self.side = side
        self.camera = sheet_camera(plan, found, side, to_photo, width, height)
        said, relief = night_luminance(plan, found, side, self.camera, leaks=False)
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
    x, y = _sheet(o)
    half = np.array([o.width_mm, o.height_mm]) / 2
    corners = ph.mapped(to_photo, np.array([x, y]) + half * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]]))
    across = min(float(np.linalg.norm(corners[1] - corners[0])), float(np.linalg.norm(corners[3] - corners[0])))
    mean = values.mean(axis=0) - dark
    grey = float(ph.grey_of(mean))
    rgb = tuple(float(v) / grey for v in mean) if grey > 0 else (1.0, 1.0, 1.0)
    return PaneRead(o.id, max(grey, 0.0), sheet.at(inside), clipped, across, rgb)  # type: ignore[arg-type]


def _levelled(p: PaneRead, o: Opening, to_photo: Array, field: ph.Array32, level: float) -> PaneRead:
    x, y = np.rint(ph.mapped(to_photo, np.array(_sheet(o)))).astype(int)
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
    left, right, top, bottom = cut[:, 0] + w / 2, cut[:, 1] + w / 2, cut[:, 2] + h / 2, cut[:, 3] + h / 2
    picture = spread(left, right, top, bottom, np.ones(len(cut)), sigma, np.array(WEIGHT), w, h)
    x, y = _sheet(o)
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


def _cast(panes: tuple[PaneRead, ...], plan: Plan, found: Assessment, side: Side) -> tuple[float, float, float]:
    """Red, green and blue over what the lamps of the openings' sections would give, the median of those that count."""
    said: dict[str, Array] = {}
    for state in found.lamps.values():
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


def _leaks(
    plan: Plan, found: Assessment, sheet: _Sheet, linear: ph.Array32, fitted: ph.Fitted, dark: ph.Array32, field: ph.Array32,
    level: float,
) -> tuple[tuple[LeakRead, ...], float]:  # fmt: skip
    """Light on the hull that neither an opening nor a lamp outside explains, and the luminance from which it would be seen."""
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
    looked &= ~_explained(plan, found, side, camera)
    room = float(np.median(predicted[looked])) if looked.any() else 0.0
    from scipy import ndimage

    # A bloom is steep: what lies a few pixels off in the photo isn't to be taken for a leak.
    around = ndimage.maximum_filter(predicted, 2 * ASTRAY_PX + 1)
    left = np.where(looked, seen - OVER * np.maximum(around - room, 0.0), 0.0).astype(np.float32)
    least = 0.5 * visible_luminance(found.hull_cd_m2)
    found_spots, floor = ph.spots(left, looked, least)
    out = []
    for s in found_spots:
        right, down = (
            camera.origin_mm[0] + (s.x + 0.5) / camera.scale,
            camera.origin_mm[1] + (s.y + 0.5) / camera.scale,
        )
        out.append(_leak(plan, found, side, camera, s, right, down))
    return tuple(out), floor


def _leak(plan: Plan, found: Assessment, side: Side, camera: Camera, s: ph.Spot, right: float, down: float) -> LeakRead:
    known = ""
    for leak in found.leaks:
        x, y, _ = to_sheet(side, leak.at)
        if leak.face == side and math.hypot(x - right, y - down) < AS_PREDICTED_MM and leak.times >= 1.0:
            known = leak.id
    size = ((s.right - s.left) / camera.scale, (s.bottom - s.top) / camera.scale)
    return LeakRead(
        right, down, from_sheet(side, right, down), size, s.peak, s.mean, s.peak / visible_luminance(found.hull_cd_m2),
        section_at(plan, side, right, down) or "", known,
    )  # fmt: skip


def sheet_camera(plan: Plan, found: Assessment, side: Side, to_photo: Array, width: int, height: int) -> Camera:
    """The part of a view's sheet that a photo shows, at about the photo's own scale."""
    from gwiazda.core.assess.light.scene import surfaces_of

    surfaces = surfaces_of(found.catalogue, plan, side)
    points = np.concatenate([s.polygon for s in surfaces]) if surfaces else np.array([_sheet(o) for o in plan.openings])
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


def _explained(plan: Plan, found: Assessment, side: Side, camera: Camera) -> npt.NDArray[np.bool_]:
    """Pixels of the sheet within an opening, a fibre's tip or a lamp seen itself, their edges among them."""
    out = np.zeros((camera.height, camera.width), dtype=bool)
    edge = EDGE_MM * camera.scale + EDGE_PX

    def stamp(right: float, down: float, half_w: float, half_h: float) -> None:
        x, y = (right - camera.origin_mm[0]) * camera.scale, (down - camera.origin_mm[1]) * camera.scale
        a, b = half_w * camera.scale + edge, half_h * camera.scale + edge
        out[max(int(y - b), 0) : max(int(y + b) + 1, 0), max(int(x - a), 0) : max(int(x + a) + 1, 0)] = True

    for o in plan.openings:
        if o.side == side:
            stamp(*_sheet(o), o.width_mm / 2, o.height_mm / 2)
    for d in plan.dots:
        right, down, _ = to_sheet(side, d.at)
        stamp(right, down, 0.5, 0.5)
    for lamp in plan.lamps:
        if lamp.mount == "outside":
            right, down, _ = to_sheet(side, lamp.at)
            part = found.catalogue.lamps[lamp.part]
            stamp(right, down, part.face_mm, part.face_mm)
    return out


def cast_words(cast: tuple[float, float, float]) -> str:
    """A colour cast in words; empty where there is hardly any."""
    red, _, blue = (x / cast[1] if cast[1] > 0 else 1.0 for x in cast)
    if max(abs(math.log(max(red, 1e-3))), abs(math.log(max(blue, 1e-3)))) < 0.2:
        return ""
    if red > 1.0 >= blue:
        return "warmer than predicted"
    if blue > 1.0 >= red:
        return "cooler than predicted"
    return "greener than predicted" if red < 1.0 else "pinker than predicted"


def by_section(plan: Plan, reading: PhotoReading) -> Mapping[str, float]:
    """What each section's openings give over what was predicted, the median of those that count."""
    by_id = {o.id: o.section for o in plan.openings}
    groups: dict[str, list[float]] = {}
    for p in reading.told:
        groups.setdefault(by_id[p.id], []).append(p.ratio)
    return {k: float(np.median(v)) for k, v in groups.items()}


def summary(plan: Plan, reading: PhotoReading) -> str:
    """A photo's reading in a few sentences, for the log."""
    names = {s.id: s.name for s in plan.sections}
    told, burnt = reading.told, sum(p.clipped >= BURNT for p in reading.panes)
    words = [f"{counted(len(told), 'opening')} told"]
    if told:
        ratios = np.array([p.ratio for p in told])
        within = float(np.mean(np.abs(ratios - 1.0) <= 0.1))
        words[0] += f", {within * 100:.0f} % of them within 10 % of what was predicted"
        worst = max(told, key=lambda p: abs(math.log(max(p.ratio, 1e-6))))
        if abs(worst.ratio - 1.0) > 0.15:
            words.append(f"farthest off {worst.id}: {figure(worst.ratio)} ×")
    if burnt:
        words.append(f"{counted(burnt, 'opening')} burnt out")
    words += [f"{names.get(k, k)} {figure(v)} ×" for k, v in by_section(plan, reading).items() if abs(v - 1.0) > 0.1]
    words += [f"{p.id} is lit and should be dark" for p in reading.unwanted[:3]]
    new = [x for x in reading.leaks if not x.predicted]
    if math.isinf(reading.floor_cd_m2):
        words.append("leaks not looked for: too few lit openings, or all in a line, to lay it on safely")
    elif reading.leaks:
        words.append(f"{counted(len(reading.leaks), 'leak')}, {len(new)} not predicted")
    else:
        words.append(f"no leak over {figure(reading.floor_cd_m2)} cd/m² to be seen in it")
    cast = cast_words(reading.cast)
    if cast:
        words.append(cast)
    words.append("by the grey patch" if reading.absolute else "exposure fitted to the prediction")
    return "; ".join(words) + "."
