"""From lamps and fibres to the light at the tips: what geometry decides first, then the currents."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping
from typing import NamedTuple

import numpy as np

from gwiazda.core.assess.fibres.ways import Bent, cut_mm, way_of
from gwiazda.core.assess.lamp.lamp_models import LampModel
from gwiazda.core.assess.lamp.modified_lamp import worked
from gwiazda.core.assess.optics.lit_sections import Colours, tinted
from gwiazda.core.assess.states import BundleState, LampState, TipState
from gwiazda.core.colour.modified_lamp import ALL_ROUND, ModifiedLamp
from gwiazda.core.colour.tint import SMOKE
from gwiazda.core.fibre import light as optics
from gwiazda.core.fibre.bundle import bundle_mm
from gwiazda.core.fibre.grouping import room_left
from gwiazda.core.memo import memoize, same_pieces
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.parts.materials import FibrePart
from gwiazda.core.plan.lookup import bundle_table, dots_by_lamp
from gwiazda.core.plan.model import Bundle, Dot, Lamp, TintCoat
from gwiazda.core.space.pack import pack_round
from gwiazda.core.space.run import Place

PLAIN = Bundle(id="bundle", lamp="lamp")
FLAT_ORDER = 2.0  # a body that throws so widely sends alike from all of its face, dome or not
MOST_DRAWN = 400  # fibres on one lamp; nobody bundles more, and packing them would take long
FULL_DEG, DOMED_DEG = 30.0, 45.0


class Fibre(NamedTuple):
    """What geometry decides of one dot's fibre; ``loss`` counts for 1 lm of the lamp's beam."""

    dot: Dot
    part: FibrePart
    lamp: Lamp
    length_mm: float
    bent: Bent
    loss: optics.Loss
    cd_per_lm: float
    beam_lm: float  # of the lamp at its rated current
    rgb: tuple[float, float, float]


class Fibres(NamedTuple):
    """All fibres that are on a lamp, and the bundles they make."""

    by_dot: dict[str, Fibre]
    bundles: dict[str, BundleState]


def _alike(a: object, b: object) -> bool:
    """Models by identity, places by their figures."""
    return same_pieces(a, b) or (isinstance(a, tuple) and isinstance(b, tuple) and _figures(a) and a == b)


def _figures(a: tuple[object, ...]) -> bool:
    return all(isinstance(x, float) or (isinstance(x, tuple) and _figures(x)) for x in a)


def beam_lm(light: ModifiedLamp) -> float:
    """Light (lm) that leaves a lamp's face in its beam at rated current; half of it under a cap that sends it all round."""
    return light.flux_lm * (0.5 if light.order == ALL_ROUND else light.beam_share)


def face_mm(catalogue: Catalogue, lamp: Lamp) -> float:
    """Diameter of the round that fits a lamp's face (mm)."""
    return catalogue.lamps[lamp.part].face_mm


def _coupling(catalogue: Catalogue, lamp: Lamp, fibre_mm: float, aside_mm: float, bundle: Bundle) -> float:
    """Share of the lamp's beam that goes into one fibre at its place on the face."""
    part, light = catalogue.lamps[lamp.part], worked(catalogue, lamp)
    order = 1.0 if light.order == ALL_ROUND else light.order
    joined = optics.SLEEVED if bundle.joined == "sleeve" else optics.BUTTED
    thick = min(fibre_mm, part.face_mm)
    domed = part.shape.domed and part.lens == "clear" and not lamp.sanded and order > FLAT_ORDER
    if domed:
        return optics.domed_share(thick, aside_mm, part.face_mm, order) * joined
    length, width, _ = part.size_mm
    whole = part.face_mm if part.shape.round_face else math.sqrt(4.0 * length * width / math.pi)  # a round of its area
    return optics.coupled_share(thick, whole, order, joined)


def _places(dots: tuple[Dot, ...], sizes: Mapping[str, float]) -> tuple[Dot, ...]:
    """Dots in the order of their places on a face: thickest first, and of one thickness those that want most."""
    return tuple(sorted(dots, key=lambda d: (-sizes[d.id], -d.wanted_mcd, d.id)))


@memoize(slots=1, by=lambda catalogue, lamp, dots, bundle, through: lamp.id, places=2_000, same=_alike)
def _bundle(
    catalogue: Catalogue, lamp: Lamp, dots: tuple[Dot, ...], bundle: Bundle, through: tuple[tuple[Place, ...], ...]
) -> tuple[BundleState, tuple[Fibre, ...]]:
    face = face_mm(catalogue, lamp)
    sizes = {d.id: catalogue.fibres[d.fibre].diameter_mm for d in dots}
    order = _places(dots, sizes)
    led = dict(zip((d.id for d in dots), through, strict=True))
    thick = tuple(sizes[d.id] for d in order)
    packed = pack_round(thick[:MOST_DRAWN], face)
    # Of one thickness, the places nearest to the axis go to those that want most.
    centres = packed.centres.copy()
    for d in set(thick[:MOST_DRAWN]):
        mine = np.array([i for i, t in enumerate(thick[:MOST_DRAWN]) if t == d])
        far = np.hypot(centres[mine, 0], centres[mine, 1])
        centres[mine] = centres[mine[np.argsort(far, kind="stable")]]
    aside = np.concatenate([np.hypot(centres[:, 0], centres[:, 1]), np.full(len(thick) - len(centres), face)])
    fibres = tuple(_fibre(catalogue, lamp, d, float(a), bundle, led[d.id]) for d, a in zip(order, aside, strict=True))
    alike = len(set(thick)) == 1
    least = bundle_mm(len(thick), thick[0]) if alike else math.sqrt(sum(t * t for t in thick) / 0.75)
    state = BundleState(
        lamp.id, tuple(d.id for d in order), thick, face, room_left(face, thick), max(least, thick[0]), centres,
        packed.fits and len(thick) <= MOST_DRAWN, sum(f.loss.coupling for f in fibres),
    )  # fmt: skip
    return state, fibres


def _fibre(
    catalogue: Catalogue, lamp: Lamp, dot: Dot, aside_mm: float, bundle: Bundle, through: tuple[Place, ...]
) -> Fibre:
    part, light = catalogue.fibres[dot.fibre], worked(catalogue, lamp)
    run = way_of(dot, lamp, part.diameter_mm, through)
    bent = Bent(run, dot, part.diameter_mm)
    tints = tuple(TintCoat(colour=c) for c in (part.tint, dot.tint) if c)  # type: ignore[arg-type]
    seen = tinted(catalogue, lamp, Colours(tints))
    polished = bundle.ends == "polished"
    end = optics.POLISHED if polished else optics.CUT
    let_through = seen.kept * SMOKE**dot.smoke
    course = optics.Course(run.length_mm, bent.db, (end, end), bundle.overheated, dot.glow_mm, let_through)
    loss = optics.losses(1.0, _coupling(catalogue, lamp, part.diameter_mm, aside_mm, bundle), course)
    order = 1.0 if light.order == ALL_ROUND else light.order
    cd = optics.tip_cd(loss.flux_lm, order, optics.mixing(bent.db, polished), dot.tip == "domed")
    return Fibre(dot, part, lamp, run.length_mm, bent, loss, cd, beam_lm(light), seen.rgb)


def fibres_of(
    catalogue: Catalogue, dots: tuple[Dot, ...], bundles: tuple[Bundle, ...], lamps: Iterable[Lamp],
    through: Mapping[str, tuple[Place, ...]],
) -> Fibres:  # fmt: skip
    """All fibres on the lamps given (whose parts are known); those of an unknown fibre are left out.

    ``through`` are the places where fibres pass from section to section, for those not led by hand.
    """
    if not dots:
        return Fibres({}, {})
    by_id, decided = {p.id: p for p in lamps}, bundle_table(bundles)
    found = Fibres({}, {})
    for lamp_id, there in dots_by_lamp(dots).items():
        mine = tuple(d for d in there if d.fibre in catalogue.fibres)
        if lamp_id in by_id and mine:
            state, fibres = _bundle(
                catalogue, by_id[lamp_id], mine, decided.get(lamp_id, PLAIN), tuple(through.get(d.id, ()) for d in mine)
            )
            found.bundles[lamp_id] = state
            found.by_dot.update((f.dot.id, f) for f in fibres)
    return found


def wanted_of_lamps(fibres: Fibres, kinds: Mapping[str, LampModel]) -> dict[str, float]:
    """Share of its rated light that each lamp needs so that none of its tips falls short; creased ones don't count."""
    wanted: dict[str, float] = {}
    for f in fibres.by_dot.values():
        full = f.cd_per_lm * f.beam_lm
        if full > 0:
            wanted[f.lamp.id] = max(wanted.get(f.lamp.id, 0.0), f.dot.wanted_mcd * 1e-3 / full)
    return wanted


def tips_of(fibres: Fibres, lamps: Mapping[str, LampState]) -> dict[str, TipState]:
    """The tips at the currents that flow."""
    out = {}
    for dot_id, f in fibres.by_dot.items():
        lamp = lamps[f.lamp.id]
        beam = f.beam_lm * lamp.share
        cd = f.cd_per_lm * beam
        area = math.pi * (f.part.diameter_mm * 1e-3) ** 2 / 4.0
        loss = f.loss
        out[dot_id] = TipState(
            dot_id, f.lamp.id, lamp.channel, f.length_mm, cut_mm(f.dot, f.length_mm), f.bent.tightest, f.bent.at,
            f.bent.db, f.bent.creased, loss._replace(
                flux_lm=loss.flux_lm * beam, side_lm=loss.side_lm * beam, bend_lm=loss.bend_lm * beam
            ),
            loss.flux_lm, loss.flux_lm * beam, cd, cd / area, f.dot.wanted_mcd * 1e-3, f.rgb,
            DOMED_DEG if f.dot.tip == "domed" else FULL_DEG,
        )  # fmt: skip
    return out
