"""Fields that hold something with fields of its own: a section, rows of models, the features of a limb."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any, ClassVar

from long_ember.errors import NoAnswer
from long_ember.fields.base import Field, Reading, fields_out, named_in, object_schema, renamed
from long_ember.fields.numbers import Length, plain_number, with_point
from long_ember.fields.words import Choice, Flag
from long_ember.sections import SHAPES, Section, parse_section
from long_ember.units import THICKEST, Measure

__all__ = ["Limb", "Rows", "SectionField"]


class SectionField(Field):
    """A section; an optional one may be None and then means the bar itself."""

    reworded: ClassVar[bool] = True

    def problem(self, value: object) -> str:
        """No section."""
        ok = isinstance(value, Section) or (value is None and self.optional)
        return "" if ok else "must be a section" + (" or null" if self.optional else "")

    def show(self, value: Any, measure: Measure) -> str:
        """As it would be typed; empty for the bar's own."""
        return value.edit_text(measure) if isinstance(value, Section) else ""

    def parse(self, text: str, measure: Measure, thickness: float) -> Any:
        """A section."""
        return None if self.optional and not text.strip() else parse_section(text, unit=measure.unit)

    def dump(self, value: Any) -> object:
        """Shape and sizes; corner and wall where it has them."""
        if value is None:
            return None
        extra = [name for name in ("corner", "broken", "wall") if getattr(value, name)]
        return {name: plain_number(getattr(value, name)) for name in ("shape", "width", "thickness", *extra)}

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A section, or None with its faults noted."""
        if data is None:
            return super().load(data, path, reader)
        if not isinstance(data, dict):
            reader.say(path, "must be an object with shape, width and thickness")
            return None
        before = len(reader.problems)
        values = reader.fields(data, _SECTION, path)
        if len(reader.problems) > before:
            return None
        try:
            return Section(**values)
        except NoAnswer as error:
            reader.say(path, str(error))
            return None

    def schema(self) -> dict[str, Any]:
        """The definition of a section."""
        ref: dict[str, Any] = {"$ref": "#/$defs/section"}
        return {"anyOf": [ref, {"type": "null"}]} if self.optional else ref

    def from_cell(self, text: str, unit: str, comma: bool) -> Any:
        """A section in the column's unit, unless the cell names another."""
        return self.read(with_point(text) if comma else text, Measure("in" if unit == "in" else "mm"))

    def scaled(self, value: Any, factor: float) -> Any:
        """As the piece."""
        return value.scaled(factor) if value else value

    def sized(self, value: Any, ratio: float) -> Any:
        """Rounded to the millimetre, but on the same side of the bar as the default is of 12 mm."""
        if value is None:
            return None
        size = max(0.5, math.ceil(value.width * ratio) if value.width > 12 else math.floor(value.width * ratio * 2) / 2)
        return Section(value.shape, size, size)

    def inched(self, value: Any) -> Any:
        """To sixteenths."""
        if value is None or value.corner or SHAPES[value.shape].hollow:
            return value
        size = Length(self.label, open_low=True)
        wide = size.inched(value.width)
        return Section(
            value.shape, wide, size.inched(value.thickness) if SHAPES[value.shape].two_sizes else wide * SHAPES[value.shape].ratio
        )

    def size(self, value: Any) -> float | None:
        """Its width, mm."""
        return value.width if value else None

    def with_size(self, value: Any, size: float) -> Any:
        """A width; it keeps its proportions."""
        f = size / value.width
        shape = SHAPES[value.shape]
        thick = value.thickness * f if shape.two_sizes and not shape.hollow else size * shape.ratio
        return Section(value.shape, size, thick, value.corner * f, value.broken, value.wall * f)


class Rows(Field):
    """Any number of models of one kind.

    Args:
        row: the model of one.
    """

    typed: ClassVar[bool] = False

    def __init__(self, label: str, row: type, **more: Any) -> None:
        super().__init__(label, **more)
        self.row: Any = row

    def problem(self, value: object) -> str:
        """No row of them."""
        return "" if isinstance(value, tuple) and all(isinstance(v, self.row) for v in value) else "must be a list"

    def show(self, value: Any, measure: Measure) -> str:
        """How many."""
        return str(len(value))

    def dump(self, value: Any) -> object:
        """A list of objects."""
        return [fields_out(row) for row in value]

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A list of objects."""
        if not isinstance(data, list):
            reader.say(path, "must be a list")
            return None
        return tuple(reader.model(self.row, item, f"{path}[{i}]") for i, item in enumerate(data))

    def schema(self) -> dict[str, Any]:
        """A list of objects."""
        return {"type": "array", "items": object_schema(self.row)}

    def rename(self, value: Any, names: Mapping[str, str]) -> Any:
        """Each row's."""
        return tuple(renamed(row, names) for row in value)

    def named(self, value: Any, of: str) -> tuple[str, ...]:
        """All that the rows speak of."""
        return tuple(found for row in value for found in named_in(row, of))


def _part(part: Any) -> dict[str, Any]:
    """A feature of a limb, or what stands on its drawn bar, as JSON data."""
    if hasattr(part, "feature"):
        return {**fields_out(part), "feature": _part(part.feature)}
    return {"kind": part.kind, "id": part.id, **fields_out(part)}


class Limb(Field):
    """Features of a tine or of a bar welded on, from its tip inwards; they are a small piece of their own."""

    typed: ClassVar[bool] = False

    def problem(self, value: object) -> str:
        """No row of features."""
        return (
            ""
            if isinstance(value, tuple) and all(hasattr(f, "kind") or hasattr(f, "feature") for f in value)
            else "must be a list of features"
        )

    def show(self, value: Any, measure: Measure) -> str:
        """How many."""
        return str(len(value))

    def dump(self, value: Any) -> object:
        """Each with its kind and id; what is laid on the limb's drawn bar with its place."""
        return [_part(f) for f in value]

    def load(self, data: Any, path: str, reader: Reading) -> Any:
        """A list of features, and of what is laid on them."""
        return reader.limb(data, path)

    def schema(self) -> dict[str, Any]:
        """A list of features, and of what is laid on them."""
        return {"type": "array", "items": {"anyOf": [{"$ref": "#/$defs/feature"}, {"$ref": "#/$defs/standing"}]}}

    def compared(self, before: Any, after: Any, measure: Measure) -> tuple[str, str]:
        """That it changed."""
        return "changed", "changed"

    def scaled(self, value: Any, factor: float) -> Any:
        """Each feature."""
        return tuple(f.scaled(factor) for f in value)

    def sized(self, value: Any, ratio: float) -> Any:
        """As it is."""
        return value

    def mirrored(self, value: Any) -> Any:
        """Each feature."""
        return tuple(f.mirrored() for f in value)


_SECTION: dict[str, Field] = {
    "shape": Choice("shape", tuple((s, s) for s in SHAPES)),
    "width": Length("size", high=THICKEST, open_low=True), "thickness": Length("size", high=THICKEST, open_low=True),
    "corner": Length("corner", high=THICKEST, late=True), "wall": Length("wall", high=THICKEST, late=True), "broken": Flag("broken", late=True),
}  # fmt: skip
