"""The whole plan of one kit."""

from typing import Annotated, Literal

from msgspec import Meta

from gwiazda.core.plan.model.assembly import Done, EveningSettings, Orders, OwnStep, Seal, SectionOrder, StepDay
from gwiazda.core.plan.model.base import Model
from gwiazda.core.plan.model.carrier import Carrier
from gwiazda.core.plan.model.circuit import Feed, ResistorStock, Supply
from gwiazda.core.plan.model.effect import Board, Channel, Cue, Trigger
from gwiazda.core.plan.model.fibre import Bundle, Dot, Panel
from gwiazda.core.plan.model.fitting import Fitting
from gwiazda.core.plan.model.kit import Effort, Kit, View, ViewingConditions
from gwiazda.core.plan.model.lamp import Lamp
from gwiazda.core.plan.model.learned import Learned
from gwiazda.core.plan.model.light import Light
from gwiazda.core.plan.model.log import LogEntry
from gwiazda.core.plan.model.loom import Hub, Lead, Loom, Passage
from gwiazda.core.plan.model.opening import Opening
from gwiazda.core.plan.model.section import Section
from gwiazda.core.plan.model.variant import Variant

PLAN_VERSION = 13


class Plan(Model, frozen=True, kw_only=True):
    """The whole plan of one kit. Its groups are tuples of things with an id; ids are used once in a plan."""

    version: Literal[13] = 13
    kit: Kit = Kit()
    views: Annotated[tuple[View, ...], Meta(min_length=1, max_length=100)] = (
        View(id="port", name="Port side", side="port"),
    )
    sections: Annotated[tuple[Section, ...], Meta(max_length=2_000)] = ()
    openings: Annotated[tuple[Opening, ...], Meta(max_length=50_000)] = ()
    lamps: Annotated[tuple[Lamp, ...], Meta(max_length=20_000)] = ()
    feeds: Annotated[tuple[Feed, ...], Meta(min_length=1, max_length=50)] = (Feed(id="supply"),)
    drawer: ResistorStock = ResistorStock()
    room: ViewingConditions = ViewingConditions()
    effort: Effort = Effort()
    lights: Annotated[tuple[Light, ...], Meta(max_length=2_000)] = ()
    dots: Annotated[tuple[Dot, ...], Meta(max_length=20_000)] = ()
    bundles: Annotated[tuple[Bundle, ...], Meta(max_length=20_000)] = ()
    panels: Annotated[tuple[Panel, ...], Meta(max_length=500)] = ()
    passages: Annotated[tuple[Passage, ...], Meta(max_length=2_000)] = ()
    hubs: Annotated[tuple[Hub, ...], Meta(max_length=2_000)] = ()
    leads: Annotated[tuple[Lead, ...], Meta(max_length=40_000)] = ()
    loom: Loom = Loom()
    carriers: Annotated[tuple[Carrier, ...], Meta(max_length=2_000)] = ()
    fittings: Annotated[tuple[Fitting, ...], Meta(max_length=2_000)] = ()
    boards: Annotated[tuple[Board, ...], Meta(max_length=200)] = ()
    channels: Annotated[tuple[Channel, ...], Meta(max_length=2_000)] = ()
    triggers: Annotated[tuple[Trigger, ...], Meta(max_length=200)] = ()
    cues: Annotated[tuple[Cue, ...], Meta(max_length=2_000)] = ()
    orders: Orders = Orders()
    bench: EveningSettings = EveningSettings()
    section_orders: Annotated[tuple[SectionOrder, ...], Meta(max_length=2_000)] = ()
    own_steps: Annotated[tuple[OwnStep, ...], Meta(max_length=2_000)] = ()
    step_days: Annotated[tuple[StepDay, ...], Meta(max_length=20_000)] = ()
    done: Annotated[tuple[Done, ...], Meta(max_length=20_000)] = ()
    seals: Annotated[tuple[Seal, ...], Meta(max_length=2_000)] = ()
    log: Annotated[tuple[LogEntry, ...], Meta(max_length=50_000)] = ()
    learned: Annotated[tuple[Learned, ...], Meta(max_length=60_000)] = ()
    variants: Annotated[tuple[Variant, ...], Meta(max_length=200)] = ()

    @property
    def supply(self) -> Supply:
        """The first feed's source: what a lamp that nothing else names hangs on."""
        return self.feeds[0].supply


Placed = Lamp | Dot | Opening | Hub | Passage | Panel | Carrier | Fitting
Item = Section | Placed
Timed = Cue | Channel | Trigger | Board


def new_plan() -> Plan:
    """An empty plan as one begins: its words for a look follow the room it is for."""
    return Plan(room=ViewingConditions(looks="room"))
