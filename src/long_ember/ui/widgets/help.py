"""Help: the user guide shipped with the application."""

from __future__ import annotations

from functools import partial
from importlib import resources

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QTextBrowser, QVBoxLayout, QWidget

from long_ember.ui.style.fonts import font

__all__ = ["HelpDialog", "guide_text"]


class HelpDialog(QDialog):
    """The guide in a window of its own; Escape closes it.

    Args:
        parent: of the window.
        section: heading that it opens at, "" for the beginning.
    """

    def __init__(self, parent: QWidget | None = None, section: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle("Long Ember guide")
        self.resize(860, 680)
        self.browser = QTextBrowser()
        self.browser.setFont(font(17))
        self.browser.document().setDocumentMargin(24)
        self.browser.setMarkdown(guide_text())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.browser)
        if section:
            QTimer.singleShot(0, self, partial(self._show, section))

    def _show(self, section: str) -> None:
        """The heading at the top of the window."""
        block = self.browser.document().begin()
        while block.isValid():
            if block.blockFormat().headingLevel() and block.text() == section:
                top = self.browser.document().documentLayout().blockBoundingRect(block).top()
                self.browser.verticalScrollBar().setValue(round(top))
                return
            block = block.next()


def guide_text() -> str:
    """The guide, Markdown."""
    return (resources.files("long_ember") / "assets" / "guide.md").read_text(encoding="utf-8")
