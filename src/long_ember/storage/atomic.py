"""Write a file so that at every moment either the old or the new content is there."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import tempfile
from pathlib import Path

from long_ember.errors import SaveError
from long_ember.storage.database import address
from long_ember.storage.migrations import APPLICATION

__all__ = ["write_atomic"]


def write_atomic(path: Path, content: str | bytes, *, private: bool = False) -> None:
    """Write beside the target, flush to disk, rename over it, flush the folder.

    Args:
        path: of the file.
        content: all of it.
        private: for its owner only.

    Raises:
        SaveError: when any of that fails; the old file is untouched.
    """
    temporary = ""
    try:
        path = path.resolve()  # a link keeps pointing where it did: its target is replaced
        if _is_book(path):
            raise SaveError(str(path), "a book is there, and nothing else is written over a book. Choose another name")
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(content if isinstance(content, bytes) else content.encode("utf-8"))
            file.flush()
            os.fsync(file.fileno())
        if not private:  # as made, it is
            os.chmod(temporary, path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except (OSError, RuntimeError) as error:  # Python 3.11 and 3.12 call links that go round a RuntimeError
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise SaveError(str(path), getattr(error, "strerror", "") or str(error)) from error


def _is_book(path: Path) -> bool:
    """Whether a book is there; another file may be replaced, as the person was asked.

    SQLite looks itself: opening and closing a file behind its back lets go of the locks that this process has on it.
    """
    if not path.is_file():
        return False
    with (
        contextlib.suppress(sqlite3.Error),
        contextlib.closing(sqlite3.connect(address(path, "mode=ro&immutable=1"), uri=True)) as connection,
    ):
        return bool(connection.execute("PRAGMA application_id").fetchone()[0] == APPLICATION)
    return False


def _umask() -> int:
    mask = os.umask(0o022)
    os.umask(mask)
    return mask


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
