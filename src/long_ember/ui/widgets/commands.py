"""Commands as data, without Qt: id, words, keys, when they are enabled, what they do."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from long_ember.frozen import dataclass

__all__ = ["Command", "Commands"]


def _always() -> bool:
    return True


@dataclass(frozen=True)
class Command:
    """One command.

    Args:
        id: dotted, the part before the dot is its menu.
        title: words, or a function that gives them where they change (`Undo change length`).
        run: what it does.
        keys: shortcut in portable words, "" for none.
        enabled: whether it can be carried out now; asked again on execution.
        tip: one sentence.
    """

    id: str
    title: str | Callable[[], str]
    run: Callable[[], object]
    keys: str = ""
    enabled: Callable[[], bool] = _always
    tip: str = ""

    @property
    def changes(self) -> bool:
        """Its words or whether it can be carried out depend on what is on the bench."""
        return callable(self.title) or self.enabled is not _always

    @property
    def words(self) -> str:
        """The title as it reads now."""
        return self.title if isinstance(self.title, str) else self.title()


class Commands:
    """All commands of the window, in menu order. Two with the same id or keys are an error."""

    def __init__(self, commands: Iterable[Command]) -> None:
        self._by_id: dict[str, Command] = {}
        keys: set[str] = set()
        for command in commands:
            if command.id in self._by_id or (command.keys and command.keys in keys):
                raise ValueError(f"command {command.id} or its keys {command.keys!r} are taken")
            self._by_id[command.id] = command
            keys.add(command.keys)

    def __iter__(self) -> Iterator[Command]:
        return iter(self._by_id.values())

    def __getitem__(self, command_id: str) -> Command:
        return self._by_id[command_id]

    def run(self, command_id: str) -> bool:
        """Carry a command out if it is enabled; tells whether it was."""
        command = self._by_id[command_id]
        if not command.enabled():
            return False
        command.run()
        return True
