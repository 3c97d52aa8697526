"""A soft tone through the desktop's own player, and words through its speech service, where they are there; the work needs neither."""

from __future__ import annotations

import math
import shutil
import struct
import subprocess
import tempfile
import wave
from functools import lru_cache
from pathlib import Path

from PySide6.QtWidgets import QApplication

__all__ = ["can_speak", "say_aloud", "sound"]

_PLAYERS = (("pw-play",), ("paplay",), ("aplay", "-q"))
_RATE, _LONG, _HIGH = 22050, 0.35, 523.25  # Hz, s, Hz: a c, fading


@lru_cache(maxsize=1)
def _tone() -> Path:
    """The tone as a file, made once."""
    path = Path(tempfile.mkdtemp(prefix="long-ember-")) / "tone.wav"
    count = int(_RATE * _LONG)
    values = (0.35 * math.sin(2 * math.pi * _HIGH * i / _RATE) * (1 - i / count) ** 2 for i in range(count))
    with wave.open(str(path), "wb") as file:
        file.setnchannels(1)
        file.setsampwidth(2)
        file.setframerate(_RATE)
        file.writeframes(b"".join(struct.pack("<h", round(v * 32767)) for v in values))
    return path


def sound() -> None:
    """The tone; the desktop's bell where no player is found."""
    player = next((p for p in _PLAYERS if shutil.which(p[0])), None)
    if player is None or not _started([*player, str(_tone())]):
        QApplication.beep()


def can_speak() -> bool:
    """The desktop has a speech service."""
    return shutil.which("spd-say") is not None


def say_aloud(words: str) -> bool:
    """Have it spoken; tells whether there is a service that may."""
    return can_speak() and _started(["spd-say", "--wait", "--", words]) if words else False


def _started(command: list[str]) -> bool:
    try:
        subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
    except OSError:
        return False
    return True
