"""One build as it may come out: every part, coat and place drawn from how far it strays; a plan and a catalogue for the same computation.

Sources
-------
[1] Spreads, one sigma: flux of a bag 20 %, between its lamps 10 %, glazing 15 %, a coat's density 25 % (or what was measured), plastic's 15 %, capacity
    15 % (all lognormal); reflectance of a lining .03 (normal). Forward voltages normal, half their variance common to a bag; resistors evenly within
    ±5 % (E96 ±1 %), an adapter within ±5 %. A part that was measured strays by a quarter.
[2] House values: a lamp lies within ±1 mm and ±10° of its place nine times in ten, along each axis.
"""

from __future__ import annotations

import math
from dataclasses import replace
from types import MappingProxyType
from typing import Any, NamedTuple

import numpy as np

from gwiazda.core.assess.electrics.tolerance import ADAPTER, LOW_DROP, LOW_DROP_V, REGULATOR
from gwiazda.core.assess.uncertainty import MOST_BACK, Z95
from gwiazda.core.light.leak import density_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import COAT_SPREAD, MATERIAL_SPREAD, Coat, Glazing
from gwiazda.core.parts.spreads import BAG, BETWEEN, CAPACITY, GLAZING, LINING, MEASURED
from gwiazda.core.plan.model import (
    BRANCHING,
    CircuitNode,
    Lamp,
    Layer,
    Plan,
    Regulated,
    Resistor,
    Section,
    copy_unchecked,
)

A_HAIR = 1e-9  # of a reflectance: no build has quite that of the plan, whose finer figures may be kept
PLACED_MM, PLACED_RAD = 1.0 / Z95, math.radians(10.0) / Z95


class Truth(NamedTuple):
    """A build: its plan, and the parts it is made of."""

    plan: Plan
    catalogue: Catalogue


class Builder:
    """Draws builds of a plan as it is soldered (``as_built``)."""

    def __init__(self, built: Plan, catalogue: Catalogue, seed: int) -> None:
        self.plan, self.catalogue = built, catalogue
        self.seed = seed
        self.stray = 0.01 if built.drawer.series == "E96" else 0.05

    def build(self, number: int) -> Truth:
        """One build; the same for the same seed and number."""
        return _Draw(self, np.random.default_rng([self.seed, number])).truth()

    def sound(self) -> Truth:
        """The build in which nothing strays: what the others are held against. It is made anew as they are, not taken from figures that are kept."""
        return _Draw(self, _Sound()).truth()


class _Sound:
    """Draws the middle of everything."""

    def standard_normal(self, size: int | None = None) -> Any:
        return 0.0 if size is None else np.zeros(size)

    def uniform(self, low: float, high: float) -> float:
        return (low + high) / 2.0


class _Draw:
    """One build being drawn."""

    def __init__(self, builder: Builder, rng: np.random.Generator | _Sound) -> None:
        self.plan, self.catalogue, self.stray, self.rng = builder.plan, builder.catalogue, builder.stray, rng
        self.more: dict[str, dict[str, Any]] = {}
        self._common: dict[tuple[str, str], float] = {}

    def truth(self) -> Truth:
        plan = self.plan
        lamps = tuple(self._lamp(p) for p in plan.lamps)
        sections = tuple(self._section(s) for s in plan.sections)
        openings = tuple(
            copy_unchecked(o, glazing=self._glazing(o.glazing, o.section)) if o.glazing else o for o in plan.openings
        )
        feeds = tuple(copy_unchecked(f, items=tuple(self._strayed(x) for x in f.items)) for f in plan.feeds)
        self._materials()
        self._sources()
        tables = {
            name: MappingProxyType({**getattr(self.catalogue, name), **found}) for name, found in self.more.items()
        }
        changed: dict[str, Any] = dict(tables)
        drawn = copy_unchecked(plan, lamps=lamps, sections=sections, openings=openings, feeds=feeds)
        return Truth(drawn, replace(self.catalogue, **changed))

    def _put(self, table: str, part: Any) -> str:
        self.more.setdefault(table, {})[part.id] = part
        return str(part.id)

    def _shared(self, kind: str, of: str) -> float:
        """What all of a bag, a pot, a hand have in common: a standard normal, drawn once."""
        if (kind, of) not in self._common:
            self._common[kind, of] = float(self.rng.standard_normal())
        return self._common[kind, of]

    def _hand(self, section: str) -> float:
        """How thick coats go on: one pot and one hand lay them all, each section a little otherwise."""
        return 0.8 * self._shared("paint", "") + 0.6 * self._shared("hand", section)

    def _even(self, limit: float) -> float:
        return 1.0 + limit * float(self.rng.uniform(-1.0, 1.0))

    # -- lamps and circuit ---------------------------------------------------------------------------------

    def _lamp(self, lamp: Lamp) -> Lamp:
        part = self.catalogue.lamps.get(lamp.part)
        if part is None:
            return lamp
        own = MEASURED if part.basis == "measured" else 1.0
        light = math.exp(own * (BAG * self._shared("bag", part.id) + BETWEEN * float(self.rng.standard_normal())))
        family = self.catalogue.families[part.family]
        sigma = (MEASURED if family.basis == "measured" else 1.0) * family.spread_v / 2.0
        shift = sigma * math.sqrt(0.5) * (self._shared("volts", part.id) + float(self.rng.standard_normal()))
        mark = f"@{lamp.id}"
        self._put(
            "families", family._replace(id=family.id + mark, v20_v=family.v20_v + shift, v1_v=family.v1_v + shift)
        )
        name = self._put(
            "lamps",
            part._replace(
                id=part.id + mark,
                family=family.id + mark,
                axial_mcd=part.axial_mcd * light,
                flux_lm=part.flux_lm * light,
                body="",
            ),
        )
        ohm = lamp.resistor_ohm * self._even(self.stray) if lamp.resistor_ohm else None
        return copy_unchecked(lamp, part=name, at=self._at(lamp), aim=self._aim(lamp), resistor_ohm=ohm)

    def _at(self, lamp: Lamp) -> tuple[float, float, float]:
        if lamp.mount != "inside":
            return lamp.at  # it sits in its hole
        x, y, z = (a + PLACED_MM * float(e) for a, e in zip(lamp.at, self.rng.standard_normal(3), strict=True))
        for s in self.plan.sections:
            if s.box.contains(lamp.at):
                x, y, z = (
                    min(max(v, low + 0.3), low + size - 0.3)
                    for v, low, size in zip((x, y, z), s.box.at, s.box.size, strict=True)
                )
        return x, y, z

    def _aim(self, lamp: Lamp) -> tuple[float, float, float]:
        if lamp.mount == "fibre":
            return lamp.aim
        aim = np.array(lamp.aim, dtype=float)
        aim /= np.linalg.norm(aim)
        off = self.rng.standard_normal(3) * PLACED_RAD
        off -= aim * (off @ aim)
        turned = aim + off
        x, y, z = (turned / np.linalg.norm(turned)).tolist()
        return x, y, z

    def _strayed(self, node: CircuitNode) -> CircuitNode:
        if isinstance(node, Resistor):
            return copy_unchecked(node, ohm=node.ohm * self._even(self.stray)) if node.ohm else node
        if isinstance(node, Regulated):
            part = self.catalogue.regulators.get(node.part)
            held = LOW_DROP if part is not None and part.dropout_v < LOW_DROP_V else REGULATOR
            node = copy_unchecked(node, volts=node.volts * self._even(held))
        if isinstance(node, BRANCHING):
            return copy_unchecked(node, items=tuple(self._strayed(x) for x in node.items))
        return node

    def _sources(self) -> None:
        for part_id in sorted({f.supply.part for f in self.plan.feeds}):
            part = self.catalogue.sources.get(part_id)
            if part is None:
                continue
            if part.kind == "battery":
                # A battery's volts are those of its depth of discharge, which is known or is said with the figure.
                self._put(
                    "sources",
                    part._replace(
                        capacity_mah=part.capacity_mah * math.exp(CAPACITY * float(self.rng.standard_normal()))
                    ),
                )
            elif not part.adjustable:
                self._put("sources", part._replace(nominal_v=part.nominal_v * self._even(ADAPTER)))

    # -- surfaces --------------------------------------------------------------------------------------------

    def _section(self, s: Section) -> Section:
        mark = f"@{s.id}"
        changed: dict[str, Any] = {"glazing": self._glazing(s.glazing, s.id)}
        lining = self.catalogue.linings.get(s.lining)
        coat = self.catalogue.coats.get(lining.coat) if lining is not None else None
        if lining is not None and coat is not None:
            film = coat.film(s.lining_coats)
            back = min(
                max(film.reflectance + LINING * float(self.rng.standard_normal()) - A_HAIR, 0.01),
                MOST_BACK,
                1.0 - film.transmittance,
            )
            # Laid thicker or thinner by the hand that lays the other coats too.
            dense = density_of(film.transmittance) + film.sigma * self._hand(s.id)
            per_coat = max(dense, 0.0) / (s.lining_coats if coat.kind == "paint" else 1.0)
            drawn = coat._replace(
                id=coat.id + "~" + mark,
                scatter=0.0,
                absorb=0.0,
                density=per_coat,
                reflectance=back,
                spread=film.sigma / max(s.lining_coats, 1) or 0.0,
            )
            self._put("coats", drawn)
            changed["lining"] = self._put("linings", lining._replace(id=lining.id + mark, coat=drawn.id))
        for where in ("inside", "outside"):
            changed[where] = tuple(self._layer(layer, mark) for layer in getattr(s, where))
        return copy_unchecked(s, **changed)

    def _layer(self, layer: Layer, mark: str) -> Layer:
        coat = self.catalogue.coats.get(layer.coat)
        return copy_unchecked(layer, coat=self._put("coats", self._coat(coat, mark))) if coat is not None else layer

    def _coat(self, coat: Coat, mark: str) -> Coat:
        """One hand lays all coats of a section alike."""
        sigma = coat.spread / coat.density if coat.spread and coat.density else COAT_SPREAD
        thick = max(1.0 + sigma * self._hand(mark[1:]), 0.05)
        return coat._replace(
            id=coat.id + mark, density=coat.density * thick, scatter=coat.scatter * thick, absorb=coat.absorb * thick
        )

    def _glazing(self, glazing_id: str, section: str) -> str:
        part = self.catalogue.glazings.get(glazing_id)
        if part is None or (part.scattered == 0.0 and part.reflectance == 0.0):
            return glazing_id  # an open hole is what it is
        sigma = GLAZING * (MEASURED if part.basis == "measured" else 1.0)
        made: Glazing = part._replace(
            id=f"{part.id}@{section}", transmittance=min(part.transmittance * math.exp(sigma * self._shared("glazing", part.id + section)), 1.0 - part.reflectance)
        )  # fmt: skip
        return self._put("glazings", made)

    def _materials(self) -> None:
        used = {self.plan.kit.material, *(s.material for s in self.plan.sections)}
        for material_id in sorted(used - {""}):
            part = self.catalogue.materials.get(material_id)
            if part is not None:
                own = MATERIAL_SPREAD * (MEASURED if part.basis == "measured" else 1.0)
                thick = math.exp(own * float(self.rng.standard_normal()))
                # In place of the same part: kits and sections name it.
                self._put(
                    "materials",
                    part._replace(
                        density_per_mm=part.density_per_mm * thick,
                        scatter_per_mm=part.scatter_per_mm * thick,
                        absorb_per_mm=part.absorb_per_mm * thick,
                    ),
                )
