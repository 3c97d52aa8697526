"""What a feature looks like part of the way: undone, drawn but straight, half rolled, finished."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember.features import Arc, Corner, Feature, Helix, Outer, Place, Segment, Shape, Span, Spiral, Straight, shape_of, stock_of
from long_ember.features.shape import exact
from long_ember.frozen import dataclass
from long_ember.sections import Blend

__all__ = ["DONE", "UNDONE", "Progress", "partly", "stage_shape", "tip_of"]


@dataclass(frozen=True, slots=True)
class Progress:
    """How far a feature is.

    Args:
        section: 0 the bar as it came, 1 the finished section.
        path: 0 straight, 1 bent, rolled, twisted and pierced as planned.
        along: the section is reached piece by piece, 1 from end A on, -1 from end B; 0 everywhere at once.
        limbs: 0 its tines as they were cut, 1 drawn as planned.
        work: where it is reached piece by piece, share of its work that is done: thin ends take more than their steel.
    """

    section: float = 0.0
    path: float = 0.0
    along: int = 0
    limbs: float = 0.0
    work: float = 0.0


UNDONE, DONE = Progress(), Progress(1.0, 1.0)
_HALVINGS = 40
_ROUNDS, _EVEN = 8, 1e-3  # in which a length is found, and how near it comes
_NARROWEST = 0.5  # of a width that grows in even steps, for the length to go evenly


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
    if progress.section >= 1 and progress.path >= 1:
        return final
    if final.branches and not feature.added(place):
        return _forked(final, feature, place, progress)
    spans = (_along if progress.along else _spans)(final, feature, place, progress)
    length = sum(span.length for span in spans)
    if progress.path <= 0:
        return Shape(spans, (Straight(length),))
    return Shape(spans, partly(final, progress.path, length, tip_of(feature)))


def _forked(final: Shape, feature: Feature, place: Place, progress: Progress) -> Shape:
    """What is slit: one bar until its tines are opened, drawn out as they are; then as far open as they are bent."""
    bar, root = place.steel.blend, sum(span.volume for span in final.spans)
    left, tines = stock_of(feature, place) * place.steel.area - root, [b.shape for b in final.branches]
    if progress.path > 0:
        more = left / sum(tine.volume for tine in tines)  # the kerf is steel until it is done
        opened = (
            replace(b, shape=Shape(exact(s.spans, s.volume * more), partly(s, progress.path, s.length), s.voids, s.branches))
            for b in final.branches
            for s in (b.shape,)
        )
        return Shape(final.spans, final.path, final.voids, tuple(opened))
    uncut, drawn = left / bar.area, sum(tine.length for tine in tines) / len(tines)
    tips = [tine.spans[-1].end for tine in tines]
    beside = final.branches[0].front != 0
    pair = replace(
        tips[0],
        w=sum(t.w for t in tips) if beside else max(t.w for t in tips),
        t=max(t.t for t in tips) if beside else sum(t.t for t in tips),
    )
    long = uncut + (drawn - uncut) * progress.limbs
    ends = (bar, bar.toward(pair, progress.limbs)) if pair.area > 0 else (bar, bar)
    (block,) = exact((Span(long, *ends),), left)
    spans = (block.reversed(), *final.spans) if final.branches[0].back else (*final.spans, block)
    return Shape(spans, (Straight(sum(span.length for span in spans)),))


def _spans(final: Shape, feature: Feature, place: Place, progress: Progress) -> tuple[Span, ...]:
    bar, steel, fraction = place.steel.blend, stock_of(feature, place) * place.steel.area, progress.section
    if fraction <= 0:
        return (Span(steel / bar.area, bar, bar),)
    gross, wanted = sum(span.volume for span in final.spans), steel / bar.area * (1 - fraction) + final.length * fraction
    # Of each span its steel, and how its ends lie on the way; which of their sides grows by what the other gives.
    rows = [
        (span.volume / gross * steel, _on_the_way(bar, span.start, fraction), _on_the_way(bar, span.end, fraction)) for span in final.spans
    ]
    even = all(start[1] == end[1] == "" for _steel, start, end in rows)
    grown = 1.0
    for _round in range(_ROUNDS):
        shaped = [Span(1.0, _grown(*start, grown), _grown(*end, grown)) for _steel, start, end in rows]
        lengths = [own / span.volume for (own, _start, _end), span in zip(rows, shaped, strict=True)]
        over = sum(lengths) / wanted
        if even or abs(over - 1) < _EVEN:
            break
        grown = min(max(grown * over, _NARROWEST), 1 / _NARROWEST)  # where it is a small part that grows, the rest is as it comes
    return tuple(Span(length, span.start, span.end) for length, span in zip(lengths, shaped, strict=True))


def _on_the_way(bar: Blend, made: Blend, fraction: float) -> tuple[Blend, str]:
    """A section part of the way from the bar, and which side grows by what the other gives: w, t or none.

    Both sides in even steps would take more steel half way than at either end, and the piece would be told shorter while it is spread: so
    that side goes by `_grown`, and the length evenly.
    """
    crosswise = (made.w - bar.w) * (made.t - bar.t) < 0
    return bar.toward(made, fraction), ("w" if made.w > bar.w else "t") if crosswise else ""


def _grown(blend: Blend, side: str, times: float) -> Blend:
    if not side:
        return blend
    w, t = (blend.w * times, blend.t) if side == "w" else (blend.w, blend.t * times)
    return Blend(w, t, blend.k, blend.form, blend.bore)


def _along(final: Shape, feature: Feature, place: Place, progress: Progress) -> tuple[Span, ...]:
    """Finished so far along the bar, and bar from there on."""
    bar, steel = place.steel.blend, stock_of(feature, place) * place.steel.area
    left, found = progress.section * math.fsum(s.volume for s in final.spans), list[Span]()
    for span in final.spans if progress.along > 0 else [s.reversed() for s in reversed(final.spans)]:
        part = span if span.volume <= left else _first(span, left)
        if part.length > 0:
            found.append(part)
        left -= part.volume
    if progress.section < 1:
        found.append(Span((1 - progress.section) * steel / bar.area, bar, bar))
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


def tip_of(feature: Feature) -> str:
    """End, A or B, at which a feature that is rolled or wound is begun."""
    return feature.toward if isinstance(feature, Outer) else "A"


def partly(final: Shape, fraction: float, length: float, tip: str = "A") -> tuple[Segment, ...]:
    """The line of a form that is bent so far.

    Args:
        final: the finished form.
        fraction: of its bends, turns and rolls.
        length: mm that it has now.
        tip: see `tip_of`.
    """
    ratio = length / final.length
    segments: list[Segment] = []
    for segment in final.path:
        if isinstance(segment, Spiral):
            segments.extend(_rolled(segment, fraction, ratio))
        elif isinstance(segment, Helix):
            wound = replace(segment, radius=segment.radius * ratio, pitch=segment.pitch * ratio, turns=segment.turns * fraction)
            rest = Straight(segment.length * ratio * (1 - fraction))
            segments.extend((wound, rest) if tip == "A" else (rest, wound))
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
