"""A piece as a JSON file: written whole, read strictly, every fault reported with its path."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from long_ember.errors import FileProblem, NoAnswer, PieceFileError
from long_ember.features import KINDS, Allowances, Feature, Measured, Order, Piece, Planning, Standing
from long_ember.fields import Limb, fields_out, specs
from long_ember.plain import one_line
from long_ember.storage.atomic import write_atomic
from long_ember.storage.models import Reader
from long_ember.storage.upgrades import upgraded_piece

__all__ = ["FORMAT", "LARGEST", "VERSION", "PieceReader", "piece_data", "piece_from_text", "piece_to_text", "read_piece", "write_piece"]

FORMAT = "long-ember piece"
VERSION = 8
_FIRST, _MEASURED, _PLANNED, _STANDING, _RECUT, _ENDS = (
    1,
    2,
    3,
    5,
    6,
    7,
)  # still read; a piece is written as the oldest version that holds all of it
LARGEST = 4_000_000  # bytes; a piece of a thousand features is a tenth of it
_DEEPEST = 8  # branches on branches
_MOST_FEATURES = 2000  # of a piece; nobody has forged a tenth of it
_FEATURES = Limb("Features")
_PARTS: dict[str, type[Allowances] | type[Order]] = {"allowances": Allowances, "order": Order}


def piece_to_text(piece: Piece) -> str:
    """The file's content; lengths in mm, shares as fractions of 1."""
    return json.dumps(piece_data(piece), ensure_ascii=False, indent=2, allow_nan=False) + "\n"


def piece_data(piece: Piece) -> dict[str, Any]:
    """The file's content as JSON data."""
    planned = piece.planning != Planning()
    version = max((f.version for f in piece.every_feature()), default=_FIRST)
    if any(s.feature.recuts or s.feature.skin for s in piece.standing) or piece.allowances.bite != Allowances.bite:
        version = max(version, _RECUT)
    if piece.laid_on_limbs or piece.planning.ends != Planning.ends or piece.planning.own or piece.planning.touch != Planning.touch:
        version = _ENDS
    if piece.allowances.source != Allowances.source or piece.allowances.saw != Allowances.saw:
        version = _ENDS
    version = max(version, _STANDING if piece.standing else _PLANNED if planned else _MEASURED if piece.measured else _FIRST)
    data: dict[str, Any] = {"format": FORMAT, "version": version, **fields_out(piece), "features": _FEATURES.dump(piece.features)}
    for name in _PARTS:
        data[name] = fields_out(getattr(piece, name))
    if piece.measured:
        data["measured"] = [fields_out(m) for m in piece.measured]
    if planned:
        data["planning"] = fields_out(piece.planning)
    if piece.standing:
        bodies: Any = _FEATURES.dump(tuple(s.feature for s in piece.standing))
        data["standing"] = [{**fields_out(s), "feature": feature} for s, feature in zip(piece.standing, bodies, strict=True)]
    return data


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
            content = file.read(LARGEST + 1)
    except OSError as error:
        raise PieceFileError(str(path), (FileProblem("$", error.strerror or str(error)),)) from error
    if len(content) > LARGEST:
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
    reader = PieceReader()
    piece = reader.read(text, reader.piece)
    if piece is None:
        raise PieceFileError(source, tuple(reader.problems))
    return piece


class PieceReader(Reader):
    """Builds pieces from parsed JSON."""

    def piece(self, data: Any, path: str = "$") -> Piece | None:
        """A piece, or None with its faults noted."""
        if not isinstance(data, dict) or data.get("format") != FORMAT:
            self.say(f"{path}.format", f"must be {FORMAT!r}: this is not a piece file")
            return None
        if not self.version(data.get("version"), _FIRST, VERSION, f"{path}.version"):
            return None
        version = int(data["version"])
        before = len(self.problems)
        if version < VERSION:
            upgraded_piece(data)
        later = tuple(
            name for name, since in (("measured", _MEASURED), ("planning", _PLANNED), ("standing", _STANDING)) if version >= since
        )
        values = self.fields(data, specs(Piece), path, also=("format", "version", "features", *_PARTS, *later))
        for name, cls in _PARTS.items():
            values[name] = self.model(cls, data.get(name), f"{path}.{name}")
        values["measured"] = self._measured(data.get("measured", []), f"{path}.measured")
        values["planning"] = self.model(Planning, data["planning"], f"{path}.planning") if "planning" in data else Planning()
        values["features"] = self.features(data.get("features"), f"{path}.features")
        values["standing"] = self._standing(data.get("standing", []), f"{path}.standing")
        return None if len(self.problems) > before else self._built(values, path)

    def _standing(self, data: Any, path: str) -> tuple[Standing, ...]:
        if not isinstance(data, list):
            self.say(path, "must be a list")
            return ()
        return tuple(s for i, item in enumerate(data) for s in self._laid(item, f"{path}[{i}]"))

    def _measured(self, data: Any, path: str) -> tuple[Measured, ...]:
        if not isinstance(data, list):
            self.say(path, "must be a list")
            return ()
        found = [self.model(Measured, item, f"{path}[{i}]") for i, item in enumerate(data)]
        if len({(m.name, m.feature) for m in found if m is not None}) < len([m for m in found if m is not None]):
            self.say(path, "hold the same figure twice")
        return tuple(m for m in found if m is not None)

    def _built(self, values: dict[str, Any], path: str) -> Piece | None:
        try:
            piece = Piece(**values)
            piece.verify()
        except NoAnswer as error:
            ids, standing = ([f.id for f in values[name]] for name in ("features", "standing"))
            where = f"features[{ids.index(error.feature_id)}]" if error.feature_id in ids else "features"
            where = f"standing[{standing.index(error.feature_id)}]" if error.feature_id in standing else where
            self.say(f"{path}.{where}", str(error))
            return None
        return piece

    def features(self, data: Any, path: str) -> tuple[Feature, ...]:
        """Features in order, those with faults left out."""
        if not isinstance(data, list):
            self.say(path, "must be a list")
            return ()
        if path.count("[") > _DEEPEST:
            self.say(path, "branches deeper than any piece does")
            return ()
        if len(data) > _MOST_FEATURES:
            self.say(path, f"are {len(data):,}, and at most {_MOST_FEATURES:,} are read")
            return ()
        found = [self._feature(item, f"{path}[{i}]") for i, item in enumerate(data)]
        return tuple(f for f in found if f is not None)

    def limb(self, data: Any, path: str) -> tuple[Feature | Standing, ...]:
        """Features of a limb and what is laid on them, in order, those with faults left out."""
        if not isinstance(data, list):
            self.say(path, "must be a list")
            return ()
        if path.count("[") > _DEEPEST:
            self.say(path, "branches deeper than any piece does")
            return ()
        if len(data) > _MOST_FEATURES:
            self.say(path, f"are {len(data):,}, and at most {_MOST_FEATURES:,} are read")
            return ()
        found: list[Feature | Standing] = []
        for i, item in enumerate(data):
            here = f"{path}[{i}]"
            parts = self._laid(item, here) if isinstance(item, dict) and "feature" in item else (self._feature(item, here),)
            found.extend(part for part in parts if part is not None)
        ids = [part.id for part in found]
        if len(set(ids)) < len(ids):
            self.say(path, "hold the same id twice")
        return tuple(found)

    def _laid(self, item: Any, path: str) -> tuple[Standing, ...]:
        made = self.features([item.get("feature") if isinstance(item, dict) else None], f"{path}.feature")
        standing = self.model(Standing, item, path, also=("feature",), feature=made[0]) if made else None
        return (standing,) if standing is not None else ()

    def _feature(self, data: Any, path: str) -> Feature | None:
        kind = data.get("kind") if isinstance(data, dict) else None
        if not isinstance(kind, str) or kind not in KINDS:
            self.say(f"{path}.kind", "must be one of " + ", ".join(KINDS))
            return None
        identity = data.get("id")
        if not isinstance(identity, str) or not identity or identity != one_line(identity):
            self.say(f"{path}.id", "must be text on one line, not empty")
            identity = "?"
        feature: Feature | None = self.model(KINDS[kind], data, path, also=("kind", "id"), id=identity)
        return feature
