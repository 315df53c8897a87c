"""The log as evidence: each reading of light or current with the things that move it, over what the house says of it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.carriers.standing import furnished
from gwiazda.core.assess.known import makes_of
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.assess.optics.lighting import influences, lit_sections_of
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.assess.uncertainty import Influences, Thing, bag_sigma, between_sigma
from gwiazda.core.parts.catalogue import Known
from gwiazda.core.parts.spreads import BETWEEN
from gwiazda.core.plan.model import LogEntry, PaneTold, Plan
from gwiazda.core.statistics.beliefs import Belief
from gwiazda.core.workbench.log import LUMINANCE, LUX, light_said, times_house
from gwiazda.core.workbench.photo.photoread import PhotoReading

Array = npt.NDArray[np.float64]
CURRENT = 0.02  # one sigma of a reading's logarithm
UNREAD_BATTERY = 0.15  # of a current, where the state of the battery behind it wasn't read
EXPOSED, GREY = 2.0, 0.06  # of a photo's level: fitted to the prediction, or by a patch of known grey
ACROSS = 0.03  # of a section against another in one photo: its corners, its curve
MOST_PANES = 400  # of one photo: more would say the same again
FAR = 6.0  # times: this far off, it is another thing that was read, or it is broken


class Reading(NamedTuple):
    """What one reading says: the logarithm of what was read over what the house says, its own noise, and what moves the figure."""

    entry: str
    place: str
    log_ratio: float
    noise: float
    on: Mapping[Thing, float]


class Evidence(NamedTuple):
    """All readings of a plan, with the things that they and the sections' figures hang on.

    ``panes`` (section): what moves each of its openings, the section's mean first.
    """

    things: tuple[Thing, ...]
    before: Belief
    readings: tuple[Reading, ...]
    panes: Mapping[str, tuple[Influences, tuple[str, ...], Array]]

    def rows(self, readings: tuple[Reading, ...]) -> tuple[Array, Array, Array]:
        """What moves each reading (n, things), its logarithm (n,), its noise (n,)."""
        at = {t: k for k, t in enumerate(self.things)}
        on = np.zeros((len(readings), len(self.things)))
        for n, r in enumerate(readings):
            for thing, much in r.on.items():
                on[n, at[thing]] = much
        return on, np.array([r.log_ratio for r in readings]), np.array([r.noise for r in readings])

    def row(self, on: Mapping[Thing, float]) -> Array:
        """What moves a figure, as a row; what nothing was read of is left out."""
        at = {t: k for k, t in enumerate(self.things)}
        out = np.zeros(len(self.things))
        for thing, much in on.items():
            if thing in at:
                out[at[thing]] = much
        return out


def lamp_on(house: Assessment, lamp: LampState) -> dict[Thing, float]:
    """What moves a lamp's light: its bag, its source, itself."""
    source, bag, own = lamp.current_sigma
    return {
        ("light", lamp.part): bag_sigma(house.catalogue, lamp.part), ("volts", lamp.part): bag, ("source", ""): source,
        ("lamp", lamp.id): math.hypot(between_sigma(house.catalogue, lamp.part), own),
    }  # fmt: skip


def sections_on(plan: Plan, house: Assessment) -> dict[str, tuple[Influences, tuple[str, ...], Array]]:
    """For each lit section what moves its mean and each of its openings, the openings in their order, and how much each counts in the mean."""
    plan = furnished(house.catalogue, plan)
    lamps = known_lamps(house.catalogue, plan.lamps)
    rooms = lit_sections_of(house.catalogue, plan.sections, plan.openings, lamps, plan.kit.material, house.cells)
    out = {}
    for key, room in rooms.items():
        states = [house.lamps[p.id] for p in room.lamps]
        flux = np.array([s.flux_lm for s in states])
        found = influences(house.catalogue, room, flux, tuple(s.current_sigma for s in states))
        if found is None:
            continue
        light = room.weight * (room.luminance_per_lm @ flux)
        total = float(light.sum())
        if total > 0.0:
            out[key] = found, tuple(o.id for o in room.openings), light / total
    return out


def pane_on(section: tuple[Influences, tuple[str, ...], Array], number: int) -> dict[Thing, float]:
    """What moves an opening's luminance."""
    found, openings, _ = section
    row = found.on[1 + number].tolist()
    on = {t: much for t, much in zip(found.things, row, strict=True) if much}
    on["pane", openings[number]] = float(found.own[1 + number])
    return on


def mean_on(section: tuple[Influences, tuple[str, ...], Array]) -> dict[Thing, float]:
    """What moves a section's mean: what its lamps have in common, and each opening's own as it counts in the mean."""
    found, openings, weight = section
    on = {t: much for t, much in zip(found.things, found.on[0].tolist(), strict=True) if much}
    for o, share, own in zip(openings, weight.tolist(), found.own[1:].tolist(), strict=True):
        if share:
            on["pane", o] = share * own
    return on


def told_of(assessment: Assessment, shot: PhotoReading) -> tuple[PaneTold, ...]:
    """What a photo says of openings, over what the house says of them: as it is kept in the log."""
    out = []
    for p in shot.told:
        ratio = p.ratio * times_house(assessment, "cd_m2", p.id)
        if ratio > 0.0 and math.isfinite(ratio):
            out.append(PaneTold(on=p.id, ratio=min(ratio, 1e6), sigma=shot.sigma))
    return tuple(out)


def evidence_of(plan: Plan, house: Assessment, others: Mapping[Thing, Known]) -> Evidence:
    """The readings of a plan that count.

    Parameters
    ----------
    plan
        The plan, with its log.
    house
        It assessed by the house's values alone, with nothing learned.
    others
        What other plans say of parts.
    """
    makes = makes_of(plan.sections, plan.lamps)
    homes = {o.id: o.section for o in plan.openings}
    sections = sections_on(plan, house)
    readings: list[Reading] = []
    levels: dict[Thing, float] = {}
    for e in plan.log:
        if e.settled or (e.make and makes.get(homes.get(e.place, e.place)) not in (None, e.make)):
            continue
        if e.kind == "reading" and e.value and e.value > 0:
            readings += _read(plan, house, e, sections, homes)
        elif e.told:
            level = ("exposure", e.id)
            levels[level] = 1.0
            readings += _photographed(e, sections, homes, level)
    things = tuple(dict.fromkeys(t for r in readings for t in r.on))
    return Evidence(things, _before(house, things, others, sections), tuple(readings), sections)


def _before(
    house: Assessment,
    things: tuple[Thing, ...],
    others: Mapping[Thing, Known],
    sections: Mapping[str, tuple[Influences, tuple[str, ...], Array]],
) -> Belief:
    """The house's belief, moved by what other plans say of parts."""
    belief = Belief.before(len(things))
    leans = {
        t: float(m) for found, _, _ in sections.values() for t, m in zip(found.things, found.means, strict=True) if m
    }
    for k, thing in enumerate(things):
        belief.mean[k] = leans.get(thing, 0.0)
    for k, thing in enumerate(things):
        known = others.get(thing)
        if known is not None and thing[0] == "light":
            tau = bag_sigma(house.catalogue, thing[1])
            belief.mean[k] = known.shift / tau
            belief.covariance[k, k] = (known.sigma / tau) ** 2
    return belief


def _read(
    plan: Plan, house: Assessment, e: LogEntry, sections: Mapping[str, tuple[Influences, tuple[str, ...], Array]], homes: Mapping[str, str],
) -> list[Reading]:  # fmt: skip
    assert e.value is not None
    lamp = house.lamps.get(e.place)
    if e.what in ("lux", "cd_m2"):
        said = e.said or light_said(house, e.what, e.place)
    elif e.what == "amps" and lamp is not None:
        said = e.said or lamp.current_a
    else:
        return []
    if not said or abs(math.log(e.value / said)) > math.log(FAR):
        return []
    ratio = math.log(e.value / said)
    if e.what == "cd_m2":
        section = sections.get(homes.get(e.place, ""))
        if section is None or e.place not in section[1]:
            return []
        return [Reading(e.id, e.place, ratio, LUMINANCE, pane_on(section, section[1].index(e.place)))]
    if lamp is None:
        return []
    on = lamp_on(house, lamp)
    if e.what == "lux":
        return [Reading(e.id, e.place, ratio, LUX, on)]
    feed = house.feeds.get(lamp.feed)
    on = {t: much for t, much in on.items() if t[0] != "light"}
    own = lamp.current_sigma[2]
    # A lamp's own light isn't in its current: what its own volts do is.
    on["lamp", lamp.id] = own
    noise = math.hypot(CURRENT, UNREAD_BATTERY if feed is not None and feed.is_battery else 0.0)
    return [Reading(e.id, e.place, ratio, math.hypot(noise, min(own, BETWEEN)), on)]


def _photographed(
    e: LogEntry, sections: Mapping[str, tuple[Influences, tuple[str, ...], Array]], homes: Mapping[str, str], level: Thing,
) -> list[Reading]:  # fmt: skip
    """What a photo says of each opening: all of them over one exposure, which is known or not."""
    exposed = GREY if e.laid is not None and e.laid.grey_lux is not None else EXPOSED
    told = [t for t in e.told if homes.get(t.on) in sections]
    step = max(len(told) // MOST_PANES, 1)
    out = []
    for t in told[::step]:
        section = sections[homes[t.on]]
        if t.on in section[1] and abs(math.log(t.ratio)) <= math.log(FAR):
            on = pane_on(section, section[1].index(t.on))
            on |= {level: exposed, ("shot", f"{e.id} {homes[t.on]}"): ACROSS}
            out.append(Reading(e.id, t.on, math.log(t.ratio), t.sigma, on))
    return out
