"""What several tests share: tables of kinds, random sections, features and pieces."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import assume
from hypothesis import strategies as st

from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Allowances, Feature, Order, Piece, Place
from long_ember.sections import Section, flat, hexagon, octagon, round_, square

BARS = (square(12.0), round_(12.0), flat(25.0, 6.0), hexagon(16.0), octagon(20.0), Section("square", 12.0, 12.0, 2.0))

# Every kind in its usual form and in the odd forms that break careless code.
CASES: tuple[Feature, ...] = (
    KINDS["run"](id="x"),
    KINDS["run"](id="x", length=0.001),
    *(KINDS["taper"](id="x", form=form) for form in ("square", "round", "octagon", "chisel")),
    KINDS["taper"](id="x", tip=0.001, toward="B"),
    KINDS["section-change"](id="x"),
    KINDS["section-change"](id="x", section=flat(20, 4), blend=7.5),
    KINDS["upset"](id="x", section=square(28)),
    KINDS["upset"](id="x", section=square(30), blend=0.0),
    KINDS["bend"](id="x"),
    KINDS["bend"](id="x", radius=0.0, facing="down"),
    KINDS["bend"](id="x", corner="sharp"),
    KINDS["bend"](id="x", angle=350.0, radius=3.0),
    KINDS["hook"](id="x"),
    KINDS["hook"](id="x", lip=0.0, tip=round_(4), toward="B"),
    KINDS["curl"](id="x"),
    *(KINDS["scroll"](id="x", form=form, toward=end) for form in ("archimedean", "logarithmic", "clothoid") for end in "AB"),
    KINDS["scroll"](id="x", inner=29.999999, outer=30.0, tip=None),
    KINDS["eye"](id="x"),
    KINDS["eye"](id="x", sweep=270.0, trim=6.0, tip=round_(5), toward="B"),
    KINDS["twist"](id="x", turns=0.5),
    KINDS["twist"](id="x", turns=1.0, hand="left", shortening=0.5),
    KINDS["twist"](id="x", turns=1.0, shortening=1.0),
    KINDS["hole"](id="x", diameter=3.0),
    KINDS["hole"](id="x", diameter=3.0, method="punched", axis="width"),
    KINDS["hole"](id="x", diameter=3.0, length=4.0, method="punched", slug=0.0),
)


def places(bar: Section) -> tuple[Place, ...]:
    """A bar's three places and three schools."""
    ends = ((True, False), (False, True), (False, False))
    return tuple(Place(bar, first, last, school) for first, last in ends for school in ("k-factor", "centreline", "inside"))


sizes = st.floats(3.0, 60.0).map(lambda x: round(x, 2))


@st.composite
def sections(draw: st.DrawFn) -> Section:
    """A bar of any shape."""
    a, b = draw(sizes), draw(sizes)
    shape = draw(st.sampled_from(["square", "round", "flat", "hexagon", "octagon"]))
    return flat(a, b) if shape == "flat" else Section(shape, a, a)


@st.composite
def features(draw: st.DrawFn, bar: Section) -> Feature:
    """A feature of any kind that suits the bar, its lengths spread over two decades."""
    feature = KINDS[draw(st.sampled_from(sorted(KINDS)))](id="x").fitted(bar)
    factor = draw(st.floats(0.3, 3.0))
    name = draw(st.sampled_from([n for n in ("length", "inside", "radius", "inner", "lip", "blend", "diameter") if hasattr(feature, n)]))
    return replace(feature, **{name: getattr(feature, name) * factor})


@st.composite
def pieces(draw: st.DrawFn, most: int = 8) -> Piece:
    """A piece that can be forged."""
    bar = draw(sections())
    count = draw(st.integers(1, most))
    found = tuple(replace(draw(features(bar)), id=f"f{i}") for i in range(count))
    allowances = Allowances(scale=draw(st.floats(0, 0.05)), trim=draw(st.floats(0, 20)), parting=draw(st.floats(0, 10)))
    order = Order(quantity=draw(st.integers(1, 60)), kerf=draw(st.floats(0, 4)))
    piece = Piece(bar=bar, features=found, allowances=allowances, order=order, datum=draw(st.sampled_from("AB")))
    try:
        piece.verify()
    except NoAnswer:
        assume(False)
    return piece
