"""The way of a dot's fibre through the model: out of the lamp along its axis, through its places, into the skin square."""

from __future__ import annotations

import math

from gwiazda.core.assess.looms.ways import fibre_routes, strands_of
from gwiazda.core.fibre.light import bend_db
from gwiazda.core.memo import memoize
from gwiazda.core.plan.frame import NORMALS
from gwiazda.core.plan.model import Dot, Lamp, Passage, Plan, Section
from gwiazda.core.space.run import Place, Run, run_through, tightest

GENTLE = 25.0  # diameters: a bend so wide costs next to nothing
OUT_MM = 10.0  # left standing out of the skin until paint is dry, then trimmed
EVEN_MM = 5.0  # lengths are cut in such steps, the next above


def led_through(plan: Plan) -> dict[str, tuple[Place, ...]]:
    """Where the fibres of a plan pass from section to section (mm), for those that nobody leads by hand."""
    return _led(plan.passages, plan.sections, plan.lamps, plan.dots) if plan.passages and plan.dots else {}


@memoize(slots=4)
def _led(
    passages: tuple[Passage, ...], sections: tuple[Section, ...], lamps: tuple[Lamp, ...], dots: tuple[Dot, ...]
) -> dict[str, tuple[Place, ...]]:
    at = {p.id: p.at for p in passages}
    found = fibre_routes(passages, sections, lamps, strands_of(dots))
    by_hand = {d.id for d in dots if d.way}
    return {i: tuple(at[p] for p in through) for i, through in found.items() if i not in by_hand}


def places_of(dot: Dot, lamp: Lamp, fibre_mm: float, through: tuple[Place, ...] = ()) -> tuple[Place, ...]:
    """What the fibre is led through, the lamp's face and the hole among it (mm); ``through`` where it is not led by hand."""
    norm = math.sqrt(sum(a * a for a in lamp.aim))
    gap = math.dist(lamp.at, dot.at)
    lead = min(dot.bend_mm or GENTLE * fibre_mm, 0.35 * gap)
    (x, y, z), (a, b, c) = lamp.at, (k / norm * lead for k in lamp.aim)
    out = (x + a, y + b, z + c)
    return (lamp.at, out, *(dot.way or through), inward(dot, lead), dot.at)


def inward(dot: Dot, deep_mm: float) -> Place:
    """The place so far behind a dot, straight into its skin (mm)."""
    x, y, z = NORMALS[dot.side]
    return (dot.at[0] - x * deep_mm, dot.at[1] - y * deep_mm, dot.at[2] - z * deep_mm)


@memoize(slots=1, by=lambda dot, lamp, fibre_mm, through=(): dot.id, places=25_000)
def way_of(dot: Dot, lamp: Lamp, fibre_mm: float, through: tuple[Place, ...] = ()) -> Run:
    """The way, with its bends as wide as asked or as there is room."""
    return run_through(places_of(dot, lamp, fibre_mm, through), dot.bend_mm or GENTLE * fibre_mm)


class Bent:
    """What the bends of a way come to."""

    __slots__ = ("at", "creased", "db", "tightest")

    def __init__(self, run: Run, dot: Dot, fibre_mm: float) -> None:
        warm = dot.bent != "cold"
        self.db = sum(bend_db(b.radius_mm / fibre_mm, dot.held, b.degrees, warm) for b in run.bends)
        self.creased = math.isinf(self.db)
        worst = tightest(run)
        self.tightest = worst.radius_mm / fibre_mm if worst is not None else math.inf
        self.at = worst.at if worst is not None else None


def cut_mm(dot: Dot, length_mm: float) -> float:
    """The length to cut (mm): the way, slack, what stands out until it is trimmed; up to the next 5 mm."""
    whole = length_mm + dot.slack_mm + (OUT_MM if dot.trim == "after painting" else 0.0)
    return math.ceil(whole / EVEN_MM) * EVEN_MM
