"""The works side of the round: the drawings laid on the sides of the solid, its edges in ink."""

from __future__ import annotations

from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from PySide6.QtGui import QColor

from gwiazda.core.assess.night.around import Looked, room_share
from gwiazda.core.plan.frame import DRAWN_AS, NORMALS, PLANES, SHEET, SIDES
from gwiazda.core.plan.model import Plan, View
from gwiazda.core.render.tone import from_srgb
from gwiazda.desktop.plate.night import LIGHT_FILL
from gwiazda.desktop.plate.sheet import Window, drawing_area, render_drawing
from gwiazda.desktop.theme.palette import Palette

SHEET_PX = 1400  # across a drawing laid on a side
BARE = 0.86  # of a side that no drawing shows, against the lightest fill of one
INK = np.float32(0.65)  # how dark edges are drawn
EDGE_SHARE = 0.01  # of the depth: a step larger than this is drawn as an edge
Rgb = npt.NDArray[np.float32]


class Sheet(NamedTuple):
    """A view's drawing as it is laid on a side: its paint over bare plastic (3, h, w; 0 to 1), how strongly that throws light back against
    bare plastic (h, w), and where the pixels lie."""

    paint: Rgb
    tone: Rgb
    window: Window


def _sheet(view: View, pictures: dict[str, bytes], kept: dict[str, Any]) -> Sheet | None:
    """A view's drawing, made once."""
    if view.drawing is None or view.drawing.picture not in pictures:
        return None
    found = kept.get(view.id)
    if found is None or found[0] is not view.drawing:
        area = drawing_area(view, pictures[view.drawing.picture])
        scale = SHEET_PX / max(area.width(), area.height(), 1.0)
        window = Window(
            max(int(area.width() * scale), 1), max(int(area.height() * scale), 1), area.left(), area.top(), scale
        )
        image = render_drawing(view, pictures, window)
        if image is None:
            return None
        pixels = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine() // 4, 4)
        rgba = pixels[:, : image.width(), [2, 1, 0, 3]].astype(np.float32) / np.float32(255.0)
        paint = rgba[..., :3] + np.float32(BARE) * (1.0 - rgba[..., 3:])  # premultiplied
        light = (_LINEAR[(paint * 255.0).astype(np.uint8)] @ _LUMINANCE) / np.float32(LIGHT_FILL)
        found = kept[view.id] = (
            view.drawing,
            Sheet(np.ascontiguousarray(np.moveaxis(paint, 2, 0)), np.minimum(light, np.float32(1.25)), window),
        )
    sheet: Sheet = found[1]
    return sheet


def textured(
    plan: Plan, looked: Looked, pictures: dict[str, bytes], kept: dict[str, Any]
) -> tuple[Rgb, npt.NDArray[np.float32]]:
    """The paint (3, N; 0 to 1) of the N pixels where anything is seen, as the drawings show it; and how strongly each (N,) throws light back
    against bare plastic.

    A side's drawing is laid on all that is turned to it more than to any other; starboard takes port's where it has none of its own.
    """
    model, shown = looked.model, looked.shown
    paint, tone = np.full((3, len(shown.ids)), BARE, np.float32), np.ones(len(shown.ids), np.float32)
    turned = model.normals @ np.array([NORMALS[s] for s in SIDES], dtype=float).T
    best = np.where(model.inside, -1, turned.argmax(axis=1)).astype(np.int8)
    side_of = best[shown.ids]
    views = {v.side: v for v in reversed(plan.views) if v.drawing is not None}
    for number, side in enumerate(SIDES):
        # The underside is not like the deck.
        view = views.get(side) or (views.get(DRAWN_AS[side]) if side != "bottom" else None)
        here = np.flatnonzero(side_of == number)
        sheet = _sheet(view, pictures, kept) if view is not None and len(here) else None
        if sheet is None or view is None:
            continue
        h, v, _ = PLANES[view.side]
        a, b, _ = SHEET[view.side]
        scale = sheet.window.scale
        x = (shown.places[h, here] * np.float32(a * scale) - np.float32(sheet.window.left_mm * scale)).astype(np.int32)
        y = (shown.places[v, here] * np.float32(b * scale) - np.float32(sheet.window.top_mm * scale)).astype(np.int32)
        high, wide = sheet.tone.shape
        inside = np.flatnonzero((x >= 0) & (y >= 0) & (x < wide) & (y < high))
        at, here = y[inside] * wide + x[inside], here[inside]
        for plane, drawn in zip(paint, sheet.paint, strict=True):
            plane[here] = np.take(drawn.ravel(), at)
        tone[here] = np.take(sheet.tone.ravel(), at)
    return paint, tone


_LINEAR = from_srgb(np.arange(256) / 255.0).astype(np.float32)
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)


def _rgb(name: str) -> Rgb:
    """A colour by its name, 0 to 1: (3,)."""
    found = QColor(name)
    return np.array([found.redF(), found.greenF(), found.blueF()], dtype=np.float32)


def painted(looked: Looked, paint: Rgb, palette: Palette) -> npt.NDArray[np.uint8]:
    """The works side (h, w, 4: B, G, R, 255): paper, the solid in its drawings' paint, panes by whether they are lit, edges in ink."""
    model, shown = looked.model, looked.shown
    count = len(model.skins)
    board = np.full(looked.seen.ids.shape, _code(_rgb(palette.paper)), np.uint32)
    if len(shown.ids):
        # What a triangle adds of its own, and how much of the drawing's paint shows on it.
        shade = (0.62 + 0.38 * room_share(model.normals)).astype(np.float32)
        if palette.name != "bench":
            shade = shade * np.float32(0.45)
        names = [s.colour or palette.section for s in model.sections] + [palette.section] * len(model.fittings)
        colours = np.array([_rgb(name) for name in names], dtype=np.float32).reshape(-1, 3)
        lit, dark, ink = _rgb(palette.pane), _rgb(palette.pane_dark), _rgb(palette.ink)
        share = np.array([o.lit for o in model.openings], dtype=np.float32)[model.pane_of]
        own = np.concatenate(
            [0.35 * colours[model.section] * shade[:count, None], dark + share[:, None] * (lit - dark)]
        )
        of_paint = np.take(np.concatenate([0.65 * shade[:count], np.zeros(len(model.pane_of), np.float32)]), shown.ids)
        edges = np.flatnonzero(_edges(looked))
        planes = []
        for c in range(3):
            plane = np.take(own[:, c], shown.ids) + of_paint * paint[c]
            plane[edges] += INK * (ink[c] - plane[edges])
            planes.append(plane)
        board.ravel()[shown.flat] = _code(np.array(planes))
    return board.view(np.uint8).reshape(*board.shape, 4)


def _code(rgb: Rgb) -> npt.NDArray[np.uint32]:
    """Colours (3, …; 0 to 1) as the screen has them, a word each."""
    r, g, b = (np.clip(rgb, 0.0, 1.0) * np.float32(255.0) + np.float32(0.5)).astype(np.uint32)
    return np.asarray((r << 16) | (g << 8) | b | np.uint32(0xFF000000), np.uint32)


def _edges(looked: Looked) -> npt.NDArray[np.bool_]:
    """Which of the pixels shown lie where one thing ends against another: another section, or a step in depth."""
    model, seen, shown = looked.model, looked.seen, looked.shown
    # A number for each thing, the last for where nothing is.
    owner = np.concatenate([model.section, len(model.parts) + model.pane_of, [-1]]).astype(np.int32)
    rows = shown.flat[[0, -1]] // looked.eye.width
    first, last = max(int(rows[0]) - 1, 0), int(rows[1]) + 2
    ids, depth = np.take(owner, seen.ids[first:last]), seen.depth[first:last]
    out = np.zeros(seen.ids.shape, dtype=bool)
    part = out[first:last]
    for here, before in ((np.s_[:, 1:], np.s_[:, :-1]), (np.s_[1:], np.s_[:-1])):
        other = ids[here] != ids[before]
        part[here] |= other
        part[before] |= other & (ids[here] < 0)  # where the model ends it is its last pixel that is drawn
        a, b = depth[here], depth[before]
        part[here] |= np.abs(a - b) > np.float32(EDGE_SHARE) * np.maximum(a, b)
    return np.take(out.ravel(), shown.flat)
