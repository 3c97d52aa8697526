"""What a parcel would change in a book, shown before it does; nothing is overwritten unless someone says so."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

from long_ember.document import Edit, History, PastStep, quick_answer
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.records import (
    RECORDS,
    Assembly,
    Forging,
    Job,
    LogEntry,
    Price,
    RackItem,
    Record,
    SavedCutList,
    Shop,
    Start,
    record_kind,
    with_ids,
)
from long_ember.storage.book import Book, Entry, new_id
from long_ember.storage.parcel import Parcel, PieceItem
from long_ember.units import Measure

__all__ = ["CHOICES", "Incoming", "bring_in", "look_over"]

CHOICES = {"add": "Add", "copy": "Keep both", "replace": "Replace", "skip": "Leave out"}


@dataclass(frozen=True)
class Incoming:
    """One thing of a parcel beside what the book has of it.

    Args:
        key: names it among the arrivals.
        what: piece, shop, or a key of `RECORDS`.
        name: as shown.
        verdict: new, same or differs.
        said: what is different, a sentence each.
        choices: keys of `CHOICES`, the one proposed first.
        item: what came.
        there: id of what the book has of it, or "".
    """

    key: str
    what: str
    name: str
    verdict: str
    said: tuple[str, ...]
    choices: tuple[str, ...]
    item: PieceItem | tuple[str, Record] | Shop
    there: str = ""


def look_over(book: Book, parcel: Parcel, measure: Measure) -> tuple[Incoming, ...]:
    """Compare a parcel with a book, in the parcel's order; nothing is written.

    Args:
        book: to read.
        parcel: what came.
        measure: how lengths are shown.
    """
    entries = book.entries()
    found = [_piece(book, entries, item, measure) for item in parcel.pieces]
    for kind in dict.fromkeys(record_kind(r) for _i, r in parcel.records):
        there = book.records(RECORDS[kind])
        found += [_record(there, identity, record, measure) for identity, record in parcel.records if record_kind(record) == kind]
    if parcel.shop is not None:
        same = book.shop == parcel.shop
        said = () if same else ("Units, kit, allowances, fire and smiths of the other shop.",)
        found.append(Incoming("shop", "shop", parcel.shop.name, "same" if same else "differs", said,
                             ("skip",) if same else ("skip", "replace"), parcel.shop))  # fmt: skip
    return tuple(found)


def _piece(book: Book, entries: tuple[Entry, ...], item: PieceItem, measure: Measure) -> Incoming:
    same_id = next((e for e in entries if e.id == item.id), None)
    namesakes = [e for e in entries if e.name == item.piece.name and e is not same_id]
    for entry in ([same_id] if same_id else []) + namesakes:
        if _kept(book, entry.id) == item.piece:
            return Incoming(f"piece/{item.id}", "piece", item.piece.name, "same", (), ("skip", "copy"), item, entry.id)
    if same_id is None:
        said: tuple[str, ...] = ("Another piece of this name is in the book and stays as it is.",) if namesakes else ()
        return Incoming(f"piece/{item.id}", "piece", item.piece.name, "new", said, ("add", "skip"), item)
    before = _kept(book, same_id.id)
    said = _differences(before, item.piece, measure) if before else ("What the book has of it can't be read.",)
    return Incoming(f"piece/{item.id}", "piece", item.piece.name, "differs", said, ("copy", "replace", "skip"), item, same_id.id)


def _kept(book: Book, piece_id: str) -> Piece | None:
    try:
        return book.piece(piece_id)
    except EmberError:
        return None


def _differences(before: Piece, after: Piece, m: Measure) -> tuple[str, ...]:
    said = []
    if before.name != after.name:
        said.append(f"Called {before.name} here.")
    if before.bar != after.bar or before.material != after.material:
        one, other = (f"{p.bar.label(m)} {p.steel.title.lower()}" for p in (before, after))
        said.append(f"Here of {one}, there of {other}.")
    one, other = (f"cut {m.length(quick_answer(p).reckoning.cut)}, {len(p.features)} features" for p in (before, after))
    said.append(f"Here {one}; there {other}.")
    return tuple(said)


def _record(there: Mapping[str, Record], identity: str, record: Record, measure: Measure) -> Incoming:
    what, name = record_kind(record), _name(record, measure)
    match = next((i for i, r in there.items() if _rounded(r) == _rounded(record)), identity if identity in there else None)
    if match is None:
        match = next((i for i, r in there.items() if _thing(r) == _thing(record)), None)
    if match is None:
        return Incoming(f"{what}/{identity}", what, name, "new", (), ("add", "skip"), (identity, record))
    if _rounded(there[match]) == _rounded(record):
        return Incoming(f"{what}/{identity}", what, name, "same", (), ("skip", "copy"), (identity, record), match)
    return Incoming(f"{what}/{identity}", what, name, "differs", (_change(there[match], record, measure),), ("skip", "replace", "copy"),
                   (identity, record), match)  # fmt: skip


def _name(record: Record, measure: Measure) -> str:
    if isinstance(record, (Job, Assembly, SavedCutList, Start, Forging)):
        return record.name
    if isinstance(record, LogEntry):
        return f"{record.name}, no. {record.number}"
    return f"{record.section.label(measure)} {'' if isinstance(record, Price) else record.place}".strip()


def _rounded(record: Record) -> Record:
    """With its length to a hundredth: what went out in inches comes back a hair off."""
    return replace(record, length=round(record.length, 2)) if isinstance(record, (RackItem, Price)) else record


def _thing(record: Record) -> object:
    """What makes two records speak of the same thing; the rest is how much of it, or what it costs."""
    record = _rounded(record)
    if isinstance(record, RackItem):
        return record.material, record.section, record.length, record.source, record.place
    if isinstance(record, Price):
        return record.material, record.section, record.length, record.seller
    if isinstance(record, LogEntry):
        return record.piece, record.number, record.day
    return (record.name, record.due) if isinstance(record, Job) else record.name


def _change(one: Record, other: Record, m: Measure) -> str:
    if isinstance(one, RackItem) and isinstance(other, RackItem):
        return f"{one.count} × {m.length(one.length)} here, {other.count} × {m.length(other.length)} there."
    if isinstance(one, Price) and isinstance(other, Price):
        return f"{one.price:g} for {m.length(one.length)} here, {other.price:g} for {m.length(other.length)} there."
    if isinstance(one, LogEntry):
        return "What was logged differs."
    if isinstance(one, SavedCutList):
        return "Its bars, or what is sawn of them, differ."
    return "Its dates, notes or pieces differ." if isinstance(one, Job) else "Its parts, joins or handle differ."


def bring_in(
    book: Book, found: Iterable[Incoming], chosen: Mapping[str, str], progress: Callable[[int, int], None] | None = None
) -> tuple[str, ...]:
    """Carry out what was chosen; to be called in one transaction. How pieces look is left to `Book.undescribed`.

    Args:
        book: to write.
        found: what `look_over` gave.
        chosen: a key of `CHOICES` by the key of an arrival; what is missing takes the first of its choices.
        progress: called with how many are in, and of how many; it may raise, and then nothing is.

    Returns:
        Ids of the pieces that came or changed.
    """
    plan = [(a, chosen.get(a.key, a.choices[0])) for a in found]
    taken = {e.id for e in book.entries()}
    names: dict[str, str] = {}  # of pieces and records that change on the way in
    for arrival, choice in plan:
        if arrival.what == "piece" and isinstance(arrival.item, PieceItem):
            fresh = choice == "copy" or (choice == "add" and arrival.item.id in taken)
            names[arrival.item.id] = new_id() if fresh else arrival.there or arrival.item.id
        elif isinstance(arrival.item, tuple):
            identity = arrival.item[0]
            there = identity if choice == "add" else new_id() if choice == "copy" else arrival.there
            names[identity] = there or identity
    changed = []
    for number, (arrival, choice) in enumerate(plan):
        if progress is not None:
            progress(number, len(plan))
        if arrival.what == "piece" and choice != "skip":
            changed.append(_bring_piece(book, arrival, choice, names))
    for arrival, choice in plan:
        if choice == "skip" or arrival.what == "piece":
            continue
        if isinstance(arrival.item, Shop):
            book.put_shop(arrival.item)
        elif isinstance(arrival.item, tuple):
            identity, record = arrival.item
            book.put_record(names[identity], with_ids(record, names))
    return tuple(changed)


def _bring_piece(book: Book, arrival: Incoming, choice: str, names: Mapping[str, str]) -> str:
    item = arrival.item
    assert isinstance(item, PieceItem)
    identity, history = names[item.id], History()
    if choice == "replace":  # what was there stays within reach: as a step to undo
        before = _kept(book, identity)
        old = book.history(identity)
        if before is not None:
            serial = max((s.serial for s in old.steps), default=0) + 1
            step = PastStep(serial, Edit("Replace by what came in", before, item.piece))
            history = History((*old.steps[: old.at], step), old.at + 1)
    piece = replace(item.piece, name=f"{item.piece.name} (came in)") if choice == "copy" else item.piece
    book.put_body(identity, piece, history)
    book.put_tags(identity, item.tags)
    book.put_state(identity, item.state)
    book.put_parent(identity, names.get(item.parent, item.parent))
    for past in item.past:
        if all((r.name, r.made) != (past.name, past.made) for r in book.revisions(identity)):
            book.put_revision(new_id(), identity, past.name, past.piece, when=past.made)
    there = {p.id for p in book.photos(identity)}
    for photo in item.photos:
        if photo.id not in there:
            book.put_photo(replace(photo, id=photo.id if choice != "copy" else new_id(), piece=identity))
    return identity
