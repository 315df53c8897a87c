"""What the modeller decides: frozen models, one file a subject. A change makes a new Plan (see ``plan.edits``)."""

from gwiazda.core.plan.model.base import LIMIT_MM, Model, Point, Point2, altered
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
from gwiazda.core.plan.model.kit import Drawing, Effort, Kind, Kit, Room, View
from gwiazda.core.plan.model.lamp import Lamp, Look, Tint, Wanted
from gwiazda.core.plan.model.opening import Count, Feature, Opening, Purpose, Shape, TintCoat
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
    "BRANCHING", "GROUPS", "LIMIT_MM", "PLAN_VERSION", "Box", "Closing", "Closure", "Count", "Drawer", "Drawing", "Effort",
    "FaceLining", "Feature", "Feed", "Fuse", "Glue", "Hangs", "Head", "Hung", "Item", "Kind", "Kit", "Lamp", "Layer", "Load",
    "Look", "Model", "Node", "Obstacle", "Opening", "Outline", "Parallel", "Patch", "Plan", "Point", "Point2", "Purpose",
    "Regulated", "Resistor", "Room", "School", "Seam", "Section", "Series", "Shape", "Supply", "Switch", "Switched", "Tint",
    "TintCoat", "View", "Wanted", "Wire", "altered", "lamps_in", "parts_in",
]  # fmt: skip
