"""Declare a model field once: the reader, the schema, the cards and the drawing all use the same words."""

from __future__ import annotations

import dataclasses
import math
from dataclasses import dataclass
from functools import cache
from typing import Any

from long_ember.errors import NoAnswer
from long_ember.plain import writable
from long_ember.sections import Section
from long_ember.units import LEAST, LONGEST_TEXT, MOST

__all__ = [
    "FACINGS",
    "FieldSpec",
    "angle",
    "check_fields",
    "choice",
    "count",
    "facing",
    "facing_words",
    "length",
    "limb",
    "number",
    "percent",
    "rows",
    "section",
    "specs",
    "text",
    "ticks",
    "typed_change",
]


FACINGS = {"up": 0.0, "front": 90.0, "down": 180.0, "back": 270.0}


def facing_words(degrees: float) -> str:
    """A direction about the bar in words."""
    return next((word for word, value in FACINGS.items() if value == degrees % 360), f"{degrees:g}° from up to the front")


@dataclass(frozen=True, slots=True)
class FieldSpec:
    """What one field of the model may hold and how it is called.

    Args:
        label: shown beside the entry.
        kind: length (mm), angle (degrees), facing (degrees about the bar), number, percent (fraction of 1), count, section, choice, text, limb,
            ticks (any of the choices), rows (models of their own).
        low: least value.
        high: greatest value.
        open_low: the least value itself is not allowed.
        choices: values and their words, for a choice.
        optional: None is legal and means "as the bar".
        tip: one sentence.
        mark: how the drawing dimensions it: length, radius, diameter, tip, or "" for not at all.
        row: the model of one row, for rows.
        unit: of a plain number, shown behind it.
        late: it came after the first files were written: where it is missing the default holds.
    """

    label: str
    kind: str
    low: float = 0.0
    high: float = MOST
    open_low: bool = False
    choices: tuple[tuple[str, str], ...] = ()
    optional: bool = False
    tip: str = ""
    mark: str = ""
    row: Any = None
    unit: str = ""
    late: bool = False

    def problem(self, value: object) -> str:
        """Why `value` can't be held, or "" when it can."""
        if self.kind == "section":
            ok = isinstance(value, Section) or (value is None and self.optional)
            return "" if ok else "must be a section" + (" or null" if self.optional else "")
        if self.kind == "choice":
            words = tuple(c[0] for c in self.choices)
            return "" if value in words else "must be one of " + ", ".join(words)
        if self.kind == "ticks":
            known = {c[0] for c in self.choices}
            ok = isinstance(value, tuple) and len(set(value)) == len(value) and known.issuperset(value)
            return "" if ok else "must be some of " + ", ".join(c[0] for c in self.choices)
        if self.kind == "rows":
            return "" if isinstance(value, tuple) and all(isinstance(v, self.row) for v in value) else "must be a list"
        if self.kind == "limb":
            return "" if isinstance(value, tuple) and all(hasattr(f, "kind") for f in value) else "must be a list of features"
        if self.kind == "text":
            return _text_problem(value)
        return self._number_problem(value)

    def _number_problem(self, value: object) -> str:
        if isinstance(value, bool) or not isinstance(value, (int, float)) or (isinstance(value, float) and not math.isfinite(value)):
            return "must be a number"
        if self.kind == "count" and value != int(value):
            return "must be a whole number"
        if self.kind == "length" and 0 < value < LEAST:
            return f"must be at least {LEAST:g} mm" if self.open_low else f"must be 0, or at least {LEAST:g} mm"
        if value < self.low or (self.open_low and value == self.low):
            return f"must be {'more than' if self.open_low else 'at least'} {self.low:g}"
        return f"must be at most {self.high:g}" if value > self.high else ""


def _text_problem(value: object) -> str:
    if not isinstance(value, str):
        return "must be text"
    if len(value) > LONGEST_TEXT:
        return f"must be no longer than {LONGEST_TEXT:,} characters"
    return "" if writable(value) else "holds half a character, which can't be written"


def _field(default: object, spec: FieldSpec) -> Any:
    return dataclasses.field(default=default, metadata={"spec": spec})


def length(label: str, default: float, *, low: float = 0.0, zero: bool = False, empty: bool = False, tip: str = "", mark: str = "",
           late: bool = False) -> Any:  # fmt: skip
    """A length in mm, more than `low`; `zero` allows it to be 0, `empty` means that 0 is shown as nothing and explained by `tip`."""
    return _field(default, FieldSpec(label, "length", low, open_low=not (zero or empty), optional=empty, tip=tip, mark=mark, late=late))


def angle(label: str, default: float, *, low: float, high: float, tip: str = "") -> Any:
    """An angle in degrees."""
    return _field(default, FieldSpec(label, "angle", low, high, tip=tip))


def facing(label: str = "Facing", default: float = 0.0) -> Any:
    """A direction about the bar in degrees: 0 up, 90 to the front, 180 down, 270 to the back."""
    return _field(default, FieldSpec(label, "facing", 0.0, 360.0, tip="up, down, front, back, or degrees from up to the front."))


def number(label: str, default: float, *, low: float, high: float, unit: str = "", tip: str = "", late: bool = False) -> Any:
    """A plain number, with a unit where it has one."""
    return _field(default, FieldSpec(label, "number", low, high, unit=unit, tip=tip, late=late))


def count(label: str, default: int, *, low: int = 1, high: int = 100000, tip: str = "", late: bool = False) -> Any:
    """A whole number."""
    return _field(default, FieldSpec(label, "count", low, high, tip=tip, late=late))


def percent(label: str, default: float, *, high: float = 1.0, tip: str = "", late: bool = False) -> Any:
    """A fraction of 1, entered and shown as per cent."""
    return _field(default, FieldSpec(label, "percent", 0.0, high, tip=tip, late=late))


def section(label: str, default: Section | None, *, optional: bool = False, tip: str = "", mark: str = "") -> Any:
    """A section; an optional one may be None and then means the bar itself."""
    return _field(default, FieldSpec(label, "section", optional=optional, tip=tip, mark=mark))


def choice(label: str, default: str, *choices: tuple[str, str], tip: str = "", late: bool = False) -> Any:
    """One of a few words."""
    return _field(default, FieldSpec(label, "choice", choices=choices, tip=tip, late=late))


def text(label: str, default: str = "") -> Any:
    """Free text."""
    return _field(default, FieldSpec(label, "text"))


def ticks(label: str, default: tuple[str, ...], *choices: tuple[str, str], tip: str = "") -> Any:
    """Any of a few words, in the order of the choices."""
    return _field(default, FieldSpec(label, "ticks", choices=choices, tip=tip))


def rows(label: str, row: type, default: tuple[Any, ...] = (), *, tip: str = "", late: bool = False) -> Any:
    """Any number of models of one kind."""
    return _field(default, FieldSpec(label, "rows", row=row, tip=tip, late=late))


def limb(label: str, *, tip: str = "") -> Any:
    """Features of a tine or of a bar welded on, from its tip inwards; they are a small piece of their own."""
    return _field((), FieldSpec(label, "limb", tip=tip))


def specs(model: Any) -> dict[str, FieldSpec]:
    """The declared fields of a model class or instance, in order; not to be changed."""
    return _specs(model if isinstance(model, type) else type(model))


@cache
def _specs(cls: type) -> dict[str, FieldSpec]:
    return {f.name: f.metadata["spec"] for f in dataclasses.fields(cls) if "spec" in f.metadata}


_TYPED = ("length", "angle", "number", "percent", "count", "text", "section")


def typed_change(before: Any, after: Any) -> str:
    """The one typed entry in which two models of a kind differ, as a path such as `lines[0].quantity`; "" where it is more, or none of that sort."""
    changed = [(name, spec) for name, spec in specs(before).items() if getattr(before, name) != getattr(after, name)]
    if len(changed) != 1:
        return ""
    name, spec = changed[0]
    if spec.kind != "rows":
        return name if spec.kind in _TYPED else ""
    one, other = getattr(before, name), getattr(after, name)
    rows = [i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b]
    if len(one) != len(other) or len(rows) != 1:
        return ""
    inner = typed_change(one[rows[0]], other[rows[0]])
    return f"{name}[{rows[0]}].{inner}" if inner else ""


def check_fields(model: Any) -> None:
    """Refuse values that a field can't hold.

    Raises:
        NoAnswer: naming the field and what would work.
    """
    for name, spec in specs(model).items():
        problem = spec.problem(getattr(model, name))
        if problem:
            raise NoAnswer(f"{spec.label} {problem}.", "")
