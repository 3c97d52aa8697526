"""A whole piece from one line of a smith's shorthand (docs/shorthand.md)."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, TypeVar

from long_ember.document import fit_bar
from long_ember.errors import EmberError
from long_ember.features import KINDS, Feature, Outer, Piece, Planning, Run, Standing
from long_ember.fields import Length, Pitch, specs
from long_ember.frozen import NamedTuple
from long_ember.heats import ForgeSettings
from long_ember.sections import Section
from long_ember.shorthand.building import Building, centred
from long_ember.shorthand.drafts import Draft, Proposed
from long_ember.shorthand.placing import MOST_FEATURES, PLACES, Placings
from long_ember.shorthand.saying import RIGHT_ANGLE, Sayings
from long_ember.shorthand.scanner import Scanner, nearest
from long_ember.shorthand.vocabulary import kind_words, many_words, material_words, words_of
from long_ember.units import Measure, one

__all__ = ["LineReader", "Written", "completions", "proposed_words", "read_line", "settled"]

_DEEPEST = 6  # limbs within limbs
_BEFORE = 4  # words and numbers that may stand before the name of a kind
_NEXT = ("and", "then")  # between two shapes, with a comma or without
_NUMBERS = {"two": "2", "three": "3", "four": "4", "five": "5", "six": "6"}
_VERBS = {"make": "", "forge": "", "put": "", "add": "", "cut": "", "drill": "drilled", "punch": "punched"}
_TOUCH = 1e-6
_BENCH = ForgeSettings()
_T = TypeVar("_T")


class Written(NamedTuple):
    """What a line says.

    Args:
        piece: it describes; sizes that it leaves open are proposed.
        proposed: those sizes, in the order of the line.
        bar: mm of bar that it is to be made of, None where it does not say.
        floating: feature and field that follow from that bar, None where it names none.
        places: index in the line of each feature's first word, by id.
        centred: forms that lie in the middle of a feature of the row, by id of both.
        besides: what else is proposed, in words.
    """

    piece: Piece
    proposed: tuple[Proposed, ...]
    bar: float | None
    floating: tuple[str, str] | None
    places: dict[str, int]
    centred: tuple[tuple[str, str], ...] = ()
    besides: tuple[str, ...] = ()


def read_line(text: str, measure: Measure | None = None, base: Piece | None = None) -> Written:
    """Read a piece.

    Args:
        text: of the line.
        measure: decides the unit of a bare number where the bar has none.
        base: whose name, allowances and planning it keeps, and whose bar where the line names none.

    Raises:
        ShorthandError: at the word, with what would work.
    """
    return LineReader(text, measure or Measure(), base or Piece()).line()


def completions(
    text: str, measure: Measure | None = None, base: Piece | None = None, names: Mapping[tuple[str, ...], object] | None = None
) -> tuple[str, ...]:
    """Words that may stand at the end of a line; where it ends within a word, those that begin so.

    Args:
        text: as far as it is typed.
        measure: see `read_line`.
        base: see `read_line`.
        names: of starts, which may stand in place of features.
    """
    reader = LineReader(text, measure or Measure(), base or Piece())
    with contextlib.suppress(EmberError):
        reader.line()
    at, words = reader.scan.wants
    if names:
        other = LineReader(text, measure or Measure(), base or Piece())
        with contextlib.suppress(EmberError):
            other.named(names)
        if other.scan.wants[0] == at:
            words = [*words, *other.scan.wants[1]]
    typed = reader.scan.text[at:].lower()
    return tuple(w for w in dict.fromkeys(words) if w.lower().startswith(typed) and w.lower() != typed)


def settled(written: Written, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH) -> Piece:
    """The piece, with the size that floats brought to the bar that it is to be made of.

    Args:
        written: as it was read.
        ruler: mm.
        forge: for the scale.

    Raises:
        NoAnswer: no such size uses just that bar.
    """
    if written.bar is None or written.floating is None:
        return written.piece
    marked = math.floor(written.bar / ruler + _TOUCH) * ruler  # no ruler finds the last fraction of a division
    piece = fit_bar(written.piece, *written.floating, marked, ruler=ruler, forge=forge).after
    for identity, host in written.centred:  # what they lie in the middle of may have another length now
        feature = piece.feature(identity)
        if feature is not None and piece.index(host) >= 0:
            moved = centred(piece, host, feature)
            piece = replace(piece, standing=tuple(moved if s.id == identity else s for s in piece.standing))
    return piece


class LineReader:
    """Reads one line, see `read_line`."""

    def __init__(self, text: str, measure: Measure, base: Piece) -> None:
        self.scan, self.base = Scanner(text, measure), base
        self.building, self.sayings = Building(self.scan, base), Sayings(self.scan, self._limb)
        self.drafts: list[Draft] = []
        self.placings = Placings(self.scan, self.drafts)
        self.host: Draft | None = None  # with which the works are said that are read
        self.deep = 0

    def line(self) -> Written:
        """The whole of it."""
        scan = self.scan
        name = scan.quoted()
        bar, material, length = self._head()
        if length is None:
            length = self._length_first()
        row, standing = self._features()
        if not scan.done:
            raise scan.fault("nothing is expected here", (",", ";"))
        if length is not None and (row or standing):
            row = self._with_the_rest(row, length)
        piece = replace(self.base, bar=bar, material=material, features=(), standing=(), name=self.base.name if name is None else name)
        if self.base.features:  # what was settled about its features is about others
            piece = replace(piece, measured=tuple(m for m in piece.measured if not m.feature), planning=_bare(piece.planning))
        piece, proposed = self.building.piece(piece, row, standing, self.drafts)
        free = next(((d.id, d.free[0]) for d in row if d.free), None)
        if length is not None and free is None and not any(d.free for d in self.drafts):
            free = next(((d.id, "length") for d in row if issubclass(d.cls, Run) and "length" not in d.values), None)
        return Written(piece, tuple(proposed), length, free, {d.id: d.start for d in self.drafts}, tuple(self.building.centred))

    def named(self, names: Mapping[tuple[str, ...], _T]) -> tuple[str | None, Section | None, str, _T, int] | None:
        """What is named behind the bar in place of shapes, None where nothing is.

        Args:
            names: that would do; a name of a shape goes before them.

        Returns:
            Name of the piece, bar and material where they are said, what is meant, and where its name begins.
        """
        scan = self.scan
        name, before = scan.quoted(), scan.skip()
        bar, material, length = self._head()
        said, start = scan.skip() > before, scan.skip()
        scan.want(" ".join(words) for words in names)
        found = scan.phrase({**names, **kind_words()})
        if found is None or isinstance(found, tuple) or length is not None:
            return None
        return name, bar if said else None, material if said else "", found, start

    # --- the bar

    def _head(self) -> tuple[Section, str, float | None]:
        scan, base = self.scan, self.base
        scan.want(("12 mm sq:", "1/2 in rd:", "25 x 6 mm flat:"))
        if scan.quantity() is None:
            scan.bar = base.bar
            return base.bar, base.material, None
        start = scan.skip()
        bar = scan.section(bare_flat=True)
        scan.line_unit(scan.text[start : scan.at])
        scan.bar = bar
        scan.pass_word("bar")
        length = self._bar_length()
        scan.fillers()
        scan.want(" ".join(words) for words in material_words())
        material = scan.phrase(material_words()) or ("mild-steel" if not base.features else base.material)
        if length is None:
            length = self._bar_length()
        scan.want((":", "x 8 in:"))
        if not scan.take(":") and not scan.done:
            word = scan.word()
            near = nearest(word, (" ".join(w) for w in material_words())) if word else ()
            raise scan.fault("after the bar comes a colon, then its features", near or (":",))
        return bar, material, length

    def _bar_length(self) -> float | None:
        scan = self.scan
        start = scan.skip()
        scan.take(",")
        scan.fillers()
        q = scan.quantity()
        if q is None or q.sort not in ("", "length"):
            scan.at = start
            return None
        scan.at = q.end
        scan.pass_word("long")
        return scan.length(q)

    def _length_first(self) -> float | None:
        """`300 long, …`: the bar's length, said before its features."""
        scan, start = self.scan, self.scan.skip()
        q = scan.quantity()
        if q is not None and q.sort in ("", "length"):
            scan.at = q.end
            if scan.pass_word("long") and (scan.take(",") or scan.take(":") or scan.peek() == ";"):
                return scan.length(q)
        scan.at = start
        return None

    def _with_the_rest(self, row: list[Draft], length: float) -> list[Draft]:
        """The row with the bar that is left between its ends, where the line says how long the whole is and names none that could be it."""
        if any(d.free for d in self.drafts) or any(issubclass(d.cls, Run) for d in row):
            return row
        rest = Draft("run", {}, f"f{len(self.drafts) + 1}", 0)
        rest.values["length"], rest.free = length, ["length"]
        self.drafts.append(rest)
        behind = len(row) > 1 and issubclass(row[-1].cls, Outer)
        return [*row[:-1], rest, row[-1]] if behind else [*row, rest]

    # --- features

    def _features(self) -> tuple[list[Draft], list[Draft]]:
        """What has bar of its own, and what is laid on it: behind a semicolon, or among the others with a place of its own."""
        scan = self.scan
        said = self._at_both(self._row())
        standing = self._at_both(self._standing()) if scan.take(";") else []
        return _tipped([d for d in said if not d.laid]), [*(d for d in said if d.laid), *standing]

    def _at_both(self, drafts: list[Draft]) -> list[Draft]:
        """With those once more that were said of both ends."""
        found, row = list(drafts), [d for d in drafts if not d.laid and d.place.silent]
        for draft in (d for d in drafts if d.both):
            if draft.free:
                self.scan.at = draft.start
                raise self.scan.fault("what follows from the bar is at one end only", ())
            first = bool(row) and draft is row[0]
            if draft.place.on is None and "toward" in specs(draft.cls):
                draft.values["toward"] = "A" if first else "B"
            twin = self._twin(draft)
            twin.with_.extend(map(self._twin, draft.with_))
            if draft.place.on is not None:
                found.insert(found.index(draft) + 1, twin)
            elif first:
                found.append(twin)
            elif draft is row[-1]:
                found.insert(0, twin)
            else:
                self.scan.at = draft.start
                raise self.scan.fault("only what stands first or last can be at both ends", ())
        return found

    def _twin(self, draft: Draft) -> Draft:
        self.drafts.append(draft.twin(f"f{len(self.drafts) + 1}"))
        return self.drafts[-1]

    def _row(self) -> list[Draft]:
        scan, found = self.scan, list[Draft]()
        while not scan.done and scan.peek() not in ";])":
            found.extend(self._features_of(standing=False))
            if not scan.take(",") and scan.word() not in _NEXT:
                break
            scan.pass_word(*_NEXT)
        return found

    def _standing(self) -> list[Draft]:
        scan, found = self.scan, list[Draft]()
        while not scan.done and scan.peek() not in ")]":
            for draft in self._features_of(standing=True):
                if draft.place.on is None and found and not draft.place.centred:  # what follows stands where the one before it does
                    draft.place.on = found[-1].place.on
                found.append(draft)
            if not scan.take(",") and not scan.take(";") and scan.word() not in _NEXT:
                break
            scan.pass_word(*_NEXT)
        return found

    def _several(self) -> tuple[int, Any, tuple[int, int]]:
        """`two holes`, `countersunk holes`: how many, 0 where only their places tell, what their kind means, and where words before it stand.

        1 and None where there is one.
        """
        scan, start = self.scan, self.scan.skip()
        q = scan.quantity()
        if q is not None and not q.sort and q.text in _NUMBERS.values():
            count, scan.at = int(q.text), q.end
        else:
            count = int(_NUMBERS.get(scan.pass_word(*_NUMBERS), "0"))
        begin = scan.skip()
        kind_at = begin
        if scan.phrase({**many_words(), **kind_words()}, take=False) is None:
            kind_at = self._kind_later(begin, many_words())
        found = scan.phrase(many_words())
        if found is None or not KINDS[found[0]].stands:
            scan.at = start
            return 1, None, (start, start)
        return count, found, (begin, kind_at)

    def _verb(self) -> str:
        """`drill two holes`: past the verb, where it is no name of a shape; how it is made, "" where that is not said."""
        scan, start = self.scan, self.scan.skip()
        verb = scan.pass_word(*_VERBS)
        begin = scan.skip()
        if verb:
            several = self._several()[1] is not None
            scan.at = begin if several else start
            if not several and scan.phrase({**many_words(), **kind_words()}, take=False) is None:
                scan.at = begin
        return _VERBS[verb] if scan.at == begin and verb else ""

    def _features_of(self, *, standing: bool) -> list[Draft]:
        """What one name says: one feature, or several that are alike."""
        scan, start = self.scan, self.scan.skip()
        made_by = self._verb()
        count, kind, before = self._several()
        draft = self._feature(standing=standing) if kind is None else self._feature_named(kind, *before, standing=standing, many=True)
        if made_by and made_by in words_of(draft.cls).methods:
            draft.values.setdefault("method", made_by)
        places = (draft.place.at, *draft.places)
        if kind is None or draft.both:
            return [draft]
        if len(places) == 1 and count and draft.place.silent and self.host is not None:
            places *= count  # they share the length of their shape
        if (len(places) == 1 and not draft.place.silent and count != 1) or (places[0] is None and self.host is None):
            text = "several can't stand in one place: say where each is, or let them share the length"
            raise scan.fault(text, ("holes 6 at 20 and 80", "run 100 with two holes 6"), start)
        if count and len(places) != count:
            raise scan.fault(f"{_told(count)} are said, and {_told(len(places))} places", (), start)
        found = [draft]
        for at in places[1:]:
            self.drafts.append(draft.again(f"f{len(self.drafts) + 1}"))
            self.drafts[-1].place.at = at
            found.append(self.drafts[-1])
        return found

    def _feature(self, *, standing: bool) -> Draft:
        scan = self.scan
        scan.fillers()
        start = scan.at
        scan.want(" ".join(words) for words in kind_words())
        kind_at = start
        if scan.phrase(kind_words(), take=False) is None:
            kind_at = self._kind_later(start, kind_words())
        found = scan.phrase(kind_words())
        if found is None:
            scan.at = start
            word = scan.word()
            known = [" ".join(words) for words in kind_words()]
            if not word:
                raise scan.fault("the name of a shape is expected here", ("taper", "run", "hook", "leaf"))
            if word in _NUMBERS or scan.phrase(many_words(), take=False) is not None:
                raise scan.fault("several take bar of their own: say each, or that it is at both ends", ("taper 60 at both ends",))
            raise scan.fault(f"'{word}' is no shape that is known here", nearest(word, known) or ("taper", "run", "hook", "leaf"))
        return self._feature_named(found, start, kind_at, standing=standing)

    def _feature_named(self, found: Any, start: int, kind_at: int, *, standing: bool, many: bool = False) -> Draft:
        """What is said of a feature whose name stands just before the cursor, and from `start` on before that at `kind_at`."""
        scan = self.scan
        if len(self.drafts) >= MOST_FEATURES:
            raise scan.fault(f"no line has more than {MOST_FEATURES} features")
        draft = Draft(found[0], found[1], f"f{len(self.drafts) + 1}", start)
        draft.many = many
        self.drafts.append(draft)
        behind, scan.at = scan.at, start
        if kind_at > start:
            self._said(draft, standing=standing, stop=kind_at)
        scan.at = behind
        self._said(draft, standing=standing, stop=scan.stop)
        return draft

    def _kind_later(self, start: int, names: Mapping[tuple[str, ...], Any]) -> int:
        """Where the name of a kind stands a few words on: a round taper, a 6 hole; there the cursor is left."""
        scan = self.scan
        for _turn in range(_BEFORE):
            if scan.phrase(RIGHT_ANGLE) is not None and scan.phrase(names, take=False) is not None:
                return scan.skip()
            q = scan.quantity()
            if q is not None:
                scan.at = q.end
            elif scan.word() and scan.word() not in PLACES:
                scan.at += len(scan.word())
            else:
                break
            if scan.phrase(names, take=False) is not None:
                return scan.skip()
            if scan.phrase(kind_words(), take=False) is not None:  # one of them: what follows is said of that
                break
        scan.at = start
        return start

    def _said(self, draft: Draft, *, standing: bool, stop: int) -> None:
        """Everything that is said of a feature."""
        scan, words = self.scan, words_of(draft.cls)
        whole, scan.stop = scan.stop, min(stop, scan.stop)
        try:
            while True:
                scan.fillers()
                if (
                    scan.done
                    or scan.peek() in ",;)]"
                    or scan.word() == "then"
                    or (scan.word() == "and" and (standing or self._shape_next(words.fields)))
                ):
                    return
                scan.want(
                    (
                        *(" ".join(w) for w in words.fields),
                        *(" ".join(w) for w in words.bare),
                        *(("with",) if not standing else ("on the", "at")),
                    )
                )
                if scan.pass_word("and"):  # a lip of 12 and a radius of 3
                    continue
                if scan.word() == "with":
                    self._with(draft)
                elif not (
                    self.sayings.edgewise(draft)
                    or self.placings.one(draft, self.host, standing=standing or draft.laid)
                    or self.sayings.one(draft)
                ):
                    raise self.sayings.unknown(draft)
        finally:
            scan.stop = whole

    def _shape_next(self, fields: Mapping[tuple[str, ...], str]) -> bool:
        """Whether behind the word at the cursor the name of a shape follows, and none of a field."""
        scan, start = self.scan, self.scan.skip()
        scan.at += len(scan.word())
        scan.fillers()
        found = scan.phrase(fields, take=False) is None and scan.phrase(kind_words(), take=False) is not None
        scan.at = start
        return found

    def _with(self, draft: Draft) -> None:
        scan, outer = self.scan, self.host
        scan.pass_word("with")
        scan.fillers()
        if scan.phrase(kind_words(), take=False) is None and scan.phrase(words_of(draft.cls).fields, take=False) is not None:
            self.sayings.one(draft)  # with a lip of 12
            return
        if self._size_behind(draft):
            self.sayings.one(draft)  # with 30 opening
            return
        while True:
            self.host = draft
            works = self._features_of(standing=True)
            work, self.host = works[0], outer
            if not work.cls.stands:
                raise scan.fault(
                    f"{one(work.cls.title.lower())} takes bar of its own and can't be laid on another shape", ("hole",), work.start
                )
            draft.with_.extend((work, self._twin(work)) if work.both else works)
            if not scan.pass_word("and"):
                return

    def _size_behind(self, draft: Draft) -> bool:
        """Whether a number stands at the cursor, and behind it a word for one of the feature's own sizes."""
        scan, start = self.scan, self.scan.skip()
        q = scan.quantity()
        scan.at = q.end if q is not None else start
        own = q is not None and (q.sort not in ("", "length") or scan.word() in words_of(draft.cls).after)
        found = own and scan.phrase(kind_words(), take=False) is None  # 1 turn twist
        scan.at = start
        return found

    def _limb(self) -> tuple[Feature | Standing, ...]:
        """Features between square brackets, from the tip inwards."""
        scan = self.scan
        if not scan.take("["):
            raise scan.fault("its features stand between square brackets", ("[taper 60]",))
        self.deep += 1
        if self.deep > _DEEPEST:
            raise scan.fault("no bar is welded on that deep")
        row, standing = self._features()
        self.deep -= 1
        if not scan.take("]"):
            raise scan.fault("this bracket does not end", ("]", ","))
        return self.building.limb(row, standing)


def _tipped(row: list[Draft]) -> list[Draft]:
    """The row, with a curl that is said with a hook beside it, at its tip: on what is bent already nothing lies."""
    found: list[Draft] = []
    for i, draft in enumerate(row):
        bent = draft.cls.stands == "form" and issubclass(draft.cls, Outer) and i in (0, len(row) - 1)
        curls = [w for w in draft.with_ if bent and w.cls.kind == "curl" and w.place.silent]
        draft.with_ = [w for w in draft.with_ if w not in curls]
        found += [*curls, draft] if i == 0 else [draft, *curls]
    return found


def _told(count: int) -> str:
    return next((word for word, figure in _NUMBERS.items() if int(figure) == count), str(count))


def _bare(planning: Planning) -> Planning:
    return replace(planning, pins=(), overrules=(), methods=(), own=())


def proposed_words(written: Written, measure: Measure) -> tuple[str, ...]:
    """What the line leaves open, with what is proposed: `taper: tip 3 mm`."""
    found = list(written.besides)
    for identity, name in written.proposed:
        feature = written.piece.feature(identity)
        if feature is None or (written.bar is not None and written.floating == (identity, name)):
            continue
        if name == "place":
            found.append(f"{feature.title.lower()}: where it stands")
        elif name == "of":
            bar = written.piece.found(identity)[1].bar.blend
            found.append(f"{feature.title.lower()}: made of the {measure.length(bar.w)} × {measure.length(bar.t)} beside it")
        else:
            spec = specs(feature)[name]
            value = getattr(feature, name)
            plain = isinstance(spec, Length) and not isinstance(spec, Pitch)
            shown = measure.length(value) if plain else spec.show(value, measure)
            found.append(f"{feature.title.lower()}: {spec.label.lower()} {shown}")
    return tuple(dict.fromkeys(found))  # what is alike at either end is proposed once
