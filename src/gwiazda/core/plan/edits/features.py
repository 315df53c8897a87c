"""Edits of features, and of what belongs to them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.effect import free_id
from gwiazda.core.plan.edits.items import copy_checked, delete, fresh_ids, set_fields
from gwiazda.core.plan.edits.lamps import set_wanted
from gwiazda.core.plan.lookup import lamps_by_section
from gwiazda.core.plan.model import Channel, Feature, Lamp, Plan, Wanted, copy_unchecked


def add_feature(plan: Plan, purpose: str) -> Plan:
    """Another feature of that purpose, named after it."""
    item_id = fresh_ids(plan, f"feature.{purpose.replace(' ', '-')}")[0]
    feature = copy_checked(Feature(id=item_id, name=purpose.capitalize()), purpose=purpose)
    return copy_unchecked(plan, features=(*plan.features, feature))


def set_feature(plan: Plan, feature_id: str, **fields: Any) -> Plan:
    """Set fields of a feature."""
    features = tuple(copy_checked(f, **fields) if f.id == feature_id else f for f in plan.features)
    return copy_unchecked(plan, features=features)


def set_feature_look(plan: Plan, feature_id: str, look: str) -> Plan:
    """Set a feature's look, and let the lamps that belong to it want it."""
    plan = set_feature(plan, feature_id, look=look)
    homes = lamps_by_section(plan.sections, plan.lamps)
    of_section = {s.id: s.feature for s in plan.sections}
    mine = [p.id for p in plan.lamps if (p.feature or of_section.get(homes.get(p.id) or "", "")) == feature_id]
    return set_wanted(plan, mine, copy_checked(Wanted(look="normal"), look=look))


def drop_feature(plan: Plan, feature_id: str) -> Plan:
    """Take a feature out; what belonged to it stays, and belongs to none."""
    return delete(plan, [feature_id])


def assign_feature(plan: Plan, ids: Iterable[str], feature_id: str) -> Plan:
    """Let items belong to a feature ("" to none). What lies in a section belongs to its section's unless it says otherwise."""
    if feature_id and not any(f.id == feature_id for f in plan.features):
        raise PlanError("Feature", f"there is no feature “{feature_id}”", "a feature of the plan")
    return set_fields(plan, ids, feature=feature_id)


def take_count(plan: Plan, feature_id: str, lamps: int, outputs: int) -> Plan:
    """Lamps for a counted feature, in rows in the middle of the model, each row a channel: to be put in their places then.

    Raises
    ------
    PlanError
        When the feature has no count, or has its lamps already.
    """
    feature = next((f for f in plan.features if f.id == feature_id), None)
    if feature is None or feature.count is None or lamps < 1:
        raise PlanError("Feature", "it isn't counted yet", "rows and columns of dots first")
    if any(p.feature == feature_id for p in plan.lamps):
        raise PlanError(f"Feature {feature.name}", "it has lamps already", "one without lamps")
    stem = feature_id.removeprefix("feature.")[:50]
    ids = fresh_ids(plan, f"{stem}.lamp", lamps)
    centres = [s.box.centre for s in plan.sections] or [(0.0, 0.0, 0.0)]
    x0, y0, z0 = (sum(c[a] for c in centres) / len(centres) for a in range(3))
    many = max(outputs, 1) if outputs <= 64 else max(feature.count.colours, 1)
    channels = [Channel(id=free_id(plan, f"{stem}.{k + 1}", "channel")) for k in range(min(many, lamps))]
    across = max(1, -(-lamps // max(feature.count.rows, 1)))
    made = []
    for k, lamp_id in enumerate(ids):
        row, column = divmod(k, across)
        at = (x0 + 4.0 * (column - across / 2.0), y0, z0 + 4.0 * row)
        made.append(
            Lamp(id=lamp_id, part=feature.count.part, at=at, aim=(0.0, 1.0, 0.0), mount="outside", feature=feature_id,
                 channel=channels[k % len(channels)].id, wanted=Wanted(current_ma=feature.count.current_ma))
        )  # fmt: skip
    return copy_unchecked(plan, lamps=(*plan.lamps, *made), channels=(*plan.channels, *channels))
