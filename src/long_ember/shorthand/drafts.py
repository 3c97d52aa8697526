"""A feature of a line while it is read: what was said of it, where it stands, and what is proposed for the rest."""

from __future__ import annotations

from collections.abc import Sequence
from copy import copy
from dataclasses import replace
from typing import Any

from long_ember.features import KINDS, Feature, Outer
from long_ember.fields import specs
from long_ember.frozen import NamedTuple
from long_ember.sections import Section
from long_ember.shorthand.scanner import Amount
from long_ember.shorthand.vocabulary import unsaid, wants_saying

__all__ = ["Draft", "Placing", "Proposed", "SaidLandmark", "edge_way", "takes_place", "usual_place", "usual_toward"]

_INNER = 0.4  # of the outer radius, that a spiral is proposed to begin with
_SEAT = 2.0  # diameters of its hole that a countersink is proposed with


def takes_place(feature: Feature) -> bool:
    """Whether a work goes through its place, so that several of them can't lie in the same one."""
    return feature.stands == "work" and not feature.recuts and not feature.skin


class Proposed(NamedTuple):
    """A size that the line does not say.

    Args:
        feature: id.
        field: name of its field; "place" for where it stands.
    """

    feature: str
    field: str


class Placing:
    """Where something stands, as far as it was said."""

    def __init__(self) -> None:
        self.on: str | SaidLandmark | None = None
        self.edge, self.along = "", ""
        self.at: float | None = None
        self.centred = False  # its middle in the middle of what it stands on

    @property
    def silent(self) -> bool:
        """Nothing was said of it."""
        return self.on is None and self.at is None and not self.edge


class SaidLandmark(NamedTuple):
    """What something stands on, as it was said.

    Args:
        words: name of a shape, "" where its own name was given.
        name: its own name.
        number: which of several, 0 where that was not said, −1 for the last.
        start: index of the first word.
        span: characters.
    """

    words: tuple[str, ...]
    name: str
    number: int
    start: int
    span: int


class Draft:
    """A feature while it is read."""

    def __init__(self, kind: str, said: dict[str, Any], identity: str, start: int) -> None:
        self.cls, self.id, self.start = KINDS[kind], identity, start
        self.implied = {field: value for field, value in said.items() if field != "sink"}  # by its name
        self.values: dict[str, Any] = dict(self.implied)
        self.free: list[str] = []
        self.dealt: dict[str, Amount] = {}  # numbers without a name, by the field that each was taken for
        self.named: set[str] = set()  # fields whose number was said with the name
        self.seat = "sink" in said  # a countersink without its size
        self.place = Placing()
        self.with_: list[Draft] = []
        self.laid = False  # said in the row, and laid on it
        self.both = False  # at either end
        self.many = False  # several alike are spoken of
        self.places: tuple[float, ...] = ()  # of all but the first of them, mm

    def twin(self, identity: str) -> Draft:
        """The same once more, at the other end."""
        other, far = self.again(identity), {"A": "B", "B": "A"}
        if "toward" in self.values:
            other.values["toward"] = far[self.values["toward"]]
        other.place.on = far.get(self.place.on, self.place.on) if isinstance(self.place.on, str) else self.place.on
        other.place.edge = far.get(self.place.edge, self.place.edge)
        return other

    def again(self, identity: str) -> Draft:
        """The same once more, beside it."""
        other = copy(self)
        other.id, other.values, other.place, other.with_ = identity, dict(self.values), copy(self.place), []
        return other

    def made(self, bar: Section, toward: str, unit: str) -> Feature:
        """The feature, with the sizes that were not said as they suit the bar."""
        feature = self.cls(id=self.id).fitted(bar)
        feature = feature.proposed(unit)
        values, known = self.values, specs(self.cls)
        if isinstance(feature, Outer) and "toward" not in values:
            values = {**values, "toward": toward}
        if "inner" in known and "outer" in values and "inner" not in values:
            values = {**values, "inner": min(feature.inner, round(_INNER * float(values["outer"]), 1))}  # type: ignore[attr-defined]
        if self.seat:
            hole = float(values.get("diameter", getattr(feature, "diameter", 0.0)))
            values = {**values, "sink": max(min(_SEAT * hole, 0.8 * bar.width), 1.2 * hole)}
        made = replace(replace(feature, **values).followed(feature), **values)  # what is said stands, also where it is the usual
        made = made.suited(bar, values)
        # What a name says gives way to a size that would mean nothing beside it: a corner of a radius is a round one.
        if self.implied and made.idle & (self.values.keys() - self.implied.keys()):
            made = replace(made, **{field: getattr(feature, field) for field, value in self.implied.items() if values[field] == value})
        return made

    def proposed(self, feature: Feature, *, standing: bool) -> list[Proposed]:
        """Sizes that were not said and mean something."""
        said = {n for n in self.values if n not in self.free} | unsaid(feature, standing)
        return [Proposed(self.id, name) for name in specs(feature) if name not in said and wants_saying(feature, name)]


def usual_toward(outers: Sequence[bool], index: int) -> str:
    """Which way the outer end of a feature points where nobody says so: outwards at an end, else to the end that only outer ends lie before.

    Args:
        outers: of the features of a row, whether each has an outer end.
        index: of the feature.
    """
    if index == 0:
        return "A"
    return "A" if index < len(outers) - 1 and all(outers[:index]) else "B"


def usual_place(host: Feature | None, on: str, row: Sequence[Feature]) -> tuple[str, str]:
    """Which end of its landmark a distance is measured from, and which way, where nobody says so.

    Args:
        host: its landmark, None for an end of the bar.
        on: id of the landmark, or the end.
        row: features with bar of their own: an outer end of one of these is where a distance begins.
    """
    if host is None:
        return "A", "B" if on == "A" else "A"
    outward = str(getattr(host, "toward", "A")) if any(f is host for f in row) else "A"
    return outward, edge_way(outward)


def edge_way(edge: str) -> str:
    """Which way it goes on from an end of its landmark: over it."""
    return "A" if edge == "B" else "B"
