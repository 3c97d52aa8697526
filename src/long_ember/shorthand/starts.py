"""Pieces to begin with: a few sizes are asked, all else follows by proportion."""

from __future__ import annotations

import ast
import math
import operator
import re
from collections.abc import Iterable, Mapping
from contextlib import suppress
from dataclasses import replace
from functools import partial

from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Piece
from long_ember.fields import Facing, Length, Number, Percent, specs
from long_ember.records import FAMILIES, Start, StartSize
from long_ember.records.start import FORMULA, check_formula
from long_ember.sections import Section
from long_ember.shorthand.reading import LineReader, Written, read_line
from long_ember.shorthand.scanner import Scanner, ShorthandError
from long_ember.shorthand.vocabulary import kind_words, unsaid
from long_ember.shorthand.writing import write_line
from long_ember.units import Measure

__all__ = [
    "askable",
    "asked",
    "filled",
    "found_starts",
    "names_start",
    "own_start",
    "proposed_bar",
    "read_any_line",
    "start_words",
    "started",
]

_OPERATORS = {ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv, ast.Pow: math.pow,
              ast.USub: operator.neg, ast.UAdd: operator.pos}  # fmt: skip
_FUNCTIONS = {"min": min, "max": max, "round": round, "sqrt": math.sqrt, "ceil": math.ceil}
_MM = ((20.0, 1.0), (5.0, 0.5), (0.0, 0.1))  # from this size on a derived one is rounded so, mm
_INCH = ((12.7, 1 / 16), (3.0, 1 / 32), (0.0, 1 / 64))


def found_starts(words: str, known: Iterable[Start]) -> tuple[Start, ...]:
    """Starts whose names hold every word that was typed, those that are called so first.

    Args:
        words: as typed; "" finds all.
        known: to look through.
    """
    typed = words.lower().split()
    ranked = []
    for i, start in enumerate(known):
        names = [start.name.lower(), *(w.strip().lower() for w in start.words.split(","))]
        if all(any(word in name for name in names) for word in typed):
            whole = " ".join(typed)
            own = whole in names[0] or whole in dict(FAMILIES)[start.family].lower()
            best = 0 if whole in names else 1 if own else 2 if any(n.startswith(whole) for n in names) else 3
            ranked.append((best, i, start))
    return tuple(start for _best, _i, start in sorted(ranked, key=lambda r: r[:2]))


def proposed_bar(start: Start, measure: Measure) -> Section:
    """The bar that is proposed in a unit."""
    return start.inch_bar if measure.unit == "in" and start.inch_bar is not None else start.bar


def asked(size: StartSize, measure: Measure) -> float:
    """The value that is proposed in a unit, mm; of a bare number, itself."""
    return size.inches * 25.4 if measure.unit == "in" and size.inches and size.sort == "length" else size.value


def filled(start: Start, bar: Section, values: Mapping[str, float], measure: Measure) -> str:
    """The start's line with its formulas reckoned: sizes of the bar as `t` and `w`, sizes that are asked by their names, mm.

    Args:
        start: with a line.
        bar: that it is made of.
        values: by key, mm; what is missing is as proposed.
        measure: a derived length is rounded as it is marked in this unit.

    Raises:
        EmberError: a formula that can't be reckoned, named.
    """
    known = {"t": bar.thickness, "w": bar.width, "pi": math.pi, **{s.key: asked(s, measure) for s in start.sizes}, **values}
    return FORMULA.sub(partial(_reckoned, known, measure), start.line)


def _reckoned(known: Mapping[str, float], measure: Measure, match: re.Match[str]) -> str:
    from simpleeval import InvalidExpression, SimpleEval  # loaded with the first start

    text = match[2].strip()
    if text in known:
        return _figure(known[text])
    try:
        check_formula(text)
        value = float(SimpleEval(operators=_OPERATORS, names=dict(known), functions=_FUNCTIONS).eval(text))
        if not math.isfinite(value):
            raise ValueError("it has no value")
    except (InvalidExpression, ArithmeticError, ValueError, TypeError, SyntaxError, MemoryError, RecursionError) as error:
        raise EmberError(f"The start's line can't be reckoned at {{{text}}}: {error}.") from None
    return _figure(value if match[1] else _rounded(value, measure))


def _rounded(mm: float, measure: Measure) -> float:
    """A derived length as a smith would mark it."""
    inch = measure.unit == "in"
    step = next(s for least, s in (_INCH if inch else _MM) if abs(mm) >= least) * (25.4 if inch else 1.0)
    return max(round(mm / step) * step, step) if mm > 0 else 0.0


def _figure(value: float) -> str:
    return f"{value:.6f}".rstrip("0").rstrip(".")


def started(start: Start, base: Piece, bar: Section, values: Mapping[str, float], measure: Measure) -> Written:
    """The piece that a start makes of its sizes.

    Args:
        start: to begin with.
        base: an empty piece of the shop.
        bar: that it is made of.
        values: by key, mm.
        measure: see `filled`.

    Raises:
        EmberError: sizes of which nothing can be made, with what would work.
    """
    line = filled(start, bar, values, measure)
    material = start.material or base.material
    try:
        found = read_line(line, Measure(), replace(base, bar=bar, material=material, name=start.name))
    except EmberError as error:
        reason = getattr(error, "reason", "") or str(error)
        raise NoAnswer(f"These sizes don't go together: {reason.rstrip('.')}.", "") from None
    return found._replace(proposed=())


def read_any_line(text: str, measure: Measure, base: Piece, known: Iterable[Start]) -> Written:
    """A piece of a line that may name a start in place of features: `10 rd: S hook 60`; any other line as `read_line` reads it.

    Args:
        text: of the line; sizes stand behind the start's name in the order in which they are asked, or with their names.
        measure: decides the unit of a bare number where the bar has none, and the bar that a start proposes.
        base: an empty piece of the shop.
        known: starts by any of whose names it may begin; a name of a shape goes before them.

    Raises:
        ShorthandError: at the word, with what would work.
    """
    reader, names = LineReader(text, measure, base), start_words(known)
    named = None
    with suppress(ShorthandError):  # what is wrong with it is told by `read_line`
        named = reader.named(names)
    if named is None:
        return read_line(text, measure, base)
    name, bar, material, start, at = named
    scan = reader.scan
    values = _values(scan, start)
    try:
        found = started(
            start, replace(base, material=material) if material else base, bar or proposed_bar(start, measure), values, scan.measure
        )
    except EmberError as error:
        raise ShorthandError(scan.text, at, len(start.name), str(error).rstrip(".")) from None
    open_ = tuple(
        f"{start.name}: {s.label.lower()} {_shown(asked(s, scan.measure), s, measure)}" for s in start.sizes if s.key not in values
    )
    piece = replace(found.piece, name=name if name is not None else base.name if base.features else start.name)
    return found._replace(piece=piece, places={}, besides=open_)


def names_start(text: str, known: Iterable[Start]) -> bool:
    """Whether a line without a bar says the name of a shape or a start, and sizes behind it; not where a start is called so, figures and all."""
    known = tuple(known)
    named = Scanner(text, Measure()).phrase({**start_words(known), **kind_words()}) is not None
    return named and any(c.isdigit() for c in text) and not found_starts(text, known)


def start_words(known: Iterable[Start]) -> dict[tuple[str, ...], Start]:
    """Every name of every start, as words; own names before others."""
    known = tuple(known)
    found = {tuple(s.name.lower().split()): s for s in known}
    for start in known:
        for words in start.words.split(","):
            if words.strip():
                found.setdefault(tuple(words.lower().split()), start)
    return found


def _shown(value: float, size: StartSize, measure: Measure) -> str:
    return measure.length(value) if size.sort == "length" else f"{value:g}"


def _values(scan: Scanner, start: Start) -> dict[str, float]:
    """The sizes behind a start's name."""
    labels = {words: s for s in start.sizes for words in (tuple(s.label.lower().split()), (s.key.lower(),), (s.label.lower().split()[0],))}
    values: dict[str, float] = {}
    while not scan.done:
        scan.fillers()
        scan.pass_word("and", "with")
        scan.take(",")
        size, start_of = scan.phrase(labels), scan.skip()
        scan.fillers()
        q = scan.quantity()
        if q is None:
            shown = [s.label.lower() for s in start.sizes if s.key not in values]
            raise scan.fault(f"the {start.name} asks for its sizes here, and nothing else stands beside it", shown[:6], start_of)
        scan.at = q.end
        if size is None and q.sort in ("", "length"):
            size = scan.phrase(labels) or None
        left = [s for s in start.sizes if s.key not in values and (q.sort == "" or (q.sort == "length") == (s.sort == "length"))]
        size = size or next(iter(left), None)
        if size is None or size.key in values:
            raise ShorthandError(scan.text, q.start, q.end - q.start, f"all sizes of the {start.name} are said already")
        values[size.key] = scan.length(q) if size.sort == "length" else scan.number(q)
    return values


def own_start(piece: Piece, name: str, words: str, wanted: Mapping[tuple[str, str], str]) -> Start:
    """A piece as a start: sizes that are asked next time by name, all other lengths in proportion to the bar's thickness.

    Args:
        piece: as it is planned.
        name: of the start.
        words: what else it is called.
        wanted: label of each size that is asked, by id of the feature and name of the field.
    """
    sizes, keys = [], {}
    for i, ((identity, field), label) in enumerate(wanted.items(), 1):
        feature = piece.feature(identity)
        assert feature is not None
        value, spec = float(getattr(feature, field)), specs(feature)[field]
        keys[identity, field] = f"size{i}"
        sort = "length" if isinstance(spec, Length) else "number"
        sizes.append(StartSize(key=f"size{i}", label=label, value=value, sort=sort))
    line = write_line(piece, Measure(), named=keys, per=piece.bar.thickness)
    return Start(name=name, words=words, bar=piece.bar, material=piece.material, sizes=tuple(sizes), line=line)


def askable(piece: Piece, measure: Measure) -> tuple[tuple[str, str, str, str], ...]:
    """Sizes of a piece that a start may ask for: feature, field, what it is called, and its value as it is shown.

    Args:
        piece: as it is planned.
        measure: how lengths are shown.
    """
    found = []
    for feature, standing in (*((f, False) for f in piece.features), *((s.feature, True) for s in piece.standing)):
        silent = unsaid(feature, standing)
        for field, spec in specs(feature).items():
            value = getattr(feature, field)
            if isinstance(spec, Number) and not isinstance(spec, (Percent, Facing)) and value and field not in silent:
                shown = measure.length(value) if isinstance(spec, Length) else spec.show(value, measure)
                found.append((feature.id, field, f"{feature.title}: {spec.label.lower()}", shown))
    return tuple(found)
