"""A piece from a picture: synthetic photos with noise, shadow and tilt, of pieces whose course is known."""

import io
import math
import unittest
from dataclasses import replace

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from long_ember.document import answer
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Piece
from long_ember.geometry import figure, trace
from long_ember.photos import follow_strip, grey_of, levelled, outlines_on, piece_of, scaled_by, scaled_by_bar, strays
from long_ember.shorthand import read_line

SCALE, RIM = 4.0, 40.0  # px for a mm, mm about the piece


def placed(piece, of):
    """Points of every part of the finished piece in the plane, mm."""
    found = []
    for part in figure(piece.shapes).parts:
        cos, sin = math.cos(part.heading), math.sin(part.heading)
        found.append(of(trace(part.shape)) @ np.array([[cos, sin], [-sin, cos]]) + part.start)
    return np.vstack(found)


def photo(piece, *, tilt=0.0, noise=0.03, shadow=True, light=False):
    """A picture of a piece on a bench: its bytes, from mm to px, and the corners of the sheet that it lies on, with their size."""
    left, right = placed(piece, lambda t: t.points + t.offset), placed(piece, lambda t: t.points - t.offset)
    outline = np.vstack((left, right[::-1]))
    low, high = outline.min(axis=0) - RIM, outline.max(axis=0) + RIM
    wide, tall = high - low

    def pixels(mm):
        x, y = mm[:, 0] - low[0], high[1] - mm[:, 1]
        return np.column_stack((x, y)) * (SCALE / (1 + tilt * y / tall))[:, None] + 30

    size, twice = (int(wide * SCALE + 60), int(tall * SCALE + 60)), 2
    picture = Image.new("L", (size[0] * twice, size[1] * twice), 60 if light else 205)
    if shadow:
        ImageDraw.Draw(picture).polygon([tuple(p) for p in pixels(outline + np.array((5.0, -5.0))) * twice], fill=25 if light else 150)
        picture = picture.filter(ImageFilter.GaussianBlur(8))
    ImageDraw.Draw(picture).polygon([tuple(p) for p in pixels(outline) * twice], fill=190 if light else 70)
    seen = np.asarray(picture.resize(size, Image.Resampling.LANCZOS).filter(ImageFilter.GaussianBlur(0.8)), dtype=float)
    seen = seen + np.random.default_rng(4).normal(0, 255 * noise, seen.shape) + np.linspace(-12, 12, size[0])
    file = io.BytesIO()
    Image.fromarray(np.clip(seen, 0, 255).astype(np.uint8)).save(file, "PNG")
    sheet = np.array([(low[0], high[1]), high, (high[0], low[1]), low])
    return file.getvalue(), pixels, pixels(sheet), (float(wide), float(tall))


def pressed(piece, pixels, apart=14.0, off=0.8):
    """Points as a person presses them along the middle, px: not quite on it but for the ends."""
    middle = even(placed(piece, lambda t: t.points), 2000)
    length = float(np.hypot(*np.diff(middle, axis=0).T).sum())
    at = middle[np.linspace(0, len(middle) - 1, max(int(length / apart), 3)).astype(int)]
    at[1:-1] += np.random.default_rng(5).normal(0, off, at[1:-1].shape)
    return pixels(at)


def even(points, count):
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    s = np.linspace(0.0, ends[-1], count)
    return np.column_stack([np.interp(s, ends, points[:, i]) for i in (0, 1)])


class Photos(unittest.TestCase):
    def follow(self, line, **how):
        """Line, photo, points; the middle within 1 % of its size, the cut length within 2 %."""
        piece = read_line(line).piece
        content, pixels, sheet, size = photo(piece, **how)
        ground = levelled(sheet, *size)
        strip = follow_strip(grey_of(content), ground, pressed(piece, pixels), piece.bar.thickness)
        truth = ground.points(pixels(even(placed(piece, lambda t: t.points), 4000)))
        middle = np.array([p.middle for p in strip])
        off = np.sqrt(((middle[:, None] - truth[None, ::4]) ** 2).sum(axis=-1)).min(axis=1).max()
        whole = float(np.ptp(truth, axis=0).max())
        found = piece_of(strip, replace(Piece(), bar=piece.bar))
        wanted, got = (answer(p).reckoning.bare for p in (piece, found.piece))
        with self.subTest(line=line, **how):
            self.assertLess(off / whole, 0.01)
            self.assertAlmostEqual(got / wanted, 1.0, delta=0.02)
            self.assertLess(found.most, 0.03 * whole)
        return found

    def test_straights_and_bends_come_out_as_they_are(self):
        for how in ({}, {"tilt": 0.35}, {"noise": 0.08}, {"light": True}):
            found = self.follow("12 sq: run 80, bend 90 20, run 100, bend 60 30 down, run 60", **how)
            self.assertEqual([f.kind for f in found.piece.features], ["run", "bend", "run", "bend", "run"])
            one, other = (f for f in found.piece.features if f.kind == "bend")
            self.assertAlmostEqual(one.angle, 90, delta=3)
            self.assertAlmostEqual(other.angle, 60, delta=3)
            self.assertNotEqual(one.facing, other.facing)
            self.assertAlmostEqual(found.thickness, 12.0, delta=0.6)

    def test_a_hook_a_scroll_and_a_taper(self):
        self.follow("12 sq: run 60, hook 50 sweep 180 lip 30")
        scroll = self.follow("12 sq: scroll 1.5 turns 45 inner radius 14 tip section none, run 120, bend 90 15, run 60", tilt=0.2)
        self.assertEqual(scroll.piece.features[0].kind, "scroll")
        self.assertAlmostEqual(scroll.piece.features[0].turns, 1.5, delta=0.15)
        taper = self.follow("10 sq: taper 110 to 3, run 100, bend 90 15, run 60")
        self.assertEqual(taper.piece.features[0].kind, "taper")
        self.assertAlmostEqual(taper.piece.features[0].length, 110, delta=12)
        self.assertEqual([s.feature.kind for s in taper.piece.standing], ["traced"])
        self.follow("10 sq: run 100, taper 120 to 3; hook 30 on the taper", tilt=0.25)

    def test_where_nothing_is_to_be_seen_the_points_alone_count(self):
        blank = io.BytesIO()
        Image.new("L", (400, 300), 128).save(blank, "PNG")
        ground = scaled_by((0, 0), (400, 0), 200.0)
        strip = follow_strip(grey_of(blank.getvalue()), ground, np.array([(20, 150), (200, 150), (380, 150)]), 10.0)
        found = piece_of(strip, Piece())
        self.assertAlmostEqual(sum(f.length for f in found.piece.features), 180.0, delta=1.0)
        self.assertRaises(NoAnswer, piece_of, strip[:1], Piece())

    def test_the_plan_laid_on_the_picture_of_what_came_out(self):
        plan = read_line("12 sq: run 80, bend 90 20, run 100").piece
        for other, most in (("12 sq: run 80, bend 90 20, run 100", 1.5), ("12 sq: run 80, bend 80 20, run 100", 12.0)):
            piece = read_line(other).piece
            middle = even(placed(piece, lambda t: t.points), 300) @ np.array([[0.6, 0.8], [-0.8, 0.6]]) + (40.0, -7.0)
            far, mean = strays(plan, middle)
            self.assertLess(far, most)
            self.assertTrue(far >= mean >= 0)
            self.assertGreater(far, 0.0 if other.startswith("12 sq: run 80, bend 90") else 3.0)
            around = np.vstack(outlines_on(plan, middle))
            apart = np.sqrt(((around[:, None] - middle[None]) ** 2).sum(axis=-1)).min(axis=1)
            self.assertLess(apart.max(), 6.0 + far + 1.0)  # half the bar, and how far it strays

    def test_the_scale_by_the_bars_thickness_alone(self):
        """Edges pressed a few pixels off: the length within 2 % all the same, seen dark or light, thick or thin."""
        for line, how in (
            ("12 sq: run 80, bend 90 20, run 100", {}),
            ("16 sq: run 90, bend 60 30, run 70", {"light": True, "noise": 0.06}),
        ):
            piece = read_line(line).piece
            content, pixels, _sheet, _size = photo(piece, **how)
            middle = even(placed(piece, lambda t: t.points), 400)
            across, half = middle[40], piece.bar.thickness / 2
            along = (middle[44] - middle[36]) / np.hypot(*(middle[44] - middle[36]))
            edges = pixels(across + np.array([[-along[1], along[0]], [along[1], -along[0]]]) * half)
            edges += np.array([(2.0, 3.0), (-3.0, -4.0)])
            grey = grey_of(content)
            ground = scaled_by_bar(grey, *edges, piece.bar.thickness)
            rough = scaled_by(*edges, piece.bar.thickness)
            length = [float(np.hypot(*np.diff(g.points(pixels(middle)), axis=0).T).sum()) for g in (ground, rough)]
            truth = float(np.hypot(*np.diff(middle, axis=0).T).sum())
            self.assertAlmostEqual(length[0] / truth, 1.0, delta=0.02)
            self.assertLess(abs(length[0] - truth), abs(length[1] - truth))

    def test_the_ground_by_a_sheet_seen_at_an_angle(self):
        corners = np.array([(100.0, 80.0), (900.0, 120.0), (780.0, 600.0), (180.0, 560.0)])
        ground = levelled(corners, 297.0, 210.0)
        self.assertTrue(np.allclose(ground.points(corners), [(0, 210), (297, 210), (297, 0), (0, 0)], atol=1e-6))
        inside = np.random.default_rng(1).uniform(5, 200, (50, 2))
        self.assertTrue(np.allclose(ground.points(ground.pixels(inside)), inside, atol=1e-6))
        for bad in (corners[[0, 1, 1, 3]], corners[[0, 2, 1, 3]], np.array([(0.0, 0.0), (1.0, 1.0), (2.0, 2.0), (3.0, 0.0)])):
            self.assertRaises(NoAnswer, levelled, bad, 297.0, 210.0)
        self.assertRaises(NoAnswer, scaled_by, (5, 5), (5, 5), 100.0)

    def test_what_is_no_picture_is_refused_and_a_large_one_made_smaller(self):
        for content in (b"", b"not a picture", b"\x89PNG\r\n\x1a\n" + b"\0" * 50):
            self.assertRaises(EmberError, grey_of, content)
        large = io.BytesIO()
        Image.new("RGB", (5000, 1000), (200, 10, 10)).save(large, "JPEG", exif=_turned())
        grey = grey_of(large.getvalue())
        self.assertEqual(grey.light.shape, (2400, 480))  # held upright, as the camera says
        self.assertEqual(grey.colour.shape, (2400, 480, 3))


def _turned() -> bytes:
    exif = Image.Exif()
    exif[0x0112] = 6
    return exif.tobytes()


if __name__ == "__main__":
    unittest.main()
