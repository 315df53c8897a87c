"""Plans opened or saved lately, newest first."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSettings

MOST = 8
KEY = "recent"


def paths() -> list[Path]:
    """Those of them that are still there."""
    kept = QSettings().value(KEY, [])
    names = [kept] if isinstance(kept, str) else list(kept or [])  # type: ignore[call-overload]
    return [p for p in map(Path, names) if p.is_file()][:MOST]


def add(path: Path) -> None:
    """Put a plan in front."""
    path = path.absolute()
    QSettings().setValue(KEY, [str(p) for p in [path, *(p for p in paths() if p != path)][:MOST]])
