"""Measured against the plan while it is still warm: on, short or full, what that means, and the piece as it then goes on."""

from __future__ import annotations

from dataclasses import replace

from long_ember.document import Edit, fit_bar, set_field
from long_ember.errors import EmberError
from long_ember.features import Feature, Piece
from long_ember.frozen import NamedTuple
from long_ember.heats import ForgeSettings, ForgingPlan, Heat
from long_ember.learning import measurable
from long_ember.physics import expansion
from long_ember.records import Sized
from long_ember.units import Line, own_words, say

__all__ = ["Sizing", "Verdict", "sizings", "verdict"]

_NEAR, _SHARE = 1.0, 0.02  # mm, and share of the size, within which it is on
_GIVES = ("length", "lip")  # fields that another size can be taken from


class Sizing(NamedTuple):
    """A size to hit.

    Args:
        feature: its id.
        title: of the feature.
        name: of the field.
        label: of the field.
        planned: mm, cold.
    """

    feature: str
    title: str
    name: str
    label: str
    planned: float

    def taken(self, value: float) -> Sized:
        """As it is kept for the log."""
        return Sized(feature=self.feature, title=self.title, name=self.name, label=self.label, planned=self.planned, value=value)


class Verdict(NamedTuple):
    """What a size means.

    Args:
        word: on, short or full.
        off: mm, cold; negative where it is short.
        line: said aloud.
        edit: the piece as it goes on, None where nothing need change or nothing can.
    """

    word: str
    off: float
    line: Line
    edit: Edit | None


def sizings(plan: ForgingPlan, frame: int) -> tuple[Sizing, ...]:
    """Sizes that the features worked in a frame should have, those that are finished there first."""
    heat = plan.frames[frame]
    if not isinstance(heat, Heat):
        return ()
    found: list[Sizing] = []
    for work in heat.work:
        feature = plan.piece.feature(work.step.feature.id)
        if feature is not None and not work.step.operation.own and work.part == work.parts:
            found.extend(Sizing(feature.id, feature.title, name, label, planned) for name, label, planned in measurable(feature))
    return tuple(dict.fromkeys(found))


def verdict(plan: ForgingPlan, frame: int, size: Sizing, measured: float, celsius: float, forge: ForgeSettings, ruler: float) -> Verdict:
    """Hold a size against the plan.

    Args:
        plan: of the piece.
        frame: that it was worked in.
        size: which one.
        measured: mm, as it was read.
        celsius: of the steel when it was read, 20 for cold; a hot size is turned into the cold one.
        forge: what the piece is reckoned with.
        ruler: mm.
    """
    cold = measured / (1 + expansion(celsius)) if celsius > 100 else measured
    off = cold - size.planned
    title = own_words(f"{size.title}, {size.label.lower()}")
    if abs(off) <= max(_NEAR, _SHARE * size.planned):
        return Verdict("on", off, say(f"{title}: {{}} cold. On.", cold), None)
    word = "short" if off < 0 else "full"
    other = _gives(plan, frame, size)
    said = f"{title}: {{}} cold, {{}} {word}."
    if other is None:
        more = "Draw it on while there is heat." if off < 0 else "Nothing that is still to come can take it up."
        return Verdict(word, off, say(f"{said} {more}", cold, abs(off)), None)
    name = own_words(f"{other[0].title.lower()}'s {other[1]}")
    edit = _goes_on(plan, size, cold, other, forge, ruler)
    where = f"give the steel to the {name}" if off < 0 else f"take it from the {name}"
    if edit is None:
        return Verdict(word, off, say(f"{said} {where[:1].upper()}{where[1:]}, as far as it goes.", cold, abs(off)), None)
    new = float(getattr(edit.after.feature(other[0].id), other[1]))
    return Verdict(
        word, off, say(f"{said} {where[:1].upper()}{where[1:]}: {{}} instead of {{}}.", cold, abs(off), new, float(getattr(*other))), edit
    )


def _gives(plan: ForgingPlan, frame: int, size: Sizing) -> tuple[Feature, str] | None:
    """The nearest length of the row that is still bar, or is worked later; runs before all others."""
    later = {w.step.feature.id for f in plan.frames[frame + 1 :] if isinstance(f, Heat) for w in f.work}
    at = plan.piece.index(size.feature)
    ways = []
    for i, feature in enumerate(plan.piece.features):
        name = next((n for n in _GIVES if hasattr(feature, n) and float(getattr(feature, n) or 0.0) > 0), "")
        if name and feature.id != size.feature and (feature.kind == "run" or feature.id in later):
            ways.append((feature.kind != "run", abs(i - at), feature, name))
    return min(ways, key=lambda w: w[:2])[2:] if ways else None


def _goes_on(plan: ForgingPlan, size: Sizing, cold: float, other: tuple[Feature, str], forge: ForgeSettings, ruler: float) -> Edit | None:
    """The size as it is, and the other one so that the bar is as long as it was sawn."""
    piece: Piece = plan.piece
    try:
        as_it_is = set_field(piece, size.feature, size.name, cold).after
        edit = fit_bar(as_it_is, other[0].id, other[1], plan.reckoning.cut, ruler=ruler, forge=forge)
    except EmberError:
        return None
    return replace(edit, title="Go on from what was measured", before=piece)
