"""Operations in the smith's own words: what, where, with what, how long at which size, hot, black or cold, and what comes before or after."""

from __future__ import annotations

from collections.abc import Iterable
from fractions import Fraction
from functools import cached_property

from long_ember import fields
from long_ember.errors import EntryError
from long_ember.features.base import Operation, Place
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.units import own_words, say

__all__ = ["BLACK", "WHOLE", "OwnWork", "own_marks", "read_shares"]

WHOLE = ""  # id in the place of a feature's: the whole piece
BLACK = (560.0, 420.0)  # °C, from where the glow goes to above blue brittleness
# key: words, and the power of the size that its time grows with.
_WAYS = {
    "push": ("pushed: fuller, spring fuller, set hammer", 3),
    "sink": ("sunk: punch, stamp", 3),
    "chisel": ("chiselled: lines, veins", 2),
    "turn": ("turned or set: as long at any size", 0),
    "other": ("other work on its surface", 2),
}
_LEAST, _MOST = 0.05, 20.0  # times the size at which it was done


def read_shares(text: str) -> tuple[float, ...]:
    """Shares of a length as they are typed: `1/4, 0.5, 66%`.

    Raises:
        EntryError: naming the one that can't be read.

    >>> read_shares("1/4, 50%; 0.75")
    (0.25, 0.5, 0.75)
    """
    found = []
    for part in text.replace(";", ",").split(","):
        word = part.strip()
        if not word:
            continue
        try:
            share = float(Fraction(word.removesuffix("%").strip()) / (100 if word.endswith("%") else 1))
        except (ValueError, ZeroDivisionError) as error:
            raise EntryError(text, text.index(word), f"{word} is no share of a length", "1/4, 1/2, 2/3") from error
        if not 0 <= share <= 1:
            raise EntryError(text, text.index(word), f"{word} lies outside the length", "1/4, 1/2, 2/3")
        found.append(share)
    return tuple(found)


@dataclass(frozen=True, kw_only=True)
class OwnWork:
    """One operation that the smith describes.

    Args:
        id: unique within its piece; pins and overrules refer to it.
        name: what it is called.
        words: what to do.
        on: id of the feature that it is done on, `WHOLE` for the whole piece.
        way: how its time grows with the size, see `_WAYS`.
        tools: to have at hand, with commas.
        minutes: at the anvil or the bench as it was done, 0 where blows are counted.
        blows: as they were counted.
        size: of the bar that it was done on, mm.
        heat: hot, black or cold.
        stop: °C below which it is left, where it is hot.
        after: id of a feature or of another own operation that comes first, "" for what it is done on.
        before: id of what follows, "" for nothing.
        shares: marks at shares of its feature's length, as text.
        check: what to look at when it is done: symmetry, a size.
    """

    id: str = fields.text("Id")
    name: str = fields.text("Name", "Own work", tip="In a word or two: Cheeks, Eyes, Mane.")
    words: str = fields.text("What to do", tip="As you would tell it to somebody at the anvil.")
    on: str = fields.text("On")
    way: str = fields.choice("Kind", "push", *((key, words) for key, (words, _n) in _WAYS.items()))
    tools: str = fields.text("Tools", tip="With commas between.")
    minutes: float = fields.number(
        "Minutes", 1.0, low=0.0, high=600.0, unit="min", tip="At the anvil, as you did it; 0 where you count blows."
    )
    blows: int = fields.count("Blows", 0, low=0, high=5000, tip="Where you count them rather than minutes.")
    size: float = fields.length("On a bar of", 12.0, tip="The size that you did it at: the time grows with it.")
    heat: str = fields.choice("Done", "hot", ("hot", "hot"), ("black", "at a black heat"), ("cold", "cold"))
    stop: float = fields.number("Stop below", 800.0, low=450.0, high=1250.0, unit="°C", tip="Of mild steel; where it is done hot.")
    after: str = fields.text("After")
    before: str = fields.text("Before")
    shares: str = fields.text("Marks at", tip="Shares of the length, as 1/4, 1/2, 2/3: drawn on the bar and in the marks.")
    check: str = fields.text("Check", tip="What to look at when it is done: both sides alike, a size.")

    def __post_init__(self) -> None:
        check_fields(self)
        read_shares(self.shares)

    @cached_property
    def marked(self) -> tuple[float, ...]:
        """Where it wants marks, as shares of the length of what it is done on."""
        return read_shares(self.shares)

    @property
    def told(self) -> str:
        """What to do, or at least what it is called."""
        return self.words.strip() or f"{self.name.strip() or 'Own work'}."

    def grown(self, section_size: float) -> float:
        """Times as long as it took where it was done, on a section of another size (root of its area, mm)."""
        ratio = min(max(section_size / self.size, _LEAST), _MOST) if self.size else 1.0
        return float(ratio ** _WAYS[self.way][1])

    def operation(self, place: Place) -> Operation:
        """As the planner takes it, at the size of the bar there."""
        grown = self.grown(place.bar.area**0.5)
        cold = self.heat == "cold"
        stop = 0 if cold else round(BLACK[1]) if self.heat == "black" else round(self.stop)
        tools = tuple(t.strip() for t in self.tools.split(",") if t.strip())
        line = say(own_words(self.told))
        return Operation(
            "file" if cold else "own", line, "", "time", stop, tools, seconds=60 * self.minutes * grown, cold=cold, way="own",
            blows=self.blows * grown, own=self.id, called=self.name.strip() or "Own work", check=self.check.strip(), black=self.heat == "black",
        )  # fmt: skip


def own_marks(own: Iterable[OwnWork]) -> tuple[tuple[str, float, str], ...]:
    """Marks that own operations want: id of the feature, share of its length, what is marked."""
    return tuple((work.on, share, f"pencil: {work.name.strip().lower()}") for work in own for share in work.marked)
