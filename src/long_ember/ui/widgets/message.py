"""The message line: what happened, or what would work; a fault is told by its words and its colour."""

from __future__ import annotations

from PySide6.QtWidgets import QLabel

from long_ember.ui.style.fonts import font

__all__ = ["MessageLine"]


class MessageLine(QLabel):
    """One line that never changes its height."""

    def __init__(self) -> None:
        super().__init__()
        self.setFont(font(16, 500))
        self.setFixedHeight(24)
        self.setContentsMargins(16, 0, 16, 0)

    def say(self, text: str, fault: bool) -> None:
        """Replace what it says."""
        if self.text() == text and self.property("fault") == fault:
            return
        self.setText(text)
        self.setProperty("fault", fault)
        self.setProperty("role", "fault" if fault else "muted")
        self.style().unpolish(self)
        self.style().polish(self)
