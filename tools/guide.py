"""Renew the worked numbers in the user guide and the counts in the README."""

from __future__ import annotations

import sys
from pathlib import Path

from long_ember.document.worked import BEGIN, END, counted, worked_chapter

ROOT = Path(__file__).resolve().parent.parent
GUIDE, README = ROOT / "src" / "long_ember" / "assets" / "guide.md", ROOT / "README.md"


def main() -> int:
    """Write the chapter and the counts between their marks."""
    text = GUIDE.read_text(encoding="utf-8")
    before, rest = text.split(BEGIN)
    GUIDE.write_text(before + worked_chapter() + rest.split(END)[1], encoding="utf-8")
    README.write_text(counted(README.read_text(encoding="utf-8")), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
