"""Which instrument answers at which port, what it says just now, and stand-ins to try it with."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.instruments import INSTRUMENTS, Heard, StandIn
from long_ember.ui.actions.readings import Readings, reading_words
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import worded

__all__ = ["InstrumentsDialog"]

_LIVE = 250  # ms between two signs of life of a stand-in


class InstrumentsDialog(QDialog):
    """A row for each."""

    def __init__(self, session: Session, readings: Readings, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._readings = session, readings
        self.setWindowTitle("Instruments")
        self.resize(820, 420)
        self.stand_ins: dict[str, StandIn] = {}
        self.lines: dict[str, QLineEdit] = {}
        self.said: dict[str, QLabel] = {}
        self._last: dict[str, str] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(12)
        ports = dict(session.settings.instruments)
        for row, (kind, (title, _units, _low, _high)) in enumerate(INSTRUMENTS.items()):
            name = QLabel(title)
            name.setFont(font(17, 600))
            line = self.lines[kind] = QLineEdit(ports.get(kind, ""))
            line.setPlaceholderText("port, for example /dev/ttyUSB0; empty for none")
            line.setAccessibleName(f"Port of the {title.lower()}")
            line.setFont(font(16))
            line.editingFinished.connect(self._take)
            said = self.said[kind] = QLabel()
            said.setFont(font(15))
            said.setWordWrap(True)
            said.setMinimumWidth(230)
            grid.addWidget(name, row, 0)
            grid.addWidget(line, row, 1)
            grid.addWidget(self._try(kind), row, 2)
            grid.addWidget(said, row, 3)
        head = QLabel("A reading lands in the field that waits for it. What can't be right is told, and never stored.")
        head.setFont(font(16))
        head.setWordWrap(True)
        foot = QHBoxLayout()
        foot.addStretch(1)
        foot.addWidget(worded("Close", self.accept))
        column = QVBoxLayout(self)
        column.addWidget(head)
        column.addLayout(grid)
        column.addStretch(1)
        column.addLayout(foot)
        readings.came.connect(self._came)
        self._live = QTimer(self, interval=_LIVE)
        self._live.timeout.connect(self._tick)
        self._live.start()

    def _try(self, kind: str) -> QPushButton:
        return worded(
            "Try a stand-in", partial(self.stand_in, kind), "A simulated one over a pseudo-terminal; pressed again it sends a reading"
        )

    def stand_in(self, kind: str) -> None:
        """Start a stand-in; if it is there, have it send a reading."""
        there = self.stand_ins.get(kind)
        if there is None:
            there = self.stand_ins[kind] = StandIn(kind)
            self.lines[kind].setText(there.path)
            self._take()
        else:
            there.say({"calliper": 12.2, "scale": 431.0, "pyrometer": 1080.0, "pedal": 1.0, "oven": 220.0}[kind])

    def _take(self) -> None:
        settings = self._session.settings
        ports = tuple((kind, line.text().strip()) for kind, line in self.lines.items() if line.text().strip())
        if ports != settings.instruments:
            self._session.configure(replace(settings, instruments=ports))
            self._readings.follow()

    def _came(self, reading: Heard) -> None:
        self._last[reading.kind] = reading_words(reading, self._session) if reading.kind != "pedal" else "pressed"

    def _tick(self) -> None:
        for there in self.stand_ins.values():
            there.live()
        for kind, said in self.said.items():
            there_ = kind in dict(self._session.settings.instruments)
            trouble = self._readings.trouble.get(kind, "")
            said.setText(f"! {trouble}" if trouble else self._last.get(kind, "it is there") if there_ else "")

    def done(self, result: int) -> None:
        """Stand-ins go with the window; a port of theirs is let go."""
        self._live.stop()
        for kind, there in self.stand_ins.items():
            if self.lines[kind].text() == there.path:
                self.lines[kind].clear()
        self._take()
        for there in self.stand_ins.values():
            there.close()
        super().done(result)
