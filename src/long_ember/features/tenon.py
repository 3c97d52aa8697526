"""Tenons and threads (computations, section 5)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, span_sum, stock_line
from long_ember.features.effort import SHOULDER, finishing
from long_ember.features.shape import Shape, Span, Straight
from long_ember.features.threads import largest_thread, pitches_of
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, round_
from long_ember.units import Line, Quantity, say

__all__ = ["Tenon", "Thread", "thread_share"]

_DIE = 0.01  # mm; pitches nearer than this are cut with one die


def thread_share(diameter: float, pitch: float, drill: float) -> float:
    """How much of the full thread a hole leaves: (D − drill) ÷ 1.299·P, for 60° threads, metric and inch alike.

    >>> round(thread_share(8.0, 1.25, 6.75), 2)
    0.77
    """
    return (diameter - drill) / (1.5 * math.sqrt(3) / 2 * pitch)


class _SetDown(Outer):
    """A parallel end set down from a shoulder. Tools can't bite less than so much bar: what that makes too long is cut off again."""

    def drawn(self, place: Place) -> tuple[Blend, float]:
        """Section that is set down, and finished length, mm."""
        raise NoAnswer(f"{type(self).__name__} has no section.", "")

    def bitten(self, place: Place) -> float:
        """Shortest length of bar that the tools in force take hold of, mm."""
        return place.bite

    def made(self, place: Place) -> float:
        """Length as set down, mm: at least what the smallest bite makes."""
        blend, length = self.drawn(place)
        return max(length, self.bitten(place) * place.bar.area / blend.area)

    def surplus(self, place: Place) -> float:
        """Length that is cut off again, mm; less than a hair is none."""
        over = self.made(place) - self.drawn(place)[1]
        return over if over > _HAIR else 0.0

    def _cropped(self, place: Place) -> bool:
        """What is over is worth a cut; less than that goes when the end is filed true."""
        return self.surplus(place) >= _FILED

    def removed(self, place: Place) -> float:
        """What is cut off, mm³."""
        return self.surplus(place) * self.drawn(place)[0].area

    def bite_lines(self, place: Place) -> tuple[Line, ...]:
        """The bite in the sum, where it decides."""
        if not self.surplus(place):
            return ()
        text = "The smallest bite of {} makes {}: {} are " + ("cut off again" if self._cropped(place) else "filed off")
        return (say(text, self.bitten(place), self.made(place), self.surplus(place)),)

    def bite_checks(self, place: Place) -> tuple[Check, ...]:
        """That the bite decides."""
        if not self._cropped(place):
            return ()
        text = "{} of bar would do; the smallest bite of {} makes {} of it, and the {} over are cut off."
        wanted = self.drawn(place)[1] * self.drawn(place)[0].area / place.bar.area
        return (Check("note", say(text, wanted, self.bitten(place), self.made(place), self.surplus(place))),)

    def crop(self, place: Place) -> tuple[Operation, ...]:
        """Cutting off what is over."""
        if not self._cropped(place):
            return ()
        line = say("Cut {} off its end: {} stay from the shoulder.", self.surplus(place), self.drawn(place)[1])
        return (Operation("crop", line, "path", "time", 850, ("hardy", "hammer"), seconds=10.0),)


_HAIR, _FILED = 0.05, 1.0  # mm


@dataclass(frozen=True, kw_only=True)
class Tenon(_SetDown):
    """A shouldered end that goes through another part.

    Args:
        section: of the tenon.
        through: thickness it goes through, mm.
        upset: length that stands out to be riveted over, mm; 0 for a plain tenon.
        bite: smallest length of bar that the tools can take hold of, mm; 0 for the shop's.
        method: forged, or filed (turned too): what is taken off is lost.
    """

    kind: ClassVar[str] = "tenon"
    title: ClassVar[str] = "Tenon"
    also: ClassVar[tuple[str, ...]] = ("shouldered end", "riveted tenon", "peg", "pin", "spigot")
    section: Section = fields.section("Section", round_(8.0), tip="For example 8 rd or 8 sq.", mark="section")
    through: float = fields.length("Through", 12.0, mark="length", tip="Thickness of the part it goes through.")
    upset: float = fields.length("To rivet", 8.0, zero=True, tip="Stands out to be riveted over; about the tenon's own size. 0 for none.")
    bite: float = fields.length("Smallest bite", 0.0, empty=True, tip="the shop's")
    method: str = fields.choice("Made by", "forged", ("forged", "setting down"), ("filed", "filing or turning, cold"), late=6)

    @property
    def length(self) -> float:
        """Of the tenon from its shoulder, mm."""
        return self.through + self.upset

    @property
    def idle(self) -> frozenset[str]:
        """A file bites anywhere."""
        return frozenset({"bite"}) if self.method == "filed" else frozenset()

    def drawn(self, place: Place) -> tuple[Blend, float]:
        """Its section and its length."""
        return self.section.blend, self.length

    def bitten(self, place: Place) -> float:
        """mm, its own or the shop's; a file bites anywhere."""
        return 0.0 if self.method == "filed" else self.bite or place.bite

    def removed(self, place: Place) -> float:
        """What is cut off, or filed away all round, mm³."""
        if self.method == "filed":
            return (place.bar.area - self.section.area) * self.length
        return super().removed(place)

    def tip_first(self, place: Place) -> Shape:
        """A parallel end."""
        if self.section.area >= place.bar.area:
            raise NoAnswer("A tenon must be smaller than its bar, or there is no shoulder.", "Make it smaller, or choose a larger bar.")
        return Shape((Span(self.length, self.section.blend, self.section.blend),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """A·L ÷ the bar."""
        lines = [span_sum("Tenon", self.tip_first(place).spans[0], place.bar)]
        if self.method == "filed":
            lines.append(say("Filed away: {}, so it takes its own length of bar", Quantity(self.removed(place), "volume")))
        return (*lines, *self.bite_lines(place), stock_line(self, place))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A bite that decides; a rivet that is too short or too long."""
        found, d = list(self.bite_checks(place)), self.section.thickness
        if self.upset and not 0.7 * d <= self.upset <= 1.7 * d:
            text = "To rivet over, {} stand out of a tenon of {}: between 0.7 and 1.7 times its size makes a sound head."
            found.append(Check("warn", say(text, self.upset, d)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Set down to the shoulder, or file it."""
        if self.method == "filed":
            line = say(f"File or turn the end to {self.section.shape} {{}}, {{}} from its shoulder.", self.section.thickness, self.length)
            seconds = 20.0 + self.removed(place) / 8  # mm³ a second with a coarse file
            return (Operation("file", line, "whole", "time", 0, ("file", "vice", "callipers"), seconds=seconds, cold=True),)
        steps = (
            " Square, then octagon, then round; true the shoulder in a header." if self.section.shape == "round" else " True the shoulder."
        )
        line = say(
            f"Set the tenon down to {self.section.shape} {{}}, {{}} from its shoulder.{steps}", self.section.thickness, self.made(place)
        )
        tools = ("hammer", "set hammer or guillotine", "monkey tool or header", "callipers")
        blows = SHOULDER + finishing(self.section.shape, self.made(place))
        return (Operation.drawn("setdown", place.bar, line, tools, blows=blows), *self.crop(place))

    def summary(self) -> Line:
        """Section and length."""
        return say(f"{self.section.shape} {{}}, {{}} long", self.section.thickness, self.length)


@dataclass(frozen=True, kw_only=True)
class Thread(_SetDown):
    """A threaded end.

    Args:
        diameter: nominal, mm.
        pitch: mm; 25.4 ÷ threads per inch.
        length: of thread, mm.
        stack: what the bolt goes through, washer included, mm.
        nut: height of the nut, mm.
        bare: length from the shoulder that is set down but not threaded, mm.
    """

    kind: ClassVar[str] = "thread"
    title: ClassVar[str] = "Thread"
    also: ClassVar[tuple[str, ...]] = ("screw", "bolt end", "stud", "threaded tenon", "tap", "die")
    diameter: float = fields.length("Diameter", 8.0, mark="diameter", tip="Nominal: 8 mm for M8, 5/16 in.")
    pitch: float = fields.pitch("Pitch", 1.25, tip="M8 1.25; threads an inch as 16 tpi.")
    length: float = fields.length("Thread", 16.0, mark="length", tip="Length of full thread.")
    bare: float = fields.length("Bare shank", 0.0, zero=True, tip="Set down but not threaded, from the shoulder.")
    stack: float = fields.length("Stack", 6.0, zero=True, tip="All it goes through, washers included.")
    nut: float = fields.length("Nut", 6.5, zero=True, tip="Height of the nut; 0 for none.")

    def fitted(self, bar: Section) -> Self:
        """A thread of at most two thirds of the bar, of a size that dies are sold for where there is one."""
        most = bar.thickness * 2 / 3
        d, pitch = largest_thread(most)
        if d > most:
            d = max(2.0, float(math.floor(most)))
            pitch = d * pitch / 3
        ratio = d / 8
        return replace(self, diameter=d, pitch=round(pitch, 2), length=16 * ratio, nut=6.5 * ratio, stack=6 * ratio)

    def inched(self) -> Self:
        """Of a size that dies are sold for in inches, where the bar is no smaller than those."""
        diameter, pitch = largest_thread(self.diameter, inch=True)
        made = super().inched()
        return replace(made, diameter=diameter, pitch=pitch) if diameter < 1.1 * self.diameter else made

    def followed(self, before: Self) -> Self:
        """The pitch goes with the diameter, unless it was one that no die is sold for."""
        usual, now = pitches_of(before.diameter), pitches_of(self.diameter)
        series = next((i for i, pitch in enumerate(usual) if abs(pitch - before.pitch) < _DIE), -1)
        if self.pitch != before.pitch or self.diameter == before.diameter or series < 0 or not now:
            return self
        return replace(self, pitch=now[min(series, len(now) - 1)])

    def drawn(self, place: Place) -> tuple[Blend, float]:
        """The blank, bare shank included."""
        return (place.bar if self.on_bar(place) else round_(self.diameter)).blend, self.length + self.bare

    def on_bar(self, place: Place) -> bool:
        """The bar itself is the blank: round, and within a tenth of the pitch of the thread's diameter."""
        return place.bar.shape == "round" and abs(place.bar.width - self.diameter) <= max(0.1 * self.pitch, 1e-9)

    def bitten(self, place: Place) -> float:
        """mm; nothing is set down where the bar is the blank."""
        return 0.0 if self.on_bar(place) else place.bite

    def tip_first(self, place: Place) -> Shape:
        """Thread is cut in round blank of its nominal diameter; the blank is what counts."""
        if self.pitch >= self.diameter / 2:
            raise NoAnswer("The pitch is too coarse for that diameter.", "Use the pitch of the thread, not threads an inch.")
        if self.on_bar(place):
            return Shape((Span(self.length + self.bare, place.bar.blend, place.bar.blend),), (Straight(self.length + self.bare),))
        blank = round_(self.diameter)
        if blank.area >= place.bar.area:
            raise NoAnswer("The blank of that thread is larger than the bar.", "Choose a smaller thread, or a bar as thick as it.")
        length = self.length + self.bare
        return Shape((Span(length, blank.blend, blank.blend),), (Straight(length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Blank, tap drill, what stands out."""
        return (
            span_sum("Blank", self.tip_first(place).spans[0], place.bar),
            *self.bite_lines(place),
            say(
                "Tap drill for its nut: {} − {} = {}, a thread of {}",
                self.diameter,
                self.pitch,
                self.diameter - self.pitch,
                Quantity(thread_share(self.diameter, self.pitch, self.diameter - self.pitch), "percent"),
            ),
            say("Stands out of the stack: {} + {} − {} = {}", self.length, self.bare, self.stack, self.length + self.bare - self.stack),
            stock_line(self, place),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Too short for a full nut; thread that does not reach the stack."""
        found, out = list(self.bite_checks(place)), self.length + self.bare - self.stack
        if self.nut and out < self.nut + self.pitch:
            text = "Only {} stand out of the stack: a full nut of {} needs a thread more."
            found.append(Check("warn", say(text, out, self.nut)))
        if self.bare > self.stack and self.nut:
            found.append(Check("warn", say("The nut meets bare shank before it holds: thread {} more.", self.bare - self.stack)))
        usual = pitches_of(self.diameter)
        if usual and all(abs(self.pitch - pitch) > _DIE for pitch in usual):
            told = "{}" if len(usual) == 1 else "{} or {}"
            found.append(
                Check(
                    "note",
                    say(
                        f"That size is cut with a pitch of {told}: is there a die for {{}}?",
                        *(Quantity(p, "pitch") for p in (*usual, self.pitch)),
                    ),
                )
            )
        if self.diameter - self.pitch < 0.6 * self.diameter:
            found.append(Check("note", say("A coarse thread for this diameter: check the pitch.")))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Set down hot, thread cold."""
        line = say("Set down round to {} for {}. Square, then octagon, then round.", self.diameter, self.made(place))
        cut = say("Thread {} with a die, cold; oil, half a turn back for each turn.", self.length)
        tools = ("hammer", "swage", "callipers")
        forged = (
            ()
            if self.on_bar(place)
            else (
                Operation.drawn(
                    "setdown",
                    place.bar,
                    line,
                    tools,
                    blows=SHOULDER + finishing("round", self.made(place)),
                ),
                *self.crop(place),
            )
        )
        return (
            *forged,
            Operation("thread", cut, "whole", "time", 0, ("die and stock", "vice", "oil"), seconds=240.0, cold=True),
        )

    def summary(self) -> Line:
        """Diameter, pitch, length."""
        return say("{} × {}, {} long", self.diameter, Quantity(self.pitch, "pitch", bare=True), self.length)
