"""Heat, flow stress and work, for numbers of heats that are honest about their doubt."""

from long_ember.physics.colour import BANDS, Band, band, expansion
from long_ember.physics.cooling import ANVIL, STILL_AIR, Contact, Cooling, cooling, end_loss
from long_ember.physics.flow import flow_stress
from long_ember.physics.work import CARRY, Hammer, Slice, draw_factor, heats_of_work, upset_factor, window

__all__ = [
    "ANVIL", "BANDS", "CARRY", "STILL_AIR", "Band", "Contact", "Cooling", "Hammer", "Slice", "band", "cooling", "draw_factor",
    "end_loss", "expansion", "flow_stress", "heats_of_work", "upset_factor", "window",
]  # fmt: skip
