"""Cut length, marks and mass: no steel appears or vanishes."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from long_ember.document import answer
from long_ember.features import KINDS, Allowances, Piece
from long_ember.physics import expansion
from long_ember.sections import round_, square
from long_ember.stock import HOT, marks, reckon, round_up
from long_ember.units import Measure
from tests.support import pieces


def staple(**fields) -> Piece:
    parts = (KINDS["taper"](id="a", length=90.0, tip=3.0), KINDS["run"](id="b", length=100.0), KINDS["bend"](id="c", radius=24.0))
    return Piece(bar=square(12), features=parts, **fields)


class Conservation(unittest.TestCase):
    @given(pieces())
    def test_stock_is_finished_plus_removed_plus_scale(self, piece):
        r = answer(piece).reckoning
        bar = math.fsum(z.length for z in r.zones) * piece.bar.area
        self.assertAlmostEqual(bar, r.finished + r.removed + r.scale - r.added, delta=1e-9 * bar)
        self.assertAlmostEqual(r.likely, bar / piece.bar.area + 2 * r.trim + r.parting, delta=1e-9 * r.likely)
        self.assertAlmostEqual(r.bare * piece.bar.area, r.finished + r.removed - r.added, delta=1e-9 * bar)

    @given(pieces())
    def test_zones_tile_the_bar_and_the_cut_holds_them(self, piece):
        r = answer(piece).reckoning
        self.assertAlmostEqual(r.zones[0].start, r.trim + (r.over if r.spare == "A" else 0.0))
        for before, after in zip(r.zones, r.zones[1:], strict=False):
            self.assertEqual(before.end, after.start)
        self.assertTrue(r.cut >= r.likely - 1e-5 and r.cut >= r.zones[-1].end + r.trim - 1e-4)
        self.assertLess(r.cut - r.likely, r.ruler)

    @given(pieces())
    def test_the_band_holds_the_likely_length(self, piece):
        r = answer(piece).reckoning
        low, high = r.band
        self.assertTrue(low <= r.likely <= high)
        self.assertGreaterEqual(low, 0)

    @given(pieces(), st.floats(0, 0.03))
    def test_more_scale_never_shortens_the_cut(self, piece, more):
        heats = {f.id: 3.0 for f in piece.features}
        less = reckon(piece, heats).likely
        a = piece.allowances
        thicker = Piece(bar=piece.bar, features=piece.features, allowances=Allowances(scale=a.scale + more, trim=a.trim, parting=a.parting))
        self.assertGreaterEqual(reckon(thicker, heats).likely, less * (1 - 1e-12))

    def test_a_sum_by_hand(self):
        r = reckon(staple(allowances=Allowances(scale=0.02, trim=4.0, parting=3.0)), {"a": 2.0})
        bare = 39.375 + 100 + math.pi / 2 * 30
        self.assertAlmostEqual(r.bare, bare)
        self.assertAlmostEqual(r.likely, bare + 39.375 * (1 / 0.98**2 - 1) + 4 + 3)
        self.assertAlmostEqual(r.mass, bare * 144 * 7.85e-3)
        self.assertEqual(r.cut, 196.0)
        self.assertIn("186.5 mm + 1.6 mm + 4 mm + 3 mm = 195.1 mm", " ".join(line.show(Measure()) for line in r.sum_lines()))

    def test_rounding_goes_up_to_the_ruler_and_forgives_rounding_noise(self):
        self.assertEqual([round_up(x, 1.0) for x in (10, 10.0000005, 10.01, 0)], [10, 10, 11, 0])
        self.assertAlmostEqual(round_up(100, 25.4 / 16), 63 * 25.4 / 16)


class Marks(unittest.TestCase):
    @given(pieces())
    def test_both_ends_give_the_same_marks(self, piece):
        r = answer(piece).reckoning
        from_a, from_b = marks(r, "A"), marks(r, "B")
        self.assertEqual(len(from_a), len(from_b))
        for a, b in zip(from_a, reversed(from_b), strict=True):
            self.assertAlmostEqual(a.at + b.at, r.cut, places=6)
            self.assertEqual((a.before, a.after), (b.after, b.before))

    @given(pieces())
    def test_chain_lengths_add_up_to_the_running_ones(self, piece):
        total = 0.0
        for mark in answer(piece).marks:
            total += mark.chain
            self.assertAlmostEqual(total, mark.at, places=6)
            self.assertGreater(mark.chain, -1e-9)
            self.assertAlmostEqual(mark.hot / mark.at, 1 + expansion(HOT))

    def test_trim_lines_and_centre_pops(self):
        found = marks(reckon(staple(allowances=Allowances(trim=4.0))), "A")
        self.assertEqual([m.kind.split(",")[0] for m in found], ["trim line", "centre pop", "centre pop", "trim line"])
        self.assertAlmostEqual(found[1].at, 2 + 39.375)
        self.assertEqual(marks(reckon(Piece()), "A"), ())

    def test_hot_steel_measures_about_one_and_a_third_per_cent_more(self):
        self.assertAlmostEqual(expansion(1000), 0.0138, places=4)
        for celsius, percent in ((900, 1.18), (1000, 1.38), (1100, 1.58)):
            self.assertAlmostEqual(expansion(celsius) * 100, percent, places=2)


class Materials(unittest.TestCase):
    def test_mass_follows_the_material(self):
        steel, iron = (
            reckon(Piece(bar=round_(20), material=m, features=(KINDS["run"](id="a", length=100.0),)))
            for m in ("mild-steel", "wrought-iron")
        )
        self.assertAlmostEqual(steel.mass, math.pi * 100 * 100 * 7.85e-3)
        self.assertLess(iron.mass, steel.mass)
