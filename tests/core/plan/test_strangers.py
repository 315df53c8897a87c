"""Files of strangers: each ends in a plan that can be saved again, or in one sentence; none in a traceback or a hang."""

from __future__ import annotations

import json
import struct
import zipfile
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gwiazda.core.errors import PlanError, PlanFileError
from gwiazda.core.plan import edits
from gwiazda.core.plan.outline.svg_clean import clean_svg
from gwiazda.core.plan.outline.svg_shapes import closed_shapes, smallest_around
from gwiazda.core.plan.storage import PlanFile, load, picture_size, plan_from_json, save
from gwiazda.core.workshop.workshop import load_workshop

SVG = (
    "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' viewBox='0 0 100 100'>{}</svg>"
)


def deep(count):
    return b'{"version": 10, "sections": ' + b"[" * count + b"]" * count + b"}"


@pytest.mark.parametrize(
    "data",
    [
        deep(600), deep(100_000), b'{"kit": {"scale": 1e400}}', b'{"kit": {"scale": 1' + b"0" * 400 + b"}}",
        b'{"version": 1' + b"0" * 400 + b"}", b'{"room": {"lux": 1' + b"0" * 400 + b"}}", b'{"version": 1' + b"0" * 5000 + b"}",
        b'{"lamps": 1e999}', b'{"version": 2, "sections": [[[]]], "strings": 3}', b'{"version": 5, "lamps": {"a": 1}}',
        b"\xff\xfe{}", b"[]", b"null", b'"\xff"',
    ],
)  # fmt: skip
def test_a_plan_that_is_none_is_refused_in_a_sentence(data):
    with pytest.raises(PlanFileError) as told:
        plan_from_json(data, "odd.json")
    assert len(str(told.value)) < 300 and str(told.value).startswith("odd.json")


@pytest.mark.parametrize("name", ["half \\ud800 a character", "bell \\u0007", "line\\nbreak", "tab\\t", "\\u007f"])
def test_what_can_t_be_written_is_left_out_of_names(tmp_path, name):
    plan = plan_from_json(f'{{"kit": {{"name": "a {name} b"}}}}'.encode(), "odd.json")
    assert plan.kit.name.isprintable() and plan.kit.name.startswith("a ")
    save(PlanFile(plan), tmp_path / "a.gwiazda")
    assert load(tmp_path / "a.gwiazda").plan == plan


@pytest.mark.parametrize("name", ["a\nb", "a\x07b", "\x7f", "a\tb"])
def test_names_refuse_control_characters(deck, name):
    with pytest.raises(PlanError, match="letters on one line, without control characters"):
        edits.set_kit(deck, name=name)
    with pytest.raises(PlanError, match="control characters"):
        edits.set_fields(deck, [deck.sections[0].id], name=name)


def archive(path, entries, kind=zipfile.ZIP_DEFLATED):
    with zipfile.ZipFile(path, "w", kind) as made:
        for name, data in entries.items():
            made.writestr(name, data)
    return path


@pytest.mark.parametrize("kind", [zipfile.ZIP_LZMA, zipfile.ZIP_BZIP2, zipfile.ZIP_DEFLATED])
def test_damaged_archives_of_every_kind(tmp_path, kind):
    path = archive(tmp_path / "a.gwiazda", {"plan.json": json.dumps({"kit": {"name": "x" * 100}}) * 40}, kind)
    whole = path.read_bytes()
    for at in range(34, len(whole) - 30, 3):
        path.write_bytes(whole[:at] + bytes([whole[at] ^ 0x5A]) + whole[at + 1 :])
        with pytest.raises(PlanFileError):
            load(path)


def test_an_entry_s_name_that_is_no_text(tmp_path):
    path = archive(tmp_path / "a.gwiazda", {"plan.json": "{}", "pictures/żółw.png": b"x"})
    path.write_bytes(path.read_bytes().replace("żółw".encode(), b"\xff\xfe\xfd\xfc\xfb\xfa\xf9"))
    with pytest.raises(PlanFileError):
        load(path)


@given(st.binary(max_size=300), st.integers(0, 5))
def test_bytes_of_any_kind(tmp_path_factory, data, kind):
    head = [b"", b"PK\x03\x04", b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"<svg>", b"{"][kind]
    path = tmp_path_factory.getbasetemp() / "any.gwiazda"
    path.write_bytes(head + data)
    with pytest.raises(PlanFileError):
        load(path)


# -- pictures ----------------------------------------------------------------------------------------------------


def frame(kind, width, height):
    body = struct.pack(">BHHB", 8, height, width, 1) + b"\x01\x11\x00"
    return bytes([0xFF, kind]) + struct.pack(">H", len(body) + 2) + body


SCAN = b"\xff\xda\x00\x08\x01\x01\x00\x00\x3f\x00" + b"\x12\xff\x00\x34" * 9


def test_a_jpeg_with_two_frame_headers_is_refused():
    """Which of the two sizes counts is the reader's choice: one is checked, and the other would be drawn."""
    whole = b"\xff\xd8" + frame(0xC0, 20, 10) + SCAN + b"\xff\xd9"
    assert picture_size(whole) == (20, 10)
    assert picture_size(whole + b"\xff\xd8" + frame(0xC0, 9, 9)) == (20, 10), "what follows the end is another picture"
    for odd in (
        b"\xff\xd8" + frame(0xC0, 20, 10) + frame(0xC2, 30_000, 30_000) + SCAN + b"\xff\xd9",
        b"\xff\xd8" + frame(0xC0, 20, 10) + SCAN + frame(0xC0, 30_000, 30_000) + SCAN + b"\xff\xd9",
    ):
        with pytest.raises(ValueError, match="twice"):
            picture_size(odd)


def png(width, height):
    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    row = b"\0" + bytes(width // 8)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0))
        + chunk(b"IDAT", zlib.compress(row * height)) + chunk(b"IEND", b"")
    )  # fmt: skip


def test_a_huge_picture_is_brought_down_to_what_can_be_looked_at():
    from gwiazda.desktop.plate.drawings import MOST_SHOWN_PX, take_picture

    name, data, size, _ = take_picture("wide.png", png(8000, 6000))
    assert name == "wide.png" and picture_size(data) == (int(size[0]), int(size[1]))
    assert 0.98 * MOST_SHOWN_PX < size[0] * size[1] <= MOST_SHOWN_PX and abs(size[0] / size[1] - 4 / 3) < 1e-3


# -- drawings ----------------------------------------------------------------------------------------------------


def test_parts_that_use_parts_without_end():
    chain = (
        "".join(f"<g id='a{k}'><use xlink:href='#a{k + 1}'/></g>" for k in range(900))
        + "<rect id='a900' width='9' height='9'/>"
    )
    try:
        made = clean_svg(SVG.format(chain + "<use xlink:href='#a0'/>").encode(), "Chain")
    except PlanFileError as error:
        assert "without end" in str(error)
    else:
        assert not made.plain


@pytest.mark.parametrize(
    "inner",
    [
        "<path d='M0 0H90' stroke='#000' stroke-dasharray='0.01 0.01'/>",
        "<g style='stroke-dasharray: 0.01'><path d='M0 0H90'/></g>",
        "<style>path{stroke-dasharray:1}</style><path d='M0 0H90'/>",
        "<g stroke-dasharray='5%'><path d='M0 0H90'/></g>",
        "<path d='" + "M0 0L1 1" * 70_000 + "'/>",
        "<pattern id='p' width='1' height='1'><rect width='1' height='1'/></pattern><rect width='90' height='90' fill='url(#p)'/>",
    ],
)
def test_what_takes_long_to_draw_is_not_drawn_in_the_window(inner):
    assert not clean_svg(SVG.format(inner).encode(), "Dashes").plain


@pytest.mark.parametrize(
    "inner",
    [
        "<path d='M0 50H100' stroke='#000' stroke-dasharray='4 1 1 1'/>",  # a centre line
        "<g stroke-dasharray='none'><path d='M0 0H90'/></g>",
        "<path d='M1 1L30 2 20 9z'/>" * 200,
    ],
)
def test_what_drawings_of_kits_are_made_of_is_plain(inner):
    assert clean_svg(SVG.format(inner).encode(), "Kit").plain


def test_a_path_that_crosses_itself_over_and_over():
    """Every stroke crosses every other: to sort that out takes the square of them."""
    zigzag = "M0 0" + "".join(f"L{100 if k % 2 else 0} {k * 0.05:.2f}" for k in range(2000)) + "L50 -20z"
    (shape,) = closed_shapes(SVG.format(f"<path d='{zigzag}'/>").encode())
    assert shape.kind == "traced" and smallest_around((shape,), 50.0, -5.0) is shape
    assert smallest_around((shape,), 300.0, 5.0) is None


@pytest.mark.parametrize(
    "transform", ["matrix(1,2)", "rotate()", "scale(x)", "translate(1e999)", "matrix(0 0 0 0 0 0)"]
)
def test_transforms_that_are_none(transform):
    data = SVG.format(f"<rect transform='{transform}' width='9' height='9'/>").encode()
    try:
        assert isinstance(closed_shapes(data), tuple)
    except PlanError as error:
        assert "can't be read" in str(error)


# -- the user's own ----------------------------------------------------------------------------------------------

BROKEN = {
    "parts.csv": ['id,name,form\n"' + "x" * 200_000, "\0", "id\n", "é".encode("latin-1")],
    "drawer.csv": ['kind,part,count,where\nlamp,"' + "y" * 140_000, "kind,part,count\nlamp,a,1" + "0" * 400, "[]"],
    "kept.csv": ["plan,kind,part,count\na,lamp,b,1e999", '"', "plan,kind,part,count\na,lamp,b,nan"],
    "coats.json": [
        '{"coats": [{"id": ["my-a"], "name": "x"}]}', '{"coats": [{"id": "my-a", "name": ["x"], "kind": "paint", "density": 1' + "0" * 400 + "}]}",
        '{"coats": [3]}', '{"coats": {"a": 1}}', "[" * 5000, '{"coats": [{"id": "my-a", "name": "x", "kind": "paint", "density": NaN, "reflectance": 0.1, "dry_h": 1, "basis": "x"}]}',
        '{"coats": [{"id": "my-a", "name": "x", "kind": "paint", "density": 1e309, "reflectance": 0.1, "dry_h": 1}]}',
    ],
}  # fmt: skip


@pytest.mark.parametrize(("name", "content"), [(n, c) for n, cs in BROKEN.items() for c in cs])
def test_a_broken_list_of_one_s_own_is_set_aside_and_said(tmp_path, name, content):
    data = content if isinstance(content, bytes) else content.encode()
    (tmp_path / name).write_bytes(data)
    workshop, said = load_workshop(tmp_path)
    assert len(said) == 1 and said[0].startswith(f"{name} can't be read") and "Nothing is lost" in said[0]
    assert not workshop.lamps and not workshop.coats
    (kept,) = tmp_path.iterdir()
    assert "unreadable" in kept.name and kept.read_bytes() == data
    assert load_workshop(tmp_path)[1] == ()
