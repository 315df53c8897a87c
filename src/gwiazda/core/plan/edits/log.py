"""Edits of the log."""

from __future__ import annotations

from typing import Any

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits.items import copy_checked, fresh_ids
from gwiazda.core.plan.model import Laid, Learned, LogEntry, PaneTold, Plan, copy_unchecked


def add_entry(plan: Plan, kind: str, text: str = "", **fields: Any) -> tuple[Plan, str]:
    """A line of the log; returns the plan and its id. One without words or value is refused."""
    if kind != "reading" and not text.strip() and fields.get("value") is None and not fields.get("photo"):
        raise PlanError("Log", "there is nothing to write down", "a few words")
    new_id = fresh_ids(plan, "log")[0]
    if kind == "reading":
        entry = LogEntry(
            id=new_id,
            kind="reading",
            what=fields["what"],
            place=fields["place"],
            value=float(fields["value"]),
            text=text,
        )
        fields = {k: v for k, v in fields.items() if k not in ("what", "place", "value")}
        return copy_unchecked(plan, log=(*plan.log, copy_checked(entry, **fields))), new_id
    entry = copy_checked(LogEntry(id=new_id), kind=kind, text=text.strip(), **fields)
    return copy_unchecked(plan, log=(*plan.log, entry)), new_id


def settle_readings(plan: Plan) -> Plan:
    """All readings as of the time before: the fault is mended, and what comes next is read anew."""
    return copy_unchecked(
        plan, log=tuple(copy_unchecked(e, settled=True) if e.kind == "reading" else e for e in plan.log)
    )


def lay_photo(plan: Plan, entry_id: str, laid: Laid | None) -> Plan:
    """How the photo of an entry lies on a view; None takes it off again."""
    return copy_unchecked(
        plan, log=tuple(copy_checked(e, laid=laid) if e.id == entry_id and e.photo else e for e in plan.log)
    )


def learn(plan: Plan, learned: tuple[Learned, ...]) -> Plan:
    """What readings taught, in place of what they had taught before; nothing takes all of it back."""
    return copy_unchecked(plan, learned=learned)


def photo_told(plan: Plan, entry_id: str, told: tuple[PaneTold, ...]) -> Plan:
    """What the photo of an entry says of openings."""
    return copy_unchecked(
        plan, log=tuple(copy_checked(e, told=told) if e.id == entry_id and e.photo else e for e in plan.log)
    )


def set_exposure(plan: Plan, entry_id: str, exposure: float | None) -> Plan:
    """How much light the photo of an entry took in."""
    return copy_unchecked(
        plan, log=tuple(copy_checked(e, exposure=exposure) if e.id == entry_id and e.photo else e for e in plan.log)
    )


def use_curve(plan: Plan, curve: tuple[float, float, float] | None) -> Plan:
    """A camera's curve for all photos that are laid on a view; None takes it off again."""
    return copy_unchecked(
        plan,
        log=tuple(
            copy_checked(e, laid=copy_checked(e.laid, curve=curve)) if e.laid is not None and e.laid.marks else e
            for e in plan.log
        ),
    )


def reword(plan: Plan, entry_id: str, text: str) -> Plan:
    """Other words for an entry."""
    return copy_unchecked(plan, log=tuple(copy_checked(e, text=text) if e.id == entry_id else e for e in plan.log))
