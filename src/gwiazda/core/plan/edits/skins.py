"""Edits of skins: coats, patches, seams."""

from __future__ import annotations

from typing import Literal

from gwiazda.core.errors import PlanError
from gwiazda.core.plan.edits import copy_checked, replace
from gwiazda.core.plan.frame import Face
from gwiazda.core.plan.lookup import section_of
from gwiazda.core.plan.model import FaceLining, Layer, Patch, Plan, Seam

Where = Literal["inside", "outside"]


def _set(plan: Plan, section_id: str, **fields: object) -> Plan:
    return replace(plan, {section_id: copy_checked(section_of(plan, section_id), **fields)})


def add_coats(plan: Plan, section_id: str, where: str, coat: str, count: int = 1) -> Plan:
    """More coats of a paint; onto the last layer where that is the same paint. Outside is ordered from the plastic out,
    inside from the plastic in."""
    layers: tuple[Layer, ...] = getattr(section_of(plan, section_id), where)
    if layers and layers[-1].coat == coat:
        last = copy_checked(layers[-1], coats=layers[-1].coats + count)
        return _set(plan, section_id, **{where: (*layers[:-1], last)})
    return _set(plan, section_id, **{where: (*layers, Layer(coat=coat, coats=count))})


def set_coats(plan: Plan, section_id: str, where: str, index: int, count: int) -> Plan:
    """So many coats of one layer; none takes it away."""
    layers: tuple[Layer, ...] = getattr(section_of(plan, section_id), where)
    if count <= 0:
        return _set(plan, section_id, **{where: tuple(x for i, x in enumerate(layers) if i != index)})
    changed = copy_checked(layers[index], coats=count)
    return _set(plan, section_id, **{where: tuple(changed if i == index else x for i, x in enumerate(layers))})


def move_layer(plan: Plan, section_id: str, where: str, index: int, step: int) -> Plan:
    """A layer one place further in or out."""
    layers = list(getattr(section_of(plan, section_id), where))
    other = index + step
    if not 0 <= other < len(layers):
        return plan
    layers[index], layers[other] = layers[other], layers[index]
    return _set(plan, section_id, **{where: tuple(layers)})


def line_face(plan: Plan, section_id: str, face: Face, lining: str) -> Plan:
    """Line one face otherwise than the rest; "" lines it as the rest again."""
    rest = tuple(x for x in section_of(plan, section_id).face_linings if x.face != face)
    mine = (FaceLining(face=face, lining=lining),) if lining else ()
    return _set(plan, section_id, face_linings=(*rest, *mine))


def _fresh(taken: tuple[str, ...], stem: str) -> str:
    number = 1
    while f"{stem}.{number:02d}" in taken:
        number += 1
    return f"{stem}.{number:02d}"


def add_patch(
    plan: Plan, section_id: str, face: Face, low: tuple[float, float], high: tuple[float, float], coat: str
) -> Plan:
    """Something laid on a part of a wall from inside, mm from the inner box's lowest corner."""
    section = section_of(plan, section_id)
    new_id = _fresh(tuple(p.id for p in section.patches), f"{section_id}.patch")
    try:
        patch = Patch(id=new_id, face=face, low=low, high=high, coat=coat)
    except ValueError:
        raise PlanError("Patch", "it has no size", "a patch of some width and height") from None
    return _set(plan, section_id, patches=(*section.patches, patch))


def drop_patch(plan: Plan, section_id: str, patch_id: str) -> Plan:
    section = section_of(plan, section_id)
    return _set(plan, section_id, patches=tuple(p for p in section.patches if p.id != patch_id))


def add_seam(plan: Plan, section_id: str, face: Face, gap_mm: float = 0.1) -> Plan:
    """The joint round one face."""
    section = section_of(plan, section_id)
    new_id = _fresh(tuple(s.id for s in section.seams), f"{section_id}.seam")
    return _set(plan, section_id, seams=(*section.seams, Seam(id=new_id, face=face, gap_mm=gap_mm)))


def set_seam(plan: Plan, section_id: str, seam_id: str, **fields: object) -> Plan:
    section = section_of(plan, section_id)
    seams = tuple(copy_checked(s, **fields) if s.id == seam_id else s for s in section.seams)
    return _set(plan, section_id, seams=seams)


def bridge(plan: Plan, section_id: str, seam_id: str, coat: str) -> Plan:
    """Cover a seam from inside; "" bares it again."""
    return set_seam(plan, section_id, seam_id, bridged=coat)


def drop_seam(plan: Plan, section_id: str, seam_id: str) -> Plan:
    section = section_of(plan, section_id)
    return _set(plan, section_id, seams=tuple(s for s in section.seams if s.id != seam_id))
