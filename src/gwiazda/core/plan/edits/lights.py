"""Edits of lights, and of what belongs to them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.effect import free_id
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids, replace, set_fields
from gwiazda.core.plan.edits.lamps import set_wanted
from gwiazda.core.plan.lookup import find, lamps_by_section, with_parts
from gwiazda.core.plan.model import Channel, Dot, Lamp, Light, Model, Opening, Plan, Section, Wanted, copy_unchecked


def add_light(plan: Plan, kind: str, name: str, **fields: Any) -> tuple[Plan, str]:
    """Another light of a kind, called so, with no parts yet; returns the plan and its id."""
    item_id = fresh_ids(plan, f"light.{kind}")[0]
    light = copy_checked(Light(id=item_id, name=free_name(plan, name)), kind=kind, **fields)
    return copy_unchecked(plan, lights=(*plan.lights, light)), item_id


def free_name(plan: Plan, name: str) -> str:
    """A name that no other light has: numbered where it is taken."""
    taken, found, number = {x.name for x in plan.lights}, name[:90], 2
    while found in taken:
        found, number = f"{name[:90]} {number}", number + 1
    return found


def gather_light(plan: Plan, kind: str, name: str, ids: Iterable[str], **fields: Any) -> tuple[Plan, str]:
    """A light made of what there is: lamps, openings and dots become its parts, sections its rooms; returns the plan and its id.

    Raises
    ------
    PlanError
        With nothing that could be part of a light.
    """
    parts = [i for i in with_parts(plan, ids) if isinstance(find(plan, i), (Lamp, Opening, Dot, Section))]
    if not parts:
        raise PlanError("Light", "nothing is picked that could be part of one", "lamps, openings or dots")
    plan, light_id = add_light(plan, kind, name, **fields)
    return set_fields(plan, parts, light=light_id), light_id


def set_light(plan: Plan, light_id: str, **fields: Any) -> Plan:
    """Set fields of a light."""
    lights = tuple(copy_checked(f, **fields) if f.id == light_id else f for f in plan.lights)
    return copy_unchecked(plan, lights=lights)


def set_light_look(plan: Plan, light_id: str, look: str) -> Plan:
    """Set a light's look, and let the lamps that belong to it want it."""
    plan = set_light(plan, light_id, look=look)
    homes = lamps_by_section(plan.sections, plan.lamps)
    of_section = {s.id: s.light for s in plan.sections}
    mine = [p.id for p in plan.lamps if (p.light or of_section.get(homes.get(p.id) or "", "")) == light_id]
    return set_wanted(plan, mine, copy_checked(Wanted(look="normal"), look=look))


def take_apart(plan: Plan, light_id: str) -> Plan:
    """Let the parts of a light stand by themselves; they stay where they are, and belong to none."""
    changed: dict[str, Model] = {
        x.id: copy_unchecked(x, light="")
        for group in (plan.lamps, plan.openings, plan.dots)
        for x in group
        if x.light == light_id
    }
    plan = replace(plan, changed)
    return copy_unchecked(
        plan,
        sections=tuple(copy_unchecked(s, light="") if s.light == light_id else s for s in plan.sections),
        lights=tuple(_without(x, light_id) for x in plan.lights if x.id != light_id),
    )


def _without(light: Light, other: str) -> Light:
    """A light that knows nothing of another."""
    twin, matches = ("" if i == other else i for i in (light.twin, light.matches))
    return (
        light if (twin, matches) == (light.twin, light.matches) else copy_unchecked(light, twin=twin, matches=matches)
    )


def assign_light(plan: Plan, ids: Iterable[str], light_id: str) -> Plan:
    """Let items belong to a light ("" to none). What lies in a section belongs to its section's unless it says otherwise."""
    if light_id and not any(f.id == light_id for f in plan.lights):
        raise PlanError("Light", f"there is no light “{light_id}”", "a light of the plan")
    return set_fields(plan, ids, light=light_id)


def take_count(plan: Plan, light_id: str, lamps: int, outputs: int) -> Plan:
    """Lamps for a counted light, in rows in the middle of the model, each row a channel: to be put in their places then.

    Raises
    ------
    PlanError
        When the light has no count, or has its lamps already.
    """
    light = next((f for f in plan.lights if f.id == light_id), None)
    if light is None or light.count is None or lamps < 1:
        raise PlanError("Light", "it isn't counted yet", "rows and columns of dots first")
    if any(p.light == light_id for p in plan.lamps):
        raise PlanError(f"Light {light.name}", "it has lamps already", "one without lamps")
    stem = light_id.removeprefix("light.")[:50]
    ids = fresh_ids(plan, f"{stem}.lamp", lamps)
    centres = [s.box.centre for s in plan.sections] or [(0.0, 0.0, 0.0)]
    x0, y0, z0 = (sum(c[a] for c in centres) / len(centres) for a in range(3))
    many = max(outputs, 1) if outputs <= 64 else max(light.count.colours, 1)
    channels = [Channel(id=free_id(plan, f"{stem}.{k + 1}", "channel")) for k in range(min(many, lamps))]
    across = max(1, -(-lamps // max(light.count.rows, 1)))
    made = []
    for k, lamp_id in enumerate(ids):
        row, column = divmod(k, across)
        at = (x0 + 4.0 * (column - across / 2.0), y0, z0 + 4.0 * row)
        made.append(
            Lamp(id=lamp_id, part=light.count.part, at=at, aim=(0.0, 1.0, 0.0), mount="outside", light=light_id,
                 channel=channels[k % len(channels)].id, wanted=Wanted(current_ma=light.count.current_ma))
        )  # fmt: skip
    return copy_unchecked(plan, lamps=(*plan.lamps, *made), channels=(*plan.channels, *channels))
