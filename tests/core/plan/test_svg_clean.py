"""SVG from elsewhere: the same cleaning for what is dropped and for what a plan file brings."""

from __future__ import annotations

import io
import json
import os
import zipfile

import pytest

from gwiazda.core.errors import PlanFileError
from gwiazda.core.plan import storage
from gwiazda.core.plan.outline import svg_shapes
from gwiazda.core.plan.outline.svg_clean import MOST_DRAWN, clean_svg, svg_size

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" viewBox="0 0 90 30">'


def svg(inside: str) -> bytes:
    return f"{HEAD}{inside}</svg>".encode()


BOMB = svg(
    '<defs><g id="a0"><rect width="1" height="1"/></g>'
    + "".join(f'<g id="a{i}">{f"""<use xlink:href="#a{i - 1}"/>""" * 10}</g>' for i in range(1, 10))
    + '</defs><use xlink:href="#a9"/>'
)


def plan_with(picture: bytes, tmp_path):
    path = tmp_path / "elsewhere.gwiazda"
    view = {"id": "port", "name": "Port", "side": "port", "drawing": {"picture": "a.svg", "mm_per_unit": 1.0}}
    with zipfile.ZipFile(path, "w") as z:
        z.writestr("plan.json", json.dumps({"version": 2, "views": [view]}))
        z.writestr("pictures/a.svg", picture)
    return path


def test_an_image_that_leads_to_a_pipe_is_taken_out_of_a_plan_file(tmp_path):
    pipe = tmp_path / "pipe"
    os.mkfifo(pipe)
    data = svg(f'<image href="{pipe}" width="9" height="9"/><rect width="5" height="5"/>')
    found = storage.load(plan_with(data, tmp_path)).pictures["a.svg"]
    assert b"pipe" not in found and b"rect" in found


@pytest.mark.parametrize(
    "inside",
    ['<rect style="fill:url(http://example.invalid/x)"/>', '<rect style="fill: URL( \'file:///etc/passwd\' )"/>', '<rect fill="url(/tmp/x#y)"/>',
     "<style>@import 'http://example.invalid/x.css'; rect{fill:url(//example.invalid)}</style>", '<a xlink:href="javascript:alert(1)"><circle r="4"/></a>',
     '<use href="other.svg#x"/>', '<filter id="f"><feImage href="/tmp/x"/></filter>', '<rect onload="x()"/>', "<foreignObject><p/></foreignObject>",
     '<g xml:base="http://example.invalid/"/>'],
)  # fmt: skip
def test_nothing_leads_outside(inside):
    found = clean_svg(svg(f'<rect id="kept"/>{inside}'), "x")
    assert found.dropped >= 1 and b"kept" in found.data
    for word in (b"example.invalid", b"passwd", b"/tmp", b"javascript", b"onload", b"foreignObject", b"other.svg"):
        assert word not in found.data
    again = clean_svg(found.data, "x")
    assert again.dropped == 0


def test_links_within_and_pictures_inside_stay():
    inside = '<defs><g id="a"><path d="M0 0L9 9 0 9z"/></g></defs><use href="#a"/><rect style="fill:url(#g)"/><image href="data:image/png;base64,AAAA"/>'
    data = svg(inside)
    found = clean_svg(data, "x")
    assert found.dropped == 0 and found.data is data and not found.plain


def test_parts_used_over_and_over_are_refused_before_they_are_drawn(tmp_path):
    with pytest.raises(PlanFileError, match="too long to draw"):
        clean_svg(BOMB, "x")
    with pytest.raises(PlanFileError, match="too long to draw"):
        clean_svg(svg('<g id="a"><use href="#b"/></g><g id="b"><use href="#a"/></g>'), "x")
    with pytest.raises(PlanFileError, match="too long"):
        storage.load(plan_with(BOMB, tmp_path))
    assert MOST_DRAWN < 10**9


@pytest.mark.parametrize(
    ("data", "words"),
    [(b"<!DOCTYPE x [<!ENTITY a 'b'>]><svg>&a;</svg>", "entities"), (svg("<g>" * 80 + "</g>" * 80), "nested"), (b"<svg><rect></svg>", "not readable"),
     (b"<html/>", "not SVG"), (b"", "not readable"), (b"\x00\x01", "not readable"), (svg("<g>" * 50_000 + "</g>" * 50_000), "nested")],
    ids=["dtd", "nested", "open", "html", "empty", "binary", "deep"],
)  # fmt: skip
def test_what_is_no_plain_svg_is_refused_in_a_sentence(data, words):
    with pytest.raises(PlanFileError, match=words):
        clean_svg(data, "drawing.svg")


@pytest.mark.parametrize("path", ["M 0 0 L", "M 1e999 1 L 2 2 z", "Q", "M 0 0 A 1 1 0 0", "M 0 0 L 1 1 zzzz 99 %", "é"])
def test_a_malformed_path_is_passed_over_or_named(path):
    """Never an exception of the library's: the rectangle beside it is found all the same, or a sentence says why not."""
    data = svg(f'<path d="{path}"/><rect x="3" y="3" width="9" height="5"/>')
    try:
        found = svg_shapes.closed_shapes(data)
    except PlanFileError as error:
        assert str(error)
    except Exception as error:
        from gwiazda.core.errors import GwiazdaError

        assert isinstance(error, GwiazdaError), repr(error)
    else:
        assert len(found) >= 1


def test_a_plan_with_a_whole_drawing_keeps_it_byte_for_byte(tmp_path):
    data = svg('<rect width="5" height="5"/>')
    file = storage.load(plan_with(data, tmp_path))
    assert file.pictures["a.svg"] == data
    storage.save(file, tmp_path / "again.gwiazda")
    assert zipfile.ZipFile(io.BytesIO((tmp_path / "again.gwiazda").read_bytes())).read("pictures/a.svg") == data


@pytest.mark.parametrize(
    ("head", "size"),
    [
        (b'viewBox="0 0 90 30"', (90.0, 30.0)),
        (b'viewBox="-5,-5, 12.5 8" width="10cm"', (12.5, 8.0)),
        (b'width="40" height="20px"', (40.0, 20.0)),
        (b'width="40mm" height="20mm"', None),
        (b'viewBox="0 0 0 30"', None),
        (b'viewBox="0 0 wide 30"', None),
        (b"", None),
    ],
)
def test_the_size_of_a_drawing_is_read_without_drawing_it(head, size):
    assert svg_size(b'<svg xmlns="http://www.w3.org/2000/svg" ' + head + b"></svg>") == size
    assert svg_size(b"no drawing") is None
