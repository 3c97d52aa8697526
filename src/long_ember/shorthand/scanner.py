"""A line of shorthand with a cursor: words, quantities, sections, and where none of them could be read."""

from __future__ import annotations

import difflib
import re
from collections.abc import Iterable, Mapping
from typing import Any

from long_ember.errors import EmberError, EntryError
from long_ember.frozen import NamedTuple
from long_ember.sections import SHAPES, Section, parse_section
from long_ember.shorthand.vocabulary import FILLERS
from long_ember.units import Measure, parse_length, parse_number

__all__ = ["LONGEST_LINE", "Amount", "Scanner", "ShorthandError"]

LONGEST_LINE = 20_000  # characters of a line
_NUMBER = r"(?:\d+\s*-\s*\d+/\d+|\d+\s+\d+/\d+|\d+/\d+|\d*\s?[½¼¾⅛⅜⅝⅞⅓⅔]|\d+(?:[.,]\d+)?|\.\d+)"
_UNIT = r"(?:(?:mm|cm|m|inches|inch|in(?!\s+(?:the|its|a|two|one)\b)|ft|foot|feet|cubes|cube)(?![A-Za-z])|''|[\"″”'′’])"
_ANGLE = r"(?:°|(?:degrees|degree|deg)(?![A-Za-z]))"
_QUANTITY = re.compile(
    rf"(?P<sign>[-−])?(?P<feet>{_NUMBER}\s*(?:'|′|’|(?:ft|foot|feet)(?![A-Za-z]))\s*(?={_NUMBER}\s*(?:\"|″|”|in\b|inch)))?"
    rf"(?P<number>{_NUMBER})(?![\d/])\s*(?:(?P<unit>{_UNIT})|(?P<angle>{_ANGLE})|(?P<share>%|percent(?![A-Za-z]))"
    rf"|(?P<turns>turns?(?![A-Za-z]))|(?P<pitch>tpi(?![A-Za-z])))?"
)
_CHAIN = re.compile(rf"(?:\s*[x×]\s*{_NUMBER})+\s*(?P<unit>{_UNIT})")
_WORD = re.compile(r"[A-Za-zÀ-ž](?:[A-Za-zÀ-ž]|['’-](?=[A-Za-zÀ-ž]))*")
_SPACE = re.compile(r"\s+")
_ROUND = re.compile(r"\s+round\b", re.IGNORECASE)  # behind half
_BY = re.compile(r"\s*[x×]\s*")
_SHAPE_WORDS = {word: shape for shape, spec in SHAPES.items() for word in spec.words}
_SIGNS = str.maketrans({"“": '"', "”": '"', "„": '"', "‘": "'", "‚": "'", "\u00a0": " ", "\u2009": " ", "\u202f": " ", "⁄": "/"})
_NEAR = 0.68
_ALOUD = {",": "a comma", ";": "a semicolon", ":": "a colon", "]": "a closing bracket"}  # read aloud, a sign among signs says nothing


class ShorthandError(EntryError):
    """A line that can't be read.

    Args:
        text: what was typed.
        position: index of the first character that does not fit.
        span: characters from there that it is about, at least one where there is one.
        reason: what is wrong, in a few words.
        wants: words that would work there.
    """

    def __init__(self, text: str, position: int, span: int, reason: str, wants: Iterable[str] = ()) -> None:
        self.wants = tuple(wants)
        super().__init__(text, position, reason, ", ".join(_ALOUD.get(word, word) for word in self.wants[:6] if not word.startswith(", ")))
        self.span = span

    def __str__(self) -> str:
        tail = f" Try {self.example}." if self.example else ""
        return f"{self.reason[:1].upper()}{self.reason[1:].rstrip('.')}{'' if self.reason.endswith('?') else '.'}{tail}"


class Amount(NamedTuple):
    """A number with what stands behind it.

    Args:
        text: as it was typed, number and unit of length.
        sort: length, angle, share, turns, pitch, or "" for a bare number.
        start: index of its first character.
        end: index behind it.
    """

    text: str
    sort: str
    start: int
    end: int


class Scanner:
    """A cursor on a line.

    Args:
        text: of the line.
        measure: decides the unit of a bare number until the bar has one.
    """

    def __init__(self, text: str, measure: Measure) -> None:
        if len(text) > LONGEST_LINE:
            raise ShorthandError(text, LONGEST_LINE, 1, f"no line has more than {LONGEST_LINE:,} characters")
        self.text = text.translate(_SIGNS)
        self.at, self.stop = 0, len(text)
        self.measure = measure
        self.bar: Section | None = None
        self.wants: tuple[int, list[str]] = (0, [])

    @property
    def thickness(self) -> float:
        """Of the bar, mm; 0 before it is known."""
        return self.bar.thickness if self.bar is not None else 0.0

    # --- where it stands

    def skip(self) -> int:
        """Past white space; the index there."""
        match = _SPACE.match(self.text, self.at, self.stop)
        if match is not None:
            self.at = match.end()
        return self.at

    @property
    def done(self) -> bool:
        """Nothing is left."""
        return self.skip() >= self.stop

    def peek(self) -> str:
        """The next character, "" at the end."""
        return self.text[self.skip()] if not self.done else ""

    def take(self, sign: str) -> bool:
        """Past a sign, where it stands there."""
        if self.peek() == sign:
            self.at += 1
            return True
        return False

    def fault(self, reason: str, wants: Iterable[str] = (), at: int | None = None) -> ShorthandError:
        """Why the line can't be read, at its word."""
        position = self.skip() if at is None else at
        match = _WORD.match(self.text, position) or _QUANTITY.match(self.text, position)
        return ShorthandError(self.text, position, max(len(match[0]) if match else 1, 1), reason, wants)

    def want(self, words: Iterable[str]) -> None:
        """These would work here."""
        here = self.skip()
        if here > self.wants[0]:
            self.wants = here, []
        if here == self.wants[0]:
            self.wants[1].extend(words)

    # --- words

    def word(self) -> str:
        """The next word in small letters, not taken; "" where there is none."""
        match = _WORD.match(self.text, self.skip(), self.stop)
        return match[0].lower() if match else ""

    def phrase(self, known: Mapping[Any, Any], *, take: bool = True) -> Any:
        """What the longest run of words here means, None where it means nothing."""
        start = self.skip()
        words, ends, at = list[str](), list[int](), start
        while len(words) < 8:
            match = _WORD.match(self.text, at, self.stop)
            if match is None:
                break
            words.append(match[0].lower())
            ends.append(match.end())
            space = _SPACE.match(self.text, match.end(), self.stop)
            if space is None:
                break
            at = space.end()
        for count in range(len(words), 0, -1):
            found = known.get(tuple(words[:count]))
            if found is None and count == 1 and "-" in words[0]:
                found = known.get(tuple(words[0].split("-")))
            if found is not None:
                if take:
                    self.at = ends[count - 1]
                return found
        return None

    def fillers(self) -> bool:
        """Past words that say nothing; whether there were any."""
        start = self.skip()
        while (word := self.word()) in FILLERS and word:
            self.at += len(word)
        while self.peek() == "×":
            self.at += 1
        return self.at > start

    def pass_word(self, *words: str) -> str:
        """Past one of these words; the word, or ""."""
        word = self.word()
        if word in words:
            self.at += len(word)
            return word
        return ""

    def quoted(self) -> str | None:
        """Text between quotes, a quote in it written twice; None where none begins."""
        if self.peek() != '"':
            return None
        start, found = self.at, list[str]()
        self.at += 1
        while True:
            end = self.text.find('"', self.at, self.stop)
            if end < 0:
                raise self.fault("this quotation does not end", ('"',), start)
            found.append(self.text[self.at : end])
            self.at = end + 1
            if self.text[end + 1 : end + 2] != '"':
                return '"'.join(found)
            self.at += 1

    def enclosed(self) -> str | None:
        """Text between round brackets; None where none begins."""
        if self.peek() != "(":
            return None
        start, end = self.at, self.text.find(")", self.at, self.stop)
        if end < 0:
            raise self.fault("this bracket does not end", (")",), start)
        self.at = end + 1
        return self.text[start + 1 : end]

    # --- numbers

    def quantity(self) -> Amount | None:
        """The next number with its unit, not taken; None where there is none."""
        start = self.skip()
        match = _QUANTITY.match(self.text, start, self.stop)
        if match is None:
            return None
        text, end = match[0].strip(), match.end()
        sort = next(
            (
                s
                for s, group in (("length", "unit"), ("angle", "angle"), ("share", "share"), ("turns", "turns"), ("pitch", "pitch"))
                if match[group]
            ),
            "",
        )
        if match["feet"] and not sort:
            sort = "length"
        if not sort:
            end = match.end("number")
            text = self.text[start:end].strip()
            chain = _CHAIN.match(self.text, end, self.stop)
            if chain is not None and "/" not in text:
                text, sort = f"{text} {chain['unit']}", "length"
        elif sort == "turns":
            text = match["number"]
        return Amount(text, sort, start, end)

    def number_behind(self) -> bool:
        """Whether behind the word at the cursor a number follows."""
        start = self.skip()
        self.at += len(self.word())
        found = self.quantity() is not None
        self.at = start
        return found

    def length(self, q: Amount) -> float:
        """A quantity as a length, mm."""
        try:
            return parse_length(q.text, unit=self.measure.unit, thickness=self.thickness or None)
        except EntryError as error:
            raise ShorthandError(self.text, q.start, q.end - q.start, error.reason, ("40 mm", "1 1/2 in")) from None

    def number(self, q: Amount) -> float:
        """A quantity as a plain number, in the unit that was typed."""
        bare = (
            q.text.lstrip("-−")
            .rstrip("%°")
            .removesuffix("percent")
            .removesuffix("degrees")
            .removesuffix("degree")
            .removesuffix("deg")
            .strip()
        )
        try:
            value = parse_number(bare)
        except EntryError as error:
            raise ShorthandError(self.text, q.start, q.end - q.start, error.reason, ("1.75",)) from None
        return -value if q.text[:1] in ("-", "−") else value

    def section_ahead(self) -> bool:
        """A section begins here: one or two sizes and the word of its shape."""
        return self._section_end() is not None

    def _section_end(self) -> int | None:
        q = self.quantity()
        if q is None or q.sort not in ("", "length"):
            return None
        by = _BY.match(self.text, q.end, self.stop)
        at = q.end
        if by is not None:
            second = _QUANTITY.match(self.text, by.end(), self.stop)
            if second is not None:
                at = second.end("unit") if second["unit"] else second.end("number")
        space = _SPACE.match(self.text, at, self.stop)
        match = _WORD.match(self.text, space.end() if space else at, self.stop)
        if match is None or match[0].lower() not in _SHAPE_WORDS:
            return None
        further = _ROUND.match(self.text, match.end(), self.stop) if match[0].lower() == "half" else None
        return further.end() if further is not None else match.end()

    def section(self, *, bare_flat: bool = False) -> Section:
        """The section that stands here, with its corners.

        Args:
            bare_flat: two sizes without a word are a flat.
        """
        start, end = self.skip(), self._section_end()
        if end is None and bare_flat:
            q = self.quantity()
            by = _BY.match(self.text, q.end, self.stop) if q is not None else None
            second = _QUANTITY.match(self.text, by.end(), self.stop) if by is not None else None
            end = None if second is None else second.end("unit") if second["unit"] else second.end("number")
        if end is None:
            raise self.fault("a section is expected here, sizes and shape", ("12 mm sq", "1/2 rd", "25 x 6 mm flat"))
        self.at = end
        text = self.text[start:end]
        corner = self.pass_word("corners", "corner", "broken")
        if corner:
            q = self.quantity()
            if q is None:
                raise self.fault("the size of its corners is expected here", ("2 mm",))
            text, self.at = f"{text} {corner} {q.text}", q.end
        try:
            return parse_section(text, unit=self.measure.unit)
        except EmberError as error:
            reason = error.reason if isinstance(error, EntryError) else str(error)
            raise ShorthandError(self.text, start, self.at - start, reason, ("12 mm sq", "1/2 rd", "25 x 6 mm flat")) from None

    def line_unit(self, text: str) -> None:
        """From here on a bare number is in the unit that the bar was given in."""
        if re.search(r"mm|cm", text):
            self.measure = Measure("mm")
        elif re.search(r"\"|″|”|''|in(?:ch|ches)?\b|\d/\d|[½¼¾⅛⅜⅝⅞]", text):
            self.measure = Measure("in")


def nearest(word: str, known: Iterable[str]) -> tuple[str, ...]:
    """Known words that are spelled nearly so, best first.

    >>> nearest("tapr", ("taper", "twist"))
    ('taper',)
    """
    return tuple(difflib.get_close_matches(word, list(known), 3, _NEAR))
