"""Begin a piece: by its picture and a few sizes, or as one written line; drawn while it is typed."""

from __future__ import annotations

import html
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QFocusEvent, QHideEvent, QKeyEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from long_ember.desk.library import Library
from long_ember.desk.session import Session
from long_ember.document import quick_answer
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Piece
from long_ember.fields import Length, Number
from long_ember.geometry import piece_figure
from long_ember.records import FAMILIES, RackItem, Start, StartSize
from long_ember.sections import Section, parse_section
from long_ember.shorthand import (
    BarFit,
    ShorthandError,
    Written,
    asked,
    completions,
    found_starts,
    names_start,
    piece_fit,
    proposed_bar,
    proposed_words,
    read_any_line,
    read_line,
    settled,
    start_fits,
    start_words,
    started,
    write_line,
)
from long_ember.storage import starts
from long_ember.ui.drawing.paint import View, paint_figure
from long_ember.ui.drawing.picture_wall import Hung, PictureWall
from long_ember.ui.shape.start_pictures import StartPictures
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.sight import TabsInSight
from long_ember.units import Measure

__all__ = ["Begin"]

_REST = 300  # ms after which a bar is fitted, and the cut length reckoned
_EXAMPLE = "12 sq: taper 90 to 3, run 60, hook 40"
_PIECES = 200  # of the book that are looked through for a bar
_WORDS = 8  # that are proposed beside the line
_SIZE, _BARE = Length("Size", open_low=True), Number("Number", low=0.0, high=1e4, open_low=True)


class _Picture(QWidget):
    """The piece as it would be, as large as there is room."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.piece: Piece | None = None
        self._figure: object = None
        self.setMinimumSize(QSize(240, 110))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("The piece as it would be")

    def show_piece(self, piece: Piece | None) -> None:
        """Draw a piece; the one before stays where this one can't be drawn."""
        try:
            self._figure = piece_figure(piece) if piece is not None and piece.features else None
            self.piece = piece
        except EmberError:
            return
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Its figure in the middle."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("paper"))
        if self._figure is not None:
            figure = self._figure
            paint_figure(painter, figure, View.fitting(figure.bounds, QRectF(self.rect()).adjusted(24, 24, -24, -24), most=8.0), theme)  # type: ignore[arg-type, attr-defined]


class _Sized(QLineEdit):
    """One size that is asked; Enter goes to the next."""

    entered = Signal()

    def __init__(self, title: str, read: Callable[[str], object], text: str) -> None:
        super().__init__(text)
        self._read = read
        self.value: object = read(text)
        self.fault = ""
        self.setFont(font(20, 500))
        self.setMinimumHeight(44)
        self.setAccessibleName(title)
        self.textEdited.connect(self._typed)

    def _typed(self, text: str) -> None:
        try:
            self.value, self.fault = self._read(text), ""
        except EmberError as error:
            self.fault = str(error)

    def put(self, text: str, value: object) -> None:
        """A value that was not typed."""
        self.setText(text)
        self.value, self.fault = value, ""

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Typing replaces what is there."""
        super().focusInEvent(event)
        self.selectAll()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter goes on."""
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.entered.emit()
        else:
            super().keyPressEvent(event)


class _Line(QLineEdit):
    """What is looked for, or the whole piece."""

    down = Signal()
    completed = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.proposal = ""  # for the word that is half typed

    def event(self, event: QEvent) -> bool:
        """Tab finishes a word that is half typed; where none is, it goes on as everywhere."""
        tab = isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and event.key() == Qt.Key.Key_Tab
        if tab and self.proposal and self.cursorPosition() == len(self.text()):
            self.completed.emit(self.proposal)
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Down goes to the pictures."""
        if event.key() == Qt.Key.Key_Down:
            self.down.emit()
        else:
            super().keyPressEvent(event)


def _half_typed(word: str, text: str) -> int:
    """How many letters of a word stand at the end of a text."""
    return next((n for n in range(min(len(word), len(text)), 0, -1) if text.lower().endswith(word[:n].lower())), 0)


class Begin(QWidget):
    """One line on top: a word finds starts by picture, a number begins a piece written out. What would come of it stands at the right."""

    closed = Signal()
    made = Signal(object, bool)
    pictured = Signal(object)
    taken_out = Signal(str)

    def __init__(self, session: Session, library: Library) -> None:
        super().__init__()
        self._session, self._library = session, library
        self._fits: dict[str, BarFit] = {}
        self._search: Iterator[tuple[str, BarFit] | None] | None = None
        self._turn = QTimer(self, interval=0)
        self._turn.timeout.connect(self._fit_on)
        self._known: dict[str, Start] = {}
        self._start: Start | None = None
        self._measure = session.measure
        self._written: Written | None = None
        self._replaces = False
        self._kept = ""  # what is told of a fit, and stays when the cut length is reckoned
        self._rest = QTimer(self, singleShot=True, interval=_REST)
        self._rest.timeout.connect(self._settle)
        self._pictures = StartPictures(session, self._pictured)
        self.title = QLabel()
        self.title.setFont(font(24, 600))
        self.line = _Line()
        self.line.completed.connect(self._complete)
        self.line.setFont(font(20, 500))
        self.line.setMinimumHeight(48)
        self.line.setAccessibleName("A word to find a start, or the piece as a line")
        self.line.setPlaceholderText(f"hook, leaf, ring…   or   {_EXAMPLE}")
        self.line.setClearButtonEnabled(True)
        self.line.textChanged.connect(self._typed)
        self.line.returnPressed.connect(self._entered)
        self.wall: PictureWall = PictureWall(
            session, self._pictures.paint, "No start goes by that name. Take an empty bar, or write the piece as a line.", (236, 140)
        )
        self.line.down.connect(self.wall.setFocus)
        self.wall.setAccessibleName("Starts")
        self._pictures.ready.connect(self.wall.update)
        self.wall.pointed.connect(self._show_start)
        self.wall.chosen.connect(self._chosen)
        self.picture = _Picture(session)
        self.name, self.whole, self.told, self.fault = QLabel(), QLabel(), QLabel(), QLabel()
        self.name.setFont(font(20, 600))
        self.whole.setTextFormat(Qt.TextFormat.RichText)
        for label, size in ((self.whole, 19), (self.told, 16), (self.fault, 16)):
            label.setFont(font(size))
            label.setWordWrap(True)
        self.told.setMinimumHeight(48)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.fault.setProperty("role", "fault")
        self.sizes: dict[str, _Sized] = {}
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(14)
        self._words = QHBoxLayout()
        self.make_button = worded("Make it", self.make, "Enter; the piece goes to the bench", weight=600)
        self.make_button.setFont(font(20, 600))
        self.make_button.setMinimumHeight(52)
        self._lay_out()
        self.setAcceptDrops(True)
        session.refreshed.connect(self._stale)

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        head.addWidget(self.title)
        head.addSpacing(16)
        head.addWidget(self.line, 1)
        self.rack = ChoiceBox(self._session)
        self.rack.setFont(font(16))
        self.rack.setMinimumHeight(40)
        self.rack.setMinimumWidth(210)
        self.rack.setAccessibleName("What can be made of a bar on the rack")
        self.rack.activated.connect(self._of_rack)
        head.addWidget(self.rack)
        self.empty_button = worded("Empty bar", partial(self.made.emit, None, False), "Begin with nothing on it")
        head.addWidget(self.empty_button)
        head.addWidget(worded("Back to the piece", self.closed.emit, "Escape; the piece on the bench stays as it is"))
        self._area = QScrollArea()
        self._area.setWidget(self.wall)
        self._area.setWidgetResizable(True)
        self._area.setFrameShape(QScrollArea.Shape.NoFrame)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        side = QVBoxLayout()
        side.addWidget(self.name)
        side.addWidget(self.whole)
        side.addWidget(self.picture, 1)
        side.addLayout(self._words)
        side.addWidget(self.fault)
        side.addWidget(self.told)
        side.addLayout(self._grid)
        self.out_button = worded("Take this start out", self._take_out, "It is one of your own; Undo in the Book brings it back")
        last = QHBoxLayout()
        last.addWidget(self.out_button)
        last.addStretch(1)
        last.addWidget(self.make_button)
        side.addLayout(last)
        page = QHBoxLayout()
        page.setSpacing(18)
        page.addWidget(self._area, 5)
        page.addLayout(side, 6)
        TabsInSight(self)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 16, 10)
        column.addLayout(head)
        column.addLayout(page, 1)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """A picture, or words, may be dropped."""
        if event.mimeData().hasText() or any(u.isLocalFile() for u in event.mimeData().urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """A picture is followed, words are read as a line."""
        files = [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()]
        if files:
            self.pictured.emit(files[0])
        else:
            self.line.setText(" ".join(event.mimeData().text().split()))

    # --- opened

    def open_new(self) -> None:
        """Begin another piece."""
        self._open("Begin", False, "")

    def open_line(self) -> None:
        """The piece on the bench as a line, to be changed."""
        piece = self._session.piece
        self._open("As a line", True, write_line(piece, self._session.measure) if piece.features else "")

    def _open(self, title: str, replaces: bool, text: str) -> None:
        self._replaces = replaces
        self.title.setText(title)
        self._measure = self._session.measure
        self.empty_button.setVisible(not replaces)
        own = self._library.records(Start)
        self.rack.clear()
        self.rack.addItem("Of a bar on the rack…", None)
        for item in self._library.records(RackItem).values():
            self.rack.addItem(f"{item.section.label(self._session.measure)}, {self._session.measure.length(item.length)}", item)
        self.rack.setVisible(not replaces and self.rack.count() > 1)
        self._known = {f"own/{i}": s for i, s in own.items()} | {f"ours/{i}": s for i, s in enumerate(starts())}
        self._start = None
        self.line.setText(text)
        self._typed(text)
        self.line.selectAll()
        self.line.setFocus()

    @property
    def writing(self) -> bool:
        """The line is a piece, not a word that is looked for."""
        text = self.line.text().strip()
        said = text[:1].isdigit() or any(c in text for c in ':"½¼¾⅜⅛')
        return self._replaces or said or names_start(text, self._known.values())

    # --- typed

    def _typed(self, text: str) -> None:
        self._rest.stop()
        self._turn.stop()
        self._search, self._fits = None, {}
        self.fault.clear()
        writing = self.writing and bool(text.strip() or self._replaces)
        bar = self._bare_bar(text) if writing and not self._replaces else None
        self._area.setVisible(not writing or bar is not None)
        self.whole.setVisible(writing and bar is None)
        self.name.setVisible(not writing or bar is not None)
        if bar is not None:
            self._begin_fits(*bar)
        elif writing:
            self._read(text)
        else:
            self._find(text)
        emptied(self._words)
        self.line.proposal = ""
        if writing and bar is None:
            words = completions(text, self._session.measure, self._base(), start_words(self._known.values()))[:_WORDS]
            if words and (half := _half_typed(words[0], text)) and half < len(words[0]):
                self.line.proposal = words[0]
            for word in words:
                button = worded(word, partial(self._complete, word))
                button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                self._words.addWidget(button)
        self._words.addStretch(1)

    def _find(self, text: str) -> None:
        families = dict(FAMILIES)
        found = found_starts(text, self._known.values())
        keys = {id(s): key for key, s in self._known.items()}
        self.wall.hang([Hung(keys[id(s)], s.name, families[s.family]) for s in found])
        self._show_start(self.wall.current)

    def _read(self, text: str) -> None:
        self._start = None
        self._ask(None)
        self.name.setText("")
        self.told.clear()
        try:
            self._written = read_any_line(text, self._session.measure, self._base(), self._known.values())
        except EmberError as error:
            self._written = None
            self.fault.setText(f"! {error}" if text.strip() else "")
            self.whole.setText(self._marked(text, error))
            self.picture.show_piece(self._so_far(text, error))
        else:
            started = not self._written.places  # a start: what its name and sizes stand for
            self.whole.setText(html.escape(write_line(self._written.piece, self._session.measure) if started else text))
        self._show_written()

    def _so_far(self, text: str, error: EmberError) -> Piece | None:
        """What the line says before the word that could not be read."""
        at = max(text.rfind(sign, 0, error.position) for sign in ",;") if isinstance(error, ShorthandError) else -1
        try:
            return read_line(text[:at], self._session.measure, self._base()).piece if at > 0 else None
        except EmberError:
            return None

    def _marked(self, text: str, error: EmberError) -> str:
        """The whole line, the word that could not be read struck under."""
        if not isinstance(error, ShorthandError):
            return html.escape(text)
        at, end = error.position, error.position + error.span
        colour = theme_of(self._session).fault
        word = html.escape(text[at:end]) or "&nbsp;&nbsp;"
        return f"{html.escape(text[:at])}<span style='color:{colour}; font-weight:600; text-decoration:underline'>{word}</span>{html.escape(text[end:])}"

    # --- what fits a bar

    def _of_rack(self, index: int) -> None:
        """Ask what can be made of a bar on the rack."""
        item, m = self.rack.itemData(index), self._session.measure
        if item is not None:
            self.line.setText(f"{item.section.edit_text(m)} x {m.edit_text(item.length)}")
            self.line.setFocus()

    def _bare_bar(self, text: str) -> tuple[Section, float] | None:
        """A bar and its length, and nothing that is made of it yet."""
        try:
            written = read_line(text, self._session.measure, self._session.shop.new_piece())
        except EmberError:
            return None
        bare = written.bar is not None and not written.piece.features and ":" not in text
        return (written.piece.bar, written.bar) if bare and written.bar is not None else None

    def _begin_fits(self, bar: Section, length: float) -> None:
        m = self._session.measure
        self._pictures.forget_pieces()
        self.wall.hang(())
        self._show_start("")
        self.name.setText(f"What can be made of {m.length(length)} of {bar.label(m)}?")
        self._search = self._fits_of(bar, length)
        self._turn.start()

    def _fits_of(self, bar: Section, length: float) -> Iterator[tuple[str, BarFit] | None]:
        session = self._session
        ruler, forge = session.shop.division, session.forge
        keys = {id(s): key for key, s in self._known.items()}
        for found in start_fits(self._known.values(), session.shop.new_piece(), bar, length, session.measure, ruler=ruler, forge=forge):
            yield None if found is None else (keys[id(found[0])], found[1])
        for entry in [e for e in self._library.entries if e.state == "kept"][:_PIECES]:
            try:
                piece = self._library.reader().piece(entry.id)
                fit = yield from piece_fit(piece, bar, length, ruler=ruler, forge=forge)
            except EmberError:
                continue
            if fit is not None:
                yield f"piece/{entry.id}", fit

    def _fit_on(self) -> None:
        """One reckoning after the other, the window goes on between them."""
        try:
            found = next(self._search) if self._search is not None else None
        except StopIteration:
            self._search = None
            self._turn.stop()
            if not self._fits:
                self.name.setText("No start, and no piece of the book, fits that bar.")
            return
        if found is not None:
            key, fit = found
            self._fits[key] = fit
            m, at = self._session.measure, self.wall.at
            self.wall.hang([Hung(k, f.piece.name, f"{f.label} {m.length(f.size)}") for k, f in self._fits.items()])
            self.wall.at = at
            if len(self._fits) == 1:
                self._show_fit(key)

    def _show_fit(self, key: str) -> None:
        fit, m = self._fits[key], self._session.measure
        start = self._known.get(key)
        if start is not None:
            self._start = start
            self._ask(start)
            self.sizes["bar"].put(fit.piece.bar.edit_text(m), fit.piece.bar)
            for size in start.sizes:
                value = fit.values[size.key]
                self.sizes[size.key].put(m.edit_text(value) if size.sort == "length" else m.number(value), value)
            self._try_start()
        else:
            self._start = None
            self._ask(None)
            self._written = Written(fit.piece, (), None, None, {})
            self._show_written()
        self.name.setText(start.name if start is not None else fit.piece.name)
        self._kept = f"{fit.label} comes to {m.length(fit.size)}; {m.length(fit.left)} of the bar are left."
        self.told.setText(self._kept)

    def _base(self) -> Piece:
        return self._session.piece if self._replaces else self._session.shop.new_piece()

    def _complete(self, word: str) -> None:
        """Put a proposed word in the place of its beginning."""
        text = self.line.text()
        self.line.setText(f"{text[: len(text) - _half_typed(word, text)]}{word} ")
        self.line.setFocus()

    # --- a start

    def _show_start(self, key: str) -> None:
        if key in self._fits:
            self._show_fit(key)
            return
        start = self._known.get(key)
        if start is self._start and start is not None:
            return
        self._start = start
        self._ask(start)
        self.name.setText(start.name if start is not None else "")
        self._try_start()

    def _take_out(self) -> None:
        """A start of one's own leaves the book."""
        key = next((k for k, s in self._known.items() if s is self._start), "")
        if key.startswith("own/"):
            self.taken_out.emit(key.removeprefix("own/"))
            self._open(self.title.text(), self._replaces, self.line.text())

    def _ask(self, start: Start | None) -> None:
        """Entries for the sizes that a start asks, the bar first."""
        self.out_button.setVisible(any(s is start and k.startswith("own/") for k, s in self._known.items()))
        if any(e.hasFocus() for e in self.sizes.values()):
            self.line.setFocus()
        emptied(self._grid)
        self.sizes = {}
        if start is None:
            return
        m = self._session.measure
        bar = proposed_bar(start, m)
        self._entry(0, "bar", "Bar", lambda text: parse_section(text, unit=m.unit), bar.edit_text(m))
        for i, size in enumerate(start.sizes, 1):
            self._entry(i, size.key, size.label, partial(_read_size, size, m), _size_text(size, m))

    def _entry(self, at: int, key: str, label: str, read: Callable[[str], object], text: str) -> None:
        name = QLabel(label)
        name.setFont(font(15))
        entry = self.sizes[key] = _Sized(label, read, text)
        name.setBuddy(entry)
        row, column = divmod(at, 3)
        self._grid.addWidget(name, 2 * row, column)
        self._grid.addWidget(entry, 2 * row + 1, column)
        entry.textEdited.connect(self._try_start)
        entry.entered.connect(partial(self._next, key))

    def _next(self, key: str) -> None:
        keys = list(self.sizes)
        at = keys.index(key) + 1
        if at < len(keys):
            self.sizes[keys[at]].setFocus()
        else:
            self.make()

    def _try_start(self, _text: str = "") -> None:
        """The piece of the sizes as they are, or why there is none."""
        self._rest.stop()
        self.fault.clear()
        self.told.clear()
        self._written = None
        start = self._start
        faults = [f"{e.accessibleName()}: {e.fault}" for e in self.sizes.values() if e.fault]
        if start is not None and not faults:
            bar = self.sizes["bar"].value
            assert isinstance(bar, Section)
            values = {key: float(e.value) for key, e in self.sizes.items() if key != "bar"}  # type: ignore[arg-type]
            try:
                self._written = started(start, self._session.shop.new_piece(), bar, values, self._session.measure)
            except EmberError as error:
                faults = [str(error)]
        self.fault.setText(f"! {faults[0]}" if faults else "")
        self._show_written()

    # --- what comes of it

    def _show_written(self) -> None:
        written = self._written
        self.make_button.setEnabled(written is not None and bool(written.piece.features))
        if written is not None:
            self.picture.show_piece(written.piece)
        if written is not None:
            open_ = proposed_words(written, self._session.measure)
            self._kept = f"Proposed: {'; '.join(open_)}." if open_ else ""
            self.told.setText(self._kept)
            self._rest.start()

    def _settle(self) -> None:
        """When the hands rest: the size that floats, and the cut length."""
        written, m = self._written, self._session.measure
        if written is None or not written.piece.features:
            return
        try:
            piece = self._finished(written)
        except NoAnswer as error:
            self.fault.setText(f"! {error}")
            return
        self.picture.show_piece(piece)
        r = quick_answer(piece, ruler=self._session.shop.division, forge=self._session.forge).reckoning
        said = [f"{r.cut_line().show(m)}."]
        if written.bar is not None and written.floating is not None:
            feature = piece.feature(written.floating[0])
            size = float(getattr(feature, written.floating[1]))
            said.append(
                f"{feature.title if feature else ''} comes to {m.length(size)}, so that a bar of {m.length(written.bar)} is used just so."
            )
        elif written.bar is not None:
            over = written.bar - r.cut
            said.append(
                f"Of a bar of {m.length(written.bar)} {m.length(abs(over))} {'are left' if over >= 0 else 'are missing'}: put ? in the place of a size that may follow."
            )
        self.told.setText(" ".join([*said, *([self._kept] if self._kept else [])]))

    def _finished(self, written: Written) -> Piece:
        return settled(written, ruler=self._session.shop.division, forge=self._session.forge)

    def _entered(self) -> None:
        """Enter in the line: a piece that is written is made; of starts the first is taken, and its sizes asked."""
        if self._fits:
            self._chosen(self.wall.current)
        elif self.writing and self.line.text().strip():
            self.make()
        elif not self.line.text().strip() and self._start is self._known.get(self.wall.current) and not self._replaces:
            self.made.emit(None, False)
        elif self._start is not None:
            self._chosen(self.wall.current)

    def _chosen(self, key: str) -> None:
        self._show_start(key)
        if self.sizes:
            next(iter(self.sizes.values())).setFocus()
        elif self._fits:
            self.make_button.setFocus()

    def make(self) -> None:
        """Take the piece as it is shown to the bench."""
        if self._written is None or not self._written.piece.features:
            return
        try:
            piece = self._finished(self._written)
        except NoAnswer as error:
            self.fault.setText(f"! {error}")
            return
        self.made.emit(piece, self._replaces)

    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody looks: nothing is sought."""
        super().hideEvent(event)
        if not event.spontaneous():  # the window out of sight comes back as it was
            self._turn.stop()
            self._rest.stop()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape goes back."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)

    def _pictured(self, key: str) -> Start | Piece | None:
        fit = self._fits.get(key)
        return fit.piece if fit is not None else self._known.get(key)

    def _stale(self) -> None:
        """Units changed behind it: what is asked is asked anew."""
        if self._measure != self._session.measure:
            self._measure = self._session.measure
            if self.isVisible() and self._start is not None:
                self._ask(self._start)
                self._try_start()


def _read_size(size: StartSize, measure: Measure, text: str) -> float:
    spec = _SIZE if size.sort == "length" else _BARE
    return float(spec.read(text, measure))


def _size_text(size: StartSize, measure: Measure) -> str:
    value = asked(size, measure)
    return measure.edit_text(value) if size.sort == "length" else measure.number(value)
