# SPDX-License-Identifier: GPL-3.0-or-later
"""The bench: neutral greys, Barlow, and the one vermilion that marks what needs a look. Knows Qt only."""

from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication

TEXT = "Barlow"
FIGURES = "Barlow Condensed"


@dataclass(frozen=True)
class Bench:
    """The greys of a bench, '#rrggbb'.

    Words stand out from what they are on by 4.5 : 1, `edge`, `ink` and `mark` from the bench by 3 : 1; `line` only
    parts. `ink` marks what is active, `on_ink` is written on it; `on_mark` on the mark.
    """

    name: str
    chrome: str
    card: str
    well: str
    line: str
    edge: str
    text: str
    muted: str
    ink: str
    on_ink: str
    surround: str
    mark: str
    on_mark: str


LIGHT = Bench(
    "light",
    "#e6e6e6",
    "#f4f4f4",
    "#dcdcdc",
    "#bfbfbf",
    "#808080",
    "#161616",
    "#5e5e5e",
    "#161616",
    "#ffffff",
    "#7d7d7d",
    "#d0401a",
    "#ffffff",
)
DIM = Bench(
    "dim",
    "#2a2a2a",
    "#363636",
    "#222222",
    "#4c4c4c",
    "#8a8a8a",
    "#ececec",
    "#a8a8a8",
    "#ececec",
    "#161616",
    "#545454",
    "#ee5a30",
    "#161616",
)
_current = LIGHT


def bench() -> Bench:
    """Return the bench in use."""
    return _current


def color(name: str) -> QColor:
    """Return a colour of the bench in use by its field name."""
    return QColor(getattr(_current, name))


@lru_cache(maxsize=128)
def font(size_px: int, weight: int = 400, family: str = TEXT) -> QFont:
    """Return a shipped font; figures are tabular in `FIGURES`."""
    found = QFont(family)
    found.setPixelSize(size_px)
    found.setWeight(QFont.Weight(weight))
    if family == FIGURES:
        found.setFeature(QFont.Tag("tnum"), 1)
    return found


def load_fonts() -> None:
    """Register the fonts that ship with the program."""
    for path in sorted((Path(__file__).parent / "fonts").glob("*.ttf")):
        QFontDatabase.addApplicationFont(str(path))


def desktop_is_dark() -> bool:
    """Whether the desktop asks for dark windows."""
    hints = QGuiApplication.styleHints()
    return hints is not None and hints.colorScheme() == Qt.ColorScheme.Dark


def apply(app: QApplication, chosen: Bench) -> None:
    """Dress the whole application."""
    global _current
    _current = chosen
    palette = QPalette()
    for role, name in (
        (QPalette.ColorRole.Window, "chrome"),
        (QPalette.ColorRole.Base, "card"),
        (QPalette.ColorRole.AlternateBase, "well"),
        (QPalette.ColorRole.Button, "card"),
        (QPalette.ColorRole.WindowText, "text"),
        (QPalette.ColorRole.Text, "text"),
        (QPalette.ColorRole.ButtonText, "text"),
        (QPalette.ColorRole.ToolTipBase, "card"),
        (QPalette.ColorRole.ToolTipText, "text"),
        (QPalette.ColorRole.PlaceholderText, "muted"),
        (QPalette.ColorRole.Highlight, "ink"),
        (QPalette.ColorRole.HighlightedText, "on_ink"),
    ):
        palette.setColor(role, color(name))
    app.setPalette(palette)
    app.setFont(font(14))
    app.setStyleSheet(_sheet(chosen) + _lists(chosen))
    for part in app.allWidgets():
        part.update()


def _sheet(b: Bench) -> str:
    tick, arrow = ((Path(__file__).parent / f"{name}-{b.name}.svg").as_posix() for name in ("tick", "arrow"))
    return f"""
    QWidget {{ color: {b.text}; font-family: "{TEXT}"; font-size: 14px; }}
    QToolTip {{ background: {b.card}; color: {b.text}; border: 1px solid {b.line}; padding: 4px 6px; font-size: 13px; }}
    #topbar, #tools, #inspector, #shelf, #status, #blocks, QScrollArea {{ background: {b.chrome}; border: none; }}
    #topbar {{ border-bottom: 1px solid {b.line}; }} #tools {{ border-right: 1px solid {b.line}; }}
    #inspector {{ border-left: 1px solid {b.line}; }}
    #look {{ background: {b.chrome}; border-top: 1px solid {b.line}; }}
    #shelf {{ border-top: 1px solid {b.line}; background: {b.well}; }} #status {{ border-top: 1px solid {b.line}; }}
    QLabel[role="title"] {{ font-size: 15px; font-weight: 600; }}
    QLabel[role="muted"] {{ color: {b.muted}; font-size: 13px; }}
    QLabel[role="figure"], QDoubleSpinBox {{ font-family: "{FIGURES}"; font-size: 15px; font-weight: 500; }}
    QLabel[role="small"] {{ font-family: "{FIGURES}"; font-size: 14px; }}
    QLabel[role="smallmuted"] {{ font-family: "{FIGURES}"; font-size: 14px; color: {b.muted}; }}
    QPushButton {{ background: {b.card}; border: 1px solid {b.muted}; border-radius: 13px; padding: 3px 12px;
        font-size: 13px; font-weight: 500; min-height: 18px; }}
    QPushButton:hover {{ border-color: {b.text}; }}
    QPushButton:pressed, QPushButton:default, QPushButton[strong="true"] {{ background: {b.ink}; color: {b.on_ink};
        border-color: {b.ink}; }}
    QPushButton:disabled {{ color: {b.muted}; border-color: {b.line}; background: {b.chrome}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {b.text}; padding: 2px 11px; }}
    QPushButton:default:focus, QPushButton[strong="true"]:focus {{ border: 3px double {b.on_ink}; padding: 1px 10px; }}
    QPushButton[sense="true"] {{ border: 1px solid {b.line}; background: transparent; font-size: 12px; color: {b.muted};
        padding: 0px 7px; border-radius: 9px; min-height: 16px; max-height: 16px; }}
    QPushButton[sense="true"]:hover {{ color: {b.text}; border-color: {b.text}; }}
    QPushButton[sense="true"]:checked {{ background: {b.ink}; color: {b.on_ink}; border-color: {b.ink}; }}
    QPushButton[chip="true"] {{ border: none; background: transparent; font-family: "{FIGURES}"; font-size: 14px;
        padding: 2px 9px; border-radius: 11px; min-height: 18px; }}
    QPushButton[chip="true"]:checked {{ background: {b.ink}; color: {b.on_ink}; }}
    QPushButton[chip="true"]:focus {{ border: 2px solid {b.text}; padding: 0px 7px; }}
    QPushButton[chip="true"]:checked:focus {{ border: 3px double {b.on_ink}; padding: 0px 6px; }}
    QPushButton[flat="true"] {{ border: none; background: transparent; text-align: left; padding: 2px 4px; }}
    QPushButton[flat="true"]:focus {{ border: 2px solid {b.text}; padding: 0px 2px; }}
    QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {b.muted}; border-radius: 3px;
        background: {b.card}; }}
    QCheckBox::indicator:checked {{ background: {b.ink}; border-color: {b.ink}; image: url("{tick}"); }}
    QCheckBox::indicator:focus {{ border: 2px solid {b.text}; }}
    QSlider::groove:horizontal {{ height: 4px; background: {b.line}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {b.ink}; border-radius: 2px; }}
    QSlider[signed="true"]::sub-page:horizontal {{ background: {b.line}; }}
    QSlider::handle:horizontal {{ width: 12px; height: 12px; margin: -5px 0; border-radius: 7px;
        background: {b.card}; border: 2px solid {b.ink}; }}
    QSlider::handle:horizontal:focus {{ background: {b.ink}; }}
    QSlider::sub-page:horizontal:disabled {{ background: {b.line}; }}
    QDoubleSpinBox, QLineEdit, QComboBox {{ background: transparent; border: 1px solid transparent; border-radius: 4px;
        padding: 1px 3px; selection-background-color: {b.ink}; selection-color: {b.on_ink}; }}
    QComboBox::drop-down {{ border: none; width: 20px; }}
    QComboBox::down-arrow {{ image: url("{arrow}"); width: 12px; height: 12px; }}
    QLineEdit, QComboBox {{ background: {b.card}; border-color: {b.edge}; padding: 3px 6px; }}
    QLineEdit:focus, QComboBox:focus {{ border: 2px solid {b.text}; padding: 2px 5px; }}
    QDoubleSpinBox:hover {{ background: {b.card}; border-color: {b.edge}; }}
    QDoubleSpinBox:focus {{ background: {b.card}; border: 2px solid {b.text}; padding: 0px 2px; }}
    """


def _lists(b: Bench) -> str:
    """How menus, lists, bars and dialogs look."""
    return f"""
    QScrollBar::handle:vertical {{ background: {b.edge}; border-radius: 4px; min-height: 24px; }}
    QScrollBar::handle:horizontal {{ background: {b.edge}; border-radius: 4px; min-width: 24px; }}
    QScrollBar {{ background: transparent; margin: 0; }} QScrollBar:vertical {{ width: 8px; }}
    QScrollBar:horizontal {{ height: 8px; }} QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QMenu {{ background: {b.card}; border: 1px solid {b.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 24px 5px 12px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {b.ink}; color: {b.on_ink}; }}
    QMenu::item:disabled {{ color: {b.muted}; }}
    QMenu::separator {{ height: 1px; background: {b.line}; margin: 4px 8px; }}
    QProgressBar {{ background: {b.line}; border: none; border-radius: 3px; }}
    QProgressBar::chunk {{ background: {b.ink}; border-radius: 3px; }}
    QDialog {{ background: {b.chrome}; }}
    QListWidget {{ background: {b.card}; border: 1px solid {b.edge}; outline: none; }}
    QListWidget:focus {{ border: 2px solid {b.text}; }}
    QListWidget::item {{ padding: 4px 8px; }}
    QListWidget::item:selected {{ background: {b.ink}; color: {b.on_ink}; }}
    QFrame[role="rule"] {{ background: {b.line}; max-height: 1px; min-height: 1px; border: none; }}
    """
