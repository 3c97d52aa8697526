"""Moments, times, waits and numbers to check, against second methods; what goes out of the program; monotone physics."""

import csv
import io
import json
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from long_ember.cli.plan import plan_data, plan_text
from long_ember.demo import demo_files
from long_ember.document import SMALL, answer, pick_method, quick_answer
from long_ember.errors import NoAnswer
from long_ember.export import heats_csv, heats_json
from long_ember.features import KINDS, Arc, Piece, stock_of
from long_ember.fields import fields_out
from long_ember.geometry import Progress, figure, stage_shape
from long_ember.heats import (
    Door,
    Errand,
    ForgeSettings,
    Heat,
    door_notes,
    gauges,
    grip_note,
    length_now,
    marks_left,
    moment,
    scale_expected,
    sequence,
    sizes_now,
    staged,
)
from long_ember.heats.errands import air_cooling
from long_ember.heats.timing import reheat
from long_ember.heats.treatment import TREATMENTS, quench_seconds, treatment, working_end
from long_ember.physics import FIRES, Hammer, scale_loss, soak
from long_ember.physics.cooling_tables import AMBIENT, DENSITY, EMISSIVITY, SIGMA, specific_heat
from long_ember.records import RECORDS, LogEntry, OwnRule, Shop
from long_ember.sections import flat, round_, square
from long_ember.storage import read_piece
from long_ember.storage.models import Reader
from long_ember.units import Measure
from tests.support import believing, pieces

MM, PLAIN = Measure(), Measure("mm", ascii=True)


def demos():
    return [read_piece(p) for p in demo_files()]


def demo(stem):
    return read_piece(next(p for p in demo_files() if p.stem == stem))


class Moments(unittest.TestCase):
    @given(pieces(), st.floats(0, 1))
    def test_steel_is_kept_at_every_moment(self, piece, share):
        """Whatever is half done has the volume of its own stretch of bar, less what is cut away once it is finished."""
        plan = sequence(piece)[1]
        assume(plan.frames)
        for at in range(len(plan.frames)):
            now = moment(plan, at + share)
            for zone in plan.reckoning.zones:
                shape = stage_shape(zone.feature, zone.place, now.progress[zone.feature.id])
                if now.progress[zone.feature.id] == plan.frames[-1].after[zone.feature.id]:
                    continue  # finished: tested elsewhere
                volume = sum(s.volume for s in shape.spans) + sum(b.shape.volume for b in shape.branches)
                stock = stock_of(zone.feature, zone.place) * piece.bar.area
                self.assertAlmostEqual(volume, stock, delta=1e-6 * stock)

    def test_a_feature_grows_or_shrinks_all_the_way_to_its_length(self):
        """What is spread is told longer with every heat, what is upset shorter: no stage takes more steel to the mm than bar and form do."""
        for bar in (square(12), round_(12), flat(25, 6), flat(40, 10)):
            for kind, cls in KINDS.items():
                piece = Piece(bar=bar, features=(KINDS["run"](id="r"), cls(id="x").fitted(bar)))
                try:
                    piece.verify()
                except NoAnswer:
                    continue
                lengths = [stage_shape(piece.features[1], piece.place(1), Progress(i / 8, 0.0)).length for i in range(9)]
                steps = np.diff(lengths) * np.sign(lengths[-1] - lengths[0] or 1)
                self.assertGreater(steps.min(), -0.01 * max(lengths), (bar, kind))

    def test_what_is_slit_is_drawn_out_and_then_opened(self):
        """The bar to its tips grows as the tines do, by as much; then they open, a little more at every moment, with all of the steel."""
        plan = sequence(demo("oar-cradle"))[1]
        feature = next(z for z in plan.reckoning.zones if z.feature.kind == "split")
        tine = feature.shape.branches[0].shape
        long, wide, steel = [], [], feature.stock * feature.place.steel.area
        for i in range(40 * len(plan.frames) + 1):
            now = moment(plan, i / 40)
            shape = stage_shape(feature.feature, feature.place, now.progress[feature.feature.id])
            if shape.branches:
                limb = shape.branches[0].shape
                wide.append(abs(sum(s.angle for s in limb.path if isinstance(s, Arc))))
            else:
                long.append(shape.length)
                self.assertAlmostEqual(shape.volume, steel, delta=1e-6 * steel)
        self.assertEqual((long, wide), (sorted(long), sorted(wide)))
        uncut = (steel - sum(s.volume for s in feature.shape.spans)) / feature.place.steel.area
        self.assertAlmostEqual(long[-1] - long[0], tine.length - uncut, places=6)
        self.assertAlmostEqual(wide[-1], math.radians(feature.feature.angle), places=6)
        self.assertGreater(len({round(x, 3) for x in wide}), 10)

    def test_a_moment_runs_from_one_frame_to_the_next(self):
        for piece in demos():
            plan = sequence(piece)[1]
            for i, frame in enumerate(plan.frames):
                self.assertEqual(moment(plan, i).progress, frame.before)
                self.assertEqual((moment(plan, i + 0.5).index, moment(plan, i + 0.5).frame), (i, frame))
            end = moment(plan, 1e9)
            self.assertEqual((end.index, end.share, end.progress), (len(plan.frames) - 1, 1.0, plan.frames[-1].after))
            self.assertEqual(moment(plan, -3).index, 0)

    def test_sizes_now_run_from_the_bar_to_the_finished_taper(self):
        plan = answer(demo("mooring-staple")).plan
        index = next(i for i, f in enumerate(plan.frames) if isinstance(f, Heat))
        told = [sizes_now(plan.reckoning, moment(plan, index + share))[0].values for share in (0.0, 0.25, 0.5, 0.75, 0.9999)]
        lengths = [t[0].value for t in told]
        self.assertEqual(lengths, sorted(lengths))
        self.assertAlmostEqual(told[0][1].value, 12.0)
        self.assertAlmostEqual(lengths[-1], 45.0, delta=0.01)
        self.assertAlmostEqual(min(v.value for v in told[-1][1:]), 3.0, delta=0.01)
        self.assertEqual(sizes_now(plan.reckoning, moment(plan, 0)), ())

    def test_it_glows_only_where_it_is_hot(self):
        plan = sequence(demo("caulking-iron"))[1]
        for i, frame in enumerate(plan.frames):
            now = moment(plan, i + 0.2)
            if isinstance(frame, Heat):
                self.assertTrue(frame.cold or frame.stop <= now.celsius <= frame.hot)
                self.assertEqual(now.zone, (0.0, 0.0) if frame.cold else frame.zone)
            else:
                self.assertEqual(now.celsius > 0, frame.key in ("normalise", "harden"))
        harden = next(i for i, f in enumerate(plan.frames) if isinstance(f, Errand) and f.key == "harden")
        self.assertEqual(moment(plan, harden).zone, (0.0, 50.0))  # its edge is at end A
        whole = sequence(replace(demo("caulking-iron"), planning=replace(Piece().planning, working="whole")))[1]
        self.assertEqual(moment(whole, harden).zone, (0.0, whole.reckoning.cut))

    def test_no_more_glows_than_the_fire_heats_however_long_it_is_drawn(self):
        """Against the steel of what is shown: its parts within the glow, as long as they are by then."""
        long = Piece(
            bar=round_(16), features=(KINDS["run"](id="r", length=60.0), KINDS["taper"](id="t", length=400.0, tip=5.0, toward="B"))
        )
        plan = answer(long).plan
        shown = [(at, moment(plan, float(at)).zone) for at, frame in enumerate(plan.frames) if isinstance(frame, Heat) and not frame.cold]
        for at, (low, high) in shown:
            frame = plan.frames[at]
            parts = staged(plan.reckoning, frame.before)
            glows = sum(
                max(min(p.end, high) - max(p.start, low), 0.0) / (p.end - p.start) * p.shape.length for p in parts if p.end > p.start
            )
            if frame.fire == "B":
                self.assertAlmostEqual(high, frame.zone[1])  # from the end that lies in the fire
            self.assertLess(abs(glows - frame.long), 0.12 * frame.long)  # in a taper bar and length do not go quite evenly
        self.assertLess(shown[-1][1][0], shown[0][1][0] - 50)  # from the thin end back

    def test_the_mouth_is_held_against_what_is_drawn(self):
        piece = Piece(
            features=(
                KINDS["bend"](id="a", angle=180.0, radius=60.0),
                KINDS["run"](id="r", length=120.0),
                KINDS["bend"](id="b", angle=90.0),
            )
        )
        plan = sequence(piece, forge=ForgeSettings(door=Door(1.0)))[1]
        told = {h.number: door_notes(plan, h) for h in plan.heats}
        self.assertTrue(all(told.values()))  # nothing passes a slit
        first = told[1][0].values[0].value
        self.assertAlmostEqual(first, 12.0, delta=0.01)  # still straight
        self.assertFalse(door_notes(sequence(piece, forge=ForgeSettings(door=Door(12.5)))[1], plan.heats[0]))
        self.assertFalse(door_notes(sequence(piece)[1], plan.heats[-1]))  # an open hearth has none

    def test_tongs_are_told_what_they_must_fit(self):
        plan = answer(demo("mooring-ring")).plan
        notes = {h.number: line.show(MM) for h in plan.heats if (line := grip_note(plan, h)) is not None}
        self.assertNotIn(1, notes)  # held at the bar as it came
        self.assertIn("Hold it by the bend at end A", notes[4])  # half of it lies in the fire at a time, and no straight bar is left
        staple = answer(demo("mooring-staple")).plan
        notes = {h.number: line.show(MM) for h in staple.heats if (line := grip_note(staple, h)) is not None}
        self.assertFalse([n for n in notes.values() if "0 mm" in n])
        point = answer(
            Piece(features=(KINDS["point"](id="p", length=60.0), KINDS["run"](id="r", length=60.0), KINDS["taper"](id="t", toward="B")))
        ).plan
        told = grip_note(point, point.heats[-1])
        self.assertIn("Tongs that hold", told.show(MM))  # at 25 of 60 a point of 12 is 5 thick
        self.assertTrue(all(4.5 < q.value < 5.5 for q in told.values[:-1]) or point.heats[-1].held == "B", told)

    def test_marks_within_features_and_between_them(self):
        piece = Piece(features=(KINDS["taper"](id="t"), KINDS["hole"](id="h"), KINDS["run"](id="r")))
        plan = sequence(piece)[1]
        self.assertEqual(set(marks_left(plan, plan.frames[0].before)), {("h", 0.0), ("h", 0.5), ("h", 1.0)})


class Times(unittest.TestCase):
    def test_cooling_in_air_by_another_integrator(self):
        piece = Piece(bar=square(12))

        def fall(_t, y):
            k = y[0] + 273.15
            lost = EMISSIVITY * SIGMA * (k**4 - AMBIENT**4) + 15 * (k - AMBIENT)
            return [-lost / (DENSITY * 3e-3 * float(specific_heat(np.array([y[0]]))[0]))]

        cold = solve_ivp(fall, (0, 4000), [900.0], events=lambda _t, y: y[0] - 320, max_step=1.0)
        wanted = float(cold.t_events[0][0])
        self.assertAlmostEqual(air_cooling(piece, 900, 320), wanted, delta=0.03 * wanted)
        self.assertEqual(air_cooling(piece, 40, 45), 0.0)
        self.assertAlmostEqual(air_cooling(piece, 300, 45), DENSITY * 3e-3 * 500 / 20 * math.log(280 / 25), places=6)

    @given(pieces(most=5))
    def test_minutes_are_made_of_heats_and_a_slower_fire_takes_longer(self, piece):
        plan, slow = (sequence(piece, forge=ForgeSettings(slow=s))[1] for s in (1.8, 3.6))
        hot = [i for i, item in enumerate(plan.packed) if not item.cold]
        self.assertAlmostEqual(
            plan.minutes[1] * 60,
            sum(plan.times.fire) + sum(plan.times.work) + sum(plan.times.around),
            delta=1e-6 * max(plan.times.total, 1),
        )
        self.assertTrue(all(plan.times.fire[i] > 0 for i in hot))
        self.assertTrue(not hot or sum(slow.times.fire) > 1.5 * sum(plan.times.fire))
        self.assertTrue(plan.minutes[0] <= plan.minutes[1] <= plan.minutes[2])

    def test_a_part_that_goes_back_warm_is_hot_sooner(self):
        times = answer(demo("lantern-bracket")).plan.times
        self.assertLess(times.fire[2], 0.7 * times.fire[1])  # the scroll's heats follow each other
        self.assertGreater(
            reheat(Piece(bar=square(20)), ForgeSettings(), 20, 1150), reheat(Piece(bar=square(12)), ForgeSettings(), 20, 1150)
        )
        self.assertAlmostEqual(reheat(Piece(), ForgeSettings(), 1149.9, 1150), soak(12), delta=0.2)

    def test_a_quench_by_stepping(self):
        celsius, seconds, step = 790.0, 0.0, 0.01
        while celsius > 80:
            celsius -= 1200 * (celsius - 40) / (DENSITY * 3e-3 * 600) * step
            seconds += step
        self.assertAlmostEqual(quench_seconds(12, 790, "oil"), seconds, delta=0.05)
        self.assertLess(quench_seconds(12, 790, "water"), quench_seconds(12, 790, "oil") / 3)
        self.assertTrue(all(t.source and t.medium in ("oil", "water", "air") for t in TREATMENTS.values()))


class Physical(unittest.TestCase):
    @given(pieces(most=5), st.floats(1.1, 3.0))
    def test_a_heavier_hammer_never_takes_more_of_a_heat(self, piece, factor):
        weak, strong = (sequence(piece, forge=ForgeSettings(hammer=Hammer(mass=1.3 * f)))[1] for f in (1.0, factor))
        self.assertTrue(all(b.need <= a.need + 1e-12 for a, b in zip(weak.steps, strong.steps, strict=True)))

    @given(pieces(most=5), st.floats(1.1, 3.0))
    def test_a_measured_factor_lengthens_all_work_alike(self, piece, factor):
        plain, slower = (sequence(piece, forge=ForgeSettings(belief=believing(work=math.log(f)), hot_length=1e5))[1] for f in (1.0, factor))
        for a, b in zip(plain.steps, slower.steps, strict=True):
            if a.effort > 0 and math.isfinite(a.effort):
                self.assertAlmostEqual(b.effort / a.effort, factor, places=6)

    def test_scale_by_fire_and_size_and_the_note_about_the_allowance(self):
        for fire in FIRES:
            losses = [scale_loss(a * a, 4 * a, fire=fire) for a in (4, 8, 16, 32)]
            self.assertEqual(losses, sorted(losses, reverse=True))
        thin = Piece(bar=round_(4), features=(KINDS["taper"](id="t", tip=2.0), KINDS["run"](id="r")))
        expected = scale_expected(thin, ForgeSettings())
        self.assertGreater(expected, 2.5 * thin.allowances.scale)
        self.assertIn("of scale each heat", " ".join(c.line.show(MM) for c in answer(thin).plan.checks))
        self.assertNotIn("of scale each heat", " ".join(c.line.show(MM) for c in answer(demo("lantern-bracket")).plan.checks))

    def test_the_thinner_end_is_hardened_unless_told(self):
        piece = demo("caulking-iron")
        self.assertEqual(working_end(piece, answer(piece).reckoning), "A")
        turned = replace(piece, planning=replace(piece.planning, working="B"))
        self.assertEqual(working_end(turned, answer(turned).reckoning), "B")
        self.assertIn("end B", treatment(turned, answer(turned).reckoning)[1].line.show(MM))
        self.assertEqual(treatment(Piece(), answer(Piece()).reckoning), ())


class Out(unittest.TestCase):
    def test_tables_hold_every_frame_with_its_numbers(self):
        for piece in demos():
            found = answer(piece)
            rows = list(csv.DictReader(io.StringIO(heats_csv(found, MM))))
            self.assertEqual(len(rows), sum(len(f.work) if isinstance(f, Heat) else 1 for f in found.plan.frames))
            data = json.loads(heats_json(found, MM))
            self.assertEqual(
                [f["heat"] for f in data["heats"]], [f.key if isinstance(f, Errand) else f.number or "cold" for f in found.plan.frames]
            )
            for told, frame in zip(data["heats"], found.plan.frames, strict=True):
                self.assertEqual([c["cold"] for c in told["checks"]], [list(g.cold) for g in gauges(frame, found.reckoning)])
            self.assertEqual(data["cost"]["heats"], found.plan.count)

    def test_the_terminal_tells_errands_methods_checks_and_flags(self):
        piece = demo("caulking-iron")
        words = plan_text(answer(piece), PLAIN)
        for wanted in ("Harden:", "Temper:", "check ", "(on the anvil's face)", "hold end", " min; 9 of 10 pieces take "):
            self.assertIn(wanted, words)
        own = OwnRule(name="odd", strength="must", before="taper", after="head", reason="Because I say so.")
        other = OwnRule(name="even", strength="must", before="head", after="taper", reason="Because I do not.")
        told = plan_text(answer(piece, forge=Shop(rules=(own, other)).forge), PLAIN)
        self.assertIn("! broken: Because I do not.", told)
        self.assertEqual(plan_data(answer(piece))["errands"][0]["key"], "bar")

    def test_a_log_and_own_rules_go_through_files(self):
        entry = LogEntry(piece="p", name="Staple", number=3, heats=5, minutes=22.5, planned_heats=4, planned_minutes=17.0, note="short")
        reader = Reader()
        self.assertEqual(reader.model(RECORDS["log"], fields_out(entry), "$"), entry)
        shop = Shop(rules=(OwnRule(name="x", reason="y"),), ram=25.0, bends="fork", irons=3)
        self.assertEqual(reader.model(Shop, fields_out(shop), "$"), shop)
        old = dict(fields_out(Shop()).items())
        self.assertEqual(set(old) & {"ram", "rules", "bends", "irons", "opening"}, set())  # older programs still read it
        self.assertEqual((reader.model(Shop, old, "$"), reader.problems), (Shop(), []))

    def test_at_once_for_large_pieces_and_in_full_for_small(self):
        small = Piece(features=tuple(KINDS["bend"](id=f"b{i}") for i in range(4)))
        large = Piece(features=tuple(KINDS["run"](id=f"r{i}") for i in range(SMALL + 1)))
        self.assertEqual([quick_answer(p).plan.thorough for p in (small, large)], [True, False])

    def test_a_method_that_is_gone_falls_back(self):
        piece = demo("mooring-staple")
        chosen = pick_method(piece, "bend1/0", "no such thing").after
        self.assertEqual([s.method for s in answer(chosen).plan.steps], [s.method for s in answer(piece).plan.steps])
        self.assertEqual(pick_method(pick_method(piece, "a/0", "vice").after, "a/0", "").after, piece)

    def test_lengths_grow_under_the_hammer(self):
        for piece in demos():
            plan = answer(piece).plan
            for frame in plan.frames:
                # What is drawn flat and wide is first shorter, and a tine is drawn from its half of the bar.
                worked = {(w.step.operation.work, w.step.feature.kind) for w in frame.work} if isinstance(frame, Heat) else set()
                if worked and all(work == "draw" and kind in ("taper", "point", "section-change", "tenon") for work, kind in worked):
                    longer = length_now(plan.reckoning, frame.after) > length_now(plan.reckoning, frame.before)
                    self.assertTrue(longer or piece.name == "Caulking iron", piece.name)


class Bending(unittest.TestCase):
    def test_the_last_moment_of_a_bend_is_what_comes_after_it(self):
        seen = 0
        for path in demo_files():
            found = answer(read_piece(path))
            for i, frame in enumerate(found.plan.frames):
                if not isinstance(frame, Heat) or not any(w.step.operation.verb in ("bend", "hook", "scroll", "curl") for w in frame.work):
                    continue
                if any(w.step.feature.kind in ("split", "scarf") for w in frame.work):
                    continue  # tines and laps are drawn when they are open
                progress = (moment(found.plan, i + 0.9999).progress, frame.after)
                boxes = [figure([(p.id, p.shape) for p in staged(found.reckoning, p_)]).bounds for p_ in progress]
                with self.subTest(path.stem, heat=frame.number):
                    for a, b in zip(*boxes, strict=True):
                        self.assertAlmostEqual(a, b, delta=1.0)  # a bend down goes down, not up and over at the end
                seen += 1
        self.assertGreater(seen, 6)
