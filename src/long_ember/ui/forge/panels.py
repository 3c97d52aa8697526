"""What is asked at the anvil: a size that was measured, why a piece was given up, which plan to go on with. Large, and closed by Escape."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from long_ember.errors import EmberError
from long_ember.forging import Sizing
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.beside import mark_fault
from long_ember.units import Measure, parse_length

__all__ = ["Choosing", "Measuring", "Overlay"]


def _large(text: str, run: Callable[[], object], size: int) -> QPushButton:
    button = QPushButton(text)
    button.setFont(font(size, 600))
    button.setMinimumHeight(round(size * 2.6))
    button.setAutoDefault(False)
    button.clicked.connect(lambda _checked=False: run())
    return button


class Overlay(QWidget):
    """Lies over the screen until something is chosen."""

    def __init__(self, parent: QWidget, title: str, size: int) -> None:
        super().__init__(parent)
        self._over = parent
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setProperty("place", "panel")
        self.size_, self.column = size, QVBoxLayout(self)
        self.column.setContentsMargins(28, 22, 28, 22)
        self.column.setSpacing(14)
        head = QLabel(title)
        head.setFont(font(size + 6, 700))
        head.setWordWrap(True)
        self.column.addWidget(head)

    def open_over(self) -> None:
        """In the middle of the screen."""
        room = self._over.size()
        self.setFixedWidth(round(room.width() * 0.8))
        self.adjustSize()
        self.move((room.width() - self.width()) // 2, max((room.height() - self.height()) // 2, 0))
        self.show()
        self.raise_()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes it, and nothing else."""
        if event.key() == Qt.Key.Key_Escape:
            self.close_panel()
        else:
            event.accept()  # a key for the panel is none for the screen behind it

    def close_panel(self) -> None:
        """Back to the heat."""
        self.hide()
        self._over.setFocus()
        self.deleteLater()


class Choosing(Overlay):
    """One of a few words, by a press or by its number."""

    def __init__(self, parent: QWidget, title: str, ways: Sequence[tuple[str, Callable[[], object]]], size: int) -> None:
        super().__init__(parent, title, size)
        grid = QGridLayout()
        grid.setSpacing(12)
        self._ways = [run for _words, run in ways]
        for i, (words, _run) in enumerate(ways):
            grid.addWidget(_large(f"{i + 1}   {words}", partial(self._choose, i), size), i // 2, i % 2)
        self.column.addLayout(grid)
        self.setFocus()

    def _choose(self, index: int) -> None:
        run = self._ways[index]
        self.close_panel()
        run()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A number chooses."""
        index = event.key() - int(Qt.Key.Key_1)
        if 0 <= index < len(self._ways):
            self._choose(index)
        else:
            super().keyPressEvent(event)


class Measuring(Overlay):
    """Which size, what was read, hot or cold."""

    def __init__(
        self, parent: QWidget, sizes: Sequence[Sizing], m: Measure, thickness: float, hot: bool, done: Callable[[Sizing, float, bool], object],
        size: int,
    ) -> None:  # fmt: skip
        super().__init__(parent, "What did you measure?", size)
        self._sizes, self._m, self._thick, self._done = list(sizes), m, thickness, done
        self.chosen, self._buttons = 0, list[QPushButton]()
        grid = QGridLayout()
        for i, one in enumerate(self._sizes[:8]):
            button = _large(f"{one.title}, {one.label.lower()}: {m.length(one.planned)}", partial(self.choose, i), size - 4)
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self._buttons.append(button)
            grid.addWidget(button, i // 2, i % 2)
        self.column.addLayout(grid)
        row = QHBoxLayout()
        self.entry = QLineEdit()
        self.entry.setFont(font(size + 8, 600))
        self.entry.setMinimumHeight(round(size * 3))
        self.entry.setAccessibleName("What was read")
        self.entry.setPlaceholderText(m.unit)
        self.entry.returnPressed.connect(self.take)
        self.hot_button = _large("Measured hot", lambda: None, size - 2)
        self.hot_button.setCheckable(True)
        self.hot_button.setChecked(hot)
        row.addWidget(self.entry, 2)
        row.addWidget(self.hot_button, 1)
        row.addWidget(_large("Take it", self.take, size), 1)
        self.column.addLayout(row)
        self.choose(0)
        self.entry.setFocus()

    def choose(self, index: int) -> None:
        """Which size it is."""
        self.chosen = index
        for i, button in enumerate(self._buttons):
            button.setChecked(i == index)
        self.entry.setFocus()

    def read(self, mm: float) -> None:
        """An instrument has read it."""
        self.entry.setText(self._m.edit_text(mm))

    def take(self) -> None:
        """Hold it against the plan, if it can be read."""
        try:
            value = parse_length(self.entry.text(), unit=self._m.unit, thickness=self._thick)
        except EmberError as error:
            mark_fault(self.entry, str(error))
            return
        size, hot = self._sizes[self.chosen], self.hot_button.isChecked()
        self.close_panel()
        self._done(size, value, hot)
