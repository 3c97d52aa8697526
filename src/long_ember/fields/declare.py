"""How a model declares its fields: a default with what it may hold."""

from __future__ import annotations

import dataclasses
from datetime import date
from typing import Any

from long_ember.fields.base import Field
from long_ember.fields.numbers import Angle, Count, Facing, Length, Lengths, Mass, Number, Percent, Pitch, SheetThickness
from long_ember.fields.parts import Limb, Rows, SectionField
from long_ember.fields.words import Choice, Course, Day, Flag, Landmark, Reference, Text, Ticks
from long_ember.sections import Section

__all__ = [
    "angle", "choice", "count", "course", "day", "facing", "flag", "landmark", "length", "lengths", "limb", "mass", "number", "percent", "pitch", "record", "rows", "section", "sheet", "text", "ticks",
]  # fmt: skip


def _field(default: object, spec: Field) -> Any:
    return dataclasses.field(default=default, metadata={"spec": spec})


def length(label: str, default: float, *, low: float = 0.0, zero: bool = False, empty: bool = False, tip: str = "", mark: str = "",
           late: int = 0) -> Any:  # fmt: skip
    """A length in mm, more than `low`; `zero` allows it to be 0, `empty` means that 0 is shown as nothing and explained by `tip`."""
    return _field(default, Length(label, low=low, open_low=not (zero or empty), optional=empty, tip=tip, mark=mark, late=late))


def sheet(
    label: str, default: float, *, tip: str = "14 ga is the US standard gauge of sheet steel; write 14 awg or 14 swg for the others."
) -> Any:
    """The thickness of sheet, mm; gauge numbers can be typed."""
    return _field(default, SheetThickness(label, open_low=True, tip=tip))


def pitch(label: str, default: float, *, tip: str = "") -> Any:
    """The pitch of a thread in mm; threads an inch can be typed."""
    return _field(default, Pitch(label, open_low=True, tip=tip))


def lengths(label: str, default: tuple[float, ...], *, tip: str = "") -> Any:
    """Lengths in a row, mm."""
    return _field(default, Lengths(label, tip=tip))


def angle(label: str, default: float, *, low: float, high: float, tip: str = "") -> Any:
    """An angle in degrees."""
    return _field(default, Angle(label, low=low, high=high, tip=tip))


def facing(label: str = "Facing", default: float = 0.0) -> Any:
    """A direction about the bar in degrees: 0 up, 90 to the front, 180 down, 270 to the back."""
    return _field(default, Facing(label, high=360.0, tip="up, down, front, back, or degrees from up to the front."))


def number(label: str, default: float, *, low: float, high: float, unit: str = "", tip: str = "", late: int = 0) -> Any:
    """A plain number, with a unit where it has one."""
    return _field(default, Number(label, low=low, high=high, unit=unit, tip=tip, late=late))


def count(label: str, default: int, *, low: int = 1, high: int = 100000, tip: str = "", late: int = 0) -> Any:
    """A whole number."""
    return _field(default, Count(label, low=low, high=high, tip=tip, late=late))


def course(label: str, default: str) -> Any:
    """Straights and bends in a row, mm and degrees."""
    return _field(default, Course(label))


def mass(label: str, default: float, *, low: float = 0.0, high: float, unit: str, tip: str = "", late: int = 0) -> Any:
    """A mass in kg or g."""
    return _field(default, Mass(label, low=low, high=high, unit=unit, tip=tip, late=late))


def percent(label: str, default: float, *, high: float = 1.0, tip: str = "", late: int = 0) -> Any:
    """A fraction of 1, entered and shown as per cent."""
    return _field(default, Percent(label, high=high, tip=tip, late=late))


def section(label: str, default: Section | None, *, optional: bool = False, tip: str = "", mark: str = "", late: int = 0) -> Any:
    """A section; an optional one may be None and then means the bar itself."""
    return _field(default, SectionField(label, optional=optional, tip=tip, mark=mark, late=late))


def choice(label: str, default: str, *choices: tuple[str, str], mirror: dict[str, str] | None = None, tip: str = "", late: int = 0) -> Any:
    """One of a few words; `mirror` says which takes the place of which in the other of a pair."""
    return _field(default, Choice(label, choices, mirror=mirror, tip=tip, late=late))


def flag(label: str, default: bool, off: str = "no", on: str = "yes", *, tip: str = "", late: int = 0) -> Any:
    """Yes or no, with what each means in words."""
    return _field(default, Flag(label, off, on, tip=tip, late=late))


def day(label: str, default: date | None = None) -> Any:
    """A day; None while it is not settled."""
    return _field(default, Day(label, optional=True, tip="For example 4 Dec 2026, tomorrow, in 2 weeks."))


def record(label: str, of: str, *, late: int = 0) -> Any:
    """The id of a piece, or of a record of a kind, "" for none."""
    return _field("", Reference(label, of, late=late))


def text(label: str, default: str = "", *, tip: str = "", late: int = 0) -> Any:
    """Free text."""
    return _field(default, Text(label, tip=tip, late=late))


def landmark(label: str, *, tip: str = "") -> Any:
    """An end of the bar, or the id of a feature, from which something is measured."""
    return _field("A", Landmark(label, tip=tip))


def ticks(label: str, default: tuple[str, ...], *choices: tuple[str, str], tip: str = "") -> Any:
    """Any of a few words, in the order of the choices."""
    return _field(default, Ticks(label, choices, tip=tip))


def rows(label: str, row: type, default: tuple[Any, ...] = (), *, tip: str = "", late: int = 0) -> Any:
    """Any number of models of one kind."""
    return _field(default, Rows(label, row, tip=tip, late=late))


def limb(label: str, *, tip: str = "") -> Any:
    """Features of a tine or of a bar welded on, from its tip inwards; they are a small piece of their own."""
    return _field((), Limb(label, tip=tip))
