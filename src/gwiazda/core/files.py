"""Writing files so that nothing is lost: a neighbour, flushed to the disk, renamed over the old one."""

from __future__ import annotations

import contextlib
import os
import re
from pathlib import Path

from gwiazda.core.errors import PlanFileError


def write_atomically(path: Path, data: bytes) -> None:
    """Replace ``path`` by ``data``, or leave it as it was; what killed writers left beside it is cleared.

    Raises
    ------
    PlanFileError
        When it can't be written.
    """
    neighbour = path.with_name(f".{path.name}.{os.getpid()}.part")
    try:
        with neighbour.open("wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.replace(neighbour, path)
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as error:
        with contextlib.suppress(OSError):
            neighbour.unlink(missing_ok=True)
        raise PlanFileError(path.name, f"can't be written ({error.strerror})", "a place you may write to") from None
    clear_parts(path)


def clear_parts(path: Path) -> None:
    """Remove what killed writers of ``path`` left beside it; those still at work keep theirs."""
    pattern = re.compile(re.escape(f".{path.name}.") + r"(\d+)\.part")
    try:
        names = os.listdir(path.parent)
    except OSError:
        return
    for name in names:
        match = pattern.fullmatch(name)
        if match and int(match.group(1)) != os.getpid() and not _runs(int(match.group(1))):
            with contextlib.suppress(OSError):
                path.with_name(name).unlink()


def _runs(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    except (OSError, OverflowError):
        return True
    return True


def set_aside(path: Path) -> Path | None:
    """Give an unreadable file another name beside its own, so that nothing is written over it; the new place."""
    for number in range(1, 1000):
        other = path.with_name(f"{path.stem}.unreadable-{number}{path.suffix}")
        if not other.exists():
            try:
                path.rename(other)
            except OSError:
                return None
            return other
    return None
