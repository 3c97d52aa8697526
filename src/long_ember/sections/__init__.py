"""Bar sections: areas, perimeters and the blend that tapers run through."""

from long_ember.sections.parse import parse_section
from long_ember.sections.section import SHAPES, Blend, Section, flat, hexagon, octagon, round_, square

__all__ = ["SHAPES", "Blend", "Section", "flat", "hexagon", "octagon", "parse_section", "round_", "square"]
