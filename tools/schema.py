"""Write the JSON Schemas in docs/ from the models."""

from __future__ import annotations

import json
from pathlib import Path

from long_ember.export import cut_list_schema
from long_ember.storage import book_schema, piece_schema

DOCS = Path(__file__).resolve().parent.parent / "docs"
SCHEMAS = {"piece.schema.json": piece_schema, "book.schema.json": book_schema, "cut-list.schema.json": cut_list_schema}

if __name__ == "__main__":
    for name, schema in SCHEMAS.items():
        (DOCS / name).write_text(json.dumps(schema(), indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
        print(f"wrote docs/{name}")
