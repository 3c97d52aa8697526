"""One table of kinds, odd forms included, crossed with everything a feature must do."""

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from scipy.integrate import quad

from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Piece, Place, checks_of, shape_of, stock_of
from long_ember.fields import Flag, Length, Text, specs
from long_ember.geometry import DONE, UNDONE, Progress, figure, piece_figure, stage_shape, trace
from long_ember.sections import flat, round_, square
from long_ember.storage import piece_from_text, piece_to_text
from long_ember.units import Measure
from tests.support import BARS, CASES, places

MM = Measure()


def crossed():
    """Every case at every place that has an answer."""
    for bar in BARS:
        for place in places(bar):
            for feature in CASES:
                try:
                    shape_of(feature, place)
                except NoAnswer:
                    continue
                yield feature, place


def integrated(shape) -> float:
    """Volume by adaptive quadrature of the section along the length, less the holes."""
    total = 0.0
    for span in shape.spans:
        total += quad(lambda x, s=span: s.start.toward(s.end, x / s.length).area, 0, span.length, epsabs=0, epsrel=1e-12)[0]
    return total - sum(v.volume for v in shape.voids) + sum(integrated(b.shape) for b in shape.branches)


class EveryKind(unittest.TestCase):
    def test_volume_of_stock_is_finished_plus_removed(self):
        count = 0
        for feature, place in crossed():
            count += 1
            kept = stock_of(feature, place) * place.bar.area
            with self.subTest(kind=feature.kind, bar=place.bar.shape):
                self.assertAlmostEqual(
                    kept, integrated(shape_of(feature, place)) + feature.removed(place) - feature.added(place), delta=2e-9 * kept
                )
        self.assertGreater(count, 1500)

    def test_path_is_as_long_as_the_spans_and_the_points_follow_it(self):
        for feature, place in crossed():
            shape = shape_of(feature, place)
            with self.subTest(feature=feature):
                self.assertAlmostEqual(sum(p.length for p in shape.path), shape.length, delta=1e-9 * shape.length)
                t = trace(shape)
                for points in (t.points,) if shape.planar else ():
                    chord = np.hypot(*np.diff(points, axis=0).T).sum()
                    self.assertLessEqual(chord, shape.length * (1 + 1e-9))
                    self.assertGreater(chord, shape.length * 0.995)
                self.assertTrue(np.isfinite(t.points).all() and (np.diff(t.s) > -1e-9).all())

    def test_every_stage_keeps_the_steel(self):
        stages = (UNDONE, Progress(0.3), Progress(1.0), Progress(1.0, 0.4), Progress(0.5, 0.5))
        for feature, place in crossed():
            steel = stock_of(feature, place) * place.bar.area
            for stage in stages:
                shape = stage_shape(feature, place, stage)
                with self.subTest(feature=feature, stage=stage):
                    self.assertAlmostEqual(shape.volume, steel, delta=1e-9 * steel)
                    trace(shape)
            done = stage_shape(feature, place, DONE).volume
            self.assertAlmostEqual(done, steel - feature.removed(place) + feature.added(place), delta=2e-9 * steel)

    def test_sum_ends_in_the_stock_length_and_every_word_can_be_shown(self):
        for feature, place in crossed():
            lines = feature.sum_lines(place)
            shown = " ".join(line.show(MM) for line in lines)
            with self.subTest(feature=feature):
                self.assertIn(MM.length(stock_of(feature, place)), shown)
                for text in (shown, feature.summary().show(MM), *(c.line.show(MM) for c in checks_of(feature, place))):
                    self.assertNotRegex(text, r"nan|inf |\{|\}")
                self.assertNotIn("mm", lines[-1].show(Measure("in")))

    def test_honest_range_holds_the_likely_value(self):
        for feature, place in crossed():
            low, high = feature.stock_range(place)
            self.assertTrue(low <= stock_of(feature, place) * (1 + 1e-9) and stock_of(feature, place) <= high * (1 + 1e-9), feature)

    def test_json_keeps_it(self):
        for feature in CASES:
            piece = Piece(bar=square(26), features=(feature,))
            with self.subTest(feature=feature):
                try:
                    piece.verify()
                except NoAnswer:
                    continue
                self.assertEqual(piece_from_text(piece_to_text(piece)), piece)

    def test_operations_finish_it_once_and_are_told_in_words(self):
        for feature, place in crossed():
            operations = feature.operations(place)
            with self.subTest(feature=feature):
                self.assertEqual(bool(operations), feature.kind != "run")
                self.assertEqual(len({(o.verb, o.effect) for o in operations}), len(operations))
                self.assertTrue(all(o.tools and o.line.show(MM) for o in operations))
                self.assertTrue(all(o.seconds + o.blows + o.settings + o.effort > 0 for o in operations if o.work == "time"))

    def test_default_sizes_suit_any_bar(self):
        bars = (
            square(5),
            square(10),
            square(40),
            round_(8),
            round_(14),
            flat(50, 10),
            flat(12, 3),
            flat(25, 6),
            square(9.525),
            flat(31.75, 6.35),
        )
        for bar, cls, unit in itertools.product(bars, KINDS.values(), ("", "mm", "in")):
            with self.subTest(kind=cls.kind, bar=bar, unit=unit):
                feature = cls(id="x").fitted(bar)
                if unit:  # as it is proposed: nobody marks thirds
                    feature = feature.proposed(unit)
                    for name, spec in specs(feature).items():
                        value = getattr(feature, name)
                        if type(spec) is Length and not spec.low:
                            steps = (value * 20, value / 25.4 * 64)
                            self.assertTrue(any(abs(x - round(x)) < 1e-4 for x in steps), (name, value))
                            self.assertEqual(value, float(f"{value:.6f}"), name)
                try:
                    self.assertGreater(stock_of(feature, Place(bar)), 0)
                except NoAnswer as error:  # only what needs corners, and it says so
                    self.assertEqual(bar.shape, "round")
                    self.assertIn("flat", str(error))

    def test_values_that_no_field_can_hold_are_refused(self):
        for cls in KINDS.values():
            for name, spec in specs(cls).items():
                if isinstance(spec, Text):
                    continue
                for bad in (math.nan, math.inf, -1.0, "?", True, None, 10**400):
                    if (bad is None and spec.optional) or (bad is True and isinstance(spec, Flag)):
                        continue
                    with self.subTest(kind=cls.kind, name=name, bad=str(bad)[:5]), self.assertRaises(NoAnswer):
                        cls(id="x", **{name: bad})


class Checks(unittest.TestCase):
    def levels(self, kind: str, bar=None, **fields) -> set[str]:
        return {c.level for c in KINDS[kind](id="x", **fields).checks(Place(bar or square(12), last=True, bite=6.0))}

    def test_warnings_come_where_they_should_and_not_elsewhere(self):
        cases = (
            ("bend", {"radius": 5.0}, {"radius": 24.0}),
            ("scroll", {"outer": 15.0, "toward": "B"}, {"outer": 60.0, "toward": "B"}),
            ("twist", {"turns": 2.5}, {"turns": 1.0}),
            ("hole", {"diameter": 9.0}, {"diameter": 4.0}),
            ("section-change", {"length": 4.0}, {"length": 40.0}),
            ("eye", {"toward": "A"}, {"toward": "B"}),
            ("section-change", {"section": square(14)}, {"section": square(9)}),
        )
        for kind, bad, good in cases:
            with self.subTest(kind=kind, bad=bad):
                self.assertIn("warn", self.levels(kind, **bad))
                self.assertNotIn("warn", self.levels(kind, **good))

    def test_no_positive_answer(self):
        place = Place(square(12))
        for feature in (
            KINDS["taper"](id="x", tip=13.0),
            KINDS["upset"](id="x", section=square(12)),
            KINDS["bend"](id="x", corner="sharp", angle=60.0),
            KINDS["scroll"](id="x", inner=30.0, outer=20.0),
            KINDS["twist"](id="x", length=10.0, turns=9.0),
            KINDS["hole"](id="x", diameter=12.0),
            KINDS["hole"](id="x", diameter=6.0, length=5.0),
        ):
            with self.subTest(feature=feature), self.assertRaises(NoAnswer) as caught:
                shape_of(feature, place)
            with self.subTest(feature=feature):
                self.assertTrue(caught.exception.reason and caught.exception.remedy)
                self.assertNotIn(" mm", str(caught.exception))  # an inch shop reads it too

    def test_a_piece_names_the_feature_that_has_no_answer(self):
        piece = Piece(bar=square(12), features=(KINDS["run"](id="a"), KINDS["hole"](id="b", diameter=12.0)))
        with self.assertRaises(NoAnswer) as caught:
            piece.verify()
        self.assertEqual(caught.exception.feature_id, "b")
        self.assertIn("Hole 2", str(caught.exception))
        with self.assertRaises(NoAnswer):
            Piece(features=(KINDS["run"](id="a"), KINDS["run"](id="a")))


class Figures(unittest.TestCase):
    def test_up_is_up_at_either_end(self):
        for toward in "AB":
            for facing, sign in ((0.0, 1), (180.0, -1)):
                hook = KINDS["hook"](id="h", toward=toward, facing=facing)
                run = KINDS["run"](id="r", length=200.0)
                parts = (hook, run) if toward == "A" else (run, hook)
                shown = piece_figure(Piece(features=parts))
                level = next(p.centre[0, 1] for p in shown.parts if p.id == "r")
                _x0, y0, _x1, y1 = shown.bounds
                with self.subTest(toward=toward, facing=facing):
                    self.assertGreater(sign * ((y1 - level) - (level - y0)), 20)

    def test_parts_join_without_gap_or_kink(self):
        piece = Piece(
            features=tuple(replace(f, id=str(i)) for i, f in enumerate(CASES) if f.kind in ("run", "bend", "hook", "scroll", "eye"))
        )
        parts = piece_figure(piece).parts
        for before, after in itertools.pairwise(parts):
            self.assertLess(np.hypot(*(before.centre[-1] - after.centre[0])), 1e-6)

    def test_a_u_of_two_bends_has_parallel_legs_a_known_distance_apart(self):
        bend = KINDS["bend"](id="b", radius=18.0)
        legs = [KINDS["run"](id=i, length=40.0) for i in ("l", "r")]
        piece = Piece(bar=round_(12), features=(legs[0], bend, KINDS["run"](id="m", length=50.0), replace(bend, id="c"), legs[1]))
        x0, y0, x1, y1 = piece_figure(piece).bounds
        self.assertAlmostEqual(x1 - x0, 50 + 2 * (18 + 12), places=6)
        self.assertAlmostEqual(y1 - y0, 40 + 18 + 12, places=6)

    def test_a_closed_eye_comes_back_to_its_bar_and_measures_inside_what_it_should(self):
        part = piece_figure(Piece(bar=round_(10), features=(KINDS["eye"](id="e", inside=60.0),))).parts[0]
        self.assertLess(np.hypot(*(part.centre[0] - part.centre[-1])), 1e-6)
        middle = part.centre[:-1].mean(axis=0)
        self.assertAlmostEqual(np.hypot(*(part.centre - middle).T).min() - 5, 30, delta=0.05)

    def test_a_twist_shows_its_corners_and_a_sharp_corner_its_mitre(self):
        self.assertGreaterEqual(len(trace(shape_of(KINDS["twist"](id="t"), Place(square(12)))).lines), 4)
        corner = piece_figure(Piece(features=(KINDS["bend"](id="b", corner="sharp"),)))
        x0, y0, x1, y1 = corner.bounds
        self.assertAlmostEqual(max(x1 - x0, y1 - y0), 12, places=6)

    def test_an_empty_figure_has_bounds(self):
        self.assertEqual(figure([]).bounds, (0.0, 0.0, 1.0, 1.0))
