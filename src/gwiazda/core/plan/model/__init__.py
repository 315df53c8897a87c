"""What the modeller decides: frozen models, one file a subject. A change makes a new Plan (see ``plan.edits``)."""

from gwiazda.core.plan.model.base import LIMIT_MM, Model, Point, Point2, altered
from gwiazda.core.plan.model.circuit import (
    Drawer,
    Feed,
    Fuse,
    Hangs,
    Hung,
    Parallel,
    Resistor,
    Series,
    Supply,
    Switch,
    lamps_in,
)
from gwiazda.core.plan.model.kit import Drawing, Effort, Kind, Kit, Room, View
from gwiazda.core.plan.model.lamp import Lamp, Look, Tint, Wanted
from gwiazda.core.plan.model.opening import Feature, Opening, Purpose, Shape, TintCoat
from gwiazda.core.plan.model.plan import GROUPS, PLAN_VERSION, Item, Plan
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

__all__ = [
    "GROUPS", "LIMIT_MM", "PLAN_VERSION", "Box", "Closing", "Closure", "Drawer", "Drawing", "Effort", "FaceLining",
    "Feature", "Feed", "Fuse", "Glue", "Hangs", "Hung", "Item", "Kind", "Kit", "Lamp", "Layer", "Look", "Model",
    "Obstacle", "Opening", "Outline", "Parallel", "Patch", "Plan", "Point", "Point2", "Purpose", "Resistor", "Room",
    "School", "Seam", "Section", "Series", "Shape", "Supply", "Switch", "Tint", "TintCoat", "View", "Wanted", "altered",
    "lamps_in",
]  # fmt: skip
