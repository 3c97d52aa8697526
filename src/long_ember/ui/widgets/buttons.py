"""Buttons with words, large enough for a gloved hand; rows of them renewed."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QLayout, QPushButton

from long_ember.ui.style.fonts import font

__all__ = ["emptied", "linked", "worded"]


def worded(text: str, run: Callable[[], object], tip: str = "", *, weight: int = 500) -> QPushButton:
    """A button that does one thing."""
    button = QPushButton(text)
    button.setFont(font(16, weight))
    button.setToolTip(tip)
    button.setMinimumHeight(40)
    button.setAutoDefault(False)  # Enter ends an entry of the same dialog, and does nothing else
    button.clicked.connect(lambda _checked=False: run())
    return button


def linked(text: str, run: Callable[[], object], tip: str = "") -> QPushButton:
    """Words that lead to where something is set."""
    button = worded(text, run, tip)
    button.setFont(font(15, 500))
    button.setProperty("place", "link")
    button.setMinimumHeight(30)
    return button


def emptied(layout: QLayout) -> None:
    """Take everything out of a layout, and out of sight at once."""
    while (item := layout.takeAt(0)) is not None:
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        if inner is not None:
            emptied(inner)
