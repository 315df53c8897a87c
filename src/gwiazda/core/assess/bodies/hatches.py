"""How cells are changed: through a hatch, through what closes their section, or not; how often; and whether they lie under the hatch."""

from __future__ import annotations

from math import inf, isfinite
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.bodies.rooms import taken_in, without
from gwiazda.core.assess.bodies.sizes import Body, bodies_of
from gwiazda.core.assess.states import Assessment
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.frame import FACE_WORDS, PLANES, Face, face_number
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import Hatch, Obstacle, Plan, Section, copy_unchecked
from gwiazda.core.quantities import counted, figure
from gwiazda.core.space.boxes import free_places

SLACK_MM = 1.0  # of a pack under the edge of its hatch: cells are tilted out
ROUND_MM = 1.0  # that a hatch cut for a pack is larger on each side
RIM_MM = 2.0  # of wall left round a hatch, for its lip


class Access(NamedTuple):
    """How the cells of a feed in a section are changed: in words, after how many evenings (infinite: for years, or unknown), how
    far (mm) their pack lies outside of its hatch, and what stands between."""

    feed: str
    section: str
    way: str
    evenings: float
    pack: Obstacle | None = None
    outside_mm: float = 0.0
    between: str = ""

    @property
    def words(self) -> str:
        """A sentence for a card."""
        often = "" if not isfinite(self.evenings) else f", after about {counted(max(int(self.evenings), 1), 'evening')}"
        return f"Cells are changed {self.way}{often}." if self.way else "Its cells can’t be changed: nothing comes off."


def _seen(
    section: Section, box_at: tuple[float, ...], box_size: tuple[float, ...], face: Face
) -> tuple[float, float, float, float]:
    """Low and high corner of a box on a face, mm from the inner box's lowest corner."""
    h, v, _ = PLANES[face]
    low = (box_at[h] - section.box.at[h], box_at[v] - section.box.at[v])
    return (*low, low[0] + box_size[h], low[1] + box_size[v])


def hatch_edges(hatch: Hatch) -> tuple[float, float, float, float]:
    """Low and high corner of its opening on its face, mm from the inner box's lowest corner."""
    (x, y), (a, b) = hatch.at, hatch.size
    return x - a / 2, y - b / 2, x + a / 2, y + b / 2


def outside_mm(section: Section, pack: Obstacle, hatch: Hatch) -> float:
    """How far a pack reaches past the opening of a hatch, as one looks through it, mm."""
    a, b = _seen(section, pack.box.at, pack.box.size, hatch.face), hatch_edges(hatch)
    return max(b[0] - a[0], b[1] - a[1], a[2] - b[2], a[3] - b[3], 0.0)


def _between(section: Section, pack: Obstacle, face: Face) -> str:
    """What of the section stands between a pack and a face, over it; empty where nothing does."""
    axis, far = face_number(face) // 2, face_number(face) % 2
    mine = _seen(section, pack.box.at, pack.box.size, face)
    for o in section.obstacles:
        if o is pack or o.action != "keep":
            continue
        theirs = _seen(section, o.box.at, o.box.size, face)
        over = (
            min(mine[2], theirs[2]) - max(mine[0], theirs[0]) > 0.1
            and min(mine[3], theirs[3]) - max(mine[1], theirs[1]) > 0.1
        )
        low, high = o.box.at[axis], o.box.at[axis] + o.box.size[axis]
        nearer = low >= pack.box.at[axis] + pack.box.size[axis] - 0.1 if far else high <= pack.box.at[axis] + 0.1
        if over and nearer:
            return o.name or o.kind
    return ""


def _way(section: Section) -> str:
    closure = section.closure
    if closure.hatch is not None:
        return f"by the hatch in its {FACE_WORDS[closure.hatch.face]}, {' × '.join(figure(x, 3) for x in closure.hatch.size)} mm"
    if closure.opens:
        lid = closure.part or closure.removable or f"what closes {section.name}"
        return f"by {lid}" + (f", held by {closure.by}" if closure.by not in ("", "open", "hinge") else "")
    return f"by {closure.removable}" if closure.removable else ""


def access_of(plan: Plan, assessment: Assessment) -> tuple[Access, ...]:
    """How the cells of each source that stands in a section are changed."""
    out = []
    for feed in plan.feeds:
        part = assessment.catalogue.sources.get(feed.supply.part)
        if not feed.home or part is None or part.kind != "battery":
            continue
        section, state = section_of(plan, feed.home), assessment.feeds.get(feed.id)
        evenings = state.hours / feed.hours_a_day if state is not None else inf
        pack = next((o for o in section.obstacles if o.of == feed.id), None)
        hatch = section.closure.hatch
        if pack is None or hatch is None:
            out.append(Access(feed.id, section.id, _way(section), evenings, pack))
            continue
        out.append(
            Access(
                feed.id, section.id, _way(section), evenings, pack, outside_mm(section, pack, hatch), _between(section, pack, hatch.face)
            )
        )  # fmt: skip
    return tuple(out)


def hatch_over(section: Section, pack: Obstacle, face: Face = "bottom") -> Hatch:
    """A hatch in a face over all of a pack, a rim of the wall left round it, held as the section's own is or by magnets."""
    h, v, _ = PLANES[face]
    low_h, low_v, high_h, high_v = _seen(section, pack.box.at, pack.box.size, face)
    spans = []
    for axis, low, high in ((h, low_h, high_h), (v, low_v, high_v)):
        room = section.box.size[axis]
        rim = min(RIM_MM, max((room - (high - low)) / 2.0, 0.0))
        spans.append((max(low - ROUND_MM, min(rim, low)), min(high + ROUND_MM, max(room - rim, high))))
    (a, b), (c, d) = spans
    now = section.closure.hatch
    made = Hatch(face=face, at=(round((a + b) / 2, 2), round((c + d) / 2, 2)), size=(round(b - a, 2), round(d - c, 2)))
    return copy_unchecked(made, by=now.by) if now is not None else made


def with_hatch_over(plan: Plan, section_id: str, of: str, face: Face = "bottom") -> Plan:
    """A section with a hatch over the place of a body in it; the plan itself where that has no place."""
    section = section_of(plan, section_id)
    pack = next((o for o in section.obstacles if o.of == of), None)
    return plan if pack is None else edits.set_hatch(plan, section_id, hatch_over(section, pack, face))


def under_hatch(catalogue: Catalogue, plan: Plan, of: str) -> Plan:
    """A body moved to where its section's hatch lies over it, as it stands; the plan itself where there is no such place."""
    body = next((b for b in bodies_of(catalogue, plan) if b.of == of), None)
    section = section_of(plan, body.section) if body is not None else None
    pack = next((o for o in section.obstacles if o.of == of), None) if section is not None else None
    if body is None or section is None or pack is None or section.closure.hatch is None:
        return plan
    best = _nearest_under(catalogue, plan, section, body, pack, section.closure.hatch)
    if best is None:
        return plan
    new = copy_unchecked(pack, box=copy_unchecked(pack.box, at=best))
    return edits.set_fields(plan, [section.id], obstacles=tuple(new if o is pack else o for o in section.obstacles))


def _nearest_under(
    catalogue: Catalogue, plan: Plan, section: Section, body: Body, pack: Obstacle, hatch: Hatch
) -> tuple[float, float, float] | None:
    """The free place in the box over a hatch that is nearest to where a pack stands."""
    h, v, _ = PLANES[hatch.face]
    edges = hatch_edges(hatch)
    low, room = list(section.box.at), list(section.box.size)
    for axis, a, b in ((h, edges[0], edges[2]), (v, edges[1], edges[3])):
        first, last = max(a - SLACK_MM, 0.0), min(b + SLACK_MM, section.box.size[axis])
        low[axis], room[axis] = section.box.at[axis] + first, last - first
    taken = taken_in(catalogue, without(plan, section, body), section.id)
    places = free_places((low[0], low[1], low[2]), (room[0], room[1], room[2]), taken, pack.box.size)
    if not len(places):
        return None
    x, y, z = places[np.abs(places - np.array(pack.box.at)).sum(axis=1).argmin()].tolist()
    return x, y, z
