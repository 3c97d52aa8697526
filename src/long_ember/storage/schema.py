"""The JSON Schemas of a piece file and of a parcel, generated from the models."""

from __future__ import annotations

from typing import Any

from long_ember.features import KINDS, Allowances, Measured, Order, Piece, Planning, Standing
from long_ember.fields import object_schema
from long_ember.records import PLURALS, RECORDS, Shop
from long_ember.sections import SHAPES
from long_ember.storage.book import STATES
from long_ember.storage.parcel import PARCEL_FORMAT, PARCEL_VERSION
from long_ember.storage.piece_file import FORMAT, VERSION
from long_ember.units import LEAST, THICKEST

__all__ = ["book_schema", "piece_schema"]


def piece_schema() -> dict[str, Any]:
    """JSON Schema, draft 2020-12."""
    piece = object_schema(Piece)
    head = {"format": {"const": FORMAT}, "version": {"enum": list(range(1, VERSION + 1))}}
    parts = {"allowances": object_schema(Allowances), "order": object_schema(Order)}
    features = {"features": {"type": "array", "items": {"$ref": "#/$defs/feature"}}}
    piece["properties"] = {**head, **piece["properties"], **parts, **features}
    piece["required"] = list(piece["properties"])
    piece["properties"]["measured"] = {
        "type": "array",
        "items": object_schema(Measured),
        "description": "What a test piece told; from version 2 on.",
    }
    standing = object_schema(Standing)
    standing["properties"]["feature"] = {"$ref": "#/$defs/feature"}
    standing["required"].append("feature")
    piece["properties"]["standing"] = {
        "type": "array",
        "items": {"$ref": "#/$defs/standing"},
        "description": "Forms and works on the drawn bar, which take no bar of their own; from version 5 on.",
    }
    piece["properties"]["planning"] = {
        **object_schema(Planning),
        "description": "What the smith settled about the sequence; from version 3 on.",
    }
    top = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Long Ember piece"}
    return {
        **top,
        **piece,
        "$defs": {"section": _section(), "standing": standing, "feature": {"oneOf": [_feature(kind) for kind in KINDS]}},
    }


def _feature(kind: str) -> dict[str, Any]:
    model = object_schema(KINDS[kind])
    model["title"] = KINDS[kind].title
    model["properties"] = {"kind": {"const": kind}, "id": {"type": "string", "minLength": 1}, **model["properties"]}
    model["required"] = ["kind", "id", *model["required"]]
    return model


def _section() -> dict[str, Any]:
    size = {"type": "number", "minimum": LEAST, "maximum": THICKEST}
    properties = {"shape": {"enum": list(SHAPES)}, "width": size, "thickness": size, "corner": {"type": "number", "minimum": 0},
                  "broken": {"type": "boolean"}, "wall": {"type": "number", "minimum": 0}}  # fmt: skip
    return {"type": "object", "properties": properties, "required": ["shape", "width", "thickness"], "additionalProperties": False}


def book_schema() -> dict[str, Any]:
    """JSON Schema of a parcel: pieces with what belongs to them, rack, prices, jobs, shop."""
    piece = piece_schema()
    definitions = {**piece.pop("$defs"), "piece": {k: v for k, v in piece.items() if k not in ("$schema", "title")}}
    identity = {"type": "string", "pattern": "^[A-Za-z0-9_-]{1,64}$"}
    past = _closed({"name": {"type": "string"}, "made": {"type": "number", "minimum": 0}, "piece": {"$ref": "#/$defs/piece"}})
    photo = _closed({"id": identity, "name": {"type": "string", "description": "In a ZIP the picture is photos/<id>.jpg."}})
    item = _closed({
        "id": identity, "state": {"enum": list(STATES)}, "tags": {"type": "array", "items": {"type": "string"}},
        "parent": {"type": "string", "description": "id of the piece it is a variant of"}, "piece": {"$ref": "#/$defs/piece"},
        "revisions": {"type": "array", "items": past}, "photos": {"type": "array", "items": photo},
    })  # fmt: skip
    lists = {}
    for kind, name in PLURALS.items():
        row = object_schema(RECORDS[kind])
        row["properties"], row["required"] = {"id": identity, **row["properties"]}, ["id", *row["required"]]
        lists[name] = {"type": "array", "items": row}
    shop = object_schema(Shop)
    shop["required"] = []
    head = {
        "format": {"const": PARCEL_FORMAT},
        "version": {"enum": list(range(1, PARCEL_VERSION + 1))},
        "pieces": {"type": "array", "items": item},
    }
    top = _closed({**head, **lists, "shop": shop}, required=("format", "version"))
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Long Ember book", **top, "$defs": definitions}


def _closed(properties: dict[str, Any], required: tuple[str, ...] | None = None) -> dict[str, Any]:
    return {"type": "object", "properties": properties, "required": list(required or properties), "additionalProperties": False}
