"""From the drawn bar to the piece: forms laid on it bend what they cover, works pierce what they find (computations, section 3)."""

from __future__ import annotations

import bisect
import itertools
import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import replace
from functools import cached_property, partial

from long_ember.errors import NoAnswer
from long_ember.features.base import BendRule, Feature, Place, shape_of, stock_of
from long_ember.features.shape import Corner, Segment, Shape, Span, Straight, Void, exact
from long_ember.features.standing import Standing
from long_ember.features.turning import bent
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, found_section
from long_ember.units import MM_PER, Line, say

__all__ = ["Composition", "DrawnBar", "Laid", "Stand", "chain", "composed", "covered_by", "laid_out"]

_ROUNDS = 60
_HAIR = 1e-6  # mm
_OF_BAR = ("Stock:", "Steel:", "Bar:")  # lines of a sum that speak of the bar that a feature takes
_MOST_KEPT = 64  # parts remembered with what they were cut from
_FINE = 9  # digits: what lies nearer is the same part, only moved along


@dataclass(frozen=True)
class Stand:
    """Where a form or work came to stand.

    Args:
        standing: as planned.
        start: mm on the drawn bar from its end A, where what it covers begins.
        end: where it ends.
        place: what it finds there: the section at its middle, the bend rule.
        host: position in the row of the feature at its middle.
        to_end: from its middle to the nearer end of the drawn bar, mm.
    """

    standing: Standing
    start: float
    end: float
    place: Place
    host: int
    to_end: float = math.inf

    @property
    def feature(self) -> Feature:
        """As it stands there."""
        return self.standing.stood

    @property
    def covered(self) -> float:
        """Drawn bar under it, mm."""
        return self.end - self.start

    @property
    def lines(self) -> tuple[Line, ...]:
        """Where it stands and what it covers, then the sum of its own length; nothing of the bar, since it takes none."""
        own = [line for line in self.feature.sum_lines(self.place) if not line.text.startswith(_OF_BAR)]
        if self.standing.feature.stands == "work":
            text = "On the drawn bar: its middle {} from end A, where the bar is {} by {}"
            where = say(text, self.middle, self.place.bar.blend.w, self.place.bar.blend.t)
            return where, *self.feature.margins(self.place, self.to_end), *own
        text = "On the drawn bar: {} to {} from end A, {} of it, {} by {} in the middle; no bar of its own"
        first = say(text, self.start, self.end, self.covered, self.place.bar.blend.w, self.place.bar.blend.t)
        return first, *own

    @property
    def middle(self) -> float:
        """mm on the drawn bar from end A."""
        return (self.start + self.end) / 2


class DrawnBar:
    """Features of the row end to end, taken straight.

    Args:
        row: id and form of each from end A to end B.
    """

    def __init__(self, row: Sequence[tuple[str, Shape]]) -> None:
        self.row = row
        self.edges = [0.0]
        for _identity, shape in row:
            self.edges.append(self.edges[-1] + shape.length)

    @property
    def length(self) -> float:
        """mm."""
        return self.edges[-1]

    @property
    def thickest(self) -> float:
        """Depth in the plane of the bend where it is greatest, mm."""
        return max((max(s.start.t, s.end.t) for _identity, shape in self.row for s in shape.spans), default=0.0)

    def host(self, at: float) -> int:
        """Position in the row of what lies there; on a joint what lies toward B."""
        return min(bisect.bisect_right(self.edges, at + _HAIR, 1) - 1, len(self.row) - 1)

    def found(self, at: float) -> Section:
        """The section there, mm from end A, as features are told of it."""
        return found_section(self.blend(at))

    def blend(self, at: float) -> Blend:
        """The section there."""
        i = self.host(at)
        s = at - self.edges[i]
        spans = self.row[i][1].spans
        for span in spans:
            if s <= span.length or span is spans[-1]:
                if span.start is span.end:
                    return span.start
                return span.start.toward(span.end, min(max(s / span.length, 0.0), 1.0) if span.length else 0.0)
            s -= span.length
        raise AssertionError(at)

    def share_at(self, at: float) -> tuple[int, float]:
        """Position in the row of the feature at a place (mm from end A), and the share of its steel that lies toward A."""
        index = self.host(at)
        shape, beyond = self.row[index][1], at - self.edges[index]
        if beyond >= shape.length:
            return index, 1.0
        if len(shape.spans) == 1 and shape.spans[0].start is shape.spans[0].end:
            return index, beyond / shape.length
        whole = math.fsum(s.volume for s in shape.spans)
        return index, math.fsum(s.volume for s in _cut(shape.spans, 0.0, beyond)) / whole

    def length_of(self, shape: Shape, share: float) -> float:
        """mm from a form's A end to where a share of its steel lies before; by halving, to a thousandth of a hair."""
        left, at = share * math.fsum(s.volume for s in shape.spans), 0.0
        for span in shape.spans:
            steel = span.volume
            if left > steel and span is not shape.spans[-1]:
                left, at = left - steel, at + span.length
                continue
            if span.start == span.end:
                return at + span.length * min(left / steel, 1.0) if steel else at
            low, high = 0.0, 1.0
            for _ in range(48):
                middle = (low + high) / 2
                if Span(span.length * middle, span.start, span.start.toward(span.end, middle)).volume < left:
                    low = middle
                else:
                    high = middle
            return at + span.length * (low + high) / 2
        return at

    def under(self, start: float, end: float) -> Iterator[tuple[str, Shape, float, float]]:
        """Features that lie between two places by more than a hair: id, form, and the edges of each, mm from end A."""
        edges = self.edges
        for i in range(max(bisect.bisect_right(edges, start) - 1, 0), len(self.row)):
            low, high = edges[i], edges[i + 1]
            if low >= end - _HAIR:
                break
            if high > start + _HAIR:
                yield *self.row[i], low, high

    def spans(self, start: float, end: float) -> tuple[Span, ...]:
        """What lies between two places, cut out."""
        return tuple(_cut((span for _identity, shape in self.row for span in shape.spans), start, end))


@dataclass(frozen=True)
class Composition:
    """The drawn bar and what stands on it.

    Args:
        drawn: the drawn bar.
        stands: in the order of the bar.
        laid: forms among them, as they lie.
    """

    drawn: DrawnBar
    stands: tuple[Stand, ...]
    laid: tuple[Laid, ...]

    @cached_property
    def shapes(self) -> tuple[tuple[str, Shape], ...]:
        """The finished piece from end A to end B: id and form; a feature of the row may come in several parts.

        Made when it is looked at: no length hangs on it.
        """
        return tuple(chain(self.drawn, self.laid, [(s, s.middle) for s in self.stands if not s.feature.covers]))

    @cached_property
    def shares(self) -> tuple[tuple[tuple[int, float], tuple[int, float]], ...]:
        """For each stand where it begins and ends: position in the row, and the share of that feature's steel toward A."""
        return tuple((self.drawn.share_at(s.start), self.drawn.share_at(s.end)) for s in self.stands)

    @cached_property
    def meetings(self) -> tuple[tuple[str, str, float, float], ...]:
        """Openings that run into each other: ids in the order of the bar, how far their middles are apart, and how far at least, mm."""
        found = [
            (low + v.centre, v, identity)
            for (identity, shape), low in zip(self.drawn.row, self.drawn.edges, strict=False)
            for v in shape.voids
        ]
        found += [((s.start + s.end) / 2, v, s.standing.id) for s in self.stands for v in shape_of(s.feature, s.place).voids]
        near = itertools.pairwise(sorted(found, key=lambda f: f[0]))
        pairs = ((one, other, b - a, (v.diameter + w.diameter) / 2) for (a, v, one), (b, w, other) in near if one != other)
        return tuple(pair for pair in pairs if pair[2] < pair[3] - _HAIR)

    def landmark(self, on: str, edge: str) -> float:
        """Where a landmark lies on the drawn bar, mm from end A.

        Args:
            on: `A` or `B` for an end, or an id of the row or of what stands.
            edge: A, middle or B of it.

        Raises:
            KeyError: there is none of that id.
        """
        return _landmark(self.drawn, on, edge, {s.standing.id: s for s in self.stands})

    def stand(self, identity: str) -> Stand | None:
        """That of a standing feature by its id; None where there is none."""
        return next((s for s in self.stands if s.standing.id == identity), None)


def composed(features: Sequence[tuple[Feature, Shape]], standing: Sequence[Standing], rule: BendRule) -> Composition:
    """Lay what stands on the drawn bar.

    Args:
        features: that take their own bar, with their forms, from end A to end B.
        standing: what stands on them.
        rule: for bends.

    Raises:
        NoAnswer: naming what can't stand where it is wanted, and what would work.
    """
    drawn, titles = DrawnBar([(f.id, shape) for f, shape in features]), {f.id: f.title for f, _shape in features}
    stands = _placed(drawn, standing, rule)
    forms = [s for s in stands if s.feature.covers]
    _apart(drawn, forms, titles)
    laid = tuple(laid_out(s, s.start, s.end, shape_of(s.feature, s.place)) for s in forms)
    _reachable(drawn, laid, [s for s in stands if not s.feature.covers and not s.feature.skin])
    return Composition(drawn, tuple(stands), laid)


def laid_out(stand: Stand, start: float, end: float, now: Shape) -> Laid:
    """A form as it lies on a drawn bar.

    Args:
        stand: what stands there.
        start: mm on that bar from end A.
        end: mm.
        now: its own shape, as far as it is done.
    """
    made = (now, stand.feature.removed(stand.place)) if stand.feature.recuts else None
    return Laid(stand.standing.id, start, end, now.path, math.fsum(x.turns for x in now.spans), made, stand.place.bar.blend)


def covered_by(composition: Composition, standing: Standing, rule: BendRule) -> float:
    """Drawn bar that a changed form would cover where it stands, mm; nothing else is moved.

    Args:
        composition: it is part of.
        standing: as it would be.
        rule: for bends.

    Raises:
        NoAnswer: it can't stand there.
    """
    others = {s.standing.id: s for s in composition.stands if s.standing.id != standing.id}
    return _stand(composition.drawn, standing, others, rule).covered


# --- where things come to stand


def _placed(drawn: DrawnBar, standing: Sequence[Standing], rule: BendRule) -> list[Stand]:
    done: dict[str, Stand] = {}
    left = list(standing)
    while left:
        ready = [s for s in left if all(s.on != other.id for other in left)]
        if not ready:
            raise NoAnswer("These stand on one another in a circle.", "Measure one of them from an end.", left[0].id)
        for one in ready:
            try:
                done[one.id] = _stand(drawn, one, done, rule)
                shape_of(done[one.id].feature, done[one.id].place)
            except NoAnswer as error:
                if error.feature_id:
                    raise
                raise NoAnswer(f"{one.feature.title}: {error.reason}", error.remedy, one.id) from None
        left = [s for s in left if s.id not in done]
    return sorted(done.values(), key=lambda s: (s.start, s.end))


def _stand(drawn: DrawnBar, one: Standing, done: dict[str, Stand], rule: BendRule) -> Stand:
    feature, sign = one.stood, 1 if one.along == "B" else -1
    title = feature.title
    if not feature.stands:
        raise NoAnswer(f"A {title.lower()} takes bar of its own.", "Put it into the row.", one.id)
    try:
        at = _landmark(drawn, one.on, one.edge, done) + sign * one.at
    except KeyError:
        raise NoAnswer(f"What the {title.lower()} is measured from is not there.", "Measure it from an end of the bar.", one.id) from None
    if not -_HAIR <= at <= drawn.length + _HAIR:
        over = -at if at < 0 else at - drawn.length
        raise NoAnswer(
            f"{title} would begin {_both(over)} past the end of the drawn bar.", "Measure it from another place, or nearer.", one.id
        )
    if feature.stands == "work":
        half = (feature.mouth or stock_of(feature, _place(one, "_trial", _found(drawn, at, one), rule))) / 2
        low, high = at - half, at + half
    else:
        low, high = _covered(drawn, one, at, sign, rule)
    middle = (low + high) / 2
    if low < -_HAIR or high > drawn.length + _HAIR:
        over = max(-low, high - drawn.length)
        raise NoAnswer(
            f"{title} reaches {_both(over)} past the end of the drawn bar, which is {_both(drawn.length)} long.",
            "Make it smaller, begin it nearer, or lengthen what it stands on.", one.id,
        )  # fmt: skip
    host = drawn.host(middle)
    ends = drawn.blend(max(low, 0.0)), drawn.blend(min(high, drawn.length))
    place = _place(one, "_place", _found(drawn, middle, one), rule, ends)  # what is bent first leaves the end outside it free
    return Stand(one, max(low, 0.0), min(high, drawn.length), place, host, min(middle, drawn.length - middle))


def _landmark(drawn: DrawnBar, on: str, edge: str, done: dict[str, Stand]) -> float:
    if on in ("A", "B"):
        return 0.0 if on == "A" else drawn.length
    other = done.get(on)
    if other is not None:
        low, high = other.start, other.end
    else:
        index = next((i for i, (identity, _s) in enumerate(drawn.row) if identity == on), -1)
        if index < 0:
            raise KeyError(on)
        low, high = drawn.edges[index], drawn.edges[index + 1]
    return {"A": low, "middle": (low + high) / 2, "B": high}[edge]


def _covered(drawn: DrawnBar, one: Standing, at: float, sign: int, rule: BendRule) -> tuple[float, float]:
    """What a form covers: its developed length at the section in the middle of just that, found by going back and forth."""
    covered = min(1.0, drawn.length)  # to begin with: at the very tip of a point there is no section
    for _ in range(_ROUNDS):
        middle = min(max(at + sign * covered / 2, 0.0), drawn.length)
        found = stock_of(one.stood, _place(one, "_trial", _found(drawn, middle, one), rule))
        if abs(found - covered) < 1e-10:
            break
        covered = found
    return (at, at + covered) if sign > 0 else (at - covered, at)


def _found(drawn: DrawnBar, at: float, one: Standing) -> Section:
    """The section at a place.

    Raises:
        NoAnswer: it is the very tip of a point.
    """
    blend = drawn.blend(at)
    if blend.area < _HAIR:
        raise NoAnswer(f"{one.stood.title} would stand on the very tip, where there is no steel.", "Move it in from the tip.", one.id)
    return found_section(blend)


def _place(one: Standing, name: str, section: Section, rule: BendRule, ends: tuple[Blend, Blend] | None = None) -> Place:
    """The same object as before where it is the same place: what is remembered of a feature goes by that."""
    kept: Place | None = one.__dict__.get(name)
    if kept is None or kept.bar != section or kept.rule != rule or kept.ends != ends:
        kept = one.__dict__[name] = Place(section, True, True, rule, ends)
    return kept


def _apart(drawn: DrawnBar, forms: Iterable[Stand], titles: dict[str, str]) -> None:
    before: Stand | None = None
    for stand in forms:
        if before is not None and stand.start < before.end - 1e-4:
            one, other = before.standing.feature.title, stand.standing.feature.title
            raise NoAnswer(f"{other} and {one.lower()} cover the same bar: {_both(before.end - stand.start)} are missing between them.",
                           "Move one of them along, or make it smaller.", stand.standing.id)  # fmt: skip
        for identity, shape, low, _high in drawn.under(stand.start, stand.end):
            # A taper with one level face only leans where it ends.
            bent = not all(
                isinstance(segment, Straight) for segment in shape.path if not (isinstance(segment, Corner) and len(shape.path) == 2)
            )
            if bent or shape.branches:
                what = "is bent already" if bent else "branches there"
                raise NoAnswer(f"{stand.standing.feature.title} would lie on the {titles[identity].lower()}, which {what}.",
                               "Let it stand beside it.", stand.standing.id)  # fmt: skip
            recuts = stand.feature.recuts
            if any(stand.start < low + void.centre < stand.end for void in shape.voids):
                what = "take" if recuts else "bend"
                raise NoAnswer(f"{stand.standing.feature.title} would {what} the {titles[identity].lower()}.", "Let it stand beside it.",
                               stand.standing.id)  # fmt: skip
            if recuts and any(span.turns for span in shape.spans):
                raise NoAnswer(f"{stand.standing.feature.title} would lie on the {titles[identity].lower()}, which is twisted.",
                               "Let it stand beside it, or lay the twist on too.", stand.standing.id)  # fmt: skip
        before = stand


def _reachable(drawn: DrawnBar, laid: Sequence[Laid], works: Sequence[Stand]) -> None:
    """Make sure that every work has straight bar under it, and every form that makes its stretch anew steel enough.

    Raises:
        NoAnswer: naming the work or the form.
    """
    for form in laid:
        if form.made is not None:
            _bent(drawn, form)
    if any(abs(edge - w.middle) <= 2 * _HAIR for w in works for f in laid for edge in (f.start, f.end)):
        chain(drawn, laid, [(w, w.middle) for w in works])  # where one ends and the next begins only that can tell
        return
    for work in works:
        at = work.middle
        over = next((f for f in laid if f.start < at < f.end), None)
        if over is not None and over.made is None:
            raise _bent_there(work, f"{_both(at)} from end A, where the bar is", "twisted" if over.turns else "bent")
        if over is not None and over.made is not None:
            under = over.made[0]
        else:  # on a joint what lies toward A, as it is drawn
            under = next(shape for _identity, shape, _low, _high in drawn.under(at - 2 * _HAIR, at + 2 * _HAIR))
        if not _straight(under):
            raise _bent_there(work, "where the bar is", "bent")


def _straight(shape: Shape) -> bool:
    return all(isinstance(segment, (Straight, Corner)) for segment in shape.path) and not shape.branches


def _bent_there(work: Stand, where: str, how: str) -> NoAnswer:
    remedy = f"Let it stand beside the {'twist' if how == 'twisted' else 'bend'}."
    return NoAnswer(f"{work.standing.feature.title} lies {where} {how} and no tool lies flat.", remedy, work.standing.id)


# --- the chain


@dataclass(frozen=True)
class Laid:
    """A form as it lies on a drawn bar, bent so far.

    Args:
        id: of the form.
        start: mm on that bar from end A.
        end: mm.
        path: line that the covered bar follows.
        turns: of twist over it.
        made: of one that makes what it covers anew: its own shape in the section at its middle, and what it removes, mm³; None for one that bends.
        at: the section at its middle.
    """

    id: str
    start: float
    end: float
    path: tuple[Segment, ...]
    turns: float = 0.0
    made: tuple[Shape, float] | None = None
    at: Blend | None = None


def chain(drawn: DrawnBar, forms: Sequence[Laid], works: Sequence[tuple[Stand, float]]) -> list[tuple[str, Shape]]:
    """A drawn bar with what lies on it, from end A to end B; a feature of the row may come in several parts.

    Args:
        drawn: features of the row with their forms as they are now.
        forms: from end A on, none over another.
        works: each with the place of its middle on the drawn bar, mm.

    Raises:
        NoAnswer: a work lies where the bar is bent.
    """
    found: list[tuple[str, Shape]] = []
    left = [w for w in works if not w[0].feature.skin]
    skins = [w for w in works if w[0].feature.skin]

    def straight(low: float, high: float) -> None:
        """What is left as it was drawn between two forms, feature by feature."""
        for identity, shape, a, b in drawn.under(low, high):
            start, end = max(low, a), min(high, b)
            if end - start <= _HAIR:
                continue
            here = [w for w in left if start - _HAIR <= w[1] <= end + _HAIR]
            for work in here:
                left.remove(work)
            over = [w for w in skins if abs(w[1] - (start + end) / 2) < (w[0].feature.mouth + end - start) / 2]
            key = (round(start - a, _FINE), round(end - a, _FINE), *((id(w.standing), round(x - a, _FINE)) for w, x in (*here, *over)))
            found.append((identity, _kept(shape, key, (here, over), partial(_part, shape, a, start, end, here, over))))

    at = 0.0
    for form in forms:
        straight(at, form.start)
        part = _bent(drawn, form)
        if form.made is not None:
            for work, middle in [w for w in left if form.start - _HAIR <= w[1] <= form.end + _HAIR]:
                left.remove((work, middle))
                part = _pierced(part, work, (middle - form.start) / (form.end - form.start) * part.length)
        found.append((form.id, part))
        at = form.end
    straight(at, drawn.length)
    for work, middle in left:
        raise _bent_there(work, f"{_both(middle)} from end A, where the bar is", "bent")
    return found


def _kept(shape: Shape, key: tuple[object, ...], held: object, make: Callable[[], Shape]) -> Shape:
    """A part that was made before of the same shape: what is drawn of it stays with it. What `key` knows by identity is held with it."""
    store: dict[tuple[object, ...], tuple[Shape, object]] = shape.__dict__.setdefault("_parts", {})
    if key not in store:
        if len(store) >= _MOST_KEPT:
            store.clear()
        store[key] = make(), held
    return store[key][0]


def _part(
    shape: Shape, a: float, start: float, end: float, works: Sequence[tuple[Stand, float]], skins: Sequence[tuple[Stand, float]] = ()
) -> Shape:  # fmt: skip
    """A straight stretch of a feature that begins at `a` on the drawn bar, with what is worked into its skin and what pierces it."""
    part = shape
    if end - start < shape.length - _HAIR:
        voids = (replace(v, centre=v.centre + a - start) for v in shape.voids if start < a + v.centre < end)
        lean = shape.path[-1:] if isinstance(shape.path[-1], Corner) and end > a + shape.length - _HAIR else ()
        lead = shape.path[:1] if isinstance(shape.path[0], Corner) and start < a + _HAIR else ()
        part = Shape(tuple(_cut(shape.spans, start - a, end - a)), (*lead, Straight(end - start), *lean), tuple(voids))
    for skin, middle in skins:
        half = skin.feature.mouth / 2
        part = replace(part, spans=_worked(part.spans, middle - half - start, middle + half - start, skin.feature))
    for work, middle in works:
        part = _pierced(part, work, middle - start)
    return part


def _bent(drawn: DrawnBar, form: Laid) -> Shape:
    """The covered bar along the form's own line, as it was bent before where nothing under it has changed."""
    under = [
        (shape, round(max(form.start - a, 0.0), _FINE), round(min(form.end, b) - a, _FINE))
        for _identity, shape, a, b in drawn.under(form.start, form.end)
    ]
    made = (id(form.made[0]), form.made[1]) if form.made is not None else ()
    key = (form.path, form.turns, made, *((id(shape), low, high) for shape, low, high in under))
    return _kept(under[0][0], key, (under, form.made), partial(_bend, drawn, form))


def _worked(spans: tuple[Span, ...], low: float, high: float, feature: Feature) -> tuple[Span, ...]:
    """Spans with what a work makes of their sections between two places, mm from where they begin."""
    length = math.fsum(s.length for s in spans)
    found: list[Span] = []
    for start, end, inside in ((0.0, low, False), (max(low, 0.0), min(high, length), True), (high, length, False)):
        for span in _cut(spans, start, end) if end - start > _HAIR else ():
            made = replace(span, start=feature.worked(span.start), end=feature.worked(span.end)) if inside else span
            found.extend(exact((made,), span.volume) if made.volume != span.volume else (made,))
    return tuple(found)


def _recut(drawn: DrawnBar, form: Laid, own: Shape, removed: float) -> Shape:
    """What a form makes of the bar that it covers: its own shape, slice by slice in proportion to the section that is there, its steel kept."""
    assert form.at is not None
    under = drawn.spans(form.start, form.end)
    covered, length = form.end - form.start, own.length
    joints = {0.0, 1.0}
    for spans, whole in ((own.spans, length), (under, covered)):
        at = 0.0
        for span in spans:
            at += span.length
            joints.add(min(at / whole, 1.0))
    made = []
    for low, high in itertools.pairwise(sorted(joints)):
        if (high - low) * length <= _HAIR:
            continue
        piece, below = _cut(own.spans, low * length, high * length), _cut(under, low * covered, high * covered)
        start, end = _scaled(piece[0].start, below[0].start, form.at), _scaled(piece[0].end, below[-1].end, form.at)
        made.append(Span(piece[0].length, start, end))
    spans = tuple(made)
    steel = math.fsum(s.volume for s in under) - removed + math.fsum(v.volume for v in own.voids)
    steel -= math.fsum(b.shape.volume for b in own.branches)
    if steel <= _HAIR:
        raise NoAnswer("More would be taken away there than there is.", "Make it smaller, or move it where the bar is stouter.", form.id)
    return Shape(exact(spans, steel), own.path, own.voids, own.branches)


def _scaled(own: Blend, found: Blend, at: Blend) -> Blend:
    """A section of a form made in `at`, in the section that is found instead."""
    return replace(own, w=own.w * found.w / at.w, t=own.t * found.t / at.t, k=min(own.k * found.k / at.k, 1.0) if own.k else own.k)


def _bend(drawn: DrawnBar, form: Laid) -> Shape:
    """The covered bar along the form's own line, thinned or swelled so that its steel is kept; or made anew."""
    if form.made is not None:
        return _recut(drawn, form, *form.made)
    return bent(drawn.spans(form.start, form.end), form.path, form.turns)


def _pierced(shape: Shape, work: Stand, at: float) -> Shape:
    """A straight stretch with a work in it."""
    if not _straight(shape):
        raise _bent_there(work, "where the bar is", "bent")
    own = shape_of(work.feature, work.place)
    voids = tuple(replace(void, centre=at) for void in own.voids)
    grown = math.fsum(s.volume for s in own.spans) - own.length * work.place.bar.area
    spans = _swollen(shape.spans, at, voids[0], grown) if grown > 1e-9 and voids else shape.spans
    return Shape(spans, shape.path, (*shape.voids, *voids), shape.branches)


def _swollen(spans: tuple[Span, ...], at: float, void: Void, volume: float) -> tuple[Span, ...]:
    """What a punch does not take out swells the sides over two diameters, rising and falling in a straight line."""
    length = math.fsum(s.length for s in spans)
    low, high = max(at - void.diameter, 0.0), min(at + void.diameter, length)
    cuts = sorted({0.0, low, at, high, length})
    parts = [part for a, b in itertools.pairwise(cuts) for part in _cut(spans, a, b)]

    def risen(by: float) -> tuple[Span, ...]:
        made, s = [], 0.0
        for part in parts:
            ends = [
                by * min(max(1 - (at - x) / (at - low) if x < at else 1 - (x - at) / max(high - at, _HAIR), 0.0), 1.0)
                for x in (s, s + part.length)
            ]
            made.append(replace(part, start=_wider(part.start, void.axis, ends[0]), end=_wider(part.end, void.axis, ends[1])))
            s += part.length
        return tuple(made)

    each = math.fsum(s.volume for s in risen(1.0)) - math.fsum(s.volume for s in spans)  # it grows in proportion
    return risen(volume / each)


def _both(length: float) -> str:
    """A length in an error, whose words are made before anybody says in which units they are read."""
    return f"{length:.1f} mm ({length / MM_PER['in']:.2f} in)"


def _wider(blend: Blend, axis: str, by: float) -> Blend:
    return replace(blend, w=blend.w + by) if axis == "thickness" else replace(blend, t=blend.t + by)


def _cut(spans: Iterable[Span], start: float, end: float) -> list[Span]:
    """What lies between two places along some spans, mm from where they begin."""
    found: list[Span] = []
    at = 0.0
    for span in spans:
        low, high = max(start - at, 0.0), min(end - at, span.length)
        if low == 0.0 and high == span.length > _HAIR:
            found.append(span)
        elif high - low > _HAIR:
            a, b = low / span.length, high / span.length
            found.append(Span(high - low, span.start.toward(span.end, a), span.start.toward(span.end, b), span.turns * (b - a)))
        at += span.length
    return found
