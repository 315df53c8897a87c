"""The user's own lamps beside the catalogue: CSV in and out, diode parameters from their data sheets' points.

Nothing is half taken in: a file with one wrong value changes nothing, and says row, column and what is accepted.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from typing import Any

from gwiazda.core.circuit.parts.diode import parameters_from_points
from gwiazda.core.errors import PlanError
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.parts.lamps import Family, LampPart, lamp_forms
from gwiazda.core.tables import Table, read_figure, read_rows

COLUMNS = (
    "id", "name", "form", "length_mm", "width_mm", "height_mm", "lens", "colour", "beam_deg", "rated_ma", "axial_mcd",
    "v20_v", "v1_v", "rs_ohm", "basis",
)  # fmt: skip
EXTRA = ("leds", "inner_ohm", "volts", "rectified", "flash_hz", "flux_lm", "lump_mm", "leads_mm", "spread_v")
FORMS = tuple(lamp_forms())
_LIMITS = {
    "length_mm": (0.1, 100.0), "width_mm": (0.1, 100.0), "height_mm": (0.1, 100.0), "beam_deg": (1.0, 179.0),
    "rated_ma": (0.1, 3000.0), "axial_mcd": (0.01, 1e6), "v20_v": (0.5, 15.0), "v1_v": (0.5, 15.0), "rs_ohm": (0.0, 500.0),
    "leds": (1, 20), "inner_ohm": (0.0, 1e5), "volts": (0.0, 60.0), "rectified": (0, 1), "flash_hz": (0.0, 20.0),
    "flux_lm": (0.0, 1e4), "lump_mm": (0.0, 20.0), "leads_mm": (0.0, 2000.0), "spread_v": (0.0, 2.0),
}  # fmt: skip
MAX_ROWS = 2000


def colours() -> dict[str, Mapping[str, float]]:
    """Colours a lamp may have, with their spectra."""
    return {p.colour: p.spectrum for p in built_in().lamps.values()}


def _number(row: int, column: str, text: str) -> float:
    low, high = _LIMITS[column]
    return read_figure(text, f"Parts, row {row}, {column}", low, high)


def parts_from_csv(text: str) -> tuple[dict[str, LampPart], dict[str, Family]]:
    """Lamps and their diode families from CSV with a heading row.

    ``v20_v``, ``v1_v`` and ``rs_ohm`` (forward voltage at 20 mA and 1 mA, slope) may be left empty together; the
    family of the colour stands in. The columns of ``EXTRA`` may be left out: leds in series, built-in resistor, what
    voltage it is meant for, 1 for a rectifier in the lead, flashes a second, all of its light where that is more than its
    beam, how thick the lump in its leads is, how long the leads are that it comes with, one sigma of its forward voltage.

    Raises PlanError naming row and column.
    """
    rows = [row for _, row in read_rows(text, "Parts", 10 * MAX_ROWS)]
    if not rows:
        raise PlanError("Parts", "the file is empty", "a heading row with " + ", ".join(COLUMNS))
    heading = [c.strip() for c in rows[0]]
    missing = [c for c in COLUMNS if c not in heading and c not in ("v20_v", "v1_v", "rs_ohm", "basis", "name")]
    strange = [c for c in heading if c not in COLUMNS and c not in EXTRA]
    if missing or strange:
        found = f"column “{strange[0]}”" if strange else f"no column “{missing[0]}”"
        raise PlanError("Parts, row 1", found, ", ".join(COLUMNS))
    if len(rows) > MAX_ROWS + 1:
        raise PlanError("Parts", f"{len(rows) - 1} rows", f"up to {MAX_ROWS}")
    lamps: dict[str, LampPart] = {}
    families: dict[str, Family] = {}
    known = colours()
    kinds = {p.colour: p.family for p in built_in().lamps.values()}
    for number, cells in enumerate(rows[1:], 2):
        if len(cells) != len(heading):
            raise PlanError(f"Parts, row {number}", f"{len(cells)} values", f"{len(heading)}, as in the heading")
        row = {c: v.strip() for c, v in zip(heading, cells, strict=True)}
        part_id = row["id"]
        if not re.fullmatch(r"[A-Za-z0-9._-]{1,80}", part_id):
            raise PlanError(f"Parts, row {number}, id", f"“{part_id}”", "1 to 80 letters, digits, dots and dashes")
        if part_id in lamps or part_id in built_in().lamps:
            raise PlanError(f"Parts, row {number}, id", f"“{part_id}” is there already", "an id of its own")
        for column, accepted in (("form", FORMS), ("lens", ("clear", "frosted")), ("colour", tuple(known))):
            if row[column] not in accepted:
                raise PlanError(f"Parts, row {number}, {column}", f"“{row[column]}”", ", ".join(accepted))
        basis = row.get("basis") or "typical"
        if basis not in ("typical", "measured"):
            raise PlanError(f"Parts, row {number}, basis", f"“{basis}”", "typical or measured")
        value = {
            c: _number(number, c, row[c])
            for c in ("length_mm", "width_mm", "height_mm", "beam_deg", "rated_ma", "axial_mcd")
        }
        family = kinds[row["colour"]]
        points = [row.get(c, "") for c in ("v20_v", "v1_v", "rs_ohm")]
        if any(points):
            v20, v1, rs = (_number(number, c, t) for c, t in zip(("v20_v", "v1_v", "rs_ohm"), points, strict=True))
            try:
                parameters_from_points(v20, v1, rs)
            except ValueError:
                raise PlanError(
                    f"Parts, row {number}, v20_v", f"{v20:g} V at 20 mA and {v1:g} V at 1 mA leave no junction beside {rs:g} Ω",
                    "v20_v above v1_v + 0.019 · rs_ohm",
                ) from None  # fmt: skip
            base = built_in().families[family]
            family = f"own-{part_id}"
            spread = _number(number, "spread_v", row["spread_v"]) if row.get("spread_v") else base.spread_v
            families[family] = Family(family, v20, v1, rs, spread, base.k, base.knee, base.k_low, basis)  # type: ignore[arg-type]
        lamps[part_id] = LampPart(
            part_id, row.get("name") or part_id, row["form"], (value["length_mm"], value["width_mm"], value["height_mm"]),
            row["lens"], row["colour"], family, known[row["colour"]], value["beam_deg"], value["rated_ma"], value["axial_mcd"],  # type: ignore[arg-type]
            basis,  # type: ignore[arg-type]
            **_extras(number, row),
        )  # fmt: skip
    return lamps, families


def _extras(number: int, row: Mapping[str, str]) -> dict[str, Any]:
    """What only some lamps have; a lamp that flashes is lit half the time."""
    given = {c: _number(number, c, row[c]) for c in EXTRA if c != "spread_v" and row.get(c)}
    out: dict[str, Any] = {**given}
    if "leds" in given:
        out["leds"] = round(given["leds"])
    if "rectified" in given:
        out["rectified"] = given["rectified"] > 0.5
    if given.get("flash_hz"):
        out["duty"] = 0.5
    return out


def parts_to_csv(parts: Iterable[LampPart], catalogue: Catalogue) -> str:
    """Lamps as CSV that ``parts_from_csv`` reads again."""
    parts = list(parts)
    # The extra columns only where a part needs them: what came in without them goes out the same.
    families = catalogue.families
    extra = EXTRA if any(_special(p, families[p.family]) for p in parts) else ()
    table = Table((*COLUMNS, *extra))
    for p in parts:
        f = families[p.family]
        table.row(
            [p.id, p.name, p.form, *(f"{v:g}" for v in p.size_mm), p.lens, p.colour, f"{p.beam_deg:g}", f"{p.rated_ma:g}",
             f"{p.axial_mcd:g}", f"{f.v20_v:g}", f"{f.v1_v:g}", f"{f.rs_ohm:g}", p.basis,
             *(f"{f.spread_v if c == 'spread_v' else float(getattr(p, c)):g}" for c in extra)]
        )  # fmt: skip
    return table.text()


def _special(part: LampPart, family: Family) -> bool:
    """Whether a lamp has anything that the plain columns don't say."""
    if any(getattr(part, c) != LampPart._field_defaults[c] for c in EXTRA if c != "spread_v"):
        return True
    usual = next(p.family for p in built_in().lamps.values() if p.colour == part.colour)
    return family.spread_v != built_in().families[usual].spread_v
