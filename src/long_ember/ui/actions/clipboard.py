"""A piece, or features of it, as a line in the clipboard; and back from any message."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from PySide6.QtGui import QGuiApplication

from long_ember.desk.session import Session
from long_ember.document import Edit, put_in
from long_ember.errors import EmberError
from long_ember.features import Piece

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

__all__ = ["copy_chosen", "copy_line", "paste"]


def copy_line(session: Session) -> None:
    """The whole piece."""
    from long_ember.shorthand import write_line  # loaded with the first line

    _copy(session, write_line(session.piece, session.measure))


def copy_chosen(session: Session) -> None:
    """The chosen features, with what stands on them."""
    from long_ember.shorthand import write_features  # loaded with the first line

    line = write_features(session.piece, session.chosen, session.measure)
    if line:
        _copy(session, line)


def _copy(session: Session, line: str) -> None:
    QGuiApplication.clipboard().setText(line)
    shown = line if len(line) < 90 else f"{line[:88]}…"
    session.said.emit(f"Copied: {shown}", False)


def paste(session: Session, shown: Callable[[QImage], object]) -> None:
    """What the clipboard holds: into an empty piece the whole of it, else its features behind the chosen one.

    Args:
        session: with the piece.
        shown: takes a picture, to be followed.
    """
    clipboard = QGuiApplication.clipboard()
    if clipboard.mimeData().hasImage():
        shown(clipboard.image())
        return
    text = clipboard.text()
    if not text.strip():
        session.said.emit("The clipboard holds no text. Copy a feature, or a piece as a line, first.", True)
        return
    from long_ember.shorthand import read_any_line  # loaded with the first line
    from long_ember.storage import starts

    piece = session.piece
    try:
        found = read_any_line(text, session.measure, replace(piece, features=(), standing=()), starts()).piece
        if not found.features:
            raise EmberError("The line holds no feature.")
        edit = Edit("Paste the piece", piece, found, found.features[0].id) if not piece.features else _inserted(session, piece, found)
        session.apply(edit)
    except EmberError as error:
        session.said.emit(f"Nothing was pasted: {error}", True)


def _inserted(session: Session, piece: Piece, found: Piece) -> Edit:
    at = piece.index(session.selection)
    return put_in(piece, at + 1 if at >= 0 else len(piece.features), found.features, found.standing)
