"""The message line: what happened, or what would work; a fault is told by its words and its colour."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QFontMetricsF, QResizeEvent
from PySide6.QtWidgets import QLabel

from long_ember.plain import marked_up
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import styled_as

__all__ = ["MessageLine"]

_SIZES = (16, 15, 14, 13, 12)


class MessageLine(QLabel):
    """One line that never changes its height.

    Attributes:
        link: colour of what can be pressed in it.
    """

    def __init__(self) -> None:
        super().__init__()
        self.link = "#165d78"
        self._size = _SIZES[0]
        self.setFont(font(self._size, 500))
        self.setFixedHeight(24)
        self.setContentsMargins(16, 0, 16, 0)
        self._file: Path | None = None
        self._choices: dict[str, tuple[str, Callable[[], object]]] = {}
        self.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse | Qt.TextInteractionFlag.LinksAccessibleByKeyboard)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.linkActivated.connect(self.follow)

    def say(self, text: str, fault: bool) -> None:
        """Replace what it says."""
        self._file, self._choices = None, {}
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setTextFormat(Qt.TextFormat.PlainText)
        if self.text() == text and self.property("fault") == fault:
            return
        self.setText(text)
        self.setToolTip(text)
        self._fit()
        self.setProperty("fault", fault)
        styled_as(self, "role", "fault" if fault else "muted")

    def minimumSizeHint(self) -> QSize:
        """A long message never widens the window."""
        return QSize(0, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As large as there is room."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        if self._file is not None or self._choices:
            return
        room = self.width() - 32
        size = (
            _SIZES[0]
            if not self.text()
            else next((s for s in _SIZES if QFontMetricsF(font(s, 500)).horizontalAdvance(self.text()) <= room), _SIZES[-1])
        )
        if size != self._size:
            self._size = size
            self.setFont(font(size, 500))

    def wrote(self, text: str, path: Path) -> None:
        """A file is there: it can be opened, or looked for in its folder."""
        self.say("", False)
        self._file = path
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setToolTip(str(path))
        links = "&nbsp; ".join(self._link(key, words) for key, words in (("open", "Open it"), ("folder", "Show its folder")))
        self.setText(f"{marked_up(text)}&nbsp; {links}")

    def offer(self, text: str, choices: dict[str, tuple[str, Callable[[], object]]]) -> None:
        """Say something with a few answers to press, by their key: words and what is done."""
        self.say(text, False)
        self._choices = choices
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setTextFormat(Qt.TextFormat.RichText)
        links = "&nbsp; ".join(self._link(key, words) for key, (words, _run) in choices.items())
        self.setText(f"{marked_up(text)}&nbsp; {links}")

    def _link(self, key: str, words: str) -> str:
        return f"<a href='{key}' style='color:{self.link}'>{words}</a>"

    def follow(self, link: str) -> None:
        """Do what was offered; open the file, or its folder; where nothing here can, say where it is."""
        if link in self._choices:
            _words, run = self._choices[link]
            self.say("", False)
            run()
            return
        from PySide6.QtCore import QUrl
        from PySide6.QtGui import QDesktopServices

        path = self._file
        if path is not None and not QDesktopServices.openUrl(QUrl.fromLocalFile(str(path if link == "open" else path.parent))):
            self.say(f"Nothing here opens it by itself: it is {path}.", True)
