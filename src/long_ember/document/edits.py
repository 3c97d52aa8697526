"""What can be done to a piece; each edit gives a new piece and a title for the history."""

from __future__ import annotations

import contextlib
import itertools
from collections.abc import Iterable, Sequence
from dataclasses import replace
from typing import Any

from long_ember.errors import NoAnswer
from long_ember.features import (
    KINDS,
    Feature,
    Formed,
    Measured,
    Outer,
    Overrule,
    Picked,
    Piece,
    Pin,
    Run,
    Standing,
    said_by,
    with_pinned_runs,
)
from long_ember.features.base import faces_of
from long_ember.fields import specs
from long_ember.frozen import dataclass
from long_ember.sections import Section, found_section

__all__ = [
    "Edit",
    "add_feature",
    "alike",
    "checked",
    "drawn_beside",
    "duplicate",
    "facing_out",
    "forget_measured",
    "insert",
    "move",
    "overrule",
    "pick_method",
    "pin_order",
    "put_in",
    "remove_all",
    "restore_rule",
    "set_bar",
    "set_field",
    "set_measured",
    "set_part",
    "set_piece",
    "set_planning",
]

_SOLID = 4.0  # mm², that a form can stand in


@dataclass(frozen=True, slots=True)
class Edit:
    """One finished edit: immutable, with old and new value.

    Args:
        title: shown in Undo and Redo.
        before: the piece as it was.
        after: the piece as it is.
        focus: id of the feature to look at afterwards, "" for none.
        gesture: edits of the same gesture, made while typing or dragging, count as one step.
    """

    title: str
    before: Piece
    after: Piece
    focus: str = ""
    gesture: str = ""


def set_piece(piece: Piece, name: str, value: Any, *, gesture: str = "") -> Edit:
    """Change a field of the piece itself."""
    after = checked(replace(piece, **{name: value}))
    return Edit(f"Change {specs(piece)[name].label.lower()}", piece, after, gesture=gesture)


def set_bar(piece: Piece, bar: Section, material: str) -> Edit:
    """Make the piece of another bar."""
    return Edit("Take another bar", piece, checked(replace(piece, bar=bar, material=material)))


def set_measured(piece: Piece, found: Iterable[Measured]) -> Edit:
    """Put what a test piece told in force; figures measured before and not again stay."""
    found = tuple(found)
    new = {(m.name, m.feature) for m in found}
    after = replace(piece, measured=(*(m for m in piece.measured if (m.name, m.feature) not in new), *found))
    for m in found:
        if m.name == "scale":
            after = replace(after, allowances=replace(after.allowances, scale=m.value, source="typed"))
        elif m.feature and after.index(m.feature) >= 0:
            values: dict[str, Any] = {m.name: m.value}
            index = after.index(m.feature)
            after = after.with_feature(index, replace(after.features[index], **values))
    return Edit("Take over what the test piece told", piece, checked(after))


def forget_measured(piece: Piece) -> Edit:
    """Take figures on trust again; their values stay, their doubt is the usual one."""
    return Edit("Forget the test piece", piece, checked(replace(piece, measured=())))


def set_part(piece: Piece, part: str, name: str, value: Any, *, gesture: str = "") -> Edit:
    """Change a field of the allowances or of the order."""
    old = getattr(piece, part)
    after = replace(piece, **{part: replace(old, **{name: value})})
    return Edit(f"Change {specs(old)[name].label.lower()}", piece, after, gesture=gesture)


def take_allowances(piece: Piece, new: Piece) -> Edit:
    """Reckon a piece with what a shop gives to new ones: bend rule, allowances, bars; which length is sawn stays its own.

    Args:
        piece: that had its own.
        new: an empty piece of the shop.
    """
    allowances = replace(new.allowances, saw=piece.allowances.saw)
    order = replace(new.order, quantity=piece.order.quantity)
    return Edit("Take the shop's allowances", piece, checked(replace(piece, school=new.school, allowances=allowances, order=order)))


def set_planning(piece: Piece, name: str, value: Any) -> Edit:
    """Change a field of the planning: a school, what it is hardened for."""
    after = replace(piece, planning=replace(piece.planning, **{name: value}))
    return Edit(f"Change {specs(piece.planning)[name].label.lower()}", piece, after)


def pin_order(piece: Piece, pins: Iterable[Pin], title: str = "Pin the order") -> Edit:
    """Hold operations in an order."""
    return Edit(title, piece, replace(piece, planning=replace(piece.planning, pins=tuple(pins))))


def overrule(piece: Piece, rule: str, step: str, note: str) -> Edit:
    """Set a rule aside for one operation, or for all with `step` ""; a note given before is replaced."""
    rest = tuple(o for o in piece.planning.overrules if (o.rule, o.step) != (rule, step))
    after = replace(piece.planning, overrules=(*rest, Overrule(rule=rule, step=step, note=note)))
    return Edit("Overrule a rule", piece, replace(piece, planning=after))


def restore_rule(piece: Piece, rule: str) -> Edit:
    """Let a rule hold again everywhere."""
    after = replace(piece.planning, overrules=tuple(o for o in piece.planning.overrules if o.rule != rule))
    return Edit("Let a rule hold again", piece, replace(piece, planning=after))


def pick_method(piece: Piece, step: str, method: str) -> Edit:
    """Do an operation by another method; "" for the usual one."""
    rest = tuple(p for p in piece.planning.methods if p.step != step)
    chosen = (Picked(step=step, method=method),) if method else ()
    return Edit("Choose a method", piece, replace(piece, planning=replace(piece.planning, methods=(*rest, *chosen))))


def set_field(piece: Piece, feature_id: str, name: str, value: Any, *, gesture: str = "") -> Edit:
    """Change a field of a feature of the row."""
    index = piece.index(feature_id)
    feature = piece.features[index]
    after = checked(piece.with_feature(index, replace(feature, **{name: value}).followed(feature)))
    title = f"Change {feature.title.lower()} {specs(feature)[name].label.lower()}"
    return Edit(title, piece, after, feature_id, gesture)


def insert(piece: Piece, index: int, kind: str, *, unit: str = "mm", name: str = "") -> Edit:
    """Add a feature of `kind` before position `index`; its outer end points to the nearer end of the bar.

    Args:
        piece: as it is.
        index: of the row.
        kind: of the new feature.
        unit: mm or in: in which its sizes are proposed.
        name: that it was asked for by, which may say more, see `said_by`.
    """
    feature = KINDS[kind](id=piece.new_id(), **said_by(KINDS[kind], name))
    made = _fitted(feature, piece, index)
    with contextlib.suppress(NoAnswer):  # rounded so it may not go with the bar
        return _inserted(piece, index, made.proposed(unit), f"Add {feature.title.lower()}")
    return _inserted(piece, index, made, f"Add {feature.title.lower()}")


def add_feature(piece: Piece, index: int, feature: Feature) -> Edit:
    """Add a feature made elsewhere, under an id of its own."""
    return _inserted(piece, index, replace(feature, id=piece.new_id()), f"Add {feature.title.lower()}")


def alike(edit: Edit, others: Sequence[str]) -> Edit:
    """What an edit changes of one feature, changed of others of its kind too.

    Args:
        edit: of one feature's fields; anything else stays as it is.
        others: ids; those of other kinds, and those that are gone, are left alone.
    """
    old, new = edit.before.feature(edit.focus), edit.after.feature(edit.focus)
    if old is None or new is None or type(old) is not type(new):
        return edit
    changed: dict[str, Any] = {name: getattr(new, name) for name in specs(new) if getattr(old, name) != getattr(new, name)}
    after, count = edit.after, 1
    for i, feature in enumerate(after.features):
        if changed and feature.id in others and feature.id != edit.focus and type(feature) is type(new):
            after, count = after.with_feature(i, replace(feature, **changed)), count + 1
    return edit if count == 1 else replace(edit, title=f"{edit.title} of {count}", after=checked(after))


def remove_all(piece: Piece, ids: Sequence[str]) -> Edit:
    """Take several features out; what was measured from them goes with them."""
    gone = set(ids)
    while more := {s.id for s in piece.standing if s.on in gone} - gone:
        gone |= more
    rest = tuple(f for f in piece.features if f.id not in gone)
    standing = tuple(s for s in piece.standing if s.id not in gone) if rest else ()
    first = min((i for i, f in enumerate(piece.features) if f.id in gone), default=0)
    near = rest[min(first, len(rest) - 1)].id if rest else ""
    return Edit(f"Remove {len(ids)} features", piece, checked(replace(piece, features=rest, standing=standing)), near)


def put_in(piece: Piece, index: int, features: Sequence[Feature], standing: Sequence[Standing] = ()) -> Edit:
    """Add features made elsewhere before position `index`, with what stands on them, under ids of their own.

    Args:
        piece: as it is.
        index: of the row.
        features: in order.
        standing: on these features, or on one another; what is measured from an end of their bar is measured from the end of this one.
    """
    taken = {f.id for f in piece.features} | {s.id for s in piece.standing}
    free = (name for i in itertools.count(1) if (name := f"f{i}") not in taken)
    names = {old: next(free) for old in (*(f.id for f in features), *(s.id for s in standing))}
    row = [*piece.features]
    row[index:index] = [replace(f, id=names[f.id]) for f in features]
    row = [facing_out(f, i, len(row)) if f.id in names.values() else f for i, f in enumerate(row)]
    stood = [replace(s, feature=replace(s.feature, id=names[s.id]), on=names.get(s.on, s.on)) for s in standing]
    titles = ", ".join(f.title.lower() for f in features[:3]) + ("…" if len(features) > 3 else "")
    after = checked(replace(piece, features=tuple(row), standing=(*piece.standing, *stood)))
    return Edit(f"Put in {titles}", piece, after, names[features[0].id])


def duplicate(piece: Piece, feature_id: str) -> Edit:
    """Add a copy of a feature behind it."""
    index = piece.index(feature_id)
    feature = piece.features[index]
    return _inserted(piece, index + 1, replace(feature, id=piece.new_id()), f"Duplicate {feature.title.lower()}")


def _inserted(piece: Piece, index: int, feature: Feature, title: str) -> Edit:
    features = (*piece.features[:index], facing_out(feature, index, len(piece.features) + 1), *piece.features[index:])
    return Edit(title, piece, checked(replace(piece, features=features)), feature.id)


def move(piece: Piece, feature_id: str, index: int) -> Edit:
    """Put a feature at position `index` of the others; at an end its outer end turns outwards."""
    here = piece.index(feature_id)
    feature = piece.features[here]
    rest = [*piece.features[:here], *piece.features[here + 1 :]]
    index = max(0, min(index, len(rest)))
    if index != here:
        feature = facing_out(feature, index, len(piece.features))
    rest.insert(index, feature)
    return Edit(f"Move {feature.title.lower()}", piece, checked(replace(piece, features=tuple(rest))), feature_id)


def facing_out(feature: Feature, index: int, count: int) -> Feature:
    """A feature for a position of the row: at an end its outer end turns outwards."""
    if not isinstance(feature, Outer) or count < 2:
        return feature
    toward = "A" if index == 0 else "B" if index == count - 1 else feature.toward
    return feature if toward == feature.toward else feature.turned()


def _fitted(feature: Feature, piece: Piece, index: int) -> Feature:
    """Default sizes, taken to the size of the bar where the defaults would not suit it, or of the drawn steel that a form stands beside."""
    if isinstance(feature, Outer):
        feature = replace(feature, toward="A" if index * 2 <= len(piece.features) else "B")
    beside = drawn_beside(piece, index - 1, index) if isinstance(feature, Formed) else None
    if beside is None:
        return feature.fitted(piece.bar)
    made = feature.fitted(beside[1])
    sizes: dict[str, Any] = {"of": beside[0]}
    if "tip" in specs(made):
        sizes["tip"] = None  # it is drawn already
    return replace(made, **sizes)


def drawn_beside(piece: Piece, before: int, after: int) -> tuple[str, Section] | None:
    """Straight steel beside a place in the row that is drawn smaller than the bar: on which side, and what it ends in there.

    Args:
        piece: whose row it is.
        before: position in the row of what lies toward end A; outside of the row there is none.
        after: of what lies toward end B.
    """
    for side, at, end in (("A", before, 1), ("B", after, 0)):
        if 0 <= at < len(piece.features):
            blend, bent, _slopes = faces_of(piece.features[at], piece.place(at))[end]
            if blend is not None and not bent and _SOLID < blend.area < piece.bar.area:
                return side, found_section(blend)
    return None


def checked(piece: Piece) -> Piece:
    """The piece with its pinned runs settled, every feature with a form.

    Raises:
        NoAnswer: naming the feature that has none.
    """
    if any(isinstance(f, Run) and f.pin != "none" for f in piece.features):
        piece.verify()
        piece = with_pinned_runs(piece)
    piece.verify()
    return piece
