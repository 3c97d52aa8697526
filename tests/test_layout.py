"""Sums turned round: one size left free, a bar used exactly, pins, pairs, repeats, tines with features of their own."""

import json
import math
import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from long_ember.document import answer, checked, fit_bar, give_bar, make_mate, repeat, set_field, turn_round
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Piece, Place, shape_of, stock_of
from long_ember.features.solve import free_names, size_of, solve_for, with_size
from long_ember.geometry import mesh, piece_bodies
from long_ember.heats import sequence
from long_ember.sections import flat, round_, square
from long_ember.storage import piece_from_text, piece_to_text
from tests.support import CASES

PLACE = Place(square(12), True, False)


def make(kind, **fields):
    return KINDS[kind](**{"id": kind, **fields})


class Solve(unittest.TestCase):
    def test_every_size_of_every_kind_comes_back_when_it_is_left_free(self):
        count = 0
        for feature in CASES:
            try:
                stock = stock_of(feature, PLACE)
            except NoAnswer:
                continue
            for name in free_names(feature):
                try:
                    target = stock_of(with_size(feature, name, size_of(feature, name) * 1.07), PLACE)
                except NoAnswer:
                    continue
                if abs(target - stock) < 1e-6 * stock:
                    continue  # that size takes no bar
                with self.subTest(kind=feature.kind, name=name):
                    self.assertAlmostEqual(stock_of(solve_for(feature, PLACE, name, target), PLACE), target, delta=1e-9 * target)
                    count += 1
        self.assertGreater(count, 140)

    def test_a_bar_gives_so_many_turns(self):
        foot = Piece(
            bar=round_(6), features=(make("run", length=30.0), make("coil", form="flat", toward="B", inside=20.0, turns=4.0, gap=0.0))
        )
        edit = fit_bar(foot, "coil", "turns", 1200.0)
        found = edit.after.features[1]
        self.assertAlmostEqual(sequence(edit.after)[0].likely, 1200.0, delta=0.5)
        # A flat coil of round bar: N turns from radius r to r + N·d along an Archimedean spiral.
        turns = found.turns
        along = quad(lambda s: math.hypot(2 * math.pi * turns * (13.0 + turns * 6.0 * s), turns * 6.0), 0, 1)[0]
        self.assertAlmostEqual(stock_of(found, edit.after.place(1)), along, delta=0.002 * along)
        self.assertEqual(free_names(found)[-1], "turns")

    @given(st.floats(6, 11.5), st.floats(20, 200))
    def test_the_four_unknowns_of_a_taper(self, root, length):
        taper = make("taper", length=length, tip=3.0, root=square(root))
        stock = length / 3 * (root**2 + 3 * root + 9) / 144  # straight-sided, square both ends
        self.assertAlmostEqual(stock_of(taper, PLACE), stock, delta=1e-9 * stock)
        self.assertAlmostEqual(solve_for(replace(taper, length=50.0), PLACE, "length", stock).length, length, delta=1e-6 * length)
        self.assertAlmostEqual(solve_for(replace(taper, tip=2.0), PLACE, "tip", stock).tip, 3, places=6)
        self.assertAlmostEqual(solve_for(replace(taper, root=square(8)), PLACE, "root", stock).root.width, root, places=6)

    def test_it_says_when_there_is_none(self):
        with self.assertRaises(NoAnswer) as caught:
            solve_for(make("taper", length=30.0), PLACE, "tip", 31.0)  # a taper never takes more than its own length
        self.assertIn("No tip", caught.exception.reason)
        edit = give_bar(Piece(features=(make("run"),)), "run", "length", 41.0)
        self.assertEqual((edit.after.features[0].length, edit.title), (41.0, "Fit run length"))


class Bars(unittest.TestCase):
    def test_a_fixed_bar_is_used_to_the_last_millimetre(self):
        piece = Piece(features=(make("scroll"), make("run", length=80.0), make("taper", toward="B")))
        for length in (300.0, 350.0, 512.5):
            likely = sequence(fit_bar(piece, "run", "length", length).after)[0].likely
            self.assertLessEqual(likely, length + 1e-6)
            self.assertGreater(likely, length - 1.0)
        for name in ("outer", "inner"):
            self.assertNotEqual(getattr(fit_bar(piece, "scroll", name, 270.0).after.features[0], name), getattr(piece.features[0], name))
        with self.assertRaises(NoAnswer):
            fit_bar(piece, "run", "length", 90.0)  # the scroll alone takes more


class Pins(unittest.TestCase):
    def middle(self, piece, index):
        sizes = [shape_of(f, piece.place(i)).length for i, f in enumerate(piece.features)]
        return sum(sizes[:index]) + sizes[index] / 2, sum(sizes)

    def test_a_hole_stays_where_it_is_pinned_whatever_stands_before_it(self):
        piece = Piece(features=(make("scroll"), make("run", pin="end-A", at=300.0), make("hole"), make("run", id="r")))
        for turns in (1.0, 1.75):
            moved = set_field(piece, "scroll", "turns", turns).after
            self.assertAlmostEqual(self.middle(moved, 2)[0], 300.0, places=6)

    def test_from_the_other_end_from_a_shoulder_and_in_the_middle(self):
        hole, tail = make("hole"), make("run", id="r", length=40.0)
        from_b = checked(Piece(features=(make("taper"), hole, make("run", pin="end-B", at=90.0), make("tenon", toward="B"))))
        at, total = self.middle(from_b, 1)
        self.assertAlmostEqual(total - at, 90.0, places=6)
        shouldered = checked(Piece(features=(make("section-change"), make("run", pin="shoulder", at=70.0), hole, tail)))
        self.assertAlmostEqual(self.middle(shouldered, 2)[0], 25 + 70, places=6)
        bend = make("bend")
        behind = checked(Piece(features=(make("section-change"), bend, make("run", pin="shoulder", at=170.0), hole, tail)))
        at, _total = self.middle(behind, 3)
        before, _total = self.middle(behind, 0)
        self.assertAlmostEqual(at, before + 12.5 + 170.0, places=6)
        centred = checked(Piece(features=(make("run", pin="centre"), hole, make("run", id="r", length=140.0))))
        at, total = self.middle(centred, 1)
        self.assertAlmostEqual(at, total / 2, places=6)

    def test_no_room_is_said_and_the_pin_names_itself(self):
        for features in (
            (make("scroll"), make("run", pin="end-A", at=60.0), make("hole")),
            (make("run", pin="shoulder"), make("hole")),
            (make("hole"), make("run", pin="end-A")),
        ):
            with self.subTest(features=len(features)), self.assertRaises(NoAnswer) as caught:
                checked(Piece(features=features))
            self.assertEqual(caught.exception.feature_id, "run")


class Pairs(unittest.TestCase):
    def test_the_mate_of_the_mate_is_the_piece(self):
        piece = Piece(features=(make("bend", facing=60.0), make("twist", turns=1.0), make("coil", toward="B")))
        mate = make_mate(piece).after
        self.assertEqual([mate.features[0].facing, mate.features[1].hand, mate.features[2].hand], [300.0, "left", "left"])
        self.assertEqual(replace(make_mate(mate).after, name=piece.name), piece)
        ours, theirs = (max(abs(b.mesh.points[:, 2]).max() for b in piece_bodies(p)) for p in (piece, mate))
        self.assertAlmostEqual(ours, theirs, delta=0.5)

    def test_exchanged_ends_keep_every_volume(self):
        piece = Piece(features=(make("scroll"), make("run"), make("tenon", toward="B")))
        other = turn_round(piece).after
        self.assertEqual([f.kind for f in other.features], ["tenon", "run", "scroll"])
        self.assertAlmostEqual(answer(other).reckoning.bare, answer(piece).reckoning.bare, places=9)
        self.assertEqual(turn_round(other).after, piece)

    def test_repeats_stand_at_their_pitch(self):
        piece = Piece(features=(make("run", id="a"), make("hole", length=20.0), make("run", id="b")))
        after = repeat(piece, "hole", 4, 32.0).after
        self.assertEqual([f.kind for f in after.features], ["run", *(["hole", "run"] * 4)][: len(after.features)])
        self.assertEqual(sum(f.length for f in after.features[1:8]), 4 * 20 + 3 * 12)
        self.assertEqual(len({f.id for f in after.features}), len(after.features))
        with self.assertRaises(NoAnswer):
            repeat(piece, "hole", 2, 15.0)


class Tines(unittest.TestCase):
    SPLIT = make("split", cut=90.0, radius=6.0, upper=(make("taper", id="t", length=60.0), make("hole", id="h", diameter=2.5, length=12.0)),
                 lower=(make("curl", id="c", inner=3.0, outer=9.0, tip=square(3)),))  # fmt: skip

    def test_steel_is_kept_with_features_on_the_tines(self):
        for bar in (square(20), flat(30, 20)):
            for toward in "AB":
                split, place = replace(self.SPLIT, toward=toward), Place(bar, toward == "A", toward == "B")
                shape = shape_of(split, place)
                self.assertAlmostEqual(shape.volume + split.removed(place), (90 + 8) * bar.area, delta=1e-6 * shape.volume)
                self.assertAlmostEqual(mesh(shape).volume, shape.volume, delta=0.01 * shape.volume)
                lengths = [b.shape.length for b in shape.branches]
                self.assertGreater(lengths[0], lengths[1])  # the taper grows, the curl less

    def test_a_short_cut_opened_to_the_side_has_its_sum_and_its_mate(self):
        tines = {"upper": (make("taper", id="t", length=9.0, tip=5.0),), "lower": ()}
        split, place = make("split", cut=25.0, angle=90.0, across="width", radius=3.0, root=6.0, **tines), Place(square(20), True, False)
        shown = [b.shape.length for b in shape_of(split, place).branches]
        told = [q.value for q in split.sum_lines(place)[1].values]
        self.assertEqual(told, shown)
        self.assertNotEqual(*shown)
        self.assertTrue(split.checks(place))
        mate = make_mate(Piece(bar=square(20), features=(split, make("run")))).after.features[0]
        self.assertEqual((mate.upper, len(mate.lower)), ((), 1))

    def test_what_does_not_fit_the_cut_is_refused_and_work_on_the_tine_is_planned(self):
        with self.assertRaises(NoAnswer):
            shape_of(replace(self.SPLIT, cut=30.0), Place(square(20), True, False))
        verbs = [o.verb for o in self.SPLIT.operations(Place(square(20), True, False))]
        self.assertEqual(verbs, ["split", "draw", "draw", "bend", "drill", "curl"])

    def test_a_welded_bar_brings_its_own_steel(self):
        place = Place(square(20), True, False)
        plain, forged = make("extension"), make("extension", beyond=(make("eye", inside=30.0), make("neck", size=6.0)))
        self.assertAlmostEqual(stock_of(plain, place), stock_of(forged, place), places=9)
        self.assertGreater(forged.added(place), plain.added(place))
        total = shape_of(forged, place).volume
        self.assertAlmostEqual(stock_of(forged, place) * 400, total + forged.removed(place) - forged.added(place), delta=1e-9 * total)

    def test_files_keep_them_and_refuse_branches_without_end(self):
        piece = Piece(bar=square(20), features=(self.SPLIT, make("run")))
        text = piece_to_text(piece)
        self.assertEqual(piece_from_text(text), piece)
        data = json.loads(text)
        data["features"][0]["upper"][0]["tip"] = "sharp"
        with self.assertRaises(Exception) as caught:
            piece_from_text(json.dumps(data))
        self.assertIn("$.features[0].upper[0].tip", str(caught.exception))
        nested = data["features"][0]
        nested["upper"] = []
        for _ in range(12):
            nested = {**nested, "upper": [nested]}
        data["features"][0] = nested
        with self.assertRaises(Exception) as caught:
            piece_from_text(json.dumps(data))
        self.assertIn("deeper", str(caught.exception))
        self.assertAlmostEqual(make_mate(piece).after.features[0].upper[0].length, 60.0)

    def test_a_tine_is_as_large_as_the_arithmetic_says(self):
        tine = self.SPLIT.tine_bar(Place(square(20), True, False))
        self.assertAlmostEqual(tine.area, (400 - 20) / 2)
        round_about = self.SPLIT.sum_lines(Place(square(20), True, False))[0].values[-1].value
        self.assertAlmostEqual(round_about, 2 * math.sqrt(190 / math.pi))
        self.assertEqual(round_(5).form_is_round, True)
