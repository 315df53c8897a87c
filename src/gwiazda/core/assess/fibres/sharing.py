"""Dots onto lamps: the task read off a plan, its answer as an edit, and why a dot is where it is."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from gwiazda.core.assess.fibres.tips import face_mm
from gwiazda.core.assess.lamp.lamp_models import known_lamps
from gwiazda.core.errors import PlanError
from gwiazda.core.fibre.bundle import fibres_by_hand
from gwiazda.core.fibre.grouping import Grouping, Wishes, group
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import bundle_table, item_of
from gwiazda.core.plan.model import Dot, Lamp, Plan, copy_unchecked
from gwiazda.core.plan.naming import feeder_name, name_of

WHITES = ("white", "warm white", "neutral white", "cool white")


def suits(catalogue: Catalogue, dot: Dot, lamp: Lamp) -> bool:
    """Whether a lamp gives a dot's colour and plays on its channel."""
    if dot.channel and (lamp.channel or "fibre") != dot.channel:
        return False
    if not dot.colour:
        return True
    own = catalogue.lamps[lamp.part].colour
    if own == dot.colour or (dot.colour == "white" and own in WHITES):
        return True
    fibre = catalogue.fibres.get(dot.fibre)
    return own in WHITES and dot.colour in (dot.tint, fibre.tint if fibre else "")


def lamp_for(dot: Dot) -> str:
    """A flat lamp of the colour a dot asks for, as wide as a bundle of it wants."""
    colour = {"white": "cool-white", "": "warm-white", "orange": "amber"}.get(dot.colour, dot.colour.replace(" ", "-"))
    return f"flat-5-{colour}" if colour in ("warm-white", "cool-white", "red", "green", "amber") else f"flat-3-{colour}"


def fed_lamps(catalogue: Catalogue, plan: Plan) -> tuple[Lamp, ...]:
    """The lamps that fibres may go onto: those set up for it, and those that carry some already."""
    used = {d.lamp for d in plan.dots if d.lamp}
    return tuple(p for p in known_lamps(catalogue, plan.lamps) if p.mount == "fibre" or p.id in used)


def task(catalogue: Catalogue, plan: Plan, dots: Sequence[Dot], lamps: Sequence[Lamp]) -> Wishes:
    """The task of grouping, as numbers. Distances are straight ones: the ways come with the lamps."""
    at, of = np.array([d.at for d in dots], dtype=float), np.array([p.at for p in lamps], dtype=float)
    gaps = np.linalg.norm(at.reshape(-1, 1, 3) - of.reshape(1, -1, 3), axis=2)
    # Dots of a kind ask the same of a lamp: colour and channel are looked up once a kind.
    kinds: dict[tuple[str, str, str, str], np.ndarray] = {}
    allowed = np.zeros(gaps.shape, dtype=bool)
    for i, d in enumerate(dots):
        key = (d.colour, d.channel, d.fibre, d.tint)
        if key not in kinds:
            kinds[key] = np.array([suits(catalogue, d, p) for p in lamps], dtype=bool)
        allowed[i] = kinds[key]
    groups = {g: n for n, g in enumerate(dict.fromkeys(d.group for d in dots if d.group))}
    where = {p.id: n for n, p in enumerate(lamps)}
    thick = [catalogue.fibres[d.fibre].diameter_mm for d in dots]
    return Wishes(
        gaps, allowed, np.array([d.wanted_mcd / t**2 for d, t in zip(dots, thick, strict=True)]), np.array(thick),
        np.array([face_mm(catalogue, p) for p in lamps]),
        np.array([groups.get(d.group, -1) for d in dots], dtype=np.intp),
        np.array([where.get(d.lamp, -1) if d.pinned else -1 for d in dots], dtype=np.intp),
    )  # fmt: skip


def grouped(catalogue: Catalogue, plan: Plan) -> tuple[Plan, Grouping]:
    """The plan with its dots on its fibre lamps.

    Raises
    ------
    PlanError
        Without dots, or without a lamp for fibres.
    """
    dots = [d for d in plan.dots if d.fibre in catalogue.fibres and d.fed == "lamp"]
    lamps = fed_lamps(catalogue, plan)
    if not dots:
        raise PlanError("Fibres", "there is no dot yet", "dots first: D on the plate")
    if not lamps:
        raise PlanError("Fibres", "there is no lamp for fibres", "a lamp whose mount is “feeds fibres”")
    found = group(task(catalogue, plan, dots, lamps))
    chosen = {d.id: lamps[j].id if j >= 0 else "" for d, j in zip(dots, found.lamp.tolist(), strict=True)}
    new = tuple(
        copy_unchecked(d, lamp=chosen[d.id]) if d.id in chosen and chosen[d.id] != d.lamp else d for d in plan.dots
    )
    return (
        copy_unchecked(plan, dots=new) if any(a is not b for a, b in zip(new, plan.dots, strict=True)) else plan
    ), found


def why(catalogue: Catalogue, plan: Plan, dot: Dot) -> str:
    """Why a dot is on its lamp, or on none, in a sentence."""
    lamps = fed_lamps(catalogue, plan)
    if dot.fed == "section":
        return f"It is fed by {feeder_name(plan, dot)}, and needs no lamp."
    if dot.fibre not in catalogue.fibres:
        return "Its fibre isn’t in the catalogue."
    if not lamps:
        return "No lamp is set up for fibres yet."
    if dot.pinned and dot.lamp:
        return f"Pinned to {name_of(plan, dot.lamp)}: it stays there when dots are grouped."
    thick = catalogue.fibres[dot.fibre].diameter_mm
    others = sorted((math.dist(p.at, dot.at), p.id) for p in lamps if p.id != dot.lamp)
    by_id = {p.id: p for p in lamps}
    mine = by_id.get(dot.lamp)
    reach = math.dist(mine.at, dot.at) if mine is not None else math.inf
    nearer = [name for gap, name in others if gap <= reach]
    wrong = [name for name in nearer if not suits(catalogue, dot, by_id[name])]
    full = [name for name in nearer if name not in wrong]
    words = []
    if mine is None:
        words.append("On no lamp")
        if wrong and not full:
            words.append(f"none gives {dot.colour or 'light'}{f' on {dot.channel}' if dot.channel else ''}")
        elif full:
            most = fibres_by_hand(face_mm(catalogue, by_id[full[0]]), thick)
            words.append(f"{name_of(plan, full[0])} takes {most} fibres of {thick:g} mm and has no room")
        return ": ".join(words) + "."
    words.append(f"{name_of(plan, dot.lamp)}, {reach:.0f} mm away in a straight line")
    if not wrong and not full:
        words.append("the nearest lamp that suits")
    if wrong:
        words.append(f"{name_of(plan, wrong[0])} is nearer and of another colour or channel")
    if full:
        words.append(
            f"{name_of(plan, full[0])} is nearer; its room goes to dots with a longer way elsewhere, or to other wishes"
        )
    if dot.group:
        words.append(f"together with group {dot.group}")
    return "; ".join(words) + "."


def split(catalogue: Catalogue, plan: Plan, lamp_id: str) -> Plan:
    """Half of a lamp's fibres onto another lamp like it beside it: those that lie further along the bundle's longer spread.

    Raises
    ------
    PlanError
        For a lamp with fewer than two fibres.
    """
    mine = [d for d in plan.dots if d.lamp == lamp_id]
    if len(mine) < 2:
        raise PlanError(
            f"Bundle of {name_of(plan, lamp_id)}", "it has fewer than two fibres", "a bundle of two or more"
        )
    lamp = item_of(plan.lamps, lamp_id, "lamp")
    stem = lamp_id.rsplit(".", 1)[0] if lamp_id.rsplit(".", 1)[-1].isdigit() else lamp_id
    new_id = edits.fresh_ids(plan, stem)[0]
    at = np.array([d.at for d in mine])
    axis = int(np.ptp(at, axis=0).argmax())
    order = sorted(mine, key=lambda d: (d.at[axis], d.id))
    units: dict[str, list[Dot]] = {}
    for d in order:
        units.setdefault(d.group or f"\0{d.id}", []).append(d)
    half, go = len(mine) / 2.0, set[str]()
    for unit in reversed(list(units.values())):
        if (len(go) + len(unit) <= max(half, 1.0) or not go) and len(go) + len(unit) < len(mine):
            go |= {d.id for d in unit}
    if not go:
        raise PlanError(
            f"Bundle of {name_of(plan, lamp_id)}", "all of its dots must act together", "dots of more than one group"
        )
    step = max(catalogue.lamps[lamp.part].size_mm[:2]) + 1.0 if lamp.part in catalogue.lamps else 4.0
    place = (lamp.at[0] + step, lamp.at[1], lamp.at[2])
    plan = edits.add_lamp(plan, copy_unchecked(lamp, id=new_id, at=place, resistor_ohm=None))
    decided = bundle_table(plan.bundles).get(lamp_id)
    if decided is not None:
        bundle = copy_unchecked(decided, id=edits.fresh_ids(plan, "bundle")[0], lamp=new_id)
        plan = copy_unchecked(plan, bundles=(*plan.bundles, bundle))
    dots = tuple(copy_unchecked(d, lamp=new_id, pinned=False) if d.id in go else d for d in plan.dots)
    return copy_unchecked(plan, dots=dots)
