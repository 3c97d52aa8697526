"""What jobs draw on, gathered from the book."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from long_ember.document.jobs import Holdings
from long_ember.features import Piece
from long_ember.shop import Assembly, CutSheet, Job, LogEntry, Price, RackItem, Shop, calibrated
from long_ember.storage.book import Book

__all__ = ["holdings_of", "own_sheet"]


def holdings_of(book: Book, shop: Shop, jobs: Mapping[str, Job], read: Callable[[str], Piece] | None = None) -> Holdings:
    """What jobs draw on, read from a book.

    Args:
        book: to read from.
        shop: its shop.
        jobs: by id.
        read: a piece by its id, where there is a newer one than on disk.

    Raises:
        EmberError: a piece can't be read.
    """
    assemblies = {i: a for i, a in book.records("assembly").items() if isinstance(a, Assembly)}
    wanted = [line.piece for job in jobs.values() for line in job.lines]
    wanted += [
        part.piece for job in jobs.values() for row in job.sets if row.assembly in assemblies for part in assemblies[row.assembly].parts
    ]
    pieces: dict[str, Piece] = {i: (read or book.piece)(i) for i in dict.fromkeys(wanted) if book.entry(i) is not None}
    rack = {i: r for i, r in book.records("rack").items() if isinstance(r, RackItem)}
    prices = [p for p in book.records("price").values() if isinstance(p, Price)]
    log = [e for e in book.records("log").values() if isinstance(e, LogEntry)]
    return Holdings(pieces, assemblies, rack, prices, shop, calibrated(shop.bench, log), log)


def own_sheet(book: Book, jobs: Mapping[str, Job]) -> dict[str, CutSheet]:
    """The cut list of just these jobs that somebody works from, by its id; empty where there is none."""
    found = {i: s for i, s in book.records("cuts").items() if isinstance(s, CutSheet) and {r.job for r in s.jobs} == set(jobs)}
    return dict([*found.items()][:1])
