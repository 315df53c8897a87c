"""The user's own parts of every kind but lamps: each is like one of the catalogue, with a name and some figures of its own.

``KINDS`` says which figures a kind has; form, file and catalogue all follow it. As CSV: ``kind``, ``id``, ``name``, ``like``, then a column for
each figure that some row has; an empty cell is as the part it is like has it.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from types import MappingProxyType
from typing import Any, NamedTuple

from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue, built_in, unknown
from gwiazda.core.parts.electrics import SourcePart
from gwiazda.core.parts.materials import DrillPart
from gwiazda.core.tables import read_figure, read_rows, write_table

MOST = 1000
FIRST = ("kind", "id", "name", "like")


class Figure(NamedTuple):
    """A figure of a part: its column, its words, its unit as typed, its bounds there; ``factor`` of that unit make one of the catalogue's;
    ``part`` of a field that has several (a size)."""

    id: str
    words: str
    unit: str
    low: float
    high: float
    factor: float = 1.0
    field: str = ""
    part: int = -1

    def of(self, entry: Any) -> float:
        """What an entry of the catalogue has, in the unit typed."""
        value = getattr(entry, self.field or self.id)
        return float(value[self.part] if self.part >= 0 else value) * self.factor


class OwnKind(NamedTuple):
    """A kind of part one may have of one's own: what it is called, its table in the catalogue, its figures."""

    id: str
    name: str
    table: str
    figures: tuple[Figure, ...]
    blank: Any = None  # what it is like where the catalogue has none of its kind

    def figure(self, figure_id: str) -> Figure | None:
        return next((f for f in self.figures if f.id == figure_id), None)


SIZE = tuple(
    Figure(f"{w}_mm", w.capitalize(), "mm", 0.1, 500.0, field="size_mm", part=k) for k, w in enumerate(("length", "width", "height"))
)  # fmt: skip
KINDS: Mapping[str, OwnKind] = MappingProxyType({
    k.id: k for k in (
        OwnKind("source", "Battery or adapter", "sources", (
            Figure("nominal_v", "Voltage", "V", 0.5, 60.0), Figure("capacity_mah", "Capacity", "mAh", 1.0, 1e5),
            Figure("rated_a", "Rated current", "A", 0.01, 50.0), Figure("r_fresh_ohm", "Resistance, fresh", "Ω", 0.0, 100.0),
            Figure("r_end_ohm", "Resistance, empty", "Ω", 0.0, 300.0), Figure("weight_g", "Weight", "g", 0.1, 5000.0), *SIZE)),
        OwnKind("board", "Board", "boards", (
            Figure("outputs", "Outputs", "", 1, 256), Figure("own_ma", "Own current", "mA", 0.0, 2000.0, 1000.0, "own_a"),
            Figure("most_hz", "Changes a second", "Hz", 0.1, 1e6), *SIZE)),
        OwnKind("regulator", "Regulator", "regulators", (
            Figure("dropout_v", "Dropout", "V", 0.05, 5.0), Figure("own_ma", "Own current", "mA", 0.0, 100.0, 1000.0, "quiescent_a"),
            Figure("limit_ma", "Most current", "mA", 1.0, 1e4, 1000.0, "limit_a"), Figure("theta_k_w", "Warming", "K/W", 1.0, 500.0),
            Figure("least_v", "Least volts out", "V", 0.5, 50.0), Figure("most_v", "Most volts out", "V", 0.5, 60.0), *SIZE)),
        OwnKind("switch", "Switch", "switches", (
            Figure("limit_ma", "Most current", "mA", 1.0, 2e4, 1000.0, "limit_a"), Figure("hole_mm", "Its hole", "mm", 0.0, 30.0), *SIZE)),
        OwnKind("load", "Motor or sound module", "loads", (
            Figure("volts", "Voltage", "V", 0.5, 30.0), Figure("running_ma", "Running current", "mA", 0.1, 1e4, 1000.0, "running_a"),
            Figure("idle_ma", "Idle current", "mA", 0.0, 1e4, 1000.0, "idle_a"), Figure("stall_ma", "Current held fast", "mA", 0.0, 5e4, 1000.0, "stall_a"),
            Figure("rpm", "Speed with no load", "1/min", 0.0, 1e5), *SIZE)),
        OwnKind("wire", "Wire", "wires", (Figure("awg", "Gauge", "AWG", 16, 46), Figure("outside_mm", "Diameter outside", "mm", 0.03, 6.0))),
        OwnKind("fibre", "Fibre", "fibres", (Figure("diameter_mm", "Diameter", "mm", 0.1, 10.0),)),
        OwnKind("drill", "Drill", "drills", (Figure("diameter_mm", "Diameter", "mm", 0.1, 13.0),), DrillPart("", "any", 1.0)),
        OwnKind("adhesive", "Adhesive", "adhesives", (
            Figure("handle_h", "Held until", "h", 0.0, 200.0), Figure("next_h", "Worked on after", "h", 0.0, 500.0),
            Figure("full_h", "Full strength after", "h", 0.0, 2000.0))),
        OwnKind("paint", "Paint, tape or putty", "coats", (
            Figure("density", "Density a coat", "OD", 0.0, 20.0), Figure("reflectance_pc", "Throws back", "%", 0.0, 98.0, 100.0, "reflectance"),
            Figure("dry_h", "Handled after", "h", 0.0, 200.0), Figure("next_h", "Next coat after", "h", 0.0, 200.0))),
    )
})  # fmt: skip
_WHOLE = ("outputs", "awg")


class OwnPart(NamedTuple):
    """A part of one's own: its kind, id and name, the catalogue's it is like, and what differs, by figure, in the units typed."""

    kind: str
    id: str
    name: str
    like: str
    figures: Mapping[str, float]


def likes(catalogue: Catalogue, kind: str) -> Mapping[str, Any]:
    """What a part of a kind may be like: the generic ones."""
    if KINDS[kind].blank is not None:
        return {"": KINDS[kind].blank}
    table: Mapping[str, Any] = getattr(catalogue, KINDS[kind].table)
    return {i: p for i, p in table.items() if i not in catalogue.own}


def entry_of(own: OwnPart, generic: Catalogue) -> Any:
    """The catalogue's entry of a part of one's own.

    A battery of another voltage has its curve and cut-off in proportion.

    Raises
    ------
    PlanError
        Where the catalogue hasn't got what it is like.
    """
    kind = KINDS[own.kind]
    table = likes(generic, own.kind)
    if own.like not in table:
        raise unknown(f"{own.name}, like", own.like, table)
    base = table[own.like]
    fields: dict[str, Any] = {}
    for figure in kind.figures:
        if figure.id not in own.figures:
            continue
        value: Any = own.figures[figure.id] / figure.factor
        if figure.id in _WHOLE:
            value = round(value)
        name = figure.field or figure.id
        if figure.part >= 0:
            several = list(fields.get(name, getattr(base, name)))
            several[figure.part] = value
            value = tuple(several)
        fields[name] = value
    if isinstance(base, SourcePart) and fields.get("nominal_v", base.nominal_v) != base.nominal_v:
        share = fields["nominal_v"] / base.nominal_v
        fields["open_v"], fields["cutoff_v"] = tuple(v * share for v in base.open_v), base.cutoff_v * share
    if own.kind == "paint" and fields.get("density"):
        fields["scatter"] = fields["absorb"] = 0.0  # a density read is that of what absorbs
    if "basis" in base._fields:
        fields["basis"] = "measured"
    return base._replace(id=own.id, name=own.name, **fields)


def own_id(name: str) -> str:
    """The id of a part called so."""
    return f"my-{re.sub(r'[^a-z0-9]+', '-', name.lower()).strip('-')[:60] or 'part'}"


def made_like(catalogue: Catalogue, kind: str, like: str, name: str, figures: Mapping[str, float]) -> OwnPart:
    """A part of one's own like one of the catalogue; figures that are as that has them are left out.

    Raises
    ------
    PlanError
        Without a name, or where a figure is out of its bounds.
    """
    name = " ".join(name.split())
    table = likes(catalogue, kind)
    if not name or len(name) > 80:
        raise PlanError(
            "Your part",
            "it has no name of its own" if not name else "its name is too long",
            "a name of up to 80 letters",
        )
    if like not in table:
        raise unknown("Your part, like", like, table)
    if own_id(name) in built_in_ids():
        raise PlanError("Your part", f"a generic part is called so: {name}", "a name of its own")
    kept = {}
    for figure in KINDS[kind].figures:
        if figure.id not in figures:
            continue
        value = float(figures[figure.id])
        if not figure.low <= value <= figure.high:
            raise PlanError(f"Your part, {figure.words.lower()}", f"{value:g} {figure.unit}".strip(), f"{figure.low:g} to {figure.high:g} {figure.unit}".strip())  # fmt: skip
        if abs(value - figure.of(table[like])) > 1e-9 * max(1.0, abs(value)):
            kept[figure.id] = value
    return OwnPart(kind, own_id(name), name, like, MappingProxyType(kept))


def built_in_ids() -> frozenset[str]:
    """Ids that no part of one's own may take."""
    generic = built_in()
    return frozenset(i for k in KINDS.values() for i in getattr(generic, k.table))


def own_from_csv(text: str) -> dict[str, OwnPart]:
    """Own parts by id from CSV with a heading row.

    Raises
    ------
    PlanError
        Naming the row, the column and what is accepted; nothing is taken in then.
    """
    rows = read_rows(text, "Own parts", 10 * MOST)
    heading = [c.strip() for c in rows[0][1]] if rows else []
    known = {f.id for k in KINDS.values() for f in k.figures}
    strange = [c for c in heading[len(FIRST) :] if c not in known]
    if heading[: len(FIRST)] != list(FIRST) or strange or len(set(heading)) != len(heading):
        found = f"column “{strange[0][:40]}”" if strange else "the heading isn’t " + ", ".join(FIRST) + " and figures"
        raise PlanError("Own parts, row 1", found, ", ".join((*FIRST, *sorted(known))))
    generic, out = built_in(), {}
    for number, cells in rows[1:]:
        where = f"Own parts, row {number}"
        if len(cells) != len(heading):
            raise PlanError(where, f"{len(cells)} values", f"{len(heading)}, as in the heading")
        kind, part_id, name, like = (c.strip() for c in cells[: len(FIRST)])
        if kind not in KINDS:
            raise PlanError(f"{where}, kind", f"“{kind[:40]}”", ", ".join(KINDS))
        figures = {}
        for column, cell in zip(heading[len(FIRST) :], cells[len(FIRST) :], strict=True):
            if not cell.strip():
                continue
            figure = KINDS[kind].figure(column)
            if figure is None:
                raise PlanError(
                    f"{where}, {column}", f"a {kind} has no such figure", ", ".join(f.id for f in KINDS[kind].figures)
                )
            figures[column] = read_figure(cell, f"{where}, {column}", figure.low, figure.high)
        try:
            made = made_like(generic, kind, like, name, figures)
        except PlanError as error:
            raise PlanError(where, error.found, error.accepted) from None
        if part_id and not re.fullmatch(r"my-[A-Za-z0-9._-]{1,76}", part_id):
            raise PlanError(f"{where}, id", f"“{part_id[:60]}”", "an id that begins with my-, or none")
        made = made._replace(id=part_id or made.id)
        if made.id in out:
            raise PlanError(f"{where}, id", f"“{made.id}” is there already", "an id of its own")
        out[made.id] = made
        if len(out) > MOST:
            raise PlanError(where, f"more than {MOST} parts", f"up to {MOST}")
    return out


def own_to_csv(parts: Iterable[OwnPart]) -> str:
    """CSV that ``own_from_csv`` reads again, with the columns that some part has."""
    parts = list(parts)
    columns = [
        i for i in dict.fromkeys(f.id for k in KINDS.values() for f in k.figures) if any(i in p.figures for p in parts)
    ]
    rows = [
        (p.kind, p.id, p.name, p.like, *(f"{p.figures[c]:.12g}" if c in p.figures else "" for c in columns))
        for p in sorted(parts, key=lambda p: (p.kind, p.name, p.id))
    ]
    return write_table((*FIRST, *columns), rows)
