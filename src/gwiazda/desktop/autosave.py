"""Autosaves under the XDG state folder: written while a plan has unsaved changes, offered again after a kill."""

from __future__ import annotations

import os
import time
from pathlib import Path

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.plan.storage import PlanFile, load, save

KEEP_DAYS = 30


def folder() -> Path:
    from platformdirs import user_state_path

    return user_state_path("gwiazda") / "autosave"


def slot(path: Path | None) -> Path:
    """Where the autosave of a plan lies; a plan that was never saved has one slot of its own."""
    if path is None:
        return folder() / "untitled.gwiazda"
    import hashlib

    digest = hashlib.sha256(str(path.resolve()).encode()).hexdigest()[:16]
    return folder() / f"{path.stem}-{digest}.gwiazda"


def write(file: PlanFile, path: Path | None) -> Path:
    """Save a copy beside the real file; raises PlanFileError when that can't be done."""
    place = slot(path)
    place.parent.mkdir(parents=True, exist_ok=True)
    save(file, place)
    return place


def drop(path: Path | None) -> None:
    """Forget the autosave, once the plan itself is safe."""
    slot(path).unlink(missing_ok=True)


def waiting(path: Path | None) -> PlanFile | None:
    """What a killed session left for this plan: newer than the plan's own file, and different from it."""
    place = slot(path)
    try:
        if path is not None and place.stat().st_mtime < path.stat().st_mtime:
            return None
        file = load(place)
        if path is not None and load(path).plan == file.plan:
            return None
    except (OSError, GwiazdaError):
        return None
    return file


def tidy() -> None:
    """Drop autosaves that nobody has asked for in a month."""
    limit = time.time() - KEEP_DAYS * 86400
    if folder().is_dir():
        for entry in os.scandir(folder()):
            if entry.is_file() and entry.stat().st_mtime < limit:
                Path(entry.path).unlink(missing_ok=True)
