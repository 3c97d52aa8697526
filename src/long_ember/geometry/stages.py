"""What a feature looks like part of the way: undone, drawn but straight, half rolled, finished."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember.features import Arc, Corner, Feature, Place, Segment, Shape, Span, Spiral, Straight, shape_of, stock_of
from long_ember.frozen import dataclass

__all__ = ["DONE", "UNDONE", "Progress", "partly", "stage_shape"]


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a feature is.

    Args:
        section: 0 the bar as it came, 1 the finished section.
        path: 0 straight, 1 bent, rolled, twisted and pierced as planned.
        along: the section is reached piece by piece, 1 from end A on, -1 from end B; 0 everywhere at once.
    """

    section: float = 0.0
    path: float = 0.0
    along: int = 0


UNDONE, DONE = Progress(), Progress(1.0, 1.0)
_HALVINGS = 40


def stage_shape(feature: Feature, place: Place, progress: Progress) -> Shape:
    """The form at a stage; its volume is the stock's, less what has been removed once the feature is done.

    Kept with the feature, so that a filmstrip samples each stage of each feature once.
    """
    kept: tuple[Place, dict[Progress, Shape]] | None = feature.__dict__.get("_stages")
    if kept is None or (kept[0] is not place and kept[0] != place):
        kept = feature.__dict__["_stages"] = (place, {})
    if progress not in kept[1]:
        kept[1][progress] = _stage(feature, place, progress)
    return kept[1][progress]


def _stage(feature: Feature, place: Place, progress: Progress) -> Shape:
    final = shape_of(feature, place)
    if progress == DONE:
        return final
    spans = (_along if progress.along else _spans)(final, feature, place, progress)
    length = sum(span.length for span in spans)
    if progress.path <= 0:
        return Shape(spans, (Straight(length),))
    return Shape(spans, partly(final, progress.path, length))


def _spans(final: Shape, feature: Feature, place: Place, progress: Progress) -> tuple[Span, ...]:
    bar, steel, fraction = place.steel.blend, stock_of(feature, place) * place.steel.area, progress.section
    if fraction <= 0:
        return (Span(steel / bar.area, bar, bar),)
    gross = sum(span.volume for span in final.spans)
    spans = []
    for span in final.spans:
        shaped = replace(span, start=bar.toward(span.start, fraction), end=bar.toward(span.end, fraction), turns=0.0)
        spans.append(replace(shaped, length=shaped.length * span.volume / gross * steel / shaped.volume))
    return tuple(spans)


def _along(final: Shape, feature: Feature, place: Place, progress: Progress) -> tuple[Span, ...]:
    """Finished so far along the bar, and bar from there on."""
    bar, steel = place.steel.blend, stock_of(feature, place) * place.steel.area
    left, found = progress.section * steel, list[Span]()
    for span in final.spans if progress.along > 0 else [s.reversed() for s in reversed(final.spans)]:
        part = span if span.volume <= left else _first(span, left)
        if part.length > 0:
            found.append(part)
        left -= part.volume
    if rest := steel - math.fsum(s.volume for s in found):
        found.append(Span(rest / bar.area, bar, bar))
    return tuple(found) if progress.along > 0 else tuple(s.reversed() for s in reversed(found))


def _first(span: Span, volume: float) -> Span:
    """The beginning of a span that holds `volume`, mm³."""
    low, high = 0.0, 1.0
    for _ in range(_HALVINGS):
        share = (low + high) / 2
        low, high = (low, share) if _to(span, share).volume > volume else (share, high)
    return _to(span, low)


def _to(span: Span, share: float) -> Span:
    return Span(span.length * share, span.start, span.start.toward(span.end, share))


def partly(final: Shape, fraction: float, length: float) -> tuple[Segment, ...]:
    """The line of a form that is bent so far.

    Args:
        final: the finished form.
        fraction: of its bends, turns and rolls.
        length: mm that it has now.
    """
    ratio = length / final.length
    segments: list[Segment] = []
    for segment in final.path:
        if isinstance(segment, Spiral):
            segments.extend(_rolled(segment, fraction, ratio))
        elif isinstance(segment, Corner):
            segments.append(Corner(segment.angle * fraction, segment.facing))
        elif isinstance(segment, Arc):
            segments.append(Arc(segment.length * ratio, segment.angle * fraction, segment.facing))
        else:
            segments.append(Straight(segment.length * ratio))
    return tuple(segments)


def _rolled(spiral: Spiral, fraction: float, ratio: float) -> tuple[Segment, ...]:
    """A spiral rolled from its eye through a `fraction` of its turns, the rest still straight."""
    r1 = spiral.r0 + (spiral.r1 - spiral.r0) * fraction
    inner = replace(spiral, r0=spiral.r0 * ratio, r1=r1 * ratio, angle=spiral.angle * fraction)
    rest = Straight(spiral.length * ratio - inner.length)
    if rest.length <= 0:
        return (inner,)
    return (inner, rest) if spiral.outward else (rest, inner)
