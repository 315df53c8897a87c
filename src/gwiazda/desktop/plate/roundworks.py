"""The works side of the round: the drawings laid on the sides of the solid, its edges in ink."""

from __future__ import annotations

from typing import Any

import numpy as np
import numpy.typing as npt
from PySide6.QtGui import QColor

from gwiazda.core.assess.light.around import Looked, room_share
from gwiazda.core.light.tone import from_srgb
from gwiazda.core.plan.frame import NORMALS, PLANES, SHEET, Side
from gwiazda.core.plan.model import Plan, View
from gwiazda.desktop.plate.night import LIGHT_FILL
from gwiazda.desktop.plate.sheet import Window, drawing_area, render_drawing
from gwiazda.desktop.theme.palette import Palette

SHEET_PX = 1400  # across a drawing laid on a side
BARE = 0.86  # of a side that no drawing shows, against the lightest fill of one
EDGE_SHARE = 0.01  # of the depth: a step larger than this is drawn as an edge
Array = npt.NDArray[np.float64]
Rgba = npt.NDArray[np.float32]
SIDES: tuple[Side, ...] = ("port", "starboard", "top", "bow", "stern")


def _sheet(view: View, pictures: dict[str, bytes], kept: dict[str, Any]) -> tuple[Rgba, Window] | None:
    """A view's drawing as pixels (h, w, 4; 0 to 1, premultiplied) and where they lie on its sheet."""
    if view.drawing is None or view.drawing.picture not in pictures:
        return None
    key = f"{view.id}"
    found = kept.get(key)
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
        found = kept[key] = (view.drawing, rgba, window)
    return found[1], found[2]


def textured(
    plan: Plan, looked: Looked, pictures: dict[str, bytes], kept: dict[str, Any]
) -> tuple[Rgba, npt.NDArray[np.float32]]:
    """The paint (N, 3; 0 to 1) of the N pixels where anything is seen, row by row, as the drawings show it; and how strongly each pixel
    (h, w) throws light back against bare plastic.

    A side's drawing is laid on all that is turned to it more than to any other; starboard takes port's where it has none of its own.
    """
    eye, model, seen = looked
    tone = np.ones(seen.ids.shape, np.float32)
    rows, columns = np.nonzero(seen.ids >= 0)
    paint = np.full((len(rows), 3), BARE, np.float32)
    if not len(rows):
        return paint, tone
    numbers = seen.ids[rows, columns]
    turned = model.normals @ np.array([NORMALS[s] for s in SIDES], dtype=float).T
    best = np.where((model.normals[:, 2] < -0.5) | model.inside, -1, turned.argmax(axis=1))
    side_of = best[numbers]
    far = 1.0 / seen.depth[rows, columns].astype(float)
    places = eye.place + far[:, None] * eye.rays(columns, rows)
    own = np.ones(len(rows), np.float32)
    views = {v.side: v for v in reversed(plan.views) if v.drawing is not None}
    for number, side in enumerate(SIDES):
        view = views.get(side) or views.get({"starboard": "port", "stern": "bow"}.get(side, side))  # type: ignore[call-overload]
        here = np.flatnonzero(side_of == number)
        sheet = _sheet(view, pictures, kept) if view is not None and len(here) else None
        if sheet is None or view is None:
            continue
        rgba, window = sheet
        h, v, _ = PLANES[view.side]
        a, b, _ = SHEET[view.side]
        p = places[here]
        x = ((a * p[:, h] - window.left_mm) * window.scale).astype(int)
        y = ((b * p[:, v] - window.top_mm) * window.scale).astype(int)
        inside = np.flatnonzero((x >= 0) & (y >= 0) & (x < rgba.shape[1]) & (y < rgba.shape[0]))
        value = rgba[y[inside], x[inside]]
        mixed = value[:, :3] + np.float32(BARE) * (1.0 - value[:, 3:])
        paint[here[inside]] = mixed
        light = (_LINEAR[(mixed * 255.0).astype(np.uint8)] @ _LUMINANCE) / np.float32(LIGHT_FILL)
        own[here[inside]] = np.minimum(light, 1.25)
    tone[rows, columns] = own
    return paint, tone


_LINEAR = from_srgb(np.arange(256) / 255.0).astype(np.float32)
_LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)


def _rgb(name: str) -> Rgba:
    """A colour by its name, 0 to 1: (3,)."""
    found = QColor(name)
    return np.array([found.redF(), found.greenF(), found.blueF()], dtype=np.float32)


def painted(looked: Looked, paint: Rgba, palette: Palette) -> npt.NDArray[np.uint8]:
    """The works side (h, w, 4: B, G, R, 255): paper, the solid in its drawings' paint, panes by whether they are lit, edges in ink."""
    _, model, seen = looked
    board = np.empty((*seen.ids.shape, 4), np.uint8)
    board[:] = _code(_rgb(palette.paper))
    rows, columns = np.nonzero(seen.ids >= 0)
    numbers, count = seen.ids[rows, columns], len(model.skins)
    if not len(rows):
        return board
    colours = np.array([_rgb(s.colour or palette.section) for s in model.sections], dtype=np.float32).reshape(-1, 3)
    shade = (0.62 + 0.38 * room_share(model.normals)).astype(np.float32)[numbers]
    if palette.name != "bench":
        shade = shade * np.float32(0.45)
    out = np.empty((len(rows), 3), np.float32)
    skin = np.flatnonzero(numbers < count)
    out[skin] = (0.65 * paint[skin] + 0.35 * colours[model.section[numbers[skin]]]) * shade[skin, None]
    pane = np.flatnonzero(numbers >= count)
    if len(pane):
        lit, dark = _rgb(palette.pane), _rgb(palette.pane_dark)
        share = np.array([o.lit for o in model.openings], dtype=np.float32)[model.pane_of[numbers[pane] - count]]
        out[pane] = dark + share[:, None] * (lit - dark)
    board[rows, columns] = _code(out)
    edges = _edges(looked)
    ink = _code(_rgb(palette.ink)).astype(np.float32)
    board[edges] = (0.35 * board[edges] + 0.65 * ink).astype(np.uint8)
    board[..., 3] = 255
    return board


def _code(rgb: Rgba) -> npt.NDArray[np.uint8]:
    """Colours (…, 3; 0 to 1) as B, G, R, 255."""
    out = np.full((*rgb.shape[:-1], 4), 255, np.uint8)
    out[..., :3] = (np.clip(rgb[..., ::-1], 0.0, 1.0) * 255.0 + 0.5).astype(np.uint8)
    return out


def _edges(looked: Looked) -> npt.NDArray[np.bool_]:
    """Where one thing ends against another: another section, or a step in depth."""
    _, model, seen = looked
    count = len(model.skins)
    owner = np.full(seen.ids.shape, -1, np.int32)
    on = (seen.ids >= 0) & (seen.ids < count)
    owner[on] = model.section[seen.ids[on]]
    owner[seen.ids >= count] = 1_000_000 + model.pane_of[seen.ids[seen.ids >= count] - count]
    out = np.zeros(seen.ids.shape, dtype=bool)
    out[:, 1:] |= owner[:, 1:] != owner[:, :-1]
    out[1:] |= owner[1:] != owner[:-1]
    depth = seen.depth
    for a, b, step in ((depth[:, 1:], depth[:, :-1], out[:, 1:]), (depth[1:], depth[:-1], out[1:])):
        np.logical_or(step, np.abs(a - b) > EDGE_SHARE * np.maximum(a, b), out=step)
    return out
