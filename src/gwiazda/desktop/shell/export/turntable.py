"""The model from anywhere as files: a picture, or once round it as an animated one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from gwiazda.core.assess.show.playing import controller_of
from gwiazda.core.errors import PlanError
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render.tone import middle_luminance, screen_table
from gwiazda.desktop.plate.round.frame import Renderer, Wish
from gwiazda.desktop.plate.round.view import STANDS
from gwiazda.desktop.shell.export.preview import Bytes, Progress, image_of, write_frames
from gwiazda.desktop.svg_trial import shown
from gwiazda.desktop.theme.palette import BENCH

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment

QUARTER = STANDS[1]
TURN_HZ = 12.0  # frames a second of a turntable
FRAMES = 36
STILL, MOVING = (".png",), (".gif", ".apng")


def _renderer(file: PlanFile) -> Renderer:
    from gwiazda.core.render.round import load_kernel

    load_kernel()
    for view in file.plan.views:
        if view.drawing is not None and view.drawing.picture in file.pictures:
            shown(file.pictures[view.drawing.picture], wait=True)
    return Renderer()


def _wish(file: PlanFile, assessment: Assessment, azimuth: float, height: float, near: float, size: tuple[int, int], weights: Mapping[str, float]) -> Wish:  # fmt: skip
    return Wish(file.plan, assessment, azimuth, height, near, size, 1, BENCH, dict(file.pictures), dict(weights))


def round_image(
    file: PlanFile, assessment: Assessment, size: tuple[int, int], azimuth: float = QUARTER.azimuth_deg, height: float = QUARTER.height_deg,
    near: float = 1.0, weights: Mapping[str, float] | None = None,
) -> QImage:  # fmt: skip
    """The model in the dark from an eye."""
    frame = _renderer(file)(_wish(file, assessment, azimuth, height, near, size, weights or {}))
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    return image_of(frame.picture.frame(table))


def turning_images(file: PlanFile, assessment: Assessment, size: tuple[int, int], count: int) -> Iterator[QImage]:
    """Pictures once round the model, from the height of the quarter."""
    for pixels in turning(file, assessment, size, count, QUARTER.azimuth_deg, QUARTER.height_deg, 1.0):
        yield image_of(pixels)


def turning(
    file: PlanFile, assessment: Assessment, size: tuple[int, int], count: int, azimuth: float, height: float, near: float, every: int = 1
) -> Iterator[Bytes]:  # fmt: skip
    """Frames (H, W, 4), B G R 255, once round the model while the show plays; each ``every``-th of ``count``."""
    renderer, controller = _renderer(file), controller_of(file.plan, assessment)
    names = controller.score.names
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    for k in range(0, count, every):
        weights = dict(zip(names, controller.to(k / TURN_HZ).tolist(), strict=True))
        frame = renderer(_wish(file, assessment, azimuth + 360.0 * k / count, height, near, size, weights))
        yield np.asarray(frame.picture.frame(table))


def write_round(
    file: PlanFile, assessment: Assessment, path: Path, size: tuple[int, int] = (1280, 720), azimuth: float = QUARTER.azimuth_deg,
    height: float = QUARTER.height_deg, near: float = 1.0, frames: int = FRAMES, progress: Progress = lambda share: True,
    weights: Mapping[str, float] | None = None,
) -> Path:  # fmt: skip
    """Write the model from an eye as ``.png``, or once round it as ``.gif`` or ``.apng``.

    Raises
    ------
    PlanFileError
        For another suffix.
    PlanError
        For too few or too many frames, nothing to look at, or when it was stopped.
    """
    kind = path.suffix.lower()
    if kind not in STILL + MOVING:
        raise refuse_ending(path, "The round view", ".png, or .gif and .apng for a turntable")
    if not file.plan.sections:
        raise PlanError("Round", "there is nothing to walk round yet", "a plan with a section")
    if kind in STILL:
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        round_image(file, assessment, size, azimuth, height, near, weights).save(buffer, "PNG")  # type: ignore[call-overload]
        write_atomically(path, bytes(buffer.data().data()))
        return path
    if not 4 <= frames <= 180:
        raise PlanError("Turntable", f"{frames} frames", "4 to 180; 36 or 72 are usual")
    samples = [
        f.copy() for f in turning(file, assessment, size, frames, azimuth, height, near, every=max(frames // 4, 1))
    ]
    write_frames(
        path, turning(file, assessment, size, frames, azimuth, height, near), frames, samples, TURN_HZ, progress
    )
    return path
