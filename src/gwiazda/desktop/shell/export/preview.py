"""The show as an animated picture of the night side: GIF or APNG, written frame by frame, with progress and a way to stop."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtGui import QImage

from gwiazda.core.assess.show.playing import controller_of
from gwiazda.core.errors import PlanError, StoppedError
from gwiazda.core.files import refuse_ending, write_atomically
from gwiazda.core.plan.model import View
from gwiazda.core.plan.storage import PlanFile
from gwiazda.core.render.night import NightPicture
from gwiazda.core.render.tone import middle_luminance, screen_table
from gwiazda.desktop.longjob import Progress
from gwiazda.desktop.plate.night import NightRenderer, Shot, hull_share
from gwiazda.desktop.plate.sheet import area_of, fit
from gwiazda.desktop.svg_trial import shown

if TYPE_CHECKING:
    from PIL.Image import Image as Picture

    from gwiazda.core.assess.states import Assessment

Bytes = npt.NDArray[np.uint8]
FRAME_HZ = 25.0  # GIF counts in hundredths of a second
MOST_S = {".gif": 120.0, ".png": 30.0, ".apng": 30.0}  # all frames of an APNG are in memory at once
SAMPLES = 8  # frames that the colours are chosen from
LEVELS = 32  # steps of each primary that a GIF's colours are looked up by


def image_of(pixels: Bytes) -> QImage:
    """A picture of its own from pixels (H, W, 4), B G R and one unused."""
    high, wide = pixels.shape[:2]
    return QImage(pixels.data, wide, high, wide * 4, QImage.Format.Format_RGB32).copy()


def view_of(file: PlanFile, view_id: str | None) -> View:
    """A view by its id, the first where none is named; raises PlanError for one that isn't there."""
    views = {v.id: v for v in file.plan.views}
    view = views.get(view_id) if view_id else file.plan.views[0]
    if view is None:
        raise PlanError("Preview, view", f"there is no view “{view_id}”", ", ".join(views))
    return view


class Moving(NamedTuple):
    """How large a moving picture is (px), how long (s), and whether it is of dusk and not of the show."""

    size: tuple[int, int] = (960, 480)
    seconds: float = 10.0
    dusk: bool = False


class Still(NamedTuple):
    """A view in the dark, ready to be drawn frame by frame."""

    shot: Shot
    picture: NightPicture
    out: Bytes


def _still(
    file: PlanFile, assessment: Assessment, view: View, size: tuple[int, int], darkest_lux: float | None = None
) -> Still:
    from gwiazda.core.render.night import load_kernel

    load_kernel()
    pictures = dict(file.pictures)
    if view.drawing is not None and view.drawing.picture in pictures:
        shown(pictures[view.drawing.picture], wait=True)
    window = fit(area_of(file.plan, view, pictures), *size, margin_px=0.05 * min(size))
    shot = Shot(file.plan, assessment, view, window, pictures, darkest_lux)
    update = NightRenderer()(shot)
    assert update.picture is not None
    return Still(shot, update.picture, np.empty((size[1], size[0], 4), np.uint8))


Frames = Callable[[float], Iterator[Bytes]]  # so many a second


def frames_of(
    file: PlanFile, assessment: Assessment, view: View, size: tuple[int, int], seconds: float, hz: float
) -> Iterator[Bytes]:
    """Frames (H, W, 4), B G R 255, of the night side as the show is played; each is the same array anew."""
    still = _still(file, assessment, view, size)
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    controller = controller_of(file.plan, assessment)
    names = controller.score.names
    for k in range(max(round(seconds * hz), 1)):
        weights = dict(zip(names, controller.to(k / hz).tolist(), strict=True))
        yield still.picture.frame(table, {c: weights.get(c, 1.0) for c in still.picture.channels}, still.out)


def dusk_of(
    file: PlanFile, assessment: Assessment, view: View, size: tuple[int, int], seconds: float, hz: float
) -> Iterator[Bytes]:
    """Frames as the room goes from noon to the dark; each is the same array anew."""
    from gwiazda.core.light.dusk import LEAST_LX, MOST_LX

    still = _still(file, assessment, view, size, LEAST_LX)
    hull, count = hull_share(still.shot), max(round(seconds * hz), 2)
    for k in range(count):
        lux = MOST_LX * (LEAST_LX / MOST_LX) ** (k / (count - 1))
        still.picture.set_lux(lux)
        yield still.picture.frame(
            screen_table(middle_luminance(hull * lux, file.plan.room.exposure_ev)), None, still.out
        )


def _lookup(samples: list[Bytes]) -> tuple[bytes, Bytes]:
    """256 colours chosen from some frames, and the one for each of 32 x 32 x 32 cells of colour."""
    from PIL import Image

    together = Image.fromarray(np.concatenate([s[::2, ::2, 2::-1] for s in samples]))
    chosen = together.quantize(256, method=Image.Quantize.MAXCOVERAGE)
    steps = (np.arange(LEVELS) * 255 / (LEVELS - 1)).astype(np.uint8)
    cells = np.stack(np.meshgrid(steps, steps, steps, indexing="ij"), axis=-1).reshape(LEVELS, LEVELS * LEVELS, 3)
    nearest = np.asarray(Image.fromarray(cells).quantize(palette=chosen, dither=Image.Dither.NONE), np.uint8).ravel()
    palette = chosen.getpalette() or []
    return bytes(palette[: 256 * 3]), np.ascontiguousarray(nearest)


def _indexed(frame: Bytes, nearest: Bytes) -> Bytes:
    """A frame in the colours chosen."""
    # Rounded to the nearest of 32 steps, as a table: a division for each of a million values takes ten times as long.
    b, g, r = (_STEP[frame[:, :, i]] for i in range(3))
    return np.asarray(nearest[(r << np.uint16(10)) | (g << np.uint16(5)) | b])


_STEP = np.rint(np.arange(256) * (LEVELS - 1) / 255).astype(np.uint16)


def write_preview(
    file: PlanFile,
    assessment: Assessment,
    path: Path,
    view_id: str | None = None,
    moving: Moving = Moving(),  # noqa: B008 – a value that never changes
    progress: Progress = lambda share: True,
) -> Path:
    """Write the show of a view, or a dusk over it, as ``.gif`` or ``.png`` (APNG).

    Raises
    ------
    PlanFileError
        For another suffix.
    PlanError
        For a view that isn't there, a show that is too long, or when it was stopped.
    """
    size, seconds, dusk = moving
    kind = path.suffix.lower()
    if kind not in MOST_S:
        raise refuse_ending(path, "A moving picture", ".gif, .png or .apng")
    if not 0.1 <= seconds <= MOST_S[kind]:
        raise PlanError("Preview", f"{seconds:g} s", f"0.1 to {MOST_S[kind]:g} s as {kind}")
    view = view_of(file, view_id)
    frames: Frames = partial(dusk_of if dusk else frames_of, file, assessment, view, size, seconds)
    samples = [f.copy() for f in frames(min(FRAME_HZ, SAMPLES / seconds))]
    write_frames(path, frames(FRAME_HZ), max(round(seconds * FRAME_HZ), 1), samples, FRAME_HZ, progress)
    return path


def write_frames(
    path: Path, frames: Iterator[Bytes], count: int, samples: list[Bytes], hz: float, progress: Progress
) -> None:  # fmt: skip
    """Write ``count`` frames as ``.gif``, or as an APNG, the colours chosen from ``samples``; raises StoppedError when it was stopped."""
    from PIL import Image

    palette, nearest = _lookup(samples)

    def pictures() -> Iterator[Picture]:
        for k, frame in enumerate(frames):
            if not progress(k / count):
                raise StoppedError
            image = Image.fromarray(_indexed(frame, nearest))
            image.putpalette(palette)
            yield image

    stream = io.BytesIO()
    made = pictures()
    first = next(made)
    options: dict[str, Any] = {"save_all": True, "duration": round(1000 / hz), "loop": 0}
    if path.suffix.lower() == ".gif":
        first.save(stream, "GIF", append_images=made, optimize=False, disposal=1, **options)
    else:
        # Its writer goes through the frames twice, so they are all kept.
        first.save(stream, "PNG", append_images=list(made), compress_level=1, **options)
    write_atomically(path, stream.getvalue())
    progress(1.0)
