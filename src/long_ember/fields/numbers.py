"""Sizes, angles and other numbers."""

from __future__ import annotations

import math
import re
from typing import Any, ClassVar

from long_ember.errors import EmberError
from long_ember.fields.base import Field, Reading
from long_ember.units import LEAST, MM_PER, MOST, Measure, gauge_words, parse_length, parse_number, read_gauge

__all__ = [
    "FACINGS",
    "Angle",
    "Count",
    "Facing",
    "Length",
    "Lengths",
    "Mass",
    "Number",
    "Percent",
    "Pitch",
    "SheetThickness",
    "facing_words",
    "plain_number",
    "toward_words",
    "with_point",
]

FACINGS = {"up": 0.0, "front": 90.0, "down": 180.0, "back": 270.0}


def facing_words(degrees: float) -> str:
    """A direction about the bar in words."""
    return next((word for word, value in FACINGS.items() if value == degrees % 360), f"{degrees:g}° from up to the front")


def toward_words(degrees: float) -> str:
    """The same inside a sentence: bend it up, to the front.

    >>> toward_words(0), toward_words(90)
    ('up', 'to the front')
    """
    word = facing_words(degrees)
    return f"to the {word}" if word in ("front", "back") else word


def plain_number(value: float) -> float:
    """A number as a file holds it: 12 reads better than 12.0, and means the same."""
    return int(value) if isinstance(value, float) and value.is_integer() else value


class Number(Field):
    """A plain number, with a unit where it has one.

    Args:
        low: least value.
        high: greatest value.
        open_low: the least value itself is not allowed.
        unit: shown behind it.
    """

    example: ClassVar[str] = "1.75"

    def __init__(self, label: str, *, low: float = 0.0, high: float = MOST, open_low: bool = False, unit: str = "", **more: Any) -> None:
        super().__init__(label, **more)
        self.low, self.high, self.open_low, self.unit = low, high, open_low, unit

    @property
    def unit_words(self) -> str:
        """The unit, where there is one."""
        return f", {self.unit}" if self.unit else ""

    def problem(self, value: object) -> str:
        """No number, or outside its bounds."""
        if isinstance(value, bool) or not isinstance(value, (int, float)) or (isinstance(value, float) and not math.isfinite(value)):
            return "must be a number"
        return self.outside(value)

    def outside(self, value: float) -> str:
        """Why a number can't be held, or ""."""
        if value < self.low or (self.open_low and value == self.low):
            return f"must be {'more than' if self.open_low else 'at least'} {self.low:g}"
        return f"must be at most {self.high:g}" if value > self.high else ""

    def show(self, value: Any, measure: Measure) -> str:
        """The number and its unit."""
        return f"{measure.number(value)} {self.unit}".strip()

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A number."""
        bare = text.strip().removesuffix(self.unit)
        negative = self.low < 0 and bare[:1] in ("-", "−")
        return -parse_number(bare[1:], example=self.example) if negative else parse_number(bare, example=self.example)

    def objection(self, value: Any, measure: Measure) -> str:
        """The bound that it breaks, as it would be typed."""
        if value <= self.low:
            return f"must be {'more than' if self.open_low else 'at least'} {self.show(self.low, measure)}"
        return f"must be at most {self.show(self.high, measure)}"

    def step(self, division: float) -> float:
        """By how much the wheel changes it, in its own unit.

        Args:
            division: of the ruler in use, mm.
        """
        return 0.25 if self.high <= 100.0 and not self.unit else 1.0

    def dump(self, value: Any) -> object:
        """The number, whole ones without a point."""
        return plain_number(value)

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A number, as a fraction."""
        found = super().load(data, path, reader)
        return None if found is None else float(found)

    def schema(self) -> dict[str, Any]:
        """A number between its bounds."""
        return {"type": "number", "exclusiveMinimum" if self.open_low else "minimum": self.low, "maximum": self.high}

    def cell(self, value: Any, measure: Measure) -> str:
        """The bare number."""
        return f"{value:.10g}"

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """A number; a comma must not be open to doubt."""
        if comma:
            text = with_point(text)
        elif re.search(r"\d,\d", text):
            raise EmberError("a comma could be a decimal or a thousand: write it with a point, or separate the columns by semicolons")
        return super().from_cell(text, unit, comma)

    def size(self, value: Any) -> float | None:
        """The number itself, in the units that the field has."""
        return float(value)

    def with_size(self, value: Any, size: float) -> Any:
        """The number itself, in the units that the field has."""
        return size


class Count(Number):
    """A whole number."""

    def step(self, division: float) -> float:
        """One unit."""
        return 1.0

    example: ClassVar[str] = "4"

    def outside(self, value: float) -> str:
        """Not whole, or outside its bounds."""
        return "must be a whole number" if value != int(value) else super().outside(value)

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A number, whole where it is one."""
        value = super().parse(text, measure, thickness)
        return int(value) if value == int(value) else value

    def objection(self, value: Any, measure: Measure) -> str:
        """Not whole, or the bound that it breaks."""
        return "must be a whole number" if value != int(value) else super().objection(value, measure)

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A whole number."""
        found = super().load(data, path, reader)
        return None if found is None else int(found)

    def schema(self) -> dict[str, Any]:
        """A whole number between its bounds."""
        return {**super().schema(), "type": "integer"}

    def cell(self, value: Any, measure: Measure) -> str:
        """As it is shown."""
        return self.show(value, measure)

    def size(self, value: Any) -> float | None:
        """None: what would follow is seldom a whole number of units."""
        return None

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """A whole number."""
        return self.read(with_point(text) if comma else text, Measure("mm"))


class Percent(Number):
    """A fraction of 1, entered and shown as per cent."""

    def step(self, division: float) -> float:
        """One per cent, as a fraction of 1."""
        return 0.01

    example: ClassVar[str] = "35"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", fraction of 1"

    def show(self, value: Any, measure: Measure) -> str:
        """Per cent."""
        return measure.number(value * 100) + " %"

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """Per cent, as a fraction."""
        return super().parse(text, measure, thickness) / 100


class Angle(Number):
    """An angle in degrees."""

    def step(self, division: float) -> float:
        """Five degrees."""
        return 5.0

    example: ClassVar[str] = "90"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", degrees"

    def show(self, value: Any, measure: Measure) -> str:
        """Degrees."""
        return measure.number(value) + "°"


class Facing(Angle):
    """A direction about the bar in degrees: 0 up, 90 to the front, 180 down, 270 to the back."""

    example: ClassVar[str] = "up, front or 30"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", degrees about the bar from up to the front"

    def show(self, value: Any, measure: Measure) -> str:
        """The word for it where there is one."""
        return facing_words(value) if value % 360 in FACINGS.values() else super().show(value, measure)

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A word or degrees."""
        word = text.strip().lower()
        return FACINGS[word] if word in FACINGS else super().parse(text, measure, thickness)

    def size(self, value: Any) -> float | None:
        """None: from a direction in degrees no bar follows."""
        return None

    def mirrored(self, value: Any) -> Any:
        """To the other side."""
        return (360.0 - value) % 360.0


class Length(Number):
    """A length in mm; an optional one may be empty, which is kept as 0."""

    def step(self, division: float) -> float:
        """A division of the ruler, mm."""
        return division

    reworded: ClassVar[bool] = True
    example: ClassVar[str] = "40 mm or 1 1/2 in"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", mm"

    def outside(self, value: float) -> str:
        """Finer than anything is measured at a forge, or outside its bounds."""
        if 0 < value < LEAST:
            return f"must be at least {LEAST:g} mm" if self.open_low else f"must be 0, or at least {LEAST:g} mm"
        return super().outside(value)

    def show(self, value: Any, measure: Measure) -> str:
        """As it would be typed; empty where it is."""
        return "" if self.optional and not value else measure.edit_text(value)

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A length in any unit, or in cubes of the bar."""
        return 0.0 if self.optional and not text.strip() else parse_length(text, unit=measure.unit, thickness=thickness)

    def objection(self, value: Any, measure: Measure) -> str:
        """Too fine, or the bound that it breaks."""
        return f"must be at least {LEAST:g} mm" if 0 < value < LEAST else super().objection(value, measure)

    def schema(self) -> dict[str, Any]:
        """0 where it may be, else at least what can be measured."""
        if not self.open_low and self.low == 0:
            return {"type": "number", "anyOf": [{"const": 0}, {"minimum": LEAST}], "maximum": self.high}
        return {"type": "number", "minimum": max(LEAST, self.low), "maximum": self.high}

    def head(self, measure: Measure) -> str:
        """The unit in use."""
        return measure.unit

    def cell(self, value: Any, measure: Measure) -> str:
        """A decimal number in the head's unit."""
        return f"{value / MM_PER[measure.unit]:.6f}".rstrip("0").rstrip(".")

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """A length in the column's unit, unless the cell names another."""
        text = with_point(text) if comma else text
        if unit not in ("mm", "in") and re.fullmatch(r"[\d./ ]+", text):
            text = f"{text} {unit}"
        return self.read(text, Measure("in" if unit == "in" else "mm"))

    def scaled(self, value: Any, factor: float) -> Any:
        """As the piece."""
        return value * factor

    def inched(self, value: Any) -> Any:
        """To a foot, an inch, a quarter, a sixteenth, a thirty-second or a sixty-fourth, as it is large."""
        if self.low > 0 or not value:
            return value
        inches = value / 25.4
        step = next(step for least, step in _STEPS if inches >= least)
        return round(max(round(inches / step) * step, step) * 25.4, _EXACT)

    def evened(self, value: Any) -> Any:
        """What is no twentieth of a millimetre (from 5 on no tenth) and no 64th of an inch: to a whole one, a half or a tenth, as it is large."""
        if self.low > 0 or any(abs(value * parts - round(value * parts)) < 1e-6 for parts in (10 if value >= 5 else 20, 64 / 25.4)):
            return round(value, _EXACT)
        parts = 1 if value >= 20 else 2 if value >= 5 else 10
        made = round(value * parts) / parts
        return made if made and not self.problem(made) else value


class SheetThickness(Length):
    """The thickness of sheet or plate: gauge numbers are read, and what has one says so, with the system that it is of."""

    example: ClassVar[str] = "2 mm, 14 ga (US standard), 14 awg or 16 swg"

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A gauge number or a length."""
        found = read_gauge(text.partition("(")[0])
        return super().parse(text, measure, thickness) if found is None else round(found, 3)

    def show(self, value: Any, measure: Measure) -> str:
        """As it would be typed, with its gauge."""
        words = gauge_words(value) if value else ""
        shown = super().show(value, measure)
        return f"{shown.partition(' (')[0]} ({words})" if words else shown


_EXACT = 6  # decimals of a 64th of an inch in mm
_STEPS = ((60.0, 12.0), (20.0, 1.0), (2.0, 0.25), (0.5, 1 / 16), (0.125, 1 / 32), (0.0, 1 / 64))  # inches from which on, and to what


class Mass(Number):
    """A mass in kg or g, shown and typed in lb where inches are in use."""

    example: ClassVar[str] = "1.3 kg or 3 lb"

    def show(self, value: Any, measure: Measure) -> str:
        """With its unit."""
        if measure.unit == "mm":
            return super().show(value, measure)
        grams = value * _GRAMS[self.unit]
        return f"{measure.number(grams / _GRAMS['oz'])} oz" if self.unit == "g" else f"{measure.number(grams / _GRAMS['lb'])} lb"

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A mass in any unit; a bare number is in the one that it is shown in."""
        bare = text.strip().lower().removesuffix("s")
        own = self.unit if measure.unit == "mm" else "oz" if self.unit == "g" else "lb"
        unit = next((u for u in ("kg", "lb", "oz", "g") if bare.endswith(u)), "")
        return parse_number(bare.removesuffix(unit), example=self.example) * _GRAMS[unit or own] / _GRAMS[self.unit]

    def inched(self, value: Any) -> Any:
        """To half a pound."""
        return value if self.unit == "g" else round(value * 1000 / _GRAMS["lb"] * 2) / 2 * _GRAMS["lb"] / 1000


_GRAMS = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237}


class Pitch(Length):
    """The pitch of a thread in mm; threads an inch are read and, in inches, shown."""

    example: ClassVar[str] = "1.25 mm or 16 tpi"

    def show(self, value: Any, measure: Measure) -> str:
        """Threads an inch where inches are in use and it is a whole number of them."""
        count = MM_PER["in"] / value if value else 0.0
        if measure.unit == "in" and count >= 1 and abs(count - round(count)) < 1e-3:
            return f"{round(count)} tpi"
        return super().show(value, measure)

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A length, or threads an inch."""
        match = re.fullmatch(_TPI, text.strip().lower())
        return MM_PER["in"] / float(match[1]) if match and float(match[1]) > 0 else super().parse(text, measure, thickness)


_TPI = r"(\d+(?:\.\d+)?)\s*(?:tpi|threads?(?:\s*(?:an|per|to the)\s*inch)?|/\s*in(?:ch)?)"


class Lengths(Field):
    """Lengths in a row, in mm, separated by semicolons where they are typed."""

    example: ClassVar[str] = "8; 18; 24; 16"

    @property
    def unit_words(self) -> str:
        """What a file holds."""
        return ", mm"

    def problem(self, value: object) -> str:
        """No row of lengths, or one that no piece has."""
        if not isinstance(value, tuple) or not value or not all(isinstance(v, (int, float)) and not isinstance(v, bool) for v in value):
            return "must be lengths in a row"
        return "" if all(0 <= v <= MOST for v in value) else f"must be lengths from 0 to {MOST:g} mm"

    def show(self, value: Any, measure: Measure) -> str:
        """As it would be typed, the unit once."""
        return "; ".join([*(measure.edit_text(v).removesuffix(f" {measure.unit}") for v in value[:-1]), measure.edit_text(value[-1])])

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """Lengths in any unit."""
        return tuple(parse_length(part, unit=measure.unit, thickness=thickness) for part in text.split(";") if part.strip())

    def dump(self, value: Any) -> object:
        """Numbers."""
        return [plain_number(v) for v in value]

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """Numbers."""
        return super().load(tuple(float(v) if type(v) is int else v for v in data) if isinstance(data, list) else data, path, reader)

    def schema(self) -> dict[str, Any]:
        """A list of numbers."""
        return {"type": "array", "minItems": 1, "items": {"type": "number", "minimum": 0, "maximum": MOST}}

    def scaled(self, value: Any, factor: float) -> Any:
        """As the piece."""
        return tuple(v * factor for v in value)


def with_point(text: str) -> str:
    """A number written with a decimal comma, in a table where others are."""
    if re.search(r"\d\.\d", text) and not re.search(r"\d,\d", text):
        raise EmberError("a point could be a decimal or a thousand, since other cells have decimal commas")
    if re.search(r"\d,\d", text):
        text = re.sub(r"(?<=\d)\.(?=\d{3}\b)", "", text)
        text = re.sub(r"(?<=\d),(?=\d)", ".", text)
    return text
