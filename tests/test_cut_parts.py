"""The parts of the search for a cheap cutting plan, each against a second method: knapsack, patterns, linear and integer programme, ties."""

import contextlib
import gc
import itertools
import subprocess
import unittest
from unittest import mock

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.optimize import linprog

from long_ember.cutting import Bar, Problem, Rules, Supply, Wanted, cutting, fit, verify
from long_ember.cutting.knapsack import SCALE, Knapsack, doubled
from long_ember.cutting.master import CountBox, Master, trimmed
from long_ember.cutting.patterns import patterns
from long_ember.cutting.ties import tidied
from long_ember.cutting.whole import Helper, solve
from long_ember.errors import EmberError


@st.composite
def small(draw):
    """Few lengths on short bars, so that every pattern can be listed."""
    wanted = tuple(
        Wanted(f"p{i}", float(draw(st.integers(3, 15))), draw(st.integers(1, 3)), held, 2.0 if held else None)
        for i, held in enumerate(draw(st.lists(st.booleans(), min_size=1, max_size=4)))
    )
    supplies = (Supply("long", 30.0, 3.0), Supply("offcut", float(draw(st.integers(18, 25))), 0.0, draw(st.integers(1, 2))))
    return Problem(wanted, supplies, Rules(float(draw(st.integers(0, 2))), 0.0, float(draw(st.integers(0, 6))), 8.0))


def all_patterns(problem, supply):
    """Every way to fill a bar, by counting."""
    for counts in itertools.product(*(range(d + 1) for d in problem.demands)):
        used = sum(n * w for n, w in zip(counts, problem.weights, strict=True))
        held = sum(n * w for n, w, h in zip(counts, problem.weights, problem.held, strict=True) if h)
        if any(counts) and used <= problem.rooms[supply] and (not held or held <= problem.limits[supply]):
            yield Bar(supply, counts), used


worths = st.lists(st.integers(0, 4000), min_size=4, max_size=4)


class Knapsacks(unittest.TestCase):
    @given(small(), worths)
    def test_the_best_pattern_of_every_supply_is_the_best_of_all(self, problem, worth):
        worth = [w * SCALE for w in worth[: len(problem.wanted)]]
        bars, gains = Knapsack(problem).priced(worth, problem.demands)
        for s in range(len(problem.supplies)):
            every = [
                (sum(n * w for n, w in zip(b.counts, worth, strict=True)) - problem.cost(s, u) * SCALE, b)
                for b, u in all_patterns(problem, s)
            ]
            empty = -problem.cost(s, 0) * SCALE
            self.assertEqual(gains[s], max([empty, *(gain for gain, _b in every)]))
            self.assertLessEqual(set(bars[s]), {b for _g, b in every})

    @given(st.integers(0, 500))
    def test_doubled_copies_reach_every_number_and_no_more(self, number):
        parts = doubled(number)
        self.assertEqual(sum(parts), number)
        self.assertEqual({sum(c) for n in range(len(parts) + 1) for c in itertools.combinations(parts, n)}, set(range(number + 1)))

    def test_with_many_lengths_every_piece_gets_the_best_pattern_that_holds_it_once(self):
        lengths = [11, 13, 17, 19, 23, 29, 31]
        problem = Problem(tuple(Wanted(str(x), float(x), 2) for x in lengths), (Supply("bar", 60.0, 1.0),), Rules(0.0, keep=1e6))
        worth = [x * x * SCALE for x in lengths]
        with mock.patch("long_ember.cutting.knapsack._MANY", 1):
            found = Knapsack(problem).with_each(worth, problem.demands, [-1e30])
        best = {}
        for bar, _used in all_patterns(problem, 0):
            value = sum(n * w for n, w in zip(bar.counts, worth, strict=True))
            for i, n in enumerate(bar.counts):
                if n == 1:
                    best[i] = max(best.get(i, 0), value)
        values = {b: sum(n * w for n, w in zip(b.counts, worth, strict=True)) for b in found}
        for i, most in best.items():
            self.assertEqual(max(v for b, v in values.items() if b.counts[i] == 1), most, lengths[i])
        for bar in found:
            self.assertLessEqual(problem.used(bar), problem.rooms[0])


class Listing(unittest.TestCase):
    @given(small(), worths, st.integers(0, 3000))
    def test_all_patterns_within_the_gap_and_no_other(self, problem, worth, slack):
        worth = [w * SCALE for w in worth[: len(problem.wanted)]]
        _bars, gains = Knapsack(problem).priced(worth, problem.demands)
        box = CountBox((0, 0), (3, problem.supplies[1].count))
        listed = patterns(problem, worth, gains, slack * SCALE, box)
        wanted = {
            b for s in (0, 1) for b, u in all_patterns(problem, s)
            if problem.cost(s, u) * SCALE + gains[s] - sum(n * w for n, w in zip(b.counts, worth, strict=True)) <= slack * SCALE
        }  # fmt: skip
        self.assertEqual((set(listed), len(listed)), (wanted, len(wanted)))

    def test_it_gives_up_where_there_are_too_many(self):
        problem = Problem(tuple(Wanted(str(x), float(x), 40) for x in range(3, 30)), (Supply("bar", 300.0, 1.0),), Rules(0.0, keep=1e6))
        self.assertIsNone(patterns(problem, [0] * 27, [0], 1 << 60, CountBox((0,), (99,))))


class Programmes(unittest.TestCase):
    @given(small(), st.integers(0, 2))
    def test_the_warm_programme_says_what_a_cold_one_says(self, problem, more):
        columns = [b for s in (0, 1) for b, _u in all_patterns(problem, s)]
        assume(columns)
        box = CountBox((0, 0), (2 + more, problem.supplies[1].count))
        master = Master(problem)
        for half in (columns[::2], columns[1::2]):  # added in two goes: the second one starts from the first one's solution
            master.add(half)
            master.within(box)
            solved = master.solve()
        dear = 20.0 * max(float(problem.costs(s)[-1]) for s in (0, 1))
        pieces = len(problem.demands)
        costs = [problem.cost(b.supply, problem.used(b)) + 1 / 4096 for b in master.bars] + [dear] * pieces
        made = np.hstack((np.array([b.counts for b in master.bars]).T, np.eye(pieces)))
        taken = np.hstack((np.array([[float(b.supply == s) for b in master.bars] for s in (0, 1)]), np.zeros((2, pieces))))
        cold = linprog(
            costs, A_ub=np.vstack((-made, taken)), b_ub=[*(-float(d) for d in problem.demands), *map(float, box.high)], method="highs"
        )
        self.assertAlmostEqual(solved.money, cold.fun, delta=1e-6 * max(1.0, cold.fun))
        bound = float(solved.worth @ np.array(problem.demands)) + float(solved.extra @ np.array(box.high, dtype=float))
        self.assertAlmostEqual(solved.money, bound, delta=1e-4 * max(1.0, cold.fun))  # strong duality, with the duals of the counts

    def test_the_step_holds_every_size_and_trimmed_ends_are_looked_at(self):
        def problem(length: float, **rules: float) -> Problem:
            return Problem((Wanted("a", length, 1),), (Supply("bar", 1000.0, 1.0),), Rules(**rules))

        self.assertEqual([problem(100.0, kerf=k).step for k in (0.0, 2.0, 0.5)], [100.0, 2.0, 0.5])
        for length, fits in ((974.0, True), (974.5, False)):
            with self.subTest(length), contextlib.nullcontext() if fits else self.assertRaises(EmberError):
                problem(length, kerf=3.0, trim=10.0)
        two = Problem((Wanted("a", 485.5, 2),), (Supply("bar", 1000.0, 1.0),), Rules(kerf=3.0, trim=10.0))
        verify(two, (Bar(0, (2,)),))  # 26 for both trimmed ends, 2 × 485.5, and one cut between
        over = Problem((Wanted("a", 486.0, 2),), (Supply("bar", 1000.0, 1.0),), Rules(kerf=3.0, trim=10.0))
        with self.assertRaises(EmberError):
            verify(over, (Bar(0, (2,)),))

    def test_counts_that_cannot_be_had_are_told(self):
        problem = Problem((Wanted("a", 10.0, 2),), (Supply("bar", 30.0, 1.0),), Rules())
        master = Master(problem)
        master.add(fit(problem))
        master.within(CountBox((0,), (0,)))
        self.assertGreater(master.solve().missing, 0)
        master.within(CountBox((3,), (2,)))
        self.assertIsNone(master.solve())

    def test_the_child_process_finds_the_best_plan_says_when_there_is_none_and_can_be_stopped(self):
        problem = Problem((Wanted("a", 400.0, 3), Wanted("b", 500.0, 3)), (Supply("bar", 1000.0, 1.0),), Rules(0.0, keep=1e6))
        listed = [Bar(0, counts) for counts in ((2, 0), (1, 1), (0, 2), (1, 0), (0, 1))]
        helper = Helper()
        self.addCleanup(helper.stop)
        for below, wanted in ((5000, 3), (2999, None)):
            helper.ask(problem, listed, CountBox((0,), (9,)), below, 10.0)
            while not helper.ready(0.2):
                pass
            found, ended = helper.found()
            self.assertTrue(ended)
            self.assertEqual(None if found is None else len(trimmed(problem, found)), wanted)
        running = helper._process
        helper.stop()
        self.assertIsNotNone(running.poll())
        helper.ask(problem, listed, CountBox((0,), (9,)), 5000, 10.0)
        helper._process.kill()
        helper.ready(5.0)
        self.assertEqual(helper.found(), (None, False))  # it died: nothing is proven
        row = {"costs": [1000], "columns": [[[0], [1]]], "rows": [[1, None]], "below": 5000, "seconds": 5.0}
        self.assertEqual(solve(row), {"status": "optimal", "values": [1]})

    def test_a_search_that_is_left_takes_its_child_process_along(self):
        draw = np.random.default_rng(3)
        wanted = tuple(Wanted(f"p{i}", float(draw.integers(120, 1400)), int(draw.integers(3, 25))) for i in range(9))
        offcuts = tuple(Supply(f"o{i}", float(draw.integers(300, 1800)), 0.0, 1) for i in range(6))
        plans = cutting(Problem(wanted, (Supply("short", 3000.0, 30.0), Supply("long", 6000.0, 55.0), *offcuts), Rules()))
        popen = subprocess.Popen
        with mock.patch("long_ember.cutting.whole.subprocess.Popen", side_effect=lambda *given, **named: popen(*given, **named)) as begun:
            for _plan in plans:
                if begun.call_count:
                    break
        process = next(o for o in gc.get_objects() if isinstance(o, Helper) and o._process)._process
        plans.close()
        self.assertIsNotNone(process.poll())


class Ties(unittest.TestCase):
    @given(small())
    def test_never_worse_the_same_pieces_no_bar_overrun(self, problem):
        assume(all(w <= problem.rooms[0] for w in problem.weights))
        before = fit(problem)
        after = tidied(problem, before, 1.0)
        verify(problem, after)
        self.assertLessEqual(problem.total(after), problem.total(before))

    def test_fewer_ways_to_set_the_stop(self):
        problem = Problem((Wanted("a", 300.0, 2), Wanted("b", 200.0, 2)), (Supply("bar", 1000.0, 1.0),), Rules(0.0, keep=1e6))
        mixed = (Bar(0, (2, 0)), Bar(0, (0, 2)))
        self.assertEqual(len(set(tidied(problem, mixed))), 1)
