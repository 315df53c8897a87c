"""What readings taught, laid over the house's values before anything is worked out from them."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from gwiazda.core.assess.states import LampState
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue, Known
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Lamp, Plan, Section

MOST_MAKE = 400


def make_of(section: Section, lamps: tuple[Lamp, ...]) -> str:
    """What of a section a reading of its light holds for: its glazing, its lining, the kinds of lamps in it."""
    parts = ", ".join(sorted({p.part for p in lamps}))
    return f"{section.glazing}; {section.lining} × {section.lining_coats}; {parts}"[:MOST_MAKE]


@memoize(slots=4)
def makes_of(sections: tuple[Section, ...], lamps: tuple[Lamp, ...]) -> dict[str, str]:
    """What each section, and each lamp, is made of now."""
    homes = lamps_by_section(sections, lamps)
    inside: dict[str, list[Lamp]] = {}
    for p in lamps:
        if home := homes.get(p.id):
            inside.setdefault(home, []).append(p)
    return {s.id: make_of(s, tuple(inside.get(s.id, ()))) for s in sections} | {p.id: p.part for p in lamps}


def as_known(catalogue: Catalogue, plan: Plan) -> Catalogue:
    """The catalogue with what was read, in this plan first and else in others: parts as they are, spreads as they remain."""
    catalogue = catalogue.base
    if not plan.learned and not catalogue.known:
        return catalogue
    makes = {**makes_of(plan.sections, plan.lamps)}
    makes |= {o.id: makes[o.section] for o in plan.openings if o.section in makes}
    here = {
        (str(x.kind), x.of): Known(x.shift, x.sigma, x.readings)
        for x in plan.learned
        if not x.make or makes.get(x.of) == x.make
    }
    # By value: dragging a lamp makes no other catalogue, so that what hangs on it is kept.
    return _with_known(catalogue, tuple(sorted({**catalogue.known, **here}.items())))


@memoize_by_value(4)
def _with_known(catalogue: Catalogue, found: tuple[tuple[tuple[str, str], Known], ...]) -> Catalogue:
    known = dict(found)
    tables: dict[str, dict[str, Any]] = {"lamps": {}, "families": {}, "coats": {}, "sources": {}}
    for (kind, of), k in known.items():
        times = math.exp(k.shift)
        if kind in ("light", "volts") and of in catalogue.lamps:
            part = tables["lamps"].get(of, catalogue.lamps[of])
            if kind == "light":
                part = part._replace(axial_mcd=part.axial_mcd * times, flux_lm=part.flux_lm * times)
            else:
                family = catalogue.families[part.family]
                shifted = family._replace(
                    id=f"{family.id}@{of}", v20_v=family.v20_v + k.shift, v1_v=family.v1_v + k.shift
                )
                tables["families"][shifted.id] = shifted
                part = part._replace(family=shifted.id)
            tables["lamps"][of] = part
        elif kind == "coat" and of in catalogue.coats:
            coat = catalogue.coats[of]
            tables["coats"][of] = coat._replace(
                density=coat.density * times, scatter=coat.scatter * times, absorb=coat.absorb * times, spread=k.sigma * coat.density * times,
            )  # fmt: skip
        elif kind == "source" and of in catalogue.sources:
            tables["sources"][of] = catalogue.sources[of]._replace(nominal_v=catalogue.sources[of].nominal_v * times)
    changed: Mapping[str, Any] = {
        name: MappingProxyType({**getattr(catalogue, name), **more}) for name, more in tables.items() if more
    }
    return replace(catalogue, known=MappingProxyType(known), before=catalogue, **changed)


def as_read(catalogue: Catalogue, lamps: dict[str, LampState]) -> dict[str, LampState]:
    """Lamps with the light that was read of them, where it is another than that of their kind."""
    for (kind, of), k in catalogue.known.items():
        if kind == "lamp" and of in lamps:
            times = math.exp(k.shift)
            state = lamps[of]
            lamps[of] = state._replace(
                flux_lm=state.flux_lm * times, axial_cd=state.axial_cd * times, share=state.share * times
            )
    return lamps
