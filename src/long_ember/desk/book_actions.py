"""What is done with the book and the pieces in it; everything but a removal for good can be taken back."""

from __future__ import annotations

import itertools
import threading
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from long_ember.desk.library import BookEdit, Library
from long_ember.desk.session import Session
from long_ember.desk.timeline import Timeline, facts_edit, records_edit
from long_ember.document import Edit, History, PastStep, set_piece
from long_ember.errors import EmberError, SaveError
from long_ember.features import Piece
from long_ember.fields import typed_change
from long_ember.frozen import dataclass
from long_ember.records import PLURALS, RECORDS, Job, LogEntry, Price, RackItem, Record, SavedCutList, record_kind
from long_ember.sections import Section
from long_ember.signals import Signal
from long_ember.storage import Backup, Book, Photo, PieceItem, bring_in, looked_at, new_id, salvaged, write_atomic
from long_ember.storage.copies import back_up
from long_ember.storage.database import transaction
from long_ember.storage.parcel import Parcel, pack, parcel_text, parcel_zip, read_parcel_file, record_parcel

__all__ = ["BookActions"]

_numbers = itertools.count()
_WATCHED = 0.05  # s between looks how far something is


@dataclass
class _Typing:
    """A name or a note that is being typed: what it is of, the piece before with its steps, the gesture, and the piece as it is by now."""

    of: tuple[str, str]
    piece: Piece
    history: History
    gesture: str

    def __post_init__(self) -> None:
        self.latest = self.piece


class _UnderWay:
    """How far something is that is written in the keeper's thread, for whoever waits, and may leave it."""

    def __init__(self, whole: int) -> None:
        self.at, self.whole, self.left, self.over = 0, whole, False, threading.Event()

    def tell(self, at: int, _whole: int) -> None:
        """Note how far it is; in the keeper's thread.

        Raises:
            EmberError: nobody wants it any more.
        """
        self.at = at
        if self.left:
            raise EmberError("It was left before its end, and nothing is changed.")

    def watch(self, progress: Callable[[int, int], None]) -> None:
        """Pass on how far it is until it is over; in the thread of whoever waits."""
        while not self.over.wait(_WATCHED):
            try:
                progress(self.at, self.whole)
            except Exception:
                self.left = True
                self.over.wait()
                raise


class BookActions:
    """Actions on the open book; who shows them says how something is explained, waited for, and looked over before it is brought in.

    Attributes:
        opened: a piece was taken from the book to the bench.
        finishing: the window closes, or takes another book: whoever holds typed text hands it over now.
        cuts_asked: emits the id of the job whose cut list is wanted.
    """

    def __init__(self, session: Session, library: Library) -> None:
        self.opened, self.finishing, self.cuts_asked = (Signal() for _ in range(3))
        self.session, self.library = session, library
        self._typing: _Typing | None = None
        self.timeline = Timeline(session, library, self.open_piece)

    # --- what the screen does

    def explain(self, what: str, words: str) -> None:
        """Why something did not come about."""
        raise NotImplementedError

    def slow(self, title: str, failed: str, read: Callable[[Callable[[int, int], None]], Any], done: Callable[[Any], None]) -> None:
        """Work that may take longer than a blink.

        Args:
            title: what is going on.
            failed: the heading when it fails.
            read: the work, in a thread; gets a function to call with how far it is.
            done: gets what came of it.
        """
        raise NotImplementedError

    def review(self, parcel: Parcel, source: str) -> None:
        """Show what a parcel would change, and let the person choose."""
        raise NotImplementedError

    # --- what all do

    def _tried(self, what: str, work: Callable[[], object]) -> bool:
        """Do something that may fail; the reason is told."""
        try:
            work()
        except EmberError as error:
            self.explain(what, str(error))
            return False
        return True

    def _say(self, text: str, fault: bool = False) -> None:
        self.session.said.emit(text, fault)

    def _act(self, title: str, do: Callable[[Book], object], undo: Callable[[Book], object], told: str = "") -> bool:
        return self._done(BookEdit(title, do, undo), told)

    def _done(self, edit: BookEdit, told: str = "") -> bool:
        if not self.library.act(edit):
            self._say(f"Nothing changed. {self.library.read_only}", True)
            return False
        self._say(told or f"{edit.title}: done. Ctrl+Z takes it back.", False)
        return True

    def open_piece(self, piece_id: str) -> bool:
        """Take a piece to the bench, with its history."""

        def work() -> None:
            piece, history = self.library.read(piece_id)
            self.session.open(piece, piece_id, history)
            self.library.put_fact("open", piece_id)
            self.opened.emit()

        return bool(piece_id) and self._tried("The piece was not opened", work)

    def new_piece(self) -> None:
        """An empty bar with the shop's allowances; it is in the book from the first change on."""
        self.session.open(self.session.shop.new_piece(), new_id())
        self.library.put_fact("open", self.session.piece_id)
        self.opened.emit()

    def begin(self, piece: Piece) -> None:
        """Take a piece that was just thought of to the bench; an empty one that lies there gives way to it."""
        if self.session.piece.features or not self.session.piece_id or self.library.entry(self.session.piece_id) is not None:
            self.new_piece()
        before = self.session.piece
        made = replace(piece, note=before.note, order=before.order)
        self.session.apply(
            Edit(f"Begin with {piece.name}" if piece.name != before.name else "Write the piece", before, made, made.features[0].id)
        )
        self.opened.emit()

    def _added(self, title: str, piece: Piece, parent: str = "", told: str = "") -> str:
        return next(iter(self.add_pieces(title, [piece], parent, told)), "")

    def add_pieces(self, title: str, pieces: Sequence[Piece], parent: str, told: str = "") -> tuple[str, ...]:
        """Hang new pieces on the wall, as one deed; returns their ids, none where nothing is written."""
        rows = [(new_id(), piece) for piece in pieces]

        def do(book: Book) -> None:
            for identity, piece in rows:
                book.put_piece(identity, piece, History())
                book.put_parent(identity, parent)

        def undo(book: Book) -> None:
            for identity, _piece in rows:
                book.remove_piece(identity)

        names = " and ".join(piece.name for piece in pieces)
        return tuple(i for i, _p in rows) if self._act(title, do, undo, told or f"{names}: on the wall of the book.") else ()

    def duplicate(self, piece_id: str) -> str:
        """A copy of a piece; returns its id, "" when there is none."""
        made: list[str] = []

        def work() -> None:
            piece, _history = self.library.read(piece_id)
            name = self._free_name(piece.name)
            made.append(self._added("Duplicate", replace(piece, name=name), told=f"{name} hangs beside it."))

        self._tried("Nothing was duplicated", work)
        return made[0] if made else ""

    def _free_name(self, name: str) -> str:
        taken = {e.name for e in self.library.entries}
        return next(n for i in range(2, len(taken) + 3) if (n := f"{name} {i}") not in taken)

    def variant(self, piece_id: str, bar: Section) -> str:
        """The same piece for another bar, kept beside it; returns its id.

        Raises:
            NoAnswer: the piece can't be made of that bar.
        """
        piece, _history = self.library.read(piece_id)
        made = set_piece(piece, "bar", bar).after
        label = bar.label(self.session.measure)
        return self._added("Variant", replace(made, name=f"{piece.name}, {label}"), piece_id, f"{piece.name} for {label} hangs beside it.")

    def set_state(self, piece_id: str, state: str) -> bool:
        """Keep, archive or trash a piece; False when nothing changed."""
        entry = self.library.entry(piece_id)
        if entry is not None and entry.state != state:
            before, title = entry.state, {"kept": "Back on the wall", "archived": "Archive", "trashed": "To the trash"}[state]
            words = {"kept": "is back on the wall", "archived": "is archived", "trashed": "is in the trash"}[state]
            told = f"{entry.name} {words}. Ctrl+Z takes it back."
            return self._done(facts_edit(title, "state", piece_id, before, state), told)
        return False

    def set_tags(self, piece_id: str, tags: tuple[str, ...], *, typed: bool = False) -> None:
        """Change a piece's tags; those typed one after the other are one step."""
        entry = self.library.entry(piece_id)
        if entry is not None and entry.tags != tags:
            gesture = f"{piece_id}.tags" if typed else ""
            self._done(facts_edit("Change tags", "tags", piece_id, list(entry.tags), list(tags), gesture=gesture))

    def set_text(self, piece_id: str, name: str, text: str) -> None:
        """Change the name or the note of a piece, as a step of its own history."""
        self.type_text(piece_id, name, text)
        self.end_typing()

    def type_text(self, piece_id: str, name: str, text: str) -> None:
        """The same while it is being typed: what follows until `end_typing` is one step, and is kept as it grows."""
        if self._typing is None or self._typing.of != (piece_id, name):
            try:
                self._typing = _Typing((piece_id, name), *self.library.read(piece_id), f"{piece_id}.{name}.{next(_numbers)}")
            except EmberError:
                return  # what can't be read can't be renamed; the card says so
        typing = self._typing
        if piece_id == self.session.piece_id:
            if getattr(self.session.piece, name) != text:
                self.session.attempt(partial(set_piece, gesture=typing.gesture), name, text)
            return
        if getattr(typing.latest, name) == text:
            return
        try:
            edit = set_piece(typing.piece, name, text)
        except EmberError as error:
            self._say(f"Nothing changed. {error}", True)
            return
        typing.latest, steps = edit.after, typing.history.steps[: typing.history.at]
        serial = max((s.serial for s in typing.history.steps), default=0) + 1
        later = History((*steps, PastStep(serial, edit)), len(steps) + 1)
        self._done(BookEdit(
            edit.title, lambda book: book.put_piece(piece_id, edit.after, later),
            lambda book: book.put_piece(piece_id, typing.piece, typing.history), gesture=typing.gesture, facts=("piece", piece_id, serial),
        ))  # fmt: skip

    def end_typing(self) -> None:
        """What is typed next is another step."""
        self._typing = None
        self.session.end_gesture()

    def remove(self, piece_id: str) -> None:
        """Remove for good."""
        if piece_id == self.session.piece_id:
            self.session.open(self.session.shop.new_piece(), new_id())
        self.library.write(lambda book: book.remove_piece(piece_id))

    def name_state(self, piece_id: str, name: str) -> None:
        """Give the present state of a piece a name to come back to."""
        identity = new_id()
        piece = self.session.piece if piece_id == self.session.piece_id else self.library.read(piece_id)[0]

        def do(book: Book) -> None:
            if book.entry(piece_id) is None:
                book.put_piece(piece_id, piece)
            book.put_revision(identity, piece_id, name, piece)

        self._act("Name this state", do, lambda book: book.remove_revision(identity), f"This state is kept as {name!r}.")

    def go_back(self, piece_id: str, name: str, piece: Piece) -> None:
        """Take a piece back to a named state, as a step that can be undone."""
        if piece_id != self.session.piece_id and not self.open_piece(piece_id):
            return
        self.session.apply(Edit(f"Go back to {name}", self.session.piece, piece))
        self.opened.emit()

    def add_photos(self, piece_id: str, paths: Iterable[Path], then: Callable[[list[Photo]], None] | None = None) -> None:
        """Copy pictures in, smaller; those that can't be read are named and left out.

        Args:
            piece_id: whose they are.
            paths: of the pictures.
            then: called with what was added.
        """
        waiting = list(paths)

        def read(progress: Callable[[int, int], None]) -> list[Photo]:
            from long_ember.storage import read_photo  # loaded with the first photo

            made = []
            for i, path in enumerate(waiting):
                progress(i, len(waiting))
                made.append(read_photo(path, piece_id))
            return made

        def done(photos: list[Photo]) -> None:
            def do(book: Book) -> None:
                for photo in photos:
                    book.put_photo(photo)

            def undo(book: Book) -> None:
                for photo in photos:
                    book.remove_photo(photo.id)

            self._act("Add photos", do, undo)
            if then is not None:
                then(photos)

        self.slow("Reading the pictures", "No photo was added", read, done)

    def remove_photo(self, photo: Photo) -> None:
        """Take a photo out."""
        self._act("Take the photo out", lambda book: book.remove_photo(photo.id), lambda book: book.put_photo(photo))

    def put_record(self, record_id: str, record: Record, before: Record | None) -> None:
        """Keep a record as it is now."""
        typed = typed_change(before, record) if type(before) is type(record) else ""
        self.put_records(
            f"Change the {PLURALS[record_kind(record)]}", {record_id: (before, record)}, gesture=f"{record_id}.{typed}" if typed else ""
        )

    def log(self, entry_id: str, entry: LogEntry, before: LogEntry | None) -> None:
        """Keep an entry of the log; what it changes is said, to be kept or left out, once it is reckoned with."""
        self.session.teaching = entry_id
        self.put_record(entry_id, entry, before)

    def leave_out(self, entry_id: str) -> None:
        """Have an entry of the log teach nothing; it stays."""
        entry = self.library.records(LogEntry).get(entry_id)
        if entry is not None:
            title = "Leave an entry of the log out"
            told = "It stays in the log and teaches nothing. Ctrl+Z takes it back."
            self.put_records(title, {entry_id: (entry, replace(entry, set_aside=True))}, told)

    def remove_record(self, record_id: str, record: Record) -> None:
        """Take a record out, of a job its cut lists too."""
        gone: dict[str, tuple[Record | None, Record | None]] = {record_id: (record, None)}
        if isinstance(record, Job):
            sheets = self.library.records(SavedCutList).items()
            gone.update({i: (s, None) for i, s in sheets if record_id in [r.job for r in s.jobs]})
        self.put_records(f"Take from the {PLURALS[record_kind(record)]}", gone)

    def put_records(
        self, title: str, changes: Mapping[str, tuple[Record | None, Record | None]], told: str = "", *, gesture: str = ""
    ) -> bool:
        """Change several records as one deed.

        Args:
            title: of the deed.
            changes: what was there before and what is there now, by id; None where there is none.
            told: what is said about it; "" for its title.
            gesture: see `BookEdit`.
        """

        return self._done(records_edit(title, changes, gesture=gesture), told)

    def bring_in_file(self, path: Path) -> None:
        """Read a file or another book, and show what it would change."""
        measure = self.session.measure

        def read(progress: Callable[[int, int], None]) -> Parcel:
            if path.suffix.lower() == ".csv":
                from long_ember.storage import read_table  # loaded with the first table

                return read_table(path, measure)
            if path.suffix.lower() == ".ember":
                return _from_book(path)
            return read_parcel_file(path, progress)

        def done(parcel: Parcel) -> None:
            self.review(parcel, path.name)

        self.slow(f"Reading {path.name}", "Nothing was brought in", read, done)

    def accept(self, found: Iterable[Any], chosen: dict[str, str]) -> None:
        """Bring in what was chosen; a copy of the book is made first."""
        if self.library.read_only:
            self._say(f"Nothing changed. {self.library.read_only}", True)
            return
        found, uncopied = tuple(found), list[str]()
        under_way = _UnderWay(len(found))

        def write(book: Book) -> None:
            try:
                back_up(book.connection, book.path, "before-bringing-in")
            except SaveError as error:  # no copy is no reason to keep nothing
                uncopied.append(str(error))
            try:
                with transaction(book.connection):
                    bring_in(book, found, chosen, under_way.tell)
                    serial = book.count_write()
            finally:
                under_way.over.set()
            book.note_write(serial)

        def done(words: str) -> None:
            if words:
                self._say(f"It was not brought in. {words}", True)
                return
            self.library.describe_new()
            before = f"No copy could be made before: {uncopied[0]}" if uncopied else "The state before is among the backups."
            self._say(f"It is in the book. {before}", bool(uncopied))
            there = self.session.piece_id
            if any(a.there == there and chosen.get(a.key) == "replace" for a in found):
                self.open_piece(there)
            shop = self.library.shop
            if shop is not None and shop != self.session.shop:
                self.session.adopt(shop)

        self._say("Bringing it in…", False)
        self.library.write(write, "What was to be brought in", done, alone=True)
        if not under_way.over.is_set():
            self.slow("Bringing it in", "Nothing was brought in", under_way.watch, lambda _none: None)

    def export(self, path: Path, pieces: tuple[str, ...] | None = None, record: tuple[str, str] | None = None) -> bool:
        """Write pieces, a job or an assembly (kind and id), or the whole book; as ZIP with the pictures, otherwise as JSON."""
        wrapped = path.suffix.lower() == ".zip"

        def work() -> None:
            self.library.flush()
            book = self.library.reader()
            if record:
                parcel = record_parcel(book, *record, photos=wrapped)
            elif pieces is None:
                parcel = pack(book, None, RECORDS, shop=True, photos=wrapped)
            else:
                parcel = pack(book, pieces, photos=wrapped)
            write_atomic(path, parcel_zip(parcel) if wrapped else parcel_text(parcel))
            self.session.wrote.emit(f"Written to {path.name}.", path)

        return self._tried("The file was not written", work)

    def export_unwritten(self, path: Path) -> bool:
        """Write what is not in the book yet to a file that any book can bring in."""

        def work() -> None:
            write_atomic(path, parcel_text(self.library.unwritten_parcel()))
            self.session.wrote.emit(f"What waits is in {path.name}: bring it in when the book can be written again.", path)

        return self._tried("The file was not written", work)

    def export_records(self, path: Path, kind: str) -> bool:
        """Write rack, prices or log: CSV, or JSON by the file's ending."""
        records = self.library.records(RECORDS[kind])

        def work() -> None:
            if path.suffix.lower() == ".json":
                write_atomic(path, parcel_text(Parcel(records=tuple(records.items()))))
            else:
                from long_ember.storage import table_csv

                rows = [r for r in records.values() if isinstance(r, (RackItem, Price, LogEntry))]
                write_atomic(path, table_csv(rows, kind, self.session.measure))
            self.session.wrote.emit(f"Written to {path.name}.", path)

        return self._tried("The file was not written", work)

    def preview(self, backup: Backup) -> str:
        """What putting a backup back would change, in sentences.

        Raises:
            EmberError: it can't be used.
        """
        self.library.flush()
        then = looked_at(backup.path)
        try:
            old, now = ({e.id: e for e in book.entries()} for book in (then.reader(), self.library.reader()))
        finally:
            then.close()
        gone = [e.name for i, e in now.items() if i not in old]
        back = [e.name for i, e in old.items() if i not in now]
        other = [e.name for i, e in old.items() if i in now and e.changed != now[i].changed]
        said = [f"{len(old)} pieces."]
        for words, names in (("Not in it", gone), ("Come back", back), ("Go back to an earlier state", other)):
            if names:
                said.append(f"{words}: {', '.join(names[:8])}{f' and {len(names) - 8} more' if len(names) > 8 else ''}.")
        return " ".join(said) if len(said) > 1 else f"{said[0]} No piece differs from the book as it is."

    def job_words(self, job: Job) -> str:
        """A job's pieces in words."""
        names = {e.id: e.name for e in self.library.entries}
        lines = [
            f"{line.quantity}{f' + {line.spare}' if line.spare else ''} × {names.get(line.piece, 'a piece that is gone')}"
            for line in job.lines
        ]
        return ", ".join(lines) or "no pieces yet"


def _from_book(path: Path) -> Parcel:
    """Another book, whole; of a damaged one what can still be read."""
    try:
        opened = looked_at(path)
        try:
            return pack(opened.reader(), None, RECORDS, shop=True, photos=True)
        finally:
            opened.close()
    except EmberError:
        saved = salvaged(path)
        if not saved:
            raise
        return Parcel(tuple(PieceItem(i, p) for i, p in saved.items()))
