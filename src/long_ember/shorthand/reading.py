"""A whole piece from one line of a smith's shorthand (docs/shorthand.md)."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from typing import Any, NamedTuple, TypeVar

from long_ember.document import checked, fit_bar, laid_on
from long_ember.errors import EmberError, EntryError, NoAnswer
from long_ember.features import KINDS, Feature, Outer, Piece, Planning, Run, Standing
from long_ember.fields import Choice, Field, Flag, Length, Limb, Number, Percent, Pitch, SectionField, Text, inched, specs
from long_ember.heats import ForgeSettings
from long_ember.sections import Section
from long_ember.shorthand.scanner import Amount, Scanner, ShorthandError, nearest
from long_ember.shorthand.vocabulary import flag_words, kind_words, landmark_words, material_words, unsaid, wants_saying, words_of
from long_ember.units import Measure

__all__ = ["Proposed", "Written", "completions", "proposed_words", "read_line", "settled", "usual_place", "usual_toward"]

_T = TypeVar("_T")

_DEEPEST = 6  # limbs within limbs
_MOST = 400  # features of a line
_BEFORE = 4  # words and numbers that may stand before the name of a kind
_ORDINALS = {"first": 1, "second": 2, "third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "last": -1}
_ENDS = {("end", "a"): "A", ("end", "b"): "B"}
_EDGES = {
    ("a", "end"): "A", ("end", "a"): "A", ("b", "end"): "B", ("end", "b"): "B", ("middle",): "middle", ("end", "toward", "a"): "A",
    ("end", "toward", "b"): "B",
}  # fmt: skip
_PLACES = ("on", "in", "at", "from", "toward", "towards")
_FLAT_FORMS = ("flat",)
_INNER = 0.4  # of the outer radius, that a spiral is proposed to begin with
_TOUCH = 1e-6
_SEAT = 2.0  # diameters of its hole that a countersink is proposed with
_BENCH = ForgeSettings()


class Proposed(NamedTuple):
    """A size that the line does not say.

    Args:
        feature: id.
        field: name of its field; "place" for where it stands.
    """

    feature: str
    field: str


class Written(NamedTuple):
    """What a line says.

    Args:
        piece: it describes; sizes that it leaves open are proposed.
        proposed: those sizes, in the order of the line.
        bar: mm of bar that it is to be made of, None where it does not say.
        floating: feature and field that follow from that bar, None where it names none.
        places: index in the line of each feature's first word, by id.
    """

    piece: Piece
    proposed: tuple[Proposed, ...]
    bar: float | None
    floating: tuple[str, str] | None
    places: dict[str, int]


class _Place:
    """Where something stands, as far as it was said."""

    def __init__(self) -> None:
        self.on: str | _Landmark | None = None
        self.edge, self.along = "", ""
        self.at: float | None = None

    @property
    def silent(self) -> bool:
        return self.on is None and self.at is None and not self.edge


class _Landmark(NamedTuple):
    words: tuple[str, ...]
    name: str
    number: int
    start: int
    span: int


class _Draft:
    """A feature while it is read."""

    def __init__(self, kind: str, preset: dict[str, str], identity: str, start: int) -> None:
        self.cls, self.id, self.start = KINDS[kind], identity, start
        self.values: dict[str, Any] = dict(preset)
        self.free: list[str] = []
        self.seat = False  # a countersink without its size
        self.place = _Place()
        self.with_: list[_Draft] = []

    def made(self, bar: Section, toward: str, unit: str) -> Feature:
        """The feature, with the sizes that were not said as they suit the bar."""
        feature = self.cls(id=self.id).fitted(bar)
        feature = inched(feature) if unit == "in" else feature
        values, known = self.values, specs(self.cls)
        if isinstance(feature, Outer) and "toward" not in values:
            values = {**values, "toward": toward}
        if "inner" in known and "outer" in values and "inner" not in values:
            values = {**values, "inner": min(feature.inner, _INNER * float(values["outer"]))}  # type: ignore[attr-defined]
        if self.seat:
            hole = float(values.get("diameter", getattr(feature, "diameter", 0.0)))
            values = {**values, "sink": max(min(_SEAT * hole, 0.8 * bar.width), 1.2 * hole)}
        return replace(feature, **values)

    def proposed(self, feature: Feature, *, standing: bool) -> list[Proposed]:
        """Sizes that were not said and mean something."""
        said = {n for n in self.values if n not in self.free} | unsaid(feature, standing)
        return [Proposed(self.id, name) for name in specs(feature) if name not in said and wants_saying(feature, name)]


def usual_toward(outers: Sequence[bool], index: int) -> str:
    """Which way the outer end of a feature points where nobody says so: outwards at an end, else to the end that only outer ends lie before.

    Args:
        outers: of the features of a row, whether each has an outer end.
        index: of the feature.
    """
    if index == 0:
        return "A"
    return "A" if index < len(outers) - 1 and all(outers[:index]) else "B"


def read_line(text: str, measure: Measure | None = None, base: Piece | None = None) -> Written:
    """Read a piece.

    Args:
        text: of the line.
        measure: decides the unit of a bare number where the bar has none.
        base: whose name, allowances and planning it keeps, and whose bar where the line names none.

    Raises:
        ShorthandError: at the word, with what would work.
    """
    return _Reader(text, measure or Measure(), base or Piece()).line()


def completions(text: str, measure: Measure | None = None, base: Piece | None = None) -> tuple[str, ...]:
    """Words that may stand at the end of a line; where it ends within a word, those that begin so."""
    reader = _Reader(text, measure or Measure(), base or Piece())
    with contextlib.suppress(EmberError):
        reader.line()
    at, words = reader.scan.wants
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
    return fit_bar(written.piece, *written.floating, marked, ruler=ruler, forge=forge).after


class _Reader:
    def __init__(self, text: str, measure: Measure, base: Piece) -> None:
        self.scan, self.base = Scanner(text, measure), base
        self.drafts: list[_Draft] = []
        self.deep = 0

    def line(self) -> Written:
        scan = self.scan
        name = scan.quoted()
        bar, material, length = self._head()
        row = self._row()
        standing = self._standing() if scan.take(";") else []
        if not scan.done:
            raise scan.fault("nothing is expected here", (",", ";"))
        piece = replace(self.base, bar=bar, material=material, features=(), standing=(), name=self.base.name if name is None else name)
        if self.base.features:  # what was settled about its features is about others
            piece = replace(piece, measured=tuple(m for m in piece.measured if not m.feature), planning=_bare(piece.planning))
        piece, proposed = self._built(piece, row, standing)
        free = next(((d.id, d.free[0]) for d in row if d.free), None)
        if length is not None and free is None and not any(d.free for d in self.drafts):
            free = next(((d.id, "length") for d in row if issubclass(d.cls, Run) and "length" not in d.values), None)
        return Written(piece, tuple(proposed), length, free, {d.id: d.start for d in self.drafts})

    # --- the bar

    def _head(self) -> tuple[Section, str, float | None]:
        scan, base = self.scan, self.base
        scan.want(("12 mm sq:", "1/2 in rd:", "25 x 6 mm flat:"))
        if scan.quantity() is None:
            scan.thickness = base.bar.thickness
            return base.bar, base.material, None
        start = scan.skip()
        bar = scan.section(bare_flat=True)
        scan.line_unit(scan.text[start : scan.at])
        scan.thickness = bar.thickness
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
        scan.fillers()
        q = scan.quantity()
        if q is None or q.sort not in ("", "length"):
            scan.at = start
            return None
        scan.at = q.end
        scan.pass_word("long")
        return scan.length(q)

    # --- features

    def _row(self) -> list[_Draft]:
        scan, found = self.scan, list[_Draft]()
        while not scan.done and scan.peek() not in ";])":
            found.append(self._feature(standing=False))
            if not scan.take(","):
                break
            scan.pass_word("and")
        return found

    def _standing(self) -> list[_Draft]:
        scan, found = self.scan, list[_Draft]()
        while not scan.done and scan.peek() not in ")]":
            draft = self._feature(standing=True)
            if draft.place.on is None and found:  # what follows stands where the one before it does
                draft.place.on = found[-1].place.on
            found.append(draft)
            if not scan.take(",") and not scan.take(";"):
                break
            scan.pass_word("and")
        return found

    def _feature(self, *, standing: bool) -> _Draft:
        scan = self.scan
        if len(self.drafts) >= _MOST:
            raise scan.fault(f"no line has more than {_MOST} features")
        scan.fillers()
        start = scan.at
        scan.want(" ".join(words) for words in kind_words())
        found = scan.phrase(kind_words())
        before = start
        if found is None:
            before = self._kind_later(start)
            found = scan.phrase(kind_words())
        if found is None:
            scan.at = start
            word = scan.word()
            known = [" ".join(words) for words in kind_words()]
            if not word:
                raise scan.fault("the name of a shape is expected here", ("taper", "run", "hook", "leaf"))
            raise scan.fault(f"'{word}' is no shape that is known here", nearest(word, known) or ("taper", "run", "hook", "leaf"))
        draft = _Draft(found[0], found[1], f"f{len(self.drafts) + 1}", start)
        self.drafts.append(draft)
        behind, scan.at = scan.at, start
        if before > start:
            self._said(draft, standing=standing, stop=before)
        scan.at = behind
        self._said(draft, standing=standing, stop=scan.stop)
        return draft

    def _kind_later(self, start: int) -> int:
        """Where the name of a kind stands a few words on: a round taper, a 6 hole; there the cursor is left."""
        scan = self.scan
        for _turn in range(_BEFORE):
            q = scan.quantity()
            if q is not None:
                scan.at = q.end
            elif scan.word() and scan.word() not in _PLACES:
                scan.at += len(scan.word())
            else:
                break
            if scan.phrase(kind_words(), take=False) is not None:
                return scan.skip()
        scan.at = start
        return start

    def _said(self, draft: _Draft, *, standing: bool, stop: int) -> None:
        """Everything that is said of a feature."""
        scan, words = self.scan, words_of(draft.cls)
        whole, scan.stop = scan.stop, min(stop, scan.stop)
        try:
            while True:
                scan.fillers()
                if scan.done or scan.peek() in ",;)]" or (standing and scan.word() == "and"):
                    return
                scan.want(
                    (
                        *(" ".join(w) for w in words.fields),
                        *(" ".join(w) for w in words.bare),
                        *(("with",) if not standing else ("on the", "at")),
                    )
                )
                if scan.word() == "with":
                    self._with(draft)
                elif not (self._place(draft, standing=standing) or self._one(draft)):
                    raise self._unknown(draft)
        finally:
            scan.stop = whole

    def _unknown(self, draft: _Draft) -> ShorthandError:
        scan, words = self.scan, words_of(draft.cls)
        known = [" ".join(w) for w in (*words.fields, *words.bare)]
        word, title = scan.word(), draft.cls.title.lower()
        if not word:
            raise scan.fault(f"'{scan.peek()}' does not belong here", (",", ";"))
        near = nearest(word, known)
        if scan.phrase(kind_words(), take=False) is not None and not near:
            return scan.fault(f"another shape begins here: put a comma before '{word}'", (f", {word}",))
        return scan.fault(f"'{word}' says nothing of a {title}", near or [k for k in known if k not in ("name", "called", "note")][:6])

    def _with(self, draft: _Draft) -> None:
        scan = self.scan
        scan.pass_word("with")
        while True:
            work = self._feature(standing=True)
            if not work.cls.stands:
                raise scan.fault(
                    f"a {work.cls.title.lower()} takes bar of its own and can't be laid on another shape", ("hole",), work.start
                )
            draft.with_.append(work)
            if not scan.pass_word("and"):
                return

    def _one(self, draft: _Draft) -> bool:
        """One thing that is said of it; whether there was any."""
        scan, words = self.scan, words_of(draft.cls)
        known = specs(draft.cls)
        said: dict[tuple[str, ...], tuple[str, Any]] = {w: ("bare", of) for w, of in words.bare.items()}
        said.update({w: ("field", name) for w, name in words.fields.items()})
        if "facing" in known:
            said = {**{(w,): ("bare", ("facing", v)) for w, v in (("up", 0.0), ("front", 90.0), ("down", 180.0), ("back", 270.0))}, **said}
        if scan.word() == "to" and self._into(draft):
            return True
        found = scan.phrase(said)
        if found is not None:
            if found[0] == "bare":
                name, value = found[1]
                draft.values[name] = value
            elif not self._labelled(draft, found[1], known[found[1]]):
                raise scan.fault(f"{known[found[1]].label} needs a value here", (known[found[1]].example,))
            return True
        if scan.peek() == '"' and "name" not in draft.values:
            draft.values["name"] = scan.quoted()
            return True
        if scan.take("?"):
            name = next((n for n in words.numbers if n not in draft.values), "")
            if not name:
                raise scan.fault("all its sizes are given")
            draft.free.append(name)
            return True
        return self._number(draft)

    def _into(self, draft: _Draft) -> bool:
        """`to` and a section, or a size: what it is drawn, swelled or narrowed to."""
        scan, words = self.scan, words_of(draft.cls)
        start = scan.skip()
        scan.pass_word("to")
        scan.fillers()
        if draft.cls.kind == "taper" and self._thin(draft):
            return True
        if draft.cls.kind == "taper" and (scan.section_ahead() or self._two_sizes()):
            section = scan.section(bare_flat=True)
            forms = dict(specs(draft.cls)["form"].choices)  # type: ignore[attr-defined]
            if section.shape not in forms:
                raise scan.fault(f"a taper does not end {section.shape}", ("3 mm rd", "3 mm sq"), start)
            draft.values |= {"form": section.shape, "tip": section.thickness}
            if section.shape in _FLAT_FORMS:
                draft.values["wide"] = section.width
            return True
        if words.into and scan.section_ahead():
            draft.values[words.into] = scan.section()
            return True
        scan.at = start
        return False

    def _thin(self, draft: _Draft) -> bool:
        """One size and the word flat: thin, and as wide as it is."""
        scan = self.scan
        q, start = scan.quantity(), scan.at
        if q is None or q.sort not in ("", "length"):
            return False
        scan.at = q.end
        if not scan.pass_word("flat"):
            scan.at = start
            return False
        draft.values |= {"form": "flat", "tip": scan.length(q)}
        return True

    def _two_sizes(self) -> bool:
        scan = self.scan
        q = scan.quantity()
        start, scan.at = scan.at, q.end if q is not None else scan.at
        found = q is not None and scan.word() == "x"
        scan.at = start
        return found

    def _number(self, draft: _Draft) -> bool:
        """A number or a section without a name."""
        scan, words, known = self.scan, words_of(draft.cls), specs(draft.cls)
        q = scan.quantity()
        if q is None:
            return False
        if words.section and words.section not in draft.values and scan.section_ahead():
            draft.values[words.section] = scan.section()
            return True
        scan.at = q.end
        behind = scan.word()
        name = ""
        if behind in words.after and q.sort in ("", "length"):
            name = words.after[behind]
            scan.at += len(behind)
        else:
            name = next((n for n in words.numbers if n not in draft.values and n not in draft.free and _takes(known[n], n, q)), "")
            if not name:
                scan.at = q.start
                what = "another number" if not q.sort else f"'{q.text}'"
                raise scan.fault(f"{what} says nothing of a {draft.cls.title.lower()}", [" ".join(w) for w in words.fields][:6])
        self._put(draft, name, known[name], q)
        return True

    def _put(self, draft: _Draft, name: str, spec: Field, q: Amount) -> None:
        """A quantity in a field."""
        scan = self.scan
        value: Any
        if isinstance(spec, Pitch) and q.sort == "pitch":
            value = spec.parse(q.text, scan.measure, scan.thickness)
        elif isinstance(spec, Length):
            value = scan.length(q)
        else:
            value = scan.number(q) / (100 if isinstance(spec, Percent) else 1)
            value = int(value) if isinstance(spec, Number) and spec.schema()["type"] == "integer" and value == int(value) else value
        problem = spec.problem(value)
        if problem:
            raise ShorthandError(
                scan.text, q.start, q.end - q.start, f"{spec.label.lower()} {spec.objection(value, scan.measure)}", (spec.example,)
            )
        draft.values[name] = value

    def _labelled(self, draft: _Draft, name: str, spec: Field) -> bool:
        """The value of a field that was named; whether there was one."""
        scan = self.scan
        scan.fillers()
        start = scan.at
        if scan.take("?"):
            draft.free.append(name)
            return True
        if isinstance(spec, Limb):
            draft.values[name] = self._limb()
            return True
        if isinstance(spec, Number):
            q = scan.quantity()
            if q is None:
                if name == "sink":
                    draft.seat = True
                    return True
                return self._parsed(draft, name, spec, start)
            scan.at = q.end
            self._put(draft, name, spec, q)
            return True
        if isinstance(spec, SectionField):
            if spec.optional and scan.pass_word("none", "bar"):
                draft.values[name] = None
            else:
                draft.values[name] = scan.section()
            return True
        if isinstance(spec, (Choice, Flag)):
            phrases = flag_words(spec) if isinstance(spec, Flag) else _choices(spec)
            scan.want(" ".join(w) for w in phrases)
            value = scan.phrase(phrases)
            if value is None:
                word = scan.word() or scan.peek()
                shown = [" ".join(w) for w in phrases]
                raise scan.fault(f"'{word}' is none of what {spec.label.lower()} may be", nearest(word, shown) or shown[:6])
            draft.values[name] = value
            return True
        return self._parsed(draft, name, spec, start)

    def _parsed(self, draft: _Draft, name: str, spec: Field, start: int) -> bool:
        """Text between quotes or brackets, or a word, as the field itself reads it."""
        scan = self.scan
        text = scan.quoted()
        if text is None:
            text = scan.enclosed()
        if text is None:
            text = scan.word()
            scan.at += len(text)
            if not text or (isinstance(spec, Text) and not isinstance(spec, Choice)):
                scan.at = start
                raise scan.fault(f"{spec.label.lower()} stands between quotes", ('"…"',))
        try:
            draft.values[name] = spec.read(text, scan.measure, scan.thickness)
        except EntryError as error:
            raise ShorthandError(scan.text, start, max(scan.at - start, 1), error.reason, (error.example,)) from None
        return True

    def _limb(self) -> tuple[Feature | Standing, ...]:
        """Features between square brackets, from the tip inwards."""
        scan = self.scan
        if not scan.take("["):
            raise scan.fault("its features stand between square brackets", ("[taper 60]",))
        self.deep += 1
        if self.deep > _DEEPEST:
            raise scan.fault("no bar is welded on that deep")
        row = self._row()
        standing = self._standing() if scan.take(";") else []
        self.deep -= 1
        if not scan.take("]"):
            raise scan.fault("this bracket does not end", ("]", ","))
        features = [self._feature_of(d, "A") for d in row]
        standing = [*(w for d in row for w in d.with_), *standing]
        hosts = {id(w): d for d in row for w in d.with_}
        names = [(d, f) for d, f in zip((*row, *standing), (*features, *(self._feature_of(s, "A") for s in standing)), strict=True)]
        placed = []
        for draft in standing:
            host = hosts.get(id(draft))
            feature = next(f for d, f in names if d is draft)
            if host is not None and draft.place.silent:
                placed.append(Standing(feature=feature, on=host.id, edge="middle", along="B", at=0.0))
                continue
            if host is not None and draft.place.on is None:
                draft.place.on = host.id
            found = self._explicit(draft, feature, [f for _d, f in names], len(row))
            if found is None:
                raise scan.fault("on a tine or a bar welded on, say where it stands", ("on the taper at 0",), draft.start)
            placed.append(found)
        return (*features, *placed)

    # --- where something stands

    def _place(self, draft: _Draft, *, standing: bool) -> bool:
        """A word or two about where it stands; whether there were any."""
        scan, place = self.scan, draft.place
        word = scan.word()
        if word not in _PLACES:
            return False
        start = scan.at
        if word in ("toward", "towards"):
            scan.pass_word(word)
            letter = scan.pass_word("a", "b")
            if not letter:
                raise scan.fault("toward which end?", ("A", "B"))
            if standing:
                place.along = letter.upper()
            elif "toward" in specs(draft.cls):
                draft.values["toward"] = letter.upper()
            else:
                raise scan.fault(f"a {draft.cls.title.lower()} has no outer end", (), start)
            return True
        if not standing or (word == "on" and self._on_face(draft)):
            return False
        scan.pass_word(word)
        if word == "at":
            q = scan.quantity()
            if q is not None:
                scan.at = q.end
                place.at = scan.length(q)
                return True
        if word in ("from", "at"):
            scan.pass_word("its", "the")
            edge = scan.phrase(_EDGES, take=False)
            if edge is not None and place.on is None and scan.phrase(_ENDS, take=False) is not None:
                place.on = scan.phrase(_ENDS)
            elif edge is not None:
                scan.phrase(_EDGES)
                place.edge = edge
                if scan.pass_word("of"):
                    place.on = self._landmark()
            else:
                place.on = self._landmark()
            return True
        place.on = self._landmark()
        return True

    def _on_face(self, draft: _Draft) -> bool:
        """`on` speaks of a face or an edge of the bar, not of a landmark."""
        scan = self.scan
        if words_of(draft.cls).fields.get(("on",)) is None:
            return False
        spec = specs(draft.cls)[words_of(draft.cls).fields["on",]]
        start = scan.skip()
        scan.pass_word("on")
        found = isinstance(spec, Choice) and scan.phrase(_choices(spec), take=False) is not None
        scan.at = start
        return found

    def _landmark(self) -> str | _Landmark:
        scan = self.scan
        scan.pass_word("the", "its")
        start = scan.skip()
        end = scan.phrase(_ENDS)
        if end is not None:
            return str(end)
        number = _ORDINALS.get(scan.pass_word(*_ORDINALS), 0)
        scan.want((*(" ".join(w) for d in self.drafts for w in ((d.cls.title.lower(),),)), "end A", "end B"))
        name = scan.quoted()
        words: tuple[str, ...] = ()
        if name is None:
            before = scan.skip()
            if scan.phrase(kind_words()) is None:
                word = scan.word()
                shown = list(dict.fromkeys([*(d.cls.title.lower() for d in self.drafts), "end A", "end B"]))
                raise scan.fault(f"'{word or scan.peek()}' is nothing that it could stand on", nearest(word, shown) or shown[:6])
            words = tuple(scan.text[before : scan.at].lower().split())
        q = scan.quantity()
        if q is not None and not q.sort and q.text.isdigit() and not number:
            number, scan.at = min(int(q.text), _MOST + 1), q.end
        return _Landmark(words, name or "", number, start, scan.at - start)

    def _resolved(self, landmark: _Landmark, features: Sequence[Feature], own: str) -> str:
        """The id of what a landmark speaks of."""
        if landmark.name:
            found = [f for f in features if f.name == landmark.name and f.id != own]
        else:
            found = [f for f in features if f.id != own and landmark.words in landmark_words(f)]
            _kind, said = kind_words().get(landmark.words, ("", {}))
            found = [f for f in found if all(getattr(f, n) == v for n, v in said.items())] or found
        number = landmark.number or len(found)
        if not found or number > len(found):
            what = landmark.name or " ".join(landmark.words)
            shown = list(dict.fromkeys(f.title.lower() for f in features if f.id != own))
            raise ShorthandError(
                self.scan.text,
                landmark.start,
                landmark.span,
                f"there is no {what}{f' {number}' if found else ''} that it could stand on",
                shown[:6],
            )
        return found[number - 1 if number > 0 else number].id

    # --- the piece

    def _feature_of(self, draft: _Draft, toward: str, bar: Section | None = None) -> Feature:
        try:
            return draft.made(bar or self.base.bar, toward, self.scan.measure.unit)
        except NoAnswer as error:
            raise self._refused(error, draft) from None

    def _refused(self, error: NoAnswer, draft: _Draft | None) -> ShorthandError:
        start = draft.start if draft is not None else 0
        remedy = f" {error.remedy}" if error.remedy else ""
        scan = self.scan
        scan.at = start
        return ShorthandError(scan.text, start, max(len(scan.word()), 1), f"{error.reason.rstrip('.')}.{remedy}".rstrip("."))

    def _explicit(self, draft: _Draft, feature: Feature, features: Sequence[Feature], rows: int) -> Standing | None:
        """What stands where the line says; None where it leaves that open."""
        place = draft.place
        on = self._resolved(place.on, features, draft.id) if isinstance(place.on, _Landmark) else place.on
        if on is None and place.at is not None:
            on = "A"
        if on in ("A", "B", None) or feature.stands != "work":
            if on is None or (place.at is None and not place.edge):
                return None
        elif place.at is None and not place.edge:  # a work without a distance lies in the middle
            return Standing(feature=feature, on=on, edge="middle", along="B", at=0.0)
        host = next((f for f in features if f.id == on), None)
        edge, along = usual_place(host, on, features[:rows])
        return Standing(
            feature=feature,
            on=on,
            edge=place.edge or edge,
            along=place.along or (edge_way(place.edge) if place.edge else along),
            at=place.at or 0.0,
        )

    def _built(self, piece: Piece, row: Sequence[_Draft], standing: Sequence[_Draft]) -> tuple[Piece, list[Proposed]]:
        by_id = {d.id: d for d in self.drafts}
        outers = [issubclass(d.cls, Outer) for d in row]
        features = [self._feature_of(d, usual_toward(outers, i), piece.bar) for i, d in enumerate(row)]
        proposed = [p for d, f in zip(row, features, strict=True) for p in d.proposed(f, standing=False)]
        piece = self._tried(lambda: checked(replace(piece, features=tuple(features))), by_id)
        works = [(w, d) for d in row for w in d.with_]
        everything = [*((w, host) for w, host in works), *((d, None) for d in standing)]
        made = {d.id: self._feature_of(d, "A", piece.bar) for d, _host in everything}
        named = [*features, *made.values()]
        placed: dict[str, Standing] = {}
        waiting: list[tuple[_Draft, str]] = []
        for draft, host in everything:
            if host is not None and draft.place.silent:
                placed[draft.id] = Standing(feature=made[draft.id], on=host.id, edge="middle", along="B", at=0.0)
                continue
            if host is not None and draft.place.on is None:
                draft.place.on = host.id
            found = self._explicit(draft, made[draft.id], named, len(row))
            on = draft.place.on
            if found is not None:
                placed[draft.id] = found
            elif not features:
                raise self._refused(
                    NoAnswer("Nothing is drawn yet that it could stand on.", "Write the bar's features before the semicolon."), draft
                )
            else:
                waiting.append((draft, self._resolved(on, named, draft.id) if isinstance(on, _Landmark) else _end_of(on, features)))
        order = [d.id for d, _host in everything]
        if placed:
            known = [placed[i] for i in order if i in placed]
            piece = self._tried(partial(checked, replace(piece, standing=tuple(known))), by_id)
        # A curl without a place is at the very tip, what else is laid there comes behind it.
        for draft, on in sorted(waiting, key=lambda w: w[0].cls.kind != "curl"):
            piece = self._tried(partial(laid_on, piece, on, made[draft.id], ""), by_id, draft).after
            if made[draft.id].stands != "work":
                proposed.append(Proposed(draft.id, "place"))
        stood = {s.id: s for s in piece.standing}
        if list(stood) != order:
            piece = replace(piece, standing=tuple(stood[i] for i in order))
        proposed += [p for d, _host in everything for p in d.proposed(made[d.id], standing=True)]
        return piece, proposed

    def _tried(self, make: Callable[[], _T], by_id: dict[str, _Draft], draft: _Draft | None = None) -> _T:
        try:
            return make()
        except NoAnswer as error:
            raise self._refused(error, by_id.get(error.feature_id, draft)) from None


def usual_place(host: Feature | None, on: str, row: Sequence[Feature]) -> tuple[str, str]:
    """Which end of its landmark a distance is measured from, and which way, where nobody says so.

    Args:
        host: its landmark, None for an end of the bar.
        on: id of the landmark, or the end.
        row: features with bar of their own: an outer end of one of these is where a distance begins.
    """
    if host is None:
        return "A", "B" if on == "A" else "A"
    outward = str(getattr(host, "toward", "A")) if any(f is host for f in row) else "A"
    return outward, edge_way(outward)


def edge_way(edge: str) -> str:
    """Which way it goes on from an end of its landmark: over it."""
    return "A" if edge == "B" else "B"


def _end_of(on: str | None, features: Sequence[Feature]) -> str:
    """The feature of the row that lies at an end; the last one where nothing was said."""
    return features[0].id if on == "A" else features[-1].id


def _choices(spec: Choice) -> dict[tuple[str, ...], str]:
    found: dict[tuple[str, ...], str] = {}
    for key, words in spec.choices:
        short = words.split(",")[0].split(":")[0]
        for text in (key, words.replace(",", " ").replace(":", " "), short, short.removeprefix("the ")):
            found.setdefault(tuple(text.lower().split()), key)
    return found


def _takes(spec: Field, name: str, q: Amount) -> bool:
    """A field may be what a number without a name speaks of."""
    if q.sort == "turns":
        return name == "turns"
    if q.sort == "angle":
        return spec.unit_words.startswith(", degrees")
    if q.sort == "pitch":
        return isinstance(spec, Pitch)
    if q.sort == "share":
        return isinstance(spec, Percent)
    return isinstance(spec, Length) if q.sort == "length" else not isinstance(spec, Percent) and name != "turns"


def _bare(planning: Planning) -> Planning:
    return replace(planning, pins=(), overrules=(), methods=(), own=())


def proposed_words(written: Written, measure: Measure) -> tuple[str, ...]:
    """What the line leaves open, with what is proposed: `taper: tip 3 mm`."""
    found = []
    for identity, name in written.proposed:
        feature = written.piece.feature(identity)
        if feature is None or (written.bar is not None and written.floating == (identity, name)):
            continue
        if name == "place":
            found.append(f"{feature.title.lower()}: where it stands")
        else:
            spec = specs(feature)[name]
            value = getattr(feature, name)
            shown = measure.length(value) if isinstance(spec, Length) else spec.show(value, measure)
            found.append(f"{feature.title.lower()}: {spec.label.lower()} {shown}")
    return tuple(found)
