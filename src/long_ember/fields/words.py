"""Words, days, yes and no, and what stands for a piece or record of the book."""

from __future__ import annotations

import re
from collections.abc import Mapping
from datetime import date
from typing import Any, ClassVar

from long_ember.errors import EmberError, EntryError
from long_ember.fields.base import Field, Reading, specs
from long_ember.fields.days import day_words, parse_day
from long_ember.plain import cell, clean, writable
from long_ember.units import LONGEST_TEXT, Measure, parse_length

__all__ = ["Choice", "Course", "Day", "Flag", "Landmark", "Reference", "Text", "Ticks", "choices_of"]


class Text(Field):
    """Free text."""

    def problem(self, value: object) -> str:
        """No text, or more than anybody writes."""
        if not isinstance(value, str):
            return "must be text"
        if len(value) > LONGEST_TEXT:
            return f"must be no longer than {LONGEST_TEXT:,} characters"
        return "" if writable(value) else "holds half a character, which can't be written"

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """The text as it can be kept."""
        return clean(text)

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """The text as it can be kept."""
        return super().load(clean(data) if isinstance(data, str) else data, path, reader)

    def schema(self) -> dict[str, Any]:
        """A string."""
        return {"type": "string", "maxLength": LONGEST_TEXT}

    def cell(self, value: Any, measure: Measure) -> str:
        """Nothing that a spreadsheet takes for a formula."""
        return cell(str(value))

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """The text without the sign that keeps it from being a formula."""
        return clean(text[1:] if text[:1] == "'" else text)


class Course(Text):
    """A course of straights and bends, kept in mm and degrees: `40; r25 90; c-30; 20`; in inches where these are in use."""

    example: ClassVar[str] = "40; r25 90; 60"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", mm and degrees"

    def show(self, value: Any, measure: Measure) -> str:
        """Each length as it would be typed."""
        if measure.unit == "mm":
            return str(value)
        return re.sub(_STEP_LENGTH, lambda m: f"{m[1]}{measure.edit_text(float(m[2])).removesuffix(' in')}{m[3]}", str(value))

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """In mm again; an angle stays as it is. After `mm` everything does."""
        bare = clean(text).removeprefix("mm ")
        if bare != clean(text):
            return bare
        if measure.unit == "mm" and not re.search(r"[a-bd-qs-z\"″/(]", text.lower()):
            return clean(text)
        return "; ".join(_in_mm(" ".join(step.split()), measure) for step in clean(text).split(";"))


# A straight, or the radius of a bend; the angle behind a radius or after `c` is no length.
_STEP_LENGTH = r"((?:^|;)\s*r?)(\d+(?:\.\d+)?)((?=\s*(?:;|$))|(?=\s+-?\d))"


def _in_mm(step: str, measure: Measure) -> str:
    """One step of a course with its length in mm."""
    if step[:1] in ("c", ""):
        return step
    bend = re.fullmatch(r"r\s*(.+?)\s+(-?\d+(?:\.\d+)?)°?", step)
    length = parse_length(bend[1] if bend else step, unit=measure.unit)
    figure = f"{length:.6f}".rstrip("0").rstrip(".")
    return f"r{figure} {bend[2]}" if bend else figure


class Reference(Text):
    """The id of a piece or record in the book, "" for none.

    Args:
        of: what it names: piece, or a kind of record.
    """

    def __init__(self, label: str, of: str, **more: Any) -> None:
        super().__init__(label, **more)
        self.of = of

    @property
    def unit_words(self) -> str:
        """What it names."""
        return f", id of a {self.of}"

    def rename(self, value: Any, names: Mapping[str, str]) -> Any:
        """The new id."""
        return names.get(value, value)

    def named(self, value: Any, of: str) -> tuple[str, ...]:
        """The id, where it is of that kind."""
        return (value,) if of == self.of and value else ()


class Landmark(Text):
    """Where something on the drawn bar is measured from: end `A` or `B`, or the id of a feature of the piece."""

    typed: ClassVar[bool] = False
    unit_words: ClassVar[str] = ", A, B or id of a feature"


class Choice(Field):
    """One of a few words.

    Args:
        choices: values and their words.
        mirror: values that another one takes the place of in the other of a pair.
    """

    typed: ClassVar[bool] = False

    def __init__(self, label: str, choices: tuple[tuple[str, str], ...], *, mirror: dict[str, str] | None = None, **more: Any) -> None:
        super().__init__(label, **more)
        self.choices, self._mirror = choices, mirror or {}

    def problem(self, value: object) -> str:
        """None of them."""
        words = [c[0] for c in self.choices]
        return "" if value in words else "must be one of " + ", ".join(words)

    def words(self, value: str) -> str:
        """A value as it is shown."""
        return dict(self.choices)[value]

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """The value as it is kept."""
        return clean(text)

    def schema(self) -> dict[str, Any]:
        """One of the values."""
        return {"enum": [c[0] for c in self.choices]}

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """A value, or its words, in any case."""
        found = next((key for key, words in self.choices if text.lower() in (key.lower(), words.lower())), None)
        if found is None:
            raise EmberError("is none of " + ", ".join(words for _key, words in self.choices))
        return found

    def mirrored(self, value: Any) -> Any:
        """What takes its place."""
        return self._mirror.get(value, value)


class Flag(Field):
    """Yes or no.

    Args:
        off: what no means, in words.
        on: what yes means, in words.
    """

    typed: ClassVar[bool] = False
    example: ClassVar[str] = "yes"

    def __init__(self, label: str, off: str = "no", on: str = "yes", **more: Any) -> None:
        super().__init__(label, **more)
        self.off, self.on = off, on

    def problem(self, value: object) -> str:
        """Neither."""
        return "" if isinstance(value, bool) else "must be true or false"

    def words(self, value: bool) -> str:
        """What a value means."""
        return self.on if value else self.off

    def show(self, value: Any, measure: Measure) -> str:
        """Yes or no."""
        return "yes" if value else "no"

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """Yes or no, as they are written in tables too."""
        word = text.strip().lower()
        for value, words in ((True, ("yes", "y", "true", "1", "x", self.on)), (False, ("no", "n", "false", "0", "-", self.off))):
            if word in words:
                return value
        raise EntryError(text, 0, "yes or no is expected here", self.example)

    def schema(self) -> dict[str, Any]:
        """True or false."""
        return {"type": "boolean"}


class Day(Field):
    """A day; None while it is not settled."""

    reworded: ClassVar[bool] = True
    example: ClassVar[str] = "4 Dec 2026"

    def problem(self, value: object) -> str:
        """No day."""
        return "" if value is None or type(value) is date else "must be a day, as 2026-12-04, or null"

    def show(self, value: Any, measure: Measure) -> str:
        """The day in words."""
        return day_words(value) if value else ""

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A day in any usual writing; nothing is none."""
        return parse_day(text) if text.strip() else None

    def dump(self, value: Any) -> object:
        """As 2026-12-04."""
        return value.isoformat() if value else None

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A day of the form 2026-12-04."""
        if isinstance(data, str) and re.fullmatch(r"\d{4}-\d\d-\d\d", data):
            try:
                return date.fromisoformat(data)
            except ValueError:
                pass
        return super().load(data, path, reader)

    def schema(self) -> dict[str, Any]:
        """A date, or null."""
        return {"type": ["string", "null"], "format": "date", "pattern": r"^\d{4}-\d\d-\d\d$"}


class Ticks(Field):
    """Any of a few words, in the order of the choices."""

    typed: ClassVar[bool] = False

    def __init__(self, label: str, choices: tuple[tuple[str, str], ...], **more: Any) -> None:
        super().__init__(label, **more)
        self.choices = choices

    def problem(self, value: object) -> str:
        """Something else, or twice the same."""
        known = {c[0] for c in self.choices}
        ok = (
            isinstance(value, tuple)
            and all(isinstance(v, str) for v in value)
            and len(set(value)) == len(value)
            and known.issuperset(value)
        )
        return "" if ok else "must be some of " + ", ".join(c[0] for c in self.choices)

    def show(self, value: Any, measure: Measure) -> str:
        """The values."""
        return ", ".join(value)

    def dump(self, value: Any) -> object:
        """A list."""
        return list(value)

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A list of values."""
        return super().load(tuple(data) if isinstance(data, list) else data, path, reader)

    def schema(self) -> dict[str, Any]:
        """A list of values, each once."""
        return {"type": "array", "items": {"enum": [c[0] for c in self.choices]}, "uniqueItems": True}


def choices_of(model: Any, name: str) -> tuple[tuple[str, str], ...]:
    """Values and words of a model's field that is a choice."""
    spec = specs(model)[name]
    assert isinstance(spec, Choice), name
    return spec.choices
