"""The room from noon to dark over the plate: its bar made, opened, closed."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gwiazda.desktop.plate.duskbar import DuskBar

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow


def toggle(window: MainWindow, play: bool) -> None:
    """Open the bar, or close it; with ``play`` play a minute of dusk, or stop it."""
    bar = window.dusk if window.dusk is not None else _made(window)
    if bar.on and not play:
        bar.close_bar()
        return
    if not bar.on:
        bar.measure()
        bar.open()
    if play:
        bar.play()
    window.bar.dusk_button.setChecked(True)
    window._stack.hide()  # the plate has its room while the dusk is looked at


def _made(window: MainWindow) -> DuskBar:
    bar = window.dusk = DuskBar(window.document)
    bar.set_palette(window.palette_)
    window._middle.insertWidget(window._middle.indexOf(window.plate) + 1, bar)
    bar.changed.connect(lambda: window.plate.set_dusk(bar.lux))
    bar.closed.connect(lambda: _closed(window))
    bar.picked.connect(window.document.select)
    return bar


def _closed(window: MainWindow) -> None:
    window.plate.set_dusk(None)
    window._stack.show()
    window.bar.dusk_button.setChecked(False)
    window.plate.setFocus()
