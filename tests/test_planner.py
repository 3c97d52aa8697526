"""The planner against exhaustive search and the greedy order; pins, overrules, own rules, schools; batches; what is told around the heats."""

import itertools
import json
import math
import unittest
from dataclasses import replace

from hypothesis import assume, given
from hypothesis import strategies as st

from long_ember.demo import demo_files
from long_ember.document import answer, overrule, pick_method, pin_order, restore_rule, set_planning
from long_ember.features import HARDENED_FOR, KINDS, ORDER_SCHOOLS, Allowances, Overrule, Piece, Pin, Planning, operations_of
from long_ember.heats import (
    CRAFT,
    HELPERS,
    MATCHES,
    PINNED,
    RULES,
    TREATMENTS,
    WHERE,
    Errand,
    ForgeSettings,
    batch,
    craft_of,
    fixtures,
    gauges,
    learned,
    length_now,
    methods_for,
    move_step,
    pin_all,
    planning,
    planning_of,
    replanned,
    sequence,
    unpinned,
)
from long_ember.heats import planner as searching
from long_ember.heats.errands import air_cooling
from long_ember.materials import MATERIALS
from long_ember.portions import all_portions
from long_ember.records import KIT, OwnRule, Shop, missing_tools
from long_ember.sections import square
from long_ember.storage import piece_from_text, piece_to_text, read_piece
from long_ember.units import Measure
from tests.support import CASES, believing, pieces, places

MM = Measure()


def demo(name):
    return read_piece(next(p for p in demo_files() if p.stem == name))


def all_orders(packer):
    """Every order that keeps the musts."""
    return (o for o in itertools.permutations(range(len(packer.steps))) if packer.keeps(o))


class Planner(unittest.TestCase):
    @given(pieces(most=6))
    def test_equal_to_exhaustive_search_on_small_pieces(self, piece):
        plan = sequence(piece)[1]
        assume(2 <= len(plan.steps) <= 7)
        best = min(plan.packer.total(o) for o in all_orders(plan.packer))
        self.assertAlmostEqual(plan.packer.total(plan.order), best)

    @given(pieces())
    def test_never_worse_than_greedy_and_what_it_costs_adds_up(self, piece):
        plan = sequence(piece)[1]
        self.assertLessEqual(plan.cost.total, plan.packer.total(plan.packer.greedy()) + 1e-9)
        self.assertAlmostEqual(plan.cost.total, plan.packer.total(plan.order))
        self.assertEqual(plan.cost.heats, plan.count)
        self.assertEqual(plan.packer.count(plan.order, 1.0), plan.count)
        self.assertTrue(plan.packer.keeps(plan.order))

    def test_a_large_piece_is_planned_in_small_portions_the_same_every_time(self):
        piece = Piece(features=tuple(KINDS[k](id=f"f{i}") for i, k in enumerate(list(KINDS) * 2) if k not in ("traced",))[:36])
        plan = sequence(piece, quick=True)[1]
        self.assertFalse(plan.thorough)
        portions = sum(1 for _ in planning_of(plan))
        self.assertGreater(portions, 20)  # a window goes on, or gives up, between them
        at, found = sequence(piece)
        then, later = replanned(plan, found.order)
        self.assertEqual((then.cut, later.count, later.thorough), (at.cut, found.count, True))
        kept, same = replanned(plan, plan.order)
        self.assertTrue(kept is plan.reckoning and same.thorough and not plan.thorough)
        searching._found.clear()
        self.assertEqual(all_portions(planning(plan.packer)), found.order)
        self.assertLess(found.cost.total, plan.cost.total)
        search = planning(plan.packer)
        next(search, None)
        search.close()  # cancelled: nothing is left behind

    def test_a_known_order_is_kept_while_typing(self):
        piece = demo("boat-hook-head")
        plan = sequence(piece)[1]
        self.assertEqual(sequence(piece, quick=True, order=plan.order)[1].order, plan.order)
        self.assertEqual(sequence(piece, quick=True, order=plan.order[::-1])[1].order, tuple(plan.packer.greedy()))

    @given(pieces())
    def test_every_feature_finished_once_and_volume_kept_to_the_last_frame(self, piece):
        found = answer(piece)
        reckoning, frames = found.reckoning, found.plan.frames
        assume(frames)
        last = frames[-1].after
        finished = sum(z.shape.volume for z in reckoning.zones)
        self.assertAlmostEqual(sum(_stage(z, last).volume for z in reckoning.zones), finished, delta=1e-6 * finished)
        losses = reckoning.scale + (2 * reckoning.trim + reckoning.parting + reckoning.cut - reckoning.likely) * piece.bar.area
        whole = finished + reckoning.removed - reckoning.added + losses
        self.assertAlmostEqual(whole, reckoning.cut * piece.bar.area, delta=1e-6 * whole)
        for before, after in itertools.pairwise(frames):
            self.assertEqual(before.after, after.before)


def _stage(zone, progress):
    from long_ember.geometry import stage_shape

    return stage_shape(zone.feature, zone.place, progress[zone.feature.id])


class Rules(unittest.TestCase):
    @given(pieces(), st.randoms())
    def test_any_pinned_order_is_kept_and_what_it_breaks_is_flagged(self, piece, rng):
        keys = [s.key for s in sequence(piece)[1].steps]
        chosen = rng.sample(keys, min(len(keys), 4))
        plan = sequence(replace(piece, planning=Planning(pins=tuple(Pin(step=k) for k in chosen))))[1]
        place = {plan.steps[n].key: i for i, n in enumerate(plan.order)}
        pairs = {(plan.steps[t.before].key, plan.steps[t.after].key) for t in plan.ties.pairs if t.rule is PINNED}
        self.assertTrue(all(place[a] < place[b] for a, b in pairs))
        if len({key.split("/")[0] for key in chosen}) == len(chosen):  # only a feature's own order may stand against a pin
            self.assertEqual(len(pairs), max(len(chosen) - 1, 0))
        for tie in plan.ties.broken:
            self.assertGreater(place[plan.steps[tie.before].key], place[plan.steps[tie.after].key])
            self.assertIn((tie.rule, tie.after, "broken"), plan.flags)

    def test_a_drag_says_what_it_costs_and_pins(self):
        piece = Piece(features=(KINDS["curl"](id="c"), KINDS["hook"](id="h"), KINDS["run"](id="r")))
        plan = answer(piece).plan
        curl = next(s.number for s in plan.steps if s.operation.verb == "curl")
        hook = next(s.number for s in plan.steps if s.operation.verb == "hook")
        move = move_step(plan, hook, plan.order.index(curl))
        self.assertIn("breaks a must: the curl before the bend", move.words)
        self.assertEqual(move.refused, "")
        after = answer(pin_order(piece, move.pins).after).plan
        self.assertLess(after.order.index(hook), after.order.index(curl))
        self.assertIn(("curl-first", "broken"), [(r.id, why) for r, _n, why in after.flags])
        self.assertEqual(answer(pin_order(piece, ()).after).plan.order, plan.order)
        draw = next(n for n in plan.order if plan.steps[n].operation.verb == "draw")
        self.assertIn("can't be turned round", move_step(plan, draw, len(plan.order)).words)
        self.assertEqual(len(pin_all(plan)), len(plan.steps))
        pinned = answer(pin_order(piece, pin_all(plan)).after).plan
        self.assertEqual(len(unpinned(pinned, curl)), len(plan.steps) - 1)

    def test_overruled_with_a_note_and_restored(self):
        piece = Piece(features=(KINDS["curl"](id="c"), KINDS["hook"](id="h"), KINDS["run"](id="r")))
        edit = overrule(piece, "curl-first", "", "The curl is wide open.")
        plan = answer(edit.after).plan
        self.assertNotIn("curl-first", [t.rule.id for t in plan.ties.pairs])
        self.assertEqual({why for r, _n, why in plan.flags if r.id == "curl-first"}, {"overruled"})
        self.assertEqual(
            piece_from_text(piece_to_text(edit.after)).planning.overrules, (Overrule(rule="curl-first", note="The curl is wide open."),)
        )
        self.assertEqual(restore_rule(edit.after, "curl-first").after, piece)
        one = overrule(piece, "curl-first", "h/0", "").after
        self.assertTrue(answer(one).plan.ties.overruled)
        self.assertFalse(answer(overrule(piece, "own-order", "", "").after).plan.ties.overruled)

    def test_a_shops_own_rule_and_one_that_contradicts(self):
        piece = demo("mooring-staple")
        own = OwnRule(name="B first", strength="must", before="bend", after="taper", where="any", reason="A habit.")
        plan = answer(piece, forge=Shop(rules=(own,)).forge).plan
        self.assertEqual({t.rule.id for t in plan.ties.broken}, {"own: B first"})  # the drawing comes first all the same
        soft = replace(own, strength="better", before="taper", after="taper", where="apart-ends")
        self.assertTrue(answer(piece, forge=Shop(rules=(soft,)).forge).plan.count)

    def test_schools_turn_the_order_and_the_method(self):
        piece = Piece(
            features=(KINDS["taper"](id="t"), KINDS["run"](id="r", length=300.0), KINDS["head"](id="h", diameter=30.0, toward="B"))
        )
        for choice, first in (("point", "taper"), ("head", "head")):
            for made in (answer(set_planning(piece, "first", choice).after), answer(piece, forge=Shop(first=choice).forge)):
                self.assertEqual(made.plan.steps[made.plan.order[0]].operation.manner, first)
        bent = Piece(features=(KINDS["run"](id="r"), KINDS["bend"](id="b"), KINDS["run"](id="s")))
        for school in next(s for s in ORDER_SCHOOLS if s.key == "bends").options:
            self.assertEqual(answer(set_planning(bent, "bends", school[0]).after).plan.steps[0].method.key, school[0])
        self.assertEqual(answer(pick_method(bent, "b/0", "edge").after).plan.steps[0].method.key, "edge")
        thick = Piece(bar=square(20), features=(KINDS["section-change"](id="a", section=square(8)), KINDS["run"](id="r", length=300.0),
                                                KINDS["section-change"](id="b", section=square(16))))  # fmt: skip
        self.assertEqual(
            answer(set_planning(thick, "warming", "thick").after)
            .plan.steps[answer(set_planning(thick, "warming", "thick").after).plan.order[0]]
            .feature.id,
            "b",
        )

    def test_words_of_rules_and_crafts_are_known(self):
        manners = {o.manner for f in CASES for p in places(square(12)) for o in _operations(f, p)}
        for manner in manners:
            craft = craft_of(manner)
            self.assertTrue(any(not m.needs for m in craft.methods), manner)  # another way, never an error
            self.assertTrue(methods_for(manner, frozenset(), "", 144.0))
        for craft in CRAFT.values():
            for method in craft.methods:
                self.assertLessEqual(set(method.needs), {*KIT, *HELPERS})
                if method.needs and not set(method.needs) & set(HELPERS):  # the others are made or borrowed first
                    self.assertEqual(missing_tools(method.tools[:1], method.needs), (), method)
        self.assertTrue(all(r.where in WHERE for r in RULES))
        self.assertLessEqual(set(MATCHES), {o for r in RULES for o in r.before | r.after} | set(CRAFT))


def _operations(feature, place):
    from long_ember.errors import NoAnswer

    try:
        return operations_of(feature, place)
    except NoAnswer:
        return ()


class Kit(unittest.TestCase):
    def test_a_power_hammer_and_a_striker_shorten_heavy_drawing(self):
        piece = Piece(bar=square(30), features=(KINDS["run"](id="r", length=200.0), KINDS["taper"](id="t", length=150.0, tip=10.0)))
        hand, helped, power = (
            answer(piece, forge=ForgeSettings(striker=s, ram=r)).plan for s, r in ((False, 0.0), (True, 0.0), (False, 40.0))
        )
        self.assertTrue(hand.count > helped.count > power.count)
        self.assertEqual([p.steps[0].method.key for p in (hand, helped, power)], ["face", "striker", "ram"])

    def test_no_kit_still_has_a_way(self):
        for path in demo_files():
            plan = answer(read_piece(path), forge=Shop(kit=()).forge).plan
            self.assertTrue(all(not s.method.needs for s in plan.steps))

    def test_long_zones_hard_twists_and_the_mouth_of_the_forge_are_told(self):
        piece = Piece(
            bar=square(25), features=(KINDS["run"](id="a"), KINDS["twist"](id="t", length=300.0, turns=1.0), KINDS["run"](id="b"))
        )
        words = " ".join(c.line.show(MM) for c in answer(piece, forge=ForgeSettings(hot_length=150)).plan.checks)
        self.assertIn("your fire heats 150 mm evenly", words)
        self.assertIn("not alone", words)

    @given(pieces())
    def test_scale_settles_where_it_stands(self, piece):
        """Fixed point: reckoned again with the exposure of the plan, the bar is as long as the plan says."""
        plan = sequence(piece)[1]
        zones = {z.feature.id: z for z in plan.reckoning.zones}
        for identity, times in plan.exposure:
            hot = [f.zone for f in plan.packed if not f.cold]
            zone = zones[identity]
            shared = sum(max(0.0, min(zone.end, b) - max(zone.start, a)) for a, b in hot) / zone.length
            self.assertAlmostEqual(shared, times, delta=0.02 * max(times, 1))


class Around(unittest.TestCase):
    def test_every_moment_has_numbers_and_the_bar_grows_to_its_length(self):
        for path in demo_files():
            plan = answer(read_piece(path)).plan
            self.assertEqual(plan.frames[0].key, "bar")
            self.assertAlmostEqual(gauges(plan.frames[0], plan.reckoning)[0].cold[0], plan.reckoning.cut)
            for frame in plan.frames:
                for gauge in gauges(frame, plan.reckoning):
                    self.assertTrue(gauge.line.show(MM) and gauge.tool)
                    self.assertTrue(all(h >= c for c, h in zip(gauge.cold, gauge.hot, strict=True)))
            last = plan.frames[-1].after
            self.assertAlmostEqual(length_now(plan.reckoning, last), sum(z.shape.length for z in plan.reckoning.zones))

    def test_cooling_before_cold_work_and_never_in_water_where_it_hardens(self):
        features = (KINDS["taper"](id="t"), KINDS["run"](id="r"), KINDS["thread"](id="h", toward="B"))
        for material, wanted in (("mild-steel", "water"), ("high-carbon", "Never in water")):
            piece = Piece(features=features, material=material)
            waits = [e for e in answer(piece).plan.errands if e.key == "cool"]
            self.assertEqual(len(waits), 1)
            self.assertIn(wanted, waits[0].line.show(MM))
        self.assertGreater(air_cooling(Piece(bar=square(20)), 900), air_cooling(Piece(bar=square(10)), 900))

    def test_treatment_follows_the_material_and_ends_the_work(self):
        for key, steel in MATERIALS.items():
            piece = replace(demo("caulking-iron"), material=key)
            keys = [e.key for e in answer(piece).plan.errands if e.key in ("normalise", "harden", "temper", "coupon", "sheet")]
            wanted = {"none": [], "unknown": ["coupon"]}.get(
                steel.hardening, ["normalise", "harden", "temper"] if key in TREATMENTS else ["sheet"]
            )
            self.assertEqual(keys, wanted, key)
        plan = answer(demo("caulking-iron")).plan
        words = {e.key: e.line.show(MM) for e in plan.errands}
        self.assertIn("purple", words["temper"])
        self.assertIn("last", words["harden"])
        self.assertNotRegex(answer(replace(demo("caulking-iron"), material="unknown-steel")).plan.errands[-2].line.show(MM), r"\d+ °C")
        for purpose in HARDENED_FOR:
            piece = set_planning(demo("caulking-iron"), "purpose", purpose).after
            self.assertEqual("harden" in {e.key for e in answer(piece).plan.errands}, purpose != "none")
        frames = plan.frames
        first = next(i for i, f in enumerate(frames) if isinstance(f, Errand) and f.key == "harden")
        self.assertTrue(all(isinstance(f, Errand) for f in frames[first:]))

    def test_a_tapped_hole_is_drilled_under_size_first(self):
        plan = answer(Piece(features=(KINDS["run"](id="r"), KINDS["hole"](id="h", diameter=5.0, tap=6.0), KINDS["run"](id="s")))).plan
        self.assertEqual([plan.steps[n].operation.verb for n in plan.order], ["drill", "tap"])
        wrong = answer(Piece(features=(KINDS["hole"](id="h", diameter=6.0, tap=6.0),)))
        self.assertIn("wants a hole of about 5.1 mm", " ".join(c.line.show(MM) for _z, c in wrong.checks))


class Batches(unittest.TestCase):
    @given(pieces(most=5), st.integers(1, 6), st.integers(1, 4), st.sampled_from(("piece", "stage")))
    def test_a_timetable_that_a_smith_and_a_fire_can_keep(self, piece, count, irons, rhythm):
        plan = sequence(piece)[1]
        made = batch(plan, count, irons=irons, rhythm=rhythm)
        stages = len(plan.packed)
        self.assertEqual(sorted((t.piece, t.stage) for t in made.turns), [(p, s) for p in range(count) for s in range(stages)])
        for a, b in itertools.pairwise(made.turns):
            self.assertLessEqual(a.end, b.start + 1e-9)  # one smith
        for p in range(count):
            mine = [t for t in made.turns if t.piece == p]
            self.assertEqual([t.stage for t in mine], list(range(stages)))
            self.assertTrue(all(t.into <= t.ready <= t.start for t in mine))
            self.assertTrue(all(a.end <= b.into + 1e-9 for a, b in itertools.pairwise(mine)))
        ends = sorted([(t.into, 1) for t in made.turns if t.ready > t.into] + [(t.start, -1) for t in made.turns if t.ready > t.into])
        busy = 0
        for _at, change in ends:
            busy += change
            self.assertLessEqual(busy, irons)
        self.assertTrue(all(t.lies == 0 for t in made.turns if plan.packed[t.stage].cold))
        worked = sum(t.end - t.start for t in made.turns)
        self.assertAlmostEqual(worked + made.idle, made.total, delta=1e-6 * max(made.total, 1))

    def test_more_irons_help_and_learning_shortens(self):
        plan = answer(demo("mooring-staple")).plan
        totals = [batch(plan, 8, irons=k, rhythm="piece").total for k in (1, 2, 3)]
        self.assertEqual(totals, sorted(totals, reverse=True))
        steady = sequence(demo("mooring-staple"), forge=ForgeSettings(belief=believing(practice=-math.log2(0.9))))[1]
        self.assertLess(batch(plan, 8, irons=2, rhythm="piece").total, batch(steady, 8, irons=2, rhythm="piece").total)
        self.assertEqual([round(learned(n, 0.8), 3) for n in (1, 2, 4)], [1.0, 0.8, 0.64])
        self.assertTrue(fixtures(plan, 200)[0].pays)
        self.assertFalse(any(w.pays for w in fixtures(plan, 1)))

    def test_planning_travels_in_the_file_only_where_there_is_some(self):
        piece = replace(demo("door-pull"), allowances=Allowances())
        self.assertEqual(json.loads(piece_to_text(piece))["version"], 1)
        planned_one = pick_method(
            pin_order(set_planning(piece, "purpose", "none").after, pin_all(answer(piece).plan)).after, "f1/0", "edge"
        ).after
        self.assertEqual(json.loads(piece_to_text(planned_one))["version"], 3)
        self.assertEqual(piece_from_text(piece_to_text(planned_one)), planned_one)
