"""What an entry has changed, in words."""

from __future__ import annotations

import math

from long_ember.beliefs import FACTORS, Factor
from long_ember.heats import ForgingPlan
from long_ember.units import Line, Measure, say

__all__ = ["changed", "figure_words"]

_SEEN = 0.2  # of what has changed: a figure that has less to do with it is not told
_HAIR = 1e-6  # mm
_MM = Measure()


def figure_words(factor: Factor, value: float, measure: Measure = _MM) -> str:
    """How far a figure lies from the usual.

    Args:
        factor: which.
        value: in its own unit; ln of a multiple.
        measure: how a length is shown.
    """
    if factor.multiple:
        return f"{math.exp(value):.2f} times the usual"
    if factor.key == "practice":
        return f"{0.9 * 2**value:.0%} of the time at twice as many"
    if factor.key == "kin":
        return f"{0.97 * 2**value:.1%} of the time at twice as many others with the same work"
    far = abs(value)
    if factor.unit == "mm":
        text = measure.fine(far)
    elif factor.unit == "share":
        text = f"{far:.0%}"
    elif factor.unit == "k":
        text = f"{far:.3f} in k"
    else:
        text = f"{far:.2f} {'thicknesses' if factor.unit == 't' else factor.unit}"
    if not any(digit in text for digit in "123456789"):
        return text  # what rounds to nothing lies to neither side
    sign = "+" if value >= 0 else "\u2212"
    return f"{sign}{text}"


def _because(before: ForgingPlan, after: ForgingPlan, measure: Measure) -> str:
    """The figures that moved what is shown, most first, in words; "" where none moved."""
    moved, measured = (
        {f.key: b - a for f, a, b in zip(FACTORS, one.mean, other.mean, strict=True)}
        for one, other in ((before.forge.belief, after.forge.belief), (before.forge.lengths, after.forge.lengths))
    )
    reckoning = after.reckoning
    weights: dict[str, float] = {}
    if abs(before.reckoning.cut - reckoning.cut) > _HAIR:
        bar, taken = reckoning.scaling
        steep = bar * taken * math.exp(taken)
        by = {"scale": steep * measured["scale"], "work": steep * reckoning.growth * measured["work"]}
        for doubt in reckoning.doubts:
            if doubt.factor >= 0:
                key = FACTORS[doubt.factor].key
                by[key] = by.get(key, 0.0) + doubt.slope * measured[key]
        _weigh(weights, by)
    if before.count != after.count:
        _weigh(weights, {"work": moved["work"]})
    if round(before.minutes[1]) != round(after.minutes[1]):
        _weigh(weights, {"work": moved["work"], "pace": moved["pace"], **_hands(before, after)})
    told = sorted((w, key) for key, w in weights.items() if w >= _SEEN)[::-1][:2]
    held = {f.key: (f, value) for f, value in zip(FACTORS, after.forge.belief.mean, strict=True)}
    return ", ".join(f"{held[key][0].title.lower()} {figure_words(*held[key], measure)}" for _w, key in told)


def _hands(before: ForgingPlan, after: ForgingPlan) -> dict[str, float]:
    """How much practice has moved the minutes, as a logarithm: what was made since, and what the log says of its worth."""
    numbers = [math.log2(p.forge.practised.number) for p in (before, after)]
    curves = [math.log(p.forge.curve) for p in (before, after)]
    kins = [math.log(p.forge.kin) for p in (before, after)]
    return {
        "practice": numbers[1] * curves[1] - numbers[0] * curves[0],
        "kin": after.known * kins[1] - before.known * kins[0],
    }


def _weigh(weights: dict[str, float], by: dict[str, float]) -> None:
    """Add what each figure has to do with one change, as shares of it."""
    whole = sum(abs(x) for x in by.values())
    for key, x in by.items():
        if whole:
            weights[key] = weights.get(key, 0.0) + abs(x) / whole


def changed(before: ForgingPlan, after: ForgingPlan, measure: Measure = _MM) -> Line | None:
    """`Cut length 214 → 217 mm, heats 6 → 8, because …`; None where nothing that is shown has changed.

    Args:
        before: the plan as it was.
        after: as it is.
        measure: how a figure of the log is shown that is a length.
    """
    parts, values = list[str](), list[float]()
    if abs(before.reckoning.cut - after.reckoning.cut) > _HAIR:
        parts.append("cut length {} \u2192 {}")
        values += [before.reckoning.cut, after.reckoning.cut]
    if before.count != after.count:
        parts.append(f"heats {before.count} \u2192 {after.count}")
    minutes = [round(p.minutes[1]) for p in (before, after)]
    if minutes[0] != minutes[1]:
        parts.append(f"minutes {minutes[0]} \u2192 {minutes[1]}")
    if not parts:
        return None
    why = _because(before, after, measure)
    text = ", ".join(parts)
    return say(f"{text[:1].upper()}{text[1:]}{f', because of {why}' if why else ', because it is surer now'}.", *values)
