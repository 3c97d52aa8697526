"""Heat treatment of steels that harden: normalise, harden, temper. Where the grade is not known: a coupon, not a number."""

from __future__ import annotations

import math

from long_ember.features import HARDENED_FOR, Piece
from long_ember.frozen import dataclass
from long_ember.geometry import stage_shape
from long_ember.geometry.stages import DONE
from long_ember.physics import band, soak, temper
from long_ember.physics.cooling_tables import DENSITY
from long_ember.stock import Reckoning
from long_ember.units import Line, Quantity, say

__all__ = ["TREATMENTS", "Stage", "Treatment", "quench_seconds", "treatment", "working_end"]


@dataclass(frozen=True, slots=True)
class Treatment:
    """How a steel is hardened; middle figures of its class, its maker's sheet goes before them.

    Args:
        normalise: °C.
        cycles: times it is normalised after forging.
        harden: °C.
        medium: oil, water or air.
        usual: what it is usually hardened for, see `HARDENED_FOR`.
        shift: °C that its tempers lie above those of plain carbon steel, which `HARDENED_FOR` and the colours are made for.
        source: where the figures come from.
    """

    normalise: float
    cycles: int
    harden: float
    medium: str
    usual: str
    shift: float
    source: str


TREATMENTS = {
    "medium-carbon": Treatment(860, 1, 840, "oil", "tough", 0, "EN 10083-2, C45: 820 to 860 °C, oil or water; tempers lower for tools"),
    "high-carbon": Treatment(820, 3, 790, "oil", "struck", 0, "EN ISO 4957, C90U: 760 to 790 °C water, somewhat hotter in oil"),
    "spring-steel": Treatment(870, 2, 870, "oil", "spring", 140, "EN 10089, silicon spring grades: 850 to 880 °C, tempered 400 to 460 °C"),
}
_H = {"oil": 1200.0, "water": 4000.0}  # W/m²K, middle figures of quenching; moved about, not still
_WORKED = 50.0  # mm from the tip that are hardened on a tool
_LAID_ON = 4  # of `Feature.keen`: it decides where there is any
_PIERCES = 2  # of `Feature.keen`, from which an end is a working end beyond doubt


@dataclass(frozen=True, slots=True)
class Stage:
    """One stage of a treatment.

    Args:
        key: normalise, harden, temper, coupon or sheet.
        title: in a word or two.
        line: what to do, with numbers.
        hot: °C, 0 where none is given.
        seconds: until it is over.
        cautions: that belong to it.
    """

    key: str
    title: str
    line: Line
    hot: float
    seconds: float
    cautions: tuple[str, ...] = ()


_OIL = (
    "Quench oil burns: a metal tank with a lid, outdoors or under a hood, never above 60 °C, no water in it, tongs that reach.",
    "Put the steel all the way under at once: half in, it lights the oil.",
)
_GLASS = "Hardened and not tempered it is like glass: do not drop or strike it, and temper at once."


def working_end(piece: Piece, reckoning: Reckoning) -> str:
    """Return the end that is hardened: A, B, both or whole.

    It is the one that cuts, strikes through or has steel laid on, not the one that is struck; both where both
    cut; of two that do neither the thinner one.
    """
    chosen = piece.planning.working
    if chosen != "thin" or not reckoning.zones:
        return chosen if chosen != "thin" else "whole"
    keen = {end: _keenness(reckoning, end) for end in "AB"}
    if min(keen.values()) >= _PIERCES and (max(keen.values()) < _LAID_ON or keen["A"] == keen["B"]):
        return "both"
    if keen["A"] != keen["B"]:
        return "A" if keen["A"] > keen["B"] else "B"
    first, last = (stage_shape(z.feature, z.place, DONE) for z in (reckoning.zones[0], reckoning.zones[-1]))
    return "A" if first.spans[0].start.area <= last.spans[-1].end.area else "B"


def _keenness(reckoning: Reckoning, end: str) -> int:
    """Return how surely an end is the tool's, by what stands there; less than 0 where it is struck."""
    at_end = reckoning.zones[0 if end == "A" else -1]
    low, high = (0.0, at_end.end) if end == "A" else (at_end.start, reckoning.cut)
    found = [at_end.feature, *(z.feature for z in reckoning.standing if low <= (z.start + z.end) / 2 <= high)]
    keen = max(f.keen for f in found)
    return -1 if at_end.feature.struck and keen < _PIERCES else keen


def quench_seconds(thickness: float, harden: float, medium: str) -> float:
    """Seconds in the quench until it can be touched: ρ·(A/P)·c·ln(ΔT ratio)/h of a square bar, c = 600 J/kgK.

    >>> round(quench_seconds(12, 790, "oil"))
    35
    """
    kept = DENSITY * thickness / 4 * 1e-3 * 600
    return kept / _H[medium] * math.log((harden - 40) / (80 - 40))


def treatment(piece: Piece, reckoning: Reckoning) -> tuple[Stage, ...]:
    """What follows the forging: nothing where the steel does not harden or is not to be hardened."""
    steel = piece.steel
    if steel.hardening in ("none", ""):
        return ()
    if steel.hardening == "unknown":
        text = (
            "Test a coupon: harden a strip of the same bar from just above non-magnetic, in oil; file it, break it. If the file skates, temper"
            " strips by colour and break those. Only then the piece."
        )
        return (Stage("coupon", "Coupon", say(text), 0.0, 1800.0, (*_OIL, _GLASS)),)
    found = TREATMENTS.get(steel.key)
    if found is None:
        what = "Age" if steel.hardening == "age" else "Harden and temper"
        line = say(f"{what} by the maker's sheet of the very grade: temperatures, soak and cooling differ too much for a number here.")
        return (Stage("sheet", "By its sheet", line, 0.0, 3600.0),)
    purpose = found.usual if piece.planning.purpose == "usual" else piece.planning.purpose
    if purpose == "none":
        return (_normalised(found, found.cycles),)
    return _normalised(found, found.cycles), _hardened(piece, reckoning, found), _tempered(found, purpose)


def _normalised(found: Treatment, cycles: int) -> Stage:
    times = "once" if cycles == 1 else f"{cycles} times, each a little cooler than the last"
    text = (
        f"Normalise {times}: evenly to about {{}} ({band(found.normalise).word}), then still air until it is black. Never in the draught."
    )
    return Stage("normalise", "Normalise", say(text, Quantity(found.normalise, "temperature")), found.normalise, 600.0 * cycles)


def _hardened(piece: Piece, reckoning: Reckoning, found: Treatment) -> Stage:
    end, thick = working_end(piece, reckoning), piece.bar.thickness
    where, values = "the whole piece", list[Quantity | float]()
    if end in ("A", "B"):
        where, values = f"the last {{}} of end {end}", [_WORKED]
    elif end == "both":
        where, values = "the last {} of end A, then those of end B with the first kept cool in a wet rag", [_WORKED]
    text = (
        f"Harden {where}: evenly to about {{}} ({band(found.harden).word}, a magnet no longer holds), soak {{}}. Thin points go into the fire last,"
        f" so that they do not burn, and come last to heat. Into {found.medium}{' at 50 °C' if found.medium == 'oil' else ''}, point first, all of it under and"
        " upright, moving up and down, about {} until it can be touched."
    )
    quench = quench_seconds(thick, found.harden, found.medium)
    line = say(text, *values, Quantity(found.harden, "temperature"), Quantity(60 + soak(thick), "minutes"), Quantity(quench, "seconds"))
    return Stage("harden", "Harden", line, found.harden, 60 + soak(thick) + quench + 300, (*_OIL, _GLASS))


def _tempered(found: Treatment, purpose: str) -> Stage:
    words, warm = HARDENED_FOR[purpose]
    warm += found.shift
    colour = (
        f"{temper(warm).word}, ± 10 °C; sun and lamp mislead, polish a stripe" if not found.shift else "colours do not tell it: an oven"
    )
    text = (
        f"Temper at once, for {words}: {{}} ({colour}). Two hours in an oven, twice; over the fire let the colour run from the thick part."
    )
    return Stage("temper", "Temper", say(text, Quantity(warm, "temperature")), warm, 4 * 3600.0, (_GLASS,))
