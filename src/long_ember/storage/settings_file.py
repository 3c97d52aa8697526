"""The person's settings and the books opened last, where the XDG base directories say."""

from __future__ import annotations

import json
import os
from pathlib import Path

from long_ember.errors import SaveError
from long_ember.plain import writable
from long_ember.records import RECENT, Settings
from long_ember.storage.atomic import write_atomic
from long_ember.storage.migrations import sum_of

__all__ = ["config_folder", "read_settings", "write_settings"]


def config_folder() -> Path:
    """`$XDG_CONFIG_HOME/long-ember`, by default under `~/.config`."""
    base = os.environ.get("XDG_CONFIG_HOME", "")
    return (Path(base) if base.startswith("/") else Path.home() / ".config") / "long-ember"


def read_settings() -> Settings:
    """The person's settings; what is missing or damaged falls back to the default, field by field."""
    try:
        data = json.loads((config_folder() / "settings.json").read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return Settings()
    data = data if isinstance(data, dict) else {}
    ports, printing = data.get("instruments", {}), data.get("printing", {})
    if "sum" in data and data["sum"] != _sum(data.get("theme"), data.get("books"), ports, printing):
        return Settings()  # a path with a wrong letter is worse than none
    theme, books = data.get("theme"), data.get("books")
    books = [_in(b) for b in books if isinstance(b, str)] if isinstance(books, list) else []
    ports = ports.items() if isinstance(ports, dict) else ()
    instruments = tuple((kind, port) for kind, port in ports if isinstance(port, str))
    chosen = printing.items() if isinstance(printing, dict) else ()
    told = tuple((key, value) for key, value in chosen if isinstance(value, str))
    return Settings(theme if theme in ("light", "dark") else Settings().theme, tuple(books[:RECENT]), instruments, told)


def write_settings(settings: Settings) -> None:
    """Keep the settings.

    Raises:
        SaveError: when the folder can't be written.
    """
    folder = config_folder()
    _make_folder(folder)
    books = [_out(b) for b in settings.books]
    ports, printing = dict(settings.instruments), dict(settings.printing)
    data = {"theme": settings.theme, "books": books, "instruments": ports, "printing": printing,
            "sum": _sum(settings.theme, books, ports, printing)}  # fmt: skip
    write_atomic(folder / "settings.json", json.dumps(data, indent=2) + "\n", private=True)


def _sum(theme: object, books: object, instruments: object, printing: object) -> int:
    return sum_of(json.dumps([theme, books, *([instruments] if instruments else []), *([printing] if printing else [])]))


_RAW = "bytes:"  # before a name that is no text, in hexadecimal


def _out(book: str) -> str:
    return book if writable(book) else _RAW + os.fsencode(book).hex()


def _in(book: str) -> str:
    try:
        return os.fsdecode(bytes.fromhex(book.removeprefix(_RAW))) if book.startswith(_RAW) else book
    except ValueError:
        return book


def _make_folder(folder: Path) -> None:
    """Create a folder.

    Raises:
        SaveError: when that is not possible.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    except OSError as error:
        raise SaveError(str(folder), error.strerror or str(error)) from error
