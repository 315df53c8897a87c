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


_SHEET = """
    * {{ font-family: "{family}"; font-size: {scaled_text_px}px; color: {ink}; }}
    QMainWindow, QWidget#bench {{ background: {bench}; }}
    QFrame#topbar {{ background: {bar}; border: none; }}
    QFrame#topbar QLabel {{ color: {bar_ink}; background: transparent; }}
    QFrame#topbar QLabel#kit {{ font-size: {scaled_title_px}px; font-weight: 500; }}
    QFrame#topbar QLabel#about {{ color: {bar_muted}; }}
    QFrame#topbar QToolButton {{ color: {bar_ink}; background: transparent; border: 1px solid transparent;
        border-radius: 5px; padding: 5px 10px; }}
    QFrame#topbar QToolButton:hover {{ background: {bar_line}; }}
    QFrame#topbar QToolButton:focus {{ border-color: {live}; }}
    QFrame#topbar QToolButton:disabled {{ color: {bar_faint}; }}
    QFrame#topbar QToolButton::menu-indicator {{ image: none; width: 0px; }}
    QFrame#drawer, QFrame#inspector {{ background: {panel}; border: 1px solid {line}; border-radius: 8px; }}
    QFrame#card {{ background: {card}; border: 1px solid {line}; border-radius: 6px; }}
    QLabel {{ background: transparent; }}
    QLabel#heading {{ font-size: {scaled_title_px}px; font-weight: 500; }}
    QLabel#cardtitle {{ font-weight: 600; }}
    QLabel#muted, QLabel#unit {{ color: {muted}; }}
    QLabel#figure {{ font-family: "{figures}"; font-weight: 600; }}
    QLabel#stop {{ color: {stop_ink}; }} QLabel#fine {{ color: {fine_ink}; }}
    QLabel#look {{ color: {look_ink}; }}
    QLineEdit, QComboBox, QSpinBox {{ background: {paper}; border: 1px solid {line}; border-radius: 4px;
        padding: 2px 6px; min-height: {scaled_20}px; selection-background-color: {live};
        selection-color: {live_ink}; }}
    QLineEdit {{ font-family: "{figures}"; }}
    QLineEdit:focus, QComboBox:focus, QSpinBox:focus, QCheckBox:focus {{ border: 1px solid {live}; }}
    QLineEdit[wrong="true"] {{ border: 1px solid {stop}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{chevron}"); width: 12px; height: 12px; }}
    QComboBox QAbstractItemView {{ background: {card}; border: 1px solid {line};
        selection-background-color: {live}; selection-color: {live_ink}; }}
    QPushButton {{ background: {card}; border: 1px solid {line}; border-radius: 5px; padding: 4px 8px;
        text-align: left; }}
    QPushButton:hover {{ border-color: {live}; }} QPushButton:focus {{ border-color: {live}; }}
    QPushButton:pressed {{ background: {panel}; }}
    QPushButton:disabled {{ color: {muted}; }}
    QToolButton#tool {{ background: {card}; border: 1px solid {line}; border-radius: 6px; padding: 0px; }}
    QToolButton#tool:hover {{ border-color: {live}; }}
    QToolButton#tool:focus {{ border-color: {live}; }}
    QToolButton#tool:checked {{ background: {live}; border-color: {live}; }}
    QToolButton#view {{ background: {card}; border: 1px solid {line}; border-radius: 5px;
        padding: 3px 9px; }}
    QToolButton#view:checked {{ background: {bar}; color: {bar_ink}; border-color: {bar}; }}
    QToolButton#view:focus {{ border-color: {live}; }}
    QToolButton#channel {{ background: {card}; border: 1px solid {line}; border-radius: 4px;
        padding: 1px 6px; color: {muted}; font-family: "{figures}"; font-size: {scaled_small_px}px; }}
    QToolButton#channel:checked {{ color: {ink}; border-left: 5px solid {live}; }}
    QToolButton#channel:focus {{ border-color: {live}; }}
    QToolButton#strip {{ background: {card}; border: 1px solid {line}; border-radius: 4px; padding: 1px 7px;
        color: {ink}; }}
    QToolButton#strip:hover {{ border-color: {live}; }} QToolButton#strip:focus {{ border-color: {live}; }}
    QToolButton#strip:checked {{ background: {live}; color: {live_ink}; border-color: {live}; }}
    QCheckBox::indicator {{ width: {scaled_13}px; height: {scaled_13}px; border: 1px solid {muted}; border-radius: 3px;
        background: {paper}; }}
    QCheckBox::indicator:checked {{ background: {live}; border-color: {live}; }}
    QScrollArea {{ background: transparent; border: none; }}
    QScrollArea > QWidget > QWidget {{ background: transparent; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar::handle:vertical {{ background: {line}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ height: 0px; }}
    QMenu {{ background: {card}; border: 1px solid {line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 22px 5px 14px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {live}; color: {live_ink}; }}
    QMenu::item:disabled {{ color: {muted}; }}
    QMenu::separator {{ height: 1px; background: {line}; margin: 4px 8px; }}
    QToolTip {{ background: {card}; color: {ink}; border: 1px solid {line}; padding: 3px; }}
    QFrame#message {{ background: transparent; border: 1px solid transparent; border-radius: 6px; }}
    QFrame#message QLabel {{ color: {muted}; }}
    QFrame#message[kind="info"], QFrame#message[kind="stop"] {{ background: {bar}; border-color: {bar_line}; }}
    QFrame#message[kind="info"] QLabel, QFrame#message[kind="stop"] QLabel {{ color: {bar_ink}; }}
    QFrame#message[kind="stop"] {{ border-color: {stop}; }}
    QFrame#message QPushButton {{ background: {bar_line}; color: {bar_ink}; border: 1px solid {bar_line};
        padding: 2px 8px; }}
    QFrame#message QPushButton:focus {{ border-color: {live}; }}
    QFrame#message QPushButton#next {{ background: transparent; color: {ink}; border-color: transparent; text-align: right; padding: 0px 8px; }}
    QFrame#message QPushButton#next:hover {{ border-color: {line}; background: {card}; }}
    QPushButton#fold {{ background: transparent; border: 1px solid transparent; padding: 1px 0px; font-weight: 600; }}
    QPushButton#fold:focus {{ border-color: {live}; }}
    QToolButton#tool::menu-button {{ border: none; width: 13px; }}
    QToolButton#tool::menu-arrow {{ image: url("{chevron}"); width: 9px; height: 9px; }}
"""


def style_sheet(p: Palette) -> str:
    """The style sheet of the whole window."""
    sizes = {
        "family": FAMILY,
        "scaled_text_px": scaled(TEXT_PX),
        "scaled_title_px": scaled(TITLE_PX),
        "figures": FIGURES,
        "scaled_20": scaled(20),
        "scaled_small_px": scaled(SMALL_PX),
        "scaled_13": scaled(13),
    }
    chevron = (ASSETS / f"chevron-{p.name}.svg").as_posix()
    return _SHEET.format(**{f.name: getattr(p, f.name) for f in fields(p)}, **sizes, chevron=chevron)
