"""SVG that isn't plain, drawn in a process of its own, with limits; the window gets a picture, as of a page of a PDF.

``python -m gwiazda.desktop.svg_trial FILE OUT.png`` draws one. What is plain by its looks (few elements, nothing that
tiles, filters, masks or uses its own parts) the window draws itself, sharp at every size.
"""

from __future__ import annotations

import sys
import threading
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from gwiazda.core.errors import GwiazdaError, PlanError, PlanFileError
from gwiazda.core.memo import memoize

if TYPE_CHECKING:
    from gwiazda.core.plan.outline.svg_shapes import ClosedShape

MEMORY_BYTES, CPU_SECONDS, WAIT_S = 2 * 2**30, 8, 15
SIZE_PX = 3000  # the longer side
MOST_KEPT = 16
QUICK_BYTES = 20_000  # of an SVG whose shapes are looked for on the interface thread


class Shown(NamedTuple):
    """How an SVG may be shown: as it is (``plain``), as the picture ``png``, or not at all."""

    plain: bool
    png: bytes = b""
    size: tuple[float, float] = (0.0, 0.0)  # of the picture, in the drawing's own units

    def __bool__(self) -> bool:
        return self.plain or bool(self.png)


_known: dict[bytes, Shown] = {}
_under_way: set[bytes] = set()
_lock = threading.Lock()


def main(arguments: list[str]) -> int:
    import resource

    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_BYTES, MEMORY_BYTES))
    resource.setrlimit(resource.RLIMIT_CPU, (CPU_SECONDS, CPU_SECONDS))
    return _write_shapes(*arguments[1:]) if arguments[0] == "--shapes" else _write_picture(arguments)


def _write_shapes(path: str, out: str) -> int:
    import pickle

    from gwiazda.core.plan.outline.svg_shapes import closed_shapes

    try:
        found: object = closed_shapes(Path(path).read_bytes())
    except GwiazdaError as error:
        found = (error.where, error.found, error.accepted)
    Path(out).write_bytes(pickle.dumps(found))
    return 0


def _write_picture(arguments: list[str]) -> int:
    from PySide6.QtCore import QByteArray, Qt
    from PySide6.QtGui import QGuiApplication, QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    application = QGuiApplication(["trial", "-platform", "offscreen"])
    renderer = QSvgRenderer(QByteArray(Path(arguments[0]).read_bytes()))
    box = renderer.viewBoxF()
    if not renderer.isValid() or application is None or box.width() <= 0 or box.height() <= 0:
        return 2
    k = SIZE_PX / max(box.width(), box.height())
    image = QImage(
        max(round(box.width() * k), 1), max(round(box.height() * k), 1), QImage.Format.Format_ARGB32_Premultiplied
    )
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    renderer.render(painter)
    painter.end()
    print(box.width(), box.height())
    return 0 if image.save(arguments[1], "PNG") else 2  # type: ignore[call-overload]


def _tried(data: bytes, *options: str) -> tuple[bytes, bytes] | None:
    """What the limited process said and wrote; None where it came to no end."""
    import subprocess
    import tempfile

    with tempfile.TemporaryDirectory(prefix="gwiazda-") as folder:
        path, out = Path(folder) / "trial.svg", Path(folder) / "out"
        path.write_bytes(data)
        try:
            done = subprocess.run(
                [sys.executable, "-m", __name__, *options, str(path), str(out)],
                stdin=subprocess.DEVNULL, capture_output=True, timeout=WAIT_S, check=False,
            )  # fmt: skip
            return (done.stdout, out.read_bytes()) if done.returncode == 0 else None
        except (subprocess.TimeoutExpired, OSError):
            return None


def _drawn(data: bytes) -> Shown:
    made = _tried(data)
    if made is None:
        return Shown(False)
    width, height = made[0].split()
    return Shown(False, made[1], (float(width), float(height)))


@memoize(slots=4)
def shapes_within_limits(data: bytes) -> tuple[ClosedShape, ...]:
    """Closed shapes of an SVG; of one that is large, in a process of its own with limits: not for the interface thread.

    Raises
    ------
    PlanError
        For what can't be read, or takes too long.
    """
    import pickle

    from gwiazda.core.plan.outline.svg_shapes import closed_shapes

    if few_shapes(data):
        return closed_shapes(data)
    made = _tried(data, "--shapes")
    if made is None:
        raise PlanError("SVG", "finding its shapes takes too long", "a plainer drawing of the kit")
    found = pickle.loads(made[1])  # written by our own process a moment ago
    if found and isinstance(found[0], str):
        raise PlanError(*found)
    return tuple(found)


def few_shapes(data: bytes) -> bool:
    """Whether the shapes of an SVG are found in no time."""
    return len(data) < QUICK_BYTES


def _find(data: bytes) -> Shown:
    from gwiazda.core.plan.outline.svg_clean import clean_svg

    try:
        found = Shown(True) if clean_svg(data, "Drawing").plain else _drawn(data)
    except PlanFileError:
        found = Shown(False)
    with _lock:
        _known[data] = found
        while len(_known) > MOST_KEPT:
            del _known[next(iter(_known))]
        _under_way.discard(data)
    return found


def shown(data: bytes, wait: bool) -> Shown | None:
    """How an SVG may be shown; None while that is being found out, which ``wait`` waits for."""
    with _lock:
        if data in _known:
            return _known[data]
        asked = data in _under_way
        _under_way.add(data)
    if wait:
        return _find(data)
    if len(data) < 2_000_000 and not asked and _plain(data):
        return _find(data)
    if not asked:
        threading.Thread(target=_find, args=(data,), daemon=True, name="svg-trial").start()
    return None


def _plain(data: bytes) -> bool:
    """Whether it takes no process of its own, cheaply found."""
    return not any(word in data for word in (b"<use", b":use", b"pattern", b"filter", b"mask", b"image", b"marker"))


if __name__ == "__main__":
    raise SystemExit(main(sys.argv[1:]))
