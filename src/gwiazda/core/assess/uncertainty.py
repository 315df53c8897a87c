"""How sure a figure is: first-order spreads of what goes into it, as one sigma of its natural logarithm.

House spreads (one sigma; lognormal unless said): lamp flux 20 % for a bag and 10 % between lamps of it, glazing 15 %,
reflectance of a lining .03 (normal), capacity 15 %, forward voltage half common to a bag; a part the user has measured
counts with a quarter of it. Figures shown with it are 5 to 95 %: the middle times e^(±1.645 σ).
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from gwiazda.core.parts.catalogue import Catalogue

if TYPE_CHECKING:
    from gwiazda.core.assess.optics.lit_sections import LitSection
    from gwiazda.core.assess.states import Assessment, LampState, SectionState

Array = npt.NDArray[np.float64]
BAG, BETWEEN, GLAZING, LINING, CAPACITY = 0.20, 0.10, 0.15, 0.03, 0.15
COUPLED = 0.25  # how a fibre is seated on its lamp and how its ends are cut
MEASURED = 0.25
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


def light_sigma(catalogue: Catalogue, room: LitSection, flux_lm: Array, strays: Array, placed: float) -> float:
    """Spread of a section's mean luminance: its lamps together and each, its glazing, its lining.

    ``flux_lm`` (lamps,) is the room's lamps' light; ``strays`` (lamps, 3) one sigma of their currents, by source, bag and each;
    ``placed`` of a pane, for where its lamps lie.
    """
    if not len(flux_lm) or not room.openings:
        return 0.0
    parts = [catalogue.lamps[p.part] for p in room.lamps]
    # What each brings to the panes: a lamp's lumens count by where they go.
    brought = room.mean_per_lm * flux_lm
    share = brought / brought.sum() if brought.sum() > 0 else np.full(len(flux_lm), 1.0 / len(flux_lm))
    measured = np.array([MEASURED if p.basis == "measured" else 1.0 for p in parts])
    # Lamps of another part are of another bag: of each its flux and its volts.
    bags: dict[str, tuple[float, float]] = {}
    for p, of, m, volts in zip(parts, share.tolist(), measured.tolist(), strays[:, 1].tolist(), strict=True):
        flux, bag_v = bags.get(p.id, (0.0, 0.0))
        bags[p.id] = flux + of * m * BAG, bag_v + of * volts
    bag = math.hypot(*(x for pair in bags.values() for x in pair))
    each = float(np.sqrt(share**2 @ ((BETWEEN * measured) ** 2 + strays[:, 2] ** 2 + placed**2)))
    source = float(share @ strays[:, 0])
    glazing = catalogue.glazings.get(room.section.glazing)
    pane = GLAZING * (MEASURED if glazing is not None and glazing.basis == "measured" else 1.0)
    if glazing is not None and glazing.scattered == 0.0 and glazing.reflectance == 0.0:
        pane = 0.0  # an open hole is what it is
    return float(math.hypot(bag, each, source, pane, _lining_sigma(catalogue, room)))


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


PLACED = (
    0.17  # of a pane's direct light: what a lamp that lies a millimetre off, or looks ten degrees aside, does to it
)


def placed_sigma(direct_share: float) -> float:
    """Spread of one pane against its section's mean, from where its lamps lie; by the share of its light that comes straight from them."""
    return PLACED * direct_share


def pane_sigma(section: SectionState) -> float:
    """Spread of one pane's luminance: its section's, and its own for where the lamps lie."""
    return math.hypot(section.sigma, section.placed_sigma)


def point_sigma(catalogue: Catalogue, lamp: LampState) -> float:
    """Spread of the light of a lamp that is seen itself."""
    part = catalogue.lamps.get(lamp.part)
    own = MEASURED if part is not None and part.basis == "measured" else 1.0
    return math.hypot(BAG * own, BETWEEN * own, *lamp.current_sigma)


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
