"""What is said of bars and sheets that are cut."""

from __future__ import annotations

from long_ember.cutting import SheetPlan
from long_ember.jobs.cut_layout import BarLayout
from long_ember.units import MM_PER, Measure

__all__ = ["area_words", "bar_words", "saw_words", "sheet_words"]


def bar_words(lay: BarLayout, m: Measure) -> str:
    """Where a bar comes from and what is left of it."""
    end = "back to the rack" if lay.keep else "waste"
    if lay.over:
        return f"{lay.bar.source}, {m.length(lay.bar.length)}: its pieces are {m.length(lay.over)} too long for it"
    return f"{lay.bar.source}, {m.length(lay.bar.length)}; {m.length(lay.left)} left, {end}"


def area_words(area: float, m: Measure) -> str:
    """An area of sheet, mm², as sheet is bought."""
    return f"{area * 1e-6:.3f} m²" if m.unit == "mm" else f"{area / (12 * MM_PER['in']) ** 2:.2f} ft²"


def saw_words(lay: BarLayout, m: Measure) -> str:
    """Where to cut, from one end: first what is forged on the bar and parted off it, then the saw."""
    unit = "mm" if m.unit == "mm" else "inches"
    held, sawn = ([m.length(c.stop, bare=True) for c in lay.cuts if c.cut.held == on_bar] for on_bar in (True, False))
    words = [f"Forge on the bar, part off at {', '.join(held)}"] if held else []
    words += [f"{'then saw' if held else 'Saw'} at {', '.join(sawn)}"] if sawn else []
    return f"{'; '.join(words)} {unit} from the end, on the far side of the line."


def sheet_words(one: SheetPlan, m: Measure) -> str:
    """Where a sheet comes from and what of it stays whole."""
    return f"{one.sheet.name}, {m.length(one.sheet.length)} by {m.length(one.sheet.width)}; {m.length(one.rest)} of it stays whole"
