"""Reading and writing files so that nothing hangs and nothing is lost: only plain files are read, and what is written is
a neighbour, flushed to the disk, renamed over the old one.
"""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import os
import re
import stat
from collections.abc import Iterator
from pathlib import Path
from typing import BinaryIO

from gwiazda.core.errors import PlanFileError, printable

LONGEST_NAME = 200  # bytes; file systems take 255, and a neighbour's name is longer


def _reason(error: OSError) -> str:
    return error.strerror or type(error).__name__


def open_plain(path: Path) -> BinaryIO:
    """Open a plain file to read; a pipe or a device would keep the reader waiting.

    Raises
    ------
    PlanFileError
        When it is no plain file, or can't be opened.
    """
    try:
        if not stat.S_ISREG(path.stat().st_mode):
            kind = "a folder" if path.is_dir() else "a pipe or a device"
            raise PlanFileError(path.name or str(path), f"is {kind}", "a plain file")
        return path.open("rb")
    except (OSError, ValueError) as error:
        reason = _reason(error) if isinstance(error, OSError) else "no such name"
        raise PlanFileError(path.name, f"can't be opened ({reason})", "a file you may read") from None


def read_plain(path: Path, limit: int, what: str = "a file") -> bytes:
    """All of a plain file of up to ``limit`` bytes.

    Raises
    ------
    PlanFileError
        When it is no plain file, can't be read or is larger.
    """
    with open_plain(path) as stream:
        try:
            data = stream.read(limit + 1)
        except OSError as error:
            raise PlanFileError(path.name, f"can't be read ({_reason(error)})", "a file you may read") from None
    if len(data) > limit:
        size = os.path.getsize(path) / 2**20
        raise PlanFileError(path.name, f"{size:.0f} MB", f"{what} of up to {limit / 2**20:g} MB")
    return data


def fingerprint(path: Path | None) -> str | None:
    """What tells one content of a file from another; None where there is no readable file."""
    if path is None:
        return None
    try:
        with open_plain(path) as stream:
            digest = hashlib.sha256()
            while block := stream.read(2**20):
                digest.update(block)
            return digest.hexdigest()
    except (PlanFileError, OSError):
        return None


def refuse_ending(path: Path, what: str, accepted: str) -> PlanFileError:
    """The error for a file name whose ending (.txt) ``what`` can't be written as."""
    found = f"can't be written as “{path.suffix}”" if path.suffix else f"“{path.name}” has no ending that says the form"
    return PlanFileError(what, found, accepted)


def short_name(name: str) -> str:
    """A name that leaves room for an ending; a long one is told by a few letters of its digest."""
    if len(os.fsencode(name)) <= LONGEST_NAME:
        return name
    return hashlib.sha256(os.fsencode(name)).hexdigest()[:16]


def _keep_owner(stream: BinaryIO, old: os.stat_result) -> None:
    """Give what is written the mode and owner of what it replaces, as far as one may."""
    os.fchmod(stream.fileno(), stat.S_IMODE(old.st_mode))
    if (old.st_uid, old.st_gid) != (os.geteuid(), os.getegid()):
        with contextlib.suppress(OSError):
            os.fchown(stream.fileno(), old.st_uid, old.st_gid)


def write_atomically(path: Path, data: bytes) -> None:
    """Replace ``path`` by ``data``, or leave it as it was; what killed writers left beside it is cleared.

    A link stays one: what it leads to is replaced. Mode and owner stay. A file that is read-only is not replaced.

    Raises
    ------
    PlanFileError
        When it can't be written.
    """
    real = Path(os.path.realpath(path))
    neighbour = real.with_name(f".{short_name(real.name)}.{os.getpid()}.part")
    try:
        old = real.stat() if real.exists() else None
        if old is not None and not stat.S_ISREG(old.st_mode):
            raise PlanFileError(path.name, "is no plain file", "a file that may be replaced")
        if old is not None and not (old.st_mode & 0o222 and os.access(real, os.W_OK)):
            raise PlanFileError(path.name, "is read-only", "another name, or a file you may write")
        with neighbour.open("wb") as stream:
            if old is not None:
                _keep_owner(stream, old)
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.replace(neighbour, real)
        folder = os.open(real.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
    except OSError as error:
        with contextlib.suppress(OSError):
            neighbour.unlink(missing_ok=True)
        raise PlanFileError(path.name, f"can't be written ({_reason(error)})", "a place you may write to") from None
    clear_parts(real)


def make_folder(folder: Path) -> None:
    """Make a folder with those above it.

    Raises
    ------
    PlanFileError
        When it can't be made, as where a file is in its place.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise PlanFileError(str(folder), f"can't be made ({_reason(error)})", "a folder that may be written") from None


@contextlib.contextmanager
def locked(path: Path) -> Iterator[None]:
    """While inside, no other process is inside with the same path; where locks can't be had, nothing is waited for."""
    handle = -1
    with contextlib.suppress(OSError):
        handle = os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        fcntl.flock(handle, fcntl.LOCK_EX)
    try:
        yield
    finally:
        if handle >= 0:
            os.close(handle)


def clear_parts(path: Path) -> None:
    """Remove what killed writers of ``path`` left beside it; those still at work keep theirs."""
    pattern = re.compile(re.escape(f".{short_name(path.name)}.") + r"(\d+)\.part")
    try:
        names = os.listdir(path.parent)
    except (OSError, ValueError):
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


def free_name(path: Path, word: str) -> Path:
    """A name beside a file's own that nothing has yet: ``deck.other-1.gwiazda``."""
    number = 1
    while (other := path.with_name(f"{short_name(path.stem)}.{word}-{number}{path.suffix}")).exists():
        number += 1
    return other


def set_aside(path: Path) -> Path | None:
    """Give an unreadable file another name beside its own, so that nothing is written over it; the new place."""
    other = free_name(path, "unreadable")
    try:
        path.rename(other)
    except OSError:
        return None
    return other


def shown_name(path: Path) -> str:
    """A file's name as it can be shown, whatever bytes it is made of."""
    return printable(path.name)
