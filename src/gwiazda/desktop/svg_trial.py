"""An SVG drawn once in a process of its own, with limits, before the window draws it.

``python -m gwiazda.desktop.svg_trial FILE`` ends well when the drawing does. What is plain by its looks is drawn without a
trial; the rest waits for its own, and is left out when that doesn't end.
"""

from __future__ import annotations

import hashlib
import resource
import subprocess
import sys
import tempfile
import threading
from pathlib import Path

from gwiazda.core.errors import PlanFileError

MEMORY_BYTES, CPU_SECONDS, WAIT_S = 2 * 2**30, 8, 15
SIZE_PX = 1600
_known: dict[str, bool] = {}
_under_way: set[str] = set()
_lock = threading.Lock()


def main(arguments: list[str]) -> int:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_SECONDS, CPU_SECONDS))
    from PySide6.QtCore import QByteArray, QRectF
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    application = QGuiApplication(["trial", "-platform", "offscreen"])
    renderer = QSvgRenderer(QByteArray(Path(arguments[0]).read_bytes()))
    image = QImage(SIZE_PX, SIZE_PX, QImage.Format.Format_ARGB32_Premultiplied)
    painter = QPainter(image)
    renderer.render(painter, QRectF(0, 0, SIZE_PX, SIZE_PX))
    painter.end()
    return 0 if renderer.isValid() and application is not None else 2


def _tried(data: bytes) -> bool:
    with tempfile.TemporaryDirectory(prefix="gwiazda-") as folder:
        path = Path(folder) / "trial.svg"
        path.write_bytes(data)
        try:
            done = subprocess.run(
                [sys.executable, "-m", "gwiazda.desktop.svg_trial", str(path)],
                stdin=subprocess.DEVNULL, capture_output=True, timeout=WAIT_S, check=False,
            )  # fmt: skip
        except (subprocess.TimeoutExpired, OSError):
            return False
    return done.returncode == 0


def _find(key: str, data: bytes) -> bool:
    from gwiazda.core.plan.svg_clean import clean_svg

    try:
        good = clean_svg(data, "Drawing").plain or _tried(data)
    except PlanFileError:
        good = False
    with _lock:
        _known[key] = good
        _under_way.discard(key)
    return good


def may_draw(data: bytes, wait: bool) -> bool | None:
    """Whether an SVG may be drawn here; None while that is being found out, which ``wait`` waits for."""
    key = hashlib.sha256(data).hexdigest()
    with _lock:
        if key in _known:
            return _known[key]
        asked = key in _under_way
        _under_way.add(key)
    if wait:
        return _find(key, data)
    if len(data) < 2_000_000 and not asked and _plain(data):
        return _find(key, data)
    if not asked:
        threading.Thread(target=_find, args=(key, data), daemon=True, name="svg-trial").start()
    return None


def _plain(data: bytes) -> bool:
    """Whether it takes no trial, cheaply found."""
    return not any(word in data for word in (b"<use", b":use", b"pattern", b"filter", b"mask", b"image", b"marker"))


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
