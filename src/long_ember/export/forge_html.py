"""The heats as one page for a phone or an old tablet beside the anvil: no scripts, no other files, light or dark by the device; and it prints."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from html import escape

import numpy as np

from long_ember.arrays import Array
from long_ember.document import Answer
from long_ember.export.heat_words import frame_heading, frame_lines, heat_facts, plan_words
from long_ember.geometry import Part, figure
from long_ember.heats import Frame, Heat, Moment, StagePart, cautions, gauges, moment, staged
from long_ember.physics import glow
from long_ember.units import Measure

__all__ = ["heats_html"]

_WIDE, _TALL, _RIM = 1000.0, 300.0, 20.0  # of a picture
_SHARE = 0.999  # of a heat's work, at which it is drawn: what it should look like when it is over
# Written on each shape, not only in the style: some renderers that print do not look there, and black steel hides the fire.
_STEEL, _EDGE = "#c3c6c5", "#3d4346"
_STYLE = """
:root{color-scheme:light dark;--paper:#fffcf5;--ink:#26221e;--muted:#655c52;--rim:#8a7f6e;--accent:#165d75;--fault:#9a1b34}
@media screen and (prefers-color-scheme:dark){:root{--paper:#1b1917;--ink:#f1eade;--muted:#b5aa9b;--rim:#857b6d;--accent:#83c9e0;--fault:#ff9aa8}}
*{box-sizing:border-box}body{margin:0 auto;max-width:60rem;padding:1rem;background:var(--paper);color:var(--ink);font:1.25rem/1.4 system-ui,sans-serif}
h1{font-size:2rem;margin:.3rem 0}h2{font-size:1.6rem;margin:0;color:var(--accent)}section{border-top:2px solid var(--rim);padding:1rem 0 1.4rem;break-inside:avoid}
.do{font-size:1.9rem;font-weight:700;line-height:1.2;margin:.5rem 0}.sizes{display:flex;flex-wrap:wrap;gap:.4rem 2rem;margin:.6rem 0}
.sizes b{display:block;font-size:2.2rem;line-height:1.1}.sizes span{color:var(--muted)}.muted{color:var(--muted)}ul{margin:.3rem 0;padding-left:1.4rem}
svg{width:100%;height:auto;max-height:40vh}.steel,.hot{stroke-width:2;vector-effect:non-scaling-stroke}
@media screen and (prefers-color-scheme:dark){.steel{fill:#4b5356}.steel,.hot{stroke:#d3d8d8}}
label{display:flex;gap:.8rem;align-items:center}input{width:2.2rem;height:2.2rem;flex:none;accent-color:var(--accent)}
section:has(input:checked){opacity:.45}.care{color:var(--fault)}
@media print{body{font-size:11pt;max-width:none}.do{font-size:14pt}.sizes b{font-size:15pt}svg{max-height:4cm}section:has(input:checked){opacity:1}}
"""


def heats_html(answer: Answer, m: Measure, kit: tuple[str, ...]) -> str:
    """The page.

    Args:
        answer: of the piece.
        m: how numbers are shown.
        kit: keys of what the shop has.
    """
    r, plan = answer.reckoning, answer.plan
    parts = [
        "<!DOCTYPE html><html lang='en'><head><meta charset='utf-8'><meta name='viewport' content='width=device-width,initial-scale=1'>",
        f"<title>{escape(answer.piece.name)}: heats</title><style>{_STYLE}</style></head><body>",
        f"<h1>{escape(answer.piece.name)}</h1>",
        f"<p>{escape(answer.piece.bar.label(m))}, {escape(answer.piece.steel.title.lower())}. {escape(r.cut_line().show(m))}.</p>",
        f"<p class='muted'>{escape(plan_words(answer, m))}</p>" if plan.packed else "",
    ]
    parts.extend(_section(answer, i, frame, m, kit) for i, frame in enumerate(plan.frames))
    care = "".join(f"<li>{escape(line.show(m))}</li>" for line in cautions(answer.piece, r, plan))
    parts.append(f"<section><h2>Take care</h2><ul class='care'>{care}</ul></section></body></html>")
    return "\n".join(part for part in parts if part) + "\n"


def _section(answer: Answer, index: int, frame: Frame, m: Measure, kit: tuple[str, ...]) -> str:
    """One heat, cold step or errand, with a box to tick."""
    lines = "".join(f"<p class='do'>{escape(line)}</p>" for line in frame_lines(frame, m))
    facts = "".join(f"<li>{escape(fact)}</li>" for fact in heat_facts(answer, frame, m, kit))
    sizes, rest = "", ""
    for gauge in gauges(frame, answer.reckoning):
        said = gauge.line.show(m)
        if gauge.cold:
            sizes += f"<div><b>{escape(' × '.join(m.length(x) for x in gauge.cold))}</b><span>{escape(said.partition(':')[0])}</span></div>"
        else:
            rest += f"<li>{escape(said)}</li>"
    head = f"<label><input type='checkbox' aria-label='done'><h2>{escape(frame_heading(answer, frame))}</h2></label>"
    checks = f"<div class='sizes'>{sizes}</div>" if sizes else ""
    return f"<section>{head}{lines}{_picture(answer, index, frame)}{checks}<ul>{facts}{rest}</ul></section>"


def _picture(answer: Answer, index: int, frame: Frame) -> str:
    """The piece when the step is over, its hot zone in the colour that it left the fire with."""
    if not isinstance(frame, Heat):
        return ""
    begun, over = moment(answer.plan, index), moment(answer.plan, index + _SHARE)
    now = staged(answer.reckoning, over.progress)
    shown = figure([(p.id, p.shape) for p in now])
    x0, y0, x1, y1 = shown.bounds
    scale = min((_WIDE - 2 * _RIM) / max(x1 - x0, 1e-6), (_TALL - 2 * _RIM) / max(y1 - y0, 1e-6))
    high = (y1 - y0) * scale + 2 * _RIM

    def points(outline: Array) -> str:
        return " ".join(f"{_RIM + (x - x0) * scale:.1f},{_RIM + (y1 - y) * scale:.1f}" for x, y in outline)

    drawn = [
        f"<polygon class='steel' fill='{_STEEL}' stroke='{_EDGE}' points='{points(np.vstack((p.left, p.right[::-1])))}'/>"
        for p in shown.parts
    ]
    drawn += _glowing(begun, shown.parts, now, points) if not frame.cold else []
    return f"<svg viewBox='0 0 {_WIDE:.0f} {high:.0f}' role='img' aria-label='the piece after this step'>{''.join(drawn)}</svg>"


def _glowing(begun: Moment, parts: Sequence[Part], now: Sequence[StagePart], points: Callable[[Array], str]) -> list[str]:
    red, green, blue = glow(begun.celsius)
    found = []
    for zone, part in zip(now, parts, strict=True):
        low, high = max(zone.start, begun.zone[0]), min(zone.end, begun.zone[1])
        if high > low:
            share = part.shape.length / max(zone.end - zone.start, 1e-9)
            outline = part.slice((low - zone.start) * share, (high - zone.start) * share)
            found.append(f"<polygon class='hot' fill='rgb({red},{green},{blue})' stroke='{_EDGE}' points='{points(outline)}'/>")
    return found
