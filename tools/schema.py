"""Write docs/piece.schema.json from the model."""

from __future__ import annotations

import json
from pathlib import Path

from long_ember.storage import piece_schema

TARGET = Path(__file__).resolve().parent.parent / "docs" / "piece.schema.json"

if __name__ == "__main__":
    TARGET.write_text(json.dumps(piece_schema(), indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"wrote {TARGET.name}")
