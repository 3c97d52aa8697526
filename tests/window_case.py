"""A real window for a test, and the proof that nothing of it outlives the test."""

import gc
import os
import sqlite3
import sys
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QPointF, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from long_ember.ui import app
from long_ember.ui.app import _fill, make_application, make_window
from long_ember.ui.widgets.entry import ChoiceField, EntryField
from tests.support import threads_left

KEY, LEFT, CTRL, SHIFT = Qt.Key, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


_filled: list[sqlite3.Connection] = []  # the demo book as it is first filled; every further window gets a copy of it


def _fill_again(book):
    if _filled:
        _filled[0].backup(book.connection)
        return
    _fill(book)
    _filled.append(sqlite3.connect(":memory:"))
    book.connection.backup(_filled[0])


def live(ms: int) -> None:
    """Let the window's own loop run for so many ms. QTest.qWait would keep the interpreter to itself, and threads could not work."""
    end = time.monotonic() + ms / 1000
    while True:
        QApplication.processEvents()
        left = end - time.monotonic()
        if left <= 0:
            return
        time.sleep(min(left, 0.002))


class WindowCase(unittest.TestCase):
    """A window on the lantern bracket; fails when a widget, timer or thread outlives the test."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder / "config"), "XDG_DATA_HOME": str(self.folder / "data")})
        patch.start()
        self.addCleanup(patch.stop)
        self.faults: list[str] = []  # Qt prints what a slot raises, and goes on
        hook = mock.patch.object(sys, "excepthook", lambda kind, value, _trace: self.faults.append(f"{kind.__name__}: {value}"))
        hook.start()
        self.addCleanup(hook.stop)
        self.app = make_application(["test"])
        self.threads = threading.active_count()
        with mock.patch.object(app, "_fill", _fill_again):
            self.window = make_window(None, demo=True)
        self.session = self.window.session
        self.window.show()
        self.app.processEvents()

    def tearDown(self):
        asked = []  # a question that nobody answers would stop the tests for ever
        ways = "long_ember.ui.widgets.dialogs.ask_unkept", "long_ember.ui.widgets.dialogs.agree"
        with mock.patch(ways[0], lambda _parent, trouble: asked.append(trouble) or "lose"), mock.patch(ways[1], lambda *_a: True):
            self.window.close()
        self.faults += [f"not kept: {words}" for words in asked]
        self.window.deleteLater()
        self.window = self.session = None
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.app.processEvents()
        gc.collect()
        gc.freeze()  # what is left stays: the next sweep need not look at it
        self.assertEqual(self.faults, [])
        self.assertEqual([w for w in QApplication.topLevelWidgets() if w.isVisible()], [])
        self.assertEqual([t for t in self.app.findChildren(QTimer) if t.isActive()], [])
        self.assertEqual(threads_left(self.threads), self.threads)

    def until(self, ready, seconds: float = 20.0) -> None:
        """Let the window live until something has come about, however busy the machine is."""
        end = time.monotonic() + seconds
        while not ready() and time.monotonic() < end:
            live(2)
        self.assertTrue(ready(), "it never came")

    def events(self) -> None:
        """What the window's own loop does between two keys: events, and what was to be deleted later."""
        self.app.processEvents()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def field(self, name: str) -> EntryField | ChoiceField:
        return next(f for f in self.window.shape.inspector.fields if f.address.name == name)

    def type(self, field: QLineEdit, text: str, *, end: bool = True) -> None:
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        if end:
            QTest.keyClick(field, KEY.Key_Return)
        self.events()

    def choose(self, typed: str, name: str) -> None:
        """Find a piece in the open list by some letters of it, and take it."""
        dialog = self.window.work.dialog
        QTest.keyClicks(dialog.line, typed)
        self.assertEqual(dialog.list.currentItem().text(), name)
        QTest.keyClick(dialog.line, KEY.Key_Return)
        self.events()

    def select(self, index: int) -> None:
        self.session.select(self.session.piece.features[index].id)

    def click(self, widget: QWidget, at: QPointF, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
        QTest.mouseClick(widget, LEFT, modifiers, at.toPoint())
        self.events()
