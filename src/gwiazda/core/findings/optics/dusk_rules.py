"""What is judged of lights in the room the model is for: those that don't show there."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from gwiazda.core.assess.lights.kinds import kind_of
from gwiazda.core.assess.lights.looks import with_look
from gwiazda.core.assess.lights.states import state_of
from gwiazda.core.assess.sight.dusk import Shows, looked_at, shows, until_words
from gwiazda.core.assess.states import Assessment
from gwiazda.core.findings.electrics.circuit_rules import choose_resistor
from gwiazda.core.findings.finding import Finding, Fix
from gwiazda.core.light.dusk import LEVELS, drowned_mm, level_of
from gwiazda.core.light.rooms import lux_words
from gwiazda.core.plan import edits
from gwiazda.core.plan.lookup import find, lamp_of, light
from gwiazda.core.plan.model import Look, Plan, Section, Wanted

BRIGHTER = 3.0
DAZZLES_CD = 1000.0  # from there on the real one does too: headlamps, landing lights
BEYOND = 1.25  # times what bright is: not by what a word asks for
DROWNED_MM = 20.0
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


def glares(plan: Plan, assessment: Assessment) -> Iterator[Finding]:
    """Lights that dazzle where the real one doesn't: brighter than bright, and what lies round them can't be made out."""
    lux, looks = plan.room.lux, assessment.looks
    for x in looked_at(plan, assessment):
        owner = light(plan, x.of)
        kind = kind_of(assessment.catalogue, owner.kind) if owner is not None else None
        if kind is not None and (kind.washes or kind.look == "full" or kind.real_cd >= DAZZLES_CD):
            continue
        point = x.seen.shape == "point"
        hidden = drowned_mm(x.seen, lux)
        bright = looks.point("bright") * 1e-3 if point else looks.pane("bright")
        if (
            level_of(x.seen, lux) == len(LEVELS)
            and x.seen.value > BEYOND * bright
            and (hidden >= DROWNED_MM or not point)
        ):
            row = shows(*x)
            what = (
                f"looked into, it hides what lies within {hidden:.0f} mm of it"
                if point
                else "nothing beside it can be made out"
            )
            yield Finding(
                "glares", "look", "look", row.of, x.seen.value / bright,
                f"{row.name}: it glares in the room it is for ({lux_words(lux)}); {what}.",
                _dimmer(assessment, owner.id) if owner is not None else (),
            )  # fmt: skip


def _dimmer(assessment: Assessment, light_id: str) -> tuple[Fix, ...]:
    def asked(look: Look) -> Callable[[Plan], Plan]:
        return lambda plan: with_look(assessment.catalogue, plan, light_id, look)

    return (Fix("Bright, and no more", asked("bright")), Fix("Clearly lit", asked("normal")))


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


DUSK_RULES = (outshone, glares)
