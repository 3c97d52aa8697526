"""An assembly: parts that join, and the handle that makes a tool of them."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass

__all__ = ["HANDLES", "JOINS", "LETTERS", "ROLES", "Assembly", "AssemblyPart", "Join"]

LETTERS = "ABCDEFGHJKLM"
# key: what is joined, what the first place is, what the others are.
JOINS: dict[str, tuple[str, str, str]] = {
    "tenon": ("tenon in hole", "the tenon", "the hole"),
    "rivet": ("rivet through stack", "the first hole", "the hole under it"),
    "pin": ("pin and eye", "the pin", "the eye"),
    "link": ("ring on staple", "the ring", "the staple's crown"),
}
# What the first place and the second must be able to be; a third one is a hole.
ROLES = {"tenon": ("pin", "hole"), "rivet": ("hole", "hole"), "pin": ("pin", "eye"), "link": ("ring", "crown")}
# Density of seasoned wood, and of steel, g/mm³.
HANDLES = {"none": 0.0, "ash": 0.68e-3, "beech": 0.72e-3, "hickory": 0.82e-3, "steel": 7.85e-3}


@dataclass(frozen=True, kw_only=True)
class AssemblyPart:
    """One part of an assembly; parts are called A, B, C in their order.

    Args:
        piece: id of the piece in the book.
        side: made, or mate: its mirror image, the other of a pair.
    """

    piece: str = fields.record("Piece", "piece")
    side: str = fields.choice(
        "Side", "made", ("made", "as planned"), ("mate", "its mate, the other hand"), tip="As planned, or its mirror image."
    )

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Join:
    """How two parts, or a stack of three, hold together.

    Args:
        kind: a key of `JOINS`.
        first: part letter and feature id, as `A.f7`.
        second: the same, of what it goes into, round or over.
        third: of a stack, "" for none.
        diameter: of the rivet's shank, mm; other joins do not use it.
        head: of the rivet, at each end: made heads both, or one of them there already.
        face: side of the second part that the first stands on.
        turn: degrees of the first part about the joint.
    """

    kind: str = fields.choice("Join", "tenon", *((key, words[0]) for key, words in JOINS.items()), tip="How the two parts hold each other.")
    first: str = fields.text("First")
    second: str = fields.text("Second")
    third: str = fields.text("Third")
    diameter: float = fields.length("Rivet", 6.0, tip="Of the rivet or pin.")
    head: str = fields.choice(
        "Rivet heads", "one", ("one", "one there, one to make"), ("both", "both to make"), ("flush", "one there, one countersunk")
    )
    face: str = fields.choice("From", "up", ("up", "its upper face"), ("down", "its lower face"), tip="The face that the head lies on.")
    turn: float = fields.angle("Turned", 0.0, low=-360.0, high=360.0, tip="About the joint.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Assembly:
    """Parts, joins and a handle.

    Args:
        name: what it is called.
        note: anything worth keeping.
        parts: called A, B, C in this order.
        joins: what holds them together.
        handle: key of `HANDLES`.
        handle_length: mm.
        handle_across: diameter, mm.
        handle_on: part letter and end, as `A.B`: it goes on from there.
        handle_over: mm of the part that the handle covers.
    """

    name: str = fields.text("Assembly", "New assembly", tip="What everybody calls it.")
    note: str = fields.text("Note", tip="Where it goes, what was agreed.")
    parts: tuple[AssemblyPart, ...] = fields.rows("Parts", AssemblyPart)
    joins: tuple[Join, ...] = fields.rows("Joins", Join)
    handle: str = fields.choice(
        "Handle",
        "none",
        *((key, "no handle" if key == "none" else f"of {key}") for key in HANDLES),
        tip="The wood of a handle, for weight and balance.",
    )
    handle_length: float = fields.length("Handle length", 700.0, tip="Of the wood.")
    handle_across: float = fields.length("Handle across", 32.0, tip="Of the wood, in its middle.")
    handle_on: str = fields.text("Handle on", "A.B", tip="The end that it is fitted to.")
    handle_over: float = fields.length("Goes over", 60.0, zero=True, tip="How much of the part the handle covers.")

    def __post_init__(self) -> None:
        check_fields(self)

    def without_part(self, index: int) -> Assembly:
        """The same without one part: those behind it move up a letter and their joins with them; places on it are open again."""
        kept = [i for i in range(len(self.parts)) if i != index]
        letters = {LETTERS[old]: LETTERS[new] for new, old in enumerate(kept)}

        def moved(place: str) -> str:
            letter, dot, rest = place.partition(".")
            return f"{letters[letter]}{dot}{rest}" if letter in letters else ""

        joins = tuple(replace(j, first=moved(j.first), second=moved(j.second), third=moved(j.third)) for j in self.joins)
        return replace(self, parts=tuple(self.parts[i] for i in kept), joins=joins, handle_on=moved(self.handle_on))

    @property
    def handle_mass(self) -> float:
        """g; the tang's hole is not taken off."""
        return HANDLES[self.handle] * math.pi * self.handle_across**2 / 4 * self.handle_length
