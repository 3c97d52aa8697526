"""Paper in the real window: the print dialog, marks, tables, finding anything, pictures out."""

from unittest import mock

import pdfplumber
from PySide6.QtGui import QImage
from PySide6.QtPrintSupport import QPrinter
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from svgelements import SVG

from long_ember.document import set_planning
from long_ember.records import Job
from long_ember.ui.finding import findable
from long_ember.ui.mark.mark_view import MarkView
from long_ember.ui.paper.picture import PictureForm
from long_ember.ui.paper.print_dialog import PrintDialog, print_pages, set_up
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.picking import PickDialog
from tests.paper_case import MM, lines_of
from tests.window_case import KEY, WindowCase, live


class Printing(WindowCase):
    def setUp(self):
        super().setUp()
        self.window.work.open_piece("lantern-bracket")

    def dialog(self, key, subject=None):
        made = PrintDialog(self.window.work, subject or self.window.files.subject, key, self.window)
        made.show()
        self.events()
        return made

    def test_every_paper_is_previewed_and_what_was_chosen_is_kept(self):
        dialog = self.dialog("heats")
        self.assertEqual(dialog.paper.key, "heats")
        for row in range(dialog.kinds.count()):
            dialog.kinds.setCurrentRow(row)
            shot = dialog.preview.grab().toImage()
            self.assertFalse(shot.isNull(), dialog.paper.key)
            self.assertIsNotNone(dialog.preview.printed, dialog.paper.key)
        dialog.kinds.setCurrentRow([p.key for p in dialog.papers].index("heats"))
        dialog.options["pictures"].setChecked(False)
        dialog.size_box.setCurrentIndex(dialog.size_box.findData("letter"))
        dialog.renew()
        self.assertAlmostEqual(dialog.preview.printed.pages[0].width, 215.9)
        dialog.save_to(self.folder / "h.pdf")
        self.until(lambda: dialog.told.text())
        self.assertIn("h.pdf", dialog.told.text())
        with mock.patch("PySide6.QtGui.QDesktopServices.openUrl", return_value=False) as opened:
            dialog.told.follow("folder")
        self.assertEqual(opened.call_args.args[0].toLocalFile(), str(self.folder))
        self.assertIn("h.pdf", dialog.told.text())  # where it is, since nothing here can show it
        again = self.dialog("heats")
        self.assertEqual((again.size_box.currentData(), again.options["pictures"].isChecked()), ("letter", False))
        with mock.patch("long_ember.ui.widgets.waiting.explain") as explain:
            again.save_to(self.folder / "none" / "h.pdf")
            self.until(lambda: explain.called)

    def test_a_printer_gets_the_true_size(self):
        dialog = self.dialog("templates")
        with mock.patch.object(dialogs, "explain") as explain:
            dialog.ask_printer()
        self.assertEqual(explain.call_args.args[1], "There is no printer")
        printed = dialog.preview.printed
        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
        printer.setOutputFileName(str(self.folder / "p.pdf"))
        print_pages(set_up(printer, printed), printed)
        with pdfplumber.open(self.folder / "p.pdf") as opened:
            self.assertEqual(len(opened.pages), len(printed.pages))
            self.assertAlmostEqual(float(opened.pages[0].width) / MM, printed.pages[0].width, delta=0.3)
        bars = [x1 - x0 for x0, y0, x1, y1 in lines_of((self.folder / "p.pdf").read_bytes()) if abs(y0 - y1) < 0.05 and y0 > 270]
        self.assertTrue(any(abs(bar - 50.0) < 0.1 for bar in bars), bars)

    def test_the_paper_of_the_screen_in_sight_and_the_named_state(self):
        seen = []
        with mock.patch.object(PrintDialog, "exec", lambda dialog: seen.append(dialog.paper.key)):
            for screen in range(6):
                self.window.show_view(screen)
                self.window.commands.run("file.print")
            self.window.heats.buttons["sheet"].click()
        self.assertEqual(seen, ["plan", "plan", "marks", "heats", "cut", "tables", "heats"])
        self.window.work.name_state(self.session.piece_id, "as hung")
        self.window.library.flush()
        self.assertEqual(self.window.files.subject().state, "as hung")
        self.session.attempt(set_planning, "finish", "wax")
        self.assertEqual(self.window.files.subject().state, "")  # no longer that

    def test_papers_of_jobs_and_of_nothing(self):
        self.window.show_cuts(next(iter(self.window.library.records(Job))))
        live(300)
        dialog = self.dialog("labels")
        self.assertNotIn("heats", [p.key for p in dialog.papers])
        for row in range(dialog.kinds.count()):
            dialog.kinds.setCurrentRow(row)
            self.assertIsNotNone(dialog.preview.printed, dialog.preview.trouble)
        with mock.patch("long_ember.ui.paper.print_dialog._MANY", 3):  # as with many blanks
            dialog.renew()
            self.assertIsNone(dialog.preview.printed)
            self.until(lambda: dialog.preview.printed is not None)
        self.window.show_view(0)
        self.window.commands.run("file.new")
        self.window.show_view(0)
        self.session.open(self.session.shop.new_piece(), None)
        empty = self.dialog("tables")
        self.assertEqual([p.key for p in empty.papers], ["tables"])
        for option in empty.options.values():
            option.setChecked(False)
        empty.renew()
        self.assertIsNone(empty.preview.printed)
        self.assertIn("Tick at least one", empty.preview.trouble)
        self.assertFalse(empty.save_button.isEnabled())

    def test_marks_all_or_the_least_own_or_the_mate(self):
        self.window.show_view(2)
        view: MarkView = self.window.mark
        view.grab()
        rows = view.board._tables[0].rows
        self.assertEqual(len(rows), len(self.session.answer.marks))
        view.which.setCurrentIndex(1)
        view.which.activated.emit(1)
        self.assertLess(len(view.board._tables[0].rows), len(rows))
        view.hand.setCurrentIndex(1)
        view.hand.activated.emit(1)
        self.assertTrue(view.board.mate)
        self.assertFalse(view.grab().isNull())
        asked = []
        view.print_asked.connect(asked.append)
        with mock.patch.object(PrintDialog, "exec", lambda _dialog: None):
            for words in ("At full size…", "Print…"):
                next(b for b in view.findChildren(QPushButton) if b.text() == words).click()
        self.assertEqual(asked, ["stick", "marks"])

    def test_tables_follow_the_piece_and_are_found(self):
        self.window.commands.run("view.tables")
        view = self.window.tables
        for key in view.buttons:
            view.show_table(key)
            self.assertTrue(view.text.toPlainText().strip(), key)
        view.line.setText("m8")
        self.assertEqual([key for key, button in view.buttons.items() if not button.isHidden()], ["metric"])
        self.assertEqual(view.key, "metric")
        view.line.clear()
        view.show_table("taper")
        view.entries["thick"].setText("20 mm")
        view.entries["thick"].textEdited.emit("20 mm")
        self.assertIn("20 mm", view.text.toPlainText())
        view.entries["thick"].setText("x")
        view.renew()
        self.assertIn("is expected", view.text.toPlainText())
        QTest.keyClick(view, KEY.Key_Escape)
        self.assertIs(self.window.stack.currentWidget(), self.window.shape)

    def test_anything_is_found_and_gone_to(self):
        dialog = PickDialog("Find anything", "", findable(self.window), self.window, listed=False)
        kinds = {}
        for words in ("oar cradle", "north wall", "temper colours", "scroll", "print", "numbers promise"):
            dialog.line.setText(words)
            kinds[words] = dialog.found[0].kind
        self.assertEqual(list(kinds.values()), ["piece", "job", "table", "shape", "do", "guide"])
        dialog.line.setText("zzz")
        self.assertIn("Nothing is called", dialog.told.text())
        dialog.line.setText("door pull")
        QTest.keyClick(dialog.line, KEY.Key_Return)
        self.events()
        self.assertEqual(self.session.piece.name, "Door pull")
        dialog = PickDialog("Find anything", "", findable(self.window), self.window, listed=False)
        dialog.line.setText("temper colours")
        QTest.keyClick(dialog.line, KEY.Key_Down)
        QTest.keyClick(dialog.line, KEY.Key_Up)
        dialog._go()
        self.events()
        self.assertEqual(self.window.tables.key, "temper-colours")

    def test_pictures_of_every_screen(self):
        seen = []
        for screen in range(6):
            self.window.show_view(screen)
            live(50)
            with mock.patch.object(PictureForm, "exec", lambda form: seen.append(form)):
                self.window.commands.run("file.picture")
            form = seen.pop()
            form.save_to(self.folder / "x.svg")
            self.assertGreater(len(list(SVG.parse(self.folder / "x.svg").elements())), 5, screen)
            form.width_box.setCurrentIndex(1)
            form.save_to(self.folder / "x.png")
            self.assertEqual(QImage(str(self.folder / "x.png")).width(), 1920)
            with mock.patch.object(dialogs, "explain") as explain:
                form.save_to(self.folder / "none" / "x.svg")
            self.assertTrue(explain.called)
            form.deleteLater()
