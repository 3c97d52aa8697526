"""Light data classes and tuples are those of the library, but for when their code is made."""

import copy
import dataclasses
import gc
import pickle
import sys
import threading
import types
import typing
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import field
from pathlib import Path
from typing import Any, ClassVar
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from long_ember import frozen


def _classes(make: Any, rows: Any) -> tuple[Any, Any, Any]:
    """The same three classes, made by the library or by us."""

    @make(frozen=True)
    class Base:
        plain: int
        usual: float = 2.5
        made: list[int] = field(default_factory=list)
        word: ClassVar[str] = "kept"

    @make(frozen=True, kw_only=True)
    class Later(Base):
        extra: str = "x"
        hidden: int = field(default=0, compare=False, repr=False)
        late: int = field(init=False, default=7)

        def __post_init__(self) -> None:
            if self.plain < 0:
                raise ValueError("negative")
            object.__setattr__(self, "late", self.plain * 2)

    class Row(rows):  # type: ignore[misc]
        one: int
        two: float = 0.5
        three: str = "c"

        @property
        def sum(self) -> float:
            return float(self.one + self.two)

    return Base, Later, Row


LIBRARY, OURS = _classes(dataclasses.dataclass, typing.NamedTuple), _classes(frozen.dataclass, frozen.NamedTuple)
Kept = _classes(frozen.dataclass, frozen.NamedTuple)[2]
Kept.__qualname__ = Kept.__name__ = "Kept"


def _outcome(cls: Any, positional: list[Any], named: dict[str, Any]) -> Any:
    try:
        made = cls(*positional, **named)
    except (TypeError, ValueError) as error:
        return type(error)
    shown = repr(made).rsplit(".", 1)[-1]
    return (dataclasses.astuple(made) if dataclasses.is_dataclass(made) else tuple(made)), shown, made == copy.copy(made)


class Light(unittest.TestCase):
    @given(
        st.lists(
            st.tuples(
                st.integers(0, 2),
                st.lists(st.integers(-1, 9), max_size=4),
                st.dictionaries(
                    st.sampled_from(["plain", "usual", "extra", "hidden", "late", "one", "three", "odd"]), st.integers(-1, 9), max_size=3
                ),
            ),
            min_size=1,
            max_size=25,
        )
    )
    def test_whatever_they_are_made_with_the_outcome_is_the_librarys(self, calls):
        library, ours = _classes(dataclasses.dataclass, typing.NamedTuple), _classes(frozen.dataclass, frozen.NamedTuple)
        for which, positional, named in calls:
            self.assertEqual(_outcome(library[which], positional, named), _outcome(ours[which], positional, named), (positional, named))

    def test_they_compare_hash_replace_and_refuse_alike(self):
        for (base, later, row), row_kept in ((LIBRARY, None), (OURS, Kept)):
            with self.subTest(base.__module__):
                one = later(3, extra="y", hidden=1)
                self.assertEqual(one, dataclasses.replace(one, hidden=9))
                self.assertNotEqual(one, dataclasses.replace(one, extra="z"))
                self.assertNotEqual(base(3), later(3))
                with self.assertRaises(dataclasses.FrozenInstanceError):
                    one.plain = 4
                self.assertEqual([f.name for f in dataclasses.fields(later)], ["plain", "usual", "made", "extra", "hidden", "late"])
                self.assertEqual([f.type for f in dataclasses.fields(base)], [base.__annotations__[n] for n in ("plain", "usual", "made")])
                made = row(1)
                self.assertEqual(
                    (made, made.sum, made._replace(two=2.0).two, row._fields), ((1, 0.5, "c"), 1.5, 2.0, ("one", "two", "three"))
                )
                self.assertEqual(hash(row(1, 2.0)), hash((1, 2.0, "c")))
                one, _two, three = made
                self.assertEqual((one, three), (1, "c"))
                with self.assertRaises(ValueError):
                    made._replace(four=4)
                if row_kept is not None:
                    self.assertEqual(pickle.loads(pickle.dumps(row_kept(4))), (4, 0.5, "c"))

    def test_however_many_are_made_and_replaced_the_librarys_class_is_made_once(self):
        row = _classes(frozen.dataclass, frozen.NamedTuple)[2]
        with mock.patch.object(frozen, "namedtuple", wraps=frozen.namedtuple) as made:
            for i in range(60):
                self.assertEqual(row(1, three="z")._replace(two=float(i)), (1, float(i), "z"))
        self.assertEqual(made.call_count, 1)

    def test_threads_that_need_a_class_for_the_first_time_together_all_get_it_whole(self):
        interval = sys.getswitchinterval()
        sys.setswitchinterval(1e-6)
        self.addCleanup(sys.setswitchinterval, interval)
        for _round in range(40):
            _base, later, row = _classes(frozen.dataclass, frozen.NamedTuple)
            start = threading.Barrier(6)

            def make(later=later, row=row, start=start):
                start.wait()
                one = later(3, usual=9.0, extra="y")
                return one.usual, one.extra, one.late, row(4, three="z"), dataclasses.fields(later)[4].compare

            with ThreadPoolExecutor(6) as pool:
                found = [f.result() for f in [pool.submit(make) for _ in range(6)]]
            self.assertEqual(found, [(9.0, "y", 6, (4, 0.5, "z"), False)] * 6)

    def test_nothing_is_known_of_a_class_before_it_is_asked_for(self):
        base, later, _row = _classes(frozen.dataclass, frozen.NamedTuple)
        self.assertNotIsInstance(vars(later)["__dataclass_fields__"], dict)
        self.assertEqual(later(1).late, 2)
        self.assertIsInstance(vars(later)["__dataclass_fields__"], dict)
        self.assertEqual(base.word, "kept")

    def test_it_can_be_loaded_whenever_garbage_is_collected(self):
        code = compile(Path(frozen.__file__).read_text(encoding="utf-8"), frozen.__file__, "exec")
        self.addCleanup(gc.set_threshold, *gc.get_threshold())
        for after in range(1, 400):  # a start that failed at one of these failed every time on that machine
            made = types.ModuleType("made")
            with mock.patch.dict(sys.modules, {"made": made}):
                gc.collect(0)
                gc.set_threshold(after)
                exec(code, made.__dict__)
            self.assertEqual(made.NamedTuple.__name__, "NamedTuple")


if __name__ == "__main__":
    unittest.main()
