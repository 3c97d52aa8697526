"""Commands on the book: list, show, export, import, check, backup."""

from __future__ import annotations

import contextlib
import json
import time
from argparse import Namespace
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any

from long_ember.cli.speak import complain, print_lines
from long_ember.errors import BookError, EmberError, SaveError
from long_ember.features import Piece
from long_ember.records import RECORDS, Job, Shop
from long_ember.storage import (
    Entry,
    Opened,
    back_up,
    backups,
    book_path,
    bring_in,
    look_over,
    looked_at,
    open_book,
    pack,
    parcel_text,
    parcel_zip,
    read_parcel_file,
    read_piece,
    read_table,
    record_parcel,
    write_atomic,
)
from long_ember.storage.database import integrity_problem, transaction
from long_ember.units import Measure

__all__ = ["BUSY", "COMMANDS", "UNSOUND", "BusyError", "book_of", "found_piece", "measure_of", "piece_file", "told"]

UNSOUND, BUSY = 3, 4  # exit codes, beside 0 done, 1 not done, 2 wrong arguments


class BusyError(EmberError):
    """The book may only be looked at."""


@contextlib.contextmanager
def book_of(given: Namespace, *, write: bool = False) -> Iterator[Opened]:
    """The book asked for, put away afterwards.

    Args:
        given: the arguments.
        write: make, repair or bring it up to date where that is needed, as the window would; otherwise it is not touched.

    Raises:
        EmberError: there is none, or it can't be read; `BusyError` when it may only be looked at.
    """
    path: Path = given.book or book_path()
    if not write and not path.exists():
        raise EmberError(f"There is no book at {path} yet: open the window, or bring something in.")
    opened = open_book(path) if write else looked_at(path)
    try:
        for words in opened.notices:
            complain(words)
        if write and opened.read_only:
            raise BusyError(opened.read_only)
        yield opened
    finally:
        opened.close()


def found_piece(opened: Opened, words: str) -> Entry:
    """A piece by its id or its name.

    Raises:
        EmberError: there is none, or more than one.
    """
    entries = opened.reader().entries()
    hits = [e for e in entries if e.id == words] or [e for e in entries if e.name.lower() == words.lower() and e.state != "trashed"]
    if not hits:
        raise EmberError(f"No piece in {opened.path} has the id or name {words!r}. `long-ember list` shows them.")
    if len(hits) > 1:
        raise EmberError(f"{len(hits)} pieces are called {words!r}: give an id, {' or '.join(e.id for e in hits)}.")
    return hits[0]


def measure_of(opened: Opened, given: Namespace) -> Measure:
    """The shop's units, or inches where they are asked for."""
    shop = opened.book.shop if opened.book is not None else None
    unit = "in" if getattr(given, "inch", False) else shop.unit if shop else "mm"
    return Measure(unit, int(shop.denominator) if shop else 16, ascii=True)


def told(given: Namespace, data: Any, text: str) -> None:
    """What was done: data for another program, or words."""
    print_lines(json.dumps(data, ensure_ascii=False, indent=1) if given.json else text)


def _day(seconds: float) -> str:
    return time.strftime("%Y-%m-%d %H:%M", time.localtime(seconds))


def _entry_data(entry: Entry) -> dict[str, Any]:
    return {
        "id": entry.id,
        "name": entry.name,
        "state": entry.state,
        "tags": list(entry.tags),
        "parent": entry.parent,
        "changed": entry.changed,
    }


def _list(given: Namespace) -> int:
    with book_of(given) as opened:
        words = " ".join(given.words).lower().split()
        entries = [e for e in opened.reader().entries() if given.state in (e.state, "all") and all(w in e.words for w in words)]
    rows = [f"{e.id:18} {_day(e.changed)}  {e.name}{f' [{e.state}]' if e.state != 'kept' else ''}{' #' + ', #'.join(e.tags) if e.tags else ''}"
            for e in entries]  # fmt: skip
    told(given, [_entry_data(e) for e in entries], "\n".join(rows) or "Nothing is found.")
    return 0


def _show(given: Namespace) -> int:
    with book_of(given) as opened:
        book, m = opened.reader(), measure_of(opened, given)
        entry = found_piece(opened, given.piece)
        piece, past = book.piece(entry.id), book.revisions(entry.id)
        photos, steps = book.photos(entry.id), len(book.history(entry.id).steps)
        parent, text = book.entry(entry.parent) if entry.parent else None, book.text(entry.id)
    lines = [
        f"{piece.name} ({entry.id}), {entry.state}, changed {_day(entry.changed)}",
        f"{piece.bar.label(m)}, {piece.steel.title.lower()}",
        *([f"Variant of {parent.name}"] if parent else []),
        *([f"Tags: {', '.join(entry.tags)}"] if entry.tags else []),
        *([piece.note] if piece.note else []),
        *(f"  {i}. {f.title}: {f.summary().show(m)}" for i, f in enumerate(piece.features, 1)),
        *(f"State {r.name!r} of {_day(r.made)}" for r in past),
        f"{len(photos)} photos, {steps} steps to take back",
    ]
    data = {
        **_entry_data(entry), "piece": json.loads(text), "steps": steps,
        "revisions": [{"id": r.id, "name": r.name, "made": r.made} for r in past],
        "photos": [{"id": p.id, "name": p.name, "width": p.width, "height": p.height} for p in photos],
    }  # fmt: skip
    told(given, data, "\n".join(lines))
    return 0


def piece_file(words: str) -> Piece | None:
    """The piece of a file; None where the words are no path.

    Raises:
        PieceFileError: the file can't be read, or is not whole.
    """
    path = Path(words)
    return read_piece(path) if path.suffix or path.exists() else None


def _draw(given: Namespace, kind: str) -> int:
    """The solid or the drawing of one piece, from the book or a file."""
    from long_ember.export import drawing_svg, piece_drawing, solid_bytes  # loaded with the first of them

    if len(given.pieces) != 1:
        raise EmberError(f"A .{kind} holds one piece: name one, not {len(given.pieces)}.")
    piece, shop = piece_file(given.pieces[0]), Shop()
    if piece is None:
        with book_of(given) as opened:
            piece = opened.reader().piece(found_piece(opened, given.pieces[0]).id)
            shop = opened.reader().shop or shop
    if kind == "html":
        from long_ember.document import answer
        from long_ember.export import heats_html

        shop = replace(shop, unit="in") if given.inch else shop
        found = answer(piece, ruler=shop.division, forge=shop.forge)
        write_atomic(given.to, heats_html(found, shop.measure, shop.kit))
    else:
        write_atomic(given.to, drawing_svg(piece_drawing(piece)) if kind == "svg" else solid_bytes(piece, kind))
    told(given, {"written": str(given.to)}, f"Written to {given.to}")
    return 0


def _export(given: Namespace) -> int:
    path: Path = given.to
    kind = path.suffix.lower().removeprefix(".")
    if kind in ("stl", "obj", "svg", "html"):
        return _draw(given, kind)
    wrapped = path.suffix.lower() == ".zip"
    with book_of(given) as opened:
        book = opened.reader()
        if given.table:
            from long_ember.storage import TABLES, table_csv

            rows = list(book.records(TABLES[given.table]).values())
            content: str | bytes = table_csv(rows, given.table, measure_of(opened, given))
        else:
            if given.job:
                jobs = [i for i, job in book.records(Job).items() if given.job in (i, job.name)]
                if len(jobs) != 1:
                    raise EmberError(f"{len(jobs)} jobs are called {given.job!r}.")
                parcel = record_parcel(book, "job", jobs[0], photos=wrapped)
            elif given.pieces:
                parcel = pack(book, [found_piece(opened, words).id for words in given.pieces], photos=wrapped)
            else:
                parcel = pack(book, None, RECORDS, shop=True, photos=wrapped)
            content = parcel_zip(parcel) if wrapped else parcel_text(parcel)
    write_atomic(path, content)
    told(given, {"written": str(path)}, f"Written to {path}")
    return 0


def _import(given: Namespace) -> int:
    path: Path = given.file
    with book_of(given, write=not given.dry_run) as opened:
        m = measure_of(opened, given)
        parcel = read_table(path, m) if path.suffix.lower() == ".csv" else read_parcel_file(path)
        found = look_over(opened.reader(), parcel, m)
        chosen = {a.key: given.differing if a.verdict == "differs" and given.differing in a.choices else a.choices[0] for a in found}
        if not given.dry_run:
            book = opened.reader()
            try:
                back_up(book.connection, opened.path, "before-bringing-in")
            except SaveError as error:  # no copy is no reason to keep nothing
                complain(f"No copy of the book could be made before: {error}")
            with transaction(book.connection):
                for identity in bring_in(book, found, chosen):
                    book.describe(identity)
                serial = book.count_write()
            book.note_write(serial)
    data = [{"what": a.what, "name": a.name, "verdict": a.verdict, "done": chosen[a.key], "said": list(a.said)} for a in found]
    rows = [f"{a.what:6} {a.verdict:8} {chosen[a.key]:8} {a.name}{'  ' + ' '.join(a.said) if a.said else ''}" for a in found]
    told(given, data, "\n".join([*rows, "Nothing was written: --dry-run." if given.dry_run else f"{len(rows)} looked at."]))
    return 0


def _check(given: Namespace) -> int:
    """Look at the file as it is: nothing is repaired, nothing set aside."""
    path: Path = given.book or book_path()
    problems = []
    try:
        with book_of(given) as opened:
            problem = integrity_problem(opened.reader().connection)
            problems = [problem] if problem else list(opened.reader().check())
    except BookError as error:
        if error.kind != "damaged":  # it can't be read now: that says nothing about what is in it
            raise
        problems = [str(error)]
    told(given, {"book": str(path), "sound": not problems, "problems": problems},
          "\n".join(problems) if problems else f"{path} is sound.")  # fmt: skip
    return UNSOUND if problems else 0


def _backup(given: Namespace) -> int:
    path: Path = given.book or book_path()
    if not given.list:
        with book_of(given, write=True) as opened:
            back_up(opened.reader().connection, opened.path, "by-hand")
    found = backups(path)
    data = [{"path": str(b.path), "made": b.made, "why": b.why, "bytes": b.size} for b in found]
    rows = [f"{_day(b.made)}  {b.why:20} {b.size / 1e6:8.1f} MB  {b.path}" for b in found]
    told(given, data, "\n".join(rows) or "There is no backup yet.")
    return 0


COMMANDS: dict[str, Callable[[Namespace], int]] = {
    "list": _list, "show": _show, "export": _export, "import": _import, "check": _check, "backup": _backup,
}  # fmt: skip
