"""Heat, flow stress and work, for numbers of heats that are honest about their doubt."""

from long_ember.physics.colour import BANDS, TEMPERS, Band, band, expansion, temper
from long_ember.physics.cooling_tables import ANVIL, STILL_AIR, Cooling, HeatSink, at_anvil, cooling, end_losses, lying
from long_ember.physics.flow import flow_stress
from long_ember.physics.heating_up import FIRES, Fire, heating, scale_loss, soak
from long_ember.physics.work import (
    CARRY,
    RAM,
    SLEDGE,
    Hammer,
    Load,
    Slice,
    draw_factor,
    shares,
    strain,
    twist_force,
    upset_factor,
    window,
    windows,
)

__all__ = [
    "ANVIL",
    "BANDS",
    "CARRY",
    "FIRES",
    "RAM",
    "SLEDGE",
    "STILL_AIR",
    "TEMPERS",
    "Band",
    "Cooling",
    "Fire",
    "Hammer",
    "HeatSink",
    "Load",
    "Slice",
    "at_anvil",
    "band",
    "cooling",
    "draw_factor",
    "end_losses",
    "expansion",
    "flow_stress",
    "heating",
    "lying",
    "scale_loss",
    "shares",
    "soak",
    "strain",
    "temper",
    "twist_force",
    "upset_factor",
    "window",
    "windows",
]  # fmt: skip
