"""One writer to a book: a lock that the system releases when its process ends, however it ends."""

from __future__ import annotations

import fcntl
import os
from pathlib import Path

__all__ = ["Lock"]


class Lock:
    """The right to write a book.

    Attributes:
        holder: who has it when it could not be had, "" otherwise.
    """

    def __init__(self, book: Path) -> None:
        self._path = book.with_name(book.name + ".lock")
        self._handle: int | None = None
        self.holder = ""

    def take(self) -> bool:
        """Try to have it.

        Raises:
            OSError: the folder can't be written.
        """
        handle = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o644)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            text = os.read(handle, 200).decode("utf-8", "replace").strip()
            self.holder = f"process {text}" if text.isdigit() else "another process"
            os.close(handle)
            return False
        os.ftruncate(handle, 0)
        os.write(handle, str(os.getpid()).encode())
        self._handle = handle
        return True

    def release(self) -> None:
        """Give it back; the file stays, since removing it could take it from under another process."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
