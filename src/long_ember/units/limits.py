"""The least and the greatest of every size, in one place. mm."""

from __future__ import annotations

__all__ = ["LEAST", "LONGEST_TEXT", "MOST", "THICKEST"]

LEAST = 0.01  # nothing at a forge is measured finer
MOST = 1e5  # 100 m: no bar is longer
THICKEST = 1e4  # of a section: no bar is wider than 10 m
LONGEST_TEXT = 100_000  # characters of a note
