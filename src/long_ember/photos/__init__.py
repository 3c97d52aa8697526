"""A piece from a photo or drawing: its scale, the middle of the strip of steel, what that is bent and drawn to, and how far a piece strays from it."""

from long_ember.photos.fitted import TracedPiece, outlines_on, piece_of, strays, strays_of
from long_ember.photos.picture import Grey, Ground, grey_of, levelled, scaled_by
from long_ember.photos.strip import StripPoint, follow_strip, scaled_by_bar

__all__ = [
    "Grey",
    "Ground",
    "StripPoint",
    "TracedPiece",
    "follow_strip",
    "grey_of",
    "levelled",
    "outlines_on",
    "piece_of",
    "scaled_by",
    "scaled_by_bar",
    "strays",
    "strays_of",
]
