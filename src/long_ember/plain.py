"""Text that any file, terminal and spreadsheet can hold."""

from __future__ import annotations

import re

__all__ = ["cell", "clean", "marked_up", "one_line", "writable"]

_ODD = re.compile("[\ud800-\udfff\x00-\x08\x0b-\x1f\x7f-\x9f\u2028\u2029]")
_BREAK = re.compile(r"[\n\t]+")
_FORMULA = ("=", "+", "-", "−", "@", "\t", "\r", "'")
_SWAPPED = "\ufffd"


def clean(text: str) -> str:
    """Text as it is kept: halves of characters and control characters become `�`, line ends become plain ones.

    >>> clean('a\\r\\nb\\ud800')
    'a\\nb�'
    """
    return _ODD.sub(_SWAPPED, text.replace("\r\n", "\n").replace("\r", "\n"))


def writable(text: str) -> bool:
    """Whether UTF-8 can hold the text: halves of characters, as broken names and pastes have them, can't be written.

    >>> writable('\\udc80')
    False
    """
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return True


def one_line(text: str) -> str:
    """Text for one line of a terminal or a table: nothing in it moves the cursor or begins another line."""
    return _ODD.sub(_SWAPPED, _BREAK.sub(" ", text.replace("\r", "\n")))


def cell(text: str) -> str:
    """A cell that no spreadsheet takes for a formula, and that stays on its line.

    >>> cell('=1+1')
    "'=1+1"
    """
    return one_line(f"'{text}" if text.startswith(_FORMULA) else text)


def marked_up(text: str) -> str:
    """Text within rich text; the library's own way loads a table of two thousand names of characters first.

    >>> marked_up('a < b & c')
    'a &lt; b &amp; c'
    """
    return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;")
