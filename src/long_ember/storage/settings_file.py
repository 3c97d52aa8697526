"""Settings and recent files, where the XDG base directories say."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import TypeVar

from long_ember.errors import SaveError
from long_ember.shop import DENOMINATORS, Settings
from long_ember.storage.atomic import write_atomic

_T = TypeVar("_T")

__all__ = ["config_folder", "read_settings", "write_settings"]


def config_folder() -> Path:
    """`$XDG_CONFIG_HOME/long-ember`, by default under `~/.config`."""
    base = os.environ.get("XDG_CONFIG_HOME", "")
    return (Path(base) if base.startswith("/") else Path.home() / ".config") / "long-ember"


def read_settings() -> Settings:
    """The shop's settings; what is missing or damaged falls back to the default, field by field."""
    try:
        data = json.loads((config_folder() / "settings.json").read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return Settings()
    data = data if isinstance(data, dict) else {}
    default = Settings()
    return Settings(
        unit=_one_of(data.get("unit"), ("mm", "in"), default.unit),
        denominator=_one_of(data.get("denominator"), DENOMINATORS, default.denominator),
        theme=_one_of(data.get("theme"), ("light", "dark"), default.theme),
    )


def _one_of(value: object, allowed: tuple[_T, ...], default: _T) -> _T:
    return next((a for a in allowed if a == value and type(a) is type(value)), default)


def write_settings(settings: Settings) -> None:
    """Keep the settings.

    Raises:
        SaveError: when the folder can't be written.
    """
    folder = config_folder()
    data = {"unit": settings.unit, "denominator": settings.denominator, "theme": settings.theme}
    _make_folder(folder)
    write_atomic(folder / "settings.json", json.dumps(data, indent=2) + "\n")


def _make_folder(folder: Path) -> None:
    """Create a folder.

    Raises:
        SaveError: when that is not possible.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise SaveError(str(folder), error.strerror or str(error)) from error
