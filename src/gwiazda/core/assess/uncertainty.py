"""How sure a figure is: first-order spreads of what goes into it, as one sigma of its natural logarithm.

The house's spreads are in ``parts.spreads``; what was read stands in their place. Figures shown with it are 5 to 95 %: the middle times e^(±1.645 σ).
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.spreads import BAG, BETWEEN, GLAZING, LINING, MEASURED

if TYPE_CHECKING:
    from gwiazda.core.assess.optics.lit_sections import LitSection
    from gwiazda.core.assess.states import Assessment, LampState

Array = npt.NDArray[np.float64]
MOST_BACK = 0.98  # of light: nothing throws back more
Z95 = 1.645


def band(middle: float, sigma: float) -> tuple[float, float]:
    """The 5 and 95 % values of a lognormal figure."""
    return middle * math.exp(-Z95 * sigma), middle * math.exp(Z95 * sigma)


def clipped_sigma(sigma: float, most: float) -> float:
    """One sigma of a normal of so much that can't go further up than ``most``."""
    if sigma <= 0.0:
        return 0.0
    a = most / sigma
    below = 0.5 * (1.0 + math.erf(a / math.sqrt(2.0)))
    at = math.exp(-a * a / 2.0) / math.sqrt(2.0 * math.pi)
    mean = -at + a * (1.0 - below)
    square = below - a * at + a * a * (1.0 - below)
    return sigma * math.sqrt(max(square - mean * mean, 0.0))


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

    ``on`` (1 + openings, things): of the mean, in the first row, and of each opening; ``own`` (1 + openings,) what is each row's alone.
    """

    things: tuple[Thing, ...]
    on: Array
    own: Array

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
    columns = [
        (share @ of) * np.array([bag_sigma(catalogue, b) for b in bags]),
        (share * strays[:, 1]) @ of,
        (share @ strays[:, 0])[:, None],
        share * each,
        np.full((len(share), 2), [_glazing_sigma(catalogue, room), _lining_sigma(catalogue, room)]),
    ]
    things = (
        *(("light", b) for b in bags), *(("volts", b) for b in bags), ("source", ""), *(("lamp", p.id) for p in room.lamps),
        ("glazing", key), ("lining", key),
    )  # fmt: skip
    own = np.full(len(share), placed)
    own[0] = 0.0
    return Influences(things, np.hstack(columns), own)


def light_sigmas(catalogue: Catalogue, room: LitSection, found: Influences | None) -> tuple[float, list[float]]:
    """Spread of a section's mean luminance, and of each of its openings': as far as readings leave it open."""
    if found is None:
        return 0.0, [0.0] * len(room.openings)
    mean, *panes = found.sigma.tolist()
    whole = catalogue.known.get(("section", room.section.id))
    if whole is not None:
        mean, panes = whole.sigma, [math.hypot(whole.sigma, own) for own in found.own[1:].tolist()]
        known = [catalogue.known.get(("pane", o.id)) for o in room.openings]
        panes = [k.sigma if k is not None else sigma for k, sigma in zip(known, panes, strict=True)]
    return mean, panes


def _glazing_sigma(catalogue: Catalogue, room: LitSection) -> float:
    glazing = catalogue.glazings.get(room.section.glazing)
    if glazing is not None and glazing.scattered == 0.0 and glazing.reflectance == 0.0:
        return 0.0  # an open hole is what it is
    return GLAZING * (MEASURED if glazing is not None and glazing.basis == "measured" else 1.0)


def _lining_sigma(catalogue: Catalogue, room: LitSection) -> float:
    """What a lining that throws back more or less does: in a nearly closed room E goes with 1/(1 − ρ̄). It can't throw back more than comes, less what
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
    return min(clipped_sigma(LINING, max(most, 0.0)) * lined / lost, 0.5)


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


def draw_sigma(assessment: Assessment, feed: str) -> float:
    """Spread of what a feed gives: its source moves all strings, a bag those of its lamps, and each has its own."""
    mine = [b for b in assessment.branches.values() if b.feed == feed and b.current_a > 0]
    total = math.fsum(b.current_a for b in mine)
    if total <= 0.0:
        return 0.0
    source, apart, bags = 0.0, 0.0, dict[str, float]()
    for b in mine:
        first = assessment.lamps[b.lamps[0]]
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
