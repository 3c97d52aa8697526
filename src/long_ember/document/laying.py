"""Edits of what stands on the drawn bar: laid on, moved along, given bar of its own, and kept when its landmark goes."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from typing import Any

from long_ember.document.edits import Edit, checked, facing_out
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Composition, Feature, Outer, Piece, Run, Stand, Standing, said_by
from long_ember.features.composing import covered_by
from long_ember.features.solve import root_of, size_of, with_size
from long_ember.fields import specs

__all__ = [
    "change_standing",
    "cover",
    "give_own_bar",
    "in_order",
    "laid_on",
    "lay_down",
    "lay_on",
    "lays_on",
    "measure_from",
    "move_along",
    "remove",
    "without_landmark",
]

_TOUCHING = 1e-6  # mm
_SMALLER = (1.0, 0.7, 0.5, 0.35, 0.25)  # a new form is as large as its host has room for


def lays_on(piece: Piece, host_id: str, kind: str) -> bool:
    """A new feature of a kind comes to lie on a chosen one rather than beside it: what is chosen is drawn, or stands itself."""
    index = piece.index(host_id)
    drawn = index >= 0 and not piece.features[index].stands and not isinstance(piece.features[index], Run)
    return bool(KINDS[kind].stands) and not KINDS[kind].own_first and (drawn or piece.stands(host_id) is not None)


def lay_on(piece: Piece, host_id: str, kind: str, *, unit: str = "mm", name: str = "") -> Edit:
    """Add a form or work on what is drawn.

    A work comes to the middle of its host; a form with an outer end to the nearer end of the bar, behind what lies there; any other form to the
    middle of what is free there.

    Args:
        piece: as it is.
        host_id: feature of the row, or what stands on one.
        kind: of the new feature, one that can stand.
        unit: mm or in: in which its sizes are proposed.
        name: that it was asked for by, which may say more, see `said_by`.
    """
    feature = KINDS[kind](id=piece.new_id(), **said_by(KINDS[kind], name))
    made = feature.fitted(_bar_under(piece, host_id))
    for factor in _SMALLER:
        with contextlib.suppress(NoAnswer):  # it does not fit there as large as that
            sized = made.scaled(factor)
            return laid_on(piece, host_id, sized.proposed(unit), f"Lay {made.title.lower()} on")
    return laid_on(piece, host_id, made, f"Lay {made.title.lower()} on")


def lay_down(piece: Piece, feature_id: str) -> Edit:
    """A feature of the row stands on its neighbour from now on, and its own bar is saved."""
    index = piece.index(feature_id)
    feature = piece.features[index]
    rest = (*piece.features[:index], *piece.features[index + 1 :])
    if not rest:
        raise NoAnswer("There is nothing else that it could stand on.", "Add bar first.", feature_id)
    sides = [rest[max(index - 1, 0)], rest[min(index, len(rest) - 1)]]
    if isinstance(feature, Outer) and feature.toward == "A":
        sides.reverse()
    waiting = {feature_id}  # what is measured from it, or from that in turn, comes back when it stands
    for _ in piece.standing:
        waiting |= {s.id for s in piece.standing if s.on in waiting}
    bare = replace(piece, features=rest, standing=tuple(s for s in piece.standing if s.id not in waiting))
    refused: NoAnswer | None = None
    for host in dict.fromkeys(side.id for side in sides):
        try:
            edit = laid_on(bare, host, feature, f"Lay {feature.title.lower()} on")
            standing = (*edit.after.standing, *(s for s in piece.standing if s.id in waiting))
            return replace(edit, before=piece, after=checked(replace(edit.after, standing=standing)))
        except NoAnswer as error:  # the other side may have room for it
            refused = refused or error
    assert refused is not None
    raise refused


def give_own_bar(piece: Piece, feature_id: str) -> Edit:
    """What stands on the drawn bar takes bar of its own, beside what it stood on."""
    standing, stand = _of(piece, feature_id)
    toward_a = stand.middle < piece.composition.drawn.length / 2
    index = stand.host if toward_a and isinstance(standing.feature, Outer) else stand.host + 1
    bare = without_landmark(replace(piece, standing=tuple(s for s in piece.standing if s.id != feature_id)), piece, feature_id)[0]
    feature = facing_out(standing.feature, index, len(piece.features) + 1)
    after = checked(replace(bare, features=(*bare.features[:index], feature, *bare.features[index:])))
    return Edit(f"Give {standing.feature.title.lower()} its own bar", piece, after, feature_id)


def change_standing(piece: Piece, feature_id: str, name: str, value: Any, *, gesture: str = "") -> Edit:
    """Change a field of a standing feature, or of its place."""
    standing, _stand = _of(piece, feature_id)
    own = name in specs(standing.feature)
    changes: dict[str, Any] = {name: value}
    made = replace(standing, feature=replace(standing.feature, **changes)) if own else replace(standing, **changes)
    spec = specs(standing.feature if own else standing)[name]
    after = checked(replace(piece, standing=tuple(made if s.id == feature_id else s for s in piece.standing)))
    return Edit(f"Change {standing.feature.title.lower()} {spec.label.lower()}", piece, after, feature_id, gesture)


def move_along(piece: Piece, feature_id: str, at: float, *, gesture: str = "") -> Edit:
    """Move what stands on the drawn bar, as in dragging; a work may pass its landmark, a form stops there.

    Args:
        piece: as it is.
        feature_id: of what stands.
        at: mm from the landmark in the direction that it goes, less than 0 on its other side.
        gesture: of the dragging.
    """
    standing, _stand = _of(piece, feature_id)
    along = standing.along
    if at < 0 and standing.feature.stands == "work":
        at, along = -at, "A" if along == "B" else "B"
    made = replace(standing, at=max(at, 0.0), along=along)
    after = checked(replace(piece, standing=tuple(made if s.id == feature_id else s for s in piece.standing)))
    return Edit(f"Move {standing.feature.title.lower()} along", piece, after, feature_id, gesture)


def cover(piece: Piece, feature_id: str, name: str, length: float) -> Edit:
    """Change one size of a form so that it covers just so much of the drawn bar.

    Args:
        piece: as it is.
        feature_id: of the form.
        name: of a field that may be left free.
        length: of drawn bar, mm.

    Raises:
        NoAnswer: no value of that size does.
    """
    standing, _stand = _of(piece, feature_id)
    feature = standing.feature

    def excess(size: float) -> float:
        return covered_by(piece.composition, replace(standing, feature=with_size(feature, name, size)), piece.rule) - length

    label = f"{feature.title.lower()} {specs(feature)[name].label.lower()}"
    size = root_of(excess, size_of(feature, name) or _bar_under(piece, feature_id).thickness)
    if size is None:
        raise NoAnswer(f"No {label} covers just that much of the drawn bar.", "Let another size float, or take another length.", feature_id)
    return replace(change_standing(piece, feature_id, name, getattr(with_size(feature, name, size), name)), title=f"Fit {label}")


def in_order(piece: Piece, feature_id: str, by: int) -> Edit:
    """Do a work on the surface earlier or later than what lies on the same steel.

    Args:
        piece: as it is.
        feature_id: of the work.
        by: −1 for earlier, 1 for later.

    Raises:
        NoAnswer: it is no such work, or nothing on the same steel comes before it (after it).
    """
    standing, stand = _of(piece, feature_id)
    title = standing.feature.title
    if not standing.feature.skin:
        raise NoAnswer(
            f"{title} has its place in the order by the rules.", "Only work on the surface is done as it is laid on.", feature_id
        )
    row, at = list(piece.standing), piece.standing.index(standing)
    others = {s.standing.id for s in piece.composition.stands if s.feature.skin and s.start < stand.end and s.end > stand.start}
    way = range(at + by, len(row) if by > 0 else -1, by)
    other = next((i for i in way if row[i].id in others), None)
    if other is None:
        raise NoAnswer(f"{title} is the {'last' if by > 0 else 'first'} on its stretch already.", "Lay another one there.", feature_id)
    row[at], row[other] = row[other], row[at]
    return Edit(f"Do {title.lower()} {'later' if by > 0 else 'earlier'}", piece, checked(replace(piece, standing=tuple(row))), feature_id)


def measure_from(piece: Piece, feature_id: str, on: str, edge: str) -> Edit:
    """Measure what stands on the drawn bar from somewhere else; it stays where it is.

    Args:
        piece: as it is.
        feature_id: of what stands.
        on: landmark, `A`, `B` or an id.
        edge: of the landmark.

    Raises:
        NoAnswer: it would have to run the other way.
    """
    standing, stand = _of(piece, feature_id)
    work, landmark = standing.feature.stands == "work", piece.composition.landmark(on, edge)
    start = stand.middle if work else stand.start if standing.along == "B" else stand.end
    by = (start - landmark) * (1 if standing.along == "B" else -1)
    along = standing.along
    if by < -_TOUCHING and work:
        by, along = -by, "A" if along == "B" else "B"
    elif by < -_TOUCHING and not isinstance(standing.feature, Outer):  # neither end of it is an outer one: it may run the other way
        along = "A" if along == "B" else "B"
        by = landmark - stand.end if along == "A" else stand.start - landmark
    if by < -_TOUCHING:
        title = standing.feature.title
        raise NoAnswer(f"{title} goes on toward {along} and begins before that place.", "Choose one behind it.", feature_id)
    made = replace(standing, on=on, edge=edge, along=along, at=round(max(by, 0.0), 6))
    after = checked(replace(piece, standing=tuple(made if s.id == feature_id else s for s in piece.standing)))
    return Edit(f"Measure {standing.feature.title.lower()} from somewhere else", piece, after, feature_id)


def remove(piece: Piece, feature_id: str) -> Edit:
    """Take a feature out; what was measured from it is measured from an end."""
    index = piece.index(feature_id)
    if index < 0:
        return _remove_standing(piece, feature_id)
    rest = (*piece.features[:index], *piece.features[index + 1 :])
    near = rest[min(index, len(rest) - 1)].id if rest else ""
    after, told = replace(piece, features=rest), ""
    if piece.standing:
        after, told = without_landmark(after, piece, feature_id) if rest else (replace(after, standing=()), " and what stands on it")
    return Edit(f"Remove {piece.features[index].title.lower()}{told}", piece, checked(after), near)


def _remove_standing(piece: Piece, feature_id: str) -> Edit:
    standing, stand = _of(piece, feature_id)
    rest = replace(piece, standing=tuple(s for s in piece.standing if s.id != feature_id))
    after, told = without_landmark(rest, piece, feature_id)
    return Edit(f"Remove {standing.feature.title.lower()}{told}", piece, checked(after), piece.features[stand.host].id)


def without_landmark(after: Piece, before: Piece, gone: str) -> tuple[Piece, str]:
    """What was measured from something that goes is measured from the nearer end of the drawn bar; and words for it, "" for nothing.

    Args:
        after: without it.
        before: with it.
        gone: id of the landmark.
    """
    if not any(s.on == gone for s in after.standing):
        return after, ""
    composition, made, told = before.composition, list[Standing](), list[str]()
    length = composition.drawn.length
    lost = 0.0 if before.index(gone) < 0 else composition.drawn.edges[before.index(gone) + 1] - composition.drawn.edges[before.index(gone)]
    for standing in after.standing:
        stand = composition.stand(standing.id)
        if standing.on != gone or stand is None:
            made.append(standing)
            continue
        work = standing.feature.stands == "work"
        to_a, to_b = (stand.middle, length - stand.middle) if work else (stand.start, length - stand.end)
        end = "A" if to_a <= to_b else "B"
        made.append(replace(standing, on=end, edge="A", along="B" if end == "A" else "A", at=max(min(to_a, to_b, length - lost), 0.0)))
        told.append(f"{standing.feature.title.lower()} is measured from end {end}")
    return replace(after, standing=tuple(made)), f"; {', '.join(told)}"


def _of(piece: Piece, feature_id: str) -> tuple[Standing, Stand]:
    standing, stand = piece.stands(feature_id), piece.composition.stand(feature_id)
    assert standing is not None and stand is not None, feature_id
    return standing, stand


def _bar_under(piece: Piece, host_id: str) -> Any:
    """The section in the middle of a landmark: new sizes suit it."""
    index = piece.index(host_id)
    drawn = piece.composition.drawn
    stand = piece.composition.stand(host_id)
    at = stand.middle if stand is not None else (drawn.edges[index] + drawn.edges[index + 1]) / 2
    return drawn.found(at)


def laid_on(piece: Piece, host_id: str, feature: Feature, title: str) -> Edit:
    """Lay a feature made elsewhere on what is drawn: a work in the middle of its host, a form where `lay_on` puts it.

    Args:
        piece: as it is.
        host_id: feature of the row, or what stands on one.
        feature: with an id of its own.
        title: of the edit.
    """
    composition = piece.composition
    drawn, index = composition.drawn, piece.index(host_id)
    other = composition.stand(host_id)
    if index < 0 and other is not None:
        index = other.host
    host = piece.features[index]
    if feature.stands == "work":
        place = {"on": host.id, "edge": "middle", "at": 0.0, "along": "B"}
    elif isinstance(feature, Outer):
        end = "A" if drawn.edges[index] + drawn.edges[index + 1] <= drawn.length else "B"
        inside = [s for s in composition.stands if s.feature.stands == "form" and _near(s, end, drawn.length)]
        last = max(inside, key=lambda s: s.end if end == "A" else -s.start, default=None)
        place = {"on": end, "edge": "A", "at": 0.0, "along": "B" if end == "A" else "A"}
        if last is not None:  # behind it, with room for the tongs' nose
            place |= {"on": last.standing.id, "edge": "B" if end == "A" else "A", "at": round(last.place.bar.blend.t, 1)}
    else:
        place = {"on": host.id, "edge": "A", "at": 0.0, "along": "B"}
    made = Standing(feature=feature, **place)  # type: ignore[arg-type]
    after = replace(piece, standing=(*piece.standing, made))
    if feature.stands == "form" and not isinstance(feature, Outer):  # its own middle in the middle of what is free there
        low, high = _widest_gap(composition, index)
        alone = replace(piece, standing=(made,)).composition.stand(feature.id)
        assert alone is not None
        at = low - drawn.edges[index] + (high - low - alone.covered) / 2
        after = replace(piece, standing=(*piece.standing, replace(made, at=round(max(at, 0.0), 1))))
    return Edit(title, piece, checked(after), feature.id)


def _widest_gap(composition: Composition, index: int) -> tuple[float, float]:
    """The longest stretch of a feature of the row that no form lies on yet, mm on the drawn bar."""
    low, end = composition.drawn.edges[index], composition.drawn.edges[index + 1]
    gaps = []
    for stand in composition.stands:
        if stand.feature.covers and stand.end > low and stand.start < end:
            gaps.append((low, max(stand.start, low)))
            low = stand.end
    return max((*gaps, (min(low, end), end)), key=lambda gap: gap[1] - gap[0])


def _near(stand: Stand, end: str, length: float) -> bool:
    """It lies in the half of the bar toward that end."""
    return stand.middle <= length / 2 if end == "A" else stand.middle >= length / 2
