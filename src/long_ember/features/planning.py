"""What the smith settles about the order of work of one piece: pins, overrules, methods, schools, hardening."""

from __future__ import annotations

from long_ember import fields
from long_ember.features.own_work import OwnWork
from long_ember.fields import check_fields
from long_ember.frozen import dataclass

__all__ = ["FINISHES", "HARDENED_FOR", "ORDER_SCHOOLS", "Overrule", "Picked", "Pin", "Planning", "School"]


@dataclass(frozen=True, slots=True)
class School:
    """Something that smiths do one way or another, with one sentence for each side.

    Args:
        key: name of the field that holds the choice, in the shop and in a piece's planning.
        title: what it is about.
        options: value and sentence; the first one is the usual one.
    """

    key: str
    title: str
    options: tuple[tuple[str, str], ...]


ORDER_SCHOOLS: tuple[School, ...] = (
    School("first", "Head or point first", (
        ("either", "no preference: whatever saves a heat"),
        ("point", "Point first: the bar is still long, and the point is out of the fire while the head is upset"),
        ("head", "Head first: if it fails, no point has been drawn for nothing"),
    )),
    School("warming", "First work of the day", (
        ("any", "any part"),
        ("thick", "Thickest part first: in a cold shop it warms the anvil"),
    )),
    School("ends", "Two ends are made", (
        ("turn", "each in turn: drawn, curled and hooked before the other is begun"),
        ("stage", "stage by stage: all drawing, then all turning, while the bar is still straight"),
    )),
    School("bends", "Bends are made", (
        ("horn", "over the horn: any radius, no setting up"),
        ("fork", "in bending forks: all alike, leverage for thick bar"),
        ("jig", "round a jig: many of the same"),
        ("vice", "in the vice: sharp and square"),
        ("edge", "over the anvil's edge: nothing else needed"),
    )),
    School("heads", "Heads are made", (
        ("header", "in a header: square to the shank"),
        ("vice", "in the vice: no header of that size needed"),
    )),
    School("rhythm", "A batch goes", (
        ("piece", "piece by piece: each is seen finished, mistakes show early"),
        ("stage", "stage by stage: tools and stops are set once for all"),
    )),
)  # fmt: skip

# value: what it is for, °C of the temper, or 0 for none. The colours are those of plain carbon steel, ± 10 °C.
HARDENED_FOR: dict[str, tuple[str, float]] = {
    "none": ("not hardened", 0.0),
    "scraper": ("scrapers and engraving: as hard as it gets", 220.0),
    "edge": ("edges that cut: knives, plane irons", 235.0),
    "struck": ("struck tools: chisels, punches, caulking irons", 280.0),
    "spring": ("springs and tools that bend", 300.0),
    "tough": ("hooks, tools that must not break", 350.0),
}


@dataclass(frozen=True, kw_only=True)
class Pin:
    """One operation of an order that is held: all pinned ones keep the order they are listed in.

    Args:
        step: feature id, a stroke, and the operation's number within the feature.
    """

    step: str = fields.text("Operation")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Overrule:
    """A rule of order that does not hold for this piece, and why.

    Args:
        rule: its id.
        step: the operation it would hold back, "" for all of them.
        note: the smith's reason.
    """

    rule: str = fields.text("Rule")
    step: str = fields.text("Operation")
    note: str = fields.text("Note")

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Picked:
    """The method chosen for one operation, in place of the first that the kit allows.

    Args:
        step: see `Pin`.
        method: its key.
    """

    step: str = fields.text("Operation")
    method: str = fields.text("Method")

    def __post_init__(self) -> None:
        check_fields(self)


def _school(key: str, late: int = 0) -> str:
    school = next(s for s in ORDER_SCHOOLS if s.key == key)
    found: str = fields.choice(school.title, "shop", ("shop", "as the shop does it"), *school.options, late=late)
    return found


# key: in a word, what the smith does, what the customer does.
FINISHES = {
    "oil": ("oiled", "Brush the scale off, warm it until a hand can just bear it, and oil it.",
            "Oiled. Wipe it with a drop of oil when it looks dry, outdoors a few times a year."),
    "wax": ("waxed", "Brush the scale off, warm it until a hand can just bear it, and wax it; polish it cold.",
            "Waxed. Rub wax on when water no longer beads on it; keep it out of the rain."),
    "paint": ("painted", "Take all scale off, degrease it, prime and paint it by the maker's sheet.",
              "Painted. Touch up scratches before they rust; wash it, never scour it."),
    "zinc": ("zinc coated", "Have it coated by a firm, with drain holes where it is hollow; never heat it afterwards: zinc fume poisons.",
             "Zinc coated. It greys with time and needs no oil. Never heat, weld or burn it: the fume poisons."),
    "food": ("finished for food", "Take all scale off, and finish it only with what its maker names for food; bake it on by its sheet.",
             "For food: wash it by hand, dry it at once, oil it thinly with cooking oil. No dishwasher."),
    "bare": ("left bare", "Brush the scale off, and leave it bare.",
             "Left bare: it will rust where it is wet. Oil or wax it if you do not want that."),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Planning:
    """The smith's part of the sequence.

    Args:
        pins: operations whose order is held.
        overrules: rules that do not hold here.
        methods: chosen for single operations.
        own: operations in the smith's own words.
        first: school, see `ORDER_SCHOOLS`; like the next five "shop" for what the shop does.
        warming: school.
        ends: school.
        bends: school.
        heads: school.
        rhythm: school.
        touch: whether the shop's touch mark is planned: shop or none.
        purpose: what it is hardened for, see `HARDENED_FOR`; "usual" for struck tools where the steel hardens.
        working: end that is hardened; "thin" for the one that cuts or pierces.
        finish: key of `FINISHES`.
    """

    pins: tuple[Pin, ...] = fields.rows("Pinned order", Pin)
    overrules: tuple[Overrule, ...] = fields.rows("Overruled", Overrule)
    methods: tuple[Picked, ...] = fields.rows("Methods", Picked)
    own: tuple[OwnWork, ...] = fields.rows("Own work", OwnWork, late=7)
    first: str = _school("first")
    warming: str = _school("warming")
    ends: str = _school("ends", late=7)
    bends: str = _school("bends")
    heads: str = _school("heads")
    rhythm: str = _school("rhythm")
    touch: str = fields.choice("Touch mark", "shop", ("shop", "where the shop has one"), ("none", "none on this piece"), late=7)
    purpose: str = fields.choice(
        "Hardened for", "usual", ("usual", "what its steel is usually for"), *((k, w) for k, (w, _t) in HARDENED_FOR.items())
    )
    working: str = fields.choice("Hardened at", "thin", ("thin", "where it cuts"), ("A", "end A"), ("B", "end B"), ("whole", "all of it"))
    finish: str = fields.choice(
        "Finish",
        "oil",
        *((key, title) for key, (title, _do, _care) in FINISHES.items()),
        tip="Last step of the sequence, and the customer's card.",
        late=8,
    )

    def __post_init__(self) -> None:
        check_fields(self)
