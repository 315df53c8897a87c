"""Clear shells: what their walls carry sideways to panes that are meant dark, and from lamps that sit on them.

A section is one where its plastic is clear and its windows aren't cut but masked or scraped free: then a pane is a place without paint on the
outside, and what is done behind it on the inside lies a wall's thickness away.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gwiazda.core.assess.optics.skin import material_of, skin_of
from gwiazda.core.light import wall as w
from gwiazda.core.light.glazing import Pane
from gwiazda.core.light.scatter import through
from gwiazda.core.memo import memoize, memoize_by_value
from gwiazda.core.parts.catalogue import Catalogue
from gwiazda.core.plan.frame import NORMALS, PLANES, face_number
from gwiazda.core.plan.model import Lamp, Opening, Section

Array = npt.NDArray[np.float64]
CLEAR_FROM = 0.6  # transmittance of the wall: below, it is no clear plastic
SCATTERS_FROM = 0.5  # of a pane's light: from here on it counts as frosted
BARE_OUTSIDE = 0.04
CONTACT_MM = 0.6  # from the wall: nearer, a lamp that faces it sends its light into it
NEAR = w.FAR  # wall thicknesses: neighbours farther off don't matter


def is_shell(catalogue: Catalogue, section: Section, kit_material: str) -> bool:
    """Whether a section's wall carries light to panes in it."""
    material = catalogue.materials.get(material_of(section, kit_material))
    if material is None or section.school == "drill" or material.scatter_per_mm > 0:
        return False
    return material.film(section.wall_mm).transmittance >= CLEAR_FROM


class Shell(NamedTuple):
    """A section's wall as light meets it: ``entry`` is the share that its inner paint lets in (1 for bare plastic, which only what comes
    within the critical angle passes)."""

    wall: w.Wall
    entry: float
    bare: bool


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=1024)
def shell_of(catalogue: Catalogue, section: Section, kit_material: str) -> Shell | None:
    """The wall of a clear shell; None for a section that is none."""
    if not is_shell(catalogue, section, kit_material):
        return None
    layers = skin_of(catalogue, section, kit_material)
    inner = [x for x in layers if x.where in ("lining", "inside")]
    outer = [x for x in layers if x.where == "outside"]
    material = catalogue.materials[material_of(section, kit_material)]
    absorb = material.density_per_mm * math.log(10.0)
    # Seen from within the wall, the coat that touches the plastic is what throws light back.
    rho_in = inner[-1].film.reflectance if inner else BARE_OUTSIDE
    rho_out = outer[0].film.reflectance if outer else BARE_OUTSIDE
    wall = w.Wall(
        section.wall_mm,
        "painted" if inner else "bare",
        round(rho_in, 3),
        round(rho_out, 3),
        "clear",
        0.0,
        0.0,
        round(absorb, 5),
    )
    return Shell(wall, through(x.film for x in inner) if inner else 1.0, not inner)


def _box(o: Opening, more: float = 0.0) -> w.Around:
    h, v, _ = PLANES[o.side]
    x, y = o.at[h], o.at[v]
    a, b = o.width_mm / 2 + more, o.height_mm / 2 + more
    return (x - a, x + a, y - b, y + b)


def _shape(o: Opening, more: float = 0.0) -> w.Shape:
    """A pane on its face, grown by ``more`` mm all round; slots and traced ones as the ellipse or rectangle around them."""
    h, v, _ = PLANES[o.side]
    x, y, a, b = o.at[h], o.at[v], o.width_mm / 2 + more, o.height_mm / 2 + more
    if a <= 0 or b <= 0:
        return lambda p, q: np.zeros(np.shape(p), dtype=bool)
    if o.shape == "round":
        return lambda p, q: np.asarray(((p - x) / a) ** 2 + ((q - y) / b) ** 2 <= 1.0)
    return w.rectangle(x, y, 2 * a, 2 * b)


@memoize_by_value(2048)
def _round_black(wall: w.Wall, shape: str, size: tuple[float, float], reach_mm: float, sent: bool) -> float:
    """Share of the light on the inner face that comes round black which reaches so far past a pane of a size (mm)."""
    a, b = size[0] / 2, size[1] / 2

    def grown(more: float) -> w.Shape:
        x, y = a + more, b + more
        if x <= 0 or y <= 0:
            return lambda p, q: np.zeros(np.shape(p), dtype=bool)
        if shape == "round":
            return lambda p, q: np.asarray((p / x) ** 2 + (q / y) ** 2 <= 1.0)
        return w.rectangle(0.0, 0.0, 2 * x, 2 * y)

    return w.dab_share(wall, grown(0.0), (-a, a, -b, b), grown(reach_mm), sent)


def _behind(shell: Shell, wall: w.Wall, o: Opening, reach_mm: float) -> float:
    kind = "round" if o.shape == "round" else "rect"
    return shell.entry * _round_black(wall, kind, (o.width_mm, o.height_mm), round(reach_mm, 4), not shell.bare)


def _surface(shell: Shell, pane: Pane) -> w.Wall:
    return shell.wall._replace(pane="frosted" if pane.scattered >= SCATTERS_FROM else "clear")


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=1024)
def dark_shares(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], panes: tuple[Pane, ...], kit_material: str
) -> Array:
    """Share (openings,) of the light on the inner face that comes out of each pane meant dark; 0 for all others.

    Behind it lies black that reaches ``reach_mm`` past its edge; round that, bare plastic or the paint of the inside, and the holes in it of
    lit neighbours.
    """
    out = np.zeros(len(openings))
    shell = shell_of(catalogue, section, kit_material)
    if shell is None:
        return out
    reach = NEAR * section.wall_mm
    for i, (o, pane) in enumerate(zip(openings, panes, strict=True)):
        if o.lit > 0 or o.into or o.closed == "outside":
            continue
        wall, box = _surface(shell, pane), _box(o)
        share = _behind(shell, wall, o, o.reach_mm)
        if not shell.bare:
            points, _ = w.points_in(_shape(o), box, 600)
            k = w.kernel(wall)
            for other in openings:
                if other.side == o.side and other.lit > 0 and not other.into and _apart(o, other) < reach:
                    source, cell = w.points_in(
                        _shape(other, other.reach_mm), _box(other, max(other.reach_mm, 0.0)), 2500
                    )
                    share += other.lit * w.shared(k, points, source, cell)
        out[i] = share
    return out


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=1024)
def lit_factors(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], panes: tuple[Pane, ...], kit_material: str
) -> Array:
    """Share (openings,) of a lit pane's light that the hole in the inner paint behind it lets through, over bare plastic all around; 1
    for all that isn't a lit pane of a shell painted inside."""
    out = np.ones(len(openings))
    shell = shell_of(catalogue, section, kit_material)
    if shell is None or shell.bare:
        return out
    alike: dict[tuple[object, ...], float] = {}
    for i, (o, pane) in enumerate(zip(openings, panes, strict=True)):
        if o.lit == 0 or o.into or not o.hole:
            continue
        wall = _surface(shell, pane)
        key = (o.shape, o.width_mm, o.height_mm, o.reach_mm, wall.pane)
        if key not in alike:
            k = w.kernel(wall)
            points, _ = w.points_in(_shape(o), _box(o), w.PANE_POINTS)
            source, cell = w.points_in(_shape(o, o.reach_mm), _box(o, max(o.reach_mm, 0.0)), w.AROUND_POINTS)
            alike[key] = min(w.shared(k, points, source, cell) / w.total(k), 1.0)
        out[i] = alike[key]
    return out


REACHES = (1.0, 1.5, 2.0, 3.0, 4.0)  # wall thicknesses past a pane that are tried


@memoize(slots=4, by=lambda catalogue, section, opening, *_: opening.id, places=4096)
def shares_by_reach(
    catalogue: Catalogue, section: Section, opening: Opening, pane: Pane, kit_material: str
) -> tuple[float, ...]:
    """What comes round the black behind a dark pane when it reaches so far past it (``REACHES``), its neighbours left out."""
    shell = shell_of(catalogue, section, kit_material)
    if shell is None:
        return (0.0,) * len(REACHES)
    wall = _surface(shell, pane)
    return tuple(_behind(shell, wall, opening, m * section.wall_mm) for m in REACHES)


def _apart(a: Opening, b: Opening) -> float:
    """How far the edges of two panes of a face are apart, mm."""
    h, v, _ = PLANES[a.side]
    dx = abs(a.at[h] - b.at[h]) - (a.width_mm + b.width_mm) / 2
    dy = abs(a.at[v] - b.at[v]) - (a.height_mm + b.height_mm) / 2
    return math.hypot(max(dx, 0.0), max(dy, 0.0))


def on_wall(section: Section, lamp: Lamp) -> int | None:
    """The face of a section's box that a lamp inside sits on with its light towards it; None for one that doesn't."""
    for side, normal in NORMALS.items():
        face = face_number(side)
        axis, end = face // 2, face % 2
        plane = section.box.at[axis] + end * section.box.size[axis]
        length = math.sqrt(sum(a * a for a in lamp.aim)) or 1.0
        towards = sum(a * n for a, n in zip(lamp.aim, normal, strict=True)) / length
        if towards > 0.5 and abs(lamp.at[axis] - plane) <= CONTACT_MM:
            return face
    return None


@memoize(slots=2, by=lambda catalogue, section, *_: section.id, places=1024)
def sent_per_lm(
    catalogue: Catalogue, section: Section, openings: tuple[Opening, ...], panes: tuple[Pane, ...], lamps: tuple[Lamp, ...],
    kit_material: str,
) -> Array:  # fmt: skip
    """Luminance (openings, lamps), cd/m² for 1 lm, that lamps sitting on a clear wall send along in it."""
    out = np.zeros((len(openings), len(lamps)))
    shell = shell_of(catalogue, section, kit_material)
    if shell is None:
        return out
    for j, lamp in enumerate(lamps):
        face = on_wall(section, lamp) if lamp.mount == "inside" else None
        if face is None:
            continue
        for i, (o, pane) in enumerate(zip(openings, panes, strict=True)):
            if face_number(o.side) != face or o.into or (o.lit == 0 and o.closed == "outside"):
                continue
            h, v, _ = PLANES[o.side]
            points, _ = w.points_in(_shape(o), _box(o), 600)
            away = np.hypot(points[:, 0] - lamp.at[h], points[:, 1] - lamp.at[v])
            # Light that leaves per mm² of the pane; per m² and steradian of a pane that is even all round.
            out[i, j] = float(w.kernel(_surface(shell, pane)).at(away, sent=True).mean()) * 1e6 / math.pi
    return out
