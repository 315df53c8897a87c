"""What an assessment says, item by item. Frozen; SI units, millimetres for lengths."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import numpy.typing as npt

from gwiazda.core.plan.models import Room as ViewingRoom

Array = npt.NDArray[np.float64]
State = Literal["fine", "look", "stop"]


@dataclass(frozen=True)
class LampState:
    """A lamp as it will burn. ``wanted_share`` and ``share`` count in the light at the rated current."""

    id: str
    part: str
    section: str | None
    rung: str
    channel: str
    current_a: float
    wanted_a: float
    rated_a: float
    forward_v: float
    resistor_ohm: float
    flux_lm: float
    axial_cd: float
    share: float
    wanted_share: float
    rgb: tuple[float, float, float]
    colour: str


@dataclass(frozen=True)
class RungState:
    """A string with its resistor."""

    id: str
    lamps: tuple[str, ...]
    wanted_a: float
    needed_ohm: float
    resistor_ohm: float
    chosen: bool
    headroom_v: float
    current_a: float
    resistor_w: float


@dataclass(frozen=True)
class SectionState:
    """A section's windows: mean luminance (cd/m²) reached and wanted, darkest over mean."""

    id: str
    area_m2: float
    reflectance: float
    flux_lm: float
    mean_cd_m2: float
    wanted_cd_m2: float
    evenness: float | None
    darkest: str | None
    lit: int
    openings: int
    lamps: int


@dataclass(frozen=True)
class OpeningState:
    id: str
    section: str
    luminance_cd_m2: float


@dataclass(frozen=True)
class SupplyState:
    """The supply under load. ``hours`` is infinite for an adapter."""

    name: str
    nominal_v: float
    terminal_v: float
    draw_a: float
    limit_a: float
    is_battery: bool
    hours: float = float("inf")
    ends: str = ""
    first_out: str = ""
    curve_hours: Array = field(default_factory=lambda: np.zeros(0))
    curve_light: Array = field(default_factory=lambda: np.zeros(0))
    curve_terminal_v: Array = field(default_factory=lambda: np.zeros(0))
    curve_colours: Mapping[str, Array] = field(default_factory=dict)


@dataclass(frozen=True)
class Meter:
    """One of the figures under the plate. ``value`` None means: nothing to say yet."""

    id: str
    label: str
    value: float | None
    text: str
    unit: str
    note: str
    state: State
    fill: float
    subject: str = ""


@dataclass(frozen=True)
class Assessment:
    """All that the core computed for one plan."""

    lamps: Mapping[str, LampState]
    rungs: Mapping[str, RungState]
    sections: Mapping[str, SectionState]
    openings: Mapping[str, OpeningState]
    supply: SupplyState
    meters: tuple[Meter, ...]
    room: ViewingRoom
    hull_cd_m2: float
    hull_reflectance: float
