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
from gwiazda.core.parts.lamps import LampPart

if TYPE_CHECKING:
    from gwiazda.core.assess.optics.lit_sections import LitSection

Array = npt.NDArray[np.float64]
BAG, BETWEEN, GLAZING, LINING, CAPACITY = 0.20, 0.10, 0.15, 0.03, 0.15
COUPLED = 0.25  # how a fibre is seated on its lamp and how its ends are cut
MEASURED = 0.25
Z95 = 1.645


def band(middle: float, sigma: float) -> tuple[float, float]:
    """The 5 and 95 % values of a lognormal figure."""
    return middle * math.exp(-Z95 * sigma), middle * math.exp(Z95 * sigma)


def current_sigma(catalogue: Catalogue, part: LampPart, headroom_v: float) -> float:
    """Spread of a lamp's current from its forward voltage: dI/I = dV over what the resistor has."""
    family = catalogue.families[part.family]
    own = MEASURED if family.basis == "measured" else 1.0
    return own * family.spread_v / 2.0 / max(abs(headroom_v), 0.1)


def light_sigma(catalogue: Catalogue, room: LitSection, flux_lm: Array, headroom_v: Array) -> float:
    """Spread of a section's luminance: its lamps together, its glazing, its lining.

    ``flux_lm`` and ``headroom_v`` (lamps,) are the room's lamps' light and the voltage over their resistors.
    """
    if not len(flux_lm) or not room.openings:
        return 0.0
    flux, parts = flux_lm, [catalogue.lamps[p.part] for p in room.lamps]
    share = flux / flux.sum() if flux.sum() > 0 else np.full(len(flux), 1.0 / len(flux))
    measured = np.array([MEASURED if p.basis == "measured" else 1.0 for p in parts])
    bag = BAG * float(share @ measured)
    between = BETWEEN * float(np.sqrt(share**2 @ measured**2))
    volts = float(
        share @ np.array([current_sigma(catalogue, p, v) for p, v in zip(parts, headroom_v.tolist(), strict=True)])
    )
    glazing = catalogue.glazings.get(room.section.glazing)
    pane = GLAZING * (MEASURED if glazing is not None and glazing.basis == "measured" else 1.0)
    if glazing is not None and glazing.scattered == 0.0 and glazing.reflectance == 0.0:
        pane = 0.0  # an open hole is what it is
    # In a nearly closed room E goes with 1/(1 − ρ̄): .03 of reflectance is much of what is lost.
    lost = max(1.0 - room.reflectance, 0.02)
    box = room.cavity.box
    lined = 1.0 - float(box.window_area.sum() / max(box.area.sum(), 1e-9))
    lining = LINING * max(lined, 0.0) / lost
    # Beyond its half the first order overstates it: light can't be more than no loss at all.
    return float(math.sqrt(bag**2 + between**2 + volts**2 + pane**2 + min(lining, 0.5) ** 2))
