"""At the anvil: the state from press to press, its clocks, sizes against the plan, and instruments over real pseudo-terminals."""

import math
import time
import unittest
from dataclasses import replace
from html.parser import HTMLParser

from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.document import answer
from long_ember.export import heats_html
from long_ember.forging import (
    another_heat,
    begin_forging,
    clock_of,
    fire_seconds,
    forged_entry,
    forward,
    give_up,
    go_back,
    put_aside,
    renewed,
    sizings,
    take_up,
    verdict,
)
from long_ember.heats import ForgeSettings, Heat
from long_ember.instruments import INSTRUMENTS, LineDriver, Noise, StandIn, opened_port, spoken_line, understood
from long_ember.physics import CARRY, expansion
from long_ember.records import LogEntry
from long_ember.shorthand import read_line
from long_ember.units import Measure

MM = Measure("mm")
HOOK = read_line("12 sq: taper 90 to 3, run 60, twist 1 turn over 80, run 60, bend 90 24, run 40").piece
PLAN = answer(HOOK).plan
FORGE = ForgeSettings()


def begun(wanted=1, irons=1, rhythm="piece", plan=PLAN):
    return begin_forging("hook", "Hook", "{}", plan, 1000.0, wanted=wanted, irons=irons, rhythm=rhythm)


def iron(run):
    return run.open[run.active]


class Steps(unittest.TestCase):
    def through(self, run, now=1000.0, every=30.0, plan=PLAN):
        """Presses until it is over, and the seconds that they took."""
        presses = 0
        while not run.over:
            now += every
            run = forward(run, plan, now)
            presses += 1
            self.assertLess(presses, 2000)
        return run, presses

    def test_one_piece_counts_its_heats_and_minutes(self):
        run, presses = self.through(begun())
        hot = sum(isinstance(f, Heat) and not f.cold for f in PLAN.frames)
        self.assertEqual(presses, len(PLAN.frames) + hot)  # each heat is two presses: out of the fire, and on
        self.assertEqual((run.good, run.heats, run.spent), (1, hot, presses * 30.0))
        entry = forged_entry(run, LogEntry(piece="hook"))
        self.assertEqual((entry.heats, entry.good, entry.minutes), (hot, 1, round(presses / 2, 1)))

    @given(
        st.lists(st.sampled_from(["forward", "forward", "forward", "back", "again", "wrong", "pause"]), max_size=60),
        st.integers(1, 4),
        st.integers(1, 3),
        st.sampled_from(["piece", "stage"]),
    )
    @settings(max_examples=60, deadline=None)
    def test_whatever_is_pressed_nothing_is_lost(self, presses, wanted, irons, rhythm):
        """No more irons lie in the fire than there is room for, what is made and begun adds up, and it always comes to an end."""
        run, now = begun(wanted, irons, rhythm), 1000.0
        for press in presses:
            now += 20
            do = {"forward": forward, "back": go_back, "again": another_heat}.get(press)
            run = (
                do(run, PLAN, now) if do else give_up(run, PLAN, now, "burnt") if press == "wrong" and not run.over else put_aside(run, now)
            )
            self.assertLessEqual(sum(i.phase in ("fire", "anvil") for i in run.open), max(irons, 1) + 1)
            self.assertTrue(all(0 <= i.frame < len(PLAN.frames) and i.heats >= 0 for i in run.open))
            self.assertEqual(run.wanted - run.made, wanted - run.good)
            self.assertLessEqual(run.spent, now - 1000.0)
        run, _presses = self.through(run, now)
        self.assertEqual(run.good, wanted)

    @given(
        st.integers(0, 40),
        st.integers(1, 3),
        st.sampled_from(
            ["16 sq: run 60, twist 1 turn over 80, run 40", "12 sq: taper 40 to 6, run 60", "12 sq: run 90, bend 90 24, run 40"]
        ),
    )
    @settings(max_examples=40, deadline=None)
    def test_another_plan_is_gone_on_with_wherever_it_stood(self, presses, irons, line):
        other, run = answer(read_line(line).piece).plan, begun(3, irons)
        for i in range(presses):
            run = forward(run, PLAN, 1030.0 + 30 * i)
        run = renewed(run, "{new}", other, 1060.0 + 30 * presses)
        for row in run.open:
            frame = other.frames[row.frame]
            if row.phase != "done":
                self.assertEqual(row.phase in ("fire", "anvil", "wait"), isinstance(frame, Heat) and not frame.cold)
        self.assertNotEqual(iron(run).phase, "wait")
        self.assertEqual(self.through(run, 1060.0 + 30 * presses, plan=other)[0].good, 3)

    def test_back_takes_a_press_back(self):
        run = begun()
        for now in range(1030, 1400, 30):
            on = forward(run, PLAN, now)
            if on.over:
                break
            back = go_back(on, PLAN, now + 1)
            self.assertEqual((iron(back).frame, iron(back).heats), (iron(run).frame, iron(run).heats))
            run = on

    def test_another_heat_and_a_pause(self):
        run = begun()
        while iron(run).phase != "anvil":
            run = forward(run, PLAN, run.last + 60)
        again = another_heat(run, PLAN, run.last + 20)
        self.assertEqual((iron(again).phase, iron(again).frame, iron(again).heats), ("fire", iron(run).frame, 1))
        self.assertEqual(iron(forward(again, PLAN, again.last + 40)).heats, 2)
        later = take_up(put_aside(run, run.last + 10), run.last + 86_400)  # tomorrow: cold, and heated anew; the night does not count
        self.assertEqual((iron(later).phase, iron(later).frame, later.spent), ("fire", iron(run).frame, run.spent + 10))
        self.assertEqual(clock_of(PLAN, iron(later), later.last).seconds, 0.0)

    def test_stage_by_stage_and_the_iron_that_is_ready_next(self):
        run, now = begun(3, 2, "stage"), 1000.0
        while not run.over:
            frames = [i.frame for i in run.open if i.phase != "done"]
            self.assertLessEqual(max(frames) - min(frames), 1)
            run, now = forward(run, PLAN, now + 45), now + 45
        run, now = begun(4, 2), 1000.0
        for _ in range(12):
            now += 25
            run = forward(run, PLAN, now)
            hot = [i for i in run.open if i.phase == "fire" and i.since + fire_seconds(PLAN, i.frame) <= now]
            if hot and iron(run).phase == "fire":
                self.assertIn(iron(run), hot)  # none is left to burn while another one is waited for


class Clocks(unittest.TestCase):
    def test_it_comes_to_its_colour_in_the_fire_and_cools_as_the_storyboard_says(self):
        run = begun()
        while iron(run).phase != "fire":
            run = forward(run, PLAN, run.last + 5)
        frame, start = PLAN.frames[iron(run).frame], iron(run).since
        whole = fire_seconds(PLAN, iron(run).frame)
        rising = [clock_of(PLAN, iron(run), start + whole * s).celsius for s in (0.0, 0.25, 0.5, 0.75, 1.0)]
        self.assertEqual(rising, sorted(rising))
        self.assertAlmostEqual(rising[0], 20, delta=2)
        self.assertAlmostEqual(rising[-1], frame.hot, delta=2)
        self.assertEqual([clock_of(PLAN, iron(run), start + t).ready for t in (whole - 1, whole + 1)], [False, True])
        self.assertAlmostEqual(clock_of(PLAN, iron(run), start + whole / 4).share, 0.25)
        self.assertEqual(clock_of(PLAN, iron(run), start + whole * 3).share, 1.0)
        out = forward(run, PLAN, start + whole)
        falling = [clock_of(PLAN, iron(out), start + whole + (CARRY + frame.seconds) * s) for s in (0.0, 0.5, 1.001)]
        self.assertEqual([c.celsius for c in falling], sorted((c.celsius for c in falling), reverse=True))
        self.assertAlmostEqual(falling[-1].celsius, frame.stop, delta=12)  # the window ends where the work must stop
        self.assertTrue(falling[-1].ready and not falling[0].ready)


class Sizes(unittest.TestCase):
    def frame_of(self, kind):
        return next(i for i, f in enumerate(PLAN.frames) if any(s.title.lower() == kind for s in sizings(PLAN, i)))

    def judged(self, value, celsius=20.0):
        at = self.frame_of("taper")
        size = next(s for s in sizings(PLAN, at) if s.name == "length")
        return size, verdict(PLAN, at, size, value, celsius, FORGE, 1.0)

    def test_on_short_and_full_and_what_the_rest_becomes(self):
        size, on = self.judged(90.5)
        self.assertEqual((on.word, on.edit), ("on", None))
        for value, word in ((78.0, "short"), (99.0, "full")):
            _size, found = self.judged(value)
            self.assertEqual(found.word, word)
            self.assertAlmostEqual(found.off, value - 90.0)
            self.assertIn(f"{abs(value - 90):g} mm {word}", found.line.show(MM))
            after = found.edit.after
            self.assertEqual(after.feature(size.feature).length, value)
            # The bar was sawn already: what one size takes another gives, and the length that is sawn stays.
            self.assertAlmostEqual(answer(after).reckoning.cut, PLAN.reckoning.cut, delta=1.0)
            runs = [
                (a.length, b.length) for a, b in zip(HOOK.features, after.features, strict=True) if a.kind == "run" and a.length != b.length
            ]
            self.assertEqual(len(runs), 1)
            self.assertEqual(runs[0][1] > runs[0][0], word == "short")

    def test_what_is_measured_hot_is_held_against_the_plan_cold(self):
        _size, found = self.judged(90.0 * (1 + expansion(900)), celsius=900)
        self.assertEqual(found.word, "on")
        self.assertAlmostEqual(found.off, 0.0, delta=1e-9)
        self.assertIn("90 mm cold", found.line.show(MM))


class Page(HTMLParser):
    """What a page is made of."""

    def __init__(self, text):
        super().__init__()
        self.open, self.tags, self.text, self.outer = [], [], "", []
        self.feed(text)

    def handle_starttag(self, tag, attrs):
        self.tags.append((tag, dict(attrs)))
        self.outer += [v for k, v in attrs if k in ("src", "href") or (v and "url(" in v)]
        if tag not in ("meta", "input", "polygon"):
            self.open.append(tag)

    def handle_endtag(self, tag):
        if tag != "polygon":
            assert self.open.pop() == tag, tag

    def handle_data(self, data):
        self.text += data if not self.open or self.open[-1] != "style" else ""


class Paper(unittest.TestCase):
    def test_a_page_for_the_phone_is_whole_and_needs_nothing_else(self):
        for m, piece in ((MM, HOOK), (Measure("in"), replace(HOOK, name="<b>Hook & eye</b>"))):
            found = answer(piece)
            page = Page(heats_html(found, m, ("grip",)))
            self.assertEqual((page.open, page.outer), ([], []))
            self.assertNotIn("script", {tag for tag, _a in page.tags})
            self.assertEqual(sum(tag == "section" for tag, _a in page.tags), len(found.plan.frames) + 1)
            self.assertEqual(sum(a.get("type") == "checkbox" for _t, a in page.tags), len(found.plan.frames))
            self.assertIn(piece.name, page.text)
            for frame in found.plan.frames:
                if isinstance(frame, Heat):
                    self.assertTrue(all(w.line.show(m) in page.text for w in frame.work))
            hot = [a for tag, a in page.tags if a.get("class") == "hot"]
            self.assertGreaterEqual(len(hot), sum(isinstance(f, Heat) and not f.cold for f in found.plan.frames))
            for tag, attributes in page.tags:
                if tag == "svg":
                    wide, high = (float(x) for x in attributes["viewbox"].split()[2:])
                elif tag == "polygon":
                    xy = [tuple(map(float, p.split(","))) for p in attributes["points"].split()]
                    self.assertTrue(all(0 <= x <= wide and 0 <= y <= high for x, y in xy))


class Fake:
    """A port that hands out what it is given."""

    def __init__(self, *parts):
        self.parts = list(parts)

    def read(self, _size):
        part = self.parts.pop(0) if self.parts else b""
        if isinstance(part, Exception):
            raise part
        return part

    def close(self):
        self.parts = []


class Instruments(unittest.TestCase):
    @given(st.sampled_from(sorted(INSTRUMENTS)), st.floats(0.01, 0.99), st.data())
    def test_a_line_says_what_was_measured_in_every_unit(self, kind, share, data):
        _title, units, low, high = INSTRUMENTS[kind]
        unit = data.draw(st.sampled_from(sorted(units)))
        factor, offset = units[unit]
        value = low + (high - low) * share
        reading = understood(spoken_line(kind, (value - offset) / factor, unit))
        self.assertEqual(reading.kind, kind)
        self.assertAlmostEqual(reading.value, value, delta=1e-4 * factor + 1e-9)

    @given(st.binary(max_size=60))
    def test_noise_is_never_a_reading(self, raw):
        driver = LineDriver("calliper", Fake(raw + b"\n"), 0.0)
        for reading in driver.poll(0.1):
            self.assertEqual(understood(raw.decode("ascii").strip()), reading)

    def test_a_flipped_letter_is_told_and_never_stored(self):
        line = spoken_line("calliper", 12.34, "mm").encode()
        for i in range(len(line)):
            for other in b"0159 -x":
                if other == line[i]:
                    continue
                driver = LineDriver("calliper", Fake(line[:i] + bytes([other]) + line[i + 1 :] + b"\n"), 0.0)
                self.assertEqual(driver.poll(0.1), [], (i, other))
                self.assertTrue(driver.trouble)

    def test_each_fault_of_each_instrument(self):
        for kind, (title, units, _low, high) in INSTRUMENTS.items():
            unit = next(iter(units))
            good = spoken_line(kind, 1.0, unit).encode() + b"\n"
            other = next(k for k in INSTRUMENTS if k != kind)
            cases = {
                "lost": ([OSError(5, "gone")], "connection is lost"),
                "silent": ([b""], "nothing has come from it for 4 s"),
                "half": ([good[:7], b""], "half a line"),
                "noise": ([b"\xff\xfe\x00\n"], "garbled"),
                "another": ([spoken_line(other, None).encode() + b"\n"], "answers there"),
                "unit": ([spoken_line(kind, 1.0, "furlong").encode() + b"\n"], "no unit"),
                "beyond": ([spoken_line(kind, high * 3 + 1, unit).encode() + b"\n"], "beyond"),
            }
            for name, (parts, words) in cases.items():
                with self.subTest(kind=kind, fault=name):
                    driver = LineDriver(kind, Fake(*parts), 100.0)
                    found = driver.poll(100.5) + driver.poll(104.0 if name == "silent" else 102.0)
                    self.assertEqual(found, [])
                    self.assertIn(words, driver.trouble)
                    self.assertTrue(driver.trouble.startswith(title))
            well = LineDriver(kind, Fake(b"rubbish\n", good[:5], good[5:]), 0.0)
            self.assertEqual([r.value for t in (0.1, 0.2, 0.3) for r in well.poll(t)], [1.0])
            self.assertEqual(well.trouble, "")  # told, and well again
        stuck = LineDriver("pyrometer", Fake(*[spoken_line("pyrometer", 900.0, "C").encode() + b"\n"] * 30), 0.0)
        self.assertEqual(sum(len(stuck.poll(i / 10)) for i in range(30)), 19)
        self.assertIn("stuck", stuck.trouble)
        for every, counted in ((0.05, 19), (2.0, 30)):  # a button that hangs; a smith who measures the same again and again
            pressed = LineDriver("calliper", Fake(*[spoken_line("calliper", 12.0, "mm").encode() + b"\n"] * 30), 0.0)
            self.assertEqual(sum(len(pressed.poll(i * every)) for i in range(30)), counted)
        with self.assertRaises(Noise):
            understood("teapot 1 mm #00")

    def test_stand_ins_over_real_pseudo_terminals(self):
        for kind in INSTRUMENTS:
            there = StandIn(kind)
            driver = LineDriver(kind, opened_port(there.path), time.monotonic())
            try:
                line = spoken_line(kind, 1.0, there.unit).encode()
                there.send(line[:4])
                there.send(line[4:] + b"\n")
                there.live()
                found, end = [], time.monotonic() + 20
                while not found and time.monotonic() < end:
                    found += driver.poll(time.monotonic())
                    time.sleep(0.01)
                self.assertEqual((found[0].kind, driver.trouble), (kind, ""))
                self.assertTrue(math.isclose(found[0].value, understood(line.decode()).value))
            finally:
                driver.close()
                there.close()


if __name__ == "__main__":
    unittest.main()
