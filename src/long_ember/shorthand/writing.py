"""One line of shorthand from a whole piece; reading it back gives the same piece."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from fractions import Fraction
from typing import Any

from long_ember.document import drawn_beside
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Feature, Formed, Outer, Piece, Standing
from long_ember.fields import Angle, Choice, Course, Field, Flag, Length, Lengths, Limb, Number, Percent, Pitch, SectionField, specs
from long_ember.sections import SHAPES, Section
from long_ember.shorthand.drafts import edge_way, takes_place, usual_place, usual_toward
from long_ember.shorthand.vocabulary import name_of, numbers_of, unsaid, wants_saying, words_of
from long_ember.units import Measure

__all__ = ["write_features", "write_line"]

_FINEST = 64  # of an inch, in which lengths are written as fractions
_NEW = Piece().name


def write_line(
    piece: Piece, measure: Measure | None = None, *, named: Mapping[tuple[str, str], str] | None = None, per: float = 0.0
) -> str:
    """A piece as one line: its name, bar and material, what it is forged to, and what stands on that.

    Args:
        piece: as it is planned.
        measure: in whose unit it is written.
        named: names that stand for sizes, by id of the feature and name of the field; in curly brackets.
        per: thickness of the bar, mm; where it is given the bar is left out, and every length is a multiple of it.
    """
    return _Writer(piece, (measure or Measure()).unit, named or {}, per).line()


def write_features(piece: Piece, ids: Sequence[str], measure: Measure | None = None) -> str:
    """Some features of a piece as a line, with what stands on them; the bar is left out.

    Args:
        piece: as it is planned.
        ids: of features of the row, or of what stands on them.
        measure: in whose unit it is written; lengths name it.
    """
    wanted = set(ids)
    row = [f for f in piece.features if f.id in wanted]
    row = row or [s.feature for s in piece.standing if s.id in wanted]
    known = {f.id for f in row}
    standing = tuple(s for s in piece.standing if s.on in known and s.id not in known)
    return _Writer(replace(piece, features=tuple(row), standing=standing), (measure or Measure()).unit, {}, 0.0, units=True).row()


class _Writer:
    def __init__(self, piece: Piece, unit: str, named: Mapping[tuple[str, str], str], per: float, *, units: bool = False) -> None:
        bar = piece.bar
        self.piece, self.unit, self.named, self.per, self.units = piece, unit, named, per, units
        # A bare number is read in the unit of the bar.
        if unit == "in" and not all(_inches(x) is not None for x in (bar.width, bar.thickness, bar.wall) if x):
            self.unit = "mm"

    def line(self) -> str:
        """Bar and all."""
        piece = self.piece
        name = f"{_quoted(piece.name)} " if piece.name not in ("", _NEW) else ""
        material = f" {piece.material.replace('-', ' ')}" if piece.material != "mild-steel" else ""
        head = f"{name}{self._section(piece.bar, explicit=True)}{material}"
        return self.row() if self.per else f"{head}: {self.row()}".rstrip()

    def row(self) -> str:
        """Features, and what stands on them."""
        piece = self.piece
        with_, rest = self._works(piece.features, piece.standing)
        outers = [isinstance(f, Outer) for f in piece.features]
        row = ", ".join(
            self._feature(f, usual_toward(outers, i), self._beside(i))
            + "".join(f" {'and' if n else 'with'} {self._feature(s.feature, '')}" for n, s in enumerate(with_.get(f.id, ())))
            for i, f in enumerate(piece.features)
        )
        everything = [*piece.features, *(s.feature for s in piece.standing)]
        standing = ", ".join(self._standing(s, everything, len(piece.features)) for s in rest)
        return f"{row}{'; ' if standing else ''}{standing}"

    def _works(self, row: Sequence[Feature], standing: Sequence[Standing]) -> tuple[dict[str, list[Standing]], list[Standing]]:
        """Works in the middle of a feature, said with it, as long as that keeps their order; and everything else."""
        found: dict[str, list[Standing]] = {}
        order = {f.id: i for i, f in enumerate(row)}
        last = 0
        for at, s in enumerate(standing):
            middle = s.feature.stands == "work" and (s.edge, s.along, s.at) == ("middle", "B", 0.0)
            second = takes_place(s.feature) and any(
                takes_place(o.feature) for o in found.get(s.on, ())
            )  # read, they would share its length
            if not middle or second or order.get(s.on, -1) < last or self._any_limb(row[order[s.on]]):
                return found, list(standing[at:])
            last = order[s.on]
            found.setdefault(s.on, []).append(s)
        return found, []

    def _any_limb(self, feature: Feature) -> bool:
        return any(isinstance(spec, Limb) for spec in specs(feature).values())

    # --- features

    def _beside(self, index: int) -> tuple[str, Section] | None:
        """What a feature of the row is taken to stand in where nobody says so, if that is not the bar: on which side, and its section."""
        if not isinstance(self.piece.features[index], Formed):
            return None
        with contextlib.suppress(NoAnswer):
            return drawn_beside(self.piece, index - 1, index + 1)
        return None

    def _feature(self, feature: Feature, toward: str, beside: tuple[str, Section] | None = None) -> str:
        """A feature; `toward` is where its outer end points if nobody says so, "" where that follows from how it stands."""
        cls, words, known = type(feature), words_of(type(feature)), specs(feature)
        stands, section = beside or ("bar", self.piece.bar)
        if getattr(feature, "of", stands) != stands:  # that is said, and the rest suits what it says
            section = self.piece.bar
        usual = cls(id="x").fitted(section)
        if section is not self.piece.bar and "tip" in known:
            usual = replace(usual, tip=None)  # type: ignore[call-arg]
        usual = usual.proposed(self.unit)
        silent = unsaid(feature, not toward)
        title, told = self._title(feature)
        parts = [title]
        before = False  # the number before this one has no name either: a length is told from it by a cross
        open_ = True  # numbers may still be written without a name
        labels = {name: " ".join(w) for w, name in words.fields.items() if len(w) == 1 and w[0] in ("over", "to", "countersunk")}
        row = numbers_of(cls, {told: getattr(feature, told)} if told else {})
        numbers = iter(n for n in row if n != "turns")
        order = [*(n for n in known if n == "turns"), *(next(numbers) if n in row else n for n in known if n != "turns")]
        for name in order:
            spec = known[name]
            value = getattr(feature, name)
            expected = {"toward": toward, "of": stands}[name] if name in ("toward", "of") else _expected(feature, usual, name)
            number = name in row and name != "turns" and not isinstance(spec, Percent)
            first = name == row[0] if row else False
            if name == told or name in silent or (value == expected and not wants_saying(feature, name) and not (first and value)):
                open_ = open_ and not number
                continue
            cross, before = before, False
            if name == "toward":
                parts.append(f"toward {value}")
            elif name == "name":
                parts.append(_quoted(value))
            elif isinstance(spec, Choice):
                parts.append(self._choice(cls, name, spec, value))
            elif isinstance(spec, Limb):
                parts.append(f"{spec.label.lower()} [{self._limb(value)}]")
            elif name == words.section:
                parts.append(self._section(value))
            elif name == "turns":
                parts.append(f"{self._told(feature, name, spec, value)} {'turn' if value == 1 else 'turns'}")
            elif number and open_ and name not in labels and (spec.mark or isinstance(spec, Angle) or row != words.numbers):
                before = isinstance(spec, Length)
                parts.append(("x " if cross and before else "") + self._told(feature, name, spec, value))
            else:
                open_ = open_ and not number
                label = labels.get(name) or spec.label.lower().replace(",", "")
                parts.append(f"{label} {self._told(feature, name, spec, value)}")
        return " ".join(parts)

    def _title(self, feature: Feature) -> tuple[str, str]:
        """What it is called, and the field whose choice that says besides."""
        for name, spec in specs(feature).items():
            if isinstance(spec, Choice) and (called := name_of(feature.kind, ((name, getattr(feature, name)),))):
                numbers, usual = numbers_of(type(feature), {name: getattr(feature, name)}), words_of(type(feature)).numbers
                if numbers == usual or getattr(feature, numbers[0]):  # else its first number would be read as another
                    return called, name
        return type(feature).title.lower(), ""

    def _choice(self, cls: type[Feature], name: str, spec: Choice, value: str) -> str:
        bare = words_of(cls).bare
        if bare.get((value,)) == (name, value) and value not in ("up", "front", "down", "back"):
            return value
        return f"{spec.label.lower()} {value}"

    def _limb(self, parts: Sequence[Feature | Standing]) -> str:
        row = [p for p in parts if isinstance(p, Feature)]
        standing = [p for p in parts if isinstance(p, Standing)]
        everything = [*row, *(s.feature for s in standing)]
        text = ", ".join(self._feature(f, "A") for f in row)
        return text + ("; " + ", ".join(self._standing(s, everything, len(row)) for s in standing) if standing else "")

    def _standing(self, s: Standing, everything: Sequence[Feature], rows: int) -> str:
        host = next((f for f in everything if f.id == s.on), None)
        edge, along = usual_place(host, s.on, everything[:rows])
        text = self._feature(s.feature, "")
        if host is None:
            way = f" toward {s.along}" if s.along != along else ""
            return f"{text} at {self._length(s.at)} from end {s.on}{way}"
        on = f" on {self._called(host, everything)}"
        if s.feature.stands == "work" and (s.edge, s.along, s.at) == ("middle", "B", 0.0):
            return text + on
        if s.edge != edge:
            along = edge_way(s.edge)
        from_ = f" from its {_edge(s.edge)}" if s.edge != edge else ""
        way = f" toward {s.along}" if s.along != along else ""
        return f"{text}{on} at {self._length(s.at)}{from_}{way}"

    def _called(self, host: Feature, everything: Sequence[Feature]) -> str:
        if host.name and sum(f.name == host.name for f in everything) == 1:
            return _quoted(host.name)
        same = [f for f in everything if type(f) is type(host)]
        title = type(host).title.lower()
        return f"the {title}" if len(same) == 1 else f"{title} {next(i for i, f in enumerate(same, 1) if f is host)}"

    # --- values, each written so that it is read as just the same

    def _told(self, feature: Feature, name: str, spec: Field, value: Any) -> str:
        key = self.named.get((feature.id, name))
        return f"{{{key}}}" if key else self._value(spec, value)

    def _value(self, spec: Field, value: Any) -> str:
        if value is None:
            return "none"
        if isinstance(spec, SectionField):
            return self._section(value)
        if isinstance(spec, Pitch):
            return self._length(value, explicit=True)
        if isinstance(spec, Length):
            return self._length(value)
        if isinstance(spec, Lengths):
            return "(" + "; ".join(f"{_plain(v)} mm" for v in value) + ")"
        if isinstance(spec, Number):
            return self._number(spec, value)
        if isinstance(spec, Flag):
            return spec.on if value else spec.off
        return _quoted(f"mm {value}" if isinstance(spec, Course) and self.unit == "in" else value)

    def _number(self, spec: Number, value: float) -> str:
        if isinstance(spec, Percent):
            return f"{next(_plain(v) for v in _shares(value))} %"
        return f"{'-' if value < 0 else ''}{_plain(abs(value))}{'°' if spec.unit_words.startswith(', degrees') else ''}"

    def _length(self, mm: float, *, explicit: bool = False) -> str:
        if self.per:
            return f"{{#{_plain(mm / self.per)}*t}}" if mm else "0"
        if self.unit == "mm":
            return f"{_plain(mm)}{' mm' if explicit or self.units else ''}"
        steps = _inches(mm)
        if steps is None:
            return f"{_plain(mm)} mm"
        whole, part = divmod(steps, 1)
        text = " ".join(t for t in (f"{whole}" if whole or not part else "", f"{part.numerator}/{part.denominator}" if part else "") if t)
        return f"{text}{' in' if (explicit or self.units) and not part else ''}"

    def _section(self, section: Section, *, explicit: bool = False) -> str:
        shape = SHAPES[section.shape]
        sizes = [section.width, section.wall if shape.hollow else section.thickness] if shape.two_sizes else [section.width]
        mixed = self.unit == "in" and any(_inches(s) is None for s in sizes)  # a unit behind the last size would be taken for both
        text = " x ".join(self._length(s, explicit=mixed or (explicit and (s is sizes[-1] or self.unit == "in"))) for s in sizes)
        corner = f" {'broken' if section.broken else 'corners'} {self._length(section.corner, explicit=explicit)}" if section.corner else ""
        word = shape.words[0] if shape.two_sizes or len(shape.words) < 2 else shape.words[1]
        return f"{text} {word}{corner}"


def _inches(mm: float) -> Fraction | None:
    """A length as a fraction of an inch, None where it is none that is marked."""
    steps = Fraction(round(mm / 25.4 * _FINEST), _FINEST)
    return steps if float(steps * Fraction("25.4")) == mm else None


def _plain(value: float) -> str:
    """A number without a power of ten, with all the figures that tell it from its neighbours."""
    text = format(Decimal(repr(float(value))), "f")
    return text.removesuffix(".0") if text.endswith(".0") else text


def _shares(value: float) -> Any:
    """Per cent that are read as a share again."""
    for digits in range(1, 18):
        percent = float(f"{value * 100:.{digits}g}")
        if percent / 100 == value:
            yield percent
    raise EmberError(f"{value!r} has no share in per cent.")


def _quoted(text: str) -> str:
    doubled = text.replace('"', '""')
    return f'"{doubled}"'


def _edge(edge: str) -> str:
    return "middle" if edge == "middle" else f"end toward {edge}"


def _expected(feature: Feature, usual: Feature, name: str) -> Any:
    """What the reader takes a field for that is not said, by all others that are."""
    if type(feature).followed is Feature.followed:
        return getattr(usual, name)
    said = {n: value for n in specs(feature) if n != name and (value := getattr(feature, n)) != getattr(usual, n)}
    return getattr(replace(usual, **said).followed(usual), name)
