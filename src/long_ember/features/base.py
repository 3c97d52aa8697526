"""What every feature kind has in common."""

from __future__ import annotations

import math
import zlib
from collections.abc import Callable, Container, Mapping, Sequence
from dataclasses import field, replace
from functools import lru_cache, wraps
from typing import Any, ClassVar, Self, TypeVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.effort import drawing_stop, finishing
from long_ember.features.shape import Shape, Span, Straight, loft_doubt
from long_ember.fields import check_fields, specs
from long_ember.frozen import NamedTuple, dataclass
from long_ember.sections import Blend, Section, found_section
from long_ember.units import Line, Quantity, own_words, say

__all__ = [
    "LABELS",
    "LEVELS",
    "SCHOOLS",
    "USUAL_RULE",
    "VERBS",
    "BendRule",
    "Check",
    "DrawnTo",
    "Feature",
    "Formed",
    "Operation",
    "Outer",
    "Place",
    "Side",
    "checks_of",
    "feature_sum",
    "operations_of",
    "place_of",
    "places",
    "range_of",
    "remembered",
    "shape_of",
    "span_sum",
    "stock_line",
    "stock_of",
    "volume_line",
]  # fmt: skip

SCHOOLS: tuple[tuple[str, str], ...] = (
    ("k-factor", "k-factor: 0.5 of the thickness at radii of 2 thicknesses or more, falling to 0.33 at a sharp inside"),
    ("centreline", "Centreline: the middle of the bar keeps its length at every radius"),
    ("inside", "Inside lengths plus one thickness for each right angle"),
)


LEVELS = {"note": ("\u00b7", "Note"), "warn": ("!", "Mind"), "stop": ("\u25a0", "Stop")}  # sign and word
LABELS = ("name", "note")  # fields that every kind has, beside its own

_ALIKE = 0.05  # of the bar's area: what a bend makes thinner is still the bar
_LEAST_STOOD = 0.5  # mm², that something can stand in

# In the order that work free to be done in any order is taken up.
VERBS = ("upset", "weld", "spread", "setdown", "crop", "draw", "split", "punch", "texture", "twist", "eye", "curl", "scroll", "bend", "hook",
         "close", "own", "cut", "drill", "tap", "thread", "file")  # fmt: skip


@dataclass(frozen=True, slots=True)
class BendRule:
    """How the steel that a bend uses is reckoned.

    Args:
        school: key of `SCHOOLS`.
        measured: k of a test piece, which takes the place of the school; None while there is none.
        spread: either way of it.
        shift: how far k lies from the school's in this shop, as its log has taught; 0 beside a measured one.
    """

    school: str = "k-factor"
    measured: float | None = None
    spread: float = 0.0
    shift: float = 0.0


USUAL_RULE = BendRule()


class Side(NamedTuple):
    """What adjoins a feature.

    Args:
        blend: the section that it presents there; None for the bar's own.
        bent: it is no straight length.
        slopes: it runs out to what adjoins it by itself.
    """

    blend: Blend | None = None
    bent: bool = False
    slopes: bool = False


@dataclass(frozen=True, slots=True)
class Place:
    """Where a feature stands.

    Args:
        bar: it is forged from; for what is laid on the drawn bar, the section at the middle of what it covers.
        first: nothing stands outside it toward A.
        last: nothing toward B.
        rule: for bends, in force.
        ends: of what is laid on: sections where it begins and ends, from A to B; None for what takes its own bar.
        before: what adjoins it toward A, for kinds that mind; None for nothing, or for kinds that do not.
        after: toward B.
        bite: shortest length of bar that the shop's tools take hold of, mm, for the same kinds.
        stock: bar that it takes its steel from, where `bar` is what it is drawn to first; None where `bar` is that.
    """

    bar: Section
    first: bool = False
    last: bool = False
    rule: BendRule = USUAL_RULE
    ends: tuple[Blend, Blend] | None = None
    before: Side | None = None
    after: Side | None = None
    bite: float = 0.0
    stock: Section | None = None

    @property
    def steel(self) -> Section:
        """The bar that it takes its steel from."""
        return self.stock or self.bar


@dataclass(frozen=True, slots=True)
class Check:
    """Something a smith should know before lighting the fire.

    Args:
        level: note, worth knowing; warn, look again before you go on; stop, it can't be done so.
        line: what.
        caution: it can hurt somebody.
        step: number of the operation that it is about, where the plan says it; −1 for none.
    """

    level: str
    line: Line
    caution: bool = False
    step: int = -1

    @property
    def key(self) -> str:
        """What setting it aside refers to: the same words with other numbers are the same."""
        return f"check:{zlib.crc32(self.line.text.encode()):08x}"

    @property
    def sign(self) -> str:
        """Told apart without colour."""
        return LEVELS[self.level][0]

    @property
    def word(self) -> str:
        """Told apart without the sign."""
        return LEVELS[self.level][1]


@dataclass(frozen=True, slots=True)
class Operation:
    """One forging action that a feature asks for.

    Args:
        verb: what the order rules match on, one of `VERBS`.
        line: what to do, with target sizes.
        effect: what of the feature it finishes: section, path, or whole.
        work: how the effort of displacing steel is reckoned: draw, upset; time where `effort` says it, or there is none.
        stop_below: °C for mild steel (computations, section 14).
        tools: to have at hand.
        seconds: that it takes whatever the hammer, in an experienced hand.
        cold: done cold.
        alone: needs a heat of its own.
        way: which of the verb's ways it is, for methods and finer rules; "" for the usual one.
        section: that is twisted, in whatever limb it lies; None for other work.
        blows: counted, whatever the hammer.
        settings: how often it is set to the tool anew; each takes the method's handling.
        effort: work ÷ flow stress beside `work`, mm³: of a bend, a corner, a mark that is sunk.
        black: done at a black heat, as the piece cools.
        own: id of the smith's own operation, "" for those that come with a feature.
        called: what that is called.
        check: what to look at when it is done, in the smith's words.
        limbs: features of limbs that it works on, and where those stand; none for the feature's own steel.
        goes: stretches, one after the other, that it must be taken in, each in a heat of its own.
        along: each of them is finished before the next is begun; otherwise it grows from all of them.
    """

    verb: str
    line: Line
    effect: str
    work: str
    stop_below: int
    tools: tuple[str, ...]
    seconds: float = 0.0
    cold: bool = False
    alone: bool = False
    way: str = ""
    section: Section | None = None
    blows: float = 0.0
    settings: float = 0.0
    effort: float = 0.0
    black: bool = False
    own: str = ""
    called: str = ""
    check: str = ""
    limbs: tuple[tuple[Feature, Place], ...] = ()
    goes: int = 1
    along: bool = False

    @classmethod
    def drawn(
        cls, verb: str, bar: Section, line: Line, tools: tuple[str, ...], *, way: str = "", blows: float = 0.0,
        limbs: tuple[tuple[Feature, Place], ...] = (),
    ) -> Operation:  # fmt: skip
        """Steel that is drawn thinner under the hammer: its effort is the strain from the bar, and thin bar is drawn for longer.

        Args:
            verb: as above, as all the others.
            bar: that it is drawn from.
            line: what to do.
            tools: to have at hand.
            way: which way.
            blows: for outline and trueing, beside those that displace.
            limbs: that it is done on.
        """
        return cls(verb, line, "section", "draw", drawing_stop(bar.thickness), tools, way=way, blows=blows, limbs=limbs)

    @property
    def manner(self) -> str:
        """Its way, or else its verb."""
        return self.way or self.verb


@dataclass(frozen=True, kw_only=True)
class Feature:
    """A feature of a piece; each kind is a frozen subclass with declared fields.

    Args:
        id: unique within its piece; selection, order overrules and logs refer to it.
        name: the smith's own for it, "" for that of its kind.
        note: anything worth keeping about it.
    """

    kind: ClassVar[str] = ""
    title: ClassVar[str] = ""
    also: ClassVar[tuple[str, ...]] = ()
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {}  # what one of those names says besides: field and value
    stands: ClassVar[str] = ""  # on the drawn bar: form, work, or "" for what always takes bar of its own
    curves: ClassVar[bool] = False  # its bar follows the bend rule
    recuts: ClassVar[bool] = False  # on the drawn bar: the stretch that it covers is made anew
    skin: ClassVar[bool] = False  # on the drawn bar: it stays on the surface, and may lie on anything
    # Fields that the drawn bar decides where it stands on it.
    of_bar: ClassVar[tuple[str, ...]] = ("tip", "toward", "end", "spread", "trim", "of")
    own_first: ClassVar[bool] = False  # added beside drawn steel, with bar of its own, where nothing else is said
    minds: ClassVar[bool] = False  # what adjoins it matters
    struck: ClassVar[bool] = False  # at an end it is struck or held: it is never hardened for what cuts
    since: ClassVar[int] = 1  # version of the piece file that knows it as it is now
    id: str = field(default="")
    name: str = fields.text("Name", "", tip="Your own name for it; empty is the name of its kind.", late=6)
    note: str = fields.text("Note", "", tip="Anything worth keeping about it.", late=6)

    def __post_init__(self) -> None:
        check_fields(self)
        called = self.name or self.told()
        if called:
            self.__dict__["title"] = called  # whatever speaks of this feature calls it so

    @property
    def keen(self) -> int:
        """Return how surely it is what a tool works with: 0 not at all, 1 it is thin, 2 it pierces, 3 it cuts, 4 steel was laid on for it."""
        return 0

    @property
    def version(self) -> int:
        """Of the piece file that holds it as it is: that of its kind, or of the latest field that is set."""
        set_late = (
            int(spec.late) for name, spec in specs(self).items() if spec.late > 1 and getattr(self, name) != getattr(type(self), name)
        )
        return max((self.since, *set_late))

    def shape(self, place: Place) -> Shape:
        """The finished form."""
        raise NoAnswer(f"{type(self).__name__} has no form.", "")

    @property
    def idle(self) -> frozenset[str]:
        """Fields that mean nothing as it is, by what is chosen in others: nobody is asked for them."""
        return frozenset()

    @property
    def closes(self) -> bool:
        """It is made to lie against its neighbour: that the two touch is no news."""
        return False

    def marked(self, mark: str) -> str:
        """How the drawing dimensions a field that is declared so; see `fields.Field`."""
        return mark

    def told(self) -> str:
        """What it is called where its kind does several things, "" for the name of its kind."""
        return ""

    def standing(self) -> Self:
        """The same feature where it takes no bar of its own."""
        return self

    def faces(self, place: Place) -> tuple[Side, Side]:
        """What it presents to its neighbours toward A and toward B."""
        shape = self.shape(place)
        bent = not all(isinstance(segment, Straight) for segment in shape.path)
        found = []
        for blend in (shape.spans[0].start, shape.spans[-1].end):
            own = abs(blend.area / place.bar.area - 1) > _ALIKE
            found.append(Side(blend if own else None, bent))
        return found[0], found[1]

    @property
    def covers(self) -> bool:
        """On the drawn bar: it takes up the stretch under it, and nothing else may."""
        return self.stands == "form" or self.recuts

    def worked(self, blend: Blend) -> Blend:
        """What a section becomes by it; itself for work that only marks it."""
        return blend

    def margins(self, place: Place, to_end: float) -> tuple[Line, ...]:
        """What stays beside and beyond it on the drawn bar.

        Args:
            place: where it lies.
            to_end: from its middle to the nearer end of the drawn bar, mm.
        """
        return ()

    @property
    def mouth(self) -> float:
        """Length along the bar that a work takes up, mm."""
        return 0.0

    def removed(self, place: Place) -> float:
        """Volume cut away, mm³."""
        return 0.0

    def added(self, place: Place) -> float:
        """Volume that comes from another bar, mm³."""
        return 0.0

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Marks within its zone: share of the stock length from its A end, and what is marked how."""
        return ()

    def stock_range(self, place: Place) -> tuple[float, float]:
        """Least and greatest stock length that is honest to expect, mm; here from what runs between unlike sections."""
        stock, unsure = stock_of(self, place), loft_doubt(shape_of(self, place)) / place.steel.area
        return stock - unsure, stock + unsure

    def checks(self, place: Place) -> tuple[Check, ...]:
        """What to know about these dimensions."""
        return ()

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The sum, line by line, with its numbers; the last one ends in the stock length."""
        raise NoAnswer(f"{type(self).__name__} has no sum.", "")

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Forging actions, in the order the feature itself needs."""
        return ()

    def fitted(self, bar: Section) -> Self:
        """A new feature's default sizes, brought to the size of `bar` (they suit 12 mm)."""
        ratio = round(bar.thickness / 12 * 4) / 4 or 0.25
        sizes: dict[str, Any] = {name: spec.sized(getattr(self, name), ratio) for name, spec in specs(self).items()}
        return self if ratio == 1 else replace(self, **sizes)

    def followed(self, before: Self) -> Self:
        """What follows where a size was changed, or another proposed: as the pitch follows a thread's diameter.

        Args:
            before: as it was.
        """
        return self

    def inched(self) -> Self:
        """The same feature, whose sizes nobody has typed, as an inch shop would have it."""
        return fields.inched(self)

    def proposed(self, unit: str) -> Self:
        """The same feature, whose sizes nobody has typed, with sizes that are marked in a shop of mm or in."""
        return self.inched() if unit == "in" else fields.evened(self)

    def suited(self, bar: Section, said: Container[str]) -> Self:
        """The same feature, with the sizes that nobody has said as they suit those that were.

        Args:
            bar: what it is made of.
            said: names of the fields that were.
        """
        return self

    def scaled(self, factor: float) -> Self:
        """The same feature `factor` times as large: lengths and sections; angles, turns, shares and counts stay."""
        sizes: dict[str, Any] = {name: spec.scaled(getattr(self, name), factor) for name, spec in specs(self).items()}
        return replace(self, **sizes)

    def turned(self) -> Self:
        """The same feature with its ends exchanged."""
        return self

    def mirrored(self) -> Self:
        """The same feature of the other of a pair, front and back exchanged."""
        changes: dict[str, Any] = {name: spec.mirrored(getattr(self, name)) for name, spec in specs(self).items()}
        return replace(self, **changes)

    def summary(self) -> Line:
        """The feature's main sizes in a few words."""
        raise NoAnswer(f"{type(self).__name__} has no summary.", "")


@dataclass(frozen=True, kw_only=True)
class Formed(Feature):
    """A bend of any kind, or a twist: with bar of its own it stands in the bar's section, or in what its neighbour ends in."""

    of: str = fields.choice("Stands in", "bar", ("bar", "the bar"), ("A", "as toward A"), ("B", "as toward B"),
                            tip="The bar as it is, or the section that its neighbour on that side ends in: it is drawn to that first.", late=7)  # fmt: skip

    def turned(self) -> Self:
        """The same feature with its ends exchanged."""
        return replace(super().turned(), of={"A": "B", "B": "A"}.get(self.of, self.of))


@dataclass(frozen=True, kw_only=True)
class DrawnTo(Feature):
    """Bar drawn to another section, for how much work that is; no shape that a piece can have."""

    drawn: Shape

    def shape(self, place: Place) -> Shape:
        """As it is drawn."""
        return self.drawn


@dataclass(frozen=True, kw_only=True)
class Outer(Feature):
    """A feature with an outer end (tip, hook, eye); described tip first and mirrored for end B."""

    minds: ClassVar[bool] = True
    toward: str = fields.choice("Outer end", "A", ("A", "toward A"), ("B", "toward B"), tip="Which way the free end points.")

    def shape(self, place: Place) -> Shape:
        """The finished form, A end first."""
        form = self.tip_first(place)
        return form if self.toward == "A" else form.mirrored()

    def tip_first(self, place: Place) -> Shape:
        """The form from its outer end inwards."""
        raise NoAnswer(f"{type(self).__name__} has no form.", "")

    def buried(self, place: Place) -> tuple[Check, ...]:
        """A warning when another feature stands where the outer end should be free.

        What goes on smaller than the bar, at most as thick as this end, was drawn from it; and what is bent stands beyond it on purpose.
        """
        free, side = (place.first, place.before) if self.toward == "A" else (place.last, place.after)
        spans = shape_of(self, place).spans
        end = spans[0].start if self.toward == "A" else spans[-1].end
        if free or (side is not None and end.area > 0 and (side.bent or (side.blend is not None and side.blend.area <= end.area * 1.02))):
            return ()
        text = f"Another feature stands outside this {own_words(self.title.lower())}: its end is not free. Move it to end {self.toward}, or turn it."
        return (Check("warn", say(text)),)

    def turned(self) -> Self:
        """The same feature pointing to the other end."""
        return replace(super().turned(), toward="B" if self.toward == "A" else "A")


_T = TypeVar("_T")


def remembered(work: Callable[[Feature, Place], _T]) -> Callable[[Feature, Place], _T]:
    """Keep a function's last answer with the feature itself.

    Both arguments are immutable and `Piece.place` hands out the same object for the same place, so identity is
    enough. Hashing a feature for a dictionary would cost more than most of the sums.
    """
    name = f"_{work.__name__}"

    @wraps(work)
    def answer(feature: Feature, place: Place) -> _T:
        kept = feature.__dict__.get(name)
        if kept is None or kept[0] is not place:
            kept = (place, work(feature, place))
            feature.__dict__[name] = kept
        return kept[1]

    return answer


@remembered
def shape_of(feature: Feature, place: Place) -> Shape:
    """The finished form of `feature` at `place`."""
    return feature.shape(place)


@remembered
def stock_of(feature: Feature, place: Place) -> float:
    """Stock length: (finished volume + removed − brought by another bar) ÷ bar area, mm (computations, section 0)."""
    return (shape_of(feature, place).volume + feature.removed(place) - feature.added(place)) / place.steel.area


@remembered
def operations_of(feature: Feature, place: Place) -> tuple[Operation, ...]:
    """The feature's operations; first of all its bar is drawn to the section that it stands in."""
    found = feature.operations(place)
    if place.stock is None:
        return found
    blend, length = place.bar.blend, stock_of(feature, place) * place.steel.area / place.bar.area
    drawn = DrawnTo(drawn=Shape((Span(length, blend, blend),), (Straight(length),)))
    if abs(blend.w - blend.t) < _ALIKE:
        line = say(f"Draw the bar to {place.bar.shape} {{}} over {{}}, as its neighbour is.", blend.t, length)
    else:
        line = say("Draw the bar to {} by {} over {}, as its neighbour is.", blend.w, blend.t, length)
    limbs = ((drawn, place_of(place.steel, place.first, place.last, place.rule)),)
    blows = finishing(blend.form, length)
    draw = Operation.drawn("draw", place.steel, line, ("hammer", "anvil", "callipers"), blows=blows, limbs=limbs)
    return draw, *found


def feature_sum(feature: Feature, place: Place) -> tuple[Line, ...]:
    """The feature's sum; where it is drawn to another section first, that and the bar it takes."""
    found = feature.sum_lines(place)
    if place.stock is None:
        return found
    blend, shape = place.bar.blend, shape_of(feature, place)
    text = "Stands in {} by {}, as its neighbour: {} ÷ {} = {} of bar"
    return *found, say(
        text, blend.w, blend.t, Quantity(shape.volume, "volume"), Quantity(place.stock.area, "area"), stock_of(feature, place)
    )


@remembered
def checks_of(feature: Feature, place: Place) -> tuple[Check, ...]:
    """The feature's checks."""
    return feature.checks(place)


@remembered
def range_of(feature: Feature, place: Place) -> tuple[float, float]:
    """Least and greatest honest stock length, mm."""
    return feature.stock_range(place)


@lru_cache(maxsize=256)
def place_of(
    bar: Section, first: bool, last: bool, rule: BendRule, before: Side | None = None, after: Side | None = None, bite: float = 0.0,
    stock: Section | None = None,
) -> Place:  # fmt: skip
    """The one `Place` object for these values."""
    return Place(bar, first, last, rule, None, before, after, bite, stock)


def places(
    features: Sequence[Feature], bar: Section, rule: BendRule, free: tuple[bool, bool] = (True, True), bite: float = 0.0
) -> list[Place]:
    """Where each of a row of features stands.

    Args:
        features: from end A to end B.
        bar: they are forged from.
        rule: for bends.
        free: nothing stands beyond the row toward A, toward B.
        bite: shortest length of bar that the tools take hold of, mm.
    """
    last, alone = len(features) - 1, place_of(bar, True, True, rule)
    stands = _stands_in(features, bar, alone) if any(getattr(f, "of", "bar") != "bar" for f in features) else {}

    def ends(i: int) -> tuple[bool, bool]:
        return i == 0 and free[0], i == last and free[1]

    def side(i: int, end: int) -> Side:
        section = stands.get(i)
        if section is None:
            return faces_of(features[i], alone)[end]
        return _shown(faces_of(features[i], place_of(section, True, True, rule))[end], section)

    found = []
    for i, feature in enumerate(features):
        section, stock = stands.get(i, bar), bar if i in stands else None
        if not feature.minds:
            found.append(place_of(section, *ends(i), rule, stock=stock))
            continue
        before, after = side(i - 1, 1) if i else None, side(i + 1, 0) if i < last else None
        found.append(place_of(section, *ends(i), rule, before, after, bite, stock))
    return found


def _shown(found: Side, section: Section) -> Side:
    """What a feature presents that stands in a section of its own: that, where it shows no other."""
    return found._replace(blend=found.blend or section.blend)


def _stands_in(features: Sequence[Feature], bar: Section, alone: Place) -> dict[int, Section]:
    """By position, the section that a form with bar of its own is drawn to: what its neighbour ends in, where that is smaller than the bar."""
    found: dict[int, Section] = {}
    last = len(features) - 1

    def look(i: int, neighbour: int, end: int) -> None:
        place = place_of(found[neighbour], True, True, alone.rule, stock=bar) if neighbour in found else alone
        try:
            blend = (
                shape_of(features[neighbour], place).spans[end].start if end == 0 else shape_of(features[neighbour], place).spans[end].end
            )
        except NoAnswer:
            return
        if _LEAST_STOOD < blend.area < bar.area * (1 - _ALIKE / 5):
            found[i] = found_section(blend)

    for i in range(1, last + 1):
        if getattr(features[i], "of", "bar") == "A":
            look(i, i - 1, -1)
    for i in range(last - 1, -1, -1):
        if getattr(features[i], "of", "bar") == "B":
            look(i, i + 1, 0)
    return found


@remembered
def faces_of(feature: Feature, place: Place) -> tuple[Side, Side]:
    """What it presents to its neighbours; plain bar where it has no form."""
    try:
        return feature.faces(place)
    except NoAnswer:
        return Side(), Side()


def dec(mm: float) -> Quantity:
    """A length inside a sum: a bare decimal figure."""
    return Quantity(mm, "decimal")


def _term(blend: Blend) -> tuple[str, tuple[Quantity, ...]]:
    if math.isclose(blend.w, blend.t):
        if math.isclose(blend.k, 1.0):
            return "{}²", (dec(blend.w),)
        return "{}·{}²", (Quantity(blend.k, "number"), dec(blend.w))
    if math.isclose(blend.k, 1.0):
        return "{}·{}", (dec(blend.w), dec(blend.t))
    return "{}·{}·{}", (Quantity(blend.k, "number"), dec(blend.w), dec(blend.t))


def span_sum(label: str, span: Span, bar: Section) -> Line:
    """The volume sum of one span, ending in its stock length."""
    tail, values = " = {} ÷ {} = {}", (Quantity(span.volume, "volume"), Quantity(bar.area, "area"), span.volume / bar.area)
    if span.start == span.end:
        term, numbers = _term(span.start)
        return say(f"{label}: {term} × {{}}{tail}", *numbers, dec(span.length), *values)
    parts = [_term(b) for b in (span.start, span.start.toward(span.end, 0.5), span.end)]
    text = f"{label}: ({parts[0][0]} + 4·{parts[1][0]} + {parts[2][0]})/6 × {{}}{tail}"
    return say(text, *(q for _text, numbers in parts for q in numbers), dec(span.length), *values)


def stock_line(feature: Feature, place: Place) -> Line:
    """The stock length, in bar thicknesses too: the way smiths think of small masses."""
    stock = stock_of(feature, place)
    return say("Stock: {}, {} × the thickness of the bar", stock, Quantity(stock / place.bar.thickness, "cubes"))


def volume_line(text: str, volume: float, bar: Section, *values: Quantity | float) -> Line:
    """A volume by a formula, then as stock: `text` with `values`, = mm³ ÷ mm² = mm."""
    tail = " = {} ÷ {} = {}"
    return say(text + tail, *values, Quantity(volume, "volume"), Quantity(bar.area, "area"), volume / bar.area)
