"""Renew the worked numbers in the user guide."""

from __future__ import annotations

import sys
from pathlib import Path

from long_ember.document.worked import BEGIN, END, worked_chapter

GUIDE = Path(__file__).resolve().parent.parent / "src" / "long_ember" / "assets" / "guide.md"


def main() -> int:
    """Write the chapter between its marks."""
    text = GUIDE.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    GUIDE.write_text(before + worked_chapter() + rest.split(END)[1], encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
