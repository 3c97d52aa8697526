"""Errors carry data; the interface words the message.

Every error of the application derives from `EmberError`, so that a caller can catch all of
them, and each subclass keeps the facts (text, position, path) instead of a finished sentence.
"""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["BookError", "EmberError", "EntryError", "FileProblem", "NoAnswer", "PieceFileError", "SaveError"]


class EmberError(Exception):
    """Base of all errors raised on purpose by Long Ember."""


class EntryError(EmberError):
    """A typed entry that can't be read.

    Args:
        text: what was typed.
        position: index of the first character that does not fit.
        reason: what is wrong, in a few words.
        example: an entry that works.
    """

    def __init__(self, text: str, position: int, reason: str, example: str) -> None:
        super().__init__(text, position, reason, example)
        self.text, self.position, self.reason, self.example = text, position, reason, example

    def __str__(self) -> str:
        where = f" (at character {self.position + 1})" if self.text.strip() else ""
        return f"{self.reason[:1].upper()}{self.reason[1:]}{where}. Try {self.example}"


class NoAnswer(EmberError):
    """Dimensions for which the arithmetic has no positive answer.

    Args:
        feature_id: the feature, or "" when the error is raised before it is known.
        reason: why there is none.
        remedy: what would work.
    """

    def __init__(self, reason: str, remedy: str, feature_id: str = "") -> None:
        super().__init__(reason, remedy, feature_id)
        self.reason, self.remedy, self.feature_id = reason, remedy, feature_id

    def __str__(self) -> str:
        return f"{self.reason} {self.remedy}".strip()


@dataclass(frozen=True, slots=True, order=True)
class FileProblem:
    """One thing wrong with a file: where (`$.features[2].length`) and what."""

    path: str
    message: str

    def __str__(self) -> str:
        return f"{self.path}: {self.message}"


class PieceFileError(EmberError):
    """A file that can't be opened as a piece, with everything that is wrong with it."""

    def __init__(self, source: str, problems: tuple[FileProblem, ...]) -> None:
        super().__init__(source, problems)
        self.source, self.problems = source, problems

    def __str__(self) -> str:
        return "\n".join([f"{self.source} can't be opened; nothing was changed."] + [f"  {p}" for p in self.problems])


class SaveError(EmberError):
    """A file that could not be written; what was there before is untouched."""

    def __init__(self, source: str, reason: str) -> None:
        super().__init__(source, reason)
        self.source, self.reason = source, reason

    def __str__(self) -> str:
        return f"{self.source} was not saved: {self.reason}. What was there before is untouched."


class BookError(EmberError):
    """A book that can't be read or written now.

    Args:
        source: its path.
        reason: what stands in the way.
        remedy: what to do about it.
    """

    def __init__(self, source: str, reason: str, remedy: str = "") -> None:
        super().__init__(source, reason, remedy)
        self.source, self.reason, self.remedy = source, reason, remedy

    def __str__(self) -> str:
        return f"{self.source}: {self.reason}. {self.remedy}".strip()
