"""Sections: areas of the reference, entries as called across a counter."""

import math
import unittest

from hypothesis import given

from long_ember.errors import EntryError, NoAnswer
from long_ember.sections import SHAPES, Section, flat, hexagon, octagon, parse_section, round_, square
from long_ember.units import Measure
from tests.support import sections


def polygon(sides: int, flats: float) -> list[tuple[float, float]]:
    """Corners of a regular polygon `flats` across."""
    r = flats / 2 / math.cos(math.pi / sides)
    return [(r * math.cos(2 * math.pi * i / sides), r * math.sin(2 * math.pi * i / sides)) for i in range(sides)]


def moments(corners: list[tuple[float, float]]) -> tuple[float, float, float]:
    """Area, perimeter and polar second moment of a polygon about the origin, by Green's theorem."""
    area = polar = perimeter = 0.0
    for (x0, y0), (x1, y1) in zip(corners, corners[1:] + corners[:1], strict=True):
        cross = x0 * y1 - x1 * y0
        area += cross / 2
        polar += cross * (x0 * x0 + x0 * x1 + x1 * x1 + y0 * y0 + y0 * y1 + y1 * y1) / 12
        perimeter += math.hypot(x1 - x0, y1 - y0)
    return area, perimeter, polar


class Areas(unittest.TestCase):
    def test_reference_values(self):
        self.assertAlmostEqual(hexagon(12).area, 124.708, places=3)
        self.assertAlmostEqual(octagon(12).area, 119.294, places=3)
        self.assertAlmostEqual(Section("square", 12, 12, 2).area, 144 - (4 - math.pi) * 4)

    def test_a_metric_flat_is_not_a_relabelled_inch_flat(self):
        self.assertAlmostEqual(flat(25, 6).area / flat(25.4, 6.35).area, 0.93, places=2)

    def test_area_perimeter_and_gyration_against_the_polygons_corners(self):
        cases = {square(14): 4, hexagon(14): 6, octagon(14): 8, round_(14): 4000}
        for bar, sides in cases.items():
            area, perimeter, polar = moments(polygon(sides, 14))
            with self.subTest(bar.shape):
                self.assertAlmostEqual(bar.area, area, delta=1e-5 * area)
                self.assertAlmostEqual(bar.perimeter, perimeter, delta=1e-5 * perimeter)
                self.assertAlmostEqual(bar.gyration2, polar / area, delta=1e-5 * polar / area)
        w, t = 25.0, 6.0
        area, _perimeter, polar = moments([(w / 2, t / 2), (-w / 2, t / 2), (-w / 2, -t / 2), (w / 2, -t / 2)])
        self.assertAlmostEqual(flat(w, t).gyration2, polar / area)

    def test_impossible_bars(self):
        for arguments in (("square", 0, 0), ("square", -1, -1), ("round", 12, 6), ("tube", 12, 12), ("flat", 6, 25), ("round", 9, 9, 2)):
            with self.subTest(arguments), self.assertRaises(NoAnswer):
                Section(*arguments)

    @given(sections())
    def test_the_blend_of_a_section_has_its_area(self, bar):
        self.assertAlmostEqual(bar.blend.area, bar.area, delta=1e-12 * bar.area)


class Entries(unittest.TestCase):
    def test_reads(self):
        cases = {
            "1/2 sq": square(12.7),
            "12 rd": round_(12),
            "12 mm round": round_(12),
            "25x6 flat": flat(25, 6),
            "6 x 25 flat": flat(25, 6),
            "25x6": flat(25, 6),
            "1 x 1/4 in flat": flat(25.4, 6.35),
            '1" x 1/4"': flat(25.4, 6.35),
            "16 hex": hexagon(16),
            "20 OCT": octagon(20),
            "12sq": square(12),
        }
        for text, bar in cases.items():
            with self.subTest(text):
                self.assertEqual(parse_section(text), bar)

    def test_refuses(self):
        for text in ("", "12", "12 mm", "sq", "12x6 rd", "12 flat", "1x2x3 flat", "12 triangle", "0 sq", "12 sq sq", "x6 flat", "-3 sq"):
            with self.subTest(text), self.assertRaises(EntryError) as caught:
                parse_section(text)
            with self.subTest(text):
                self.assertTrue(0 <= caught.exception.position <= len(text))
                parse_section(caught.exception.example.split(",")[0])

    @given(sections())
    def test_what_the_entry_shows_reads_back(self, bar):
        for unit in ("mm", "in"):
            back = parse_section(bar.edit_text(Measure(unit)), unit=unit)
            self.assertEqual(back.shape, bar.shape)
            self.assertAlmostEqual(back.width, bar.width, delta=6e-4)
            self.assertAlmostEqual(back.thickness, bar.thickness, delta=6e-4)

    def test_every_shape_is_named(self):
        for shape, spec in SHAPES.items():
            self.assertIn(parse_section(f"12{'x2' if spec.two_sizes else ''} {spec.words[-1]}").shape, (shape,))
