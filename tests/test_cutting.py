"""The cut list never overruns a bar and loses no piece."""

import csv
import io
import math
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from long_ember.cutting import LATTICE, cut_list, first_fit
from long_ember.demo import demo_files
from long_ember.document import answer
from long_ember.errors import NoAnswer
from long_ember.export import cut_list_csv
from long_ember.storage import read_piece
from long_ember.units import Measure

lengths = st.floats(5, 900).map(lambda x: round(x, 3))


class Plans(unittest.TestCase):
    @given(lengths, st.integers(1, 80), st.floats(950, 6100), st.floats(0, 6), st.one_of(st.just(0.0), st.floats(0.1, 9)))
    def test_every_piece_is_sawn_once_and_no_bar_is_overrun(self, length, quantity, bar_length, kerf, trim):
        plan = cut_list(length, quantity, bar_length, kerf, trim)
        self.assertEqual(sum(len(b.lengths) for b in plan.bars), quantity)
        for bar in plan.bars:
            ends = [start + length for start in bar.starts]
            self.assertTrue(all(b - a >= kerf - 1e-9 for a, b in zip(ends, bar.starts[1:], strict=False)))
            self.assertGreaterEqual(bar.starts[0], trim)
            self.assertLessEqual(ends[-1] + (trim + kerf if trim else 0), bar_length + 1e-6)
        self.assertAlmostEqual(plan.used + plan.waste, plan.bought)

    @given(lengths, st.integers(1, 80), st.floats(950, 6100), st.floats(0, 6))
    def test_equal_pieces_use_as_few_bars_as_can_be(self, length, quantity, bar_length, kerf):
        plan = cut_list(length, quantity, bar_length, kerf)
        each = math.floor((bar_length + kerf) / (length + kerf) + 1e-9)
        self.assertIn(len(plan.bars), (math.ceil(quantity / each), math.ceil(quantity / max(1, each - 1))))
        self.assertGreaterEqual(len(plan.bars), math.ceil(quantity / each))

    def test_a_piece_that_just_fits_and_one_that_does_not(self):
        self.assertEqual(len(cut_list(1000, 3, 1000, 2).bars), 3)  # the last cut is free
        self.assertEqual(len(cut_list(499, 2, 1000, 2).bars), 1)
        self.assertEqual(len(cut_list(499.01, 2, 1000, 2).bars), 2)
        with self.assertRaises(NoAnswer) as caught:
            cut_list(1000.01, 1, 1000, 2)
        self.assertIn("longer than what a bought bar gives", caught.exception.reason)
        with self.assertRaises(NoAnswer):
            cut_list(990, 1, 1000, 2, end_trim=5)

    def test_the_lattice_holds_tenths_and_sixty_fourths(self):
        self.assertEqual((LATTICE * 0.1) % 1, 0)
        self.assertAlmostEqual((LATTICE * 25.4 / 64) % 1, 0)

    @given(st.lists(st.integers(1, 100), max_size=40))
    def test_first_fit_decreasing(self, weights):
        bins = first_fit(weights, 100)
        self.assertEqual(sorted(i for b in bins for i in b), list(range(len(weights))))
        loads = [sum(weights[i] for i in b) for b in bins]
        self.assertTrue(all(0 < load <= 100 for load in loads))
        self.assertLessEqual(len(bins), 11 / 9 * math.ceil(sum(weights) / 100) * 1.6 + 1)
        for later in range(1, len(bins)):  # the first piece of a bar fitted none before it
            first = weights[bins[later][0]]
            for earlier in range(later):
                larger = sum(weights[i] for i in bins[earlier] if (-weights[i], i) < (-first, bins[later][0]))
                self.assertGreater(larger + first, 100)


class Csv(unittest.TestCase):
    def test_rows_are_the_plan(self):
        found = answer(read_piece(demo_files()[1]))
        rows = list(csv.DictReader(io.StringIO(cut_list_csv(found.piece, found.cuts, Measure("in", 32)))))
        sawn = [r for r in rows if r["what"] != "remnant"]
        self.assertEqual(len(sawn), found.piece.order.quantity)
        self.assertEqual({r["length_mm"] for r in sawn}, {f"{found.reckoning.cut:.3f}"})
        self.assertTrue(all(r["length"].isascii() and " in" in r["length"] for r in rows))
        total = sum(float(r["mass_g"]) for r in sawn)
        self.assertAlmostEqual(total, found.reckoning.stock_mass * len(sawn), delta=0.1 * len(sawn))

    def test_a_name_that_looks_like_a_formula_is_not_run(self):
        found = answer(replace(read_piece(demo_files()[0]), name='=1+1,"x"'))
        row = next(csv.DictReader(io.StringIO(cut_list_csv(found.piece, found.cuts, Measure()))))
        self.assertEqual(row["what"], '\'=1+1,"x"')
