"""What every smith knows about each manner of work: methods and what they need, how to get ready, what to measure, what goes wrong."""

from __future__ import annotations

import math
from functools import lru_cache

from long_ember.frozen import dataclass

__all__ = ["CRAFT", "HELPERS", "Craft", "Fixture", "Method", "craft_of", "methods_for"]

HELPERS = ("striker", "power hammer")  # beside the kit: who or what strikes


@dataclass(frozen=True, slots=True)
class Method:
    """One way to do an operation.

    Args:
        key: stable name, kept in piece files.
        title: how it is called.
        tools: to have at hand, besides what the operation asks for anyway.
        needs: keys of the kit, all of them; nothing: always possible.
        pace: how long it takes against the operation's own seconds; the judgement of this program, not measured.
        strikes: whose blows: hand, striker or ram.
        least: mm² of bar below which it is offered, but not taken by itself; infinite: only when it is chosen.
        ready: what to set before the steel leaves the fire.
        handling: s to set the steel to it anew (computations, section 14).
        once: one setting serves for the whole turn, as in a jig or round a rod; else each quarter turn wants one.
        cold: it takes no heat, whatever the operation would take.
    """

    key: str
    title: str
    tools: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    pace: float = 1.0
    strikes: str = "hand"
    least: float = 0.0
    ready: str = ""
    handling: float = 4.0
    once: bool = False
    cold: bool = False

    def handle(self, settings: float) -> float:
        """Seconds of handling for so many settings of a quarter turn."""
        if not settings:
            return 0.0
        return self.handling if self.once else self.handling * max(settings, 1.0)


@dataclass(frozen=True, slots=True)
class Fixture:
    """Something worth setting up for many: what, minutes to make or set, share of the anvil time it then saves each time."""

    words: str
    minutes: float
    saves: float


@dataclass(frozen=True, slots=True)
class Craft:
    """All that is told about a manner of work.

    Args:
        methods: the usual one first.
        gauge: what it is measured with, hot.
        wrong: what goes wrong, and the remedy.
        fixture: for a batch.
    """

    methods: tuple[Method, ...]
    gauge: str
    wrong: tuple[tuple[str, str], ...] = ()
    fixture: Fixture | None = None


_FACE = Method("face", "on the anvil's face", ("hammer", "anvil"), ready="Hammer in hand, face clean, callipers set.")
_RAM = Method("ram", "under the power hammer", ("power hammer",), ("power hammer",), strikes="ram", least=250.0,
              ready="Dies warm and level, treadle tried, nobody beside the dies.")  # fmt: skip
_STRIKER = Method("striker", "with a striker", ("hammer", "anvil", "sledge"), ("striker",), strikes="striker", least=600.0,
                  ready="Agree the signs: where, how hard, stop.")  # fmt: skip
_DRAWING = (_FACE, _RAM, _STRIKER)
_HORN = Method(
    "horn", "over the horn", ("horn", "hammer"), ("horn",), ready="Place on the horn with the right radius chalked.", handling=8.0
)
_FORK = Method(
    "fork",
    "in bending forks",
    ("fork",),
    ("forks",),
    1.1,
    ready="Forks in the hardy hole or the vice, spacer at the bar's thickness.",
    handling=3.0,
)
_TORCH = Method(
    "torch",
    "by the heat of a torch, in the vice",
    ("torch", "vice", "hammer"),
    ("torch", "vice"),
    1.1,
    handling=5.0,
    ready="Only the place itself hot; nothing beside it that burns.",
)
_JIG = Method(
    "jig", "round a jig", ("jig",), ("jig",), 0.7, ready="Jig in the vice, stop set, one trial with cold bar.", handling=3.0, once=True
)
_VICE = Method(
    "vice", "in the vice", ("vice", "hammer"), ("vice",), 1.2, ready="Jaws open to the bar, mark level with their edge.", handling=5.0
)
_EDGE = Method(
    "edge", "over the anvil's edge", ("anvil edge", "hammer"), pace=1.4, ready="The edge with the right radius; mark on it.", handling=12.0
)
_COLD_FORK = Method(
    "cold", "cold, in forks or a bender", ("fork", "long lever"), ("forks",), handling=15.0, cold=True, least=math.inf,
    ready="Cold and clean; set for the spring-back, one trial with an offcut.",
)  # fmt: skip
_BENDING = (_HORN, _FORK, _VICE, _EDGE, _JIG, _TORCH, _COLD_FORK)

_BENT_WRONG = (
    ("It bends beside the mark", "Quench all but the place, or start again from the mark while it is hot."),
    ("The inside wrinkles, the outside thins", "Hotter and slower; straighten the wrinkle before it folds."),
)
_DRAWN_WRONG = (
    ("It becomes a parallelogram", "Turn it back and forth by a quarter, strike the high corners first."),
    ("A fishtail or a crack at the tip", "Strike the very tip square first; cut the split off and start behind it."),
)

_OFF = (
    Method("hardy", "on the hardy", ("hardy", "hammer"), ("hardy", "hole"), ready="Hardy sharp, nobody in line with the end."),
    Method("chisel", "with a hot chisel", ("hot chisel", "cutting plate"), ("chisels", "plate"), ready="Cutting plate on the face."),
    Method("saw", "with a saw, cold", ("saw",), ("saw",), 5.0, ready="Let it cool first.", cold=True),
    Method("edge", "nicked and broken over the anvil's edge", ("anvil edge", "hammer"), pace=1.5, ready="Nick all round."),
)

_FREE = Method(
    "free",
    "freehand, half a turn at a time off the anvil's edge",
    ("anvil edge", "hammer"),
    pace=1.6,
    handling=6.0,
    ready="A place to flatten it, over the pritchel or the hardy hole. Close each half turn from the side; level it at the end.",
)

CRAFT: dict[str, Craft] = {
    "draw": Craft(_DRAWING, "callipers", _DRAWN_WRONG, Fixture("A stop block that gives the length", 5, 0.1)),
    "point": Craft(_DRAWING, "callipers", (*_DRAWN_WRONG, ("The tip burns off", "Put it into the fire last; draw the tip at the end of a heat."))),
    "taper": Craft(_DRAWING, "callipers", (*_DRAWN_WRONG, ("It comes out too long", "There was more steel before the mark: cut off, and mark shorter next time."))),
    "bevel": Craft(_DRAWING, "callipers", (("The bar curves edgeways", "Bend it the other way first, or straighten on the back after each heat."),)),
    "scarf": Craft(_DRAWING, "callipers", (("The lip is square", "Round it: a square lip traps flux and leaves a cold shut."),)),
    "setdown": Craft((
        Method("guillotine", "in the guillotine or under a set hammer", ("guillotine", "hammer"), ("guillotine", "hole"), 0.9,
               ready="Dies at the finished size, bar marked at the shoulder."),
        Method("half-on", "half on, half off the anvil's edge", ("anvil edge", "hammer"), ready="A sharp edge; the mark on it."),
        _RAM, _STRIKER,
    ), "callipers", (
        ("The shoulder runs out of true", "Turn after each blow; true it in a header or over the vice jaws."),
        ("A cold shut at the shoulder", "Grind it out now: hammered over, it goes on as a crack."),
    ), Fixture("A stop on the anvil for the shoulder", 5, 0.2)),
    "neck": Craft((
        Method("fullers", "between fullers", ("fullers", "hammer"), ("fullers", "hole"), ready="Bottom fuller in the hardy hole."),
        Method("spring", "in spring fullers", ("spring fullers", "hammer"), ("spring",), 0.9, ready="Spring fuller in the vice or the hardy hole, tried cold."),
        Method("guillotine", "in the guillotine", ("guillotine", "hammer"), ("guillotine", "hole"), 0.9, ready="Round dies in, stop set."),
        Method("peen", "with the peen over the anvil's edge", ("hammer", "anvil edge"), pace=1.5, ready="The mark over the edge."),
    ), "callipers", (("It is fullered too thin", "Leave it thick until the leaf or ball is finished: then it is thinned last."),)),
    "spread": Craft((
        Method("peen", "with the cross peen", ("cross peen", "anvil"), ("fullers",), ready="Peen dressed, no sharp edge."),
        Method("horn", "over the horn", ("horn", "hammer"), ("horn",), 1.2, ready="Work across the horn."),
        Method("face", "with the edge of the hammer's face", ("hammer", "anvil"), pace=1.5, ready="A rounded face."),
        _RAM,
    ), "callipers", (
        ("Edges crack", "It got too cold: grind the crack out to its end before it goes on."),
        ("It lengthens instead of widening", "Set the peen along the bar."),
    )),
    "upset": Craft((
        Method("face", "standing on the anvil", ("anvil", "hammer"), ready="End square and rounded, water can for the bar beside it."),
        Method("drop", "dropped on the floor block", ("floor block",), ("block",), 0.8, ready="Block swept, feet clear."),
        Method("vice", "hammered in the vice", ("vice", "hammer"), ("vice",), 1.1, ready="Jaws open to the bar, stop under the cold end."),
        Method("striker", "with a striker", ("sledge", "anvil"), ("striker",), strikes="striker", least=400.0, ready="Agree the signs."),
    ), "callipers", (
        ("It bends", "Straighten at once: every further blow only bends it more."),
        ("It swells in the wrong place", "Shorter heat, or cool the rest in water to the mark."),
    ), Fixture("A stop under the vice for the length", 5, 0.15)),
    "ball": Craft((
        Method("swage", "in a ball swage", ("ball swage", "hammer"), ("swages", "hole"), 0.8, ready="Swage in the hardy hole."),
        Method("block", "in a swage block", ("swage block", "hammer"), ("swage-block",), 0.9, ready="Block on its stand, the hollow of that size brushed clean."),
        Method("corners", "worked in from the corners on the anvil", ("anvil", "hammer"), ready="Small blows, always turning."),
    ), "callipers", (("Folds in the ball", "Upset in shorter steps; a fold is ground out, not hammered over."),)),
    "head": Craft((
        Method("header", "in a header", ("header", "hammer"), ("headers",), ready="Header of the shank's size over the hardy hole, tried cold."),
        Method("heading-plate", "through a heading plate", ("heading plate", "hammer"), ("heading-plate",), ready="The hole of the shank's size over the hardy hole, tried cold."),
        Method("vice", "in the vice", ("vice", "hammer"), ("vice",), 1.2, ready="Jaws at the shank's size, stop below."),
        Method("plate", "through a hole in a plate", ("drilled plate", "hammer"), pace=1.3, ready="A hole of the shank's size in thick plate."),
    ), "callipers", (
        ("The head sits to one side", "Push it over while it is still thick; heat only the end."),
        ("It sticks in the header", "Cool the shank, tap it out from below; ease the hole."),
    ), Fixture("A header with a stop for the shank", 20, 0.3)),
    "corner-upset": Craft((
        Method("face", "standing on the anvil", ("anvil", "hammer"), ready="Short heat; water can for both sides."),
        Method("vice", "hammered in the vice", ("vice", "hammer"), ("vice",), ready="Jaws at the mark."),
    ), "callipers", (("It bends instead of swelling", "Shorter heat, straighten after each blow."),)),
    "weld": Craft((
        Method("flux", "with flux in a welding fire", ("flux", "wire brush", "hammer"), ("flux",),
               ready="Flux open, brush and hammer laid out, anvil warm, helper told."),
        Method("joined", "no welding fire here: rivet, collar, or have it welded", pace=1.0, ready="Change the feature, or take it to a welder."),
    ), "by eye: no dark line", (
        ("It does not take", "Brush, flux and heat again at once; the scale in between is what keeps them apart."),
        ("It burns: white sparks", "Out, and cut back: burnt steel crumbles."),
    )),
    "split": Craft((
        Method("chisel", "with a hot chisel on a cutting plate", ("hot chisel", "cutting plate"), ("chisels", "plate"),
               ready="Chisel sharp, plate on the face, centre line deep enough to see hot."),
        Method("saw", "with a saw, drilled at the root, cold", ("saw", "vice"), ("saw", "vice"), 2.0, ready="Root drilled first.", cold=True),
        Method("hardy", "over the hardy", ("hardy", "hammer"), ("hardy", "hole"), 1.3, ready="Never the last blow onto the hardy."),
        Method("make", "with a chisel you make first", ("chisel", "soft block"), pace=1.3, ready="Draw a chisel from spring steel first."),
    ), "rule", (
        ("The cut wanders", "Cut half from each side; a shallow line all along before the deep one."),
        ("A crack at the crotch", "Drill or punch the root round; do not work it below orange."),
    )),
    "punch": Craft((
        Method("bolster", "over a bolster", ("punch", "bolster", "water can"), ("punches", "bolster"), ready="Bolster over the pritchel hole, punch cooled."),
        Method("jaws", "over the open vice jaws", ("punch", "vice", "water can"), ("punches", "vice"), 1.2, ready="Jaws just wider than the punch."),
        Method("hole", "over the hardy hole", ("punch", "water can"), ("punches", "hole"), 1.2, ready="Punch cooled after every three blows."),
        Method("make", "with a punch you make first", ("punch", "water can"), pace=1.2, ready="Draw a punch from tool steel first; or drill it cold."),
    ), "punch as gauge", (
        ("The hole is off its mark", "Push it over with the punch held at a slant before it is half through."),
        ("The punch sticks", "Out after three blows, cool it, coal dust in the hole."),
    )),
    "drift": Craft((
        Method("drift", "on a drift over the bolster", ("drift", "bolster", "hammer"), ("drifts", "bolster"), ready="Drift clean and greased, bolster open."),
        Method("jaws", "on a drift over the vice jaws", ("drift", "vice", "hammer"), ("drifts", "vice"), 1.2, ready="Jaws open to the drift."),
        Method("make", "on a drift you make first", ("drift", "hammer"), pace=1.2, ready="Turn or forge a drift to the size first."),
    ), "drift as gauge", (("One wall thins", "Heat the thick wall only, dress it on the drift."),)),
    "eye": Craft((
        Method("horn", "over the horn", ("horn", "hammer"), ("horn",), ready="Mark for the kink in sight."),
        Method("mandrel", "round a mandrel in the vice", ("mandrel", "vice"), ("mandrel", "vice"), 0.9, ready="Mandrel in the vice.", handling=8.0, once=True),
        _EDGE,
    ), "mandrel or dividers", (
        ("It comes up short", "Open it and start the kink further back; note the loss for the next."),
        ("It sits to one side", "Kink the shank back at the root before it is closed."),
    ), Fixture("A mandrel with a peg for the kink", 15, 0.3)),
    "curl": Craft((
        Method("edge", "over the anvil's edge", ("anvil edge", "hammer"), ready="Tip just over the far edge.", handling=5.0, once=True),
        Method("fork", "in a scroll fork", ("fork",), ("forks",), 1.1, ready="Fork in the vice.", handling=5.0, once=True),
        Method("pliers", "with scrolling pliers", ("scrolling pliers",), ("scroll-pliers",), ready="Pliers cold: they take its heat.", handling=4.0, once=True),
    ), "against the drawing", (("It is crushed later", "Curl before the bend behind it, cooled before that bend."),)),
    "scroll": Craft((
        Method("gauge", "over the anvil's edge, then to a scroll gauge", ("anvil edge", "hammer", "scroll gauge"), ("jig",), 0.9,
               ready="Gauge in the vice, tongs that reach round it."),
        Method("fork", "in scroll forks", ("scroll fork",), ("forks",), ready="Forks in the vice, full-size drawing on the plate."),
        Method("pliers", "with scrolling pliers", ("scrolling pliers", "anvil edge"), ("scroll-pliers",), 1.1, ready="Pliers cold: they take its heat.", handling=5.0),
        Method("eye", "by eye over the anvil's edge", ("anvil edge", "hammer"), pace=1.3, ready="Full-size drawing in chalk on the plate."),
    ), "against the full-size drawing", (
        ("A flat or a kink", "Heat that spot only and open it over the horn; do not close it further."),
        ("It closes up when bevelled", "Roll it a little open; bevel from the tip."),
    ), Fixture("A scroll gauge", 45, 0.35)),
    "coil": Craft((
        Method("mandrel", "on a mandrel in the vice", ("mandrel", "vice"), ("mandrel", "vice"), ready="Mandrel in the vice, slot or peg for the end.", handling=1.5),
        Method("horn", "over the horn, turn by turn", ("horn", "hammer"), ("horn",), 1.5, ready="A place on the horn of that size."),
        Method("fork", "in forks, turn by turn", ("fork",), ("forks",), 1.6, ready="Drawing in chalk.", handling=5.0),
        _FREE,
        Method("pipe", "on a length of pipe", ("pipe", "clamp"), pace=1.3, ready="Pipe of that size held fast."),
        Method("cold", "cold, on a mandrel in the vice", ("mandrel", "vice", "long lever"), ("mandrel", "vice"), handling=6.0, cold=True, least=math.inf,
               ready="Mandrel a little under size: it springs open. Free end held down, never in line with your face."),
    ), "mandrel as gauge", (("Turns of unequal pitch", "Wind it close, then open it hot over a wedge."),)),
    "closed-coil": Craft((
        _FREE, Method("fork", "in forks, from the middle outwards", ("fork",), ("forks",), handling=5.0, ready="Drawing in chalk."),
        Method("pliers", "with scrolling pliers", ("scrolling pliers",), ("scroll-pliers",), handling=5.0, ready="Pliers cold: they take its heat."),
    ), "straight edge across it", (("It stands up in the middle", "Flatten it over the hole while it is hot, and close it from the side again."),)),
    "bend": Craft(_BENDING, "square or template", _BENT_WRONG, Fixture("A stop length on the horn or pegs in a jig", 10, 0.35)),
    "corner": Craft((_VICE, _EDGE), "square", (
        *_BENT_WRONG, ("The outside corner stays round", "Upset more before the bend; drive the corner from both legs, hot."),
    ), Fixture("A stop behind the vice", 5, 0.2)),
    "open": Craft((
        Method("fork", "in forks", ("fork", "hammer"), ("forks",), ready="Fork in the hardy hole.", handling=5.0),
        Method("vice", "in the vice", ("vice", "hammer"), ("vice",), 1.1, ready="Jaws at the root of the split."),
        _EDGE,
    ), "against the drawing", (("A crack at the crotch", "Stop at orange; dress the crotch round before it is opened further."),)),
    "hook": Craft((
        _HORN,
        Method("mandrel", "round a mandrel in the vice", ("mandrel", "vice"), ("mandrel", "vice"), 0.9, ready="Mandrel in the vice.", handling=8.0, once=True),
        _FORK, _EDGE, _JIG, _COLD_FORK,
    ), "template or mandrel", (("The tip is crushed", "Curl first and cooled; close the bowl with the tip outside the anvil."),),
        Fixture("Pegs in a jig for the bowl", 15, 0.4)),
    "twist": Craft((
        Method("vice", "in the vice with a twisting wrench", ("vice", "twisting wrench"), ("vice", "wrench"),
               ready="Vice open to the bar, wrench set, both marks wet with chalk."),
        Method("pair", "in the vice with adjustable wrenches", ("vice", "two wrenches"), ("vice", "adjustable"), 1.2, ready="Wrenches set to the bar, handles opposite."),
        Method("hardy", "held in the hardy hole, turned with a wrench", ("hardy hole", "wrench"), ("hole",), 1.5, ready="A block in the hardy hole that the bar fits."),
        Method("torch", "by the heat of a torch, in the vice", ("torch", "vice", "wrench"), ("torch", "vice"), 1.1, ready="Flame moved evenly over all of it."),
        Method("two", "between two wrenches, somebody on the other", ("wrench", "helper"), pace=1.8, ready="Agree who turns and who holds; the bar level between you."),
    ), "turns counted", (
        ("It twists more where it is hotter", "Water from a can on the fast part, while turning."),
        ("It bends", "Straighten with a mallet on wood: no marks."),
    ), Fixture("A stop for the wrench and a pointer for the turns", 10, 0.3)),
    "texture": Craft((Method("hand", "by hand on the anvil", ("hammer", "anvil"), ready="Tool dressed and clean."),), "by eye", (
        ("It is hammered out again", "Texture last; light blows with wood afterwards."),
    )),
    "lines": Craft((
        Method("chisel", "with a line chisel on a soft block", ("chisel", "soft plate"), ("chisels",), ready="Lines scribed or chalked."),
        Method("make", "with a chisel you make first", ("chisel", "soft block"), pace=1.2, ready="Grind a chisel from an old drill or file first."),
    ), "by eye", (("Lines run out", "A shallow line all along first; turn the piece, not the chisel."),)),
    "cut": Craft(_OFF, "rule", (("A burr", "Off before anything is flattened over it."),), Fixture("A stop for the length on the hardy", 5, 0.2)),
    "own": Craft((Method("own", "as you do it"),), "by eye, from both sides"),
    "crop": Craft(
        _OFF, "rule", (("Too short now", "Measure from the shoulder, and leave a hair to file."),), Fixture("A stop for the length on the hardy", 5, 0.2)
    ),
    "arc": Craft((
        Method("arc", "by arc, on the bench", ("arc welder", "grinder", "clamp"), ("welder", "grinder"), ready="Ends bevelled bright, clamped in line, nobody looking on."),
        Method("elsewhere", "no welder here: have it welded, or weld it in the fire", ("clamp",), ready="Ends bevelled bright, marked in line."),
    ), "straight edge", (("It pulls to one side", "Tack opposite sides first; straighten hot."),)),
    "saw": Craft((
        Method("saw", "with the saw", ("saw",), ("saw",), ready="Cold; mark all round."),
        Method("grinder", "with a cutting disc", ("grinder", "clamp"), ("grinder",), 0.7, ready="Guard on, glasses and ears, nobody in line with the sparks."),
        Method("hacksaw", "with a hand saw", ("hand saw", "clamp"), pace=2.0, ready="Cold; mark all round."),
    ), "rule", (), Fixture("A stop on the saw", 5, 0.3)),
    "planish": Craft((
        Method("hammer", "with a planishing hammer", ("planishing hammer", "anvil"), ready="Face polished, anvil wiped and wet."),
        Method("flatter", "under a flatter, somebody striking", ("flatter", "sledge", "anvil"), ("flatter", "striker"), 0.6, strikes="striker", ready="Flatter's face clean, anvil wiped."),
    ), "straight edge", (("Half moons in the face", "That is the hammer's edge: hold it level, crown the face."),)),
    "file": Craft((Method("file", "with a file", ("file", "clamp"), ready="Cold; scale off first, or the file is gone."),), "gauge"),
    "drill": Craft((
        Method("drill", "with the drill", ("drill", "centre punch", "clamp"), ("drill",), ready="Cold, flat, clamped; scale off where it starts."),
        Method("elsewhere", "no drill here: change it to punched, or have it drilled", ("centre punch",), pace=1.0, ready="Centre pop it deep."),
    ), "drill as gauge", (("The drill wanders or squeals", "Pop deeper, scale off, slower; a chilled spot wants a grinding first."),),
        Fixture("A stop and a fence on the drill table", 10, 0.4)),
    "tap": Craft((
        Method("tap", "with a tap", ("tap and wrench", "vice", "oil"), ("dies",), ready="Cold, square, oiled."),
        Method("elsewhere", "no taps here: have it tapped, or rivet it", ready="Leave the hole at its size."),
    ), "screw as gauge", (("The tap breaks", "Hole too small or not square: back each half turn, drill it larger."),)),
    "thread": Craft((
        Method("die", "with a die", ("die and stock", "vice", "oil"), ("dies", "vice"), ready="Cold, end bevelled, oiled."),
        Method("elsewhere", "no dies here: have it threaded, or rivet it", ready="Leave the shank at its size."),
    ), "nut as gauge", (("The thread leans", "Start square: the die's guide, or the vice jaw as a fence."),)),
}  # fmt: skip
# Manners that are done like another one.
_LIKE = {
    "close": "weld", "scroll-bevel": "texture", "touch-mark": "texture", "stamp": "texture", "scalloped": "texture",
    "seat": "punch", "isolate": "neck", "thin": "neck", "edge-set": "draw", "folded": "texture", "veined": "lines",
    "round-ball": "ball", "edges": "draw", "edge-taper": "taper", "set-down": "setdown",
}  # fmt: skip


def craft_of(manner: str) -> Craft:
    """What is known about an operation's manner."""
    return CRAFT[_LIKE.get(manner, manner)]


def methods_for(manner: str, kit: frozenset[str] | None, wanted: str, area: float) -> tuple[Method, ...]:
    """Methods that the kit allows, the one to take first.

    Args:
        manner: of the operation.
        kit: keys of the kit and of `HELPERS`; None: everything but those.
        wanted: key of a method taken before the others, "" for none.
        area: of the bar, mm².
    """
    return _ranked(manner, kit, wanted, tuple([m.key for m in _able(manner, kit) if m.strikes != "hand" and area >= m.least > 0]))


@lru_cache(maxsize=256)
def _able(manner: str, kit: frozenset[str] | None) -> tuple[Method, ...]:
    return tuple(
        m for m in craft_of(manner).methods if (all(n not in HELPERS for n in m.needs) if kit is None else kit.issuperset(m.needs))
    )


@lru_cache(maxsize=512)
def _ranked(manner: str, kit: frozenset[str] | None, wanted: str, strong: tuple[str, ...]) -> tuple[Method, ...]:
    """What was asked for, then what strikes hardest, then what needs nobody."""
    able = _able(manner, kit)
    first = [m for m in able if m.key == wanted]
    strike = [m for m in able if m.key in strong]
    plain = [m for m in able if m.least == 0]
    return tuple(dict.fromkeys((*first, *strike, *plain, *able)))
