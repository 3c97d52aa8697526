"""What travels between books: pieces with their photos and revisions, records, the shop; as JSON, or as ZIP with the pictures."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Iterable, Iterator
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from long_ember.errors import EmberError, FileProblem, PieceFileError, SaveError
from long_ember.features import Piece
from long_ember.fields import fields_out
from long_ember.frozen import dataclass
from long_ember.plain import clean
from long_ember.records import PLURALS, RECORDS, Assembly, Job, Record, Shop, pieces_of, record_kind
from long_ember.storage.book import STATES, Book, Photo, new_id
from long_ember.storage.models import Reader
from long_ember.storage.photos import LARGEST_KEPT, photo_from_bytes
from long_ember.storage.piece_file import FORMAT, PieceReader, piece_data
from long_ember.storage.upgrades import upgraded_record, upgraded_shop

if TYPE_CHECKING:
    import zipfile

__all__ = [
    "PARCEL_FORMAT",
    "PARCEL_VERSION",
    "Parcel",
    "Past",
    "PieceItem",
    "pack",
    "parcel_text",
    "parcel_zip",
    "read_parcel_file",
    "record_parcel",
]

PARCEL_FORMAT = "long-ember book"
PARCEL_VERSION = 2  # 1 is still read
LARGEST_PARCEL = 40_000_000  # bytes of JSON: five thousand pieces and fifty thousand entries of the log
_LARGEST_ZIP = 400_000_000
_MOST_FILES = 20_000
_TOLD = 20  # pieces and records between two words of how far it is
_FIRST = ("rack", "price", "job")  # lists that every parcel has; later ones only where there is something in them
_ID = r"[A-Za-z0-9_-]{1,64}"


@dataclass(frozen=True)
class Past:
    """A named revision."""

    name: str
    made: float
    piece: Piece


@dataclass(frozen=True)
class PieceItem:
    """A piece with all that belongs to it."""

    id: str
    piece: Piece
    state: str = "kept"
    tags: tuple[str, ...] = ()
    parent: str = ""
    past: tuple[Past, ...] = ()
    photos: tuple[Photo, ...] = ()


@dataclass(frozen=True)
class Parcel:
    """Some or all of a book.

    Args:
        pieces: with all that belongs to them.
        records: by id.
        shop: None where it does not travel.
    """

    pieces: tuple[PieceItem, ...] = ()
    records: tuple[tuple[str, Record], ...] = ()
    shop: Shop | None = None


def pack(book: Book, pieces: Iterable[str] | None = None, kinds: Iterable[str] = (), *, shop: bool = False, photos: bool = False) -> Parcel:
    """Take things out of a book; it stays as it is.

    Args:
        book: to read.
        pieces: ids; None for all, the trash too.
        kinds: of records, see `RECORDS`.
        shop: take it along.
        photos: take them along.

    Raises:
        BookError: something is damaged.
    """
    entries = {e.id: e for e in book.entries()}
    items = []
    for identity in entries if pieces is None else pieces:
        entry = entries[identity]
        past = tuple(Past(r.name, r.made, book.revision(r.id)) for r in book.revisions(identity))
        pictures = tuple(book.photo(p.id) for p in book.photos(identity)) if photos else ()
        items.append(PieceItem(identity, book.piece(identity), entry.state, entry.tags, entry.parent, past, pictures))
    records = tuple((i, record) for kind in kinds for i, record in book.records(RECORDS[kind]).items())
    return Parcel(tuple(items), records, book.shop if shop else None)


def record_parcel(book: Book, kind: str, record_id: str, *, photos: bool = False) -> Parcel:
    """A job or an assembly with the pieces it asks for, a job with its assemblies too."""
    record = book.records(RECORDS[kind])[record_id]
    assemblies = book.records(Assembly) if isinstance(record, Job) else {}
    wanted = dict.fromkeys(row.assembly for row in record.sets) if isinstance(record, Job) else {}
    records = {record_id: record, **{i: assemblies[i] for i in wanted if i in assemblies}}
    known = {e.id for e in book.entries()}
    pieces = dict.fromkeys(i for r in records.values() for i in pieces_of(r) if i in known)
    return replace(pack(book, list(pieces), photos=photos), records=tuple(records.items()))


def parcel_text(parcel: Parcel) -> str:
    """The JSON file; pictures only by name.

    Raises:
        SaveError: it would be larger than what can be brought in again.
    """
    data: dict[str, Any] = {"format": PARCEL_FORMAT, "version": PARCEL_VERSION, "pieces": [_item_out(item) for item in parcel.pieces]}
    for kind, name in PLURALS.items():
        rows = [{"id": i, **fields_out(record)} for i, record in parcel.records if record_kind(record) == kind]
        if rows or kind in _FIRST:
            data[name] = rows
    if parcel.shop is not None:
        data["shop"] = fields_out(parcel.shop)
    text = json.dumps(data, ensure_ascii=False, indent=1, allow_nan=False) + "\n"
    _held_to(len(text.encode("utf-8")), LARGEST_PARCEL, "pieces and records")
    return text


def _held_to(size: int, limit: int, what: str) -> None:
    """Nothing is written that could not be brought in again."""
    if size > limit:
        words = f"its {what} are {size // 1_000_000} MB, and at most {limit // 1_000_000} MB can be brought in again"
        raise SaveError("The file", f"{words}: write fewer at once, or copy the book itself, which can be brought in whole")


def _item_out(item: PieceItem) -> dict[str, Any]:
    return {
        "id": item.id, "state": item.state, "tags": list(item.tags), "parent": item.parent, "piece": piece_data(item.piece),
        "revisions": [{"name": p.name, "made": p.made, "piece": piece_data(p.piece)} for p in item.past],
        "photos": [{"id": p.id, "name": p.name} for p in item.photos],
    }  # fmt: skip


def parcel_zip(parcel: Parcel) -> bytes:
    """The same with the pictures, as ZIP: `book.json` and `photos/<id>.jpg`.

    Raises:
        SaveError: it would be larger than what can be brought in again.
    """
    import zipfile  # with its packers loaded when one is written or read

    target = io.BytesIO()
    pictures = [len(photo.data) for item in parcel.pieces for photo in item.photos]
    _held_to(sum(pictures) + LARGEST_PARCEL, _LARGEST_ZIP, "pictures")
    if len(pictures) >= _MOST_FILES:
        raise SaveError("The file", f"it has more than {_MOST_FILES - 1:,} pictures: write fewer pieces at once, or copy the book itself")
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("book.json", parcel_text(parcel))
        for item in parcel.pieces:
            for photo in item.photos:
                archive.writestr(f"photos/{photo.id}.jpg", photo.data, zipfile.ZIP_STORED)
    return target.getvalue()


def read_parcel_file(path: Path, progress: Callable[[int, int], None] | None = None) -> Parcel:
    """Read a piece, a parcel or a ZIP of one.

    Args:
        path: of the file.
        progress: called with how many pieces and records are read, and of how many; it may raise, to leave it.

    Raises:
        PieceFileError: with everything that is wrong; nothing is half read.
    """
    limit = _LARGEST_ZIP if path.suffix.lower() == ".zip" else LARGEST_PARCEL
    try:
        if path.stat().st_size > limit:
            raise _fault(path, f"is larger than {limit // 1_000_000} MB")
        if path.suffix.lower() == ".zip":
            return _read_zip(path, progress)
        with path.open("rb") as file:
            text = file.read(limit).decode("utf-8-sig")
    except OSError as error:
        raise _fault(path, error.strerror or str(error)) from error
    except UnicodeDecodeError as error:
        raise _fault(path, f"is not text: byte {error.start} is not UTF-8") from error
    return _parsed(text, str(path), {}, progress)


def _fault(path: Path, message: str) -> PieceFileError:
    return PieceFileError(str(path), (FileProblem("$", message),))


def _read_zip(path: Path, progress: Callable[[int, int], None] | None) -> Parcel:
    import zipfile

    try:
        with zipfile.ZipFile(path) as archive:
            members = archive.infolist()
            problem = _suspicious(members)
            if problem:
                raise _fault(path, problem)
            text = _member(archive, "book.json", LARGEST_PARCEL).decode("utf-8-sig")
            names = {m.filename for m in members}
            photos = {i: f"photos/{i}.jpg" for i in _photo_ids(text) if f"photos/{i}.jpg" in names}
            return _parsed(text, str(path), {i: _member(archive, name, LARGEST_KEPT) for i, name in photos.items()}, progress)
    except EmberError:
        raise
    except Exception as error:  # a damaged archive raises whatever its decompressor does
        raise _fault(path, f"can't be read as a ZIP of a book: {str(error)[:120] or type(error).__name__}") from error


def _suspicious(members: list[zipfile.ZipInfo]) -> str:
    if len(members) > _MOST_FILES:
        return f"holds more than {_MOST_FILES} files"
    for member in members:
        name = member.filename
        if name.startswith(("/", "\\")) or ".." in name.split("/") or "\\" in name or ":" in name:
            return f"holds a file that points outside of it: {name[:80]}"
        if member.flag_bits & 1:
            return "is locked with a password"
    if not any(m.filename == "book.json" for m in members):
        return "holds no book.json"
    if sum(m.file_size for m in members) > _LARGEST_ZIP:
        return f"would unpack to more than {_LARGEST_ZIP // 1_000_000} MB"
    return ""


def _member(archive: zipfile.ZipFile, name: str, limit: int) -> bytes:
    """A file of the archive, read no further than its limit: what the directory says of its size may be a lie."""
    with archive.open(name) as file:
        content = file.read(limit + 1)
    if len(content) > limit:
        raise ValueError(f"{name} is larger than {limit // 1_000_000} MB")
    return content


def _photo_ids(text: str) -> list[str]:
    data = Reader().parsed(text)
    try:
        return [str(p["id"]) for item in data["pieces"] for p in item["photos"] if re.fullmatch(_ID, str(p["id"]))]
    except (KeyError, TypeError):
        return []  # the reader says what is wrong


def _parsed(text: str, source: str, photos: dict[str, bytes], progress: Callable[[int, int], None] | None) -> Parcel:
    reader = _ParcelReader(photos, progress)
    parcel = reader.read(text, reader.any)
    if parcel is None:
        raise PieceFileError(source, tuple(reader.problems))
    return parcel


class _ParcelReader(PieceReader):
    """Builds a parcel from parsed JSON."""

    def __init__(self, photos: dict[str, bytes], progress: Callable[[int, int], None] | None) -> None:
        super().__init__()
        self._photos, self._progress, self._read, self._whole = photos, progress, 0, 0

    def any(self, data: Any) -> Parcel:
        """A parcel, or a piece file as a parcel of one."""
        return self._lone(data) if isinstance(data, dict) and data.get("format") == FORMAT else self._parcel(data)

    def _lone(self, data: Any) -> Parcel:
        piece = self.piece(data)
        return Parcel() if piece is None else Parcel((PieceItem(new_id(), piece),))

    def _parcel(self, data: Any) -> Parcel:
        if not isinstance(data, dict) or data.get("format") != PARCEL_FORMAT:
            self.say("$.format", f"must be {FORMAT!r} or {PARCEL_FORMAT!r}: this is neither a piece nor a book")
            return Parcel()
        version = data.get("version")
        if not self.version(version, 1, PARCEL_VERSION, "$.version"):
            return Parcel()
        if version == 1:
            self._upgrade(data)
        for key in data.keys() - {"format", "version", "pieces", "shop", *PLURALS.values()}:
            self.say(f"$.{key}", "is not known here")
        self._whole = sum(len(rows) for name in ("pieces", *PLURALS.values()) if isinstance(rows := data.get(name), list))
        items = [self._item(item, f"$.pieces[{i}]") for i, item in self._counted(data, "pieces")]
        records = [
            self._record(row, RECORDS[kind], f"$.{name}[{i}]") for kind, name in PLURALS.items() for i, row in self._counted(data, name)
        ]
        shop = (
            self.model(Shop, {**fields_out(Shop()), **data["shop"]} if isinstance(data["shop"], dict) else data["shop"], "$.shop")
            if "shop" in data
            else None
        )
        ids = [i.id for i in items if i is not None]
        if len(set(ids)) != len(ids):
            self.say("$.pieces", "hold the same id twice")
        return Parcel(tuple(i for i in items if i is not None), tuple(r for r in records if r is not None), shop)

    def _counted(self, data: dict[str, Any], name: str) -> Iterator[tuple[int, Any]]:
        """Give out the rows of a list with their numbers, and tell how far it is."""
        for i, row in enumerate(self._list(data, name, "$")):
            if self._progress is not None and self._read % _TOLD == 0:
                self._progress(self._read, self._whole)
            self._read += 1
            yield i, row

    def _upgrade(self, data: dict[str, Any]) -> None:
        for kind, name in PLURALS.items():
            rows = data.get(name)
            for row in rows if isinstance(rows, list) else ():
                upgraded_record(kind, row)
        upgraded_shop(data.get("shop"))

    def _list(self, data: dict[str, Any], key: str, path: str) -> list[Any]:
        found = data.get(key, [])
        if isinstance(found, list):
            return found
        self.say(f"{path}.{key}", "must be a list")
        return []

    def _identity(self, data: Any, path: str) -> str:
        identity = data.get("id") if isinstance(data, dict) else None
        if isinstance(identity, str) and re.fullmatch(_ID, identity):
            return identity
        self.say(f"{path}.id", "must be an id of letters and digits")
        return ""

    def _item(self, data: Any, path: str) -> PieceItem | None:
        identity = self._identity(data, path)
        if not identity:
            return None
        tags, state, parent = data.get("tags", []), data.get("state", "kept"), data.get("parent", "")
        if not isinstance(tags, list) or not all(isinstance(t, str) and "\n" not in t for t in tags):
            self.say(f"{path}.tags", "must be a list of words")
            tags = []
        if state not in STATES:
            self.say(f"{path}.state", "must be one of " + ", ".join(STATES))
        if not isinstance(parent, str):
            self.say(f"{path}.parent", "must be text")
        piece = self.piece(data.get("piece"), f"{path}.piece")
        past = [self._past(p, f"{path}.revisions[{i}]") for i, p in enumerate(self._list(data, "revisions", path))]
        photos = [self._photo(p, identity, f"{path}.photos[{i}]") for i, p in enumerate(self._list(data, "photos", path))]
        if piece is None:
            return None
        return PieceItem(
            identity,
            piece,
            str(state),
            tuple(map(clean, tags)),
            clean(str(parent)),
            tuple(p for p in past if p),
            tuple(p for p in photos if p),
        )

    def _past(self, data: Any, path: str) -> Past | None:
        if not isinstance(data, dict) or not isinstance(data.get("name"), str):
            self.say(f"{path}.name", "must be text")
            return None
        made = data.get("made")
        if isinstance(made, bool) or not isinstance(made, (int, float)) or not 0 <= made < 1e11:
            self.say(f"{path}.made", "must be seconds since 1970")
            return None
        piece = self.piece(data.get("piece"), f"{path}.piece")
        return None if piece is None else Past(clean(data["name"]), float(made), piece)

    def _photo(self, data: Any, piece_id: str, path: str) -> Photo | None:
        identity = self._identity(data, path)
        content = self._photos.get(identity)
        if content is None:  # a parcel without its pictures is whole but for them
            return None
        try:
            made = photo_from_bytes(content, str(data.get("name", "")), piece_id)
        except PieceFileError as error:
            self.say(path, str(error.problems[0].message))
            return None
        return replace(made, id=identity)

    def _record(self, data: Any, cls: Any, path: str) -> tuple[str, Record] | None:
        identity = self._identity(data, path)
        record = self.model(cls, data, path, also=("id",))
        return None if record is None or not identity else (identity, record)
