"""The piece at any moment of the sequence: how far each feature is, how hot the steel is, which marks are still to use."""

from __future__ import annotations

from long_ember.frozen import dataclass
from long_ember.geometry import DONE, Progress
from long_ember.heats.doorway import room
from long_ember.heats.errands import Errand, Frame
from long_ember.heats.gripping import JAWS
from long_ember.heats.heat import Heat
from long_ember.heats.rules import GOES_IN
from long_ember.heats.sequencing import ForgingPlan
from long_ember.heats.staging import staged
from long_ember.heats.treatment import TREATMENTS, working_end
from long_ember.physics import at_anvil, cooling, lying
from long_ember.units import Line, own_words, say

__all__ = ["Moment", "cooled", "door_notes", "grip_note", "marks_left", "moment", "thin_note"]

_LIES = 3.0  # mm of a part that lie in the fire, from which it is told
# mm, and share of the bar's thickness, below which steel burns while the bar is brought to heat; and what has hardly a thickness
_BURNS, _MUCH_THINNER, _POINTED = 4.0, 0.4, 0.5
_TIP = 50.0  # mm that glow when an end is hardened


@dataclass(frozen=True)
class Moment:
    """A moment of the sequence.

    Args:
        index: of the frame.
        share: of the frame's work that is done, 0 to 1.
        frame: heat, cold step or errand.
        progress: of every feature by id.
        zone: hot length on the cold bar, mm from end A; empty while nothing glows.
        celsius: of the hot zone, 0 while cold.
    """

    index: int
    share: float
    frame: Frame
    progress: dict[str, Progress]
    zone: tuple[float, float]
    celsius: float

    @property
    def frame_zone(self) -> tuple[float, float]:
        """What the frame works on, hot or cold, mm on the cold bar from end A; empty for an errand."""
        return self.frame.zone if isinstance(self.frame, Heat) else (0.0, 0.0)


def moment(plan: ForgingPlan, at: float) -> Moment:
    """The moment `at`: the whole part is the frame, the rest how far into its work.

    Args:
        plan: with at least one frame.
        at: 0 to the number of frames; beyond either end is the end.
    """
    frames = plan.frames
    at = min(max(at, 0.0), float(len(frames)))
    index = min(int(at), len(frames) - 1)
    share, frame = at - index, frames[index]
    zone, celsius = _glow(plan, frame, share)
    return Moment(index, share, frame, _between(frame, share), zone, celsius)


def _between(frame: Frame, share: float) -> dict[str, Progress]:
    if share <= 0:
        return frame.before
    if share >= 1:
        return frame.after
    found = dict(frame.before)
    for identity, end in frame.after.items():
        start = found[identity]
        if start != end:
            pairs = zip((start.section, start.path, start.limbs), (end.section, end.path, max(start.limbs, end.limbs)), strict=True)
            section, path, limbs = (a + (b - a) * share for a, b in pairs)
            work = start.work + ((end.work or 1.0) - start.work) * share if start.work or end.work else 0.0
            found[identity] = Progress(section, path, start.along or end.along, limbs, work)
    return found


def _glow(plan: ForgingPlan, frame: Frame, share: float) -> tuple[tuple[float, float], float]:
    """Where it glows and how hot: a heat cools as the model says, from the fire to where its work is done."""
    cut = plan.reckoning.cut
    if isinstance(frame, Errand):
        if frame.key not in ("normalise", "harden"):
            return (0.0, 0.0), 0.0
        end = working_end(plan.piece, plan.reckoning) if frame.key == "harden" and plan.piece.material in TREATMENTS else "whole"
        return {"A": (0.0, min(_TIP, cut)), "B": (max(cut - _TIP, 0.0), cut)}.get(end, (0.0, cut)), frame.hot
    if frame.cold:
        return (0.0, 0.0), 0.0
    return frame.glowing, max(cooled(plan, frame, frame.seconds * min(frame.need, 1.0) * share), frame.stop)


def cooled(plan: ForgingPlan, heat: Heat, seconds: float) -> float:
    """About how hot it is so long out of the fire, °C.

    Args:
        plan: of the piece.
        heat: that it left the fire for.
        seconds: since then.
    """
    bar = plan.piece.bar
    table = cooling(at_anvil(lying(bar.width, bar.thickness)), plan.piece.steel.carbon)
    return float(table.after(seconds, min(heat.hot, float(table.celsius[-1])), bar.area, bar.perimeter))


def marks_left(plan: ForgingPlan, progress: dict[str, Progress]) -> tuple[tuple[str, float], ...]:
    """Marks that are still to be used: feature id and share of its length from its A end.

    Boundaries of features that are not finished, and marks within them.
    """
    found: list[tuple[str, float]] = []
    zones = plan.reckoning.zones
    for i, zone in enumerate(zones):
        here = progress[zone.feature.id]
        before = progress[zones[i - 1].feature.id] if i else DONE
        if i and (here != DONE or before != DONE) and here.path == 0:
            found.append((zone.feature.id, 0.0))
        elif i and before not in (DONE,) and before.path == 0:
            found.append((zones[i - 1].feature.id, 1.0))
        if here != DONE and here.path == 0:
            found.extend((zone.feature.id, share) for share, _how in zone.feature.spots(zone.place) if 0 < share < 1)
    return tuple(found)


def grip_note(plan: ForgingPlan, heat: Heat) -> Line | None:
    """What the tongs must hold, where the held end is no longer the bar as it came: by its size there, or behind what is bent or pointed."""
    if heat.cold or not plan.reckoning.zones or heat.hung:
        return None
    how, identity, section, _straight = heat.grip
    if how in ("handle", "bar"):
        return None
    name = next(z.feature.title.lower() for z in plan.reckoning.all_zones if z.feature.id == identity)
    if how == "bent":
        return say(own_words(f"Hold it behind the {name} at end {heat.held}, not by it: it would be crushed."))
    if how == "wound":
        return say(own_words(f"Hold it by the {name} at end {heat.held}, jaws on its sides: squeezed the other way it would close."))
    if how == "thin":
        return say(own_words(f"Hold it behind the {name} at end {heat.held}: it is too thin for tongs."))
    size, sizes = section.told
    text = f"Tongs that hold {size}, which end {heat.held} is {{}} in by now, or further back where the bar is full."
    return say(text, *sizes, JAWS)


def thin_note(plan: ForgingPlan, heat: Heat) -> Line | None:
    """What burns in a fire: steel that is done, much thinner than the bar, and hot long before what is to be worked."""
    if heat.cold:
        return None
    low, high = heat.glowing
    zones = plan.reckoning.zones
    at_work = {w.step.feature.id for w in heat.work}
    for step in (w.step for w in heat.work):  # what stands on drawn steel is worked with it
        at_work |= {z.feature.id for i, z in enumerate(zones) if i == step.position or step.over >> i & 1}
    thin: list[tuple[float, str]] = []
    for part in staged(plan.reckoning, heat.before):
        share = part.shape.length / max(part.end - part.start, 1e-9)
        start, end = (max(low, part.start) - part.start) * share, (min(high, part.end) - part.start) * share
        if part.id in at_work or end - start < _LIES:
            continue
        at = 0.0
        for span in part.shape.spans:
            a, b = max(start - at, 0.0), min(end - at, span.length)
            at += span.length
            if b - a > _LIES:
                ends = (span.start.toward(span.end, x / span.length) for x in (a, b))
                thin.append((min(min(e.w, e.t) for e in ends), part.id))
        thin += [(min(min(s.end.w, s.end.t) for s in b.shape.spans), part.id) for b in part.shape.branches]
    if not thin:
        return None
    least, identity = min(thin)
    if least > min(_BURNS, _MUCH_THINNER * plan.piece.bar.thickness):
        return None
    name = own_words(next(z.feature.title.lower() for z in plan.reckoning.all_zones if z.feature.id == identity))
    rest = "hot long before the rest, and burns. Let it lie beyond the hottest fire, and wet it when it glows first."
    return say(f"Mind the {name}: so thin, it is {rest}") if least < _POINTED else say(f"Mind the {name}: {{}} thin, it is {rest}", least)


def door_notes(plan: ForgingPlan, heat: Heat) -> tuple[Line, ...]:
    """What there is to say of the forge's mouth in one heat: that it does not go in, or that it soon will not."""
    door = plan.forge.door
    if not door.height or heat.cold:
        return ()
    end = "all" if heat.fire == "all" else "A" if heat.held == "B" else "B"
    now = room(door, staged(plan.reckoning, heat.before), heat.zone, end)
    if not now.fits:
        if now.width > door.widest:
            text = "{} across by now, and the mouth of your forge lets {} through: turn it, heat it in another fire, or do this before it is bent."
            return (say(text, now.width, door.widest),)
        text = "it reaches {} in, and your forge is {} deep: let it out at the back, heat it in another fire, or in parts."
        return (say(text, now.depth, door.depth),)
    here = {w.step.number for w in heat.work}
    bends = dict.fromkeys(t.after for t in plan.ties.pairs if t.rule is GOES_IN and t.before in here)
    found = list[Line]()
    for number in bends:
        step = plan.steps[number]
        after = {**heat.before, step.feature.id: DONE}
        then = room(door, staged(plan.reckoning, after), heat.zone, end)
        text = f"now it still goes in: after {own_words(step.name[:1].lower() + step.name[1:])} it is {{}} across and {{}} deep."
        found.append(say(text, then.width, then.depth))
    return tuple(found)
