"""Lamps of the catalogue: diode families, forms of bodies, parts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal, NamedTuple

from gwiazda.core.light.photometry import Droop
from gwiazda.core.memo import memoize_by_value
from gwiazda.core.parts.tables import Basis, table_of


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
    return table_of("lamp_forms", LampForm)


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
