"""The bend rule along every curve, half-round bar about its centroid, necks and balls: each by a second method."""

import io
import math
import unittest
from dataclasses import replace

import numpy as np
import trimesh
from scipy.integrate import dblquad, quad

from long_ember.errors import NoAnswer
from long_ember.export import solid_bytes
from long_ember.features import KINDS, BendRule, Piece, Place, range_of, shape_of, stock_of
from long_ember.features.turning import bend_factor
from long_ember.geometry import mesh, section_outline, whole_solid
from long_ember.physics.strength import curved_beam
from long_ember.sections import flat, half_round, hexagon, octagon, outline_between, round_, square, tube
from tests.support import BARS, CASES

CURVES = (
    KINDS["bend"](id="x"), KINDS["hook"](id="x"), KINDS["eye"](id="x"), KINDS["coil"](id="x"), KINDS["coil"](id="x", form="flat", inside=0.0),
    KINDS["scroll"](id="x"), KINDS["curl"](id="x", form="clothoid"), KINDS["traced"](id="x", course="20; r12 90; 15; r12 -60; 10"),
    KINDS["offset"](id="x", radius=10.0),
)  # fmt: skip


class Rule(unittest.TestCase):
    def test_every_curve_follows_a_measured_k_and_is_in_doubt_by_its_spread(self):
        for curve in CURVES:
            with self.subTest(curve.kind, form=getattr(curve, "form", "")):
                lengths = [stock_of(curve, Place(square(8), True, False, BendRule("k-factor", k, 0.03))) for k in (0.33, 0.4, 0.47)]
                self.assertGreater(lengths[1] - lengths[0], 0.1)  # a hundredth of a turn of 8 square
                self.assertAlmostEqual(lengths[1] - lengths[0], lengths[2] - lengths[1], places=6)  # in proportion to k
                low, high = range_of(curve, Place(square(8), True, False, BendRule("k-factor", 0.4, 0.03)))
                each = (lengths[1] - lengths[0]) / 0.07
                self.assertAlmostEqual(low, lengths[1] - 0.03 * each, places=6)
                self.assertAlmostEqual(high, lengths[1] + 0.03 * each, places=6)

    def test_a_turn_of_any_curve_costs_what_a_bend_of_its_radius_costs(self):
        rule, bar = BendRule(), round_(8)
        eye = stock_of(KINDS["eye"](id="x", inside=10.0), Place(bar, True, False, rule))
        self.assertAlmostEqual(eye, 2 * math.pi * (5 + bend_factor(rule, 5.0, 8.0) * 8), places=9)
        wound = stock_of(KINDS["coil"](id="x", inside=10.0, turns=1.0, gap=0.0), Place(bar, True, False, rule))
        self.assertAlmostEqual(wound, eye, delta=0.03 * eye)  # a turn of a coil rises by its own thickness
        bends = stock_of(KINDS["traced"](id="x", course="1; r9 180; 1; r9 180; 1"), Place(bar, True, False, rule))
        self.assertAlmostEqual(bends - 3, eye, places=9)

    def test_a_scroll_by_quadrature_over_its_angle(self):
        """r = r0 + bθ turns by dψ = (r² + 2b²)/(r² + b²)·dθ; the taper runs evenly along the path, in a space of its own here."""
        scroll, tip, root = KINDS["scroll"](id="x", inner=6.0, outer=30.0, turns=1.75, tip=square(4)), 4.0, 10.0
        angle = 2 * math.pi * 1.75
        b, rule = 24.0 / angle, BendRule()
        length = quad(lambda a: math.hypot(6 + b * a, b), 0, angle)[0]

        def lost(a):
            r = 6 + b * a
            turned = (r * r + 2 * b * b) / (r * r + b * b)
            share = quad(lambda x: math.hypot(6 + b * x, b), 0, a)[0] / length
            t, radius = tip + (root - tip) * share, math.hypot(r, b) / turned
            return (0.5 - bend_factor(rule, radius - t / 2, t)) * t * turned

        used = length - quad(lost, 0, angle, epsabs=1e-7)[0]
        volume = used / 6 * (tip**2 + 4 * ((tip + root) / 2) ** 2 + root**2)
        self.assertAlmostEqual(stock_of(scroll, Place(square(10), True, False, rule)), volume / 100, delta=2e-3)

    def test_half_round_bends_about_its_centroid(self):
        bar = half_round(20)
        low = 4 * 10 / (3 * math.pi)  # of the centroid over the flat
        for facing, inner in ((0.0, 10 - low), (180.0, low), (90.0, 10.0)):
            bend = KINDS["bend"](id="x", radius=40.0, facing=facing)
            place = Place(bar, rule=BendRule("centreline"))
            with self.subTest(facing):
                self.assertAlmostEqual(stock_of(bend, place), math.pi / 2 * (40 + inner), places=9)
                # By Pappus the solid of that line holds the same steel, and its inner face lies on the radius asked for.
                shape = shape_of(bend, place)
                self.assertAlmostEqual(mesh(shape).volume / shape.volume, 1, delta=2e-3)
                turn = math.radians(facing)
                centre = np.array([0, math.cos(turn), math.sin(turn)]) * (40 + inner)
                corners = whole_solid([("x", shape)]).points - centre
                along = corners @ np.array([0, -math.sin(turn), math.cos(turn)])
                nearest = np.sqrt((corners**2).sum(axis=1) - along**2).min()
                self.assertAlmostEqual(nearest, 40.0, delta=0.1)

    def test_a_flat_coil_may_begin_at_nothing_and_shows_its_outside(self):
        coil = KINDS["coil"](id="x", form="flat", inside=0.0, turns=5.0, gap=0.0)
        place = Place(round_(6), True, False)
        points = whole_solid([("x", shape_of(coil, place))]).points
        self.assertAlmostEqual(np.ptp(points, axis=0)[:2].max(), coil.outside(place), delta=0.6)
        with self.assertRaises(NoAnswer):
            shape_of(replace(coil, form="helical"), place)


class Flats(unittest.TestCase):
    def test_hexagon_and_octagon_stand_flats_up(self):
        for bar, corners in ((hexagon(16), 6), (octagon(16), 8)):
            (outline,) = section_outline(bar)
            self.assertEqual(len(outline), corners)
            self.assertAlmostEqual(np.ptp(outline[:, 1]), 16.0, places=9)  # across flats, upright
            self.assertEqual(sum(abs(y - 8) < 1e-9 for y in outline[:, 1]), 2)
            solid = mesh(shape_of(KINDS["run"](id="x", length=10.0), Place(bar))).points
            self.assertAlmostEqual(np.ptp(solid[:, 1]), 16.0, places=9)
        # The inner flat of a hexagon lies whole on the inside of the bow: less stress there than under a corner.
        (upright,) = section_outline(hexagon(16))
        lying = upright @ np.array([[0.5, math.sqrt(3) / 2], [-math.sqrt(3) / 2, 0.5]])
        self.assertLess(curved_beam(upright, 20.0).inside, curved_beam(lying @ np.array([[0.0, 1.0], [1.0, 0.0]]), 20.0).inside)

    def test_two_flats_cut_in_any_section(self):
        def disc(y):
            return 2 * math.sqrt(max(64 - y * y, 0.0))

        self.assertAlmostEqual(outline_between(round_(16), 3.0), quad(disc, -5, 5)[0], places=9)
        self.assertAlmostEqual(outline_between(flat(20, 8), 1.5), 20 * 5)
        self.assertAlmostEqual(outline_between(half_round(16), 2.0), quad(disc, 2, 6)[0], places=9)
        for bar in (hexagon(16), octagon(16)):
            (outline,) = section_outline(bar)
            xs, ys = outline.T
            right = xs > 1e-9
            order = np.argsort(ys[right])
            for depth in (1.0, 3.0, 6.0):
                levels = np.linspace(-8 + depth, 8 - depth, 20001)
                wide = 2 * np.interp(levels, ys[right][order], xs[right][order])
                self.assertAlmostEqual(outline_between(bar, depth), np.trapezoid(wide, levels), places=4)

    def test_a_neck_in_round_bar_by_double_quadrature(self):
        neck = KINDS["neck"](id="x", size=8.0, fuller=12.0)
        place = Place(round_(14))
        wide = neck.width(place)

        def high(x):
            return 7 - (math.sqrt(36 - x * x) - 3)  # half of what stands, under a fuller sunk 3

        volume = 2 * dblquad(lambda y, x: 2 * math.sqrt(max(49 - y * y, 0.0)), 0, wide / 2, lambda x: -high(x), high, epsabs=1e-8)[0]
        self.assertAlmostEqual(neck.volume(place), volume, delta=1e-5)
        self.assertAlmostEqual(shape_of(neck, place).volume, neck.volume(place), places=6)

    def test_a_ball_takes_a_whole_ball_and_is_as_wide_as_it_says(self):
        for bar in (square(12), round_(6), flat(25, 10), tube(12, 2)):
            ball, place = KINDS["ball"](id="x", diameter=20.0), Place(bar, True, False)
            shape = shape_of(ball, place)
            self.assertAlmostEqual(shape.volume, math.pi * 20**3 / 6, places=6)
            self.assertAlmostEqual(np.ptp(mesh(shape).points[:, 1]), 20.0, delta=0.2)


class Lofts(unittest.TestCase):
    def test_a_taper_into_another_outline_carries_its_doubt(self):
        place = Place(square(12), True, False)
        for form, share in (("square", 0.0), ("octagon", 0.04), ("round", 0.05)):
            low, high = range_of(KINDS["taper"](id="x", form=form), place)
            stock = stock_of(KINDS["taper"](id="x", form=form), place)
            self.assertAlmostEqual((high - low) / 2 / stock, share, places=2)


class Solids(unittest.TestCase):
    def test_every_kind_on_every_bar_is_closed_and_holds_its_sum(self):
        """Read back from the file by another library; one bar after another, so that each case meets several."""
        count = 0
        for i, case in enumerate(CASES):
            bar, rest = BARS[i % len(BARS)], KINDS["run"](id="r", length=30.0)
            piece = Piece(name="x", bar=bar, features=(rest, case) if getattr(case, "toward", "A") == "B" else (case, rest))
            try:
                volume = math.fsum(shape.volume for _id, shape in piece.shapes)
            except NoAnswer:
                continue
            kind = ("stl", "stl", "stl", "obj")[i % 4]  # a text takes ten times as long to read
            made = trimesh.load(io.BytesIO(solid_bytes(piece, kind)), file_type=kind, force="mesh")
            with self.subTest(case.kind, bar=bar.shape, case=i):
                self.assertTrue(made.is_watertight)
                self.assertAlmostEqual(made.volume / volume, 1, delta=5e-4)
            count += 1
        self.assertGreater(count, 60)


if __name__ == "__main__":
    unittest.main()
