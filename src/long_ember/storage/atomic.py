"""Write a file so that at every moment either the old or the new content is there."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from long_ember.errors import SaveError

__all__ = ["write_atomic"]


def write_atomic(path: Path, content: str | bytes) -> None:
    """Write beside the target, flush to disk, rename over it, flush the folder.

    Raises:
        SaveError: when any of that fails; the old file is untouched.
    """
    path = path.resolve()  # a link keeps pointing where it did: its target is replaced
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        with os.fdopen(handle, "wb") as file:
            file.write(content if isinstance(content, bytes) else content.encode("utf-8"))
            file.flush()
            os.fsync(file.fileno())
        os.chmod(temporary, path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask())
        os.replace(temporary, path)
        _sync_folder(path.parent)
    except OSError as error:
        with contextlib.suppress(OSError):
            os.unlink(temporary)
        raise SaveError(str(path), error.strerror or str(error)) from error


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
