"""Draw and plan the second demo, the lake flying boat Perkoz, an invention of our own.

Writes ``src/gwiazda/demos/perkoz.gwiazda`` and ``sketch.png``, the bare sketch that a plan of one's own can begin with.
"""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QImage, QPainter, QPen, QPolygonF

from gwiazda.core.assess.choices import fewest
from gwiazda.core.parts.catalogue import built_in
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits import occupancy, patterns, views
from gwiazda.core.plan.frame import PLANES, Side
from gwiazda.core.plan.model import (
    Blink,
    Drawing,
    Feed,
    Flashes,
    Kit,
    Lamp,
    Layer,
    Opening,
    Outline,
    Plan,
    Supply,
    View,
    ViewingConditions,
    Wanted,
    copy_unchecked,
)
from gwiazda.core.plan.outline import shapes
from gwiazda.core.plan.storage import PlanFile, save
from gwiazda.demos.lights import Row, with_lights
from gwiazda.desktop.plate.drawings import png_of

Points = tuple[tuple[float, float], ...]
DEMOS = Path(__file__).parent.parent / "src/gwiazda/demos"
PX, ORIGIN = 3.0, (720.0, 330.0)  # px a mm, and where the model's origin lies in the picture
SIZE = (1100, 460)

HULL = ((-105.0, 8.0), (-60.0, 4.0), (-20.0, -4.0), (-18.0, -9.0), (60.0, -12.0), (105.0, -2.0), (118.0, 12.0), (112.0, 20.0),
        (92.0, 25.0), (60.0, 27.0), (-20.0, 25.0), (-70.0, 20.0), (-112.0, 17.0))  # fmt: skip
CABIN = ((20.0, 25.0), (88.0, 25.5), (76.0, 40.0), (30.0, 40.0))
TAIL = ((-112.0, 17.0), (-86.0, 19.0), (-92.0, 58.0), (-112.0, 58.0))
WING = ((-6.0, 47.0), (62.0, 47.0), (66.0, 50.0), (58.0, 53.0), (0.0, 52.0))
HULL_ABOVE = (
    (118.0, -4.0),
    (118.0, 4.0),
    (96.0, 13.2),
    (-36.0, 13.2),
    (-112.0, 3.0),
    (-112.0, -3.0),
    (-36.0, -13.2),
    (96.0, -13.2),
)
NACELLE = ((40.0, 53.0), (62.0, 54.0), (70.0, 58.0), (62.0, 62.0), (36.0, 61.0))
STRUTS = (((10.0, 25.0), (14.0, 47.0)), ((50.0, 40.0), (46.0, 47.0)))


def px(h: float, v: float) -> QPointF:
    return QPointF(ORIGIN[0] - h * PX, ORIGIN[1] - v * PX)


def sketch(fills: bool) -> QImage:
    """The profile from port: bare lines, or filled for the demo."""
    image = QImage(*SIZE, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent if fills else QColor("#ffffff"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(
        QPen(QColor("#3b3f3d"), 2.2, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
    )

    def shape(points: tuple[tuple[float, float], ...], colour: str) -> None:
        painter.setBrush(QColor(colour) if fills else Qt.BrushStyle.NoBrush)
        painter.drawPolygon(QPolygonF([px(*p) for p in points]))

    for a, b in STRUTS:
        painter.drawLine(px(*a), px(*b))
    shape(TAIL, "#c7b08a")
    shape(WING, "#d9d4c6")
    shape(CABIN, "#e6e1d2")
    shape(HULL, "#dcd8cb")
    shape(NACELLE, "#b8b2a2")
    painter.drawLine(px(71.0, 42.0), px(71.0, 74.0))
    painter.drawLine(px(-20.0, -4.0), px(105.0, -2.0))
    for x in (-80.0, -50.0, 96.0):
        painter.drawLine(px(x, 6.0), px(x, 18.0))
    painter.end()
    return image


SKIN = {"inside": (Layer(coat="flat-black", coats=3),), "outside": (Layer(coat="grey-primer"),)}


def build() -> PlanFile:
    plan = Plan(
        kit=Kit(name="Perkoz", subtitle="lake flying boat", scale=72, kind="aircraft", material="light-grey"),
        views=(
            View(
                id="view.port",
                name="Port side",
                side="port",
                drawing=Drawing(picture="perkoz.png", mm_per_unit=1 / PX, origin=ORIGIN),
            ),
        ),
        # Four AA cells don't go into this hull: left to be found.
        feeds=(Feed(id="supply", supply=Supply(part="aa-alkaline", in_series=4), home="hull"),),
        room=ViewingConditions(lux=2.0, distance_m=0.5),
    )
    plan, _ = views.add_view(plan, "top")
    for points, name, depth, item_id in ((HULL, "Hull", 24.0, "hull"), (CABIN, "Cabin", 22.0, "cabin")):
        section = shapes.traced_section(plan, "port", points, depth, name)
        above = HULL_ABOVE if item_id == "hull" else next(o.points for o in section.outlines if o.side == "top")
        top = Outline(side="top", points=above)
        port = Outline(side="port", points=points)
        glazing = "frosted-1" if item_id == "hull" else "clear"
        plan = edits.add_section(
            plan,
            copy_unchecked(section, id=item_id, outlines=(port, top), glazing=glazing, school="mask", **SKIN),
        )
    by_id = {s.id: s for s in plan.sections}
    hull, cabin = by_id["hull"], by_id["cabin"]
    round_one = Opening(id="t", section="hull", shape="round", width_mm=4.2, height_mm=4.2, at=(0, 0, 0))
    low = hull.box.at[2] + hull.box.size[2] * 0.6
    x0, x1 = hull.box.at[0] + 6, hull.box.at[0] + hull.box.size[0] - 6
    plan, row = edits.add_row(plan, hull, "port", (x0, low), (x1, low), 13, round_one)
    plan, other = patterns.copy_to_other_side(plan, row)
    pane = Opening(id="t", section="cabin", width_mm=9.0, height_mm=6.5, at=(0, 0, 0))
    middle = cabin.box.at[2] + cabin.box.size[2] / 2
    c0, c1 = cabin.box.at[0] + 6, cabin.box.at[0] + cabin.box.size[0] - 6
    plan, panes = edits.add_row(plan, cabin, "port", (c0, middle), (c1, middle), 4, pane)
    plan, _ = patterns.copy_to_other_side(plan, panes)
    plan = occupancy.fill(plan, [*row, *other], share=0.7, clump=3, seed=11)
    best = next(
        p
        for p in fewest.propose(built_in(), plan, "hull", "chip-0805-warm-white", fewest.Aim(18.0))
        if p.school == "roof"
    )
    plan = fewest.take(plan, "hull", best)
    plan = edits.add_lamp(
        plan,
        Lamp(id="cabin.lamp.01", part="chip-0603-amber", at=cabin.box.centre, aim=(0, 0, -1), wanted=Wanted(cd_m2=4.0)),
    )
    points = (
        ("wing.light.01", "chip-0402-red", (34.0, 60.0, 50.0), (0.5, 1.0, 0.0), 40.0),
        ("wing.light.02", "chip-0402-green", (34.0, -60.0, 50.0), (0.5, -1.0, 0.0), 40.0),
        ("tail.light.01", "chip-0402-cool-white", (-113.0, 0.0, 40.0), (-1.0, 0.0, 0.0), 20.0),
        ("tail.light.02", "chip-0603-red", (-102.0, 0.0, 59.5), (0.0, 0.0, 1.0), 60.0),
        ("bow.light.01", "chip-0603-warm-white", (119.0, 0.0, 14.0), (1.0, 0.0, 0.0), 60.0),
    )
    for lamp_id, part, at, aim, real_cd in points:
        # True to scale would be real/72²; in this room ten times as much is needed to be seen well.
        mcd = max(real_cd / 72**2 * 1e3 / 6, 2.6)
        plan = edits.add_lamp(
            plan,
            Lamp(
                id=lamp_id,
                part=part,
                at=at,
                aim=aim,
                mount="outside",
                frosted_cap=not lamp_id.startswith("wing"),
                wanted=Wanted(mcd=round(mcd, 2)),
                channel=f"light.{lamp_id.replace('.light', '')}",
            ),
        )
    plan, _ = edits.add_passage(plan, "hull", "cabin", width_mm=4.0, name="Hull to cabin")
    plan = edits.set_loom(plan, wire="thin-30")
    plan = with_fittings(show(edits.with_channels(plan)))
    plan = with_lights(
        plan,
        (
            Row("Port position light", "position-light", ("wing.light.01",), twin="Starboard position light"),
            Row("Starboard position light", "position-light", ("wing.light.02",), twin="Port position light"),
            Row("Tail strobe", "anti-collision", ("tail.light.01",), animated=True),
            Row("Red beacon", "red-beacon", ("tail.light.02",), animated=True),
            Row("Bow light", "taxi-light", ("bow.light.01",)),
            Row("Cabin windows", "cabin-row", ("cabin",), whole=False),
        ),
    )
    return PlanFile(plan, {"perkoz.png": png_of(sketch(True))})


WING_ABOVE = (
    (52.0, -59.0),
    (66.0, -8.0),
    (66.0, 8.0),
    (52.0, 59.0),
    (14.0, 59.0),
    (-5.0, 8.0),
    (-5.0, -8.0),
    (14.0, -59.0),
)
TAILPLANE = ((-92.0, -30.0), (-88.0, 0.0), (-92.0, 30.0), (-108.0, 30.0), (-111.0, 0.0), (-108.0, -30.0))


def with_fittings(plan: Plan) -> Plan:
    """The wing on its struts, fin, tailplane, nacelle and propeller: solid, nothing in them is lit."""
    propeller = ((70.2, 42.0), (71.8, 42.0), (71.8, 74.0), (70.2, 74.0))
    drawn: list[tuple[str, str, Side, str, Points, float, float]] = [
        ("wing", "Wing", "top", "cabin", WING_ABOVE, 49.5, 5.0), ("fin", "Fin", "port", "hull", TAIL, 0.0, 3.0),
        ("tailplane", "Tailplane", "top", "hull", TAILPLANE, 46.0, 2.0), ("nacelle", "Nacelle", "port", "cabin", NACELLE, 0.0, 11.0),
        ("propeller", "Propeller", "port", "cabin", propeller, 0.0, 2.0),
    ]  # fmt: skip
    for number, (a, b) in enumerate(STRUTS, 1):
        strut = ((a[0] - 1, a[1]), (a[0] + 1, a[1]), (b[0] + 1, b[1]), (b[0] - 1, b[1]))
        drawn += [
            (f"strut.{number}.{side}", f"Strut {number}, {side}", "port", "hull", strut, y, 1.5)
            for side, y in (("port", 10.0), ("starboard", -10.0))
        ]
    for name, words, side, on, points, deep, thick in drawn:
        fitting = edits.fitting_from(plan, side, points, thick)
        at = tuple(deep if axis == PLANES[side][2] else v for axis, v in enumerate(fitting.at))
        plan = edits.add_fitting(plan, copy_unchecked(fitting, id=name, name=words, section=on, at=at))
    return plan


def show(plan: Plan) -> Plan:
    """The red beacon on the fin and the white light aft flash, on a flasher of two outputs."""
    for channel, name in (("light.tail.02", "Beacon"), ("light.tail.01", "Strobe"), ("light.wing.01", "Position, port"),
                          ("light.wing.02", "Position, starboard"), ("light.bow.01", "Bow light")):  # fmt: skip
        plan = edits.set_channel(plan, channel, name=name)
    plan, _ = edits.add_cue(plan, ["light.tail.02"], Blink(period_s=1.2, duty=0.35), name="Beacon, 50 a minute")
    plan, _ = edits.add_cue(
        plan, ["light.tail.01"], Flashes(period_s=1.2, count=2, on_s=0.05, gap_s=0.12, phase=0.5), name="Double flash"
    )
    plan, board = edits.add_board(plan, "flasher-2", "Flasher in the hull")
    plan = edits.drive_by(plan, ["light.tail.02", "light.tail.01"], board)
    for channel in ("light.tail.02", "light.tail.01"):
        plan = edits.hang_on_output(plan, channel, "npn-small", "pin-5v")
    return plan


if __name__ == "__main__":
    app = QGuiApplication([])
    made = build()
    save(made, DEMOS / "perkoz.gwiazda")
    (DEMOS / "sketch.png").write_bytes(png_of(sketch(False)))
    p = made.plan
    print(f"perkoz: {len(p.sections)} sections, {len(p.openings)} openings, {len(p.lamps)} lamps")
