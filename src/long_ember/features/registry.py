"""The one list of feature kinds. A new kind is one module and one line here."""

from __future__ import annotations

from long_ember.features.base import Feature
from long_ember.features.bend import Bend, Hook
from long_ember.features.eye import Eye
from long_ember.features.hole import Hole
from long_ember.features.run import Run, SectionChange
from long_ember.features.scroll import Curl, Scroll
from long_ember.features.taper import Taper
from long_ember.features.twist import Twist
from long_ember.features.upset import Upset

__all__ = ["KINDS"]

KINDS: dict[str, type[Feature]] = {
    cls.kind: cls
    for cls in (
        Run,
        Taper,
        SectionChange,
        Upset,
        Bend,
        Hook,
        Curl,
        Scroll,
        Eye,
        Twist,
        Hole,
    )
}
