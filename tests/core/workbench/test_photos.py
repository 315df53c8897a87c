"""Photos for the log: upright, smaller, clean; what isn't one is said."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan.storage import check_picture
from gwiazda.core.workbench.photo.photos import LONGEST_PX, photo_for_log


def written(image: Image.Image, kind: str = "JPEG", **more) -> bytes:
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def test_a_photo_is_turned_upright_made_smaller_and_says_nothing_of_its_owner():
    pixels = np.zeros((1500, 3000, 3), np.uint8)
    pixels[:, :300] = (255, 0, 0)  # to the left as the camera lay
    exif = Image.Exif()
    exif[0x0112], exif[0x010F], exif[0x9003] = 6, "a maker", "2026:11:26 09:00:00"
    exif.get_ifd(0x8825)[1] = "N"
    name, data = photo_for_log("my photo (2).JPG", written(Image.fromarray(pixels), exif=exif, comment=b"mine"))
    assert name == "my-photo-2.jpg" and check_picture(name, data) == data
    with Image.open(io.BytesIO(data)) as kept:
        assert kept.size == (LONGEST_PX // 2, LONGEST_PX) and not kept.getexif() and "comment" not in kept.info
        red = np.asarray(kept.convert("RGB"))
    assert red[20, 400, 0] > 200 and red[-20, 400, 0] < 50, "what lay to the left is above"
    assert b"maker" not in data and b"mine" not in data


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "TIFF"])
def test_other_kinds_become_jpeg(kind):
    image = Image.new("RGBA", (40, 30), (10, 200, 10, 255))
    _, data = photo_for_log(f"x.{kind.lower()}", written(image, kind))
    with Image.open(io.BytesIO(data)) as kept:
        assert kept.format == "JPEG" and kept.size == (40, 30)
        assert abs(np.asarray(kept)[10, 10].astype(int) - (10, 200, 10)).max() < 12


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"\0\0\0\x18ftypheic" + bytes(99), "HEIC.*save it as JPEG"),
        (b"", "isn’t a photo"),
        (b"GIF89a" + bytes(50), "isn’t a photo"),
        (written(Image.new("RGB", (900, 900)))[:400], "isn’t a photo, or is cut short"),
        (written(Image.new("1", (12_000, 11_000)), "PNG"), "Mpx"),
        (b"PK\x03\x04" + bytes(500), "isn’t a photo"),
    ],
)
def test_what_is_no_photo_is_said(data, said):
    with pytest.raises(PlanFileError, match=said):
        photo_for_log("x.jpg", data)
