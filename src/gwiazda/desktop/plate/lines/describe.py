"""What there is to say of an item in one line, for the pointer at rest over it."""

from __future__ import annotations

from gwiazda.core.assess.optics.leaks import place_name
from gwiazda.core.assess.states import Assessment
from gwiazda.core.plan.lookup import find
from gwiazda.core.plan.model import Carrier, Dot, Fitting, Hub, Lamp, Opening, Panel, Passage, Plan, Section
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure
from gwiazda.desktop.plate.lines.carriers import describe_carrier
from gwiazda.desktop.plate.lines.fittings import describe_fitting
from gwiazda.desktop.plate.lines.runs import describe_dot
from gwiazda.desktop.plate.lines.wires import describe_place


def describe(plan: Plan, assessment: Assessment, item_id: str) -> str:
    """One line about an item for the hover."""
    item = find(plan, item_id)
    if isinstance(item, Opening):
        state = assessment.openings.get(item.id)
        lit = "dark on purpose" if item.lit == 0 else (f"{figure(state.luminance_cd_m2)} cd/m²" if state else "")
        if item.into:
            lit = f"leads into {item.into}"
        elif state and state.sight:
            lit += f", {name_of(plan, state.sight)} in plain sight"
        elif state and state.hot_spot >= 1.5:
            lit += f", a spot {figure(state.hot_spot, 2)} × as bright"
        name = name_of(plan, item.id)
        return f"{name} · {item.width_mm:g} × {item.height_mm:g} mm · {lit}"
    if isinstance(item, Lamp):
        lamp = assessment.lamps.get(item.id)
        return (
            f"{name_of(plan, item.id)} · {figure(lamp.current_a * 1e3)} mA · {figure(lamp.resistor_ohm, 4)} Ω"
            if lamp
            else f"{name_of(plan, item.id)} · dark"
        )
    if isinstance(item, Dot):
        return describe_dot(plan, assessment, item)
    if isinstance(item, Panel):
        return f"{item.name} · {item.width_mm:g} × {item.height_mm:g} mm"
    if isinstance(item, Carrier):
        return describe_carrier(plan, item)
    if isinstance(item, Fitting):
        return describe_fitting(plan, item)
    if isinstance(item, (Passage, Hub)):
        return describe_place(plan, assessment, item)
    if isinstance(item, Section):
        section = assessment.sections.get(item.id)
        leak = next((x for x in assessment.leaks if x.section == item.id), None)
        if section and leak is not None and leak.times >= 1.0:
            return f"{item.name} · {place_name(plan, leak)} leaks, {figure(leak.times, 2)} × what is seen"
        return (
            f"{item.name} · {figure(section.mean_cd_m2)} cd/m² · {section.lit} of {section.openings} windows lit"
            if section
            else item.name
        )
    return ""
