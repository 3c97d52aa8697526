"""A whole piece as one line of a smith's shorthand, both ways (docs/shorthand.md)."""

from long_ember.shorthand.reading import Proposed, Written, completions, proposed_words, read_line, settled
from long_ember.shorthand.scanner import ShorthandError
from long_ember.shorthand.writing import write_line

__all__ = ["Proposed", "ShorthandError", "Written", "completions", "proposed_words", "read_line", "settled", "write_line"]
