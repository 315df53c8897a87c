"""Shapes a first plan can start from: sections with outlines and rows of windows, from a few sizes; all of it changed at will later.

Nothing here is lit yet: ``core.starter.start`` puts the lamps in. Proportions are those of common kits, by eye, not of one.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Literal, NamedTuple

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.sections import outline_from_box
from gwiazda.core.plan.frame import PLANES, Side
from gwiazda.core.plan.model import Box, Closure, Layer, Opening, Outline, Point2, Seam, Section, copy_unchecked
from gwiazda.core.plan.model.kit import KitKind
from gwiazda.core.plan.outline.shapes import ellipse, rectangle
from gwiazda.core.plan.real_windows import MOST_OF_WALL, WINDOW_M, window_mm

Form = Literal["ship", "fuselage", "vehicle", "truss", "tower"]
WALL_MM = 1.2
STOREY_M, STOREY_MM = 2.8, (8.0, 45.0)  # a storey at full size; what can be built: limits on the model
GAP = 0.5  # free wall between two windows, over a window's width
SPREAD = 0.85  # of a wall's length that a row takes up
CLEAR_MM = 2.0  # free wall at both ends of a row
SHARE = 0.62


class Sizes(NamedTuple):
    """What is asked: the model's length (a tower's height), decks, windows a deck on one side, scale (200 for 1/200), the light of the room it is for (lx)."""

    form: Form = "ship"
    length_mm: float = 300.0
    decks: int = 3
    windows: int = 12
    scale: float = 200.0
    name: str = ""
    lux: float = 2.0


class Row(NamedTuple):
    """Windows to be: on a section's wall, from and to in its view's two coordinates, mm; which share of them is lit."""

    section: str
    side: Side
    start: Point2
    end: Point2
    number: int
    model: Opening
    share: float = SHARE


class Outside(NamedTuple):
    """A light of a kind on the outside of a first plan: the side it faces, its place on the skin (mm) and the section whose wall that is. Of a
    pair it is that to port."""

    kind: str
    side: Side
    at: tuple[float, float, float]
    section: str


class Body(NamedTuple):
    """The shape of a first plan. ``lamps`` names the lamp's part for sections that aren't lit warm white; ``home`` is where the
    supply's leads come in, and ``ways`` the sections wires pass between; ``lights`` are those on its outside."""

    sections: tuple[Section, ...]
    rows: tuple[Row, ...]
    home: str
    ways: tuple[tuple[str, str], ...]
    lamps: dict[str, str]
    lights: tuple[Outside, ...] = ()


class StarterForm(NamedTuple):
    """A shape to start from, with sizes to begin with and what its numbers are called."""

    name: str
    kind: KitKind
    sizes: Sizes
    words: str
    build: Callable[[Sizes], Body]


def _limited(value: float, limits: tuple[float, float]) -> float:
    return min(max(value, limits[0]), limits[1])


def storey_mm(scale: float) -> float:
    """The height of a deck on the model, mm: a real storey where that can be built."""
    return _limited(STOREY_M * 1000.0 / scale, STOREY_MM)


def _pane(sizes: Sizes, section: str, tall: float = 1.0, wide: float = 1.0) -> Opening:
    width, height = window_mm(WINDOW_M["other"], sizes.scale)
    height = min(height * tall, MOST_OF_WALL * storey_mm(sizes.scale))
    return Opening(id="t", section=section, width_mm=round(width * wide, 2), height_mm=round(height, 2), at=(0, 0, 0))


def _section(
    key: str, name: str, low: tuple[float, float, float], high: tuple[float, float, float],
    outlines: dict[Side, tuple[Point2, ...]] | None = None, inset: tuple[float, float, float] = (0.0, 0.0, 0.0), lit: bool = True,
) -> Section:  # fmt: skip
    """A section from its outer corners; its room is ``inset`` mm more away from the walls along each axis, at both ends."""
    at = [a + WALL_MM + i for a, i in zip(low, inset, strict=True)]
    size = [b - a - 2 * (WALL_MM + i) for a, b, i in zip(low, high, inset, strict=True)]
    if min(size) < 0.5:
        raise PlanError(
            "New from a shape", f"{name} would have no room inside its walls", "a longer model, or fewer decks"
        )
    black = (Layer(coat="flat-black", coats=3), Layer(coat="grey-primer"))
    section = outline_from_box(
        Section(
            id=key, name=name, box=Box(at=(at[0], at[1], at[2]), size=(size[0], size[1], size[2])), wall_mm=WALL_MM,
            glazing="mist-2", inside=black[:1] if lit else (), outside=black[1:],
            seams=(Seam(id=f"{key}.seam", face="top", gap_mm=0.05, bridged="foil-tape"),) if lit else (),
            closure=Closure(part="roof", by="glue", glue="thin solvent cement") if lit else Closure(),
        )
    )  # fmt: skip
    plain: dict[Side, tuple[Point2, ...]] = {
        "port": rectangle(low[0], high[0], low[2], high[2]), "top": rectangle(low[0], high[0], low[1], high[1]),
    }  # fmt: skip
    shown = {**plain, **(outlines or {})}
    return Section(
        **{f: getattr(section, f) for f in section.__struct_fields__ if f != "outlines"},
        outlines=tuple(Outline(side=side, points=points) for side, points in shown.items()),
    )


def _row(section: Section, side: Side, count: int, pane: Opening, share: float = SHARE, lift: float = 0.5) -> Row:
    """A row along a section's wall, as even as it can be, at ``lift`` of its room's height."""
    h, v, _ = PLANES[side]
    low, room = section.box.at[h], section.box.size[h]
    pitch = pane.width_mm * (1.0 + GAP)
    free = room - 2 * CLEAR_MM
    most = max(int((free + pane.width_mm * GAP) / pitch), 0)
    if count > most:
        raise PlanError(
            f"New from a shape, {section.name}",
            f"{count} windows of {pane.width_mm:g} mm don’t fit side by side in {room:.0f} mm",
            f"0 to {most} there, a longer model or a higher scale number",
        )
    span = max(free - pane.width_mm, 0.0) * SPREAD if count > 1 else 0.0
    span = min(max(span, (count - 1) * pitch), max(free - pane.width_mm, 0.0))
    middle = low + room / 2
    z = section.box.at[v] + section.box.size[v] * lift
    return Row(section.id, side, (middle - span / 2, z), (middle + span / 2, z), count, pane, share)


BOTH: tuple[Side, ...] = ("port", "starboard")


def _rows(section: Section, count: int, pane: Opening, sides: tuple[Side, ...] = BOTH, share: float = SHARE, lift: float = 0.5) -> list[Row]:  # fmt: skip
    return [_row(section, side, count, pane, share, lift) for side in sides] if count else []


def ship(sizes: Sizes) -> Body:
    """A hull with a raked stem, decks one on the other that grow shorter, and the bridge on top."""
    long, tall = sizes.length_mm, storey_mm(sizes.scale)
    half, deep = 0.085 * long, max(0.11 * long, 10.0)
    side = ((0.0, 0.3 * deep), (0.05 * long, 0.0), (0.86 * long, 0.0), (0.94 * long, 0.4 * deep), (long, 1.18 * deep), (0.8 * long, deep), (0.0, deep))  # fmt: skip
    above = ((0.0, -0.8 * half), (0.3 * long, -half), (0.75 * long, -half), (0.9 * long, -0.6 * half), (long, 0.0), (0.9 * long, 0.6 * half), (0.75 * long, half), (0.3 * long, half), (0.0, 0.8 * half))  # fmt: skip
    hull = _section("hull", "Hull", (0.04 * long, -0.78 * half, 0.0), (0.86 * long, 0.78 * half, deep), {"port": side, "top": above}, lit=False)  # fmt: skip
    sections, rows, ways = [hull], [], []
    below, floor = "hull", deep
    front, back = 0.74 * long, 0.2 * long
    for k in range(sizes.decks):
        key, name = f"deck{k + 1}", f"Deck {k + 1}"
        breadth = half * (0.9 - 0.05 * k)
        x0, x1 = back + 0.03 * long * k, front - 0.035 * long * k
        rake = 0.25 * tall
        outline: tuple[Point2, ...] = ((x0, floor), (x1, floor), (x1 - rake, floor + tall), (x0, floor + tall))
        section = _section(
            key, name, (x0, -breadth, floor), (x1, breadth, floor + tall), {"port": outline}, (rake / 2, 0.0, 0.0)
        )
        sections.append(section)
        rows += _rows(section, sizes.windows, _pane(sizes, key))
        ways.append((below, key))
        below, floor = key, floor + tall
    x1 = front - 0.035 * long * sizes.decks
    x0, breadth = x1 - 0.14 * long, min(half * 0.95, 5.0 * tall)
    bridge = _section("bridge", "Bridge", (x0, -breadth, floor), (x1, breadth, floor + tall))
    pane = _pane(sizes, "bridge", tall=1.2)
    fore = max(min(int((2 * breadth - 8.0) / (1.5 * pane.width_mm)), 9), 1)
    sideways = max(min(int((x1 - x0 - 8.0) / (1.5 * pane.width_mm)), 4), 1)
    rows += [*_rows(bridge, fore, pane, ("bow",), 1.0, 0.55), *_rows(bridge, sideways, pane, BOTH, 1.0, 0.55)]
    foot = x0 - 0.1 * long
    funnel_tall = 1.6 * tall
    stack: tuple[Point2, ...] = ((foot, floor), (foot + 0.06 * long, floor), (foot + 0.05 * long, floor + funnel_tall), (foot + 0.005 * long, floor + funnel_tall))  # fmt: skip
    funnel = _section("funnel", "Funnel", (foot, -0.3 * half, floor), (foot + 0.06 * long, 0.3 * half, floor + funnel_tall), {"port": stack}, (0.01 * long, 0.0, 0.0), lit=False)  # fmt: skip
    stack_top = 0.85 * funnel_tall
    lights = (
        Outside("masthead", "bow", (foot + 0.054 * long, 0.0, floor + stack_top), "funnel"),
        Outside("sidelight", "port", (x1 - 0.02 * long, breadth, floor + 0.12 * tall), "bridge"),
        Outside("stern-light", "stern", (0.0, 0.0, 0.8 * deep), "hull"),
        Outside("anchor-light", "top", (0.9 * long, 0.0, 1.09 * deep), "hull"),
        Outside("deck-flood", "stern", (back, 0.0, deep + 0.7 * tall), "deck1"),
    )
    body = (*sections, bridge, funnel)
    return Body(body, tuple(rows), "hull", (*ways, (below, "bridge"), ("hull", "funnel")), {}, lights)


def _tube(key: str, name: str, along: tuple[float, float], radius: float, z: float, y: float = 0.0) -> Section:
    x0, x1 = along
    inset = radius * (1.0 - math.sqrt(0.5))
    round_: tuple[Point2, ...] = ellipse(y, z, radius, radius)
    return _section(key, name, (x0, y - radius, z - radius), (x1, y + radius, z + radius), {"bow": round_}, (0.0, inset, inset))  # fmt: skip


def fuselage(sizes: Sizes) -> Body:
    """A tube with rows of windows, a nose with its cockpit, a tail that narrows, wings and fins."""
    long = sizes.length_mm
    radius = max(0.065 * long, 0.75 * storey_mm(sizes.scale) * max(sizes.decks, 1))
    z = radius
    x0, x1 = 0.3 * long, 0.84 * long
    cabin = _tube("cabin", "Cabin", (x0, x1), radius, z)
    nose_side = ((x1, 0.0), (0.94 * long, 0.1 * radius), (long, 0.75 * radius), (0.95 * long, 1.35 * radius), (x1, 2 * radius))  # fmt: skip
    nose_top = ((x1, -radius), (0.94 * long, -0.75 * radius), (long, -0.2 * radius), (long, 0.2 * radius), (0.94 * long, 0.75 * radius), (x1, radius))  # fmt: skip
    nose = _section(
        "nose", "Cockpit", (x1, -0.7 * radius, 0.35 * radius), (0.94 * long, 0.7 * radius, 1.5 * radius),
        {"port": nose_side, "top": nose_top, "bow": ellipse(0.0, z, radius, radius)},
    )  # fmt: skip
    tail_side = ((0.0, 1.3 * radius), (0.1 * long, 0.8 * radius), (x0, 0.0), (x0, 2 * radius), (0.0, 1.7 * radius))
    tail_top = ((0.0, -0.15 * radius), (x0, -radius), (x0, radius), (0.0, 0.15 * radius))
    tail = _section(
        "tail", "Tail", (0.12 * long, -0.3 * radius, 1.0 * radius), (x0, 0.3 * radius, 1.6 * radius),
        {"port": tail_side, "top": tail_top, "bow": ellipse(0.0, z, radius, radius)}, lit=False,
    )  # fmt: skip
    wing_top = ((0.47 * long, -0.5 * long), (0.53 * long, -0.5 * long), (0.68 * long, -0.8 * radius), (0.68 * long, 0.8 * radius), (0.53 * long, 0.5 * long), (0.47 * long, 0.5 * long), (0.48 * long, 0.8 * radius), (0.48 * long, -0.8 * radius))  # fmt: skip
    thick = max(0.012 * long, 3.5)
    wing = _section("wing", "Wing", (0.48 * long, -0.5 * long, 0.3 * radius), (0.66 * long, 0.5 * long, 0.3 * radius + thick), {"top": wing_top}, lit=False)  # fmt: skip
    fin_side = ((0.0, 4.2 * radius), (0.06 * long, 4.2 * radius), (0.2 * long, 1.8 * radius), (0.01 * long, 1.7 * radius))  # fmt: skip
    fin = _section("fin", "Fin", (0.02 * long, -thick / 2, 1.8 * radius), (0.08 * long, thick / 2, 3.6 * radius), {"port": fin_side}, lit=False)  # fmt: skip
    plane_top = ((0.01 * long, -0.18 * long), (0.05 * long, -0.18 * long), (0.13 * long, -0.2 * radius), (0.13 * long, 0.2 * radius), (0.05 * long, 0.18 * long), (0.01 * long, 0.18 * long))  # fmt: skip
    plane = _section("plane", "Tailplane", (0.02 * long, -0.17 * long, 1.5 * radius), (0.1 * long, 0.17 * long, 1.5 * radius + thick), {"top": plane_top}, lit=False)  # fmt: skip
    rows = []
    for k in range(sizes.decks):
        rows += _rows(cabin, sizes.windows, _pane(sizes, "cabin"), lift=(k + 1) / (sizes.decks + 1))
    pane = _pane(sizes, "nose", tall=1.2)
    many = max(min(int((nose.box.size[0] - 4.0) / (1.5 * pane.width_mm)), 3), 1)
    rows += _rows(nose, many, pane, BOTH, 1.0, 0.75)
    lights = (
        Outside("position-light", "port", (0.5 * long, 0.5 * long, 0.3 * radius + thick / 2), "wing"),
        Outside("tail-position", "stern", (0.0, 0.0, 1.5 * radius), "tail"),
        Outside("red-beacon", "top", (0.5 * (x0 + x1), 0.0, 2.0 * radius), "cabin"),
        Outside("landing-light", "bow", (0.67 * long, 1.3 * radius, 0.3 * radius + thick / 2), "wing"),
    )
    ways = (("cabin", "nose"), ("cabin", "wing"), ("cabin", "tail"))
    return Body((cabin, nose, tail, wing, fin, plane), tuple(rows), "cabin", ways, {}, lights)


def vehicle(sizes: Sizes) -> Body:
    """A box body with rows of windows, a cab before it with a slanting screen, lamp boxes fore and aft, wheels."""
    long, rise = sizes.length_mm, 0.075 * sizes.length_mm
    half = 0.15 * long
    tall = max(0.2 * long, storey_mm(sizes.scale) * max(sizes.decks, 1))
    floor, end = rise, rise + tall
    body = _section("body", "Body", (0.03 * long, -half, floor), (0.7 * long, half, end))
    x0, x1, rake = 0.71 * long, 0.95 * long, 0.07 * long
    cab_tall = min(tall, 0.24 * long)
    cab_side: tuple[Point2, ...] = ((x0, floor), (x1, floor), (x1, floor + 0.45 * cab_tall), (x1 - rake, floor + cab_tall), (x0, floor + cab_tall))  # fmt: skip
    cab = _section("cab", "Cab", (x0, -half * 0.96, floor), (x1 - rake, half * 0.96, floor + cab_tall), {"port": cab_side, "top": rectangle(x0, x1, -half * 0.96, half * 0.96)})  # fmt: skip
    lamp_tall = max(0.05 * long, 7.5)
    front, rear = x1 + 7.0, 0.03 * long - max(0.03 * long, 7.0)
    head = _section("head", "Front end", (x1 - rake, -half, floor), (front, half, floor + lamp_tall), lit=False)
    aft = _section("aft", "Rear end", (rear, -half, floor), (0.03 * long, half, floor + lamp_tall), lit=False)
    wheels = []
    for k, x in enumerate((0.14 * long, 0.52 * long, 0.83 * long)):
        r, y = 0.075 * long, half - 0.045 * long
        for side, sign in (("port", 1.0), ("starboard", -1.0)):
            low, high = sorted((sign * y, sign * half))
            wheels.append(
                _section(
                    f"wheel{k + 1}.{side}",
                    f"Wheel {k + 1}, {side}",
                    (x - r, low, 0.0),
                    (x + r, high, rise),
                    {"port": ellipse(x, r, r, r)},
                    (0.3 * r, 0.0, 0.0),
                    lit=False,
                )
            )
    rows = []
    for k in range(sizes.decks):
        rows += _rows(body, sizes.windows, _pane(sizes, "body"), lift=(k + 0.6) / sizes.decks)
    door = Opening(id="t", section="cab", width_mm=round(0.45 * (x1 - rake - x0), 2), height_mm=round(0.32 * cab_tall, 2), at=(0, 0, 0))  # fmt: skip
    screen = Opening(id="t", section="cab", width_mm=round(0.6 * half, 2), height_mm=round(0.32 * cab_tall, 2), at=(0, 0, 0))  # fmt: skip
    rows += [*_rows(cab, 1, door, BOTH, 1.0, 0.68), *_rows(cab, 2, screen, ("bow",), 1.0, 0.68)]
    middle = floor + lamp_tall / 2
    lights = (
        Outside("headlamp", "bow", (front, 0.66 * half, middle), "head"),
        Outside("indicator", "bow", (front, 0.9 * half, middle), "head"),
        Outside("tail-lamp", "stern", (rear, 0.72 * half, middle), "aft"),
        Outside("beacon", "top", (x0 + 0.06 * long, 0.0, floor + cab_tall), "cab"),
    )
    ways = (("body", "cab"), ("cab", "head"), ("body", "aft"))
    return Body((body, cab, head, aft, *wheels), tuple(rows), "body", ways, {}, lights)


def truss(sizes: Sizes) -> Body:
    """A long beam with a command module before it, a drum on an arm to either side, tanks over and under it and an engine behind."""
    long, tall = sizes.length_mm, storey_mm(sizes.scale)
    radius = max(0.055 * long, 0.75 * tall * max(sizes.decks, 1))
    beam = max(0.02 * long, 4.5)
    high = max(tall * max(sizes.decks, 1), 0.07 * long)
    z = max(high / 2, radius, 2.2 * beam + 0.075 * long)
    spine = _section("spine", "Spine", (0.12 * long, -beam, z - beam), (0.84 * long, beam, z + beam), lit=False)
    x0, half = 0.84 * long, 0.65 * high
    slope = 0.4 * high
    fore: tuple[Point2, ...] = ((x0, z - high / 2), (long - slope, z - high / 2), (long, z - 0.1 * high), (long, z + 0.1 * high), (long - slope, z + high / 2), (x0, z + high / 2))  # fmt: skip
    above: tuple[Point2, ...] = ((x0, -half), (long - slope, -half), (long, -0.5 * half), (long, 0.5 * half), (long - slope, half), (x0, half))  # fmt: skip
    command = _section("command", "Command module", (x0, -half, z - high / 2), (long - slope, half, z + high / 2), {"port": fore, "top": above})  # fmt: skip
    engine_side: tuple[Point2, ...] = ((0.0, z - 3.0 * beam), (0.12 * long, z - 1.6 * beam), (0.12 * long, z + 1.6 * beam), (0.0, z + 3.0 * beam))  # fmt: skip
    engine_top: tuple[Point2, ...] = tuple((x, v - z) for x, v in engine_side)
    engine = _section("engine", "Engine", (0.0, -1.6 * beam, z - 1.6 * beam), (0.12 * long, 1.6 * beam, z + 1.6 * beam), {"port": engine_side, "top": engine_top}, lit=False)  # fmt: skip
    sections, rows, ways = [command, spine, engine], [], [("spine", "command")]
    arm = beam + 0.05 * long
    for side, sign in (("port", 1.0), ("starboard", -1.0)):
        y = sign * (arm + radius)
        drum = _tube(f"drum.{side}", f"Drum, {side}", (0.44 * long, 0.7 * long), radius, z, y)
        low, up = sorted((sign * beam, sign * arm))
        sections += [drum, _section(f"arm.{side}", f"Arm, {side}", (0.54 * long, low, z - 0.7 * beam), (0.6 * long, up, z + 0.7 * beam), lit=False)]  # fmt: skip
        for k in range(sizes.decks):
            rows += _rows(drum, sizes.windows, _pane(sizes, drum.id), lift=(k + 1) / (sizes.decks + 1))
        ways += [("spine", f"arm.{side}"), (f"arm.{side}", drum.id)]
    bulb = 0.075 * long
    for key, name, up in (("tank.over", "Tank over the beam", z + beam + bulb), ("tank.under", "Tank under it", z - beam - bulb)):  # fmt: skip
        x, inset = 0.27 * long, 0.42 * bulb
        round_: dict[Side, tuple[Point2, ...]] = {"port": ellipse(x, up, bulb, bulb), "top": ellipse(x, 0.0, bulb, bulb), "bow": ellipse(0.0, up, bulb, bulb)}  # fmt: skip
        sections.append(_section(key, name, (x - bulb, -bulb, up - bulb), (x + bulb, bulb, up + bulb), round_, (inset, inset, inset), lit=False))  # fmt: skip
    pane = _pane(sizes, "command")
    wide = command.box.size
    sideways, ahead = (max(min(int((length - 2 * CLEAR_MM) / (1.5 * pane.width_mm)), most), 1) for length, most in ((wide[0], 6), (wide[1], 5)))  # fmt: skip
    for k in range(sizes.decks):
        lift = (k + 0.5) / sizes.decks
        rows += _rows(command, sideways, pane, BOTH, 0.8, lift)
    rows += _rows(command, ahead, pane, ("bow",), 1.0, 0.5)
    lights = (
        Outside("running-light", "port", (0.57 * long, arm + 2 * radius, z), "drum.port"),
        Outside("docking-light", "bow", (long, 0.2 * high, z), "command"),
        Outside("navigation-beacon", "top", (0.87 * long, 0.0, z + high / 2), "command"),
        Outside("engine-core", "stern", (0.0, 0.0, z), "engine"),
    )
    return Body(tuple(sections), tuple(rows), "spine", (*ways, ("spine", "engine")), {}, lights)


def tower(sizes: Sizes) -> Body:
    """A round tower or a rocket on its tail: stages one on the other with windows all round, a nose on top, fins at its foot."""
    long = sizes.length_mm
    radius = 0.09 * long
    foot, peak = 0.16 * long, 0.8 * long
    storey = (peak - foot) / max(sizes.decks, 1)
    inset = radius * (1.0 - math.sqrt(0.5))
    circle = ellipse(0.0, 0.0, radius, radius)
    base = _section("foot", "Foot", (-radius, -radius, 0.0), (radius, radius, foot), {"top": circle}, (inset, inset, 0.0), lit=False)  # fmt: skip
    sections, rows, ways, below = [base], [], [], "foot"
    for k in range(sizes.decks):
        key = f"stage{k + 1}"
        z = foot + storey * k
        section = _section(key, f"Stage {k + 1}", (-radius, -radius, z), (radius, radius, z + storey), {"top": circle}, (inset, inset, 0.0))  # fmt: skip
        sections.append(section)
        rows += _rows(section, sizes.windows, _pane(sizes, key), ("port", "starboard", "bow", "stern"))
        ways.append((below, key))
        below = key
    cone: tuple[Point2, ...] = ((-radius, peak), (radius, peak), (0.7 * radius, 0.9 * long), (0.0, long), (-0.7 * radius, 0.9 * long))  # fmt: skip
    nose = _section("nose", "Nose", (-0.5 * radius, -0.5 * radius, peak), (0.5 * radius, 0.5 * radius, 0.9 * long), {"port": cone, "bow": cone, "top": circle}, lit=False)  # fmt: skip
    fins = []
    thick = max(0.02 * long, 3.5)
    for key, name, sign in (("fin.fore", "Fin, fore", 1.0), ("fin.aft", "Fin, aft", -1.0)):
        low, high = sorted((sign * radius, sign * 2.1 * radius))
        shape: tuple[Point2, ...] = ((sign * radius, 0.0), (sign * 2.1 * radius, 0.0), (sign * 2.1 * radius, 0.06 * long), (sign * radius, foot))  # fmt: skip
        fins.append(_section(key, name, (low, -thick / 2, 0.0), (high, thick / 2, 0.06 * long), {"port": shape}, lit=False))  # fmt: skip
    lights = (
        Outside("navigation-beacon", "top", (0.0, 0.0, long), "nose"),
        Outside("running-light", "port", (0.0, radius, peak - 0.15 * storey), below),
        Outside("engine-core", "bottom", (0.0, 0.0, 0.0), "foot"),
    )
    return Body((*sections, nose, *fins), tuple(rows), "foot", (*ways, (below, "nose")), {}, lights)


FORMS: dict[Form, StarterForm] = {
    "ship": StarterForm("Ship with decks", "ship", Sizes("ship", 300.0, 3, 14, 200.0), "length", ship),
    "fuselage": StarterForm("Fuselage", "aircraft", Sizes("fuselage", 320.0, 1, 14, 144.0), "length", fuselage),
    "vehicle": StarterForm("Box vehicle with cab", "vehicle", Sizes("vehicle", 220.0, 1, 5, 48.0), "length", vehicle),
    "truss": StarterForm("Beam with drums", "spacecraft", Sizes("truss", 360.0, 2, 10, 500.0), "length", truss),
    "tower": StarterForm("Rocket or tower", "spacecraft", Sizes("tower", 260.0, 4, 4, 350.0), "height", tower),
}
LIMITS = {"length_mm": (60.0, 2000.0), "decks": (1, 8), "windows": (1, 200), "scale": (1.0, 20_000.0)}
NAMES = {"length_mm": "length", "decks": "decks", "windows": "windows a deck", "scale": "scale"}


BASE_MM = (128.0, 66.0, 36.0)  # the least a base measures: eight AA cells with their holder, a switch beside them
STAND_SHARE = 0.09  # of the length: how far a base lies below what stands on it


def on_a_base(body: Body, sizes: Sizes) -> Body:
    """A shape on a base below it, which holds cells, switch and fuse; its leads come up the stand."""
    low = min(min(v for o in s.drawn("port") for _, v in o.points) for s in body.sections)
    xs = [h for s in body.sections for o in s.drawn("port") for h, _ in o.points]
    wide, deep, tall = BASE_MM
    middle, half = (min(xs) + max(xs)) / 2, max(0.5 * (max(xs) - min(xs)), wide) / 2
    top = low - STAND_SHARE * sizes.length_mm
    base = _section("base", "Base", (middle - half, -deep / 2, top - tall), (middle + half, deep / 2, top), lit=False)
    carry = {x.section for x in body.lights}
    sections = tuple(_blackened(s) if s.id in carry and not s.inside else s for s in body.sections)
    return body._replace(sections=(*sections, base))


def _blackened(section: Section) -> Section:
    """A section that no lamp lights inside, and lamps are pushed through: black, so that nothing they throw back shows."""
    closed = Closure(part="roof", by="glue", glue="thin solvent cement")
    return copy_unchecked(section, inside=(Layer(coat="flat-black", coats=2),), closure=closed)


def body_of(sizes: Sizes) -> Body:
    """The sections, rows and lights of a shape on its base; raises PlanError for sizes it can't have."""
    if sizes.form not in FORMS:
        raise PlanError("New from a shape", f"“{sizes.form}”", ", ".join(FORMS))
    for field, (low, high) in LIMITS.items():
        value = getattr(sizes, field)
        if not low <= value <= high:  # no number either
            unit = " mm" if field == "length_mm" else ""
            raise PlanError(f"New from a shape, {NAMES[field]}", f"{value:g}{unit}", f"{low:g} to {high:g}{unit}")
    return on_a_base(FORMS[sizes.form].build(sizes), sizes)
