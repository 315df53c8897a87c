"""What kinds of things a plan holds: one line each, and what goes over all of them follows from it."""

from __future__ import annotations

from typing import NamedTuple

from gwiazda.core.plan.model.assembly import Done, OwnStep, Seal, SectionOrder, StepDay
from gwiazda.core.plan.model.base import Model
from gwiazda.core.plan.model.carrier import Carrier
from gwiazda.core.plan.model.circuit import Feed
from gwiazda.core.plan.model.effect import Board, Channel, Cue, Trigger
from gwiazda.core.plan.model.fibre import Bundle, Dot, Panel
from gwiazda.core.plan.model.fitting import Fitting
from gwiazda.core.plan.model.kit import View
from gwiazda.core.plan.model.lamp import Lamp
from gwiazda.core.plan.model.light import Light
from gwiazda.core.plan.model.log import LogEntry
from gwiazda.core.plan.model.loom import Hub, Lead, Passage
from gwiazda.core.plan.model.opening import Opening
from gwiazda.core.plan.model.section import Section
from gwiazda.core.plan.model.variant import Variant


class ItemKind(NamedTuple):
    """One kind of thing.

    ``group``: the plan's tuple of them. ``noun``: what a person calls one. ``layer``: of those with a place on the plate,
    how far up it lies, 1 on top; 0 for those without. ``of_section``: whether it goes with the section it names.
    ``timed``: of those that belong to time, the order in which they are looked for; 0 for the rest. ``in_variant``:
    whether a variant of a section keeps its own.
    """

    group: str
    noun: str
    model: type[Model]
    layer: int = 0
    of_section: bool = False
    timed: int = 0
    in_variant: bool = False

    @property
    def id(self) -> str:
        """What panels and stations call the kind."""
        return self.model.__name__.lower()


KINDS = (
    ItemKind("views", "view", View),
    ItemKind("sections", "section", Section, layer=9, in_variant=True),
    ItemKind("openings", "opening", Opening, layer=5, of_section=True, in_variant=True),
    ItemKind("lamps", "lamp", Lamp, layer=1, in_variant=True),
    ItemKind("feeds", "feed", Feed),
    ItemKind("lights", "light", Light, in_variant=True),
    ItemKind("dots", "dot", Dot, layer=2, of_section=True, in_variant=True),
    ItemKind("bundles", "bundle", Bundle, in_variant=True),
    ItemKind("panels", "panel", Panel, layer=6, of_section=True, in_variant=True),
    ItemKind("passages", "passage", Passage, layer=4, of_section=True, in_variant=True),
    ItemKind("hubs", "hub", Hub, layer=3, of_section=True, in_variant=True),
    ItemKind("leads", "lead", Lead, in_variant=True),
    ItemKind("boards", "board", Board, timed=4),
    ItemKind("channels", "channel", Channel, timed=2),
    ItemKind("triggers", "trigger", Trigger, timed=3),
    ItemKind("cues", "cue", Cue, timed=1),
    ItemKind("carriers", "carrier", Carrier, layer=7, of_section=True, in_variant=True),
    ItemKind("fittings", "fitting", Fitting, layer=8, of_section=True, in_variant=True),
    ItemKind("section_orders", "order", SectionOrder),
    ItemKind("step_days", "step’s day", StepDay),
    ItemKind("own_steps", "own step", OwnStep),
    ItemKind("done", "done step", Done),
    ItemKind("seals", "seal", Seal),
    ItemKind("log", "entry", LogEntry),
    ItemKind("variants", "variant", Variant),
)
BY_KIND = {k.id: k for k in KINDS}
BY_GROUP = {k.group: k for k in KINDS}
GROUPS = tuple(k.group for k in KINDS)
PLACED = tuple(sorted((k for k in KINDS if k.layer), key=lambda k: k.layer))  # what lies on top comes first
LIGHT = BY_KIND["light"]  # it is where its parts are
TIMED = tuple(sorted((k for k in KINDS if k.timed), key=lambda k: k.timed))
OF_SECTION = tuple(k for k in KINDS if k.of_section)
IN_VARIANT = tuple(k.group for k in KINDS if k.in_variant)
PICKED = (*PLACED, LIGHT, *TIMED)  # what can be picked, circuits apart
GROUP_OF: dict[type, str] = {k.model: k.group for k in PLACED}
