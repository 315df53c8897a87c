"""Words for what is in a circuit."""

from __future__ import annotations

from gwiazda.core.assess.states import Assessment
from gwiazda.core.drawing.rail_marks import RailMark
from gwiazda.core.plan.lookup import circuit_part, feed_with
from gwiazda.core.plan.model import Feed, Fuse, Load, Node, Plan, Regulated, Resistor, Switch, Switched, Wire
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import figure, format_current, format_resistance

# What can be put before something, in the words of a button; keys as in ``edits.put_before``.
PUT = (
    ("switch", "a switch"),
    ("fuse", "a fuse"),
    ("resistor", "a resistor"),
    ("regulator", "a regulator"),
    ("output", "an output of a board"),
    ("stage", "a transistor stage"),
    ("wire", "a long thin wire"),
    ("motor", "a motor beside it"),
    ("sound", "a sound module beside it"),
)


def kind_words(assessment: Assessment, part: Node | Feed) -> str:
    """What a part is: “small motor, 3 V”."""
    c = assessment.catalogue
    if isinstance(part, Feed):
        source = c.sources.get(part.supply.part)
        return source.name if source is not None else part.supply.part
    for kind, table in ((Load, c.loads), (Regulated, c.regulators), (Switched, c.drives)):
        if isinstance(part, kind):
            return table[part.part].name if part.part in table else part.part
    if isinstance(part, Switch):
        return f"{part.kind} switch, {'closed' if part.closed else 'open'}"
    if isinstance(part, Fuse):
        return f"fuse, {format_current(part.rated_a)}"
    if isinstance(part, Wire):
        return f"wire, AWG {part.awg}, {figure(part.length_mm)} mm there and back"
    return "resistor" if isinstance(part, Resistor) else "part"


def mark_words(plan: Plan, assessment: Assessment, mark: RailMark) -> str:
    """One line about a symbol, for the hover and for a screen reader."""
    several = f"{mark.number} alike: " if mark.number > 1 else ""
    if mark.kind == "lamp":
        state = assessment.lamps.get(mark.lamps[0] if mark.lamps else mark.id)
        if state is None:
            return f"{name_of(plan, mark.lamps[0] if mark.lamps else mark.id)}, dark"
        turned = ", the wrong way round" if mark.turned else ""
        return (
            f"{several}{name_of(plan, state.id)}, {format_current(max(state.current_a, 0.0))}, {figure(state.share * 100, 2)} % of its "
            f"light{turned}. Drag it to another string."
        )
    part = circuit_part(plan, mark.id) or feed_with(plan, mark.id)
    if part is None or (mark.kind == "resistor" and not isinstance(part, Resistor)):
        state = assessment.lamps.get(mark.id)
        return (
            f"{several}{format_resistance(state.resistor_ohm)} for {name_of(plan, mark.id)}"
            if state is not None
            else name_of(plan, mark.id)
        )
    device = assessment.parts.get(mark.id)
    flows = f", {format_current(abs(device.current_a))}" if device is not None else ""
    if isinstance(part, Feed):
        supply = assessment.feeds.get(part.id)
        flows = (
            f", {figure(supply.terminal_v, 3)} V under {format_current(supply.draw_a)}" if supply is not None else ""
        )
    if isinstance(part, Resistor):
        branch = next((r for r in assessment.branches.values() if r.resistor == part.id), None)
        ohm = part.ohm or (branch.resistor_ohm if branch is not None else 0.0)
        return f"{several}{format_resistance(ohm) if ohm else 'a resistor'}{flows}"
    return f"{name_of(plan, mark.id)}: {kind_words(assessment, part)}{flows}"
