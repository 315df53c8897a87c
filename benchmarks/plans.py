"""Plans and networks made for measuring."""

from __future__ import annotations

import random

import numpy as np

from gwiazda.core.circuit.network import Diode, Element, Network, Resistor, Source
from gwiazda.core.circuit.parts.diode import parameters_from_points
from gwiazda.core.plan.edits import outline_from_box
from gwiazda.core.plan.model import Box, Feed, Lamp, Layer, Opening, Plan, Section, Supply, View


def big_plan(openings: int = 5000, channels: int = 64, lamps: int = 320, seed: int = 7) -> Plan:
    """A tall block of sections with rows of windows; every section is a channel."""
    rng = random.Random(seed)
    per = openings // channels
    columns = 4
    sections, panes, bulbs = [], [], []
    for c in range(channels):
        col, row = c % columns, c // columns
        x0, z0 = col * 260.0, row * 22.0
        section = Section(
            id=f"s{c:02d}",
            name=f"Section {c}",
            box=Box(at=(x0, -20.0, z0), size=(250.0, 40.0, 18.0)),
            inside=(Layer(coat="flat-black", coats=3),),
        )
        sections.append(outline_from_box(section))
        for i in range(per):
            panes.append(
                Opening(
                    id=f"s{c:02d}.window.{i:03d}", section=f"s{c:02d}", width_mm=1.8, height_mm=2.2,
                    at=(x0 + 3 + i * 244.0 / per, 20.0, z0 + 9.0), lit=float(rng.random() < 0.6),
                )
            )  # fmt: skip
        for i in range(lamps // channels):
            at = (x0 + 240.0 * (i + 0.5) / (lamps // channels), 0.0, z0 + 16.0)
            bulbs.append(Lamp(id=f"s{c:02d}.lamp.{i}", part="chip-0805-warm-white", at=at))
    return Plan(
        views=(View(id="port", name="Port side", side="port"),),
        sections=tuple(sections), openings=tuple(panes), lamps=tuple(bulbs),
        feeds=(Feed(id="supply", supply=Supply(part="adapter-12v-2a")),),
    )  # fmt: skip


def ladder(lamps: int = 60, seed: int = 3) -> tuple[Network, list[Element]]:
    """``lamps`` branches of resistor and lamp on a 9 V block."""
    rng = np.random.default_rng(seed)
    n, is_a = parameters_from_points(3.1, 2.65, 10.0)
    elements: list[Element] = [Source("s", "plus", "0", 9.0, 1.7)]
    for i in range(lamps):
        elements.append(Resistor(f"r{i}", "plus", f"a{i}", float(rng.uniform(300, 5000))))
        elements.append(Diode(f"d{i}", f"a{i}", "0", n, is_a, 10.0))
    return Network(elements), elements
