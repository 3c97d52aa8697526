"""The immutable piece: one forged part from one bar, its features in order from end A to end B."""

from __future__ import annotations

import dataclasses
from collections.abc import Iterator, Sequence
from dataclasses import field
from functools import cached_property

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import SCHOOLS, BendRule, Feature, Place, places, shape_of, stock_of
from long_ember.features.composing import Composition, composed
from long_ember.features.planning import Planning
from long_ember.features.shape import Shape
from long_ember.features.standing import Standing
from long_ember.fields import Limb, check_fields, specs
from long_ember.frozen import dataclass
from long_ember.materials import MATERIALS, Material
from long_ember.sections import Section, square

__all__ = ["SAWN", "SCALE_FROM", "Allowances", "Measured", "Order", "Piece"]

_HAIR = 1e-9  # mm


SCALE_FROM = (("typed", "your figure"), ("fire", "your fire, by the oxidation model"))
SAWN = (("safe", "the safe length"), ("likely", "the likely length: half come out short"))


@dataclass(frozen=True, kw_only=True)
class Allowances:
    """What the fire, the saw and the chisel take.

    Args:
        scale: share of the hot steel lost in each heat, where `source` is typed.
        source: of that figure: typed, or the oxidation model and the fire in use.
        trim: mm cut off the two ends together to true them.
        parting: mm lost when the piece is parted from the bar.
        bite: shortest length of bar that butchers and guillotines take hold of, mm.
        saw: the length to saw: as the shop does it, safe or likely.
    """

    scale: float = fields.percent("Scale each heat", 0.01, high=0.2, tip="Share of the hot steel that scales off in one heat.")
    source: str = fields.choice("Scale from", "typed", *SCALE_FROM, tip="The fire takes more of thin bar than of thick.", late=7)
    trim: float = fields.length("Trim", 2.0, zero=True, tip="Cut off the two ends together to true them.")
    parting: float = fields.length(
        "Lost in parting", 0.0, zero=True, tip="Steel that the hot cut takes when the piece is parted from its bar."
    )
    bite: float = fields.length("Smallest bite", 6.0, zero=True, tip="Least length of bar your butcher or guillotine can set down.", late=6)
    saw: str = fields.choice("Saw", "shop", ("shop", "as the shop does"), *SAWN, late=7, tip="The safe length, or the likely one.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Order:
    """How many are wanted and what they are cut from.

    Args:
        quantity: pieces.
        bar_length: mm of a bought bar.
        kerf: mm lost in each saw cut.
        end_trim: mm cut off each end of a bought bar before it is used.
    """

    quantity: int = fields.count("Pieces", 1, high=10000, tip="How many are sawn.")
    bar_length: float = fields.length("Bought bar", 3000.0, tip="Length of one bar as sold.")
    kerf: float = fields.length("Saw cut", 2.0, zero=True, tip="Lost in each cut.")
    end_trim: float = fields.length("Bar end trim", 0.0, zero=True, tip="Cut off each end of a bought bar first.")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Measured:
    """What a test piece told about one figure that is otherwise taken on trust.

    Args:
        name: capture and shortening are of one feature; bend and scale of the whole piece.
        feature: id, "" for the whole piece.
        value: share of 1; of a bend the k of its rule.
        spread: either way of it, still to be reckoned with.
    """

    name: str = fields.choice("Figure", "scale", ("capture", "capture"), ("shortening", "shortening of the twist"),
                              ("bend", "bend factor"), ("scale", "scale each heat"))  # fmt: skip
    feature: str = fields.text("Feature")
    value: float = fields.number("Value", 0.0, low=0.0, high=1.0)
    spread: float = fields.number("In doubt by", 0.0, low=0.0, high=1.0)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Piece:
    """One piece as the smith plans it.

    Args:
        name: what it is called.
        note: anything worth keeping.
        bar: the section it is forged from.
        material: key of `MATERIALS`.
        school: bend rule in force, see `SCHOOLS`.
        datum: end that marks are measured from, A or B.
        features: in order from end A to end B.
        measured: on a test piece, each figure once.
        planning: what the smith settles about the sequence.
        standing: forms and works on the drawn bar, which take no bar of their own.
        lean: how far k lies from the bend rule, as the log has taught; never of a piece as it is planned or kept, see `believed`.

    Raises:
        NoAnswer: when a field can't hold its value or two features share an id.
    """

    name: str = fields.text("Name", "New piece", tip="What everybody calls it.")
    note: str = fields.text("Note", "")
    bar: Section = fields.section("Bar", square(12.0), tip="For example 12 sq, 1/2 rd, 25x6 flat.")
    material: str = fields.choice(
        "Material", "mild-steel", *((m.key, m.title) for m in MATERIALS.values()), tip="Its strength, density and heats."
    )
    school: str = fields.choice("Bend rule", "k-factor", *SCHOOLS, tip="How much bar a bend takes; a test piece decides.")
    datum: str = fields.choice("Marks from", "A", ("A", "end A"), ("B", "end B"), tip="The end that the tape is hooked on.")
    features: tuple[Feature, ...] = ()
    allowances: Allowances = field(default_factory=Allowances)
    order: Order = field(default_factory=Order)
    measured: tuple[Measured, ...] = ()
    planning: Planning = field(default_factory=Planning)
    standing: tuple[Standing, ...] = ()
    lean: float = 0.0

    def __post_init__(self) -> None:
        check_fields(self)
        ids = [*(f.id for f in self.features), *(s.id for s in self.standing)]
        if len(set(ids)) != len(ids) or "" in ids:
            raise NoAnswer("Every feature of a piece needs an id of its own.", "")

    @property
    def steel(self) -> Material:
        """The material's figures."""
        return MATERIALS[self.material]

    def place(self, index: int) -> Place:
        """Where feature `index` stands."""
        return self._places[index]

    @cached_property
    def rule(self) -> BendRule:
        """The bend rule in force."""
        k = self.measurement("bend")
        return BendRule(self.school, shift=self.lean) if k is None else BendRule(self.school, k.value, k.spread)

    @cached_property
    def _places(self) -> tuple[Place, ...]:
        return tuple(places(self.features, self.bar, self.rule, bite=self.allowances.bite))

    @cached_property
    def composition(self) -> Composition:
        """The drawn bar with what stands on it, and the finished piece.

        Raises:
            NoAnswer: something can't stand where it is wanted.
        """
        row = [(f, shape_of(f, self.place(i))) for i, f in enumerate(self.features)]
        return composed(row, self.standing, self.rule)

    @property
    def shapes(self) -> Sequence[tuple[str, Shape]]:
        """The finished piece from end A to end B: id and form of every part."""
        if self.standing:
            return self.composition.shapes
        return [(f.id, shape_of(f, self.place(i))) for i, f in enumerate(self.features)]

    def feature(self, identity: str) -> Feature | None:
        """A feature of the row, or one that stands on the drawn bar; None where there is none of that id."""
        index = self.index(identity)
        if index >= 0:
            return self.features[index]
        standing = self.stands(identity)
        return standing.feature if standing is not None else None

    def found(self, identity: str) -> tuple[Feature, Place]:
        """A feature as it stands, with its place.

        Raises:
            KeyError: there is none of that id.
        """
        index = self.index(identity)
        if index >= 0:
            return self.features[index], self.place(index)
        stand = self.composition.stand(identity)
        if stand is None:
            raise KeyError(identity)
        return stand.feature, stand.place

    def stands(self, identity: str) -> Standing | None:
        """What stands on the drawn bar, by id; None where it is a feature of the row, or not there."""
        return next((s for s in self.standing if s.id == identity), None)

    def measurement(self, name: str, feature_id: str = "") -> Measured | None:
        """What a test piece told about a figure; None where it is taken on trust."""
        return next((m for m in self.measured if m.name == name and m.feature == feature_id), None)

    def index(self, feature_id: str) -> int:
        """Position of a feature by id, −1 when it is not there."""
        return self._indices.get(feature_id, -1)

    @cached_property
    def _indices(self) -> dict[str, int]:
        return {f.id: i for i, f in enumerate(self.features)}

    def every_feature(self) -> Iterator[Feature]:
        """Its features and those of their limbs, each before what stands on it."""
        waiting = list(reversed([*self.features, *(s.feature for s in self.standing)]))
        while waiting:
            feature = waiting.pop()
            yield feature
            for name, spec in specs(feature).items():
                if isinstance(spec, Limb):
                    waiting.extend(p.feature if isinstance(p, Standing) else p for p in reversed(getattr(feature, name)))

    @property
    def laid_on_limbs(self) -> bool:
        """Something stands on the drawn bar of a limb."""
        return any(
            isinstance(part, Standing)
            for f in self.every_feature()
            for n, spec in specs(f).items()
            if isinstance(spec, Limb)
            for part in getattr(f, n)
        )

    def new_id(self) -> str:
        """An id that no feature of the piece has."""
        taken = {f.id for f in self.features} | {s.id for s in self.standing}
        return next(name for i in range(1, len(taken) + 2) if (name := f"f{i}") not in taken)

    def verify(self) -> None:
        """Make sure every feature has a form.

        Raises:
            NoAnswer: naming the first feature that has none.
        """
        for i, feature in enumerate(self.features):
            place = self.place(i)
            try:
                shape_of(feature, place)
                if stock_of(feature, place) < -_HAIR:
                    raise NoAnswer("It would take less than no bar.", "Its sizes go with no bar of this section: make it smaller.")
            except NoAnswer as error:
                raise NoAnswer(f"{feature.title} {i + 1}: {error.reason}", error.remedy, feature.id) from None
        if self.standing:
            if not self.features:
                raise NoAnswer("Nothing is drawn yet that anything could stand on.", "Add bar first.", self.standing[0].id)
            _ = self.composition

    def with_feature(self, index: int, feature: Feature) -> Piece:
        """The piece with one feature replaced."""
        return dataclasses.replace(self, features=(*self.features[:index], feature, *self.features[index + 1 :]))
