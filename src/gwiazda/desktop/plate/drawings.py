"""Pictures of the kit's drawing: dropped, pasted, cleaned, put behind a view."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from gwiazda.core.errors import PlanFileError
from gwiazda.core.files import read_plain
from gwiazda.core.plan.outline.svg_clean import clean_svg
from gwiazda.core.plan.storage import MAX_PICTURE, check_picture, picture_size
from gwiazda.desktop.plate.sheet import MOST_SHOWN_PX
from gwiazda.desktop.svg_trial import shown

if TYPE_CHECKING:
    from gwiazda.desktop.tasks import PlanTask

Picture = tuple[str, bytes, tuple[float, float], int]  # name in the plan, bytes, size in drawing units, things left out
QUICK_BYTES = 200_000


def quick(data: bytes) -> bool:
    """Whether a picture is read in no time: what is raster, and SVG that is small and plain; or wrong, which is said."""
    if data.startswith((b"\x89PNG", b"\xff\xd8")):
        return True
    if len(data) > QUICK_BYTES:
        return False
    try:
        return clean_svg(data, "Picture").plain
    except PlanFileError:
        return True


def take_in(
    task: PlanTask[Picture], path: Path, done: Callable[[str, bytes, tuple[float, float], int], object]
) -> None:
    """Read a picture file, beside the window where that takes long.

    Raises
    ------
    PlanFileError
        For what can't be read at all; what is no picture, too large or damaged is said by the task.
    """
    data = read_plain(path, MAX_PICTURE, "a picture")
    name = re.sub(r"[^A-Za-z0-9._-]", "-", path.name)[-100:] or "drawing"
    task.ask(None, lambda: take_picture(name, data), lambda made: done(*made), at_once=quick(data))


def take_picture(name: str, data: bytes) -> tuple[str, bytes, tuple[float, float], int]:
    """Check a picture's bytes and measure it."""
    check_picture(name, data)
    size = picture_size(data)
    if size is None:
        cleaned = clean_svg(data, f"Picture {name}")
        data, dropped = cleaned.data, cleaned.dropped
        how = shown(data, wait=True)
        if not how:
            raise PlanFileError(f"Picture {name}", "takes too long to draw", "a plainer SVG, or a PNG of it")
        if how.plain:
            box = QSvgRenderer(QByteArray(data)).viewBoxF()
            how = how._replace(size=(box.width(), box.height()))
        if how.size[0] <= 0 or how.size[1] <= 0:
            raise PlanFileError(f"Picture {name}", "has nothing to show", "an SVG with a size")
        return name, data, how.size, dropped
    if size[0] * size[1] > MOST_SHOWN_PX:
        data, size = smaller(name, data, MOST_SHOWN_PX)
    if QImage.fromData(data).isNull():
        raise PlanFileError(f"Picture {name}", "is damaged", "a whole PNG or JPEG")
    return name, data, (float(size[0]), float(size[1])), 0


def smaller(name: str, data: bytes, most_px: int) -> tuple[bytes, tuple[int, int]]:
    """A raster picture brought down to so many px, with its size; raises PlanFileError for one that is damaged."""
    import io
    import warnings

    from PIL import Image

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("PNG", "JPEG")) as picture:
                k = (most_px / (picture.width * picture.height)) ** 0.5
                size = (max(int(picture.width * k), 1), max(int(picture.height * k), 1))
                picture.draft("RGB", size)  # a JPEG is read smaller from the start
                made, out = picture.resize(size, Image.Resampling.BOX), io.BytesIO()
                made.save(out, picture.format or "PNG")
    except (OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError):
        raise PlanFileError(f"Picture {name}", "is damaged", "a whole PNG or JPEG") from None
    return out.getvalue(), size


def png_of(image: QImage) -> bytes:
    """A pasted image as PNG."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())
