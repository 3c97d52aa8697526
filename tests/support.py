"""What several tests share: tables of kinds, random sections, features and pieces."""

from __future__ import annotations

import threading
import time
from dataclasses import replace

from hypothesis import assume
from hypothesis import strategies as st

from long_ember.beliefs import FACTORS, Belief
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Allowances, BendRule, Feature, Order, Piece, Place
from long_ember.fields import Length, specs
from long_ember.sections import Section, flat, half_round, hexagon, octagon, round_, square, tube
from long_ember.units import LEAST

BARS = (
    square(12.0), round_(12.0), flat(25.0, 6.0), hexagon(16.0), octagon(20.0), Section("square", 12.0, 12.0, 2.0), half_round(20.0),
    tube(21.0, 2.0), Section("flat", 25.0, 10.0, 1.5, True),
)  # fmt: skip

# Every kind in its usual form and in the odd forms that break careless code.
CASES: tuple[Feature, ...] = (
    KINDS["run"](id="x"),
    KINDS["run"](id="x", length=0.01),
    *(KINDS["taper"](id="x", form=form) for form in ("square", "round", "octagon", "chisel")),
    KINDS["taper"](id="x", tip=0.01, toward="B"),
    KINDS["section-change"](id="x"),
    KINDS["section-change"](id="x", section=flat(20, 4), blend=7.5),
    KINDS["upset"](id="x", section=square(28)),
    KINDS["upset"](id="x", section=square(30), blend=0.0),
    KINDS["bend"](id="x"),
    KINDS["bend"](id="x", radius=0.0, facing=180.0),
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
    *(KINDS["hole"](id="x", diameter=3.0, form=form) for form in ("square", "diamond")),
    KINDS["hole"](id="x", diameter=3.0, sink=6.0),
    KINDS["hole"](id="x", diameter=3.3, tap=4.0),
    *(KINDS["point"](id="x", form=form, toward=end) for form in ("square", "round", "octagon") for end in "AB"),
    KINDS["taper"](id="x", form="flat", wide=20.0),
    KINDS["taper"](id="x", form="one-sided", facing=90.0),
    KINDS["taper"](id="x", root=square(10)),
    KINDS["tenon"](id="x", section=round_(5)),
    KINDS["tenon"](id="x", section=square(4), upset=0.0, bite=12.0, toward="B"),
    KINDS["thread"](id="x", diameter=5.0, pitch=0.8),
    KINDS["thread"](id="x", diameter=5.0, pitch=0.8, bare=20.0, nut=0.0),
    KINDS["neck"](id="x", size=5.0),
    KINDS["neck"](id="x", size=8.0, sides="edges", passes="two"),
    KINDS["taper"](id="x", form="edge", tip=5.0, thick=14.0),
    KINDS["taper"](id="x", form="edge-sided", tip=5.0, facing=270.0, toward="B"),
    KINDS["taper"](id="x", form="flat", wide=8.0, tip=4.0, rounding=2.0),
    KINDS["edge-set"](id="x", thickness=15.0, longer=0.2),
    KINDS["end-hole"](id="x", diameter=4.0, tap=5.0),
    KINDS["hole"](id="x", diameter=3.0, sink=6.0, ball=8.0),
    KINDS["drifted-eye"](id="x", form="slot", diameter=6.0, punch=3.0),
    KINDS["drifted-eye"](id="x", form="diamond", diameter=14.0, slot=24.0, punch=3.0),
    KINDS["tenon"](id="x", section=round_(5), method="filed"),
    KINDS["thread"](id="x", diameter=12.0, pitch=1.75),
    KINDS["extension"](id="x", section=square(8), weld="arc"),
    KINDS["split"](id="x", method="saw", cut=30.0),
    *(KINDS["surface"](id="x", work=work, face="all") for work in ("fold", "dots", "file-marks", "veins")),
    KINDS["neck"](id="x", size=1.0, fuller=3.0, sides="all"),
    KINDS["ball"](id="x"),
    KINDS["ball"](id="x", diameter=30.0),
    KINDS["coil"](id="x", form="flat", inside=0.0, turns=2.0),
    KINDS["ball"](id="x", diameter=4.0, toward="B"),
    KINDS["nub"](id="x"),
    *(KINDS["head"](id="x", form=form, diameter=34.0) for form in ("cap", "countersunk", "rose", "pyramid", "square", "hexagon", "disc")),
    KINDS["head"](id="x", diameter=34.0, hole=30.0, grip=5.0, toward="B"),
    KINDS["bend"](id="x", facing=90.0, radius=40.0),
    KINDS["bend"](id="x", facing=33.0, corner="upset"),
    KINDS["offset"](id="x"),
    KINDS["offset"](id="x", angle=90.0, offset=90.0, facing=270.0),
    KINDS["scroll"](id="x", end="fishtail", facing=90.0),
    KINDS["scroll"](id="x", end="leaf", bevel=0.3),
    KINDS["coil"](id="x"),
    KINDS["coil"](id="x", form="flat", turns=1.5, hand="left", toward="B"),
    KINDS["coil"](id="x", hand="left", facing=120.0, gap=0.0),
    KINDS["twist"](id="x", turns=1.0, hand="reversed"),
    KINDS["twist"](id="x", turns=1.0, flattened=flat(18, 6)),
    KINDS["drifted-eye"](id="x", punch=3.0),
    KINDS["drifted-eye"](id="x", punch=3.0, slot=10.0, slug=0.0),
    KINDS["split"](id="x", radius=3.0),
    KINDS["split"](id="x", across="width", angle=90.0, radius=2.0, tip=round_(3), toward="B"),
    *(KINDS["spread"](id="x", outline=o, thickness=3.0) for o in
      ("palm", "lens", "diamond", "heart", "spade", "teardrop", "fishtail", "measured")),
    KINDS["spread"](id="x", thickness=2.0, work="scalloped", toward="B"),
    KINDS["chamfer"](id="x", leg=1.5),
    KINDS["chamfer"](id="x", leg=1.5, method="filed"),
    KINDS["bevel"](id="x", width=5.0),
    KINDS["bevel"](id="x", width=5.0, edges="both"),
    KINDS["bevel"](id="x", width=5.0, edges="back"),
    *(KINDS["surface"](id="x", work=w) for w in ("texture", "lines", "touch-mark", "stamp", "planish")),
    *(KINDS["part-off"](id="x", method=m, toward="B") for m in ("hot", "saw", "chisel")),
    KINDS["scarf"](id="x"),
    KINDS["extension"](id="x"),
    KINDS["laid-on"](id="x"),
    KINDS["laid-on"](id="x", own=(KINDS["bevel"](id="b", length=20.0, width=3.0, edge=1.0),)),
    KINDS["spread"](id="x", thickness=2.0, work="folded", outline="lens"),
)  # fmt: skip


def places(bar: Section) -> tuple[Place, ...]:
    """A bar's three places, each under another school."""
    return Place(bar, True, False), Place(bar, False, True, BendRule("centreline")), Place(bar, False, False, BendRule("inside"))


def upto(most: float) -> st.SearchStrategy[float]:
    """No length at all, or one of any size that is legal."""
    return st.one_of(st.just(0.0), st.floats(LEAST, most))


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
    lengths = [n for n, spec in specs(feature).items() if isinstance(spec, Length) and getattr(feature, n) > 0]
    if not lengths:
        return feature
    name = draw(st.sampled_from(lengths))
    return replace(feature, **{name: getattr(feature, name) * factor})


@st.composite
def pieces(draw: st.DrawFn, most: int = 8) -> Piece:
    """A piece that can be forged."""
    bar = draw(sections())
    count = draw(st.integers(1, most))
    found = tuple(replace(draw(features(bar)), id=f"f{i}") for i in range(count))
    allowances = Allowances(scale=draw(st.floats(0, 0.05)), trim=draw(upto(20)), parting=draw(upto(10)))
    order = Order(quantity=draw(st.integers(1, 60)), kerf=draw(upto(4)))
    piece = Piece(bar=bar, features=found, allowances=allowances, order=order, datum=draw(st.sampled_from("AB")))
    kept = []
    for feature in found:  # what has no answer here is left out, rather than the whole piece thrown away
        try:
            replace(piece, features=(*kept, feature)).verify()
        except NoAnswer:
            continue
        kept.append(feature)
    piece = replace(piece, features=tuple(kept))
    try:
        piece.verify()
    except NoAnswer:
        assume(False)
    assume(kept)
    return piece


def believing(**mean: float) -> Belief:
    """A belief with some factors off the usual, as sure of them as of any."""
    return Belief(mean=tuple(mean.get(f.key, 0.0) for f in FACTORS))


def threads_left(before: int, seconds: float = 60.0) -> int:
    """How many threads there are, once there are no more than before: a library that is being imported can't be left in the middle."""
    end = time.monotonic() + seconds
    while threading.active_count() > before and time.monotonic() < end:
        time.sleep(0.01)
    return threading.active_count()
