"""Stand-ins for instruments, over a pseudo-terminal: for the demo, for tests, and for whoever writes a driver for a real one."""

from __future__ import annotations

import contextlib
import math
import os
import random
import select
import sys
import time
import tty

from long_ember.instruments.protocol import INSTRUMENTS, spoken_line

__all__ = ["StandIn", "run_stand_in"]

_USUAL = {"calliper": (12.0, "mm"), "scale": (425.0, "g"), "pyrometer": (1080.0, "C"), "pedal": (1.0, "down"), "oven": (220.0, "C")}
_EVERY = 0.25  # s between two lines of what streams


class StandIn:
    """An instrument at the other end of a pseudo-terminal.

    Args:
        kind: key of `INSTRUMENTS`.
        seed: of its trembling.
    """

    def __init__(self, kind: str, seed: int = 1) -> None:
        if kind not in INSTRUMENTS:
            raise ValueError(f"no such instrument: {kind}")
        self.kind, (self._value, self.unit) = kind, _USUAL[kind]
        self._master, slave = os.openpty()
        tty.setraw(slave)
        self.path = os.ttyname(slave)
        self._slave = slave  # kept open, so that nobody's leaving ends it
        self._random, self._began = random.Random(seed), time.monotonic()

    def say(self, value: float, unit: str = "") -> None:
        """Send a reading, in the unit that it shows."""
        self.send(spoken_line(self.kind, value, unit or self.unit).encode("ascii") + b"\n")

    def live(self) -> None:
        """Send a sign of life; what streams sends what it measures."""
        if self.kind in ("pyrometer", "oven"):
            slow = 6.0 * math.sin((time.monotonic() - self._began) / 7)
            self.say(round(self._value + slow + self._random.gauss(0, 1.2), 1))
        else:
            self.send(spoken_line(self.kind, None).encode("ascii") + b"\n")

    def send(self, raw: bytes) -> None:
        """Send bytes as they are: half lines and noise too."""
        os.write(self._master, raw)

    def close(self) -> None:
        """Pull its plug."""
        for end in (self._master, self._slave):
            with contextlib.suppress(OSError):
                os.close(end)


def run_stand_in(kind: str) -> int:
    """A stand-in until the input ends or it is interrupted: a number and Enter sends a reading, Enter alone the usual one."""
    there = StandIn(kind)
    value, unit = _USUAL[kind]
    print(f"{INSTRUMENTS[kind][0]} at {there.path}")
    print(f"A number and Enter sends it in {unit}; Enter alone sends {value:g}. End with Ctrl+C.", flush=True)
    try:
        while True:
            there.live()
            if not select.select([sys.stdin], [], [], _EVERY)[0]:
                continue
            line = sys.stdin.readline()
            if not line:
                return 0
            try:
                there.say(float(line) if line.strip() else value)
            except ValueError:
                print("That is no number.", flush=True)
    except KeyboardInterrupt:
        return 0
    finally:
        there.close()
