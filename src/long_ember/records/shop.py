"""The shop of one book: units, ruler, kit, schools, allowances, fire, hammer, smiths."""

from __future__ import annotations

from functools import cached_property
from typing import ClassVar

from long_ember import fields
from long_ember.features import ORDER_SCHOOLS, SAWN, SCALE_FROM, SCHOOLS, Allowances, Order, OwnWork, Piece
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.heats import Door, ForgeSettings
from long_ember.physics import Hammer
from long_ember.records.job import StoreItem
from long_ember.records.kit import KIT
from long_ember.records.order import OwnRule
from long_ember.records.rack import OFFERS
from long_ember.sections import square
from long_ember.stock import Sawing
from long_ember.units import MM_PER, Measure

__all__ = ["DENOMINATORS", "STARTING", "Shop", "Smith"]

DENOMINATORS = (16, 32, 64)
_BY_SCHOOL = {school.key: school for school in ORDER_SCHOOLS}


def _school(key: str) -> str:
    school = _BY_SCHOOL[key]
    found: str = fields.choice(school.title, school.options[0][0], *school.options, late=True)
    return found


_SKILL = {"experienced": 1.0, "relaxed": 0.65, "beginner": 0.45}


@dataclass(frozen=True, kw_only=True)
class Smith:
    """Who forges, and with which hammer.

    Args:
        name: what they are called.
        hammer: kg.
        tempo: blows a minute.
        skill: how much of it tells, see computations, section 15.
    """

    name: str = fields.text("Name", "Smith", tip="Their log is kept apart.")
    hammer: float = fields.mass("Hammer", 1.3, low=0.2, high=200.0, unit="kg", tip="A power hammer counts its falling mass.")
    tempo: float = fields.number("Blows a minute", 110.0, low=10.0, high=400.0, tip="Blows that tell, while the steel is hot.")
    skill: str = fields.choice(
        "Hand",
        "experienced",
        ("experienced", "practised"),
        ("relaxed", "unhurried"),
        ("beginner", "learning"),
        tip="How much of each blow tells, and how fast bends and details go.",
    )

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Shop:
    """Everything a shop settles once.

    Attributes:
        gone: what shops of before kept besides.

    Args:
        name: of the shop.
        unit: mm or in, for bare numbers and for display.
        denominator: finest inch fraction shown.
        ruler: mm; cut lengths round up to it. 0: 1 mm, or the finest fraction shown.
        school: bend rule of new pieces, see `SCHOOLS`.
        scale: share of the hot steel lost in each heat, of new pieces, where `source` is typed.
        source: of that figure, of new pieces.
        trim: mm, of new pieces.
        parting: mm, of new pieces.
        bite: mm, the shortest length of bar that the tools set down, of new pieces.
        bar_length: mm of a bought bar.
        kerf: mm.
        end_trim: mm.
        hold: mm of bar that must be left to hold behind a piece forged on it.
        keep: mm; a shorter remnant is waste.
        sheet_length: mm of a bought sheet, along its grain.
        sheet_width: mm.
        margin_sheet: mm trimmed off each edge of a sheet.
        hour: money for an hour of work.
        overhead: money for an hour: rent, tools, insurance.
        fuel: money for an hour of fire.
        finishing: minutes for a piece after the fire, beside brushing and oil.
        market: put on top when sold to the customer.
        wholesale: the same when sold to a dealer.
        stores: what lies in tins and drawers, with prices.
        offer: common sizes to choose from, see `OFFERS`.
        saw: the length that is sawn: safe, or likely.
        confidence: share of pieces that a safe cut length is enough for.
        margin: mm added to it.
        fire: kind of fire, in words.
        hot_length: mm of bar that the fire heats evenly.
        opening: mm, least side of the mouth of a closed forge; 0 for an open hearth.
        door: mm, its other side; 0 for the same.
        depth: mm from the mouth to the back wall; 0 where the bar can go out at the back.
        slow: how much longer than the bare equation the fire takes to heat a bar; one timed heat fixes it.
        irons: bars in the fire at once.
        anvil: mm, width of the anvil's face between its two long edges.
        edge: which of them work is set over: far, or near.
        dividers: mm that they open to.
        peg: mm, diameter of the pegs that jigs are made with.
        ram: kg of a power hammer's falling mass, 0 for none.
        striker: somebody swings a sledge.
        touch: a touch mark is struck into every piece.
        first: school of order, see `ORDER_SCHOOLS`; like the next five.
        warming: school.
        ends: school.
        bends: school.
        heads: school.
        rhythm: school.
        rules: of order, the shop's own.
        own: operations of the shop's own, kept to be used again.
        kit: keys of `KIT`.
        smiths: the first one is at the anvil.
    """

    gone: ClassVar[tuple[str, ...]] = ("tolerance",)
    name: str = fields.text("Shop", "My shop", tip="Stands on sheets and quotes.")
    unit: str = fields.choice("Unit", "mm", ("mm", "mm"), ("in", "inch"), tip="Of bare numbers, and of everything shown.")
    denominator: str = fields.choice(
        "Finest fraction", "16", *((str(d), f"1\u2044{d} inch") for d in DENOMINATORS), tip="Inches are rounded to it."
    )
    ruler: float = fields.length("Round up to", 0.0, empty=True, tip="1 mm, or the finest fraction")
    school: str = fields.choice("Bend rule", "k-factor", *SCHOOLS, tip="How much bar a bend takes; a test piece decides.")
    scale: float = fields.percent("Scale each heat", 0.01, high=0.2, tip="Share of the hot steel that scales off in one heat.")
    source: str = fields.choice("Scale from", "fire", *SCALE_FROM, tip="The fire takes more of thin bar than of thick.", late=1)
    trim: float = fields.length("Trim", 2.0, zero=True, tip="Cut off the two ends together to true them.")
    parting: float = fields.length(
        "Lost in parting", 0.0, zero=True, tip="Steel that the hot cut takes when a piece is parted from its bar."
    )
    bite: float = fields.length(
        "Smallest bite", 6.0, zero=True, tip="Least length of bar your butcher or guillotine can set down.", late=True
    )
    bar_length: float = fields.length("Bought bar", 3000.0, tip="Length of one bar as sold.")
    kerf: float = fields.length("Saw cut", 2.0, zero=True, tip="Lost in each cut.")
    end_trim: float = fields.length("Bar end trim", 0.0, zero=True, tip="Cut off each end of a bought bar first.")
    hold: float = fields.length(
        "Handle kept", 250.0, zero=True, tip="Bar that must stay behind a piece forged on it, to hold it by.", late=True
    )
    keep: float = fields.length("Least remnant kept", 150.0, zero=True, tip="Anything shorter is waste.", late=True)
    sheet_length: float = fields.length("Sheet, along its grain", 2000.0, late=True, tip="Of a whole sheet as sold.")
    sheet_width: float = fields.length("Sheet, across", 1000.0, late=True, tip="Of a whole sheet as sold.")
    margin_sheet: float = fields.length("Trimmed off its edges", 5.0, zero=True, late=True, tip="Rough or rusty, on each side.")
    hour: float = fields.number("An hour's work", 0.0, low=0.0, high=1e6, tip="In your own money; 0 leaves it out.", late=True)
    overhead: float = fields.number("Overheads an hour", 0.0, low=0.0, high=1e6, tip="Rent, tools, insurance.", late=True)
    fuel: float = fields.number("An hour of fire", 0.0, low=0.0, high=1e6, tip="Gas, coal or charcoal.", late=True)
    finishing: float = fields.number("Finishing a piece", 0.0, low=0.0, high=1e4, unit="min", tip="Beside brushing and oil.", late=True)
    market: float = fields.percent("On top for the customer", 0.2, high=5.0, tip="Profit on all costs, sold by yourself.", late=True)
    wholesale: float = fields.percent("On top for a dealer", 0.05, high=5.0, tip="Profit on all costs, sold to a shop.", late=True)
    stores: tuple[StoreItem, ...] = fields.rows("Stores", StoreItem, tip="Rivets, screws, flux, wax.", late=True)
    offer: str = fields.choice("Bars offered", "unit", *OFFERS, tip="Common sizes that the choice of bar looks through.")
    saw: str = fields.choice("Saw", "safe", *SAWN, tip="What marks, sheets, cut list and prices are made for.", late=1)
    confidence: float = fields.percent("Long enough in", 0.95, high=0.999, tip="Share of pieces that the safe length is long enough for.")
    margin: float = fields.length("Shop margin", 0.0, zero=True, tip="Added to every safe cut length.")
    fire: str = fields.choice(
        "Fire",
        "gas",
        ("gas", "gas forge"),
        ("coal", "coal or coke hearth"),
        ("charcoal", "charcoal hearth"),
        tip="What it burns decides how much scales.",
    )
    hot_length: float = fields.length("Even heat over", 200.0, low=20.0, tip="Length of bar that your fire heats evenly.")
    opening: float = fields.length("Mouth of the forge", 0.0, zero=True, tip="Least side of the opening; 0 for an open hearth.", late=True)
    door: float = fields.length("Its width", 0.0, zero=True, tip="The other side of the opening; 0 for the same.", late=True)
    depth: float = fields.length(
        "Depth of the forge", 0.0, zero=True, tip="From the mouth to the back wall; 0 if the bar can go out there.", late=True
    )
    slow: float = fields.number("Heating takes", 1.8, low=0.5, high=6.0, unit="×",
                                tip="As many times as long as heat alone would take: in gas a 12 mm bar from cold to forging heat takes this many times 1.8 minutes.",
                                late=True)  # fmt: skip
    irons: int = fields.count("Irons in the fire", 2, high=12, tip="Bars that lie in it at once.", late=True)
    anvil: float = fields.length("Anvil's face, across", 100.0, low=20.0, tip="Between its two long edges.", late=True)
    edge: str = fields.choice("You set down over", "far", ("far", "its far edge"), ("near", "its near edge"),
                              tip="What lies past the edge is told for it.", late=True)  # fmt: skip
    dividers: float = fields.length("Dividers open to", 150.0, low=10.0, tip="Longer lengths are carried with the tape.", late=True)
    peg: float = fields.length("Pegs of a jig", 12.0, low=2.0, tip="Their diameter, and of the holes they stand in.", late=True)
    ram: float = fields.mass("Power hammer", 0.0, low=0.0, high=500.0, unit="kg", tip="Falling mass; 0 for none.", late=True)
    striker: bool = fields.flag("Striker", False, "nobody", "swings a sledge", late=True, tip="Somebody beside you with a sledge.")
    touch: bool = fields.flag(
        "Touch mark", False, "none", "struck into every piece", late=True, tip="Planned near the last hot work of every piece."
    )
    first: str = _school("first")
    warming: str = _school("warming")
    ends: str = _school("ends")
    bends: str = _school("bends")
    heads: str = _school("heads")
    rhythm: str = _school("rhythm")
    rules: tuple[OwnRule, ...] = fields.rows("Own rules of order", OwnRule, tip="Which work comes before which in this shop.", late=True)
    own: tuple[OwnWork, ...] = fields.rows("Own work", OwnWork, tip="Operations of your own, to be used in any piece.", late=True)
    kit: tuple[str, ...] = fields.ticks("Kit", tuple(KIT), *((key, title) for key, (title, _words) in KIT.items()))
    smiths: tuple[Smith, ...] = fields.rows("Smiths", Smith, (Smith(),), tip="The first one is at the anvil.")

    def __post_init__(self) -> None:
        check_fields(self)

    @cached_property
    def measure(self) -> Measure:
        """How lengths are shown."""
        return Measure(self.unit, int(self.denominator))

    @property
    def offered(self) -> str:
        """Common sizes looked through: mm, in, both or own."""
        return self.unit if self.offer == "unit" else self.offer

    @property
    def division(self) -> float:
        """mm that cut lengths round up to."""
        return self.ruler or (1.0 if self.unit == "mm" else MM_PER["in"] / int(self.denominator))

    @property
    def smith(self) -> str:
        """Who is at the anvil."""
        return self.smiths[0].name if self.smiths else ""

    @cached_property
    def forge(self) -> ForgeSettings:
        """Fire, hammer, kit and schools, as the heats reckon with them."""
        smith = self.smiths[0] if self.smiths else Smith()
        return ForgeSettings(
            self.hot_length, Hammer(mass=smith.hammer, tempo=smith.tempo, skill=_SKILL[smith.skill]), fire=self.fire,
            door=Door(self.opening, self.door, self.depth), slow=self.slow, irons=int(self.irons), ram=self.ram, striker=self.striker, touch=self.touch, kit=frozenset(self.kit),
            schools=tuple((key, getattr(self, key)) for key in _BY_SCHOOL), own=tuple(rule.rule() for rule in self.rules),
            sawing=Sawing(self.saw, min(max(self.confidence, 0.5), 0.999), self.margin),
        )  # fmt: skip

    def new_piece(self) -> Piece:
        """An empty bar with the shop's allowances, half an inch or 12 mm square."""
        return Piece(
            bar=square(12.7 if self.unit == "in" else 12.0),
            school=self.school,
            allowances=Allowances(scale=self.scale, source=self.source, trim=self.trim, parting=self.parting, bite=self.bite),
            order=Order(bar_length=self.bar_length, kerf=self.kerf, end_trim=self.end_trim),
        )


_YARD = ("pliers", "adjustable", "forks", "punches", "chisels", "fullers", "saw", "hardy", "block")
_RARE = frozenset({"swage-block", "flatter", "torch", "spring", "scroll-pliers", "heading-plate"})
_HEARTH = tuple(k for k in KIT if k not in {"guillotine", "dies", *_RARE})

# key: title, one sentence, the shop.
STARTING: dict[str, tuple[str, str, Shop]] = {
    "gas": (
        "Small gas forge",
        "An even heat over 150 mm, a vice, a drill, the usual hand tools.",
        Shop(fire="gas", hot_length=150.0, kit=tuple(k for k in KIT if k not in {"flux", "guillotine", "swages", "block", *_RARE}),
             smiths=(Smith(name="Smith", hammer=1.2, tempo=100.0, skill="relaxed"),)),
    ),
    "coal": (
        "Coal hearth, vice and horn",
        "Heats where you want it, welds, and has stood there for years.",
        Shop(fire="coal", hot_length=220.0, kit=_HEARTH, smiths=(Smith(name="Smith", hammer=1.3),)),
    ),
    "yard": (
        "Minimal back-yard kit",
        "A small fire, a block of steel for an anvil, a few punches and chisels.",
        Shop(fire="charcoal", hot_length=120.0, kerf=3.0, kit=_YARD,
             smiths=(Smith(name="Smith", hammer=1.0, tempo=90.0, skill="beginner"),)),
    ),
}  # fmt: skip
