"""What the hand or the tongs find at an end of the piece by now: a long bar, the bar as it came, another size, or what they would crush."""

from __future__ import annotations

from collections.abc import Mapping

from long_ember.features import Corner, Straight
from long_ember.frozen import NamedTuple
from long_ember.geometry import Progress
from long_ember.heats.staging import staged
from long_ember.sections import Blend
from long_ember.stock import Reckoning

__all__ = ["JAWS", "Grip", "grip"]

JAWS = 25.0  # mm from the end: where jaws close
_HANDLE = 300.0  # mm of cold straight bar that is its own handle
_REACH, _TOO_THIN = 60.0, 2.0  # mm from the end that they would crush; mm that they can't hold
_SAME = 0.5  # mm
_FREE = 100.0  # mm of straight bar behind what is bent, that are held nearly as well as any
_WORTH = {"handle": 3.0, "bar": 2.0, "size": 1.0}
_BEHIND = 1.5


class Grip(NamedTuple):
    """What is held at an end.

    Args:
        how: "handle" a bar that needs no tongs, "bar" as it came, another "size", "bent" or "thin" where tongs hold behind it,
            "wound" where nothing straight is cold behind it.
        id: of the feature in which, or behind which, it is held.
        section: where jaws close.
        straight: mm of cold bar between what is bent there and the fire.
    """

    how: str
    id: str
    section: Blend
    straight: float

    @property
    def worth(self) -> float:
        """0 for nothing to hold by, 3 for a bar that is its own handle."""
        return _BEHIND if self.how == "bent" and self.straight >= _FREE else _WORTH.get(self.how, 0.0)


def grip(reckoning: Reckoning, progress: Mapping[str, Progress], end: str, cold: float) -> Grip:
    """What there is to hold at an end.

    Args:
        reckoning: of the piece, with at least one feature.
        progress: of every feature by id.
        end: A or B.
        cold: mm along the middle that are cold there by now.
    """
    parts = [(p.id, p.shape if end == "A" else p.shape.mirrored()) for p in staged(reckoning, progress)]
    if end == "B":
        parts = parts[::-1]
    curved, along, to_jaws = list[tuple[str, float, float]](), 0.0, JAWS
    identity, held = parts[0][0], parts[0][1].spans[-1].end
    for name, shape in parts:
        for segment in shape.path:
            if not isinstance(segment, (Straight, Corner)) and along < cold:
                curved.append((name, along, along + segment.length))
            along += segment.length
        for span in shape.spans:
            if 0 <= to_jaws <= span.length:
                identity, held = name, span.start.toward(span.end, to_jaws / span.length if span.length else 0.0)
            to_jaws -= span.length
    straight = cold - max((b for _name, _a, b in curved), default=0.0)
    if straight >= _HANDLE:
        return Grip("handle", identity, held, straight)
    near = [name for name, a, _b in curved if a < _REACH]
    if near:
        return Grip("bent" if straight >= JAWS else "wound", near[-1], held, straight)
    bar = reckoning.zones[0].place.bar.blend
    if abs(held.w - bar.w) < _SAME and abs(held.t - bar.t) < _SAME:
        return Grip("bar", identity, held, straight)
    return Grip("thin" if min(held.w, held.t) < _TOO_THIN else "size", identity, held, straight)
