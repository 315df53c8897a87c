"""What glows that shouldn't: walls, seams, rings around lenses, light from next door; against what can be seen."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.cross_illumination import CrossIllumination
from gwiazda.core.assess.optics.joints import covered_faces
from gwiazda.core.assess.optics.lit_sections import LitSection
from gwiazda.core.assess.optics.skin import (
    coat_density,
    material_of,
    outside_reflectance,
    patch_density,
    skin_density,
    skin_of,
    skin_sigma,
)
from gwiazda.core.assess.states import Leak
from gwiazda.core.assess.uncertainty import Z95
from gwiazda.core.light.leak import MOST_COATS, density_of, leak_luminance
from gwiazda.core.light.scatter import through as transmitted_by
from gwiazda.core.light.visibility import visible_luminance, visible_slit, visible_spot
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import LN10
from gwiazda.core.parts.spreads import BAG
from gwiazda.core.plan.frame import FACE_NAMES, FACE_WORDS, Face, Side
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Opening, Passage, Plan, Seam, Section
from gwiazda.core.plan.model import ViewingConditions as ViewingRoom
from gwiazda.core.plan.naming import name_of
from gwiazda.core.radiosity.formfactors import in_plane
from gwiazda.core.radiosity.shape import FACES
from gwiazda.core.render.tone import hull_luminance

Array = npt.NDArray[np.float64]
BLOCK_COAT = "flat-black"
LISTED = 0.02  # of what is seen: fainter leaks are not listed
SEEN_FACES, ALL_FACES = (
    (0, 1, 2, 3, 5),
    tuple(range(6)),
)  # the bottom stands on something, unless it is looked at from below


class LeakScene(NamedTuple):
    """What leaks are looked for in, besides the rooms themselves."""

    catalogue: Catalogue
    sections: tuple[Section, ...]
    openings: tuple[Opening, ...]
    viewing: ViewingRoom
    kit_material: str
    passages: tuple[Passage, ...] = ()
    from_below: bool = False  # whether the plan has a view from there

    @property
    def faces(self) -> tuple[int, ...]:
        """The faces of a section's box that are looked at."""
        return ALL_FACES if self.from_below else SEEN_FACES


class FaceMap(NamedTuple):
    """A face seen from outside: cells' corners on the model (n, 4) along its two axes, luminance (n, C), cd/m²."""

    section: str
    face: int
    at_mm: float
    rects: Array
    luminance: Array


def face_density(catalogue: Catalogue, section: Section, kit_material: str, face: int, centres: Array) -> Array:
    """Optical density at places (n, 3) of a face, mm from the box's corner: the skin, and patches on it."""
    density = np.full(len(centres), skin_density(catalogue, section, kit_material, face))
    u, v = in_plane(face // 2)
    for patch in section.patches:
        if FACE_NAMES.index(patch.face) == face:
            inside = (
                (centres[:, u] >= patch.low[0]) & (centres[:, u] <= patch.high[0])
                & (centres[:, v] >= patch.low[1]) & (centres[:, v] <= patch.high[1])
            )  # fmt: skip
            density = density + inside * patch_density(catalogue, patch)
    return density


def _hidden(
    section_id: str, face: int, centres: Array, covered: Mapping[tuple[str, int], tuple[tuple[float, ...], ...]]
) -> npt.NDArray[np.bool_]:
    u, v = in_plane(face // 2)
    out = np.zeros(len(centres), dtype=bool)
    for a, b, c, d in covered.get((section_id, face), ()):
        out |= (centres[:, u] >= a) & (centres[:, u] <= c) & (centres[:, v] >= b) & (centres[:, v] <= d)
    return out


def walls_lx(room: LitSection, flux: Array, spill: CrossIllumination | None) -> Array:
    """Illuminance (lx) of a room's walls: (N, C) for fluxes (lamps, C)."""
    own = room.cells_per_lm @ flux if len(room.lamps) else np.zeros((len(room.cavity.box.area), flux.shape[1]))
    return own + spill.cells if spill is not None else own


def face_maps(
    catalogue: Catalogue, room: LitSection, walls: Array, kit_material: str, sections: tuple[Section, ...], least: float,
    faces: Sequence[int] = SEEN_FACES,
) -> list[FaceMap]:  # fmt: skip
    """Faces of a section that let out more than ``least`` (cd/m²) anywhere, cell by cell, as seen from outside."""
    box, section = room.cavity.box, room.section
    covered = covered_faces(sections)
    out = []
    for face in faces:
        a, b = box.start[face], box.start[face + 1]
        density = face_density(catalogue, section, kit_material, face, box.centre[a:b])
        light = leak_luminance(walls[a:b], density[:, None])
        light[_hidden(section.id, face, box.centre[a:b], covered)] = 0.0
        if float(light.sum(axis=1).max(initial=0.0)) <= least:
            continue
        u, v = in_plane(face // 2)
        corner = np.array(section.box.at)
        centre, half = box.centre[a:b] + corner, box.half[a:b]
        rects = np.column_stack(
            [centre[:, u] - half[:, u], centre[:, v] - half[:, v], centre[:, u] + half[:, u], centre[:, v] + half[:, v]]
        )
        end = FACES[face][1]
        at = section.box.at[face // 2] + (section.box.size[face // 2] + section.wall_mm if end else -section.wall_mm)
        out.append(FaceMap(section.id, face, float(at), rects, light))
    return out


def _edges(room: LitSection, seam: Seam, faces: Sequence[int]) -> list[tuple[int, int, npt.NDArray[np.intp]]]:
    """The four edges of a seam: the face it shows on, the end of that face it lies at, and the cells along it there.

    A seam round the roof shows on the four walls, along their upper edge.
    """
    box = room.cavity.box
    around = FACE_NAMES.index(seam.face)
    axis, end = FACES[around]
    out = []
    for face in faces:
        if face // 2 != axis:
            a, b = box.start[face], box.start[face + 1]
            place = box.centre[a:b, axis] + (box.half[a:b, axis] if end else -box.half[a:b, axis])
            target = box.size[axis] * end
            out.append((face, end, a + np.flatnonzero(np.abs(place - target) < 1e-6)))
    return out


def _seam_luminance(catalogue: Catalogue, walls: Array, cells: npt.NDArray[np.intp], seam: Seam) -> Array:
    density = coat_density(catalogue, seam.bridged, 1, 1.0) if seam.bridged else 0.0
    return leak_luminance(walls[cells], density)


def seam_strips(catalogue: Catalogue, room: LitSection, walls: Array, seam: Seam, side: Side) -> tuple[Array, Array]:
    """A seam as seen from one side: strips (n, 4) low h, low v, high h, high v on the model, and luminance (n,)."""
    box, section = room.cavity.box, room.section
    corner = np.array(section.box.at)
    for face, end, cells in _edges(room, seam, ALL_FACES):
        if FACE_NAMES[face] == side:
            axis = FACE_NAMES.index(seam.face) // 2
            u, v = in_plane(face // 2)
            centre, half = box.centre[cells] + corner, box.half[cells].copy()
            # In the joint of the two walls: half its width to either side of the box's edge.
            centre[:, axis] = section.box.at[axis] + (section.box.size[axis] if end else 0.0)
            half[:, axis] = seam.gap_mm / 2
            rects = np.column_stack(
                [
                    centre[:, u] - half[:, u],
                    centre[:, v] - half[:, v],
                    centre[:, u] + half[:, u],
                    centre[:, v] + half[:, v],
                ]
            )
            return rects, _seam_luminance(catalogue, walls, cells, seam)
    return np.zeros((0, 4)), np.zeros(0)


def seam_light(
    catalogue: Catalogue, room: LitSection, walls: Array, seam: Seam, faces: Sequence[int] = SEEN_FACES
) -> tuple[float, Array, str]:
    """The brightest place of a seam: its luminance (cd/m²), where (3,) on the model, and the side it is on."""
    box, best = room.cavity.box, (0.0, np.zeros(3), seam.face)
    for face, _, cells in _edges(room, seam, faces):
        light = _seam_luminance(catalogue, walls, cells, seam)
        if len(light) and float(light.max()) > best[0]:
            where = box.centre[cells[int(light.argmax())]] + np.array(room.section.box.at)
            best = (float(light.max()), where, FACE_NAMES[face])
    return best


def leaks_of(
    scene: LeakScene, rooms: Mapping[str, LitSection], fluxes: Mapping[str, Array], spills: Mapping[str, CrossIllumination],
    means: Mapping[str, float],
) -> tuple[Leak, ...]:  # fmt: skip
    """All leaks that come near to showing (from ``LISTED`` of what is seen on), worst first.

    ``fluxes``: (lamps, 1) lm by section; ``means``: mean luminance of each section's windows.
    """
    found: list[Leak] = []
    for key, room in rooms.items():
        spill = spills.get(key)
        walls = walls_lx(room, fluxes[key], spill)[:, 0]
        if not walls.any():
            continue
        hull = hull_luminance(scene.viewing.lux, outside_reflectance(scene.catalogue, room.section, scene.kit_material))
        through = walls_lx(room, fluxes[key] * room.leaking[:, None], spill)[:, 0] if len(room.lamps) else walls
        found += _wall_leaks(scene, room, through, hull)
        for seam in room.section.seams:
            value, where, _ = seam_light(scene.catalogue, room, walls, seam, scene.faces)
            seen = visible_slit(hull, seam.gap_mm, scene.viewing.distance_m)
            at = (float(where[0]), float(where[1]), float(where[2]))
            found += _listed(_Place(seam.id, "seam", key, key, seam.face, at), value, seen, BAG)
        found += _rings(scene, room, walls, hull)
        found += _channels(scene, room, through, hull)
        found += _next_door(scene, room, spill, visible_luminance(hull), means.get(key, 0.0))
    return tuple(sorted(found, key=lambda leak: -leak.times))


class _Place(NamedTuple):
    """Where a leak is: of what kind, in which section, of what, on which face."""

    id: str
    kind: str
    section: str
    subject: str
    face: Face
    at: tuple[float, float, float]


def _listed(place: _Place, value: float, seen: float, sigma: float) -> list[Leak]:
    """A leak of luminance ``value``, if it comes near to the least that shows; ``sigma`` of its logarithm."""
    times = value / seen
    if times * math.exp(Z95 * sigma) <= LISTED:
        return []
    leak_id, kind, section, subject, face, at = place
    return [Leak(leak_id, kind, section, subject, face, value, times, at, 0, None, times * math.exp(Z95 * sigma))]


def _wall_leaks(scene: LeakScene, room: LitSection, walls: Array, hull: float) -> list[Leak]:
    catalogue, section, key = scene.catalogue, room.section, room.section.id
    seen = visible_luminance(hull)
    # Coats stray by a quarter, by one hand; the light inside as the lamps of a bag do, or as far as its panes were read.
    known = catalogue.known.get(("section", key))
    inside = known.sigma if known is not None else BAG
    sigma = math.hypot(LN10 * skin_sigma(catalogue, section, scene.kit_material), inside)
    out = []
    for m in face_maps(catalogue, room, walls[:, None], scene.kit_material, scene.sections, LISTED * seen * math.exp(-Z95 * sigma), scene.faces):  # fmt: skip
        light = m.luminance[:, 0]
        best = int(light.argmax())
        glowing = m.rects[light > 0.5 * light[best]]
        u, v = in_plane(m.face // 2)
        at = [0.0, 0.0, 0.0]
        at[m.face // 2] = m.at_mm
        at[u], at[v] = (m.rects[best, 0] + m.rects[best, 2]) / 2, (m.rects[best, 1] + m.rects[best, 3]) / 2
        area_mm2 = float(((glowing[:, 2] - glowing[:, 0]) * (glowing[:, 3] - glowing[:, 1])).sum())
        shows = visible_spot(hull, area_mm2 * 1e-6 / scene.viewing.distance_m**2)
        value = float(light[best])
        times, safe = value / shows, value / shows * math.exp(Z95 * sigma)
        bright = m.rects[light > max(shows, 0.5 * light[best])]
        part = (*bright[:, :2].min(axis=0).tolist(), *bright[:, 2:].max(axis=0).tolist()) if len(bright) else None
        coats, safe_coats = _coats_for(catalogue, section, scene.kit_material, times, sigma)
        out.append(
            Leak(f"{key}:{FACE_NAMES[m.face]}", "wall", key, key, FACE_NAMES[m.face], value, times, (at[0], at[1], at[2]),
                 coats, part, safe, safe_coats)
        )  # fmt: skip
    return out


def _coats_for(
    catalogue: Catalogue, section: Section, kit_material: str, times: float, sigma: float
) -> tuple[int, int]:
    """Black coats inside that likely hide a leak, and that hide it for sure: each more coat strays as well."""
    black = catalogue.coats[BLOCK_COAT]
    layers = skin_of(catalogue, section, kit_material)
    lining = [x.film for x in layers if x.where == "lining"]
    rest = [x.film for x in layers if x.where != "lining"]
    now = max(transmitted_by([*lining, *rest]), 1e-30)
    likely = safe = MOST_COATS
    for count in reversed(range(MOST_COATS)):
        film = black.film(count)
        left = times * transmitted_by([*lining, *([film] if count else []), *rest]) / now
        if left < 1.0:
            likely = count
        if left * math.exp(Z95 * math.hypot(sigma, LN10 * film.sigma * bool(count))) < 1.0:
            safe = count
    return likely, max(safe, likely)


def _rings(scene: LeakScene, room: LitSection, walls: Array, hull: float) -> list[Leak]:
    """Light past a lens through the gap around it."""
    out = []
    box = room.cavity.box
    for i, o in enumerate(room.openings):
        # Beside a lit pane only a ring brighter than it shows; beside a dark one it shows as any leak.
        if o.gap_mm > 0 and not o.into and o.lit == 0:
            face = int(box.windows.face[i])
            a, b = box.start[face], box.start[face + 1]
            middle = np.array(o.at) - np.array(room.section.box.at)
            near = int(np.linalg.norm(box.centre[a:b] - middle, axis=1).argmin())
            value = float(leak_luminance(walls[a + near], 0.0))
            seen = visible_slit(hull, o.gap_mm, scene.viewing.distance_m)
            out += _listed(_Place(f"{o.id}:ring", "ring", room.section.id, o.id, o.side, o.at), value, seen, BAG)
    return out


def channel_density(catalogue: Catalogue, section: Section, kit_material: str, way: Passage) -> float:
    """Optical density over a channel filed into a wall from inside: what is left of the plastic, the coats outside, and what is laid over
    it. Lining and coats inside are filed away with the rest; one that breaks through leaves nothing of the plastic either."""
    layers = skin_of(catalogue, section, kit_material)
    films = [x.film for x in layers if x.where == "outside"]
    material = catalogue.materials.get(material_of(section, kit_material))
    left = way.wall_mm - way.take_mm
    if material is not None and left > 0.0:
        films.insert(0, material.film(left))
    if left <= 0.0:
        films = []
    covered = coat_density(catalogue, way.cover, 1, 1.0) if way.cover else 0.0
    return density_of(transmitted_by(films)) + covered


def _channels(scene: LeakScene, room: LitSection, walls: Array, hull: float) -> list[Leak]:
    """Light along channels that were filed into a section's wall for wires or fibres."""
    out = []
    box, section = room.cavity.box, room.section
    for way in scene.passages:
        if (
            way.make != "channel"
            or way.take_mm <= 0.0
            or way.wall_mm <= 0.0
            or section.id not in (way.section, way.into)
        ):
            continue
        middle = np.array(way.at) - np.array(section.box.at)
        first, last = box.start[0], box.start[6]
        near = int(np.linalg.norm(box.centre[first:last] - middle, axis=1).argmin())
        value = float(
            leak_luminance(walls[first + near], channel_density(scene.catalogue, section, scene.kit_material, way))
        )
        seen = visible_slit(hull, way.width_mm, scene.viewing.distance_m)
        face = FACE_NAMES[int(np.searchsorted(box.start[:7], first + near, side="right")) - 1]
        out += _listed(_Place(f"{way.id}:{section.id}", "channel", section.id, way.id, face, way.at), value, seen, BAG)
    return out


NEXT_DOOR_SHARE = 0.1  # of a section's own light: less from next door is not noticed


def _next_door(
    scene: LeakScene, room: LitSection, spill: CrossIllumination | None, seen: float, own: float
) -> list[Leak]:
    """Windows lit from next door where that isn't meant: through a wall, or a hole into a section with lamps of its own."""
    if spill is None or not len(room.openings):
        return []
    light = spill.luminance.sum(axis=1)
    best = int(light.argmax())
    value = float(light[best])
    free = not room.lamps and any(
        o.into == room.section.id or (o.section == room.section.id and o.into) for o in scene.openings
    )
    least = max(seen, NEXT_DOOR_SHARE * (own - value if own > value else 0.0))
    if free or value <= LISTED * seen or value < NEXT_DOOR_SHARE * max(own, seen):
        return []
    o = room.openings[best]
    return _listed(
        _Place(f"{room.section.id}:next door", "next door", room.section.id, o.id, o.side, o.at), value, least, BAG
    )


def place_name(plan: Plan, leak: Leak) -> str:
    """What a leak is called: “Deck 1, port wall”."""
    section = find(plan, leak.section)
    name = section.name if isinstance(section, Section) else leak.section
    face = FACE_WORDS[leak.face]
    words = {
        "wall": face,
        "seam": f"seam round the {face}",
        "ring": f"ring around {name_of(plan, leak.subject)}",
        "next door": "light from next door",
        "channel": f"along the groove {name_of(plan, leak.subject)}",
    }
    return f"{name}, {words[leak.kind]}"
