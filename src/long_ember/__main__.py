"""The `long-ember` command: on the terminal by itself, the window where PySide6 is there."""

from __future__ import annotations

import gc
import importlib.util
import os
import sys
from argparse import Namespace
from collections.abc import Sequence

from long_ember.cli import main
from long_ember.cli.speak import complain

__all__ = ["command", "prepare"]


def prepare() -> None:
    """What makes the window come sooner, before anything of it is loaded."""
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # no matrix here is worth a thread, and making them takes a third of NumPy's start
    sys.setswitchinterval(0.001)  # the window waits no longer than this for a thread that writes or searches
    gc.disable()  # nothing that is made while starting is garbage; the window turns it on again
    # The core first: PySide6 reads the source of every module that is loaded after it.
    from long_ember.desk import book_actions  # noqa: F401


def _window(given: Namespace) -> int:
    if importlib.util.find_spec("PySide6") is None:
        words = "The window needs PySide6 (pip install 'PySide6-Essentials<6.12'). Every other command works without it: long-ember --help."
        complain(words)
        return 1
    prepare()
    from long_ember.ui.app import show_window

    return show_window(getattr(given, "file", None), demo=getattr(given, "demo", False), book=given.book)


def command(arguments: Sequence[str] | None = None) -> int:
    """The command of that name; its exit code, see `cli.main`."""
    return main(arguments, window=_window)


if __name__ == "__main__":
    sys.exit(command())
