"""The generic catalogue: lamps, diode families, sources, glazings, linings and plastics, read from data files.

Every entry carries ``basis``: ``typical`` (house value) or ``measured`` (the user's own).
"""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from functools import cache
from pathlib import Path
from typing import Any, Literal, NamedTuple, TypeVar

from gwiazda.core.errors import PlanError

Basis = Literal["typical", "measured"]


class Family(NamedTuple):
    """Diode parameters from two data-sheet points; see ``circuit.diode``."""

    id: str
    v20_v: float
    v1_v: float
    rs_ohm: float
    spread_v: float
    k: float
    basis: Basis = "typical"


LampForm = Literal[
    "chip", "round", "flat-top", "tube-tipped", "rectangular", "square", "wedge", "block", "strip", "filament"
]


class LampPart(NamedTuple):
    """A lamp of a standard body: size in mm, full beam angle in degrees, axial intensity at rated current.

    A strip is given by its unit, the shortest length it can be cut to: ``leds`` in series behind ``inner_ohm``, units
    side by side in parallel. ``body`` names the body that lamps of several colours share, each colour a part of its
    own. ``rectified`` lamps have a bridge in the lead and light either way round. ``flash_hz`` and ``duty`` belong to
    lamps that flash by themselves.
    """

    id: str
    name: str
    form: LampForm
    size_mm: tuple[float, float, float]
    lens: Literal["clear", "frosted"]
    colour: str
    family: str
    spectrum: Mapping[str, float]
    beam_deg: float
    rated_ma: float
    axial_mcd: float
    basis: Basis = "typical"
    leds: int = 1
    inner_ohm: float = 0.0
    volts: float = 0.0  # what it is meant for, where resistors are built in
    body: str = ""
    rectified: bool = False
    flash_hz: float = 0.0
    duty: float = 1.0

    @property
    def face_mm(self) -> float:
        """Diameter of the lit face as seen from the front."""
        return min(self.size_mm[0], self.size_mm[1])


class SourcePart(NamedTuple):
    """A battery, or an adapter; fields that don't apply to its kind stay at their defaults."""

    id: str
    name: str
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
    basis: Basis = "typical"


class Glazing(NamedTuple):
    """Shares of light: through, scattered of what goes through, thrown back."""

    id: str
    name: str
    transmittance: float
    scattered: float
    reflectance: float
    basis: Basis = "typical"


class Lining(NamedTuple):
    """What the inside is finished with: diffuse reflectance, and optical density a coat."""

    id: str
    name: str
    reflectance: float
    density: float = 0.0
    basis: Basis = "typical"


class Coat(NamedTuple):
    """What blocks light: density a coat of paint, of a sheet whatever its number, or a mm of a mass like putty."""

    id: str
    name: str
    kind: Literal["paint", "sheet", "mass"]
    density: float
    reflectance: float
    dry_h: float = 0.0
    basis: Basis = "typical"
    spread: float = 0.0  # of the density, where it was measured


class Plastic(NamedTuple):
    """A kit's plastic: optical density for each mm of wall, diffuse reflectance outside."""

    id: str
    name: str
    density_per_mm: float
    reflectance: float
    basis: Basis = "typical"


P = TypeVar("P")


@cache
def _file(name: str) -> dict[str, Any]:
    text = (Path(__file__).parent / "data" / name).read_text(encoding="utf-8")
    data: dict[str, Any] = json.loads(text)
    return data


def _read(kind: Callable[..., P], name: str, key: str) -> dict[str, P]:
    """Entries by id; a field the kind hasn't got raises TypeError, so a data file can't drift from its class."""
    rows = _file(name)[key]
    return {r["id"]: kind(**{k: tuple(v) if isinstance(v, list) else v for k, v in r.items()}) for r in rows}


@cache
def built_in_lamps() -> dict[str, LampPart]:
    """The generic lamps alone."""
    return _read(LampPart, "lamps.json", "lamps")


_own_lamps: dict[str, LampPart] = {}
_own_families: dict[str, Family] = {}


@cache
def families() -> dict[str, Family]:
    """Diode families, the user's own among them."""
    return {**_read(Family, "families.json", "families"), **_own_families}


@cache
def lamp_parts() -> dict[str, LampPart]:
    """All lamps: the generic ones, and the user's own behind them."""
    return {**built_in_lamps(), **_own_lamps}


def own_lamps() -> dict[str, LampPart]:
    return dict(_own_lamps)


def set_own(lamps: Mapping[str, LampPart], own_families: Mapping[str, Family]) -> None:
    """Put the user's own lamps in place of those there were; assessments made before keep theirs."""
    _own_lamps.clear()
    _own_lamps.update(lamps)
    _own_families.clear()
    _own_families.update(own_families)
    families.cache_clear()
    lamp_parts.cache_clear()


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


_own_coats: dict[str, Coat] = {}


@cache
def coats() -> dict[str, Coat]:
    """Block coats and patches, the user's own measured ones behind the generic ones."""
    return {**_read(Coat, "coats.json", "coats"), **_own_coats}


def own_coats() -> dict[str, Coat]:
    return dict(_own_coats)


def set_own_coats(own: Mapping[str, Coat]) -> None:
    """Put the user's own coats in place of those there were."""
    _own_coats.clear()
    _own_coats.update(own)
    coats.cache_clear()


@cache
def plastics() -> dict[str, Plastic]:
    return _read(Plastic, "plastics.json", "plastics")


def unknown(what: str, part: str, known: Iterable[str]) -> PlanError:
    """The error for a part the catalogue hasn't got, with the nearest names it has."""
    import difflib

    near = difflib.get_close_matches(part, list(known), n=3, cutoff=0.4) or list(known)[:3]
    return PlanError(what, f"the catalogue has no part “{part}”", "a catalogue part such as " + ", ".join(near))
