"""Errors carry data; the interface words the message.

Every error of the application derives from `EmberError`, so that a caller can catch all of
them, and each subclass keeps the facts (text, position, path) instead of a finished sentence.
"""

from __future__ import annotations

import traceback
from pathlib import Path

from long_ember.frozen import dataclass

__all__ = ["BookError", "EmberError", "EntryError", "FileProblem", "NoAnswer", "PieceFileError", "SaveError", "fault_places", "fault_words"]

_HERE = Path(__file__).parent


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
        kind: damaged (what is in the file is not what was written), busy (another program has it), refused (file, folder or disk don't
            allow it now), moved (another file is where the book was), "" for anything else.
    """

    def __init__(self, source: str, reason: str, remedy: str = "", kind: str = "") -> None:
        super().__init__(source, reason, remedy, kind)
        self.source, self.reason, self.remedy, self.kind = source, reason, remedy, kind

    def __str__(self) -> str:
        return f"{self.source}: {self.reason}. {self.remedy}".strip()


def fault_places(error: BaseException) -> list[str]:
    """Where an unexpected error arose, outermost call first: files of this program, functions and lines, and nothing of what they worked on."""
    found = []
    for frame in traceback.extract_tb(error.__traceback__):
        path = Path(frame.filename)
        name = path.relative_to(_HERE).as_posix() if path.is_relative_to(_HERE) else f"…/{path.name}"
        found.append(f"{name}, line {frame.lineno}, {frame.name}")
    return found


def fault_words(error: BaseException) -> str:
    """An unexpected error in a few words: its kind and place. Its own message is left out, since it may hold what was typed."""
    places = [place for place in fault_places(error) if not place.startswith("…")]
    return f"{type(error).__name__} in {places[-1]}" if places else type(error).__name__
