"""Questions to the person. Qt's own dialogs are loaded with the first one: they take a twentieth of a second."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

__all__ = ["agree", "ask_unkept", "explain", "open_name", "open_names", "save_name"]


def agree(parent: QWidget, title: str, text: str, do: str = "Yes") -> bool:
    """Whether something that can't be taken back may be done; the safe answer is the default."""
    from PySide6.QtWidgets import QMessageBox

    box = QMessageBox(QMessageBox.Icon.Question, title, text, parent=parent)
    wanted = box.addButton(do, QMessageBox.ButtonRole.DestructiveRole)
    safe = box.addButton("Go back", QMessageBox.ButtonRole.RejectRole)
    box.setDefaultButton(safe)
    box.setEscapeButton(safe)
    box.exec()
    return box.clickedButton() is wanted


def ask_unkept(parent: QWidget, trouble: str) -> str:
    """What to do about changes that can't be written now: wait, file or lose."""
    from PySide6.QtWidgets import QMessageBox

    box = QMessageBox(QMessageBox.Icon.Warning, "Not kept yet", f"The last changes are not on disk. {trouble}", parent=parent)
    wait = box.addButton("Go on working", QMessageBox.ButtonRole.RejectRole)
    file = box.addButton("Write them to a file…", QMessageBox.ButtonRole.ActionRole)
    lose = box.addButton("Quit without them", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(wait)
    box.exec()
    return {file: "file", lose: "lose"}.get(box.clickedButton(), "wait")  # type: ignore[call-overload,no-any-return]


def explain(parent: QWidget, title: str, text: str) -> None:
    """Say what went wrong, where, and that nothing is lost."""
    from PySide6.QtWidgets import QMessageBox

    QMessageBox.warning(parent, title, text)


def open_name(parent: QWidget, title: str, folder: Path, kinds: str) -> Path | None:
    """The file to open; None when the person thinks better of it."""
    from PySide6.QtWidgets import QFileDialog

    name, _filter = QFileDialog.getOpenFileName(parent, title, str(folder), kinds)
    return Path(name) if name else None


def open_names(parent: QWidget, title: str, folder: Path, kinds: str) -> list[Path]:
    """The files to open; none when the person thinks better of it."""
    from PySide6.QtWidgets import QFileDialog

    names, _filter = QFileDialog.getOpenFileNames(parent, title, str(folder), kinds)
    return [Path(name) for name in names]


def save_name(parent: QWidget, title: str, start: Path, kinds: str) -> Path | None:
    """Where to save; the kind's ending is added where none was typed. None when the person thinks better of it."""
    from PySide6.QtWidgets import QFileDialog

    name, _filter = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    return path if path.suffix else path.with_suffix(kinds[kinds.index("*") + 1 : kinds.index(")")].split()[0])
