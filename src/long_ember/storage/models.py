"""The one reader of declared models for pieces, shop and records; every fault is kept with its path."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable
from typing import Any, TypeVar

from long_ember.errors import FileProblem, NoAnswer
from long_ember.fields import Field, specs

_T = TypeVar("_T")

__all__ = ["Reader"]

_MOST_PROBLEMS = 100
_MOST_PARTS = 1_500_000  # lists and objects in one file: five thousand pieces and fifty thousand entries of the log have half of them


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
        """The data of a JSON text; None, with the fault noted, when it is none, or of more parts than anybody has to read."""
        parts = text.count("[") + text.count("{")  # in words too, where there are few
        if parts > _MOST_PARTS:
            self.say("$", f"has {parts:,} lists and objects; at most {_MOST_PARTS:,} are read")
            return None
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
        values = self.fields(data, specs(cls), path, also=(*also, *getattr(cls, "gone", ())))
        if len(self.problems) > before:
            return None
        try:
            return cls(**values, **given)
        except NoAnswer as error:
            self.say(path, str(error))
            return None

    def fields(self, data: dict[str, Any], wanted: dict[str, Field], path: str, *, also: tuple[str, ...] = ()) -> dict[str, Any]:
        """Values of all wanted fields."""
        for key in data:
            if key not in wanted and key not in also:
                self.say(f"{path}.{key}", "is not known here")
        values = {}
        for name, spec in wanted.items():
            if name in data:
                values[name] = spec.load(data[name], f"{path}.{name}", self)
            elif not spec.late:
                self.say(f"{path}.{name}", "is missing")
        return values

    def features(self, data: Any, path: str) -> Any:
        """Only pieces have features."""
        self.say(path, "is not known here")

    def limb(self, data: Any, path: str) -> Any:
        """Nor limbs."""
        self.say(path, "is not known here")
