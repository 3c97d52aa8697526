"""Bar sections: areas, perimeters and the blend that tapers run through."""

from long_ember.sections.parse import parse_section
from long_ember.sections.section import (
    SHAPES,
    Blend,
    Section,
    flat,
    found_section,
    half_round,
    hexagon,
    octagon,
    outline_between,
    round_,
    square,
    tube,
)

__all__ = [
    "SHAPES",
    "Blend",
    "Section",
    "flat",
    "found_section",
    "half_round",
    "hexagon",
    "octagon",
    "outline_between",
    "parse_section",
    "round_",
    "square",
    "tube",
]
