"""Sizes that follow from others: runs pinned to a landmark, a piece that uses a bar exactly, pairs and repeats."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember.document.edits import Edit, checked
from long_ember.errors import NoAnswer
from long_ember.features import Piece, Run, shape_of
from long_ember.features.solve import root_of, size_of, solve_for, with_size
from long_ember.fields import specs
from long_ember.heats import ForgeSettings, sequence

__all__ = ["add_half", "fit_bar", "give_bar", "make_mate", "repeat", "turn_round"]

_BENCH = ForgeSettings()


def give_bar(piece: Piece, feature_id: str, name: str, stock: float) -> Edit:
    """Change one size of a feature so that it takes `stock` mm of bar."""
    index = piece.index(feature_id)
    feature = piece.features[index]
    found = solve_for(feature, piece.place(index), name, stock)
    after = checked(piece.with_feature(index, found))
    return Edit(f"Fit {feature.title.lower()} {specs(feature)[name].label.lower()}", piece, after, feature_id)


def fit_bar(piece: Piece, feature_id: str, name: str, length: float, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH) -> Edit:
    """Change one size so that the piece uses a bar of `length` mm exactly.

    The length that is sawn, safe or likely, is brought to the bar, scale and trim included. Where the number of heats changes on the way the scale jumps a
    little, so the last fraction of a millimetre may be left over; never is more asked for than there is.

    Raises:
        NoAnswer: when no value of that size does.
    """
    index = piece.index(feature_id)
    feature = piece.features[index]

    def at(size: float) -> Piece:
        return checked(piece.with_feature(index, with_size(feature, name, size)))

    order = sequence(piece, ruler=ruler, forge=forge)[1].order

    def excess(size: float) -> float:
        return sequence(at(size), ruler=ruler, forge=forge, order=order, quick=True)[0].chosen - length

    label = f"{feature.title.lower()} {specs(feature)[name].label.lower()}"
    start = size_of(feature, name) or piece.bar.thickness
    for _ in range(2):  # at the new size another order of work may be the best
        root = root_of(excess, start)
        if root is None:
            raise NoAnswer(f"No {label} makes the piece use just that much bar.", "Let another size float, or take another bar.")
        size, after = root, at(root)
        found, plan = sequence(after, ruler=ruler, forge=forge)
        wanted = found.chosen
        if plan.order == order:
            break
        order = plan.order
    for _ in range(40):
        if wanted <= length + 1e-6:
            break
        size *= 1 - 1e-4 if excess(size * 0.999) < excess(size) else 1 + 1e-4
        after = at(size)
        wanted = sequence(after, ruler=ruler, forge=forge)[0].chosen
    if not math.isclose(wanted, length, abs_tol=1.0) or wanted > length + 1e-6:
        raise NoAnswer(f"No {label} makes the piece use just that much bar.", "Let another size float, or take another bar.")
    return Edit(f"Fit to the bar by the {label}", piece, after, feature_id)


def make_mate(piece: Piece) -> Edit:
    """The other of a pair: its mirror image front to back."""
    features = tuple(f.mirrored() for f in piece.features)
    standing = tuple(s.mirrored() for s in piece.standing)
    return Edit("Mirror it", piece, checked(replace(piece, features=features, standing=standing, name=_mate_name(piece.name))))


def _mate_name(name: str) -> str:
    tail = ", mate"
    return name.removesuffix(tail) if name.endswith(tail) else name + tail


def turn_round(piece: Piece) -> Edit:
    """The same piece with its ends exchanged: what was at end A is at end B."""
    features = tuple(f.turned() for f in reversed(piece.features))
    plan = piece.planning
    other = {"A": "B", "B": "A"}
    plan = replace(plan, working=other.get(plan.working, plan.working))
    standing = tuple(replace(s, on=other.get(s.on, s.on), edge=other.get(s.edge, s.edge), along=other[s.along]) for s in piece.standing)
    return Edit("Exchange the ends", piece, checked(replace(piece, features=features, standing=standing, planning=plan)))


def add_half(piece: Piece) -> Edit:
    """The other half of a piece that is alike at both ends: everything once more, ends exchanged; a run at end B is the middle and stays one.

    Raises:
        NoAnswer: there is nothing yet, or the halves don't go together.
    """
    if not piece.features:
        raise NoAnswer("There is no half yet.", "Plan it from end A to the middle first.")
    row = list(piece.features)
    half = row[:-1] if isinstance(row[-1], Run) and len(row) > 1 else row
    taken = {f.id for f in row} | {s.id for s in piece.standing}
    names = {old: _new(taken) for old in (*(f.id for f in half), *(s.id for s in piece.standing))}
    other = {"A": "B", "B": "A"}
    copies = [replace(f.turned(), id=names[f.id]) for f in reversed(half)]
    # What was measured from end B was measured from the middle of the whole.
    middle = [s for s in piece.standing if s.on == "B"]
    if middle:
        raise NoAnswer(
            f"{middle[0].feature.title} is measured from end B, which is the middle of the whole.",
            "Measure it from end A, or from a feature.",
        )
    standing = [
        replace(
            s,
            feature=replace(s.feature, id=names[s.id]),
            on=other.get(s.on, names.get(s.on, s.on)),
            edge=other.get(s.edge, s.edge),
            along=other[s.along],
        )
        for s in piece.standing
    ]
    after = checked(replace(piece, features=(*row, *copies), standing=(*piece.standing, *standing)))
    return Edit("Add the other half", piece, after, row[-1].id)


def repeat(piece: Piece, feature_id: str, count: int, pitch: float) -> Edit:
    """Repeat a feature so that `count` of it stand `pitch` mm from middle to middle, with plain bar between them.

    Raises:
        NoAnswer: when they would overlap.
    """
    index = piece.index(feature_id)
    feature = piece.features[index]
    own = shape_of(feature, piece.place(index)).length
    gap = pitch - own
    if gap < -1e-9:
        raise NoAnswer("Repeated that close they would overlap.", "Enlarge the pitch or shorten the feature.")
    features = list(piece.features[: index + 1])
    taken = {f.id for f in piece.features}
    for _ in range(count - 1):
        if gap > 1e-9:
            features.append(Run(id=_new(taken), length=gap))
        features.append(replace(feature, id=_new(taken)))
    features.extend(piece.features[index + 1 :])
    return Edit(f"Repeat {feature.title.lower()}", piece, checked(replace(piece, features=tuple(features))), feature_id)


def _new(taken: set[str]) -> str:
    name = next(n for i in range(1, len(taken) + 2) if (n := f"f{i}") not in taken)
    taken.add(name)
    return name
