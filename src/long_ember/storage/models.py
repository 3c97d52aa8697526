"""Declared models as JSON data and back: one reader for pieces, shop and records; every fault is kept with its path."""

from __future__ import annotations

import dataclasses
import json
from collections import Counter
from collections.abc import Callable
from functools import cache
from typing import Any, TypeVar

from long_ember.errors import FileProblem, NoAnswer
from long_ember.features import FieldSpec, specs
from long_ember.plain import clean
from long_ember.sections import SHAPES, Section
from long_ember.units import THICKEST

_T = TypeVar("_T")
_PLAIN = frozenset({str, int, bool, type(None)})  # as they are

__all__ = ["Reader", "fields_out", "value_out"]


def fields_out(model: Any) -> dict[str, Any]:
    """A model's declared fields as JSON data; lengths in mm, shares as fractions of 1.

    A late field that holds its default is left out: programs that do not know it yet can still read the rest.
    """
    found = {}
    for name, late, default in _written(model.__class__):
        value = getattr(model, name)
        if not late or value != default:
            found[name] = value if value.__class__ in _PLAIN else value_out(value)
    return found


@cache
def _written(cls: type) -> tuple[tuple[str, bool, object], ...]:
    """Declared fields of a model, whether each came late, and its default."""
    defaults = {f.name: f.default for f in dataclasses.fields(cls)}
    return tuple((name, spec.late, defaults[name]) for name, spec in specs(cls).items())


def value_out(value: object) -> object:
    """One field as JSON data."""
    if isinstance(value, tuple):
        return [item if isinstance(item, str) else _row_out(item) for item in value]
    if isinstance(value, float) and value.is_integer():
        return int(value)  # 12 reads better than 12.0, and means the same
    if not isinstance(value, Section):
        return value
    extra = [name for name in ("corner", "broken", "wall") if getattr(value, name)]
    return {name: value_out(getattr(value, name)) for name in ("shape", "width", "thickness", *extra)}


def _row_out(row: Any) -> dict[str, Any]:
    named = {"kind": row.kind, "id": row.id} if hasattr(row, "id") else {}  # features carry both
    return {**named, **fields_out(row)}


_MOST_PROBLEMS = 100


class Enough(Exception):
    """So much is wrong that the rest is not looked at."""


class Reader:
    """Builds models from parsed JSON and collects what does not fit.

    Attributes:
        problems: everything wrong, in the order of the file.
    """

    def __init__(self) -> None:
        self.problems: list[FileProblem] = []

    def say(self, path: str, message: str) -> None:
        """Note a fault.

        Raises:
            Enough: there are so many that it is pointless to go on.
        """
        self.problems.append(FileProblem(path, message))
        if len(self.problems) >= _MOST_PROBLEMS:
            self.problems.append(FileProblem("$", "and more; the rest was not looked at"))
            raise Enough

    def parsed(self, text: str) -> Any:
        """The data of a JSON text; None, with the fault noted, when it is none."""
        try:
            return json.loads(text, object_pairs_hook=self._unique, parse_constant=self._constant)
        except Enough:
            return None
        except (ValueError, RecursionError) as error:
            what = f"is not JSON: {error.msg}, line {error.lineno}" if isinstance(error, json.JSONDecodeError) else "is not usable JSON"
            self.say("$", what)
            return None

    def version(self, data: Any, first: int, last: int, path: str) -> bool:
        """Whether a file's version is one that can be read; a whole number, written as one."""
        if isinstance(data, int) and not isinstance(data, bool) and first <= data <= last:
            return True
        newer = isinstance(data, int) and data > last
        self.say(
            path, f"must be {first if first == last else f'{first} to {last}'}" + (": a newer Long Ember wrote this file" if newer else "")
        )
        return False

    def _constant(self, name: str) -> None:
        self.say("$", f"holds {name}, which is not a number")

    def _unique(self, pairs: list[tuple[str, Any]]) -> dict[str, Any]:
        data = dict(pairs)
        if len(data) != len(pairs):
            twice = sorted(k for k, n in Counter(k for k, _v in pairs).items() if n > 1)
            self.say("$", "holds twice: " + ", ".join(twice[:20]))
        return data

    def read(self, text: str, build: Callable[[Any], _T]) -> _T | None:
        """What `build` makes of a JSON text; None, with the faults noted, when it can't."""
        data = self.parsed(text)
        if data is None and self.problems:
            return None
        try:
            made = build(data)
        except Enough:
            return None
        return None if self.problems else made

    def model(self, cls: Any, data: Any, path: str, *, also: tuple[str, ...] = (), **given: Any) -> Any:
        """A model, or None with its faults noted."""
        if not isinstance(data, dict):
            self.say(path, "must be an object")
            return None
        before = len(self.problems)
        values = self.fields(data, specs(cls), path, also=also)
        if len(self.problems) > before:
            return None
        try:
            return cls(**values, **given)
        except NoAnswer as error:
            self.say(path, str(error))
            return None

    def fields(self, data: dict[str, Any], wanted: dict[str, FieldSpec], path: str, *, also: tuple[str, ...] = ()) -> dict[str, Any]:
        """Values of all wanted fields."""
        for key in data:
            if key not in wanted and key not in also:
                self.say(f"{path}.{key}", "is not known here")
        values = {}
        for name, spec in wanted.items():
            if name in data:
                values[name] = self.value(data[name], spec, f"{path}.{name}")
            elif not spec.late:
                self.say(f"{path}.{name}", "is missing")
        return values

    def value(self, data: Any, spec: FieldSpec, path: str) -> Any:
        """One value, or None with its fault noted."""
        if spec.kind == "section" and data is not None:
            return self.section(data, path)
        if spec.kind == "rows":
            if isinstance(data, list):
                return tuple(self.model(spec.row, item, f"{path}[{i}]") for i, item in enumerate(data))
            self.say(path, "must be a list")
            return None
        if spec.kind == "ticks" and isinstance(data, list) and all(isinstance(item, str) for item in data):
            data = tuple(data)
        if isinstance(data, str):
            data = clean(data)
        problem = spec.problem(data)
        if problem:
            self.say(path, problem)
            return None
        if spec.kind == "count":
            return int(data)
        return data if spec.kind in ("section", "choice", "text", "ticks") else float(data)

    def section(self, data: Any, path: str) -> Section | None:
        """A section, or None with its faults noted."""
        if not isinstance(data, dict):
            self.say(path, "must be an object with shape, width and thickness")
            return None
        for key in sorted(data.keys() - {"shape", "width", "thickness", "corner", "broken", "wall"}):
            self.say(f"{path}.{key}", "is not known here")
        size = FieldSpec("size", "length", 0, THICKEST, open_low=True)
        wanted = {
            "shape": FieldSpec("shape", "choice", choices=tuple((s, s) for s in SHAPES)),
            "width": size, "thickness": size, "corner": FieldSpec("corner", "length", 0, THICKEST),
            "wall": FieldSpec("wall", "length", 0, THICKEST),
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
