"""Jobs: from pieces to cut list, rack, needs, shopping list and price; on the terminal."""

import contextlib
import csv
import io
import itertools
import json
import random
import tempfile
import unittest
from collections import Counter
from dataclasses import replace
from pathlib import Path

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from long_ember.__main__ import command
from long_ember.beliefs import PRIOR
from long_ember.cutting import Rules
from long_ember.demo import demo_parcel
from long_ember.errors import EmberError, NoAnswer
from long_ember.export import cut_list_schema, job_json
from long_ember.features.cut import PartOff
from long_ember.jobs.cut_layout import (  # fmt: skip
    as_problem,
    astray,
    finished,
    laid,
    locked,
    money_of,
    moved,
    moved_words,
    opened,
    ticked,
    ticked_bar,
    verified,
)
from long_ember.jobs.plan import better_plans, plan_jobs
from long_ember.jobs.problems import Holdings, counts_of, job_problems
from long_ember.jobs.quoting import effort, value_of
from long_ember.learning import calibrated
from long_ember.records import (  # fmt: skip
    Assembly,
    AssemblyPart,
    CutPiece,
    Fitting,
    Job,
    JobBlank,
    JobLine,
    JobSet,
    Join,
    LogEntry,
    Price,
    RackItem,
    SavedBar,
    SavedCutList,
    Shop,
    StoreItem,
    spares,
)
from long_ember.sections import round_, square
from long_ember.storage import parcel_text
from long_ember.units import Measure

PARCEL = demo_parcel()
PIECES = {item.id: item.piece for item in PARCEL.pieces}
RECORDS = dict(PARCEL.records)
RULES = Rules(2.0, 0.0, 200.0, 150.0)


SURE = replace(PRIOR, covariance=tuple(tuple(x / 10 for x in row) for row in PRIOR.covariance))


def holdings(shop=PARCEL.shop, pieces=PIECES, **given):
    rack = {i: r for i, r in RECORDS.items() if isinstance(r, RackItem)}
    prices = [r for r in RECORDS.values() if isinstance(r, Price)]
    assemblies = {i: r for i, r in RECORDS.items() if isinstance(r, Assembly)}
    return Holdings(
        **{"pieces": pieces, "assemblies": assemblies, "rack": rack, "prices": prices, "shop": shop, "forge": shop.forge, **given}
    )


def plan_of(*ids, **given):
    plan = plan_jobs({i: RECORDS[i] for i in ids}, holdings(**given))
    return list(better_plans(plan))[-1] if plan.found else plan


def blanks_of(sheet):
    return Counter((c.piece, c.job, c.length) for b in sheet.bars for c in b.cuts)


@st.composite
def sheets(draw):
    """Cut lists of one section, some blanks forged on the bar, with the rack they draw on."""
    rack = {f"r{i}": RackItem(length=draw(st.sampled_from((700.0, 1500.0))), count=2, source="offcut") for i in range(2)}
    bars = []
    for n in range(draw(st.integers(1, 5))):
        lying = draw(st.sampled_from(("", "r0", "r1")))
        bar = SavedBar(
            rack=lying, source="offcut" if lying else "bought", length=rack[lying].length if lying else 3000.0, price=0.0 if lying else 9.1
        )
        for k in range(draw(st.integers(1, 5))):
            held = draw(st.booleans())
            cut = CutPiece(piece=f"p{k % 3}", job=f"j{n % 2}", name=f"piece {k % 3}", length=100.0 + 60.0 * (k % 3), held=held,
                           loss=4.0 if held else 2.0)  # fmt: skip
            made = replace(bar, cuts=tuple(sorted((*bar.cuts, cut), key=lambda c: (not c.held, -c.length))))
            bar = bar if laid(made, RULES).over else made
        bars.append(bar)
    return SavedCutList(bars=tuple(b for b in bars if b.cuts)), rack


class CutSheets(unittest.TestCase):
    @given(sheets(), st.randoms(use_true_random=False))
    def test_whatever_is_moved_locked_and_ticked_every_blank_stays_and_no_bar_is_overrun(self, drawn, chance):
        sheet, _rack = drawn
        before, supplies = blanks_of(sheet), [SavedBar(source="bought", length=3000.0, price=9.1)]
        for _ in range(12):
            bar = chance.randrange(len(sheet.bars)) if sheet.bars else 0
            if not sheet.bars:
                return
            cut = chance.randrange(len(sheet.bars[bar].cuts))
            deeds = (
                lambda s, b=bar, c=cut: moved(s, b, c, chance.randrange(len(s.bars)), RULES), lambda s, b=bar, c=cut: opened(s, b, c, supplies, RULES),
                lambda s, b=bar: locked(s, b), lambda s, b=bar, c=cut: ticked(s, b, c), lambda s, b=bar: ticked_bar(s, b),
            )  # fmt: skip
            old = sheet
            with contextlib.suppress(NoAnswer):
                sheet = chance.choice(deeds)(sheet)
            for one in old.bars:
                if one.locked:
                    self.assertIn([c.same for c in one.cuts], [[c.same for c in b.cuts] for b in sheet.bars])
        self.assertEqual(blanks_of(sheet), before)
        self.assertTrue(all(not laid(b, RULES).over for b in sheet.bars))
        verified(sheet, RULES)

    @given(sheets())
    def test_finishing_conserves_steel_and_takes_off_the_rack_just_what_was_used(self, drawn):
        sheet, rack = drawn
        numbers = Counter(b.rack for b in sheet.bars if b.rack)
        if any(n > 2 for n in numbers.values()):
            self.assertTrue(astray(sheet, {i: int(r.count) for i, r in rack.items()}))
            with self.assertRaises(NoAnswer):
                finished(sheet, rack, RULES, iter("abcdefgh"))
            return
        done, changes = finished(sheet, rack, RULES, iter("abcdefgh"))
        after = {**rack, **changes}
        length = lambda items: sum(r.length * r.count for r in items.values())  # noqa: E731
        bought = sum(b.length for b in sheet.bars if not b.rack)
        blanks = sum(c.length + c.loss for b in sheet.bars for c in b.cuts)
        waste = sum(lay.left for b in sheet.bars for lay in [laid(b, RULES)] if not lay.keep)
        free = sum(1 for b in sheet.bars for lay in [laid(b, RULES)] if not lay.left)  # the last cut runs into the bar's end
        self.assertAlmostEqual(length(rack) + bought, length(after) + blanks + waste, delta=0.1 * len(sheet.bars) + 2.0 * free + 1e-6)
        self.assertEqual(done.state, "sawn")
        self.assertTrue(all(c.sawn for b in done.bars for c in b.cuts))

    @given(sheets())
    def test_money_by_the_millimetre_agrees_with_the_search(self, drawn):
        sheet, _rack = drawn
        problem, bars = as_problem(sheet.bars, RULES)
        if all(b.rack for b in sheet.bars):
            return
        self.assertAlmostEqual(problem.total(bars)[0] / 1000, money_of(sheet.bars, RULES, 9.1 / 3000.0), delta=0.003 * len(bars))

    def test_what_a_move_costs_is_told_in_money_bars_and_the_largest_remnant(self):
        cut = CutPiece(piece="p", name="Ring", length=400.0)
        sheet = SavedCutList(
            bars=(SavedBar(source="bought", price=9.0, cuts=(cut,) * 4), SavedBar(source="bought", price=9.0, cuts=(cut,)))
        )
        together = moved(sheet, 1, 0, 0, RULES)
        value = 9.0 / 3000.0
        words = moved_words(sheet, together, RULES, value).show(Measure())
        kept = [3000 - 4 * 402, 3000 - 402, 3000 - 5 * 402]  # two remnants become one
        saved = 9.0 - 0.5 * value * (kept[0] + kept[1] - kept[2])
        self.assertIn(f"{saved:,.2f} cheaper, 1 bar fewer; the largest remnant is {kept[2]} mm, it was {kept[1]} mm", words)
        self.assertIn("dearer, 1 bar more", moved_words(together, sheet, RULES, value).show(Measure()))
        self.assertIn("no bar more or fewer", moved_words(sheet, sheet, RULES, 0.0).show(Measure()))

    def test_refusals_say_why(self):
        cut = CutPiece(piece="p", name="Ring", length=900.0)
        full = SavedBar(source="bought", cuts=(cut, cut, cut))
        sheet = SavedCutList(
            bars=(full, replace(full, locked=True), SavedBar(section=round_(12), cuts=(cut,)), SavedBar(length=1000.0, cuts=(cut,)))
        )
        for source, target, words in ((0, 3, "no room"), (0, 1, "locked"), (1, 0, "locked"), (0, 2, "not made of that bar")):
            with self.assertRaises(NoAnswer) as caught:
                moved(sheet, source, 0, target, RULES)
            self.assertIn(words, str(caught.exception))
        with self.assertRaises(NoAnswer):
            moved(ticked(sheet, 3, 0), 3, 0, 0, RULES)
        with self.assertRaises(NoAnswer):
            opened(sheet, 0, 0, [SavedBar(source="bought", length=500.0)], RULES)


class Jobs(unittest.TestCase):
    def test_counts_with_spares_rejects_and_the_parts_of_assemblies(self):
        job = Job(lines=(JobLine(piece="oar-cradle", quantity=8, spare=1), JobLine(piece="lantern-bracket", quantity=1)), rejects=0.2,
                  sets=(JobSet(assembly="assembly-1", quantity=3),))  # fmt: skip
        found = counts_of(job, holdings())
        self.assertEqual(
            {i: (c.sold, c.begun) for i, c in found.items()}, {"oar-cradle": (8, 10), "lantern-bracket": (4, 6), "back-plate": (3, 4)}
        )
        for quantity, share in itertools.product((1, 7, 40), (0.0, 0.05, 0.5)):
            begun = quantity + spares(quantity, share)
            self.assertTrue(begun * (1 - share) >= quantity - 1e-9 > (begun - 1) * (1 - share) - 1e-6)

    def test_by_material_and_section_on_what_lies_there_and_what_is_sold(self):
        job = Job(
            lines=(JobLine(piece="oar-cradle", quantity=2, spare=1), JobLine(piece="lantern-bracket"), JobLine(piece="caulking-iron"))
        )
        rack = {"r": RackItem(section=square(12), length=640, count=2)}
        found = job_problems({"j": job}, holdings(shop=Shop(), rack=rack, prices=[Price(section=square(12), length=6000, price=16.4)]))
        self.assertEqual([c.problem.demands for c in found], [(3,), (1,), (1,)])
        self.assertEqual([(s.length, s.count) for s in found[1].problem.supplies], [(640.0, 2), (6000.0, None)])
        self.assertEqual(found[0].problem.supplies[0].length, Shop().bar_length)  # nothing in the catalogue: the usual length
        for bad in (Job(lines=(JobLine(piece="gone"),)), Job(sets=(JobSet(assembly="gone"),))):
            with self.assertRaises(NoAnswer):
                job_problems({"j": bad}, holdings())

    def test_what_is_parted_off_is_forged_on_the_bar_and_leaves_something_to_hold(self):
        piece = PIECES["lantern-bracket"]
        parted = replace(
            piece, features=(*piece.features[:-1], PartOff(id="off", loss=6.0)), allowances=replace(piece.allowances, parting=1.0)
        )
        found = job_problems({"j": Job(lines=(JobLine(piece="p", quantity=3),))}, holdings(pieces={"p": parted}))[0].problem
        self.assertTrue(found.wanted[0].held)
        self.assertEqual(found.wanted[0].loss, 7.0)
        plan = plan_jobs({"j": Job(lines=(JobLine(piece="p", quantity=20),))}, holdings(pieces={"p": parted}))
        for lay in plan.layouts:
            self.assertGreaterEqual(lay.bar.length - lay.cuts[-1].stop - 7.0, PARCEL.shop.hold - 1e-6)

    def test_several_jobs_share_bars_and_each_gets_its_own(self):
        both, apart = plan_of("job-1", "job-2"), [plan_of("job-1"), plan_of("job-2")]
        self.assertEqual(blanks_of(both.cut_list), blanks_of(apart[0].cut_list) + blanks_of(apart[1].cut_list))
        self.assertEqual(both.stale, ())
        self.assertTrue(both.proven)
        self.assertEqual(len({code for row in both.codes for code in row}), sum(map(len, both.codes)))
        verified(both.cut_list, both.rules)

    def test_what_other_cut_lists_count_on_is_not_there_bar_by_bar(self):
        rack = {"r": RackItem(section=round_(12), length=3000.0, count=3)}
        job = {"j": Job(lines=(JobLine(piece="mooring-ring", quantity=16),))}  # two bars of eight
        for promised, lying in ((0, 2), (1, 2), (2, 1), (3, 0), (9, 0)):
            plan = plan_jobs(job, holdings(rack=rack, promised={"r": promised}))
            self.assertEqual(sum(b.rack == "r" for b in plan.cut_list.bars), lying, promised)
            self.assertEqual(plan.stale, ())

    def test_a_blank_of_an_old_length_on_any_bar_is_told(self):
        plan = plan_of("job-2")
        bars = [
            replace(b, cuts=tuple(replace(c, length=c.length - 9 * (i == 0)) for c in b.cuts)) for i, b in enumerate(plan.cut_list.bars)
        ]
        stale = plan_jobs({"job-2": RECORDS["job-2"]}, plan.holdings, own=replace(plan.cut_list, bars=tuple(bars))).stale
        self.assertEqual(stale[0], "Mooring ring: its cut length has changed")

    def test_a_cut_list_that_its_job_has_outgrown_says_so_and_locked_bars_stay(self):
        plan = plan_of("job-2")
        more = {"job-2": replace(RECORDS["job-2"], lines=(JobLine(piece="mooring-ring", quantity=9),))}
        stale = plan_jobs(more, plan.holdings, own=plan.cut_list).stale
        self.assertEqual(stale, ("Mooring ring: 3 missing", "Mooring staple: 7 too many"))
        first = locked(plan.cut_list, 0)
        again = plan_jobs({"job-2": RECORDS["job-2"]}, plan.holdings, kept=[b for b in first.bars if b.kept])
        again = list(better_plans(again))[-1]
        self.assertEqual(again.cut_list.bars[0], first.bars[0])
        self.assertEqual((again.stale, blanks_of(again.cut_list)), ((), blanks_of(plan.cut_list)))

    def test_every_plan_on_the_way_is_whole(self):
        plan = plan_jobs({i: RECORDS[i] for i in ("job-1", "job-2")}, holdings())
        wanted = blanks_of(plan.cut_list)
        for better in better_plans(plan):
            self.assertEqual(blanks_of(better.cut_list), wanted)


class Needs(unittest.TestCase):
    def test_from_joins_sequences_and_the_job_itself(self):
        rivet = Assembly(name="Two plates", parts=(AssemblyPart(piece="back-plate"), AssemblyPart(piece="back-plate")),
                         joins=(Join(kind="rivet", first="A.f2", second="B.f2", diameter=6.0),))  # fmt: skip
        job = Job(lines=(JobLine(piece="mooring-ring", quantity=4),), sets=(JobSet(assembly="two", quantity=5),),
                  fittings=(Fitting(name="Screw 5 × 40", kind="screw", quantity=8),))  # fmt: skip
        shop = replace(
            PARCEL.shop,
            stores=(StoreItem(name="Screw 5", kind="screw", there=3, price=0.1), StoreItem(name="Flux", kind="flux", unit="g", price=0.02)),
        )
        plan = plan_jobs({"j": job}, holdings(shop=shop, assemblies={"two": rivet}))
        by_kind = {}
        for need in plan.needs["j"]:
            by_kind.setdefault(need.kind, []).append(need)
        self.assertEqual(by_kind["rivet"][0].quantity, 5)
        self.assertIn("shank", by_kind["rivet"][0].name)
        self.assertEqual((by_kind["screw"][0].to_buy, by_kind["screw"][0].price), (5, 0.1))
        welds = sum(s.operation.verb in ("weld", "close") for s in plan.holdings.answer("mooring-ring").plan.steps)
        self.assertGreater(welds, 0)
        self.assertEqual(by_kind["flux"][0].quantity, 12.0 * welds * 4)
        self.assertTrue({n.name for n in by_kind["bit"]})  # the plate's holes are drilled
        groups = Counter(p.group for p in plan.purchases)
        self.assertTrue(groups["steel"] and groups["rivet"] and groups["screw"])

    def test_sheet_blanks_come_off_the_rack_first_and_their_rest_goes_back(self):
        job = Job(blanks=(JobBlank(name="Tray", length=300, width=200, thickness=2, count=3, grain="along"),))
        rack = {"s": replace(RackItem(), section=replace(RECORDS["price-5"].section), length=900.0, count=1, source="offcut")}
        plan = plan_jobs({"j": job}, holdings(rack=rack))
        self.assertEqual(plan.sheet_cuts[0].plans[0].sheet.key, "s")
        _sheet, changes = finished(plan.cut_list, rack, plan.rules, iter("ab"), plan.sheet_cuts)
        self.assertEqual(changes["s"].count, 0)
        self.assertAlmostEqual(changes["a"].length, 900.0 - (5 + 300 + plan.rules.kerf))
        large = {"j": replace(job, blanks=(replace(job.blanks[0], length=2500),))}
        with self.assertRaises(NoAnswer):
            plan_jobs(large, holdings())
        longer = {"s": replace(rack["s"], length=3000.0)}  # larger than any that is sold: it can be cut, and has no price
        self.assertIn("Sheet 2 mm: no price in the catalogue", plan_jobs(large, holdings(rack=longer)).quote("j").unknown)

    def test_what_is_kept_is_needed_once_and_what_is_used_up_by_the_piece(self):
        one, many = (
            {(n.kind, n.name): n for n in plan_jobs({"j": Job(lines=(JobLine(piece="oar-cradle", quantity=q),))}, holdings()).needs["j"]}
            for q in (1, 50)
        )
        for key, need in one.items():
            if need.once:
                self.assertLessEqual(many[key].quantity, 2.0, key)  # a second bit after sixty holes
            else:
                self.assertAlmostEqual(many[key].quantity, 50 * need.quantity, delta=50 * 0.05)  # one is rounded to a tenth
        self.assertTrue(any(n.kind == "jig" and n.minutes for n in many.values()))  # fifty are worth a fixture, one is not
        self.assertFalse(any(n.kind == "jig" for n in one.values()))
        self.assertTrue(all(not n.to_buy for n in many.values() if n.kind in ("jig", "strip", "mandrel")))

    def test_sizes_that_no_inch_ruler_shows_are_asked_for_in_mm(self):
        job = Job(lines=(JobLine(piece="back-plate"), JobLine(piece="oar-cradle")))
        names = [n.name for n in plan_jobs({"j": job}, holdings(shop=replace(PARCEL.shop, unit="in"))).needs["j"] if n.kind == "bit"]
        self.assertIn("Drill bit 6.6 mm", names)
        self.assertFalse(any("+" in name or "\u2212" in name for name in names))

    def test_the_stores_are_there_once_for_all_jobs(self):
        jobs = {f"j{i}": Job(fittings=(Fitting(name="Screw 8 × 60", kind="screw", quantity=8, price=0.5 * i),)) for i in range(3)}
        (bought,) = plan_jobs(jobs, holdings()).purchases
        self.assertEqual((bought.quantity, bought.price), (14, 0.18))  # 24 wanted, 10 there
        self.assertEqual(plan_jobs({"j2": jobs["j2"]}, holdings()).purchases, ())


class Money(unittest.TestCase):
    def test_the_sums_hang_together(self):
        plan = plan_of("job-1")
        q, shop = plan.quote("job-1"), PARCEL.shop
        self.assertAlmostEqual(q.hourly(q.cost), shop.hour)  # at cost an hour earns the rate
        self.assertAlmostEqual(q.hourly(q.spent), 0.0)  # at break-even nothing
        self.assertAlmostEqual(q.price, q.cost * 1.2)
        self.assertLess(q.least, q.hours)
        self.assertGreater(q.most, q.hours)
        low, high = q.between(q.cost)
        steel = {c.key: c.money for c in q.costs}
        self.assertAlmostEqual(q.at(q.cost, q.hours), q.cost)
        self.assertAlmostEqual(high - q.cost, (q.most - q.hours) * (q.cost - q.steady) / q.hours)  # only what goes by the hour grows
        self.assertGreaterEqual(q.steady, steel["fittings"] + steel["material"])  # and the steel of what is rejected
        self.assertLess(low, q.cost)
        self.assertTrue(q.hourly(460.0, q.most) < q.hourly(460.0) < q.hourly(460.0, q.least))
        self.assertAlmostEqual(q.hourly(high, q.most), shop.hour)  # at what it then costs an hour still earns the rate
        known = plan_jobs({"job-1": RECORDS["job-1"]}, holdings(forge=replace(PARCEL.shop.forge, belief=SURE))).quote("job-1")
        self.assertLess(known.most / known.least, q.most / q.least)  # a log narrows it
        costs = {c.key: c.money for c in q.costs}
        self.assertAlmostEqual(costs["overheads"] / (costs["work"] + costs["finishing"]), shop.overhead / shop.hour)
        self.assertAlmostEqual(costs["finishing"], (8 + 2 + 2) * shop.finishing / 60 * shop.hour)
        self.assertGreater(costs["rejects"], 0.0)
        none = plan_jobs({"job-1": replace(RECORDS["job-1"], rejects=0.0, lines=(JobLine(piece="oar-cradle", quantity=8),))}, plan.holdings)
        self.assertEqual({c.key: c.money for c in none.quote("job-1").costs}["rejects"], 0.0)
        spoilt = plan_jobs(
            {"job-1": replace(RECORDS["job-1"], rejects=0.5, lines=(JobLine(piece="oar-cradle", quantity=8),))}, plan.holdings
        )
        more, less = spoilt.quote("job-1"), none.quote("job-1")
        self.assertTrue(more.fire > less.fire and more.hours > less.hours)  # what is spoilt has been in the fire too

    def test_steel_is_what_is_bought_less_what_goes_back(self):
        job = Job(lines=(JobLine(piece="oar-cradle", quantity=8),))
        plan = plan_jobs({"j": job}, holdings(rack={}))
        lay = plan.layouts[0]
        steel = next(c.money for c in plan.quote("j").costs if c.key == "material")
        self.assertAlmostEqual(steel, 27.2 / 6000 * (6000 - lay.left))
        dearer = next(c.money for c in plan.quote("j", rise=0.5).costs if c.key == "material")
        self.assertAlmostEqual(dearer, 1.5 * steel)  # prices flow through
        one, more = (plan.prices("j", rise=rise)[0].one for rise in (0.0, 0.5))
        cradle, shop = plan.holdings.answer("oar-cradle").reckoning.cut, plan.holdings.shop
        extra = 0.5 * 27.2 / 6000 * (cradle + shop.kerf) * (1 + (shop.market if job.sale == "market" else shop.wholesale))
        self.assertTrue(extra < more - one < 1.15 * extra)  # the steel of one alone, and what is wasted with it
        shared = plan_of("job-1", "job-2")
        bars = [next(c.money for c in shared.quote(i).costs if c.key == "material") for i in ("job-1", "job-2")]
        self.assertTrue(all(b > 0 for b in bars))

    def test_hours_of_one_are_its_plan_minute_by_minute(self):
        for piece_id in ("lantern-bracket", "mooring-staple", "caulking-iron"):
            plan, took = holdings().answer(piece_id).plan, effort(piece_id, 1, holdings())
            times = plan.times
            seconds = sum(times.fire) + sum(times.work) + sum(times.around) + 20 * len(times.work)  # tools taken up at each
            around = sum(e.seconds for e in plan.errands if e.key in ("bar", "trim", "measure", "finish", "harden", "coupon", "sheet"))
            self.assertAlmostEqual(took.work * 3600, seconds + around, delta=1.0)
            self.assertAlmostEqual(took.finishing, PARCEL.shop.finishing / 60)
            self.assertLess(took.fire * 3600, seconds + 1.0)

    def test_more_of_a_piece_are_cheaper_each_and_the_log_counts(self):
        plan = plan_of("job-2")
        for p in plan.prices("job-2"):
            self.assertGreaterEqual(p.one, p.bundle)
        hours = [effort("mooring-ring", n, plan.holdings).work / n for n in (1, 4, 12, 140)]
        self.assertEqual(hours, sorted(hours, reverse=True))
        entries = [LogEntry(piece="oar-cradle", number=n, minutes=40.0, planned_minutes=20.0) for n in range(1, 10)]
        taught = calibrated(PARCEL.shop.forge, entries, PARCEL.shop.smith)
        one, other = (effort("mooring-ring", 6, h) for h in (holdings(), holdings(log=entries, forge=taught)))
        self.assertTrue(1.3 * one.fire < other.fire < 2.2 * one.fire)  # twice the minutes, and the usual weighs a little
        self.assertGreater(other.work, 1.15 * one.work)
        self.assertLess((other.least + other.most) / other.work, (one.least + one.most) / one.work)  # and surer
        few, many, more = (effort("mooring-ring", n, plan.holdings).work for n in (80, 120, 160))
        self.assertTrue(0.85 * (many - few) < more - many <= many - few)  # beyond what is simulated it goes on at the same pace

    def test_without_prices_it_says_what_is_missing(self):
        plan = plan_jobs({"j": Job(lines=(JobLine(piece="gate-pintle"),))}, holdings(shop=Shop(), prices=[]))
        q = plan.quote("j")
        self.assertEqual(q.price, 0.0)
        self.assertTrue(any("no price" in words for words in q.unknown))
        self.assertEqual(value_of("mild-steel", square(12), plan.holdings), 0.0)


class OnTheTerminal(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "mine.ember"
        text = Path(folder.name) / "all.json"
        text.write_text(parcel_text(PARCEL))
        self.said("import", str(text))

    def said(self, *arguments):
        with contextlib.redirect_stdout(io.StringIO()) as out:
            self.assertEqual(command([*arguments, "--book", str(self.path)]), 0)
        return out.getvalue()

    def test_cuts_shopping_and_quote(self):
        words = self.said("cut", "Slipway moorings")
        self.assertIn("no cheaper plan exists", words)
        self.assertEqual((words.count("Mooring ring"), words.count("Mooring staple")), (6, 7))  # one spare
        rows = list(csv.DictReader(io.StringIO(self.said("cut", "job-2", "--csv"))))
        self.assertEqual(len(rows), 13)
        for a, b in itertools.pairwise(rows):
            if a["bar"] == b["bar"]:
                self.assertGreaterEqual(float(b["from_mm"]), float(a["to_mm"]))
        rows = list(csv.DictReader(io.StringIO(self.said("cut", "job-1", "--csv"))))
        trays = [r for r in rows if r["piece"] == "Lamp tray"]
        self.assertEqual([float(r["to_mm"]) - float(r["from_mm"]) for r in trays], [140.0, 140.0])
        self.assertEqual(len({(r["from_mm"], r["across_from_mm"]) for r in trays}), 2)
        self.assertIn("Glass pane", self.said("cut", "job-1", "--what", "shopping"))
        self.assertIn("Overheads", self.said("cut", "job-1", "job-2", "--what", "quote"))
        data = json.loads(self.said("cut", "job-2", "job-1", "--json"))
        self.assertEqual(sum(len(b["cuts"]) for b in data["bars"]), 28)
        self.assertEqual([q["job"] for q in data["quotes"]], ["Slipway moorings", "North wall, boathouse"])
        with contextlib.redirect_stderr(io.StringIO()) as told:
            self.assertEqual(command(["cut", "no such job", "--book", str(self.path)]), 1)
        self.assertIn("Slipway moorings", told.getvalue())

    def test_json_says_what_the_plan_says(self):
        plan = plan_of("job-1")
        data = json.loads(job_json(plan))
        self.assertEqual([b["left"] for b in data["bars"]], [round(lay.left, 3) for lay in plan.layouts])
        self.assertEqual(data["quotes"][0]["price"], round(plan.quote("job-1").price, 2))
        kept = json.loads((Path(__file__).parent.parent / "docs" / "cut-list.schema.json").read_text())
        self.assertEqual(kept, cut_list_schema())
        jsonschema.validate(data, kept)


class Chance(unittest.TestCase):
    def test_random_jobs_come_through_every_sum(self):
        draw = random.Random(7)
        for _ in range(12):
            lines = tuple(
                JobLine(piece=draw.choice(list(PIECES)), quantity=draw.randint(1, 9), spare=draw.randint(0, 2))
                for _ in range(draw.randint(0, 4))
            )
            job = Job(lines=lines, rejects=draw.choice((0.0, 0.3)), sale=draw.choice(("market", "wholesale")), asked=draw.choice((0.0, 99.0)),
                      blanks=tuple(JobBlank(name=f"b{i}", length=draw.uniform(5, 900), count=draw.randint(1, 9)) for i in range(draw.randint(0, 2))),
                      sets=tuple(JobSet(assembly=f"assembly-{draw.randint(1, 3)}") for _ in range(draw.randint(0, 1))))  # fmt: skip
            shop = replace(
                PARCEL.shop, kerf=draw.choice((0.0, 2.0, 6.0)), end_trim=draw.choice((0.0, 10.0)), unit=draw.choice(("mm", "in"))
            )
            try:
                plan = plan_jobs({"j": job}, holdings(shop=shop))
            except EmberError as error:
                self.assertTrue(str(error))
                continue
            verified(plan.cut_list, plan.rules)
            q = plan.quote("j")
            self.assertAlmostEqual(q.cost, sum(c.money for c in q.costs))
            self.assertTrue(all(c.money >= -1e-9 for c in q.costs))
            self.assertTrue(all(p.money >= 0 and p.quantity > 0 for p in plan.purchases))
            json.loads(job_json(plan))
