"""Show quantities: the same stored millimetres as metric figures or as inch fractions."""

from __future__ import annotations

import math
from dataclasses import replace
from fractions import Fraction

from long_ember.frozen import dataclass

__all__ = ["Line", "Measure", "Quantity", "many", "one", "say"]

_BY_EYE = 5.0  # mm
_SCANT = 0.0005  # inch; a fraction nearer than this is exact for a smith


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number with its dimension, shown in whatever unit the reader prefers.

    Args:
        value: mm, mm², mm³, degrees, g, °C or s, by dimension.
        dimension: one of length, by_eye, entry, torque, fine, decimal, area, volume, angle, number, mass, temperature, seconds, percent, turns, cubes, pitch.
        bare: leave the unit out, inside a sum whose last term states it.
    """

    value: float
    dimension: str = "length"
    bare: bool = False


@dataclass(frozen=True, slots=True)
class Line:
    """A sentence with quantities in it, worded once and shown in any unit."""

    text: str
    values: tuple[Quantity, ...] = ()

    def show(self, measure: Measure) -> str:
        """The sentence with its numbers filled in."""
        return self.text.format(*(measure.show(value) for value in self.values))


def say(text: str, *values: Quantity | float) -> Line:
    """A `Line`; plain numbers are lengths in mm."""
    return Line(text, tuple(v if isinstance(v, Quantity) else Quantity(float(v)) for v in values))


def own_words(text: str) -> str:
    """Somebody's own words as part of the text of a `Line`: no brace in them is a place for a quantity.

    >>> say(own_words("{as it is}")).show(Measure())
    '{as it is}'
    """
    return text.replace("{", "{{").replace("}", "}}")


def many(number: int, noun: str) -> str:
    """A number with its noun.

    >>> many(1, "bar"), many(3, "bar")
    ('1 bar', '3 bars')
    """
    return f"{number} {noun}{'' if number == 1 else 's'}"


def one(noun: str) -> str:
    """A noun with its article.

    >>> one("eye"), one("taper"), one("one-sided taper")
    ('an eye', 'a taper', 'a one-sided taper')
    """
    return f"{'an' if noun[:1].lower() in 'aeiou' and not noun.startswith('one') else 'a'} {noun}"


@dataclass(frozen=True, slots=True)
class Measure:
    """How to show numbers.

    Args:
        unit: "mm" or "in".
        denominator: finest inch fraction, 16, 32 or 64.
        decimals: of a length in mm.
        ascii: plain characters, for the terminal, files and entry fields.
    """

    unit: str = "mm"
    denominator: int = 16
    decimals: int = 1
    ascii: bool = False

    def show(self, quantity: Quantity) -> str:
        """Any quantity in this measure."""
        return str(getattr(self, quantity.dimension)(quantity.value, bare=quantity.bare))

    def length(self, mm: float, *, bare: bool = False) -> str:
        """A length; an inch fraction says by a trailing + or − that the true length is more or less.

        >>> Measure('in', ascii=True).length(84)
        '3 5/16 in -'
        """
        if self.unit == "mm":
            return _number(mm, self.decimals) + ("" if bare else " mm")
        return self._inches(mm, bare)

    def about(self, mm: float, *, up: bool = True) -> str:
        """A length that is judged by eye, in a fire or a hand: in steps of 5 mm or 1/4 in, up or down.

        >>> Measure().about(79.2), Measure().about(79.2, up=False), Measure().about(80.0), Measure("in", ascii=True).about(79.2)
        ('80 mm', '75 mm', '80 mm', '3 1/4 in')
        """
        step = _BY_EYE if self.unit == "mm" else 25.4 / 4
        steps = math.ceil(mm / step - _SCANT) if up else math.floor(mm / step + _SCANT)
        return self.entry(steps * step) if steps else self.length(mm)

    def by_eye(self, mm: float, *, bare: bool = False) -> str:
        """So much of a length at least, in the same steps.

        >>> Measure().by_eye(79.2), Measure().by_eye(3.1)
        ('75 mm', '3.1 mm')
        """
        return self.about(mm, up=False)

    def rounded(self, mm: float) -> float:
        """A length as it is shown, mm: what is marked by running lengths so rounded has chain lengths that add up.

        >>> Measure().rounded(12.34), round(Measure("in").rounded(84) / 25.4 * 16, 6)
        (12.3, 53.0)
        """
        if self.unit == "mm":
            return round(mm, self.decimals)
        return math.copysign(math.floor(abs(mm) / 25.4 * self.denominator + 0.5) * 25.4 / self.denominator, mm)

    def fine(self, mm: float, *, bare: bool = False) -> str:
        """A fit or a wall: hundredths of a mm, thousandths of an inch.

        >>> Measure().fine(2.345), Measure("in").fine(2.345)
        ('2.35 mm', '0.092″')
        """
        if self.unit == "mm":
            return f"{mm:.2f}" + ("" if bare else " mm")
        return f"{mm / 25.4:.3f}" + ("" if bare else " in" if self.ascii else "″")

    def _inches(self, mm: float, bare: bool) -> str:
        steps = math.floor(abs(mm) / 25.4 * self.denominator + 0.5)
        shown = Fraction(steps, self.denominator)
        excess = abs(mm) / 25.4 - float(shown)
        sign = "" if abs(excess) < _SCANT else (" +" if excess > 0 else (" -" if self.ascii else " −"))
        mark = "" if bare else (" in" if self.ascii else "″")
        return ("-" if mm < 0 and shown else "") + self._fraction(shown) + mark + sign

    def _fraction(self, value: Fraction) -> str:
        whole, part = divmod(value, 1)
        if not part:
            return str(whole)
        slash = "/" if self.ascii else "\u2044"
        text = f"{part.numerator}{slash}{part.denominator}"
        return f"{whole} {text}" if whole else text

    def entry(self, mm: float, *, bare: bool = False) -> str:
        """An exact length, such as a ruler's division, without a rounding sign."""
        return self.edit_text(mm) if self.ascii else self.edit_text(mm).replace("/", "\u2044").replace(" in", "″")

    def area(self, mm2: float, *, bare: bool = False) -> str:
        """An area, mm² or in²."""
        return self._power(mm2, 2, bare)

    def volume(self, mm3: float, *, bare: bool = False) -> str:
        """A volume, mm³ or in³."""
        return self._power(mm3, 3, bare)

    def _power(self, value: float, power: int, bare: bool) -> str:
        mark = "²³"[power - 2]
        if self.unit == "in":
            return f"{value / 25.4**power:.4f}" + ("" if bare else f" in{mark}")
        digits = 2 if abs(value) < 1000 else 0
        return _number(value, digits) + ("" if bare else f" mm{mark}")

    def decimal(self, mm: float, *, bare: bool = True) -> str:
        """A length inside a sum: decimal mm or decimal inches, without the unit."""
        return _number(mm, 2) if self.unit == "mm" else _number(mm / 25.4, 3)

    def pitch(self, mm: float, *, bare: bool = False) -> str:
        """The pitch of a thread, mm; threads an inch where it is a whole number of them.

        >>> Measure().pitch(1.75), Measure("in").pitch(25.4 / 13)
        ('1.75 mm', '13 tpi')
        """
        count = 25.4 / mm if mm else 0.0
        if self.unit == "in" and count >= 1 and abs(count - round(count)) < 1e-3:
            return f"{round(count)} tpi"
        return self.decimal(mm) + ("" if bare else f" {self.unit}")

    def mass(self, grams: float, *, bare: bool = False) -> str:
        """A mass, g and kg or oz and lb."""
        if self.unit == "in":
            ounces = grams / 28.349523125
            return f"{ounces:.1f} oz" if ounces < 16 else f"{ounces / 16:.2f} lb"
        return f"{grams:.0f} g" if grams < 1000 else f"{grams / 1000:.2f} kg"

    def line_mass(self, grams: float) -> str:
        """A mass a length, from grams a millimetre: kg/m or lb/ft."""
        return f"{grams:.2f} kg/m" if self.unit == "mm" else f"{grams / 453.59237 * 304.8:.2f} lb/ft"

    def angle(self, degrees: float, *, bare: bool = False) -> str:
        """An angle in degrees."""
        return _number(degrees, 1) + "°"

    def number(self, value: float, *, bare: bool = False) -> str:
        """A plain number, up to three decimals."""
        return _number(value, 3)

    def turns(self, value: float, *, bare: bool = False) -> str:
        """Turns of a twist or scroll; a part of one in quarters, where it is.

        >>> Measure(ascii=True).turns(0.25), Measure().turns(1.5), Measure().turns(1 / 3)
        ('1/4 turn', '1.5 turns', '0.333 turn')
        """
        part = Fraction(value).limit_denominator(4) if 0 < value < 1 else Fraction(0)
        shown = self._fraction(part) if part and abs(part - value) < 1e-9 and part.denominator != 3 else _number(value, 3)
        return shown + (" turn" if 0 < value <= 1 else " turns")

    def cubes(self, value: float, *, bare: bool = False) -> str:
        """Multiples of the bar's thickness, to a tenth."""
        return _number(value, 1)

    def percent(self, fraction: float, *, bare: bool = False) -> str:
        """A fraction of 1 as per cent."""
        return _number(fraction * 100, 1) + " %"

    def seconds(self, value: float, *, bare: bool = False) -> str:
        """A short time in whole seconds."""
        return f"{value:.0f} s"

    def minutes(self, seconds: float, *, bare: bool = False) -> str:
        """A longer time, given in seconds.

        >>> Measure().minutes(5400)
        '1 h 30 min'
        """
        if seconds < 90:
            return self.seconds(seconds)
        hours, minutes = divmod(round(seconds / 60), 60)
        return f"{hours} h {minutes:02d} min" if hours else f"{minutes} min"

    def force(self, newton: float, *, bare: bool = False) -> str:
        """A force to two figures, N or lbf.

        >>> Measure().force(160.3), Measure("in").force(160.3)
        ('160 N', '36 lbf')
        """
        value, unit = (newton, "N") if self.unit == "mm" else (newton / 4.4482216, "lbf")
        return f"{float(f'{value:.2g}'):.0f} {unit}"

    def torque(self, newton_metre: float, *, bare: bool = False) -> str:
        """A torque to two figures, N·m or lbf·ft.

        >>> Measure().torque(98.4), Measure("in").torque(98.4)
        ('98 N·m', '73 lbf·ft')
        """
        value, unit = (newton_metre, "N·m") if self.unit == "mm" else (newton_metre / 1.3558179, "lbf·ft")
        return f"{float(f'{value:.2g}'):.0f} {unit}"

    def temperature(self, celsius: float, *, bare: bool = False) -> str:
        """A temperature; inch shops read Fahrenheit."""
        return f"{celsius:.0f} °C" if self.unit == "mm" else f"{celsius * 1.8 + 32:.0f} °F"

    def edit_text(self, mm: float) -> str:
        """A length as a person would type it: reading it back gives the same length to 0.001 mm.

        What is no fraction that is marked is given in mm, and in brackets the nearest one.

        >>> Measure('in').edit_text(12.7), Measure('in', ascii=True).edit_text(12)
        ('1/2 in', '12 mm (15/32 +)')
        """
        if self.unit == "mm":
            return _number(mm, 3) + " mm"
        exact = Fraction(math.floor(mm / 25.4 * 64 + 0.5), 64)
        if abs(float(exact) * 25.4 - mm) < 1e-6:
            return replace(self, ascii=True)._fraction(exact) + " in"
        near = replace(self, ascii=True, denominator=32 if mm > 3 else 64)
        fraction = Fraction(math.floor(mm / 25.4 * near.denominator + 0.5), near.denominator)
        sign = ("+" if mm / 25.4 > fraction else "-") if self.ascii else ("+" if mm / 25.4 > fraction else "−")
        return f"{_number(mm, 3)} mm ({near._fraction(fraction)} {sign})"


def _number(value: float, digits: int) -> str:
    text = f"{value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text == "-0" else text
