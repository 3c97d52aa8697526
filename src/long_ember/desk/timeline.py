"""One order of everything that was done, to pieces, book and shop: each is taken back in the order it was done, after a restart too."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from typing import TYPE_CHECKING, Any, Protocol

from long_ember.errors import EmberError
from long_ember.fields import fields_out, specs
from long_ember.frozen import dataclass
from long_ember.records import RECORDS, Job, LogEntry, Record, SavedCutList, Shop, record_kind
from long_ember.signals import Signal
from long_ember.storage.models import Reader

if TYPE_CHECKING:
    from long_ember.desk.library import BookEdit, Library
    from long_ember.desk.session import Session
    from long_ember.document import PieceChange
    from long_ember.storage import Book

__all__ = ["Deed", "PieceDeed", "ShopDeed", "Timeline", "deed_data", "deeds_of"]

_LONGEST = 300  # deeds that can be taken back
_WRITTEN = 60  # of them that a restart still knows
_LARGEST = 300_000  # letters that they may take in the book
_GESTURE = 3.0  # s between two changes of one setting that are one deed
FACT = "timeline"


class Deed(Protocol):
    """Something done that can be taken back."""

    @property
    def title(self) -> str:
        """Shown in Undo and Redo."""


@dataclass(frozen=True)
class PieceDeed:
    """A step of one piece.

    Args:
        piece_id: whose.
        serial: number of the step in the piece's own history.
        title: shown in Undo and Redo.
    """

    piece_id: str
    serial: int
    title: str


@dataclass(frozen=True)
class ShopDeed:
    """A change of the shop's settings.

    Args:
        before: the settings that changed, as they were.
        after: the same, as they are.
        at: when, s.
    """

    before: Mapping[str, Any]
    after: Mapping[str, Any]
    at: float = 0.0

    @property
    def title(self) -> str:
        """Shown in Undo and Redo."""
        labels = [specs(Shop())[name].label or name for name in self.after]
        return f"Change of the shop: {', '.join(labels[:2])}{' and more' if len(labels) > 2 else ''}"

    def joined(self, earlier: ShopDeed) -> ShopDeed | None:
        """As one with the change before; None where everything is as it was."""
        return replace(self, before=earlier.before) if earlier.before != self.after else None


class Timeline:
    """What was done, oldest first, and what was taken back of it.

    Args:
        session: the bench.
        library: the open book.
        open_piece: takes a piece of the book to the bench; tells whether it could.

    Attributes:
        shown: emits what was taken back or done again when it lies elsewhere: "bench", "book", "cut", "log" or "shop".
    """

    def __init__(self, session: Session, library: Library, open_piece: Callable[[str], bool]) -> None:
        self.shown = Signal()
        self._session, self._library, self._open_piece = session, library, open_piece
        self._done: list[Any] = []
        self._undone: list[Any] = []  # the next to be done again last
        self._busy = False
        self._load()
        session.document.changed.connect(self._piece_changed)
        session.shop_changed.connect(self._shop_changed)
        library.acted.connect(self._acted)
        library.taken.connect(self._load)

    # --- what is known

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        if self._session.document.trying:
            return self._session.undo_title
        return self._title(self._done[-1]) if self._done else self._session.undo_title

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        if self._undone:
            return self._title(self._undone[-1])
        return "" if self._done else self._session.redo_title

    def _title(self, deed: Any) -> str:
        if isinstance(deed, PieceDeed) and deed.piece_id != self._session.piece_id:
            entry = self._library.entry(deed.piece_id)
            return f"{deed.title} in {entry.name}" if entry is not None else deed.title
        return str(deed.title)

    # --- what is done

    def _piece_changed(self, change: PieceChange) -> None:
        """A step of the piece on the bench was taken, joined with the last, or taken back by somebody else."""
        if change.tried or self._busy or self._session.opening:
            return
        identity, history = self._session.piece_id, self._session.document.history
        standing = {step.serial: step for step in history.steps[: history.at]}
        again = {step.serial for step in history.steps[history.at :]}
        while self._done and self._of(self._done[-1], identity) and self._done[-1].serial not in standing:
            deed = self._done.pop()
            if deed.serial in again:
                self._undone.append(deed)
        if not standing:
            return
        latest = max(standing)
        if any(self._of(d, identity) and d.serial >= latest for d in self._done):
            return
        if self._undone and self._of(self._undone[-1], identity) and self._undone[-1].serial == latest:
            self._done.append(self._undone.pop())
            self._write()
        else:
            self._add(PieceDeed(identity, latest, standing[latest].title))

    @staticmethod
    def _of(deed: Any, identity: str) -> bool:
        return isinstance(deed, PieceDeed) and deed.piece_id == identity

    def _acted(self, edit: BookEdit) -> None:
        """Something was done to the book: a new deed, or the last one grown."""
        last = self._done[-1] if self._done else None
        if edit.facts[:1] == ("piece",):  # a step of a piece that is not on the bench
            deed = PieceDeed(edit.facts[1], edit.facts[2], edit.title)
            if last != deed:
                self._add(deed)
        elif last is not None and getattr(last, "serial", None) == edit.serial and not isinstance(last, PieceDeed):
            self._done[-1] = edit
            self._undone.clear()
            self._write()
        else:
            self._add(edit)

    def _shop_changed(self, before: Shop, after: Shop, now: float) -> None:
        names = [name for name in specs(after) if getattr(before, name) != getattr(after, name)]
        if self._busy or not names:
            return
        deed: ShopDeed | None = ShopDeed({n: getattr(before, n) for n in names}, {n: getattr(after, n) for n in names}, now)
        last = self._done[-1] if self._done else None
        if isinstance(last, ShopDeed) and deed and last.after.keys() == deed.after.keys() and now - last.at < _GESTURE:
            self._done.pop()
            deed = deed.joined(last)
        if deed is not None:
            self._add(deed)
        else:
            self._write()

    def _add(self, deed: Any) -> None:
        self._undone.clear()
        self._done.append(deed)
        del self._done[:-_LONGEST]
        self._write()

    # --- back and forth

    def undo(self) -> None:
        """Take the last deed back, whatever it was of, and say so; what can't be taken back any more is passed over."""
        self._session.document.settle()
        if not self._done:
            self._session.undo()
            return
        self._step(self._done, self._undone, 0)

    def redo(self) -> None:
        """Do the next deed again."""
        if not self._undone:
            if not self._done:
                self._session.redo()
            return
        self._step(self._undone, self._done, 1)

    def _step(self, source: list[Any], target: list[Any], at: int) -> None:
        self._busy = True
        try:
            while source:
                deed = source[-1]
                done = self._carried_out(deed, at)  # where it fails by an error it stands as it stood
                source.pop()
                if done:
                    target.append(deed)
                    self._said(deed, at)
                    break
        finally:
            self._busy = False
            self._write()

    def _carried_out(self, deed: Any, at: int) -> bool:
        if isinstance(deed, ShopDeed):
            self._session.set_shop(replace(self._session.shop, **(deed.after if at else deed.before)))
            return True
        if isinstance(deed, PieceDeed):
            return self._stepped(deed, at)
        return self._library.carry_out(deed, at)

    def _stepped(self, deed: PieceDeed, at: int) -> bool:
        session = self._session
        if deed.piece_id != session.piece_id and (self._library.entry(deed.piece_id) is None or not self._open_piece(deed.piece_id)):
            return False
        history = session.document.history
        place = history.at if at else history.at - 1
        if not 0 <= place < len(history.steps) or history.steps[place].serial != deed.serial:
            return False
        before = session.piece
        (session.redo if at else session.undo)()
        return session.piece is not before

    def _said(self, deed: Any, at: int) -> None:
        title = f"{deed.title[:1].lower()}{deed.title[1:]}"
        of = f", of {self._session.piece.name}" if isinstance(deed, PieceDeed) else ""
        where = _where(deed)
        self._session.said.emit(f"{'Done again' if at else 'Taken back'}: {title}{of}.", False)
        self.shown.emit(where)

    # --- over a restart

    def _write(self) -> None:
        done, undone = tuple(self._done[-_WRITTEN:]), tuple(self._undone[-_WRITTEN:])
        self._library.put_later(FACT, lambda: _text(done, undone))

    def _load(self) -> None:
        """Take up what the book knows of."""
        self._done, self._undone = [], []
        try:
            data = json.loads(self._library.fact(FACT) or "{}")
            self._done, self._undone = (list(deeds_of(data.get(key, []))) for key in ("done", "undone"))
        except (ValueError, TypeError, AttributeError, KeyError, IndexError, EmberError):
            self._done, self._undone = [], []  # only what can be taken back is lost
        history = self._session.document.history
        if self._done and history.at:  # a step that was kept just before the program was cut short
            latest = history.steps[history.at - 1]
            known = [d.serial for d in (*self._done, *self._undone) if self._of(d, self._session.piece_id)]
            if latest.serial > max(known, default=0):
                self._done.append(PieceDeed(self._session.piece_id, latest.serial, latest.title))


def _where(deed: Any) -> str:
    """On which screen a deed is seen."""
    if isinstance(deed, PieceDeed):
        return "bench"
    if isinstance(deed, ShopDeed):
        return "shop"
    records = [r for pair in deed.records.values() for r in pair if r is not None]
    if records and all(isinstance(r, LogEntry) for r in records):
        return "log"
    return "cut" if records and all(isinstance(r, (Job, SavedCutList)) for r in records) else "book"


def _text(done: tuple[Any, ...], undone: tuple[Any, ...]) -> str:
    """Return both lists as JSON, the newest that there is room for; what no restart can take back ends what it knows."""
    room, kept = _LARGEST, dict[str, list[Any]]()
    for key, deeds in (("done", done), ("undone", undone)):
        rows: list[Any] = []
        for deed in reversed(deeds):
            data = deed_data(deed)
            room -= len(json.dumps(data, ensure_ascii=False)) if data else room
            if room <= 0:
                break
            rows.append(data)
        kept[key] = rows[::-1]
    return json.dumps(kept, ensure_ascii=False)


def deed_data(deed: Any) -> list[Any] | None:
    """Return a deed as JSON data; None where it can only be taken back while the window is open, as with photos."""
    if isinstance(deed, PieceDeed):
        return ["piece", deed.piece_id, deed.serial, deed.title]
    if isinstance(deed, ShopDeed):
        return ["shop", *(fields_out(replace(Shop(), **dict(values))) for values in (deed.before, deed.after)), sorted(deed.after)]
    if deed.facts:
        return ["facts", deed.serial, deed.title, *deed.facts]
    if not deed.records:
        return None
    rows = [[identity, *(_record_data(record) for record in pair)] for identity, pair in deed.records.items()]
    return ["records", deed.serial, deed.title, rows]


def _record_data(record: Record | None) -> list[Any] | None:
    return None if record is None else [record_kind(record), fields_out(record)]


def deeds_of(data: Iterable[Any]) -> Iterable[Deed]:
    """Read deeds back.

    Raises:
        EmberError: one of them can't be read.
    """
    for row in data:
        kind = row[0]
        if kind == "piece":
            yield PieceDeed(str(row[1]), int(row[2]), str(row[3]))
        elif kind == "shop":
            before, after = ({n: getattr(_model(Shop, value), n) for n in row[3]} for value in row[1:3])
            yield ShopDeed(before, after)
        elif kind == "facts":
            yield facts_edit(str(row[2]), *row[3:], serial=int(row[1]))
        else:
            pairs = {str(i): (_read_record(before), _read_record(after)) for i, before, after in row[3]}
            yield records_edit(str(row[2]), pairs, serial=int(row[1]))


def _read_record(data: Any) -> Record | None:
    if data is None:
        return None
    found: Record = _model(RECORDS[data[0]], data[1])
    return found


def _model(cls: type, data: Any) -> Any:
    reader = Reader()
    found = reader.model(cls, data, "$")
    if found is None:
        raise EmberError("; ".join(map(str, reader.problems[:3])))
    return found


def records_edit(title: str, changes: Mapping[str, tuple[Record | None, Record | None]], *, gesture: str = "", serial: int = 0) -> BookEdit:
    """Return the edit that changes records.

    Args:
        title: shown in Undo and Redo.
        changes: before and after by id, None where there is none.
        gesture: see `BookEdit`.
        serial: see `BookEdit`.
    """
    from long_ember.desk.library import BookEdit

    def write(book: Book, at: int) -> None:
        for identity, pair in changes.items():
            record, other = pair[at], pair[1 - at]
            if record is not None:
                book.put_record(identity, record)
            elif other is not None:
                book.remove_record(record_kind(other), identity)

    return BookEdit(title, lambda book: write(book, 1), lambda book: write(book, 0), changes, gesture, serial=serial)


def facts_edit(title: str, what: str, piece_id: str, before: Any, after: Any, *, gesture: str = "", serial: int = 0) -> BookEdit:
    """Return the edit that changes where a piece hangs ("state") or its tags ("tags")."""
    from long_ember.desk.library import BookEdit

    def write(book: Book, value: Any) -> None:
        if what == "state":
            book.put_state(piece_id, value)
        else:
            book.put_tags(piece_id, tuple(value))

    facts = (what, piece_id, before, after)
    return BookEdit(title, lambda book: write(book, after), lambda book: write(book, before), {}, gesture, facts=facts, serial=serial)
