"""Each table: what it is for, its columns, its rows in the reader's unit, where its figures come from."""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction

from long_ember.features import BendRule
from long_ember.features.base import USUAL_RULE
from long_ember.features.taper import thinning
from long_ember.features.tenon import thread_share
from long_ember.features.threads import COARSE_IN, COARSE_MM, FINE_IN, FINE_MM
from long_ember.features.turning import Depth, on_arc
from long_ember.frozen import dataclass
from long_ember.materials import MATERIALS
from long_ember.physics import BANDS, TEMPERS, glow
from long_ember.sections import Blend, hexagon, octagon, round_, square
from long_ember.tables.drills import DRILLS, drill_near, drill_words
from long_ember.units import GAUGES, Measure

__all__ = ["WALL_TABLES", "Setting", "Table", "table_of", "tables_with"]


@dataclass(frozen=True)
class Setting:
    """What some tables are made for; the shop's and the piece's own where there is a piece on the bench.

    Args:
        measure: how numbers are shown.
        material: key of `MATERIALS`.
        rule: for bends.
        taper: sections at the thin and the thick end, and length in mm, of the taper whose stations are told.
        stations: of that taper, beside its ends.
    """

    measure: Measure
    material: str = "mild-steel"
    rule: BendRule = USUAL_RULE
    taper: tuple[Blend, Blend, float] = (Blend(3.0, 3.0, 1.0), Blend(12.0, 12.0, 1.0), 90.0)
    stations: int = 4


@dataclass(frozen=True)
class Table:
    """A table.

    Args:
        key: name on the command line.
        title: what it is called.
        words: other words that find it.
        note: how it is used, and where its figures come from.
        columns: heading, share of the width, −1 for words and 1 for numbers.
        rows: cells of each row, made for a setting.
        colours: a colour for each row, "#rrggbb", or none.
    """

    key: str
    title: str
    words: str
    note: str
    columns: tuple[tuple[str, float, int], ...]
    rows: Callable[[Setting], list[list[str]]]
    colours: tuple[str, ...] = ()


_DAY = 80.0  # °C by which a colour is reached later in daylight than in a dark shop: the middle of 50 to 110 in old scales
_CLEARANCE = 1.1  # of the bolt: what ISO 273 calls a medium fit, within 0.4 mm from M5 to M24


def _taper(s: Setting) -> list[list[str]]:
    thin, thick, length = s.taper
    m, found = s.measure, []
    for at, here in thinning(thin, thick, length, s.stations):
        area = f"{here.area:.1f} mm²" if m.unit == "mm" else f"{here.area / 645.16:.4f} in²"
        found.append([m.length(at), m.length(here.w), m.length(here.t), area])
    return found


def _metric(s: Setting) -> list[list[str]]:
    rows = [(d, p, f"M{d}") for d, p in COARSE_MM] + [(d, p, f"M{d} × {p:g}") for d, p in FINE_MM]
    return [_thread(name, float(d), p, f"{p:g} mm", s) for d, p, name in rows]


def _inch(s: Setting) -> list[list[str]]:
    rows = [(name, tpi, "coarse") for name, tpi in COARSE_IN] + [(name, tpi, "fine") for name, tpi in FINE_IN]
    return [_thread(f"{_slashed(name)}″ {word}", float(Fraction(name)) * 25.4, 25.4 / tpi, f"{tpi} tpi", s) for name, tpi, word in rows]


def _slashed(name: str) -> str:
    return name.replace("/", "\u2044")


def _thread(name: str, diameter: float, pitch: float, told: str, s: Setting) -> list[str]:
    """Tap drill D − P, the next drill that is sold, the share of a full thread that it leaves, a clearance hole."""
    drill, m = diameter - pitch, s.measure
    sold = drill_near(drill, m.unit)
    near = [drill_words(sold[0]), f"{round(100 * thread_share(diameter, pitch, sold[1]))} %"] if sold is not None else ["none near it", ""]
    return [name, told, m.fine(drill), *near, m.fine(diameter * _CLEARANCE)]


def _gauge_rows(s: Setting) -> list[list[str]]:
    numbers = sorted({n for _title, rows in GAUGES.values() for n in rows if n <= 30})
    return [[str(n), *(s.measure.fine(rows[n]) if n in rows else "" for _title, rows in GAUGES.values())] for n in numbers]


def _drill_rows(s: Setting) -> list[list[str]]:
    return [[drill_words(name), f"{mm:.2f} mm", f"{mm / 25.4:.4f} in"] for name, mm in DRILLS]


def _heat_rows(s: Setting) -> list[list[str]]:
    t = s.measure.temperature
    return [[b.word, f"{t(b.low)} to {t(b.high)}", f"{t(b.low + _DAY)} to {t(b.high + _DAY)}"] for b in BANDS]


def _temper_rows(s: Setting) -> list[list[str]]:
    t = s.measure.temperature
    return [[b.word, f"{t(b.low)} to {t(b.high)}", _USES.get(b.word, "")] for b in TEMPERS]


_USES = {
    "pale straw": "scribers, scrapers, turning tools", "straw": "engraving tools, punches for cold steel", "brown": "chisels for wood, drifts, shears",
    "purple": "cold chisels, caulking irons, axes", "blue": "springs, screwdrivers, saws", "pale blue": "spanners, light springs",
    "grey": "soft again: hot tools lose their hardness anyway",
}  # fmt: skip
_HARDENS = {
    "none": "does not harden",
    "water": "in water",
    "oil": "in oil",
    "air": "in air",
    "age": "by ageing",
    "unknown": "unknown: test a coupon",
}


def _stop_rows(s: Setting) -> list[list[str]]:
    t = s.measure.temperature
    return [[m.title, t(m.start), t(m.low), t(m.weld) if m.weld else "not welded", _HARDENS[m.hardening]] for m in MATERIALS.values()]


_SIZES_MM = (5, 6, 8, 10, 12, 14, 16, 18, 20, 22, 25, 30, 35, 40, 50, 60)
_SIZES_IN = ("3/16", "1/4", "5/16", "3/8", "7/16", "1/2", "9/16", "5/8", "3/4", "7/8", "1", "5/4", "3/2", "2")


def _sizes(m: Measure) -> list[float]:
    return [float(x) for x in _SIZES_MM] if m.unit == "mm" else [float(Fraction(x)) * 25.4 for x in _SIZES_IN]


def _mass_rows(s: Setting) -> list[list[str]]:
    density, m = MATERIALS[s.material].density, s.measure
    found = []
    for size in _sizes(m):
        areas = [make(size).area for make in (square, round_, hexagon, octagon)]
        areas.append(size * (10.0 if m.unit == "mm" else 25.4))  # of a flat as thick, for each of that width
        found.append([m.length(size), *(m.line_mass(area * density) for area in areas)])
    return found


def _bend_rows(s: Setting) -> list[list[str]]:
    """Of a right angle: what it uses, and what the sum of its two outside lengths is too long by."""
    m, found = s.measure, []
    for t in _sizes(m)[:12]:
        for inside in (0.5 * t, t, 2 * t):
            arc = on_arc(math.pi / 2, inside, Depth(t, t / 2), s.rule)
            found.append([m.length(t), m.length(inside), m.length(arc), m.length(2 * (inside + t) - arc)])
    return found


def _glowing(celsius: float) -> str:
    return "#{:02x}{:02x}{:02x}".format(*glow(celsius))


_OXIDE = {
    "pale straw": "#efe0a4",
    "straw": "#dcb55b",
    "brown": "#a06a3c",
    "purple": "#7a4a7e",
    "blue": "#3d5fa0",
    "pale blue": "#8fb3cf",
    "grey": "#8d9290",
}

WALL_TABLES: tuple[Table, ...] = (
    Table("taper", "Widths at stations of a taper", "callipers stations drawn end section",
          "Measured from the thin end, finished and cold; straight sides between the two ends.",
          (("From the thin end", 2, 1), ("Width", 1.5, 1), ("Thickness", 1.5, 1), ("Area", 2, 1)), _taper),
    Table("metric", "Metric threads: tap drill and clearance", "tapping M8 ISO bolt nut screw pitch",
          "Tap drill = nominal size − pitch (ISO 261). Clearance is a tenth over the bolt; for a close fit drill to the bolt you have. "
          "Spanner sizes of hand-forged nuts are the smith's own: forge the nut, then file it to a spanner that hangs there.",
          (("Thread", 1.6, -1), ("Pitch", 1.2, 1), ("Tap drill", 1.4, 1), ("Next one sold", 1.8, 1), ("Thread left", 1.3, 1), ("Clearance", 1.4, 1)), _metric),
    Table("inch", "Inch threads: tap drill and clearance", "tapping UNC UNF coarse fine bolt nut screw tpi",
          "Tap drill = nominal size − 1 ÷ threads an inch (ASME B1.1). Clearance is a tenth over the bolt. Spanner sizes of hand-forged nuts are the smith's own.",
          (("Thread", 1.8, -1), ("Pitch", 1.1, 1), ("Tap drill", 1.4, 1), ("Next one sold", 1.8, 1), ("Thread left", 1.3, 1), ("Clearance", 1.4, 1)), _inch),
    Table("gauges", "Sheet and wire gauges", "gauge ga swg awg bwg thickness sheet metal",
          "A number means nothing without its system. US standard: ounces a square foot ÷ 41.82 lb; American wire gauge: 0.005 in × 92^((36 − n)/39); "
          "the imperial and Birmingham gauges by their tables. Measure what is delivered.",
          (("Gauge", 0.8, 1), ("US standard, steel sheet", 1.6, 1), ("American wire, copper and brass", 1.6, 1), ("Imperial wire", 1.4, 1), ("Birmingham, tube", 1.4, 1)),
          _gauge_rows),
    Table("drills", "Drill sizes", "number letter fraction twist drill bits",
          "Fractions every 64th of an inch, numbers 1 to 60 and letters A to Z by their tables, metric every half millimetre.",
          (("Drill", 2, -1), ("mm", 1.5, 1), ("inch", 1.5, 1)), _drill_rows),
    Table("heat-colours", "Heat colours", "glow red orange yellow white temperature incandescent",
          "In a dim shop; in daylight the eye calls the same colour about " + f"{_DAY:g} °C later. Old scales disagree by 50 to 150 °C: learn your own by a steel that you know.",
          (("Colour", 2, -1), ("In a dim shop", 2, 1), ("In daylight", 2, 1)), _heat_rows, tuple(_glowing((b.low + min(b.high, 1300)) / 2) for b in BANDS)),
    Table("temper-colours", "Temper colours", "tempering straw blue oxide drawing the temper",
          "On bright steel of a plain carbon kind, ± 10 °C, as the colour arrives; alloys run later. An oven and the maker's sheet are surer.",
          (("Colour", 1.4, -1), ("Temperature", 1.6, 1), ("Often used for", 3, -1)), _temper_rows, tuple(_OXIDE[b.word] for b in TEMPERS)),
    Table("stop", "When to stop", "forging range minimum temperature burn crack weld harden material",
          "Out of the fire at most so hot, and no forging below the second. Sources stand with each material in the guide.",
          (("Material", 2.6, -1), ("At most", 1.1, 1), ("Stop below", 1.1, 1), ("Weld at", 1.1, 1), ("Hardens", 1.6, -1)), _stop_rows),
    Table("mass", "Mass of a length of bar", "weight kg per metre lb per foot density bar stock",
          "Area × density of the material on the bench; sharp corners. A flat: its thickness in the first column, the last one times its width in cm (in inches).",
          (("Size", 1, 1), ("Square", 1.3, 1), ("Round", 1.3, 1), ("Hexagon", 1.3, 1), ("Octagon", 1.3, 1), ("Flat as thick, each cm or inch wide", 2, 1)), _mass_rows),
    Table("bends", "What a right angle takes", "bend deduction allowance corner developed length k-factor",
          "By the bend rule in force. The last column is taken off the sum of the two outside lengths.",
          (("Thickness", 1, 1), ("Inside radius", 1, 1), ("Bar it uses", 1, 1), ("Deduct", 1, 1)), _bend_rows),
)  # fmt: skip


def table_of(key: str) -> Table:
    """A table by its key.

    Raises:
        KeyError: there is none.
    """
    return {t.key: t for t in WALL_TABLES}[key]


def tables_with(words: str) -> tuple[Table, ...]:
    """Tables in which every one of some words is found."""
    wanted = words.lower().split()
    return tuple(t for t in WALL_TABLES if all(w in f"{t.title} {t.words}".lower() for w in wanted))
