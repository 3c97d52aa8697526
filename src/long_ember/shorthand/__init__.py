"""A whole piece as one line of a smith's shorthand, both ways; pieces to begin with (docs/shorthand.md)."""

from long_ember.shorthand.carrying import carried
from long_ember.shorthand.drafts import Proposed
from long_ember.shorthand.fitting import BarFit, piece_fit, start_fits
from long_ember.shorthand.reading import Written, completions, proposed_words, read_line, settled
from long_ember.shorthand.scanner import ShorthandError
from long_ember.shorthand.starts import askable, asked, filled, found_starts, own_start, proposed_bar, started
from long_ember.shorthand.writing import write_features, write_line

__all__ = [
    "BarFit",
    "Proposed",
    "ShorthandError",
    "Written",
    "askable",
    "asked",
    "carried",
    "completions",
    "filled",
    "found_starts",
    "own_start",
    "piece_fit",
    "proposed_bar",
    "proposed_words",
    "read_line",
    "settled",
    "start_fits",
    "started",
    "write_features",
    "write_line",
]
