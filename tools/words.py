"""Renew tests/fixtures/words: what the program says about the boathouse. Read the difference before it is committed."""

from __future__ import annotations

import sys
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests.words import FOLDER, said

if __name__ == "__main__":
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, text in said().items():
        (FOLDER / f"{name}.txt").write_text(text + "\n", encoding="utf-8")
        print(f"wrote {name}")
