"""What jobs draw on, gathered from the book."""

from __future__ import annotations

from collections.abc import Callable, Generator, Mapping, Sequence
from typing import Protocol, TypeVar

from long_ember.features import Piece
from long_ember.jobs.plan import JobPlan, plan_jobs
from long_ember.jobs.problems import Holdings
from long_ember.learning import calibrated
from long_ember.portions import all_portions
from long_ember.records import Assembly, Job, LogEntry, Price, RackItem, SavedCutList, Shop, promised_bars
from long_ember.storage.book import Book

__all__ = ["gathering", "holdings_of", "job_plan", "sheets_of"]


_R = TypeVar("_R")


class RecordsOf(Protocol):
    """Gives all records of a class, by id."""

    def __call__(self, cls: type[_R]) -> Mapping[str, _R]: ...


def holdings_of(book: Book, shop: Shop, jobs: Mapping[str, Job]) -> Holdings:
    """What jobs draw on, read from a book, see `gathering`."""
    return all_portions(gathering(book, shop, jobs))


def gathering(
    book: Book, shop: Shop, jobs: Mapping[str, Job], *, read: Callable[[str], Piece] | None = None, log: Sequence[LogEntry] | None = None,
    records: RecordsOf | None = None,
) -> Generator[None, None, Holdings]:  # fmt: skip
    """What jobs draw on, read from a book, a piece at a time.

    Args:
        book: to read from.
        shop: its shop.
        jobs: by id.
        read: a piece by its id, where there is a newer one than on disk.
        log: where it is known already: a long one takes a while to read.
        records: of a kind, where there are newer ones than on disk.

    Raises:
        EmberError: a piece can't be read.
    """
    records = records or book.records
    assemblies = dict(records(Assembly))
    wanted = [line.piece for job in jobs.values() for line in job.lines]
    wanted += [
        part.piece for job in jobs.values() for row in job.sets if row.assembly in assemblies for part in assemblies[row.assembly].parts
    ]
    known = book.known(wanted)
    pieces: dict[str, Piece] = {}
    for i in dict.fromkeys(wanted):
        if i in known:
            pieces[i] = (read or book.piece)(i)
            yield
    rack = dict(records(RackItem))
    prices = list(records(Price).values())
    if log is None:
        log = list(records(LogEntry).values())
    sheets = list(records(SavedCutList).values())
    mine = [s for s in sheets if not jobs.keys().isdisjoint(r.job for r in s.jobs)]
    promised = promised_bars(s for s in sheets if s not in mine)
    done = [s for s in mine if s.state == "sawn"]
    return Holdings(pieces, assemblies, rack, prices, shop, calibrated(shop.forge, log, shop.smith), log, promised, tuple(b for s in done for b in s.bars),
                    frozenset(r.job for s in done for r in s.jobs))  # fmt: skip


def sheets_of(records: RecordsOf, jobs: Mapping[str, Job]) -> dict[str, SavedCutList]:
    """Cut lists of just these jobs, by id."""
    return {i: s for i, s in records(SavedCutList).items() if {r.job for r in s.jobs} == jobs.keys()}


def job_plan(jobs: Mapping[str, Job], holdings: Holdings, sheets: Mapping[str, SavedCutList]) -> tuple[str, JobPlan]:
    """What follows from jobs: the cut list that somebody works from, or one for what is not sawn yet, or the one by which all is sawn.

    Args:
        jobs: by id.
        holdings: what they draw on.
        sheets: their cut lists, see `sheets_of`.

    Returns:
        The id of the cut list in the book, "" where it is not kept there, and the plan.

    Raises:
        NoAnswer: a job can't be cut.
    """
    for identity, sheet in sheets.items():
        if sheet.state == "planned":
            return identity, plan_jobs(jobs, holdings, own=sheet)
    fresh = plan_jobs(jobs, holdings)
    if sheets and not fresh.cut_list.bars:
        identity, sheet = [*sheets.items()][-1]
        return identity, plan_jobs(jobs, holdings, own=sheet)
    return "", fresh
