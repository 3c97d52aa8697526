"""Cautions that go with a plan; shown on the Heats screen and never left off paper."""

from __future__ import annotations

from long_ember.features import Piece
from long_ember.heats.sequencing import ForgingPlan
from long_ember.stock import Reckoning
from long_ember.units import Line, Quantity, say

__all__ = ["cautions"]

_ALWAYS = (
    "Eyes, ears, and a glove on the punch hand. Steel that has gone black still burns.",
    "Vent the fire: it makes carbon monoxide. Zinc, cadmium, chrome, paint and lead fume poison: never heat them.",
    "Anything that carries, lifts, hangs overhead or guards people: these figures compare, they certify nothing."
    " Follow local codes and ask a licensed engineer.",
)
_BY_VERB = {
    "drill": "Clamp drill work; keep sleeves and gloves away from the chuck.",
    "twist": "A wrench that slips swings: stand out of its circle, both grips tight.",
    "weld": "Flux spatters, fumes and dazzles: shade against glare, air, sleeves down.",
    "close": "Flux spatters, fumes and dazzles: shade against glare, air, sleeves down.",
    "cut": "A hot end that is cut off flies and burns: nobody in its line.",
    "crop": "A hot end that is cut off flies and burns: nobody in its line.",
    "thread": "Threads cut skin: oil, brush, no fingers in the chips.",
    "upset": "Dress mushroomed heads before striking them.",
}
_BY_STRIKER = {
    "ram": "The power hammer takes fingers and throws what lies askew: guard on, tongs tight, nobody beside the dies.",
    "striker": "Striker and smith agree on the signs; nobody else within the sledge's reach.",
}


def cautions(piece: Piece, reckoning: Reckoning, plan: ForgingPlan) -> tuple[Line, ...]:
    """Every caution that applies, without repeats, the general ones first."""
    texts = [say(t) for t in _ALWAYS]
    if piece.steel.modelled and plan.count:
        blue = (Quantity(200.0, "temperature"), Quantity(400.0, "temperature"))
        texts.append(say("Steel is brittle between {} and {}, where it goes blue: never strike or bend it there.", *blue))
    verbs = {w.step.operation.verb for h in plan.heats for w in h.work if not (h.cold and w.step.operation.verb in ("cut", "weld"))}
    texts.extend(say(t) for verb, t in _BY_VERB.items() if verb in verbs)
    texts.extend(say(t) for w in dict.fromkeys(w.step.method.strikes for h in plan.heats for w in h.work) if (t := _BY_STRIKER.get(w)))
    texts.extend(say(t) for e in plan.errands for t in e.cautions)
    texts.extend(c.line for c in plan.checks if c.caution and piece.steel.hardening == "unknown")
    texts.extend(c.line for _z, c in reckoning.checks() if c.caution and "rating" not in c.line.text)
    return tuple(dict.fromkeys(texts))
