"""What every kind of field has in common, and what a model can be asked about its fields."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping
from functools import cache
from typing import Any, ClassVar, Protocol, TypeVar

from long_ember.errors import EntryError, FileProblem, NoAnswer
from long_ember.units import Measure

__all__ = [
    "Field",
    "Reading",
    "check_fields",
    "evened",
    "fields_out",
    "inched",
    "named_in",
    "object_schema",
    "renamed",
    "specs",
    "typed_change",
]


_M = TypeVar("_M")
_PLAIN = frozenset({str, int, bool, type(None)})  # JSON holds them as they are


class Reading(Protocol):
    """Who reads a file: it notes what is wrong and builds what stands in a field.

    Attributes:
        problems: everything wrong so far.
    """

    problems: list[FileProblem]

    def say(self, path: str, message: str) -> None:
        """Note a fault."""

    def fields(self, data: dict[str, Any], wanted: dict[str, Field], path: str) -> dict[str, Any]:
        """Values of all wanted fields."""

    def model(self, cls: Any, data: Any, path: str) -> Any:
        """A declared model, None with its faults noted."""

    def features(self, data: Any, path: str) -> Any:
        """Features in order, those with faults left out."""

    def limb(self, data: Any, path: str) -> Any:
        """Features of a limb and what is laid on them, in order, those with faults left out."""


class Field:
    """What one field of a model may hold, and how it is read, shown, kept and compared.

    Args:
        label: shown beside the entry.
        tip: one sentence.
        optional: it may be empty, which `tip` explains.
        mark: how the drawing dimensions it: length, radius, diameter, width, tip, or "" for not at all.
        late: it came after the first files were written: where it is missing the default holds. The version of the piece file that it came
            with, where that has one of its own; 1 before they were counted.
    """

    typed: ClassVar[bool] = True  # changed by typing, keystroke by keystroke
    reworded: ClassVar[bool] = False  # what was typed may be shown otherwise than anybody expects
    example: ClassVar[str] = "12 sq"

    def __init__(self, label: str, *, tip: str = "", optional: bool = False, mark: str = "", late: int = 0) -> None:
        self.label, self.tip, self.optional, self.mark, self.late = label, tip, optional, mark, late

    @property
    def about(self) -> str:
        """What a schema says of it: label, unit, tip."""
        return f"{self.label}{self.unit_words}. {self.tip}".strip()

    @property
    def unit_words(self) -> str:
        """Unit of what a file holds, with a comma before it; "" where it has none."""
        return ""

    def problem(self, value: object) -> str:
        """Why `value` can't be held, or "" when it can."""
        raise NotImplementedError

    def show(self, value: Any, measure: Measure) -> str:
        """The value as a person would type it; reading it back gives the same to a thousandth."""
        return str(value)

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """What a text means, be it allowed or not.

        Raises:
            EntryError: it can't be read.
        """
        raise NotImplementedError

    def read(self, text: str, measure: Measure, thickness: float = 0.0) -> Any:
        """Read a typed value.

        Args:
            text: what was typed.
            measure: decides the unit of a bare number.
            thickness: of the bar, mm, for entries in cubes.

        Raises:
            EntryError: with what would work.
        """
        value = self.parse(text, measure, thickness)
        if self.problem(value):
            raise EntryError(text, 0, f"{self.label} {self.objection(value, measure)}", self.example)
        return value

    def objection(self, value: Any, measure: Measure) -> str:
        """The field's problem with a value, in the unit the person reads."""
        return self.problem(value)

    def dump(self, value: Any) -> object:
        """The value as JSON data; lengths in mm, shares as fractions of 1."""
        return value

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """The value of JSON data; None with its fault noted."""
        problem = self.problem(data)
        if problem:
            reader.say(path, problem)
            return None
        return data

    def schema(self) -> dict[str, Any]:
        """JSON Schema of its values, without the words."""
        raise NotImplementedError

    def compared(self, before: Any, after: Any, measure: Measure) -> tuple[str, str]:
        """Two values side by side; where they look alike in the smith's unit the second says that it differs finer than that."""
        one, other = (self.show(v, measure) or "as the bar" for v in (before, after))
        return one, other if other != one else f"{other} (finer)"

    def head(self, measure: Measure) -> str:
        """The unit that a table's column is in, "" for none."""
        return ""

    def cell(self, value: Any, measure: Measure) -> str:
        """The value as a table of a spreadsheet holds it."""
        return self.show(value, Measure("mm", ascii=True))

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """The value of a spreadsheet's cell.

        Args:
            text: of the cell.
            unit: of a bare length.
            comma: commas are decimal in this table.

        Raises:
            EmberError: it can't be read.
        """
        return self.read(text, Measure("mm"))

    def scaled(self, value: Any, factor: float) -> Any:
        """The value in a piece `factor` times as large: lengths and sections follow; angles, turns, shares and counts stay."""
        return value

    def sized(self, value: Any, ratio: float) -> Any:
        """A default that suits a bar of 12 mm, brought to one `ratio` times as thick and rounded as a smith would."""
        return self.scaled(value, ratio)

    def inched(self, value: Any) -> Any:
        """A proposed value as an inch shop would have it: sizes that are marked, half pounds."""
        return value

    def evened(self, value: Any) -> Any:
        """A proposed value as a shop of millimetres would have it: nobody marks thirds."""
        return value

    def mirrored(self, value: Any) -> Any:
        """The value in the other of a pair, mirrored front to back."""
        return value

    def size(self, value: Any) -> float | None:
        """What may be left free, as one number in its own unit; None where it has none."""
        return None

    def with_size(self, value: Any, size: float) -> Any:
        """The value with another size, in its own unit."""
        raise NotImplementedError

    def rename(self, value: Any, names: Mapping[str, str]) -> Any:
        """The value where records and pieces are called otherwise: new id by old id."""
        return value

    def named(self, value: Any, of: str) -> tuple[str, ...]:
        """Ids of the pieces or records of a kind that the value speaks of."""
        return ()


def specs(model: Any) -> dict[str, Field]:
    """The declared fields of a model class or instance, in order; not to be changed."""
    return _specs(model if isinstance(model, type) else type(model))


@cache
def _specs(cls: type) -> dict[str, Field]:
    return {f.name: f.metadata["spec"] for f in dataclasses.fields(cls) if "spec" in f.metadata}


def check_fields(model: Any) -> None:
    """Refuse values that a field can't hold.

    Raises:
        NoAnswer: naming the field and what would work.
    """
    for name, spec in specs(model).items():
        problem = spec.problem(getattr(model, name))
        if problem:
            raise NoAnswer(f"{spec.label} {problem}.", "")


def typed_change(before: Any, after: Any) -> str:
    """The one typed entry in which two models of a kind differ, as a path such as `lines[0].quantity`; "" where it is more, or none of that sort."""
    changed = [(name, spec) for name, spec in specs(before).items() if getattr(before, name) != getattr(after, name)]
    if len(changed) != 1:
        return ""
    name, spec = changed[0]
    if spec.typed:
        return name
    one, other = getattr(before, name), getattr(after, name)
    if not isinstance(one, tuple) or len(one) != len(other):
        return ""
    rows = [i for i, (a, b) in enumerate(zip(one, other, strict=True)) if a != b]
    if len(rows) != 1 or not dataclasses.is_dataclass(one[rows[0]]):
        return ""
    inner = typed_change(one[rows[0]], other[rows[0]])
    return f"{name}[{rows[0]}].{inner}" if inner else ""


def fields_out(model: Any) -> dict[str, Any]:
    """A model's declared fields as JSON data; lengths in mm, shares as fractions of 1.

    A late field that holds its default is left out: programs that do not know it yet can still read the rest.
    """
    found = {}
    for name, spec, late, default in _written(model.__class__):
        value = getattr(model, name)
        if not late or value != default:
            found[name] = value if value.__class__ in _PLAIN else spec.dump(value)
    return found


@cache
def _written(cls: type) -> tuple[tuple[str, Field, int, object], ...]:
    """Declared fields of a model, whether each came late, and its default."""
    defaults = {f.name: f.default for f in dataclasses.fields(cls)}
    return tuple((name, spec, spec.late, defaults[name]) for name, spec in specs(cls).items())


def object_schema(cls: Any) -> dict[str, Any]:
    """JSON Schema of a declared model."""
    return {
        "type": "object",
        "properties": {name: {"description": spec.about, **spec.schema()} for name, spec in specs(cls).items()},
        "required": [name for name, spec in specs(cls).items() if not spec.late],
        "additionalProperties": False,
    }


def renamed(model: Any, names: Mapping[str, str]) -> Any:
    """A model where pieces and records are called otherwise.

    Args:
        model: with references in its own fields, or in those of its rows.
        names: new id by old id.
    """
    changes = {
        name: new
        for name, spec in specs(model).items()
        if (new := spec.rename(old := getattr(model, name), names)) is not old and new != old
    }
    return dataclasses.replace(model, **changes) if changes else model


def inched(model: _M) -> _M:
    """A model whose values nobody has typed, as an inch shop would have them.

    Args:
        model: with proposed values in its fields.
    """
    return _rounded(model, lambda spec, value: spec.inched(value))


def evened(model: _M) -> _M:
    """The same for a shop of millimetres.

    Args:
        model: with proposed values in its fields.
    """
    return _rounded(model, lambda spec, value: spec.evened(value))


def _rounded(model: _M, by: Callable[[Field, Any], Any]) -> _M:
    changes = {name: new for name, spec in specs(model).items() if (new := by(spec, old := getattr(model, name))) != old}
    made: _M = dataclasses.replace(model, **changes) if changes else model  # type: ignore[type-var]
    return made


def named_in(model: Any, of: str) -> tuple[str, ...]:
    """Ids of the pieces, or records of a kind, that a model and its rows speak of, each once."""
    return tuple(dict.fromkeys(found for name, spec in specs(model).items() for found in spec.named(getattr(model, name), of)))
