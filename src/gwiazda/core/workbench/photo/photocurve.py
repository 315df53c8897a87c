"""The curve and the colour balance of the camera that took a photo, told by the lit panes on it: how they differ is known best."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.states import Assessment
from gwiazda.core.errors import PlanError
from gwiazda.core.plan.model import Opening
from gwiazda.core.render import photograph as ph
from gwiazda.core.render.camera_curve import (
    BRIGHTEST,
    DARKEST,
    PLAIN,
    Curve,
    CurveFit,
    curve_by_exposures,
    curve_by_steps,
    curve_fitted,
)

Array = npt.NDArray[np.float64]
LEAST_PANES = 6
LEAST_TIMES = 1.5  # the light of one exposure over another's
LEAST_PATCH_PX = 6.0
# The printed grey card: shares of its patches that are black lines, too fine to be seen from where the model is photographed.
STEPS = (0.0, 0.2, 0.4, 0.6, 0.75, 0.85, 0.93, 1.0)
PAPER, INK = 0.85, 0.05  # reflectance of white paper and of black print; house values
PANE, SECTION, HUE = (
    0.06,
    0.15,
    0.20,
)  # one sigma: of a pane in its section, of a section, of one colour channel of a section
BALANCE, LEVEL = 0.4, 20.0  # of a channel against green, of the exposure
CORNER = 0.7  # of the natural darkening of a lens as long as the picture: both the usual and one sigma
FITTED, UNFITTED = 0.04, 0.12  # of a pane against another: by a camera whose curve is known, and ±20 % where it isn't


def reflectance_of(black: float) -> float:
    """What a patch of black lines throws back, by the share they cover (Murray and Davies 1936)."""
    return PAPER * (1.0 - black) + INK * black


class PaneSeen(NamedTuple):
    """A pane on the photo: its decoded value (3,) and its predicted light (3,), how far from the middle (in halves of the longer side)."""

    opening: Opening
    value: Array
    said: Array
    off: float


class Camera(NamedTuple):
    """What the camera that took a photo does: its curve, its channels over green's, one sigma of a pane against another by them."""

    curve: Curve = PLAIN
    balance: tuple[float, float, float] = (1.0, 1.0, 1.0)
    sigma: float | None = None  # None where the curve isn't told
    corners: float | None = None  # darkening over that of a lens as long as the picture; None where that isn't told

    def field(self, height: int, width: int) -> ph.Array32:
        """Share of light (height, width) that the lens leaves."""
        y, x = np.ogrid[:height, :width]
        half = max(height, width) / 2.0
        off2 = ((x - (width - 1) / 2.0) ** 2 + (y - (height - 1) / 2.0) ** 2) / half**2
        return np.exp(-2.0 * (self.corners or 0.0) * np.log1p(off2 / 4.0)).astype(np.float32)

    def linear(self, code: ph.Bytes) -> ph.Array32:
        """Light (h, w, 3) of code values, its white balance taken out."""
        if self.curve == PLAIN and self.balance == (1.0, 1.0, 1.0):
            return ph.developed(code)
        return np.asarray(self.curve.table[code] / np.array(self.balance, dtype=np.float32))


def hues_of(assessment: Assessment) -> dict[str, Array]:
    """The colour (3,) of each section's light at luminance 1, by its lamps."""
    said: dict[str, Array] = {}
    for state in assessment.lamps.values():
        if state.section and state.flux_lm > 0:
            said[state.section] = said.get(state.section, np.zeros(3)) + state.flux_lm * np.array(state.rgb)
    return {k: v / float(ph.grey_of(v.astype(np.float32))) for k, v in said.items()}


def camera_of(panes: list[PaneSeen], known: Curve | None) -> Camera:
    """The camera by the panes of a photo; its curve is taken as ``known`` where it was told by a card or two exposures."""
    rows = [(n, k) for n, p in enumerate(panes) for k in range(3) if DARKEST < p.value[k] < BRIGHTEST and p.said[k] > 0]
    if len({n for n, _ in rows}) < LEAST_PANES:
        return Camera(known or PLAIN, sigma=FITTED if known is not None else None)
    y = np.array([panes[n].value[k] for n, k in rows])
    said = np.log([panes[n].said[k] for n, k in rows])
    of = {s: i for i, s in enumerate(dict.fromkeys(p.opening.section for p in panes))}
    section = np.array([of[panes[n].opening.section] for n, _ in rows])
    channel = np.array([k for _, k in rows])
    off = np.array([panes[n].off for n, _ in rows])
    # Exposure, red and blue against green, and what the lens takes from the corners.
    columns = -np.column_stack([np.ones(len(rows)), channel == 0, channel == 2, -2.0 * np.log1p(off**2 / 4.0)])
    priors = (np.array([0.0, 0.0, 0.0, CORNER]), np.array([LEVEL, BALANCE, BALANCE, CORNER]))
    groups = ((section, SECTION), (section * 3 + channel, HUE), (np.array([n for n, _ in rows]), PANE))
    fit = curve_fitted(y, np.asarray(said), columns, priors, PANE / 2.0, groups)
    if known is not None:
        fit = CurveFit(known, np.zeros((3, 3)), fit.rest)
    red, blue = np.exp(np.clip(fit.rest[1:3], -1.2, 1.2)).tolist()
    # As sure as a pane can be read at all, and half of what the curve leaves open from the darkest to the brightest.
    sigma = min(math.hypot(FITTED, 0.5 * fit.sigma(y)), UNFITTED)
    return Camera(fit.curve, (float(red), 1.0, float(blue)), sigma, max(float(fit.rest[3]), 0.0))


def curve_of_pair(first: Mapping[str, Array], second: Mapping[str, Array], times: float) -> Curve:
    """The camera's curve by two photos of the same panes: decoded values (3,) by opening, and how many times the light the second took in.

    Raises
    ------
    PlanError
        Where too few panes can be told in both.
    """
    if times < 1.0:
        first, second, times = second, first, 1.0 / times
    if times < LEAST_TIMES:
        raise PlanError(
            "Two exposures", "they are too nearly alike", f"one {LEAST_TIMES:g} times as long as the other, or more"
        )
    both = [i for i in first if i in second]
    a, b = (np.array([x[i] for i in both]).ravel() for x in (first, second))
    try:
        return curve_by_exposures(a, b, times).curve
    except ValueError as error:
        raise PlanError("Two exposures", str(error), "one short and one longer, neither burnt out") from None


def curve_of_card(code: ph.Bytes, steps: tuple[tuple[float, float], tuple[float, float]]) -> Curve:
    """The camera's curve by a photo of the printed grey card: the middles of its first and last patch, shares of the photo.

    Raises
    ------
    PlanError
        Where its patches can't be told.
    """
    size = np.array([code.shape[1], code.shape[0]], dtype=float) - 1.0
    ends = np.array(steps) * size
    apart = float(np.linalg.norm(ends[1] - ends[0])) / (len(STEPS) - 1)
    if apart < LEAST_PATCH_PX:
        raise PlanError(
            "Grey card",
            "its marks lie too near to each other",
            "one in the middle of its first and one of its last patch",
        )
    plain, half = ph.developed(code), max(int(0.25 * apart), 1)
    y = []
    for share in np.linspace(0.0, 1.0, len(STEPS)):
        u, v = np.rint(ends[0] + share * (ends[1] - ends[0])).astype(int)
        part = plain[max(v - half, 0) : v + half + 1, max(u - half, 0) : u + half + 1]
        y.append(float(ph.grey_of(part.reshape(-1, 3).mean(axis=0))))
    light = np.array([reflectance_of(a) for a in STEPS])
    values = np.array(y)
    if values[0] < values[-1]:
        light = light[::-1]
    if not (np.diff(values) * np.diff(light) > 0).all():
        raise PlanError(
            "Grey card",
            "its patches don’t grow darker one by one",
            "a mark in the middle of its first and of its last patch, and even light",
        )
    try:
        return curve_by_steps(values, light).curve
    except ValueError as error:
        raise PlanError("Grey card", str(error), "the card filled with even light, not burnt out") from None
