"""The menus: commands in groups, with a line between them and smaller menus where there are many of a kind."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Qt
from PySide6.QtWidgets import QMainWindow, QMenu

from long_ember.frozen import NamedTuple
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import linked
from long_ember.ui.widgets.commands import Command, Commands

if TYPE_CHECKING:
    from PySide6.QtGui import QAction

__all__ = ["Layout", "Menus", "Small"]


class Small(NamedTuple):
    """A menu within a menu.

    Args:
        title: its words.
        ids: of its commands.
    """

    title: str
    ids: Sequence[str]


Layout = Sequence[tuple[str, Sequence[Sequence[str] | Small]]]  # titles of menus, with groups of the ids of commands


class Menus(QObject):
    """What is in the menu bar, and whether it can be done now.

    Args:
        window: whose menu bar it is.
        run: carries a command out by its id.
    """

    def __init__(self, window: QMainWindow, run: Callable[[str], object]) -> None:
        super().__init__(window)
        self._window, self._run = window, run
        self._commands, self._changing = Commands(()), list[Command]()
        self._layout: Layout = ()
        self._menus: list[QMenu] = []
        self.actions: dict[str, QAction] = {}

    def take(self, commands: Commands, layout: Layout) -> None:
        """Put the titles there; what is in the menus comes with `fill`."""
        self._commands, self._layout = commands, layout
        self._changing = [c for c in commands if c.changes]
        self._window.menuBar().setFont(font(15))
        self._menus = [self._window.menuBar().addMenu(title) for title, _groups in layout]
        find = self.find = linked(  # held here: the menu bar does not
            "Find anything",
            lambda: self._run("help.find"),
            "Ctrl+F: shapes, pieces, jobs, tables, the guide, and everything that can be done",
        )
        find.setProperty("place", "corner")  # no taller than the menus beside it
        find.setMinimumHeight(0)
        find.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the menu bar is reached by its own keys
        self._window.menuBar().setCornerWidget(find)
        find.show()  # the bar is on the screen already

    def fill(self) -> None:
        """Put the commands into the menus, and their keys in force."""
        for menu, (_title, groups) in zip(self._menus, self._layout, strict=True):
            menu.setFont(font(15))
            for i, group in enumerate(groups):
                if i and not (isinstance(group, Small) and isinstance(groups[i - 1], Small)):
                    menu.addSeparator()
                if isinstance(group, Small):
                    inner = menu.addMenu(group.title)
                    inner.setFont(font(15))
                    self._add(inner, group.ids)
                else:
                    self._add(menu, group)
        self.follow()

    def _add(self, menu: QMenu, ids: Iterable[str]) -> None:
        from PySide6.QtGui import QAction, QKeySequence  # menus are filled when the window stands

        menu.setToolTipsVisible(True)
        for identity in ids:
            command = self._commands[identity]
            action = QAction(command.words, self._window)
            if command.keys:
                action.setShortcut(QKeySequence(command.keys))
            action.setToolTip(command.tip)
            action.triggered.connect(partial(self._pressed, identity))
            menu.addAction(action)
            self.actions[identity] = action

    def _pressed(self, command_id: str, _checked: bool = False) -> None:
        self._run(command_id)

    def follow(self) -> None:
        """Words and whether a command can be carried out, as they are now."""
        for command in self._changing if self.actions else ():
            action, words, enabled = self.actions[command.id], command.words, command.enabled()
            if action.text() != words:
                action.setText(words)
            if action.isEnabled() != enabled:
                action.setEnabled(enabled)
