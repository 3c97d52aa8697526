"""Every check value of the forge reference for the features there are, and each formula against a second method."""

import math
import unittest
from doctest import DocTestSuite

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import dblquad, quad

from long_ember.features import KINDS, BendRule, Place, Shape, Span, bend, curves, shape_of, stock_of, twist
from long_ember.features.curves import spiral_length, spiral_points, turn_gap
from long_ember.features.shape import hole_volume
from long_ember.features.turning import bend_factor
from long_ember.features.twist import stock_before_twist, twisted_length
from long_ember.sections import Blend, flat, round_, square

TURNS = 1.75 * 2 * math.pi
positive = st.floats(0.5, 80.0)


def stock(kind: str, bar, **fields) -> float:
    return stock_of(KINDS[kind](id="x", **fields), Place(bar, True, False))


class CheckValues(unittest.TestCase):
    def test_section_2_tapers(self):
        shape = shape_of(KINDS["taper"](id="x", length=90.0, tip=3.0), Place(square(12)))
        self.assertAlmostEqual(shape.volume, 5670, places=9)
        self.assertAlmostEqual(stock("taper", square(12), length=90.0, tip=3.0), 39.375, places=9)
        self.assertAlmostEqual(stock("taper", square(12), length=90.0, tip=4.0, form="round"), 40.1143, places=4)
        self.assertAlmostEqual(stock("taper", square(12), length=30.0, tip=1.5, form="chisel"), 16.875, places=9)

    def test_a_point_needs_a_third_and_a_blunt_tip_by_the_ratio(self):
        r = 0.01 / 12  # as thin as anything may be
        self.assertAlmostEqual(stock("taper", square(12), length=90.0, tip=0.01), 30 * (1 + r + r * r), places=6)
        self.assertAlmostEqual(stock("taper", round_(12), length=90.0, tip=0.01, form="round"), 30 * (1 + r + r * r), places=6)
        for r in (0.1, 0.5, 0.9):
            self.assertAlmostEqual(90 / stock("taper", square(10), length=90.0, tip=10 * r), 3 / (1 + r + r * r), places=9)

    def test_a_spiral_that_hardly_grows_is_an_arc(self):
        for form in ("archimedean", "logarithmic"):
            s, points, _heading = curves.spiral_points(form, 20.0, 20.0 * (1 + 1e-11), 1.5, 200)
            self.assertAlmostEqual(s[-1], 30.0, places=6)
            self.assertAlmostEqual(float(np.hypot(*np.diff(points, axis=0).T).sum()), 30.0, places=3)

    def test_section_3_curves(self):
        for form, r0, r1, length in (("archimedean", 8, 30, 210.231), ("logarithmic", 8, 30, 184.334), ("clothoid", 30, 8, 138.891)):
            with self.subTest(form):
                self.assertAlmostEqual(spiral_length(form, r0, r1, TURNS), length, places=3)

    def test_section_3_bends_and_rings(self):
        self.assertAlmostEqual(stock("bend", square(12), radius=24.0), math.pi / 2 * 30)
        self.assertAlmostEqual(stock("bend", square(12), corner="sharp"), 12.0)  # legs a + b − t, both a thickness long
        self.assertAlmostEqual(stock("eye", round_(10), inside=60.0), math.pi * 70)
        self.assertEqual(bend_factor(BendRule(), 0, 12), 0.33)
        inside = bend.Bend(id="x", angle=90.0, radius=5.0).developed(Place(square(12), rule=BendRule("inside")))
        self.assertAlmostEqual(inside, math.pi / 2 * 5 + 12)  # the inside length and one thickness for the right angle

    def test_section_4_twist(self):
        self.assertAlmostEqual(twisted_length(100, 2, 12**2 / 6), 78.80, places=2)

    def test_section_5_tenon(self):
        self.assertAlmostEqual(stock("section-change", square(20), section=round_(10), length=30.0), 5.890, places=3)

    def test_section_6_holes(self):
        drilled, punched = (KINDS["hole"](id="x", diameter=8.0, length=40.0, method=m) for m in ("drilled", "punched"))
        place = Place(flat(25, 6))
        volume = math.pi * 16 * 6
        self.assertAlmostEqual(drilled.removed(place), volume)
        self.assertAlmostEqual(punched.removed(place), 0.3 * volume)
        for hole in (drilled, punched):
            self.assertAlmostEqual(stock_of(hole, place), 40.0)
        self.assertAlmostEqual(shape_of(punched, place).volume, 150 * 40 - 0.3 * volume)


class SecondMethods(unittest.TestCase):
    @given(
        positive, positive, positive, positive, positive, st.sampled_from([1.0, math.pi / 4, 0.8284]), st.sampled_from([1.0, math.pi / 4])
    )
    def test_span_volume_by_quadrature(self, length, w0, t0, w1, t1, k0, k1):
        a, b = Blend(w0, t0, k0), Blend(w1, t1, k1)
        by_quadrature = quad(lambda x: a.toward(b, x / length).area, 0, length, epsabs=0, epsrel=1e-12)[0]
        self.assertAlmostEqual(Span(length, a, b).volume, by_quadrature, delta=1e-9 * by_quadrature)

    @given(st.floats(1, 40), st.floats(1, 40), st.floats(0.3, 30))
    def test_archimedean_and_logarithmic_length_by_quadrature(self, r0, r1, angle):
        b = (r1 - r0) / angle
        wanted = quad(lambda q: math.hypot(r0 + b * q, b), 0, angle, epsabs=0, epsrel=1e-12, limit=200)[0]
        self.assertAlmostEqual(curves.archimedean_length(r0, r1, angle), wanted, delta=1e-9 * wanted)
        beta = math.log(r1 / r0) / angle
        wanted = quad(lambda q: r0 * math.exp(beta * q) * math.hypot(1, beta), 0, angle, epsabs=0, epsrel=1e-12, limit=200)[0]
        self.assertAlmostEqual(curves.logarithmic_length(r0, r1, angle), wanted, delta=1e-7 * wanted)

    @given(st.sampled_from(["archimedean", "logarithmic", "clothoid"]), st.floats(2, 20), st.floats(1.05, 4), st.floats(1.6, 25))
    def test_sampled_points_are_as_far_apart_as_the_closed_form_says(self, form, r0, ratio, angle):
        s, points, heading = spiral_points(form, r0, r0 * ratio, angle, 4001)
        chords = np.hypot(*np.diff(points, axis=0).T)
        length = spiral_length(form, r0, r0 * ratio, angle)
        self.assertAlmostEqual(s[-1], length, delta=1e-9 * length)
        self.assertAlmostEqual(chords.sum(), length, delta=1e-4 * length)
        direction = np.arctan2(*np.diff(points, axis=0).T[::-1])
        turned = np.angle(np.exp(1j * (direction - (heading[1:] + heading[:-1]) / 2)))
        self.assertLess(np.abs(turned).max(), 1e-3)

    def test_clothoid_turns_by_its_angle_and_its_curvature_runs_linearly(self):
        s, _points, heading = spiral_points("clothoid", 8, 30, TURNS, 2001)
        self.assertAlmostEqual(heading[-1] - heading[0], TURNS)
        curvature = np.gradient(heading, s)[1:-1]
        self.assertLess(np.abs(np.diff(curvature, 2)).max(), 1e-6)
        self.assertAlmostEqual(curvature[0], 1 / 8, places=3)

    @given(st.floats(20, 300), st.floats(0.1, 6), st.floats(0, 1), st.floats(3, 25))
    def test_twist_and_its_inverse(self, finished, turns, fraction, side):
        g2 = side * side / 6
        try:
            length = stock_before_twist(finished, turns, g2, fraction)
        except twist.NoAnswer:
            least = (1 - fraction) * 2 * math.pi * turns * math.sqrt(g2)
            self.assertLessEqual(finished, least * (1 + 1e-12))
            return
        self.assertGreaterEqual(length, finished * (1 - 1e-12))
        self.assertAlmostEqual(twisted_length(length, turns, g2, fraction), finished, delta=1e-6 * finished)

    def test_hole_through_a_round_bar_by_double_quadrature(self):
        for d, bar in ((3, 12), (8, 12), (11.9, 12)):
            r, big = d / 2, bar / 2
            wanted, _ = dblquad(
                lambda y, x, big=big: 2 * math.sqrt(max(big * big - x * x, 0)), -r, r,
                lambda x, r=r: -math.sqrt(max(r * r - x * x, 0)), lambda x, r=r: math.sqrt(max(r * r - x * x, 0)), epsrel=1e-10,
            )  # fmt: skip
            with self.subTest(d):
                self.assertAlmostEqual(hole_volume(d, round_(bar), "thickness"), wanted, delta=1e-7 * wanted)

    def test_gap_between_turns_of_an_archimedean_scroll_is_its_pitch_less_the_bar(self):
        pitch = (60 - 10) / 3
        gap = turn_gap("archimedean", 10, 60, 3 * 2 * math.pi, 6, 6)
        self.assertLess(abs(gap - (pitch - 6)), 0.5)
        self.assertEqual(turn_gap("archimedean", 10, 60, 2, 6, 6), math.inf)
        self.assertLess(turn_gap("archimedean", 10, 20, 3 * 2 * math.pi, 6, 6), 0)

    def test_mirrored_twice_is_the_same(self):
        shape = shape_of(KINDS["hook"](id="x"), Place(square(12)))
        self.assertIsInstance(shape, Shape)
        self.assertEqual(shape.mirrored().mirrored(), shape)
        self.assertNotEqual(shape.mirrored(), shape)


def load_tests(loader, tests, pattern):
    for module in (curves, bend, twist):
        tests.addTests(DocTestSuite(module))
    return tests
