"""Instruments over a serial line: what they say, one small driver, and stand-ins that run over a pseudo-terminal."""

from typing import TYPE_CHECKING

from long_ember.instruments.driver import LineDriver, Port, opened_port
from long_ember.instruments.protocol import INSTRUMENTS, Heard, Noise, spoken_line, understood
from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.instruments.stand_in import StandIn, run_stand_in
else:
    __getattr__ = late(__name__, {"stand_in": ("StandIn", "run_stand_in")})

__all__ = [
    "INSTRUMENTS", "Heard", "LineDriver", "Noise", "Port", "StandIn", "opened_port", "run_stand_in", "spoken_line", "understood",
]  # fmt: skip
