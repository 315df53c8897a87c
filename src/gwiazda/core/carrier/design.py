"""A carrier as flat sheets: which way each lies, where, how large, with the holes and notches in it.

All sheets are at right angles to the model's axes, so that they are cut from card or sheet with a knife and shade as plain rectangles.
"""

from __future__ import annotations

from typing import NamedTuple

Vector = tuple[float, float, float]
Pair = tuple[float, float]
Points = tuple[Pair, ...]

LIP_SHARE = 0.6  # of a wall's height that a notch may take at the most
HOLE_EDGE_MM = 0.3  # of sheet that must be left beside a hole


class Hole(NamedTuple):
    """A hole through the sheet that lamps sit on: its middle along the sheet's two axes, size, round or not (mm)."""

    u: float
    v: float
    wide: float
    high: float
    round: bool
    lamp: str = ""


class Design(NamedTuple):
    """What a carrier is made of.

    ``low`` and ``size`` are its box (mm, along x, y, z); ``axis`` and ``sign`` say which way its lamps look; ``thick`` is its sheet. ``divider``
    is where a wall parts it, as a share of the longer side from the middle; ``notch`` is (wide, high); ``tabs`` tongues hold each wall.
    ``profile`` is what the sheet the lamps sit on must keep within, along its two axes, where the section isn't a plain box there.
    """

    form: str
    low: Vector
    size: Vector
    axis: int
    sign: int
    thick: float
    divider: float | None = None
    notch: Pair = (0.0, 0.0)
    tabs: int = 2
    holes: tuple[Hole, ...] = ()
    profile: Points = ()


class Sheet(NamedTuple):
    """A flat piece: ``at`` is its middle along ``axis``, ``low`` and ``high`` its corners along the two others (u before v).

    ``main``: the lamps sit on it. ``foot``: the side of a wall that stands on the main sheet, as (axis 0 or 1 of its own two, end 0 or 1),
    None for a sheet that stands on nothing. ``notch``: cut out of an edge, (low u, low v, high u, high v), or None.
    """

    name: str
    axis: int
    at: float
    low: Pair
    high: Pair
    thick: float
    main: bool = False
    foot: tuple[int, int] | None = None
    notch: tuple[float, float, float, float] | None = None

    @property
    def box(self) -> tuple[Vector, Vector]:
        """Lowest corner and size, mm."""
        low, size = [0.0, 0.0, 0.0], [0.0, 0.0, 0.0]
        low[self.axis], size[self.axis] = self.at - self.thick / 2, self.thick
        for k, a in enumerate(others(self.axis)):
            low[a], size[a] = self.low[k], self.high[k] - self.low[k]
        return (low[0], low[1], low[2]), (size[0], size[1], size[2])


def others(axis: int) -> tuple[int, int]:
    """The two axes across one, in order.

    Parameters
    ----------
    axis : int
        0, 1 or 2.

    Returns
    -------
    tuple[int, int]
        The two others, rising.
    """
    u, v = (a for a in range(3) if a != axis)
    return u, v


def long_axis(design: Design) -> int:
    """The longer of the two axes of the sheet that lamps sit on.

    Parameters
    ----------
    design : Design
        The carrier.

    Returns
    -------
    int
        0, 1 or 2.
    """
    u, v = others(design.axis)
    return u if design.size[u] >= design.size[v] else v


def sheets_of(design: Design) -> tuple[Sheet, ...]:
    """The sheets of a carrier, the one that lamps sit on first.

    Parameters
    ----------
    design : Design
        The carrier.

    Returns
    -------
    tuple[Sheet, ...]
        Its sheets.

    Raises
    ------
    ValueError
        For a form that isn't known, or a sheet thicker than the carrier has room for.
    """
    n, t = design.axis, design.thick
    least = min(design.size)
    if t > least + 1e-9:
        raise ValueError(
            f"a sheet of {t:g} mm is thicker than the carrier has room for; up to {least:g} mm would go in"
        )
    a = long_axis(design)
    b = next(x for x in others(n) if x != a)
    low, high = design.low, tuple(x + s for x, s in zip(design.low, design.size, strict=True))
    back = low[n] + t / 2 if design.sign > 0 else high[n] - t / 2
    front = high[n] - t / 2 if design.sign > 0 else low[n] + t / 2
    plain = design.form in ("strip", "firewall")
    behind = design.form in ("sled", "riser", "bracket")  # its walls stand behind the sheet with the lamps
    if not (plain or behind or design.form in ("light box", "tray")):
        raise ValueError(f"no carrier has the form “{design.form}”")
    at = (low[n] + high[n]) / 2 if plain else front if behind else back
    out = [_main(design, at)]
    if plain:
        return tuple(out)
    # Walls run from the main sheet's own face to the far end of the box.
    face = at - design.sign * t / 2 if behind else at + design.sign * t / 2
    end = (low[n] if design.sign > 0 else high[n]) if behind else (high[n] if design.sign > 0 else low[n])
    span = (min(face, end), max(face, end))
    if span[1] - span[0] < 0.2:
        return tuple(out)
    foot_end = 0 if abs(span[0] - face) < 1e-9 else 1
    ends = [("end", a, low[a] + t / 2), ("other end", a, high[a] - t / 2)]
    sides = [("side", b, low[b] + t / 2), ("other side", b, high[b] - t / 2)]
    wanted = {"sled": sides, "riser": ends, "bracket": sides[:1]}.get(design.form, [*ends, *sides])
    full = design.form in ("light box", "tray")
    for name, axis, place in wanted:
        inset = t if full and axis == b else 0.0  # long walls stand between the ends
        out.append(_wall(design, name, (axis, place), span, foot_end, inset, notched=name == "end" or not full))
    if design.form == "tray" and design.divider is not None:
        middle = (low[a] + high[a]) / 2 + design.divider * design.size[a]
        middle = min(max(middle, low[a] + 1.5 * t), high[a] - 1.5 * t)
        out.append(_wall(design, "dividing wall", (a, middle), span, foot_end, t, notched=True))
    return tuple(out)


def _main(design: Design, at: float) -> Sheet:
    u, v = others(design.axis)
    low, size = design.low, design.size
    corners = (low[u], low[v]), (low[u] + size[u], low[v] + size[v])
    notch = None
    wide, high = design.notch
    if wide > 0 and high > 0 and design.form in ("strip", "firewall"):
        # At the lower edge of a firewall, in the middle; in the end of a strip.
        if design.form == "strip":
            a = long_axis(design)
            b = next(x for x in (u, v) if x != a)
            wide, high = min(wide, size[b] * LIP_SHARE), min(high, size[a] * LIP_SHARE)
            middle = low[b] + size[b] / 2
            box = {a: (low[a], low[a] + high), b: (middle - wide / 2, middle + wide / 2)}
        else:
            wide, high = min(wide, size[u] * LIP_SHARE), min(high, size[v] * LIP_SHARE)
            middle = low[u] + size[u] / 2
            box = {u: (middle - wide / 2, middle + wide / 2), v: (low[v], low[v] + high)}
        notch = (box[u][0], box[v][0], box[u][1], box[v][1])
    name = {"strip": "sheet", "firewall": "sheet", "sled": "deck", "riser": "deck", "bracket": "plate"}
    return Sheet(name.get(design.form, "floor"), design.axis, at, *corners, design.thick, True, None, notch)


def _wall(
    design: Design, name: str, plane: tuple[int, float], span: Pair, foot_end: int, inset: float, notched: bool
) -> Sheet:
    """A wall in a plane (the axis it stands across, and where), from the main sheet to the carrier's end."""
    axis, place = plane
    n = design.axis
    along = next(x for x in others(n) if x != axis)
    low, size = design.low[along] + inset, design.size[along] - 2 * inset
    ranges = {n: span, along: (low, low + size)}
    u, v = others(axis)
    notch = None
    wide, high = design.notch
    if notched and wide > 0 and high > 0:
        wide, high = min(wide, size * LIP_SHARE), min(high, (span[1] - span[0]) * LIP_SHARE)
        middle = low + size / 2
        # Wires run along the sheet or the wall behind it, so the notch is at the wall's far edge where it stands behind.
        behind = design.form in ("sled", "riser", "bracket")
        at_low = (foot_end == 0) != behind
        part = (span[0], span[0] + high) if at_low else (span[1] - high, span[1])
        cut = {n: part, along: (middle - wide / 2, middle + wide / 2)}
        notch = (cut[u][0], cut[v][0], cut[u][1], cut[v][1])
    foot = (0 if u == n else 1, foot_end)
    return Sheet(
        name, axis, place, (ranges[u][0], ranges[v][0]), (ranges[u][1], ranges[v][1]), design.thick, False, foot, notch
    )
