"""Draw and plan the demo ship Szron, an invention of our own, and write ``src/gwiazda/demos/szron.gwiazda``.

Run again after a change of the plan format: ``.venv/bin/python tools/make_szron.py``.
"""

from __future__ import annotations

import math
import random
from pathlib import Path

from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import opening_of
from gwiazda.core.plan.model import (
    Box,
    Closure,
    Dot,
    Drawing,
    Feed,
    Fitting,
    Hatch,
    Kit,
    Lamp,
    Layer,
    Loom,
    Obstacle,
    Opening,
    Outline,
    Panel,
    Passage,
    Plan,
    Seam,
    Section,
    Supply,
    View,
    ViewingConditions,
    Wanted,
    copy_unchecked,
)
from gwiazda.core.plan.storage import PlanFile, save
from gwiazda.demos.lights import Row, with_lights

OUT = Path(__file__).parent.parent / "src/gwiazda/demos/szron.gwiazda"
LENGTH, HALF_BEAM = 400.0, 42.0
MARGIN_X, BASE_Y, TOP_Y = 420.0, 190.0, 70.0  # where the model's origin lies in the two drawings
INK, HULL, HOUSE, DECK, DARK, GLASS = "#3b3f3d", "#b9bdb6", "#e9e6da", "#c9c6b8", "#7d817c", "#d9dcd6"


class Sheet:
    """A small SVG writer in model coordinates."""

    def __init__(self, width: float, height: float, title: str) -> None:
        self.parts = [
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" width="{width:g}" '
            f'height="{height:g}"><title>{title}</title>'
            f'<g stroke="{INK}" stroke-width="0.6" stroke-linejoin="round" stroke-linecap="round">'
        ]

    def at(self, h: float, v: float) -> tuple[float, float]:
        raise NotImplementedError

    def poly(
        self, points: list[tuple[float, float]], fill: str = "none", width: float = 0.6, close: bool = True
    ) -> None:
        d = " ".join(f"{x:.2f},{y:.2f}" for x, y in (self.at(*p) for p in points))
        tag = "polygon" if close else "polyline"
        self.parts.append(f'<{tag} points="{d}" fill="{fill}" stroke-width="{width:g}"/>')

    def box(self, h0: float, v0: float, h1: float, v1: float, fill: str = "none", width: float = 0.6) -> None:
        self.poly([(h0, v0), (h1, v0), (h1, v1), (h0, v1)], fill, width)

    def disc(self, h: float, v: float, r: float, fill: str = "none", width: float = 0.5) -> None:
        x, y = self.at(h, v)
        self.parts.append(f'<circle cx="{x:.2f}" cy="{y:.2f}" r="{r:g}" fill="{fill}" stroke-width="{width:g}"/>')

    def done(self) -> bytes:
        return ("\n".join([*self.parts, "</g></svg>"]) + "\n").encode()


class Profile(Sheet):
    def at(self, h: float, v: float) -> tuple[float, float]:
        return MARGIN_X - h, BASE_Y - v


class Above(Sheet):
    def at(self, h: float, v: float) -> tuple[float, float]:
        return MARGIN_X - h, TOP_Y + v


# Port-side contours (x, z) and plan contours (x, y).
HULL_SIDE = [
    (4.0, 14.0), (26.0, 4.0), (338.0, 4.0), (368.0, 20.0), (392.0, 46.0), (400.0, 62.0), (352.0, 58.0),
    (312.0, 50.0), (40.0, 47.0), (4.0, 47.0),
]  # fmt: skip
HULL_TOP = [
    (4.0, -34.0), (4.0, 34.0), (40.0, 40.0), (120.0, 42.0), (280.0, 42.0), (330.0, 37.0), (370.0, 22.0), (400.0, 0.0),
    (370.0, -22.0), (330.0, -37.0), (280.0, -42.0), (120.0, -42.0), (40.0, -40.0),
]  # fmt: skip
HOUSES = {
    # id: name, (x0, x1, z0, z1), half breadth
    "deck1": ("Deck 1", (118.0, 306.0, 49.0, 69.0), 37.0),
    "deck2": ("Deck 2", (140.0, 296.0, 69.0, 88.0), 34.0),
    "deck3": ("Deck 3", (170.0, 284.0, 88.0, 106.0), 30.0),
    "bridge": ("Bridge", (206.0, 276.0, 106.0, 125.0), 40.0),
    "hangar": ("Hangar", (70.0, 118.0, 48.0, 82.0), 30.0),
}
WALL = 1.2


def house_outline(key: str) -> list[tuple[float, float]]:
    _, (x0, x1, z0, z1), _ = HOUSES[key]
    rake = {"deck1": 5.0, "deck2": 5.0, "deck3": 5.0, "bridge": 7.0, "hangar": 0.0}[key]
    if key == "bridge":
        return [(x0, z0), (x1 - 3, z0), (x1 + rake - 3, z1 - 4), (x1 + 2, z1), (x0 + 2, z1)]
    return [(x0, z0), (x1, z0), (x1 - rake, z1), (x0, z1)]


def house_from_above(key: str, front: float = 6.0) -> list[tuple[float, float]]:
    """A house's outline from above, its fore corners cut back by ``front`` mm."""
    _, (x0, x1, _, _), half = HOUSES[key]
    front = front if key != "hangar" else 0.0
    return [
        (x0, -half),
        (x1 - front, -half),
        (x1, -half * 0.5),
        (x1, half * 0.5),
        (x1 - front, half),
        (x0, half),
    ]


def drawings() -> dict[str, bytes]:
    side = Profile(440, 232, "Szron, port side")
    # Base of turned wood with the supply in it.
    side.poly([(96, -14), (306, -14), (298, -34), (104, -34)], "#a89a80", 0.8)
    side.box(140, -14, 152, 4, "#a89a80")
    side.box(252, -14, 264, 4, "#a89a80")
    side.poly(HULL_SIDE, HULL, 0.9)
    side.poly([(8, 24), (374.5, 24), (368, 20), (338, 4), (26, 4), (4, 14)], "#94877a", 0.5)
    side.poly([(4, 40), (100, 41), (312, 43.5), (388, 43)], "none", 0.35, close=False)
    for x in range(30, 340, 24):
        side.poly([(x, 24.6), (x, 39.5)], "none", 0.2, close=False)
    side.poly([(330, 24), (352, 58)], "none", 0.3, close=False)
    side.disc(366, 46, 2.6, DARK)
    side.poly([(366, 44), (364, 36), (360, 34), (368, 34), (364, 36)], "none", 0.6, close=False)
    for key in ("hangar", "deck1", "deck2", "deck3"):
        side.poly(house_outline(key), HOUSE, 0.7)
    side.poly(house_outline("bridge"), HOUSE, 0.8)
    for key in ("deck1", "deck2", "deck3"):
        _, (x0, x1, _, z1), _ = HOUSES[key]
        side.box(x0 - 3, z1 - 0.8, x1 - 2, z1 + 0.8, DECK, 0.4)
        for x in range(int(x0), int(x1) - 4, 9):  # railings
            side.poly([(x, z1 + 0.8), (x, z1 + 5.4)], "none", 0.2, close=False)
        side.poly([(x0 - 2, z1 + 5.4), (x1 - 6, z1 + 5.4)], "none", 0.25, close=False)
    # Helicopter deck aft, its nets, and the crane.
    side.box(8, 50, 70, 52.2, DECK, 0.6)
    for x in (14, 30, 46, 62):
        side.poly([(x, 47), (x, 50)], "none", 0.7, close=False)
    side.poly([(8, 52), (2, 56)], "none", 0.5, close=False)
    # Funnel with louvres.
    side.poly([(146, 88), (166, 88), (163, 124), (150, 124)], DARK, 0.8)
    side.poly([(148, 112), (165, 112), (164, 118), (149, 118)], "#c9a24a", 0.5)
    for z in (94, 98, 102, 106):
        side.poly([(149, z), (164, z)], "none", 0.3, close=False)
    side.box(152, 124, 155, 129, DARK)
    side.box(158, 124, 161, 129, DARK)
    # Lifeboat on its davits.
    side.poly(
        [(150, 74), (154, 71), (178, 71), (182, 74), (180, 80), (172, 82), (158, 82), (152, 80)],
        "#c98a52",
        0.7,
    )
    side.poly([(152, 76), (181, 76)], "none", 0.3, close=False)
    for x in (156, 176):
        side.poly([(x, 82), (x, 86), (x + 4, 86)], "none", 0.9, close=False)
    # Masts.
    side.poly([(236, 125), (246, 125), (243, 164), (240, 164)], HOUSE, 0.6)
    for z in (132, 140, 148, 156):
        side.poly([(237 + (z - 125) / 14, z), (245.4 - (z - 125) / 16, z)], "none", 0.3, close=False)
    side.box(230, 146, 254, 147.6, DECK, 0.5)
    side.poly([(241.5, 164), (241.5, 180)], "none", 0.7, close=False)
    side.poly([(246, 152), (260, 152)], "none", 1.1, close=False)
    side.poly([(349, 58), (353, 58), (352, 92), (350, 92)], HOUSE, 0.5)
    side.poly([(351, 92), (351, 100)], "none", 0.6, close=False)
    side.disc(262, 133, 4.6, HOUSE, 0.6)
    side.box(258, 125, 266, 129, HOUSE, 0.5)
    # Foredeck crane and bulwark.
    side.poly([(320, 50), (327, 50), (326, 68), (321, 68)], HOUSE, 0.6)
    side.poly([(323, 68), (340, 84), (341.5, 82.6), (326, 66)], DECK, 0.5)
    side.poly([(312, 50), (312, 55), (352, 63), (352, 58)], HULL, 0.6)

    top = Above(440, 140, "Szron, from above")
    top.poly(HULL_TOP, HULL, 0.9)
    top.poly([(x * 0.985 + 3, y * 0.93) for x, y in HULL_TOP], DECK, 0.4)
    top.box(8, -31, 70, 31, "#a9aca6", 0.6)
    top.disc(38, 0, 22, "none", 0.8)
    top.disc(38, 0, 14, "none", 0.4)
    top.poly([(32, -8), (32, 8)], "none", 1.6, close=False)
    top.poly([(44, -8), (44, 8)], "none", 1.6, close=False)
    top.poly([(32, 0), (44, 0)], "none", 1.6, close=False)
    for key in ("hangar", "deck1", "deck2", "deck3", "bridge"):
        top.poly(house_from_above(key), HOUSE, 0.7)
    top.box(146, -14, 166, 14, DARK, 0.8)
    top.box(151, -8, 161, 8, "#565a56", 0.5)
    for y in (-31, 31):
        top.poly(
            [
                (150, y - 4),
                (156, y - 5.5),
                (176, y - 5.5),
                (182, y),
                (176, y + 5.5),
                (156, y + 5.5),
                (150, y + 4),
            ],
            "#c98a52",
            0.6,
        )
    top.disc(241, 0, 5, DECK)
    top.box(230, -12, 254, 12, "none", 0.4)
    top.disc(262, 14, 4.6, HOUSE, 0.6)
    top.disc(351, 0, 2.4, HOUSE)
    top.disc(324, -16, 4.5, HOUSE)
    top.poly([(324, -14), (342, -2), (343, -4), (326, -18)], DECK, 0.5)
    for y in (-9, 9):
        top.disc(372, y, 2.2, DARK)
        top.poly([(372, y), (388, y * 0.45)], "none", 0.7, close=False)
    top.box(328, 6, 340, 16, HOUSE, 0.5)
    return {"port.svg": side.done(), "top.svg": top.done()}


BLACK, PRIMER = Layer(coat="flat-black", coats=3), Layer(coat="grey-primer")


def sections() -> list[Section]:
    hull = Section(
        id="hull",
        name="Hull",
        box=Box(at=(34.0, -HALF_BEAM + WALL, 6.0), size=(300.0, 2 * (HALF_BEAM - WALL), 39.0)),
        outlines=(Outline(side="port", points=tuple(HULL_SIDE)), Outline(side="top", points=tuple(HULL_TOP))),
        glazing="frosted-2",
        inside=(BLACK,),
        outside=(PRIMER,),
        closure=Closure(part="main deck", by="glue", glue="solvent cement", removable="base hatch"),
    )
    out = [hull]
    for key, (name, (x0, x1, z0, z1), half) in HOUSES.items():
        front = 8.0 if key != "hangar" else 0.0
        out.append(
            Section(
                id=key,
                name=name,
                box=Box(
                    at=(x0 + WALL, -half + WALL, z0 + WALL),
                    size=(x1 - x0 - 2 * WALL - front, 2 * (half - WALL), z1 - z0 - 2 * WALL),
                ),
                outlines=(
                    Outline(side="port", points=tuple(house_outline(key))),
                    Outline(side="top", points=tuple(house_from_above(key))),
                ),
                glazing="frosted-2" if key == "bridge" else ("vellum" if key == "hangar" else "mist-2"),
                # Deck 1 got one black coat where the others got three, and no primer: the leak that is there to be found.
                inside=(Layer(coat="flat-black"),) if key == "deck1" else (BLACK,),
                outside=() if key == "deck1" else (PRIMER,),
                seams=(Seam(id=f"{key}.seam.01", face="top", gap_mm=0.05, bridged="foil-tape"),),
                closure=Closure(
                    part="roof", by="glue", glue="two-part epoxy" if key == "bridge" else "thin solvent cement"
                ),
            )
        )
    out.append(
        Section(
            id="mast",
            name="Main mast",
            box=Box(at=(238.5, -2.5, 126.0), size=(5.0, 5.0, 36.0)),
            outlines=(
                Outline(side="port", points=((236.0, 125.0), (246.0, 125.0), (243.0, 164.0), (240.0, 164.0))),
                Outline(side="top", points=((236.5, -5.0), (246.5, -5.0), (246.5, 5.0), (236.5, 5.0))),
            ),
        )
    )
    # The base of turned wood, with the pack in it: a section like any other, though nothing of it is lit.
    out.append(
        Section(
            id="base", name="Base", box=Box(at=(106.0, -26.0, -32.0), size=(190.0, 52.0, 16.0)), wall_mm=3.0, colour="#a89a80", material="dark-wood",
            outlines=(Outline(side="port", points=((96.0, -14.0), (306.0, -14.0), (298.0, -34.0), (104.0, -34.0))),),
            obstacles=(
                Obstacle(id="base.pack", kind="pack", name="Eight AA cells", box=Box(at=(108.0, -23.7, -32.0), size=(174.0, 47.4, 15.3)), reached=True, of="supply"),
                Obstacle(id="base.switch", kind="switch", name="Slide switch", box=Box(at=(284.0, -6.0, -31.0), size=(10.0, 12.0, 8.0))),
            ),
            closure=Closure(part="bottom plate", by="glue", glue="white glue", hatch=Hatch(face="bottom", at=(89.0, 26.0), size=(176.0, 49.0))),
        )
    )  # fmt: skip
    return out


def fittings() -> tuple[Fitting, ...]:
    """What stands on the outside and is no section: masts, the crane, the boats in their davits."""
    boat = [(150, 74), (154, 71), (178, 71), (182, 74), (180, 80), (172, 82), (158, 82), (152, 80)]
    beside = HOUSES["deck2"][2] + 5.0
    dome = [(262 + 4.6 * math.cos(math.radians(t)), 133 + 4.6 * math.sin(math.radians(t))) for t in range(0, 360, 20)]
    drawn: tuple[tuple[str, str, str, list[tuple[float, float]], float, float], ...] = (
        ("mast.yard", "Yard and platform", "mast", [(230, 146), (254, 146), (254, 147.6), (230, 147.6)], 0.0, 14.0),
        ("mast.pole", "Topmast", "mast", [(241, 164), (242, 164), (242, 180), (241, 180)], 0.0, 1.0),
        ("bridge.dome", "Radome", "bridge", dome, 0.0, 8.0),
        ("hull.foremast", "Foremast", "hull", [(349, 58), (353, 58), (352, 92), (351.4, 100), (350.6, 100), (350, 92)], 0.0, 2.4),
        ("hull.crane", "Foredeck crane", "hull", [(320, 50), (327, 50), (326.4, 66), (341.5, 82.6), (340, 84), (323, 68), (321, 68)], 0.0, 4.0),
        ("boat.port", "Lifeboat, port", "deck2", [*map(tuple, boat)], beside, 8.0),
        ("boat.starboard", "Lifeboat, starboard", "deck2", [*map(tuple, boat)], -beside, 8.0),
    )  # fmt: skip
    out = []
    for name, words, on, points, y, thick in drawn:
        x, z = ((min(p[i] for p in points) + max(p[i] for p in points)) / 2 for i in (0, 1))
        about = tuple((round(a - x, 4), round(b - z, 4)) for a, b in points)
        out.append(Fitting(id=name, name=words, section=on, side="port", at=(x, y, z), points=about, thick_mm=thick))
    return tuple(out)


def passages() -> tuple[Passage, ...]:
    """The way of the wires from the base up: a tube through the after pillar and the keel, holes from deck to deck."""
    return (
        Passage(id="keel", name="Keel tube", section="base", into="hull", at=(146.0, 0.0, -5.0), width_mm=KEEL_MM, length_mm=18.0, make="as it is"),
        Passage(id="hull.deck1", name="Hull to deck 1", section="hull", into="deck1", at=(150.0, 0.0, 47.5), width_mm=6.0, length_mm=3.0),
        Passage(id="hull.hangar", name="Hull to hangar", section="hull", into="hangar", at=(96.0, 0.0, 47.5), width_mm=3.0, length_mm=3.0),
        Passage(id="deck1.deck2", name="Deck 1 to deck 2", section="deck1", into="deck2", at=(160.0, 0.0, 69.0), width_mm=5.0, length_mm=2.4),
        Passage(id="deck2.deck3", name="Deck 2 to deck 3", section="deck2", into="deck3", at=(190.0, 0.0, 88.0), width_mm=4.0, length_mm=2.4),
        Passage(id="deck3.bridge", name="Deck 3 to bridge", section="deck3", into="bridge", at=(222.0, 0.0, 106.0), width_mm=4.0, length_mm=2.4),
        Passage(id="bridge.mast", name="Mast foot", section="bridge", into="mast", at=(241.0, 0.0, 125.5), width_mm=3.0, length_mm=1.5, look="hidden"),
    )  # fmt: skip


KEEL_MM = 5.6


def occupied(rng: random.Random, count: int, share: float) -> list[float]:
    """Lit, dim and dark windows in small clumps, as people live: exactly ``share`` of them not dark."""
    lit = [False] * count
    wanted = round(count * share)
    while sum(lit) < wanted:
        start, run = rng.randrange(count), rng.choice((1, 1, 2, 2, 3, 4))
        for i in range(start, min(start + run, count)):
            if sum(lit) < wanted:
                lit[i] = True
    return [(0.35 if rng.random() < 0.12 else 1.0) if on else 0.0 for on in lit]


def windows(plan: Plan) -> Plan:
    rng = random.Random(1871)
    rows = [
        # section, z, x0, x1, count, width, height, shape, share
        ("hull", 33.0, 44.0, 322.0, 27, 2.6, 2.6, "round", 0.52),
        ("deck1", 60.0, 124.0, 288.0, 25, 3.4, 3.6, "rect", 0.60),
        ("deck2", 79.5, 190.0, 280.0, 14, 3.4, 3.6, "rect", 0.64),
        ("deck3", 98.0, 176.0, 268.0, 14, 3.4, 3.6, "rect", 0.57),
        ("bridge", 117.5, 214.0, 264.0, 11, 3.8, 5.0, "rect", 1.0),
        ("hangar", 70.0, 84.0, 104.0, 3, 2.8, 2.8, "round", 1.0),
    ]
    by_id = {s.id: s for s in plan.sections}
    for key, z, x0, x1, count, width, height, shape, share in rows:
        for side in ("port", "starboard"):
            glass = "frosted-1" if key == "hangar" else None
            template = Opening(
                id="t", section=key, shape=shape, width_mm=width, height_mm=height, at=(0, 0, 0), glazing=glass
            )
            plan, ids = edits.add_row(plan, by_id[key], side, (x0, z), (x1, z), count, template)
            lit = occupied(rng, count, share)
            changed = {i: edits.copy_checked(opening_of(plan, i), lit=value) for i, value in zip(ids, lit, strict=True)}
            plan = edits.replace(plan, changed)
    template = Opening(id="t", section="bridge", width_mm=5.0, height_mm=5.0, at=(0, 0, 0))
    plan, _ = edits.add_row(plan, by_id["bridge"], "bow", (-32.0, 117.5), (32.0, 117.5), 9, template)
    template = Opening(id="t", section="deck3", width_mm=7.0, height_mm=5.0, at=(0, 0, 0))
    plan, _ = edits.add_row(plan, by_id["deck3"], "top", (178.0, -14.0), (178.0, 14.0), 3, template)
    door = Opening(
        id="hangar.door.01",
        section="hangar",
        width_mm=44.0,
        height_mm=24.0,
        at=(70.0 + WALL, 0.0, 63.0),
        side="stern",
    )
    return edits.add_openings(plan, [door])


def lamps(plan: Plan) -> Plan:
    out: list[Lamp] = []
    warm, neutral = "chip-1206-warm-white", "chip-0805-cool-white"

    def inside(
        key: str, count: int, x0: float, x1: float, z: float, part: str, look: str, split: float | None = None
    ) -> None:
        for i in range(count):
            x = x0 + (x1 - x0) * (i / (count - 1) if count > 1 else 0.5)
            channel = "" if split is None else (f"{key}.fore" if x > split else f"{key}.aft")
            out.append(
                Lamp(
                    id=f"{key}.lamp.{i + 1:02d}", part=part, at=(round(x, 1), 0.0, z), aim=(0.0, 0.0, -1.0),
                    wanted=Wanted(look=look), channel=channel,
                )
            )  # fmt: skip

    # All aft: the row of portholes that goes dark towards the bow is there to be found.
    inside("hull", 4, 60.0, 190.0, 42.0, warm, "soft", 125.0)
    inside("deck1", 6, 136.0, 278.0, 66.0, warm, "normal", 205.0)
    inside("deck2", 4, 160.0, 270.0, 85.0, warm, "normal", 215.0)
    inside("deck3", 3, 188.0, 258.0, 103.0, warm, "normal", 200.0)
    inside("bridge", 2, 226.0, 252.0, 122.0, "chip-0805-amber", "barely")
    inside("hangar", 3, 82.0, 106.0, 79.0, neutral, "normal")
    # Straight behind a porthole: the hot spot that is there to be found.
    out[-2] = copy_unchecked(out[-2], part="chip-0805-cool-white", at=(94.0, 0.0, 70.0), aim=(0.0, 0.3, -1.0))

    def outside(lamp_id: str, part: str, at: tuple, aim: tuple, mcd: float, channel: str, cap: bool = True) -> None:
        out.append(
            Lamp(
                id=lamp_id, part=part, at=at, aim=aim, mount="outside", frosted_cap=cap, wanted=Wanted(mcd=mcd),
                channel=channel,
            )
        )  # fmt: skip

    outside(
        "mast.masthead.01",
        "chip-0402-warm-white",
        (241.5, 0.0, 172.0),
        (1.0, 0.0, 0.0),
        2.35,
        "masthead.main",
    )
    outside("hull.masthead.01", "chip-0402-warm-white", (351.0, 0.0, 96.0), (1.0, 0.0, 0.0), 2.35, "masthead.fore")
    outside("bridge.sidelight.01", "chip-0402-red", (262.0, 41.5, 112.0), (1.0, 1.0, 0.0), 1.2, "sidelight.port")
    outside(
        "bridge.sidelight.02",
        "chip-0402-green",
        (262.0, -41.5, 112.0),
        (1.0, -1.0, 0.0),
        1.2,
        "sidelight.starboard",
    )
    outside("hull.sternlight.01", "chip-0402-cool-white", (3.0, 2.0, 54.0), (-1.0, 0.0, 0.0), 1.2, "sternlight")
    flood = "chip-0603-cool-white"
    for i, (at, aim) in enumerate(
        (
            ((303.0, 24.0, 86.0), (0.9, 0.1, -0.5)), ((303.0, -24.0, 86.0), (0.9, -0.1, -0.5)),
            ((330.0, 0.0, 84.0), (0.7, 0.0, -0.7)),
        ), 1,
    ):  # fmt: skip
        outside(f"hull.foreflood.{i:02d}", flood, at, aim, 60.0, "floods.fore", cap=False)
    for i, y in enumerate((-20.0, 20.0), 1):
        outside(
            f"hangar.deckflood.{i:02d}",
            flood,
            (68.0, y, 80.0),
            (-0.7, 0.0, -0.7),
            60.0,
            "floods.aft",
            cap=False,
        )
    for i, (x, y) in enumerate(((166.0, 46.0), (230.0, 46.0), (166.0, -46.0), (230.0, -46.0)), 1):
        aim = (0.0, -0.5 if y > 0 else 0.5, -0.9)
        outside(f"deck2.boatlight.{i:02d}", "chip-0603-warm-white", (x, y, 88.0), aim, 25.0, "boatdeck", cap=False)
    for lamp in out:
        plan = edits.add_lamp(plan, lamp)
    for pair in (("deck3.lamp.02", "deck3.lamp.03"), ("hangar.lamp.01", "hangar.lamp.03")):
        plan = edits.wire_in_series(plan, pair)
    return plan


def console_face() -> bytes:
    """The face of the bridge wing's console as a picture: two rows of lamps on a dark plate."""
    from PySide6.QtCore import QBuffer, QIODevice, QPointF, QRectF, Qt
    from PySide6.QtGui import QColor, QImage, QPainter

    image = QImage(560, 120, QImage.Format.Format_RGB32)
    image.fill(QColor("#2b302f"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor("#3b4140"))
    for x in range(4):
        painter.drawRect(QRectF(12 + 138 * x, 10, 122, 100))
    colours = ("#3fbf57", "#3fbf57", "#e5b12c", "#d8402f", "#3fbf57", "#e8ebe4")
    for row in range(2):
        for column in range(12):
            painter.setBrush(QColor(colours[(column * 5 + row * 2) % 6]))
            x = 12 + 138 * (column // 3) + 22 + 39 * (column % 3)
            painter.drawEllipse(QPointF(x, 38 + 46 * row), 8, 8)
    painter.end()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())


def fibres(plan: Plan, face: bytes) -> Plan:
    """The wing console's lamps and the three signal lights of the mast, by fibre."""
    import numpy as np
    from PySide6.QtGui import QImage

    from gwiazda.core.assess.fibres.sharing import grouped
    from gwiazda.core.fibre.panel import spots_in
    from gwiazda.core.parts.catalogue import built_in

    image = QImage.fromData(face).convertToFormat(QImage.Format.Format_RGB888)
    raw = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    spots = spots_in(raw[:, : 3 * image.width()].reshape(image.height(), image.width(), 3))
    panel = Panel(
        id="bridge.panel.01", name="Wing console", section="bridge", side="port", at=(235.0, 40.0, 110.4), width_mm=21.0,
        height_mm=4.5, picture="console.png",
    )  # fmt: skip
    model = Dot(id="t", at=(0.0, 0.0, 0.0), fibre="fibre-0.25", wanted_mcd=0.15, trim="now")
    plan, _ = edits.fill_panel(
        edits.add_panel(plan, panel), panel.id, [(s.across, s.down, s.colour) for s in spots], model
    )
    for colour, part, x in (
        ("green", "flat-3-green", 223.0), ("amber", "flat-5-amber", 231.0), ("red", "flat-3-red", 239.0), ("white", "flat-3-cool-white", 247.0),
    ):  # fmt: skip
        lamp = Lamp(id=f"bridge.console.{colour}", part=part, at=(x, 6.0, 109.5), aim=(0.0, 1.0, 0.0), mount="fibre", channel="console")  # fmt: skip
        plan = edits.add_lamp(plan, lamp)
    # Restricted in her ability to manoeuvre (COLREG rule 27): red, white, red, one above the other, seen all round.
    for k, (z, colour) in enumerate(((142.0, "red"), (149.0, "white"), (156.0, "red"))):
        for side, y in (("port", 2.5), ("starboard", -2.5)):
            dot = Dot(
                id=f"mast.signal.{2 * k + (side == 'starboard') + 1:02d}", name=f"Signal {('top', 'middle', 'lower')[2 - k]}, {side}",
                at=(241.5, y, z), side=side, section="mast", fibre="fibre-0.25", tip="domed", colour=colour, channel="signal",
                group=f"signal.{colour}", wanted_mcd=0.27, bend_mm=3.5, way=((241.0, 0.0, 126.0), (241.2, y * -0.4, z - 8.0)),
            )  # fmt: skip
            # Turned too tight at the mast's edge: the bend that is there to be found.
            plan = edits.add_dots(plan, [copy_unchecked(dot, bend_mm=2.4) if k == 2 and side == "port" else dot])
    for colour, part, x in (("red", "round-3-red", 238.0), ("white", "round-3-cool-white", 245.0)):
        lamp = Lamp(id=f"bridge.signal.{colour}", part=part, at=(x, 0.0, 113.0), aim=(0.0, 0.0, 1.0), mount="fibre", channel="signal")  # fmt: skip
        plan = edits.add_lamp(plan, lamp)
    return grouped(built_in(), plan)[0]


def build() -> PlanFile:
    plan = Plan(
        kit=Kit(name="Szron", subtitle="polar survey icebreaker", scale=200, kind="ship", material="mid-grey"),
        views=(
            View(
                id="view.port",
                name="Port side",
                side="port",
                drawing=Drawing(picture="port.svg", mm_per_unit=1.0, origin=(MARGIN_X, BASE_Y)),
            ),
            View(
                id="view.top",
                name="From above",
                side="top",
                drawing=Drawing(picture="top.svg", mm_per_unit=1.0, origin=(MARGIN_X, TOP_Y)),
            ),
        ),
        sections=tuple(sections()),
        feeds=(Feed(id="supply", supply=Supply(part="aa-alkaline", in_series=8), home="base"),),
        passages=passages(),
        fittings=fittings(),
        loom=Loom(wire="wrap-30"),
        room=ViewingConditions(lux=1.0, distance_m=0.6),
    )
    face = console_face()
    plan = edits.make_stand(edits.with_channels(fibres(lamps(windows(plan)), face)), "keel")
    return PlanFile(with_lights(plan, lights(plan)), {**drawings(), "console.png": face})


def lights(plan: Plan) -> list[Row]:
    """What its lamps, points and sections are the lights of."""
    floods = [("Fore deck flood", "hull.foreflood", 3), ("Aft deck flood", "hangar.deckflood", 2), ("Boat deck light", "deck2.boatlight", 4)]  # fmt: skip
    return [
        Row("Masthead light, main", "masthead", ("mast.masthead.01",)),
        Row("Masthead light, fore", "masthead", ("hull.masthead.01",)),
        Row("Port sidelight", "sidelight", ("bridge.sidelight.01",), twin="Starboard sidelight"),
        Row("Starboard sidelight", "sidelight", ("bridge.sidelight.02",), twin="Port sidelight"),
        Row("Stern light", "stern-light", ("hull.sternlight.01",)),
        *(
            Row(f"{name} {k}", "deck-flood", (f"{stem}.{k:02d}",))
            for name, stem, many in floods
            for k in range(1, many + 1)
        ),
        *(
            Row(f"Signal light, {words}", "signal-light", (f"mast.signal.{k:02d}", f"mast.signal.{k + 1:02d}"))
            for k, words in ((1, "lower"), (3, "middle"), (5, "top"))
        ),
        *(
            Row(f"Cabins, {s.name[:1].lower()}{s.name[1:]}", "cabin-row", (s.id,), whole=False)
            for s in plan.sections
            if s.id in ("hull", "deck1", "deck2", "deck3")
        ),
        Row("Bridge windows", "bridge", ("bridge",), whole=False),
        Row("Hangar light", "hangar", ("hangar",), whole=False),
        Row("Wing console", "panel-dots", tuple(d.id for d in plan.dots if d.panel), whole=False),
    ]


if __name__ == "__main__":
    made = build()
    save(made, OUT)
    p = made.plan
    print(
        f"{OUT.name}: {len(p.sections)} sections, {len(p.openings)} openings, {sum(o.lit > 0 for o in p.openings)} lit, {len(p.lamps)} lamps"
    )
