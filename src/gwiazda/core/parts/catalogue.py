"""The generic catalogue: lamps, diode families, sources, glazings, linings and materials, read from data files.

Every entry carries ``basis``: ``typical`` (house value) or ``measured`` (the user's own).
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from types import MappingProxyType
from typing import Any, Literal, NamedTuple, TypeVar

from gwiazda.core.colour.hue import Wall
from gwiazda.core.errors import PlanError
from gwiazda.core.light.photometry import Droop
from gwiazda.core.light.scatter import Film, kubelka_munk
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.lights import LightKind, LightMeans

Basis = Literal["typical", "measured"]


class Family(NamedTuple):
    """Diode parameters from two data-sheet points; see ``circuit.diode``."""

    id: str
    v20_v: float
    v1_v: float
    rs_ohm: float
    spread_v: float
    k: float
    knee: float = 0.0
    k_low: float = 1.0
    basis: Basis = "typical"

    @property
    def droop(self) -> Droop:
        """How its light goes with the current."""
        return Droop(self.k, self.knee, self.k_low)


class LampForm(NamedTuple):
    """A form of lamp body.

    ``leads_mm``: room its leads take behind it. ``picture``: how it is drawn. ``domed``: a half ball before the die.
    ``moulded``: clear plastic over the die that can be filed. ``round_face``: seen round from the front. ``pads``: soldered
    by pads. ``long``: lies along something; ``in_units``: cut to units; ``emitters``: places along it that light comes
    from, 0 for one each diode. ``on_wall``: sits on a wall, with no hole. ``one_diode``: what is read over it is one diode's.
    ``back_clear``, ``back_frosted``: share of its light that leaves backwards, into the section behind the wall it is pushed through;
    ``back_sides`` of a chip in a hole of its own.
    ``plus``: how one tells which end is plus, and ``plus_at`` what on it shows that.
    """

    id: str
    name: str
    leads_mm: float
    picture: Literal["chip", "dome", "block", "wedge", "strip", "filament"]
    domed: bool = False
    moulded: bool = False
    round_face: bool = False
    pads: bool = False
    long: bool = False
    in_units: bool = False
    emitters: int = 1
    on_wall: bool = False
    one_diode: bool = True
    back_clear: float = 0.0
    back_frosted: float = 0.0
    back_sides: float = 0.0
    plus: str = ""
    plus_at: Literal["leg", "mark", "sign", "tab", ""] = ""
    bend_mm: float = 0.0  # the tightest it may be bent along itself, radius; never sideways; 0: not at all


@memoize_by_value()
def lamp_forms() -> Mapping[str, LampForm]:
    """All forms, by id."""
    text = (Path(__file__).parent / "data" / "lamp_forms.json").read_text(encoding="utf-8")
    return MappingProxyType(_read(LampForm, json.loads(text)["lamp_forms"]))


class LampPart(NamedTuple):
    """A lamp of a standard body: size in mm, full beam angle in degrees, axial intensity at rated current.

    ``flux_lm`` is all of its light where the body throws more than its beam (a dome sends part of it sideways); 0 where
    the beam is all.

    A strip is given by its unit, the shortest length it can be cut to: ``leds`` in series behind ``inner_ohm``, units
    side by side in parallel. ``body`` names the body that lamps of several colours share, each colour a part of its
    own. ``rectified`` lamps have a bridge in the lead and light either way round. ``flash_hz`` and ``duty`` belong to
    lamps that flash by themselves.
    """

    id: str
    name: str
    form: str
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
    flux_lm: float = 0.0
    lump_mm: float = 0.0  # how thick the rectifier or resistor in its leads is; 0: there is none
    leads_mm: float = 0.0  # how long the leads it comes with are; 0: it is soldered to
    lead: str = ""  # which wire they are of, where they are

    @property
    def shape(self) -> LampForm:
        """What its form is like."""
        return lamp_forms()[self.form]

    @property
    def plus(self) -> str:
        """How one tells which end is plus, in words for the bench."""
        if self.rectified:
            return "either way round: the rectifier in its lead sees to it"
        if self.body:
            return "its colours share a leg: see its data sheet, or try each on a cell behind a resistor"
        told = self.shape.plus
        return told if self.shape.plus_at == "sign" else f"{told}; a meter on its diode range tells"

    @property
    def face_mm(self) -> float:
        """Diameter of the lit face as seen from the front."""
        return min(self.size_mm[0], self.size_mm[1])


class SourcePart(NamedTuple):
    """A battery, or an adapter; fields that don't apply to its kind stay at their defaults."""

    id: str
    name: str
    kind: Literal["battery", "regulated", "unregulated", "ac"]
    nominal_v: float
    care: str = ""
    charging: str = ""  # the caution where its cells are charged again
    capacity_mah: float = 0.0
    i50_a: float = 1.0
    lost_a_year: float = 0.0  # share that it loses by itself
    r_fresh_ohm: float = 0.0
    r_end_ohm: float = 0.0
    open_v: tuple[float, ...] = ()
    cutoff_v: float = 0.0
    rated_a: float = 0.0
    tolerance: float = 0.0
    use_share: float = 1.0
    adjustable: bool = False
    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)  # of one cell; an adapter stays outside
    holder_mm: tuple[float, float, float] = (
        0.0,
        0.0,
        0.0,
    )  # longer than its cells, wider once, wider and higher a cell
    weight_g: float = 0.0
    ac_v: float = (
        0.0  # of an alternating one, effective; ``nominal_v`` is the mean of what a rectifier makes of it, 0.9 of that
    )
    socket: str = ""  # of an adapter: what its plug goes into
    cost: int = 0  # 1 little, 2 some, 3 much
    basis: Basis = "typical"


class RegulatorPart(NamedTuple):
    """A linear regulator: what it needs to spare (V), takes itself (A), gives at most (A), and how warm a watt makes it."""

    id: str
    name: str
    dropout_v: float
    quiescent_a: float
    limit_a: float
    theta_k_w: float
    least_v: float = 1.25
    most_v: float = 24.0
    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    basis: Basis = "typical"


class DrivePart(NamedTuple):
    """What switches lamps. A ``pin`` gives its rail's voltage (``volts``, or that of the rail it is on, less ``drop_v``)
    behind ``ohms``; an ``npn`` or ``mosfet`` stage and a ``relay`` sit in the way of the current, with their ``ohms``.

    ``limit_a`` is what one should use, ``most_a`` never to be passed, ``total_a`` of all outputs of one chip.
    """

    id: str
    name: str
    kind: Literal["pin", "npn", "mosfet", "relay"]
    limit_a: float
    most_a: float
    volts: float = 0.0
    drop_v: float = 0.0
    ohms: float = 0.0
    total_a: float = 0.0
    own_a: float = 0.0
    gain: float = 150.0
    needs_v: float = 0.0
    coil_ohm: float = 0.0
    basis: Basis = "typical"


class SwitchPart(NamedTuple):
    """A switch by how it is worked: what its contact bears (A, W), its hole, and from how far (mm) which magnet closes a reed."""

    id: str
    name: str
    size_mm: tuple[float, float, float]
    limit_a: float
    most_w: float = 0.0
    hole_mm: float = 0.0
    into_wall: int = 0  # which of its sizes goes into the wall, 1 to 3; 0: it needs none
    reach_mm: Mapping[str, float] = MappingProxyType({})
    about: str = ""
    basis: Basis = "typical"


class SocketPart(NamedTuple):
    """A socket that an adapter's plug goes into: the first of its sizes goes into the wall; its hole, and what its plug wants outside, mm."""

    id: str
    name: str
    size_mm: tuple[float, float, float]
    hole_mm: float
    plug_mm: float
    about: str = ""
    into_wall: int = 1
    basis: Basis = "typical"


class BoardPart(NamedTuple):
    """What drives channels: so many outputs, each a ``drive``; ``dims`` of them can dim, in 2**``bits`` steps at ``pwm_hz``;
    ``most_hz`` are the changes a second it follows."""

    id: str
    name: str
    kind: Literal["flasher", "chaser", "controller", "relay", "timer", "counter"]
    outputs: int
    drive: str
    dims: int = 0
    bits: int = 1
    pwm_hz: float = 0.0
    most_hz: float = 100.0
    own_a: float = 0.0
    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    basis: Basis = "typical"


class Prototype(NamedTuple):
    """A ready pattern: ``does`` as in a plan file, the ``rule`` it follows, the ``kind`` of kit it belongs to (empty: any)."""

    id: str
    name: str
    kind: str
    rule: str
    does: Mapping[str, Any]


class Adhesive(NamedTuple):
    """What holds: hours until handled, built upon, fully cured; what it attacks and how, where it is weak, and what it is the usual
    choice for (body, clear, fibre, lamp, wire, paint, moving parts); how it comes apart again."""

    id: str
    name: str
    handle_h: float
    next_h: float
    full_h: float
    takes_apart: str
    attacks: Mapping[str, str] = MappingProxyType({})
    weak: tuple[str, ...] = ()
    first_for: tuple[str, ...] = ()
    care: str = ""
    bonds: tuple[str, ...] = ()  # all it holds, where it melts one material only; empty for most things
    needs_light: bool = False  # sets only where light reaches the joint
    mind: str = ""  # the caution at its use


class WorkPart(NamedTuple):
    """A kind of step of a build: minutes for each of what it counts, to set up, hours left alone; ``care`` names the caution."""

    id: str
    name: str
    each_min: float = 0.0
    set_min: float = 0.0
    wait_h: float = 0.0
    care: str = ""


class LoadPart(NamedTuple):
    """A motor or sound module: current (A) while it runs at its voltage, idle, and held fast; speed with no load.

    ``geared``: it has gears of its own, and takes about the same current at any speed.
    """

    id: str
    name: str
    kind: Literal["motor", "sound"]
    volts: float
    running_a: float
    idle_a: float = 0.0
    stall_a: float = 0.0
    rpm: float = 0.0
    least_v: float = 0.0
    geared: bool = False
    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    basis: Basis = "typical"


class DrillPart(NamedTuple):
    """A drill of one's own, of a size that no table has; ``diameter_mm``."""

    id: str
    name: str
    diameter_mm: float
    basis: Basis = "typical"


class FibrePart(NamedTuple):
    """A bare optical fibre; ``tint`` is the colour of its body, empty for a clear one."""

    id: str
    name: str
    diameter_mm: float
    tint: str = ""
    basis: Basis = "typical"


class WirePart(NamedTuple):
    """A wire by its gauge and the diameter over its insulation (mm)."""

    id: str
    name: str
    kind: Literal["enamelled", "wrapping", "stranded"]
    awg: int
    outside_mm: float
    basis: Basis = "typical"


class Glazing(NamedTuple):
    """Shares of light: through, scattered of what goes through, thrown back; ``straight`` through, seen straight on (as
    the diffuse share where it is left at 0)."""

    id: str
    name: str
    transmittance: float
    scattered: float
    reflectance: float
    straight: float = 0.0
    bought: str = ""  # what it is cut from; “liquid” where it is filled in
    basis: Basis = "typical"


class LensPart(NamedTuple):
    """What a lens is made from: its light as a glazing's, refractive index, dome (height over width) as it usually comes out, minutes of
    hands on, and hours of curing, once and for each mm of dome."""

    id: str
    name: str
    transmittance: float
    scattered: float
    reflectance: float
    straight: float
    refraction: float
    dome: float
    each_min: float
    wait_h: float = 0.0
    wait_h_mm: float = 0.0
    basis: Basis = "typical"


class SheetPart(NamedTuple):
    """A sheet that carriers are cut from, or the walls of a printed one; minutes to cut, drill and glue a piece."""

    id: str
    name: str
    thick_mm: float
    piece_min: float
    basis: Basis = "typical"


class Lining(NamedTuple):
    """What the inside is finished with: coats of a paint or a sheet; the bare plastic where ``coat`` is empty."""

    id: str
    name: str
    coat: str


class Coat(NamedTuple):
    """What blocks light, a coat of paint, a sheet, or a mm of a mass like putty.

    Whites scatter (``scatter``, ``absorb`` for each coat or mm), the others absorb (``density``, with the diffuse
    ``reflectance`` of the dry coat). ``spread`` is one sigma of the density, as a share, where it was measured.
    """

    id: str
    name: str
    kind: Literal["paint", "sheet", "mass"]
    density: float
    reflectance: float
    dry_h: float = 0.0
    basis: Basis = "typical"
    spread: float = 0.0
    scatter: float = 0.0
    absorb: float = 0.0
    conducts: bool = False

    def film(self, count: int, thickness_mm: float = 1.0) -> Film:
        """So many coats of it, a sheet of it, or so many mm."""
        amount = {"paint": float(count), "sheet": 1.0, "mass": thickness_mm}[self.kind]
        sigma = self.spread / self.density if self.spread and self.density else COAT_SPREAD
        if self.scatter > 0.0:
            t, r = kubelka_munk(self.scatter, self.absorb, amount)
            return Film(t, r, True, sigma * (1.0 - t) / LN10)
        t = 10.0 ** -(self.density * amount)
        return Film(t, min(self.reflectance, 1.0 - t), False, sigma * self.density * amount)


class MaterialKind(NamedTuple):
    """What materials of a kind have in common at the bench: whether they conduct, from where on they soften beside a joint (°C; 0: they
    don't), how long a hole takes against one in plastic, what to mind, and how else they are joined."""

    id: str
    name: str
    conducts: bool = False
    softens_c: float = 0.0
    softening: str = ""
    drill_times: float = 1.0
    drilling: str = ""
    joining: str = ""
    care: str = ""
    closings: tuple[str, ...] = ()  # that only this kind can have


@memoize_by_value()
def material_kinds() -> Mapping[str, MaterialKind]:
    """All kinds of material, by id."""
    text = (Path(__file__).parent / "data" / "materials.json").read_text(encoding="utf-8")
    return MappingProxyType(_read(MaterialKind, json.loads(text)["kinds"]))


class Material(NamedTuple):
    """What a kit or a part of it is made of: what a wall lets through, and its diffuse reflectance outside. ``colour`` is the tint its light
    takes on (empty for a grey or a white), ``strength`` how much of it, 0 to 1."""

    id: str
    name: str
    kind: str
    density_per_mm: float
    reflectance: float
    basis: Basis = "typical"
    surface_density: float = 0.0
    scatter_per_mm: float = 0.0
    absorb_per_mm: float = 0.0
    colour: str = ""
    strength: float = 0.0

    @property
    def made(self) -> MaterialKind:
        """What its kind is like."""
        return material_kinds()[self.kind]

    @property
    def said(self) -> str:
        """Its name as one says it: plastics are known by their colour."""
        return f"{self.name} plastic" if self.kind == "plastic" else self.name

    def hue(self, wall_mm: float) -> Wall:
        """A wall of it as what colours light."""
        return Wall(self.density_per_mm, self.scatter_per_mm, self.absorb_per_mm, self.colour, self.strength, wall_mm)

    def film(self, wall_mm: float) -> Film:
        """A wall of it."""
        if self.scatter_per_mm > 0.0:
            t, r = kubelka_munk(self.scatter_per_mm, self.absorb_per_mm, wall_mm)
            return Film(t, r, True, MATERIAL_SPREAD * (1.0 - t) / LN10)
        density = self.surface_density + self.density_per_mm * wall_mm
        t = 10.0**-density
        return Film(t, min(self.reflectance, 1.0 - t), False, MATERIAL_SPREAD * density)

    @property
    def outside(self) -> float:
        """Diffuse reflectance as seen from outside."""
        return self.film(3.0).reflectance if self.scatter_per_mm > 0.0 else self.reflectance


# One sigma of a density, of its typical value: of a coat (by the hand that lays it on), of a material (by the batch).
COAT_SPREAD, MATERIAL_SPREAD = 0.25, 0.15
LN10 = math.log(10.0)


P = TypeVar("P")


def _read(kind: Callable[..., P], rows: Iterable[Mapping[str, Any]]) -> dict[str, P]:
    """Entries by id; a field the kind hasn't got raises TypeError, so a data file can't drift from its class."""
    return {r["id"]: kind(**{k: tuple(v) if isinstance(v, list) else v for k, v in r.items()}) for r in rows}


@dataclass(frozen=True, eq=False)
class Catalogue:
    """All parts by id: a value that never changes. Another part makes another catalogue.

    ``depths`` are the depths of discharge at which ``SourcePart.open_v`` is given; ``own`` names the ids that are the
    user's.
    """

    families: Mapping[str, Family]
    lamps: Mapping[str, LampPart]
    sources: Mapping[str, SourcePart]
    glazings: Mapping[str, Glazing]
    linings: Mapping[str, Lining]
    coats: Mapping[str, Coat]
    materials: Mapping[str, Material]
    regulators: Mapping[str, RegulatorPart]
    drives: Mapping[str, DrivePart]
    loads: Mapping[str, LoadPart]
    fibres: Mapping[str, FibrePart]
    wires: Mapping[str, WirePart]
    boards: Mapping[str, BoardPart]
    prototypes: Mapping[str, Prototype]
    work: Mapping[str, WorkPart]
    cares: Mapping[str, str]
    adhesives: Mapping[str, Adhesive]
    lenses: Mapping[str, LensPart]
    sheets: Mapping[str, SheetPart]
    switches: Mapping[str, SwitchPart]
    sockets: Mapping[str, SocketPart]
    drills: Mapping[str, DrillPart]
    light_kinds: Mapping[str, LightKind]
    light_means: Mapping[str, LightMeans]
    depths: tuple[float, ...]
    own: frozenset[str] = frozenset()
    resistors: tuple[float, ...] = ()  # Ω, rising: what the user has in stock

    def switch(self, kind: str) -> SwitchPart:
        """A switch of a kind; a slide switch where the kind isn't known here."""
        return self.switches.get(kind) or self.switches["slide"]

    def with_own(self, own: Mapping[str, Mapping[str, Any]], resistors: tuple[float, ...] = ()) -> Catalogue:
        """A catalogue with the user's own behind the generic ones: entries by table (“lamps”, “sources”) and id; ``resistors`` (Ω) are those
        in stock, rising."""
        tables = {name: MappingProxyType({**getattr(self, name), **more}) for name, more in own.items() if more}
        return replace(self, **tables, own=frozenset(i for more in own.values() for i in more), resistors=resistors)  # type: ignore[arg-type]


@memoize_by_value()
def built_in() -> Catalogue:
    """The generic parts alone."""

    def table(name: str, kind: Callable[..., P], key: str = "") -> Mapping[str, P]:
        text = (Path(__file__).parent / "data" / f"{name}.json").read_text(encoding="utf-8")
        data = json.loads(text)
        return MappingProxyType(_read(kind, data[key or name]))

    def cares() -> Mapping[str, str]:
        data = json.loads((Path(__file__).parent / "data" / "work.json").read_text(encoding="utf-8"))
        return MappingProxyType(data["cares"])

    depths = json.loads((Path(__file__).parent / "data" / "sources.json").read_text(encoding="utf-8"))["depth"]
    return Catalogue(
        table("families", Family), table("lamps", LampPart), table("sources", SourcePart), table("glazings", Glazing),
        table("linings", Lining), table("coats", Coat), table("materials", Material), table("regulators", RegulatorPart),
        table("drives", DrivePart), table("loads", LoadPart), table("fibres", FibrePart), table("wires", WirePart),
        table("boards", BoardPart), table("prototypes", Prototype),
        table("work", WorkPart, "steps"), cares(), table("adhesives", Adhesive),
        table("lenses", LensPart), table("sheets", SheetPart), table("switches", SwitchPart), table("sockets", SocketPart), MappingProxyType({}), table("light_kinds", LightKind),
        table("light_means", LightMeans), tuple(depths),
    )  # fmt: skip


def unknown(what: str, part: str, known: Iterable[str]) -> PlanError:
    """The error for a part the catalogue hasn't got, with the nearest names it has."""
    import difflib

    near = difflib.get_close_matches(part, list(known), n=3, cutoff=0.4) or list(known)[:3]
    return PlanError(what, f"the catalogue has no part “{part}”", "a catalogue part such as " + ", ".join(near))
