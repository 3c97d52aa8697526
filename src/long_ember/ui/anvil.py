"""What the window has to do with the anvil: the Forge screen, what instruments say, and the log at the end."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property, partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QWidget

from long_ember.records import LogEntry
from long_ember.ui.actions.bookwork import BookWork

if TYPE_CHECKING:
    from long_ember.instruments import Heard
    from long_ember.ui.actions.readings import Readings
    from long_ember.ui.forge.forge_view import ForgeView

__all__ = ["Anvil"]

_SOON = 900  # ms after the start, when the first screen is there


class Anvil(QObject):
    """The Forge screen, at most one of it, and the instruments.

    Signals:
        said: words for the message line, and whether they tell of a fault.
        log_asked: what was counted is to be written down, open for the rest; and what to do once that is logged.
    """

    said = Signal(str, bool)
    log_asked = Signal(object, object)

    def __init__(self, work: BookWork, window: QWidget) -> None:
        super().__init__(window)
        self._work, self._window = work, window
        self.view: ForgeView | None = None
        if work.session.settings.instruments:
            QTimer.singleShot(_SOON, self, lambda: self.readings)

    @cached_property
    def readings(self) -> Readings:
        """The instruments of this machine; loaded when there are any, or are to be named."""
        from long_ember.ui.actions.readings import Readings

        made: Readings = Readings(self._work.session, self)
        made.came.connect(self._read)
        made.told.connect(self._told)
        return made

    def show(self, wanted: int = 1, irons: int = 1, rhythm: str = "") -> None:
        """One heat fills the screen; Escape comes back.

        Args:
            wanted: pieces to make.
            irons: in the fire at once.
            rhythm: of a batch, "" for a single piece.
        """
        from long_ember.ui.forge.forge_view import ForgeView

        if self.view is not None and self.view.isVisible():
            self.view.raise_()
            self.view.activateWindow()
            return
        self._work.finishing.emit()
        self.view = ForgeView(self._work)
        self.view.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.view.ended.connect(self._ended)
        self.view.closed.connect(self._left)
        self.view.showFullScreen()
        self.view.open(wanted, irons, rhythm)

    def ask_instruments(self) -> None:
        """Which instrument answers at which port."""
        from long_ember.ui.instruments_dialog import InstrumentsDialog

        InstrumentsDialog(self._work.session, self.readings, self._window).exec()

    def close(self) -> None:
        """The window goes: what is forged is put aside, the ports are let go."""
        if self.view is not None:
            self.view.close()
        if "readings" in self.__dict__:
            self.readings.close()

    def _read(self, heard: Heard) -> None:
        """A reading lands at the anvil, or in the line that waits for it."""
        from long_ember.instruments import INSTRUMENTS
        from long_ember.ui.actions.readings import reading_words

        if self.view is not None and self.view.isVisible():
            self.view.read(heard)
        elif not self.readings.land(heard) and heard.kind not in ("pyrometer", "oven"):
            what = "pressed" if heard.kind == "pedal" else reading_words(heard, self._work.session)
            self.said.emit(f"{INSTRUMENTS[heard.kind][0]}: {what}. No field waits for it.", False)

    def _told(self, words: str, fault: bool) -> None:
        if self.view is not None and self.view.isVisible():
            self.view.tell(words)
        self.said.emit(words, fault)

    def _left(self) -> None:
        self.view = None
        self._window.activateWindow()

    def _ended(self, entry: LogEntry, logged: Callable[[], None]) -> None:
        """Asked when the screen has gone."""
        QTimer.singleShot(0, self, partial(self.log_asked.emit, entry, logged))
