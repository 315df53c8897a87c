"""A feed's source as the network sees it: at its nominal state, fresh, and along its discharge."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.electrics import SourcePart
from gwiazda.core.plan.model import Supply
from gwiazda.core.power.discharge import unregulated

DEPTHS = np.linspace(0.0, 1.0, 81)


class SourceState(NamedTuple):
    """EMF and resistance at the nominal state, and along the discharge of a battery."""

    volts: float
    ohms: float
    part: SourcePart
    capacity_ah: float = 0.0
    i50_a: float = 1.0
    cutoff_v: float = 0.0
    along_v: tuple[float, ...] = ()
    along_ohm: tuple[float, ...] = ()

    @property
    def limit_a(self) -> float:
        """Current (A) an adapter should give at most; a battery's I50, where half its capacity is lost."""
        return self.part.rated_a * self.part.use_share if self.part.rated_a else self.i50_a

    @property
    def highest_v(self) -> float:
        """EMF (V) it begins with: a fresh battery's."""
        return self.along_v[0] if self.along_v else self.volts

    @property
    def last_v(self) -> float:
        """EMF (V) at the end of its life."""
        return self.cutoff_v if self.along_v else self.volts


def source_of(catalogue: Catalogue, supply: Supply) -> SourceState | None:
    """Series cells add voltage and resistance, parallel ones capacity; None for a part the catalogue hasn't got."""
    part = catalogue.sources.get(supply.part)
    if part is None:
        return None
    s, p = supply.in_series, supply.in_parallel
    if part.kind != "battery":
        volts = supply.volts if supply.volts is not None and part.adjustable else part.nominal_v
        if part.kind == "unregulated":
            emf, ohm = unregulated(volts, part.rated_a)
            return SourceState(emf, ohm, part)
        return SourceState(volts, 0.0, part)
    emf_along = np.interp(DEPTHS, catalogue.depths, part.open_v) * s
    ohm_along = (part.r_fresh_ohm + (part.r_end_ohm - part.r_fresh_ohm) * DEPTHS) * s / p
    return SourceState(
        part.nominal_v * s,
        part.r_fresh_ohm * s / p,
        part,
        part.capacity_mah * 1e-3 * p,
        part.i50_a * p,
        part.cutoff_v * s,
        tuple(emf_along.tolist()),
        tuple(ohm_along.tolist()),
    )
