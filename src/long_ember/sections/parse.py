"""Read a bar section as it is called across a counter: `12 sq`, `1/2 rd`, `25x6 flat`."""

from __future__ import annotations

import re
from dataclasses import replace

from long_ember.errors import EntryError, NoAnswer
from long_ember.sections.section import SHAPES, Section
from long_ember.units import parse_length

__all__ = ["parse_section"]

_EXAMPLE = "12 sq, 1/2 rd, 25x6 flat, 16 hex, 20 oct, 20 half, 21x2 tube"
_WORDS = {word: shape for shape, spec in SHAPES.items() for word in spec.words}
_FRACTION = r"\d\s*[/⁄]\s*\d|[½¼¾⅛⅜⅝⅞⅓⅔]"
_ENTRY = r"(?s)^(?P<sizes>.*?)(?P<gap>\s*)(?P<word>[A-Za-z][A-Za-z-]*)?\s*$"
_CORNER = r"(?is)\s+(?P<word>corners?|broken)\s+(?P<size>.+)$"
_UNIT_WORDS = {"mm", "cm", "in", "inch", "inches", "ft", "m", "x"}


def parse_section(text: str, *, unit: str = "mm") -> Section:
    """Read a section.

    Args:
        text: sizes and a shape word; two sizes joined by `x` alone mean a flat.
        unit: the shop's unit for bare numbers; a unit on the last size covers the first.

    Raises:
        EntryError: with the position of what does not fit.

    >>> parse_section('25x6 flat').area, parse_section('1 in half round').shape
    (150.0, 'half-round')
    """
    if not text.strip():
        raise EntryError(text, 0, "nothing typed", _EXAMPLE)
    text = re.sub(r"(?i)\bhalf\s(?=round\b)", "half-", text)
    corner = re.search(_CORNER, text)
    if corner is not None:
        return _with_corner(text, corner, unit)
    shape, sizes = _split_word(text)
    parts = re.split(r"[xX×]", sizes)
    if len(parts) > 2:
        raise EntryError(text, len(parts[0]) + len(parts[1]) + 1, "a section has one size or two", _EXAMPLE)
    lengths = _lengths(text, parts, unit)
    return _build(text, shape or ("flat" if len(lengths) == 2 else ""), lengths, len(sizes.rstrip()))


def _with_corner(text: str, corner: re.Match[str], unit: str) -> Section:
    """A section followed by `corners 2` (rounded) or `broken 1.5` (chamfered)."""
    plain = parse_section(text[: corner.start()], unit=unit)
    try:
        size = parse_length(corner.group("size"), unit=unit)
    except EntryError as error:
        raise EntryError(text, corner.start("size") + error.position, error.reason, _EXAMPLE) from None
    try:
        return replace(plain, corner=size, broken=corner.group("word").lower() == "broken")
    except NoAnswer as error:
        raise EntryError(text, corner.start("size"), error.reason.rstrip("."), _EXAMPLE) from None


def _split_word(text: str) -> tuple[str, str]:
    match = re.match(_ENTRY, text)
    word = (match.group("word") or "") if match else ""
    if match is None or not word or word.lower() in _UNIT_WORDS:
        return "", text
    if word.lower() not in _WORDS:
        raise EntryError(text, match.start("word"), f"'{word}' is not a section known here", _EXAMPLE)
    return _WORDS[word.lower()], text[: match.start("word")]


def _lengths(text: str, parts: list[str], unit: str) -> list[float]:
    tail = re.search(r"(mm|cm|in|inch|inches|\"|″)\s*$", parts[-1])
    own = re.search(r"[A-Za-z\"″'′]", parts[0])
    if len(parts) == 2 and tail and not own:
        unit = {"mm": "mm", "cm": "cm"}.get(tail.group(1), "in")
    elif not any(re.search(r"[A-Za-z\"″'′]", part) for part in parts) and any(re.search(_FRACTION, part) for part in parts):
        unit = "in"  # 1 x 1/4: nobody has bar of 1 mm by a quarter inch
    lengths, offset = [], 0
    for part in parts:
        try:
            lengths.append(parse_length(part, unit=unit))
        except EntryError as error:
            raise EntryError(text, offset + error.position, error.reason, _EXAMPLE) from None
        offset += len(part) + 1
    return lengths


def _build(text: str, shape: str, lengths: list[float], end: int) -> Section:
    if not shape:
        raise EntryError(text, end, "say whether it is square, round, hexagon, octagon or half", _EXAMPLE)
    if SHAPES[shape].two_sizes != (len(lengths) == 2):
        need = (
            ("two sizes, diameter x wall" if SHAPES[shape].hollow else "two sizes, width x thickness")
            if SHAPES[shape].two_sizes
            else "one size"
        )
        raise EntryError(text, end, f"a {shape} needs {need}", _EXAMPLE)
    try:
        if SHAPES[shape].hollow:
            return Section(shape, lengths[0], lengths[0], wall=lengths[1])
        return Section(shape, max(lengths), min(lengths) * SHAPES[shape].ratio)
    except NoAnswer as error:
        raise EntryError(text, 0, error.reason.rstrip("."), _EXAMPLE) from None
