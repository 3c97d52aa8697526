"""What a plan tells the smith, on pieces that the code was not written for: order, gauges, what lies in the fire."""

import itertools
import unittest
from dataclasses import replace

import numpy as np

from long_ember.document import answer, turn_round
from long_ember.features import KINDS, Piece, Pin
from long_ember.geometry import stage_shape
from long_ember.heats import gauges, length_now, moment
from long_ember.heats.treatment import treatment, working_end
from long_ember.physics import draw_factor
from long_ember.sections import flat, square
from long_ember.shorthand import read_line
from long_ember.units import Measure

MM, make = Measure(), lambda kind, name, **sizes: KINDS[kind](id=name, **sizes)


class Hardened(unittest.TestCase):
    """The end that cuts, whichever way round the piece lies, and never the one that is struck."""

    LINES = (
        ("16 oct high carbon: taper 60 to 16 x 3 flat, run 120, nub 3", "A"),
        ("16 rd high carbon: palm 28 x 24 x 8, draw 100 to 10 x 8 flat, taper 80 to 3", "B"),
        ("14 sq high carbon: ball 20, run 80, chisel end 40", "B"),
        ("20 sq high carbon: point 60, run 150, chisel end 50", "both"),
        ("16 sq high carbon: taper 60 to 8, run 100, point 40", "B"),
        ("18 sq high carbon: chisel end 40, run 90, taper 60 to 6", "A"),
    )

    def test_the_end_that_cuts_is_hardened_turned_round_too(self):
        for line, end in self.LINES:
            piece = read_line(line).piece
            for made, wanted in ((piece, end), (turn_round(piece).after, {"A": "B", "B": "A"}.get(end, end))):
                plan = answer(made).plan
                with self.subTest(line, wanted=wanted):
                    self.assertEqual(working_end(made, plan.reckoning), wanted)
                    told = next(s.line.show(MM) for s in treatment(made, plan.reckoning) if s.key == "harden")
                    if wanted == "both":
                        self.assertIn("of end A, then those of end B", told)
                    else:
                        self.assertIn(f"of end {wanted}:", told)

    def test_what_the_smith_says_goes_before(self):
        piece = read_line("16 oct high carbon: taper 60 to 16 x 3 flat, run 120, nub 3").piece
        said = replace(piece, planning=replace(piece.planning, working="B"))
        self.assertEqual(working_end(said, answer(said).plan.reckoning), "B")

    def test_a_tip_of_the_bars_own_section_is_not_drawn(self):
        for kind in ("curl", "hook", "eye", "scroll"):
            for tip, drawn in ((square(20), False), (square(8), True)):
                piece = Piece(bar=square(20), features=(make(kind, "t", tip=tip), make("run", "r", length=120.0)))
                verbs = [s.operation.verb for s in answer(piece).plan.steps if s.feature.id == "t"]
                self.assertEqual("draw" in verbs, drawn, (kind, tip))


class OnTheBar(unittest.TestCase):
    def test_a_nut_is_pierced_on_the_bar_whatever_its_size(self):
        for factor in (0.5, 0.8, 1.0, 1.6, 2.0):
            for hole in (6.0, 8.0, 8.5, 10.0, 12.0):
                length, width, thick = (round(x * factor, 1) for x in (25.0, 25.0, 14.0))
                line = f"{width} x {thick} flat: run {length} with hole {round(hole * factor, 1)} punched, part off"
                verbs = [w.step.operation.verb for h in answer(read_line(line).piece).plan.heats for w in h.work]
                with self.subTest(line):
                    self.assertLess(max(i for i, v in enumerate(verbs) if v == "punch"), min(i for i, v in enumerate(verbs) if v == "cut"))

    def test_what_is_long_enough_to_hold_may_be_parted_off_first(self):
        piece = read_line("25 x 14 flat: run 300 with hole 10 punched, part off").piece
        self.assertNotIn("small-on-bar", {t.rule.id for t in answer(piece).plan.ties.pairs})


class Advice(unittest.TestCase):
    def test_a_slit_is_measured_by_its_depth_and_the_bar_then_from_its_crotch(self):
        told = answer(Piece(bar=square(10), features=(make("split", "s", cut=90.0), make("run", "r", length=350.0)))).plan
        depths = [g.cold[0] for h in told.heats for g in gauges(h, told.reckoning) if "deep" in g.line.text and g.cold]
        self.assertEqual((depths, depths[-1]), (sorted(depths), 90.0))
        for heat in told.heats:
            words = " ".join(g.line.show(MM) for g in gauges(heat, told.reckoning))
            self.assertEqual("from the crotch" in words, heat.after["s"].path > 0 and "Whole bar" in words)
            self.assertNotIn("10 mm thick", words)

    def test_a_finished_outline_measures_what_it_is_told_to(self):
        for outline, bar in itertools.product(("lens", "palm", "teardrop", "fishtail"), (square(12), flat(20, 6))):
            leaf = make("spread", "s", outline=outline, length=45.0, width=26.0, thickness=3.0)
            told = answer(Piece(bar=bar, features=(leaf, make("run", "r", length=60.0)))).plan
            last = [h for h in told.heats if any(w.step.feature.id == "s" for w in h.work)][-1]
            wide = [round(g.cold[0], 1) for g in gauges(last, told.reckoning) if "widest" in g.line.text]
            self.assertEqual(wide, [26.0] * len(wide), outline)

    def test_a_drawn_end_stays_out_of_a_fire_that_its_bar_would_have_been_in(self):
        line = "12 sq: leaf 40 x 26 x 3, run 30, twist 0.75 turn over 40, run 300"
        found = answer(read_line(line).piece)
        twist, leaf = (next(s for s in found.plan.steps if s.operation.verb == v) for v in ("twist", "spread"))
        order = {heat.work[0].step.number: heat for heat in found.plan.heats}
        self.assertLess(twist.start, 60.0)  # of bar, before the leaf is spread
        self.assertEqual((order[twist.number].fire, order[twist.number].zone[0] > leaf.end), ("middle", True))
        first = replace(found.piece, planning=replace(found.piece.planning, pins=(Pin(step=twist.key), Pin(step=leaf.key))))
        early = next(h for h in answer(first).plan.heats if any(w.step.operation.verb == "twist" for w in h.work))
        self.assertEqual((early.fire, early.zone[0]), ("A", 0.0))

    def test_a_scroll_of_flat_is_thinned_and_told_in_both_dimensions(self):
        for kind in ("scroll", "curl"):
            found = answer(read_line(f"40 x 10 flat: {kind}, run 100").piece)
            drawn = [w.line.show(MM) for h in found.plan.heats for w in h.work if w.step.operation.verb == "draw"]
            self.assertTrue(drawn and all("flat, 40 mm wide and 3.5 mm thick, over" in words for words in drawn), drawn)
            told = [g.line.show(MM) for h in found.plan.heats for g in gauges(h, found.reckoning) if "wide" in g.line.text]
            self.assertTrue(told and all("toward A: 40 mm wide" in words for words in told), told)

    def test_what_is_longer_than_the_fire_moves_through_it(self):
        for line in ("12 sq: ring 150", "10 sq: run 300, coil 2 turns", "10 sq: run 200, twist 8 turns over 420, run 100"):
            found = answer(read_line(line).piece)
            heats = [h for h in found.plan.heats if not h.cold]
            step = heats[0].work[0].step
            self.assertTrue(any("worked in parts" in c.line.text for _z, c in found.checks), line)
            self.assertGreater(len(heats), 1)
            self.assertTrue(all(h.long < 230.01 and h.zone[1] - h.zone[0] < 230.01 for h in heats), line)
            self.assertLessEqual(min(h.zone[0] for h in heats), step.start)
            self.assertGreaterEqual(max(h.zone[1] for h in heats), step.end)
            self.assertEqual(len({h.zone for h in heats}), len(heats), line)
        drawn = answer(read_line("30 x 5 flat: taper 320 to 12 x 4 flat, run 40").piece)
        self.assertTrue(all(h.long < 230.01 for h in drawn.plan.heats))

    def test_what_is_drawn_longer_than_the_fire_is_finished_a_stretch_at_a_time_where_it_is_hot(self):
        lines = ("12 sq: taper 400 to 4, run 100", "16 rd: run 60, taper 400 to 5", "40 x 8 flat: palm 260 x 60 x 4, run 80",
                 "20 sq: run 100, set-down 300 to 12 rd, run 200", "30 x 6 flat: run 60, scroll 70")  # fmt: skip
        for line in lines:
            found = answer(read_line(line).piece)
            work = [(h, w) for h in found.plan.heats for w in h.work if w.step.by_stretches]
            zone = next(z for z in found.reckoning.zones if z.feature is work[0][1].step.feature)
            self.assertGreater(len(work), 2, line)
            self.assertEqual(sum("finish a stretch at a time" in w.line.text for _h, w in work), 1, line)
            done = [0.0, *(w.step.finished(w.stop) for _h, w in work)]
            self.assertEqual((done, done[-1]), (sorted(done), 1.0), line)
            for (heat, one), start, stop in zip(work, done, done[1:], strict=False):
                places = [zone.start + zone.length * (s if one.step.begins == "A" else 1 - s) for s in (start, stop)]
                low, high = heat.glowing  # no steel is worked that is not hot
                self.assertLess(low - 4.0, min(places), line)
                self.assertGreater(high + 4.0, max(places), line)
            shapes = [stage_shape(zone.feature, zone.place, h.after[zone.feature.id]) for h, _w in work]
            steel = zone.stock * zone.place.bar.area
            self.assertTrue(all(abs(s.volume - steel) < 2e-3 * steel for s in shapes), line)
            self.assertTrue(all(span.length > 1e-6 for shape in shapes for span in shape.spans), line)  # no crumb of bar at its end
            whole = [length_now(h.reckoning, h.after) for h, _w in work[:-1]]
            self.assertEqual(whole, sorted(whole), line)  # what is drawn out never grows shorter
            for (heat, _one), shape in zip(work[:-1], shapes, strict=False):
                told = {g.line.text.split(",")[-1].strip(): g.cold for g in gauges(heat, heat.reckoning) if "finished" in g.line.text}
                self.assertEqual(len(told), 1, line)
                self.assertLess(next(iter(told.values()))[0], shape.length, line)
            again = sum(c.line.text.count("worked in parts") for _z, c in found.checks)
            self.assertEqual(again, 1, line)  # told once, however often it is heated

    def test_a_stretch_is_finished_when_its_share_of_the_work_is_done(self):
        """By quadrature over a square taper of 12 to 4 mm: Σ V·ε·K from the tip on, and what is shown half way between two heats."""
        found = answer(read_line("12 sq: taper 400 to 4, run 100").piece)
        sides = np.linspace(4.0, 12.0, 4001)[:-1] + 0.001
        half_way = np.sqrt((sides**2 + 144) / 2)  # a section half way, which the hammer meets
        work = np.cumsum(sides**2 * np.log(144 / sides**2) * [draw_factor(h, h) for h in half_way])
        steel = np.cumsum(sides**2)
        drawn = [w for h in found.plan.heats for w in h.work if w.step.by_stretches]
        for one in drawn[:-1]:
            share = float(np.interp(one.stop, work / work[-1], steel / steel[-1]))
            self.assertAlmostEqual(one.step.finished(one.stop), share, delta=0.02)
        before, after = found.plan.frames[2].before["f1"], found.plan.frames[2].after["f1"]
        between = moment(found.plan, 2.25).progress["f1"]
        for name in ("section", "work"):
            low, high = getattr(before, name), getattr(after, name)
            self.assertAlmostEqual(getattr(between, name), low + 0.25 * (high - low), msg=name)

    def test_bends_far_apart_take_a_heat_each_and_close_ones_share(self):
        for run, heats in ((40.0, 1), (180.0, 2), (300.0, 2)):
            line = f"25 x 6 flat: run 30, bend 90, run {run}, bend 90 down, run 220"
            self.assertEqual(answer(read_line(line).piece).plan.count, heats, run)

    def test_a_shank_is_drawn_before_its_head_and_a_ball_before_what_lies_behind_it(self):
        for line, first in (
            ("8 sq: head 14, taper 90 to 2 sq toward B", "draw"),
            ("12 sq: head 20, section change 60 to 10 rd, run 20", "setdown"),
            ("12 sq: ball, run 10, taper 90 to 8 x 4 flat toward B", "upset"),
            ("16 rd: head 30, run 90, taper 60 to 20 x 3 flat toward B", "upset"),
        ):
            plan = answer(read_line(line).piece).plan
            self.assertEqual(plan.steps[plan.order[0]].operation.verb, first, line)
            self.assertEqual(plan.flags, (), line)


if __name__ == "__main__":
    unittest.main()
