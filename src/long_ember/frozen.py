"""Immutable data classes and named tuples whose code is made when many of them are: making it for all took a fifth of the start.

To whoever reads or checks the program these are `dataclasses.dataclass` and `typing.NamedTuple`: fields, `replace`, `__post_init__` and the error on
setting an attribute are the library's own. Only `__init__` is compiled late, and comparing, hashing and showing need no code of their own; a tuple's
names are known without a look at their types, which the library compiles one by one.
"""

from __future__ import annotations

import dataclasses
from collections import namedtuple
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from operator import attrgetter
from threading import RLock
from typing import TYPE_CHECKING, Any, ClassVar

__all__ = ["NamedTuple", "dataclass"]

_FEW = 8  # of a class are made by a loop over its fields; for more, code is worth its making

if TYPE_CHECKING:
    from dataclasses import dataclass
    from typing import NamedTuple
else:

    def dataclass(cls: type | None = None, /, *, frozen: bool = False, slots: bool = False, kw_only: bool = False, eq: bool = True,
                  **more: Any) -> Any:  # fmt: skip
        """As `dataclasses.dataclass`; what is not frozen, or ordered, is left to it."""

        def made(cls: type) -> type:
            if not frozen or more:
                return dataclasses.dataclass(frozen=frozen, slots=slots, kw_only=kw_only, eq=eq, **more)(cls)
            own = dict(cls.__dict__)
            if slots:  # another class is made of it, at once
                cls = _with_fields(cls, kw_only, slots=True)
            else:
                cls.__dataclass_fields__ = _Fields(cls, kw_only)
            for name, function in _functions(cls, eq, slots).items():
                if name not in own:
                    setattr(cls, name, function)
            return cls

        return made if cls is None else made(cls)


_SET = object.__setattr__
_NOT_GIVEN = object()
_ONE = RLock()


class _Fields:
    """`__dataclass_fields__` of a class, found when somebody asks for them: most kinds are not in the piece that is opened."""

    def __init__(self, cls: Any, kw_only: bool) -> None:
        self._cls, self._kw_only = cls, kw_only

    def __get__(self, instance: object, owner: type) -> Any:
        with _ONE:  # threads may ask for the first time together
            if vars(self._cls)["__dataclass_fields__"] is self:
                _with_fields(self._cls, self._kw_only)
            return self._cls.__dataclass_fields__


def _with_fields(cls: Any, kw_only: bool, *, slots: bool = False) -> Any:
    """The class with its fields; with slots it is another."""
    words = vars(cls).get("__annotations__", {})
    # The library searches annotations that are text with regular expressions; all it wants to know is which are no fields.
    cls.__annotations__ = {
        name: ClassVar if str(word).removeprefix("typing.").startswith("ClassVar") else object for name, word in words.items()
    }
    done: Any = dataclasses.dataclass(init=False, repr=False, eq=False, slots=slots, kw_only=kw_only)(cls)
    done.__annotations__ = words
    for name in words.keys() & done.__dataclass_fields__.keys():
        done.__dataclass_fields__[name].type = words[name]
    return done


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
    left = _FEW
    plan: list[tuple[str, bool, Any]] = []
    order: list[str] = []

    def init(self: Any, *values: Any, **named: Any) -> None:
        nonlocal left
        left -= 1
        if not plan:  # each in one go: another thread may make one too
            order[:] = [f.name for f in dataclasses.fields(cls) if f.init and not f.kw_only]
            plan[:] = _plan(cls)
        given = _given(order, values, named) if left >= 0 else None
        if given is not None:
            for name, asked, default in plan:
                if asked and name in given:
                    _SET(self, name, given.pop(name))
                elif default is _NOT_GIVEN:
                    given = None
                    break
                else:
                    _SET(self, name, default())
            if given == {}:
                if hasattr(cls, "__post_init__"):
                    self.__post_init__()
                return
        cls.__init__ = real = _compiled(cls)  # many, or it has something to say
        real(self, *values, **named)

    found: dict[str, Any] = {"__init__": init, "__repr__": _show, "__setattr__": _refuse, "__delattr__": _refuse}
    if slots:
        found |= {"__getstate__": _state, "__setstate__": _restore}
    if eq:
        values: Callable[[Any], Any] = _same  # until the first is compared

        def first(self: Any) -> Any:
            nonlocal values
            names = [f.name for f in dataclasses.fields(cls) if f.compare]
            values = attrgetter(*names) if names else lambda _self: ()
            return values(self)

        values = first

        def equal(self: Any, other: object) -> Any:
            return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

        def total(self: Any) -> int:
            return hash(values(self))

        found |= {"__eq__": equal, "__hash__": total}
    return found


def _plan(cls: Any) -> list[tuple[str, bool, Any]]:
    """Of each field its name, whether it may be given, and what makes its default."""
    found = []
    for f in dataclasses.fields(cls):
        default: Any = _NOT_GIVEN
        if f.default_factory is not dataclasses.MISSING:
            default = f.default_factory
        elif f.default is not dataclasses.MISSING:
            default = partial(_same, f.default)
        if f.init or default is not _NOT_GIVEN:
            found.append((f.name, f.init, default))
    return found


def _same(value: Any) -> Any:
    return value


def _given(order: Sequence[str], values: tuple[Any, ...], named: Mapping[str, Any]) -> dict[str, Any] | None:
    """Values by their names; None where there are too many, or one twice."""
    if len(values) > len(order):
        return None
    given = dict(zip(order, values, strict=False))
    return {**given, **named} if given.keys().isdisjoint(named) else None


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


if not TYPE_CHECKING:
    # What reads the first, second, … of a tuple, as the library makes it.
    _LETTERS = list("abcdefghijklmnopqrstuvwxyz")
    _Lettered = namedtuple("_Lettered", _LETTERS)  # kept: a collection of garbage would empty its dictionary while it is read
    _READERS = [vars(_Lettered)[letter] for letter in _LETTERS]

    class _Named(type):
        """Makes a class of tuples from its annotations."""

        def __new__(cls, name: str, bases: tuple[type, ...], own: dict[str, Any]) -> type:
            if not bases:
                return super().__new__(cls, name, bases, own)
            order = tuple(own.get("__annotations__", {}))
            usual = {field: own.pop(field) for field in order if field in own}
            return type(
                name, (tuple,), {"__slots__": (), **_tuple_functions(order, usual), **dict(zip(order, _READERS, strict=False)), **own}
            )

    class NamedTuple(metaclass=_Named):
        """As `typing.NamedTuple`."""


def _tuple_functions(order: tuple[str, ...], usual: Mapping[str, Any]) -> dict[str, Any]:
    whole, made, left = len(order), tuple.__new__, _FEW

    def new(cls: Any, *values: Any, **named: Any) -> Any:
        nonlocal left
        if len(values) == whole and not named:
            return made(cls, values)
        left -= 1
        given = _given(order, values, named) if left >= 0 else None
        if given is not None and given.keys() <= set(order):
            row = [given.get(name, usual.get(name, _NOT_GIVEN)) for name in order]
            if all(value is not _NOT_GIVEN for value in row):  # what is compared may be an array
                return made(cls, row)
        cls.__new__ = real = namedtuple(cls.__name__, order, defaults=usual.values()).__new__  # many, or it has something to say
        return real(cls, *values, **named)

    def show(self: Any) -> str:
        return f"{type(self).__name__}({', '.join(f'{name}={value!r}' for name, value in zip(order, self, strict=True))})"

    def plain(self: Any) -> tuple[Any, ...]:
        return tuple(self)

    def replaced(self: Any, /, **named: Any) -> Any:
        row = [named.pop(name, value) for name, value in zip(order, self, strict=True)]
        if named:
            raise ValueError(f"Got unexpected field names: {list(named)!r}")  # as the library says it
        return made(type(self), row)

    return {"_fields": order, "_field_defaults": dict(usual), "__match_args__": order, "__new__": new, "__repr__": show, "_replace": replaced,
            "__getnewargs__": plain}  # fmt: skip
