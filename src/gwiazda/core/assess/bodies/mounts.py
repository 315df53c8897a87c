"""Switches and sockets in a wall: through which they come, whether a finger or a plug gets at them there, and where else they would sit."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.bodies.rooms import taken_in, without
from gwiazda.core.assess.bodies.sizes import Body, bodies_of, socket_of, switches_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import SocketPart, SwitchPart
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_NAMES, FACE_WORDS, Face
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Box, Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.quantities import figure
from gwiazda.core.space.boxes import Size, free_places, ways_round

FINGER_MM = 15.0
AT_WALL_MM = 1.0  # off the wall it comes through
LIKE_MM = 0.5  # by which a place may be off the part's own size


class Mount(NamedTuple):
    """A switch or socket that has a place: its section, its part; the face it comes through and where on the inside of that (mm), none where
    it touches no wall that way; what is free before it outside (mm), and what it wants there."""

    of: str
    section: str
    part: SwitchPart | SocketPart
    place: Obstacle
    face: Face | None
    at: tuple[float, float, float]
    free_mm: float
    wants_mm: float
    before: str = ""

    @property
    def reached(self) -> bool:
        """Whether it is worked or plugged in from outside."""
        return self.face is not None and self.free_mm >= self.wants_mm

    @property
    def words(self) -> str:
        """A sentence for a card: through which wall it comes, by which hole, and what to mind."""
        through = (
            f"It comes through the {FACE_WORDS[self.face]}, by a hole of {figure(self.part.hole_mm, 2)} mm. "
            if self.face is not None
            else ""
        )
        return through + self.part.about


def _part_of(catalogue: Catalogue, plan: Plan, of: str) -> SwitchPart | SocketPart | None:
    """The switch or socket that a body is, where it goes into a wall."""
    for switch in switches_of(plan):
        if switch.id == of:
            part = catalogue.switch(switch.kind)
            return part if part.into_wall else None
    feed = next((f for f in plan.feeds if f.id == of), None)
    return socket_of(catalogue, feed.supply) if feed is not None else None


def _faces(
    section: Section, box: Box, part: SwitchPart | SocketPart
) -> Iterator[tuple[float, Face, tuple[float, float, float]]]:
    """The walls a box stands at with the end that goes into one: how far off, which, the middle of that end on the wall."""
    deep = part.size_mm[part.into_wall - 1]
    across = sorted(x for k, x in enumerate(part.size_mm) if k != part.into_wall - 1)
    for axis in range(3):
        others = sorted(x for k, x in enumerate(box.size) if k != axis)
        if abs(box.size[axis] - deep) > LIKE_MM or any(
            abs(a - b) > LIKE_MM for a, b in zip(others, across, strict=True)
        ):
            continue
        for far in (0, 1):
            wall = section.box.at[axis] + far * section.box.size[axis]
            gap = abs(box.at[axis] + far * box.size[axis] - wall)
            at = [a + s / 2 for a, s in zip(box.at, box.size, strict=True)]
            at[axis] = wall
            if gap <= AT_WALL_MM:
                yield gap, FACE_NAMES[2 * axis + far], (at[0], at[1], at[2])


def free_before(plan: Plan, section: Section, face: Face, at: tuple[float, float, float]) -> tuple[float, str]:
    """How much is free (mm) outside of a place on a wall, a finger wide, up to the next section or what the model stands on; and what that is."""
    axis, far = divmod(FACE_NAMES.index(face), 2)
    outside = at[axis] + (section.wall_mm if far else -section.wall_mm)
    found = [(float("inf"), "")]
    if face == "bottom":
        table = min(s.box.at[2] - s.wall_mm for s in plan.sections)
        found.append((outside - table, "what it stands on"))
    for s in plan.sections:
        if s.id == section.id:
            continue
        low = [a - s.wall_mm for a in s.box.at]
        high = [a + d + s.wall_mm for a, d in zip(s.box.at, s.box.size, strict=True)]
        over = all(low[k] < at[k] + FINGER_MM / 2 and high[k] > at[k] - FINGER_MM / 2 for k in range(3) if k != axis)
        gap = low[axis] - outside if far else outside - high[axis]
        if over and gap >= -section.wall_mm - s.wall_mm:
            found.append((max(gap, 0.0), s.name))
    return min(found)


def wanted_mm(part: SwitchPart | SocketPart) -> float:
    """What a finger or a plug wants outside, mm."""
    return part.plug_mm if isinstance(part, SocketPart) else FINGER_MM


def mounts_of(catalogue: Catalogue, plan: Plan) -> tuple[Mount, ...]:
    """Every switch and socket that goes into a wall and has a place."""
    out = []
    for body in bodies_of(catalogue, plan):
        part = _part_of(catalogue, plan, body.of)
        section = section_of(plan, body.section)
        place = next((o for o in section.obstacles if o.of == body.of), None)
        if part is None or place is None:
            continue
        best = max(
            ((min(free, wanted_mm(part)), -gap, face, at, free, what) for gap, face, at in _faces(section, place.box, part)
             for free, what in (free_before(plan, section, face, at),)),
            default=None,
        )  # fmt: skip
        if best is None:
            out.append(Mount(body.of, section.id, part, place, None, place.box.centre, 0.0, wanted_mm(part)))
        else:
            _, _, face, at, free, what = best
            out.append(Mount(body.of, section.id, part, place, face, at, free, wanted_mm(part), what))
    return tuple(out)


def _ways_in(part: SwitchPart | SocketPart, axis: int) -> tuple[Size, ...]:
    """The ways it stands with the end that goes into the wall along an axis."""
    deep = part.size_mm[part.into_wall - 1]
    return tuple(w for w in ways_round(part.size_mm) if abs(w[axis] - deep) < 1e-6)


def best_place(catalogue: Catalogue, plan: Plan, body: Body) -> Box | None:
    """Where a switch or socket comes through a wall and is got at, the walls before the roof, near to where it stands now; None where
    there is no such place."""
    part, section = _part_of(catalogue, plan, body.of), section_of(plan, body.section)
    if part is None:
        return None
    now = next((o.box.centre for o in section.obstacles if o.of == body.of), section.box.centre)
    taken = taken_in(catalogue, without(plan, section, body), section.id)
    found: list[tuple[bool, bool, float, Box]] = []
    for number, face in enumerate(FACE_NAMES):
        axis, far = divmod(number, 2)
        for way in _ways_in(part, axis):
            low, room = list(section.box.at), list(section.box.size)
            if way[axis] > room[axis]:
                continue
            low[axis] += far * (room[axis] - way[axis])
            room[axis] = way[axis]
            for corner in free_places((low[0], low[1], low[2]), (room[0], room[1], room[2]), taken, way).tolist():
                at = [c + s / 2 for c, s in zip(corner, way, strict=True)]
                away = float(np.abs(np.array(at) - now).sum())
                at[axis] = section.box.at[axis] + far * section.box.size[axis]
                free, _ = free_before(plan, section, face, (at[0], at[1], at[2]))
                found.append(
                    (
                        free < wanted_mm(part),
                        face in ("top", "bottom"),
                        away,
                        Box(at=(corner[0], corner[1], corner[2]), size=way),
                    )
                )
    return min(found, key=lambda x: x[:3])[3] if found else None


def mounted(catalogue: Catalogue, plan: Plan, of: str) -> Plan:
    """A switch or socket put where it comes through a wall and is got at; the plan itself where there is no such place."""
    body = next((b for b in bodies_of(catalogue, plan) if b.of == of), None)
    box = best_place(catalogue, plan, body) if body is not None else None
    if body is None or box is None:
        return plan
    section = section_of(plan, body.section)
    now = next((o for o in section.obstacles if o.of == of), None)
    if now is not None:
        new = copy_unchecked(now, box=box, kind=body.kind, name=body.name[:80], reached=False)
        if new == now:
            return plan
        return edits.set_fields(plan, [section.id], obstacles=tuple(new if o is now else o for o in section.obstacles))
    made = Obstacle(
        id=edits.fresh_ids(plan, f"{section.id}.{body.kind}")[0], kind=body.kind, name=body.name[:80], box=box, of=of
    )
    return edits.set_fields(plan, [section.id], obstacles=(*section.obstacles, made))
