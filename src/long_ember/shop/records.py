"""What a book keeps beside its pieces: the rack, prices, jobs, assemblies."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from long_ember.features import fields
from long_ember.features.fields import check_fields
from long_ember.materials import MATERIALS
from long_ember.sections import Section, square
from long_ember.shop.assembly import Assembly
from long_ember.shop.log import LogEntry

__all__ = ["PLURALS", "RECORDS", "Job", "JobLine", "Price", "RackItem", "Record", "pieces_of", "record_kind", "with_pieces"]

_MATERIALS = tuple((m.key, m.title) for m in MATERIALS.values())


@dataclass(frozen=True, kw_only=True)
class RackItem:
    """Bars or offcuts of one kind and length on the rack.

    Args:
        material: key of `MATERIALS`.
        section: of the bar.
        length: mm each.
        count: how many.
        source: bar or offcut.
        place: where they lie.
    """

    material: str = fields.choice("Material", "mild-steel", *_MATERIALS)
    section: Section = fields.section("Section", square(12.0))
    length: float = fields.length("Length", 3000.0)
    count: int = fields.count("Count", 1, low=0)
    source: str = fields.choice("Kind", "bar", ("bar", "bar"), ("offcut", "offcut"))
    place: str = fields.text("Place")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Price:
    """A size in the shop's catalogue, with what one bar of it costs in the shop's own money.

    Args:
        material: key of `MATERIALS`.
        section: of the bar.
        length: mm of the bar as sold.
        price: for one; 0 while nobody has said.
        seller: where, or "".
        sold: yes, or no for a common size that is not to be had here.
    """

    material: str = fields.choice("Material", "mild-steel", *_MATERIALS)
    section: Section = fields.section("Section", square(12.0))
    length: float = fields.length("Length", 3000.0)
    price: float = fields.number("Price", 0.0, low=0.0, high=1e6, tip="For one bar, in your own money; 0 while you do not know.")
    seller: str = fields.text("Seller")
    sold: str = fields.choice("Sold here", "yes", ("yes", "yes"), ("no", "no"), late=True)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class JobLine:
    """So many of one piece.

    Args:
        piece: id of the piece in the book.
        quantity: wanted.
        spare: made besides, for rejects.
    """

    piece: str = fields.text("Piece")
    quantity: int = fields.count("Quantity", 1, high=10000)
    spare: int = fields.count("Spare", 0, low=0, high=10000)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Job:
    """Pieces and quantities wanted together.

    Args:
        name: what it is called.
        due: day, as written.
        note: for whom and what for.
        state: how far it is.
        lines: pieces × quantities.
    """

    name: str = fields.text("Job", "New job")
    due: str = fields.text("Due")
    note: str = fields.text("Note")
    state: str = fields.choice("State", "planned", ("planned", "planned"), ("forging", "at the fire"), ("done", "done"))
    lines: tuple[JobLine, ...] = fields.rows("Pieces", JobLine)

    def __post_init__(self) -> None:
        check_fields(self)


Record = RackItem | Price | Job | Assembly | LogEntry
RECORDS: dict[str, type[RackItem] | type[Price] | type[Job] | type[Assembly] | type[LogEntry]] = {
    "rack": RackItem, "price": Price, "job": Job, "assembly": Assembly, "log": LogEntry,
}  # fmt: skip
PLURALS = {"rack": "rack", "price": "prices", "job": "jobs", "assembly": "assemblies", "log": "log"}  # in files and in words


def record_kind(record: Record) -> str:
    """The key of a record's class in `RECORDS`."""
    return next(kind for kind, cls in RECORDS.items() if isinstance(record, cls))


def pieces_of(record: Record) -> tuple[str, ...]:
    """Ids of the pieces a record speaks of, each once."""
    if isinstance(record, LogEntry):
        return (record.piece,) if record.piece else ()
    rows = record.lines if isinstance(record, Job) else record.parts if isinstance(record, Assembly) else ()
    return tuple(dict.fromkeys(row.piece for row in rows))


def with_pieces(record: Record, names: Mapping[str, str]) -> Record:
    """The same record where pieces are called otherwise: new id by old id."""
    if isinstance(record, Job):
        return replace(record, lines=tuple(replace(row, piece=names.get(row.piece, row.piece)) for row in record.lines))
    if isinstance(record, Assembly):
        return replace(record, parts=tuple(replace(row, piece=names.get(row.piece, row.piece)) for row in record.parts))
    return replace(record, piece=names.get(record.piece, record.piece)) if isinstance(record, LogEntry) else record
