"""Where the user's own parts are kept: a CSV under the XDG data folder."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_data_path

from gwiazda.core.errors import GwiazdaError, PlanFileError
from gwiazda.core.exchange import parts_csv as own
from gwiazda.core.parts import catalogue
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


def load() -> str:
    """Put the kept parts into the catalogue; returns a sentence when they can't be read."""
    if not place().exists():
        return ""
    try:
        catalogue.set_own(*own.parts_from_csv(read(place())))
    except GwiazdaError as error:
        return str(error)
    return ""


def take_in(path: Path) -> int:
    """Add the parts of a file to the user's own, replacing those of the same id; returns how many it has."""
    lamps, families = own.parts_from_csv(read(path))
    before = catalogue.own_lamps()
    old_families = {p.family: catalogue.families()[p.family] for p in before.values() if p.family.startswith("own-")}
    merged = {**before, **lamps}
    catalogue.set_own(merged, {**old_families, **families})
    place().parent.mkdir(parents=True, exist_ok=True)
    write_atomically(place(), own.parts_to_csv(merged.values()).encode())
    return len(lamps)
