"""What if it is wired their way: the habits of the bench, tried on the plan, solved, and answered in a sentence."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.lamp_models import lamp_model_of
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan import edits
from gwiazda.core.plan.edits.tree import own_string, put_into
from gwiazda.core.plan.gate import validate_edit
from gwiazda.core.plan.lookup import lamp_of
from gwiazda.core.plan.model import LampRef, Plan, copy_unchecked
from gwiazda.core.plan.naming import name_of
from gwiazda.core.quantities import counted, figure, format_current, format_resistance

ALIKE, SEEN = 0.03, 0.20  # differences in light that nobody can tell, and that show
OVER = 1.02
Sentence = Callable[[Plan, Assessment, Assessment, tuple[str, ...]], tuple[str, bool]]


class Habit(NamedTuple):
    """A way people wire: its words, the plan wired so, and what is said of what comes out (with whether it harms)."""

    id: str
    words: str
    least: int  # lamps it takes
    edit: Callable[[Plan, tuple[str, ...], Assessment], Plan]
    say: Sentence


class Tried(NamedTuple):
    """A habit tried: the edit that wires it that way, its assessment, the sentence, and whether it does harm."""

    habit: Habit
    edit: Callable[[Plan], Plan]
    assessment: Assessment
    sentence: str
    harm: bool


def _lit(assessment: Assessment, ids: Iterable[str]) -> list[LampState]:
    return [assessment.lamps[i] for i in ids if i in assessment.lamps]


def _harm(assessment: Assessment, ids: tuple[str, ...]) -> LampState | None:
    """The lamp that gets most over its rating, if any."""
    worst = max(_lit(assessment, ids), key=lambda s: max(s.current_a, s.fresh_a) / s.rated_a)
    return worst if max(worst.current_a, worst.fresh_a) > OVER * worst.rated_a else None


def _burns(plan: Plan, lamp: LampState) -> str:
    most = max(lamp.current_a, lamp.fresh_a)
    times = most / lamp.rated_a
    end = "gone in a blink" if times > 5 else "it ages fast" if times < 2 else "it soon dies"
    return f"{name_of(plan, lamp.id)} gets {format_current(most)}, {figure(times, 2)} × what it is rated for: {end}"


def _times(before: Assessment, after: Assessment, ids: tuple[str, ...]) -> float:
    a = sum(max(s.share, 0.0) for s in _lit(before, ids))
    b = sum(max(s.share, 0.0) for s in _lit(after, ids))
    return b / a if a > 0 else 0.0


def _change(times: float) -> str:
    if times < 0.01:
        return "they go dark"
    if abs(times - 1.0) <= ALIKE:
        return "the light stays as it was"
    return f"{figure(times, 2)} × the light"


# -- the habits -----------------------------------------------------------------------------------------------


def _share(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
    """All of them side by side behind the one resistor that was meant for the first."""
    ohm = assessment.branches[assessment.lamps[ids[0]].branch].resistor_ohm
    plan = edits.wire_side_by_side(plan, ids)
    return edits.set_resistor(plan, ids, ohm) if ohm > 0 else plan


def _say_share(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    lamps = _lit(after, ids)
    colours = {s.colour for s in lamps}
    brightest, dimmest = max(lamps, key=lambda s: s.share), min(lamps, key=lambda s: s.share)
    if burnt := _harm(after, ids):
        return f"{_burns(plan, burnt)}.", True
    if len(colours) > 1 and brightest.share > 3.0 * max(dimmest.share, 1e-9):
        return (
            f"{brightest.colour.capitalize()} needs less voltage and takes the current: it gets {format_current(brightest.current_a)}, "
            f"{dimmest.colour} {format_current(max(dimmest.current_a, 0.0))}. No harm done, and {dimmest.colour} stays dark.",
            False,
        )
    times = _times(before, after, ids)
    return (
        f"One resistor’s current is shared out among {len(ids)}: each gets {format_current(dimmest.current_a)}, {_change(times)} "
        "all together. No harm; they will differ a little, as their voltages do.", False,
    )  # fmt: skip


def _bare(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
    """Straight across the rails, with no resistor at all."""
    feed = edits.feed_of(plan, ids[0]).id
    plan = edits.hang_into(plan, ids, plan.feeds[0].id)
    for lamp_id in ids:
        plan = put_into(plan, feed, LampRef(lamp=lamp_id))
    return plan


def _say_bare(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    if burnt := _harm(after, ids):
        return f"With nothing to hold the current back {_burns(plan, burnt)}.", True
    return (
        f"It works here: the source is so soft that it is the resistor itself, {_change(_times(before, after, ids))}. A fresh or larger "
        "one kills them.", False,
    )  # fmt: skip


def _minus_side(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
    """The resistor behind the lamps, on minus."""
    feed = edits.feed_of(plan, ids[0]).id
    ohms = {i: assessment.lamps[i].resistor_ohm for i in ids}
    plan = edits.hang_into(plan, ids, plan.feeds[0].id)
    for lamp_id in ids:
        string = own_string(plan, lamp_id)
        resistor = copy_unchecked(string.items[0], ohm=ohms[lamp_id] or None)
        plan = put_into(plan, feed, copy_unchecked(string, items=(LampRef(lamp=lamp_id), resistor)))
    return plan


def _say_minus_side(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    return (
        f"On minus or on plus, {_change(_times(before, after, ids))}: one current flows through both, whichever comes first. A "
        "resistor has no right way round either.", False,
    )  # fmt: skip


def _one_more(how: str) -> Callable[[Plan, tuple[str, ...], Assessment], Plan]:
    def edit(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
        for lamp_id in ids:
            ohm = assessment.lamps[lamp_id].resistor_ohm
            if ohm > 0:
                plan = edits.set_pair(plan, lamp_id, how, ohm, ohm)
        return plan

    return edit


def _say_beside(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    ohm = before.lamps[ids[0]].resistor_ohm
    if burnt := _harm(after, ids):
        return f"Two side by side are half the resistance: {_burns(plan, burnt)}.", True
    return (
        f"Brighter, true: two of {format_resistance(ohm)} side by side are {format_resistance(ohm / 2)}, so twice the current, "
        f"{_change(_times(before, after, ids))}. It isn’t the resistors that give light: one of {format_resistance(ohm / 2)} does the same.",
        False,
    )  # fmt: skip


def _say_behind(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    ohm = before.lamps[ids[0]].resistor_ohm
    return (
        f"One after the other they add up to {format_resistance(2 * ohm)}: about half the current, {_change(_times(before, after, ids))}. "
        "Harmless, and a good way to a softer look.", False,
    )  # fmt: skip


def _slip(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
    """The slip’s least voltage subtracted, the rest over its current."""
    for lamp_id in ids:
        kind = lamp_model_of(assessment.catalogue, lamp_of(plan, lamp_id))
        least = _least_v(assessment, lamp_id)
        volts = assessment.branches[assessment.lamps[lamp_id].branch].supply_v
        plan = edits.set_resistor(plan, [lamp_id], max((volts - least) / kind.rated_a, 1.0))
    return plan


def _least_v(assessment: Assessment, lamp_id: str) -> float:
    """The least voltage a seller's slip gives: the typical one less its spread, for each die in series."""
    part = assessment.catalogue.lamps[assessment.lamps[lamp_id].part]
    family = assessment.catalogue.families[part.family]
    return (family.v20_v - family.spread_v) * part.leds


def _say_slip(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    lamp = after.lamps[ids[0]]
    least = _least_v(after, ids[0])
    times = _times(before, after, ids)
    words = (
        f"({figure(after.branches[lamp.branch].supply_v)} V − {figure(least)} V) / {format_current(lamp.rated_a)} is "
        f"{format_resistance(lamp.resistor_ohm)}, and gives {format_current(lamp.current_a)}"
    )
    if burnt := _harm(after, ids):
        return f"{words}: {_burns(plan, burnt)}. With the typical voltage it would be as meant.", True
    over = f", {figure(times, 2)} × the light it has now" if times > 1 + SEEN else ""
    return f"{words}: near enough to its rating{over}. The slip’s least voltage only makes it a little safe.", False


def _turned(plan: Plan, ids: tuple[str, ...], assessment: Assessment) -> Plan:
    for lamp_id in ids:
        plan = edits.reverse(plan, lamp_id)
    return plan


def _say_turned(plan: Plan, before: Assessment, after: Assessment, ids: tuple[str, ...]) -> tuple[str, bool]:
    lamps = _lit(after, ids)
    if all(s.share > 0.5 * before.lamps[s.id].share for s in lamps):
        return "They have a rectifier in the lead and light either way round.", False
    volts = after.branches[lamps[0].branch].supply_v
    if volts > 5.0:
        return (
            f"The wrong way round it stays dark, and {figure(volts)} V is more than the 5 V a lamp bears backwards: turn it soon.",
            True,
        )
    return "The wrong way round it stays dark, and takes no harm from so few volts. Turn it, and it lights.", False


HABITS: tuple[Habit, ...] = (
    Habit("shared", "One resistor for all of them", 2, _share, _say_share),
    Habit("bare", "No resistor at all", 1, _bare, _say_bare),
    Habit("minus-side", "The resistor on minus", 1, _minus_side, _say_minus_side),
    Habit("one-beside", "One more resistor, side by side", 1, _one_more("parallel"), _say_beside),
    Habit("one-behind", "One more resistor, one after the other", 1, _one_more("series"), _say_behind),
    Habit("slip", "Subtract the least voltage on the slip", 1, _slip, _say_slip),
    Habit("turned", "Plus and minus swapped", 1, _turned, _say_turned),
)
BY_ID = {h.id: h for h in HABITS}


def habits_for(ids: tuple[str, ...]) -> tuple[Habit, ...]:
    """What can be tried on so many lamps."""
    return tuple(h for h in HABITS if len(ids) >= h.least)


def tried(plan: Plan, assessment: Assessment, ids: tuple[str, ...], habit_id: str, catalogue: Catalogue) -> Tried:
    """A habit tried on lamps of an assessed plan.

    Raises
    ------
    PlanError
        When it takes more lamps, or something else that they are not.
    """
    habit = BY_ID[habit_id]
    ids = tuple(i for i in ids if i in assessment.lamps)
    if len(ids) < habit.least:
        raise PlanError(habit.words, f"{counted(len(ids), 'lamp')} picked", counted(habit.least, "lamp") + " or more")
    after_plan = validate_edit(plan, habit.edit(plan, ids, assessment))
    after = assess(after_plan, catalogue)
    sentence, harm = habit.say(after_plan, assessment, after, ids)
    return Tried(habit, edits.as_edit(plan, after_plan), after, sentence, harm)
