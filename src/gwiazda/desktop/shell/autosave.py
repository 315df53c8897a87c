"""Autosaves under the XDG state folder: written while a plan has unsaved changes, offered again after a kill or a leaving.

Each sitting at a plan has a slot of its own, so that no window writes over another's. Whether a slot is in use is told by
a lock its process holds on it, never by clocks: those are set back, and a plan's worth of work is not to hang on them.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
from pathlib import Path

from gwiazda.core.errors import GwiazdaError
from gwiazda.core.files import make_folder
from gwiazda.core.plan.storage import PlanFile, load, save

MOST_KEPT = 60  # slots that nobody uses; the oldest of more are dropped
ENDING = ".gwiazda"
DECLINED = ".declined"  # offered, and the plan saved without it: kept a while, not offered again


def folder() -> Path:
    from platformdirs import user_state_path

    return user_state_path("gwiazda") / "autosave"


def _name_of(path: Path | None) -> str:
    """How the slots of a plan begin; all plans that were never saved begin alike."""
    if path is None:
        return "untitled"
    return hashlib.sha256(os.fsencode(os.path.realpath(path))).hexdigest()[:20]


class Slot:
    """Where one sitting at a plan is kept."""

    def __init__(self, path: Path | None) -> None:
        self.path = path
        self.place = folder() / f"{_name_of(path)}-{os.urandom(6).hex()}{ENDING}"
        self._lock = -1

    def write(self, file: PlanFile) -> None:
        """Keep a copy beside the real file.

        Raises
        ------
        PlanFileError
            When it can't be written.
        """
        make_folder(self.place.parent)
        self._hold()
        save(file, self.place)

    def _hold(self) -> None:
        if self._lock < 0:
            with contextlib.suppress(OSError):
                self._lock = os.open(_lock_of(self.place), os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
                fcntl.flock(self._lock, fcntl.LOCK_EX | fcntl.LOCK_NB)

    def leave(self) -> None:
        """Sit at it no longer; what is in it stays, to be offered again."""
        if self._lock >= 0:
            os.close(self._lock)
            self._lock = -1
        with contextlib.suppress(OSError):
            if not self.place.exists():
                _lock_of(self.place).unlink(missing_ok=True)

    def drop(self) -> None:
        """Forget what is in it, once the plan itself is safe."""
        with contextlib.suppress(OSError):
            self.place.unlink(missing_ok=True)
        self.leave()


def _lock_of(place: Path) -> Path:
    return place.with_suffix(".lock")


def _in_use(place: Path) -> bool:
    try:
        handle = os.open(_lock_of(place), os.O_RDWR | os.O_CLOEXEC)
    except OSError:
        return False
    try:
        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return True
    finally:
        os.close(handle)
    return False


def _stamp(place: Path) -> float:
    try:
        return place.stat().st_mtime
    except OSError:
        return 0.0


def _slots(pattern: str) -> list[Path]:
    """Slots that nobody sits at, the newest first."""
    try:
        places = [p for p in folder().glob(f"{pattern}{ENDING}") if p.is_file() and not _in_use(p)]
    except OSError:
        return []
    return sorted(places, key=_stamp, reverse=True)


def waiting(path: Path | None) -> tuple[Path, PlanFile] | None:
    """What a killed session left for this plan (None: for one that was never saved), different from the plan's own file."""
    places = [p for p in _slots(f"{_name_of(path)}-*") if not p.stem.endswith(DECLINED)]
    own = None
    if path is not None and places:
        with contextlib.suppress(GwiazdaError):
            own = load(path).plan
    for place in places:
        try:
            file = load(place)
        except GwiazdaError:
            continue
        if file.plan != own:
            return place, file
    return None


def forget(place: Path) -> None:
    """Drop a slot whose plan was taken up again and is kept in another now."""
    with contextlib.suppress(OSError):
        place.unlink(missing_ok=True)
        _lock_of(place).unlink(missing_ok=True)


def decline(place: Path) -> None:
    """Its plan was saved without what was left of it: that isn't offered again, and stays for a while all the same."""
    with contextlib.suppress(OSError):
        place.rename(place.with_name(f"{place.stem}{DECLINED}{ENDING}"))
        _lock_of(place).unlink(missing_ok=True)


def tidy() -> None:
    """Drop the oldest of many that nobody has asked for, and locks of none."""
    for place in _slots("*")[MOST_KEPT:]:
        forget(place)
    with contextlib.suppress(OSError):
        for lock in folder().glob("*.lock"):
            place = lock.with_suffix(ENDING)
            if not place.exists() and not _in_use(place):
                lock.unlink(missing_ok=True)
