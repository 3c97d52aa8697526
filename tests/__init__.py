"""Tests. Hypothesis runs a fast profile, the same examples each time, unless EMBER_THOROUGH is set: then many, and always others."""

import os

from hypothesis import HealthCheck, settings

settings.register_profile("fast", max_examples=40, deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow])
settings.register_profile("thorough", max_examples=600, deadline=None, suppress_health_check=[HealthCheck.too_slow])
settings.load_profile("thorough" if os.environ.get("EMBER_THOROUGH") else "fast")
