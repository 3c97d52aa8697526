"""Help: the user guide shipped with the application."""

from __future__ import annotations

from importlib import resources

from PySide6.QtWidgets import QDialog, QTextBrowser, QVBoxLayout, QWidget

from long_ember.ui.style.fonts import font

__all__ = ["HelpDialog"]


class HelpDialog(QDialog):
    """The guide in a window of its own; Escape closes it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Long Ember guide")
        self.resize(860, 680)
        self.browser = QTextBrowser()
        self.browser.setFont(font(17))
        self.browser.document().setDocumentMargin(24)
        self.browser.setMarkdown((resources.files("long_ember") / "assets" / "guide.md").read_text(encoding="utf-8"))
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.browser)
