"""Starting the application."""

from __future__ import annotations

import gc
import os
import signal
import sys
import time
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from platformdirs import user_data_path
from PySide6.QtCore import QMessageLogContext, QTimer, QtMsgType, qInstallMessageHandler
from PySide6.QtGui import QIcon
from PySide6.QtWidgets import QApplication

from gwiazda import __version__
from gwiazda.desktop import plain_imports  # noqa: F401 – before all that is heavy
from gwiazda.desktop.memory import few_heaps, give_back
from gwiazda.desktop.shell import recent
from gwiazda.desktop.shell.autosave import tidy
from gwiazda.desktop.theme.fonts import load_fonts, text_font
from gwiazda.desktop.theme.palette import ASSETS
from gwiazda.desktop.worker import failure_words, wait_for_threads

if TYPE_CHECKING:
    from gwiazda.desktop.shell.window import MainWindow

SAY_AGAIN_S = 5.0
GIVE_BACK_MS = 5000
LEAVE_S = 0.5  # for threads to end where they next give way


def make_application(argv: list[str] | None = None) -> QApplication:
    """The QApplication with name, fonts and icon; the one that exists when there is one."""
    few_heaps()
    existing = QApplication.instance()
    application = existing if isinstance(existing, QApplication) else _on_display(argv or sys.argv[:1])
    application.setApplicationName("gwiazda")
    application.setOrganizationName("gwiazda")
    application.setApplicationVersion(__version__)
    application.setDesktopFileName("io.github.gwiazda.Gwiazda")
    application.setWindowIcon(QIcon(str(ASSETS / "star.svg")))
    load_fonts()
    application.setFont(text_font())
    # What is assessed and drawn on other threads is shown on this one: waiting 5 ms for a turn is too long for a drag.
    sys.setswitchinterval(0.001)
    return application


NO_DISPLAY = 2


def _on_display(argv: list[str]) -> QApplication:
    """The QApplication; where its display can't be reached Qt would abort, and a sentence and status 2 are said instead."""

    def handle(kind: QtMsgType, _: QMessageLogContext, words: str) -> None:
        if kind != QtMsgType.QtFatalMsg:
            print(words, file=sys.stderr)
            return
        named = (
            os.environ.get("WAYLAND_DISPLAY") or os.environ.get("DISPLAY") or os.environ.get("QT_QPA_PLATFORM") or ""
        )
        print(
            f"No window can be opened on the display “{named}”: it can't be reached, or a library named above is missing. `gwiazda check PLAN` prints the assessment.",
            file=sys.stderr,
            flush=True,
        )
        os._exit(NO_DISPLAY)

    qInstallMessageHandler(handle)
    try:
        return QApplication(argv)
    finally:
        qInstallMessageHandler(None)


def _collect_again() -> None:
    # Switched off in ``cli``; see there.
    gc.freeze()
    gc.enable()


def say_faults(window: MainWindow) -> None:
    """A fault of ours anywhere ends in one sentence in the window, beside its trace on standard error."""
    usual, said = sys.excepthook, [-1.0]

    def hook(kind: type[BaseException], value: BaseException, trace: TracebackType | None) -> None:
        usual(kind, value, trace)
        # One in painting comes again with every frame: said once a while, or saying it would go on for ever.
        if time.monotonic() - said[0] > SAY_AGAIN_S and not issubclass(kind, KeyboardInterrupt):
            said[0] = time.monotonic()
            words = failure_words("What was just done", f"{kind.__module__}.{kind.__name__}:")
            QTimer.singleShot(0, lambda: window.show_message(words, "stop"))

    sys.excepthook = hook


def run(path: str | None, as_demo: bool = False) -> int:
    """Open the window and run until it is closed."""
    application = make_application()
    from gwiazda.desktop.shell.window import MainWindow

    window = MainWindow()
    say_faults(window)
    trouble = window.document.load_workshop(user_data_path("gwiazda"))
    if trouble:
        window.show_message(" ".join(trouble), "stop")
    if path and window.document.open(path, as_demo=as_demo):
        if not as_demo:
            recent.add(Path(path))
        recent.come_back(window)
    if os.environ.get("GWIAZDA_MARK_FIRST_FRAME"):
        # For the benchmark of the start; written past Python's buffers.
        window.plate.first_painted.connect(lambda: os.write(1, b"painted\n"))
    window.show()
    QTimer.singleShot(0, _collect_again)
    window.plate.first_painted.connect(lambda: QTimer.singleShot(400, window.plate.night.load_kernel_later))
    if not as_demo:
        QTimer.singleShot(300, window.files.offer_recovery)
    QTimer.singleShot(5000, tidy)
    rest = QTimer()
    rest.setInterval(GIVE_BACK_MS)
    rest.timeout.connect(lambda: give_back() if window.document.settled and not window.document.dragging else None)
    rest.start()
    # Ctrl+C in the terminal closes the window as a click would: with its autosave.
    signal.signal(signal.SIGINT, lambda *_: window.close())
    beat = QTimer()
    beat.timeout.connect(lambda: None)
    beat.start(250)
    status = application.exec()
    if not wait_for_threads(LEAVE_S):
        # What was let go of still works on a thread; the end of the interpreter under it would be a crash.
        sys.stdout.flush()
        sys.stderr.flush()
        os._exit(status)
    return status
