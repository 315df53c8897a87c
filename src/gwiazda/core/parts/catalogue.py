"""The generic catalogue: lamps, diode families, sources, glazings, linings and plastics, read from data files.

Every entry carries ``basis``: ``typical`` (house value) or ``measured`` (the user's own).
"""

from __future__ import annotations

import difflib
import json
from collections.abc import Iterable
from functools import cache
from importlib import resources
from typing import Any, Literal, TypeVar

from pydantic import BaseModel, ConfigDict, Field

from gwiazda.core.errors import PlanError

Basis = Literal["typical", "measured"]


class Part(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")
    id: str
    name: str = ""
    basis: Basis = "typical"


class Family(Part):
    """Diode parameters from two data-sheet points; see ``circuit.diode``."""

    v20_v: float
    v1_v: float
    rs_ohm: float
    spread_v: float
    k: float


class LampPart(Part):
    """A lamp of a standard body: size in mm, full beam angle in degrees, axial intensity at rated current."""

    form: Literal["chip", "round", "flat-top", "tube-tipped"]
    size_mm: tuple[float, float, float]
    lens: Literal["clear", "frosted"]
    colour: str
    family: str
    spectrum: dict[str, float]
    beam_deg: float = Field(gt=0, lt=180)
    rated_ma: float = Field(gt=0)
    axial_mcd: float = Field(gt=0)

    @property
    def face_mm(self) -> float:
        """Diameter of the lit face as seen from the front."""
        return min(self.size_mm[0], self.size_mm[1])


class SourcePart(Part):
    """A battery, or an adapter; fields that don't apply to its kind stay at their defaults."""

    kind: Literal["battery", "regulated", "unregulated"]
    nominal_v: float
    care: str = ""
    capacity_mah: float = 0.0
    i50_a: float = 1.0
    r_fresh_ohm: float = 0.0
    r_end_ohm: float = 0.0
    open_v: tuple[float, ...] = ()
    cutoff_v: float = 0.0
    rated_a: float = 0.0
    tolerance: float = 0.0
    use_share: float = 1.0
    adjustable: bool = False


class Glazing(Part):
    transmittance: float
    scattered: float
    reflectance: float


class Lining(Part):
    reflectance: float


class Plastic(Part):
    density_per_mm: float
    reflectance: float


P = TypeVar("P", bound=Part)


@cache
def _file(name: str) -> dict[str, Any]:
    text = resources.files("gwiazda.core.parts").joinpath("data", name).read_text(encoding="utf-8")
    data: dict[str, Any] = json.loads(text)
    return data


def _read(kind: type[P], name: str, key: str) -> dict[str, P]:
    return {row["id"]: kind.model_validate(row) for row in _file(name)[key]}


@cache
def families() -> dict[str, Family]:
    return _read(Family, "families.json", "families")


@cache
def lamp_parts() -> dict[str, LampPart]:
    return _read(LampPart, "lamps.json", "lamps")


@cache
def sources() -> dict[str, SourcePart]:
    return _read(SourcePart, "sources.json", "sources")


@cache
def discharge_depths() -> tuple[float, ...]:
    """Depths of discharge at which ``SourcePart.open_v`` is given."""
    return tuple(_file("sources.json")["depth"])


@cache
def glazings() -> dict[str, Glazing]:
    return _read(Glazing, "glazings.json", "glazings")


@cache
def linings() -> dict[str, Lining]:
    return _read(Lining, "linings.json", "linings")


@cache
def plastics() -> dict[str, Plastic]:
    return _read(Plastic, "plastics.json", "plastics")


def unknown(what: str, part: str, known: Iterable[str]) -> PlanError:
    """The error for a part the catalogue hasn't got, with the nearest names it has."""
    near = difflib.get_close_matches(part, list(known), n=3, cutoff=0.4) or list(known)[:3]
    return PlanError(what, f"the catalogue has no part “{part}”", "a catalogue part such as " + ", ".join(near))
