"""Cutting jobs: every piece once, no bar exceeded, never dearer than first-fit, bounds that hold, optimal on small ones; on the terminal."""

import contextlib
import csv
import io
import itertools
import json
import tempfile
import unittest
from collections import Counter
from dataclasses import replace
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from long_ember.cli.main import main
from long_ember.cutting import Bar, Problem, Rules, Supply, Wanted, best_cut, cutting, fit, verify
from long_ember.demo import demo_parcel
from long_ember.document.jobs import job_problems
from long_ember.errors import EmberError, NoAnswer
from long_ember.sections import square
from long_ember.shop import Job, JobLine, Price, RackItem, Shop
from long_ember.storage import parcel_text


@st.composite
def problems(draw, most=6):
    """Pieces of odd lengths on bought bars and a few offcuts, some forged on the bar."""
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


class Plans(unittest.TestCase):
    @given(problems())
    def test_whole_plans_never_dearer_than_first_fit_and_never_below_the_bound(self, problem):
        first = None
        for plan in itertools.islice(cutting(problem), 12):
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

    def test_triplets_whose_best_plan_is_known(self):
        lengths = [(450, 300, 250), (400, 320, 280), (480, 265, 255), (390, 330, 280), (410, 300, 290), (460, 275, 265), (420, 310, 270)]
        counts = Counter(itertools.chain.from_iterable(lengths))
        problem = Problem(
            tuple(Wanted(str(x), float(x), n) for x, n in counts.items()), (Supply("bar", 1000.0, 0.0),), Rules(kerf=0.0, keep=1e6)
        )
        best = best_cut(problem, 20.0)
        self.assertEqual((len(best.bars), best.proven), (len(lengths), True))

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
        costs = [problem.cost(0, used) for used in range(problem.rooms[0] + 1)]
        self.assertEqual(costs, sorted(costs))  # using more never costs less

    def test_bad_input_is_answered_by_name(self):
        bar = (Supply("bar", 1000.0, 1.0),)
        for make, words in (
            (lambda: Problem((Wanted("Gate", 1200.0, 1),), bar, Rules()), "Gate is longer than any bar"),
            (lambda: Problem((Wanted("Gate", 0.0, 1),), bar, Rules()), "Gate"),
            (lambda: Problem((Wanted("Gate", 10.0, -1),), bar, Rules()), "Gate"),
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


class Jobs(unittest.TestCase):
    def test_a_job_by_material_and_section_with_spares(self):
        parcel = demo_parcel()
        pieces = {item.id: item.piece for item in parcel.pieces}
        job = Job(
            lines=(
                JobLine(piece="oar-cradle", quantity=2, spare=1),
                JobLine(piece="lantern-bracket", quantity=1),
                JobLine(piece="caulking-iron"),
            )
        )
        rack, prices = (RackItem(section=square(12), length=640, count=2),), (Price(section=square(12), length=6000, price=16.4),)
        found = job_problems(job, pieces, rack, prices, Shop(), bench=Shop().bench)
        self.assertEqual([c.problem.demands for c in found], [(3,), (1,), (1,)])
        self.assertEqual([(s.length, s.count) for s in found[1].problem.supplies], [(640.0, 2), (6000.0, None)])
        self.assertEqual(found[0].problem.supplies[0].length, Shop().bar_length)  # nothing in the catalogue: the usual length
        with self.assertRaises(NoAnswer):
            job_problems(Job(lines=(JobLine(piece="gone"),)), pieces, rack, prices, Shop(), bench=Shop().bench)

    def test_on_the_terminal(self):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "mine.ember"
            text = Path(folder) / "all.json"
            text.write_text(parcel_text(demo_parcel()))
            self.said("import", str(text), "--book", str(path))
            words = self.said("cut", "Slipway moorings", "--book", str(path))
            self.assertIn("no cheaper plan exists", words)
            self.assertEqual(words.count("Mooring ring"), 6)
            self.assertEqual(words.count("Mooring staple"), 7)  # one spare
            rows = list(csv.DictReader(io.StringIO(self.said("cut", "job-2", "--csv", "--book", str(path)))))
            self.assertEqual(len(rows), 13)
            for a, b in itertools.pairwise(rows):
                if a["bar"] == b["bar"]:
                    self.assertGreaterEqual(float(b["from_mm"]), float(a["to_mm"]))
            data = json.loads(self.said("cut", "job-2", "--json", "--book", str(path)))
            self.assertEqual(sum(len(b["cuts"]) for c in data["cuttings"] for b in c["bars"]), 13)
            with contextlib.redirect_stderr(io.StringIO()) as told:
                self.assertEqual(main(["cut", "no such job", "--book", str(path)]), 1)
            self.assertIn("Slipway moorings", told.getvalue())

    def said(self, *arguments):
        with contextlib.redirect_stdout(io.StringIO()) as out:
            self.assertEqual(main(list(arguments)), 0)
        return out.getvalue()
