"""Test pieces: the features in doubt alone, forged and measured, fix what is otherwise taken on trust (computations, sections 4, 8, 9)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from long_ember.errors import NoAnswer
from long_ember.features import Feature, Measured, Piece, Place, Run, shape_of, stock_of
from long_ember.features.bend import Bend
from long_ember.features.run import SectionChange
from long_ember.features.twist import Twist, twisted_length
from long_ember.frozen import dataclass
from long_ember.sections import Section

__all__ = [
    "Asked",
    "Question",
    "Trial",
    "bend_measured",
    "capture_measured",
    "measured",
    "questions",
    "scale_measured",
    "shortening_measured",
    "trial_piece",
]

# How far one piece may differ from the next, besides what can't be read on a ruler: assumed, and said so wherever it is shown.
_BETWEEN = {"capture": 0.03, "shortening": 0.05, "bend": 0.03, "scale": 0.002}
_HOLD = 8.0  # thicknesses of plain bar for the tongs, and a few between features
_APART = 2.5


@dataclass(frozen=True)
class Asked:
    """One thing to measure.

    Args:
        label: what is measured, and how.
        kind: length (mm), mass (g), or count.
        error: how far it is read wrong, in its own unit.
        planned: what the plan expects.
    """

    label: str
    kind: str
    error: float
    planned: float


@dataclass(frozen=True)
class Question:
    """A figure in doubt, and what to measure to settle it.

    Args:
        name: as in `Measured`.
        feature: id in the piece, "" for the whole.
        title: of the figure.
        now: taken so far.
        asked: in the order `measured` takes them.
        tested: the feature as it is on the test piece; None for the whole piece.
    """

    name: str
    feature: str
    title: str
    now: float
    asked: tuple[Asked, ...]
    tested: Feature | None


@dataclass(frozen=True)
class Trial:
    """A test piece for one bar.

    Args:
        piece: to be forged, planned as any other.
        questions: what it settles.
    """

    piece: Piece
    questions: tuple[Question, ...]


def capture_measured(bar: Section, width: float, thickness: float) -> float:
    """Share of the displaced steel that went sideways: (w/w₀ − 1) ÷ (A/(w₀·t) − 1).

    Args:
        bar: that was spread.
        width: reached, mm.
        thickness: mean, mm.

    Raises:
        NoAnswer: it was not spread.
    """
    spare = bar.area / (bar.width * thickness) - 1
    if spare <= 0.01 or width <= bar.width:
        raise NoAnswer("That is not wider and thinner than the bar.", "Measure the widest place, and the mean thickness there.")
    return (width / bar.width - 1) / spare


def shortening_measured(section: Section, turns: float, before: float, after: float) -> float:
    """Share of the greatest possible shortening: (L_s − L) ÷ (L_s − √(L_s² − (2πN)²·r_g²)).

    Args:
        section: that was twisted.
        turns: N.
        before: between the two pop marks, mm.
        after: the same, mm.

    Raises:
        NoAnswer: so many turns do not fit in it.
    """
    return (before - after) / (before - twisted_length(before, turns, section.gyration2))


def bend_measured(angle: float, inside: float, thickness: float, before: float, legs: float) -> float:
    """k of the bend: ((L − legs)/θ − R)/t.

    Args:
        angle: degrees turned.
        inside: radius, mm.
        thickness: in the plane of the bend, mm.
        before: length of the bar before it was bent, mm.
        legs: both straight legs together, to where the bend begins, mm.
    """
    return float(((before - legs) / math.radians(angle) - inside) / thickness)


def scale_measured(before: float, after: float, heats: float) -> float:
    """Share of the steel lost in each heat: 1 − (m₁/m₀)^(1/n).

    Args:
        before: mass of the cut bar, g.
        after: mass of what came out, g.
        heats: how often it was in the fire.

    Raises:
        NoAnswer: nothing that could be weighed.
    """
    if before <= 0 or after <= 0 or heats < 1:
        raise NoAnswer("Two masses and one heat or more are needed.", "Weigh the bar before and the piece after.")
    return 1.0 - float((after / before) ** (1 / heats))


def questions(piece: Piece) -> tuple[Question, ...]:
    """What a test piece of these features would settle, most doubtful kinds first; scale always."""
    found: list[Question] = []
    for i, feature in enumerate(piece.features):
        place = piece.place(i)
        title = f"{feature.title} {i + 1}"
        if feature.kind == "spread" and getattr(feature, "work", "") != "folded":
            found.append(_spread(feature, title, feature.width, feature.thickness))  # type: ignore[attr-defined]
        elif isinstance(feature, SectionChange) and feature.section.width > place.bar.width * 1.001:
            found.append(_spread(feature, title, feature.section.width, feature.section.thickness))
        elif isinstance(feature, Twist):
            found.append(_twist(feature, place, title))
    bend = _tightest(piece)
    if bend is not None:
        found.append(_bend(*bend))
    share = piece.allowances.scale
    weigh = (
        Asked("Bar before, mass", "mass", 1.0, 0.0),
        Asked("Piece after, mass", "mass", 1.0, 0.0),
        Asked("Times in the fire", "count", 0.0, 0.0),
    )
    return (*found, Question("scale", "", "Scale each heat", share, weigh, None))


def _spread(feature: Any, title: str, width: float, thickness: float) -> Question:
    asked = (Asked("Widest place", "length", 0.3, width), Asked("Mean thickness there", "length", 0.1, thickness))
    return Question("capture", feature.id, f"{title}: share that goes sideways", feature.capture, asked, feature)


def _twist(feature: Twist, place: Place, title: str) -> Question:
    before = feature.before(place)
    asked = (
        Asked("Between the pops before twisting", "length", 0.5, before),
        Asked("Between the pops after", "length", 0.5, feature.length),
    )
    return Question("shortening", feature.id, f"{title}: shortening", feature.shortening, asked, feature)


def _tightest(piece: Piece) -> tuple[Any, Place, str] | None:
    """The round bend with the smallest inside radius for its thickness; hooks and eyes stand as bends of a right angle."""
    found = []
    for i, feature in enumerate(piece.features):
        radius: float = getattr(feature, "radius", 0.0) or getattr(feature, "inside", 0.0) / 2
        if feature.kind in ("bend", "hook", "eye", "coil") and radius > 0 and getattr(feature, "corner", "round") == "round":
            facing = getattr(feature, "facing", 0.0)
            bent = Bend(id=feature.id, angle=90.0, radius=radius, facing=facing)
            found.append((radius / piece.bar.blend.across(math.radians(facing)), bent, piece.place(i), f"{feature.title} {i + 1}"))
    if not found:
        return None
    _ratio, bent, place, title = min(found, key=lambda row: row[0])
    return bent, place, title


def _bend(bent: Any, place: Place, title: str) -> Question:
    t = 2 * place.bar.blend.inner(math.radians(bent.facing))
    k = (bent.developed(place) / (math.pi / 2) - bent.radius) / t  # of twice the way to the centroid, as the bend rule has it
    asked = (
        Asked("Whole length just before bending", "length", 0.5, 0.0),
        Asked("Both straight legs together, to where the bend begins", "length", 0.7, 0.0),
        Asked("Inside radius", "length", 0.3, bent.radius),
    )
    return Question("bend", "", f"{title}: bend factor", k, asked, bent)


def trial_piece(piece: Piece, bar: Section, name: str = "") -> Trial:
    """A small piece of the critical features only, of one of the bars in question; plain bar to hold it by.

    Args:
        piece: whose features are in doubt.
        bar: to try.
        name: of the test piece.

    Raises:
        NoAnswer: nothing of the piece is in doubt that a test piece could settle, or the bar can't be forged so.
    """
    asked = questions(piece)
    tested = [q.tested for q in asked if q.tested is not None]
    if not tested:
        raise NoAnswer(
            "Nothing here is in doubt that a test piece would settle.",
            "Spreads, twists and bends can be tried; scale comes with any of them.",
        )
    t = bar.thickness
    features: list[Feature] = [Run(id="hold", length=_HOLD * t)]
    middle = [f for f in tested if not hasattr(f, "toward")]
    ends = [f for f in tested if hasattr(f, "toward")]
    for i, feature in enumerate(middle):
        features += [feature, Run(id=f"plain{i}", length=(_HOLD if feature.kind == "bend" else _APART) * t)]
    features += [replace(f, toward="B") for f in ends[-1:]]  # type: ignore[call-arg]
    if len(ends) > 1:
        features = [replace(ends[0], toward="A"), *features]  # type: ignore[call-arg]
    made = Piece(
        name=name or f"Test piece for {piece.name}", note="Only what is in doubt. Measure it as the test piece asks.", bar=bar,
        material=piece.material, school=piece.school, features=tuple(features), allowances=piece.allowances,
    )  # fmt: skip
    made.verify()
    ids = {f.id for f in features}
    return Trial(made, tuple(_on(q, made) for q in asked if q.tested is None or q.tested.id in ids))


def _on(question: Question, made: Piece) -> Question:
    """The bend's lengths as they are on the test piece: all that is straight counts as its legs."""
    if question.name != "bend":
        return question
    index = made.index(question.tested.id if question.tested else "")
    arc = stock_of(made.features[index], made.place(index))
    legs = math.fsum(shape_of(f, made.place(i)).length for i, f in enumerate(made.features) if i != index)
    whole, straight, inside = question.asked
    return replace(question, asked=(replace(whole, planned=arc + legs), replace(straight, planned=legs), inside))


def _value(question: Question, piece: Piece, bar: Section, read: Sequence[float]) -> float:
    if question.name == "capture":
        return capture_measured(bar, *read)
    if question.name == "shortening":
        assert isinstance(question.tested, Twist)
        return shortening_measured(question.tested.flattened or bar, question.tested.turns, *read)
    if question.name == "bend":
        bent: Any = question.tested
        return bend_measured(bent.angle, read[2], 2 * bar.blend.inner(math.radians(bent.facing)), read[0], read[1])
    return scale_measured(*read)


_LIMITS = {"capture": (0.0, 1.0), "shortening": (0.0, 1.0), "bend": (0.2, 0.7), "scale": (0.0, 0.2)}


def measured(question: Question, piece: Piece, readings: Sequence[tuple[Section, Sequence[float]]]) -> Measured:
    """A figure from what was read off one test piece or more.

    The value is their mean. Its spread adds in quadrature what the reading leaves open (first order, by differences), half of how far the
    pieces differ, and how far one piece may differ from the next.

    Args:
        question: that they answer.
        piece: the figure is for.
        readings: bar and what was measured, in the order of `Question.asked`.

    Raises:
        NoAnswer: nothing was read, or what was read gives no possible figure.
    """
    if not readings:
        raise NoAnswer("Nothing is measured yet.", "Enter what came out.")
    values, open_ = [], 0.0
    for bar, read in readings:
        value = _value(question, piece, bar, read)
        low, high = _LIMITS[question.name]
        if not low - 0.05 <= value <= high + 0.05:
            raise NoAnswer(f"That would be {value:.0%}, outside {low:.0%} to {high:.0%}.", "Look at the measurements again.")
        values.append(min(max(value, low), high))
        for i, asked in enumerate(question.asked):
            if asked.error:
                moved = [*read[:i], read[i] + asked.error, *read[i + 1 :]]
                try:
                    open_ += (_value(question, piece, bar, moved) - value) ** 2
                except NoAnswer:  # at the edge of what is possible
                    open_ += (high - low) ** 2 / 16
    mean = math.fsum(values) / len(values)
    apart = (max(values) - min(values)) / 2
    spread = math.sqrt(open_ / len(values) ** 2 + apart**2 + _BETWEEN[question.name] ** 2 / len(values))
    return Measured(name=question.name, feature=question.feature, value=mean, spread=min(spread, 1.0))
