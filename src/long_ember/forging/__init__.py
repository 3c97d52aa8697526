"""At the anvil: which iron is in hand, its clocks, what a size that was measured means for the rest."""

from long_ember.forging.clocks import Clock, clock_of, fire_seconds
from long_ember.forging.logged import forged_entry
from long_ember.forging.sizing import Sizing, Verdict, sizings, verdict
from long_ember.forging.steps import another_heat, begin_forging, forward, give_up, go_back, put_aside, renewed, take_up

__all__ = [
    "Clock", "Sizing", "Verdict", "another_heat", "begin_forging", "clock_of", "fire_seconds", "forged_entry", "forward", "give_up", "go_back",
    "put_aside", "renewed", "sizings", "take_up", "verdict",
]  # fmt: skip
