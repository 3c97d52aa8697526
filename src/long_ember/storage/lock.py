"""One writer to a book: locks that the system releases when their process ends, however it ends."""

from __future__ import annotations

import contextlib
import fcntl
import os
from pathlib import Path

from long_ember.storage.migrations import sum_of

__all__ = ["Lock", "who_holds"]


class Lock:
    """The right to write a book, by what the file is and not only by what it is called.

    Two locks: one on a file beside the book, which also holds while another file takes its place, and one on the book itself, which
    holds under every other name that it has or gets.

    Args:
        book: its real path, links followed.

    Attributes:
        holder: who has it when it could not be had, "" otherwise.
        last: number of the last write that the one who held it before has told; 0 for none.
    """

    def __init__(self, book: Path) -> None:
        self.book = book
        self._path = book.with_name(book.name + ".lock")
        self._handle: int | None = None
        self._file: int | None = None
        self.holder = ""
        self.last = 0

    def take(self) -> bool:
        """Try to have it.

        Raises:
            OSError: the folder can't be written.
        """
        if self._handle is not None:
            return True
        handle = os.open(self._path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600)
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            process, _last = _read(handle)
            self.holder = f"process {process}" if process else "another process"
            os.close(handle)
            return False
        self._handle = handle  # first: what is held and not known could never be given back
        _process, self.last = _read(handle)
        if not self.hold():
            self.holder = "another process, by another name of the file"
            self.release()
            return False
        self.note(self.last)
        return True

    def hold(self) -> bool:
        """Have the file that is the book now, if there is one; False when somebody has it under another name.

        Raises:
            OSError: it can't be opened.
        """
        if self._file is not None and self.same():
            return True  # opening and closing it again would let go of what SQLite holds on it
        file = None
        with contextlib.suppress(FileNotFoundError):
            file = os.open(self.book, os.O_RDWR | os.O_CLOEXEC)
            try:
                fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
            except BlockingIOError:
                os.close(file)
                return False
        if self._file is not None:
            os.close(self._file)
        self._file = file
        return True

    def same(self) -> bool:
        """The file that is held is still the one that the path leads to; True as long as there has been none."""
        if self._file is None:
            return True
        try:
            now, held = os.stat(self.book), os.fstat(self._file)
        except FileNotFoundError:
            return False
        return (now.st_dev, now.st_ino) == (held.st_dev, held.st_ino)

    def note(self, serial: int) -> None:
        """Write down who holds it and the number of the last write, to be missed should it be missing later."""
        if self._handle is not None:
            words = f"{os.getpid()}\n{serial}\n"
            text = f"{words}{sum_of(words)}\n".encode()
            os.pwrite(self._handle, text, 0)
            os.ftruncate(self._handle, len(text))

    def release(self) -> None:
        """Give it back; the file stays, since removing it could take it from under another process."""
        for handle in (self._file, self._handle):
            if handle is not None:
                os.close(handle)
        self._file = self._handle = None


def who_holds(path: Path) -> str:
    """The processes that hold a lock on a file, as far as the system tells: `process 1234 (sqlite3)`; "" where it does not."""
    found: dict[str, None] = {}
    with contextlib.suppress(OSError):
        node = f":{os.stat(path).st_ino}"
        for line in Path("/proc/locks").read_text(encoding="ascii", errors="replace").splitlines():
            parts = line.split()
            at = next((i for i, part in enumerate(parts) if part.endswith(node) and part.count(":") == 2), 0)
            if at and parts[at - 1].isdigit() and parts[at - 1] != str(os.getpid()):
                found[parts[at - 1]] = None
    return ", ".join(f"process {number}{_name_of(number)}" for number in found)


def _name_of(process: str) -> str:
    try:
        return f" ({Path(f'/proc/{process}/comm').read_text(encoding='utf-8', errors='replace').strip()})"
    except OSError:
        return ""


def _read(handle: int) -> tuple[int, int]:
    """Process and last write; zeros where nothing of sense is written."""
    lines = os.pread(handle, 200, 0).decode("utf-8", "replace").split("\n")
    try:
        if len(lines) == 4 and sum_of(f"{lines[0]}\n{lines[1]}\n") == int(lines[2]):
            return int(lines[0]), int(lines[1])
        return int(lines[0]), 0  # as earlier versions left it
    except ValueError:
        return 0, 0
