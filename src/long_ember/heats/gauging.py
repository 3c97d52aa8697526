"""What to measure at a moment of the sequence: the numbers that the piece should have now, cold and as it measures hot."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember.features import Feature, Shape, Span, stock_of
from long_ember.features.split import Split
from long_ember.frozen import dataclass
from long_ember.geometry import DONE, Progress, stage_shape
from long_ember.heats.bar_so_far import BarSoFar, trimmed_off
from long_ember.heats.craft import craft_of
from long_ember.heats.errands import Frame
from long_ember.heats.heat import Heat
from long_ember.heats.storyboard import Moment
from long_ember.physics import expansion
from long_ember.sections import Blend
from long_ember.stock import Reckoning, Zone
from long_ember.units import Line, Quantity, own_words, say

_SEEN = 0.5  # mm, that callipers tell in the forge
_NOTHING = 1e-6  # mm²
_OF_LIMB = {", toward A": ", at its root", ", toward B": ", at its tip"}  # a limb begins at its crotch
_WAIST = 0.95  # of the area of the ends
_CHORDS = 0.05  # of a section, that a form may be drawn smaller than it is told

__all__ = ["Gauge", "gauges", "length_now", "sizes_now"]


@dataclass(frozen=True)
class Gauge:
    """One thing to measure.

    Args:
        line: what, and how much it should be; hot too where it is measured hot.
        tool: what with.
        cold: mm or mm each way, as it is kept in the plan.
        hot: the same at the temperature where the work stops.
    """

    line: Line
    tool: str
    cold: tuple[float, ...]
    hot: tuple[float, ...]


def length_now(reckoning: Reckoning, progress: dict[str, Progress]) -> float:
    """Length of the whole bar along its middle, mm cold: with the scale still to be lost on it, and what is over until all is done."""
    found = float(BarSoFar(reckoning, progress).lengths.sum())
    for zone in reckoning.standing:
        if zone.feature.covers:  # bent, the middle of the bar is longer or shorter than the bar that was covered
            found += (zone.shape.length - stock_of(zone.feature, zone.place)) * progress[zone.feature.id].path
    over = reckoning.cut - reckoning.parting - sum(z.length for z in reckoning.zones)
    over -= trimmed_off(reckoning, progress)
    return found + (0.0 if all(p == DONE for p in progress.values()) else over)


def gauges(frame: Frame, reckoning: Reckoning) -> tuple[Gauge, ...]:
    """What to measure when a heat, a cold step or an errand is over."""
    found: list[Gauge] = []
    hot = 1 + expansion(frame.stop) if isinstance(frame, Heat) and not frame.cold else 1.0
    if isinstance(frame, Heat):
        zones = {z.feature.id: z for z in reckoning.all_zones}
        last = {w.step.feature.id: w for w in frame.work if not w.step.operation.own}
        for identity, work in last.items():
            if work.step.operation.limbs:
                if work.part < work.parts and work.step.operation.work == "draw":
                    limb, place = work.step.operation.limbs[0]
                    so_far, tool = stage_shape(limb, place, Progress(section=work.stop)), craft_of(work.step.operation.manner).gauge
                    title = f"{own_words(zones[identity].feature.title)}, {'each ' if len(work.step.operation.limbs) > 1 else ''}so far"
                    found.extend(
                        _section(f"{title}{_OF_LIMB.get(where, where)}", blend, hot, tool)
                        for where, blend in _worked(so_far, place.bar.blend)
                    )
                elif work.part == work.parts:
                    tool, limbs = craft_of(work.step.operation.manner).gauge, work.step.operation.limbs
                    found.extend(Gauge(_titled(f, f.summary()), tool, (), ()) for f, _place in limbs if f.kind)
                continue
            feature = zones[identity].feature
            split = work.step.operation.verb == "split"
            if split and isinstance(feature, Split):  # no section of it is another than before
                depth = feature.cut * work.stop
                found.append(_gauge(f"{own_words(feature.title)}, the cut", "{} deep", (depth,), hot, "rule or dividers"))
            drawn = not split and (work.step.operation.effect == "section" or work.step.operation.work in ("draw", "upset"))
            found.extend(_of_feature(zones[identity], frame.after[identity], craft_of(work.step.operation.manner).gauge, hot, drawn=drawn))
        own = dict.fromkeys(w.step.operation for w in frame.work if w.step.operation.check and w.part == w.parts)
        found.extend(Gauge(say(own_words(f"{o.called}: {o.check}")), craft_of(o.manner).gauge, (), ()) for o in own)
    elif frame.key == "bar":
        return (_gauge("Cut length", "{}", (reckoning.cut,), 1.0, "rule"),)
    elif frame.key == "measure":
        found.append(_gauge("All along its middle", "{}", (length_now(reckoning, frame.after),), 1.0, "rule"))
        found.extend(
            Gauge(_titled(z.feature, z.feature.summary()), "callipers", (), ()) for z in reckoning.all_zones if z.feature.kind != "run"
        )
        return tuple(found)
    whole = length_now(reckoning, frame.after)
    if any(p.path == 0 for p in frame.after.values()) and isinstance(frame, Heat):
        warm = 1 + (hot - 1) * min((frame.zone[1] - frame.zone[0]) / reckoning.cut, 1.0)  # only the hot zone is longer
        ends = dict.fromkeys((reckoning.zones[0], reckoning.zones[-1]))
        crotches = sum(bool(stage_shape(z.feature, z.place, frame.after[z.feature.id]).branches) for z in ends)
        where = ("", ", from the crotch", ", from crotch to crotch")[crotches]
        found.append(_gauge(f"Whole bar along its middle{where}", "{}", (whole,), warm, "rule"))
    return tuple(found)


def _told(blend: Blend) -> tuple[str, tuple[float, ...]]:
    return blend.told if blend.area > _NOTHING else ("a point", ())


def sizes_now(reckoning: Reckoning, now: Moment) -> tuple[Line, ...]:
    """Length and sections, cold, of what is being worked at this moment, part done as it is."""
    if not isinstance(now.frame, Heat):
        return ()
    zones = {z.feature.id: z for z in reckoning.all_zones}
    found = []
    for work in {w.step.feature.id: w for w in now.frame.work}.values():
        zone = zones[work.step.feature.id]
        shape = stage_shape(zone.feature, zone.place, now.progress[zone.feature.id])
        first, last = shape.spans[0].start, shape.spans[-1].end
        if shape.branches:
            tine, title = shape.branches[0].shape, own_words(zone.feature.title)
            tip, sizes = _told(tine.spans[-1].end)
            found.append(say(f"{title} now: tines {{}} long, {tip} at the tip", tine.length, *sizes))
            continue
        (size, sizes), (other, more) = _told(first), _told(last)
        values: list[Quantity | float] = [shape.length, *sizes]
        text = f"{own_words(zone.feature.title)} now: {{}} long, {size}"
        if not _alike(first, last):
            text, values = f"{text} toward A, {other} toward B", [*values, *more]
        so_far = now.progress[zone.feature.id]
        if so_far.along and 0 < so_far.section < 1:
            end, finished = _finished(shape, so_far)
            text = f"{text}; about {{}} finished from its end toward {end}"
            values.append(Quantity(math.fsum(s.length for s in finished), "by_eye"))
        found.append(say(text, *values))
    return tuple(found)


def _titled(feature: Feature, line: Line) -> Line:
    return Line(f"{own_words(feature.title)}: {line.text}", line.values)


def _of_feature(zone: Zone, progress: Progress, tool: str, hot: float, *, drawn: bool) -> list[Gauge]:
    """The feature's length and sections at this stage; its finished sizes once it is done."""
    shape = stage_shape(zone.feature, zone.place, progress)
    title = own_words(zone.feature.title)
    found: list[Gauge] = []
    if drawn:
        found.append(_gauge(f"{title}, along its middle", "{}", (shape.length,), hot, "rule or dividers"))
        if progress.along and 0 < progress.section < 1:
            return [*found, *_so_far(title, shape, zone, progress, hot, tool)]
        done = stage_shape(zone.feature, zone.place, DONE)
        told = _as_told(shape, zone, done, progress.section)
        found.extend(_section(f"{title}{where}", blend, hot, tool) for where, blend in _worked(told, zone.place.bar.blend, done))
    if progress == DONE:
        found.append(Gauge(_titled(zone.feature, zone.feature.summary()), tool, (), ()))
    return found


def _so_far(title: str, shape: Shape, zone: Zone, progress: Progress, hot: float, tool: str) -> list[Gauge]:
    """Of what is finished a stretch at a time: how far it is, and what it measures where it ends."""
    end, finished = _finished(shape, progress)
    long = math.fsum(s.length for s in finished)
    told = _as_told(replace(shape, spans=finished), zone, stage_shape(zone.feature, zone.place, DONE), 1.0).spans
    there = [] if _alike(told[-1].end, zone.place.bar.blend) else [_section(f"{title}, where that ends", told[-1].end, hot, tool)]
    so_far = say(f"{title}, finished from its end toward {end}: about {{}}", Quantity(long, "by_eye"))  # where it ends is nobody's mark
    return [Gauge(so_far, "rule", (long,), (long * hot,)), *there]


def _finished(shape: Shape, progress: Progress) -> tuple[str, tuple[Span, ...]]:
    """The end that a feature is finished from, and what is finished of it from there on; the last stretch is bar still."""
    if progress.along > 0:
        return "A", shape.spans[:-1]
    return "B", tuple(s.reversed() for s in reversed(shape.spans))[:-1]


def _as_told(shape: Shape, zone: Zone, done: Shape, share: float) -> Shape:
    """A form with its sections as they are told: along the middle of its bends the steel is held in a little less.

    Args:
        shape: of the zone at this stage.
        zone: with the sizes that are told.
        done: the finished form.
        share: of its section, 1 the finished one.
    """
    bar, rest = zone.place.bar.blend, 1 - share
    ends = done.spans[0].start, done.spans[-1].end  # where it joins the bar it is as thick as the bar
    joints = [b for b in ends if b.t > 0 and abs(bar.w * b.t - b.w * bar.t) < 1e-6 * bar.w * bar.t]
    ratios = [bar.t / b.t for b in joints]
    short = next((r - 1 for r in ratios if abs(r - 1) < _CHORDS), 0.0)

    def larger(b: Blend) -> Blend:
        return replace(b, w=b.w + short * (b.w - rest * bar.w), t=b.t + short * (b.t - rest * bar.t))

    return replace(shape, spans=tuple(replace(s, start=larger(s.start), end=larger(s.end)) for s in shape.spans)) if short else shape


def _worked(shape: Shape, bar: Blend, done: Shape | None = None) -> list[tuple[str, Blend]]:
    """Where a feature is measured, and what it should have there: at its widest or its waist, else at its worked ends, half way to a point.

    Args:
        shape: at this stage.
        bar: that it is worked from.
        done: the finished one; what becomes an outline's tip is measured half way from the first.
    """
    joints = [shape.spans[0].start, *(s.end for s in shape.spans)]
    first, last = joints[0], joints[-1]
    ends = max(first.w, last.w), max(first.t, last.t)
    inner = range(1, len(joints) - 1)
    wide = max(inner, key=lambda i: joints[i].w * joints[i].t, default=0)
    if wide and (joints[wide].w > ends[0] + _SEEN or joints[wide].t > ends[1] + _SEEN):
        return [(", where it is widest", joints[wide])]
    ends_of = [shape, done] if done is not None else [shape]
    if not all(_solid(s.spans[0].start) and _solid(s.spans[-1].end) and not _rounded(s) for s in ends_of):
        return [(", half way", _half_way(shape))]
    thin = min(inner, key=lambda i: joints[i].area, default=0)
    if thin and joints[thin].area < min(b.area for b in (first, last)) * _WAIST and _solid(joints[thin]):
        return [(", in its middle", joints[thin])]
    if _alike(first, last):
        return [("", first)]
    found = [(", toward A", first), (", toward B", last)]
    worked = [(where, blend) for where, blend in found if not _alike(blend, bar)]
    return worked or found


def _solid(blend: Blend) -> bool:
    """Thick enough to lay callipers on, and no mere tip of an outline."""
    return min(blend.w, blend.t) >= _SEEN and 2 * blend.w >= blend.t


def _rounded(shape: Shape) -> bool:
    """An outline ends round: a little way in it is more than twice as wide as at the end, where nobody measures."""
    ends = (shape.spans[0].start, 0.15), (shape.spans[-1].end, 0.85)
    return any(2 * end.w < _at(shape, share).w for end, share in ends)


def _half_way(shape: Shape) -> Blend:
    return _at(shape, 0.5)


def _at(shape: Shape, share: float) -> Blend:
    at = shape.length * share
    for span in shape.spans:
        if at <= span.length:
            return span.start.toward(span.end, at / span.length if span.length else 0.0)
        at -= span.length
    return shape.spans[-1].end


def _alike(one: Blend, other: Blend) -> bool:
    return abs(one.w - other.w) < 0.05 and abs(one.t - other.t) < 0.05


def _section(what: str, blend: Blend, hot: float, tool: str) -> Gauge:
    same = abs(blend.w - blend.t) < 0.05
    return _gauge(what, "{} thick" if same else "{} wide, {} thick", (blend.t,) if same else (blend.w, blend.t), hot, tool)


def _gauge(what: str, form: str, cold: tuple[float, ...], hot: float, tool: str) -> Gauge:
    warm = tuple(x * hot for x in cold)
    # Sections are measured to a tenth and differ by less than that when hot; lengths do not.
    told = hot > 1 and form == "{}" and warm[0] - cold[0] >= 0.5
    text = f"{what}: {form}" + (" cold, {} as it is, hot" if told else "")
    return Gauge(say(text, *(Quantity(x, "length") for x in (*cold, *(warm if told else ())))), tool, cold, warm)
