"""What an entry has changed, in words."""

from __future__ import annotations

import math

from long_ember.beliefs import FACTORS, Belief, Factor
from long_ember.heats import ForgingPlan
from long_ember.units import Line, say

__all__ = ["because", "changed", "figure_words"]

_SEEN, _LEAST = 0.15, 1e-3  # of its usual spread: a second factor that moved less is not told, nor any that did not move


def figure_words(factor: Factor, value: float) -> str:
    """How far a figure lies from the usual.

    Args:
        factor: which.
        value: in its own unit; ln of a multiple.
    """
    if factor.multiple:
        return f"{math.exp(value):.2f} times the usual"
    if factor.key == "practice":
        return f"{0.9 * 2**value:.0%} of the time at twice the number"
    sign = "+" if value >= 0 else "\u2212"
    if factor.unit == "share":
        return f"{sign}{abs(value):.0%}"
    return (
        f"{sign}{abs(value):.3f} in k"
        if factor.unit == "k"
        else f"{sign}{abs(value):.2f} {'thicknesses' if factor.unit == 't' else factor.unit}"
    )


def because(before: Belief, after: Belief) -> str:
    """The factors that moved most, in words; "" where none moved."""
    moved = sorted(
        ((abs(b - a) / f.spread, f, b) for f, a, b in zip(FACTORS, before.mean, after.mean, strict=True)), key=lambda row: -row[0]
    )
    told = [f"{f.title.lower()} {figure_words(f, value)}" for i, (share, f, value) in enumerate(moved[:2]) if share >= (_SEEN if i else _LEAST)]
    return ", ".join(told)


def changed(before: ForgingPlan, after: ForgingPlan) -> Line | None:
    """`Cut length 214 → 217 mm, heats 6 → 8, because …`; None where nothing that is shown has changed."""
    parts, values = list[str](), list[float]()
    if abs(before.reckoning.cut - after.reckoning.cut) > 1e-6:
        parts.append("cut length {} \u2192 {}")
        values += [before.reckoning.cut, after.reckoning.cut]
    if before.count != after.count:
        parts.append(f"heats {before.count} \u2192 {after.count}")
    minutes = [round(p.minutes[1]) for p in (before, after)]
    if minutes[0] != minutes[1]:
        parts.append(f"minutes {minutes[0]} \u2192 {minutes[1]}")
    if not parts:
        return None
    why = because(before.forge.belief, after.forge.belief)
    text = ", ".join(parts)
    return say(f"{text[:1].upper()}{text[1:]}{f', because of {why}' if why else ''}.", *values)
