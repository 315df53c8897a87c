"""Plans made for tests."""

from __future__ import annotations

from gwiazda.core.plan import edits
from gwiazda.core.plan.model import Box, Feed, Kit, Lamp, Opening, Plan, Section, Supply, View


def deck_plan(windows: int = 24, lamps: int = 5, supply: str = "adapter-9v-0.5a", height_mm: float = 4.0) -> Plan:
    """The closed deck of the worked chain: 165 × 44 × 19 mm, flat white, two mist coats."""
    section = edits.outline_from_box(Section(id="deck1", name="Deck 1", box=Box(at=(0, -22, 0), size=(165, 44, 19))))
    plan = Plan(
        views=(View(id="port", name="Port side", side="port"), View(id="top", name="From above", side="top")),
        sections=(section,),
        feeds=(Feed(id="supply", supply=Supply(part=supply)),),
    )
    if windows:
        shape = Opening(id="t", section="deck1", width_mm=3.0, height_mm=height_mm, at=(0, 0, 0))
        plan, _ = edits.add_row(plan, section, "port", (10, 10), (155, 10), windows, shape)
    for i in range(lamps):
        plan = edits.add_lamp(
            plan, Lamp(id=f"deck1.lamp.{i + 1:02d}", part="chip-1206-warm-white", at=(20.0 + 30.0 * i, 0, 18))
        )
    return plan


CABIN = Box(at=(0.0, -20.0, 0.0), size=(60.0, 40.0, 20.0))


def cabin(**opening) -> Plan:
    """A cabin with one clear pane to port and a lamp straight behind it."""
    section = edits.outline_from_box(Section(id="s", name="Cabin", box=CABIN, glazing="clear"))
    pane = {"id": "w", "section": "s", "at": (30.0, 20.0, 10.0), "width_mm": 6.0, "height_mm": 6.0, **opening}
    # Straight behind the pane, 15 mm in.
    lamp = Lamp(id="p", part="chip-1206-warm-white", at=(30.0, 5.0, 10.0), aim=(0.0, 1.0, 0.0))
    return Plan(kit=Kit(scale=200), sections=(section,), openings=(Opening(**pane),), lamps=(lamp,))
