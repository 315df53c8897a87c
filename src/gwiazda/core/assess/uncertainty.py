"""How sure a figure is: first-order spreads of what goes into it, as one sigma of its natural logarithm.

The house's spreads are in ``parts.spreads``; what was read stands in their place. Figures shown with it are 5 to 95 %: the middle times e^(±1.645 σ).
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.memo import memoize
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.spreads import BAG, BETWEEN, GLAZING, LINING, MEASURED

if TYPE_CHECKING:
    from gwiazda.core.assess.optics.lit_sections import LitSection
    from gwiazda.core.assess.states import BranchState, LampState

Array = npt.NDArray[np.float64]
MOST_BACK = 0.98  # of light: nothing throws back more
Z95 = 1.645


def band(middle: float, sigma: float, lean: float = 0.0) -> tuple[float, float]:
    """The 5 and 95 % values of a lognormal figure; where it can stray further down than up, its logarithm leans by so much."""
    return middle * math.exp(lean - Z95 * sigma), middle * math.exp(lean + Z95 * sigma)


def clipped(sigma: float, most: float) -> tuple[float, float]:
    """Mean and one sigma of a normal of so much that can't go further up than ``most``."""
    if sigma <= 0.0:
        return 0.0, 0.0
    a = most / sigma
    below = 0.5 * (1.0 + math.erf(a / math.sqrt(2.0)))
    at = math.exp(-a * a / 2.0) / math.sqrt(2.0 * math.pi)
    mean = -at + a * (1.0 - below)
    square = below - a * at + a * a * (1.0 - below)
    return sigma * mean, sigma * math.sqrt(max(square - mean * mean, 0.0))


Thing = tuple[str, str]  # what strays: its kind and id


def bag_sigma(catalogue: Catalogue, part_id: str) -> float:
    """How far the light of all lamps of a part strays together."""
    known, part = catalogue.known.get(("light", part_id)), catalogue.lamps.get(part_id)
    if known is not None:
        return known.sigma
    return BAG * (MEASURED if part is not None and part.basis == "measured" else 1.0)


def between_sigma(catalogue: Catalogue, part_id: str) -> float:
    """How far one lamp's light strays from that of its bag."""
    part = catalogue.lamps.get(part_id)
    return BETWEEN * (MEASURED if part is not None and part.basis == "measured" else 1.0)


class Influences(NamedTuple):
    """How far each thing that strays moves a section's light: one sigma of the logarithm.

    ``on`` (1 + openings, things): of the mean, in the first row, and of each opening; ``own`` (1 + openings,) what is each row's alone. ``means``
    (things,) is where each thing's middle lies, in its sigmas: below 0 where it can go further down than up.
    """

    things: tuple[Thing, ...]
    on: Array
    own: Array
    means: Array

    @property
    def lean(self) -> float:
        """How far the section's logarithm leans."""
        return float(self.on[0] @ self.means)

    @property
    def sigma(self) -> Array:
        """All of it together (1 + openings,)."""
        return np.asarray(np.sqrt((self.on**2).sum(axis=1) + self.own**2))


def influences_of(
    catalogue: Catalogue, room: LitSection, flux_lm: Array, strays: Array, placed: float
) -> Influences | None:
    """What a section's luminance strays by: its lamps together and each, its glazing, its lining; None for a dark one.

    ``flux_lm`` (lamps,) is the room's lamps' light; ``strays`` (lamps, 3) one sigma of their currents, by source, bag and each;
    ``placed`` of a pane, for where its lamps lie.
    """
    if not len(flux_lm) or not room.openings:
        return None
    parts = [p.part for p in room.lamps]
    # What each brings to a pane: a lamp's lumens count by where they go.
    brought = np.vstack([room.mean_per_lm, room.luminance_per_lm]) * flux_lm
    total = brought.sum(axis=1, keepdims=True)
    mean = brought[0] / total[0] if total[0] > 0 else np.full(len(flux_lm), 1.0 / len(flux_lm))
    share = np.where(total > 0, brought / np.where(total > 0, total, 1.0), mean)
    # Lamps of another part are of another bag: of each its flux and its volts.
    bags = list(dict.fromkeys(parts))
    of = np.array([[p == b for b in bags] for p in parts], dtype=float)
    # A lamp that lies off its place moves all panes it lights, and each a little otherwise.
    each = np.sqrt(np.square([between_sigma(catalogue, p) for p in parts]) + np.square(strays[:, 2]) + placed**2)
    if catalogue.known:  # of a lamp that was read itself, all is known that goes into it
        read = [catalogue.known.get(("lamp", p.id)) for p in room.lamps]
        each = np.array([k.sigma if k is not None else e for k, e in zip(read, each.tolist(), strict=True)])
        unread = np.array([k is None for k in read], dtype=float)
        of, strays = of * unread[:, None], strays * unread[:, None]
    key = room.section.id
    glazing, lining = glazing_stray(catalogue, room.section.glazing), _lining_stray(catalogue, room)
    columns = [
        (share @ of) * np.array([bag_sigma(catalogue, b) for b in bags]),
        (share * strays[:, 1]) @ of,
        (share @ strays[:, 0])[:, None],
        share * each,
        np.full((len(share), 2), [glazing[1], lining[1]]),
    ]
    things = (
        *(("light", b) for b in bags), *(("volts", b) for b in bags), ("source", ""), *(("lamp", p.id) for p in room.lamps),
        ("glazing", key), ("lining", key),
    )  # fmt: skip
    own = np.full(len(share), placed)
    own[0] = 0.0
    means = np.zeros(len(things))
    means[-2:] = [lean / sigma if sigma > 0.0 else 0.0 for lean, sigma in (glazing, lining)]
    return Influences(things, np.hstack(columns), own, means)


def light_sigmas(catalogue: Catalogue, room: LitSection, found: Influences | None) -> tuple[float, list[float], float]:
    """Spread of a section's mean luminance, and of each of its openings': as far as readings leave it open; and how far they lean."""
    if found is None:
        return 0.0, [0.0] * len(room.openings), 0.0
    mean, *panes = found.sigma.tolist()
    whole = catalogue.known.get(("section", room.section.id))
    if whole is None:
        return mean, panes, found.lean
    panes = [math.hypot(whole.sigma, own) for own in found.own[1:].tolist()]
    known = [catalogue.known.get(("pane", o.id)) for o in room.openings]
    return whole.sigma, [k.sigma if k is not None else sigma for k, sigma in zip(known, panes, strict=True)], 0.0


DRAWS, FEWEST = 400, 60  # of a row's panes, always the same
MOST_DRAWN = 200_000  # panes in all: of a row of thousands fewer draws tell as much
TILTED = 0.9  # of what panes stray by for where lamps lie (its variance) goes along the row
WIDER = 2.0, 1.75  # than these draws, down and up: where lamps lie moves more than they hold, as virtual builds show
SMOOTH = 0.6  # and it is less than of each by itself, as neighbours stray alike; both as virtual builds show


@memoize(slots=64)
def _normals(count: int) -> Array:
    return np.random.default_rng(20).standard_normal((DRAWS, count))


def evenness_band(
    room: LitSection, flux_lm: Array, found: Influences, row: npt.NDArray[np.bool_]
) -> tuple[float, float]:
    """From where to where the darkest of a row over its mean comes out: what all its panes have in common cancels, what each lamp and pane strays by
    doesn't. The darkest of many that stray is darker than the darkest as planned, so that the plan's own figure lies high in it.

    ``row`` (openings,) says which panes belong to it.
    """
    lamps = len(flux_lm)
    own_things = [k for k, t in enumerate(found.things) if t[0] == "lamp"]
    light = (room.luminance_per_lm * flux_lm)[row]
    share = found.on[1:][row][:, own_things]
    brought = light / np.maximum(light.sum(axis=1, keepdims=True), 1e-12)
    # One sigma of each lamp by itself, out of what it does to the panes that it lights.
    each = np.divide(share, brought, out=np.zeros_like(share), where=brought > 1e-3).max(axis=0)
    normals = _normals(lamps + len(light) + 3)[: max(MOST_DRAWN // len(light), FEWEST)]
    drawn = np.exp(normals[:, :lamps] * each)
    # A lamp off its place brightens one end of a row and dims the other; the rest is each pane's own.
    at = np.array([o.at for o, mine in zip(room.openings, row.tolist(), strict=True) if mine])
    apart = at.std(axis=0)
    along = (at - at.mean(axis=0))[:, apart > 0.1] / apart[apart > 0.1]
    tilt = normals[:, lamps + len(light) :][:, : along.shape[1]] @ along.T / math.sqrt(max(along.shape[1], 1))
    own = math.sqrt(1.0 - TILTED) * normals[:, lamps : lamps + len(light)] + math.sqrt(TILTED) * tilt
    panes = (drawn @ light.T) * np.exp(SMOOTH * own * found.own[1:][row])
    even = panes.min(axis=1) / np.maximum(panes.mean(axis=1), 1e-12)
    low, middle, high = np.quantile(even, (0.05, 0.5, 0.95)).tolist()
    if low <= 0.0:
        return 0.0, 0.0  # a pane of the row that no lamp reaches
    return float(middle * (low / middle) ** WIDER[0]), float(middle * (high / middle) ** WIDER[1])


def glazing_stray(catalogue: Catalogue, glazing_id: str) -> tuple[float, float]:
    """How a pane's transmittance strays, mean and one sigma of its logarithm: more than what it doesn't throw back can't go through."""
    glazing = catalogue.glazings.get(glazing_id)
    if glazing is None or (glazing.scattered == 0.0 and glazing.reflectance == 0.0):
        return 0.0, 0.0  # an open hole is what it is
    sigma = GLAZING * (MEASURED if glazing.basis == "measured" else 1.0)
    return clipped(sigma, max(math.log((1.0 - glazing.reflectance) / max(glazing.transmittance, 1e-6)), 0.0))


def _lining_stray(catalogue: Catalogue, room: LitSection) -> tuple[float, float]:
    """Mean and one sigma of what a lining that throws back more or less does: in a nearly closed room E goes with 1/(1 − ρ̄). It can't throw back more than comes, less what
    it lets through."""
    lost = max(1.0 - room.reflectance, 0.02)
    box = room.cavity.box
    lined = max(1.0 - float(box.window_area.sum() / max(box.area.sum(), 1e-9)), 0.0)
    lining = catalogue.linings.get(room.section.lining)
    coat = catalogue.coats.get(lining.coat) if lining is not None else None
    most = MOST_BACK
    if coat is not None:
        film = coat.film(room.section.lining_coats)
        most = min(MOST_BACK, 1.0 - film.transmittance) - film.reflectance
    mean, sigma = clipped(LINING, max(most, 0.0))
    times = min(lined / lost, 0.5 / max(sigma, 1e-9))
    return mean * times, sigma * times


# Of a pane's light: what a lamp that lies a millimetre off, or looks ten degrees aside, does to what comes straight from it; and to what comes by
# the wall that it lights first. As virtual builds show.
PLACED, BOUNCED = 0.17, 0.055


def placed_sigma(direct_share: float) -> float:
    """Spread of one pane against its section's mean, from where its lamps lie; by the share of its light that comes straight from them."""
    return math.hypot(PLACED * direct_share, BOUNCED)


def point_sigma(catalogue: Catalogue, lamp: LampState) -> float:
    """Spread of the light of a lamp that is seen itself."""
    if (known := catalogue.known.get(("lamp", lamp.id))) is not None:
        return known.sigma
    return math.hypot(bag_sigma(catalogue, lamp.part), between_sigma(catalogue, lamp.part), *lamp.current_sigma)


def draw_sigma(branches: Mapping[str, BranchState], lamps: Mapping[str, LampState], feed: str) -> float:
    """Spread of what a feed gives: its source moves all strings, a bag those of its lamps, and each has its own."""
    mine = [b for b in branches.values() if b.feed == feed and b.current_a > 0]
    total = math.fsum(b.current_a for b in mine)
    if total <= 0.0:
        return 0.0
    source, apart, bags = 0.0, 0.0, dict[str, float]()
    for b in mine:
        first = lamps[b.lamps[0]]
        by_source, by_bag, own = first.current_sigma
        share = b.current_a / total
        source += share * by_source
        bags[first.part] = bags.get(first.part, 0.0) + share * by_bag
        # Side by side, what one lamp takes from the others is not lost to the source.
        apart += 0.0 if b.side_by_side and len(b.lamps) > 1 else (share * own) ** 2
    return math.hypot(source, math.sqrt(apart), *bags.values())


def leak_sigma(times: float, safe_times: float) -> float:
    """Spread of a leak whose median and 95 % value are said."""
    return math.log(safe_times / times) / Z95
