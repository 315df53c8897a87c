"""Pictures without a window in sight: the night side as PNG, and the demo's views."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from gwiazda.core.assess.assessment import assess
from gwiazda.core.errors import PlanError
from gwiazda.core.files import write_atomically
from gwiazda.core.parts.catalogue import Catalogue, built_in
from gwiazda.core.plan.storage import PlanFile, load
from gwiazda.desktop.plate.night import NightRenderer, NightSide, Shot
from gwiazda.desktop.plate.sheet import area_of, fit
from gwiazda.desktop.shell.export.preview import image_of
from gwiazda.desktop.svg_trial import shown


def night_image(
    file: PlanFile,
    view_id: str | None,
    size: tuple[int, int],
    weights: Mapping[str, float] | None = None,
    catalogue: Catalogue | None = None,
) -> QImage:
    """The night side of a view; raises PlanError for a view that isn't there."""
    from gwiazda.core.render.tone import middle_luminance, screen_table

    views = {v.id: v for v in file.plan.views}
    view = views.get(view_id) if view_id else file.plan.views[0]
    if view is None:
        raise PlanError("Night picture, view", f"there is no view “{view_id}”", ", ".join(views))
    pictures = dict(file.pictures)
    if view.drawing is not None and view.drawing.picture in pictures:
        shown(pictures[view.drawing.picture], wait=True)
    assessment = assess(file.plan, catalogue or built_in())
    window = fit(area_of(file.plan, view, pictures), *size, margin_px=0.05 * min(size))
    update = NightRenderer()(Shot(file.plan, assessment, view, window, pictures))
    assert update.picture is not None
    table = screen_table(middle_luminance(assessment.hull_cd_m2, file.plan.room.exposure_ev))
    return image_of(update.picture.frame(table, dict(weights or {})))


def write_night(
    file: PlanFile,
    path: str | Path,
    view_id: str | None,
    size: tuple[int, int],
    weights: Mapping[str, float] | None = None,
    catalogue: Catalogue | None = None,
) -> None:
    """Write the night side of a view as PNG."""
    from gwiazda.desktop.shell.application import make_application

    make_application()
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    night_image(file, view_id, size, weights, catalogue).save(buffer, "PNG")  # type: ignore[call-overload]
    write_atomically(Path(path), bytes(buffer.data().data()))


def write_views(plan_path: str | Path, folder: str | Path) -> list[Path]:
    """The window on each view and the night side of each, as PNGs; for where there is no display."""
    from gwiazda.desktop.shell.application import make_application
    from gwiazda.desktop.shell.window import MainWindow

    application = make_application()
    application.setProperty("keep", True)
    folder = Path(folder)
    folder.mkdir(parents=True, exist_ok=True)
    window = MainWindow()
    window.document.open(plan_path, as_demo=True)
    window.show()
    written = []
    for view in window.document.plan.views:
        window.plate.set_view(view.id)
        settle(window)
        path = folder / f"window-{view.id.rsplit('.', 1)[-1]}.png"
        window.grab().save(str(path))
        written.append(path)
    file = load(plan_path)
    for view in file.plan.views:
        path = folder / f"night-{view.id.rsplit('.', 1)[-1]}.png"
        write_night(file, path, view.id, (1600, 900))
        written.append(path)
    window.close()
    return written


def settle(window, night: bool = True) -> None:  # type: ignore[no-untyped-def]
    """Let the window finish what it is about: assessment, offers and, where it is waited for, the picture of the night."""
    import time

    from PySide6.QtWidgets import QApplication

    plate = window.plate
    deadline, rested = time.monotonic() + 30, 0
    while time.monotonic() < deadline:
        QApplication.processEvents()
        shot = plate.night.shot
        round_idle = not plate.rounding or plate.round.idle
        done = window.document.settled and window.inspector.idle and window.drawer.idle
        if not night:
            rested = rested + 1 if done else 0  # what came last may have set something going: once more
            if rested == 2:
                break
            if not done:
                time.sleep(0.002)
            continue
        done = done and plate.night.idle and round_idle
        if (
            done
            and shot is not None
            and shot.view.id == plate.view.id
            and shot.assessment is window.document.assessment
        ):
            if shot.window == plate.shot().window:
                rested += 1  # what came last may have set something going: once more
                if rested == 2:
                    break
                continue
            plate.request_night()
        elif done:
            plate.repaint()
            plate.request_night()
        rested = 0
        time.sleep(0.002)
    for _ in range(4):  # a text that wraps grows its card only when its width is known, and the panel after it
        QApplication.processEvents()


__all__ = ["NightSide", "night_image", "settle", "write_night", "write_views"]
