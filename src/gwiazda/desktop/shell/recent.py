"""Plans opened or saved lately, newest first: where each was left, and what it looks like at night."""

from __future__ import annotations

import json
import math
import os
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from platformdirs import user_cache_path
from PySide6.QtCore import QSettings, QSize, Qt
from PySide6.QtGui import QImage

from gwiazda.core.errors import printable
from gwiazda.desktop.appraisal import keep

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

MOST = 8
KEY = "recent"
NIGHT = QSize(240, 120)
NIGHTS = 40  # pictures kept


def paths() -> list[Path]:
    """Those of them that are still there."""
    kept = QSettings().value(KEY, [])
    names = [kept] if isinstance(kept, str) else list(kept or [])  # type: ignore[call-overload]
    return [p for p in map(Path, names) if p.is_file()][:MOST]


def add(path: Path) -> None:
    """Put a plan in front."""
    path = path.absolute()
    if printable(str(path)) != str(path):
        return  # settings hold text, and this name is none
    QSettings().setValue(KEY, [str(p) for p in [path, *(p for p in paths() if p != path)][:MOST]])


def _mark(path: Path) -> str:
    import hashlib  # not needed for the first picture

    return hashlib.sha1(os.fsencode(path.absolute()), usedforsecurity=False).hexdigest()[:20]


def night_path(path: Path) -> Path:
    """Where the night picture of a plan is kept."""
    return user_cache_path("gwiazda") / "nights" / f"{_mark(path)}.png"


def night_of(path: Path) -> QImage | None:
    """The night picture of a plan as it was left, or None."""
    image = QImage(str(night_path(path)))
    return None if image.isNull() else image


def _keep_night(path: Path, image: QImage | None) -> None:
    if image is None or image.isNull():
        return
    where = night_path(path)
    small = image.scaled(
        NIGHT, Qt.AspectRatioMode.KeepAspectRatioByExpanding, Qt.TransformationMode.SmoothTransformation
    )
    left, top = (small.width() - NIGHT.width()) // 2, (small.height() - NIGHT.height()) // 2
    try:
        where.parent.mkdir(parents=True, exist_ok=True)
        small.copy(left, top, NIGHT.width(), NIGHT.height()).save(str(where), "PNG")  # type: ignore[call-overload]
        old = sorted(where.parent.glob("*.png"), key=lambda p: p.stat().st_mtime, reverse=True)[NIGHTS:]
        for p in old:
            p.unlink(missing_ok=True)
    except OSError:
        pass  # a picture less on the empty plate


def leave(window: MainWindow) -> None:
    """Keep where the open plan is left, and its night picture; a plan without a file has no place to keep."""
    path, plate = window.document.path, window.plate
    if path is None:
        return
    middle = plate.extent.to_mm(plate.extent.width / 2, plate.extent.height / 2)
    left = {
        "station": window.station, "view": plate.view.id, "wipe": round(plate.wipe, 4), "round": plate.rounding,
        "zoom": None if plate.fitted else [round(middle[0], 3), round(middle[1], 3), plate.extent.scale],
    }  # fmt: skip
    QSettings().setValue(f"left/{_mark(path)}", json.dumps(left))
    document = window.document
    if document.plan.sections and not document.dirty:
        _keep_night(path, plate.night.image)
        if document.settled:
            keep(document.plan, document.assessment)


def come_back(window: MainWindow) -> None:
    """Go where the plan that was just opened was left: station, view, wipe, zoom. What is not there any more is passed over."""
    from gwiazda.desktop.stations.registry import BY_ID

    path, plate = window.document.path, window.plate
    if path is None:
        return
    try:
        left: dict[str, Any] = json.loads(str(QSettings().value(f"left/{_mark(path)}", "{}")))
        station, view, wipe, zoom = (left.get(k) for k in ("station", "view", "wipe", "zoom"))
        if station in BY_ID and station != window.station:
            window.set_station(str(station))
        if any(v.id == view for v in window.document.plan.views):
            plate.set_view(str(view))
        if isinstance(wipe, int | float) and math.isfinite(wipe):
            plate.set_wipe(float(wipe))
        if zoom is not None:
            across, down, scale = map(float, zoom)
            w, h = plate.extent.width, plate.extent.height
            if all(map(math.isfinite, (across, down, scale))) and 1e-3 < scale < 1e4:
                plate.show_part(replace(plate.extent, scale=scale, left_mm=across - w / scale / 2, top_mm=down - h / scale / 2))  # fmt: skip
        if left.get("round") is True:
            window.bar.toggle_round()
    except (ValueError, TypeError, AttributeError):
        pass  # settings somebody else wrote
