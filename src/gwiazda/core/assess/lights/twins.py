"""The image of a light on the other side, in that side's colour."""

from __future__ import annotations

from gwiazda.core.assess.lights.build import DOT_COLOURS, colour_at, fed
from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.place import spot_of
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.twins import add_twin
from gwiazda.core.plan.lookup import find, light_of, parts_of
from gwiazda.core.plan.model import Dot, Lamp, Plan


def with_twin(catalogue: Catalogue, plan: Plan, light_id: str) -> tuple[Plan, str]:
    """A light with its twin; of a pair in two colours (sidelights) the twin has the other one. Returns the plan and the twin's id.

    Raises
    ------
    PlanError
        Where it can have none.
    """
    plan, twin_id = add_twin(plan, light_id)
    kind = kind_of(catalogue, light_of(plan, light_id).kind)
    spot = spot_of(plan, twin_id)
    if spot is None or len(kind.colours) < 2 or not kind.pair:
        return plan, twin_id
    colour = colour_at(kind, spot.at[1])
    for part_id in parts_of(plan, twin_id):
        part = find(plan, part_id)
        if isinstance(part, Lamp) and part.part in catalogue.lamps:
            old = catalogue.lamps[part.part]
            same = [p for p in catalogue.lamps.values() if p.colour == colour and p.form == old.form and not p.body]
            if same and old.colour != colour:
                near = min(same, key=lambda p: (abs(p.face_mm - old.face_mm), p.lens != old.lens, p.id))
                plan = edits.set_fields(plan, [part_id], part=near.id)
        elif isinstance(part, Dot) and part.fed == "lamp":
            plan = edits.set_fields(plan, [part_id], colour=DOT_COLOURS.get(colour, colour), lamp="")
            plan = fed(catalogue, plan, [part_id])
    return plan, twin_id
