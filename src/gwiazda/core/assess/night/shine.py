"""What shines of a plan that is walked round: panes, points, walls and seams that glow, and what lights its outside."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.looms.crossing import shaded as wires_over
from gwiazda.core.assess.night.glows import Glow, Key, Surroundings, glows_of, sources_of
from gwiazda.core.assess.night.roomlights import Points, RoomLights, Seen, State, joined, lights_in, points_of
from gwiazda.core.assess.night.solids import Model
from gwiazda.core.assess.optics.cross_illumination import CrossIllumination, cross_illumination_of
from gwiazda.core.assess.optics.lighting import joints_in, lit_sections_of
from gwiazda.core.assess.sight.through import Inside
from gwiazda.core.assess.states import Assessment
from gwiazda.core.colour.modified_lamp import ALL_ROUND
from gwiazda.core.light.photometry import beam_order
from gwiazda.core.plan.frame import NORMALS, SIDES
from gwiazda.core.plan.model import Plan

Array = npt.NDArray[np.float64]


class Lights(NamedTuple):
    """What shines: luminance (openings, keys) of panes by the model's order; points; lamps (L, 8) that light the outside, with the number
    of their key; walls and seams that glow."""

    keys: tuple[Key, ...]
    panes: Array
    points: Points
    lamps: Array
    lamp_key: npt.NDArray[np.int64]
    glows: tuple[Glow, ...] = ()
    insides: tuple[Inside, ...] = ()  # rooms that are seen into through clear panes


def lights_of(plan: Plan, assessment: Assessment, model: Model) -> Lights:
    """The lights of a plan at the currents of its assessment."""
    catalogue = assessment.catalogue
    inner = furnished(catalogue, plan)
    lamps = known_lamps(catalogue, plan.lamps)
    rooms = lit_sections_of(catalogue, inner.sections, inner.openings, lamps, plan.kit.material, assessment.cells)
    joints = joints_in(catalogue, inner.sections, inner.openings, plan.kit.material)
    states = {name: tuple(_state(assessment, p.id) for p in room.lamps) for name, room in rooms.items()}
    spills: dict[str, CrossIllumination] = {}
    every: tuple[Key, ...] = ()
    if joints:
        every = tuple(dict.fromkeys(s.key for here in states.values() for s in here))
        split = {
            p.id: np.eye(len(every))[every.index(s.key)] * s.flux_lm
            for name, room in rooms.items()
            for p, s in zip(room.lamps, states[name], strict=True)
        }
        spills = cross_illumination_of(catalogue, rooms, joints, split, len(every))
    dark, place = wires_over(assessment.crossings), {o.id: i for i, o in enumerate(model.openings)}
    behind = dict(sources_of(catalogue, lamps, assessment))
    among = Surroundings(catalogue, inner.sections, plan.room.lux, plan.kit.material)
    glows: list[Glow] = []
    shining: list[tuple[RoomLights, npt.NDArray[np.intp]]] = []
    for name, room in rooms.items():
        numbers = np.array([place.get(o.id, -1) for o in room.openings], dtype=np.intp)
        left = tuple(1.0 - dark.get(o.id, 0.0) for o in room.openings)
        mine = lights_in(catalogue, room, states[name], spills.get(name), every, left, _on_skin(model, numbers))
        shining.append((mine, numbers))
        if mine.keyed:
            glows += glows_of(among, room, mine.walls, mine.keyed, SIDES, behind)
    return _together(plan, assessment, model, shining, tuple(glows))


def _state(assessment: Assessment, lamp_id: str) -> State:
    state = assessment.lamps[lamp_id]
    return State(state.flux_lm, state.channel, state.rgb)


def _on_skin(model: Model, numbers: npt.NDArray[np.intp]) -> tuple[Array, Array]:
    """Where openings lie on the skin and which way they face; nowhere for those that the model hasn't."""
    there = (numbers >= 0)[:, None]
    if not len(model.openings):
        return np.zeros((len(numbers), 3)), np.zeros((len(numbers), 3))
    return np.where(there, model.at[numbers], 0.0), np.where(there, model.normal[numbers], 0.0)


def _together(
    plan: Plan, assessment: Assessment, model: Model, rooms: list[tuple[RoomLights, npt.NDArray[np.intp]]], glows: tuple[Glow, ...]
) -> Lights:  # fmt: skip
    """What shines of all rooms and outside, by the numbers of the model's openings and of keys that hold for all."""
    number: dict[Key, int] = {}
    own = _outside(plan, assessment)
    for key in (*(k for mine, _ in rooms for k in mine.keys), *(x.key for x in own), *(g.key for g in glows)):
        number.setdefault(key, len(number))
    panes = np.zeros((len(model.openings), len(number)))
    every, insides, lamps, lamp_key = [points_of(own, number)], [], [], []
    outside = {p.id for p in plan.lamps if p.mount == "outside"}
    for x in own:
        if x.name in outside and x.cd > 0:
            lamps.append((*x.at.tolist(), *x.aim.tolist(), x.order, x.cd))
            lamp_key.append(number[x.key])
    for mine, numbers in rooms:
        keys = np.array([number[k] for k in mine.keys], dtype=np.intp)
        here = np.flatnonzero(numbers >= 0)
        if len(keys):
            panes[np.ix_(numbers[here], keys)] += mine.panes[here]
            lamps += mine.beams.tolist()
            lamp_key += keys[mine.beam_key].tolist()
            p = mine.points
            every.append(p._replace(key=keys[p.key], pane=np.where(p.pane >= 0, numbers[p.pane], -1)))
        insides += [x._replace(panes=numbers[x.panes], keys=keys[x.keys]) for x in mine.insides]
    return Lights(
        tuple(number), panes, joined(every), np.array(lamps, dtype=float).reshape(-1, 8), np.array(lamp_key, dtype=np.int64), glows,
        tuple(insides),
    )  # fmt: skip


def _outside(plan: Plan, assessment: Assessment) -> list[Seen]:
    """Lamps that are seen themselves, and tips of fibres."""
    catalogue, out = assessment.catalogue, []
    for p in known_lamps(catalogue, plan.lamps):
        if p.mount == "outside":
            state, part = assessment.lamps[p.id], catalogue.lamps[p.part]
            order = ALL_ROUND if p.frosted_cap else worked(catalogue, p).order
            aim = np.array(p.aim, dtype=float)
            out.append(
                Seen(np.array(p.at, dtype=float), aim / np.linalg.norm(aim), order, state.axial_cd, part.face_mm, p.id, (state.channel, state.rgb))
            )  # fmt: skip
    for d in plan.dots:
        tip = assessment.tips.get(d.id)
        if tip is not None and tip.cd > 0:
            fibre = catalogue.fibres.get(d.fibre)
            wide = fibre.diameter_mm if fibre is not None else 0.5
            order = beam_order(2 * tip.half_angle_deg)
            out.append(
                Seen(np.array(d.at, dtype=float), np.array(NORMALS[d.side], dtype=float), order, tip.cd, wide, d.id, (tip.channel, tip.rgb))
            )  # fmt: skip
    return out
