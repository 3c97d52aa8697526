"""What is said of one feature: sizes with and without their names, choices, sections, text."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from long_ember.errors import EntryError, NoAnswer
from long_ember.features import Feature, Standing
from long_ember.fields import Choice, Field, Flag, Length, Limb, Number, Percent, Pitch, SectionField, Text, specs
from long_ember.sections import SHAPES, Section, round_
from long_ember.shorthand.drafts import Draft
from long_ember.shorthand.scanner import Amount, Scanner, ShorthandError, nearest
from long_ember.shorthand.vocabulary import flag_words, kind_words, numbers_of, words_of
from long_ember.units import one

__all__ = ["RIGHT_ANGLE", "Sayings", "choice_words"]

_FLAT_FORMS = ("flat",)

_EDGEWISE = dict.fromkeys([("on", "edge"), ("edgewise",), ("the", "hard", "way"), ("hard", "way")], True)
_FLATWISE = dict.fromkeys([("on", "the", "flat"), ("flatwise",), ("the", "easy", "way"), ("easy", "way")], True)
_PARTS_OF_TURN = {
    (*words, turn): share
    for words, share in ((("quarter",), 0.25), (("half",), 0.5), (("half", "a"), 0.5), (("three", "quarter"), 0.75), (("full",), 1.0))
    for turn in ("turn", "turns")
}
RIGHT_ANGLE = dict.fromkeys([("right", "angle"), ("right-angle",)], True)
_UNIFIED = re.compile(r"((?:\d+\s+)?\d+/\d+|\d)\s?-\s?(\d{1,2})(?![\d/.])")
_POINTED = 1.0  # mm, of what is drawn to a point


class Sayings:
    """Reads what is said of a feature, one thing after the other.

    Args:
        scan: the line.
        limb: reads the features of a limb between square brackets.
    """

    def __init__(self, scan: Scanner, limb: Callable[[], tuple[Feature | Standing, ...]]) -> None:
        self.scan, self._limb = scan, limb

    def unknown(self, draft: Draft) -> ShorthandError:
        """Why the word at the cursor says nothing of a feature."""
        scan, words = self.scan, words_of(draft.cls)
        known = [" ".join(w) for w in (*words.fields, *words.bare)]
        word, title = scan.word(), draft.cls.title.lower()
        if not word:
            raise scan.fault(f"'{scan.peek()}' does not belong here", (",", ";"))
        near = nearest(word, known)
        if scan.phrase(kind_words(), take=False) is not None and not near:
            return scan.fault(f"another shape begins here: put a comma before '{word}'", (f", {word}",))
        return scan.fault(f"'{word}' says nothing of {one(title)}", near or [k for k in known if k not in ("name", "called", "note")][:6])

    def one(self, draft: Draft) -> bool:
        """One thing that is said of it; whether there was any."""
        scan, words = self.scan, words_of(draft.cls)
        known = specs(draft.cls)
        said: dict[tuple[str, ...], tuple[str, Any]] = {w: ("bare", of) for w, of in words.bare.items()}
        said.update({w: ("field", name) for w, name in words.fields.items()})
        if "length" in known:  # drawn over so much, two turns in so much
            over = ("over", "in") if "turns" in known and scan.number_behind() else ("over",)
            said = {**{(w,): ("field", "length") for w in over}, **said}
        if "pitch" in known and (self._metric(draft) or self._unified(draft)):
            return True
        if "facing" in known:
            said = {**{(w,): ("bare", ("facing", v)) for w, v in (("up", 0.0), ("front", 90.0), ("down", 180.0), ("back", 270.0))}, **said}
        if self._down_to(draft) or (scan.word() == "to" and self._into(draft)):
            return True
        if "angle" in known and scan.phrase(RIGHT_ANGLE):
            draft.values["angle"] = 90.0
            return True
        if "turns" in known and (part := scan.phrase(_PARTS_OF_TURN)) is not None:
            draft.values["turns"] = part
            return True
        found = scan.phrase(said)
        if found is not None:
            if found[0] == "bare":
                name, value = found[1]
                draft.values[name] = value
            elif not self._labelled(draft, found[1], known[found[1]]):
                raise scan.fault(f"{known[found[1]].label} needs a value here", (known[found[1]].example,))
            elif words.after.get(scan.word()) == found[1]:  # `to 12 thick`: named once more
                scan.at += len(scan.word())
            return True
        if scan.peek() == '"' and "name" not in draft.values:
            draft.values["name"] = scan.quoted()
            return True
        if scan.take("?"):
            name = next((n for n in numbers_of(draft.cls, draft.values) if n not in draft.values), "")
            if not name:
                raise scan.fault("all its sizes are given")
            draft.free.append(name)
            return True
        return self._number(draft)

    def _down_to(self, draft: Draft) -> bool:
        """`down to` is to."""
        scan, start = self.scan, self.scan.skip()
        if scan.pass_word("down") and scan.word() == "to" and self._into(draft):
            return True
        scan.at = start
        return False

    def edgewise(self, draft: Draft) -> bool:
        """Bent the hard way, over the width of a flat, or the easy one."""
        if "facing" not in specs(draft.cls):
            return False
        if self.scan.phrase(_EDGEWISE):
            draft.values["facing"] = 90.0
            return True
        return bool(self.scan.phrase(_FLATWISE))

    def _metric(self, draft: Draft) -> bool:
        """`M12`, or `M12 x 1.25`: millimetres whatever the line is in."""
        scan = self.scan
        start = scan.skip()
        if not scan.pass_word("m"):
            return False
        q = scan.quantity()
        if q is None or q.sort:
            scan.at = start
            return False
        scan.at = q.end
        self._name(draft, "diameter", q._replace(text=f"{q.text} mm", sort="length"))
        at = scan.at
        if scan.pass_word("x") or scan.take("×"):
            pitch = scan.quantity()
            if pitch is None or pitch.sort:
                scan.at = at
            else:
                scan.at = pitch.end
                mm = pitch._replace(text=f"{pitch.text} mm", sort="length")
                beyond = "length" in specs(draft.cls) and scan.length(mm) >= float(draft.values["diameter"]) / 2  # `M12 x 40`: so long
                self._name(draft, "length" if beyond else "pitch", mm)
        return True

    def _unified(self, draft: Draft) -> bool:
        """`1/2-13`: inches and threads an inch, whatever the line is in."""
        scan = self.scan
        match = _UNIFIED.match(scan.text, scan.skip(), scan.stop)
        if match is None or "diameter" in draft.values:
            return False
        scan.at = match.end()
        self._name(draft, "diameter", Amount(f"{match[1]} in", "length", match.start(), match.end(1)))
        self._name(draft, "pitch", Amount(f"{match[2]} tpi", "pitch", match.start(2), match.end()))
        return True

    def _into(self, draft: Draft) -> bool:
        """`to` and a section, or a size: what it is drawn, swelled or narrowed to."""
        scan, words = self.scan, words_of(draft.cls)
        start = scan.skip()
        scan.pass_word("to")
        scan.fillers()
        if draft.cls.kind == "taper" and scan.pass_word("point"):
            draft.values["tip"] = _POINTED
            return True
        if draft.cls.kind == "taper" and (self._thin(draft) or self._wide_and_thick(draft)):
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
        if words.into == "section" and (alike := self._alike()) is not None:
            draft.values[words.into] = alike
            return True
        if self._spread(draft):
            return True
        scan.at = start
        return False

    def _spread(self, draft: Draft) -> bool:
        """`to 4 thick`; of what gets wider and thinner also `to 24 x 4`, or the one of them that it can only be: `to 4`, `to 24`."""
        scan = self.scan
        q = scan.quantity()
        if q is None or q.sort not in ("", "length"):
            return False
        start, scan.at = scan.at, q.end
        behind = scan.word()
        if behind in words_of(draft.cls).after:
            scan.at = start
            return self._number(draft)
        if not {"width", "thickness"} <= specs(draft.cls).keys():
            return False
        sizes = [q]
        if behind in ("x", "by"):
            scan.at += len(behind)
            other = scan.quantity()
            if other is None or other.sort not in ("", "length"):
                return False
            sizes, scan.at = sorted((q, other), key=scan.length), other.end
        thin = len(sizes) == 2 or scan.bar is None or scan.length(q) < scan.bar.thickness
        for name, size in zip(("thickness", "width") if thin else ("width",), sizes, strict=False):
            self._name(draft, name, size)
        return True

    def _alike(self) -> Section | None:
        """One size, as a section of the bar's own shape; None where that has two."""
        scan, bar = self.scan, self.scan.bar
        q = scan.quantity()
        if q is None or q.sort not in ("", "length") or bar is None or SHAPES[bar.shape].two_sizes:
            return None
        scan.at, size = q.end, scan.length(q)
        try:
            return Section(bar.shape, size, size * SHAPES[bar.shape].ratio)
        except NoAnswer as error:
            raise ShorthandError(scan.text, q.start, q.end - q.start, str(error)) from None

    def _thin(self, draft: Draft) -> bool:
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

    def _wide_and_thick(self, draft: Draft) -> bool:
        """`to 3 thick`, as wide as it is, or `to 10 wide 3 thick`."""
        scan, start, sizes = self.scan, self.scan.skip(), dict[str, float]()
        while (q := scan.quantity()) is not None and q.sort in ("", "length") and len(sizes) < 2:
            here, scan.at = scan.at, q.end
            word = scan.pass_word("wide", "thick")
            if not word or word in sizes:
                scan.at = here
                break
            sizes[word] = scan.length(q)
        if "thick" not in sizes or "form" in draft.values:
            scan.at = start
            return False
        draft.values |= {"tip": sizes["thick"], "form": "flat" if "wide" in sizes else "chisel"}
        if "wide" in sizes:
            draft.values["wide"] = sizes["wide"]
        return True

    def _two_sizes(self) -> bool:
        scan = self.scan
        q = scan.quantity()
        start, scan.at = scan.at, q.end if q is not None else scan.at
        found = q is not None and scan.word() == "x"
        scan.at = start
        return found

    def _number(self, draft: Draft) -> bool:
        """A number or a section without a name."""
        scan, words = self.scan, words_of(draft.cls)
        q = self._bare(draft, scan.quantity())
        if q is None:
            return False
        if words.section and words.section not in draft.values and scan.section_ahead():
            draft.values[words.section] = scan.section()
            return True
        if draft.cls.kind == "tenon" and not {"section", "through"} & draft.values.keys() and self._two_sizes():
            draft.values |= {"section": round_(scan.length(q)), "upset": 0.0}  # `tenon 12 x 20`: so thick, so long
            scan.at = q.end
            return True
        scan.at = q.end
        behind = scan.word()
        if behind not in words.after or q.sort not in ("", "length"):
            self._deal(draft, q)
        elif (other := self._smaller(draft, q, behind)) is not None:
            self._name(draft, "length", q)
            scan.at = other.end
            self._name(draft, words.after[behind], other)
        else:
            self._name(draft, words.after[behind], q)
            scan.at += len(behind)
            if draft.cls.kind == "tenon":  # so long in all, with nothing to rivet unless that is said
                draft.values.setdefault("upset", 0.0)
        return True

    def _bare(self, draft: Draft, q: Amount | None) -> Amount | None:
        """`80 turns 2`, in millimetres: nobody turns 80 times over 2, so the word belongs to the smaller number behind it."""
        scan = self.scan
        if q is None or q.sort != "turns" or scan.measure.unit != "mm" or "length" not in specs(draft.cls) or "length" in draft.values:
            return q
        start, scan.at = scan.at, q.end
        behind = scan.quantity()
        scan.at = start
        if behind is None or behind.sort or scan.number(behind) >= scan.number(q):
            return q
        return q._replace(sort="", end=q.start + len(q.text))

    def _smaller(self, draft: Draft, q: Amount, word: str) -> Amount | None:
        """`30 wide 20`: where no other word tells, the length is the larger one, and the word belongs to the number behind it."""
        scan = self.scan
        if word == "long" or "length" not in specs(draft.cls) or "length" in draft.values:
            return None
        start = scan.at
        scan.at += len(word)
        other = scan.quantity()
        scan.at = other.end if other is not None else start
        told = scan.word() in words_of(draft.cls).after
        scan.at = start
        return other if other is not None and not other.sort and not told and scan.length(other) < scan.length(q) else None

    def _deal(self, draft: Draft, q: Amount) -> None:
        """A number without a name: for the first field that is still without one."""
        scan, known = self.scan, specs(draft.cls)
        left = [n for n in numbers_of(draft.cls, draft.values) if n not in draft.values and n not in draft.free]
        if q.sort == "angle" and "turns" in left and not any(_takes(known[n], n, q) for n in left):
            q = q._replace(text=f"{scan.number(q) / 360:g}", sort="turns")  # so many degrees of a twist
        name = next((n for n in left if _takes(known[n], n, q) and not (n == "pitch" and self._beyond_pitch(draft, q))), "")
        if not name:
            scan.at = q.start
            what = "another number" if not q.sort else f"'{q.text}'"
            raise scan.fault(
                f"{what} says nothing of {one(draft.cls.title.lower())}", [" ".join(w) for w in words_of(draft.cls).fields][:6]
            )
        draft.dealt[name] = q
        self._put(draft, name, known[name], q)

    def _beyond_pitch(self, draft: Draft, q: Amount) -> bool:
        """A number that no thread of the diameter that was said can have for its pitch: it is a length."""
        return not q.sort and "diameter" in draft.values and self.scan.length(q) >= float(draft.values["diameter"]) / 2

    def _name(self, draft: Draft, name: str, q: Amount) -> None:
        """A number for the field that is named with it; one without a name that was taken for that field goes to the next."""
        spec = specs(draft.cls)[name]
        if name in draft.named:
            raise ShorthandError(self.scan.text, q.start, q.end - q.start, f"{spec.label.lower()} is said twice", ())
        draft.named.add(name)
        dealt = draft.dealt if name in draft.dealt else {}
        if dealt:
            draft.dealt = {}
            for other in dealt:
                del draft.values[other]
        self._put(draft, name, spec, q)
        end = self.scan.at
        for amount in dealt.values():
            self._deal(draft, amount)
        self.scan.at = end

    def _put(self, draft: Draft, name: str, spec: Field, q: Amount) -> None:
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

    def _labelled(self, draft: Draft, name: str, spec: Field) -> bool:
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
            self._name(draft, name, q)
            return True
        if isinstance(spec, SectionField):
            if spec.optional and scan.pass_word("none", "bar"):
                draft.values[name] = None
            else:
                draft.values[name] = scan.section()
            return True
        if isinstance(spec, (Choice, Flag)):
            phrases = flag_words(spec) if isinstance(spec, Flag) else choice_words(spec)
            scan.want(" ".join(w) for w in phrases)
            value = scan.phrase(phrases)
            if value is None:
                word = scan.word() or scan.peek()
                shown = [" ".join(w) for w in phrases]
                raise scan.fault(f"'{word}' is none of what {spec.label.lower()} may be", nearest(word, shown) or shown[:6])
            draft.values[name] = value
            return True
        return self._parsed(draft, name, spec, start)

    def _parsed(self, draft: Draft, name: str, spec: Field, start: int) -> bool:
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
                if isinstance(spec, Number):
                    raise scan.fault(f"{spec.label.lower()} needs a number behind its name", (spec.example,))
                raise scan.fault(f"{spec.label.lower()} stands between quotes", ('"…"',))
        try:
            draft.values[name] = spec.read(text, scan.measure, scan.thickness)
        except EntryError as error:
            raise ShorthandError(scan.text, start, max(scan.at - start, 1), error.reason, (error.example,)) from None
        return True


def choice_words(spec: Choice) -> dict[tuple[str, ...], str]:
    """Everything that may be said for the values of a choice, as words."""
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
