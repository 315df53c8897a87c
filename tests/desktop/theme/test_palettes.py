"""Every theme is readable under any desktop: all roles of the system's palette are its own, dialogs of Qt's too."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QEvent
from PySide6.QtGui import QColor, QPalette
from PySide6.QtWidgets import QAbstractItemView, QApplication, QFileDialog, QLabel, QLineEdit, QPushButton

from gwiazda.desktop.theme.palette import THEMES, system_palette

ROLE, GROUP = QPalette.ColorRole, QPalette.ColorGroup
READ = {
    ROLE.WindowText: (ROLE.Window, ROLE.Base, ROLE.AlternateBase),
    ROLE.Text: (ROLE.Base, ROLE.AlternateBase, ROLE.Window),
    ROLE.ButtonText: (ROLE.Button,),
    ROLE.BrightText: (ROLE.Window, ROLE.Button),
    ROLE.HighlightedText: (ROLE.Highlight,),
    ROLE.ToolTipText: (ROLE.ToolTipBase,),
    ROLE.Link: (ROLE.Base, ROLE.Window),
    ROLE.LinkVisited: (ROLE.Base, ROLE.Window),
    ROLE.PlaceholderText: (ROLE.Base,),
}


def brightness(colour: QColor) -> float:
    """Relative luminance of an sRGB colour (IEC 61966-2-1)."""
    parts = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in colour.getRgbF()[:3]]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: QColor, b: QColor) -> float:
    high, low = sorted((brightness(a), brightness(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def test_contrast_of_black_on_white_is_21():
    assert contrast(QColor("black"), QColor("white")) == pytest.approx(21.0)


@pytest.mark.parametrize("theme", THEMES.values(), ids=THEMES)
def test_every_role_is_set_and_readable(theme):
    palette = system_palette(theme)
    for group in (GROUP.Active, GROUP.Inactive, GROUP.Disabled):
        for which in ROLE:
            if which not in (ROLE.NColorRoles, ROLE.NoRole):
                assert palette.isBrushSet(group, which), f"{which} is left to the desktop"
        for text, grounds in READ.items():
            for ground in grounds:
                least = 3.0 if group is GROUP.Disabled else 4.5
                found = contrast(palette.color(group, text), palette.color(group, ground))
                assert found >= least, f"{theme.name}: {text} on {ground} has {found:.1f}:1"


@pytest.mark.parametrize("desktop", ["#101010", "#f8f8f8"])
@pytest.mark.parametrize("name", THEMES)
def test_the_file_dialog_is_readable_on_a_dark_and_a_light_desktop(opened, name, desktop):
    QApplication.setPalette(QPalette(QColor(desktop)))
    opened.window.set_theme("darkroom" if name == "bench" else "bench")
    opened.window.set_theme(name)
    dialog = QFileDialog(opened.window)
    dialog.setOption(QFileDialog.Option.DontUseNativeDialog)
    dialog.show()
    QApplication.sendPostedEvents(None, QEvent.Type.Polish)
    looked = 0
    for kind, text, ground in (
        (QLabel, ROLE.WindowText, ROLE.Window),
        (QPushButton, ROLE.ButtonText, ROLE.Button),
        (QLineEdit, ROLE.Text, ROLE.Base),
        (QAbstractItemView, ROLE.Text, ROLE.Base),
        (QAbstractItemView, ROLE.HighlightedText, ROLE.Highlight),
    ):
        for widget in dialog.findChildren(kind):
            behind = widget.palette().color(ground)
            if behind.alpha() == 0:  # what lies under it shows
                behind = dialog.palette().color(ROLE.Window)
            found = contrast(widget.palette().color(text), behind)
            assert found >= 4.4, f"{type(widget).__name__} {widget.objectName()}: {found:.1f}:1"
            looked += 1
    dialog.close()
    assert looked > 8
    opened.window.set_theme("bench")
