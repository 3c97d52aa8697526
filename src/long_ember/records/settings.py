"""What belongs to the person at this machine, whatever book is open."""

from __future__ import annotations

from dataclasses import replace

from long_ember.frozen import dataclass

__all__ = ["RECENT", "Settings"]

RECENT = 8  # books


@dataclass(frozen=True, slots=True)
class Settings:
    """What is kept between sessions.

    Args:
        theme: light or dark.
        books: paths of the books opened last, newest first.
        instruments: kinds of instruments, each with its port.
        printing: paper, orientation and what goes on, by name, as it was the last time.
    """

    theme: str = "light"
    books: tuple[str, ...] = ()
    instruments: tuple[tuple[str, str], ...] = ()
    printing: tuple[tuple[str, str], ...] = ()

    def opened(self, book: str) -> Settings:
        """With a book at the head of those opened last."""
        return replace(self, books=(book, *(b for b in self.books if b != book))[:RECENT])
