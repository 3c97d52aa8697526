"""A job: what is wanted, how many, for whom and by when, what else goes into it, and what is asked for it."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import date

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.materials import MATERIALS

__all__ = ["FITTINGS", "Fitting", "Job", "JobBlank", "JobLine", "JobSet", "StoreItem", "spares"]

_MATERIALS = tuple((m.key, m.title) for m in MATERIALS.values())
# key: what it is called; fittings stay on the work, consumables are used up, means are made or kept.
FITTINGS: dict[str, str] = {
    "rivet": "rivet", "screw": "screw", "bolt": "bolt and nut", "washer": "washer", "pin": "pin", "bought": "bought part",
    "rod": "welding rod", "flux": "flux", "oil": "oil", "wax": "wax or coating", "bit": "drill bit, tap", "strip": "auxiliary strip",
    "mandrel": "mandrel", "jig": "jig or fixture", "other": "other",
}  # fmt: skip
_KINDS = tuple(FITTINGS.items())


def spares(quantity: int, rejects: float) -> int:
    """Pieces begun besides so many, where a share of all pieces begun is rejected: quantity / (1 − share), rounded up, less the quantity.

    >>> spares(8, 0.1), spares(8, 0.0)
    (1, 0)
    """
    return math.ceil(quantity / (1 - rejects) - 1e-9) - quantity if rejects < 1 else 0


@dataclass(frozen=True, kw_only=True)
class JobLine:
    """So many of one piece.

    Args:
        piece: id of the piece in the book.
        quantity: wanted.
        spare: made besides, for rejects; the job's reject rate may ask for more.
    """

    piece: str = fields.record("Piece", "piece")
    quantity: int = fields.count("Quantity", 1, high=10000, tip="Good ones that are wanted.")
    spare: int = fields.count("Spare", 0, low=0, high=10000, tip="At least; a reject rate may ask for more.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class JobSet:
    """So many of one assembly: all its parts, and the rivets of its joins.

    Args:
        assembly: id of the assembly in the book.
        quantity: wanted.
    """

    assembly: str = fields.record("Assembly", "assembly")
    quantity: int = fields.count("Quantity", 1, high=10000, tip="Assemblies that are wanted; their pieces follow.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class JobBlank:
    """Rectangles cut from sheet or plate.

    Args:
        name: what becomes of them.
        length: mm, along the grain where there is one.
        width: mm.
        thickness: of the sheet, mm.
        material: key of `MATERIALS`.
        count: how many.
        grain: any, or along the sheet: it must not be turned, because it is bent across the rolling direction.
    """

    name: str = fields.text("Blank", "Blank", tip="What it is called on the cut list.")
    length: float = fields.length("Length", 100.0, tip="Along the sheet where its grain runs along.")
    width: float = fields.length("Width", 60.0, tip="Across.")
    thickness: float = fields.sheet("Thickness", 2.0)
    material: str = fields.choice("Material", "mild-steel", *_MATERIALS, tip="What it is of.")
    count: int = fields.count("Count", 1, high=10000, tip="How many.")
    grain: str = fields.choice(
        "Grain", "any", ("any", "either way"), ("along", "length along the sheet"), tip="Whether it may lie either way on the sheet."
    )

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Fitting:
    """Something that goes into a job besides forged steel.

    Args:
        name: what it is.
        kind: key of `FITTINGS`.
        quantity: how many, or how much.
        unit: of the quantity, "" for pieces.
        price: of one, in the shop's money; 0: the price in the shop's stores, if it is there.
    """

    name: str = fields.text("Fitting", tip="What it is: a screw, a pane, a chain.")
    kind: str = fields.choice("Kind", "bought", *_KINDS, tip="Bought, or from the tins and drawers.")
    quantity: float = fields.number("Quantity", 1.0, low=0.0, high=1e6, tip="For the whole job.")
    unit: str = fields.text("Unit", tip="Pieces, kg, m: as it is counted.")
    price: float = fields.number("Price of one", 0.0, low=0.0, high=1e6, tip="0: as in the shop's stores.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class StoreItem:
    """What the shop keeps in tins and drawers, with its price.

    Args:
        name: what it is; fittings of a job that begin with it are priced so.
        kind: key of `FITTINGS`.
        there: how many, or how much there is.
        unit: "" for pieces.
        price: of one.
    """

    name: str = fields.text("Name", tip="What lies there.")
    kind: str = fields.choice("Kind", "bought", *_KINDS, tip="What it is used for.")
    there: float = fields.number("There is", 0.0, low=0.0, high=1e6, tip="How much there is now.")
    unit: str = fields.text("Unit", tip="Pieces, kg, m: as it is counted.")
    price: float = fields.number("Price of one", 0.0, low=0.0, high=1e6, tip="In your own money.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Job:
    """Pieces, assemblies and blanks wanted together.

    Args:
        name: what it is called.
        due: the day; None while nobody has said.
        note: for whom and what for.
        state: how far it is; a template is there to begin others from.
        lines: pieces × quantities.
        rejects: share of the pieces begun that come out wrong.
        sets: assemblies × quantities.
        blanks: from sheet and plate.
        fittings: besides those that follow from the pieces.
        bundle: pieces in a bundle that is priced by itself.
        sale: who it is sold to, which sets what is put on top.
        asked: money asked for the whole job; 0 while nothing is.
    """

    name: str = fields.text("Job", "New job", tip="What everybody calls it.")
    due: date | None = fields.day("Due")
    note: str = fields.text("Note", tip="Whom it is for, where it goes, what was agreed.")
    state: str = fields.choice(
        "State",
        "planned",
        ("planned", "planned"),
        ("forging", "at the fire"),
        ("done", "done"),
        ("template", "a template"),
        tip="Asked, ordered, at work, done.",
    )
    lines: tuple[JobLine, ...] = fields.rows("Pieces", JobLine)
    rejects: float = fields.percent("Rejects", 0.0, high=0.5, tip="Share of the pieces begun that come out wrong.", late=True)
    sets: tuple[JobSet, ...] = fields.rows("Assemblies", JobSet, late=True)
    blanks: tuple[JobBlank, ...] = fields.rows("Blanks of sheet", JobBlank, late=True)
    fittings: tuple[Fitting, ...] = fields.rows("Fittings", Fitting, late=True)
    bundle: int = fields.count(
        "Priced by the", 6, high=1000, tip="So many together get a price of their own, beside one and the whole job.", late=True
    )
    sale: str = fields.choice(
        "Sold",
        "market",
        ("market", "to the customer"),
        ("wholesale", "to a dealer"),
        late=True,
        tip="Which share is put on top of all costs.",
    )
    asked: float = fields.number("Price asked", 0.0, low=0.0, high=1e9, tip="For the whole job; 0: as reckoned.", late=True)

    def __post_init__(self) -> None:
        check_fields(self)

    def begun(self, line: JobLine) -> int:
        """Pieces begun for a line: wanted, and spares for what comes out wrong."""
        return int(line.quantity) + max(int(line.spare), spares(int(line.quantity), self.rejects))

    def again(self) -> Job:
        """A job begun from this one: nothing of it is made, due or asked yet."""
        name = self.name if self.state == "template" else f"{self.name}, again"
        return replace(self, name=name, state="planned", due=None, asked=0.0)
