"""What really happened: pieces that were forged, and test pieces that were measured."""

from __future__ import annotations

from datetime import date

from long_ember import fields
from long_ember.beliefs import FACTORS
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.sections import Section

__all__ = ["CAUSES", "Basis", "Lean", "LogEntry", "Reject", "Sized", "Told"]

_FACTORS = tuple((f.key, f.title) for f in FACTORS)
CAUSES = (
    ("short", "came out short"), ("burnt", "burnt"), ("cracked", "cracked"), ("shut", "cold shut"), ("mark", "wrong mark"),
    ("slipped", "slipped"), ("bent", "bent wrong"), ("other", "something else"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Reject:
    """Pieces that did not come out.

    Args:
        cause: why.
        count: how many.
        salvaged: what was made of them.
    """

    cause: str = fields.choice("Because", "short", *CAUSES)
    count: int = fields.count("Rejected", 1, high=1000)
    salvaged: str = fields.text("Salvaged as")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Pictured:
    """A photo of what came out; the picture lies with those of the piece.

    Args:
        photo: id of the photo.
        name: of its file.
    """

    photo: str = fields.text("Photo")
    name: str = fields.text("Called")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Sized:
    """A size of a feature that was measured when the piece was cold.

    Args:
        feature: id in the piece.
        title: of the feature.
        name: of its field.
        label: of its field.
        planned: mm.
        value: mm.
    """

    feature: str = fields.text("Feature")
    title: str = fields.text("Called")
    name: str = fields.text("Field")
    label: str = fields.text("Size")
    planned: float = fields.length("Planned", 0.0, zero=True)
    value: float = fields.length("Measured", 0.0, zero=True)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Told:
    """What a measurement says of a factor.

    Args:
        factor: key.
        value: how far it lies from the usual, in the unit of the factor; ln of a multiple.
        deviation: standard deviation of that.
        words: where it comes from.
    """

    factor: str = fields.choice("Figure", "bend", *_FACTORS)
    value: float = fields.number("Off the usual by", 0.0, low=-10.0, high=10.0)
    deviation: float = fields.number("Give or take", 0.1, low=0.0, high=10.0)
    words: str = fields.text("From")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Lean:
    """How the length of bar hangs on a factor.

    Args:
        factor: key.
        amount: mm for one unit of it.
    """

    factor: str = fields.choice("Figure", "bend", *_FACTORS)
    amount: float = fields.number("For one unit", 0.0, low=-1e6, high=1e6, unit="mm")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Manner:
    """A manner of work in a plan.

    Args:
        verb: of its operations.
        share: of the time that it takes.
    """

    verb: str = fields.text("Work")
    share: float = fields.number("Share of the time", 0.0, low=0.0, high=1.0)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Basis:
    """What the plan would have been without any lessons: against that the entry is held, however the piece is changed later.

    Args:
        heats: planned.
        curve: heats as the work takes longer: number of heats and how many points of the grid they hold for, in turn.
        hot: min of all heats.
        cold: min of cold work.
        length: mm of bar.
        scale: mm of it that scale off.
        more_minutes: min of each heat more.
        more_scale: mm of each heat more.
        taken: share of the bar that all heats take, as a logarithm.
        removed: g cut away: slugs, trim, parting.
        heavy: g of each mm of bar.
        leans: on which figures the length hangs.
        manners: of work, each with its share of the time.
    """

    heats: int = fields.count("Heats", 0, low=0, high=100000)
    curve: str = fields.text("Heats as the work takes longer")
    hot: float = fields.number("Minutes of heats", 0.0, low=0.0, high=1e6, unit="min")
    cold: float = fields.number("Minutes of cold work", 0.0, low=0.0, high=1e6, unit="min")
    length: float = fields.number("Length of bar", 0.0, low=0.0, high=1e6, unit="mm")
    scale: float = fields.number("Of it scale", 0.0, low=0.0, high=1e6, unit="mm")
    more_minutes: float = fields.number("Minutes of a heat more", 0.0, low=0.0, high=1e6, unit="min")
    more_scale: float = fields.number("Scale of a heat more", 0.0, low=0.0, high=1e6, unit="mm")
    taken: float = fields.number("Share taken by all heats", 0.0, low=0.0, high=10.0)
    removed: float = fields.number("Cut away", 0.0, low=0.0, high=1e9, unit="g")
    heavy: float = fields.number("Bar", 0.0, low=0.0, high=1e6, unit="g/mm")
    leans: tuple[Lean, ...] = fields.rows("Hangs on", Lean)
    manners: tuple[Manner, ...] = fields.rows("Manners of work", Manner, late=1)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class LogEntry:
    """One piece, or a few alike, forged; nothing counts that nobody entered.

    Args:
        piece: id of the piece in the book.
        name: what it was called.
        number: which of its kind, of the first of them.
        day: it was forged; None where nobody wrote it down.
        heats: each took; 0 when nobody counted.
        minutes: each took; 0 when nobody looked.
        planned_heats: the plan said.
        planned_minutes: the plan said.
        factor: by how much the plan was already lengthened by earlier entries; of entries without a basis.
        note: how it came out.
        job: id of the job it was for.
        smith: who forged it.
        fire: key of the fire.
        good: how many came out good.
        rejects: those that did not.
        came: to length, short, long, or not said.
        off: mm of bar by which it came short or long.
        over_all: mm, length of the finished piece along its middle; 0 where it was not measured.
        planned_over_all: mm.
        sawn: mm that was sawn; 0: as the plan said.
        planned_sawn: mm.
        blank: g of the bar before; 0 where it was not weighed.
        mass: g of the piece after.
        bar: that was used; None: as planned.
        sizes: of its features.
        told: what its sizes, or a test piece, say of the figures in doubt.
        trial: it is a test piece.
        set_aside: it teaches nothing, because the smith said so.
        photos: of what came out.
        basis: of the plan; none in entries of before.
    """

    piece: str = fields.record("Piece", "piece")
    name: str = fields.text("Name")
    number: int = fields.count("Which of its kind", 1, high=10000)
    day: date | None = fields.day("Day")
    heats: int = fields.count("Heats it took", 0, low=0, high=1000, tip="Empty when nobody counted.")
    minutes: float = fields.number(
        "Minutes it took", 0.0, low=0.0, high=1e4, unit="min", tip="At fire and anvil; empty when nobody looked."
    )
    planned_heats: int = fields.count("Heats planned", 0, low=0, high=1000)
    planned_minutes: float = fields.number("Minutes planned", 0.0, low=0.0, high=1e5, unit="min")
    factor: float = fields.number("Plan lengthened by", 1.0, low=0.01, high=100.0)
    note: str = fields.text("How it came out")
    job: str = fields.record("Job", "job", late=1)
    smith: str = fields.text("Smith", late=1)
    fire: str = fields.text("Fire", late=1)
    good: int = fields.count("Good ones", 1, low=0, high=10000, late=1)
    rejects: tuple[Reject, ...] = fields.rows("Rejects", Reject, late=1)
    came: str = fields.choice(
        "It came", "unsaid", ("unsaid", "not said"), ("right", "to length"), ("short", "short by"), ("long", "long by"), late=1
    )
    off: float = fields.length("By", 0.0, zero=True, tip="Of bar, or of the straight part where it shows.", late=1)
    over_all: float = fields.length(
        "Length along it", 0.0, zero=True, tip="Along its middle, when it is cold; empty when not measured.", late=1
    )
    planned_over_all: float = fields.length("Planned length along it", 0.0, zero=True, late=1)
    sawn: float = fields.length("Sawn at", 0.0, zero=True, tip="Where it was another length than the plan's.", late=1)
    planned_sawn: float = fields.length("Planned to saw", 0.0, zero=True, late=1)
    blank: float = fields.mass("Bar before", 0.0, high=1e7, unit="g", tip="Weighed; empty when not.", late=1)
    mass: float = fields.mass("Piece after", 0.0, high=1e7, unit="g", tip="Weighed; empty when not.", late=1)
    bar: Section | None = fields.section("Bar used", None, optional=True, tip="Where it was another than the plan's.", late=1)
    sizes: tuple[Sized, ...] = fields.rows("Sizes measured", Sized, late=1)
    told: tuple[Told, ...] = fields.rows("What it says", Told, late=1)
    trial: bool = fields.flag("Test piece", False, late=1)
    set_aside: bool = fields.flag("Set aside", False, "it teaches", "it teaches nothing", late=1)
    photos: tuple[Pictured, ...] = fields.rows("Photos", Pictured, late=1)
    basis: tuple[Basis, ...] = fields.rows("Reckoned against", Basis, late=1)

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def spoilt(self) -> int:
        """How many did not come out."""
        return sum(int(r.count) for r in self.rejects)

    @property
    def length_off(self) -> float | None:
        """mm of bar that it lacked (less than 0) or had over; None where nothing is said of it."""
        if self.came in ("short", "long", "right"):
            return {"short": -self.off, "long": self.off, "right": 0.0}[self.came]
        if self.over_all and self.planned_over_all:
            return self.over_all - self.planned_over_all
        return None
