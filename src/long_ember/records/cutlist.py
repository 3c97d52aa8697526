"""A cut list that somebody works from: bars with their pieces, what is locked, what is sawn."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace
from functools import cached_property

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.materials import MATERIALS
from long_ember.sections import Section, square

__all__ = ["CutPiece", "JobRef", "SavedBar", "SavedCutList", "promised_bars"]

_MATERIALS = tuple((m.key, m.title) for m in MATERIALS.values())


@dataclass(frozen=True, kw_only=True)
class JobRef:
    """One of the jobs on a cut list, by its id in the book."""

    job: str = fields.record("Job", "job")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class CutPiece:
    """One blank on a bar.

    Args:
        piece: id of the piece in the book.
        job: id of the job that it is for.
        name: of the piece.
        length: mm.
        held: forged on the bar, and cut off it hot.
        loss: mm lost where it is cut off.
        sawn: it is ticked off.
    """

    piece: str = fields.record("Piece", "piece")
    job: str = fields.record("Job", "job")
    name: str = fields.text("Name")
    length: float = fields.length("Length", 100.0)
    held: bool = fields.flag("Forged on the bar", False)
    loss: float = fields.length("Cut", 2.0, zero=True)
    sawn: bool = fields.flag("Sawn", False)

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def same(self) -> tuple[str, float, bool, float]:
        """What makes two blanks alike, ticked off or not and whatever job they are for."""
        return self.piece, self.length, self.held, self.loss


@dataclass(frozen=True, kw_only=True)
class SavedBar:
    """One bar of a cut list.

    Args:
        material: key of `MATERIALS`.
        section: of the bar.
        rack: id of its entry on the rack, "" for a bought one.
        source: where it comes from, in words.
        length: mm.
        price: of one in the shop's money, 0 on the rack.
        locked: planning anew leaves it as it is.
        cuts: in the order they are sawn.
    """

    material: str = fields.choice("Material", "mild-steel", *_MATERIALS)
    section: Section = fields.section("Section", square(12.0))
    rack: str = fields.record("On the rack", "rack")
    source: str = fields.text("From")
    length: float = fields.length("Length", 3000.0)
    price: float = fields.number("Price", 0.0, low=0.0, high=1e6)
    locked: bool = fields.flag("Locked", False)
    cuts: tuple[CutPiece, ...] = fields.rows("Pieces", CutPiece)

    def __post_init__(self) -> None:
        check_fields(self)

    @cached_property
    def tally(self) -> Counter[tuple[str, str, str, float]]:
        """How many blanks of each piece, job, name and length (mm), in the order they first stand on the bar; kept with the bar."""
        return Counter((c.piece, c.job, c.name, c.length) for c in self.cuts)

    @property
    def offcut(self) -> bool:
        """It lies on the rack as an offcut, see `RackItem.words`."""
        return bool(self.rack) and self.source.startswith("offcut")

    @property
    def begun(self) -> bool:
        """Something of it is sawn: it can no longer be put back."""
        return any(c.sawn for c in self.cuts)

    @property
    def kept(self) -> bool:
        """Planning anew leaves it as it is."""
        return self.locked or self.begun


@dataclass(frozen=True, kw_only=True)
class SavedCutList:
    """A cut list.

    Args:
        name: what it is called.
        state: planned, or sawn and off the rack.
        jobs: whose pieces are on it.
        bars: in the order they are sawn.
    """

    name: str = fields.text("Cut list", "Cut list")
    state: str = fields.choice("State", "planned", ("planned", "planned"), ("sawn", "sawn"))
    jobs: tuple[JobRef, ...] = fields.rows("Jobs", JobRef)
    bars: tuple[SavedBar, ...] = fields.rows("Bars", SavedBar)

    def __post_init__(self) -> None:
        check_fields(self)

    def with_bar(self, index: int, bar: SavedBar | None) -> SavedCutList:
        """The same with another bar in a place; None takes it out."""
        return replace(self, bars=(*self.bars[:index], *(() if bar is None else (bar,)), *self.bars[index + 1 :]))


def sawn_lengths(records: Iterable[object], piece_id: str) -> tuple[float, ...]:
    """Return the lengths at which blanks of a piece are ticked as sawn, mm, each once."""
    sheets = (s for s in records if isinstance(s, SavedCutList))
    return tuple(dict.fromkeys(c.length for s in sheets for bar in s.bars for c in bar.cuts if c.piece == piece_id and c.sawn))


def promised_bars(records: Iterable[object]) -> Counter[str]:
    """Bars of the rack, by the id of their entry, that planned cut lists count on."""
    sheets = (s for s in records if isinstance(s, SavedCutList) and s.state == "planned")
    return Counter(bar.rack for s in sheets for bar in s.bars if bar.rack)
