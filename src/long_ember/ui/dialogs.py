"""Questions to the person; loaded when the first one is asked, since Qt's dialogs take a twentieth of a second to load."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget

__all__ = ["ask_save", "explain", "open_name", "save_name"]


def ask_save(parent: QWidget, name: str) -> str:
    """What to do with changes that are not saved: save, discard or cancel."""
    buttons = QMessageBox.StandardButton
    text = f"{name} has changes that are not saved."
    answer = QMessageBox.question(parent, "Long Ember", text, buttons.Save | buttons.Discard | buttons.Cancel, buttons.Save)
    return {buttons.Save: "save", buttons.Discard: "discard"}.get(answer, "cancel")


def explain(parent: QWidget, title: str, text: str) -> None:
    """Say what went wrong, where, and that nothing is lost."""
    QMessageBox.warning(parent, title, text)


def open_name(parent: QWidget, title: str, folder: Path, kinds: str) -> Path | None:
    """The file to open; None when the person thinks better of it."""
    name, _filter = QFileDialog.getOpenFileName(parent, title, str(folder), kinds)
    return Path(name) if name else None


def save_name(parent: QWidget, title: str, start: Path, kinds: str) -> Path | None:
    """Where to save; the kind's ending is added where none was typed. None when the person thinks better of it."""
    name, _filter = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    return path if path.suffix else path.with_suffix(kinds[kinds.index("*") + 1 : kinds.index(")")].split()[0])
