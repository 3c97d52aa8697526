"""What the instruments say, wherever somebody works: a reading lands in the field that waits for it, with its unit; trouble is told, and never stored."""

from __future__ import annotations

import time

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QApplication, QLineEdit

from long_ember.desk.session import Session
from long_ember.instruments import INSTRUMENTS, Heard, LineDriver, opened_port

__all__ = ["Readings", "reading_words"]

_POLL, _AGAIN = 50, 3.0  # ms between two looks; s until a port that could not be opened is tried again
_LENGTHS, _MASSES = frozenset({"calliper"}), frozenset({"scale"})


def reading_words(reading: Heard, session: Session) -> str:
    """A reading as it would be typed."""
    value, m = reading.value or 0.0, session.measure
    if reading.kind in _LENGTHS:
        return m.edit_text(value)
    if reading.kind in _MASSES:
        return f"{value:.1f} g"
    return m.temperature(value)


class Readings(QObject):
    """The instruments of this machine.

    Signals:
        came: a reading.
        told: what is wrong with one, or that it is well again.
    """

    came = Signal(object)
    told = Signal(str, bool)

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self.drivers: dict[str, LineDriver] = {}
        self.trouble: dict[str, str] = {}
        self._tried: dict[str, float] = {}
        self._timer = QTimer(self, interval=_POLL)
        self._timer.timeout.connect(self.poll)
        self.follow()

    def follow(self) -> None:
        """The ports that the settings name, and no others."""
        wanted = dict(self._session.settings.instruments)
        for kind in list(self.drivers):
            self.drivers.pop(kind).close()
        self.trouble.clear()
        self._tried.clear()
        if wanted:
            self._timer.start()
        else:
            self._timer.stop()

    def poll(self) -> None:
        """Hear what came, and try again what was not there."""
        now = time.monotonic()
        for kind, path in self._session.settings.instruments:
            driver = self.drivers.get(kind)
            if driver is None:
                if now - self._tried.get(kind, -_AGAIN) < _AGAIN:
                    continue
                self._tried[kind] = now
                try:
                    driver = self.drivers[kind] = LineDriver(kind, opened_port(path), now)
                except (OSError, ValueError) as error:
                    self._say(kind, f"{INSTRUMENTS[kind][0]}: {path} can't be opened ({getattr(error, 'strerror', None) or error})")
                    continue
            for reading in driver.poll(now):
                self.came.emit(reading)
            if driver.lost:
                self.drivers.pop(kind).close()
            self._say(kind, driver.trouble)

    def _say(self, kind: str, words: str) -> None:
        before = self.trouble.get(kind, "")
        if words.rstrip("0123456789 s") != before.rstrip("0123456789 s"):  # that it lasts longer is no news
            self.told.emit(words or f"{INSTRUMENTS[kind][0]}: it is there again", bool(words))
        self.trouble[kind] = words

    def land(self, reading: Heard) -> bool:
        """Put a reading into the line that has the keys, if it waits for such a thing."""
        line = QApplication.focusWidget()
        wanted = {"calliper": "length", "scale": "mass", "pyrometer": "temperature", "oven": "temperature"}.get(reading.kind)
        if not isinstance(line, QLineEdit) or wanted is None or line.property("measures") != wanted:
            return False
        line.setText(reading_words(reading, self._session))
        line.textEdited.emit(line.text())
        return True

    def close(self) -> None:
        """Let all ports go."""
        self._timer.stop()
        for driver in self.drivers.values():
            driver.close()
        self.drivers.clear()
