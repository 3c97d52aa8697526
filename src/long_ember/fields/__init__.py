"""Declare a model's field once: reader, schema, cards, entries and drawing all use the same words."""

from long_ember.fields.base import Field, check_fields, fields_out, named_in, object_schema, renamed, specs, typed_change
from long_ember.fields.days import day_words, parse_day
from long_ember.fields.declare import (
    angle,
    choice,
    count,
    day,
    facing,
    flag,
    landmark,
    length,
    lengths,
    limb,
    number,
    percent,
    pitch,
    record,
    rows,
    section,
    text,
    ticks,
)
from long_ember.fields.numbers import FACINGS, Count, Length, Number, facing_words
from long_ember.fields.parts import Limb, Rows
from long_ember.fields.words import Choice, Day, Flag, Landmark, Reference, Text, Ticks, choices_of

__all__ = [
    "FACINGS", "Choice", "Count", "Day", "Field", "Flag", "Landmark", "Length", "Limb", "Number", "Reference", "Rows", "Text", "Ticks", "angle", "check_fields", "choice", "choices_of", "count", "day",
    "day_words", "facing", "facing_words", "fields_out", "flag", "landmark", "length", "lengths", "limb", "named_in", "number", "object_schema", "parse_day", "percent", "pitch", "record",
    "renamed", "rows", "section", "specs", "text", "ticks", "typed_change",
]  # fmt: skip
