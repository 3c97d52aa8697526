"""What the command says: nothing in it moves the cursor of a terminal, and no terminal is too plain for it."""

from __future__ import annotations

import sys
from typing import IO

from long_ember.plain import one_line

__all__ = ["complain", "print_lines"]


def print_lines(text: str, *, end: str = "\n") -> None:
    """Print a text, line by line."""
    _print(text, sys.stdout, end)


def complain(text: object) -> None:
    """The same on the error stream."""
    _print(str(text), sys.stderr, "\n")


def _print(text: str, stream: IO[str], end: str) -> None:
    plain = "\n".join(one_line(line) for line in text.split("\n"))
    encoding = getattr(stream, "encoding", None) or "utf-8"
    print(plain.encode(encoding, "replace").decode(encoding), end=end, file=stream)
