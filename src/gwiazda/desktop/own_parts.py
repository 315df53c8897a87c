"""Where the user's own parts are kept: a CSV under the XDG data folder."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path

from platformdirs import user_data_path

from gwiazda.core.circuit.datasheet import Fit
from gwiazda.core.errors import GwiazdaError, PlanFileError
from gwiazda.core.exchange import parts_csv as own
from gwiazda.core.exchange.coats_json import coats_from_json, coats_to_json
from gwiazda.core.light.swatch import Swatch
from gwiazda.core.parts import catalogue
from gwiazda.core.parts.catalogue import Coat, Family, LampPart
from gwiazda.core.plan.storage import write_atomically

MAX_BYTES = 2**20


def place() -> Path:
    return user_data_path("gwiazda") / "parts.csv"


def read(path: Path) -> str:
    """Text of a CSV file; raises PlanFileError for what can't be read."""
    try:
        if path.stat().st_size > MAX_BYTES:
            raise PlanFileError(path.name, f"{path.stat().st_size / 2**20:.0f} MB", "a parts list of up to 1 MB")
        return path.read_text(encoding="utf-8-sig")
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "not UTF-8 text"
        raise PlanFileError(path.name, f"can't be read ({reason})", "a CSV file in UTF-8") from None


def coats_place() -> Path:
    return user_data_path("gwiazda") / "coats.json"


def load() -> str:
    """Put the kept parts and coats into the catalogue; returns a sentence when they can't be read."""
    said = []
    for there, take in (
        (place(), lambda text: catalogue.set_own(*own.parts_from_csv(text))),
        (coats_place(), lambda text: catalogue.set_own_coats(coats_from_json(text))),
    ):
        if there.exists():
            try:
                take(read(there))
            except GwiazdaError as error:
                said.append(str(error))
    return " ".join(said)


def keep_coat(name: str, swatch: Swatch, reflectance: float) -> str:
    """A measured paint beside the generic coats, in the catalogue and on disk; returns its id."""
    stem = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] or "paint"
    coat_id = f"my-{stem}"
    made = Coat(
        coat_id, name, "paint", round(swatch.density, 3), reflectance, 12.0, "measured", round(swatch.spread, 3)
    )
    merged = {**catalogue.own_coats(), coat_id: made}
    catalogue.set_own_coats(merged)
    coats_place().parent.mkdir(parents=True, exist_ok=True)
    write_atomically(coats_place(), coats_to_json(merged.values()).encode())
    return coat_id


def _add(lamps: Mapping[str, LampPart], families: Mapping[str, Family]) -> None:
    """Put parts beside the user's own, replacing those of the same id, in the catalogue and on disk."""
    before = catalogue.own_lamps()
    old_families = {p.family: catalogue.families()[p.family] for p in before.values() if p.family.startswith("own-")}
    merged = {**before, **lamps}
    catalogue.set_own(merged, {**old_families, **families})
    place().parent.mkdir(parents=True, exist_ok=True)
    write_atomically(place(), own.parts_to_csv(merged.values()).encode())


def keep(part: LampPart, name: str, fit: Fit, beam_deg: float, axial_mcd: float, rated_ma: float) -> str:
    """A part like ``part`` with a diode fitted to its data sheet, kept as measured; returns its id."""
    stem = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] or "part"
    part_id, number = f"my-{stem}", 2
    while part_id in catalogue.lamp_parts():
        part_id, number = f"my-{stem}-{number}", number + 1
    base = catalogue.families()[part.family]
    family = Family(f"own-{part_id}", fit.volts(0.020), fit.volts(0.001), fit.rs_ohm, base.spread_v, base.k, "measured")
    made = part._replace(
        id=part_id, name=name, family=family.id, beam_deg=beam_deg, axial_mcd=axial_mcd, rated_ma=rated_ma, basis="measured", body=""
    )  # fmt: skip
    _add({part_id: made}, {family.id: family})
    return part_id


def take_in(path: Path) -> int:
    """Add the parts of a file to the user's own, replacing those of the same id; returns how many it has."""
    lamps, families = own.parts_from_csv(read(path))
    _add(lamps, families)
    return len(lamps)
