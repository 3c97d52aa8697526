"""The guide's chapter on shapes: every kind with its names and a worked number, written by the arithmetic itself; the counts in the README."""

from __future__ import annotations

import re

from long_ember.blanks import BLANKS
from long_ember.features import KINDS, Outer, Place, checks_of, feature_sum
from long_ember.materials import MATERIALS
from long_ember.sections import Section, square
from long_ember.units import Measure

__all__ = ["BEGIN", "END", "counted", "worked_chapter"]

BEGIN, END = "<!-- worked numbers: written by ./ember guide -->", "<!-- end of worked numbers -->"
_BAR = square(12.0)


def worked_chapter() -> str:
    """Markdown between `BEGIN` and `END`."""
    rows = [BEGIN, "", f"All from {_label(_BAR)} with the sizes each shape starts with; the sum is the one the screen shows.", ""]
    for kind in KINDS:
        rows.extend(_shape(kind))
    rows.extend(("### Sheet and plate", ""))
    for cls in BLANKS.values():
        blank = cls()
        rows.append(f"**{cls.title}** ({', '.join(cls.also)}):")
        rows.extend(f"- {line.show(Measure())}" for line in blank.sum_lines(MATERIALS["mild-steel"].density))
        rows.append("")
    rows.append(END)
    return "\n".join(rows)


def counted(text: str) -> str:
    """`text` with what stands between `<!--shapes-->` (or `blanks`, `materials`) and `<!---->` counted anew.

    >>> counted("<!--blanks-->no<!----> of sheet")
    '<!--blanks-->5<!----> of sheet'
    """
    counts = {"shapes": len(KINDS), "blanks": len(BLANKS), "materials": len(MATERIALS)}
    return re.sub(r"(<!--(\w+)-->).*?(<!---->)", lambda found: f"{found[1]}{counts[found[2]]}{found[3]}", text)


def _label(bar: Section) -> str:
    return bar.label(Measure())


def _shape(kind: str) -> list[str]:
    cls, measure = KINDS[kind], Measure()
    feature = cls(id="x").fitted(_BAR)
    place = Place(_BAR, isinstance(feature, Outer), False)
    rows = [f"**{cls.title}** ({', '.join(cls.also)}):"]
    rows.extend(f"- {line.show(measure)}" for line in feature_sum(feature, place))
    rows.extend(f"- *{check.line.show(measure)}*" for check in checks_of(feature, place))
    return [*rows, ""]
