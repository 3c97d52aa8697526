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
from long_ember.heats import RULES, Bench, cautions, steps, ties
from long_ember.physics import ANVIL, STILL_AIR, Slice, band, cooling, draw_factor, end_loss, flow_stress, heats_of_work, window
from long_ember.physics.cooling import AMBIENT, DENSITY, EMISSIVITY, SIGMA, specific_heat
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
    """Seconds to cool by radiation alone at constant specific heat (heat model, section 1)."""
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
        self.assertTrue(0 < end_loss(10, 12) < end_loss(60, 12) < end_loss(300, 12) <= 1)

    def test_too_cold_to_start_is_infinite_not_nan(self):
        work = [Slice(1000, 144, 48, 0.5, draw_factor(12, 12))]
        self.assertEqual(heats_of_work(work, 700, 850, 0.15, 60), math.inf)
        self.assertTrue(0 < heats_of_work(work, 1150, 850, 0.15, 60) < 1)
        self.assertLess(cooling(ANVIL).seconds(800, 850, 144, 48), 1e-9)


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
        self.assertEqual(sorted(done), [s.number for s in steps(piece, reckon(piece), Bench())])
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
        self.assertTrue(all(r.reason.endswith(".") and r.strength in ("must", "better") for r in RULES))

    def test_musts_never_run_in_a_circle(self):
        kinds = [k for k in KINDS if k != "run"]
        found = tuple(
            KINDS[k](id=f"{i}{k}", **({"toward": "B"} if i and hasattr(KINDS[k], "toward") else {})) for i in (0, 1) for k in kinds
        )
        piece = Piece(bar=square(14), features=tuple(f.fitted(square(14)) for f in found))
        piece.verify()
        self.assertEqual(sum(len(h.work) > 0 for h in answer(piece).plan.heats), len(answer(piece).plan.packed))

    def test_curl_before_the_hook_behind_it_and_not_in_the_same_heat(self):
        piece = Piece(features=(KINDS["curl"](id="c"), KINDS["hook"](id="h"), KINDS["run"](id="r")))
        order = [(at, w.step.operation.verb) for at, h in enumerate(answer(piece).plan.heats) for w in h.work]
        at = {verb: i for i, verb in order}
        self.assertLess(at["curl"], at["hook"])
        reasons = {r.id for h in answer(piece).plan.heats for w in h.work for r in w.because}
        self.assertIn("curl-first", reasons)

    def test_ties_of_a_better_rule_give_way(self):
        piece = Piece(features=(KINDS["upset"](id="u"), KINDS["taper"](id="t", toward="B")))
        pairs = ties(steps(piece, reckon(piece), Bench())).pairs
        self.assertEqual([(t.rule.id, t.before, t.after) for t in pairs if t.rule.strength == "better"], [("upset-first", 0, 1)])

    def test_cold_steps_are_not_heats(self):
        plan = answer(Piece(features=(KINDS["hole"](id="a"), KINDS["run"](id="b")))).plan
        self.assertEqual((plan.count, [h.cold for h in plan.heats], plan.heats[0].number), (0, [True], 0))


class Demo(unittest.TestCase):
    """Looked at frame by frame in the filmstrip before they were written down here."""

    WANTED = {
        "lantern-bracket": ["setdown", "draw", "twist", "scroll", "bend"],
        "mooring-staple": ["draw", "draw", "bend", "bend"],
        "door-pull": ["twist", "drill", "drill", "bend", "bend", "bend", "bend"],
        "mooring-ring": ["draw", "draw", "bend", "close", "close"],
        "oar-cradle": ["draw", "split", "draw", "twist", "drill", "drill", "bend", "bend"],
        "boat-hook-head": ["setdown", "draw", "split", "draw", "punch", "eye", "bend"],
        "gate-pintle": ["spread", "setdown", "drill", "drill", "bend"],
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
