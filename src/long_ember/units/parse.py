"""A strict reader for lengths and plain numbers as smiths type them.

General unit libraries guess; here anything ambiguous or trailing is refused with its position.
"""

from __future__ import annotations

import re
from fractions import Fraction

from long_ember.errors import EntryError

__all__ = ["MM_PER", "parse_length", "parse_number"]

MM_PER = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}

_EXAMPLES = '12, 12 mm, 1.2 cm, 3/8 in, 1 1/2", 2\' 3 1/2", 2 cubes'
_VULGAR = {
    "½": Fraction(1, 2), "¼": Fraction(1, 4), "¾": Fraction(3, 4), "⅛": Fraction(1, 8),
    "⅜": Fraction(3, 8), "⅝": Fraction(5, 8), "⅞": Fraction(7, 8), "⅓": Fraction(1, 3), "⅔": Fraction(2, 3),
}  # fmt: skip
_UNITS = {
    "mm": "mm", "cm": "cm", "m": "m", "in": "in", "inch": "in", "inches": "in", '"': "in", "″": "in", "”": "in", "''": "in",
    "ft": "ft", "foot": "ft", "feet": "ft", "'": "ft", "′": "ft", "’": "ft", "cube": "cube", "cubes": "cube",
}  # fmt: skip
_ASIDE = r"\s*\([^()]{0,24}\)\s*$"  # `12 mm (15/32 −)`: what stands in brackets is said for the reader
_LONGEST = 24  # figures of one number
_TOKEN = (  # compiled when something is read
    r"(?P<num>[0-9]+(?:[.,][0-9]+)?|\.[0-9]+)|(?P<slash>[/⁄])|(?P<vulgar>[½¼¾⅛⅜⅝⅞⅓⅔])|(?P<unit>''|[\"″”'′’]|[A-Za-z]+)|(?P<dash>-)|(?P<space>\s+)"
)


class _Reader:
    """Tokens of one entry with a cursor; every refusal knows its position."""

    def __init__(self, text: str) -> None:
        self.text, self.at = text, 0
        self.tokens: list[tuple[str, str, int]] = []
        position, token = 0, re.compile(_TOKEN)
        while position < len(text):
            match = token.match(text, position)
            if match is None:
                raise self.refuse(f"'{text[position]}' does not belong in a length", position)
            if match.lastgroup == "num" and len(match.group()) > _LONGEST:
                raise self.refuse("no length has so many figures", position)
            if match.lastgroup != "space":
                self.tokens.append((str(match.lastgroup), match.group(), position))
            position = match.end()

    def refuse(self, reason: str, position: int | None = None) -> EntryError:
        return EntryError(self.text, self.position if position is None else position, reason, _EXAMPLES)

    @property
    def position(self) -> int:
        return self.tokens[self.at][2] if self.at < len(self.tokens) else len(self.text)

    def kind(self, ahead: int = 0) -> str:
        return self.tokens[self.at + ahead][0] if self.at + ahead < len(self.tokens) else "end"

    def take(self) -> str:
        self.at += 1
        return self.tokens[self.at - 1][1]

    def decimal(self) -> Fraction:
        position, text = self.position, self.take()
        if "," in text and len(text.split(",")[1]) > 2:
            raise self.refuse("a comma before three figures may mean thousands; write a point", position)
        return Fraction(text.replace(",", "."))

    def fraction(self) -> Fraction:
        if self.kind() == "vulgar":
            return _VULGAR[self.take()]
        top = self._whole("the top of a fraction")
        self.take()
        if self.kind() != "num":
            raise self.refuse("a fraction needs a figure under the line")
        position, bottom = self.position, self._whole("the bottom of a fraction")
        if bottom == 0:
            raise self.refuse("a fraction can't have 0 under the line", position)
        return Fraction(top, bottom)

    def _whole(self, what: str) -> int:
        position, text = self.position, self.take()
        if not text.isdigit():
            raise self.refuse(f"{what} must be a whole number", position)
        return int(text)

    def starts_fraction(self, ahead: int = 0) -> bool:
        return self.kind(ahead) == "vulgar" or (self.kind(ahead) == "num" and self.kind(ahead + 1) == "slash")

    def number(self) -> tuple[Fraction, Fraction]:
        """The value and its fractional part as written (0 for decimals)."""
        if self.starts_fraction():
            part = self.fraction()
            return part, part
        if self.kind() != "num":
            raise self.refuse("a number is expected here")
        position, whole = self.position, self.decimal()
        joined = 1 if self.kind() == "dash" else 0
        if not self.starts_fraction(joined):
            return whole, Fraction(0)
        if whole.denominator != 1 or "." in self.tokens[self.at - 1][1]:
            raise self.refuse("a decimal can't be followed by a fraction", position)
        self.at += joined
        position, part = self.position, self.fraction()
        if part >= 1:
            raise self.refuse("the fraction after a whole number must be less than 1", position)
        return whole + part, part

    def unit(self) -> str:
        if self.kind() != "unit":
            return ""
        position, text = self.position, self.take()
        if text.lower() not in _UNITS:
            raise self.refuse(f"'{text}' is not a unit known here", position)
        return _UNITS[text.lower()]


def parse_length(text: str, *, unit: str = "mm", thickness: float | None = None) -> float:
    """Read a length.

    A bare number is in the shop's unit. A bare binary fraction (`3/8`, `1½`) always means inches: nobody
    marks steel in fractions of a millimetre, so an inch shop and a metric shop read it alike.

    Args:
        text: what was typed, for example `12`, `1.2cm`, `1-1/2 in`, `2' 3 1/2"`, `2 cubes`.
        unit: "mm" or "in", the shop's unit for a bare number.
        thickness: mm, the bar thickness that one cube stands for; None where cubes make no sense.

    Returns:
        The length in mm, zero or more.

    Raises:
        EntryError: for anything that is not exactly one length.

    >>> parse_length('1-1/2 in')
    38.1
    """
    reader = _Reader(re.sub(_ASIDE, "", text))
    if not reader.tokens:
        raise reader.refuse("nothing typed", 0)
    position = reader.position
    value, part = reader.number()
    name = reader.unit()
    if name == "ft" and reader.kind() != "end":
        total = value * Fraction("304.8") + _inches(reader)
    else:
        total = value * _scale(reader, name, part, unit, thickness, position)
    if reader.kind() != "end":
        raise reader.refuse(f"nothing may follow the length, but '{reader.text[reader.position :]}' does")
    return float(total)


def _inches(reader: _Reader) -> Fraction:
    if reader.kind() == "dash":
        reader.take()
    value, _part = reader.number()
    position = reader.position
    if reader.unit() not in ("in", ""):
        raise reader.refuse("after feet only inches may follow", position)
    if value >= 12:
        raise reader.refuse("the inches after feet must be less than 12", position)
    return value * Fraction("25.4")


def _scale(reader: _Reader, name: str, part: Fraction, unit: str, thickness: float | None, position: int) -> Fraction:
    if name == "cube":
        if thickness is None:
            raise reader.refuse("cubes need a bar thickness, and there is none here", position)
        return Fraction(thickness)
    if not name and part:
        if part.denominator & (part.denominator - 1):
            raise reader.refuse("say which unit this fraction is in", position)
        name = "in"
    return Fraction(str(MM_PER[name or unit]))


def parse_number(text: str, *, example: str = "1.75") -> float:
    """Read a plain number (turns, degrees, per cent, pieces); halves and quarters may be fractions.

    >>> parse_number('1 3/4')
    1.75
    """
    cleaned = text.strip().removesuffix("°").removesuffix("%").removesuffix("turns").removesuffix("turn").strip()
    try:
        reader = _Reader(cleaned)
        value, _part = reader.number()
    except EntryError as error:
        raise EntryError(text, error.position, "a number is expected here", example) from None
    if reader.kind() != "end":
        raise EntryError(text, reader.position, "nothing may follow the number", example)
    return float(value)
