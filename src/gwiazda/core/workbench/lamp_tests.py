"""Each lamp by itself as people test it, on a coin cell's two leads, or from the battery through its own resistor: what flows, and how bright it is to be."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.assess.assessment import assess
from gwiazda.core.assess.lamp.tryout import alone
from gwiazda.core.assess.states import Assessment, LampState
from gwiazda.core.circuit.series import values
from gwiazda.core.circuit.shelf import shelf_of
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.lookup import built_into, lamps_table
from gwiazda.core.plan.model import Feed, Lamp, Plan, Supply
from gwiazda.core.quantities import counted, figure, format_current, format_resistance
from gwiazda.core.workbench.testsheet import joint_tests

COIN = "coin-cr2032"
NO_RESISTOR_OHM = 0.01  # leads held to the cell
SPARE_V = 0.1  # nearer to what it takes, a battery needs no resistor before it
MUCH = 2.0  # times its rated current: not even for a moment
DARK, DIMMER, BRIGHTER = 0.002, 0.4, 2.5  # of its rated light; times what it will be


class LampTest(NamedTuple):
    """What lamps that are alike do in the test: what flows (A), the light over that at the rated current, and over what it will be in the plan."""

    lamps: tuple[str, ...]
    current_a: float
    rated_a: float
    share: float
    ratio: float
    before_ohm: float = 0.0  # what must stand before it

    @property
    def words(self) -> str:
        """How bright it is to be, and for how long it may be held there."""
        if self.share < DARK:
            return "stays dark: it wants more volts than the cell has"
        bright = (
            "dimmer than it will be" if self.ratio < DIMMER
            else "about as bright as it will be" if self.ratio <= BRIGHTER
            else "brighter than it will be"
        )  # fmt: skip
        if self.before_ohm:
            return f"{bright}; put {format_resistance(self.before_ohm)} before it, bare it would take more than it is made for"
        return bright + (", for a moment only: more than it is made for" if self.current_a > self.rated_a else "")


@memoize_by_value(256)
def _on_coin(catalogue: Catalogue, lamp: Lamp) -> tuple[float, float, float]:
    """What flows through a lamp on a fresh coin cell (A), its share of the rated light, and the resistor that must stand before it (Ω; 0 for none)."""
    feed = Feed(id="test", supply=Supply(part=COIN))

    def lit(ohm: float) -> LampState | None:
        return assess(alone(Plan(), lamp, feed, ohm), catalogue).lamps.get(lamp.id)

    bare = lit(NO_RESISTOR_OHM)
    if bare is None:
        return 0.0, 0.0, 0.0
    if bare.fresh_a <= MUCH * bare.rated_a:
        return bare.fresh_a, bare.share, 0.0
    for ohm in values("E12"):
        tamed = lit(ohm)
        if tamed is not None and tamed.fresh_a <= tamed.rated_a:
            return tamed.fresh_a, tamed.share, ohm
    return bare.fresh_a, bare.share, 0.0


def _kind(lamp: Lamp) -> tuple[object, ...]:
    return lamp.part, lamp.units, lamp.sanded, lamp.filed_mm, lamp.frosted_cap, lamp.tint


def lamp_tests(plan: Plan, assessment: Assessment, section: str = "") -> tuple[LampTest, ...]:
    """Tests lamp by lamp as the plan has chosen them, those that come out alike as one; none where a limited supply is used, for which the
    test sheet has the figures.

    Parameters
    ----------
    plan : Plan
        With how it is tested in ``bench.tests_with``.
    assessment : Assessment
        Of that plan.
    section : str
        Lamps of this section alone; all where it is empty.

    Returns
    -------
    tuple of LampTest
        In the plan's order.
    """
    how = plan.bench.tests_with
    if how == "limited supply":
        return ()
    homes, table = built_into(plan.sections, plan.lamps), lamps_table(plan.lamps)
    found: dict[tuple[object, ...], LampTest] = {}
    for i, state in assessment.lamps.items():
        if i not in table or (section and homes.get(i) != section):
            continue
        lamp = table[i]
        if how == "coin cell":
            current, share, before_ohm = _on_coin(assessment.catalogue, lamp)
        else:
            current, share, before_ohm = state.fresh_a or state.current_a, state.share, 0.0
        ratio = share / state.share if state.share > 0.0 else 0.0
        key = (homes.get(i), *_kind(lamp), round(state.share, 3))
        alike = found.get(key)
        mine = (*alike.lamps, i) if alike is not None else (i,)
        found[key] = LampTest(mine, current, state.rated_a, share, ratio, before_ohm)
    return tuple(found.values())


class JointLine(NamedTuple):
    """A test after a joint, by the means that the plan tests with: what was joined, where the clips go, from what, what should flow, what is seen;
    ``lamps``: those that light, the one just joined last."""

    joint: str
    clips: str
    source: str
    flows: str
    seen: str
    lamps: tuple[str, ...]


def joint_lines(plan: Plan, assessment: Assessment, section: str = "") -> tuple[JointLine, ...]:
    """The tests after the joints of strings, groups and hubs, as people do them.

    A limited supply is set to what the half-built string takes. A battery gives all its volts at once: a resistor more before it stands for the lamps that
    are still to come, the next value at or above (V − V_so_far)/I. A coin cell lights the lamp just joined, by itself: it has not the volts for two, so a
    hub is only pulled at.

    Parameters
    ----------
    plan : Plan
        With how it is tested in ``bench.tests_with``.
    assessment : Assessment
        Of that plan.
    section : str
        Joints of this section alone; all where it is empty.

    Returns
    -------
    tuple of JointLine
        String by string, then the hubs.
    """
    how, out = plan.bench.tests_with, []
    table = lamps_table(plan.lamps)
    shelf = shelf_of(plan.drawer.series, assessment.catalogue.resistors)
    for x in joint_tests(plan, assessment, section):
        clips, last = f"+ {x.plus}, − {x.minus}", x.lamps[-1]
        if how == "limited supply":
            source = f"{figure(x.supply_v)} V, {figure(x.limit_a * 1e3)} mA"
            flows = f"{figure(x.low_a * 1e3, 2)} to {figure(x.high_a * 1e3, 2)} mA"
            out.append(JointLine(x.joint, clips, source, flows, f"{counted(len(x.lamps), 'lamp')} lit", x.lamps))
        elif how == "battery":
            volts = next((b.supply_v for b in assessment.branches.values() if last in b.lamps), x.supply_v)
            more = (
                shelf.at_or_above((volts - x.supply_v) / x.current_a)
                if x.current_a > 0 and volts - x.supply_v > SPARE_V
                else 0.0
            )
            source = "its own battery" + (f", {format_resistance(more)} before it" if more else "")
            flows = (
                f"about {figure(x.current_a * 1e3, 2)} mA" if not more else f"up to {figure(x.current_a * 1e3, 2)} mA"
            )
            out.append(JointLine(x.joint, clips, source, flows, f"{counted(len(x.lamps), 'lamp')} lit", x.lamps))
        elif x.hub:
            out.append(JointLine(x.joint, "none", "none", "", "pull at each wire, look for bridges", x.lamps))
        elif last in table:
            current, share, ohm = _on_coin(assessment.catalogue, table[last])
            state = assessment.lamps[last]
            test = LampTest(
                (last,), current, state.rated_a, share, share / state.share if state.share > 0 else 0.0, ohm
            )
            source = "coin cell" + (f", {format_resistance(ohm)} before it" if ohm else "")
            seen = test._replace(before_ohm=0.0, current_a=min(current, state.rated_a)).words
            out.append(
                JointLine(
                    x.joint, "the lead before it and the one behind it", source, format_current(current), seen, x.lamps
                )
            )
    return tuple(out)


def how_words(plan: Plan) -> str:
    """How lamps are tested, as a heading says it."""
    return {
        "coin cell": "each on a coin cell’s two leads, + to plus",
        "battery": "each from its own battery, through its own resistor",
    }.get(plan.bench.tests_with, "from a supply with a limit")


def told(plan: Plan, test: LampTest) -> str:
    """A test in a sentence's part."""
    many = f"{counted(len(test.lamps), 'lamp')}: " if len(test.lamps) > 1 else ""
    return f"{many}{format_current(test.current_a)}, {test.words}"
