"""SVG from elsewhere made harmless: nothing of it runs, nothing leads outside, and drawing it is bounded.

The same for a picture that is dropped and for one inside a plan file.
"""

from __future__ import annotations

import math
import re
import xml.etree.ElementTree as ET
from typing import NamedTuple

from gwiazda.core.errors import PlanFileError
from gwiazda.core.memo import memoize

XLINK = "{http://www.w3.org/1999/xlink}href"
MOST_ELEMENTS, MOST_DEPTH = 200_000, 60
MOST_DRAWN = 400_000  # elements, each use of a group counted anew
PLAIN_SEGMENTS, PLAIN_DASHES = 60_000, 4_000  # of all lines together, to be drawn without a trial
PLAIN_DRAWN = 20_000  # up to here, and without what tiles, filters or masks, a drawing is drawn without a trial
_RUNS = ("script", "foreignObject", "iframe", "object", "embed", "audio", "video", "animate", "animateTransform",
         "animateMotion", "set", "handler", "listener")  # fmt: skip
_HEAVY = ("pattern", "filter", "mask", "image", "marker")
_OUTLINE = ("d", "points", "x1", "y1", "x2", "y2", "width", "height", "r", "rx", "ry")
_FIGURE = re.compile(r"\d*\.?\d+(?:[eE][+-]?\d+)?")
_URL = re.compile(r"url\(\s*['\"]?\s*(?!#)[^)]*\)", re.IGNORECASE)
_IMPORT = re.compile(r"@import[^;]*;?", re.IGNORECASE)
_INLINE = re.compile(r"data:image/(png|jpe?g|gif|webp);base64,", re.IGNORECASE)


class Cleaned(NamedTuple):
    """The SVG without what was ``dropped`` of it; ``plain`` drawings are light enough to be drawn without a trial."""

    data: bytes
    dropped: int
    plain: bool


def _tag(element: ET.Element) -> str:
    return element.tag.rsplit("}", 1)[-1] if isinstance(element.tag, str) else ""


def _outside(link: str) -> bool:
    return bool(link) and not link.startswith("#") and not _INLINE.match(link)


def _parse(data: bytes, where: str) -> ET.Element:
    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        root: ET.Element = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise PlanFileError(where, "the SVG declares entities", "a plain SVG") from None
    except (ET.ParseError, ValueError, LookupError) as error:
        raise PlanFileError(where, f"is not readable SVG ({error})", "a whole SVG") from None
    except RecursionError:
        raise PlanFileError(where, "is nested too deeply", f"up to {MOST_DEPTH} levels") from None
    if _tag(root) != "svg":
        raise PlanFileError(where, "is not SVG", "a whole SVG")
    return root


def _without_outside(root: ET.Element) -> int:
    """Take out what runs or leads outside; how many things those were."""
    dropped = 0
    for parent in list(root.iter()):
        for child in list(parent):
            link = child.get(XLINK) or child.get("href") or ""
            if _tag(child) in _RUNS or (_tag(child) in ("image", "use", "feImage", "textPath") and _outside(link)):
                parent.remove(child)
                dropped += 1
    for element in root.iter():
        for name in list(element.attrib):
            value = element.attrib[name]
            short = name.rsplit("}", 1)[-1].lower()
            if short.startswith("on") or (short == "href" and _outside(value)) or short == "base":
                del element.attrib[name]
                dropped += 1
            elif _URL.search(value):
                element.attrib[name] = _URL.sub("none", value)
                dropped += 1
        if _tag(element) == "style" and element.text:
            text = _IMPORT.sub("", _URL.sub("none", element.text))
            dropped += text != element.text
            element.text = text
    return dropped


def _depth(root: ET.Element) -> int:
    level, depth = [root], 0
    while level:
        depth += 1
        level = [child for element in level for child in element]
        if depth > MOST_DEPTH:
            return depth
    return depth


def drawn_elements(root: ET.Element) -> int:
    """How many elements drawing an SVG comes to, each use of a group counted anew; huge for one that uses itself."""
    by_id = {e.get("id"): e for e in root.iter() if e.get("id")}
    counts: dict[int, int] = {}
    under_way: set[int] = set()

    def count(element: ET.Element) -> int:
        key = id(element)
        if key in counts:
            return counts[key]
        if key in under_way:
            return MOST_DRAWN + 1
        under_way.add(key)
        total = 1
        if _tag(element) == "use":
            target = by_id.get((element.get(XLINK) or element.get("href") or "").lstrip("#"))
            if target is not None:
                total += count(target)
        for child in element:
            total = min(total + count(child), MOST_DRAWN + 1)
        under_way.discard(key)
        counts[key] = total
        return total

    return count(root)


def _numbers(element: ET.Element) -> list[float]:
    """The numbers its outline is made of, with the sign off."""
    text = " ".join(element.get(a) or "" for a in _OUTLINE)
    return [min(float(x), 1e9) for x in _FIGURE.findall(text)]


def _dash_period(element: ET.Element) -> float | None:
    """The length of a dash with its gap; None where its line is whole, 0 where that can't be told."""
    value = element.get("stroke-dasharray")
    styled = re.search(r"stroke-dasharray\s*:\s*([^;]+)", element.get("style") or "")
    value = styled[1] if styled else value
    if value is None or value.strip() in ("none", "inherit"):
        return None
    found = [float(x) for x in _FIGURE.findall(value)]
    return sum(found) if found and "%" not in value else 0.0


def _light(root: ET.Element) -> bool:
    """Whether lines are short and whole enough to be drawn at once: few segments, few dashes, none set from afar."""
    if any(_tag(e) == "style" and "dasharray" in (e.text or "") for e in root.iter()):
        return False
    segments, dashes = 0, 0.0
    level: list[tuple[ET.Element, float | None]] = [(root, None)]
    while level:
        element, period = level.pop()
        own = _dash_period(element)
        period = period if own is None else own
        numbers = _numbers(element)
        segments += len(numbers) // 2
        if period is not None and numbers:
            # A line is never longer than twice the sum of what it is written with.
            dashes += 4.0 * sum(numbers) / period if period > 0 else math.inf
        if segments > PLAIN_SEGMENTS or dashes > PLAIN_DASHES:
            return False
        level += [(child, period) for child in element]
    return True


def clean_svg(data: bytes, where: str) -> Cleaned:
    """An SVG without scripts, event handlers and links to the outside.

    Raises
    ------
    PlanFileError
        For one that is no SVG, declares entities, is nested too deeply or would take too long to draw.
    """
    root = _parse(data, where)
    if sum(1 for _ in root.iter()) > MOST_ELEMENTS:
        raise PlanFileError(where, "has too many elements", f"up to {MOST_ELEMENTS}")
    if _depth(root) > MOST_DEPTH:
        raise PlanFileError(where, "is nested too deeply", f"up to {MOST_DEPTH} levels")
    dropped = _without_outside(root)
    try:
        drawn = drawn_elements(root)
    except RecursionError:
        raise PlanFileError(
            where, "uses its own parts, those use others, and so on without end", "a plainer SVG"
        ) from None
    if drawn > MOST_DRAWN:
        raise PlanFileError(where, "would take too long to draw: it uses its own parts over and over", "a plainer SVG")
    plain = drawn <= PLAIN_DRAWN and not any(_tag(e) in _HEAVY for e in root.iter()) and _light(root)
    if not dropped:
        return Cleaned(data, 0, plain)
    ET.register_namespace("", "http://www.w3.org/2000/svg")
    ET.register_namespace("xlink", "http://www.w3.org/1999/xlink")
    return Cleaned(ET.tostring(root), dropped, plain)


_PX = re.compile(r"\s*([0-9.]+)\s*(?:px)?\s*")


@memoize(slots=16)
def svg_size(data: bytes) -> tuple[float, float] | None:
    """Width and height of an SVG in its own units, from its outermost element; None where it doesn't say."""
    try:
        root = _parse(data, "Drawing")
    except PlanFileError:
        return None
    box = re.split(r"[\s,]+", (root.get("viewBox") or "").strip())
    sides = box[2:] if len(box) == 4 else [m[1] for a in ("width", "height") if (m := _PX.fullmatch(root.get(a) or ""))]
    try:
        width, height = (float(x) for x in sides)
    except ValueError:
        return None
    return (width, height) if width > 0 and height > 0 else None
