"""What can be made of a bar that is there: starts and pieces, each with the size that follows from its length."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator, Iterable, Iterator
from dataclasses import replace
from functools import partial

from long_ember.document import quick_answer
from long_ember.errors import EmberError
from long_ember.features import Piece, Run
from long_ember.frozen import NamedTuple
from long_ember.heats import ForgeSettings
from long_ember.records import Start
from long_ember.sections import Section
from long_ember.shorthand.starts import asked, proposed_bar, started
from long_ember.units import Measure

__all__ = ["BarFit", "piece_fit", "start_fits"]

_NEAR, _FAR = 0.5, 2.5  # times the proposed size between which one may float
_THIN, _THICK = 0.55, 1.8  # times the thickness of the proposed bar
_ROUNDS = 12
_CLOSE, _HAIR = 0.05, 1e-6  # mm


class BarFit(NamedTuple):
    """Something that uses a bar just so.

    Args:
        piece: it comes to.
        values: of the sizes that a start asks, mm.
        label: of the size that floats.
        size: mm that it comes to.
        left: mm of the bar that are over.
    """

    piece: Piece
    values: dict[str, float]
    label: str
    size: float
    left: float


def start_fits(
    known: Iterable[Start],
    base: Piece,
    bar: Section,
    length: float,
    measure: Measure,
    *,
    ruler: float = 1.0,
    forge: ForgeSettings | None = None,
) -> Iterator[tuple[Start, BarFit] | None]:
    """Each start that fits with how it does; None between two reckonings, where whoever asks may do something else.

    Of several sizes that could float the one does that moves least.

    Args:
        known: to look through.
        base: an empty piece of the shop.
        bar: section that is there.
        length: mm of it.
        measure: see `filled`.
        ruler: mm.
        forge: for the scale.
    """
    for start in known:
        usual = proposed_bar(start, measure)
        if usual.shape != bar.shape or not all(
            _THIN <= a / b <= _THICK for a, b in ((bar.thickness, usual.thickness), (bar.width, usual.width))
        ):
            continue
        values, best = {s.key: asked(s, measure) for s in start.sizes}, None
        for size in start.sizes:
            if size.sort == "length":
                make = partial(_with_value, start, base, bar, values, size.key, measure)
                found = yield from _floated(make, values[size.key], length, ruler, forge or ForgeSettings())
                if found is not None:
                    piece, at, left = found
                    moved = abs(math.log(at / values[size.key]))
                    if best is None or moved < best[0]:
                        best = moved, BarFit(piece, {**values, size.key: at}, size.label, at, left)
        if best is not None:
            yield start, best[1]


def _with_value(start: Start, base: Piece, bar: Section, values: dict[str, float], key: str, measure: Measure, at: float) -> Piece:
    return started(start, base, bar, {**values, key: at}, measure).piece


def piece_fit(
    piece: Piece, bar: Section, length: float, *, ruler: float = 1.0, forge: ForgeSettings | None = None
) -> Generator[None, None, BarFit | None]:
    """How a piece fits a bar of its own section, its longest run floating; None where it does not. It rests between two reckonings.

    Args:
        piece: as it is planned.
        bar: section that is there.
        length: mm of it.
        ruler: mm.
        forge: for the scale.
    """
    runs = [f for f in piece.features if isinstance(f, Run) and f.pin == "none"]
    if piece.bar != bar or not runs:
        return None
    run = max(runs, key=lambda f: f.length)
    found = yield from _floated(partial(_with_run, piece, run), run.length, length, ruler, forge or ForgeSettings())
    return None if found is None else BarFit(found[0], {}, f"{run.title}: length", found[1], found[2])


def _with_run(piece: Piece, run: Run, at: float) -> Piece:
    return piece.with_feature(piece.index(run.id), replace(run, length=at))


def _floated(
    make: Callable[[float], Piece], near: float, length: float, ruler: float, forge: ForgeSettings
) -> Generator[None, None, tuple[Piece, float, float] | None]:
    """The size at which a piece uses a bar: nearly a straight line, with steps where a heat more takes its scale."""

    def over(at: float) -> tuple[Piece, float]:
        piece = make(at)
        return piece, quick_answer(piece, ruler=ruler, forge=forge).reckoning.chosen - length

    try:
        low, high = near * _NEAR, near * _FAR
        below = over(low)
        yield
        above = over(high)
        if below[1] > 0 or above[1] < 0:
            return None
        for turn in range(_ROUNDS):
            yield
            middle = low - below[1] * (high - low) / max(above[1] - below[1], 1e-9) if turn % 3 < 2 else (low + high) / 2
            tried = over(min(max(middle, low), high))
            if tried[1] <= _HAIR:
                below, low = tried, middle
            else:
                above, high = tried, middle
            if -below[1] < _CLOSE:
                break
    except EmberError:
        return None
    return below[0], low, max(-below[1], 0.0)
