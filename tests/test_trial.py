"""Test pieces: what is measured on a piece that was made so comes back, narrows the doubt, and survives the file."""

import math
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.choosing import Source, rank
from long_ember.demo import demo_files
from long_ember.document import forget_measured, set_field, set_measured
from long_ember.errors import NoAnswer, PieceFileError
from long_ember.features import KINDS, Measured, Piece
from long_ember.features.twist import twisted_length
from long_ember.sections import flat, square
from long_ember.stock import doubt_width, measured, questions, reckon, trial_piece
from long_ember.stock.trial import bend_measured, capture_measured, scale_measured, shortening_measured
from long_ember.storage import piece_from_text, piece_to_text, read_piece

DEMOS = {path.stem: read_piece(path) for path in demo_files()}


def twisted(turns: float = 3.0) -> Piece:
    return Piece(features=(KINDS["run"](id="a"), KINDS["twist"](id="t", length=150, turns=turns), KINDS["bend"](id="b", radius=12)))


class ReadBack(unittest.TestCase):
    @given(st.floats(0.3, 0.99), st.floats(0.4, 0.9))
    def test_capture(self, capture, thin):
        bar = flat(40, 10)
        width = bar.width * (1 + (bar.area / bar.width / (10 * thin) - 1) * capture)
        self.assertAlmostEqual(capture_measured(bar, width, 10 * thin), capture)

    @given(st.floats(0, 1), st.floats(0.5, 2.5), st.floats(100, 300))
    def test_shortening(self, share, turns, before):
        after = twisted_length(before, turns, square(12).gyration2, share)
        self.assertAlmostEqual(shortening_measured(square(12), turns, before, after), share, places=6)

    @given(st.floats(0.2, 0.7), st.floats(5, 60), st.floats(20, 180), st.floats(50, 300))
    def test_bend_factor(self, k, inside, angle, legs):
        whole = legs + math.radians(angle) * (inside + k * 12)
        self.assertAlmostEqual(bend_measured(angle, inside, 12, whole, legs), k, places=6)

    @given(st.floats(0, 0.1), st.integers(1, 12))
    def test_scale(self, share, heats):
        self.assertAlmostEqual(scale_measured(900, 900 * (1 - share) ** heats, heats), share)

    def test_what_can_not_be_is_refused(self):
        for wrong in (
            lambda: capture_measured(flat(40, 10), 38, 6),
            lambda: capture_measured(flat(40, 10), 50, 10),
            lambda: shortening_measured(square(12), 20, 50, 40),
            lambda: scale_measured(0, 10, 2),
            lambda: measured(questions(twisted())[0], twisted(), []),
            lambda: measured(questions(twisted())[0], twisted(), [(square(12), (150.0, 60.0))]),
        ):
            with self.assertRaises(NoAnswer):
                wrong()


class Planned(unittest.TestCase):
    def test_only_what_is_in_doubt_and_something_to_hold(self):
        for name, kinds in (
            ("lantern-bracket", {"twist", "bend", "run"}),
            ("gate-pintle", {"spread", "run"}),
            ("door-pull", {"twist", "bend", "run"}),
        ):
            trial = trial_piece(DEMOS[name], DEMOS[name].bar)
            with self.subTest(name):
                self.assertEqual({f.kind for f in trial.piece.features}, kinds)
                self.assertGreaterEqual(trial.piece.features[0].length, 6 * DEMOS[name].bar.thickness)
                self.assertEqual(trial.questions[-1].name, "scale")
                self.assertLess(reckon(trial.piece).bare, 700)

    def test_both_candidate_bars(self):
        for bar in (flat(40, 10), flat(50, 8)):
            self.assertEqual(trial_piece(DEMOS["gate-pintle"], bar).piece.bar, bar)
        with self.assertRaises(NoAnswer):
            trial_piece(Piece(features=(KINDS["run"](id="a"),)), square(12))

    def test_a_test_piece_forged_as_planned_tells_what_was_planned(self):
        piece = DEMOS["lantern-bracket"]
        trial = trial_piece(piece, piece.bar)
        for question in trial.questions[:-1]:
            told = measured(question, piece, [(piece.bar, [a.planned for a in question.asked])])
            with self.subTest(question.title):
                self.assertAlmostEqual(told.value, question.now, places=6)

    @given(st.sampled_from(sorted(DEMOS)), st.floats(0.8, 1.3))
    @settings(max_examples=12)
    def test_any_piece_of_any_bar_has_one_or_says_why_not(self, name, larger):
        piece = DEMOS[name]
        try:
            trial = trial_piece(piece, piece.bar.scaled(larger))
        except NoAnswer as error:
            self.assertTrue(error.reason and error.remedy)
            return
        kinds = {f.kind for f in trial.piece.features} - {"run", "bend"}
        self.assertTrue(kinds <= {f.kind for f in piece.features})
        self.assertEqual(len({(q.name, q.feature) for q in trial.questions}), len(trial.questions))

    def test_a_hook_stands_as_a_bend(self):
        piece = Piece(features=(KINDS["hook"](id="h"), KINDS["run"](id="r")))
        (question, _scale) = questions(piece)
        self.assertEqual((question.name, question.tested.kind), ("bend", "bend"))


class Surer(unittest.TestCase):
    def with_pinned_runs(self, piece: Piece, scale: float = 0.008) -> Piece:
        found = [Measured(name="scale", value=scale, spread=0.001), Measured(name="bend", value=0.41, spread=0.02)]
        found += [Measured(name="shortening", feature=f.id, value=0.42, spread=0.05) for f in piece.features if f.kind == "twist"]
        return set_measured(piece, found).after

    def test_the_doubt_narrows_and_the_figures_are_in_force(self):
        piece = twisted()
        after = self.with_pinned_runs(piece)
        heats = {f.id: 3.0 for f in piece.features}
        before, now = reckon(piece, heats), reckon(after, heats)
        self.assertLess(doubt_width(now), 0.97 * doubt_width(before))  # the heats stay in doubt
        self.assertLess(doubt_width(reckon(after)), 0.6 * doubt_width(reckon(piece)))
        self.assertEqual((after.features[1].shortening, after.allowances.scale), (0.42, 0.008))
        bend = now.zones[2]
        self.assertAlmostEqual(bend.stock, math.pi / 2 * (12 + 0.41 * 12))
        bend_doubt = next(d.deviation for d in now.doubts if d.name == "Bend")
        self.assertAlmostEqual(bend_doubt, math.pi / 2 * 0.01 * 12)  # a spread counts as two deviations
        self.assertLess(now.safe - now.likely, before.safe - before.likely)

    def test_changed_by_hand_afterwards_it_is_in_doubt_again(self):
        piece = self.with_pinned_runs(twisted())
        by_hand = set_field(piece, "t", "shortening", 0.5).after
        twist = lambda p: next((d.deviation for d in reckon(p).doubts if d.name == "Twist"), 0.0)  # noqa: E731
        self.assertGreater(twist(by_hand), twist(piece))
        factor = next(d for d in reckon(twisted()).doubts if d.name == "Shortening of a twist")
        self.assertGreater(factor.high - factor.low, 2 * 1.64 * 3 * twist(piece))
        forgotten = forget_measured(piece).after
        self.assertEqual((forgotten.measured, forgotten.features[1].shortening), ((), 0.42))

    def test_measured_again_replaces_and_the_rest_stays(self):
        once = self.with_pinned_runs(twisted())
        twice = set_measured(once, [Measured(name="bend", value=0.45, spread=0.01)]).after
        self.assertEqual(len(twice.measured), 3)
        self.assertEqual(twice.measurement("bend").value, 0.45)

    def test_two_pieces_are_surer_than_one_and_spread_when_they_differ(self):
        piece = DEMOS["gate-pintle"]
        question = trial_piece(piece, piece.bar).questions[0]
        one = measured(question, piece, [(flat(40, 10), (56.0, 6.5))])
        same = measured(question, piece, [(flat(40, 10), (56.0, 6.5))] * 2)
        apart = measured(question, piece, [(flat(40, 10), (56.0, 6.5)), (flat(40, 10), (52.0, 6.5))])
        self.assertLess(same.spread, one.spread)
        self.assertGreater(apart.spread, one.spread)

    def test_a_capture_settles_the_choice_of_bar(self):
        piece, own = DEMOS["gate-pintle"], [Source("mild-steel", flat(40, 10))]
        before = rank(piece, own)[0].chance
        for value, sure in ((0.6, 0.0), (0.85, 1.0)):
            after = set_measured(piece, [Measured(name="capture", feature="f8", value=value, spread=0.04)]).after
            self.assertAlmostEqual(rank(after, own)[0].chance, sure, delta=0.01)
            self.assertTrue(0.05 < before < 0.95)


class Kept(unittest.TestCase):
    @given(st.floats(0, 1), st.floats(0, 0.5))
    @settings(max_examples=20)
    def test_the_file_keeps_them_and_files_of_version_1_are_read(self, value, spread):
        piece = replace(twisted(), measured=(Measured(name="capture", feature="x", value=value, spread=spread),))
        text = piece_to_text(piece)
        self.assertEqual(piece_from_text(text), piece)
        self.assertIn('"version": 2', text)
        self.assertIn('"version": 1', piece_to_text(twisted()))

    def test_faults_are_found(self):
        text = piece_to_text(replace(twisted(), measured=(Measured(name="scale", value=0.01),)))
        for old, new, words in (
            ('"version": 2', '"version": 1', "measured"),
            ('"version": 2', '"version": 9', "newer Long Ember"),
            ('"value": 0.01', '"value": 7', "at most 1"),
            ('"name": "scale"', '"name": "luck"', "must be one of"),
        ):
            with self.subTest(new), self.assertRaises(PieceFileError) as caught:
                piece_from_text(text.replace(old, new))
            self.assertIn(words, str(caught.exception))
