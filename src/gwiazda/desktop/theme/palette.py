"""Colours and sizes, and nowhere else: the bench theme, and the dark-room theme that spares the eye in a leak test."""

from __future__ import annotations

from dataclasses import dataclass, fields
from pathlib import Path

from PySide6.QtGui import QColor, QPalette

from gwiazda.desktop.theme.sizes import scaled


@dataclass(frozen=True)
class Palette:
    name: str
    bench: str  # behind everything
    panel: str
    card: str
    paper: str  # the works side of the plate
    grid: str
    line: str
    ink: str
    muted: str
    bar: str  # top bar and meters
    bar_ink: str
    bar_muted: str
    bar_line: str
    bar_faint: str  # what is switched off on the bar
    live: str  # lamp amber
    live_ink: str  # text on amber
    glow: str
    wire_plus: str
    wire_minus: str
    fibre: str
    fine: str
    look: str
    stop: str
    stop_ink: str  # text that says stop, on a card
    fine_ink: str
    look_ink: str
    night: str
    night_ink: str
    section: str  # fill of a section without a drawing
    pane: str
    pane_dark: str
    choice: str  # outline of what is selected
    carrier: str  # card and sheet that lamps sit on

    def colour(self, name: str, alpha: int = 255) -> QColor:
        found = QColor(getattr(self, name))
        found.setAlpha(alpha)
        return found


BENCH = Palette(
    name="bench", bench="#d3d6d0", panel="#e9eae5", card="#f8f8f4", paper="#fbf8ef", grid="#e9e4d5", line="#bfc3bc",
    ink="#20282a", muted="#5d6663", bar="#1d2326", bar_ink="#f2f1ea", bar_muted="#a9b1ad", bar_line="#3a4347", bar_faint="#717b7c",
    live="#e39a2d", live_ink="#20190c", glow="#ffd98a", wire_plus="#b8412e", wire_minus="#23292b", fibre="#2b857c",
    fine="#79b07a", look="#e39a2d", stop="#d0523f", stop_ink="#a5301f", fine_ink="#2f6b35", look_ink="#855407",
    night="#07090d", night_ink="#aeb6bb", section="#e2decf", pane="#ffe9ad", pane_dark="#8d918b", choice="#1f6f8b", carrier="#c8a878",
)  # fmt: skip

DARKROOM = Palette(
    name="darkroom", bench="#0b0706", panel="#140c09", card="#1b110c", paper="#150e0a", grid="#21160f", line="#3d281b",
    ink="#d09463", muted="#a87550", bar="#0e0806", bar_ink="#d09463", bar_muted="#a87550", bar_line="#3d281b", bar_faint="#5f432f",
    live="#b0681f", live_ink="#0b0706", glow="#8a5222", wire_plus="#93402c", wire_minus="#6a4a34", fibre="#5d6a3c",
    fine="#7d7a3a", look="#b26a22", stop="#b0402a", stop_ink="#d8694f", fine_ink="#a8a153", look_ink="#cf8a3a",
    night="#050304", night_ink="#a87550", section="#241811", pane="#9c6a35", pane_dark="#35241a", choice="#c9743a", carrier="#5a4027",
)  # fmt: skip

ASSETS = Path(__file__).parent.parent / "assets"
THEMES = {p.name: p for p in (BENCH, DARKROOM)}
FAMILY, FIGURES = "Barlow", "Barlow Semi Condensed"
TEXT_PX, SMALL_PX, FIGURE_PX, TITLE_PX = 13, 12, 26, 18


def system_palette(p: Palette) -> QPalette:
    """All roles of all groups in a theme's own colours, for what no style sheet reaches: dialogs of Qt's own, under any desktop's palette."""
    role = QPalette.ColorRole
    every = {
        role.Window: p.panel, role.WindowText: p.ink, role.Base: p.paper, role.AlternateBase: p.card, role.Text: p.ink,
        role.Button: p.card, role.ButtonText: p.ink, role.BrightText: p.stop_ink, role.PlaceholderText: p.muted,
        role.ToolTipBase: p.card, role.ToolTipText: p.ink, role.Highlight: p.live, role.HighlightedText: p.live_ink, role.Accent: p.live,
        role.Link: p.choice, role.LinkVisited: p.muted, role.Light: p.card, role.Midlight: p.panel, role.Mid: p.line, role.Dark: p.muted,
        role.Shadow: p.bar,
    }  # fmt: skip
    out = QPalette()
    for group in (QPalette.ColorGroup.Active, QPalette.ColorGroup.Inactive, QPalette.ColorGroup.Disabled):
        for which, colour in every.items():
            out.setColor(group, which, QColor(colour))
    for which in (role.WindowText, role.Text, role.ButtonText, role.ToolTipText, role.Link):
        out.setColor(QPalette.ColorGroup.Disabled, which, QColor(p.muted))
    return out


def style_sheet(p: Palette) -> str:
    """The style sheet of the whole window."""
    chevron = (ASSETS / f"chevron-{p.name}.svg").as_posix()
    v = {f.name: getattr(p, f.name) for f in fields(p)}
    return f"""
    * {{ font-family: "{FAMILY}"; font-size: {scaled(TEXT_PX)}px; color: {v["ink"]}; }}
    QMainWindow, QWidget#bench {{ background: {v["bench"]}; }}
    QFrame#topbar {{ background: {v["bar"]}; border: none; }}
    QFrame#topbar QLabel {{ color: {v["bar_ink"]}; background: transparent; }}
    QFrame#topbar QLabel#kit {{ font-size: {scaled(TITLE_PX)}px; font-weight: 500; }}
    QFrame#topbar QLabel#about {{ color: {v["bar_muted"]}; }}
    QFrame#topbar QToolButton {{ color: {v["bar_ink"]}; background: transparent; border: 1px solid transparent;
        border-radius: 5px; padding: 5px 10px; }}
    QFrame#topbar QToolButton:hover {{ background: {v["bar_line"]}; }}
    QFrame#topbar QToolButton:focus {{ border-color: {v["live"]}; }}
    QFrame#topbar QToolButton:disabled {{ color: {v["bar_faint"]}; }}
    QFrame#topbar QToolButton::menu-indicator {{ image: none; width: 0px; }}
    QFrame#drawer, QFrame#inspector {{ background: {v["panel"]}; border: 1px solid {v["line"]}; border-radius: 8px; }}
    QFrame#card {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 6px; }}
    QLabel {{ background: transparent; }}
    QLabel#heading {{ font-size: {scaled(TITLE_PX)}px; font-weight: 500; }}
    QLabel#cardtitle {{ font-weight: 600; }}
    QLabel#muted, QLabel#unit {{ color: {v["muted"]}; }}
    QLabel#figure {{ font-family: "{FIGURES}"; font-weight: 600; }}
    QLabel#stop {{ color: {v["stop_ink"]}; }} QLabel#fine {{ color: {v["fine_ink"]}; }}
    QLabel#look {{ color: {v["look_ink"]}; }}
    QLineEdit, QComboBox, QSpinBox {{ background: {v["paper"]}; border: 1px solid {v["line"]}; border-radius: 4px;
        padding: 2px 6px; min-height: {scaled(20)}px; selection-background-color: {v["live"]};
        selection-color: {v["live_ink"]}; }}
    QLineEdit {{ font-family: "{FIGURES}"; }}
    QLineEdit:focus, QComboBox:focus, QSpinBox:focus, QCheckBox:focus {{ border: 1px solid {v["live"]}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {v["stop"]}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{chevron}"); width: 12px; height: 12px; }}
    QComboBox QAbstractItemView {{ background: {v["card"]}; border: 1px solid {v["line"]};
        selection-background-color: {v["live"]}; selection-color: {v["live_ink"]}; }}
    QPushButton {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 5px; padding: 4px 8px;
        text-align: left; }}
    QPushButton:hover {{ border-color: {v["live"]}; }} QPushButton:focus {{ border-color: {v["live"]}; }}
    QPushButton:pressed {{ background: {v["panel"]}; }}
    QPushButton:disabled {{ color: {v["muted"]}; }}
    QToolButton#tool {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 6px; padding: 0px; }}
    QToolButton#tool:hover {{ border-color: {v["live"]}; }}
    QToolButton#tool:focus {{ border-color: {v["live"]}; }}
    QToolButton#tool:checked {{ background: {v["live"]}; border-color: {v["live"]}; }}
    QToolButton#view {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 5px;
        padding: 3px 9px; }}
    QToolButton#view:checked {{ background: {v["bar"]}; color: {v["bar_ink"]}; border-color: {v["bar"]}; }}
    QToolButton#view:focus {{ border-color: {v["live"]}; }}
    QToolButton#channel {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 4px;
        padding: 1px 6px; color: {v["muted"]}; font-family: "{FIGURES}"; font-size: {scaled(SMALL_PX)}px; }}
    QToolButton#channel:checked {{ color: {v["ink"]}; border-left: 5px solid {v["live"]}; }}
    QToolButton#channel:focus {{ border-color: {v["live"]}; }}
    QToolButton#strip {{ background: {v["card"]}; border: 1px solid {v["line"]}; border-radius: 4px; padding: 1px 7px;
        color: {v["ink"]}; }}
    QToolButton#strip:hover {{ border-color: {v["live"]}; }} QToolButton#strip:focus {{ border-color: {v["live"]}; }}
    QToolButton#strip:checked {{ background: {v["live"]}; color: {v["live_ink"]}; border-color: {v["live"]}; }}
    QCheckBox::indicator {{ width: {scaled(13)}px; height: {scaled(13)}px; border: 1px solid {v["muted"]}; border-radius: 3px;
        background: {v["paper"]}; }}
    QCheckBox::indicator:checked {{ background: {v["live"]}; border-color: {v["live"]}; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {v["line"]}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0px; }}
    QMenu {{ background: {v["card"]}; border: 1px solid {v["line"]}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {v["live"]}; color: {v["live_ink"]}; }}
    QMenu::item:disabled {{ color: {v["muted"]}; }}
    QMenu::separator {{ height: 1px; background: {v["line"]}; margin: 4px 8px; }}
    QToolTip {{ background: {v["card"]}; color: {v["ink"]}; border: 1px solid {v["line"]}; padding: 3px; }}
    QFrame#message {{ background: transparent; border: 1px solid transparent; border-radius: 6px; }}
    QFrame#message QLabel {{ color: {v["muted"]}; }}
    QFrame#message[kind="info"], QFrame#message[kind="stop"] {{ background: {v["bar"]}; border-color: {v["bar_line"]}; }}
    QFrame#message[kind="info"] QLabel, QFrame#message[kind="stop"] QLabel {{ color: {v["bar_ink"]}; }}
    QFrame#message[kind="stop"] {{ border-color: {v["stop"]}; }}
    QFrame#message QPushButton {{ background: {v["bar_line"]}; color: {v["bar_ink"]}; border: 1px solid {v["bar_line"]};
        padding: 2px 8px; }}
    QFrame#message QPushButton:focus {{ border-color: {v["live"]}; }}
    QFrame#message QPushButton#next {{ background: transparent; color: {v["ink"]}; border-color: transparent; text-align: right; padding: 0px 8px; }}
    QFrame#message QPushButton#next:hover {{ border-color: {v["line"]}; background: {v["card"]}; }}
    QPushButton#fold {{ background: transparent; border: 1px solid transparent; padding: 1px 0px; font-weight: 600; }}
    QPushButton#fold:focus {{ border-color: {v["live"]}; }}
    QToolButton#tool::menu-button {{ border: none; width: 13px; }}
    QToolButton#tool::menu-arrow {{ image: url("{chevron}"); width: 9px; height: 9px; }}
    """
