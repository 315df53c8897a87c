"""Named alternatives: a section, or a circuit, as it was or might be, kept beside the one that is built."""

from typing import Any, Literal

from msgspec import field

from gwiazda.core.plan.model.assembly import Moment, Text
from gwiazda.core.plan.model.base import Id, Model, Name80


class Variant(Model, frozen=True, kw_only=True):
    """An alternative of what ``subject`` names. ``pieces`` are those of a plan file, of the version they name: the section with all in it
    and what hangs it on its source, or the feed. They hold ids that the plan has too, so they are no items of the plan; read by
    ``edits.variants``. ``chosen``, ``reason``: whether it was decided for, and why.
    """

    id: Id
    name: Name80
    of: Literal["section", "circuit"] = "section"
    subject: Id
    at: Moment = ""
    reason: Text = ""
    chosen: bool = False
    pieces: dict[str, Any] = field(default_factory=dict)
