"""The words of the shorthand: all from the registry of shapes, their fields, and what smiths call them besides."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any

from long_ember.features import KINDS, Feature, said_by
from long_ember.fields import Choice, Facing, Flag, Length, Number, Percent, SectionField, specs
from long_ember.frozen import NamedTuple
from long_ember.materials import MATERIALS

__all__ = [
    "FILLERS",
    "Phrases",
    "Words",
    "flag_words",
    "kind_words",
    "landmark_words",
    "many_words",
    "material_words",
    "name_of",
    "numbers_of",
    "unsaid",
    "wants_saying",
    "words_of",
]

# Words that say nothing here: they may stand anywhere between values.
FILLERS = frozenset({"of", "a", "an", "the", "is", "x", "×", "by"})
_JOINING = frozenset({"to", "on", "at", "in", "from", "with"})
_LETTERS = frozenset({"a", "b", "one", "none", "bar", "all"})  # values that need their field's name before them
_SAID = {  # what smiths say for a field, beside its label
    "twist": {"over": "length"}, "taper": {"to": "tip"}, "neck": {"to": "size"}, "edge-set": {"to": "thickness"}, "upset": {"over": "length"},
    "section-change": {"over": "length"}, "hole": {"countersunk": "sink", "sunk": "sink", "over": "length"}, "surface": {"over": "length"},
    "chamfer": {"over": "length"}, "bevel": {"over": "length"}, "split": {"to": "angle"}, "thread": {"over": "length"},
    "drifted-eye": {"to": "diameter"},
}  # fmt: skip
_PLAIN = ("between", "plain")  # so much bar as it is
_FIRST = {"curl": ("outer", "inner"), "scroll": ("outer", "inner")}  # numbers that are said before the others
# … where something is chosen: a slot is so long and so wide, and no eye comes of it
_CHOSEN_FIRST = {("drifted-eye", "form", "slot"): ("slot", "punch")}
_AFTER = {
    "long": "length",
    "wide": "width",
    "thick": "thickness",
    "deep": "depth",
    "high": "height",
    "across": "diameter",
    "dia": "diameter",
    "inside": "inside",
    "id": "inside",
    "opening": "inside",
}
_AFTER_ONE = {("tenon", "long"): "through"}

Phrases = dict[tuple[str, ...], Any]


class Words(NamedTuple):
    """What may be said of one kind.

    Args:
        fields: names of its fields, as tuples of words.
        bare: values of its choices that need no name before them: field and value.
        numbers: fields that take numbers without a name, in order.
        section: field that takes a section without a name, "" for none.
        into: field that `to` speaks of where a section follows, "" for none.
        after: words behind a number, and the field that they speak of.
        methods: ways in which it can be made.
    """

    fields: Phrases
    bare: Phrases
    numbers: tuple[str, ...]
    section: str
    into: str
    after: dict[str, str]
    methods: tuple[str, ...]


def _split(text: str) -> tuple[str, ...]:
    return tuple(text.lower().replace(",", " ").replace(":", " ").split())


@cache
def kind_words() -> dict[tuple[str, ...], tuple[str, dict[str, Any]]]:
    """Every name of a kind, as words, with the kind and what the name says of it besides; titles come before other names."""
    found: dict[tuple[str, ...], tuple[str, dict[str, Any]]] = {}
    for kind, cls in KINDS.items():
        for name in (cls.title, kind):
            found[_split(name)] = kind, {}
    for kind, cls in KINDS.items():
        for name in cls.also:
            found.setdefault(_split(name), (kind, said_by(cls, name.lower())))
    for name in _PLAIN:
        found.setdefault((name,), ("run", {}))
    found.setdefault(("vein",), found["veins",])
    return found


@cache
def many_words() -> Phrases:
    """The same of several: holes, countersunk holes."""
    return {
        (*words[:-1], f"{words[-1]}s"): meant for words, meant in kind_words().items() if (*words[:-1], f"{words[-1]}s") not in kind_words()
    }


def words_of(cls: type[Feature]) -> Words:
    """What may be said of a kind."""
    return _words_of(cls.kind)


@cache
def _words_of(kind: str) -> Words:
    cls = KINDS[kind]
    known = specs(cls)
    names: Phrases = {}
    firsts: dict[tuple[str, ...], list[str]] = {}
    for field, spec in known.items():
        label = _split(spec.label)
        names.setdefault(label, field)
        firsts.setdefault(label[:1], []).append(field)
    for field in known:
        if field != "of":
            names.setdefault((field,), field)
    for first, those in firsts.items():
        if len(those) == 1 and first[0] not in FILLERS and first[0] not in _JOINING:
            names.setdefault(first, those[0])
    for word, field in _SAID.get(kind, {}).items():
        names[_split(word)] = field
    if "name" in known:
        names["called",] = "name"
    if "radius" in known:
        names.setdefault(("r",), "radius")
    bare: Phrases = {}
    twice = set()
    for field, spec in known.items():
        choices = spec.choices if isinstance(spec, Choice) else ()
        for key, words in choices:
            if field in ("toward", "of"):
                continue
            for phrase in {_split(key), _split(words), _split(words.split(",")[0].split(":")[0])}:
                if len(phrase) == 1 and phrase[0] in _LETTERS:
                    continue
                if phrase != _split(key) and any(phrase == _split(other) for other, _words in choices):
                    continue  # that one is called just so: a sharp corner is sharp, not upset first
                if phrase in names or bare.get(phrase, (field, key)) != (field, key):
                    twice.add(phrase)
                bare[phrase] = field, key
            if field == "hand":
                bare[key, "hand"] = bare[f"{key}-hand",] = field, key
    for phrase in twice:
        bare.pop(phrase, None)
    numbers = tuple(n for n, s in known.items() if isinstance(s, Number) and not isinstance(s, Facing) and not s.optional)
    numbers = tuple(sorted(numbers, key=lambda n: _FIRST.get(kind, ()).index(n) if n in _FIRST.get(kind, ()) else len(numbers)))
    sections = [n for n, s in known.items() if isinstance(s, SectionField)]
    method = known.get("method")
    first_size = next((n for n, s in known.items() if isinstance(s, (Length, SectionField))), "")
    return Words(
        names, bare, numbers, first_size if first_size in sections else "", next((n for n in sections if not known[n].optional), ""),
        {w: field for w, f in _AFTER.items() if isinstance(known.get(field := _AFTER_ONE.get((kind, w), f)), Length)},
        tuple(key for key, _words in method.choices) if isinstance(method, Choice) else (),
    )  # fmt: skip


def numbers_of(cls: type[Feature], chosen: Mapping[str, Any]) -> tuple[str, ...]:
    """Fields that take numbers without a name, in order, as a choice turns it.

    Args:
        cls: the kind.
        chosen: values of its fields so far.
    """
    numbers = words_of(cls).numbers
    first = next((row for (kind, field, value), row in _CHOSEN_FIRST.items() if kind == cls.kind and chosen.get(field) == value), ())
    return (*first, *(n for n in numbers if n not in first))


def landmark_words(feature: Feature) -> tuple[tuple[str, ...], ...]:
    """What a feature may be called by another that stands on it: its own name, its kind and all the names of that."""
    names = {feature.title, type(feature).title, feature.kind, *type(feature).also}
    return tuple({_split(n) for n in names if n})


@cache
def name_of(kind: str, said: tuple[tuple[str, str], ...]) -> str:
    """The name of a kind that says a choice besides, "" where there is none: a leaf, a palm.

    Args:
        kind: of the feature.
        said: one choice, field and value.
    """
    found = (" ".join(words) for words, (of, preset) in kind_words().items() if of == kind and tuple(preset.items()) == said)
    return next(found, "")


@cache
def material_words() -> dict[tuple[str, ...], str]:
    """Materials by title and key."""
    return {_split(name): m.key for m in MATERIALS.values() for name in (m.title.split(",")[0], m.key, m.key.replace("-", " "))}


def flag_words(spec: Flag) -> Phrases:
    """Yes and no of a field, in its own words."""
    return {_split(spec.on): True, _split(spec.off): False, ("yes",): True, ("no",): False}


def unsaid(feature: Feature, standing: bool) -> frozenset[str]:
    """Fields that mean nothing as the feature is, or as it stands.

    Args:
        feature: as it is kept.
        standing: it takes no bar of its own.
    """
    if not standing:
        return feature.idle
    stood = feature.standing()
    return feature.idle | {name for name in specs(feature) if name == "toward" or getattr(stood, name) != getattr(feature, name)}


def wants_saying(feature: Feature, name: str) -> bool:
    """A size that whoever hears of the feature asks for: it is none that is the same on any bar, it means something, and there is some of it."""
    spec, value = specs(feature)[name], getattr(feature, name)
    sized = isinstance(spec, (Number, SectionField)) and not isinstance(spec, (Percent, Facing)) and not spec.optional
    if not sized or value == 0 or name in feature.idle:
        return False
    return isinstance(spec, (Length, SectionField)) or value != type(feature).__dataclass_fields__[name].default
