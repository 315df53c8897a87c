"""What the modeller decides: frozen models, one file a subject. A change makes a new Plan (see ``plan.edits``)."""

from gwiazda.core.plan.model.base import LIMIT_MM, Model, Point, Point2, altered
from gwiazda.core.plan.model.build import Bench, Done, Orders, OwnStep, Seal, SectionOrder
from gwiazda.core.plan.model.carrier import Carrier, CarrierForm
from gwiazda.core.plan.model.circuit import (
    BRANCHING,
    Drawer,
    Feed,
    Fuse,
    Hangs,
    Head,
    Hung,
    Load,
    Node,
    Parallel,
    Regulated,
    Resistor,
    Series,
    Supply,
    Switch,
    Switched,
    Wire,
    lamps_in,
    parts_in,
)
from gwiazda.core.plan.model.effect import (
    Awake,
    Blink,
    Board,
    Channel,
    Chase,
    Counter,
    Cue,
    Does,
    Fade,
    Flashes,
    Flicker,
    Pattern,
    Pulse,
    Sound,
    Stages,
    Steady,
    Steps,
    Trigger,
)
from gwiazda.core.plan.model.fibre import Bundle, Dot, DotColour, Panel
from gwiazda.core.plan.model.fitting import Fitting
from gwiazda.core.plan.model.kit import Drawing, Effort, Kind, Kit, Room, View
from gwiazda.core.plan.model.lamp import Lamp, Look, Tint, Wanted
from gwiazda.core.plan.model.log import Entry, EntryKind, Laid, Mark
from gwiazda.core.plan.model.loom import Hub, Lead, Loom, Passage, WireColour
from gwiazda.core.plan.model.opening import Count, Feature, Lens, Opening, Purpose, Shape, TintCoat
from gwiazda.core.plan.model.plan import GROUP_OF, GROUPS, PLAN_VERSION, Item, Placed, Plan, Timed
from gwiazda.core.plan.model.section import (
    Box,
    Closing,
    Closure,
    FaceLining,
    Glue,
    Layer,
    Obstacle,
    Outline,
    Patch,
    School,
    Seam,
    Section,
)
from gwiazda.core.plan.model.variant import Variant

__all__ = [
    "BRANCHING", "GROUPS", "GROUP_OF", "LIMIT_MM", "PLAN_VERSION", "Awake", "Bench", "Blink", "Board", "Box",
    "Bundle", "Carrier", "CarrierForm", "Channel", "Chase", "Closing", "Closure", "Count", "Counter", "Cue", "Does", "Done", "Dot", "DotColour",
    "Drawer", "Drawing", "Effort", "Entry", "EntryKind", "FaceLining", "Fade", "Feature", "Feed", "Fitting", "Flashes",
    "Flicker", "Fuse", "Glue", "Hangs", "Head", "Hub", "Hung", "Item", "Kind", "Kit", "Laid", "Lamp", "Layer", "Lead", "Lens", "Load",
    "Look", "Loom", "Mark", "Model", "Node", "Obstacle", "Opening", "Orders", "Outline", "OwnStep", "Panel", "Parallel",
    "Passage", "Patch", "Pattern", "Placed", "Plan", "Point", "Point2", "Pulse", "Purpose", "Regulated", "Resistor",
    "Room", "School", "Seal", "Seam", "Section", "SectionOrder", "Series", "Shape", "Sound", "Stages", "Steady",
    "Steps", "Supply", "Switch", "Switched", "Timed", "Tint", "TintCoat", "Trigger", "Variant", "View", "Wanted", "Wire",
    "WireColour", "altered", "lamps_in", "parts_in",
]  # fmt: skip
