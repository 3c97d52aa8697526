"""Immutable data classes whose code is made when the first of them is: making it for all took a fifth of the start.

To whoever reads or checks the program this is `dataclasses.dataclass`: fields, `replace`, `__post_init__` and the error on setting an attribute are
the library's own. Only `__init__` is compiled late, and comparing, hashing and showing need no code of their own.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from operator import attrgetter
from typing import TYPE_CHECKING, Any, ClassVar

__all__ = ["dataclass"]

if TYPE_CHECKING:
    from dataclasses import dataclass
else:

    def dataclass(cls: type | None = None, /, *, frozen: bool = False, slots: bool = False, kw_only: bool = False, eq: bool = True,
                  **more: Any) -> Any:  # fmt: skip
        """As `dataclasses.dataclass`; what is not frozen, or ordered, is left to it."""

        def made(cls: type) -> type:
            if not frozen or more:
                return dataclasses.dataclass(frozen=frozen, slots=slots, kw_only=kw_only, eq=eq, **more)(cls)
            own = dict(cls.__dict__)
            words = own.get("__annotations__", {})
            # The library searches annotations that are text with regular expressions; all it wants to know is which are no fields.
            cls.__annotations__ = {name: ClassVar if str(word).startswith("ClassVar") else object for name, word in words.items()}
            done = dataclasses.dataclass(init=False, repr=False, eq=False, slots=slots, kw_only=kw_only)(cls)
            done.__annotations__ = words
            for name in words.keys() & done.__dataclass_fields__.keys():
                done.__dataclass_fields__[name].type = words[name]
            for name, function in _functions(done, eq, slots).items():
                if name not in own:
                    setattr(done, name, function)
            return done

        return made if cls is None else made(cls)


_SET = object.__setattr__
_NOT_GIVEN = object()


def _refuse(self: Any, name: str, _value: object = None) -> None:
    raise dataclasses.FrozenInstanceError(f"cannot change {name!r} of a {type(self).__name__}")


def _state(self: Any) -> list[object]:
    return [getattr(self, f.name) for f in dataclasses.fields(self)]


def _restore(self: Any, state: list[object]) -> None:
    for field, value in zip(dataclasses.fields(self), state, strict=True):
        _SET(self, field.name, value)


def _show(self: Any) -> str:
    return f"{type(self).__qualname__}({', '.join(f'{f.name}={getattr(self, f.name)!r}' for f in dataclasses.fields(self) if f.repr)})"


def _functions(cls: Any, eq: bool, slots: bool) -> dict[str, Any]:
    def init(self: Any, *values: Any, **named: Any) -> None:
        cls.__init__ = real = _compiled(cls)
        real(self, *values, **named)

    found: dict[str, Any] = {"__init__": init, "__repr__": _show, "__setattr__": _refuse, "__delattr__": _refuse}
    if slots:
        found |= {"__getstate__": _state, "__setstate__": _restore}
    if eq:
        names = [f.name for f in dataclasses.fields(cls) if f.compare]
        values: Callable[[Any], Any] = attrgetter(*names) if names else lambda _self: ()

        def equal(self: Any, other: object) -> Any:
            return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

        def total(self: Any) -> int:
            return hash(values(self))

        found |= {"__eq__": equal, "__hash__": total}
    return found


def _compiled(cls: Any) -> Callable[..., None]:
    """`__init__` as the library would write it."""
    known: dict[str, Any] = {"_set": _SET, "_not_given": _NOT_GIVEN}
    given: dict[bool, list[str]] = {False: [], True: []}
    lines = []
    for f in dataclasses.fields(cls):
        value = f.name
        if f.default_factory is not dataclasses.MISSING:
            known[f"_made_{f.name}"] = f.default_factory
            value = f"_made_{f.name}() if {f.name} is _not_given else {f.name}"
            default = " = _not_given"
        elif f.default is not dataclasses.MISSING:
            known[f"_usual_{f.name}"] = f.default
            default = f" = _usual_{f.name}"
        else:
            default = ""
        if f.init:
            given[bool(f.kw_only)].append(f.name + default)
        elif default:
            value = f"_made_{f.name}()" if f.default_factory is not dataclasses.MISSING else f"_usual_{f.name}"
        else:
            continue
        lines.append(f"    _set(self, {f.name!r}, {value})")
    if hasattr(cls, "__post_init__"):
        lines.append("    self.__post_init__()")
    head = ", ".join(["self", *given[False], *(["*"] if given[True] else []), *given[True]])
    exec(f"def __init__({head}):\n" + "\n".join(lines or ["    pass"]), known)
    made: Callable[..., None] = known["__init__"]
    made.__qualname__ = f"{cls.__qualname__}.__init__"
    return made
