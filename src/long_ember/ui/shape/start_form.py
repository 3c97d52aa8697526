"""A piece as a start: which sizes are asked next time."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QDialog, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from long_ember.errors import EmberError
from long_ember.shorthand import askable, own_start, started
from long_ember.storage import new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import worded

__all__ = ["StartForm"]

_LEAST, _MOST = 1, 5  # sizes that are asked beside the bar


class StartForm(QDialog):
    """Name, other names, and its sizes to tick, each called as it will be asked."""

    def __init__(self, work: BookWork, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work, session = work, work.session
        self._session = session
        self.setWindowTitle("Make it a start")
        self.resize(720, 640)
        told = QLabel("Tick the sizes to be asked next time. The bar is always asked; all else keeps its proportion to it.")
        told.setWordWrap(True)
        told.setFont(font(17))
        self.name, self.words = QLineEdit(session.piece.name), QLineEdit()
        self.words.setPlaceholderText("coat hook, hat hook")
        form = QFormLayout()
        for title, entry in (("Name", self.name), ("Also called", self.words)):
            entry.setFont(font(18, 500))
            label = QLabel(title)
            label.setFont(font(16))
            label.setBuddy(entry)
            form.addRow(label, entry)
        self.ticks: list[tuple[QCheckBox, QLineEdit, tuple[str, str]]] = []
        page = QWidget()
        rows = QVBoxLayout(page)
        for identity, field, title, shown in askable(session.piece, session.measure):
            tick, asked = QCheckBox(f"{title}   {shown}"), QLineEdit(title)
            tick.setFont(font(16))
            tick.setMinimumHeight(36)
            asked.setFont(font(16))
            asked.setAccessibleName(f"{title}: asked as")
            asked.setEnabled(False)
            tick.toggled.connect(asked.setEnabled)
            tick.toggled.connect(self._renew)
            row = QHBoxLayout()
            row.addWidget(tick, 1)
            row.addWidget(asked, 1)
            rows.addLayout(row)
            self.ticks.append((tick, asked, (identity, field)))
        rows.addStretch(1)
        area = QScrollArea()
        area.setWidget(page)
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        self.said = QLabel()
        self.said.setWordWrap(True)
        self.said.setFont(font(16))
        self.done_button = worded("Keep it as a start", self._keep, weight=600)
        self.done_button.setDefault(True)
        last = QHBoxLayout()
        last.addWidget(self.said, 1)
        last.addWidget(worded("Leave it", self.reject), alignment=Qt.AlignmentFlag.AlignBottom)
        last.addWidget(self.done_button, alignment=Qt.AlignmentFlag.AlignBottom)
        column = QVBoxLayout(self)
        column.addWidget(told)
        column.addLayout(form)
        column.addWidget(area, 1)
        column.addLayout(last)
        self._renew()

    def _wanted(self) -> dict[tuple[str, str], str]:
        return {of: asked.text().strip() or "Size" for tick, asked, of in self.ticks if tick.isChecked()}

    def _renew(self, _on: bool = False) -> None:
        count = len(self._wanted())
        self.done_button.setEnabled(_LEAST <= count <= _MOST)
        self.said.setText("" if _LEAST <= count <= _MOST else f"Tick {_LEAST} to {_MOST} sizes; {count} are ticked.")

    def _keep(self) -> None:
        session = self._session
        name = self.name.text().strip() or session.piece.name
        try:
            start = own_start(session.piece, name, self.words.text().strip(), self._wanted())
            started(start, session.shop.new_piece(), start.bar, {}, session.measure)
        except EmberError as error:
            self.said.setText(f"! {error}")
            return
        self._work.put_record(new_id(), start, None)
        session.said.emit(f"{name} is a start now: New piece finds it by its name.", False)
        self.accept()
