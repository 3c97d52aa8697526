"""What is seen against the solid itself: outlines, depth, shades, and room on the paper."""

import math
import unittest

import numpy as np
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from long_ember.demo import demo_files
from long_ember.document import answer
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Arc, Outer, Piece, Place, Shape, Span, Straight, shape_of
from long_ember.geometry import PLAN, SIDE, mesh, piece_bodies, piece_figure, seen_figure, turned
from long_ember.geometry.tracing import trace
from long_ember.heats import moment
from long_ember.portions import all_portions
from long_ember.sections import flat, round_, square
from long_ember.storage import read_piece
from long_ember.ui.drawing.heat_paint import stage_figure, stage_solid
from long_ember.ui.drawing.paint import View
from long_ember.ui.drawing.solid import Solid, paint_solid
from long_ember.ui.style.theme import DARK, LIGHT
from tests.support import CASES
from tests.window_case import WindowCase

LOOKS = {
    "side": SIDE,
    "plan": PLAN,
    "three quarters": turned(math.radians(35), math.radians(-28)),
    "from behind": turned(math.radians(160), math.radians(20)),
}


class Outlines(unittest.TestCase):
    def test_outlines_reach_as_far_as_the_solid(self):
        """The silhouette is reckoned without the mesh; both must fill the same box, whatever the direction."""
        for bar in (square(12), round_(12), flat(30, 10)):
            for feature in CASES:
                at_b = isinstance(feature, Outer) and feature.toward == "B"
                try:
                    shape = shape_of(feature, Place(bar, not at_b, at_b))
                except NoAnswer:
                    continue
                if feature.kind in ("hole", "drifted-eye", "laid-on"):
                    continue  # their meshes are cut, or carry a plate on one side only: looked at below
                for name, look in LOOKS.items():
                    outline = np.array(seen_figure([("x", shape)], look).parts[0].box)
                    points = mesh(shape).points @ look.T
                    solid = np.concatenate((points[:, :2].min(axis=0), points[:, :2].max(axis=0)))
                    big = max(b.w for span in shape.spans for b in (span.start, span.end))
                    room = 0.16 * max(big, bar.width, 12) + 0.02 * np.abs(solid).max()
                    with self.subTest(feature=feature, look=name):
                        self.assertLess(np.abs(outline - solid).max(), room)

    def test_a_shoulder_stands_where_the_section_jumps(self):
        """The area inside an outline against the steel seen from the side: Σ of lengths × mean depths."""
        thick, thin = square(12).blend, square(6).blend
        for path in ((Straight(100.0),), (Straight(60.0), Arc(40.0, 1.0))):
            for spans in (
                (Span(30.0, thin, thin), Span(70.0, thick, thick)),
                (Span(45.0, thick, thin), Span(15.0, thick, thick), Span(40.0, thin, thin)),
            ):
                shape = Shape(spans, path)
                wanted = sum(span.length * (span.start.t + span.end.t) / 2 for span in spans)
                drawn = trace(shape)
                outline = np.vstack((drawn.points + drawn.offset, (drawn.points - drawn.offset)[::-1]))
                (part,) = seen_figure([("x", shape)], SIDE).parts
                for seen in (outline, np.vstack((part.left, part.right[::-1]))):
                    x, y = seen[:, 0], seen[:, 1]
                    area = abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
                    with self.subTest(path=path, spans=spans):
                        self.assertLess(abs(area - wanted), 2e-3 * wanted)

    def test_the_views_of_a_box_are_its_faces(self):
        piece = Piece(bar=flat(30, 10), features=(KINDS["run"](id="r", length=100.0),))
        for look, size in ((SIDE, (100, 10)), (PLAN, (100, 30)), (turned(math.pi / 2, 0.0), (30, 10))):
            x0, y0, x1, y1 = piece_figure(piece, look).bounds
            self.assertAlmostEqual(x1 - x0, size[0], places=6)
            self.assertAlmostEqual(y1 - y0, size[1], places=6)

    def test_a_hole_is_seen_round_from_above_and_flat_from_the_side(self):
        piece = Piece(bar=flat(30, 10), features=(KINDS["hole"](id="h", diameter=8.0),))
        above, beside = (piece_figure(piece, look).parts[0].aspect.rims[0] for look in (PLAN, SIDE))
        np.testing.assert_allclose(np.ptp(above, axis=0), [8, 8], atol=0.05)  # of the hole's own area
        np.testing.assert_allclose(np.ptp(beside, axis=0), [8, 0], atol=0.05)

    def test_an_aspect_is_kept_while_a_part_only_moves_along(self):
        bend, tail = KINDS["bend"](id="b", facing=90.0), KINDS["hook"](id="h", toward="B")
        pieces = [Piece(features=(KINDS["run"](id="a", length=length), bend, tail)) for length in (80.0, 95.0)]
        one, other = (piece_figure(p) for p in pieces)
        self.assertIs(one.parts[2].aspect, other.parts[2].aspect)
        self.assertAlmostEqual(other.parts[2].start[0] - one.parts[2].start[0], 15, places=9)
        for look in LOOKS.values():
            piece_figure(pieces[0], look)
        self.assertLessEqual(len(shape_of(tail, pieces[0].place(2)).__dict__["_aspects"]), 4)


class Shades(unittest.TestCase):
    def picture(self, theme, look, chosen=""):
        solid = Solid(piece_bodies(Piece(bar=square(40), features=(KINDS["run"](id="r", length=80.0),))))
        image = QImage(200, 120, QImage.Format.Format_RGB32)
        image.fill(QColor("#ff00ff"))
        painter = QPainter(image)
        paint_solid(painter, solid, look, View(1.0, 60.0, 60.0), theme, QRectF(0, 0, 200, 120), chosen=chosen)
        painter.end()
        return image

    def test_the_side_of_a_block_fills_its_own_size_in_one_shade(self):
        image = self.picture(LIGHT, SIDE)
        inside = {image.pixel(x, y) for x in range(62, 138) for y in range(43, 77)}
        self.assertEqual(len(inside), 1)
        outside = [(50, 60), (150, 60), (100, 30), (100, 95)]
        self.assertTrue(all(image.pixelColor(x, y) == QColor("#ff00ff") for x, y in outside))

    def test_faces_toward_the_light_are_lighter_and_the_chosen_one_is_another_colour(self):
        for theme in (LIGHT, DARK):
            image = self.picture(theme, turned(0.0, math.radians(40)))
            top, front = image.pixelColor(100, 38).lightness(), image.pixelColor(100, 75).lightness()
            self.assertNotEqual(top, front)
            self.assertGreater(max(top, front) - min(top, front), 10)
            plain, chosen = self.picture(theme, SIDE), self.picture(theme, SIDE, chosen="r")
            self.assertNotEqual(plain.pixel(100, 60), chosen.pixel(100, 60))

    def test_round_bar_is_shaded_by_its_true_normals_and_square_bar_keeps_its_edges(self):
        """At rest: the shade of each facet is that of the cylinder there, within a level or two; a face of a square has one shade."""
        run = KINDS["run"](id="r", length=80.0)
        look = turned(0.3, 0.4)
        solid = Solid(piece_bodies(Piece(bar=round_(40), features=(run,))))
        quads, _owner, shade = all_portions(solid.facets(look))
        flat = solid.seen(look)
        self.assertGreater(len(quads), len(flat[1]))
        ends = np.array([look @ p for p in ((0.0, 0.0, 0.0), (80.0, 0.0, 0.0))])
        middles = quads.mean(axis=1)
        axis = ends[1] - ends[0]
        across = np.array([-axis[1], axis[0]]) / np.hypot(*axis[:2])
        depth = np.abs((middles - ends[0][:2]) @ across) / 20.0
        along = (middles - ends[0][:2]) @ axis[:2] / (axis[:2] @ axis[:2])
        wall = (depth < 0.9) & (np.abs(along - 0.5) < 0.2)  # the rest is rim, or an end
        light = np.array([-0.35, 0.75, 0.56]) / np.linalg.norm((-0.35, 0.75, 0.56))
        side = (middles - ends[0][:2]) @ across / 20.0
        up = np.cross(axis / np.linalg.norm(axis), (*across, 0.0))
        up = up if up[2] > 0 else -up
        true = side[:, None] * np.array((*across, 0.0)) + np.sqrt(np.clip(1 - side**2, 0, 1))[:, None] * up
        levels = (0.5 + 0.5 * np.clip(true @ light, 0, 1)) * 48
        off = np.abs(levels - shade)[wall]
        self.assertLess(np.quantile(off, 0.8), 3.0)
        square_bar = Solid(piece_bodies(Piece(bar=square(40), features=(run,))))
        self.assertEqual(len(set(all_portions(square_bar.facets(look))[2].tolist())), 3)

    def test_it_glows_where_it_lies_in_the_fire(self):
        """The share of the surface that glows is that of the bar in the hot zone; nothing glows when it is cold."""
        found = answer(
            Piece(
                bar=square(12),
                features=(
                    KINDS["run"](id="a", length=100.0),
                    KINDS["twist"](id="t", length=60.0, turns=1.0),
                    KINDS["run"](id="b", length=100.0),
                ),
            )
        )
        now = moment(found.plan, 1.0)
        solid = all_portions(stage_solid(stage_figure(found, now.progress), now))
        hot = solid._owner == len(solid.ids)
        at = solid.points[solid._faces].mean(axis=1)[:, 0]
        long = np.ptp(solid.points[:, 0])
        low, high = (x / found.reckoning.cut * long for x in now.zone)
        middle = at - solid.points[:, 0].min()
        self.assertTrue(hot.any() and not hot.all())
        self.assertTrue((middle[hot] > low - 15).all() and (middle[hot] < high + 15).all())
        self.assertFalse(solid.glow == "")
        cold = stage_solid(stage_figure(found, found.plan.frames[0].before), moment(found.plan, 0.0))
        self.assertEqual(all_portions(cold).glow, "")

    def test_nothing_to_draw_is_drawn(self):
        image = QImage(20, 20, QImage.Format.Format_RGB32)
        painter = QPainter(image)
        paint_solid(painter, Solid(()), SIDE, View(1.0, 0.0, 0.0), LIGHT, QRectF(0, 0, 20, 20))
        painter.end()
        self.assertEqual(Solid(()).count, 0)


class Paper(WindowCase):
    def test_every_demo_piece_fits_its_paper_in_every_view(self):
        canvas = self.window.shape.canvas
        for path in demo_files():
            self.session.open(read_piece(path), None)
            for side in ("side", "plan", "turn"):
                canvas.look_from(side)
                canvas.grab()
                scene = canvas.scene
                paper = scene.paper.adjusted(-2, -2, 2, 2)
                for box in (*(z.rect for z in scene.zones), *scene.part_boxes, *(d.box for d in scene.dimensions)):
                    self.assertTrue(paper.contains(box), f"{path.stem} {side}")
                for i, one in enumerate(scene.dimensions):
                    for other in scene.dimensions[:i]:
                        self.assertFalse(one.box.intersects(other.box), f"{path.stem} {side}: {one.text}, {other.text}")

    def test_every_feature_can_be_picked_in_every_view(self):
        canvas = self.window.shape.canvas
        for side in ("side", "plan", "turn"):
            canvas.look_from(side)
            scene = canvas.scene
            for part in scene.parts:
                at = scene.figure_view.point(part.at(part.shape.length / 2))
                self.assertTrue(scene.hit(at), f"{part.id} {side}")
            self.assertEqual({scene.hit(z.rect.center()) for z in scene.zones}, {z.id for z in scene.zones})
