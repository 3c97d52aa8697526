"""Figures that a smith reads and no law of conservation guards: minutes, walls, spreads, masses a length, half-done shapes."""

import math
import unittest
from dataclasses import replace

import numpy as np
from scipy.integrate import quad

from long_ember.cutting import Rect, Rules, Sheet, cut_list, placed
from long_ember.cutting.sheets import SheetPlan
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Allowances, Piece, Place, Span, shape_of
from long_ember.fields import specs
from long_ember.geometry import DONE, UNDONE, Progress, stage_shape
from long_ember.geometry.tracing import sections_at
from long_ember.heats import ForgeSettings, length_now, sequence
from long_ember.heats.sequencing import hand_force
from long_ember.heats.treatment import quench_seconds, treatment
from long_ember.jobs.buying import SheetCut, sheet_money
from long_ember.jobs.cut_layout import BarLayout, laid
from long_ember.physics import soak, twist_force
from long_ember.records import CutPiece, Forging, Iron, Reject, SavedBar, Shop
from long_ember.sections import Section, flat, round_, square, tube
from long_ember.stock import measured, questions, reckon
from long_ember.stock.trial import capture_measured
from long_ember.units import Measure


def make(kind: str, identity: str = "", **fields):
    return KINDS[kind](id=identity or kind, **fields)


class Shown(unittest.TestCase):
    def test_a_blank_that_is_forged_on_its_bar_is_longer_by_its_cut_and_leaves_a_hand_to_hold(self):
        def bar(length: float, *cuts: CutPiece) -> BarLayout:
            return laid(SavedBar(length=length, cuts=cuts), Rules(kerf=3.0, trim=10.0, hold=150.0, keep=200.0))

        sawn, held = CutPiece(length=300.0, loss=3.0), CutPiece(length=300.0, loss=5.0, held=True)
        found = bar(1000.0, sawn, held)  # 13 are cut off each end first: the trim and its kerf
        self.assertEqual([(c.start, c.stop) for c in found.cuts], [(13.0, 313.0), (316.0, 616.0)])
        self.assertAlmostEqual(found.left, 1000 - 13 - 621)
        self.assertEqual(bar(621.0 + 150.0 + 13.0, sawn, held).over, 0.0)
        self.assertAlmostEqual(bar(621.0 + 150.0 + 13.0 - 40.0, sawn, held).over, 40.0)
        self.assertAlmostEqual(
            bar(600.0, held, sawn).over, 13 + 305 + 300 - (600 - 13)
        )  # the saw's last cut may fall beside the bar, its blank may not

    def test_a_rest_of_a_third_of_a_sheet_is_not_charged(self):
        def money(used: float) -> float:
            plan = SheetPlan(Sheet("s", 3000.0, 1000.0, 90.0), (), used)
            return sheet_money([SheetCut("mild-steel", 2.0, (plan,))], Measure("mm"))[0]

        self.assertAlmostEqual(money(1500.0), 45.0)
        self.assertAlmostEqual(money(1999.0), 90 * 1999 / 3000)
        self.assertAlmostEqual(money(2001.0), 90.0)

    def test_a_new_piece_begins_with_a_bar_that_is_sold(self):
        for unit, words in (("mm", "12 mm square"), ("in", "1\u20442\u2033 square")):
            shop = Shop(unit=unit, trim=3.0, kerf=2.5)
            self.assertEqual(shop.new_piece().bar.label(shop.measure), words)
            self.assertEqual((shop.new_piece().allowances.trim, shop.new_piece().order.kerf), (3.0, 2.5))

    def test_what_is_through_at_the_anvil_counts_the_rejects(self):
        run = Forging(good=3, rejects=(Reject(cause="short", count=2), Reject(cause="burnt")), open=(Iron(phase="done"),))
        self.assertEqual((run.made, run.over), (6, True))

    def test_mass_a_length_in_either_unit(self):
        # 12 mm square of steel: 1.1304 g/mm; a foot of it is 344.55 g, 0.76 lb.
        self.assertEqual(Measure("mm").line_mass(1.1304), "1.13 kg/m")
        self.assertEqual(Measure("in").line_mass(1.1304), "0.76 lb/ft")

    def test_filing_goes_by_the_length_and_so_does_hammering(self):
        place = Place(square(12), True, False)
        for length in (40.0, 100.0):
            (filed,) = make("chamfer", method="filed", length=length, leg=2.0).operations(place)
            (hammered,) = make("chamfer", method="hammered", length=length, leg=2.0).operations(place)
            self.assertAlmostEqual(filed.seconds, 2.0 * length)
            self.assertAlmostEqual(hammered.blows, 4 * 4 * length / 20)  # four edges, four blows for every 20 mm

    def test_a_hole_to_be_tapped_is_between_three_quarters_and_nearly_the_whole_thread(self):
        place = Place(flat(40, 10), False, False)
        for diameter, wrong in ((5.9, True), (6.0, False), (7.59, False), (7.61, True)):
            told = [
                c.line for c in make("hole", method="drilled", diameter=diameter, tap=8.0).checks(place) if "wants a hole" in c.line.text
            ]
            self.assertEqual(bool(told), wrong, diameter)
            if told:
                self.assertEqual([v.value for v in told[0].values], [8.0, 6.8])

    def test_a_domed_head_is_as_high_as_asked_and_its_fill_on_top(self):
        place = Place(round_(8), True, False)
        for height, hole, grip in ((5.6, 0.0, 0.0), (4.0, 8.4, 16.0)):
            head = make("head", form="cap", diameter=14.0, height=height, hole=hole, grip=grip)
            fill = (hole**2 - 64) / 64 * grip if hole else 0.0
            wide = (hole / 8) ** 2 if hole else 1.0
            self.assertAlmostEqual(shape_of(head, place).length, height + fill / wide, places=6)

    def test_the_saw_and_the_chisel_are_in_doubt(self):
        piece = Piece(allowances=Allowances(scale=0.0, trim=3.0, parting=4.0), features=(make("run", length=100.0),))
        doubts = {d.name: (d.likely, d.high - d.likely) for d in reckon(piece).doubts}
        self.assertAlmostEqual(doubts["Sawing and trimming"][1], 0.5 * 1.6448536)
        self.assertAlmostEqual(doubts["Parting"][1], 0.3 * 4.0 * 1.6448536)
        self.assertAlmostEqual(doubts["One piece and the next"][1], math.hypot(0.003 * 100.0, 0.7) * 1.6448536)

    def test_what_two_test_pieces_leave_open_adds_in_quadrature(self):
        piece = Piece(bar=flat(40, 10), features=(make("spread", width=60.0, length=70.0, thickness=5.0),))
        question = next(q for q in questions(piece) if q.name == "capture")
        bar, readings = flat(40, 10), [(flat(40, 10), (62.0, 5.0)), (flat(40, 10), (58.0, 5.0))]
        found = measured(question, piece, readings)
        values, left = [], 0.0
        for _bar, read in readings:
            value = capture_measured(bar, *read)
            values.append(value)
            for i, asked in enumerate(question.asked):
                left += (capture_measured(bar, *(x + (asked.error if j == i else 0.0) for j, x in enumerate(read))) - value) ** 2
        expected = math.sqrt(left / 4 + ((values[0] - values[1]) / 2) ** 2 + 0.03**2 / 2)
        self.assertAlmostEqual(found.value, sum(values) / 2)
        self.assertAlmostEqual(found.spread, expected, places=12)

    def test_a_bar_twists_as_fast_as_its_turns_say_span_by_span(self):
        blend = square(12).blend
        spans = (Span(10.0, blend, blend, turns=0.5), Span(20.0, blend, blend), Span(10.0, blend, blend, turns=-2.0))
        phase = sections_at(spans, np.array([0.0, 5.0, 10.0, 20.0, 30.0, 35.0, 40.0]))[3] / (2 * math.pi)
        np.testing.assert_allclose(phase, [0.0, 0.25, 0.5, 0.5, 0.5, -0.5, -1.5], atol=1e-12)

    def test_a_half_rolled_scroll_is_the_inner_part_of_the_whole_and_straight_bar(self):
        place = Place(square(10), True, False)
        scroll = make("scroll", form="archimedean") if "archimedean" in str(specs(KINDS["scroll"])["form"].schema()) else make("scroll")
        whole = shape_of(scroll, place)
        spiral = next(s for s in whole.path if type(s).__name__ == "Spiral")
        for section in (0.0, 1.0):
            half = stage_shape(scroll, place, Progress(section, 0.5))
            ratio = sum(s.length for s in half.spans) / whole.length
            inner = next(s for s in half.path if type(s).__name__ == "Spiral")
            self.assertAlmostEqual(inner.angle, spiral.angle / 2)
            self.assertAlmostEqual(inner.r0 / spiral.r0, ratio)
            middle = spiral.r0 + (spiral.r1 - spiral.r0) / 2
            self.assertAlmostEqual(inner.r1 / middle, ratio)
            self.assertAlmostEqual(sum(s.length for s in half.path), sum(s.length for s in half.spans), places=4)

    def test_the_wrench_is_felt_midway_between_the_fire_and_the_stop(self):
        piece = Piece(
            bar=square(12),
            features=(make("run", "a", length=100.0), make("twist", length=100.0, turns=1.0), make("run", "b", length=100.0)),
        )
        _reckoning, plan = sequence(piece, forge=ForgeSettings())
        (step,) = [s for s in plan.steps if s.operation.verb == "twist"]
        stop = piece.steel.stop(step.operation.stop_below)
        self.assertAlmostEqual(
            hand_force(step, piece), twist_force(12**3 / 3, (piece.steel.start + stop) / 2, piece.steel.carbon) * piece.steel.flow
        )

    def test_soak_and_quench_as_told_are_in_the_minutes_of_hardening(self):
        piece = Piece(material="high-carbon", bar=square(16), features=(make("run", length=100.0), make("taper", length=40.0)))
        done = {s.key: s for s in treatment(piece, reckon(piece))}
        end, hot, soaked, quench = done["harden"].line.values
        self.assertEqual(end.value, 50.0)
        self.assertAlmostEqual(soaked.value, 60 + soak(16.0))
        self.assertAlmostEqual(quench.value, quench_seconds(16.0, hot.value, "oil"))
        self.assertAlmostEqual(done["harden"].seconds, soaked.value + quench.value + 300)
        self.assertEqual(done["temper"].seconds, 4 * 3600.0)  # two hours, twice
        self.assertEqual([s.seconds for s in treatment(replace(piece, material="air-hardening"), reckon(piece))], [3600.0])

    def test_the_bar_on_the_rule_shrinks_from_what_was_sawn_to_what_is_finished(self):
        piece = Piece(allowances=Allowances(scale=0.02, trim=4.0), features=(make("run", length=100.0), make("taper", length=80.0)))
        reckoning = reckon(piece)
        at = {f: {x.id: p for x in piece.features} for f, p in (("sawn", UNDONE), ("half", Progress(1.0, 0.0)), ("done", DONE))}
        self.assertAlmostEqual(length_now(reckoning, at["sawn"]), sum(z.length for z in reckoning.zones) + 4.0)
        self.assertAlmostEqual(length_now(reckoning, at["done"]), 180.0)
        half = sum(stage_shape(z.feature, z.place, Progress(1.0, 0.0)).length * (1 + (z.length / z.stock - 1) / 2) for z in reckoning.zones)
        self.assertAlmostEqual(length_now(reckoning, at["half"]), half + 4.0)

    def test_a_blank_just_fits_between_the_trimmed_edges_of_a_sheet(self):
        sheet = Sheet("sheet", 200.0, 100.0, 1.0)
        for length, width, fits in ((190.0, 90.0, True), (190.5, 90.0, False), (190.0, 90.5, False), (90.0, 190.0, True)):
            lay = lambda length=length, width=width: placed((Rect("r", length, width, 1),), (sheet,), margin=5.0)  # noqa: E731
            if fits:
                (plan,) = lay()
                self.assertEqual(len(plan.blanks), 1)
            else:
                with self.assertRaises(NoAnswer):
                    lay()

    def test_what_is_bought_is_what_is_in_pieces_and_what_is_not(self):
        cuts = cut_list(700.0, 7, 3000.0, 2.0, 5.0)
        self.assertEqual((cuts.bought, cuts.used, len(cuts.bars)), (6000.0, 4900.0, 2))
        self.assertAlmostEqual(cuts.waste, 1100.0)


class Sized(unittest.TestCase):
    """What scaled, fitted and solved pieces are made of."""

    SECTION = specs(KINDS["taper"])["root"]

    def test_a_default_section_stays_on_its_side_of_the_bar(self):
        # Below 12 mm down to a half, above up to a whole one: what is drawn stays thinner than the bar, what is upset thicker.
        for size, ratio, expected in ((8.0, 1.3, 10.0), (12.0, 1.3, 15.5), (12.5, 1.3, 17.0), (20.0, 1.22, 25.0), (0.4, 0.25, 0.5)):
            found = self.SECTION.sized(square(size), ratio)
            self.assertEqual((found.width, found.thickness), (expected, expected), (size, ratio))

    def test_a_section_with_another_width_keeps_its_proportions(self):
        for section, width, expected in (
            (flat(20, 5), 30.0, flat(30, 7.5)),
            (Section("square", 12.0, 12.0, corner=2.0), 18.0, Section("square", 18.0, 18.0, corner=3.0)),
            (tube(20, 2), 30.0, tube(30, 3)),
            (Section("half-round", 20.0, 10.0), 10.0, Section("half-round", 10.0, 5.0)),
        ):
            self.assertEqual(self.SECTION.with_size(section, width), expected)
            self.assertEqual(self.SECTION.size(section), section.width)

    def test_lengths_follow_and_turns_stay(self):
        twist = make("twist", length=100.0, turns=2.0)
        self.assertEqual((twist.scaled(1.5).length, twist.scaled(1.5).turns), (150.0, 2.0))
        spread = make("spread", outline="measured").scaled(2.0)
        self.assertEqual(spread.widths, (16.0, 36.0, 48.0, 32.0))
        facing = specs(KINDS["bend"])["facing"]
        self.assertEqual([facing.show(x, Measure()) for x in (0.0, 90.0, 360.0, 33.0)], ["up", "front", "up", "33°"])


class Arcs(unittest.TestCase):
    def test_an_archimedean_spiral_by_quadrature(self):
        from long_ember.features.curves import archimedean_length

        for r0, r1, turns in ((8.0, 30.0, 1.75), (3.0, 50.0, 0.5)):
            a = (r1 - r0) / (2 * math.pi * turns)
            self.assertAlmostEqual(
                archimedean_length(r0, r1, 2 * math.pi * turns),
                quad(lambda t, a=a, r0=r0: math.hypot(r0 + a * t, a), 0, 2 * math.pi * turns)[0],
                places=6,
            )


if __name__ == "__main__":
    unittest.main()
