"""Pictures of the kit's drawing: dropped, pasted, cleaned, put behind a view."""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QIODevice
from PySide6.QtGui import QImage
from PySide6.QtSvg import QSvgRenderer

from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan.storage import MAX_PICTURE, check_picture, picture_size

_XLINK = "{http://www.w3.org/1999/xlink}href"


def clean_svg(data: bytes, where: str) -> tuple[bytes, int]:
    """An SVG without scripts, event handlers and links to the outside; and how many of those were left out."""
    if re.search(rb"<!(DOCTYPE|ENTITY)", data, re.IGNORECASE):
        raise PlanFileError(where, "the SVG declares entities", "a plain SVG")
    try:
        root = ET.fromstring(data)
    except ET.ParseError as error:
        raise PlanFileError(where, f"is not readable SVG ({error})", "a whole SVG") from None
    dropped = 0
    for parent in list(root.iter()):
        for child in list(parent):
            tag = child.tag.rsplit("}", 1)[-1] if isinstance(child.tag, str) else ""
            link = child.get(_XLINK) or child.get("href") or ""
            outside = bool(link) and not link.startswith(("#", "data:image/"))
            if tag in ("script", "foreignObject") or (tag in ("image", "use", "feImage") and outside):
                parent.remove(child)
                dropped += 1
    for element in root.iter():
        for name in list(element.attrib):
            value = element.attrib[name]
            if name.lower().startswith("on") or (
                name in (_XLINK, "href") and not value.startswith(("#", "data:image/"))
            ):
                del element.attrib[name]
                dropped += 1
    if not dropped:
        return data, 0
    ET.register_namespace("", "http://www.w3.org/2000/svg")
    return ET.tostring(root), dropped


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
        data, dropped = clean_svg(data, f"Picture {name}")
        renderer = QSvgRenderer(QByteArray(data))
        box = renderer.viewBoxF()
        if not renderer.isValid() or box.width() <= 0 or box.height() <= 0:
            raise PlanFileError(f"Picture {name}", "has nothing to show", "an SVG with a size")
        return name, data, (box.width(), box.height()), dropped
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
