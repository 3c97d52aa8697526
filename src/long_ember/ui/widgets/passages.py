"""Text in paragraphs that may change while somebody types: each is laid out by itself, and only when its words are others."""

from __future__ import annotations

from collections.abc import Generator, Sequence

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QLabel, QWidget

from long_ember.ui.style.fonts import font

__all__ = ["Passages"]

_BETWEEN = 5  # px


class _Passage(QLabel):
    """One paragraph or list; as wide as it gets, as high as it needs."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWordWrap(True)
        self.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)

    def sizeHint(self) -> QSize:
        """Qt's own lays the text out at several widths to find a handsome one."""
        return QSize(0, 0)

    def minimumSizeHint(self) -> QSize:
        """None: the height follows the width."""
        return QSize(0, 0)


class Passages(QWidget):
    """Paragraphs, one under the other: laid out by itself, since a layout does all of them in one go."""

    def __init__(self) -> None:
        super().__init__()
        self._shown: list[_Passage] = []
        self._count = 0

    @property
    def words(self) -> str:
        """All that is shown, as HTML."""
        return "".join(p.text() for p in self._shown[: self._count])

    def tell(self, passages: Sequence[tuple[int, str]]) -> Generator[None, None, None]:
        """Show other words, a paragraph in a portion.

        Args:
            passages: size of the type, px, and HTML of each.
        """
        down = 0
        for i, (size, words) in enumerate(passages):
            if i == len(self._shown):
                self._shown.append(_Passage(self))
            passage = self._shown[i]
            fresh = words != passage.text()
            if passage.font().pixelSize() != size:
                passage.setFont(font(size))
            if fresh:
                passage.setText(words)
            down = self._lay(passage, down)
            passage.show()
            if fresh:
                yield
        for passage in self._shown[len(passages) :]:
            passage.hide()
        self._count = len(passages)
        self.setMinimumHeight(down)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As wide as there is room."""
        down = 0
        for passage in self._shown[: self._count]:
            down = self._lay(passage, down)
        self.setMinimumHeight(down)

    def _lay(self, passage: _Passage, down: int) -> int:
        """A paragraph in its place; where the next one begins, px."""
        high = passage.heightForWidth(self.width())
        passage.setGeometry(0, down, self.width(), high)
        return down + high + _BETWEEN
