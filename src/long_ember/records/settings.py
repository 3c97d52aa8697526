"""What belongs to the person at this machine, whatever book is open."""

from __future__ import annotations

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
    """

    theme: str = "light"
    books: tuple[str, ...] = ()
    instruments: tuple[tuple[str, str], ...] = ()

    def opened(self, book: str) -> Settings:
        """With a book at the head of those opened last."""
        return Settings(self.theme, (book, *(b for b in self.books if b != book))[:RECENT], self.instruments)
