"""The one driver: whatever speaks the line protocol, over any serial port. Lost, noisy and stuck ones are told, and nothing of them is handed on."""

from __future__ import annotations

from typing import Protocol

from long_ember.instruments.protocol import INSTRUMENTS, Heard, Noise, understood

__all__ = ["LineDriver", "Port", "opened_port"]

_LOST = 3.0  # s without any line
_HALF = 1.0  # s that the rest of a line may take
_STUCK = 20  # like values one after the other from what always trembles a little, or faster than anybody presses a button
_PRESSED = 0.2  # s between two presses at least
_STREAMS = frozenset({"pyrometer", "oven"})
_LONGEST = 120  # bytes of a line


class Port(Protocol):
    """What a driver needs of a serial port."""

    def read(self, size: int) -> bytes:
        """What has come, at once."""

    def close(self) -> None:
        """Let it go."""


def opened_port(path: str) -> Port:
    """A serial port that gives at once what has come.

    Raises:
        OSError: it is not there, or in use.
    """
    import serial  # loaded with the first instrument

    port: Port = serial.Serial(path, 9600, timeout=0, exclusive=True)
    return port


class LineDriver:
    """Reads one instrument.

    Args:
        kind: key of `INSTRUMENTS` that is expected there.
        port: opened.
        now: s.
    """

    def __init__(self, kind: str, port: Port, now: float) -> None:
        self.kind, self._port = kind, port
        self._rest, self._heard, self._begun = b"", now, now
        self._like: tuple[float, int, float] = (0.0, 0, now)  # value, how often, since when
        self.trouble, self.lost = "", False  # what is wrong with it; whether the port is gone and has to be opened anew

    @property
    def title(self) -> str:
        """What it is called."""
        return INSTRUMENTS[self.kind][0]

    def poll(self, now: float) -> list[Heard]:
        """What it measured since the last time; what is wrong with it stands in `trouble` until it is well again.

        Args:
            now: s.
        """
        try:
            came = self._port.read(4096)
        except OSError as error:  # pyserial's own error is one
            self.lost = True
            self.trouble = f"{self.title}: the connection is lost ({error.strerror or error})"
            return []
        if came:
            if not self._rest:
                self._begun = now
            self._rest += came
        *lines, self._rest = self._rest.split(b"\n")
        if lines:
            self._begun = now
        found: list[Heard] = []
        for raw in lines:
            found.extend(self._heard_line(raw, now))
        if self._rest and (now - self._begun > _HALF or len(self._rest) > _LONGEST):
            self._rest = b""
            self.trouble = f"{self.title}: half a line came, and nothing of it counts"
        if now - self._heard > _LOST:
            self.trouble = f"{self.title}: nothing has come from it for {round(now - self._heard)} s"
        return found

    def _heard_line(self, raw: bytes, now: float) -> list[Heard]:
        try:
            reading = understood(raw.decode("ascii"))
        except Noise as noise:
            self.trouble = f"{self.title}: {noise}; it does not count"
            return []
        except UnicodeDecodeError:
            self.trouble = f"{self.title}: a garbled line; it does not count"
            return []
        if reading.kind != self.kind:
            self.trouble = f"{self.title}: a {INSTRUMENTS[reading.kind][0].lower()} answers there"
            return []
        self._heard = now
        if reading.value is None:
            self.trouble = ""
            return []
        value, count, since = self._like
        self._like = (reading.value, count + 1, since) if reading.value == value else (reading.value, 1, now)
        quick = now - self._like[2] <= _PRESSED * self._like[1]
        if self._like[1] >= _STUCK and (self.kind in _STREAMS or quick):
            self.trouble = f"{self.title}: it has said the same {self._like[1]} times, and is perhaps stuck; it does not count"
            return []
        self.trouble = ""
        return [reading]

    def close(self) -> None:
        """Let the port go."""
        self._port.close()
