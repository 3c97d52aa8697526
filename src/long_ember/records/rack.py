"""What a book keeps beside its pieces: the rack, prices, jobs, assemblies, the log, cut lists."""

from __future__ import annotations

from collections.abc import Mapping

from long_ember import fields
from long_ember.fields import check_fields, named_in, renamed
from long_ember.frozen import dataclass
from long_ember.materials import MATERIALS
from long_ember.records.assembly import Assembly
from long_ember.records.cutlist import SavedCutList
from long_ember.records.forging import Forging
from long_ember.records.job import Job
from long_ember.records.log import LogEntry
from long_ember.records.start import Start
from long_ember.sections import Section, square

__all__ = ["OFFERS", "PLURALS", "RECORDS", "Price", "RackItem", "Record", "kind_of", "pieces_of", "record_kind", "with_ids"]

OFFERS = (
    ("unit", "sizes of the unit in use"),
    ("mm", "metric sizes"),
    ("in", "inch sizes"),
    ("both", "both"),
    ("own", "only what I list in the catalogue"),
)
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

    material: str = fields.choice("Material", "mild-steel", *_MATERIALS, tip="What it is of; unknown scrap is better kept apart.")
    section: Section = fields.section("Section", square(12.0), tip="For example 12 sq, 10 rd, 30x10.")
    length: float = fields.length("Length", 3000.0, tip="Of one of them, as it lies there.")
    count: int = fields.count("Count", 1, low=0, tip="How many of this length; 0 when they are used up.")
    source: str = fields.choice("Kind", "bar", ("bar", "bar"), ("offcut", "offcut"), tip="Offcuts are used before whole bars.")
    place: str = fields.text("Place", tip="Where it lies, so that it is found.")

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def words(self) -> str:
        """Where it comes from, in words."""
        return f"{self.source} on the rack{', ' + self.place if self.place else ''}"


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

    material: str = fields.choice("Material", "mild-steel", *_MATERIALS, tip="What it is of.")
    section: Section = fields.section("Section", square(12.0), tip="For example 12 sq, 10 rd, 30x10.")
    length: float = fields.length("Length", 3000.0, tip="Of one bar as it is sold.")
    price: float = fields.number("Price", 0.0, low=0.0, high=1e6, tip="For one bar, in your own money; 0 while you do not know.")
    seller: str = fields.text("Seller", tip="Whom it is bought from.")
    sold: bool = fields.flag("Sold here", True, late=True, tip="Sizes that cannot be had are left out of every choice.")

    def __post_init__(self) -> None:
        check_fields(self)


Record = RackItem | Price | Job | Assembly | LogEntry | SavedCutList | Start | Forging
RECORDS: dict[str, type[RackItem] | type[Price] | type[Job] | type[Assembly] | type[LogEntry] | type[SavedCutList] | type[Start] | type[Forging]] = {
    "rack": RackItem, "price": Price, "job": Job, "assembly": Assembly, "log": LogEntry, "cuts": SavedCutList, "start": Start, "forging": Forging,
}  # fmt: skip
PLURALS = {
    "rack": "rack",
    "price": "prices",
    "job": "jobs",
    "assembly": "assemblies",
    "log": "log",
    "cuts": "cuts",
    "start": "starts",
    "forging": "forgings",
}  # in files and in words


def kind_of(cls: type[object]) -> str:
    """The key of a class in `RECORDS`."""
    return next(kind for kind, known in RECORDS.items() if known is cls)


def record_kind(record: Record) -> str:
    """The key of a record's class in `RECORDS`."""
    return next(kind for kind, cls in RECORDS.items() if isinstance(record, cls))


def pieces_of(record: Record) -> tuple[str, ...]:
    """Ids of the pieces a record speaks of, each once."""
    return named_in(record, "piece")


def with_ids(record: Record, names: Mapping[str, str]) -> Record:
    """The same record where pieces and other records are called otherwise: new id by old id."""
    found: Record = renamed(record, names)
    return found
