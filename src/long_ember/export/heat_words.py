"""The sequence in words: titles, facts, what to get ready, to measure, to mend, and why now."""

from __future__ import annotations

import math
from collections.abc import Iterable

from long_ember.document import Answer
from long_ember.heats import Errand, Frame, Heat, cautions, craft_of, door_notes, gauges, grip_note, thin_note
from long_ember.physics import band
from long_ember.plain import marked_up
from long_ember.records import holder_words, tool_words
from long_ember.units import Measure

__all__ = ["band_words", "frame_heading", "frame_lines", "frame_title", "frame_words", "heat_facts", "plan_words"]


# Where the mark comes to lie, by method, and the work that is set by what overhangs.
_AT = {
    "edge": "on the anvil's edge", "half-on": "on the anvil's edge", "vice": "level with the jaws", "guillotine": "under the edge of the die",
    "fork": "between the forks", "horn": "on top of the horn", "hardy": "on the hardy", "saw": "on the blade",
}  # fmt: skip
_OVER = 1.2  # windows
_OVERHANG = frozenset({"bend", "corner", "hook", "set-down", "setdown", "neck", "isolate", "thin", "cut", "crop"})


def frame_title(frame: Frame) -> str:
    """`Heat 3`, or what a cold step or an errand is called."""
    if isinstance(frame, Errand):
        return frame.title
    return "Cold step" if frame.cold else f"Heat {frame.number}"


def frame_lines(frame: Frame, m: Measure) -> tuple[str, ...]:
    """What is done, one line for each operation."""
    if isinstance(frame, Errand):
        return (frame.line.show(m),)
    return tuple(w.line.show(m) for w in frame.work)


def heat_facts(answer: Answer, frame: Frame, m: Measure, kit: tuple[str, ...]) -> list[str]:
    """Where it lies in the fire, how it is held, how hot, how long it lasts, with what."""
    if isinstance(frame, Errand):
        took = [f"{'Wait' if frame.waits else 'Takes'} about {m.minutes(frame.seconds)}"]
        heat = [f"Colour: {band(frame.hot).word}, {m.temperature(frame.hot)}"] if frame.hot >= 470 else []
        return [*heat, *took, *([tool_words(frame.tools, kit)] if frame.tools else [])]
    if frame.cold:
        minutes = sum(w.step.operation.seconds * w.step.method.pace for w in frame.work)
        return [f"Cold, about {m.minutes(minutes)}", *([tool_words(frame.tools, kit)] if frame.tools else [])]
    where = {"middle": "the middle of the bar", "all": "all of the bar"}.get(frame.fire, f"end {frame.fire}")
    long = "" if frame.fire == "all" else f", {m.about(frame.long)}"
    out = (
        f"; {m.about(frame.outside, up=False)} beyond it stay out at end {'B' if frame.held == 'A' else 'A'}"
        if frame.fire == "middle"
        else ""
    )
    grip = (
        "on the long bar, which is its own handle"
        if math.isinf(frame.free)
        else "the bar is its own handle"
        if frame.own_handle
        else f"{m.about(frame.free, up=False)} of it cold, {holder_words(kit)}"
    )
    start, stop = band(frame.hot), band(frame.stop)
    set_up = [
        f"Set: the mark {_AT[work.step.method.key]}, {m.length(frame.beyond(work))} beyond it"
        for work in frame.work
        if work.step.method.key in _AT and work.step.operation.manner in _OVERHANG
    ]
    held = [f"Hold: end {frame.held}, {grip}"]
    held += [line.show(m) for line in (grip_note(answer.plan, frame),) if line is not None]
    return [
        *held,
        *dict.fromkeys(set_up),
        *(f"Door: {line.show(m)}" for line in door_notes(answer.plan, frame)),
        f"Fire: {where}{long} to {start.word}, {m.temperature(frame.hot)}{out}",
        *(line.show(m) for line in (thin_note(answer.plan, frame),) if line is not None),
        f"Stop: at {stop.word}, {m.temperature(frame.stop)}",
        f"Time: about {m.seconds(frame.seconds)} at the anvil; the work takes {_share(frame.need)}",
        *([tool_words(frame.tools, kit)] if frame.tools else []),
    ]


def _share(need: float) -> str:
    """How much of the window the work takes; a heat may run a little over before it costs another."""
    if need > _OVER:
        return f"{min(need, 9.9):.1f} times that: it does not fit"
    return "all of it and a little more: no time to lose" if need > 1.005 else "all of it" if need > 0.995 else f"{need:.0%} of it"


def band_words(plan: Answer) -> str:
    """How far the number of heats and the minutes are to be trusted."""
    sequence = plan.plan
    low, likely, high = (max(1, round(x)) for x in sequence.minutes)
    return f"{sequence.count} heats, {likely} min at fire and anvil; 9 of 10 pieces take {sequence.low} to {sequence.high} heats, {low} to {high} min"


def plan_words(answer: Answer, m: Measure) -> str:
    """What the whole plan comes to, in a line."""
    cost = answer.plan.cost
    parts = [band_words(answer)]
    if cost.swaps:
        parts.append(f"turned end for end {_times(cost.swaps)}")
    if cost.colds:
        parts.append(f"cooled for cold work {_times(cost.colds)}")
    return "; ".join(parts)


def _times(count: int) -> str:
    return {1: "once", 2: "twice"}.get(count, f"{count} times")


def frame_words(answer: Answer, frame: Frame, m: Measure, kit: tuple[str, ...]) -> tuple[list[str], list[str]]:
    """Everything about a frame as rich text, paragraph by paragraph: what is read at arm's length, and what is looked up behind it."""
    blocks: list[str] = []
    blocks.extend(f"<p style='font-size:21px;margin:5px 0;font-weight:600'>{marked_up(line)}</p>" for line in frame_lines(frame, m))
    facts = heat_facts(answer, frame, m, kit)
    later = [fact for fact in facts if fact.startswith(("Time: ", "Tools: "))] if isinstance(frame, Heat) and not frame.cold else []
    blocks.extend(f"<p style='margin:3px 0'>{_labelled(fact)}</p>" for fact in facts if fact not in later)
    blocks.append(_list("Check when it is done", [f"{g.line.show(m)}; {g.tool}" for g in gauges(frame, answer.reckoning)]))
    if isinstance(frame, Heat):
        numbers = {work.step.number for work in frame.work}
        own = [c for _z, c in answer.checks if c.step in numbers]
        blocks.extend(f"<p style='margin:3px 0'><b>{c.sign} {c.word}</b>&nbsp; {marked_up(c.line.show(m))}</p>" for c in own)
    blocks.extend(f"<p style='margin:3px 0'>{_labelled(fact)}</p>" for fact in later)
    more: list[str] = []
    if isinstance(frame, Heat):
        ready = f"Before it leaves the fire, about {m.minutes(_in_fire(answer, frame))} in it" if not frame.cold else "Get ready"
        more.append(_list(ready, frame.ready))
        flags = [(rule, n, why) for rule, n, why in answer.plan.flags if n in {w.step.number for w in frame.work}]
        told = [f"{why[:1].upper()}{why[1:]}: {rule.reason} {answer.plan.instead(rule, n)}".strip() for rule, n, why in flags]
        more.append(_list("Against a rule", told))
        wrong = dict.fromkeys(pair for w in frame.work for pair in craft_of(w.step.operation.manner).wrong)
        more.append(_list("If it goes wrong", [f"{what}: {remedy[:1].lower()}{remedy[1:]}" for what, remedy in wrong]))
        rules = dict.fromkeys(rule for w in frame.work for rule in w.because)
        more.append(_list("Why now", [f"{_STRENGTH[r.strength]}: {r.reason}" for r in rules]))
        care: Iterable[str] = ()
    else:
        care = frame.cautions
    general = [c.show(m) for c in cautions(answer.piece, answer.reckoning, answer.plan)]
    more.append(_list("Take care", dict.fromkeys((*care, *general))))
    return [b for b in blocks if b], [b for b in more if b]


def _in_fire(answer: Answer, heat: Heat) -> float:
    """Seconds that it lies in the fire before this heat."""
    hot = [seconds for seconds, item in zip(answer.plan.times.fire, answer.plan.packed, strict=True) if not item.cold]
    return hot[heat.number - 1]


def frame_heading(answer: Answer, frame: Frame) -> str:
    """`Heat 3 of 8`, or what a cold step or an errand is called."""
    title = frame_title(frame)
    return f"{title} of {answer.plan.count}" if isinstance(frame, Heat) and not frame.cold else title


def _labelled(fact: str) -> str:
    """`Hold: end B…` with its first word strong, so that the eye finds it."""
    head, colon, rest = fact.partition(": ")
    return f"<b>{marked_up(head)}</b>&nbsp; {marked_up(rest)}" if colon and len(head) < 12 else marked_up(fact)


_STRENGTH = {"must": "Must", "better": "Better", "either": "Your school"}


def _list(title: str, items: Iterable[str], *, ordered: bool = False) -> str:
    rows = "".join(f"<li style='margin-bottom:4px'>{marked_up(item)}</li>" for item in items)
    if not rows:
        return ""
    kind, head = ("ol" if ordered else "ul"), (f"<p style='margin:8px 0 2px 0'><b>{title}</b></p>" if title else "")
    return f"{head}<{kind} style='margin:2px 0 2px -18px'>{rows}</{kind}>"
