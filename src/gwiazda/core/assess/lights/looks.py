"""How bright a light is to be, and what that takes: looks tried side by side."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.realism import looks_of, model_mcd
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.states import LightState, state_of
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, light_of, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Plan, Wanted
from gwiazda.core.plan.model.lamp import Look

TRIED: tuple[Look, ...] = ("barely", "normal", "full")


class Tried(NamedTuple):
    """A look with what comes of it: how bright it gets, the resistor before its lamp (Ω; None where it has none of its own), its current,
    and how long its source lasts then (h; infinite for an adapter)."""

    look: Look
    state: LightState | None
    resistor_ohm: float | None
    current_a: float
    hours: float = math.inf


def both(plan: Plan, light_id: str) -> tuple[str, ...]:
    """A light and its twin, where it has one."""
    twin = light_of(plan, light_id).twin
    return (light_id, twin) if twin else (light_id,)


def with_look(catalogue: Catalogue, plan: Plan, light_id: str, look: Look) -> Plan:
    """A light and its twin as bright as a word says: their lamps and tips want it."""
    mcd = looks_of(catalogue, plan).point(look)
    for i in both(plan, light_id):
        plan = edits.set_light_look(plan, i, look)
        tips = [k for k in parts_of(plan, i) if isinstance(find(plan, k), Dot)]
        plan = edits.set_fields(plan, tips, wanted_mcd=mcd) if tips else plan
    return plan


def words_kept(catalogue: Catalogue, before: Plan, after: Plan, was: Catalogue | None = None) -> Plan:
    """A plan whose room or hull has changed, or the catalogue (from ``was``) with what its user likes: tips of fibres that were as bright as a word
    says are so there too."""
    old, new = looks_of(was or catalogue, before), looks_of(catalogue, after)
    if old == new:
        return after
    looks = {x.id: x.look for x in after.lights}
    for look in dict.fromkeys(looks.values()):
        tips = [d.id for d in after.dots if looks.get(d.light) == look and d.wanted_mcd == old.point(look)]
        after = edits.set_fields(after, tips, wanted_mcd=new.point(look)) if tips else after
    return after


def look_now(catalogue: Catalogue, plan: Plan, light_id: str) -> str:
    """The word that all of a light's own lamps and tips are to be as bright as; empty where a figure says it, or they differ."""
    parts = [p for k in parts_of(plan, light_id) if (p := find(plan, k)) is not None]
    light = light_of(plan, light_id)
    said: set[str] = {p.wanted.look or "" for p in parts if isinstance(p, Lamp) and p.mount != "fibre"}
    said |= {
        light.look if p.wanted_mcd == looks_of(catalogue, plan).point(light.look) else ""
        for p in parts
        if isinstance(p, Dot)
    }
    return said.pop() if len(said) == 1 else ("" if said else light.look)


def true_to_scale(catalogue: Catalogue, plan: Plan, light_id: str) -> float:
    """Intensity (mcd) that gives the eye what the real one gives from the scaled distance; 0 for a kind without a figure."""
    kind = kind_of(catalogue, light_of(plan, light_id).kind)
    return model_mcd(kind.real_cd, plan.kit.scale) if kind.real_cd > 0 else 0.0


def as_the_real_one(catalogue: Catalogue, plan: Plan, light_id: str) -> Plan:
    """A light and its twin as bright as the real one, by scale."""
    mcd = true_to_scale(catalogue, plan, light_id)
    for i in both(plan, light_id) if mcd > 0 else ():
        parts = [p for k in parts_of(plan, i) if (p := find(plan, k)) is not None]
        plan = edits.set_wanted(plan, [p.id for p in parts if isinstance(p, Lamp)], Wanted(mcd=max(mcd, 1e-3)))
        tips = [p.id for p in parts if isinstance(p, Dot)]
        plan = edits.set_fields(plan, tips, wanted_mcd=min(max(mcd, 1e-3), 1e5)) if tips else plan
    return plan


def tried(plan: Plan, assessment: Assessment, light_id: str) -> tuple[Tried, ...]:
    """Three looks, each with the whole plan assessed."""
    out = []
    for look in TRIED:
        other = with_look(assessment.catalogue, plan, light_id, look)
        found = assess(other, assessment.catalogue, assessment.cells)
        state = state_of(other, found, light_id)
        lamps = [found.lamps[i] for i in (state.lamps if state is not None else ()) if i in found.lamps]
        out.append(_tried(look, state, found, lamps))
    return tuple(out)


def _tried(look: Look, state: LightState | None, found: Assessment, lamps: Sequence[LampState]) -> Tried:
    hours = min((found.feeds[x.feed].hours for x in lamps if x.feed in found.feeds), default=math.inf)
    return Tried(look, state, lamps[0].resistor_ohm if lamps else None, sum(x.current_a for x in lamps), hours)


def tried_lamps(plan: Plan, assessment: Assessment, lamp_ids: Sequence[str]) -> tuple[Tried, ...]:
    """Three looks for lamps that are no light's, as the first of them: by the windows of its section, or by what it gives straight on."""
    out = []
    for look in TRIED:
        other = edits.set_wanted(plan, lamp_ids, Wanted(look=look))
        found = assess(other, assessment.catalogue, assessment.cells)
        lamps = [found.lamps[i] for i in lamp_ids if i in found.lamps]
        if not lamps:
            return ()
        first, looks = lamps[0], found.looks
        section = found.sections.get(first.section or "")
        if section is not None and section.lit:
            state = LightState("cd/m²", section.mean_cd_m2, looks.pane(look), first.rgb, 0.0, tuple(lamp_ids))
        else:
            state = LightState("mcd", first.axial_cd * 1e3, looks.point(look), first.rgb, 0.0, tuple(lamp_ids))
        out.append(_tried(look, state, found, lamps))
    return tuple(out)


def tried_tips(plan: Plan, assessment: Assessment, dot_ids: Sequence[str]) -> tuple[Tried, ...]:
    """Three looks for the tips of fibres, as the first of them, with what its lamp takes for it."""
    out = []
    for look in TRIED:
        mcd = looks_of(assessment.catalogue, plan).point(look)
        found = assess(edits.set_fields(plan, dot_ids, wanted_mcd=mcd), assessment.catalogue, assessment.cells)
        tip = found.tips.get(dot_ids[0])
        if tip is None:
            return ()
        lamps = [
            x for i in {d.lamp: None for d in plan.dots if d.id in dot_ids} if (x := found.lamps.get(i)) is not None
        ]
        state = LightState("mcd", tip.cd * 1e3, mcd, tip.rgb, 0.0, tuple(x.id for x in lamps))
        out.append(_tried(look, state, found, lamps))
    return tuple(out)


def look_of_tips(catalogue: Catalogue, plan: Plan, dots: Sequence[Dot]) -> str:
    """The word that all of these tips are as bright as; empty where a figure says it, or they differ."""
    asked = {d.wanted_mcd for d in dots}
    return next((k for k in TRIED if asked == {looks_of(catalogue, plan).point(k)}), "")


ALIKE = 0.03  # of its light: no eye tells them apart


def worth_showing(found: tuple[Tried, ...], now: str) -> tuple[Tried, ...]:
    """The looks that come out different: where the lamp can give no more, the brighter of two alike is left, or the one there is now."""
    out: list[Tried] = []
    for t in found:
        if (
            out
            and t.state is not None
            and (last := out[-1].state) is not None
            and abs(t.state.value - last.value) <= ALIKE * t.state.value
        ):
            out[-1] = out[-1] if out[-1].look == now else t
        else:
            out.append(t)
    return tuple(out)
