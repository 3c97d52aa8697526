"""Cutting jobs: every piece once, no bar exceeded, never dearer than first-fit, bounds that hold, optimal on small ones."""

import itertools
import random
import unittest
from collections import Counter
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from long_ember.cutting import Bar, Problem, Rect, Rules, Sheet, Supply, Wanted, best_cut, cutting, fit, placed, verify
from long_ember.errors import EmberError, NoAnswer


@st.composite
def problems(draw, most=6):
    """Pieces of odd lengths on bought bars and a few offcuts, some forged on the bar and cut off it hot."""
    longest = draw(st.sampled_from((600.0, 1000.0, 3000.0)))
    lengths = st.floats(40.0, longest * 0.7).map(lambda x: round(x, 1))
    wanted = tuple(
        Wanted(f"piece {i}", draw(lengths), draw(st.integers(1, 4)), held, draw(st.sampled_from((None, 0.0, 5.0))) if held else None)
        for i, held in enumerate(draw(st.lists(st.booleans(), min_size=1, max_size=most)))
    )
    bought = [Supply("long", longest, draw(st.sampled_from((0.0, 12.5, 30.0))))]
    if draw(st.booleans()):
        bought.append(Supply("double", 2 * longest, draw(st.sampled_from((0.0, 20.0, 55.0)))))
    offcuts = [Supply(f"offcut {i}", draw(lengths), 0.0, draw(st.integers(0, 2))) for i in range(draw(st.integers(0, 3)))]
    rules = Rules(
        draw(st.sampled_from((0.0, 2.0, 3.2))),
        draw(st.sampled_from((0.0, 5.0))),
        draw(st.sampled_from((0.0, 60.0))),
        draw(st.sampled_from((100.0, 300.0))),
    )
    return Problem(wanted, (*bought, *offcuts), rules)


def cheapest(problem):
    """Least money by trying every way to fill bars, largest piece first; for very small problems only."""
    pieces = sorted((i for i, d in enumerate(problem.demands) for _ in range(d)), key=lambda i: (not problem.held[i], -problem.weights[i]))
    best = [None]

    def place(k, bars):
        if k == len(pieces):
            money = problem.total([Bar(s, tuple(c)) for s, c in bars])[0]
            best[0] = money if best[0] is None else min(best[0], money)
            return
        i, seen = pieces[k], set()
        for s, counts in bars:
            key = (s, tuple(counts))
            used = sum(n * w for n, w in zip(counts, problem.weights, strict=True))
            room = problem.limits[s] if problem.held[i] else problem.rooms[s]
            if key not in seen and used + problem.weights[i] <= room:
                seen.add(key)
                counts[i] += 1
                place(k + 1, bars)
                counts[i] -= 1
        for s, supply in enumerate(problem.supplies):
            room = problem.limits[s] if problem.held[i] else problem.rooms[s]
            if (supply.count is None or sum(b[0] == s for b in bars) < supply.count) and problem.weights[i] <= room:
                place(k + 1, [*bars, (s, [int(j == i) for j in range(len(problem.weights))])])

    place(0, [])
    return best[0]


def counted(lengths, bar):
    return Problem(
        tuple(Wanted(str(x), float(x), n) for x, n in Counter(lengths).items()), (Supply("bar", bar, 1.0),), Rules(kerf=0.0, keep=1e6)
    )


class Plans(unittest.TestCase):
    @given(problems())
    def test_whole_plans_never_dearer_than_first_fit_and_never_below_the_bound(self, problem):
        first = None
        for plan in itertools.islice(cutting(problem), 25):
            verify(problem, plan.bars)
            first = plan.money if first is None else first
            self.assertLessEqual(plan.money, first)
            self.assertLessEqual(plan.bound, plan.money)
            self.assertEqual(plan.proven, plan.gap == 0.0)
        self.assertEqual(first, problem.total(fit(problem))[0])

    @given(problems(most=3))
    def test_as_cheap_as_every_other_way_on_small_jobs(self, problem):
        problem = replace(problem, wanted=tuple(replace(w, quantity=min(w.quantity, 2)) for w in problem.wanted))
        best = best_cut(problem, 20.0)
        self.assertEqual(best.money, cheapest(problem))
        self.assertTrue(best.proven)

    def test_triplets_and_uniform_pieces_whose_least_number_of_bars_is_known(self):
        draw, lengths = random.Random(5), []
        for _ in range(40):
            a = draw.randint(380, 490)
            b = draw.randint(250, (1000 - a) // 2)
            lengths += [a, b, 1000 - a - b]
        best = best_cut(counted(lengths, 1000.0), 30.0)
        self.assertEqual((len(best.bars), best.proven), (40, True))
        lengths = [draw.randint(20, 100) for _ in range(250)]
        best = best_cut(counted(lengths, 150.0), 30.0)
        self.assertTrue(best.proven)
        self.assertGreaterEqual(len(best.bars) * 150, sum(lengths))  # a bound of its own
        self.assertGreaterEqual(len(best.bars), sum(x > 75 for x in lengths))

    def test_counts_of_two_bought_lengths_are_branched_on(self):
        draw = random.Random(4)  # ten branchings
        wanted = tuple(Wanted(f"p{i}", float(draw.randint(120, 1400)), draw.randint(3, 25)) for i in range(7))
        offcuts = (Supply(f"offcut {i}", float(draw.randint(300, 1800)), 0.0, 1) for i in range(6))
        problem = Problem(wanted, (Supply("short", 3000.0, 30.0), Supply("long", 6000.0, 55.0), *offcuts), Rules())
        best = best_cut(problem, 30.0)
        self.assertLess(best.gap, 0.001)
        self.assertLess(best.money, problem.total(fit(problem))[0])

    def test_the_last_cut_is_free_and_rounding_never_overruns(self):
        exact = Problem((Wanted("a", 499.0, 2),), (Supply("bar", 1000.0, 1.0),), Rules(kerf=2.0))
        self.assertEqual(len(best_cut(exact).bars), 1)
        for over in (499.01, 499.1, 500.0):
            longer = Problem((Wanted("a", over, 2),), (Supply("bar", 1000.0, 1.0),), Rules(kerf=2.0))
            self.assertEqual(len(best_cut(longer).bars), 2)
        thirds = Problem((Wanted("a", 25.4 * 3 + 25.4 / 64, 4), Wanted("b", 33.3, 7)), (Supply("bar", 200.0, 1.0),), Rules(kerf=1.5))
        verify(thirds, best_cut(thirds).bars)

    def test_remnants_offcuts_and_what_must_be_held(self):
        problem = Problem((Wanted("a", 400.0, 1),), (Supply("new", 3000.0, 30.0), Supply("offcut", 640.0, 0.0, 1)), Rules())
        self.assertEqual(best_cut(problem).bars[0].supply, 1)  # an offcut before a new bar
        held = Problem(
            (Wanted("a", 400.0, 1, held=True),), (Supply("new", 3000.0, 30.0), Supply("offcut", 640.0, 0.0, 1)), Rules(hold=300.0)
        )
        self.assertEqual(best_cut(held).bars[0].supply, 0)  # too short to hold
        hot = Problem((Wanted("a", 300.0, 3, True, 10.0),), (Supply("bar", 1000.0, 1.0),), Rules(hold=70.0))
        self.assertEqual([len(best_cut(p).bars) for p in (hot, replace(hot, rules=Rules(hold=71.0)))], [1, 2])  # 3 × 310 + 70
        costs = problem.costs(0).tolist()
        self.assertEqual(costs, sorted(costs))  # using more never costs less
        whole = (Supply("new", 3000.0, 30.0), Supply("whole", 640.0, 0.0, 1, 0.25), Supply("offcut", 640.0, 0.0, 1))
        self.assertEqual(best_cut(replace(problem, supplies=whole)).bars[0].supply, 2)  # whole bars last

    def test_bad_input_is_answered_by_name(self):
        bar = (Supply("bar", 1000.0, 1.0),)
        for make, words in (
            (lambda: Problem((Wanted("Gate", 1200.0, 1),), bar, Rules()), "Gate is longer than any bar"),
            (lambda: Problem((Wanted("Gate", 0.0, 1),), bar, Rules()), "Gate"),
            (lambda: Problem((Wanted("Gate", 10.0, -1),), bar, Rules()), "Gate"),
            (lambda: Problem((Wanted("Gate", 10.0, 1, True, -1.0),), bar, Rules()), "Gate"),
            (lambda: Problem((Wanted("Gate", 10.0, 1),), (Supply("Rack", 100.0, 0.0, -2),), Rules()), "Rack"),
            (lambda: Problem((Wanted("Gate", 10.0, 1),), bar, Rules(kerf=-1.0)), "Saw cut"),
            (lambda: fit(Problem((Wanted("Gate", 90.0, 5),), (Supply("Rack", 100.0, 0.0, 2),), Rules())), "do not hold all"),
        ):
            with self.assertRaises(NoAnswer) as caught:
                make()
            self.assertIn(words, str(caught.exception))
        self.assertEqual(best_cut(Problem((Wanted("a", 100.0, 3),), bar, Rules(kerf=0.0))).bars[0].counts, (3,))  # no saw cut at all

    def test_a_wrong_plan_is_found_out(self):
        problem = Problem((Wanted("a", 400.0, 2),), (Supply("bar", 1000.0, 1.0),), Rules())
        for bars in ((), (Bar(0, (1,)),), (Bar(0, (2,)), Bar(0, (1,)))):
            with self.assertRaises(EmberError):
                verify(problem, bars)
        with self.assertRaises(EmberError):
            verify(Problem((Wanted("a", 400.0, 3),), (Supply("bar", 1000.0, 1.0),), Rules()), (Bar(0, (3,)),))
        with self.assertRaises(EmberError):  # room for the pieces, none to hold
            verify(Problem((Wanted("a", 400.0, 2, True),), (Supply("bar", 1000.0, 1.0),), Rules(hold=250.0)), (Bar(0, (2,)),))


class Sheets(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.floats(20, 900), st.floats(20, 900), st.integers(0, 6), st.booleans()), min_size=1, max_size=5),
        st.floats(0, 20),
        st.floats(0, 6),
    )
    def test_every_blank_once_none_over_another_none_over_the_edge_nor_against_the_grain(self, rows, margin, gap):
        rects = [Rect(f"r{i}", x, y, n, t) for i, (x, y, n, t) in enumerate(rows)]
        sheets = (Sheet("rack", 1000.0, 950.0, 0.0, 1), Sheet("bought", 2000.0, 1000.0, 58.0))
        found = placed(rects, sheets, gap=gap, margin=margin)
        self.assertEqual(Counter(b.name for p in found for b in p.blanks), Counter({r.name: r.count for r in rects if r.count}))
        by_name = {r.name: r for r in rects}
        for plan in found:
            self.assertLessEqual(plan.area, plan.used * plan.sheet.width + 1e-6)
            for b in plan.blanks:
                self.assertTrue(margin - 1e-6 <= b.x and b.x + b.length <= plan.sheet.length - margin + 1e-6)
                self.assertTrue(margin - 1e-6 <= b.y and b.y + b.width <= plan.sheet.width - margin + 1e-6)
                self.assertLessEqual(b.x + b.length, plan.used + 1e-6)
                self.assertTrue(by_name[b.name].turns or not b.turned)
            for a, b in itertools.combinations(plan.blanks, 2):
                apart = max(a.x - b.x - b.length, b.x - a.x - a.length, a.y - b.y - b.width, b.y - a.y - a.width)
                self.assertGreaterEqual(apart, gap - 1e-6)

    def test_too_large_is_answered_by_name(self):
        for rect in (Rect("Tray", 1200.0, 1100.0, 1), Rect("Tray", 900.0, 1500.0, 1, False), Rect("Tray", 0.0, 5.0, 1)):
            with self.assertRaises(NoAnswer) as caught:
                placed([rect], [Sheet("bought", 2000.0, 1000.0)])
            self.assertIn("Tray", str(caught.exception))
