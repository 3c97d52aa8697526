"""Templates at full size: curves by their inside, middle or outside line, the whole piece, gauges for tapers, holes and drifts."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.features import Feature, Piece, Shape, Straight, shape_of
from long_ember.features.hole import Hole
from long_ember.features.shape import Arc, Corner, Helix, Segment
from long_ember.features.slot import DriftedEye
from long_ember.features.taper import Taper, thinning
from long_ember.frozen import dataclass
from long_ember.fullsize.drawing import Drawing, DrawnHole, DrawnLine, Label
from long_ember.geometry import figure, silhouette
from long_ember.sections import Blend
from long_ember.units import Measure

__all__ = ["EDGES", "Curved", "curved_of", "taper_blends", "templates_of"]

EDGES = (("all", "both edges"), ("inside", "inside line"), ("middle", "middle line"), ("outside", "outside line"))
STATIONS = 4  # of a taper, beside its two ends
_SLACK, _SLACK_SHARE = 0.5, 0.03  # mm and share, by which a hole is too large
_FLAT = 0.05  # mm, by which width and thickness are told apart


@dataclass(frozen=True, eq=False)
class Curved:
    """A feature that is bent in a plane, laid into that plane.

    Args:
        name: of the feature.
        key: the same for what is bent alike.
        shape: turned so that it bends up.
        left: outline to the left of travel, (n, 2), mm.
        right: to the right.
        middle: centreline.
        inside: whichever of the two lies inside.
        outside: the other one.
        radius: inside radius that was asked for, mm; None where it has no single one.
        before: mm of straight bar between the end A and where it begins, 0 where something is bent before it.
    """

    name: str
    key: tuple[object, ...]
    shape: Shape
    left: Array
    right: Array
    middle: Array
    inside: Array
    outside: Array
    radius: float | None
    before: float


def curved_of(piece: Piece) -> tuple[Curved, ...]:
    """Every feature that is bent in a plane of its own, in the order of the finished piece."""
    features = {f.id: f for f in (*piece.features, *(s.feature for s in piece.composition.stands))}
    found: list[Curved] = []
    straight, along = True, 0.0
    for identity, group in itertools.groupby(piece.shapes, key=lambda pair: pair[0]):
        shapes = [shape for _id, shape in group]
        bends = [s for shape in shapes for s in shape.path if not isinstance(s, Straight)]
        real = [s for s in bends if not isinstance(s, Corner)]
        if real and not any(isinstance(s, Helix) and s.pitch for s in real):
            laid = _laid(shapes)
            if laid is not None:
                found.append(_curved(features[identity], laid, along if straight else 0.0))
        straight = straight and not bends
        along += math.fsum(shape.length for shape in shapes)
    return tuple(found)


def _laid(shapes: list[Shape]) -> list[Shape] | None:
    """Turned about the bar so that all of it bends up or down; None where it leaves its plane."""
    facings = [s.facing for shape in shapes for s in shape.path if not isinstance(s, Straight | Helix)]
    first = facings[0] if facings else 0.0
    if any(abs(math.sin(f - first)) > 1e-6 for f in facings):
        return None
    swap = abs(math.sin(first)) > 0.7  # bent to the front or the back: its width lies in the plane

    def turned(segment: Segment) -> Segment:
        return (
            segment
            if isinstance(segment, Straight | Helix)
            else replace(segment, facing=0.0 if math.cos(segment.facing - first) > 0 else math.pi)
        )

    def lying(blend: Blend) -> Blend:
        return replace(blend, w=blend.t, t=blend.w) if swap and blend.form == "rectangle" else blend

    return [
        Shape(tuple(replace(s, start=lying(s.start), end=lying(s.end)) for s in shape.spans), tuple(turned(s) for s in shape.path))
        for shape in shapes
    ]


def _curved(feature: Feature, shapes: list[Shape], before: float) -> Curved:
    parts = figure([(str(i), shape) for i, shape in enumerate(shapes)]).parts
    left, right, middle = (np.vstack([getattr(p, side) for p in parts]) for side in ("left", "right", "centre"))
    asked = getattr(feature, "radius", None)
    declared = getattr(feature, "inside", 0.0) / 2 if asked is None and hasattr(feature, "inside") else asked
    arcs = [s for shape in shapes for s in shape.path if isinstance(s, Arc)]
    if declared is not None and arcs and len(parts) == 1:
        # Drawn with all its steel the bar is a hair thinner in a tight bend; a template goes by the inside that was asked for.
        main = max(arcs, key=lambda s: abs(s.angle))
        half = main.length / abs(main.angle) - declared
        drawn = float(np.linalg.norm(left[len(left) // 2] - middle[len(left) // 2]))
        if 0.5 < half / drawn < 2.0:
            left, right = middle + (left - middle) * (half / drawn), middle + (right - middle) * (half / drawn)
    inner, outer = (left, right) if _long(left) < _long(right) else (right, left)
    whole = Shape(tuple(s for shape in shapes for s in shape.spans), tuple(s for shape in shapes for s in shape.path))
    # Alike are those whose edges are, told from where they begin.
    sides = np.vstack((left, right)) - middle[0]
    key = (len(sides), *np.round(np.abs(sides[:: max(len(sides) // 12, 1)]), 1).ravel().tolist())
    return Curved(feature.title, key, whole, left, right, middle, inner, outer, declared if arcs else None, before)


def _long(points: Array) -> float:
    return float(np.sum(np.linalg.norm(np.diff(points, axis=0), axis=1)))


def templates_of(
    piece: Piece, measure: Measure, *, edge: str = "all", whole: bool = True, curves: bool = True, gauges: bool = True
) -> list[Drawing]:
    """Everything of a piece that is worth laying against the steel.

    Args:
        piece: verified.
        measure: of the words.
        edge: key of `EDGES`, for curves.
        whole: with the finished piece from the side.
        curves: with its scrolls, hooks, rings, bends and traced curves.
        gauges: with gauges for tapers, holes and drifts.

    Raises:
        NoAnswer: the piece is empty.
    """
    if not piece.features:
        raise NoAnswer("The piece is empty.", "Add a feature first.")
    found: list[Drawing] = []
    if whole:
        polygons = silhouette(piece, 1)
        long, high = np.ptp(np.vstack(polygons), axis=0).tolist()
        note = f"{measure.length(long)} by {measure.length(high)}, finished, from the side"
        found.append(Drawing(piece.name, note, tuple(DrawnLine(p, "CUT", True) for p in polygons)))
    if curves:
        alike: dict[tuple[object, ...], list[Curved]] = {}
        for one in curved_of(piece):
            alike.setdefault(one.key, []).append(one)
        found += [_curve_drawing(group, edge, measure) for group in alike.values()]
    if gauges:
        found += _gauges(piece, measure)
    return found


def _curve_drawing(group: list[Curved], edge: str, m: Measure) -> Drawing:
    one = group[0]
    name = ", ".join(dict.fromkeys(c.name for c in group)) + (f", {len(group)} alike" if len(group) > 1 else "")
    lines = {
        "all": [DrawnLine(np.vstack((one.left, one.right[::-1])), "CUT", True), DrawnLine(one.middle, "GUIDE")],
        "inside": [DrawnLine(one.inside, "CUT")], "middle": [DrawnLine(one.middle, "CUT")], "outside": [DrawnLine(one.outside, "CUT")],
    }[edge]  # fmt: skip
    if edge != "all":  # square across both ends, so that it can be laid to the bar's marks
        lines += [DrawnLine(np.vstack((one.left[i], one.right[i])), "MARK") for i in (0, -1)]
    drawn = one.middle if edge in ("all", "middle") else getattr(one, edge)
    word = "middle line" if edge == "all" else dict(EDGES)[edge]
    return Drawing(name, f"{word} {m.length(_long(drawn))} long", tuple(lines))


def taper_blends(piece: Piece, feature: Taper) -> tuple[Blend, Blend]:
    """Sections at the thin and the thick end of a taper of the row."""
    spans = shape_of(feature, piece.place(piece.index(feature.id))).spans
    ends = (spans[0].start, spans[-1].end)
    return ends if ends[0].area <= ends[1].area else (ends[1], ends[0])


def _gauges(piece: Piece, m: Measure) -> list[Drawing]:
    found: list[Drawing] = []
    for feature in piece.features:
        if isinstance(feature, Taper):
            rows = thinning(*taper_blends(piece, feature), feature.length, STATIONS)
            found.append(_notches(feature.title, [(at, here.t) for at, here in rows], "thickness", m))
            if any(abs(here.w - here.t) > _FLAT for _at, here in rows):
                found.append(_notches(feature.title, [(at, here.w) for at, here in rows], "width", m))
    passes: dict[tuple[float, bool], list[str]] = {}
    for feature in (*piece.features, *(s.feature for s in piece.composition.stands)):
        for title, size, turned in _openings(feature):
            passes.setdefault((size, turned), []).append(title)
    found += [_passes(", ".join(dict.fromkeys(titles)), size, turned, m) for (size, turned), titles in passes.items()]
    return found


def _openings(feature: Feature) -> list[tuple[str, float, bool]]:
    """What goes through a feature: name, size in mm, whether it is round. Of a drifted eye its drift, of a slot as punched its length and width."""
    if isinstance(feature, Hole):
        return [(feature.title, feature.diameter, feature.form == "round")]
    if not isinstance(feature, DriftedEye):
        return []
    if feature.form == "slot":
        return [(f"{feature.title}, its length", feature.opened(), False), (f"{feature.title}, its width", feature.punch, False)]
    return [(feature.title, feature.diameter, feature.form == "eye")]


def _notches(title: str, rows: list[tuple[float, float]], what: str, m: Measure) -> Drawing:
    """A strip with a notch as wide as the steel is at each station."""
    edge: list[tuple[float, float]] = [(0.0, 0.0)]
    labels, x, deep = [], 6.0, max(12.0, 0.6 * max(size for _at, size in rows))
    high = deep + 16.0
    for at, size in rows:
        edge += [(x, 0.0), (x, deep), (x + size, deep), (x + size, 0.0)]
        middle = x + size / 2
        labels += [Label(middle, deep + 6.6, m.length(size), 2.6, 0), Label(middle, deep + 2.4, f"at {m.length(at)}", 2.2, 0)]
        x += size + max(8.0, 16.0 - size)
    edge += [(x, 0.0), (x, high), (0.0, high)]
    note = f"{what} at each station, measured from the thin end, cold"
    return Drawing(f"Notches for {title}", note, (DrawnLine(np.array(edge), "CUT", True),), (), tuple(labels))


def _passes(title: str, size: float, turned: bool, m: Measure) -> Drawing:
    """A strip whose one end must go in, and whose other end must not; and the hole itself."""
    over = size + max(_SLACK, _SLACK_SHARE * size)
    high, reach, body = over + 10.0, max(14.0, size), 34.0
    low, up = (high - size) / 2, (high - over) / 2
    edge = np.array([
        (0.0, low), (reach, low), (reach, 0.0), (reach + body, 0.0), (reach + body, up), (2 * reach + body, up), (2 * reach + body, up + over),
        (reach + body, up + over), (reach + body, high), (reach, high), (reach, low + size), (0.0, low + size),
    ])  # fmt: skip
    labels = (
        Label(reach + body / 2, high / 2 + 1.4, f"goes: {m.fine(size)}", 2.8, 0),
        Label(reach + body / 2, high / 2 - 4.2, f"not: {m.fine(over)}", 2.8, 0),
    )
    x = 2 * reach + body + size / 2 + 10
    holes = (DrawnHole(x, high / 2, size, "MARK"),) if turned else ()
    lines = [DrawnLine(edge, "CUT", True)]
    if not turned:
        h = size / 2
        lines.append(
            DrawnLine(np.array([(x - h, high / 2 - h), (x + h, high / 2 - h), (x + h, high / 2 + h), (x - h, high / 2 + h)]), "MARK", True)
        )
    return Drawing(
        f"Go and no-go for {title}",
        "filed to the line from sheet; the left end goes in, the right one does not",
        tuple(lines),
        holes,
        labels,
    )
