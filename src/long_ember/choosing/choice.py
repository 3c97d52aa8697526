"""Which bar: every candidate ranked for the piece at hand, with its reasons (computations, section 9).

The whole catalogue is ranked at once. The piece is reckoned on its own bar and on one a tenth larger: what does not change with the bar is
asked of any bar, what grows with it is plain bar, and the volume each feature takes is followed along a straight line in between. So cut
length, effort and chances follow for all bars in one pass over arrays; a bar that is looked at closely is reckoned in full.
"""

from __future__ import annotations

import math
from collections.abc import Generator, Mapping, Sequence
from dataclasses import replace
from statistics import NormalDist

import numpy as np

from long_ember.arrays import Array
from long_ember.beliefs import PRIOR, Belief, factor_of
from long_ember.choosing.sizes import common_bars, is_sheet
from long_ember.errors import NoAnswer
from long_ember.features import Feature, Piece, stock_of
from long_ember.frozen import NamedTuple, dataclass
from long_ember.materials import MATERIALS
from long_ember.portions import all_portions
from long_ember.records.rack import Price, RackItem, Record
from long_ember.sections import Blend, Section
from long_ember.stock import believed, reckon
from long_ember.units import Measure

__all__ = ["Candidate", "FeatureNeed", "Source", "candidate_bars", "chance_words", "in_hand", "preferred", "profiled", "rank", "ranked"]

_SLICES = 8
_LARGER = 1.1  # size of the bar that shows what follows the bar
_DRAW, _UPSET = 1.2, 1.4  # friction: drawing between flat faces, upsetting free (computations, section 14)
_CAPTURE_DOUBT = factor_of("capture").spread  # standard deviation of a capture nobody has measured
_SIZE_DOUBT = 0.02  # of a drawn section's area: scale, and a bar that is sold a little thin
_UNSURE, _SURE = 0.1, 0.95  # chances between which a test piece is worth its steel
_CLOSE = 0.15  # scores that near each other are too close to call


class FeatureNeed(NamedTuple):
    """What one feature asks of any bar.

    Args:
        feature: id.
        title: of the feature, with its number.
        width: of its heaviest section, mm.
        thickness: the same, mm.
        area: the same, mm².
        capture: share of what is displaced that goes sideways; 1 where the section is drawn or upset whole.
        doubt: standard deviation of the capture.
    """

    feature: str
    title: str
    width: float
    thickness: float
    area: float
    capture: float
    doubt: float


class _Piece(NamedTuple):
    """A piece as seen by any bar.

    Args:
        area: of its own bar, mm².
        stock: volume its features take, mm³.
        slope: mm³ more for each mm² of a larger bar.
        finished: volume, mm³.
        bar_profile: every span in order: length, area at its start and at its end, NaN where it follows the bar.
        spans: forged spans: start and end as width, thickness, area (NaN where they follow the bar), length.
        plain: share of the bar's volume that stays as the bar is.
        asks: of its features.
    """

    area: float
    stock: float
    slope: float
    finished: float
    bar_profile: tuple[tuple[float, float, float], ...]
    spans: Array
    plain: float
    asks: tuple[FeatureNeed, ...]


@dataclass(frozen=True)
class Source:
    """Where a bar comes from.

    Args:
        material: key of `MATERIALS`.
        section: of the bar.
        rack: pieces of it on the rack: length mm, count, where.
        price: for one bar; None where nobody has said.
        length: mm of the bar as sold, for the price.
    """

    material: str
    section: Section
    rack: tuple[tuple[float, int, str], ...] = ()
    price: float | None = None
    length: float = 0.0


@dataclass(frozen=True)
class Candidate:
    """A bar, as it would serve.

    Args:
        source: the bar.
        cut: about how much of it is cut, without scale and trim, mm.
        drawn: titles of features drawn down from it.
        upset: titles of features that are heavier than it.
        critical: what decides whether it serves.
        chance: that the critical section comes out.
        effort: work against the other bars, 1 for the piece's own.
        mass: of the cut bar, g.
        waste: share of it that is not in the finished piece.
        cost: of the length cut, allowances included; None where there is no price.
        on_rack: where a piece long enough lies, or "".
        parts: what the score is made of, by name.
        why: reasons in words, the weightiest first.
    """

    source: Source
    cut: float
    drawn: tuple[str, ...]
    upset: tuple[str, ...]
    critical: FeatureNeed | None
    chance: float
    effort: float
    mass: float
    waste: float
    cost: float | None
    on_rack: str
    parts: tuple[tuple[str, float], ...]
    why: tuple[str, ...]

    @property
    def score(self) -> float:
        """Points of the ranking, without a unit: lower is better."""
        return sum(value for _name, value in self.parts)

    def piece(self, piece: Piece) -> Piece:
        """The piece made of this bar.

        Raises:
            NoAnswer: it can't be; naming the feature.
        """
        made = replace(piece, bar=self.source.section, material=self.source.material)
        made.verify()
        return made


def candidate_bars(records: Mapping[str, Sequence[Record]], piece: Piece, offer: str) -> tuple[Source, ...]:
    """Every bar to choose from: what is sold commonly, what the shop has a price for, and what lies on the rack.

    Args:
        records: by kind, see `RECORDS`.
        piece: bars of other materials are left out; its own bar is always among them.
        offer: mm, in, both or own.
    """
    material = piece.material
    gone = {p.section for p in records.get("price", ()) if isinstance(p, Price) and p.material == material and not p.sold}
    found = {
        section: Source(material, section) for section in (*common_bars(offer), piece.bar) if section not in gone or section == piece.bar
    }
    for price in records.get("price", ()):
        if isinstance(price, Price) and price.material == material and price.sold and not is_sheet(price.section):
            old = found.setdefault(price.section, Source(material, price.section))
            if price.price and (old.price is None or price.price / price.length < old.price / old.length):
                found[price.section] = replace(old, price=price.price, length=price.length)
    for item in records.get("rack", ()):
        if isinstance(item, RackItem) and item.material == material and item.count > 0 and not is_sheet(item.section):
            old = found.get(item.section, Source(material, item.section))
            found[item.section] = replace(old, rack=(*old.rack, (item.length, item.count, item.place or item.source)))
    hollow = bool(piece.bar.wall)  # a tube is no bar for what is solid, nor the other way round
    return tuple(source for source in found.values() if bool(source.section.wall) == hollow)


def profiled(piece: Piece) -> Generator[None, None, tuple[tuple[float, float, float], ...]]:
    """Areas along the finished piece from end A: length of each span, mm, area at its start and its end, mm², NaN where it is the bar's; in portions."""
    return (yield from _seen(piece)).bar_profile


def _seen(piece: Piece, doubt: float = _CAPTURE_DOUBT) -> Generator[None, None, _Piece]:
    """Reckon a piece on its own bar and on a larger one, and tell apart what follows the bar; in portions."""
    larger = piece.bar.scaled(_LARGER)
    before, bar, volume, slope, plain = reckon(piece), piece.bar, 0.0, 0.0, 0.0
    spans: list[tuple[float, ...]] = []
    steps: list[tuple[float, float, float]] = []
    asks = []
    for i, zone in enumerate(before.zones):
        yield
        place = replace(zone.place, bar=larger)
        try:
            after, stock = zone.feature.shape(place), stock_of(zone.feature, place) * larger.area
        except NoAnswer:  # it has no form on the larger bar: take it as it is
            after, stock = zone.shape, zone.stock * bar.area
        volume += zone.stock * bar.area
        slope += (stock - zone.stock * bar.area) / (larger.area - bar.area)
        same = len(after.spans) == len(zone.shape.spans)
        pairs = list(zip(zone.shape.spans, after.spans if same else zone.shape.spans, strict=True))
        own = []
        for one, other in pairs:
            follows = [b.area > 1.02 * a.area for a, b in ((one.start, other.start), (one.end, other.end))]
            plain += one.volume if all(follows) else 0.0
            steps.append((one.length, *(math.nan if f else b.area for b, f in zip((one.start, one.end), follows, strict=True))))  # type: ignore[arg-type]
            if not all(follows):
                spans.append((*_sizes(one.start, follows[0]), *_sizes(one.end, follows[1]), one.length))
            own += [b for b, f in zip((one.start, one.end), follows, strict=True) if not f and b.area > 0]
        if own:
            capture = float(getattr(zone.feature, "capture", 1.0))
            b = max(own, key=lambda b: b.w if capture < 1 else b.area)
            asks.append(
                FeatureNeed(
                    zone.feature.id, f"{zone.feature.title} {i + 1}", b.w, b.t, b.area, capture, _capture_doubt(piece, zone.feature, doubt)
                )
            )
    table = np.array(spans).reshape(-1, 7)
    return _Piece(
        bar.area, volume, slope, before.finished, tuple(steps), table, plain / max(volume, 1e-9), tuple(sorted(asks, key=lambda w: -w.area))
    )


def _capture_doubt(piece: Piece, feature: Feature, usual: float) -> float:
    """A measured spread counts as two standard deviations, while the capture is still the measured one."""
    known = piece.measurement("capture", feature.id)
    return max(known.spread / 2, 0.005) if known is not None and known.value == getattr(feature, "capture", None) else usual


def _sizes(blend: Blend, follows: bool) -> tuple[float, float, float]:
    return (math.nan,) * 3 if follows else (blend.w, blend.t, blend.area)


def rank(
    piece: Piece, sources: Sequence[Source], *, on_rack: bool = False, beyond: float | None = None, belief: Belief = PRIOR
) -> tuple[Candidate, ...]:
    """Order bars for a piece, best first.

    Args and Returns: see `ranked`.
    """
    return all_portions(ranked(piece, sources, on_rack=on_rack, beyond=beyond, belief=belief))


def ranked(
    piece: Piece, sources: Sequence[Source], *, on_rack: bool = False, beyond: float | None = None, belief: Belief = PRIOR
) -> Generator[None, None, tuple[Candidate, ...]]:
    """The same in portions.

    Args:
        piece: verified.
        sources: bars to choose from.
        on_rack: leave out what is not on the rack in a length that does.
        beyond: mm that scale, trim and parting add to the bare length; None for trim and parting alone.
        belief: what is held of the figures in doubt.
    """
    if not sources:
        return ()
    held = believed(piece, belief)
    yield
    seen = yield from _seen(held, belief.spread("capture"))
    yield
    added = piece.allowances.trim + piece.allowances.parting if beyond is None else beyond
    area = np.array([s.section.area for s in sources])
    sizes = np.array([(s.section.width, s.section.thickness) for s in sources])
    own = np.array([(piece.bar.width, piece.bar.thickness)])
    cut = np.maximum(seen.stock + seen.slope * (area - seen.area), 1e-6) / area
    effort = yield from _efforts(seen, sizes, area)
    base = float((yield from _efforts(seen, own, np.array([seen.area])))[0])
    effort = effort / base if base > 1.0 else np.ones(len(area))  # nothing is forged to size: bars do not differ in it
    density = np.array([MATERIALS[s.material].density for s in sources])
    mass = cut * area * density
    finished = (seen.finished + seen.slope * (area - seen.area)) * density
    waste = np.clip(1 - finished / np.maximum(mass, 1e-9), 0, 1)
    change = _strain(np.log(sizes / own), np.log(area / seen.area)) * seen.plain
    heavy = np.maximum(mass / max(seen.stock * MATERIALS[piece.material].density, 1e-9) - 1, 0) if seen.asks else np.zeros(len(area))
    found = []
    for i, source in enumerate(sources):
        figures = _Figures(*(float(column[i]) for column in (cut, effort, mass, waste, heavy, change)))
        made = _judged(source, seen.asks, figures, piece, added)
        if made.on_rack or not on_rack:
            found.append(made)
        yield
    return tuple(sorted(found, key=lambda c: c.score))


class _Figures(NamedTuple):
    cut: float
    effort: float
    mass: float
    waste: float
    heavy: float
    change: float


def _strain(sides: Array, area: Array) -> Array:
    """Equivalent strain between sections: √(2/3 Σε²) of width, thickness and length, at constant volume; |ln area| where the shape is kept.

    Args:
        sides: ln of the width and thickness ratios, (…, 2).
        area: ln of the area ratio, (…).
    """
    # Sides that do not make up the area (a round against a square) share the difference.
    off = (area - sides.sum(axis=-1))[..., None] / 2
    return np.asarray(np.sqrt(2 / 3 * (((sides + off) ** 2).sum(axis=-1) + area**2)))


def _efforts(seen: _Piece, sizes: Array, area: Array) -> Generator[None, None, Array]:
    """Σ V·ε·friction over slices of every forged span, for bars of `sizes` and `area`; mm³, to be compared and nothing else."""
    total = np.zeros(len(area))
    bars = np.column_stack((sizes, area))
    for row in seen.spans:
        ends = [np.where(np.isnan(row[i : i + 3]), bars, row[i : i + 3]) for i in (0, 3)]
        for k in range(_SLICES):
            u = (k + 0.5) / _SLICES
            here = ends[0] * (1 - u) + ends[1] * u  # width and thickness linear; so nearly is the root of the area
            here[:, 2] = ((1 - u) * np.sqrt(ends[0][:, 2]) + u * np.sqrt(ends[1][:, 2])) ** 2
            thinner = np.log(area / here[:, 2])
            strain = _strain(np.log(sizes / here[:, :2]), thinner)
            total += here[:, 2] * row[6] / _SLICES * strain * np.where(thinner > 0, _DRAW, _UPSET)
        yield
    return total


def _chance(want: FeatureNeed, section: Section) -> float:
    """How likely a section comes out of a bar: by the capture it would need, or by the steel that is there.

    A capture lies between nothing and all: the chance is among those that are possible.
    """
    if want.capture < 1:
        spare = section.area / (section.width * want.thickness) - 1
        if want.width <= section.width:
            return 1.0 if spare >= 0 else 0.0
        if spare <= 0:
            return 0.0
        need = (want.width / section.width - 1) / spare
        spread = NormalDist(want.capture, want.doubt)
        possible = spread.cdf(1.0) - spread.cdf(0.0)
        return min((spread.cdf(1.0) - spread.cdf(max(need, 0.0))) / possible, 1.0) if need < 1 else 0.0
    return NormalDist(0, _SIZE_DOUBT).cdf(math.log(section.area / want.area))


def chance_words(chance: float) -> str:
    """A chance as far as it is known: nothing forged is certain.

    >>> chance_words(0.998), chance_words(0.735)
    ('over 99%', '74%')
    """
    return "over 99%" if chance > 0.99 else "under 1%" if chance < 0.01 else f"{chance:.0%}"


def _judged(source: Source, asks: Sequence[FeatureNeed], f: _Figures, piece: Piece, beyond: float) -> Candidate:
    section = source.section
    whole = [w for w in asks if w.capture >= 1]
    upset = tuple(w.title for w in whole if w.area > section.area * 1.02)
    drawn = tuple(w.title for w in asks if w.title not in upset)
    decide = [w for w in asks if w.capture < 1 or (w.title not in upset and math.log(section.area / w.area) < 3 * _SIZE_DOUBT)]
    critical = min(decide, key=lambda w: _chance(w, section), default=None)
    chance = 1.0 if critical is None else _chance(critical, section)
    rack = next((place for length, _n, place in sorted(source.rack) if length >= f.cut + beyond), "")
    cost = None if source.price is None else source.price / source.length * (f.cut + beyond)
    hidden = section.shape in ("round", "tube") and any(f.kind == "twist" and getattr(f, "flattened", None) is None for f in piece.features)
    parts = {
        "chance": (6.0 if critical is not None and critical.capture < 1 else 1.5) * (1 - chance),
        "upset": sum(0.5 + math.log(w.area / section.area) for w in whole if w.title in upset),
        "change": 4.0 * f.change,
        "effort": f.effort,
        "heavy": f.heavy,
        "twist": 2.0 if hidden else 0.0,
        "buy": 0.0 if rack else 0.4,
    }
    said = {
        "upset": f"{_listed(upset)} must be upset" if upset else "",
        "twist": "its twist would not show" if hidden else "",
        "chance": "" if critical is None else f"{critical.title} is {chance_words(chance)} sure",
        "change": f"plain parts {'heavier' if section.area > piece.bar.area else 'lighter or of another shape'}"
        if f.change > 0.05 else "",
        "effort": f"{f.effort:.1f} times the forging" if abs(f.effort - 1) > 0.05 else "",
        "heavy": f"{f.heavy:.0%} more steel" if f.heavy > 0.1 else "",
    }  # fmt: skip
    why = [said[k] for k in sorted(said, key=lambda k: -parts[k]) if said[k]]
    if drawn and not upset:
        why.append(f"{_listed(drawn)} drawn from it")
    why.append(f"on the rack: {rack}" if rack else "to buy")
    return Candidate(source, f.cut, drawn, upset, critical, chance, f.effort, f.mass, f.waste, cost, rack, tuple(parts.items()), tuple(why))


def _listed(titles: tuple[str, ...]) -> str:
    if len(titles) <= 2:
        return " and ".join(titles)
    return f"{titles[0]} and {len(titles) - 1} others"


_WINS = {
    "chance": "its critical section comes out surer",
    "upset": "less of it must be upset",
    "change": "its plain parts come out as designed",
    "effort": "it is less to forge",
    "heavy": "it takes less steel",
    "twist": "its twist shows",
    "buy": "it is on the rack, the other is to buy",
}


def preferred(ranked: Sequence[Candidate], present: Section, measure: Measure) -> str:
    """Why the first beats the second, and the present bar, in one sentence; says when it is too close to call.

    Args:
        ranked: best first, two or more.
        present: the piece's own bar.
        measure: how sizes are shown.
    """
    first, second = ranked[0], ranked[1]
    here = next((c for c in ranked if c.source.section == present), None)
    names = [c.source.section.label(measure) for c in (first, second)]
    own = next((c for c in ranked[2:] if c.source.section == present), None)
    also = f"; it beats the present bar because {_reason(first, own)}" if own is not None else ""
    if second.score - first.score < _CLOSE:
        said = f"{names[0]} and {names[1]} are too close to call: forge a test piece of what is critical from both{also}."
    else:
        said = f"{names[0]} beats {names[1]} because {_reason(first, second)}{also}."
    return said + in_hand(here, measure)


def in_hand(candidate: Candidate | None, measure: Measure) -> str:
    """Whether the bar in hand gives its critical section is too close to call, in words; "" where it is not.

    Args:
        candidate: the piece's own bar.
        measure: how sizes are shown.
    """
    if candidate is None or candidate.critical is None or candidate.critical.capture >= 1 or not _UNSURE < candidate.chance < _SURE:
        return ""
    name = candidate.source.section.label(measure)
    return f" Whether {name} gives {candidate.critical.title} is too close to call, {chance_words(candidate.chance)}: forge a test piece of it first."


def _reason(first: Candidate, second: Candidate) -> str:
    ahead = {name: there - here for (name, here), (_name, there) in zip(first.parts, second.parts, strict=True)}
    return _WINS[max(ahead, key=lambda name: ahead[name])]
