"""A piece as a JSON file: written whole, read strictly, every fault reported with its path."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from long_ember.errors import FileProblem, NoAnswer, PieceFileError
from long_ember.features import KINDS, Allowances, Feature, FieldSpec, Order, Piece, specs
from long_ember.sections import SHAPES, Section
from long_ember.storage.atomic import write_atomic

__all__ = ["FORMAT", "VERSION", "piece_from_text", "piece_to_text", "read_piece", "write_piece"]

FORMAT = "long-ember piece"
VERSION = 1
_LARGEST = 4_000_000  # bytes; a piece of a thousand features is a tenth of it
_DEEPEST = 8  # branches on branches
_PARTS: dict[str, type[Allowances] | type[Order]] = {"allowances": Allowances, "order": Order}


def piece_to_text(piece: Piece) -> str:
    """The file's content; lengths in mm, shares as fractions of 1."""
    data: dict[str, Any] = {"format": FORMAT, "version": VERSION, **_fields_out(piece)}
    data["features"] = [_feature_out(f) for f in piece.features]
    for name in _PARTS:
        data[name] = _fields_out(getattr(piece, name))
    return json.dumps(data, ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def _feature_out(feature: Feature) -> dict[str, Any]:
    return {"kind": feature.kind, "id": feature.id, **_fields_out(feature)}


def _fields_out(model: Any) -> dict[str, Any]:
    return {name: _value_out(getattr(model, name)) for name in specs(model)}


def _value_out(value: object) -> object:
    if isinstance(value, tuple):
        return [_feature_out(f) for f in value]
    if isinstance(value, float) and value.is_integer():
        return int(value)  # 12 reads better than 12.0, and means the same
    if not isinstance(value, Section):
        return value
    extra = [name for name in ("corner", "broken", "wall") if getattr(value, name)]
    return {name: _value_out(getattr(value, name)) for name in ("shape", "width", "thickness", *extra)}


def write_piece(path: Path, piece: Piece) -> None:
    """Save a piece atomically.

    Raises:
        SaveError: when it can't be written.
    """
    write_atomic(path, piece_to_text(piece))


def read_piece(path: Path) -> Piece:
    """Open a piece.

    Raises:
        PieceFileError: with every fault found; nothing is half read.
    """
    try:
        with path.open("rb") as file:
            content = file.read(_LARGEST + 1)
    except OSError as error:
        raise PieceFileError(str(path), (FileProblem("$", error.strerror or str(error)),)) from error
    if len(content) > _LARGEST:
        raise PieceFileError(str(path), (FileProblem("$", "is far larger than any piece file"),))
    try:
        return piece_from_text(content.decode("utf-8-sig"), source=str(path))
    except UnicodeDecodeError as error:
        problem = FileProblem("$", f"is not text: byte {error.start} is not UTF-8")
        raise PieceFileError(str(path), (problem,)) from error


def piece_from_text(text: str, *, source: str = "text") -> Piece:
    """Read a piece from a file's content.

    Raises:
        PieceFileError: with every fault found, in the order of the file format.
    """
    reader = _Reader()
    try:
        data = json.loads(text, object_pairs_hook=reader.unique, parse_constant=reader.constant)
    except (ValueError, RecursionError) as error:
        what = f"is not JSON: {error.msg}, line {error.lineno}" if isinstance(error, json.JSONDecodeError) else "is not usable JSON"
        raise PieceFileError(source, (FileProblem("$", what),)) from error
    piece = reader.piece(data)
    if reader.problems or piece is None:
        raise PieceFileError(source, tuple(reader.problems))
    return piece


class _Reader:
    """Builds the model from parsed JSON and collects what does not fit."""

    def __init__(self) -> None:
        self.problems: list[FileProblem] = []

    def say(self, path: str, message: str) -> None:
        self.problems.append(FileProblem(path, message))

    def constant(self, name: str) -> None:
        self.say("$", f"holds {name}, which is not a number")

    def unique(self, pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        data = dict(pairs)
        if len(data) != len(pairs):
            twice = sorted({k for k, _v in pairs if sum(k == other for other, _w in pairs) > 1})
            self.say("$", "holds twice: " + ", ".join(twice))
        return data

    def piece(self, data: Any) -> Piece | None:
        if not isinstance(data, dict) or data.get("format") != FORMAT:
            self.say("$.format", f"must be {FORMAT!r}: this is not a piece file")
            return None
        version = data.get("version")
        if isinstance(version, bool) or version != VERSION:
            newer = isinstance(version, int) and not isinstance(version, bool) and version > VERSION
            self.say("$.version", f"must be {VERSION}" + (": a newer Long Ember wrote this file" if newer else ""))
            return None
        values = self.fields(data, specs(Piece), "$", also=("format", "version", "features", *_PARTS))
        for name, cls in _PARTS.items():
            values[name] = self.model(cls, data.get(name), f"$.{name}")
        values["features"] = self.features(data.get("features"), "$.features")
        return None if self.problems else self.built(values)

    def built(self, values: dict[str, Any]) -> Piece | None:
        try:
            piece = Piece(**values)
            piece.verify()
        except NoAnswer as error:
            ids = [f.id for f in values["features"]]
            self.say(f"$.features[{ids.index(error.feature_id)}]" if error.feature_id in ids else "$.features", str(error))
            return None
        return piece

    def features(self, data: Any, path: str) -> tuple[Feature, ...]:
        if not isinstance(data, list):
            self.say(path, "must be a list")
            return ()
        if path.count("[") > _DEEPEST:
            self.say(path, "branches deeper than any piece does")
            return ()
        found = [self.feature(item, f"{path}[{i}]") for i, item in enumerate(data)]
        return tuple(f for f in found if f is not None)

    def feature(self, data: Any, path: str) -> Feature | None:
        kind = data.get("kind") if isinstance(data, dict) else None
        if not isinstance(kind, str) or kind not in KINDS:
            self.say(f"{path}.kind", "must be one of " + ", ".join(KINDS))
            return None
        identity = data.get("id")
        if not isinstance(identity, str) or not identity:
            self.say(f"{path}.id", "must be text, not empty")
            identity = "?"
        feature: Feature | None = self.model(KINDS[kind], data, path, also=("kind", "id"), id=identity)
        return feature

    def model(self, cls: Any, data: Any, path: str, *, also: tuple[str, ...] = (), **given: Any) -> Any:
        if not isinstance(data, dict):
            self.say(path, "must be an object")
            return None
        before = len(self.problems)
        values = self.fields(data, specs(cls), path, also=also)
        return cls(**values, **given) if len(self.problems) == before else None

    def fields(self, data: dict[str, Any], wanted: dict[str, FieldSpec], path: str, *, also: tuple[str, ...]) -> dict[str, Any]:
        for key in data:
            if key not in wanted and key not in also:
                self.say(f"{path}.{key}", "is not known here")
        values = {}
        for name, spec in wanted.items():
            if name in data:
                values[name] = self.value(data[name], spec, f"{path}.{name}")
            else:
                self.say(f"{path}.{name}", "is missing")
        return values

    def value(self, data: Any, spec: FieldSpec, path: str) -> Any:
        if spec.kind == "section" and data is not None:
            return self.section(data, path)
        if spec.kind == "limb":
            return self.features(data, path)
        problem = spec.problem(data)
        if problem:
            self.say(path, problem)
            return None
        if spec.kind == "count":
            return int(data)
        return data if spec.kind in ("section", "choice", "text") else float(data)

    def section(self, data: Any, path: str) -> Section | None:
        if not isinstance(data, dict):
            self.say(path, "must be an object with shape, width and thickness")
            return None
        for key in sorted(data.keys() - {"shape", "width", "thickness", "corner", "broken", "wall"}):
            self.say(f"{path}.{key}", "is not known here")
        size = FieldSpec("size", "length", 0, 1e4, open_low=True)
        wanted = {
            "shape": FieldSpec("shape", "choice", choices=tuple((s, s) for s in SHAPES)),
            "width": size, "thickness": size, "corner": FieldSpec("corner", "length", 0, 1e4),
            "wall": FieldSpec("wall", "length", 0, 1e4),
        }  # fmt: skip
        before = len(self.problems)
        values = self.fields({"corner": 0.0, "wall": 0.0, **data}, wanted, path, also=tuple(data))
        values["broken"] = data.get("broken", False)
        if not isinstance(values["broken"], bool):
            self.say(f"{path}.broken", "must be true or false")
        if len(self.problems) > before:
            return None
        try:
            return Section(**values)
        except NoAnswer as error:
            self.say(path, str(error))
            return None
