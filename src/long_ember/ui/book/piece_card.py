"""The card of the chosen piece: name, tags, note, photos, named states, and what can be done with it."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPlainTextEdit, QScrollArea, QVBoxLayout, QWidget

from long_ember.errors import EmberError
from long_ember.storage import Entry
from long_ember.ui.actions.bookwork import BookWork, moment_words
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.thumbnail import thumbnail
from long_ember.ui.widgets.typed import Typed

__all__ = ["PieceCard"]

_WIDE = 330
_THUMB = 72


class PieceCard(QScrollArea):
    """Everything about one piece that is not its shape."""

    photo_shown = Signal(str)

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._session = work, work.session
        self.entry: Entry | None = None
        self.setFixedWidth(_WIDE)
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAcceptDrops(True)
        self.name = QLineEdit()
        self.name.setFont(font(19, 600))
        self.name.setAccessibleName("Name of the piece")
        self._name_typed = Typed(self.name, self._rename, self._left)
        self.told = self._label("", 15)
        self.told.setWordWrap(True)
        self.tags = QLineEdit()
        self.tags.setFont(font(16))
        self.tags.setPlaceholderText("tags, between commas")
        self.tags.setAccessibleName("Tags")
        self._tags_typed = Typed(self.tags, self._tag, self._left)
        self.note = QPlainTextEdit()
        self.note.setFont(font(16))
        self.note.setPlaceholderText("A note: for whom, what to watch, what came out well")
        self.note.setAccessibleName("Note")
        self.note.setTabChangesFocus(True)
        self.note.setFixedHeight(96)
        self._note_typed = Typed(self.note, self._note, self._left)
        self._column = QVBoxLayout()
        self._column.setSpacing(7)
        self._build()
        work.finishing.connect(self.finish)

    def _label(self, text: str, size: int, weight: int = 400, role: str = "muted") -> QLabel:
        label = QLabel(text)
        label.setFont(font(size, weight))
        label.setProperty("role", role)
        return label

    def _build(self) -> None:
        self._inner = QWidget()
        self._inner.setLayout(self._column)
        work = self._work
        self.open_button = worded("Open", lambda: work.open_piece(self._id), "Enter, or a double click on the wall")
        self.open_button.setDefault(True)
        self.copy_button = worded("Duplicate", lambda: work.duplicate(self._id), "A copy beside it on the wall")
        self.variant_button = worded(
            "Variant for another bar…", lambda: work.ask_variant(self._id), "A copy made of another section, its sizes in proportion"
        )
        self.archive_button = worded("Archive", self._archive, "Off the wall, and kept")
        self.trash_button = worded("To the trash", self._trash, "Off the wall; from the trash it comes back until it is removed")
        self.gone_button = worded("Remove for good…", lambda: work.ask_remove(self._id), "With its history and photos")
        self.photo_row = QHBoxLayout()
        self.state_rows = QVBoxLayout()
        self.state_rows.setSpacing(3)
        for widget in (self.name, self.told, self.open_button):
            self._column.addWidget(widget)
        for pair in ((self.copy_button, self.archive_button), (self.variant_button,), (self.trash_button, self.gone_button)):
            row = QHBoxLayout()
            for button in pair:
                row.addWidget(button)
            self._column.addLayout(row)
        self._column.addWidget(self._label("Tags", 15))
        self._column.addWidget(self.tags)
        self._column.addWidget(self._label("Note", 15))
        self._column.addWidget(self.note)
        head = QHBoxLayout()
        head.addWidget(self._label("Photos", 15))
        head.addStretch(1)
        self.photo_button = worded("Add…", lambda: work.ask_photos(self._id), "Or drop pictures on this card")
        head.addWidget(self.photo_button)
        self._column.addLayout(head)
        self._column.addLayout(self.photo_row)
        head = QHBoxLayout()
        head.addWidget(self._label("Named states", 15))
        head.addStretch(1)
        self.state_button = worded("Name…", lambda: work.ask_state(self._id), "Give the present state a name to come back to")
        head.addWidget(self.state_button)
        self._column.addLayout(head)
        self._column.addLayout(self.state_rows)
        self._column.addStretch(1)
        self.setWidget(self._inner)

    @property
    def _id(self) -> str:
        return self.entry.id if self.entry is not None else ""

    def show_entry(self, entry: Entry | None) -> None:
        """Show one piece; what was typed about another one is kept first."""
        if entry is None or self.entry is None or entry.id != self.entry.id:
            self.finish()
        self.entry = entry
        self._inner.setVisible(entry is not None)
        if entry is None:
            return
        library = self._work.library
        self._name_typed.show(entry.name)
        self._tags_typed.show(", ".join(entry.tags))
        parent = library.entry(entry.parent) if entry.parent else None
        told = [f"Changed {moment_words(entry.changed)}"]
        if parent is not None:
            told.insert(0, f"Variant of {parent.name}")
        try:
            piece, _history = library.read(entry.id)
            told.insert(0, f"{piece.bar.label(self._session.measure)}, {piece.steel.title.lower()}; {len(piece.features)} features")
            note = piece.note
        except EmberError as error:
            told.append(str(error))
            note = ""
        if entry.trouble:
            told.append(f"Can't be reckoned: {entry.trouble}. Open it to take back its last step, or write it to a file.")
        self.told.setText("\n".join(told))
        self._note_typed.show(note)
        self.archive_button.setText("Archive" if entry.state == "kept" else "Back on the wall")
        self.trash_button.setVisible(entry.state != "trashed")
        self.gone_button.setVisible(entry.state == "trashed")
        self._show_photos()
        self._show_states()

    def _show_photos(self) -> None:
        emptied(self.photo_row)
        photos = self._work.library.photos(self._id)
        for photo in photos[:12]:
            self.photo_row.addWidget(thumbnail(photo, partial(self._work.show_photo, photo.id), _THUMB))
        if not photos:
            self.photo_row.addWidget(self._label("None yet.", 15))
        self.photo_row.addStretch(1)

    def _show_states(self) -> None:
        emptied(self.state_rows)
        states = self._work.library.revisions(self._id)
        for state in states:
            row = QHBoxLayout()
            name = self._label(state.name, 16, 500, "")
            name.setToolTip(moment_words(state.made))
            row.addWidget(name, 1)
            row.addWidget(
                worded("Compare", partial(self._work.compare, self._id, state.id), f"{state.name}, of {moment_words(state.made)}")
            )
            self.state_rows.addLayout(row)
        if not states:
            words = self._label("None yet. Ctrl+S names the state the piece is in.", 15)
            words.setWordWrap(True)
            self.state_rows.addWidget(words)

    # --- what is typed

    def finish(self) -> None:
        """Whatever is being typed is finished."""
        for typed in (self._name_typed, self._tags_typed, self._note_typed):
            typed.finish()

    def _rename(self, text: str) -> None:
        if self.entry is not None and text.strip():
            self._work.type_text(self._id, "name", text.strip())

    def _tag(self, text: str) -> None:
        if self.entry is not None:
            self._work.set_tags(self._id, tuple(dict.fromkeys(t.strip() for t in text.split(",") if t.strip())), typed=True)

    def _note(self, text: str) -> None:
        if self.entry is not None:
            self._work.type_text(self._id, "note", text)

    def _left(self) -> None:
        """What follows is another step; what is kept is shown as it is kept."""
        self._work.end_typing()
        if self.entry is not None:
            self.show_entry(self._work.library.entry(self._id))

    def _archive(self) -> None:
        if self.entry is not None:
            self._work.set_state(self._id, "archived" if self.entry.state == "kept" else "kept")

    def _trash(self) -> None:
        self._work.set_state(self._id, "trashed")

    # --- photos dropped on it

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped."""
        if event.mimeData().hasUrls() and self.entry is not None:
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Copy them in."""
        self._work.add_photos(self._id, [Path(u.toLocalFile()) for u in event.mimeData().urls() if u.isLocalFile()])
