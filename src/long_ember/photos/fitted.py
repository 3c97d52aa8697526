"""A piece from the middle line of a strip: straights, arcs and spirals fitted, its thickness along the way as tapers; and how far a piece strays from it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from long_ember.arrays import Array
from long_ember.document import checked
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Arc, Corner, Feature, Piece, Segment, Standing, Straight
from long_ember.features.composing import covered_by
from long_ember.features.traced import course_text
from long_ember.frozen import NamedTuple
from long_ember.geometry import figure, follow, trace
from long_ember.photos.strip import StripPoint

__all__ = ["TracedPiece", "outlines_on", "piece_of", "strays", "strays_of"]

_LOOSE = 0.006  # of the length, and at least so many mm, that a fit may stray
_LEAST = 0.6
_NEIGHBOURS = 7  # places on either side that smooth a place
_SLIGHT = math.radians(4)  # a turn of less is the hand's
_DRAWN = 0.85  # of the bar's thickness: thinner at an end it is drawn
_TAPERS = 24  # lengths that a taper is tried with
_SPIRAL = math.radians(200)  # turn from which an end whose curve tightens is a scroll
_PLACES, _OTHERS, _FITS = 160, 4, 12
_FREE = {"run": ("length",), "bend": ("angle", "radius"), "scroll": ("inner", "outer", "turns")}
_TURNS, _SPARE = 4, (0.02, 0.5, 2.0)  # rounds, and mm that are added until the course has room
_SAME = 0.06  # of its length by which a spiral may miss what it stands for
_SURE = 0.25


class TracedPiece(NamedTuple):
    """What comes of a picture.

    Args:
        piece: to be changed like any other.
        most: mm that it strays from the middle of the strip at most.
        mean: mm, on the whole.
        thickness: mm, of the strip where it is not drawn; 0 where no edges were clear.
    """

    piece: Piece
    most: float
    mean: float
    thickness: float


def piece_of(strip: Sequence[StripPoint], base: Piece) -> TracedPiece:
    """A piece that follows a strip.

    Args:
        strip: its middle and thickness, from what becomes end A.
        base: an empty piece with its bar.

    Raises:
        NoAnswer: too little was pressed.
    """
    middle = np.array([p.middle for p in strip], dtype=float).reshape(-1, 2)
    whole = float(np.hypot(*np.diff(middle, axis=0).T).sum()) if len(middle) > 1 else 0.0
    if whole < base.bar.thickness:
        raise NoAnswer("Too little of the piece is followed.", "Press points along its middle, from one end to the other.")
    segments = _fewest(_smoothed(middle), max(_LOOSE * whole, _LEAST))
    sizes = np.array([p.thickness for p in strip if p.sure >= _SURE and p.thickness > 0])
    along = np.linspace(0.0, 1.0, len(strip))
    sure = np.array([p.sure >= _SURE and p.thickness > 0 for p in strip])
    tips = _tapers(along[sure], np.array([p.thickness for p in strip])[sure], whole, base.bar.thickness) if len(sizes) > 8 else (None, None)
    piece = _laid(base, segments, whole, tips) if any(tips) else _rowed(base, segments, middle)
    most, mean = strays(piece, middle)
    return TracedPiece(piece, most, mean, float(np.median(sizes)) if len(sizes) else 0.0)


def _smoothed(middle: Array) -> Array:
    """The line without the roughness of the picture: at each place the parabola nearest to its neighbours (Savitzky and Golay).

    SciPy has it as well, with a second of loading.
    """
    count = min(_NEIGHBOURS, (len(middle) - 1) // 2)
    if count < 2:
        return middle
    powers = np.vander(np.arange(-count, count + 1), 3)
    nearest = powers @ np.linalg.pinv(powers)  # of so many places to their parabola
    inside = np.lib.stride_tricks.sliding_window_view(middle, len(nearest), axis=0) @ nearest[count]
    return np.vstack((nearest[:count] @ middle[: len(nearest)], inside, nearest[count + 1 :] @ middle[-len(nearest) :]))


def _fewest(middle: Array, tolerance: float) -> list[Segment]:
    """As few straights and arcs as stay within a tolerance of a line.

    From many short ones two neighbours, or the turn of one, are given up at a time, those that cost least; what is left is fitted to the line anew.
    """
    row = np.array([(s.length, s.angle if isinstance(s, Arc) else 0.0) for s in follow(middle, tolerance) if not isinstance(s, Corner)])
    target = _even(middle, _PLACES)
    while len(row) > 1:
        tried = sorted(((_off(r, target), i, r) for i, r in enumerate(_simpler(row))), key=lambda t: t[:2])[:_OTHERS]
        if tried[0][0] <= tolerance / 2:  # it needs no fitting yet
            row = tried[0][2]
            continue
        # What costs least by itself may not be what costs least when all else gives way.
        fitted = (_refined(r, target) for _off_, _i, r in tried)
        found = next((r for r in fitted if _off(r, target) <= tolerance), None)
        if found is None:
            break
        row = found
    row = _refined(row, target)
    return [Arc(length, turn) if abs(turn) > _SLIGHT else Straight(length) for length, turn in row.tolist()]


def _simpler(row: Array) -> list[Array]:
    """Every way to say it with one thing less: two neighbours as one, or an arc as a straight."""
    found = []
    for i in range(len(row) - 1):
        joined = row[i] + row[i + 1]
        found.append(np.vstack((row[:i], joined, row[i + 2 :])))
    for i, (_length, turn) in enumerate(row.tolist()):
        if turn:
            flat = row.copy()
            flat[i, 1] = 0.0
            sides = [j for j in (i - 1, i + 1) if 0 <= j < len(row) and row[j, 1]]
            for j in sides:
                flat[j, 1] += turn / len(sides)
            found.append(flat)
    return found


def _walked(row: Array) -> Array:
    """The way of lengths and turns, (n, 2) mm, at even steps."""
    ends = np.concatenate(([0.0], np.cumsum(row[:, 0])))
    heading = np.concatenate(([0.0], np.cumsum(row[:, 1])))
    s = np.linspace(0.0, ends[-1], _PLACES)
    at = np.interp((s[1:] + s[:-1]) / 2, ends, heading)
    step = ends[-1] / (_PLACES - 1)
    return np.vstack(([0.0, 0.0], np.cumsum(np.column_stack((np.cos(at), np.sin(at))) * step, axis=0)))


def _off(row: Array, target: Array) -> float:
    """How far it strays at most, mm, laid on as well as it goes."""
    if (row[:, 0] <= 0).any():
        return math.inf
    return float(np.hypot(*(_laid_on(_walked(row), target) - target).T).max())


def _refined(row: Array, target: Array) -> Array:
    """Lengths and turns that lie nearest to the line; what is straight stays so."""
    from scipy.optimize import least_squares  # loaded with the first picture

    bent = row[:, 1] != 0.0

    def full(x: Array) -> Array:
        made = row.copy()
        made[:, 0] = np.maximum(np.abs(x[: len(row)]), 0.2)
        made[bent, 1] = x[len(row) :]
        return made

    def apart(x: Array) -> Array:
        return np.asarray((_laid_on(_walked(full(x)), target) - target).ravel())

    start = np.concatenate((row[:, 0], row[bent, 1]))
    scale = np.concatenate((np.maximum(row[:, 0], 2.0), np.full(int(bent.sum()), 0.5)))
    return full(least_squares(apart, start, x_scale=scale, max_nfev=_FITS).x)


def _tapers(along: Array, sizes: Array, whole: float, bar: float) -> tuple[tuple[float, float] | None, tuple[float, float] | None]:
    """Length and end size of a taper at either end, by least squares; None where the bar is not drawn there."""
    usual = float(np.percentile(sizes, 75))
    usual = bar if 0.8 < usual / bar < 1.25 else usual
    found: list[tuple[float, float] | None] = []
    for s in (along * whole, (1 - along) * whole):
        best: tuple[float, float, float] | None = None
        for length in np.linspace(2 * bar, 0.95 * whole, _TAPERS) if whole > 3 * bar else ():
            share = np.clip(s / length, 0.0, 1.0)
            inside = s < length
            if inside.sum() < 5:
                continue
            weight = 1 - share[inside]
            tip = usual + float((weight * (sizes[inside] - usual)).sum() / max((weight**2).sum(), 1e-9))
            off = float(((sizes - (usual + (tip - usual) * (1 - share)))[s < 0.95 * whole] ** 2).sum())
            if best is None or off < best[0]:
                best = off, float(length), tip
        found.append((best[1], max(best[2], 0.05 * usual)) if best is not None and best[2] < _DRAWN * usual else None)
    return found[0], found[1]


def _rowed(base: Piece, segments: Sequence[Segment], middle: Array) -> Piece:
    """Runs and bends with bar of their own, a scroll where an end winds in."""
    head, segments = _wound(base, segments, "A")
    tail, segments = _wound(base, segments, "B")
    features: list[Feature] = []
    half = base.bar.thickness / 2
    for s in segments:
        name = f"f{len(features) + 2}"
        if isinstance(s, Straight):
            features.append(_made("run", name, length=round(s.length, 2)))
        elif isinstance(s, (Arc, Corner)):
            radius = max(abs(s.length / s.angle) - half, 0.0) if isinstance(s, Arc) else 0.0
            features.append(_bend(name, s.angle, radius))
    row = [*([head] if head else []), *features, *([tail] if tail else [])]
    piece = checked(_piece(base, row))
    return _nearest(piece, middle) if head or tail else piece


def _nearest(piece: Piece, middle: Array) -> Piece:
    """Sizes of runs, bends and scrolls by which a piece lies nearest to a line: a spiral is none of the arcs that it was told by."""
    from scipy.optimize import least_squares  # loaded with the first picture

    target = _even(middle, _PLACES)
    free = [(i, name) for i, f in enumerate(piece.features) for name in _FREE.get(f.kind, ())]
    start = np.array([float(getattr(piece.features[i], name)) for i, name in free])

    def sized(x: Array) -> Piece:
        row = list(piece.features)
        for (i, name), value in zip(free, x.tolist(), strict=True):
            changes: dict[str, Any] = {name: max(round(value, 4), 0.3)}
            row[i] = replace(row[i], **changes)
        return replace(piece, features=tuple(row))

    def apart(x: Array) -> Array:
        try:
            return np.asarray((_laid_on(_even(_centreline(sized(x)), _PLACES), target) - target).ravel())
        except NoAnswer:  # no such scroll
            return np.full(2 * _PLACES, 50.0)

    found = least_squares(apart, start, x_scale=np.maximum(start, 0.2), diff_step=1e-4, max_nfev=_FITS).x
    try:
        return checked(sized(np.round(found, 2)))
    except NoAnswer:
        return piece


def _made(kind: str, name: str, **values: Any) -> Feature:
    return KINDS[kind](id=name, **values)


def _bend(name: str, angle: float, radius: float) -> Feature:
    values: dict[str, Any] = {
        "angle": round(math.degrees(abs(angle)), 2),
        "radius": round(radius, 2),
        "facing": 0.0 if angle > 0 else 180.0,
    }
    return _made("bend", name, **values)


def _wound(base: Piece, segments: Sequence[Segment], end: str) -> tuple[Feature | None, list[Segment]]:
    """A scroll of the arcs at an end that turn the same way, ever tighter towards the tip; and what is left."""
    row = list(segments if end == "A" else reversed(segments))
    arcs: list[Arc] = []
    for s in row:
        if not isinstance(s, Arc) or (
            arcs and (s.angle * arcs[0].angle < 0 or abs(s.length / s.angle) < abs(arcs[-1].length / arcs[-1].angle))
        ):
            break
        arcs.append(s)
    turn, length = sum(abs(a.angle) for a in arcs), sum(a.length for a in arcs)
    if len(arcs) < 2 or turn < _SPIRAL:
        return None, list(segments)
    # Length and where most of it lies say how the radius grows along an even spiral.
    inner, outer = abs(arcs[0].length / arcs[0].angle), abs(arcs[-1].length / arcs[-1].angle)
    middle = length / turn
    spread = max(outer - inner, 1e-6) / 2 * (1 + abs(arcs[0].angle) / turn)
    inner, outer = max(middle - spread, 0.2 * middle), min(middle + spread, 1.8 * middle)
    if abs((inner + outer) / 2 * turn - length) > _SAME * length:
        return None, list(segments)
    facing = 0.0 if (arcs[0].angle > 0) else 180.0
    values: dict[str, Any] = {
        "inner": round(inner, 2),
        "outer": round(outer, 2),
        "turns": round(turn / (2 * math.pi), 3),
        "tip": None,
        "facing": facing,
    }
    rest = row[len(arcs) :]
    return _made("scroll", f"scroll{end}", toward=end, **values), rest if end == "A" else rest[::-1]


def _laid(
    base: Piece, segments: Sequence[Segment], whole: float, tips: tuple[tuple[float, float] | None, tuple[float, float] | None]
) -> Piece:
    """Tapers with bar of their own, the course laid on what they draw."""
    one, other = tips
    if one and other and one[0] + other[0] > 0.95 * whole:
        shrink = 0.95 * whole / (one[0] + other[0])
        one, other = (one[0] * shrink, one[1]), (other[0] * shrink, other[1])
    row: list[Feature] = []
    if one:
        row.append(_taper("f1", one, base, "A"))
    rest = whole - sum(t[0] for t in (one, other) if t)
    row.append(_made("run", "f2", length=max(rest, 0.5)))
    if other:
        row.append(_taper("f3", other, base, "B"))
    course: dict[str, Any] = {"course": course_text(_between_straights(segments))}
    bent = _made("traced", "f4", **course)
    if not any(isinstance(s, (Arc, Corner)) for s in segments):
        return checked(_piece(base, row))
    standing = Standing(feature=bent, on="A", edge="A", along="B", at=0.0)
    # What is bent takes a little less drawn bar, or more, than its middle is long: the run makes up for it. How much hangs on where the tapers lie.
    fixed, length = sum(t[0] for t in (one, other) if t), rest
    for _turn in range(_TURNS):
        long = checked(_piece(base, [_with_length(f, length + 0.3 * whole) for f in row]))
        length = max(covered_by(long.composition, standing, base.rule) - fixed, 0.5)
    for spare in _SPARE:
        try:
            return checked(_piece(base, [_with_length(f, round(length + spare, 2)) for f in row], (standing,)))
        except NoAnswer as error:
            refused = error
    raise refused


def _with_length(feature: Feature, length: float) -> Feature:
    """The run between the tapers, as long as that; anything else as it is."""
    changes: dict[str, Any] = {"length": length} if feature.id == "f2" else {}
    return replace(feature, **changes)


def _taper(name: str, size: tuple[float, float], base: Piece, toward: str) -> Feature:
    values: dict[str, Any] = {"length": round(size[0], 2), "tip": round(min(size[1], base.bar.thickness), 2), "toward": toward}
    return _made("taper", name, form="round" if base.bar.shape == "round" else "square", **values)


def _between_straights(segments: Sequence[Segment]) -> tuple[Segment, ...]:
    """A course begins and ends with a length."""
    row = list(segments)
    if row and isinstance(row[0], Corner):
        row.insert(0, Straight(0.1))
    if row and isinstance(row[-1], Corner):
        row.append(Straight(0.1))
    return tuple(row)


def _piece(base: Piece, row: Sequence[Feature], standing: Sequence[Standing] = ()) -> Piece:
    return replace(base, features=tuple(row), standing=tuple(standing))


def strays(piece: Piece, middle: Array) -> tuple[float, float]:
    """How far the middle of a piece lies off a line at most, and on the whole, mm; laid on it as well as it goes.

    Args:
        piece: whose bends lie in one plane.
        middle: (n, 2) mm, in order from its end A.
    """
    own = _centreline(piece)
    turn, shift = _pose(own, middle)
    apart = np.hypot(*((own @ turn + shift)[:, None, :] - middle[None, :, :]).transpose(2, 0, 1))
    off = np.concatenate((apart.min(axis=1), apart.min(axis=0)))
    return float(off.max()), float(off.mean())


def strays_of(segments: Sequence[Segment], line: Array) -> tuple[float, Array]:
    """How far straights, arcs and corners lie off a line at most, mm, and their way laid on it, (n, 2) mm.

    Args:
        segments: in order.
        line: (n, 2) mm.
    """
    lengths, turns = [], []
    for s in segments:
        lengths.append(max(s.length, 1e-6))
        turns.append(s.angle if isinstance(s, (Arc, Corner)) else 0.0)
    way = _laid_on(_walked(np.column_stack((lengths, turns))), line)
    apart = np.hypot(*(way[:, None, :] - _even(line, 4 * _PLACES)[None, :, :]).transpose(2, 0, 1))
    return float(apart.min(axis=1).max()), way


def outlines_on(piece: Piece, middle: Array) -> list[Array]:
    """Outlines of a piece's parts, each (n, 2) mm, laid on a line as well as it goes.

    Args:
        piece: whose bends lie in one plane.
        middle: (n, 2) mm, in order from its end A.
    """
    turn, shift = _pose(_centreline(piece), middle)
    found = []
    for part in figure(piece.shapes).parts:
        cos, sin = math.cos(part.heading), math.sin(part.heading)
        own = trace(part.shape)
        rim = np.vstack((own.points + own.offset, (own.points - own.offset)[::-1]))
        found.append((rim @ np.array([[cos, sin], [-sin, cos]]) + part.start) @ turn + shift)
    return found


def _centreline(piece: Piece) -> Array:
    """The middle of the finished piece, (n, 2) mm, at even steps."""
    points = []
    for part in figure(piece.shapes).parts:
        found = trace(part.shape).points
        cos, sin = math.cos(part.heading), math.sin(part.heading)
        points.append(found @ np.array([[cos, sin], [-sin, cos]]) + part.start)
    return _even(np.vstack(points), 400)


def _even(points: Array, count: int) -> Array:
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    s = np.linspace(0.0, ends[-1], count)
    return np.column_stack([np.interp(s, ends, points[:, i]) for i in (0, 1)])


def _pose(own: Array, target: Array) -> tuple[Array, Array]:
    """Turn and shift by which the squares of the distances between places at the same share of the length are least."""
    there = _even(np.asarray(target, dtype=float), len(own))
    a, b = own - own.mean(axis=0), there - there.mean(axis=0)
    u, _s, v = np.linalg.svd(a.T @ b)
    turn = u @ np.diag([1.0, np.sign(np.linalg.det(u @ v))]) @ v
    return turn, there.mean(axis=0) - own.mean(axis=0) @ turn


def _laid_on(own: Array, target: Array) -> Array:
    """A way of as many places as a line has, turned and moved so that it lies nearest to it."""
    turn, shift = _pose(own, target)
    return np.asarray(own @ turn + shift)
