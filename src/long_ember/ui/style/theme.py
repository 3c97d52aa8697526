"""Two themes, one accent; heat colours are used for heat alone."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache
from typing import TYPE_CHECKING

from PySide6.QtGui import QColor

from long_ember.desk.session import Session
from long_ember.frozen import dataclass
from long_ember.physics import glow

if TYPE_CHECKING:
    from PySide6.QtCore import QRect, QRectF
    from PySide6.QtGui import QBrush, QPainter
    from PySide6.QtWidgets import QWidget

__all__ = ["DARK", "LIGHT", "PAPER", "THEMES", "Theme", "contrast", "fill_box", "heat_colour", "styled_as", "stylesheet", "theme_of"]


@dataclass(frozen=True, slots=True)
class Theme:
    """Colours by role, as #rrggbb."""

    name: str
    paper: str
    panel: str
    ink: str
    muted: str
    line: str
    rim: str
    accent: str
    on_accent: str
    steel: str
    steel_alt: str
    edge: str
    chosen: str
    fault: str

    def colour(self, role: str, alpha: int = 255) -> QColor:
        """A role as a QColor."""
        return _colour(getattr(self, role), alpha)


def theme_of(session: Session) -> Theme:
    """The colours that a session is shown in."""
    return THEMES[session.settings.theme]


@lru_cache(maxsize=256)
def _colour(name: str, alpha: int) -> QColor:
    colour = QColor(name)
    colour.setAlpha(alpha)
    return colour


LIGHT = Theme(
    "light", paper="#f6f1e7", panel="#fffcf5", ink="#26221e", muted="#655c52", line="#d6cbb9", rim="#8a7f6e", accent="#165d75", on_accent="#ffffff",
    steel="#c3c6c5", steel_alt="#b1b6b7", edge="#3d4346", chosen="#8dbccb", fault="#9a1b34",
)  # fmt: skip
DARK = Theme(
    "dark", paper="#1b1917", panel="#26231f", ink="#f1eade", muted="#b5aa9b", line="#453f37", rim="#857b6d", accent="#83c9e0", on_accent="#10242b",
    steel="#4b5356", steel_alt="#5a6265", edge="#d3d8d8", chosen="#1d5e73", fault="#ff9aa8",
)  # fmt: skip
PAPER = replace(LIGHT, name="paper", paper="#ffffff", panel="#ffffff")  # for print
THEMES = {t.name: t for t in (LIGHT, DARK)}


def heat_colour(celsius: float) -> QColor:
    """The glow of steel at a temperature."""
    return QColor(*glow(celsius))


def contrast(one: str, other: str) -> float:
    """WCAG 2 contrast ratio of two #rrggbb colours."""
    high, low = sorted((_luminance(one), _luminance(other)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def _luminance(colour: str) -> float:
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [p / 12.92 if p <= 0.03928 else ((p + 0.055) / 1.055) ** 2.4 for p in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def fill_box(painter: QPainter, box: QRectF | QRect, brush: QColor | QBrush) -> None:
    """Fill a box as `fillRect` does, which has a name for every gradient there is made first: for all that the first screen shows."""
    painter.setBackground(brush)
    painter.eraseRect(box)


def styled_as(widget: QWidget, name: str, value: object) -> None:
    """Set a property that the style sheet looks at; looking it all up again takes milliseconds, so only another value does.

    Args:
        widget: that is painted otherwise from now on.
        name: of the property.
        value: nothing at all and one that was never set are the same.
    """
    if (widget.property(name) or "") != (value or ""):
        widget.setProperty(name, value)
        style = widget.style()
        style.unpolish(widget)
        style.polish(widget)


def stylesheet(t: Theme) -> str:
    """Style of the plain widgets; what matters is painted by hand."""
    return f"""
    QWidget {{ background: {t.paper}; color: {t.ink}; }}
    QMenuBar, QMenu {{ background: {t.paper}; color: {t.ink}; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {t.accent}; color: {t.on_accent}; }}
    QMenu::item:disabled {{ color: {t.muted}; }}
    QMenu {{ border: 1px solid {t.rim}; padding: 4px; }}
    QToolTip {{ background: {t.panel}; color: {t.ink}; border: 1px solid {t.rim}; padding: 4px; }}
    QLineEdit, QComboBox, QDateEdit, QPlainTextEdit, QListWidget {{ background: {t.panel}; border: 1px solid {t.rim}; border-radius: 6px; padding: 5px 8px; min-height: 24px;
        selection-background-color: {t.accent}; selection-color: {t.on_accent}; }}
    QLineEdit:focus, QComboBox:focus, QDateEdit:focus, QPlainTextEdit:focus, QListWidget:focus {{ border: 2px solid {t.accent}; padding: 4px 7px; }}
    QComboBox {{ padding-right: 0px; }}
    QLineEdit[fault="true"] {{ border: 2px dashed {t.fault}; padding: 4px 7px; }}
    QComboBox::drop-down, QDateEdit::drop-down {{ border: none; width: 22px; }}
    QTabWidget::pane {{ border: none; border-top: 1px solid {t.line}; }}
    QTabBar::tab {{ background: {t.paper}; color: {t.muted}; padding: 8px 14px; border-bottom: 3px solid {t.paper}; }}
    QTabBar::tab:selected {{ color: {t.ink}; border-bottom: 3px solid {t.accent}; }}
    QTabBar::tab:hover {{ color: {t.ink}; }}
    QComboBox QAbstractItemView {{ background: {t.panel}; color: {t.ink}; selection-background-color: {t.accent};
        selection-color: {t.on_accent}; border: 1px solid {t.rim}; }}
    QPushButton, QToolButton {{ background: {t.panel}; border: 1px solid {t.rim}; border-radius: 6px; padding: 6px 12px; }}
    QPushButton[small="true"] {{ padding: 0px 8px; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.accent}; }}
    QPushButton:focus, QToolButton:focus {{ border: 2px solid {t.accent}; padding: 5px 11px; }}
    QPushButton:disabled, QToolButton:disabled {{ color: {t.muted}; }}
    QPushButton:checked, QToolButton:checked {{ background: {t.accent}; color: {t.on_accent}; border-color: {t.accent}; }}
    QToolButton[tick="true"] {{ color: {t.muted}; padding: 5px 6px; }}
    QToolButton[tick="true"]:checked {{ background: {t.panel}; color: {t.ink}; border: 2px solid {t.accent}; padding: 4px 5px; }}
    QListWidget[place="choose"]::item {{ padding: 7px 6px; }}
    QCheckBox {{ spacing: 8px; }}
    QCheckBox::indicator {{ width: 18px; height: 18px; border: 2px solid {t.rim}; border-radius: 4px; background: {t.panel}; }}
    QCheckBox::indicator:checked {{ border: 6px solid {t.accent}; width: 10px; height: 10px; background: {t.on_accent}; }}
    QCheckBox:focus {{ color: {t.accent}; text-decoration: underline; }}
    QLabel[role="muted"] {{ color: {t.muted}; }}
    QLabel[role="fault"] {{ color: {t.fault}; }}
    QLabel[role="beside"] {{ background: {t.panel}; color: {t.fault}; border: 1px solid {t.fault}; border-radius: 6px; padding: 3px 8px; }}
    QPushButton[place="link"] {{ border: 1px solid {t.paper}; background: {t.paper}; color: {t.accent}; text-decoration: underline; padding: 2px 4px; }}
    QPushButton[place="link"]:focus {{ border: 2px solid {t.accent}; padding: 1px 3px; }}
    QPushButton[place="corner"] {{ border: none; background: {t.paper}; color: {t.accent}; text-decoration: underline; padding: 0px 8px; }}
    QPushButton[place="page"] {{ text-align: left; padding: 6px 12px; border-color: {t.paper}; background: {t.paper}; }}
    QPushButton[place="page"]:hover {{ border-color: {t.accent}; }}
    QPushButton[place="page"]:focus {{ border: 2px solid {t.accent}; padding: 5px 11px; }}
    QPushButton[place="page"]:checked {{ background: {t.accent}; color: {t.on_accent}; }}
    QScrollArea, QTextBrowser {{ border: none; }}
    QScrollBar:horizontal {{ height: 10px; background: {t.paper}; }} QScrollBar:vertical {{ width: 10px; background: {t.paper}; }}
    QScrollBar::handle {{ background: {t.rim}; border-radius: 4px; min-width: 30px; min-height: 30px; }}
    QSlider::groove:horizontal {{ height: 6px; border-radius: 3px; background: {t.rim}; }}
    QSlider::sub-page:horizontal {{ border-radius: 3px; background: {t.accent}; }}
    QSlider::handle:horizontal {{ width: 22px; margin: -9px 0; border-radius: 11px; background: {t.panel}; border: 2px solid {t.accent}; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    """
