"""What is judged of lights in the room the model is for: those that don't show there."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.assess.sight.dusk import Shows, looked_at, shows, until_words
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.electrics.circuit_rules import choose_resistor
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.light.dusk import level_of
from gwiazda.core.light.rooms import lux_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, lamp_of, light
from gwiazda.core.plan.model import Plan, Section, Wanted

BRIGHTER = 3.0
CLEARER, DARKER = "clear", "flat-black"


def outshone(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lights that don't show in the room the model is for."""
    lux = plan.room.lux
    for x in looked_at(plan, assessment):
        if x.seen.value > 0 and level_of(x.seen, lux) == 0:
            row = shows(*x)
            yield Finding(
                "outshone", "look", "look", row.of, row.until[0],
                f"{row.name}: the room outshines it ({lux_words(lux)}). It {until_words(row)}.",
                _brighter(plan, assessment, row), better="more",
            )  # fmt: skip


def _lamps(plan: Plan, assessment: Assessment, row: Shows) -> tuple[str, ...]:
    if light(plan, row.of) is not None:
        state = state_of(plan, assessment, row.of)
        if state is not None:
            return state.lamps
    sections = _sections(plan, row)
    return tuple(p.id for p in assessment.lamps.values() if p.section in sections)


def _asked(plan: Plan, assessment: Assessment, lamps: tuple[str, ...], by: float) -> Callable[[Plan], Plan]:
    """So many times the light, as far as the lamps have it, and their resistors chosen again."""

    def edit(plan: Plan) -> Plan:
        for i in lamps:
            state = assessment.lamps.get(i)
            if state is None:
                continue
            if lamp_of(plan, i).mount == "outside":
                wanted = Wanted(mcd=max(round(state.axial_cd * by * 1e3, 4), 1e-3))
            else:
                wanted = Wanted(current_ma=max(round(min(state.current_a * by, state.rated_a) * 1e3, 4), 1e-3))
            plan = edits.set_wanted(plan, [i], wanted)
        return choose_resistor(lamps)(plan)

    return edit


def _brighter(plan: Plan, assessment: Assessment, row: Shows) -> tuple[Fix, ...]:
    lamps = _lamps(plan, assessment, row)
    fixes = []
    if lamps:
        fixes.append(Fix("Three times as bright", _asked(plan, assessment, lamps, BRIGHTER)))
    sections = _sections(plan, row)
    if row.seen.shape == "pane" and sections:
        fixes.append(Fix("Clear glazing", lambda p: edits.set_fields(p, sections, glazing=CLEARER)))
        if row.seen.unlit > row.seen.hull:
            fixes.append(Fix("A darker lining inside", lambda p: edits.set_fields(p, sections, lining=DARKER)))
    return tuple(fixes)


def _sections(plan: Plan, row: Shows) -> list[str]:
    item = find(plan, row.of)
    if isinstance(item, Section):
        return [item.id]
    return [s.id for s in plan.sections if s.light == row.of]


DUSK_RULES = (outshone,)
