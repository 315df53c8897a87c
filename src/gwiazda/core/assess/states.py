"""What an assessment says, item by item. Frozen; SI units, millimetres for lengths.

Named tuples and not dataclasses: they are made at every start, and take a tenth of the time.
"""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import TYPE_CHECKING, Literal, NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.aims import Looks, looks_in
from gwiazda.core.plan.frame import Face
from gwiazda.core.plan.model import ViewingConditions as ViewingRoom

if TYPE_CHECKING:
    from gwiazda.core.effect.score import Score
    from gwiazda.core.fibre.light import Loss
    from gwiazda.core.parts.catalogue import Catalogue

Array = npt.NDArray[np.float64]
NOTHING: Array = np.zeros(0)
NOTHING.flags.writeable = False
State = Literal["fine", "look", "stop"]
Strays = tuple[float, float, float]  # one sigma of a current over itself: by its source, by its bag, its own


class LampState(NamedTuple):
    """A lamp as it will burn. ``wanted_share`` and ``share`` count in the light at the rated current."""

    id: str
    part: str
    section: str | None
    branch: str
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
    fresh_a: float = 0.0  # while the source is fresh: what must stay within the rating
    feed: str = ""
    reversed: bool = False
    current_sigma: tuple[float, float, float] = (
        0.0,
        0.0,
        0.0,
    )  # ``Strays``: spelt out, so that it is seen to hold no arrays


class BranchState(NamedTuple):
    """A resistor with the lamps behind it: a string, a group, or a lamp on its own.

    ``resistor_w`` is its heat while the source is fresh; ``supply_v`` the nominal voltage of its feed, ``last_v`` that
    at the end of the source's life.
    """

    id: str
    lamps: tuple[str, ...]
    wanted_a: float
    needed_ohm: float
    resistor_ohm: float
    chosen: bool
    headroom_v: float
    current_a: float
    resistor_w: float
    feed: str = ""
    supply_v: float = 0.0
    last_v: float = 0.0
    side_by_side: bool = False
    resistor: str = ""  # its id in the tree; empty for a lamp on its own


class PartState(NamedTuple):
    """A part of the circuit that is no lamp: what flows through it, what it has over it, how warm it gets.

    ``volts`` is over a part, or what a regulator or output gives; ``in_v`` what feeds it. ``fresh_a`` and ``heat_w`` are
    those while the source is fresh. ``limit_a`` is what it may carry, 0 where nothing limits it. ``drive_a`` is what
    drives a stage, ``chip_a`` the sum over the outputs of its chip.
    """

    id: str
    kind: Literal["resistor", "fuse", "switch", "wire", "load", "regulator", "drive"]
    part: str
    feed: str
    current_a: float
    fresh_a: float
    volts: float
    in_v: float
    heat_w: float
    limit_a: float = 0.0
    fresh_in_v: float = 0.0
    drive_a: float = 0.0
    chip_a: float = 0.0
    on: bool = True


class SectionState(NamedTuple):
    """A section's windows: mean luminance (cd/m²) reached and wanted, darkest over mean.

    ``hot_spot`` is the worst of its panes, ``spill_cd_m2`` the most that comes from next door. ``back_cd_m2`` of the mean is what lamps throw
    back that are pushed through its walls, most of it ``back_lamp``.
    """

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
    hot_spot: float = 1.0
    hottest: str | None = None
    spill_cd_m2: float = 0.0
    sigma: float = 0.0  # one sigma of the mean's logarithm: how sure it is
    back_cd_m2: float = 0.0
    back_lamp: str | None = None
    evenness_low: float = 0.0  # 5 and 95 % values of its evenness
    evenness_high: float = 0.0
    lean: float = 0.0  # of the mean's logarithm: below 0 where it can come out further below than above


class OpeningState(NamedTuple):
    """``hot_spot``: brightest over mean of the pane. ``sight``: the lamp that stands in plain sight behind it."""

    id: str
    section: str
    luminance_cd_m2: float
    hot_spot: float = 1.0
    sight: str = ""
    sigma: float = 0.0  # one sigma of its luminance's logarithm
    lean: float = 0.0


class TipState(NamedTuple):
    """A point of light: the way of its fibre, and what leaves its tip. ``share`` is of its lamp's beam.

    ``tightest`` is the radius of the narrowest bend over the fibre's diameter (infinite where it is straight); ``creased``:
    bent cold and too tight, dark for good. ``cut_mm`` is the length to cut.
    """

    id: str
    lamp: str
    channel: str
    length_mm: float
    cut_mm: float
    tightest: float
    tightest_at: tuple[float, float, float] | None
    bends_db: float
    creased: bool
    loss: Loss
    share: float
    flux_lm: float
    cd: float
    cd_m2: float
    wanted_cd: float
    rgb: tuple[float, float, float]
    half_angle_deg: float = 30.0

    @property
    def reached(self) -> float:
        """Its intensity over the wanted one."""
        return self.cd / self.wanted_cd if self.wanted_cd > 0 else 0.0


class BundleState(NamedTuple):
    """The fibres on one lamp: in the order of their places on its face, thickest first; ``left`` is the share of room left (below
    0: too many), ``bundle_mm`` the least round they go into."""

    lamp: str
    dots: tuple[str, ...]
    diameters_mm: tuple[float, ...]
    face_mm: float
    left: float
    bundle_mm: float
    centres: Array
    fits: bool
    lit: float  # share of the lamp's beam that goes into fibres


class WireRun(NamedTuple):
    """A wire, or a fibre, and its way: a lamp's lead, a jumper between lamps of a string, a trunk from a hub, a spare.

    ``through`` are the passages in order, None where there is no way; ``end`` the side of the circuit it is on. ``length_mm`` is
    along the way, ``cut_mm`` what to cut; ``ohm`` one way. ``own_mm`` of it the lamp came with: where that reaches, nothing is cut.
    """

    id: str
    kind: Literal["lead", "jumper", "trunk", "spare", "fibre"]
    lamps: tuple[str, ...]
    end: Literal["plus", "minus", ""]
    net: str
    part: str
    outside_mm: float
    colour: str
    tag: str
    start: str
    goal: str
    through: tuple[str, ...] | None
    points: tuple[tuple[float, float, float], ...]
    length_mm: float
    cut_mm: float
    current_a: float
    limit_a: float
    ohm: float
    own_mm: float = 0.0

    @property
    def cut_words(self) -> str:
        """What is to cut, in words: of a lead that the lamp came with and that reaches, nothing."""
        return (
            "its own lead"
            if self.own_mm and not self.cut_mm
            else f"{self.cut_mm:g} mm" + (" more" if self.own_mm else "")
        )


class PassageState(NamedTuple):
    """A passage and what goes through it: shares of its clear area, and its wires as they lie in it.

    ``wall_left_mm`` is what is left of the wall it is cut into, negative where it breaks through, None where none is named.
    """

    id: str
    runs: tuple[str, ...]
    diameters_mm: tuple[float, ...]
    fill: float
    comfortable: float
    hole: tuple[bool, float, float]  # round, width, height
    fits: bool
    wall_left_mm: float | None

    @property
    def centres(self) -> Array:
        """Where its wires lie, the thickest 60 of them: packed when somebody looks."""
        from gwiazda.core.loom.fill import packed

        return packed(self.diameters_mm, *self.hole).centres

    @property
    def full(self) -> bool:
        """Whether more is in it than can be."""
        from gwiazda.core.loom.routes import LIMIT as FILL_LIMIT

        return self.fill > FILL_LIMIT + 1e-9 or not self.fits


class JointState(NamedTuple):
    """A soldered joint, at a lamp, at a hub or where a lamp's own lead is made longer: its wires' outer diameters, the sleeve's bore (0 where none goes over it), how near a wall is."""

    id: str
    kind: Literal["lamp", "hub", "splice"]
    section: str
    at: tuple[float, float, float]
    wires: tuple[str, ...]
    sleeve_mm: float
    near_mm: float
    warm_c: float


class LoomState(NamedTuple):
    """All wires, passages and joints; empty while a plan has no passage."""

    runs: Mapping[str, WireRun]
    passages: Mapping[str, PassageState]
    joints: tuple[JointState, ...]
    extra_ohm: Mapping[str, float]


NO_LOOM = LoomState(MappingProxyType({}), MappingProxyType({}), (), MappingProxyType({}))


class Crossing(NamedTuple):
    """A wire or fibre over an opening: the share of the pane it takes, how far behind it lies, whether one sees it as such."""

    run: str
    opening: str
    share: float
    behind_mm: float
    dark: bool  # a line on the lit pane
    seen: bool  # in view through clear glass


class Leak(NamedTuple):
    """``times``: its luminance over the least that shows; ``safe_times`` the same at its 95 % value. ``at`` the brightest
    place, on the model, mm. ``coats`` of flat black, inside, would hide it; ``safe_coats`` would for sure."""

    id: str
    kind: str  # "wall", "seam", "ring", "channel" or "next door"
    section: str
    subject: str
    face: Face
    luminance_cd_m2: float
    times: float
    at: tuple[float, float, float]
    coats: int
    part: tuple[float, float, float, float] | None = None  # the glowing part of the face, mm: low u, v, high u, v
    safe_times: float = 0.0
    safe_coats: int = 0


class ChannelState(NamedTuple):
    """A channel in time: how many lamps, its current (A) fully on; mean shares of light and current over an hour."""

    id: str
    lamps: int
    full_a: float
    light: float
    draw: float

    @property
    def mean_a(self) -> float:
        return self.full_a * self.draw


class FeedShow(NamedTuple):
    """What a source gives while the channels play (A): with all on, on average, at most, and when (s) that is."""

    full_a: float
    mean_a: float
    peak_a: float
    peak_s: float


class EffectState(NamedTuple):
    """What channels do in time; ``mean_current_share`` is each lamp's share of its current on average, where that isn't all of it."""

    score: Score
    channels: Mapping[str, ChannelState]
    feeds: Mapping[str, FeedShow]
    mean_current_share: Mapping[str, float]
    seconds: float  # of the show that is looked at for its peaks

    @property
    def moves(self) -> bool:
        """Whether anything changes in time."""
        return bool(self.score.parts)


class SupplyState(NamedTuple):
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
    curve_hours: Array = NOTHING
    curve_light: Array = NOTHING
    curve_terminal_v: Array = NOTHING
    curve_colours: Mapping[str, Array] = MappingProxyType({})
    feed: str = ""
    settled: bool = True  # False where no operating point was found


class Meter(NamedTuple):
    """One of the figures under the plate; ``value`` is None where there is no figure."""

    id: str
    label: str
    value: float | None
    text: str
    unit: str
    note: str
    state: State
    share: float | None  # of its limit or aim; None where there is no figure
    subject: str = ""
    band: tuple[float, float] | None = None  # 5 to 95 % of the share
    spoken_band: str = ""

    @property
    def silent(self) -> bool:
        """Nothing to say yet: neither a figure nor something that stands in for one (an adapter's "steady")."""
        return self.value is None and not self.share


class Assessment(NamedTuple):
    """All that the core computed for one plan."""

    lamps: Mapping[str, LampState]
    branches: Mapping[str, BranchState]
    sections: Mapping[str, SectionState]
    openings: Mapping[str, OpeningState]
    supply: SupplyState
    meters: tuple[Meter, ...]
    room: ViewingRoom
    hull_cd_m2: float
    leaks: tuple[Leak, ...] = ()
    cells: int = 0  # into which sections were cut: fewer for a first look
    catalogue: Catalogue = None  # type: ignore[assignment]
    feeds: Mapping[str, SupplyState] = MappingProxyType({})
    parts: Mapping[str, PartState] = MappingProxyType({})
    tips: Mapping[str, TipState] = MappingProxyType({})
    bundles: Mapping[str, BundleState] = MappingProxyType({})
    loom: LoomState = NO_LOOM
    crossings: tuple[Crossing, ...] = ()
    effects: EffectState = None  # type: ignore[assignment]

    @property
    def looks(self) -> Looks:
        """What the words for a look mean in this room."""
        return looks_in(self.room, self.hull_cd_m2, self.catalogue.brightness_scale)
