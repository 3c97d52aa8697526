"""The real window, driven as a smith would; nothing may outlive its test."""

import csv
import json
import os
import sys
import unittest
from dataclasses import replace
from functools import partial
from itertools import pairwise
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, QSize, Qt
from PySide6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QRawFont
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu, QWidget

from long_ember.demo import demo_files
from long_ember.document import FieldAddress
from long_ember.features import KINDS, Piece, checks_of
from long_ember.sections import square
from long_ember.storage import read_piece
from long_ember.ui.app import make_application
from long_ember.ui.heats.log_panel import LogPanel
from long_ember.ui.menu import LAYOUT
from long_ember.ui.rail import SCREENS
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import DARK, LIGHT, contrast
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.commands import Command, Commands
from long_ember.ui.widgets.entry import EntryField
from long_ember.ui.widgets.help import HelpDialog
from long_ember.ui.widgets.menus import Small
from long_ember.units import Measure
from tests.window_case import CTRL, KEY, LEFT, SHIFT, WindowCase, live


class DoneWhen(WindowCase):
    def test_ten_square_instead_of_twelve_and_back_and_the_cut_list_out(self):
        before, picture = self.window.answer_bar.accessibleName(), self.window.shape.canvas.grab().toImage()
        self.type(self.window.header.bar, "10 sq")
        self.assertEqual(self.session.piece.bar, square(10))
        self.assertNotEqual(self.window.answer_bar.accessibleName(), before)
        self.assertNotEqual(self.window.shape.canvas.grab().toImage(), picture)
        self.assertEqual(self.window.commands["edit.undo"].words, "Undo change bar")
        self.assertTrue(self.window.commands.run("edit.undo"))
        self.events()
        self.assertEqual(self.window.answer_bar.accessibleName(), before)
        with mock.patch.object(dialogs, "save_name", return_value=self.folder / "cuts.csv"):
            self.window.cut.piece.export.click()
        self.assertEqual((self.folder / "cuts.csv").read_text().count("Lantern bracket"), 4)
        self.assertIn("cuts.csv", self.window.message.text())


class Entries(WindowCase):
    def test_every_keystroke_that_reads_is_in_force_and_all_are_one_step(self):
        self.select(1)
        seen = []
        self.session.refreshed.connect(lambda: seen.append(self.session.answer.reckoning.bare))
        bare = self.session.answer.reckoning.bare
        self.type(self.field("length"), "70", end=False)
        self.assertEqual([round(x - bare) for x in seen], [7 - 55, 70 - 55])
        QTest.keyClick(self.field("length"), KEY.Key_Return)
        self.assertEqual(self.session.document.undo_title, "Change run length")
        self.window.commands.run("edit.undo")
        self.assertEqual((self.session.piece.features[1].length, self.field("length").text()), (55.0, "55 mm"))

    def test_what_can_not_be_read_keeps_the_old_value_and_says_what_would_work(self):
        self.select(1)
        field = self.field("length")
        self.type(field, "5x", end=False)
        self.assertTrue(field.property("fault"))
        self.assertIn("Try 12", self.window.message.text())
        self.assertIn("Still 55 mm", self.window.message.text())
        QTest.keyClick(field, KEY.Key_Escape)
        self.assertFalse(field.property("fault"))
        self.assertEqual((field.text(), self.session.piece.features[1].length, self.session.document.undo_title), ("55 mm", 55.0, ""))

    def test_a_size_that_can_not_be_forged_is_refused_by_name(self):
        self.type(self.window.header.bar, "90x2 flat")
        self.assertEqual(self.session.piece.bar, square(12))
        self.assertIn("Twist 3", self.window.message.text())
        wide, large = self.window.minimumSizeHint().width(), self.window.message.font().pixelSize()
        self.session.said.emit(120 * "so wide ", True)  # however much there is to say, the window stays as wide
        live(50)
        self.assertEqual(self.window.minimumSizeHint().width(), wide)
        self.assertLess(self.window.message.font().pixelSize(), large)

    def test_fractions_say_how_they_were_read(self):
        self.select(1)
        self.type(self.field("length"), "2 1/2", end=False)
        self.assertEqual((self.session.piece.features[1].length, self.window.message.text()), (63.5, "Read as 63.5 mm."))
        QTest.keyClick(self.field("length"), KEY.Key_Return)
        self.assertEqual(self.window.message.text(), "")

    def test_commands_and_undo_in_a_line_are_the_windows(self):
        self.select(1)
        field = self.field("length")
        self.type(field, "80", end=False)
        self.window.activateWindow()
        for key, command in ((KEY.Key_Z, True), (KEY.Key_E, True), (KEY.Key_C, False), (KEY.Key_Left, False)):
            event = QKeyEvent(QEvent.Type.ShortcutOverride, key, CTRL)
            event.ignore()
            self.app.sendEvent(field, event)
            self.assertEqual(event.isAccepted(), not command, key)
        self.window.commands.run("edit.undo")
        self.assertEqual((field.text(), self.window.message.text()), ("55 mm", ""))

    def test_choices_and_part_fields(self):
        self.type(self.field("facing"), "up")
        self.assertEqual(self.session.piece.features[0].facing, 0.0)
        self.type(self.field("facing"), "30")
        self.assertEqual((self.session.piece.features[0].facing, self.field("facing").text()), (30.0, "30°"))
        self.type(self.field("facing"), "sideways")
        self.assertEqual((self.session.piece.features[0].facing, self.field("facing").property("fault")), (30.0, True))
        form = self.field("form")
        form.setCurrentIndex(1)
        form.activated.emit(1)
        self.assertEqual(self.session.piece.features[0].form, "logarithmic")
        self.window.show_view(4)
        self.type(self.window.cut.piece.grid.fields[0], "15")
        self.assertEqual((self.session.piece.order.quantity, len(self.session.answer.cuts.bars)), (15, 3))
        self.window.commands.run("view.sum")
        trim = next(f for f in self.window.sum_sheet.grid.fields if f.address.name == "trim")
        self.type(trim, "10")
        self.assertEqual(self.session.piece.allowances.trim, 10.0)
        QTest.keyClick(self.window.sum_sheet, KEY.Key_Escape)
        self.assertFalse(self.window.sum_sheet.isVisible())


class Drawing(WindowCase):
    def test_a_click_on_bar_or_piece_selects_everywhere(self):
        canvas = self.window.shape.canvas
        for i, part in enumerate(canvas.scene.figure.parts):
            self.click(canvas, canvas.scene.zones[i].rect.center())
            self.assertEqual(self.session.selection, part.id)
            self.select((i + 1) % 7)
            self.click(canvas, canvas.scene.figure_view.point(canvas.scene.figure.parts[i].at(part.shape.length * 0.45)))
            self.assertEqual(self.session.selection, part.id)
            self.assertEqual({f.address.owner for f in self.window.shape.inspector.fields}, {part.id})

    def test_hover_marks_it_everywhere(self):
        canvas, plain = self.window.shape.canvas, self.window.shape.strip.cards.grab().toImage()
        at = canvas.scene.zones[3].rect.center()
        move = QMouseEvent(
            QEvent.Type.MouseMove,
            at,
            canvas.mapToGlobal(at),
            Qt.MouseButton.NoButton,
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
        )
        canvas.mouseMoveEvent(move)
        self.assertEqual(self.session.hover, self.session.piece.features[3].id)
        self.assertNotEqual(self.window.shape.strip.cards.grab().toImage(), plain)

    def test_a_dimension_is_edited_where_it_stands_with_live_repaint(self):
        self.select(1)
        canvas = self.window.shape.canvas
        dimension = next(d for d in canvas.scene.dimensions if d.address == FieldAddress(self.session.selection, "length"))
        self.click(canvas, dimension.box.center())
        entry = canvas.findChild(EntryField)
        picture = canvas.grab().toImage()
        self.type(entry, "90", end=False)
        self.assertEqual(self.session.piece.features[1].length, 90.0)
        self.assertNotEqual(canvas.grab().toImage(), picture)
        QTest.keyClick(entry, KEY.Key_Escape)
        self.assertEqual((self.session.piece.features[1].length, self.session.document.undo_title), (55.0, ""))

    def test_zoom_keeps_the_point_under_the_pointer_and_fit_brings_it_back(self):
        canvas = self.window.shape.canvas
        fitted, at = canvas.scene.view, QPointF(300, 90)
        canvas.zoom(2.0, at)
        zoomed = canvas.scene.view
        self.assertAlmostEqual((at.x() - zoomed.x) / zoomed.scale, (at.x() - fitted.x) / fitted.scale)
        canvas.pan(30, 10)
        self.assertEqual((canvas.scene.view.x, canvas.scene.view.y), (zoomed.x + 30, zoomed.y + 10))
        self.window.show_view(2)
        self.window.show_view(0)
        self.assertEqual(canvas.scene.view.scale, zoomed.scale)
        QTest.keyClick(canvas, KEY.Key_F)
        self.assertEqual(canvas.scene.view, fitted)

    def test_bar_and_piece_are_to_one_scale_and_inside_the_paper(self):
        for path in demo_files():
            self.session.open(read_piece(path))
            scene = self.window.shape.canvas.scene
            self.assertEqual(scene.view.scale, scene.figure_view.scale)
            paper = self.window.shape.canvas.rect()
            for box in (*(z.rect for z in scene.zones), *scene.part_boxes, *(d.box for d in scene.dimensions)):
                self.assertTrue(paper.adjusted(-2, -2, 2, 2).contains(box.toRect()), path.stem)
            for i, one in enumerate(scene.dimensions):
                self.assertFalse(any(one.box.intersects(other.box) for other in scene.dimensions[:i]), path.stem)

    def test_a_high_resolution_picture_is_drawn_not_stretched(self):
        canvas = self.window.shape.canvas
        image = QImage(QSize(canvas.width() * 2, canvas.height() * 2), QImage.Format.Format_RGB32)
        image.setDevicePixelRatio(2)
        canvas.render(image)
        doubled = canvas.grab().toImage().scaled(image.size())
        self.assertNotEqual(image.convertToFormat(doubled.format()), doubled)


class Features(WindowCase):
    def test_each_kind_can_be_added_and_taken_back(self):
        for kind, button in self.window.shape.palette_buttons.items():
            count = len(self.session.piece.features)
            self.select(1)
            QTest.mouseClick(button, LEFT)
            with self.subTest(kind):
                self.assertEqual([f.kind for f in self.session.piece.features][2], kind)
                self.assertEqual(self.session.piece.index(self.session.selection), 2)
                self.window.commands.run("edit.undo")
                self.assertEqual(len(self.session.piece.features), count)
        self.select(1)
        QTest.keyClick(self.window.shape.palette_buttons["eye"], KEY.Key_Space, SHIFT)
        self.assertEqual(self.session.piece.features[1].kind, "eye")

    def test_keys_select_reorder_and_remove(self):
        cards = self.window.shape.strip.cards
        ids = [f.id for f in self.session.piece.features]
        cards.setFocus()
        QTest.keyClick(cards, KEY.Key_Right)
        self.assertEqual(self.session.selection, ids[1])
        QTest.keyClick(cards, KEY.Key_Right, CTRL)
        self.assertEqual([f.id for f in self.session.piece.features][:3], [ids[0], ids[2], ids[1]])
        QTest.keyClick(cards, KEY.Key_Delete)
        self.assertEqual(len(self.session.piece.features), 6)
        QTest.keyClick(cards, KEY.Key_Return)
        self.assertIs(self.window.focusWidget(), self.window.shape.inspector.fields[0])
        for title in ("Remove run", "Move run"):
            self.assertEqual(self.session.document.undo_title, title)
            self.window.commands.run("edit.undo")
        self.assertEqual([f.id for f in self.session.piece.features], ids)

    def test_a_card_is_dragged_to_the_other_end_and_turns_outwards(self):
        cards = self.window.shape.strip.cards
        first, last = cards.card_rect(0).center().toPoint(), cards.card_rect(6).center().toPoint()
        QTest.mousePress(cards, LEFT, Qt.KeyboardModifier.NoModifier, first)
        for at in (first + QPoint(20, 0), last):
            event = QMouseEvent(
                QEvent.Type.MouseMove, QPointF(at), cards.mapToGlobal(QPointF(at)), LEFT, LEFT, Qt.KeyboardModifier.NoModifier
            )
            cards.mouseMoveEvent(event)
        QTest.mouseRelease(cards, LEFT, Qt.KeyboardModifier.NoModifier, last)
        moved = self.session.piece.features[6]
        self.assertEqual((moved.kind, moved.toward), ("scroll", "B"))

    def test_an_empty_bar_teaches_and_every_screen_stands(self):
        self.session.open(Piece(), None)
        for index in range(len(SCREENS)):
            self.window.show_view(index)
            self.window.grab()
        self.assertIn("Add a feature first", self.window.answer_bar.accessibleName())
        self.window.show_view(0)
        QTest.mouseClick(self.window.shape.palette_buttons["taper"], LEFT)
        self.assertEqual(len(self.session.piece.features), 1)


class Screens(WindowCase):
    def test_units_switch_everywhere_without_touching_the_piece(self):
        piece = self.session.piece
        self.window.commands.run("view.units")
        self.assertIs(self.session.piece, piece)
        self.assertIn("″", self.window.answer_bar.accessibleName())
        sizes = [f.text() for f in self.window.shape.inspector.fields if isinstance(f, EntryField) and "mm" in f.text()]
        self.assertTrue(all("(" in text and "/" in text for text in sizes), sizes)  # in mm only with the fraction beside it
        self.window.show_view(3)
        self.assertNotIn(" mm", self.window.heats.words)
        self.window.commands.run("view.units")
        self.assertEqual(self.window.header.bar.text(), "12 mm square")

    def test_heats_follow_a_change_made_elsewhere(self):
        self.window.show_view(3)
        film = self.window.heats.film
        count = len(self.session.answer.plan.frames)
        self.assertEqual(film.current, 1)  # sawing comes before the first heat
        QTest.keyClick(film, KEY.Key_Right)
        self.assertEqual(film.current, 2)
        self.assertIn("Heat 2", self.window.heats.words)
        picture = self.window.heats.stage.grab().toImage()
        self.type(self.window.header.bar, "8 sq")
        self.assertNotEqual(self.window.heats.stage.grab().toImage(), picture)
        film.show_current(len(self.session.answer.plan.frames) - 1)
        self.type(self.window.header.bar, "12 sq")
        self.assertEqual(len(self.session.answer.plan.frames), count)
        live(100)  # the film's own pause

    def test_marks_from_the_other_end(self):
        self.window.show_view(2)
        first = self.session.answer.marks[0].at
        self.window.mark.datum.activated.emit(1)
        self.assertEqual(self.session.piece.datum, "B")
        self.assertNotEqual(self.session.answer.marks[0].at, first)

    def test_the_rail_and_its_keys(self):
        QTest.mouseClick(self.window.rail, LEFT, Qt.KeyboardModifier.NoModifier, QPoint(40, 92 * 5 + 20))
        self.assertIs(self.window.stack.currentWidget(), self.window.book)
        QTest.keyClick(self.window.rail, KEY.Key_Down)
        self.assertIs(self.window.stack.currentWidget(), self.window.shape)

    def test_at_1280_by_800_nothing_is_pushed_off_the_screen(self):
        self.window.resize(1280, 800)
        self.assertLessEqual(self.window.minimumSizeHint().width(), 1280)
        self.assertLessEqual(self.window.minimumSizeHint().height(), 800)
        self.assertEqual(self.window.size(), QSize(1280, 800))

    def test_every_character_shown_is_in_the_shipped_family(self):
        raw = QRawFont.fromFont(font(16))
        shown = set()
        for measure in (Measure(), Measure("in", 64)):
            for cls in KINDS.values():
                piece = Piece(bar=square(12), features=(cls(id="x"),))
                place = piece.place(0)
                lines = [*cls(id="x").sum_lines(place), cls(id="x").summary(), *(c.line for c in checks_of(piece.features[0], place))]
                lines += [o.line for o in piece.features[0].operations(place)]
                shown |= {c for line in lines for c in line.show(measure)}
        self.assertEqual(sorted(c for c in shown if c.isprintable() and not raw.supportsCharacter(ord(c))), [])

    def stops(self):
        """Whatever Tab comes to, in its order: where it stands, and what it is called."""
        live(60)  # the order follows a moment after the layout
        found, at = [], self.window
        while (at := at.nextInFocusChain()) is not self.window:
            tabbed = bool(at.focusPolicy() & Qt.FocusPolicy.TabFocus)
            if tabbed and at.isVisible() and at.isEnabled() and at.focusProxy() is None:
                text = getattr(at, "text", None)
                found.append((at.mapTo(self.window, QPoint(0, 0)), at.accessibleName() or (text() if callable(text) else ""), at))
        return found

    def test_tab_goes_as_the_eye_does_and_every_stop_has_a_name(self):
        views = [partial(self.window.show_view, i) for i in range(1, 5)]
        views += [partial(self.window.show_cuts, "job-1"), partial(self.window.show_view, 5)]
        views += [partial(self.window.book.show_part, part) for part in ("rack", "price", "job", "assembly", "shop")]
        self.window.show_view(0)
        self.session.select(self.session.piece.features[2].id)
        for show in (lambda: None, *views, self.window.show_begin, self.window.show_photo):
            show()
            for _ in range(20):  # the layout of a long form settles in several goes
                stops = self.stops()
                ups = [(a[1], b[1]) for a, b in pairwise(stops) if b[0].y() < a[0].y() - 24 and b[0].x() < a[0].x() + 20]
                if not ups:
                    break
            self.assertGreater(len(stops), 8)
            self.assertEqual([type(w).__name__ for _at, name, w in stops if not name.strip()], [])
            self.assertEqual(ups, [])  # a column may begin anew at the top, further to the right; nothing else goes up

    def test_every_command_stands_in_one_menu_and_none_is_taller_than_the_window(self):
        placed = [i for _title, groups in LAYOUT for group in groups for i in (group.ids if isinstance(group, Small) else group)]
        self.assertEqual(sorted(placed), sorted(c.id for c in self.window.commands))
        for menu in self.window.menuBar().findChildren(QMenu):
            self.assertLess(menu.sizeHint().height(), 640, menu.title())
        self.window.commands.run("shop.kit")
        self.assertEqual((self.window.stack.currentWidget(), self.window.book.shop.key), (self.window.book, "kit"))

    def test_both_themes_are_legible(self):
        for theme in (LIGHT, DARK):
            for front, backs in (("ink", ("paper", "panel", "steel", "steel_alt", "chosen")), ("muted", ("paper", "panel")),
                                 ("accent", ("paper", "panel")), ("on_accent", ("accent",)), ("fault", ("paper", "panel"))):  # fmt: skip
                for back in backs:
                    with self.subTest(theme=theme.name, front=front, back=back):
                        self.assertGreaterEqual(contrast(getattr(theme, front), getattr(theme, back)), 4.5)
            for back in ("paper", "panel"):  # of controls, and where the keys are
                self.assertGreaterEqual(contrast(theme.rim, getattr(theme, back)), 3.0)
            for back in ("chosen", "steel", "steel_alt"):
                self.assertGreaterEqual(contrast(theme.accent, getattr(theme, back)), 3.0)
            for back in ("steel", "steel_alt", "paper"):
                self.assertGreaterEqual(contrast(theme.edge, getattr(theme, back)), 3.0)
        self.window.commands.run("view.theme")
        self.assertEqual(self.window.grab().toImage().pixelColor(700, 780), QColor(DARK.paper))


class Files(WindowCase):
    def test_a_folder_that_can_not_be_written_is_explained(self):
        with mock.patch.object(dialogs, "explain") as explain:
            self.assertFalse(self.window.files.save_to(self.folder / "no" / "such" / "piece.json"))
            self.assertFalse(self.window.files.export_csv(self.folder / "no" / "cuts.csv"))
        self.assertEqual(explain.call_count, 2)

    def test_the_heats_go_out_for_the_wall_and_for_other_programs(self):
        plan = self.session.answer.plan
        self.window.show_view(3)
        for name in ("heats.csv", "heats.json"):
            with mock.patch.object(dialogs, "save_name", return_value=self.folder / name):
                self.window.heats.buttons["table"].click()
        rows = list(csv.DictReader((self.folder / "heats.csv").read_text().splitlines()))
        self.assertEqual(len(rows), sum(len(heat.work) for heat in plan.heats) + len(plan.errands))
        self.assertTrue(all(row["came out"] == "" and row["what"] for row in rows))
        data = json.loads((self.folder / "heats.json").read_text())
        self.assertEqual((data["format"], data["count"], len(data["heats"])), ("long-ember heats", plan.count, len(plan.frames)))
        done = {}
        for heat in data["heats"]:
            for work in (w for w in heat["work"] if "verb" in w):
                done.setdefault((work["feature"], work["verb"]), []).append((work["from"], work["to"]))
        for parts in done.values():  # every operation from nothing to all of it, without a gap
            self.assertEqual((parts[0][0], parts[-1][1]), (0.0, 1.0))
            self.assertTrue(all(abs(a[1] - b[0]) < 1e-9 for a, b in pairwise(parts)))
        with mock.patch.object(dialogs, "explain") as explain:
            self.assertFalse(self.window.files.export_heats(self.folder / "no" / "heats.csv"))
        self.assertEqual(explain.call_count, 1)
        self.session.open(Piece(), None)
        self.assertFalse(self.window.heats.buttons["sheet"].isEnabled())

    def test_help_is_written(self):
        help_ = HelpDialog(None, "Keys")
        self.assertIn("3/8", help_.browser.toPlainText())
        help_.deleteLater()


class Commanding(unittest.TestCase):
    def test_doubles_are_errors_and_enablement_is_checked_on_execution(self):
        done = []
        one = Command("a.x", "X", lambda: done.append(1), "Ctrl+X", enabled=lambda: False)
        with self.assertRaises(ValueError):
            Commands([one, replace(one, id="a.y")])
        with self.assertRaises(ValueError):
            Commands([one, replace(one, keys="")])
        self.assertFalse(Commands([one]).run("a.x"))
        self.assertEqual(done, [])


class References(unittest.TestCase):
    def test_none_keeps_its_references_over_a_thousand_paints(self):
        make_application(["test"])
        image = QImage(40, 40, QImage.Format.Format_RGB32)
        painter = QPainter(image)

        def paint() -> None:
            painter.setBrush(QColor("black"))
            painter.drawLine(0, 0, 9, 9)
            image.fill(0)

        paint()
        before = sys.getrefcount(None)
        for _ in range(1000):
            paint()
        lost = before - sys.getrefcount(None)
        painter.end()
        self.assertLess(abs(lost), 100)


class Stray(QObject):
    """Widgets that came up as windows without being meant as one: shown before they had a place."""

    def __init__(self):
        super().__init__()
        self.found = []

    def eventFilter(self, watched, event):
        shown = event.type() == QEvent.Type.Show and isinstance(watched, QWidget) and watched.isWindow() and not watched.windowTitle()
        if shown and watched.windowType() in (Qt.WindowType.Widget, Qt.WindowType.Window):
            self.found.append(watched.accessibleName() or type(watched).__name__)
        return False


class NothingFlashes(unittest.TestCase):
    def test_no_part_of_a_screen_comes_up_as_a_window_of_its_own(self):
        application, stray = make_application(["test"]), Stray()
        application.installEventFilter(stray)
        self.addCleanup(application.removeEventFilter, stray)
        case = WindowCase()
        case.setUp()
        self.addCleanup(case.doCleanups)
        window = case.window
        for screen in range(len(SCREENS)):
            window.show_view(screen)
            case.events()
        for kind in ("rack", "price", "job"):
            window.book.board(kind).rows.choose(next(iter(window.book.board(kind).rows.records), ""))
        window.show_blanks()
        window.blanks.close()
        LogPanel(window.work, window).deleteLater()
        case.events()
        case.tearDown()
        self.assertEqual(stray.found, [])
