"""The model from anywhere as files: a picture, or once round it as an animated one."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from gwiazda.core.assess.show.playing import controller_of
from gwiazda.core.errors import PlanError
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render.tone import middle_luminance, screen_table
from gwiazda.desktop.longjob import Progress
from gwiazda.desktop.plate.round.frame import Renderer, Wish
from gwiazda.desktop.plate.round.view import STANDS
from gwiazda.desktop.shell.export.preview import Bytes, image_of, write_frames
from gwiazda.desktop.svg_trial import shown
from gwiazda.desktop.theme.palette import BENCH

if TYPE_CHECKING:
    from gwiazda.core.assess.states import Assessment

QUARTER = STANDS[1]
TURN_HZ = 12.0  # frames a second of a turntable
FRAMES = 36
STILL, MOVING = (".png",), (".gif", ".apng")


class Shot(NamedTuple):
    """Where it is looked from, how near (1: all of it fits), and how large the picture is (px)."""

    size: tuple[int, int] = (1280, 720)
    azimuth_deg: float = QUARTER.azimuth_deg
    height_deg: float = QUARTER.height_deg
    near: float = 1.0


def _renderer(file: PlanFile) -> Renderer:
    from gwiazda.core.render.round import load_kernel

    load_kernel()
    for view in file.plan.views:
        if view.drawing is not None and view.drawing.picture in file.pictures:
            shown(file.pictures[view.drawing.picture], wait=True)
    return Renderer()


def _wish(file: PlanFile, assessment: Assessment, shot: Shot, weights: Mapping[str, float]) -> Wish:
    eye = shot.azimuth_deg, shot.height_deg, shot.near
    return Wish(file.plan, assessment, *eye, shot.size, 1, BENCH, dict(file.pictures), dict(weights))


def round_image(
    file: PlanFile, assessment: Assessment, shot: Shot, weights: Mapping[str, float] | None = None
) -> QImage:
    """The model in the dark from an eye."""
    frame = _renderer(file)(_wish(file, assessment, shot, weights or {}))
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    return image_of(frame.picture.frame(table))


def turning_images(file: PlanFile, assessment: Assessment, size: tuple[int, int], count: int) -> Iterator[QImage]:
    """Pictures once round the model, from the height of the quarter."""
    for pixels in turning(file, assessment, Shot(size), count):
        yield image_of(pixels)


def turning(file: PlanFile, assessment: Assessment, shot: Shot, count: int, every: int = 1) -> Iterator[Bytes]:
    """Frames (H, W, 4), B G R 255, once round the model while the show plays; each ``every``-th of ``count``."""
    renderer, controller = _renderer(file), controller_of(file.plan, assessment)
    names = controller.score.names
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    for k in range(0, count, every):
        weights = dict(zip(names, controller.to(k / TURN_HZ).tolist(), strict=True))
        turned = shot._replace(azimuth_deg=shot.azimuth_deg + 360.0 * k / count)
        yield np.asarray(renderer(_wish(file, assessment, turned, weights)).picture.frame(table))


def write_round(
    file: PlanFile, assessment: Assessment, path: Path, shot: Shot = Shot(), frames: int = FRAMES,  # noqa: B008
    progress: Progress = lambda share: True, weights: Mapping[str, float] | None = None,
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
        round_image(file, assessment, shot, weights).save(buffer, "PNG")  # type: ignore[call-overload]
        write_atomically(path, bytes(buffer.data().data()))
        return path
    if not 4 <= frames <= 180:
        raise PlanError("Turntable", f"{frames} frames", "4 to 180; 36 or 72 are usual")
    samples = [f.copy() for f in turning(file, assessment, shot, frames, every=max(frames // 4, 1))]
    write_frames(path, turning(file, assessment, shot, frames), frames, samples, TURN_HZ, progress)
    return path
