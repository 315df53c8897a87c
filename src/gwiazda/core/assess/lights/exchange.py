"""Another means for a light: rebuilt in its place, with its name, look, rhythm, twin and log kept."""

from __future__ import annotations

from gwiazda.core.assess.lamp.realism import looks_of
from gwiazda.core.assess.lights.build import Kept, built, rhythm_of
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.place import spot_of
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import fed_alone, find, light_of, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Model, Plan, copy_unchecked


def channel_of(plan: Plan, light_id: str) -> str:
    """The channel that a light's own parts are on; empty for none."""
    return next((c for i in parts_of(plan, light_id) if (c := getattr(find(plan, i), "channel", ""))), "")


def asked_mcd(catalogue: Catalogue, plan: Plan, light_id: str) -> float | None:
    """The intensity (mcd) that is asked of a light's own lamp or tip as a figure; None where its word says it."""
    look = light_of(plan, light_id).look
    for i in parts_of(plan, light_id):
        part = find(plan, i)
        if isinstance(part, Lamp) and part.mount == "outside":
            return part.wanted.mcd
        if isinstance(part, Dot):
            return part.wanted_mcd if part.wanted_mcd != looks_of(catalogue, plan).point(look) else None
    return None


def _bare(plan: Plan, light_id: str, kept: str) -> Plan:
    """The plan with a light whose parts are gone but for one lamp, which waits for what is made of it; what is said of them in the log is
    said of the light."""
    mine = set(parts_of(plan, light_id))
    log = tuple(copy_unchecked(e, light=light_id) if e.lamp in mine and not e.light else e for e in plan.log)
    let_go: dict[str, Model] = {i: copy_unchecked(item, light="") for i in mine if (item := find(plan, i)) is not None}
    idle = fed_alone(plan, mine)
    plan = edits.replace(copy_unchecked(plan, log=log), let_go)
    return edits.delete(plan, (mine | idle) - {kept})


def exchanged(catalogue: Catalogue, plan: Plan, light_id: str, means_id: str) -> Plan:
    """A light carried by another means, where it is.

    A lamp of its own stays the same lamp, with its place in the circuit, where the new means has one too. A lamp for fibres that fed it
    alone goes with its tip.

    Raises
    ------
    PlanError
        For one without parts, or where it can't be carried so there.
    """
    light = light_of(plan, light_id)
    spot = spot_of(plan, light_id)
    if spot is None:
        raise PlanError(light.name, "it has no place yet", "a light that is placed on the plate")
    channel, means, asked = (
        channel_of(plan, light_id),
        catalogue.light_means.get(means_id),
        asked_mcd(catalogue, plan, light_id),
    )
    own = [i for i in parts_of(plan, light_id) if isinstance(p := find(plan, i), Lamp) and p.mount == "outside"]
    kept = own[0] if own and means is not None and means.form else ""
    plan = _bare(plan, light_id, kept)
    if not channel and means is not None and means.feeds != "section":
        plan, channel = rhythm_of(catalogue, plan, kind_of(catalogue, light.kind)) if light.animated else (plan, "")
    return built(catalogue, plan, light_id, means_id, spot, Kept(channel, kept, asked))


def exchanged_both(catalogue: Catalogue, plan: Plan, light_id: str, means_id: str) -> Plan:
    """A light and its twin carried by another means."""
    for i in (light_id, light_of(plan, light_id).twin):
        plan = exchanged(catalogue, plan, i, means_id) if i else plan
    return plan
