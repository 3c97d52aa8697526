"""Read and show the value of any declared field, so that cards, drawing and command line agree."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from long_ember.document.edits import Edit, set_field, set_part, set_piece
from long_ember.errors import EntryError
from long_ember.features import FieldSpec, Piece, specs
from long_ember.features.fields import FACINGS, facing_words
from long_ember.plain import clean
from long_ember.sections import Section, parse_section
from long_ember.units import LEAST, Measure, parse_length, parse_number

__all__ = ["Slot", "read_value", "show_value"]


@dataclass(frozen=True, slots=True)
class Slot:
    """The address of one field.

    Args:
        owner: id of a feature, `allowances`, `order`, or "" for the piece itself.
        name: of the field.
        part: True when `owner` is a part of the piece, not a feature.
    """

    owner: str
    name: str
    part: bool = False

    def model(self, piece: Piece) -> Any:
        """The object that has the field; None when the feature is gone, or another of the same id has taken its place."""
        if self.part:
            return getattr(piece, self.owner)
        if not self.owner:
            return piece
        index = piece.index(self.owner)
        return piece.features[index] if index >= 0 and self.name in specs(piece.features[index]) else None

    def spec(self, piece: Piece) -> FieldSpec:
        """How the field is declared."""
        return specs(self.model(piece))[self.name]

    def text(self, piece: Piece, measure: Measure) -> str:
        """The value as a person would type it."""
        return show_value(self.spec(piece), getattr(self.model(piece), self.name), measure)

    def edit(self, piece: Piece, text: str, measure: Measure, *, gesture: str = "") -> Edit:
        """The edit that a typed text asks for.

        Raises:
            EntryError: the text can't be read.
            NoAnswer: it can, but the piece can't be made like that.
        """
        value = read_value(self.spec(piece), text, measure, piece.bar.thickness)
        if text.strip() == self.text(piece, measure):
            value = getattr(self.model(piece), self.name)  # what is shown is rounded; leaving it alone changes nothing
        if self.part:
            return set_part(piece, self.owner, self.name, value, gesture=gesture)
        if self.owner:
            return set_field(piece, self.owner, self.name, value, gesture=gesture)
        return set_piece(piece, self.name, value, gesture=gesture)


def show_value(spec: FieldSpec, value: Any, measure: Measure) -> str:
    """A field's value as a person would type it; reading it back gives the same to a thousandth."""
    if spec.kind == "length":
        return "" if spec.optional and not value else measure.edit_text(value)
    if spec.kind == "section":
        return value.edit_text(measure) if isinstance(value, Section) else ""
    if spec.kind == "percent":
        return measure.number(value * 100) + " %"
    if spec.kind == "facing" and value % 360 in FACINGS.values():
        return facing_words(value)
    if spec.kind in ("angle", "facing"):
        return measure.number(value) + "°"
    if spec.kind in ("text", "choice"):
        return str(value)
    return f"{measure.number(value)} {spec.unit}".strip()


def read_value(spec: FieldSpec, text: str, measure: Measure, thickness: float) -> Any:
    """Read a typed value.

    Args:
        spec: the field.
        text: what was typed.
        measure: decides the unit of a bare number.
        thickness: of the bar, mm, for entries in cubes.

    Raises:
        EntryError: with what would work.
    """
    if spec.kind in ("text", "choice"):
        value: Any = clean(text)
    elif spec.kind == "facing" and text.strip().lower() in FACINGS:
        value = FACINGS[text.strip().lower()]
    elif spec.kind == "section":
        value = None if spec.optional and not text.strip() else parse_section(text, unit=measure.unit)
    elif spec.kind == "length" and spec.optional and not text.strip():
        value = 0.0
    elif spec.kind == "length":
        value = parse_length(text, unit=measure.unit, thickness=thickness)
    else:
        value = parse_number(text.strip().removesuffix(spec.unit), example=_example(spec))
        value = value / 100 if spec.kind == "percent" else value
        value = int(value) if spec.kind == "count" and value == int(value) else value
    problem = _limit(spec, value, measure)
    if problem:
        raise EntryError(text, 0, problem, _example(spec))
    return value


def _limit(spec: FieldSpec, value: Any, measure: Measure) -> str:
    """The field's own objection, in the unit the person reads."""
    if not spec.problem(value):
        return ""
    if spec.kind == "count" and isinstance(value, float):
        return f"{spec.label} must be a whole number"
    if spec.kind in ("text", "choice", "section"):
        return f"{spec.label} {spec.problem(value)}"
    if spec.kind == "length" and 0 < value < LEAST:
        return f"{spec.label} must be at least {LEAST:g} mm"
    low, high = (show_value(spec, int(v) if spec.kind == "count" else v, measure) for v in (spec.low, spec.high))
    if value <= spec.low:
        return f"{spec.label} must be {'more than' if spec.open_low else 'at least'} {low}"
    return f"{spec.label} must be at most {high}"


def _example(spec: FieldSpec) -> str:
    return {"angle": "90", "facing": "up, front or 30", "percent": "35", "count": "4", "number": "1.75", "length": "40 mm or 1 1/2 in"}.get(
        spec.kind, "12 sq"
    )
