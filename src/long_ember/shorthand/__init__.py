"""A whole piece as one line of a smith's shorthand, both ways; pieces to begin with (docs/shorthand.md)."""

from long_ember.shorthand.carrying import carried
from long_ember.shorthand.drafts import Proposed
from long_ember.shorthand.fitting import BarFit, piece_fit, start_fits
from long_ember.shorthand.reading import Written, completions, proposed_words, read_line, settled
from long_ember.shorthand.scanner import ShorthandError
from long_ember.shorthand.starts import (
    askable,
    asked,
    filled,
    found_starts,
    names_start,
    own_start,
    proposed_bar,
    read_any_line,
    start_words,
    started,
)
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
    "names_start",
    "own_start",
    "piece_fit",
    "proposed_bar",
    "proposed_words",
    "read_any_line",
    "read_line",
    "settled",
    "start_fits",
    "start_words",
    "started",
    "write_features",
    "write_line",
]
