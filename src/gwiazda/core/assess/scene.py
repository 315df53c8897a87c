"""What a view shows in the dark: the assessment's lights laid on the view's sheet, channel by channel."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from gwiazda.core.assess.assessment import channel_of, known_lamps, rooms_of
from gwiazda.core.assess.lampwork import worked
from gwiazda.core.assess.states import Assessment
from gwiazda.core.light.render import ChannelLight, Surface, Wash
from gwiazda.core.parts.catalogue import lamp_parts, plastics
from gwiazda.core.plan.lookup import kept
from gwiazda.core.plan.models import NORMALS, PLANES, SHEET, Lamp, Opening, Plan, Section, Side, to_sheet
from gwiazda.core.plan.outlines import strips

Rgb = tuple[float, float, float]
Key = tuple[str, Rgb]


def channels_of(found: Assessment) -> tuple[str, ...]:
    """All channels of a plan, in the order of its lamps."""
    return tuple(dict.fromkeys(lamp.channel for lamp in found.lamps.values()))


@kept(slots=8)
def _surfaces(sections: tuple[Section, ...], side: Side, reflectance: float) -> tuple[Surface, ...]:
    _, _, d = PLANES[side]
    seen_from = {"starboard": "port"}.get(side, side)
    out = []
    for section in sections:
        for outline in section.outlines:
            if outline.side != seen_from:
                continue
            a, b, c = SHEET[side]
            points = np.array(outline.points) * np.array([a, b])
            low, high = section.box.at[d], section.box.at[d] + section.box.size[d]
            own = plastics().get(section.plastic)
            back = own.reflectance if own else reflectance
            out.append(Surface(points, max(c * low, c * high) + section.wall_mm, back))
    return tuple(out)


SLICES = 12  # of a pane that isn't a rectangle


@lru_cache(maxsize=4096)
def _pane_strips(o: Opening) -> tuple[tuple[float, float, float, float], ...]:
    """A pane as rectangles about its centre on its view's sheet (left, right, top, bottom, mm), their area its own."""
    w, h = o.width_mm, o.height_mm
    if o.shape == "rect":
        return ((-w / 2, w / 2, -h / 2, h / 2),)
    a, b, _ = SHEET[o.side]
    if o.shape == "traced":
        points = tuple((a * p * w, b * q * h) for p, q in o.points)
    else:
        # A slot is half an ellipse at each end, apart by what its longer side has over; an ellipse has none over.
        short = min(w, h) if o.shape == "slot" else 0.0
        half = [(w / 2 - (w - short) / 2, h / 2 - (h - short) / 2)] if short else [(w / 2, h / 2)]
        rx, ry = half[0]
        gap_x, gap_y = w / 2 - rx, h / 2 - ry
        turn = [2.0 * math.pi * (i + 0.5) / 48 for i in range(48)]
        points = tuple(
            (math.copysign(gap_x, math.cos(t)) + rx * math.cos(t), math.copysign(gap_y, math.sin(t)) + ry * math.sin(t))
            for t in turn
        )
    found = strips(points, SLICES)
    area = sum((x1 - x0) * (y1 - y0) for x0, x1, y0, y1 in found)
    k = math.sqrt(o.area_mm2 / area) if area > 0 else 1.0
    return tuple((x0 * k, x1 * k, y0 * k, y1 * k) for x0, x1, y0, y1 in found)


def surfaces_of(plan: Plan, side: Side, reflectance: float) -> tuple[Surface, ...]:
    """The faces of the sections turned to the viewer: their outlines, as far out as box and wall reach."""
    return _surfaces(plan.sections, side, reflectance)


def scene_of(plan: Plan, found: Assessment, side: Side) -> tuple[ChannelLight, ...]:
    """Lights of a view, one entry for each colour of each channel, at the currents of the assessment."""
    lamps = known_lamps(plan.lamps)
    panes: dict[Key, list[tuple[float, float, float, float]]] = {}
    pane_cd: dict[Key, list[float]] = {}
    discs: dict[Key, list[tuple[float, float, float, float]]] = {}
    disc_cd: dict[Key, list[float]] = {}
    washes: dict[Key, list[Wash]] = {}

    for room in rooms_of(plan.sections, plan.openings, lamps).values():
        facing = [i for i, o in enumerate(room.openings) if o.side == side and room.lit[i]]
        if not facing or not room.lamps:
            continue
        groups: dict[Key, list[int]] = {}
        for j, lamp in enumerate(room.lamps):
            state = found.lamps[lamp.id]
            groups.setdefault((state.channel, state.rgb), []).append(j)
        flux = np.array([found.lamps[p.id].flux_lm for p in room.lamps])
        for key, members in groups.items():
            luminance = room.luminance_per_lm[:, members] @ flux[members]
            for i in facing:
                o = room.openings[i]
                right, down, _ = to_sheet(side, o.at)
                if o.shape == "round" and o.width_mm == o.height_mm:
                    discs.setdefault(key, []).append((right, down, o.width_mm / 2, float("inf")))
                    disc_cd.setdefault(key, []).append(float(luminance[i]))
                else:
                    cut = _pane_strips(o)
                    for x0, x1, y0, y1 in cut:
                        panes.setdefault(key, []).append((right + x0, right + x1, down + y0, down + y1))
                    pane_cd.setdefault(key, []).extend([float(luminance[i])] * len(cut))
    for lamp in lamps:
        if lamp.mount == "outside":
            state = found.lamps[lamp.id]
            key = (channel_of(lamp, None), state.rgb)
            _outside(lamp, state.axial_cd, side, key, discs, disc_cd, washes)
    keys = dict.fromkeys([*panes, *discs, *washes])
    return tuple(
        ChannelLight(
            channel,
            rgb,
            np.array(panes.get((channel, rgb), []), dtype=float).reshape(-1, 4),
            np.array(pane_cd.get((channel, rgb), []), dtype=float),
            np.array(discs.get((channel, rgb), []), dtype=float).reshape(-1, 4),
            np.array(disc_cd.get((channel, rgb), []), dtype=float),
            tuple(washes.get((channel, rgb), [])),
        )
        for channel, rgb in keys
    )


def _outside(
    lamp: Lamp,
    axial_cd: float,
    side: Side,
    key: Key,
    discs: dict[Key, list[tuple[float, float, float, float]]],
    disc_cd: dict[Key, list[float]],
    washes: dict[Key, list[Wash]],
) -> None:
    """A lamp that is seen itself: its face as a disc of its intensity over its area, and its wash on the hull."""
    part = lamp_parts()[lamp.part]
    order = 0.0 if lamp.frosted_cap else worked(lamp).order
    aim = np.array(lamp.aim) / np.linalg.norm(lamp.aim)
    toward_eye = 1.0 if lamp.frosted_cap else max(float(aim @ np.array(NORMALS[side])), 0.0)
    at = to_sheet(side, lamp.at)
    intensity = axial_cd * toward_eye**order
    if intensity > 0:
        radius = part.face_mm / 2
        discs.setdefault(key, []).append((at[0], at[1], radius, at[2]))
        disc_cd.setdefault(key, []).append(intensity / (np.pi * (radius * 1e-3) ** 2))
    if lamp.frosted_cap:
        # Even all round: towards the hull, that is a lamp of no preferred direction looking straight at it.
        washes.setdefault(key, []).append(Wash(at, (0.0, 0.0, -1.0), 0.0, axial_cd))
    else:
        sheet_aim = to_sheet(side, (float(aim[0]), float(aim[1]), float(aim[2])))
        washes.setdefault(key, []).append(Wash(at, sheet_aim, order, axial_cd))
