"""Lengths and other quantities: reading what is typed, showing what is stored (mm, g, s, °C)."""

from long_ember.units.gauges import GAUGES, gauge_words, read_gauge
from long_ember.units.limits import LEAST, LONGEST_TEXT, MOST, THICKEST
from long_ember.units.measure import Line, Measure, Quantity, many, one, own_words, say
from long_ember.units.parse import MM_PER, parse_length, parse_number

__all__ = [
    "GAUGES",
    "LEAST",
    "LONGEST_TEXT",
    "MM_PER",
    "MOST",
    "THICKEST",
    "Line",
    "Measure",
    "Quantity",
    "gauge_words",
    "many",
    "one",
    "own_words",
    "parse_length",
    "parse_number",
    "read_gauge",
    "say",
]  # fmt: skip
