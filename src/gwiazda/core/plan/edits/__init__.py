"""Edits: Plan → Plan, one file a subject. Each shares everything it did not touch; the gate checks what is new."""

from gwiazda.core.plan.edits.circuit import (
    add_feed,
    drop_feed,
    feed_of,
    hang_on,
    reverse,
    set_feed,
    set_resistor,
    set_supply,
    wire_in_series,
    wire_side_by_side,
    wire_singly,
)
from gwiazda.core.plan.edits.features import (
    add_feature,
    assign_feature,
    drop_feature,
    set_feature,
    set_feature_look,
    take_count,
)
from gwiazda.core.plan.edits.fibre import (
    add_dots,
    add_panel,
    feed_fibres,
    fibre_lamp,
    fill_panel,
    panel_place,
    pin,
    resize_panel,
    row_of_dots,
    set_bundle,
)
from gwiazda.core.plan.edits.items import (
    delete,
    duplicate,
    fresh_ids,
    inside_of,
    move,
    replace,
    revise,
    set_axis,
    set_fields,
    taken_ids,
)
from gwiazda.core.plan.edits.kit import set_drawer, set_kit, set_room
from gwiazda.core.plan.edits.lamps import add_lamp, set_wanted
from gwiazda.core.plan.edits.loom import add_hub, add_passage, set_lead, set_loom
from gwiazda.core.plan.edits.openings import add_openings, add_row, window
from gwiazda.core.plan.edits.sections import add_section, box_section, outline_from_box, skin_place, wall_place
from gwiazda.core.plan.edits.tree import (
    group_switch,
    hang_into,
    keep_first,
    own_source,
    parts_of,
    put_before,
    put_into,
    regulate,
    set_pair,
    set_part,
    split,
    take_out,
)

__all__ = [
    "add_dots", "add_feature", "add_feed", "add_hub", "add_lamp", "add_openings", "add_panel", "add_passage",
    "add_row", "add_section", "assign_feature", "box_section", "delete", "drop_feature", "drop_feed", "duplicate",
    "feed_fibres", "feed_of", "fibre_lamp", "fill_panel", "fresh_ids", "group_switch", "hang_into", "hang_on",
    "inside_of", "keep_first", "move", "outline_from_box", "own_source", "panel_place", "parts_of", "pin",
    "put_before", "put_into", "regulate", "replace", "resize_panel", "reverse", "revise", "row_of_dots", "set_axis",
    "set_bundle", "set_drawer", "set_feature", "set_feature_look", "set_feed", "set_fields", "set_kit", "set_lead",
    "set_loom", "set_pair", "set_part", "set_resistor", "set_room", "set_supply", "set_wanted", "skin_place", "split",
    "take_count", "take_out", "taken_ids", "wall_place", "window", "wire_in_series", "wire_side_by_side",
    "wire_singly",
]  # fmt: skip
