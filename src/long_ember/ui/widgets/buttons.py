"""Buttons with words, large enough for a gloved hand."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QPushButton

from long_ember.ui.style.fonts import font

__all__ = ["worded"]


def worded(text: str, run: Callable[[], object], tip: str = "", *, weight: int = 500) -> QPushButton:
    """A button that does one thing."""
    button = QPushButton(text)
    button.setFont(font(16, weight))
    button.setToolTip(tip)
    button.setMinimumHeight(40)
    button.setAutoDefault(False)  # Enter ends an entry of the same dialog, and does nothing else
    button.clicked.connect(lambda _checked=False: run())
    return button
