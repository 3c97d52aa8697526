"""Jigs for repeated bends: pegs and stops from the geometry, and how far cold steel springs back (computations, section 21)."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from long_ember.arrays import Array
from long_ember.features import Arc, Piece, Shape, Straight
from long_ember.frozen import dataclass
from long_ember.fullsize.drawing import Drawing, DrawnHole, DrawnLine, Label
from long_ember.fullsize.templates import Curved, curved_of
from long_ember.physics import COLD_YIELD, YOUNG
from long_ember.sections import Blend
from long_ember.units import Measure

__all__ = ["STIFF", "Jig", "Spring", "jigs_of", "overbent"]

# Cold: what it yields at and its modulus, MPa, soft or as rolled: middle of the range of EN 1993-1-1, EN 10083, EN 10088, EN 1652, EN 755 and handbooks.
STIFF: dict[str, tuple[float, float]] = {
    "mild-steel": (COLD_YIELD, YOUNG), "wrought-iron": (200, 195e3), "medium-carbon": (370, 210e3), "high-carbon": (420, 207e3),
    "spring-steel": (480, 206e3), "air-hardening": (450, 207e3), "unknown-steel": (400, 207e3), "stainless": (250, 195e3),
    "copper": (110, 118e3), "bronze": (180, 105e3), "aluminium": (120, 69e3),
}  # fmt: skip
_STRIPS = 400
_STEP = math.pi / 4  # rad of turn from one peg to the next
_STEEP = math.radians(150)  # beyond it the two outsides meet far away
_THIN, _WALL = 2.0, 1.0  # mm: the least peg that anything is bent round, and what must be left between two holes
_CLEAR = 0.3  # mm between bar and a peg that only backs it up

Peg = tuple[float, float, float, str]  # x, y and diameter in mm, and what it does


@dataclass(frozen=True)
class Spring:
    """How a cold bend is made too tight, so that it comes out right.

    Args:
        radius: inside, mm, of the peg.
        angle: degrees to bend to.
        gives: degrees that it springs open.
    """

    radius: float
    angle: float
    gives: float


@dataclass(frozen=True)
class Jig:
    """A plate with pegs for one kind of bend.

    Args:
        names: of the features that are bent on it.
        drawing: plate, pegs and the bar on it, at full size.
        pegs: x, y, diameter, what it does; mm from the forming peg, or from where the curve begins.
        hot: inside radius for hot work, mm.
        spring: for cold work, None where there is no single radius.
        words: how it is used.
    """

    names: tuple[str, ...]
    drawing: Drawing
    pegs: tuple[Peg, ...]
    hot: float
    spring: Spring | None
    words: tuple[str, ...]


def overbent(radius: float, angle: float, blend: Blend, material: str) -> Spring:
    """A cold bend that springs to `radius` and `angle`: 1/R = 1/R′ − M(R′)/(E·I), its steel elastic in the middle and yielding outside.

    For rectangles this is the closed form R′/R = 4a³ − 3a + 1 with a = R′·Y/(E·t).

    Args:
        radius: inside, finished, mm.
        angle: degrees, finished.
        blend: the section, its thickness in the plane of the bend.
        material: key of `STIFF`.

    Returns:
        The peg's radius and the angle to bend to; nothing springs where the steel stays elastic.
    """
    stress, modulus = STIFF[material]
    half = blend.t / 2
    y = (np.arange(_STRIPS) + 0.5) / _STRIPS * half  # from the middle outwards
    wide = blend.w * (np.sqrt(1 - (y / half) ** 2) if blend.form == "ellipse" else np.ones_like(y))
    step = half / _STRIPS
    inertia = float(2 * np.sum(wide * y * y) * step)
    wanted = 1 / (radius + half)  # curvature of the middle

    def left(bent: float) -> float:
        """Curvature that stays when it was bent to curvature `bent`."""
        moment = float(2 * np.sum(wide * y * np.minimum(modulus * y * bent, stress)) * step)
        return bent - moment / (modulus * inertia)

    low, high = wanted, wanted
    while left(high) < wanted:
        high *= 1.5
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if left(middle) < wanted else (low, middle)
    to = angle * high / wanted  # the middle keeps its length
    return Spring(max(1 / high - half, 0.0), to, to - angle)


def jigs_of(piece: Piece, measure: Measure, peg: float) -> tuple[Jig, ...]:
    """A jig for every kind of curve; features that are bent alike share one.

    Args:
        piece: verified.
        measure: of the words.
        peg: diameter of the pegs, mm.
    """
    alike: dict[tuple[object, ...], list[Curved]] = {}
    for one in curved_of(piece):
        alike.setdefault(one.key, []).append(one)
    return tuple(_jig(group, piece, measure, peg) for group in alike.values())


def _jig(group: list[Curved], piece: Piece, m: Measure, peg: float) -> Jig:
    first = group[0]
    arc = _one_arc(first.shape)
    names = tuple(one.name for one in group)
    return _bend_jig(names, first, arc, piece, m, peg) if arc is not None else _curve_jig(names, first, m, peg)


def _one_arc(shape: Shape) -> Arc | None:
    """The arc of a plain bend, None for every other curve."""
    arcs = [s for s in shape.path if not isinstance(s, Straight)]
    return arcs[0] if len(arcs) == 1 and isinstance(arcs[0], Arc) and abs(arcs[0].angle) < math.radians(200) else None


def _bend_jig(names: tuple[str, ...], one: Curved, arc: Arc, piece: Piece, m: Measure, peg: float) -> Jig:
    """The bar comes in level from the left over the forming peg at the origin, and is bent down round it."""
    turn = abs(arc.angle)
    radius = max(arc.length / turn - _inner(one.shape, arc), 0.0) if one.radius is None else one.radius
    deep = float(np.linalg.norm(one.left[len(one.left) // 2] - one.right[len(one.right) // 2]))
    spring = overbent(radius, math.degrees(turn), replace(one.shape.spans[0].start, t=deep), piece.material)
    back = -max(2.5 * deep, 1.5 * peg + radius)
    beyond = max(3 * deep, 40.0)
    tangent = np.array([math.sin(turn), math.cos(turn)]) * radius
    way, inward = np.array([math.cos(turn), -math.sin(turn)]), np.array([-math.sin(turn), -math.cos(turn)])
    stop = tangent + beyond * way + (peg / 2) * inward
    bar = _bar_on_jig(radius, deep, turn, min(one.before or 1e9, abs(back) + 2 * peg), beyond + peg)
    pegs: list[Peg] = [(0.0, 0.0, 2 * radius, "bends round it")] if radius * 2 >= _THIN else []
    wanted: list[Peg] = [
        (back, radius + deep + peg / 2 + _CLEAR, peg, "holds the bar down"),
        (float(stop[0]), float(stop[1]), peg, "stops the leg at its angle"),
    ]
    if one.before:
        wanted.append((-one.before - peg / 2, radius + deep / 2, peg, "stops the end of the bar"))
    pegs += [p for i, p in enumerate(wanted) if not any(_meet(p, q) for q in (*pegs, *wanted[:i])) and not _inside_bar(p, bar)]
    lines = [DrawnLine(bar, "GUIDE", True)]
    lines.append(DrawnLine(np.array([(0.0, radius), (0.0, radius + deep)]), "MARK"))
    labels = [Label(1.5, radius + deep + 1.5, "mark", 2.6)]
    done = {what for _x, _y, _d, what in pegs}
    way_down = "to the stop" if "stops the leg at its angle" in done else f"to {m.angle(round(math.degrees(turn), 1))}"
    over = "over the corner of the vice: so tight is no peg" if radius * 2 < _THIN else "over the middle of the forming peg"
    words = [f"{_times(len(names))}Lay the mark where it begins square {over}, and bend it down {way_down}."]
    if "stops the end of the bar" in done:
        words.append(f"Or set its end against the end stop, {m.length(one.before)} from the middle of the forming peg.")
    bent = f"bend to about {m.angle(round(spring.angle, 1))}"
    if radius * 2 >= _THIN:
        words.append(
            f"Hot: peg {m.length(2 * radius)}. Cold it springs back: leave the stop for the leg out, take a peg of {m.length(2 * spring.radius)}, and {bent}; try one first."
        )
    else:
        words.append(f"Cold it springs back: leave the stop for the leg out, and {bent}; try one first.")
    if turn < _STEEP:
        words.append(
            f"In a bender: the outside corner comes {m.length((radius + deep) * math.tan(turn / 2))} beyond the mark where the bend begins, so set that to its stop."
        )
    drawing = _plate(", ".join(names), lines, labels, pegs, m)
    return Jig(names, drawing, tuple(pegs), radius, spring, tuple(words))


def _meet(one: Peg, other: Peg) -> bool:
    """No wall would be left between their holes."""
    return math.hypot(one[0] - other[0], one[1] - other[1]) < (one[2] + other[2]) / 2 + _WALL


def _inside_bar(peg: Peg, bar: Array) -> bool:
    """It would stand where the bent bar lies."""
    along = np.vstack((bar, bar[:1]))
    a, step = along[:-1], np.diff(along, axis=0)
    share = np.clip(np.sum((np.array(peg[:2]) - a) * step, axis=1) / np.maximum(np.sum(step * step, axis=1), 1e-12), 0, 1)
    return float(np.hypot(*(a + step * share[:, None] - peg[:2]).T).min()) < peg[2] / 2 - 0.05


def _inner(shape: Shape, arc: Arc) -> float:
    """From the middle line to the inside, mm; half the thickness for everything but half-round bar, whose middle is its centroid."""
    blend = shape.spans[0].start
    if blend.form != "half":
        return blend.t / 2
    return blend.t * 4 / (3 * math.pi) if math.cos(arc.facing) < 0 else blend.t * (1 - 4 / (3 * math.pi))


def _bar_on_jig(radius: float, deep: float, turn: float, before: float, beyond: float) -> Array:
    around = np.linspace(0, turn, max(int(math.degrees(turn) / 3), 2))
    inside = np.column_stack((radius * np.sin(around), radius * np.cos(around)))
    outside = np.column_stack(((radius + deep) * np.sin(around), (radius + deep) * np.cos(around)))
    way = np.array([math.cos(turn), -math.sin(turn)]) * beyond
    return np.vstack(([(-before, radius)], inside, inside[-1] + way, outside[-1] + way, outside[::-1], [(-before, radius + deep)]))


def _curve_jig(names: tuple[str, ...], one: Curved, m: Measure, peg: float) -> Jig:
    """Pegs on whichever side lies inside, from one to the next an eighth of a turn."""
    steel = np.vstack((one.left, one.right))
    steps = np.diff(one.middle, axis=0)
    turns = np.diff(np.unwrap(np.arctan2(steps[:, 1], steps[:, 0])), prepend=np.arctan2(steps[0, 1], steps[0, 0]))
    turns[0] = 0.0
    turned = np.cumsum(np.abs(turns))
    pegs: list[Peg] = []
    tight = False
    for level in np.arange(_STEP / 2, float(turned[-1]) + 1e-6, _STEP):
        i = min(int(np.searchsorted(turned, level - 1e-9)), len(steps) - 1)
        inside = one.left if turns[i] > 0 else one.right
        normal = inside[i] - one.middle[i]
        centre = inside[i] + normal / max(float(np.linalg.norm(normal)), 1e-9) * (peg / 2)
        new = (float(centre[0]), float(centre[1]), peg, "along the inside")
        # Where pegs would stand in one another or in another turn, what is left out is bent by hand.
        if any(_meet(new, other) for other in pegs) or float(np.min(np.linalg.norm(steel - centre, axis=1))) < peg / 2 - 0.2:
            tight = True
            continue
        pegs.append(new)
    lines = [DrawnLine(np.vstack((one.left, one.right[::-1])), "GUIDE", True), DrawnLine(one.inside, "MARK")]
    words = [f"{_times(len(names))}Begin at the free end; lead the bar along the pegs, each in turn."]
    if tight:
        words.append(f"Where it is too tight for pegs of {m.length(peg)}, start it over the anvil's edge and try it against the line.")
    return Jig(names, _plate(", ".join(names), lines, [], pegs, m), tuple(pegs), 0.0, None, tuple(words))


def _plate(name: str, lines: list[DrawnLine], labels: list[Label], pegs: list[Peg], m: Measure) -> Drawing:
    found = list(labels)
    for i, (x, y, d, _what) in enumerate(pegs, 1):
        found.append(Label(x, y - 1.1, str(i), 3.0, 0))
        lines += [
            DrawnLine(np.array([(x - d / 2 - 2, y), (x + d / 2 + 2, y)]), "GUIDE"),
            DrawnLine(np.array([(x, y - d / 2 - 2), (x, y + d / 2 + 2)]), "GUIDE"),
        ]
    return Drawing(f"Jig for {name}", "", tuple(lines), tuple(DrawnHole(x, y, d) for x, y, d, _what in pegs), tuple(found))


def _times(count: int) -> str:
    return f"For {count} bends alike. " if count > 1 else ""
