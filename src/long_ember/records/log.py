"""What really happened to a piece."""

from __future__ import annotations

from datetime import date

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass

__all__ = ["LogEntry"]


@dataclass(frozen=True, kw_only=True)
class LogEntry:
    """One piece, forged.

    Args:
        piece: id of the piece in the book.
        name: what it was called.
        number: which of its kind.
        day: it was forged; None where nobody wrote it down.
        heats: it took; 0 when nobody counted.
        minutes: it took; 0 when nobody looked.
        planned_heats: the plan said.
        planned_minutes: the plan said.
        factor: by how much the plan was already lengthened by earlier entries.
        note: how it came out.
    """

    piece: str = fields.record("Piece", "piece")
    name: str = fields.text("Name")
    number: int = fields.count("Which of its kind", 1, high=10000)
    day: date | None = fields.day("Day")
    heats: int = fields.count("Heats it took", 0, low=0, high=1000, tip="0 when nobody counted.")
    minutes: float = fields.number("Minutes it took", 0.0, low=0.0, high=1e4, unit="min", tip="At fire and anvil; 0 when nobody looked.")
    planned_heats: int = fields.count("Heats planned", 0, low=0, high=1000)
    planned_minutes: float = fields.number("Minutes planned", 0.0, low=0.0, high=1e5, unit="min")
    factor: float = fields.number("Plan lengthened by", 1.0, low=0.01, high=100.0)
    note: str = fields.text("How it came out")

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def ratio(self) -> float | None:
        """Heats, or else minutes, taken ÷ planned without earlier lessons; None when neither is known."""
        if self.heats and self.planned_heats:
            return self.heats / self.planned_heats * self.factor
        if self.minutes and self.planned_minutes:
            return self.minutes / self.planned_minutes * self.factor
        return None
