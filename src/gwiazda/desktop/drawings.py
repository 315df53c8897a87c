"""Pictures of the kit's drawing: dropped, pasted, cleaned, put behind a view."""

from __future__ import annotations

import re
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan.storage import MAX_PICTURE, check_picture, picture_size
from gwiazda.core.plan.svg_clean import clean_svg
from gwiazda.desktop.svg_trial import shown


def read_picture(path: Path) -> tuple[str, bytes, tuple[float, float], int]:
    """A picture file as (name in the plan, bytes, size in drawing units, things left out).

    Raises PlanFileError with a sentence for what is no picture, too large or damaged.
    """
    try:
        if path.stat().st_size > MAX_PICTURE:
            raise PlanFileError(
                f"Picture {path.name}", f"{path.stat().st_size / 2**20:.0f} MB", f"up to {MAX_PICTURE // 2**20} MB"
            )
        data = path.read_bytes()
    except OSError as error:
        raise PlanFileError(
            f"Picture {path.name}", f"can't be opened ({error.strerror})", "a picture you may read"
        ) from None
    name = re.sub(r"[^A-Za-z0-9._-]", "-", path.name)[-100:] or "drawing"
    return take_picture(name, data)


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
    image = QImage.fromData(data)
    if image.isNull():
        raise PlanFileError(f"Picture {name}", "is damaged", "a whole PNG or JPEG")
    return name, data, (float(image.width()), float(image.height())), 0


def png_of(image: QImage) -> bytes:
    """A pasted image as PNG."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())
