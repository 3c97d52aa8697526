"""Sections: areas of the reference, entries as called across a counter."""

import math
import unittest

import numpy as np
from hypothesis import given

from long_ember.errors import EntryError, NoAnswer
from long_ember.geometry import section_outline
from long_ember.sections import SHAPES, Section, flat, half_round, hexagon, octagon, parse_section, round_, square, tube
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


def edge_distance(points: np.ndarray, edge: np.ndarray) -> np.ndarray:
    """How far inside a convex outline points lie; negative outside."""
    start, along = edge, np.roll(edge, -1, axis=0) - edge
    keep = np.hypot(*along.T) > 1e-12
    start, along = start[keep], along[keep] / np.hypot(*along[keep].T)[:, None]
    turn = np.sign((along[:, 0] * np.roll(along[:, 1], -1) - along[:, 1] * np.roll(along[:, 0], -1)).sum())
    found = np.full(len(points), np.inf)
    for s, a in zip(start, along, strict=True):
        found = np.minimum(found, turn * (a[0] * (points[:, 1] - s[1]) - a[1] * (points[:, 0] - s[0])))
    return found


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

    def test_plastic_moduli_by_slices_and_by_the_sand_hill(self):
        """Bending: first moments about the line that halves the area. Torsion: twice the volume under a roof of slope 1 from the edge."""
        for bar in (square(14), flat(25, 6), round_(14), hexagon(14), octagon(14), half_round(20), tube(20, 3)):
            edge, *bore = section_outline(bar, 720)
            low, high = edge.min(axis=0), edge.max(axis=0)
            n = 240
            x, y = (low[i] + (np.arange(n) + 0.5) * (high[i] - low[i]) / n for i in (0, 1))
            points = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
            cell = (high - low).prod() / n**2
            depth = edge_distance(points, edge)
            inside = depth > 0
            for hole in bore:
                inside &= edge_distance(points, hole) <= 0
            ys = np.sort(points[inside, 1])
            middle = ys[len(ys) // 2]
            with self.subTest(bar.shape):
                self.assertAlmostEqual(bar.area, inside.sum() * cell, delta=0.02 * bar.area)
                self.assertAlmostEqual(bar.plastic_bending, np.abs(ys - middle).sum() * cell, delta=0.02 * bar.plastic_bending)
                if not bore:
                    self.assertAlmostEqual(bar.plastic_torsion, 2 * depth[inside].sum() * cell, delta=0.02 * bar.plastic_torsion)
        solid, hollow = round_(20), tube(20, 3)
        self.assertAlmostEqual(hollow.plastic_torsion, solid.plastic_torsion - round_(14).plastic_torsion)

    def test_masses_change_their_unit_where_it_reads_better(self):
        mm, inch = Measure("mm"), Measure("in")
        self.assertEqual([mm.mass(g) for g in (999.4, 1000.0, 2345.0)], ["999 g", "1.00 kg", "2.35 kg"])
        self.assertEqual([inch.mass(g) for g in (28.35, 453.0, 454.0)], ["1.0 oz", "16.0 oz", "1.00 lb"])

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
