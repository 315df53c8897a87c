"""Light of a lamp that goes straight through a hole into the next section, against photons traced one by one."""

from __future__ import annotations

import numpy as np
import pytest

from gwiazda.core.assess.optics.cross_illumination import cross_illumination_of
from gwiazda.core.assess.optics.lighting import joints_in, lit_sections_of
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan.edits import skins
from gwiazda.core.plan.model import Box, Lamp, Obstacle, Opening, Plan, Section
from gwiazda.core.radiosity.beams import Beams
from gwiazda.core.radiosity.beyond import Gate, straight
from gwiazda.core.radiosity.enclosure import enclosure
from gwiazda.core.radiosity.shadow import Baffle
from gwiazda.core.radiosity.shape import Windows

SIZE = np.array([60.0, 30.0, 20.0])


def two(aim, at=(20.0, 0.0, 10.0), obstacles=()) -> Plan:
    """Two parts end to end, an 8 mm hole between them, a lamp in the fore one; panes in the far end and a side of the aft one."""
    fore = Section(id="fore", name="Fore", box=Box(at=(0, -15, 0), size=(60, 30, 20)), wall_mm=0.1)
    aft = Section(
        id="aft", name="Aft", box=Box(at=(-60.2, -15, 0), size=(60, 30, 20)), wall_mm=0.1, obstacles=obstacles
    )
    openings = (
        Opening(id="end", section="aft", at=(-60.2, 0, 10), side="stern", width_mm=6, height_mm=6),
        Opening(id="near", section="aft", at=(-10, 15, 10), side="port", width_mm=4, height_mm=6),
        Opening(id="far", section="aft", at=(-50, 15, 10), side="port", width_mm=4, height_mm=6),
        Opening(id="hole", section="fore", at=(0, 0, 10), side="stern", width_mm=8, height_mm=8, into="aft"),
    )  # fmt: skip
    lamp = Lamp(id="fore.l", part="round-3-warm-white", at=at, aim=aim)
    plan = Plan(sections=(fore, aft), openings=openings, lamps=(lamp,))
    for key in ("fore", "aft"):
        plan = skins.add_coats(plan, key, "inside", "flat-black", 3)
    return plan


def reached(plan: Plan) -> tuple[np.ndarray, dict]:
    """Light on the aft panes for 1 lm (lm/m²), and the rooms."""
    catalogue = built_in()
    rooms = lit_sections_of(catalogue, plan.sections, plan.openings, plan.lamps, plan.kit.material)
    joints = joints_in(catalogue, plan.sections, plan.openings, plan.kit.material)
    spill = cross_illumination_of(catalogue, rooms, joints, {"fore.l": np.array([1.0])}, 1)["aft"]
    room = rooms["aft"]
    lux = (spill.luminance[:, 0] - room.show[:, 1] * spill.cells[room.behind, 0]) / room.show[:, 0]
    return lux, rooms


def traced(rooms, plan: Plan, photons: int = 300_000) -> tuple[np.ndarray, np.ndarray]:
    """The same by photons, and its standard error: they fly until something takes them; what meets the hole flies on in the next box."""
    rng = np.random.default_rng(3)
    from gwiazda.core.assess.optics.emitters import emitters

    lamp = emitters(built_in(), plan.lamps[0], rooms["fore"].cavity.corner)
    which = rng.choice(len(lamp.share), photons, p=lamp.share / lamp.share.sum())
    at = lamp.beams.at[which]
    order, aim = lamp.beams.order[which], lamp.beams.aim[which] / np.linalg.norm(lamp.beams.aim[which], axis=1)[:, None]
    cosine = np.where(
        order < 0, rng.uniform(-1, 1, photons), rng.random(photons) ** (1.0 / (np.maximum(order, 0) + 1.0))
    )
    way = _around(aim, cosine, rng)
    home = np.zeros(photons, dtype=int)  # 0 fore, 1 aft
    boxes = [rooms[k].cavity.box for k in ("fore", "aft")]
    lining = [float(np.median(b.reflectance)) for b in boxes]
    sheets = boxes[1].baffles
    caught = np.zeros(3)
    alive = np.ones(photons, dtype=bool)
    for _ in range(400):
        if not alive.any():
            break
        at, way, home = at[alive], way[alive], home[alive]
        with np.errstate(divide="ignore", invalid="ignore"):
            reach = np.where(way > 0, (SIZE - at) / way, np.where(way < 0, -at / way, np.inf))
        axis = reach.argmin(axis=1)
        rows = np.arange(len(at))
        length = np.maximum(reach[rows, axis], 0.0)
        end = way[rows, axis] > 0
        on_sheet = np.zeros(len(at), dtype=bool)
        for b in sheets:
            with np.errstate(divide="ignore", invalid="ignore"):
                s = (b.at - at[:, b.axis]) / way[:, b.axis]
            p = at + s[:, None] * way
            u, v = [a for a in range(3) if a != b.axis]
            met = (home == 1) & (s > 1e-9) & (s < length) & (p[:, u] >= b.low[0]) & (p[:, u] <= b.high[0])
            met &= (p[:, v] >= b.low[1]) & (p[:, v] <= b.high[1])
            length, axis = np.where(met, s, length), np.where(met, b.axis, axis)
            end, on_sheet = np.where(met, way[:, b.axis] > 0, end), on_sheet | met
        at = at + length[:, None] * way
        in_hole = ~on_sheet & (axis == 0) & (np.abs(at[:, 1] - 15) < 4) & (np.abs(at[:, 2] - 10) < 4)
        gone = in_hole & (((home == 0) & ~end) | ((home == 1) & end))
        keep = np.array(lining)[home]
        for k, (face, low, high) in enumerate(
            zip(boxes[1].windows.face[:3], boxes[1].windows.low, boxes[1].windows.high, strict=False)
        ):
            a = face // 2
            u, v = [x for x in range(3) if x != a]
            hit = (home == 1) & ~on_sheet & (axis == a) & (end == face % 2) & (at[:, u] > low[0]) & (at[:, u] < high[0])
            hit &= (at[:, v] > low[1]) & (at[:, v] < high[1])
            caught[k] += hit.sum()
            keep = np.where(hit, boxes[1].windows.back[k], keep)
        alive = gone | (rng.random(len(at)) < keep)
        normal = np.zeros_like(at)
        normal[rows, axis] = np.where(end, -1.0, 1.0)
        on = _around(normal, np.sqrt(rng.random(len(at))), rng)
        way = np.where(gone[:, None], way, on)
        at = np.where(gone[:, None], np.column_stack([np.where(home == 0, SIZE[0], 0.0), at[:, 1], at[:, 2]]), at)
        home = np.where(gone, 1 - home, home)
        at = np.clip(at, 1e-9, SIZE - 1e-9)
    area = boxes[1].window_area[:3] * 1e-6
    return caught / photons / area, np.sqrt(caught) / photons / area


def _around(axis: np.ndarray, cosine: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    other = np.where(np.abs(axis[:, :1]) < 0.9, np.array([[1.0, 0, 0]]), np.array([[0, 1.0, 0]]))
    u = np.cross(axis, other)
    u /= np.linalg.norm(u, axis=1)[:, None]
    turn, sine = rng.uniform(0, 2 * np.pi, len(axis)), np.sqrt(np.maximum(1 - cosine**2, 0))
    return cosine[:, None] * axis + sine[:, None] * (
        np.cos(turn)[:, None] * u + np.sin(turn)[:, None] * np.cross(axis, u)
    )


@pytest.mark.parametrize(
    ("aim", "at"), [((-1, 0, 0), (20, 0, 10)), ((-1, 0.35, 0), (12, -4, 10)), ((0, 0, -1), (30, 0, 19))]
)
def test_what_a_lamp_sends_through_a_hole_is_what_photons_bring(aim, at):
    plan = two(aim, at)
    lux, rooms = reached(plan)
    known, error = traced(rooms, plan)
    assert (np.abs(lux[:3] - known) < 0.04 * known + 3.0 * error).all()


def test_a_sheet_next_door_takes_it():
    keep = Obstacle(id="board", box=Box(at=(-30, -10, 0), size=(0.5, 20, 20)), action="keep")
    plan = two((-1, 0, 0), obstacles=(keep,))
    lux, rooms = reached(plan)
    known, error = traced(rooms, plan)
    assert (np.abs(lux[:3] - known) < 0.05 * known + 3.0 * error).all()
    assert lux[0] < 0.2 * reached(two((-1, 0, 0)))[0][0]


def test_all_that_goes_in_lands_somewhere():
    windows = Windows(np.array([0]), np.array([[10.0, 5.0]]), np.array([[20.0, 15.0]]), np.array([0.1]))
    box = enclosure((40, 30, 20), (0.8,) * 6, windows, (Baffle(0, 20.0, (5.0, 5.0), (20.0, 15.0), 0.5),))
    lamp = Beams(np.array([[60.0, 12.0, 9.0]]), np.array([[-1.0, 0.0, 0.0]]), np.array([1.0]))
    wide = Gate(0, 42.0, (8.0, 6.0), (18.0, 14.0)), Gate(0, 40.0, (8.0, 6.0), (18.0, 14.0))
    found = straight(box, 1, lamp, np.array([1.0]), wide)
    assert box.area @ found.cells * 1e-6 == pytest.approx(found.passed_lm, rel=1e-9)
    # By hand: I0 = (m + 1)/2π = 1/π cd over 8.0 e-5 m² seen at 18 to 20 mm: at most I0·A/r² = 0.0637 lm.
    assert 0.04 < found.passed_lm < 0.0637
    shut = wide[0], Gate(0, 40.0, (25.0, 16.0), (29.0, 19.0))
    assert straight(box, 1, lamp, np.array([1.0]), shut).passed_lm == 0.0
    behind = lamp._replace(aim=np.array([[1.0, 0.0, 0.0]]))
    assert straight(box, 1, behind, np.array([1.0]), wide).passed_lm == 0.0
