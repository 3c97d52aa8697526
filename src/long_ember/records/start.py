"""A start: a piece by proportion, of which a few sizes are asked."""

from __future__ import annotations

import ast
import re

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.sections import Section, square

__all__ = ["FAMILIES", "FORMULA", "Start", "StartSize", "check_formula"]

FORMULA = re.compile(r"\{(#?)([^{}]*)\}")
_LONGEST = 200  # characters of a formula
_FUNCTIONS = ("min", "max", "round", "sqrt", "ceil")
_RECKONS = (ast.Add, ast.Sub, ast.Mult, ast.Div, ast.Pow, ast.USub, ast.UAdd)

FAMILIES = (
    ("hook", "Hooks"), ("point", "Spikes and pegs"), ("bracket", "Brackets"), ("ring", "Rings and staples"), ("eye", "Eyes and links"),
    ("leaf", "Leaves and flowers"), ("scroll", "Scrolls"), ("handle", "Handles and pulls"), ("hinge", "Hinges and pintles"), ("tool", "Tongs and tools"),
    ("fire", "Forks and pokers"), ("stand", "Trivets and stands"), ("bolt", "Bolts and rivets"), ("plate", "Plates"), ("own", "Our own"),
)  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class StartSize:
    """A size that a start asks for.

    Args:
        key: what the line calls it.
        label: as the smith is asked.
        value: that is proposed, mm; of a number without a unit, itself.
        inches: the same in an inch shop, in; 0 takes `value`.
        sort: length, or a bare number.
    """

    key: str = fields.text("Called in the line", "size")
    label: str = fields.text("Asked as", "Size")
    value: float = fields.number("Proposed", 50.0, low=0.0, high=1e5)
    inches: float = fields.number("Proposed in inches", 0.0, low=0.0, high=4e3)
    sort: str = fields.choice("Sort", "length", ("length", "length"), ("number", "number"))

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Start:
    """A piece to begin with.

    Args:
        name: what it is called.
        words: what else it is called, separated by commas.
        family: key of `FAMILIES`.
        bar: that is proposed.
        inch_bar: that an inch shop is proposed; None takes `bar`.
        material: key of the material, "" as the shop has it.
        sizes: that are asked, two to five with the bar.
        line: of shorthand, without the bar; in curly brackets what follows from the sizes and the bar (docs/shorthand.md).
    """

    name: str = fields.text("Name", "New start")
    words: str = fields.text("Also called")
    family: str = fields.choice("Family", "own", *FAMILIES)
    bar: Section = fields.section("Bar", square(12.0))
    inch_bar: Section | None = fields.section("Bar in inches", None, optional=True)
    material: str = fields.text("Material")
    sizes: tuple[StartSize, ...] = fields.rows("Asks for", StartSize)
    line: str = fields.text("Line")

    def __post_init__(self) -> None:
        check_fields(self)
        for match in FORMULA.finditer(self.line):
            check_formula(match[2].strip())


def check_formula(text: str) -> None:
    """See that a formula knows nothing but numbers, names, + - * / **, brackets and a few functions.

    Raises:
        NoAnswer: what else is in it.
    """
    try:
        if len(text) > _LONGEST:
            raise ValueError("it is too long")
        for node in ast.walk(ast.parse(text, mode="eval")):
            _check_node(node)
    except (ValueError, SyntaxError, MemoryError, RecursionError) as error:
        why = error.msg if isinstance(error, SyntaxError) else str(error)
        raise NoAnswer(f"The line can't be reckoned at {{{text}}}: {why}.", "A formula is like {0.5*t}, {max(4*t, leg)}.") from None


def _check_node(node: ast.AST) -> None:
    if isinstance(node, ast.Constant):
        if isinstance(node.value, bool) or not isinstance(node.value, (int, float)):
            raise ValueError(f"{node.value!r} is no number")
    elif isinstance(node, ast.Call):
        if not isinstance(node.func, ast.Name) or node.func.id not in _FUNCTIONS or node.keywords:
            raise ValueError(f"the functions are {', '.join(_FUNCTIONS)}")
    elif not isinstance(node, (ast.Expression, ast.Name, ast.Load, ast.BinOp, ast.UnaryOp, *_RECKONS)):
        raise ValueError("it reckons by + - * / ** and brackets alone")
