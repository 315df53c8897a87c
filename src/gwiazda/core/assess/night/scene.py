"""What a view shows in the dark: the assessment's lights laid on the view's sheet, channel by channel."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.fibres.ways import inward
from gwiazda.core.assess.fitted import covered
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.looms.crossing import shaded
from gwiazda.core.assess.night.glows import LEAST_SHOWN, Key, Source, Surroundings, by_key, glows_of, sources_of
from gwiazda.core.assess.optics.cross_illumination import CrossIllumination, cross_illumination_of
from gwiazda.core.assess.optics.leaks import walls_lx
from gwiazda.core.assess.optics.lenses import dome_mm, face_shown_mm, lens_of, spot_at, stands_out, width_mm
from gwiazda.core.assess.optics.lighting import joints_in, lit_sections_of
from gwiazda.core.assess.optics.lit_sections import LitSection, tinted
from gwiazda.core.assess.optics.rows import parted
from gwiazda.core.assess.optics.skin import bare_reflectance, outside_reflectance
from gwiazda.core.assess.states import Assessment
from gwiazda.core.assess.view_index import section_polygons
from gwiazda.core.light.visibility import visible_luminance
from gwiazda.core.memo import memoize, memoize_by_value, same_gathered
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import NORMALS, OPPOSITE, PLANES, SHEET, Side, to_sheet
from gwiazda.core.plan.lookup import standing
from gwiazda.core.plan.model import Fitting, Lamp, Opening, Plan, Section
from gwiazda.core.plan.outline.oblique import facing_of, seen_from
from gwiazda.core.plan.outline.outlines import strips
from gwiazda.core.render.layers import ChannelLight, Surface, Wash
from gwiazda.core.render.raster import inside_polygon
from gwiazda.core.render.tone import hull_luminance
from gwiazda.core.turns import give_way

Array = npt.NDArray[np.float64]
Rgb = tuple[float, float, float]


def channels_of(assessment: Assessment) -> tuple[str, ...]:
    """All channels of a plan, in the order of its lamps."""
    return tuple(dict.fromkeys(lamp.channel for lamp in assessment.lamps.values()))


@memoize(slots=8)
def _surfaces(
    catalogue: Catalogue, sections: tuple[Section, ...], side: Side, kit_material: str, fittings: tuple[Fitting, ...] = ()
) -> tuple[Surface, ...]:  # fmt: skip
    _, _, d = PLANES[side]
    out = []
    for section in sections:
        for outline in section.drawn(side):
            a, b, c = SHEET[side]
            points = np.array(outline.points) * np.array([a, b])
            low, high = section.box.at[d], section.box.at[d] + section.box.size[d]
            back = outside_reflectance(catalogue, section, kit_material)
            out.append(Surface(points, max(c * low, c * high) + section.wall_mm, back))
    a, b, c = SHEET[side]
    for fitting in fittings:
        near = max(c * fitting.low[d], c * (fitting.low[d] + fitting.size[d]))
        points = np.array(fitting.seen(side)) * np.array([a, b])
        out.append(Surface(points, near, bare_reflectance(catalogue, kit_material)))
    return tuple(out)


PROUD_MM = 0.05  # a tip lies in its skin; it isn't to be lost behind it by a rounding
SLICES = 12  # of a pane that isn't a rectangle


@memoize_by_value(4096)
def pane_strips(o: Opening) -> tuple[tuple[float, float, float, float], ...]:
    """A pane as rectangles about its centre on its view's sheet (left, right, top, bottom, mm), their area its own."""
    w, h = o.width_mm, o.height_mm
    a, b, _ = SHEET[o.side]
    if o.shape == "rect":
        return ((-w / 2, w / 2, -h / 2, h / 2),)
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


def surfaces_among(
    catalogue: Catalogue, sections: tuple[Section, ...], kit_material: str, side: Side
) -> tuple[Surface, ...]:
    """The faces of these sections turned to the viewer."""
    return _surfaces(catalogue, sections, side, kit_material)


def surfaces_of(catalogue: Catalogue, plan: Plan, side: Side) -> tuple[Surface, ...]:
    """The faces turned to the viewer: outlines of sections, as far out as box and wall reach, and fittings."""
    return _surfaces(catalogue, plan.sections, side, plan.kit.material, standing(plan))


class PaneShapes(NamedTuple):
    """Openings on a view's sheet: rectangles (R, 4) left right top bottom and discs (D, 4) right, down, radius,
    height, each with the number of the opening it belongs to."""

    rects: Array
    rect_of: npt.NDArray[np.intp]
    discs: Array
    disc_of: npt.NDArray[np.intp]


def pane_shapes(openings: Sequence[Opening], side: Side) -> PaneShapes:
    """Openings as a side's sheet has them: rectangles and discs (mm), and which opening each is of."""
    rects: list[tuple[float, float, float, float]] = []
    discs: list[tuple[float, float, float, float]] = []
    rect_of: list[int] = []
    disc_of: list[int] = []
    for i, o in enumerate(openings):
        right, down, _ = to_sheet(side, o.at)
        if o.shape == "round" and o.width_mm == o.height_mm:
            discs.append((right, down, o.width_mm / 2, math.inf))
            disc_of.append(i)
        elif o.shape == "rect":
            w, h = o.width_mm / 2, o.height_mm / 2
            rects.append((right - w, right + w, down - h, down + h))
            rect_of.append(i)
        else:
            cut = pane_strips(o)
            rects.extend((right + x0, right + x1, down + y0, down + y1) for x0, x1, y0, y1 in cut)
            rect_of.extend([i] * len(cut))
    return PaneShapes(
        np.array(rects).reshape(-1, 4),
        np.array(rect_of, dtype=np.intp),
        np.array(discs).reshape(-1, 4),
        np.array(disc_of, dtype=np.intp),
    )


class _Lights:
    """Lights of a view, gathered by channel and colour: panes (n, 4) and discs (n, 4) with their luminances (n,)."""

    def __init__(self) -> None:
        self.panes: dict[Key, list[tuple[Array, Array]]] = {}
        self.discs: dict[Key, list[tuple[Array, Array]]] = {}
        self.washes: dict[Key, list[Wash]] = {}

    def panes_of(self, key: Key, shapes: PaneShapes, cd_m2: Array) -> None:
        """Panes of luminance ``cd_m2``, one for each opening of ``shapes``; the dark ones are left out."""
        for into, places, of in (
            (self.panes, shapes.rects, shapes.rect_of),
            (self.discs, shapes.discs, shapes.disc_of),
        ):
            values = cd_m2[of]
            lit = values > 0.0
            if lit.any():
                into.setdefault(key, []).append((places[lit], values[lit]))

    def disc(self, key: Key, right: float, down: float, radius: float, height: float, cd_m2: float) -> None:
        self.discs.setdefault(key, []).append((np.array([[right, down, radius, height]]), np.array([cd_m2])))

    def face(self, key: Key, at: tuple[float, float, float], side: Side, face_mm: float, cd_m2: float) -> None:
        """A lamp's own face behind a pane, or what a lens makes of it."""
        right, down, _ = to_sheet(side, at)
        self.disc(key, right, down, face_mm / 2, math.inf, cd_m2)

    def patch(self, key: Key, side: Side, rects: Array, cd_m2: Array) -> None:
        """Parts of a wall that glow: corners (n, 4) low h, low v, high h, high v on the model."""
        a, b, _ = SHEET[side]
        x, y = np.sort(a * rects[:, [0, 2]], axis=1), np.sort(b * rects[:, [1, 3]], axis=1)
        self.panes.setdefault(key, []).append((np.column_stack([x, y]), cd_m2))

    def add(self, other: _Lights) -> None:
        for key, panes in other.panes.items():
            self.panes.setdefault(key, []).extend(panes)
        for key, discs in other.discs.items():
            self.discs.setdefault(key, []).extend(discs)
        for key, washes in other.washes.items():
            self.washes.setdefault(key, []).extend(washes)

    def channels(self) -> tuple[ChannelLight, ...]:
        keys = dict.fromkeys([*self.panes, *self.discs, *self.washes])
        return tuple(
            ChannelLight(
                *key, *_together(self.panes.get(key)), *_together(self.discs.get(key)), tuple(self.washes.get(key, []))
            )
            for key in keys
        )


def _together(pieces: list[tuple[Array, Array]] | None) -> tuple[Array, Array]:
    """Places (n, 4) and luminances (n,) of all pieces."""
    give_way()
    if not pieces:
        return np.zeros((0, 4)), np.zeros(0)
    return np.concatenate([x for x, _ in pieces]), np.concatenate([x for _, x in pieces])


def scene_of(plan: Plan, assessment: Assessment, side: Side, leaks: bool = True) -> tuple[ChannelLight, ...]:
    """Lights of a view, one entry for each colour of each channel, at the currents of the assessment; without ``leaks`` as if walls
    and seams were tight."""
    catalogue = assessment.catalogue
    plan = furnished(catalogue, plan)
    lamps = known_lamps(catalogue, plan.lamps)
    out = _Lights()
    rooms = lit_sections_of(catalogue, plan.sections, plan.openings, lamps, plan.kit.material, assessment.cells)
    joints = joints_in(catalogue, plan.sections, plan.openings, plan.kit.material)
    lights = sources_of(catalogue, lamps, assessment)
    every: dict[Key, int] = {}
    spills: dict[str, CrossIllumination] = {}
    if joints:
        states = [assessment.lamps[p.id] for room in rooms.values() for p in room.lamps]
        for state in states:
            every.setdefault((state.channel, state.rgb), len(every))
        if every:
            split = {x.id: np.eye(len(every))[every[(x.channel, x.rgb)]] * x.flux_lm for x in states}
            spills = cross_illumination_of(catalogue, rooms, joints, split, len(every))
    dark = dict(shaded(assessment.crossings))
    for name, share in covered(standing(plan), plan.openings, side).items():
        dark[name] = 1.0 - (1.0 - dark.get(name, 0.0)) * (1.0 - share)
    among = Surroundings(catalogue, plan.sections, plan.room.lux, plan.kit.material)
    for name, room in rooms.items():
        here = [assessment.lamps[p.id] for p in room.lamps]
        light = _Light(
            tuple((x.channel, x.rgb) for x in here), tuple(x.flux_lm for x in here), spills.get(name), tuple(every),
            tuple(dark.get(o.id, 0.0) for o in room.openings) if dark else (), lights,
        )  # fmt: skip
        out.add(_room_lights(among, side, room, light, leaks))
    for lamp in lamps:
        if lamp.mount == "outside":
            state = assessment.lamps[lamp.id]
            key = (state.channel, state.rgb)
            _outside(catalogue, lamp, state.axial_cd, side, key, out)
    if assessment.tips:
        _tips(plan, assessment, side, out)
    return out.channels()


def _tips(plan: Plan, assessment: Assessment, side: Side, out: _Lights) -> None:
    """Tips that face the viewer as discs of their luminance, and lengths scratched to glow as strips of theirs."""
    for dot in plan.dots:
        tip = assessment.tips.get(dot.id)
        if tip is None:
            continue
        key = (tip.channel, tip.rgb)
        wide = assessment.catalogue.fibres[dot.fibre].diameter_mm
        if dot.side == side and tip.cd > 0:
            right, down, height = to_sheet(side, dot.at)
            out.disc(key, right, down, wide / 2, height + PROUD_MM, tip.cd_m2)
        if dot.bent == "lit edge" and tip.tightest_at is not None and tip.loss.bend_lm > 0:
            # What a bend loses leaves around it: even all round, from a spot three fibres wide where it shows.
            right, down, height = to_sheet(side, tip.tightest_at)
            radius = 1.5 * wide
            shown = tip.loss.bend_lm / (4.0 * math.pi) / (math.pi * (radius * 1e-3) ** 2)
            out.disc(key, right, down, radius, height + PROUD_MM, shown)
        if dot.glow_mm > 0 and tip.loss.side_lm > 0:
            # A thin strip that sends alike all round: I = Φ/π² straight at it, over the area that is seen.
            sheet = np.array([to_sheet(side, p) for p in (dot.at, inward(dot, dot.glow_mm))])[:, :2]
            low, high = sheet.min(axis=0) - wide / 2, sheet.max(axis=0) + wide / 2
            area = float(np.prod(high - low)) * 1e-6
            rect = np.array([[low[0], high[0], low[1], high[1]]])
            out.panes.setdefault(key, []).append((rect, np.array([tip.loss.side_lm / math.pi**2 / area])))


class _Light(NamedTuple):
    """What lights a room: keys and light (lm) of its lamps, what comes from next door with the keys of all that may shine in, the shares of its
    panes that wires lie over or fittings stand before, and the spectrum behind each key."""

    own: tuple[Key, ...]
    flux_lm: tuple[float, ...]
    spill: CrossIllumination | None
    every: tuple[Key, ...]
    dark: tuple[float, ...]
    lights: tuple[tuple[Key, Source], ...]


@memoize(slots=2, by=lambda among, side, room, *_: (room.section.id, side), places=8192, same=same_gathered)
def _room_lights(among: Surroundings, side: Side, room: LitSection, given: _Light, leaks: bool = True) -> _Lights:
    """What one room shows in a view: panes, lamps in plain sight, walls and seams that glow."""
    out = _Lights()
    catalogue, sections, lux, kit_material = among
    own, flux_lm, spill, every, dark, lights = given
    keys, light, spill = by_key(room, own, flux_lm, spill, every)
    shown = room.luminance_per_lm @ light + (spill.luminance if spill is not None else 0.0)
    if any(dark):
        shown = shown * (1.0 - np.array(dark))[:, None]
    facing = [i for i, o in enumerate(room.openings) if o.side == side and (room.lit[i] or room.glows[i])]
    plain = [i for i in facing if not (room.colours[i] and room.lamps)]
    shapes = pane_shapes([room.openings[i] for i in plain], side)
    for key, values in zip(keys, shown[plain].T, strict=True):
        out.panes_of(key, shapes, values)
    for i in facing:
        if room.colours[i] and room.lamps:
            shapes = pane_shapes([room.openings[i]], side)
            for j, p in enumerate(room.lamps):
                value = room.luminance_per_lm[i : i + 1, j] * flux_lm[j]
                out.panes_of((own[j][0], tinted(catalogue, p, room.colours[i]).rgb), shapes, value)
    for i, j in zip(*np.nonzero(room.sights), strict=True):
        if room.openings[i].side == side:
            key = (own[j][0], tinted(catalogue, room.lamps[j], room.colours[i]).rgb)
            o, p = room.openings[i], room.lamps[j]
            wide = face_shown_mm(catalogue, o, p, catalogue.lamps[p.part])
            out.face(key, spot_at(o, p), side, wide, float(room.sights[i, j] * flux_lm[j]))
    _domes(catalogue, room, light, keys, side, surfaces_among(catalogue, sections, kit_material, side), out)
    _aslant(room, shown, keys, side, sections, out)
    hull = hull_luminance(lux, outside_reflectance(catalogue, room.section, kit_material))
    _onto_neighbours(room, shown, keys, side, sections, LEAST_SHOWN * visible_luminance(hull), out)
    if keys and leaks:
        walls = walls_lx(room, light, spill)
        for glow in glows_of(among, room, walls, keys, (side,), dict(lights)):
            out.patch(glow.key, side, glow.rects, glow.cd_m2)
    return out


def _aslant(
    room: LitSection, shown: Array, keys: list[Key], side: Side, sections: tuple[Section, ...], out: _Lights
) -> None:  # fmt: skip
    """Panes of other sides in a skin that turns towards the viewer: as large as they look from there, and as bright as straight on."""
    for i, o in enumerate(room.openings):
        if o.side in (side, OPPOSITE[side]) or o.into or not (room.lit[i] or room.glows[i]) or not shown[i].any():
            continue
        seen = seen_from(room.section, o, side)
        if seen is None:
            continue
        right, down, toward = to_sheet(side, o.at)
        others = section_polygons(sections, side)
        if any(k != room.section.id and high > toward and inside_polygon(p, right, down) for k, p, high in others):
            continue
        k = math.sqrt(seen.area_mm2 / (4.0 * seen.half_h * seen.half_v))
        a, b = k * seen.half_h, k * seen.half_v
        rect = np.array([[right - a, right + a, down - b, down + b]])
        for key, value in zip(keys, shown[i], strict=True):
            if value > 0:
                out.panes.setdefault(key, []).append((rect, np.array([value])))


def _onto_neighbours(
    room: LitSection, shown: Array, keys: list[Key], side: Side, sections: tuple[Section, ...], least: float, out: _Lights
) -> None:  # fmt: skip
    """What lit panes of other sides throw on the outsides around them: each row as a few diffuse sources of its intensity L·A."""
    rows: dict[Side, list[int]] = {}
    for i, o in enumerate(room.openings):
        if o.side not in (side, OPPOSITE[side]) and not o.into and room.lit[i] and shown[i].any():
            rows.setdefault(o.side, []).append(i)
    if not rows:
        return
    faces = [(p, high) for _, p, high in section_polygons(sections, side)]
    for row in rows.values():
        for part in parted(np.array([room.openings[i].at for i in row], dtype=float)):
            mine = [row[k] for k in part]
            cd = shown[mine] * np.array([room.openings[i].area_mm2 * 1e-6 for i in mine])[:, None]
            whole = cd.sum(axis=1)
            centre = (whole @ np.array([room.openings[i].at for i in mine])) / whole.sum()
            normal = np.mean([facing_of(room.section, room.openings[i]).normal for i in mine], axis=0)
            proud = room.section.wall_mm + PROUD_MM
            place = to_sheet(side, tuple((centre + normal * proud).tolist()))
            aim = to_sheet(side, tuple(normal.tolist()))
            if not any(_before(place, aim, float(whole.sum()), least, p, high) for p, high in faces):
                continue
            for key, value in zip(keys, cd.sum(axis=0), strict=True):
                if value > 0:
                    out.washes.setdefault(key, []).append(Wash(place, aim, 1.0, float(value), True))


def _before(
    place: tuple[float, float, float], aim: tuple[float, float, float], cd: float, least: float, polygon: Array, high: float
) -> bool:  # fmt: skip
    """Whether a face lies lower than a source, any corner of it before the way it looks, and near enough that ``least`` (cd/m²) may show on
    it if it is white: E is at most I·h/r³."""
    below = place[2] - high
    if below <= 0.0:
        return False
    corner = polygon - np.array(place[:2])
    if not bool((corner @ np.array(aim[:2]) - below * aim[2] > 0).any()):
        return False
    low, top = corner.min(axis=0), corner.max(axis=0)
    aside = np.maximum(np.maximum(low, -top), 0.0)
    r2 = float(aside @ aside) + below * below
    return bool(cd * 1e6 * below > math.pi * least * r2**1.5)


def _domes(
    catalogue: Catalogue,
    room: LitSection,
    light: Array,
    keys: list[Key],
    side: Side,
    faces: tuple[Surface, ...],
    out: _Lights,
) -> None:
    """Lenses that stand out of a skin seen edge-on: what a dome scatters is as bright from there as from the front."""
    for i, o in enumerate(room.openings):
        part = lens_of(catalogue, o)
        if part is None or o.lens is None or not room.lit[i] or not stands_out(o, side):
            continue
        high = dome_mm(o.lens, width_mm(o), part)
        shown = room.show[i, 0] * (room.lux[i] @ light)
        if high <= 0.0 or not shown.any():
            continue
        # As a rectangle of the area of half an ellipse, from the outside of the skin on.
        depth = PLANES[o.side][2]
        low, top = list(o.at), list(o.at)
        for a in range(3):
            low[a] -= width_mm(o) / 2
            top[a] += width_mm(o) / 2
        way = float(NORMALS[o.side][depth])
        # From the outside of the skin, whichever of its faces the opening was put on.
        box = room.section.box
        face = box.at[depth] + (box.size[depth] if way > 0 else 0.0)
        base = way * max(way * o.at[depth], way * face + room.section.wall_mm)
        low[depth], top[depth] = sorted((base, base + way * high * math.pi / 4.0))
        middle = [(p + q) / 2 for p, q in zip(low, top, strict=True)]
        x, y, toward = to_sheet(side, (middle[0], middle[1], middle[2]))
        if any(f.toward_mm > toward and inside_polygon(f.polygon, x, y) for f in faces):
            continue
        h, v, _ = PLANES[side]
        rect = np.array([[low[h], low[v], top[h], top[v]]])
        for key, value in zip(keys, shown, strict=True):
            if value > 0:
                out.patch(key, side, rect, np.array([value]))


def _outside(catalogue: Catalogue, lamp: Lamp, axial_cd: float, side: Side, key: Key, out: _Lights) -> None:
    """A lamp that is seen itself: its face as a disc of its intensity over its area, and its wash on the hull."""
    give_way()
    part = catalogue.lamps[lamp.part]
    order = 0.0 if lamp.frosted_cap else worked(catalogue, lamp).order
    aim = np.array(lamp.aim) / np.linalg.norm(lamp.aim)
    toward_eye = 1.0 if lamp.frosted_cap else max(float(aim @ np.array(NORMALS[side])), 0.0)
    at = to_sheet(side, lamp.at)
    intensity = axial_cd * toward_eye**order
    if intensity > 0:
        radius = part.face_mm / 2
        out.disc(key, at[0], at[1], radius, at[2], intensity / (np.pi * (radius * 1e-3) ** 2))
    if lamp.frosted_cap:
        # Even all round: towards the hull, that is a lamp of no preferred direction looking straight at it.
        out.washes.setdefault(key, []).append(Wash(at, (0.0, 0.0, -1.0), 0.0, axial_cd))
    else:
        sheet_aim = to_sheet(side, (float(aim[0]), float(aim[1]), float(aim[2])))
        out.washes.setdefault(key, []).append(Wash(at, sheet_aim, order, axial_cd))
