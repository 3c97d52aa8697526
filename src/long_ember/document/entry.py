"""The address of a field in the open piece, so that cards, drawing and command line agree."""

from __future__ import annotations

import contextlib
from typing import Any

from long_ember.document.edits import Edit, set_field, set_part, set_piece
from long_ember.document.laying import change_standing
from long_ember.errors import EmberError, EntryError
from long_ember.features import Piece
from long_ember.fields import Field, specs
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Section
from long_ember.units import Measure, parse_length

__all__ = ["FieldAddress"]


@dataclass(frozen=True, slots=True)
class FieldAddress:
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
        feature = piece.feature(self.owner)
        if feature is None or self.name in specs(feature):
            return feature
        standing = piece.stands(self.owner)
        return standing if standing is not None and self.name in specs(standing) else None

    def gone(self, piece: Piece) -> bool:
        """Whether there is no such field any more: its shape was taken out, or another has taken its place."""
        return self.model(piece) is None

    def spec(self, piece: Piece) -> Field:
        """How the field is declared; of one that is not `gone`."""
        return specs(self.model(piece))[self.name]

    def text(self, piece: Piece, measure: Measure) -> str:
        """The value as a person would type it."""
        return self.spec(piece).show(getattr(self.model(piece), self.name), measure)

    def edit(self, piece: Piece, text: str, measure: Measure, *, gesture: str = "") -> Edit:
        """The edit that a typed text asks for.

        Raises:
            EntryError: the text can't be read.
            NoAnswer: it can, but the piece can't be made like that.
        """
        value = self._read(piece, text, measure)
        if text.strip() == self.text(piece, measure):
            value = getattr(self.model(piece), self.name)  # what is shown is rounded; leaving it alone changes nothing
        if self.part:
            return set_part(piece, self.owner, self.name, value, gesture=gesture)
        if self.owner and piece.index(self.owner) < 0:
            return change_standing(piece, self.owner, self.name, value, gesture=gesture)
        if self.owner:
            return set_field(piece, self.owner, self.name, value, gesture=gesture)
        return set_piece(piece, self.name, value, gesture=gesture)

    def _read(self, piece: Piece, text: str, measure: Measure) -> Any:
        """The value of a typed text; a bare size of a section keeps its shape."""
        spec, kept = self.spec(piece), getattr(self.model(piece), self.name)
        try:
            return spec.read(text, measure, piece.bar.thickness)
        except EntryError:
            if not isinstance(kept, Section) or SHAPES[kept.shape].two_sizes:
                raise
            with contextlib.suppress(EmberError):
                return spec.with_size(kept, parse_length(text, unit=measure.unit))
            raise
