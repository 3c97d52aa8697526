"""A piece from a photo or a scanned drawing: scale, middle line, what comes of it laid over the picture; or the finished piece against the plan."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QBuffer, QIODevice, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QImage, QShowEvent
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.desk.worker import Worker
from long_ember.document import quick_answer
from long_ember.errors import EmberError, fault_words
from long_ember.features import Piece
from long_ember.photos import (
    Grey,
    Ground,
    TracedPiece,
    follow_strip,
    grey_of,
    levelled,
    outlines_on,
    piece_of,
    scaled_by,
    scaled_by_bar,
    strays,
)
from long_ember.sections import Section, parse_section
from long_ember.ui.shape.photo_canvas import PhotoCanvas
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import Line, parse_length

__all__ = ["PhotoPage"]

_REST = 350  # ms after the last point, until it is reckoned
_LARGEST = 60_000_000  # bytes
_PICTURES = "Pictures (*.jpg *.jpeg *.png *.webp *.bmp *.tif *.tiff *.gif)"
_WAYS = {"two": 2, "bar": 2, "rectangle": 4}  # points that a scale is set with


class PhotoPage(QWidget):
    """The picture large at the left; at the right what to do, in the order it is done."""

    closed = Signal()
    made = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._grey: Grey | None = None
        self.result: TracedPiece | None = None
        self._worker: Worker | None = None
        self._soon = QTimer(self, singleShot=True, interval=_REST)
        self._soon.timeout.connect(self.reckon)
        self.canvas = PhotoCanvas(session)
        self.canvas.pressed.connect(self._pressed)
        self.canvas.moved.connect(self._moved)
        self.canvas.taken_back.connect(self._back)
        m = session.measure
        self.way = ChoiceBox(session)
        self.way.addItem("by two points whose distance is known", "two")
        self.way.addItem("by the corners of a sheet of paper or a board", "rectangle")
        self.way.addItem("by the bar: both edges of a stretch as thick as it", "bar")
        self.way.setAccessibleName("How the scale is set")
        self.way.activated.connect(lambda _index: self._rescale())
        self.distance, self.width_, self.height_, self.bar = (QLineEdit() for _ in range(4))
        for entry, name, text in (
            (self.distance, "Distance of the two points", m.edit_text(100.0 if m.unit == "mm" else 101.6)),
            (self.width_, "Width of the rectangle", m.edit_text(297.0 if m.unit == "mm" else 279.4)),
            (self.height_, "Height of the rectangle", m.edit_text(210.0 if m.unit == "mm" else 215.9)),
            (self.bar, "Bar", session.piece.bar.edit_text(m)),
        ):
            entry.setAccessibleName(name)
            entry.setText(text)
            entry.setFont(font(18, 500))
            entry.setMinimumHeight(40)
            entry.textEdited.connect(lambda _text: self._soon.start())
        self._own_bar = False  # typed here; until then it is the one on the bench
        self.bar.textEdited.connect(self._bar_typed)
        self.told = QLabel()
        self.told.setFont(font(17, 500))
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(72)
        self.against = QCheckBox("Hold the piece on the bench against it")
        self.against.setFont(font(16))
        self.against.toggled.connect(lambda _on: self._soon.start())
        self.scale_button = worded("1  Set the scale", lambda: self._step("marks"), "What is pressed now sets the scale")
        self.way_button = worded(
            "2  Follow the middle", lambda: self._step("way"), "What is pressed now lies along the middle of the steel"
        )
        self.make_button = worded("3  Make it", self.make, "Take the piece to the bench", weight=600)
        for button in (self.scale_button, self.way_button):
            button.setCheckable(True)
        self.setAcceptDrops(True)
        self._lay_out()
        self._step("marks")

    def _lay_out(self) -> None:
        side = QVBoxLayout()
        side.setSpacing(8)

        def words(text: str) -> None:
            label = QLabel(text)
            label.setFont(font(15))
            label.setWordWrap(True)
            side.addWidget(label)

        head = QHBoxLayout()
        head.addWidget(worded("Open a picture…", self.ask, "Or drop one here, or paste it"))
        head.addWidget(worded("Back to the piece", self.closed.emit, "Nothing is made of the picture"))
        side.addLayout(head)
        side.addWidget(self.scale_button)
        side.addWidget(self.way)
        side.addWidget(self.distance)
        sizes = QHBoxLayout()
        sizes.addWidget(self.width_)
        sizes.addWidget(self.height_)
        side.addLayout(sizes)
        side.addWidget(self.way_button)
        words("Bar, about as thick as the steel in the picture")
        side.addWidget(self.bar)
        back = QHBoxLayout()
        back.addWidget(worded("Take the last point back", self._back, "Backspace on the picture"))
        back.addWidget(worded("Begin the line anew", self._anew, "The scale stays"))
        side.addLayout(back)
        side.addWidget(self.told)
        side.addStretch(1)
        side.addWidget(self.against)
        side.addWidget(self.make_button)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(390)
        row = QHBoxLayout(self)
        row.setContentsMargins(12, 8, 12, 10)
        row.addWidget(self.canvas, 1)
        row.addWidget(holder)

    # --- the picture

    def ask(self) -> None:
        """Ask for a picture."""
        path = dialogs.open_name(self.window(), "Photo or drawing", Path.home(), _PICTURES)
        if path is not None:
            self.open_file(path)

    def open_file(self, path: Path) -> None:
        """Take a picture from a file; one that can't be read is explained."""
        try:
            with path.open("rb") as file:
                content = file.read(_LARGEST + 1)
            if len(content) > _LARGEST:
                raise EmberError(f"{path.name} is larger than {_LARGEST // 1_000_000} MB.")
            self.show_grey(grey_of(content))
        except OSError as error:
            self._say(f"! {path.name}: {error.strerror or error}")
        except EmberError as error:
            self._say(f"! {path.name}: {error}")

    def open_image(self, image: QImage) -> None:
        """Take a picture from the clipboard."""
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        image.save(buffer, "PNG")  # type: ignore[call-overload]
        try:
            self.show_grey(grey_of(bytes(buffer.data().data())))
        except EmberError as error:
            self._say(f"! {error}")

    def show_grey(self, grey: Grey) -> None:
        """Another picture: nothing is pressed on it yet."""
        self._grey, self.result = grey, None
        self.canvas.show_picture(grey)
        self._step("marks")

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Pictures may be dropped."""
        if event.mimeData().hasImage() or any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Only what lies on this machine is read."""
        files = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        if files:
            self.open_file(files[0])
        elif event.mimeData().hasImage():
            self.open_image(QImage(event.mimeData().imageData()))

    def showEvent(self, event: QShowEvent) -> None:
        """The piece on the bench may be of another bar by now."""
        super().showEvent(event)
        if not self._own_bar:
            self.bar.setText(self._session.piece.bar.edit_text(self._session.measure))

    def _bar_typed(self, _text: str) -> None:
        self._own_bar = True

    # --- points

    def _step(self, which: str) -> None:
        self.canvas.moving = which
        self.scale_button.setChecked(which == "marks")
        self.way_button.setChecked(which == "way")
        rectangle = self.way.currentData() == "rectangle"
        self.distance.setVisible(self.way.currentData() == "two")
        self.width_.setVisible(rectangle)
        self.height_.setVisible(rectangle)
        self.reckon()

    def _rescale(self) -> None:
        self.canvas.marks = []
        self._step("marks")

    def _pressed(self, x: float, y: float) -> None:
        needed = _WAYS[self.way.currentData()]
        if self.canvas.moving == "marks" and len(self.canvas.marks) >= needed:
            self.canvas.marks = []
        self.canvas.points.append((x, y))
        if self.canvas.moving == "marks" and len(self.canvas.marks) == needed:
            self._step("way")  # the scale is set: what comes next is the line
        self.canvas.update()
        self._soon.start()

    def _moved(self, at: int, x: float, y: float) -> None:
        self.canvas.points[at] = (x, y)
        self.canvas.update()
        self._soon.start()

    def _back(self) -> None:
        if self.canvas.points:
            self.canvas.points.pop()
            self.canvas.update()
            self._soon.start()

    def _anew(self) -> None:
        self.canvas.way = []
        self._step("way")

    # --- what comes of it

    def ground(self) -> Ground:
        """The scale as it is set.

        Raises:
            EmberError: it is not set yet, with what to do.
        """
        m, marks = self._session.measure, self.canvas.marks
        if self.way.currentData() == "rectangle":
            if len(marks) < 4:
                raise EmberError(f"Press the four corners of the rectangle in turn, the first two along its width; {len(marks)} of 4.")
            return levelled(np.array(marks), *(parse_length(e.text(), unit=m.unit) for e in (self.width_, self.height_)))
        if self.way.currentData() == "bar" and self._grey is not None:
            if len(marks) < 2:
                raise EmberError(
                    f"Press the two edges of the steel, straight across, where it is as thick as the bar typed below; {len(marks)} of 2."
                )
            return scaled_by_bar(self._grey, marks[0], marks[1], parse_section(self.bar.text(), unit=m.unit).thickness)
        if len(marks) < 2:
            raise EmberError(f"Press two points whose distance you know; {len(marks)} of 2.")
        return scaled_by(marks[0], marks[1], parse_length(self.distance.text(), unit=m.unit))

    def reckon(self) -> None:
        """Follow the strip and fit a piece to it, in the background."""
        self._soon.stop()
        if self._worker is not None:
            self._worker.leave()
        self.result, self.canvas.line, self.canvas.outlines = None, None, ()
        self.make_button.setEnabled(False)
        self.canvas.update()
        if self._grey is None:
            self._say(
                "Open a picture of the piece, taken from above: a photo, or a drawing. Put a sheet of paper beside it when you take it at an angle."
            )
            return
        try:
            ground, bar = self.ground(), parse_section(self.bar.text(), unit=self._session.measure.unit)
        except EmberError as error:
            self._say(str(error))
            return
        if len(self.canvas.way) < 2:
            self._say("Press points along the middle of the steel, from one end to the other; closer together where it is bent.")
            return
        self._say("Following the steel…")
        self._worker = Worker(self._session.loop, self._following(self._grey, ground, bar))
        self._worker.ended.connect(self._ended)
        self._worker.start()

    def _following(self, grey: Grey, ground: Ground, bar: Section) -> Callable[[Worker], object]:
        way = np.array(self.canvas.way)
        base = replace(self._session.shop.new_piece(), bar=bar)
        plan = self._session.piece if self.against.isChecked() and self._session.piece.features else None

        def read(worker: Worker) -> object:
            strip = follow_strip(grey, ground, way, bar.thickness)
            middle = np.array([p.middle for p in strip])
            worker.step()
            found = piece_of(strip, base) if plan is None else TracedPiece(plan, *strays(plan, middle), 0.0)
            outlines = [ground.pixels(o) for o in outlines_on(found.piece, middle)]
            cut = quick_answer(found.piece, ruler=self._session.shop.division, forge=self._session.forge).reckoning.cut_line()
            worker.step()
            return found, ground.pixels(middle), outlines, cut, plan is not None

        return read

    def _ended(self, made: tuple[TracedPiece, Array, list[Array], Line, bool] | None, error: Exception | None) -> None:
        if error is not None:
            self._say(f"! {error}" if isinstance(error, EmberError) else f"! {fault_words(error)}")
        if made is None:  # more was pressed since
            return
        found, line, outlines, cut, planned = made
        m = self._session.measure
        self.canvas.line, self.canvas.outlines = line, outlines
        self.canvas.update()
        off = f"It strays at most {m.length(found.most)} from the middle of the steel, {m.length(found.mean)} on the whole."
        if planned:
            self._say(f"{found.piece.name} as planned, laid on the picture. {off}")
            return
        self.result = found
        self.make_button.setEnabled(True)
        thick = (
            f" The steel is about {m.length(found.thickness)} thick there."
            if found.thickness
            else " No clear edges: the points alone count."
        )
        self._say(f"{', '.join(_counted(found.piece))}. {off}{thick} {cut.show(m)}.")

    def make(self) -> None:
        """Take the piece to the bench."""
        if self.result is not None:
            self.made.emit(self.result.piece)

    def _say(self, words: str) -> None:
        self.told.setText(words)


def _counted(piece: Piece) -> list[str]:
    """Its features in a few words, alike ones together."""
    titles = [f.title.lower() for f in (*piece.features, *(s.feature for s in piece.standing))]
    return [t if titles.count(t) == 1 else f"{titles.count(t)} {t}s" for t in dict.fromkeys(titles)]
