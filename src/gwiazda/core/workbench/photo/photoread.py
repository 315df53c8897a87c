"""A photo of the lit model in the dark, read: each opening's light beside what was predicted, what leaks, which colour it has.

The photo lies on a view by the middles of a few openings; the rest of them pull it straight, and tell what its lens bends. Its camera's curve and
colour balance are told by the panes, by a card or by two exposures; its exposure is fitted so that most openings look as predicted, or taken from
a patch of known grey.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.frame import Side
from gwiazda.core.plan.model import Laid, Opening, Plan
from gwiazda.core.render import photograph as ph
from gwiazda.core.render import photomap as pm
from gwiazda.core.render.camera_curve import Curve
from gwiazda.core.workbench.photo.photocurve import UNFITTED, Camera, PaneSeen, camera_of, curve_of_pair, hues_of
from gwiazda.core.workbench.photo.photoleaks import Developed, LeakRead, leaks_on
from gwiazda.core.workbench.photo.photomarks import MARK_PX, Glow, glows_of, lit_of, settled, sheet_place
from gwiazda.core.workbench.photo.photopanes import (
    BURNT,
    INNER,
    SMALLEST_PX,
    PaneRead,
    Photo,
    bloom_of,
    halves_of,
    inside_of,
    kept_of,
    pane_seen,
    unbloomed,
)
from gwiazda.core.workbench.photo.photosheet import Sheet

Array = npt.NDArray[np.float64]
LEAST_GREY = 0.01  # of full scale: a darker patch tells nothing
UNWANTED = 0.1  # of the row's light, in a pane that should be dark
OVER = 1.4


class PhotoReading(NamedTuple):
    """What a photo says. ``to_photo`` takes sheet mm to px of the photo; ``absolute``: by a grey patch, else fitted to the prediction."""

    side: Side
    to_photo: pm.PhotoMap
    panes: tuple[PaneRead, ...]
    unwanted: tuple[PaneRead, ...]  # lit, that should be dark
    leaks: tuple[LeakRead, ...]
    floor_cd_m2: float  # fainter leaks can't be told in this photo; infinite where none is looked for
    exposure: ph.Exposure
    absolute: bool
    cast: tuple[float, float, float]  # of red, green, blue over what was predicted, their light alike
    off_px: float  # how far the openings lie from where the marks put them, at the median
    corner: float  # share of light that is left in the photo's corners
    camera: Camera = Camera()

    @property
    def sigma(self) -> float:
        """One sigma of an opening's logarithm against another's."""
        return self.camera.sigma or UNFITTED

    @property
    def told(self) -> tuple[PaneRead, ...]:
        """The openings that count."""
        return tuple(p for p in self.panes if p.counts)


def laid_on_sheet(
    plan: Plan, assessment: Assessment, plain: ph.Array32, laid: Laid
) -> tuple[pm.Fitted, float, tuple[Glow, ...]]:
    """How a photo's plain linear values lie on its view; how far its marks were off (px); what shines there.

    Raises
    ------
    PlanError
        Where the marks don't lay it on the view.
    """
    glows = glows_of(plan, assessment, laid.side)
    places = {o.id: sheet_place(o) for o in plan.openings if o.side == laid.side} | {g.id: g.at for g in glows}
    marks = [m for m in laid.marks if m.on in places]
    height, width = plain.shape[:2]
    if min(height, width) < 16:
        raise PlanError("Photo", f"{width} × {height} px", "a larger one")
    marked = np.array([places[m.on] for m in marks]).reshape(-1, 2)
    px = np.array([m.at for m in marks]).reshape(-1, 2) * (np.array([width, height], dtype=float) - 1.0)
    try:
        fitted, off_px = settled(plain, glows, marked, px, MARK_PX * float(max(height, width)))
    except (ValueError, np.linalg.LinAlgError) as error:
        raise PlanError("Photo", f"its marks don’t lay it on the view: {error}", "each mark on its opening") from None
    return fitted, off_px, glows


def read_photo(
    plan: Plan, assessment: Assessment, code: ph.Bytes, laid: Laid, curve: Curve | None = None
) -> PhotoReading:
    """Read a photo (h, w, 3) of sRGB code values, by its camera's curve where that is known.

    Raises
    ------
    PlanError
        Where the marks don't lay it on the view, or nothing of it can be told.
    """
    plain = ph.developed(code)
    fitted, off_px, glows = laid_on_sheet(plan, assessment, plain, laid)
    by_id = {o.id: o for o in plan.openings}
    lit = lit_of(plan, assessment, laid.side)
    sheet = Sheet(plan, assessment, laid.side, fitted.map, code.shape[1], code.shape[0])
    if curve is None and laid.curve is not None:
        curve = Curve(*laid.curve)
    camera = _camera(lit, assessment, plain, fitted.map, curve)
    linear = camera.linear(code)
    photo = Photo(code, linear, _dark(linear), fitted.map)
    said = {o.id: s.luminance_cd_m2 for o in plan.openings if (s := assessment.openings.get(o.id)) is not None}
    raw = [r for o in lit if (r := pane_seen(photo, o, said[o.id], halves_of(glows, o.id))) is not None]
    kept = [kept_of(by_id[p.id], sheet) for p in raw]
    bloom = bloom_of(raw, kept)
    raw = [unbloomed(p, k, bloom) for p, k in zip(raw, kept, strict=True)]
    good = [r for r in raw if r.counts and r.read_cd_m2 > 0]
    if not good:
        raise _none_told(raw)
    field, exposure = _exposed(good, photo, by_id, camera)
    if laid.grey_lux is not None:
        size = np.array([code.shape[1], code.shape[0]], dtype=float)
        exposure = exposure._replace(per_cd_m2=_grey_level(linear, laid, size, field, photo.dark))
    level = exposure.per_cd_m2
    panes = tuple(_levelled(p, by_id[p.id], fitted.map, field, level) for p in raw)
    wanted = UNWANTED * float(np.median([p.said_cd_m2 for p in panes]))
    shown = {o.id for o in lit}
    unlit = [o for o in plan.openings if o.side == laid.side and o.id not in shown]
    dark_ones = [
        _levelled(r, o, fitted.map, field, level)
        for o in unlit
        if (r := pane_seen(photo, o, said.get(o.id, 0.0), halves_of(glows, o.id))) is not None and r.across_px >= SMALLEST_PX
    ]  # fmt: skip
    unwanted = tuple(p for p in dark_ones if p.read_cd_m2 - OVER * p.said_cd_m2 > wanted)
    leaks, floor = leaks_on(plan, assessment, sheet, fitted, Developed(linear, photo.dark, field, level, bloom))
    return PhotoReading(
        laid.side, fitted.map, panes, unwanted, leaks, floor, exposure, laid.grey_lux is not None,
        _cast(panes, plan, assessment, camera), off_px, float(field[0, 0]), camera,
    )  # fmt: skip


def _none_told(raw: list[PaneRead]) -> PlanError:
    burnt = sum(r.clipped >= BURNT for r in raw)
    why = f"all {burnt} openings on it are burnt out" if burnt and burnt == len(raw) else "no opening on it can be told"
    return PlanError("Photo", why, "a shorter exposure, from nearer")


def _exposed(
    good: list[PaneRead], photo: Photo, by_id: dict[str, Opening], camera: Camera
) -> tuple[ph.Array32, ph.Exposure]:
    """The darkening of the photo's corners (h, w), and its exposure, at which most openings look as predicted."""
    height, width = photo.code.shape[:2]
    at = np.array([pm.mapped(photo.to_photo, np.array(sheet_place(by_id[p.id]))) for p in good])
    r_px = np.linalg.norm(at - (np.array([width, height], dtype=float) - 1.0) / 2.0, axis=1)
    read, said = np.array([p.read_cd_m2 for p in good]), np.array([p.said_cd_m2 for p in good])
    if camera.corners is None:
        exposure = ph.exposure_fitted(read, said, r_px, float(max(height, width)))
        return ph.vignetting(height, width, exposure.focal_px), exposure
    # Told with the curve, all at once.
    field = camera.field(height, width)
    x, y = np.rint(at).astype(int).T
    ratio = np.log(read / (said * field[y, x]))
    level = float(np.median(ratio))
    return field, ph.Exposure(math.exp(level), math.inf, 1.4826 * float(np.median(np.abs(ratio - level))))


def _levelled(p: PaneRead, o: Opening, to_photo: pm.PhotoMap, field: ph.Array32, level: float) -> PaneRead:
    x, y = np.rint(pm.mapped(to_photo, np.array(sheet_place(o)))).astype(int)
    return p._replace(read_cd_m2=p.read_cd_m2 / (level * float(field[y, x])))


def values_of(lit: list[Opening], plain: ph.Array32, to_photo: pm.PhotoMap) -> dict[str, Array]:
    """Each opening's decoded value (3,) on a photo, those that lie on it."""
    out = {}
    for o in lit:
        values = ph.sampled(plain, pm.mapped(to_photo, inside_of(o, INNER)))
        if np.isfinite(values).all():
            out[o.id] = values.mean(axis=0).astype(float)
    return out


def curve_by_pair(
    plan: Plan, assessment: Assessment, first: tuple[ph.Bytes, Laid], second: tuple[ph.Bytes, Laid], times: float
) -> Curve:
    """The camera's curve by two photos laid on the view, the second of which took in so many times the light.

    Raises
    ------
    PlanError
        Where one of them can't be laid on, or too little is told by both.
    """
    found = []
    for code, laid in (first, second):
        plain = ph.developed(code)
        fitted, _, _ = laid_on_sheet(plan, assessment, plain, laid)
        found.append(values_of(lit_of(plan, assessment, laid.side), plain, fitted.map))
    return curve_of_pair(found[0], found[1], times)


def _camera(
    lit: list[Opening], assessment: Assessment, plain: ph.Array32, to_photo: pm.PhotoMap, curve: Curve | None
) -> Camera:
    """The camera that took it, by the panes on it that can be told."""
    hues, half = hues_of(assessment), max(plain.shape[:2]) / 2.0
    middle = (np.array([plain.shape[1], plain.shape[0]]) - 1.0) / 2.0
    values = values_of(lit, plain, to_photo)
    seen = [
        PaneSeen(
            o, values[o.id], assessment.openings[o.id].luminance_cd_m2 * hues[o.section],
            float(np.linalg.norm(pm.mapped(to_photo, np.array(sheet_place(o))) - middle)) / half,
        )
        for o in lit if o.id in values and not o.tints and o.section in hues
    ]  # fmt: skip
    return camera_of(seen, curve)


def _dark(linear: ph.Array32) -> ph.Array32:
    """What the photo shows where nothing is lit (3,): its darkest tenth."""
    part = linear[::4, ::4].reshape(-1, 3)
    return np.asarray(np.percentile(part, 10, axis=0).astype(np.float32))


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


def _cast(
    panes: tuple[PaneRead, ...], plan: Plan, assessment: Assessment, camera: Camera
) -> tuple[float, float, float]:
    """Red, green and blue over what the lamps of the openings' sections would give, the median of those that count: as the camera has them."""
    said = hues_of(assessment)
    by_id = {o.id: o for o in plan.openings}
    rows = []
    for p in panes:
        o = by_id[p.id]
        predicted = said.get(o.section)
        if p.counts and predicted is not None and not o.tints:
            rows.append(np.array(p.rgb) / np.maximum(predicted, 0.02))
    if not rows:
        return (1.0, 1.0, 1.0)
    middle = np.median(np.array(rows), axis=0) * np.array(camera.balance)
    return (float(middle[0]), float(middle[1]), float(middle[2]))
