"""Draw and plan the third demo, the mountain rescue crawler Świstak, an invention of our own, wired for a 9 V block.

Writes ``src/gwiazda/demos/swistak.gwiazda``. Left to find and mend: the headlamps hang in one string that a tired block can no longer light,
and the winch is switched with no diode across it.
"""

from __future__ import annotations

from pathlib import Path

from make_szron import Sheet

from gwiazda.core.assess.bodies.places import put_there
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import patterns
from gwiazda.core.plan.model import (
    Box,
    Drawing,
    Feed,
    Fuse,
    Kit,
    Lamp,
    LampRef,
    Layer,
    Load,
    Loom,
    Opening,
    Outline,
    Parallel,
    Passage,
    Plan,
    Regulated,
    Resistor,
    Section,
    Series,
    Supply,
    Switch,
    Switched,
    View,
    ViewingConditions,
    Wanted,
    copy_unchecked,
)
from gwiazda.core.plan.storage import PlanFile, save
from gwiazda.demos.lights import Row, with_lights

OUT = Path(__file__).parent.parent / "src/gwiazda/demos/swistak.gwiazda"
MARGIN_X, BASE_Y, MIDDLE_Y = 232.0, 118.0, 66.0
BODY, CAB, DECK, DARK, TRACK, GLASS = "#c9553a", "#d9d5c8", "#b9b4a6", "#6f726d", "#4b4e4b", "#d9dcd6"

HULL = [(12.0, 26.0), (22.0, 22.0), (196.0, 22.0), (212.0, 30.0), (212.0, 46.0), (204.0, 50.0), (12.0, 50.0)]
CABIN = [(116.0, 50.0), (206.0, 50.0), (208.0, 62.0), (188.0, 88.0), (120.0, 88.0), (116.0, 84.0)]


class Profile(Sheet):
    def at(self, h: float, v: float) -> tuple[float, float]:
        return MARGIN_X - h, BASE_Y - v


class Above(Sheet):
    def at(self, h: float, v: float) -> tuple[float, float]:
        return MARGIN_X - h, MIDDLE_Y + v


def drawings() -> dict[str, bytes]:
    side = Profile(244, 132, "Świstak, port side")
    side.poly([(2, 14), (16, 2), (198, 2), (214, 16), (198, 24), (14, 24)], TRACK, 0.9)
    for x in (20, 46, 72, 98, 124, 150, 176, 198):
        side.disc(x, 11, 8.5, DARK)
        side.disc(x, 11, 3.0, DECK)
    for x in range(6, 212, 7):
        side.poly([(x, 1.2), (x + 4, 1.2)], "none", 1.4, close=False)
    side.poly(HULL, BODY, 0.8)
    side.poly([(14, 36), (210, 36)], "none", 0.3, close=False)
    side.poly(CABIN, CAB, 0.8)
    side.poly([(116, 60), (208, 60)], "none", 0.3, close=False)
    # Winch and its jib on the deck aft, stretcher box, exhaust.
    side.box(18, 50, 62, 55, DECK)
    side.disc(44, 61, 7.0, DARK)
    side.disc(44, 61, 2.4, DECK)
    side.poly([(30, 55), (12, 90), (16, 92), (38, 55)], DECK, 0.6)
    side.poly([(14, 91), (44, 68)], "none", 0.4, close=False)
    side.box(74, 50, 110, 68, BODY)
    side.poly([(86, 59), (98, 59)], "none", 1.6, close=False)
    side.poly([(92, 53), (92, 65)], "none", 1.6, close=False)
    side.box(112, 66, 115, 96, DARK)
    for x in (128, 156):
        side.poly([(x, 62), (x, 52)], "none", 0.3, close=False)
    side.box(148, 88, 156, 90, DARK)
    side.poly([(200, 50), (212, 52), (214, 57), (206, 58)], DARK, 0.5)
    above = Above(244, 132, "Świstak, from above")
    for y in (-58, 40):
        above.box(4, y, 212, y + 18, TRACK)
    above.poly([(12, -38), (204, -38), (212, -30), (212, 30), (204, 38), (12, 38)], BODY, 0.9)
    above.poly([(116, -34), (188, -34), (206, -30), (206, 30), (188, 34), (116, 34)], CAB, 0.8)
    above.poly([(188, -33), (188, 33)], "none", 0.4, close=False)
    above.box(18, -20, 62, 20, DECK)
    above.box(37, -13, 51, 13, DARK)
    above.box(74, -26, 110, 26, BODY)
    above.box(12, -3, 36, 3, DECK)
    above.disc(152, 0, 4.0, DARK)
    return {"port.svg": side.done(), "top.svg": above.done()}


def string(name: str, *lamps: str) -> Series:
    return Series(id=name, items=(Resistor(id=f"{name}.r"), *(LampRef(lamp=i) for i in lamps)))


def build() -> PlanFile:
    plan = Plan(
        kit=Kit(name="Świstak", subtitle="mountain rescue crawler", scale=35, kind="vehicle", material="light-grey"),
        views=(
            View(id="view.port", name="Port side", side="port", drawing=Drawing(picture="port.svg", mm_per_unit=1.0, origin=(MARGIN_X, BASE_Y))),
            View(id="view.top", name="From above", side="top", drawing=Drawing(picture="top.svg", mm_per_unit=1.0, origin=(MARGIN_X, MIDDLE_Y))),
        ),
        room=ViewingConditions(lux=2.0, distance_m=0.5),
    )  # fmt: skip
    black = {"inside": (Layer(coat="flat-black", coats=3),), "outside": (Layer(coat="grey-primer"),), "school": "drill"}
    cab = Section(
        id="cab", name="Cab", box=Box(at=(118.0, -32.0, 52.0), size=(78.0, 64.0, 34.0)), wall_mm=1.4, glazing="frosted-1",
        outlines=(
            Outline(side="port", points=tuple(CABIN)),
            Outline(side="top", points=((116.0, -34.0), (188.0, -34.0), (206.0, -30.0), (206.0, 30.0), (188.0, 34.0), (116.0, 34.0))),
        ), **black,
    )  # fmt: skip
    box = Section(
        id="box", name="Stretcher box", box=Box(at=(75.0, -25.0, 51.0), size=(34.0, 50.0, 16.0)), wall_mm=1.2,
        glazing="frosted-2",
        outlines=(
            Outline(side="port", points=((74.0, 50.0), (110.0, 50.0), (110.0, 68.0), (74.0, 68.0))),
            Outline(side="top", points=((74.0, -26.0), (110.0, -26.0), (110.0, 26.0), (74.0, 26.0))),
        ), **black,
    )  # fmt: skip
    hull = Section(
        id="hull", name="Hull", box=Box(at=(16.0, -36.0, 24.0), size=(186.0, 72.0, 24.0)), wall_mm=1.4,
        outlines=(
            Outline(side="port", points=tuple(HULL)),
            Outline(side="top", points=((12.0, -38.0), (204.0, -38.0), (212.0, -30.0), (212.0, 30.0), (204.0, 38.0), (12.0, 38.0))),
        ), **black,
    )  # fmt: skip
    for section in (hull, cab, box):
        plan = edits.add_section(plan, section)
    pane = Opening(id="t", section="cab", width_mm=16.0, height_mm=13.0, at=(0, 0, 0))
    plan, row = edits.add_row(plan, cab, "port", (132.0, 74.0), (176.0, 74.0), 3, pane)
    plan, _ = patterns.copy_to_other_side(plan, row)
    light = Opening(id="t", section="box", width_mm=7.0, height_mm=3.0, at=(0, 0, 0))
    plan, row = edits.add_row(plan, box, "port", (82.0, 64.0), (102.0, 64.0), 2, light)
    plan, _ = patterns.copy_to_other_side(plan, row)

    def put(lamp_id: str, part: str, at: tuple[float, float, float], aim: tuple[float, float, float], wanted: Wanted, **more: object) -> None:  # fmt: skip
        nonlocal plan
        plan = edits.add_lamp(plan, Lamp(id=lamp_id, part=part, at=at, aim=aim, wanted=wanted, **more))  # type: ignore[arg-type]

    for i, x in enumerate((136.0, 172.0), 1):
        put(f"cab.lamp.{i:02d}", "chip-0805-warm-white", (x, 0.0, 84.5), (0.0, 0.0, -1.0), Wanted(look="soft"))
    put("box.lamp.01", "chip-0603-cool-white", (92.0, 0.0, 65.5), (0.0, 0.0, -1.0), Wanted(look="soft"))
    seen = {"mount": "outside"}
    for i, y in enumerate((24.0, -24.0), 1):
        put(
            f"head.lamp.{i:02d}",
            "round-3-cool-white",
            (213.0, y, 40.0),
            (1.0, 0.0, -0.1),
            Wanted(mcd=900.0),
            channel="headlamps",
            **seen,
        )
        put(
            f"tail.lamp.{i:02d}",
            "round-1.8-red",
            (11.0, y * 1.3, 40.0),
            (-1.0, 0.0, 0.0),
            Wanted(mcd=5.0),
            channel="tail.lamps",
            frosted_cap=True,
            **seen,
        )
        put(
            f"search.lamp.{i:02d}",
            "chip-1206-cool-white",
            (196.0, y * 0.8, 89.0),
            (0.9, 0.0, -0.3),
            Wanted(mcd=160.0),
            channel="search.lamps",
            **seen,
        )
    put(
        "roof.beacon.01",
        "flash-5-blue",
        (152.0, 0.0, 93.0),
        (0.0, 0.0, 1.0),
        Wanted(mcd=12.0),
        channel="beacon.lamp",
        frosted_cap=True,
        **seen,
    )
    put(
        "winch.flood.01",
        "chip-0603-warm-white",
        (72.0, 0.0, 72.0),
        (-0.8, 0.0, -0.6),
        Wanted(mcd=60.0),
        channel="winch.lamp",
        **seen,
    )
    search = Series(
        id="search", items=(
            Switch(id="search.switch", group="search"),
            Parallel(id="search.both", items=(string("search.left", "search.lamp.01"), string("search.right", "search.lamp.02"))),
        ),
    )  # fmt: skip
    winch = Series(
        id="winch", items=(
            Switch(id="winch.reed", kind="reed", group="winch"),
            Regulated(
                id="winch.regulator", part="regulator-adjustable", volts=3.0,
                items=(Switched(id="winch.stage", part="mosfet-logic", drive="timer-cmos", channel="winch.lamp",
                                items=(Load(id="winch.motor", part="coreless-3v", gears=((8, 40), (10, 60))),)),),
            ),
        ),
    )  # fmt: skip
    feed = Feed(
        id="supply", name="Block in the hull", supply=Supply(part="block-9v"), hours_a_day=0.5, home="hull",
        head=(Fuse(id="main.fuse", rated_a=0.25), Switch(id="main.switch")),
        items=(
            string("head", "head.lamp.01", "head.lamp.02"),
            string("tail", "tail.lamp.01", "tail.lamp.02"),
            search, winch, string("beacon", "roof.beacon.01"),
        ),
    )  # fmt: skip
    ways = (
        Passage(
            id="hull.cab",
            name="Hull to cab",
            section="hull",
            into="cab",
            at=(150.0, 20.0, 50.0),
            width_mm=4.0,
            length_mm=3.0,
        ),
        Passage(
            id="hull.box",
            name="Hull to box",
            section="hull",
            into="box",
            at=(92.0, 0.0, 50.0),
            width_mm=3.0,
            length_mm=3.0,
        ),
    )
    plan = copy_unchecked(plan, feeds=(feed,), passages=ways, loom=Loom(wire="wrap-30"))
    plan = with_lights(
        edits.with_channels(plan),
        (
            Row("Left headlamp", "headlamp", ("head.lamp.01",), twin="Right headlamp"),
            Row("Right headlamp", "headlamp", ("head.lamp.02",), twin="Left headlamp"),
            Row("Left tail lamp", "tail-lamp", ("tail.lamp.01",), twin="Right tail lamp"),
            Row("Right tail lamp", "tail-lamp", ("tail.lamp.02",), twin="Left tail lamp"),
            Row("Left search lamp", "work-lamp", ("search.lamp.01",), twin="Right search lamp"),
            Row("Right search lamp", "work-lamp", ("search.lamp.02",), twin="Left search lamp"),
            Row("Roof beacon", "beacon", ("roof.beacon.01",)),
            Row("Winch lamp", "work-lamp", ("winch.flood.01",)),
            Row("Cab windows", "cabin-row", ("cab",), whole=False),
            Row("Stretcher box light", "cabin-row", ("box",), whole=False),
        ),
    )
    return PlanFile(put_there(built_in(), plan, "supply"), drawings())


if __name__ == "__main__":
    made = build()
    save(made, OUT)
    p = made.plan
    print(f"{OUT.name}: {len(p.sections)} sections, {len(p.openings)} openings, {len(p.lamps)} lamps")
