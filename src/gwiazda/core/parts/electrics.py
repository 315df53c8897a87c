"""Electric parts of the catalogue but lamps: sources, regulators, what switches and drives, sockets, boards, loads, wires."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Literal, NamedTuple

from gwiazda.core.parts.tables import Basis


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


class WirePart(NamedTuple):
    """A wire by its gauge and the diameter over its insulation (mm)."""

    id: str
    name: str
    kind: Literal["enamelled", "wrapping", "stranded"]
    awg: int
    outside_mm: float
    basis: Basis = "typical"
