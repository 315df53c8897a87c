"""A picture of the model from an eye, works side and night: what is asked for, what comes of it, and what makes it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtGui import QImage

from gwiazda.core.plan.lookup import standing
from gwiazda.core.turns import give_way
from gwiazda.desktop.theme.palette import Palette

if TYPE_CHECKING:
    from gwiazda.core.assess.night.around import Looked
    from gwiazda.core.assess.night.shine import Lights
    from gwiazda.core.assess.states import Assessment
    from gwiazda.core.plan.model import Plan, View
    from gwiazda.core.render.night import NightPicture
    from gwiazda.core.render.solid import Eye


@dataclass(frozen=True)
class Wish:
    """What is asked of the worker."""

    plan: Plan
    assessment: Assessment
    azimuth_deg: float
    height_deg: float
    near: float
    size: tuple[int, int]
    coarse: int
    palette: Palette
    pictures: dict[str, bytes]
    weights: dict[str, float]
    layered: bool = False  # a picture for each channel, to be weighed anew at every frame; else all at these weights
    opened: frozenset[str] = frozenset()  # sections that are drawn without their roofs on the works side
    darkest_lux: float | None = None  # the darkest room it is to be shown in; the plan's own where None


@dataclass
class Frame:
    """What came of it."""

    wish: Wish
    looked: Looked
    works_looked: Looked  # the same where nothing is opened
    lights: Lights
    picture: NightPicture
    works: QImage
    board: npt.NDArray[np.uint8]  # what ``works`` is drawn on, which has to live as long


class _Sight(NamedTuple):
    """What is seen and how it is painted: all that lamps don't change."""

    eye: Eye
    looked: Looked
    works: Looked
    tone: npt.NDArray[np.float32]
    board: npt.NDArray[np.uint8]
    views: tuple[View, ...]
    of: tuple[Palette, frozenset[str], dict[str, bytes]]


class Renderer:
    """Looks at a plan from an eye; keeps the sight, the lights and the drawings while they stay the same. Lives on its worker's thread."""

    def __init__(self) -> None:
        self._sheets: dict[str, Any] = {}
        self._lights: tuple[Any, Lights] | None = None
        self._sight: _Sight | None = None

    def __call__(self, wish: Wish, overtaken: Callable[[], bool] = lambda: False) -> Frame:
        from gwiazda.core.assess.night import around, shine
        from gwiazda.core.render.round import Haste

        sight = self._seen(wish)
        if self._lights is None or self._lights[0] is not wish.assessment:
            self._lights = (wish.assessment, shine.lights_of(wish.plan, wish.assessment, sight.looked.model))
        lights, moving = self._lights[1], wish.coarse > 1
        give_way()
        weights = None if wish.layered and not moving else wish.weights
        haste = Haste(moving, overtaken, wish.darkest_lux)
        picture = around.night_around(wish.plan, wish.assessment, sight.looked, lights, sight.tone, weights, haste)
        h, w, _ = sight.board.shape
        image = QImage(sight.board.data, w, h, w * 4, QImage.Format.Format_RGB32)
        return Frame(wish, sight.looked, sight.works, lights, picture, image, sight.board)

    def _seen(self, wish: Wish) -> _Sight:
        from gwiazda.core.assess.night import around, solids
        from gwiazda.desktop.plate.round.works import painted, textured

        plan = wish.plan
        model = solids.model_of(plan.sections, plan.openings, standing(plan))
        width, height = (max(s // wish.coarse, 16) for s in wish.size)
        eye = around.eye_for(model, wish.azimuth_deg, wish.height_deg, plan.room.distance_m * 1000.0 / min(wish.near, 1.0), width, height, max(wish.near, 1.0))  # fmt: skip
        of = (wish.palette, wish.opened, wish.pictures)
        kept = self._sight
        if (
            kept is not None
            and kept.eye == eye
            and kept.looked.model is model
            and kept.views is plan.views
            and kept.of == of
        ):
            return kept
        looked = works = around.looked_at(model, eye)
        give_way()
        paint, tone = textured(plan, looked, wish.pictures, self._sheets)
        if wish.opened:
            # In the dark it is seen as it will be, on the works side as it is.
            works = around.looked_at(solids.model_of(plan.sections, plan.openings, standing(plan), wish.opened), eye)
            paint, _ = textured(plan, works, wish.pictures, self._sheets)
        self._sight = _Sight(eye, looked, works, tone, painted(works, paint, wish.palette), plan.views, of)
        return self._sight
