"""Flat things: base plates, bent strips, washers and nuts."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np

from long_ember import fields
from long_ember.arrays import Array
from long_ember.blanks.base import Blank, Outline, round_edge, slit
from long_ember.errors import NoAnswer
from long_ember.features import Check
from long_ember.features.base import USUAL_RULE
from long_ember.features.turning import bend_factor
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["BasePlate", "BentStrip", "Washer"]

# Round it, so that neighbours in the list meet at a corner.
_SIDES = (("front", "front"), ("right", "right"), ("back", "back"), ("left", "left"))


@dataclass(frozen=True, kw_only=True)
class BasePlate(Blank):
    """A plate something stands on.

    Args:
        form: round or square.
        size: diameter, or side, mm.
        thickness: of the plate, mm.
        carried: mass of what stands on it, g.
        height: of the middle of that mass over the plate, mm.
        off: how far that middle stands from the middle of the plate, mm.
        hole: in the middle, mm; 0 for none.
        bevelled: sides that are bevelled, of a square plate; any of them means all round on a round one.
        bevel: width of the bevels, mm.
        rim: thickness left at the edge, mm.
    """

    kind: ClassVar[str] = "base-plate"
    title: ClassVar[str] = "Base plate"
    also: ClassVar[tuple[str, ...]] = ("foot", "stand", "footprint", "candlestick base", "back plate")
    form: str = fields.choice("Form", "round", ("round", "round"), ("square", "square"))
    size: float = fields.length("Across", 120.0)
    thickness: float = fields.sheet("Plate", 6.0)
    carried: float = fields.number("Carries, g", 800.0, low=0.0, high=1e6, tip="Mass of all that stands on it.")
    height: float = fields.length("Its middle, high", 200.0, zero=True, tip="Centre of gravity of what it carries, over the plate.")
    off: float = fields.length("Its middle, off", 15.0, zero=True, tip="Sideways from the middle of the plate.")
    hole: float = fields.length("Hole", 8.0, zero=True)
    bevelled: tuple[str, ...] = fields.ticks("Bevelled", (), *_SIDES, tip="Filed or ground; round plates all round.")
    bevel: float = fields.length("Bevel width", 10.0)
    rim: float = fields.length("Left at the edge", 2.0)

    def cut_away(self) -> float:
        """A wedge along each bevelled side, less what two of them share at a corner: (t − rim)·b²/3; round: 2π(t − rim)(R·b/2 − b²/6). mm³."""
        if not self.bevelled:
            return 0.0
        deep, b = self.thickness - self.rim, self.bevel
        if deep <= 0 or 2 * b > self.size:
            raise NoAnswer(
                "The bevel leaves more at the edge than the plate has, or reaches past its middle.", "Make it narrower, or leave less."
            )
        if self.form == "round":
            return 2 * math.pi * deep * (self.size / 2 * b / 2 - b * b / 6)
        sides = [key for key, _words in _SIDES]
        on = [key in self.bevelled for key in sides]
        corners = sum(on[i] and on[i - 1] for i in range(len(on)))
        return deep * b * (sum(on) * self.size / 2 - corners * b / 3)

    def _marks(self) -> tuple[Array, ...]:
        """Where the bevels begin: lines along the sides, from corner to corner or to the mitre."""
        if not self.bevelled or self.form == "round":
            return (round_edge(self.size - 2 * self.bevel),) if self.bevelled else ()
        half, b = self.size / 2, self.bevel
        on = {key: key in self.bevelled for key, _words in _SIDES}
        low, high = -half + b, half - b
        x0, x1 = low if on["left"] else -half, high if on["right"] else half
        y0, y1 = low if on["front"] else -half, high if on["back"] else half
        ends = {"front": (x0, low, x1, low), "back": (x0, high, x1, high), "left": (low, y0, low, y1), "right": (high, y0, high, y1)}
        return tuple(slit(*ends[key]) for key in ends if on[key])

    def outline(self) -> Outline:
        """A circle or a square with its hole."""
        self.cut_away()
        if self.hole >= self.size:
            raise NoAnswer("The hole is as large as the plate.", "Make it smaller.")
        half = self.size / 2
        edge = round_edge(self.size) if self.form == "round" else np.array([(-half, -half), (half, -half), (half, half), (-half, half)])
        return Outline(edge, (round_edge(self.hole),) if self.hole else (), marks=self._marks())

    def tipping(self, density: float) -> tuple[float, float]:
        """Angle at which it tips, degrees, and the sideways force at the carried middle that tips it, N.

        Plate and load balance about the nearest edge; the load is off toward that edge.
        """
        plate = (self.outline().area * self.thickness - self.cut_away()) * density
        total, edge = plate + self.carried, self.size / 2
        centre = self.carried * self.off / total
        level = (plate * self.thickness / 2 + self.carried * (self.thickness + self.height)) / total
        left = edge - centre
        angle = math.degrees(math.atan2(left, level))
        push = total * 1e-3 * 9.80665 * left / max(self.height + self.thickness, 1e-9)
        return angle, push

    def words(self) -> tuple[Line, ...]:
        """How far it leans before it falls, in steel."""
        angle, push = self.tipping(7.85e-3)
        text = "Tips when leaned {}; a push of {} at the middle of its load tips it (steel plate)"
        return (say(text, Quantity(angle, "angle"), Quantity(push, "force")),)

    def checks(self) -> tuple[Check, ...]:
        """Too easily tipped."""
        angle, _push = self.tipping(7.85e-3)
        caution = Check(
            "note", say("With fire or glass on it, over people or within a child's reach, ask more of it than this sum."), caution=True
        )
        if angle < 0:
            return Check("warn", say("It falls by itself: the load stands beyond the edge.")), caution
        if angle < 15:
            return Check("warn", say("It tips at {}: widen the plate, or bring the load down or in.", Quantity(angle, "angle"))), caution
        return (caution,)

    def steps(self) -> tuple[Line, ...]:
        """Flat first."""
        return (say("Cut, dress the edge, chamfer or texture; flatten last, so that it stands on its rim and not on its middle."),)


@dataclass(frozen=True, kw_only=True)
class BentStrip(Blank):
    """A strip with bends, given by its outside legs: brackets, straps, boxes' sides.

    Args:
        width: of the strip, mm.
        thickness: of the sheet, mm.
        legs: outside legs from bend to bend, separated by semicolons.
        radius: inside radius of each bend, mm.
        angle: of each bend, degrees.
    """

    kind: ClassVar[str] = "bent-strip"
    title: ClassVar[str] = "Bent strip"
    also: ClassVar[tuple[str, ...]] = ("bracket", "strap", "channel", "box side", "hinge strap", "clip")
    width: float = fields.length("Width", 30.0)
    thickness: float = fields.sheet("Sheet", 3.0)
    legs: str = fields.text("Outside legs, mm", "40; 60; 40")
    radius: float = fields.length("Inside radius", 4.0, zero=True)
    angle: float = fields.angle("Each bend", 90.0, low=5.0, high=150.0)

    def lengths(self) -> list[float]:
        """Outside legs, mm."""
        try:
            found = [float(part) for part in self.legs.split(";")]
        except ValueError:
            raise NoAnswer("The legs can't be read.", "Write them in mm, separated by semicolons: 40; 60; 40") from None
        if not found or min(found) <= 0 or not all(math.isfinite(v) for v in found):
            raise NoAnswer("Every leg has a length.", "Write them in mm, separated by semicolons: 40; 60; 40")
        return found

    def arc(self) -> float:
        """Length bent at each bend, on the line that keeps its length, mm."""
        k = bend_factor(USUAL_RULE, self.radius, self.thickness)
        return math.radians(self.angle) * (self.radius + k * self.thickness)

    def setback(self) -> float:
        """From the outside corner to where the bend begins, mm."""
        return (self.radius + self.thickness) * math.tan(math.radians(self.angle) / 2)

    def flats(self) -> list[float]:
        """Straight parts between the bends, mm."""
        legs, back = self.lengths(), self.setback()
        found = []
        for i, leg in enumerate(legs):
            ends = (i > 0) + (i < len(legs) - 1)
            found.append(leg - ends * back)
        if min(found) <= 0:
            raise NoAnswer("A leg is shorter than its bends.", "Lengthen it, or make the radius smaller.")
        return found

    def outline(self) -> Outline:
        """A strip with its bend lines, each in the middle of its bend."""
        flats, arc, at = self.flats(), self.arc(), 0.0
        bends = []
        for flat in flats[:-1]:
            at += flat + arc / 2
            bends.append(slit(at, 0.0, at, self.width))
            at += arc / 2
        total = at + flats[-1]
        return Outline(np.array([(0.0, 0.0), (total, 0.0), (total, self.width), (0.0, self.width)]), bends=tuple(bends))

    def words(self) -> tuple[Line, ...]:
        """Flats, bends, total, bend lines."""
        flats, arc = self.flats(), self.arc()
        lines = [say("Each bend takes {} of strip, from {} before its outside corner", arc, self.setback()),
                 say("Length: {} of flats + {} bends of {} = {}", math.fsum(flats), Quantity(len(flats) - 1, "number"), arc,
                     math.fsum(flats) + arc * (len(flats) - 1))]  # fmt: skip
        lines.extend(say("Bend line at {}", float(b[0, 0])) for b in self.outline().bends)
        return tuple(lines)

    def checks(self) -> tuple[Check, ...]:
        """Radius under the thickness."""
        if self.radius < self.thickness:
            text = "Bent cold round less than its thickness of {} sheet cracks along the bend: bend hot, or across the grain."
            return (Check("note", say(text, self.thickness)),)
        return ()

    def steps(self) -> tuple[Line, ...]:
        """From one end."""
        return (say("Scribe the bend lines on the inside; bend from the middle outwards where the vice allows it."),)


@dataclass(frozen=True, kw_only=True)
class Washer(Blank):
    """A washer or nut made from flat bar.

    Args:
        hole: finished hole, mm; for a nut the tap drill.
        bar: width of the flat bar, mm.
        thickness: mm.
        margin: bar beyond the hole at each end, mm; 0 makes it square.
        thread: pitch when it is tapped, mm; 0 for a washer.
        drift: drifted hot from a punched hole, or drilled.
    """

    kind: ClassVar[str] = "washer"
    title: ClassVar[str] = "Washer or nut"
    also: ClassVar[tuple[str, ...]] = ("rove", "square nut", "back nut", "rivet washer", "burr")
    hole: float = fields.length("Hole", 8.4, tip="For a nut, the size of its bolt.")
    bar: float = fields.length("Bar width", 22.0)
    thickness: float = fields.length("Thickness", 5.0)
    margin: float = fields.length("End margin", 0.0, zero=True, tip="Bar beyond the hole at each end; 0 makes it square.")
    thread: float = fields.length("Pitch", 0.0, zero=True, tip="Pitch of the thread; 0 for a washer.")
    drift: str = fields.choice("Hole", "drifted", ("drifted", "punched and drifted"), ("drilled", "drilled"))

    def bore(self) -> float:
        """Hole before any tapping: D − P for a nut, mm."""
        return self.hole - self.thread

    def outline(self) -> Outline:
        """A rectangle with its hole."""
        if self.bore() <= 0 or self.bore() >= self.bar:
            raise NoAnswer("The hole leaves nothing of the bar, or the pitch nothing of the hole.", "Change hole, pitch or bar.")
        length = self.bore() + 2 * self.margin if self.margin else self.bar
        if length <= self.bore():
            raise NoAnswer("The hole is longer than the piece.", "Give it an end margin.")
        x, y = length / 2, self.bar / 2
        return Outline(np.array([(-x, -y), (x, -y), (x, y), (-x, y)]), (round_edge(self.bore()),))

    def words(self) -> tuple[Line, ...]:
        """Walls and tap drill."""
        wall = say(
            "Wall beside the hole: ({} − {})/2 = {}",
            Quantity(self.bar, "decimal"),
            Quantity(self.bore(), "decimal"),
            (self.bar - self.bore()) / 2,
        )
        if not self.thread:
            return (wall,)
        return wall, say("Tap drill: {} − {} = {}", Quantity(self.hole, "decimal"), Quantity(self.thread, "decimal"), self.bore())

    def checks(self) -> tuple[Check, ...]:
        """Thin walls, thin nuts."""
        found = []
        if (self.bar - self.bore()) / 2 < 0.4 * self.bore():
            found.append(Check("warn", say("Only {} of wall beside the hole: it spreads or tears.", (self.bar - self.bore()) / 2)))
        if self.thread and self.thickness < 0.8 * self.hole:
            text = "A nut of {} on a thread of {} holds less than its bolt: 0.8 of the diameter is a full nut."
            found.append(Check("warn", say(text, self.thickness, self.hole)))
        return tuple(found)

    def steps(self) -> tuple[Line, ...]:
        """Punch, drift, square again, tap."""
        if self.drift == "drilled":
            hot: tuple[Line, ...] = (say("Centre pop, drill {}, cold.", self.bore()),)
        else:
            hot = (say("Punch and drift a little over {} while it is still on the bar.", self.bore()),
                   say("Square it up on the flat again: that closes the hole to {}.", self.bore()))  # fmt: skip
        tap = (say("Run the drill through for size, then tap with oil, cold."),) if self.thread else ()
        return (*hot, *tap, say("Cut it off last: the bar is its own handle."))
