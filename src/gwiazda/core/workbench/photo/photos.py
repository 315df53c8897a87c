"""Photos for the log: turned upright, made smaller, and without what the camera wrote into them (place, time, owner)."""

from __future__ import annotations

import io
import re
import warnings
from typing import TYPE_CHECKING, NamedTuple

from gwiazda.core.errors import PlanFileError
from gwiazda.core.quantities import parse_number

if TYPE_CHECKING:
    import numpy as np
    import numpy.typing as npt

LONGEST_PX, QUALITY, CAMERA_QUALITY = 1600, 88, 94
MAX_BYTES, MAX_PX = 64 * 2**20, 120_000_000
KINDS = ("JPEG", "PNG", "WEBP", "TIFF", "BMP")
ACCEPTED = "a JPEG, PNG, WebP or TIFF of up to 64 MB"
_HEIC = re.compile(rb"^....ftyp(hei|hev|mif1|msf1|avif|avis)", re.DOTALL)


def pixels_of(name: str, data: bytes) -> npt.NDArray[np.uint8]:
    """The sRGB code values (h, w, 3) of a photo as it is kept.

    Raises
    ------
    PlanFileError
        When it is no photo.
    """
    import numpy as np
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as image:
            return np.asarray(image.convert("RGB"), dtype=np.uint8)
    except (OSError, ValueError, SyntaxError, EOFError) as error:
        raise PlanFileError(f"Photo {name}", "it isn’t a photo, or is cut short", ACCEPTED) from error


def jpeg_of(pixels: npt.NDArray[np.uint8]) -> bytes:
    """A picture (h, w, 3) of sRGB code values as a camera would save it."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=CAMERA_QUALITY)
    return out.getvalue()


class Taken(NamedTuple):
    """How a photo was taken: the light it took in (s at ISO 100 and f/1; None where it doesn't say), and whether it is of several exposures."""

    exposure: float | None = None
    merged: bool = False


TIME, STOP, ISO, RENDERED, SCENE, EXIF_BLOCK = 33434, 33437, 34855, 41985, 41990, 0x8769
MERGED, NIGHT = (2, 3, 4, 7, 8), 3  # of how it was rendered; of the scene
GAIN_MAP = b"hdrgm:"


def taken(data: bytes) -> Taken:
    """What a photo says of how it was taken; nothing for one that says nothing, or is none."""
    from PIL import Image

    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as image:
            block = image.getexif().get_ifd(EXIF_BLOCK)
            time_s, stop, iso = (float(block.get(tag) or 0.0) for tag in (TIME, STOP, ISO))
            merged = block.get(RENDERED) in MERGED or block.get(SCENE) == NIGHT or GAIN_MAP in data[: 2**18]
    except Exception:  # whatever another program wrote there
        return Taken()
    exposure = time_s * (iso or 100.0) / 100.0 / (stop or 1.0) ** 2
    return Taken(exposure if 0.0 < exposure < 1e6 else None, merged)


def parse_exposure(text: str) -> float | None:
    """How long a photo was exposed, as one writes it: “1/15”, “0.5”, “4”; None for nothing.

    Raises
    ------
    QuantityError
        For anything else.
    """
    if not text.strip():
        return None
    above, _, below = text.replace("s", " ").strip().partition("/")
    value = parse_number(above, "Exposure", 1e-6, 1e6)
    return value / parse_number(below, "Exposure", 1e-6, 1e6) if below else value


def photo_for_log(name: str, data: bytes) -> tuple[str, bytes]:
    """A photo as it is kept: the name with ``.jpg``, and a JPEG of at most ``LONGEST_PX`` px on its longer side, upright.

    Raises
    ------
    PlanFileError
        When it is no photo, too large, or a HEIC, which is said.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    where = f"Photo {name}"
    if len(data) > MAX_BYTES:
        raise PlanFileError(where, f"{len(data) / 2**20:.0f} MB", ACCEPTED)
    if _HEIC.match(data[:16]):
        raise PlanFileError(
            where, "a HEIC, which isn’t read here: save it as JPEG, or set the camera to “most compatible”", ACCEPTED
        )
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=KINDS) as image:
                if image.width * image.height > MAX_PX:
                    raise PlanFileError(where, f"{image.width} × {image.height} px", "up to 120 Mpx")
                # The camera's own turn first: it goes with all else that was written beside the picture.
                image.draft("RGB", (2 * LONGEST_PX, 2 * LONGEST_PX))
                picture = ImageOps.exif_transpose(image).convert("RGB")
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError, EOFError) as error:
        raise PlanFileError(where, "it isn’t a photo, or is cut short", ACCEPTED) from error
    picture.thumbnail((LONGEST_PX, LONGEST_PX))
    clean = Image.new("RGB", picture.size)
    clean.paste(picture)
    out = io.BytesIO()
    clean.save(out, "JPEG", quality=QUALITY)
    stem = re.sub(r"[^\w.-]+", "-", re.sub(r"\.\w+$", "", name)).strip("-.")[:60] or "photo"
    return f"{stem}.jpg", out.getvalue()
