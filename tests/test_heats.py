"""Physics against closed forms and tables; order rules against every random piece; the demo's sequences."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given
from scipy.integrate import quad

from long_ember.demo import demo_files
from long_ember.document import answer
from long_ember.features import KINDS, Piece, shape_of
from long_ember.geometry import DONE, stage_shape
from long_ember.heats import RULES, ForgeSettings, cautions, length_now, ties
from long_ember.heats.bar_so_far import WORTH_TRIMMING, trimmed_off
from long_ember.heats.operations import stepping
from long_ember.physics import (
    ANVIL,
    STILL_AIR,
    Hammer,
    Load,
    Slice,
    band,
    cooling,
    draw_factor,
    end_losses,
    expansion,
    flow_stress,
    heating,
    scale_loss,
    shares,
    temper,
    twist_force,
    window,
)
from long_ember.physics.cooling_tables import AMBIENT, DENSITY, EMISSIVITY, SIGMA, specific_heat
from long_ember.portions import all_portions
from long_ember.sections import square
from long_ember.stock import reckon
from long_ember.storage import read_piece
from long_ember.units import Measure
from tests.support import pieces

BARS = {
    "6": (36, 24),
    "10": (100, 40),
    "12": (144, 48),
    "16": (256, 64),
    "20": (400, 80),
    "25": (625, 100),
    "6x25": (150, 62),
    "2x25": (50, 54),
}


def closed_form(area_over_perimeter: float, start: float, stop: float, c: float) -> float:
    """Seconds to cool by radiation alone at constant specific heat (computations, section 12)."""
    t, ti, ts = stop + 273.15, start + 273.15, AMBIENT
    logs = math.log((t + ts) / (t - ts)) - math.log((ti + ts) / (ti - ts))
    return DENSITY * c * area_over_perimeter / (4 * EMISSIVITY * SIGMA * ts**3) * (logs + 2 * (math.atan(t / ts) - math.atan(ti / ts)))


class Physics(unittest.TestCase):
    def test_closed_form_of_the_reference(self):
        self.assertAlmostEqual(closed_form(3e-3, 1200, 850, 650), 44.34, delta=0.05)

    def test_tables_against_quadrature(self):
        def rate(celsius: float) -> float:
            k = celsius + 273.15
            lost = EMISSIVITY * SIGMA * (k**4 - AMBIENT**4) + 15.0 * (k - AMBIENT)
            return float(specific_heat(np.array([celsius]))[0]) / lost

        wanted = quad(rate, 850, 1200, points=[900], epsrel=1e-10)[0] * DENSITY * 3e-3
        self.assertAlmostEqual(cooling(STILL_AIR).seconds(1200, 850, 144, 48), wanted, delta=2e-3 * wanted)
        radiation_only = wanted / closed_form(3e-3, 1200, 850, 650)
        self.assertTrue(0.85 < radiation_only < 1.0)  # convection hurries it

    def test_seconds_in_still_air_and_at_the_anvil(self):
        still = {"6": 19, "10": 33, "12": 40, "16": 54, "20": 68, "25": 85, "6x25": 32, "2x25": 12}
        anvil = {"6": 12, "10": 22, "12": 27, "16": 37, "20": 47, "25": 59, "6x25": 19, "2x25": 6}
        for name, (area, perimeter) in BARS.items():
            with self.subTest(name):
                self.assertAlmostEqual(cooling(STILL_AIR).seconds(1200, 850, area, perimeter), still[name], delta=0.05 * still[name] + 0.6)
                at_anvil = window(1150, 850, area, perimeter, 1e4, 1.0, 0.15)
                self.assertAlmostEqual(at_anvil, anvil[name], delta=0.1 * anvil[name] + 0.6)

    def test_flow_stress_check_values(self):
        for carbon, rate, wanted in ((0.1, 10, (191, 141, 106, 83)), (0.2, 50, (287, 175, 134, 107))):
            found = flow_stress(np.array([850.0, 1000, 1100, 1200]), carbon, strain=0.3, rate=rate)
            self.assertEqual([round(x) for x in found.tolist()], list(wanted))

    def test_flow_stress_branches_meet(self):
        for carbon in (0.1, 0.45, 0.9):
            change = 950 * (carbon + 0.41) / (carbon + 0.32) - 273.15
            a, b = flow_stress(np.array([change - 0.01, change + 0.01]), carbon).tolist()
            self.assertLess(abs(a / b - 1), 0.015)

    def test_colours_and_short_zones(self):
        self.assertEqual([band(t).word for t in (100, 600, 900, 1000, 1300)], ["black", "dark red", "orange", "yellow", "white"])
        short, middle, long = end_losses(np.array([10.0, 60, 300]), np.full(3, 12.0)).tolist()
        self.assertTrue(0 < short < middle < long <= 1)
        self.assertAlmostEqual(middle, 1 - 1.08 * math.exp(-0.459 * 60**0.865 / 12**0.629))
        self.assertEqual([temper(t).word for t in (200, 235, 280, 300, 400)], ["bright", "straw", "purple", "blue", "grey"])

    def test_too_cold_to_start_is_infinite_not_nan(self):
        (cold, _), (warm, _) = shares([load(start=700), load()], 0.15)
        self.assertEqual(cold, math.inf)
        self.assertTrue(0 < warm < 1)
        self.assertLess(cooling(ANVIL).seconds(800, 850, 144, 48), 1e-9)

    def test_one_pass_over_many_is_the_sum_of_each_by_quadrature(self):
        loads = [load(area=a, start=s) for a in (36.0, 100.0, 400.0) for s in (1000.0, 1150.0)]
        for one, (found, _window) in zip(loads, shares(loads, 0.2), strict=True):
            part = one.slices[0]

            def give(celsius: float) -> float:
                k = celsius + 273.15
                lost = EMISSIVITY * SIGMA * (k**4 - AMBIENT**4) + (15 + 40) * (k - AMBIENT)
                return float(specific_heat(np.array([celsius]))[0] / lost / (flow_stress(np.array([celsius]), 0.2)[0] * 1e6))

            each = quad(give, one.stop, one.start, points=[900], limit=200)[0] * DENSITY * part.area / part.perimeter * 1e-3
            wanted = part.volume * 1e-9 * part.strain * part.factor / (one.power * each)
            self.assertAlmostEqual(found, wanted, delta=5e-3 * wanted)
            self.assertEqual(found, shares([one], 0.2)[0][0])

    def test_thin_steel_takes_its_number_of_blows_however_strong_the_hammer(self):
        leaf = Slice(3000.0, 50.0, 54.0, 0.5, 2.0)
        weak, strong, stronger = (n for n, _w in shares([load()._replace(slices=(leaf,), power=p) for p in (20.0, 2e4, 2e6)], 0.15))
        self.assertGreater(weak, strong)
        self.assertEqual(strong, stronger)

    def test_a_piece_twice_the_size_takes_seven_to_twelve_times_as_long(self):
        """The sanity check of computations, section 15. Drawing alone comes to 5.5 to 7: a hammer's bite does not grow with the bar."""
        for kind, low in (("upset", 7.0), ("hole", 7.0), ("taper", 5.0)):
            times = []
            for factor in (1.0, 2.0):
                bar = square(12 * factor)
                feature = {
                    "upset": KINDS["upset"](id="x", section=square(16 * factor), length=20 * factor, blend=0.0),
                    "hole": KINDS["hole"](id="x", diameter=5 * factor, length=30 * factor, method="punched"),
                    "taper": KINDS["taper"](id="x", length=60 * factor, tip=7 * factor),
                }[kind]
                piece = Piece(bar=bar, features=(KINDS["run"](id="r", length=200 * factor), feature))
                plan = answer(piece, forge=ForgeSettings(hot_length=1e4)).plan
                times.append(plan.steps[0].need * window(1150, 850, bar.area, bar.perimeter, 1e4, 1, 0.15))
            self.assertTrue(low < times[1] / times[0] < 12, (kind, times))

    def test_heating_against_quadrature_and_a_second_fire(self):
        def rate(celsius: float) -> float:
            k, e = celsius + 273.15, 1250 + 273.15
            return float(specific_heat(np.array([celsius]))[0]) / (0.7 * SIGMA * (e**4 - k**4) + 30 * (e - k))

        wanted = quad(rate, 20, 1150, points=[600, 735, 900], limit=200)[0] * DENSITY * 3e-3
        self.assertAlmostEqual(heating("gas").seconds(20, 1150, 144, 48), wanted, delta=0.01 * wanted)
        self.assertLess(heating("coal").seconds(20, 1150, 144, 48), 0.8 * wanted)

    def test_scale_of_the_reference(self):
        for side, prompt, long in ((6, 3.0, 8.9), (10, 2.0, 5.4), (16, 1.5, 3.4), (25, 1.1, 2.2)):
            self.assertAlmostEqual(100 * scale_loss(side**2, 4 * side, fire="gas"), prompt, delta=0.11)
            held = scale_loss(side**2, 4 * side, fire="gas", start=1200, stop=1200, held=180)
            self.assertAlmostEqual(100 * held, long, delta=0.2)
            self.assertAlmostEqual(
                scale_loss(side**2, 4 * side, fire="coal", held=1e5) / scale_loss(side**2, 4 * side, fire="gas", held=1e5), 0.4, delta=0.001
            )

    def test_expansion_and_twisting(self):
        self.assertEqual([round(100 * expansion(t), 2) for t in (900, 1000, 1100)], [1.18, 1.38, 1.58])
        torque = twist_force(12**3 / 3, 1000, 0.1) * 0.6
        stress = float(flow_stress(np.array([1000.0]), 0.1, strain=0.5, rate=1)[0])
        self.assertAlmostEqual(torque, stress * 12**3 / (3 * math.sqrt(3)) * 1e-3)
        self.assertAlmostEqual(twist_force(8 * 12**3 / 3, 1000, 0.1), 8 * torque / 0.6)


def load(area: float = 144.0, start: float = 1150.0) -> Load:
    """A slice that is drawn by a third."""
    part = Slice(1000.0, area, 4 * math.sqrt(area), 0.3, draw_factor(math.sqrt(area), math.sqrt(area)))
    side = math.sqrt(area)
    return Load(start, 850.0, (part,), Hammer().power(0.78), 10.0, 0.0, 850.0, (area, 4 * side, 0.25), 200.0, side)


class Order(unittest.TestCase):
    @given(pieces())
    def test_every_must_is_kept_and_every_step_done_exactly_once(self, piece):
        plan = answer(piece).plan
        done: dict[int, list[tuple[float, float]]] = {}
        when: dict[int, int] = {}
        for at, heat in enumerate(plan.heats):
            for work in heat.work:
                done.setdefault(work.step.number, []).append((work.start, work.stop))
                when[work.step.number] = at
        self.assertEqual(sorted(done), [s.number for s in all_portions(stepping(piece, reckon(piece), ForgeSettings()))])
        for parts in done.values():
            self.assertAlmostEqual(sum(b - a for a, b in parts), 1)
            self.assertEqual((parts[0][0], parts[-1][1]), (0.0, 1.0))
        for tie in plan.ties.pairs:
            if tie.rule.strength == "must":
                first, second = when[tie.before], when[tie.after]
                self.assertTrue(first < second if tie.rule.apart else first <= second, tie.rule.id)

    @given(pieces())
    def test_each_heat_starts_where_the_last_one_ended_and_steel_is_kept(self, piece):
        found = answer(piece)
        zones = {z.feature.id: z for z in found.reckoning.zones}
        last = None
        for heat in found.plan.heats:
            if last is not None:
                self.assertEqual(heat.before, last)
            else:  # sawn, nothing done yet
                self.assertAlmostEqual(length_now(found.reckoning, heat.before), found.reckoning.cut - found.reckoning.parting, places=6)
            last = heat.after
            self.assertTrue(heat.cold or 0 <= heat.zone[0] < heat.zone[1] <= found.reckoning.cut + 1e-9)
        for identity, progress in (last or {}).items():
            zone = zones[identity]
            self.assertEqual(progress, DONE)
            self.assertEqual(stage_shape(zone.feature, zone.place, progress), shape_of(zone.feature, zone.place))

    @given(pieces())
    def test_the_band_holds_the_count(self, piece):
        plan = answer(piece).plan
        self.assertTrue(plan.low <= plan.count <= plan.high)

    def test_rules_say_why_and_have_names_of_their_own(self):
        self.assertEqual(len({r.id for r in RULES}), len(RULES))
        self.assertTrue(all(r.reason.endswith(".") and r.strength in ("must", "better", "either") for r in RULES))

    def test_musts_never_run_in_a_circle(self):
        kinds = [k for k in KINDS if k != "run"]
        found = tuple(
            KINDS[k](id=f"{i}{k}", **({"toward": "B"} if i and hasattr(KINDS[k], "toward") else {})) for i in (0, 1) for k in kinds
        )
        piece = Piece(bar=square(14), features=tuple(f.fitted(square(14)) for f in found))
        piece.verify()
        self.assertEqual(sum(len(h.work) > 0 for h in answer(piece).plan.heats), len(answer(piece).plan.packed))

    def test_curl_before_the_hook_behind_it_and_dipped_where_they_share_a_heat(self):
        piece = Piece(features=(KINDS["curl"](id="c"), KINDS["hook"](id="h"), KINDS["run"](id="r")))
        plan = answer(piece).plan
        verbs = [plan.steps[n].operation.verb for n in plan.order]
        self.assertLess(verbs.index("curl"), verbs.index("hook"))
        curl, hook = (next(s for s in plan.steps if s.operation.verb == verb) for verb in ("curl", "hook"))
        (shared,) = (item for item in plan.packed if {curl, hook} <= {s for s, _a, _b in item.items})
        seconds = sum(s.need * s.window for s, a, _b in shared.items if a == 0.0)
        self.assertGreaterEqual(shared.used * hook.window, seconds - plan.steps[0].need // 1 * plan.steps[0].window + 4 - 1e-6)
        reasons = {r.id for h in answer(piece).plan.heats for w in h.work for r in w.because}
        self.assertIn("curl-first", reasons)

    def test_ties_of_a_better_rule_give_way(self):
        piece = Piece(features=(KINDS["upset"](id="u"), KINDS["taper"](id="t", toward="B")))
        pairs = ties(all_portions(stepping(piece, reckon(piece), ForgeSettings())), reckon(piece)).pairs
        self.assertEqual([(t.rule.id, t.before, t.after) for t in pairs if t.rule.strength == "better"], [("upset-first", 0, 1)])

    def test_cold_steps_are_not_heats(self):
        plan = answer(Piece(features=(KINDS["hole"](id="a"), KINDS["run"](id="b")))).plan
        self.assertEqual((plan.count, [h.cold for h in plan.heats], plan.heats[0].number), (0, [True], 0))


class Demo(unittest.TestCase):
    """Looked at frame by frame in the storyboard before they were written down here."""

    WANTED = {
        "lantern-bracket": ["twist", "draw", "scroll", "setdown", "bend"],
        "mooring-staple": ["draw", "bend", "draw", "bend"],
        "door-pull": ["twist", "bend", "bend", "bend", "bend", "drill", "drill"],
        "mooring-ring": ["draw", "draw", "bend", "close", "close"],
        "oar-cradle": ["split", "draw", "twist", "bend", "draw", "bend", "drill", "drill"],
        "boat-hook-head": ["split", "setdown", "draw", "draw", "punch", "punch", "bend"],
        "gate-pintle": ["spread", "setdown", "bend", "drill", "drill"],
        "caulking-iron": ["upset", "draw"],
        "back-plate": ["drill", "drill", "drill"],
    }

    def test_golden_sequences(self):
        for path in demo_files():
            plan = answer(read_piece(path)).plan
            verbs = [w.step.operation.verb for h in plan.heats for w in h.work if w.start == 0]
            with self.subTest(path.stem):
                self.assertEqual(verbs, self.WANTED[path.stem])

    def test_the_bracket_from_a_thinner_bar(self):
        piece = read_piece(demo_files()[0])
        thick, thin = answer(piece), answer(replace(piece, bar=square(10)))
        self.assertGreater(thin.reckoning.cut, thick.reckoning.cut)  # the same tenon and scroll tip need more of a thinner bar
        self.assertLess(thin.reckoning.mass, thick.reckoning.mass)
        self.assertNotEqual([m.at for m in thin.marks], [m.at for m in thick.marks])
        self.assertNotEqual([h.zone for h in thin.plan.heats], [h.zone for h in thick.plan.heats])

    def test_cautions_are_there_and_no_load_is_certified(self):
        for index in range(len(demo_files())):
            words = self.words(index)
            self.assertIn("Eyes, ears", words)
            self.assertIn("carbon monoxide", words)
            self.assertIn("they certify nothing", words)
        self.assertIn("burns off", self.words(1))
        self.assertIn("Clamp drill work", self.words(2))
        self.assertNotIn("Clamp drill work", self.words(0))

    def words(self, index: int) -> str:
        found = answer(read_piece(demo_files()[index]))
        return " ".join(c.show(Measure()) for c in cautions(found.piece, found.reckoning, found.plan))


class AsLongAsItIs(unittest.TestCase):
    def test_what_overhangs_is_the_bar_as_it_is_by_then_scale_and_all(self):
        for path in demo_files():
            piece = read_piece(path)
            if piece.standing:
                continue
            plan = answer(piece).plan
            for heat in plan.heats:
                r, work = plan.reckoning, heat.work[0]
                gone = trimmed_off(r, heat.after) - trimmed_off(r, heat.before)
                whole = heat.reach(work, r.cut if heat.held == "B" else 0.0)
                with self.subTest(path.stem, heat=heat.number):
                    self.assertAlmostEqual(whole, length_now(r, heat.before) - gone + r.parting, places=6)
            first = plan.heats[0]
            if first.work[0].start == 0 and not trimmed_off(plan.reckoning, first.after):
                # Nothing is done yet: the bar is as long as it was sawn.
                self.assertAlmostEqual(first.reach(first.work[0], r.cut if first.held == "B" else 0.0), r.cut, places=6)

    def test_once_it_is_trimmed_what_overhangs_an_end_is_that_end_alone(self):
        asked = 0
        for path in demo_files():
            plan = answer(read_piece(path), ruler=25.0).plan  # a coarse ruler leaves something to cut off
            r = plan.reckoning
            end = r.zones[0 if r.spare == "A" else -1]
            for heat in plan.heats:
                begun = heat.work[0].step.feature.id == end.feature.id and not trimmed_off(r, heat.before)
                if r.over > WORTH_TRIMMING and begun and heat.held != r.spare:
                    asked += 1
                    self.assertAlmostEqual(heat.beyond(heat.work[0]), end.length + r.trim, places=6, msg=path.stem)
        self.assertGreater(asked, 3)
