"""The `long-ember` command: on the terminal by itself, the window where PySide6 is there."""

from __future__ import annotations

import importlib.util
import sys
from argparse import Namespace
from collections.abc import Sequence

from long_ember.cli import main
from long_ember.cli.speak import complain

__all__ = ["command"]


def _window(given: Namespace) -> int:
    if importlib.util.find_spec("PySide6") is None:
        words = "The window needs PySide6 (pip install 'PySide6-Essentials<6.12'). Every other command works without it: long-ember --help."
        complain(words)
        return 1
    from long_ember.ui.app import show_window

    return show_window(getattr(given, "file", None), demo=getattr(given, "demo", False), book=given.book)


def command(arguments: Sequence[str] | None = None) -> int:
    """The command of that name; its exit code, see `cli.main`."""
    return main(arguments, window=_window)


if __name__ == "__main__":
    sys.exit(command())
